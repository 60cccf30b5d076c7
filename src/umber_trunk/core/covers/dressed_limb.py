"""A segment dressed: each covering with what it lies on, what it is cut to, and what is wrong with it."""

from __future__ import annotations

from dataclasses import dataclass, field

from umber_trunk.core.harness.way import CoverKind
from umber_trunk.core.sentences import Message


@dataclass(frozen=True)
class CoverPlan:
    """One covering. Diameters in mm: what it lies on from `inside_low_mm` to `inside_high_mm`, the widest it passes on
    its way, its outside; lengths in m: what it covers with its overhangs, what to cut. `problems` say what doesn't hold
    and what would do; `proposed`: the part is the program's."""

    segment: str
    id: str
    kind: CoverKind
    part: str
    part_name: str
    proposed: bool
    from_m: float
    to_m: float
    inside_mm: float
    inside_low_mm: float
    inside_high_mm: float
    passes_mm: float
    passes_what: str
    outside_mm: float
    outside_plus_mm: float
    covered_m: float
    overhang_m: tuple[float, float]
    cut_m: float
    collars: int
    mass_g: float
    bend_mm: float
    after: bool
    notes: tuple[str, ...] = ()
    problems: tuple[Message, ...] = ()
    options: tuple[str, ...] = ()
    collar: str = ""

    @property
    def ok(self) -> bool:
        """Whether everything holds."""
        return not self.problems


@dataclass(frozen=True)
class LimbPlan:
    """One segment dressed: bundle and outside with its tolerance, mass of wires and coverings, least bend radius, and
    the inside of its tightest bend."""

    segment: str
    bundle_mm: float
    outside_mm: float
    outside_plus_mm: float
    mass_g: float
    least_bend_mm: float
    bend_by: str
    tightest_mm: float | None
    covers: tuple[CoverPlan, ...] = field(default_factory=tuple)
