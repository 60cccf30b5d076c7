"""A seeded monkey at the real window: clicks, keys, words, undo, sheets and exports till it is enough. What it did is
printed when something breaks, and the same seed does it again. `./umber monkey --minutes 5 --seed 1`."""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
import time
import traceback
from collections import deque
from collections.abc import Callable
from pathlib import Path
from random import Random

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QInputMethodEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMessageBox,
    QSpinBox,
    QTableView,
    QWidget,
)

from attack.fuzz_parts import CELLS, HOSTILE, WORDS
from umber_trunk.app import theme
from umber_trunk.app.session import Session
from umber_trunk.app.settings import Settings
from umber_trunk.app.widgets.keyed import KeyedView
from umber_trunk.app.window import Window
from umber_trunk.core.demo import shop_list
from umber_trunk.core.stages import STAGES
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.project import ProjectFile

NAMES = {"play": "tractor", "other": "barge", "proven": "loops", "built": "shore"}
"""What it plays with: a lot half built, a harness nobody built, one that is proven."""
POPUP_S = 1.0
SLOW_S = 5.0  # an answer takes less on a machine that has other work to do
KEYS = (
    Qt.Key.Key_Tab,
    Qt.Key.Key_Return,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Space,
    Qt.Key.Key_F1,
    Qt.Key.Key_F2,
    Qt.Key.Key_F6,
    Qt.Key.Key_F8,
    Qt.Key.Key_Delete,
    Qt.Key.Key_Backspace,
    Qt.Key.Key_PageDown,
    Qt.Key.Key_Question,
)
WITH_CTRL = (
    Qt.Key.Key_Z,
    Qt.Key.Key_F,
    Qt.Key.Key_H,
    Qt.Key.Key_Plus,
    Qt.Key.Key_Minus,
    Qt.Key.Key_0,
    Qt.Key.Key_I,
    Qt.Key.Key_P,
    Qt.Key.Key_E,
)


class Monkey:
    """Plays at a session's window. `broken` says what went wrong, "" while nothing has."""

    def __init__(self, session: Session, folder: Path, seed: int, slow_s: float) -> None:
        self.session, self.folder, self.rng, self.slow_s = session, folder, Random(seed), slow_s
        self.done = deque[str](maxlen=30)
        self.broken, self.steps, self.slowest, self.slow = "", 0, 0.0, ""
        self.desks: dict[str, int] = dict.fromkeys((stage.id for stage in STAGES), 0)
        self._popup: tuple[QWidget, float] | None = None
        self._began, self._inside = time.monotonic(), False
        self.watch = QTimer(interval=150)
        self.watch.timeout.connect(self._shut)
        self.watch.start()
        self._stand_in()

    def _shut(self) -> None:
        """A menu or a list that stands open over the window is shut after a while, as a person would."""
        popup, asked = QApplication.activePopupWidget(), QApplication.activeModalWidget()
        if isinstance(asked, QDialog) and time.monotonic() - self._began > POPUP_S and self._inside:
            asked.reject()  # a dialog that waits inside a step: its own dialogs, the printer's
        if popup is None:
            self._popup = None
        elif self._popup is None or self._popup[0] is not popup:
            self._popup = popup, time.monotonic()
        elif time.monotonic() - self._popup[1] > POPUP_S:
            popup.close()
            self._popup = None

    def _stand_in(self) -> None:
        """Questions to a person are answered by the monkey."""
        monkey = self

        def name_to_write(*_: object, **__: object) -> tuple[str, str]:
            ending = monkey.rng.choice((".csv", ".json", ".xlsx", ".pdf", ".umber", "/no.csv"))
            return monkey.rng.choice(("", str(monkey.folder / f"out{monkey.rng.randrange(4)}{ending}"))), ""

        def name_to_read(*_: object, **__: object) -> tuple[str, str]:
            return monkey.rng.choice(("", *map(str, monkey.folder.iterdir()))), ""

        QFileDialog.getSaveFileName = staticmethod(name_to_write)  # type: ignore[method-assign,assignment]
        QFileDialog.getOpenFileName = staticmethod(name_to_read)  # type: ignore[method-assign,assignment]
        QInputDialog.getText = staticmethod(lambda *_, **__: (monkey.words(), monkey.rng.random() < 0.7))
        QMessageBox.exec = lambda box: monkey.done.append(f"told: {box.text()[:80]}") or 0

    def words(self) -> str:
        """Something to type."""
        pool = self.rng.choice((WORDS, CELLS, HOSTILE))
        return " ".join(self.rng.choices(pool, k=self.rng.randrange(1, 6))).replace("\0", "")[:200]

    @property
    def window(self) -> Window:
        """The window on screen."""
        assert self.session.window is not None
        return self.session.window

    def step(self) -> None:
        """One thing a person might do, or wouldn't."""
        acts: tuple[tuple[int, Callable[[], str]], ...] = (
            (6, self._key), (3, self._with_ctrl), (6, self._click), (4, self._say), (4, self._cell), (3, self._stage), (4, self._tab), (3, self._bench), (2, self._menu), (2, self._sheet),
            (1, self._resize), (1, self._list), (1, self._reopen),
        )  # fmt: skip
        act = self.rng.choices([act for _, act in acts], [share for share, _ in acts])[0]
        start = self._began = time.monotonic()
        self._inside = True
        self.done.append(act.__name__)
        self.done.append(act())
        self._inside = False
        QTest.qWait(1)  # windows that are closed go away too
        took = time.monotonic() - start
        self.steps += 1
        if took > self.slowest:
            self.slowest, self.slow = took, self.done[-1]
        if took > self.slow_s and act not in (self._reopen, self._menu):
            self.broken = f"the window did not answer for {took:.1f} s"

    def _front(self) -> QWidget:
        top = QApplication.activeModalWidget() or self.window
        return top.focusWidget() or top

    def _key(self) -> str:
        key, target = self.rng.choice(KEYS), self._front()
        QTest.keyClick(target, key)
        return f"{key.name} on {type(target).__name__}"

    def _with_ctrl(self) -> str:
        key = self.rng.choice(WITH_CTRL)
        QTest.keyClick(self._front(), key, Qt.KeyboardModifier.ControlModifier)
        return f"Ctrl+{key.name}"

    def _seen(self, *kinds: type[QWidget]) -> list[QWidget]:
        top = QApplication.activeModalWidget() or self.window
        return [one for kind in kinds for one in top.findChildren(kind) if one.isVisible() and one.isEnabled()]

    def _click(self) -> str:
        seen = [one for one in self._seen(QAbstractButton) if not getattr(one, "menu", lambda: None)()]
        if not seen:
            return "nothing to click"
        one = self.rng.choice(seen)
        QTest.mouseClick(one, Qt.MouseButton.LeftButton)
        return f"click {getattr(one, 'text', str)()[:40]!r}"

    def _say(self) -> str:
        lines = self._seen(QLineEdit)
        if not lines:
            return "no line"
        text = self.words()
        line = self.rng.choice(lines)
        line.setFocus()
        written = QInputMethodEvent()
        written.setCommitString(text)
        QApplication.sendEvent(line, written)
        QTest.keyClick(line, Qt.Key.Key_Return)
        return f"type {text!r}"

    def _cell(self) -> str:
        tables = self._seen(QTableView)
        if not tables:
            return "no table"
        table = self.rng.choice(tables)
        model = table.model()
        if model is None or not model.rowCount() or not model.columnCount():
            return "empty table"
        index = model.index(self.rng.randrange(model.rowCount()), self.rng.randrange(model.columnCount()))
        table.setCurrentIndex(index)
        if self.rng.random() < 0.5:
            model.setData(index, self.words())
        return f"cell {index.row()},{index.column()}"

    def _stage(self) -> str:
        """The desk shown least so far, or any."""
        stage = (
            min(self.desks, key=lambda one: self.desks[one])
            if self.rng.random() < 0.5
            else self.rng.choice(list(self.desks))
        )
        self.desks[stage] += 1
        self.window.show_stage(stage)
        return stage

    def _tab(self) -> str:
        tabs = [one for one in self._seen(QAbstractButton) if one.property("role") == "tab"]
        if not tabs:
            return "no tab"
        tab = self.rng.choice(tabs)
        QTest.mouseClick(tab, Qt.MouseButton.LeftButton)
        return f"tab {tab.text()}"

    def _bench(self) -> str:
        """Something at the card of the bench or of a proof: on, back, a reading, a scan."""
        views = self._seen(KeyedView)
        if not views:
            return "no card"
        view = self.rng.choice(views)
        view.setFocus()
        said = self.rng.choice(("", "", "", "1.52", "OL", "12.4 mohm", "C1", "fault", self.words()[:20]))
        QTest.keyClicks(view, said.encode("ascii", "ignore").decode())  # it ends the process over any other key
        QTest.keyClick(
            view, self.rng.choice((Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Return, Qt.Key.Key_Backspace))
        )
        return f"card {said!r}"

    def _menu(self) -> str:
        usable = {
            name: one
            for name, one in self.window.commands.by_name.items()
            if name not in ("Close", "New harness…") and one.isEnabled()
        }
        name = self.rng.choice(list(usable))
        usable[name].trigger()
        return name

    def _sheet(self) -> str:
        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, QDialog):
            dialog.reject()
            return "close the sheet"
        boxes = self._seen(QComboBox, QSpinBox)
        if boxes:
            one = self.rng.choice(boxes)
            if isinstance(one, QComboBox) and one.count():
                one.setCurrentIndex(self.rng.randrange(one.count()))
                one.activated.emit(one.currentIndex())
            elif isinstance(one, QSpinBox):
                one.setValue(self.rng.randrange(one.minimum(), one.maximum() + 1))
        return "box"

    def _resize(self) -> str:
        wide, high = self.rng.randrange(500, 1700), self.rng.randrange(400, 1000)
        self.window.resize(wide, high)
        canvas = self.window.trunk
        QTest.mouseClick(
            canvas,
            Qt.MouseButton.LeftButton,
            pos=QPoint(self.rng.randrange(max(1, canvas.width())), self.rng.randrange(max(1, canvas.height()))),
        )
        return f"{wide} × {high}"

    def _list(self) -> str:
        path = self.folder / "list.csv"
        rows = shop_list().splitlines()
        self.rng.shuffle(rows)
        path.write_text("\n".join(rows), "utf-8")
        self.window.import_from(path)
        return "import"

    def _reopen(self) -> str:
        if QApplication.activeModalWidget() is not None:
            return "a sheet is open"
        self.session.show_file(self.window.document.path.with_name(f"{self.rng.choice(list(NAMES))}.umber"))
        return "another file"


def play(
    enough: Callable[[Monkey], bool], seed: int, folder: Path, slow_s: float = SLOW_S
) -> tuple[Monkey, list[BaseException]]:
    """Plays till it is enough; the monkey, and the bugs it met."""
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    theme.load_fonts()
    theme.apply_theme(app)
    bugs: list[BaseException] = []
    before, sys.excepthook = sys.excepthook, lambda _kind, error, _trace: bugs.append(error)
    kept = QFileDialog.getSaveFileName, QFileDialog.getOpenFileName, QInputDialog.getText, QMessageBox.exec
    session = Session(Settings(folder / "settings.json"))
    session.crashed = bugs.append  # type: ignore[method-assign]
    try:
        for name, design in NAMES.items():
            put_demo(folder / f"{name}.umber", design).close()
        session.show_file(folder / "play.umber")
        monkey = Monkey(session, folder, seed, slow_s)
        while not (enough(monkey) or bugs or monkey.broken):
            monkey.step()
        for _ in range(20):
            while isinstance(dialog := QApplication.activeModalWidget(), QDialog):
                dialog.reject()
            QTest.qWait(10)
        monkey.watch.stop()
        session.close_all()
        for name in NAMES:
            with ProjectFile.open(folder / f"{name}.umber") as file:
                assert not file.read_only
                file.revisions()
    finally:
        sys.excepthook = before
        QFileDialog.getSaveFileName, QFileDialog.getOpenFileName, QInputDialog.getText, QMessageBox.exec = kept
        theme.apply_theme(app)
    return monkey, bugs


def main() -> int:
    """./umber monkey"""
    parser = argparse.ArgumentParser(prog="umber monkey", description="Drives the real window at random.")
    parser.add_argument("--minutes", type=float, default=5.0)
    parser.add_argument("--seed", type=int, default=1)
    args = parser.parse_args()
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    with tempfile.TemporaryDirectory(prefix="umber-monkey-") as scratch:
        for name in ("CONFIG", "DATA", "STATE", "CACHE"):
            os.environ[f"XDG_{name}_HOME"] = f"{scratch}/{name}"
        folder = Path(scratch) / "files"
        folder.mkdir()
        until = time.monotonic() + 60 * args.minutes
        monkey, bugs = play(lambda _: time.monotonic() >= until, args.seed, folder)
    sys.stdout.write(f"desks shown: {', '.join(f'{name} {many}' for name, many in monkey.desks.items())}\n")
    sys.stdout.write(f"{monkey.steps} steps, the slowest {monkey.slowest:.2f} s ({monkey.slow})\n")
    for bug in bugs:
        traceback.print_exception(bug)
    if bugs or monkey.broken:
        sys.stdout.write(f"{monkey.broken or 'a bug'}, after:\n  " + "\n  ".join(monkey.done) + "\n")
    sys.stdout.flush()
    os._exit(1 if bugs or monkey.broken else 0)


if __name__ == "__main__":
    raise SystemExit(main())
