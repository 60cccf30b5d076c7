"""The shopping list as values for paper."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.buy.lines import Buy
from umber_trunk.core.buy.shopping import shopping_rows
from umber_trunk.core.kit.tables import decision_tables
from umber_trunk.core.printed import TICK, PaperTable, Printed
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say


def shopping_sheet(results: Results, buys: Sequence[Buy], units: int) -> Printed:
    """The shopping list as it is printed, with the decisions it rests on."""
    rows = tuple(
        (
            row[0] if row[1] == "total" else "",
            str(row[1]),
            str(row[3]),
            _amount(row[9], row[4]),
            "" if row[10] is None else str(row[10]),
            "open" if row[11] is None else f"{row[11]:.2f}",
            f"{row[12]:.3f}",
            TICK,
        )
        for row in shopping_rows(buys)[1:]
    )
    table = PaperTable(
        ("Supplier", "What", "Name", "Buy", "Packs", "Price", "kg", ""),
        (0.14, 0.1, 0.44, 0.09, 0.06, 0.07, 0.06, 0.04),
        (3, 4, 5, 6),
        tuple(tuple(str(cell) for cell in row) for row in rows),
    )
    tables = [table]
    notes = [(str(row[3] or f"{row[0]}, total"), str(row[13])) for row in shopping_rows(buys)[1:] if row[13]]
    if notes:
        tables.append(PaperTable(("Of", "Note"), (0.4, 0.6), (), tuple(notes)))
    tables += decision_tables(results.design)
    state = say("buy.for-units", units=units)
    return Printed(say("paper.to-buy", name=results.design.project.name), state, True, tuple(tables))


def _amount(value: object, unit: object) -> str:
    return "" if value is None else f"{value} {'' if unit == 'pcs' else unit}".strip()
