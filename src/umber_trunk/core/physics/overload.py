"""Conductors as they stand, and what a current beyond their own does to them for a time, or for ever."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, rim_film_w_m2k
from umber_trunk.core.physics.heat import HOTTEST_C
from umber_trunk.core.physics.response import Response, driven, rise_k
from umber_trunk.core.physics.surroundings import Outside

Floats = NDArray[np.float64]


def middle_of(rows: Floats) -> Floats:
    """Median of each row (m, n). NumPy's own loads its masked arrays for that, in every command that solves."""
    ordered, n = np.sort(rows, axis=1), rows.shape[1]
    found: Floats = (ordered[:, (n - 1) // 2] + ordered[:, n // 2]) / 2
    return found


@dataclass(frozen=True)
class Standing:
    """m conductors in their bundles, their neighbours at their own load.

    celsius: of the conductor now; air_c; own_km_w: steady rise above the rim per W/m of its own, jacket counted;
    own_w: its loss now; total_w: that of all in its bundle; alike: how many conductors of the same wire lie there and
    are overloaded with it; radius_m, rim_share, sleeve_m, air_m_s, outside: of the bundle; ohm_20 and alpha: of the
    conductor; amps: what heats it now; response: S(t).
    """

    celsius: Floats
    air_c: Floats
    own_km_w: Floats
    own_w: Floats
    total_w: Floats
    alike: Floats
    radius_m: Floats
    rim_share: Floats
    sleeve_m: Floats
    air_m_s: Floats
    outside: Outside
    ohm_20: Floats
    alpha: Floats
    amps: Floats
    response: Response

    def rows(self, at: NDArray[np.intp]) -> Standing:
        """Some of the conductors."""
        plain = {
            name: getattr(self, name)[at]
            for name in (
                "celsius",
                "air_c",
                "own_km_w",
                "own_w",
                "total_w",
                "alike",
                "radius_m",
                "rim_share",
                "sleeve_m",
                "air_m_s",
                "ohm_20",
                "alpha",
                "amps",
            )
        }
        return replace(self, **plain, outside=self.outside.at(at), response=self.response.rows(at))

    def ohm(self, celsius: Floats) -> Floats:
        """Ω/m at these temperatures (m,), no hotter than anything is reckoned to get."""
        result: Floats = self.ohm_20 * (1 + self.alpha * (np.minimum(celsius, HOTTEST_C) - 20))
        return result

    def rim_k(self, total_w: Floats) -> Floats:
        """Rise of the rim over the air for all losses of its bundle."""
        lost = np.maximum(total_w, 1e-9)
        film = rim_film_w_m2k(
            lost, self.radius_m, self.air_c, self.rim_share, self.sleeve_m, self.air_m_s, self.outside
        )
        result: Floats = lost / (2 * np.pi * self.radius_m * film)
        return result

    def ampacity_a(self, limit_c: Floats) -> Floats:
        """Current (m,) in one conductor that holds it at a temperature for ever while its neighbours run as they do:
        0 where they alone bring it there. The loss is scaled by room over rise, to the power the last two tell, until
        it fits."""
        others = np.maximum(self.total_w - self.alike * self.own_w, 0.0)
        base = self.celsius - self.rim_k(self.total_w) - self.own_km_w * self.own_w
        room = limit_c - base
        lost = np.maximum(room / (self.own_km_w + 1e-9), 1e-9)
        most = lost.copy()
        lost = np.clip(0.5 * lost, 1e-9, None)
        bend, before = np.full_like(lost, 0.85), None
        for _ in range(24):
            reached = np.maximum(self.rim_k(others + self.alike * lost) + self.own_km_w * lost, 1e-9)
            if before is not None:  # d ln(rise) / d ln(loss), from the last two
                run = np.log(lost / before[0])
                steep = np.log(reached / before[1]) / np.where(np.abs(run) > 1e-9, run, 1.0)
                bend = np.where(np.abs(run) > 1e-9, np.clip(steep, 0.2, 1.0), bend)
            before = (lost, reached)
            ratio = np.clip(room / reached, 0.05, 5.0)
            lost = np.clip(lost * np.where(room > 0, np.where(room > 0, ratio, 1.0) ** (1 / bend), 0.05), 1e-12, most)
            if float(np.max(np.abs(ratio - 1), initial=0.0, where=(room > 0) & (lost > 1e-6) & (lost < most))) < 1e-4:
                break  # a secant's next step would be the square of it
        result: Floats = np.where((room > 0) & (self.rim_k(others) < room), np.sqrt(lost / self.ohm(limit_c)), 0.0)
        return result

    def _responses(self, rise_k: Floats) -> Response:
        """S(t) with the film that the bundle has once the conductor has risen so far (m,)."""
        now = self.rim_k(self.total_w)
        slope = self.alike * 0.8 * now / np.maximum(self.total_w, 1e-9)
        slope = np.where(self.total_w > 0.05, slope, self.alike / (2 * np.pi * self.radius_m * USUAL_FILM_W_M2K))
        for _ in range(3):
            more = np.maximum(rise_k / (self.own_km_w + slope), 1e-3)
            slope = (self.rim_k(self.total_w + self.alike * more) - now) / more
        return self.response.with_steady(self.own_km_w + slope)

    def after_c(self, amps: Floats, seconds: Floats) -> Floats:
        """Temperature (m, k) after each current (m, k) in one conductor has run for each time (m, k) or (k,)."""
        currents = np.asarray(amps, dtype=float)
        m, k = currents.shape
        flat = self.rows(np.repeat(np.arange(m), k))
        times = np.broadcast_to(np.asarray(seconds, dtype=float), (m, k)).reshape(-1, 1)
        ohm, alpha = flat.ohm(flat.celsius), flat.alpha * flat.ohm_20 / flat.ohm(flat.celsius)
        square = np.square(currents).reshape(-1)
        extra = np.maximum(square - np.square(flat.amps), 0.0)
        reached = np.full(m * k, 60.0)
        for _ in range(4):
            grown, power = flat._responses(np.clip(reached, 1.0, 1000.0)).at(times)
            reached = np.minimum(rise_k(extra, square, ohm, alpha, grown[:, 0], power[:, 0]), HOTTEST_C)
        result: Floats = np.minimum(self.celsius[:, None] + reached.reshape(m, k), HOTTEST_C)
        return result

    def withstand_a(self, limit_c: Floats, seconds: Floats, usual_c: Floats | None = None) -> Floats:
        """Current (m, k) in one conductor that brings it to temperatures (m, k) in just times (m, k). Its bundle's film
        is that at `usual_c` (m,), or at the middle one of the temperatures."""
        ohm, alpha = self.ohm(self.celsius), self.alpha * self.ohm_20 / self.ohm(self.celsius)
        room = np.maximum(limit_c - self.celsius[:, None], 1e-6)
        usual = middle_of(room) if usual_c is None else np.maximum(usual_c - self.celsius, 1e-6)
        grown, power = self._responses(usual).at(seconds)
        x = driven(alpha[:, None] * room, power)
        # I² − I₀² drives, I² feeds back: at the limit the part that ran before counts as its share
        square = x / np.maximum(alpha[:, None] * ohm[:, None] * grown, 1e-12)
        found: Floats = np.sqrt(square + np.square(self.amps)[:, None] * np.clip(1 - x, 0.0, 1.0))
        return found
