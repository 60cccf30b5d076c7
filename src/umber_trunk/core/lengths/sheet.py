"""Lengths as rows for others: the keys of the shell's JSON, in their order."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from umber_trunk.core.lengths.wire_length import WireLength

KEYS = (
    "path_m", "bends_m", "twist_m", "loops_m", "entry_m", "strip_m", "remakes_m", "extra_m", "cut_m", "sd_m", "chance_short",
)  # fmt: skip


def length_dict(one: WireLength) -> dict[str, Any]:
    """One wire: the parts of its length in metres, `cut_m` their sum; then what else is known of it."""
    return {
        "id": one.wire,
        **{key: round(getattr(one, key), 9) for key in KEYS},
        "finished_m": round(one.finished_m, 9),
        "rounding_m": round(one.rounding_m, 9),
        "comb": one.comb,
        "alike": one.alike,
        "why": {share.what: share.why for share in one.shares},
    }


def length_rows(lengths: Iterable[WireLength]) -> list[list[str | int | float | None]]:
    """A heading and one row for each wire, metres to a tenth of a millimetre."""
    rows: list[list[str | int | float | None]] = [["id", *KEYS]]
    for one in lengths:
        rows.append([one.wire, *(f"{getattr(one, key):.{6 if key == 'chance_short' else 4}f}" for key in KEYS)])
    return rows
