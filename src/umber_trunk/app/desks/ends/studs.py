"""Which lugs lie on which stud, for the face of an end: who carries most lies lowest, next to the metal."""

from __future__ import annotations

from umber_trunk.app.desks.ends.columns import known_fittings
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.face_view import Lug
from umber_trunk.core.ends.fits import fits
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.units import significant

ON_A_BAR, PART = 6, " ·"
"""A bar's lugs are shown so many in a column; what parts a column's name from its cavity's."""


def lugs_on_studs(document: Document, end_id: str) -> dict[str, list[Lug]]:
    """Stud → the lugs on it, the largest current lowest; a bar’s in columns of six."""
    known, results = known_fittings(document), document.now
    found: dict[str, list[tuple[float, Lug]]] = {}
    if known is None or results is None or end_id not in index_of(document.design).ends:
        return {}
    wrong = {fit.wire for fit in results.once(fits) if not fit.ok and fit.end == end_id}
    for one in places_of(document.design, document.shelf).ends:
        if one.end.id == end_id and one.made == "lug" and one.key in known.stuff:
            amps = known.stuff[one.key].amps
            text = f"{one.wire.id}  {significant(amps, 2)} A"
            found.setdefault(one.label, []).append((-round(amps, 1), Lug(text, one.wire.colour, one.wire.id in wrong)))
    stacks = {}
    bar = index_of(document.design).ends[end_id].kind is EndKind.BAR
    for label, lugs in found.items():
        row = [lug for _, lug in sorted(lugs, key=lambda pair: pair[0])]
        for part in range(0, len(row), ON_A_BAR) if bar else (0,):
            stacks[f"{label}{PART * (part > 0)}{part or ''}"] = row[part : part + ON_A_BAR] if bar else row
    return stacks
