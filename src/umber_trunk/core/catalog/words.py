"""The words a wire may be specified with, and what each stands for."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.catalog.conductors import Jacket, Make, Metal, jackets, makes, metals
from umber_trunk.core.sentences import say


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
    weak = ""
    if metal.id in ("cca10", "cca15", "aluminium"):
        weak = say("wire-word.moving")
    elif metal.id == "copper":
        weak = say("wire-word.wet-ends")
    stands = say("wire-word.metal", share=100 * share, density=metal.density_kg_m3 / 1000)
    return WireWord(metal.id, "metal", metal.name, stands, weak, metal.source)


def _make(make: Make) -> WireWord:
    weak = say("wire-word.shaking") if make.strand_mm >= 0.35 else ""
    stands = say("wire-word.make", strand_mm=make.strand_mm, lay=make.lay)
    return WireWord(make.id, "make", make.name, stands, weak, make.source)


def _jacket(jacket: Jacket) -> WireWord:
    bears = {
        say("wire-word.oil"): jacket.oil,
        say("wire-word.sun"): jacket.uv,
        say("wire-word.hot-metal"): jacket.hot_metal,
    }
    stands = [
        say("wire-word.limit", limit_c=jacket.limit_c, short_c=jacket.short_c),
        say("wire-word.flexes", cold_flex_c=jacket.cold_flex_c),
    ]
    stands += [name for name, held in bears.items() if held]
    weak = ", ".join(name for name, held in bears.items() if not held)
    source = say("wire-word.compound")
    return WireWord(jacket.id, "jacket", jacket.name, ", ".join(stands), weak, source)
