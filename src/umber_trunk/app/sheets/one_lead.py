"""One lead on its own: what it feeds and how far, and at once the size that does, or whether a given one does."""

from __future__ import annotations

import time
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.widgets.desk import heading, hint, row
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.conductors import jackets, show_size
from umber_trunk.core.errors import InputError, UmberError, quoted
from umber_trunk.core.onerun.asked_run import RunAnswer
from umber_trunk.core.onerun.run import size_run
from umber_trunk.core.onerun.said import USUAL, run_said
from umber_trunk.core.units import counted

FIELDS = (
    ("load", "Feeds", "18 A", "18 A, 430 W or 2.4 ohm"), ("supply", "From", "24 V", "24 V"), ("length", "One way", "7.5 m", "7.5 m, 12 ft 3 in"),
    ("max_drop", "Drop at most", "3 %", "3 % or 0.6 V"), ("ambient", "Air", "30 C", "30 C"), ("bundle", "Loaded wires together", "1", "1"),
    ("surge", "Starts with", "", "60A/2s, or nothing"), ("duty", "On and off", "", "20s/60s, or nothing"), ("fuse", "Fuse", "auto", "auto, 15 A, or nothing"),
    ("size", "Size", "", "nothing: the smallest that does"),
)  # fmt: skip


LATE_MS = 250
"""Sums are quicker, but for starts and duty in thin air."""


class OneLead(QDialog):
    """Reads while it is typed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("One lead"))
        self.resize(860, 560)
        self.answer: RunAnswer | None = None
        self._soon = QTimer(self, singleShot=True, interval=150)
        self._soon.timeout.connect(self.read)
        self._late = QTimer(self, interval=LATE_MS)
        self._late.timeout.connect(self._tell_it_takes)
        self.fields: dict[str, QLineEdit] = {}
        form = QFormLayout()
        for key, name, usual, example in FIELDS:
            line = Line(usual)
            line.setPlaceholderText(example)
            line.textChanged.connect(lambda _: self._soon.start())
            form.addRow(Label(tr(name)), line)
            self.fields[key] = line
        self.jacket = QComboBox()
        for jacket in jackets().values():
            self.jacket.addItem(jacket.name, jacket.id)
        self.jacket.setCurrentIndex(self.jacket.findData("pvc"))
        self.jacket.currentIndexChanged.connect(lambda _: self._soon.start())
        form.addRow(Label(tr("Jacket")), self.jacket)
        self.lying = QComboBox()
        self.lying.addItem(tr("there and back together"), False)
        self.lying.addItem(tr("apart, each in free air"), True)
        self.lying.currentIndexChanged.connect(lambda _: self._soon.start())
        form.addRow(Label(tr("Its conductors lie")), self.lying)
        self.verdict = heading("")
        self.verdict.setWordWrap(True)
        self.told = hint("")
        self.why = QTextBrowser()
        self.why.setAccessibleName(tr("Why this figure"))
        close = QPushButton(tr("Close  Esc"))
        close.clicked.connect(self.reject)
        self._work = Background(self)
        self._work.answered.connect(self._show)
        self._work.crashed.connect(self._crashed)
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addLayout(form)
        left.addStretch()
        for part in (self.verdict, self.told):
            right.addWidget(part)
        right.addWidget(self.why, 1)
        sides = row(None)
        sides.takeAt(0)
        sides.setSpacing(20)
        sides.addLayout(left, 2)
        sides.addLayout(right, 3)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(16, 12, 16, 12)
        whole.addLayout(sides)
        whole.addLayout(row(None, close))
        self.read()

    def said(self) -> dict[str, Any]:
        """The fields as the shell's options would say them."""
        words: dict[str, Any] = {key: line.text().strip() or USUAL.get(key) for key, line in self.fields.items()}
        words["bundle"] = counted(said := str(words["bundle"]), 500)
        if words["bundle"] is None:
            raise InputError.of("window.no-number-of-wires-together", said=quoted(said))
        return USUAL | words | {"jacket": self.jacket.currentData(), "apart": self.lying.currentData()}

    def read(self) -> None:
        """Works the lead out from what the fields say now, or says which one can't be read."""
        try:
            missing = next((name for key, name, _, _ in FIELDS[:3] if not self.fields[key].text().strip()), "")
            if missing:
                raise UmberError.of("window.field-missing", missing=missing)
            run = run_said(self.said())
        except UmberError as why:
            self._give_up()
            self._say_nothing(f"✕ {why}")
            self._tell_as("fault")
            return
        self._asked_s = time.monotonic()
        self._late.start()
        self._work.ask(lambda wanted: size_run(run, wanted))

    def _tell_it_takes(self) -> None:
        """What the fields said before doesn't stand beside what they say now."""
        seconds = round(time.monotonic() - self._asked_s)
        self._say_nothing(tr("Working it out: {seconds} s. Esc gives it up.").format(seconds=seconds))
        self._tell_as("hint")

    def _say_nothing(self, told: str) -> None:
        self.answer = None
        self.verdict.setText("")
        self.told.setText(told)
        self.why.clear()

    @property
    def busy(self) -> bool:
        """Whether an answer is on its way."""
        return self._work.busy or self._soon.isActive()

    def _show(self, answer: RunAnswer) -> None:
        from umber_trunk.app.sheets.why import as_html
        from umber_trunk.core.explain.about_run import why_run

        self._late.stop()
        self.answer, chosen = answer, answer.chosen
        if chosen is None:
            self.verdict.setText(tr("No size of the series does it."))
            self.told.setText(
                tr(
                    "{governs} stands in the way. Try a shorter run, more volts, or wires in parallel.",
                    governs=answer.governs,
                )
            )
            self.why.clear()
            self._tell_as("fault")
            return
        state = "does" if chosen.ok else tr("does NOT do: {broken}", broken=", ".join(chosen.broken))
        self.verdict.setText(
            tr(
                "{size} {state}  ({governs} governs)",
                size=show_size(chosen.size.label),
                state=state,
                governs=answer.governs,
            )
        )
        fed = (
            tr("at {amps:.1f} A", amps=chosen.amps)
            if chosen.amps == chosen.amps
            else tr("the load can’t be fed at all through it")
        )
        fuse = tr(", fuse {fuse_a:g} A", fuse_a=chosen.fuse_a) if chosen.fuse_a is not None else ""
        self.told.setText(
            tr(
                "{drop_v:.2f} V lost, {drop_percent:.1f} %, {fed}; the conductor runs at {conductor_c:.0f} °C "
                "and carries up to {ampacity_a:.0f} A{fuse}. {lie}.",
                drop_v=chosen.drop_v,
                drop_percent=chosen.drop_percent,
                fed=fed,
                conductor_c=chosen.conductor_c,
                ampacity_a=chosen.ampacity_a,
                fuse=fuse,
                lie=f"{answer.run.lie:begins}",
            )
        )
        self._tell_as("hint" if chosen.ok else "fault")
        self.why.setHtml("<hr>".join(as_html(reason) for reason in why_run(answer, chosen)))

    def _tell_as(self, role: str) -> None:
        self.told.setProperty("role", role)
        theme.restyle(self.told)

    def _crashed(self, error: BaseException) -> None:
        self._late.stop()
        raise error  # where all bugs end

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Esc gives up a sum it was told of, before it closes."""
        if event.key() == Qt.Key.Key_Escape and self._late.isActive() and self.answer is None and self.told.text():
            self._give_up()
            self._say_nothing(tr("Given up. Change a field to work it out."))
        else:
            super().keyPressEvent(event)

    def _give_up(self) -> None:
        self._late.stop()
        self._work.drop()

    def reject(self) -> None:
        self._give_up()
        super().reject()
