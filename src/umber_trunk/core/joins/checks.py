"""Findings about splices: those that stack, lie in a bend, clamp or low point, or are too thick for what goes over
them."""

from __future__ import annotations

from collections.abc import Iterator

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
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
            yield Finding.of("join.nowhere", FAULT, "runs", "joins", end.id, name=end.name, segment=end.join.segment)
            continue
        yield from _judged(results, plan, end.name)
        angles = _facing(results, plan)
        if end.join.equal and len(angles) > 1:
            yield Finding.of(
                "join.facing",
                WARNING,
                "runs",
                "joins",
                end.id,
                name=end.name,
                names=", ".join(f"{angle:g}°" for angle in sorted(angles)),
            )
        if plan.moved and not plan.crowded:
            where = f"{1e3 * plan.at_m:.0f} mm from {index.point_name(end.point or '')}"
            yield Finding.of("join.moved", NOTE, "runs", "joins", end.id, name=end.name, where=where)


def _judged(results: Results, plan: JoinPlan, name: str) -> Iterator[Finding]:
    index = index_of(results.design)
    where = index.segment_name(plan.segment)
    if plan.crowded:
        yield Finding.of(
            "join.crowded", FAULT, "runs", "joins", plan.end, name=name, where=where, value=2 * plan.half_mm
        )
        return
    if plan.stacked:
        others = ", ".join(index.ends[other].name for other in plan.stacked)
        yield Finding.of("join.stacked", FAULT, "runs", "joins", plan.end, name=name, others=others, where=where)
    if plan.in_the_way:
        yield Finding.of(
            "join.blocked",
            FAULT,
            "runs",
            "joins",
            plan.end,
            name=name,
            in_the_way=", ".join(plan.in_the_way),
            where=where,
        )
    if plan.over:
        yield Finding.of(
            "join.thick",
            FAULT,
            "runs",
            "joins",
            plan.end,
            name=name,
            bundle_mm=plan.bundle_mm,
            where=where,
            over=plan.over,
        )


def _facing(results: Results, plan: JoinPlan) -> set[float]:
    """Clock angles of the far ends of a splice's legs."""
    index, found = index_of(results.design), set()
    for leg in plan.legs:
        wire = index.wires[leg]
        far = wire.at_finish if wire.start.end == plan.end else wire.at_start
        if far is not None and far.clock_deg is not None:
            found.add(far.clock_deg % 360)
    return found
