"""A unit's proof kept in the log of its build: what it is held to is frozen when it begins, every answer is on disk
before the next task is shown; half done, it goes on where it was. Whether the unit is proven is never kept: it is
folded from what stands."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk import __version__
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.keep.record import made_wires, records
from umber_trunk.core.keep.unit_fold import SIMULATED
from umber_trunk.core.kept_words import name_kept, said_kept
from umber_trunk.core.make.events import Act, Event, Undo
from umber_trunk.core.make.unit_acts import AsIs, Found, Proof, Proven, Safe, Test
from umber_trunk.core.prove.blind import with_untold
from umber_trunk.core.prove.checklist import Plan
from umber_trunk.core.prove.listed import plan_text
from umber_trunk.core.prove.meter import MOST_AMPS, Meter
from umber_trunk.core.prove.netlist import netlist
from umber_trunk.core.prove.plan import make_plan, test_plan
from umber_trunk.core.prove.priors import Priors, shares_from
from umber_trunk.core.prove.proof import Answer
from umber_trunk.core.prove.proof import Proof as Asking
from umber_trunk.core.prove.verdict import Verdict
from umber_trunk.core.results import Results
from umber_trunk.core.text import digest_of
from umber_trunk.store.builds import plan_once_more
from umber_trunk.store.clock import new_id, now_ms
from umber_trunk.store.files import StoreError
from umber_trunk.store.found_faults import priors_here
from umber_trunk.store.inputs import figures_of, frozen_of, inputs_of, making_of
from umber_trunk.store.project import ProjectFile


def fresh_proof(results: Results) -> Asking:
    """A proof with nothing answered, on what is worked out of the harness already."""
    net = results.once(netlist)
    return Asking(net, plan=results.once(test_plan), priors=priors_here(net))


class UnitProof:
    """The proof of one unit of a build: what is logged of it is read at once, `load` works out the rest and may be done
    on another thread. `meter` and `box` are how it is measured, None as it was begun, or the usual; they belong to the
    proof from its start. InputError for a unit there is none of, or a meter that contradicts the one it was begun with;
    StoreError for a build."""

    def __init__(
        self,
        project: ProjectFile,
        build: str = "",
        unit: int = 1,
        hand: str = "",
        meter: Meter | None = None,
        box: bool | None = None,
        anew: bool = False,
        parts: Shelf | None = None,
    ) -> None:
        self.project, self.unit, self.hand = project, unit, hand
        begun = [one for one in project.floor.builds() if build in ("", one.build)]
        if not begun:
            raise (StoreError.of("store.no-build", name=build) if build else StoreError.of("store.begin-build-first"))
        self.build = begun[-1].build
        self.read()
        if not self.record.order:
            plan_once_more(project, self.build, parts)
            self.read()
        if self.record.moved_to:
            raise InputError.of(
                "store.unit-of-goes-on-as-build", unit=unit, build=self.build, moved_to=self.record.moved_to
            )
        said = None if anew else self.begun
        if said is not None and (
            (meter is not None and _said_of(meter) != _said_of(meter_of(said))) or (box is not None and box != said.box)
        ):
            raise InputError.of("store.proof-begun-otherwise", leads=_leads(said.four_wire), box=bool(said.box))
        self.meter = meter_of(said) if said is not None else meter or Meter()
        self.box = box if box is not None else said.box if said is not None else True
        self._anew = anew
        self._design = frozen_of(project.floor, self.record.design, self.record.order).design_text
        self._making = making_of(project.floor, self.record)
        self._listed = inputs_of(project.floor).tests(said.tests) if said is not None else None
        if said is not None and self._listed is None:
            raise StoreError.of("store.list-of-proof-not-kept")
        self.results: Results | None = None
        self.proof: Asking
        self.made: set[str] = set()
        """Wires that are made: every step about them is done."""

    def read(self) -> None:
        """What the log says of the unit now."""
        floor = self.project.floor
        events = floor.events_of(self.build, [self.unit])
        undone = {act.of for one in events if isinstance(act := one.act, Undo)}
        found = [one for one in records(events, inputs_of(floor), [(self.build, self.unit)]) if one.unit == self.unit]
        if not found:
            raise InputError.of("store.build-has-no-unit", build=self.build, unit=self.unit)
        self.record = found[0]
        self.begun: Proof | None = next(
            (
                act
                for one in reversed(events)
                if isinstance(act := one.act, Proof) and one.unit == self.unit and one.id not in undone
            ),
            None,
        )
        self.logged = [one for one, _ in self.record.tests if one.id not in undone] if self.begun is not None else []
        words = [
            one for one in events if isinstance(one.act, Proven) and one.unit == self.unit and one.id not in undone
        ]
        self.closing = [*(one for one, _ in self.record.found), *(words if self.record.proven is not None else [])]
        """What closed it: the word that it is proven, or the faults that were named."""

    def moved_on(self) -> bool:
        """Whether the log has what this proof doesn't know: a repair, an upgrade, another station's reading."""
        before = [one.id for one in (*self.logged, *self.closing)], self.record.moved_to
        self.read()
        self.made = made_wires(self.record, self._making)
        return before != ([one.id for one in (*self.logged, *self.closing)], self.record.moved_to)

    @property
    def simulated(self) -> bool:
        """Whether any of its readings came from a simulated unit."""
        return any(isinstance(one.act, Test) and one.act.source == SIMULATED for one in self.logged)

    def load(self, wanted: Wanted = always) -> Asking:
        """Works the harness it was built to out, and goes through what was answered: beside the file, on any thread."""
        self.results = figures_of(self.project.floor.kept, self._design, wanted)
        go_on_if(wanted)
        self.made = made_wires(self.record, self._making)
        net = self.results.once(netlist)
        begun = self.begun if not self._anew else None
        met = Priors(net, shares_from(begun.shares)) if begun is not None and begun.shares else priors_here(net)
        self.proof = Asking(net, self.meter, self._plan(), met)
        if not self._anew:
            self.proof.replay(one.act for one in self.logged if isinstance(one.act, Test))
        return self.proof

    def _plan(self) -> Plan:
        """The list: as it was frozen when the proof began, else as it is made now."""
        assert self.results is not None
        if self._listed is not None:
            return self._listed
        if self.meter == Meter() and self.box:
            return self.results.once(test_plan)
        return make_plan(self.results.once(netlist), self.meter, self.box)

    def begin(self) -> None:
        """Freezes the list and how it is measured, before the first answer is logged."""
        if self.begun is not None and not self._anew:
            return
        text = plan_text(with_untold(self.proof.net, self.proof.plan, self.meter))
        four = self.meter.four_wire
        act = Proof(
            tests=digest_of(text),
            four_wire=four,
            box=self.box,
            floor_ohm=self.meter.floor_ohm,
            share=self.meter.four_share if four else self.meter.two_share,
            amps=self.meter.amps,
            shares=dict(self.proof.prover.judge.priors.shares),
            who=self.hand,
            version=__version__,
        )
        self.project.floor.append_with([self._event(act)], [text])
        self.begun, self._anew, self._listed = act, False, self.proof.plan
        self.logged, self.closing = [], []

    def safe(self, ok: bool = True) -> None:
        """Somebody says that the electronics are off and nobody touches the harness."""
        self.begin()
        self.project.floor.append([self._event(Safe(who=self.hand, ok=ok))])
        self.proof.disconnected = ok

    def take_as_is(self, who: str, why: str) -> None:
        """Somebody answers for proving a unit whose steps aren't in the log."""
        if not who.strip() or not why.strip():
            raise InputError.of("store.say-who-takes-unit")
        self.project.floor.append([self._event(AsIs(who=name_kept(who), why=said_kept(why)))])
        self.read()

    def answer(self, value: float | None = None, ok: bool | None = None, simulated: bool = False) -> Answer:
        """An answer, logged."""
        one = self.proof.answer(value, ok)
        self.keep(one, simulated)
        return one

    def keep(self, one: Answer, simulated: bool = False) -> None:
        """Logs an answer that the proof took already; one of a simulated unit is marked as such for good."""
        self.begin()
        more = {"by": self.hand} | ({"source": SIMULATED} if simulated else {})
        event = self._event(self.proof.entry(one).model_copy(update=more))
        self.project.floor.append([event])
        self.logged.append(event)

    def take_back(self) -> None:
        """Takes the last answer back, and what closed the proof after it; `load` it anew then. StoreError where there
        is none."""
        if not self.logged:
            raise StoreError.of("store.nothing-was-answered-yet")
        gone = [*self.closing, self.logged[-1]]
        self.project.floor.append(self._event(Undo(of=one.id)) for one in gone)
        self.closing.clear()
        self.logged.pop()

    def close_with(self, who: str, verdict: Verdict | None = None) -> str:
        """Once nothing is left to ask: whose word it is that it is proven, or the likeliest faults (`verdict`, where it
        is known already), signed by this station. What is lacking before the unit is proven, "" where nothing is, or
        more is to ask. StoreError where the log has what this proof doesn't know: nothing is closed on half of what is
        known."""
        if self.proof.now is not None or self.closing:
            return ""
        answered = [one.id for one in self.logged]
        self.read()
        if [one.id for one in self.logged] != answered or self.closing:
            raise StoreError.of("store.unit-changed-meanwhile")
        who = who.strip() or next((act.by for one in reversed(self.logged) if isinstance(act := one.act, Test)), "")
        if self.proof.complete and not who:
            raise StoreError.of("store.say-who-proved")
        closing: Sequence[Event] = ()
        if not self.proof.complete:
            closing = [
                self._event(
                    Found(
                        what=one.fault.what,
                        where=one.fault.place,
                        says=str(one.words)[:1000],
                        probability=round(one.probability, 4),
                    )
                )
                for one in (verdict or self.proof.verdict()).causes[:6]
            ]
        elif not self.record.lacks:
            told = f"{len(self.proof.answers)} answers, all in their bands"
            closing = [self._event(Proven(ok=True, who=who, told=told))]
        self.project.floor.append_with(closing, (), "proof")
        self.read()
        return str(self.record.lacks)

    def _event(self, act: Act) -> Event:
        return Event(new_id(), self.build, now_ms(), act, self.unit)


def meter_of(begun: Proof) -> Meter:
    """The meter a proof was begun with."""
    amps = begun.amps if 0 <= begun.amps <= MOST_AMPS else 0.0
    if not begun.floor_ohm and not begun.share:
        return Meter(begun.four_wire, amps=amps)
    if begun.four_wire:
        return Meter(True, four_ohm=begun.floor_ohm, four_share=begun.share, amps=amps)
    return Meter(False, two_ohm=begun.floor_ohm, two_share=begun.share, amps=amps)


def _said_of(meter: Meter) -> tuple[bool, float, float]:
    """What bands follow from. The supply for millivolts is as the proof was begun."""
    return meter.four_wire, meter.floor_ohm, meter.four_share if meter.four_wire else meter.two_share


def _leads(four: bool) -> str:
    return "four-wire leads" if four else "a two-wire meter"
