"""What one harness may be made with or without, and which of it a variant has.

An option names the parts that are there only with it, those that are there only without it, and values that are others
with it. A variant is a name for some options; all other decisions stay shared.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from umber_trunk.core.fields import Frozen, Id, Text

VARIED = ("ends", "loads", "wires", "segments", "supplies", "converters", "cases", "combs", "sets", "loops")
"""Tables whose parts may be there with an option alone."""
CHANGED = (*VARIED, "zones", "points", "cables")
"""Tables whose parts may have other values with an option."""


class Only(Frozen):
    """A part of the harness, by its table and id."""

    table: Annotated[str, Field(pattern=f"^({'|'.join(VARIED)})$")]
    id: Id


class Changed(Frozen):
    """A value that is another with an option: a field of a part, and what it is then, as JSON."""

    table: Annotated[str, Field(pattern=f"^({'|'.join(CHANGED)})$")]
    id: Id
    field: Id
    to: Annotated[str, Field(max_length=20_000)]


class Option(Frozen):
    """Something the harness may be made with: `only` with it, `without` only without it, `changes` with it."""

    id: Id
    name: Text = ""
    only: tuple[Only, ...] = ()
    without: tuple[Only, ...] = ()
    changes: tuple[Changed, ...] = ()


class Variant(Frozen):
    """A name for the options it is made with."""

    id: Id
    name: Text = ""
    options: tuple[Id, ...] = ()
