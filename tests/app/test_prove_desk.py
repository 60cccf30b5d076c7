"""Prove and Keep in a real window: keys, typed readings, meters, redline, drills, units, certificates."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPixmap
from PySide6.QtWidgets import QFileDialog, QInputDialog

from umber_trunk.app import theme
from umber_trunk.app.desks.keep.desk import KeepDesk
from umber_trunk.app.desks.keep.unit_view import UnitView
from umber_trunk.app.desks.make.chart_view import ChartView
from umber_trunk.app.desks.prove.cards import MATING, card_of, place_of
from umber_trunk.app.desks.prove.desk import ProveDesk
from umber_trunk.app.desks.prove.left_view import LeftView
from umber_trunk.app.desks.prove.probe_view import Place, ProbeCard, ProbeView, shown_value
from umber_trunk.app.desks.sizes import tabs
from umber_trunk.app.trunk.story import tell
from umber_trunk.app.widgets import plot
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.window import Window
from umber_trunk.core.demo import demo
from umber_trunk.core.keep.portrait import FAR, in_band
from umber_trunk.core.prove.netlist import EARTH
from umber_trunk.core.prove.priors import shares_of
from umber_trunk.core.prove.redline import Redline
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.found_faults import found_faults
from umber_trunk.store.keeping import log_said
from umber_trunk.store.meters import MeterServer, simulated
from umber_trunk_helpers import press, type_in

from .conftest import settled

Opened = Callable[..., Window]


def proving(qtbot: Any, open_window: Opened, name: str = "shore") -> tuple[Window, ProveDesk]:
    window = open_window(demo(name))
    press(window, "Alt+7")
    settled(qtbot, window)
    desk = window.desks["prove"]
    assert desk.proof is not None
    return window, desk


def on(qtbot: Any, window: Window, desk: ProveDesk, there: Callable[[Any], bool] = lambda task: False) -> Any:
    """Space after space until a task is as wanted, or nothing is asked any more."""
    for _ in range(400):
        task = desk.proof.now
        if task is None or there(task):
            return task
        qtbot.keyClick(desk.view, Qt.Key.Key_Space)
        settled(qtbot, window)
    raise AssertionError("it goes on for ever")


def say(qtbot: Any, window: Window, desk: ProveDesk, text: str) -> None:
    qtbot.keyClicks(desk.view, text)
    qtbot.keyClick(desk.view, Qt.Key.Key_Return)
    settled(qtbot, window)


def test_one_key_proves_a_sound_simulated_unit(qtbot: Any, open_window: Opened) -> None:
    window, desk = proving(qtbot, open_window)
    desk.simulate()
    task = on(qtbot, window, desk, lambda task: task.high_voltage)
    assert task.told.startswith("At 500 V")
    assert "Locked out" in desk.view.card.caution
    qtbot.keyClick(desk.view, Qt.Key.Key_Space)
    settled(qtbot, window)
    assert "locked out" in desk.view.card.said  # nothing was taken
    assert desk.proof.now is task
    desk.safe.setChecked(True)
    on(qtbot, window, desk)
    assert desk.proof.complete
    assert desk.view.card.verb == "All in their bands"  # a trial proves no unit
    assert "no unit is proven" in desk.view.card.text
    assert set(window.document.redline.states.values()) == {"tested"}


def test_typed_readings_are_judged_and_taken_back(qtbot: Any, open_window: Opened) -> None:
    window, desk = proving(qtbot, open_window)
    say(qtbot, window, desk, "12")
    assert "Eyes judge" in desk.view.card.said  # type: ignore[union-attr]
    say(qtbot, window, desk, "ok")
    task = on(qtbot, window, desk, lambda task: task.unit == "Ω")
    assert task.kind == "earth"
    qtbot.keyClick(desk.view, Qt.Key.Key_Space)
    assert "Type the reading" in desk.view.card.said  # type: ignore[union-attr]
    for text, why in (("1", "OL or 1 ohm"), ("12 V", "12 V"), ("1,200", "1,200")):
        say(qtbot, window, desk, text)
        assert why in desk.view.card.said  # type: ignore[union-attr]
        assert desk.proof.now is task
    say(qtbot, window, desk, "203 mohm")
    assert desk.proof.answers[-1].ok
    qtbot.keyClick(desk.view, Qt.Key.Key_Backspace)
    settled(qtbot, window)
    assert desk.proof.now.kind == "earth"
    say(qtbot, window, desk, "OL")
    assert not desk.proof.answers[-1].ok
    assert "C3 is open" in desk.view.card.suspects[0][0]  # type: ignore[union-attr]
    qtbot.keyClicks(desk.view, "12")
    qtbot.keyClick(desk.view, Qt.Key.Key_Backspace)
    assert desk.view.typed == "1"
    qtbot.keyClick(desk.view, Qt.Key.Key_Escape)
    assert desk.view.typed == ""


def test_a_hidden_fault_is_run_to_and_named_on_the_trunk(qtbot: Any, open_window: Opened) -> None:
    window, desk = proving(qtbot, open_window)
    type_in(qtbot, desk.hidden, "open:T99")
    desk.simulate()
    assert "no wire" in desk.view.card.said  # type: ignore[union-attr]
    desk.hidden.setText("swap:T4,T6@lamps")
    desk.simulate()
    desk.safe.setChecked(True)
    qtbot.mouseClick(desk.run, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    on(qtbot, window, desk)
    card = desk.view.card
    assert (card.verb, card.caution) == ("Not proven", "Power stays off.")
    assert "each other’s cavities" in card.suspects[0][0]
    story = tell(
        "app.trunk.story:prove_story", window.document.design, window.document.now, None, window.document.redline
    )
    assert any(limb.alarm for limb in story.limbs.values())
    assert story.leaves["lamps"].alarm
    qtbot.mouseClick(desk.bad, Qt.MouseButton.LeftButton)  # nothing is asked: it does nothing
    assert desk.proof.now is None


def test_a_meter_is_connected_lost_and_said(qtbot: Any, open_window: Opened) -> None:
    window, desk = proving(qtbot, open_window)
    assert desk.proof is not None
    desk.run_on()
    assert "switch box" in desk.view.card.said  # type: ignore[union-attr]
    desk.meter.setText("tcp:127.0.0.1:1")
    desk.connect_meter()
    settled(qtbot, window)
    assert "No meter answers" in desk.view.card.said  # type: ignore[union-attr]
    with MeterServer(simulated(desk.proof.net, [], 3)) as server:
        desk.meter.setText(server.address)
        desk.connect_meter()
        settled(qtbot, window)
        assert "answers" in desk.view.card.said  # type: ignore[union-attr]
        on(qtbot, window, desk, lambda task: task.unit == "Ω")
        before = len(desk.proof.answers)
        qtbot.mouseClick(desk.run, Qt.MouseButton.LeftButton)
        qtbot.waitUntil(
            lambda: (
                desk.proof is not None and desk.proof.now is not None and desk.proof.now.high_voltage and not desk.busy
            ),
            timeout=20_000,
        )
        assert len(desk.proof.answers) > before + 20
        assert desk.proof.sound_so_far
        held = len(desk.proof.answers)
    desk.link.close()  # unplugged
    desk.safe.setChecked(True)
    desk.again.setInterval(100)
    qtbot.keyClick(desk.view, Qt.Key.Key_Space)
    qtbot.waitUntil(
        lambda: "No meter answers" in desk.view.card.said and "by itself" in desk.view.card.said, timeout=10_000
    )
    assert len(desk.proof.answers) == held
    with MeterServer(
        simulated(desk.proof.net, [], 3), server.port
    ):  # plugged in again: it is found, and read when asked
        qtbot.waitUntil(lambda: "answers again" in desk.view.card.said, timeout=10_000)
        assert len(desk.proof.answers) == held
        qtbot.keyClick(desk.view, Qt.Key.Key_Space)
        qtbot.waitUntil(lambda: len(desk.proof.answers) == held + 1 and not desk.busy, timeout=10_000)


def test_a_unit_of_a_build_is_logged_and_goes_on(
    qtbot: Any, open_window: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "t.umber"
    put_demo(path, "tractor").close()
    window = open_window(path=path)
    press(window, "Alt+7")
    settled(qtbot, window)
    desk = window.desks["prove"]
    assert desk.kept is not None  # the newest build's first unit
    desk.hand.setText("Ines")
    for _ in range(3):
        qtbot.keyClick(desk.view, Qt.Key.Key_Space)
        settled(qtbot, window)
    qtbot.mouseClick(desk.bad, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    tests = [event for event in window.document.project.floor.events() if event.kind == "test"]
    assert [event.data["ok"] for event in tests] == [True, True, True, False]
    assert tests[0].data["by"] == "Ines"
    desk.back()
    settled(qtbot, window)
    desk.units.setCurrentIndex(3)
    desk.open_unit()
    settled(qtbot, window)
    desk.simulate()
    qtbot.keyClick(desk.view, Qt.Key.Key_Space)
    settled(qtbot, window)
    desk.units.setCurrentIndex(4)  # another unit, a real one: what was simulated is over
    desk.open_unit()
    settled(qtbot, window)
    desk.units.setCurrentIndex(3)
    desk.open_unit()
    settled(qtbot, window)
    qtbot.keyClick(desk.view, Qt.Key.Key_Space)
    settled(qtbot, window)
    sources = [
        e.data.get("source", "") for e in window.document.project.floor.events() if e.kind == "test" and e.unit == 3
    ]
    assert sources == ["simulated", ""]  # each by where it came from
    for place in (2, 1):
        desk.units.setCurrentIndex(place)
        desk.open_unit()
        settled(qtbot, window)
    assert len(desk.proof.answers) == 3
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("R05 crimped anew", True))
    monkeypatch.setattr(
        QInputDialog, "getItem", lambda *a, **k: (next(name for name in a[3] if "bad joint" in name), True)
    )
    desk.mended()
    settled(qtbot, window)
    assert desk.proof.answers == []
    assert found_faults() == {"high": 1}, "the judge of the next proof knows that joints are what fails here"
    assert shares_of(found_faults())["high"] > shares_of({})["high"]
    log_said(window.document.project, "lot 1/1", "mended", {"says": "R06 too", "who": "Jo"})  # by another station
    press(window, "Alt+8")
    press(window, "Alt+7")
    settled(qtbot, window)
    assert not desk.kept.moved_on()
    desk.units.setCurrentIndex(0)
    desk.open_unit()
    settled(qtbot, window)
    desk.mended()
    assert "trial" in desk.view.card.said  # type: ignore[union-attr]


@pytest.mark.parametrize(("kind", "name"), [("fault", "barge"), ("lug", "tractor"), ("powered", "tractor")])
def test_a_drill_is_done_on_the_faces_and_the_needle_moves(
    qtbot: Any, open_window: Opened, kind: str, name: str
) -> None:
    """No word is typed: two places chosen, or a part of a lead, then what it is out of a list."""
    window, desk = proving(qtbot, open_window, name)
    desk.tab(4)
    drills = desk.drills
    drills.kind.setCurrentIndex(drills.kind.findData(kind))
    drills.start()
    qtbot.waitUntil(lambda: drills.drill is not None and not drills.worker.busy, timeout=60_000)
    settled(qtbot, window)
    needle = drills.bench.needle
    if kind == "lug":
        drills.parts.setCurrentIndex(0)
        drills.parts.activated.emit(0)
        truth = drills.drill.fault.fault
        answer = f"say {truth.what} {truth.where[0]}@{truth.end}"
    else:
        ends = [drills.bench.red.ends.currentData(), drills.bench.black.ends.currentData()]
        for end in ends:
            window.pick("ends", end)  # on the trunk: the first for the red lead, the next for the black
        assert [side.ends.currentData() for side in (drills.bench.red, drills.bench.black)] == ends
        for side in (drills.bench.red, drills.bench.black):
            side.pick(list(side.labels)[-1])
        found = drills.drill.powered
        answer = (
            f"say {found.truth.kind} {found.truth.where}"
            if found
            else f"say {drills.drill.fault.fault.what} {','.join(drills.drill.fault.fault.where)}"
        )
    settled(qtbot, window)
    assert needle.share is not None
    assert "sound: " in needle.words
    assert answer in [drills.choices.itemData(n) for n in range(drills.choices.count())]
    drills.choices.setCurrentIndex(drills.choices.findData(answer))
    drills.say.click()
    assert "✓ Right" in drills.words.toPlainText()
    assert drills.drill.right


def test_millivolts_are_asked_for_and_drawn_where_the_tips_go(qtbot: Any, open_window: Opened) -> None:
    window, desk = proving(qtbot, open_window, "shore")
    desk.hidden.setText("stud:B1@battery:0.002")
    desk.simulate()
    desk.safe.setChecked(True)
    task = on(qtbot, window, desk, lambda task: task.kind == "millivolt")
    card = desk.view.card
    assert [place.spot for place in card.places] == ["stud", "tongue"]
    assert (card.unit, task.probe.amps) == ("mV", 20.0)
    assert task.low <= task.expect <= task.high
    say(qtbot, window, desk, "41 mV")  # at 20 A: 2 mΩ more than the 0.1 planned
    assert not desk.proof.answers[-1].ok
    assert desk.proof.prover.taken[-1].ohm == pytest.approx(41e-3 / 20)
    assert on(qtbot, window, desk) is None
    assert "undo, clean and tighten B1 at winch battery" in desk.view.card.suspects[0][2]


def test_list_loops_cores_and_drills(
    qtbot: Any, open_window: Opened, monkeypatch: pytest.MonkeyPatch, boxes: list[str]
) -> None:
    window, desk = proving(qtbot, open_window, "loops")
    desk.simulate()
    on(qtbot, window, desk, lambda task: task.kind == "continuity")
    assert desk.reveal("tests", "5")
    assert "group tests" in desk.list.counts.text()
    model = desk.list.rows.rows_model
    assert model.rowCount() == len(desk.proof.plan.tests)  # type: ignore[union-attr]
    assert model.index(0, 5).data() == "right"
    assert desk.reveal("loops", "AT-103")
    assert "V" in desk.loops.loops.rows_model.index(0, 1).data()
    desk.loops.take()
    desk.loops.pairs.choose("M1a")
    answers = iter([("Mara: core open", True)])
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("pair 8", True))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: next(answers))
    desk.loops.take()
    settled(qtbot, window)
    assert next(wire for wire in window.document.design.wires if wire.id == "M1a").pair == "8"
    desk.loops.pairs.choose("M2a")
    desk.loops.take()  # no spare is left
    desk.tab(3)
    desk.cores.cores.setValue(3)
    desk.cores.plan()
    assert "2 walks" in desk.cores.words.toPlainText()
    for text in ("1-9", "1-3", "1-2"):
        desk.cores.found.setText(text)
        desk.cores.enter()
    assert "near 1 is far 2" in desk.cores.words.toPlainText()
    desk.tab(4)
    desk.drills.kind.setCurrentIndex(desk.drills.kind.findData("face"))
    desk.drills.start()
    settled(qtbot, window)
    assert desk.drills.face.isVisible()
    assert not any(spot.wires for spot in desk.drills.face.face.spots)  # type: ignore[union-attr]
    desk.drills.face.wants.emit(desk.drills.drill.face.label)
    assert "✓ Right" in desk.drills.words.toPlainText()


def test_places_are_lit_from_the_side_the_probe_comes_from(qtbot: Any, open_window: Opened) -> None:
    _, desk = proving(qtbot, open_window, "barge")
    net = desk.proof.net
    plug = place_of(net, ("wash", "+"))
    assert plug.face.side == "mating"
    assert "never a tip" in plug.how
    clamp = place_of(net, ("box", "F3"))
    assert clamp.face.side == "wire"
    assert "stud" in place_of(net, ("bar", "1")).how
    assert place_of(net, EARTH).name == "earth"
    card = card_of(desk.proof, None)
    assert card.verb == "Look"


def test_a_terminal_is_found_by_cabinet_block_row_and_column(qtbot: Any, open_window: Opened) -> None:
    _, desk = proving(qtbot, open_window, "loops")
    assert place_of(desk.proof.net, ("tb1", "B3")).found == "brine cabinet, block TB1, row B, column 3"


@pytest.mark.parametrize(
    ("width", "height", "scale"), [(640, 330, 1.0), (520, 280, 1.0), (640, 330, 1.4), (900, 420, 1.0)]
)
def test_nothing_of_a_card_lies_over_another(
    qtbot: Any, open_window: Opened, width: int, height: int, scale: float, qapp: Any
) -> None:
    theme.apply_theme(qapp, scale)
    view = ProbeView()
    qtbot.addWidget(view)
    view.resize(width, height)
    place = Place("junction box at the tanks", "A3", None, "cabinet, block JB1, row A, column 3", MATING)
    suspects = tuple(
        (
            f"W{n} is open: its contact at fuse box F{n} is not crimped through",
            0.5 / n,
            "can’t be told from: a high joint",
        )
        for n in range(1, 5)
    )
    view.show_card(
        ProbeCard(
            "Through",
            "W08: fuse box F3 to wash pump 1.",
            "A data lead’s screen lands at both ends.",
            "",
            "Ω",
            0.068,
            0.06,
            0.076,
            ("71.2 mΩ", True),
            None,
            (place, place),
            3,
            90,
            "about 9 min left",
            suspects,
            "out of its band",
            True,
        )
    )
    picture = QPixmap(view.size())
    view.render(picture)
    assert view.whole_words  # a caution that is cut is none
    rects = list(view.drawn.items())
    room = QRectF(view.rect()).adjusted(-1, -1, 1, 1)
    for number, (name, rect) in enumerate(rects):
        assert room.contains(rect), name
        for other, there in rects[number + 1 :]:
            assert rect.intersected(there).height() <= 1 or rect.intersected(there).width() <= 1, (name, other)
    assert QFontMetricsF(theme.font(9)).height() > 0
    theme.apply_theme(qapp, 1.0)
    assert shown_value(None, "Ω") == ""


def test_the_redline_says_states_in_words(qtbot: Any, open_window: Opened) -> None:
    window, _ = proving(qtbot, open_window)
    states = {"T1": "failed", "T2": "tested", "T3": "in", "C1": "tested", "C2": "tested", "C3": "tested"}
    story = tell(
        "app.trunk.story:keep_story", window.document.design, window.document.now, None, Redline(states, ("plug",))
    )
    assert story.leaves["plug"].text == "probe here"
    assert story.leaves["lamps"].text == "✕ failed"
    assert story.leaves["coupler"].text == "tested ✓"
    assert "1 ✕" in {limb.text for limb in story.limbs.values()}
    assert tell("app.trunk.story:keep_story", window.document.design, window.document.now).limbs


def test_what_is_left_and_which_is_which_are_pictures(qtbot: Any, open_window: Opened) -> None:
    """Every test lies on its nets; a reading out of its band crosses one cell; a cell lights its wires. Of eight cores
    a call halves what each may be, and the lines drawn at the end are the truth."""
    window = open_window(demo("tractor"))
    window.show_stage("prove")
    settled(qtbot, window)
    desk = window.desks["prove"]
    desk.tab(1)
    field = desk.list.left.field
    numbers = {n for cell in (*field.cells.values(), *field.others.values()) for n in cell.numbers}
    assert numbers == {test.n for test in desk.proof.plan.tests}
    assert {cell.state for cell in field.cells.values()} == {"left"}
    test = next(one for one in desk.proof.plan.tests if one.kind == "continuity")
    net = desk.proof.net
    desk.list.left.grab()
    box, key, _ = next(hit for hit in desk.list.left.hits if test.n in hit[2].numbers)
    assert net.wire_net(key[0]) == net.wire_net(test.wires[0])
    qtbot.mouseClick(desk.list.left, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    wire = next(one for one in window.document.design.wires if one.id == test.wires[0])
    assert ("ends", wire.start.end) in window.trunk.selected
    qtbot.keyClick(desk.list.left, Qt.Key.Key_Right)
    assert desk.list.left.current != key
    desk.tab(0)
    desk.simulate()
    settled(qtbot, window)
    desk.not_right()
    desk.tab(1)

    def crossed() -> int:
        field = desk.list.left.field
        return sum(cell.wrong for cell in (*field.cells.values(), *field.others.values()))

    qtbot.waitUntil(lambda: crossed() == 1)
    desk.tab(3)
    panel, truth = desk.cores, {1: 5, 2: 3, 3: 8, 4: 1, 5: 7, 6: 2, 7: 6, 8: 4}
    panel.way.setCurrentIndex(panel.way.findData("partner"))
    panel.plan()
    opened = []
    for digit in range(3):
        panel.view.grab()
        opened.append(panel.view.lines["open"])
        panel.found.setText(" ".join(str(near) for near, far in truth.items() if far - 1 >> digit & 1))
        panel.enter()
    panel.view.grab()
    assert opened == [0, 32, 16]
    assert dict(panel.view.seen.names) == truth
    assert panel.view.lines == {"joined": 0, "open": 0, "found": 8}
    panel.way.setCurrentIndex(panel.way.findData("alone"))
    panel.plan()
    panel.view.grab()
    assert panel.view.lines["joined"] == 3  # 2–3, 4–5, 6–7


class TestKeep:
    """Units as they were built."""

    @pytest.fixture
    def keep(self, qtbot: Any, open_window: Opened, tmp_path: Path) -> tuple[Window, KeepDesk]:
        path = tmp_path / "t.umber"
        put_demo(path, "tractor").close()
        window = open_window(path=path)
        press(window, "Alt+8")
        settled(qtbot, window)
        desk = window.desks["keep"]
        assert isinstance(desk, KeepDesk)
        return window, desk

    def test_units_are_found_by_words(self, qtbot: Any, keep: tuple[Window, KeepDesk]) -> None:
        window, desk = keep
        assert desk.rows.rows_model.rowCount() == 6
        type_in(qtbot, desk.words, "coil C99")
        settled(qtbot, window)
        assert desk.rows.rows_model.rowCount() == 0
        assert desk.text.toPlainText() == "No unit fits these words: coil C99"
        desk.words.clear()
        type_in(qtbot, desk.words, "hand Mar")  # as it is typed
        settled(qtbot, window)
        assert desk.rows.rows_model.rowCount() == 6
        assert desk.reveal("units", "lot 1/3")
        assert "lot 1 / 3" in desk.title.text()
        desk.verify()
        assert "as it was written" in desk.log.text()

    def test_every_page_of_a_unit(self, qtbot: Any, keep: tuple[Window, KeepDesk]) -> None:
        window, desk = keep
        texts = []
        for page in range(desk.page.count()):
            desk.page.setCurrentIndex(page)
            qtbot.waitUntil(lambda: not desk.busy, timeout=20_000)
            settled(qtbot, window)
            texts.append(desk.text.toPlainText())
        assert "Coils" in texts[0]
        assert "Not tested yet" in texts[1]
        assert "remakes" in texts[2].lower()
        assert "no other revision" in texts[4]

    def test_a_unit_is_a_page_to_look_at(self, qtbot: Any, keep: tuple[Window, KeepDesk]) -> None:
        """Its readings lie where their figures say, on the trunk too; a coil lights what came from it in every unit;
        arrows go through the lot."""
        assert [
            in_band(*row)
            for row in (
                (1.4, 1.35, 1.45),
                (1.0, None, 2.0),
                (100.0, 50.0, None),
                (0.5, 1.0, 2.0),
                (9.0, 1.0, 2.0),
                (None, 1.0, 2.0),
                (1.0, None, None),
            )
        ] == [pytest.approx(0.5), 0.5, 0.5, -0.5, FAR, None, None]
        window, desk = keep
        view = desk.view
        view.grab()
        record = desk.record
        heights = [read for event, read in record.readings if not read.sample and read.what == "height"]
        spots = [hit for hit in view.hits if hit[1] == "spot"]
        assert len(spots) == len(heights) > 5
        story = tell(
            "app.trunk.story:keep_story", window.document.design, window.document.results, None, window.document.redline
        )
        assert sum("in limits" in leaf.text for leaf in story.leaves.values()) > 5
        coil = next(one for one in record.coils if len([r for r in desk.rows.rows_model.rows if one in r.coils]) > 1)
        desk.light(coil)
        assert [small.lit for small in view.lot] == [len(r.coils.get(coil, ())) for r in desk.rows.rows_model.rows]
        lit = {
            end
            for wire in window.document.design.wires
            if wire.id in record.coils[coil]
            for end in (wire.start.end, wire.finish.end)
        }
        assert {("ends", end) for end in lit} <= window.trunk.selected
        qtbot.keyClick(view, Qt.Key.Key_Right)
        settled(qtbot, window)
        assert desk.record.unit == record.unit + 1
        assert view.here == f"{record.build}/{record.unit + 1}"
        qtbot.mouseClick(
            view,
            Qt.MouseButton.LeftButton,
            pos=next(hit[0] for hit in view.hits if hit[1] == "unit").center().toPoint(),
        )
        assert desk.record.unit == 1
        assert not desk.text.isVisible()
        desk.in_words.click()
        assert desk.text.isVisible()
        assert not view.isVisible()

    def test_what_is_said_of_a_unit(
        self, qtbot: Any, keep: tuple[Window, KeepDesk], monkeypatch: pytest.MonkeyPatch, tmp_path: Path
    ) -> None:
        window, desk = keep
        answers = iter(["T-7", "Mara: longer boot", "Jo: new lug", "Mara"])
        monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: (next(answers), True))
        desk.give_serial()
        settled(qtbot, window)
        assert desk.record.name == "T-7"
        desk.deviate()
        settled(qtbot, window)
        desk.mended()
        settled(qtbot, window)
        assert "longer boot, Mara" in desk.text.toPlainText()
        assert "new lug, Jo" in desk.text.toPlainText()
        wires = tuple(
            w.model_copy(update={"colour": "blue"}) if w.id == "R21" else w for w in window.document.design.wires
        )
        window.document.apply(lambda design: design.model_copy(update={"wires": wires}), "R21 blue")
        settled(qtbot, window)
        desk.page.setCurrentIndex(4)
        qtbot.waitUntil(lambda: not desk.busy, timeout=20_000)
        settled(qtbot, window)
        assert "R21: colour" in desk.text.toPlainText()
        desk.upgrade()
        settled(qtbot, window)
        assert any(one.state == "upgraded" for one in desk.rows.rows_model.rows)
        for ending, whole in (("pdf", True), ("json", False)):
            target = tmp_path / f"c.{ending}"
            monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, t=target, **k: (str(t), ""))
            desk.write(whole)
            settled(qtbot, window)
            assert target.stat().st_size > 500

    def test_a_harness_nobody_built_says_what_to_do(self, qtbot: Any, open_window: Opened) -> None:
        window = open_window(demo("shore"))
        press(window, "Alt+8")
        settled(qtbot, window)
        desk = window.desks["keep"]
        assert "begin a build" in desk.log.text()
        desk.give_serial()
        desk.write(False)


def test_a_pane_that_was_given_nothing_claims_nothing(qtbot: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """“No fuse guards this wire” of a wire nobody has worked out yet would be believed."""
    said: list[str] = []
    for place in (plot, tabs):
        monkeypatch.setattr(place, "invite", lambda painter, pane, text: said.append(text))
    for pane in (FaceView(), ChartView(), UnitView(), LeftView()):
        qtbot.addWidget(pane)
        pane.grab()
    assert said == ["Working it out …"] * 4
    for picture in (tabs.SectionPicture("section"), tabs.VoltsPicture("volts"), tabs.FusePictureView("fuse")):
        qtbot.addWidget(picture)
        picture.grab()
    assert said[4:] == ["Choose a wire: its picture stands here once it is worked out."] * 3
