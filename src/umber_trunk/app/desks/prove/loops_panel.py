"""The Prove desk's 4–20 mA loops and the spare pairs that take a bad one's place."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHBoxLayout

from umber_trunk.app import theme
from umber_trunk.app.widgets.asked import one_of, text_asked
from umber_trunk.app.widgets.desk import Panel, button, heading, row
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.stairs_view import StairsView
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.edits import Edit
from umber_trunk.core.harness.model import Design, Wire
from umber_trunk.core.prove.loops import Budget, Stairs, budgets, stairs
from umber_trunk.core.prove.spare_pair import take_spare

if TYPE_CHECKING:
    from umber_trunk.app.desks.prove.desk import ProveDesk


class LoopsPanel(Panel):
    """Loops with their budgets, and the pairs of each cable with what they serve."""

    def __init__(self, desk: ProveDesk) -> None:
        super().__init__(desk)
        self.prove = desk
        self._steps: list[Stairs] = []
        self.loops = desk.table("Loops", "loops", _loop_columns(), lambda r: r.loop)
        self.pairs = desk.table("Pairs", "wires", _pair_columns(), lambda r: r.id)
        spare = button(
            "Take a spare pair…",
            self.take,
            tip="The chosen wire's pair is bad; its circuit takes a spare pair of the same cable, by a named decision",
        )
        self.stairs = StairsView()
        self.loops.current.connect(lambda _: self._show_stairs())
        sheets = button(
            "Loop sheets…",
            lambda: desk.wants_papers.emit("loops"),
            tip="A sheet for each loop: its stairs, cores, tags, spares, and places to mark in red",
        )
        self.column.addLayout(row(heading("Loops at 22 mA, hot"), None, sheets))
        upper = QHBoxLayout()
        upper.addWidget(self.loops, 1)
        upper.addWidget(self.stairs, 1)
        self.column.addLayout(upper, 3)
        self.column.addLayout(row(heading("Cores and pairs"), None, spare))
        self.column.addWidget(self.pairs, 2)

    def show_now(self) -> None:
        results = self.desk.document.now
        if results is None:
            return
        self.loops.show_rows(budgets(results.design, results))
        self._steps = stairs(results.design, results)
        self._show_stairs()
        self.pairs.show_rows([wire for wire in results.design.wires if wire.cable])

    def _show_stairs(self) -> None:
        """Those of the loop that is chosen, else of the one with least to spare."""
        chosen = self.loops.chosen_id()
        if not chosen and self._steps:
            chosen = min(self._steps, key=lambda one: one.left_v - one.need_v).loop
        self.stairs.setVisible(bool(self._steps))
        self.stairs.show_rows([one for one in self._steps if one.loop == chosen])

    def take(self) -> None:
        """A bad pair's circuit goes over to a spare one."""
        design = self.desk.document.design
        chosen = next((wire for wire in design.wires if wire.id == self.pairs.chosen_id()), None)
        if chosen is None or chosen.spare:
            self.desk.said.emit(tr("Choose a core of the bad pair first."))
            return
        free = [wire for wire in design.wires if wire.cable == chosen.cable and wire.spare and not wire.bad]
        names = list(dict.fromkeys(f"pair {wire.pair}" if wire.pair else wire.id for wire in free))
        if not names:
            self.desk.document.refused.emit(tr("{cable} has no spare pair left.", cable=chosen.cable))
            return
        pair, ok = one_of(
            self, tr("Spare pair"), tr("{chosen} of {cable}:", chosen=chosen.id, cable=chosen.cable), names
        )
        if not ok:
            return
        who, ok = text_asked(self, tr("Spare pair"), tr("Who decides it, and why (name: reason)?"))
        if ok:
            name, _, why = who.partition(":")
            spare = next(wire for wire in free if pair in (f"pair {wire.pair}", wire.id))
            self.desk.document.apply(
                _taking(chosen.id, spare.id, name, why), f"{chosen.circuit or chosen.id} on {pair}"
            )


def _taking(bad: str, spare: str, who: str, why: str) -> Edit:
    def edit(design: Design) -> Design:
        return take_spare(design, bad, spare, who, why)[0]

    return edit


def _loop_columns() -> list[Column]:
    def ink(one: Budget) -> QColor:
        return theme.GOOD if one.ok else theme.BROKEN

    return [
        Column("Loop", lambda b: b.name, width=-1),
        Column(
            "Left",
            lambda b: f"{b.left_v:.2f} V{'' if b.ok else ' ✕'}",
            right=True,
            colour=ink,
            key=lambda b: b.left_v,
            width=76,
        ),
        Column("Needs", lambda b: f"{b.need_v:g} V", right=True, key=lambda b: b.need_v, width=64),
        Column("Supply", lambda b: f"{b.supply_v:.1f} V", right=True, width=64),
        Column("Barrier", lambda b: f"{b.barrier_v:.2f} V", right=True, width=68),
        Column("Run", lambda b: f"{b.run_v:.3f} V", right=True, width=68),
        Column("Receiver", lambda b: f"{b.receiver_v:.2f} V", right=True, width=72),
    ]


def _pair_columns() -> list[Column]:
    def state(wire: Wire) -> str:
        return tr("✕ bad") if wire.bad else tr("spare") if wire.spare else tr("in use")

    def ink(wire: Wire) -> QColor | None:
        return theme.BROKEN if wire.bad else theme.INK_SOFT if wire.spare else None

    return [
        Column("Cable", lambda w: w.cable or "", width=80),
        Column("Pair", lambda w: w.pair, width=44),
        Column("Core", lambda w: w.core or "screen", width=60),
        Column("Wire", lambda w: w.id, width=90),
        Column(
            "Colour",
            lambda w: "/".join(filter(None, (w.colour, w.stripe))),
            swatch=lambda w: (w.colour, w.stripe),
            width=130,
        ),
        Column("Serves", lambda w: w.circuit, width=100),
        Column("From", lambda w: str(w.start), width=90),
        Column("To", lambda w: str(w.finish), width=90),
        Column("", state, colour=ink, width=-1),
    ]
