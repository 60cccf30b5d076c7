"""A harness at a glance, to be opened: its trunk in small, its name, what its stages were at."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QPushButton, QStyle, QStyleOptionButton, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import menu_text, plain_of
from umber_trunk.core.stages import STAGES


@dataclass(frozen=True)
class Glance:
    """What there is to see: `name`, a line `told` under it, the trunk, and each stage's badge as (stage, badge), none
    where nobody looked yet."""

    name: str
    told: str
    trunk: QImage | None = None
    badges: tuple[tuple[str, str], ...] = ()


class GlanceCard(QPushButton):
    """A button that shows a harness; its text is what a screen reader and the finder have."""

    def __init__(self, text: str, parent: QWidget | None = None) -> None:
        super().__init__(menu_text(text), parent)
        self.glance = Glance(text, "")
        self.setProperty("role", "entry")
        self.setToolTip(plain_of(text))

    def sizeHint(self) -> QSize:
        line = QFontMetricsF(theme.font()).height()
        return QSize(round(26 * theme.font().pointSizeF()), round(5.4 * line))

    def minimumSizeHint(self) -> QSize:
        return QSize(220, self.sizeHint().height())

    def show_glance(self, glance: Glance) -> None:
        """What is known of it by now."""
        self.glance = glance
        names = {stage.id: stage.name for stage in STAGES}
        self.setAccessibleDescription(
            ", ".join([glance.told, *(f"{names.get(stage, stage)} {badge}" for stage, badge in glance.badges)])
        )
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        option = QStyleOptionButton()
        self.initStyleOption(option)
        option.text = ""
        self.style().drawControl(QStyle.ControlElement.CE_PushButton, option, painter, self)
        room = QRectF(self.rect()).adjusted(8, 5, -8, -5)
        bold, small = theme.font(theme.BASE_POINT + 1, bold=True), theme.font(8.5)
        head, fine = QFontMetricsF(bold), QFontMetricsF(small)
        picture = QRectF(room.left(), room.top(), 0.4 * room.width(), room.height())
        if self.glance.trunk is not None:
            image = self.glance.trunk
            size = image.deviceIndependentSize().scaled(picture.size(), Qt.AspectRatioMode.KeepAspectRatio)
            spot = QRectF(
                picture.center().x() - size.width() / 2,
                picture.center().y() - size.height() / 2,
                size.width(),
                size.height(),
            )
            painter.drawImage(spot, image)
        left = picture.right() + 10
        wide = room.right() - left
        painter.setFont(bold)
        painter.setPen(theme.INK)
        painter.drawText(
            QRectF(left, room.top(), wide, head.height()),
            int(Qt.AlignmentFlag.AlignLeft),
            head.elidedText(self.glance.name, Qt.TextElideMode.ElideRight, wide),
        )
        painter.setFont(small)
        painter.setPen(theme.INK_SOFT)
        marks = fine.height() + 6
        words = QRectF(left, room.top() + head.height(), wide, room.height() - head.height() - marks)
        painter.drawText(words, int(Qt.TextFlag.TextWordWrap), _fitted(self.glance.told, fine, words))
        self._badges(painter, QRectF(left, room.bottom() - marks + 2, wide, marks - 2), fine)
        if self.hasFocus():
            painter.setPen(QPen(theme.GOOD, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 5, 5)
        painter.end()

    def _badges(self, painter: QPainter, room: QRectF, fine: QFontMetricsF) -> None:
        """The stages in their order, each its mark in its colour."""
        if not self.glance.badges:
            return
        wide = min(room.width() / len(self.glance.badges), 34.0)
        for n, (_, badge) in enumerate(self.glance.badges):
            colour = {"✕": theme.BROKEN, "△": theme.TIGHT, "✓": theme.GOOD, "–": theme.GRIP}.get(badge[:1], theme.SLATE)
            box = QRectF(room.left() + n * wide, room.top(), wide - 3, room.height())
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawRoundedRect(box, 3, 3)
            painter.setPen(theme.ink_on(colour))
            said = badge if fine.horizontalAdvance(badge) < box.width() - 2 else badge[:1]
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), said)


def _fitted(text: str, metrics: QFontMetricsF, room: QRectF) -> str:
    """As many words as there is room for."""
    words = text.split(" ")
    for many in range(len(words), 0, -1):
        said = " ".join(words[:many]) + (" …" if many < len(words) else "")
        if (
            metrics.boundingRect(QRectF(0, 0, room.width(), 9999), int(Qt.TextFlag.TextWordWrap), said).height()
            <= room.height() + 1
        ):
            return said
    return ""
