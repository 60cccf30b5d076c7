"""A cross-section in small squares: heat led through metal, jackets, air, covers and tube walls, given off at the
outside.

Written apart from the program's model and from other figures: resistor network between square cells (finite volumes),
outlines as they lie (wires as packed, the hull a cover lies on, a tube with the bundle on its floor), McAdams' law for
the outside, air after a power law, the gap's stirring after Raithby and Hollands by the width it has at each place,
radiation across it by that width.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.linalg import spsolve
from scipy.spatial import ConvexHull

SIGMA, ZERO, GREY = 5.670374e-8, 273.15, 0.9
METAL, PLASTIC = 60.0, 0.2


def air(celsius: float) -> float:
    return 0.0241 * ((celsius + ZERO) / ZERO) ** 0.83


def outside(width: float, rise: float, ambient: float) -> float:
    """W/m²K of a horizontal cylinder in still air: McAdams' 1.32 (ΔT/D)^¼ and a grey surface."""
    hot, cold = ambient + rise + ZERO, ambient + ZERO
    return 1.32 * (max(rise, 0.1) / width) ** 0.25 + GREY * SIGMA * (hot**2 + cold**2) * (hot + cold)


def from_hull(x: np.ndarray, y: np.ndarray, corners: np.ndarray) -> np.ndarray:
    """Distance to a convex outline, negative inside."""
    signed, near = np.full(x.shape, -np.inf), np.full(x.shape, np.inf)
    for (ax, ay), (bx, by) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        ex, ey = bx - ax, by - ay
        long = math.hypot(ex, ey)
        signed = np.maximum(signed, ((x - ax) * ey - (y - ay) * ex) / long)
        along = np.clip(((x - ax) * ex + (y - ay) * ey) / long**2, 0, 1)
        near = np.minimum(near, np.hypot(x - ax - along * ex, y - ay - along * ey))
    return np.where(signed <= 0, signed, near)


def hottest_rise(
    centres: np.ndarray,
    outer: float,
    core: float,
    watts: Sequence[float],
    ambient: float,
    wall: float = 0.0,
    bore: float = 0.0,
    cells: int = 110,
) -> float:
    """K over ambient of the hottest metal of like wires at `centres` (n, 2) that lose `watts` [W/m] each: bare, in a
    snug cover of `wall`, or in a tube of `bore` and `wall`. Metres."""
    middle = centres - centres.mean(axis=0)
    if bore:  # let down until a wire touches
        steps = np.linspace(0, -bore / 2, 500)
        down = [y for y in steps if np.all(np.hypot(middle[:, 0], middle[:, 1] + y) + outer / 2 <= bore / 2 + 1e-12)]
        middle = middle + np.array([0.0, min(down)])
    turns = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    rims = np.concatenate([spot + outer / 2 * np.column_stack([np.cos(turns), np.sin(turns)]) for spot in middle])
    corners = rims[ConvexHull(rims).vertices]
    girth = float(np.hypot(*(corners - np.roll(corners, 1, axis=0)).T).sum())
    reach = 1.04 * (bore / 2 + wall if bore else float(np.abs(corners).max()) + wall)
    grid = (np.arange(cells) + 0.5) * 2 * reach / cells - reach
    x, y = np.meshgrid(grid, grid, indexing="ij")
    beyond, radius = from_hull(x, y, corners), np.hypot(x, y)
    inside = radius <= bore / 2 + wall if bore else beyond <= wall
    apart = np.array([np.hypot(x - a, y - b) for a, b in middle])
    jackets, metals = apart.min(axis=0) <= outer / 2, apart <= core / 2
    heat = sum(watt * metal / max(metal.sum(), 1) for watt, metal in zip(watts, metals, strict=True))
    total = float(np.sum(watts))
    width = bore + 2 * wall if bore else girth / math.pi + 2 * wall
    skin = total / (math.pi * width * 12)
    mean, hot = 1.5 * skin, 0.0
    for _ in range(6):
        kelvin = ambient + mean + ZERO
        k = np.full(x.shape, air(ambient + mean) + 4 * SIGMA * kelvin**3 * 0.82 * outer * 0.17)
        if bore:
            gap = (beyond > 0) & (radius <= bore / 2)
            half, warm = (bore - girth / math.pi) / 2, ambient + (mean + skin) / 2 + ZERO
            nu = 1.6e-5 * (warm / 300) ** 1.7
            narrow = math.log(bore * math.pi / girth) ** 4 / (half**3 * ((girth / math.pi) ** -0.6 + bore**-0.6) ** 5)
            stirred = (
                0.386
                * (0.71 / 1.571) ** 0.25
                * (narrow * 9.81 / warm * max(mean - skin, 1.0) * half**3 * 0.71 / nu**2) ** 0.25
            )
            here = (beyond + np.maximum(bore / 2 - radius, 0))[gap]
            grey = 4 * SIGMA * warm**3 / (1 / GREY + girth / math.pi / bore * (1 / GREY - 1))
            k[gap] = air(warm - ZERO) * np.maximum(1.0, stirred * (here / half) ** 0.75) + grey * here
            k[radius > bore / 2] = PLASTIC
        else:
            k[beyond > 0] = PLASTIC
        k[jackets], k[metals.any(axis=0)] = PLASTIC, METAL
        field, skin = _solved(k, heat, inside, outside(width, skin, ambient) * math.pi * width)
        mean = float(field[(beyond <= 0) & inside].mean())
        hot = max(float(field[metal].mean()) for metal in metals)
    return hot


def _solved(k: np.ndarray, heat: np.ndarray, inside: np.ndarray, given_off: float) -> tuple[np.ndarray, float]:
    """(rise of each cell, mean rise of the edge): `given_off` [W/mK] is shared by the cells at the edge."""
    number = np.where(inside, np.cumsum(inside.ravel()).reshape(inside.shape) - 1, -1)
    count = int(inside.sum())
    rows, cols, values, diagonal, edge = [], [], [], np.zeros(count), np.zeros(inside.shape, dtype=bool)
    for here, there in ((np.s_[:-1, :], np.s_[1:, :]), (np.s_[:, :-1], np.s_[:, 1:])):
        both = inside[here] & inside[there]
        led = (2 * k[here] * k[there] / (k[here] + k[there]))[both]
        a, b = number[here][both], number[there][both]
        rows += [a, b]
        cols += [b, a]
        values += [-led, -led]
        np.add.at(diagonal, a, led)
        np.add.at(diagonal, b, led)
        edge[here] |= inside[here] & ~inside[there]
        edge[there] |= inside[there] & ~inside[here]
    rim = number[edge]
    diagonal[rim] += given_off / len(rim)
    every = np.arange(count)
    table = coo_array(
        (np.concatenate([*values, diagonal]), (np.concatenate([*rows, every]), np.concatenate([*cols, every]))),
        shape=(count, count),
    )
    rise = spsolve(table.tocsc(), heat[inside])
    field = np.zeros(inside.shape)
    field[inside] = rise
    return field, float(rise[rim].mean())
