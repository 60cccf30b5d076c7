"""Options and variants of a harness: what is there with each, a variant beside its base, both trunks with what differs
lit in them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QListWidget,
    QListWidgetItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.trunk.small import paint_small
from umber_trunk.app.widgets.asked import text_asked
from umber_trunk.app.widgets.desk import button, heading, hint, row
from umber_trunk.app.widgets.plain import Label, plain_of, tell
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.option import Only, Option, Variant
from umber_trunk.core.harness.variants import put_option, put_variant, variant_of, with_options, without_option
from umber_trunk.core.keep.compare import compare
from umber_trunk.core.kept_words import name_kept
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.results import Results
from umber_trunk.store.project import ProjectFile

BARE = word("without options")
NAME = int(Qt.ItemDataRole.UserRole)


class TwoTrunks(QWidget):
    """Two trunks, one under the other, the wires that only one has lit in it."""

    def __init__(self) -> None:
        super().__init__()
        self.shown: list[tuple[str, Design, frozenset[str]]] = []

    def sizeHint(self) -> QSize:
        return QSize(560, 330)

    def show_both(self, rows: list[tuple[str, Design, frozenset[str]]]) -> None:
        """(title, design, wires that stand out) of both."""
        self.shown = rows
        told = [tr("{title}: {count} wires the other has not", title=title, count=len(lit)) for title, _, lit in rows]
        self.setAccessibleDescription("; ".join(told))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        bold = theme.font(bold=True)
        line, tall = QFontMetricsF(bold).height(), self.height() / max(len(self.shown), 1)
        for number, (title, design, lit) in enumerate(self.shown):
            top = number * tall
            painter.setFont(bold)
            painter.setPen(theme.INK)
            mark = tr("  – {count} wires the other hasn’t stand out", count=len(lit)) if lit else ""
            painter.drawText(QRectF(4, top, self.width() - 8, line), int(Qt.AlignmentFlag.AlignLeft), f"{title}{mark}")
            paint_small(painter, QRectF(10, top + line + 6, self.width() - 20, tall - line - 14), design, lit)


class VariantsSheet(QDialog):
    """Options and variants at the left, a variant beside another at the right.

    Signals: wants_file(object): open a harness that was written of a variant.
    """

    wants_file = Signal(object)

    def __init__(self, document: Document, chosen_ends: list[str], parent: QWidget) -> None:
        super().__init__(parent)
        self.document, self.chosen_ends = document, chosen_ends
        self.setWindowTitle(tr("Variants"))
        self.resize(1180, 740)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Options and variants"))
        self.list.setWordWrap(True)
        self.list.setMinimumWidth(320)
        self.first, self.second = QComboBox(), QComboBox()
        self.first.setAccessibleName(tr("One variant"))
        self.second.setAccessibleName(tr("The other"))
        self.trunks, self.sums = TwoTrunks(), Label()
        self.sums.setWordWrap(True)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName(tr("What differs"))
        self.table.setHorizontalHeaderLabels(["", tr("What"), tr("Differs")])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        for column, how in enumerate(
            (
                QHeaderView.ResizeMode.ResizeToContents,
                QHeaderView.ResizeMode.ResizeToContents,
                QHeaderView.ResizeMode.Stretch,
            )
        ):
            self.table.horizontalHeader().setSectionResizeMode(column, how)
        self._beside = Background(self)
        self._beside.answered.connect(lambda told: self.sums.setText(told))
        self._beside.crashed.connect(document.crashed)
        left = QVBoxLayout()
        left.addWidget(heading("Options and variants"))
        left.addWidget(hint("An option is what the harness may be made with; a variant is a name for some options."))
        left.addWidget(self.list, 1)
        ends = ", ".join(chosen_ends)
        left.addWidget(
            button(
                "New option…",
                self.new_option,
                primary=True,
                tip=tr("{ends}: there only with it", ends=ends) if ends else "Choose ends on the picture first",
            )
        )
        left.addLayout(row(button("New variant…", self.new_variant), button("Take out", self.take_out), None))
        left.addWidget(button("Write as a harness of its own…", self.write_alone))
        right = QVBoxLayout()
        right.addLayout(row(heading("Compare"), self.first, heading("with"), self.second, None))
        right.addWidget(self.trunks, 3)
        right.addWidget(self.sums)
        right.addWidget(self.table, 2)
        layout = QHBoxLayout(self)
        layout.addLayout(left, 2)
        layout.addLayout(right, 5)
        for box in (self.first, self.second):
            box.currentIndexChanged.connect(lambda _: self.compare())
        document.changed.connect(self.refresh)
        self.refresh()

    @property
    def busy(self) -> bool:
        """Whether the sums are still being worked out."""
        return self._beside.busy

    def refresh(self, *_: object) -> None:
        """Options and variants as they are now."""
        design = self.document.design
        self.list.clear()
        for option in design.options:
            parts = [f"{one.table} {one.id}" for one in option.only] + [
                f"not {one.table} {one.id}" for one in option.without
            ]
            parts += [f"{one.table} {one.id}: {one.field}" for one in option.changes]
            self._add(option.id, f"{option.id}\n{option.name or 'option'}: {', '.join(parts) or tr('nothing yet')}")
        for variant in design.variants:
            self._add(variant.id, f"{variant.id}\n{variant.name or 'variant'}: {' + '.join(variant.options) or BARE}")
        names = [*(one.id for one in design.variants), *(one.id for one in design.options), BARE]
        for box, usual in ((self.first, 0), (self.second, len(names) - 1)):
            was = box.currentText()
            box.blockSignals(True)
            box.clear()
            box.addItems(names)
            box.setCurrentIndex(names.index(was) if was in names else usual)
            box.blockSignals(False)
        self.compare()

    def _add(self, name: str, text: str) -> None:
        item = QListWidgetItem(text)
        item.setData(NAME, name)
        self.list.addItem(item)

    def of(self, name: str) -> Design:
        """The harness of a variant by its name. InputError where an option says what can't be."""
        design = self.document.design
        return with_options(design, ()) if name == BARE else variant_of(design, name)

    def compare(self) -> None:
        """The two that are chosen, what differs, and what it comes to."""
        names = self.first.currentText(), self.second.currentText()
        try:
            one, other = (self.of(name) for name in names)
        except UmberError as why:
            self.sums.setText(str(why))
            return
        mine, theirs = ({wire.id for wire in design.wires} for design in (one, other))
        rows = [(names[0], one, frozenset(mine - theirs)), (names[1], other, frozenset(theirs - mine))]
        self.trunks.show_both(rows)
        found = compare(one, other)
        cells = [
            ("−", f"{table} {key}", tr("only in {names}", names=names[0]))
            for table, told in found.tables.items()
            for key in told.gone
        ]
        cells += [
            ("+", f"{table} {key}", tr("only in {names}", names=names[1]))
            for table, told in found.tables.items()
            for key in told.added
        ]
        for table, told in found.tables.items():
            for changed in told.changed:
                what = "; ".join(f"{field}: {was} → {now}" for field, was, now in changed.what)
                cells.append(("≠", f"{table} {changed.id}", what))
        self.table.setRowCount(len(cells))
        for at, texts in enumerate(cells):
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setToolTip(plain_of(text))
                self.table.setItem(at, column, item)
        self.sums.setText(tr("Working out what it comes to …"))
        shelf = self.document.shelf

        def work(wanted: Wanted) -> str:
            return "\n".join(_sum(name, analyse(design, shelf, wanted=wanted)) for name, design, _ in rows)

        self._beside.ask(work)

    def new_option(self) -> None:
        """What is chosen on the picture is there only with an option that is named now."""
        if not self.chosen_ends:
            tell(
                self, tr("Choose the ends that are there only with it on the picture first, then open Variants again.")
            )
            return
        name, meant = text_asked(
            self,
            tr("New option"),
            tr("{chosen_ends}: there only with which option?", chosen_ends=", ".join(self.chosen_ends)),
        )
        if meant and name.strip():
            only = tuple(Only(table="ends", id=end) for end in self.chosen_ends)
            self._apply(lambda design: put_option(design, Option(id=name_kept(name), only=only)), f"option {name}")

    def new_variant(self) -> None:
        """A name for some options, as “full = winch + lamps”."""
        there = " + ".join(option.id for option in self.document.design.options)
        text, meant = text_asked(
            self, tr("New variant"), tr("Its name, =, and its options with + between: {there}", there=there), ""
        )
        name, _, options = text.partition("=")
        if meant and name.strip():
            chosen = tuple(part.strip() for part in options.split("+") if part.strip())
            self._apply(
                lambda design: put_variant(design, Variant(id=name_kept(name), options=chosen)), f"variant {name}"
            )

    def take_out(self) -> None:
        """The chosen option or variant is none any more; its parts stay."""
        item = self.list.currentItem()
        if item is not None:
            name = str(item.data(NAME))
            self._apply(lambda design: without_option(design, name), f"{name} taken out")

    def _apply(self, edit: Callable[[Design], Design], label: str) -> None:
        try:
            made = edit(self.document.design)
        except (UmberError, ValueError) as why:
            tell(self, str(why))
            return
        self.document.apply(lambda _: made, label)

    def write_alone(self) -> None:
        """The first of the two as a harness file of its own."""
        name = self.first.currentText()
        stem = self.document.path.with_name(f"{self.document.path.stem}-{name}.umber".replace(" ", "-"))
        chosen, _ = QFileDialog.getSaveFileName(self, tr("A harness of its own"), str(stem), "Harness (*.umber)")
        if not chosen:
            return
        try:
            ProjectFile.create(Path(chosen), self.of(name), f"{name} of {self.document.path.name}").close()
        except UmberError as why:
            tell(self, str(why))
            return
        self.wants_file.emit(Path(chosen))


def _sum(name: str, results: Results) -> str:
    lengths = results.once(wire_lengths)
    metres = sum(one.cut_m for one in lengths.values())
    plant = results.plant
    kg = sum(
        plant.conductors[at].kg_per_m * float(plant.length_m[at] * plant.parallel[at]) for at in plant.row.values()
    )
    faults = sum(row.severity == 0 for row in results.findings)
    return tr(
        "{name}: {count} wires, {metres:.1f} m to cut, {kg:.2f} kg of metal, {faults} faults.",
        name=name,
        count=len(results.design.wires),
        metres=metres,
        kg=kg,
        faults=faults,
    )
