"""The shop's window, over all harnesses: jobs with what holds each up, one shelf, what to order, devices compared, what
was learnt. What another station changes is seen within two seconds."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

from PySide6.QtCore import QFileSystemWatcher, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence
from PySide6.QtWidgets import QScrollArea, QSplitter, QTabWidget, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.paper.leaves import Page
from umber_trunk.app.paper.pages_view import PagesView
from umber_trunk.app.shop.coil_lanes import CoilLanes
from umber_trunk.app.shop.job_acts import JobActs
from umber_trunk.app.shop.job_cards import JobCards
from umber_trunk.app.shop.list_pane import ListPane
from umber_trunk.app.shop.pin_compare import PinCompare
from umber_trunk.app.shop.plan_pane import PlanPane
from umber_trunk.app.shop.shop_look import ShopLook, lesson_pages, look, offer_pages, order_pages, tried
from umber_trunk.app.widgets.desk import button, heading, row
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.shop.jobs import due_tools
from umber_trunk.core.shop.things import Job
from umber_trunk.store.shop_file import ShopFile

EVERY_MS = 1200
"""So often it looks whether anybody changed the file, where the file system gives no notice."""
SETTLE_MS = 60
"""One change gives several notices: they are one look."""


class ShopWindow(JobActs):
    """One window on a shop's file.

    Signals: wants_file(object): open this harness; wants_bench(object): open it at the bench; closed(): it is gone;
    crashed(Exception): a bug.
    """

    wants_file = Signal(object)
    wants_bench = Signal(object)
    closed = Signal()
    crashed = Signal(object)

    def __init__(self, path: Path, day: date | None = None, now: str = "") -> None:
        super().__init__()
        self.path, self._day = path, day
        self.file = ShopFile.open(path)
        self.shown: ShopLook | None = None
        self.setWindowTitle(tr("{parent}, the shop – Umber Trunk", parent=path.parent.name))
        self.resize(1280, 800)
        self.cards, self.lanes, self.pins = JobCards(), CoilLanes(), PinCompare()
        self.lists = ListPane(lambda: self.file)
        self.lists.changed.connect(self.look_again)
        self.plan = PlanPane(lambda: self.file, now)
        self.plan.changed.connect(self.look_again)
        self.plan.crashed.connect(self.crashed)
        self.plan.picked.connect(self.cards.choose)
        self.plan.to_bench.connect(self.open_bench)
        self.offer = PagesView(self.crashed.emit)
        self.orders = PagesView(self.crashed.emit)
        self.lessons = PagesView(self.crashed.emit)
        for view, name in ((self.offer, "Offer"), (self.orders, "To order"), (self.lessons, "Lessons")):
            view.setAccessibleName(name)
        self.title, self.holds, self.told = heading("The shop"), Label(), Label()
        self.holds.setWordWrap(True)
        self.told.setWordWrap(True)
        self.tabs = QTabWidget()
        self.tabs.setDocumentMode(True)
        self._beside, self._paper = Background(self), Background(self)
        self._beside.answered.connect(self._looked)
        self._paper.answered.connect(self._drawn)
        for one in (self._beside, self._paper):
            one.crashed.connect(self.crashed)
        self._laid_out()
        self._stamp: Any = None
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._notice)
        self._soon = QTimer(self, singleShot=True, interval=SETTLE_MS)
        self._soon.timeout.connect(self._notice)
        self._watcher = QFileSystemWatcher(
            [str(path), str(path.parent)], self
        )  # a journal comes and goes in the folder
        for noticed in (self._watcher.fileChanged, self._watcher.directoryChanged):
            noticed.connect(lambda _: self._soon.start())
        self.ask_every(EVERY_MS)
        self._inside = False
        self.look_again()

    # what it is made of

    def _laid_out(self) -> None:
        split = QSplitter()
        left = QWidget()
        mine = QVBoxLayout(left)
        mine.setContentsMargins(0, 0, 0, 0)
        mine.addWidget(self.cards, 1)
        mine.addLayout(row(button("New job…", self.new_job, tip="N: of a harness file"), None))
        split.addWidget(left)
        side = QWidget()
        right = QVBoxLayout(side)
        right.addWidget(self.title)
        right.addWidget(self.holds)
        right.addLayout(
            Flow(
                button("Open the harness", self.open_harness, primary=True, tip="Return"),
                button("Offer", lambda: self.show_offer(False), tip="O: what the customer gets"),
                button("What it costs", lambda: self.show_offer(True), tip="W: every line, for the shop alone"),
                button("Accepted", self.accept, tip="A: the customer has accepted the offer"),
                button("Handed over…", self.hand_over, tip="H: units that went out"),
                button("Close it…", self.close_job, tip="C: nothing more is to be done"),
            )
        )
        right.addWidget(self.offer, 1)
        split.addWidget(side)
        split.setSizes([560, 720])
        split.setChildrenCollapsible(False)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.lanes)
        for widget, name in (
            (split, "&Jobs"),
            (self.plan, "&Plan"),
            (area, "&Shelf"),
            (self.orders, "To &order"),
            (self.pins, "&Devices"),
            (self.lists, "L&ists"),
            (self.lessons, "&Lessons"),
        ):
            self.tabs.addTab(widget, name)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(10, 8, 10, 8)
        head = row(heading(self.path.parent.name.capitalize()), self.told)
        head.setStretch(1, 1)
        layout.addLayout(head)
        layout.addWidget(self.tabs, 1)
        self.setCentralWidget(whole)
        theme.dress(self)
        self.cards.currentRowChanged.connect(lambda _: self._chosen())
        self.cards.itemDoubleClicked.connect(lambda _: self.open_harness())
        self.tabs.currentChanged.connect(lambda _: self._draw_page())
        self._keys()

    def _keys(self) -> None:
        """What is done by one key, where."""
        # letters belong to what they are about: typed elsewhere they accept or close nothing
        inside = Qt.ShortcutContext.WidgetWithChildrenShortcut
        for where, context, rows in (
            (
                self.cards,
                inside,
                (
                    ("Return", self.open_harness),
                    ("O", lambda: self.show_offer(False)),
                    ("W", lambda: self.show_offer(True)),
                    ("A", self.accept),
                    ("H", self.hand_over),
                    ("C", self.close_job),
                    ("N", self.new_job),
                    ("B", self.open_bench),
                ),
            ),
            (self.plan, inside, (("I", self.plan.ask), ("T", self.plan.take_it), ("P", self.plan.keep))),
            (self, Qt.ShortcutContext.WindowShortcut, (("F5", self.look_again), ("Ctrl+W", self.close))),
        ):
            for keys, act in rows:
                action = QAction(where)
                action.setShortcut(QKeySequence(keys))
                action.setShortcutContext(context)
                action.triggered.connect(lambda _=False, act=act: act())
                where.addAction(action)

    # what it shows

    @property
    def busy(self) -> bool:
        """Whether anything of it is still being worked out."""
        return (
            self._beside.busy
            or self._paper.busy
            or self.plan.busy
            or any(v.busy for v in (self.offer, self.orders, self.lessons))
        )

    @property
    def day(self) -> date:
        """The day it is."""
        return self._day or date.today()

    def look_again(self) -> None:
        """Works everything out anew, beside the window."""
        self._stamp = self._stamped()
        path, day, ratio, before = self.path, self.day, self.devicePixelRatioF(), self.shown
        if self.shown is None:
            self.told.setText(tr("Looking at every job …"))

        def work(wanted: Wanted) -> ShopLook | str:
            try:
                return look(path, day, ratio, wanted, before)
            except UmberError as why:
                return str(why)

        self._beside.ask(work)

    def _stamped(self) -> Any:
        """Another when the shop's file or a harness of a job was changed."""
        files = sorted({job.file for job in self.shown.shop.jobs}) if self.shown is not None else []
        times = []
        for name in files:
            try:
                times.append((self.path.parent / name).stat().st_mtime_ns)
            except OSError:
                times.append(0)
        try:
            return self.file.stamp(), times
        except UmberError as why:
            return str(why), times

    def ask_every(self, milliseconds: int, *, notices: bool = True) -> None:
        """How often it asks whether anybody changed the file, and whether it hears the file system's notices too."""
        self._timer.start(milliseconds)
        self._watcher.blockSignals(not notices)

    def _notice(self) -> None:
        if self.shown is not None and not self._beside.busy and self._stamped() != self._stamp:
            self.look_again()

    def _looked(self, found: ShopLook | str) -> None:
        if isinstance(found, str):
            self.told.setText(f"✕ {found}")
            return
        first = self.shown is None
        self.shown = found
        if first:  # only now it is known whose harnesses count
            self._stamp = self._stamp[0], self._stamped()[1]
        self.cards.show_look(found)
        self.lanes.show_look(found)
        self.pins.show_look(found)
        self.lists.show_look(found)
        self.plan.show_look(found)
        self.told.setText("   ".join(_standing(found)))
        self._chosen()
        self._draw_page()

    @property
    def job(self) -> Job | None:
        """The job that is chosen."""
        state = self.shown.state(self.cards.chosen) if self.shown is not None else None
        return state.job if state is not None else None

    def _chosen(self) -> None:
        state = self.shown.state(self.cards.chosen) if self.shown is not None else None
        if state is None:
            self.title.setText(tr("No job yet"))
            self.holds.setText("umber job new FILE makes one of a harness.")
            self.offer.say("")
            return
        job = state.job
        self.title.setText(f"{job.id}  {job.customer}: {job.units} × {job.harness}, {state.told}")
        marks = [f"• {what}" for what in state.holds]
        self.holds.setText(
            "\n".join(marks)
            if marks
            else tr("Nothing known holds it up: by its harness, its log, the shelf and the day.")
        )
        self.lanes.light(job.id)
        self.plan.lanes.light(job.id)
        self.show_offer(self._inside)

    def show_offer(self, inside: bool) -> None:
        """The chosen job's offer as it would go out today, or every line of it."""
        self._inside = inside
        shown, job = self.shown, self.job
        if shown is None or job is None:
            return
        if job.repair is not None:
            done = tr(" Done: {done}.", done=job.repair.done) if job.repair.done else ""
            where = tr("What it takes is worked out at the unit, on the desk Keep.")
            self.offer.say(
                tr(
                    "A repair of {unit}: {found}.{done} {where}",
                    unit=job.repair.unit,
                    found=job.repair.found,
                    done=done,
                    where=where,
                )
            )
            return
        self.offer.say(tr("Working it out …"))
        self._ask_page(self.offer, lambda wanted: offer_pages(shown, job, inside, wanted))

    def _draw_page(self) -> None:
        shown = self.shown
        if shown is None:
            return
        if self.tabs.currentWidget() is self.orders:
            self._ask_page(self.orders, lambda _: order_pages(shown))
        elif self.tabs.currentWidget() is self.lessons:
            self._ask_page(self.lessons, lambda _: lesson_pages(shown))

    def _ask_page(self, view: PagesView, work: Callable[[Wanted], list[Page]]) -> None:
        self._paper.ask(lambda wanted: (view, *tried(lambda: work(wanted))))

    def _drawn(self, what: tuple[PagesView, str, list[Page]]) -> None:
        view, why, pages = what
        if pages:
            view.show_pages(pages)
        else:
            view.say(why)

    # what is done with a job

    def open_harness(self) -> None:
        """Opens the chosen job's harness."""
        if self.job is not None:
            self.wants_file.emit(self.path.parent / self.job.file)

    def open_bench(self, job: str = "") -> None:
        """Opens a job's harness, else the chosen one's, at the bench, where its build goes on at the very step."""
        state = self.shown.state(job or self.cards.chosen) if self.shown is not None else None
        if state is not None:
            self.wants_bench.emit(self.path.parent / state.job.file)

    def closeEvent(self, event: QCloseEvent) -> None:
        self._timer.stop()
        self._soon.stop()
        self._watcher.deleteLater()
        self._beside.drop()
        self._paper.drop()
        self.plan.close_background()
        self.file.close()
        super().closeEvent(event)
        self.closed.emit()


def _standing(shown: ShopLook) -> list[str]:
    """How the shop stands, in a line: what is open, late, short, due."""
    late = sum(state.late(shown.day) > 0 for state in shown.states)
    open_ = sum(state.job.open for state in shown.states)
    found = [tr("{open} jobs open", open=open_) + (tr(", {late} late", late=late) if late else "")]
    found.append(
        tr("{count} coils", count=len(shown.coils))
        + (
            tr(", {count} sizes run short", count=len({s.what for s in shown.plan.short}))
            if shown.plan.short
            else tr(", enough for all")
        )
    )
    if shown.orders:
        now = sum(order.late for order in shown.orders)
        found.append(
            tr("{count} things to order", count=len(shown.orders)) + (tr(", {now} overdue", now=now) if now else "")
        )
    found += map(str, due_tools(shown.shop, shown.day)[:2])
    if shown.wrong:
        found.insert(0, f"✕ {shown.wrong}")
    return found + [tr("✕ lost: {what}", what=what) for what in shown.lost[:2]]
