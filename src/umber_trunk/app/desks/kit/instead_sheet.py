"""A short wire made in another size or colour: a decision with a name to it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QComboBox, QDialog, QFormLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.desk import button, hint
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr


class InsteadSheet(QDialog):
    """A short wire in another size or colour: a decision with a name to it."""

    def __init__(self, wires: list[str], decide: Callable[[InsteadSheet], str], parent: QWidget) -> None:
        super().__init__(parent)
        self.decide = decide
        self.refused = Label()
        self.refused.setStyleSheet(f"color: {theme.BROKEN.name()}")
        self.refused.setWordWrap(True)
        self.setWindowTitle(tr("Something else in its place"))
        self.wire = QComboBox()
        self.wire.addItems(wires)
        self.new_size, self.colour, self.who, self.why = Line(), Line(), Line(), Line()
        self.new_size.setPlaceholderText(tr("a size up, such as 4 mm2; blank keeps it"))
        self.colour.setPlaceholderText(tr("another colour, such as red/white; blank keeps it"))
        form = QFormLayout(self)
        for said, widget in (
            ("wire", self.wire),
            ("size", self.new_size),
            ("colour", self.colour),
            (tr("who decides"), self.who),
            ("why", self.why),
        ):
            widget.setAccessibleName(tr(said))
            form.addRow(Label(tr(said)), widget)
        form.addRow(hint("It stands on every paper. Drop, heat and fits follow the wire as it is made."))
        form.addRow(self.refused)
        form.addRow(button("Decide", self.accept, primary=True))

    def accept(self) -> None:
        """Closes once it is taken; what is refused stays here to be mended."""
        self.refused.setText(refused := self.decide(self))
        if not refused:
            super().accept()
