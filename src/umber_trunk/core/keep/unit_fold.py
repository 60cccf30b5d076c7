"""One unit, folded from the entries that stand: what was done to it, what proves it, and what ended a proof.

Nothing that somebody says makes a unit proven: only every test of its frozen list answered in its band since its last
step that could disturb what was tested, with nothing left to make and nothing seen since.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, assert_never

from umber_trunk.core.keep.answers import judged, station_of, what_of
from umber_trunk.core.keep.marks import marks, people_of
from umber_trunk.core.keep.stations import Dispute
from umber_trunk.core.keep.unit_record import Inputs, Passed, UnitRecord
from umber_trunk.core.make.events import (
    Act,
    Begin,
    Defect,
    Done,
    Event,
    KeyAct,
    Merged,
    Note,
    Pause,
    Planned,
    Read,
    Release,
    Remake,
    Reset,
    Sample,
    Scrap,
    Signed,
    Strike,
    Undo,
    Unknown,
)
from umber_trunk.core.make.unit_acts import AsIs, Deviation, Found, Mended, Proof, Proven, Safe, Serial, Test, Upgrade
from umber_trunk.core.sentences import NOTHING, Message

if TYPE_CHECKING:
    from umber_trunk.core.prove.checklist import Plan
    from umber_trunk.core.prove.checklist import Test as Listed


SIMULATED = "simulated"
"""Source of a reading that a simulated unit gave: it certifies nothing of a real one."""
FOR = (Done, Test, Safe, Proof, AsIs, Release, Mended, Proven)
"""Acts that may speak for a unit."""
HARMLESS = ("look", "label", "measure", "test", "tug")
"""Operations that disturb nothing that was tested before."""
ENERGISED = ("insulation", "polarity", "load", "loop")
"""Tests before which somebody says that the electronics are off and nobody touches the harness."""


class UnitFold:
    """One unit being folded."""

    def __init__(self, record: UnitRecord, inputs: Inputs, otherwise: Collection[str]) -> None:
        self.record, self.inputs, self.otherwise = record, inputs, otherwise
        self.proof: tuple[Event, Proof] | None = None
        self.listed: dict[int, Listed] = {}
        self.words_of: dict[str, str] = {}
        """Ids of what somebody said of the unit, by what it was."""
        self.faults: set[str] = set()
        """Ids of faults that were taken back by who may."""
        self.plan: Plan | None = None
        self.safe = False
        self.ok: dict[int, tuple[Event, Test]] = {}
        """Tests of the list answered in their bands."""
        self.bad: dict[tuple[int, str, str, str], Event] = {}
        """What was answered out of its band and not read right since."""
        self.simulated: set[int] = set()
        self.out: dict[tuple[str, str], Event] = {}
        """Readings at the bench out of their limits, by step and kind, nobody released."""
        self.last: Event | None = None
        self.making = inputs.making(record.order) if record.order else None
        self.keys = self.making.steps_of(record.unit) if self.making is not None else frozenset()
        self.older: Mapping[str, str] = self.making.older if self.making is not None else {}

    def _left(self) -> int:
        return len(self.keys - self.record.done.keys())

    # what stands

    def complete(self) -> Message:
        """What is lacking before it is proven; said in words once somebody asks, since it is asked at every entry."""
        record, plan = self.record, self.plan
        if self.proof is None or plan is None:
            return Message.of("unproven.not-begun" if self.proof is None else "unproven.list-unread")
        if self.making is None:
            return Message.of("unproven.built-to")
        if self.proof[1].tests in self.otherwise:
            return Message.of("unproven.other-list")
        if record.order in self.otherwise and record.as_is is None:
            return Message.of("unproven.other-order")
        if not any(test.probe is not None for test in plan.tests):
            return Message.of("unproven.no-probe")
        if record.as_is is None and (left := self._left()):
            return Message.of("unproven.steps", left=left, steps=len(self.keys))
        if self.bad:
            return Message.of("unproven.out", what=what_of(next(iter(self.bad.values()))), station="")
        if record.found:
            named = record.found[-1][1]
            return Message.of("unproven.named", fault=named.says or named.what, station="")
        if record.open_defects:
            return Message.of("unproven.seen", fault=record.open_defects[-1][1].says, station="")
        if self.out:
            return Message.of("unproven.bench-out")
        open_ = len(plan.tests) - len(self.ok)
        if open_:
            return Message.of("unproven.tests", left=open_, tests=len(plan.tests))
        if not self.safe and any(test.kind in ENERGISED for test in plan.tests):
            return Message.of("unproven.electronics")
        return NOTHING

    def _ends(self, event: Event, why: Message) -> None:
        """A proof that stood ends."""
        record = self.record
        if record.proven is not None:
            record.was, record.proven = record.proven, None
            record.ended, record.ended_ms = why, event.at_ms

    def _look(self, event: Event) -> None:
        """Whether it is proven now that this was taken in."""
        record, lacking = self.record, self.complete()
        if lacking:
            self._ends(event, lacking)
        elif record.proven is None:
            who = next((test.by for _, test in reversed(self.ok.values()) if test.by), "") or (
                self.proof[1].who if self.proof else ""
            )
            record.proven, record.was, record.ended = Passed(who, event.at_ms, len(self.ok)), None, NOTHING
            self.last = event

    def _clear(self, event: Event, why: Message) -> None:
        """What was tested isn't what there is any more."""
        self._ends(event, why)
        self.record.before += self.record.tests
        self.record.tests.clear()
        self.ok.clear()
        self.bad.clear()
        self.simulated.clear()
        self.safe = False

    # one entry

    def take(self, event: Event, undone: bool, struck: tuple[Event, Strike] | None, merged: bool | None) -> None:
        """Takes an entry in: one that is struck, or came with another station's log and isn't signed, counts only as
        far as it speaks against the unit. What is taken back later still ends a proof when it comes."""
        record, act = self.record, event.act
        record.last_ms = max(record.last_ms, event.at_ms)
        if struck is not None:
            record.struck.append((event, *struck))
        proves = isinstance(act, Test | Safe | Proof | AsIs | Proven)
        if proves and event.unit == 0:
            return  # of no unit: proves none
        void = proves and merged is False
        if not undone and not void and struck is None:
            record.hands.update(people_of(act))
            record.words.update(marks(event))
        self._act(event, act, void, undone, merged is not None)

    def _act(self, event: Event, act: Act, void: bool, undone: bool, merged: bool) -> None:
        record = self.record
        match act:
            case Proof():
                if not void:
                    self._begun(event, act)
            case Safe():
                if not void:
                    self.safe = act.ok
                    self.words_of[event.id] = "safe"
                    self._look(event)
            case Test():
                if not (void and act.ok):
                    self._test(event, act)
            case Done():
                self._done(event, act, undone)
            case Read():
                self._read(event, act, undone)
            case Defect():
                self._seen(event, act, undone)
            case Release():
                record.said.append((event, act))
                if not void and not merged and not undone:
                    self._closed([event.step])
                    self._look(event)
            case Remake():
                if not undone:
                    record.remakes.append((event, act))
                why = Message.of("unproven.started-over", wire=act.wire, side=act.side, station=station_of(event))
                self._anew(event, () if undone else act.voids, why)
            case Scrap():
                if not undone:
                    record.scrapped.append((event, act))
                why = Message.of("unproven.scrapped", wire=act.wire, station=station_of(event))
                self._anew(event, () if undone else act.voids, why)
            case Reset() | Sample():
                if not undone:
                    self._voided(act.voids)
            case Mended():
                record.said.append((event, act))
                self._closed([one.step for one, _ in record.open_defects])
                self._anew(event, (), Message.of("unproven.mended", says=act.says))
            case Deviation() | Note():
                if not undone:
                    record.said.append((event, act))
            case Proven():
                self._word(event, act, undone or void)
            case Found():
                if not undone:
                    record.found.append((event, act))
                self._ends(event, Message.of("unproven.named", fault=act.says or act.what, station=station_of(event)))
            case AsIs():
                if not void:
                    self.words_of[event.id] = "as-is"
                    record.as_is = event, act
                    self._look(event)
            case Serial():
                if not void:
                    record.serial = act.serial
            case Upgrade():
                record.moved_to = act.to
                self._ends(event, Message.of("unproven.moved"))
            case Undo():
                self._undo(event, act.of, undone)
            case Strike():
                self._struck(event, act)
            case Unknown():
                record.strange.append(event)
                self._ends(event, Message.of("unproven.unknown", kind=act.kind))
            case Begin() | Planned() | Pause() | Merged() | Signed() | KeyAct():
                pass
            case _:
                assert_never(act)

    def _begun(self, event: Event, act: Proof) -> None:
        self._clear(event, Message.of("unproven.anew"))
        self.proof, self.plan = (event, act), self.inputs.tests(act.tests)
        self.listed = {one.n: one for one in self.plan.tests} if self.plan is not None else {}
        self.record.untold = self.plan.untold if self.plan is not None else ()
        self.record.untold_by = act.who
        self.record.found.clear()

    def _seen(self, event: Event, act: Defect, undone: bool) -> None:
        if undone:
            self.faults.add(event.id)
        else:
            self.record.defects.append((event, act))
        self.record.open_defects.append((event, act))
        self._ends(event, Message.of("unproven.seen", fault=act.says, station=station_of(event)))

    def _word(self, event: Event, act: Proven, idle: bool) -> None:
        """Somebody's word that it is proven is a note; that it isn't ends a proof."""
        record = self.record
        if not act.ok:
            self._ends(event, Message.of("unproven.said"))
        elif record.proven is not None and not idle and act.who:
            record.proven = replace(record.proven, who=act.who)
        elif self.proof is None and record.was is None and not idle:
            record.was, record.ended_ms = Passed(act.who, event.at_ms, len(record.tests)), event.at_ms
            record.ended = Message.of("unproven.not-kept")

    def _done(self, event: Event, act: Done, undone: bool) -> None:
        record, step = self.record, self.older.get(event.step, event.step)
        record.done[step] = event
        if act.tool and not undone:
            record.tools.add((act.tool, act.setting))
        if act.coil and not undone:
            record.coils.setdefault(act.coil, set()).add(act.wire)
        record.open_defects = [
            row for row in record.open_defects if row[0].step != step or row[1].comes_to in ("rework", "scrap")
        ]
        if event.unit == record.unit and act.op not in HARMLESS and record.tests:
            self._clear(event, Message.of("unproven.step-after", step=step.partition("|")[2]))
        self._look(event)

    def _read(self, event: Event, act: Read, undone: bool) -> None:
        if undone:
            return
        self.record.readings.append((event, act))
        at = self.older.get(event.step, event.step), act.what
        if act.verdict in ("rework", "scrap"):
            self.out[at] = event
            self._ends(event, Message.of("unproven.reading", value=act.value, unit=act.unit, station=station_of(event)))
        else:
            self.out.pop(at, None)

    def _closed(self, steps: Collection[str]) -> None:
        """Faults and readings at these steps don't hold any more."""
        self.record.open_defects = [row for row in self.record.open_defects if row[0].step not in steps]
        self.out = {at: one for at, one in self.out.items() if at[0] not in steps}

    def _voided(self, voids: Iterable[str]) -> None:
        keys = [self.older.get(key, key) for key in voids]
        for key in keys:
            self.record.done.pop(key, None)
        self._closed(keys)

    def _anew(self, event: Event, voids: Iterable[str], why: Message) -> None:
        """The unit isn't what was tested any more."""
        self._voided(voids)
        self._clear(event, why)
        self.record.found.clear()

    def _undo(self, event: Event, of: str, undone: bool = False) -> None:
        """An answer, a step or a word of the proof taken back ends it; a fault only where it was taken back by who
        may."""
        record = self.record
        for number, (one, _) in list(self.ok.items()):
            if one.id == of:
                del self.ok[number]
                self.simulated.discard(number)
                record.tests = [row for row in record.tests if row[0].id != of]
                self._ends(event, Message.of("unproven.answer-back"))
        for key, one in list(record.done.items()):
            if one.id == of:
                del record.done[key]
                self._clear(event, Message.of("unproven.step-back", step=key.partition("|")[2]))
        if self.proof is not None and self.proof[0].id == of:
            self._clear(event, Message.of("unproven.proof-back"))
            self.proof = self.plan = None
        if of in self.faults and not undone:
            record.open_defects = [row for row in record.open_defects if row[0].id != of]
            self._look(event)

    def _struck(self, event: Event, act: Strike) -> None:
        self._ends(event, Message.of("unproven.struck", who=act.who, why=act.why))
        self._undo(event, act.of, undone=True)
        if self.words_of.get(act.of) == "safe":
            self.safe = False
        elif self.words_of.get(act.of) == "as-is":
            self.record.as_is = None

    def _test(self, event: Event, act: Test) -> None:
        record = self.record
        record.tests.append((event, act))
        if self.proof is None:
            return
        listed = self.listed.get(act.n) if act.n else None
        key = act.n, act.test, act.a, act.b
        if act.n and (listed is None or (listed.kind, listed.a, listed.b) != key[1:]):
            return  # of another list: a record
        if judged(listed, act) if listed is not None else act.ok:
            self.bad = {one: at for one, at in self.bad.items() if one[1:] != key[1:]}
            if listed is not None:
                self.ok.pop(act.n, None)
                self.ok[act.n] = event, act
                (self.simulated.add if act.source == SIMULATED else self.simulated.discard)(act.n)
        else:
            self.ok.pop(act.n, None)
            self.bad[key] = event
            self._ends(event, Message.of("unproven.out", what=what_of(event), station=station_of(event)))
        self._look(event)

    def close(self, open_: Sequence[Dispute] = ()) -> None:
        """What stands at the end; `open_` is what two stations say differently of it."""
        record, inputs = self.record, self.inputs
        record.simulated = bool(self.simulated) or any(one.source == SIMULATED for _, one in record.tests)
        record.steps, record.left = len(self.keys), 0 if record.as_is is not None else self._left()
        record.out_of_band = len(self.bad)
        record.answered, record.of = len(self.ok), len(self.plan.tests) if self.plan else 0
        record.lacks = self.complete() if self.proof is not None or record.tests else NOTHING
        last = self.last
        if record.proven is not None and last is not None and (inputs.signed_to is None or last.n > inputs.signed_to):
            record.was, record.proven = record.proven, None
            record.ended = Message.of("unproven.unsigned" if inputs.signed_to is not None else "unproven.log")
        record.disputed = list(open_)
        if open_:
            told = Message.of("unproven.disputed", told=open_[0].told)
            if record.proven is not None:
                record.was, record.proven = record.proven, None
                record.ended = told
            elif record.lacks:
                record.lacks = told
        if record.proven is not None:
            record.words.add("proven")
        else:
            record.words.discard("proven")
