"""The other tabs of Prove: the list, loops and pairs, which core is which, practice."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QColor

from umber_trunk.app import theme
from umber_trunk.app.desks.prove.left_view import Cell, Field, LeftView
from umber_trunk.app.desks.prove.probe_view import shown_value
from umber_trunk.app.widgets.desk import Panel, beside, button
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.prove.checklist import Test
from umber_trunk.core.prove.netlist import EARTH
from umber_trunk.core.prove.proof import Proof
from umber_trunk.core.prove.testsheet import band_text, show

if TYPE_CHECKING:
    from umber_trunk.app.desks.prove.desk import ProveDesk

WAY_WORDS = {
    "alone": word("alone, joining cores"),
    "partner": word("with a partner at the far end"),
    "tags": word("resistors on the far ends"),
}
DRILL_WORDS = {
    "fault": word("find the fault"),
    "lug": word("a bad lug on a heavy lead"),
    "loose": word("a plug not home"),
    "powered": word("found plugged in"),
    "face": word("find the cavity"),
    "thread": word("what threads on first"),
}


class ListPanel(Panel):
    """What is left, a column a net and a row a kind of test; the whole list with bands and what was read one click
    away."""

    def __init__(self, desk: ProveDesk) -> None:
        super().__init__(desk)
        self.prove = desk
        self.counts = Label()
        self.counts.setProperty("role", "hint")
        self.counts.setWordWrap(True)
        self.rows = desk.table("Tests", "tests", self._columns(), lambda r: str(r.n))
        self.left = LeftView()
        self.left.chosen.connect(self._chosen)
        self.listed = button(
            "As a list", self._listed, tip="Every test with its band and what was read, or the picture again"
        )
        self.listed.setCheckable(True)
        self.rows.hide()
        paper = button(
            "Test sheet…",
            lambda: desk.wants_papers.emit("tests"),
            tip="The list on paper, with a place for each reading",
        )
        self.column.addLayout(beside(self.counts, self.listed, paper))
        self.column.addWidget(self.left, 1)
        self.column.addWidget(self.rows, 1)

    def _listed(self) -> None:
        self.rows.setVisible(self.listed.isChecked())
        self.left.setVisible(not self.listed.isChecked())

    def show_list(self) -> None:
        """The list itself: a test was asked for."""
        if not self.listed.isChecked():
            self.listed.setChecked(True)
            self._listed()

    def _chosen(self, numbers: tuple[int, ...]) -> None:
        """The wires of a cell's tests light up on the trunk, and the first of them is chosen in the list."""
        proof = self.prove.proof
        if proof is None:
            return
        mine = [test for test in proof.plan.tests if test.n in numbers]
        self.prove.lit.emit({("wires", wire) for test in mine for wire in test.wires})
        if mine:
            self.rows.choose(str(mine[0].n), quiet=True)

    def _field(self, proof: Proof) -> Field:
        """Every test on the nets it says something of."""
        net, answers = proof.net, {one.task.test.n: one.ok for one in proof.standing if one.task.test is not None}
        first: dict[int, str] = {}
        for wire in net.facts:
            first.setdefault(net.wire_net(wire), wire)
        mine: dict[tuple[str, str], list[Test]] = {}
        whole: dict[str, list[Test]] = {}
        for test in proof.plan.tests:
            probe = test.probe
            points = [point for point in (*probe.a, *probe.b) if point != EARTH] if probe is not None else []
            nets = {net.net_at(point) for point in points} or {
                net.wire_net(wire) for wire in test.wires if wire in net.facts
            }
            named = [first[one] for one in nets if one in first]
            for name in named:
                mine.setdefault((name, test.kind), []).append(test)
            if not named:
                whole.setdefault(test.kind, []).append(test)

        def cell(tests: list[Test]) -> Cell:
            told = [answers[test.n] for test in tests if test.n in answers]
            return Cell(len(tests), sum(told), len(told) - sum(told), tuple(test.n for test in tests))

        kinds = tuple(dict.fromkeys(test.kind for test in proof.plan.tests))
        return Field(
            tuple(first.values()),
            kinds,
            {key: cell(rows) for key, rows in mine.items()},
            {kind: cell(rows) for kind, rows in whole.items()},
        )

    def _answer(self, test: Test) -> Any:
        proof = self.prove.proof
        return (
            next(
                (one for one in reversed(proof.answers) if one.task.test is not None and one.task.test.n == test.n),
                None,
            )
            if proof is not None
            else None
        )

    def _columns(self) -> list[Column]:
        def read(test: Test) -> str:
            one = self._answer(test)
            return (
                "" if one is None else shown_value(one.value, test.unit) or (tr("right") if one.ok else tr("not right"))
            )

        def state(test: Test) -> str:
            one = self._answer(test)
            return "" if one is None else "✓" if one.ok else "✕"

        def ink(test: Test) -> QColor | None:
            one = self._answer(test)
            return None if one is None else theme.GOOD if one.ok else theme.BROKEN

        return [
            Column("No", lambda t: str(t.n), right=True, key=lambda t: t.n, width=40),
            Column("Test", lambda t: t.kind, width=92),
            Column("What", lambda t: str(t.text), width=-1),
            Column(
                "Expected",
                lambda t: show(t.expect, t.unit) if t.expect is not None else "nothing" if t.unit == "Ω" else "",
                right=True,
                key=lambda t: t.expect or 0.0,
                width=84,
            ),
            Column("Band", band_text, width=150),
            Column("Read", read, right=True, width=84),
            Column("", state, colour=ink, width=28),
        ]

    def show_now(self) -> None:
        proof = self.prove.proof
        if proof is None:
            self.rows.show_rows([])
            self.left.nothing = not self.prove.document.design.wires
            self.left.show_field(None)
            return
        plan = proof.plan
        self.left.show_field(self._field(proof))
        self.counts.setText(
            tr(
                "{count} tests, {nets} nets. Shorts: {shorts_box} group tests with a switch box, {shorts_hand} "
                "by hand, not {pairs} pairs. Leads placed {moves} times, at least {moves_bound}.",
                count=len(plan.tests),
                nets=plan.nets,
                shorts_box=plan.shorts_box,
                shorts_hand=plan.shorts_hand,
                pairs=plan.pairs,
                moves=plan.moves,
                moves_bound=plan.moves_bound,
            )
        )
        self.rows.show_rows(list(plan.tests))
