"""Findings about fuses, links and contacts: open or worn out ratings, feeds without a fuse, shorts that open none."""

from __future__ import annotations

import math
from collections.abc import Iterator

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.fuses.chain import Chains, chains
from umber_trunk.core.fuses.fit import FuseDuty, link_duties
from umber_trunk.core.fuses.place import UNFUSED_REACH_M
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import End, Link, LinkKind
from umber_trunk.core.physics.fuses import SURE_MULTIPLE
from umber_trunk.core.results import Results
from umber_trunk.core.solve.margins import LoadFigures
from umber_trunk.core.units import show_length, significant
from umber_trunk.core.usual import MET

FAULT, WARNING = Severity.FAULT, Severity.WARNING


def check_fuses(results: Results) -> Iterator[Finding]:
    """Everything to say of what protects, and of the weakest parts."""
    yield from _fuses(index_of(results.design), results)
    yield from _chains(results)


def _fuses(index: Index, results: Results) -> Iterator[Finding]:
    found, plant = results.figures, results.figures.solution.plant
    for row, metres in found.bare.items():
        wire = plant.wires[row]
        if metres > UNFUSED_REACH_M:
            yield Finding(
                "wire.unprotected", WARNING, "sizes", "wires", wire.id,
                f"{wire.name or wire.id}: {show_length(metres)} from the source without a fuse.",
                "Fuse it close to the source, for the smallest wire downstream: “Place fuses” on the Needs desk does it.",
            )  # fmt: skip
    for (end_id, link), duty in zip(plant.links, results.once(link_duties).values(), strict=True):
        rating, end, amps = link.rating_a, index.ends[end_id], duty.amps
        if link.kind is LinkKind.FUSE and rating is None and amps > 0:
            yield Finding(
                "fuse.no_rating", WARNING, "needs", "fuses", f"{end_id} {link.id}",
                f"{end.name}: fuse {link.id} has no rating; it carries {significant(amps)} A.",
                "Choose its rating, or press “Fit open fuses” on the Needs desk.",
            )  # fmt: skip
        if rating is None:
            continue
        most = duty.all_day_a(rating, link.kind)
        if amps > most * (MET):
            yield Finding(
                "link.overload", FAULT, "needs", "fuses", f"{end_id} {link.id}",
                f"{end.name}: {link.kind} {link.id} ({rating:g} A) carries {significant(amps)} A; "
                f"all day it stands {significant(most)} A.", "Fit a larger one, or split the circuit.",
            )  # fmt: skip
        if link.kind is LinkKind.FUSE:
            yield from _opened_by_start(end, link, rating, duty)


def _opened_by_start(end: End, link: Link, rating_a: float, duty: FuseDuty) -> Iterator[Finding]:
    """The hardest start on a fuse's way that it may not ride through."""
    opened = duty.opened_by(rating_a)
    if opened:
        worst = max(opened, key=lambda start: start.amps * start.seconds**0.5)
        yield Finding(
            "fuse.surge", WARNING, "needs", "fuses", f"{end.id} {link.id}",
            f"Fuse {link.id} ({rating_a:g} A) in {end.name} may open when {worst.load} starts: "
            f"{significant(worst.amps)} A for {worst.seconds:g} s.", "Fit a larger or slower fuse, and a wire to suit.",
        )  # fmt: skip


def _chains(results: Results) -> Iterator[Finding]:
    """Contacts beyond their rating, and fuses that a short at the load would hardly open."""
    told: set[str] = set()
    known = results.once(chains)
    for entry in results.figures.loads.values():
        if not 0 < entry.volts < math.inf:
            continue
        for part in known.contacts(entry.load.id):
            if part.used > MET and part.name not in told:
                told.add(part.name)
                yield Finding(
                    "contact.overload", FAULT, "sizes", "loads", entry.load.id,
                    f"{entry.load.name}: {part.name} carries {significant(part.amps)} A and stands {part.rating_a:g} A: "
                    "the circuit is as good as this part.", "Use a larger contact, or split the circuit.",
                )  # fmt: skip
        yield from _hard_to_open(known, entry)


def _hard_to_open(chains: Chains, entry: LoadFigures) -> Iterator[Finding]:
    row = chains.feed_row(entry.load.plus)
    guard = chains.found.guards[row] if row is not None else None
    if guard is None:
        return
    fault = chains.fault_a(entry.load.id)
    if fault < SURE_MULTIPLE * guard.rating_a:
        yield Finding(
            "fuse.weak_fault", WARNING, "sizes", "loads", entry.load.id,
            f"A short at {entry.load.name} draws only {significant(fault)} A: fuse {guard.link_id} "
            f"({guard.rating_a:g} A) would open late or never.", "Go up a size, shorten the run, or fit a smaller fuse.",
        )  # fmt: skip
