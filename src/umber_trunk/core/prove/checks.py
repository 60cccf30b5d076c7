"""What speaks against proving a harness as it is designed: loops without volts, screens that land wrongly, wires no
meter reaches."""

from __future__ import annotations

from collections.abc import Iterable

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.screens import screens_of
from umber_trunk.core.prove.loops import budgets
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import joined


def check_prove(results: Results) -> Iterable[Finding]:
    """Findings of the stage Prove."""
    design = results.design
    if design.loops:
        yield from _loops(results)
    if design.cables and any(wire.signal for wire in design.wires):
        yield from _screens(results)
    for wire in design.wires:
        if wire.bad and not wire.spare:
            yield Finding.of(
                "bad-core-used",
                Severity.FAULT,
                "prove",
                "wires",
                wire.id,
                id=wire.id,
                value=wire.circuit or "a circuit",
            )


def _loops(results: Results) -> Iterable[Finding]:
    loads = {load.id: load for load in results.design.loads}
    for loop in results.design.loops:
        if loop.load not in loads:
            yield Finding.of("loop-no-load", Severity.FAULT, "prove", "loops", loop.id, name=loop.name, load=loop.load)
    for one in budgets(results.design, results):
        if not one.ok:
            yield Finding.of("loop-volts", Severity.FAULT, "prove", "loops", one.loop, name=one.name, told=one.told)


def _screens(results: Results) -> Iterable[Finding]:
    index = index_of(results.design)
    in_loops = _loop_cables(results)
    for screen in screens_of(index).values():
        names = index.ends
        if screen.cable in in_loops and len(screen.landed) > 1:
            yield Finding.of(
                "screen-two-grounds",
                Severity.FAULT,
                "prove",
                "wires",
                screen.wire,
                cable=screen.cable,
                names=joined("any.and", [names[e].name for e in screen.landed]),
            )
        elif screen.cable not in in_loops and screen.taped:
            yield Finding.of(
                "screen-one-end",
                Severity.WARNING,
                "prove",
                "wires",
                screen.wire,
                cable=screen.cable,
                name=names[screen.taped[0]].name,
            )


def _loop_cables(results: Results) -> set[str]:
    """Cables that carry a loop: those of the wires at its instrument, and the screened ones they are joined on to."""
    design = results.design
    loads = {load.id: load for load in design.loads}
    ends = {loads[loop.load].plus.end for loop in design.loops if loop.load in loads}
    return {wire.cable for wire in design.wires if wire.cable and ends & {wire.start.end, wire.finish.end}}
