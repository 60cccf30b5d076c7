"""The design as arrays: what the network and the heat model need, in one pass over the design.

     supply ─ R inside ─┬─ link (fuse, switch, rail) ── wire ──┬── load
                        │        contacts ◦──────────◦         │        nodes: cavities, studs, the frame
                        └── converter ── link ── wire ── load ─┴─ … ─ back

Every cavity that metal reaches is a node; wires and links are branches between nodes, a contact's own ohms are counted
with its wire. Loads draw currents from nodes, supplies and converters' outputs hold volts between them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, conductor
from umber_trunk.core.catalog.parts import Contact
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.end import Link, LinkKind
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import CableKind, Converter, Design, Fitting, Load, LoadKind, Pin, Supply, Wire
from umber_trunk.core.physics.heat import WireBodies
from umber_trunk.core.physics.network import LEAST_OHM, Network, solve_flow
from umber_trunk.core.physics.sparse import components, rings
from umber_trunk.core.solve.contacts import expected_ohm
from umber_trunk.core.usual import AC_OHM_PER_M

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SMALLEST_STAND_IN = "0.5 mm2"
HELD_SHARE = 0.3
"""Share of its volts below which a load of constant power draws no more than there."""


@dataclass(frozen=True)
class Plant:
    """Columns over wires that join two known cavities, over links, loads and sources.

    Branches of the network are the wires, then the links, the frame's own way back among them. Sources are the
    supplies, then what converters give out; a converter's input draws like a load. terminals: nodes of the plus and
    minus that feed each load, −1 where none does. Rows that refer to nothing are left out here and named by the
    findings.
    """

    design: Design
    shelf: Shelf
    index: Index
    wires: list[Wire]
    row: dict[str, int]
    conductors: list[Conductor]
    bodies: WireBodies
    area_mm2: Floats
    parallel: Floats
    length_m: Floats
    end_ohm: Floats
    limit_c: Floats
    links: list[tuple[str, Link]]
    link_ohm: Floats
    network: Network
    loads: list[Load]
    load_plus: Ints
    load_minus: Ints
    power_factor: Floats
    supplies: list[Supply]
    source_volts: Floats
    source_ohm: Floats
    converters: list[Converter]
    looped: list[Converter]
    input_plus: Ints
    input_minus: Ints
    nominal_v: Floats
    terminals: tuple[Ints, Ints]
    reactance_ohm: Floats

    @property
    def ac(self) -> bool:
        """Whether any of it is AC, so that reactances count."""
        return bool(self.reactance_ohm.any())

    def sag_v(self, node_v: Floats) -> Floats:
        """Volts each load's source loses inside itself (loads,), NaN where nothing feeds it."""
        plus, minus = self.terminals
        known = (plus >= 0) & (minus >= 0)
        at_terminals = np.where(known, node_v[plus] - node_v[minus], np.nan)
        result: Floats = np.maximum(self.nominal_v - at_terminals, 0.0)
        return result

    @cached_property
    def load_kinds(self) -> tuple[Ints, Floats]:
        """(0 for current, 1 for power, 2 for resistance; the value) of each load."""
        order = {LoadKind.CURRENT: 0, LoadKind.POWER: 1, LoadKind.RESISTANCE: 2}
        return _ints([order[load.kind] for load in self.loads]), np.array([load.value for load in self.loads])

    @cached_property
    def joint_ohm(self) -> Floats:
        """Both ends' joints together (wires,)."""
        result: Floats = self.end_ohm.sum(axis=1)
        return result

    def wire_ohm(self, mean_c: Floats) -> Floats:
        """Resistance of each wire with its joints at its mean conductor temperature, shape (wires,)."""
        copper = self.bodies.ohm_per_m(mean_c) * self.length_m / self.parallel
        result: Floats = np.maximum(copper + self.joint_ohm, LEAST_OHM)
        return result


def spec_of(design: Design, wire: Wire, size: str) -> Conductor:
    """The conductor a wire would have at `size`, with the project's defaults filled in."""
    project = design.project
    return conductor(size, wire.metal or project.metal, wire.make or project.make, wire.jacket or project.jacket)


@dataclass(frozen=True)
class _Topology:
    """What of a plant doesn't change with the sizes and the stuff of its wires."""

    places: list[int]
    row: dict[str, int]
    fields: dict[str, Any]
    run_m: Floats


def build_plant(design: Design, sizes: Mapping[str, str] | None = None, shelf: Shelf | None = None) -> Plant:
    """The arrays of a design, made of what is on the `shelf`; `sizes` (wire id → label) stands in for wires nobody has
    sized. What the wiring alone decides is worked out once for all designs wired alike."""
    index, sizes = index_of(design), sizes or {}
    wiring: _Topology = index.once_wired("plant", lambda: _topology(index))
    wires = [design.wires[place] for place in wiring.places]
    conductors = [_spec_or_stand_in(design, w, w.size or sizes.get(w.id)) for w in wires]
    length = wiring.run_m * _twist(index, wires, conductors)
    network, parallel = wiring.fields["network"], wiring.fields["parallel"]
    mine = shelf_for(design, shelf)
    fields = wiring.fields | {"end_ohm": expected_ohm(index, mine, wires, conductors, wiring.fields["end_ohm"])}
    return Plant(
        design=design,
        shelf=mine,
        index=index,
        wires=wires,
        row=wiring.row,
        conductors=conductors,
        bodies=WireBodies.of(conductors),
        area_mm2=np.array([c.size.area_mm2 for c in conductors]),
        length_m=length,
        limit_c=np.array([c.jacket.limit_c for c in conductors]),
        reactance_ohm=_reactance(network, wiring.fields["supplies"], length / parallel),
        **fields,
    )


def _topology(index: Index) -> _Topology:
    design, nodes = index.design, _nodes(index)

    def at(pin: Pin) -> int:
        return nodes.get((pin.end, pin.cavity), -1)

    def known(*pins: Pin) -> bool:
        return all(at(pin) >= 0 for pin in pins)

    places = [place for place, wire in enumerate(design.wires) if known(wire.start, wire.finish)]
    wires = [design.wires[place] for place in places]
    links = [
        (end.id, link)
        for end in design.ends
        for link in end.links
        if (end.id, link.a) in nodes and (end.id, link.b) in nodes
    ]
    ways_back = _frame_ways(index, nodes)
    heads = [at(w.start) for w in wires] + [nodes[e, link.a] for e, link in links] + [node for _, _, node in ways_back]
    tails = [at(w.finish) for w in wires] + [nodes[e, link.b] for e, link in links] + [FRAME_NODE] * len(ways_back)
    supplies = [one for one in design.supplies if known(one.plus, one.minus)]
    joined = [one for one in design.converters if known(one.plus, one.minus, one.out_plus, one.out_minus)]
    count = max([*nodes.values(), FRAME_NODE if ways_back else -1], default=-1) + 1
    ways = [(at(one.plus), at(one.out_plus)) for one in joined]
    loops = _looped(max(count, FRAME_NODE + 1), heads, tails, ways, [at(one.plus) for one in supplies])
    converters = [one for one, looped in zip(joined, loops, strict=True) if not looped]
    plus = [at(one.plus) for one in supplies] + [at(one.out_plus) for one in converters]
    minus = [at(one.minus) for one in supplies] + [at(one.out_minus) for one in converters]
    network = Network.build(count, _ints(heads), _ints(tails), _ints(plus), _ints(minus))
    source_ohm = [one.source_ohm for one in supplies] + [one.out_ohm for one in converters]
    all_links = links + [(end, link) for end, link, _ in ways_back]
    fields: dict[str, Any] = {
        "parallel": np.array([float(w.parallel) for w in wires]),
        "end_ohm": _ends_ohm(index, wires),
        "links": all_links,
        "link_ohm": np.array([max(link.resistance_ohm, LEAST_OHM) for _, link in all_links]),
        "network": network,
        "supplies": supplies,
        "source_volts": np.array([one.volts for one in supplies] + [one.volts for one in converters]),
        "source_ohm": np.array([max(ohm, LEAST_OHM) for ohm in source_ohm]),
        "converters": converters,
        "looped": [one for one, looped in zip(joined, loops, strict=True) if looped],
        "input_plus": _ints([at(one.plus) for one in converters]),
        "input_minus": _ints([at(one.minus) for one in converters]),
    }
    loads = [one for one in design.loads if known(one.plus, one.minus)]
    fields |= _load_columns(network, fields["source_volts"], loads, at)
    row = {wire.id: row for row, wire in enumerate(wires)}
    return _Topology(places, row, fields, np.array([index.length_m(w) for w in wires]))


def _load_columns(network: Network, emf: Floats, loads: list[Load], at: Callable[[Pin], int]) -> dict[str, Any]:
    """The columns of the loads, with the source each hangs on."""
    plus, minus = _ints([at(load.plus) for load in loads]), _ints([at(load.minus) for load in loads])
    return {
        "loads": loads,
        "load_plus": plus,
        "load_minus": minus,
        "power_factor": np.array([load.power_factor for load in loads]),
        "nominal_v": _nominal(network, emf, plus, minus),
        "terminals": _terminals(network, plus, minus),
    }


FRAME_NODE = 0
"""The frame is the first node of any network."""


def _frame_ways(index: Index, nodes: dict[tuple[str, str], int]) -> list[tuple[str, Link, int]]:
    """(end, link, node) of frame places that have a resistance to the rest of the frame."""
    found = []
    for end in index.design.ends:
        if end.frame and end.frame_ohm > 0 and end.cavities:
            link = Link(id="back", kind=LinkKind.FRAME, a=end.cavities[0].id, b="frame", resistance_ohm=end.frame_ohm)
            found.append((end.id, link, nodes[end.id, end.cavities[0].id]))
    return found


def _looped(nodes: int, heads: list[int], tails: list[int], ways: list[tuple[int, int]], fed: list[int]) -> list[bool]:
    """Which converters, as (input plus, output plus), feed themselves: their output is joined to their input by metal,
    or comes back to it through others with no supply among them. They have no steady answer, so they give nothing."""
    if not ways:
        return []
    count, side = components(heads, tails, nodes)
    into, out = side[[a for a, _ in ways]], side[[b for _, b in ways]]
    ring = rings(into, out, count)
    held = {int(ring[side[node]]) for node in fed}
    return [bool(a == b or (ring[a] == ring[b] and int(ring[a]) not in held)) for a, b in zip(into, out, strict=True)]


def _twist(index: Index, wires: list[Wire], conductors: list[Conductor]) -> Floats:
    """Length of each wire over the run it lies along: √(1 + (π·D/lay)²) for the cores of a twisted cable; a lay
    nobody gave is twelve times the pair's width."""
    cables = {cable.id: cable for cable in index.design.cables}
    found = np.ones(len(wires))
    for row, (wire, cond) in enumerate(zip(wires, conductors, strict=True)):
        cable = cables.get(wire.cable or "")
        if cable is not None and cable.kind is not CableKind.MULTICORE:
            lay = cable.lay_mm or USUAL_LAY * 2 * cond.outer_mm
            found[row] = (1 + (np.pi * cond.outer_mm / lay) ** 2) ** 0.5
    return found


USUAL_LAY = 12.0
"""A pair whose lay nobody gave is twisted once in so many times its width."""


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
    """(end, cavity) → node from 0; frame ends without a resistance of their own are one node, FRAME_NODE."""
    frames = {end.id for end in index.design.ends if end.frame and not end.frame_ohm}
    numbers: dict[int, int] = {0: FRAME_NODE} if any(end.frame for end in index.design.ends) else {}
    found = {}
    for (end, cavity), net in index.nets.items():
        key = 0 if end in frames else net
        found[end, cavity] = numbers.setdefault(key, len(numbers))
    return found


def _ends_ohm(index: Index, wires: list[Wire]) -> Floats:
    """(wires, 2) joint resistance at start and finish: the cavity's, else that of the contact on the wire, else the
    project's."""
    usual = index.design.project.joint_ohm
    joint = {(end.id, cavity.id): cavity.joint_ohm for end in index.design.ends for cavity in end.cavities}
    contacts = {
        part.id: part.resistance_mohm / 1e3
        for part in index.design.parts
        if isinstance(part, Contact) and part.resistance_mohm is not None
    }

    def ohm(pin: Pin, fitting: Fitting | None) -> float:
        own = contacts.get(fitting.part) if fitting is not None and fitting.part else None
        return joint[pin.end, pin.cavity] or (usual if own is None else own)

    rows = [(ohm(w.start, w.at_start), ohm(w.finish, w.at_finish)) for w in wires]
    return np.array(rows, dtype=float).reshape(-1, 2)


def _nominal(network: Network, emf: Floats, plus: Ints, minus: Ints) -> Floats:
    """The voltage each load is meant to see: that across it while nothing runs, the first source's where nothing
    feeds it."""
    fallback = float(emf[0]) if len(emf) else np.nan
    if len(emf) < 2 or not len(plus):
        return np.full(len(plus), fallback)
    ones = np.ones(len(network.a))
    nobody = network.right_hand(emf[:, None], plus[:0], minus[:0], np.zeros((0, 1)))
    flow = solve_flow(network, ones, np.full(len(emf), 1e-3), nobody)
    across = np.abs(flow.volts[plus, 0] - flow.volts[minus, 0])
    result: Floats = np.where(np.isfinite(across) & (across > 1e-6), across, fallback)
    return result


def _terminals(network: Network, plus: Ints, minus: Ints) -> tuple[Ints, Ints]:
    """Nodes of the source terminals that a load's two sides hang on, −1 where there is none."""
    _, side = components(network.a, network.b, network.nodes)
    feeds = {int(side[node]): int(node) for node in network.plus[::-1]}
    backs = {int(side[node]): int(node) for node in network.minus[::-1]}
    return (
        _ints([feeds.get(int(side[node]), -1) for node in plus]),
        _ints([backs.get(int(side[node]), -1) for node in minus]),
    )


def _reactance(network: Network, supplies: list[Supply], metres: Floats) -> Floats:
    """Of each wire [Ω], where an AC supply feeds it."""
    islands = {int(network.island[node]) for supply, node in zip(supplies, network.plus, strict=False) if supply.ac}
    if not islands:
        return np.zeros(len(metres))
    live = np.isin(network.island[network.a[: len(metres)]], list(islands))
    result: Floats = np.where(live, AC_OHM_PER_M * metres, 0.0)
    return result


def load_amps(plant: Plant, load_v: Floats, running: NDArray[np.bool_], before: Floats | None = None) -> Floats:
    """Current each load takes at its present voltage, shape (loads,); idle loads take none.

    A resistance takes its voltage over itself; where `before`, the currents that gave this voltage, are known, over
    itself and its way together, so that the passes close in however much the way has of the whole.

    A power load's current is held at its 30 %-voltage figure below that, so that the passes go on where a feed
    collapses; such a load has no solution and is said to have none.
    """
    kind, value = plant.load_kinds
    with np.errstate(divide="ignore", invalid="ignore"):
        power = value / plant.power_factor / np.maximum(load_v, HELD_SHARE * plant.nominal_v)
        alone = np.maximum(load_v, 0.0) / value
        if before is not None:
            lost = plant.nominal_v - load_v
            eased = plant.nominal_v / (value + lost / before)
            alone = np.where((before > 1e-9) & (lost > 0), eased, alone)
        # no more than all sources in a row would drive through it alone
        resistance = np.minimum(alone, float(plant.source_volts.sum()) / value)
    amps = np.select([kind == 0, kind == 1], [value, power], resistance)
    result: Floats = np.where(running & np.isfinite(plant.nominal_v), amps, 0.0)
    return result
