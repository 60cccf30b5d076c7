"""What to buy, with spares, less what is there."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import (
    QFileDialog,
)

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.kit.shelf_tabs import LISTS
from umber_trunk.app.widgets.desk import Desk, Panel, button, hint
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Count, Figure
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.buy.lines import Buy, Spares
from umber_trunk.core.buy.shopping import shopping, unpriced
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.kit.coils import Coil
from umber_trunk.store.files import write_whole
from umber_trunk.store.output import shopping_file
from umber_trunk.store.stock_list import read_counts


class BuyPanel(Panel):
    """What to buy, by supplier."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.units = Count()
        self.units.setRange(1, 1000)
        self.units.setPrefix(tr("units: "))
        self.units.setAccessibleName(tr("Units"))
        self.percent = Figure()
        self.percent.setRange(0, 200)
        self.percent.setValue(3)
        self.percent.setSuffix(tr(" % spare"))
        self.percent.setAccessibleName(tr("Spares"))
        self.least, self.samples = Count(), Count()
        for spin, prefix, most, value in (
            (self.least, tr("at least "), 1000, 1),
            (self.samples, tr("samples "), 20, 1),
        ):
            spin.setRange(0, most)
            spin.setValue(value)
            spin.setPrefix(tr(prefix))
        for one in (self.units, self.percent, self.least, self.samples):
            one.valueChanged.connect(lambda _: self.show_now())
        parts = button(
            "Parts that are there…", self.read_parts, tip="A table of part (its id in the catalogue) and count"
        )
        save = button("Save the list…", self.save, primary=True, tip="As CSV, XLSX or PDF")
        self.total = Label()
        self.open_prices = hint("")
        self.planner = Background(self)
        self.planner.answered.connect(self._arrived)
        self.planner.crashed.connect(desk.document.crashed)
        self.rows = desk.table("To buy", "shopping", _buy_columns(), lambda r: f"{r.what} {r.id} {r.name}")
        self.column.addLayout(Flow(self.units, self.percent, self.least, self.samples, parts, None, self.total, save))
        self.column.addWidget(self.open_prices)
        self.column.addWidget(self.rows)
        self.column.addWidget(
            hint(
                "What lies on the shelf is taken off. Crimps pulled apart at each tool’s set-up are counted in. Parts "
                "without a supplier in the catalogue stand last."
            )
        )

    def show_now(self) -> None:
        results = self.desk.document.now
        if results is None:
            return
        try:
            with self.desk.document.project.floor.shelf() as shelf:
                coils: list[Coil] = [held.now for held in shelf.coils()]
                have = shelf.parts()
        except UmberError as why:
            self._arrived(str(why))
            return
        units = self.units.value()
        rule = Spares(self.percent.value(), self.least.value(), self.samples.value())

        def work(wanted: Wanted) -> list[Buy] | str:
            try:
                return shopping(results, units, rule, coils, have, wanted)
            except UmberError as why:
                return str(why)

        self.planner.ask(work)

    def _arrived(self, found: list[Buy] | str) -> None:
        if isinstance(found, str):
            self.total.setText(found)
            self.rows.show_rows([])
            return
        self.rows.show_rows(found)
        self.total.setText(f"{sum(one.price for one in found):.2f}  ·  {sum(one.mass_kg for one in found):.2f} kg")
        self.open_prices.setText(unpriced(found).capitalize())

    def read_parts(self) -> None:
        """Takes a count of parts over."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Parts that are there"), "", LISTS)
        if name:
            try:
                counts = read_counts(Path(name))
                with self.desk.document.project.floor.shelf() as shelf:
                    shelf.put_parts(counts)
            except UmberError as why:
                self.desk.document.refused.emit(str(why))
            self.show_now()

    def save(self) -> None:
        """The list as a file."""
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Shopping list"), "to-buy.pdf", "PDF (*.pdf);;CSV (*.csv);;Workbook (*.xlsx)"
        )
        results = self.desk.document.now
        if name and results is not None:
            try:
                write_whole(
                    Path(name),
                    shopping_file(results, self.rows.rows_model.rows, self.units.value(), Path(name).suffix.lower()),
                )
            except UmberError as why:
                self.desk.document.refused.emit(str(why))


def _buy_columns() -> list[Column]:
    def amount(one: Buy, value: float) -> str:
        return "" if value == 0 else f"{value:.0f}" if one.unit == "pcs" else f"{value:.2f} m"

    return [
        Column("What", lambda r: r.what, width=110),
        Column("Name", lambda r: r.name, width=400),
        Column("Needed", lambda r: amount(r, r.needed), right=True, key=lambda r: r.needed, width=90),
        Column("Set-up", lambda r: amount(r, r.test), right=True, key=lambda r: r.test, width=70),
        Column("Spare", lambda r: amount(r, r.spare), right=True, key=lambda r: r.spare, width=80),
        Column("There", lambda r: amount(r, r.have), right=True, key=lambda r: r.have, width=80),
        Column(
            "Buy",
            lambda r: amount(r, r.buy) + (tr(" = {packs} packs", packs=r.packs) if r.packs else ""),
            right=True,
            key=lambda r: r.buy,
            width=130,
        ),
        Column(
            "Price",
            lambda r: f"{r.price:.2f}" if r.price else "open" if r.buy and not r.priced else "",
            right=True,
            key=lambda r: r.price,
            width=70,
        ),
        Column("Supplier", lambda r: r.supplier, width=120),
        Column("", lambda r: r.told, colour=lambda _: theme.TIGHT_TEXT, width=-1),
    ]
