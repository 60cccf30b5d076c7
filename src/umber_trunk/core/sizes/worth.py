"""What would it be worth: an end or the source a metre closer, a higher supply voltage, a circuit split.

Each change is made to a copy of the harness. At once it is solved with the sizes kept; then the copy gets
its least copper, which is compared with the least copper of the harness unchanged.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.harness.edits import Edit, fuse_at_head, put, set_size
from umber_trunk.core.harness.end import LinkKind
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, Load, LoadKind, Pin
from umber_trunk.core.sentences import say
from umber_trunk.core.sizes.optimise import ALWAYS, KeepGoing, optimise
from umber_trunk.core.solve.feeds import Leg, Ways
from umber_trunk.core.solve.margins import figures
from umber_trunk.core.solve.plant import Plant
from umber_trunk.core.solve.solution import CaseSolution, solve
from umber_trunk.core.solve.used import Figures

STEP_M = 1.0
"""By how much a load or source is moved to see what it is worth."""
SPLITS = 6  # the loads that draw most; splitting off a small one only adds copper


@dataclass(frozen=True)
class Move:
    """A change to look at: what it is, and the edit that makes it."""

    what: str
    make: Edit


@dataclass(frozen=True)
class Kept:
    """A change with all sizes kept: conductor mass and price against now (negative saves), and the load whose
    drop falls most, by how many per cent of nominal."""

    what: str
    copper_kg: float
    cost: float
    gain_percent: float
    load: str


@dataclass(frozen=True)
class Worth:
    """A change with the sizes chosen anew: conductor mass and price against the least now, the worst drop then."""

    what: str
    copper_kg: float
    cost: float
    worst_drop_percent: float
    met: bool


def worths(
    design: Design,
    found: Figures,
    sizes: dict[str, str],
    volts: float | None = None,
    keep_going: KeepGoing = ALWAYS,
    shelf: Shelf | None = None,
    looked: Callable[[int, int, tuple[Kept, Worth]], None] | None = None,
) -> list[tuple[Kept, Worth]]:
    """All moves worth a look, the most copper saved first. `found` are the figures at `sizes` (those proposed);
    `volts` is the supply voltage to compare with, by default twice the present one. `looked` is told of each move as it
    was looked at: how many were, of how many, and what it is worth."""
    least = least_of(design, keep_going, shelf)
    looked_at = [move for move in moves(design, found, volts) if keep_going(0.0)]
    rows = []
    for number, move in enumerate(looked_at, 1):
        if not keep_going(number / len(looked_at)):
            break
        row = kept(design, found, sizes, move), resized(design, least, move, keep_going, shelf)
        rows.append(row)
        if looked is not None:
            looked(number, len(looked_at), row)
    return sorted(rows, key=lambda row: row[1].copper_kg)


def moves(design: Design, found: Figures, volts: float | None = None) -> list[Move]:
    """Every limb that ends in a load and each limb at the source shortened by up to a metre; the first supply at
    other volts; the loads that draw most on runs of their own."""
    index = index_of(design)
    made = [*_closer_ends(index), *_closer_source(index)]
    if design.supplies:
        target = volts or 2 * design.supplies[0].volts
        made.append(Move(f"supply at {target:g} V", lambda d: _raised(d, target)))
    return [*made, *_splits(index, found)]


def least_of(design: Design, keep_going: KeepGoing = ALWAYS, shelf: Shelf | None = None) -> Figures:
    """Figures of the harness as it is with its least copper: what `resized` compares with."""
    return optimise(_freed(design), keep_going=keep_going, with_floor=False, shelf=shelf).figures


def _freed(design: Design) -> Design:
    """The design with every size open that isn't locked."""
    return set_size(design, [wire.id for wire in design.wires if not wire.locked], None)


def kept(design: Design, found: Figures, sizes: dict[str, str], move: Move) -> Kept:
    """The change solved at the sizes of now."""
    then = figures(solve(move.make(design), sizes, shelf=found.solution.plant.shelf))
    mass, price = _metal(then)
    mass_now, price_now = _metal(found)
    gains = [
        (entry.drop_percent - then.loads[key].drop_percent, entry.load.name)
        for key, entry in found.loads.items()
        if key in then.loads and np.isfinite(entry.volts)
    ]
    gain, load = max(gains, default=(0.0, ""))
    return Kept(move.what, mass - mass_now, price - price_now, float(gain), load)


def resized(
    design: Design, least: Figures, move: Move, keep_going: KeepGoing = ALWAYS, shelf: Shelf | None = None
) -> Worth:
    """The change with its own least copper, against `least`, that of the harness as it is."""
    then = optimise(_freed(move.make(design)), keep_going=keep_going, with_floor=False, shelf=shelf)
    mass, price = _metal(then.figures)
    mass_now, price_now = _metal(least)
    worst = max((entry.drop_percent for entry in then.figures.loads.values()), default=0.0)
    return Worth(move.what, mass - mass_now, price - price_now, float(worst), then.met)


def _closer_ends(index: Index) -> list[Move]:
    made = []
    for end_id in sorted({load.plus.end for load in index.design.loads}):
        end = index.ends.get(end_id)
        limbs = index.neighbours.get(end.point or "", []) if end else []
        if end is not None and len(limbs) == 1:
            made += _closer(index, end.name, limbs[0][0], ())
    return made


def _closer_source(index: Index) -> list[Move]:
    """The source moved along each limb at its point; the other limbs grow by as much."""
    made: list[Move] = []
    for supply in index.design.supplies:
        end = index.ends.get(supply.plus.end)
        limbs = index.neighbours.get(end.point or "", []) if end else []
        for segment, point in limbs:
            name = f"{supply.name} towards {index.point_name(point)}:" if len(limbs) > 1 else supply.name
            made += _closer(index, name, segment, tuple(other for other, _ in limbs if other != segment))
    return made


def _closer(index: Index, name: str, segment_id: str, others: tuple[str, ...]) -> list[Move]:
    step = min(STEP_M, index.segments[segment_id].measure.length_m)
    if step <= 0:
        return []

    def make(design: Design) -> Design:
        for segment, by in ((segment_id, -step), *((other, step) for other in others)):
            old = index_of(design).segments[segment]
            measure = old.measure.model_copy(update={"length_m": max(old.measure.length_m + by, 0.0)})
            design = put(design, "segments", old.model_copy(update={"measure": measure}))
        return design

    return [Move(f"{name} {step:.2g} m closer", make)]


def _raised(design: Design, volts: float) -> Design:
    """The first supply at other volts; loads keep their power, lowest voltages keep their share."""
    factor = volts / design.supplies[0].volts
    supply = design.supplies[0].model_copy(update={"volts": volts})
    loads = tuple(
        load.model_copy(
            update={
                "value": load.value * {LoadKind.CURRENT: 1 / factor, LoadKind.POWER: 1.0}.get(load.kind, factor**2),
                "surge_a": load.surge_a / factor if load.surge_a else None,
                "min_volts": load.min_volts * factor if load.min_volts else None,
                "max_drop_v": load.max_drop_v * factor if load.max_drop_v else None,
            }
        )
        for load in design.loads
    )
    return put(design.model_copy(update={"loads": loads}), "supplies", supply)


def _splits(index: Index, found: Figures) -> list[Move]:
    """The loads that draw most, each on wires that start where the feed it shares now starts."""
    made: list[Move] = []
    cases = found.cases
    ranked = sorted(found.loads.values(), key=lambda entry: -entry.amps if np.isfinite(entry.amps) else 0.0)
    for entry in ranked:
        split = _Split.of(found.solution.plant, cases[entry.case], entry.row) if len(made) < SPLITS else None
        if split is not None:
            source = index.ends[split.feed_from.end].name
            made.append(Move(say("worth.split-off", load=entry.load.name, source=source), split.make))
    return made


@dataclass(frozen=True)
class _Split:
    """A load's last feed and first return wire, and the pins one wire further up that they could have."""

    load: Load
    feed: str
    feed_at: Pin
    feed_from: Pin
    back: str
    back_at: Pin
    back_to: Pin
    rating_a: float | None

    @classmethod
    def of(cls, plant: Plant, case: CaseSolution, row: int) -> _Split | None:
        """None where the load has its wires to itself already."""
        legs = Ways(plant, case).of(row)
        wires = [leg for leg in legs if leg.branch < len(plant.wires)]
        there, back = [leg for leg in wires if not leg.returning], [leg for leg in wires if leg.returning]
        if (
            len(there) < 2
            or len(back) < 2
            or not (_shared(case, there[-2], there[-1]) or _shared(case, back[1], back[0]))
        ):
            return None
        between = legs[legs.index(there[-2]) + 1 : legs.index(there[-1])]
        links = [plant.links[leg.branch - len(plant.wires)][1] for leg in between]
        rating = next((link.rating_a for link in links if link.kind is LinkKind.FUSE), None)
        (feed_at, _), (feed_from, _) = _ends(plant, case, there[-1]), _ends(plant, case, there[-2])
        (_, back_at), (_, back_to) = _ends(plant, case, back[0]), _ends(plant, case, back[1])
        feed, home = plant.wires[there[-1].branch].id, plant.wires[back[0].branch].id
        return cls(plant.loads[row], feed, feed_at, feed_from, home, back_at, back_to, rating)

    def make(self, design: Design) -> Design:
        """Both wires moved up; the fuse between moves along."""
        design = _moved(design, self.feed, self.feed_at, self.feed_from)
        design = _moved(design, self.back, self.back_at, self.back_to)
        return fuse_at_head(design, self.feed, self.feed_from, self.rating_a) if self.rating_a else design


def _shared(case: CaseSolution, upper: Leg, lower: Leg) -> bool:
    """Whether the wire further up carries more than this load."""
    return upper.amps > lower.amps * (1 + 1e-6) + 1e-6


def _ends(plant: Plant, case: CaseSolution, leg: Leg) -> tuple[Pin, Pin]:
    """(pin the current enters at, pin it leaves by) of a wire leg."""
    wire = plant.wires[leg.branch]
    return (wire.start, wire.finish) if case.wire_a[leg.branch] >= 0 else (wire.finish, wire.start)


def _moved(design: Design, wire_id: str, old: Pin, new: Pin) -> Design:
    wire = index_of(design).wires[wire_id]
    return put(design, "wires", wire.model_copy(update={"start": new} if wire.start == old else {"finish": new}))


def _metal(found: Figures) -> tuple[float, float]:
    plant = found.solution.plant
    mass = [c.kg_per_m * m * p for c, m, p in zip(plant.conductors, plant.length_m, plant.parallel, strict=True)]
    price = sum(kg * c.metal.price_per_kg for kg, c in zip(mass, plant.conductors, strict=True))
    return float(sum(mass)), float(price)
