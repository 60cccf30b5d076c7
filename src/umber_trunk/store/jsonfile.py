"""The design as JSON: exact round trip, published schema; and the one door by which plain data becomes a design."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from pydantic import ValidationError

from umber_trunk.core.bulk import many_objects
from umber_trunk.core.field_fault import field_fault
from umber_trunk.core.harness.formats import NewerFormatError
from umber_trunk.core.harness.made import design_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.plain import loaded
from umber_trunk.store.files import StoreError, read_text

MOST_PLACES = 12


def to_json(design: Design) -> str:
    """Indented JSON of the whole design."""
    return design.model_dump_json(indent=1) + "\n"


def design_from(data: Any, name: str) -> Design:
    """The design of plain data, brought up from an older format. StoreError names every place that is wrong."""
    if not isinstance(data, dict) or not data:
        raise StoreError.of("store.not-harness-it-holds-nothing", name=name)
    try:
        with many_objects():
            return design_of(data)
    except NewerFormatError as why:
        raise StoreError.of("store.cant-be-read", path=name, why=why) from why
    except ValidationError as why:
        faults = why.errors(include_url=False)
        places = [f"{'.'.join(map(str, one['loc'])) or 'top'}: {field_fault(one)}" for one in faults[:MOST_PLACES]]
        raise StoreError.of(
            "store.places-wrong",
            name=name,
            places="; ".join(places),
            more=max(len(faults) - MOST_PLACES, 0),
        ) from why
    except ValueError as why:
        raise StoreError.of("store.not-harness", name=name, why=why) from why


def plain_from(text: str | bytes, name: str) -> Any:
    """Plain data of a JSON text. StoreError says where it isn't JSON."""
    try:
        with many_objects():
            return loaded(text)
    except RecursionError:
        raise StoreError.of("store.nested-too-deep", name=name) from None
    except ValueError as why:
        raise StoreError.of("store.not-json", name=name, why=why) from why


def from_json(text: str, name: str = "the file") -> Design:
    """The design of a JSON text; StoreError names every place that is wrong."""
    return design_from(plain_from(text, name), name)


def read_json(path: Path) -> Design:
    """The design in a JSON file."""
    return from_json(read_text(path), path.name)
