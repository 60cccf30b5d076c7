"""What a list's readings can't tell: a lead a size thinner that would pass, and what would tell."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from umber_trunk.core.catalog.conductors import series, show_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.prove.checklist import Plan, Test
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.faults import faulty_ohm
from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.sentences import Message


@dataclass(frozen=True)
class Blind:
    """A wire of which the list can't say something: `why`, and what `would` tell."""

    wire: str
    why: Message
    would: Message


def cannot_tell(net: Netlist, plan: Plan) -> list[Blind]:
    """Wires that would pass every test of their ohms though they are one size thinner than planned; those no test reads
    alone are left out."""
    alone: dict[str, list[Test]] = {}
    for test in plan.tests:
        if tells_of_one(test):
            alone.setdefault(test.wires[0], []).append(test)
    found = []
    for wire, tests in alone.items():
        thinner = passes_thinner(net, wire, tests)
        if thinner:
            why = Message.of("blind.thinner", size=thinner)
            found.append(Blind(wire, why, Message.of("blind.strands-or-millivolts")))
    return found


def with_untold(net: Netlist, plan: Plan, meter: Meter) -> Plan:
    """The list with what it can't tell said in sentences: sizes that would pass, wires no reading goes over, wires
    never bent."""
    told = [meter.told]
    for wires, one in _together(cannot_tell(net, plan)):
        told.append(Message.of("blind.of-wires", wires=wires, why=one.why, would=one.would))
    if plan.unreached:
        told.append(Message.of("blind.unreached", wires=", ".join(plan.unreached)))
    bent = {wire for test in plan.tests if test.kind == "shake" for wire in test.wires}
    still = [wire for wire in net.facts if wire not in bent and wire not in plan.unreached]
    if still:
        told.append(Message.of("blind.never-bent", wires=", ".join(still)))
    return replace(plan, untold=tuple(str(one) for one in told))


def _together(rows: Iterable[Blind]) -> list[tuple[str, Blind]]:
    """(wires, one of them), wires of which the same is said in one."""
    found: dict[str, list[Blind]] = {}
    for one in rows:
        found.setdefault(f"{one.why} {one.would}", []).append(one)
    return [(", ".join(one.wire for one in alike), alike[0]) for alike in found.values()]


def tells_of_one(test: Test) -> bool:
    """Whether a test reads one wire alone, or along it, within a band."""
    read = test.unit == "Ω" or (test.probe is not None and test.probe.part == "along")
    return len(test.wires) == 1 and read and test.expect is not None and test.high is not None


def passes_thinner(net: Netlist, wire: str, tests: Sequence[Test]) -> str:
    """The next size below a wire's, where these tests of it alone would pass it; "" where one of them tells, or there
    is none."""
    thinner = _thinner(net, wire) if wire in net.facts else None
    if thinner is None:
        return ""
    try:
        more = faulty_ohm(net, Fault("size", (wire,), size=thinner)) - net.facts[wire].ohm
    except InputError:  # its make doesn't come in that size
        return ""
    return show_size(thinner) if all(test.judged((test.expect or 0.0) + test.value_of(more)) for test in tests) else ""


def _thinner(net: Netlist, wire: str) -> str | None:
    """The next size below a wire's, None for the thinnest."""
    plant = net.results.plant
    one = plant.conductors[plant.row[wire]]
    below = [size for size in series(one.size.series) if size.area_mm2 < 0.99 * one.size.area_mm2]
    return max(below, key=lambda size: size.area_mm2).label if below else None
