"""The design as JSON: exact round trip, published schema."""

from __future__ import annotations

import json
from pathlib import Path

from pydantic import ValidationError

from umber_trunk.core.harness.model import FORMAT_VERSION, Design
from umber_trunk.store.project import StoreError


def to_json(design: Design) -> str:
    """Indented JSON of the whole design."""
    return design.model_dump_json(indent=1) + "\n"


def from_json(text: str, name: str = "the file") -> Design:
    """The design of a JSON text; StoreError names every place that is wrong."""
    try:
        head = json.loads(text)
    except ValueError as why:
        raise StoreError(f"{name} is not JSON: {why}.") from why
    if isinstance(head, dict) and isinstance(head.get("format"), int) and head["format"] > FORMAT_VERSION:
        raise StoreError(f"{name} was made by a newer Umber Trunk; update the program to read it.")
    try:
        return Design.model_validate_json(text)
    except ValidationError as why:
        places = [f"{'.'.join(map(str, e['loc'])) or 'top'}: {e['msg']}" for e in why.errors()[:12]]
        raise StoreError(f"{name} is not a harness. " + "; ".join(places) + ".") from why


def read_json(path: Path) -> Design:
    """The design in a JSON file."""
    try:
        text = path.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as why:
        raise StoreError(f"{path} can't be read: {why}.") from why
    return from_json(text, path.name)


def schema_text() -> str:
    """The published JSON schema of a design."""
    return json.dumps(Design.model_json_schema(), indent=1, sort_keys=True) + "\n"
