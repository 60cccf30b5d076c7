"""What a frozen order or list of tests plans, without the words it is said in: a station that speaks another language
plans the same."""

from __future__ import annotations

import json
from typing import Any

WORDS = {"as_was", "text", "told", "untold"}
"""Fields of frozen texts that hold nothing but words."""


def wordless(frozen_text: str) -> str:
    """The text with its words left out: every figure, id, tool, setting and order stays. ValueError for what is no JSON
    or nested without end."""
    try:
        return json.dumps(_without(json.loads(frozen_text)), sort_keys=True)
    except RecursionError as why:
        raise ValueError("nested too deep") from why


def _without(value: Any) -> Any:
    if isinstance(value, list):
        return [_without(one) for one in value]
    if not isinstance(value, dict):
        return value
    kept = {name: _without(one) for name, one in value.items() if name not in WORDS}
    if "code" in kept and isinstance(kept.get("values"), dict):  # a sentence: its figures stay, its words go
        kept["values"] = {name: one for name, one in kept["values"].items() if not isinstance(one, str)}
    return kept
