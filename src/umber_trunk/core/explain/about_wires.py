"""Derivations of the figures on the desks."""

from __future__ import annotations

from functools import partial
from statistics import NormalDist

import numpy as np

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.fuses.chain import Chains
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.used import Figures, LoadFigures, Use, WireFigures
from umber_trunk.core.units import show_length, show_ohms, show_volts, significant
from umber_trunk.core.why import Derivation, Input, Said, estimated, why


def _case_of(found: Figures, name: str) -> int:
    ids = [case.case.id for case in found.solution.cases]
    return ids.index(name) if name in ids else 0


def why_load(design: Design, found: Figures, entry: LoadFigures) -> Derivation:
    """Volts at a load: the sum of every drop round its loop."""
    plant = found.solution.plant
    case = found.solution.cases[_case_of(found, entry.case)]
    legs = Ways(plant, case).of(entry.row)
    inputs = [Input("U₀", why("load.rest"), f"{entry.nominal_v:g} V")]
    steps, told = [], 0.0
    for leg in legs:
        if leg.branch < len(plant.wires):
            wire = plant.wires[leg.branch]
            name, size = wire.name or wire.id, show_size(plant.conductors[leg.branch].size.label)
            length = show_length(float(plant.length_m[leg.branch]))
            step = partial(why, "load.wire", wire=name, size=size, length=length, returning=leg.returning)
        else:
            end, link = plant.links[leg.branch - len(plant.wires)]
            kind, name = why(f"link.kind.{link.kind}"), plant.index.ends[end].name
            step = partial(why, "load.link", kind=kind, link=link.id, end=name)
        told += leg.volts
        ohm = show_ohms(leg.volts / leg.amps)
        steps.append(step(amps=significant(leg.amps), ohm=ohm, volts=show_volts(leg.volts)))
    source_v = max(entry.drop_v - told, 0.0)
    if source_v > 5e-4:
        steps.append(why("load.source-v", volts=source_v))
    taken = why("load.draws", kind=why(f"load.kind.{entry.load.kind}"))
    inputs.append(Input("I", taken, f"{significant(entry.amps)} A"))
    return Derivation(
        title=why("load.title", load=entry.load.name),
        verdict=why(
            "load.verdict",
            volts=entry.volts,
            percent=entry.drop_percent,
            case=found.case_name(entry.case),
            rule=entry.rule,
            held=entry.used <= 1,
        ),
        formula=why("load.formula"),
        inputs=tuple(inputs),
        steps=tuple(steps),
        result=f"{entry.nominal_v:g} V − {show_volts(entry.drop_v)} = {show_volts(entry.volts)}",
        limit=why("load.limit", allowed=entry.allowed_v, rule=entry.rule),
        source=why("load.source", estimate=why("estimate")),
    )


def why_rating(found: Figures, entry: LoadFigures) -> Derivation:
    """The weakest part of a load's circuit, and the whole chain."""
    parts = Chains(found).parts(entry.load.id)
    if not parts:
        return Derivation(why("rating.title", load=entry.load.name), why("rating.none"), "–", (), "–")
    weak = parts[0]
    return Derivation(
        title=why("rating.title", load=entry.load.name),
        verdict=why("rating.verdict", part=weak.name, rating=significant(weak.rating_a), amps=significant(weak.amps)),
        formula=why("rating.formula"),
        inputs=tuple(
            Input(
                f"{100 * part.used:.0f} %",
                part.name,
                why("rating.of", amps=significant(part.amps), rating=significant(part.rating_a)),
            )
            for part in parts
        ),
        result=why("rating.result", percent=100 * weak.used),
        limit="100 %",
        source=estimated(why("rating.source")),
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
    return Derivation(
        title=why("heat.title", wire=row.wire.name or row.wire.id),
        verdict=why(
            "heat.verdict",
            hot_c=row.conductor_c,
            segment=segment,
            neighbours=neighbours,
            limit_c=row.limit_c,
        ),
        formula=why("heat.formula"),
        inputs=(
            Input("I", why("heat.i"), f"{significant(amps)} A"),
            Input("R(T)", why("heat.ohm", source=cond.ohm_source), f"{significant(ohm * 1000)} mΩ/m"),
            Input("I²R", why("heat.loss"), f"{significant(amps * amps * ohm)} W/m"),
            Input("Tₐ", why("heat.ambient"), f"{ambient:.0f} °C"),
            Input("D", why("heat.outside", size=show_size(row.size)), f"{cond.outer_mm:.1f} mm"),
        ),
        result=f"T = {row.conductor_c:.1f} °C",
        limit=why("heat.limit", limit_c=row.limit_c, jacket=cond.jacket.name),
        source=estimated(why("heat-source")),
    )


def why_size(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """Which limit governs a wire, and how much of each is used."""
    worst, cases = row.worst, len(found.solution.cases)
    if not row.size_known:
        return Derivation(
            why("size.title", wire=row.wire.name or row.wire.id),
            why("size.open"),
            "–",
            (),
            "?",
            source=why("size.add"),
        )

    def meaning(use: Use) -> Message:
        when = found.case_name(use.case) if use.case and cases > 1 and use.used > 0 else ""
        return why("size.use", limit=why(f"size.limit.{use.limit.name.lower()}"), subject=use.subject, case=when)

    return Derivation(
        title=why("size.title", wire=row.wire.name or row.wire.id),
        verdict=why(
            "size.verdict",
            size=show_size(row.size),
            chosen=bool(row.wire.size),
            limit=worst.limit,
            percent=100 * worst.used,
        ),
        formula=why("size.formula"),
        inputs=tuple(Input(use.limit, meaning(use), f"{100 * use.used:.0f} %") for use in row.uses),
        result=why("size.margin", margin=f"{100 * worst.margin:+.0f}".replace("-", "−")),
        limit=why("size.limits"),
        source=estimated(why("size.source")),
    )


def why_wire_drop(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """Volts lost in one wire."""
    plant = found.solution.plant
    case = found.solution.cases[_case_of(found, row.case)]
    cond = plant.conductors[row.row]
    ohm, joint = float(case.wire_ohm[row.row]), float(plant.joint_ohm[row.row])
    return Derivation(
        title=why("drop.title", wire=row.wire.name or row.wire.id),
        verdict=why("drop.verdict", volts=show_volts(row.drop_v), amps=significant(row.amps)),
        formula="ΔU = I·(r₂₀·(1 + α·(T − 20))·L/p + R_joints)",
        inputs=(
            Input("I", why("link.i"), f"{significant(row.amps)} A"),
            Input("r₂₀", cond.ohm_source, f"{significant(cond.ohm_per_m_20 * 1000)} mΩ/m"),
            Input("α", cond.metal.source, f"{cond.metal.alpha_per_k:g} /K"),
            Input("T", why("drop.mean-c"), f"{float(case.mean_c[row.row]):.1f} °C"),
            Input("L", why("drop.run"), show_length(row.length_m)),
            Input("p", why("parallel"), f"{row.wire.parallel}"),
            Input("R_joints", why("drop.ends"), show_ohms(joint)),
        ),
        result=f"{significant(row.amps)} A × {show_ohms(ohm)} = {show_volts(row.drop_v)}",
        source=why("estimate"),
    )


def why_cut(results: Results, wire_id: str) -> Derivation:
    """Cut length: every part of it with its reason, and the chance of coming up short."""
    one, project = results.once(wire_lengths)[wire_id], results.design.project
    quantile = NormalDist().inv_cdf(1 - project.chance_short)
    return Derivation(
        title=why("cut.title", wire=index_of(results.design).wires[wire_id].name or wire_id),
        verdict=why("cut.verdict", cut=one.cut_m, finished=one.finished_m, once=_once_in(one.chance_short)),
        formula=why("cut.formula"),
        inputs=(
            *(Input(share.what, share.why or why("cut.none"), f"{1e3 * share.metres:.1f} mm") for share in one.shares),
            Input("σ", why("cut.sigma"), show_length(one.sd_m)),
            Input("z", why("cut.z", percent=100 * project.chance_short), f"{quantile:.2f}"),
        ),
        result=f"{one.cut_m:.3f} m",
        source=why("cut.source"),
    )


def _once_in(chance: float) -> Said:
    """A chance as people say it."""
    return why("cut.million") if chance < 1e-6 else significant(1 / chance, 2)
