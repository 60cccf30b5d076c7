"""What a jacket stands for how long: its class for ever, more for less time.

Anchors of road-vehicle jackets (ISO 6722-1): the class temperature for 3 000 h, 25 K more for 240 h, 50 K more for
6 h. Other jackets are given none of that: past the conventional time of their standards (1 h, IEC 60364-4-43) only
the class. All stand their short-circuit limit for 5 s (IEC 60724). Between anchors the logarithm of time counts.
"""

from __future__ import annotations

from bisect import bisect_right
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, Jacket, Make

Floats = NDArray[np.float64]
SHORT_S, CONVENTIONAL_S = 5.0, 3600.0
"""A short-circuit limit holds for so long (IEC 60724); a conventional overload for so long (IEC 60269, IEC 60898)."""
VEHICLE_CLASSES_C = (85.0, 100.0, 125.0, 150.0, 175.0, 200.0)
"""Temperature classes A to F of vehicle cables (ISO 6722-1)."""
VEHICLE_HOURS = ((6.0, 50.0), (240.0, 25.0), (3000.0, 0.0))
"""(hours, kelvin above the class) that such cables are aged by (ISO 6722-1: 6 h, 240 h, 3000 h)."""
VEHICLE_SOURCE = "ISO 6722-1: class 3 000 h, +25 K 240 h, +50 K 6 h; short-circuit limit to 5 s, IEC 60724"
OTHER_SOURCE = (
    "the jacket’s class past the conventional time of 1 h (IEC 60364-4-43); short-circuit limit to 5 s, IEC 60724"
)


@lru_cache(maxsize=512)
def anchors(make: Make, jacket: Jacket, allowance_k: float = 0.0) -> tuple[tuple[float, float], ...]:
    """(seconds, °C) pairs, times rising and temperatures falling; past the last one its temperature holds for ever."""
    for_ever = jacket.limit_c + allowance_k
    at = bisect_right(VEHICLE_CLASSES_C, jacket.limit_c)
    if make.ageing and at:
        known = VEHICLE_CLASSES_C[at - 1]
        later = [(3600 * hours, max(known + more, for_ever)) for hours, more in VEHICLE_HOURS[:-1]]
        later.append((3600 * VEHICLE_HOURS[-1][0], for_ever))
    else:
        later = [(CONVENTIONAL_S, for_ever)]
    return ((SHORT_S, jacket.short_c), *((seconds, min(c, jacket.short_c)) for seconds, c in later))


def allowed_c(wire: Conductor, seconds: Floats, allowance_k: float = 0.0) -> Floats:
    """The temperature a wire's jacket stands for each time."""
    table = anchors(wire.make, wire.jacket, allowance_k)
    times, limits = np.log([s for s, _ in table]), np.array([c for _, c in table])
    result: Floats = np.interp(np.log(np.maximum(np.asarray(seconds, dtype=float), 1e-9)), times, limits)
    return result


def source_of(wire: Conductor) -> str:
    """Where a wire's damage curve comes from."""
    return VEHICLE_SOURCE if wire.make.ageing and wire.jacket.limit_c >= VEHICLE_CLASSES_C[0] else OTHER_SOURCE
