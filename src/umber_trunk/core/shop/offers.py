"""What a quote is made of: lines, the offer for a number of units, where the next pack begins, what would save."""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import Decimal

from umber_trunk.core.make.times import Times
from umber_trunk.core.moments import Day
from umber_trunk.core.sentences import NOTHING, Message
from umber_trunk.core.shop import money
from umber_trunk.core.shop.things import Shop

MATERIAL, FREIGHT, SET_UP, WORK, TEST, SCRAP = "material", "freight", "set-up", "work", "test", "scrap"
OVERHEAD, HANDLING, MARGIN = "overhead", "handling", "margin"
GROUPS = (MATERIAL, FREIGHT, SET_UP, WORK, TEST, SCRAP, OVERHEAD, HANDLING, MARGIN)
ENOUGH_STEPS = 50
"""From so many steps done on, the log tells the shop's own scrap."""
DOMINANT = 3
"""Lines of an offer that are said to make the price."""


@dataclass(frozen=True)
class Seen:
    """What the log says of scrap and remakes: steps done, and steps that were voided and done again."""

    done: int = 0
    voided: int = 0

    @property
    def share(self) -> Decimal | None:
        """Steps in vain to those done, None while too few were."""
        return Decimal(self.voided) / Decimal(self.done) if self.done >= ENOUGH_STEPS else None


@dataclass(frozen=True)
class Line:
    """One line: what, how much of it at which price, what it costs in all. `guessed`: the price or time is a first
    guess. `cost` None where nobody said a price."""

    group: str
    what: str
    id: str
    amount: Decimal
    unit: str
    each: Decimal | None
    cost: Decimal | None
    guessed: bool = False
    notes: tuple[Message, ...] = ()
    supplier: str = ""
    packs: int = 0
    said: Message = NOTHING
    """What it is, where that is no part's name."""

    @property
    def note(self) -> str:
        """What is told of it."""
        return "; ".join(map(str, self.notes))


@dataclass(frozen=True)
class Step:
    """Where a pack or a coil breaks: from so many units on, what is bought more, and what it adds to the material."""

    units: int
    what: tuple[str, ...]
    adds: Decimal


@dataclass(frozen=True)
class Offer:
    """So many units: every line, what they cost, a unit's price and all of them's, tax apart. `low` and `high` are a
    unit's price by what is guessed and how times scatter; `work_s` what the order takes."""

    units: int
    lines: tuple[Line, ...]
    cost: Decimal
    each: Decimal
    price: Decimal
    tax: Decimal
    total: Decimal
    low: Decimal
    high: Decimal
    work_s: float
    unpriced: tuple[str, ...]
    step: Step | None = None

    def of(self, group: str) -> Decimal:
        """What the lines of a group come to."""
        return money.total(line.cost for line in self.lines if line.group == group and line.cost is not None)

    @property
    def dominant(self) -> list[tuple[str, Decimal]]:
        """What costs most, with its share of the cost: what is bought and done, not the shares on top."""
        priced = [(line, line.cost) for line in self.lines if line.cost and line.group in GROUPS[:5]]
        first = sorted(priced, key=lambda row: -row[1])[:DOMINANT]
        return [(line.what, cost / self.cost) for line, cost in first if self.cost > 0]


@dataclass(frozen=True)
class Cheaper:
    """Something done otherwise: what it is about, in words, and what it takes off a unit's price."""

    what: str
    told: Message
    saves: Decimal


@dataclass(frozen=True)
class Quote:
    """An offer for one revision of a harness, valid until a day."""

    harness: str
    revision: str
    digest: str
    day: Day
    until: Day
    currency: str
    offers: tuple[Offer, ...]
    cheaper: tuple[Cheaper, ...] = ()


@dataclass(frozen=True)
class Asked:
    """What a quote is worked out from, beside the harness: the shop, times and scrap of its log, the day, what the
    customer brings."""

    shop: Shop
    day: Day
    times: Times = field(default_factory=Times)
    seen: Seen = Seen()
    own: tuple[str, ...] = ()
