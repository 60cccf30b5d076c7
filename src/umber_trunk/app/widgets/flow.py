"""Widgets side by side that go on in another line where the window is narrow."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget


class Flow(QLayout):
    """Lines of widgets; those after `right` begin at the right edge as long as all fit into one line."""

    def __init__(self, *widgets: QWidget | None) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._right = len(widgets)
        self.setContentsMargins(0, 0, 0, 0)
        for at, widget in enumerate(widgets):
            if widget is None:
                self._right = at
            else:
                self.addWidget(widget)

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._laid(QRect(0, 0, width, 0), move=False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._laid(rect, move=True)

    def sizeHint(self) -> QSize:
        shown = [item for item in self._items if not item.isEmpty()]
        wide = sum(item.sizeHint().width() for item in shown) + self._gap * max(len(shown) - 1, 0)
        return QSize(wide, max((item.sizeHint().height() for item in shown), default=0))

    def minimumSize(self) -> QSize:
        sizes = [item.minimumSize() for item in self._items if not item.isEmpty()]
        return QSize(max((s.width() for s in sizes), default=0), max((s.height() for s in sizes), default=0))

    @property
    def _gap(self) -> int:
        return max(self.spacing(), 4)

    def _laid(self, rect: QRect, move: bool) -> int:
        """Height of all lines at a width; `move` puts the widgets there."""
        lines: list[list[tuple[QLayoutItem, QSize]]] = [[]]
        used, gap = 0, self._gap
        for item in self._items:
            if item.isEmpty():
                continue
            size = item.sizeHint()
            if lines[-1] and used + size.width() > rect.width():
                lines.append([])
                used = 0
            lines[-1].append((item, size))
            used += size.width() + gap
        y = rect.y()
        spare = rect.width() - (used - gap) if len(lines) == 1 else 0
        shown = [item for item in self._items if not item.isEmpty()]
        pushed = {id(item) for item in self._items[self._right :]}
        for line in lines:
            high, x, moved = max((size.height() for _, size in line), default=0), rect.x(), False
            for item, size in line:
                if id(item) in pushed and not moved and spare > 0:
                    x, moved = x + spare, True
                if move:
                    wide = min(size.width(), rect.width())
                    item.setGeometry(QRect(QPoint(x, y + (high - size.height()) // 2), QSize(wide, size.height())))
                x += size.width() + gap
            y += high + (gap if line is not lines[-1] else 0)
        return y - rect.y() if shown else 0
