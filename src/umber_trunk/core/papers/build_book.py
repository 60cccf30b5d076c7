"""The build book: cautions first, then the trunk, the board in small, pin maps, strip drawings, what to do, what to
test."""

from __future__ import annotations

from umber_trunk.core.board.drawing import drawing
from umber_trunk.core.ends.strip import Strip, strip_of
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.make.operation import CAUTIONS, caution_told
from umber_trunk.core.make.timed import Order
from umber_trunk.core.papers.leads import drawn_strip
from umber_trunk.core.papers.pin_maps import pin_figure
from umber_trunk.core.papers.traveller import traveller
from umber_trunk.core.printed import Contents, Drawn, Figure, PaperTable, Part, Printed, Trunk
from umber_trunk.core.prove.testsheet import test_sheet
from umber_trunk.core.results import Results

MOST_TOLD = 4
"""Wires named in one line."""


def build_book(results: Results, order: Order | None = None) -> Printed:
    """Everything one needs to make a unit and to prove it."""
    steps, tests = traveller(results, order), test_sheet(results)
    parts: list[Part] = [Contents()]
    parts.append(PaperTable(("Cautions",), (1.0,), (), tuple((caution_told(key),) for key in CAUTIONS), "Cautions"))
    parts += [part for part in steps.tables if part.titles[0] == "Wire"]  # made of something else than planned
    parts.append(Trunk(110.0, name="The trunk"))
    parts += _board(results)
    parts.append(pin_figure(results))
    parts += _strips(results)
    parts += [part for part in steps.tables if part.name]
    parts += [
        PaperTable(one.titles, one.shares, one.right, one.rows, "Tests" if one is tests.tables[-1] else "")
        for one in tests.tables
    ]
    return Printed(
        f"{results.design.project.name}: build book",
        steps.state,
        steps.sound,
        tuple(parts),
        code=results.design.project.name,
    )


def _board(results: Results) -> list[Part]:
    """The board in small."""
    try:
        made = results.once(drawing)
    except InputError:
        return []
    told = f"{made.width_mm:.0f} × {made.height_mm:.0f} mm at 1:1, {made.stamp}"
    return [
        Figure("The board in small", (Drawn(made.width_mm, made.height_mm, made.shapes, caption=told),), 1, "The board")
    ]


def _strips(results: Results) -> list[Part]:
    """One drawing for each different way an end is made, with the wires that are made so."""
    alike: dict[tuple[object, ...], list[Strip]] = {}
    for end in places_of(results.design, results.shelf).ends:
        made = strip_of(results, end) if end.made is not None else None
        if made is not None:
            alike.setdefault((made.part, made.strip_mm, round(made.outer_mm, 2), made.crimp_height_mm), []).append(made)
    drawn = []
    for group in alike.values():
        wires = ", ".join(f"{one.wire} at {one.end} {one.cavity}" for one in group[:MOST_TOLD])
        more = f" and {len(group) - MOST_TOLD} more" if len(group) > MOST_TOLD else ""
        drawn.append(drawn_strip(group[0], wires + more))
    return [Figure("Strip drawings", tuple(drawn), 2, "Strip drawings")] if drawn else []
