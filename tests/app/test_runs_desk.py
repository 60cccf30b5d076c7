"""The Runs desk in a real window: one line, its tabs, the board and its prints, a trunk inferred from a list."""

from __future__ import annotations

import math
import re
from itertools import pairwise
from pathlib import Path

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage

from runs_kit import lead, random_tree, spliced
from umber_trunk.app.desks.needs.rules import RULES, rule_text, set_rule
from umber_trunk.app.desks.runs.covers_tab import part_named
from umber_trunk.app.desks.runs.desk import RunsDesk, along_edit, along_text
from umber_trunk.app.desks.runs.way_tabs import remakes_edit, shades
from umber_trunk.app.desks.runs.way_views import bent
from umber_trunk.app.sheets.tree_sheet import TreeDialog
from umber_trunk.app.trunk.board_view import BoardView
from umber_trunk.app.window import Window
from umber_trunk.core.board.drawing import drawing
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import set_project
from umber_trunk.core.harness.end import Cavity, End
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Pin, Wire
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.lengths.arcs import comb_extras_m
from umber_trunk_helpers import cell, press, type_in

from .conftest import settled


def runs(qtbot, open_window, design: Design) -> tuple[Window, RunsDesk]:
    window = open_window(design)
    press(window, "Alt+2")
    settled(qtbot, window)
    desk = window.desks["runs"]
    assert isinstance(desk, RunsDesk)
    return window, desk


def say(qtbot, window: Window, desk: RunsDesk, line: str) -> None:
    type_in(qtbot, desk.line, line)
    qtbot.keyClick(desk.line, Qt.Key.Key_Return)
    settled(qtbot, window)


def boarded(qtbot, window: Window, desk: RunsDesk) -> BoardView:
    if not desk.board.isChecked():
        desk.board.click()
    board = window.board
    qtbot.waitUntil(
        lambda: board.made is not None and not board.busy and board.results is window.document.now, timeout=20_000
    )
    return board


def test_one_line_puts_things_along_the_way(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, lead(5))
    type_in(qtbot, desk.line, "sleeve on")
    assert "sleeve on S4" in desk.reading.text()
    say(qtbot, window, desk, "sleeve on")
    assert not window.document.design.segments[0].covers
    say(qtbot, window, desk, "sleeve on S1 from 100 mm to 900 mm")
    assert window.document.design.segments[0].covers[0].to_m == pytest.approx(0.9)
    assert desk.line.text() == ""
    assert desk.covers.isVisibleTo(desk)
    assert cell(desk.covers.rows, "Part", 0).endswith("?")
    desk.covers.rows.choose("S1 sleeve1")
    desk.covers.take()
    settled(qtbot, window)
    assert window.document.design.segments[0].covers[0].part is not None
    assert "1 coverings, all hold" in desk.covers.told.text()
    desk.covers.rows.choose("S1 sleeve1")
    desk.covers.remove()
    settled(qtbot, window)
    assert not window.document.design.segments[0].covers
    say(qtbot, window, desk, "bend on S1 radius 60 mm by 90")
    assert desk.lengths.isVisibleTo(desk)
    say(qtbot, window, desk, "comb W1 W2 W3 pitch 3 mm turns 90")
    assert cell(desk.sides.rows, "Wires", 0) == "3"
    assert cell(desk.sides.rows, "Apart", 0) in ("5 mm", "10 mm")  # two steps of 4.7 mm, each rounded up to 5
    desk.sides.rows.choose("comb1")
    desk.sides.remove()
    settled(qtbot, window)
    assert not window.document.design.combs
    say(qtbot, window, desk, "sleeve on S7")
    assert window.status.property("fault")
    assert "no segment “S7”" in window.status.text()


def test_what_lies_along_a_segment_is_shown_and_taken_away(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, lead(2))
    for text in ("bend radius 60 mm by 90", "drip loop 80 mm at 1 m", "twist 40 mm", "corners"):
        assert window.document.apply(along_edit(window.document.design.segments[0], text), text)
    settled(qtbot, window)
    assert (
        cell(desk.segments, "Along it", 0)
        == "to corners; 90° at 1.00 m, radius 60 mm; drip loop 80 mm; twisted, 40 mm a turn"
    )
    one = window.document.design.segments[0]
    assert along_edit(one, along_text(one))(window.document.design) is window.document.design
    with pytest.raises(InputError):
        along_edit(one, "knot 40 mm")
    window.document.apply(along_edit(one, ""), "straight again")
    settled(qtbot, window)
    assert cell(desk.segments, "Along it", 0) == ""


def test_lengths_are_told_part_by_part(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, demo("computer"))
    desk.tab(1)
    rows = desk.lengths.rows
    rows.choose("G05")
    assert "comb" in desk.lengths.reasons.text()
    assert cell(rows, "Cut", rows.rows_model.row_of("G05")) == "630 mm"
    parts = desk.lengths.bar(rows.rows_model.rows[4])
    assert sum(share for _, share in parts) == pytest.approx(rows.rows_model.rows[4].cut_m / desk.lengths.longest)
    assert len(parts) == len(shades()) == 8
    wire = index_of(window.document.design).wires["G05"]
    window.document.apply(remakes_edit(wire, "2 / 0"), "remakes")
    settled(qtbot, window)
    assert cell(rows, "Remakes", 4) == "2 / 0"
    for bad in ("-1", "two", "1/2/3", "40"):
        with pytest.raises(InputError):
            remakes_edit(wire, bad)
    rows.setCurrentIndex(rows.rows_model.index(4, 1))
    assert desk.ask_why()
    assert "comb" in window.why.text.toPlainText()


def test_a_finding_leads_to_its_covering(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, demo("computer"))
    finding = next(f for f in window.document.results.findings if f.code == "cover.fit")  # type: ignore[union-attr]
    assert window.show_finding(finding)
    assert desk.covers.isVisibleTo(desk)
    assert "14.7 mm" in desk.covers.cure.text()
    uneven = next(f for f in window.document.results.findings if f.code == "set.uneven")  # type: ignore[union-attr]
    assert window.show_finding(uneven)
    assert desk.sides.isVisibleTo(desk)
    assert part_named(window.document.shelf, "Rind cloth tape, 19 mm") == "rind-tape-cloth"
    assert part_named(window.document.shelf, " ") is None
    with pytest.raises(InputError, match="Ctrl"):
        part_named(window.document.shelf, "gold")


def test_splices_are_moved_and_held(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, spliced([(0.05, False), (0.05, False)]))
    desk.tab(3)
    assert "none stacked" in desk.splices.told.text()
    states = {cell(desk.splices.rows, "", row) for row in (0, 1)}
    assert "moved" in states
    desk.splices.take()
    settled(qtbot, window)
    assert {cell(desk.splices.rows, "", row) for row in (0, 1)} == {"clear"}
    say(qtbot, window, desk, "splice s0 on S1 at 50 mm held")
    say(qtbot, window, desk, "splice s1 on S1 at 60 mm held")
    assert "2 in the way" in desk.splices.told.text()


def test_the_shop_learns_from_what_it_found(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, lead())
    for off in (10, 15, 20, 10, 20):
        say(qtbot, window, desk, f"tape 2 m found {2000 + 2 * off} mm")
    assert desk.learning.isVisibleTo(desk)
    assert cell(desk.learning.rows, "Pairs", 0) == "5"
    desk.learning.take()
    assert "first" in window.status.text()
    desk.learning.rows.choose("tape")
    desk.learning.take()
    settled(qtbot, window)
    assert cell(desk.lengths.rows, "Cut", 0) != "2160 mm"
    assert window.document.design.project.learned[0].bias == pytest.approx(0.015)
    desk.learning.rows.choose("tape")
    desk.learning.back()
    settled(qtbot, window)
    assert not window.document.design.project.learned


def test_the_board_takes_the_trunks_place(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, demo("computer"))
    board = boarded(qtbot, window, desk)
    assert window.pictures.currentWidget() is board
    scale = board.scale()
    for segment in window.document.design.segments:  # drawn at one scale, all of them
        line = [board.place(*spot) for spot in board.made.folded.lines[segment.id]]
        long = sum(math.hypot(b.x() - a.x(), b.y() - a.y()) for a, b in pairwise(line))
        assert long == pytest.approx(1e3 * segment.measure.length_m * scale, rel=1e-6)
    press(window, "Alt+3")
    assert window.pictures.currentWidget() is window.trunk
    press(window, "Alt+2")
    assert window.pictures.currentWidget() is board
    press(window, "F6")
    board.zoom_by(2.0)
    assert board.zoom == 2.0
    qtbot.keyClick(board, Qt.Key.Key_Right)
    qtbot.keyClick(board, Qt.Key.Key_Plus)
    qtbot.keyClick(board, Qt.Key.Key_Minus)
    qtbot.keyClick(board, Qt.Key.Key_Home)
    assert (board.zoom, board.pan) == (1.0, QPointF(0, 0))
    qtbot.keyClick(board, Qt.Key.Key_N)
    assert board.chosen == "S1"
    picture = QImage(board.size(), QImage.Format.Format_RGB32)
    for zoom in (1.0, 12.0):
        board.zoom = zoom
        board.render(picture)
        assert (
            len(
                {
                    picture.pixelColor(x, y).name()
                    for x in range(0, board.width(), 7)
                    for y in range(0, board.height(), 7)
                }
            )
            > 3
        )
    desk.board.click()
    assert window.pictures.currentWidget() is window.trunk


def test_dragging_a_limb_turns_it_and_keeps_its_length(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, demo("computer"))
    board = boarded(qtbot, window, desk)
    line = board.made.folded.lines["S7"]
    start = board.start_of("S7")
    (x, y), (u, v) = max(pairwise(line), key=lambda piece: math.dist(*piece))
    middle = board.place((x + u) / 2, (y + v) / 2)
    way = board.made.folded.ways["B1"]
    wanted = math.atan2(way[1], way[0]) + math.radians(-120)
    here = board.place(*start)
    to = QPointF(here.x() + 90 * math.cos(wanted), here.y() - 90 * math.sin(wanted))
    assert board.segment_at(middle) == "S7"
    qtbot.mousePress(board, Qt.MouseButton.LeftButton, pos=middle.toPoint())
    qtbot.mouseMove(board, to.toPoint())
    qtbot.mouseRelease(board, Qt.MouseButton.LeftButton, pos=to.toPoint())
    assert index_of(window.document.design).segments["S7"].turn_deg == pytest.approx(-120)
    board = boarded(qtbot, window, desk)
    (x, y), (u, v) = board.made.folded.lines["S7"][0], board.made.folded.lines["S7"][-1]
    assert math.hypot(u - x, v - y) == pytest.approx(280) or "S7" in board.made.folded.unkept
    board.chosen = "S7"
    qtbot.keyClick(board, Qt.Key.Key_BracketLeft)
    assert index_of(window.document.design).segments["S7"].turn_deg == pytest.approx(-105)
    board = boarded(qtbot, window, desk)
    board.chosen = board.made.folded.trunk[0]
    qtbot.keyClick(board, Qt.Key.Key_BracketLeft)
    assert "level" in window.status.text()
    window.document.undo()
    settled(qtbot, window)
    assert index_of(window.document.design).segments["S7"].turn_deg == pytest.approx(-120)


def test_limbs_are_kept_where_they_lie_by_keys(qtbot, open_window) -> None:
    """P keeps the chosen limb, Shift+P the whole board; what hangs on a limb that is turned is let go with it; undo
    brings it back."""
    window, desk = runs(qtbot, open_window, demo("computer"))
    board = boarded(qtbot, window, desk)
    qtbot.keyClick(board, Qt.Key.Key_P)
    assert "Choose a limb" in window.status.text()
    qtbot.keyClick(board, Qt.Key.Key_N)
    qtbot.keyClick(board, Qt.Key.Key_P)
    assert [pin.segment for pin in window.document.design.project.board.pins] == ["S1"]
    board = boarded(qtbot, window, desk)
    before = {name: list(line) for name, line in board.made.folded.lines.items()}
    qtbot.keyClick(board, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    assert not window.document.design.project.board.pins
    board = boarded(qtbot, window, desk)
    qtbot.keyClick(board, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    assert len(window.document.design.project.board.pins) == len(before)
    board = boarded(qtbot, window, desk)
    assert board.made.folded.told == ()
    board.chosen = "S7"
    qtbot.keyClick(board, Qt.Key.Key_BracketRight)
    assert "S7" not in {pin.segment for pin in window.document.design.project.board.pins}
    window.document.undo()
    settled(qtbot, window)
    assert len(window.document.design.project.board.pins) == len(before)
    board.light({("segments", "S1"), ("ends", "psu")})
    picture = QImage(board.size(), QImage.Format.Format_RGB32)
    board.render(picture)


def test_a_long_layout_shows_its_progress_and_stops(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, random_tree(9, 80, 0.3, 0.9))
    desk.board.click()
    board = window.board
    qtbot.waitUntil(lambda: board.tries > 0, timeout=20_000)
    assert board.busy
    board.grab()
    qtbot.keyClick(board, Qt.Key.Key_Escape)
    assert not board.busy
    assert "Stopped" in window.status.text()
    assert board.made is None
    qtbot.keyClick(board, Qt.Key.Key_BracketLeft)
    qtbot.keyClick(board, Qt.Key.Key_Plus)
    assert board.turned("S1", QPointF(5, 5)) is None


def test_a_board_is_laid_out_beside_the_window_before_it_is_written(qtbot, open_window, tmp_path: Path) -> None:
    window, _ = runs(qtbot, open_window, set_project(demo("computer"), name="not worked out before"))
    results = window.document.now
    assert not results.has(drawing)
    for ending in ("pdf", "svg", "dxf"):
        path = tmp_path / f"b.{ending}"
        window.export_to(f"board-{ending}", path)
        qtbot.waitUntil(lambda: not window.writer.busy, timeout=20_000)
        assert path.exists()
        assert "is written" in window.status.text()
    window.export_to("board-svg", tmp_path / "no" / "b.svg")
    qtbot.waitUntil(lambda: not window.writer.busy)
    assert window.status.property("fault")


def listed() -> Design:
    rows = [("a", "b", 3), ("a", "c", 9), ("a", "d", 10.4), ("b", "c", 10), ("b", "d", 11), ("c", "d", 7)]
    ends = tuple(End(id=name, name=f"box {name}", cavities=(Cavity(id="1"),)) for name in "abcd")
    wires = tuple(
        Wire(id=f"W{n}", start=Pin(end=a, cavity="1"), finish=Pin(end=b, cavity="1"), stated_m=m, signal=True)
        for n, (a, b, m) in enumerate(rows)
    )
    return Design(ends=ends, wires=wires)


def test_a_tree_is_inferred_corrected_and_taken(qtbot, open_window, tmp_path: Path) -> None:
    window, desk = runs(qtbot, open_window, listed())
    assert desk.infer.isVisible()
    sheet = TreeDialog(window.document, window)
    sheet.open()
    qtbot.waitUntil(lambda: not sheet.busy)
    assert sheet.segments.rowCount() == 5
    assert re.fullmatch("[+−]1?[0-9]{2} mm", sheet.misfits.item(0, 2).text())
    sheet.segments.item(0, 2).setText("nonsense")
    assert "nonsense" in sheet.message.text()
    sheet.segments.item(0, 2).setText("1.25 m")
    assert sheet.message.text() == ""
    assert sheet.proposal.segments[0].length_m == pytest.approx(1.25)
    sheet.accept_tree()
    settled(qtbot, window)
    assert len(window.document.design.segments) == 5
    assert not desk.to_lay.isVisible()
    window.document.undo()
    settled(qtbot, window)
    assert not window.document.design.segments


def test_the_trunk_is_painted_by_its_coverings(qtbot, open_window) -> None:
    window, desk = runs(qtbot, open_window, demo("computer"))
    desk.painting.setCurrentIndex(1)
    window.trunk.repaint()
    assert window.trunk.paints.endswith("covers_story")
    told = window.trunk.told
    assert told.limbs["S5"].alarm
    assert told.limbs["S2"].text.startswith("sleeve")
    assert not told.limbs["S1"].alarm
    for size, scale in ((1024, 1.0), (1280, 1.4)):
        window.resize(size, 700)
        window.scale(scale)
        for number in range(6):
            desk.tab(number)
            qtbot.wait(1)
    window.scale(0)


@pytest.mark.parametrize(
    ("rule", "good", "shown", "bad"),
    [
        ("prices", "2.50 / 0.40", "2.5 / 0.4", ("2.50", "a / b", "-1 / 2", "1 / 2 / 3")),
        ("prices", "none", "not given", ()),
        (
            "board",
            "1200 x 800, 20, a4",
            "1200 x 800, 20, A4",
            ("1200", "1200 x 800 x 3", "12 x 800", "1200 x 800, 20, A9", "1e9 x 800"),
        ),
        ("cut_step_m", "2 mm", "2 mm", ("0", "-1 mm", "wide")),
        ("bend_times", "6 ×", "6 ×", ("0", "inf")),
    ],
)
def test_house_rules_of_the_way(qtbot, open_window, rule: str, good: str, shown: str, bad: tuple[str, ...]) -> None:
    window = open_window(lead())
    one = next(known for known in RULES if known.id == rule)
    assert window.document.apply(set_rule(one, good), rule)
    assert rule_text(window.document.design, one) == shown
    for text in bad:
        try:
            edit = set_rule(one, text)
        except InputError:
            continue
        assert not window.document.apply(edit, rule)
    assert rule_text(window.document.design, one) == shown


@pytest.mark.parametrize("turns", [(90.0,), (-45.0,), (60.0, 60.0), ()])
def test_a_comb_is_drawn_as_long_as_it_is(turns: tuple[float, ...]) -> None:
    """The lengths of the drawn lines differ as the closed form says a comb's wires do, whichever way it turns."""
    lines = [bent(turns, 0.1 * (n - 1)) for n in range(3)]
    drawn = [sum(math.dist(a.toTuple(), b.toTuple()) for a, b in pairwise(line)) for line in lines]
    extras = comb_extras_m(3, 0.1, turns)
    assert [long - drawn[1] for long in drawn] == [pytest.approx(extra, abs=2e-3) for extra in extras]


def test_what_lies_on_a_limb_is_drawn_to_scale(qtbot, open_window) -> None:
    window = open_window(demo("tractor"))
    press(window, "Alt+2")
    settled(qtbot, window)
    desk = window.desks["runs"]
    desk.tab(3)
    settled(qtbot, window)
    view = desk.splices.limb
    view.grab()
    plans = [one for one in window.document.results.once(joins) if one.segment == view.name]
    assert len(plans) == 2
    names = [index_of(window.document.design).ends[one.end].name for one in plans]
    boxes = [view.drawn[name] for name in names]
    per_mm = (boxes[1].center().x() - boxes[0].center().x()) / (1e3 * (plans[1].from_a_m - plans[0].from_a_m))
    for box, one in zip(boxes, plans, strict=True):
        assert box.width() / per_mm == pytest.approx(2 * one.half_mm, rel=0.02)


def test_the_comb_that_is_chosen_is_drawn(qtbot, open_window) -> None:
    other = open_window(demo("computer"))
    press(other, "Alt+2")
    settled(qtbot, other)
    desk = other.desks["runs"]
    desk.tab(4)
    settled(qtbot, other)
    desk.sides.comb.grab()
    assert set(desk.sides.comb.drawn) == set(other.document.design.combs[0].wires)
