"""One question to the meter, and what it would read."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.netlist import Point

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Probe:
    """One question to the meter: the points clipped together on each lead. `kind` is "four" or "two" (an ohmmeter's
    wires), "shake" or "shake-two" (the highest while an end is bent), "insulation" or "millivolt"; `lift` is a wire
    that is taken off meanwhile. Millivolts are read across a `part` of a `wire` (see `Netlist.parts`) while `amps` flow
    through it, and are told in ohms."""

    kind: str
    a: tuple[Point, ...]
    b: tuple[Point, ...]
    lift: str = ""
    wire: str = ""
    part: str = ""
    amps: float = 0.0

    @property
    def single(self) -> bool:
        """Whether it is between two points."""
        return len(self.a) == len(self.b) == 1


@dataclass(frozen=True)
class Seen:
    """What a probe would read: ohms, infinite for nothing; `shares` are (edge, share of its ohms in it), how far each
    edge counts. `sd_ohm` is one standard deviation of its own; `wander_ohm` the same of what is bad in it and reads
    otherwise each time; `vague`: it may read anything; `breaks`: how likely it reads nothing though metal leads."""

    ohm: float
    shares: tuple[tuple[int, float], ...] = ()
    sd_ohm: float = 0.0
    wander_ohm: float = 0.0
    vague: bool = False
    breaks: float = 0.0


def error_of(meter: Meter, probe: Probe, ohms: Floats) -> Floats:
    """One standard deviation of the meter's error [Ω] at each of many ohms between two points, or across a part."""
    return meter.part_sds(probe.amps, ohms) if probe.part else meter.sds(probe.kind, ohms)


def at_part(what: str, end: str, part: str) -> bool:
    """Whether what a fault adds to a wire lies in this part of it."""
    if part == "along":
        return what in ("size", "metal", "longer", "strands")
    return what in ("high", "stud") and part == f"{'crimp' if what == 'high' else 'stud'}@{end}"
