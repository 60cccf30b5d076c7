"""Repair of an end: looked over by a list, what matches it, old map beside new, how many tries the wire has left; and
whether a supply lead suits a device, said before power."""

from __future__ import annotations

import math
from dataclasses import dataclass

from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.ends.mate import Crossing, agreement
from umber_trunk.core.ends.meaning import half_of, half_of_pins
from umber_trunk.core.ends.strip import strip_of
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.edits import change, put
from umber_trunk.core.harness.end import FoundPin, Inspection
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.measures import CURRENT, VOLTAGE
from umber_trunk.core.quantity import Habit, read
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say
from umber_trunk.core.units import significant


@dataclass(frozen=True)
class Look:
    """One thing to look at: what to look for, and what a fault there means for the whole."""

    field: str
    name: str
    look: str
    means: str


LOOKS = (
    Look("casing", "Casing", "Cracked, melted, a corner gone?", "Replace the housing."),
    Look("rust", "Rust and green", "Green or white crust on contacts or wire, black strands under the insulation?", "Replace the contact and cut back to bright strands."),
    Look("pins", "Pins and sockets", "Bent, pushed back, broken, a socket spread?", "Replace the contact; a bent pin once straightened is a deviation."),
    Look("seal", "Seals", "Hard, torn, out of its place, a cavity without its plug?", "Replace the seal; look for water behind it."),
    Look("latch", "Latch and lock", "Does it click, is the secondary lock there?", "Replace the housing: what isn’t latched shakes loose."),
)  # fmt: skip
"""Every thing to look at before a repair."""


def inspected(design: Design, end_id: str) -> Inspection:
    """What is recorded of an end, nothing yet for a fresh one."""
    return index_of(design).ends[end_id].inspection or Inspection()


def record(design: Design, end_id: str, **values: object) -> Design:
    """Writes into an end's inspection: states, found, form, contacts, left_m."""
    end = index_of(design).ends[end_id]
    return put(design, "ends", change(end, inspection=change(end.inspection or Inspection(), **values)))


def set_state(design: Design, end_id: str, field: str, state: str) -> Design:
    """Records one thing looked at: "ok", "replace", or "" to forget it."""
    kept = tuple((name, said) for name, said in inspected(design, end_id).states if name != field)
    return record(design, end_id, states=(*kept, (field, state)) if state else kept)


def set_found(design: Design, end_id: str, label: str, function: str) -> Design:
    """Records what a cavity of the old connector was for."""
    kept = tuple(pin for pin in inspected(design, end_id).found if pin.label != label)
    return record(design, end_id, found=(*kept, FoundPin(label=label, function=function)) if function else kept)


def verdict(inspection: Inspection) -> str:
    """Accept or replace, in one sentence."""
    states = dict(inspection.states)
    bad = [look for look in LOOKS if states.get(look.field) == "replace"]
    left = [look.name.lower() for look in LOOKS if look.field not in states]
    if bad:
        return say("repair.replace", why=" ".join(f"{look.name}: {look.means}" for look in bad))
    return say("repair.still-to-look", left=", ".join(left)) if left else say("repair.accept")


def tries_left(results: Results, end_id: str, left_m: float) -> int | None:
    """How many more times the end can be made with so much wire left to cut back, by its hungriest wire; None where
    nothing is known of its parts."""
    places = places_of(results.design, results.shelf)
    eaten = [made.eaten_mm for one in places.of_end(end_id) if (made := strip_of(results, one)) is not None]
    return math.floor(left_m * 1e3 / max(eaten) + 1e-9) if eaten else None


def matching(
    shelf: Shelf, ways: int, form: str, contacts: str, sealed: bool | None = None, known: Housing | None = None
) -> list[Housing]:
    """Housings that match what is there: as many cavities, form and gender the same; sealed ones for sealed. Where the
    old one is `known`, sizes of cavities and key are the same too: what plugs in and can't be locked home is no
    match."""
    sizes = sorted(cavity.size for cavity in known.cavities) if known is not None else None
    return [
        one
        for one in shelf.of(Housing)
        if (
            known is None
            or (
                sorted(cavity.size for cavity in one.cavities) == sizes
                and (one.key, one.family) == (known.key, known.family)
            )
        )
        and len(one.cavities) == ways
        and (not form or one.form == form)
        and (not contacts or one.contacts == contacts)
        and (sealed is None or (one.seal != "none") == sealed)
    ]


def matches_of(design: Design, end_id: str, shelf: Shelf | None = None) -> list[Housing]:
    """Housings that match an end as it is recorded, else as it is designed."""
    end, seen = index_of(design).ends[end_id], inspected(design, end_id)
    body = end.housings[0] if end.housings else None
    form, contacts = seen.form or (body.form if body else ""), seen.contacts or (body.contacts if body else "")
    shelf = shelf_for(design, shelf)
    known = shelf.get(body.part, Housing) if body else None
    ways = len(known.cavities) if known else len(seen.found) or len(end.cavities)
    return matching(shelf, ways, form, contacts, body.sealed if body else None, known)


def old_and_new(design: Design, end_id: str, shelf: Shelf | None = None) -> list[Crossing]:
    """The old connector's map beside the new one's, by what each cavity is for."""
    old = half_of_pins(
        "the old connector", [(pin.label, pin.function, None) for pin in inspected(design, end_id).found]
    )
    return list(agreement(old, half_of(design, end_id, shelf), replaces=True).rows)


@dataclass(frozen=True)
class Lead:
    """A supply lead or a device's inlet: volts, amps it gives or needs, which pole the barrel's centre is, which core
    the stripe marks; "" where unknown."""

    volts: float
    amps: float
    centre: str = ""
    stripe: str = ""
    ac: bool = False


def read_lead(text: str) -> Lead:
    """ "12 V 2 A centre + stripe −" as typed off a plate; InputError for what can't be read."""
    words = text.replace(",", " ").replace("center", "centre").split()
    volts = amps = None
    poles = {"centre": "", "stripe": ""}
    ac = False
    at = 0
    while at < len(words):
        word = words[at].lower()
        after = words[at + 1] if at + 1 < len(words) else ""
        if word in poles:
            if after not in ("+", "-", "−"):
                raise InputError.of("ends.word-wants-sign", word=quoted(word))
            poles[word] = "+" if after == "+" else "−"
            at += 2
            continue
        if word in ("ac", "dc"):
            ac = word == "ac"
            at += 1
            continue
        apart = after.lower() in ("v", "a", "ma")
        found = read(f"{words[at]} {after}" if apart else words[at], (VOLTAGE, CURRENT), "", Habit("point"))
        volts, amps = (found.value, amps) if found.measure is VOLTAGE else (volts, found.value)
        at += 1 + apart
    if volts is None or amps is None:
        raise InputError.of("ends.volts-and-amps-are-both-needed")
    if not (0 < volts <= 1500 and 0 < amps <= 1e4):
        raise InputError.of("ends.volts-go-up")
    return Lead(volts, amps, poles["centre"], poles["stripe"], ac)


VOLTS_APART = 0.05
"""Share by which the volts of a supply and a device may differ."""


def suits(supply: Lead, device: Lead) -> tuple[bool, str]:
    """(whether to plug it in, why, in one sentence). What isn't known is never called fine."""
    if supply.ac != device.ac:
        return False, say("suits.kinds", gives="AC" if supply.ac else "DC", wants="AC" if device.ac else "DC")
    if abs(supply.volts - device.volts) > VOLTS_APART * device.volts:
        destroys = supply.volts > device.volts
        return False, say("suits.volts", gives=supply.volts, wants=device.volts, destroys=destroys)
    if not supply.ac and (not supply.centre or not device.centre):
        return False, say("suits.measure-the-centre")
    if not supply.ac and supply.centre != device.centre:
        return False, say("suits.polarity", lead=supply.centre, device=device.centre)
    if supply.amps < device.amps:
        return False, say("suits.amps", gives=significant(supply.amps), draws=significant(device.amps))
    gives, draws, centre = significant(supply.amps), significant(device.amps), "" if supply.ac else supply.centre
    return True, say("suits.yes", volts=supply.volts, gives=gives, draws=draws, centre=centre)
