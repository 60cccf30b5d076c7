"""Edits that read typed text by the habit of the design they are made to."""

from __future__ import annotations

from collections.abc import Callable

from umber_trunk.core.harness.edits import Edit
from umber_trunk.core.harness.model import Design
from umber_trunk.core.quantity import Habit


class Typed:
    """An edit that reads typed text by the habit of the design it is made to: `make` takes the habit and gives the
    edit. `notes` say, once it was made, what the habit decided."""

    def __init__(self, make: Callable[[Habit], Edit]) -> None:
        self.make = make
        self.notes: list[str] = []

    def __call__(self, design: Design) -> Design:
        habit = Habit(design.project.decimal)
        done = self.make(habit)(design)
        self.notes = habit.notes
        return done
