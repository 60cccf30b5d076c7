"""The rules at the end of a wire: what follows from part and wire alone, and what the solved current and heat ask."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from math import isfinite
from typing import Any

from umber_trunk.core.catalog.parts import Boot, Contact, Ferrule, Splice
from umber_trunk.core.ends.barrel_rules import barrel_fits
from umber_trunk.core.ends.covering import needs_ferrule, share_at
from umber_trunk.core.ends.families import FAMILIES
from umber_trunk.core.ends.judging import CONTACT_RISE_K, FAULT, WARNING, Fit, Judging
from umber_trunk.core.ends.lug_rules import lug_made, lug_runs
from umber_trunk.core.ends.no_part import nothing_fits
from umber_trunk.core.ends.reach import Stuff, clamp_of, collar_takes, contacts_for, ferrules_for, ranked, splices_for
from umber_trunk.core.ends.seal_rules import tight
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.harness.model import Fitting
from umber_trunk.core.sentences import Message
from umber_trunk.core.units import significant


class WireRules(Judging):
    """Judges one end of one wire."""

    def made_right(self, one: WireEnd, stuff: Stuff, fitting: Fitting) -> Iterator[Fit | None]:
        """What follows from the parts and the wire alone, whatever current runs."""
        if one.housing is not None and one.place is None:
            yield self.fit(
                one,
                one.housing.id,
                "cavity.known",
                False,
                {"part": one.housing.name, "cavity": one.label},
            )
            return
        core = self.places.core(one.wire)
        if one.place is not None and one.place.role and core is not None and core.role:
            ok = core.role == one.place.role
            yield self.fit(
                one,
                one.housing.id if one.housing else None,
                "cavity.role",
                ok,
                {"core": core.mark, "role": core.role, "other": "" if ok else one.place.role},
            )
        family = FAMILIES[one.made] if one.made is not None else None
        if family is not None and family.kind is None:
            yield from JUDGES[str(one.made)](self, one, stuff, fitting, None)
        else:
            part = self.shelf.named(fitting.part)
            if fitting.part is not None and part is None:
                yield self.unknown(one, fitting.part, "part")
            elif part is None:
                yield nothing_fits(self, one, stuff)
            elif family is not None and family.kind is not None and isinstance(part, family.kind):
                yield from JUDGES[str(one.made)](self, one, stuff, fitting, part)
            else:
                yield self.fit(
                    one,
                    part.id,
                    "part.kind",
                    False,
                    {"part": part.name, "kind": one.made},
                )
        if one.housing is not None:
            yield from tight(self, one, stuff, fitting, one.housing)
        yield from boot_fits(self, one, stuff, fitting)

    def runs_right(self, one: WireEnd, stuff: Stuff, fitting: Fitting) -> Iterator[Fit | None]:
        """What the solved current and temperature ask of the part."""
        part, family = self.shelf.named(fitting.part), FAMILIES[one.made] if one.made is not None else None
        if family is None or (one.housing is not None and one.place is None):
            return
        if family.kind is None:
            if one.place is not None:
                yield from RUNS[str(one.made)](self, one, stuff, None)
        elif isinstance(part, family.kind):
            yield from RUNS[str(one.made)](self, one, stuff, part)


def splice_made(judge: Judging, one: WireEnd, stuff: Stuff, _: Fitting, part: Splice) -> Iterator[Fit | None]:
    """What holds of a splice and the wires in it."""
    yield from barrel_fits(
        judge, one, stuff, part, lambda: ranked(splices_for(judge.shelf, stuff, part.form), stuff.area_mm2)
    )


def contact_made(judge: Judging, one: WireEnd, stuff: Stuff, fitting: Fitting, part: Contact) -> Iterator[Fit | None]:
    """What holds of a contact: the cavity it clips into, its barrel and wings."""
    housing, place = one.housing, one.place
    share = share_at(judge.fitted.share, one)
    options = cache(lambda: ranked(contacts_for(judge.shelf, one, stuff, share), stuff.area_mm2))
    if housing is not None and place is not None:
        ok = part.size == place.size and part.family == housing.family
        yield judge.fit(
            one,
            part.id,
            "cavity.size",
            ok,
            {
                "part": part.name,
                "other": "" if ok else f"{part.family} {part.size}",
                "cavity": f"{housing.family} {place.size}",
            },
            options=options,
        )
        ok = part.gender == housing.contacts
        yield judge.fit(
            one,
            part.id,
            "contact.gender",
            ok,
            {"gender": part.gender, "form": housing.form, "wanted": housing.contacts},
            options=options,
        )
    yield from barrel_fits(judge, one, stuff, part, options)
    if part.insulation_mm is not None:
        for mm in sorted(set(stuff.each_mm)):
            off = judge.practice.wings == "remove" and mm > part.insulation_mm.high
            yield judge.within(
                one,
                part,
                "wings.insulation",
                part.insulation_mm,
                mm,
                "mm",
                Message.of("fit.what.insulation"),
                options,
                WARNING if off else FAULT,
                deviates=off,
            )


def boot_fits(judge: Judging, one: WireEnd, stuff: Stuff, fitting: Fitting) -> Iterator[Fit | None]:
    """A boot over the end of a wire."""
    boot = judge.shelf.get(fitting.boot, Boot)
    if fitting.boot is not None and boot is None:
        yield judge.unknown(one, fitting.boot, "boot")
    if boot is not None:
        fits = (part.id for part in judge.shelf.of(Boot) if part.wire_mm.holds(stuff.each_mm[0]))
        yield judge.within(
            one,
            boot,
            "boot.wire",
            boot.wire_mm,
            stuff.each_mm[0],
            "mm",
            Message.of("fit.what.wire"),
            lambda: tuple(fits),
        )


def clamp_made(judge: Judging, one: WireEnd, stuff: Stuff, fitting: Fitting) -> Iterator[Fit | None]:
    """What holds of a clamp: the conductor in it, a ferrule where the house wants one."""
    clamp = clamp_of(judge.shelf, one)
    if clamp is None:
        yield judge.unknown(one, one.housing.clamp or "" if one.housing else "", "clamp")
        return
    yield judge.within(
        one,
        clamp,
        "clamp.area",
        clamp.area_mm2,
        stuff.area_mm2,
        "mm²",
        Message.of("fit.what.conductors", several=0, double=False),
        tuple,
    )
    ferrule = judge.shelf.get(fitting.ferrule, Ferrule)
    options = cache(lambda: ranked(ferrules_for(judge.shelf, stuff), stuff.area_mm2))
    if fitting.ferrule is not None and ferrule is None:
        yield judge.unknown(one, fitting.ferrule, "ferrule")
    elif ferrule is not None:
        yield judge.within(
            one,
            ferrule,
            "ferrule.area",
            ferrule.area_mm2,
            stuff.area_mm2,
            "mm²",
            Message.of("fit.what.conductors", several=0, double=False),
            options,
        )
        thick, many = max(stuff.each_mm, default=0.0), len(stuff.each_mm)
        yield judge.fit(
            one,
            ferrule.id,
            "ferrule.collar",
            collar_takes(ferrule, stuff),
            {"many": many, "mm": significant(thick), "twin": ferrule.twin, "collar_mm": ferrule.collar_mm},
            thick,
            (0.0, ferrule.collar_mm),
            "mm",
            options,
            source=ferrule.source,
        )
    elif needs_ferrule(judge.practice.ferrules, clamp.fine, stuff.fine):
        yield judge.fit(
            one,
            None,
            "clamp.ferrule",
            False,
            {},
            options=options,
            severity=WARNING,
        )


def contact_runs(judge: Judging, one: WireEnd, stuff: Stuff, part: Contact) -> Iterator[Fit | None]:
    """What the wire’s current and heat ask of a contact."""
    if part.barrel == "solder":
        most = judge.practice.solder_most_a
        ok = judge.practice.instead == "sleeved" and stuff.amps <= most * (1 + 1e-9)
        yield judge.fit(
            one,
            part.id,
            "contact.soldered",
            ok,
            {
                "amps": significant(stuff.amps),
                "ok": ok,
                "most_a": most if judge.practice.instead == "sleeved" and not ok else 0.0,
            },
            severity=WARNING,
        )
    if part.rated_a is None:
        return
    housing = one.housing
    share = share_at(judge.fitted.share, one)
    amps = judge.net_a.get((one.end.id, one.cavity.id), stuff.amps)
    most = share * part.rated_a * (1 + 1e-9)
    limits = [limit for limit in (part.limit_c, housing.limit_c if housing else None) if limit is not None]
    hot = judge.results.figures.wires[one.wire.id].conductor_c + CONTACT_RISE_K * (amps / part.rated_a) ** 2
    cool = not limits or not isfinite(hot) or hot <= min(limits)
    if not judge.whole and amps <= most and cool:
        return
    options = cache(lambda: ranked(contacts_for(judge.shelf, one, stuff, share), stuff.area_mm2))
    yield judge.fit(
        one,
        part.id,
        "contact.current",
        amps <= most,
        {
            "amps": significant(amps),
            "most_a": significant(most),
            "percent": 100 * share if share < 1 else 0.0,
            "rated_a": part.rated_a,
        },
        amps,
        (None, share * part.rated_a),
        "A",
        options,
        source=part.source,
    )
    if limits and isfinite(hot):
        yield judge.fit(
            one,
            part.id,
            "contact.heat",
            cool,
            {"hot_c": hot, "limit_c": min(limits)},
            hot,
            (None, min(limits)),
            "°C",
            options,
            source=part.source,
        )


def clamp_runs(judge: Judging, one: WireEnd, stuff: Stuff) -> Iterator[Fit | None]:
    """What the wire’s current asks of a clamp."""
    clamp = clamp_of(judge.shelf, one)
    if clamp is None:
        return
    amps = judge.net_a.get((one.end.id, one.cavity.id), stuff.amps)
    if clamp.rated_a is not None:
        share = share_at(judge.fitted.share, one)
        yield judge.fit(
            one,
            clamp.id,
            "contact.current",
            amps <= share * clamp.rated_a * (1 + 1e-9),
            {"amps": significant(amps), "most_a": significant(share * clamp.rated_a)},
            amps,
            (None, share * clamp.rated_a),
            "A",
            source=clamp.source,
            form="clamp.current",
        )


def _nothing(*_: object) -> Iterator[Fit | None]:
    return iter(())


JUDGES: dict[str, Callable[[Judging, WireEnd, Stuff, Fitting, Any], Iterator[Fit | None]]] = {
    "contact": contact_made,
    "lug": lug_made,
    "splice": splice_made,
    "clamp": lambda judge, one, stuff, fitting, _: clamp_made(judge, one, stuff, fitting),
}
"""Who judges a part of each family by the wire it is on."""
RUNS: dict[str, Callable[[Judging, WireEnd, Stuff, Any], Iterator[Fit | None]]] = {
    "contact": contact_runs,
    "lug": lug_runs,
    "splice": _nothing,
    "clamp": lambda judge, one, stuff, _: clamp_runs(judge, one, stuff),
}
"""Who judges it by the solved current and temperature."""
