"""The shop’s prices as they stand on a day: of all that are told of a part, the newest of each supplier, the cheapest
of those whose least amount is reached."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from decimal import Decimal

from umber_trunk.core.harness.edits import put_all
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.price import Price, plain_part
from umber_trunk.core.kit.coils import Piece, plain_colour, same_size
from umber_trunk.core.moments import Day
from umber_trunk.core.shop.offers import MATERIAL, Quote
from umber_trunk.core.shop.things import Shop


class PriceBook:
    """The shop's prices on a day."""

    def __init__(self, prices: Iterable[Price], day: Day) -> None:
        """Prices told after the day don't count."""
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
