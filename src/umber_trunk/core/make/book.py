"""The labels of every wire, and bags of a kit that others build from."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.harness.index import index_of
from umber_trunk.core.kit.cutlist import colour_text, cuts, pin_text
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import Order
from umber_trunk.core.results import Results

LABEL_MM = (50.0, 9.0)
"""A label's usual width and height; one for a heat-shrink printer is as wide as half its sleeve's circumference."""


@dataclass(frozen=True)
class WireLabel:
    """One label: the wire, at which end, the two lines on it, and what its code says: wire and end, to be scanned at
    the bench."""

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


@dataclass(frozen=True)
class Bag:
    """A bag of the kit for others to build: one lead, its cut length, its parts with how many, and what to do with
    it."""

    lead: str
    what: str
    cut_m: float
    parts: tuple[tuple[str, int], ...]
    steps: tuple[str, ...]


def bags(results: Results) -> list[Bag]:
    """A bag for each wire, or each jacketed cable, in the order of the cut list: what goes into it and its one page of
    instruction."""
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
