"""What stands in the shop's file, as frozen values. Money is decimal, written as text; days are ISO 8601."""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import Decimal
from typing import Annotated, Any, ClassVar

from pydantic import Field, model_validator

from umber_trunk.core.catalog.parts import Part
from umber_trunk.core.fields import Frozen, Id, Label, Metres, Text, between
from umber_trunk.core.harness.device import Device
from umber_trunk.core.harness.price import DayText, Money, Price
from umber_trunk.core.shop.money import CURRENCY

Share100 = Annotated[Decimal, Field(ge=0, le=1000, allow_inf_nan=False, decimal_places=6)]
WEEK = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")


class Tool(Frozen):
    """A press, a pair of pliers, a gauge: how many there are, the dies it takes, when its calibration is due. `serves`
    are names of tools in harnesses that it stands for; its own id where there are none."""

    id: Id
    name: Text = ""
    count: Annotated[int, Field(ge=1, le=1000)] = 1
    dies: tuple[Label, ...] = ()
    serves: tuple[Text, ...] = ()
    calibrated: DayText | None = None
    due: DayText | None = None
    note: Text = ""


class Hours(Frozen):
    """Hours of a weekday, as 08:00–12:00 and so on."""

    day: Annotated[str, Field(pattern=f"^({'|'.join(WEEK)})$")]
    start: Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]
    end: Annotated[str, Field(pattern=r"^([01]\d|2[0-4]):[0-5]\d$")]

    @model_validator(mode="after")
    def _ordered(self) -> Hours:
        if self.end <= self.start or self.end > "24:00":
            raise ValueError(f"{self.day} {self.start}–{self.end} ends before it begins")
        return self


USUAL_HOURS = tuple(Hours(day=day, start="08:00", end="16:00") for day in WEEK[:5])
"""When somebody is here of whom nothing is said."""


class Person(Frozen):
    """Who works here, by initials or name as they stand in the log; what they may do (operations; none said: all), when
    they are here, which days off. `by_name`: that what is learnt may be shown by this name."""

    id: Id
    name: Text = ""
    may: tuple[Label, ...] = ()
    hours: tuple[Hours, ...] = ()
    off: tuple[DayText, ...] = ()
    by_name: bool = False

    @property
    def here(self) -> tuple[Hours, ...]:
        """The hours they are here, the usual ones where none are said."""
        return self.hours or USUAL_HOURS


class Supplier(Frozen):
    """Who sells: freight of an order, the least they take one for, days until it is here."""

    id: Id
    name: Text = ""
    freight: Money = Decimal(0)
    least_order: Money = Decimal(0)
    lead_days: Annotated[int, Field(ge=0, le=1000)] = 7


class Rates(Frozen):
    """How the shop reckons. Shares in per cent: `overhead` on work, `handling` on material, `margin` on cost, `tax` on
    the price. `round_to`: a unit's price is rounded to so much, 0 for the currency's own digits. `wire`: charged by the
    metre, or by coils opened. `scrap` is what is taken for scrap and remakes until the log tells. `zone` is where the
    shop is (IANA); that of the moment a plan is asked for where it isn't said."""

    id: Id = "rates"
    currency: Annotated[str, Field(pattern="^[A-Z]{3}$")] = CURRENCY
    labour: Money = Decimal(45)
    overhead: Share100 = Decimal(25)
    handling: Share100 = Decimal(5)
    margin: Share100 = Decimal(15)
    tax: Share100 = Decimal(0)
    round_to: Money = Decimal(0)
    wire: Annotated[str, Field(pattern="^(metre|coil)$")] = "metre"
    scrap: Share100 = Decimal(2)
    spare: Share100 = Decimal(3)
    samples: Annotated[int, Field(ge=0, le=20)] = 1
    valid_days: Annotated[int, Field(ge=1, le=1000)] = 30
    usable_m: Metres = 0.5
    zone: Text = ""


class Template(Frozen):
    """A harness or limb to begin from: a design as JSON, and what is still to be asked."""

    id: Id
    name: Text = ""
    design: Annotated[str, Field(max_length=5_000_000)]
    questions: tuple[Text, ...] = ()


class Delivery(Frozen):
    """So many units handed over; where one of them wasn't proven, who let it go and why."""

    day: DayText
    units: tuple[Annotated[int, Field(ge=1, le=10_000)], ...]
    who: Text = ""
    why: Text = ""


class Repair(Frozen):
    """A unit that came back: which, what was found, what was done."""

    unit: Text
    found: Text = ""
    done: Text = ""


class Job(Frozen):
    """An order of a customer: a harness at a revision, a variant of it, so many units. `file` is beside the shop's
    file. `quote` is what was offered, as it was worked out then; `builds` are the names of its builds in the harness's
    log. `own` is material the customer brings, by part. `cancelled` says why nothing more is done."""

    id: Id
    file: Text
    revision: Annotated[int, Field(ge=0, le=10**9)] = 0
    digest: Text = ""
    variant: Text = ""
    units: Annotated[int, Field(ge=1, le=10_000)] = 1
    customer: Text = ""
    due: DayText | None = None
    weight: Annotated[float, between(0.01, 1000)] = 1.0
    ahead: bool = False
    builds: tuple[Text, ...] = ()
    quote: Annotated[str, Field(max_length=2_000_000)] = ""
    quoted: DayText | None = None
    accepted: DayText | None = None
    own: tuple[Text, ...] = ()
    deliveries: tuple[Delivery, ...] = ()
    repair: Repair | None = None
    closed: DayText | None = None
    cancelled: Text = ""
    note: Text = ""

    @property
    def harness(self) -> str:
        """What its file is called in the shell: FILE, or FILE:VARIANT."""
        return f"{self.file}:{self.variant}" if self.variant else self.file

    @property
    def handed(self) -> tuple[int, ...]:
        """The units that were handed over."""
        return tuple(sorted({unit for one in self.deliveries for unit in one.units}))

    @property
    def open(self) -> bool:
        """Whether anything is to be made for it."""
        return self.accepted is not None and self.closed is None and not self.cancelled


class Incoming(Frozen):
    """Ordered and not here yet: so much of a part or conductor, from whom, when it should come; `came` once the judge
    saw it, with what was found."""

    id: Id
    part: Text
    amount: Annotated[float, between(0.001, 1e6)]
    supplier: Text = ""
    ordered: DayText
    due: DayText | None = None
    came: DayText | None = None
    judged: Text = ""


class Peer(Frozen):
    """A station's public key, and the name it goes by here."""

    id: Id
    name: Text = ""


class StockPart(Frozen):
    """A part of the shop's own catalogue; all its harnesses have it on their shelf."""

    id: Id
    part: Part


class KeptPlan(Frozen):
    """The plan that was kept last: when, and for each task by whom and when it begins."""

    id: Id = "plan"
    made: Text = ""
    tasks: tuple[tuple[str, str, int], ...] = ()


@dataclass(frozen=True)
class Kind:
    """One list of the shop: its name, the model of its rows, what it is in a sentence."""

    name: str
    model: type[Any]
    told: str


KINDS: dict[str, Kind] = {
    one.name: one
    for one in (
        Kind("tools", Tool, "presses, pliers, gauges: how many, their dies, calibration due"),
        Kind("people", Person, "who works here, what they may do, their hours"),
        Kind("prices", Price, "what things cost, from whom, since when"),
        Kind("suppliers", Supplier, "freight, least order, days until it is here"),
        Kind("rates", Rates, "labour, overhead, margin, tax, rounding"),
        Kind("devices", Device, "what harnesses are plugged into, pin by pin"),
        Kind("templates", Template, "harnesses and limbs to begin from"),
        Kind("jobs", Job, "what was ordered, of which harness, for when"),
        Kind("incoming", Incoming, "what was ordered and isn’t here yet"),
        Kind("stations", Peer, "public keys of the stations that are trusted here"),
        Kind("parts", StockPart, "the shop’s own catalogue: parts that its harnesses have on their shelf"),
        Kind("plans", KeptPlan, "the plan that was kept last"),
    )
}
"""The shop's lists, by name; coils and counted parts are its shelf."""


@dataclass(frozen=True)
class Shop:
    """All of a shop's lists as values."""

    tools: tuple[Tool, ...] = ()
    people: tuple[Person, ...] = ()
    prices: tuple[Price, ...] = ()
    suppliers: tuple[Supplier, ...] = ()
    rates: Rates = field(default_factory=Rates)
    devices: tuple[Device, ...] = ()
    templates: tuple[Template, ...] = ()
    jobs: tuple[Job, ...] = ()
    incoming: tuple[Incoming, ...] = ()
    stations: tuple[Peer, ...] = ()
    parts: tuple[StockPart, ...] = ()
    plans: tuple[KeptPlan, ...] = ()

    ONE: ClassVar[tuple[str, ...]] = ("rates",)
    """Lists that have one row."""

    def rows(self, kind: str) -> tuple[Any, ...]:
        """The rows of a list by its name."""
        found = getattr(self, kind)
        return (found,) if kind in self.ONE else tuple(found)

    def named(self, kind: str, name: str) -> Any:
        """The row of that id, None where there is none."""
        return next((row for row in self.rows(kind) if row.id == name), None)
