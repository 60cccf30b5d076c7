"""What else stands round a bundle: thin air, a conduit, the sun, turns on a reel. Arrays over bundles (s,).

sun  ↓ ↓ ↓            In free air the heat leaves by the film of `film.py`, at the pressure of the altitude (ISO
   ___________        2533). In a tube it crosses the gap, the wall, then the film on the tube's outside. On a
  (  (ooo)    )       reel the rise grows with one over the square of the share of its current a cable may carry
   ‾‾‾‾‾‾‾‾‾‾‾        there (IEC 60204-1). The sun adds what the width in its light absorbs, and as much rise as
 gap │ wall │ air     that loss would make. Where a cover goes over part of a run, metal leads heat out of it.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.constants import EMISSIVITY_JACKET, G_M_S2, SLEEVE_W_MK, STEFAN_BOLTZMANN, ZERO_C_K
from umber_trunk.core.physics.film import air_at, surface_rise_k

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]

CONDUIT_WIDTH = 1.6
"""Bore of a conduit over the bundle in it: about 40 % filled, the usual most (IEC 60364-5-52, NEC chapter 9)."""
OFF_CENTRE, TIGHT = 0.91, 0.5
"""How far towards its tube's floor a bundle counts as lying, of the whole gap; less in a tight tube, by TIGHT of the
square of its filling, since a bundle touches with one or two wires and no cylinder does. Set by a volume model,
`tests/core/physics/volumes.py`, on 136 sections; on 64 others it came out −2.5 to +12.6 % of the rise."""
GAP_PASSES = 30
"""Rounds in which a tube and what lies in it come to terms."""
TIGHTEST = 1.02
"""A tube is at least so much wider than what is in it."""
REEL_SHARE = (1.0, 0.85, 0.65, 0.45, 0.35)
"""Current that a cable on a reel carries over that of one laid out, by layers (IEC 60204-1, table 7)."""
SUN_ABSORBED = 0.9
"""Of the sun that falls on it, by a dark surface."""


def pressure_share(altitude_m: Floats | float) -> Floats:
    """Air pressure over that at the sea (ISO 2533): 0.785 at 2 000 m."""
    result: Floats = (1 - 2.25577e-5 * np.asarray(altitude_m, dtype=float)) ** 5.2559
    return result


@dataclass(frozen=True)
class Surroundings:
    """The facts of one run or stretch; enclosed in a tube of `bore_m`, or in one nobody chose (0). Where what covers
    it, cover or tube, goes over `covered_m` of it alone, `before_m` and `after_m` are bare, and in conduit if
    `bare_enclosed`; 0: it goes all along."""

    enclosed: bool = False
    coiled_layers: int = 0
    sun_w_m2: float = 0.0
    altitude_m: float = 0.0
    bore_m: float = 0.0
    tube_wall_m: float = 0.0
    covered_m: float = 0.0
    before_m: float = 0.0
    after_m: float = 0.0
    bare_enclosed: bool = False


OPEN_AIR = Surroundings()
"""Still air all round, in the shade, at sea level."""


@dataclass(frozen=True)
class Outside:
    """The same as columns: pressure over that at the sea, in conduit or not, share of the current a reel leaves,
    sun on the jackets [W/m²], bore and wall of the conduit [m], 0 where nobody chose one; lengths covered and bare on
    either side [m], whether the bare ones are in conduit, and what the metal leads along, its conductivity times its
    area [W·m/K]."""

    pressure: Floats
    enclosed: Flags
    reel: Floats
    sun_w_m2: Floats
    bore_m: Floats
    tube_wall_m: Floats
    covered_m: Floats
    before_m: Floats
    after_m: Floats
    bare_enclosed: Flags
    led_w_m_k: Floats

    @classmethod
    def of(cls, rows: list[Surroundings]) -> Outside:
        """The columns for these stretches."""
        return cls(
            pressure_share(np.array([row.altitude_m for row in rows])),
            np.array([row.enclosed for row in rows], dtype=bool),
            np.array([REEL_SHARE[row.coiled_layers] for row in rows]),
            np.array([row.sun_w_m2 for row in rows]),
            np.array([row.bore_m for row in rows]),
            np.array([row.tube_wall_m for row in rows]),
            np.array([row.covered_m for row in rows]),
            np.array([row.before_m for row in rows]),
            np.array([row.after_m for row in rows]),
            np.array([row.bare_enclosed for row in rows], dtype=bool),
            np.zeros(len(rows)),
        )

    @property
    def plain(self) -> bool:
        """Whether nothing stands out: open air at the sea, in the shade."""
        return bool(
            np.all(self.pressure == 1)
            and not self.enclosed.any()
            and np.all(self.reel == 1)
            and not self.sun_w_m2.any()
        )

    @property
    def conduit_m(self) -> Floats:
        """Outside width of the conduits that somebody chose, 0 for others."""
        result: Floats = np.where(self.bore_m > 0, self.bore_m + 2 * self.tube_wall_m, 0.0)
        return result

    @property
    def bare(self) -> Outside:
        """The same with nothing on it."""
        none = np.zeros_like(self.bore_m)
        return replace(self, enclosed=self.bare_enclosed, bore_m=none, tube_wall_m=none)

    def at(self, rows: NDArray[np.intp]) -> Outside:
        """The columns of some bundles."""
        return Outside(*(getattr(self, one.name)[rows] for one in fields(self)))


def rim_rise_k(
    watts: Floats,
    outer_m: Floats,
    ambient_c: Floats,
    rim_share: Floats | float,
    air_m_s: Floats | float,
    outside: Outside | None,
) -> Floats:
    """Rise over ambient of a bundle's outside that gives off `watts` [W/m] over rim_share of its circle.

    In a conduit or tube the heat crosses the gap and the wall, then leaves the outside; on a reel the rise goes with
    one over the square of the current share.
    """
    if outside is None or outside.plain:
        return surface_rise_k(watts / rim_share, 2 * outer_m, ambient_c, air_m_s)
    lost, outer, air, share, wind = (
        np.broadcast_to(np.asarray(one, dtype=float), outside.enclosed.shape)
        for one in (watts, outer_m, ambient_c, rim_share, air_m_s)
    )
    free, shut = np.flatnonzero(~outside.enclosed), np.flatnonzero(outside.enclosed)
    rise = np.empty(len(lost))
    rise[free] = surface_rise_k(
        lost[free] / share[free], 2 * outer[free], air[free], wind[free], outside.pressure[free]
    )
    if len(shut):
        rise[shut] = tube_rise_k(lost[shut], outer[shut] * share[shut], outer[shut], air[shut], outside.at(shut))
    result: Floats = rise / np.square(outside.reel)
    return result


def covered_share(covered_k: Floats, bare_k: Floats, watts: Floats, outside: Outside) -> Floats:
    """How much of what its cover adds to a stretch's rise is left where the cover goes over part of it: the metal leads
    heat along to where it is bare. 1 where it goes all along.

    Two fins joined (Incropera ch. 3.6, each with heat made in it): m = 1/√(k·A·R'), R' the rise over the loss. The
    stretch's ends are taken to let nothing through, so that what lies beyond may be as warm.

        bare   | covered |    bare
        θ₂ ____/‾‾‾‾‾‾‾‾‾\\_________ θ₂      θ = θ₁ − P·cosh m₁x − Q·sinh m₁x under the cover
    """
    led = np.maximum(outside.led_w_m_k, 1e-9)
    inside, beyond = (np.sqrt(np.maximum(watts, 1e-12) / (led * np.maximum(k, 1e-9))) for k in (covered_k, bare_k))
    left, right = (beyond / inside * np.tanh(beyond * bare) for bare in (outside.before_m, outside.after_m))
    reach = np.clip(inside * outside.covered_m, 1e-6, 40.0)
    # at x = 0: Q = −left·(1 − P); at the other end likewise, with (θ − θ₂)/(θ₁ − θ₂) = 1 − P·cosh − Q·sinh
    cosh, sinh = np.cosh(reach), np.sinh(reach)
    first = (left * (cosh + right * sinh) + right) / ((left + right) * cosh + (1 + left * right) * sinh)
    q = -left * (1 - first)
    x = np.clip(np.arctanh(np.clip(-q / np.maximum(first, 1e-12), -1 + 1e-12, 1 - 1e-12)), 0.0, reach)
    share = 1 - first * np.cosh(x) - q * np.sinh(x)
    return np.where((outside.covered_m > 0) & (outside.led_w_m_k > 0), np.clip(share, 0.0, 1.0), 1.0)


def tube_rise_k(watts: Floats, rim_m: Floats, outer_m: Floats, ambient_c: Floats, outside: Outside) -> Floats:
    """Rise over ambient of a bundle in a tube, rim_m the radius of a circle as long as a band round it, outer_m of what
    it needs.

    Across the gap: convection between concentric cylinders (Raithby and Hollands 1975, k_eff at least that of still
    air), conduction between cylinders off centre by OFF_CENTRE of the gap, since the bundle lies on the floor (shape
    factor 2π / arcosh, Incropera table 4.1), what each adds to still air between concentric ones combined as squares,
    and radiation between grey cylinders. Then the wall, then the outside in free air.

            ___
          /     \\      hot air rises over the bundle,
         |   o   |     below it is thin: conduction
          \\_ooo_/
    """
    bore = np.maximum(np.where(outside.bore_m > 0, outside.bore_m, 2 * CONDUIT_WIDTH * outer_m), 2 * TIGHTEST * outer_m)
    inner, wide = 2 * rim_m, bore + 2 * outside.tube_wall_m
    skin = surface_rise_k(watts, wide, ambient_c, 0.0, outside.pressure)
    base = ambient_c + skin + watts * np.log(wide / bore) / (2 * np.pi * SLEEVE_W_MK)
    apart = (bore - inner) / 2
    narrow = np.log(bore / inner) ** 4 / (apart**3 * (inner**-0.6 + bore**-0.6) ** 5)
    still = 2 * np.pi / np.log(bore / inner)
    off = OFF_CENTRE * (1 - TIGHT * np.square(inner / bore)) * apart
    tilted = 2 * np.pi / np.arccosh((bore**2 + inner**2 - 4 * np.square(off)) / (2 * inner * bore))
    shape = 1 / (1 / EMISSIVITY_JACKET + inner / bore * (1 / EMISSIVITY_JACKET - 1))
    gap = watts / (np.pi * inner * 10.0)
    lift, tilted_2, still_2 = narrow * G_M_S2 * apart**3, np.square(tilted), np.square(still)
    shines = np.pi * inner * 4 * shape * STEFAN_BOLTZMANN
    for _ in range(GAP_PASSES):
        kelvin = base + gap / 2 + ZERO_C_K
        k, nu, pr = air_at(kelvin)
        nu = nu / outside.pressure
        rayleigh = lift * gap * pr / (kelvin * nu * nu)  # times `narrow`, the shape of the gap
        stirred = np.maximum(0.386 * np.sqrt(np.sqrt(rayleigh * pr / (0.861 + pr))), 1.0)
        across = k * np.sqrt(tilted_2 + (stirred * stirred - 1) * still_2)
        radiated = shines * kelvin * kelvin * kelvin
        # what crosses grows a little faster than the gap's kelvin, so that a power under one is nearly Newton's step
        ratio = watts / (gap * (across + radiated))
        gap = np.minimum(gap * ratio**0.85, 2000.0)
        if np.max(np.abs(ratio - 1), initial=0.0) < 1e-6:
            break
    result: Floats = base - ambient_c + gap
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
    many = len(outside.sun_w_m2)
    both = np.tile(np.arange(many), 2)  # sunlit and in the shade, in one go
    lost, outer, air, share, wind = (
        np.broadcast_to(np.asarray(one, dtype=float), (many,))[both]
        for one in (watts, outer_m, ambient_c, rim_share, air_m_s)
    )
    lost[:many] += SUN_ABSORBED * outside.sun_w_m2 * 2 * outer[:many]
    rise = rim_rise_k(lost, outer, air, share, wind, outside.at(both))
    result: Floats = rise[:many] - rise[many:]
    return result
