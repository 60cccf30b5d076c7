"""Findings about what was asked for: supplies, loads, converters and pins, and the cautions that go with power."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, LoadKind, Supply
from umber_trunk.core.results import Results
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.margins import Figures, LoadFigures
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
    if not design.supplies:
        yield Finding(
            "supply.none", FAULT, "needs", "supplies", "", "There is no supply.",
            "Enter one, such as: supply 24 V at battery.",
        )  # fmt: skip
    for supply in design.supplies:
        for pin in (supply.plus, supply.minus):
            if (pin.end, pin.cavity) not in index.nets:
                yield Finding(
                    "supply.open", FAULT, "needs", "supplies", supply.id,
                    f"{supply.name}: its pin {pin} does not exist.", "Point the supply at a real pin.",
                )  # fmt: skip


def _loads(design: Design, index: Index, found: Figures) -> Iterator[Finding]:
    if design.wires and not design.loads:
        yield Finding(
            "load.none", FAULT, "needs", "loads", "", "There is no load yet: nothing says what the wires must carry.",
            "Enter each, such as: pump 6 A at bilge.",
        )  # fmt: skip
    for load in design.loads:
        entry = found.loads.get(load.id)
        if entry is None:
            pins = [str(pin) for pin in (load.plus, load.minus) if (pin.end, pin.cavity) not in index.nets]
            message = f"its pin {pins[0]} does not exist" if pins else "it runs in no case, so nothing is sized for it"
            yield Finding(
                "load.left_out", FAULT, "needs", "loads", load.id,
                f"{load.name}: {message}.", "Put it at a real pin, or in a case.",
            )  # fmt: skip
        elif entry.collapsed:
            yield Finding(
                "load.no_solution", FAULT, "needs", "loads", load.id,
                f"{load.name} has no solution in “{found.case_name(entry.case)}”: no voltage feeds {significant(load.value)} {UNITS[load.kind]} over "
                "its wires and source; it would collapse.", "Go up several sizes, shorten the run, or raise the voltage.",
            )  # fmt: skip
        elif design.supplies and not np.isfinite(entry.volts):
            yield Finding(
                "load.unfed", FAULT, "needs", "loads", load.id, f"{load.name} is not joined to a supply.",
                "Add its feed and return wires, or the missing link between them.",
            )  # fmt: skip
        elif design.supplies and entry.volts < 0 and _swapped(found, entry):
            yield Finding(
                "load.reversed", FAULT, "needs", "loads", load.id,
                f"{load.name} gets {significant(entry.volts)} V: its poles are swapped.", "Swap plus and minus.",
            )  # fmt: skip


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
            yield Finding(
                "supply.shorted", FAULT, "needs", "supplies", supply.id,
                f"{supply.name}: plus and minus are joined at {supply.plus}.", "Point its poles at two separate pins.",
            )  # fmt: skip
        other = joined.setdefault((nets[0], nets[1]), supply)
        if other.volts != supply.volts:
            yield Finding(
                "supply.unlike", FAULT, "needs", "supplies", supply.id,
                f"{supply.name} ({supply.volts:g} V) and {other.name} ({other.volts:g} V) are joined pole to pole: "
                "one drives current into the other.", "Part them by a switch or an isolator.",
            )  # fmt: skip


def _converters(design: Design, index: Index, found: Figures) -> Iterator[Finding]:
    """Converters at pins there are none of, and those that feed themselves."""
    for one in design.converters:
        lost = [p for p in (one.plus, one.minus, one.out_plus, one.out_minus) if (p.end, p.cavity) not in index.nets]
        if lost:
            yield Finding(
                "converter.open", FAULT, "needs", "converters", one.id,
                f"{one.name}: its pin {lost[0]} does not exist.", "Point the converter at a real pin.",
            )  # fmt: skip
    for one in found.solution.plant.looped:
        yield Finding(
            "converter.loop", FAULT, "needs", "converters", one.id,
            f"{one.name} feeds itself: what it gives out comes back to its own input, so it has no steady answer and is taken to "
            "give nothing.", "Feed it from a supply, and keep its output apart from its input.",
        )  # fmt: skip


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
        for pin in (wire.start, wire.finish):
            if (pin.end, pin.cavity) not in index.nets:
                yield Finding(
                    "wire.open", FAULT, "needs", "wires", wire.id,
                    f"{name}: its pin {pin} does not exist.", "Give it a real pin.",
                )  # fmt: skip
        if wire.start == wire.finish:
            yield Finding(
                "wire.loop", FAULT, "needs", "wires", wire.id,
                f"{name} starts and ends at {wire.start}.", "Give one side another pin.",
            )  # fmt: skip


def _cautions(design: Design) -> Iterator[Finding]:
    """Short, and only where they apply; local code and a licensed person decide."""
    volts = max([*(s.volts for s in design.supplies), *(c.volts for c in design.converters)], default=0.0)
    fault = max((s.volts / max(s.source_ohm, 1e-3) for s in design.supplies), default=0.0)
    if 100 <= volts <= 277:
        yield Finding(
            "caution.mains", NOTE, "needs", "supplies", "",
            f"{volts:g} V is mains: only by or under a qualified person, to local code, earth continuity proven.",
            "These figures are estimates; the applicable code decides.",
        )  # fmt: skip
    if volts > 60:
        yield Finding(
            "caution.high_voltage", NOTE, "needs", "supplies", "",
            f"{volts:g} V can kill: lock out, wait, prove dead, insulated tools; orange covering on DC.",
            "These figures are estimates; the applicable code and a licensed person decide.",
        )  # fmt: skip
    if fault >= 1000:
        yield Finding(
            "caution.big_source", NOTE, "needs", "supplies", "",
            f"A short at this source could draw {significant(fault, 2)} A: it welds and burns.",
            "Battery negative off first, tools insulated, terminals covered, fuse close to the source.",
        )  # fmt: skip
