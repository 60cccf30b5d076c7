"""A unit's proof kept in the log of its build: every answer is on disk before the next task is shown; half done, it goes on where it was."""

from __future__ import annotations

import time
import uuid
from typing import Any

from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import InputError
from umber_trunk.core.make.bench import Event
from umber_trunk.core.prove.netlist import netlist
from umber_trunk.core.prove.proof import Answer, Proof
from umber_trunk.core.results import Results
from umber_trunk.store.files import StoreError
from umber_trunk.store.project import ProjectFile

OVER_AGAIN = ("remake", "scrap", "mended", "upgrade")
"""What makes a proof begin anew: the unit isn't what was tested any more."""


class UnitProof:
    """The proof of one unit of a build. `results` are those of its revision."""

    def __init__(
        self, project: ProjectFile, build: str = "", unit: int = 1, hand: str = "", known: Results | None = None
    ) -> None:
        self.project, self.unit, self.hand = project, unit, hand
        begun = [one for one in project.floor.builds() if build in ("", one.build)]
        if not begun:
            raise StoreError(
                f"There is no build “{build}”."
                if build
                else "Nothing is being built yet: begin a build at the bench first."
            )
        self.begun = begun[-1]
        self.build = self.begun.build
        if unit not in self.begun.data["units"]:
            raise InputError(f"Build “{self.build}” has no unit {unit}.")
        events = project.floor.events(self.build)
        undone = {str(one.data.get("of")) for one in events if one.kind == "undo"}
        mine = [one for one in events if one.unit == unit and one.id not in undone]
        upgrades = [one for one in mine if one.kind == "upgrade"]
        revision = int((upgrades[-1] if upgrades else self.begun).data["revision"])
        design = project.design_at(revision)
        self.results = known if known is not None and known.design == design else analyse(design)
        last = max((at for at, one in enumerate(mine) if one.kind in OVER_AGAIN), default=-1)
        self.logged = [one for one in mine[last + 1 :] if one.kind == "test"]
        self.proof = Proof(self.results.once(netlist))
        self.replayed = self.proof.replay(one.data for one in self.logged)
        self.closed = any(one.kind in ("proven", "found") for one in mine[last + 1 :])

    def answer(self, value: float | None = None, ok: bool | None = None) -> Answer:
        """An answer, logged."""
        one = self.proof.answer(value, ok)
        self.keep(one)
        return one

    def keep(self, one: Answer) -> None:
        """Logs an answer that the proof took already."""
        event = self._event("test", self.proof.entry(one) | {"by": self.hand})
        self.project.floor.append([event])
        self.logged.append(event)

    def back(self) -> None:
        """Takes the last answer back. StoreError where there is none."""
        if not self.logged or self.replayed < 0:
            raise StoreError("Nothing was answered yet, so nothing can be taken back.")
        last = self.logged.pop()
        self.project.floor.append([self._event("undo", {"of": last.id})])
        disconnected = self.proof.disconnected
        self.proof = Proof(
            self.results.once(netlist), self.proof.meter, self.proof.plan, self.proof.prover.judge.priors
        )
        self.proof.replay(one.data for one in self.logged)
        self.proof.disconnected = disconnected

    def close_with(self, who: str) -> None:
        """Once nothing is left to ask: proven, by whom, or the likeliest faults. Does nothing before."""
        if self.proof.now is not None or self.closed:
            return
        self.closed = True
        if self.proof.complete:
            self.project.floor.append(
                [
                    self._event(
                        "proven",
                        {
                            "ok": True,
                            "who": who or self.hand or "nobody named",
                            "told": f"{len(self.proof.answers)} answers, all in their bands",
                        },
                    )
                ]
            )
            return
        for suspect in self.proof.verdict().suspects[:6]:
            self.project.floor.append(
                [
                    self._event(
                        "found",
                        {
                            "what": suspect.fault.what,
                            "where": suspect.fault.place,
                            "says": suspect.words[:1000],
                            "probability": round(suspect.probability, 4),
                        },
                    )
                ]
            )

    def mended(self, what: str, who: str) -> None:
        """A repair: what was done and by whom; the proof begins anew."""
        if not what.strip() or not who.strip():
            raise InputError("Say what was mended and who did it.")
        self.project.floor.append([self._event("mended", {"says": what.strip()[:1000], "who": who.strip()[:80]})])

    def _event(self, kind: str, data: dict[str, Any]) -> Event:
        return Event(uuid.uuid4().hex, self.build, time.time_ns() // 1_000_000, kind, self.unit, "", data)
