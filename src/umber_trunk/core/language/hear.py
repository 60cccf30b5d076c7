"""The one door to the language: a line heard, whatever kind it is, and the edit it asks for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import Edit
from umber_trunk.core.harness.model import Design
from umber_trunk.core.language.acts import do
from umber_trunk.core.language.grammar import begins_like_one, read_line, refusal
from umber_trunk.core.language.records import OnTheWay, Said
from umber_trunk.core.needs.enter import enter
from umber_trunk.core.needs.line import parse_need
from umber_trunk.core.needs.line_records import Need, Piece
from umber_trunk.core.quantity import Habit


@dataclass(frozen=True)
class Heard:
    """A line as understood: of the grammar (`said`), or of a load, supply or place (`need`). `wrong` says why it can't
    be done."""

    text: str
    said: Said | None = None
    need: Need | None = None
    wrong: str = ""

    @property
    def what(self) -> str:
        """The kind of line, in a word."""
        if self.said is not None:
            return self.said.form if isinstance(self.said, OnTheWay) else type(self.said).__name__.lower()
        return self.need.what if self.need is not None else ""

    @property
    def name(self) -> str:
        """Whom it is about."""
        if self.said is not None:
            return str(getattr(self.said, "where", "") or getattr(self.said, "what", "") or self.what)
        return self.need.name if self.need is not None else ""

    @property
    def pieces(self) -> list[Piece]:
        """What was understood of it, where that is known piece by piece."""
        return self.need.pieces if self.need is not None else []

    @property
    def ok(self) -> bool:
        """Whether it can be tried."""
        return not self.wrong


@dataclass(frozen=True)
class Listener:
    """What lines are heard with: the shelf, and how the project writes figures."""

    shelf: Shelf | None = None
    decimal: str = ""

    def hear(self, design: Design, text: str) -> Heard:
        """A line as this design would understand it."""
        said = read_line(text)
        if said is not None:
            return Heard(text, said)
        project = design.project
        volts = design.supplies[0].volts if design.supplies else 12.0
        need = parse_need(text, volts, self.decimal or project.decimal, project.motor_efficiency)
        if need.ok:
            return Heard(text, need=need)
        if begins_like_one(text):
            return Heard(text, need=need, wrong=str(refusal(text)))
        return Heard(text, need=need, wrong="; ".join(fault.rstrip(".") for fault in need.faults) + ".")

    def done(self, design: Design, heard: Heard) -> Design:
        """The design with what a line says in it; EditError or InputError says what stands in the way."""
        if heard.wrong:
            raise EditError.of("language.line-not-understood", why=heard.wrong)
        if heard.said is not None:
            return do(design, heard.said, self.shelf, Habit(self.decimal or design.project.decimal))
        assert heard.need is not None
        return enter(design, heard.need)


def way_line(text: str, shelf: Shelf | None = None) -> Callable[[Habit], Edit]:
    """The edit that a line of the grammar asks for, to be read by a habit of separators. InputError for any other
    line."""
    said = read_line(text)
    if said is None:
        raise refusal(text)
    return lambda habit: lambda design: do(design, said, shelf, habit)
