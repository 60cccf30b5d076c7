"""One run on its own: the sum a builder does at the bench, with heat and drop together.

    ΔU = I·(n·L·r(T)/p + R_joints)        r(T) = r₂₀·(1 + α·(T − 20)),  n = 2 there and back, 1 with the frame as return
    T  = air + rise(I²·r(T), how it lies)  the hotter, the more ohms, the more heat: the two are settled together

A load of watts draws more the less arrives, one of ohms less. From the smallest size up, the first one wins that keeps
drop, jacket, surge and fuse; which of them ruled the next smaller one out is what governs.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, Size, conductor, parse_size, series
from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, Sections, Strands, rim_film_w_m2k
from umber_trunk.core.physics.fuses import SURE_MULTIPLE, carries_surge, continuous_a, fitting_rating
from umber_trunk.core.physics.heat import HOTTEST_C, WireBodies, fin_rise_k
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.response import Response, lone_response, section_response
from umber_trunk.core.physics.sections import sections_of
from umber_trunk.core.physics.shield import Shielded, shields
from umber_trunk.core.physics.surroundings import OPEN_AIR, Outside, Surroundings, sun_rise_k
from umber_trunk.core.physics.transient import duty_factor, heat_capacity_j_mk, thermal_resistance_km_w
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
    apart: bool = False
    air_m_s: float = 0.0
    duty: tuple[float, float] | None = None
    surge: tuple[float, float] | None = None
    fuse: str | float | None = None
    joints: int = 2
    power_factor: float = 1.0
    fuse_rule: str = "curve"
    surroundings: Surroundings = OPEN_AIR
    notes: tuple[str, ...] = ()

    @property
    def own(self) -> int:
        """How many loaded conductors the run itself has: its parallels, there and back."""
        return self.parallel * (1 if self.ground_return else 2)

    @property
    def together(self) -> int:
        """How many equal loaded conductors lie side by side: a run's own do unless they are said to lie apart, in free
        air."""
        return max(self.bundle, 1 if self.apart else self.own)

    @property
    def lie(self) -> str:
        """How its conductors lie, in words."""
        own = f"{self.own} conductor{'s' if self.own > 1 else ''} of this run"
        if self.together == 1:
            return "one conductor, alone" if self.own == 1 else f"{own}, each alone, apart from the others"
        among = f"{self.together} equal loaded conductors lie together"
        if self.apart:
            return f"{own}, apart from each other, each among others: {among}"
        back = "" if self.ground_return else ", there and back"
        return f"{own}{back}: {among}"


@dataclass(frozen=True)
class Judged:
    """One size tried on a run. conductor_c is the hottest instant, joints counted; ampacity_a what all in parallel
    carry in the duty given, continuous_a what they carry all the time."""

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
    """Heat of one conductor among `together` equal loaded ones, in its surroundings."""

    def __init__(self, run: Run, wire: Conductor) -> None:
        self.run, self.wire = run, wire
        self.body = WireBodies.of([wire])
        self.outside = Outside.of([run.surroundings])
        self.air = np.array([run.ambient_c])
        self.sections: Sections | None = None
        if run.together > 1:
            row = np.ones((1, run.together))
            strands = Strands(row * self.body.outer_m, row * self.body.conductor_m, row * self.body.jacket_w_mk)
            self.sections = sections_of(strands)
        self.radius = self.sections.radius_m if self.sections is not None else self.body.outer_m / 2
        self.share = self.sections.rim_share if self.sections is not None else np.ones(1)
        inside = 0.0 if self.sections is None else max(float(self.sections.own_km_w()[0].max()), 0.0)
        self.own_km_w = np.array([inside]) + self.body.jacket_km_w

    def _response(self, at: int = 0) -> Response:
        wire = self.wire
        if self.sections is None:
            return lone_response(wire.size.label, wire.metal.id, wire.make.id, wire.jacket.id)
        return section_response(self.sections, [wire] * self.run.together).rows(np.array([at]))

    def _film(self, total_w: Floats) -> Floats:
        return rim_film_w_m2k(total_w, self.radius, self.air, self.share, 0.0, self.run.air_m_s, self.outside)

    def rises_k(self, watts: Floats, swing: Floats | float = 0.0) -> Floats:
        """Rise over the air of each conductor lying together (n,) at losses of W/m each (n,), their own for an instant
        by `swing` more."""
        total = np.array([max(float(watts.sum()), 1e-9)])
        film = self._film(total)
        sun = float(np.sum(sun_rise_k(total, self.radius, self.air, self.share, self.run.air_m_s, self.outside)))
        jacket = (watts + swing) * float(self.body.jacket_km_w[0])
        if self.sections is None:
            return sun + watts / (2 * np.pi * float(self.radius[0] * film[0])) + jacket
        own: Floats = np.maximum(self.sections.own_km_w()[0], 0.0)
        found: Floats = sun + self.sections.rise_k(watts[None, :], film)[0] + swing * own + jacket
        return found

    def _ohm(self, celsius: Floats) -> Floats:
        """Ω/m of conductors at their temperatures."""
        result: Floats = self.body.ohm_per_m_20[0] * (
            1 + self.body.alpha_per_k[0] * (np.minimum(celsius, HOTTEST_C) - 20)
        )
        return result

    def standing(self, celsius: Floats, amps: float, duty: tuple[float, float] | None = None) -> Standing:
        """Of the conductors lying together (n,) at their temperatures and current, the one with the least room for more
        heat."""
        near, bulk = self.duty_factors(*duty, amps, float(celsius.max())) if duty is not None else (1.0, 1.0)
        losses = np.square(amps) * self._ohm(celsius)
        above = np.maximum(self.sections.own_km_w()[0], 0.0) if self.sections is not None else np.zeros(1)
        answer = above + self.body.jacket_km_w[0] + 1 / (2 * np.pi * self.radius[0] * USUAL_FILM_W_M2K)
        at = int(np.argmin((self.run.limit_c - celsius) / answer))
        one = np.ones(1)
        total = one * float(losses.sum()) * bulk**2
        sun = np.asarray(sun_rise_k(total, self.radius, self.air, self.share, self.run.air_m_s, self.outside)) * one
        return Standing(
            celsius=celsius[[at]],
            air_c=self.air + sun,
            own_km_w=above[[at]] + self.body.jacket_km_w,
            own_w=np.minimum(losses[[at]] * near**2, total),
            total_w=total,
            alike=one * min(self.run.parallel, self.run.together),
            radius_m=self.radius,
            rim_share=self.share,
            sleeve_m=0 * one,
            air_m_s=self.run.air_m_s * one,
            outside=self.outside,
            ohm_20=self.body.ohm_per_m_20,
            alpha=self.body.alpha_per_k,
            amps=one * amps * near,
            response=self._response(at),
        )

    def duty_factors(self, on_s: float, period_s: float, amps: float, celsius: float) -> tuple[float, float]:
        """(near, bulk): what the duty's current counts as at the wire itself and all through its bundle."""
        if self.sections is not None:
            own = heat_capacity_j_mk(self.wire) * float(self.own_km_w[0])
            film = 1 / (2 * np.pi * float(self.radius[0]) * USUAL_FILM_W_M2K)
            bulk_s = self.run.together * heat_capacity_j_mk(self.wire, 1.0) * film
            near, slow = duty_factor(on_s, period_s, np.array([own, bulk_s]))
            return float(near), float(slow)
        near, slow, _ = self._lone_duty(amps, on_s, period_s, celsius)
        return near, slow

    def _lone_duty(self, amps: float, on_s: float, period_s: float, celsius: float = 0.0) -> tuple[float, float, float]:
        """(near, bulk, hottest instant) of a lone wire; at `celsius` where it is known, else at the temperature it
        comes to."""
        known, now = celsius > 0, celsius or self.run.ambient_c + 20
        jacket, outside = self.body.jacket_km_w, 1 / (2 * np.pi * self.radius * USUAL_FILM_W_M2K)
        response, near, slow = self._response(), np.ones(1), np.ones(1)
        for passed in range(200):
            lost = amps * amps * float(self._ohm(np.array([now]))[0])
            near, slow = response.lone_duty(jacket, outside, on_s, period_s)
            watts = np.maximum(lost * slow**2, 1e-6)
            outside = 1 / (2 * np.pi * self.radius * self._film(watts))
            sun = float(np.sum(sun_rise_k(watts, self.radius, self.air, self.share, self.run.air_m_s, self.outside)))
            rise = lost * float(slow[0] ** 2 * outside[0] + near[0] ** 2 * jacket[0])
            there = now if known else min(self.run.ambient_c + sun + rise, HOTTEST_C)
            if abs(there - now) < 1e-4 and passed > 3:
                break
            now = there
        return float(near[0]), float(slow[0]), now

    def duty_settle(self, amps: float, on_s: float, period_s: float, begun: Floats | None = None) -> Floats:
        """Temperatures (n,) at the hottest instant of a repeated duty: a lone wire's from its exact periodic answer,
        its film that of its surface then; a bundle's by its two time constants."""
        if self.sections is None:
            return np.array([self._lone_duty(amps, on_s, period_s)[2]])
        return self.settle(amps, *self.duty_factors(on_s, period_s, amps, 0.0), begun)

    def settle(self, amps: float, near: float = 1.0, bulk: float = 1.0, begun: Floats | None = None) -> Floats:
        """Temperatures [°C] of the conductors lying together (n,) at a continuous current through each; Aitken's steps.
        near and bulk scale the current as it counts at the wire itself and all through the bundle. `begun`:
        temperatures that are near already."""
        ambient = self.run.ambient_c
        now = np.full(self.run.together, ambient) if begun is None else begun

        def passed(celsius: Floats) -> Floats:
            watts = amps * amps * self._ohm(celsius)
            result: Floats = np.minimum(ambient + self.rises_k(watts * bulk**2, watts * (near**2 - bulk**2)), HOTTEST_C)
            return result

        for _ in range(60):
            first = passed(now)
            second = passed(first)
            step, bend = first - now, second - 2 * first + now
            ratio = (second - first) / np.where(np.abs(step) > 1e-9, step, 1.0)
            steady = (np.abs(bend) > 1e-9) & (ratio > 0) & (ratio < 0.9)  # what runs away isn't led back
            better = np.clip(np.where(steady, now - step**2 / np.where(steady, bend, 1.0), second), ambient, HOTTEST_C)
            if float(np.abs(better - now).max()) < 1e-4:
                return better
            now = better
        return now

    def ampacity(self, limit_c: float) -> float:
        """Continuous current in one conductor at which the hottest of those lying together is at the limit."""
        room = limit_c - self.run.ambient_c
        shape = np.ones(self.run.together)  # each one's loss over that of one at the limit
        if room <= 0 or float(self.rises_k(1e-9 * shape).max()) >= room:
            return 0.0
        high, at_limit = room / float(self.body.jacket_km_w[0]), float(self._ohm(np.array([limit_c]))[0])

        def over_room(shape: Floats, log_watts: float) -> float:
            """A rise goes nearly with a power of the loss, so that the search is for a line's zero."""
            return math.log(max(float(self.rises_k(math.exp(log_watts) * shape).max()), 1e-9) / room)

        watts = 0.0
        for _ in range(3):
            watts = math.exp(_crossing(partial(over_room, shape), math.log(high) - 2.0, math.log(high), ROOM_SHARE))
            before, shape = shape, self._ohm(self.run.ambient_c + self.rises_k(watts * shape)) / at_limit
            if float(np.abs(shape - before).max()) < 1e-6:
                break
            high = 1.02 * watts
        return float(np.sqrt(watts / at_limit))

    def duty_ampacity(self, limit_c: float, continuous_a: float, on_s: float, period_s: float) -> float:
        """Current in one conductor that a duty's hottest instant brings to the limit; `continuous_a` is what it carries
        all the time."""
        if continuous_a <= 0:
            return 0.0
        last = [np.full(self.run.together, self.run.ambient_c)]

        def over_room(log_amps: float) -> float:
            """Each begins at the temperatures of the last."""
            last[0] = self.duty_settle(math.exp(log_amps), on_s, period_s, last[0])
            return math.log(max(float(last[0].max()) - self.run.ambient_c, 1e-9) / room)

        room, log_amps = limit_c - self.run.ambient_c, math.log(continuous_a)
        return math.exp(_crossing(over_room, log_amps - 0.01, log_amps + 0.3, ROOM_SHARE))


ROOM_SHARE = 1e-6
"""How near to its limit a current is brought, as a share of the room."""
FAR_LOG = 40.0
"""So far an answer lies from where it is looked for at most, in its logarithm."""


def _crossing(rising: Callable[[float], float], low: float, high: float, near: float) -> float:
    """Where a rising function passes zero, to within `near` of it, by false position with the Illinois rule (Dowell and
    Jarratt 1971); first the two sides are moved out until zero lies between them. SciPy's root finders would take
    longer to load than a one-run sum takes."""
    under, over, side, step = rising(low), rising(high), 0, high - low
    least, most = low - FAR_LOG, high + FAR_LOG
    while over < 0 and high < most:
        low, under, high, step = high, over, high + step, 2 * step
        over = rising(high)
    while under > 0 and low > least:
        high, over, low, step = low, under, low - step, 2 * step
        under = rising(low)
    middle = high
    for _ in range(200):
        if not under < 0 < over:
            break
        middle = (low * over - high * under) / (over - under)
        value = rising(middle)
        if abs(value) < near or high - low < 1e-12 * abs(high):
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
    mean, temperature, amps, loop = run.ambient_c, run.ambient_c, 0.0, 0.0
    for _ in range(40):
        loop = metres * float(section.body.ohm_per_m(np.array([mean]))[0]) + run.joint_ohm
        amps = _current(run, _seen_ohm(run, loop, metres))
        if np.isnan(amps):
            temperature = HOTTEST_C
            break
        each = amps / run.parallel
        there = section.settle(each) if run.duty is None else section.duty_settle(each, *run.duty)
        temperature, before, mean = float(there.max()), mean, float(there.mean())
        if abs(mean - before) < 1e-3:
            break
    if not np.isnan(amps):
        temperature = min(max(temperature, mean + _joint_rise_k(run, wire, section, amps, mean)), HOTTEST_C)
    drop = amps * _seen_ohm(run, loop, metres) if not np.isnan(amps) else run.volts
    continuous = section.ampacity(run.limit_c) * run.parallel
    ampacity = continuous
    if run.duty is not None:
        ampacity = section.duty_ampacity(run.limit_c, continuous / run.parallel, *run.duty) * run.parallel
    standing = None if np.isnan(amps) else section.standing(there, amps / run.parallel, run.duty)
    surge_c = None
    if run.surge is not None:
        surge_c = max(temperature, _surged(standing, run)) if standing is not None else HOTTEST_C
    fuse_a, fault_a = _fuse(run, amps), run.volts / max(loop, 1e-9)
    shield = None
    if fuse_a is not None and standing is not None:
        shield = _shield(run, wire, standing, fuse_a, fault_a)
    broken = _broken(run, wire, amps, drop, temperature, surge_c, fuse_a, fault_a, shield)
    return Judged(
        size,
        wire,
        amps,
        drop,
        100 * drop / run.volts,
        loop,
        temperature,
        ampacity,
        continuous,
        surge_c,
        fuse_a,
        shield,
        broken,
    )


def _surged(standing: Standing, run: Run) -> float:
    """Temperature after the run's surge, from where its conductors stand."""
    assert run.surge is not None
    return float(standing.after_c(np.array([[run.surge[0] / run.parallel]]), np.array([[run.surge[1]]]))[0, 0])


def _seen_ohm(run: Run, loop_ohm: float, metres: float) -> float:
    """What the drop sees of a loop: R·cos φ + X·sin φ for AC, plain resistance otherwise."""
    factor = run.power_factor
    return loop_ohm * factor + AC_OHM_PER_M * metres * (1 - factor**2) ** 0.5 if factor < 1 else loop_ohm


def _joint_rise_k(run: Run, wire: Conductor, section: _Section, amps: float, mean_c: float) -> float:
    """What the worst joint adds to the wire's own temperature at its place."""
    if run.joint_ohm <= 0:
        return 0.0
    each = run.joint_ohm / max(run.joints, 1)
    per_metre = thermal_resistance_km_w(np.full(1, 3.0), section.body, np.array([min(mean_c, 200.0)]))
    return float(fin_rise_k(np.array([amps * amps * each]), [wire], per_metre)[0]) / run.parallel


def _shield(run: Run, wire: Conductor, standing: Standing, fuse_a: float, fault_a: float) -> Shielded:
    """How the fuse is judged over this wire."""
    found = shields(
        np.array([fuse_a]), standing, [wire], np.array([float(run.parallel)]), np.array([fault_a]), run.fuse_rule
    )
    used, worst, seconds, allowed, stands, ever = (
        float(column[0])
        for column in (found.used, found.worst_a, found.seconds, found.allowed_c, found.withstand_a, found.for_ever_a)
    )
    return Shielded(fuse_a, used, worst, seconds, allowed, stands, ever, "")


def _fuse(run: Run, amps: float) -> float | None:
    """The stated rating, or the smallest that carries the load warm and rides through the surge."""
    if run.fuse is None:
        return None
    if run.fuse != "auto":
        return float(run.fuse)
    return fitting_rating(amps, run.ambient_c, [run.surge] if run.surge else [])


def _broken(
    run: Run,
    wire: Conductor,
    amps: float,
    drop: float,
    temperature: float,
    surge_c: float | None,
    fuse_a: float | None,
    fault_a: float,
    shield: Shielded | None,
) -> tuple[str, ...]:
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


def size_run(run: Run, wanted: Wanted = always) -> RunAnswer:
    """The smallest size of the series that meets every limit, or the judgement of the one given. Stopped once the
    answer isn't `wanted`."""
    _refuse_nonsense(run)
    if run.size is not None:
        judged = judge(run, parse_size(run.size))
        return RunAnswer(run, judged, _governs(run, judged, None), (judged,))
    tried = []
    for size in series(run.series):
        go_on_if(wanted)
        tried.append(judge(run, size))
    at = next((i for i, one in enumerate(tried) if one.ok), None)
    if at is None:
        return RunAnswer(run, None, tried[-1].broken[0], tuple(tried))
    return RunAnswer(run, tried[at], _governs(run, tried[at], tried[at - 1] if at else None), tuple(tried))


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
