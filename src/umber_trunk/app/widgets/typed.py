"""Typed text into edits of one field, for the cells of the desks' tables."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import Edit, Table, change, measured, put
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.model import Design, LoadKind
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.harness.way import Measure, Method
from umber_trunk.core.needs.enter import zone_id
from umber_trunk.core.needs.line_places import ZONE_WORDS
from umber_trunk.core.quantity import Habit
from umber_trunk.core.units import parse_duty, parse_length_m, parse_load, parse_ohms, parse_surge


def set_field(table: Table, **values: Any) -> Callable[[Any], Edit]:
    """An edit that changes fields of one part."""
    return lambda part: lambda design: put(design, table, change(part, **values))


def parsed(
    table: Table, field: str, parse: Callable[[str, Habit], Any], optional: bool = False
) -> Callable[[Any, str], Edit]:
    """Column edit that parses the text into one field; empty text clears an optional one."""

    def edit(part: Any, text: str) -> Edit:
        if not text.strip() and optional:
            return set_field(table, **{field: None})(part)
        return Typed(lambda habit: set_field(table, **{field: parse(text, habit)})(part))

    return edit


def load_amount(load: Any, text: str) -> Edit:
    """ "18 A", "430 W", "1/2 hp" or "2.4 ohm" into a load's kind and value."""

    def make(habit: Habit) -> Edit:
        def act(design: Design) -> Design:
            read = parse_load(text, habit, usual=design.project.motor_efficiency)
            habit.notes += [read.note + "."] if read.note else []
            kind = {"A": LoadKind.CURRENT, "W": LoadKind.POWER, "ohm": LoadKind.RESISTANCE}[read.kind]
            return set_field("loads", kind=kind, value=read.value)(load)(design)

        return act

    return Typed(make)


def load_surge(load: Any, text: str) -> Edit:
    """ "60A/2s" into surge; empty clears it."""

    def make(habit: Habit) -> Edit:
        amps, seconds = parse_surge(text, habit) if text.strip() else (None, None)
        return set_field("loads", surge_a=amps, surge_s=seconds)(load)

    return Typed(make)


def load_duty(load: Any, text: str) -> Edit:
    """ "20s/60s" into duty; empty clears it."""

    def make(habit: Habit) -> Edit:
        on_s, period_s = parse_duty(text, habit) if text.strip() else (None, None)
        return set_field("loads", on_s=on_s, period_s=period_s)(load)

    return Typed(make)


def zone_flags(zone: Any, text: str) -> Edit:
    """ "wet, shaking" into a zone's flags; words not known are refused."""
    words = [word for word in text.replace(",", " ").lower().split() if word not in ("-", "metal")]
    strange = [word for word in words if word not in ZONE_WORDS]
    if strange:
        known = ", ".join(sorted({"wet", "shaking", "oily", "sunny", "flexing", "hot", "enclosed"}))
        raise InputError.of("window.no-trait-of-zone", strange=strange[0], known=known)
    traits = {ZONE_WORDS[word] for word in words}
    values: dict[str, Any] = {name: name in traits for name in set(ZONE_WORDS.values())}
    values["sun_w_m2"] = (
        (zone.sun_w_m2 or 1000.0) if "uv" in traits and not zone.uv else zone.sun_w_m2 if "uv" in traits else 0.0
    )
    return set_field("zones", **values)(zone)


def end_kind(end: Any, text: str) -> Edit:
    """What sits at an end: device, box, stud, bar, connector, splice, switch, relay or converter."""
    wanted = text.strip().lower()
    if wanted not in {kind.value for kind in EndKind}:
        raise InputError.of("window.no-kind-of-end", text=text.strip(), known=", ".join(kind.value for kind in EndKind))
    return set_field("ends", kind=EndKind(wanted))(end)


def zone_named(design: Design, text: str) -> str | None:
    """The id of the zone called so, None for no name; InputError names those there are."""
    name = text.strip()
    zone = zone_id(design, name) if name else None
    if name and zone is None:
        names = ", ".join(z.name for z in design.zones) or tr("none yet; name one in a load’s line, “in bilge 30C wet”")
        raise InputError.of("window.no-zone-known", name=name, names=names)
    return zone


def end_zone(end: Any, text: str) -> Edit:
    """The zone an end is in, by name; empty for none."""

    def act(design: Design) -> Design:
        return set_field("ends", zone=zone_named(design, text))(end)(design)

    return act


def end_frame(end: Any, text: str) -> Edit:
    """The resistance of the way through the frame from an end to the source; empty for an end off the frame."""

    def make(habit: Habit) -> Edit:
        ohm = parse_ohms(text, habit) if text.strip() else 0.0
        return set_field("ends", frame=bool(text.strip()), frame_ohm=ohm)(end)

    return Typed(make)


def parse_measure(text: str, old: Measure, habit: Habit | None = None) -> Measure:
    """ "2,4 m ± 2 cm string" into a measure: method and ± keep their usual values unless said."""
    lowered, method = text.strip(), None
    for known in Method:
        if lowered.lower().endswith(known.value):
            method, lowered = known, lowered[: -len(known.value)].strip()
    if method is None:
        method = old.method if old.method in (Method.TAPE, Method.STRING) else Method.TAPE
    length, _, spread = lowered.replace("+/-", "±").replace("+-", "±").partition("±")
    if not length.strip():
        return measured(old.length_m, method, parse_length_m(spread, habit=habit) if spread else None)
    return measured(
        parse_length_m(length, habit=habit), method, parse_length_m(spread, habit=habit) if spread.strip() else None
    )
