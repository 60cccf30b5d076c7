"""Two devices side by side, pin by pin: what differs stands out by a mark, a word and a hue."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.shop.shop_look import ShopLook
from umber_trunk.app.widgets.desk import heading, hint, row
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.device import Device
from umber_trunk.core.shop.devices import compared


class PinCompare(QWidget):
    """Chooses two of the shop's devices and shows them pin by pin."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.devices: tuple[Device, ...] = ()
        self.first, self.second = QComboBox(), QComboBox()
        self.first.setAccessibleName(tr("First device"))
        self.second.setAccessibleName(tr("Second device"))
        self.answer = Label()
        self.answer.setWordWrap(True)
        self.facts = hint("")
        self.table = QTableWidget(0, 5)
        self.table.setAccessibleName(tr("Pins of both devices"))
        self.table.setHorizontalHeaderLabels(["", tr("Pin"), tr("First"), tr("Second"), tr("What differs")])
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
            self.answer.setText(tr("No device is known yet: umber devices take or import brings one in."))
            self.table.setRowCount(0)
            return
        found = compared(one, other)
        self.answer.setText(f"{found.words:begins}.")
        self.facts.setText("   ".join(_facts(device) for device in (one, other)))
        rows = [*sorted(found.rows, key=lambda row: (bool(row.label), row.open)), *found.same]
        self.table.setRowCount(len(rows))
        for at, pin in enumerate(rows):
            mark, hue = (
                ("✓", theme.GOOD) if not pin.what else ("?", theme.TIGHT_TEXT) if pin.open else ("✕", theme.BROKEN)
            )
            name = f"{pin.connector}:{pin.label}" if pin.label else pin.connector
            cells = (mark, name, pin.mine, pin.theirs, str(pin.what))
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
    open_ = (
        tr(", {count} pins not measured", count=len(device.unmeasured))
        if device.unmeasured
        else tr(", every pin measured")
    )
    return tr("{device}: by {by}{open}.", device=device.name, by=by, open=open_)
