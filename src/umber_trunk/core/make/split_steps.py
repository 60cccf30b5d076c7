"""Joins: every wire of one bared, then one barrel over all, looked at, tugged, and shrunk before a sleeve hides it.

bare each ─┬─ (shrink threaded on) ─ barrel over all ─ look ─ tug ─ (solder) ─ (shrink over it)
lay each ──┘
"""

from __future__ import annotations

from dataclasses import dataclass, field

from umber_trunk.core.catalog.conductors import area_of
from umber_trunk.core.catalog.parts import Splice
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.order import HOT_AIR, IRON, Step, steps_at
from umber_trunk.core.ends.reach import barrel_mm2
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.joins.join_plans import JoinPlan, joins
from umber_trunk.core.make.draft import Draft, step_at
from umber_trunk.core.make.operation import cautions_of
from umber_trunk.core.sentences import Message, say


def make_splits(draft: Draft) -> None:
    """Every join of the harness that has wires. Wires that run straight past all joins are laid before those that are
    joined, so that a barrel is closed over what lies where it will lie."""
    plans = {plan.end: plan for plan in draft.results.once(joins)} if draft.splices else {}
    straight = [
        draft.laid[wire]
        for wire, row in draft.rows.items()
        if not {row.wire.start.end, row.wire.finish.end} & draft.splices.keys()
    ]
    for end_id in draft.splices:
        here = [one for one in draft.places.of_end(end_id) if one.wire.id in draft.base]
        if here:
            for one in here:
                draft.wait(draft.laid[one.wire.id], straight)
            _make_split(draft, end_id, here, plans.get(end_id))


@dataclass
class _Readied:
    """What is done to the wires of a join before its barrel: keys of what bares them and of what is threaded on, and
    the step that closes the barrel, where the parts say one."""

    bared: list[str] = field(default_factory=list)
    threaded: list[str] = field(default_factory=list)
    crimp: Step | None = None


def _make_split(draft: Draft, end_id: str, here: list[WireEnd], plan: JoinPlan | None) -> None:
    name = draft.index.ends[end_id].name
    place = f"board, {name}"
    readied = _ready(draft, end_id)
    waits = [*readied.bared, *(draft.laid[one.wire.id] for one in here)]
    shrink = plan.shrink if plan is not None else None
    if plan is not None and shrink and not any(draft.found[key].part == shrink for key in readied.threaded):
        said = {"name": name, "shrink_cut_mm": plan.shrink_cut_mm, "name2": draft.shelf.name(shrink)}
        bases = [draft.base[one.wire.id] for one in here]
        on = say("note.it-cant-go-on-after-join")
        key, text = f"{end_id} thread", Message("step.thread", said)
        waits.append(draft.add(key, "thread", text, bases, end=end_id, part=shrink, place=place, told=on))
    last = _close_barrel(draft, end_id, here, plan, readied.crimp, waits)
    for op, code in (("look", "step.look.2"), ("tug", "step.tug")):
        last = draft.add(f"{end_id} {op}", op, Message(code, {"name": name}), [last], end=end_id, place=place)
    finishes = [("solder", Message("step.solder", {"name": name}), IRON, "")]
    if draft.design.project.practice.split != "solder":
        finishes.clear()
    if plan is not None and shrink:
        text = Message("step.shrink.3", {"name": name, "grip_mm": plan.grip_mm})
        finishes.append(("shrink", text, HOT_AIR, shrink))
    for op, text, tool, part in finishes:
        key, cautions = f"{end_id} {op}", cautions_of(op)
        last = draft.add(key, op, text, [last], end=end_id, part=part, tool=tool, place=place, cautions=cautions)
    draft.made.append(last)


def _ready(draft: Draft, end_id: str) -> _Readied:
    """Each wire threaded and bared, in the order its parts ask for."""
    readied = _Readied()
    for step in steps_at(draft.results, end_id):
        if step.wire not in draft.base:
            continue
        key = f"{end_id} {step.id}"
        if step.op in ("strip", "thread"):
            step_at(draft, key, end_id, step, [draft.base[step.wire], *readied.threaded])
            (readied.bared if step.op == "strip" else readied.threaded).append(key)
            draft.at_end.setdefault((step.wire, end_id), []).append(key)
        elif step.op in ("crimp", "solder") and readied.crimp is None:
            readied.crimp = step
    return readied


def _close_barrel(
    draft: Draft, end_id: str, here: list[WireEnd], plan: JoinPlan | None, crimp: Step | None, waits: list[str]
) -> str:
    """One barrel over all wires; its key."""
    name, known = draft.index.ends[end_id].name, draft.results.once(fitted)
    barrel = next((part for one in here if (part := draft.shelf.get(known.of(one).part, Splice))), None)
    tool, setting = ("crimp tool", barrel.die if barrel else "") if crimp is None else (crimp.tool, crimp.setting)
    stuff = known.stuff.get(here[0].key)
    said = {
        "name": name,
        "wires": ", ".join(one.wire.id for one in here),
        "value": barrel.name if barrel else "the barrel",
        "where": f", {1e3 * plan.at_m:.0f} mm along {plan.segment}" if plan is not None else "",
    }
    return draft.add(
        f"{end_id} split",
        "split",
        Message("step.split", said),
        waits,
        end=end_id,
        part=barrel.id if barrel else "",
        tool=tool,
        setting=setting,
        place=f"board, {name}",
        area_mm2=sum(area_of(draft.rows[one.wire.id].size) for one in here),
        barrel_mm2=barrel_mm2(barrel, stuff) if barrel and stuff else 0.0,
        cautions=("pinch",),
    )
