"""What each stage paints on the picture: a colour, a dash and a short text for each segment and end."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtGui import QColor

from umber_trunk.app import theme
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, LoadKind, Method
from umber_trunk.core.results import Results
from umber_trunk.core.units import show_length, significant


@dataclass(frozen=True)
class Limb:
    """How one segment is painted: thickness in mm of bundle, colour, dashes, the text beside it."""

    colour: QColor
    bundle_mm: float
    wires: int
    text: str
    dashed: bool = False
    alarm: bool = False


@dataclass(frozen=True)
class Leaf:
    """The second line under an end's name, and whether it calls for a look."""

    text: str
    alarm: bool = False


@dataclass(frozen=True)
class Story:
    """One stage's painting, with its legend as (colour, text) pairs."""

    limbs: dict[str, Limb]
    leaves: dict[str, Leaf]
    legend: tuple[tuple[QColor, str], ...]


AMPS_STEPS = ((2.0, "#b9a48f"), (10.0, "#937256"), (30.0, "#6d4a30"), (1e9, "#3d2416"))
HEAT_STEPS = ((45.0, "#2f7f73"), (65.0, "#8aa05a"), (85.0, "#c58a17"), (1e9, "#b03a24"))


def tell(stage: str, design: Design, analysis: Results | None, paint: str = "margin") -> Story:
    """The painting of a stage; without figures yet only what the tree itself says. `paint` chooses
    margin or temperature on the Sizes stage."""
    index = index_of(design)
    figures = _Figures(index, analysis)
    tellers = {"needs": _needs, "runs": _runs, "kit": _kit}
    teller = tellers.get(stage, _heat if paint == "heat" else _sizes)
    limbs, legend = teller(index, figures)
    return Story(limbs, {end.id: _leaf(index, figures, end.id, stage) for end in design.ends}, legend)


class _Figures:
    """Per segment sums that the stages share."""

    def __init__(self, index: Index, analysis: Results | None) -> None:
        self.analysis = analysis
        self.bundle_mm: dict[str, float] = {}
        self.hottest: dict[str, float] = {}
        if analysis is None:
            return
        heat, case = analysis.figures.solution.heat, analysis.figures.solution.cases
        hot = np.max([one.pair_c for one in case], axis=0) if len(heat.wire) else np.zeros(0)
        for number, segment in enumerate(heat.bundles.segment):
            if segment:
                self.bundle_mm[segment] = 2e3 * float(heat.bundles.radius_m[number])
                inside = hot[heat.bundle == number]
                self.hottest[segment] = float(inside.max(initial=0.0))

    def amps(self, wires: list[str]) -> float:
        """Sum of the feed currents in a segment, halved there and back."""
        if self.analysis is None:
            return 0.0
        table = self.analysis.figures.wires
        return sum(table[w].amps for w in wires if w in table) / 2

    def used(self, wires: list[str]) -> float:
        """Worst rank among wires: broken ones by their own part, others by their use."""
        if self.analysis is None:
            return 0.0
        table = self.analysis.figures.wires
        return max((guilt(table[w]) for w in wires if w in table), default=0.0)


def guilt(figure: object) -> float:
    """How badly a wire is used, from its rank: over 1 only when it is a culprit itself."""
    broken, worst = figure.rank  # type: ignore[attr-defined]
    return -broken if -broken > 1 else min(-worst, 1.0)


def _base(index: Index, figures: _Figures, segment: str) -> tuple[float, int]:
    return figures.bundle_mm.get(segment, 0.0), len(index.contents[segment])


Painted = tuple[dict[str, Limb], tuple[tuple[QColor, str], ...]]


def _needs(index: Index, figures: _Figures) -> Painted:
    limbs = {}
    for segment, wires in index.contents.items():
        mm, count = _base(index, figures, segment)
        amps = figures.amps(wires)
        colour = QColor(next(c for most, c in AMPS_STEPS if amps <= most))
        limbs[segment] = Limb(colour, mm, count, f"{significant(amps, 2)} A" if count else "")
    texts = ("to 2 A", "to 10 A", "to 30 A", "over 30 A")
    return limbs, tuple((QColor(c), t) for (_, c), t in zip(AMPS_STEPS, texts, strict=True))


def _runs(index: Index, figures: _Figures) -> Painted:
    limbs = {}
    for segment, wires in index.contents.items():
        mm, _ = _base(index, figures, segment)
        measure = index.segments[segment].measure
        loose = measure.method in (Method.GUESS, Method.STATED) or measure.length_m == 0
        colour = theme.OXIDE if measure.length_m == 0 else theme.OCHRE if loose else theme.VERDIGRIS
        limbs[segment] = Limb(
            colour,
            mm,
            len(wires),
            show_length(measure.length_m),
            dashed=loose,
            alarm=measure.length_m == 0,
        )
    return limbs, (
        (theme.VERDIGRIS, "measured"), (theme.OCHRE, "guessed or from a list"), (theme.OXIDE, "no length"),
    )  # fmt: skip


def _sizes(index: Index, figures: _Figures) -> Painted:
    limbs = {}
    for segment, wires in index.contents.items():
        mm, count = _base(index, figures, segment)
        used = figures.used(wires)
        limbs[segment] = Limb(theme.use_color(used), mm, count, f"⌀{mm:.0f}" if count else "", alarm=used > 1 + 1e-6)
    return limbs, (
        (theme.VERDIGRIS, "room to spare"), (theme.OCHRE, "over 90 % used"), (theme.OXIDE, "✕ a limit is broken"),
    )  # fmt: skip


def _heat(index: Index, figures: _Figures) -> Painted:
    limbs = {}
    for segment in index.contents:
        mm, count = _base(index, figures, segment)
        hot = figures.hottest.get(segment, 0.0)
        colour = QColor(next(c for most, c in HEAT_STEPS if hot <= most))
        limbs[segment] = Limb(colour, mm, count, f"{hot:.0f}°" if count else "")
    texts = ("to 45 °C", "to 65 °C", "to 85 °C", "hotter")
    return limbs, tuple((QColor(c), t) for (_, c), t in zip(HEAT_STEPS, texts, strict=True))


def _kit(index: Index, figures: _Figures) -> Painted:
    limbs = {}
    for segment in index.contents:
        mm, count = _base(index, figures, segment)
        limbs[segment] = Limb(theme.UMBER_SOFT, mm, count, f"{count} w  ⌀{mm:.0f}" if count else "")
    return limbs, ((theme.UMBER_SOFT, "wires in it, bundle in mm"),)


def _leaf(index: Index, figures: _Figures, end: str, stage: str) -> Leaf:
    loads = [load for load in index.design.loads if end in (load.plus.end, load.minus.end)]
    found = figures.analysis.figures.loads if figures.analysis else {}
    if not loads:
        supply = next((s for s in index.design.supplies if s.plus.end == end), None)
        return Leaf(f"{supply.volts:g} V" if supply else "")
    if stage == "sizes" and any(load.id in found for load in loads):
        worst = max((found[load.id] for load in loads if load.id in found), key=lambda e: e.used)
        mark = "" if worst.ok else " ✕"
        return Leaf(f"{worst.volts:.1f} V{mark}" if np.isfinite(worst.volts) else "unfed ✕", not worst.ok)
    alarm = any(load.id in found and not found[load.id].ok for load in loads)
    units = {LoadKind.CURRENT: "A", LoadKind.POWER: "W", LoadKind.RESISTANCE: "Ω"}
    first = max(loads, key=lambda load: load.value)
    more = f" +{len(loads) - 1}" if len(loads) > 1 else ""
    return Leaf(f"{significant(first.value, 2)} {units[first.kind]}{more}", alarm and stage == "needs")
