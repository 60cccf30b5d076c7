"""Protective earths: which wires are one, and how thick they have to be."""

from __future__ import annotations


def is_earth(*words: str) -> bool:
    """Whether a wire is a protective earth, by its name, core or circuit."""
    plain = {word.strip().lower() for word in words}
    return bool(plain & {"earth", "pe", "e", "protective earth", "ground conductor"})


def least_earth_mm2(line_mm2: float) -> float:
    """The least area of a protective earth of the same metal beside a line conductor (IEC 60364-5-54, table 54.2)."""
    if line_mm2 <= 16:
        return line_mm2
    return 16.0 if line_mm2 <= 35 else line_mm2 / 2
