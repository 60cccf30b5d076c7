"""One thing to do for one unit, and what every kind of it brings: its place and its cautions."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.sentences import Message, say

OPS = (
    "measure", "cut", "label", "lay", "thread", "strip", "fold", "crimp", "solder", "insert", "plug", "lock", "sleeve", "shrink", "twist", "split", "tape",
    "clamp", "torque", "tie", "look", "tug", "extract", "test",
)  # fmt: skip
"""Every kind of operation."""
CUTTER, TWISTER, METER = "cutter", "twisting hook", "meter"
PLACES = {"cut": "cutting bench", "measure": "cutting bench", "label": "label printer", "strip": "press bench", "crimp": "press bench", "solder": "soldering place", "twist": "press bench"}  # fmt: skip


@dataclass(frozen=True)
class Operation:
    """One thing to do for one unit. `after` are keys of operations it waits for; `cautions` what stands on it;
    `length_m` where it is about a length; `area_mm2` is the conductor's, `barrel_mm2` that of all in the barrel it goes
    into where that is more or folded double; `sample`: on a sample piece, once for all units; `shared`: once for all
    units too, such as setting the stop."""

    key: str
    op: str
    says: Message
    wire: str = ""
    end: str = ""
    side: str = ""
    cavity: str = ""
    housing: str = ""
    part: str = ""
    tool: str = ""
    setting: str = ""
    place: str = ""
    after: tuple[str, ...] = ()
    told: str = ""
    cautions: tuple[str, ...] = ()
    length_m: float | None = None
    area_mm2: float = 0.0
    barrel_mm2: float = 0.0
    sample: bool = False
    shared: bool = False

    @property
    def text(self) -> str:
        """What to do, in a sentence."""
        return self.says.text

    @property
    def state(self) -> tuple[str, str]:
        """Tool and setting; changing either is a tool change."""
        return self.tool, self.setting


def cautions_of(op: str) -> tuple[str, ...]:
    """What stands on a step of a kind, keys of `CAUTIONS`."""
    return {
        "strip": ("eyes",),
        "crimp": ("pinch", "eyes"),
        "solder": ("fumes", "heat"),
        "shrink": ("heat",),
        "torque": (),
    }.get(op, ())


CAUTIONS = ("eyes", "pinch", "fumes", "heat", "disconnect")
"""The short cautions that stand on steps, by their keys."""


def caution_told(key: str) -> str:
    """A caution's words, by its key in `CAUTIONS`."""
    return say(f"caution.step.{key}")
