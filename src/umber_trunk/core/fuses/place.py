"""Where fuses go: at the head of every feed that leaves the source without one, and a smaller one where the
fuse before a wire is too large for it but its circuit asks for less."""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass

import numpy as np

from umber_trunk.core.fuses.fit import FuseDuty, duties
from umber_trunk.core.harness.edits import fuse_at_head, set_fuse
from umber_trunk.core.harness.end import LinkKind
from umber_trunk.core.harness.model import Design, Pin
from umber_trunk.core.physics.protection import protection
from umber_trunk.core.sentences import say
from umber_trunk.core.solve.plant import Plant
from umber_trunk.core.solve.standing import near_tightest, standing_at
from umber_trunk.core.solve.used import Figures, Limit
from umber_trunk.core.usual import MET

UNFUSED_REACH_M = 0.25  # a shorter feed may reach its fuse bare


@dataclass(frozen=True)
class Placing:
    """The harness with its fuses placed, and a sentence for each change."""

    design: Design
    changes: tuple[str, ...]


def place_fuses(design: Design, found: Figures) -> Placing:
    """New fuses at the source for bare feeds, smaller ones for wires whose fuse is too large for them.

    `found` are the figures of this design. What a smaller fuse can't mend, since the circuit draws too much
    for the wire, is left to the wire's size.
    """
    plant = found.solution.plant
    heads = _Heads(plant)
    asked = duties(found.solution)
    before = design
    for row in heads.first(found.bare):
        if _in_a_housing(plant, heads.pin[row]):
            continue  # a connector's cavity holds no fuse: that takes a holder of its own
        wire, rating = plant.wires[row], asked[row].fitting() if asked[row].amps > 0 else None
        design = fuse_at_head(design, wire.id, heads.pin[row], rating)
    for row in sorted(heads.pin):
        rating = _smaller(found, row, asked[row])
        if rating is not None and not _in_a_housing(plant, heads.pin[row]):
            wire, guard = plant.wires[row], found.guards[row]
            assert guard is not None
            own = plant.links[guard.link_row][1]
            if {heads.pin[row]} == {Pin(end=guard.end_id, cavity=own.b)} and heads.alone(row):
                design = set_fuse(design, guard.end_id, guard.link_id, rating)
            else:
                design = fuse_at_head(design, wire.id, heads.pin[row], rating)
    return Placing(design, fuses_between(before, design))


def fuses_between(before: Design, after: Design) -> tuple[str, ...]:
    """A sentence for each fuse that a design has and the one before it hadn't, or had at another rating."""
    old = {(end.id, link.id): link.rating_a for end in before.ends for link in end.links}
    fed = {pin: wire.name or wire.id for wire in after.wires for pin in (wire.start, wire.finish)}
    told = []
    for end in after.ends:
        for link in end.links:
            if link.kind is not LinkKind.FUSE or old.get((end.id, link.id), ()) == link.rating_a:
                continue
            wire = fed.get(Pin(end=end.id, cavity=link.b), link.b)
            amps = link.rating_a or 0.0
            if (end.id, link.id) in old:
                told.append(say("fuse.moved", fuse=link.id, was=old[end.id, link.id] or 0.0, amps=amps, wire=wire))
            else:
                told.append(say("fuse.placed", amps=amps, wire=wire))
    return tuple(told)


def _in_a_housing(plant: Plant, pin: Pin) -> bool:
    """Whether a pin is a cavity of a connector."""
    end = plant.index.ends[pin.end]
    cavity = next((one for one in end.cavities if one.id == pin.cavity), None)
    return bool(end.housings) and (cavity is None or bool(cavity.housing) or len(end.housings) == 1)


def _smaller(found: Figures, row: int, duty: FuseDuty) -> float | None:
    """A rating under the present guard's that carries the wire's circuit and protects the wire."""
    wire, guard = found.wires[found.solution.plant.wires[row].id], found.guards[row]
    broken = any(use.limit is Limit.FUSE and use.used > MET for use in wire.uses)
    rating = duty.fitting() if broken and duty.amps > 0 else None
    if guard is None or rating is None or rating >= guard.rating_a:
        return None
    plant, project = found.solution.plant, found.solution.plant.design.project
    case = found.cases[found.protected[row].case]
    _, pairs = near_tightest(plant, found.solution.heat, case, np.array([row]))
    standing, rows = standing_at(plant, found.solution.heat, case, pairs), [row] * len(pairs)
    held = protection(
        np.full(len(rows), rating),
        standing,
        [plant.conductors[row]] * len(rows),
        plant.parallel[rows],
        np.full(len(rows), guard.fault_a),
        project.fuse_rule,
        project.fuse_allowance_k,
    )
    return rating if held.used.max() <= MET else None


class _Heads:
    """Feed wires by the pin that lies towards the source, found by walking out from every supply's plus.

    Attributes: pin, wire row → pin at its head.
    """

    def __init__(self, plant: Plant) -> None:
        self.plant = plant
        self.pin: dict[int, Pin] = {}
        self._first: dict[int, int] = {}
        beside: dict[int, list[tuple[int, int]]] = defaultdict(list)
        for branch, (a, b) in enumerate(zip(plant.network.a, plant.network.b, strict=True)):
            beside[int(a)].append((branch, int(b)))
            beside[int(b)].append((branch, int(a)))
        seen = {int(node): -1 for node in plant.network.plus}
        stop = {int(node) for node in plant.network.minus}
        queue = list(seen)
        for node in queue:
            for branch, other in beside[node]:
                first = seen[node]
                if branch < len(plant.wires) and branch not in self.pin:
                    wire = plant.wires[branch]
                    self.pin[branch] = wire.start if int(plant.network.a[branch]) == node else wire.finish
                    first = branch if first < 0 else first
                    self._first[branch] = first
                if other not in seen and other not in stop:
                    seen[other] = first
                    queue.append(other)
        self._many = Counter(self.pin.values())

    def first(self, bare: dict[int, float]) -> list[int]:
        """First wires of the bare feeds that run further than the reach allowed without a fuse."""
        rows = [row for row, metres in bare.items() if metres > UNFUSED_REACH_M]
        return sorted({self._first[row] for row in rows if row in self._first})

    def alone(self, row: int) -> bool:
        """Whether no other feed wire starts at this wire's head."""
        return self._many[self.pin[row]] == 1
