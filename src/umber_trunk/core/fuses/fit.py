"""What every fuse has to carry, and the ratings that fit: the smallest that carries the circuit all day,
warm, and rides through its starts."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from umber_trunk.core.harness.edits import set_fuse
from umber_trunk.core.harness.end import LinkKind
from umber_trunk.core.harness.model import Design
from umber_trunk.core.physics.fuses import carries_surge, continuous_a, fitting_rating
from umber_trunk.core.results import Results
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.solution import Solution


@dataclass(frozen=True)
class Start:
    """One load starting, as a fuse on its way feels it: everything else that runs comes on top."""

    amps: float
    seconds: float
    load: str


class FuseDuty(NamedTuple):  # one a link at every edit: a tuple is the quickest
    """What a link (fuse, switch, coupler) carries over all cases, in what air, and the starts it feels."""

    amps: float
    ambient_c: float
    starts: tuple[Start, ...]

    def all_day_a(self, rating_a: float, kind: LinkKind) -> float:
        """What a rating may carry all day here; only fuses are derated."""
        return continuous_a(rating_a, self.ambient_c) if kind is LinkKind.FUSE else rating_a

    def fitting(self) -> float | None:
        """The smallest standard rating that carries all this; None beyond the largest."""
        return fitting_rating(self.amps, self.ambient_c, [(start.amps, start.seconds) for start in self.starts])

    def opened_by(self, rating_a: float) -> list[Start]:
        """The starts that may open a fuse of this rating."""
        return [start for start in self.starts if not carries_surge(rating_a, start.amps, start.seconds)]


def duties(solution: Solution, first: int = 0) -> list[FuseDuty]:
    """What every branch (wire rows, then link rows) from the first asked for on asks of a fuse in it; the air is that
    of a link's end, for a wire that of its warmest stretch."""
    plant, index = solution.plant, solution.plant.index
    starts = _starts(solution)
    found = []
    amps = np.max([np.abs(np.concatenate([case.wire_a, case.link_a])) for case in solution.cases], axis=0).tolist()
    air = np.max([case.ambient_c for case in solution.cases], axis=0).tolist()
    for end_id, _ in plant.links:
        zone = index.zones.get(index.ends[end_id].zone or "")
        usual = zone.ambient_c if zone else plant.design.project.ambient_c
        air.append(max(usual if case.case.ambient_c is None else case.case.ambient_c for case in solution.cases))
    for branch in range(first, len(amps)):
        begun = tuple(starts[branch].values()) if branch in starts else ()
        found.append(FuseDuty(amps[branch], air[branch], begun))
    return found


def fuse_duties(solution: Solution) -> list[FuseDuty]:
    """The duty of every link row of the plant."""
    return duties(solution, len(solution.plant.wires))


def link_duties(results: Results) -> dict[tuple[str, str], FuseDuty]:
    """(end, link) → its duty, in the order of the plant's links; for `Results.once`."""
    solution = results.figures.solution
    keys = [(end, link.id) for end, link in solution.plant.links]
    return dict(zip(keys, fuse_duties(solution), strict=True))


def _starts(solution: Solution) -> dict[int, dict[str, Start]]:
    """branch → load id → the hardest start of that load in any case."""
    plant = solution.plant
    found: dict[int, dict[str, Start]] = defaultdict(dict)
    surging = [row for row, load in enumerate(plant.loads) if load.surge_a and load.surge_s]
    for case in solution.cases if surging else ():
        ways = Ways(plant, case)
        for row in surging:
            load = plant.loads[row]
            more = (load.surge_a or 0.0) - float(case.load_a[row])
            if not case.running[row] or more <= 0 or not np.isfinite(case.load_v[row]):
                continue
            for leg in ways.of(row):
                known = found[leg.branch].get(load.id)
                if known is None or leg.amps + more > known.amps:
                    found[leg.branch][load.id] = Start(leg.amps + more, load.surge_s or 0.0, load.name)
    return found


def fit_fuses(design: Design, solution: Solution) -> Design:
    """Ratings for the fuses that have none, from what they carry."""
    for (end_id, link), duty in zip(solution.plant.links, fuse_duties(solution), strict=True):
        if link.kind is not LinkKind.FUSE or link.rating_a is not None or duty.amps <= 0:
            continue
        rating = duty.fitting()
        if rating is not None:
            design = set_fuse(design, end_id, link.id, rating)
    return design
