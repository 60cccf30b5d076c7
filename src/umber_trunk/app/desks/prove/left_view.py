"""What is left to prove, as a picture: a column a net, a row a kind of test; filled where it is answered, crossed where
it was out of its band."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.plot import invite, waiting
from umber_trunk.app.widgets.readable import DrawnPane, Part
from umber_trunk.app.widgets.words import tr

STATES = ("left", "right", "wrong")


@dataclass(frozen=True)
class Cell:
    """Tests of a kind on a net: how many there are, are right, are wrong; their numbers."""

    many: int
    right: int
    wrong: int
    numbers: tuple[int, ...]

    @property
    def state(self) -> str:
        """left, right once all are, wrong where one is."""
        return "wrong" if self.wrong else "right" if self.right == self.many else "left"


@dataclass(frozen=True)
class Field:
    """Nets from left to right, kinds from above, and the cell of each pair that has tests; `others` are tests of no
    net, by kind."""

    nets: tuple[str, ...]
    kinds: tuple[str, ...]
    cells: dict[tuple[str, str], Cell]
    others: dict[str, Cell]


class LeftView(DrawnPane):
    """Draws a field. A click or the arrow keys choose a cell: `chosen(numbers of its tests)`."""

    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.field: Field | None = None
        self.nothing = False
        self.current: tuple[str, str] | None = None
        self.hits: list[tuple[QRectF, tuple[str, str], Cell]] = []
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(140)
        self.setAccessibleName(tr("What is left to prove"))

    def show_field(self, field: Field | None) -> None:
        """How far the proof is."""
        self.field = field
        if field is not None:
            cells = [*field.cells.values(), *field.others.values()]
            self.setAccessibleDescription(
                tr(
                    "{nets} nets, {right} of {whole} cells right, {wrong} wrong",
                    nets=len(field.nets),
                    right=sum(one.state == "right" for one in cells),
                    whole=len(cells),
                    wrong=sum(one.state == "wrong" for one in cells),
                )
            )
        self.update()

    def parts_told(self) -> list[Part]:
        return [
            (box, f"{key[0] or 'the whole'}, {key[1]}", f"{cell.state}: {_told(key, cell)}")
            for box, key, cell in self.hits
        ]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        self.hits = []
        if self.field is None and not self.nothing:
            waiting(painter, self)
        elif self.field is None or not self.field.kinds:
            invite(painter, self, tr("Nothing to prove yet: enter wires first."))
        else:
            self._draw(painter, QRectF(self.rect()).adjusted(10, 6, -10, -6), self.field)
        painter.end()
        self.heard()

    def _draw(self, painter: QPainter, room: QRectF, field: Field) -> None:
        painter.setFont(theme.font(9))
        metrics = QFontMetricsF(painter.font())
        line = metrics.height()
        gutter = max(metrics.horizontalAdvance(kind) for kind in field.kinds) + 12
        aside = metrics.horizontalAdvance(tr("the whole")) + 14 if field.others else 0.0
        wide = (room.width() - gutter - aside) / max(len(field.nets), 1)
        names = wide > 2.2 * metrics.horizontalAdvance("00")
        slanted = (
            min(max(metrics.horizontalAdvance(name) for name in field.nets), 0.3 * room.height()) if field.nets else 0.0
        )
        head = (line if names and slanted < wide - 4 else slanted + 4) if field.nets and wide > 0.9 * line else 0.0
        foot = 1.5 * line
        tall = min((room.height() - head - foot) / len(field.kinds), 2.4 * line)
        top = room.top() + head + 2
        if head:
            self._names(
                painter,
                QRectF(room.left() + gutter, room.top(), room.width() - gutter - aside, head),
                field,
                wide,
                metrics,
            )
        if aside:
            painter.setPen(theme.INK_SOFT)
            painter.drawText(QRectF(room.right() - aside + 6, top - line - 2, aside, line), tr("the whole"))
        for row, kind in enumerate(field.kinds):
            y = top + row * tall
            painter.setPen(theme.INK)
            painter.drawText(QRectF(room.left(), y, gutter - 6, tall), int(Qt.AlignmentFlag.AlignVCenter), kind)
            for column, net in enumerate(field.nets):
                cell = field.cells.get((net, kind))
                if cell is not None:
                    self._cell(painter, QRectF(room.left() + gutter + column * wide, y, wide, tall), (net, kind), cell)
            if (whole := field.others.get(kind)) is not None:
                self._cell(painter, QRectF(room.right() - aside + 6, y, aside - 6, tall), ("", kind), whole)
        self._legend(painter, QRectF(room.left(), room.bottom() - line, room.width(), line), metrics)

    def _names(self, painter: QPainter, room: QRectF, field: Field, wide: float, metrics: QFontMetricsF) -> None:
        painter.setPen(theme.INK_SOFT)
        upright = all(metrics.horizontalAdvance(name) < wide - 4 for name in field.nets)
        for column, name in enumerate(field.nets):
            if upright:
                painter.drawText(
                    QRectF(room.left() + column * wide, room.bottom() - metrics.height(), wide, metrics.height()),
                    int(Qt.AlignmentFlag.AlignHCenter),
                    name,
                )
                continue
            painter.save()
            painter.translate(room.left() + (column + 0.5) * wide + metrics.ascent() / 2 - 1, room.bottom())
            painter.rotate(-90)
            painter.drawText(QPointF(0, 0), metrics.elidedText(name, Qt.TextElideMode.ElideRight, room.height()))
            painter.restore()

    def _cell(self, painter: QPainter, room: QRectF, key: tuple[str, str], cell: Cell) -> None:
        box = room.adjusted(1, 2, -1, -2)
        self.hits.append((box, key, cell))
        paper = {"right": theme.GOOD, "wrong": theme.BROKEN_PALE, "left": theme.PAPER}[cell.state]
        ink = (
            theme.HEADING
            if key == self.current
            else {"right": theme.GOOD, "wrong": theme.BROKEN, "left": theme.GRIP}[cell.state]
        )
        painter.setPen(QPen(ink, 2.4 if key == self.current else 1.0))
        painter.setBrush(paper)
        painter.drawRect(box)
        if cell.state == "left" and cell.right:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.GOOD)
            painter.drawRect(
                QRectF(
                    box.left(),
                    box.bottom() - box.height() * cell.right / cell.many,
                    box.width(),
                    box.height() * cell.right / cell.many,
                )
            )
        if cell.state == "wrong":
            painter.setPen(QPen(theme.BROKEN, 1.6))
            painter.drawLine(box.topLeft(), box.bottomRight())
            painter.drawLine(box.topRight(), box.bottomLeft())

    def _legend(self, painter: QPainter, room: QRectF, metrics: QFontMetricsF) -> None:
        x = room.left()
        for paper, words in (
            (theme.GOOD, tr("in its band")),
            (theme.BROKEN_PALE, tr("✕ out of it")),
            (theme.PAPER, tr("left")),
        ):
            painter.setPen(QPen(theme.GRIP, 1))
            painter.setBrush(paper)
            painter.drawRect(QRectF(x, room.top() + 2, 12, room.height() - 4))
            painter.setPen(theme.INK_SOFT)
            painter.drawText(QPointF(x + 18, room.bottom() - metrics.descent()), words)
            x += metrics.horizontalAdvance(words) + 36
        painter.setPen(theme.INK_SOFT)
        painter.drawText(
            QRectF(x, room.top(), room.right() - x, room.height()),
            int(Qt.AlignmentFlag.AlignRight),
            tr("a column a net, a row a kind of test"),
        )

    def _choose(self, key: tuple[str, str], cell: Cell) -> None:
        self.current = key
        self.setAccessibleDescription(_told(key, cell))
        self.chosen.emit(cell.numbers)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        for box, key, cell in self.hits:
            if box.contains(event.position()):
                self._choose(key, cell)
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        way = ways.get(Qt.Key(event.key()))
        if way is None or not self.hits:
            super().keyPressEvent(event)
            return
        here = next((box for box, key, _ in self.hits if key == self.current), None)
        if here is None:
            self._choose(*self.hits[0][1:])
            return
        middle = here.center()
        ahead = [
            (abs(x * way[1]) + abs(y * way[0]), x * way[0] + y * way[1], key, cell)
            for box, key, cell in self.hits
            for x, y in ((box.center().x() - middle.x(), box.center().y() - middle.y()),)
            if x * way[0] + y * way[1] > 1
        ]
        if ahead:
            _, _, key, cell = min(ahead, key=lambda row: row[1] + 3 * row[0])
            self._choose(key, cell)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            hit = next(((key, cell) for box, key, cell in self.hits if box.contains(QPointF(event.pos()))), None)
            QToolTip.showText(event.globalPos(), plain_of(_told(*hit)) if hit is not None else "", self)
            return True
        return super().event(event)


def _told(key: tuple[str, str], cell: Cell) -> str:
    wrong = tr(", {wrong} out of their bands", wrong=cell.wrong) if cell.wrong else ""
    return tr(
        "{net}, {kind}: {right} of {many} in their bands{wrong}",
        net=key[0] or tr("the whole"),
        kind=key[1],
        right=cell.right,
        many=cell.many,
        wrong=wrong,
    )
