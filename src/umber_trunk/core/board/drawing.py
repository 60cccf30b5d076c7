"""What stands on a board drawing, as plain pieces on named layers: SVG, DXF, paper and screen draw the same ones.

All in mm from the board's lower left corner, y up.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from umber_trunk.core.board.asked import Card
from umber_trunk.core.board.cards import Block, card_blocks, table_block
from umber_trunk.core.board.fold import Folded, fold
from umber_trunk.core.board.grid import Grid, boxes_of
from umber_trunk.core.board.labels import Labels
from umber_trunk.core.board.lying import tip_outline
from umber_trunk.core.covers.dress import CoverPlan, dressed
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import InputError, Wanted, always
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Fitting
from umber_trunk.core.harness.way import Board, CoverKind
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.results import Results, revision_told
from umber_trunk.core.strokes import Box, Line, Ring, Shape, Spot, Words, frame, moved, wide_of
from umber_trunk.core.text import digest_of
from umber_trunk.core.units import show_length

FORK_MM, POST_MM, CLIP_MM = 7.0, 4.0, 3.0
MOST_MM = 200_000.0
"""The longest side of a board that is drawn."""
TEXT_MM = 4.0
MOST_POSTS = 300
"""Folds of one limb beyond which nobody would set its posts."""
LAYERS = ("board", "limbs", "coverings", "ends", "faces", "fixtures", "labels", "dimensions", "tables", "moved")
BAR_MM, PEG_ROWS, ROW_GAP_MM = 100.0, 32, 6.0
FLAG_MM, FLAG_FROM_END_MM = 6.0, 45.0
"""The mark for where a wire's label goes, and how far from its end."""
MARKS: dict[CoverKind, tuple[float, tuple[tuple[float, float], ...]]] = {
    CoverKind.SLEEVE: (9.0, ((-1, 1), (1, -1))), CoverKind.TUBE: (5.0, ((0, 0),)), CoverKind.TAPE: (8.0, ((-1, 1),)), CoverKind.SHRINK: (3.0, ((0, 0),)),
}  # fmt: skip
"""Kind of covering → (a mark every so many mm, its strokes: how far each leans at its two ends, in half marks)."""


@dataclass(frozen=True)
class Peg:
    """A place to mark with a tape: what goes there, from the board's lower left corner, and how far along the trunk and
    the limbs from the zero."""

    what: str
    name: str
    x_mm: float
    y_mm: float
    along_mm: float | None
    more: str = ""


@dataclass(frozen=True)
class Drawing:
    """A whole board: its size, its shapes in order, the table of pegs, what is told beside it; `stamp` says which
    harness it is of."""

    width_mm: float
    height_mm: float
    shapes: tuple[Shape, ...]
    pegs: tuple[Peg, ...]
    folded: Folded
    title: str
    notes: tuple[str, ...]
    stamp: str = ""


def stamp(results: Results) -> str:
    """Revision and digest of a design: what makes a board, a paper and a build of the same drawing; for
    `Results.once`."""
    told = f"design {digest_of(results.design.model_dump_json())[:12]}"
    number = results.once(revision_told)
    return f"{number} · {told}" if number else told


def folded(results: Results) -> Folded:
    """The project's board; for `Results.once`."""
    return laid_out(results)


def laid_out(results: Results, board: Board | None = None, wanted: Wanted = always) -> Folded:
    """A board of a size, the project's unless said, with a card beside each end."""
    cards = {
        end: Card(point, block.wide_mm, block.tall_mm) for end, (point, block) in results.once(card_blocks).items()
    }
    return fold(results.design, board, wanted, widths(results), results.shelf, cards)


def widths(results: Results) -> dict[str, float]:
    """How thick each limb is, in mm, with what covers it; to a hundredth, so that every machine draws the same
    board."""
    return {limb.segment: round(limb.outside_mm, 2) for limb in results.once(dressed).values()}


def drawing(results: Results) -> Drawing:
    """The drawing of the project's board; for `Results.once`."""
    return draw_board(results, results.once(folded))


def draw_board(results: Results, laid: Folded) -> Drawing:
    """Everything on a board as it is laid. InputError for a board that nobody builds on."""
    if max(laid.size) > MOST_MM:
        index = index_of(results.design)
        longest = sorted(laid.lines, key=lambda one: -index.segments[one].measure.length_m)[:3]
        told = ", ".join(f"{one} {show_length(index.segments[one].measure.length_m)}" for one in longest)
        raise InputError(
            f"At true scale this harness takes {laid.size[0] / 1000:.0f} × {laid.size[1] / 1000:.0f} m, and no board "
            f"over {MOST_MM / 1000:.0f} m is drawn. The longest: {told}. Correct their lengths, or draw a part of it."
        )
    return _Drawer(results, laid).drawn()


class _Drawer:
    def __init__(self, results: Results, laid: Folded) -> None:
        self.results, self.laid = results, laid
        self.design, self.index = results.design, index_of(results.design)
        self.shapes: list[Shape] = []
        self.pegs: list[Peg] = []
        width, height = laid.size
        self.labels = Labels((1.0, 1.0, width - 1.0, height - 1.0))
        self.limbs = results.once(dressed)
        self.thick = widths(results)

    def drawn(self) -> Drawing:
        width, height = self.laid.size
        along = self._along()
        for segment, line in self.laid.lines.items():
            self.shapes.append(Line("limbs", tuple(line), max(self.thick.get(segment, 1.0), 1.0), segment))
        self._reels()
        self._coverings()
        self._fixtures(along)
        self._ends()
        self._splices()
        self._cards()
        self._moved()
        self._labels(along)
        height = self._tables()
        corners = frame("board", (0.0, 0.0, width, height), 0.5, "board")
        notes = tuple(self._notes())
        title = f"{self.design.project.name}: board"
        return Drawing(
            width, height, (corners, *self.shapes), tuple(self.pegs), self.laid, title, notes, self.results.once(stamp)
        )

    def _along(self) -> dict[str, float]:
        """How far each point is along the limbs from the trunk's first point, the zero of the running dimensions."""
        ends = [{self.index.segments[name].a, self.index.segments[name].b} for name in self.laid.trunk[:2]]
        zero = sorted(ends[0] - ends[1]) if len(ends) > 1 else [self.index.segments[name].a for name in self.laid.trunk]
        found: dict[str, float] = {}
        for start in [*zero, *self.laid.spots]:  # a further tree has its own zero
            if start in found:
                continue
            found[start] = 0.0
            queue = [start]
            for here in queue:
                for segment, other in self.index.neighbours[here]:
                    if other not in found and segment in self.laid.lines:
                        found[other] = found[here] + 1e3 * self.index.segments[segment].measure.length_m
                        queue.append(other)
        return found

    def _at(self, segment: str, far: float) -> tuple[Spot, Spot] | None:
        """(place, direction) so far along a segment from its a-side; None within what is wound up."""
        reel, whole = self.laid.reels.get(segment), 1e3 * self.index.segments[segment].measure.length_m
        line = self.laid.lines[segment]
        if reel is not None:
            begun = self._reel_from(segment)
            if begun < far < begun + reel.long_mm:
                return None
            far = far - reel.long_mm if far >= begun + reel.long_mm else far
            whole -= reel.long_mm
        rest = min(max(far, 0.0), whole)
        for a, b in pairwise(line):
            step = math.dist(a, b)
            if step > 0 and rest <= step + 1e-6:
                way = ((b[0] - a[0]) / step, (b[1] - a[1]) / step)
                return (a[0] + way[0] * rest, a[1] + way[1] * rest), way
            rest -= step
        return None

    def _reel_from(self, segment: str) -> float:
        """How far from its a-side what is wound up begins."""
        reel, open_mm = self.laid.reels[segment], sum(math.dist(a, b) for a, b in pairwise(self.laid.lines[segment]))
        nearest = min(
            range(21), key=lambda step: math.dist(_along_line(self.laid.lines[segment], open_mm * step / 20), reel.at)
        )
        return open_mm * nearest / 20

    def _reels(self) -> None:
        """What is wound up: its turns, how many, and what lies inside them."""
        for segment, reel in self.laid.reels.items():
            thick = max(self.thick.get(segment, 1.0), 1.0)
            for turn in range(min(reel.turns, 6)):
                radius = reel.radius_mm - turn * max(thick, 2.0)
                if radius > 10.0:
                    self.shapes.append(Ring("limbs", reel.at, radius, f"reel {segment}"))
            begun = self._reel_from(segment) / 1e3
            end = begun + reel.long_mm / 1e3
            held = (
                [
                    plan.end
                    for plan in self.results.once(joins)
                    if plan.segment == segment and begun < plan.from_a_m < end
                ]
                if self._spliced
                else []
            )
            covers = [
                cover.id
                for cover in (self.limbs[segment].covers if segment in self.limbs else ())
                if cover.from_m < end and cover.to_m > begun
            ]
            inside = f"; inside: {', '.join(held + covers)}" if held or covers else ""
            rows = [f"{segment}: {reel.turns} turns", f"{show_length(begun)} to {show_length(end)}{inside}"]
            for number, text in enumerate(rows):
                tall = min(3.2, 1.6 * (reel.radius_mm - 12) / max(0.62 * len(text), 1))
                self.shapes.append(
                    Words("labels", (reel.at[0] - wide_of(text, tall) / 2, reel.at[1] + 2 - 5.0 * number), text, tall)
                )
            self.pegs.append(
                Peg("reel", f"{segment}, {reel.turns} turns of {2 * reel.radius_mm:.0f} mm", *reel.at, None)
            )
            r = reel.radius_mm + thick
            self.labels.take([(reel.at[0] - r, reel.at[1] - r, reel.at[0] + r, reel.at[1] + r)])

    @property
    def _spliced(self) -> bool:
        return any(end.join is not None for end in self.design.ends)

    def _coverings(self) -> None:
        """Each covering from where to where, in its pattern; what sits at a place as a ring."""
        for segment in self.laid.lines:
            for cover in self.limbs[segment].covers if segment in self.limbs else ():
                self._covering(segment, cover, max(self.thick.get(segment, 1.0), 1.0) / 2 + 1.2)

    def _covering(self, segment: str, cover: CoverPlan, half: float) -> None:
        if cover.kind not in MARKS:
            if (place := self._at(segment, 1e3 * cover.from_m)) is not None:
                self.shapes.append(Ring("coverings", place[0], half + 1.5, f"{cover.kind} {cover.id}"))
            return
        pitch, strokes = MARKS[cover.kind]
        low, high = 1e3 * cover.from_m, 1e3 * cover.to_m
        many = min(int((high - low) / pitch), 4000)
        for number in range(many + 1):
            place = self._at(segment, min(low + pitch * (number + 0.5), high))
            if place is None:
                continue
            (x, y), (u, v) = place
            for here, there in strokes:
                a = (x + u * here * pitch / 2 - v * half, y + v * here * pitch / 2 + u * half)
                b = (x + u * there * pitch / 2 + v * half, y + v * there * pitch / 2 - u * half)
                self.shapes.append(Line("coverings", (a, b), 0.25, f"{cover.kind} {cover.id}"))
        for far in (low, high):  # where it begins and ends
            if (place := self._at(segment, far)) is not None:
                (x, y), (u, v) = place
                self.shapes.append(
                    Line(
                        "coverings",
                        ((x - v * (half + 2), y + u * (half + 2)), (x + v * (half + 2), y - u * (half + 2))),
                        0.5,
                        f"{cover.kind} {cover.id}",
                    )
                )

    def _peg(self, what: str, name: str, at: Spot, along: float | None, radius: float, more: str = "") -> None:
        self.pegs.append(Peg(what, name, at[0], at[1], along, more))
        self.shapes.append(Ring("fixtures", at, radius, f"{what} {name}"))

    def _fixtures(self, along: dict[str, float]) -> None:
        """Forks at breakouts with the angles of what leaves there, posts where a limb turns, clips along it."""
        for point, at in self.laid.spots.items():
            limbs = [segment for segment, _ in self.index.neighbours[point] if segment in self.laid.lines]
            if len(limbs) > 2:
                self._peg(
                    "fork", self.index.point_name(point), at, along.get(point), FORK_MM, self._angles(point, limbs)
                )
        turns: dict[str, int] = {}
        for segment, _ in self.laid.corners:
            turns[segment] = turns.get(segment, 0) + 1
        counted: dict[str, int] = {}
        for segment, spot in self.laid.corners:
            counted[segment] = counted.get(segment, 0) + 1
            if turns[segment] <= MOST_POSTS:
                self._peg("post", f"{segment}.{counted[segment]}", spot, None, POST_MM)
        clip = self.laid.board.clip_mm
        for segment, line in self.laid.lines.items():
            whole = sum(math.dist(a, b) for a, b in pairwise(line))
            for number in range(1, min(int(whole / clip) + 1, 400)):
                if 40.0 < number * clip < whole - 40.0:
                    spot = _along_line(line, number * clip)
                    self.shapes.append(Ring("fixtures", spot, CLIP_MM, f"clip {segment} at {number * clip:.0f}"))
                    self.pegs.append(Peg("clip", f"{segment} at {number * clip:.0f}", *spot, None))

    def _angles(self, point: str, limbs: Sequence[str]) -> str:
        """At which angle each limb leaves a fork, against the limb that comes to it."""
        back = self.laid.ways.get(point, (1.0, 0.0))
        told = []
        for segment in limbs:
            line = self.laid.lines[segment]
            line = line if math.dist(line[0], self.laid.spots[point]) < 1e-6 else line[::-1]
            onward = next((spot for spot in line[1:] if math.dist(spot, line[0]) > 8.0), line[-1])
            way = (onward[0] - line[0][0], onward[1] - line[0][1])
            angle = math.degrees(math.atan2(way[1], way[0]) - math.atan2(back[1], back[0]))
            angle = (angle + 180.0) % 360.0 - 180.0
            if abs(abs(angle) - 180.0) > 1.0 and abs(angle) > 1.0:
                told.append(f"{segment} {angle:+.0f}°")
        return ", ".join(told)

    def _ends(self) -> None:
        """Outlines at tips, in the direction their limb ends in, and the marks of labels."""
        for point, tip in self.laid.tips.items():
            at, way = self.laid.spots.get(point), self.laid.ways.get(point, (1.0, 0.0))
            if at is None:
                continue
            names = ", ".join(end.id for end in self.index.ends_at.get(point, ()))
            self.pegs.append(Peg("end", self.index.point_name(point), at[0], at[1], None))
            if len(self.index.neighbours[point]) > 1:
                self.shapes.append(Ring("ends", at, min(tip.wide_mm, 24.0) / 2, names))
                continue
            self.shapes.append(Line("ends", tip_outline(tip, at, way), 0.4, names, True))
            clock = next(
                (
                    fit.clock_deg
                    for end in self.index.ends_at.get(point, ())
                    for fit in self._lugs(end.id)
                    if fit.clock_deg
                ),
                None,
            )
            if clock is not None:  # how its lug is turned about the wire, 0 up
                middle = (at[0] + way[0] * tip.deep_mm / 2, at[1] + way[1] * tip.deep_mm / 2)
                hand = (
                    middle[0] + 7.0 * math.sin(math.radians(clock)),
                    middle[1] + 7.0 * math.cos(math.radians(clock)),
                )
                self.shapes += [
                    Ring("ends", middle, 7.0, "clock"),
                    Line("ends", (middle, hand), 0.6, f"clock {clock:g}"),
                ]
        for point in self.laid.tips:
            for segment, _ in self.index.neighbours.get(point, ()):
                self._flag(segment, point)

    def _lugs(self, end: str) -> list[Fitting]:
        """The fittings of an end's lugs."""
        known = self.results.once(fitted)
        return [
            known.of(one)
            for one in places_of(self.design, self.results.shelf).ends
            if one.end.id == end and one.made == "lug"
        ]

    def _flag(self, segment: str, point: str) -> None:
        """Where the labels of the wires that come to an end go: a bar across the limb."""
        if segment not in self.laid.lines:
            return
        part = self.index.segments[segment]
        whole = 1e3 * part.measure.length_m
        far = min(FLAG_FROM_END_MM, whole / 2)
        place = self._at(segment, far if part.a == point else whole - far)
        if place is not None and self.index.contents.get(segment):
            (x, y), (u, v) = place
            half = max(self.thick.get(segment, 1.0), 1.0) / 2 + 2.0
            corners = tuple(
                (x + u * a - v * b, y + v * a + u * b)
                for a, b in ((-FLAG_MM / 2, -half), (FLAG_MM / 2, -half), (FLAG_MM / 2, half), (-FLAG_MM / 2, half))
            )
            self.shapes.append(
                Line("labels", corners, 0.3, f"labels at {self.index.point_name(point)}", True, fill="#fbf7f0")
            )

    def _splices(self) -> None:
        """Splices where they lie: as long as they are, a stroke on the side nothing leaves from, barrel and name beside
        it."""
        for plan in self.results.once(joins) if self._spliced else ():
            if plan.segment not in self.laid.lines or (place := self._at(plan.segment, 1e3 * plan.from_a_m)) is None:
                continue
            (x, y), (u, v) = place
            half = max(plan.joint_mm / 2, 1.5)
            corners = tuple(
                (x + u * a - v * b, y + v * a + u * b)
                for a, b in ((-plan.half_mm, -half), (plan.half_mm, -half), (plan.half_mm, half), (-plan.half_mm, half))
            )
            self.shapes.append(Line("ends", corners, 0.4, plan.end, True, fill="#dcae9c"))
            dull = -1.0 if plan.dull == "a" else 1.0
            self.shapes.append(
                Line(
                    "ends",
                    (
                        (x + u * dull * plan.half_mm - v * 4, y + v * dull * plan.half_mm + u * 4),
                        (x + u * dull * plan.half_mm + v * 4, y + v * dull * plan.half_mm - u * 4),
                    ),
                    0.8,
                    f"dull side of {plan.end}",
                )
            )
            self._placed("labels", (x, y), f"{plan.end} {self.results.shelf.name(plan.barrel)}", 2.6, 6.0)

    def _cards(self) -> None:
        """Faces and tables beside their ends, each with a thin line to its end."""
        blocks = self.results.once(card_blocks)
        for end, box in self.laid.cards.items():
            point, block = blocks[end]
            self.shapes += moved(block.shapes, box[0], box[1])
            self.labels.take([(box[0] - 1, box[1] - 1, box[2] + 1, box[3] + 1)])
            if point in self.laid.spots:
                at = self.laid.spots[point]
                near = (min(max(at[0], box[0]), box[2]), min(max(at[1], box[1]), box[3]))
                if math.dist(at, near) > 2.0:
                    self.shapes.append(Line("dimensions", (at, near), 0.18, f"to {end}"))

    def _moved(self) -> None:
        """Where something lay on the board that is screwed together, and lies elsewhere now."""
        for segment, old in self.laid.was.items():
            self.shapes.append(Line("moved", tuple(old), 0.6, f"{segment} before"))

    def _labels(self, along: dict[str, float]) -> None:
        """Names of ends that have no card, then length and wires of segments, then running dimensions and angles, each
        where nothing lies yet; what has no place is in the tables."""
        for segment, line in self.laid.lines.items():
            self.labels.take_line(line, max(self.thick.get(segment, 0.0) / 2, 2.0) + 1.0, 12.0)
        self.labels.take(outlines(self.shapes))
        for point in self.laid.tips:
            ends = self.index.ends_at.get(point, ())
            if point in self.laid.spots:
                at, tip, way = self.laid.spots[point], self.laid.tips[point], self.laid.ways.get(point, (1.0, 0.0))
                middle = (at[0] + way[0] * tip.deep_mm / 2, at[1] + way[1] * tip.deep_mm / 2)
                carded = any(end.id in self.laid.cards for end in ends)
                said = ", ".join(end.id for end in ends) if carded else self.index.point_name(point)
                self._placed(
                    "labels", middle, said, TEXT_MM if not carded else 3.2, max(tip.wide_mm, tip.deep_mm) / 2 + 3
                )
        for segment, line in self.laid.lines.items():
            long, wires = self.index.segments[segment].measure.length_m, len(self.index.contents.get(segment, ()))
            a, b = max(pairwise(line), key=lambda piece: math.dist(*piece))
            self._placed(
                "labels",
                ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2),
                f"{segment}  {1e3 * long:.0f}" + (f"  {wires} w" if wires else ""),
                3.2,
                5.0,
            )
        for peg in self.pegs:
            if peg.what == "fork":
                said = " ".join(filter(None, (f"{peg.along_mm:.0f}" if peg.along_mm is not None else "", peg.more)))
                self._placed("dimensions", (peg.x_mm, peg.y_mm), said, 2.6, 9.0)

    def _placed(self, layer: str, at: Spot, text: str, tall: float, off: float) -> None:
        """Text beside a place, where there is room for it on the board."""
        spot = self.labels.put(at, wide_of(text, tall), tall, [off + more for more in (0, 6, 14, 26, 40)])
        if spot is not None:
            self.shapes.append(Words(layer, spot, text, tall))

    def _tables(self) -> float:
        """The legend, the bar and every peg where nothing lies, what has no place there in rows above, inside of the
        board: (the height of it all)."""
        width, top = self.laid.size
        grid = Grid(width, top, max(10.0, max(width, top) / 400))
        for shape in self.shapes:
            for box in boxes_round(shape, 2.0):
                grid.take(box)
        x, y, row = ROW_GAP_MM, top + ROW_GAP_MM, 0.0
        for block in [self._legend(), *(_titled(title, rows) for title, rows in self._peg_blocks())]:
            spot = _free(grid, block.wide_mm + 2 * ROW_GAP_MM, block.tall_mm + 2 * ROW_GAP_MM)
            if spot is not None:
                self.shapes += moved(block.shapes, spot[0] + ROW_GAP_MM, spot[1] + ROW_GAP_MM)
                grid.take((*spot, spot[0] + block.wide_mm + 2 * ROW_GAP_MM, spot[1] + block.tall_mm + 2 * ROW_GAP_MM))
                continue
            if x > ROW_GAP_MM and x + block.wide_mm + ROW_GAP_MM > width:
                x, y, row = ROW_GAP_MM, y + row + ROW_GAP_MM, 0.0
            self.shapes += moved(block.shapes, x, y)
            x, row = x + block.wide_mm + ROW_GAP_MM, max(row, block.tall_mm)
        return top if not row else 10.0 * math.ceil((y + row + ROW_GAP_MM) / 10 - 1e-6)

    def _legend(self) -> Block:
        """What the drawing is of, a bar to measure, what each sign means."""
        signs: list[tuple[str, list[Shape]]] = [
            ("fork, where limbs part", [Ring("fixtures", (6.0, 0.0), 3.0)]), ("post, where a limb turns", [Ring("fixtures", (6.0, 0.0), 1.8)]),
            ("clip", [Ring("fixtures", (6.0, 0.0), 1.2)]), ("where labels go", [frame("labels", (3.0, -1.5, 9.0, 1.5), 0.3)]),
        ]  # fmt: skip
        for kind in dict.fromkeys(cover.kind for limb in self.limbs.values() for cover in limb.covers):
            pitch, strokes = MARKS.get(kind, (0.0, ()))
            drawn: list[Shape] = (
                [Ring("coverings", (6.0, 0.0), 1.8)]
                if not pitch
                else [
                    Line("coverings", ((at + a * pitch / 2, 1.5), (at + b * pitch / 2, -1.5)), 0.25)
                    for at in (2.0 + pitch / 2, 2.0 + 1.5 * pitch)
                    for a, b in strokes
                ]
            )
            signs.append((str(kind), drawn))
        lines = [
            self.design.project.name,
            self.results.once(stamp),
            f"board {self.laid.size[0]:.0f} × {self.laid.size[1]:.0f} mm, all at 1:1, mm",
            *self._notes(),
        ]
        tall = 6.0 * len(signs) + 5.0 * len(lines) + 14.0
        shapes: list[Shape] = []
        y = tall - 5.0
        for number, text in enumerate(lines):
            shapes.append(Words("board", (0.0, y), text, 4.0 if number == 0 else 3.0))
            y -= 5.0
        y -= 4.0
        shapes.append(Line("board", ((0.0, y), (BAR_MM, y)), 0.5, "bar"))
        shapes += [Line("board", ((x, y - 1.5), (x, y + 1.5)), 0.5) for x in (0.0, BAR_MM)]
        shapes.append(Words("board", (BAR_MM + 3.0, y - 1.5), "100 mm: measure this bar before trusting a print", 3.0))
        for text, drawn in signs:
            y -= 6.0
            shapes += [*moved(drawn, 0.0, y + 1.2), Words("board", (24.0, y), text, 2.6)]
        wide = max(wide_of(text, 4.0) for text in [*lines, "x" * 40]) if lines else 100.0
        return Block(
            max(wide, BAR_MM + 3.0 + wide_of("100 mm: measure this bar before trusting a print", 3.0)),
            tall,
            tuple(shapes),
        )

    def _peg_blocks(self) -> list[tuple[str, list[list[str]]]]:
        """Every peg but clips with its place from the board's lower left corner, for who builds the board with a
        tape."""
        rows = [
            [
                peg.what,
                peg.name,
                f"x {peg.x_mm:.0f}",
                f"y {peg.y_mm:.0f}",
                f"{peg.along_mm:.0f} along" if peg.along_mm is not None else "",
                peg.more,
            ]
            for peg in sorted(self.pegs, key=lambda peg: (peg.what, peg.x_mm))
            if peg.what != "clip"
        ]
        heading = "Pegs, mm from the lower left corner"
        return [(heading, rows[start : start + PEG_ROWS]) for start in range(0, len(rows), PEG_ROWS)]

    def _notes(self) -> Sequence[str]:
        laid = self.laid
        notes = []
        if not laid.fits:
            notes.append(
                f"It doesn’t fit {laid.board.width_mm:g} × {laid.board.height_mm:g} mm; {laid.size[0]:g} × "
                f"{laid.size[1]:g} mm would do, as drawn."
            )
        if laid.gap_mm < laid.board.gap_mm - 1.0:
            near = f"{laid.gap_mm:g} mm apart" if laid.gap_mm else "closer than a millimetre"
            notes.append(f"Limbs are {near} in places; {laid.board.gap_mm:g} mm were asked for.")
        if laid.left_out:
            notes.append(f"Not laid, since they close a loop: {', '.join(laid.left_out)}.")
        if laid.unkept:
            notes.append(f"No room at the angle wanted: {', '.join(laid.unkept)}.")
        notes += laid.told
        return notes


def outlines(shapes: Iterable[Shape]) -> list[Box]:
    """What the outlines of ends take up."""
    found = []
    for shape in shapes:
        if isinstance(shape, Line) and shape.layer == "ends":
            xs, ys = [x for x, _ in shape.spots], [y for _, y in shape.spots]
            found.append((min(xs), min(ys), max(xs), max(ys)))
    return found


def boxes_round(shape: Shape, more: float) -> Iterator[Box]:
    """What a shape takes up, and a little more: of a line each piece, a slanted one in short parts."""
    if isinstance(shape, Words):
        (x, y), wide = shape.at, wide_of(shape.text, shape.tall_mm)
        yield x - more, y - more, x + wide + more, y + shape.tall_mm + more
    elif isinstance(shape, Ring):
        (x, y), r = shape.at, shape.radius_mm + more
        yield x - r, y - r, x + r, y + r
    else:
        spots = (*shape.spots, shape.spots[0]) if shape.closed else shape.spots
        yield from boxes_of(spots, shape.wide_mm / 2 + more, 50.0)


def _free(grid: Grid, wide: float, tall: float) -> Spot | None:
    """A place for a box where nothing lies, the lowest and then the leftmost; None where there is none."""
    step = 2 * grid.cell
    for row in range(int(max(grid.height - tall, -1.0) / step) + 1 if grid.height >= tall else 0):
        for column in range(int(max(grid.width - wide, -1.0) / step) + 1 if grid.width >= wide else 0):
            x, y = column * step, row * step
            if grid.clear((x, y, x + wide, y + tall)):
                return x, y
    return None


def _along_line(line: Sequence[Spot], far: float) -> Spot:
    """The place so far along a line."""
    for a, b in pairwise(line):
        step = math.dist(a, b)
        if step > 0 and far <= step:
            return a[0] + (b[0] - a[0]) * far / step, a[1] + (b[1] - a[1]) * far / step
        far -= step
    return line[-1]


def _titled(title: str, rows: Sequence[Sequence[str]]) -> Block:
    """A table under its title."""
    table = table_block(rows, {})
    return Block(
        max(table.wide_mm, wide_of(title, 3.0)),
        table.tall_mm + 5.0,
        (Words("tables", (0.0, table.tall_mm + 1.0), title, 3.0), *table.shapes),
    )
