"""What all that is done at the bench rests on: the build that is open, the piece in hand, and what is said of it."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QDialog

from umber_trunk.app.desks.make.bench_view import BenchView
from umber_trunk.app.desks.make.card import open_step
from umber_trunk.app.settings import BenchHabits
from umber_trunk.app.widgets.desk import TabbedDesk
from umber_trunk.app.widgets.line import Line
from umber_trunk.core.errors import UmberError
from umber_trunk.core.make.events import Read, Reset, Undo
from umber_trunk.core.make.timed import Timed
from umber_trunk.store.build import Build


class AtBench(TabbedDesk):
    """A desk with a build in hand. Everything that is done goes through `act`: a refusal is a sentence on the card."""

    build: Build | None
    bench: BenchView
    far: BenchView
    large: QDialog | None
    hand: Line
    habits: BenchHabits
    said_last: str
    wrong_last: bool
    chosen: int
    """A piece of the handful that is taken by itself, -1 for none."""

    def show_card(self) -> None:
        """The step in hand is shown as it stands."""
        raise NotImplementedError

    def act(self, act: Any, said: str = "") -> bool:
        """Does something, shows what came of it; a refusal is a sentence on the card."""
        before = len(self.build.bench.history) if self.build is not None else 0
        if self.build is not None:
            self.build.hand = self.hand.text().strip()
        try:
            act()
            self.said_last, self.wrong_last = said, False
            self.said.emit(said)
        except UmberError as why:
            self.said_last, self.wrong_last = str(why), True
            self.said.emit(str(why))
        fresh = self.build.bench.history[before:] if self.build is not None else []
        if any(isinstance(event.act, Read | Undo | Reset) for event in fresh):
            self.document.measured()
        self.show_card()
        return not self.wrong_last

    def in_hand(self, build: Build) -> tuple[Timed, ...]:
        """The steps that one key attests, none where it is the step now."""
        here, bench = build.bench.handful, build.bench
        if here is None:
            return ()
        if 0 <= self.chosen < len(here.pieces):
            open_ = bench.alone(here.pieces[self.chosen])
            if not open_:
                self.chosen = -1
                return ()
            return open_ if self.habits.whole(here.first.op) and not here.singly else open_[:1]
        return bench.together() if self.habits.whole(here.first.op) and not here.singly else ()

    def here(self) -> Timed | None:
        """The step in hand: of the piece that was chosen, or the step now."""
        here = self.build.bench.handful if self.build is not None else None
        if self.build is None or here is None or not 0 <= self.chosen < len(here.pieces):
            return self.build.bench.now if self.build is not None else None
        return open_step(self.build, here.pieces[self.chosen])

    def say_right(self, text: str) -> None:
        """Says something on the card."""
        self.said_last, self.wrong_last = text, False
        self.show_card()

    def say_wrong(self, text: str) -> None:
        """Says on the card why something isn’t done."""
        self.said_last, self.wrong_last = text, True
        self.show_card()

    def to_bench(self) -> None:
        """After any act the next key is the bench's."""
        (self.far if self.large is not None and self.large.isVisible() else self.bench).setFocus()
