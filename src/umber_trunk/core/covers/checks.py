"""Findings about coverings: what doesn't pass, doesn't grip, or makes a limb too stiff for its way."""

from __future__ import annotations

from collections.abc import Iterator

from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.results import Results

FAULT, WARNING = Severity.FAULT, Severity.WARNING


def check_covers(results: Results) -> Iterator[Finding]:
    """Everything to say of coverings and of how tightly limbs are bent; nothing is worked out where there are
    neither."""
    if not any(segment.covers or segment.bends for segment in results.design.segments):
        return
    index = index_of(results.design)
    for limb in results.once(dressed).values():
        for plan in limb.covers:
            would = ", ".join(plan.options) if not plan.proposed else ""
            for said in plan.problems:
                yield Finding.of(
                    "cover.fit",
                    FAULT,
                    "runs",
                    "covers",
                    f"{plan.segment} {plan.id}",
                    at=said.code.split(".")[1],  # what it is about, in a word: it tells its findings from each other
                    segment_name=index.segment_name(plan.segment),
                    kind=str(plan.kind),
                    said=said,
                    would=would,
                )
        if limb.tightest_mm is not None and limb.tightest_mm < limb.least_bend_mm - 1e-6:
            yield Finding.of(
                "segment.tight_bend",
                WARNING,
                "runs",
                "segments",
                limb.segment,
                segment_name=index.segment_name(limb.segment),
                tightest_mm=limb.tightest_mm,
                bend_by=limb.bend_by,
                least_bend_mm=limb.least_bend_mm,
            )
