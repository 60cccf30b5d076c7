"""What a coil is: its true area with its ±, the probability of each metal, and whether that is what it is sold as.

Every metal in every make is fitted to the readings by least squares, its own figures as soft readings of what they
usually are (Gauss and Newton, in logarithms). How well each explains the readings, by Laplace's approximation, weighs
the answers.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from scipy.special import chdtrc

from umber_trunk.core.catalog.conductors import makes, metals, show_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.sentences import NOTHING, Message, joined
from umber_trunk.core.wirecheck.evidence import (
    BUNDLE_SHARE,
    MASS_SHARE,
    OHM_SHARE,
    SAMPLE_SHARE,
    STRAND_SHARE,
    Evidence,
    predicted,
    priors,
    readings,
)
from umber_trunk.core.wirecheck.fitting import Fitted, all_fits, below, between, least_squares, mixed

FAMILIES = {"copper": "copper", "tinned": "copper", "cca10": "copper-clad aluminium", "cca15": "copper-clad aluminium", "aluminium": "aluminium"}  # fmt: skip
FAMILY_CODES = {"copper": "copper", "copper-clad aluminium": "copper-clad", "aluminium": "aluminium"}
"""Each family as sentences have it, under `metal`."""
SURE, LIKELY = 0.95, 0.9
"""A family of metals is said from such a probability on, and an area from such."""
ACCUSED = 0.03
"""A coil is said not to be what it is sold as where it would be that so seldom."""
CONTRADICTION = 0.005
"""Readings that agree this seldom by chance don't belong to one cable."""
LENGTHS_APART = 3.5
"""Standard deviations beyond which two lengths of one coil contradict each other."""
SLACK = 0.98
"""What a size may fall short of its sheet and still be called that size."""
USUAL_SHARES = {"mass": math.hypot(MASS_SHARE, SAMPLE_SHARE), "od": 0.01, "bundle": BUNDLE_SHARE, "strands": 2 * STRAND_SHARE, "resistance": math.hypot(OHM_SHARE, SAMPLE_SHARE)}  # fmt: skip
"""What each kind of reading is usually off by, as a share: what else to measure is chosen by it."""


@dataclass(frozen=True)
class Line:
    """One reading as seen by the likeliest guess: what was read, what that would read, how many standard deviations
    apart. Per metre where it is of a length; `area_mm2` is what the reading alone says for that metal, None where it
    says too little."""

    kind: str
    read: float
    expected: float
    sigmas: float
    area_mm2: float | None
    area_sd_mm2: float | None


@dataclass(frozen=True)
class Judged:
    """The answer. `claimed` is True, False, or None for "can't tell"; `low_mm2` and `high_mm2` hold the area in 95 of
    100 cases; `gains` are the bits each further reading would tell."""

    area_mm2: float
    area_sd_mm2: float
    low_mm2: float
    high_mm2: float
    metals: dict[str, float]
    families: dict[str, float]
    consistent: bool
    odd: str
    claimed: bool | None
    least_mm2: float | None
    verdict: Message
    next_reading: Message
    gains: dict[str, float]
    length_m: float | None
    length_sd_m: float | None
    length_said: Message
    lines: tuple[Line, ...]
    fits: tuple[Fitted, ...]

    @property
    def metal(self) -> str:
        """The likeliest metal's id."""
        return max(self.metals, key=lambda one: self.metals[one])


def judge(evidence: Evidence) -> Judged:
    """The answer for these readings. InputError where there are none that say anything of an area."""
    if not evidence.kinds:
        raise InputError.of("wirecheck.nothing-was-read-yet")
    fits = all_fits(evidence)
    area, sd = mixed(fits)
    low, high = between(fits)
    by_metal = {metal: sum(f.probability for f in fits if f.guess.metal.id == metal) for metal in metals()}
    families = _families(fits)
    consistent = _agree(evidence, fits)
    odd = "" if consistent else _odd_one(evidence)
    gains = _gains(evidence, fits)
    nearest = max(gains, key=lambda kind: gains[kind]) if gains else ""
    bare = sum(f.probability for f in fits if f.guess.weighed == "bare")
    if evidence.mass_kg is not None and not evidence.weighed and 0.05 < bare < 0.95:
        nearest = "weighed"  # costs nothing
    least = _least_mm2(evidence)
    claimed = _claimed(evidence, fits, families, least, consistent)
    if claimed is False and not _accused_either_way(evidence, least):
        claimed = None
    length, length_sd = _coil_m(evidence, fits)
    again = Message.of(f"coil.again.{_read_again(evidence, odd)}") if not consistent else NOTHING
    return Judged(
        area,
        sd,
        low,
        high,
        by_metal,
        families,
        consistent,
        odd,
        claimed,
        least,
        _verdict(evidence, area, sd, families, claimed, again, odd),
        again or (Message.of(f"coil.next.{nearest}") if nearest else NOTHING),
        gains,
        length,
        length_sd,
        _length_said(evidence, length, length_sd, consistent),
        _lines(evidence, fits),
        tuple(fits),
    )


def _families(fits: list[Fitted]) -> dict[str, float]:
    """Family of metal → its probability."""
    found = dict.fromkeys(FAMILIES.values(), 0.0)
    for fit in fits:
        found[FAMILIES[fit.guess.metal.id]] += fit.probability
    return found


def _agree(evidence: Evidence, fits: list[Fitted]) -> bool:
    """Whether the readings can belong to one cable: what is over for judging is one less than there are readings."""
    free = len(evidence.kinds) - 1
    if free < 1:
        return True
    likely = [f.chi2 for f in fits if f.probability > 0.01]
    return float(chdtrc(free, min(likely))) >= CONTRADICTION


def _odd_one(evidence: Evidence) -> str:
    """The reading without which the others agree best; "" where any two contradict each other."""
    drop = {"mass": {"mass_kg": None}, "od": {"outer_mm": None}, "bundle": {"bundle_mm": None}, "strands": {"strands": None, "strand_mm": None}, "resistance": {"ohm": None}}  # fmt: skip
    if len(evidence.kinds) < 3:
        return ""
    best = {}
    for kind in evidence.kinds:
        others = replace(evidence, **drop[kind])  # type: ignore[arg-type]
        fits = all_fits(others)
        if _agree(others, fits):
            best[kind] = fits[0].chi2
    return min(best, key=lambda kind: best[kind]) if best else ""


def _least_mm2(evidence: Evidence) -> float | None:
    """The least area of metal with which the claim holds: a size is what its resistance table says, where there is
    one."""
    claim = evidence.claim
    if claim is None:
        return None
    metal = metals()[evidence.claim_metal or "copper"]
    tabled = [
        metal.rho20_ohm_m * make.lay * 1e6 / (table[claim.area_mm2] / 1000)
        for make in makes().values()
        if claim.area_mm2 in (table := make.resistance_ohm_km.get(metal.id, {}))
    ]
    return SLACK * min([claim.area_mm2, *tabled])


def _claimed(
    evidence: Evidence, fits: list[Fitted], families: dict[str, float], least: float | None, consistent: bool
) -> bool | None:
    """As sold: surely that family of metal and surely enough of it. Not: hardly ever both at once, whatever else it may
    be. Either by readings that agree; else None."""
    family = FAMILIES[evidence.claim_metal or "copper"]
    if least is None or not consistent:
        return None
    as_sold = [f for f in fits if FAMILIES[f.guess.metal.id] == family]
    both = families[family] - (below(as_sold, least) if as_sold else 0.0)
    if both < ACCUSED:
        return False
    return True if families[family] >= SURE and 1 - below(fits, least) >= LIKELY else None


def _accused_either_way(evidence: Evidence, least: float | None) -> bool:
    """Whether a coil is short of its claim bare and with its jacket, where a mass was read and nobody said which; a
    mass alone accuses nobody."""
    if evidence.mass_kg is None or evidence.weighed:
        return True
    if evidence.kinds == ("mass",):
        return False
    if evidence.ohm is not None:
        alone = replace(evidence, mass_kg=None)  # short by all else, whatever was weighed
        fits = all_fits(alone)
        if _claimed(alone, fits, _families(fits), least, _agree(alone, fits)) is False:
            return True
    for weighed in ("bare", "jacketed"):
        one = replace(evidence, weighed=weighed)
        fits = all_fits(one)
        if _agree(one, fits) and _claimed(one, fits, _families(fits), least, True) is not False:
            return False
    return True


def _read_again(evidence: Evidence, odd: str) -> str:
    """Which of readings that contradict each other to read again, or "all": the one that stands out; of two the one
    that alone doesn't bear the claim out, else the ohms, where a decimal slips most easily."""
    kinds = list(evidence.kinds)
    if odd:
        return odd
    if len(kinds) > 2:
        return "all"
    claim = evidence.claim
    if claim is not None:
        best = all_fits(evidence)[0]
        alone = {kind: _fits_alone(best, kind, *seen)[0] for kind, seen in readings(evidence).items()}
        far = [
            kind for kind in kinds if (area := alone.get(kind)) is not None and not 0.5 < area / claim.area_mm2 < 2.0
        ]
        if len(far) == 1:
            return far[0]
    return "resistance" if "resistance" in kinds else kinds[0]


def _verdict(
    evidence: Evidence,
    area: float,
    sd: float,
    families: dict[str, float],
    claimed: bool | None,
    again: Message,
    odd: str,
) -> Message:
    claim = evidence.claim

    def against_claim(found: Message) -> Message:
        if claim is None:
            return found
        metal = Message.of(f"metal.{evidence.claim_metal or 'copper'}")
        return Message.of("coil.sold", size=show_size(claim.label), metal=metal, found=found)

    if again:
        read = [Message.of(f"coil.reading.{kind}") for kind in sorted(evidence.kinds, key=lambda kind: kind != odd)]
        readings = Message.of("any.and", one=joined("any.list", read[:-1]), other=read[-1])
        return against_claim(Message.of("coil.contradiction", readings=readings, pair=len(read) == 2, again=again))
    family = max(families, key=lambda one: families[one])
    metal = Message.of(f"metal.{FAMILY_CODES[family]}")
    if families[family] < LIKELY:
        metal = Message.of("coil.perhaps", metal=metal, percent=100 * families[family])
    digits = 0 if sd >= 1 else 1 if sd >= 0.1 else 2 if sd >= 0.01 else 3
    found = {"area": f"{area:.{digits}f}", "off": f"{max(2 * sd, 10**-digits):.{digits}f}", "metal": metal}
    if claimed is None:
        return against_claim(Message.of("coil.looks-like", yet=claim is not None, **found))
    return against_claim(Message.of("coil.is", sold=claimed, **found))


def _gains(evidence: Evidence, fits: list[Fitted]) -> dict[str, float]:
    """Bits that each reading not yet taken would tell of metal and area, with usual instruments: how much surer the
    guesses become on average, and how much narrower the area."""
    found = {}
    some = [f for f in fits if f.probability > 1e-4]
    weights = np.array([f.probability for f in some])
    weights /= weights.sum()
    kinds = [f.guess for f in some]
    for kind in USUAL_SHARES:
        if kind in evidence.kinds:
            continue
        rows = np.array([f.unknown for f in some])
        jacketed = np.array([g.weighed == "jacketed" for g in kinds])
        mean = predicted(rows, jacketed)[kind]
        spread2 = np.zeros(len(some))
        for col in range(rows.shape[1]):
            moved = rows.copy()
            moved[:, col] += 1e-6
            slope = (predicted(moved, jacketed)[kind] - mean) / 1e-6
            prior = np.array([priors(g, f.area_mm2)[1][col] for g, f in zip(kinds, some, strict=True)])
            width = np.array([f.sd_share for f in some]) if col == 0 else prior
            spread2 += (slope * width) ** 2
        noise2 = USUAL_SHARES[kind] ** 2
        total = np.sqrt(spread2 + noise2)
        grid = np.linspace(float((mean - 5 * total).min()), float((mean + 5 * total).max()), 801)
        density = np.exp(-0.5 * ((grid[:, None] - mean) / total) ** 2) / (total * math.sqrt(2 * math.pi))
        joint = density @ weights
        entropy = -float(np.trapezoid(joint * np.log(np.maximum(joint, 1e-300)), grid))
        inside = float((weights * (np.log(total) + 0.5 * math.log(2 * math.pi * math.e))).sum())
        area2 = np.array([f.sd_share for f in some]) ** 2
        slope_area = 0.5 if kind in ("od", "bundle") else 1.0
        other2 = np.maximum(spread2 - slope_area**2 * area2, 0.0) + noise2
        narrower = float((weights * 0.5 * np.log1p(slope_area**2 * area2 / other2)).sum())
        found[kind] = max(entropy - inside, 0.0) / math.log(2) + narrower / math.log(2)
    return found


def _coil_m(evidence: Evidence, fits: list[Fitted]) -> tuple[float | None, float | None]:
    """Length of the whole coil and its standard deviation: its resistance or mass over what a metre has. With a sample
    of the same coil the metal drops out."""
    found = []
    sample = evidence.sample_m
    for whole, part in ((evidence.coil_ohm, evidence.ohm), (evidence.coil_kg, evidence.mass_kg)):
        if whole is None:
            continue
        if part is not None and sample is not None:
            length = whole.value / part.value * sample.value
            share = math.sqrt(
                (whole.sd / whole.value) ** 2 + (part.sd / part.value) ** 2 + (sample.sd / sample.value) ** 2
            )
        else:
            kind = "resistance" if whole is evidence.coil_ohm else "mass"
            best = fits[0]
            per_m = math.exp(
                float(predicted(best.unknown[None], np.array([best.guess.weighed == "jacketed"]))[kind][0])
            )
            length, share = whole.value / per_m, math.hypot(best.sd_share, 0.02)
        found.append((length, share))
    if not found or _apart_m(found):
        return None, None
    weights = [1 / (length * share) ** 2 for length, share in found]
    mean = sum(w * length for w, (length, _) in zip(weights, found, strict=True)) / sum(weights)
    return mean, 1 / math.sqrt(sum(weights))


def _apart_m(found: list[tuple[float, float]]) -> bool:
    """Whether two lengths of one coil can't both be right."""
    lengths = [length for length, _ in found]
    return len(found) == 2 and abs(lengths[0] - lengths[1]) > LENGTHS_APART * math.hypot(
        *(length * share for length, share in found)
    )


def _length_said(evidence: Evidence, length: float | None, sd: float | None, consistent: bool) -> Message:
    if length is None or sd is None:
        whole = evidence.coil_ohm is not None and evidence.coil_kg is not None
        return Message.of("coil.length.contradicts") if whole else NOTHING
    if not consistent:
        return Message.of("coil.length.piece")
    sold = evidence.sold_m
    short = sold is not None and length + 2 * sd < sold
    return Message.of("coil.length", length=length, off=2 * sd, sold=sold, short=short)


def _lines(evidence: Evidence, fits: list[Fitted]) -> tuple[Line, ...]:
    """Every reading beside what the likeliest guess would read."""
    best = fits[0]
    jacketed = np.array([best.guess.weighed == "jacketed"])
    expected = predicted(best.unknown[None], jacketed)
    found = []
    for kind, (read, sd) in readings(evidence).items():
        y = float(expected[kind][0])
        alone = _fits_alone(best, kind, read, sd)
        found.append(Line(kind, math.exp(read), math.exp(y), (read - y) / sd, *alone))
    return tuple(found)


def _fits_alone(best: Fitted, kind: str, read: float, sd: float) -> tuple[float | None, float | None]:
    """What one reading alone says of the area of a cable of the likeliest kind."""
    x, _, _, spread = least_squares([best.guess], {kind: (read, sd)})
    area = math.exp(float(x[0, 0]))
    return (None, None) if spread[0] > 0.5 else (area, area * float(spread[0]))
