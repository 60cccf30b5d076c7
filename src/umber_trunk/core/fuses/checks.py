"""Findings about fuses, links and contacts: open or worn out ratings, feeds without a fuse, shorts that open none."""

from __future__ import annotations

import math
from collections.abc import Iterator

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.fuses.chain import Chains, chains
from umber_trunk.core.fuses.fit import FuseDuty, link_duties
from umber_trunk.core.fuses.place import UNFUSED_REACH_M
from umber_trunk.core.harness.end import End, Link, LinkKind
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.physics.fuses import SURE_MULTIPLE
from umber_trunk.core.results import Results
from umber_trunk.core.solve.used import LoadFigures
from umber_trunk.core.units import show_length, significant
from umber_trunk.core.usual import MET

FAULT, WARNING = Severity.FAULT, Severity.WARNING


def check_fuses(results: Results) -> Iterator[Finding]:
    """Everything to say of what protects, and of the weakest parts."""
    yield from _fuses(index_of(results.design), results)
    yield from _chains(results)


def _fuses(index: Index, results: Results) -> Iterator[Finding]:
    found, plant = results.figures, results.plant
    for row, metres in found.bare.items():
        wire = plant.wires[row]
        if metres > UNFUSED_REACH_M:
            yield Finding.of(
                "wire.unprotected",
                WARNING,
                "sizes",
                "wires",
                wire.id,
                value=wire.name or wire.id,
                metres=show_length(metres),
            )
    for (end_id, link), duty in zip(plant.links, results.once(link_duties).values(), strict=True):
        rating, end, amps = link.rating_a, index.ends[end_id], duty.amps
        if link.kind is LinkKind.FUSE and rating is None and amps > 0:
            yield Finding.of(
                "fuse.no_rating",
                WARNING,
                "needs",
                "fuses",
                f"{end_id} {link.id}",
                name=end.name,
                id=link.id,
                amps=significant(amps),
            )
        if rating is None:
            continue
        most = duty.all_day_a(rating, link.kind)
        if amps > most * (MET):
            yield Finding.of(
                "link.overload",
                FAULT,
                "needs",
                "fuses",
                f"{end_id} {link.id}",
                name=end.name,
                kind=link.kind,
                id=link.id,
                rating=rating,
                amps=significant(amps),
                most=significant(most),
            )
        if link.kind is LinkKind.FUSE:
            yield from _opened_by_start(end, link, rating, duty)


def _opened_by_start(end: End, link: Link, rating_a: float, duty: FuseDuty) -> Iterator[Finding]:
    """The hardest start on a fuse's way that it may not ride through."""
    opened = duty.opened_by(rating_a)
    if opened:
        worst = max(opened, key=lambda start: start.amps * start.seconds**0.5)
        yield Finding.of(
            "fuse.surge",
            WARNING,
            "needs",
            "fuses",
            f"{end.id} {link.id}",
            id=link.id,
            rating_a=rating_a,
            name=end.name,
            load=worst.load,
            amps=significant(worst.amps),
            seconds=worst.seconds,
        )


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
                yield Finding.of(
                    "contact.overload",
                    FAULT,
                    "sizes",
                    "loads",
                    entry.load.id,
                    name=entry.load.name,
                    name2=part.name,
                    amps=significant(part.amps),
                    rating_a=part.rating_a,
                )
        yield from _hard_to_open(known, entry)


def _hard_to_open(chains: Chains, entry: LoadFigures) -> Iterator[Finding]:
    row = chains.feed_row(entry.load.plus)
    guard = chains.found.guards[row] if row is not None else None
    if guard is None:
        return
    fault = chains.fault_a(entry.load.id)
    if fault < SURE_MULTIPLE * guard.rating_a:
        yield Finding.of(
            "fuse.weak_fault",
            WARNING,
            "sizes",
            "loads",
            entry.load.id,
            name=entry.load.name,
            fault=significant(fault),
            link_id=guard.link_id,
            rating_a=guard.rating_a,
        )
