"""A photograph kept with the log, as large as there is room for; a click shows it over the whole window."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QDialog, QSizePolicy, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.words import tr


class PhotoView(QWidget):
    """One photograph, or a sentence in its place."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.image, self.said = QImage(), ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(240, 160)
        self.setAccessibleName(tr("Photograph"))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_photo(self, image: QImage, said: str) -> None:
        """A picture and what is said of it; where it is none, the sentence stands alone."""
        self.image, self.said = image, said
        self.setAccessibleDescription(said)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.image.isNull() or isinstance(self.parent(), QDialog):
            super().mousePressEvent(event)
            return
        large = QDialog(self.window())
        large.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        large.setWindowTitle(tr("Photograph"))
        view = PhotoView(large)
        view.show_photo(self.image, self.said)
        layout = QVBoxLayout(large)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(view)
        large.resize(self.window().size())
        large.open()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        room = QRectF(self.rect()).adjusted(6, 6, -6, -6)
        line = painter.fontMetrics().height() * 1.3
        if not self.image.isNull():
            place = room.adjusted(0, 0, 0, -line)
            size = QSizeF(self.image.size()).scaled(place.size(), Qt.AspectRatioMode.KeepAspectRatio)
            at = place.center() - QPointF(size.width() / 2, size.height() / 2)
            painter.drawImage(QRectF(at, size), self.image)
            room = QRectF(room.left(), room.bottom() - line, room.width(), line)
        painter.setPen(theme.INK_SOFT)
        painter.drawText(room, int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap), self.said)
        painter.end()
