"""Fuse ratings that fit: the smallest that carries the circuit all day, warm, and rides through its starts."""

from __future__ import annotations

from umber_trunk.core.harness.edits import set_fuse
from umber_trunk.core.harness.model import Design, LinkKind
from umber_trunk.core.physics.fuses import fitting_rating
from umber_trunk.core.sizing.margins import Figures


def fit_fuses(design: Design, found: Figures, every: bool = False) -> Design:
    """Ratings for the fuses that have none (or for every fuse), from the currents they carry."""
    plant = found.solution.plant
    index = plant.index
    for number, (end_id, link) in enumerate(plant.links):
        if link.kind is not LinkKind.FUSE or (link.rating_a is not None and not every):
            continue
        amps = max((abs(float(case.link_a[number])) for case in found.solution.cases), default=0.0)
        fed = {w.finish for w in plant.wires if (w.start.end, w.start.cavity) == (end_id, link.b)}
        fed |= {w.start for w in plant.wires if (w.finish.end, w.finish.cavity) == (end_id, link.b)}
        surges = [
            (load.surge_a, load.surge_s) for load in design.loads if load.plus in fed and load.surge_a and load.surge_s
        ]
        zone = index.zones.get(index.ends[end_id].zone or "")
        rating = fitting_rating(amps, zone.ambient_c if zone else design.project.ambient_c, surges)
        if amps > 0 and rating is not None:
            design = set_fuse(design, end_id, link.id, rating)
    return design
