"""Findings about what was asked for: supplies, loads, converters and pins, and the cautions that go with power."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, LoadKind, Supply
from umber_trunk.core.results import Results
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.used import Figures, LoadFigures
from umber_trunk.core.units import significant

UNITS = {LoadKind.CURRENT: "A", LoadKind.POWER: "W", LoadKind.RESISTANCE: "Ω"}
FAULT, NOTE = Severity.FAULT, Severity.NOTE


def check_needs(results: Results) -> Iterator[Finding]:
    """Everything to say of what is fed and from where."""
    design, found = results.design, results.figures
    index = index_of(design)
    yield from _supplies(design, index)
    yield from _poles(index)
    yield from _converters(design, index, found)
    yield from _loads(design, index, found)
    yield from _pins(design, index)
    yield from _cautions(design)


def _supplies(design: Design, index: Index) -> Iterator[Finding]:
    if not design.supplies and (design.loads or design.wires or design.ends):  # of nothing, nothing is wrong
        yield Finding.of("supply.none", FAULT, "needs", "supplies", "")
    for supply in design.supplies:
        for pole, pin in (("plus", supply.plus), ("minus", supply.minus)):
            if (pin.end, pin.cavity) not in index.nets:
                yield Finding.of(
                    "supply.open", FAULT, "needs", "supplies", supply.id, at=pole, name=supply.name, pin=pin
                )


def _loads(design: Design, index: Index, found: Figures) -> Iterator[Finding]:
    if design.wires and not design.loads:
        yield Finding.of("load.none", FAULT, "needs", "loads", "")
    for load in design.loads:
        entry = found.loads.get(load.id)
        if entry is None:
            pins = [str(pin) for pin in (load.plus, load.minus) if (pin.end, pin.cavity) not in index.nets]
            lost = str(pins[0]) if pins else ""
            yield Finding.of("load.left_out", FAULT, "needs", "loads", load.id, name=load.name, lost=lost)
        elif entry.collapsed:
            yield Finding.of(
                "load.no_solution",
                FAULT,
                "needs",
                "loads",
                load.id,
                name=load.name,
                case_name=found.case_name(entry.case),
                value=significant(load.value),
                value2=UNITS[load.kind],
            )
        elif design.supplies and not np.isfinite(entry.volts):
            yield Finding.of("load.unfed", FAULT, "needs", "loads", load.id, name=load.name)
        elif design.supplies and entry.volts < 0 and _swapped(found, entry):
            yield Finding.of(
                "load.reversed", FAULT, "needs", "loads", load.id, name=load.name, volts=significant(entry.volts)
            )


def _swapped(found: Figures, entry: LoadFigures) -> bool:
    """Whether a load below zero volts has its poles swapped: what its way loses alone wouldn't bring it there."""
    plant = found.solution.plant
    case = found.cases[entry.case]
    lost = sum(leg.volts for leg in Ways(plant, case).of(entry.row)) + entry.amps * float(plant.source_ohm.max())
    return lost < entry.nominal_v


def _poles(index: Index) -> Iterator[Finding]:
    """Supplies whose poles are joined inside an end, and unlike supplies joined pole to pole."""
    joined: dict[tuple[int, int], Supply] = {}
    for supply in index.design.supplies:
        nets = [index.nets.get((pin.end, pin.cavity), -1) for pin in (supply.plus, supply.minus)]
        if min(nets) < 0:
            continue
        if nets[0] == nets[1]:
            yield Finding.of(
                "supply.shorted", FAULT, "needs", "supplies", supply.id, name=supply.name, plus=supply.plus
            )
        other = joined.setdefault((nets[0], nets[1]), supply)
        if other.volts != supply.volts:
            yield Finding.of(
                "supply.unlike",
                FAULT,
                "needs",
                "supplies",
                supply.id,
                name=supply.name,
                volts=supply.volts,
                name2=other.name,
                volts2=other.volts,
            )


def _converters(design: Design, index: Index, found: Figures) -> Iterator[Finding]:
    """Converters at pins there are none of, and those that feed themselves."""
    for one in design.converters:
        lost = [p for p in (one.plus, one.minus, one.out_plus, one.out_minus) if (p.end, p.cavity) not in index.nets]
        if lost:
            yield Finding.of("converter.open", FAULT, "needs", "converters", one.id, name=one.name, lost=lost[0])
    for one in found.solution.plant.looped:
        yield Finding.of("converter.loop", FAULT, "needs", "converters", one.id, name=one.name)


def _doubtful_pins(design: Design, index: Index) -> list[int]:
    nets = index.nets
    return [
        row
        for row, wire in enumerate(design.wires)
        if (wire.start.end, wire.start.cavity) not in nets
        or (wire.finish.end, wire.finish.cavity) not in nets
        or wire.start == wire.finish
    ]


def _pins(design: Design, index: Index) -> Iterator[Finding]:
    """Wires whose pins aren't there, or are one and the same."""
    for row in index.once_wired("doubtful pins", lambda: _doubtful_pins(design, index)):
        wire = design.wires[row]
        name = wire.name or wire.id
        for side, pin in (("start", wire.start), ("finish", wire.finish)):
            if (pin.end, pin.cavity) not in index.nets:
                yield Finding.of("wire.open", FAULT, "needs", "wires", wire.id, at=side, name=name, pin=pin)
        if wire.start == wire.finish:
            yield Finding.of("wire.loop", FAULT, "needs", "wires", wire.id, name=name, start=wire.start)


def _cautions(design: Design) -> Iterator[Finding]:
    """Short, and only where they apply; local code and a licensed person decide."""
    volts = max([*(s.volts for s in design.supplies), *(c.volts for c in design.converters)], default=0.0)
    fault = max((s.volts / max(s.source_ohm, 1e-3) for s in design.supplies), default=0.0)
    if 100 <= volts <= 277:
        yield Finding.of("caution.mains", NOTE, "needs", "supplies", "", volts=volts)
    if volts > 60:
        yield Finding.of("caution.high_voltage", NOTE, "needs", "supplies", "", volts=volts)
    if fault >= 1000:
        yield Finding.of("caution.big_source", NOTE, "needs", "supplies", "", fault=significant(fault, 2))
