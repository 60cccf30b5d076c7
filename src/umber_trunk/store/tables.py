"""Wire list and cut list as rows for CSV and XLSX."""

from __future__ import annotations

from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.cutlist import cut_list, totals
from umber_trunk.core.sizing.margins import Figures
from umber_trunk.store.sheets import Cell

Rows = list[list[Cell]]


def wire_rows(design: Design, found: Figures) -> Rows:
    """The wire list; reading it back gives the same wires."""
    index = index_of(design)
    rows: Rows = [
        [
            "wire",
            "name",
            "circuit",
            "from",
            "from pin",
            "to",
            "to pin",
            "size",
            "colour",
            "stripe",
            "length (m)",
            "amps",
        ]
    ]
    for figure in found.wires.values():
        wire = figure.wire
        rows.append([
            wire.id, wire.name, wire.circuit, index.ends[wire.start.end].name, wire.start.cavity,
            index.ends[wire.finish.end].name, wire.finish.cavity, figure.size, wire.colour, wire.stripe,
            round(figure.length_m, 4), round(figure.amps, 3),
        ])  # fmt: skip
    return rows


def cut_rows(design: Design, found: Figures) -> Rows:
    """The cut list, largest size first."""
    rows: Rows = [
        [
            "wire",
            "circuit",
            "size",
            "made of",
            "colour",
            "from",
            "to",
            "finished (m)",
            "cut (m)",
            "pieces",
            "note",
        ]
    ]
    for row in cut_list(design, found):
        note = "straight run of the listed length" if row.provisional else ""
        rows.append([
            row.wire.id, row.wire.circuit, row.size, row.spec, row.colour, row.start, row.finish,
            round(row.finished_m, 3), round(row.cut_m, 3), row.count, note,
        ])  # fmt: skip
    return rows


def total_rows(design: Design, found: Figures) -> Rows:
    """Metres to buy by size, make and colour."""
    rows: Rows = [["size", "made of", "colour", "pieces", "length (m)", "copper (kg)", "cost"]]
    for one in totals(design, found):
        rows.append([
            one.size, one.spec, one.colour, one.pieces, round(one.metres, 3), round(one.copper_kg, 3), round(one.cost, 2)
        ])  # fmt: skip
    return rows
