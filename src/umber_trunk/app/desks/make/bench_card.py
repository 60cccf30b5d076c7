"""What the bench shows of a step, as words and pictures: a value that the view paints."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from umber_trunk.core.ends.faces import Face
from umber_trunk.core.ends.strip import Strip


@dataclass(frozen=True)
class Chip:
    """A piece of a handful: its name, its wire's colours; `state` is open, begun, done or held."""

    name: str
    colour: str = ""
    stripe: str = ""
    state: str = "open"


@dataclass(frozen=True)
class SetUp:
    """What to set before a tool's first piece. `values`: its last readings, with the limits they keep to."""

    tool: str
    setting: str
    limits: tuple[str, ...] = ()
    told: str = ""
    values: tuple[float, ...] = ()
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Card:
    """Everything the bench shows of a step, as words and pictures. `headline` says of the handful what, how many and
    which setting; `text` the step of the piece in hand."""

    verb: str
    text: str
    facts: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    wanted: str = ""
    said: str = ""
    wrong: bool = False
    done: int = 0
    whole: int = 0
    left: str = ""
    coming: tuple[str, ...] = ()
    before: tuple[str, ...] = ()
    strip: Strip | None = None
    face: Face | None = None
    cavity: str = ""
    length_m: float | None = None
    colour: str = ""
    stripe: str = ""
    headline: str = ""
    chips: tuple[Chip, ...] = ()
    chosen: int = -1
    attests: str = ""
    lay_out: str = ""
    lit: Mapping[str, str] = field(default_factory=dict)
    set_up: SetUp | None = None
