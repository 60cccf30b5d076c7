"""The plan in the shop's window: lanes, when each job is ready, what if beside it; kept and taken by one key."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHeaderView,
    QScrollArea,
    QSplitter,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.shop.plan_lanes import WAYS, PlanLanes
from umber_trunk.app.widgets.asked import text_asked
from umber_trunk.app.widgets.desk import button, heading, row
from umber_trunk.app.widgets.plain import Label, plain_of, tell
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.planning.tasks import late_of
from umber_trunk.core.planning.what_if import otherwise
from umber_trunk.core.shop.things import Shop
from umber_trunk.store.files import write_whole
from umber_trunk.store.sheets import csv_bytes
from umber_trunk.store.shop_file import ShopFile
from umber_trunk.store.shop_plan import (
    ShopPlan,
    ahead,
    calendar,
    keep_plan,
    plan_rows,
    shop_plan,
    today,
    zone_and_now,
)

if TYPE_CHECKING:
    from umber_trunk.app.shop.shop_look import ShopLook

HEADS = ("Job", "Ready, 50 %", "Ready, 90 %", "Due", "Late in 100", "Held up by")
ASKED = word(
    "One thing otherwise: hours:JO:tue 18:00-20:00, tool:press-1, first:J103, later:D1:7 or split:J105:3. "
    "Nothing ends it."
)


@dataclass(frozen=True)
class Worked:
    """What was worked out: the plan, another as it might be, of which shop each, and how it differs in words."""

    plan: ShopPlan
    other: ShopPlan | None
    shop: Shop
    changed: Shop
    told: str


class PlanPane(QWidget):
    """Lanes above, promises below.

    Signals: picked(job); to_bench(job): work on it goes on; changed(): something was taken or kept; crashed(Exception).
    """

    picked = Signal(str)
    to_bench = Signal(str)
    changed = Signal()
    crashed = Signal(object)

    def __init__(self, file: Callable[[], ShopFile], now: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._file, self._now = file, now
        self._shown: ShopLook | None = None
        self.worked: Worked | None = None
        self.instead = ""
        self.lanes = PlanLanes()
        self.lanes.picked.connect(self.picked)
        self.way = QComboBox()
        self.way.setAccessibleName(tr("Lanes by"))
        self.way.addItems([tr("by {way}", way=way) for way in WAYS])
        self.way.currentIndexChanged.connect(lambda at: self.lanes.show_way(WAYS[at]))
        self.told, self.today = Label(), Label()
        for label in (self.told, self.today):
            label.setWordWrap(True)
        self.table = QTableWidget(0, len(HEADS))
        self.table.setAccessibleName(tr("When each job is ready"))
        self.table.setHorizontalHeaderLabels([tr(one) for one in HEADS])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        header = self.table.horizontalHeader()
        for column in range(len(HEADS)):
            how = QHeaderView.ResizeMode.ResizeToContents if column < len(HEADS) - 1 else QHeaderView.ResizeMode.Stretch
            header.setSectionResizeMode(column, how)
        self.table.itemSelectionChanged.connect(self._row_chosen)
        self._beside = Background(self)
        self._beside.answered.connect(self._came)
        self._beside.crashed.connect(self.crashed)
        self.take = button("Take it", self.take_it, tip="T: what was asked is so from now on")
        self.take.setEnabled(False)
        self._laid_out()

    def _laid_out(self) -> None:
        """The lanes above, when each job is ready below, with what can be asked on top."""
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.lanes)
        below = QWidget()
        lower = QVBoxLayout(below)
        lower.setContentsMargins(0, 0, 0, 0)
        lower.addWidget(self.told)
        lower.addWidget(self.table, 1)
        lower.addWidget(self.today)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(area)
        split.addWidget(below)
        split.setSizes([360, 300])
        layout = QVBoxLayout(self)
        layout.addLayout(
            row(
                heading("Lanes"),
                self.way,
                button("What if…", self.ask, primary=True, tip="I: planned beside it, and taken by one key"),
                self.take,
                button("Keep this plan", self.keep, tip="P: the next one leaves it where it can"),
                button("Calendar…", self.write, tip="As .ics or .csv"),
                button(
                    "To the bench",
                    lambda: self.to_bench.emit(self.lanes.lit),
                    tip="B: the chosen job’s harness at the bench",
                ),
                None,
            )
        )
        layout.addWidget(split, 1)

    @property
    def busy(self) -> bool:
        """Whether the plan is still being worked out."""
        return self._beside.busy

    def show_look(self, shown: ShopLook) -> None:
        """The shop as it stands; its plan follows."""
        self._shown = shown
        if self.isVisible():
            self.plan_again()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """Planned when it is looked at."""
        super().showEvent(event)
        if self._shown is not None and (self.worked is None or self.worked.shop is not self._shown.shop):
            self.plan_again()

    def plan_again(self) -> None:
        """Works the plan out beside the window, and what was asked."""
        shown, instead, said = self._shown, self.instead, self._now
        if shown is None:
            return
        self.told.setText(tr("Planning …"))

        def work(wanted: Wanted) -> Worked | str:
            try:
                zone, now = zone_and_now(shown.shop, said)
                coils = [held.now for held in shown.coils]
                known = ahead(shown.seen, coils, shown.counts, wanted)
                before = shown.shop.plans[-1] if shown.shop.plans else None
                made = shop_plan(shown.shop, known, now, zone, wanted, before)
                other, changed, told = None, shown.shop, ""
                if instead:
                    changed, told = otherwise(shown.shop, instead)
                    other = shop_plan(changed, known, now, zone, wanted, before)
                return Worked(made, other, shown.shop, changed, told)
            except UmberError as why:
                return str(why)

        self._beside.ask(work)

    def _came(self, found: Worked | str) -> None:
        if isinstance(found, str):
            self.told.setText(f"✕ {found}")
            self.instead = ""
            return
        self.worked = found
        self.lanes.show_plan(found.other or found.plan)
        self.take.setEnabled(found.other is not None)
        worth, bound = found.plan.plan.worth, found.plan.plan.bound
        said = tr(
            "{late:.1f} weighted days late (no plan under {late_bound:.1f}), {set_ups} set-ups (at least "
            "{set_ups_bound}).",
            late=worth.late,
            late_bound=bound.late,
            set_ups=worth.set_ups,
            set_ups_bound=bound.set_ups,
        )
        if moved := found.plan.plan.moved:
            said += tr(" {count} tasks moved since the plan kept.", count=len(moved))
        if found.other is not None:
            other = found.other.plan
            late = late_of(other.floor, other.placed)
            said += tr(
                " If {told}: {late:.1f} days late, {set_ups} set-ups; shown above.",
                told=found.told,
                late=late,
                set_ups=other.worth.set_ups,
            )
        self.told.setText(said)
        self._promises(found)
        hands = [f"{who}: {now.task.job} {now.task.what}" for who, now, _ in today(found.plan.plan) if now is not None]
        self.today.setText(tr("Now") + "   " + "   ".join(hands) if hands else tr("Nobody has anything to do now."))

    def _promises(self, found: Worked) -> None:
        beside = {one.job: one for one in found.other.ready} if found.other is not None else {}
        self.table.setRowCount(len(found.plan.ready))
        for at, one in enumerate(found.plan.ready):
            due = found.plan.plan.floor.of_job[one.job].due
            other = beside.get(one.job)
            cells = [
                one.job,
                _two(found.plan, one.p50, found.other, other.p50 if other else None),
                _two(found.plan, one.p90, found.other, other.p90 if other else None),
                (found.plan.told(due - 1) or "")[:10] if due is not None else "–",
                "–"
                if one.late is None
                else f"{100 * one.late:.0f}" + (f" → {100 * (other.late or 0):.0f}" if other else ""),
                str(found.plan.holds(one)),
            ]
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setToolTip(plain_of(text))
                if column == 4 and one.late is not None and one.late > 0.5:
                    item.setForeground(QColor(theme.BROKEN))
                self.table.setItem(at, column, item)

    def _row_chosen(self) -> None:
        item = self.table.item(self.table.currentRow(), 0)
        if item is not None:
            self.lanes.light(item.text())
            self.picked.emit(item.text())

    def ask(self) -> None:
        """What if one thing were otherwise."""
        text, meant = text_asked(self, tr("What if…"), tr(ASKED), self.instead)
        if meant:
            self.instead = text.strip()
            self.plan_again()

    def take_it(self) -> None:
        """What was asked is so from now on, and its plan is kept."""
        if self.worked is None or self.worked.other is None:
            return
        try:
            self._file().take_over(self.worked.shop, self.worked.changed, why=f"what if: {self.worked.told}")
            keep_plan(self._file(), self.worked.other)
        except UmberError as why:
            tell(self, str(why))
        self.instead = ""
        self.changed.emit()

    def keep(self) -> None:
        """This is the plan: the next one leaves it where it can."""
        if self.worked is not None:
            try:
                keep_plan(self._file(), self.worked.plan)
            except UmberError as why:
                tell(self, str(why))
            self.changed.emit()

    def write(self) -> None:
        """The plan for other programs."""
        if self.worked is None:
            return
        name, _ = QFileDialog.getSaveFileName(self, "The plan", "plan.ics", "Calendar (*.ics);;Table (*.csv)")
        if name:
            made = self.worked.plan
            table = csv_bytes(plan_rows(made)) if name.endswith(".csv") else calendar(made, "plan")
            try:
                write_whole(Path(name), table)
            except UmberError as why:
                tell(self, str(why))

    def close_background(self) -> None:
        """Forgets what is under way."""
        self._beside.drop()


def _two(plan: ShopPlan, one: int, other: ShopPlan | None, then: int | None) -> str:
    """A moment, and what it would be."""
    told = (plan.told(one) or "never")[:16].replace("T", " ")
    if other is None or then is None or abs(then - one) < 900:
        return told
    return f"{told} → {(other.told(then) or 'never')[5:16].replace('T', ' ')}"
