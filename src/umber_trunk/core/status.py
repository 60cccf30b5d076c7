"""What each stage of the work is at: nothing yet, open, at fault, under way, done; worked out from what stands now,
never said of nothing.

Faults come before what is open, that before what is under way, that before done. A tick is for done alone, and says
what it rests on.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.sentences import NOTHING, Message, joined
from umber_trunk.core.stages import STAGES

if TYPE_CHECKING:
    from umber_trunk.core.keep.unit_record import UnitRecord
    from umber_trunk.core.kit.coils import Piece
    from umber_trunk.core.results import Results

State = Literal["nothing", "open", "faults", "doing", "done"]
MOST_NAMED = 3
"""Findings a stage's state names."""


@dataclass(frozen=True)
class BuildFacts:
    """How far a build is: steps done of its order's."""

    name: str
    done: int
    of: int


@dataclass(frozen=True)
class Facts:
    """What the file says beside the design: builds begun, units, how much of the log is signed, what is wrong with it,
    and what its shelf and log bring as findings. `shelf` is who waived a shelf or how many coils were read, "" for
    neither; `todo` what is still to cut: of the open builds; before any is begun of one unit, with its samples where a
    shelf was read or waived."""

    builds: tuple[BuildFacts, ...] = ()
    units: tuple[UnitRecord, ...] = ()
    entries: int = 0
    unsigned: int = 0
    wrong: Message = NOTHING
    shelf: str = ""
    findings: tuple[Finding, ...] = field(default=())
    todo: tuple[Piece, ...] = ()


@dataclass(frozen=True)
class StageState:
    """One stage: `done` of `of` where it is counted, the number of faults or of what is open in `of` otherwise; `why`
    says it in a sentence, `next` what to do."""

    stage: str
    state: State
    done: int
    of: int
    why: Message
    next: Message

    @property
    def badge(self) -> str:
        """What stands on its tag."""
        return {
            "nothing": "–",
            "open": f"△ {self.of}",
            "faults": f"✕ {self.of}",
            "doing": f"{self.done}/{self.of}",
            "done": "✓",
        }[self.state]


@dataclass(frozen=True)
class _Counted:
    """What a stage has of its own: how much is done of how much, what it rests on, what is open beside its findings,
    what to do next."""

    there: bool
    done: int
    of: int
    rests: Message = NOTHING
    open: tuple[Message, ...] = ()
    faults: tuple[Message, ...] = ()
    next: Message = NOTHING


def stage_states(results: Results | None, facts: Facts) -> tuple[StageState, ...]:
    """Every stage, in the order of the work."""
    rows = [*(results.findings if results is not None else ()), *facts.findings]
    counted = {
        "needs": _needs, "runs": _runs, "sizes": _sizes, "ends": _ends, "kit": _kit, "make": _make, "prove": _prove, "keep": _keep,
    }  # fmt: skip
    return tuple(
        _state(stage.id, counted[stage.id](results, facts), [one for one in rows if one.stage == stage.id])
        for stage in STAGES
    )


def next_of(states: Sequence[StageState]) -> StageState:
    """The stage to go on at: the first that isn't done; the last where all are."""
    return next((one for one in states if one.state != "done"), states[-1])


def _state(stage: str, mine: _Counted, findings: list[Finding]) -> StageState:
    faults = [*(one.says for one in findings if one.severity is Severity.FAULT), *mine.faults]
    open_ = [*(one.says for one in findings if one.severity is Severity.WARNING), *mine.open]
    mends = [one.mends for one in sorted(findings, key=lambda one: one.severity) if one.severity is not Severity.NOTE]
    step = mends[0] if mends else mine.next
    said = [Message.of("state.faults", many=len(faults), first=faults[0])] if faults else []
    said += [Message.of("state.open", many=len(open_), first=open_[0])] if open_ else []
    if mine.there and mine.done < mine.of and mine.rests:
        said.append(mine.rests)
    if faults:
        return StageState(stage, "faults", mine.done, len(faults), joined("state.both", said), step)
    if open_:
        return StageState(stage, "open", mine.done, len(open_), joined("state.both", said), step)
    if not mine.there:
        return StageState(
            stage,
            "nothing",
            0,
            0,
            Message.of(f"state.{stage}.nothing"),
            mine.next or Message.of(f"next.{stage}.nothing"),
        )
    if mine.done < mine.of:
        return StageState(stage, "doing", mine.done, mine.of, mine.rests, mine.next)
    return StageState(stage, "done", mine.done, mine.of, mine.rests, Message.of("next.done"))


def _needs(results: Results | None, _: Facts) -> _Counted:
    loads, supplies = (results.design.loads, results.design.supplies) if results else ((), ())
    if not loads or not supplies or results is None:
        return _Counted(False, 0, 0)
    many = len(loads)
    return _Counted(
        True,
        many,
        many,
        Message.of("state.needs.done", loads=many, supplies=len(supplies), cases=len(results.design.cases) or 1),
    )


def _runs(results: Results | None, _: Facts) -> _Counted:
    segments = results.design.segments if results else ()
    many = len(segments)
    return _Counted(bool(segments), many, many, Message.of("state.runs.done", many=many) if many else NOTHING)


def _sizes(results: Results | None, _: Facts) -> _Counted:
    wires = results.figures.wires if results else {}
    if results is None or not wires:
        return _Counted(False, 0, 0)
    known = sum(one.size_known for one in wires.values())
    proposed = sum(key in results.sizes for key in wires)
    many, cases = len(wires), len(results.figures.solution.cases)
    rests = Message.of("state.sizes.done", many=many, cases=cases, proposed=proposed)
    return _Counted(
        True,
        known,
        many,
        rests if known == many else Message.of("state.sizes.doing", known=known, many=many),
        next=Message.of("next.sizes.doing"),
    )


def _ends(results: Results | None, _: Facts) -> _Counted:
    from umber_trunk.core.ends.fits import fits
    from umber_trunk.core.ends.wire_ends import places_of

    if results is None or not results.design.wires:
        return _Counted(False, 0, 0)
    ends, judged = places_of(results.design, results.shelf).ends, results.once(fits)
    known = sum(one.made is not None for one in ends)
    if not known:
        return _Counted(False, 0, 0)
    rests = Message.of("state.ends.done", known=known, fits=len(judged))
    return _Counted(
        True,
        known,
        len(ends),
        rests if known == len(ends) else Message.of("state.ends.doing", known=known, many=len(ends)),
        next=Message.of("next.ends.doing"),
    )


def _kit(results: Results | None, facts: Facts) -> _Counted:
    many = len(results.design.wires) if results else 0
    if not many:
        return _Counted(False, 0, 0)
    if not facts.builds and not facts.todo:
        return _Counted(True, 0, many, open=(Message.of("state.kit.open"),))
    code = "state.kit.one" if not facts.builds else "state.kit.left" if facts.todo else "state.kit.cut"
    return _Counted(True, many, many, Message.of(code, many=len(facts.todo), shelf=facts.shelf))


def _make(_: Results | None, facts: Facts) -> _Counted:
    if not facts.builds:
        return _Counted(False, 0, 0)
    open_ = [one for one in facts.builds if one.done < one.of]
    if open_:
        done, of = sum(one.done for one in open_), sum(one.of for one in open_)
        names = ", ".join(one.name for one in open_[:MOST_NAMED])
        rests = Message.of("state.make.doing", done=done, of=of, names=names)
        return _Counted(True, done, of, rests, next=Message.of("next.make.doing", name=open_[-1].name))
    units = sum(not one.moved_to for one in facts.units)
    steps = sum(one.of for one in facts.builds)
    return _Counted(
        True, steps, steps, Message.of("state.make.done", units=units, builds=len(facts.builds), steps=steps)
    )


def _prove(_: Results | None, facts: Facts) -> _Counted:
    built = [
        one
        for one in facts.units
        if not one.moved_to and one.order and (one.left == 0 or one.as_is is not None or one.was is not None)
    ]
    if not built:
        return _Counted(False, 0, 0)
    left = [one for one in built if not one.certain]
    going = [one for one in left if one.answered and not one.faulty]
    if going and len(going) == len(left):
        done, of = sum(one.answered for one in going), sum(one.of for one in going)
        if done < of:
            names = ", ".join(one.name for one in going[:MOST_NAMED])
            return _Counted(
                True,
                done,
                of,
                Message.of("state.prove.doing", done=done, of=of, names=names),
                next=Message.of("next.prove.doing", name=going[0].name),
            )
    if left:
        told = tuple(Message.of("state.prove.open", name=one.name, why=one.reason or one.state) for one in left)
        return _Counted(
            True,
            len(built) - len(left),
            len(built),
            NOTHING,
            told,
            next=Message.of("next.prove.open", name=left[0].name, many=len(left)),
        )
    tests, last = sum(one.proven.tests for one in built if one.proven), built[-1]
    return _Counted(
        True,
        tests,
        tests,
        Message.of("state.prove.done", tests=tests, units=len(built), last=last.name, why=last.reason),
    )


def _keep(_: Results | None, facts: Facts) -> _Counted:
    if not facts.units:
        return _Counted(False, 0, 0)
    faulty = tuple(
        Message.of("state.keep.faulty", name=one.name, why=one.reason or one.state)
        for one in facts.units
        if one.faulty and not one.moved_to
    )
    wrong = (facts.wrong,) if facts.wrong else ()
    open_ = (Message.of("state.keep.unsigned", many=facts.unsigned),) if facts.unsigned else ()
    step = Message.of("next.keep.faulty") if faulty else Message.of("next.keep.unsigned")
    return _Counted(
        True,
        facts.entries,
        facts.entries,
        Message.of("state.keep.done", units=len(facts.units), entries=facts.entries),
        open_,
        (*wrong, *faulty),
        step,
    )
