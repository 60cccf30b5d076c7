"""The published formats: JSON schemas of all that is kept or exchanged, worked out from the models that check it. Other
programs read files by them, so that a limit or a default that changes here changes there too."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Mapping
from importlib import resources
from typing import Any

from pydantic import BaseModel
from pydantic.json_schema import models_json_schema

from umber_trunk.core.catalog.parts import PART
from umber_trunk.core.harness.model import Design


def _told(schema: dict[str, Any]) -> str:
    """Two things of one name are told apart by their room, not by the module they happen to stand in: moving one must
    not change what is published."""
    told = json.dumps(schema, indent=1, sort_keys=True) + "\n"
    return re.sub(r"umber_trunk__core__(\w+?)__\w+?__(\w+)", r"\1_\2", told)


def harness_schema() -> str:
    """The JSON schema of a design."""
    return _told(Design.model_json_schema())


def catalogue_schema() -> str:
    """The JSON schema of a catalogue."""
    schema = {"title": "Catalogue", "type": "array", "items": PART.json_schema(ref_template="#/$defs/{model}")}
    items: Any = schema["items"]
    schema["$defs"] = items.pop("$defs", {})
    return _told(schema)


def log_schema() -> str:
    """The JSON schema of what an entry of a harness's log says, under the word for its kind."""
    from umber_trunk.core.make.events import BY_KIND

    return _told(_by_name("Log", BY_KIND, lambda one: one))


def shop_schema() -> str:
    """The JSON schema of a shop's lists, under their names."""
    from umber_trunk.core.shop.things import KINDS

    models = {name: kind.model for name, kind in KINDS.items()}
    return _told(_by_name("Shop", models, lambda one: {"type": "array", "items": one}))


def answers_schema() -> str:
    """The JSON schema of every JSON answer of the shell."""
    return resources.files("umber_trunk").joinpath("data/schema/answers.json").read_text("utf-8")


def _by_name(
    title: str, models: Mapping[str, type[BaseModel]], shown: Callable[[dict[str, Any]], dict[str, Any]]
) -> dict[str, Any]:
    places, defs = models_json_schema([(model, "validation") for model in models.values()])
    properties = {name: shown(places[model, "validation"]) for name, model in models.items()}
    return {"title": title, "type": "object", "properties": properties, "additionalProperties": False, **defs}


SCHEMAS: dict[str, Callable[[], str]] = {
    "design": harness_schema,
    "catalogue": catalogue_schema,
    "log": log_schema,
    "shop": shop_schema,
    "answers": answers_schema,
}
"""What a format is of → its schema as text."""
