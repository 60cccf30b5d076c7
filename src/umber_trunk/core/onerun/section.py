"""Heat of one conductor among equal loaded ones: temperatures at a current, and currents at a limit."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.onerun.asked_run import Run
from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, Sections, Strands, rim_film_w_m2k
from umber_trunk.core.physics.heat import HOTTEST_C, WireBodies
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.response import Response, lone_response, section_response
from umber_trunk.core.physics.sections import sections_of
from umber_trunk.core.physics.surroundings import Outside, sun_rise_k
from umber_trunk.core.physics.transient import duty_factor, heat_capacity_j_mk

Floats = NDArray[np.float64]


class Section:
    """Heat of one conductor among `together` equal loaded ones, in its surroundings."""

    def __init__(self, run: Run, wire: Conductor) -> None:
        self.run, self.wire = run, wire
        self.body = WireBodies.of([wire])
        self.outside = Outside.of([run.surroundings])
        self.air = np.array([run.ambient_c])
        self.sections: Sections | None = None
        if run.together > 1:
            row = np.ones((1, run.together))
            strands = Strands(row * self.body.outer_m, row * self.body.conductor_m, row * self.body.jacket_w_mk)
            self.sections = sections_of(strands)
        self.radius = self.sections.radius_m if self.sections is not None else self.body.outer_m / 2
        self.share = self.sections.rim_share if self.sections is not None else np.ones(1)
        inside = 0.0 if self.sections is None else max(float(self.sections.own_km_w()[0].max()), 0.0)
        self.own_km_w = np.array([inside]) + self.body.jacket_km_w

    def _response(self, at: int = 0) -> Response:
        wire = self.wire
        if self.sections is None:
            return lone_response(wire.size.label, wire.metal.id, wire.make.id, wire.jacket.id)
        return section_response(self.sections, [wire] * self.run.together).rows(np.array([at]))

    def _film(self, total_w: Floats) -> Floats:
        return rim_film_w_m2k(total_w, self.radius, self.air, self.share, 0.0, self.run.air_m_s, self.outside)

    def rises_k(self, watts: Floats, swing: Floats | float = 0.0) -> Floats:
        """Rise over the air of each conductor lying together (n,) at losses of W/m each (n,), their own for an instant
        by `swing` more."""
        total = np.array([max(float(watts.sum()), 1e-9)])
        film = self._film(total)
        sun = float(np.sum(sun_rise_k(total, self.radius, self.air, self.share, self.run.air_m_s, self.outside)))
        jacket = (watts + swing) * float(self.body.jacket_km_w[0])
        if self.sections is None:
            return sun + watts / (2 * np.pi * float(self.radius[0] * film[0])) + jacket
        own: Floats = np.maximum(self.sections.own_km_w()[0], 0.0)
        found: Floats = sun + self.sections.rise_k(watts[None, :], film)[0] + swing * own + jacket
        return found

    def _ohm(self, celsius: Floats) -> Floats:
        """Ω/m of conductors at their temperatures."""
        result: Floats = self.body.ohm_per_m_20[0] * (
            1 + self.body.alpha_per_k[0] * (np.minimum(celsius, HOTTEST_C) - 20)
        )
        return result

    def standing(self, celsius: Floats, amps: float, duty: tuple[float, float] | None = None) -> Standing:
        """Of the conductors lying together (n,) at their temperatures and current, the one with the least room for more
        heat."""
        near, bulk = self.duty_factors(*duty, amps, float(celsius.max())) if duty is not None else (1.0, 1.0)
        losses = np.square(amps) * self._ohm(celsius)
        above = np.maximum(self.sections.own_km_w()[0], 0.0) if self.sections is not None else np.zeros(1)
        answer = above + self.body.jacket_km_w[0] + 1 / (2 * np.pi * self.radius[0] * USUAL_FILM_W_M2K)
        at = int(np.argmin((self.run.limit_c - celsius) / answer))
        one = np.ones(1)
        total = one * float(losses.sum()) * bulk**2
        sun = np.asarray(sun_rise_k(total, self.radius, self.air, self.share, self.run.air_m_s, self.outside)) * one
        return Standing(
            celsius=celsius[[at]],
            air_c=self.air + sun,
            own_km_w=above[[at]] + self.body.jacket_km_w,
            own_w=np.minimum(losses[[at]] * near**2, total),
            total_w=total,
            alike=one * min(self.run.parallel, self.run.together),
            radius_m=self.radius,
            rim_share=self.share,
            sleeve_m=0 * one,
            air_m_s=self.run.air_m_s * one,
            outside=self.outside,
            ohm_20=self.body.ohm_per_m_20,
            alpha=self.body.alpha_per_k,
            amps=one * amps * near,
            response=self._response(at),
        )

    def duty_factors(self, on_s: float, period_s: float, amps: float, celsius: float) -> tuple[float, float]:
        """(near, bulk): what the duty's current counts as at the wire itself and all through its bundle."""
        if self.sections is not None:
            own = heat_capacity_j_mk(self.wire) * float(self.own_km_w[0])
            film = 1 / (2 * np.pi * float(self.radius[0]) * USUAL_FILM_W_M2K)
            bulk_s = self.run.together * heat_capacity_j_mk(self.wire, 1.0) * film
            near, slow = duty_factor(on_s, period_s, np.array([own, bulk_s]))
            return float(near), float(slow)
        near, slow, _ = self._lone_duty(amps, on_s, period_s, celsius)
        return near, slow

    def _lone_duty(self, amps: float, on_s: float, period_s: float, celsius: float = 0.0) -> tuple[float, float, float]:
        """(near, bulk, hottest instant) of a lone wire; at `celsius` where it is known, else at the temperature it
        comes to."""
        known, now = celsius > 0, celsius or self.run.ambient_c + 20
        jacket, outside = self.body.jacket_km_w, 1 / (2 * np.pi * self.radius * USUAL_FILM_W_M2K)
        response, near, slow = self._response(), np.ones(1), np.ones(1)
        for passed in range(200):
            lost = amps * amps * float(self._ohm(np.array([now]))[0])
            near, slow = response.lone_duty(jacket, outside, on_s, period_s)
            watts = np.maximum(lost * slow**2, 1e-6)
            outside = 1 / (2 * np.pi * self.radius * self._film(watts))
            sun = float(np.sum(sun_rise_k(watts, self.radius, self.air, self.share, self.run.air_m_s, self.outside)))
            rise = lost * float(slow[0] ** 2 * outside[0] + near[0] ** 2 * jacket[0])
            there = now if known else min(self.run.ambient_c + sun + rise, HOTTEST_C)
            if abs(there - now) < 1e-4 and passed > 3:
                break
            now = there
        return float(near[0]), float(slow[0]), now

    def duty_settle(self, amps: float, on_s: float, period_s: float, begun: Floats | None = None) -> Floats:
        """Temperatures (n,) at the hottest instant of a repeated duty: a lone wire's from its exact periodic answer,
        its film that of its surface then; a bundle's by its two time constants."""
        if self.sections is None:
            return np.array([self._lone_duty(amps, on_s, period_s)[2]])
        return self.settle(amps, *self.duty_factors(on_s, period_s, amps, 0.0), begun)

    def settle(self, amps: float, near: float = 1.0, bulk: float = 1.0, begun: Floats | None = None) -> Floats:
        """Temperatures [°C] of the conductors lying together (n,) at a continuous current through each; Aitken's steps.
        near and bulk scale the current as it counts at the wire itself and all through the bundle. `begun`:
        temperatures that are near already."""
        ambient = self.run.ambient_c
        now = np.full(self.run.together, ambient) if begun is None else begun

        def passed(celsius: Floats) -> Floats:
            watts = amps * amps * self._ohm(celsius)
            result: Floats = np.minimum(ambient + self.rises_k(watts * bulk**2, watts * (near**2 - bulk**2)), HOTTEST_C)
            return result

        for _ in range(60):
            first = passed(now)
            second = passed(first)
            step, bend = first - now, second - 2 * first + now
            ratio = (second - first) / np.where(np.abs(step) > 1e-9, step, 1.0)
            steady = (np.abs(bend) > 1e-9) & (ratio > 0) & (ratio < 0.9)  # what runs away isn't led back
            better = np.clip(np.where(steady, now - step**2 / np.where(steady, bend, 1.0), second), ambient, HOTTEST_C)
            if float(np.abs(better - now).max()) < 1e-4:
                return better
            now = better
        return now

    def ampacity(self, limit_c: float) -> float:
        """Continuous current in one conductor at which the hottest of those lying together is at the limit."""
        room = limit_c - self.run.ambient_c
        shape = np.ones(self.run.together)  # each one's loss over that of one at the limit
        if room <= 0 or float(self.rises_k(1e-9 * shape).max()) >= room:
            return 0.0
        high, at_limit = room / float(self.body.jacket_km_w[0]), float(self._ohm(np.array([limit_c]))[0])

        def over_room(shape: Floats, log_watts: float) -> float:
            """A rise goes nearly with a power of the loss, so that the search is for a line's zero."""
            return math.log(max(float(self.rises_k(math.exp(log_watts) * shape).max()), 1e-9) / room)

        watts = 0.0
        for _ in range(3):
            watts = math.exp(crossing(partial(over_room, shape), math.log(high) - 2.0, math.log(high), ROOM_SHARE))
            before, shape = shape, self._ohm(self.run.ambient_c + self.rises_k(watts * shape)) / at_limit
            if float(np.abs(shape - before).max()) < 1e-6:
                break
            high = 1.02 * watts
        return float(np.sqrt(watts / at_limit))

    def duty_ampacity(self, limit_c: float, continuous_a: float, on_s: float, period_s: float) -> float:
        """Current in one conductor that a duty's hottest instant brings to the limit; `continuous_a` is what it carries
        all the time."""
        if continuous_a <= 0:
            return 0.0
        last = [np.full(self.run.together, self.run.ambient_c)]

        def over_room(log_amps: float) -> float:
            """Each begins at the temperatures of the last."""
            last[0] = self.duty_settle(math.exp(log_amps), on_s, period_s, last[0])
            return math.log(max(float(last[0].max()) - self.run.ambient_c, 1e-9) / room)

        room, log_amps = limit_c - self.run.ambient_c, math.log(continuous_a)
        return math.exp(crossing(over_room, log_amps - 0.01, log_amps + 0.3, ROOM_SHARE))


ROOM_SHARE = 1e-6
"""How near to its limit a current is brought, as a share of the room."""
FAR_LOG = 40.0
"""So far an answer lies from where it is looked for at most, in its logarithm."""


def crossing(rising: Callable[[float], float], low: float, high: float, near: float) -> float:
    """Where a rising function passes zero, to within `near` of it, by false position with the Illinois rule (Dowell and
    Jarratt 1971); first the two sides are moved out until zero lies between them. SciPy's root finders would take
    longer to load than a one-run sum takes."""
    under, over, side, step = rising(low), rising(high), 0, high - low
    least, most = low - FAR_LOG, high + FAR_LOG
    while over < 0 and high < most:
        low, under, high, step = high, over, high + step, 2 * step
        over = rising(high)
    while under > 0 and low > least:
        high, over, low, step = low, under, low - step, 2 * step
        under = rising(low)
    middle = high
    for _ in range(200):
        if not under < 0 < over:
            break
        middle = (low * over - high * under) / (over - under)
        value = rising(middle)
        if abs(value) < near or high - low < 1e-12 * abs(high):
            break
        if value < 0:
            low, under, over, side = middle, value, over / (2 if side < 0 else 1), -1
        else:
            high, over, under, side = middle, value, under / (2 if side > 0 else 1), 1
    return middle
