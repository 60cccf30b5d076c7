"""The figures of a fault: read from its word, written back, and what its wire then measures.

wire with joints j₁, j₂ and copper R       sound: j₁ + R + j₂
`high`, `stud`                             one joint more by its ohms
`size`, `metal`, `longer`, `strands`       R times a factor, the joints as they were
"""

from __future__ import annotations

from dataclasses import replace

from umber_trunk.core.catalog.conductors import Conductor, conductor, metals, parse_size
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.measures import LENGTH, RESISTANCE
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.quantity import Habit, read
from umber_trunk.core.units import parse_share

POINT = Habit("point")
"""Fault words are said to a shell: a point parts decimals there."""


def as_it_is(_: Netlist, fault: Fault, __: list[str]) -> Fault:
    """A fault whose word has no figures."""
    return fault


def read_ohm(_: Netlist, fault: Fault, values: list[str]) -> Fault:
    """Ohms, where there are any. InputError for what no fault has."""
    if not values:
        return fault
    ohm = read(values[0], RESISTANCE, "ohm", POINT).value
    if not 1e-6 <= ohm <= 1e12:
        raise InputError.of("prove.no-resistance-fault", values=values[0])
    return replace(fault, ohm=ohm)


def read_stud(net: Netlist, fault: Fault, values: list[str]) -> Fault:
    """Ohms under a nut or screw. InputError where there is none."""
    if not net.screwed(fault.where[0], fault.end):
        raise InputError.of("prove.isnt-under-nut-or-screw", where=fault.where[0], name=net.index.ends[fault.end].name)
    return read_ohm(net, fault, values)


def read_share(_: Netlist, fault: Fault, values: list[str]) -> Fault:
    """The share of the time in which a contact is open. InputError outside of 0 to 1."""
    share = parse_share(values[0], POINT)
    if not 0 < share < 1:
        raise InputError.of("prove.no-share-of-time", values=values[0])
    return replace(fault, share=share)


def read_size(net: Netlist, fault: Fault, values: list[str]) -> Fault:
    """A size of the project’s series."""
    return replace(fault, size=parse_size(values[0], net.design.project.series).label)


def read_metal(_: Netlist, fault: Fault, values: list[str]) -> Fault:
    """A metal by its id. InputError for one not known."""
    if values[0] not in metals():
        raise InputError.of("prove.no-metal", values=quoted(values[0]), metals=", ".join(metals()))
    return replace(fault, metal=values[0])


def read_metres(_: Netlist, fault: Fault, values: list[str]) -> Fault:
    """Metres. InputError for a length no fault has."""
    metres = read(values[-1], LENGTH, "m", POINT).value
    if not 0 < metres <= 1e4:
        raise InputError.of("prove.no-length-fault", values=values[-1])
    return replace(fault, metres=metres)


def read_strands(net: Netlist, fault: Fault, values: list[str]) -> Fault:
    """Which share of its strands is lost, along how much. InputError for more than the wire has."""
    long = read_metres(net, fault, values)
    share = parse_share(values[0], POINT)
    if not 0 < share < 1:
        raise InputError.of("prove.no-share-of-its-strands", values=values[0])
    if long.metres > net.facts[fault.where[0]].length_m * (1 + 1e-9):
        raise InputError.of("prove.beyond-wire", where=fault.where[0], length_m=net.facts[fault.where[0]].length_m)
    return replace(long, share=share)


def ohm_times(net: Netlist, fault: Fault, times: float) -> float:
    """A wire whose copper has so many times the resistance, its joints as they were."""
    facts = net.facts[fault.where[0]]
    return max(facts.copper_ohm * times + sum(facts.joints), 1e-9)


def ohm_high(net: Netlist, fault: Fault) -> float:
    """One joint more."""
    return net.facts[fault.where[0]].ohm + fault.ohm


def ohm_size(net: Netlist, fault: Fault) -> float:
    """The same metal in another size."""
    was = _planned(net, fault)
    other = conductor(fault.size, was.metal.id, was.make.id, was.jacket.id)
    return ohm_times(net, fault, other.ohm_per_m_20 / was.ohm_per_m_20)


def ohm_metal(net: Netlist, fault: Fault) -> float:
    """The same strands of another metal."""
    return ohm_times(net, fault, metals()[fault.metal].rho20_ohm_m / _planned(net, fault).metal.rho20_ohm_m)


def ohm_longer(net: Netlist, fault: Fault) -> float:
    """The same wire, longer."""
    return ohm_times(net, fault, 1 + fault.metres / max(net.facts[fault.where[0]].length_m, 1e-9))


def ohm_strands(net: Netlist, fault: Fault) -> float:
    """Fewer strands along a part of it."""
    more = fault.share / (1 - fault.share) * fault.metres / max(net.facts[fault.where[0]].length_m, 1e-9)
    return ohm_times(net, fault, 1 + more)


def ohm_same(net: Netlist, fault: Fault) -> float:
    """What it should be: the fault isn’t in its copper."""
    return net.facts[fault.where[0]].ohm


def _planned(net: Netlist, fault: Fault) -> Conductor:
    plant = net.results.plant
    return plant.conductors[plant.row[fault.where[0]]]


def plainly(value: float) -> str:
    """Four digits without an exponent, as it can be read back."""
    return f"{float(f'{value:.4g}'):.12f}".rstrip("0").rstrip(".")


def no_tail(_: Fault) -> str:
    """Nothing stands behind it."""
    return ""


def ohm_tail(fault: Fault) -> str:
    """Ohms as they stand behind a fault word."""
    return f":{plainly(fault.ohm)}"
