"""A unit as it is shown, compared and certified: what its log says of it that stands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from umber_trunk.core.make.events import Defect, Event, Note, Read, Release, Remake, Scrap, Strike
from umber_trunk.core.make.unit_acts import AsIs, Deviation, Found, Mended, Test
from umber_trunk.core.moments import day
from umber_trunk.core.sentences import NOTHING, Message, say

if TYPE_CHECKING:
    from umber_trunk.core.keep.stations import Dispute
    from umber_trunk.core.make.frozen import Making
    from umber_trunk.core.prove.checklist import Plan


@dataclass(frozen=True)
class Inputs:
    """What a fold asks of the file: the order a build was frozen with and the list a proof was, each by its digest,
    None where it isn't there or can't be read."""

    making: Callable[[str], Making | None]
    tests: Callable[[str], Plan | None]
    signed_to: int | None = None
    """The last entry that a valid signature covers; None where the log can't be trusted: then nothing is proven."""


@dataclass(frozen=True)
class Passed:
    """A proof that stands: who, when it was complete, on how many tests of its list."""

    who: str
    at_ms: int
    tests: int


@dataclass
class UnitRecord:
    """What the log says of one unit. `tests` are the answers of its proof since it began, `proven` what stands of it,
    None while it isn't;
    `ended`: what ended a proof that stood once. `found` are faults that were named on it. `order`, `list` are the
    digests it is held to."""

    build: str
    unit: int
    revision: int
    begun_ms: int
    serial: str = ""
    order: str = ""
    design: str = ""
    earlier: bool = False
    """Begun by an earlier format: planned once more, and frozen then."""
    hands: set[str] = field(default_factory=set)
    tools: set[tuple[str, str]] = field(default_factory=set)
    coils: dict[str, set[str]] = field(default_factory=dict)
    done: dict[str, Event] = field(default_factory=dict)
    readings: list[tuple[Event, Read]] = field(default_factory=list)
    tests: list[tuple[Event, Test]] = field(default_factory=list)
    before: list[tuple[Event, Test]] = field(default_factory=list)
    """Tests of this unit that its proof doesn't rest on any more: records."""
    defects: list[tuple[Event, Defect]] = field(default_factory=list)
    remakes: list[tuple[Event, Remake]] = field(default_factory=list)
    scrapped: list[tuple[Event, Scrap]] = field(default_factory=list)
    said: list[tuple[Event, Deviation | Release | Note | Mended]] = field(default_factory=list)
    found: list[tuple[Event, Found]] = field(default_factory=list)
    struck: list[tuple[Event, Event, Strike]] = field(default_factory=list)
    """Entries struck: (the entry, the one that strikes it, by whom and why)."""
    strange: list[Event] = field(default_factory=list)
    """Entries of a kind this program doesn't know."""
    as_is: tuple[Event, AsIs] | None = None
    words: set[str] = field(default_factory=set)
    """The words that what stands in the log finds it by."""
    proven: Passed | None = None
    was: Passed | None = None
    ended: Message = NOTHING
    ended_ms: int = 0
    lacks: Message = NOTHING
    """What it isn't proven for, nothing where nothing was tried."""
    last_ms: int = 0
    moved_to: str = ""
    """The build in which it goes on, once it was brought to another revision."""
    steps: int = 0
    """Steps its order has, samples left out; `left` of them aren't done."""
    left: int = 0
    open_defects: list[tuple[Event, Defect]] = field(default_factory=list)
    simulated: bool = False
    out_of_band: int = 0
    """Answers of its proof out of their bands, by its list, that weren't read right since."""
    answered: int = 0
    of: int = 0
    """Tests of its list answered in their bands, of how many."""
    disputed: list[Dispute] = field(default_factory=list)
    """What two stations say differently of it, and nobody chose between: nothing is proven across it."""

    untold: tuple[str, ...] = ()
    """What its proof's list can't tell, and `untold_by` who began it so."""
    untold_by: str = ""

    @property
    def name(self) -> str:
        """How it is called: its serial, else build and number."""
        return self.serial or f"{self.build} / {self.unit}"

    @property
    def faulty(self) -> bool:
        """Whether a fault stands on it: named by a proof, seen at the bench, or a reading out of its band."""
        return bool(self.found or self.open_defects or self.out_of_band)

    @property
    def state(self) -> str:
        """In a word: proven (in simulation: certifying nothing), faulty, in the making, or upgraded: it goes on in
        another build."""
        if self.moved_to:
            return "upgraded"
        if self.proven is not None:
            return "proven in simulation" if self.simulated else "proven"
        return "faulty" if self.faulty else "in the making"

    @property
    def state_told(self) -> str:
        """The same as it is said."""
        return state_said(self.state)

    @property
    def certain(self) -> bool:
        """Whether it is proven, by readings of the unit itself: the only thing a certificate is given for."""
        return self.state == "proven"

    @property
    def reason(self) -> Message:
        """Why it is what it is: what the proof rests on, what ended it, or what it lacks."""
        if self.proven is not None:
            passed = self.proven
            return Message.of("proven.why", tests=passed.tests, who=passed.who, day=day(passed.at_ms))
        if self.was is not None:
            since = self.ended or self.lacks
            return Message.of("proven.was", day=day(self.was.at_ms), who=self.was.who, since=since)
        return self.lacks

    @property
    def why(self) -> str:
        """The same in words."""
        return str(self.reason)


def said_of(act: Deviation | Release | Note | Mended) -> str:
    """The words of somebody who decided or remarked something."""
    return act.why if isinstance(act, Release) else act.says or act.why


def state_said(state: str) -> str:
    """One of those states as it is said."""
    return say(f"unit.is.{state.replace(' ', '-')}")
