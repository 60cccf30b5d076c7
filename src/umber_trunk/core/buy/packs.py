"""Lengths cut from packs, each in one piece."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from umber_trunk.core.sentences import NOTHING, Message


def in_packs(lengths: Sequence[float], more: float, pack: float) -> tuple[float, int, Message]:
    """(metres to buy, packs, what to ask for) for lengths each in one piece, m, and spare that may lie in several; no
    packs where none holds the longest, or the part is not sold in them (`pack` 0)."""
    longest = max(lengths, default=0.0)
    if pack and longest > pack:
        return sum(lengths) + more, 0, Message.of("buy.one-piece", pack=pack, longest=longest)
    if not pack:
        return sum(lengths) + more, 0, NOTHING
    whole, rest = divmod(more, pack)
    packs = int(whole) + packs_of([*lengths, *([rest] if rest > 1e-9 else [])], pack)
    return packs * pack, packs, NOTHING


def packs_of(lengths: Iterable[float], pack: float) -> int:
    """Packs to cut these lengths from, each in one piece."""
    return len(left_in_packs(lengths, pack))


def left_in_packs(lengths: Iterable[float], pack: float) -> list[float]:
    """What is left of each pack, m, when these are cut from packs, each in one piece: the longest first, into the first
    that still holds it."""
    left: list[float] = []
    for length in sorted(lengths, reverse=True):
        at = next((n for n, room in enumerate(left) if length <= room + 1e-9), None)
        if at is None:
            left.append(pack - length)
        else:
            left[at] -= length
    return left
