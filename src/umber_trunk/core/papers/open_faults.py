"""What a paper says of the harness it is for: no paper for making is green while a fault is open."""

from __future__ import annotations

from umber_trunk.core.findings import Severity
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say
from umber_trunk.core.stages import STAGES


def faults_open(results: Results, before: str) -> str:
    """How many faults are open and at which desks, to be mended `before` something; "" where there are none."""
    faults = [one for one in results.findings if one.severity is Severity.FAULT]
    desks = ", ".join(stage.name for stage in STAGES if any(one.stage == stage.id for one in faults))
    return say("paper.faults-open", many=len(faults), desks=desks, before=before) if faults else ""


def standing(results: Results, state: str) -> tuple[str, bool]:
    """(a paper's state with the faults that are open first, whether there are none)."""
    faults = faults_open(results, "making")
    return (f"{faults}; {state}", False) if faults else (state, True)
