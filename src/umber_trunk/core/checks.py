"""All findings of one design: what stops the work first, then what deserves a second look."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from umber_trunk.core.catalog.conductors import series, show_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, LoadKind, Method, Supply
from umber_trunk.core.sizes.checks import check_sizes
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.margins import Figures, LoadFigures
from umber_trunk.core.solve.plant import SMALLEST_STAND_IN, spec_of
from umber_trunk.core.units import show_length, significant

UNITS = {LoadKind.CURRENT: "A", LoadKind.POWER: "W", LoadKind.RESISTANCE: "Ω"}
FAULT, WARNING, NOTE = Severity.FAULT, Severity.WARNING, Severity.NOTE


def check(design: Design, found: Figures) -> list[Finding]:
    """Every finding, faults first; `found` are the figures of this design."""
    index = index_of(design)
    rows = [
        *_needs(design, index, found),
        *_tree(design, index),
        *_wires(design, index, found),
        *_plausible(design, index),
        *check_sizes(design, index, found),
    ]
    return sorted(rows, key=lambda row: row.severity)


def _needs(design: Design, index: Index, found: Figures) -> Iterator[Finding]:
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
    yield from _poles(index)
    yield from _converters(design, index, found)
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


def _tree(design: Design, index: Index) -> Iterator[Finding]:
    parents = index.parents
    used = {segment for _, segment, _ in parents.values() if segment}
    for segment in design.segments:
        gone = [point for point in (segment.a, segment.b) if point not in index.points]
        if gone:
            yield Finding(
                "segment.open", FAULT, "runs", "segments", segment.id,
                f"Segment {segment.id} ends at “{gone[0]}”, which is not a point.", "Join it to a real point.",
            )  # fmt: skip
        elif segment.id not in used:
            yield Finding(
                "tree.loop", FAULT, "runs", "segments", segment.id,
                f"Segment {segment.id} closes a loop; a harness is a tree.", "Remove it, or end it elsewhere.",
            )  # fmt: skip
        elif segment.measure.length_m == 0:
            yield Finding(
                "segment.no_length", WARNING, "runs", "segments", segment.id,
                f"Segment {segment.id} has no length yet.", "Measure it along the real way.",
            )  # fmt: skip
        elif segment.measure.method is Method.GUESS and index.contents[segment.id]:
            yield Finding(
                "segment.guess", NOTE, "runs", "segments", segment.id,
                f"Segment {segment.id} is a guess, {show_length(segment.measure.length_m)} "
                f"± {show_length(segment.measure.plus_minus_m)}.", "Measure it before cutting.",
            )  # fmt: skip
    islands = [point for point, (_, segment, _) in parents.items() if not segment and point != index.root]
    for point in islands:
        yield Finding(
            "tree.island", WARNING, "runs", "points", point,
            f"“{index.points[point].name or point}” is not joined to the trunk.", "Join it by a segment.",
        )  # fmt: skip


def _wires(design: Design, index: Index, found: Figures) -> Iterator[Finding]:
    for wire in design.wires:
        name, figure = wire.name or wire.id, found.wires.get(wire.id)
        if figure is not None and figure.idle and not wire.signal and design.loads and design.supplies:
            yield Finding(
                "wire.idle", FAULT, "needs", "wires", wire.id,
                f"{name}: no case sends any current through it, so nothing says how thick it must be.",
                "Add its load, put that in a case, or say “signal” in its size cell if it carries none.",
            )  # fmt: skip
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
        try:
            spec_of(design, wire, wire.size or SMALLEST_STAND_IN)
        except InputError as why:
            yield Finding(
                "wire.spec", FAULT, "sizes", "wires", wire.id, f"{name}: {why}", "Choose it again on the Sizes desk.",
            )  # fmt: skip
        route = index.routes[wire.id]
        if not route.laid and wire.stated_m:
            yield Finding(
                "wire.provisional", WARNING, "runs", "wires", wire.id,
                f"{name} has only its listed length, {show_length(wire.stated_m)}: it is drawn as a straight run.",
                "Lay it onto the trunk on the Runs desk.",
            )  # fmt: skip
        elif route.segments and wire.stated_m and _differs(index.length_m(wire), wire.stated_m):
            yield Finding(
                "wire.differs", NOTE, "runs", "wires", wire.id,
                f"{name} runs {show_length(index.length_m(wire))} along the trunk; "
                f"its list says {show_length(wire.stated_m)}.", "Measure again, or forget the listed length.",
            )  # fmt: skip
        elif index.length_m(wire) == 0 and not (route.laid and wire.start.end == wire.finish.end):
            yield Finding(
                "wire.no_length", FAULT, "runs", "wires", wire.id, f"{name} has no length.",
                "Put both its ends on the trunk, or state its length.",
            )  # fmt: skip


SHORT_M, LONG_M, APART, ALIKE = 0.02, 100.0, 300.0, 8


def _plausible(design: Design, index: Index) -> Iterator[Finding]:
    """Figures that are possible but seldom meant: a unit misread, a column taken for another."""
    lengths = {wire.id: index.length_m(wire) for wire in design.wires if index.length_m(wire) > 0}
    usual = float(np.median(list(lengths.values()))) if len(lengths) >= 3 else 0.0
    for wire in design.wires:
        name, length = wire.name or wire.id, lengths.get(wire.id)
        if length is None:
            continue
        if not SHORT_M <= length <= LONG_M:
            yield Finding(
                "wire.odd_length", WARNING, "runs", "wires", wire.id, f"{name} is {show_length(length)} long: under 20 mm or over 100 m.",
                "Check the unit of its length.",
            )  # fmt: skip
        elif usual and not usual / APART <= length <= usual * APART:
            yield Finding(
                "wire.odd_length", WARNING, "runs", "wires", wire.id,
                f"{name} is {show_length(length)} long, its neighbours about {show_length(usual)}.", "Check the unit of its length.",
            )  # fmt: skip
    steps = {size.label for name in ("metric", "awg") for size in series(name)}
    for wire in design.wires:
        if wire.size and wire.size not in steps and not wire.size.endswith("kcmil"):
            yield Finding(
                "wire.odd_size", WARNING, "sizes", "wires", wire.id,
                f"{wire.name or wire.id} is {show_size(wire.size)}, a step of no series.", "Check whether it is AWG, or a misread figure.",
            )  # fmt: skip
    listed = [wire.listed_size for wire in design.wires if wire.listed_size]
    if len(listed) >= ALIKE and len(listed) == len(design.wires) and len(set(listed)) == 1:
        yield Finding(
            "wires.one_size", WARNING, "sizes", "wires", design.wires[0].id,
            f"The list has {show_size(listed[0])} for all its {len(listed)} wires.", "Check that the size column was read for what it is.",
        )  # fmt: skip


def _differs(length_m: float, stated_m: float) -> bool:
    """By more than 5 % and 50 mm."""
    return abs(length_m - stated_m) > max(0.05, 0.05 * stated_m)
