"""Taking over what the program proposes along the way: places of splices, parts of coverings, what history teaches."""

from __future__ import annotations

from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import change, measured, put_all, set_project
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.way import Learned, Method
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.lengths.history import habits
from umber_trunk.core.results import Results


def take_places(design: Design, results: Results) -> Design:
    """Every splice that isn't held lies where the program put it."""
    index = index_of(design)
    moved = []
    for plan in results.once(joins):
        end = index.ends.get(plan.end)
        if end is not None and end.join is not None and not end.join.held and not plan.crowded:
            moved.append(change(end, join=change(end.join, at_m=round(plan.at_m, 4))))
    return put_all(design, "ends", moved)


def take_covers(design: Design, results: Results) -> Design:
    """Every covering without a part gets the proposed one."""
    index = index_of(design)
    made = []
    for limb in results.once(dressed).values():
        given = {plan.id: plan.part for plan in limb.covers if plan.proposed and plan.part}
        segment = index.segments.get(limb.segment)
        if given and segment is not None:
            covers = tuple(change(cover, part=given.get(cover.id, cover.part)) for cover in segment.covers)
            made.append(change(segment, covers=covers))
    return put_all(design, "segments", made)


def learn(design: Design, method: Method) -> Design:
    """A way of measuring corrected by the shop's history from now on: its bias counts in every cut length, its ± goes
    onto every segment measured so. EditError while there are too few pairs."""
    habit = next((one for one in habits(design.project.history) if one.method is method), None)
    if habit is None or not habit.enough:
        raise EditError.of("lengths.too-few-pairs", method=method.value)
    learned = tuple(one for one in design.project.learned if one.method is not method)
    design = set_project(design, learned=(*learned, habit.learned))
    share = habit.learned.share
    fresh = [
        change(
            segment, measure=measured(segment.measure.length_m, method, max(0.001, share * segment.measure.length_m))
        )
        for segment in design.segments
        if segment.measure.method is method
    ]
    return put_all(design, "segments", fresh)


def unlearn(design: Design, method: Method) -> Design:
    """A way of measuring taken as it stands again; the ± of segments stay as they are."""
    learned: tuple[Learned, ...] = tuple(one for one in design.project.learned if one.method is not method)
    return set_project(design, learned=learned)
