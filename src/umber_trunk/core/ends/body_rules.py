"""The rules of whole ends: empty cavities, glands, room, the other half, studs, and the weakest part of a lead."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from umber_trunk.core.catalog.parts import Clamp, Contact, Housing, Lug
from umber_trunk.core.ends.covering import share_at
from umber_trunk.core.ends.judging import BEND_TIMES, MOST_ON_A_STUD, TORQUE_NM, WARNING, Fit, Judging
from umber_trunk.core.ends.mate import ends_agree, mating
from umber_trunk.core.ends.reach import blank_for, clamp_of
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.end import Housing as Body
from umber_trunk.core.sentences import NOTHING, Message, joined
from umber_trunk.core.units import significant


class BodyRules(Judging):
    """Judges housings, studs and what plugs into one another."""

    def bodies_right(self) -> Iterator[Fit | None]:
        """Every rule that is about more than one wire."""
        for end, body, housing in self.places.housings():
            yield from self._housing(end, body, housing)
        yield from self._same()
        yield from self._studs()
        yield from self._pairs()
        yield from self._weakest()

    def _same(self) -> Iterator[Fit | None]:
        """Wires that share a contact or barrel have one part between them."""
        seen: set[tuple[str, str]] = set()
        for one in self.places.ends:
            ends = self.places.together(one) if one.made in ("contact", "splice") else []
            place = (one.end.id, "" if one.made == "splice" else one.cavity.id)
            if len(ends) < 2 or place in seen:
                continue
            seen.add(place)
            parts = {self.fitted.of(other).part for other in ends}
            if len(parts) > 1:
                names = sorted(self.shelf.name(part) for part in parts)
                yield self.of_housing(
                    one.end,
                    one.label,
                    "",
                    "contact.same",
                    False,
                    {"many": len(ends), "parts": joined("any.and", names)},
                )

    def _housing(self, end: End, body: Body, housing: Housing) -> Iterator[Fit | None]:
        loaded = self.places.loaded(end, body)
        if housing.seal in ("wire seals", "grommet"):
            yield from self._cavities_closed(end, body, housing, loaded)
        if housing.seal == "gland" and housing.wire_mm is not None and loaded:
            yield self._gland(end, housing, loaded)
        if end.room_mm and loaded:
            yield self._room(end, housing, loaded)
        if body.other is not None:
            yield from self._other_half(end, body, housing)

    def _cavities_closed(
        self, end: End, body: Body, housing: Housing, loaded: Mapping[str, Sequence[WireEnd]]
    ) -> Iterator[Fit | None]:
        """A sealed housing is tight where every empty cavity is plugged, and no other is."""
        blank, closed = blank_for(self.shelf, housing), self.fitted.blanks.get((end.id, body.id), ())
        for place in housing.cavities:
            if place.label not in loaded:
                ok = place.label in closed and (blank is None or blank.size == place.size)
                yield self.of_housing(
                    end,
                    place.label,
                    housing.plug or "",
                    "cavity.plugged",
                    ok,
                    {"ok": ok, "blank": blank.name if blank else ""},
                    proposed=ok and body.blanks is None,
                )
            elif body.blanks and place.label in body.blanks:
                yield self.of_housing(
                    end,
                    place.label,
                    housing.plug or "",
                    "cavity.plugged",
                    False,
                    {},
                    form="cavity.full",
                )

    def _room(self, end: End, housing: Housing, loaded: Mapping[str, Sequence[WireEnd]]) -> Fit | None:
        """Whether wires can bend in the room behind a housing."""
        stuff = (self.fitted.stuff.get(one.key) for ends in loaded.values() for one in ends)
        thickest = max((mm for one in stuff if one for mm in one.each_mm), default=0.0)
        needs = max(housing.bend_mm, BEND_TIMES * thickest)
        return self.of_housing(
            end,
            "",
            housing.id,
            "bend.room",
            end.room_mm >= needs,
            {"room_mm": end.room_mm, "needs_mm": significant(needs)},
            value=end.room_mm,
            low=needs,
            unit="mm",
            severity=WARNING,
        )

    def _gland(self, end: End, housing: Housing, loaded: dict[str, list[WireEnd]]) -> Fit | None:
        assert housing.wire_mm is not None
        wires = [one.wire for ends in loaded.values() for one in ends]
        cables = {wire.cable for wire in wires}
        known = self.places.cables.get(next(iter(cables)) or "") if len(cables) == 1 else None
        lone = self.fitted.stuff.get(next(iter(loaded.values()))[0].key) if len(wires) == 1 else None
        if known is None and lone is None:
            return self.of_housing(
                end,
                "",
                housing.id,
                "gland.jacket",
                False,
                {"many": len(wires)},
                form="gland.loose",
                value=float(len(wires)),
                high=1.0,
                unit="jackets",
                severity=WARNING,
            )
        mm = known.jacket_mm if known is not None else lone.each_mm[0] if lone else 0.0
        ok = housing.wire_mm.holds(mm)
        return self.of_housing(
            end,
            "",
            housing.id,
            "gland.jacket",
            ok,
            {
                "mm": significant(mm),
                "off": not ok,
                "thick": mm > housing.wire_mm.high,
                "low": housing.wire_mm.low,
                "high": housing.wire_mm.high,
            },
            value=mm,
            low=housing.wire_mm.low,
            high=housing.wire_mm.high,
            unit="mm",
        )

    def _other_half(self, end: End, body: Body, housing: Housing) -> Iterator[Fit | None]:
        other = self.shelf.get(body.other, Housing)
        if other is None:
            yield self.of_housing(
                end,
                "",
                body.other or "",
                "mate.known",
                False,
                {"part": body.other},
            )
            return
        for one in mating(housing, other):
            yield self.of_housing(end, "", other.id, one.rule, one.ok, {}, one.said, one.mend)

    def _studs(self) -> Iterator[Fit | None]:
        for end in self.places.design.ends:
            if not end.stud_mm:
                continue
            for cavity in end.cavities:
                lugs = [one for one in self.places.at.get((end.id, cavity.id), []) if one.made == "lug"]
                if sum(one.wire.parallel for one in lugs) < 2 or end.kind.value == "bar":
                    continue
                many = sum(one.wire.parallel for one in lugs)
                amps = {one.key: self.fitted.stuff[one.key].amps for one in lugs if one.key in self.fitted.stuff}
                by_amps = sorted(lugs, key=lambda one: (-round(amps.get(one.key, 0.0), 1), one.key))
                order = ", ".join(one.wire.id for one in by_amps)
                torque = TORQUE_NM.get(round(end.stud_mm))
                yield self.of_housing(
                    end,
                    cavity.id,
                    "",
                    "stud.stack",
                    many <= MOST_ON_A_STUD,
                    {"many": many, "order": order, "torque_nm": torque or 0.0, "most": MOST_ON_A_STUD},
                    value=float(many),
                    high=float(MOST_ON_A_STUD),
                    unit="lugs",
                    severity=WARNING,
                    source="ABYC E-11: at most four terminals on a stud",
                )

    def _pairs(self) -> Iterator[Fit | None]:
        """Two ends of this harness that plug into one another: their halves, and cavity by cavity what meets what."""
        seen: set[frozenset[str]] = set()
        for end in self.places.design.ends:
            other = self.index.ends.get(end.mates or "")
            if other is None or frozenset((end.id, other.id)) in seen:
                continue
            seen.add(frozenset((end.id, other.id)))
            found = ends_agree(self.results.design, end.id, other.id, self.results.shelf)
            for one in found.halves:
                yield self.of_housing(end, "", "", one.rule, one.ok, {}, one.said, one.mend)
            for row in found.rows:
                if row.what:
                    yield self.of_housing(end, row.label, "", "mate.cavity", False, {}, row.what)
            if found.agrees:
                said = {"other": other.name, "rests_on": "; ".join(map(str, found.rests_on))}
                yield self.of_housing(end, "", "", "mate.cavity", True, said)
            elif found.agrees is None and found.rows:
                said = {"other": other.name, "missing": "; ".join(map(str, found.missing))}
                yield self.of_housing(end, "", "", "mate.told", False, said, severity=WARNING)
            yield from self._platings(end, other)

    def _platings(self, end: End, other: End) -> Iterator[Fit | None]:
        theirs = {
            one.label: self.shelf.get(self.fitted.of(one).part, Contact) for one in self.places.ends if one.end is other
        }
        for one in self.places.ends:
            mine, facing = self.shelf.get(self.fitted.of(one).part, Contact), theirs.get(one.label)
            if one.end is end and mine is not None and facing is not None:
                yield self.fit(
                    one,
                    mine.id,
                    "plating.mate",
                    mine.plating == facing.plating,
                    {"plating": mine.plating, "other": facing.plating},
                    severity=WARNING,
                )

    def _weakest(self) -> Iterator[Fit | None]:
        """A lead is as good as its weakest part."""
        for wire in self.places.design.wires:
            rated: list[tuple[float, str, str, str]] = []
            for side in ("start", "finish"):
                one = self.places.by_key.get((wire.id, side))
                if one is None:
                    continue
                part = clamp_of(self.shelf, one) if one.made == "clamp" else self.shelf.named(self.fitted.of(one).part)
                share = share_at(self.fitted.share, one)
                if isinstance(part, Contact | Clamp | Lug) and part.rated_a is not None:
                    many = wire.parallel if isinstance(part, Lug) else 1
                    rated.append((share * many * part.rated_a, part.name, one.name, part.id))
            cable = self.places.cables.get(wire.cable or "")
            if cable is not None and cable.rated_a is not None:
                rated.append((cable.rated_a, cable.name, "", cable.id))
            figure = self.results.figures.wires.get(wire.id)
            if not rated or figure is None:
                continue
            most, name, place, part_id = min(rated)
            amps = figure.amps
            if amps <= most and not self.whole:
                continue
            yield Fit(
                wire.start.end,
                "",
                wire.id,
                part_id,
                "lead.weakest",
                amps <= most * (1 + 1e-9),
                amps,
                None,
                most,
                "A",
                Message.of(
                    "fit.lead.weakest.says",
                    wire=wire.name or wire.id,
                    part=name,
                    place=place,
                    most_a=significant(most),
                    amps=significant(amps),
                ),
                NOTHING if amps <= most else Message.of("fit.lead.weakest.cure"),
            )
