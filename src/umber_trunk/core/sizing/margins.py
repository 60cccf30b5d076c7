"""How much of each limit every wire and load uses, over all cases; the worst stands first."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, conductor
from umber_trunk.core.harness.model import Load, Wire
from umber_trunk.core.physics.fuses import protects
from umber_trunk.core.physics.network import LEAST_OHM
from umber_trunk.core.sizing.feeds import worst_served
from umber_trunk.core.sizing.protect import Guard, fault_a, guards
from umber_trunk.core.sizing.solve import CaseSolution, Solution

Floats = NDArray[np.float64]


class Limit(StrEnum):
    """What can govern a size, in the order shown."""

    DROP = "drop"
    HEAT = "heat"
    SURGE = "surge"
    DIP = "dip"
    FUSE = "fuse"
    HANDLING = "handling"


@dataclass(frozen=True)
class Use:
    """How much of a limit is used: 1 is just met. `case` and `subject` say where it is worst."""

    limit: Limit
    used: float
    case: str = ""
    subject: str = ""

    @property
    def margin(self) -> float:
        """What is left, as a share of the limit; negative when broken."""
        return 1.0 - self.used


@dataclass(frozen=True)
class WireFigures:
    """One wire over all cases: worst current, temperature and drop, and the use of every limit.

    Drop and dip are those of the worst load the wire serves; drop_share is the part of that load's
    allowed drop lost in this very wire, which tells the culprit from the bystanders.
    """

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

    @property
    def worst(self) -> Use:
        """The limit that governs: the one most used up."""
        return max(self.uses, key=lambda use: use.used)

    @staticmethod
    def _own(use: Use) -> bool:
        """Limits of the wire alone; the smallest size for handling counts only when it is broken."""
        if use.limit is Limit.HANDLING:
            return use.used > 1 + 1e-6
        return use.limit not in (Limit.DROP, Limit.DIP)

    @property
    def rank(self) -> tuple[float, float]:
        """Sort key, worst first: limits of its own count in full, those of a load by this wire's part."""
        own = max((u.used for u in self.uses if self._own(u)), default=0.0)
        blamed = max((u.used for u in self.uses if u.limit in (Limit.DROP, Limit.DIP)), default=0.0)
        broken = max(
            own if own > 1 + 1e-6 else 0.0,
            blamed * min(1.0, 2 * self.drop_share) if blamed > 1 + 1e-6 else 0.0,
        )
        return (-broken, -max(own, blamed))

    @property
    def ok(self) -> bool:
        """All limits met, with a millionth to spare for rounding."""
        return self.worst.used <= 1 + 1e-6


@dataclass(frozen=True)
class LoadFigures:
    """One load over all cases: lowest voltage, largest drop, its allowed drop and the rule it comes from."""

    load: Load
    row: int
    volts: float
    amps: float
    nominal_v: float
    allowed_v: float
    rule: str
    surge_v: float | None
    case: str

    @property
    def drop_v(self) -> float:
        """Nominal less what arrives."""
        return self.nominal_v - self.volts

    @property
    def drop_percent(self) -> float:
        """Drop as a share of nominal."""
        return 100 * self.drop_v / self.nominal_v

    @property
    def used(self) -> float:
        """Share of the allowed drop; infinite when unfed."""
        return self.drop_v / self.allowed_v if np.isfinite(self.volts) else float("inf")

    @property
    def surge_ok(self) -> bool:
        """The dip under any surge stays above the load's lowest working voltage."""
        return self.surge_v is None or self.load.min_volts is None or self.surge_v >= self.load.min_volts

    @property
    def ok(self) -> bool:
        """Fed within its drop, surges included."""
        return self.used <= 1 + 1e-6 and self.surge_ok


@dataclass(frozen=True)
class Figures:
    """Everything the desks show of one solution, by id."""

    solution: Solution
    wires: dict[str, WireFigures]
    loads: dict[str, LoadFigures]
    guards: list[Guard | None]
    bare: list[int]
    by_case: dict[str, dict[str, LoadFigures]] = field(default_factory=dict)


def allowed_drop(solution: Solution, row: int) -> tuple[float, str]:
    """(volts, rule) of a load: the strictest of its own percent, volts and lowest voltage, or the project's."""
    load = solution.plant.loads[row]
    nominal = float(solution.plant.nominal_v[row])
    rules = []
    if load.max_drop_percent is not None:
        rules.append((load.max_drop_percent / 100 * nominal, f"{load.max_drop_percent:g} % asked for"))
    if load.max_drop_v is not None:
        rules.append((load.max_drop_v, f"{load.max_drop_v:g} V asked for"))
    if not rules:
        percent = solution.plant.design.project.max_drop_percent
        rules.append((percent / 100 * nominal, f"{percent:g} % of the project"))
    if load.min_volts is not None:
        rules.append((nominal - load.min_volts, f"works down to {load.min_volts:g} V"))
    volts, rule = min(rules)
    return max(volts, 1e-6), rule


def figures(solution: Solution) -> Figures:
    """Uses of all limits from a solution."""
    plant = solution.plant
    allowed = [allowed_drop(solution, row) for row in range(len(plant.loads))]
    limits_v = np.array([volts for volts, _ in allowed])
    by_case = {
        case.case.id: {
            load.id: _load_figures(solution, case, row, *allowed[row])
            for row, load in enumerate(plant.loads) if case.running[row]
        }
        for case in solution.cases
    }  # fmt: skip
    loads: dict[str, LoadFigures] = {}
    for table in by_case.values():
        for key, entry in table.items():
            if key not in loads or entry.used > loads[key].used:
                loads[key] = entry
    found, bare = guards(solution)
    worst = _Worst([_case_columns(solution, case, limits_v) for case in solution.cases])
    wires = {wire.id: _wire_figures(solution, row, worst, found[row]) for row, wire in enumerate(plant.wires)}
    return Figures(solution, wires, loads, found, bare, by_case)


def figures_of_case(found: Figures, number: int) -> Figures:
    """The figures of one case alone."""
    solution = found.solution
    return figures(Solution(solution.plant, solution.heat, [solution.cases[number]]))


def _load_figures(solution: Solution, case: CaseSolution, row: int, allowed_v: float, rule: str) -> LoadFigures:
    surge = float(case.surge_v[row])
    return LoadFigures(
        load=solution.plant.loads[row], row=row, volts=float(case.load_v[row]), amps=float(case.load_a[row]),
        nominal_v=float(solution.plant.nominal_v[row]), allowed_v=allowed_v, rule=rule,
        surge_v=None if np.isnan(surge) else surge, case=case.case.name,
    )  # fmt: skip


@dataclass(frozen=True)
class _Columns:
    """Per wire of one case: shares used and which load is worst."""

    case: CaseSolution
    drop: Floats
    drop_load: NDArray[np.intp]
    heat: Floats
    surge: Floats
    dip: Floats
    dip_load: NDArray[np.intp]
    share: Floats


def _case_columns(solution: Solution, case: CaseSolution, allowed_v: Floats) -> _Columns:
    plant = solution.plant
    used = (plant.nominal_v - case.load_v) / allowed_v
    drop, which = worst_served(plant, case, np.nan_to_num(used, nan=0.0))
    room = plant.limit_c - case.ambient_c
    heat = np.where(room > 0, (case.conductor_c - case.ambient_c) / np.where(room > 0, room, 1.0), np.inf)
    heat = np.where((room <= 0) & (np.abs(case.wire_a) < 1e-6), 0.0, heat)
    short = np.array([c.jacket.short_c for c in plant.conductors])
    warm = (case.surge_c - case.ambient_c) / np.maximum(short - case.ambient_c, 1.0)
    dip, dips = _dip(solution, case)
    surge = np.where(case.surge_a > 0, warm, 0.0)
    share = np.where(which >= 0, case.wire_drop_v / allowed_v[which] if len(allowed_v) else 0.0, 0.0)
    drop = np.where(np.isfinite(drop), drop, 0.0)
    return _Columns(case, drop, which, np.maximum(heat, 0.0), surge, dip, dips, share)


def _dip(solution: Solution, case: CaseSolution) -> tuple[Floats, NDArray[np.intp]]:
    """(share of the allowed dip used under surges, the load that dips) for the wires that serve it."""
    plant = solution.plant
    least = np.array([load.min_volts or np.nan for load in plant.loads])
    if not np.isfinite(least).any() or not np.isfinite(case.surge_v).any():
        return np.zeros(len(plant.wires)), np.full(len(plant.wires), -1, dtype=np.intp)
    used = np.nan_to_num((plant.nominal_v - case.surge_v) / (plant.nominal_v - least), nan=-np.inf)
    worst, which = worst_served(plant, case, used)
    return np.where(np.isfinite(worst), np.maximum(worst, 0.0), 0.0), which


def fuse_use(guard: Guard, cond: Conductor, parallel: int, conductor_c: float, ambient_c: float) -> float:
    """Worst overload its fuse lets through over what the wire withstands for as long. The start is rounded up
    to 5 °C so that results are reused."""
    start = min(5 * np.ceil(conductor_c / 5), cond.jacket.short_c - 1)
    fault = float(f"{guard.fault_a:.1e}")
    spec = (cond.size.label, cond.metal.id, cond.make.id, cond.jacket.id)
    return _fuse_use(guard.rating_a, *spec, parallel, float(start), float(round(ambient_c)), fault)


def step_fuse_use(found: Figures, row: int, step: Conductor, conductor_c: float, ambient_c: float) -> float:
    """`fuse_use` of a wire were it made of `step`: a thinner wire lets less current into a short at its end."""
    guard, plant = found.guards[row], found.solution.plant
    if guard is None:
        return 0.0
    guard = replace(guard, fault_a=fault_a(plant, row, step.ohm_per_m_20))
    return fuse_use(guard, step, plant.wires[row].parallel, conductor_c, ambient_c)


@lru_cache(maxsize=20_000)
def _fuse_use(
    rating_a: float, size: str, metal: str, make: str, jacket: str, parallel: int,
    start_c: float, ambient_c: float, fault: float,
) -> float:  # fmt: skip
    wire = conductor(size, metal, make, jacket)
    return protects(rating_a, wire, start_c, ambient_c, parallel, fault).used


class _Worst:
    """Over all cases: the number of the worst case for each limit and the busiest, and its values, by wire row."""

    def __init__(self, columns: list[_Columns]) -> None:
        self.columns = columns
        self.drop_at, self.drop = self._most([c.drop for c in columns])
        self.heat_at, self.heat = self._most([c.heat for c in columns])
        self.surge_at, self.surge = self._most([c.surge for c in columns])
        self.dip_at, self.dip = self._most([c.dip for c in columns])
        _, self.amps = self._most([np.abs(c.case.wire_a) for c in columns])

    @staticmethod
    def _most(values: list[Floats]) -> tuple[list[int], list[float]]:
        table = np.array(values)
        return table.argmax(axis=0).tolist(), table.max(axis=0).tolist()


def _wire_figures(solution: Solution, row: int, worst: _Worst, guard: Guard | None) -> WireFigures:
    plant, project = solution.plant, solution.plant.design.project
    wire, cond = plant.wires[row], plant.conductors[row]
    drop, heat, dip = (worst.columns[at[row]] for at in (worst.drop_at, worst.heat_at, worst.dip_at))
    load, dips = int(drop.drop_load[row]), int(dip.dip_load[row])
    warm, amps = float(heat.case.conductor_c[row]), worst.amps[row]
    uses = [
        Use(Limit.DROP, worst.drop[row], drop.case.case.name, plant.loads[load].id if load >= 0 else ""),
        Use(Limit.HEAT, worst.heat[row], heat.case.case.name),
        Use(Limit.SURGE, worst.surge[row], worst.columns[worst.surge_at[row]].case.case.name),
        Use(Limit.DIP, worst.dip[row], dip.case.case.name, plant.loads[dips].id if dips >= 0 else ""),
    ]  # fmt: skip
    if guard is not None:
        air = float(heat.case.ambient_c[row])
        uses.append(Use(Limit.FUSE, fuse_use(guard, cond, wire.parallel, warm, air), "", guard.link_id))
    uses.append(Use(Limit.HANDLING, project.smallest_mm2 / cond.size.area_mm2))
    return WireFigures(
        wire=wire, row=row, size=cond.size.label, amps=amps, conductor_c=warm, limit_c=float(plant.limit_c[row]),
        drop_v=amps * max(float(heat.case.wire_ohm[row]), LEAST_OHM), length_m=float(plant.length_m[row]),
        uses=tuple(uses), case=heat.case.case.name, drop_share=float(drop.share[row]),
    )  # fmt: skip
