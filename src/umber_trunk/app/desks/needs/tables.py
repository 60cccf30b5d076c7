"""The smaller tables of the desk: supplies, zones, cases, ends, converters, rules and words."""

from __future__ import annotations

from umber_trunk.app.desks.needs.rules import rule_text, set_rule
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.typed import end_frame, end_kind, end_zone, parsed, zone_flags
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.edits import rename
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Supply, Zone
from umber_trunk.core.needs.cases import loads_text, set_case
from umber_trunk.core.quantity import Habit, exact
from umber_trunk.core.units import (
    parse_celsius,
    parse_length_m,
    parse_number,
    parse_ohms,
    parse_share,
    parse_volts,
    show_length,
    show_ohms,
    significant,
)


def supply_columns() -> list[Column]:
    """Supplies: volts, what is lost inside them, what a short draws."""
    return [
        Column("Supply", lambda r: r.name, lambda r, t: lambda d: rename(d, "supplies", r.id, t), width=220),
        Column("Volts", lambda r: f"{exact(r.volts)} V", parsed("supplies", "volts", parse_volts), right=True),
        Column("Inside", lambda r: show_ohms(r.source_ohm), parsed("supplies", "source_ohm", parse_ohms), right=True),
        Column("Plus", lambda r: str(r.plus)),
        Column("Minus", lambda r: str(r.minus)),
        Column("A short draws up to", _short_text, width=-1),
    ]


def zone_columns() -> list[Column]:
    """Zones: how hot, how windy, how sunny, how high, and what wears there."""
    return [
        Column("Zone", lambda r: r.name, lambda r, t: lambda d: rename(d, "zones", r.id, t), width=220),
        Column(
            "Ambient", lambda r: f"{exact(r.ambient_c)} °C", parsed("zones", "ambient_c", parse_celsius), right=True
        ),
        Column("Air", lambda r: f"{exact(r.air_m_s)} m/s", parsed("zones", "air_m_s", _speed), right=True),
        Column(
            "Sun",
            lambda r: f"{exact(r.sun_w_m2)} W/m²" if r.sun_w_m2 else "",
            parsed("zones", "sun_w_m2", _sun),
            right=True,
        ),
        Column(
            "Altitude",
            lambda r: show_length(r.altitude_m) if r.altitude_m else "",
            parsed("zones", "altitude_m", _altitude),
            right=True,
        ),
        Column("Traits: wet, shaking, oily, sunny, flexing, hot, enclosed", _traits, zone_flags, width=-1),
    ]


def case_columns(document: Document) -> list[Column]:
    """Cases: what runs together, in which heat."""
    return [
        Column("Case", lambda r: r.name, lambda r, t: lambda d: rename(d, "cases", r.id, t), width=200),
        Column(
            "Ambient",
            lambda r: "as zones" if r.ambient_c is None else f"{exact(r.ambient_c)} °C",
            parsed("cases", "ambient_c", parse_celsius, True),
            right=True,
            width=110,
        ),
        Column(
            "Runs (new one: enter  case at anchor: all but winch)",
            lambda r: loads_text(document.design, r),
            lambda r, t: lambda d: set_case(d, r.name, t),
            width=-1,
        ),
    ]


def end_columns(document: Document) -> list[Column]:
    """Ends: what each is, where it lies, whether it is on the frame."""

    def zone_name(end: End) -> str:
        zone = index_of(document.design).zones.get(end.zone or "")
        return zone.name if zone else ""

    def pins(end: End) -> str:
        return ", ".join(cavity.id for cavity in end.cavities)

    return [
        Column("End", lambda r: r.name, lambda r, t: lambda d: rename(d, "ends", r.id, t), width=200),
        Column("Kind", lambda r: r.kind.value, end_kind, width=110),
        Column("Zone", zone_name, end_zone, width=150),
        Column("Frame", lambda r: show_ohms(r.frame_ohm) if r.frame else "", end_frame, right=True, width=100),
        Column("Pins", pins, width=-1),
    ]


def converter_columns() -> list[Column]:
    """Converters: what they make, how well, out of what."""
    return [
        Column(
            "Converter (new one: enter  converter 24 to 12 V 90% at house from fuse box)",
            lambda r: r.name,
            lambda r, t: lambda d: rename(d, "converters", r.id, t),
            width=520,
        ),
        Column("Makes", lambda r: f"{exact(r.volts)} V", parsed("converters", "volts", parse_volts), right=True),
        Column(
            "Efficiency",
            lambda r: f"{exact(100 * r.efficiency)} %",
            parsed("converters", "efficiency", parse_share),
            right=True,
        ),
        Column("Inside", lambda r: show_ohms(r.out_ohm), parsed("converters", "out_ohm", parse_ohms), right=True),
        Column("Fed at", lambda r: str(r.plus), width=-1),
    ]


def rule_columns(document: Document) -> list[Column]:
    """The rules of the house, each with what it does."""
    return [
        Column("House rule", lambda r: tr(r.name), width=330),
        Column(
            "Value",
            lambda r: rule_text(document.design, r),
            set_rule,
            right=True,
            width=150,
        ),
        Column("What it does", lambda r: tr(r.meaning), width=-1),
    ]


def word_columns() -> list[Column]:
    """Words of makes and jackets that a line understands."""
    return [
        Column("Word", lambda r: r.word, width=96),
        Column("Kind", lambda r: r.kind, width=70),
        Column("What it is", lambda r: r.name, width=224),
        Column("Stands", lambda r: r.stands, width=370),
        Column("Weak where", lambda r: r.weak, width=220),
        Column("Source", lambda r: r.source, width=-1),
    ]


def _speed(text: str, habit: Habit) -> float:
    return parse_number(text.lower().replace("m/s", ""), habit)


def _sun(text: str, habit: Habit) -> float:
    return parse_number(text.replace("W/m²", "").replace("W/m2", ""), habit) if text.strip() else 0.0


def _altitude(text: str, habit: Habit) -> float:
    return parse_length_m(text, habit=habit) if text.strip() else 0.0


def _short_text(supply: Supply) -> str:
    return (
        f"{significant(supply.volts / supply.source_ohm, 2)} A"
        if supply.source_ohm
        else tr("unknown: no resistance inside")
    )


def _traits(zone: Zone) -> str:
    words = {
        "wet": "wet",
        "vibration": "shaking",
        "oil": "oily",
        "uv": "sunny",
        "flexing": "flexing",
        "hot_metal": "hot",
        "enclosed": "enclosed",
    }
    return ", ".join(word for name, word in words.items() if getattr(zone, name))
