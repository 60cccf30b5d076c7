"""A design made of plain data, its parts one by one: other threads breathe between them, which one call for thousands
doesn’t let them."""

from __future__ import annotations

from functools import cache
from typing import Any, get_args

from pydantic import TypeAdapter, ValidationError

from umber_trunk.core.harness.formats import brought_up
from umber_trunk.core.harness.model import TABLES, Design

FEW = 40
"""Tables of more rows are read row by row, which is quicker than in one piece."""


def design_of(data: dict[str, Any]) -> Design:
    """The design, brought up from an older format. A ValidationError says all that is wrong, and where;
    NewerFormatError for one of a newer program."""
    made = dict(data := brought_up(data))
    for table in TABLES:
        rows = data.get(table)
        if isinstance(rows, list | tuple) and len(rows) > FEW:
            try:
                made[table] = tuple(map(_kind(table).validate_python, rows))
            except ValidationError:
                return Design.model_validate(data)
    return Design.model_validate(made)


@cache
def _kind(table: str) -> TypeAdapter[Any]:
    return TypeAdapter(get_args(Design.model_fields[table].annotation)[0])
