"""Derivations of the figures on the desks."""

from __future__ import annotations

from statistics import NormalDist

import numpy as np

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.fuses.chain import Chains
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, LoadKind
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.results import Results
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.used import Figures, Limit, LoadFigures, Use, WireFigures
from umber_trunk.core.units import show_length, show_ohms, show_volts, significant
from umber_trunk.core.why import Derivation, Input

HEAT_SOURCE = (
    "Churchill and Chu 1975 (free convection), Stefan–Boltzmann with ε = 0.9; bundles by the conduction "
    "series of Carslaw and Jaeger, every wire's metal spreading heat; IEC 60364-5-52 grouping within 0.04"
)
ESTIMATE = "An engineering estimate; the applicable code and a licensed person decide."


def _case_of(found: Figures, name: str) -> int:
    ids = [case.case.id for case in found.solution.cases]
    return ids.index(name) if name in ids else 0


def why_load(design: Design, found: Figures, entry: LoadFigures) -> Derivation:
    """Volts at a load: the sum of every drop round its loop."""
    plant = found.solution.plant
    case = found.solution.cases[_case_of(found, entry.case)]
    legs = Ways(plant, case).of(entry.row)
    inputs = [Input("U₀", "supply at rest", f"{entry.nominal_v:g} V")]
    steps, told = [], 0.0
    for leg in legs:
        if leg.branch < len(plant.wires):
            wire = plant.wires[leg.branch]
            name, size = wire.name or wire.id, show_size(plant.conductors[leg.branch].size.label)
            side = "return" if leg.returning else "feed"
            text = f"{name}, {size}, {show_length(float(plant.length_m[leg.branch]))} ({side})"
        else:
            end, link = plant.links[leg.branch - len(plant.wires)]
            text = f"{link.kind} {link.id} in {plant.index.ends[end].name}"
        told += leg.volts
        steps.append(f"{text}: {significant(leg.amps)} A × {show_ohms(leg.volts / leg.amps)} = {show_volts(leg.volts)}")
    source_v = max(entry.drop_v - told, 0.0)
    if source_v > 5e-4:
        steps.append(f"inside the supply and in shared joints: {source_v:.3f} V")
    taken = {
        LoadKind.CURRENT: "constant current",
        LoadKind.POWER: "constant power, I = P/U",
        LoadKind.RESISTANCE: "resistance, I = U/R",
    }[entry.load.kind]
    inputs.append(Input("I", f"what it draws ({taken})", f"{significant(entry.amps)} A"))
    held = "holds" if entry.used <= 1 else "is exceeded"
    return Derivation(
        title=f"Volts at {entry.load.name}",
        verdict=f"{entry.volts:.2f} V arrive, {entry.drop_percent:.2f} % down, worst in "
        f"“{found.case_name(entry.case)}”; "
        f"{entry.rule} {held}.",
        formula="U = U₀ − Σ I·R, all legs there and back, each at its own temperature",
        inputs=tuple(inputs),
        steps=tuple(steps),
        result=f"{entry.nominal_v:g} V − {show_volts(entry.drop_v)} = {show_volts(entry.volts)}",
        limit=f"at most {entry.allowed_v:.2f} V down ({entry.rule})",
        source="Kirchhoff's laws over the whole tree; " + ESTIMATE,
    )


def why_rating(found: Figures, entry: LoadFigures) -> Derivation:
    """The weakest part of a load's circuit, and the whole chain."""
    parts = Chains(found).parts(entry.load.id)
    if not parts:
        return Derivation(f"Rating of {entry.load.name}", "No part on its way has a known rating.", "–", (), "–")
    weak = parts[0]
    return Derivation(
        title=f"Rating of {entry.load.name}",
        verdict=f"As good as {weak.name}: {significant(weak.rating_a)} A, of which {significant(weak.amps)} A are "
        "used.",
        formula="rating of a circuit = rating of its weakest part",
        inputs=tuple(
            Input(f"{100 * part.used:.0f} %", part.name, f"{significant(part.amps)} of {significant(part.rating_a)} A")
            for part in parts
        ),
        result=f"{100 * weak.used:.0f} % of the weakest part used",
        limit="100 %",
        source="fuses at their warm continuous share, wires at their jacket's limit where they lie. " + ESTIMATE,
    )


def why_heat(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """Conductor temperature: loss against what film, bundle and jacket let through."""
    solution = found.solution
    plant, case = solution.plant, solution.cases[_case_of(found, row.case)]
    cond = plant.conductors[row.row]
    pairs = np.flatnonzero(solution.heat.wire == row.row)
    hot = int(pairs[np.argmax(case.pair_c[pairs])]) if len(pairs) else -1
    bundle = int(solution.heat.bundle[hot]) if hot >= 0 else -1
    segment = solution.heat.bundles.segment[bundle] if bundle >= 0 else ""
    neighbours = int(np.sum(solution.heat.bundle == bundle)) if bundle >= 0 else 1
    ambient = float(case.ambient_c[row.row])
    amps = float(case.heat_a[row.row]) / row.wire.parallel
    ohm = cond.ohm_per_m_20 * (1 + cond.metal.alpha_per_k * (row.conductor_c - 20))
    where = f"segment {segment} with {neighbours} conductors" if segment else "alone in the project's air"
    return Derivation(
        title=f"Temperature of {row.wire.name or row.wire.id}",
        verdict=f"{row.conductor_c:.0f} °C in {where}; the jacket stands {row.limit_c:.0f} °C.",
        formula="I²·R(T) = what film, bundle and jacket carry off at T − Tₐ",
        inputs=(
            Input("I", "current that heats, duties counted", f"{significant(amps)} A"),
            Input("R(T)", f"resistance when hot, {cond.ohm_source}", f"{significant(ohm * 1000)} mΩ/m"),
            Input("I²R", "loss", f"{significant(amps * amps * ohm)} W/m"),
            Input("Tₐ", "ambient of the zone", f"{ambient:.0f} °C"),
            Input("D", f"outside diameter of {show_size(row.size)}", f"{cond.outer_mm:.1f} mm"),
        ),
        result=f"T = {row.conductor_c:.1f} °C",
        limit=f"{row.limit_c:.0f} °C, {cond.jacket.name}",
        source=HEAT_SOURCE + ". " + ESTIMATE,
    )


_LIMIT_WORDS = {
    Limit.DROP: "the drop of the worst load it serves",
    Limit.HEAT: "rise over ambient against the jacket's",
    Limit.SURGE: "heat while a load starts",
    Limit.DIP: "dip of the worst load it serves while one starts",
    Limit.FUSE: "worst current its fuse lets through, against what the wire stands for as long",
    Limit.HANDLING: "the project's smallest size",
}


def why_size(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """Which limit governs a wire, and how much of each is used."""
    worst, cases = row.worst, len(found.solution.cases)
    state = "chosen by you" if row.wire.size else "proposed: the smallest step that meets every limit"
    if not row.size_known:
        return Derivation(
            f"Size of {row.wire.name or row.wire.id}",
            "Open: no case sends any current through it, so nothing says how thick it must be.",
            "–",
            (),
            "?",
            source="Add its load, put that in a case, or type “signal” into its size cell.",
        )

    def meaning(use: Use) -> str:
        about = f" ({use.subject})" if use.subject else ""
        when = f", worst in “{found.case_name(use.case)}”" if use.case and cases > 1 and use.used > 0 else ""
        return f"{_LIMIT_WORDS[use.limit]}{about}{when}"

    return Derivation(
        title=f"Size of {row.wire.name or row.wire.id}",
        verdict=f"{show_size(row.size)}, {state}; {worst.limit} governs, {100 * worst.used:.0f} % used.",
        formula="used = what is taken ÷ what is allowed; the largest governs",
        inputs=tuple(Input(use.limit, meaning(use), f"{100 * use.used:.0f} %") for use in row.uses),
        result=f"{100 * worst.margin:+.0f} % margin".replace("-", "−"),
        limit="100 % of every limit",
        source="each limit has its own reason; ask the bar. " + ESTIMATE,
    )


def why_wire_drop(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """Volts lost in one wire."""
    plant = found.solution.plant
    case = found.solution.cases[_case_of(found, row.case)]
    cond = plant.conductors[row.row]
    ohm, joint = float(case.wire_ohm[row.row]), float(plant.joint_ohm[row.row])
    return Derivation(
        title=f"Drop in {row.wire.name or row.wire.id}",
        verdict=f"{show_volts(row.drop_v)} lost at {significant(row.amps)} A.",
        formula="ΔU = I·(r₂₀·(1 + α·(T − 20))·L/p + R_joints)",
        inputs=(
            Input("I", "worst current of all cases", f"{significant(row.amps)} A"),
            Input("r₂₀", cond.ohm_source, f"{significant(cond.ohm_per_m_20 * 1000)} mΩ/m"),
            Input("α", cond.metal.source, f"{cond.metal.alpha_per_k:g} /K"),
            Input("T", "mean conductor temperature", f"{float(case.mean_c[row.row]):.1f} °C"),
            Input("L", "run along the trunk", show_length(row.length_m)),
            Input("p", "conductors in parallel", f"{row.wire.parallel}"),
            Input("R_joints", "both ends", show_ohms(joint)),
        ),
        result=f"{significant(row.amps)} A × {show_ohms(ohm)} = {show_volts(row.drop_v)}",
        source=ESTIMATE,
    )


def why_cut(results: Results, wire_id: str) -> Derivation:
    """Cut length: every part of it with its reason, and the chance of coming up short."""
    one, project = results.once(wire_lengths)[wire_id], results.design.project
    quantile = NormalDist().inv_cdf(1 - project.chance_short)
    return Derivation(
        title=f"Cut length of {index_of(results.design).wires[wire_id].name or wire_id}",
        verdict=f"Cut {one.cut_m:.3f} m for {one.finished_m:.3f} m finished; it comes up short once in "
        f"{_once_in(one.chance_short)}.",
        formula="cut = path + bends + twist + loops + entry + strip + remakes + z·σ, up to the shop’s next step",
        inputs=(
            *(Input(share.what, share.why or "none here", f"{1e3 * share.metres:.1f} mm") for share in one.shares),
            Input(
                "σ", "root sum square of half of each ±, bends nobody described, the cut itself", show_length(one.sd_m)
            ),
            Input("z", f"for {100 * project.chance_short:g} % chance of coming up short", f"{quantile:.2f}"),
        ),
        result=f"{one.cut_m:.3f} m",
        source="house rules of the project, the parts’ sheets; normal quantile",
    )


def _once_in(chance: float) -> str:
    """A chance as people say it."""
    return "more than a million" if chance < 1e-6 else significant(1 / chance, 2)
