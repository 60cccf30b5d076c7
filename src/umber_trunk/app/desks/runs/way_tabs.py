"""The tabs of the Runs desk beside its segments: lengths, coverings, splices, what lies side by side, what the shop has
learned."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.desks.runs.way_views import LimbView, Piece
from umber_trunk.app.widgets.desk import Desk, Panel, hint
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.explain.about_wires import why_cut
from umber_trunk.core.harness.edits import Edit, change, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Fitting, Wire
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.language.hear import way_line
from umber_trunk.core.lengths.wire_length import WireLength
from umber_trunk.core.lengths.wire_lengths import PARTS, least_lead_m, wire_lengths
from umber_trunk.core.quantity import Habit as Separators
from umber_trunk.core.units import counted, show_length
from umber_trunk.core.why import Derivation

SHADES = ("#6d503d", "#c58a17", "#a58a6e", "#22665c", "#5d6a70", "#bf8f6a", "#a83520", "#8fb8ae")
NIGHT_SHADES = ("#c79a6b", "#dca63c", "#a58a6e", "#62bdac", "#9fb0b8", "#8a6a50", "#ff9479", "#4f7f76")
"""Path, bends, twist, loops, entry, strip, remakes, extra: by day and by night."""


def shades() -> tuple[QColor, ...]:
    """The colours of the parts of a length, in their order."""
    return tuple(QColor(name) for name in (NIGHT_SHADES if theme.is_dark() else SHADES))


class LengthsPanel(Panel):
    """Every wire: its bar of parts, what to cut, how sure; below it the reasons of the chosen one."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.told = Label()
        self.longest = 1.0
        self.rows = desk.table("Lengths", "lengths", self._columns(), lambda r: r.wire)
        self.rows.current.connect(self._moved)
        self.reasons = hint("")
        self.key = Bars(self)
        self.column.addWidget(self.told)
        self.column.addWidget(self.key)
        self.column.addWidget(self.rows)
        self.column.addWidget(self.reasons)

    def show_now(self) -> None:
        results = self.desk.document.now
        if results is None or not results.has(wire_lengths):
            return
        found = list(results.once(wire_lengths).values())
        self.longest = max((one.cut_m for one in found), default=1.0) or 1.0
        self.rows.show_rows(found)
        worst = max(found, key=lambda one: one.chance_short, default=None)
        spare = sum(one.extra_m for one in found)
        self.told.setText(
            (
                tr(
                    "{count} wires, {found:.1f} m to cut, {spare:.2f} m of it against coming up short",
                    count=len(found),
                    found=sum((one.cut_m for one in found)),
                    spare=spare,
                )
            )
            + (
                tr("; {wire} likeliest to, {chance_short}.", wire=worst.wire, chance_short=_chance(worst.chance_short))
                if worst
                else "."
            )
        )
        self._moved(self.rows.chosen_id())

    def _moved(self, wire: str) -> None:
        results = self.desk.document.now
        one = results.once(wire_lengths).get(wire) if results is not None and results.has(wire_lengths) else None
        if one is None:
            self.reasons.setText(tr("Choose a wire: its length part by part, with why."))
            return
        told = [share.said for share in one.shares if abs(share.metres) > 5e-5]
        index = index_of(self.desk.document.design)
        if index.wires[wire].lead is not None and results is not None:
            least = least_lead_m(results, index.wires[wire])
            told.append(
                tr(
                    "stiff lead: no run under {least:.0f} mm bends wide enough between its clock angles",
                    least=1000.0 * least,
                )
            )
        if index.loops:
            part = index.wires[wire]
            a, b = index.ends[part.start.end].point, index.ends[part.finish.end].point
            ways = index.ways.alternatives(a, b, 3) if a and b else []
            told += [
                "way " + " ".join(way) + f" {show_length(sum(index.segments[name].measure.length_m for name in way))}"
                for way in ways
            ]
        self.reasons.setText("   ·   ".join(told).replace(" -", " −"))

    def _why(self, one: WireLength) -> Derivation:
        results = self.desk.document.results
        assert results is not None
        return why_cut(results, one.wire)

    def bar(self, one: WireLength) -> list[tuple[QColor, float]]:
        """Parts as shares of the longest cut. What a bend saves is taken off the path, so that the bar is as long as
        the cut."""
        metres = [share.metres for share in one.shares]
        saved = sum(min(part, 0.0) for part in metres[1:])
        shown = [max(metres[0] + saved, 0.0), *(max(part, 0.0) for part in metres[1:])]
        return [(shade, part / self.longest) for shade, part in zip(shades(), shown, strict=True)]

    def _columns(self) -> list[Column]:
        def wire_of(one: WireLength) -> Wire:
            return index_of(self.desk.document.design).wires[one.wire]

        def via(one: WireLength, text: str) -> Edit:
            words = text.split()
            return way_line(f"pin {one.wire} to {' '.join(words)}" if words else f"unpin {one.wire}")(Separators(""))

        def remakes(one: WireLength, text: str) -> Edit:
            return remakes_edit(wire_of(one), text)

        def times(one: WireLength) -> str:
            usual = self.desk.document.design.project.remakes
            wire = wire_of(one)
            sides = [(side or Fitting()).remakes for side in (wire.at_start, wire.at_finish)]
            return " / ".join(str(usual if side is None else side) for side in sides)

        return [
            Column("Wire", lambda r: r.wire, width=58),
            Column(
                "Cut", lambda r: f"{1e3 * r.cut_m:.0f} mm", right=True, why=self._why, key=lambda r: r.cut_m, width=86
            ),
            Column(
                "Finished",
                lambda r: f"{1e3 * r.finished_m:.0f} mm",
                right=True,
                why=self._why,
                key=lambda r: r.finished_m,
                width=86,
            ),
            Column("σ", lambda r: f"{1e3 * r.sd_m:.1f}", right=True, why=self._why, key=lambda r: r.sd_m, width=52),
            Column(
                "Short",
                lambda r: _chance(r.chance_short),
                right=True,
                why=self._why,
                key=lambda r: r.chance_short,
                width=66,
            ),
            Column("Remakes", times, remakes, right=True, width=76),
            Column("Pinned to", lambda r: " ".join(wire_of(r).via), via, width=84),
            Column("Parts of it", lambda r: "", stack=self.bar, why=self._why, width=-1),
        ]


class Bars(QWidget):
    """The key to the colours of the bars."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAccessibleName(", ".join(PARTS))
        self.setMinimumHeight(18)

    def sizeHint(self) -> QSize:
        return QSize(400, int(theme.text_scale() * 20))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        try:
            painter.setFont(theme.font(9))
            metrics, x = QFontMetricsF(painter.font()), 0.0
            for part, shade in zip(PARTS, shades(), strict=True):
                painter.fillRect(QRectF(x, self.height() / 2 - 5, 12, 10), shade)
                painter.setPen(theme.INK_SOFT)
                wide = metrics.horizontalAdvance(part)
                painter.drawText(QRectF(x + 17, 0, wide + 4, self.height()), int(Qt.AlignmentFlag.AlignVCenter), part)
                x += 17 + wide + 18
        finally:
            painter.end()


def _chance(chance: float) -> str:
    return f"{100 * chance:.1f} %" if chance >= 5e-4 else "< 0.05 %"


def remakes_edit(wire: Wire, text: str) -> Edit:
    """ "2" or "1 / 3" into how often each end may be made again; empty for the project's number."""
    parts = [part.strip() for part in text.replace("/", " ").split()]
    numbers = [counted(part, 20, 0) for part in parts]
    if len(parts) > 2 or None in numbers:
        raise InputError.of("window.say-how-often-end-may", text=quoted(text))
    numbers = numbers or [None]
    start, finish = numbers[0], numbers[-1]

    def act(design: Design) -> Design:
        values = {
            "at_start": change(wire.at_start or Fitting(), remakes=start),
            "at_finish": change(wire.at_finish or Fitting(), remakes=finish),
        }
        return put(design, "wires", change(wire, **values))

    return act


def two(left: QWidget, right: QWidget) -> QHBoxLayout:
    """A list with its picture beside it."""
    both = QHBoxLayout()
    both.addWidget(left, 4)
    both.addWidget(right, 3)
    return both


def show_limb(view: LimbView, desk: Desk, segment: str) -> None:
    """A segment with its coverings and splices, from its a-side."""
    results, index = desk.document.now, index_of(desk.document.design)
    here = index.segments.get(segment)
    if results is None or here is None or not (results.has(dressed) and results.has(joins)):
        view.show_limb("", 0.0, ("", ""), ())
        return
    limb = results.once(dressed).get(segment)
    covers = [
        Piece(
            one.part_name or one.kind.value,
            1e3 * (one.from_m - one.overhang_m[0]),
            1e3 * (max(one.to_m, one.from_m + 0.012) + one.overhang_m[1]),
            one.kind,
            one.ok,
        )
        for one in (limb.covers if limb is not None else ())
    ]
    splices = [
        Piece(
            index.ends[one.end].name,
            1e3 * one.from_a_m - one.half_mm,
            1e3 * one.from_a_m + one.half_mm,
            None,
            not (one.crowded or one.stacked or one.in_the_way or one.over),
        )
        for one in results.once(joins)
        if one.segment == segment
    ]
    names = {point.id: point.name or point.id for point in desk.document.design.points}
    ends = (names.get(here.a, here.a), names.get(here.b, here.b))
    view.show_limb(segment, 1e3 * here.measure.length_m, ends, [*covers, *splices])
