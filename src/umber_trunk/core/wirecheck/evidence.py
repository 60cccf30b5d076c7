"""What was read off a cable, each reading with its standard deviation, and what a cable of given make would read.

Masses in kg, lengths in m, diameters in mm, resistances in Ω, temperatures in °C; areas are of the metal, in mm².
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Make, Metal, Size, makes, metals
from umber_trunk.core.errors import InputError
from umber_trunk.core.physics.constants import JACKET_DENSITY_KG_M3

Floats = NDArray[np.float64]

MASS_SHARE, MASS_LEAST_KG = 0.003, 0.0005
"""One standard deviation of a kitchen scale: its share, and the least of it."""
SAMPLE_SHARE, SAMPLE_LEAST_M = 0.001, 0.002
"""Of a length cut off and measured by tape."""
OUTER_MM, BUNDLE_SHARE = 0.1, 0.03
"""Of an outside diameter by calliper; of a bundle's, which is squeezed, as a share."""
STRAND_LEAST_MM, STRAND_SHARE = 0.003, 0.01
"""Of a strand by micrometer."""
OHM_SHARE = 0.01
"""Of a four-wire meter."""
WARMTH_K, GUESSED_K = 0.5, 4.0
"""Of a thermometer, and of a warmth nobody measured."""

LAY_SHARE, FILL_SHARE, WALL_SHARE = 0.008, 0.03, 0.2
"""How far a make is off its own figures, one standard deviation: its lay, how full its bundle is, its wall."""
RESISTIVITY_SHARE = 0.01
"""The same of a metal's resistivity."""
DENSITY_SHARE = {"cca10": 0.02, "cca15": 0.02}
"""Density of clad metal, whose copper varies."""
PURE_DENSITY_SHARE = 0.005
"""Of a metal that is one."""
JACKET_SHARE = 0.15
"""Density of a jacket: from polyethylene to rubber."""


@dataclass(frozen=True)
class Reading:
    """A figure as read and its standard deviation."""

    value: float
    sd: float


@dataclass(frozen=True)
class Evidence:
    """Everything known of a coil. `sample_m` is the length that was weighed and measured; `weighed` is "bare" (the
    strands alone), "jacketed", or "" where nobody said. `coil_ohm` and `coil_kg` are of the whole coil, sold as
    `sold_m`."""

    sample_m: Reading | None = None
    mass_kg: Reading | None = None
    weighed: str = ""
    outer_mm: Reading | None = None
    bundle_mm: Reading | None = None
    strands: int | None = None
    strand_mm: Reading | None = None
    ohm: Reading | None = None
    ambient_c: Reading = field(default_factory=lambda: Reading(20.0, GUESSED_K))
    claim: Size | None = None
    claim_metal: str = ""
    sold_m: float | None = None
    coil_ohm: Reading | None = None
    coil_kg: Reading | None = None

    def __post_init__(self) -> None:
        if (self.mass_kg or self.ohm) and self.sample_m is None:
            raise InputError.of("wirecheck.say-how-long-piece")
        if (self.strands is None) != (self.strand_mm is None):
            raise InputError.of("wirecheck.strands-are-said-with-their-diameter")

    @property
    def kinds(self) -> tuple[str, ...]:
        """Which readings there are, by their name."""
        known = {"mass": self.mass_kg, "od": self.outer_mm, "bundle": self.bundle_mm, "strands": self.strand_mm, "resistance": self.ohm}  # fmt: skip
        return tuple(name for name, reading in known.items() if reading is not None)


@dataclass(frozen=True)
class Guess:
    """One kind of cable it might be, by its catalogue figures."""

    metal: Metal
    make: Make
    weighed: str


def guesses(evidence: Evidence) -> list[Guess]:
    """Every metal in every make; where a mass was read and nobody said whether with the jacket, both."""
    ways = (evidence.weighed,) if evidence.weighed else ("bare", "jacketed") if evidence.mass_kg else ("bare",)
    return [Guess(metal, make, way) for metal in metals().values() for make in makes().values() for way in ways]


NAMES = ("area", "lay", "fill", "wall", "jacket", "resistivity", "density")
"""The unknowns of a cable, all as logarithms, in the order of a row of them."""


def priors(guess: Guess, area_mm2: float) -> tuple[Floats, Floats]:
    """(means, standard deviations) of the unknowns of a guess; nothing is known of its area."""
    metal, make = guess.metal, guess.make
    means = np.log(
        [
            area_mm2,
            make.lay,
            make.fill,
            make.wall_mm(area_mm2),
            JACKET_DENSITY_KG_M3,
            metal.rho20_ohm_m,
            metal.density_kg_m3,
        ]
    )
    dense = DENSITY_SHARE.get(metal.id, PURE_DENSITY_SHARE)
    return means, np.array([np.inf, LAY_SHARE, FILL_SHARE, WALL_SHARE, JACKET_SHARE, RESISTIVITY_SHARE, dense])


def predicted(unknown: Floats, jacketed: NDArray[np.bool_]) -> dict[str, Floats]:
    """Logarithms of what cables would read, one per row of unknowns: kg/m, mm, mm, mm² of all strands, Ω/m at 20 °C."""
    area, lay, fill, wall, jacket, rho, dense = unknown.T
    bundle = np.sqrt(4 * np.exp(area - fill) / math.pi)
    outer = bundle + 2 * np.exp(wall)
    metal_kg = np.exp(dense + area + lay) * 1e-6
    jacket_kg = np.exp(jacket) * math.pi / 4 * (outer**2 - bundle**2) * 1e-6
    return {
        "mass": np.log(metal_kg + np.where(jacketed, jacket_kg, 0.0)),
        "od": np.log(outer),
        "bundle": np.log(bundle),
        "strands": area,
        "resistance": rho + lay - area + math.log(1e6),
    }


def readings(evidence: Evidence, alpha_per_k: float = 0.0039) -> dict[str, tuple[float, float]]:
    """Each reading as its logarithm per metre, resistance brought to 20 °C, with its standard deviation."""
    found: dict[str, tuple[float, float]] = {}
    sample = evidence.sample_m
    share = sample.sd / sample.value if sample else 0.0
    if evidence.mass_kg is not None and sample is not None:
        found["mass"] = _log(evidence.mass_kg, share, -math.log(sample.value))
    if evidence.outer_mm is not None:
        found["od"] = _log(evidence.outer_mm)
    if evidence.bundle_mm is not None:
        found["bundle"] = _log(evidence.bundle_mm)
    if evidence.strands is not None and evidence.strand_mm is not None:
        one = evidence.strand_mm
        found["strands"] = (math.log(evidence.strands * math.pi / 4 * one.value**2), 2 * one.sd / one.value)
    if evidence.ohm is not None and sample is not None:
        warm = 1 + alpha_per_k * (evidence.ambient_c.value - 20)
        heat = alpha_per_k * evidence.ambient_c.sd
        found["resistance"] = _log(evidence.ohm, math.hypot(share, heat), -math.log(sample.value * warm))
    return found


def _log(reading: Reading, more: float = 0.0, shift: float = 0.0) -> tuple[float, float]:
    return math.log(reading.value) + shift, math.hypot(reading.sd / reading.value, more)
