"""Metals, wire makes, jackets and size series, read from the bundled table.

Each record carries its public source; a maker's data sheet overrides any of them.
"""

from __future__ import annotations

import json
import math
import re
from bisect import bisect_left
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib import resources
from typing import Any

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.measures import AREA, LENGTH
from umber_trunk.core.quantity import DoubtfulError, Habit, SeveralError, exact, read


@dataclass(frozen=True)
class Metal:
    """Conductor metal: resistivity [Ω·m at 20 °C], coefficient [1/K], density, heat capacity."""

    id: str
    name: str
    rho20_ohm_m: float
    alpha_per_k: float
    density_kg_m3: float
    heat_j_kg_k: float
    beta_c: float
    price_per_kg: float
    source: str


@dataclass(frozen=True)
class Jacket:
    """Insulation: continuous and short-time limits [°C], conductivity, what it tolerates."""

    id: str
    name: str
    limit_c: float
    short_c: float
    k_w_mk: float
    oil: bool
    uv: bool
    cold_flex_c: float
    hot_metal: bool


@dataclass(frozen=True)
class Make:
    """How a wire is made: lay factor, copper fill of the strand circle, walls, resistance table; ageing: its jackets
    are of the classes of ISO 6722-1, tested for hours above them."""

    id: str
    name: str
    lay: float
    fill: float
    strand_mm: float
    wall_table_mm: tuple[tuple[float, float], ...]
    resistance_ohm_km: dict[str, dict[float, float]]
    source: str
    ageing: bool = False

    def __hash__(self) -> int:
        return hash(self.id)

    def wall_mm(self, area_mm2: float) -> float:
        """Insulation wall for a conductor area: the first table row at least that large."""
        areas = [row[0] for row in self.wall_table_mm]
        row = min(bisect_left(areas, area_mm2 - 1e-9), len(areas) - 1)
        return self.wall_table_mm[row][1]


@dataclass(frozen=True, order=True)
class Size:
    """One step of a series; `label` is also what the user may type ("AWG 8", "10 mm2")."""

    area_mm2: float
    label: str
    series: str


def awg_area_mm2(gauge: float) -> float:
    """Area of AWG `gauge` (1/0 is 0, 2/0 is −1 …); ASTM B258. awg_area_mm2(36) is 0.01267."""
    diameter = 0.127 * 92 ** ((36 - gauge) / 39)
    return float(math.pi / 4 * diameter**2)


def _gauge(text: str) -> int:
    aught = re.fullmatch(r"(\d)/0|(0{1,4})", text)
    if aught:
        return 1 - (int(aught[1]) if aught[1] else len(aught[2]))
    return int(text)


def awg(text: str) -> Size:
    """The size of "8", "2/0" or "00"; AWG 40 to 4/0."""
    gauge = _gauge(text)
    if not -3 <= gauge <= 40:
        raise InputError.of("catalog.awg-out-of-range", text=text)
    name = f"{1 - gauge}/0" if gauge <= 0 else str(gauge)
    return Size(awg_area_mm2(gauge), f"AWG {name}", "awg")


def metric(area_mm2: float) -> Size:
    """The metric size of that nominal area, 0.05 to 1000 mm²."""
    if not 0.05 <= area_mm2 <= 1000:
        raise InputError.of("catalog.area-out-of-range", area_mm2=area_mm2)
    return Size(area_mm2, f"{exact(area_mm2)} mm2", "metric")


_GAUGE_WORD = r"(?:a\.?w\.?g\.?|gauge|gage|ga\.?|#)"
_AWG = re.compile(rf"(?:{_GAUGE_WORD}\s*[-:]?\s*)?(\d/0|0{{1,4}}|\d{{1,2}})\s*[-]?\s*(?:{_GAUGE_WORD})?", re.I)
KCMIL_MM2 = 0.5067074790974978
"""A thousand circular mils: the area of a circle 1/1000 in wide, a thousand times."""


def kcmil(thousands: float) -> Size:
    """The size of so many thousand circular mils, 1 to 2000."""
    if not 1 <= thousands <= 2000:
        raise InputError.of("catalog.kcmil-out-of-range", thousands=thousands)
    return Size(thousands * KCMIL_MM2, f"{exact(thousands)} kcmil", "awg")


@lru_cache(maxsize=2048)
def parse_size(text: str, bare: str = "", decimal: str = "", foreign: bool = False) -> Size:
    """A size from "AWG 8", "8 ga", "2/0", "250 kcmil", "10 mm2", "2,5 mm²". A bare number is of the series `bare`
    ("metric" or "awg") and refused without one; a diameter isn't a size."""
    stripped = re.sub(r"\bsq\.?\s*mm\b|\bmm\s*sq\b", "mm2", text.strip(), flags=re.I)
    as_awg = _AWG.fullmatch(stripped)
    if as_awg and (re.search(rf"{_GAUGE_WORD}|/0|^0{{1,4}}$", stripped, re.I) or (bare == "awg")):
        return awg(as_awg[1])
    try:
        found = read(stripped, (AREA, LENGTH), "mm2", Habit(decimal, foreign=foreign))
    except (DoubtfulError, SeveralError):
        raise
    except InputError:
        raise InputError.of("catalog.not-a-size", text=quoted(stripped)) from None
    if found.measure is LENGTH:
        raise InputError.of("catalog.length-or-diameter", text=quoted(stripped))
    if not found.unit and bare != "metric":
        raise InputError.of("catalog.size-needs-unit", text=quoted(stripped), bare=stripped)
    if found.unit.lower() in ("kcmil", "mcm"):
        return kcmil(found.value / KCMIL_MM2)
    return metric(found.value)


def parse_spec(text: str, bare: str = "", decimal: str = "") -> dict[str, str | int | bool | None]:
    """A wire as typed: "10 mm2", "2 x AWG 2", "16 mm2 tinned marine rubber"; the words are catalogue ids.

    Keys size, and parallel, metal, make, jacket where said; “signal” or “spare” says that it carries no load, “loaded”
    takes that back. "?" or nothing leaves the size to be proposed.
    """
    found: dict[str, str | int | bool | None] = {}
    rest = text.strip()
    many = re.match(r"(\d{1,2})\s*[x×]\s*(?=\S)", rest)
    if many:
        found["parallel"], rest = int(many[1]), rest[many.end() :]
    kept = []
    for word in rest.split():
        for kind, known in (("metal", metals()), ("make", makes()), ("jacket", jackets())):
            if word.lower() in known:
                found[kind] = word.lower()
                break
        else:
            if word.lower() in ("signal", "spare", "loaded"):
                found["signal"] = word.lower() != "loaded"
            else:
                kept.append(word)
    size = " ".join(kept).strip()
    found["size"] = None if size in ("", "?") else parse_size(size, bare, decimal).label
    return found


def show_size(label: str) -> str:
    """The label as shown on screen and paper ("10 mm²")."""
    return label.replace("mm2", "mm²")


@cache
def _table() -> dict[str, Any]:
    text = resources.files("umber_trunk").joinpath("data/catalog/conductors.json").read_text("utf-8")
    table: dict[str, Any] = json.loads(text)
    return table


@cache
def metals() -> dict[str, Metal]:
    """All bundled metals by id."""
    return {key: Metal(id=key, **row) for key, row in _table()["metals"].items()}


@cache
def jackets() -> dict[str, Jacket]:
    """All bundled jackets by id."""
    return {key: Jacket(id=key, **row) for key, row in _table()["jackets"].items()}


@cache
def makes() -> dict[str, Make]:
    """All bundled makes by id."""
    found = {}
    for key, row in _table()["makes"].items():
        tables = {
            metal: {float(area): value for area, value in column.items()}
            for metal, column in row["resistance_ohm_km"].items()
        }
        found[key] = Make(
            key,
            row["name"],
            row["lay"],
            row["fill"],
            row["strand_mm"],
            tuple((area, wall) for area, wall in row["wall_mm"]),
            tables,
            row["source"],
            row.get("ageing", False),
        )
    return found


@cache
def series(name: str) -> tuple[Size, ...]:
    """The steps of a series ("awg" or "metric"), smallest first."""
    rows = _table()["series"].get(name)
    if rows is None:
        raise InputError.of("catalog.no-size-series", name=name)
    return tuple(awg(row) if name == "awg" else metric(row) for row in rows)


@dataclass(frozen=True)
class Conductor:
    """One built wire: electrical, geometric and thermal figures per metre, all derived."""

    size: Size
    metal: Metal
    make: Make
    jacket: Jacket
    ohm_per_m_20: float
    ohm_source: str
    conductor_mm: float
    outer_mm: float
    kg_per_m: float

    @property
    def strand_mm(self) -> float:
        """Usual diameter of its strands; a small wire has at least seven."""
        return min(self.make.strand_mm, math.sqrt(self.size.area_mm2 / 7 * 4 / math.pi))

    @property
    def strands(self) -> int:
        """Usual number of strands of that diameter."""
        return max(7, round(self.size.area_mm2 / (math.pi / 4 * self.strand_mm**2)))

    @property
    def wall_mm(self) -> float:
        """Insulation wall."""
        return (self.outer_mm - self.conductor_mm) / 2


@lru_cache(maxsize=4096)
def conductor(size_label: str, metal: str, make: str, jacket: str) -> Conductor:
    """Everything derived from a wire's specification; InputError for an unknown part of it."""
    size = parse_size(size_label)
    try:
        metal_, make_, jacket_ = metals()[metal], makes()[make], jackets()[jacket]
    except KeyError as why:
        raise InputError.of("catalog.catalogue-has-no", name=why.args[0]) from None
    tabled = make_.resistance_ohm_km.get(metal, {}).get(round(size.area_mm2, 4))
    if tabled is not None:
        ohm, source = tabled / 1000, make_.source
    else:
        ohm = metal_.rho20_ohm_m * make_.lay / (size.area_mm2 * 1e-6)
        source = f"ρ·lay/A, ρ from {metal_.source}, lay factor {make_.lay:g}"
    bare = math.sqrt(4 * size.area_mm2 / (math.pi * make_.fill))
    outer = bare + 2 * make_.wall_mm(size.area_mm2)
    mass = metal_.density_kg_m3 * size.area_mm2 * 1e-6 * make_.lay
    return Conductor(size, metal_, make_, jacket_, ohm, source, bare, outer, mass)


@lru_cache(maxsize=4096)
def area_of(label: str) -> float:
    """Area in mm² of a size as it is written, 0 for one that is open or can't be read: sizes in the order of sizes."""
    try:
        return parse_size(label).area_mm2
    except InputError:
        return 0.0
