"""Where no part on the shelf takes a wire: a wire to suit the place, or a place to suit the wire."""

from __future__ import annotations

from umber_trunk.core.catalog.parts import Contact, Crimped, Housing, Lug, Splice
from umber_trunk.core.ends.covering import share_at
from umber_trunk.core.ends.families import FAMILIES
from umber_trunk.core.ends.judging import Fit, Judging
from umber_trunk.core.ends.reach import Stuff
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.sentences import Message, joined
from umber_trunk.core.units import significant


def nothing_fits(judge: Judging, one: WireEnd, stuff: Stuff) -> Fit | None:
    """No part takes this wire: both ways out, a wire to suit the place and a place to suit the wire."""
    share = share_at(judge.fitted.share, one)
    candidates = _candidates(judge, one)
    bands = [part.area_mm2 for part in candidates]
    takes = sorted({band.high for band in bands})
    strong = [
        part.area_mm2
        for part in candidates
        if not isinstance(part, Contact | Lug) or part.rated_a is None or stuff.amps <= share * part.rated_a
    ]
    ways: list[Message] = []
    if not strong and candidates:
        ways.append(Message.of("fit.way.split", cavities=one.made == "contact"))
    elif any(band.holds(stuff.area_mm2) for band in strong):
        ways.append(Message.of("fit.way.outside"))
    elif larger := [band.low for band in strong if band.low > stuff.area_mm2]:
        ways.append(Message.of("fit.way.up", area_mm2=min(larger)))
    elif strong:
        ways.append(Message.of("fit.way.down", area_mm2=max(band.high for band in strong)))
    if one.housing is not None:
        ways.append(Message.of("fit.way.housing", other=_other_housing(judge, one.housing, stuff)))
    else:
        ways.append(Message.of("fit.way.stud"))
    return judge.fit(
        one,
        None,
        "part.fits",
        False,
        {
            "kind": one.made,
            "area_mm2": significant(stuff.area_mm2),
            "outside": joined("any.and", [Message.of("fit.mm", mm=significant(mm)) for mm in stuff.each_mm]),
            "amps": significant(stuff.amps),
            "ways": joined("any.or", ways),
        },
        stuff.area_mm2,
        (min((band.low for band in bands), default=None), takes[-1] if takes else None),
        "mm²",
    )


def _candidates(judge: Judging, one: WireEnd) -> list[Crimped]:
    there = FAMILIES[one.made].there(judge.shelf, one) if one.made is not None else None
    return list(judge.shelf.of(Splice) if there is None else there)


def _other_housing(judge: Judging, here: Housing, stuff: Stuff) -> str:
    """The smallest housing of another kind with contacts for this wire, sealed if this one is; "" where there is
    none."""
    key = (here.id, round(stuff.area_mm2, 3), stuff.each_mm, round(stuff.amps, 2))
    if key not in judge.other_housings:
        fitting = [
            housing
            for housing in judge.shelf.of(Housing)
            if housing.id != here.id
            and housing.form == here.form
            and len(housing.cavities) >= len(here.cavities)
            and (housing.seal != "none") == (here.seal != "none")
            and _has_contact(judge, housing, stuff)
        ]
        first = min(fitting, key=lambda one: (len(one.cavities), one.name), default=None)
        judge.other_housings[key] = first.name if first is not None else ""
    return judge.other_housings[key]


def _has_contact(judge: Judging, housing: Housing, stuff: Stuff) -> bool:
    return any(
        part.area_mm2.holds(stuff.area_mm2)
        and (part.rated_a is None or stuff.amps <= part.rated_a)
        and all(part.insulation_mm is None or part.insulation_mm.holds(mm) for mm in stuff.each_mm)
        for size in {cavity.size for cavity in housing.cavities}
        for part in judge.shelf.contacts(housing.family, size, housing.contacts)
    )
