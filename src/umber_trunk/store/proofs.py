"""A unit's proof kept in the log of its build: every answer is on disk before the next task is shown; half done, it goes on where it was."""

from __future__ import annotations

import time
import uuid
from typing import Any

from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import InputError, Wanted, always
from umber_trunk.core.keep.record import ANEW, SIMULATED, made_wires, records
from umber_trunk.core.make.events import Event
from umber_trunk.core.make.operations import operations
from umber_trunk.core.prove.netlist import netlist
from umber_trunk.core.prove.plan import test_plan
from umber_trunk.core.prove.priors import priors
from umber_trunk.core.prove.proof import Answer, Proof
from umber_trunk.core.prove.suspicion import Verdict
from umber_trunk.core.results import Results
from umber_trunk.store.files import StoreError
from umber_trunk.store.project import ProjectFile

PARTS = ("test", "proven", "found", "upgrade")
"""Kinds of entries that a proof is made of, or ended by."""


def fresh_proof(results: Results) -> Proof:
    """A proof with nothing answered, on what is worked out of the harness already."""
    return Proof(results.once(netlist), plan=results.once(test_plan), priors=results.once(priors))


class UnitProof:
    """The proof of one unit of a build: what is logged of it is read at once, `load` works out the rest and may be done on another thread.
    InputError for a unit there is none of, StoreError for a build."""

    def __init__(self, project: ProjectFile, build: str = "", unit: int = 1, hand: str = "") -> None:
        self.project, self.unit, self.hand = project, unit, hand
        begun = [one for one in project.floor.builds() if build in ("", one.build)]
        if not begun:
            raise StoreError(
                f"There is no build “{build}”."
                if build
                else "Nothing is being built yet: begin a build at the bench first."
            )
        self.build = begun[-1].build
        if unit not in begun[-1].data["units"]:
            raise InputError(f"Build “{self.build}” has no unit {unit}.")
        standing = self._read()
        if self.record.moved_to:
            raise InputError(f"Unit {unit} of “{self.build}” goes on as build “{self.record.moved_to}”.")
        self.design = project.design_at(self.record.revision)
        self.logged = [one for one in standing if one.kind == "test"]
        self.closing = [one for one in standing if one.kind in ("proven", "found")]
        """What closed it: the word that it is proven, or the faults that were named."""
        self.results: Results | None = None
        self.made: set[str] = set()
        """Wires that are made: every step about them is done."""

    def _read(self) -> list[Event]:
        """The record, and the entries that this proof is made of: what stands since the unit last became another."""
        events = self.project.floor.events_of(self.build, [self.unit])
        self.record = next(one for one in records(events) if one.unit == self.unit)
        undone = {str(one.data.get("of")) for one in events if one.kind == "undo"}
        mine = [one for one in events if one.unit in (0, self.unit) and one.id not in undone]
        last = max((at for at, one in enumerate(mine) if one.kind in ANEW), default=-1)
        return [one for one in mine[last + 1 :] if one.kind in PARTS]

    def moved_on(self) -> bool:
        """Whether the log has what this proof doesn't know: a repair, an upgrade, another station's reading."""
        standing = {one.id for one in self._read()}
        if self.results is not None:
            self.made = made_wires(self.record, self.results.once(operations))
        return standing != {one.id for one in (*self.logged, *self.closing)}

    @property
    def simulated(self) -> bool:
        """Whether any of its readings came from a simulated unit."""
        return any(one.data.get("source") == SIMULATED for one in self.logged)

    def load(self, known: Results | None = None, wanted: Wanted = always) -> Proof:
        """Works the harness out, if `known` isn't of its revision, and goes through what was answered."""
        if self.results is None:
            fits = known is not None and known.design == self.design
            self.results = known if fits and known is not None else analyse(self.design, wanted=wanted)
        self.made = made_wires(self.record, self.results.once(operations))
        self.proof = fresh_proof(self.results)
        self.proof.replay(one.data for one in self.logged)
        return self.proof

    def answer(self, value: float | None = None, ok: bool | None = None, simulated: bool = False) -> Answer:
        """An answer, logged."""
        one = self.proof.answer(value, ok)
        self.keep(one, simulated)
        return one

    def keep(self, one: Answer, simulated: bool = False) -> None:
        """Logs an answer that the proof took already; one of a simulated unit is marked as such for good."""
        data = self.proof.entry(one) | {"by": self.hand} | ({"source": SIMULATED} if simulated else {})
        event = self._event("test", data)
        self.project.floor.append([event])
        self.logged.append(event)

    def take_back(self) -> None:
        """Takes the last answer back, and what closed the proof after it; `load` it anew then. StoreError where there is none."""
        if not self.logged:
            raise StoreError("Nothing was answered yet, so nothing can be taken back.")
        gone = [*self.closing, self.logged[-1]]
        self.project.floor.append(self._event("undo", {"of": one.id}) for one in gone)
        self.closing.clear()
        self.logged.pop()

    def close_with(self, who: str, verdict: Verdict | None = None) -> None:
        """Once nothing is left to ask: proven, by whom, or the likeliest faults (`verdict`, where it is known already). Does nothing before.
        StoreError where the log has what this proof doesn't know: nothing is closed on half of what is known."""
        if self.proof.now is not None or self.closing:
            return
        if self.moved_on():
            raise StoreError("Something else was noted of this unit meanwhile: its proof has to be read anew.")
        who = who.strip() or str(self.logged[-1].data.get("by") or "" if self.logged else "")
        if self.proof.complete and not who:
            raise StoreError("Say who proved it: the name stands on the certificate.")
        if self.proof.complete:
            told = f"{len(self.proof.answers)} answers, all in their bands"
            data: dict[str, Any] = {
                "ok": True,
                "who": who,
                "told": told,
            }
            closing = [self._event("proven", data)]
        else:
            closing = [
                self._event("found", {"what": one.fault.what, "where": one.fault.place, "says": one.words[:1000], "probability": round(one.probability, 4)})
                for one in (verdict or self.proof.verdict()).suspects[:6]
            ]  # fmt: skip
        self.project.floor.append(closing)
        self.closing = closing

    def _event(self, kind: str, data: dict[str, Any]) -> Event:
        return Event(uuid.uuid4().hex, self.build, time.time_ns() // 1_000_000, kind, self.unit, "", data)
