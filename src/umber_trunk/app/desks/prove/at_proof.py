"""What all that is done while proving rests on: the proof that is open, who tests, and what is said of it."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.app.background import Background
from umber_trunk.app.desks.prove.probe_view import ProbeView
from umber_trunk.app.widgets.desk import TabbedDesk
from umber_trunk.app.widgets.line import Line
from umber_trunk.core.prove.proof import Answer, Proof
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.prove.verdict import Verdict
from umber_trunk.store.proofs import UnitProof


@dataclass(frozen=True)
class Heard:
    """What comes back from beside the window: the proof as it stands, the answer just taken, what all answers come to,
    a word about it."""

    proof: Proof
    one: Answer | None = None
    verdict: Verdict | None = None
    said: str = ""
    wrong: bool = False


class AtProof(TabbedDesk):
    """A desk with a proof open; `kept` where a unit of a build is proven. A refusal is a sentence on the card."""

    proof: Proof | None
    kept: UnitProof | None
    verdict: Verdict | None
    unit: Unit | None
    """The made-up unit under test, where one is simulated."""
    view: ProbeView
    worker: Background
    hand: Line
    said_last: str
    wrong_last: bool

    def show_card(self) -> None:
        """The reading to take now, with what was said last."""
        raise NotImplementedError

    def open_unit(self, said: str = "") -> None:
        """Goes on with a unit's proof where it was left, or begins a trial."""
        raise NotImplementedError

    def tell(self, words: str, wrong: bool) -> None:
        """A word on the card and in the status line."""
        self.said_last, self.wrong_last = words, wrong
        self.said.emit(words)
        self.show_card()
