"""The redline sheet: the harness as drawn, with room beside each wire for what was found or made otherwise, to be read
in again."""

from __future__ import annotations

from umber_trunk.core.harness.index import index_of
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.kit.paper_units import length_text, size_text
from umber_trunk.core.printed import PaperTable, Printed, Trunk, tight
from umber_trunk.core.results import Results


def redline_sheet(results: Results) -> Printed:
    """The trunk large, to draw on; wires and lengths with blanks."""
    units, index = results.design.project.units, index_of(results.design)
    rows = tuple(
        (
            row.wire.id,
            tight(size_text(row.size, units)),
            row.colour,
            row.start,
            row.finish,
            tight(length_text(row.finished_m, units)),
            "",
            "",
            "",
            "",
        )
        for row in results.once(cuts)
    )
    wires = PaperTable(
        ("Wire", "Size", "Colour", "From", "To", "Length", "From, as it is", "To, as it is", "Length", "Who, why"),
        (0.06, 0.09, 0.1, 0.14, 0.14, 0.09, 0.11, 0.11, 0.07, 0.09),
        (5,),
        rows,
    )
    limbs = PaperTable(
        ("Limb", "From", "To", "Length", "Found", "Who"),
        (0.1, 0.24, 0.24, 0.14, 0.18, 0.1),
        (3,),
        tuple(
            (s.id, index.point_name(s.a), index.point_name(s.b), tight(length_text(s.measure.length_m, units)), "", "")
            for s in results.design.segments
        ),
    )
    state = "draw on it in red what is otherwise than drawn; who did and why beside it"
    return Printed(
        f"{results.design.project.name}: redline sheet",
        state,
        True,
        (Trunk(120.0), wires, limbs),
        code=results.design.project.name,
    )
