"""What stands on a board drawing, as plain pieces on named layers: SVG, DXF, paper and screen draw the same ones.

All in mm from the board's lower left corner, y up.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from umber_trunk.core.board.fold import Folded, fold
from umber_trunk.core.board.labels import Box, Labels
from umber_trunk.core.board.rays import Spot
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.ends.faces import faces_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.results import Results
from umber_trunk.core.units import show_length

FORK_MM, POST_MM, CLIP_MM, REEL_MM = 7.0, 4.0, 3.0, 5.0
MOST_MM = 200_000.0
"""The longest side of a board that is drawn."""
TEXT_MM = 4.0
WIDE = 0.62
"""Width of a letter over its height, about."""
OVERLONG_FOLDS = 8
"""A limb folded more often is wound on a reel instead of being pegged out."""
MOST_POSTS = 300
"""Folds of one limb beyond which nobody would set its posts: it gets its reel alone."""
LAYERS = ("board", "limbs", "ends", "fixtures", "labels", "dimensions", "tables")
BAR_MM, PEG_ROWS = 100.0, 32


@dataclass(frozen=True)
class Line:
    """A line of a width over points; `name` is the segment or end it stands for."""

    layer: str
    spots: tuple[Spot, ...]
    wide_mm: float = 0.25
    name: str = ""
    closed: bool = False


@dataclass(frozen=True)
class Ring:
    """A circle."""

    layer: str
    at: Spot
    radius_mm: float
    name: str = ""


@dataclass(frozen=True)
class Words:
    """Text with its lower left corner at a place."""

    layer: str
    at: Spot
    text: str
    tall_mm: float = TEXT_MM


Shape = Line | Ring | Words


@dataclass(frozen=True)
class Peg:
    """A place to mark with a tape: what goes there, from the board's lower left corner, and how far along the trunk and the
    limbs from the zero."""

    what: str
    name: str
    x_mm: float
    y_mm: float
    along_mm: float | None


@dataclass(frozen=True)
class Drawing:
    """A whole board: its size, its shapes in order, the table of pegs, what is told beside it."""

    width_mm: float
    height_mm: float
    shapes: tuple[Shape, ...]
    pegs: tuple[Peg, ...]
    folded: Folded
    title: str
    notes: tuple[str, ...]


def folded(results: Results) -> Folded:
    """The project's board; for `Results.once`."""
    return fold(results.design, wide_mm=widths(results), shelf=results.shelf)


def widths(results: Results) -> dict[str, float]:
    """How thick each limb is, in mm, with what covers it; to a hundredth, so that every machine draws the same board."""
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
            f"At true scale this harness takes {laid.size[0] / 1000:.0f} × {laid.size[1] / 1000:.0f} m, and no board over {MOST_MM / 1000:.0f} m is drawn. The longest: {told}. Correct their lengths, or draw a part of it."
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

    def drawn(self) -> Drawing:
        width, height = self.laid.size
        corners = ((0.0, 0.0), (width, 0.0), (width, height), (0.0, height))
        self.shapes.append(Line("board", corners, 0.5, "board", True))
        self._bar()
        along = self._along()
        for segment, line in self.laid.lines.items():
            wide = max(self.limbs[segment].outside_mm if segment in self.limbs else 1.0, 1.0)
            self.shapes.append(Line("limbs", tuple(line), wide, segment))
        self._fixtures(along)
        self._ends()
        self._labels(along)
        self._tables()
        return Drawing(width, height, tuple(self.shapes), tuple(self.pegs), self.laid, f"{self.design.project.name}: board", tuple(self._notes()))  # fmt: skip

    def _bar(self) -> None:
        """A bar to check a printer with, and where zero is."""
        y = 4.0
        self.shapes.append(Line("board", ((5.0, y), (5.0 + BAR_MM, y)), 0.5, "bar"))
        for x in (5.0, 5.0 + BAR_MM):
            self.shapes.append(Line("board", ((x, y - 1.5), (x, y + 1.5)), 0.5))
        self.shapes.append(
            Words("board", (5.0 + BAR_MM + 3, y - 1.5), "100 mm: measure this bar before trusting a print", 3.0)
        )
        self.labels.take([(0.0, 0.0, 5.0 + BAR_MM + 110, 8.0)])

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

    def _peg(self, what: str, name: str, at: Spot, along: float | None, radius: float) -> None:
        self.pegs.append(Peg(what, name, at[0], at[1], along))
        self.shapes.append(Ring("fixtures", at, radius, f"{what} {name}"))

    def _fixtures(self, along: dict[str, float]) -> None:
        """Forks at breakouts, posts where a limb turns, clips along it, reels for what is overlong."""
        for point, at in self.laid.spots.items():
            limbs = len([1 for segment, _ in self.index.neighbours[point] if segment in self.laid.lines])
            if limbs > 2:
                self._peg("fork", self.index.point_name(point), at, along.get(point), FORK_MM)
        turns: dict[str, int] = {}
        for segment, _ in self.laid.folds:
            turns[segment] = turns.get(segment, 0) + 1
        for segment, line in self.laid.lines.items():
            if turns.get(segment, 0) > OVERLONG_FOLDS:
                middle = line[len(line) // 2]
                self._peg(
                    "reel",
                    f"{segment}: {show_length(self.index.segments[segment].measure.length_m)}",
                    middle,
                    None,
                    REEL_MM,
                )
                if turns[segment] > MOST_POSTS:
                    continue
            for number, spot in enumerate(line[1:-1], 1):
                if math.dist(line[number - 1], spot) > 1e-6:
                    self._peg("post", f"{segment}.{number}", spot, None, POST_MM)
            walked, next_clip = 0.0, self.laid.board.clip_mm
            whole = sum(math.dist(a, b) for a, b in pairwise(line))
            for a, b in pairwise(line):
                step = math.dist(a, b)
                while step > 0 and next_clip < walked + step:
                    share = (next_clip - walked) / step
                    if 40.0 < next_clip < whole - 40.0:
                        spot = (a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1]))
                        self._peg("clip", f"{segment} at {next_clip:.0f}", spot, None, CLIP_MM)
                    next_clip += self.laid.board.clip_mm
                walked += step

    def _ends(self) -> None:
        """Outlines at tips, in the direction their limb ends in."""
        for point, tip in self.laid.tips.items():
            at, way = self.laid.spots.get(point), self.laid.ways.get(point, (1.0, 0.0))
            if at is None:
                continue
            names = ", ".join(end.id for end in self.index.ends_at.get(point, ()))
            self.pegs.append(Peg("end", self.index.point_name(point), at[0], at[1], None))
            if len(self.index.neighbours[point]) > 1:
                self.shapes.append(Ring("ends", at, min(tip.wide_mm, 24.0) / 2, names))
                continue
            across, half = (-way[1], way[0]), tip.wide_mm / 2
            corners = tuple(
                (at[0] + way[0] * far + across[0] * off, at[1] + way[1] * far + across[1] * off)
                for far, off in ((0.0, -half), (tip.deep_mm, -half), (tip.deep_mm, half), (0.0, half))
            )
            self.shapes.append(Line("ends", corners, 0.4, names, True))

    def _labels(self, along: dict[str, float]) -> None:
        """Names of ends, then lengths of segments, then running dimensions, each where nothing lies yet; what has no place is in
        the tables."""
        for segment, line in self.laid.lines.items():
            half = max(self.limbs[segment].outside_mm / 2 if segment in self.limbs else 0.0, 2.0) + 1.0
            self.labels.take_line(line, half, 12.0)
        self.labels.take(outlines(self.shapes))
        for point in self.laid.tips:
            if point in self.laid.spots:
                at, tip, way = self.laid.spots[point], self.laid.tips[point], self.laid.ways.get(point, (1.0, 0.0))
                middle = (at[0] + way[0] * tip.deep_mm / 2, at[1] + way[1] * tip.deep_mm / 2)
                said = f"{self.index.point_name(point)}"
                self._placed("labels", middle, said, TEXT_MM, max(tip.wide_mm, tip.deep_mm) / 2 + 4)
        for segment, line in self.laid.lines.items():
            long = self.index.segments[segment].measure.length_m
            a, b = max(pairwise(line), key=lambda piece: math.dist(*piece))
            self._placed("labels", ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), f"{segment}  {1e3 * long:.0f}", 3.2, 5.0)
        for point, far in along.items():
            if point in self.laid.spots and len(self.index.neighbours[point]) > 2:
                self._placed("dimensions", self.laid.spots[point], f"{far:.0f}", 3.2, 9.0)

    def _placed(self, layer: str, at: Spot, text: str, tall: float, off: float) -> None:
        """Text beside a place, where there is room for it on the board."""
        spot = self.labels.put(at, WIDE * tall * len(text), tall, [off + more for more in (0, 6, 14, 26, 40)])
        if spot is not None:
            self.shapes.append(Words(layer, spot, text, tall))

    def _tables(self) -> None:
        """The pin table of each end that has a face, and every peg, above the board, so that nothing on it is covered."""
        blocks = [
            [end.name, *rows] for end in self.design.ends if end.point in self.laid.spots and (rows := _pins(self.results, end.id))
        ]  # fmt: skip
        x, y, tall, width = 0.0, self.laid.size[1] + 12.0, 0.0, self.laid.size[0]
        for lines in [*blocks, *self._peg_blocks()]:
            wide = max(WIDE * 3.0 * len(text) for text in lines) + 8
            if x + wide > width and x > 0:
                x, y, tall = 0.0, y + tall + 8, 0.0
            for number, text in enumerate(lines):
                place = (x, y + 4.2 * (len(lines) - 1 - number))
                self.shapes.append(Words("tables", place, text, 3.4 if number == 0 else 3.0))
            x, tall = x + wide, max(tall, 4.2 * len(lines))

    def _peg_blocks(self) -> list[list[str]]:
        """Every peg with its place from the board's lower left corner, for who builds the board with a tape, clips last."""
        rows = [
            f"{peg.what}  {peg.name}   x {peg.x_mm:.0f}  y {peg.y_mm:.0f}" + (f"  {peg.along_mm:.0f} along" if peg.along_mm is not None else "")
            for peg in sorted(self.pegs, key=lambda peg: (peg.what == "clip", peg.what, peg.x_mm))
        ]  # fmt: skip
        heading = "Pegs, mm from the lower left corner"
        return [[heading, *rows[start : start + PEG_ROWS]] for start in range(0, len(rows), PEG_ROWS)]

    def _notes(self) -> Sequence[str]:
        laid = self.laid
        notes = []
        if not laid.fits:
            notes.append(f"It doesn’t fit {laid.board.width_mm:g} × {laid.board.height_mm:g} mm; {laid.needed[0]:g} × {laid.needed[1]:g} mm would do, as drawn.")  # fmt: skip
        if laid.gap_mm < laid.board.gap_mm - 1e-9:
            near = f"{laid.gap_mm:g} mm apart" if laid.gap_mm else "closer than that"
            notes.append(f"Limbs are {near} in places; {laid.board.gap_mm:g} mm were asked for.")
        if laid.left_out:
            notes.append(f"Not laid, since they close a loop: {', '.join(laid.left_out)}.")
        if laid.unkept:
            notes.append(f"No room at the angle wanted: {', '.join(laid.unkept)}.")
        return notes


def outlines(shapes: Iterable[Shape]) -> list[Box]:
    """What the outlines of ends take up."""
    found = []
    for shape in shapes:
        if isinstance(shape, Line) and shape.layer == "ends":
            xs, ys = [x for x, _ in shape.spots], [y for _, y in shape.spots]
            found.append((min(xs), min(ys), max(xs), max(ys)))
    return found


def _pins(results: Results, end: str) -> list[str]:
    """One line for each wire in a face's cavities."""
    try:
        found = faces_of(results.design, end, "wire", None, results.shelf)
    except InputError:
        return []
    return [
        f"{spot.label}  {' '.join(spot.wires)}  {spot.colour}{'/' + spot.stripe if spot.stripe else ''}  {spot.function}".rstrip()
        for face in found
        for spot in face.spots
        if spot.wires
    ]
