"""Derivations for a single run."""

from __future__ import annotations

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.explain.about_fuses import why_protection
from umber_trunk.core.explain.about_wires import ESTIMATE, HEAT_SOURCE
from umber_trunk.core.onerun.asked_run import Judged, Run, RunAnswer
from umber_trunk.core.physics.fuses import carries_surge, continuous_a
from umber_trunk.core.units import show_length, show_ohms, show_volts, significant
from umber_trunk.core.why import Derivation, Input


def why_run(answer: RunAnswer, one: Judged) -> list[Derivation]:
    """Why the drop, the temperature and, where asked for, the surge and the fuse of a judged size."""
    reasons = [_why_drop(answer, one), _why_heat(answer, one)]
    if answer.run.surge is not None and one.surge_c is not None:
        reasons.append(_why_surge(*answer.run.surge, one, one.surge_c))
    if one.fuse_a is not None:
        reasons.append(_why_fuse(answer, one, one.fuse_a))
    return reasons


def _why_surge(amps: float, seconds: float, one: Judged, surge_c: float) -> Derivation:
    return Derivation(
        title=f"Surge of {significant(amps)} A for {seconds:g} s",
        verdict=f"It warms the conductor from {one.conductor_c:.0f} to {surge_c:.0f} °C.",
        formula="θ(t) from the heat network of metal, jacket in shells, neighbours and film, R rising with θ",
        inputs=(
            Input("C", "heat stored in the metal", f"{one.wire.kg_per_m * one.wire.metal.heat_j_kg_k:.1f} J/m·K"),
            Input("T", "running temperature", f"{one.conductor_c:.1f} °C"),
        ),
        result=f"T = {surge_c:.1f} °C",
        limit=f"{one.wire.jacket.short_c:g} °C for a short time",
        source="heat balance in time; adiabatic limit as IEC 60724, jackets taking heat as IEC 60949. " + ESTIMATE,
    )


def _why_fuse(answer: RunAnswer, one: Judged, fuse_a: float) -> Derivation:
    run = answer.run
    most = continuous_a(fuse_a, run.ambient_c)
    steps = [f"carries {significant(one.amps)} of the {significant(most)} A it stands all day at {run.ambient_c:g} °C"]
    if run.surge is not None:
        held = "rides through" if carries_surge(fuse_a, *run.surge) else "may open in"
        steps.append(f"{held} {significant(run.surge[0])} A for {run.surge[1]:g} s")
    steps.append(f"a short at the load draws {significant(run.volts / max(one.resistance_ohm, 1e-9))} A")
    if one.protection is None:
        return Derivation(f"Fuse of {fuse_a:g} A", "Nothing can be said: the load has no solution.", "–", (), "open")
    return why_protection(f"Fuse of {fuse_a:g} A", "It", one.protection, one.wire, run.fuse_rule, tuple(steps))


def _why_drop(answer: RunAnswer, one: Judged) -> Derivation:
    run, wire = answer.run, one.wire
    ways = "there, ground back" if run.ground_return else "there and back"
    allowed = show_volts(run.max_drop_v)
    verdict = "within" if one.drop_v <= run.max_drop_v * (1 + 1e-9) else "over"
    return Derivation(
        title=f"Drop over {show_length(run.run_m)} of {show_size(one.size.label)}",
        verdict=f"{show_volts(one.drop_v)}, {one.drop_percent:.2f} %, {verdict} the {allowed} allowed.",
        formula="ΔU = I·(n·L·r₂₀·(1 + α·(T − 20))/p + R_joints)",
        inputs=(
            Input("I", "what the load draws at its own voltage", f"{significant(one.amps, 4)} A"),
            Input("n·L", ways, show_length(run.run_m * (1 if run.ground_return else 2))),
            Input("r₂₀", wire.ohm_source, f"{significant(wire.ohm_per_m_20 * 1000, 4)} mΩ/m"),
            Input("α", wire.metal.source, f"{wire.metal.alpha_per_k:g} /K"),
            Input("T", "conductor temperature", f"{one.conductor_c:.1f} °C"),
            Input("p", "conductors in parallel", f"{run.parallel}"),
            Input("R_joints", "all joints together", show_ohms(run.joint_ohm)),
        ),
        result=f"{significant(one.amps, 4)} A × {show_ohms(one.resistance_ohm)} = {show_volts(one.drop_v)}",
        limit=allowed,
        source=ESTIMATE,
    )


def _in_duty(run: Run) -> str:
    return " in this duty" if run.duty else " all the time"


def _why_heat(answer: RunAnswer, one: Judged) -> Derivation:
    run, wire = answer.run, one.wire
    each = one.amps / run.parallel
    ohm = wire.ohm_per_m_20 * (1 + wire.metal.alpha_per_k * (one.conductor_c - 20))
    beside = (
        "alone in air" if run.together == 1 else f"the hottest of {run.together} equal loaded conductors lying together"
    )
    duty = f", hottest instant of {run.duty[0]:g} s in {run.duty[1]:g} s" if run.duty else ""
    return Derivation(
        title=f"Temperature of {show_size(one.size.label)}",
        verdict=f"{one.conductor_c:.1f} °C, {beside}{duty}; up to {one.ampacity_a:.0f} A would be "
        f"carried{_in_duty(run)}.",
        formula="I²·R(T) = π·D·(h + h_rad)·(Tₛ − Tₐ);  T − Tₛ = I²·R·ln(D/d)/2πk",
        inputs=(
            Input("I", "in each conductor", f"{significant(each, 4)} A"),
            Input("n", str(run.lie), f"{run.together}"),
            Input("R(T)", "resistance when hot", f"{significant(ohm * 1000, 4)} mΩ/m"),
            Input("Tₐ", "ambient", f"{run.ambient_c:g} °C"),
            Input("D, d", "outside and conductor diameter", f"{wire.outer_mm:.2f} mm, {wire.conductor_mm:.2f} mm"),
            Input("k", f"conductivity of the jacket ({wire.jacket.name})", f"{wire.jacket.k_w_mk:g} W/m·K"),
        ),
        result=f"T = {one.conductor_c:.1f} °C",
        limit=f"{run.limit_c:g} °C",
        source=HEAT_SOURCE,
    )
