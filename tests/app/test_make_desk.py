"""The bench and the shelf in a real window: keys, scanner, gauge, charts, coils, shopping, the check of a cable."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QAccessible, QFontMetricsF, QImage
from PySide6.QtWidgets import QDialog, QFileDialog, QInputDialog, QWidget

from demos import worked_out
from store.test_stations import twice  # noqa: F401 a fixture
from umber_trunk.app import theme
from umber_trunk.app.desks.kit.desk import KitDesk
from umber_trunk.app.desks.kit.instead_sheet import InsteadSheet
from umber_trunk.app.desks.make.bench_card import Card, Chip
from umber_trunk.app.desks.make.bench_view import BenchView
from umber_trunk.app.desks.make.defect_sheet import DefectSheet
from umber_trunk.app.desks.make.desk import MakeDesk
from umber_trunk.app.trunk.story import tell
from umber_trunk.app.window import Window
from umber_trunk.core.catalog.parts import Contact
from umber_trunk.core.catalog.shelf import generic
from umber_trunk.core.demo import demo
from umber_trunk.core.harness.edits import set_project
from umber_trunk.core.keep.stations import disputes
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.make.alarms import alarms
from umber_trunk.core.make.frozen import freeze
from umber_trunk.core.make.handfuls import handfuls
from umber_trunk.core.make.measuring import wanted_readings
from umber_trunk.core.make.operation import OPS, caution_told
from umber_trunk.core.make.press import Press
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.told import handful_told
from umber_trunk.store.catalogues import add_to_shop
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.gauges import PressServer
from umber_trunk.store.keeping import log_said
from umber_trunk.store.photographs import photographs
from umber_trunk_helpers import cell, press

from .conftest import settled

Opened = Callable[..., Window]


def making(
    qtbot: Any, open_window: Opened, name: str = "shore", units: int = 1, whole: bool = False
) -> tuple[Window, MakeDesk]:
    window = open_window(demo(name))
    press(window, "Alt+6")
    settled(qtbot, window)
    desk = window.desks["make"]
    desk.units.setValue(units)
    desk.begin_build()
    settled(qtbot, window)
    assert desk.build is not None
    for op in OPS if not whole else ():
        if desk.habits.whole(op):
            desk.habits.change(op)
    return window, desk


def to(qtbot: Any, desk: MakeDesk, wanted: Callable[[Any], bool]) -> Any:
    """Steps on with the space bar until a step is as wanted."""
    build = desk.build
    for _ in range(3000):
        step = build.bench.now
        assert step is not None
        if wanted(step):
            return step
        if build.bench.needs_reading(step):
            build.release("test")
        qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
    raise AssertionError("no such step")


def test_the_order_for_several_hands_before_a_build(qtbot: Any, open_window: Opened) -> None:
    """Two hands said in the window: the order is dealt to both, and a build begun then is of two."""
    window = open_window(demo("shore"))
    window.show_stage("make")
    desk = window.desks["make"]
    desk.tab(1)
    settled(qtbot, window)
    desk.hands.setValue(2)
    qtbot.waitUntil(lambda: "2 pairs of hands" in desk.order.summary.text(), timeout=20_000)
    model = desk.order.rows.model()
    column = next(n for n in range(model.columnCount()) if model.headerData(n, Qt.Orientation.Horizontal) == "Hand")
    assert {model.index(row, column).data() for row in range(model.rowCount())} == {"1", "2"}
    desk.begin_build()
    assert desk.build.bench.order.hands == 2


def test_the_bench_records_what_was_so(qtbot: Any, open_window: Opened) -> None:
    """Names that stand when a thing is done; figures that say nothing or can't be; labels nobody knows; a fault holds
    its step; a die set anew asks for its samples; limits stay on the card; Space is for the bench once its tab is
    clicked."""
    window, desk = making(qtbot, open_window, "tractor")
    build = desk.build
    assert build is not None
    for name, hand in (("", ""), ("Ines", "Ines"), ("Mara", "Mara")):
        desk.hand.setText(name)
        desk.tab(1)
        desk.tab(0)
        assert desk.bench.hasFocus() or not desk.bench.isActiveWindow()
        desk.forward()
        assert window.document.project.floor.events()[-1].data["hand"] == hand
    for typed, told in (
        ("ZZ-99", "no wire, coil or reading"),
        ("1.6", "Nothing is measured at this step"),
        ("pull 60", "sample pieces alone"),
    ):
        desk.enter(typed)
        assert told in desk.bench.card.said
    step = to(
        qtbot, desk, lambda s: build.bench.needs_reading(s) and bool(build.bench.lacks(s)[:2] == ["height", "pull"])
    )
    for typed in ("height 19", "pull 5000 N"):
        desk.enter(typed)
        assert "can’t be" in desk.bench.card.said
        assert not build.bench.fresh(step.key)
    middle = sum(map(float, desk.bench.card.wanted.split("crimp height, ")[1].split(" mm")[0].split(" to "))) / 2
    desk.enter(f"{middle:.3f}")
    desk.enter("pull 300")
    assert desk.bench.card.wanted.startswith("Measured: crimp height, ")
    desk.forward()
    crimp = to(qtbot, desk, lambda s: s.operation.op == "look" and s.operation.side != "" and not s.operation.sample)
    desk.found("strand-out")
    desk.forward()
    assert build.bench.now is crimp
    assert "start this end over" in desk.bench.card.said
    desk.backward()  # it was none
    desk.forward()
    assert build.bench.now is not crimp
    again = to(qtbot, desk, lambda s: s.operation.op == "crimp" and not s.operation.sample)
    desk.set_anew(again.operation.tool, again.operation.setting)
    now = build.bench.now
    assert now.operation.sample
    assert build.bench.now.key != again.key  # type: ignore[union-attr]
    desk.backward()
    assert build.bench.now is again


def test_a_crimp_made_anew_isnt_refused_by_the_old_reading(qtbot: Any, open_window: Opened) -> None:
    _, desk = making(qtbot, open_window, "tractor")
    build = desk.build
    assert build is not None
    step = to(qtbot, desk, lambda s: s.operation.op == "crimp" and not s.operation.sample and wanted_here(build, s))
    low, high = map(float, desk.bench.card.wanted.split("crimp height, ")[1].split(" mm")[0].split(" to "))
    desk.enter(f"height {1.2 * high:.3f}")
    desk.forward()
    assert build.bench.now is step
    desk.remake()
    to(qtbot, desk, lambda s: s.key == step.key)
    desk.enter(f"height {(low + high) / 2:.3f}")
    desk.forward()
    assert build.bench.now is not step


def test_what_is_refused_on_a_sheet_stays_there(
    qtbot: Any, open_window: Opened, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, desk = kitting(qtbot, open_window)
    desk.tab(1)
    settled(qtbot, window)
    desk.coils.decide()
    sheet = next(one for one in desk.findChildren(QDialog) if one.isVisible())
    sheet.new_size.setText("thick")  # type: ignore[attr-defined]
    sheet.who.setText("Mara")  # type: ignore[attr-defined]
    sheet.accept()
    assert sheet.isVisible()
    assert sheet.refused.text()  # type: ignore[attr-defined]
    assert sheet.who.text() == "Mara"  # type: ignore[attr-defined]
    sheet.new_size.setText("70 mm2")  # type: ignore[attr-defined]
    sheet.accept()
    assert not sheet.isVisible(), sheet.refused.text()  # type: ignore[attr-defined]
    window.document.refused.emit("no")
    assert window.status.text() == "✕ no"
    window.document.apply(lambda design: set_project(design, name="other"), "name")
    assert window.status.text() != "✕ no"


def wanted_here(build: Any, step: Any) -> bool:
    return bool(wanted_readings(build.frozen.shelf, step.operation))


def test_one_key_leads_through_the_bench_and_another_takes_back(qtbot: Any, open_window: Opened) -> None:
    window, desk = making(qtbot, open_window)
    build = desk.build
    first = build.bench.now
    assert desk.bench.card.text == first.operation.text
    qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
    qtbot.keyClick(desk.bench, Qt.Key.Key_Return)
    assert build.bench.count[0] == 2
    assert desk.bench.card.done == 2
    qtbot.keyClick(desk.bench, Qt.Key.Key_Backspace)
    assert build.bench.count[0] == 1
    assert [one.kind for one in window.document.project.floor.events()] == ["begin", "done", "done", "undo"]
    desk.tab(1)
    settled(qtbot, window)
    assert desk.order.rows.model().rowCount() == len(build.bench.order.steps)
    assert "no order does with fewer than" in desk.order.summary.text()
    assert "Wire by wire" not in desk.order.summary.text()  # frozen: nothing is planned beside it
    desk.tab(3)
    assert cell(desk.log.rows, "What", 0).startswith("taken back: ")


def test_a_handful_by_keys_alone(qtbot: Any, open_window: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    """Space the row, an arrow one piece of it, Backspace back; F3 piece by piece, kept for the next build; F4 who
    works; a label; a serial. The next key is always the bench's."""
    window, desk = making(qtbot, open_window, "tractor", 2, whole=True)
    build, bench, keys = desk.build, desk.bench, Qt.Key
    row = build.bench.handful
    assert bench.card.headline.startswith("Cut 2 × R01 to ")
    assert [chip.state for chip in bench.card.chips] == ["open", "open"]
    for pressed, states in (
        (keys.Key_Right, ["open", "open"]),
        (keys.Key_Space, ["done", "open"]),
        (keys.Key_Right, ["done", "open"]),
        (keys.Key_Backspace, ["open", "open"]),
        (keys.Key_Escape, ["open", "open"]),
        (keys.Key_Space, None),
        (keys.Key_Backspace, ["open", "open"]),
    ):
        qtbot.keyClick(bench, pressed)
        if states is not None:
            assert build.bench.handful is row
            assert [chip.state for chip in bench.card.chips] == states, pressed
        else:
            assert build.bench.handful is not row
    marks = {one.act.handful for one in build.bench.history if one.kind == "done"}
    assert len(marks) == 2
    qtbot.keyClick(desk, keys.Key_F3)
    assert "piece by piece" in desk.habit.text()
    qtbot.keyClick(bench, keys.Key_Space)
    assert build.bench.count[0] == 1
    beside = MakeDesk(window.document)
    assert not beside.habits.whole("cut")
    beside.show_card()
    assert beside.busy  # the trunk is told in a moment, unless the desk is closed before
    beside.close_background()
    assert not beside.busy
    qtbot.keyClick(desk, keys.Key_F3)
    desk.hand.setText("Mara")
    qtbot.keyClick(bench, keys.Key_Space)
    desk.hand.setText("Jo")
    qtbot.keyClick(bench, keys.Key_Space)
    qtbot.keyClick(desk, keys.Key_F4)
    assert desk.hand.text() == "Mara"
    while build.bench.handful.first.op != "label":
        qtbot.keyClick(bench, keys.Key_Space)
    row = build.bench.handful
    wire = row.pieces[5][0].operation.wire
    for many in (1, 2):
        qtbot.keyClicks(bench, wire)
        qtbot.keyClick(bench, keys.Key_Return)
        assert [chip.state for chip in bench.card.chips if chip.name.startswith(wire + "·")].count("done") == many
    qtbot.keyClicks(bench, wire)
    qtbot.keyClick(bench, keys.Key_Return)
    assert "no piece here is left" in bench.card.said
    reasons = iter([("otherwise…", True)])
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_, **__: next(reasons))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("", True))
    desk.scrap()
    assert "Say why" in bench.card.said
    while build.bench.handful.first.op != "crimp" or build.bench.handful.first.sample:
        if build.bench.needs_reading(build.bench.now):
            build.release("test")
        qtbot.keyClick(bench, keys.Key_Space)
    desk.another_sample()
    assert build.bench.now.operation.sample
    assert bench.card.headline.startswith("Sample: ")
    assert bench.hasFocus() or not bench.isActiveWindow()
    log_said(window.document.project, f"{build.name}/2", "serial", {"serial": "SR-0042"})
    qtbot.keyClicks(bench, "SR-0042")
    qtbot.keyClick(bench, keys.Key_Return)
    settled(qtbot, window)
    assert window.stage == "keep"
    assert window.desks["keep"].record.serial == "SR-0042"


def test_a_window_opened_again_shows_the_very_step(qtbot: Any, open_window: Opened, tmp_path: Path) -> None:
    window, desk = making(qtbot, open_window)
    for _ in range(7):
        qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
    text = desk.bench.card.text
    done, steps = sorted(desk.build.bench.done), [step.operation for step in desk.build.bench.order.steps]
    window.document.apply(
        lambda design: design.model_copy(
            update={"project": design.project.model_copy(update={"remakes": 7, "strip_m": 0.03})}
        ),
        "other house rules",
    )
    window.close()
    add_to_shop([part.model_copy(update={"price": 0.0}) for part in generic().of(Contact)])
    again = open_window(path=tmp_path / "test.umber")
    again.show_stage("make")
    other = again.desks["make"]
    assert other.bench.card.text == text
    assert (sorted(other.build.bench.done), [step.operation for step in other.build.bench.order.steps]) == (done, steps)


def test_a_scanner_takes_coils_and_labels_and_a_wrong_wire_is_said(qtbot: Any, open_window: Opened) -> None:
    from umber_trunk.core.kit.coils import Coil

    window, desk = making(qtbot, open_window)
    build = desk.build
    step = to(qtbot, desk, lambda s: s.operation.op == "cut")
    size = next(row.size for row in build.figures().once(cuts) if row.wire.id == step.operation.wire)
    window.document.project.floor.put_coils([Coil("K7", size, 50.0)], 0)
    qtbot.keyClicks(desk.bench, "K7")
    assert desk.bench.typed == "K7"
    qtbot.keyClick(desk.bench, Qt.Key.Key_Return)
    assert build.bench.done[step.key].data["coil"] == "K7"
    assert window.document.project.floor.coils()[0].left_m < 50
    label = to(
        qtbot,
        desk,
        lambda s: s.operation.op == "label" and s.operation.wire in {w.id for w in build.frozen.design.wires},
    )
    other = next(w.id for w in build.frozen.design.wires if w.id != label.operation.wire)
    qtbot.keyClicks(desk.bench, other)
    qtbot.keyClick(desk.bench, Qt.Key.Key_Return)
    assert build.bench.now is label
    assert desk.bench.card.wrong
    qtbot.keyClicks(desk.bench, label.operation.wire)
    qtbot.keyClick(desk.bench, Qt.Key.Key_Return)
    assert label.key in build.bench.done


def test_first_off_is_measured_by_hand_or_gauge_before_the_batch_goes_on(qtbot: Any, open_window: Opened) -> None:
    _, desk = making(qtbot, open_window, "barge")
    build = desk.build
    step = to(qtbot, desk, lambda s: build.bench.needs_reading(s) and bool(s.operation.part.startswith("cockle")))
    qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
    assert build.bench.now is step
    assert "First-off" in desk.bench.card.said
    qtbot.keyClicks(desk.bench, "2.6")
    qtbot.keyClick(desk.bench, Qt.Key.Key_Return)
    assert "out of its limits" in desk.bench.card.said
    assert "die" in desk.bench.card.said
    qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
    assert build.bench.now is step
    wanted = float(step.operation.setting.split()[-2])
    with PressServer(Press(height_mm=wanted, scatter_mm=0.0, pull_n=900.0)) as gauge:
        desk.gauge.setText(gauge.address)
        for _ in range(2):
            before = len(build.bench.fresh(step.key))
            desk.read_gauge()
            qtbot.waitUntil(lambda: not desk.reader.busy, timeout=5000)
            assert len(build.bench.fresh(step.key)) > before, desk.bench.card
    assert {read.what for read in build.bench.fresh(step.key)} == {"height", "pull"}
    qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
    assert step.key in build.bench.done
    desk.gauge.setText("tcp:127.0.0.1:1")
    desk.read_gauge()
    qtbot.waitUntil(lambda: desk.bench.card is not None and "No gauge answers" in desk.bench.card.said, timeout=5000)


def test_an_end_started_over_counts_down_until_the_wire_is_scrap(
    qtbot: Any, open_window: Opened, monkeypatch: pytest.MonkeyPatch
) -> None:
    _, desk = making(qtbot, open_window, "barge")
    build = desk.build
    assert build is not None
    step = to(qtbot, desk, lambda s: s.operation.op == "insert")
    wire, side = step.operation.wire, step.operation.side
    left = build.bench.left(wire, side, 1).times
    assert left > 0
    for number in range(left):
        desk.remake()
        assert build.bench.left(wire, side, 1).times == left - number - 1
        while build.bench.now is not None and build.bench.now.key != step.key:
            qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
    desk.remake()
    assert "scrap the wire" in desk.bench.card.said
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_, **__: ("too short", True))
    desk.scrap()
    assert build.bench.history[-1].act.why == "too short"  # type: ignore[union-attr]
    assert build.bench.now.operation.op == "cut"
    desk.defect()
    sheet = desk.findChild(DefectSheet)
    sheet.grab()
    metrics = QFontMetricsF(theme.font(9.5, bold=True))
    for tile in sheet.tiles:  # what it comes to is the last line
        room = QRectF(0, 0, tile.width() - 20, 1000)
        needs = metrics.boundingRect(room, int(Qt.TextFlag.TextWordWrap), tile.words).height()
        assert needs <= 0.44 * (tile.height() - 4), tile.words
    qtbot.mouseClick(next(tile for tile in sheet.tiles if tile.code == "jacket-cut"), Qt.MouseButton.LeftButton)
    assert "scrap" in desk.bench.card.said
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Jo", True))
    desk.let_go()
    assert "released by Jo" in desk.bench.card.said


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (1024, 700), (700, 400)])
@pytest.mark.parametrize("scale", [1.0, 1.4])
def test_the_step_is_read_at_two_metres_and_nothing_is_cut(
    qtbot: Any, qapp: Any, width: int, height: int, scale: float
) -> None:
    """Letters a two-hundredth of the distance tall are read without strain: 10 mm at 2 m, 38 pixels at 96 to the
    inch."""
    theme.load_fonts()
    theme.apply_theme(qapp, scale)
    view = BenchView()
    qtbot.addWidget(view)
    view.resize(width, height)
    view.show()
    long = "R17: crimp Cockle M socket, 0.75 to 1.5 mm² to 1.41 ± 0.05 mm (Cockle hand press, die M-1)."
    for text, facts in (
        ("W27 into 2: until it clicks.", ("At belt sensor, cavity 2",)),
        (long, ("Tool: Cockle hand press, M-1", "Left at this end: 23 mm, 2 remakes")),
    ):
        view.show_card(
            Card(
                "Crimp · unit 3",
                text,
                facts,
                (caution_told("pinch"), caution_told("eyes")),
                "First-off. Type crimp height, 1.36 to 1.46 mm",
                "",
                False,
                10,
                99,
                "2 h left",
                ("next one",),
                ("last one",),
            )
        )
        view.grab()
        room = view.rect()
        parts = [view.drawn[name] for name in ("verb", "text", "facts", "foot")]
        assert all(part.left() >= 0 and part.right() <= room.width() + 1 for part in parts)
        assert all(a.bottom() <= b.top() + 2 for a, b in itertools.pairwise(parts))
        if width >= 1024:
            capital = QFontMetricsF(theme.font(view.points["text"], bold=True)).capHeight()
            assert capital >= (38 if len(text) < 60 else 26) / (1.0 if scale == 1.0 else 1.3)
    theme.apply_theme(qapp)


def test_the_tractor_comes_half_built_with_a_die_to_notice(qtbot: Any, open_window: Opened, tmp_path: Path) -> None:
    path = tmp_path / "t.umber"
    put_demo(path, "tractor").close()
    window = open_window(path=path)
    window.show_stage("make")
    settled(qtbot, window)
    desk = window.desks["make"]
    done, whole = desk.build.bench.count
    assert 0.4 < done / whole < 0.7
    assert len(desk.build.order_units) == 6
    desk.tab(2)
    settled(qtbot, window)
    assert desk.charts.chart.run.chart.verdict == "check the die"
    assert [cell(desk.charts.rows, "", row) for row in range(2)] == ["✕ check the die", "steady"]
    desk.charts.chart.grab()
    assert not [one for one in window.document.findings if one.severity == 0]
    qtbot.waitUntil(lambda: window.document.progress is not None, timeout=3000)
    story = tell(
        "app.trunk.story:make_story", window.document.design, window.document.results, window.document.progress
    )
    done_at = {end: leaf.text for end, leaf in story.leaves.items()}
    assert "steps" in done_at["lamp4"]
    assert any(limb.text.endswith(" %") and limb.text not in ("0 %", "100 %") for limb in story.limbs.values())
    qtbot.waitUntil(lambda: window.rail.open["make"] == (0, 1))  # never a tick while a die drifts
    assert "check the die" in window.worst.text.text()
    finding = alarms(window.document.project.floor.events())[0]
    assert finding.code == "make.die"
    desk.tab(0)
    window.show_finding(finding)
    assert desk.charts.rows.chosen_id() == finding.subject
    desk.tab(0)
    to(
        qtbot,
        desk,
        lambda s: (
            s.operation.op == "crimp" and s.operation.part == "cockle-m-socket-1.5" and s.operation.area_mm2 < 1.2
        ),
    )
    assert any("check the die" in caution for caution in desk.bench.card.cautions)  # type: ignore[union-attr]
    desk.tab(2)
    desk.charts.reset()
    qtbot.waitUntil(lambda: window.rail.open["make"] == (0, 0))
    assert "measure a sample" in desk.bench.card.said  # type: ignore[union-attr]
    assert not any("check the die" in caution for caution in desk.bench.card.cautions)  # type: ignore[union-attr]
    desk.tab(0)
    qtbot.keyClick(desk.bench, Qt.Key.Key_Backspace)
    qtbot.waitUntil(lambda: window.rail.open["make"] == (0, 1))
    done = desk.build.bench.count[0]
    desk.show_large()
    qtbot.keyClick(desk.far, Qt.Key.Key_Space)
    assert desk.build.bench.count[0] == done + 2  # the handful that was left half done


def kitting(qtbot: Any, open_window: Opened, name: str = "barge") -> tuple[Window, KitDesk]:
    window = open_window(demo(name))
    press(window, "Alt+5")
    settled(qtbot, window)
    desk = window.desks["kit"]
    assert isinstance(desk, KitDesk)
    return window, desk


def test_a_stock_list_becomes_the_shelf_and_what_runs_short_is_said_first(
    qtbot: Any, open_window: Opened, tmp_path: Path, boxes: list[str]
) -> None:
    window, desk = kitting(qtbot, open_window)
    desk.tab(1)
    settled(qtbot, window)
    assert desk.coils.empty.isVisible()
    good, bad = tmp_path / "stock.csv", tmp_path / "bad.csv"
    good.write_text("coil,size,metal,colour,length_m\nC1,0.75 mm2,,,400\nC2,50 mm2,,,20\n")
    bad.write_text("coil,size,metal,colour,length_m\nC9,thick,,,1\n")
    desk.coils.take(good)
    settled(qtbot, window)
    assert desk.coils.rows.model().rowCount() == 2
    qtbot.waitUntil(lambda: desk.coils.plan is not None)  # once it is known what is left to cut
    assert "Runs short" in desk.coils.short.text()
    assert "16 mm²" in desk.coils.short.text()
    desk.coils.take(bad)  # nothing changes
    assert desk.coils.rows.model().rowCount() == 2
    lone = tmp_path / "lone.csv"
    lone.write_text("coil,size,metal,colour,length_m\nC3,1 mm2,,,2.383\n")
    for answer, left in (("Cancel", ["C1", "C2"]), ("They stay", ["C1", "C2", "C3"]), ("They are gone", ["C3"])):
        boxes.answer = answer  # type: ignore[attr-defined]
        desk.coils.take(lone)
        assert [held.coil.id for held in desk.coils.rows.rows_model.rows] == left
        assert "2 coils are on the shelf that the list doesn’t have" in boxes[-1]
    before = Path(window.status.text().split("kept in ")[1].split(": read")[0])
    boxes.answer = "They are gone"  # type: ignore[attr-defined]
    desk.coils.take(before)  # read again: what was replaced is back
    assert [held.coil.id for held in desk.coils.rows.rows_model.rows] == ["C1", "C2", "C3"]
    desk.coils.take(good)
    desk.coils.units.setValue(3)
    settled(qtbot, window)
    assert len([cut for cut in desk.coils.plan.cuts if cut.piece.unit == 3]) > 20
    desk.coils.rows.choose("C1")
    assert desk.coils.cuts.text().startswith("C1, cut in this order")
    desk.coils.decide()
    sheet = desk.coils.findChild(InsteadSheet)
    wire = sheet.wire.currentText()
    sheet.new_size.setText("50 mm2")
    sheet.who.setText("Mara")
    sheet.accept()
    settled(qtbot, window)
    assert [(one.wire, one.who) for one in window.document.design.decisions] == [(wire, "Mara")]
    assert (
        wire not in {piece.wire for piece in desk.coils.plan.short if piece.unit == 1}
        or "50 mm²" in desk.coils.short.text()
    )


def test_the_shelf_is_inside_or_beside_by_the_users_choice(
    qtbot: Any, open_window: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, desk = kitting(qtbot, open_window)
    desk.tab(1)
    shelf = tmp_path / "shop.umbershelf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(shelf), ""))
    desk.coils.change_shelf()
    assert shelf.exists()
    assert "shop.umbershelf" in desk.coils.where.text()
    stock = tmp_path / "stock.csv"
    stock.write_text("coil,size,metal,colour,length_m\nC1,0.75 mm2,,,400\n")
    desk.coils.take(stock)
    assert window.document.project.floor.coils() == []
    desk.coils.change_shelf()
    assert "this harness file" in desk.coils.where.text()
    settled(qtbot, window)


def test_the_shopping_list_is_saved_as_shown(
    qtbot: Any, open_window: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, desk = kitting(qtbot, open_window)
    desk.tab(2)
    settled(qtbot, window)
    rows = desk.buying.rows.model().rowCount()
    assert rows > 30
    one = [row.needed for row in desk.buying.rows.rows_model.rows]
    desk.buying.units.setValue(2)
    settled(qtbot, window)
    assert [row.needed for row in desk.buying.rows.rows_model.rows] == pytest.approx([2 * n for n in one])
    for ending in ("csv", "xlsx", "pdf"):
        path = tmp_path / f"buy.{ending}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, path=path, **__: (str(path), ""))
        desk.buying.save()
        assert path.stat().st_size > 1000
    settled(qtbot, window)


def test_the_check_judges_as_one_types_and_solves_the_harness_again(qtbot: Any, open_window: Opened) -> None:
    window, desk = kitting(qtbot, open_window)
    desk.tab(3)
    check = desk.check
    assert check.view.judged is None
    assert "any one of them" in check.view.said
    check.say(claim="16 mm2 copper", length="2 m", mass="100 g", resistance="6.9 mohm")
    check.weighed.setCurrentIndex(1)
    assert check.view.judged.claimed is False
    check.view.grab()
    check.solve_again()
    settled(qtbot, window)
    assert not isinstance(check.view.built, str)
    assert check.view.built.wires
    check.lines["mass"].setText("1,200 g")
    assert check.view.judged is None
    assert "can mean" in check.view.said
    check.view.grab()
    check.say(claim="7 mm2 copper", od="4 mm")
    check.solve_again()
    settled(qtbot, window)
    assert "No wire" in str(check.view.built)


def test_a_second_station_follows_and_builds_beside(
    qtbot: Any, open_window: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The file is held by a first station; the window here reads, follows it, and logs a build of its own beside it."""
    from umber_trunk.store.builds import begin
    from umber_trunk.store.project import ProjectFile

    path = tmp_path / "held.umber"
    ProjectFile.create(path, demo("shore"), copied=False).close()
    with ProjectFile.open(path) as first, begin(first, "one", [1]) as build:
        build.advance()
        window = open_window(path=path)
        window.show_stage("make")
        settled(qtbot, window)
        desk = window.desks["make"]
        assert desk.build.bench.count[0] == 1
        qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
        assert "can't be changed" in desk.bench.card.said
        build.advance()
        desk.follow()
        assert desk.build.bench.count[0] == 2
        monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("loft", True))
        desk.begin_build()
        qtbot.keyClick(desk.bench, Qt.Key.Key_Space)
        assert desk.build.bench.count[0] >= 1  # a handful
        assert first.floor.builds()[-1].build == "one"
        log = path.with_name("held.loft.log.jsonl")
        assert log.exists()
    window.close()
    again = open_window(path=path)
    again.show_stage("make")
    other = again.desks["make"]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, **__: (str(log), ""))
    other.tab(3)
    other.log.merge()
    assert len(again.document.project.floor.builds()) == 2
    photo = tmp_path / "crimp.png"
    assert again.grab().save(str(photo))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, **__: (str(photo), ""))
    other.tab(0)
    other.link_photo()
    qtbot.waitUntil(lambda: not other.developer.busy)
    assert again.document.project.floor.events()[-1].data["photo"] == "crimp.png"
    assert [name.split("-")[-1] for name, _ in photographs(again.document.project.floor)] == ["crimp.jpg"]
    other.tab(3)
    other.log.rows.setCurrentIndex(other.log.rows.rows_model.index(0, 0))
    qtbot.waitUntil(lambda: not other.busy and not other.log.photo.image.isNull())
    assert other.log.photo.isVisible()
    assert "crimp.png" in other.log.photo.said
    other.log.rows.setCurrentIndex(other.log.rows.rows_model.index(1, 0))
    assert not other.log.photo.isVisible()  # nothing was photographed there
    large = again.grab().toImage().scaled(4000, 2500)
    assert large.save(str(photo))
    for answer, side in (((0, True), 1600), ((1, True), 4000), ((0, False), 4000)):
        monkeypatch.setattr(QInputDialog, "getItem", lambda *a, answer=answer, **__: (a[3][answer[0]], answer[1]))
        other.link_photo()
        qtbot.waitUntil(lambda: not other.developer.busy)
        assert QImage.fromData(photographs(again.document.project.floor)[-1][1]).width() == side


def test_the_window_shows_both_sides_and_asks_who_chooses(
    qtbot,
    open_window,
    twice: Path,  # noqa: F811
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    window = open_window(path=twice)
    qtbot.waitUntil(lambda: not window.document.looking, timeout=20_000)
    finding = next(one for one in window.document.findings if one.code == "make.disputed")
    assert window.show_finding(finding)
    log = window.desks["make"].panels[2]
    assert log.isVisible()
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: (a[3][0], True))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Mara: it is hers", True))
    for left in (2, 1, 0):
        log.choose()
        assert len(disputes(window.document.project.floor.events())) == left
    log.choose()
    assert "No two entries" in window.status.text()


def test_the_shelf_is_drawn_as_full_as_it_is(qtbot: Any, open_window: Opened, tmp_path: Path) -> None:
    """A ring for each coil, chosen by arrows as in the list; what is to be cut is what the plan cuts."""
    path = tmp_path / "t.umber"
    put_demo(path, "tractor").close()
    window = open_window(path=path)
    window.show_stage("kit")
    desk = window.desks["kit"]
    desk.tab(1)
    desk.coils.units.setValue(1)
    settled(qtbot, window)
    view, panel = desk.coils.view, desk.coils
    view.grab()
    assert not panel.rows.isVisible()
    held = {one.coil.id: one.left_m for one in panel.rows.rows_model.rows}
    assert {one.name: one.left_m for one in view.coils} == held
    assert sum(one.pieces for one in view.coils) == len(panel.plan.cuts) > 10
    assert {one.name: pytest.approx(one.then_m, abs=1e-6) for one in view.coils if one.pieces} == {
        name: left for name, left in panel.plan.left_m.items() if name in panel.plan.opened
    }
    view.tell_readers()
    parts = [part for part in view.findChildren(QWidget) if part.accessibleName().startswith("coil ")]
    assert [part.accessibleDescription() for part in parts] == [one.told for _, one in view.hits]
    told = QAccessible.queryAccessibleInterface(parts[4])
    assert told.role() == QAccessible.Role.Button
    told.actionInterface().doAction("Press")  # as a reader's user does
    qtbot.waitUntil(lambda: panel.rows.chosen_id() == view.current == view.hits[4][1].name)
    view.current = ""
    for _ in range(3):
        qtbot.keyClick(view, Qt.Key.Key_Right)
    assert panel.rows.chosen_id() == view.current == view.coils[2].name
    panel.listed.click()
    assert panel.rows.isVisible()
    assert not view.isVisible()


def test_what_to_do_is_read_from_afar_beside_the_trunk_too(qtbot: Any, qapp: Any) -> None:
    """Capitals of a twentieth of the window's height on the line to act on, for every handful of the tractor, in half
    of a usual window."""
    theme.load_fonts()
    theme.apply_theme(qapp)
    results = worked_out("tractor")
    frozen = freeze(results, plan_order(results, 6), "test")
    window = QWidget()
    qtbot.addWidget(window)
    window.resize(1280, 800)
    view = BenchView()
    view.setParent(window)
    view.setGeometry(12, 430, 950, 338)
    window.show()
    for one in handfuls(frozen.making.order):
        name = frozen.shelf.name(one.first.part) if one.first.part else ""
        head = str(handful_told(one, frozen.making.names, name))
        chips = tuple(Chip(f"R{n:02}·{n}", "red", "", "open") for n, _ in enumerate(one.pieces))
        view.show_card(
            Card(
                "x",
                one.first.text,
                ("A fact",),
                (caution_told("pinch"),),
                headline=head,
                chips=chips,
                attests="Space: all",
            )
        )
        view.grab()
        capital = QFontMetricsF(theme.font(view.points["text"], bold=True)).capHeight()
        assert capital >= 0.97 * window.height() / 20, head
        parts = view.parts_told()
        assert all(
            name and view.rect().adjusted(-2, -2, 2, 2).contains(box.toAlignedRect()) for box, name, _ in parts
        ), head
        assert sum(state == "open" for _, _, state in parts) == (len(chips) if len(chips) > 1 else 0)
