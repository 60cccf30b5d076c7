"""Lugs on studs: the hole, the barrel, the shrink over it, the current and the heat they stand.

  flat    barrel      insulation
( ◯ ───┤▒▒▒▒▒▒▒▒▒├════════════════ wire
        └─── shrink ───┘
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from math import isfinite

from umber_trunk.core.catalog.parts import Lug, Shrink
from umber_trunk.core.ends.barrel_rules import barrel_fits
from umber_trunk.core.ends.judging import Fit, Judging
from umber_trunk.core.ends.reach import STUD_SLACK_MM, Stuff, hole_fits, lugs_for, ranked, shrinks_for
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.harness.model import Fitting
from umber_trunk.core.sentences import Message
from umber_trunk.core.units import significant


def shrink_on(lug: Lug, shrink: Shrink, outer_mm: float) -> tuple[float, float, float]:
    """(mm of barrel covered, mm of insulation covered, length to cut) of shrink on a lug: the whole barrel and one and
    a half times the wire's outside, at least 12 mm, over its insulation; it shortens as it recovers."""
    over = max(12.0, 1.5 * outer_mm)
    return lug.barrel_mm, over, (lug.barrel_mm + over) / (1 - shrink.shortens)


def lug_made(judge: Judging, one: WireEnd, stuff: Stuff, fitting: Fitting, part: Lug) -> Iterator[Fit | None]:
    """What holds of a lug and its wire: the hole for the stud, barrel, wings, the shrink over it."""
    options = cache(lambda: ranked(lugs_for(judge.shelf, one, stuff), stuff.area_mm2))
    if one.end.stud_mm:
        ok = hole_fits(part, one.end.stud_mm)
        yield judge.fit(
            one,
            part.id,
            "stud.hole",
            ok,
            {"stud_mm": one.end.stud_mm, "hole_mm": part.stud_mm},
            one.end.stud_mm,
            (part.stud_mm - STUD_SLACK_MM, part.stud_mm),
            "mm",
            options,
            source=part.source,
        )
    yield from barrel_fits(judge, one, stuff, part, options)
    if part.insulation_mm is not None:
        yield judge.within(
            one,
            part,
            "wings.insulation",
            part.insulation_mm,
            stuff.each_mm[0],
            "mm",
            Message.of("fit.what.insulation"),
            options,
            form="wings.lug",
        )
    yield from _shrink_fits(judge, one, stuff, fitting, part)


def _shrink_fits(judge: Judging, one: WireEnd, stuff: Stuff, fitting: Fitting, lug: Lug) -> Iterator[Fit | None]:
    shrink = judge.shelf.get(fitting.shrink, Shrink)
    if fitting.shrink is not None and shrink is None:
        yield judge.unknown(one, fitting.shrink, "shrink")
    if shrink is None:
        return
    outer = stuff.each_mm[0]
    options = cache(
        lambda: tuple(
            part.id for part in sorted(shrinks_for(judge.shelf, lug, outer, False), key=lambda p: p.supplied_mm)[:4]
        )
    )
    widest, least = max(outer, lug.barrel_od_mm), min(outer, lug.barrel_od_mm)
    yield judge.fit(
        one,
        shrink.id,
        "shrink.passes",
        shrink.supplied_mm > widest,
        {"shrink_mm": shrink.supplied_mm, "over_mm": significant(widest)},
        shrink.supplied_mm,
        (widest, None),
        "mm",
        options,
        source=shrink.source,
    )
    yield judge.fit(
        one,
        shrink.id,
        "shrink.grips",
        shrink.recovered_mm < least,
        {"shrink_mm": shrink.recovered_mm, "grips_mm": significant(least)},
        shrink.recovered_mm,
        (None, least),
        "mm",
        options,
        source=shrink.source,
    )
    covered = shrink_on(lug, shrink, outer)[0]
    yield judge.fit(
        one,
        shrink.id,
        "shrink.clear",
        covered <= lug.barrel_mm,
        {"covered_mm": significant(covered), "barrel_mm": lug.barrel_mm},
        covered,
        (None, lug.barrel_mm),
        "mm",
    )


def lug_runs(judge: Judging, one: WireEnd, stuff: Stuff, part: Lug) -> Iterator[Fit | None]:
    """What the wire’s current and heat ask of a lug."""
    options = cache(lambda: ranked(lugs_for(judge.shelf, one, stuff), stuff.area_mm2))
    if part.rated_a is not None:
        yield judge.fit(
            one,
            part.id,
            "contact.current",
            stuff.amps <= part.rated_a * (1 + 1e-9),
            {"amps": significant(stuff.amps), "rated_a": part.rated_a},
            stuff.amps,
            (None, part.rated_a),
            "A",
            options,
            source=part.source,
            form="lug.current",
        )
    wire_c = judge.results.figures.wires[one.wire.id].conductor_c
    if part.limit_c is not None and isfinite(wire_c):
        yield judge.fit(
            one,
            part.id,
            "contact.heat",
            wire_c <= part.limit_c,
            {"wire_c": wire_c, "limit_c": part.limit_c},
            float(wire_c),
            (None, part.limit_c),
            "°C",
            options,
            source=part.source,
            form="lug.heat",
        )
