"""What the shop's window shows, worked out beside it in one go: the same file, folded the same way as in the shell."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path

from PySide6.QtGui import QImage

from umber_trunk.app.paper.leaves import KeptLeaves, Page
from umber_trunk.app.paper.pdf import draw_on, page_layout
from umber_trunk.app.trunk.small import small_trunk
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import UmberError, Wanted, always, go_on_if
from umber_trunk.core.harness.model import Design
from umber_trunk.core.printed import Printed
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import NOTHING, Message
from umber_trunk.core.shop.jobs import JobState
from umber_trunk.core.shop.lessons import lessons, lessons_sheet
from umber_trunk.core.shop.offers import Asked
from umber_trunk.core.shop.one_shelf import ShelfPlan, ToOrder, order_sheet, to_order
from umber_trunk.core.shop.quote_sheet import customer_sheet, inside_sheet
from umber_trunk.core.shop.quoting import quote
from umber_trunk.core.shop.things import Job, Shop
from umber_trunk.store.catalogues import stocked_shelf
from umber_trunk.store.shop_file import shop_file
from umber_trunk.store.shop_jobs import (
    ShopSeen,
    design_of_job,
    history_of,
    planned,
    shop_events,
    states,
    times_and_scrap,
)
from umber_trunk.store.stock import Held

SMALL = (210, 76)
"""A job's trunk in pixels."""


@dataclass
class ShopLook:
    """A shop as it stands: its lists, each job's state with its trunk, the shelf with its plan, what to order; `wrong`
    what isn't as it was written."""

    path: Path
    shop: Shop
    day: date
    states: list[JobState]
    trunks: dict[str, QImage]
    coils: list[Held]
    plan: ShelfPlan
    orders: list[ToOrder]
    seen: ShopSeen
    parts: Shelf
    counts: dict[str, float]
    drawn: list[tuple[Results, float, QImage]]
    wrong: Message = NOTHING
    lost: tuple[Message, ...] = field(default=())

    def analysed(self, design: Design, wanted: Wanted = always) -> Results:
        """The figures of a design with the shop's parts, those of a job where its design is the same."""
        return _like(design, self.seen.worked_out()) or analyse(design, self.parts, wanted=wanted)

    def state(self, job: str) -> JobState | None:
        """A job's state by its id."""
        return next((one for one in self.states if one.job.id == job), None)


def _like(design: Design, known: Sequence[Results]) -> Results | None:
    return next((one for one in known if one.design == design), None)


def look(path: Path, day: date, ratio: float, wanted: Wanted, before: ShopLook | None = None) -> ShopLook:
    """Reads the shop's file and its jobs' harnesses. StoreError where the shop's file can't be read. Everything is read
    anew; what is worked out of a design is taken from the look `before` where design and parts are the same."""
    parts, _ = stocked_shelf(None, path.with_name("harness"))
    if before is not None and before.parts.parts != parts.parts:
        before = None
    elif before is not None:
        parts = before.parts
    known = before.seen.worked_out() if before is not None else []  # not the look: each would hold all before it

    def analysed(design: Design) -> Results:
        return _like(design, known) or analyse(design, parts, wanted=wanted)

    with shop_file(path) as file:
        shop, coils, counts = file.shop(), file.coils(), file.floor.parts()
        wrong, lost = file.wrong(), file.lost
    seen = ShopSeen(path, shop, analysed, wanted)
    wants, plan = planned(seen, [held.now for held in coils], wanted)
    told = states(seen, day, plan)
    trunks: dict[str, QImage] = {}
    drawn = list(before.drawn) if before is not None else []
    for job in shop.jobs:
        go_on_if(wanted)
        results = seen.results(job) if not seen.file(job.file).lost else None
        if isinstance(results, Results):
            same = next((image for of, at, image in drawn if of is results and at == ratio), None)
            trunks[job.id] = same or small_trunk(results.design, *SMALL, ratio)
            drawn.insert(0, (results, ratio, trunks[job.id]))
    orders = to_order(wants, plan, counts, shop, day)
    return ShopLook(
        path, shop, day, told, trunks, coils, plan, orders, seen, parts, counts, drawn[: len(trunks)], wrong, lost
    )


def pages_of(sheet: Printed, results: Results) -> list[Page]:
    """A sheet as pages to be looked at."""
    leaves = KeptLeaves(page_layout(results.design.project))
    draw_on(leaves, [sheet], results)
    return leaves.pages()


def offer_pages(shown: ShopLook, job: Job, inside: bool, wanted: Wanted) -> list[Page]:
    """A job's offer as it comes out today, for the customer or line by line; UmberError where there is none."""
    results = shown.analysed(design_of_job(shown.path, job), wanted)
    times, vain = times_and_scrap(shop_events(shown.seen))
    asked = Asked(shown.shop, shown.day, times, vain, job.own)
    numbers = [job.units] if inside else sorted({1, job.units, 2 * job.units})
    told = f"{job.revision}:{job.variant}" if job.variant else str(job.revision)
    found = quote(results, numbers, asked, told, job.digest, wanted)
    sheet = inside_sheet(found, results) if inside else customer_sheet(found, results, job.customer)
    return pages_of(sheet, results)


def lesson_pages(shown: ShopLook) -> list[Page]:
    """The page of what was learnt."""
    events = shop_events(shown.seen)
    times, _ = times_and_scrap(events)
    sheet = lessons_sheet(lessons(shown.shop, events, shown.day, times, history_of(shown.seen)))
    return pages_of(sheet, shown.analysed(Design()))


def order_pages(shown: ShopLook) -> list[Page]:
    """The list of what to order for all jobs."""
    return pages_of(order_sheet(shown.orders, shown.shop.rates.currency, shown.day), shown.analysed(Design()))


def tried(work: Callable[[], list[Page]]) -> tuple[str, list[Page]]:
    """(why there are none, pages)."""
    try:
        return "", work()
    except UmberError as why:
        return str(why), []
