"""Derivations for a single run."""

from __future__ import annotations

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.sizing.reasons import ESTIMATE, HEAT_SOURCE
from umber_trunk.core.sizing.single import Judged, RunAnswer
from umber_trunk.core.units import show_length, show_ohms, significant
from umber_trunk.core.why import Derivation, Input


def why_run(answer: RunAnswer, one: Judged) -> list[Derivation]:
    """Why the drop and why the temperature of a judged size."""
    return [_why_drop(answer, one), _why_heat(answer, one)]


def _why_drop(answer: RunAnswer, one: Judged) -> Derivation:
    run, wire = answer.run, one.wire
    ways = "there, ground back" if run.ground_return else "there and back"
    verdict = "within" if one.drop_v <= run.max_drop_v * (1 + 1e-9) else "over"
    return Derivation(
        title=f"Drop over {show_length(run.run_m)} of {show_size(one.size.label)}",
        verdict=f"{one.drop_v:.3f} V, {one.drop_percent:.2f} %, {verdict} the {run.max_drop_v:.3f} V allowed.",
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
        result=f"{significant(one.amps, 4)} A × {show_ohms(one.resistance_ohm)} = {one.drop_v:.3f} V",
        limit=f"{run.max_drop_v:.3f} V", source=ESTIMATE,
    )  # fmt: skip


def _why_heat(answer: RunAnswer, one: Judged) -> Derivation:
    run, wire = answer.run, one.wire
    each = one.amps / run.parallel
    ohm = wire.ohm_per_m_20 * (1 + wire.metal.alpha_per_k * (one.conductor_c - 20))
    beside = "alone in air" if run.bundle == 1 else f"the hottest of {run.bundle} equal loaded wires"
    duty = f", hottest instant of {run.duty[0]:g} s in {run.duty[1]:g} s" if run.duty else ""
    return Derivation(
        title=f"Temperature of {show_size(one.size.label)}",
        verdict=f"{one.conductor_c:.1f} °C, {beside}{duty}; up to {one.ampacity_a:.0f} A would be carried.",
        formula="I²·R(T) = π·D·(h + h_rad)·(Tₛ − Tₐ);  T − Tₛ = I²·R·ln(D/d)/2πk",
        inputs=(
            Input("I", "in each conductor", f"{significant(each, 4)} A"),
            Input("R(T)", "resistance when hot", f"{significant(ohm * 1000, 4)} mΩ/m"),
            Input("Tₐ", "ambient", f"{run.ambient_c:g} °C"),
            Input("D, d", "outside and conductor diameter", f"{wire.outer_mm:.2f} mm, {wire.conductor_mm:.2f} mm"),
            Input("k", f"conductivity of the jacket ({wire.jacket.name})", f"{wire.jacket.k_w_mk:g} W/m·K"),
        ),
        result=f"T = {one.conductor_c:.1f} °C", limit=f"{run.limit_c:g} °C", source=HEAT_SOURCE,
    )  # fmt: skip
