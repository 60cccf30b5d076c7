"""Findings about splices: those that stack, lie in a bend, clamp or low point, or are too thick for what goes over them."""

from __future__ import annotations

from collections.abc import Iterator

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import EndKind
from umber_trunk.core.joins.join_plans import JoinPlan, joins
from umber_trunk.core.results import Results

FAULT, WARNING, NOTE = Severity.FAULT, Severity.WARNING, Severity.NOTE


def check_joins(results: Results) -> Iterator[Finding]:
    """Everything to say of splices on segments."""
    index = index_of(results.design)
    placed = [end for end in results.design.ends if end.kind is EndKind.SPLICE and end.join is not None]
    if not placed:
        return
    plans = {plan.end: plan for plan in results.once(joins)}
    for end in placed:
        assert end.join is not None
        plan = plans.get(end.id)
        if plan is None:
            yield Finding(
                "join.nowhere", FAULT, "runs", "joins", end.id, f"Splice {end.name} is said to lie in “{end.join.segment}”, which doesn’t meet its point.",
                "Name a segment that begins or ends at its point.",
            )  # fmt: skip
            continue
        yield from _judged(results, plan, end.name)
        angles = _facing(results, plan)
        if end.join.equal and len(angles) > 1:
            yield Finding(
                "join.facing", WARNING, "runs", "joins", end.id,
                f"The legs of {end.name} end at {', '.join(f'{angle:g}°' for angle in sorted(angles))}: their contacts don’t face the same way.",
                "Give both far ends the same clock angle.",
            )  # fmt: skip
        if plan.moved and not plan.crowded:
            where = f"{1e3 * plan.at_m:.0f} mm from {index.point_name(end.point or '')}"
            yield Finding(
                "join.moved", NOTE, "runs", "joins", end.id, f"Splice {end.name} is moved to {where}, clear of what is there.",
                "Take the places on the Runs desk, or hold it where it was.",
            )  # fmt: skip


def _judged(results: Results, plan: JoinPlan, name: str) -> Iterator[Finding]:
    index = index_of(results.design)
    where = index.segment_name(plan.segment)
    if plan.crowded:
        yield Finding(
            "join.crowded", FAULT, "runs", "joins", plan.end, f"There is no free place for splice {name} in {where}: it takes {2 * plan.half_mm:.0f} mm.",
            "Put it into another segment, move a clamp, or use a shorter barrel.",
        )  # fmt: skip
        return
    if plan.stacked:
        others = ", ".join(index.ends[other].name for other in plan.stacked)
        yield Finding(
            "join.stacked", FAULT, "runs", "joins", plan.end, f"Splice {name} lies over {others} in {where}.",
            "Let the program move one of them: don’t hold both.",
        )  # fmt: skip
    if plan.in_the_way:
        yield Finding(
            "join.blocked", FAULT, "runs", "joins", plan.end, f"Splice {name} lies in a {', '.join(plan.in_the_way)} of {where}.",
            "Let the program move it, or move it along.",
        )  # fmt: skip
    if plan.over:
        yield Finding(
            "join.thick", FAULT, "runs", "joins", plan.end, f"With splice {name} the bundle is {plan.bundle_mm:.1f} mm in {where}; {plan.over}.",
            "Choose a wider covering there, or a slimmer splice.",
        )  # fmt: skip


def _facing(results: Results, plan: JoinPlan) -> set[float]:
    """Clock angles of the far ends of a splice's legs."""
    index, found = index_of(results.design), set()
    for leg in plan.legs:
        wire = index.wires[leg]
        far = wire.at_finish if wire.start.end == plan.end else wire.at_start
        if far is not None and far.clock_deg is not None:
            found.add(far.clock_deg % 360)
    return found
