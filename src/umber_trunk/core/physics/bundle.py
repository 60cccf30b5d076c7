"""Temperatures in a bundle from its packed cross-section.

The bundle is a disc of radius R; between the wires lies a filling of air and touching jackets of
conductivity k. Each loaded wire is a line source where packing put it; the rim gives off heat with the
film coefficient h. For that problem the temperature is known in closed form as a Fourier series (Carslaw
and Jaeger, Conduction of Heat in Solids, 2nd ed., ch. XIV, with the radiation condition at the rim): with
reduced radii ρ, s of point and source and Bi = h·R/k,

    θ = q/2πk · [ ln(R/|x − y|) + Σ_m (m − Bi)/(m·(m + Bi))·(ρ·s)^m·cos m(φ − ψ) + 1/Bi ]

Metal evens out what is across it, so every wire, loaded or idle, spreads its neighbours' heat: it answers
the gradient where it lies as a dipole, p = −2πk·β·a²·∇θ, with β = (k_w − k)/(k_w + k) and, for a core of
radius c in a jacket k_j of radius a, k_w = k_j·(a² + c²)/(a² − c²) (a coated cylinder in a uniform field).
Dipoles see each other and the rim: one linear system for each section, solved once, since it hardly
depends on Bi. They carry no net heat, so the rim's balance stays exact.

Bundles of one wire count are solved together: arrays are (s, n) for s bundles of n wires.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.constants import FILLING_W_MK, SLEEVE_W_MK
from umber_trunk.core.physics.surroundings import Outside, covered_share, rim_rise_k

Floats = NDArray[np.float64]
MODES = 48
"""Waves round the rim by which a bundle's field is told."""
DENSE_MOST = 1000  # beyond this many wires heat is smeared over rings
USUAL_FILM_W_M2K = 14.0  # how the rim mirrors dipoles; S(t) starts from it and is put right for the real one


@dataclass(frozen=True)
class Strands:
    """What a section's wires are made of, (s, n): outside and metal diameters [m], jacket conductivity."""

    outer_m: Floats
    conductor_m: Floats
    jacket_w_mk: Floats

    @property
    def own_w_mk(self) -> Floats:
        """Conductivity of a plain cylinder that spreads heat like metal in its jacket."""
        outer, core = np.square(self.outer_m), np.square(self.conductor_m)
        result: Floats = self.jacket_w_mk * (outer + core) / (outer - core)
        return result

    def spread_m2(self, filling_w_mk: Floats) -> Floats:
        """β·a² (s, n): how strongly each wire evens out a gradient across it."""
        own, filling = self.own_w_mk, filling_w_mk[:, None]
        result: Floats = np.square(self.outer_m / 2) * (own - filling) / (own + filling)
        return result


@dataclass(frozen=True)
class Sections:
    """s cross-sections of n wires each: geometry that doesn't change with current.

    centres_m: (s, n, 2); radius_m and filling_w_mk: (s,); near: (s, n, n) ln(R/|x−y|), own: ln(R/a) on
    the diagonal, less what all wires' metal spreads; waves: (s, n, 2·MODES) of ρ^m cos and sin;
    rim_share: (s,) perimeter of a band drawn tight round the wires over that of the enclosing circle,
    since only that much surface meets free air.
    """

    centres_m: Floats
    radius_m: Floats
    filling_w_mk: Floats
    near: Floats
    waves: Floats
    rim_share: Floats

    @classmethod
    def of(cls, centres_m: Floats, strands: Strands, diameters_m: Floats) -> Sections:
        """From centres (s, n, 2), wires (s, n) and enclosing diameters (s,). A snug cover lies on the wires as the band
        does."""
        radius = diameters_m / 2
        band_m, band_m2 = _band(centres_m, strands.outer_m)
        share = np.minimum(band_m / (np.pi * diameters_m), 1.0)
        wires_m2 = np.pi / 4 * np.square(strands.outer_m).sum(axis=1)
        gaps_m2 = np.maximum(np.pi * radius**2 - wires_m2, 1e-9 * wires_m2)
        filled = np.clip((band_m2 - wires_m2) / gaps_m2, 0.02, 1.0)
        filling = FILLING_W_MK / np.sqrt(filled)
        plane = _Plane.of(centres_m, strands.outer_m, radius)
        near = np.log(radius[:, None, None] / plane.distance) - plane.spread(strands.spread_m2(filling), filling)
        return cls(centres_m, radius, filling, near, plane.waves, share)

    def one(self, at: int) -> Sections:
        """The at-th section alone."""
        part = slice(at, at + 1)
        return Sections(
            self.centres_m[part],
            self.radius_m[part],
            self.filling_w_mk[part],
            self.near[part],
            self.waves[part],
            self.rim_share[part],
        )

    @classmethod
    def stacked(cls, parts: Sequence[Sections]) -> Sections:
        """Sections of one wire count as one."""
        names = ("centres_m", "radius_m", "filling_w_mk", "near", "waves", "rim_share")
        return cls(*(np.concatenate([getattr(part, name) for part in parts]) for name in names))

    def rise_k(self, watts: Floats, rim_film_w_m2k: Floats) -> Floats:
        """Rise of every wire's surface over ambient (s, n) for losses (s, n) [W/m] and rim films (s,)."""
        biot = rim_film_w_m2k * self.radius_m / self.filling_w_mk
        direct = np.einsum("sij,sj->si", self.near, watts)
        amplitude = np.einsum("snm,sn->sm", self.waves, watts)
        turned = np.einsum("snm,sm->sn", self.waves, _mirror(biot) * amplitude)
        film = watts.sum(axis=1) / biot
        result: Floats = (direct + turned + film[:, None]) / (2 * np.pi * self.filling_w_mk)[:, None]
        return result

    def own_km_w(self, film_w_m2k: float = USUAL_FILM_W_M2K) -> Floats:
        """Rise of each wire's surface (s, n) over the rim's per W/m of its own, at a film."""
        mirror = _mirror(film_w_m2k * self.radius_m / self.filling_w_mk)
        turned = np.einsum("snm,sm,snm->sn", self.waves, mirror, self.waves)
        result: Floats = (np.einsum("sii->si", self.near) + turned) / (2 * np.pi * self.filling_w_mk)[:, None]
        return result

    def response_km_w(self, rim_film_w_m2k: Floats) -> Floats:
        """Rise of each wire's surface over the rim's mean per W/m of every wire: (s, n, n)."""
        biot = rim_film_w_m2k * self.radius_m / self.filling_w_mk
        turned = (self.waves * _mirror(biot)[:, None, :]) @ self.waves.swapaxes(1, 2)
        result: Floats = (self.near + turned) / (2 * np.pi * self.filling_w_mk)[:, None, None]
        return result


_ORDERS = np.tile(np.arange(1.0, MODES + 1), 2)
"""Order m of each wave: cosines, then sines."""


def _mirror(biot: Floats) -> Floats:
    """(s, 2·MODES): how the rim mirrors each wave, (m − Bi)/(m·(m + Bi))."""
    result: Floats = (_ORDERS - biot[:, None]) / (_ORDERS * (_ORDERS + biot[:, None]))
    return result


def _band(centres_m: Floats, outer_m: Floats) -> tuple[Floats, Floats]:
    """(length, area inside) of a band drawn tight round each section's wires, from its support widths in
    72 directions: L = ∫h dφ (Cauchy), A = ½∫(h² − h′²) dφ."""
    turns, step = np.linspace(0, 2 * np.pi, 72, endpoint=False, retstep=True)
    along = centres_m @ np.array([np.cos(turns), np.sin(turns)]) + outer_m[..., None] / 2
    reach = along.max(axis=1)
    after = np.roll(reach, -1, axis=1)
    square = (np.square(reach) + np.square(after)) / 2 - np.square((after - reach) / step)
    return reach.sum(axis=1) * step, square.sum(axis=1) * step / 2


@dataclass(frozen=True)
class _Plane:
    """Places in s sections: as complex numbers over R, apart (s, n, n, 2), distance (s, n, n), never under
    the sum of radii and with the own radius on the diagonal, and waves (s, n, 2·MODES)."""

    radius_m: Floats
    reduced: NDArray[np.complex128]
    apart: Floats
    distance: Floats
    waves: Floats

    @classmethod
    def of(cls, centres_m: Floats, outer_m: Floats, radius_m: Floats) -> _Plane:
        n = centres_m.shape[1]
        apart = centres_m[:, :, None, :] - centres_m[:, None, :, :]
        measured = np.maximum(np.hypot(apart[..., 0], apart[..., 1]), 1e-9)
        distance = np.maximum(measured, (outer_m[:, :, None] + outer_m[:, None, :]) / 2)
        apart = apart * (distance / measured)[..., None]
        distance[:, range(n), range(n)] = outer_m / 2
        places = (centres_m / radius_m[:, None, None]).astype(float)
        far = np.maximum(np.hypot(places[..., 0], places[..., 1]), 1e-12)
        places = places * np.minimum(1.0, 0.999999 / far)[..., None]
        reduced = np.ascontiguousarray(places).view(np.complex128)[..., 0]
        powers = reduced[..., None] ** np.arange(1, MODES + 1)
        return cls(radius_m, reduced, apart, distance, np.concatenate([powers.real, powers.imag], axis=-1))

    def spread(self, spread_m2: Floats, filling_w_mk: Floats) -> Floats:
        """What the wires' dipoles take off the rises (s, n, n), times 2πk/q."""
        mirror = _mirror(USUAL_FILM_W_M2K * self.radius_m / filling_w_mk)[:, None, :]
        along, up = self._slopes()
        n = self.distance.shape[1]
        outside = (1.0 - np.eye(n)) / np.square(self.distance)
        dx, dy = self.apart[..., 0], self.apart[..., 1]
        waves = self.waves.swapaxes(1, 2)
        pull = np.concatenate([(along * mirror) @ waves - outside * dx, (up * mirror) @ waves - outside * dy], axis=1)
        even, skew = (dy**2 - dx**2) * outside**2, -2 * dx * dy * outside**2
        xx = (along * mirror) @ along.swapaxes(1, 2) + even
        yy = (up * mirror) @ up.swapaxes(1, 2) - even
        xy = (along * mirror) @ up.swapaxes(1, 2) + skew
        mutual = np.concatenate(
            [np.concatenate([xx, xy], axis=2), np.concatenate([xy.swapaxes(1, 2), yy], axis=2)], axis=1
        )
        strength = np.concatenate([spread_m2, spread_m2], axis=1)[..., None]
        dipoles = np.linalg.solve(np.eye(2 * n) + strength * mutual, strength * pull)
        result: Floats = pull.swapaxes(1, 2) @ dipoles
        return result

    def _slopes(self) -> tuple[Floats, Floats]:
        """Derivatives of the waves in x and in y, (s, n, 2·MODES) each."""
        m = np.arange(1, MODES + 1)
        slope = m * self.reduced[..., None] ** (m - 1) / self.radius_m[:, None, None]
        along = np.concatenate([slope.real, slope.imag], axis=-1)
        return along, np.concatenate([-slope.imag, slope.real], axis=-1)


def rim_film_w_m2k(
    watts: Floats,
    radius_m: Floats,
    ambient_c: Floats,
    rim_share: Floats | float = 1.0,
    sleeve_m: Floats | float = 0.0,
    air_m_s: Floats | float = 0.0,
    outside: Outside | None = None,
) -> Floats:
    """Film coefficient seen at the packed rim (s,) for total losses (s,) [W/m].

    A bundle gives off heat over rim_share of its circle; a snug cover lies on it as a band would, its wall in series, a
    conduit or the turns of a reel round it. A cover bridges the wires, and what air it shuts in is worth more than the
    little surface it adds: no covered bundle runs cooler than it would bare (a lone wire may).
    """
    lost = np.maximum(watts, 1e-9)
    rise = rim_rise_k(lost, radius_m, ambient_c, rim_share, air_m_s, outside)
    sleeved = np.flatnonzero(np.broadcast_to(sleeve_m, rise.shape))
    if len(sleeved):
        warm, watt, radius, air, share, wall, wind = _some(
            sleeved, rise, lost, radius_m, ambient_c, rim_share, sleeve_m, air_m_s
        )
        here = None if outside is None else outside.at(sleeved)
        rise[sleeved] = _covered_k(warm, watt, radius, air, share, wall, wind, here)
    if outside is not None and outside.covered_m.any():  # the hottest place: under the cover, or where it is bare
        part = np.flatnonzero(outside.covered_m > 0)
        partly = outside.at(part)
        warm, watt, radius, air, share, wind = _some(part, rise, lost, radius_m, ambient_c, rim_share, air_m_s)
        bare = rim_rise_k(watt, radius, air, share, wind, partly.bare)
        rise[part] = bare + covered_share(warm, bare, watt, partly) * np.maximum(warm - bare, 0.0)
    return _seen(lost, radius_m, rise)


def _some(at: NDArray[np.intp], first: Floats, *columns: Floats | float) -> list[Floats]:
    """These rows of columns, some of which may be one figure for all."""
    return [np.broadcast_to(np.asarray(one, dtype=float), first.shape)[at] for one in (first, *columns)]


def _covered_k(
    bare_k: Floats,
    lost: Floats,
    radius_m: Floats,
    ambient_c: Floats,
    share: Floats,
    sleeve_m: Floats,
    air_m_s: Floats,
    outside: Outside | None,
) -> Floats:
    """Rise of the rim under a snug cover, for those that rise so far bare."""
    outer = radius_m + sleeve_m
    over = rim_rise_k(lost, outer, ambient_c, (share * radius_m + sleeve_m) / outer, air_m_s, outside)
    covered = over + lost * np.log(outer / radius_m) / (2 * np.pi * SLEEVE_W_MK * share)
    result: Floats = np.where(share < 1, np.maximum(covered, bare_k), covered)
    return result


def _seen(watts: Floats, radius_m: Floats, rise_k: Floats) -> Floats:
    """A rise as a film coefficient at the packed rim."""
    result: Floats = watts / (2 * np.pi * radius_m * rise_k)
    return result


def bundle_rise_k(
    sections: Sections,
    watts: Floats,
    ambient_c: Floats,
    sleeve_m: Floats | float = 0.0,
    air_m_s: Floats | float = 0.0,
    outside: Outside | None = None,
) -> Floats:
    """Rise over ambient of each wire's outside (s, n) for losses (s, n) [W/m] and ambients (s,)."""
    film = rim_film_w_m2k(
        watts.sum(axis=1), sections.radius_m, ambient_c, sections.rim_share, sleeve_m, air_m_s, outside
    )
    return sections.rise_k(watts, film)


def smeared_radii_m(outer_m: Floats) -> Floats:
    """Radius of the ring each wire of a large bundle lies on, in list order from the middle, 80 % fill."""
    result: Floats = np.sqrt(np.cumsum(np.square(outer_m)) / 0.80) / 2
    return result


def smeared_w_mk(strands: Strands, radius_m: float) -> float:
    """Conductivity of wires (1, n) and filling taken as one stuff (Maxwell Garnett in two dimensions)."""
    filling = np.array([FILLING_W_MK])
    held = float(strands.spread_m2(filling).sum()) / radius_m**2
    return FILLING_W_MK * (1 + held) / (1 - held)


def smeared_rise_k(watts: Floats, radii_m: Floats, rim_film: float, stuff_w_mk: float) -> Floats:
    """Rise (n,) in a bundle too large to resolve: heat taken as even over each ring, dT/dr = −Q/2πkr."""
    rim = float(radii_m[-1])
    enclosed = np.cumsum(watts)
    outward = np.log(np.append(radii_m[1:], rim) / radii_m) * enclosed / (2 * np.pi * stuff_w_mk)
    inward = np.cumsum(outward[::-1])[::-1]
    # its own heat's last step, from the wire's skin to its cell of the section
    own = watts * 0.25 / (2 * np.pi * stuff_w_mk)
    result: Floats = inward + own + enclosed[-1] / (2 * np.pi * rim * rim_film)
    return result
