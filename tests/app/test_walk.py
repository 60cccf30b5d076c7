"""A walk through every desk, tab, sheet and the finder, on harnesses with little or nothing in them and after every
kind of event. Whatever breaks ends in `open_window`, which fails for any bug of the window."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from PySide6.QtWidgets import QApplication, QDialog, QPushButton

from app.conftest import settled
from conftest import design_of
from long_runs import LONG
from umber_trunk.app.window import Window
from umber_trunk.core.demo import demo
from umber_trunk.core.harness.model import TABLES, Design
from umber_trunk.core.stages import STAGES

Opened = Callable[..., Window]
SHEETS = ("Find…", "Revisions…", "Copies kept by day…", "Catalogue…", "Why is this so?", "Keys", "User guide", "About Umber Trunk", "Next thing open")  # fmt: skip
DEMOS = ("barge", "shore", "computer", "loops", "tractor")
"""With --long every demo loses its parts, kind after kind; else one does."""
ONE_WIRE = {
    "ends": [{"id": one, "name": one, "cavities": [{"id": "1"}]} for one in ("a", "b")],
    "wires": [{"id": "W1", "start": {"end": "a", "cavity": "1"}, "finish": {"end": "b", "cavity": "1"}}],
}


def walk(qtbot: Any, window: Window, larger: bool = LONG) -> None:
    """Every tab of every desk, painted; then every sheet, and the text made `larger` while desks are hidden."""
    settled(qtbot, window)
    for stage in STAGES:
        window.show_stage(stage.id)
        settled(qtbot, window)
        for tab in window.desks[stage.id].findChildren(QPushButton):
            if tab.property("role") == "tab" and tab.isVisible():
                tab.click()
                settled(qtbot, window)
        window.grab()
    for name in SHEETS:
        window.commands.by_name[name].trigger()
        for sheet in QApplication.topLevelWidgets():
            if isinstance(sheet, QDialog) and sheet.isVisible():
                sheet.grab()
                sheet.reject()
    if larger:
        window.commands.by_name["Larger text"].trigger()
    settled(qtbot, window)


def lost(kind: str, design: Design) -> Design:
    """The design without its parts of a kind."""
    return design.model_copy(update={kind: ()})


@pytest.mark.parametrize("name", ["", "one wire", *(DEMOS if LONG else ("barge",))])
@pytest.mark.share(3)
def test_every_desk_tab_and_sheet_opens(qtbot: Any, open_window: Opened, name: str) -> None:
    window = open_window(
        Design() if not name else Design.model_validate(ONE_WIRE) if name == "one wire" else demo(name)
    )
    walk(qtbot, window)


@pytest.mark.parametrize("name", DEMOS if LONG else ["loops"])
def test_a_demo_that_loses_its_parts_kind_after_kind(qtbot: Any, open_window: Opened, name: str) -> None:
    """One kind alone, taken back; then all of them one after another, desks that were made before hidden meanwhile."""
    window = open_window(demo(name))
    document = window.document
    walk(qtbot, window)
    for kind in TABLES:
        if getattr(document.design, kind):
            document.apply(lambda now, kind=kind: lost(kind, now), f"{kind} away")
            if LONG or kind == "wires":
                walk(qtbot, window, larger=kind == "wires")
                document.undo()
                settled(qtbot, window)
                document.redo()
    walk(qtbot, window)
    assert not document.design.wires
    while document.project.can_undo():
        document.undo()
    walk(qtbot, window)


def test_after_every_kind_of_event(qtbot: Any, open_window: Opened) -> None:
    window = open_window(design_of("supply 12 V at battery", "lamp 2 A at bow run 4 m"))
    window.show_stage("make")
    settled(qtbot, window)
    desk = window.desks["make"]
    for act in (
        lambda: window.document.project.freeze(window.document.project.head, "to build"),
        desk.begin_build,
        desk.forward,
        desk.backward,
        lambda: window.document.apply(lambda now: lost("wires", now), "gone"),
        window.document.undo,
    ):
        window.show_stage("make")
        settled(qtbot, window)
        act()
        walk(qtbot, window)
