"""What a crimp holds: its area, the die for it, how many wires may share it."""

from __future__ import annotations

from collections.abc import Iterator

from umber_trunk.core.catalog.parts import Crimped
from umber_trunk.core.ends.judging import FAULT, WARNING, Fit, Judging, Options
from umber_trunk.core.ends.reach import Stuff, barrel_mm2, crimp_for, is_folded
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.sentences import Message
from umber_trunk.core.units import significant


def barrel_fits(judge: Judging, one: WireEnd, stuff: Stuff, part: Crimped, options: Options) -> Iterator[Fit | None]:
    """The conductors in a barrel, folded double where the house does so, and the crimp its sheet has for them."""
    many = len(stuff.each_mm) if one.made != "lug" else 1
    folded = judge.practice.thin == "fold" and many == 1
    plain = barrel_mm2(part, stuff)
    double = is_folded(one, judge.practice, stuff)
    area = plain * (2 if double else 1)
    may = folded and not one.fitting.folded and part.area_mm2.holds(2 * plain)
    yield judge.within(
        one,
        part,
        "barrel.area",
        part.area_mm2,
        area,
        "mm²",
        Message.of("fit.what.conductors", several=many if many > 1 else 0, double=area > plain),
        options,
        WARNING if may else FAULT,
        fold=may,
    )
    if part.crimps:
        near = crimp_for(part, plain, double)
        yield judge.fit(
            one,
            part.id,
            "tool.die",
            near is not None,
            {
                "height_mm": near.height_mm if near else 0.0,
                "plus_minus_mm": near.plus_minus_mm if near else 0.0,
                "die": part.die if near else "",
                "area_mm2": significant(area),
            },
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
            {"many": many},
            float(many),
            (None, 1.0),
            "wires",
        )
