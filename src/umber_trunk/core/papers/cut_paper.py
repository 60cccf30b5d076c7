"""The cut sheet: what to cut in the order it is cut, coil by coil where the shop's coils are known, and what there is
to buy."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.kit.coilcut import plan_cuts
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.kit.cutlist import CutRow, buys, cuts
from umber_trunk.core.kit.paper_units import length_text, size_text
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.kit.tables import case_rows, caution_rows, decision_rows, fuse_rows
from umber_trunk.core.make.samples import sample_pieces
from umber_trunk.core.papers.open_faults import faults_open
from umber_trunk.core.printed import TICK, PaperTable, Part, Printed, Trunk, table_of, tight
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say

CUT_SHARES = (0.07, 0.12, 0.1, 0.12, 0.16, 0.16, 0.095, 0.095, 0.03, 0.05)
"""Widths of the cut sheet's columns as shares of the page."""
CUT_SHARES_WIDE = (0.06, 0.1, 0.12, 0.11, 0.14, 0.14, 0.13, 0.13, 0.025, 0.045)
"""The same where lengths stand in feet and inches too."""


def cut_sheet(results: Results) -> Printed:
    """The cut sheet of one unit; for exports and the print preview."""
    return cut_paper(results, 1, ())


def cut_paper(results: Results, units: int, coils: Sequence[Coil]) -> Printed:
    """Cut list, what to buy, fuses, cases and cautions; faults that are open stand at the head with their desks."""
    faults = faults_open(results, "cutting")
    state = faults or say("paper.no-faults")
    if units > 1:
        state += say("paper.cut-times", units=units)
    parts: list[Part] = [Trunk(80.0)]
    parts += _by_coil(results, units, coils) if coils else [_cuts(results, units)]
    parts.append(_buys(results))
    for rows, shares in (
        (decision_rows(results.design), (0.1, 0.2, 0.2, 0.2, 0.3)),
        (fuse_rows(results), (0.2, 0.08, 0.14, 0.1, 0.1, 0.28, 0.1)),
        (case_rows(results.design), (0.2, 0.1, 0.7)),
        (caution_rows(results.findings), (0.08, 0.52, 0.4)),
    ):
        if (table := table_of([[show_size(str(cell)) for cell in row] for row in rows], shares)) is not None:
            parts.append(table)
    return Printed(f"{results.design.project.name}: cut sheet", state, not faults, tuple(parts))


def _cut(results: Results, row: CutRow, count: int) -> tuple[str, ...]:
    units = results.design.project.units
    return (
        row.wire.id,
        row.wire.circuit,
        tight(size_text(row.size, units)),
        row.colour,
        row.start,
        row.finish,
        tight(length_text(row.finished_m, units)),
        tight(length_text(row.cut_m, units)),
        str(count),
        TICK,
    )


def _cuts(results: Results, many: int) -> PaperTable:
    """All cuts, the largest size first and of each the longest: what is cut last comes out of what is left."""
    units = results.design.project.units
    rows = tuple(_cut(results, row, row.count * many) for row in results.once(cuts))
    titles = ("Wire", "Circuit", "Size", "Colour", "From", "To", "Finished", "Cut", "n", "Done")
    return PaperTable(titles, CUT_SHARES if units == "metric" else CUT_SHARES_WIDE, (2, 6, 7, 8), rows)


def _by_coil(results: Results, many: int, coils: Sequence[Coil]) -> list[Part]:
    """A table for each coil that is opened, its pieces as they come off it; what no coil gives stands last."""
    plan = plan_cuts(coils, [*pieces(results, many), *sample_pieces(results)])
    known = {coil.id: coil for coil in coils}
    where = {row.wire.id: row for row in results.once(cuts)}
    units = results.design.project.units
    parts: list[Part] = []
    for coil in plan.opened:
        rows = []
        for one in (cut for cut in plan.cuts if cut.coil == coil):
            row, sample = where.get(one.piece.wire), not one.piece.unit
            what = "sample" if sample else f"unit {one.piece.unit}"
            to = "" if row is None or sample else f"{row.start} to {row.finish}"
            rows.append(
                (
                    one.piece.wire,
                    what,
                    to,
                    tight(length_text(one.at_m, units)),
                    tight(length_text(one.piece.length_m, units)),
                    TICK,
                )
            )
        coil_of = known[coil]
        head = f"{coil}: {show_size(coil_of.size)} {coil_of.colour}".strip()
        left = f"left {length_text(plan.left_m[coil], units)}"
        parts.append(
            PaperTable(
                (head, "For", left, "From", "Cut", "Done"), (0.24, 0.1, 0.36, 0.11, 0.12, 0.07), (3, 4), tuple(rows)
            )
        )
    if plan.short:
        rows_short = tuple(
            (
                one.wire,
                f"unit {one.unit}",
                show_size(one.size),
                one.colour,
                tight(length_text(one.length_m, units)),
                plan.reasons[one.wire],
            )
            for one in plan.short
        )
        parts.append(
            PaperTable(
                ("No coil gives", "For", "Size", "Colour", "Length", "Why"),
                (0.12, 0.1, 0.14, 0.14, 0.12, 0.38),
                (4,),
                rows_short,
            )
        )
    return parts


def _buys(results: Results) -> PaperTable:
    units = results.design.project.units
    rows = tuple(
        (
            tight(size_text(t.size, units)),
            t.spec,
            t.colour,
            str(t.pieces),
            tight(length_text(t.metres, units)),
            f"{t.copper_kg:.3f} kg",
            f"{t.cost:.2f}",
        )
        for t in results.once(buys)
    )
    titles = ("To buy", "Made of", "Colour", "Pieces", "Length", "Conductor", "Cost")
    return PaperTable(titles, (0.12, 0.36, 0.16, 0.08, 0.1, 0.1, 0.08), (3, 4, 5, 6), rows)
