"""What one says of a fault at the bench, and the act of repair that mends it."""

from __future__ import annotations

from collections.abc import Callable

from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.sentences import say
from umber_trunk.core.units import show_ohms


def says_open(net: Netlist, fault: Fault) -> str:
    """Nothing leads from its one cavity to the other."""
    wire = net.index.wires[fault.where[0]]
    ends = " or ".join(net.name((pin.end, pin.cavity)) for pin in (wire.start, wire.finish))
    return say("fault.open-its-contact-at-is-not", wire=wire.id, ends=ends)


def says_high(net: Netlist, fault: Fault) -> str:
    """A joint of a contact reads too much."""
    at = _contact_told(net, fault, say("fault.a-joint"))
    return say("fault.too-much-bad-crimp", at=at, ohm=show_ohms(fault.ohm))


def says_stud(net: Netlist, fault: Fault) -> str:
    """A joint under a nut or screw reads too much."""
    one = fault.where[0]
    at = (
        say("fault.at-place", one=one, name=net.index.ends[fault.end].name)
        if fault.end
        else say("fault.one-end-of", one=one)
    )
    return say("fault.isnt-clean-or-tight-under", at=at, ohm=show_ohms(fault.ohm))


def says_flicker(net: Netlist, fault: Fault) -> str:
    """It leads now and then."""
    return say("fault.makes-and-breaks", contact=_contact_told(net, fault, say("fault.a-contact")))


def _contact_told(net: Netlist, fault: Fault, otherwise: str) -> str:
    """The contact a fault sits at; where nothing says at which end, one of its wire."""
    one = fault.where[0]
    return (
        say("fault.contact-at", one=one, name=net.index.ends[fault.end].name)
        if fault.end
        else say("fault.of-wire", otherwise=otherwise, one=one)
    )


def says_wet(net: Netlist, fault: Fault) -> str:
    """Water inside a connector: all its cavities lead to one another, badly."""
    return say("fault.wet-inside-its-cavities-lead", name=net.index.ends[fault.where[0]].name, ohm=show_ohms(fault.ohm))


def says_loose(net: Netlist, fault: Fault) -> str:
    """A connector not pushed home."""
    return say("fault.isnt-home-its-contacts-read-something", name=net.index.ends[fault.where[0]].name)


def says_cut(net: Netlist, fault: Fault) -> str:
    """Every core of a cable is open."""
    return say("fault.cut-through-all-of-are-open", where=fault.where[0], cores=", ".join(net.cores[fault.where[0]]))


def says_crossed(net: Netlist, fault: Fault) -> str:
    """Two plugs alike, each where the other belongs."""
    a, b = (net.index.ends[end].name for end in fault.where)
    return say("fault.each-others-places", a=a, b=b)


def says_short(_: Netlist, fault: Fault) -> str:
    """Two wires touch, or lead to one another through something."""
    one, two = fault.where
    if not fault.ohm:
        return say("fault.touch", one=one, two=two)
    return say("fault.lead-to-one-another", one=one, two=two, ohm=show_ohms(fault.ohm))


def says_leak(_: Netlist, fault: Fault) -> str:
    """Insulation that lets a little through."""
    to = say("fault.to-earth") if len(fault.where) == 1 else say("fault.to-place", where=fault.where[1])
    return say("fault.leaks-by-wet", where=fault.where[0], to=to, ohm=show_ohms(fault.ohm))


def says_swap(net: Netlist, fault: Fault) -> str:
    """Two contacts in each other’s cavities."""
    a, b = fault.where
    if not fault.end:
        return say("fault.swapped-anywhere", a=a, b=b)
    return say(
        "fault.each-others-cavities", a=a, b=b, name=net.index.ends[fault.end].name, which=_which_swap(net, fault)
    )


def says_shield(net: Netlist, fault: Fault) -> str:
    """A screen landed where it shouldn’t be, or not where it should."""
    screen = net.screens.get(fault.where[0])
    if screen is not None and screen.taped:
        return say("fault.screen-of-touches-earth", where=fault.where[0], name=net.index.ends[screen.taped[0]].name)
    return say("fault.screen-of-isnt-landed-at-both", where=fault.where[0])


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
            return say("fault.polarity-reversed", name=name)
    cables = {net.index.wires[w].cable for w in fault.where}
    return say("fault.crossed-pair") if len(cables) == 1 and None not in cables else ""


def act_contact(net: Netlist, fault: Fault) -> str:
    """Of a bad contact."""
    return say("fault.cut-back-and-make-anew", where=fault.where[0], name=net.index.ends[fault.end].name)


def act_stud(net: Netlist, fault: Fault) -> str:
    """Of a bad lug or ring."""
    return say("fault.undo-clean-and-tighten", where=fault.where[0], name=net.index.ends[fault.end].name)


def act_lead(_: Netlist, fault: Fault) -> str:
    """Of a wire that isn’t the listed one."""
    return say("fault.lay-anew-by-list", where=fault.where[0])


def act_open(_: Netlist, fault: Fault) -> str:
    """Of a wire that is open."""
    return say("fault.look-at-both-contacts", where=fault.where[0])


def act_swap(net: Netlist, fault: Fault) -> str:
    """Of two contacts changed over."""
    a, b = fault.where
    return say("fault.put-and-into-each-others-cavities", a=a, b=b)


def act_short(_: Netlist, fault: Fault) -> str:
    """Of two wires that touch."""
    return say("fault.part-where-they-touch", where=say("fault.and").join(fault.where))


def act_leak(_: Netlist, fault: Fault) -> str:
    """Of insulation that leaks."""
    return say("fault.dry-it-and-look-along", where=say("fault.and").join(fault.where))


def act_end(verb: str) -> Callable[[Netlist, Fault], str]:
    """Of a whole connector, by what is done to it."""
    return lambda net, fault: f"{verb} {net.index.ends[fault.where[0]].name}"


def act_crossed(net: Netlist, fault: Fault) -> str:
    """Of two plugs changed over."""
    return say("fault.change-over", where=say("fault.and").join(net.index.ends[end].name for end in fault.where))
