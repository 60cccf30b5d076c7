"""Every main view of the demo as a picture, for docs/screenshots."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator
from datetime import date
from pathlib import Path

from PySide6.QtCore import QBuffer, QEventLoop, QIODevice, QPoint, QRect, QTimer
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QApplication, QDialog, QWidget

from umber_trunk.app import theme
from umber_trunk.app.desks.ends.desk import EndsDesk
from umber_trunk.app.desks.keep.desk import KeepDesk
from umber_trunk.app.desks.kit.desk import KitDesk
from umber_trunk.app.desks.make.desk import MakeDesk
from umber_trunk.app.desks.needs.desk import NeedsDesk
from umber_trunk.app.desks.prove.desk import ProveDesk
from umber_trunk.app.desks.runs.desk import RunsDesk
from umber_trunk.app.desks.sizes.desk import SizesDesk
from umber_trunk.app.session import Session
from umber_trunk.app.settings import Settings
from umber_trunk.app.sheets.least import LeastCopper
from umber_trunk.app.sheets.papers import PapersSheet
from umber_trunk.app.sheets.tree_sheet import TreeDialog
from umber_trunk.app.sheets.variants_sheet import VariantsSheet
from umber_trunk.app.sheets.welcome import Welcome
from umber_trunk.app.shop.shop_window import ShopWindow
from umber_trunk.app.window import Window
from umber_trunk.core.demo import barge, demo
from umber_trunk.core.harness.edits import change
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.prove.proof import Task
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.demo_shop import put_shop
from umber_trunk.store.files import write_whole
from umber_trunk.store.project import ProjectFile


def settle(window: Window) -> None:
    """Runs the event loop until everything shown has arrived and is painted."""
    document = window.document
    wait_for(
        lambda: (
            document.fresh
            and not document.ahead
            and not document.looking
            and not window.trunk.busy
            and not any(desk.busy for desk in window.desks.values())
        )
    )


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


class Album:
    """Saves pictures into a folder: a widget, or a sheet over the window it belongs to."""

    def __init__(self, folder: Path, scratch: Path) -> None:
        self.folder, self.scratch = folder, scratch
        self.session = Session(Settings(scratch / "settings.json"))

    def saved(self, name: str, widget: QWidget, sheet: QDialog | None = None) -> Path:
        """One picture."""
        picture = widget.grab()
        if sheet is not None:
            painter = QPainter(picture)
            painter.fillRect(picture.rect(), QColor(20, 12, 8, 110))
            corner = QPoint((picture.width() - sheet.width()) // 2, (picture.height() - sheet.height()) // 2)
            painter.drawPixmap(corner, sheet.grab())
            painter.setPen(QPen(theme.INK, 1))
            painter.drawRect(QRect(corner, sheet.size()))
            painter.end()
        return self.kept(name, picture)

    def kept(self, name: str, picture: QPixmap) -> Path:
        """A picture written into the folder."""
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        picture.save(buffer, "PNG")
        path = self.folder / f"{name}.png"
        write_whole(path, bytes(buffer.data().data()))
        return path

    def opened(self, name: str, design: Design) -> Window:
        """A window of its own on a design."""
        self.session.close_all()
        path = self.scratch / name
        ProjectFile.create(path, design, "demo harness", copied=False).close()
        window = self.session.show_file(path)
        settle(window)
        return window


def take_shots(folder: Path) -> Iterator[Path]:
    """Writes the pictures one after another; yields each path."""
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    theme.load_fonts()
    theme.apply_theme(app, dark=False)
    with tempfile.TemporaryDirectory() as scratch:
        album = Album(folder, Path(scratch))
        yield from _beginnings(album)
        yield from _demo_views(album)
        yield from _end_views(album)
        yield from _way_views(album)
        yield from _paper_views(album)
        yield from _bench_views(album)
        yield from _proof_views(album)
        yield from _diagnosis_views(album)
        yield from _shop_views(album)
        album.session.close_all()


def _beginnings(album: Album) -> Iterator[Path]:
    for name in ("shore", "tractor"):
        path = album.scratch / "last week" / f"{name}.umber"
        path.parent.mkdir(exist_ok=True)
        put_demo(path, name).close()
        settle(album.session.show_file(path))
        album.session.close_all()
    welcome = Welcome(album.session.settings)
    welcome.resize(1280, 800)
    welcome.show()
    wait_for(lambda: not welcome.busy)
    yield album.saved("welcome", welcome)
    welcome.close()


def _end_views(album: Album) -> Iterator[Path]:
    window = album.opened("pin-map.umber", barge())
    window.show_stage("ends")
    desk = window.desks["ends"]
    assert isinstance(desk, EndsDesk)
    settle(window)
    desk.reveal("ends", "j1")
    desk.tab(0)
    settle(window)
    yield album.saved("pin-map", window)


def _paper_views(album: Album) -> Iterator[Path]:
    """The papers page at the lead sheets; the board with faces beside its ends."""
    window = album.opened("papers.umber", demo("tractor"))
    window.show_stage("runs")
    desk = window.desks["runs"]
    assert isinstance(desk, RunsDesk)
    settle(window)
    sheet = window.commands.show_papers("leads")
    assert isinstance(sheet, PapersSheet)
    wait_for(lambda: not sheet.busy)
    yield album.saved("papers", window, sheet)
    sheet.close()
    desk.board.click()
    wait_for(lambda: window.board is not None and window.board.made is not None and not window.board.busy)
    yield album.saved("board", window)


def _way_views(album: Album) -> Iterator[Path]:
    """Bars of lengths of the grading computer; a list's trunk."""
    window = album.opened("way.umber", demo("computer"))
    window.show_stage("runs")
    desk = window.desks["runs"]
    assert isinstance(desk, RunsDesk)
    settle(window)
    desk.tab(1)
    desk.lengths.rows.choose("G05")
    settle(window)
    yield album.saved("lengths", window)
    window = album.opened("listed.umber", _listed(demo("tractor")))
    window.show_stage("runs")
    settle(window)
    sheet = TreeDialog(window.document, window)
    sheet.show()
    wait_for(lambda: not sheet.busy)
    yield album.saved("inferred", window, sheet)
    sheet.reject()


def _listed(design: Design) -> Design:
    """Nothing but a list of wires with their lengths in whole centimetres."""
    index = index_of(design)
    wires = [change(wire, stated_m=max(round(index.length_m(wire), 2), 0.01), via=()) for wire in design.wires]
    ends = [change(end, point=None) for end in design.ends]
    return Design(ends=tuple(ends), wires=tuple(wires), supplies=design.supplies, loads=design.loads)


def _bench_views(album: Album) -> Iterator[Path]:
    """The bench, a unit and a cable that isn't what it says, of the half-built tractor."""
    album.session.close_all()
    path = album.scratch / "landing-tractor.umber"
    put_demo(path, "tractor").close()
    window = album.session.show_file(path)
    window.show_stage("make")
    settle(window)
    make = window.desks["make"]
    assert isinstance(make, MakeDesk)
    while make.build is not None and (
        make.build.bench.handful is None or make.build.bench.handful.first.op != "insert"
    ):
        if make.build.bench.now is not None and make.build.bench.lacks(make.build.bench.now):
            make.build.release("Ines")
        make.forward()
    make.step_along(1)
    make.forward()
    settle(window)
    yield album.saved("bench", window)
    window.show_stage("keep")
    settle(window)
    keep = window.desks["keep"]
    assert isinstance(keep, KeepDesk)
    keep.light("C21")
    settle(window)
    yield album.saved("unit", window)
    window.show_stage("kit")
    settle(window)
    kit = window.desks["kit"]
    assert isinstance(kit, KitDesk)
    kit.tab(3)
    kit.check.say(
        claim="16 mm2 copper",
        length="2 m",
        mass="112 g",
        od="9.0 mm",
        resistance="3.41 mohm",
        ambient="20 C",
        sold="50 m",
        coil_resistance="78 mohm",
    )
    kit.check.weighed.setCurrentIndex(1)
    kit.check.solve_again()
    settle(window)
    yield album.saved("wire-check", window)


def _at_prove(window: Window) -> tuple[Window, ProveDesk]:
    window.show_stage("prove")
    desk = window.desks["prove"]
    assert isinstance(desk, ProveDesk)
    settle(window)
    return window, desk


def _proof_views(album: Album) -> Iterator[Path]:
    """The list half done on the brine loops."""
    window, desk = _at_prove(album.opened("brine-loops.umber", demo("loops")))
    desk.simulate()
    _run_to(window, desk, lambda task: task.kind == "continuity" and any("jb" in point for point in task.points), 9)
    yield album.saved("prove", window)


def _diagnosis_views(album: Album) -> Iterator[Path]:
    """A heavy lead whose causes read alike, at the millivolts that part them."""
    window, desk = _at_prove(album.opened("leads-to-prove.umber", demo("shore")))
    desk.hidden.setText("stud:B1@battery:0.002")
    desk.simulate()
    desk.safe.setChecked(True)
    _run_to(window, desk, lambda task: task.kind == "millivolt", 1)
    yield album.saved("millivolts", window)


def _shop_views(album: Album) -> Iterator[Path]:
    """The workshop: an offer, the plan with a what-if, two devices compared; a variant of the barge beside its base."""
    album.session.close_all()
    path = put_shop(album.scratch / "workshop")
    shop = ShopWindow(path, date(2026, 12, 1), "2026-12-01T08:00+01:00")
    shop.show()
    wait_for(lambda: shop.shown is not None and not shop.busy)
    shop.cards.choose("J103")
    shop.show_offer(True)
    wait_for(lambda: not shop.busy)
    yield album.saved("shop", shop)
    shop.cards.choose("J105")
    shop.plan.instead = "first:J105"
    shop.tabs.setCurrentWidget(shop.plan)
    wait_for(lambda: not shop.busy and shop.plan.worked is not None)
    shop.plan.way.setCurrentIndex(2)
    yield album.saved("plan", shop)
    shop.tabs.setCurrentWidget(shop.pins)
    wait_for(lambda: not shop.busy)
    yield album.saved("devices", shop)
    shop.close()
    window = album.session.show_file(path.parent / "barge.umber")
    settle(window)
    sheet = window.commands.show_variants()
    assert isinstance(sheet, VariantsSheet)
    wait_for(lambda: not sheet.busy)
    yield album.saved("variants", window, sheet)
    sheet.close()


def _run_to(window: Window, desk: ProveDesk, there: Callable[[Task], bool], after: int) -> None:
    """Answers as a builder with a simulated unit does, until so many tasks after the first that is asked for."""
    while desk.proof is not None and desk.proof.now is not None:
        if there(desk.proof.now):
            after -= 1
            if not after:
                break
        desk.accept()
        settle(window)


def _demo_views(album: Album) -> Iterator[Path]:
    window = album.opened("sorting-barge.umber", barge())
    needs, sizes = window.desks["needs"], window.desks["sizes"]
    assert isinstance(needs, NeedsDesk)
    assert isinstance(sizes, SizesDesk)
    needs.line.setText("winch 2 kW surge 140A/0.5s duty 20s/60s at foredeck in deck run 1.5 m off bow locker min 21 V")
    needs.loads.choose("conveyor")
    settle(window)
    yield album.saved("needs", window)
    needs.line.clear()
    window.show_stage("sizes")
    settle(window)
    yield album.saved("sizes", window)
    sizes.wires.choose("W08")
    settle(window)
    finding = next(one for one in window.document.findings if one.code == "load.drop")
    sheet = window.mend(finding)
    assert sheet is not None
    wait_for(lambda: not sheet.busy)
    yield album.saved("mend", window, sheet)
    sheet.reject()
    least = LeastCopper(window.document, window)
    least.show()
    wait_for(lambda: not least.busy)
    yield album.saved("closing", window, least)
    least.reject()
