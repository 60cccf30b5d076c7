"""The why sheet: formula, inputs, result, limit and source of any figure."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.why import Derivation


class WhySheet(QFrame):
    """A sheet beside the desk; Escape puts it away."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        parent.installEventFilter(self)
        self.derivation: Derivation | None = None
        self.setObjectName("why")
        heading = Label(tr("Why"))
        heading.setProperty("role", "heading")
        close = QPushButton(tr("Close  Esc"))
        close.clicked.connect(self.hide)
        top = QHBoxLayout()
        top.addWidget(heading)
        top.addStretch()
        top.addWidget(close)
        self.text = QTextBrowser()
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        self.text.setAccessibleName(tr("Why this figure"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 8, 8)
        layout.addLayout(top)
        layout.addWidget(self.text)
        self.hide()

    def place(self) -> None:
        """Lies over the right of the desk, never wider than the desk."""
        desk = self.parentWidget()
        assert desk is not None
        wide = min(desk.width(), round(470 * theme.text_scale()))
        self.setGeometry(desk.width() - wide, 0, wide, desk.height())

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self.place()
        return super().eventFilter(watched, event)

    def show_why(self, derivation: Derivation) -> None:
        """Opens the sheet on a derivation."""
        self.derivation = derivation
        self.text.setHtml(as_html(derivation))
        self.place()
        self.show()
        self.raise_()
        self.text.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)


def as_html(one: Derivation) -> str:
    """The derivation as a sheet of rich text."""
    soft, green = theme.INK_SOFT.name(), theme.GOOD.name()
    inputs = "".join(
        f"<tr><td><b>{escape(row.symbol)}</b>&nbsp;</td><td align=right>&nbsp;{escape(str(row.value))}&nbsp;</td>"
        f"<td style='color:{soft}'>&nbsp;{escape(str(row.meaning))}</td></tr>"
        for row in one.inputs
    )
    steps = "".join(f"<p style='margin:1px 0 1px 10px'>{escape(str(step))}</p>" for step in one.steps)
    limit = f"<p>{tr('Limit')}: <b>{escape(str(one.limit))}</b></p>" if one.limit else ""
    source = f"<p style='color:{soft}'>{escape(str(one.source))}</p>" if one.source else ""
    return (
        f"<h3 style='margin:0'>{escape(str(one.title))}</h3><p><b>{escape(str(one.verdict))}</b></p>"
        f"<p style='font-family:\"B612 Mono\"; color:{green}'>{escape(str(one.formula))}</p>"
        f"<table cellspacing=0 cellpadding=2>{inputs}</table>{steps}"
        f"<p style='font-family:\"B612 Mono\"'>= {escape(str(one.result))}</p>{limit}{source}"
    )
