"""What lies along and side by side, drawn: a comb round its bends, a limb with its coverings and splices to scale, what
was found of what was planned."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from umber_trunk.app import theme
from umber_trunk.app.widgets.plot import invite, scale_below
from umber_trunk.app.widgets.readable import DrawnPane, Part
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.catalog.hues import code_of
from umber_trunk.core.harness.way import CoverKind

STRAIGHT = 0.55
"""Straight pieces of a comb's picture, as a share of the radius of its bends; their true length stands in the list."""


class Picture(DrawnPane):
    """A drawing with a sentence where there is nothing to draw. A subclass draws in `draw` and says in `empty` what to
    do."""

    empty = ""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.drawn: dict[str, QRectF] = {}
        """Where each named part was painted."""
        self.setMinimumHeight(90)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(name)

    def parts_told(self) -> list[Part]:
        return [(box, name, self.accessibleName()) for name, box in self.drawn.items()]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        painter.setFont(theme.font(9))
        self.drawn = {}
        if not self.draw(painter, QRectF(self.rect()).adjusted(12, 8, -12, -8)):
            invite(painter, self, tr(self.empty))
        painter.end()
        self.heard()

    def draw(self, painter: QPainter, room: QRectF) -> bool:
        """Draws it; False where there is nothing."""
        raise NotImplementedError


@dataclass(frozen=True)
class Ribbon:
    """A wire of a comb: its colours and how much longer than the ribbon's middle it is."""

    wire: str
    colour: str
    stripe: str
    extra_mm: float


class CombView(Picture):
    """A comb round its bends, seen flat; outside its bends a wire has further to go."""

    to_scale = True  # a pane as wide or as tall as its drawing is full
    empty = word("Choose a comb: its wires round the bends, with what each has further to go.")

    def __init__(self) -> None:
        super().__init__(tr("The comb round its bends"))
        self.wires: tuple[Ribbon, ...] = ()
        self.turns: tuple[float, ...] = ()

    def show_comb(self, wires: Sequence[Ribbon], turns_deg: Sequence[float]) -> None:
        """Another comb, none for no wires."""
        self.wires, self.turns = tuple(wires), tuple(turns_deg)
        self.setAccessibleDescription("; ".join(f"{one.wire} {one.extra_mm:+.1f} mm" for one in wires))
        self.update()

    def draw(self, painter: QPainter, room: QRectF) -> bool:
        """The middle line from left to right, each wire beside it."""
        if not self.wires:
            return False
        many, metrics = len(self.wires), QFontMetricsF(painter.font())
        said = [
            f"{one.wire} {code_of(one.colour, one.stripe)}  {one.extra_mm:+.1f} mm".replace("-", "−")
            for one in self.wires
        ]
        gutter = max(map(metrics.horizontalAdvance, said)) + 14
        plot = room.adjusted(4, 4, -gutter, -4)
        half = (many - 1) / 2
        apart = 0.24 / max(half, 1.0)  # of the bends' radius: the ribbon is drawn wide, so that its bend is seen
        lines = [bent(self.turns, apart * (n - half)) for n in range(many)]
        xs, ys = [p.x() for line in lines for p in line], [p.y() for line in lines for p in line]
        scale = min(plot.width() / max(max(xs) - min(xs), 1e-9), plot.height() / max(max(ys) - min(ys), 1e-9))
        corner = QPointF(plot.right() - max(xs) * scale, plot.center().y() - (min(ys) + max(ys)) / 2 * scale)
        wide = min(max(0.62 * apart * scale, 2.0), 12.0)
        ends = []
        for one, line in zip(self.wires, lines, strict=True):
            way = QPolygonF([corner + point * scale for point in line])
            painter.setPen(QPen(theme.INK, wide + 1.6))
            painter.drawPolyline(way)
            painter.setPen(QPen(theme.wire_brush(one.colour) if one.colour else QBrush(theme.GRIP), wide))
            painter.drawPolyline(way)
            if one.stripe:
                painter.setPen(QPen(theme.wire_brush(one.stripe), 0.3 * wide))
                painter.drawPolyline(way)
            ends.append(way.at(way.size() - 1))
        line_high = metrics.height() + 1
        tall = line_high * many
        top = min(max(sum(end.y() for end in ends) / many - tall / 2, room.top()), room.bottom() - tall)
        order = sorted(range(many), key=lambda n: ends[n].y())
        for place, n in enumerate(order):
            y = top + place * line_high
            if y + line_high > room.bottom() + 2:
                break
            box = QRectF(plot.right() + 14, y, gutter - 6, line_high)
            painter.setPen(QPen(theme.PAPER_DIM, 1))
            painter.drawLine(ends[n], QPointF(box.left() - 3, box.center().y()))
            painter.setPen(theme.INK)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignVCenter), said[n])
            self.drawn[self.wires[n].wire] = box
        return True


def bent(turns_deg: Sequence[float], aside: float) -> list[QPointF]:
    """A wire `aside` of the middle line (below it: +) of a ribbon with these bends of radius 1, + towards the first
    wire, which lies above."""
    x, y, heading = 0.0, 0.0, 0.0
    found = []

    def at() -> QPointF:
        return QPointF(x - math.sin(heading) * aside, y + math.cos(heading) * aside)

    found.append(at())
    for turn in turns_deg or (0.0,):
        x, y = x + STRAIGHT * math.cos(heading), y + STRAIGHT * math.sin(heading)
        found.append(at())
        way = -math.radians(turn)  # + turns towards the first wire: up
        for _ in range(24):
            step = way / 24
            x, y = x + abs(step) * math.cos(heading + step / 2), y + abs(step) * math.sin(heading + step / 2)
            heading += step
            found.append(at())
    x, y = x + STRAIGHT * math.cos(heading), y + STRAIGHT * math.sin(heading)
    found.append(at())
    return found


@dataclass(frozen=True)
class Piece:
    """Something on a limb from–to in mm: a covering of a kind, or a splice (`kind` None)."""

    name: str
    from_mm: float
    to_mm: float
    kind: CoverKind | None
    ok: bool = True


class LimbView(Picture):
    """A limb with what goes over it and what is joined in it, to scale from its a-side."""

    empty = word("Choose a row: its limb with coverings and splices to scale.")

    def __init__(self) -> None:
        super().__init__(tr("The limb to scale"))
        self.setMinimumHeight(76)
        self.name, self.long_mm, self.ends = "", 0.0, ("", "")
        self.pieces: tuple[Piece, ...] = ()

    def show_limb(self, name: str, long_mm: float, ends: tuple[str, str], pieces: Sequence[Piece]) -> None:
        """Another limb."""
        self.name, self.long_mm, self.ends, self.pieces = name, long_mm, ends, tuple(pieces)
        self.setAccessibleDescription(
            tr("{name}, {long_mm:.0f} mm: ", name=name, long_mm=long_mm)
            + "; ".join(
                tr("{one} {from_mm:.0f} to {to_mm:.0f} mm", one=one.name, from_mm=one.from_mm, to_mm=one.to_mm)
                for one in pieces
            )
        )
        self.update()

    def draw(self, painter: QPainter, room: QRectF) -> bool:
        """Coverings in rows over the bundle where they overlap, splices on it."""
        if self.long_mm <= 0:
            return False
        metrics = QFontMetricsF(painter.font())
        line = metrics.height()
        low, high = (
            min(0.0, *(one.from_mm for one in self.pieces)) if self.pieces else 0.0,
            max(self.long_mm, *(one.to_mm for one in self.pieces)) if self.pieces else self.long_mm,
        )
        plot = QRectF(room.left(), room.top() + line + 2, room.width(), room.height() - 2.4 * line)

        def x(mm: float) -> float:
            return plot.left() + (mm - low) / (high - low) * plot.width()

        scale_below(painter, plot, low, high, lambda value: f"{value:g} mm")
        painter.setPen(theme.HEADING)
        for left, side, words in (
            (room.left(), Qt.AlignmentFlag.AlignLeft, f"{self.name}  from {self.ends[0]}"),
            (room.center().x(), Qt.AlignmentFlag.AlignRight, f"to {self.ends[1]}"),
        ):
            shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, room.width() / 2)
            painter.drawText(QRectF(left, room.top(), room.width() / 2, line), int(side), shown)
        covers, splices = (
            [one for one in self.pieces if one.kind is not None],
            [one for one in self.pieces if one.kind is None],
        )
        rows = _rows(covers)
        tall = min((plot.height() - (line if splices else 0.0) - 6) / (len(rows) + 1.4), 2.2 * line)
        y = plot.top() + 4
        for row in rows:
            for one in row:
                self._cover(
                    painter, QRectF(x(one.from_mm), y, max(x(one.to_mm) - x(one.from_mm), 3.0), tall - 4), one, metrics
                )
            y += tall
        trunk = QRectF(x(0.0), y + 0.35 * tall, x(self.long_mm) - x(0.0), 0.6 * tall)
        painter.setPen(QPen(theme.INK, 1))
        painter.setBrush(theme.INK_SOFT)
        painter.drawRoundedRect(trunk, 3, 3)
        for one in splices:
            box = QRectF(x(one.from_mm), trunk.top() - 4, max(x(one.to_mm) - x(one.from_mm), 5.0), trunk.height() + 8)
            self._splice(painter, box, one, plot)
        return True

    def _splice(self, painter: QPainter, box: QRectF, one: Piece, plot: QRectF) -> None:
        """A splice on the bundle, its name under it."""
        metrics = QFontMetricsF(painter.font())
        painter.setPen(QPen(theme.HEADING if one.ok else theme.BROKEN, 1.4))
        painter.setBrush(theme.TIGHT_PALE if one.ok else theme.BROKEN_PALE)
        painter.drawRoundedRect(box, 5, 5)
        wide = min(metrics.horizontalAdvance(one.name), 0.4 * plot.width())
        left = min(max(box.center().x() - wide / 2, plot.left()), plot.right() - wide)
        painter.setPen(theme.INK if one.ok else theme.BROKEN)
        painter.drawText(
            QRectF(left, box.bottom() + 1, wide, metrics.height()),
            int(Qt.AlignmentFlag.AlignLeft),
            metrics.elidedText(one.name, Qt.TextElideMode.ElideRight, wide),
        )
        self.drawn[one.name] = box

    def _cover(self, painter: QPainter, box: QRectF, one: Piece, metrics: QFontMetricsF) -> None:
        pattern = {
            CoverKind.TAPE: Qt.BrushStyle.BDiagPattern,
            CoverKind.SLEEVE: Qt.BrushStyle.DiagCrossPattern,
            CoverKind.SHRINK: Qt.BrushStyle.Dense6Pattern,
        }.get(one.kind or CoverKind.TUBE)
        ink = theme.GRIP if one.ok else theme.BROKEN
        painter.setPen(QPen(ink, 1.4))
        painter.setBrush(theme.PAPER_DIM)
        painter.drawRect(box)
        if pattern is not None:
            painter.fillRect(box, pattern)
        said = one.name + ("" if one.ok else " ✕")
        wide = metrics.horizontalAdvance(said) + 8
        if box.width() > 30:
            label = QRectF(
                box.left() + 3, box.center().y() - metrics.height() / 2, min(wide, box.width() - 6), metrics.height()
            )
            painter.fillRect(label, theme.PAPER_BRIGHT)
            painter.setPen(theme.INK if one.ok else theme.BROKEN)
            painter.drawText(
                label.adjusted(3, 0, 0, 0),
                int(Qt.AlignmentFlag.AlignVCenter),
                metrics.elidedText(said, Qt.TextElideMode.ElideRight, label.width() - 4),
            )
        self.drawn[one.name] = box


def _rows(pieces: Sequence[Piece]) -> list[list[Piece]]:
    """Pieces in as few rows as leave none over another: what lies further in first."""
    rows: list[list[Piece]] = []
    for one in pieces:
        row = next(
            (row for row in rows if all(one.from_mm >= other.to_mm or one.to_mm <= other.from_mm for other in row)),
            None,
        )
        if row is None:
            rows.append([one])
        else:
            row.append(one)
    return rows[::-1]  # what goes on last is outermost: drawn on top


class LearntView(Picture):
    """What was found of what was planned: a dot a pair, the line learnt, and where the next one lies nineteen times in
    twenty."""

    empty = word("Choose a way of measuring: each planned and found length of built harnesses as a dot.")

    def __init__(self) -> None:
        super().__init__(tr("Planned and found lengths"))
        self.pairs: tuple[tuple[float, float], ...] = ()
        self.bias, self.share, self.sure = 0.0, 0.0, False

    def show_pairs(self, pairs: Sequence[tuple[float, float]], bias: float, share: float, sure: bool) -> None:
        """Pairs (planned m, found m), how far off they are on the whole, the ± of the next, whether that is told by
        enough."""
        self.pairs, self.bias, self.share, self.sure = tuple(pairs), bias, share, sure
        self.setAccessibleDescription(tr("{count} pairs, {bias:+.2f} %", count=len(self.pairs), bias=100 * bias))
        self.update()

    def draw(self, painter: QPainter, room: QRectF) -> bool:
        """Planned to the right, how far off upwards."""
        if not self.pairs:
            return False
        metrics = QFontMetricsF(painter.font())
        off = [1e3 * (found - planned) for planned, found in self.pairs]
        longest = max(planned for planned, _ in self.pairs) * 1.06
        wide = self.share if math.isfinite(self.share) else 0.0
        edge = 1e3 * longest * (abs(self.bias) + wide)
        most = 1.1 * max(*(abs(value) for value in off), edge, 1.0)
        gutter = max(map(metrics.horizontalAdvance, (tr("+{most:.0f} mm", most=most), tr("as planned")))) + 8
        plot = room.adjusted(gutter, 4, -4, -1.5 * metrics.height())

        def at(planned: float, mm: float) -> QPointF:
            return QPointF(
                plot.left() + planned / longest * plot.width(), plot.center().y() - mm / most * plot.height() / 2
            )

        scale_below(painter, plot, 0.0, longest, lambda value: f"{value:g} m")
        if wide:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.GOOD_PALE if self.sure else theme.PAPER_DIM)
            low, high = 1e3 * longest * (self.bias - wide), 1e3 * longest * (self.bias + wide)
            painter.drawPolygon(QPolygonF([at(0.0, 0.0), at(longest, high), at(longest, low)]))
        painter.setPen(QPen(theme.INK_SOFT, 1))
        painter.drawLine(at(0.0, 0.0), at(longest, 0.0))
        painter.setPen(QPen(theme.GOOD, 2, Qt.PenStyle.SolidLine if self.sure else Qt.PenStyle.DashLine))
        painter.drawLine(at(0.0, 0.0), at(longest, 1e3 * longest * self.bias))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.INK)
        for (planned, _), mm in zip(self.pairs, off, strict=True):
            painter.drawEllipse(at(planned, mm), 3.2, 3.2)
        painter.setPen(theme.INK_SOFT)
        for mm, words in (
            (most, tr("+{most:.0f} mm", most=most)),
            (0.0, tr("as planned")),
            (-most, tr("−{most:.0f} mm", most=most)),
        ):
            y = at(0.0, mm).y()
            box = QRectF(
                room.left(),
                min(max(y - metrics.height() / 2, room.top()), plot.bottom() - metrics.height()),
                gutter - 6,
                metrics.height(),
            )
            painter.drawText(
                box,
                int(Qt.AlignmentFlag.AlignRight),
                metrics.elidedText(words, Qt.TextElideMode.ElideRight, box.width()),
            )
        painter.setPen(theme.GOOD)
        painter.drawText(
            QRectF(plot.left() + 8, plot.top(), plot.width() - 16, metrics.height()),
            int(Qt.AlignmentFlag.AlignRight),
            self._said(wide),
        )
        self.drawn["line"] = plot
        return True

    def _said(self, wide: float) -> str:
        """How far off in all, and how sure that is."""
        spread = f" ± {100 * wide:.2f} %" if wide else ""
        return f"{100 * self.bias:+.2f} %{spread}" + ("" if self.sure else tr(", too few pairs"))
