"""Every fit of every end judged: what was asked, what it is, between what it has to be, and what would mend it.

A rule is judged only where both figures are known: what a sheet leaves out is not called fine.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import inf
from typing import Any

import numpy as np

from umber_trunk.core.catalog.parts import Between, Clamp, Contact, Crimped, Ferrule, Housing, Lug, Seal, Shrink, Splice
from umber_trunk.core.ends.covering import Fitted, fitted, needs_ferrule
from umber_trunk.core.ends.reach import (
    Stuff,
    blank_for,
    clamp_of,
    contacts_for,
    ferrules_for,
    has_die,
    hole_fits,
    lugs_for,
    ranked,
    seals_for,
    shrinks_for,
    splices_for,
)  # fmt: skip
from umber_trunk.core.ends.wire_ends import Places, WireEnd, places_of
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import End, Fitting
from umber_trunk.core.harness.model import Housing as Body
from umber_trunk.core.results import Results
from umber_trunk.core.units import significant

FAULT, WARNING, NOTE = Severity.FAULT, Severity.WARNING, Severity.NOTE
CONTACT_RISE_K = 30.0
"""Rise that a contact's rated current stands for; it goes with the square of the current (IEC 60512-5-2 as usually read)."""
MOST_ON_A_STUD = 4
"""Terminals on one stud at most (ABYC E-11)."""
BEND_TIMES = 4.0
"""Least bend radius of a wire over its outside where a housing's sheet gives no room."""
TORQUE_NM = {4: 1.2, 5: 2.5, 6: 4.5, 8: 11.0, 10: 22.0, 12: 38.0}
"""Usual torque of a steel stud by its thread; the maker's sheet wins."""


@dataclass(frozen=True)
class Fit:
    """One rule at one place. `value` has to lie from `low` to `high`, either None where that side is open; with both None
    `ok` alone says it. `options` are the ids of parts that would do, the best first."""

    end: str
    cavity: str
    wire: str
    part: str
    rule: str
    ok: bool
    value: float | None
    low: float | None
    high: float | None
    unit: str
    message: str
    cure: str = ""
    options: tuple[str, ...] = ()
    severity: Severity = FAULT
    proposed: bool = False
    source: str = ""

    @property
    def id(self) -> str:
        """Where it is and what was asked."""
        return f"{self.end} {self.cavity} {self.wire} {self.rule}"

    @property
    def off(self) -> float:
        """By how much the value is outside, 0 inside."""
        if self.value is None:
            return 0.0
        return max(
            self.value - (inf if self.high is None else self.high),
            (-inf if self.low is None else self.low) - self.value,
            0.0,
        )


def fits(results: Results) -> list[Fit]:
    """Every fit of a design, in the order of its wires; for `Results.once`."""
    return list(_Judge(results).all())


class _Judge:
    def __init__(self, results: Results) -> None:
        self.results = results
        self.places: Places = places_of(results.design)
        self.shelf = self.places.shelf
        self.fitted: Fitted = results.once(fitted)
        self.practice = results.design.project.practice
        plant = results.figures.solution.plant
        self.row = plant.row
        self.plant = plant
        self.index = index_of(results.design)
        self.net_a = self._currents()

    def _currents(self) -> dict[tuple[str, str], float]:
        """Cavity → the most that passes through its contact in any case: the sum, with signs, of the wires in it."""
        found: dict[tuple[str, str], float] = {}
        for case in self.results.figures.solution.cases:
            amps = case.wire_a.tolist()
            here: dict[tuple[str, str], float] = {}
            for wire, current in zip(self.plant.wires, amps, strict=True):
                for pin, sign in ((wire.start, -1.0), (wire.finish, 1.0)):
                    here[pin.end, pin.cavity] = here.get((pin.end, pin.cavity), 0.0) + sign * current
            for key, value in here.items():
                found[key] = max(found.get(key, 0.0), abs(value))
        return found

    def all(self) -> Iterator[Fit]:
        done: set[tuple[str, str]] = set()
        for one in self.places.ends:
            stuff = self.fitted.stuff.get(one.key)
            if one.body is not None and one.body.part and one.housing is None and (one.end.id, one.body.id) not in done:
                done.add((one.end.id, one.body.id))
                yield self._unknown(one, one.body.part, "housing")
            if one.made is None or stuff is None:
                continue
            yield from self._wire_end(one, stuff)
        for end, body, housing in self.places.housings():
            yield from self._housing(end, body, housing)
        yield from self._studs()
        yield from self._pairs()
        yield from self._weakest()

    def _fit(
        self, one: WireEnd, part: str | None, rule: str, ok: bool, message: str, cure: str = "", value: float | None = None,
        band: tuple[float | None, float | None] = (None, None), unit: str = "", options: tuple[str, ...] = (),
        severity: Severity = FAULT, source: str = "",
    ) -> Fit:  # fmt: skip
        chosen = one.fitting
        proposed = part is not None and part in {self.fitted.of(one).part, self.fitted.of(one).seal, self.fitted.of(one).ferrule, self.fitted.of(one).shrink} - {
            chosen.part, chosen.seal, chosen.ferrule, chosen.shrink
        }  # fmt: skip
        return Fit(
            one.end.id, one.label, one.wire.id, part or "", rule, ok, value, *band, unit, f"{one.name}, {one.wire.id}: {message}",
            "" if ok else cure, () if ok else options, severity, proposed, source,
        )  # fmt: skip

    def _unknown(self, one: WireEnd, part: str, what: str) -> Fit:
        return self._fit(
            one,
            part,
            "part.known",
            False,
            f"no catalogue has the {what} “{part}”.",
            "Choose another, or import its sheet.",
        )

    def _within(
        self, one: WireEnd, part: Crimped | Seal | Clamp | Housing, rule: str, band: Between, value: float, unit: str, what: str, cure: str, options: tuple[str, ...]
    ) -> Fit:  # fmt: skip
        ok = band.holds(value)
        word = "" if ok else " too thick" if value > band.high else " too thin"
        message = f"{what} {significant(value)} {unit}{word}; {part.name} takes {band.low:g} to {band.high:g} {unit}."
        return self._fit(
            one, part.id, rule, ok, message, cure, value, (band.low, band.high), unit, options, source=part.source
        )

    def _wire_end(self, one: WireEnd, stuff: Stuff) -> Iterator[Fit]:
        fitting = self.fitted.of(one)
        if one.housing is not None and one.place is None:
            yield self._fit(
                one, one.housing.id, "cavity.known", False, f"{one.housing.name} has no cavity {one.label}.", "Give it a cavity that the face has.",
            )  # fmt: skip
            return
        core = self.places.core(one.wire)
        if one.place is not None and one.place.role and core is not None and core.role:
            ok = core.role == one.place.role
            yield self._fit(
                one, one.housing.id if one.housing else None, "cavity.role", ok,
                f"core {core.mark} for {core.role}" + ("." if ok else f" goes into the cavity for {one.place.role}."), "Swap the cores: by what they are for, not by colour.",
            )  # fmt: skip
        if one.made == "clamp":
            yield from self._clamp(one, stuff, fitting)
        else:
            part = self.shelf.named(fitting.part)
            if fitting.part is not None and part is None:
                yield self._unknown(one, fitting.part, "part")
            elif part is None:
                yield self._nothing_fits(one, stuff)
            elif isinstance(part, Contact) and one.made == "contact":
                yield from self._contact(one, stuff, fitting, part)
            elif isinstance(part, Lug) and one.made == "lug":
                yield from self._lug(one, stuff, fitting, part)
            elif isinstance(part, Splice) and one.made == "splice":
                yield from self._barrel(
                    one, stuff, part, ranked(splices_for(self.shelf, stuff, part.form), stuff.area_mm2)
                )
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

    def _nothing_fits(self, one: WireEnd, stuff: Stuff) -> Fit:
        """No part takes this wire: both ways out, a wire to suit the place and a place to suit the wire."""
        bands = [part.area_mm2 for part in self._candidates(one)]
        takes = sorted({band.high for band in bands})
        smaller = [area for area in takes if area < stuff.area_mm2]
        larger_from = min((band.low for band in bands if band.low > stuff.area_mm2), default=None)
        ways = []
        if takes and smaller:
            ways.append(f"go down to {smaller[-1]:g} mm²")
        elif larger_from is not None:
            ways.append(f"go up to {larger_from:g} mm²")
        else:
            ways.append("take a wire with an outside that fits")
        if one.housing is not None:
            larger = sorted({h.name for h in self._other_housings(one, stuff)})
            ways.append(
                f"choose another housing, such as {larger[0]}"
                if larger
                else "choose another housing, or import its sheet"
            )
        else:
            ways.append("choose another stud, or import a sheet")
        outside = " and ".join(f"{significant(mm)} mm" for mm in stuff.each_mm)
        return self._fit(
            one, None, "part.fits", False,
            f"no {one.made} on the shelf takes {significant(stuff.area_mm2)} mm², {outside} outside, at {significant(stuff.amps)} A.",
            f"{ways[0][0].upper()}{ways[0][1:]}, or {ways[1]}.", stuff.area_mm2, (min((band.low for band in bands), default=None), takes[-1] if takes else None), "mm²",
        )  # fmt: skip

    def _candidates(self, one: WireEnd) -> list[Crimped]:
        if one.made == "contact" and one.housing is not None and one.place is not None:
            place, housing = one.place, one.housing
            return [
                p
                for p in self.shelf.of(Contact)
                if p.size == place.size and p.family == housing.family and p.gender == housing.contacts
            ]
        if one.made == "lug":
            return [lug for lug in self.shelf.of(Lug) if hole_fits(lug, one.end.stud_mm)]
        return list(self.shelf.of(Splice))

    def _other_housings(self, one: WireEnd, stuff: Stuff) -> Iterator[Housing]:
        assert one.housing is not None
        for housing in self.shelf.of(Housing):
            if (
                len(housing.cavities) < len(one.housing.cavities)
                or housing.form != one.housing.form
                or housing.contacts == "clamp"
            ):
                continue
            sizes = {cavity.size for cavity in housing.cavities}
            if any(
                part.size in sizes and part.family == housing.family and part.gender == housing.contacts and part.area_mm2.holds(stuff.area_mm2)
                and all(part.insulation_mm is None or part.insulation_mm.holds(mm) for mm in stuff.each_mm)
                for part in self.shelf.of(Contact)
            ) and (housing.seal != "none") == (one.housing.seal != "none"):  # fmt: skip
                yield housing

    def _barrel(self, one: WireEnd, stuff: Stuff, part: Crimped, options: tuple[str, ...]) -> Iterator[Fit]:
        many = len(stuff.each_mm) if one.made != "lug" else 1
        what = "conductor" if many == 1 else f"{many} conductors, together"
        yield self._within(
            one, part, "barrel.area", part.area_mm2, stuff.area_mm2, "mm²", what,
            "Choose the part for this area, or a wire to suit." + (" Folding it double is a recorded deviation." if stuff.area_mm2 < part.area_mm2.low and self.practice.thin == "fold" else ""),
            options,
        )  # fmt: skip
        if part.crimps:
            near = min(part.crimps, key=lambda row: abs(row.area_mm2 - stuff.area_mm2))
            ok = has_die(part, stuff.area_mm2)
            die = f" in die {part.die}" if part.die else ""
            yield self._fit(
                one, part.id, "tool.die", ok,
                f"crimped to {near.height_mm:g} ± {near.plus_minus_mm:g} mm{die}." if ok else f"its sheet has no crimp for {significant(stuff.area_mm2)} mm².",
                "Ask its maker for the setting, or choose another part.", stuff.area_mm2, (part.crimps[0].area_mm2, part.crimps[-1].area_mm2), "mm²", options,
                source=part.source,
            )  # fmt: skip
        if many > 1 and one.made == "contact" and self.practice.sharing == "never":
            yield self._fit(
                one, part.id, "contact.shared", False, f"{many} wires share a contact; this house doesn't do that.", "Join them in a splice and bring one wire.",
                float(many), (None, 1.0), "wires",
            )  # fmt: skip

    def _contact(self, one: WireEnd, stuff: Stuff, fitting: Fitting, part: Contact) -> Iterator[Fit]:
        housing, place = one.housing, one.place
        share = self.fitted.share.get((one.end.id, one.body.id), 1.0) if one.body else 1.0
        options = ranked(contacts_for(self.shelf, one, stuff, share), stuff.area_mm2)
        if housing is not None and place is not None:
            ok = part.size == place.size and part.family == housing.family
            yield self._fit(
                one, part.id, "cavity.size", ok,
                f"{part.name} clips into the cavity." if ok else f"{part.name} ({part.family} {part.size}) doesn't clip into a cavity for {housing.family} {place.size}.",
                "Choose a contact of this family and size.", options=options,
            )  # fmt: skip
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
                how = (
                    "the right contact"
                    if self.practice.wings == "contact"
                    else "the right contact; taking the wings off is a recorded deviation"
                )
                yield self._within(
                    one, part, "wings.insulation", part.insulation_mm, mm, "mm", "insulation", f"Choose {how}.", options
                )
        amps = self.net_a.get((one.end.id, one.cavity.id), stuff.amps) / (
            one.wire.parallel if len(stuff.each_mm) == 1 else 1
        )
        if part.rated_a is not None:
            most = share * part.rated_a
            less = f", {100 * share:.0f} % of {part.rated_a:g} A with so many cavities loaded" if share < 1 else ""
            yield self._fit(
                one, part.id, "contact.current", amps <= most * (1 + 1e-9), f"carries {significant(amps)} A; stands {significant(most)} A{less}.",
                "A larger contact, two cavities side by side, or fewer loaded cavities.", amps, (None, most), "A", options, source=part.source,
            )  # fmt: skip
            limits = [limit for limit in (part.limit_c, housing.limit_c if housing else None) if limit is not None]
            wire_c = self.results.figures.wires[one.wire.id].conductor_c
            if limits and np.isfinite(wire_c):
                hot = wire_c + CONTACT_RISE_K * (amps / part.rated_a) ** 2
                yield self._fit(
                    one, part.id, "contact.heat", hot <= min(limits), f"gets to {hot:.0f} °C on its wire; stands {min(limits):g} °C.",
                    "A thicker wire, a larger contact, or a hotter family.", hot, (None, min(limits)), "°C", options, source=part.source,
                )  # fmt: skip

    def _tight(self, one: WireEnd, stuff: Stuff, fitting: Fitting, housing: Housing) -> Iterator[Fit]:
        zone = self.index.zones.get(one.end.zone or "")
        if housing.seal == "none" and zone is not None and zone.wet:
            yield self._fit(
                one, housing.id, "zone.wet", False, f"{housing.name} isn't sealed and sits in the wet ({zone.name}).", "Choose a sealed housing.", severity=WARNING,
            )  # fmt: skip
        if housing.seal == "wire seals":
            seal = self.shelf.get(fitting.seal, Seal)
            options = ranked(seals_for(self.shelf, one, stuff), stuff.each_mm[0])
            if len(stuff.each_mm) > 1:
                yield self._fit(
                    one, fitting.seal, "seal.insulation", False, f"{len(stuff.each_mm)} wires through one seal let the water in.", "Join them in a sealed splice and bring one wire.",
                    float(len(stuff.each_mm)), (None, 1.0), "wires",
                )  # fmt: skip
            elif fitting.seal is not None and seal is None:
                yield self._unknown(one, fitting.seal, "seal")
            elif seal is None:
                bands = [
                    part.wire_mm
                    for part in self.shelf.of(Seal)
                    if one.place and part.size == one.place.size and part.family == housing.family
                ]
                yield self._fit(
                    one, None, "seal.insulation", False, f"no seal is tight on {significant(stuff.each_mm[0])} mm.", "A wire with an outside that a seal takes, or another housing.",
                    stuff.each_mm[0], (min((b.low for b in bands), default=None), max((b.high for b in bands), default=None)), "mm",
                )  # fmt: skip
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
                    (),
                )
            if len(stuff.each_mm) > 1:
                yield self._fit(
                    one, housing.id, "grommet.single", False, f"{len(stuff.each_mm)} wires through one bore let the water in.", "Join them in a sealed splice and bring one wire.",
                    float(len(stuff.each_mm)), (None, 1.0), "wires",
                )  # fmt: skip

    def _clamp(self, one: WireEnd, stuff: Stuff, fitting: Fitting) -> Iterator[Fit]:
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
            (),
        )
        ferrule = self.shelf.get(fitting.ferrule, Ferrule)
        options = ranked(ferrules_for(self.shelf, stuff), stuff.area_mm2)
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
        elif needs_ferrule(self.practice.ferrules, clamp.fine, stuff.fine):
            yield self._fit(
                one, None, "clamp.ferrule", False, "fine strands go into a screw clamp bare.", "Put a ferrule on, or set the house practice to bare strands.", options=options, severity=WARNING,
            )  # fmt: skip
        amps = self.net_a.get((one.end.id, one.cavity.id), stuff.amps)
        if clamp.rated_a is not None:
            share = self.fitted.share.get((one.end.id, one.body.id), 1.0) if one.body else 1.0
            yield self._fit(
                one, clamp.id, "contact.current", amps <= share * clamp.rated_a * (1 + 1e-9), f"carries {significant(amps)} A; the clamp stands {significant(share * clamp.rated_a)} A.",
                "A larger connector, or split the circuit.", amps, (None, share * clamp.rated_a), "A", source=clamp.source,
            )  # fmt: skip

    def _lug(self, one: WireEnd, stuff: Stuff, fitting: Fitting, part: Lug) -> Iterator[Fit]:
        options = ranked(lugs_for(self.shelf, one, stuff), stuff.area_mm2)
        if one.end.stud_mm:
            ok = hole_fits(part, one.end.stud_mm)
            yield self._fit(
                one, part.id, "stud.hole", ok, f"stud {one.end.stud_mm:g} mm, lug for {part.stud_mm:g} mm.", "Choose the lug for this stud; never drill it up.",
                one.end.stud_mm, (part.stud_mm - 1.6, part.stud_mm), "mm", options, source=part.source,
            )  # fmt: skip
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
        if part.rated_a is not None:
            yield self._fit(
                one, part.id, "contact.current", stuff.amps <= part.rated_a, f"carries {significant(stuff.amps)} A; the lug stands {part.rated_a:g} A.",
                "A larger lug.", stuff.amps, (None, part.rated_a), "A", options, source=part.source,
            )  # fmt: skip
        wire_c = self.results.figures.wires[one.wire.id].conductor_c
        if part.limit_c is not None and np.isfinite(wire_c):
            yield self._fit(
                one, part.id, "contact.heat", wire_c <= part.limit_c, f"sits on a wire of {wire_c:.0f} °C; stands {part.limit_c:g} °C.", "A thicker wire, or a lug without plastic.",
                float(wire_c), (None, part.limit_c), "°C", options, source=part.source,
            )  # fmt: skip
        yield from self._shrink(one, stuff, fitting, part)

    def _shrink(self, one: WireEnd, stuff: Stuff, fitting: Fitting, lug: Lug) -> Iterator[Fit]:
        shrink = self.shelf.get(fitting.shrink, Shrink)
        if fitting.shrink is not None and shrink is None:
            yield self._unknown(one, fitting.shrink, "shrink")
        if shrink is None:
            return
        outer = stuff.each_mm[0]
        options = tuple(
            part.id for part in sorted(shrinks_for(self.shelf, lug, outer, False), key=lambda p: p.supplied_mm)[:4]
        )
        widest, least = max(outer, lug.barrel_od_mm), min(outer, lug.barrel_od_mm)
        yield self._fit(
            one, shrink.id, "shrink.passes", shrink.supplied_mm > widest, f"shrink of {shrink.supplied_mm:g} mm has to pass over {significant(widest)} mm.", "A wider shrink.",
            shrink.supplied_mm, (widest, None), "mm", options, source=shrink.source,
        )  # fmt: skip
        yield self._fit(
            one, shrink.id, "shrink.grips", shrink.recovered_mm < least, f"shrink recovers to {shrink.recovered_mm:g} mm and has to grip {significant(least)} mm.",
            "A shrink of a higher ratio.", shrink.recovered_mm, (None, least), "mm", options, source=shrink.source,
        )  # fmt: skip
        covered = shrink_on(lug, shrink, outer)[0]
        yield self._fit(
            one, shrink.id, "shrink.clear", covered <= lug.barrel_mm, f"covers {significant(covered)} mm of a {lug.barrel_mm:g} mm barrel: the flat stays bare.",
            "Cut it shorter: nothing may lie under the flat that bolts down.", covered, (None, lug.barrel_mm), "mm",
        )  # fmt: skip

    def _of_housing(
        self, end: End, label: str, part: str, rule: str, ok: bool, message: str, cure: str, **more: Any
    ) -> Fit:
        plain: dict[str, Any] = {"value": None, "low": None, "high": None, "unit": ""} | more
        return Fit(
            end.id,
            label,
            "",
            part,
            rule,
            ok,
            message=f"{end.name}{' ' + label if label else ''}: {message}",
            cure="" if ok else cure,
            **plain,
        )

    def _housing(self, end: End, body: Body, housing: Housing) -> Iterator[Fit]:
        loaded = self.places.loaded(end, body)
        if housing.seal in ("wire seals", "grommet"):
            blank, closed = blank_for(self.shelf, housing), self.fitted.blanks.get((end.id, body.id), ())
            for place in housing.cavities:
                if place.label in loaded:
                    if body.blanks and place.label in body.blanks:
                        yield self._of_housing(
                            end,
                            place.label,
                            housing.plug or "",
                            "cavity.plugged",
                            False,
                            "a wire goes into a cavity that is plugged.",
                            "Take the plug out of the list.",
                        )
                    continue
                ok = place.label in closed and (blank is None or blank.size == place.size)
                yield self._of_housing(
                    end, place.label, housing.plug or "", "cavity.plugged", ok, "empty and plugged." if ok else "empty and open: the housing isn't tight.",
                    f"Put {blank.name if blank else 'a blanking plug'} in.", proposed=ok and body.blanks is None,
                )  # fmt: skip
        if housing.seal == "gland" and housing.wire_mm is not None and loaded:
            yield self._gland(end, housing, loaded)
        if end.room_mm and loaded:
            thickest = max(
                (
                    mm
                    for ends in loaded.values()
                    for one in ends
                    if (s := self.fitted.stuff.get(one.key))
                    for mm in s.each_mm
                ),
                default=0.0,
            )
            needs = max(housing.bend_mm, BEND_TIMES * thickest)
            yield self._of_housing(
                end, "", housing.id, "bend.room", end.room_mm >= needs, f"has {end.room_mm:g} mm behind it; wires need {significant(needs)} mm to bend.",
                "A right-angle exit, a thinner wire, or more room.", value=end.room_mm, low=needs, unit="mm", severity=WARNING,
            )  # fmt: skip
        if body.other is not None:
            yield from self._other_half(end, body, housing)

    def _gland(self, end: End, housing: Housing, loaded: dict[str, list[WireEnd]]) -> Fit:
        assert housing.wire_mm is not None
        wires = [one.wire for ends in loaded.values() for one in ends]
        cables = {wire.cable for wire in wires}
        known = self.places.cables.get(next(iter(cables)) or "") if len(cables) == 1 else None
        lone = self.fitted.stuff.get(next(iter(loaded.values()))[0].key) if len(wires) == 1 else None
        if known is None and lone is None:
            return self._of_housing(
                end, "", housing.id, "gland.jacket", False, f"{len(wires)} loose wires through one gland don't seal.", "Use a jacketed cable, or say which cable they are.",
                value=float(len(wires)), high=1.0, unit="jackets", severity=WARNING,
            )  # fmt: skip
        mm = known.jacket_mm if known is not None else lone.each_mm[0] if lone else 0.0
        ok = housing.wire_mm.holds(mm)
        word = "" if ok else " too thick:" if mm > housing.wire_mm.high else " too thin:"
        return self._of_housing(
            end, "", housing.id, "gland.jacket", ok, f"jacket {significant(mm)} mm{word} its gland takes {housing.wire_mm.low:g} to {housing.wire_mm.high:g} mm.",
            "A cable with a jacket that fits, or another gland.", value=mm, low=housing.wire_mm.low, high=housing.wire_mm.high, unit="mm",
        )  # fmt: skip

    def _other_half(self, end: End, body: Body, housing: Housing) -> Iterator[Fit]:
        other = self.shelf.get(body.other, Housing)
        if other is None:
            yield self._of_housing(
                end,
                "",
                body.other or "",
                "mate.known",
                False,
                f"no catalogue has “{body.other}”, the half it plugs into.",
                "Choose another, or import its sheet.",
            )
            return
        for rule, ok, message, cure in mating(housing, other):
            yield self._of_housing(end, "", other.id, rule, ok, message, cure)

    def _studs(self) -> Iterator[Fit]:
        for end in self.places.design.ends:
            if not end.stud_mm:
                continue
            for cavity in end.cavities:
                lugs = [one for one in self.places.at.get((end.id, cavity.id), []) if one.made == "lug"]
                if len(lugs) < 2 or end.kind.value == "bar":
                    continue
                amps = {one.key: self.fitted.stuff[one.key].amps for one in lugs if one.key in self.fitted.stuff}
                by_amps = sorted(lugs, key=lambda one: (-round(amps.get(one.key, 0.0), 1), one.key))
                order = ", ".join(one.wire.id for one in by_amps)
                torque = TORQUE_NM.get(round(end.stud_mm))
                turn = f" Torque about {torque:g} N·m unless the sheet says otherwise." if torque else ""
                yield self._of_housing(
                    end, cavity.id, "", "stud.stack", len(lugs) <= MOST_ON_A_STUD, f"{len(lugs)} lugs on one stud, from below: {order}.{turn}",
                    f"At most {MOST_ON_A_STUD} on a stud: add a bar or another stud.", value=float(len(lugs)), high=float(MOST_ON_A_STUD), unit="lugs", severity=WARNING,
                    source="ABYC E-11: at most four terminals on a stud",
                )  # fmt: skip

    def _pairs(self) -> Iterator[Fit]:
        """Two ends of this harness that plug into one another: their halves, and cavity by cavity what meets what."""
        from umber_trunk.core.ends.mate import differences

        seen: set[frozenset[str]] = set()
        for end in self.places.design.ends:
            other = self.index.ends.get(end.mates or "")
            if other is None or frozenset((end.id, other.id)) in seen:
                continue
            seen.add(frozenset((end.id, other.id)))
            mine, theirs = (next((h for e, _, h in self.places.housings() if e is one), None) for one in (end, other))
            if mine is not None and theirs is not None:
                for rule, ok, message, cure in mating(mine, theirs):
                    yield self._of_housing(end, "", theirs.id, rule, ok, message, cure)
            found = differences(self.results.design, end.id, other.id)
            for label, what in found:
                yield self._of_housing(
                    end, label, "", "mate.cavity", False, what, "Swap the wires, or say that it is meant."
                )
            if not found:
                yield self._of_housing(
                    end, "", "", "mate.cavity", True, f"agrees with {other.name} cavity by cavity.", ""
                )
            yield from self._platings(end, other)

    def _platings(self, end: End, other: End) -> Iterator[Fit]:
        theirs = {
            one.label: self.shelf.get(self.fitted.of(one).part, Contact) for one in self.places.ends if one.end is other
        }
        for one in self.places.ends:
            mine, facing = self.shelf.get(self.fitted.of(one).part, Contact), theirs.get(one.label)
            if one.end is end and mine is not None and facing is not None:
                yield self._fit(
                    one,
                    mine.id,
                    "plating.mate",
                    mine.plating == facing.plating,
                    f"{mine.plating} meets {facing.plating}.",
                    "Use the same plating on both halves.",
                    severity=WARNING,
                )

    def _weakest(self) -> Iterator[Fit]:
        """A lead is as good as its weakest part."""
        for wire in self.places.design.wires:
            rated: list[tuple[float, str]] = []
            for side in ("start", "finish"):
                one = self.places.by_key.get((wire.id, side))
                if one is None:
                    continue
                part = clamp_of(self.shelf, one) if one.made == "clamp" else self.shelf.named(self.fitted.of(one).part)
                share = self.fitted.share.get((one.end.id, one.body.id), 1.0) if one.body else 1.0
                if isinstance(part, Contact | Clamp | Lug) and part.rated_a is not None:
                    rated.append((share * part.rated_a, f"{part.name} at {one.name}"))
            cable = self.places.cables.get(wire.cable or "")
            if cable is not None and cable.rated_a is not None:
                rated.append((cable.rated_a, cable.name))
            figure = self.results.figures.wires.get(wire.id)
            if not rated or figure is None:
                continue
            most, name = min(rated)
            amps = figure.amps / wire.parallel
            yield Fit(
                wire.start.end, "", wire.id, name, "lead.weakest", amps <= most * (1 + 1e-9), amps, None, most, "A",
                f"{wire.name or wire.id}: rated at its weakest part, {name}: {significant(most)} A; carries {significant(amps)} A.",
                "" if amps <= most else "A better part there, or less load.",
            )  # fmt: skip


def shrink_on(lug: Lug, shrink: Shrink, outer_mm: float) -> tuple[float, float, float]:
    """(mm of barrel covered, mm of insulation covered, length to cut) of shrink on a lug: the whole barrel and one and a half
    times the wire's outside, at least 12 mm, over its insulation; it shortens as it recovers."""
    over = max(12.0, 1.5 * outer_mm)
    return lug.barrel_mm, over, (lug.barrel_mm + over) / (1 - shrink.shortens)


def mating(mine: Housing, other: Housing) -> list[tuple[str, bool, str, str]]:
    """(rule, whether it holds, what it is, cure) of two halves that are to plug together."""
    genders = {mine.contacts, other.contacts}
    forms = {mine.form, other.form}
    gender_ok = genders in ({"pin", "socket"}, {"genderless"}) or (genders == {"clamp"} and len(forms) == 2)
    form_ok = forms in ({"plug", "receptacle"}, {"genderless"})
    family_ok = mine.family == other.family and (not mine.mates or other.id in mine.mates)
    mine_labels, other_labels = {c.label for c in mine.cavities}, {c.label for c in other.cavities}
    lone = sorted(mine_labels ^ other_labels)
    return [
        ("mate.form", form_ok, f"{mine.form} meets {other.form}.", "One half is a plug, the other a receptacle."),
        ("mate.gender", gender_ok, f"{mine.contacts}s meet {other.contacts}s.", "Pins go with sockets."),
        ("mate.key", mine.key == other.key and family_ok, f"key {mine.key or 'none'} of {mine.family} meets {other.key or 'none'} of {other.family}.", "Choose the half with this key."),
        ("mate.cavities", not lone, "both faces have the same cavities." if not lone else f"only one face has {', '.join(lone[:6])}.", "Choose the half with these cavities."),
    ]  # fmt: skip
