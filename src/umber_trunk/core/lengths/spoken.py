"""What lies along the way: the edits that lines of bends, loops, coverings, joins, combs, sets, pins and the history
ask for."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.edits import Edit, change, new_id, put, set_project
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Segment, Wire
from umber_trunk.core.harness.way import Alike, Bend, Comb, Cover, CoverKind, FoundLength, Join, Lead, Method, Slack
from umber_trunk.core.quantity import Habit
from umber_trunk.core.units import parse_length_m, parse_number


def on_the_way(form: str, said: dict[str, str], habit: Habit) -> Edit:
    """The edit a form of the grammar asks for, by what its line says (`core/language/grammar`)."""
    return _MAKERS[form](said, habit)


def _m(text: str, habit: Habit) -> float:
    return parse_length_m(text, habit=habit)


def _n(text: str, habit: Habit) -> float:
    return parse_number(text.replace("−", "-"), habit)


def _segment(design: Design, said: dict[str, str]) -> Segment:
    found = next((one for one in design.segments if one.id.lower() == said["segment"].lower()), None)
    if found is None:
        raise InputError.of(
            "lengths.no-such-segment",
            segment=quoted(said["segment"]),
            known=", ".join(one.id for one in design.segments[:12]),
        )
    return found


def _wire(design: Design, name: str) -> Wire:
    found = next((one for one in design.wires if one.id.lower() == name.lower()), None)
    if found is None:
        raise InputError.of("any.no-wire", wire=name)
    return found


def _on(said: dict[str, str], make: Callable[[Segment], dict[str, Any]]) -> Edit:
    """An edit of the segment named."""

    def act(design: Design) -> Design:
        segment = _segment(design, said)
        return put(design, "segments", change(segment, **make(segment)))

    return act


def _inside(segment: Segment, at: float) -> float:
    if at > segment.measure.length_m:
        raise InputError.of("lengths.beyond-segment", segment=segment.id, length_m=segment.measure.length_m, at=at)
    return at


def _cover(said: dict[str, str], habit: Habit) -> Edit:
    def make(segment: Segment) -> dict[str, Any]:
        low = _inside(segment, _m(said["low"], habit)) if "low" in said else 0.0
        high = _inside(segment, _m(said["high"], habit)) if "high" in said else None
        if high is not None and high <= low:
            raise InputError.of("lengths.covering-ends-beyond-where-it-begins")
        lap = _n(said["lap"], habit) / 100 if "lap" in said else 0.5
        return _more_covers(segment, said, from_m=low, to_m=high, lap=lap)

    return _on(said, make)


def _hold(said: dict[str, str], habit: Habit) -> Edit:
    return _on(said, lambda segment: _more_covers(segment, said, from_m=_inside(segment, _m(said["at"], habit))))


def _more_covers(segment: Segment, said: dict[str, str], **values: Any) -> dict[str, Any]:
    kind = CoverKind(said["kind"].lower())
    used, number = {cover.id for cover in segment.covers}, 1
    while f"{kind.value}{number}" in used:
        number += 1
    fresh = change(Cover(id=f"{kind.value}{number}", kind=kind), part=said.get("part"), after="after" in said, **values)
    return {"covers": (*segment.covers, fresh)}


def _bend(said: dict[str, str], habit: Habit) -> Edit:
    def make(segment: Segment) -> dict[str, Any]:
        at = _inside(segment, _m(said["at"], habit)) if "at" in said else segment.measure.length_m / 2
        toward = _n(said["toward"], habit) if "toward" in said else None
        fresh = change(
            Bend(radius_mm=1.0, angle_deg=0.0),
            at_m=at,
            radius_mm=1e3 * _m(said["radius"], habit),
            angle_deg=_n(said["by"], habit),
            toward_deg=toward,
        )
        return {"bends": (*segment.bends, fresh)}

    return _on(said, make)


def _loop(said: dict[str, str], habit: Habit) -> Edit:
    def make(segment: Segment) -> dict[str, Any]:
        at = _inside(segment, _m(said["at"], habit)) if "at" in said else segment.measure.length_m / 2
        fresh = change(Slack(length_m=0.0), kind=said["kind"].lower(), length_m=_m(said["long"], habit), at_m=at)
        return {"slack": (*segment.slack, fresh)}

    return _on(said, make)


def _slack(said: dict[str, str], habit: Habit) -> Edit:
    def act(design: Design) -> Design:
        wanted = said["end"].lower()
        end = next((one for one in design.ends if wanted in (one.id.lower(), one.name.lower())), None)
        if end is None:
            raise InputError.of("any.no-end", text=said["end"])
        return put(design, "ends", change(end, slack_m=_m(said["long"], habit)))

    return act


def _comb(said: dict[str, str], habit: Habit) -> Edit:
    def act(design: Design) -> Design:
        wires = tuple(_wire(design, name).id for name in re.split(r"[\s,]+", said["wires"]))
        turns = tuple(_n(turn, habit) for turn in said.get("turns", "").split())
        comb = Comb(id=new_id(design, "combs", "comb"), wires=wires, pitch_mm=1.0)
        values: dict[str, Any] = {"pitch_mm": 1e3 * _m(said["pitch"], habit), "turns_deg": turns}
        if "last" in said:
            values |= {"cut_last": True, "allowance_m": _m(said["last"], habit)}
        return put(design, "combs", change(comb, **values))

    return act


def _set(said: dict[str, str], habit: Habit) -> Edit:
    def act(design: Design) -> Design:
        wires = tuple(_wire(design, name).id for name in re.split(r"[\s,]+", said["wires"]))
        fresh = Alike(id=new_id(design, "sets", "set"), wires=wires)
        return put(design, "sets", change(fresh, tolerance_mm=1e3 * _m(said["within"], habit)))

    return act


def _join(said: dict[str, str], habit: Habit) -> Edit:
    def act(design: Design) -> Design:
        index, segment = index_of(design), _segment(design, said)
        end = index.ends.get(said["end"])
        if end is None or end.kind is not EndKind.SPLICE:
            raise InputError.of("lengths.no-splice-of-this-harness", end=said["end"])
        if end.point not in (segment.a, segment.b):
            raise InputError.of("lengths.segment-not-at-end", segment=segment.id, end=end.name)
        if "dull" in said and said["dull"] not in index.ends:
            raise InputError.of("any.no-end", text=said["dull"])
        at = _inside(segment, _m(said["at"], habit)) if "at" in said else None
        fresh = Join(segment=segment.id, at_m=at, dull=said.get("dull"), equal="equal" in said, held="held" in said)
        return put(design, "ends", change(end, join=fresh))

    return act


def _pin(said: dict[str, str], habit: Habit) -> Edit:
    def act(design: Design) -> Design:
        wire = _wire(design, said["wire"])
        via = tuple(_segment(design, {"segment": name}).id for name in said.get("via", "").split())
        return put(design, "wires", change(wire, via=via))

    return act


def _lead(said: dict[str, str], habit: Habit) -> Edit:
    def act(design: Design) -> Design:
        values: dict[str, Any] = {
            "apart_mm": 1e3 * _m(said["apart"], habit), "toward_deg": _n(said["toward"], habit), "leave_deg": _n(said["leave"], habit),
            "arrive_deg": _n(said["arrive"], habit),
        }  # fmt: skip
        if "radius" in said:
            values["radius_mm"] = 1e3 * _m(said["radius"], habit)
        return put(design, "wires", change(_wire(design, said["wire"]), lead=change(Lead(apart_mm=1.0), **values)))

    return act


def _found(said: dict[str, str], habit: Habit) -> Edit:
    def act(design: Design) -> Design:
        fresh = change(
            FoundLength(method=Method.TAPE, planned_m=1, found_m=1),
            method=said["method"].lower(),
            planned_m=_m(said["planned"], habit),
            found_m=_m(said["found"], habit),
        )
        return set_project(design, history=(*design.project.history, fresh))

    return act


def _turn(said: dict[str, str], habit: Habit) -> Edit:
    angle = _n(said["angle"], habit) if "angle" in said else None
    return _on(said, lambda _: {"turn_deg": angle})


_MAKERS: dict[str, Callable[[dict[str, str], Habit], Edit]] = {
    "cover": _cover,
    "hold": _hold,
    "bend": _bend,
    "loop": _loop,
    "slack": _slack,
    "comb": _comb,
    "set": _set,
    "join": _join,
    "pin": _pin,
    "unpin": _pin,
    "lead": _lead,
    "found": _found,
    "turn": _turn,
    "lay": lambda said, habit: _on(said, lambda _: {"lay_mm": 1e3 * _m(said["lay"], habit)}),
    "corners": lambda said, _: _on(said, lambda segment: {"corners": not segment.corners}),
}
