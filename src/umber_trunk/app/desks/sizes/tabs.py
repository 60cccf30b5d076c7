"""The pictures beside the margins: heated cross-section, where the volts go, fuse against wire."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plot import invite
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.explain.closeup import Closeup, FusePicture, Section
from umber_trunk.core.units import significant
from umber_trunk.core.usual import MET


def heat_colour(celsius: float, low: float, high: float) -> QColor:
    """From pale verdigris at `low` through ochre to oxide at `high`."""
    share = min(max((celsius - low) / max(high - low, 1.0), 0.0), 1.0)
    stops = (QColor("#9cc7bb"), QColor("#e3b34a"), QColor("#b03a24"))
    a, b = (stops[0], stops[1]) if share < 0.5 else (stops[1], stops[2])
    t = share * 2 if share < 0.5 else share * 2 - 1
    red, green, blue = (
        x + (y - x) * t for x, y in ((a.redF(), b.redF()), (a.greenF(), b.greenF()), (a.blueF(), b.blueF()))
    )
    return QColor.fromRgbF(red, green, blue)


class Picture(QWidget):
    """A painted answer with a sentence when there is nothing to draw."""

    nothing = ""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.closeup: Closeup | None = None
        self.setAccessibleName(name)
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)

    def show_closeup(self, found: Closeup) -> None:
        """Draws another wire."""
        self.closeup = found
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        if self.closeup is None:
            invite(painter, self, tr("Choose a wire: its picture stands here once it is worked out."))
        elif not self.draw(painter, self.closeup):
            invite(painter, self, tr(self.nothing))

    def draw(self, painter: QPainter, found: Closeup) -> bool:
        """Draws; False when there is nothing to draw."""
        raise NotImplementedError


class SectionPicture(Picture):
    """A bundle, each conductor in the colour of its temperature."""

    nothing = word("This wire is on no bundle yet: lay it onto the trunk.")

    def draw(self, painter: QPainter, found: Closeup) -> bool:
        section = found.section
        if section is None:
            return False
        side = min(self.height() - 12.0, self.width() * 0.55)
        scale = side / max(section.diameter_mm + 2 * section.sleeve_mm, 0.1)
        middle = QPointF(8 + side / 2, self.height() / 2)
        hottest = max(wire.celsius for wire in section.wires)
        painter.setPen(QPen(theme.INK_SOFT, max(1.5, section.sleeve_mm * scale)))
        painter.setBrush(theme.PAPER_DIM)
        radius = section.diameter_mm / 2 * scale
        painter.drawEllipse(middle, radius, radius)
        for wire in section.wires:
            at = middle + QPointF(wire.x, wire.y) * scale
            mine = wire.wire_id == found.wire_id
            painter.setPen(QPen(theme.INK, 3 if mine else 1))
            painter.setBrush(heat_colour(wire.celsius, section.ambient_c, hottest))
            outer = wire.outer_mm / 2 * scale
            painter.drawEllipse(at, outer, outer)
            painter.setBrush(QColor("#8c6239"))
            painter.setPen(Qt.PenStyle.NoPen)
            core = wire.conductor_mm / 2 * scale
            painter.drawEllipse(at, core, core)
            self._label(painter, at, core, wire.celsius)
        self._words(painter, section, found.wire_id, side + 22)
        return True

    def _label(self, painter: QPainter, at: QPointF, core: float, celsius: float) -> None:
        font = theme.font(min(9.0, max(core * 0.55, 0.1)))
        if core < 11:
            return
        painter.setFont(font)
        painter.setPen(QColor("white"))
        painter.drawText(
            QRectF(at.x() - core, at.y() - core, 2 * core, 2 * core), Qt.AlignmentFlag.AlignCenter, f"{celsius:.0f}°"
        )

    def _words(self, painter: QPainter, section: Section, wire_id: str, left: float) -> None:
        ranked = sorted(section.wires, key=lambda wire: -wire.celsius)
        mine = [wire for wire in ranked if wire.wire_id == wire_id][:1]
        lines = [
            f"{section.name}",
            tr("{count} wires", count=len(section.wires)),
            tr(
                "⌀ {diameter_mm:.1f} mm, air {ambient_c:.0f} °C",
                diameter_mm=section.diameter_mm,
                ambient_c=section.ambient_c,
            ),
            tr("case: {case}", case=section.case),
            "",
            "hottest:",
            *(f"{w.celsius:.0f} °C  {w.name}  {significant(w.amps, 2)} A" for w in ranked[:4]),
        ]
        if mine and mine[0] not in ranked[:4]:
            lines += [tr("this wire:"), f"{mine[0].celsius:.0f} °C  {significant(mine[0].amps, 2)} A"]
        painter.setFont(theme.font(9))
        painter.setPen(theme.INK)
        height = QFontMetricsF(theme.font(9)).height()
        metrics = QFontMetricsF(theme.font(9))
        for number, line in enumerate(lines):
            shown = metrics.elidedText(line, Qt.TextElideMode.ElideRight, self.width() - left - 4)
            painter.drawText(QPointF(left, 14 + number * height), shown)


class VoltsPicture(Picture):
    """Stairs from the source's volts down to the load's: the widest step is where the volts go."""

    nothing = word("No load depends on this wire.")

    def draw(self, painter: QPainter, found: Closeup) -> bool:
        path = found.volts
        if path is None or not path.steps:
            return False
        font, metrics = theme.font(8.5), QFontMetricsF(theme.font(8.5))
        painter.setFont(theme.font(9, bold=True))
        painter.setPen(theme.INK)
        title = (
            f"{path.load}: {path.nominal_v:g} V − {path.nominal_v - path.load_v:.2f} V = {path.load_v:.2f} V, "
            f"{path.case}"
        )
        painter.drawText(QPointF(8, 15), metrics.elidedText(title, Qt.TextElideMode.ElideRight, self.width() / 1.05))
        painter.setFont(font)
        names = [step.name for step in path.steps if step.volts > 1e-4]
        steps = [step for step in path.steps if step.volts > 1e-4]
        label = min(max(metrics.horizontalAdvance(name) for name in names) + 12, self.width() * 0.4)
        lane = QRectF(label + 8, 24, self.width() - label - 64, self.height() - 42)
        worst = max(path.allowed_v, path.nominal_v - path.load_v) * 1.04
        line = min(lane.height() / max(len(steps), 1), metrics.height() * 1.5)
        gone = 0.0
        for number, step in enumerate(steps):
            y = lane.top() + number * line
            self._step(painter, QRectF(8, y, label, line), step.name, step.mine)
            start, stop = (lane.left() + lane.width() * value / worst for value in (gone, gone + step.volts))
            colour = {"feed": theme.BROKEN, "return": theme.RETURN, "joint": theme.TIGHT}.get(step.kind, theme.SLATE)
            painter.fillRect(QRectF(start, y + line * 0.2, max(stop - start, 1.5), line * 0.6), colour)
            painter.setPen(theme.INK)
            painter.drawText(QPointF(stop + 4, y + line * 0.72), f"{1000 * step.volts:.0f} mV")
            gone += step.volts
        limit = lane.left() + lane.width() * path.allowed_v / worst
        painter.setPen(QPen(theme.INK, 1.5, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(limit, lane.top() - 4), QPointF(limit, lane.bottom()))
        text = tr("allowed {allowed_v:.2f} V: {rule}", allowed_v=path.allowed_v, rule=path.rule)
        painter.drawText(
            QPointF(
                min(limit - metrics.horizontalAdvance(text) / 2, self.width() - metrics.horizontalAdvance(text) - 4),
                self.height() - 5,
            ),
            text,
        )
        return True

    def _step(self, painter: QPainter, box: QRectF, name: str, mine: bool) -> None:
        painter.setFont(theme.font(8.5, bold=mine))
        painter.setPen(theme.INK)
        shown = QFontMetricsF(painter.font()).elidedText(name, Qt.TextElideMode.ElideRight, box.width() - 4)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, shown)


class FusePictureView(Picture):
    """Time over current, both by decades: the fuse's band, the wire's limit, surges, fault current."""

    nothing = word("No fuse guards this wire.")

    def draw(self, painter: QPainter, found: Closeup) -> bool:
        fuse = found.fuse
        if fuse is None:
            return False
        top = self._legend(painter, fuse)
        lane = QRectF(52, top, self.width() - 64, self.height() - top - 24)
        self._axes(painter, lane, fuse)
        painter.setClipRect(lane)
        band = [self._at(lane, fuse, a, s) for a, s in zip(fuse.amps, fuse.fastest_s, strict=True)]
        back = [self._at(lane, fuse, a, s) for a, s in zip(fuse.amps, fuse.slowest_s, strict=True)]
        painter.setPen(QPen(theme.GOOD, 1.5))
        painter.setBrush(theme.GOOD_PALE)
        painter.drawPolygon(QPolygonF([*band, *reversed(back)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.BROKEN, 2.5, Qt.PenStyle.DashLine))
        painter.drawPolyline(
            QPolygonF([self._at(lane, fuse, a, s) for a, s in zip(fuse.amps, fuse.damage_s, strict=True)])
        )
        fault = self._at(lane, fuse, fuse.fault_a, 1).x()
        painter.setPen(QPen(theme.SLATE, 1.5, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(fault, lane.top()), QPointF(fault, lane.bottom()))
        for amps, seconds, _ in fuse.surges:
            painter.setPen(QPen(theme.INK, 1))
            painter.setBrush(theme.TIGHT)
            at = self._at(lane, fuse, amps, seconds)
            painter.drawPolygon(QPolygonF([at + QPointF(0, -6), at + QPointF(6, 5), at + QPointF(-6, 5)]))
        painter.setClipping(False)
        return True

    def _at(self, lane: QRectF, fuse: FusePicture, amps: float, seconds: float) -> QPointF:
        left, right = (
            math.log10(fuse.amps[0]),
            math.log10(max(fuse.amps[-1], 1.05 * min(fuse.fault_a, 60 * fuse.rating_a))),
        )
        x = (math.log10(max(amps, 1e-6)) - left) / (right - left)
        y = (math.log10(min(max(seconds, 1e-3), 1e5)) + 2) / 6
        return QPointF(lane.left() + x * lane.width(), lane.bottom() - y * lane.height())

    def _axes(self, painter: QPainter, lane: QRectF, fuse: FusePicture) -> None:
        painter.setFont(theme.font(8))
        for power, text in enumerate(("10 ms", "100 ms", "1 s", "10 s", "100 s", "1000 s", "3 h")):
            y = lane.bottom() - power / 6 * lane.height()
            painter.setPen(QPen(theme.PAPER_DIM, 1))
            painter.drawLine(QPointF(lane.left(), y), QPointF(lane.right(), y))
            painter.setPen(theme.INK_SOFT)
            painter.drawText(
                QRectF(0, y - 8, 48, 16), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text
            )
        ticks = [t for d in range(5) for t in (10.0**d, 2 * 10.0**d, 3 * 10.0**d, 5 * 10.0**d, 7 * 10.0**d)]
        last = -99.0
        for tick in ticks:
            x = self._at(lane, fuse, tick, 1).x()
            if lane.left() <= x <= lane.right() and x - last > 38:
                last = x
                painter.setPen(QPen(theme.PAPER_DIM, 1))
                painter.drawLine(QPointF(x, lane.top()), QPointF(x, lane.bottom()))
                painter.setPen(theme.INK_SOFT)
                painter.drawText(QRectF(x - 30, lane.bottom() + 2, 60, 14), Qt.AlignmentFlag.AlignCenter, f"{tick:g} A")

    def _legend(self, painter: QPainter, fuse: FusePicture) -> float:
        """The verdict, wrapped, and the key; gives the height they take."""
        painter.setFont(theme.font(9, bold=True))
        broken = fuse.judged.used > MET or "may open" in fuse.verdict
        painter.setPen(theme.BROKEN if broken else theme.GOOD)
        box = QRectF(8, 2, self.width() - 16, 200)
        taken = painter.boundingRect(box, int(Qt.TextFlag.TextWordWrap), fuse.verdict)
        painter.drawText(box, int(Qt.TextFlag.TextWordWrap), fuse.verdict)
        painter.setFont(theme.font(8.5))
        metrics = QFontMetricsF(painter.font())
        parts = [
            (theme.GOOD, tr("fuse {fuse}", fuse=fuse.fuse)), (theme.BROKEN, tr("wire stands it so long")),
            (theme.SLATE, tr("fault {fault_a} A", fault_a=significant(fuse.fault_a, 2))), *([(theme.TIGHT, "start")] if fuse.surges else []),
        ]  # fmt: skip
        x, y = 8.0, taken.bottom() + 14
        for colour, text in parts:
            wide = 26 + metrics.horizontalAdvance(text)
            if x + wide > self.width() - 4 and x > 8:
                x, y = 8.0, y + metrics.height() + 2
            painter.fillRect(QRectF(x, y - 9, 12, 8), colour)
            painter.setPen(theme.INK)
            painter.drawText(QPointF(x + 16, y), text)
            x += wide
        return y + 12
