"""What can be wrong with a harness, as words that can be said, read and put into a simulated unit: `open:W08`,
`high:W08@bow:0.4` …"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from umber_trunk.core.catalog.conductors import Conductor, conductor, metals, parse_size
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.model import Wire
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.quantity import LENGTH, RESISTANCE, Habit, read
from umber_trunk.core.units import parse_share, show_ohms

POINT = Habit("point")
"""Fault words are said to a shell: a point parts decimals there."""
SHORT_OHM = 0.01
SCREEN_OHM = 0.05
LEADS = "leads"
"""The fault that is the meter's: its leads."""


@dataclass(frozen=True)
class Fault:
    """One fault. `where` are its wires, or the cable of a screen; `end` where it sits, "" where that isn't said; `ohm`
    what it adds or joins by; `size`, `metal`, `metres`, `share` as its word says; `along` how far along its first wire,
    as a share, None for anywhere; `ohm_low` and `ohm_high` hold nine of ten of what `ohm` may be by the readings, 0
    where nothing was read of it."""

    what: str
    where: tuple[str, ...]
    end: str = ""
    ohm: float = 0.0
    size: str = ""
    metal: str = ""
    metres: float = 0.0
    share: float = 0.0
    along: float | None = None
    ohm_low: float = field(default=0.0, compare=False)
    ohm_high: float = field(default=0.0, compare=False)

    @property
    def key(self) -> tuple[str, tuple[str, ...], str]:
        """What it is told from others by: its kind, its wires, its end, and whether wires that touch do so through a
        resistance; not its figures."""
        through = "Ω" if self.what == "short" and self.ohm else ""
        return self.what, tuple(sorted(self.where)), self.end or through

    @property
    def place(self) -> str:
        """Its wires, cable or ends as written in a fault word."""
        return ",".join(self.where)

    @property
    def word(self) -> str:
        """As it can be said to the shell."""
        at = f"@{self.end}" if self.end else ""
        return f"{self.what}:{self.place}{at}{KINDS[self.what].tail(self)}"


def parse_fault(net: Netlist, text: str) -> Fault:
    """A fault from its word, against the harness. InputError says what isn't there or can't be read."""
    what, _, rest = text.strip().partition(":")
    if what not in WORDS or not rest:
        raise InputError(f"{quoted(text)} is no fault: {', '.join(WORDS.values())}.")
    kind = KINDS[what]
    if kind.of == "screen":
        if rest not in net.screens:
            raise InputError(
                f"{quoted(rest)} is no cable with a screen that lands anywhere; there are: "
                f"{', '.join(net.screens) or 'none'}."
            )
        return Fault(what, (rest,))
    if kind.of == "cable":
        if len(net.cores.get(rest, ())) < 2:
            raise InputError(
                f"{quoted(rest)} is no cable of several cores; there are: {', '.join(net.cores) or 'none'}."
            )
        return Fault(what, (rest,))
    head, *values = rest.split(":")
    if kind.of == "end":
        return _of_ends(net, what, head.split(","), values)
    names, _, end = head.partition("@")
    wires = tuple(names.split(","))
    if (
        len(wires) not in (kind.wires, kind.or_wires)
        or len(values) not in (kind.values, kind.or_values)
        or (bool(end) != kind.ended)
        or len(set(wires)) != len(wires)
    ):
        raise InputError(f"{quoted(text)} isn’t {kind.writing}.")
    for wire in wires:
        if wire not in net.facts:
            raise InputError(f"There is no wire {quoted(wire)} in the harness to put a fault in.")
    if end:
        end = _end_named(net, end)
        for wire in wires:
            if end not in _ends_of(net.index.wires[wire]):
                raise InputError(f"{wire} doesn’t go to {net.index.ends[end].name}.")
    return kind.read(net, Fault(what, wires, end), values)


def _end_named(net: Netlist, said: str) -> str:
    """The id of an end said by id or name. InputError where there is none."""
    found = next((one.id for one in net.design.ends if said in (one.id, one.name)), None)
    if found is None:
        raise InputError(f"There is no end {quoted(said)}.")
    return found


def _of_ends(net: Netlist, what: str, names: list[str], values: list[str]) -> Fault:
    """A fault of whole ends. InputError for one that can't have it."""
    kind = KINDS[what]
    ends = tuple(_end_named(net, name) for name in names)
    if len(ends) != kind.wires or len(values) != kind.values or len(set(ends)) != len(ends):
        raise InputError(f"{quoted(':'.join([what, *names, *values]))} isn’t {kind.writing}.")
    if what == "crossed" and not net.alike_plugs(*ends):
        raise InputError(
            f"{' and '.join(net.index.ends[end].name for end in ends)} aren’t alike: one doesn’t go into the "
            "place of "
            "the other."
        )
    for end in ends:
        if len({net.net_at(point) for point in net.points if point[0] == end}) < 2:
            raise InputError(f"At {net.index.ends[end].name} there aren’t two nets that a probe can reach.")
    return kind.read(net, Fault(what, ends), values)


def _ends_of(wire: Wire) -> tuple[str, str]:
    return wire.start.end, wire.finish.end


def faulty_ohm(net: Netlist, fault: Fault) -> float:
    """What a wire with an in-line fault measures from cavity to cavity, infinite where it is open. InputError for a
    size or metal its make doesn't come in."""
    return KINDS[fault.what].ohm(net, fault)


def within(fault: Fault, sd_share: float) -> Fault:
    """The fault with what its ohms may be: nine of ten of a normal error that is so much of them."""
    spread = 1.645 * sd_share * fault.ohm
    return replace(fault, ohm_low=fault.ohm - spread, ohm_high=fault.ohm + spread)


def wires_of(net: Netlist, fault: Fault) -> tuple[str, ...]:
    """The wires a fault is about: its own, those of its cable or screen, or all that arrive at its ends."""
    of = KINDS[fault.what].of
    if of == "end":
        return tuple(dict.fromkeys(wire for end in fault.where for wire in net.arriving.get(end, ())))
    if of == "cable":
        return net.cores[fault.where[0]]
    return (net.screens[fault.where[0]].wire,) if of == "screen" else fault.where


def act_of(net: Netlist, fault: Fault) -> str:
    """The act of repair that mends a fault; faults that one act mends say the same."""
    return KINDS[fault.what].act(net, fault)


def words_of(net: Netlist, fault: Fault) -> str:
    """A fault as one says it at the bench."""
    return KINDS[fault.what].says(net, fault)


# what each kind is


def _as_it_is(_: Netlist, fault: Fault, __: list[str]) -> Fault:
    return fault


def _read_ohm(_: Netlist, fault: Fault, values: list[str]) -> Fault:
    if not values:
        return fault
    ohm = read(values[0], RESISTANCE, "ohm", POINT).value
    if not 1e-6 <= ohm <= 1e12:
        raise InputError(f"{values[0]} is no resistance a fault can have: a millionth of an ohm to 1e12.")
    return replace(fault, ohm=ohm)


def _read_stud(net: Netlist, fault: Fault, values: list[str]) -> Fault:
    if not net.screwed(fault.where[0], fault.end):
        raise InputError(f"{fault.where[0]} isn’t under a nut or screw at {net.index.ends[fault.end].name}.")
    return _read_ohm(net, fault, values)


def _read_share(_: Netlist, fault: Fault, values: list[str]) -> Fault:
    share = parse_share(values[0], POINT)
    if not 0 < share < 1:
        raise InputError(f"{values[0]} is no share of the time that a contact is open: between 0 and 1.")
    return replace(fault, share=share)


def _read_size(net: Netlist, fault: Fault, values: list[str]) -> Fault:
    return replace(fault, size=parse_size(values[0], net.design.project.series).label)


def _read_metal(_: Netlist, fault: Fault, values: list[str]) -> Fault:
    if values[0] not in metals():
        raise InputError(f"{quoted(values[0])} is no metal: {', '.join(metals())}.")
    return replace(fault, metal=values[0])


def _read_metres(_: Netlist, fault: Fault, values: list[str]) -> Fault:
    metres = read(values[-1], LENGTH, "m", POINT).value
    if not 0 < metres <= 1e4:
        raise InputError(f"{values[-1]} is no length a fault can have.")
    return replace(fault, metres=metres)


def _read_strands(net: Netlist, fault: Fault, values: list[str]) -> Fault:
    long = _read_metres(net, fault, values)
    share = parse_share(values[0], POINT)
    if not 0 < share < 1:
        raise InputError(f"{values[0]} is no share of its strands: between 0 and 1.")
    if long.metres > net.facts[fault.where[0]].length_m * (1 + 1e-9):
        raise InputError(f"{fault.where[0]} is only {net.facts[fault.where[0]].length_m:.3g} m long.")
    return replace(long, share=share)


def _ohm_times(net: Netlist, fault: Fault, times: float) -> float:
    """A wire whose copper has so many times the resistance, its joints as they were."""
    facts = net.facts[fault.where[0]]
    return max(facts.copper_ohm * times + sum(facts.joints), 1e-9)


def _ohm_high(net: Netlist, fault: Fault) -> float:
    return net.facts[fault.where[0]].ohm + fault.ohm


def _ohm_size(net: Netlist, fault: Fault) -> float:
    was = _planned(net, fault)
    other = conductor(fault.size, was.metal.id, was.make.id, was.jacket.id)
    return _ohm_times(net, fault, other.ohm_per_m_20 / was.ohm_per_m_20)


def _ohm_metal(net: Netlist, fault: Fault) -> float:
    """The same strands of another metal."""
    return _ohm_times(net, fault, metals()[fault.metal].rho20_ohm_m / _planned(net, fault).metal.rho20_ohm_m)


def _ohm_longer(net: Netlist, fault: Fault) -> float:
    return _ohm_times(net, fault, 1 + fault.metres / max(net.facts[fault.where[0]].length_m, 1e-9))


def _ohm_strands(net: Netlist, fault: Fault) -> float:
    more = fault.share / (1 - fault.share) * fault.metres / max(net.facts[fault.where[0]].length_m, 1e-9)
    return _ohm_times(net, fault, 1 + more)


def _ohm_same(net: Netlist, fault: Fault) -> float:
    return net.facts[fault.where[0]].ohm


def _planned(net: Netlist, fault: Fault) -> Conductor:
    plant = net.results.plant
    return plant.conductors[plant.row[fault.where[0]]]


def _says_open(net: Netlist, fault: Fault) -> str:
    wire = net.index.wires[fault.where[0]]
    ends = " or ".join(net.name((pin.end, pin.cavity)) for pin in (wire.start, wire.finish))
    return f"{wire.id} is open: its contact at {ends} is not crimped through, or the wire is broken or missing"


def _says_high(net: Netlist, fault: Fault) -> str:
    one = fault.where[0]
    at = f"{one}’s contact at {net.index.ends[fault.end].name}" if fault.end else f"a joint of {one}"
    return f"{at} has {show_ohms(fault.ohm)} too much: a bad crimp"


def _says_stud(net: Netlist, fault: Fault) -> str:
    one = fault.where[0]
    at = f"{one} at {net.index.ends[fault.end].name}" if fault.end else f"one end of {one}"
    return f"{at} isn’t clean or tight under its nut or screw: {show_ohms(fault.ohm)} too much"


def _says_flicker(net: Netlist, fault: Fault) -> str:
    one = fault.where[0]
    at = f"{one}’s contact at {net.index.ends[fault.end].name}" if fault.end else f"a contact of {one}"
    return f"{at} makes and breaks"


def _says_wet(net: Netlist, fault: Fault) -> str:
    return (
        f"{net.index.ends[fault.where[0]].name} is wet inside: its cavities lead to one another by "
        f"{show_ohms(fault.ohm)}"
    )


def _says_loose(net: Netlist, fault: Fault) -> str:
    return f"{net.index.ends[fault.where[0]].name} isn’t home: its contacts read something else each, or nothing"


def _says_cut(net: Netlist, fault: Fault) -> str:
    return f"{fault.where[0]} is cut through: all of {', '.join(net.cores[fault.where[0]])} are open"


def _says_crossed(net: Netlist, fault: Fault) -> str:
    a, b = (net.index.ends[end].name for end in fault.where)
    return f"{a} and {b} are in each other’s places"


def _says_short(_: Netlist, fault: Fault) -> str:
    one, two = fault.where
    if not fault.ohm:
        return f"{one} and {two} touch"
    return f"{one} and {two} lead to one another by {show_ohms(fault.ohm)}: a strand, dirt or a part between their nets"


def _says_leak(_: Netlist, fault: Fault) -> str:
    to = "to earth" if len(fault.where) == 1 else f"to {fault.where[1]}"
    return f"{fault.where[0]} leaks {to} by {show_ohms(fault.ohm)}: wet, or its insulation is cut"


def _says_swap(net: Netlist, fault: Fault) -> str:
    a, b = fault.where
    if not fault.end:
        return f"{a} and {b} are in each other’s cavities"
    return f"{a} and {b} are in each other’s cavities at {net.index.ends[fault.end].name}{_which_swap(net, fault)}"


def _says_shield(net: Netlist, fault: Fault) -> str:
    screen = net.screens.get(fault.where[0])
    if screen is not None and screen.taped:
        return (
            f"the screen of {fault.where[0]} touches earth at {net.index.ends[screen.taped[0]].name}, where it "
            "should be cut back and taped"
        )
    return f"the screen of {fault.where[0]} isn’t landed at both its ends"


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


def _no_tail(_: Fault) -> str:
    return ""


@dataclass(frozen=True)
class Kind:
    """One kind of fault, whole: how it is written, "" for one nobody can put in; the `act` that mends it; what it is
    `of`: a wire, an end, a cable, a screen, the meter; of how many; whether it names an end; how many values stand
    behind it, how they are read and written back; what its wire then measures, where it is `in_line`: it changes one
    wire's resistance and nothing else; what one says of it. How it changes a harness is in `state.CHANGES`."""

    writing: str
    says: Callable[[Netlist, Fault], str]
    act: Callable[[Netlist, Fault], str]
    of: str = "wire"
    in_line: bool = False
    wires: int = 1
    ended: bool = False
    values: int = 0
    or_wires: int = -1
    or_values: int = -1
    """Other counts of wires and values it may be said with, −1 for none."""
    read: Callable[[Netlist, Fault, list[str]], Fault] = _as_it_is
    tail: Callable[[Fault], str] = _no_tail
    ohm: Callable[[Netlist, Fault], float] = _ohm_same


def _act_contact(net: Netlist, fault: Fault) -> str:
    return f"cut back and make {fault.where[0]} anew at {net.index.ends[fault.end].name}"


def _act_stud(net: Netlist, fault: Fault) -> str:
    return f"undo, clean and tighten {fault.where[0]} at {net.index.ends[fault.end].name}, to its torque"


def _act_lead(_: Netlist, fault: Fault) -> str:
    return f"lay {fault.where[0]} anew, by the list"


def _act_open(_: Netlist, fault: Fault) -> str:
    return f"look at both contacts of {fault.where[0]}; sound, lay it anew"


def _act_swap(net: Netlist, fault: Fault) -> str:
    a, b = fault.where
    return f"put {a} and {b} into each other’s cavities, at the end where they don’t go by the list"


def _act_short(_: Netlist, fault: Fault) -> str:
    return f"part {' and '.join(fault.where)} where they touch, and look for the nick"


def _act_leak(_: Netlist, fault: Fault) -> str:
    return f"dry it, and look along {' and '.join(fault.where)} for a nick"


def _act_end(verb: str) -> Callable[[Netlist, Fault], str]:
    return lambda net, fault: f"{verb} {net.index.ends[fault.where[0]].name}"


def _act_crossed(net: Netlist, fault: Fault) -> str:
    return f"change {' and '.join(net.index.ends[end].name for end in fault.where)} over"


def _ohm_tail(fault: Fault) -> str:
    return f":{_plain(fault.ohm)}"


KINDS: dict[str, Kind] = {
    "open": Kind("open:WIRE", _says_open, _act_open, in_line=True, ohm=lambda _, __: math.inf),
    "high": Kind(
        "high:WIRE@END:OHM",
        _says_high,
        _act_contact,
        in_line=True,
        ended=True,
        values=1,
        read=_read_ohm,
        tail=_ohm_tail,
        ohm=_ohm_high,
    ),
    "stud": Kind(
        "stud:WIRE@END:OHM",
        _says_stud,
        _act_stud,
        in_line=True,
        ended=True,
        values=1,
        read=_read_stud,
        tail=_ohm_tail,
        ohm=_ohm_high,
    ),
    "flicker": Kind(
        "flicker:WIRE@END:SHARE",
        _says_flicker,
        _act_contact,
        ended=True,
        values=1,
        read=_read_share,
        tail=lambda f: f":{_plain(f.share)}",
    ),
    "swap": Kind("swap:WIRE,WIRE@END", _says_swap, _act_swap, wires=2, ended=True),
    "short": Kind(
        "short:WIRE,WIRE or short:WIRE,WIRE:OHM",
        _says_short,
        _act_short,
        wires=2,
        or_values=1,
        read=_read_ohm,
        tail=lambda f: _ohm_tail(f) if f.ohm else "",
    ),
    "leak": Kind(
        "leak:WIRE:OHM or leak:WIRE,WIRE:OHM",
        _says_leak,
        _act_leak,
        values=1,
        or_wires=2,
        read=_read_ohm,
        tail=_ohm_tail,
    ),
    "size": Kind(
        "size:WIRE:SIZE",
        lambda _, f: f"{f.where[0]} is {f.size.replace('mm2', 'mm²')}, not the size of the list",
        _act_lead,
        in_line=True,
        values=1,
        read=_read_size,
        tail=lambda f: f":{f.size}",
        ohm=_ohm_size,
    ),
    "metal": Kind(
        "metal:WIRE:METAL",
        lambda _, f: f"{f.where[0]} is {metals()[f.metal].name.lower()}, not what the list says",
        _act_lead,
        in_line=True,
        values=1,
        read=_read_metal,
        tail=lambda f: f":{f.metal}",
        ohm=_ohm_metal,
    ),
    "longer": Kind(
        "longer:WIRE:M",
        lambda _, f: f"{f.where[0]} is {f.metres:.2f} m longer than planned",
        _act_lead,
        in_line=True,
        values=1,
        read=_read_metres,
        tail=lambda f: f":{_plain(f.metres)}",
        ohm=_ohm_longer,
    ),
    "strands": Kind(
        "strands:WIRE:SHARE:M",
        lambda _, f: f"{f.where[0]} has lost {100 * f.share:.0f} % of its strands along {f.metres:.2f} m",
        _act_lead,
        in_line=True,
        values=2,
        read=_read_strands,
        tail=lambda f: f":{_plain(f.share)}:{_plain(f.metres)}",
        ohm=_ohm_strands,
    ),
    "shield": Kind(
        "shield:CABLE", _says_shield, lambda _, f: f"land the screen of {f.where[0]} by the list", of="screen", wires=0
    ),
    "wet": Kind(
        "wet:END:OHM", _says_wet, _act_end("open, dry and seal"), of="end", values=1, read=_read_ohm, tail=_ohm_tail
    ),
    "loose": Kind("loose:END", _says_loose, _act_end("push home and lock"), of="end"),
    "cut": Kind("cut:CABLE", _says_cut, _act_lead, of="cable", wires=0),
    "crossed": Kind("crossed:END,END", _says_crossed, _act_crossed, of="end", wires=2),
    LEADS: Kind(
        "",
        lambda _, f: f"the meter’s own leads add {show_ohms(f.ohm)}: short them and null",
        lambda _, __: "short the leads and null them",
        of="meter",
        wires=0,
    ),
}
"""Every kind of fault: one is added here, and in `state.CHANGES`."""
WORDS = {what: kind.writing for what, kind in KINDS.items() if kind.writing}
"""Fault → how it is written."""
IN_LINE = tuple(what for what, kind in KINDS.items() if kind.in_line)
"""Faults that change one wire's resistance and nothing else: readings at its two ends see a single number."""
