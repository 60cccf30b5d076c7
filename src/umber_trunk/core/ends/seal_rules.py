"""What keeps the water out of a housing: a seal on each wire, or the bores of a grommet."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

from umber_trunk.core.catalog.parts import Housing, Seal
from umber_trunk.core.ends.judging import WARNING, Fit, Judging
from umber_trunk.core.ends.reach import Stuff, ranked, seals_for
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.harness.model import Fitting
from umber_trunk.core.sentences import Message
from umber_trunk.core.units import significant


def tight(judge: Judging, one: WireEnd, stuff: Stuff, fitting: Fitting, housing: Housing) -> Iterator[Fit | None]:
    """Whether water stays out of a housing along this wire."""
    zone = judge.index.zones.get(one.end.zone or "")
    if housing.seal == "none" and zone is not None and zone.wet:
        values = {"part": housing.name, "zone": zone.name}
        yield judge.fit(one, housing.id, "zone.wet", False, values, severity=WARNING)
    if housing.seal == "wire seals":
        yield from _wire_seal(judge, one, stuff, fitting, housing)
    elif housing.seal == "grommet" and housing.wire_mm is not None:
        for mm in sorted(set(stuff.each_mm)):
            band, rule = housing.wire_mm, "grommet.insulation"
            yield judge.within(one, housing, rule, band, mm, "mm", Message.of("fit.what.insulation"), tuple)
        if len(stuff.each_mm) > 1:
            yield _crowded(judge, one, stuff, housing.id, "grommet.single", bore=True)


def _crowded(judge: Judging, one: WireEnd, stuff: Stuff, part: str | None, rule: str, bore: bool) -> Fit | None:
    values = {"many": (many := len(stuff.each_mm)), "bore": bore}
    return judge.fit(one, part, rule, False, values, float(many), (None, 1.0), "wires", form="crowded")


def _wire_seal(judge: Judging, one: WireEnd, stuff: Stuff, fitting: Fitting, housing: Housing) -> Iterator[Fit | None]:
    """One wire, with a seal of this cavity that is tight on its outside."""
    seal, rule, outer_mm = judge.shelf.get(fitting.seal, Seal), "seal.insulation", stuff.each_mm[0]
    if len(stuff.each_mm) > 1:
        yield _crowded(judge, one, stuff, fitting.seal, rule, bore=False)
    elif fitting.seal is not None and seal is None:
        yield judge.unknown(one, fitting.seal, "seal")
    elif seal is None:
        bands = [
            part.wire_mm
            for part in judge.shelf.of(Seal)
            if one.place and part.size == one.place.size and part.family == housing.family
        ]
        takes = min((band.low for band in bands), default=None), max((band.high for band in bands), default=None)
        values = {"outer_mm": significant(outer_mm)}
        yield judge.fit(one, None, rule, False, values, outer_mm, takes, "mm", form="seal.none")
    else:
        options = cache(lambda: ranked(seals_for(judge.shelf, one, stuff), outer_mm))
        if one.place is None or seal.size != one.place.size or seal.family != housing.family:
            yield judge.fit(one, seal.id, "seal.size", False, {"part": seal.name}, options=options)
        what = Message.of("fit.what.insulation")
        yield judge.within(one, seal, rule, seal.wire_mm, outer_mm, "mm", what, options)
