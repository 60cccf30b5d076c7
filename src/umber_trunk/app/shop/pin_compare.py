"""Two devices side by side, pin by pin: what differs stands out by a mark, a word and a hue."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.shop.shop_look import ShopLook
from umber_trunk.app.widgets.desk import heading, hint, row
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.core.harness.device import Device, DevicePin
from umber_trunk.core.shop.devices import compared


class PinCompare(QWidget):
    """Chooses two of the shop's devices and shows them pin by pin."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.devices: tuple[Device, ...] = ()
        self.first, self.second = QComboBox(), QComboBox()
        self.first.setAccessibleName("First device")
        self.second.setAccessibleName("Second device")
        self.answer = Label()
        self.answer.setWordWrap(True)
        self.facts = hint("")
        self.table = QTableWidget(0, 5)
        self.table.setAccessibleName("Pins of both devices")
        self.table.setHorizontalHeaderLabels(["", "Pin", "First", "Second", "What differs"])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        header = self.table.horizontalHeader()
        for column in range(5):
            how = QHeaderView.ResizeMode.Stretch if column in (2, 3, 4) else QHeaderView.ResizeMode.ResizeToContents
            header.setSectionResizeMode(column, how)
        layout = QVBoxLayout(self)
        layout.addLayout(row(heading("Compare"), self.first, heading("with"), self.second, None))
        layout.addWidget(self.answer)
        layout.addWidget(self.facts)
        layout.addWidget(self.table, 1)
        for box in (self.first, self.second):
            box.currentIndexChanged.connect(lambda _: self.compare())

    def show_look(self, shown: ShopLook) -> None:
        """The devices there are now; those that were chosen stay so."""
        before = self.first.currentData(), self.second.currentData()
        self.devices = shown.shop.devices
        for number, (box, was) in enumerate(zip((self.first, self.second), before, strict=True)):
            box.blockSignals(True)
            box.clear()
            for device in self.devices:
                box.addItem(device.name or device.id, device.id)
            at = box.findData(was)
            box.setCurrentIndex(at if at >= 0 else min(number, box.count() - 1))
            box.blockSignals(False)
        self.compare()

    def compare(self) -> None:
        """The two that are chosen, pin by pin."""
        known = {device.id: device for device in self.devices}
        one, other = known.get(self.first.currentData()), known.get(self.second.currentData())
        if one is None or other is None:
            self.answer.setText("No device is known yet: umber devices take or import brings one in.")
            self.table.setRowCount(0)
            return
        found = compared(one, other)
        self.answer.setText(f"{found.words[0].upper()}{found.words[1:]}.")
        self.facts.setText("   ".join(_facts(device) for device in (one, other)))
        differs = {(row.connector, row.label): row for row in found.rows}
        rows = [key for key in differs if not key[1]]
        pins = {
            (connector.id, pin.label): pin
            for device in (other, one)
            for connector in device.connectors
            for pin in connector.pins
        }
        theirs = {(c.id, pin.label): pin for c in other.connectors for pin in c.pins}
        mine = {(c.id, pin.label): pin for c in one.connectors for pin in c.pins}
        keys = [*rows, *sorted(pins, key=lambda key: (key not in differs or differs[key].open, key not in differs))]
        self.table.setRowCount(len(keys))
        for at, key in enumerate(keys):
            wrong = differs.get(key)
            mark, hue = (
                ("✓", theme.GOOD) if wrong is None else ("?", theme.TIGHT_TEXT) if wrong.open else ("✕", theme.BROKEN)
            )
            left = wrong.mine if wrong is not None and not key[1] else _told(mine.get(key))
            right = wrong.theirs if wrong is not None and not key[1] else _told(theirs.get(key))
            cells = (mark, f"{key[0]}:{key[1]}" if key[1] else key[0], left, right, wrong.what if wrong else "")
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setToolTip(plain_of(text))
                if column in (0, 4):
                    item.setForeground(QColor(hue))
                if column == 0:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
                self.table.setItem(at, column, item)


def _facts(device: Device) -> str:
    by = f"{device.who or 'nobody named'} {device.when}".strip()
    open_ = f", {len(device.unmeasured)} pins not measured" if device.unmeasured else ", every pin measured"
    return f"{device.name}: by {by}{open_}."


def _told(pin: DevicePin | None) -> str:
    if pin is None:
        return "–"
    volts = "" if pin.volts is None else f"{pin.volts:g} V"
    most = "" if pin.most_a is None else f"{pin.most_a:g} A"
    return ", ".join(part for part in (pin.pole, volts, most, pin.function) if part) or "?"
