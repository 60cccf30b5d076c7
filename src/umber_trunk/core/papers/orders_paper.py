"""Order sheets: a sheet for each supplier with what to order there; what has no supplier yet on a sheet of its own."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.buy.lines import Buy
from umber_trunk.core.printed import PaperTable, Printed
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say

OPEN = "no supplier chosen"


def order_sheets(results: Results, buys: Sequence[Buy], units: int) -> list[Printed]:
    """One for each supplier, of all there is to buy; what is on the shelf isn't ordered."""
    by: dict[str, list[Buy]] = {}
    for one in buys:
        if one.buy > 0:
            by.setdefault(one.supplier, []).append(one)
    return [_sheet(results, supplier, mine, units) for supplier, mine in by.items()]


def _sheet(results: Results, supplier: str, mine: Sequence[Buy], units: int) -> Printed:
    rows = [
        (
            str(n),
            one.id,
            one.name,
            f"{one.buy:g} {'' if one.unit == 'pcs' else one.unit}".strip()
            if one.unit == "pcs"
            else f"{one.buy:.3f} {one.unit}",
            str(one.packs or ""),
            f"{one.price:.2f}" if one.priced else "open",
            one.told,
        )
        for n, one in enumerate(mine, 1)
    ]
    priced = [one for one in mine if one.priced]
    left_out = say("buy.prices-open", missing=len(mine) - len(priced), of=len(mine)) if len(priced) < len(mine) else ""
    rows.append(("", "", say("buy.sum", left_out=left_out), "", "", f"{sum(one.price for one in priced):.2f}", ""))
    table = PaperTable(
        ("", "Order as", "What", "How many", "Packs", "Price", "Note"),
        (0.04, 0.2, 0.34, 0.12, 0.07, 0.09, 0.14),
        (0, 3, 4, 5),
        tuple(rows),
    )
    blanks = PaperTable(
        ("Ordered by", "On", "Order number", "Wanted by"), (0.3, 0.2, 0.3, 0.2), (), (("\u00a0", "", "", ""),)
    )
    state = say("buy.for-units", units=units)
    return Printed(
        say("paper.order", name=results.design.project.name, supplier=supplier or OPEN),
        state,
        bool(supplier),
        (blanks, table),
    )
