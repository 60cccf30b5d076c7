"""Cells that hold several things at once: “18 AWG RED”, “screened 2c 22AWG”, “3x1.5 H07”, “GNYE 2,5”."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from functools import lru_cache

from umber_trunk.store.listing.colours import COLOURS, colour_word, is_colour

_MANY = re.compile(r"(\d{1,2})\s*([x×*](?=\s*[\d#aA])|[Gg](?=\s*\d))\s*(?:(\d)\s*[x×*]\s*)?(.+)")
_CORES = re.compile(
    r"(?<![\d.,/])(\d{1,2})\s*-?\s*(?:c|cores?|cond(?:uctors?)?|wires?|poles?|way|adrig|polig|fils?|brins?|"
    r"hilos|poli|aderig|żyły|żył|ledare|žil)(?![\w²])\.?",
    re.I,
)
_SLASHED = re.compile(r"(\d{2})/([1-9])(?:\s*(?:awg|ga)?)\b", re.I)
_SCREEN = re.compile(
    r"(?:screened|shielded|shield|screen|geschirmt|abgeschirmt|blind[ée]e?|apantallad[oa]|schermat[oa]|"
    r"blindad[oa]|afgeschermd|ekranowan[ya]|skärmad|stíněn[ýá]|stp|scr|shld)(?!\w)\.?",
    re.I,
)
_PAIR = re.compile(
    r"(?:twisted(?:[ -]pair)?|pair|tw(?:\.|isted)? ?pr|tp|verdrillt|paarig|torsad[ée]e?|trenzado|"
    r"intrecciat[oa]|stp|utp)(?!\w)\.?",
    re.I,
)
_SIZE = re.compile(
    r"(?:awg\s*(?:\d/0|\d{1,2})|(?:\d/0|\d{1,2})\s*-?\s*(?:awg|ga|gauge|gage)\b|#\s*\d{1,2}|"
    r"\d+(?:[.,]\d+)?\s*(?:mm2|mm²|mm\^2|sqmm|mm)(?!\w)|\d{3}\s*(?:kcmil|mcm))",
    re.I,
)
_TYPE = re.compile(
    r"(?<![\w.,/])(?:[HA]0[357](?:[A-Z0-9]{1,5})?(?:-[A-Z]\d?)?|N?Y[MY]{1,2}(?:-[JO])?|YSLY(?:CY|"
    r"YCY)?(?:-(?:JZ|OZ|JB|OB|J|O))?|LI2?[YH]C?[YH](?:-TP)?|FL(?:R|K|U|4G|Y)[A-Z0-9]{0,3}(?:-[AB])?|FLY|GXL|"
    r"SXL|TXL|GPT|SGX|SGT|THHN|THWN(?:-2)?|MTW|XHHW(?:-2)?|S(?:J|T)?O?OW|SJTW|SWA|AWA|XLPE|LSZH|LS[FO]H?|LSOH|"
    r"EPR|PVC|T&E|twin(?: (?:and|&) earth)?|tri-?rated|duplex|triplex)(?![\w])",
    re.I,
)
"""Kinds of cable as standards designate them (CENELEC HD 361, DIN VDE 0281, ISO 6722, UL, SAE J1128): no size."""
_EARTH = re.compile(r"(?<![\w.,])(\d)\s*c?\s*\+\s*(?:E|PE|earth)(?!\w)", re.I)
_GROUND = re.compile(r"(\d{1,2})\s*[-/]\s*([2-5])\s*(?:with|w/?)\s*(?:ground|gnd|g)\b", re.I)
_BARE = re.compile(r"(?<![\w.,])\d+(?:[.,]\d+)?(?![\w.,²/])")


@dataclass(frozen=True)
class Spec:
    """A cell taken apart: what is left for the size, conductors with the mark that counted them ("" for one), a colour
    as written, whether it is screened or twisted, which kind of cable it names. The size keeps words that nobody
    knows."""

    size: str
    count: int = 1
    mark: str = ""
    colour: str = ""
    screened: bool = False
    twisted: bool = False
    kind: str = ""


@lru_cache(maxsize=20_000)
def spec_of(text: str, letters: bool = False) -> Spec:
    """The things in a cell of sizes; `letters` where single letters beside the sizes are colours."""
    kind = _TYPE.search(text)
    if kind and (rest := _tidy(f"{text[: kind.start()]} {text[kind.end() :]}")):
        return replace(spec_of(rest, letters), kind=kind[0])
    earthed = _GROUND.fullmatch(_tidy(text))
    if earthed:
        return Spec(f"AWG {earthed[1]}", int(earthed[2]) + 1, "c")
    text = _EARTH.sub(lambda found: f"{int(found[1]) + 1}c", text)
    left = re.sub(r"\bw/\s*", "with ", text.strip(), flags=re.I)
    left = (
        _tidy(re.sub(r"\b(?:stripe|tracer|streifen)\b", " ", left, flags=re.I))
        if re.search(r"\bwith\b|/|mit", left)
        else left
    )
    screened, twisted = bool(_SCREEN.search(left)), bool(_PAIR.search(left))
    if screened or twisted:
        left = _tidy(_PAIR.sub(" ", _SCREEN.sub(" ", left)))
    left, colour = _colour(left, letters)
    whole = _MANY.fullmatch(left)
    if whole:
        pairs = int(whole[3] or 1)
        return Spec(
            whole[4].strip(),
            int(whole[1]) * pairs,
            whole[2].lower().replace("×", "x").replace("*", "x"),
            colour,
            screened,
            twisted or pairs == 2,
        )
    slashed = _SLASHED.fullmatch(left)
    if slashed and 8 <= int(slashed[1]) <= 30:
        return Spec(f"AWG {slashed[1]}", int(slashed[2]), "c", colour, screened, twisted)
    cores = _CORES.search(left)
    if cores and (rest := _tidy(left[: cores.start()] + " " + left[cores.end() :])):
        return Spec(rest, int(cores[1]), "c", colour, screened, twisted)
    return Spec(left, 1, "", colour, screened, twisted)


def _tidy(text: str) -> str:
    return " ".join(text.split()).strip(" ,;/()·–-")


def _colour(text: str, letters: bool) -> tuple[str, str]:
    """The text without the colour that stands before or behind its size, and the colour."""
    size = _SIZE.search(text) or _BARE.search(text)
    if size is None:
        return text, ""
    before, behind = _tidy(text[: size.start()]), _tidy(text[size.end() :])
    for words, other in ((behind, before), (before, behind)):
        parts = words.split()
        for many in (3, 2, 1):
            for found in {" ".join(parts[-many:]), " ".join(parts[:many])} if len(parts) >= many else ():
                if is_colour(found) or (letters and len(found) == 1 and found.upper() in COLOURS["en"]):
                    rest = _tidy(words.replace(found, " ", 1))
                    kept = (other, size[0], rest) if words is behind else (rest, size[0], other)
                    return _tidy(" ".join(part for part in kept if part)), found
    return text, ""


def has_letters(cells: list[str]) -> bool:
    """Whether single letters beside sizes are a column's colours: most cells have one."""
    hits = sum(bool(re.search(r"\d\s*(?:awg|ga|mm2|mm²)?\s*[ /-]\s*[A-Z]$|^[A-Z]\s+\d", cell)) for cell in cells)
    return bool(cells) and hits > 0.6 * len(cells)


@lru_cache(maxsize=20_000)
def is_spec(text: str) -> bool:
    """Whether a cell surely holds a size: it has a unit of area or gauge, or counts conductors."""
    if len(text) > 60 or re.fullmatch(r"\d+(?:[.,]\d+)?\s*mm", text):
        return False
    slashed = _SLASHED.fullmatch(text)
    if slashed and 8 <= int(slashed[1]) <= 30:
        return True
    found = _SIZE.search(text)
    if found:
        rest = _tidy(text[: found.start()] + " " + text[found.end() :])
        return not re.search(r"\d{3}", rest)
    spec = spec_of(text)
    bare = _BARE.fullmatch(spec.size) or spec.size.startswith("AWG ")
    return bool(spec.mark or spec.colour) and bool(bare) and colour_word(text) is None
