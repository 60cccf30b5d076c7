"""Window steps of the guide, played at a real window: one a line, in the words a person would use.

`new`, `open demo NAME`; `go DESK`, `menu COMMAND`, `click BUTTON`, `press KEYS`, `type TEXT`, `say LINE`, `choose ROW`,
`write COLUMN: TEXT`, `answer TEXT` (to the next question or file wanted), `see TEXT`, `close` (what lies over the
window).
"""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QKeySequence, QShortcut
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLabel,
    QLineEdit,
    QMessageBox,
    QWidget,
)

from app.conftest import settled, slowness
from umber_trunk.app.widgets.table import RowsView
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Project
from umber_trunk.core.stages import STAGES
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.project import ProjectFile
from umber_trunk_helpers import press


class StepError(AssertionError):
    """A step that can't be done as it is told."""


class Steps:
    """Plays steps."""

    def __init__(self, qtbot: Any, open_window: Any, folder: Path, patch: pytest.MonkeyPatch) -> None:
        self.qtbot, self.open_window, self.folder = qtbot, open_window, folder
        self.window: Any = None
        self.answers: list[str] = []
        self.count = 0
        (folder / "stock.csv").write_text("coil,size,metal,colour,length_m\nQ1,1.5 mm2,copper,red,100\n")
        (folder / "list.csv").write_text(
            "wire,from,pin,to,pin,size,length (m),colour\n"
            + "".join(f"10{n},box,{n},lamp {n},1,1.5 mm2,{1.2 + n / 5:.1f},red\n" for n in range(1, 7))
        )
        QImage(64, 48, QImage.Format.Format_RGB32).save(str(folder / "crimp.png"))
        for name in ("getOpenFileName", "getSaveFileName"):
            patch.setattr(QFileDialog, name, lambda *_, **__: (str(self.folder / self.answer()), ""))
        patch.setattr(QInputDialog, "getText", lambda *_, **__: (self.answer(), True))
        patch.setattr(QInputDialog, "getItem", lambda *a, **__: (self._picked(a[3]), True))
        patch.setattr(QMessageBox, "exec", self._asked)

    def answer(self) -> str:
        if not self.answers:
            raise StepError("a question was asked that the steps don't answer")
        return self.answers.pop(0)

    def _picked(self, names: list[str]) -> str:
        wanted = self.answer().lower()
        return next(one for one in names if wanted in one.lower())

    def _asked(self, box: QMessageBox) -> int:
        wanted = self.answer()
        next(button for button in box.buttons() if button.text().replace("&", "").startswith(wanted)).click()
        return 0

    def play(self, block: str) -> None:
        for line in filter(None, map(str.strip, block.splitlines())):
            verb, _, rest = line.partition(" ")
            try:
                getattr(self, f"do_{verb}")(rest.strip())
                self.settle()
            except StepError as why:
                raise StepError(f"{line}: {why}") from None
        assert not self.answers, self.answers

    def settle(self) -> None:
        if self.window is not None and self.window.isVisible():
            QApplication.processEvents()
            settled(self.qtbot, self.window)
            self.qtbot.waitUntil(lambda: not self.window.document.looking, timeout=30_000)
            until = time.monotonic() + 30 * slowness()
            while any(
                getattr(one, "busy", False) is True
                for one in QApplication.topLevelWidgets()
                if isinstance(one, QDialog) and one.isVisible()
            ):
                QApplication.processEvents()
                assert time.monotonic() < until, "a sheet is busy for ever"

    @property
    def top(self) -> QWidget:
        """What lies over the window, else the window."""
        modal = QApplication.activeModalWidget()
        return modal if modal is not None else self.window

    def do_new(self, _: str) -> None:
        self.count += 1
        path = self.folder / f"new{self.count}.umber"
        self.window = self._opened(path, Design(project=Project(name="new")))

    def _opened(self, path: Path, design: Design | None) -> Any:
        for left in QApplication.topLevelWidgets():
            if isinstance(left, QDialog) and left.isVisible():
                left.reject()  # of another test
        if self.window is not None:
            self.window.close()
        if design is not None:
            ProjectFile.create(path, design, copied=False).close()
        window = self.open_window(path=path)
        window.resize(1280, 800)
        return window

    def do_open(self, what: str) -> None:
        self.count += 1
        path = self.folder / f"{self.count}.umber"
        name = what.removeprefix("demo ")
        put_demo(path, name).close()
        self.window = self._opened(path, None)

    def do_go(self, desk: str) -> None:
        number = next((at for at, stage in enumerate(STAGES, 1) if stage.name == desk), None)
        if number is None:
            raise StepError("there is no such desk")
        press(self.window, f"Alt+{number}")

    def do_menu(self, name: str) -> None:
        action = self.window.commands.by_name.get(name)
        if action is None:
            raise StepError("there is no such command")
        action.trigger()

    def do_click(self, text: str) -> None:
        found = [
            one
            for one in self.top.findChildren(QAbstractButton)
            if one.isVisible() and one.isEnabled() and _words(one.text()).startswith(text)
        ]
        if not found:
            raise StepError(
                "no such button is in sight; there are: "
                + "; ".join(
                    sorted({_words(one.text()) for one in self.top.findChildren(QAbstractButton) if one.isVisible()})
                )
            )
        found[0].click()

    def do_press(self, keys: str) -> None:
        wanted = QKeySequence(keys)
        if any(wanted in one.shortcuts() for one in self.window.actions()):
            press(self.window, keys)
            return
        local = [one for one in self.window.findChildren(QShortcut) if one.key() == wanted and one.parent().isVisible()]
        if local:
            local[0].activated.emit()
            return
        if button := next(
            (one for one in self.window.findChildren(QAbstractButton) if one.isVisible() and one.shortcut() == wanted),
            None,
        ):
            button.click()
            return
        combo = QKeySequence(keys)[0]
        QTest.keyClick(QApplication.focusWidget() or self.top, combo.key(), combo.keyboardModifiers())

    def do_type(self, text: str) -> None:
        QTest.keyClicks(QApplication.focusWidget() or self.top, text)

    def do_say(self, text: str) -> None:
        desk = self.window.desks[self.window.stage]
        line = getattr(desk, "line", None) or desk.telling.line
        line.setFocus()
        line.setText(text)
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.settle()
        if line.text():
            raise StepError(
                "it wasn't taken: " + " ".join(one.text() for one in desk.findChildren(QLabel) if one.isVisible())[:300]
            )

    def do_fill(self, text: str) -> None:
        name, _, value = text.partition(": ")
        box = next(
            (
                one
                for one in self.top.findChildren(QLineEdit)
                if one.isVisible() and name in (one.accessibleName(), one.placeholderText())
            ),
            None,
        )
        if box is None:
            raise StepError("no such field is in sight")
        box.setFocus()
        box.setText(value)
        box.textEdited.emit(value)
        QTest.keyClick(box, Qt.Key.Key_Return)

    def _cells(self) -> list[tuple[RowsView, int, int, str]]:
        found = []
        for view in self.top.findChildren(RowsView):
            if view.isVisible():
                model = view.model()
                found += [
                    (view, r, c, str(model.index(r, c).data() or ""))
                    for r in range(model.rowCount())
                    for c in range(model.columnCount())
                ]
        return found

    def do_choose(self, text: str) -> None:
        hit = next(((view, r, c) for view, r, c, said in self._cells() if text in said), None)
        if hit is None:
            raise StepError("no such row is in sight")
        view, row, column = hit
        view.setFocus()
        view.setCurrentIndex(view.model().index(row, column))

    def do_write(self, text: str) -> None:
        name, _, value = text.partition(": ")
        view = next(
            (
                one
                for one in self.top.findChildren(RowsView)
                if one.isVisible()
                and one.currentIndex().isValid()
                and name in [column.title for column in one.rows_model.columns]
            ),
            None,
        )
        if view is None:
            raise StepError("no row is chosen in a table with that column")
        at = [column.title for column in view.rows_model.columns].index(name)
        view.model().setData(view.model().index(view.currentIndex().row(), at), value)

    def do_pick(self, text: str) -> None:
        for box in self.top.findChildren(QComboBox):
            at = next((n for n in range(box.count()) if box.itemText(n).startswith(text)), -1)
            if box.isVisible() and at >= 0:
                box.setCurrentIndex(at)
                box.activated.emit(at)
                return
        raise StepError("no list in sight has it")

    def do_answer(self, text: str) -> None:
        self.answers.append(text)

    def do_see(self, text: str) -> None:
        until = time.monotonic() + 10 * slowness()
        while text not in self.shown():
            self.settle()
            if time.monotonic() > until:
                raise StepError(f"not in sight; there is: {self.shown()[:3000]}")

    def do_close(self, _: str) -> None:
        over = [
            one
            for one in [QApplication.activeModalWidget(), *QApplication.topLevelWidgets()]
            if isinstance(one, QDialog) and one.isVisible()
        ]
        if not over:
            raise StepError("nothing lies over the window")
        over[0].reject()

    def shown(self) -> str:
        """All words in sight."""
        said = [
            one.text()
            for kind in (QLabel, QAbstractButton, QLineEdit)
            for one in self.top.findChildren(kind)
            if one.isVisible()
        ]
        said += [
            f"{one.accessibleName()} {one.accessibleDescription()}"
            for one in self.top.findChildren(QWidget)
            if one.isVisible()
        ]
        said += [cell for *_, cell in self._cells()]
        said += [
            column.title
            for view in self.top.findChildren(RowsView)
            if view.isVisible()
            for column in view.rows_model.columns
        ]
        desk = self.window.desks.get(self.window.stage)
        for name in ("view", "bench"):
            card = getattr(getattr(desk, name, None), "card", None)
            said.append(
                " ".join(str(value) for value in vars(card).values())
                if card is not None and hasattr(card, "__dict__")
                else str(card)
            )
        return "\n".join(filter(None, [*map(_words, said), self.window.windowTitle()]))


def _words(text: str) -> str:
    return text.replace("&", "").strip()
