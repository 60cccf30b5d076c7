"""The design as arrays: what the network and the heat model need, in one pass over the design."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, conductor
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, Link, Load, LoadKind, Pin, Supply, Wire
from umber_trunk.core.physics.heat import WireBodies
from umber_trunk.core.physics.network import LEAST_OHM, Network

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SMALLEST_STAND_IN = "0.5 mm2"


@dataclass(frozen=True)
class Plant:
    """Columns over wires that join two known cavities, over links, loads and supplies.

    Branches of the network are the wires, then the links. Rows that refer to nothing are left out
    here and named by the findings.
    """

    design: Design
    index: Index
    wires: list[Wire]
    row: dict[str, int]
    conductors: list[Conductor]
    bodies: WireBodies
    area_mm2: Floats
    parallel: Floats
    length_m: Floats
    joint_ohm: Floats
    limit_c: Floats
    links: list[tuple[str, Link]]
    link_ohm: Floats
    network: Network
    loads: list[Load]
    load_plus: Ints
    load_minus: Ints
    supplies: list[Supply]
    nominal_v: Floats

    @property
    def source_volts(self) -> Floats:
        """EMF of each supply, shape (supplies,)."""
        return np.array([supply.volts for supply in self.supplies])

    @property
    def source_ohm(self) -> Floats:
        """Internal resistance of each supply, shape (supplies,); none is better than a short piece of bus bar."""
        return np.array([max(supply.source_ohm, LEAST_OHM) for supply in self.supplies])

    def wire_ohm(self, mean_c: Floats) -> Floats:
        """Resistance of each wire with its joints at its mean conductor temperature, shape (wires,)."""
        copper = self.bodies.ohm_per_m(mean_c) * self.length_m / self.parallel
        result: Floats = np.maximum(copper + self.joint_ohm, LEAST_OHM)
        return result


def spec_of(design: Design, wire: Wire, size: str) -> Conductor:
    """The conductor a wire would have at `size`, with the project's defaults filled in."""
    project = design.project
    return conductor(size, wire.metal or project.metal, wire.make or project.make, wire.jacket or project.jacket)


def build_plant(design: Design, sizes: Mapping[str, str] | None = None) -> Plant:
    """The arrays of a design; `sizes` (wire id → label) stands in for wires nobody has sized."""
    index, sizes = index_of(design), sizes or {}
    nodes = _nodes(index)

    def at(pin: Pin) -> int:
        return nodes.get((pin.end, pin.cavity), -1)

    wires = [w for w in design.wires if at(w.start) >= 0 and at(w.finish) >= 0]
    links = [
        (end.id, link) for end in design.ends for link in end.links
        if (end.id, link.a) in nodes and (end.id, link.b) in nodes
    ]  # fmt: skip
    loads = [load for load in design.loads if at(load.plus) >= 0 and at(load.minus) >= 0]
    supplies = [s for s in design.supplies if at(s.plus) >= 0 and at(s.minus) >= 0]
    conductors = [_spec_or_stand_in(design, w, w.size or sizes.get(w.id)) for w in wires]
    heads = [at(w.start) for w in wires] + [nodes[e, link.a] for e, link in links]
    tails = [at(w.finish) for w in wires] + [nodes[e, link.b] for e, link in links]
    network = Network.build(
        max(nodes.values(), default=-1) + 1,
        _ints(heads), _ints(tails), _ints([at(s.plus) for s in supplies]), _ints([at(s.minus) for s in supplies]),
    )  # fmt: skip
    return Plant(
        design=design,
        index=index,
        wires=wires,
        row={wire.id: row for row, wire in enumerate(wires)},
        conductors=conductors,
        bodies=WireBodies.of(conductors),
        area_mm2=np.array([c.size.area_mm2 for c in conductors]),
        parallel=np.array([float(w.parallel) for w in wires]),
        length_m=np.array([index.length_m(w) for w in wires]),
        joint_ohm=_joints(index, wires),
        limit_c=np.array([c.jacket.limit_c for c in conductors]),
        links=links,
        link_ohm=np.array([max(link.resistance_ohm, LEAST_OHM) for _, link in links]),
        network=network,
        loads=loads,
        load_plus=_ints([at(load.plus) for load in loads]),
        load_minus=_ints([at(load.minus) for load in loads]),
        supplies=supplies,
        nominal_v=_nominal(network, supplies, [at(load.plus) for load in loads]),
    )


def can_be_made(design: Design, wire: Wire) -> bool:
    """Whether the catalogue knows the wire's metal, make and jacket."""
    try:
        spec_of(design, wire, SMALLEST_STAND_IN)
    except InputError:
        return False
    return True


def _spec_or_stand_in(design: Design, wire: Wire, size: str | None) -> Conductor:
    """A wire whose specification can't be read is solved as the smallest plain wire; a finding names it."""
    try:
        return spec_of(design, wire, size or SMALLEST_STAND_IN)
    except InputError:
        return conductor(SMALLEST_STAND_IN, "copper", "general", "pvc")


def _ints(values: list[int]) -> Ints:
    return np.array(values, dtype=np.intp)


def _nodes(index: Index) -> dict[tuple[str, str], int]:
    """(end, cavity) → node from 0; all cavities of all frame ends are one node."""
    frames = {end.id for end in index.design.ends if end.frame}
    numbers: dict[int, int] = {}
    found = {}
    for (end, cavity), net in index.nets.items():
        key = 0 if end in frames else net
        found[end, cavity] = numbers.setdefault(key, len(numbers))
    return found


def _joints(index: Index, wires: list[Wire]) -> Floats:
    """Both ends' joint resistances; the project's figure where a cavity gives none."""
    usual = index.design.project.joint_ohm
    joint = {(end.id, cavity.id): cavity.joint_ohm or usual for end in index.design.ends for cavity in end.cavities}
    return np.array([joint[w.start.end, w.start.cavity] + joint[w.finish.end, w.finish.cavity] for w in wires])


def _nominal(network: Network, supplies: list[Supply], plus: list[int]) -> Floats:
    """The voltage each load is meant to see: that of the highest supply on its island, else the first's."""
    fallback = supplies[0].volts if supplies else np.nan
    if not supplies or not plus:
        return np.full(len(plus), fallback)
    if len(supplies) == 1:
        return np.full(len(plus), fallback)
    island = network.island
    by_island: dict[int, float] = {}
    for supply, node in zip(supplies, network.plus, strict=True):
        key = int(island[node])
        by_island[key] = max(by_island.get(key, 0.0), supply.volts)
    return np.array([by_island.get(int(island[node]), fallback) for node in plus])


def load_amps(plant: Plant, load_v: Floats, running: NDArray[np.bool_]) -> Floats:
    """Current each load takes at its present voltage, shape (loads,); idle loads take none.

    A power load's current is held at its 30 %-voltage figure below that, so that a collapsing feed
    gives numbers instead of infinities; findings name the collapse.
    """
    amps = np.zeros(len(plant.loads))
    for row, load in enumerate(plant.loads):
        if not running[row] or not np.isfinite(plant.nominal_v[row]):
            continue
        if load.kind is LoadKind.CURRENT:
            amps[row] = load.value
        elif load.kind is LoadKind.POWER:
            amps[row] = load.value / max(load_v[row], 0.3 * plant.nominal_v[row])
        else:
            amps[row] = max(load_v[row], 0.0) / load.value
    return amps
