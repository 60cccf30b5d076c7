"""A bad core gets a spare pair, by a named decision: the circuit's wires take the spare's cores, the bad ones are kept,
marked, and serve nothing."""

from __future__ import annotations

from collections.abc import Mapping

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.errors import EditError, quoted
from umber_trunk.core.harness.model import Decision, Design, Wire
from umber_trunk.core.kept_words import MOST_TEXT, name_kept, said_kept
from umber_trunk.core.sentences import say

SWAPPED = ("core", "pair", "colour", "stripe")


def pair_of(design: Design, wire: Wire) -> list[Wire]:
    """The wires of a wire's pair, in the order of the design; alone where it belongs to none."""
    if not wire.pair or not wire.cable:
        return [wire]
    return [one for one in design.wires if one.cable == wire.cable and one.pair == wire.pair]


def take_spare(design: Design, bad: str, spare: str, who: str, why: str = "") -> tuple[Design, str]:
    """(the design with the pair of `bad` on the cores of the pair of `spare`, what was done). EditError where that
    can't be."""
    if not who.strip():
        raise EditError.of("prove.say-who-decides")
    by_id = {wire.id: wire for wire in design.wires}
    mine, theirs = _pairs(design, by_id, bad, spare)
    new: dict[str, Wire] = {}
    decisions = []
    taken = {decision.id for decision in design.decisions}
    for old, other in zip(mine, theirs, strict=True):
        new[old.id] = old.model_copy(update={name: getattr(other, name) for name in SWAPPED})
        new[other.id] = other.model_copy(
            update={name: getattr(old, name) for name in SWAPPED} | {"bad": True, "name": "bad, leave it"}
        )
        number = next(n for n in range(1, 100_000) if f"D{n}" not in taken)
        taken.add(f"D{number}")
        decisions.append(
            Decision(
                id=f"D{number}",
                wire=old.id,
                was=_said(old),
                now=_said(other),
                who=name_kept(who),
                why=said_kept(why, MOST_TEXT) or "core found bad",
            )
        )
    worse, better = by_id[bad], by_id[spare]
    told = say(
        "spare.taken",
        circuit=worse.circuit or worse.id,
        bad=worse.pair or worse.core,
        cable=worse.cable,
        good=better.pair or better.core,
        who=who.strip(),
    )
    wires = tuple(new.get(wire.id, wire) for wire in design.wires)
    return design.model_copy(update={"wires": wires, "decisions": (*design.decisions, *decisions)}), told


def _pairs(design: Design, wires: Mapping[str, Wire], bad: str, spare: str) -> tuple[list[Wire], list[Wire]]:
    """The pair that is bad and the one that takes its place. EditError where it can't."""
    for one in (bad, spare):
        if one not in wires:
            raise EditError.of("prove.no-wire", one=quoted(one))
    worse, better = wires[bad], wires[spare]
    if not worse.cable or worse.cable != better.cable:
        raise EditError.of("prove.spare-in-other-cable", spare=spare, bad=bad)
    mine, theirs = pair_of(design, worse), pair_of(design, better)
    if any(wire.bad for wire in theirs):
        raise EditError.of("prove.spare-is-bad", spare=spare)
    if any(not wire.spare for wire in theirs):
        raise EditError.of(
            "prove.no-spare-it-serves-already", spare=spare, circuit=better.circuit or better.name or "something"
        )
    if len(mine) != len(theirs):
        raise EditError.of(
            "prove.spare-of-other-cores", bad=bad, bad_cores=len(mine), spare=spare, spare_cores=len(theirs)
        )
    return mine, theirs


def _said(wire: Wire) -> str:
    colour = "/".join(one for one in (wire.colour, wire.stripe) if one)
    return f"{wire.cable} pair {wire.pair or '–'} core {wire.core or '–'} {colour} {show_size(wire.size or '')}".strip()
