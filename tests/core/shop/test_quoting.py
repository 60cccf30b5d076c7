"""Quotes against sums done on paper: each stands here with its working."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from demos import worked_out
from umber_trunk.core.analysis import analyse
from umber_trunk.core.harness.end import Cavity, End
from umber_trunk.core.harness.model import Design, Load, Pin, Supply, Wire
from umber_trunk.core.harness.project import Project
from umber_trunk.core.shop import money
from umber_trunk.core.shop.actual import actual_lines
from umber_trunk.core.shop.jobs import JobSeen, UnitSeen, state_of
from umber_trunk.core.shop.offers import GROUPS, Asked, Offer, Seen
from umber_trunk.core.shop.price_book import PriceBook, with_prices
from umber_trunk.core.shop.quote_sheet import plain, quote_rows
from umber_trunk.core.shop.quoting import offer, quote
from umber_trunk.core.shop.savings import cheaper
from umber_trunk.core.shop.things import Job, Price, Rates, Shop, Supplier

DAY = date(2026, 12, 1)


def lamp(metres: float = 4.0) -> Design:
    """Two wires of 2.5 mm² from a battery to a lamp: 4.27 m to cut each, with what both ends take."""
    ends = [End(id=name, name=name, cavities=(Cavity(id="+"), Cavity(id="-"))) for name in ("bat", "lamp")]
    pins = {(end, pole): Pin(end=end, cavity=pole) for end in ("bat", "lamp") for pole in "+-"}
    wires = [
        Wire(id=name, start=pins["bat", pole], finish=pins["lamp", pole], size="2.5 mm2", colour="red", stated_m=metres)
        for name, pole in (("A", "+"), ("B", "-"))
    ]
    return Design(
        project=Project(name="lamp"),
        ends=tuple(ends),
        supplies=(Supply(id="s", name="battery", volts=12, plus=pins["bat", "+"], minus=pins["bat", "-"]),),
        loads=(Load(id="l", name="lamp", plus=pins["lamp", "+"], minus=pins["lamp", "-"], value=2.0),),
        wires=tuple(wires),
    )


def price(part: str, each: str, since: str = "2026-01-01", **more: object) -> Price:
    values = {"id": f"{part} {each} {since} {more}"[:80], "part": part, "each": each, "since": since, **more}
    return Price.model_validate(values)


def shop(**rates: object) -> Shop:
    usual = {"labour": 36, "overhead": 50, "handling": 10, "margin": 25, "tax": 20, "scrap": 10, "spare": 0}
    return Shop(
        prices=(price("2.5 mm2", "0.50", supplier="w", pack=10), price("label", "0.10", supplier="w")),
        suppliers=(Supplier(id="w", freight=Decimal(5), least_order=Decimal(20)),),
        rates=Rates.model_validate(usual | rates),
    )


def offered(units: int, **rates: object) -> Offer:
    return offer(analyse(lamp()), units, Asked(shop(**rates), DAY))


def test_three_lamps_on_paper() -> None:
    """36 an hour is a hundredth a second.

    wire      6 × 4.27 m = 25.62 m × 0.50 = 12.81; two pieces a coil of 10 m leave 1.46 m, which is kept
    labels    12 and 1 to spare × 0.10 = 1.30;  material 14.11;  order of 20 at least: 5.89 more, freight 5.00
    work      6 cuts × 6 s + 12 labels on 6 wires × 15 s + 6 laid × 12 s + 2 stops × 10 s = 218 s = 2.18
    tests     3 × 180 s + 3 looks × 4 s = 552 s = 5.52;  one tool set up, 60 s = 0.60;  hands 8.30
    scrap     10 % of 33.30 = 3.33;  overhead half of 8.30 = 4.15;  handling 10 % of 25.00 = 2.50;  cost 43.28
    margin    25 % = 10.82: 54.10, a unit 18.033 → 18.03, three 54.09;  tax 10.818 → 10.82;  64.91 to pay
    """
    made = offered(3)
    groups = {group: made.of(group) for group in GROUPS}
    assert groups == {
        "material": Decimal("14.11"),
        "freight": Decimal("10.89"),
        "set-up": Decimal("0.60"),
        "work": Decimal("2.18"),
        "test": Decimal("5.52"),
        "scrap": Decimal("3.33"),
        "overhead": Decimal("4.15"),
        "handling": Decimal("2.50"),
        "margin": Decimal("10.82"),
    }
    assert (made.cost, made.each, made.price, made.tax, made.total) == (
        Decimal("43.28"),
        Decimal("18.03"),
        Decimal("54.09"),
        Decimal("10.82"),
        Decimal("64.91"),
    )
    assert made.low < made.each < made.high
    assert made.unpriced == ()
    assert made.dominant[0][0].startswith("2.5 mm2")


@pytest.mark.parametrize(
    ("amount", "pack", "wanted"), [("0.6", "100", 1), ("100", "100", 1), ("100.01", "100", 2), ("0", "5", 0)]
)
def test_a_pack_begun_is_a_pack_bought(amount: str, pack: str, wanted: int) -> None:
    assert money.packs(Decimal(amount), Decimal(pack)) == wanted


def test_parts_in_packs() -> None:
    """13 labels in packs of 12: two packs, 24 × 0.10 = 2.40."""
    packed = Shop(prices=(price("label", "0.10", pack=12),), rates=shop().rates)
    line = next(line for line in offer(analyse(lamp()), 3, Asked(packed, DAY)).lines if line.id == "label")
    assert (line.packs, line.amount, line.cost) == (2, Decimal(24), Decimal("2.40"))


def test_wire_by_the_coil_and_what_is_lost_of_it() -> None:
    """By coils: 3 × 10 m × 0.50 = 15.00. By the metre with ends under 2 m lost: 25.62 + 3 × 1.46 = 30.00 m = 15.00.
    From 4 units on a coil more is opened: 8 pieces of 4.27 m take four."""

    def wire(made: Offer) -> Decimal | None:
        return next(line.cost for line in made.lines if line.id == "2.5 mm2 red")

    assert wire(offered(3, wire="coil")) == Decimal("15")
    assert wire(offered(3, usable_m=2.0)) == Decimal("15")
    assert wire(offered(3)) == Decimal("12.81")
    found = quote(analyse(lamp()), [3], Asked(shop(wire="coil"), DAY)).offers[0].step
    assert found is not None
    assert (found.units, found.adds) == (4, Decimal(5))


def test_what_nobody_priced_is_named_and_never_nothing() -> None:
    bare = offer(analyse(lamp()), 1, Asked(Shop(rates=shop().rates), DAY))
    assert bare.unpriced == ("printed label",)
    copper = next(line for line in bare.lines if line.id == "2.5 mm2 red")
    # 8.54 m × 2.5 mm² × 1.02 lay × 8.89 g/cm³ × 11 a kilogram, by hand: 2.13
    assert copper.guessed
    assert float(copper.cost or 0) == pytest.approx(8.54 * 2.5e-6 * 1.02 * 8890 * 11, rel=1e-3)
    assert "worth" in copper.note
    own = offer(analyse(lamp()), 1, Asked(shop(), DAY, own=("2.5 mm2",)))
    assert next(line.cost for line in own.lines if line.id == "2.5 mm2 red") == 0


def test_the_log_tells_scrap_once_it_has_enough() -> None:
    few = offer(analyse(lamp()), 1, Asked(shop(), DAY, seen=Seen(49, 5)))
    many = offer(analyse(lamp()), 1, Asked(shop(), DAY, seen=Seen(50, 1)))

    assert next(line for line in many.lines if line.group == "scrap").amount == Decimal(2)  # 1 of 50
    assert next(line for line in few.lines if line.group == "scrap").guessed
    assert next(line for line in few.lines if line.group == "scrap").amount == Decimal(10)


def test_prices_by_day_amount_supplier_and_colour() -> None:
    book = PriceBook(
        [
            price("a", "5", "2025-01-01", supplier="x"),
            price("a", "6", "2026-01-01", supplier="x"),
            price("a", "4", "2026-12-02", supplier="x"),  # told tomorrow
            price("a", "3", "2026-01-01", supplier="x", least=100),
            price("a", "5.50", "2026-02-01", supplier="y"),
            price("2.5 mm2", "0.6"),
            price("2.5 mm2 red", "0.7"),
        ],
        DAY,
    )

    def each(part: str, amount: int) -> Decimal | None:
        found = book.of_named(part, Decimal(amount))
        return found.each if found is not None else None

    assert each("a", 10) == Decimal("5.50")
    assert each("a", 100) == Decimal(3)
    assert each("b", 1) is None
    assert each("2.5 mm2 red", 1) == Decimal("0.7")  # told for this very colour
    assert each("2.5 mm² blue", 1) == Decimal("0.6")
    assert each("4 mm2 red", 1) is None


@pytest.mark.parametrize(
    ("amount", "currency", "step", "wanted"),
    # ISO 4217: no digits, two, three; halves go up
    [
        ("2.5", "JPY", "0", "3"),
        ("2.005", "EUR", "0", "2.01"),
        ("2.0005", "KWD", "0", "2.001"),
        ("7.24", "EUR", "0.5", "7.00"),
    ],
)
def test_rounding(amount: str, currency: str, step: str, wanted: str) -> None:
    assert money.rounded(Decimal(amount), currency, Decimal(step)) == Decimal(wanted)


@given(st.decimals(0, 10**7, places=4), st.sampled_from(["EUR", "JPY", "BHD"]))
def test_rounding_stays_within_half_a_unit(amount: Decimal, currency: str) -> None:
    assert abs(money.rounded(amount, currency) - amount) <= Decimal("0.5").scaleb(-money.digits(currency))


def test_cheaper_is_done_and_offered_again() -> None:
    """A metre less of the dearest limb of the barge: the same as quoting it with that limb shorter."""
    results, asked = worked_out("barge"), Asked(Shop(), DAY)
    found = cheaper(results, 2, asked, analyse)
    metre = next(one for one in found if one.what == "metre")
    limb = metre.told.values["limb"]
    segments = tuple(
        one.model_copy(update={"measure": one.measure.model_copy(update={"length_m": one.measure.length_m - 1})})
        if one.id == limb
        else one
        for one in results.design.segments
    )
    shorter = analyse(results.design.model_copy(update={"segments": segments}))
    assert metre.saves == offer(results, 2, asked).each - offer(shorter, 2, asked).each > 0


@pytest.mark.parametrize("name", ["barge", "tractor", "shore", "computer"])
def test_no_saving_takes_a_base_colour(name: str) -> None:
    """A stripe may go; red stays red: nobody is to find a minus in it because that was cheaper."""
    by_coil = Asked(
        Shop(
            prices=(price("1 mm2", "0.2", pack=100), price("0.75 mm2", "0.2", pack=100)), rates=shop(wire="coil").rates
        ),
        DAY,
    )
    tried: list[Design] = []
    cheaper(worked_out(name), 2, by_coil, lambda design: (tried.append(design), analyse(design))[1])
    before = {wire.id: wire.colour for wire in worked_out(name).design.wires}
    assert tried
    for design in tried:
        assert {wire.id: wire.colour for wire in design.wires} == before


def test_a_quote_as_data_and_table_says_the_same() -> None:
    found = quote(worked_out("tractor"), [1, 5], Asked(shop(), DAY), "3", "abc")
    told, rows = plain(found), quote_rows(found)
    assert [one["units"] for one in told["offers"]] == [1, 5]
    for one in told["offers"]:
        mine = [row for row in rows[1:] if row[0] == one["units"]]
        assert [row[7] for row in mine if row[2] == "total"] == [one["total"]]
        priced = [row[7] for row in mine if row[1] != "price" and row[7] != "no price"]
        assert sum(float(str(cost)) for cost in priced) == pytest.approx(sum(one["groups"].values()), abs=0.1)
        assert one["unpriced"] == [row[2] for row in mine if row[7] == "no price"]
    assert told["valid_until"] == "2026-12-31"
    assert actual_lines("", [], []) == []


def test_a_harness_keeps_the_prices_it_was_offered_at() -> None:
    """Copied in, it says the same without its shop; a newer price of the shop's goes before."""
    results, asked = analyse(lamp()), Asked(shop(), DAY)
    found = quote(results, [3], asked)
    kept = analyse(with_prices(results.design, found, asked.shop))
    assert {price.part for price in kept.design.prices} == {"2.5 mm2", "label"}
    alone = Asked(Shop(rates=asked.shop.rates, suppliers=asked.shop.suppliers), DAY)
    assert quote(kept, [3], alone).offers == found.offers
    dearer = Shop(rates=asked.shop.rates, prices=(price("2.5 mm2", "0.80", "2026-11-01", supplier="w", pack=10),))
    line = next(line for line in offer(kept, 3, Asked(dearer, DAY)).lines if line.id == "2.5 mm2 red")
    assert line.each == Decimal("0.80")


def test_a_unit_of_two_builds_is_proven_only_in_both() -> None:
    seen = JobSeen(
        units=(
            UnitSeen("a", 1, True, 0, 9, True),
            UnitSeen("b", 1, True, 0, 9, False),
            UnitSeen("b", 2, True, 0, 9, True),
        )
    )
    assert seen.proven == {2}
    state = state_of(Job(id="J", file="x", units=3, accepted="2026-11-01", quoted="2026-10-01"), seen, Shop(), DAY)
    assert (state.state, state.told) == ("proven", "2 of 3 proven")
