"""The build book as values: the traveller's steps, cautions, and the labels of every wire."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from umber_trunk.core.harness.index import index_of
from umber_trunk.core.kit.cutlist import colour_text, cuts, pin_text
from umber_trunk.core.kit.printed import TICK, PaperTable, Printed
from umber_trunk.core.kit.substitute import decided
from umber_trunk.core.kit.tables import decision_rows
from umber_trunk.core.make.operations import CAUTIONS
from umber_trunk.core.make.sequence import Order, Timed, plan_order
from umber_trunk.core.results import Results

LABEL_MM = (50.0, 9.0)
"""A label's usual width and height; one for a heat-shrink printer is as wide as half its sleeve's circumference."""


@dataclass(frozen=True)
class WireLabel:
    """One label: the wire, at which end, the two lines on it, and what its code says: wire and end, to be scanned at the bench."""

    wire: str
    end: str
    first: str
    second: str
    code: str


def labels(results: Results) -> list[WireLabel]:
    """Both ends of every wire, in the order of the cut list."""
    found = []
    for row in results.once(cuts):
        wire = row.wire
        for here, there in ((wire.start, wire.finish), (wire.finish, wire.start)):
            first = f"{wire.id}  {pin_text(results.design, here)}"
            second = f"to {pin_text(results.design, there)}" + (f"  {wire.circuit}" if wire.circuit else "")
            found.append(WireLabel(wire.id, index_of(results.design).ends[here.end].name, first, second, wire.id))
    return found


def label_rows(results: Results) -> list[list[str | int | float | None]]:
    """Labels as a table for printers of tape or heat-shrink."""
    rows: list[list[str | int | float | None]] = [["wire", "end", "line 1", "line 2", "code"]]
    return rows + [[one.wire, one.end, one.first, one.second, one.code] for one in labels(results)]


def one_unit(results: Results) -> Order:
    """The order for a single unit by the project's school; for `Results.once`."""
    return plan_order(results, 1)


def traveller(results: Results, order: Order | None = None) -> Printed:
    """Every step with a box to tick, cautions first. Wires made of something else than planned are marked, and listed with who decided."""
    order = order or results.once(one_unit)
    rows = tuple(_row(results, step) for step in order.steps)
    titles = ("Step", "Unit", "Do", "What", "Tool and setting", "Where", "Done", "By")
    steps = PaperTable(titles, (0.05, 0.05, 0.07, 0.41, 0.19, 0.12, 0.05, 0.06), (0,), rows)
    used = dict.fromkeys(c for step in order.steps for c in step.operation.cautions)
    cautions = PaperTable(("Cautions of this build",), (1.0,), (), tuple((CAUTIONS[c],) for c in used))
    tables = [cautions, steps] if used else [steps]
    decided_rows = decision_rows(results.design)
    if len(decided_rows) > 1:
        tables.insert(0, PaperTable(tuple(str(cell).capitalize() for cell in decided_rows[0]), (0.1, 0.2, 0.2, 0.2, 0.3), (), tuple(tuple(str(cell) for cell in row) for row in decided_rows[1:])))  # fmt: skip
    lot = "one unit" if len(order.units) == 1 else f"{len(order.units)} units"
    state = f"{len(order.steps)} steps for {lot}, {order.tool_changes} tool changes, {order.low_s / 3600:.1f} to {order.high_s / 3600:.1f} h"  # fmt: skip
    return Printed(f"{results.design.project.name}: traveller", state, True, tuple(tables))


def _row(results: Results, step: Timed) -> tuple[str, ...]:
    one = step.operation
    mark = decided(results.design, one.wire) if one.op != "cut" else ""
    tool = ", ".join(filter(None, (one.tool, one.setting)))
    return (
        str(step.n),
        str(step.unit) if step.unit else "all",
        one.op,
        one.text + (f" [{mark}]" if mark else ""),
        tool,
        one.place,
        TICK,
        "",
    )


@dataclass(frozen=True)
class Bag:
    """A bag of the kit for others to build: one lead, its cut length, its parts with how many, and what to do with it."""

    lead: str
    what: str
    cut_m: float
    parts: tuple[tuple[str, int], ...]
    steps: tuple[str, ...]


def bags(results: Results) -> list[Bag]:
    """A bag for each wire, or each jacketed cable, in the order of the cut list: what goes into it and its one page of instruction."""
    from umber_trunk.core.make.operations import operations

    shelf = results.shelf
    rows = {row.wire.id: row for row in results.once(cuts)}
    cable_of = {wire: rows[wire].wire.cable or "" for wire in rows}
    jacketed = {cable.id for cable in results.design.cables if cable.part}
    leads: dict[str, list[str]] = {}
    for wire in rows:
        leads.setdefault(cable_of[wire] if cable_of[wire] in jacketed else wire, []).append(wire)
    ops = [one for one in results.once(operations) if not one.sample]
    found = []
    for lead, wires in leads.items():
        mine = [one for one in ops if one.wire in {lead, *wires}]
        cut = next((one.length_m or 0.0 for one in mine if one.op == "cut"), 0.0)
        parts: dict[str, int] = {}
        for one in mine:
            if one.op in ("thread", "crimp", "solder") and shelf.named(one.part) is not None:
                parts[shelf.name(one.part)] = parts.get(shelf.name(one.part), 0) + 1
        first = rows[wires[0]]
        what = f"{first.size} {colour_text(first.wire)}" if lead == wires[0] else f"cable, {len(wires)} cores"
        found.append(Bag(lead, what, cut, tuple(parts.items()), tuple(_text(one.text) for one in mine)))
    return found


def _text(text: str) -> str:
    return text[:1].upper() + text[1:]


def kit_sheets(results: Results, made: Sequence[Bag]) -> list[Printed]:
    """One page for each bag."""
    sheets = []
    for bag in made:
        parts = PaperTable(
            ("In the bag", "n"), (0.85, 0.15), (1,), tuple((name, str(count)) for name, count in bag.parts)
        )
        steps = PaperTable(("", "Do", "Done"), (0.06, 0.86, 0.08), (0,), tuple((str(n), text, TICK) for n, text in enumerate(bag.steps, 1)))  # fmt: skip
        state = f"{bag.what.replace('mm2', 'mm²')}, cut {1e3 * bag.cut_m:.0f} mm"
        sheets.append(Printed(f"{results.design.project.name}: lead {bag.lead}", state, True, (parts, steps) if bag.parts else (steps,)))  # fmt: skip
    return sheets
