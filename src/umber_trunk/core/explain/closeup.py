"""What the Sizes desk draws of one wire: its heated cross-section, where the volts go, its fuse's band."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.fuses.fit import fuse_duties
from umber_trunk.core.harness.model import Design
from umber_trunk.core.physics.damage import allowed_c, anchors
from umber_trunk.core.physics.fuses import NEVER_S, carries_surge, opening_s
from umber_trunk.core.physics.protection import Protected
from umber_trunk.core.sentences import say
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.margins import allowed_drop
from umber_trunk.core.solve.solution import CaseSolution
from umber_trunk.core.solve.standing import standing_at
from umber_trunk.core.solve.used import Figures, Limit
from umber_trunk.core.units import show_seconds, significant
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class SectionWire:
    """One conductor in a cross-section: place and size in mm, temperature, what it carries."""

    wire_id: str
    name: str
    x: float
    y: float
    outer_mm: float
    conductor_mm: float
    celsius: float
    amps: float


@dataclass(frozen=True)
class Section:
    """The packed cross-section of a segment in one case."""

    segment: str
    name: str
    case: str
    diameter_mm: float
    sleeve_mm: float
    ambient_c: float
    wires: tuple[SectionWire, ...]


@dataclass(frozen=True)
class VoltStep:
    """One step down from the source to the load and back: what it is and the volts it costs."""

    name: str
    kind: str
    volts: float
    mine: bool


@dataclass(frozen=True)
class VoltPath:
    """Where the volts go for one load in its worst case."""

    load: str
    case: str
    nominal_v: float
    load_v: float
    allowed_v: float
    rule: str
    steps: tuple[VoltStep, ...]


@dataclass(frozen=True)
class FusePicture:
    """Curves over amps: fastest and slowest opening, and how long the wire stands it where it lies [s]; what it carries
    for ever, how its fuse is judged; surges as (A, s)."""

    fuse: str
    rating_a: float
    amps: Floats
    fastest_s: Floats
    slowest_s: Floats
    damage_s: Floats
    surges: tuple[tuple[float, float, str], ...]
    fault_a: float
    ampacity_a: float
    judged: Protected
    rule: str

    @property
    def verdict(self) -> str:
        """What the judgement says, in a sentence or two."""
        ok, most = self.judged.used <= MET, significant(self.ampacity_a)
        if self.rule != "curve":
            said = say("closeup.house-rule", meets=ok, percent=100 * self.judged.used, most=most)
        elif ok:
            said = say("closeup.opens-in-time", most=most)
        else:
            said = say(
                "closeup.too-late",
                holds=significant(self.judged.worst_a),
                long="" if self.judged.seconds > 1e8 else show_seconds(self.judged.seconds),
                stands=significant(self.judged.withstand_a),
            )
        opened = [name for amps, seconds, name in self.surges if not carries_surge(self.rating_a, amps, seconds)]
        return said + (say("closeup.opens-at-start", name=opened[0]) if opened else "")


@dataclass(frozen=True)
class Closeup:
    """Everything drawn of one wire; None where there is nothing to draw."""

    wire_id: str
    section: Section | None
    volts: VoltPath | None
    fuse: FusePicture | None


def closeup(design: Design, found: Figures, wire_id: str) -> Closeup:
    """The pictures of one wire; all None for a wire that isn't solved."""
    if wire_id not in found.wires:
        return Closeup(wire_id, None, None, None)
    figure = found.wires[wire_id]
    case = found.cases.get(figure.case, found.solution.cases[0])
    return Closeup(wire_id, _section(found, case, figure.row), _volts(found, wire_id), _fuse(found, case, figure.row))


def _section(found: Figures, case: CaseSolution, row: int) -> Section | None:
    """Where a wire runs hottest."""
    heat = found.solution.heat
    pairs = np.flatnonzero(heat.wire == row)
    return _drawn(found, case, int(heat.bundle[pairs[np.argmax(case.pair_c[pairs])]])) if len(pairs) else None


def section_at(found: Figures, segment: str) -> Section | None:
    """Any segment in the case in which it gets hottest; None where nothing runs or it is too large to draw."""
    heat = found.solution.heat
    if segment not in heat.bundles.segment:
        return None
    bundle = heat.bundles.segment.index(segment)
    inside = heat.bundle == bundle
    return _drawn(found, max(found.solution.cases, key=lambda case: float(case.pair_c[inside].max())), bundle)


def _drawn(found: Figures, case: CaseSolution, bundle: int) -> Section | None:
    plant, heat = found.solution.plant, found.solution.heat
    segment, centres = heat.bundles.segment[bundle], heat.centres_m(bundle)
    if not segment or centres is None:
        return None
    inside, places = centres
    wires = tuple(
        SectionWire(
            plant.wires[r].id,
            plant.wires[r].name or plant.wires[r].circuit,
            1e3 * float(x),
            1e3 * float(y),
            plant.conductors[r].outer_mm,
            plant.conductors[r].conductor_mm,
            float(case.pair_c[pair]),
            abs(float(case.wire_a[r])),
        )
        for pair, r, (x, y) in zip(inside, heat.wire[inside], places, strict=True)
    )
    ambient = case.case.ambient_c if case.case.ambient_c is not None else float(heat.bundles.ambient_c[bundle])
    sleeve = 1e3 * float(heat.bundles.sleeve_m[bundle] + heat.bundles.outside.tube_wall_m[bundle])
    name, width = plant.index.segment_name(segment), 2e3 * float(heat.bundles.radius_m[bundle])
    return Section(segment, name, case.case.name, width, sleeve, ambient, wires)


def _volts(found: Figures, wire_id: str) -> VoltPath | None:
    subject = next((use.subject for use in found.wires[wire_id].uses if use.limit is Limit.DROP), "")
    entry = found.loads.get(subject)
    if entry is None or not np.isfinite(entry.volts):
        return None
    plant = found.solution.plant
    case = found.cases[entry.case]
    steps, told = [], 0.0
    for leg in Ways(plant, case).of(entry.row):
        told += leg.volts
        if leg.branch < len(plant.wires):
            wire = plant.wires[leg.branch]
            joints = min(leg.amps * float(plant.joint_ohm[leg.branch]), leg.volts)
            kind = "return" if leg.returning else "feed"
            steps.append(VoltStep(wire.name or wire.id, kind, leg.volts - joints, wire.id == wire_id))
            if joints > 0:
                steps.append(VoltStep(f"joints of {wire.name or wire.id}", "joint", joints, False))
        else:
            end, link = plant.links[leg.branch - len(plant.wires)]
            steps.append(
                VoltStep(f"{link.kind} {link.id}, {plant.index.ends[end].name}", str(link.kind), leg.volts, False)
            )
    if entry.sag_v > 1e-4:
        steps.insert(0, VoltStep("inside the source", "source", entry.sag_v, False))
    shared = entry.wiring_v - told
    if shared > 1e-3 * entry.nominal_v:
        steps.append(VoltStep("shared and other ways", "joint", shared, False))
    allowed = allowed_drop(case, found.solution, entry.row)
    return VoltPath(
        entry.load.name,
        found.case_name(entry.case),
        entry.nominal_v,
        entry.volts,
        allowed,
        str(entry.rule),
        tuple(steps),
    )


def _fuse(found: Figures, case: CaseSolution, row: int) -> FusePicture | None:
    guard, plant = found.guards[row], found.solution.plant
    if guard is None:
        return None
    top = max(6.5 * guard.rating_a, min(guard.fault_a, 60 * guard.rating_a))
    amps = np.geomspace(0.8 * guard.rating_a, top, 200)
    fastest, slowest = opening_s(guard.rating_a, amps)
    stands = wire_stands_s(found, row, amps)
    duty = fuse_duties(found.solution)[guard.link_row]
    surges = tuple((start.amps, start.seconds, start.load) for start in duty.starts)
    clip, judged = (1e-3, 0.99 * NEVER_S), found.protected[row]
    return FusePicture(
        f"{guard.link_id}, {guard.rating_a:g} A",
        guard.rating_a,
        amps,
        np.clip(fastest, *clip),
        np.clip(slowest, *clip),
        np.clip(stands, *clip),
        surges,
        guard.fault_a,
        judged.ampacity_a,
        judged,
        plant.design.project.fuse_rule,
    )


def wire_stands_s(found: Figures, row: int, amps: Floats) -> Floats:
    """How long a guarded wire stands each current, in the stretch and case where its fuse is judged; NEVER_S for
    ever."""
    plant = found.solution.plant
    cond, project = plant.conductors[row], plant.design.project
    case = found.cases.get(found.protected[row].case, found.solution.cases[0])
    standing = standing_at(plant, found.solution.heat, case, np.array([found.protected[row].pair]))
    last = anchors(cond.make, cond.jacket, project.fuse_allowance_k)[-1][0]
    times = np.geomspace(1e-3, last, 90)
    limits = allowed_c(cond, times, project.fuse_allowance_k)[None, :]
    carried = np.maximum(
        standing.withstand_a(limits, times[None, :])[0] * plant.wires[row].parallel, found.protected[row].ampacity_a
    )
    falling = np.minimum.accumulate(carried)
    seconds = np.exp(np.interp(-np.log(amps), -np.log(falling), np.log(times)))
    result: Floats = np.where(amps <= found.protected[row].ampacity_a, NEVER_S, seconds)
    return result
