"""What would it be worth: an end or the source a metre closer, a higher supply voltage.

Each change is made to a copy of the harness that then gets its least copper, and is compared with the
least copper of the harness unchanged.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from umber_trunk.core.harness.edits import put, set_size
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, LoadKind
from umber_trunk.core.sizing.margins import Figures
from umber_trunk.core.sizing.optimise import optimise

STEP_M = 1.0


@dataclass(frozen=True)
class Worth:
    """One change: conductor mass and price against now (negative saves), and the worst drop then."""

    what: str
    copper_kg: float
    cost: float
    worst_drop_percent: float
    met: bool


def worths(design: Design, volts: float | None = None) -> list[Worth]:
    """All moves worth a look, the most copper saved first: every limb that ends in a load and the
    supply's own limb shortened by up to a metre, and the supply at `volts` (default twice its own)."""
    free = set_size(design, [wire.id for wire in design.wires if not wire.locked], None)
    now = optimise(free).figures
    found = [_compared(what, change(free), now) for what, change in _moves(free, volts)]
    return sorted(found, key=lambda one: one.copper_kg)


def _moves(design: Design, volts: float | None) -> list[tuple[str, Callable[[Design], Design]]]:
    index = index_of(design)
    moves: list[tuple[str, Callable[[Design], Design]]] = []
    ends = {load.plus.end for load in design.loads} | {s.plus.end for s in design.supplies}
    for end_id in sorted(ends):
        end = index.ends.get(end_id)
        limbs = index.neighbours.get(end.point or "", []) if end else []
        if end is not None and len(limbs) == 1:
            segment = limbs[0][0]
            step = min(STEP_M, index.segments[segment].measure.length_m)
            if step > 0:
                moves.append((f"{end.name} {step:.2g} m closer", _shortened(segment, step)))
    if design.supplies:
        target = volts or 2 * design.supplies[0].volts
        moves.append((f"supply at {target:g} V", _raised(target)))
    return moves


def _shortened(segment_id: str, step: float) -> Callable[[Design], Design]:
    def change(design: Design) -> Design:
        segment = index_of(design).segments[segment_id]
        measure = segment.measure.model_copy(update={"length_m": segment.measure.length_m - step})
        return put(design, "segments", segment.model_copy(update={"measure": measure}))

    return change


def _raised(volts: float) -> Callable[[Design], Design]:
    """The first supply at other volts; loads keep their power, lowest voltages keep their share."""

    def change(design: Design) -> Design:
        factor = volts / design.supplies[0].volts
        supply = design.supplies[0].model_copy(update={"volts": volts})
        loads = tuple(
            load.model_copy(update={
                "value": load.value * {LoadKind.CURRENT: 1 / factor, LoadKind.POWER: 1.0}.get(load.kind, factor**2),
                "surge_a": load.surge_a / factor if load.surge_a else None,
                "min_volts": load.min_volts * factor if load.min_volts else None,
                "max_drop_v": load.max_drop_v * factor if load.max_drop_v else None,
            }) for load in design.loads
        )  # fmt: skip
        return put(design.model_copy(update={"loads": loads}), "supplies", supply)

    return change


def _compared(what: str, changed: Design, now: Figures) -> Worth:
    then = optimise(changed)
    mass, price = _metal(then.figures)
    mass_now, price_now = _metal(now)
    worst = max((entry.drop_percent for entry in then.figures.loads.values()), default=0.0)
    return Worth(what, mass - mass_now, price - price_now, float(worst), then.met)


def _metal(found: Figures) -> tuple[float, float]:
    plant = found.solution.plant
    mass = [c.kg_per_m * m * p for c, m, p in zip(plant.conductors, plant.length_m, plant.parallel, strict=True)]
    price = sum(kg * c.metal.price_per_kg for kg, c in zip(mass, plant.conductors, strict=True))
    return float(sum(mass)), float(price)
