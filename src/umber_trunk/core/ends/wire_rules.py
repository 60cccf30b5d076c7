"""The rules at the end of a wire: barrel, wings, seal, clamp, stud, shrink, current, heat."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from math import isfinite
from typing import Any

import numpy as np

from umber_trunk.core.catalog.parts import Boot, Contact, Crimped, Ferrule, Housing, Lug, Seal, Shrink, Splice
from umber_trunk.core.ends.covering import needs_ferrule, share_at
from umber_trunk.core.ends.families import FAMILIES
from umber_trunk.core.ends.judging import CONTACT_RISE_K, FAULT, WARNING, Fit, Judging, Options
from umber_trunk.core.ends.reach import (
    STUD_SLACK_MM,
    Stuff,
    barrel_mm2,
    clamp_of,
    collar_takes,
    contacts_for,
    crimp_for,
    ferrules_for,
    hole_fits,
    is_folded,
    lugs_for,
    ranked,
    seals_for,
    shrinks_for,
    splices_for,
)
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.harness.model import Fitting
from umber_trunk.core.results import Results
from umber_trunk.core.units import significant


class WireRules(Judging):
    """Judges one end of one wire."""

    def __init__(self, results: Results, whole: bool = True) -> None:
        super().__init__(results, whole)
        self._others: dict[tuple[str, float, tuple[float, ...], float], str] = {}

    def made_right(self, one: WireEnd, stuff: Stuff, fitting: Fitting) -> Iterator[Fit | None]:
        """What follows from the parts and the wire alone, whatever current runs."""
        if one.housing is not None and one.place is None:
            yield self._fit(
                one,
                one.housing.id,
                "cavity.known",
                False,
                f"{one.housing.name} has no cavity {one.label}.",
                "Give it a cavity that the face has.",
            )
            return
        core = self.places.core(one.wire)
        if one.place is not None and one.place.role and core is not None and core.role:
            ok = core.role == one.place.role
            yield self._fit(
                one,
                one.housing.id if one.housing else None,
                "cavity.role",
                ok,
                f"core {core.mark} for {core.role}" + ("." if ok else f" goes into the cavity for {one.place.role}."),
                "Swap the cores: by what they are for, not by colour.",
            )
        family = FAMILIES[one.made] if one.made is not None else None
        if family is not None and family.kind is None:
            yield from JUDGES[str(one.made)](self, one, stuff, fitting, None)
        else:
            part = self.shelf.named(fitting.part)
            if fitting.part is not None and part is None:
                yield self._unknown(one, fitting.part, "part")
            elif part is None:
                yield self._nothing_fits(one, stuff)
            elif family is not None and family.kind is not None and isinstance(part, family.kind):
                yield from JUDGES[str(one.made)](self, one, stuff, fitting, part)
            else:
                yield self._fit(
                    one,
                    part.id,
                    "part.kind",
                    False,
                    f"{part.name} doesn't belong there; it takes a {one.made}.",
                    f"Choose a {one.made}.",
                )
        if one.housing is not None:
            yield from self._tight(one, stuff, fitting, one.housing)
        yield from self._boot(one, stuff, fitting)

    def _nothing_fits(self, one: WireEnd, stuff: Stuff) -> Fit | None:
        """No part takes this wire: both ways out, a wire to suit the place and a place to suit the wire."""
        share = share_at(self.fitted.share, one)
        candidates = self._candidates(one)
        bands = [part.area_mm2 for part in candidates]
        takes = sorted({band.high for band in bands})
        strong = [
            part.area_mm2
            for part in candidates
            if not isinstance(part, Contact | Lug) or part.rated_a is None or stuff.amps <= share * part.rated_a
        ]
        ways = []
        if not strong and candidates:
            ways.append(FAMILIES[one.made or "splice"].splits)
        elif any(band.holds(stuff.area_mm2) for band in strong):
            ways.append("take a wire with an outside that fits")
        elif larger := [band.low for band in strong if band.low > stuff.area_mm2]:
            ways.append(f"go up to {min(larger):g} mm²")
        elif strong:
            ways.append(f"go down to {max(band.high for band in strong):g} mm², if its figures hold")
        if one.housing is not None:
            other = self._other_housing(one.housing, stuff)
            ways.append(
                f"choose another housing, such as {other}" if other else "choose another housing, or import its sheet"
            )
        else:
            ways.append("choose another stud, or import a sheet")
        outside, told = " and ".join(f"{significant(mm)} mm" for mm in stuff.each_mm), ", or ".join(ways)
        return self._fit(
            one,
            None,
            "part.fits",
            False,
            f"no {one.made} on the shelf takes {significant(stuff.area_mm2)} mm², {outside} outside, at "
            f"{significant(stuff.amps)} A.",
            f"{told[0].upper()}{told[1:]}.",
            stuff.area_mm2,
            (min((band.low for band in bands), default=None), takes[-1] if takes else None),
            "mm²",
        )

    def _candidates(self, one: WireEnd) -> list[Crimped]:
        there = FAMILIES[one.made].there(self.shelf, one) if one.made is not None else None
        return list(self.shelf.of(Splice) if there is None else there)

    def _splice(self, one: WireEnd, stuff: Stuff, _: Fitting, part: Splice) -> Iterator[Fit | None]:
        yield from self._barrel(
            one, stuff, part, lambda: ranked(splices_for(self.shelf, stuff, part.form), stuff.area_mm2)
        )

    def _other_housing(self, here: Housing, stuff: Stuff) -> str:
        """The smallest housing of another kind with contacts for this wire, sealed if this one is; "" where there is
        none."""
        key = (here.id, round(stuff.area_mm2, 3), stuff.each_mm, round(stuff.amps, 2))
        if key not in self._others:
            fitting = [
                housing
                for housing in self.shelf.of(Housing)
                if housing.id != here.id
                and housing.form == here.form
                and len(housing.cavities) >= len(here.cavities)
                and (housing.seal != "none") == (here.seal != "none")
                and self._has_contact(housing, stuff)
            ]
            first = min(fitting, key=lambda one: (len(one.cavities), one.name), default=None)
            self._others[key] = first.name if first is not None else ""
        return self._others[key]

    def _has_contact(self, housing: Housing, stuff: Stuff) -> bool:
        return any(
            part.area_mm2.holds(stuff.area_mm2)
            and (part.rated_a is None or stuff.amps <= part.rated_a)
            and all(part.insulation_mm is None or part.insulation_mm.holds(mm) for mm in stuff.each_mm)
            for size in {cavity.size for cavity in housing.cavities}
            for part in self.shelf.contacts(housing.family, size, housing.contacts)
        )

    def _barrel(self, one: WireEnd, stuff: Stuff, part: Crimped, options: Options) -> Iterator[Fit | None]:
        many = len(stuff.each_mm) if one.made != "lug" else 1
        what = "conductor" if many == 1 else f"{many} conductors, together"
        folded = self.practice.thin == "fold" and many == 1
        plain = barrel_mm2(part, stuff)
        double = is_folded(one, self.practice, stuff)
        area = plain * (2 if double else 1)
        may = folded and not one.fitting.folded and part.area_mm2.holds(2 * plain)
        cure = "Choose the part for this area, or a wire to suit."
        yield self._within(
            one,
            part,
            "barrel.area",
            part.area_mm2,
            area,
            "mm²",
            f"{what} folded double" if area > plain else what,
            f"{cure} Folding it double, recorded, would fill it." if may else cure,
            options,
            WARNING if may else FAULT,
        )
        if part.crimps:
            near = crimp_for(part, plain, double)
            die = f" in die {part.die}" if part.die else ""
            yield self._fit(
                one,
                part.id,
                "tool.die",
                near is not None,
                f"crimped to {near.height_mm:g} ± {near.plus_minus_mm:g} mm{die}."
                if near is not None
                else f"its sheet has no crimp for {significant(area)} mm².",
                "Ask its maker for the setting, or choose another part.",
                area,
                (part.crimps[0].area_mm2, part.crimps[-1].area_mm2),
                "mm²",
                options,
                source=part.source,
            )
        if many > 1 and one.made == "contact" and self.practice.sharing == "never":
            yield self._fit(
                one,
                part.id,
                "contact.shared",
                False,
                f"{many} wires share a contact; this house doesn't do that.",
                "Join them in a splice and bring one wire.",
                float(many),
                (None, 1.0),
                "wires",
            )

    def _contact(self, one: WireEnd, stuff: Stuff, fitting: Fitting, part: Contact) -> Iterator[Fit | None]:
        housing, place = one.housing, one.place
        share = share_at(self.fitted.share, one)
        options = cache(lambda: ranked(contacts_for(self.shelf, one, stuff, share), stuff.area_mm2))
        if housing is not None and place is not None:
            ok = part.size == place.size and part.family == housing.family
            yield self._fit(
                one,
                part.id,
                "cavity.size",
                ok,
                f"{part.name} clips into the cavity."
                if ok
                else f"{part.name} ({part.family} {part.size}) doesn't clip into a cavity for {housing.family} "
                f"{place.size}.",
                "Choose a contact of this family and size.",
                options=options,
            )
            ok = part.gender == housing.contacts
            yield self._fit(
                one,
                part.id,
                "contact.gender",
                ok,
                f"{part.gender} in a {housing.form} for {housing.contacts}s.",
                f"Use a {housing.contacts}.",
                options=options,
            )
        yield from self._barrel(one, stuff, part, options)
        if part.insulation_mm is not None:
            for mm in sorted(set(stuff.each_mm)):
                off = self.practice.wings == "remove" and mm > part.insulation_mm.high
                how = "the right contact; taking the wings off is a recorded deviation" if off else "the right contact"
                yield self._within(
                    one,
                    part,
                    "wings.insulation",
                    part.insulation_mm,
                    mm,
                    "mm",
                    "insulation",
                    f"Choose {how}.",
                    options,
                    WARNING if off else FAULT,
                )

    def _boot(self, one: WireEnd, stuff: Stuff, fitting: Fitting) -> Iterator[Fit | None]:
        boot = self.shelf.get(fitting.boot, Boot)
        if fitting.boot is not None and boot is None:
            yield self._unknown(one, fitting.boot, "boot")
        if boot is not None:
            fits = (part.id for part in self.shelf.of(Boot) if part.wire_mm.holds(stuff.each_mm[0]))
            yield self._within(
                one,
                boot,
                "boot.wire",
                boot.wire_mm,
                stuff.each_mm[0],
                "mm",
                "wire",
                "A boot for this outside.",
                lambda: tuple(fits),
            )

    def _tight(self, one: WireEnd, stuff: Stuff, fitting: Fitting, housing: Housing) -> Iterator[Fit | None]:
        zone = self.index.zones.get(one.end.zone or "")
        if housing.seal == "none" and zone is not None and zone.wet:
            yield self._fit(
                one,
                housing.id,
                "zone.wet",
                False,
                f"{housing.name} isn't sealed and sits in the wet ({zone.name}).",
                "Choose a sealed housing.",
                severity=WARNING,
            )
        if housing.seal == "wire seals":
            seal = self.shelf.get(fitting.seal, Seal)
            options = cache(lambda: ranked(seals_for(self.shelf, one, stuff), stuff.each_mm[0]))
            if len(stuff.each_mm) > 1:
                yield self._fit(
                    one,
                    fitting.seal,
                    "seal.insulation",
                    False,
                    f"{len(stuff.each_mm)} wires through one seal let the water in.",
                    "Join them in a sealed splice and bring one wire.",
                    float(len(stuff.each_mm)),
                    (None, 1.0),
                    "wires",
                )
            elif fitting.seal is not None and seal is None:
                yield self._unknown(one, fitting.seal, "seal")
            elif seal is None:
                bands = [
                    part.wire_mm
                    for part in self.shelf.of(Seal)
                    if one.place and part.size == one.place.size and part.family == housing.family
                ]
                yield self._fit(
                    one,
                    None,
                    "seal.insulation",
                    False,
                    f"no seal is tight on {significant(stuff.each_mm[0])} mm.",
                    "A wire with an outside that a seal takes, or another housing.",
                    stuff.each_mm[0],
                    (min((b.low for b in bands), default=None), max((b.high for b in bands), default=None)),
                    "mm",
                )
            else:
                ok = one.place is not None and seal.size == one.place.size and seal.family == housing.family
                if not ok:
                    yield self._fit(
                        one,
                        seal.id,
                        "seal.size",
                        False,
                        f"{seal.name} isn't for this cavity.",
                        "Choose its seal.",
                        options=options,
                    )
                yield self._within(
                    one,
                    seal,
                    "seal.insulation",
                    seal.wire_mm,
                    stuff.each_mm[0],
                    "mm",
                    "insulation",
                    "Choose the seal for this outside.",
                    options,
                )
        elif housing.seal == "grommet" and housing.wire_mm is not None:
            for mm in sorted(set(stuff.each_mm)):
                yield self._within(
                    one,
                    housing,
                    "grommet.insulation",
                    housing.wire_mm,
                    mm,
                    "mm",
                    "insulation",
                    "A wire that fills the bore, or another housing.",
                    tuple,
                )
            if len(stuff.each_mm) > 1:
                yield self._fit(
                    one,
                    housing.id,
                    "grommet.single",
                    False,
                    f"{len(stuff.each_mm)} wires through one bore let the water in.",
                    "Join them in a sealed splice and bring one wire.",
                    float(len(stuff.each_mm)),
                    (None, 1.0),
                    "wires",
                )

    def _clamp(self, one: WireEnd, stuff: Stuff, fitting: Fitting) -> Iterator[Fit | None]:
        clamp = clamp_of(self.shelf, one)
        if clamp is None:
            yield self._unknown(one, one.housing.clamp or "" if one.housing else "", "clamp")
            return
        yield self._within(
            one,
            clamp,
            "clamp.area",
            clamp.area_mm2,
            stuff.area_mm2,
            "mm²",
            "conductor",
            "A wire that fits, or another connector.",
            tuple,
        )
        ferrule = self.shelf.get(fitting.ferrule, Ferrule)
        options = cache(lambda: ranked(ferrules_for(self.shelf, stuff), stuff.area_mm2))
        if fitting.ferrule is not None and ferrule is None:
            yield self._unknown(one, fitting.ferrule, "ferrule")
        elif ferrule is not None:
            yield self._within(
                one,
                ferrule,
                "ferrule.area",
                ferrule.area_mm2,
                stuff.area_mm2,
                "mm²",
                "conductor",
                "Choose the ferrule for this area.",
                options,
            )
            thick, many = max(stuff.each_mm, default=0.0), len(stuff.each_mm)
            yield self._fit(
                one,
                ferrule.id,
                "ferrule.collar",
                collar_takes(ferrule, stuff),
                f"{many} × {significant(thick)} mm of insulation; the collar takes {'two' if ferrule.twin else 'one'} "
                f"up to {ferrule.collar_mm:g} mm.",
                "A ferrule with a wider collar, a twin one for two wires, or a splice before the clamp.",
                thick,
                (0.0, ferrule.collar_mm),
                "mm",
                options,
                source=ferrule.source,
            )
        elif needs_ferrule(self.practice.ferrules, clamp.fine, stuff.fine):
            yield self._fit(
                one,
                None,
                "clamp.ferrule",
                False,
                "fine strands go into a screw clamp bare.",
                "Put a ferrule on, or set the house practice to bare strands.",
                options=options,
                severity=WARNING,
            )

    def _lug(self, one: WireEnd, stuff: Stuff, fitting: Fitting, part: Lug) -> Iterator[Fit | None]:
        options = cache(lambda: ranked(lugs_for(self.shelf, one, stuff), stuff.area_mm2))
        if one.end.stud_mm:
            ok = hole_fits(part, one.end.stud_mm)
            yield self._fit(
                one,
                part.id,
                "stud.hole",
                ok,
                f"stud {one.end.stud_mm:g} mm, lug for {part.stud_mm:g} mm.",
                "Choose the lug for this stud; never drill it up.",
                one.end.stud_mm,
                (part.stud_mm - STUD_SLACK_MM, part.stud_mm),
                "mm",
                options,
                source=part.source,
            )
        yield from self._barrel(one, stuff, part, options)
        if part.insulation_mm is not None:
            yield self._within(
                one,
                part,
                "wings.insulation",
                part.insulation_mm,
                stuff.each_mm[0],
                "mm",
                "insulation",
                "Choose the lug for this outside.",
                options,
            )
        yield from self._shrink(one, stuff, fitting, part)

    def _shrink(self, one: WireEnd, stuff: Stuff, fitting: Fitting, lug: Lug) -> Iterator[Fit | None]:
        shrink = self.shelf.get(fitting.shrink, Shrink)
        if fitting.shrink is not None and shrink is None:
            yield self._unknown(one, fitting.shrink, "shrink")
        if shrink is None:
            return
        outer = stuff.each_mm[0]
        options = cache(
            lambda: tuple(
                part.id for part in sorted(shrinks_for(self.shelf, lug, outer, False), key=lambda p: p.supplied_mm)[:4]
            )
        )
        widest, least = max(outer, lug.barrel_od_mm), min(outer, lug.barrel_od_mm)
        yield self._fit(
            one,
            shrink.id,
            "shrink.passes",
            shrink.supplied_mm > widest,
            f"shrink of {shrink.supplied_mm:g} mm has to pass over {significant(widest)} mm.",
            "A wider shrink.",
            shrink.supplied_mm,
            (widest, None),
            "mm",
            options,
            source=shrink.source,
        )
        yield self._fit(
            one,
            shrink.id,
            "shrink.grips",
            shrink.recovered_mm < least,
            f"shrink recovers to {shrink.recovered_mm:g} mm and has to grip {significant(least)} mm.",
            "A shrink of a higher ratio.",
            shrink.recovered_mm,
            (None, least),
            "mm",
            options,
            source=shrink.source,
        )
        covered = shrink_on(lug, shrink, outer)[0]
        yield self._fit(
            one,
            shrink.id,
            "shrink.clear",
            covered <= lug.barrel_mm,
            f"covers {significant(covered)} mm of a {lug.barrel_mm:g} mm barrel: the flat stays bare.",
            "Cut it shorter: nothing may lie under the flat that bolts down.",
            covered,
            (None, lug.barrel_mm),
            "mm",
        )

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

    def _contact_runs(self, one: WireEnd, stuff: Stuff, part: Contact) -> Iterator[Fit | None]:
        if part.barrel == "solder":
            most = self.practice.solder_most_a
            ok = self.practice.instead == "sleeved" and stuff.amps <= most * (1 + 1e-9)
            yield self._fit(
                one,
                part.id,
                "contact.soldered",
                ok,
                f"soldered in place of a crimp at {significant(stuff.amps)} A."
                if ok
                else f"soldered in place of a crimp at {significant(stuff.amps)} A; this house doesn’t"
                + (f" above {most:g} A." if self.practice.instead == "sleeved" else "."),
                "A crimped contact, or the house practice for small currents.",
                severity=WARNING,
            )
        if part.rated_a is None:
            return
        housing = one.housing
        share = share_at(self.fitted.share, one)
        amps = self.net_a.get((one.end.id, one.cavity.id), stuff.amps)
        most = share * part.rated_a * (1 + 1e-9)
        limits = [limit for limit in (part.limit_c, housing.limit_c if housing else None) if limit is not None]
        hot = self.results.figures.wires[one.wire.id].conductor_c + CONTACT_RISE_K * (amps / part.rated_a) ** 2
        cool = not limits or not isfinite(hot) or hot <= min(limits)
        if not self.whole and amps <= most and cool:
            return
        options = cache(lambda: ranked(contacts_for(self.shelf, one, stuff, share), stuff.area_mm2))
        less = f", {100 * share:.0f} % of {part.rated_a:g} A with so many cavities loaded" if share < 1 else ""
        yield self._fit(
            one,
            part.id,
            "contact.current",
            amps <= most,
            f"carries {significant(amps)} A; stands {significant(most)} A{less}.",
            "A larger contact, two cavities side by side, or fewer loaded cavities.",
            amps,
            (None, share * part.rated_a),
            "A",
            options,
            source=part.source,
        )
        if limits and isfinite(hot):
            yield self._fit(
                one,
                part.id,
                "contact.heat",
                cool,
                f"gets to {hot:.0f} °C on its wire; stands {min(limits):g} °C.",
                "A thicker wire, a larger contact, or a hotter family.",
                hot,
                (None, min(limits)),
                "°C",
                options,
                source=part.source,
            )

    def _clamp_runs(self, one: WireEnd, stuff: Stuff) -> Iterator[Fit | None]:
        clamp = clamp_of(self.shelf, one)
        if clamp is None:
            return
        amps = self.net_a.get((one.end.id, one.cavity.id), stuff.amps)
        if clamp.rated_a is not None:
            share = share_at(self.fitted.share, one)
            yield self._fit(
                one,
                clamp.id,
                "contact.current",
                amps <= share * clamp.rated_a * (1 + 1e-9),
                f"carries {significant(amps)} A; the clamp stands {significant(share * clamp.rated_a)} A.",
                "A larger connector, or split the circuit.",
                amps,
                (None, share * clamp.rated_a),
                "A",
                source=clamp.source,
            )

    def _lug_runs(self, one: WireEnd, stuff: Stuff, part: Lug) -> Iterator[Fit | None]:
        options = cache(lambda: ranked(lugs_for(self.shelf, one, stuff), stuff.area_mm2))
        if part.rated_a is not None:
            yield self._fit(
                one,
                part.id,
                "contact.current",
                stuff.amps <= part.rated_a,
                f"carries {significant(stuff.amps)} A; the lug stands {part.rated_a:g} A.",
                "A larger lug.",
                stuff.amps,
                (None, part.rated_a),
                "A",
                options,
                source=part.source,
            )
        wire_c = self.results.figures.wires[one.wire.id].conductor_c
        if part.limit_c is not None and np.isfinite(wire_c):
            yield self._fit(
                one,
                part.id,
                "contact.heat",
                wire_c <= part.limit_c,
                f"sits on a wire of {wire_c:.0f} °C; stands {part.limit_c:g} °C.",
                "A thicker wire, or a lug without plastic.",
                float(wire_c),
                (None, part.limit_c),
                "°C",
                options,
                source=part.source,
            )


def shrink_on(lug: Lug, shrink: Shrink, outer_mm: float) -> tuple[float, float, float]:
    """(mm of barrel covered, mm of insulation covered, length to cut) of shrink on a lug: the whole barrel and one and
    a half times the wire's outside, at least 12 mm, over its insulation; it shortens as it recovers."""
    over = max(12.0, 1.5 * outer_mm)
    return lug.barrel_mm, over, (lug.barrel_mm + over) / (1 - shrink.shortens)


def _nothing(*_: object) -> Iterator[Fit | None]:
    return iter(())


JUDGES: dict[str, Callable[[WireRules, WireEnd, Stuff, Fitting, Any], Iterator[Fit | None]]] = {
    "contact": WireRules._contact,
    "lug": WireRules._lug,
    "splice": WireRules._splice,
    "clamp": lambda rules, one, stuff, fitting, _: rules._clamp(one, stuff, fitting),
}
"""Who judges a part of each family by the wire it is on."""
RUNS: dict[str, Callable[[WireRules, WireEnd, Stuff, Any], Iterator[Fit | None]]] = {
    "contact": WireRules._contact_runs,
    "lug": WireRules._lug_runs,
    "splice": _nothing,
    "clamp": lambda rules, one, stuff, _: rules._clamp_runs(one, stuff),
}
"""Who judges it by the solved current and temperature."""
