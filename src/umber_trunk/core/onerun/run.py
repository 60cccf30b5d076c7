"""One run on its own: the sum a builder does at the bench, with heat and drop together.

    ΔU = I·(n·L·r(T)/p + R_joints)        r(T) = r₂₀·(1 + α·(T − 20)),  n = 2 there and back, 1 with the frame as return
    T  = air + rise(I²·r(T), how it lies)  the hotter, the more ohms, the more heat: the two are settled together

A load of watts draws more the less arrives, one of ohms less. From the smallest size up, the first one wins that keeps
drop, jacket, surge and fuse; which of them ruled the next smaller one out is what governs.
"""

from __future__ import annotations

import numpy as np

from umber_trunk.core.catalog.conductors import Conductor, Size, conductor, parse_size, series
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.onerun.asked_run import Judged, Run, RunAnswer, refuse_nonsense
from umber_trunk.core.onerun.section import Section
from umber_trunk.core.physics.fuses import SURE_MULTIPLE, carries_surge, continuous_a, fitting_rating
from umber_trunk.core.physics.heat import HOTTEST_C, fin_rise_k
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.protection import Protected, protection
from umber_trunk.core.physics.transient import thermal_resistance_km_w
from umber_trunk.core.usual import AC_OHM_PER_M, MET


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
    section = Section(run, wire)
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
    protected = None
    if fuse_a is not None and standing is not None:
        protected = _protection(run, wire, standing, fuse_a, fault_a)
    broken = _broken(run, wire, amps, drop, temperature, surge_c, fuse_a, fault_a, protected)
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
        protected,
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


def _joint_rise_k(run: Run, wire: Conductor, section: Section, amps: float, mean_c: float) -> float:
    """What the worst joint adds to the wire's own temperature at its place."""
    if run.joint_ohm <= 0:
        return 0.0
    each = run.joint_ohm / max(run.joints, 1)
    per_metre = thermal_resistance_km_w(np.full(1, 3.0), section.body, np.array([min(mean_c, 200.0)]))
    return float(fin_rise_k(np.array([amps * amps * each]), [wire], per_metre)[0]) / run.parallel


def _protection(run: Run, wire: Conductor, standing: Standing, fuse_a: float, fault_a: float) -> Protected:
    """How the fuse is judged over this wire."""
    found = protection(
        np.array([fuse_a]), standing, [wire], np.array([float(run.parallel)]), np.array([fault_a]), run.fuse_rule
    )
    used, worst, seconds, allowed, stands, ever = (
        float(column[0])
        for column in (found.used, found.worst_a, found.seconds, found.allowed_c, found.withstand_a, found.ampacity_a)
    )
    return Protected(fuse_a, used, worst, seconds, allowed, stands, ever, "")


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
    protected: Protected | None,
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
        if not (protected is not None and protected.used <= MET and carries and rides and opens):
            found.append("fuse")
    if run.fuse == "auto" and fuse_a is None:
        found.append("fuse")
    return tuple(found)


def size_run(run: Run, wanted: Wanted = always) -> RunAnswer:
    """The smallest size of the series that meets every limit, or the judgement of the one given. Stopped once the
    answer isn't `wanted`."""
    refuse_nonsense(run)
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
