"""What would take something off a unit’s price: each is tried on a changed harness and quoted anew, nothing is reckoned
by rules of thumb."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping

from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.edits import change, set_project
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message
from umber_trunk.core.shop.offers import Asked, Cheaper
from umber_trunk.core.shop.quoting import offer


def cheaper(
    results: Results,
    units: int,
    asked: Asked,
    analysed: Callable[[Design], Results],
    wanted: Wanted = always,
) -> tuple[Cheaper, ...]:
    """What would take something off a unit's price, each tried: a metre less of the dearest limb, fewer kinds of
    contacts, fewer tools, one colour fewer. `analysed` works a changed harness out."""
    design, before = results.design, offer(results, units, asked, wanted).each
    tried = {
        "metre": _metre_less(results),
        "contact": _weighed(design, "least_parts"),
        "tool": _weighed(design, "least_tools"),
        "colour": _colour_less(results),
    }
    found = []
    for what, made in tried.items():
        if made is None:
            continue
        go_on_if(wanted)
        changed, told = made
        after = offer(analysed(changed), units, asked, wanted).each
        if after < before:
            found.append(Cheaper(what, told, before - after))
    return tuple(sorted(found, key=lambda one: -one.saves))


def _metre_less(results: Results) -> tuple[Design, Message] | None:
    """A metre less of the limb with the most copper in it, or half of it where it is shorter."""
    design, ways = results.design, _metal_by_limb(results)
    limb = max(ways, key=lambda key: (ways[key], key), default="")
    segment = next((one for one in design.segments if one.id == limb), None)
    if segment is None:
        return None
    less = min(1.0, segment.measure.length_m / 2)
    if less < 0.05:
        return None
    measure = change(segment.measure, length_m=segment.measure.length_m - less)
    segments = tuple(change(one, measure=measure) if one.id == limb else one for one in design.segments)
    return design.model_copy(update={"segments": segments}), Message.of("quote.cheaper.metre", limb=limb, metres=less)


def _metal_by_limb(results: Results) -> Mapping[str, float]:
    found = defaultdict[str, float](float)
    for segment, wires in index_of(results.design).contents.items():
        for wire in wires:
            row = results.plant.row.get(wire)
            if row is not None:
                found[segment] += results.plant.conductors[row].kg_per_m * float(results.plant.parallel[row])
    return found


def _weighed(design: Design, what: str) -> tuple[Design, Message]:
    """The parts of ends proposed anew, with one kind weighing a hundred times."""
    practice = change(design.project.practice, **{what: 100.0})
    told = Message.of("quote.cheaper.parts" if what == "least_parts" else "quote.cheaper.tools")
    return set_project(design, practice=practice), told


def _colour_less(results: Results) -> tuple[Design, Message] | None:
    """Of one size and one base colour the stripe with the least metres made as the one with the most. The base colour
    stays: by it people tell plus from minus and earth from all."""
    by: dict[tuple[str, str], dict[str, float]] = defaultdict(lambda: defaultdict(float))
    design = results.design
    lengths = {piece.wire: piece for piece in pieces(results, 1)}
    for wire in design.wires:
        if wire.id in lengths and not wire.cable and wire.colour:
            by[lengths[wire.id].size, wire.colour][wire.stripe] += lengths[wire.id].length_m
    several = [(min(mine.values()), key) for key, mine in by.items() if len(mine) > 1]
    if not several:
        return None
    _, (size, colour) = min(several)
    mine = by[size, colour]
    rare = min(mine, key=lambda stripe: (mine[stripe], stripe))
    usual = max(mine, key=lambda stripe: (mine[stripe], stripe))
    wires = tuple(
        change(wire, stripe=usual)
        if wire.id in lengths and (lengths[wire.id].size, wire.colour, wire.stripe) == (size, colour, rare)
        else wire
        for wire in design.wires
    )
    names = ["/".join(part for part in (colour, stripe) if part) for stripe in (rare, usual)]
    told = Message.of("quote.cheaper.colour", size=size, usual=names[1], rare=names[0])
    return design.model_copy(update={"wires": wires}), told
