"""What the log says that somebody has to look at: dies that drift, crimps out of their limits."""

from __future__ import annotations

from collections.abc import Iterable

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.make.events import Event
from umber_trunk.core.make.runs import Run, runs_of


def alarms(events: Iterable[Event]) -> list[Finding]:
    """A finding for each run of readings that asks for a look at its die: a fault where readings are out of the part's
    limits."""
    return [_said(run) for run in runs_of(events) if run.chart.verdict == "check the die"]


def _said(run: Run) -> Finding:
    severity = Severity.FAULT if run.chart.out else Severity.WARNING
    return Finding.of(
        "make.die",
        severity,
        "make",
        "readings",
        run.key,
        value=run.setting or run.tool,
        part=run.part,
        told=run.chart.said,
    )
