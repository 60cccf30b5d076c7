"""What fuzzers feed to readers, and how they spoil what was sound."""

from __future__ import annotations

import tempfile
from pathlib import Path
from random import Random

HOSTILE = ("", " ", "\0", "\x1b[2J", "=1+1", "'=x", "－5", "<img src=x>", "(" * 300, "[" * 300, " " * 500 + "x", "é", "٣", "\u202e", "1e308",
           "-1e308", "NaN", "inf", "1,200", "1.200,5", "½", "1/0", "9" * 400, "😀", "\ufeff", "a:b:c", "x" * 3000, "\r", "\u2028")  # fmt: skip
CELLS = ("W1", "W2", "battery +", "X1:3", "X1.4", "pump", "1.5", "1,5", "16 AWG", "2.5 mm2", "4/0", "3x1.5", "3G1,5", "RD", "rot/weiß", "GNYE",
         "1250", "1,250", "2 m", "6'3\"", "12 ft", "total", "-", "n/a", "2.5 mm", "0.75 black", "24V/GND", "SP1", "S1", "1e3")  # fmt: skip
WORDS = ("supply", "24 V", "12V", "at", "battery", "fuse box", "6 ways", "from", "bulkhead", "run", "3 m", "4 ft 2 in", "pump", "6 A", "60 W", "1/2 hp",
         "4 ohm", "surge", "20 A/1s", "duty", "20s/60s", "min 21 V", "drop 3%", "in", "bilge", "by twisted pair", "frame return", "converter",
         "24 to 12 V", "90%", "case", "night", ":", ",", "connector", "pins 1 2 3", "switch", "relay 150 mA", "by", "join", "class T fuse 250 A",
         "4-20 mA", "pf 0.9", "stud", "negative bar", "bus bar", "off", "5 mohm", "1,200 W", "-", "∞", "0 A", "1e9 A")  # fmt: skip


def spoilt(text: str, rng: Random) -> str:
    """A text with a piece cut out, doubled or replaced."""
    if not text:
        return rng.choice(HOSTILE)
    a, b = sorted((rng.randrange(len(text) + 1), rng.randrange(len(text) + 1)))
    return rng.choice((text[:a] + text[b:], text[:b] + text[a:], text[:a] + rng.choice(HOSTILE) + text[b:], text[:a]))


class in_file:  # noqa: N801 used as a function
    """A short-lived file with these bytes."""

    def __init__(self, data: bytes, ending: str) -> None:
        self.folder = tempfile.TemporaryDirectory(prefix="umber-fuzz-")
        self.path = Path(self.folder.name) / f"x{ending}"
        self.path.write_bytes(data)

    def __enter__(self) -> Path:
        return self.path

    def __exit__(self, *_: object) -> None:
        self.folder.cleanup()
