"""How long any act holds the window's thread: a heart beats in its event loop while every desk and tab is walked.

What counts is the longest time between two beats, in M: a million plain additions in the same process just before and
after the act.
"""

from __future__ import annotations

import os
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from types import FrameType

from PySide6.QtCore import QEventLoop, QObject, Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QLineEdit, QPushButton

from umber_trunk.app import theme
from umber_trunk.app.session import Session
from umber_trunk.app.settings import Settings
from umber_trunk.app.sharing import Sharing
from umber_trunk.app.shots import settle
from umber_trunk.app.widgets.table import RowsView
from umber_trunk.app.window import Window
from umber_trunk.benches.ratios import machine_ms, sized, with_parts
from umber_trunk.core.harness.edits import measured, set_length, set_size
from umber_trunk.core.harness.way import Method
from umber_trunk.core.stages import STAGES
from umber_trunk.store.builds import begin
from umber_trunk.store.project import ProjectFile

BEAT_MS = 2
LIMITS = {300: 0.25, 3000: 0.7}
"""What an act may hold the thread for [M], by wires; in between in proportion."""
PASTED = "winch 18A " * 100_000
LOOKED_MS = 4


@dataclass(frozen=True)
class Held:
    """One act: the longest time between two beats [ms], the thread's own CPU in it [ms], and what it was busy with."""

    act: str
    gap_ms: float
    cpu_ms: float
    machine_ms: float
    where: tuple[str, ...] = ()

    @property
    def held(self) -> float:
        """The longest time between two beats [M]."""
        return self.gap_ms / self.machine_ms


class Heart(QObject):
    """Beats every `BEAT_MS` in the event loop and keeps the longest pause."""

    def __init__(self) -> None:
        super().__init__()
        self.timer = QTimer(self, interval=BEAT_MS, timerType=Qt.TimerType.PreciseTimer)
        self.timer.timeout.connect(self.beat)
        self.reset()
        self.timer.start()

    def reset(self) -> None:
        """Forgets what was."""
        self.last, self.cpu = time.perf_counter(), time.thread_time()
        self.worst, self.worst_cpu = 0.0, 0.0

    def beat(self) -> None:
        """One beat."""
        now, cpu = time.perf_counter(), time.thread_time()
        self.worst = max(self.worst, now - self.last)
        self.worst_cpu = max(self.worst_cpu, cpu - self.cpu)
        self.last, self.cpu = now, cpu


class Witness:
    """Looks at what the window's thread does while no beat comes; its own work makes pauses a little longer."""

    def __init__(self, heart: Heart, from_ms: float) -> None:
        self.heart, self.from_s, self.seen = heart, from_ms / 1000, Counter[str]()
        self.thread = threading.get_ident()
        threading.Thread(target=self._look, daemon=True).start()

    def _look(self) -> None:
        while True:
            slept = time.perf_counter()
            time.sleep(LOOKED_MS / 1000)
            asleep = time.perf_counter() - slept
            if asleep > 0.03:  # whoever held the interpreter all that time is seen as it lets go
                for number, frame in sys._current_frames().items():
                    if number != threading.get_ident():
                        who = "main" if number == self.thread else "other"
                        self.seen[f"HELD {who} {_place(frame)}"] += int(1000 * asleep / LOOKED_MS)
            if time.perf_counter() - self.heart.last < self.from_s:
                continue
            self.seen[_place(sys._current_frames().get(self.thread))] += 1

    def told(self) -> tuple[str, ...]:
        """The most frequent places, and forgets them."""
        most, self.seen = self.seen.most_common(4), Counter()
        return tuple(f"{times * LOOKED_MS} ms {place}" for place, times in most)


def _place(frame: FrameType | None) -> str:
    """Where a thread is, from the inside out, in our own lines; the innermost of any."""
    lines: list[str] = []
    while frame is not None and len(lines) < 7:
        if "umber_trunk" in frame.f_code.co_filename or not lines:
            lines.append(f"{Path(frame.f_code.co_filename).stem}.{frame.f_code.co_name}:{frame.f_lineno}")
        frame = frame.f_back
    return " < ".join(lines)


class Walk:
    """Every act at a window; yields what each held."""

    def __init__(self, session: Session, heart: Heart, witness: Witness | None, sharing: Sharing) -> None:
        self.session, self.heart, self.witness, self.sharing = session, heart, witness, sharing

    def act(self, name: str, do: Callable[[], object]) -> Held:
        """Does it from the event loop, waits until all has arrived, says the longest pause on the way."""
        before = machine_ms()
        self.sharing.touch()
        if self.witness is not None:
            self.witness.told()
        done: list[int] = []

        def now() -> None:
            self.heart.reset()
            do()
            done.append(1)

        QTimer.singleShot(0, now)
        while not done:
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        if self.session.window is not None:
            settle(self.session.window)
        gap, cpu = self.heart.worst, self.heart.worst_cpu
        told = self.witness.told() if self.witness is not None else ()
        return Held(name, 1000 * gap, 1000 * cpu, (before + machine_ms()) / 2, told)

    def all(self, path: Path) -> Iterator[Held]:
        """Opens the file, then walks the desks."""
        yield self.act("open the file", lambda: self.session.show_file(path))
        window = self.session.window
        assert window is not None
        yield self.act("left alone: desks are made", lambda: self._left_alone(window))
        document = window.document
        wire = document.design.wires[len(document.design.wires) // 2].id
        segment = document.design.segments[len(document.design.segments) // 2].id
        for stage in STAGES:
            name = stage.name
            yield self.act(f"{name}: first shown", partial(window.show_stage, stage.id))
            desk = window.desks[stage.id]
            tabs = [one for one in desk.findChildren(QPushButton) if one.property("role") == "tab" and one.isVisible()]
            for tab in [*tabs[1:], *tabs[:1]]:
                yield self.act(f"{name}, {tab.text()}: first shown", tab.click)
            for size in ("16 mm2", "25 mm2"):

                def sized_so(size: str = size) -> None:
                    document.apply(lambda now: set_size(now, [wire], size), "size")

                yield self.act(f"{name}: size edited", sized_so)
            yield self.act(
                f"{name}: length edited",
                lambda: document.apply(lambda now: set_length(now, segment, measured(1.23, Method.TAPE)), "length"),
            )
            for _ in range(2):
                yield self.act(f"{name}: undo", document.undo)
                yield self.act(f"{name}: redo", document.redo)
                yield self.act(f"{name}: undo", document.undo)
            yield from self._at_desk(window, name)
        yield from self._over(window)

    @staticmethod
    def _left_alone(window: Window) -> None:
        while len(window.desks) < len(STAGES):
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)

    def _at_desk(self, window: Window, name: str) -> Iterator[Held]:
        desk = window.desks[window.stage]
        for view in [one for one in desk.findChildren(RowsView) if one.isVisible() and one.rows_model.rowCount()]:
            title, bar, row = (
                view.accessibleName() or "table",
                view.verticalScrollBar(),
                view.rows_model.rowCount() * 2 // 3,
            )
            yield self.act(f"{name}, {title}: choose", partial(view.setCurrentIndex, view.rows_model.index(row, 0)))
            yield self.act(f"{name}, {title}: scroll", partial(bar.setValue, bar.maximum()))
        for line in [one for one in desk.findChildren(QLineEdit) if one.isVisible() and one.isEnabled()][:2]:
            title = line.accessibleName() or "line"
            yield self.act(f"{name}, {title}: paste 1 MB", partial(line.insert, PASTED))
            yield self.act(f"{name}, {title}: emptied", line.clear)
        point = window.document.design.segments[-1].id
        yield self.act(f"{name}: pick on the picture", lambda: window.pick("segments", point))

    def _over(self, window: Window) -> Iterator[Held]:
        yield self.act("find: opened", window.open_finder)
        finder = QApplication.activeModalWidget() or QApplication.topLevelWidgets()[-1]
        line = next((one for one in finder.findChildren(QLineEdit)), None)
        if line is not None:
            for text in ("b", "bo", PASTED):
                yield self.act(f"find: {text[:3].strip()}", partial(line.setText, text))
        self._closed()
        for name in ("Print…", "Revisions…", "Copies kept by day…", "Catalogue…"):
            yield self.act(name, window.commands.by_name[name].trigger)
            self._closed()
        for key, board in (("board", True), ("trunk again", False)):
            yield self.act(f"{key} shown", partial(window.show_board, board))
        yield self.act("larger text", lambda: window.scale(1.1))
        yield self.act("resized", lambda: window.resize(1100, 700))

    def _closed(self) -> None:
        while isinstance(sheet := QApplication.activeModalWidget(), QDialog):
            sheet.reject()
            QApplication.processEvents()


def limit_for(wires: int) -> float:
    """What an act may hold the thread for [M]."""
    (low, least), (high, most) = sorted(LIMITS.items())
    share = min(max((wires - low) / (high - low), 0.0), 1.0)
    return least + share * (most - least)


def run(sizes: list[int], where: bool = False, units: int = 1) -> int:
    """Prints what each act held, the longest first; 1 where one is over its limit."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    theme.load_fonts()
    theme.apply_theme(app)
    sharing = Sharing(app)
    sharing.timer.stop()  # nobody is idle here
    over = 0
    for wires in sizes:
        limit = limit_for(wires)
        with tempfile.TemporaryDirectory() as scratch:
            path = Path(scratch) / "bench.umber"
            with ProjectFile.create(path, with_parts(sized(wires)), copied=False) as project:
                if units:
                    begin(project, "lot", range(1, units + 1)).close()
            session = Session(Settings(Path(scratch) / "settings.json"))
            session.makes_ahead = True
            heart = Heart()
            witness = Witness(heart, limit * machine_ms() / 2) if where else None
            print(f"{wires} wires, at most {limit:.2f} M; M = {machine_ms():.0f} ms", flush=True)
            found = []
            for one in Walk(session, heart, witness, sharing).all(path):
                found.append(one)
                if where and one.held > limit:
                    print(f"  {one.held:6.2f} M {one.cpu_ms:6.0f} ms CPU  {one.act}", flush=True)
                    print("".join(f"         {line}\n" for line in one.where), end="", flush=True)
            session.close_all()
            heart.timer.stop()
        found.sort(key=lambda one: -one.held)
        bad = [one for one in found if one.held > limit]
        over += len(bad)
        print(f"{len(found)} acts, {len(bad)} over the limit; the longest:")
        for one in found[:12]:
            print(f"  {one.held:6.2f} M  {one.gap_ms:6.0f} ms, {one.cpu_ms:6.0f} ms of it CPU  {one.act}")
    return 1 if over else 0
