"""What each stage paints on the picture: a colour, a dash and a short text for each segment and end."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtGui import QColor

from umber_trunk.app import theme
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, Load, LoadKind
from umber_trunk.core.harness.way import Method
from umber_trunk.core.prove.redline import Redline
from umber_trunk.core.results import Results
from umber_trunk.core.stages import fetched
from umber_trunk.core.units import show_length, significant
from umber_trunk.core.usual import MET

if TYPE_CHECKING:
    from umber_trunk.core.make.bench_state import Progress


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
    """The second line under an end's name, whether it calls for a look, and how much it does beside others."""

    text: str
    alarm: bool = False
    rank: float = 0.0


@dataclass(frozen=True)
class Story:
    """One stage's painting, with its legend as (colour, text) pairs."""

    limbs: dict[str, Limb]
    leaves: dict[str, Leaf]
    legend: tuple[tuple[QColor, str], ...]


AMPS_STEPS = (2.0, 10.0, 30.0, 1e9)
HEAT_STEPS = (45.0, 65.0, 85.0, 1e9)
UNITS = {LoadKind.CURRENT: "A", LoadKind.POWER: "W", LoadKind.RESISTANCE: "Ω"}


def tell(
    paints: str,
    design: Design,
    results: Results | None,
    progress: Progress | None = None,
    redline: Redline | None = None,
) -> Story:
    """The painting that `paints` ("module:name" of a function below) makes of a design; without results only what the
    tree itself says. `progress` is that of the build on the bench, `redline` that of the unit being proven."""
    teller: Callable[[_Figures], Story] = fetched(paints)
    return teller(_Figures(index_of(design), results, progress, redline))


class _Figures:
    """Per segment sums that the stages share."""

    def __init__(
        self, index: Index, results: Results | None, progress: Progress | None = None, redline: Redline | None = None
    ) -> None:
        self.index, self.results, self.progress, self.redline = index, results, progress, redline
        self.bundle_mm: dict[str, float] = {}
        self.hottest: dict[str, float] = {}
        self.wires = results.figures.wires if results else {}
        self.loads_at: dict[str, list[Load]] = {}
        for load in index.design.loads:
            for end in {load.plus.end, load.minus.end}:
                self.loads_at.setdefault(end, []).append(load)
        if results is None:
            return
        heat, case = results.figures.solution.heat, results.figures.solution.cases
        hot = np.max([one.pair_c for one in case], axis=0) if len(heat.wire) else np.zeros(0)
        bundles = np.full(len(heat.bundles.segment), 0.0)
        np.maximum.at(bundles, heat.bundle, hot)
        for number, segment in enumerate(heat.bundles.segment):
            if segment:
                self.bundle_mm[segment] = 2e3 * float(heat.bundles.radius_m[number])
                self.hottest[segment] = float(bundles[number])

    def amps(self, wires: list[str]) -> float:
        """Sum of the feed currents in a segment, halved there and back."""
        return sum(self.wires[w].amps for w in wires if w in self.wires) / 2

    def used(self, wires: list[str]) -> float | None:
        """Worst among wires: broken ones by their own part, others by their use; None where no wire's size is known."""
        return max((self.wires[w].guilt for w in wires if w in self.wires and self.wires[w].size_known), default=None)

    def limb(self, segment: str, colour: QColor, text: str, dashed: bool = False, alarm: bool = False) -> Limb:
        """A segment with its bundle; an empty one says nothing."""
        count = len(self.index.contents[segment])
        return Limb(colour, self.bundle_mm.get(segment, 0.0), count, text, dashed, alarm)

    def open_limb(self, segment: str) -> Limb:
        """A segment of which nothing is known yet."""
        return self.limb(segment, theme.INK_SOFT, "")


def needs_figures(story: Callable[[_Figures], Story]) -> Callable[[_Figures], Story]:
    """A story that is told of figures: while they are worked out nothing is said of a segment, least of all 0."""

    @wraps(story)
    def told(figures: _Figures) -> Story:
        if figures.results is not None:
            return story(figures)
        limbs = {segment: figures.open_limb(segment) for segment in figures.index.contents}
        return Story(limbs, _leaves(figures), ((theme.INK_SOFT, tr("figures are being worked out")),))

    return told


def _step(steps: tuple[float, ...], value: float) -> int:
    return next(at for at, most in enumerate(steps) if value <= most)


@needs_figures
def amps_story(figures: _Figures) -> Story:
    """Needs: what current each segment brings."""
    shades = theme.amps_shades()
    limbs = {}
    for segment, wires in figures.index.contents.items():
        amps = figures.amps(wires)
        limbs[segment] = figures.limb(
            segment, shades[_step(AMPS_STEPS, amps)], f"{significant(amps, 2)} A" if wires else ""
        )
    texts = (tr("to 2 A"), tr("to 10 A"), tr("to 30 A"), tr("over 30 A"))
    return Story(limbs, _leaves(figures, judged=True), tuple(zip(shades, texts, strict=True)))


def measure_story(figures: _Figures) -> Story:
    """Runs: how each length is known."""
    limbs = {}
    for segment in figures.index.contents:
        measure = figures.index.segments[segment].measure
        none = measure.length_m == 0
        loose = none or measure.method in (Method.GUESS, Method.STATED)
        colour = theme.BROKEN if none else theme.TIGHT if loose else theme.GOOD
        limbs[segment] = figures.limb(segment, colour, show_length(measure.length_m), dashed=loose, alarm=none)
    legend = (
        (theme.GOOD, tr("measured")),
        (theme.TIGHT, tr("guessed or from a list")),
        (theme.BROKEN, tr("no length")),
    )
    return Story(limbs, _leaves(figures), legend)


@needs_figures
def covers_story(figures: _Figures) -> Story:
    """Runs: what covers each segment, and how thick it is then."""
    limbs = {}
    assert figures.results is not None
    plans = figures.results.once(fetched("core.covers.dress:dressed"))
    for segment in figures.index.contents:
        plan = plans.get(segment)
        covers = plan.covers if plan else ()
        wrong = any(not one.ok for one in covers)
        colour = theme.BROKEN if wrong else theme.GOOD if covers else theme.INK_SOFT
        words = ", ".join(dict.fromkeys(one.kind.value for one in covers))
        text = (
            f"{words} ⌀{plan.outside_mm:.0f}" + (" ✕" if wrong else "")
            if plan and covers
            else f"⌀{plan.outside_mm:.0f}"
            if plan
            else ""
        )
        limbs[segment] = figures.limb(segment, colour, text, dashed=not covers, alarm=wrong)
    legend = ((theme.GOOD, tr("covered")), (theme.INK_SOFT, tr("bare")), (theme.BROKEN, tr("✕ doesn’t pass or grip")))
    return Story(limbs, _leaves(figures), legend)


@needs_figures
def margin_story(figures: _Figures) -> Story:
    """Sizes: how much of its worst limit each segment's worst wire uses; volts at the ends."""
    limbs = {}
    for segment, wires in figures.index.contents.items():
        used, mm = figures.used(wires), figures.bundle_mm.get(segment)
        text = f"⌀{mm:.0f}" if wires and mm else ""
        colour = theme.INK_SOFT if used is None else theme.use_color(used)
        limbs[segment] = figures.limb(segment, colour, text, alarm=used is not None and used > MET)
    legend = (
        (theme.GOOD, tr("room to spare")),
        (theme.TIGHT, tr("over 90 % used")),
        (theme.BROKEN, tr("✕ a limit is broken")),
    )
    return Story(limbs, _volts(figures), legend)


@needs_figures
def heat_story(figures: _Figures) -> Story:
    """Sizes, painted by temperature."""
    shades = theme.heat_shades()
    limbs = {}
    for segment, wires in figures.index.contents.items():
        hot = figures.hottest.get(segment)
        limbs[segment] = (
            figures.open_limb(segment)
            if hot is None
            else figures.limb(segment, shades[_step(HEAT_STEPS, hot)], f"{hot:.0f}°" if wires else "")
        )
    texts = ("to 45 °C", "to 65 °C", "to 85 °C", "hotter")
    return Story(limbs, _volts(figures), tuple(zip(shades, texts, strict=True)))


@needs_figures
def ends_story(figures: _Figures) -> Story:
    """Ends: what is open at each end."""
    assert figures.results is not None
    open_at: dict[str, int] = {}
    known: dict[str, int] = {}
    for fit in figures.results.once(fetched("core.ends.fits:fits")):
        known[fit.end] = known.get(fit.end, 0) + 1
        open_at[fit.end] = open_at.get(fit.end, 0) + (not fit.ok)
    limbs = {
        segment: figures.limb(segment, theme.INK_SOFT, f"{len(wires)} w" if wires else "")
        for segment, wires in figures.index.contents.items()
    }
    leaves = {}
    for end in figures.index.design.ends:
        wrong = open_at.get(end.id, 0)
        text = tr("{wrong} to mend ✕", wrong=wrong) if wrong else tr("fits") if known.get(end.id) else tr("no parts")
        leaves[end.id] = Leaf(text, bool(wrong), float(wrong))
    return Story(limbs, leaves, ((theme.GOOD, tr("fits")), (theme.BROKEN, tr("✕ something doesn’t fit"))))


@needs_figures
def kit_story(figures: _Figures) -> Story:
    """Kit: what lies in each segment."""
    limbs = {}
    for segment, wires in figures.index.contents.items():
        mm = figures.bundle_mm.get(segment)
        text = f"{len(wires)} w" + (f"  ⌀{mm:.0f}" if mm else "")
        limbs[segment] = figures.limb(segment, theme.INK_SOFT, text if wires else "")
    return Story(limbs, _leaves(figures), ((theme.INK_SOFT, tr("wires in it, bundle in mm")),))


def make_story(figures: _Figures) -> Story:
    """Make: how far the wires of each segment and each end are, over all units of the build on the bench."""
    progress = figures.progress
    if progress is None:
        return kit_story(figures)

    def counted(names: set[str]) -> tuple[int, int]:
        rows = [progress.wires[name] for name in names if name in progress.wires]
        return sum(row[0] for row in rows), sum(row[1] for row in rows)

    def shade(done: int, whole: int) -> QColor:
        return theme.GOOD if whole and done == whole else theme.TIGHT if done else theme.INK_SOFT

    limbs = {}
    for segment, wires in figures.index.contents.items():
        names = set(wires) | {figures.index.wires[w].cable or "" for w in wires if w in figures.index.wires}
        done, whole = counted(names)
        limbs[segment] = figures.limb(
            segment, shade(done, whole), f"{100 * done // whole} %" if whole else "", dashed=not done
        )
    leaves = {}
    for end in figures.index.design.ends:
        done, whole = progress.ends.get(end.id, (0, 0))
        leaves[end.id] = Leaf(
            ""
            if not whole
            else tr("done ✓")
            if done == whole
            else tr("{done} of {whole} steps").format(done=done, whole=whole)
        )
    legend = ((theme.GOOD, tr("made")), (theme.TIGHT, tr("in the making")), (theme.INK_SOFT, tr("not begun")))
    return Story(limbs, leaves, legend)


STATES = {
    "tested": word("tested"),
    "failed": word("✕ failed"),
    "in": word("in, or partly tested"),
    "left": word("left"),
}
"""What a wire's redline says."""


def prove_story(figures: _Figures) -> Story:
    """Prove: the redline, what is tested, in, failed, left; before a unit is chosen, all is left."""
    states = figures.redline.states if figures.redline is not None else {}
    asked = figures.redline.ends if figures.redline is not None else ()
    colours = {"tested": theme.GOOD, "failed": theme.BROKEN, "in": theme.TIGHT, "left": theme.INK_SOFT}

    def looked_at(wires: list[str]) -> tuple[str, int, int]:
        """(the worst state, how many are tested, how many failed)."""
        mine = [states.get(wire, "left") for wire in wires]
        worst = next((state for state in ("failed", "left", "in") if state in mine), "tested" if mine else "left")
        return worst, mine.count("tested"), mine.count("failed")

    limbs = {}
    for segment, wires in figures.index.contents.items():
        state, done, bad = looked_at(wires)
        text = f"{bad} ✕" if bad else f"{done}/{len(wires)}" if wires else ""
        if spare := sum(figures.index.wires[wire].spare for wire in wires):
            text += tr(" · {spare} spare", spare=spare)
        shown = "in" if done and state == "left" else state  # begun is shown as begun
        limbs[segment] = figures.limb(segment, colours[shown], text, dashed=not done and not bad, alarm=bool(bad))
    leaves = {}
    for end in figures.index.design.ends:
        mine = figures.index.wires_at.get(end.id, [])
        state, done, _ = looked_at(mine)
        text = (
            tr(STATES["failed"])
            if state == "failed"
            else tr("tested ✓")
            if state == "tested"
            else tr("{done} of {count}", done=done, count=len(mine))
        )
        if end.id in asked:
            text = tr("probe here")
        leaves[end.id] = Leaf(
            text if mine or end.id in asked else "", state == "failed", 1.0 if end.id in asked else 0.0
        )
    legend = tuple((colours[state], tr(STATES[state])) for state in ("tested", "in", "left", "failed"))
    return Story(limbs, leaves, legend)


def keep_story(figures: _Figures) -> Story:
    """Keep: the redline of the unit that is looked at, and what was measured and done at its ends."""
    if figures.redline is None:
        return kit_story(figures)
    proven = prove_story(figures)
    leaves = {
        end: Leaf(*said) if (said := figures.redline.said.get(end)) is not None and not leaf.alarm else leaf
        for end, leaf in proven.leaves.items()
    }
    return Story(proven.limbs, leaves, proven.legend)


def _leaves(figures: _Figures, judged: bool = False) -> dict[str, Leaf]:
    """What each end draws or gives; `judged`: ends whose load isn't served call for a look."""
    found = figures.results.figures.loads if figures.results else {}
    supplies = {supply.plus.end: supply for supply in reversed(figures.index.design.supplies)}
    leaves = {}
    for end in figures.index.design.ends:
        loads = figures.loads_at.get(end.id)
        if not loads:
            leaves[end.id] = Leaf(f"{supplies[end.id].volts:g} V" if end.id in supplies else "")
            continue
        first = max(loads, key=lambda load: load.value)
        more = f" +{len(loads) - 1}" if len(loads) > 1 else ""
        alarm = judged and any(load.id in found and not found[load.id].ok for load in loads)
        leaves[end.id] = Leaf(f"{significant(first.value, 2)} {UNITS[first.kind]}{more}", alarm)
    return leaves


def _volts(figures: _Figures) -> dict[str, Leaf]:
    """What arrives at each end, the worst load of several; elsewhere as `_leaves`."""
    leaves = _leaves(figures)
    found = figures.results.figures.loads if figures.results else {}
    for end, loads in figures.loads_at.items():
        known = [found[load.id] for load in loads if load.id in found]
        if known and end in leaves:
            worst = max(known, key=lambda entry: entry.used)
            mark = "" if worst.ok else " ✕"
            text = f"{worst.volts:.1f} V{mark}" if math.isfinite(worst.volts) else "unfed ✕"
            leaves[end] = Leaf(text, not worst.ok, worst.used)
    return leaves
