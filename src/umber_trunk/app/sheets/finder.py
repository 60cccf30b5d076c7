"""Find any wire, end, load or segment by typing part of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.desk import hint
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.model import Design, Wire
from umber_trunk.core.stages import STAGES

MOST = 60


@dataclass(frozen=True)
class Hit:
    """One part that can be found."""

    table: str
    part_id: str
    text: str

    @cached_property
    def _lowered(self) -> str:
        return self.text.lower()

    def rank(self, wanted: list[str]) -> int | None:
        """0 when a word starts as the first wanted one, 1 when it holds all of them, None when it doesn't fit."""
        lowered = self._lowered
        if not all(word in lowered for word in wanted):
            return None
        return 0 if lowered.startswith(wanted[0]) or f" {wanted[0]}" in lowered else 1


def hits_of(design: Design) -> list[Hit]:
    """Everything findable, in the order of the stages' tables, ends first."""
    ends = {end.id: end.name for end in design.ends}
    points = {point.id: point.name or point.id for point in design.points}

    def way(wire: Wire) -> str:
        return (
            f"{ends.get(wire.start.end, '?')} {wire.start.cavity} → {ends.get(wire.finish.end, '?')} "
            f"{wire.finish.cavity}"
        )

    told: dict[str, Callable[[Any], str]] = {
        "ends": lambda one: f"{one.name}   {one.kind}",
        "loads": lambda one: tr("{one}   at {ends}", one=one.name, ends=ends.get(one.plus.end, "?")),
        "wires": lambda one: f"{one.id}   {one.name}   {one.circuit}   {one.colour} {one.stripe}   {way(one)}",
        "segments": lambda one: tr(
            "{one}   {start} to {finish}",
            one=one.id,
            start=points.get(one.a, one.a),
            finish=points.get(one.b, one.b),
        ),
        "decisions": lambda one: tr(
            "{wire}   {now} in place of {was}   {who}", wire=one.wire, now=one.now, was=one.was, who=one.who
        ),
        "points": lambda one: f"{one.name}   {one.id}" if one.name else "",
    }
    tables = sorted((table for stage in STAGES for table in stage.tables), key=lambda table: table != "ends")
    found = []
    for table in tables:
        for one in getattr(design, table, ()):
            text = told.get(table, lambda part: f"{getattr(part, 'name', '')}   {part.id}")(one)
            if text:
                found.append(Hit(table, one.id, f"{table.removesuffix('s')}   {text}"))
    fuses = [(end, link) for end in design.ends for link in end.links]
    found += [
        Hit(
            "fuses",
            f"{end.id} {link.id}",
            tr("{kind}   {link}   in {end}", kind=link.kind, link=link.id, end=end.name),
        )
        for end, link in fuses
    ]
    return found


class Finder(QDialog):
    """Signals: found(table, id)."""

    found = Signal(str, str)

    def __init__(self, design: Design, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Find"))
        self.resize(640, 380)
        self.hits = hits_of(design)
        self.line = Line()
        self.line.setPlaceholderText(tr("wire, end, load, colour, circuit …"))
        self.line.setFont(theme.font(12))
        self.line.textChanged.connect(self._search)
        self.line.returnPressed.connect(self._go)
        self.line.installEventFilter(self)
        self.list = QListWidget()
        self.list.itemActivated.connect(lambda _: self._go())
        self.none = hint("")
        layout = QVBoxLayout(self)
        layout.addWidget(self.line)
        layout.addWidget(self.list)
        layout.addWidget(self.none)
        self._search("")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step:
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
        return super().eventFilter(watched, event)

    def _search(self, text: str) -> None:
        wanted = text.lower().split()
        ranked = [(hit.rank(wanted) if wanted else 0, at, hit) for at, hit in enumerate(self.hits)]
        fitting = sorted(((rank, at, hit) for rank, at, hit in ranked if rank is not None), key=lambda f: f[:2])
        self.list.clear()
        for _, _, hit in fitting[:MOST]:
            item = QListWidgetItem(hit.text)
            item.setData(Qt.ItemDataRole.UserRole, hit)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        left = len(fitting) - MOST
        self.none.setText(
            tr("Nothing is called “{text}” here.", text=text.strip())
            if not fitting
            else tr("and {left} more; type on", left=left)
            if left > 0
            else tr("⏎ goes there")
        )

    def _go(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            hit: Hit = item.data(Qt.ItemDataRole.UserRole)
            self.accept()
            self.found.emit(hit.table, hit.part_id)
