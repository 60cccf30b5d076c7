"""Findings about ends: every fit that doesn't hold, and the cautions that go with what is at the ends."""

from __future__ import annotations

from collections.abc import Iterator

from umber_trunk.core.catalog.parts import Lug
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.fits import misfits
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.results import Results

NOTE = Severity.NOTE


def check_ends(results: Results) -> Iterator[Finding]:
    """Everything to say of a design's ends."""
    yield from _between_batteries(results)
    places = places_of(results.design, results.shelf)
    if (
        not any(one.made for one in places.ends)
        and not places.housings()
        and not any(body.part for end in results.design.ends for body in end.housings)
    ):
        return
    for fit in results.once(misfits):
        would = ", ".join(places.shelf.name(part) for part in fit.options[:3])
        yield Finding.of(
            f"fit.{fit.rule}",
            fit.severity,
            "ends",
            "fits",
            fit.id,
            form="any.ends",
            message=fit.said,
            cure=fit.mend,
            would=would,
        )
    known = results.once(fitted)
    lugs = [places.shelf.get(known.of(one).part, Lug) for one in places.ends if one.made == "lug"]
    if any(lug is not None and lug.lining == "adhesive" for lug in lugs):
        yield Finding.of("caution.adhesive", NOTE, "ends", "ends", "")
    if any(cavity.role == "earth" for _, _, housing in places.housings() for cavity in housing.cavities):
        yield Finding.of("caution.cord", NOTE, "ends", "ends", "")


def _between_batteries(results: Results) -> Iterator[Finding]:
    """The order of connecting a jump lead."""
    plus = {supply.plus.end for supply in results.design.supplies if not supply.ac}
    if len(plus) > 1 and any(
        {wire.start.end, wire.finish.end} <= plus and wire.start.end != wire.finish.end for wire in results.design.wires
    ):
        yield Finding.of("caution.jump_lead", NOTE, "ends", "ends", "")
