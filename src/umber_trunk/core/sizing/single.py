"""One run on its own: the sum a builder does at the bench, with heat and drop together."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import brentq

from umber_trunk.core.catalog.conductors import Conductor, Size, conductor, parse_size, series
from umber_trunk.core.errors import InputError
from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, Sections, Strands, bundle_rise_k
from umber_trunk.core.physics.film import surface_rise_k
from umber_trunk.core.physics.fuses import SURE_MULTIPLE, carries_surge, continuous_a, fitting_rating, protects
from umber_trunk.core.physics.heat import HOTTEST_C, WireBodies
from umber_trunk.core.physics.transient import WarmUp, adiabatic_rise_k, duty_factor, heat_capacity_j_mk
from umber_trunk.core.sizing.thermal import Times, sections_of


@dataclass(frozen=True)
class Run:
    """What is asked: exactly one of amps, watts or ohms; lengths one way; drop in V."""

    volts: float
    run_m: float
    amps: float | None = None
    watts: float | None = None
    ohms: float | None = None
    ground_return: bool = False
    max_drop_v: float = 0.0
    ambient_c: float = 30.0
    limit_c: float = 105.0
    metal: str = "copper"
    make: str = "general"
    jacket: str = "pvc"
    series: str = "metric"
    size: str | None = None
    parallel: int = 1
    joint_ohm: float = 0.0
    bundle: int = 1
    air_m_s: float = 0.0
    duty: tuple[float, float] | None = None
    surge: tuple[float, float] | None = None
    fuse: str | float | None = None


@dataclass(frozen=True)
class Judged:
    """One size tried on a run. conductor_c is the hottest instant; ampacity_a that of all in parallel."""

    size: Size
    wire: Conductor
    amps: float
    drop_v: float
    drop_percent: float
    resistance_ohm: float
    conductor_c: float
    ampacity_a: float
    surge_c: float | None
    fuse_a: float | None
    broken: tuple[str, ...] = field(default=())

    @property
    def ok(self) -> bool:
        """Every limit met."""
        return not self.broken


@dataclass(frozen=True)
class RunAnswer:
    """The chosen (or judged) size, what governs it, and every candidate tried."""

    run: Run
    chosen: Judged | None
    governs: str
    candidates: tuple[Judged, ...]


class _Section:
    """Steady heat of one conductor among `bundle` equal loaded ones."""

    def __init__(self, run: Run, wire: Conductor) -> None:
        self.run, self.wire = run, wire
        self.body = WireBodies.of([wire])
        self.sections: Sections | None = None
        if run.bundle > 1:
            row = np.ones((1, run.bundle))
            strands = Strands(row * self.body.outer_m, row * self.body.conductor_m, row * self.body.jacket_w_mk)
            self.sections = sections_of(strands, np.array([False]))

    def rise_k(self, watts_per_m: float, swing_w_m: float = 0.0) -> float:
        """Rise of the hottest conductor when each of the bundle loses that much, its own for an instant by
        swing_w_m more."""
        air = np.array([self.run.ambient_c])
        jacket = (watts_per_m + swing_w_m) * float(self.body.jacket_km_w[0])
        if self.sections is None:
            lone = surface_rise_k(np.array([watts_per_m]), self.body.outer_m, air, self.run.air_m_s)
            return float(lone[0]) + jacket
        watts = np.full((1, self.run.bundle), watts_per_m)
        steady = bundle_rise_k(self.sections, watts, air, 0.0, self.run.air_m_s)
        return float((steady + swing_w_m * self.sections.own_km_w).max()) + jacket

    def surge_c(self, celsius: float, amps: float, surge_a: float, seconds: float) -> float:
        """Temperature after a surge of this conductor alone, from its running temperature at `amps`."""
        if self.sections is None:
            return WarmUp(self.wire, self.run.ambient_c, self.run.air_m_s).after(celsius, surge_a, seconds)
        own, bulk = self._times()
        counted = Times(np.array([own]), np.array([bulk]), np.array([1 / self.run.bundle])).counted_s(
            np.array([seconds])
        )
        ohm, alpha = self.body.ohm_per_m_20, self.body.alpha_per_k
        capacity = np.array([heat_capacity_j_mk(self.wire)])
        extra = np.array([surge_a**2 - amps**2])
        return celsius + float(adiabatic_rise_k(extra, counted[0], np.array([celsius]), ohm, alpha, capacity)[0])

    def duty_factors(self, on_s: float, period_s: float) -> tuple[float, float]:
        """(near, bulk): what the duty's current counts as in a bundle, at the wire itself and all through."""
        near, slow = duty_factor(on_s, period_s, np.array(self._times()))
        return float(near), float(slow)

    def _times(self) -> tuple[float, float]:
        """Time constants of a wire above its bundle's rim and of the bundle [s]."""
        assert self.sections is not None
        own = heat_capacity_j_mk(self.wire) * (float(self.sections.own_km_w.max()) + float(self.body.jacket_km_w[0]))
        film = 1 / (2 * np.pi * float(self.sections.radius_m[0]) * USUAL_FILM_W_M2K)
        return own, self.run.bundle * heat_capacity_j_mk(self.wire, 1.0) * film

    def settle(self, amps: float, near: float = 1.0, bulk: float = 1.0) -> float:
        """Conductor temperature [°C] at a continuous current through one conductor; Aitken's steps. near and
        bulk scale the current as it counts at the wire itself and all through the bundle."""
        ambient, now = self.run.ambient_c, self.run.ambient_c

        def passed(temperature: float) -> float:
            watts = amps * amps * float(self.body.ohm_per_m(np.array([min(temperature, HOTTEST_C)]))[0])
            return min(ambient + self.rise_k(watts * bulk**2, watts * (near**2 - bulk**2)), HOTTEST_C)

        for _ in range(20):
            first = passed(now)
            second = passed(first)
            bend = second - 2 * first + now
            better = second if abs(bend) < 1e-9 else now - (first - now) ** 2 / bend
            better = min(max(better, ambient), HOTTEST_C)
            if abs(better - now) < 1e-4:
                return better
            now = better
        return now

    def ampacity(self, limit_c: float) -> float:
        """Current in one conductor that holds it at the limit."""
        room = limit_c - self.run.ambient_c
        if room <= 0:
            return 0.0
        low, high = 0.0, room / float(self.body.jacket_km_w[0])
        low = float(brentq(lambda watts: self.rise_k(watts) - room, low, high, xtol=1e-9))
        return float(np.sqrt(low / self.body.ohm_per_m(np.array([limit_c]))[0]))


def _current(run: Run, loop_ohm: float) -> float:
    """Load current with that much resistance before it; NaN when a power load can't be fed at all."""
    if run.amps is not None:
        return run.amps
    if run.ohms is not None:
        return run.volts / (run.ohms + loop_ohm)
    watts = run.watts or 0.0
    inside = run.volts**2 - 4 * watts * loop_ohm
    if inside < 0:
        return float("nan")
    return float(2 * watts / (run.volts + inside**0.5))


def judge(run: Run, size: Size) -> Judged:
    """Everything about one size: current, drop, temperature, ampacity, surge, fuse."""
    wire = conductor(size.label, run.metal, run.make, run.jacket)
    section = _Section(run, wire)
    metres = run.run_m * (1 if run.ground_return else 2) / run.parallel
    temperature, amps, loop = run.ambient_c, 0.0, 0.0
    for _ in range(40):
        loop = metres * float(section.body.ohm_per_m(np.array([temperature]))[0]) + run.joint_ohm
        amps = _current(run, loop)
        if np.isnan(amps):
            temperature = HOTTEST_C
            break
        there = section.settle(amps / run.parallel)
        if run.duty is not None:
            there = _duty_peak(run, wire, section, amps / run.parallel)
        if abs(there - temperature) < 1e-3:
            break
        temperature = there
    drop = amps * loop if not np.isnan(amps) else run.volts
    ampacity = section.ampacity(run.limit_c) * run.parallel
    surge_c = None
    if run.surge is not None:
        surge_c = section.surge_c(temperature, amps / run.parallel, run.surge[0] / run.parallel, run.surge[1])
    fuse_a = _fuse(run, amps)
    broken = _broken(run, wire, amps, drop, temperature, surge_c, fuse_a, run.volts / max(loop, 1e-9))
    return Judged(
        size,
        wire,
        amps,
        drop,
        100 * drop / run.volts,
        loop,
        temperature,
        ampacity,
        surge_c,
        fuse_a,
        broken,
    )


def _duty_peak(run: Run, wire: Conductor, section: _Section, amps: float) -> float:
    """Hottest instant of the repeated duty: a lone wire's in time, a bundle's by its two time constants."""
    on_s, period_s = run.duty or (1.0, 1.0)
    if run.bundle == 1:
        return WarmUp(wire, run.ambient_c, run.air_m_s).hottest_in_duty(amps, on_s, period_s)
    return section.settle(amps, *section.duty_factors(on_s, period_s))


def _fuse(run: Run, amps: float) -> float | None:
    """The stated rating, or the smallest that carries the load warm and rides through the surge."""
    if run.fuse is None:
        return None
    if run.fuse != "auto":
        return float(run.fuse)
    return fitting_rating(amps, run.ambient_c, [run.surge] if run.surge else [])


def _broken(
    run: Run, wire: Conductor, amps: float, drop: float, temperature: float, surge_c: float | None,
    fuse_a: float | None, fault_a: float,
) -> tuple[str, ...]:  # fmt: skip
    """The limits not met; fault_a is what a short at the load would draw."""
    found = []
    if drop > run.max_drop_v * (1 + 1e-9):
        found.append("drop")
    if temperature > run.limit_c + 1e-6:
        found.append("heat")
    if surge_c is not None and surge_c > wire.jacket.short_c:
        found.append("surge")
    if fuse_a is not None and temperature < wire.jacket.short_c - 1:
        shield = protects(fuse_a, wire, temperature, run.ambient_c, run.parallel)
        carries = continuous_a(fuse_a, run.ambient_c) >= amps * (1 - 1e-9)
        rides = run.surge is None or carries_surge(fuse_a, *run.surge)
        opens = fault_a >= SURE_MULTIPLE * fuse_a
        if not (shield.ok and carries and rides and opens):
            found.append("fuse")
    if run.fuse == "auto" and fuse_a is None:
        found.append("fuse")
    return tuple(found)


def size_run(run: Run) -> RunAnswer:
    """The smallest size of the series that meets every limit, or the judgement of the one given."""
    _refuse_nonsense(run)
    if run.size is not None:
        judged = judge(run, parse_size(run.size))
        return RunAnswer(run, judged, _governs(run, judged, None), (judged,))
    tried = tuple(judge(run, size) for size in series(run.series))
    at = next((i for i, one in enumerate(tried) if one.ok), None)
    if at is None:
        return RunAnswer(run, None, tried[-1].broken[0], tried)
    return RunAnswer(run, tried[at], _governs(run, tried[at], tried[at - 1] if at else None), tried)


def _governs(run: Run, chosen: Judged, below: Judged | None) -> str:
    """The limit that forbids the next size down; for a judged size, the one most used up."""
    allowed = set(below.broken) if below and below.broken else {"drop", "heat"}
    judged = below if below and below.broken else chosen
    used = {
        "drop": judged.drop_v / run.max_drop_v,
        "heat": (judged.conductor_c - run.ambient_c) / max(run.limit_c - run.ambient_c, 1e-9),
    }
    for other in ("surge", "fuse"):
        if other in judged.broken:
            used[other] = 1.0 if allowed & {"drop", "heat"} else 2.0
    return max((name for name in used if name in allowed), key=lambda name: used[name])


def _refuse_nonsense(run: Run) -> None:
    given = [run.amps, run.watts, run.ohms]
    if sum(value is not None for value in given) != 1:
        raise InputError("Give the load once: as amps, watts or ohms.")
    if run.limit_c <= run.ambient_c:
        raise InputError(f"A jacket limit of {run.limit_c:g} °C leaves no room above {run.ambient_c:g} °C ambient.")
    if not 1 <= run.parallel <= 12:
        raise InputError("Between 1 and 12 conductors can run in parallel.")
    if not 1 <= run.bundle <= 200:
        raise InputError("A bundle has 1 to 200 wires.")
    if run.run_m <= 0:
        raise InputError("The run must be longer than nothing.")
