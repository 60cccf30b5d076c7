"""What is written down in the log of builds: one frozen model for each kind of act. Who handles acts matches on their
types, so that a kind that is added is asked for wherever acts are told apart. Acts of a unit that is made are in
`unit_acts`.

Alone in its module: the store reads logs without loading how things are made.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import Field

from umber_trunk.core.make.unit_acts import AsIs, Deviation, Found, Mended, Proof, Proven, Safe, Serial, Test, Upgrade
from umber_trunk.core.make.written import Digest, Figure, Hex, Key, Name, Voids, Words, Written


class Begin(Written):
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


class Planned(Written):
    """A build of an earlier format planned once more, and frozen: how it was planned when it was begun isn't known."""

    kind: ClassVar[str] = "planned"
    design: Digest
    order: Digest
    version: Words = ""


class Done(Written):
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


class Undo(Written):
    """Another act taken back."""

    kind: ClassVar[str] = "undo"
    of: Key


class Read(Written):
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


class Defect(Written):
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


class Remake(Written):
    """An end started over: the steps it voids, the wire it eats."""

    kind: ClassVar[str] = "remake"
    wire: Key
    side: Literal["start", "finish"]
    voids: Voids
    eaten_mm: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
    why: Words = ""


class Scrap(Written):
    """A wire given up."""

    kind: ClassVar[str] = "scrap"
    wire: Key
    voids: Voids
    why: Words = ""


class Release(Written):
    """Somebody lets a step go on without what it wants."""

    kind: ClassVar[str] = "release"
    who: Words = ""
    why: Words = ""


class Reset(Written):
    """A tool or die set anew."""

    kind: ClassVar[str] = "reset"
    tool: Words
    setting: Words = ""
    voids: Voids = ()
    why: Words = ""


class Sample(Written):
    """A sample asked for in the middle of a batch: it is made and measured once more; the tool's charts go on."""

    kind: ClassVar[str] = "sample"
    tool: Words
    setting: Words = ""
    voids: Voids = ()


class Pause(Written):
    """The bench left."""

    kind: ClassVar[str] = "pause"


class Note(Written):
    """Words, or a photograph: its file's name, and the digest of the `picture` that is kept; "" in logs of earlier
    versions, which kept its path. `both` are two entries of two stations of which somebody says that both stand."""

    kind: ClassVar[str] = "note"
    says: Words = ""
    photo: Words = ""
    picture: Digest = ""
    who: Words = ""
    why: Words = ""
    both: Annotated[tuple[Key, ...], Field(max_length=2)] = ()


class Strike(Written):
    """An entry found wrong after it was merged: it is kept, and counts no more. `stands` is the one of another station
    that stands in its place."""

    kind: ClassVar[str] = "strike"
    of: Key
    stands: Key | Literal[""] = ""
    who: Name
    why: Annotated[str, Field(min_length=1, max_length=2000)]


class Merged(Written):
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


class Signed(Written):
    """A station's signature over the chain up to the entry before this one: at the close of what, by which key."""

    kind: ClassVar[str] = "signed"
    what: Literal["sitting", "proof", "certificate", "merge", "strike", "key"]
    key: Hex
    name: Words = ""
    entries: Annotated[int, Field(ge=0)]
    seal: Hex
    signature: Hex


class KeyAct(Written):
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
BY_KIND: dict[str, type[Written]] = {one.kind: one for one in get_args(Act) if one is not Unknown}
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
