"""Every main view of the demo as a picture, for docs/screenshots."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

from PySide6.QtCore import QBuffer, QEventLoop, QIODevice, QTimer
from PySide6.QtWidgets import QApplication, QWidget

from umber_trunk.app import theme
from umber_trunk.app.desks.needs.desk import NeedsDesk
from umber_trunk.app.desks.sizes.desk import SizesDesk
from umber_trunk.app.session import Session
from umber_trunk.app.settings import Settings
from umber_trunk.app.sheets.least import LeastCopper
from umber_trunk.app.window import KEYS, Window
from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.demo import barge, shop_list
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.model import Design
from umber_trunk.store.files import write_whole
from umber_trunk.store.project import ProjectFile


def settle(window: Window) -> None:
    """Runs the event loop until figures and ladder have arrived and are painted."""
    document = window.document
    wait_for(lambda: document.fresh and not document.ahead and not any(desk.busy for desk in window.desks.values()))


def wait_for(ready: Callable[[], bool]) -> None:
    """Runs the event loop until `ready`, then lets everything be painted."""
    loop = QEventLoop()
    timer = QTimer()
    timer.timeout.connect(lambda: loop.quit() if ready() else None)
    timer.start(20)
    loop.exec()
    timer.stop()
    for _ in range(4):
        QApplication.processEvents()


def take_shots(folder: Path) -> Iterator[Path]:
    """Writes the pictures one after another; yields each path."""
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    theme.load_fonts()
    theme.apply_theme(app)
    with tempfile.TemporaryDirectory() as scratch:
        session = Session(Settings(Path(scratch) / "settings.json"))

        def saved(name: str, widget: QWidget) -> Path:
            path = folder / f"{name}.png"
            buffer = QBuffer()
            buffer.open(QIODevice.OpenModeFlag.WriteOnly)
            widget.grab().save(buffer, "PNG")  # type: ignore[call-overload]
            write_whole(path, bytes(buffer.data().data()))
            return path

        empty = Path(scratch) / "new harness.umber"
        ProjectFile.create(empty, Design(), copied=False).close()
        window = session.show_file(empty)
        settle(window)
        yield saved("empty", window)
        listed = Path(scratch) / "listed.umber"
        ProjectFile.create(listed, Design(), copied=False).close()
        window = session.show_file(listed)
        source = Path(scratch) / "shop list.csv"
        # without its unit, so that a question is open
        write_whole(source, shop_list().replace("Length (mm)", "Length").encode())
        dialog = window.import_from(source)
        assert dialog is not None
        settle(window)
        dialog.resize(1280, 800)
        QApplication.processEvents()
        yield saved("import", dialog)
        dialog.take_likeliest()
        dialog.finish(True)
        settle(window)
        yield saved("runs-list", window)
        demo = Path(scratch) / "sorting-barge.umber"
        ProjectFile.create(demo, barge(), "demo harness", copied=False).close()
        window = session.show_file(demo)
        settle(window)
        yield from _demo_views(window, saved)
        window.close()


def _demo_views(window: Window, saved: object) -> Iterator[Path]:
    needs, sizes = window.desks["needs"], window.desks["sizes"]
    assert isinstance(needs, NeedsDesk)
    assert isinstance(sizes, SizesDesk)
    needs.line.setText("winch 2 kW surge 140A/0.5s duty 20s/60s at foredeck in deck run 1.5 m off bow locker min 21 V")
    needs.loads.choose("conveyor")
    settle(window)
    yield saved("needs", window)  # type: ignore[operator]
    needs.line.clear()
    for stage in ("runs", "sizes"):
        window.show_stage(stage)
        settle(window)
        yield saved(stage, window)  # type: ignore[operator]
    sizes.wires.choose("W08")
    settle(window)
    for number, name in ((1, "section"), (2, "volts"), (3, "fuse")):
        sizes.tab(number)
        if name == "section":
            window.pick("segments", "S5")
        settle(window)
        yield saved(name, window)  # type: ignore[operator]
    sizes.tab(4)
    wait_for(lambda: bool(sizes.worth.rows) and all(row.resized for row in sizes.worth.rows))
    yield saved("worth", window)  # type: ignore[operator]
    sizes.tab(0)
    window.trunk.select(set())
    window.say(KEYS)
    sheet = LeastCopper(window.document, window)
    sheet.open()
    wait_for(lambda: not sheet.busy)
    yield saved("least-copper", sheet)  # type: ignore[operator]
    sheet.reject()
    sizes.paint_by.setCurrentIndex(1)
    window.ask_why()
    settle(window)
    yield saved("why", window)  # type: ignore[operator]
    window.why.hide()
    sizes.paint_by.setCurrentIndex(0)
    window.show_stage("kit")
    settle(window)
    yield saved("kit", window)  # type: ignore[operator]
    for size in ("2.5 mm2", "4 mm2"):
        window.document.apply(lambda d, size=size: set_size(d, ["W08"], size), f"size of W08 to {show_size(size)}")
    window.document.project.freeze(window.document.project.head, "rev A, six built")
    window.document.undo()
    window.document.apply(lambda d: set_size(d, ["W08"], "6 mm2"), "size of W08 to 6 mm²")
    sheet = window.commands.show_revisions()
    settle(window)
    yield saved("revisions", sheet)  # type: ignore[operator]
    sheet.reject()
