"""What is measured on the way, and what a reading says: accept, do it again, or scrap; always from the part's own
limits first.

Minimum pull-out forces are those of NUMBERS: IEC 60352-2 for contacts, UL 486A for lugs, each where the part's sheet
has none.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Any

import numpy as np

from umber_trunk.core.catalog.conductors import awg_area_mm2
from umber_trunk.core.catalog.parts import Clamp, Contact, Crimped, Lug
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.reach import crimp_for
from umber_trunk.core.errors import InputError, quoted, refusal_of
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.measures import LENGTH, MASS, Measure
from umber_trunk.core.quantity import DoubtfulError, Habit, read
from umber_trunk.core.sentences import Message, say

POUND_N = 4.4482216152605
"""A pound-force: 0.45359237 kg at standard gravity (ISO 80000-4)."""
FORCE = Measure("force", "N", {"n": 1.0, "newton": 1.0, "newtons": 1.0, "kn": 1000.0, "lbf": POUND_N, "kgf": 9.80665})
"""Pull forces, in newtons."""
TORQUE = Measure(
    "torque",
    "N·m",
    {"n·m": 1.0, "nm": 1.0, "n.m": 1.0, "cnm": 0.01, "lbf·in": 0.1129848290276, "lbfin": 0.1129848290276},
)
"""Torques of nuts and screws, in newton metres."""
KINDS: dict[str, tuple[Measure, str, float]] = {
    "height": (LENGTH, "mm", 1e3), "width": (LENGTH, "mm", 1e3), "pull": (FORCE, "N", 1.0), "torque": (TORQUE, "N·m", 1.0), "mass": (MASS, "g", 1e3),
}  # fmt: skip
"""What can be measured: its measure, its unit and the factor from the measure's base to that unit."""


def kind_told(kind: str) -> str:
    """What is measured, in words; a kind that isn't known here as it is."""
    return say(f"measured.{kind}") if kind in KINDS else kind


MOST = {"height": 100.0, "width": 100.0}
"""What no crimp is over: of two readings of a text the one that is left."""

PULL_CONTACT_N = {0.22: 28, 0.32: 40, 0.5: 60, 0.75: 85, 1.0: 108, 1.5: 150, 2.5: 230, 4: 310, 6: 360, 10: 380}
"""Least pull forces of crimped contacts by area [mm² → N], as in IEC 60352-2."""
PULL_LUG_N = {
    awg_area_mm2(gauge): lbf * POUND_N
    for gauge, lbf in {
        22: 8,
        20: 13,
        18: 20,
        16: 30,
        14: 50,
        12: 70,
        10: 80,
        8: 90,
        6: 100,
        4: 140,
        2: 180,
        1: 200,
        0: 250,
        -1: 300,
        -2: 350,
        -3: 450,
    }.items()
}
"""Of lugs and splices by area, as UL 486A lists them by gauge in lbf."""
TORQUE_SHARE = 0.1
"""A driver's usual tolerance."""
DEFECTS = {
    "strand-out": "rework", "insulation-in": "rework", "no-bell": "rework", "pierced": "rework", "short-strip": "rework", "under": "rework",
    "over": "rework", "nicked": "rework", "not-seated": "again", "wrong-cavity": "again", "jacket-cut": "scrap",
}  # fmt: skip
"""What a look finds, and what it comes to: again (the step), rework (the end starts over), scrap (the wire)."""


def defect_told(code: str) -> str:
    """A fault that a look finds, in words."""
    return say(f"defect.{code}")


@dataclass(frozen=True)
class Limits:
    """What a figure has to keep: from `low` to `high`, None where there is no such limit; `source` says whose."""

    low: float | None
    high: float | None
    source: str

    @property
    def text(self) -> str:
        """In words."""
        if self.low is not None and self.high is not None:
            return say("limits.between", low=self.low, high=self.high)
        if self.low is not None:
            return say("limits.at-least", low=self.low)
        return say("limits.at-most", high=self.high) if self.high is not None else say("limits.none")


def limits_of(shelf: Shelf, one: Operation, kind: str) -> Limits:
    """The limits of a reading at a step."""
    part = shelf.named(one.part)
    if kind == "height" and isinstance(part, Crimped):
        row = crimp_for(part, one.barrel_mm2 or one.area_mm2)
        if row is not None:
            return Limits(
                round(row.height_mm - row.plus_minus_mm, 4),
                round(row.height_mm + row.plus_minus_mm, 4),
                say("limits.sheet-for", part=part.name, area_mm2=row.area_mm2),
            )
    if kind == "pull" and isinstance(part, Crimped):
        if part.pull_n is not None:
            return Limits(part.pull_n, None, say("limits.sheet", part=part.name))
        least, source = least_pull_n(one.area_mm2, isinstance(part, Lug))
        if least is not None:
            return Limits(round(least, 1), None, source)
    if kind == "torque" and isinstance(part, Clamp) and part.torque_nm:
        return Limits(
            round(part.torque_nm * (1 - TORQUE_SHARE), 4),
            round(part.torque_nm * (1 + TORQUE_SHARE), 4),
            f"{part.name}, ± {100 * TORQUE_SHARE:.0f} %",
        )
    return Limits(None, None, say("limits.no-sheet"))


def least_pull_n(area_mm2: float, lug: bool) -> tuple[float | None, str]:
    """Minimum pull-out force in N for a conductor, between the rows of the table by the logarithm of the area; None
    beyond it."""
    table = PULL_LUG_N if lug else PULL_CONTACT_N
    areas = sorted(table)
    if not areas[0] * 0.97 <= area_mm2 <= areas[-1] * 1.03:
        return None, "outside the table"
    force = float(np.interp(math.log(area_mm2), np.log(areas), [table[a] for a in areas]))
    return force, "UL 486A" if lug else "IEC 60352-2"


def wanted_readings(shelf: Shelf, one: Operation) -> list[str]:
    """What to measure at a step: height and pull of a sample crimp, torque of a clamp."""
    if one.op == "torque" and isinstance(shelf.named(one.part), Clamp):
        return ["torque"]
    if one.op == "measure" and one.sample:
        height = limits_of(shelf, one, "height")
        return [*(["height"] if height.low is not None else []), "pull"]
    if (
        one.op == "crimp"
        and isinstance(shelf.named(one.part), Contact)
        and limits_of(shelf, one, "height").low is not None
    ):
        return ["height"]
    return []


VERDICTS = ("accept", "rework", "scrap", "note")
"""What a reading comes to."""


def judge_reading(limits: Limits, value: float, sample: bool = False) -> str:
    """ "accept" within the limits; "rework" out of them on a wire, "scrap" on a sample: there the tool is at fault;
    "note" without limits."""
    if limits.low is None and limits.high is None:
        return "note"
    inside = (limits.low is None or value >= limits.low) and (limits.high is None or value <= limits.high)
    return "accept" if inside else "scrap" if sample else "rework"


def verdict_told(verdict: str) -> str:
    """What `judge_reading` says, in words; what a log of another program has, as it is."""
    return say(f"verdict.{verdict}") if verdict in VERDICTS else verdict


def read_figure(kind: str, text: str, decimal: str = "") -> float:
    """A reading as typed or as a gauge sends it, in the unit of its kind. InputError for what can't be read whole."""
    if kind not in KINDS:
        raise InputError.of("make.nothing-that-is-measured-here", kind=kind, known=", ".join(KINDS))
    name, (measure, unit, factor) = kind_told(kind), KINDS[kind]
    try:
        value = read(text, measure, unit, Habit(decimal)).value * factor
    except DoubtfulError:
        both = [read(text, measure, unit, Habit(mark)).value * factor for mark in ("point", "comma")]
        likely = [one for one in both if one <= MOST.get(kind, 0.0)]
        if len(likely) != 1:
            raise
        value = likely[0]  # the other is no crimp's: 1.412 mm, not 1412 mm
    if not 0 < value < 1e6:
        raise InputError.of("make.measure-above-zero", name=name, text=quoted(text))
    return value


STRONGEST_N_MM2 = 450.0
"""Tensile strength of hard-drawn copper, the strongest a conductor can have (EN 13601, R360 and above)."""
FAR = 3.0
"""Times a limit beyond which a reading is a slip of the pen and no part's."""


def cant_be(limits: Limits, one: Operation, kind: str, value: float) -> Message | None:
    """Why a reading can't be right at a step, None where it can: such a one is asked again, not judged."""
    name, unit = kind_told(kind), KINDS[kind][1]
    if kind == "pull" and one.area_mm2 and value > STRONGEST_N_MM2 * one.area_mm2:
        most = STRONGEST_N_MM2 * one.area_mm2
        return refusal_of("make.pull-cant-be", name=name, value=value, unit=unit, area_mm2=one.area_mm2, most=most)
    if kind in ("height", "width", "torque"):
        high = limits.high if limits.high is not None else limits.low
        low = limits.low if limits.low is not None else limits.high
        if (high is not None and value > FAR * high) or (low is not None and value < low / FAR):
            return refusal_of("make.reading-cant-be", name=name, value=value, unit=unit, limits=limits.text)
    return None


def kind_said(text: str, asked: list[str], known: set[str]) -> tuple[str, str]:
    """(kind, figure) of what was typed at a step: a kind said in front, else what is asked here, else what its unit
    alone can mean. InputError where a bare figure says nothing."""
    word, _, rest = text.strip().partition(" ")
    if word.lower() in KINDS:
        return word.lower(), rest
    if asked:
        return next((one for one in asked if one not in known), asked[0]), text
    by_unit = []
    for kind in ("pull", "torque", "mass"):
        try:
            read_figure(kind, text)
        except InputError:
            continue
        by_unit.append(kind)
    if len(by_unit) == 1 and re.search(r"[a-zµ]", text, re.I):
        return by_unit[0], text
    if re.match(r"\s*[-+]?[\d.,]", text):
        raise InputError.of(
            "make.nothing-is-measured-at-this-step", text=quoted(text), typed=text.strip()[:20], known=", ".join(KINDS)
        )
    raise InputError.of("make.no-wire-coil-or-reading", text=quoted(text))


WHERE = {"height": ("crimp", "split", "look", "measure"), "width": ("crimp", "split", "look", "measure"), "pull": ("measure",), "torque": ("torque", "clamp", "insert")}  # fmt: skip
"""At which operations a kind of reading can be taken; a mass at any."""


def reading_data(shelf: Shelf, one: Operation, kind: str, value: float, by: str = "") -> dict[str, Any]:
    """What the log keeps of a reading: figure, unit, limits, verdict. A pull to destruction on a wire of a unit is
    refused."""
    if kind == "pull" and not one.sample:  # first: it is the one that does harm
        raise InputError.of("make.pull-apart-sample-pieces-alone")
    if one.op not in WHERE.get(kind, (one.op,)):
        raise InputError.of(
            "make.taken-at-not-at-this-step", kind=kind_told(kind), known=" or ".join(WHERE[kind]), op=one.op
        )
    limits = limits_of(shelf, one, kind)
    if said := cant_be(limits, one, kind, value):
        raise InputError(said)
    return {
        "what": kind,
        "value": value,
        "unit": KINDS[kind][1],
        "low": limits.low,
        "high": limits.high,
        "source": limits.source,
        "verdict": judge_reading(limits, value, one.sample),
        "tool": one.tool or one.setting,
        "setting": one.setting,
        "part": one.part,
        "area_mm2": (one.barrel_mm2 if kind in ("height", "width") else 0.0) or one.area_mm2,
        "sample": one.sample,
        "by": by,
    }
