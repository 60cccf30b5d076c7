"""What if: the shop otherwise, in one respect, as an edit of its lists. Planned beside the plan, and taken by putting
the rows that differ."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from umber_trunk.core.errors import EditError, InputError, quoted
from umber_trunk.core.harness.edits import change
from umber_trunk.core.moments import day_from, days_on
from umber_trunk.core.sentences import say
from umber_trunk.core.shop.things import Hours, Shop

_EVENING = re.compile(r"([a-z]{3})[a-z]*\s+(\d\d?:\d\d)\s*[-–]\s*(\d\d?:\d\d)", re.I)


def _evening(shop: Shop, who: str, said: str) -> tuple[Shop, str]:
    """`hours:JO:tue 18:00-20:00`: somebody comes once more a week."""
    found = _EVENING.fullmatch(said.strip())
    if found is None:
        raise InputError.of("planning.no-time-hours", said=quoted(said), who=who)
    try:
        hours = Hours(day=found[1].lower(), start=found[2].zfill(5), end=found[3].zfill(5))
    except ValueError as why:
        raise InputError.of("planning.no-time-of-week", said=quoted(said), why=why) from why
    people = _changed(shop.people, who, lambda one: change(one, hours=(*one.here, hours)), "people")
    return replace(shop, people=people), say("plan.comes-too", who=who, when=said.strip())


def _tool(shop: Shop, name: str, _: str) -> tuple[Shop, str]:
    """`tool:press-1`: one more of a tool."""
    tools = _changed(shop.tools, name, lambda one: change(one, count=one.count + 1), "tools")
    return replace(shop, tools=tools), say("plan.one-more", name=name)


def _first(shop: Shop, name: str, _: str) -> tuple[Shop, str]:
    """`first:J103`: a job goes before all others."""
    jobs = _changed(shop.jobs, name, lambda one: change(one, ahead=True), "jobs")
    return replace(shop, jobs=jobs), say("plan.goes-first", name=name)


def _later(shop: Shop, name: str, said: str) -> tuple[Shop, str]:
    """`later:D1:7`: a delivery comes so many days later."""
    if not re.fullmatch(r"-?\d{1,3}", said):
        raise InputError.of("planning.no-number-of-days", said=quoted(said), name=name)

    def moved(one: Any) -> Any:
        if one.due is None:
            raise InputError.of("planning.nobody-said-when-it-comes", name=name)
        return change(one, due=days_on(day_from(one.due), int(said)).isoformat())

    return replace(shop, incoming=_changed(shop.incoming, name, moved, "incoming")), say(
        "plan.comes-later", name=name, days=said
    )


def _split(shop: Shop, name: str, said: str) -> tuple[Shop, str]:
    """`split:J105:3`: so many units of a job that isn't begun go first, as a job of their own."""
    job = next((one for one in shop.jobs if one.id == name), None)
    if job is None or not said.isdecimal() or not 0 < int(said) < job.units or job.builds:
        raise InputError.of("planning.isnt-split", name=name)
    first = change(job, id=f"{name}-1", units=int(said), quote="")
    rest = change(job, units=job.units - int(said))
    jobs = tuple(rest if one.id == name else one for one in shop.jobs)
    return replace(shop, jobs=(*jobs, first)), say("plan.go-first", many=said, name=name)


WAYS: dict[str, Callable[[Shop, str, str], tuple[Shop, str]]] = {
    "hours": _evening,
    "tool": _tool,
    "first": _first,
    "later": _later,
    "split": _split,
}
"""How a shop may be otherwise: WAY:NAME or WAY:NAME:WHAT."""


def otherwise(shop: Shop, said: str) -> tuple[Shop, str]:
    """(the shop so, in words) of one thing otherwise. InputError for what can't be."""
    way, _, rest = said.partition(":")
    name, _, what = rest.partition(":")
    if way not in WAYS or not name:
        raise InputError.of("planning.none-of-these", said=quoted(said), known=", ".join(f"{one}:NAME" for one in WAYS))
    try:
        return WAYS[way](shop, name.strip(), what.strip())
    except EditError as why:
        raise InputError(f"{quoted(said)}: {why}") from why


def _changed(rows: tuple[Any, ...], name: str, made: Callable[[Any], Any], kind: str) -> tuple[Any, ...]:
    if all(row.id != name for row in rows):
        raise InputError.of("planning.no-among", name=quoted(name), kind=kind)
    return tuple(made(row) if row.id == name else row for row in rows)
