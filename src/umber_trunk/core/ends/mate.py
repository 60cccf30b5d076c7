"""Two halves compared cavity by cavity, by what each cavity is; and the mating half, derived and not retyped.

One answer for fits, `mate`, the Halves page, repair and the proof. It says no where something differs, yes only where
what each cavity leads to was traced or measured, and neither where names or colours alone could tell.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.ends.faces import Face, face_of_part, mirrored
from umber_trunk.core.ends.meaning import BodyHalf, Half, Meaning, Source, half_of
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.sentences import NOTHING, Message, say
from umber_trunk.core.units import significant

OTHER_FORM = {"plug": "receptacle", "receptacle": "plug"}
OTHER_GENDER = {"pin": "socket", "socket": "pin"}
PLACE_MM = 0.1
"""How far cavities of two faces that lie on one another may be apart."""


def mate_of(face: Face, design: Design, shelf: Shelf | None = None) -> Face:
    """The half that a face plugs into, from that half's own wire side: form and gender change, each cavity meets the
    one with its label, and a half that plugs in turned says so. The mate of the mate is the face again."""
    shelf = shelf_for(design, shelf)
    mine = shelf.get(face.part, Housing)
    other = shelf.mate_of(mine) if mine is not None else None
    turned = (turn_between(mine, other) or 0.0) if mine is not None and other is not None else 0.0
    spots = tuple(mirrored(spot) for spot in face.spots)
    if turned and other is not None:
        # what meets by label lies where its own sheet has it
        own = {spot.label: spot for spot in face_of_part(other, face.side).spots}
        spots = tuple(
            replace(s, x_mm=own[s.label].x_mm, y_mm=own[s.label].y_mm, turn_deg=own[s.label].turn_deg) for s in spots
        )
    named = replace(face, part=other.id, name=other.name) if other is not None else face
    return replace(
        named,
        form=OTHER_FORM.get(face.form, face.form),
        contacts=OTHER_GENDER.get(face.contacts, face.contacts),
        spots=spots,
        turned_deg=turned,
    )


def turn_between(mine: Housing, other: Housing) -> float | None:
    """How far the other half is turned about the axis of mating, in degrees, so that like labels meet; None where no
    turn brings them together. A key fixes a plug and its receptacle to 0; genderless halves may have to be turned by
    180."""
    places = {c.label: (c.x_mm, c.y_mm) for c in other.cavities}
    if places.keys() != {c.label for c in mine.cavities}:
        return None
    fixed = mine.keyed and mine.form != "genderless"
    for turn in (0.0,) if fixed else (0.0, 180.0, *(float(one) for one in range(15, 360, 15) if not mine.keyed)):
        cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        seen = {label: (-x, y) for label, (x, y) in places.items()}
        if all(
            math.dist((x * cos - y * sin, x * sin + y * cos), (c.x_mm, c.y_mm)) <= PLACE_MM
            for c in mine.cavities
            for x, y in [seen[c.label]]
        ):
            return turn
    return None


@dataclass(frozen=True)
class Crossing:
    """Two halves compared at one label: what each has there, and in words what is wrong. `housing` is that of the first
    half."""

    label: str
    mine: str
    theirs: str
    what: Message
    housing: str = ""


@dataclass(frozen=True)
class HalfRule:
    """One rule of two housings that are to plug together: whether it holds, what was found, what to do about it."""

    rule: str
    ok: bool
    said: Message
    mend: Message


@dataclass(frozen=True)
class Agreement:
    """Two halves compared. `halves` are the rules about the housings; `missing` is what would have to be known;
    `rests_on` what a yes rests on."""

    rows: tuple[Crossing, ...]
    halves: tuple[HalfRule, ...] = ()
    missing: tuple[str, ...] = ()
    rests_on: tuple[str, ...] = ()

    @property
    def wrong(self) -> list[Crossing]:
        """What differs: of the halves first, then cavity by cavity."""
        return [Crossing("", "", "", one.said) for one in self.halves if not one.ok] + [
            row for row in self.rows if row.what
        ]

    @property
    def agrees(self) -> bool | None:
        """Yes, no, or None where it can't be told."""
        if self.wrong:
            return False
        return None if self.missing or not self.rows else True

    @property
    def words(self) -> Message:
        """The answer in one line."""
        if wrong := self.wrong:
            return Message.of("mate.dont", many=len(wrong))
        if self.agrees:
            return Message.of("mate.agree", rests_on="; ".join(self.rests_on))
        return Message.of("mate.untold", missing="; ".join(self.missing))


def ends_agree(design: Design, end_id: str, other_id: str, shelf: Shelf | None = None) -> Agreement:
    """Two ends of one harness."""
    return agreement(half_of(design, end_id, shelf), half_of(design, other_id, shelf))


def agreement(mine: Half, theirs: Half, replaces: bool = False) -> Agreement:
    """Whether two halves may be plugged together; `replaces`: whether one may take the other's place, so that the
    housings are not asked to mate."""
    same_world = bool(mine.world) and mine.world == theirs.world
    if same_world and mine.id == theirs.id and not replaces:
        return Agreement((), (_half("itself", False),))
    rows: list[Crossing] = []
    halves: list[HalfRule] = []
    missing: list[str] = []
    rests: list[str] = []
    several = len(mine.bodies) > 1
    for a, b in _paired(mine.bodies, theirs.bodies):
        if not replaces:
            _of_housings(mine, theirs, a, b, halves, missing, rests)
        found = _Compared(a.cavities if a else {}, b.cavities if b else {}, same_world)
        rows += [replace(row, housing=a.id if a and several else "") for row in found.rows]
        missing += found.missing
    if rows and not missing:
        rests.insert(0, say("mate.rests.traced", many=len(rows)))
    return Agreement(tuple(rows), tuple(halves), tuple(dict.fromkeys(missing)), tuple(dict.fromkeys(rests)))


def _of_housings(
    mine: Half,
    theirs: Half,
    a: BodyHalf | None,
    b: BodyHalf | None,
    halves: list[HalfRule],
    missing: list[str],
    rests: list[str],
) -> None:
    """What two housings say: whether they plug together, and how."""
    if a is None or b is None:
        return
    for half, body in ((mine, a), (theirs, b)):
        if body.part is None and not (half.world == 0 and not body.id):
            missing.append(say("mate.missing.housing", name=half.name))
    if a.part is None or b.part is None:
        return
    found = mating(a.part, b.part)
    halves += found
    turn = turn_between(a.part, b.part)
    rests.append(
        say("mate.rests.halves", one=a.part.name, other=b.part.name, labels=turn is None, turn_deg=turn or 0.0)
    )
    if not a.part.keyed and a.part.shape == "round" and len(a.part.cavities) > 1:
        rests.append(say("mate.rests.marks"))


def _paired(mine: Sequence[BodyHalf], theirs: Sequence[BodyHalf]) -> list[tuple[BodyHalf | None, BodyHalf | None]]:
    """Which housing meets which: the one its sheet names or that it mates with, of the same id first, then in order.
    One that is left over meets nothing, where wires are in it."""
    left, found = list(theirs), list[tuple[BodyHalf | None, BodyHalf | None]]()
    for a in mine:
        if not left:
            found.append((a, None))
            continue

        def closeness(b: BodyHalf, a: BodyHalf = a) -> tuple[bool, bool]:
            mates = a.part is not None and b.part is not None and all(one.ok for one in mating(a.part, b.part))
            return not mates and not (a.other and b.part is not None and a.other == b.part.id), a.id != b.id

        best = min(left, key=closeness)
        left.remove(best)
        found.append((a, best))
    return [
        pair for pair in [*found, *((None, b) for b in left)] if any(one and one.cavities for one in pair) or all(pair)
    ]


class _Compared:
    """Two housings, cavity by cavity."""

    def __init__(self, mine: Mapping[str, Meaning], theirs: Mapping[str, Meaning], same_world: bool) -> None:
        self.mine, self.theirs, self.same_world = mine, theirs, same_world
        self.rows: list[Crossing] = []
        self.missing: list[str] = []
        unsettled: dict[tuple[str, str], list[str]] = {}
        for label in dict.fromkeys([*self.mine, *self.theirs]):
            a, b = self.mine.get(label), self.theirs.get(label)
            if a is None or b is None:
                lone = a or b
                if lone is not None and lone.kind != "spare":
                    what = Message.of("mate.lone.mine" if a else "mate.lone.theirs", one=lone.says)
                    self.rows.append(Crossing(label, a.says if a else "", b.says if b else "", what))
                continue
            what = self._apart(a, b) or self._crossed(a, b)
            self.rows.append(Crossing(label, a.says, b.says, what))
            if not what:
                self._doubted(label, a, b, unsettled)
        for (kind, _), labels in unsettled.items():
            if not self._alike(labels):
                many = ", ".join(labels)
                self.missing.append(say("mate.missing.which", kind=kind, many=many))

    def _class(self, one: Meaning) -> tuple[str, str]:
        return one.kind, one.pole

    def _apart(self, a: Meaning, b: Meaning) -> Message:
        """What differs in what the two are."""
        for one in (a, b):
            if len(one.poles) > 1:
                return Message.of("mate.poles.both", one=one.says)
        if a.pole and b.pole and a.pole != b.pole:
            return Message.of("mate.poles.wrong", one=a.says, other=b.says)
        if "unknown" not in (a.kind, b.kind) and a.kind != b.kind:
            return Message.of("mate.kinds", kind=a.kind, other_kind=b.kind, one=a.says, other=b.says)
        if a.sources and b.sources and a.pole == "+":
            return self._two_sources(a, b)
        for feed, fed in ((a, b), (b, a)):
            volts = max((source.volts for source, _ in feed.sources), default=0.0)
            if volts and fed.least_v > volts:
                return Message.of(
                    "mate.volts",
                    volts=significant(volts),
                    feed=feed.says,
                    fed=fed.says,
                    least_v=significant(fed.least_v),
                )
        return NOTHING

    def _two_sources(self, a: Meaning, b: Meaning) -> Message:
        ours, others = {s for s, _ in a.sources}, {s for s, _ in b.sources}
        if self.same_world and not ours & others:
            return Message.of("mate.sources", one=a.says, other=b.says)
        volts = {round(s.volts, 3) for s in ours} & {round(s.volts, 3) for s in others}
        measured = any(s.key == "measured" for s in ours | others)
        if not volts and not (measured and _near(ours, others)):
            return Message.of("mate.sources", one=a.says, other=b.says)
        if not measured and {s.ac for s in ours} != {s.ac for s in others}:
            return Message.of("mate.ac", one=a.says, other=b.says)
        return NOTHING

    def _crossed(self, a: Meaning, b: Meaning) -> Message:
        """Told where what one is stands at another cavity of the other half."""
        where = self._matches(a, self.theirs)
        if where and b.label not in where:
            return Message.of("mate.crossed", other=b.says, one=a.says, at=where[0])
        back = self._matches(b, self.mine)
        if back and a.label not in back:
            return Message.of("mate.crossed.back", other=b.says, at=back[0])
        return NOTHING

    def _matches(self, one: Meaning, others: Mapping[str, Meaning]) -> list[str]:
        """Labels of the other half that could be the same lead: by wires and loads first, then by circuit, then by the
        wires' names, each only as far as it narrows what is left."""
        left: list[str] = []
        kin = [x for x in others.values() if self._class(x) == self._class(one) or "unknown" in (x.kind, one.kind)]
        tests: tuple[Callable[[Meaning], bool], ...] = (
            lambda x: self.same_world and bool(x.branch & one.branch or _fed(x) & _fed(one)),
            lambda x: bool(x.circuits & one.circuits),
            lambda x: bool(x.names & one.names),
        )
        for test in tests:
            found = [x.label for x in kin if test(x) and (not left or x.label in left)]
            if len(found) == 1:
                return found
            left = found or left
        return left

    def _doubted(self, label: str, a: Meaning, b: Meaning, unsettled: dict[tuple[str, str], list[str]]) -> None:
        """Keeps in mind what isn't told by what the two are."""
        traced = self.same_world and bool(a.branch & b.branch)
        if traced:
            return
        if not a.known or not b.known:
            self.missing.append(say("mate.missing.what", label=label))
            return
        alone = all(
            sum(self._class(x) == self._class(a) for x in half.values()) == 1 for half in (self.mine, self.theirs)
        )
        if not alone and self._matches(a, self.theirs) != [label]:
            unsettled.setdefault(self._class(a), []).append(label)

    def _alike(self, labels: list[str]) -> bool:
        """Whether leads that nothing tells apart need not be: one alone is left, or all are one net in one of the
        halves."""
        return len(labels) == 1 or any(
            frozenset.intersection(*(half[label].branch for label in labels)) for half in (self.mine, self.theirs)
        )


def _fed(one: Meaning) -> set[str]:
    return {load for load, _ in one.loads} - {"said"}


def _near(ours: set[Source], others: set[Source]) -> bool:
    """Whether volts measured are about those a supply has."""
    return any(abs(a.volts - b.volts) <= 0.15 * max(a.volts, b.volts) for a in ours for b in others)


def through(design: Design, end_id: str, other_id: str, shelf: Shelf | None = None) -> list[Crossing]:
    """Both ends of a cable side by side: for each label of the first, what arrives at the same label of the other. A
    straight lead has the same wire at both; what is crossed, missing or on the wrong pole is named."""
    places, roles = places_of(design, shelf), {one: _meanings(design, one, shelf) for one in (end_id, other_id)}
    mine: dict[str, str] = {}
    theirs: dict[str, str] = {}
    for wire in design.wires:
        ends = {
            wire.start.end: places.by_key.get((wire.id, "start")),
            wire.finish.end: places.by_key.get((wire.id, "finish")),
        }
        here, there = ends.get(end_id), ends.get(other_id)
        if here is not None and there is not None:
            mine[here.label], theirs[there.label] = wire.id, wire.id
    rows = []
    for label in dict.fromkeys([*mine, *theirs]):
        a, b = mine.get(label, ""), theirs.get(label, "")
        at = next((spot for spot, wire in theirs.items() if wire == a), "")
        what = NOTHING
        if a != b:
            if not a or not b:
                what = Message.of("mate.lone.mine" if a else "mate.lone.theirs", one=a or b)
            else:
                what = Message.of("mate.crossed" if at else "mate.meets", one=a, other=b, at=at)
            from_, to = roles[end_id].get(label), roles[other_id].get(at)
            if from_ and to and len(from_.poles | to.poles) > 1:
                what = Message.of("mate.poles.way", one=a, start=from_.says, label=label, finish=to.says, at=at)
        rows.append(Crossing(label, a, b, what))
    return rows


def _meanings(design: Design, end_id: str, shelf: Shelf | None) -> dict[str, Meaning]:
    return {label: one for body in half_of(design, end_id, shelf).bodies for label, one in body.cavities.items()}


def _half(rule: str, ok: bool, **values: Any) -> HalfRule:
    return HalfRule(f"mate.{rule}", ok, Message(f"mate.{rule}.says", values), Message.of(f"mate.{rule}.cure"))


def mating(mine: Housing, other: Housing) -> list[HalfRule]:
    """Two halves that are to plug together, rule by rule."""
    genders = {mine.contacts, other.contacts}
    forms = {mine.form, other.form}
    gender_ok = genders in ({"pin", "socket"}, {"genderless"}) or (genders == {"clamp"} and len(forms) == 2)
    form_ok = forms in ({"plug", "receptacle"}, {"genderless"})
    family_ok = mine.family == other.family and (not mine.mates or other.id in mine.mates)
    mine_labels, other_labels = {c.label for c in mine.cavities}, {c.label for c in other.cavities}
    lone = sorted(mine_labels ^ other_labels)
    return [
        _half("form", form_ok, one=mine.form, other=other.form),
        _half("gender", gender_ok, one=mine.contacts, other=other.contacts),
        _half(
            "key",
            mine.key == other.key and family_ok,
            one=mine.key,
            family=mine.family,
            other=other.key,
            other_family=other.family,
        ),
        _half("cavities", not lone, lone=", ".join(lone[:6])),
    ]
