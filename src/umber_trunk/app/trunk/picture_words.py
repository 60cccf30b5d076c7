"""What the trunk picture says of its parts: in a tip, on the status line, to a screen reader; and which parts go with
one that is chosen."""

from __future__ import annotations

from collections.abc import Iterable

from umber_trunk.app.trunk.hits import Hits
from umber_trunk.app.trunk.story import Story
from umber_trunk.app.widgets.readable import Part
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.picture.layout import Layout
from umber_trunk.core.picture.notice import points_of
from umber_trunk.core.units import show_length

Subject = tuple[str, str]
"""(table, id) of a part; “folds” are told by their key."""


def halo_of(index: Index, subjects: Iterable[Subject]) -> tuple[set[Subject], set[str]]:
    """(what has a halo, points that have to be open) for these parts: a wire lights up its whole way and both ends."""
    shown: set[Subject] = set()
    chosen: set[str] = set()
    for table, part in subjects:
        chosen |= set(points_of(index, table, part))
        if table == "wires" and part in index.wires:
            shown |= {("segments", s) for s in index.routes[part].segments}
            shown |= {("ends", pin.end) for pin in (index.wires[part].start, index.wires[part].finish)}
        elif table == "loads" and part in index.loads:
            shown.add(("ends", index.loads[part].plus.end))
        elif table == "fuses":
            shown.add(("ends", part.rsplit(" ", 1)[0]))
        elif table == "points":
            shown |= {("ends", end.id) for end in index.ends_at.get(part, ())}
            shown |= {("segments", segment) for segment, _ in index.neighbours.get(part, ())}
        else:
            shown.add((table, part))
    return shown, chosen


def described(index: Index, subject: Subject, layout: Layout) -> str:
    """One line about a part, for tips and the status line."""
    table, part = subject
    if table == "folds":
        points = layout.inside.get(part, ())
        names = [end.name for point in points for end in index.ends_at.get(point, ())]
        more = tr(" and {count} more", count=len(names) - 8) if len(names) > 8 else ""
        return tr(
            "{count} ends folded: {names}{more}. Click to open.",
            count=len(names),
            names=", ".join(names[:8]),
            more=more,
        )
    if table == "segments" and part in index.segments:
        segment = index.segments[part]
        ends = [index.points[p].name or p for p in (segment.a, segment.b) if p in index.points]
        zone = index.zones.get(segment.zone or "")
        air = f", {zone.name} {zone.ambient_c:g} °C" if zone else ""
        measure = segment.measure
        loop = tr(", closes a loop") if part in layout.loops else ""
        return tr(
            "{part}: {ends}, {length_m} ± {plus_minus_m} ({method}), {count} wires{air}{loop}",
            part=part,
            ends=" to ".join(ends),
            length_m=show_length(measure.length_m),
            plus_minus_m=show_length(measure.plus_minus_m),
            method=measure.method,
            count=len(index.contents[part]),
            air=air,
            loop=loop,
        )
    if table == "ends" and part in index.ends:
        end = index.ends[part]
        wires = sum(part in (w.start.end, w.finish.end) for w in index.design.wires)
        return tr(
            "{end} ({kind}), {wires} wires. Drag it, or Shift + ↑ ↓, to move its branch; Space folds it.",
            end=end.name,
            kind=end.kind,
            wires=wires,
        )
    return part


def told_parts(hits: Hits, design: Design, story: Story | None) -> list[Part]:
    """Each tag and figure with its name and state."""
    index, found = index_of(design), list[Part]()
    for one in hits.texts:
        if one.table == "segments":
            name, alarm = (
                tr("segment {part}", part=index.segment_name(one.part)),
                story is not None and story.limbs[one.part].alarm,
            )
        elif one.table == "folds":
            name, alarm = tr("folded branch"), "✕" in one.text
        else:
            name, alarm = (
                tr("end {name}", name=index.ends[one.part].name),
                story is not None and story.leaves[one.part].alarm,
            )
        found.append((one.box, name, f"{one.text}{tr(', needs a look') if alarm else ''}"))
    return found
