"""What mends a finding. An edit is tried before it is said: afterwards the finding is gone and no fault or warning is
new anywhere, else it isn't offered. What only hands can do is advice, with what it would be worth."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import parse_size, series, show_size
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.assign import WORN, accept, set_fitting, set_housing, swap
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.fits import misfits
from umber_trunk.core.ends.judging import Fit
from umber_trunk.core.ends.wire_ends import SIDES, Side, places_of
from umber_trunk.core.errors import UmberError, Wanted, always, go_on_if
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.fuses.fit import link_duties
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness.edits import change, put, put_all, set_fuse
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.screens import screens_of
from umber_trunk.core.lengths.accept import take_covers, take_places
from umber_trunk.core.needs.enter import taped
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import NOTHING, Message
from umber_trunk.core.sizes.metre import metre_of
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.units import show_length, significant

MOST_TRIED = 12
"""Edits tried for one finding; the likeliest come first."""
MOST_KEPT = 4
"""Edits offered for one finding."""
MOST_IN_ALL, MOST_WIRES = 60, 2400
"""Edits tried for all findings of a harness together, and wires of all these tries: each is a whole analysis."""
SIZED = ("part.fits", "barrel.area", "contact.heat", "contact.current", "wings.insulation", "seal.insulation")
"""Rules of fits that another size of the wire may meet."""

Edit = Callable[[Design], Design]
Candidate = tuple[Message, Edit]
"""What an edit would do, in words, and the edit."""


@dataclass(frozen=True)
class Cure:
    """One way to mend a finding, in words. `edit` does it, None for advice; `leaves` are the ids of faults and warnings
    still open afterwards; `was` and `then` say how its part stands before and after."""

    text: Message
    edit: Edit | None = None
    leaves: tuple[str, ...] = ()
    was: Message = NOTHING
    then: Message = NOTHING


def cures_of_all(results: Results, wanted: Wanted = always) -> tuple[dict[str, list[Cure]], set[str]]:
    """(Id of each fault and warning → what mends it, those for which all edits were tried.) The worst come first; once
    as much was tried as is bearable, the rest have advice alone, until they are asked for by name (`cures_of`)."""
    left = min(MOST_IN_ALL, MOST_WIRES // max(len(results.design.wires), 1))
    cures: dict[str, list[Cure]] = {}
    whole: set[str] = set()
    for finding in results.findings:
        if finding.severity < Severity.NOTE:
            cures[finding.id], tried = _tried(results, finding, wanted, min(left, MOST_TRIED))
            if tried < left or tried >= MOST_TRIED:
                whole.add(finding.id)
            left -= tried
    return cures, whole


def cures_of(results: Results, finding: Finding, wanted: Wanted = always) -> list[Cure]:
    """What mends a finding of these results: edits that were tried, the least change first, then advice. Stopped once
    the answer isn't `wanted`."""
    return _tried(results, finding, wanted, MOST_TRIED)[0]


def _tried(results: Results, finding: Finding, wanted: Wanted, most: int) -> tuple[list[Cure], int]:
    """Its cures, and how many edits were tried for them."""
    known = {row.id for row in results.findings if row.severity < Severity.NOTE}
    found: list[Cure] = []
    seen: list[Design] = []
    for text, edit in _candidates(results, finding):
        if len(seen) >= most or len(found) >= MOST_KEPT:
            break
        go_on_if(wanted)
        try:
            after = edit(results.design)
        except UmberError:
            continue
        if after == results.design or after in seen:
            continue
        seen.append(after)
        then = analyse(after, results.shelf, results, wanted)
        ids = {row.id for row in then.findings if row.severity < Severity.NOTE}
        if finding.id in ids or ids - known:
            continue
        found.append(Cure(text, edit, tuple(sorted(ids)), _stands(results, finding), _stands(then, finding)))
    return [*found, *_advice(results, finding, bool(found))], len(seen)


def _stands(results: Results, finding: Finding) -> Message:
    """How the part a finding is about stands, in figures; else how much is open in all."""
    open_ = sum(row.severity < Severity.NOTE for row in results.findings)
    load = results.figures.loads.get(finding.subject)
    if load is not None and np.isfinite(load.volts):
        return _said("load", load=load.load.name, volts=load.volts, open=open_)
    wire = results.figures.wires.get(finding.subject)
    if wire is not None and wire.size_known:
        name, size = wire.wire.name or wire.wire.id, show_size(wire.size)
        return _said("wire", wire=name, size=size, hot_c=wire.conductor_c, open=open_)
    return _said("open", open=open_)


def finding_of(results: Results, said: str) -> Finding | None:
    """The finding that an id or CODE:SUBJECT names, None where none or several do."""
    exact = [row for row in results.findings if row.id == said]
    like = exact or [
        row for row in results.findings if f"{row.code}:{row.subject}" == said or row.id.startswith(f"{said}/")
    ]
    return like[0] if len(like) == 1 else None


def _candidates(results: Results, finding: Finding) -> Iterator[Candidate]:
    """Edits that may mend a finding, the least change first."""
    code = finding.code
    if code.startswith("fit."):
        yield from _of_fit(results, finding)
    elif code in ("wire.hot", "wire.surge", "wire.handling", "wire.fuse"):
        if code == "wire.fuse":
            yield from _own_fuse(results, finding.subject)
        yield from _thicker(results, finding.subject)
    elif code in ("load.drop", "load.dip", "load.no_solution", "fuse.weak_fault", "contact.overload"):
        yield from _way_thicker(results, finding.subject)
    elif code == "wire.unprotected":
        yield _said("place-fuses"), lambda design: place_fuses(design, results.figures).design
    elif code in ("fuse.no_rating", "fuse.surge", "link.overload"):
        yield from _rated(results, finding)
    elif code == "load.reversed":
        yield _said("swap-poles"), lambda design: _swapped(design, finding.subject)
    elif code == "cover.fit":
        yield from _of_cover(results, finding)
    elif code.startswith("join."):
        yield _said("splice-places"), lambda design: take_places(design, results)
    elif code == "screen-two-grounds":
        yield from _taped_once(results, finding.subject)
    elif code == "load.left_out":
        yield _said("in-every-case"), lambda design: _in_cases(design, finding.subject)


def _steps(results: Results, wire_id: str) -> tuple[list[str], list[str]]:
    """The sizes below a wire's own and those above it, the nearest first."""
    wire = index_of(results.design).wires[wire_id]
    size = wire.size or results.sizes.get(wire_id)
    if size is None:
        return [], []
    area = parse_size(size).area_mm2
    steps = sorted(series("awg" if size.startswith("AWG") else "metric"), key=lambda one: one.area_mm2)
    return (
        [step.label for step in reversed(steps) if step.area_mm2 < area * (1 - 1e-9)],
        [step.label for step in steps if step.area_mm2 > area * (1 + 1e-9)],
    )


def _thicker(results: Results, wire_id: str) -> Iterator[Candidate]:
    """A wire's next sizes; with its partner of the same load and size where both need it."""
    wires = index_of(results.design).wires
    if wire_id not in wires:
        return
    wire = wires[wire_id]
    beside = [
        one.id for one in results.design.wires if one.circuit and one.circuit == wire.circuit and one.size == wire.size
    ]
    for label in _steps(results, wire_id)[1][:4]:
        yield _size(wire.name or wire.id, label), _sized([wire_id], label)
        if len(beside) > 1:
            told = _said("circuit", count=len(beside), circuit=wire.circuit, size=show_size(label))
            yield told, _sized(beside, label)


def _thinner(results: Results, wire_id: str) -> Iterator[Candidate]:
    """A wire's next sizes below its own."""
    name = index_of(results.design).wires[wire_id].name or wire_id
    for label in _steps(results, wire_id)[0][:2]:
        yield _size(name, label), _sized([wire_id], label)


def _said(key: str, **values: Any) -> Message:
    """What a cure says."""
    return Message.of(f"mend.{key}", **values)


def _size(wires: str, label: str) -> Message:
    return _said("size", wires=wires, size=show_size(label))


def _sized(wires: list[str], label: str) -> Edit:
    """Wires at another size; what is locked stays so."""
    return lambda design: put_all(design, "wires", [change(index_of(design).wires[one], size=label) for one in wires])


def _way_thicker(results: Results, load_id: str) -> Iterator[Candidate]:
    """The wires on a load's way: the one that loses most by steps, it and the next, then all that it would take
    thicker."""
    found = results.figures
    entry = found.loads.get(load_id)
    if entry is None or not np.isfinite(entry.volts):
        return
    plant = found.solution.plant
    legs = Ways(plant, found.cases[entry.case]).of(entry.row)
    worst = sorted((leg for leg in legs if leg.branch < len(plant.wires)), key=lambda leg: -leg.volts)
    ids = list(dict.fromkeys(plant.wires[leg.branch].id for leg in worst))
    for label in _steps(results, ids[0])[1][:3] if ids else []:
        yield _size(plant.wires[worst[0].branch].name or ids[0], label), _sized(ids[:1], label)
        if len(ids) > 1:
            yield _size(", ".join(ids[:2]), label), _sized(ids[:2], label)
    wires = index_of(results.design).wires
    open_ = [one for one in ids if not wires[one].locked]
    unsized = put_all(results.design, "wires", [change(wires[one], size=None) for one in open_])
    proposed = analyse(unsized, results.shelf, results, upto="sizes").sizes
    areas = {one: parse_size(wires[one].size).area_mm2 for one in open_ if wires[one].size}
    higher = {
        one: proposed[one]
        for one in areas
        if one in proposed and parse_size(proposed[one]).area_mm2 > areas[one] * (1 + 1e-9)
    }
    if higher:
        shown = ", ".join(f"{one} {show_size(size)}" for one, size in list(higher.items())[:5])
        yield (
            _said("way", sizes=shown),
            lambda design: put_all(
                design, "wires", [change(index_of(design).wires[one], size=size) for one, size in higher.items()]
            ),
        )


def _own_fuse(results: Results, wire_id: str) -> Iterator[Candidate]:
    plant = results.plant
    row = plant.row.get(wire_id)
    guard = results.figures.guards[row] if row is not None else None
    amps = significant(results.figures.wires[wire_id].amps) if wire_id in results.figures.wires else ""
    if guard is not None:
        yield (
            _said("own-fuse", amps=amps, rating=guard.rating_a),
            lambda design: place_fuses(design, results.figures).design,
        )


def _rated(results: Results, finding: Finding) -> Iterator[Candidate]:
    end, _, link = finding.subject.rpartition(" ")
    duty = results.once(link_duties).get((end, link))
    rating = duty.fitting() if duty is not None and duty.amps > 0 else None
    if rating is not None:
        yield _said("rating", link=link, rating=rating), lambda design: set_fuse(design, end, link, rating)


def _swapped(design: Design, load_id: str) -> Design:
    load = index_of(design).loads[load_id]
    return put(design, "loads", change(load, plus=load.minus, minus=load.plus))


def _taped_once(results: Results, wire_id: str) -> Iterator[Candidate]:
    """A screen cut back and taped at one of its ends, the instrument's first."""
    index = index_of(results.design)
    if all(screen.wire != wire_id for screen in screens_of(index).values()):
        return
    wire = index.wires[wire_id]
    loads = {load.plus.end for load in results.design.loads}
    for pin in sorted((wire.start, wire.finish), key=lambda one: one.end not in loads):
        yield _said("tape-screen", end=index.ends[pin.end].name), partial(taped, pin=pin)


def _in_cases(design: Design, load_id: str) -> Design:
    cases = [
        change(case, loads=(*case.loads, load_id))
        for case in design.cases
        if case.loads is not None and load_id not in case.loads
    ]
    return put_all(design, "cases", cases) if cases else design


def _of_cover(results: Results, finding: Finding) -> Iterator[Candidate]:
    segment_id, _, cover_id = finding.subject.rpartition(" ")

    def bare(design: Design) -> Design:
        segment = index_of(design).segments[segment_id]
        covers = tuple(change(one, part=None) if one.id == cover_id else one for one in segment.covers)
        return put(design, "segments", change(segment, covers=covers))

    def chosen(design: Design) -> Design:
        open_ = bare(design)
        return take_covers(open_, analyse(open_, results.shelf))

    def before(design: Design) -> Design:
        segment = index_of(design).segments[segment_id]
        covers = tuple(change(one, after=False) if one.id == cover_id else one for one in segment.covers)
        return put(design, "segments", change(segment, covers=covers))

    yield _said("cover-part"), chosen
    yield _said("cover-before"), before


def _of_fit(results: Results, finding: Finding) -> Iterator[Candidate]:
    """Parts that would do in place of what doesn't fit; wires that changed places; cavities left open."""
    fit = next((one for one in results.once(misfits) if one.id == finding.subject), None)
    if fit is None:
        return
    shelf = results.shelf
    places = places_of(results.design, shelf)
    for side in SIDES:
        one = places.by_key.get((fit.wire, side))
        if one is None or one.end.id != fit.end:
            continue
        yield from _parts_for(results, fit, side)
    if fit.wire and fit.rule in SIZED:
        yield from _thicker(results, fit.wire)
        yield from _thinner(results, fit.wire)
    if fit.rule.startswith("cavity.plugged"):
        yield _said("plug-open"), lambda design: _plugged(design, results, fit.end)
    yield from _crossed(results, fit)
    if not fit.wire:
        for option in fit.options[:4]:
            body = next((one.id for end in results.design.ends if end.id == fit.end for one in end.housings), None)
            if body is not None:
                yield (
                    _said("part-on-it", part=shelf.name(option)),
                    partial(set_housing, end_id=fit.end, body_id=body, part=option, shelf=shelf),
                )


def _parts_for(results: Results, fit: Fit, side: Side) -> Iterator[Candidate]:
    shelf = results.shelf
    for option in fit.options[:5]:
        kind = type(shelf.named(option)).__name__.lower()
        field = kind if kind in WORN else "part"
        yield (
            _said("part-on", part=shelf.name(option), place=fit.wire),
            partial(_worn, fit.wire, side, {field: option}, shelf),
        )

    def anew(design: Design) -> Design:
        wire = index_of(design).wires[fit.wire]
        open_ = put(design, "wires", change(wire, **{f"at_{side}": None}))
        found = analyse(open_, shelf)
        return accept(open_, found.once(fitted), [(fit.wire, side)], shelf)

    yield _said("proposed-parts", wire=fit.wire), anew


def _worn(wire: str, side: Side, parts: dict[str, str], shelf: Shelf, design: Design) -> Design:
    return set_fitting(design, wire, side, shelf, **parts)


def _plugged(design: Design, results: Results, end_id: str) -> Design:
    """What is open at an end closed, by the places that stay empty."""
    known, places = results.once(fitted), places_of(design, results.shelf)
    end = index_of(design).ends[end_id]
    open_ = {
        body.id: known.blanks.get((end_id, body.id))
        or tuple(place.label for place in housing.cavities if place.label not in places.loaded(owner, body))
        for owner, body, housing in places.housings()
        if owner.id == end_id
    }
    bodies = tuple(change(body, blanks=open_[body.id]) if body.id in open_ else body for body in end.housings)
    return put(design, "ends", change(end, housings=bodies))


def _crossed(results: Results, fit: Fit) -> Iterator[Candidate]:
    """Two wires of the same end that would be right the other way round."""
    mine = next((end for end in results.design.ends if end.id == fit.end), None)
    if mine is None or not fit.cavity:
        return
    for other in [label for label in _labels_of(results, fit) if label != fit.cavity][:5]:
        yield (
            _said("change-wires", one=fit.cavity, other=other, end=mine.name),
            partial(swap, end_id=fit.end, label=fit.cavity, other=other, shelf=results.shelf),
        )


def _labels_of(results: Results, fit: Fit) -> list[str]:
    return list(
        dict.fromkeys(
            one.cavity for one in results.once(misfits) if one.end == fit.end and one.cavity and one.rule == fit.rule
        )
    )


def _advice(results: Results, finding: Finding, mended: bool) -> list[Cure]:
    """What hands can do, with what it would be worth where that can be worked out."""
    found = [Cure(finding.mends)] if finding.mends and not mended else []
    entry = results.figures.loads.get(finding.subject) if finding.code in ("load.drop", "load.dip") else None
    if entry is not None and np.isfinite(entry.volts):
        worth = metre_of(results.figures, entry.load.id)
        over = entry.wiring_v - entry.allowed_v
        if worth.volts > 1e-6:
            need = over / worth.volts
            less = show_length(need) if 0 < need < 100 else ""
            found.append(Cure(_said("closer", volts=significant(worth.volts), less=less)))
    return found
