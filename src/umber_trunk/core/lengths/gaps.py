"""A table of distances between ends, made whole: what four ends decide follows, the rest is taken as far as they allow.

Of the three sums of opposite lengths of four ends, the two larger are equal in a tree (P. Buneman 1971), so five of six
lengths give the sixth wherever they differ clearly.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import Wanted, go_on_if
from umber_trunk.core.lengths.trees import Floats

WITNESSES = 40
"""So many ends are asked about a distance that isn't listed."""
NOISE_FOURS, PRECISE, EXACT = 600, 0.02, 1e-5
"""Fours of ends that tell the noise; the noise a distance may have at most; noise under which what follows may be
followed further."""


def completed(listed: Floats, wanted: Wanted) -> tuple[Floats, NDArray[np.bool_]]:
    """(the table of distances with its gaps filled, which of them are listed or follow from the list). Gaps are filled
    by four ends where those decide, else by the middle of what the ends between allow."""
    table, noise = listed.copy(), _noise(listed)
    known = ~np.isnan(table)
    for turn in range(len(table)):
        go_on_if(wanted)
        gaps = np.argwhere(np.triu(np.isnan(table), 1)).tolist()
        found = [(i, j, value) for i, j in gaps if (value := _by_four(table, i, j, noise)) is not None]
        if not found:
            break
        for i, j, value in found:
            table[i, j] = table[j, i] = value
        if noise < EXACT or turn == 0:  # what follows from what follows carries too much noise to be called known
            known = ~np.isnan(table)
    while np.isnan(table).any():
        go_on_if(wanted)
        i, j = _likeliest_gap(table)
        both = ~np.isnan(table[i]) & ~np.isnan(table[j])
        if both.any():
            most, least = float(np.min((table[i] + table[j])[both])), float(np.max(np.abs(table[i] - table[j])[both]))
            table[i, j] = table[j, i] = max(least, 0.5 * (most + least))
        else:
            table[i, j] = table[j, i] = _through(table, i)[j]
    return table, known


def _noise(listed: Floats) -> float:
    """How far the list is from any tree: of fours of ends it knows whole, the median share by which the two larger sums
    differ; 0 where it knows none."""
    known = ~np.isnan(listed)
    pairs = np.argwhere(np.triu(known, 1))
    draw = np.random.default_rng(5)
    off = []
    for i, j in pairs[draw.permutation(len(pairs))[:NOISE_FOURS]].tolist():
        both = np.flatnonzero(known[i] & known[j])
        both = both[(both != i) & (both != j)]
        if len(both) < 2:
            continue
        for k, m in ((a, b) for a, b in draw.choice(both, (4, 2)).tolist() if a != b and known[a, b]):
            sums = sorted((listed[i, j] + listed[k, m], listed[i, k] + listed[j, m], listed[i, m] + listed[j, k]))
            off.append((sums[2] - sums[1]) / sums[2])
    return float(np.median(off)) if off else 0.0


def _by_four(table: Floats, i: int, j: int, noise: float) -> float | None:
    """d(i, j) where two other ends k, l decide it: of the three sums the two larger are equal. Told by the median of
    all that decide clearly; None where noise could have decided, or be more than PRECISE of it."""
    known = np.flatnonzero(~np.isnan(table[i]) & ~np.isnan(table[j]))
    known = known[(known != i) & (known != j)]
    if len(known) < 2:
        return None
    if len(known) > WITNESSES:
        known = known[np.linspace(0, len(known) - 1, WITNESSES).astype(int)]
    between = table[np.ix_(known, known)]
    one = table[i, known][:, None] + table[j, known][None, :]
    other = one.T
    larger = np.maximum(one, other)
    apart = np.abs(one - other)
    size = np.nanmax(np.where(np.isnan(between), 0, between)) + 1e-9
    clear = (apart > np.maximum(1e-4 * size, 8 * noise * larger)) & ~np.isnan(between) & (between > 0)
    if not clear.any():
        return None
    value = max(float(np.median((larger - between)[clear])), 0.0)
    return value if noise * float(np.median(larger[clear])) <= PRECISE * value + 1e-9 else None


def _likeliest_gap(table: Floats) -> tuple[int, int]:
    """The gap with the most ends known to both."""
    known = ~np.isnan(table)
    common = (known.astype(float) @ known.astype(float)) * ~known
    i, j = (int(at) for at in np.unravel_index(int(np.argmax(common - known)), common.shape))
    if known[i, j]:
        i, j = (int(x) for x in np.argwhere(~known)[0])
    return i, j


def _through(table: Floats, start: int) -> Floats:
    """Shortest ways along known lengths from one end."""
    from scipy.sparse.csgraph import dijkstra

    found: Floats = dijkstra(np.where(np.isnan(table), 0, table), directed=False, indices=start)
    return found
