"""Every fit of every end judged: what was asked, what it is, between what it has to be, and what would mend it.

A rule is judged only where both figures are known: what a sheet leaves out is not called fine.
"""

from __future__ import annotations

from collections.abc import Iterator

from umber_trunk.core.ends.body_rules import BodyRules
from umber_trunk.core.ends.judging import Fit
from umber_trunk.core.ends.reach import Stuff
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.ends.wire_rules import WireRules
from umber_trunk.core.results import Results


def fits(results: Results) -> list[Fit]:
    """Every fit of a design, in the order of its wires; for `Results.once`."""
    return [fit for fit in _Judge(results).all() if fit is not None]


def misfits(results: Results) -> list[Fit]:
    """Those that aren't met alone, in a part of the time; for `Results.once`."""
    if results.has(fits):
        return [fit for fit in results.once(fits) if not fit.ok]
    return [fit for fit in _Judge(results, whole=False).all() if fit is not None]


class _Judge(WireRules, BodyRules):
    def all(self) -> Iterator[Fit | None]:
        done: set[tuple[str, str]] = set()
        for one in self.places.ends:
            stuff = self.fitted.stuff.get(one.key)
            if one.body is not None and one.body.part and one.housing is None and (one.end.id, one.body.id) not in done:
                done.add((one.end.id, one.body.id))
                yield self.unknown(one, one.body.part, "housing")
            if one.made is not None and stuff is not None:
                yield from self._end(one, stuff)
        yield from self.bodies_right()

    def _end(self, one: WireEnd, stuff: Stuff) -> Iterator[Fit | None]:
        """What the wire and its parts decide is kept from one edit to the next, as long as neither changes."""
        fitting = self.fitted.of(one)
        if self.whole:
            yield from self.made_right(one, stuff, fitting)
        else:
            key = (fitting, stuff.each_mm2, stuff.each_mm, stuff.fine, self.practice)
            known = self.places.judged.get(one.key)
            if known is None or known[0] is not one or known[1] != key or known[2]:
                wrong = [fit for fit in self.made_right(one, stuff, fitting) if fit is not None]
                known = self.places.judged[one.key] = (one, key, wrong)
            yield from known[2]
        yield from self.runs_right(one, stuff, fitting)


def worst_first(results: Results) -> list[Fit]:
    """All fits, those that aren't met first, for `Results.once`."""
    return sorted(results.once(fits), key=lambda fit: (fit.ok, fit.severity, -fit.off))
