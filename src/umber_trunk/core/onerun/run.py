"""One run on its own: the sum a builder does at the bench, with heat and drop together."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, Size, conductor, parse_size, series
from umber_trunk.core.errors import InputError
from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, Sections, Strands, bundle_rise_k, rim_film_w_m2k
from umber_trunk.core.physics.fuses import SURE_MULTIPLE, carries_surge, continuous_a, fitting_rating
from umber_trunk.core.physics.heat import HOTTEST_C, WireBodies, fin_rise_k
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.response import Response, lone_response, section_response
from umber_trunk.core.physics.sections import sections_of
from umber_trunk.core.physics.shield import Shielded, shields
from umber_trunk.core.physics.surroundings import OPEN_AIR, Outside, Surroundings, sun_rise_k
from umber_trunk.core.physics.transient import duty_factor, heat_capacity_j_mk
from umber_trunk.core.usual import AC_OHM_PER_M, MET

Floats = NDArray[np.float64]


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
    joints: int = 2
    power_factor: float = 1.0
    fuse_rule: str = "curve"
    surroundings: Surroundings = OPEN_AIR
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Judged:
    """One size tried on a run. conductor_c is the hottest instant, joints counted; ampacity_a what all in parallel carry
    in the duty given, continuous_a what they carry all the time."""

    size: Size
    wire: Conductor
    amps: float
    drop_v: float
    drop_percent: float
    resistance_ohm: float
    conductor_c: float
    ampacity_a: float
    continuous_a: float
    surge_c: float | None
    fuse_a: float | None
    shield: Shielded | None
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
    """Heat of one conductor among `bundle` equal loaded ones, in its surroundings."""

    def __init__(self, run: Run, wire: Conductor) -> None:
        self.run, self.wire = run, wire
        self.body = WireBodies.of([wire])
        self.outside = Outside.of([run.surroundings])
        self.air = np.array([run.ambient_c])
        self.sections: Sections | None = None
        self.at = 0
        if run.bundle > 1:
            row = np.ones((1, run.bundle))
            strands = Strands(row * self.body.outer_m, row * self.body.conductor_m, row * self.body.jacket_w_mk)
            self.sections = sections_of(strands, np.array([False]))
            self.at = int(np.argmax(bundle_rise_k(self.sections, row, self.air)[0]))
        self.radius = self.sections.radius_m if self.sections is not None else self.body.outer_m / 2
        self.share = self.sections.rim_share if self.sections is not None else np.ones(1)
        inside = 0.0 if self.sections is None else max(float(self.sections.own_km_w[0, self.at]), 0.0)
        self.own_km_w = np.array([inside]) + self.body.jacket_km_w
        self.response = self._response()

    def _response(self) -> Response:
        wire = self.wire
        if self.sections is None:
            return lone_response(wire.size.label, wire.metal.id, wire.make.id, wire.jacket.id)
        return section_response(self.sections, [wire] * self.run.bundle).rows(np.array([self.at]))

    def _film(self, total_w: Floats) -> Floats:
        return rim_film_w_m2k(total_w, self.radius, self.air, self.share, 0.0, self.run.air_m_s, self.outside)

    def rise_k(self, watts_per_m: float, swing_w_m: float = 0.0) -> float:
        """Rise of the hottest conductor when each of the bundle loses that much, its own for an instant by
        swing_w_m more."""
        total = np.array([max(watts_per_m, 1e-9) * self.run.bundle])
        film = self._film(total)
        sun = float(np.sum(sun_rise_k(total, self.radius, self.air, self.share, self.run.air_m_s, self.outside)))
        own = (watts_per_m + swing_w_m) * float(self.body.jacket_km_w[0])
        if self.sections is None:
            return sun + watts_per_m / (2 * np.pi * float(self.radius[0] * film[0])) + own
        watts = np.full((1, self.run.bundle), watts_per_m)
        steady = self.sections.rise_k(watts, film)
        return (
            sun
            + float(steady[0, self.at])
            + swing_w_m * (float(self.own_km_w[0]) - float(self.body.jacket_km_w[0]))
            + own
        )

    def standing(self, celsius: float, amps: float) -> Standing:
        """One conductor at its running temperature and current, its neighbours alike."""
        own = np.array([amps * amps]) * self.body.ohm_per_m(np.array([min(celsius, HOTTEST_C)]))
        one = np.ones(1)
        total = own * self.run.bundle
        sun = np.asarray(sun_rise_k(total, self.radius, self.air, self.share, self.run.air_m_s, self.outside)) * one
        return Standing(
            celsius=np.array([celsius]), air_c=self.air + sun, own_km_w=self.own_km_w, own_w=own, total_w=total, alike=one,
            radius_m=self.radius, rim_share=self.share, sleeve_m=0 * one, air_m_s=self.run.air_m_s * one, outside=self.outside,
            ohm_20=self.body.ohm_per_m_20, alpha=self.body.alpha_per_k, amps=np.array([amps]), response=self.response,
        )  # fmt: skip

    def surge_c(self, celsius: float, amps: float, surge_a: float, seconds: float) -> float:
        """Temperature after a surge of this conductor alone, from its running temperature at `amps`."""
        return float(self.standing(celsius, amps).after_c(np.array([[surge_a]]), np.array([[seconds]]))[0, 0])

    def duty_factors(self, on_s: float, period_s: float) -> tuple[float, float]:
        """(near, bulk): what the duty's current counts as in a bundle, at the wire itself and all through."""
        near, slow = duty_factor(on_s, period_s, np.array(self._times()))
        return float(near), float(slow)

    def _times(self) -> tuple[float, float]:
        """Time constants of a wire above its bundle's rim and of the bundle [s]."""
        own = heat_capacity_j_mk(self.wire) * float(self.own_km_w[0])
        film = 1 / (2 * np.pi * float(self.radius[0]) * USUAL_FILM_W_M2K)
        return own, self.run.bundle * heat_capacity_j_mk(self.wire, 1.0) * film

    def duty_peak(self, amps: float, on_s: float, period_s: float) -> float:
        """Hottest instant of a repeated duty: a lone wire's from its exact periodic answer, its film that of the mean
        loss; a bundle's by its two time constants."""
        if self.sections is not None:
            return self.settle(amps, *self.duty_factors(on_s, period_s))
        peak = self.run.ambient_c + 1.0
        slow = float(self.response.slow_rate[0])
        share = float(np.expm1(-min(slow * on_s, 700.0)) / np.expm1(-min(slow * period_s, 700.0)))
        for _ in range(60):
            lost = amps * amps * float(self.body.ohm_per_m(np.array([min(peak, HOTTEST_C)]))[0])
            mean = np.array([max(lost * share, 1e-6)])
            film = self._film(mean)
            steady = self.own_km_w + 1 / (2 * np.pi * self.radius * film)
            sun = float(np.sum(sun_rise_k(mean, self.radius, self.air, self.share, self.run.air_m_s, self.outside)))
            there = (
                self.run.ambient_c + sun + lost * float(self.response.with_steady(steady).periodic(on_s, period_s)[0])
            )
            there = min(there, HOTTEST_C)
            if abs(there - peak) < 1e-3:
                return there
            peak = there
        return peak

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
        """Continuous current in one conductor that holds it at the limit."""
        room = limit_c - self.run.ambient_c
        if room <= 0 or self.rise_k(1e-9) >= room:
            return 0.0
        high = room / float(self.body.jacket_km_w[0])
        low = _crossing(lambda watts: self.rise_k(watts) - room, 0.0, high)
        return float(np.sqrt(low / self.body.ohm_per_m(np.array([limit_c]))[0]))

    def duty_ampacity(self, limit_c: float, on_s: float, period_s: float) -> float:
        """Current in one conductor that a duty's hottest instant brings to the limit."""
        low = self.ampacity(limit_c)
        high = max(low, 1e-3) * 2
        while self.duty_peak(high, on_s, period_s) < limit_c and high < 1e6:
            low, high = high, 2 * high
        return (
            _crossing(lambda amps: self.duty_peak(amps, on_s, period_s) - limit_c, low * 0.5, high) if low > 0 else 0.0
        )


def _crossing(rising: Callable[[float], float], low: float, high: float) -> float:
    """Where a rising function passes zero, by false position with the Illinois rule (Dowell and Jarratt 1971). SciPy's
    root finders would take longer to load than a one-run sum takes."""
    under, over, side = rising(low), rising(high), 0
    middle = high
    for _ in range(200):
        if not under < 0 < over:
            break
        middle = (low * over - high * under) / (over - under)
        value = rising(middle)
        if abs(value) < 1e-10 or high - low < 1e-12 * abs(high):
            break
        if value < 0:
            low, under, over, side = middle, value, over / (2 if side < 0 else 1), -1
        else:
            high, over, under, side = middle, value, under / (2 if side > 0 else 1), 1
    return middle


def _current(run: Run, loop_ohm: float) -> float:
    """Load current with that much resistance before it; NaN when a power load can't be fed at all."""
    if run.amps is not None:
        return run.amps
    if run.ohms is not None:
        return run.volts / (run.ohms + loop_ohm)
    watts = (run.watts or 0.0) / run.power_factor
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
        amps = _current(run, _seen_ohm(run, loop, metres))
        if np.isnan(amps):
            temperature = HOTTEST_C
            break
        there = section.settle(amps / run.parallel)
        if run.duty is not None:
            there = section.duty_peak(amps / run.parallel, *run.duty)
        if abs(there - temperature) < 1e-3:
            break
        temperature = there
    temperature = (
        max(temperature, temperature + _joint_rise_k(run, wire, section, amps)) if not np.isnan(amps) else temperature
    )
    drop = amps * _seen_ohm(run, loop, metres) if not np.isnan(amps) else run.volts
    continuous = section.ampacity(run.limit_c) * run.parallel
    ampacity = section.duty_ampacity(run.limit_c, *run.duty) * run.parallel if run.duty else continuous
    surge_c = None
    if run.surge is not None:
        surge_c = section.surge_c(temperature, amps / run.parallel, run.surge[0] / run.parallel, run.surge[1])
    fuse_a, fault_a = _fuse(run, amps), run.volts / max(loop, 1e-9)
    shield = None
    if fuse_a is not None and not np.isnan(amps):
        shield = _shield(run, wire, section.standing(temperature, amps / run.parallel), fuse_a, fault_a)
    broken = _broken(run, wire, amps, drop, temperature, surge_c, fuse_a, fault_a, shield)
    return Judged(
        size, wire, amps, drop, 100 * drop / run.volts, loop, temperature, ampacity, continuous, surge_c, fuse_a, shield, broken
    )  # fmt: skip


def _seen_ohm(run: Run, loop_ohm: float, metres: float) -> float:
    """What the drop sees of a loop: R·cos φ + X·sin φ for AC, plain resistance otherwise."""
    factor = run.power_factor
    return loop_ohm * factor + AC_OHM_PER_M * metres * (1 - factor**2) ** 0.5 if factor < 1 else loop_ohm


def _joint_rise_k(run: Run, wire: Conductor, section: _Section, amps: float) -> float:
    """What the worst joint adds to the wire's own temperature at its place."""
    if run.joint_ohm <= 0:
        return 0.0
    each = run.joint_ohm / max(run.joints, 1)
    per_metre = section.own_km_w + 1 / (2 * np.pi * section.radius * USUAL_FILM_W_M2K)
    return float(fin_rise_k(np.array([amps * amps * each]), [wire], per_metre)[0]) / run.parallel


def _shield(run: Run, wire: Conductor, standing: Standing, fuse_a: float, fault_a: float) -> Shielded:
    """How the fuse is judged over this wire."""
    found = shields(
        np.array([fuse_a]), standing, [wire], np.array([float(run.parallel)]), np.array([fault_a]), run.fuse_rule
    )
    used, worst, seconds, allowed, stands, ever = (
        float(column[0]) for column in (found.used, found.worst_a, found.seconds, found.allowed_c, found.withstand_a, found.for_ever_a)
    )  # fmt: skip
    return Shielded(fuse_a, used, worst, seconds, allowed, stands, ever, "")


def _fuse(run: Run, amps: float) -> float | None:
    """The stated rating, or the smallest that carries the load warm and rides through the surge."""
    if run.fuse is None:
        return None
    if run.fuse != "auto":
        return float(run.fuse)
    return fitting_rating(amps, run.ambient_c, [run.surge] if run.surge else [])


def _broken(
    run: Run, wire: Conductor, amps: float, drop: float, temperature: float, surge_c: float | None,
    fuse_a: float | None, fault_a: float, shield: Shielded | None,
) -> tuple[str, ...]:  # fmt: skip
    """The limits not met; fault_a is what a short at the load would draw."""
    found = []
    if drop > run.max_drop_v * MET:
        found.append("drop")
    if temperature > run.limit_c + 0.001:
        found.append("heat")
    if surge_c is not None and surge_c > wire.jacket.short_c:
        found.append("surge")
    if fuse_a is not None:
        carries = continuous_a(fuse_a, run.ambient_c) >= amps * (1 - 1e-9)
        rides = run.surge is None or carries_surge(fuse_a, *run.surge)
        opens = fault_a >= SURE_MULTIPLE * fuse_a
        if not (shield is not None and shield.used <= MET and carries and rides and opens):
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
    if not 0 < run.power_factor <= 1:
        raise InputError("A power factor lies above 0 and at most at 1.")
    if run.run_m <= 0:
        raise InputError("The run must be longer than nothing.")
