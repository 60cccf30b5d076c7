"""Temperatures in a bundle from its packed cross-section.

The bundle is a disc of radius R and effective conductivity k. Each loaded wire is a line source where
packing put it; the rim gives off heat with the film coefficient h. For that problem the temperature is
known in closed form as a Fourier series (Carslaw and Jaeger, Conduction of Heat in Solids, 2nd ed.,
ch. XIV, with the radiation condition at the rim): with reduced radii ρ, s of point and source and
Bi = h·R/k,

    θ = q/2πk · [ ln(R/|x − y|) + Σ_m (m − Bi)/(m·(m + Bi))·(ρ·s)^m·cos m(φ − ψ) + 1/Bi ]

Bundles of one wire count are solved together: arrays are (s, n) for s bundles of n wires.
Idle wires give no heat; they spread it by making the section wider.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.constants import BUNDLE_W_MK, SLEEVE_W_MK
from umber_trunk.core.physics.film import film_w_m2k, surface_rise_k

Floats = NDArray[np.float64]
MODES = 48
DENSE_MOST = 220  # beyond this many wires heat is smeared over rings


@dataclass(frozen=True)
class Sections:
    """s cross-sections of n wires each, in metres: geometry that doesn't change with current.

    near: (s, n, n) ln(R/|x−y|), own: ln(R/a) on the diagonal; waves: (s, n, 2·MODES) of ρ^m cos and sin;
    rim_share: (s,) perimeter of a band drawn tight round the wires over that of the enclosing circle,
    since only that much surface meets free air.
    """

    radius_m: Floats
    near: Floats
    waves: Floats
    rim_share: Floats

    @classmethod
    def of(cls, centres_m: Floats, outer_m: Floats, diameters_m: Floats) -> Sections:
        """From centres (s, n, 2), wire diameters (s, n) and enclosing diameters (s,)."""
        radius = diameters_m / 2
        apart = centres_m[:, :, None, :] - centres_m[:, None, :, :]
        distance = np.hypot(apart[..., 0], apart[..., 1])
        n = centres_m.shape[1]
        distance[:, range(n), range(n)] = outer_m / 2
        near = np.log(radius[:, None, None] / np.maximum(distance, 1e-9))
        reduced = np.minimum(np.hypot(centres_m[..., 0], centres_m[..., 1]) / radius[:, None], 0.999999)
        angle = np.arctan2(centres_m[..., 1], centres_m[..., 0])
        m = np.arange(1, MODES + 1)
        power = reduced[..., None] ** m
        waves = np.concatenate([power * np.cos(m * angle[..., None]), power * np.sin(m * angle[..., None])], axis=-1)
        share = np.minimum(_band_m(centres_m, outer_m) / (np.pi * diameters_m), 1.0)
        return cls(radius, near, waves, share)

    def rise_k(self, watts: Floats, biot: Floats) -> Floats:
        """Rise of every wire's surface over ambient (s, n) for losses (s, n) [W/m]."""
        m = np.arange(1, MODES + 1)
        weight = (m - biot[:, None]) / (m * (m + biot[:, None]))
        weight = np.concatenate([weight, weight], axis=-1)
        direct = np.einsum("sij,sj->si", self.near, watts)
        amplitude = np.einsum("snm,sn->sm", self.waves, watts)
        turned = np.einsum("snm,sm->sn", self.waves, weight * amplitude)
        film = watts.sum(axis=1) / biot
        result: Floats = (direct + turned + film[:, None]) / (2 * np.pi * BUNDLE_W_MK)
        return result


def _band_m(centres_m: Floats, outer_m: Floats) -> Floats:
    """Length of a band round each section's wires, from support widths in 36 directions (Cauchy)."""
    turns = np.linspace(0, 2 * np.pi, 36, endpoint=False)
    along = centres_m @ np.array([np.cos(turns), np.sin(turns)]) + outer_m[..., None] / 2
    result: Floats = 2 * np.pi * along.max(axis=1).mean(axis=1)
    return result


def rim_film_w_m2k(
    watts: Floats,
    radius_m: Floats,
    ambient_c: Floats,
    rim_share: Floats | float = 1.0,
    sleeve_m: Floats | float = 0.0,
    air_m_s: Floats | float = 0.0,
) -> Floats:
    """Film coefficient seen at the packed rim (s,) for total losses (s,) [W/m].

    A bare bundle gives off heat over rim_share of its circle; a sleeve is round, with its wall in series.
    """
    sleeved = np.asarray(sleeve_m) > 0
    share = np.where(sleeved, 1.0, rim_share)
    outer = radius_m + sleeve_m
    rise = surface_rise_k(watts / share, 2 * outer, ambient_c, air_m_s)
    film = film_w_m2k(2 * outer, rise, ambient_c, air_m_s)
    wall = radius_m * np.log(outer / radius_m) / SLEEVE_W_MK
    result: Floats = share / (radius_m / (outer * film) + wall)
    return result


def bundle_rise_k(
    sections: Sections,
    watts: Floats,
    ambient_c: Floats,
    sleeve_m: Floats | float = 0.0,
    air_m_s: Floats | float = 0.0,
) -> Floats:
    """Rise over ambient of each wire's outside (s, n) for losses (s, n) [W/m] and ambients (s,)."""
    film = rim_film_w_m2k(watts.sum(axis=1), sections.radius_m, ambient_c, sections.rim_share, sleeve_m, air_m_s)
    return sections.rise_k(watts, film * sections.radius_m / BUNDLE_W_MK)


def smeared_radii_m(outer_m: Floats) -> Floats:
    """Radius of the ring each wire of a large bundle lies on, in list order from the middle, 80 % fill."""
    result: Floats = np.sqrt(np.cumsum(np.square(outer_m)) / 0.80) / 2
    return result


def smeared_rise_k(watts: Floats, radii_m: Floats, film_w_m2k: float) -> Floats:
    """Rise (n,) in a bundle too large to resolve: heat taken as even over each ring, dT/dr = −Q/2πkr."""
    rim = float(radii_m[-1])
    enclosed = np.cumsum(watts)
    outward = np.log(np.append(radii_m[1:], rim) / radii_m) * enclosed / (2 * np.pi * BUNDLE_W_MK)
    inward = np.cumsum(outward[::-1])[::-1]
    # its own heat's last step, from the wire's skin to its cell of the section
    own = watts * 0.25 / (2 * np.pi * BUNDLE_W_MK)
    result: Floats = inward + own + enclosed[-1] / (2 * np.pi * rim * film_w_m2k)
    return result
