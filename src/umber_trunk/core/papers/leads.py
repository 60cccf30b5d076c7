"""Lead sheets: each lead with both its ends to scale, strip and crimp figures, its colours, and its place on the
trunk."""

from __future__ import annotations

from umber_trunk.core.catalog.hues import code_of
from umber_trunk.core.ends.strip import Strip, strip_of, tenths
from umber_trunk.core.ends.svg import strips_svg, svg_size
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.kit.paper_units import length_text, size_text
from umber_trunk.core.papers.open_faults import standing
from umber_trunk.core.printed import Drawn, Figure, Part, Printed, Trunk, tight
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say


def lead_sheets(results: Results) -> Printed:
    """A block for each wire, in the order of the cut list: two ends drawn, and the trunk with the wire lit."""
    places = places_of(results.design, results.shelf)
    units = results.design.project.units
    parts: list[Part] = []
    for row in results.once(cuts):
        wire = row.wire
        ends = [end for side in ("start", "finish") if (end := places.by_key.get((wire.id, side))) is not None]
        drawn = tuple(drawn_strip(made) for end in ends if (made := strip_of(results, end)) is not None)
        code = code_of(wire.colour, wire.stripe)
        told = f"{row.colour} {code}".strip()
        cut, finished = (tight(length_text(one, units)) for one in (row.cut_m, row.finished_m))
        cut = say("paper.lead-cut", cut=cut, finished=finished)
        title = f"{wire.id} · {tight(size_text(row.size, units))} {told} · {cut}" + (
            say("paper.lead-alike", many=row.count) if row.count > 1 else ""
        )
        parts.append(Figure(title, drawn or (Drawn(60.0, 6.0, caption=f"{row.start} to {row.finish}"),), 2))
        parts.append(Trunk(13.0, (wire.id,), f"{row.start} to {row.finish}"))
    state = say("paper.leads", many=len(results.once(cuts)))
    return Printed(
        say("paper.lead-sheets", name=results.design.project.name),
        *standing(results, state),
        tuple(parts),
        code=results.design.project.name,
    )


def drawn_strip(made: Strip, caption: str = "") -> Drawn:
    """One end to scale, its figures under it."""
    svg = strips_svg([made])
    wide, tall = svg_size(svg)
    said = say(
        "paper.strip",
        end=made.end,
        cavity=made.cavity,
        strip=tenths(made.strip_mm),
        height=made.crimp_height_mm or 0.0,
        plus=made.crimp_plus_minus_mm or 0.0,
    )
    return Drawn(wide, tall, svg=svg, caption=caption or said)
