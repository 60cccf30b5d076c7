"""The words a wire may be specified with, and what each stands for."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.catalog.conductors import Jacket, Make, Metal, jackets, makes, metals


@dataclass(frozen=True)
class WireWord:
    """One word for a size cell: a metal, a make or a jacket. `stands` says what it bears, `weak` what it doesn't."""

    word: str
    kind: str
    name: str
    stands: str
    weak: str
    source: str


def wire_words() -> list[WireWord]:
    """All bundled metals, makes and jackets."""
    return [
        *(_metal(metal) for metal in metals().values()),
        *(_make(make) for make in makes().values()),
        *(_jacket(jacket) for jacket in jackets().values()),
    ]


def _metal(metal: Metal) -> WireWord:
    share = metal.rho20_ohm_m / metals()["copper"].rho20_ohm_m
    weak = (
        "moving, crimps under 10 mm²"
        if metal.id in ("cca10", "cca15", "aluminium")
        else "wet ends"
        if metal.id == "copper"
        else ""
    )
    stands = f"{100 * share:.0f} % of copper’s resistance, {metal.density_kg_m3 / 1000:.2f} kg/dm³"
    return WireWord(metal.id, "metal", metal.name, stands, weak, metal.source)


def _make(make: Make) -> WireWord:
    weak = "shaking, flexing" if make.strand_mm >= 0.35 else ""
    stands = f"strands of {make.strand_mm:g} mm, lay factor {make.lay:g}"
    return WireWord(make.id, "make", make.name, stands, weak, make.source)


def _jacket(jacket: Jacket) -> WireWord:
    bears = {"oil": jacket.oil, "sun": jacket.uv, "hot metal": jacket.hot_metal}
    stands = [
        f"{jacket.limit_c:g} °C, {jacket.short_c:g} °C for a short time",
        f"flexes down to {jacket.cold_flex_c:g} °C",
    ]
    stands += [name for name, held in bears.items() if held]
    weak = ", ".join(name for name, held in bears.items() if not held)
    source = "usual compound; temperature classes as ISO 6722-1 and IEC 60502; the maker's sheet decides"
    return WireWord(jacket.id, "jacket", jacket.name, ", ".join(stands), weak, source)
