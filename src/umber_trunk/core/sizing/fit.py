"""What every fuse has to carry, and the ratings that fit: the smallest that carries the circuit all day,
warm, and rides through its starts."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from umber_trunk.core.harness.edits import set_fuse
from umber_trunk.core.harness.model import Design, LinkKind
from umber_trunk.core.physics.fuses import carries_surge, continuous_a, fitting_rating
from umber_trunk.core.sizing.feeds import Ways
from umber_trunk.core.sizing.solve import Solution


@dataclass(frozen=True)
class Start:
    """One load starting, as a fuse on its way feels it: everything else that runs comes on top."""

    amps: float
    seconds: float
    load: str


@dataclass(frozen=True)
class FuseDuty:
    """What a link (fuse, switch, coupler) carries over all cases, in what air, and the starts it feels."""

    amps: float
    ambient_c: float
    starts: tuple[Start, ...]

    def all_day_a(self, rating_a: float, kind: LinkKind) -> float:
        """What a rating may carry all day here; only fuses are derated."""
        return continuous_a(rating_a, self.ambient_c) if kind is LinkKind.FUSE else rating_a

    def opened_by(self, rating_a: float) -> list[Start]:
        """The starts that may open a fuse of this rating."""
        return [start for start in self.starts if not carries_surge(rating_a, start.amps, start.seconds)]


def fuse_duties(solution: Solution) -> list[FuseDuty]:
    """The duty of every link row of the plant."""
    plant, index = solution.plant, solution.plant.index
    starts = _starts(solution)
    found = []
    for row, (end_id, _) in enumerate(plant.links):
        amps = max((abs(float(case.link_a[row])) for case in solution.cases), default=0.0)
        zone = index.zones.get(index.ends[end_id].zone or "")
        ambient = zone.ambient_c if zone else plant.design.project.ambient_c
        found.append(FuseDuty(amps, ambient, tuple(starts[row].values())))
    return found


def _starts(solution: Solution) -> dict[int, dict[str, Start]]:
    """link row → load id → the hardest start of that load in any case."""
    plant = solution.plant
    first = len(plant.wires)
    found: dict[int, dict[str, Start]] = defaultdict(dict)
    surging = [row for row, load in enumerate(plant.loads) if load.surge_a and load.surge_s]
    if not surging or not plant.links:
        return found
    for case in solution.cases:
        ways = Ways(plant, case)
        for row in surging:
            load = plant.loads[row]
            more = (load.surge_a or 0.0) - float(case.load_a[row])
            if not case.running[row] or more <= 0 or not np.isfinite(case.load_v[row]):
                continue
            for leg in ways.of(row):
                amps = leg.amps + more
                known = found[leg.branch - first].get(load.id) if leg.branch >= first else None
                if leg.branch >= first and (known is None or amps > known.amps):
                    found[leg.branch - first][load.id] = Start(amps, load.surge_s or 0.0, load.name)
    return found


def fit_fuses(design: Design, solution: Solution) -> Design:
    """Ratings for the fuses that have none, from what they carry."""
    for (end_id, link), duty in zip(solution.plant.links, fuse_duties(solution), strict=True):
        if link.kind is not LinkKind.FUSE or link.rating_a is not None or duty.amps <= 0:
            continue
        surges = [(start.amps, start.seconds) for start in duty.starts]
        rating = fitting_rating(duty.amps, duty.ambient_c, surges)
        if rating is not None:
            design = set_fuse(design, end_id, link.id, rating)
    return design
