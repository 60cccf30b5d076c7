"""Cells that hold both ends of a wire, and what parts them."""

from __future__ import annotations

import re
from collections.abc import Sequence

_BETWEEN = (
    ("arrow", re.compile(r"\s*(?:<?[-=–—]{1,2}>|→|⇒|↔|➔|➜|»|>>?|<->)\s*")),
    ("word", re.compile(r"\s+(?:to|nach|zu|bis|vers|à|hasta|hacia|verso|para|até|naar|do|till|til|na)\s+", re.I)),
    ("dash", re.compile(r"\s+[-–—]{1,2}\s+")), ("bar", re.compile(r"\s*[|]\s*")), ("slash", re.compile(r"\s+/\s+")), ("slash", re.compile(r"\s*/\s*")),
    ("dots", re.compile(r"\s*\.\.+\s*|\s*…\s*")), ("comma", re.compile(r"\s*[,;]\s*")),
)  # fmt: skip


def parted(cells: Sequence[str]) -> tuple[list[list[str]], str]:
    """Cells that hold both ends of a wire: the places each names, and the name of what parts them, "" where nothing
    does in most."""
    for name, pattern in _BETWEEN:
        parts = [[part for part in pattern.split(cell) if part] for cell in cells]
        if cells and sum(len(found) == 2 for found in parts) >= 0.6 * len(cells):
            return parts, name
    return [[cell] for cell in cells], ""
