"""What doesn't hold the window's thread, and what is gone when a window is: large pictures painted beside it, revisions
read beside it, files written beside it, desks made ahead; lines that hold what anybody types."""

from __future__ import annotations

import gc
import json
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QCoreApplication, QEvent, Qt
from PySide6.QtWidgets import QApplication, QLineEdit, QSpinBox

from umber_trunk.app.desks.needs.desk import MOST_SAID, NeedsDesk
from umber_trunk.app.document import Document
from umber_trunk.app.sharing import NEVER, Sharing
from umber_trunk.app.trunk.picture_shown import AT_ONCE
from umber_trunk.app.widgets.line import MOST, MOST_DIGITS
from umber_trunk.app.window import Window
from umber_trunk.core import plain
from umber_trunk.core.demo import demo
from umber_trunk.core.harness.edits import rename
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.make.events import event
from umber_trunk.core.sample import generated
from umber_trunk.core.stages import STAGES
from umber_trunk.store.builds import begin
from umber_trunk.store.floor import Floor
from umber_trunk.store.jsonfile import from_json, to_json
from umber_trunk.store.project import RECENT, ProjectFile
from umber_trunk_helpers import beside

DEMO = demo("shore")


def renamed(window: Window, name: str) -> None:
    load = window.document.design.loads[0].id
    assert window.document.apply(lambda design: rename(design, "loads", load, name), name)


def test_a_window_that_is_closed_is_gone_with_all_it_had(qtbot, open_window) -> None:
    def there(kind: type) -> int:
        return sum(type(one) is kind for one in gc.get_objects())

    window = open_window(DEMO)
    path = window.document.path
    for stage in STAGES:
        window.show_stage(stage.id)
    window.close()
    del window
    for _ in range(3):
        other = open_window(path=path)
        other.close()
        del other
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    QApplication.processEvents()
    gc.collect()
    assert (there(Window), there(Document)) == (0, 0)


def test_a_large_picture_is_painted_beside_the_window_and_can_be_worked(qtbot, open_window) -> None:
    design = generated(150)
    assert len(design.ends) + len(design.segments) > AT_ONCE
    window = open_window(design)
    canvas = window.trunk
    qtbot.waitUntil(lambda: not canvas.busy and bool(canvas.hits.tags), timeout=20_000)
    assert canvas.shown is not None
    assert canvas.shown.image is not None
    before = canvas.shown
    segment = design.segments[-1].id
    window.pick("segments", segment)
    canvas.repaint()
    assert canvas.busy
    assert canvas.shown is before  # what was shown stays until the other is there
    qtbot.waitUntil(lambda: not canvas.busy and canvas.shown is not before, timeout=20_000)
    assert canvas.shown.image != before.image
    (box, tag), *_ = [(box, tag) for box, tag in canvas.hits.tags if not tag.fold]
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    assert ("ends", tag.ends[0]) in canvas.selected or len(tag.ends) > 1
    window.document.apply(
        lambda design: design.model_copy(update={"ends": design.ends[:-1], "loads": (), "wires": ()}), "fewer"
    )
    gone = design.ends[-1].id
    for at in [box.center() for box, tag in canvas.hits.tags if gone in tag.ends]:
        assert canvas.under(at) is None  # painted still, gone already


def test_undo_goes_to_what_is_at_hand_at_once_and_reads_the_rest_beside(
    qtbot, open_window, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = open_window(DEMO)
    document = window.document
    for number in range(RECENT + 4):
        renamed(window, f"n{number}")
    read: list[int] = []
    real = document._read
    monkeypatch.setattr(document, "_read", lambda seq: (read.append(seq), real(seq)))
    for back in range(1, RECENT):
        document.undo()
        assert document.design.loads[0].name == f"n{RECENT + 3 - back}"
    assert not read
    for _ in range(5):  # five keys in a row: each is one step, whichever waits
        document.undo()
    qtbot.waitUntil(lambda: document.project.head == 1, timeout=20_000)
    assert read
    assert document.design == DEMO
    document.redo()
    qtbot.waitUntil(lambda: document.design.loads[0].name == "n0", timeout=20_000)
    document.undo()
    renamed(window, "other")  # an edit made while a revision is read stands
    qtbot.waitUntil(lambda: not document.ahead, timeout=20_000)
    assert document.design.loads[0].name == "other"


def test_files_asked_for_at_once_are_all_written(qtbot, open_window, tmp_path: Path) -> None:
    window = open_window(DEMO)
    kinds = {"json": "a.json", "wires-csv": "b.csv", "cuts-csv": "c.csv", "pdf": "d.pdf"}
    for kind, name in kinds.items():
        window.export_to(kind, tmp_path / name)
    qtbot.waitUntil(lambda: not window.writer.busy, timeout=30_000)
    assert all((tmp_path / name).stat().st_size > 100 for name in kinds.values())
    window.export_to("pdf", tmp_path / "last.pdf")
    window.close()  # a file that was asked for is there
    assert (tmp_path / "last.pdf").exists()


def test_desks_are_made_ahead_while_nothing_is_done(qtbot, open_window) -> None:
    window = open_window(DEMO)
    assert len(window.desks) == 1
    window.ahead.begin()
    qtbot.waitUntil(lambda: len(window.desks) == len(STAGES), timeout=30_000)
    assert window.stage == "needs"


def test_lines_hold_what_anybody_types(qtbot, open_window) -> None:
    window = open_window(DEMO)
    for stage in STAGES:
        window.show_stage(stage.id)
    window.show_stage("needs")
    desk = window.desks["needs"]
    assert isinstance(desk, NeedsDesk)
    desk.line.insert("winch 18A " * 100_000)
    assert len(desk.line.text()) == MOST
    assert "too long" in desk.understood.text()
    loads = len(window.document.design.loads)
    desk.enter_line()
    assert len(window.document.design.loads) == loads
    desk.line.setText("x" * MOST_SAID)
    assert "too long" not in desk.understood.text()
    for line in window.findChildren(QLineEdit):
        inside = isinstance(line.parent(), QSpinBox)
        assert line.maxLength() <= (MOST_DIGITS if inside else MOST), line.accessibleName()


def test_rubbish_is_looked_for_when_nobody_waits(qapp: QApplication, monkeypatch: pytest.MonkeyPatch) -> None:
    before = gc.get_threshold()
    try:
        sharing = Sharing(qapp)
        assert gc.get_threshold()[2] == NEVER
        looked: list[int] = []
        monkeypatch.setattr(gc, "collect", lambda: looked.append(1))
        monkeypatch.setattr(gc, "get_count", lambda: (0, 0, 10**6))
        sharing.look()
        assert not looked  # something was done just now
        sharing.touched -= 1000
        sharing.gone()
        sharing.look()
        assert looked
        sharing.timer.stop()
        sharing.deleteLater()
    finally:
        gc.unfreeze()
        gc.set_threshold(*before)


@given(
    st.recursive(
        st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(),
        lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner),
        max_leaves=30,
    ),
    st.integers(0, 3),
)
def test_a_text_read_in_pieces_is_what_the_library_reads(value: object, indent: int) -> None:
    text = json.dumps(value, indent=indent or None, ensure_ascii=bool(indent % 2))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(plain, "SHORT", 0)
        assert plain.loaded(text) == json.loads(text)
        assert plain.loaded(text.encode()) == json.loads(text)
        for broken in (text[:-1], text + "x", text.replace(":", ";"), f"[{text},]", "{1:2}", ""):
            assert told(plain.loaded, broken) == told(json.loads, broken)


def told(read: Callable[[str], object], text: str) -> object:
    """What is read of a text, or why it can't be."""
    try:
        return read(text)
    except ValueError as why:
        return str(why)


def test_a_design_made_part_by_part_is_the_one_made_whole() -> None:
    design = generated(150)
    again = from_json(to_json(design))
    assert again == design
    assert index_of(again).routes == index_of(design).routes


def test_a_log_looked_at_from_where_the_last_look_ended_says_what_a_look_at_all_says(tmp_path: Path) -> None:
    with ProjectFile.create(tmp_path / "a.umber", DEMO, copied=False) as project:
        begin(project, "one", [1]).close()
        floor = project.floor
        for number in range(5):
            floor.append_with(
                [
                    event(
                        f"e{number}",
                        "one",
                        1_795_000_000_000 + number,
                        "note",
                        1,
                        "",
                        {"says": f"word{number}", "who": "Jo"},
                    )
                ],
                (),
                "sitting" if number % 2 else "",
            )
            whole = Floor(beside(project), project.path, "", project.id).trust()
            assert floor.trust() == whole
            assert not whole.wrong
        beside(project).execute(
            "UPDATE log SET made = made + 1 WHERE n = 2"
        )  # past the guard: everything is looked at again
        assert "entry 2" in str(floor.trust().wrong)
