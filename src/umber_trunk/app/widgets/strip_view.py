"""The strip drawing: one end of one wire to scale, with its dimensions and what sits where."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.ends.strip import CableStrip, CoreCut, Strip, tenths

BEHIND_MM = 14.0
COPPER = "#b77a4c"


class StripView(QWidget):
    """Draws an end, its tip to the left."""

    to_scale = True  # a pane as wide or as tall as its drawing is full

    def __init__(self) -> None:
        super().__init__()
        self.strip: Strip | None = None
        self.cable: CableStrip | None = None
        self.mark = ""
        self.setMinimumHeight(190)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("Strip drawing"))

    def show_strip(self, strip: Strip | None, cable: CableStrip | None = None, mark: str = "") -> None:
        """Another end, the stepped strip of its cable, the mark for a stiff lead's clock angles."""
        self.strip, self.cable, self.mark = strip, cable, mark
        if strip is not None:
            self.setAccessibleDescription(
                tr(
                    "{wire} at {end} {cavity}: strip {strip_mm:g} mm",
                    wire=strip.wire,
                    end=strip.end,
                    cavity=strip.cavity,
                    strip_mm=strip.strip_mm,
                )
            )
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        if self.strip is None:
            painter.setPen(theme.INK_SOFT)
            words = tr(
                "No part is chosen for this wire here, and none is proposed: there is nothing to strip it to. Choose a "
                "housing, a stud or a part that takes it."
            )
            painter.drawText(
                self.rect().adjusted(16, 0, -16, 0),
                int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap),
                words,
            )
        else:
            self._draw(painter, QRectF(self.rect()).adjusted(14, 8, -14, -8), self.strip)
        painter.end()

    def _draw(self, painter: QPainter, room: QRectF, one: Strip) -> None:
        line = QFontMetricsF(theme.font(9)).height() + 1
        lines = self._lines(one)
        painter.setFont(theme.font(9.5, bold=True))
        painter.setPen(theme.HEADING)
        title = tr(
            "{wire} at {end} {cavity}: {part_name}",
            wire=one.wire,
            end=one.end,
            cavity=one.cavity,
            part_name=one.part_name,
        )
        painter.drawText(
            room,
            Qt.AlignmentFlag.AlignTop,
            QFontMetricsF(painter.font()).elidedText(title, Qt.TextElideMode.ElideRight, room.width()),
        )
        picture = QRectF(
            room.left(), room.top() + 1.6 * line, room.width(), max(60.0, room.height() - (len(lines) + 3.2) * line)
        )
        if self.cable is not None and picture.width() > 420:
            stepped = QRectF(
                picture.left() + 0.46 * picture.width(), picture.top(), 0.54 * picture.width(), picture.height()
            )
            picture = QRectF(picture.left(), picture.top(), 0.44 * picture.width(), picture.height())
            self._stepped(painter, stepped, self.cable, one.wire, line)
        self.draw_scene(painter, picture, one, line)
        painter.setFont(theme.font(9))
        painter.setPen(theme.INK)
        metrics = QFontMetricsF(painter.font())
        for row, text in enumerate(lines):
            at = QPointF(room.left(), picture.bottom() + (row + 1.6) * line)
            if at.y() < room.bottom() + 2:
                painter.drawText(at, metrics.elidedText(text, Qt.TextElideMode.ElideRight, room.width()))

    def _lines(self, one: Strip) -> list[str]:
        found = [
            tr(
                "Strip {strip_mm}, goes in {entry_mm}; one try eats {eaten_mm}.",
                strip_mm=_mm(one.strip_mm),
                entry_mm=_mm(one.entry_mm),
                eaten_mm=_mm(one.eaten_mm),
            )
        ]
        if one.crimp_height_mm:
            found.append(
                tr(
                    "Crimp to {crimp_height_mm:.2f} ± {crimp_plus_minus_mm:g} mm, {tool}, die {die}",
                    crimp_height_mm=one.crimp_height_mm,
                    crimp_plus_minus_mm=one.crimp_plus_minus_mm,
                    tool=one.tool,
                    die=one.die,
                )
                + (tr(", {count} presses.", count=len(one.crimps_at_mm)) if len(one.crimps_at_mm) > 1 else ".")
            )
        elif one.tool:
            found.append(f"{one.tool}{', ' + one.die if one.die else ''}.")
        found += [
            tr(
                "{number}  {what} {from_mm} to {to_mm}{note}",
                number=number,
                what=piece.name,
                from_mm=tenths(piece.from_mm),
                to_mm=_mm(piece.to_mm),
                note=f": {piece.note}" if piece.note else "",
            )
            for number, piece in enumerate(one.pieces, 1)
        ]
        found += map(str, one.notes)
        if self.cable is not None:
            cut = self.cable
            found.append(
                tr("Jacket off {jacket_back_mm:g} mm", jacket_back_mm=cut.jacket_back_mm)
                + (
                    tr(", {screen} folded back {screen_mm:g} mm", screen=cut.screen, screen_mm=cut.screen_mm)
                    if cut.screen != "none"
                    else ""
                )
                + "."
            )
            mine = next((core for core in cut.cores if core.wire == one.wire), None)
            if mine is not None:
                found.append(tr("This core reaches {free_mm:g} mm past the jacket.", free_mm=mine.free_mm))
            found += map(str, cut.notes)
        if self.mark:
            found.append(self.mark)
        return found

    def draw_scene(self, painter: QPainter, room: QRectF, one: Strip, line: float) -> None:
        """The end to scale, pieces numbered, with the strip’s dimension above."""
        front = max([-piece.from_mm for piece in one.pieces] + [0.0]) + 2
        back = max([piece.to_mm for piece in one.pieces] + [one.strip_mm]) + BEHIND_MM
        tall = max([piece.width_mm for piece in one.pieces] + [one.outer_mm])
        scale = min(room.width() / (front + back), (room.height() - 2.2 * line) / max(tall, 1.0), 22.0)
        tip = QPointF(room.left() + front * scale, room.top() + 1.6 * line + (room.height() - 2.2 * line) / 2)

        def bar(start: float, stop: float, wide: float) -> QRectF:
            return QRectF(tip.x() + start * scale, tip.y() - wide * scale / 2, (stop - start) * scale, wide * scale)

        painter.setPen(QPen(theme.INK, 1))
        painter.setBrush(theme.wire_brush(one.colour) if one.colour else theme.PAPER_DIM)
        painter.drawRect(bar(one.strip_mm, back, one.outer_mm))
        if one.stripe:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.wire_brush(one.stripe))
            painter.drawRect(bar(one.strip_mm, back, one.outer_mm * 0.3))
        painter.setPen(QPen(theme.INK, 1))
        painter.setBrush(QColor(COPPER))
        painter.drawRect(bar(0.0, one.strip_mm, one.conductor_mm))
        painter.setFont(theme.font(8.5, bold=True))
        for number, piece in enumerate(one.pieces, 1):
            box = bar(piece.from_mm, piece.to_mm, piece.width_mm)
            painter.setPen(
                QPen(
                    theme.GOOD if piece.what in ("seal", "shrink", "boot") else theme.HEADING,
                    1.6,
                    Qt.PenStyle.DashLine if piece.what in ("seal", "shrink") else Qt.PenStyle.SolidLine,
                )
            )
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 3, 3)
            if piece.what == "tongue":
                hole = min(box.width(), box.height()) * 0.28
                painter.drawEllipse(box.center(), hole, hole)
            painter.drawText(QPointF(box.center().x() - 3, box.bottom() + line * 0.85), str(number))
        for press in one.crimps_at_mm:
            at = QPointF(tip.x() + press * scale, tip.y() - tall * scale / 2)
            painter.setPen(QPen(theme.HEADING, 2))
            painter.drawLine(at + QPointF(0, -2), at + QPointF(-4, -8))
            painter.drawLine(at + QPointF(0, -2), at + QPointF(4, -8))
        self._dimension(painter, tip.x(), tip.x() + one.strip_mm * scale, room.top() + line, _mm(one.strip_mm))

    def _stepped(self, painter: QPainter, room: QRectF, cut: CableStrip, wire: str, line: float) -> None:
        """The cable's end: jacket, screen folded back, foil, drain, each core as far as its own cavity, tips to the
        left."""
        longest = max(cut.jacket_back_mm, 1.0)
        names = 1.05 * max(QFontMetricsF(theme.font(8.5)).horizontalAdvance(_reach(core)) for core in cut.cores)
        scale = min((room.width() - names - 22) / (longest + 16.0), 12.0)
        edge = room.left() + names + 14 + longest * scale
        middle, tall = room.center().y(), room.height() - 1.6 * line
        thick = min(cut.jacket_mm * scale, 0.5 * tall)
        lanes = max(len(cut.cores) + (1 if cut.drain_mm else 0), 1)
        lane = tall / lanes
        painter.setFont(theme.font(8.5))
        for number, core in enumerate(cut.cores):
            y = room.top() + line + (number + 0.5) * lane
            bend = QPointF(edge - 0.18 * longest * scale, y)
            colour = theme.wire_brush(core.colour) if core.colour else QBrush(theme.PAPER_DIM)
            wide = max(3.0, min(0.5 * lane, 9.0))
            stop, tip = edge - core.free_mm * scale, edge - (core.free_mm + core.strip_mm) * scale
            rim = wide + (2 if core.wire == wire else 0.8)
            for ink, width in ((QBrush(theme.INK), rim), (colour, wide)):
                painter.setPen(_flat(ink, width))
                painter.drawLine(QPointF(edge, middle), bend)
                painter.drawLine(bend, QPointF(stop, y))
            painter.setPen(_flat(QBrush(QColor(COPPER)), max(1.6, 0.5 * wide)))
            painter.drawLine(QPointF(stop, y), QPointF(tip, y))
            painter.setPen(theme.INK)
            painter.drawText(
                QRectF(room.left(), y - line, names + 6, 2 * line), int(Qt.AlignmentFlag.AlignVCenter), _reach(core)
            )
        if cut.drain_mm:
            y = room.top() + line + (len(cut.cores) + 0.5) * lane
            painter.setPen(QPen(theme.SLATE, 2, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(edge, middle), QPointF(edge - 0.18 * longest * scale, y))
            painter.drawLine(QPointF(edge - 0.18 * longest * scale, y), QPointF(edge - cut.drain_mm * scale, y))
            painter.drawText(
                QRectF(room.left(), y - line, names + 6, 2 * line),
                int(Qt.AlignmentFlag.AlignVCenter),
                tr("drain {drain_mm:.0f}", drain_mm=cut.drain_mm),
            )
        painter.setPen(QPen(theme.INK, 1))
        painter.setBrush(theme.GRIP)
        painter.drawRect(QRectF(edge, middle - thick / 2, room.right() - edge, thick))
        if cut.screen != "none":
            painter.setBrush(QBrush(theme.SLATE, Qt.BrushStyle.DiagCrossPattern))
            painter.drawRect(
                QRectF(edge, middle - thick / 2 - 3, min(cut.screen_mm * scale, room.right() - edge), thick + 6)
            )
        self._dimension(
            painter, edge - longest * scale, edge, room.top() + 4, tr("jacket off {longest}", longest=_mm(longest))
        )

    def _dimension(self, painter: QPainter, left: float, right: float, y: float, said: str) -> None:
        painter.setPen(QPen(theme.INK, 1))
        for x in (left, right):
            painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 4))
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        painter.setFont(theme.font(8.5, bold=True))
        painter.drawText(QPointF(right + 6, y + 4), said)


def _mm(value: float) -> str:
    return f"{tenths(value)} mm"


def _reach(core: CoreCut) -> str:
    """A core by its mark, how far it reaches past the jacket and how much of it is bare."""
    return f"{core.mark}  {core.free_mm:.0f} + {core.strip_mm:g}"


def _flat(ink: QBrush, width: float) -> QPen:
    """A pen whose lines end where they end."""
    return QPen(ink, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
