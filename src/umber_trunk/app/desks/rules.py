"""The house rules of a project as rows: each field declared once with its reading and writing."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.catalog.conductors import jackets, makes, metals, parse_size, show_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import Edit, set_project
from umber_trunk.core.harness.model import Design
from umber_trunk.core.units import (
    parse_celsius,
    parse_length_m,
    parse_number,
    parse_ohms,
    show_length,
    show_ohms,
)


@dataclass(frozen=True)
class Rule:
    """One field of the project."""

    id: str
    name: str
    meaning: str
    show: Callable[[Any], str]
    parse: Callable[[str], Any]


def _percent(text: str) -> float:
    return parse_number(text.strip().removesuffix("%"))


def _share(text: str) -> float:
    return _percent(text) / 100


def _choice(known: Callable[[], Any]) -> Callable[[str], str]:
    def parse(text: str) -> str:
        wanted = text.strip().lower()
        for key, part in known().items():
            if wanted in (key, part.name.lower()):
                return str(key)
        raise InputError(f"“{text.strip()}” is not known here; choose from: {', '.join(known())}.")

    return parse


def _yes(text: str) -> bool:
    answers = {"yes": True, "no": False}
    if text.strip().lower() not in answers:
        raise InputError("Say yes or no.")
    return answers[text.strip().lower()]


def _shelf(text: str) -> tuple[str, ...]:
    if text.strip().lower() in ("", "any", "all"):
        return ()
    return tuple(parse_size(part).label for part in re.split(r"\s*;\s*|,\s+", text.strip()))


def _whole(text: str) -> int:
    value = parse_number(text)
    if value != int(value):
        raise InputError(f"“{text.strip()}” must be a whole number.")
    return int(value)


RULES = (
    Rule("name", "Name of the harness", "stands on every sheet", str, str.strip),
    Rule("series", "Size steps", "metric or awg", str, lambda t: t.strip().lower()),
    Rule("metal", "Metal", "copper, tinned, cca10, cca15, aluminium; each wire may differ", str, _choice(metals)),
    Rule("make", "Make of wire", "general, class5, thinwall, welding, marine, hookup", str, _choice(makes)),
    Rule("jacket", "Jacket", "pvc70, pvc, rubber, xlpe, silicone, fluoro", str, _choice(jackets)),
    Rule("smallest_mm2", "Smallest size allowed", "thinner wires don't survive handling", lambda v: f"{v:g} mm²", lambda t: parse_size(t).area_mm2),
    Rule("shelf", "Sizes on the shelf", "only these are used by least copper; “any” for all", lambda v: ", ".join(map(show_size, v)) or "any", _shelf),
    Rule("max_drop_percent", "Drop allowed", "for loads that ask for nothing else", lambda v: f"{v:g} %", _percent),
    Rule("ambient_c", "Ambient", "where no zone is given", lambda v: f"{v:g} °C", parse_celsius),
    Rule("match_pairs", "Feed and return alike", "both wires of a load get one size, as twin cable has", lambda v: "yes" if v else "no", _yes),
    Rule("joint_ohm", "One joint", "resistance of a crimped contact or lug, both ends counted", show_ohms, parse_ohms),
    Rule("entry_m", "Entry into an end", "from the last point to the contact, added at both ends", show_length, parse_length_m),
    Rule("strip_m", "Strip", "bared at each end, added to the cut", show_length, parse_length_m),
    Rule("remakes", "Remakes allowed", "times an end may be cut off and made again", str, _whole),
    Rule("remake_m", "One remake eats", "length lost each time", show_length, parse_length_m),
    Rule("twist_factor", "Twist take-up", "length over run, 1 for straight wires", lambda v: f"{v:g}", parse_number),
    Rule("chance_short", "Chance of coming up short", "decides how much reserve a wire is cut with", lambda v: f"{100 * v:g} %", _share),
)  # fmt: skip


def rule_text(design: Design, rule: Rule) -> str:
    """The rule's present value."""
    return rule.show(getattr(design.project, rule.id))


def set_rule(rule: Rule, text: str) -> Edit:
    """An edit that sets a rule from typed text."""
    value = rule.parse(text)
    return lambda design: set_project(design, **{rule.id: value})
