"""Wire colours as they are painted and as they are written: one table for screen, paper, board and drawings."""

from __future__ import annotations

HUES = {
    "black": "#2a2624", "brown": "#7b4a21", "red": "#c3281c", "orange": "#e1761a", "yellow": "#e6c619",
    "green": "#2f8a3c", "blue": "#2a5fb0", "violet": "#7d4a9e", "grey": "#8b8b88", "white": "#fbfbf8",
    "pink": "#e39ab4", "turquoise": "#36b3ae", "tan": "#c9a77a", "beige": "#ddcaa5",
}  # fmt: skip
"""Colour word → paint."""
OTHER_HUE = "#a9a29a"
CODES = {
    "black": "BK", "brown": "BN", "red": "RD", "orange": "OG", "yellow": "YE", "green": "GN", "blue": "BU", "violet": "VT", "grey": "GY", "white": "WH",
    "pink": "PK", "turquoise": "TQ",
}  # fmt: skip
"""IEC 60757."""
SAME = {"gray": "grey", "purple": "violet", "green-yellow": "green"}


def hue_of(colour: str) -> str:
    """The paint for a colour word; grey for a word that names none."""
    word = colour.lower()
    return HUES.get(SAME.get(word, word), OTHER_HUE)


def code_of(colour: str, stripe: str = "") -> str:
    """The letters of a wire's colours, "" where its word has none."""
    codes = [CODES.get(SAME.get(one.lower(), one.lower()), "") for one in (colour, stripe) if one]
    return "/".join(codes) if codes and all(codes) else ""
