"""What a crimp holds: its area, the die for it, how many wires may share it."""

from __future__ import annotations

from collections.abc import Iterator

from umber_trunk.core.catalog.parts import Crimped
from umber_trunk.core.ends.judging import FAULT, WARNING, Fit, Judging, Options
from umber_trunk.core.ends.reach import Stuff, barrel_mm2, crimp_for, is_folded
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.units import significant


def barrel_fits(judge: Judging, one: WireEnd, stuff: Stuff, part: Crimped, options: Options) -> Iterator[Fit | None]:
    """The conductors in a barrel, folded double where the house does so, and the crimp its sheet has for them."""
    many = len(stuff.each_mm) if one.made != "lug" else 1
    what = "conductor" if many == 1 else f"{many} conductors, together"
    folded = judge.practice.thin == "fold" and many == 1
    plain = barrel_mm2(part, stuff)
    double = is_folded(one, judge.practice, stuff)
    area = plain * (2 if double else 1)
    may = folded and not one.fitting.folded and part.area_mm2.holds(2 * plain)
    cure = "Choose the part for this area, or a wire to suit."
    yield judge.within(
        one,
        part,
        "barrel.area",
        part.area_mm2,
        area,
        "mm²",
        f"{what} folded double" if area > plain else what,
        f"{cure} Folding it double, recorded, would fill it." if may else cure,
        options,
        WARNING if may else FAULT,
    )
    if part.crimps:
        near = crimp_for(part, plain, double)
        die = f" in die {part.die}" if part.die else ""
        yield judge.fit(
            one,
            part.id,
            "tool.die",
            near is not None,
            f"crimped to {near.height_mm:g} ± {near.plus_minus_mm:g} mm{die}."
            if near is not None
            else f"its sheet has no crimp for {significant(area)} mm².",
            "Ask its maker for the setting, or choose another part.",
            area,
            (part.crimps[0].area_mm2, part.crimps[-1].area_mm2),
            "mm²",
            options,
            source=part.source,
        )
    if many > 1 and one.made == "contact" and judge.practice.sharing == "never":
        yield judge.fit(
            one,
            part.id,
            "contact.shared",
            False,
            f"{many} wires share a contact; this house doesn't do that.",
            "Join them in a splice and bring one wire.",
            float(many),
            (None, 1.0),
            "wires",
        )
