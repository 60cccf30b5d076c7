"""Derivations for a single run."""

from __future__ import annotations

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.explain.about_fuses import why_protection
from umber_trunk.core.onerun.asked_run import Judged, RunAnswer
from umber_trunk.core.physics.fuses import carries_surge, continuous_a
from umber_trunk.core.units import show_length, show_ohms, show_volts, significant
from umber_trunk.core.why import Derivation, Input, estimated, why


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
        title=why("surge.title", amps=significant(amps), seconds=seconds),
        verdict=why("surge.verdict", from_c=one.conductor_c, to_c=surge_c),
        formula=why("start-formula"),
        inputs=(
            Input("C", why("stored"), f"{one.wire.kg_per_m * one.wire.metal.heat_j_kg_k:.1f} J/m·K"),
            Input("T", why("running"), f"{one.conductor_c:.1f} °C"),
        ),
        result=f"T = {surge_c:.1f} °C",
        limit=why("short-time", limit_c=one.wire.jacket.short_c),
        source=estimated(why("start-source")),
    )


def _why_fuse(answer: RunAnswer, one: Judged, fuse_a: float) -> Derivation:
    run = answer.run
    most = continuous_a(fuse_a, run.ambient_c)
    title = why("fuse-of", rating=fuse_a)
    steps = [why("run-fuse.carries", amps=significant(one.amps), most=significant(most), ambient_c=run.ambient_c)]
    if run.surge is not None:
        held = "rides" if carries_surge(fuse_a, *run.surge) else "opens"
        steps.append(why(f"run-fuse.{held}", amps=significant(run.surge[0]), seconds=run.surge[1]))
    steps.append(why("run-fuse.short", amps=significant(run.volts / max(one.resistance_ohm, 1e-9))))
    if one.protection is None:
        return Derivation(title, why("run-fuse.unsaid"), "–", (), why("open"))
    return why_protection(title, why("it"), one.protection, one.wire, run.fuse_rule, tuple(steps))


def _why_drop(answer: RunAnswer, one: Judged) -> Derivation:
    run, wire = answer.run, one.wire
    ways = why("ground-back" if run.ground_return else "there-back")
    allowed = show_volts(run.max_drop_v)
    return Derivation(
        title=why("run-drop.title", length=show_length(run.run_m), size=show_size(one.size.label)),
        verdict=why(
            "run-drop.verdict",
            drop=show_volts(one.drop_v),
            percent=one.drop_percent,
            ok=one.drop_v <= run.max_drop_v * (1 + 1e-9),
            allowed=allowed,
        ),
        formula="ΔU = I·(n·L·r₂₀·(1 + α·(T − 20))/p + R_joints)",
        inputs=(
            Input("I", why("own-voltage"), f"{significant(one.amps, 4)} A"),
            Input("n·L", ways, show_length(run.run_m * (1 if run.ground_return else 2))),
            Input("r₂₀", wire.ohm_source, f"{significant(wire.ohm_per_m_20 * 1000, 4)} mΩ/m"),
            Input("α", wire.metal.source, f"{wire.metal.alpha_per_k:g} /K"),
            Input("T", why("conductor-c"), f"{one.conductor_c:.1f} °C"),
            Input("p", why("parallel"), f"{run.parallel}"),
            Input("R_joints", why("all-joints"), show_ohms(run.joint_ohm)),
        ),
        result=f"{significant(one.amps, 4)} A × {show_ohms(one.resistance_ohm)} = {show_volts(one.drop_v)}",
        limit=allowed,
        source=why("estimate"),
    )


def _why_heat(answer: RunAnswer, one: Judged) -> Derivation:
    run, wire = answer.run, one.wire
    each = one.amps / run.parallel
    ohm = wire.ohm_per_m_20 * (1 + wire.metal.alpha_per_k * (one.conductor_c - 20))
    on, of = run.duty or (0.0, 0.0)
    return Derivation(
        title=why("run-heat.title", size=show_size(one.size.label)),
        verdict=why(
            "run-heat.verdict",
            hot_c=one.conductor_c,
            together=run.together if run.together > 1 else 0,
            on=on,
            of=of,
            ampacity=one.ampacity_a,
        ),
        formula="I²·R(T) = π·D·(h + h_rad)·(Tₛ − Tₐ);  T − Tₛ = I²·R·ln(D/d)/2πk",
        inputs=(
            Input("I", why("in-each"), f"{significant(each, 4)} A"),
            Input("n", run.lie, f"{run.together}"),
            Input("R(T)", why("hot-ohm"), f"{significant(ohm * 1000, 4)} mΩ/m"),
            Input("Tₐ", why("ambient"), f"{run.ambient_c:g} °C"),
            Input("D, d", why("diameters"), f"{wire.outer_mm:.2f} mm, {wire.conductor_mm:.2f} mm"),
            Input("k", why("jacket-k", jacket=wire.jacket.name), f"{wire.jacket.k_w_mk:g} W/m·K"),
        ),
        result=f"T = {one.conductor_c:.1f} °C",
        limit=f"{run.limit_c:g} °C",
        source=why("heat-source"),
    )
