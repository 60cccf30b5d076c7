"""What else stands round a bundle: thin air, a conduit, the sun, turns on a reel. Arrays over bundles (s,)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.constants import EMISSIVITY_JACKET, STEFAN_BOLTZMANN, ZERO_C_K
from umber_trunk.core.physics.film import air_properties, surface_rise_k

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]

CONDUIT_WIDTH = 1.6
"""Bore of a conduit over the bundle in it: about 40 % filled, the usual most (IEC 60364-5-52, NEC chapter 9)."""
REEL_SHARE = (1.0, 0.85, 0.65, 0.45, 0.35)
"""Current that a cable on a reel carries over that of one laid out, by layers (IEC 60204-1, table 7)."""
SUN_ABSORBED = 0.9


def pressure_share(altitude_m: Floats | float) -> Floats:
    """Air pressure over that at the sea (ISO 2533): 0.785 at 2 000 m."""
    result: Floats = (1 - 2.25577e-5 * np.asarray(altitude_m, dtype=float)) ** 5.2559
    return result


@dataclass(frozen=True)
class Surroundings:
    """The facts of one run or stretch."""

    enclosed: bool = False
    coiled_layers: int = 0
    sun_w_m2: float = 0.0
    altitude_m: float = 0.0


OPEN_AIR = Surroundings()


@dataclass(frozen=True)
class Outside:
    """The same as columns: pressure over that at the sea, in conduit or not, share of the current a reel leaves,
    sun on the jackets [W/m²]."""

    pressure: Floats
    enclosed: Flags
    reel: Floats
    sun_w_m2: Floats

    @classmethod
    def of(cls, rows: list[Surroundings]) -> Outside:
        """The columns for these stretches."""
        return cls(
            pressure_share(np.array([row.altitude_m for row in rows])), np.array([row.enclosed for row in rows], dtype=bool),
            np.array([REEL_SHARE[row.coiled_layers] for row in rows]), np.array([row.sun_w_m2 for row in rows]),
        )  # fmt: skip

    @property
    def plain(self) -> bool:
        """Whether nothing stands out: open air at the sea, in the shade."""
        return bool(
            np.all(self.pressure == 1)
            and not self.enclosed.any()
            and np.all(self.reel == 1)
            and not self.sun_w_m2.any()
        )

    def at(self, rows: NDArray[np.intp]) -> Outside:
        """The columns of some bundles."""
        return Outside(self.pressure[rows], self.enclosed[rows], self.reel[rows], self.sun_w_m2[rows])


def rim_rise_k(
    watts: Floats,
    outer_m: Floats,
    ambient_c: Floats,
    rim_share: Floats | float,
    air_m_s: Floats | float,
    outside: Outside | None,
) -> Floats:
    """Rise over ambient of a bundle's outside that gives off `watts` [W/m] over rim_share of its circle.

    In a conduit the heat crosses a still gap by conduction and radiation between two cylinders, then leaves the
    conduit; on a reel the rise goes with one over the square of the current share.
    """
    if outside is None or outside.plain:
        return surface_rise_k(watts / rim_share, 2 * outer_m, ambient_c, air_m_s)
    open_air = surface_rise_k(watts / rim_share, 2 * outer_m, ambient_c, air_m_s, outside.pressure)
    rise = np.where(outside.enclosed, _conduit_rise_k(watts, outer_m, ambient_c, outside.pressure), open_air)
    result: Floats = rise / np.square(outside.reel)
    return result


def _conduit_rise_k(watts: Floats, outer_m: Floats, ambient_c: Floats, pressure: Floats) -> Floats:
    wall = surface_rise_k(watts, 2 * outer_m * CONDUIT_WIDTH, ambient_c, 0.0, pressure)
    gap = np.zeros_like(wall)
    shape = 1 / (1 / EMISSIVITY_JACKET + (1 / EMISSIVITY_JACKET - 1) / CONDUIT_WIDTH)
    for _ in range(8):
        middle = ambient_c + wall + gap / 2
        conducted = 2 * np.pi * air_properties(middle)[0] / np.log(CONDUIT_WIDTH)
        radiated = 2 * np.pi * outer_m * 4 * shape * STEFAN_BOLTZMANN * (middle + ZERO_C_K) ** 3
        gap = np.minimum(watts / (conducted + radiated), 2000.0)
    result: Floats = wall + gap
    return result


def sun_rise_k(
    watts: Floats,
    outer_m: Floats,
    ambient_c: Floats,
    rim_share: Floats | float,
    air_m_s: Floats | float,
    outside: Outside | None,
) -> Floats | float:
    """What the sun on its width adds to a bundle's rise; nothing in a conduit that isn't itself the sunlit thing."""
    if outside is None or not outside.sun_w_m2.any():
        return 0.0
    taken = SUN_ABSORBED * outside.sun_w_m2 * 2 * outer_m
    sunlit = rim_rise_k(watts + taken, outer_m, ambient_c, rim_share, air_m_s, outside)
    result: Floats = sunlit - rim_rise_k(watts, outer_m, ambient_c, rim_share, air_m_s, outside)
    return result
