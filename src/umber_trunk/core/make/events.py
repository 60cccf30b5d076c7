"""What is written down in the log of builds: one frozen model for each kind of act. Who handles acts matches on their
types, so that a kind that is added is asked for wherever acts are told apart.

Alone in its module: the store reads logs without loading how things are made.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field

Words = Annotated[str, Field(max_length=2000)]
Figure = Annotated[float, Field(ge=-1e12, le=1e12, allow_inf_nan=False, strict=True)]
Key = Annotated[str, Field(max_length=500)]
Voids = Annotated[tuple[Key, ...], Field(max_length=20_000)]
Digest = Annotated[str, Field(pattern="^([0-9a-f]{64})?$")]
Hex = Annotated[str, Field(pattern="^[0-9a-f]*$", max_length=256)]
Name = Annotated[str, Field(min_length=1, max_length=80)]


class _Act(BaseModel):
    """What every act may have: whose hand, at which station. Fields a newer program adds are kept."""

    model_config = ConfigDict(extra="allow", frozen=True, defer_build=True, populate_by_name=True)
    kind: ClassVar[str] = ""
    hand: Words = ""
    station: Words = ""


class Begin(_Act):
    """A build begun: its units, the revision, and the digests of the frozen design and order that `version` of the
    program made of it. A log of an earlier format has no digests: `Planned` follows."""

    kind: ClassVar[str] = "begin"
    units: Annotated[tuple[Annotated[int, Field(ge=1, le=10_000)], ...], Field(min_length=1, max_length=10_000)]
    school: Literal["operation", "wire"]
    hands: Annotated[int, Field(ge=1, le=20)]
    revision: Annotated[int, Field(ge=1)]
    harness: Words = ""
    faults: int = 0
    version: Words = ""
    design: Digest = ""
    order: Digest = ""


class Planned(_Act):
    """A build of an earlier format planned once more, and frozen: how it was planned when it was begun isn't known."""

    kind: ClassVar[str] = "planned"
    design: Digest
    order: Digest
    version: Words = ""


class Done(_Act):
    """A step done, and what was cut from which coil. Those attested at once have the name of their `handful` in common,
    and share its time."""

    kind: ClassVar[str] = "done"
    op: Words = ""
    tool: Words = ""
    setting: Words = ""
    wire: Words = ""
    coil: Words = ""
    coil_m: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = 0.0
    seconds: Figure | None = None
    handful: Key = ""


class Undo(_Act):
    """Another act taken back."""

    kind: ClassVar[str] = "undo"
    of: Key


class Read(_Act):
    """A reading of a gauge at a step, with the limits it was judged by."""

    kind: ClassVar[str] = "read"
    what: Words
    value: Figure
    unit: Words = ""
    low: Figure | None = None
    high: Figure | None = None
    source: Words = ""
    verdict: Words = ""
    tool: Words = ""
    setting: Words = ""
    part: Words = ""
    area_mm2: Figure | None = None
    sample: bool = False
    by: Words = ""


class Defect(_Act):
    """A fault seen at a step, and what it comes to."""

    kind: ClassVar[str] = "defect"
    code: Words = ""
    says: Words = ""
    comes_to: Words = ""
    note: Words = ""
    photo: Words = ""
    wire: Words = ""
    side: Words = ""
    tool: Words = ""
    setting: Words = ""
    part: Words = ""


class Remake(_Act):
    """An end started over: the steps it voids, the wire it eats."""

    kind: ClassVar[str] = "remake"
    wire: Key
    side: Literal["start", "finish"]
    voids: Voids
    eaten_mm: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
    why: Words = ""


class Scrap(_Act):
    """A wire given up."""

    kind: ClassVar[str] = "scrap"
    wire: Key
    voids: Voids
    why: Words = ""


class Release(_Act):
    """Somebody lets a step go on without what it wants."""

    kind: ClassVar[str] = "release"
    who: Words = ""
    why: Words = ""


class Reset(_Act):
    """A tool or die set anew."""

    kind: ClassVar[str] = "reset"
    tool: Words
    setting: Words = ""
    voids: Voids = ()
    why: Words = ""


class Sample(_Act):
    """A sample asked for in the middle of a batch: it is made and measured once more; the tool's charts go on."""

    kind: ClassVar[str] = "sample"
    tool: Words
    setting: Words = ""
    voids: Voids = ()


class Pause(_Act):
    """The bench left."""

    kind: ClassVar[str] = "pause"


class Note(_Act):
    """Words, or a photograph: its file's name, and the digest of the `picture` that is kept; "" in logs of earlier
    versions, which kept its path. `both` are two entries of two stations of which somebody says that both stand."""

    kind: ClassVar[str] = "note"
    says: Words = ""
    photo: Words = ""
    picture: Digest = ""
    who: Words = ""
    why: Words = ""
    both: Annotated[tuple[Key, ...], Field(max_length=2)] = ()


class Proof(_Act):
    """A proof begun: the digest of its frozen list, the meter's leads and error, whether there is a switch box, what
    the supply for millivolts gives, how often each kind of fault was met till then. All its readings are judged by that
    list."""

    kind: ClassVar[str] = "proof"
    tests: Digest
    four_wire: bool = True
    box: bool = True
    floor_ohm: Figure = 0.0
    share: Figure = 0.0
    amps: Figure = 0.0
    shares: dict[Words, Figure] = Field(default_factory=dict, max_length=40)
    who: Words = ""
    version: Words = ""


class Safe(_Act):
    """The question before high voltage and power: are the electronics off and does nobody touch the harness?"""

    kind: ClassVar[str] = "safe"
    who: Words = ""
    ok: bool = True


class Test(_Act):
    """An answer of a proof: to test `n` of its list, 0 for a reading that followed up."""

    kind: ClassVar[str] = "test"
    n: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    test: Annotated[Words, Field(alias="kind")]
    a: Annotated[str, Field(max_length=12_000)] = ""
    b: Annotated[str, Field(max_length=12_000)] = ""
    value: Figure | None = None
    over: bool = False
    unit: Words = ""
    low: Figure | None = None
    high: Figure | None = None
    ok: bool
    by: Words = ""
    source: Words = ""


class Proven(_Act):
    """Somebody's word that a proof passed: a note. What stands says whether it did."""

    kind: ClassVar[str] = "proven"
    ok: bool
    who: Words
    told: Words = ""


class Found(_Act):
    """A fault named by a proof."""

    kind: ClassVar[str] = "found"
    what: Words = ""
    where: Words = ""
    says: Words = ""
    probability: Figure | None = None


class AsIs(_Act):
    """A unit somebody else made: its steps aren't in the log, and somebody answers for proving it as it is."""

    kind: ClassVar[str] = "as-is"
    who: Name
    why: Annotated[str, Field(min_length=1, max_length=2000)]


class Serial(_Act):
    """A unit's serial."""

    kind: ClassVar[str] = "serial"
    serial: Name


class Upgrade(_Act):
    """A unit that goes on in a build of another revision."""

    kind: ClassVar[str] = "upgrade"
    revision: Annotated[int, Field(ge=1)]
    voids: Voids
    who: Words = ""
    to: Words = ""


class Deviation(_Act):
    """What is otherwise than planned, and who decided it."""

    kind: ClassVar[str] = "deviation"
    says: Words = ""
    who: Words = ""
    why: Words = ""


class Mended(_Act):
    """A repair: the unit isn't what was tested any more. `was` is the kind of fault that was found, "" where nobody
    said."""

    kind: ClassVar[str] = "mended"
    was: Words = ""
    says: Words = ""
    who: Words = ""
    why: Words = ""


class Strike(_Act):
    """An entry found wrong after it was merged: it is kept, and counts no more. `stands` is the one of another station
    that stands in its place."""

    kind: ClassVar[str] = "strike"
    of: Key
    stands: Key | Literal[""] = ""
    who: Name
    why: Annotated[str, Field(min_length=1, max_length=2000)]


class Merged(_Act):
    """Another station's log taken in: how many of its entries came just before this one, how many of
    those at their end no signature covers, whose key signed the others. `otherwise` are builds and proofs frozen
    otherwise than this program plans them, each by its digest."""

    kind: ClassVar[str] = "merged"
    file: Words = ""
    entries: Annotated[int, Field(ge=0, le=10_000_000)] = 0
    unsigned: Annotated[int, Field(ge=0, le=10_000_000)] = 0
    key: Hex = ""
    name: Words = ""
    otherwise: Annotated[tuple[Key, ...], Field(max_length=10_000)] = ()


class Signed(_Act):
    """A station's signature over the chain up to the entry before this one: at the close of what, by which key."""

    kind: ClassVar[str] = "signed"
    what: Literal["sitting", "proof", "certificate", "merge", "strike", "key"]
    key: Hex
    name: Words = ""
    entries: Annotated[int, Field(ge=0)]
    seal: Hex
    signature: Hex


class KeyAct(_Act):
    """What was done about a station's key: a new one, one that was lost, another user; a documented act. It names
    stations, not people."""

    kind: ClassVar[str] = "key"
    act: Literal["new", "lost", "trusted"]
    key: Hex
    name: Words = ""
    who: Words = ""
    why: Words = ""


@dataclass(frozen=True)
class Unknown:
    """An act of a kind this program doesn't know: kept as it is, and said."""

    kind: str
    raw: Mapping[str, Any]
    hand: str = ""
    station: str = ""


Act = (
    Begin
    | Planned
    | Done
    | Undo
    | Read
    | Defect
    | Remake
    | Scrap
    | Release
    | Reset
    | Sample
    | Pause
    | Note
    | Proof
    | Safe
    | Test
    | Proven
    | Found
    | AsIs
    | Serial
    | Upgrade
    | Deviation
    | Mended
    | Strike
    | Merged
    | Signed
    | KeyAct
    | Unknown
)
"""Everything an entry can be."""
BY_KIND: dict[str, type[_Act]] = {one.kind: one for one in get_args(Act) if one is not Unknown}
"""Kind → its model."""


@dataclass(frozen=True)
class Event:
    """Something that happened: `id` is like no other, `at_ms` since 1970, `step` the key of the step it is about, `act`
    what it was. `n` is its place in the log, 0 while it has none."""

    id: str
    build: str
    at_ms: int
    act: Act
    unit: int = 0
    step: str = ""
    n: int = 0

    @property
    def kind(self) -> str:
        """The word for what it is."""
        return self.act.kind

    @cached_property
    def data(self) -> Mapping[str, Any]:
        """What is kept of the act, as plain data."""
        if isinstance(self.act, Unknown):
            return self.act.raw
        return self.act.model_dump(mode="json", exclude_unset=True, by_alias=True)


def act_of(kind: str, data: Any) -> Act:
    """The act of a kind and its plain data. ValueError where something of them is no such thing; a kind not known is
    kept as it is."""
    if not isinstance(kind, str) or not kind or len(kind) > 40 or not isinstance(data, dict):
        raise ValueError("no entry of a log")
    model = BY_KIND.get(kind)
    if model is None:
        return Unknown(kind, data, str(data.get("hand", ""))[:80], str(data.get("station", ""))[:80])
    made: Act = model.model_validate(data)  # type: ignore[assignment] # a pydantic ValidationError is a ValueError
    return made


def event(
    id: str,
    build: str,
    at_ms: int,
    kind: str,
    unit: int = 0,
    step: str = "",
    data: Mapping[str, Any] | None = None,
    n: int = 0,
) -> Event:
    """An event of plain data. ValueError for what is none."""
    return Event(id, build, at_ms, act_of(kind, dict(data or {})), unit, step, n)
