"""What a job really took beside what was offered, line by line: hours by operation, metres by size and colour, parts by
their id. Lines the log says nothing of are left out."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterable, Mapping
from typing import Any

from umber_trunk.core.kit.coils import Coil, plain_colour, same_size
from umber_trunk.core.make.events import Done, Event
from umber_trunk.core.shop.offers import MATERIAL, TEST, WORK
from umber_trunk.core.shop.price_book import size_and_words


def actual_lines(
    quote: str, events: Iterable[Event], coils: Iterable[Coil], parts: Mapping[str, float] | None = None
) -> list[dict[str, Any]]:
    """Planned and actual of each line of a kept quote that the log speaks of. What was taken back, and what was made
    again, counts: it was cut and done. `parts`: how many of each the steps done took."""
    offers = json.loads(quote)["offers"] if quote else []
    if not offers:
        return []
    by_name = {coil.id: coil for coil in coils}
    seconds: dict[str, float] = defaultdict(float)
    metres: dict[str, float] = defaultdict(float)
    for one in events:
        if isinstance(act := one.act, Done):
            if act.seconds is not None:
                seconds[act.op] += act.seconds
            if act.coil:
                metres[act.coil] += act.coil_m
    found = []
    for line in offers[0]["lines"]:
        actual: float | None = None
        if line["group"] in (WORK, TEST) and line["id"] in seconds:
            actual = seconds[line["id"]] / 3600
        elif line["group"] == MATERIAL and line["unit"] == "m":
            cut = [much for name, much in metres.items() if name in by_name and _is(by_name[name], line["id"])]
            actual = sum(cut) if cut else None
        elif line["group"] == MATERIAL and line["id"] in (parts or {}):
            actual = (parts or {})[line["id"]]
        if actual is not None:
            found.append(
                {
                    "what": line["what"],
                    "id": line["id"],
                    "unit": line["unit"],
                    "planned": line["amount"],
                    "actual": round(actual, 6),
                    "share": round(actual / line["amount"], 4) if line["amount"] else None,
                }
            )
    return found


def _is(coil: Coil, line: str) -> bool:
    """Whether a coil is what a line names: “2.5 mm2 red”."""
    size, words = size_and_words(line.lower())
    return same_size(coil.size, size) and (not words or plain_colour(coil.colour) in ("", "/".join(words)))
