"""Laid cross-sections, kept by what is in them, so that an edit lays only the bundles it touches."""

from __future__ import annotations

import numpy as np

from umber_trunk.core.physics.bundle import Sections, Strands
from umber_trunk.core.physics.packing import laid

KNOWN_MOST = 3_000_000  # numbers kept, about 24 MB
_known: dict[bytes, Sections] = {}
_held = 0
"""Numbers that `_known` keeps; threads that add at once may count one twice."""


def sections_of(strands: Strands) -> Sections:
    """The laid sections of s bundles (s, n); those met before are not laid again."""
    global _held
    table = np.stack([strands.outer_m, strands.conductor_m, strands.jacket_w_mk], axis=1)
    keys = [row.tobytes() for row in table]
    # other threads may clear or add meanwhile: each key is asked for once
    found = {key: one for key in set(keys) if (one := _known.get(key)) is not None}
    fresh = list({key: at for at, key in enumerate(keys) if key not in found}.values())
    together = max(1, 60_000 // (strands.outer_m.shape[1] ** 2 + 96 * strands.outer_m.shape[1]))
    for start in range(0, len(fresh), together):
        rows = fresh[start : start + together]
        part = Strands(strands.outer_m[rows], strands.conductor_m[rows], strands.jacket_w_mk[rows])
        centres, enclosing = laid(part.outer_m)
        made = Sections.of(centres, part, enclosing)
        found |= {keys[row]: made.one(at) for at, row in enumerate(rows)}
    if _held > KNOWN_MOST:
        forget_sections()
    _held += sum(one.near.size + one.waves.size for key, one in found.items() if key not in _known)
    _known.update(found)
    return Sections.stacked([found[key] for key in keys])


def forget_sections() -> None:
    """Forgets all sections, for measuring how long laying them takes."""
    global _held
    _known.clear()
    _held = 0
