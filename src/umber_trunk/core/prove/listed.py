"""The list a proof is held to as plain data, frozen when the proof is begun: every test with its band, so that no later
program, sheet or house rule moves it."""

from __future__ import annotations

import json
from dataclasses import fields
from typing import Any

from pydantic import TypeAdapter, ValidationError

from umber_trunk.core.prove.checklist import Plan, Test

_TEST = TypeAdapter(Test)
_PLAN = [one.name for one in fields(Plan) if one.name != "tests"]
FORMAT = 1
"""Of a list that is frozen with a proof."""


def plan_text(plan: Plan) -> str:
    """A list as the text it is kept as."""
    data: dict[str, Any] = {name: getattr(plan, name) for name in _PLAN}
    data |= {"format": FORMAT, "tests": [_TEST.dump_python(one, mode="json") for one in plan.tests]}
    return json.dumps(data, ensure_ascii=False, sort_keys=True, separators=(",", ":"), allow_nan=False)


def plan_from(data: Any) -> Plan:
    """The list of plain data. ValueError for what is none."""
    try:
        if data["format"] != FORMAT:
            raise ValueError("a list of a newer format")
        tests = tuple(_TEST.validate_python(one) for one in data["tests"])
        said = {name: data[name] for name in _PLAN if name in data or name != "untold"}
        said |= {name: tuple(data[name]) for name in ("unreached", "untold") if name in data}
        if [one.n for one in tests] != list(range(1, len(tests) + 1)):
            raise ValueError("a list that isn't numbered")
        return Plan(tests, **said)
    except (ValidationError, KeyError, TypeError) as why:
        raise ValueError("no list of tests") from why
