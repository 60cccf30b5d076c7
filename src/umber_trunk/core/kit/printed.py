"""The cut sheet as values: what stands on the pages, before anything is drawn."""

from __future__ import annotations

import re
from dataclasses import dataclass

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.findings import Severity
from umber_trunk.core.kit.cutlist import buys, cuts
from umber_trunk.core.kit.paper_units import length_text, size_text
from umber_trunk.core.kit.tables import case_rows, caution_rows, decision_rows, fuse_rows
from umber_trunk.core.results import Results
from umber_trunk.core.stages import STAGES

NOTE = "Engineering estimates: the applicable code, class or vehicle rule and a licensed person decide. Disconnect the source first."
TICK = "☐"
"""A cell that is drawn as a box to tick."""

CUT_SHARES = (0.07, 0.12, 0.1, 0.12, 0.16, 0.16, 0.095, 0.095, 0.03, 0.05)
CUT_SHARES_WIDE = (0.06, 0.1, 0.12, 0.11, 0.14, 0.14, 0.13, 0.13, 0.025, 0.045)


@dataclass(frozen=True)
class PaperTable:
    """One table: titles, shares of the width, the columns set to the right, rows of text."""

    titles: tuple[str, ...]
    shares: tuple[float, ...]
    right: tuple[int, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Printed:
    """A sheet: its head, the state of the work and whether it is sound, tables in their order, the note on every page."""

    title: str
    state: str
    sound: bool
    tables: tuple[PaperTable, ...]
    note: str = NOTE


def tight(text: str) -> str:
    """A figure in two series that breaks only between them."""
    return re.sub(r" (?!= |\()(?<!= )", "\u00a0", text).replace("=\u00a0", "= ")


def cut_sheet(results: Results) -> Printed:
    """Cut list, what to buy, fuses, cases and cautions; faults that are open stand at the head with their desks."""
    faults = [one for one in results.findings if one.severity is Severity.FAULT]
    desks = ", ".join(stage.name for stage in STAGES if any(one.stage == stage.id for one in faults))
    state = f"{len(faults)} faults are open ({desks}): mend them before cutting" if faults else "no faults open"
    tables = [_cuts(results), _buys(results)]
    for rows, shares in (
        (decision_rows(results.design), (0.1, 0.2, 0.2, 0.2, 0.3)), (fuse_rows(results), (0.2, 0.08, 0.14, 0.1, 0.1, 0.28, 0.1)), (case_rows(results.design), (0.2, 0.1, 0.7)),
        (caution_rows(results.findings), (0.08, 0.52, 0.4)),
    ):  # fmt: skip
        if len(rows) > 1:
            shown = [tuple(show_size(str(cell)) for cell in row) for row in rows]
            tables.append(PaperTable(tuple(title.capitalize() for title in shown[0]), shares, (), tuple(shown[1:])))
    return Printed(f"{results.design.project.name}: cut sheet", state, not faults, tuple(tables))


def _cuts(results: Results) -> PaperTable:
    units = results.design.project.units
    rows = tuple(
        (r.wire.id, r.wire.circuit, tight(size_text(r.size, units)), r.colour, r.start, r.finish, tight(length_text(r.finished_m, units)),
         tight(length_text(r.cut_m, units)), str(r.count), TICK) for r in results.once(cuts)
    )  # fmt: skip
    titles = ("Wire", "Circuit", "Size", "Colour", "From", "To", "Finished", "Cut", "n", "Done")
    return PaperTable(titles, CUT_SHARES if units == "metric" else CUT_SHARES_WIDE, (2, 6, 7, 8), rows)


def _buys(results: Results) -> PaperTable:
    units = results.design.project.units
    rows = tuple(
        (tight(size_text(t.size, units)), t.spec, t.colour, str(t.pieces), tight(length_text(t.metres, units)), f"{t.copper_kg:.3f} kg", f"{t.cost:.2f}")
        for t in results.once(buys)
    )  # fmt: skip
    titles = ("To buy", "Made of", "Colour", "Pieces", "Length", "Conductor", "Cost")
    return PaperTable(titles, (0.12, 0.36, 0.16, 0.08, 0.1, 0.1, 0.08), (3, 4, 5, 6), rows)
