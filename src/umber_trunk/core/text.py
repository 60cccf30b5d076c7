"""Text of a design as plain text: what steers a screen or a terminal is shown as a picture of itself."""

from __future__ import annotations

import hashlib
import re

_LOST = "\N{REPLACEMENT CHARACTER}"
_PICTURES = {
    **{code: chr(0x2400 + code) for code in range(0x20)},
    0x7F: "\N{SYMBOL FOR DELETE}",
    **dict.fromkeys(
        (*range(0x80, 0xA0), *range(0x202A, 0x202F), *range(0x2066, 0x206A), 0x200E, 0x200F, 0x061C), _LOST
    ),
    **dict.fromkeys((0x2028, 0x2029), "\N{SYMBOL FOR NEWLINE}"),
    **dict.fromkeys((0xFFFE, 0xFFFF, 0xFEFF), _LOST),
}
"""Controls of old terminals, marks that turn the direction of writing, and what no file of text may hold."""
_KEPT = {code: _PICTURES[code] for code in _PICTURES if code != 0x0A}


def pictured(text: str) -> str:
    """The text with every control character as a picture of itself: "a\\x1bb" as "a␛b". Half of a pair of surrogates,
    which nothing can store, becomes "�"."""
    if text.isascii() and text.isprintable():
        return text
    return _without_halves(text.translate(_PICTURES))


def pictured_lines(text: str) -> str:
    """The same for text of several lines, whose ends stay."""
    return _without_halves(text.translate(_KEPT) if _STEERING.search(text) else text)


_STEERING = re.compile("[" + re.escape("".join(map(chr, _KEPT))) + "]")
_HALVES = re.compile("[\ud800-\udfff]")


def _without_halves(text: str) -> str:
    return text.encode("utf-8", "replace").decode("utf-8") if _HALVES.search(text) else text


def digest_of(text: str) -> str:
    """SHA-256 of a text that is kept, as hex."""
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
