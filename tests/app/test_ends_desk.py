"""The Ends desk in a real window: choose, type, move, take, repair; a finding jumps to its cavity."""

from __future__ import annotations

import json
import re
import zlib
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QInputDialog

from demos import worked_out
from umber_trunk.app.desks.ends.desk import EndsDesk
from umber_trunk.app.sheets.catalogue import CatalogueSheet
from umber_trunk.app.window import Window
from umber_trunk.core.catalog.shelf import generic
from umber_trunk.core.demo import demo
from umber_trunk.core.ends.faces import faces_in
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.harness.edits import change, put
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.stages import exports
from umber_trunk_helpers import cell, press, type_in

from .conftest import settled


def ends(qtbot, open_window, design: Design) -> tuple[Window, EndsDesk]:
    window = open_window(design)
    press(window, "Alt+4")
    settled(qtbot, window)
    desk = window.desks["ends"]
    assert isinstance(desk, EndsDesk)
    return window, desk


def at(window: Window, end: str, label: str) -> str:
    return next(
        (one.wire.id for one in places_of(window.document.design).ends if one.end.id == end and one.label == label), ""
    )


def test_a_finding_jumps_to_its_cavity(qtbot, open_window) -> None:
    window, desk = ends(qtbot, open_window, demo("shore"))
    assert window.rail.open["ends"] == (3, 0)
    finding = next(f for f in window.document.results.findings if f.code == "fit.cavity.role" and "D3" in f.subject)
    assert desk.reveal(finding.table, finding.subject)
    assert desk.end.currentData() == "probe"
    assert desk.face.current == "4"
    assert set(desk.face.wrong) == {"2", "4"}
    assert "data high" in desk.cure.text()
    assert desk.ask_why()


def test_the_face_by_keys_and_by_mouse(qtbot, open_window) -> None:
    window, desk = ends(qtbot, open_window, demo("barge"))
    desk.reveal("ends", "j1")
    desk.face.setFocus()
    desk.face.repaint()
    qtbot.keyClicks(desk.face, "1")
    assert desk.face.current == "1"
    qtbot.keyClicks(desk.face, "1")  # the second figure of 11
    assert desk.face.current == "11"
    qtbot.keyClick(desk.face, Qt.Key.Key_Left)
    assert desk.face.current == "12"
    left = desk.face.place_of("12").center().x()
    assert left < desk.face.place_of("11").center().x()
    qtbot.keyClick(desk.face, Qt.Key.Key_Space)
    desk.face.repaint()
    assert "mating side" in desk.face.face.words  # type: ignore[union-attr]
    assert desk.face.place_of("12").center().x() > desk.face.place_of("11").center().x()
    middle = desk.face.place_of("20").center()
    qtbot.mouseClick(desk.face, Qt.MouseButton.LeftButton, pos=QPoint(int(middle.x()), int(middle.y())))
    assert desk.face.current == "20"
    assert desk.pins.chosen_id().startswith(at(window, "j1", "20"))


def test_wires_are_moved_swapped_and_filled(qtbot, open_window, monkeypatch: pytest.MonkeyPatch) -> None:
    window, desk = ends(qtbot, open_window, demo("barge"))
    desk.reveal("ends", "valves")
    first, second = at(window, "valves", "1"), at(window, "valves", "2")
    side = next(
        one.side for one in places_of(window.document.design).ends if one.wire.id == first and one.end.id == "valves"
    )
    assert desk.pins.choose(f"{first} {side}")
    model = desk.pins.model()
    model.setData(model.index(desk.pins.currentIndex().row(), 0), "2")
    settled(qtbot, window)
    assert (at(window, "valves", "1"), at(window, "valves", "2")) == (second, first)
    model.setData(model.index(desk.pins.currentIndex().row(), 0), "77")
    assert at(window, "valves", "2") == first  # refused, nothing lost
    press(window, "Ctrl+Z")
    settled(qtbot, window)
    desk.pins.selectAll()
    desk.swap_chosen()
    assert at(window, "valves", "1") == first  # eight are not two
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("1", True))
    desk.fill_chosen()
    settled(qtbot, window)
    assert sorted(one.label for one in places_of(window.document.design).ends if one.end.id == "valves") == [
        str(n) for n in range(1, 9)
    ]


def test_proposals_are_taken_and_locked(qtbot, open_window) -> None:
    window, desk = ends(qtbot, open_window, demo("barge"))
    desk.reveal("ends", "bilge")
    assert "?" in cell(desk.pins, "Part", 0)
    desk.take()
    settled(qtbot, window)
    assert "?" not in cell(desk.pins, "Part", 0)
    wire = window.document.design.wires[9]
    assert wire.at_finish.part in {part.id for part in window.document.design.parts}
    desk.lock_chosen()
    settled(qtbot, window)
    assert any(
        (w.at_start and w.at_start.locked) or (w.at_finish and w.at_finish.locked) for w in window.document.design.wires
    )


def test_another_housing(qtbot, open_window) -> None:
    window, desk = ends(qtbot, open_window, demo("barge"))
    desk.reveal("ends", "belt")
    desk.housing.setCurrentIndex(desk.housing.findData("whelk-8-plug"))
    desk.housing.activated.emit(desk.housing.currentIndex())
    settled(qtbot, window)
    assert desk.face.face.part == "whelk-8-plug"
    assert sum(spot.plugged for spot in desk.face.face.spots) == 5


def test_the_language_is_spoken_at_ends_and_sizes_too(qtbot, open_window) -> None:
    window, desk = ends(qtbot, open_window, demo("tractor"))
    type_in(qtbot, desk.telling.line, "housing Cockle 2-way M, plu")
    qtbot.keyClick(desk.telling.line, Qt.Key.Key_Tab)
    assert desk.telling.line.text() == "housing Cockle 2-way M, plug on "
    type_in(qtbot, desk.telling.line, "housing Cockle 2-way M, plug on nobody")
    qtbot.keyClick(desk.telling.line, Qt.Key.Key_Return)
    assert desk.telling.line.text()  # it stays, to be mended
    window.show_stage("sizes")
    line = window.desks["sizes"].telling.line
    wire = window.document.design.wires[0].id
    type_in(qtbot, line, f"size 70 mm2 on {wire}")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    settled(qtbot, window)
    assert index_of(window.document.design).wires[wire].size == "70 mm2"
    type_in(qtbot, line, "pump 4 A at nowhere run 2 m")  # all of the language, whichever desk
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert window.document.design.loads[-1].name == "pump"
    assert line.text() == ""


def test_practice_repair_and_halves(qtbot, open_window) -> None:
    window, desk = ends(qtbot, open_window, demo("shore"))
    desk.reveal("ends", "tractor")
    model = desk.schools.model()
    model.setData(model.index(0, 1), "2")
    settled(qtbot, window)
    assert window.document.design.project.practice.solder == "flow"
    model.setData(model.index(0, 1), "9")
    assert window.document.design.project.practice.solder == "flow"
    desk.tab(5)
    looks = desk.repair.looks.model()
    looks.setData(looks.index(0, 0), "replace")
    settled(qtbot, window)
    assert "Replace the housing" in desk.repair.verdict.text()
    type_in(qtbot, desk.repair.left, "60 mm")
    qtbot.keyClick(desk.repair.left, Qt.Key.Key_Return)
    settled(qtbot, window)
    assert "more tries" in desk.repair.verdict.text()
    old = desk.repair.map.model()
    old.setData(old.index(0, 1), "brake")
    settled(qtbot, window)
    assert "brake" in window.document.design.model_dump_json(include={"ends"})
    type_in(qtbot, desk.repair.lead, "12 V 2 A centre +")
    type_in(qtbot, desk.repair.device, "12 V 1.5 A centre -")
    assert desk.repair.suits.text().startswith("No")
    desk.tab(3)  # filled as it comes into sight
    desk.reveal("ends", "probe")
    assert desk.halves.told.text() == "2 not straight through"
    desk.halves.other.setCurrentIndex(0)
    assert desk.halves.face.face.form == "plug"
    edit = lambda now: put(now, "ends", change(index_of(now).ends["probe"], mates="tractor"))  # noqa: E731
    window.document.apply(edit, "what it plugs into, though no wire joins them")
    settled(qtbot, window)
    desk.reveal("ends", "tractor")
    desk.reveal("ends", "probe")
    assert desk.halves.other.currentData() == "tractor"


def test_studs_show_their_stack(qtbot, open_window) -> None:
    _, desk = ends(qtbot, open_window, demo("barge"))
    desk.reveal("ends", "bow")
    desk.face.repaint()
    lugs = [lug.text for stack in desk.face.stacks.values() for lug in stack]
    assert lugs[0].startswith("W03")  # the trunk's return carries the most
    assert desk.strip.strip is not None


def test_pin_maps_on_paper_are_to_scale() -> None:
    """Read from the PDF's own drawing: its matrices make 72/25.4 points of a millimetre, and the outline of the
    seven-way plug drawn under them is as wide as its sheet says."""
    results = worked_out("shore")
    data = exports()["faces"].bytes_of(results)
    stream = next(
        text
        for found in re.finditer(rb"stream\r?\n(.*?)endstream", data, re.DOTALL)
        if b" cm\n" in (text := _inflated(found[1])) and b" c\n" in text
    ).decode("latin1")
    scales = [abs(float(row.split()[0])) for row in stream.splitlines() if row.endswith(" cm")]
    assert scales[0] * scales[1] == pytest.approx(72 / 25.4, rel=1e-3)
    widths, path = set(), list[float]()
    for row in stream.splitlines():
        words = row.split()
        if row.endswith(" m"):
            path = [float(words[0])]
        elif row.endswith(" c"):
            path.append(float(words[4]))
        elif path and len(path) == 5:
            widths.add(round(max(path) - min(path), 2))
    face = faces_in(results, "tractor", "wire")[0]
    assert face.width_mm == 42
    assert any(abs(width - face.width_mm) <= 0.05 for width in widths)


def _inflated(data: bytes) -> bytes:
    try:
        return zlib.decompress(data)
    except zlib.error:
        return b""


def test_the_catalogue_sheet(qtbot, open_window, tmp_path: Path) -> None:
    window = open_window(demo("barge"))
    sheet = CatalogueSheet(window.document, window, tmp_path / "own.json")
    qtbot.addWidget(sheet)
    sheet.search.setText("cockle-seal-m")
    assert sheet.model.rowCount() == 3
    sheet.search.setText("")
    sheet.kind.setCurrentIndex(sheet.kind.findData("lug"))
    assert {part.kind for part in sheet.model.parts} == {"lug"}
    sheet.start_new()
    sheet.keep()
    assert "id" in sheet.said.text()
    assert not (tmp_path / "own.json").exists()
    sheet.set_field("id", "my-lug")
    sheet.set_field("name", "My lug")
    sheet.set_field("area_mm2", "10 to sixteen")
    sheet.keep()
    assert "area_mm2" in sheet.said.text()
    assert "not a range" in sheet.said.text()
    sheet.set_field("area_mm2", "10-16")
    sheet.keep()
    assert "Kept" in sheet.said.text()
    assert window.document.shelf.named("my-lug") is not None
    assert generic().named("my-lug") is None
    bad = tmp_path / "bad.json"
    bad.write_text(json.dumps([{"kind": "lug", "id": "x"}]))
    sheet.take_over(bad)
    assert "nothing was taken over" in sheet.said.text()
    assert "row 1" in sheet.said.text()


def test_what_is_said_of_a_place(qtbot, open_window) -> None:
    window, desk = ends(qtbot, open_window, demo("shore"))

    def say(fact: str, text: str) -> None:
        rows = [row.id for row in desk.place.facts.rows_model.rows]
        model = desk.place.facts.model()
        model.setData(model.index(rows.index(fact), 1), text)
        settled(qtbot, window)

    def end(name: str) -> End:
        return next(one for one in window.document.design.ends if one.id == name)

    desk.reveal("ends", "winch")
    say("stud", "10 mm")
    assert end("winch").stud_mm == 10.0
    assert not [f for f in window.document.results.findings if f.code == "fit.stud.hole" and "B1" in f.subject]
    say("stud", "1,2,3")
    say("mates", "nobody")
    assert (end("winch").stud_mm, end("winch").mates) == (10.0, None)
    say("clock", "45")
    say("boot", "Sheath battery boot, 7.5 to 12 mm")
    wire = next(w for w in window.document.design.wires if w.id == "B1")
    assert (wire.at_finish.clock_deg, wire.at_finish.boot) == (45.0, "sheath-boot-12")
    assert "sheath-boot-12" in {part.id for part in window.document.design.parts}
    say("boot", "")
    desk.reveal("ends", "plug")
    say("other A", "heron-3-plug")
    assert "fit.mate.form" in {f.code for f in window.document.results.findings}
    say("cable", "Heron rubber cord A, 3 × 2.5 mm²")
    assert next(c for c in window.document.design.cables if c.id == "cord").part == "heron-cord-a-2.5"
    say("room", "12 mm")
    assert "fit.bend.room" in {f.code for f in window.document.results.findings}


def test_a_scanned_wire_is_gone_to_from_the_face(qtbot, open_window) -> None:
    """A letter that begins no label is for the window, and all that follows it."""
    window, desk = ends(qtbot, open_window, demo("barge"))
    desk.reveal("ends", "j1")
    desk.face.setFocus()
    qtbot.keyClicks(desk.face, "1")
    assert desk.face.current == "1"
    qtbot.keyClicks(desk.face, "W12")
    assert window.typed.text == "W12"
    assert desk.face.current == "1"
    qtbot.keyClick(desk.face, Qt.Key.Key_Return)
    assert window.typed.text == ""
    assert window.trunk.selected
    assert at(window, "j1", "1") == "W28"  # and nothing was moved
