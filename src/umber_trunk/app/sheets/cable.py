"""Is this the cable it says? Readings on the left, the verdict and its evidence on the right."""

from __future__ import annotations

import math
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QHBoxLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.widgets.desk import Desk, Panel, button, row
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.app.widgets.plot import invite
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.catalog.conductors import metals
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.sentences import say
from umber_trunk.core.units import significant
from umber_trunk.core.wirecheck.built import Built, built_with
from umber_trunk.core.wirecheck.evidence import Evidence
from umber_trunk.core.wirecheck.judge import Judged, judge
from umber_trunk.core.wirecheck.judge import Line as ReadLine
from umber_trunk.core.wirecheck.told_readings import ASKED, read_evidence

EXAMPLES = {
    "claim": "35 mm2 copper", "length": "2 m", "mass": "620 g", "od": "11.2 mm", "bundle": "7.7 mm", "strands": "1100x0.2mm", "resistance": "1.1 mohm", "ambient": "20 C",
    "sold": "100 m", "coil_resistance": "55 mohm", "coil_mass": "40 kg",
}  # fmt: skip
SHORT = {
    "claim": "sold as", "length": "piece of", "mass": "weighs", "od": "outer ⌀", "bundle": "bundle ⌀", "strands": "strands", "resistance": "its ohms", "ambient": "air",
    "sold": "coil sold as", "coil_resistance": "coil’s ohms", "coil_mass": "coil’s mass",
}  # fmt: skip
HALF = 6
READ_NAMES = {
    "mass": "mass",
    "od": "outer diameter",
    "bundle": "bundle diameter",
    "strands": "strands",
    "resistance": "resistance",
}


TOGETHER = word("all together")


class _Lane(NamedTuple):
    """A reading's lane: what it alone says of the area [mm²], from where to where; None where it says little."""

    name: str
    area: float | None
    reach: tuple[float, float] | None
    odd: bool


class _Axis(NamedTuple):
    """Areas across a plot, by their logarithms."""

    plot: QRectF
    low: float
    high: float

    def x(self, area: float) -> float:
        """Where an area lies across."""
        share = (math.log(max(area, 1e-6)) - self.low) / (self.high - self.low)
        return self.plot.left() + share * self.plot.width()


def _reach(line: ReadLine) -> tuple[float, float] | None:
    """Two standard deviations either side of what a reading alone says; None where it says little."""
    area, sd = line.area_mm2, line.area_sd_mm2
    return (max(area - 2 * sd, 0.3 * area), area + 2 * sd) if area and sd else None


def _draw_lane(painter: QPainter, left: float, middle: float, lane: _Lane, axis: _Axis) -> None:
    hue, tall = theme.BROKEN if lane.odd else theme.HEADING, QFontMetricsF(painter.font()).height()
    painter.setPen(theme.BROKEN if lane.odd else theme.INK)
    painter.drawText(QPointF(left, middle + tall / 3), lane.name)
    if lane.area is None or lane.reach is None:
        painter.setPen(theme.INK_SOFT)
        painter.drawText(QPointF(axis.plot.left() + 4, middle + tall / 3), tr("says little of the area alone"))
        return
    painter.setPen(QPen(hue, 2.2))
    low, high = map(axis.x, lane.reach)
    painter.drawLine(QPointF(low, middle), QPointF(high, middle))
    for end in (low, high):
        painter.drawLine(QPointF(end, middle - 5), QPointF(end, middle + 5))
    painter.setBrush(hue)
    painter.drawEllipse(QPointF(axis.x(lane.area), middle), 4, 4)


class CheckPanel(Panel):
    """A form for whatever was read, judged as it is typed; without a desk a cable is judged without a harness."""

    def __init__(self, desk: Desk | None) -> None:
        super().__init__(desk)
        self.document = desk.document if desk is not None else None
        form = QGridLayout()
        form.setContentsMargins(0, 0, 8, 0)
        form.setVerticalSpacing(4)
        self.lines: dict[str, QLineEdit] = {}
        for number, (name, asked) in enumerate(ASKED.items()):
            line = self.lines[name] = Line()
            line.setPlaceholderText(EXAMPLES[name])
            line.setAccessibleName(tr(asked))
            line.setToolTip(plain_of(tr(asked)))
            line.setMinimumWidth(64)
            line.textChanged.connect(lambda _: self.judge_now())
            at, side = number % HALF, 2 * (number // HALF)
            form.addWidget(Label(tr(SHORT[name])), at, side)
            form.addWidget(line, at, side + 1)
        self.weighed = QComboBox()
        self.weighed.setAccessibleName(tr("How it was weighed"))
        for said, value in (
            (tr("weighed: nobody said"), ""),
            (tr("weighed bare"), "bare"),
            (tr("weighed with jacket"), "jacketed"),
        ):
            self.weighed.addItem(tr(said), value)
        self.weighed.currentIndexChanged.connect(lambda _: self.judge_now())
        form.addWidget(self.weighed, HALF - 1, 2, 1, 2)
        self.build = button(
            "What would this harness do built with it?",
            self.solve_again,
            tip="Its wires of the claimed size are solved again with the coil’s real figures",
        )
        form.addWidget(self.build, HALF, 0, 1, 4)
        self.build.setVisible(desk is not None)
        form.setRowStretch(HALF + 1, 1)
        self.weighed.setMinimumContentsLength(8)
        self.weighed.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for column in (1, 3):
            form.setColumnStretch(column, 1)
        left = QWidget()
        left.setLayout(form)
        left.setMaximumWidth(round(500 * max(theme.text_scale(), 1.0)))
        self.view = EvidenceView()
        beside = QHBoxLayout()
        beside.addWidget(left, 2)
        beside.addWidget(self.view, 3)
        self.column.addLayout(beside)
        self.solver = Background(self)
        self.solver.answered.connect(self.view.show_built)
        if self.document is not None:
            self.solver.crashed.connect(self.document.crashed)
        self.evidence: Evidence | None = None
        self.judge_now()

    def show_now(self) -> None:
        """Nothing of the document is shown here before it is asked for."""

    def say(self, **said: str) -> None:
        """Fills lines in, the others emptied."""
        for name, line in self.lines.items():
            line.setText(said.get(name, ""))

    def judge_now(self) -> None:
        """Judges what has been typed; a line that can't be read is said and nothing is judged."""
        self.solver.drop()
        self.evidence = None
        try:
            evidence = read_evidence(
                {name: line.text() for name, line in self.lines.items()},
                self.weighed.currentData() or "",
                self.document.design.project.decimal if self.document else "",
            )
            if not evidence.kinds:
                self.view.show_judged(
                    None,
                    tr(
                        "Type whatever you can read off the cable: any one of them says something, three say most of "
                        "it. A ± may follow each."
                    ),
                )
                return
            self.view.show_judged(judge(evidence), "")
            self.evidence = evidence
        except UmberError as why:
            self.view.show_judged(None, str(why))

    def solve_again(self) -> None:
        """Solves the harness with the coil as it is."""
        results, evidence, judged = self.document.now if self.document else None, self.evidence, self.view.judged
        if results is None or evidence is None or judged is None:
            if self.document is not None:
                self.desk.said.emit(tr("Type the claim and at least one reading first."))
            return

        def work(wanted: Wanted) -> Built | str:
            try:
                return built_with(results, evidence, judged, wanted)
            except UmberError as why:
                return str(why)

        self.solver.ask(work)


class CableSheet(QDialog):
    """A cable judged without a harness: the same form in a window of its own."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("A cable to judge"))
        self.resize(1000, 560)
        self.panel = CheckPanel(None)
        close = button("Close  Esc", self.reject)
        close.setAutoDefault(False)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(16, 12, 16, 12)
        whole.addWidget(self.panel, 1)
        whole.addLayout(row(None, close))
        self.panel.lines["claim"].setFocus()


class EvidenceView(QWidget):
    """Verdict, what each reading alone says of the area, what the metals are likely to be."""

    def __init__(self) -> None:
        super().__init__()
        self.judged: Judged | None = None
        self.said = ""
        self.built: Built | str | None = None
        self.setMinimumSize(300, 260)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("Evidence"))

    def show_judged(self, judged: Judged | None, said: str) -> None:
        """Another judgement, or why there is none."""
        self.judged, self.said, self.built = judged, said, None
        self.setAccessibleDescription(str(judged.verdict) if judged is not None else said)
        self.update()

    def show_built(self, built: Built | str) -> None:
        """What the harness would do."""
        self.built = built
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        room = QRectF(self.rect()).adjusted(14, 10, -14, -10)
        if self.judged is None:
            invite(painter, self, self.said, room)
        else:
            self._draw(painter, room, self.judged)
        painter.end()

    def _draw(self, painter: QPainter, room: QRectF, found: Judged) -> None:
        ink = {True: theme.GOOD, False: theme.BROKEN, None: theme.TIGHT_TEXT}[found.claimed]
        mark = {True: "✓ ", False: "✕ ", None: "? "}[found.claimed]
        large = 15.0 if room.width() > 480 * theme.text_scale() else 11.5
        y = self._words(painter, room, f"{mark}{found.verdict:begins}.", large, ink, True)
        if found.length_said:
            y = self._words(
                painter,
                QRectF(room.left(), y, room.width(), 60),
                f"{found.length_said:begins}.",
                11.0,
                theme.INK,
                True,
            )
        if found.next_reading:
            y = self._words(
                painter,
                QRectF(room.left(), y, room.width(), 60),
                say("coil.tells-most-now", what=found.next_reading),
                10.5,
                theme.INK_SOFT,
                False,
            )
        if self.built is not None:
            told = self.built if isinstance(self.built, str) else self._told(self.built)
            bad = not isinstance(self.built, str) and bool(self.built.faults)
            y = self._words(
                painter, QRectF(room.left(), y, room.width(), 100), told, 10.5, theme.BROKEN if bad else theme.INK, bad
            )
        rest = QRectF(room.left(), y + 8, room.width(), room.bottom() - y - 8)
        line = QFontMetricsF(theme.font(9.5)).height()
        if rest.height() < 7.5 * line or rest.width() < 26 * line:  # words: a picture that can't be read is none
            likely = sorted(found.metals.items(), key=lambda item: -item[1])
            told = ", ".join(
                f"{metals()[metal].name} {100 * share:.0f}\u00a0%" for metal, share in likely if share >= 0.005
            )
            self._words(painter, rest, told, 10.5, theme.INK, False)
            return
        self._areas(painter, QRectF(rest.left(), rest.top(), rest.width() * 0.62, rest.height()), found)
        if not found.consistent:
            return  # what contradicts itself says nothing of the metal
        self._metals(
            painter, QRectF(rest.left() + rest.width() * 0.68, rest.top(), rest.width() * 0.32, rest.height()), found
        )

    def _told(self, built: Built) -> str:
        wires = tr(
            "{count} wires would be of it ({wires}{more? …}), reckoned with the worst it can well be, "
            "{cautious_mm2:.3g} mm² {name}",
            count=len(built.wires),
            wires=", ".join(built.wires[:6]),
            more=len(built.wires) > 6,
            cautious_mm2=built.cautious_mm2,
            name=metals()[built.metal].name,
        )
        if not built.faults:
            return tr("{wires}: no new fault.", wires=wires)
        more = tr(" And {count} more.", count=len(built.faults) - 1) if len(built.faults) > 1 else ""
        return tr(
            "✕ {wires}: {count} new faults. {faults}{more}",
            wires=wires,
            count=len(built.faults),
            faults=built.faults[0],
            more=more,
        )

    def _words(self, painter: QPainter, room: QRectF, text: str, point: float, ink: object, bold: bool) -> float:
        face = theme.font(point, bold=bold)
        painter.setFont(face)
        painter.setPen(ink)
        box = QFontMetricsF(face).boundingRect(QRectF(0, 0, room.width(), 9999), int(Qt.TextFlag.TextWordWrap), text)
        painter.drawText(
            QRectF(room.left(), room.top(), room.width(), box.height() + 2), int(Qt.TextFlag.TextWordWrap), text
        )
        return room.top() + box.height() + 5

    def _areas(self, painter: QPainter, room: QRectF, found: Judged) -> None:
        """One lane for each reading: what it alone says of the area, over what all say together."""
        face = theme.font(9.5)
        painter.setFont(face)
        metrics = QFontMetricsF(face)
        lanes = [
            _Lane(tr(READ_NAMES[line.kind]), line.area_mm2, _reach(line), abs(line.sigmas) > 2.6)
            for line in found.lines
        ]
        together = (found.low_mm2, found.high_mm2)
        if found.consistent:
            lanes.append(_Lane(tr(TOGETHER), found.area_mm2, together, False))
        least = [found.least_mm2] if found.least_mm2 else []
        spans = [end for lane in lanes if lane.reach is not None for end in lane.reach]
        low, high = (math.log(most([*together, *spans, *least])) for most in (min, max))
        names = [*(lane.name for lane in lanes), tr(TOGETHER)]
        gutter = max(metrics.horizontalAdvance(name) for name in names) + 10
        top, tall = room.top() + metrics.height() + 4, room.height() - 2.4 * metrics.height() - 4
        many = len(found.lines) + 1
        lane_tall = min(tall / many, 44.0)
        plot = QRectF(room.left() + gutter, top, room.width() - gutter, lane_tall * many)
        axis = _Axis(plot, low - 0.06, high + 0.06)
        if found.consistent:
            left, right = map(axis.x, together)
            painter.fillRect(QRectF(left, plot.top(), right - left, plot.height()), theme.GOOD_PALE)
        if found.least_mm2:
            self._least_sold(painter, room, axis, found.least_mm2)
        for number, lane in enumerate(lanes):
            _draw_lane(painter, room.left(), plot.top() + (number + 0.5) * lane_tall, lane, axis)
        painter.setPen(theme.INK_SOFT)
        sides = (Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignHCenter, Qt.AlignmentFlag.AlignRight)
        below = QRectF(plot.left(), plot.bottom() + 3, plot.width(), metrics.height())
        for value, side in zip((axis.low, (axis.low + axis.high) / 2, axis.high), sides, strict=True):
            painter.drawText(below, int(side), f"{significant(math.exp(value))} mm²")

    def _least_sold(self, painter: QPainter, room: QRectF, axis: _Axis, least_mm2: float) -> None:
        """The least area that may be sold as what it is said to be, as a line with its words above."""
        at = axis.x(least_mm2)
        painter.setPen(QPen(theme.BROKEN, 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(at, axis.plot.top() - 2), QPointF(at, axis.plot.bottom()))
        words = tr("sold: at least {least_mm2} mm²", least_mm2=significant(least_mm2))
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
        left = min(max(at - wide / 2, room.left()), room.right() - wide)
        painter.drawText(QPointF(left, axis.plot.top() - 5), words)

    def _metals(self, painter: QPainter, room: QRectF, found: Judged) -> None:
        """How likely each metal is."""
        face = theme.font(9.5)
        painter.setFont(face)
        metrics = QFontMetricsF(face)
        many = max(min(int(room.height() / (1.75 * metrics.height())), len(found.metals)), 1)
        lane = min(room.height() / many, 2.6 * metrics.height())
        for number, (metal, share) in enumerate(sorted(found.metals.items(), key=lambda item: -item[1])[:many]):
            top = room.top() + number * lane
            painter.setPen(theme.INK)
            name = metrics.elidedText(
                metals()[metal].name, Qt.TextElideMode.ElideMiddle, room.width() - metrics.horizontalAdvance("100 %  ")
            )
            painter.drawText(
                QRectF(room.left(), top, room.width(), metrics.height()), int(Qt.AlignmentFlag.AlignLeft), name
            )
            painter.drawText(
                QRectF(room.left(), top, room.width(), metrics.height()),
                int(Qt.AlignmentFlag.AlignRight),
                f"{100 * share:.0f} %",
            )
            bar = QRectF(room.left(), top + metrics.height() + 1, room.width(), 7)
            painter.fillRect(bar, theme.PAPER_DIM)
            painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * share, bar.height()), theme.HEADING)
