"""What goes over the limbs, and the ties between them.

A closed sleeve goes on before the ends on one of its sides are made: the side with fewer of them. What wraps, and what
its part lets on afterwards, waits until all is tested.
"""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.catalog.parts import Tube
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.covers.dressed_limb import CoverPlan
from umber_trunk.core.ends.order import HOT_AIR
from umber_trunk.core.harness.way import CoverKind
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.make.draft import Draft
from umber_trunk.core.make.operation import cautions_of
from umber_trunk.core.sentences import Message, say


def put_covers_on(draft: Draft) -> None:
    """Closed ones before the ends on the side with fewer of them; what wraps, and what comes after, once all is
    tested."""
    plans = draft.results.once(joins) if draft.splices else []
    shrinks_over: dict[str, list[str]] = {plan.segment: [] for plan in plans}
    for plan in plans:
        last = f"{plan.end} shrink" if f"{plan.end} shrink" in draft.found else f"{plan.end} tug"
        shrinks_over[plan.segment].append(last)
    for limb in draft.results.once(dressed).values():
        for cover in limb.covers:
            _cover(draft, limb.segment, cover, shrinks_over.get(limb.segment, []))


def _cover(draft: Draft, segment: str, cover: CoverPlan, splits: Sequence[str]) -> None:
    wires = [wire for wire in draft.index.contents[segment] if wire in draft.laid]
    if not wires:
        return
    laid = [*(draft.laid[wire] for wire in wires), *splits]
    to = f" to {1e3 * cover.to_m:.0f} mm" if cover.to_m > cover.from_m else ""
    said = {"where": f"{segment} from {1e3 * cover.from_m:.0f} mm{to}", "name": cover.part_name}
    cut = {"length": f"cut {1e3 * cover.cut_m:.0f} mm, " if cover.cut_m > 0 else ""}
    key, part = f"{segment} {cover.id}", cover.part
    if cover.kind in (CoverKind.TAPE, CoverKind.CLAMP):
        op = "tape" if cover.kind is CoverKind.TAPE else "clamp"
        draft.closing.append(draft.add(key, op, Message(f"step.{op}", said), laid, part=part))
        return
    made = draft.shelf.named(part)
    wraps = isinstance(made, Tube) and made.slit
    if cover.after or wraps:
        how = {"value": "side" if wraps else "end, over what is made"}
        text = Message("step.sleeve", said | cut | how)
        last = draft.add(f"{key} over ends", "sleeve", text, laid, part=part)
        draft.closing.append(last)
    else:
        op = "sleeve" if cover.kind in (CoverKind.SLEEVE, CoverKind.TUBE) else "thread"
        on = say("note.it-cant-go-on-after-ends")
        last = draft.add(key, op, Message("step.step", said | cut), laid, part=part, told=on)
        for end_key in _ends_on_one_side(draft, segment, wires):
            draft.wait(end_key, [last])
        draft.made.append(last)
    hot = {"tool": HOT_AIR, "cautions": cautions_of("shrink")}
    if cover.kind is CoverKind.SHRINK:
        text = Message("step.shrink.2", said)
        draft.closing.append(draft.add(f"{key} shrink", "shrink", text, [last], part=part, **hot))
    if cover.collars:
        text = Message("step.shrink", said | {"collars": cover.collars})
        draft.closing.append(draft.add(f"{key} collars", "shrink", text, [last], **hot))


def _ends_on_one_side(draft: Draft, segment: str, wires: Sequence[str]) -> list[str]:
    """What makes the ends of these wires on the side of a segment where fewer of them are made. Wires that leave by
    a splice lying in the segment have their far ends on a side too; a side closed by another splice is the last
    choice."""
    here = draft.index.segments[segment]
    joined = {end for end in draft.splices if _joined_in(draft, end, segment)}
    through = dict.fromkeys(
        [*wires, *(one.wire.id for one in draft.places.ends if one.end.id in joined and one.wire.id in draft.laid)]
    )
    found = []
    for points in [_beyond(draft, segment, point) for point in (here.a, here.b)]:
        keys, ends, closed = [], 0, False
        for wire_id in through:
            wire = draft.rows[wire_id].wire
            for end in (wire.start.end, wire.finish.end):
                if end in joined or draft.index.ends[end].point not in points:
                    continue  # the splice is made first: this goes over it
                ends, closed = ends + 1, closed or end in draft.splices
                keys += draft.at_end.get((wire_id, end), [])
                keys += [f"{end} split"] if end in draft.splices else []
        found.append((not ends, closed, len(keys), list(dict.fromkeys(keys))))
    return min(found, key=lambda row: row[:3])[3]


def _joined_in(draft: Draft, end: str, segment: str) -> bool:
    join = draft.index.ends[end].join
    return join is not None and join.segment == segment


def _beyond(draft: Draft, segment: str, point: str) -> set[str]:
    seen, queue = {point}, [point]
    for here in queue:
        for name, other in draft.index.neighbours.get(here, ()):
            if name != segment and other not in seen:
                seen.add(other)
                queue.append(other)
    return seen


def tie_breakouts(draft: Draft) -> None:
    """A tie at every breakout, once its limbs are laid."""
    sleeves_on: dict[str, list[str]] = {}
    for key, one in draft.found.items():
        if one.op == "sleeve" and one.wire == "":
            sleeves_on.setdefault(key.split(" ")[0], []).append(key)
    for point, limbs in draft.index.neighbours.items():
        wires = [w for name, _ in limbs for w in draft.index.contents[name] if w in draft.laid]
        if len(limbs) >= 3 and wires:
            name = next((p.name or p.id for p in draft.design.points if p.id == point), point)
            sleeves = [key for limb, _ in limbs for key in sleeves_on.get(limb, ())]
            early = [key for key in sleeves if key not in draft.closing]
            draft.made.append(
                draft.add(
                    f"{point} tie",
                    "tie",
                    Message("step.tie", {"name": name}),
                    [*(draft.laid[w] for w in wires), *early],
                )
            )
