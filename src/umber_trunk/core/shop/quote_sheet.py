"""A quote as plain data, as tables, and on paper: for the customer what is asked and what it rests on, for the shop
every line of it."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from umber_trunk.core.printed import PaperTable, Printed
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say
from umber_trunk.core.shop import money
from umber_trunk.core.shop.offers import GROUPS, Line, Offer, Quote

Cell = str | int | float | None
NOTE = (
    "The price holds for the revision named, as drawn. Conductor sizes, fuses and routes are engineering estimates: "
    "the applicable code, class or vehicle rule and a licensed person decide."
)


def plain(quote: Quote) -> dict[str, Any]:
    """A quote as JSON has it; amounts of money in the quote's currency."""
    return {
        "harness": quote.harness,
        "revision": quote.revision,
        "digest": quote.digest,
        "day": quote.day.isoformat(),
        "valid_until": quote.until.isoformat(),
        "currency": quote.currency,
        "offers": [_offer(one, quote.currency) for one in quote.offers],
        "cheaper": [
            {"what": one.what, "told": str(one.told), "saves": float(money.rounded(one.saves, quote.currency))}
            for one in quote.cheaper
        ],
    }


def _offer(one: Offer, currency: str) -> dict[str, Any]:
    def amount(value: Decimal) -> float:
        return float(money.rounded(value, currency))

    return {
        "units": one.units,
        "unit_price": amount(one.each),
        "price": amount(one.price),
        "tax": amount(one.tax),
        "total": amount(one.total),
        "unit_low": amount(one.low),
        "unit_high": amount(one.high),
        "cost": amount(one.cost),
        "work_s": round(one.work_s, 1),
        "groups": {group: amount(one.of(group)) for group in GROUPS},
        "lines": [_line(line) for line in one.lines],
        "unpriced": list(one.unpriced),
        "dominates": [{"what": what, "share": round(float(share), 4)} for what, share in one.dominant],
        "breaks": None
        if one.step is None
        else {"units": one.step.units, "what": list(one.step.what), "adds": amount(one.step.adds)},
    }


def _line(line: Line) -> dict[str, Any]:
    return {
        "group": line.group,
        "what": line.what,
        "id": line.id,
        "amount": round(float(line.amount), 6),
        "unit": line.unit,
        "each": None if line.each is None else round(float(line.each), 6),
        "cost": None if line.cost is None else round(float(line.cost), 6),
        "guessed": line.guessed,
        "note": line.note,
        "supplier": line.supplier,
        "packs": line.packs,
    }


def quote_rows(quote: Quote) -> list[list[Cell]]:
    """Every line of every offer as a table, with its sums."""
    rows: list[list[Cell]] = [
        ["units", "group", "what", "id", "amount", "unit", "each", "cost", "supplier", "guessed", "note"]
    ]
    for offer in quote.offers:
        for line in offer.lines:
            cost = say("quote.no-price") if line.cost is None else round(float(line.cost), 4)
            each = None if line.each is None else round(float(line.each), 6)
            amount = round(float(line.amount), 4)
            guess = "yes" if line.guessed else ""
            rows.append(
                [
                    offer.units,
                    line.group,
                    line.what,
                    line.id,
                    amount,
                    line.unit,
                    each,
                    cost,
                    line.supplier,
                    guess,
                    line.note,
                ]
            )
        for name, value in (("a unit", offer.each), ("all", offer.price), ("tax", offer.tax), ("total", offer.total)):
            rows.append([offer.units, "price", name, "", None, "", None, float(value), quote.currency, "", ""])
    return rows


def customer_sheet(quote: Quote, results: Results, customer: str = "") -> Printed:
    """What the customer gets: prices by number of units, how long they hold, what they are for."""
    currency = quote.currency
    prices = PaperTable(
        ("Units", "A unit", "In all", "Tax", "To pay"),
        (0.12, 0.22, 0.22, 0.2, 0.24),
        (0, 1, 2, 3, 4),
        tuple(
            (
                str(one.units),
                money.told(one.each, currency),
                money.told(one.price, currency),
                money.told(one.tax, currency),
                money.told(one.total, currency),
            )
            for one in quote.offers
        ),
    )
    design = results.design
    tested = all(any(line.id == "test" for line in one.lines) for one in quote.offers)
    facts = [
        ("Harness", quote.harness),
        ("Revision", f"{quote.revision or 'as drawn'}, {quote.digest[:16]}"),
        ("Wires", str(len(design.wires))),
        ("Connectors, studs and splices", str(sum(bool(end.housings) or bool(end.cavities) for end in design.ends))),
        (
            "Tests",
            "by the harness’s test list, unit by unit: their time is in the price" if tested else "none priced in",
        ),
        ("Valid until", quote.until.isoformat()),
    ]
    if customer:
        facts.insert(0, ("For", customer))
    tables = [prices, PaperTable(("What", ""), (0.3, 0.7), (), tuple(facts))]
    missing = list(dict.fromkeys(name for one in quote.offers for name in one.unpriced))
    if missing:
        tables.append(
            PaperTable(
                ("Not in these prices", ""),
                (0.6, 0.4),
                (),
                tuple((name, say("quote.to-be-priced")) for name in missing),
            )
        )
    state = say("quote.offered", day=quote.day.isoformat(), until=quote.until.isoformat(), missing=len(missing))
    return Printed(say("quote.offer", harness=quote.harness), state, not missing, tuple(tables), NOTE)


def inside_sheet(quote: Quote, results: Results) -> Printed:
    """What the shop keeps: every line, guesses marked, what dominates, where a pack breaks, what would be cheaper."""
    currency = quote.currency
    tables = [_in_short(quote)]
    for one in quote.offers:
        tables.append(
            PaperTable(
                (say("quote.units", many=one.units), "What", "Amount", "Each", "Cost", "Note"),
                (0.1, 0.33, 0.12, 0.1, 0.12, 0.23),
                (2, 3, 4),
                (
                    *tuple(_told(line, currency) for line in one.lines),
                    (
                        "",
                        say("quote.each", money=money.told(one.each, currency)),
                        "",
                        "",
                        money.told(one.price, currency),
                        _range(one, currency),
                    ),
                ),
            )
        )
    if quote.cheaper:
        saves = tuple((one.what, str(one.told), money.told(one.saves, currency)) for one in quote.cheaper)
        tables.append(PaperTable(("Cheaper", "How", "Off a unit"), (0.15, 0.6, 0.25), (2,), saves))
    state = say("quote.for-the-shop", day=quote.day.isoformat())
    return Printed(say("quote.costs", harness=quote.harness), state, True, tuple(tables), NOTE)


def _in_short(quote: Quote) -> PaperTable:
    """What each number of units comes to, group by group, what a unit is asked for and what dominates."""
    currency, offers = quote.currency, quote.offers
    rows = [(group, *(money.told(one.of(group), currency) for one in offers)) for group in GROUPS]
    rows.append((say("quote.a-unit"), *(money.told(one.each, currency) for one in offers)))
    rows.append(
        (
            say("quote.row-between"),
            *(
                say("quote.between", low=money.told(one.low, currency), high=money.told(one.high, currency))
                for one in offers
            ),
        )
    )
    rows.append((say("quote.row-most"), *(_most(one) for one in offers)))
    rows.append((say("quote.row-next"), *(_step(one, currency) for one in offers)))
    share = 0.8 / max(len(offers), 1)
    titles = (say("quote.in-short"), *(say("quote.units", many=one.units) for one in offers))
    return PaperTable(titles, (0.2, *[share] * len(offers)), tuple(range(1, len(offers) + 1)), tuple(rows))


def _most(one: Offer) -> str:
    return ", ".join(f"{what} {float(part) * 100:.0f} %" for what, part in one.dominant)


def _step(one: Offer, currency: str) -> str:
    if one.step is None:
        return say("quote.none-in-sight")
    return say("quote.next", units=one.step.units, money=money.told(one.step.adds, currency))


def _range(one: Offer, currency: str) -> str:
    return say("quote.range", low=money.told(one.low, currency), high=money.told(one.high, currency))


def _told(line: Line, currency: str) -> tuple[str, ...]:
    amount = f"{float(line.amount):.4g} {line.unit}"
    each = "" if line.each is None else f"{float(line.each):.4g}"
    cost = "no price" if line.cost is None else money.told(line.cost, currency)
    note = "; ".join(part for part in (say("quote.guess") if line.guessed else "", line.note) if part)
    return line.group, line.what, amount, each, cost, note


def offer_words(quote: Quote) -> Sequence[str]:
    """The offers in lines, for the shell."""
    found = []
    for one in quote.offers:
        found.append(
            say(
                "quote.line",
                units=one.units,
                each=money.told(one.each, quote.currency),
                range=_range(one, quote.currency),
                all=money.told(one.price, quote.currency),
                taxed=money.told(one.total, quote.currency) if one.tax else "",
            )
        )
        if one.dominant:
            found.append("      " + say("quote.most", what=_most(one)))
        if one.step is not None:
            found.append(
                "      "
                + say(
                    "quote.opened",
                    units=one.step.units,
                    what=", ".join(one.step.what[:4]),
                    money=money.told(one.step.adds, quote.currency),
                )
            )
        if one.unpriced:
            found.append("      " + say("buy.without-a-price", names=", ".join(one.unpriced)))
    return found
