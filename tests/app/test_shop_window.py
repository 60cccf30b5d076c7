"""The shop's window at the workshop, driven as one does: jobs, offers, devices, variants; another station beside it."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog

from umber_trunk.app.sheets.variants_sheet import VariantsSheet
from umber_trunk.app.shop import job_acts, list_pane, shop_window
from umber_trunk.app.shop.shop_look import look
from umber_trunk.app.shop.shop_window import ShopWindow
from umber_trunk.core.demo import barge
from umber_trunk.core.harness.edits import change
from umber_trunk.core.shop.things import Tool
from umber_trunk.store.demo_shop import put_shop, with_variants
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.shop_file import ShopFile, shop_file

DAY = date(2026, 12, 1)


@pytest.fixture
def window(qtbot, tmp_path: Path) -> ShopWindow:
    made = ShopWindow(put_shop(tmp_path / "workshop"), DAY)
    qtbot.addWidget(made)
    made.show()
    qtbot.waitUntil(lambda: made.shown is not None and not made.busy, timeout=30_000)
    return made


def settled(qtbot, window: ShopWindow) -> None:
    qtbot.waitUntil(lambda: not window.busy, timeout=30_000)


def test_jobs_shelf_devices_and_what_another_station_does(
    qtbot, window: ShopWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown = window.shown
    assert shown is not None
    assert window.cards.count() == 12
    assert window.cards.chosen == "J110"  # due first
    assert {state.job.id: state.state for state in shown.states}["J112"] == "closed"
    assert "jobs open" in window.told.text()
    assert len(shown.trunks) == 12

    opened: list[Path] = []
    window.wants_file.connect(opened.append)
    next(one for one in window.cards.actions() if one.shortcut().toString() == "Return").trigger()
    assert {one.shortcut().toString() for one in window.actions()} == {"F5", "Ctrl+W"}  # no letter acts from elsewhere
    window.wants_bench.connect(opened.append)
    window.open_bench("J105")
    assert [path.name for path in opened] == ["shore.umber", "computer.umber"]

    assert window.cards.choose("J104")
    settled(qtbot, window)
    assert "nobody has accepted" in window.holds.text()
    assert window.offer.pages
    window.show_offer(True)
    settled(qtbot, window)
    assert window.offer.pages
    window.accept()
    settled(qtbot, window)
    assert shown.state("J104") is not None
    assert window.shown is not None
    assert window.shown.state("J104").state == "accepted"  # type: ignore[union-attr]

    # units that aren't proven go out only with a word by whom
    window.cards.choose("J101")
    answers = iter([("1,2", True), ("MA: samples", True)])
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: next(answers))
    window.hand_over()
    settled(qtbot, window)
    with shop_file(window.path) as file:
        given = file.shop().named("jobs", "J101").deliveries
    assert [(one.units, one.who) for one in given] == [((1, 2), "MA: samples")]
    answers = iter([("", False)])
    window.close_job()  # given up: nothing happens
    settled(qtbot, window)
    assert window.job is not None
    assert window.job.closed is None

    # another station: seen at once by the file system's notice, else by asking, within two seconds
    assert shop_window.EVERY_MS < 2000
    for every_ms, customer in ((10_000_000, "Somebody else"), (shop_window.EVERY_MS, "A third")):
        window.ask_every(every_ms, notices=every_ms > 2000)
        with ShopFile.open(window.path) as other:
            other.edit("jobs", "J104", lambda job, name=customer: change(job, customer=name), "JO")
            other.put("tools", [Tool(id=customer)])
        qtbot.waitUntil(
            lambda name=customer: window.shown is not None and window.shown.shop.named("jobs", "J104").customer == name,
            timeout=20_000,
        )
        settled(qtbot, window)

    # a look that goes on from another shows what one from nothing shows: of the job that is of another's design now too
    with ShopFile.open(window.path) as other:
        other.edit("jobs", "J104", lambda job: change(job, variant=""), "JO")
    before = window.shown
    again, fresh = (look(window.path, DAY, 1.0, lambda: True, one) for one in (before, None))
    assert (again.states, again.plan, again.orders, again.trunks) == (
        fresh.states,
        fresh.plan,
        fresh.orders,
        fresh.trunks,
    )
    assert again.trunks["J104"] == again.trunks["J103"] != before.trunks["J104"]
    assert {id(one) for one in again.seen.worked_out()} <= {id(one) for one in before.seen.worked_out()}
    settled(qtbot, window)

    for tab in range(1, window.tabs.count()):
        window.tabs.setCurrentIndex(tab)
        settled(qtbot, window)
        window.grab()
    assert window.orders.pages
    assert window.lessons.pages
    assert "2 of" in window.pins.answer.text()
    assert window.pins.table.item(0, 4).text() == "plus on minus"
    window.pins.second.setCurrentIndex(0)
    assert "Alike in all" in window.pins.answer.text()


def test_the_plan_its_what_if_and_a_bar(qtbot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = put_shop(tmp_path / "workshop")
    with shop_file(path) as file:
        file.drop("jobs", ["J103", "J104", "J107", "J109"])
    window = ShopWindow(path, DAY, "2026-12-01T08:00+01:00")
    qtbot.addWidget(window)
    window.show()
    window.tabs.setCurrentWidget(window.plan)
    qtbot.waitUntil(lambda: window.plan.worked is not None and not window.busy, timeout=60_000)
    pane = window.plan
    assert "weighted days late (no plan under" in pane.told.text()
    assert pane.table.rowCount() == 3
    assert pane.today.text().startswith("Now")
    assert not pane.take.isEnabled()
    for way in range(3):
        pane.way.setCurrentIndex(way)
        pane.lanes.grab()
        assert pane.lanes.bars
    bar = next(bar for bar in pane.lanes.bars if bar.job == "J105")
    qtbot.mouseClick(pane.lanes, Qt.MouseButton.LeftButton, pos=bar.box.center().toPoint())
    assert window.cards.chosen == pane.lanes.lit  # its trunk is lit
    assert bar.job in pane.lanes.told_at(bar.box.center())
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("tool:hex-50", True))
    pane.ask()
    settled(qtbot, window)
    assert "one more hex-50" in pane.told.text()
    assert pane.take.isEnabled()
    pane.take_it()
    settled(qtbot, window)
    assert window.file.shop().named("tools", "hex-50").count == 2
    qtbot.waitUntil(lambda: not window.busy and window.plan.worked is not None, timeout=60_000)
    assert len(window.file.shop().plans) == 1
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("nonsense", True))
    pane.ask()
    settled(qtbot, window)
    assert pane.told.text().startswith("✕")


def test_variants_of_a_harness_in_its_window(qtbot, open_window, monkeypatch: pytest.MonkeyPatch) -> None:
    window = open_window(with_variants("barge"))
    window.pick("ends", "mast")
    sheet = window.commands.show_variants()
    assert isinstance(sheet, VariantsSheet)
    qtbot.waitUntil(lambda: not sheet.busy, timeout=20_000)
    assert sheet.list.count() == 4
    assert "46 wires" in sheet.sums.text()
    assert sheet.table.rowCount() > 4
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("masthead", True))
    sheet.new_option()
    assert [option.id for option in window.document.design.options] == ["wash-pump", "horn", "masthead"]
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("dark = horn", True))
    sheet.new_variant()
    sheet.first.setCurrentText("dark")
    qtbot.waitUntil(lambda: not sheet.busy, timeout=20_000)
    assert {wire.id for wire in sheet.of("dark").wires} < {wire.id for wire in window.document.design.wires}
    sheet.grab()
    window.document.undo()
    assert "dark" not in {one.id for one in window.document.design.variants}
    sheet.close()


def test_an_empty_shop_and_its_first_job(qtbot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "shop.umber"
    ShopFile.create(path).close()
    ProjectFile.create(tmp_path / "lamp.umber", barge()).close()
    window = ShopWindow(path, DAY)
    qtbot.addWidget(window)
    told: list[str] = []
    monkeypatch.setattr(job_acts, "tell", lambda _, text: told.append(text))
    window.show()
    settled(qtbot, window)
    assert window.title.text() == "No job yet"
    for tab in range(window.tabs.count()):
        window.tabs.setCurrentIndex(tab)
        settled(qtbot, window)
        window.grab()
    for act in (window.accept, window.hand_over, window.close_job, window.open_harness):
        act()  # of no job: nothing
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, **__: (str(tmp_path / "lamp.umber"), ""))
    for said in ("many; Jo", "2; Jo; tomorrow", "gold; 2; Jo"):
        monkeypatch.setattr(QInputDialog, "getText", lambda *_, said=said, **__: (said, True))
        window.new_job()
    assert len(told) == 3
    assert window.file.shop().jobs == ()
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("2; Jo; 2026-12-20", True))
    window.new_job()
    settled(qtbot, window)
    qtbot.waitUntil(lambda: window.cards.count() == 1, timeout=20_000)
    assert window.job is not None
    assert (window.job.units, window.job.due, window.job.file) == (2, "2026-12-20", "lamp.umber")
    table = tmp_path / "people.csv"
    table.write_text("id,hours\nJO,mon nine\n")
    window.lists.kind.setCurrentText("People")
    monkeypatch.setattr(list_pane, "tell", lambda _, text: told.append(text))
    window.lists.read_from(table)
    assert "row 2, hours" in told[-1]
    table.write_text("id,hours\nJO,mon 09:00–12:00\n")
    window.lists.read_from(table)
    assert [person.id for person in window.file.shop().people] == ["JO"]
