"""A real window on a real file, torn down whole."""

from __future__ import annotations

import gc
import time
import traceback
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot

from umber_trunk.app import document, theme
from umber_trunk.app.desks.sizes import desk as sizes_desk
from umber_trunk.app.session import Session
from umber_trunk.app.settings import Settings
from umber_trunk.app.window import Window
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import Wanted, always
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sizes import floor
from umber_trunk.core.sizes.candidates import Ladder, ladder
from umber_trunk.store.project import ProjectFile

USUAL_S = 0.06
"""A million additions on the machine these waits were written on."""


def slowness() -> float:
    """How many times slower than usual this machine is at this moment, 1 to 8: other work slows it."""
    begun = time.perf_counter()
    sum(range(1_000_000))
    total = 0
    for number in range(300_000):
        total += number
    return min(max((time.perf_counter() - begun) / USUAL_S, 1.0), 8.0)


@pytest.fixture(autouse=True)
def waits_follow_the_machine(monkeypatch: pytest.MonkeyPatch) -> None:
    """A wait that runs out is given what the machine is slower than usual just then."""
    plain = QtBot.waitUntil

    def patient(self: QtBot, callback: Callable[[], object], *, timeout: int = 5000) -> None:
        begun = time.monotonic()
        while True:
            try:
                return plain(self, callback, timeout=timeout)
            except QtBot.TimeoutError:
                if 1000 * (time.monotonic() - begun) > min(timeout * slowness(), 100_000):
                    raise

    monkeypatch.setattr(QtBot, "waitUntil", patient)


@pytest.fixture(scope="session")
def qapp_args() -> list[str]:
    return ["umber"]


@pytest.fixture(scope="module", autouse=True)
def _what_is_there_is_looked_at_once() -> None:
    """A collection after each window looks at what the window left, not at all that was imported before."""
    gc.unfreeze()
    gc.collect()
    gc.freeze()


@pytest.fixture
def open_window(qtbot, qapp: QApplication, tmp_path: Path) -> Iterator[Callable[..., Window]]:
    """Opens a window on a design (or on a file that is there) and waits for its figures."""
    theme.load_fonts()
    theme.apply_theme(qapp)
    session = Session(Settings(tmp_path / "settings.json"))
    crashes: list[BaseException] = []
    session.crashed = crashes.append  # type: ignore[method-assign]

    def opened(design: Design | None = None, path: Path | None = None) -> Window:
        path = path or tmp_path / "test.umber"
        if design is not None:
            ProjectFile.create(path, design).close()
        window = session.show_file(path)
        settled(qtbot, window)
        window.activateWindow()
        qtbot.waitUntil(window.isActiveWindow)  # shortcuts are heard by the active window alone
        return window

    yield opened
    session.close_all()
    session.deleteLater()
    qapp.processEvents()
    gc.collect()
    assert not crashes, "".join(part for one in crashes for part in traceback.format_exception(one))


@pytest.fixture
def boxes(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What message boxes said; each is answered by the button whose words begin with `boxes.answer`, else the last;
    `offered`: the latest's buttons."""

    class Boxes(list[str]):
        answer = ""
        offered: tuple[str, ...] = ()

    told = Boxes()

    def answered(box: QMessageBox) -> int:
        told.append(f"{box.text()} {box.informativeText()}")
        assert box.textFormat() == Qt.TextFormat.PlainText
        told.offered = tuple(button.text() for button in box.buttons())
        for button in box.buttons():
            if told.answer and button.text().startswith(told.answer):
                button.click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answered)
    return told


_KNOWN: list[tuple[Design, Shelf | None, Results]] = []
_STEPS: list[tuple[Any, Ladder]] = []


@pytest.fixture(autouse=True)
def _demos_are_worked_out_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """Results are values: a window on a design that a test before had open shows the same object. Half of what a
    window's test takes is waiting for them."""

    def remembered(
        design: Design, shelf: Shelf | None = None, before: Results | None = None, wanted: Wanted = always
    ) -> Results:
        for known, its_shelf, results in _KNOWN:
            if its_shelf is shelf and known == design:
                return results.told_of(design)
        made = analyse(design, shelf, before, wanted)
        if before is None:
            _KNOWN.append((design, shelf, made))
            del _KNOWN[:-6]
        return made

    def stepped(*asked: Any) -> Ladder:
        for known, steps in _STEPS:
            if known == asked[:4]:
                return steps
        made = ladder(*asked)
        _STEPS.append((asked[:4], made))
        del _STEPS[:-6]
        return made

    monkeypatch.setattr(document, "analyse", remembered)
    monkeypatch.setattr(sizes_desk, "ladder", stepped)


def settled(qtbot, window: Window) -> None:
    """Waits until everything shown belongs to the design shown."""
    document = window.document
    qtbot.waitUntil(
        lambda: document.fresh and not document.ahead and not any(d.busy for d in window.desks.values()), timeout=20_000
    )


@pytest.fixture(autouse=True)
def _short_proofs(monkeypatch: pytest.MonkeyPatch) -> None:
    """Least copper's floor is raised by one branching, as far as a window's tests look at it."""
    monkeypatch.setattr(floor, "BRANCHES", 1)
    monkeypatch.setattr(floor, "PATIENT_BRANCHES", 1)
