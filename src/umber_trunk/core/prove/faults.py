"""What can be wrong with a harness, as words that can be said, read and put into a simulated unit: `open:W08`, `high:W08@bow:0.4` …"""

from __future__ import annotations

import math
from dataclasses import dataclass

from umber_trunk.core.catalog.conductors import conductor, metals, parse_size
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.model import Wire
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.quantity import LENGTH, RESISTANCE, Habit, read
from umber_trunk.core.units import parse_share, show_ohms

WORDS = {
    "open": "open:WIRE", "high": "high:WIRE@END:OHM", "swap": "swap:WIRE,WIRE@END", "short": "short:WIRE,WIRE", "leak": "leak:WIRE:OHM", "size": "size:WIRE:SIZE",
    "metal": "metal:WIRE:METAL", "longer": "longer:WIRE:M", "strands": "strands:WIRE:SHARE:M", "shield": "shield:CABLE",
}  # fmt: skip
"""Fault → how it is written."""
IN_LINE = ("open", "high", "size", "metal", "longer", "strands")
"""Faults that change one wire's resistance and nothing else: readings at its two ends see a single number."""
POINT = Habit("point")
"""Fault words are said to a shell: a point parts decimals there."""
SHORT_OHM = 0.01
SCREEN_OHM = 0.05
LEADS = "leads"
"""The fault that is the meter's: its leads."""


@dataclass(frozen=True)
class Fault:
    """One fault. `where` are its wires, or the cable of a screen; `end` where it sits, "" where that isn't said; `ohm` what it adds or
    joins by; `size`, `metal`, `metres`, `share` as its word says; `along` how far along its first wire, as a share, None for anywhere."""

    what: str
    where: tuple[str, ...]
    end: str = ""
    ohm: float = 0.0
    size: str = ""
    metal: str = ""
    metres: float = 0.0
    share: float = 0.0
    along: float | None = None

    @property
    def key(self) -> tuple[str, tuple[str, ...], str]:
        """What it is told from others by: its kind, its wires, its end; not its figures."""
        return self.what, tuple(sorted(self.where)), self.end

    @property
    def place(self) -> str:
        """Its wires or cable as written in a fault word."""
        return ",".join(self.where)

    @property
    def word(self) -> str:
        """As it can be said to the shell."""
        at = f"@{self.end}" if self.end else ""
        tail = {
            "high": f":{_plain(self.ohm)}", "leak": f":{_plain(self.ohm)}", "size": f":{self.size}", "metal": f":{self.metal}", "longer": f":{_plain(self.metres)}",
            "strands": f":{_plain(self.share)}:{_plain(self.metres)}",
        }.get(self.what, "")  # fmt: skip
        return f"{self.what}:{self.place}{at}{tail}"


def parse_fault(net: Netlist, text: str) -> Fault:
    """A fault from its word, against the harness. InputError says what isn't there or can't be read."""
    what, _, rest = text.strip().partition(":")
    if what not in WORDS or not rest:
        raise InputError(f"{quoted(text)} is no fault: {', '.join(WORDS.values())}.")
    if what == "shield":
        if rest not in net.screens:
            raise InputError(f"{quoted(rest)} is no cable with a screen that lands anywhere; there are: {', '.join(net.screens) or 'none'}.")  # fmt: skip
        return Fault(what, (rest,))
    head, *values = rest.split(":")
    names, _, end = head.partition("@")
    wires = tuple(names.split(","))
    many = 2 if what in ("swap", "short") else 1
    asked = {"high": 1, "leak": 1, "size": 1, "metal": 1, "longer": 1, "strands": 2}.get(what, 0)
    if (
        len(wires) != many
        or len(values) != asked
        or (bool(end) != (what in ("high", "swap")))
        or len(set(wires)) != many
    ):
        raise InputError(f"{quoted(text)} isn’t {WORDS[what]}.")
    for wire in wires:
        if wire not in net.facts:
            raise InputError(f"There is no wire {quoted(wire)} in the harness to put a fault in.")
    if end:
        found = [one for one in net.design.ends if end in (one.id, one.name)]
        if not found:
            raise InputError(f"There is no end {quoted(end)}.")
        end = found[0].id
        for wire in wires:
            if end not in _ends_of(net.index.wires[wire]):
                raise InputError(f"{wire} doesn’t go to {found[0].name}.")
    return _with_values(net, Fault(what, wires, end), values)


def _with_values(net: Netlist, fault: Fault, values: list[str]) -> Fault:
    what = fault.what
    if what in ("high", "leak"):
        ohm = read(values[0], RESISTANCE, "ohm", POINT).value
        if not 1e-6 <= ohm <= 1e12:
            raise InputError(f"{values[0]} is no resistance a fault can have: a millionth of an ohm to 1e12.")
        return Fault(what, fault.where, fault.end, ohm=ohm)
    if what == "size":
        parse_size(values[0], net.design.project.series)
        return Fault(what, fault.where, size=parse_size(values[0], net.design.project.series).label)
    if what == "metal":
        if values[0] not in metals():
            raise InputError(f"{quoted(values[0])} is no metal: {', '.join(metals())}.")
        return Fault(what, fault.where, metal=values[0])
    if what in ("longer", "strands"):
        metres = read(values[-1], LENGTH, "m", POINT).value
        if not 0 < metres <= 1e4:
            raise InputError(f"{values[-1]} is no length a fault can have.")
        if what == "longer":
            return Fault(what, fault.where, metres=metres)
        share = parse_share(values[0], POINT)
        if not 0 < share < 1:
            raise InputError(f"{values[0]} is no share of its strands: between 0 and 1.")
        if metres > net.facts[fault.where[0]].length_m * (1 + 1e-9):
            raise InputError(f"{fault.where[0]} is only {net.facts[fault.where[0]].length_m:.3g} m long.")
        return Fault(what, fault.where, share=share, metres=metres)
    return fault


def _ends_of(wire: Wire) -> tuple[str, str]:
    return wire.start.end, wire.finish.end


def faulty_ohm(net: Netlist, fault: Fault) -> float:
    """What a wire with an in-line fault measures from cavity to cavity, infinite where it is open. InputError for a size or metal
    its make doesn't come in."""
    facts = net.facts[fault.where[0]]
    wire = net.index.wires[fault.where[0]]
    if fault.what == "open":
        return math.inf
    copper = facts.copper_ohm
    if fault.what == "high":
        return facts.ohm + fault.ohm
    if fault.what in ("size", "metal"):
        was = net.results.figures.solution.plant.conductors[net.results.figures.solution.plant.row[wire.id]]
        if fault.metal:  # the same strands of another metal
            copper *= metals()[fault.metal].rho20_ohm_m / was.metal.rho20_ohm_m
        else:
            copper *= conductor(fault.size, was.metal.id, was.make.id, was.jacket.id).ohm_per_m_20 / was.ohm_per_m_20
    elif fault.what == "longer":
        copper *= 1 + fault.metres / max(facts.length_m, 1e-9)
    elif fault.what == "strands":
        copper *= 1 + fault.share / (1 - fault.share) * fault.metres / max(facts.length_m, 1e-9)
    return max(copper + sum(facts.joints), 1e-9)


def words_of(net: Netlist, fault: Fault) -> str:
    """A fault as one says it at the bench."""
    names = [net.index.ends[end].name for end in ([fault.end] if fault.end else [])]
    if fault.what == LEADS:
        return f"the meter’s own leads add {show_ohms(fault.ohm)}: short them and null"
    one = fault.where[0]
    if fault.what == "open":
        wire = net.index.wires[one]
        ends = " or ".join(net.name((pin.end, pin.cavity)) for pin in (wire.start, wire.finish))
        return f"{one} is open: its contact at {ends} is not crimped through, or the wire is broken or missing"
    if fault.what == "high":
        at = f"{one}’s contact at {names[0]}" if names else f"a joint of {one}"
        return f"{at} has {show_ohms(fault.ohm)} too much: a bad crimp"
    if fault.what == "swap":
        return (
            f"{fault.where[0]} and {fault.where[1]} are in each other’s cavities at {names[0]}{_which_swap(net, fault)}"
        )
    if fault.what == "short":
        return f"{fault.where[0]} and {fault.where[1]} touch"
    if fault.what == "leak":
        return f"{one} leaks to earth by {show_ohms(fault.ohm)}: wet, or its insulation is cut"
    if fault.what == "size":
        return f"{one} is {fault.size.replace('mm2', 'mm²')}, not the size of the list"
    if fault.what == "metal":
        return f"{one} is {metals()[fault.metal].name.lower()}, not what the list says"
    if fault.what == "longer":
        return f"{one} is {fault.metres:.2f} m longer than planned"
    if fault.what == "strands":
        return f"{one} has lost {100 * fault.share:.0f} % of its strands along {fault.metres:.2f} m"
    screen = net.screens.get(one)
    if screen is not None and screen.taped:
        return f"the screen of {one} touches earth at {net.index.ends[screen.taped[0]].name}, where it should be cut back and taped"
    return f"the screen of {one} isn’t landed at both its ends"


def _which_swap(net: Netlist, fault: Fault) -> str:
    """Polarity reversed, or a pair crossed, where the swap comes to that."""
    pins = {
        (pin.end, pin.cavity)
        for w in fault.where
        for pin in (net.index.wires[w].start, net.index.wires[w].finish)
        if pin.end == fault.end
    }
    fed = [(load.name, load.plus, load.minus) for load in net.design.loads]
    fed += [(supply.name, supply.plus, supply.minus) for supply in net.design.supplies]
    for name, plus, minus in fed:
        if pins == {(plus.end, plus.cavity), (minus.end, minus.cavity)}:
            return f": polarity reversed at {name}"
    cables = {net.index.wires[w].cable for w in fault.where}
    return ": a crossed pair" if len(cables) == 1 and None not in cables else ""


def _plain(value: float) -> str:
    """Four digits without an exponent, as it can be read back."""
    return f"{float(f'{value:.4g}'):.12f}".rstrip("0").rstrip(".")
