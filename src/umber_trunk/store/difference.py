"""What one revision of a design changes in another, as plain data: the parts put and gone, by table and id."""

from __future__ import annotations

from typing import Any

from umber_trunk.core.harness.model import TABLES, Design

Plain = dict[str, Any]


def difference(old: Design, new: Design) -> Plain:
    """Plain data that `applied` turns old into new with. Parts that both share cost nothing."""
    found: Plain = {}
    for name in type(new).model_fields:
        before, after = getattr(old, name), getattr(new, name)
        if before is after or before == after:
            continue
        if name in TABLES:
            found[name] = _rows(before, after)
        else:
            found[name] = after.model_dump(mode="json") if hasattr(after, "model_dump") else after
    return found


def _rows(before: tuple[Any, ...], after: tuple[Any, ...]) -> Plain:
    """{"put": parts, "gone": ids, "order": ids}; the order only where it isn't the old one with new parts last."""
    old = {part.id: part for part in before}
    ids = [part.id for part in after]
    gone = sorted(set(old) - set(ids))
    put = [part for part in after if (known := old.get(part.id)) is not part and known != part]
    found: Plain = {"put": [part.model_dump(mode="json") for part in put]}
    if gone:
        found["gone"] = gone
    left = set(gone)
    usual = [name for name in old if name not in left] + [part.id for part in put if part.id not in old]
    if usual != ids:
        found["order"] = ids
    return found


def applied(old: Plain, change: Plain) -> Plain:
    """The plain design a difference makes of an older one. KeyError or TypeError where it doesn't fit."""
    new = dict(old)
    for name, value in change.items():
        if name not in TABLES:
            new[name] = value
            continue
        parts = {part["id"]: part for part in old.get(name, ())}
        for part_id in value.get("gone", ()):
            del parts[part_id]
        parts.update({part["id"]: part for part in value["put"]})
        new[name] = [parts[part_id] for part_id in value["order"]] if "order" in value else list(parts.values())
    return new
