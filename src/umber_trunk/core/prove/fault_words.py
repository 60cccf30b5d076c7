"""What one says of a fault at the bench, and the act of repair that mends it."""

from __future__ import annotations

from collections.abc import Callable

from umber_trunk.core.catalog.conductors import metals
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.sentences import NOTHING, Message, catalogue, say
from umber_trunk.core.units import show_ohms


def says_open(net: Netlist, fault: Fault) -> Message:
    """Nothing leads from its one cavity to the other."""
    wire = net.index.wires[fault.where[0]]
    ends = " or ".join(net.name((pin.end, pin.cavity)) for pin in (wire.start, wire.finish))
    return Message.of("fault.open-its-contact-at-is-not", wire=wire.id, ends=ends)


def says_high(net: Netlist, fault: Fault) -> Message:
    """A joint of a contact reads too much."""
    at = _contact_told(net, fault, Message.of("fault.a-joint"))
    return Message.of("fault.too-much-bad-crimp", at=at, ohm=show_ohms(fault.ohm))


def says_stud(net: Netlist, fault: Fault) -> Message:
    """A joint under a nut or screw reads too much."""
    one = fault.where[0]
    at = (
        Message.of("fault.at-place", one=one, name=net.index.ends[fault.end].name)
        if fault.end
        else Message.of("fault.one-end-of", one=one)
    )
    return Message.of("fault.isnt-clean-or-tight-under", at=at, ohm=show_ohms(fault.ohm))


def says_flicker(net: Netlist, fault: Fault) -> Message:
    """It leads now and then."""
    return Message.of("fault.makes-and-breaks", contact=_contact_told(net, fault, Message.of("fault.a-contact")))


def _contact_told(net: Netlist, fault: Fault, otherwise: Message) -> Message:
    """The contact a fault sits at; where nothing says at which end, one of its wire."""
    one = fault.where[0]
    return (
        Message.of("fault.contact-at", one=one, name=net.index.ends[fault.end].name)
        if fault.end
        else Message.of("fault.of-wire", otherwise=otherwise, one=one)
    )


def says_wet(net: Netlist, fault: Fault) -> Message:
    """Water inside a connector: all its cavities lead to one another, badly."""
    return Message.of(
        "fault.wet-inside-its-cavities-lead", name=net.index.ends[fault.where[0]].name, ohm=show_ohms(fault.ohm)
    )


def says_loose(net: Netlist, fault: Fault) -> Message:
    """A connector not pushed home."""
    return Message.of("fault.isnt-home-its-contacts-read-something", name=net.index.ends[fault.where[0]].name)


def says_cut(net: Netlist, fault: Fault) -> Message:
    """Every core of a cable is open."""
    return Message.of(
        "fault.cut-through-all-of-are-open", where=fault.where[0], cores=", ".join(net.cores[fault.where[0]])
    )


def says_crossed(net: Netlist, fault: Fault) -> Message:
    """Two plugs alike, each where the other belongs."""
    a, b = (net.index.ends[end].name for end in fault.where)
    return Message.of("fault.each-others-places", a=a, b=b)


def says_short(_: Netlist, fault: Fault) -> Message:
    """Two wires touch, or lead to one another through something."""
    one, two = fault.where
    if not fault.ohm:
        return Message.of("fault.touch", one=one, two=two)
    return Message.of("fault.lead-to-one-another", one=one, two=two, ohm=show_ohms(fault.ohm))


def says_leak(_: Netlist, fault: Fault) -> Message:
    """Insulation that lets a little through."""
    to = Message.of("fault.to-earth") if len(fault.where) == 1 else Message.of("fault.to-place", where=fault.where[1])
    return Message.of("fault.leaks-by-wet", where=fault.where[0], to=to, ohm=show_ohms(fault.ohm))


def says_swap(net: Netlist, fault: Fault) -> Message:
    """Two contacts in each other’s cavities."""
    a, b = fault.where
    if not fault.end:
        return Message.of("fault.swapped-anywhere", a=a, b=b)
    return Message.of(
        "fault.each-others-cavities", a=a, b=b, name=net.index.ends[fault.end].name, which=_which_swap(net, fault)
    )


def says_shield(net: Netlist, fault: Fault) -> Message:
    """A screen landed where it shouldn’t be, or not where it should."""
    screen = net.screens.get(fault.where[0])
    if screen is not None and screen.taped:
        return Message.of(
            "fault.screen-of-touches-earth", where=fault.where[0], name=net.index.ends[screen.taped[0]].name
        )
    return Message.of("fault.screen-of-isnt-landed-at-both", where=fault.where[0])


def says_size(_: Netlist, fault: Fault) -> Message:
    """A lead of another size."""
    return Message.of("fault.other-size", wire=fault.where[0], size=fault.size.replace("mm2", "mm²"))


def says_metal(_: Netlist, fault: Fault) -> Message:
    """A lead of another metal."""
    return Message.of("fault.other-metal", wire=fault.where[0], metal=metals()[fault.metal].name.lower())


def says_longer(_: Netlist, fault: Fault) -> Message:
    """A lead that is longer than planned."""
    return Message.of("fault.longer", wire=fault.where[0], metres=fault.metres)


def says_strands(_: Netlist, fault: Fault) -> Message:
    """Strands lost along a piece of a lead."""
    return Message.of("fault.lost-strands", wire=fault.where[0], percent=100 * fault.share, metres=fault.metres)


def says_leads(_: Netlist, fault: Fault) -> Message:
    """The meter’s own leads, not nulled."""
    return Message.of("fault.leads-add", ohm=show_ohms(fault.ohm))


def act_leads(_: Netlist, __: Fault) -> Message:
    """Of those."""
    return Message.of("fault.null-the-leads")


def act_shield(_: Netlist, fault: Fault) -> Message:
    """Of a screen that isn’t landed as it should be."""
    return Message.of("fault.land-the-screen", cable=fault.where[0])


def _which_swap(net: Netlist, fault: Fault) -> Message:
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
            return Message.of("fault.polarity-reversed", name=name)
    cables = {net.index.wires[w].cable for w in fault.where}
    return Message.of("fault.crossed-pair") if len(cables) == 1 and None not in cables else NOTHING


def act_contact(net: Netlist, fault: Fault) -> Message:
    """Of a bad contact."""
    return Message.of("fault.cut-back-and-make-anew", where=fault.where[0], name=net.index.ends[fault.end].name)


def act_stud(net: Netlist, fault: Fault) -> Message:
    """Of a bad lug or ring."""
    return Message.of("fault.undo-clean-and-tighten", where=fault.where[0], name=net.index.ends[fault.end].name)


def act_lead(_: Netlist, fault: Fault) -> Message:
    """Of a wire that isn’t the listed one."""
    return Message.of("fault.lay-anew-by-list", where=fault.where[0])


def act_open(_: Netlist, fault: Fault) -> Message:
    """Of a wire that is open."""
    return Message.of("fault.look-at-both-contacts", where=fault.where[0])


def act_swap(net: Netlist, fault: Fault) -> Message:
    """Of two contacts changed over."""
    a, b = fault.where
    return Message.of("fault.put-and-into-each-others-cavities", a=a, b=b)


def act_short(_: Netlist, fault: Fault) -> Message:
    """Of two wires that touch."""
    return Message.of("fault.part-where-they-touch", where=say("fault.and").join(fault.where))


def act_leak(_: Netlist, fault: Fault) -> Message:
    """Of insulation that leaks."""
    return Message.of("fault.dry-it-and-look-along", where=say("fault.and").join(fault.where))


def act_end(code: str) -> Callable[[Netlist, Fault], Message]:
    """Of a whole connector, by the code of what is done to it."""
    return lambda net, fault: Message.of(code, name=net.index.ends[fault.where[0]].name)


def act_crossed(net: Netlist, fault: Fault) -> Message:
    """Of two plugs changed over."""
    return Message.of("fault.change-over", where=say("fault.and").join(net.index.ends[end].name for end in fault.where))


def briefly(said: Message) -> str:
    """What is said of a fault without what it comes to."""
    short = f"{said.code}.short"
    return say(short, **said.values) if short in catalogue() else str(said)
