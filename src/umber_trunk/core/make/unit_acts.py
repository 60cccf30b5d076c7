"""What is written in the log of a unit once it is made: its proof, and what is kept of it after."""

from __future__ import annotations

from typing import Annotated, ClassVar

from pydantic import Field

from umber_trunk.core.make.written import Digest, Figure, Name, Voids, Words, Written


class Proof(Written):
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


class Safe(Written):
    """The question before high voltage and power: are the electronics off and does nobody touch the harness?"""

    kind: ClassVar[str] = "safe"
    who: Words = ""
    ok: bool = True


class Test(Written):
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


class Proven(Written):
    """Somebody's word that a proof passed: a note. What stands says whether it did."""

    kind: ClassVar[str] = "proven"
    ok: bool
    who: Words
    told: Words = ""


class Found(Written):
    """A fault named by a proof."""

    kind: ClassVar[str] = "found"
    what: Words = ""
    where: Words = ""
    says: Words = ""
    probability: Figure | None = None


class AsIs(Written):
    """A unit somebody else made: its steps aren't in the log, and somebody answers for proving it as it is."""

    kind: ClassVar[str] = "as-is"
    who: Name
    why: Annotated[str, Field(min_length=1, max_length=2000)]


class Serial(Written):
    """A unit's serial."""

    kind: ClassVar[str] = "serial"
    serial: Name


class Upgrade(Written):
    """A unit that goes on in a build of another revision."""

    kind: ClassVar[str] = "upgrade"
    revision: Annotated[int, Field(ge=1)]
    voids: Voids
    who: Words = ""
    to: Words = ""


class Deviation(Written):
    """What is otherwise than planned, and who decided it."""

    kind: ClassVar[str] = "deviation"
    says: Words = ""
    who: Words = ""
    why: Words = ""


class Mended(Written):
    """A repair: the unit isn't what was tested any more. `was` is the kind of fault that was found, "" where nobody
    said."""

    kind: ClassVar[str] = "mended"
    was: Words = ""
    says: Words = ""
    who: Words = ""
    why: Words = ""
