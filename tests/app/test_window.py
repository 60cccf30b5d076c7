"""The real window, driven by keys and mouse: enter a load, see the margin change, undo, export, reopen."""

import re
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QApplication, QDialog

from conftest import design_of
from umber_trunk.app.desks.kit.desk import KitDesk
from umber_trunk.app.desks.needs.desk import NeedsDesk
from umber_trunk.app.desks.runs.desk import RunsDesk
from umber_trunk.app.desks.sizes.desk import SizesDesk
from umber_trunk.app.settings import Settings
from umber_trunk.app.sheets.finder import Finder, hits_of
from umber_trunk.app.sheets.help import KeysSheet
from umber_trunk.app.sheets.lay_sheet import LayDialog
from umber_trunk.app.sheets.least import LeastCopper
from umber_trunk.app.sheets.welcome import Welcome
from umber_trunk.app.widgets.glance import GlanceCard
from umber_trunk.app.window import Window
from umber_trunk.core.demo import DEMOS, shop_list
from umber_trunk.core.demo import demo as named
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.sample import generated
from umber_trunk.core.sizes import floor
from umber_trunk.store.project import ProjectFile
from umber_trunk_helpers import cell, column_of, press, type_in

from .conftest import settled


def needs(window: Window) -> NeedsDesk:
    desk = window.desks["needs"]
    assert isinstance(desk, NeedsDesk)
    return desk


def sizes(window: Window) -> SizesDesk:
    desk = window.desks["sizes"]
    assert isinstance(desk, SizesDesk)
    return desk


def runs(window: Window) -> RunsDesk:
    desk = window.desks["runs"]
    assert isinstance(desk, RunsDesk)
    return desk


def kit(window: Window) -> KitDesk:
    desk = window.desks["kit"]
    assert isinstance(desk, KitDesk)
    return desk


def enter(qtbot, window: Window, line: str) -> None:
    type_in(qtbot, needs(window).line, line)
    qtbot.keyClick(needs(window).line, Qt.Key.Key_Return)
    settled(qtbot, window)


def test_from_an_empty_file_to_a_cut_list_and_back(qtbot, open_window, tmp_path: Path) -> None:
    window = open_window(Design())
    assert "supply 24 V" in needs(window).understood.text()
    enter(qtbot, window, "supply 24 V at battery")
    enter(qtbot, window, "pump 18 A at bow run 7.5 m")
    assert needs(window).line.text() == ""
    table = needs(window).loads
    before = cell(table, "Gets", 0)
    assert before.endswith("V")
    enter(qtbot, window, "winch 60 A at bow")
    window.show_stage("kit")
    assert kit(window).cuts.rows_model.rowCount() == 4
    press(window, "Ctrl+Z")
    settled(qtbot, window)
    assert kit(window).cuts.rows_model.rowCount() == 2
    window.export_to("cuts-csv", tmp_path / "cuts.csv")
    qtbot.waitUntil(lambda: not window.writer.busy)
    assert "pump" in (tmp_path / "cuts.csv").read_text("utf-8-sig")
    window.export_to("pdf", tmp_path / "cuts.pdf")
    qtbot.waitUntil(lambda: not window.writer.busy)
    assert (tmp_path / "cuts.pdf").read_bytes().startswith(b"%PDF")
    window.close()
    again = open_window(path=tmp_path / "test.umber")
    assert [load.name for load in again.document.design.loads] == ["pump"]
    assert cell(needs(again).loads, "Gets", 0) == before
    press(again, "Ctrl+Shift+Z")
    settled(qtbot, again)
    assert [load.name for load in again.document.design.loads] == ["pump", "winch"]


def test_an_edit_is_on_disk_when_it_is_shown(qtbot, open_window, tmp_path: Path) -> None:
    window = open_window(design_of("supply 24 V at battery"))
    shown: list[int] = []

    def look() -> None:
        with ProjectFile.open(tmp_path / "test.umber", for_writing=False) as file:
            shown.append(len(file.design.loads))

    window.document.changed.connect(look)
    enter(qtbot, window, "pump 18 A at bow run 7.5 m")
    assert shown == [1]


def test_the_line_shows_what_it_understood(qtbot, open_window) -> None:
    window = open_window(design_of("supply 24 V at battery"))
    desk = needs(window)
    desk.line.setText("pump 18 A duty 60s/20s at bow")
    assert "not possible" in desk.understood.text()
    assert not desk.enter_button.isEnabled()
    desk.line.setText("pump at bow")
    assert "say how much" in desk.understood.text()
    desk.line.setText("pump 18 A at bow run 3 m")
    assert desk.enter_button.isEnabled()
    desk.line.setText("pump 18 A at bow run 3 m from nowhere")
    desk.enter_line()
    assert "no end called" in window.status.text()
    assert desk.line.text()


def test_margin_changes_with_a_size(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    press(window, "Alt+3")
    settled(qtbot, window)
    desk = sizes(window)
    assert desk.wires.chosen_id() == "W16"
    figures = window.document.results.figures
    before = figures.wires["W16"].conductor_c
    qtbot.mouseClick(desk.up, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    after = window.document.results.figures.wires["W16"]
    assert after.size == "1 mm2"
    assert after.conductor_c < before
    assert window.document.results.figures.wires["W17"].size == "1 mm2"
    press(window, "Ctrl+Z")
    settled(qtbot, window)
    assert window.document.results.figures.wires["W16"].conductor_c == pytest.approx(before)


def test_limits_hold_of_sizes_that_are_known(qtbot, open_window, demo: Design) -> None:
    bare = set_size(demo.model_copy(update={"loads": (), "cases": ()}), [wire.id for wire in demo.wires], None)
    window = open_window(bare)
    window.show_stage("sizes")
    settled(qtbot, window)
    assert "50 wires, 40 without a size" in sizes(window).summary.text()


def test_ladder_step_is_taken_and_given_back(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    window.show_stage("sizes")
    settled(qtbot, window)
    desk = sizes(window)
    desk.wires.choose("W08")
    settled(qtbot, window)
    desk.steps.choose("6 mm2")
    desk.take()
    settled(qtbot, window)
    assert index_of(window.document.design).wires["W08"].size == "6 mm2"
    desk.wires.choose("W08")
    settled(qtbot, window)
    desk.unchoose()
    settled(qtbot, window)
    assert index_of(window.document.design).wires["W08"].size is None
    desk.accept_proposed()
    settled(qtbot, window)
    sized = {wire.id: wire.size for wire in window.document.design.wires}
    assert sized["W08"] is not None
    desk.wires.choose("W08")
    settled(qtbot, window)
    desk.wires.choose("W12")  # what is pressed now is meant for W12, whose steps nobody knows yet
    assert not desk.steps.rows_model.rows
    desk.take()
    qtbot.keyClicks(desk, "++-+")
    settled(qtbot, window)
    now = {wire.id: wire.size for wire in window.document.design.wires}
    assert {name for name in now if now[name] != sized[name]} == set(desk.ladder.members) & {"W12", "W13"}
    series = [one.size for one in desk.ladder.candidates]
    assert series.index(now["W12"]) - series.index(sized["W12"]) == 2


@pytest.mark.parametrize(
    ("stage", "view", "part", "title", "typed", "check"),
    [
        ("needs", "loads", "mast", "Draws", "48 W", lambda d: index_of(d).loads["mast"].value == 48),
        ("needs", "loads", "mast", "Surge", "9A/1s", lambda d: index_of(d).loads["mast"].surge_a == 9),
        ("needs", "loads", "bilge", "Duty", "", lambda d: index_of(d).loads["bilge"].on_s is None),
        ("needs", "loads", "mast", "Least", "21,5 V", lambda d: index_of(d).loads["mast"].min_volts == 21.5),
        (
            "needs",
            "loads",
            "mast",
            "Most drop",
            "7 %",
            lambda d: index_of(d).loads["mast"].max_drop_percent == pytest.approx(7),
        ),
        ("needs", "loads", "mast", "Load", "top light", lambda d: index_of(d).loads["mast"].name == "top light"),
        ("needs", "supplies", "PS1", "Inside", "8 mohm", lambda d: d.supplies[0].source_ohm == pytest.approx(0.008)),
        (
            "needs",
            "zones",
            "well",
            "Ambient",
            "140 F",
            lambda d: index_of(d).zones["well"].ambient_c == pytest.approx(60),
        ),
        ("needs", "rules", "metal", "Value", "copper", lambda d: d.project.metal == "copper"),
        ("needs", "rules", "chance_short", "Value", "5 %", lambda d: d.project.chance_short == pytest.approx(0.05)),
        ("needs", "rules", "match_pairs", "Value", "no", lambda d: d.project.match_pairs is False),
        (
            "runs",
            "segments",
            "S24",
            "Length",
            "3 ft 6 in",
            lambda d: index_of(d).segments["S24"].measure.length_m == pytest.approx(1.0668),
        ),
        (
            "runs",
            "segments",
            "S24",
            "Length",
            "2,4 m ± 3 cm string",
            lambda d: index_of(d).segments["S24"].measure.plus_minus_m == pytest.approx(0.03),
        ),
        (
            "runs",
            "segments",
            "S24",
            "±",
            "40 mm",
            lambda d: index_of(d).segments["S24"].measure.plus_minus_m == pytest.approx(0.04),
        ),
        ("runs", "segments", "S24", "How", "string", lambda d: index_of(d).segments["S24"].measure.method == "string"),
        ("runs", "segments", "S24", "Zone", "bilge", lambda d: index_of(d).segments["S24"].zone == "bilge"),
        ("runs", "segments", "S24", "To", "top", lambda d: index_of(d).points["P17"].name == "top"),
        ("sizes", "wires", "W16", "Size", "AWG 10", lambda d: index_of(d).wires["W16"].size == "AWG 10"),
    ],
)
@pytest.mark.share(8)
def test_tables_correct_every_field(qtbot, open_window, demo: Design, stage, view, part, title, typed, check) -> None:
    window = open_window(demo)
    window.show_stage(stage)
    desk = window.desks[stage]
    assert desk.reveal(view, part)
    window.show_stage(stage)
    desk.reveal(view, part)
    table = getattr(desk, view)
    index = table.rows_model.index(table.rows_model.row_of(part), column_of(table, title))
    assert table.rows_model.setData(index, typed)
    assert check(window.document.design)
    settled(qtbot, window)
    press(window, "Ctrl+Z")
    assert window.document.design == demo


@pytest.mark.parametrize(
    ("stage", "view", "part", "title", "typed", "says"),
    [
        ("needs", "loads", "mast", "Draws", "lots", "can't be read"),
        ("needs", "zones", "well", "Ambient", "9000", "outside"),
        ("needs", "rules", "metal", "Value", "gold", "not known here"),
        ("runs", "segments", "S1", "Length", "-2 m", "negative"),
        ("runs", "segments", "S1", "Zone", "moon", "no zone"),
        ("sizes", "wires", "W16", "Size", "thick", "not a size"),
        ("needs", "rules", "remakes", "Value", "1.5", "whole number"),
        ("needs", "rules", "series", "Value", "swg", "not known here"),
    ],
)
@pytest.mark.share(3)
def test_bad_corrections_are_said_and_change_nothing(
    qtbot, open_window, demo: Design, stage, view, part, title, typed, says
) -> None:
    window = open_window(demo)
    window.show_stage(stage)
    table = getattr(window.desks[stage], view)
    window.desks[stage].reveal(view, part)
    index = table.rows_model.index(table.rows_model.row_of(part), column_of(table, title))
    assert not table.rows_model.setData(index, typed)
    assert says in window.status.text()
    assert window.document.design == demo


def test_why_answers_on_every_desk(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    for stage, table, column, title in (
        ("needs", needs(window).loads, "Gets", "Volts at"),
        ("sizes", sizes(window).wires, "Heat", "Temperature of"),
        ("sizes", sizes(window).wires, "Size", "Size of"),
        ("kit", kit(window).cuts, "Cut", "Cut length of"),
    ):
        window.show_stage(stage)
        table.setCurrentIndex(table.rows_model.index(0, column_of(table, column)))
        table.setFocus()
        press(window, "F1")
        assert window.why.isVisible()
        assert str(window.why.derivation.title).startswith(title)
        qtbot.keyClick(window.why, Qt.Key.Key_Escape)
        assert not window.why.isVisible()
    window.show_stage("sizes")
    qtbot.keyClicks(sizes(window).wires, "?")
    (keys,) = window.findChildren(KeysSheet)
    assert "F8" in keys.text.toPlainText()


def test_rail_counts_and_keys(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    assert window.rail.open["sizes"] == (6, 0)
    for number, stage in enumerate(("needs", "runs", "sizes", "ends", "kit", "make", "prove", "keep"), 1):
        press(window, f"Alt+{number}")
        assert window.stage == stage
        assert [one for one, desk in window.desks.items() if desk.isVisible()] == [stage]
    qtbot.keyClick(window.rail, Qt.Key.Key_Right)
    assert window.stage == "needs"
    qtbot.mouseClick(window.rail, Qt.MouseButton.LeftButton, pos=QPoint(window.rail.width() * 5 // 16, 20))
    assert window.stage == "sizes"


def test_the_worst_line_leads_to_the_part(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    window.show_stage("sizes")
    assert "masthead light" in window.worst.text.text()
    for _ in range(2):
        press(window, "F8")
        assert window.stage == "sizes"
    assert "wash feed" in window.worst.text.text()
    assert sizes(window).wires.chosen_id() == "W08"
    assert ("ends", "wash") in window.trunk.selected


def test_find_any_part_by_typing(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    finder = Finder(demo, window)
    finder.found.connect(window.go_to)
    qtbot.addWidget(finder)
    type_in(qtbot, finder.line, "violet valve 2")
    assert "W3" in finder.list.currentItem().text()
    qtbot.keyClick(finder.line, Qt.Key.Key_Down)
    qtbot.keyClick(finder.line, Qt.Key.Key_Up)
    qtbot.keyClick(finder.line, Qt.Key.Key_Return)
    assert window.stage == "sizes"
    assert sizes(window).wires.chosen_id().startswith("W3")
    finder.line.setText("no such thing at all")
    assert "Nothing is called" in finder.none.text()
    assert {hit.table for hit in hits_of(demo)} >= {
        "ends",
        "loads",
        "wires",
        "segments",
        "zones",
        "cases",
        "fuses",
        "points",
    }
    window.open_finder()
    dialogs = window.findChildren(Finder)
    assert dialogs
    for dialog in dialogs:
        dialog.close()


def test_picture_picks_by_mouse_and_keys(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    canvas = window.trunk
    canvas.grab()
    box, _tag = next((box, tag) for box, tag in canvas.hits.tags if "wash" in tag.ends)
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    assert ("ends", "wash") in canvas.selected
    assert needs(window).loads.chosen_id() == "wash"
    press(window, "F6")
    qtbot.keyClick(canvas, Qt.Key.Key_Right)
    assert ("ends", "wash") not in canvas.selected
    window.show_stage("runs")
    segment = canvas.painter.place("B2")
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=(segment + QPointF(90, 0)).toPoint())
    assert runs(window).segments.chosen_id() == "S8"
    assert "well hatch to gantry foot" in window.status.text()


def test_a_branch_can_be_taken_to_the_other_side(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    canvas = window.trunk
    canvas.grab()
    was = canvas.picture.at["P5"][1]
    canvas.flip("wash")
    assert canvas.picture.at["P5"][1] == pytest.approx(-was)
    press(window, "Ctrl+Z")
    assert canvas.picture.at["P5"][1] == pytest.approx(was)
    canvas.grab()
    box, _ = next((box, tag) for box, tag in canvas.hits.tags if "wash" in tag.ends)
    at = box.center().toPoint()
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    canvas.mouseMoveEvent(mouse_move(at + QPoint(0, 60)))
    target = QPoint(at.x(), round(canvas.painter.spine_y(at.y())) + 60 * (1 if was < 0 else -1))
    canvas.mouseMoveEvent(mouse_move(target))
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=target)
    assert canvas.picture.at["P5"][1] == pytest.approx(-was)
    canvas.grab()
    canvas.drop_branch("P5", QPointF(canvas.painter.slot_width() / 2, 0), canvas.painter.place("P5").y())
    assert index_of(window.document.design).points["P5"].lean == pytest.approx(0.5)


def mouse_move(at: QPoint):
    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QMouseEvent

    left = Qt.MouseButton.LeftButton
    return QMouseEvent(QEvent.Type.MouseMove, QPointF(at), QPointF(at), left, left, Qt.KeyboardModifier.NoModifier)


def test_import_lay_and_undo(qtbot, open_window, tmp_path: Path) -> None:
    (tmp_path / "shop list.csv").write_text(shop_list(), "utf-8")
    window = open_window(Design())
    dialog = window.import_from(tmp_path / "shop list.csv")
    assert "2 faults" in dialog.verdict.text()
    assert not dialog.accept_all.isEnabled()
    assert dialog.faults.item(0).text().startswith("row 17, column D")
    assert not window.document.design.wires
    column = dialog.reading.sheets[0].layout.columns["length"]
    head = dialog.preview.cellWidget(1, column)
    head.setCurrentIndex(head.findData("cm"))
    head.activated.emit(head.currentIndex())
    assert dialog.reading.wires[0].length_m == pytest.approx(38.5)
    dialog.say_unit("length", "mm")
    size = dialog.reading.sheets[0].layout.columns["size"]
    meaning = dialog.preview.cellWidget(0, size)
    assert meaning.currentText() == "size"
    meaning.setCurrentIndex(0)
    meaning.activated.emit(0)
    assert "1 fault" in dialog.verdict.text()
    assert "Not used" in dialog.note.text()
    qtbot.mouseClick(dialog.accept_good, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    assert len(window.document.design.wires) == 13
    assert window.stage == "runs"
    assert window.rail.open["runs"][1] == 13
    runs(window).lay_chosen()
    lay = window.findChild(LayDialog)
    lay.table.item(0, 2).setText("1,1 m")
    assert lay.plan.rows[0].at_m == pytest.approx(1.1)
    lay.table.item(0, 2).setText("far")
    assert "can't be read" in lay.message.text()
    lay.start.setCurrentIndex(lay.start.findData("frame-stud"))
    assert lay.plan.start == "frame-stud"
    qtbot.mouseClick(lay.go, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    assert lay.result() == QDialog.DialogCode.Accepted
    index = index_of(window.document.design)
    assert all(index.routes[wire.id].laid for wire in window.document.design.wires)
    press(window, "Ctrl+Z")
    assert not window.document.design.segments


def test_unreadable_lists_are_said(qtbot, open_window, tmp_path: Path) -> None:
    window = open_window(Design())
    assert window.import_from(tmp_path / "none.csv") is None
    assert "does not exist" in window.status.text()
    (tmp_path / "odd.csv").write_text("x,y\n1,2\n")
    dialog = window.import_from(tmp_path / "odd.csv")
    assert "No header row" in dialog.note.text()
    assert not dialog.accept_all.isEnabled()
    for at, name in ((0, "from"), (1, "to")):
        box = dialog.preview.cellWidget(0, at)
        box.setCurrentIndex(box.findData(name))
        box.activated.emit(box.currentIndex())
    assert dialog.accept_all.isEnabled()
    dialog.reject()


def test_doubts_are_asked_on_the_sheet_and_each_answer_counts(qtbot, open_window, tmp_path: Path) -> None:
    (tmp_path / "l.csv").write_text('wire,from,to,size,length\n1,a:1,b:1,14,"1,200"\n2,a:2,b:2,12,900\n', "utf-8")
    window = open_window(Design())
    dialog = window.import_from(tmp_path / "l.csv")
    assert set(dialog.asking) == {"decimal", "unit:length", "bare-size"}
    assert not dialog.accept_all.isEnabled()
    box = dialog.asking["bare-size"]
    assert "(likeliest)" in box.itemText(1)
    box.setCurrentIndex(box.findData("awg"))
    box.activated.emit(box.currentIndex())
    assert [w.size for w in dialog.reading.wires] == ["AWG 14", "AWG 12"]
    assert "bare-size" not in dialog.asking
    qtbot.mouseClick(dialog.likeliest, Qt.MouseButton.LeftButton)
    assert dialog.accept_all.isEnabled()
    qtbot.mouseClick(dialog.accept_all, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    assert [w.stated_m for w in window.document.design.wires] == pytest.approx([1.2, 0.9])
    # a later revision of the same list: shown, then merged as one edit; what was answered once is known
    (tmp_path / "l.csv").write_text('wire,from,to,size,length\n1,a:1,b:1,10,"1,200"\n3,a:3,b:3,12,700\n', "utf-8")
    again = window.import_from(tmp_path / "l.csv")
    again.mode.setCurrentIndex(1)
    assert not again.reading.doubts
    assert again.verdict.text().startswith("1 added, 1 changed, 1 gone: 1 changed size AWG 14 → AWG 10")
    again.finish(False)
    settled(qtbot, window)
    assert [(w.id, w.size) for w in window.document.design.wires] == [("1", "AWG 10"), ("3", "AWG 12")]
    press(window, "Ctrl+Z")
    assert [w.id for w in window.document.design.wires] == ["1", "2"]


def test_a_habit_decides_doubtful_figures_in_cells_and_says_so(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    window.show_stage("runs")
    table, column = runs(window).segments, column_of(runs(window).segments, "Length")
    table.rows_model.setData(table.rows_model.index(0, column), "1,200 mm")
    assert "can mean 1200 or 1.2" in window.status.text()
    assert window.document.design == demo
    window.document.apply(lambda d: edits.set_project(d, decimal="point"), "habit")
    table.rows_model.setData(table.rows_model.index(0, column), "1,200 mm")
    assert window.document.design.segments[0].measure.length_m == pytest.approx(1.2)
    assert "the point parts decimals" in window.status.text()


def test_a_second_window_is_read_only(qtbot, open_window, demo: Design, tmp_path: Path) -> None:
    ProjectFile.create(tmp_path / "held.umber", demo).close()
    with ProjectFile.open(tmp_path / "held.umber"):
        window = open_window(path=tmp_path / "held.umber")
        assert "another window" in window.status.text()
        window.show_stage("sizes")
        settled(qtbot, window)
        sizes(window).step(1)
        assert "can't be changed" in window.status.text()
        assert window.document.design == demo


def test_text_grows_and_shrinks(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    was = QApplication.font().pointSizeF()
    press(window, "Ctrl++")
    assert QApplication.font().pointSizeF() == pytest.approx(was * 1.1, rel=0.02)
    assert window.settings.scale == pytest.approx(1.1)
    press(window, "Ctrl+0")
    assert QApplication.font().pointSizeF() == pytest.approx(was, rel=0.02)


def test_menu_names_what_undo_takes_back(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    window.show_stage("sizes")
    settled(qtbot, window)
    sizes(window).step(1)
    settled(qtbot, window)
    window.commands.menu.aboutToShow.emit()
    assert window.commands.by_name["Undo"].text() == "Undo: W16 to 1 mm²"
    assert not window.commands.by_name["Redo"].isEnabled()
    keys = [
        a.shortcut().toString()
        for a in window.commands.by_name.values()
        if isinstance(a, QAction) and not a.shortcut().isEmpty()
    ]
    assert len(keys) == len(set(keys))


def test_breakout_and_remove_load(qtbot, open_window, demo: Design, monkeypatch: pytest.MonkeyPatch) -> None:
    window = open_window(demo)
    window.show_stage("runs")
    runs(window).segments.choose("S8")
    monkeypatch.setattr("umber_trunk.app.widgets.asked.QInputDialog.getText", lambda *_, **__: ("1.2 m", True))
    runs(window).split_chosen()
    assert len(window.document.design.segments) == len(demo.segments) + 1
    window.show_stage("needs")
    needs(window).loads.choose("horn")
    needs(window).remove_chosen()
    assert "horn" not in index_of(window.document.design).loads
    desk = needs(window)
    for table, part, gone in (
        ("ends", "valves", "loads"),
        ("wires", "W08", "wires"),
        ("zones", demo.zones[0].id, "zones"),
        ("fuses", "box F2", "fuses"),
    ):
        before = window.document.design
        assert desk.reveal(table, "")
        assert desk.reveal(table, part)
        desk.remove.click()
        assert window.document.design != before, table
        assert not desk.reveal(table, part)
        if gone == "loads":
            assert not any(load.plus.end == "valves" for load in window.document.design.loads)
    assert desk.reveal("rules", "")
    before = window.document.design
    desk.remove_chosen()
    assert window.document.design is before
    window.show_stage("runs")
    leaf = next(one for one in before.segments if sum(one.b in (o.a, o.b) for o in before.segments) == 1)
    runs(window).segments.choose(leaf.id)
    runs(window).gone.click()
    assert leaf.id not in index_of(window.document.design).segments
    for _ in range(6):
        window.document.undo()
    assert leaf.id in index_of(window.document.design).segments
    assert "valves" in index_of(window.document.design).ends


def test_large_harness_folds_instead_of_squeezing(qtbot, open_window) -> None:
    window = open_window(generated(90))
    canvas = window.trunk
    canvas.grab()
    assert canvas.width() <= window.width()
    (box, tag), *_ = [(box, tag) for box, tag in canvas.hits.tags if tag.fold]
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    assert tag.fold not in canvas.picture.inside
    assert window.settings.folds(window.document.path) == {tag.fold: True}
    canvas.grab()
    end = next(tag.ends[0] for _, tag in canvas.hits.tags if not tag.fold and tag.side)
    canvas.select({("ends", end)})
    before = len(canvas.picture.inside)
    qtbot.keyClick(canvas, Qt.Key.Key_Space)
    assert len(canvas.kept) == 2
    assert canvas.zoom == 1.0
    qtbot.keyClick(canvas, Qt.Key.Key_Plus)
    qtbot.keyClick(canvas, Qt.Key.Key_Plus)
    canvas.grab()
    assert len(canvas.picture.inside) <= before + 1
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=canvas.hits.overview.center().toPoint())
    assert canvas.pan > 0
    qtbot.keyClick(canvas, Qt.Key.Key_Home)
    assert (canvas.zoom, canvas.pan, canvas.kept) == (1.0, 0.0, {})
    window.show_stage("sizes")
    assert sizes(window).wires.rows_model.rowCount() == 90


def test_sorting_goes_up_down_and_back_to_worst_first(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    table = sizes(window).wires
    worst = [row.wire.id for row in table.rows_model.rows]
    at = column_of(table, "Amps")
    table.horizontalHeader().sectionClicked.emit(at)
    amps = [row.amps for row in table.rows_model.rows]
    assert amps == sorted(amps)
    table.horizontalHeader().sectionClicked.emit(at)
    assert [row.amps for row in table.rows_model.rows] == sorted(amps, reverse=True)
    table.horizontalHeader().sectionClicked.emit(at)
    sizes(window).refresh()
    assert [row.wire.id for row in table.rows_model.rows] == worst


def test_models_pass_qts_own_checks(qtbot, open_window, demo: Design, qtmodeltester) -> None:
    window = open_window(demo)
    for table in (needs(window).loads, sizes(window).wires, kit(window).cuts):
        qtmodeltester.check(table.rows_model)


def test_welcome_and_settings(qtbot, tmp_path: Path) -> None:
    (tmp_path / "s.json").write_text("{not json")
    settings = Settings(tmp_path / "s.json")
    assert (tmp_path / "s.bad").exists()
    assert settings.recent() == []
    assert settings.scale == 1.0
    ProjectFile.create(tmp_path / "a.umber", Design()).close()
    settings.opened(tmp_path / "a.umber")
    again = Settings(tmp_path / "s.json")
    assert again.recent() == [tmp_path / "a.umber"]
    welcome = Welcome(again)
    qtbot.addWidget(welcome)
    welcome.show()
    qtbot.waitUntil(lambda: not welcome.busy, timeout=20_000)
    glances = [card.glance for card in welcome.findChildren(GlanceCard)]
    assert [len(one.badges) for one in glances[-len(DEMOS) :]] == [8] * len(DEMOS)
    assert all(one.trunk is not None and not one.trunk.isNull() for one in glances[-len(DEMOS) :])
    badges = {name: dict(one.badges) for name, one in zip(DEMOS, glances[-len(DEMOS) :], strict=True)}
    assert badges["tractor"]["make"] != "–"  # it comes half built
    assert badges["loops"]["prove"][0] == "✓"
    assert badges["barge"]["make"] == "–"
    with qtbot.waitSignal(welcome.wants_file) as asked:
        next(b for b in welcome.findChildren(type(sizes_button())) if "a.umber" in b.text()).click()
    assert asked.args == [tmp_path / "a.umber"]


def sizes_button():
    from PySide6.QtWidgets import QPushButton

    return QPushButton()


def test_opening_a_bad_file_keeps_the_window(
    qtbot, open_window, demo: Design, tmp_path: Path, boxes: list[str]
) -> None:
    window = open_window(demo)
    (tmp_path / "bad.umber").write_text("hello")
    window.wants_file.emit(tmp_path / "bad.umber")
    assert "not an Umber Trunk" in boxes[0]
    assert window.isVisible()
    assert window.document.fresh


def test_pictures_beside_the_margins(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    window.show_stage("sizes")
    settled(qtbot, window)
    desk = sizes(window)
    for number, picture in enumerate(desk.pictures, 1):
        desk.tab(number)
        assert picture.isVisible()
        assert picture.closeup.wire_id == "W16"
        image = picture.grab().toImage()
        colours = {image.pixel(x, y) for x in range(0, image.width(), 7) for y in range(0, image.height(), 7)}
        assert len(colours) > 4
    desk.wires.choose("W48")
    settled(qtbot, window)
    assert desk.pictures[1].closeup.volts is None
    desk.pictures[1].grab()


def test_a_limb_picked_on_the_trunk_is_cut_open(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    window.show_stage("sizes")
    settled(qtbot, window)
    desk = sizes(window)
    window.pick("segments", "S24")
    section = desk.pictures[0].closeup.section
    assert desk.pictures[0].isVisible()
    assert section.segment == "S24"
    assert desk.segment.currentText().endswith(index_of(demo).segment_name("S24"))
    desk.wires.choose("W08")
    settled(qtbot, window)
    assert desk.pictures[0].closeup.section.segment == "S24"  # it stays until another is chosen
    desk.segment.setCurrentIndex(0)
    own = desk.pictures[0].closeup.section
    assert "W08" in {wire.wire_id for wire in own.wires}
    assert max(w.celsius for w in own.wires) == pytest.approx(
        window.document.results.figures.wires["W08"].conductor_c, abs=0.1
    )
    assert not desk.show_segment("ghost")


def test_one_case_can_be_looked_at(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    window.show_stage("sizes")
    settled(qtbot, window)
    desk = sizes(window)
    worst = {row.wire.id: row.amps for row in desk.wires.rows_model.rows}
    desk.case.setCurrentText("under way")
    settled(qtbot, window)
    now = {row.wire.id: row.amps for row in desk.wires.rows_model.rows}
    assert now["W04"] == pytest.approx(0)
    assert worst["W04"] == pytest.approx(19)
    assert window.trunk.figures is not None
    window.trunk.grab()
    desk.step(1)
    settled(qtbot, window)
    assert window.trunk.figures is None


def test_least_copper_is_shown_before_it_is_applied(qtbot, open_window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(floor, "BRANCHES", 1)
    monkeypatch.setattr(floor, "PATIENT_BRANCHES", 1)
    demo = generated(12, seed=3)
    window = open_window(demo)
    window.show_stage("sizes")
    sizes(window).find_least()
    sheet = window.findChild(LeastCopper)
    qtbot.waitUntil(lambda: not sheet.busy, timeout=30_000)
    assert "every limit holds" in sheet.verdict.text()
    assert sheet.table.rowCount() == len(sheet.found.changes) >= 3
    assert [pair[0] for pair in sheet.closing.pairs] == sorted((pair[0] for pair in sheet.closing.pairs), reverse=True)
    assert sheet.closing.pairs[-1] == (sheet.found.objective, sheet.found.bound)
    assert f"{100 * sheet.found.gap:.1f} % open" in sheet.closing.accessibleDescription()
    assert window.document.design == demo
    sheet.mass.setValue(0)
    assert "above zero" in sheet.verdict.text()
    assert not sheet.go.isEnabled()
    sheet.mass.setValue(1)
    sheet.stop.click()
    qtbot.waitUntil(lambda: not sheet.busy, timeout=30_000)
    sheet.search()
    qtbot.waitUntil(lambda: not sheet.busy, timeout=30_000)
    qtbot.mouseClick(sheet.go, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    assert window.rail.open["sizes"][0] == 0
    press(window, "Ctrl+Z")
    assert window.document.design == demo


def test_how_sure_each_verdict_is(qtbot, open_window) -> None:
    """What may turn out either way stands first; keys go down the rows, and the wire meant is chosen in the table."""
    window = open_window(named("tractor"))
    window.show_stage("sizes")
    desk = sizes(window)
    settled(qtbot, window)
    desk.tab(5)
    qtbot.waitUntil(lambda: desk.sure.found is not None, timeout=60_000)
    chances = [one.chance for one, _ in desk.sure.view.rows]
    assert 0.05 < chances[0] < 0.95
    assert f"ok in {100 * chances[0]:.0f} of 100" in desk.sure.view.accessibleDescription()
    assert "hang on what was guessed" in desk.sure.told.text()
    at = next(n for n, (one, _) in enumerate(desk.sure.view.rows) if one.kind == "wire" and n)
    for _ in range(at):
        qtbot.keyClick(desk.sure.view, Qt.Key.Key_Down)
    assert desk.wires.chosen_id() == desk.sure.view.rows[at][0].id


def test_weakest_part_and_why(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    table = needs(window).loads
    row = table.rows_model.row_of("conveyor")
    text = cell(table, "Weakest part", row)
    assert "%" in text
    table.setCurrentIndex(table.rows_model.index(row, column_of(table, "Weakest part")))
    table.ask_why()
    assert str(window.why.derivation.title) == "Rating of conveyor motor"


@pytest.mark.parametrize("stage", ["needs", "runs", "sizes", "kit"])
@pytest.mark.parametrize("scale", [0.8, 1.5])
@pytest.mark.share(4)
def test_every_desk_paints_at_other_text_sizes(qtbot, open_window, demo: Design, stage: str, scale: float) -> None:
    window = open_window(demo)
    window.scale(scale)
    window.show_stage(stage)
    settled(qtbot, window)
    image = window.grab().toImage()
    assert image.width() >= 1000
    canvas = window.trunk
    canvas.grab()
    boxes = [box for box, tag in canvas.hits.tags if tag.side]
    for i, box in enumerate(boxes):
        assert not any(box.adjusted(1, 1, -1, -1).intersects(other) for other in boxes[i + 1 :])
    window.scale(0)


def test_cases_fuses_and_locks_by_hand(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    desk = needs(window)
    enter(qtbot, window, "case at anchor: masthead light, bilge pump")
    assert desk.reveal("cases", "at-anchor")
    assert desk.cases.rows_model.rowCount() == 4
    row = desk.cases.rows_model.row_of("at-anchor")
    runs_of = desk.cases.rows_model.index(row, 2)
    assert runs_of.data() == "bilge pump, masthead light"
    assert desk.cases.rows_model.setData(runs_of, "all but horn")
    settled(qtbot, window)
    assert desk.reveal("cases", "")
    desk.cases.choose("at-anchor")
    desk.remove_chosen()
    assert len(window.document.design.cases) == 3
    assert desk.reveal("fuses", "box F1")
    rating = desk.fuses.rows_model.index(desk.fuses.rows_model.row_of("box F1"), column_of(desk.fuses, "Rating"))
    assert desk.fuses.rows_model.setData(rating, "")
    settled(qtbot, window)
    desk.fit_open_fuses()
    settled(qtbot, window)
    assert index_of(window.document.design).ends["box"].links[0].rating_a == 30
    window.show_stage("sizes")
    settled(qtbot, window)
    sizes(window).wires.choose("W01")
    sizes(window).lock()
    settled(qtbot, window)
    assert index_of(window.document.design).wires["W01"].locked
    assert cell(sizes(window).wires, "Size", sizes(window).wires.rows_model.row_of("W01")).endswith("■")
    spec = sizes(window).wires
    index = spec.rows_model.index(spec.rows_model.row_of("W16"), column_of(spec, "Size"))
    assert spec.rows_model.setData(index, "2 x 2.5 mm2 copper xlpe")
    wire = index_of(window.document.design).wires["W16"]
    assert (wire.size, wire.parallel, wire.metal, wire.jacket) == ("2.5 mm2", 2, "copper", "xlpe")


def test_words_for_wires_and_reasons_for_fuses(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    desk = needs(window)
    assert desk.reveal("words", "")
    assert desk.words.isVisible()
    assert desk.words.choose("silicone")
    assert "175 °C" in cell(desk.words, "Stands", desk.words.rows_model.row_of("silicone"))
    assert desk.reveal("fuses", "")
    desk.fuses.choose("box F3")
    row = desk.fuses.rows_model.row_of("box F3")
    assert cell(desk.fuses, "Of what it stands all day", row) == "93 % used"
    desk.fuses.setCurrentIndex(desk.fuses.rows_model.index(row, column_of(desk.fuses, "Carries")))
    desk.fuses.ask_why()
    assert str(window.why.derivation.title) == "Fuse F3 in fuse box"
    window.show_stage("sizes")
    settled(qtbot, window)
    table = sizes(window).wires
    for title, told in (("Fuse", "Fuse F3 before wash feed"), ("Start", "Starts through wash feed")):
        table.setCurrentIndex(table.rows_model.index(table.rows_model.row_of("W08"), column_of(table, title)))
        table.ask_why()
        assert str(window.why.derivation.title) == told


def test_what_changes_are_worth(qtbot, open_window) -> None:
    window = open_window(
        design_of("supply 24 V 5 mohm at battery", "pump 18 A at bow run 7 m", "lamp 4 A at mast run 3 m off bow")
    )
    window.show_stage("sizes")
    settled(qtbot, window)
    panel = sizes(window).worth
    assert not panel.rows  # nothing is worked out while nobody looks
    sizes(window).tab(4)
    qtbot.waitUntil(lambda: bool(panel.rows) and all(row.resized for row in panel.rows), timeout=60_000)
    saved = [row.resized.copper_kg for row in panel.rows]
    assert saved == sorted(saved)
    assert {"mast 1 m closer", "supply at 48 V"} <= {row.move.what for row in panel.rows}
    qtbot.waitUntil(lambda: not panel.busy)
    panel.table.choose("mast 1 m closer")
    assert "worst drop" in panel.told.text()
    image = panel.grab().toImage()
    assert image.width() > 300
    before = list(panel.rows)
    sizes(window).step(1)
    settled(qtbot, window)
    assert panel.analysis is window.document.results  # another harness starts over
    assert not any(row is old for row in panel.rows for old in before)
    sizes(window).tab(0)
    assert not panel.busy


def test_bare_feeds_are_fused_and_a_metre_has_its_worth(qtbot, open_window) -> None:
    window = open_window(design_of("supply 24 V 5 mohm at battery", "winch 60 A at bow run 4 m"))
    desk = needs(window)
    assert "Choose a load" in desk.metre.text()
    desk.loads.choose("winch")
    assert re.search(r"A metre less to winch saves \d+ g of conductor, .* V", desk.metre.text())
    qtbot.mouseClick(desk.place, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    assert "fuse of 80 A placed before winch feed" in window.status.text()
    assert index_of(window.document.design).ends["battery"].links[0].rating_a == 80
    desk.place_missing_fuses()
    settled(qtbot, window)
    assert "Every feed has its fuse" in window.status.text()
    press(window, "Ctrl+Z")
    assert not index_of(window.document.design).ends["battery"].links


def test_the_line_suggests_and_recalls(qtbot, open_window) -> None:
    window = open_window(Design())
    desk = window.desks["needs"]
    for line in ("supply 12 V 5 mohm at battery", "fuse box at bulkhead, 6 ways, from battery run 2 m"):
        type_in(qtbot, desk.line, line)
        qtbot.keyClick(desk.line, Qt.Key.Key_Return)
    settled(qtbot, window)
    qtbot.keyClick(desk.line, Qt.Key.Key_Up)
    assert desk.line.text().startswith("fuse box at bulkhead")
    qtbot.keyClick(desk.line, Qt.Key.Key_Down)
    assert desk.line.text() == ""
    type_in(qtbot, desk.line, "pump 6 A at bilge from bu")
    assert "next, Tab takes the first" in desk.understood.text()
    qtbot.keyClick(desk.line, Qt.Key.Key_Tab)
    assert desk.line.text() == "pump 6 A at bilge from bulkhead"
    assert "run 3 m" in " ".join(desk.suggested)
    type_in(qtbot, desk.line, "heater 1,200 W at bow")
    assert "can mean 1200 or 1.2" in desk.understood.text()
    assert not desk.enter_button.isEnabled()


def test_ends_and_converters_are_corrected_in_their_tables(qtbot, open_window) -> None:
    lines = (
        "supply 24 V 5 mohm at battery",
        "converter 24 to 12 V 90% at house from battery run 2 m",
        "lamp 12 V 2 A at mast in deck from house run 3 m",
    )
    window = open_window(design_of(*lines))
    desk = window.desks["needs"]
    ends, converters = desk.ends, desk.converters
    assert desk.reveal("ends", "mast") or desk.reveal("ends", "")
    assert desk.reveal("ends", "")
    row = ends.rows_model.row_of("mast")
    for title, text, said in (
        ("Kind", "sofa", "no kind of end"),
        ("Zone", "moon", "no zone"),
        ("Frame", "1,200 mohm", "can mean"),
    ):
        ends.rows_model.setData(ends.rows_model.index(row, column_of(ends, title)), text)
        assert said in window.status.text()
    ends.rows_model.setData(ends.rows_model.index(row, column_of(ends, "Kind")), "connector")
    assert index_of(window.document.design).ends["mast"].kind == "connector"
    assert desk.reveal("converters", "")
    converters.rows_model.setData(converters.rows_model.index(0, column_of(converters, "Efficiency")), "85%")
    assert window.document.design.converters[0].efficiency == pytest.approx(0.85)
    settled(qtbot, window)
    assert window.document.results.figures.loads["lamp"].nominal_v == pytest.approx(12)


def test_the_picture_keeps_the_painting_chosen_on_its_desk(open_window, demo: Design) -> None:
    window = open_window(demo)
    window.show_stage("sizes")
    desk = window.desks["sizes"]
    desk.paint_by.setCurrentIndex(1)
    window.show_stage("runs")
    assert window.trunk.paints == ""
    window.show_stage("sizes")
    assert window.trunk.paints == desk.paint_by.currentData() != ""
    assert window.trunk.figures is desk.figures(window.document.results)


def test_what_is_refused_is_said_at_its_cell(qtbot, open_window, demo: Design) -> None:
    """Under the cell that was typed into, inside of the window, until the next key or an edit that is taken."""
    window = open_window(demo)
    window.activateWindow()
    desk = needs(window)
    for row in (0, desk.loads.rows_model.rowCount() - 1):
        index = desk.loads.rows_model.index(row, column_of(desk.loads, "Draws"))
        desk.loads.setFocus()
        desk.loads.setCurrentIndex(index)
        desk.loads.scrollTo(index)
        desk.loads.rows_model.setData(index, "thick")
        note = window.callout
        assert note.isVisible()
        assert "thick" in note.label.text()
        cell = desk.loads.visualRect(index).translated(desk.loads.viewport().mapTo(window, QPoint(0, 0)))
        assert abs(note.x() - cell.x()) < 40 or note.geometry().right() >= window.width() - 12
        assert 0 <= note.y() - cell.bottom() <= 8 or 0 <= cell.top() - note.geometry().bottom() <= 8
        assert window.rect().contains(note.geometry())
        qtbot.keyClick(desk.loads, Qt.Key.Key_Up)
        assert not note.isVisible()
    desk.loads.rows_model.setData(desk.loads.rows_model.index(0, column_of(desk.loads, "Draws")), "thick")
    window.document.apply(
        lambda design: design.model_copy(update={"project": design.project.model_copy(update={"name": "x"})}), "name"
    )
    assert not window.callout.isVisible()
