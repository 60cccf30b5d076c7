"""A walk that reads rectangles: every desk and tab of every demo at several text sizes, windows, by day and by night.
What it finds wrong a builder would: things over one another, words cut off, a scroll bar beside an empty pane, a
picture in a corner, a part no key reaches or no reader names."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QTableView,
    QWidget,
)

from app.conftest import settled
from long_runs import LONG
from umber_trunk.app import theme
from umber_trunk.app.widgets.callout import Callout
from umber_trunk.app.widgets.readable import DrawnPane
from umber_trunk.app.window import Window
from umber_trunk.core.stages import STAGES
from umber_trunk.store.demo_file import put_demo

Opened = Callable[..., Window]
SIZES = ((1024, 700), (1280, 800), (1920, 1080))
DEMOS = ("barge", "shore", "computer", "loops", "tractor")
SETTINGS = (
    [(name, *one) for name in DEMOS for one in itertools.product((1.0, 1.4, 2.0), SIZES, (False, True))]
    if LONG
    else [("tractor", 1.0, SIZES[1], False), ("shore", 1.4, SIZES[0], True)]
)
OWN_ROOM = (
    QAbstractItemView,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QSplitter,
    QStackedWidget,
    QScrollArea,
    QAbstractButton,
    QLabel,
)
"""Whose children Qt places itself."""
FEW_ENDS = 5


def ours(widget: QWidget, method: str) -> bool:
    """Whether one of the program's own classes answers this itself."""
    return any(method in vars(kind) for kind in type(widget).__mro__ if kind.__module__.startswith("umber_trunk"))


def drawn(widget: QWidget) -> bool:
    """A pane that is painted, not put together of widgets."""
    return (
        ours(widget, "paintEvent")
        and not isinstance(widget, (*OWN_ROOM, Callout))
        and widget.width() > 200
        and widget.height() > 90
    )


def named(widget: QWidget) -> str:
    text = widget.text() if isinstance(widget, QLabel | QAbstractButton | QLineEdit) else ""
    return f"{type(widget).__name__} “{(widget.accessibleName() or text)[:50]}” {widget.geometry().getRect()}"


def over_one_another(window: QWidget) -> Iterator[str]:
    for parent in [window, *window.findChildren(QWidget)]:
        if not parent.isVisible() or isinstance(parent, OWN_ROOM) or parent.layout() is None:
            continue
        mine = [
            one
            for one in parent.children()
            if isinstance(one, QWidget) and one.isVisible() and not one.isWindow() and not isinstance(one, Callout)
        ]
        for a, b in itertools.combinations(mine, 2):
            shared = a.geometry().intersected(b.geometry())
            if shared.width() > 1 and shared.height() > 1:
                yield f"{named(a)} lies over {named(b)}"


def cut_off(window: QWidget) -> Iterator[str]:
    for one in window.findChildren(QWidget):
        if not one.isVisible():
            continue
        told = bool(one.toolTip())
        if isinstance(one, QLabel) and one.text() and not told:
            if one.wordWrap():
                short = one.heightForWidth(one.width()) > one.height() + 2
            else:
                short = one.fontMetrics().boundingRect(one.text()).width() > one.width() + 2
            if short:
                yield f"cut off: {named(one)}"
        elif isinstance(one, QPushButton) and one.text() and not told and ours(one, "paintEvent") is False:
            if one.fontMetrics().horizontalAdvance(one.text().replace("&", "")) > one.width():
                yield f"cut off: {named(one)}"
        elif isinstance(one, QTableView):
            header, model = one.horizontalHeader(), one.model()
            for column in range(model.columnCount()):
                text = str(model.headerData(column, Qt.Orientation.Horizontal) or "")
                tip = model.headerData(column, Qt.Orientation.Horizontal, Qt.ItemDataRole.ToolTipRole)
                if (
                    text
                    and not header.isSectionHidden(column)
                    and header.fontMetrics().horizontalAdvance(text) > header.sectionSize(column)
                    and not tip
                ):
                    yield f"head cut off: {text} in {named(one)}"


def scrolled(window: Window) -> Iterator[str]:
    """A desk that scrolls although there is room for all of it."""
    area = window.frames[window.desks[window.stage]]
    content = area.widget()
    layout = content.layout()
    least = max(
        content.minimumSizeHint().height(),
        layout.minimumHeightForWidth(area.viewport().width()) if layout.hasHeightForWidth() else 0,
    )
    if area.verticalScrollBar().maximum() and least <= area.viewport().height():
        yield f"scrolls with room: {named(content)}"


def blank(pane: QWidget) -> float:
    """Share of a pane outside of the smallest box round all that is drawn in it; one that keeps a scale fills its side
    alone."""
    pane.setProperty("invites", False)
    image = pane.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    pixels = np.frombuffer(image.constBits(), dtype=np.uint32).reshape(image.height(), image.bytesPerLine() // 4)[
        :, : image.width()
    ]
    inner = pixels[4:-4, 4:-4]
    values, counts = np.unique(inner, return_counts=True)
    ink = inner != values[counts.argmax()]
    if not ink.any():
        return 1.0
    rows, columns = np.flatnonzero(ink.any(axis=1)), np.flatnonzero(ink.any(axis=0))
    tall, wide = (rows[-1] - rows[0] + 1) / inner.shape[0], (columns[-1] - columns[0] + 1) / inner.shape[1]
    if pane.property("invites"):
        return 0.0
    return float(1.0 - (max(tall, wide) if getattr(pane, "to_scale", False) else tall * wide))


def unreached(window: QWidget) -> Iterator[str]:
    """What a pointer can do and no key, or what no reader names."""
    for one in window.findChildren(QWidget):
        if not one.isVisible() or not one.isEnabled() or isinstance(one, Callout):
            continue
        clicked = ours(one, "mousePressEvent") and not isinstance(one, QAbstractButton)
        if clicked and not (
            one.focusPolicy() & Qt.FocusPolicy.TabFocus
            and (ours(one, "keyPressEvent") or isinstance(one, QAbstractItemView))
        ):
            yield f"no key: {named(one)}"
        worked = isinstance(one, QPushButton | QComboBox | QLineEdit | QAbstractSpinBox) and not isinstance(
            one.parent(), QAbstractSpinBox | QComboBox
        )
        grouped = one.property("role") == "tab"  # arrow keys go from one to the next
        if worked and not grouped and not one.focusPolicy() & Qt.FocusPolicy.TabFocus:
            yield f"no key: {named(one)}"
        if isinstance(one, DrawnPane) and not all(name and not box.isNull() for box, name, _ in one.parts_told()):
            yield f"a part without a name: {named(one)}"
        if drawn(one) and not one.accessibleName():
            yield f"no name: {named(one)}"


def missed_by_tab(qtbot: Any, window: Window) -> Iterator[str]:
    """What no press of Tab comes to: each button, field, list and drawn pane of the desk, by keys alone."""
    desk = window.desks[window.stage]
    inner = (QAbstractSpinBox, QComboBox, QAbstractItemView)
    wanted = [
        one
        for one in desk.findChildren(QWidget)
        if one.isVisible()
        and one.isEnabled()
        and one.focusPolicy() & Qt.FocusPolicy.TabFocus
        and not isinstance(one.parent(), inner)
        and one.focusProxy() is None
        and not (isinstance(one, QPushButton) and one.property("role") == "tab")
    ]
    if not wanted:
        return
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    wanted[0].setFocus()
    reached: set[QWidget] = set()
    for _ in range(len(wanted) + 90):
        here = QApplication.focusWidget()
        if here is None:
            break
        while here is not None and here is not desk:
            reached.add(here)
            here = here.parentWidget()
        if all(one in reached for one in wanted):
            return
        qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
    for one in wanted:
        if one not in reached:
            yield f"no Tab comes to {named(one)}"


def wrong_on(window: Window) -> list[str]:
    for _ in range(6):  # rooms that others make room for are dealt out in turns of their own
        QApplication.processEvents()
    found = [*over_one_another(window), *cut_off(window), *scrolled(window), *unreached(window)]
    if len(window.document.design.ends) >= FEW_ENDS:
        found += [
            f"{100 * share:.0f} % empty: {named(one)}"
            for one in window.findChildren(QWidget)
            if one.isVisible() and drawn(one) and (share := blank(one)) > 0.5
        ]
    return found


@pytest.mark.parametrize(("name", "scale", "size", "dark"), SETTINGS)
@pytest.mark.share(2)
def test_every_desk_and_tab_has_room(
    qtbot: Any,
    qapp: QApplication,
    open_window: Opened,
    tmp_path: Any,
    name: str,
    scale: float,
    size: tuple[int, int],
    dark: bool,
) -> None:
    theme.apply_theme(qapp, scale, dark)
    try:
        path = tmp_path / f"{name}.umber"
        put_demo(path, name).close()
        window = open_window(path=path)
        window.resize(*size)
        settled(qtbot, window)
        wrong: dict[str, str] = {}
        for stage in STAGES:
            window.show_stage(stage.id)
            settled(qtbot, window)
            tabs = [
                one
                for one in window.desks[stage.id].findChildren(QPushButton)
                if one.property("role") == "tab" and one.isVisible()
            ]
            for tab in tabs or [None]:
                if tab is not None:
                    tab.click()
                    settled(qtbot, window)
                for said in [*wrong_on(window), *(missed_by_tab(qtbot, window) if scale == 1.0 and not dark else ())]:
                    wrong.setdefault(said, f"{stage.name}{' / ' + tab.text() if tab is not None else ''}")
        assert not wrong, "\n" + "\n".join(f"{where}: {said}" for said, where in wrong.items())
    finally:
        theme.apply_theme(qapp, 1.0, False)
