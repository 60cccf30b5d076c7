"""What the harness files of a shop's jobs say: units, what is still to cut, parts that are needed, times and scrap."""

from __future__ import annotations

import os
from collections import defaultdict
from collections.abc import Callable, Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Any

from umber_trunk.core.errors import InputError, UmberError, Wanted, always, go_on_if
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.edits import refused
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.way import FoundLength
from umber_trunk.core.keep.record import records
from umber_trunk.core.keep.unit_record import UnitRecord
from umber_trunk.core.kit.coils import Coil, Piece
from umber_trunk.core.make.alarms import alarms
from umber_trunk.core.make.events import Done, Event, Remake, Scrap
from umber_trunk.core.make.timed import Order
from umber_trunk.core.make.times import Times, learn
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import NOTHING, Message, say
from umber_trunk.core.shop.jobs import JobSeen, JobState, Lack, UnitSeen, state_of
from umber_trunk.core.shop.offers import Seen
from umber_trunk.core.shop.one_shelf import ShelfPlan, Wants, shelf_plan
from umber_trunk.core.shop.things import Job, Shop
from umber_trunk.core.text import digest_of
from umber_trunk.store.floor import times_of
from umber_trunk.store.inputs import inputs_of
from umber_trunk.store.jsonfile import to_json
from umber_trunk.store.project import ProjectFile

Analysed = Callable[[Design], Results]


@dataclass
class HarnessSeen:
    """One harness file as it was read: its newest design and revision, its log, the records folded from it; `lost` why
    it can't be read."""

    path: Path
    lost: Message = NOTHING
    design: Design | None = None
    revision: int = 0
    events: Sequence[Event] = ()
    units: Sequence[UnitRecord] = ()
    cut_left: dict[tuple[str, int], list[Piece]] | None = None
    crimped: dict[str, dict[str, float]] | None = None
    """Build → parts that its steps done took."""
    orders: dict[str, Order] | None = None
    """Digest of an order as a unit's record names it → that order."""


@dataclass(frozen=True)
class JobBeside:
    """A job with what its harness says and what it still wants."""

    job: Job
    seen: JobSeen
    wants: Wants
    results: Results | None


class ShopSeen:
    """Every job of a shop, worked out once: harness files are read once, results once for each harness and variant."""

    def __init__(self, path: Path, shop: Shop, analysed: Analysed, wanted: Wanted = always) -> None:
        """path: the shop's file; harness files are named from its folder."""
        self.path, self.shop, self._analysed, self._wanted = path, shop, analysed, wanted
        self._files: dict[str, HarnessSeen] = {}
        self._results: dict[tuple[str, str, int], Results | Message] = {}
        self._beside: dict[str, JobBeside] = {}

    def file(self, name: str) -> HarnessSeen:
        """A harness file, by its name from the shop's folder."""
        if name not in self._files:
            go_on_if(self._wanted)
            self._files[name] = read_harness(self.path.absolute().parent / name)
        return self._files[name]

    def results(self, job: Job) -> Results | Message:
        """The figures of a job's harness at its revision, or why there are none."""
        key = job.file, job.variant, job.revision
        if key not in self._results:
            go_on_if(self._wanted)
            try:
                self._results[key] = self._analysed(design_of_job(self.path, job))
            except (UmberError, KeyError) as why:
                told = why.message if isinstance(why, UmberError) else Message("", as_was=str(why))
                self._results[key] = told
        return self._results[key]

    def worked_out(self) -> list[Results]:
        """The figures of all jobs that were asked for."""
        return [one for one in self._results.values() if not isinstance(one, Message)]

    def beside(self, job: Job) -> JobBeside:
        """What a job's harness says of it."""
        known = self._beside.get(job.id)
        if known is None or known.job != job:
            known = self._beside[job.id] = self._asked(job)
        return known

    def _asked(self, job: Job) -> JobBeside:
        found = self.file(job.file)
        if found.lost:
            return JobBeside(job, JobSeen(lost=found.lost), Wants(job), None)
        results = self.results(job)
        if isinstance(results, Message):
            return JobBeside(job, JobSeen(lost=results), Wants(job), None)
        mine = [one for one in found.units if one.build in builds_of(job) and not one.moved_to]
        units = tuple(_unit(one, (found.cut_left or {}).get((one.build, one.unit), [])) for one in mine)
        faults = sum(row.severity is Severity.FAULT for row in results.findings)
        told = alarms([one for one in found.events if one.build in builds_of(job)])
        waits = tuple(row.says for row in told)
        seen = JobSeen(NOTHING, found.revision, _newest(found, job), units, faults, waits)
        return JobBeside(job, seen, self._wants(job, found, mine, results), results)

    def _wants(self, job: Job, found: HarnessSeen, mine: Sequence[UnitRecord], results: Results) -> Wants:
        """What is still to cut and to crimp for a job: of units begun what their steps left, of others all."""
        if not job.open:
            return Wants(job)
        from umber_trunk.core.buy.lines import Spares
        from umber_trunk.core.buy.shopping import shopping
        from umber_trunk.core.kit.stock import pieces
        from umber_trunk.core.make.samples import sample_pieces

        to_cut = [piece for one in mine for piece in (found.cut_left or {}).get((one.build, one.unit), [])]
        fresh = 0 if job.repair is not None else max(job.units - len(mine), 0)
        parts: dict[str, float] = {}
        names: dict[str, str] = {}
        try:
            if fresh:
                to_cut += [*pieces(results, fresh), *sample_pieces(results)]
                for row in shopping(results, fresh, Spares(0, 0, 1)):
                    if row.unit == "pcs":
                        parts[row.id], names[row.id] = row.needed + row.test, row.name
        except InputError:
            pass  # a size is open: that is a finding of its own
        for size in {piece.size for piece in to_cut}:
            if (cable := results.shelf.named(size)) is not None:
                names[size] = cable.name
        own = {text.lower() for text in job.own}
        bought = {key: n for key, n in parts.items() if key.lower() not in own}
        return Wants(job, tuple(one for one in to_cut if one.size.lower() not in own), bought, names)


def _newest(found: HarnessSeen, job: Job) -> str:
    """The digest of a job's harness, or variant, as it is now."""
    from umber_trunk.core.harness.variants import variant_of

    if found.design is None:
        return ""
    try:
        design = variant_of(found.design, job.variant) if job.variant else found.design
    except InputError:
        return "the variant is gone"
    return digest_of(to_json(design))


def named_from(shop: Path, harness: Path) -> str:
    """How a harness file is named in a shop's file: from its folder, as paths are written everywhere."""
    return os.path.relpath(harness.absolute(), shop.absolute().parent)


def new_job(shop: Path, harness: Path, variant: str, taken: Collection[str], **said: Any) -> tuple[Job, str]:
    """(a job of a harness at its newest revision, what is to be told of its shelf): what is offered holds for what was
    looked at. It is called by its `id`, or by the first free J and number. InputError for what no job can be."""
    with ProjectFile.open(harness) as project:
        if variant:
            project.shows_variant(variant)
        design, revision = project.design, project.head
        told = cut_from_shop(project, shop)
    free = next(f"J{n}" for n in range(1, len(taken) + 2) if f"J{n}" not in taken)
    known = {"id": free} | {key: value for key, value in said.items() if value}
    try:
        job = Job(
            file=named_from(shop, harness),
            revision=revision,
            digest=digest_of(to_json(design)),
            variant=variant,
            **known,
        )
    except ValueError as why:
        raise refused(why) from None
    return job, told


def cut_from_shop(project: ProjectFile, shop: Path) -> str:
    """From now on a harness without coils of its own is cut from the shop's shelf, so that what the bench takes is off
    it; a sentence where it has its own, "" otherwise."""
    floor = project.floor
    if floor.shelf_path is not None:
        mine = floor.shelf_path == shop.resolve()
        return "" if mine else say("shop.cut-from", path=project.path.name, shelf=floor.shelf_path.name)
    if floor.coils():
        return say("shop.own-coils", path=project.path.name, shop=shop.name)
    if not project.read_only:
        floor.use_shelf(shop)
    return ""


def builds_of(job: Job) -> tuple[str, ...]:
    """Names of the builds in a harness's log that are a job's."""
    return (*job.builds, job.id)


def design_of_job(shop: Path, job: Job) -> Design:
    """A job's harness at its revision, and of its variant. StoreError where it can't be had."""
    from umber_trunk.core.harness.variants import variant_of

    with ProjectFile.open(shop.absolute().parent / job.file, for_writing=False) as project:
        design = project.design_at(job.revision) if job.revision else project.design
    return variant_of(design, job.variant) if job.variant else design


def read_harness(path: Path) -> HarnessSeen:
    """A harness file; one that can't be read says why."""
    from umber_trunk.core.make.to_cut import to_cut

    try:
        with ProjectFile.open(path, for_writing=False) as project:
            events, inputs = project.floor.events(), inputs_of(project.floor)
            units = records(events, inputs)
            left: dict[tuple[str, int], list[Piece]] = {}
            orders: dict[str, Order] = {}
            crimped: dict[str, dict[str, float]] = defaultdict(lambda: defaultdict(float))
            for one in units:
                making = inputs.making(one.order) if one.order else None
                if making is not None:
                    orders[one.order] = making.order
                    left[one.build, one.unit] = to_cut(making, [one.unit], one.done)
                    for step in making.order.steps:
                        if step.operation.op == "crimp" and step.operation.part and step.key in one.done:
                            crimped[one.build][step.operation.part] += 1
            return HarnessSeen(path, NOTHING, project.design, project.head, events, units, left, crimped, orders)
    except UmberError as why:
        return HarnessSeen(path, why.message)


def _unit(one: UnitRecord, left: Sequence[Piece]) -> UnitSeen:
    wrong = one.reason if one.faulty or one.ended else NOTHING
    to_cut = any(piece.unit == one.unit for piece in left)
    return UnitSeen(one.build, one.unit, not to_cut, one.left, one.steps, one.certain, wrong)


def states(seen: ShopSeen, day: date, plan: ShelfPlan | None = None) -> list[JobState]:
    """Every job's state on a day, with what the shelf lacks for it where it was planned."""
    lacks: dict[str, list[Lack]] = defaultdict(list)
    for short in plan.short if plan is not None else ():
        lacks[short.job].append(Lack(short.what, short.metres, metres=True))
    return [state_of(job, seen.beside(job).seen, seen.shop, day, lacks[job.id]) for job in seen.shop.jobs]


def planned(seen: ShopSeen, coils: Sequence[Coil], wanted: Wanted = always) -> tuple[list[Wants], ShelfPlan]:
    """One cutting plan over all accepted jobs, from the shop's own shelf."""
    wants = [seen.beside(job).wants for job in seen.shop.jobs if job.open]
    return wants, shelf_plan(wants, coils, float(seen.shop.rates.usable_m), wanted)


def shop_events(seen: ShopSeen) -> list[Event]:
    """Everything logged of any of the shop's harnesses, each file once."""
    return [event for name in sorted({job.file for job in seen.shop.jobs}) for event in seen.file(name).events]


def logs_of_shop(path: Path, shop: Shop) -> list[Event]:
    """Everything logged of a shop's harnesses, each entry once; those that can't be read are left out."""
    found: dict[str, Event] = {}
    for name in sorted({job.file for job in shop.jobs}):
        with suppress(UmberError), ProjectFile.open(path.absolute().parent / name, for_writing=False) as project:
            found |= {event.id: event for event in project.floor.events()}
    return list(found.values())


def history_of(seen: ShopSeen) -> list[FoundLength]:
    """Lengths found against planned, of all the shop's harnesses."""
    files = [seen.file(name) for name in sorted({job.file for job in seen.shop.jobs})]
    return [pair for one in files if one.design is not None for pair in one.design.project.history]


def times_and_scrap(events: Sequence[Event]) -> tuple[Times, Seen]:
    """What a log tells of times, and of steps in vain."""
    done = sum(isinstance(one.act, Done) for one in events)
    voided = sum(len(one.act.voids) for one in events if isinstance(one.act, Remake | Scrap))
    return learn(times_of(events)), Seen(done, voided)
