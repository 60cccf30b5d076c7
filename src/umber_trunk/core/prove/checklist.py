"""What a list of tests is: each test with its band, and what a reading of a sound unit has to be."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Annotated

import numpy as np
from pydantic import BeforeValidator, PlainSerializer

from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.netlist import Netlist, Point
from umber_trunk.core.prove.probe import Probe, error_of
from umber_trunk.core.prove.state import State
from umber_trunk.core.sentences import NOTHING, Message

KINDS = (
    "look",
    "tug",
    "earth",
    "shorts",
    "continuity",
    "shield",
    "insulation",
    "resistance",
    "millivolt",
    "shake",
    "polarity",
    "load",
    "loop",
)
"""Kinds of tests in the order they are done."""
BAND_SD = 4.0
"""A reading is out of its band beyond so many standard deviations: once in sixteen thousand readings of sound wire."""
READS = ("continuity", "resistance", "earth")
"""Kinds of tests that read a wire's ohms."""
OPEN_OHM = 1e6
"""What an ohmmeter has to show at least where nothing should lead."""
SECONDS = {"look": 15.0, "tug": 12.0, "earth": 20.0, "shorts": 12.0, "continuity": 8.0, "shield": 25.0, "insulation": 20.0, "resistance": 15.0, "millivolt": 25.0, "shake": 20.0, "polarity": 15.0, "load": 40.0, "loop": 60.0}  # fmt: skip
"""First guesses of the time a test takes, without the walk."""


def _as_said(text: object) -> Message:
    if not isinstance(text, str):
        raise ValueError("no sentence")
    return Message("", as_was=text)


Kept = Annotated[Message, BeforeValidator(_as_said), PlainSerializer(str)]
"""What a test says: a message while it is planned, the sentence as it was said once its list is frozen."""


@dataclass(frozen=True)
class Test:
    """One test. `expect`, `low` and `high` are in `unit`, None where there is no such figure; `probe` is None for what
    no meter reads; `wires` are those it says something of, `told` what to mind."""

    n: int
    kind: str
    a: str
    b: str
    expect: float | None
    low: float | None
    high: float | None
    unit: str
    text: Kept
    probe: Probe | None = None
    wires: tuple[str, ...] = ()
    told: Kept = NOTHING
    points: tuple[Point, ...] = ()

    def judged(self, value: float) -> bool:
        """Whether a reading is within the band."""
        return (self.low is None or value >= self.low) and (self.high is None or value <= self.high)

    def value_of(self, ohm: float) -> float:
        """A reading in ohms as the list has it: millivolts where it is read while a current flows."""
        return 1e3 * ohm * self.probe.amps if self.unit == "mV" and self.probe is not None else ohm


@dataclass(frozen=True)
class Plan:
    """All tests. Counts of shorts tests are with a switch box and by hand; insulation is read on the same groups."""

    tests: tuple[Test, ...]
    nets: int
    shorts_box: int
    shorts_hand: int
    pairs: int
    moves: int
    moves_bound: int
    seconds: float
    box: bool = True
    unreached: tuple[str, ...] = field(default=())
    untold: tuple[str, ...] = field(default=())
    """What its readings can't tell, in sentences; frozen with the list a proof is held to."""

    @property
    def measures(self) -> bool:
        """Whether a meter reads anything at all: without it nothing can be proven."""
        return any(test.probe is not None for test in self.tests)

    def of(self, kind: str) -> list[Test]:
        """Tests of one kind."""
        return [test for test in self.tests if test.kind == kind]


def band_of(state: State, meter: Meter, probe: Probe) -> tuple[float | None, float | None, float | None]:
    """(expected, least, most) ohms of a reading of a sound unit: its own prediction, the wires' and the meter's error;
    all None where nothing leads."""
    seen = state.see(probe)
    if math.isinf(seen.ohm):
        return None, None, None
    sd = math.hypot(
        float(error_of(meter, probe, np.array(seen.ohm))),
        seen.sd_ohm,
        *(share * state.edges[edge].sd_ohm for edge, share in seen.shares),
    )
    return seen.ohm, max(seen.ohm - BAND_SD * sd, 0.0), seen.ohm + BAND_SD * sd


def test_volts(net: Netlist) -> float:
    """Test voltage of the insulation: 500 V DC for mains and above 60 V, 250 V for lower, unless the project says
    otherwise."""
    chosen = net.design.project.insulation_v
    if chosen:
        return chosen
    most = max([supply.volts for supply in net.design.supplies], default=0.0)
    return 500.0 if most > 60 else 250.0


def six_digits(value: float) -> float:
    """A figure as the list keeps it."""
    return float(f"{value:.6g}")
