"""Parts for the ends nobody has chosen any for: the fewest different parts and tools that fit every wire.

A covering problem: each different part costs something, each tool and die too, and a group of like ends takes one of
its parts. Where ends hang together in few ways every one is tried; else HiGHS solves it as an integer program, and its
dual bound says how far from the best the answer can be.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import product
from math import prod

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.catalog.parts import Contact, Crimped, Lug
from umber_trunk.core.ends.families import FAMILIES
from umber_trunk.core.ends.reach import (
    Stuff,
    blank_for,
    clamp_of,
    derated,
    ferrules_for,
    seals_for,
    shrinks_for,
    stuff_at,
)
from umber_trunk.core.ends.wire_ends import STUDS, Places, Side, WireEnd, places_of
from umber_trunk.core.harness.model import Fitting
from umber_trunk.core.results import Results

NODES = 20_000
"""Of the search for the fewest parts: counted, so that no clock chooses."""
MOST_WAYS = 4_000
"""Ways to fit out ends that hang together, up to which each is tried: that is sooner done than loading a solver."""


@dataclass(frozen=True)
class Fitted:
    """The parts of every end, chosen or proposed. `fittings` by wire id and side; `stuff` what arrives there; `blanks`
    the labels to close by (end, housing); `cost` and `bound` of the covering that chose them."""

    fittings: dict[tuple[str, Side], Fitting]
    stuff: dict[tuple[str, Side], Stuff]
    share: dict[tuple[str, str], float]
    blanks: dict[tuple[str, str], tuple[str, ...]]
    cost: float
    bound: float

    def of(self, one: WireEnd) -> Fitting:
        """What is, or would be, on a wire's end."""
        return self.fittings[one.key]


def fitted(results: Results) -> Fitted:
    """For `Results.once`."""
    places, plant = places_of(results.design, results.shelf), results.plant
    made = dict(zip([wire.id for wire in plant.wires], plant.conductors, strict=True))
    return fit_all(places, made, results.amps)


def fit_all(places: Places, made: dict[str, Conductor], amps: dict[str, float]) -> Fitted:
    """The parts of all ends for these conductors and worst currents by wire id."""
    share = _shares(places, amps)
    stuff: dict[tuple[str, Side], Stuff] = {}
    wanted: dict[tuple[str, Side, str], tuple[str, ...]] = {}
    for one in places.ends:
        if one.made is None or one.wire.id not in made:
            continue
        together = places.together(one)
        known = [other for other in together if other.wire.id in made]
        here = stuff[one.key] = stuff_at(places, known, made, amps)
        for what, options in _open_at(places, one, here, share_at(share, one)).items():
            wanted[(*one.key, what)] = options
    chosen, cost, bound = _covered(places, wanted)
    for one in places.ends:  # who shares a contact or barrel takes what is chosen for it
        beside = (
            places.together(one)
            if one.made is not None and FAMILIES[one.made].shared and one.fitting.part is None
            else []
        )
        given = {other.fitting.part for other in beside} - {None}
        if len(given) == 1:
            chosen[(*one.key, "part")] = next(part for part in given if part)
    picked: dict[tuple[str, Side], dict[str, str]] = defaultdict(dict)
    for (wire, side, what), name in chosen.items():
        picked[wire, side][what] = name
    fittings = {}
    for one in places.ends:
        new = picked.get(one.key)
        fitting = one.fitting.model_copy(update=new) if new else one.fitting
        lugged = fitting.part is not None and one.made == "lug"
        fittings[one.key] = _with_shrink(places, one, fitting, stuff.get(one.key)) if lugged else fitting
    return Fitted(fittings, stuff, share, closed_cavities(places), cost, bound)


def fitted_at(results: Results, one: WireEnd) -> tuple[Fitting, Stuff] | None:
    """(what is, or would be, on one wire's end, what arrives there); None where nothing does. By itself where nothing
    is to be proposed there, whatever current runs: only then nothing has to be solved, and the amps are left out."""
    places, plant = places_of(results.design, results.shelf), results.plant
    beside = places.together(one) if one.made is not None else []
    if one.made is None or one.wire.id not in plant.row or (FAMILIES[one.made].shared and len(beside) > 1):
        whole = results.once(fitted)
        stuff = whole.stuff.get(one.key)
        return None if stuff is None else (whole.of(one), stuff)
    made = {other.wire.id: plant.conductors[plant.row[other.wire.id]] for other in beside if other.wire.id in plant.row}
    here = stuff_at(places, [other for other in beside if other.wire.id in made], made, {})
    if _open_at(places, one, here, 1.0):
        whole = results.once(fitted)
        return whole.of(one), whole.stuff[one.key]
    lugged = one.fitting.part is not None and one.made == "lug"
    return (_with_shrink(places, one, one.fitting, here) if lugged else one.fitting), here


def _open_at(places: Places, one: WireEnd, here: Stuff, share: float) -> dict[str, tuple[str, ...]]:
    """What is still to be chosen at a wire's end and would do there: its part, its seal, its ferrule."""
    fitting, offer, found = one.fitting, _offer(places, one, here), {}
    if fitting.part is None and not fitting.locked:
        most = share * (1 + 1e-9)
        found["part"] = tuple(part for part, rated in offer.parts if rated is None or here.amps <= most * rated)
    if fitting.seal is None:
        found["seal"] = offer.seals
    clamp, school = clamp_of(places.shelf, one), places.design.project.practice.ferrules
    if fitting.ferrule is None and clamp is not None and needs_ferrule(school, clamp.fine, here.fine):
        found["ferrule"] = tuple(sorted(ferrule.id for ferrule in ferrules_for(places.shelf, here)))
    return {what: options for what, options in found.items() if options}


@dataclass(frozen=True)
class _Offer:
    """What would take a wire's end, whatever current runs: parts with their rated current, and seals."""

    parts: tuple[tuple[str, float | None], ...]
    seals: tuple[str, ...]


def _offer(places: Places, one: WireEnd, stuff: Stuff) -> _Offer:
    """Kept from one edit to the next as long as the wire's end is the same."""
    key = (stuff.each_mm2, stuff.each_mm)
    known = places.offers.get(one.key)
    if known is not None and known[0] is one and known[1] == key:
        offer: _Offer = known[2]
        return offer
    still = replace(stuff, amps=0.0)
    found = FAMILIES[one.made].takes(places.shelf, one, still) if one.made is not None else ()
    parts = sorted((part.id, part.rated_a if isinstance(part, Contact | Lug) else None) for part in found)
    offer = _Offer(tuple(parts), tuple(sorted(seal.id for seal in seals_for(places.shelf, one, still))))
    places.offers[one.key] = (one, key, offer)
    return offer


def needs_ferrule(school: str, clamp_takes_fine: bool, fine: bool) -> bool:
    """Whether a wire in a clamp gets a ferrule, by the house's school."""
    return school == "always" or (school == "fine" and fine and not clamp_takes_fine)


def _with_shrink(places: Places, one: WireEnd, fitting: Fitting, stuff: Stuff | None) -> Fitting:
    """A bare lug gets shrink over its barrel, adhesive in the wet."""
    lug = places.shelf.get(fitting.part, Lug)
    if lug is None or lug.lining != "bare" or fitting.shrink is not None or stuff is None:
        return fitting
    fits = sorted(
        shrinks_for(places.shelf, lug, stuff.each_mm[0], one.end.kind in STUDS),
        key=lambda part: (part.supplied_mm, part.id),
    )
    return fitting.model_copy(update={"shrink": fits[0].id}) if fits else fitting


def _shares(places: Places, amps: dict[str, float]) -> dict[tuple[str, str], float]:
    """(end, housing) → share of the rated current its contacts may carry."""
    found = {}
    for end, body, housing in places.housings():
        busy = sum(any(amps.get(one.wire.id, 0.0) > 1e-6 for one in ends) for ends in places.loaded(end, body).values())
        found[end.id, body.id] = derated(housing, busy)
    return found


def share_at(share: dict[tuple[str, str], float], one: WireEnd) -> float:
    """That share at a wire's end; all of it where no housing is known."""
    return share.get((one.end.id, one.body.id), 1.0) if one.body else 1.0


def closed_cavities(places: Places) -> dict[tuple[str, str], tuple[str, ...]]:
    """Labels of the empty cavities that are, or would be, plugged."""
    found = {}
    for end, body, housing in places.housings():
        if body.blanks is not None:
            found[end.id, body.id] = body.blanks
        elif blank_for(places.shelf, housing) is not None:
            used = places.loaded(end, body)
            found[end.id, body.id] = tuple(place.label for place in housing.cavities if place.label not in used)
    return found


def forget_proposals() -> None:
    """Puzzles solved before are solved again; for benchmarks."""
    cheapest.cache_clear()


Problem = tuple[tuple[tuple[str, ...], int], ...]


def _covered(
    places: Places, wanted: dict[tuple[str, Side, str], tuple[str, ...]]
) -> tuple[dict[tuple[str, Side, str], str], float, float]:
    """(the part of each wish, cost, bound). Wishes with the same options are one group, and each such puzzle is
    solved only once."""
    groups: dict[tuple[str, ...], int] = defaultdict(int)
    for options in wanted.values():
        groups[options] += 1
    practice = places.design.project.practice
    ids = sorted({part for options in groups for part in options})
    tools = tuple(_tool(places, part) for part in ids)
    off = tuple(_preference(places, part) for part in ids)
    picks, cost, bound = cheapest(
        tuple(sorted(groups.items())), tuple(ids), tools, off, practice.least_parts, practice.least_tools
    )
    by_options = dict(picks)
    return {key: by_options[options] for key, options in wanted.items()}, cost, bound


def _tool(places: Places, part_id: str) -> str:
    part = places.shelf.named(part_id)
    return f"{part.tool} {part.die}" if isinstance(part, Crimped) and part.tool else ""


def _preference(places: Places, part_id: str) -> float:
    """A whiff of cost, so that of two answers as good the cheaper part wins."""
    part = places.shelf.named(part_id)
    return 0.0 if part is None else min(part.price, 100.0) * 1e-4


Picks = tuple[tuple[tuple[str, ...], str], ...]


@lru_cache(maxsize=64)
def cheapest(
    groups: Problem,
    ids: tuple[str, ...],
    tools: tuple[str, ...],
    off: tuple[float, ...],
    part_cost: float,
    tool_cost: float,
) -> tuple[Picks, float, float]:
    """(what each group takes, cost, bound). Groups that share no part and no tool, not even by way of others, are
    puzzles of their own."""
    # here, as NumPy below: who only looks at an end asks for none
    from umber_trunk.core.physics.sparse import components

    number = {part: at for at, part in enumerate(ids)}
    names = {tool: len(ids) + at for at, tool in enumerate(sorted({tool for tool in tools if tool}))}
    first = len(ids) + len(names)
    heads = [first + g for g, (options, _) in enumerate(groups) for _ in options]
    tails = [number[part] for options, _ in groups for part in options]
    heads += [at for at, tool in enumerate(tools) if tool]
    tails += [names[tool] for tool in tools if tool]
    _, island = components(heads, tails, first + len(groups))
    apart: dict[int, list[tuple[tuple[str, ...], int]]] = defaultdict(list)
    for g, group in enumerate(groups):
        apart[int(island[first + g])].append(group)
    costs = Costs(dict(zip(ids, tools, strict=True)), dict(zip(ids, off, strict=True)), part_cost, tool_cost)
    found = [
        (every_way if prod(len(options) for options, _ in puzzle) <= MOST_WAYS else by_program)(puzzle, costs)
        for puzzle in apart.values()
    ]
    picks = {options: part for one in found for options, part in one[0]}
    return tuple(picks.items()), sum(one[1] for one in found), sum(one[2] for one in found)


@dataclass(frozen=True)
class Costs:
    """What a choice of parts costs: each different part and tool once, and a whiff (`off`) each time a part is taken.
    `tool` by part, "" for none."""

    tool: dict[str, str]
    off: dict[str, float]
    part_cost: float
    tool_cost: float

    def of(self, picks: Sequence[str], times: Sequence[int]) -> float:
        """Of these parts, each taken so many times."""
        used = set(picks)
        tools = {self.tool[part] for part in used} - {""}
        whiff = sum(self.off[part] * count for part, count in zip(picks, times, strict=True))
        return self.part_cost * len(used) + self.tool_cost * len(tools) + whiff


def every_way(groups: Sequence[tuple[tuple[str, ...], int]], costs: Costs) -> tuple[Picks, float, float]:
    """Few enough ways to try them all; of equal ones the first by name."""
    times = [count for _, count in groups]
    ways = product(*(options for options, _ in groups))
    cost, best = min((round(costs.of(way, times), 9), way) for way in ways)
    return tuple(zip((options for options, _ in groups), best, strict=True)), cost, cost


def by_program(groups: Sequence[tuple[tuple[str, ...], int]], costs: Costs) -> tuple[Picks, float, float]:
    """The same as an integer program for HiGHS: x of each (group, part), y of each part, t of each tool."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp  # here: few harnesses have so many ways
    from scipy.sparse import coo_array

    ids = sorted({part for options, _ in groups for part in options})
    number = {part: at for at, part in enumerate(ids)}
    names = sorted({costs.tool[part] for part in ids} - {""})
    pairs = [(g, part) for g, (options, _) in enumerate(groups) for part in options]
    n, m, k = len(pairs), len(ids), len(names)
    entries: list[tuple[int, int, float]] = []
    low: list[float] = []
    high: list[float] = []

    def add(row: list[tuple[int, float]], least: float, most: float) -> None:
        entries.extend((len(low), col, value) for col, value in row)
        low.append(least)
        high.append(most)

    by_group: dict[int, list[int]] = defaultdict(list)
    for at, (g, part) in enumerate(pairs):
        by_group[g].append(at)
        add([(at, 1.0), (n + number[part], -1.0)], -np.inf, 0.0)
    for g in range(len(groups)):
        add([(at, 1.0) for at in by_group[g]], 1.0, 1.0)
    for at, part in enumerate(ids):
        if costs.tool[part]:
            add([(n + at, 1.0), (n + m + names.index(costs.tool[part]), -1.0)], -np.inf, 0.0)
    whiffs = [costs.off[part] * groups[g][1] for g, part in pairs]
    rows, cols, values = zip(*entries, strict=True)
    found = milp(
        np.concatenate([whiffs, np.full(m, costs.part_cost), np.full(k, costs.tool_cost)]),
        integrality=np.concatenate([np.zeros(n), np.ones(m), np.zeros(k)]),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(coo_array((values, (rows, cols)), shape=(len(low), n + m + k)).tocsc(), low, high),
        options={"node_limit": NODES, "mip_rel_gap": 1e-6},
    )
    if found.x is None:
        return tuple((options, options[0]) for options, _ in groups), float("inf"), 0.0
    picks = []
    for g, (options, _) in enumerate(groups):
        best = max(by_group[g], key=lambda at: (round(float(found.x[at]), 3), -costs.off[pairs[at][1]], -at))
        picks.append((options, pairs[best][1]))
    return tuple(picks), float(found.fun), float(found.mip_dual_bound if found.mip_dual_bound is not None else 0.0)
