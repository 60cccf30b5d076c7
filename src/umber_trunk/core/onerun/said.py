"""One run from words: what the shell's options and the window's fields say."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from umber_trunk.core.catalog.conductors import jackets, parse_size
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.onerun.asked_run import Run
from umber_trunk.core.physics.surroundings import Surroundings
from umber_trunk.core.quantity import Habit
from umber_trunk.core.units import (
    parse_amps,
    parse_celsius,
    parse_drop,
    parse_duty,
    parse_length_m,
    parse_load,
    parse_number,
    parse_ohms,
    parse_share,
    parse_surge,
    parse_volts,
)
from umber_trunk.core.usual import USUAL_DROP_PERCENT

USUAL: dict[str, Any] = {
    "way_back": "wire", "max_drop": f"{USUAL_DROP_PERCENT:g}%", "ambient": "30C", "jacket_limit": None, "metal": "copper", "make": "general",
    "jacket": "pvc", "series": None, "size": None, "parallel": 1, "joints": None, "bundle": 1, "apart": False, "air": "0", "duty": None, "surge": None,
    "fuse": None, "fuse_rule": "curve", "efficiency": None, "power_factor": None, "enclosed": False, "coiled": 0, "sun": False,
    "altitude": None, "decimal": None,
}  # fmt: skip
"""What is taken where nothing is said."""


def _joints(text: str | None, habit: Habit) -> tuple[float, int]:
    """Total resistance and number of "2x0.3mohm" or "0.6 mohm"."""
    if text is None:
        return 0.0, 2
    match = re.fullmatch(r"\s*(?:(\d+)\s*[x×*]\s*)?(.+)", text)
    if match is None:
        raise InputError.of("onerun.cant-be-read-as-joints", text=quoted(text))
    count = int(match[1] or 1)
    return count * parse_ohms(match[2], habit), count


def run_said(said: Mapping[str, Any]) -> Run:
    """The run that words describe, by the names the shell's options have; InputError says which one can't be read."""
    habit = Habit(said["decimal"] or "")
    share = parse_share(said["efficiency"], habit) if said["efficiency"] else None
    load = parse_load(said["load"], habit, share)
    kind, value = load.kind, load.value
    volts = parse_volts(said["supply"], habit)
    size = parse_size(said["size"], said["series"] or "", habit.decimal) if said["size"] else None
    series = said["series"] or ("awg" if size and size.series == "awg" else "metric")
    fuse = said["fuse"] if said["fuse"] in (None, "auto") else parse_amps(said["fuse"], habit)
    joints = _joints(said["joints"], habit)
    return Run(
        volts=volts,
        run_m=parse_length_m(said["length"], habit=habit),
        amps=value if kind == "A" else None,
        watts=value if kind == "W" else None,
        ohms=value if kind == "ohm" else None,
        ground_return=said["way_back"] == "ground",
        max_drop_v=parse_drop(said["max_drop"], volts, habit),
        ambient_c=parse_celsius(said["ambient"], habit),
        limit_c=parse_celsius(said["jacket_limit"], habit)
        if said["jacket_limit"]
        else jackets()[said["jacket"]].limit_c,
        metal=said["metal"],
        make=said["make"],
        jacket=said["jacket"],
        series=series,
        size=size.label if size else None,
        parallel=said["parallel"],
        joint_ohm=joints[0],
        joints=joints[1],
        bundle=said["bundle"],
        apart=bool(said["apart"]),
        air_m_s=_air(said["air"], habit),
        duty=parse_duty(said["duty"], habit) if said["duty"] else None,
        surge=parse_surge(said["surge"], habit) if said["surge"] else None,
        fuse=fuse,
        power_factor=parse_share(said["power_factor"], habit) if said["power_factor"] else 1.0,
        fuse_rule=said["fuse_rule"],
        surroundings=Surroundings(
            enclosed=said["enclosed"],
            coiled_layers=said["coiled"],
            sun_w_m2=1000.0 if said["sun"] else 0.0,
            altitude_m=parse_length_m(said["altitude"], habit=habit) if said["altitude"] else 0.0,
        ),
        notes=(*habit.notes, *([load.note + "."] if load.note else [])),
    )


def _air(text: str, habit: Habit) -> float:
    speed = parse_number(re.sub(r"\s*m/?s$", "", text.strip()), habit)
    if not 0 <= speed <= 60:
        raise InputError.of("onerun.air-speed-out-of-range", text=quoted(text))
    return speed
