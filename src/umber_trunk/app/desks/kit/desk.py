"""Kit: what to cut and buy. The cut list, totals of each size, and everything that goes on paper."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.paper.cut_sheet import write_pdf
from umber_trunk.app.widgets.desk import Desk, button, column, heading, hint, row
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.table import Column
from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.errors import UmberError
from umber_trunk.core.explain.wires import why_cut
from umber_trunk.core.kit.cutlist import CutRow, SizeTotal, cut_list, totals
from umber_trunk.core.units import show_mass, significant
from umber_trunk.core.why import Derivation
from umber_trunk.store.output import write_export

FILTERS = {
    "pdf": ("Cut sheet", "PDF (*.pdf)", ".pdf"), "xlsx": ("Workbook", "Workbook (*.xlsx)", ".xlsx"),
    "cuts-csv": ("Cut list", "CSV (*.csv)", "-cuts.csv"), "wires-csv": ("Wire list", "CSV (*.csv)", "-wires.csv"),
    "json": ("Design", "JSON (*.json)", ".json"),
}  # fmt: skip


class KitDesk(Desk):
    """Cut list on the left, what to buy on the right."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.cuts = self.table("Cut list", "wires", self._cut_columns(), lambda r: r.wire.id)
        self.totals = self.table("Totals", "totals", _total_columns(), lambda r: f"{r.size}{r.spec}{r.colour}")
        self.summary = Label()
        exports = [
            button(text, lambda kind=kind: self.export(kind), primary=kind == "pdf", tip=f"Writes {ending}")
            for kind, text, ending in (
                ("pdf", "Cut sheet PDF…", ".pdf"), ("xlsx", "XLSX…", ".xlsx"), ("cuts-csv", "Cuts CSV…", ".csv"),
                ("wires-csv", "Wires CSV…", ".csv"),
            )
        ]  # fmt: skip
        self.empty = hint("Nothing to cut yet. Enter loads on the Needs desk, or import a wire list with Ctrl+I.")
        left = column(row(heading("Cut list"), self.summary, None, *exports), self.empty, self.cuts)
        right = column(
            row(heading("To buy"), None),
            self.totals,
            hint("Conductor mass and its price by metal; jackets, terminals and sleeve come later."),
        )
        self.side_by_side(left, right, (770, 480))
        self.refresh()

    def refresh(self) -> None:
        analysis = self.document.analysis
        if analysis is None or not self.document.fresh:
            return
        cuts = cut_list(analysis.design, analysis.figures)
        self.cuts.show_rows(cuts)
        sums = totals(analysis.design, analysis.figures)
        self.totals.show_rows(sums)
        self.empty.setVisible(not cuts)
        self.cuts.setVisible(bool(cuts))
        pieces, metres = sum(t.pieces for t in sums), sum(t.metres for t in sums)
        self.summary.setText(f"{pieces} pieces, {metres:.1f} m, {show_mass(sum(t.copper_kg for t in sums))}")

    def export(self, kind: str) -> None:
        """Asks for a name and writes one format."""
        title, kinds, ending = FILTERS[kind]
        name = self.document.path.with_name(self.document.path.stem + ending)
        chosen, _ = QFileDialog.getSaveFileName(self, title, str(name), kinds)
        if chosen:
            self.export_to(kind, Path(chosen))

    def export_to(self, kind: str, path: Path) -> None:
        """Writes one format; says where, or why it could not."""
        analysis = self.document.analysis
        if analysis is None or not self.document.fresh:
            self.said.emit("The figures are still being worked out; try again in a moment.")
            return
        try:
            if kind == "pdf":
                write_pdf(analysis, path)
            else:
                write_export(analysis, kind, path)
        except UmberError as why:
            self.document.refused.emit(str(why))
            return
        self.said.emit(f"{path} is written.")

    def _why_cut(self, cut: CutRow) -> Derivation:
        analysis = self.document.analysis
        assert analysis is not None
        return why_cut(analysis.design, analysis.figures, analysis.figures.wires[cut.wire.id])

    def _cut_columns(self) -> list[Column]:
        return [
            Column("Wire", lambda r: r.wire.id, width=58),
            Column("Size", lambda r: show_size(r.size) + ("" if r.chosen or r.size == "?" else " ?"), right=True, key=lambda r: r.size, width=76),
            Column("Colour", lambda r: r.colour, swatch=lambda r: (r.wire.colour, r.wire.stripe), width=124),
            Column("From", lambda r: r.start, width=140),
            Column("To", lambda r: r.finish, width=160),
            Column("Finished", lambda r: f"{r.finished_m:.3f} m", right=True, why=self._why_cut, key=lambda r: r.finished_m),
            Column("Cut", lambda r: f"{r.cut_m:.3f} m", right=True, why=self._why_cut, key=lambda r: r.cut_m),
            Column("", lambda r: " ".join([f"× {r.count}" if r.count > 1 else "", "straight run" if r.provisional else ""]),
                   colour=lambda r: theme.OCHRE.darker(125) if r.provisional else None, width=-1),
        ]  # fmt: skip


def _total_columns() -> list[Column]:
    def colour(total: SizeTotal) -> tuple[str, str]:
        base, _, stripe = total.colour.partition("/")
        return base, stripe

    return [
        Column("Size", lambda r: show_size(r.size), right=True, key=lambda r: r.size),
        Column("Colour", lambda r: r.colour, swatch=colour, width=124),
        Column("Pieces", lambda r: str(r.pieces), right=True, key=lambda r: r.pieces),
        Column("Metres", lambda r: f"{r.metres:.2f}", right=True, key=lambda r: r.metres),
        Column("Mass", lambda r: show_mass(r.copper_kg), right=True, key=lambda r: r.copper_kg),
        Column("Cost", lambda r: significant(r.cost), right=True, key=lambda r: r.cost),
    ]
