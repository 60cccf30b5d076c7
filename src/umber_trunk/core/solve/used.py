"""What a solved harness uses of every limit, as values: by wire, by load, over all cases and in each."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import NamedTuple

from umber_trunk.core.harness.model import Load, Wire
from umber_trunk.core.physics.protection import Protected
from umber_trunk.core.sentences import Message
from umber_trunk.core.solve.guards import Guard
from umber_trunk.core.solve.solution import CaseSolution, Solution
from umber_trunk.core.usual import MET


class Limit(StrEnum):
    """What can govern a size, in the order shown."""

    DROP = "drop"
    HEAT = "heat"
    SURGE = "surge"
    DIP = "dip"
    FUSE = "fuse"
    HANDLING = "handling"


class Use(NamedTuple):
    """How much of a limit is used: 1 is just met. `case` (an id) and `subject` say where it is worst."""

    limit: Limit
    used: float
    case: str = ""
    subject: str = ""

    @property
    def margin(self) -> float:
        """What is left, as a share of the limit; negative when broken."""
        return 1.0 - self.used


class _WireRow(NamedTuple):  # thousands are made an edit: a tuple is the quickest
    wire: Wire
    row: int
    size: str
    amps: float
    conductor_c: float
    limit_c: float
    drop_v: float
    length_m: float
    uses: tuple[Use, ...]
    case: str
    drop_share: float
    worst: Use
    idle: bool = False
    mean_c: float = math.nan


class WireFigures(_WireRow):
    """One wire over all cases: worst current, temperature and drop, and the use of every limit.

    `conductor_c` is the hottest place of it, `mean_c` its mean along it in the case that heats it most.
    Drop and dip are those of the worst load the wire serves; drop_share is the part of that load's
    allowed drop lost in this very wire, which tells the culprit from the bystanders. `worst` is the limit that governs,
    the one most used up. An idle wire is one that no case
    loads: unless its size was chosen, it has none.
    """

    @property
    def size_known(self) -> bool:
        """Whether its size was chosen or follows from what it carries."""
        return self.wire.size is not None or self.wire.signal or not self.idle

    @property
    def shown_size(self) -> str:
        """Its size, "?" where nothing says which."""
        return self.size if self.size_known else "?"

    @staticmethod
    def _own(use: Use) -> bool:
        """Limits of the wire alone; the smallest size for handling counts only when it is broken."""
        if use.limit is Limit.HANDLING:
            return use.used > MET
        return use.limit not in (Limit.DROP, Limit.DIP)

    @cached_property
    def rank(self) -> tuple[float, float]:
        """Sort key, worst first: limits of its own count in full, those of a load by this wire's part."""
        own = max((u.used for u in self.uses if self._own(u)), default=0.0)
        blamed = max((u.used for u in self.uses if u.limit in (Limit.DROP, Limit.DIP)), default=0.0)
        broken = max(
            own if own > MET else 0.0,
            blamed * min(1.0, 2 * self.drop_share) if blamed > MET else 0.0,
        )
        return (-broken, -max(own, blamed))

    @property
    def ok(self) -> bool:
        """All limits met, and its size known."""
        return self.worst.used <= MET and self.size_known

    @cached_property
    def guilt(self) -> float:
        """How badly it is used, from its rank: over 1 only when it is a culprit itself."""
        broken, worst = self.rank
        return float(-broken if -broken > 1 else min(-worst, 1.0))


class LoadFigures(NamedTuple):
    """One load in its worst case (an id): what arrives, what its source loses inside (sag), and the drop in the wiring
    that is left to it, with the rule it comes from. A collapsed load has no voltage."""

    load: Load
    row: int
    volts: float
    amps: float
    nominal_v: float
    allowed_v: float
    rule: Message
    surge_v: float | None
    case: str
    sag_v: float = 0.0
    collapsed: bool = False
    settled: bool = True

    @property
    def drop_v(self) -> float:
        """Nominal less what arrives."""
        return self.nominal_v - self.volts

    @property
    def wiring_v(self) -> float:
        """What is lost between the source's terminals and the load."""
        return self.drop_v - self.sag_v

    @property
    def drop_percent(self) -> float:
        """Drop as a share of nominal."""
        return 100 * self.drop_v / self.nominal_v

    @property
    def used(self) -> float:
        """Share of the drop allowed in the wiring; infinite when unfed or collapsed."""
        return self.wiring_v / self.allowed_v if math.isfinite(self.volts) else math.inf

    @property
    def surge_ok(self) -> bool:
        """The dip under any surge stays above the load's lowest working voltage, and above nothing at all."""
        return self.surge_v is None or (self.surge_v > 0 and self.surge_v >= (self.load.min_volts or 0.0))

    @property
    def ok(self) -> bool:
        """Fed within its drop, surges included, in a case that has a steady answer."""
        return self.settled and self.used <= MET and self.surge_ok and not self.volts <= 0


@dataclass(frozen=True)
class Figures:
    """Everything the desks show of one solution, by id. `bare` maps rows of feeds without a fuse to how far they run
    from the source; `protected` rows of guarded wires to how their fuse was judged."""

    solution: Solution
    wires: dict[str, WireFigures]
    loads: dict[str, LoadFigures]
    guards: list[Guard | None]
    bare: dict[int, float]
    by_case: dict[str, dict[str, LoadFigures]] = field(default_factory=dict)
    protected: dict[int, Protected] = field(default_factory=dict)

    @cached_property
    def cases(self) -> dict[str, CaseSolution]:
        """Case id → its solution."""
        return {case.case.id: case for case in self.solution.cases}

    @cached_property
    def wires_ok(self) -> bool:
        """Every limit of every wire holds, and every size is known."""
        return all(row.worst.used <= MET and row.size_known for row in self.wires.values())

    def case_name(self, case_id: str) -> str:
        """A case in words."""
        case = self.cases.get(case_id)
        return case.case.name if case else case_id
