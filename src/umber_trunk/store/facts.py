"""What a file says of its stages beside the design: its builds, units, log and shelf, read at once."""

from __future__ import annotations

from contextlib import suppress
from typing import TYPE_CHECKING

from umber_trunk.core.errors import InputError, UmberError, Wanted, always, go_on_if
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.keep.record import records
from umber_trunk.core.keep.stations import station_findings
from umber_trunk.core.make.alarms import alarms
from umber_trunk.core.make.events import Begin
from umber_trunk.core.sentences import say
from umber_trunk.core.status import BuildFacts, Facts
from umber_trunk.store.inputs import frozen_of, inputs_of

if TYPE_CHECKING:
    from umber_trunk.core.keep.unit_record import Inputs, UnitRecord
    from umber_trunk.core.kit.coils import Piece
    from umber_trunk.core.results import Results
    from umber_trunk.store.project import ProjectFile

MOST_NAMED = 6


def facts_of(project: ProjectFile, results: Results | None, wanted: Wanted = always) -> Facts:
    """Reads the log and the shelf; what runs short of it is worked out for the open builds, else for one unit."""
    floor = project.floor
    events, inputs, trust = floor.events(), inputs_of(floor), floor.trust()
    units = records(events, inputs)
    done: dict[str, set[str]] = {}
    for one in units:
        done.setdefault(one.build, set()).update(one.done)
    builds = []
    for name, digest in dict.fromkeys((one.build, one.order) for one in units if not one.moved_to):
        making = inputs.making(digest) if digest else None
        if making is not None:
            keys = {step.key for step in making.order.steps}
            builds.append(BuildFacts(name, len(keys & done[name]), len(keys)))
    go_on_if(wanted)
    with floor.shelf() as shelf:
        coils = [held.now for held in shelf.coils()]
    waived = floor.waived
    said = say("keep.coils", many=len(coils), waived=waived) if coils or waived else ""
    found, todo = [*alarms(events), *station_findings(events)], []
    if results is not None and results.design.wires:
        todo = _todo(results, units, inputs, builds, with_samples=bool(coils or waived))
        if not coils and not waived:
            found.append(Finding.of("kit.shelf", Severity.WARNING, "kit", "coils", ""))
        elif coils:
            from umber_trunk.core.kit.coilcut import plan_cuts
            from umber_trunk.core.make.to_cut import short_of

            plan = plan_cuts(coils, todo, wanted=wanted)
            found += [
                Finding.of(
                    "kit.short",
                    Severity.WARNING,
                    "kit",
                    "coils",
                    one.what,
                    what=one.what,
                    metres=one.metres,
                    wires=", ".join(one.wires[:MOST_NAMED]),
                )
                for one in short_of(plan.short)
            ]
    return Facts(
        tuple(builds),
        tuple(units),
        trust.entries,
        max(trust.entries - trust.signed_to, 0),
        trust.wrong,
        said,
        tuple(found),
        tuple(todo),
    )


def warmed(project: ProjectFile) -> None:
    """Reads what the newest build was frozen with, so that whoever goes on with it finds it read."""
    begun = next((one.act for one in reversed(project.floor.builds()) if isinstance(one.act, Begin)), None)
    if begun is not None and begun.order:
        with suppress(UmberError):
            frozen_of(project.floor, begun.design, begun.order)


def _todo(
    results: Results, units: list[UnitRecord], inputs: Inputs, builds: list[BuildFacts], with_samples: bool
) -> list[Piece]:
    """What is still to cut: of the open builds; before any is begun, of one unit, with its samples where a shelf is
    there to hold them against."""
    from umber_trunk.core.kit.stock import pieces
    from umber_trunk.core.make.to_cut import to_cut

    open_ = {one.name for one in builds if one.done < one.of}
    mine: dict[tuple[str, str], list[UnitRecord]] = {}
    for one in units:
        if one.build in open_:
            mine.setdefault((one.build, one.order), []).append(one)
    rows = []
    for (_, order), made in mine.items():
        making = inputs.making(order) if order else None
        if making is not None:
            done = {key: event for one in made for key, event in one.done.items()}
            rows += to_cut(making, (one.unit for one in made), done)
    if builds:
        return rows
    try:
        wires = pieces(results, 1)
        if not with_samples:
            return wires
        from umber_trunk.core.make.samples import sample_pieces  # every end's step is laid out for these

        return [*wires, *sample_pieces(results)]
    except InputError:
        return []  # a size is open: that is a finding of its own
