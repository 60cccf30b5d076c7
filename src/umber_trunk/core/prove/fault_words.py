"""What one says of a fault at the bench, and the act of repair that mends it."""

from __future__ import annotations

from collections.abc import Callable

from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.units import show_ohms


def says_open(net: Netlist, fault: Fault) -> str:
    """Nothing leads from its one cavity to the other."""
    wire = net.index.wires[fault.where[0]]
    ends = " or ".join(net.name((pin.end, pin.cavity)) for pin in (wire.start, wire.finish))
    return f"{wire.id} is open: its contact at {ends} is not crimped through, or the wire is broken or missing"


def says_high(net: Netlist, fault: Fault) -> str:
    """A joint of a contact reads too much."""
    at = _contact_told(net, fault, "a joint")
    return f"{at} has {show_ohms(fault.ohm)} too much: a bad crimp"


def says_stud(net: Netlist, fault: Fault) -> str:
    """A joint under a nut or screw reads too much."""
    one = fault.where[0]
    at = f"{one} at {net.index.ends[fault.end].name}" if fault.end else f"one end of {one}"
    return f"{at} isn’t clean or tight under its nut or screw: {show_ohms(fault.ohm)} too much"


def says_flicker(net: Netlist, fault: Fault) -> str:
    """It leads now and then."""
    return f"{_contact_told(net, fault, 'a contact')} makes and breaks"


def _contact_told(net: Netlist, fault: Fault, otherwise: str) -> str:
    """The contact a fault sits at; where nothing says at which end, one of its wire."""
    one = fault.where[0]
    return f"{one}’s contact at {net.index.ends[fault.end].name}" if fault.end else f"{otherwise} of {one}"


def says_wet(net: Netlist, fault: Fault) -> str:
    """Water inside a connector: all its cavities lead to one another, badly."""
    return (
        f"{net.index.ends[fault.where[0]].name} is wet inside: its cavities lead to one another by "
        f"{show_ohms(fault.ohm)}"
    )


def says_loose(net: Netlist, fault: Fault) -> str:
    """A connector not pushed home."""
    return f"{net.index.ends[fault.where[0]].name} isn’t home: its contacts read something else each, or nothing"


def says_cut(net: Netlist, fault: Fault) -> str:
    """Every core of a cable is open."""
    return f"{fault.where[0]} is cut through: all of {', '.join(net.cores[fault.where[0]])} are open"


def says_crossed(net: Netlist, fault: Fault) -> str:
    """Two plugs alike, each where the other belongs."""
    a, b = (net.index.ends[end].name for end in fault.where)
    return f"{a} and {b} are in each other’s places"


def says_short(_: Netlist, fault: Fault) -> str:
    """Two wires touch, or lead to one another through something."""
    one, two = fault.where
    if not fault.ohm:
        return f"{one} and {two} touch"
    return f"{one} and {two} lead to one another by {show_ohms(fault.ohm)}: a strand, dirt or a part between their nets"


def says_leak(_: Netlist, fault: Fault) -> str:
    """Insulation that lets a little through."""
    to = "to earth" if len(fault.where) == 1 else f"to {fault.where[1]}"
    return f"{fault.where[0]} leaks {to} by {show_ohms(fault.ohm)}: wet, or its insulation is cut"


def says_swap(net: Netlist, fault: Fault) -> str:
    """Two contacts in each other’s cavities."""
    a, b = fault.where
    if not fault.end:
        return f"{a} and {b} are in each other’s cavities"
    return f"{a} and {b} are in each other’s cavities at {net.index.ends[fault.end].name}{_which_swap(net, fault)}"


def says_shield(net: Netlist, fault: Fault) -> str:
    """A screen landed where it shouldn’t be, or not where it should."""
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


def act_contact(net: Netlist, fault: Fault) -> str:
    """Of a bad contact."""
    return f"cut back and make {fault.where[0]} anew at {net.index.ends[fault.end].name}"


def act_stud(net: Netlist, fault: Fault) -> str:
    """Of a bad lug or ring."""
    return f"undo, clean and tighten {fault.where[0]} at {net.index.ends[fault.end].name}, to its torque"


def act_lead(_: Netlist, fault: Fault) -> str:
    """Of a wire that isn’t the listed one."""
    return f"lay {fault.where[0]} anew, by the list"


def act_open(_: Netlist, fault: Fault) -> str:
    """Of a wire that is open."""
    return f"look at both contacts of {fault.where[0]}; sound, lay it anew"


def act_swap(net: Netlist, fault: Fault) -> str:
    """Of two contacts changed over."""
    a, b = fault.where
    return f"put {a} and {b} into each other’s cavities, at the end where they don’t go by the list"


def act_short(_: Netlist, fault: Fault) -> str:
    """Of two wires that touch."""
    return f"part {' and '.join(fault.where)} where they touch, and look for the nick"


def act_leak(_: Netlist, fault: Fault) -> str:
    """Of insulation that leaks."""
    return f"dry it, and look along {' and '.join(fault.where)} for a nick"


def act_end(verb: str) -> Callable[[Netlist, Fault], str]:
    """Of a whole connector, by what is done to it."""
    return lambda net, fault: f"{verb} {net.index.ends[fault.where[0]].name}"


def act_crossed(net: Netlist, fault: Fault) -> str:
    """Of two plugs changed over."""
    return f"change {' and '.join(net.index.ends[end].name for end in fault.where)} over"
