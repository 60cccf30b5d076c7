"""What can be wrong with a harness, as words that can be said, read and put into a simulated unit: `open:W08`,
`high:W08@bow:0.4` …"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.model import Wire
from umber_trunk.core.prove import fault_figures as figures
from umber_trunk.core.prove import fault_words as words
from umber_trunk.core.prove.fault import LEADS, Fault
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.sentences import Message, say


def parse_fault(net: Netlist, text: str) -> Fault:
    """A fault from its word, against the harness. InputError says what isn't there or can't be read."""
    what, _, rest = text.strip().partition(":")
    if what not in WORDS or not rest:
        raise InputError.of("prove.no-fault", text=quoted(text), known=", ".join(WORDS.values()))
    kind = KINDS[what]
    if kind.of == "screen":
        if rest not in net.screens:
            raise InputError.of(
                "prove.no-cable-with-screen-that-lands", rest=quoted(rest), screens=", ".join(net.screens) or "none"
            )
        return Fault(what, (rest,))
    if kind.of == "cable":
        if len(net.cores.get(rest, ())) < 2:
            raise InputError.of(
                "prove.no-cable-of-several-cores", rest=quoted(rest), cores=", ".join(net.cores) or "none"
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
        raise InputError.of("prove.fault-not-written-so", text=quoted(text), writing=kind.writing)
    for wire in wires:
        if wire not in net.facts:
            raise InputError.of("prove.no-wire-in-harness-to-put", wire=quoted(wire))
    if end:
        end = _end_named(net, end)
        for wire in wires:
            if end not in _ends_of(net.index.wires[wire]):
                raise InputError.of("any.wire-doesnt-go-there", wire=wire, end=net.index.ends[end].name)
    return kind.read(net, Fault(what, wires, end), values)


def _end_named(net: Netlist, said: str) -> str:
    """The id of an end said by id or name. InputError where there is none."""
    found = next((one.id for one in net.design.ends if said in (one.id, one.name)), None)
    if found is None:
        raise InputError.of("prove.no-end", said=quoted(said))
    return found


def _of_ends(net: Netlist, what: str, names: list[str], values: list[str]) -> Fault:
    """A fault of whole ends. InputError for one that can't have it."""
    kind = KINDS[what]
    ends = tuple(_end_named(net, name) for name in names)
    if len(ends) != kind.wires or len(values) != kind.values or len(set(ends)) != len(ends):
        raise InputError.of(
            "prove.fault-not-written-so", text=quoted(":".join([what, *names, *values])), writing=kind.writing
        )
    if what == "crossed" and not net.alike_plugs(*ends):
        raise InputError.of(
            "prove.plugs-not-alike", ends=say("fault.and").join(net.index.ends[end].name for end in ends)
        )
    for end in ends:
        if len({net.net_at(point) for point in net.points if point[0] == end}) < 2:
            raise InputError.of("prove.fewer-than-two-nets", name=net.index.ends[end].name)
    return kind.read(net, Fault(what, ends), values)


def _ends_of(wire: Wire) -> tuple[str, str]:
    return wire.start.end, wire.finish.end


def word_of(fault: Fault) -> str:
    """A fault as it can be said to the shell, and read back."""
    at = f"@{fault.end}" if fault.end else ""
    return f"{fault.what}:{fault.place}{at}{KINDS[fault.what].tail(fault)}"


def faulty_ohm(net: Netlist, fault: Fault) -> float:
    """What a wire with an in-line fault measures from cavity to cavity, infinite where it is open. InputError for a
    size or metal its make doesn't come in."""
    return KINDS[fault.what].ohm(net, fault)


def wires_of(net: Netlist, fault: Fault) -> tuple[str, ...]:
    """The wires a fault is about: its own, those of its cable or screen, or all that arrive at its ends."""
    of = KINDS[fault.what].of
    if of == "end":
        return tuple(dict.fromkeys(wire for end in fault.where for wire in net.arriving.get(end, ())))
    if of == "cable":
        return net.cores[fault.where[0]]
    return (net.screens[fault.where[0]].wire,) if of == "screen" else fault.where


def act_of(net: Netlist, fault: Fault) -> Message:
    """The act of repair that mends a fault; faults that one act mends say the same."""
    return KINDS[fault.what].act(net, fault)


def words_of(net: Netlist, fault: Fault) -> Message:
    """A fault as one says it at the bench."""
    return KINDS[fault.what].says(net, fault)


@dataclass(frozen=True)
class Kind:
    """One kind of fault, whole: how it is written, "" for one nobody can put in; the `act` that mends it; what it is
    `of`: a wire, an end, a cable, a screen, the meter; of how many; whether it names an end; how many values stand
    behind it, how they are read and written back; what its wire then measures, where it is `in_line`: it changes one
    wire's resistance and nothing else; what one says of it. How it changes a harness is in `state.CHANGES`."""

    writing: str
    says: Callable[[Netlist, Fault], Message]
    act: Callable[[Netlist, Fault], Message]
    of: str = "wire"
    in_line: bool = False
    wires: int = 1
    ended: bool = False
    values: int = 0
    or_wires: int = -1
    or_values: int = -1
    """Other counts of wires and values it may be said with, −1 for none."""
    read: Callable[[Netlist, Fault, list[str]], Fault] = figures.as_it_is
    tail: Callable[[Fault], str] = figures.no_tail
    ohm: Callable[[Netlist, Fault], float] = figures.ohm_same


KINDS: dict[str, Kind] = {
    "open": Kind("open:WIRE", words.says_open, words.act_open, in_line=True, ohm=lambda _, __: math.inf),
    "high": Kind(
        "high:WIRE@END:OHM",
        words.says_high,
        words.act_contact,
        in_line=True,
        ended=True,
        values=1,
        read=figures.read_ohm,
        tail=figures.ohm_tail,
        ohm=figures.ohm_high,
    ),
    "stud": Kind(
        "stud:WIRE@END:OHM",
        words.says_stud,
        words.act_stud,
        in_line=True,
        ended=True,
        values=1,
        read=figures.read_stud,
        tail=figures.ohm_tail,
        ohm=figures.ohm_high,
    ),
    "flicker": Kind(
        "flicker:WIRE@END:SHARE",
        words.says_flicker,
        words.act_contact,
        ended=True,
        values=1,
        read=figures.read_share,
        tail=lambda f: f":{figures.plainly(f.share)}",
    ),
    "swap": Kind("swap:WIRE,WIRE@END", words.says_swap, words.act_swap, wires=2, ended=True),
    "short": Kind(
        "short:WIRE,WIRE or short:WIRE,WIRE:OHM",
        words.says_short,
        words.act_short,
        wires=2,
        or_values=1,
        read=figures.read_ohm,
        tail=lambda f: figures.ohm_tail(f) if f.ohm else "",
    ),
    "leak": Kind(
        "leak:WIRE:OHM or leak:WIRE,WIRE:OHM",
        words.says_leak,
        words.act_leak,
        values=1,
        or_wires=2,
        read=figures.read_ohm,
        tail=figures.ohm_tail,
    ),
    "size": Kind(
        "size:WIRE:SIZE",
        words.says_size,
        words.act_lead,
        in_line=True,
        values=1,
        read=figures.read_size,
        tail=lambda f: f":{f.size}",
        ohm=figures.ohm_size,
    ),
    "metal": Kind(
        "metal:WIRE:METAL",
        words.says_metal,
        words.act_lead,
        in_line=True,
        values=1,
        read=figures.read_metal,
        tail=lambda f: f":{f.metal}",
        ohm=figures.ohm_metal,
    ),
    "longer": Kind(
        "longer:WIRE:M",
        words.says_longer,
        words.act_lead,
        in_line=True,
        values=1,
        read=figures.read_metres,
        tail=lambda f: f":{figures.plainly(f.metres)}",
        ohm=figures.ohm_longer,
    ),
    "strands": Kind(
        "strands:WIRE:SHARE:M",
        words.says_strands,
        words.act_lead,
        in_line=True,
        values=2,
        read=figures.read_strands,
        tail=lambda f: f":{figures.plainly(f.share)}:{figures.plainly(f.metres)}",
        ohm=figures.ohm_strands,
    ),
    "shield": Kind(
        "shield:CABLE",
        words.says_shield,
        words.act_shield,
        of="screen",
        wires=0,
    ),
    "wet": Kind(
        "wet:END:OHM",
        words.says_wet,
        words.act_end("fault.open-dry-and-seal"),
        of="end",
        values=1,
        read=figures.read_ohm,
        tail=figures.ohm_tail,
    ),
    "loose": Kind("loose:END", words.says_loose, words.act_end("fault.push-home-and-lock"), of="end"),
    "cut": Kind("cut:CABLE", words.says_cut, words.act_lead, of="cable", wires=0),
    "crossed": Kind("crossed:END,END", words.says_crossed, words.act_crossed, of="end", wires=2),
    LEADS: Kind(
        "",
        words.says_leads,
        words.act_leads,
        of="meter",
        wires=0,
    ),
}
"""Every kind of fault: one is added here, and in `state.CHANGES`."""
WORDS = {what: kind.writing for what, kind in KINDS.items() if kind.writing}
"""Fault → how it is written."""
IN_LINE = tuple(what for what, kind in KINDS.items() if kind.in_line)
"""Faults that change one wire's resistance and nothing else: readings at its two ends see a single number."""
