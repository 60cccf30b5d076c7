"""Tabs of the Kit desk: coils with what is cut from each, and what to buy."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QFileDialog, QMessageBox

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.kit.instead_sheet import InsteadSheet
from umber_trunk.app.desks.kit.shelf_view import OnShelf, ShelfView
from umber_trunk.app.widgets.asked import name_and_what
from umber_trunk.app.widgets.desk import Desk, Panel, button, hint
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Count
from umber_trunk.app.widgets.plain import Label, box, choice
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.conductors import area_of, show_size
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.kit.coilcut import CutPlan, plan_cuts
from umber_trunk.core.kit.coils import Piece
from umber_trunk.core.kit.cutlist import colours_of
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.kit.substitute import substitute
from umber_trunk.core.make.samples import sample_pieces
from umber_trunk.core.make.to_cut import short_of
from umber_trunk.store.clock import now_ms
from umber_trunk.store.files import write_whole
from umber_trunk.store.stock import Held, shelf_file
from umber_trunk.store.stock_list import gone_with, keep_before, read_stock, stock_bytes

LISTS = "Stock lists (*.csv *.xlsx *.xls *.ods)"


class CoilsPanel(Panel):
    """The shelf, and which coil each wire comes from."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.plan: CutPlan | None = None
        self._todo: tuple[Piece, ...] | None = None
        self.units = Count()
        self.units.setRange(0, 1000)
        self.units.setPrefix(tr("for more units: "))
        self.units.setSpecialValueText(tr("for what is left to cut"))
        self.units.setAccessibleName(tr("Units"))
        self.units.valueChanged.connect(lambda _: self.work_out())
        self.where = Label()
        read = button(
            "Read a stock list…",
            self.read_list,
            primary=True,
            tip="CSV, XLSX, XLS or ODS: coil, size, metal, colour, length_m",
        )
        write = button("Write it…", self.write_list, tip="The shelf as it is now, as CSV or XLSX")
        self.other = button(
            "Something else in its place…",
            self.decide,
            tip="A short wire made a size up or in another colour, with who decided it",
        )
        self.inside = button(
            "A shelf file for all harnesses…", self.change_shelf, tip="Or back inside this harness file"
        )
        without = button("Without a shelf…", self.waive, tip="Who makes this harness without one being read, and why")
        self.summary = Label()
        self.summary.setWordWrap(True)
        self.rows = desk.table("Coils", "coils", self._columns(), lambda r: r.coil.id)
        self.rows.current.connect(lambda _: self._told())
        self.view = ShelfView()
        self.view.chosen.connect(self.rows.choose)
        self.listed = button("As a list", self._listed, tip="Every coil as a row, or the shelf again")
        self.listed.setCheckable(True)
        self.short = Label()
        self.short.setWordWrap(True)
        self.cuts = Label()
        self.cuts.setWordWrap(True)
        self.empty = hint(
            "No coils are on the shelf yet. Read a list of them: coil, size, metal, colour, length_m; metal or colour "
            "left blank fit any."
        )
        self.column.addLayout(
            Flow(self.units, read, write, self.inside, self.other, without, self.listed, None, self.where)
        )
        for widget in (self.summary, self.short, self.empty, self.view, self.rows, self.cuts):
            self.column.addWidget(widget, int(widget in (self.rows, self.view)))
        self.planner = Background(self)
        self.planner.answered.connect(self._arrived)
        self.planner.crashed.connect(desk.document.crashed)
        desk.document.looked.connect(self._looked)

    def _looked(self) -> None:
        """What is left to cut is known, or other than it was."""
        facts = self.desk.document.facts
        if self.units.value() == 0 and self.isVisible() and facts is not None and facts.todo != self._todo:
            self.work_out()

    def show_now(self) -> None:
        try:
            with self.desk.document.project.floor.shelf() as shelf:
                held = shelf.coils()
        except UmberError as why:
            self.desk.said.emit(str(why))
            held = []
        path = self.desk.document.project.floor.shelf_path
        self.where.setText(tr("coils in ") + (path.name if path else tr("this harness file")))
        self.rows.show_rows(held)
        self.empty.setVisible(not held)
        self._listed()
        self.work_out()

    def _listed(self) -> None:
        held = bool(self.rows.rows_model.rows)
        self.rows.setVisible(held and self.listed.isChecked())
        self.view.setVisible(held and not self.listed.isChecked())

    def _shown(self) -> None:
        """The shelf as it is and as it will be, coils of a size beside each other."""
        cut: dict[str, list[float]] = {}
        for one in self.plan.cuts if self.plan is not None else ():
            cut.setdefault(one.coil, []).append(one.piece.length_m)
        held: list[Held] = sorted(
            self.rows.rows_model.rows, key=lambda one: (-area_of(one.coil.size), one.coil.colour, one.coil.id)
        )
        self.view.show_coils(
            [
                OnShelf(
                    one.coil.id,
                    show_size(one.coil.size),
                    *colours_of(one.coil.colour),
                    max(one.coil.length_m, one.left_m),
                    one.left_m,
                    one.left_m - sum(cut.get(one.coil.id, ())),
                    len(cut.get(one.coil.id, ())),
                )
                for one in held
            ],
            self.rows.chosen_id(),
        )

    def work_out(self) -> None:
        """Plans the cuts anew, off the window's thread."""
        results = self.desk.document.now
        held: list[Held] = self.rows.rows_model.rows
        if results is None or not held:
            self.summary.setText("")
            self.short.setText("")
            self.cuts.setText("")
            return
        units, coils, facts = self.units.value(), [one.now for one in held], self.desk.document.facts
        self._todo = facts.todo if facts is not None else None
        if units == 0 and facts is None:
            self.summary.setText(tr("Working out the cuts…"))
            return  # planned once it is known what is left
        left = facts.todo if facts is not None else ()

        def work(wanted: Wanted) -> CutPlan | str:
            try:
                rows = [*pieces(results, units), *sample_pieces(results)] if units else left
                return plan_cuts(coils, rows, wanted=wanted)
            except UmberError as why:
                return str(why)

        self.summary.setText(tr("Working out the cuts…"))
        self.planner.ask(work)

    def _arrived(self, plan: CutPlan | str) -> None:
        if isinstance(plan, str):
            self.summary.setText(plan)
            return
        self.plan = plan
        wires = len([cut for cut in plan.cuts if cut.piece.unit])
        if not plan.cuts and not plan.short:
            self.summary.setText(tr("Nothing is left to cut of the builds begun; say for how many more units to plan."))
            self.short.setText("")
            self._told()
            return
        bound = (
            tr("at least {bound_m:.2f} m by any plan that leaves as few short", bound_m=plan.bound_m)
            if plan.waste_m > 0
            else tr("nothing is wasted")
        )
        self.summary.setText(
            tr(
                "{wires} pieces for {for_} from {count} coils; offcuts too short to keep: {waste_m:.2f} m "
                "({bound}); offcuts from {usable_m:g} m go back to the shelf.",
                wires=wires,
                for_=self._for(),
                count=len(plan.opened),
                waste_m=plan.waste_m,
                bound=bound,
                usable_m=plan.usable_m,
            )
        )
        short = [
            tr("{what}: {metres:.1f} m for {wires}", what=one.what, metres=one.metres, wires=", ".join(one.wires))
            for one in short_of(plan.short)
        ]
        self.short.setText(
            tr(
                "✕ Runs short for {for_}, before anyone cuts: {told_short}: ",
                for_=self._for(),
                told_short=plan.told_short,
            )
            + "; ".join(short[:6])
            + (tr(" and {count} more", count=len(short) - 6) if len(short) > 6 else "")
            if short
            else ""
        )
        self.short.setStyleSheet(f"color: {theme.BROKEN.name()}; font-weight: bold" if short else "")
        self.rows.rows_model.forget()
        self.rows.rows_model.layoutChanged.emit()
        self._told()

    def _for(self) -> str:
        many = self.units.value()
        return tr("{many} more {many|unit|units}", many=many) if many else tr("what is left to cut")

    def _told(self) -> None:
        """The cuts of the chosen coil, in their order."""
        self._shown()
        chosen = self.rows.chosen_id()
        mine = [cut for cut in self.plan.cuts if cut.coil == chosen] if self.plan is not None else []
        told = ", ".join(
            f"{cut.piece.wire}{f' ({cut.piece.unit})' if cut.piece.unit else ' sample'} {cut.piece.length_m:.3f}"
            for cut in mine[:40]
        )
        self.cuts.setText(
            tr("{chosen}, cut in this order: {told}{more? …}", chosen=chosen, told=told, more=len(mine) > 40)
            if mine
            else ""
        )

    def read_list(self) -> None:
        """Takes a stock list over as the shelf."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Stock list"), "", LISTS)
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """The coils of a list are the shelf from now on; with a fault in it nothing changes."""
        document = self.desk.document
        kept = None
        try:
            coils = read_stock(path, document.shelf, document.design.project.decimal)
            with document.project.floor.shelf() as shelf:
                held = shelf.coils()
                gone = gone_with(held, coils)
                replace = True
                if gone:
                    answer = self._asked(len(coils), len(gone))
                    if answer is None:
                        return
                    replace = answer
                if gone and replace:
                    kept = keep_before(held)
                shelf.put_coils(coils, now_ms(), replace=replace)
        except UmberError as why:
            document.refused.emit(str(why))
            return
        before = tr(" The list before is kept in {kept}: read it to bring it back.", kept=kept) if kept else ""
        self.desk.said.emit(tr("{count} coils are on the shelf.{before}", count=len(coils), before=before))
        document.look()
        self.show_now()

    def _asked(self, many: int, gone: int) -> bool | None:
        """Whether coils that a list doesn't have are gone (True) or stay (False); None where it is given up."""
        text = tr("{gone} coils are on the shelf that the list doesn’t have; it has {many}.").format(
            gone=gone, many=many
        )
        asked = box(self, text, tr("Are they used up, or is this a list of some that came in?"))
        stay = choice(asked, tr("They stay"), QMessageBox.ButtonRole.AcceptRole)
        away = choice(asked, tr("They are gone"), QMessageBox.ButtonRole.DestructiveRole)
        asked.addButton(QMessageBox.StandardButton.Cancel)
        asked.setDefaultButton(stay)
        asked.exec()
        return True if asked.clickedButton() is away else False if asked.clickedButton() is stay else None

    def waive(self) -> None:
        """Somebody says that no shelf is read for this harness."""
        said = name_and_what(self, tr("Without a shelf"), tr("Who goes without, and why (name: why)?"))
        if said is not None:
            try:
                self.desk.document.project.floor.waive(*said)
            except UmberError as why:
                self.desk.document.refused.emit(str(why))
            self.desk.document.look()

    def write_list(self) -> None:
        """The shelf as a file."""
        name, _ = QFileDialog.getSaveFileName(self, tr("Stock list"), "stock.csv", "CSV (*.csv);;Workbook (*.xlsx)")
        if name:
            held: list[Held] = self.rows.rows_model.rows
            try:
                write_whole(Path(name), stock_bytes([one.now for one in held], Path(name).suffix.lower()))
            except UmberError as why:
                self.desk.document.refused.emit(str(why))

    def decide(self) -> None:
        """Asks what a wire is made of instead."""
        short = list(dict.fromkeys(piece.wire for piece in self.plan.short)) if self.plan is not None else []
        wires = short or [wire.id for wire in self.desk.document.design.wires]
        InsteadSheet(wires, self.decided, self).open()

    def decided(self, sheet: InsteadSheet) -> str:
        """Records it; figures, papers and cuts follow. Why it was refused, "" where it wasn't."""
        wire, results = sheet.wire.currentText(), self.desk.document.now
        planned = (
            results.figures.wires[wire].shown_size if results is not None and wire in results.figures.wires else ""
        )
        said = (sheet.new_size.text(), sheet.colour.text(), sheet.who.text(), sheet.why.text())
        try:
            substitute(self.desk.document.design, wire, planned, *said)
        except UmberError as why:
            return str(why)
        edit = self.desk.document.apply(
            lambda design: substitute(design, wire, planned, *said), f"{wire} made of something else"
        )
        return "" if edit else tr("It couldn’t be written: see the line below.")

    def change_shelf(self) -> None:
        """Another place for the coils: a shelf file, or back inside."""
        floor = self.desk.document.project.floor
        try:
            if floor.shelf_path is not None:
                floor.use_shelf(None)
            else:
                name, _ = QFileDialog.getSaveFileName(
                    self,
                    tr("Shelf file"),
                    "shop.umbershelf",
                    "Shelf (*.umbershelf)",
                    options=QFileDialog.Option.DontConfirmOverwrite,
                )
                if not name:
                    return
                with shelf_file(Path(name), make=True):
                    floor.use_shelf(Path(name))
        except UmberError as why:
            self.desk.document.refused.emit(str(why))
        self.show_now()

    def _columns(self) -> list[Column]:
        def strip(held: Held) -> list[tuple[QColor, float]]:
            longest = max((one.coil.length_m for one in self.rows.rows_model.rows), default=1.0)
            mine = [cut for cut in self.plan.cuts if cut.coil == held.coil.id] if self.plan is not None else []
            gone = held.coil.length_m - held.left_m
            parts = [(theme.GRIP, gone / longest)] if gone > 1e-6 else []
            shades = (theme.GOOD, theme.GOOD_PALE)
            parts += [(shades[at % 2], cut.piece.length_m / longest) for at, cut in enumerate(mine)]
            rest = held.left_m - sum(cut.piece.length_m for cut in mine)
            short = 1e-6 < rest < (self.plan.usable_m if self.plan is not None else 0.0) and bool(mine)
            return [*parts, (theme.BROKEN if short else theme.PAPER_DIM, max(rest, 0.0) / longest)]

        def rest(held: Held) -> float:
            return self.plan.left_m.get(held.coil.id, held.left_m) if self.plan is not None else held.left_m

        def lost(held: Held) -> bool:
            return (
                self.plan is not None
                and held.coil.id in self.plan.opened
                and 0 < rest(held) < self.plan.usable_m - 1e-9
            )

        return [
            Column("Coil", lambda r: r.coil.id, width=80),
            Column("Size", lambda r: show_size(r.coil.size), right=True, key=lambda r: area_of(r.coil.size), width=90),
            Column(
                "Colour",
                lambda r: r.coil.colour or "any",
                swatch=lambda r: tuple(([*r.coil.colour.split("/"), "", ""])[:2]) if r.coil.colour else ("", ""),
                width=120,
            ),
            Column("Metal", lambda r: r.coil.metal or "any", width=80),
            Column("On it", lambda r: f"{r.left_m:.2f} m", right=True, key=lambda r: r.left_m, width=84),
            Column(
                "Then left",
                lambda r: f"{rest(r):.2f} m" + (tr(", too short") if lost(r) else ""),
                right=True,
                key=rest,
                colour=lambda r: theme.BROKEN if lost(r) else None,
                width=90,
            ),
            Column("What is cut from it", lambda r: "", stack=strip, width=-1),
        ]
