"""Whether a fuse opens before the wire behind it is harmed: every overload it may carry, for as long as it may.

Three schools. "curve": at each overload the wire, in its bundle, must stay under what its jacket stands for the
slowest opening; what the fuse never opens (1.10 × and below) is held for ever. "iec": Iₙ ≤ I_z and I₂ ≤ 1.45 I_z
(IEC 60364-4-43). "share150": Iₙ ≤ 1.5 I_z, as some marine rules allow. I_z is what the wire carries for ever there,
I₂ what surely opens the fuse within its conventional time.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.physics.damage import allowed_c, anchors
from umber_trunk.core.physics.fuses import BLADE_A, CONVENTIONAL_MULTIPLE, opening_s
from umber_trunk.core.physics.overload import Standing, middle_of

Floats = NDArray[np.float64]
OVERLOADS = np.array(
    [*np.arange(1.10, 1.345, 0.02), 1.35, 1.5, 1.75, 2.0, 2.4, 2.8, 3.5, 4.5, 6.0, 9.0, 14.0, 25.0, 50.0, 120.0]
)
"""Currents a fuse is held against its wire at, as multiples of its rating: close where curves are steep."""
MOST_USED = 1e3
"""A use beyond says no more than this."""


@dataclass(frozen=True)
class Protection:
    """m fuses judged: used (1 is just safe), the overload where it is closest [A], how long the fuse may let it run,
    what the wire stands for as long [°C and A], and I_z."""

    rating_a: Floats
    used: Floats
    worst_a: Floats
    seconds: Floats
    allowed_c: Floats
    withstand_a: Floats
    ampacity_a: Floats


def protection(
    rating_a: Floats,
    standing: Standing,
    wires: list[Conductor],
    parallel: Floats,
    fault_a: Floats,
    rule: str = "curve",
    allowance_k: float = 0.0,
    steady_only: bool = False,
) -> Protection:
    """Judges m fuses over m wires. steady_only looks only at what is held for ever: never more than the whole."""
    limit = np.array([wire.jacket.limit_c + allowance_k for wire in wires])
    ampacity = parallel * standing.ampacity_a(limit)
    held = np.maximum(ampacity, 1e-9)
    if rule != "curve":
        ratio = rating_a / held
        used = np.maximum(ratio, CONVENTIONAL_MULTIPLE * ratio / 1.45) if rule == "iec" else ratio / 1.5
        worst, allowed = rating_a.copy(), held if rule == "iec" else 1.5 * held
        return Protection(
            rating_a, np.minimum(used, MOST_USED), worst, np.full(len(used), np.inf), limit, allowed, ampacity
        )
    amps, times, allowed, last, comes = _table(rating_a, wires, fault_a, allowance_k)
    stands = np.where(times >= last[:, None], ampacity[:, None], np.inf)
    brief = (times < last[:, None]).any(axis=0)  # overloads that end before for ever at any wire
    if not steady_only and brief.any():
        ends = np.minimum(times[:, brief], last[:, None])
        # the film is that at the middle one of the usual overloads, all past the fault current counted as that
        usual = middle_of(np.where(comes, allowed, allowed[:, -1:])[:, :-1])
        short = parallel[:, None] * standing.withstand_a(allowed[:, brief], ends, usual)
        # no time is too long for what may run for ever
        stands[:, brief] = np.where(ends >= last[:, None], ampacity[:, None], np.maximum(short, ampacity[:, None]))
    used = np.where(comes, amps / np.maximum(stands, 1e-9), 0.0)
    at = np.argmax(used, axis=1)
    pick = (np.arange(len(at)), at)
    return Protection(
        rating_a,
        np.minimum(used[pick], MOST_USED),
        amps[pick],
        np.where(times[pick] >= last, np.inf, times[pick]),
        allowed[pick],
        stands[pick],
        ampacity,
    )


def _table(
    rating_a: Floats, wires: list[Conductor], fault_a: Floats, allowance_k: float
) -> tuple[Floats, Floats, Floats, Floats, NDArray[np.bool_]]:
    """(overloads [A], slowest openings [s], allowed temperatures, (m, k) each; time from which the class holds (m,);
    which of the overloads come (m, k): none past the fault current, which stands last)."""
    most = np.clip(fault_a / rating_a, 1.36, OVERLOADS[-1])
    multiples = np.concatenate([np.broadcast_to(OVERLOADS, (len(most), len(OVERLOADS))), most[:, None]], axis=1)
    amps, comes = multiples * rating_a[:, None], multiples <= most[:, None]
    times = np.empty_like(amps)
    for blade in (True, False):
        rows = np.flatnonzero((rating_a <= BLADE_A[-1]) == blade)
        if len(rows):
            unit = BLADE_A[-1] if blade else 2 * BLADE_A[-1]
            times[rows] = opening_s(unit, multiples[rows] * unit)[1]
    allowed, last = np.empty_like(amps), np.empty(len(wires))
    known: dict[tuple[str, str], NDArray[np.intp]] = {}
    for key in {(wire.make.id, wire.jacket.id) for wire in wires}:
        known[key] = np.array(
            [at for at, wire in enumerate(wires) if (wire.make.id, wire.jacket.id) == key], dtype=np.intp
        )
    for rows in known.values():
        wire = wires[int(rows[0])]
        last[rows] = anchors(wire.make, wire.jacket, allowance_k)[-1][0]
        allowed[rows] = allowed_c(wire, times[rows], allowance_k)
    return amps, times, allowed, last, comes


class Protected(NamedTuple):
    """The fuse before one wire judged in its worst case and stretch (pair; −1 for a wire alone): see `Protection`."""

    rating_a: float
    used: float
    worst_a: float
    seconds: float
    allowed_c: float
    withstand_a: float
    ampacity_a: float
    case: str
    pair: int = -1
