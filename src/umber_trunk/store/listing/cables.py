"""What wires of a list make together: cables of numbered cores, pairs, shared screens, and the splices where they
meet."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import replace

from umber_trunk.core.harness.model import CableKind
from umber_trunk.store.listing.doubts import Questions, doubt
from umber_trunk.store.listing.listed import ListedWire
from umber_trunk.store.listing.words import NO, YES, folded

_NUMBERED = re.compile(r"(.+?)\s*([./:-])\s*(\d{1,2}|PE|N|L[123]|[A-Z]{2}|screen|shield|drain|sh|scr)", re.I)
_SCREEN = re.compile(r"screen|shield|drain|schirm|scr|sh|shd", re.I)
_SPLICE = re.compile(
    r"(?:sp|spl|splice|sj|spleiß|spleiss|épissure|empalme|giunzione|emenda|las|spoj|skarv)[ ._-]?\d*\w?", re.I
)
_S = re.compile(r"s\d{1,3}", re.I)


def cables_of(wires: Sequence[ListedWire], asked: Questions) -> list[ListedWire]:
    """The wires with the cables, cores and pairs that the list shows."""
    found = _paired(_numbered(list(wires), asked), asked)
    shared = {wire.screen for wire in found if wire.screen}
    found = [
        replace(wire, cable=wire.screen) if wire.screen in shared and not wire.cable and wire.screen else wire
        for wire in found
    ]
    alone = [
        replace(wire, cable=wire.wire) if wire.screened and not wire.cable and not wire.is_screen else wire
        for wire in found
    ]
    screened = {wire.cable for wire in alone if wire.cable and wire.screened}
    landed = {wire.cable for wire in alone if wire.is_screen}
    open_ = sorted(screened - landed)
    if open_:
        names = ", ".join(open_[:6]) + ("…" if len(open_) > 6 else "")
        asked.note("screen-unsaid", names=names, many=len(open_))
    return alone


def kind_of(wires: Sequence[ListedWire]) -> CableKind:
    """What the wires of one cable make it."""
    if any(wire.screened or wire.is_screen for wire in wires):
        return CableKind.SCREENED
    if len(wires) == 2 and any(wire.twisted or wire.pair for wire in wires):
        return CableKind.PAIR
    return CableKind.MULTICORE


def _numbered(wires: list[ListedWire], asked: Questions) -> list[ListedWire]:
    """W10.1, W10.2 between the same two places: cores of one cable, asked."""
    groups: dict[str, list[int]] = defaultdict(list)
    of_row = Counter((wire.sheet, wire.row) for wire in wires)
    for at, wire in enumerate(wires):
        match = _NUMBERED.fullmatch(wire.wire)
        if match and not wire.cable and of_row[wire.sheet, wire.row] == 1:
            groups[match[1]].append(at)
    fit = {}
    for name, places in groups.items():
        own = [wires[at] for at in places]
        if len(own) < 2 or name in {wire.wire for wire in wires}:
            continue
        places_of = {frozenset((wire.start[0].lower(), wire.finish[0].lower())) for wire in own if not _is_screen(wire)}
        if len(places_of) == 1 and len({wire.size for wire in own if not _is_screen(wire) and wire.size}) < 2:
            fit[name] = places
    if not fit:
        return wires
    first, places = next(iter(fit.items()))
    said = asked.ask(
        doubt(
            "cores",
            ("cable", "wires"),
            "cable",
            "--answer cores={}",
            rows=[wires[at].row for group in fit.values() for at in group],
            one=wires[places[0]].wire,
            other=wires[places[1]].wire,
            cable=first,
            count=len(fit),
        )
    )
    if said == "cable":
        for name, group in fit.items():
            for at in group:
                match = _NUMBERED.fullmatch(wires[at].wire)
                assert match is not None
                screen = _is_screen(wires[at])
                wires[at] = replace(
                    wires[at], cable=name, core=match[3], is_screen=screen, screened=wires[at].screened or screen
                )
    return wires


def _is_screen(wire: ListedWire) -> bool:
    match = _NUMBERED.fullmatch(wire.wire)
    return wire.is_screen or bool(match and _SCREEN.fullmatch(match[3]))


def _paired(wires: list[ListedWire], asked: Questions) -> list[ListedWire]:
    """Wires that a column says are twisted together: by the pair's name, by the other's number, or marked side by
    side."""
    numbers = {wire.wire.lower(): at for at, wire in enumerate(wires)}
    groups: dict[str, set[int]] = defaultdict(set)
    ticked: list[int] = []
    for at, wire in enumerate(wires):
        said = wire.pair.lower()
        other = numbers.get(said)
        if not said or folded(said) in NO:
            continue
        if folded(said) in YES:
            ticked.append(at)
        elif other is not None and other != at:
            groups[wires[min(at, other)].wire + "-pair"] |= {at, other}
        else:
            groups[wire.pair] |= {at}
    if ticked:
        said = asked.ask(
            doubt(
                "twisted",
                ("pairs", "none"),
                "pairs",
                "--answer twisted={}",
                rows=[wires[at].row for at in ticked],
                count=len(ticked),
                first=wires[ticked[0]].wire,
            )
        )
        if said == "pairs":
            for a, b in zip(ticked[::2], ticked[1::2], strict=False):
                groups[f"{wires[a].wire}-pair"] |= {a, b}
    for name, places in groups.items():
        if len(places) < 2:
            asked.note("lone-twist", wire=wires[min(places)].wire, name=name)
            continue
        for at in places:
            wire = wires[at]
            wires[at] = replace(wire, pair=name) if wire.cable else replace(wire, cable=name, pair="", twisted=True)
    return [replace(wire, pair="") if wire.pair and wire.pair not in groups else wire for wire in wires]


def splices_of(wires: Sequence[ListedWire], asked: Questions) -> frozenset[str]:
    """The ends that are splices by their names; “S1” is asked about, since it may be a switch."""
    met = Counter[str]()
    pinned, rows = set(), defaultdict(list)
    for wire in wires:
        for name, pin in (wire.start, wire.finish):
            met[name.lower()] += 1
            rows[name.lower()].append(wire.row)
            if pin:
                pinned.add(name.lower())
    sure = {name for name in met if _SPLICE.fullmatch(name) or name.startswith("splice ")}
    maybe = [name for name in met if _S.fullmatch(name) and name not in pinned]
    known = {name for name in maybe if met[name] > 2}
    if maybe:
        first = maybe[0].upper()
        said = asked.ask(
            doubt(
                "splices",
                ("splice", "switch"),
                "splice" if known else "switch",
                "--answer splices={}",
                rows=dict.fromkeys(row for name in maybe for row in rows[name]),
                first=first,
                count=len(maybe),
                met=met[maybe[0]],
            )
        )
        sure |= set(maybe) if said == "splice" else set()
    return frozenset(sure)
