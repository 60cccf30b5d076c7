"""What so many units of a harness cost, line by line, and what to ask for them.

    material   what is bought (core/buy), at the shop's prices; wire by the metre with the offcuts that are lost, or by
               coils opened; freight and least orders by supplier
    work       seconds of the order's steps (core/make) by operation, from the log where it tells; set-ups apart
    scrap      a share of both, as the log has it
    overhead   a share of work, handling a share of material, margin a share of all, then tax

Sums are decimal. A price nobody told is named and never taken for nothing; copper's worth and first guesses are marked,
and the range is what they and the times' spread make of it.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from typing import Any

from umber_trunk.core.buy.lines import Buy, Spares
from umber_trunk.core.buy.packs import left_in_packs
from umber_trunk.core.buy.shopping import NOBODY, shopping
from umber_trunk.core.catalog.conductors import conductor
from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.harness.price import Price, plain_part
from umber_trunk.core.kit.coils import Piece
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.samples import sample_pieces
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.moments import days_on
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message
from umber_trunk.core.shop import money
from umber_trunk.core.shop.offers import (
    FREIGHT,
    HANDLING,
    MARGIN,
    MATERIAL,
    OVERHEAD,
    SCRAP,
    SET_UP,
    TEST,
    WORK,
    Asked,
    Line,
    Offer,
    Quote,
    Seen,
    Step,
)
from umber_trunk.core.shop.price_book import PriceBook
from umber_trunk.core.shop.things import Rates, Shop

GUESS_SHARE = Decimal("0.25")
"""How far a first guess of a price may be off, either way."""
BREAKS_AHEAD = 12
"""Units more among which the next pack or coil bought is looked for."""
HOUR = Decimal(3600)
ZERO = Decimal(0)
LOOKED = ("test", "look", "tug")


def quote(
    results: Results,
    numbers: Sequence[int],
    asked: Asked,
    revision: str = "",
    digest: str = "",
    wanted: Wanted = always,
) -> Quote:
    """The offer for each number of units. InputError for a harness without wires, while a wire's size is open, and for
    numbers that can't be planned."""
    if not numbers or len(numbers) > 20:
        raise InputError.of("shop.quote-is-for-one-to-twenty")
    if not results.design.wires:
        raise InputError.of("shop.no-wire-yet", project=results.design.project.name)
    rates = asked.shop.rates
    offers = []
    for units in dict.fromkeys(numbers):
        go_on_if(wanted)
        made = offer(results, units, asked, wanted)
        offers.append(replace(made, step=_next_step(results, units, asked, wanted)))
    until = days_on(asked.day, rates.valid_days)
    name = results.design.project.name
    return Quote(name, revision, digest, asked.day, until, rates.currency, tuple(offers))


def offer(results: Results, units: int, asked: Asked, wanted: Wanted = always) -> Offer:
    """One number of units."""
    rates = asked.shop.rates
    lines = _material(results, units, asked, wanted)
    order = plan_order(results, units, times=asked.times, wanted=wanted)
    work = _work(order.steps, order.tool_changes, order.change_s, asked)
    lines += work
    plain = money.total(line.cost for line in lines if line.cost is not None)
    hands = money.total(line.cost for line in work if line.cost is not None)
    share, told = _scrap(rates, asked.seen)
    scrap = plain * share
    lines.append(_said_line(SCRAP, "scrap", share * 100, scrap, asked.seen.share is None, (told,)))
    overhead = hands * rates.overhead / 100
    lines.append(_said_line(OVERHEAD, "overhead", rates.overhead, overhead))
    handling = (plain - hands) * rates.handling / 100
    lines.append(_said_line(HANDLING, "handling", rates.handling, handling))
    cost = plain + scrap + overhead + handling
    margin = cost * rates.margin / 100
    lines.append(_said_line(MARGIN, "margin", rates.margin, margin))
    each = money.rounded((cost + margin) / units, rates.currency, rates.round_to)
    price = each * units
    tax = money.rounded(price * rates.tax / 100, rates.currency)
    low, high = _range(lines, order.span_s, order.low_s, order.high_s, units, rates, cost + margin)
    unpriced = tuple(dict.fromkeys(line.what for line in lines if line.cost is None))
    return Offer(
        units,
        tuple(lines),
        cost,
        each,
        price,
        tax,
        price + tax,
        min(low, each),
        max(high, each),
        order.work_s + order.change_s,
        unpriced,
    )


def _range(
    lines: Sequence[Line], span_s: float, low_s: float, high_s: float, units: int, rates: Rates, asked: Decimal
) -> tuple[Decimal, Decimal]:
    """A unit's price at the ends of what the times' spread and guessed prices allow; shares on top move along."""
    work = money.total(line.cost for line in lines if line.group in (SET_UP, WORK, TEST) and line.cost is not None)
    guessed = money.total(
        line.cost for line in lines if line.group == MATERIAL and line.guessed and line.cost is not None
    )
    known = money.total(line.cost for line in lines if line.group in (MATERIAL, FREIGHT) and line.cost is not None)
    factor = asked / (work + known) if work + known > 0 else ZERO
    span = max(money.of(span_s), Decimal("0.001"))
    found = []
    for seconds, sign in ((low_s, -1), (high_s, 1)):
        shift = work * (money.of(seconds) / span - 1) + sign * GUESS_SHARE * guessed
        found.append(money.rounded(max(asked + factor * shift, ZERO) / units, rates.currency, rates.round_to))
    return found[0], found[1]


def _said_line(
    group: str, key: str, percent: Decimal, cost: Decimal, guessed: bool = False, notes: tuple[Message, ...] = ()
) -> Line:
    """A share on top of what is bought and done."""
    said = Message.of(f"quote.what.{key}")
    return Line(group, str(said), "", percent, "%", None, cost, guessed, notes, said=said)


def _note(key: str, **values: Any) -> Message:
    return Message.of(f"quote.note.{key}", **values)


def _scrap(rates: Rates, seen: Seen) -> tuple[Decimal, Message]:
    share = seen.share
    if share is None:
        return rates.scrap / 100, _note("guess", done=seen.done)
    return share, _note("in-vain", vain=seen.voided, done=seen.done)


def _work(steps: Sequence[Timed], changes: int, change_s: float, asked: Asked) -> list[Line]:
    """Lines of work by operation, and of set-ups."""
    rate = asked.shop.rates.labour
    seconds: dict[str, float] = defaultdict(float)
    guessed: dict[str, bool] = {}
    counts: dict[str, int] = defaultdict(int)
    for step in steps:
        op = step.operation.op
        seconds[op] += step.seconds
        counts[op] += 1
        guessed[op] = guessed.get(op, False) or asked.times.of(step.operation) is None
    lines = []
    for op, spent in sorted(seconds.items(), key=lambda row: (-row[1], row[0])):
        group = TEST if op in LOOKED else WORK
        hours, cost = money.of(spent) / HOUR, money.of(spent) * rate / HOUR
        notes = (_note("usual-times" if guessed[op] else "log-times"),)
        said = Message.of("quote.what.work", op=op, times=counts[op])
        lines.append(Line(group, str(said), op, hours, "h", rate, cost, guessed[op], notes, said=said))
    if changes:
        hours, cost = money.of(change_s) / HOUR, money.of(change_s) * rate / HOUR
        said = Message.of("quote.what.set-up", tools=changes)
        notes = (_note("usual-time"),)
        lines.append(Line(SET_UP, str(said), "set-up", hours, "h", rate, cost, True, notes, said=said))
    return lines


def _material(results: Results, units: int, asked: Asked, wanted: Wanted) -> list[Line]:
    """Everything bought for so many units, and what its suppliers take on top."""
    rates, book = asked.shop.rates, PriceBook((*results.design.prices, *asked.shop.prices), asked.day)
    spares = Spares(float(rates.spare), 1, rates.samples)
    own = {plain_part(part) for part in asked.own}
    lines = [
        _bought(row, book, own) for row in shopping(results, units, spares, wanted=wanted) if not _is_wire(results, row)
    ]
    lines += _wire_lines(results, units, asked, book, own)
    lines.sort(key=lambda line: (-(line.cost or ZERO), line.what))
    return lines + _freight(lines, asked.shop)


def _is_wire(results: Results, row: Buy) -> bool:
    """Whether a line is cut from coils: those are reckoned from their pieces."""
    if row.what == "wire":
        return True
    return row.unit == "m" and row.what == "cable"


def _bought(row: Buy, book: PriceBook, own: set[str]) -> Line:
    amount = money.of(row.buy)
    if plain_part(row.id) in own:
        return Line(MATERIAL, row.name, row.id, amount, row.unit, ZERO, ZERO, notes=(_note("own"),))
    price, packs, notes = book.of(row.id, amount), row.packs, row.notes
    if price is not None and price.pack > 0:
        packs = money.packs(amount, price.pack)
        amount = price.pack * packs
    if price is not None:
        return _priced(row.name, row.id, amount, row.unit, price, packs, notes)
    if row.priced:
        each = money.of(row.price / row.buy) if row.buy > 0 else ZERO
        supplier = "" if row.supplier == NOBODY else row.supplier
        notes = (*notes, _note("catalogue"))
        return Line(MATERIAL, row.name, row.id, amount, row.unit, each, each * amount, True, notes, supplier, packs)
    return Line(MATERIAL, row.name, row.id, amount, row.unit, None, None, notes=notes, packs=packs)


def _priced(
    what: str, part: str, amount: Decimal, unit: str, price: Price, packs: int, notes: tuple[Message, ...]
) -> Line:
    told = (*notes, _note("told-on", day=price.since))
    cost = price.each * amount
    return Line(MATERIAL, what, part, amount, unit, price.each, cost, False, told, price.supplier, packs)


def _wire_lines(results: Results, units: int, asked: Asked, book: PriceBook, own: set[str]) -> list[Line]:
    """Conductors and cables by size, metal and colour, from their pieces."""
    rates = asked.shop.rates
    by: dict[tuple[str, str, str], list[Piece]] = defaultdict(list)
    for piece in (*pieces(results, units), *sample_pieces(results, rates.samples)):
        by[piece.size, piece.metal, piece.colour].append(piece)
    lines = []
    for (size, metal, colour), mine in by.items():
        cable = results.shelf.named(size)
        what = cable.name if cable is not None else " ".join(one for one in (size, metal, colour) if one)
        key = size if cable is not None else " ".join(one for one in (size, colour) if one)
        lengths = [piece.length_m for piece in mine]
        needed = money.of(sum(lengths)) * (1 + rates.spare / 100)
        if plain_part(size) in own or plain_part(key) in own:
            lines.append(Line(MATERIAL, what, key, needed, "m", ZERO, ZERO, notes=(_note("own"),)))
            continue
        price = book.of(size, needed) if cable is not None else book.of_wire(mine[0], needed)
        pack = float(price.pack) if price is not None and price.pack > 0 else cable.pack if cable is not None else 0.0
        amount, packs, notes = _charged(lengths, needed, pack, rates)
        if price is not None:
            lines.append(_priced(what, key, amount, "m", price, packs, notes))
        elif cable is not None and cable.price > 0:
            each = money.of(cable.price)
            told = (*notes, _note("catalogue"))
            lines.append(Line(MATERIAL, what, key, amount, "m", each, each * amount, True, told, cable.supplier, packs))
        elif cable is None and (each := _copper(results, size, metal)) > 0:
            told = (*notes, _note("metal"))
            lines.append(Line(MATERIAL, what, key, amount, "m", each, each * amount, True, told, "", packs))
        else:
            lines.append(Line(MATERIAL, what, key, amount, "m", None, None, notes=notes, packs=packs))
    return lines


def _charged(
    lengths: Sequence[float], needed: Decimal, pack: float, rates: Rates
) -> tuple[Decimal, int, tuple[Message, ...]]:
    """(metres charged, coils opened, what is told of them): whole coils, or metres with the ends that are lost."""
    if pack <= 0:
        return needed, 0, ()
    if max(lengths) > pack:
        return needed, 0, (_note("no-coil", pack=pack, longest=max(lengths)),)
    left = left_in_packs(lengths, pack)
    over = float(needed) - sum(lengths) - sum(left)
    coils = len(left) + (int(-(-over // pack)) if over > 0 else 0)
    if rates.wire == "coil":
        return money.of(coils * pack), coils, (_note("coils", coils=coils, pack=pack),)
    lost = sum(rest for rest in left if rest < rates.usable_m)
    told = (_note("ends", metres=lost),) if lost >= 0.005 else ()
    return needed + money.of(lost), coils, told


def _copper(results: Results, size: str, metal: str) -> Decimal:
    """A metre's worth of metal."""
    made = conductor(size, metal, results.design.project.make, results.design.project.jacket)
    return money.of(made.kg_per_m * made.metal.price_per_kg)


def _freight(lines: Sequence[Line], shop: Shop) -> list[Line]:
    """Freight of each supplier that is ordered from, and what is missing to its least order."""
    found = []
    for supplier in shop.suppliers:
        mine = [line.cost for line in lines if line.supplier == supplier.id and line.cost]
        if not mine:
            continue
        name, sum_ = supplier.name or supplier.id, money.total(mine)
        if supplier.freight > 0:
            found.append(_of_order("freight", name, supplier.id, supplier.freight))
        if supplier.least_order > sum_:
            more = supplier.least_order - sum_
            found.append(_of_order("least-order", name, supplier.id, more))
    return found


def _of_order(key: str, name: str, supplier: str, cost: Decimal) -> Line:
    """What an order of a supplier costs on top."""
    said = Message.of(f"quote.what.{key}", supplier=name)
    return Line(FREIGHT, str(said), supplier, Decimal(1), "order", cost, cost, said=said)


def _next_step(results: Results, units: int, asked: Asked, wanted: Wanted) -> Step | None:
    """The next number of units at which a pack or coil more is bought; None where none is within sight."""
    here = {line.id: line for line in _material(results, units, asked, wanted) if line.packs}
    if not here:
        return None
    for more in range(units + 1, units + 1 + BREAKS_AHEAD):
        go_on_if(wanted)
        lines = {line.id: line for line in _material(results, more, asked, wanted) if line.packs}
        grown = [line for key, line in lines.items() if line.packs > (here[key].packs if key in here else 0)]
        if grown:
            adds = money.total(
                (line.cost or ZERO) - ((here[line.id].cost or ZERO) if line.id in here else ZERO) for line in grown
            )
            return Step(more, tuple(line.what for line in grown), adds)
    return None
