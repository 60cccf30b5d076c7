"""A made-up crimp press with its gauges: a die that wears, scatter that can be set, the same crimps for the same
seed."""

from __future__ import annotations

import random
from dataclasses import dataclass


@dataclass
class Press:
    """`height_mm` as set up, growing by `wear_mm` with every crimp, scattered by `scatter_mm`; a wire holds `pull_n`,
    less the further its crimp is off: 8 % for every hundredth of a millimetre too high."""

    height_mm: float = 1.5
    wear_mm: float = 0.0
    scatter_mm: float = 0.005
    pull_n: float = 200.0
    pull_scatter: float = 0.04
    seed: int = 1
    crimps: int = 0

    def __post_init__(self) -> None:
        self._draw = random.Random(self.seed)
        self._now = self.height_mm

    def crimp(self) -> float:
        """One more crimp; its true height."""
        self._now = self.height_mm + self.wear_mm * self.crimps + self._draw.gauss(0, self.scatter_mm)
        self.crimps += 1
        return self._now

    def height(self) -> float:
        """What a micrometer reads of the last crimp, to a thousandth."""
        return round(self._now + self._draw.gauss(0, 0.001), 3)

    def pull(self) -> float:
        """What the last crimp held when it was pulled apart."""
        weaker = max(1 - 8.0 * max(self._now - self.height_mm, 0.0), 0.2)
        return round(self.pull_n * weaker * (1 + self._draw.gauss(0, self.pull_scatter)), 1)

    def answer(self, line: str) -> str:
        """What the gauge answers to a line: the plain words CRIMP, HEIGHT?, PULL?, or the SCPI ones for the same."""
        word = line.strip().upper()
        if word in ("CRIMP", "TRIG", "*TRG"):
            self.crimp()
            return "OK"
        if word in ("HEIGHT?", "MEAS:LENG?", "MEASURE:LENGTH?"):
            return f"{self.height():.3f} mm" if word == "HEIGHT?" else f"{self.height() / 1e3:.6f}"
        if word in ("PULL?", "MEAS:FORC?", "MEASURE:FORCE?"):
            return f"{self.pull():.1f} N" if word == "PULL?" else f"{self.pull():.1f}"
        if word == "*IDN?":
            return "Umber Trunk,simulated crimp press,0,1"
        return "ERR unknown"
