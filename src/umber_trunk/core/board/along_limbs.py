"""What lies along the limbs of a board: coverings in their pattern, splices, the marks for labels, what is wound up."""

from __future__ import annotations

from umber_trunk.core.board.draft import Draft, Peg
from umber_trunk.core.covers.dressed_limb import CoverPlan
from umber_trunk.core.harness.way import CoverKind
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.sentences import say
from umber_trunk.core.strokes import Line, Ring, Words, wide_of
from umber_trunk.core.units import show_length

FLAG_MM, FLAG_FROM_END_MM = 6.0, 45.0
"""The mark for where a wire's label goes, and how far from its end."""
MARKS: dict[CoverKind, tuple[float, tuple[tuple[float, float], ...]]] = {
    CoverKind.SLEEVE: (9.0, ((-1, 1), (1, -1))), CoverKind.TUBE: (5.0, ((0, 0),)), CoverKind.TAPE: (8.0, ((-1, 1),)), CoverKind.SHRINK: (3.0, ((0, 0),)),
}  # fmt: skip
"""Kind of covering → (a mark every so many mm, its strokes: how far each leans at its two ends, in half marks)."""


def reels(draft: Draft) -> None:
    """What is wound up: its turns, how many, and what lies inside them."""
    for segment, reel in draft.laid.reels.items():
        thick = max(draft.thick.get(segment, 1.0), 1.0)
        for turn in range(min(reel.turns, 6)):
            radius = reel.radius_mm - turn * max(thick, 2.0)
            if radius > 10.0:
                draft.shapes.append(Ring("limbs", reel.at, radius, f"reel {segment}"))
        begun = draft.reel_from(segment) / 1e3
        end = begun + reel.long_mm / 1e3
        held = (
            [plan.end for plan in draft.results.once(joins) if plan.segment == segment and begun < plan.from_a_m < end]
            if draft.spliced
            else []
        )
        covers = [
            cover.id
            for cover in (draft.limbs[segment].covers if segment in draft.limbs else ())
            if cover.from_m < end and cover.to_m > begun
        ]
        inside = say("board.inside", what=", ".join(held + covers)) if held or covers else ""
        rows = [
            say("board.turns", segment=segment, turns=reel.turns),
            f"{show_length(begun)} to {show_length(end)}{inside}",
        ]
        for number, text in enumerate(rows):
            tall = min(3.2, 1.6 * (reel.radius_mm - 12) / max(0.62 * len(text), 1))
            draft.shapes.append(
                Words("labels", (reel.at[0] - wide_of(text, tall) / 2, reel.at[1] + 2 - 5.0 * number), text, tall)
            )
        draft.pegs.append(
            Peg("reel", say("board.reel", segment=segment, turns=reel.turns, mm=2 * reel.radius_mm), *reel.at, None)
        )
        r = reel.radius_mm + thick
        draft.labels.take([(reel.at[0] - r, reel.at[1] - r, reel.at[0] + r, reel.at[1] + r)])


def coverings(draft: Draft) -> None:
    """Each covering from where to where, in its pattern; what sits at a place as a ring."""
    for segment in draft.laid.lines:
        for cover in draft.limbs[segment].covers if segment in draft.limbs else ():
            _covering(draft, segment, cover, max(draft.thick.get(segment, 1.0), 1.0) / 2 + 1.2)


def _covering(draft: Draft, segment: str, cover: CoverPlan, half: float) -> None:
    if cover.kind not in MARKS:
        if (place := draft.at(segment, 1e3 * cover.from_m)) is not None:
            draft.shapes.append(Ring("coverings", place[0], half + 1.5, f"{cover.kind} {cover.id}"))
        return
    pitch, strokes = MARKS[cover.kind]
    low, high = 1e3 * cover.from_m, 1e3 * cover.to_m
    many = min(int((high - low) / pitch), 4000)
    for number in range(many + 1):
        place = draft.at(segment, min(low + pitch * (number + 0.5), high))
        if place is None:
            continue
        (x, y), (u, v) = place
        for here, there in strokes:
            a = (x + u * here * pitch / 2 - v * half, y + v * here * pitch / 2 + u * half)
            b = (x + u * there * pitch / 2 + v * half, y + v * there * pitch / 2 - u * half)
            draft.shapes.append(Line("coverings", (a, b), 0.25, f"{cover.kind} {cover.id}"))
    for far in (low, high):  # where it begins and ends
        if (place := draft.at(segment, far)) is not None:
            (x, y), (u, v) = place
            draft.shapes.append(
                Line(
                    "coverings",
                    ((x - v * (half + 2), y + u * (half + 2)), (x + v * (half + 2), y - u * (half + 2))),
                    0.5,
                    f"{cover.kind} {cover.id}",
                )
            )


def label_flag(draft: Draft, segment: str, point: str) -> None:
    """Where the labels of the wires that come to an end go: a bar across the limb."""
    if segment not in draft.laid.lines:
        return
    part = draft.index.segments[segment]
    whole = 1e3 * part.measure.length_m
    far = min(FLAG_FROM_END_MM, whole / 2)
    place = draft.at(segment, far if part.a == point else whole - far)
    if place is not None and draft.index.contents.get(segment):
        (x, y), (u, v) = place
        half = max(draft.thick.get(segment, 1.0), 1.0) / 2 + 2.0
        corners = tuple(
            (x + u * a - v * b, y + v * a + u * b)
            for a, b in ((-FLAG_MM / 2, -half), (FLAG_MM / 2, -half), (FLAG_MM / 2, half), (-FLAG_MM / 2, half))
        )
        draft.shapes.append(
            Line("labels", corners, 0.3, f"labels at {draft.index.point_name(point)}", True, fill="#fbf7f0")
        )


def splices(draft: Draft) -> None:
    """Splices where they lie: as long as they are, a stroke on the side nothing leaves from, barrel and name beside
    it."""
    for plan in draft.results.once(joins) if draft.spliced else ():
        if plan.segment not in draft.laid.lines or (place := draft.at(plan.segment, 1e3 * plan.from_a_m)) is None:
            continue
        (x, y), (u, v) = place
        half = max(plan.joint_mm / 2, 1.5)
        corners = tuple(
            (x + u * a - v * b, y + v * a + u * b)
            for a, b in ((-plan.half_mm, -half), (plan.half_mm, -half), (plan.half_mm, half), (-plan.half_mm, half))
        )
        draft.shapes.append(Line("ends", corners, 0.4, plan.end, True, fill="#dcae9c"))
        dull = -1.0 if plan.dull == "a" else 1.0
        draft.shapes.append(
            Line(
                "ends",
                (
                    (x + u * dull * plan.half_mm - v * 4, y + v * dull * plan.half_mm + u * 4),
                    (x + u * dull * plan.half_mm + v * 4, y + v * dull * plan.half_mm - u * 4),
                ),
                0.8,
                say("board.dull-side", end=plan.end),
            )
        )
        draft.placed("labels", (x, y), f"{plan.end} {draft.results.shelf.name(plan.barrel)}", 2.6, 6.0)
