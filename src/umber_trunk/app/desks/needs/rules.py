"""The house rules of a project as rows: each field declared once with its reading and writing."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.catalog.conductors import jackets, makes, metals, parse_size, show_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import Edit, change, set_project
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.harness.way import Board, Prices
from umber_trunk.core.quantity import Habit, exact
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
    parse: Callable[[str, Habit], Any]


def _percent(text: str, habit: Habit) -> float:
    return parse_number(text.strip().removesuffix("%"), habit)


def _share(text: str, habit: Habit) -> float:
    return _percent(text, habit) / 100


def _choice(known: Callable[[], Any]) -> Callable[[str, Habit], str]:
    def parse(text: str, _: Habit) -> str:
        wanted = text.strip().lower()
        for key, part in known().items():
            if wanted in (key, part.name.lower()):
                return str(key)
        raise InputError.of("window.not-known-here", text=text.strip(), known=", ".join(known()))

    return parse


def _one_of(**words: Any) -> Callable[[str, Habit], Any]:
    """A choice among words, each with its value."""

    def parse(text: str, _: Habit) -> Any:
        wanted = text.strip().lower()
        if wanted not in words:
            raise InputError.of("window.not-known-here", text=text.strip(), known=", ".join(words))
        return words[wanted]

    return parse


def _yes(text: str, _: Habit) -> bool:
    answers = {"yes": True, "no": False}
    if text.strip().lower() not in answers:
        raise InputError.of("window.yes-or-no")
    return answers[text.strip().lower()]


def _shelf(text: str, _: Habit) -> tuple[str, ...]:
    if text.strip().lower() in ("", "any", "all"):
        return ()
    return tuple(parse_size(part).label for part in re.split(r"\s*;\s*|,\s+", text.strip()))


def _whole(text: str, habit: Habit) -> int:
    value = parse_number(text, habit)
    if value != int(value):
        raise InputError.of("window.must-be-whole-number", text=text.strip())
    return int(value)


def _prices_text(prices: Prices | None) -> str:
    return f"{exact(prices.scrapped)} / {exact(prices.spare_per_m)}" if prices is not None else "not given"


def _prices(text: str, habit: Habit) -> Prices | None:
    """ "2.50 / 0.40"; nothing for none."""
    if text.strip().lower() in ("", "none", "not given"):
        return None
    parts = text.split("/")
    if len(parts) != 2:
        raise InputError.of("window.give-both", text=text.strip())
    scrapped, spare = (parse_number(part, habit) for part in parts)
    made: Prices = change(Prices(scrapped=1, spare_per_m=1), scrapped=scrapped, spare_per_m=spare)
    return made


def _board_text(board: Board) -> str:
    sheet = {"a4": "A4", "a3": "A3", "letter": "Letter"}.get(board.sheet, board.sheet)
    return f"{exact(board.width_mm)} x {exact(board.height_mm)}, {exact(board.gap_mm)}, {sheet}"


def _board(text: str, habit: Habit) -> Board:
    """ "2440 x 1220, 25, A3"; what isn't said keeps its usual value."""
    match = re.fullmatch(
        r"\s*([\d.]+)\s*[x×]\s*([\d.]+)\s*(?:mm)?(?:\s*,\s*([\d.]+)\s*(?:mm)?)?(?:\s*,\s*(a4|a3|letter|roll))?\s*",
        text,
        re.IGNORECASE,
    )
    if match is None:
        raise InputError.of("window.no-board-say", text=text.strip())
    given = {"width_mm": match[1], "height_mm": match[2], "gap_mm": match[3]}
    values: dict[str, Any] = {name: parse_number(one, habit) for name, one in given.items() if one}
    made: Board = change(Board(), **values, **({"sheet": match[4].lower()} if match[4] else {}))
    return made


FUSE_SCHOOLS = (
    "curve: it opens before the jacket’s damage curve, in its bundle; iec: Iₙ ≤ I_z and I₂ ≤ 1.45 I_z (IEC "
    "60364-4-43); 150 %: up to 1.5 × ampacity, as some marine rules allow"
)
RULES = (
    Rule("name", "Name of the harness", "stands on every sheet", str, lambda t, _: t.strip()),
    Rule("series", "Size steps", "metric or awg", str, _one_of(metric="metric", awg="awg")),
    Rule("metal", "Metal", "copper, tinned, cca10, cca15, aluminium; each wire may differ", str, _choice(metals)),
    Rule("make", "Make of wire", "general, class5, thinwall, welding, marine, hookup", str, _choice(makes)),
    Rule("jacket", "Jacket", "pvc70, pvc, rubber, xlpe, silicone, fluoro", str, _choice(jackets)),
    Rule(
        "smallest_mm2",
        "Smallest size allowed",
        "thinner wires don't survive handling",
        lambda v: f"{exact(v)} mm²",
        lambda t, h: parse_size(t, "metric", h.decimal).area_mm2,
    ),
    Rule(
        "shelf",
        "Sizes on the shelf",
        "only these are used by least copper; “any” for all",
        lambda v: ", ".join(map(show_size, v)) or "any",
        _shelf,
    ),
    Rule(
        "max_drop_percent", "Drop allowed", "for loads that ask for nothing else", lambda v: f"{exact(v)} %", _percent
    ),
    Rule("ambient_c", "Ambient", "where no zone is given", lambda v: f"{exact(v)} °C", parse_celsius),
    Rule(
        "match_pairs",
        "Feed and return alike",
        "both wires of a load get one size, as twin cable has",
        lambda v: "yes" if v else "no",
        _yes,
    ),
    Rule("joint_ohm", "One joint", "resistance of a crimped contact or lug, both ends counted", show_ohms, parse_ohms),
    Rule(
        "entry_m",
        "Entry into an end",
        "from the last point to the contact, added at both ends",
        show_length,
        lambda t, h: parse_length_m(t, habit=h),
    ),
    Rule(
        "strip_m", "Strip", "bared at each end, added to the cut", show_length, lambda t, h: parse_length_m(t, habit=h)
    ),
    Rule("remakes", "Remakes allowed", "times an end may be cut off and made again", str, _whole),
    Rule("remake_m", "One remake eats", "length lost each time", show_length, lambda t, h: parse_length_m(t, habit=h)),
    Rule("twist_factor", "Twist take-up", "length over run, 1 for straight wires", exact, parse_number),
    Rule(
        "decimal",
        "Before decimals stands",
        "comma, point, or ask: how “1,200” is read; ask refuses it",
        lambda v: v or "ask",
        _one_of(comma="comma", point="point", ask=""),
    ),
    Rule(
        "motor_efficiency",
        "Motors give of what they draw",
        "turns horsepower at the shaft into watts drawn",
        lambda v: f"{exact(100 * v)} %",
        _share,
    ),
    Rule(
        "frame_ohm",
        "Frame return",
        "resistance through the frame from a load’s place to the source",
        show_ohms,
        parse_ohms,
    ),
    Rule(
        "fuse_rule",
        "A fuse protects a wire when",
        FUSE_SCHOOLS,
        lambda v: {"share150": "150 %"}.get(v, v),
        _one_of(curve="curve", iec="iec", **{"150 %": "share150", "150%": "share150"}),
    ),
    Rule(
        "fuse_allowance_k",
        "Above the jacket’s class held for ever",
        "what a shop allows on its own account; 0 K is what the class says",
        lambda v: f"{exact(v)} K",
        lambda t, h: parse_number(t.strip().removesuffix("K"), h),
    ),
    Rule(
        "units",
        "Papers in",
        "metric, inch (feet and AWG), or both",
        str,
        _one_of(metric="metric", inch="inch", both="both"),
    ),
    Rule("paper", "Paper", "A4 or Letter", lambda v: {"a4": "A4"}.get(v, "Letter"), _one_of(a4="a4", letter="letter")),
    Rule(
        "landscape",
        "Paper lies",
        "landscape or portrait",
        lambda v: "landscape" if v else "portrait",
        _one_of(landscape=True, portrait=False),
    ),
    Rule(
        "cut_step_m",
        "Wires are cut to",
        "lengths are rounded up to this",
        show_length,
        lambda t, h: parse_length_m(t, "mm", h),
    ),
    Rule(
        "cutting_m",
        "± at the cutting bench",
        "how far a cut is off, added to what is measured",
        show_length,
        lambda t, h: parse_length_m(t, "mm", h),
    ),
    Rule(
        "prices",
        "A scrapped wire, and a metre of spare",
        "both as 2.50 / 0.40: more copper is cut where that is cheaper than scrap; empty for none",
        _prices_text,
        _prices,
    ),
    Rule(
        "bend_times",
        "Least bend radius",
        "times the outside of the thickest wire",
        lambda v: f"{exact(v)} ×",
        lambda t, h: parse_number(t.strip().rstrip("×x "), h),
    ),
    Rule(
        "board",
        "The board",
        "width x height in mm, clear space between limbs, sheet: 2440 x 1220, 25, A3",
        _board_text,
        _board,
    ),
    Rule(
        "chance_short",
        "Chance of coming up short",
        "decides how much reserve a wire is cut with",
        lambda v: f"{exact(100 * v)} %",
        _share,
    ),
)


def rule_text(design: Design, rule: Rule) -> str:
    """The rule's present value."""
    return rule.show(getattr(design.project, rule.id))


def set_rule(rule: Rule, text: str) -> Edit:
    """An edit that sets a rule from typed text."""
    return Typed(lambda habit: lambda design: set_project(design, **{rule.id: rule.parse(text, habit)}))
