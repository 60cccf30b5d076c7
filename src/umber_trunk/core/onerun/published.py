"""Published tables beside what the program reckons for the same question, so that anyone sees where it is generous and
where strict.

The tables are data (`data/figures/published.json`): source, the rule each holds, a row a figure with its conditions,
and how far ours may lie from it. Where a table of currents lies under ours the program is generous: it lets a wire
carry more than the table does.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

from umber_trunk.core.catalog.conductors import area_of, conductor, metals, parse_size
from umber_trunk.core.make.measuring import POUND_N, least_pull_n
from umber_trunk.core.onerun.asked_run import Run
from umber_trunk.core.onerun.run import judge
from umber_trunk.core.physics.fuses import continuous_a, opening_s
from umber_trunk.core.physics.packing import pack
from umber_trunk.core.physics.surroundings import REEL_SHARE, pressure_share


@dataclass(frozen=True)
class Beside:
    """A published figure and ours; `off` is how far ours is over it, as a share; `within` how far it may be."""

    table: str
    title: str
    source: str
    rule: str
    what: str
    published: float
    ours: float
    unit: str
    within: tuple[float, float]
    currents: bool

    @property
    def off(self) -> float:
        """(ours − published) / published."""
        return self.ours / self.published - 1

    @property
    def agrees(self) -> bool:
        """Whether ours lies as near as it may."""
        return self.within[0] <= self.off <= self.within[1]

    @property
    def side(self) -> str:
        """Of currents: whether ours lets more pass, "generous", or less, "strict"; "" where neither has a meaning or it
        is under 1 %."""
        return "" if not self.currents or abs(self.off) < 0.01 else "generous" if self.off > 0 else "strict"


def _amps(size: str, row: Mapping[str, Any], together: int) -> float:
    """What one of so many equal wires carries all the time."""
    run = Run(
        24.0,
        1.0,
        amps=1.0,
        ambient_c=row["ambient_c"],
        limit_c=row["limit_c"],
        metal="copper",
        make="general",
        jacket="pvc",
        ground_return=True,
        bundle=together,
        joints=0,
    )
    return judge(run, parse_size(size)).continuous_a


def _adiabatic(row: Mapping[str, Any]) -> float:
    """k = √(Qc (β + 20) / ρ20 · ln((θf + β)/(θi + β))), Qc from density and heat (IEC 60364-5-54 A.54)."""
    metal = metals()[row["metal"]]
    stored = metal.density_kg_m3 * metal.heat_j_kg_k * 1e-9  # J/K·mm³
    warmed = math.log((row["to_c"] + metal.beta_c) / (row["from_c"] + metal.beta_c))
    return math.sqrt(stored * (metal.beta_c + 20) / (metal.rho20_ohm_m * 1e3) * warmed)


def _fuse(row: Mapping[str, Any]) -> float:
    fastest, slowest = opening_s(10.0, np.array([10.0 * row["multiple"]]))
    return float((fastest if row["side"] == "fastest" else slowest)[0])


def _pull(size: str, row: Mapping[str, Any]) -> float:
    newtons, _ = least_pull_n(area_of(parse_size(size).label), row["lug"])
    return (newtons or math.nan) / (POUND_N if row["lug"] else 1.0)


KINDS: dict[str, Callable[[str, Mapping[str, Any]], float]] = {
    "area": lambda what, _: area_of(parse_size(what).label),
    "ampacity": lambda what, row: _amps(what, row, 1),
    "bunched": lambda what, row: _amps(what, row, row["together"]),
    "grouping": lambda _, row: (
        _amps("2.5 mm2", {**row, "limit_c": 70.0}, row["together"]) / _amps("2.5 mm2", {**row, "limit_c": 70.0}, 1)
    ),
    "resistance": lambda what, row: 1e3 * conductor(parse_size(what).label, "copper", row["make"], "pvc").ohm_per_m_20,
    "adiabatic": lambda _, row: _adiabatic(row),
    "packing": lambda _, row: pack(np.full(row["together"], 1.0)).diameter,
    "pull": _pull,
    "fuse": lambda _, row: _fuse(row),
    "continuous": lambda _, row: continuous_a(10.0, row["ambient_c"]) / 10.0,
    "reel": lambda _, row: REEL_SHARE[row["layers"]],
    "altitude": lambda _, row: float(pressure_share(row["m"])),
}
CURRENTS = ("ampacity", "bunched", "grouping")


@cache
def published() -> tuple[dict[str, Any], ...]:
    """The tables as they ship."""
    text = resources.files("umber_trunk.data").joinpath("figures/published.json").read_text("utf-8")
    return tuple(json.loads(text)["tables"])


def beside(table: str = "") -> list[Beside]:
    """Every figure of all tables, or of one, beside ours."""
    found = []
    for one in published():
        if table not in ("", one["id"]):
            continue
        for what, figure, *conditions in one["rows"]:
            row = {"ambient_c": one.get("ambient_c", 20), **(conditions[0] if conditions else {})}
            said = f"{what}, {row['limit_c']:g} °C" if "limit_c" in row else what
            found.append(
                Beside(
                    one["id"],
                    one["title"],
                    one["source"],
                    one["rule"],
                    said,
                    float(figure),
                    KINDS[one["kind"]](what, row),
                    one["unit"],
                    (one["low"], one["high"]),
                    one["kind"] in CURRENTS,
                )
            )
    return found
