"""How sure a verdict is: what the ± of lengths, loads and joints does to the use of every limit.

First order (ISO/IEC Guide 98-3, 5.1.2): each input is moved by its own σ, alone, the harness solved anew, and the moves
of a use add as squares, u² = Σ (Δ use)². The chance to be within a limit is that of a normal spread about the use.
Sizes stay as they are. Lengths have the ± of the way they were measured; a load is taken to be within 10 % of what it
is said to draw, nineteen times of twenty. What a joint has that nobody measured is one guess for all of them, right
within a factor of two; those of one contact's sheet or of one end go together.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np

from umber_trunk.core.catalog.parts import Contact
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.edits import change, put, set_project
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say
from umber_trunk.core.solve.margins import figures
from umber_trunk.core.solve.solution import solve
from umber_trunk.core.solve.used import Figures

LOAD_SHARE = 0.05
"""One σ of a load whose current nobody measured."""
JOINT_SHARE, GUESSED_JOINT = 0.3, 0.5
"""One σ of joints whose resistance stands on a sheet or at an end, and of those nobody measured."""
COLLAPSED = 3.0
"""Use that counts where an input's σ leaves a load no voltage at which it can be fed."""
NORMAL = NormalDist()


@dataclass(frozen=True)
class Sure:
    """A load or wire: the use of its worst limit, one σ of that, the chance to keep it, and the input that makes most
    of the doubt."""

    kind: str
    id: str
    used: float
    sd: float
    chance: float
    because: str


def how_sure(results: Results, wanted: Wanted = always) -> tuple[Sure, ...]:
    """Every load and wire that has a use, the least sure first. As many solutions as there are lengths, loads and kinds
    of joints, and one."""
    found = results.figures
    sizes = {key: one.size for key, one in found.wires.items()}
    shelf = found.solution.plant.shelf
    keys, now = _uses(found)
    names, moved = [], []
    for name, design in _moved(results.design):
        go_on_if(wanted)
        names.append(name)
        then = _uses(figures(solve(design, sizes, shelf=shelf)))[1]
        then = np.where(np.isfinite(then), then, COLLAPSED)
        moved.append(np.subtract(then, now, out=np.zeros(len(now)), where=np.isfinite(now)))
    apart = np.array(moved).reshape(len(names), len(keys))
    sd = np.sqrt(np.square(np.nan_to_num(apart)).sum(axis=0))
    made = []
    for at, (kind, key) in enumerate(keys):
        if not np.isfinite(now[at]):
            continue
        chance = NORMAL.cdf((1 - now[at]) / sd[at]) if sd[at] > 1e-9 else float(now[at] <= 1)
        because = names[int(np.argmax(np.abs(np.nan_to_num(apart[:, at]))))] if sd[at] > 1e-9 else ""
        made.append(Sure(kind, key, float(now[at]), float(sd[at]), float(chance), because))
    return tuple(sorted(made, key=lambda one: (one.chance, -one.used)))


def of_hundred(chance: float) -> str:
    """A chance in words, never sure where it isn't."""
    if chance > 0.995:
        return say("sure.over-99")
    return say("sure.under-1") if chance < 0.005 else say("sure.of-100", many=100 * chance)


def _uses(found: Figures) -> tuple[list[tuple[str, str]], np.ndarray]:
    """(what, the use of its worst limit) of all loads, then of all wires."""
    loads = {key: one.used for key, one in found.loads.items()}
    wires = {key: one.worst.used for key, one in found.wires.items()}
    keys = [*(("load", key) for key in loads), *(("wire", key) for key in wires)]
    return keys, np.array([*loads.values(), *wires.values()], dtype=float)


def _moved(design: Design) -> Iterator[tuple[str, Design]]:
    """(what was moved by its σ, the design then)."""
    for segment in design.segments:
        sd = segment.measure.plus_minus_m / 2
        if sd > 0:
            longer = change(segment.measure, length_m=segment.measure.length_m + sd)
            yield say("sure.length", segment=segment.id), put(design, "segments", change(segment, measure=longer))
    for load in design.loads:
        yield say("sure.draws", load=load.name), put(design, "loads", change(load, value=load.value * (1 + LOAD_SHARE)))
    if design.project.joint_ohm > 0:
        more = design.project.joint_ohm * (1 + GUESSED_JOINT)
        yield say("sure.joints-unmeasured"), set_project(design, joint_ohm=more)
    for part in design.parts:
        if isinstance(part, Contact) and part.resistance_mohm:
            more = part.resistance_mohm * (1 + JOINT_SHARE)
            yield (
                say("sure.joints-of", part=part.name or part.id),
                put(design, "parts", change(part, resistance_mohm=more)),
            )
    for end in design.ends:
        if any(cavity.joint_ohm for cavity in end.cavities):
            cavities = tuple(change(one, joint_ohm=one.joint_ohm * (1 + JOINT_SHARE)) for one in end.cavities)
            yield say("sure.joints-at", end=end.name or end.id), put(design, "ends", change(end, cavities=cavities))
