"""Kit: what to cut and buy. The cut list, the coils it comes from, what to buy, whether a cable is what it says."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.desks.kit.buy_tab import BuyPanel
from umber_trunk.app.desks.kit.shelf_tabs import CoilsPanel
from umber_trunk.app.document import Document
from umber_trunk.app.sheets.cable import CheckPanel
from umber_trunk.app.widgets.desk import Panel, TabbedDesk, button, column, heading, hint, row, tabbed
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.conductors import area_of, show_size
from umber_trunk.core.explain.about_wires import why_cut
from umber_trunk.core.kit.cutlist import CutRow, buys, colours_of, cuts
from umber_trunk.core.units import show_mass, significant
from umber_trunk.core.why import Derivation


class KitDesk(TabbedDesk):
    """Four tabs: the cut list with its totals, coils, what to buy, the check of a cable."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.cuts = self.table("Cut list", "wires", self._cut_columns(), lambda r: r.wire.id)
        self.totals = self.table("Totals", "totals", _total_columns(), lambda r: f"{r.size}{r.spec}{r.colour}")
        self.summary = Label()
        papers = button(
            "Papers…",
            lambda: self.wants_papers.emit("cut"),
            primary=True,
            tip="All papers: what each is for, how it looks, all that a build needs in one go (Ctrl+Shift+P)",
        )
        self.empty = hint("Nothing to cut yet. Enter loads on the Needs desk, or import a wire list with Ctrl+I.")
        self.empty.hide()  # until it is known
        left = column(Flow(heading("Cut list"), self.summary, None, papers), self.empty, self.cuts)
        right = column(
            row(heading("By size"), None),
            self.totals,
            hint("Conductor mass and its price by metal. Everything else to buy is on the third tab."),
        )
        whole = QWidget()
        beside = QHBoxLayout(whole)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(left, 5)
        beside.addWidget(right, 3)
        self.coils, self.buying, self.check = CoilsPanel(self), BuyPanel(self), CheckPanel(self)
        self.panels: tuple[Panel, ...] = (self.coils, self.buying, self.check)
        pages = (
            ("Cut list", whole),
            ("Coils", self.coils),
            ("To buy", self.buying),
            ("Is this the cable it says?", self.check),
        )
        self.tabs, line, self.stack = tabbed(self, pages, None)
        self.stack.currentChanged.connect(lambda _: self.show_panel())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.addLayout(line)
        layout.addWidget(self.stack, 1)
        self.catch_up()

    @property
    def busy(self) -> bool:
        return self.coils.planner.busy or self.buying.planner.busy or self.check.solver.busy

    def close_background(self) -> None:
        self.coils.planner.drop()
        self.buying.planner.drop()
        self.check.solver.drop()

    def refresh(self) -> None:
        results = self.document.now
        if results is None or not (results.has(cuts) and results.has(buys)):
            return
        rows, sums = results.once(cuts), results.once(buys)
        self.cuts.show_rows(rows)
        self.totals.show_rows(sums)
        self.empty.setVisible(not rows)
        self.cuts.setVisible(bool(rows))
        pieces, metres = sum(t.pieces for t in sums), sum(t.metres for t in sums)
        self.show_panel()
        self.summary.setText(
            tr(
                "{pieces} pieces, {metres:.1f} m, {sums}",
                pieces=pieces,
                metres=metres,
                sums=show_mass(sum(t.copper_kg for t in sums)),
            )
        )

    def _why_cut(self, cut: CutRow) -> Derivation:
        results = self.document.results
        assert results is not None
        return why_cut(results, cut.wire.id)

    def _cut_columns(self) -> list[Column]:
        return [
            Column("Wire", lambda r: r.wire.id, width=58),
            Column(
                "Size",
                lambda r: show_size(r.size) + ("" if r.chosen or r.size == "?" else " ?"),
                right=True,
                key=lambda r: area_of(r.size),
                width=76,
            ),
            Column("Colour", lambda r: r.colour, swatch=lambda r: (r.wire.colour, r.wire.stripe), width=124),
            Column("From", lambda r: r.start, width=140),
            Column("To", lambda r: r.finish, width=160),
            Column(
                "Finished", lambda r: f"{r.finished_m:.3f} m", right=True, why=self._why_cut, key=lambda r: r.finished_m
            ),
            Column("Cut", lambda r: f"{r.cut_m:.3f} m", right=True, why=self._why_cut, key=lambda r: r.cut_m),
            Column(
                "",
                lambda r: " ".join(
                    [f"× {r.count}" if r.count > 1 else "", tr("straight run") if r.provisional else ""]
                ),
                colour=lambda r: theme.TIGHT_TEXT if r.provisional else None,
                width=-1,
            ),
        ]


def _total_columns() -> list[Column]:
    return [
        Column("Size", lambda r: show_size(r.size), right=True, key=lambda r: area_of(r.size)),
        Column("Colour", lambda r: r.colour, swatch=lambda r: colours_of(r.colour), width=124),
        Column("Pieces", lambda r: str(r.pieces), right=True, key=lambda r: r.pieces),
        Column("Metres", lambda r: f"{r.metres:.2f}", right=True, key=lambda r: r.metres),
        Column("Mass", lambda r: show_mass(r.copper_kg), right=True, key=lambda r: r.copper_kg),
        Column("Cost", lambda r: significant(r.cost), right=True, key=lambda r: r.cost),
    ]
