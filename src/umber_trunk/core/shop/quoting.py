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
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from umber_trunk.core.buy.shopping import Buy, Spares, left_in_packs, shopping
from umber_trunk.core.catalog.conductors import conductor
from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.harness.edits import change, put_all, set_project
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.price import Price, plain_part
from umber_trunk.core.kit.coils import Piece, plain_colour, same_size
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.samples import sample_pieces
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.make.times import Times
from umber_trunk.core.moments import Day, days_on
from umber_trunk.core.results import Results
from umber_trunk.core.shop import money
from umber_trunk.core.shop.things import Rates, Shop

MATERIAL, FREIGHT, SET_UP, WORK, TEST, SCRAP = "material", "freight", "set-up", "work", "test", "scrap"
OVERHEAD, HANDLING, MARGIN = "overhead", "handling", "margin"
GROUPS = (MATERIAL, FREIGHT, SET_UP, WORK, TEST, SCRAP, OVERHEAD, HANDLING, MARGIN)
GUESS_SHARE = Decimal("0.25")
"""How far a first guess of a price may be off, either way."""
ENOUGH_STEPS = 50
"""From so many steps done on, the log tells the shop's own scrap."""
DOMINANT = 3
BREAKS_AHEAD = 12
HOUR = Decimal(3600)
ZERO = Decimal(0)
LOOKED = ("test", "look", "tug")


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
    note: str = ""
    supplier: str = ""
    packs: int = 0


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
    told: str
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


class PriceBook:
    """The shop's prices on a day."""

    def __init__(self, prices: Iterable[Price], day: Day) -> None:
        """prices told after the day don't count."""
        self._by: dict[str, list[Price]] = defaultdict(list)
        for price in prices:
            if price.since <= day.isoformat():
                self._by[plain_part(price.part)].append(price)

    def of(self, part: str, amount: Decimal) -> Price | None:
        """The cheapest of the suppliers' newest prices for so much of a part; None where nobody told one."""
        return self._best(self._by.get(plain_part(part), []), amount)

    def of_wire(self, piece: Piece, amount: Decimal) -> Price | None:
        """A conductor's price: told for its size, metal and colour, or for less of these."""
        found: list[tuple[int, Price]] = []
        for name, prices in self._by.items():
            size, words = size_and_words(name)
            metal, colour = piece.metal.lower(), plain_colour(piece.colour)
            if not same_size(size, piece.size) or any(word not in (metal, colour) for word in words):
                continue
            found += [(len(words), price) for price in prices]
        closest = max((many for many, _ in found), default=0)
        return self._best([price for many, price in found if many == closest], amount)

    def of_named(self, what: str, amount: Decimal) -> Price | None:
        """The price of a part by its id, or of a conductor as it is said: “2.5 mm2 red”."""
        size, words = size_and_words(plain_part(what))
        return self.of(what, amount) or self.of_wire(Piece("", 0, size, "", "/".join(words), 0.0), amount)

    @staticmethod
    def _best(prices: Sequence[Price], amount: Decimal) -> Price | None:
        newest: dict[tuple[str, Decimal], Price] = {}
        for price in prices:
            key = price.supplier, price.least
            if key not in newest or newest[key].since <= price.since:
                newest[key] = price
        by: dict[str, Price] = {}
        for price in newest.values():
            if price.least <= amount and (price.supplier not in by or by[price.supplier].least < price.least):
                by[price.supplier] = price
        return min(by.values(), key=lambda price: (price.each, price.supplier, price.id), default=None)


def size_and_words(name: str) -> tuple[str, list[str]]:
    """“2.5 mm2 red” as its size and the words behind."""
    parts = name.split()
    if len(parts) > 1 and (parts[1] == "mm2" or parts[0] == "awg"):
        return f"{parts[0].upper() if parts[0] == 'awg' else parts[0]} {parts[1]}", [
            plain_colour(one) for one in parts[2:]
        ]
    return name, []


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
        raise InputError("A quote is for one to twenty numbers of units.")
    if not results.design.wires:
        raise InputError(f"{results.design.project.name} has no wire yet: there is nothing to offer.")
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
    lines.append(Line(SCRAP, "scrap and remakes", "", share * 100, "%", None, scrap, asked.seen.share is None, told))
    overhead = hands * rates.overhead / 100
    lines.append(Line(OVERHEAD, "overhead on work", "", rates.overhead, "%", None, overhead))
    handling = (plain - hands) * rates.handling / 100
    lines.append(Line(HANDLING, "handling of material", "", rates.handling, "%", None, handling))
    cost = plain + scrap + overhead + handling
    margin = cost * rates.margin / 100
    lines.append(Line(MARGIN, "margin", "", rates.margin, "%", None, margin))
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


def _scrap(rates: Rates, seen: Seen) -> tuple[Decimal, str]:
    share = seen.share
    if share is None:
        return rates.scrap / 100, f"first guess: {seen.done} steps in the log are too few to tell"
    return share, f"{seen.voided} of {seen.done} steps in the log were in vain"


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
        note = "usual times, a first guess" if guessed[op] else "times of the log"
        lines.append(Line(group, f"{op}, {counts[op]} times", op, hours, "h", rate, cost, guessed[op], note))
    if changes:
        hours, cost = money.of(change_s) / HOUR, money.of(change_s) * rate / HOUR
        told = f"{changes} tools set up"
        lines.append(Line(SET_UP, told, "set-up", hours, "h", rate, cost, True, "usual time, a first guess"))
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
        return Line(MATERIAL, row.name, row.id, amount, row.unit, ZERO, ZERO, note="the customer’s own")
    price, packs, note = book.of(row.id, amount), row.packs, row.told
    if price is not None and price.pack > 0:
        packs = money.packs(amount, price.pack)
        amount = price.pack * packs
    if price is not None:
        return _priced(row.name, row.id, amount, row.unit, price, packs, note)
    if row.priced:
        each = money.of(row.price / row.buy) if row.buy > 0 else ZERO
        supplier = "" if row.supplier == "supplier open" else row.supplier
        told = f"{note}; the catalogue’s price" if note else "the catalogue’s price"
        return Line(MATERIAL, row.name, row.id, amount, row.unit, each, each * amount, True, told, supplier, packs)
    return Line(MATERIAL, row.name, row.id, amount, row.unit, None, None, note=note, packs=packs)


def _priced(what: str, part: str, amount: Decimal, unit: str, price: Price, packs: int, note: str) -> Line:
    told = "; ".join(one for one in (note, f"told on {price.since}") if one)
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
            lines.append(Line(MATERIAL, what, key, needed, "m", ZERO, ZERO, note="the customer’s own"))
            continue
        price = book.of(size, needed) if cable is not None else book.of_wire(mine[0], needed)
        pack = float(price.pack) if price is not None and price.pack > 0 else cable.pack if cable is not None else 0.0
        amount, packs, note = _charged(lengths, needed, pack, rates)
        if price is not None:
            lines.append(_priced(what, key, amount, "m", price, packs, note))
        elif cable is not None and cable.price > 0:
            each = money.of(cable.price)
            told = "; ".join(one for one in (note, "the catalogue’s price") if one)
            lines.append(Line(MATERIAL, what, key, amount, "m", each, each * amount, True, told, cable.supplier, packs))
        elif cable is None and (each := _copper(results, size, metal)) > 0:
            told = "; ".join(one for one in (note, "its metal’s worth alone, a first guess") if one)
            lines.append(Line(MATERIAL, what, key, amount, "m", each, each * amount, True, told, "", packs))
        else:
            lines.append(Line(MATERIAL, what, key, amount, "m", None, None, note=note, packs=packs))
    return lines


def _charged(lengths: Sequence[float], needed: Decimal, pack: float, rates: Rates) -> tuple[Decimal, int, str]:
    """(metres charged, coils opened, what is told of them): whole coils, or metres with the ends that are lost."""
    if pack <= 0:
        return needed, 0, ""
    if max(lengths) > pack:
        return needed, 0, f"no coil of {pack:g} m holds {max(lengths):.2f} m in one piece"
    left = left_in_packs(lengths, pack)
    over = float(needed) - sum(lengths) - sum(left)
    coils = len(left) + (int(-(-over // pack)) if over > 0 else 0)
    if rates.wire == "coil":
        return money.of(coils * pack), coils, f"{coils} coils of {pack:g} m opened"
    lost = sum(rest for rest in left if rest < rates.usable_m)
    told = f"{lost:.2f} m of it are ends too short to keep" if lost >= 0.005 else ""
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
            found.append(
                Line(FREIGHT, f"freight, {name}", supplier.id, Decimal(1), "order", supplier.freight, supplier.freight)
            )
        if supplier.least_order > sum_:
            more = supplier.least_order - sum_
            found.append(Line(FREIGHT, f"least order, {name}", supplier.id, Decimal(1), "order", more, more))
    return found


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


def with_prices(design: Design, found: Quote, shop: Shop) -> Design:
    """The harness with the prices of the shop that its offers were made at, so that it says the same without the
    shop."""
    used = {
        plain_part(line.id) for one in found.offers for line in one.lines if line.group == MATERIAL and not line.guessed
    }
    sizes = {size_and_words(name)[0] for name in used}
    kept = [
        price
        for price in shop.prices
        if plain_part(price.part) in used or size_and_words(plain_part(price.part))[0] in sizes
    ]
    return put_all(design, "prices", kept)


def cheaper(
    results: Results,
    units: int,
    asked: Asked,
    analysed: Callable[[Design], Results],
    wanted: Wanted = always,
) -> tuple[Cheaper, ...]:
    """What would take something off a unit's price, each tried: a metre less of the dearest limb, fewer kinds of
    contacts, fewer tools, one colour fewer. `analysed` works a changed harness out."""
    design, before = results.design, offer(results, units, asked, wanted).each
    tried = {
        "metre": _metre_less(results),
        "contact": _weighed(design, "least_parts"),
        "tool": _weighed(design, "least_tools"),
        "colour": _colour_less(results),
    }
    found = []
    for what, made in tried.items():
        if made is None:
            continue
        go_on_if(wanted)
        changed, told = made
        after = offer(analysed(changed), units, asked, wanted).each
        if after < before:
            found.append(Cheaper(what, told, before - after))
    return tuple(sorted(found, key=lambda one: -one.saves))


def _metre_less(results: Results) -> tuple[Design, str] | None:
    """A metre less of the limb with the most copper in it, or half of it where it is shorter."""
    design, ways = results.design, _metal_by_limb(results)
    limb = max(ways, key=lambda key: (ways[key], key), default="")
    segment = next((one for one in design.segments if one.id == limb), None)
    if segment is None:
        return None
    less = min(1.0, segment.measure.length_m / 2)
    if less < 0.05:
        return None
    measure = change(segment.measure, length_m=segment.measure.length_m - less)
    segments = tuple(change(one, measure=measure) if one.id == limb else one for one in design.segments)
    return design.model_copy(update={"segments": segments}), f"{limb} {less:.2f} m shorter"


def _metal_by_limb(results: Results) -> Mapping[str, float]:
    found = defaultdict[str, float](float)
    for segment, wires in index_of(results.design).contents.items():
        for wire in wires:
            row = results.plant.row.get(wire)
            if row is not None:
                found[segment] += results.plant.conductors[row].kg_per_m * float(results.plant.parallel[row])
    return found


def _weighed(design: Design, what: str) -> tuple[Design, str]:
    """The parts of ends proposed anew, with one kind weighing a hundred times."""
    practice = change(design.project.practice, **{what: 100.0})
    told = "fewer kinds of contacts and other parts" if what == "least_parts" else "fewer crimp tools"
    return set_project(design, practice=practice), told


def _colour_less(results: Results) -> tuple[Design, str] | None:
    """Of one size and one base colour the stripe with the least metres made as the one with the most. The base colour
    stays: by it people tell plus from minus and earth from all."""
    by: dict[tuple[str, str], dict[str, float]] = defaultdict(lambda: defaultdict(float))
    design = results.design
    lengths = {piece.wire: piece for piece in pieces(results, 1)}
    for wire in design.wires:
        if wire.id in lengths and not wire.cable and wire.colour:
            by[lengths[wire.id].size, wire.colour][wire.stripe] += lengths[wire.id].length_m
    several = [(min(mine.values()), key) for key, mine in by.items() if len(mine) > 1]
    if not several:
        return None
    _, (size, colour) = min(several)
    mine = by[size, colour]
    rare = min(mine, key=lambda stripe: (mine[stripe], stripe))
    usual = max(mine, key=lambda stripe: (mine[stripe], stripe))
    wires = tuple(
        change(wire, stripe=usual)
        if wire.id in lengths and (lengths[wire.id].size, wire.colour, wire.stripe) == (size, colour, rare)
        else wire
        for wire in design.wires
    )
    names = ["/".join(part for part in (colour, stripe) if part) for stripe in (rare, usual)]
    return design.model_copy(update={"wires": wires}), f"{size} in {names[1]} instead of {names[0]}"
