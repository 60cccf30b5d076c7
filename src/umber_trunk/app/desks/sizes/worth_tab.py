"""What changes are worth: every move at the sizes of now first, then each with the sizes chosen anew."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from PySide6.QtWidgets import QVBoxLayout

from umber_trunk.app.background import Question
from umber_trunk.app.desks.sizes.while_shown import WhileShown
from umber_trunk.app.widgets.desk import Desk, hint
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import Wanted, go_on_if
from umber_trunk.core.results import Results
from umber_trunk.core.sizes.worth import Kept, Move, Worth, kept, least_of, moves, resized
from umber_trunk.core.solve.used import Figures
from umber_trunk.core.units import show_mass


@dataclass(frozen=True)
class WorthRow:
    """A move with what is known of it so far."""

    move: Move
    kept: Kept
    resized: Worth | None = None

    @property
    def order(self) -> float:
        """Most copper saved first."""
        return self.resized.copper_kg if self.resized else self.kept.copper_kg


class WorthPanel(WhileShown):
    """One move after another."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._least: Figures | None = None
        self.rows: list[WorthRow] = []
        self._work.answered.connect(lambda answer: answer())
        self.table = desk.table("What changes are worth", "worth", _columns(), lambda r: r.move.what)
        self.table.current.connect(lambda _: self._tell())
        self.progress = Label()
        self.told = hint("")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(hint("Copper against the harness as it is: a metre less, more volts, a circuit split."))
        layout.addWidget(self.table)
        layout.addWidget(self.told)
        layout.addWidget(self.progress)

    def forget(self) -> None:
        self._least, self.rows = None, []
        self.table.show_rows([])

    def go_on(self) -> None:
        """Asks for the next thing not known yet."""
        analysis, least = self.analysis, self._least
        if analysis is None or not self.idle:
            return
        open_rows = [row for row in self.rows if row.resized is None]
        self._tell()
        if not self.rows:
            self._ask(lambda wanted: _all_kept(analysis, wanted), self._show_kept)
        elif least is None:
            self._ask(lambda wanted: least_of(analysis.design, lambda _: wanted(), analysis.shelf), self._keep_least)
        elif open_rows:
            move = open_rows[0].move
            self._ask(
                lambda wanted: resized(analysis.design, least, move, lambda _: wanted(), analysis.shelf),
                self._show_resized,
            )

    def _ask(self, question: Question, take: Callable[[object], None]) -> None:
        """The answer comes back with the hand that takes it."""

        def answered(wanted: Wanted) -> Callable[[], None]:
            answer = question(wanted)
            return lambda: take(answer)

        self._work.ask(answered)

    def _tell(self) -> None:
        done = sum(row.resized is not None for row in self.rows)
        working = (
            ""
            if done == len(self.rows)
            else tr("sizes chosen anew for {done} of {count} …", done=done, count=len(self.rows))
        )
        self.progress.setText(working if self.rows else tr("working it out …"))
        self.progress.setVisible(bool(working) or not self.rows)
        chosen = next((row for row in self.rows if row.move.what == self.table.chosen_id()), None)
        self.told.setText(_told(chosen) if chosen else "")

    def _show_kept(self, answer: object) -> None:
        self.rows = answer  # type: ignore[assignment]
        self._sorted()
        if self.rows:
            self.table.choose(self.rows[0].move.what, quiet=True)
            self.go_on()
        else:
            self.progress.setText(tr("Nothing to move yet: measure a limb, enter a supply and a load."))

    def _keep_least(self, answer: object) -> None:
        self._least = answer  # type: ignore[assignment]
        self.go_on()

    def _show_resized(self, answer: object) -> None:
        assert isinstance(answer, Worth)
        self.rows = [replace(row, resized=answer) if row.move.what == answer.what else row for row in self.rows]
        if all(row.resized for row in self.rows):
            self._sorted()
        else:
            self.table.show_rows(self.rows)
        self.go_on()

    def _sorted(self) -> None:
        self.rows = sorted(self.rows, key=lambda row: row.order)
        self.table.show_rows(self.rows)


def _all_kept(analysis: Results, wanted: Wanted) -> list[WorthRow]:
    design, found = analysis.design, analysis.figures
    rows = []
    for move in moves(design, found):
        go_on_if(wanted)
        rows.append(WorthRow(move, kept(design, found, analysis.sizes, move)))
    return rows


def _mass(kg: float) -> str:
    return "–" if abs(kg) < 5e-4 else f"{'+' if kg > 0 else '−'}{show_mass(abs(kg))}"


def _anew(row: WorthRow) -> str:
    if row.resized is None:
        return "…"
    return _mass(row.resized.copper_kg) + ("" if row.resized.met else " ✕")


def _told(row: WorthRow) -> str:
    """The rest of what is known of a move, in a sentence or two."""
    one, anew = row.kept, row.resized
    text = (
        tr(
            "Sizes kept, {load} gains {gain_percent:.1f} % of the supply. ",
            load=one.load,
            gain_percent=one.gain_percent,
        )
        if one.gain_percent >= 0.05
        else ""
    )
    if anew is None:
        return text
    metal = "costs" if anew.cost > 0 else "saves"
    held = "" if anew.met else tr(" Not every limit can be met.")
    return tr(
        "{text}Chosen anew it {metal} {cost:.2f} in metal; worst drop {worst_drop_percent:.1f} %.{held}",
        text=text,
        metal=metal,
        cost=abs(anew.cost),
        worst_drop_percent=anew.worst_drop_percent,
        held=held,
    )


def _columns() -> list[Column]:
    return [
        Column("Change", lambda r: r.move.what, width=-1),
        Column("Sizes kept", lambda r: _mass(r.kept.copper_kg), right=True, key=lambda r: r.kept.copper_kg, width=84),
        Column("Sizes anew", _anew, right=True, key=lambda r: r.order, width=92),
    ]
