"""The cut list: one row for each conductor to cut, with finished and cut length, and totals per size."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Pin, Wire
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.results import Results
from umber_trunk.core.solve.used import Figures


@dataclass(frozen=True)
class CutRow:
    """One wire to cut, `count` times. chosen tells a size the builder set from a proposed one."""

    wire: Wire
    size: str
    chosen: bool
    spec: str
    colour: str
    start: str
    finish: str
    run_m: float
    finished_m: float
    cut_m: float
    count: int
    provisional: bool


@dataclass(frozen=True)
class SizeTotal:
    """All of one size, make and colour together."""

    size: str
    spec: str
    colour: str
    pieces: int
    metres: float
    copper_kg: float
    cost: float


def pin_text(design: Design, pin: Pin) -> str:
    """End name and cavity as written on a label."""
    end = index_of(design).ends.get(pin.end)
    return f"{end.name if end else pin.end} {pin.cavity}"


def colour_text(wire: Wire) -> str:
    """Colour and stripe in words."""
    return f"{wire.colour}/{wire.stripe}" if wire.stripe else wire.colour


def colours_of(text: str) -> tuple[str, str]:
    """Colour and stripe of what `colour_text` says; "" for none."""
    base, _, stripe = text.partition("/")
    return base.strip(), stripe.strip()


def cuts(results: Results) -> list[CutRow]:
    """The cut list of these results, for `Results.once`: rows in order of size (largest first), then circuit; wires
    with an unknown pin are left out."""
    design, found, lengths = results.design, results.figures, results.once(wire_lengths)
    index, plant = index_of(design), found.solution.plant
    rows = []
    for figure in found.wires.values():
        wire, cond = figure.wire, plant.conductors[figure.row]
        route = index.routes[wire.id]
        length = lengths[wire.id]
        rows.append(
            CutRow(
                wire=wire,
                size=figure.shown_size,
                chosen=wire.size is not None,
                spec=f"{cond.make.name}, {cond.metal.name}, {cond.jacket.name}",
                colour=colour_text(wire),
                start=pin_text(design, wire.start),
                finish=pin_text(design, wire.finish),
                run_m=figure.length_m,
                finished_m=length.finished_m,
                cut_m=length.cut_m,
                count=wire.parallel,
                provisional=not route.laid,
            )
        )
    return sorted(rows, key=lambda r: (-plant.area_mm2[plant.row[r.wire.id]], r.wire.circuit, r.wire.id))


def buys(results: Results) -> list[SizeTotal]:
    """What to buy for these results, for `Results.once`."""
    return totals(results.figures, results.once(cuts))


def totals(found: Figures, rows: list[CutRow]) -> list[SizeTotal]:
    """Metres to buy by size, make and colour, with conductor mass and its price."""
    plant = found.solution.plant
    sums: dict[tuple[str, str, str], list[tuple[int, float, float, float]]] = defaultdict(list)
    for row in rows:
        cond = plant.conductors[plant.row[row.wire.id]]
        metres = row.cut_m * row.count
        mass = metres * cond.kg_per_m if row.size != "?" else 0.0
        sums[row.size, row.spec, row.colour].append((row.count, metres, mass, mass * cond.metal.price_per_kg))
    return [SizeTotal(*key, *(sum(column) for column in zip(*parts, strict=True))) for key, parts in sums.items()]
