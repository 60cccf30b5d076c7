"""The window loses nothing: bugs end in a report and an offer, files come to the front, revisions and copies are at
hand."""

import shutil
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog

from umber_trunk.app import document as document_module
from umber_trunk.app import doorbell
from umber_trunk.app import session as start
from umber_trunk.app.doorbell import Doorbell
from umber_trunk.app.settings import Settings
from umber_trunk.app.sheets.least import LeastCopper
from umber_trunk.core.harness.edits import change, put, rename
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Project
from umber_trunk.core.sample import generated
from umber_trunk.store import report as report_module
from umber_trunk.store.copies import all_copies
from umber_trunk.store.project import ProjectFile

from .conftest import settled


def reports(tmp_path: Path) -> list[Path]:
    return list(tmp_path.rglob("*.umber-report.txt"))


def test_a_bug_ends_in_a_report(qtbot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, boxes: list[str]) -> None:
    monkeypatch.setattr(start.traceback, "print_exception", lambda *_: None)
    stopped: list[int] = []
    monkeypatch.setattr(start.QApplication, "exit", stopped.append)
    session = start.Session(Settings(tmp_path / "s.json"))
    session.crashed(ZeroDivisionError("made up"))
    (report,) = reports(tmp_path)
    assert "made up" in report.read_text()
    assert report.stat().st_mode & 0o077 == 0
    assert str(report) in boxes[0]
    assert stopped == [70]


def test_a_report_that_cannot_be_written_is_said(
    qtbot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, boxes: list[str]
) -> None:
    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(start.traceback, "print_exception", lambda *_: None)
    monkeypatch.setattr(report_module.tempfile, "mkstemp", full)
    monkeypatch.setattr(start.QApplication, "exit", lambda _: None)
    start.Session(Settings(tmp_path / "s.json")).crashed(ZeroDivisionError("made up"))
    assert "could not be written: the disk is full. It begins: ZeroDivisionError: made up" in boxes[0]


@pytest.fixture
def breaker(monkeypatch: pytest.MonkeyPatch) -> None:
    """An analysis that breaks on a load called so."""
    real = document_module.analyse

    def breaking(design: Design, *rest: object) -> object:
        if design.loads[0].name == "breaker":
            raise ZeroDivisionError("made up")
        return real(design, *rest)  # type: ignore[arg-type]

    monkeypatch.setattr(document_module, "analyse", breaking)
    monkeypatch.setattr(start.traceback, "print_exception", lambda *_: None)


def test_a_design_that_breaks_an_analysis_can_be_left_for_the_one_before(
    qtbot, demo: Design, tmp_path: Path, breaker: None, boxes: list[str]
) -> None:
    path = tmp_path / "broken.umber"
    with ProjectFile.create(path, demo) as file:
        file.commit(rename(demo, "loads", demo.loads[0].id, "breaker"), "the edit that breaks it")
    boxes.answer = "Go on"  # type: ignore[attr-defined]
    session = start.Session(Settings(tmp_path / "s.json"))
    session.show_file(path)
    qtbot.waitUntil(lambda: session.window is not None and session.window.document.fresh, timeout=20_000)
    assert "revision 2, “the edit that breaks it”" in boxes[0]
    assert "go on with revision 1" in boxes[0]
    assert session.window.document.design.loads[0].name == demo.loads[0].name
    assert session.window.document.project.can_redo() == "the edit that breaks it"
    assert reports(tmp_path)
    settled(qtbot, session.window)
    session.window.close()


def test_a_design_that_breaks_an_analysis_can_be_mended_as_it_is(
    qtbot, demo: Design, tmp_path: Path, breaker: None, boxes: list[str]
) -> None:
    boxes.answer = "Mend"  # type: ignore[attr-defined]
    path = tmp_path / "broken.umber"
    ProjectFile.create(path, rename(demo, "loads", demo.loads[0].id, "breaker")).close()
    session = start.Session(Settings(tmp_path / "s.json"))
    window = session.show_file(path)
    qtbot.waitUntil(lambda: bool(boxes))
    assert not window.document.fresh
    window.document.apply(lambda d: rename(d, "loads", d.loads[0].id, "mended"), "mend it")
    settled(qtbot, window)
    assert window.document.fresh
    window.close()


def test_opening_what_is_open_brings_its_window_up(qtbot, open_window, demo: Design, tmp_path: Path) -> None:
    window = open_window(demo)
    window.showMinimized()
    window.wants_file.emit(tmp_path / "." / "test.umber")
    assert not window.isMinimized()
    assert not window.document.project.read_only


def test_a_second_session_is_told_and_the_first_comes_up(
    qtbot, open_window, demo: Design, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = open_window(demo)
    rung: list[bool] = []
    bell = next(child for child in window.children() if isinstance(child, Doorbell))
    bell.rang.connect(lambda: rung.append(True))
    window.showMinimized()
    real = doorbell.time.sleep

    def waiting(seconds: float) -> None:
        qtbot.wait(20)
        real(seconds)

    monkeypatch.setattr(doorbell.time, "sleep", waiting)
    second = start.Session(Settings(tmp_path / "s2.json"))
    with pytest.raises(start.OpenElsewhereError, match="its window is in front"):
        second.show_file(tmp_path / "test.umber")
    assert rung
    assert not window.isMinimized()
    assert not list((tmp_path / "cache").rglob("*-*.*"))


def test_without_an_answer_the_second_window_reads_only(
    qtbot, open_window, demo: Design, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(doorbell, "PATIENCE_S", 0.05)
    path = tmp_path / "held.umber"
    with ProjectFile.create(path, demo):
        window = open_window(path=path)
        assert window.document.project.read_only
        assert "Read only" in window.status.text()


def test_a_bell_in_a_folder_others_may_write_is_not_heard(tmp_path: Path, qapp) -> None:
    folder = tmp_path / "cache" / "umber-trunk" / "bells"
    folder.mkdir(parents=True)
    folder.chmod(0o777)
    (tmp_path / "a.umber").write_text("x")
    assert not doorbell.ring(tmp_path / "a.umber")


def test_revisions_are_gone_to_and_frozen(qtbot, open_window, demo: Design, monkeypatch: pytest.MonkeyPatch) -> None:
    window = open_window(demo)
    load = demo.loads[0].id
    for name in ("one", "two"):
        window.document.apply(lambda d, name=name: rename(d, "loads", load, name), f"call it {name}")
    window.document.undo()
    window.document.apply(lambda d: rename(d, "loads", load, "three"), "call it three")
    sheet = window.commands.show_revisions()
    shown = [[sheet.table.item(row, column).text() for column in range(6)] for row in range(sheet.table.rowCount())]
    assert [cells[:3] for cells in shown] == [
        ["▶ now", "4", "call it three"],
        ["left", "3", "call it two"],
        ["", "2", "call it one"],
        ["", "1", "new harness"],
    ]
    assert shown[1][4] == "2"
    assert "Undo reaches back 2 steps; at least 1000 are kept" in sheet.told.text()
    sheet.table.selectRow(1)
    qtbot.mouseClick(sheet.go_button, Qt.MouseButton.LeftButton)
    assert window.document.design.loads[0].name == "two"
    assert sheet.table.item(1, 0).text() == "▶ now"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("rev A", True))
    qtbot.mouseClick(sheet.freeze_button, Qt.MouseButton.LeftButton)
    assert sheet.table.item(1, 5).text() == "❄ rev A"
    assert not sheet.freeze_button.isEnabled()
    settled(qtbot, window)
    sheet.reject()


def test_a_copy_of_the_day_is_restored_from_the_menu(
    qtbot, open_window, demo: Design, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = open_window(demo)
    window.document.apply(lambda d: rename(d, "loads", d.loads[0].id, "kept"), "a change")
    window.document.project.copies_kept()
    (copy,) = all_copies()
    sheet = window.commands.show_copies()
    assert sheet.table.item(0, 0).text() == "test"
    assert sheet.table.item(0, 2).text() == f"{copy.size / 1e6:.2f} MB"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / "again"), ""))
    wanted: list[Path] = []
    sheet.restored.disconnect()
    sheet.restored.connect(wanted.append)
    sheet.restore()
    assert wanted == [tmp_path / "again.umber"]
    with ProjectFile.open(wanted[0]) as file:
        assert file.design.loads[0].name == "kept"
        assert file.can_undo() == "a change"


def test_a_copy_never_lands_on_a_file(qtbot, open_window, demo: Design, tmp_path: Path, boxes: list[str]) -> None:
    window = open_window(demo)
    window.document.apply(lambda d: rename(d, "loads", d.loads[0].id, "kept"), "a change")
    sheet = window.commands.show_copies()
    sheet.restore_to(sheet.copies[0], tmp_path / "test.umber")
    assert "exists already" in boxes[0]


def test_an_export_never_lands_on_a_harness_file(qtbot, open_window, demo: Design, tmp_path: Path) -> None:
    window = open_window(demo)
    before = (tmp_path / "test.umber").read_bytes()
    (tmp_path / "list.csv").symlink_to("test.umber")
    for kind in ("json", "csv", "xlsx", "pdf"):
        for name in ("test.umber", "list.csv"):
            window.export_to(kind, tmp_path / name)
            qtbot.waitUntil(lambda: not window.writer.busy)
            assert "harness file" in window.status.text()
    assert (tmp_path / "test.umber").read_bytes() == before


@pytest.mark.parametrize(
    "text",
    [
        "{",
        "[]",
        '{"scale": "large", "recent": 7}',
        "\0" * 50,
        "[" * 100_000,
        '{"recent": ["a\\u0000b", "' + "x" * 5000 + '"]}',
    ],
)
def test_a_broken_settings_file_stops_nothing(tmp_path: Path, text: str) -> None:
    path = tmp_path / "settings.json"
    path.write_text(text)
    settings = Settings(path)
    assert settings.scale == 1.0
    assert settings.recent() == []
    settings.scale = 1.2
    assert Settings(path).scale == 1.2


def test_settings_that_are_no_file_stop_nothing(tmp_path: Path) -> None:
    folder = tmp_path / "settings.json"
    folder.mkdir()
    (folder / "x").write_text("x")
    settings = Settings(folder)
    assert "a folder" in settings.trouble
    settings.scale = 1.2


def test_words_of_a_file_are_no_markup(qtbot, open_window, demo: Design) -> None:
    name = "<b>x</b> & <img src='file:///etc/hostname'>"
    design = put(rename(demo, "loads", demo.loads[0].id, name), "ends", change(demo.ends[0], name=name))
    window = open_window(design.model_copy(update={"project": change(design.project, name=name[:30])}))
    window.go_to("loads", demo.loads[0].id)
    assert window.name.textFormat() == Qt.TextFormat.PlainText
    assert window.status.textFormat() == Qt.TextFormat.PlainText
    table = window.desks["needs"].views[0][1]
    tip = table.rows_model.index(0, 0).data(Qt.ItemDataRole.ToolTipRole)
    assert "&lt;b&gt;" in tip
    assert "<img" not in tip


def test_a_long_list_is_read_in_the_background_and_can_be_left(qtbot, open_window, tmp_path: Path) -> None:
    window = open_window(Design())
    path = tmp_path / "long.csv"
    rows = [f"W{n},E{n % 50}:{n},F{n % 30}:{n},1.5 mm2,red,{1 + n % 7}.5" for n in range(4000)]
    path.write_text("\n".join(["wire,from,to,size,colour,length (m)", *rows]))
    dialog = window.import_from(path)
    assert dialog.busy
    assert dialog.bar.isVisible()
    assert not dialog.accept_all.isEnabled()
    dialog.reject()
    assert not dialog.busy
    assert not window.document.design.wires
    dialog = window.import_from(path)
    qtbot.waitUntil(lambda: not dialog.busy and dialog.accept_all.isEnabled(), timeout=20_000)
    assert dialog.accept_all.text() == "Import 4000 wires"
    assert not dialog.bar.isVisible()
    dialog.reject()


def test_an_unreadable_workbook_is_said_in_the_window(qtbot, open_window, tmp_path: Path) -> None:
    window = open_window(Design())
    (tmp_path / "x.xlsx").write_bytes(b"PK" + b"nonsense" * 50)
    window.import_from(tmp_path / "x.xlsx")
    qtbot.waitUntil(lambda: "can't be read as a workbook" in window.status.text(), timeout=20_000)


def test_stopping_the_search_is_heard_at_once_and_keeps_the_best(qtbot, open_window) -> None:
    window = open_window(generated(60))
    sheet = LeastCopper(window.document, window)
    sheet.open()
    qtbot.waitUntil(lambda: sheet.kept is not None, timeout=30_000)
    if sheet.busy:
        qtbot.mouseClick(sheet.stop, Qt.MouseButton.LeftButton)
        assert sheet.verdict.text().startswith("Stopped. ")
    assert not sheet.busy
    assert sheet.found is not None
    assert sheet.go.isEnabled()
    sheet.reject()


def test_the_window_says_it_at_once_and_keeps_what_it_shows(
    qtbot: Any, open_window: Any, boxes: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = open_window(_named("first"))
    document, old = window.document, tmp_path / "old.umber"
    shutil.copyfile(document.path, old)
    document.apply(lambda _: _named("second"), "second")
    settled(qtbot, window)
    shutil.copyfile(old, document.path)
    kept, wanted = tmp_path / "kept.umber", list[Path]()
    window.wants_file.connect(wanted.append)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(kept), ""))
    boxes.answer = "Leave it"
    qtbot.waitUntil(lambda: bool(boxes), timeout=8000)  # nobody touched a key
    assert "stands at revision 1 now, you at 2" in boxes[0]
    assert {"Leave it", "Keep what is here as a new file…"} <= set(boxes.offered)
    boxes.answer = "Keep what is here"
    assert not document.apply(lambda _: _named("third"), "third")
    qtbot.wait(2000)
    assert len(boxes) == 2  # said once at once, and once at the edit
    assert wanted == [kept]
    with ProjectFile.open(kept) as project:
        assert project.design == _named("third")
    assert document.path.read_bytes() == old.read_bytes()


def _named(name: str) -> Design:
    return Design(project=Project(name=name))
