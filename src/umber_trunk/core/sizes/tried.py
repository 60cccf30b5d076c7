"""The best places a wire can have in its bundles, taken from cross-sections that were laid.

How much hotter than the rim a wire runs by its own loss hangs on where it lies among the others, and no closed form is
under all sections. It is least in the thinnest section a bundle can have: heat has the shortest way out of it and the
narrowest gaps to cross. What the best place there gives, times `LESS`, stands for the place a wire will get; sections
made of all steps that are open say it better (`LESS_DRAWN`). Neither is a theorem: `tests/core/sizes/test_certain.py`
looks for a section that is better.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, Sections, Strands
from umber_trunk.core.physics.constants import FILLING_W_MK
from umber_trunk.core.physics.film import film_w_m2k
from umber_trunk.core.physics.sections import sections_of
from umber_trunk.core.solve.heat_plan import ThermalPlan

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

LESS = ((3, 0.75), (6, 0.5), (7, 0.6), (15, 0.78))
"""Of the least rise over the rim found in the thinnest section, by the number of wires from which it counts: what a
place nobody tried might be better by. Rings of six to fourteen leave room for a wire to slip outside. The best found in
7 500 sections of each number: 0.89 (5 wires), 0.56 (6), 0.66 (9 and 14), 0.82 (18)."""
LESS_DRAWN = ((3, 0.95), (6, 0.6), (7, 0.75), (10, 0.84), (15, 0.9))
"""The same of the least rise found in sections drawn from the steps that are open: 0.99 (5 wires), 0.71 (6), 0.83 (9),
0.91 (14), 0.95 (18) were found."""
DRAWN_MOST, DRAWN_LEAST, SECTIONS = 60, 20, 600
"""Sections drawn for a stretch, and for all of them; where there are too many stretches none are drawn."""
RANKS = (0.0, 0.15, 0.3, 0.5, 0.7, 0.9)
"""Shares of the wires of a stretch that may lie better than a place: not all can lie best."""


def least_share(width_m: Floats, most_rise_k: Floats, air_c: Floats, air_m_s: Floats) -> Floats:
    """The least of its neighbours' heat that a wire can feel, over what it would feel were the rim evenly warm.

    The answer of a disc with a film at its rim is least between opposite points of the rim, where the series of
    `physics.bundle` sums to 1 − 2·Bi·β(1 + Bi), β(x) = ½[ψ((x+1)/2) − ψ(x/2)]; metal across it only evens it out.
    """
    from scipy.special import digamma

    film = film_w_m2k(width_m, most_rise_k, air_c, air_m_s)
    biot = film * width_m / 2 / FILLING_W_MK
    beta = (digamma((biot + 2) / 2) - digamma((biot + 1) / 2)) / 2
    result: Floats = np.clip(1 - 2 * biot * beta, 0.0, 1.0)
    return result


LIVELY = 2.0
"""Times the usual film: the livelier it is, the less a wire near the rim is above it."""


@dataclass(frozen=True)
class Tried:
    """Of each bundle, section tried and rank (bundles, sections, ranks): ln(R/a) less what metal and rim take off, plus
    ln(a), of the place that so many of the others lie better than, at a usual and at a lively film. better: how many
    those others are (bundles, ranks). stuff: 2πk (bundles, sections); outside_m: width of the circle as long as what
    gives off heat; less: what counts of the rise (bundles,);
    apart_km_w: how far a wire is over the rim by the others' heat, per W/m of theirs, least of all wires and sections
    (bundles,). Nothing is known of bundles too large to resolve: a wire may lie at the rim itself."""

    usual: Floats
    lively: Floats
    better: Ints
    stuff: Floats
    outside_m: Floats
    less: Floats
    apart_km_w: Floats

    @classmethod
    def of(cls, heat: ThermalPlan, tried: Sequence[Strands], lost_w: Floats) -> Tried:
        """The sections that wires (wires,) made in these ways are laid to; lost_w: what pairs (pairs,) lose [W/m]."""
        many, bundles = len(heat.bundles.segment), heat.bundles
        shape = (many, len(tried), len(RANKS))
        found = cls(
            np.full(shape, -np.inf),
            np.full(shape, -np.inf),
            np.zeros((many, len(RANKS)), dtype=np.intp),
            np.ones(shape[:2]),
            np.full(shape[:2], np.inf),
            np.ones(many),
            np.full(many, -np.inf),
        )
        for batch in heat.batches:
            n = batch.pairs.shape[1]
            if batch.sections is None or n <= 2:
                continue
            found.less[batch.bundles] = [
                less for least, less in (LESS_DRAWN if len(tried) > 1 else LESS) if n >= least
            ][-1]
            found.better[batch.bundles] = (np.array(RANKS) * n).astype(np.intp)
            for number, strands in enumerate(tried):
                rows = heat.wire[batch.pairs]
                order = np.lexsort((strands.jacket_w_mk[rows], -strands.conductor_m[rows], -strands.outer_m[rows]))
                rows = np.take_along_axis(rows, order, axis=1)
                outer = strands.outer_m[rows]
                sections = sections_of(Strands(outer, strands.conductor_m[rows], strands.jacket_w_mk[rows]))
                band = 2 * sections.radius_m * sections.rim_share + 2 * bundles.sleeve_m[batch.bundles]
                found.outside_m[batch.bundles, number] = np.maximum(band, bundles.outside.conduit_m[batch.bundles])
                found._put(batch.bundles, number, sections, outer)
                if len(tried) > 1:
                    found._even(batch.bundles, sections, lost_w[np.take_along_axis(batch.pairs, order, axis=1)])
        return found

    def _even(self, bundles: Ints, sections: Sections, lost_w: Floats) -> None:
        """What the others' losses (s, n) give each wire over the rim, per W/m."""
        n = lost_w.shape[1]
        answer = sections.response_km_w(np.full(len(bundles), LIVELY * USUAL_FILM_W_M2K)) * (1 - np.eye(n))
        others = lost_w.sum(axis=1)[:, None] - lost_w
        felt = np.where(others > 1e-9, np.einsum("sij,sj->si", answer, lost_w) / np.maximum(others, 1e-9), 0.0).min(
            axis=1
        )
        self.apart_km_w[bundles] = np.where(
            np.isinf(self.apart_km_w[bundles]), felt, np.minimum(self.apart_km_w[bundles], felt)
        )

    def _put(self, bundles: Ints, number: int, sections: Sections, outer_m: Floats) -> None:
        self.stuff[bundles, number] = 2 * np.pi * sections.filling_w_mk
        for column, times in ((self.usual, 1.0), (self.lively, LIVELY)):
            own = sections.own_km_w(times * USUAL_FILM_W_M2K) * self.stuff[bundles, number][:, None]
            ranked = np.sort(own + np.log(outer_m / 2), axis=1)
            column[bundles, number] = np.take_along_axis(ranked, self.better[bundles], axis=1)

    def narrowest_m(self, bundle: Ints, outer_mm: Floats) -> Floats:
        """The least width outside of these bundles in any section tried; a lone wire's own."""
        narrow = self.outside_m.min(axis=1)[bundle]
        return np.where(np.isfinite(narrow), narrow, outer_mm / 1e3)

    def answers(
        self, bundle: Ints, outer_mm: Floats, film_w_m2k: Floats, rank: int, lively: bool
    ) -> tuple[Floats, Floats]:
        """(rise over the rim, rise with the rim's at these films) per W/m of its own that wires so wide can have in
        these bundles at the place of a rank, each the least of all sections tried, jackets apart."""
        column = (self.lively if lively else self.usual)[bundle, :, rank]
        own = (
            self.less[bundle][:, None] * np.maximum(column - np.log(outer_mm / 2e3)[:, None], 0.0) / self.stuff[bundle]
        )
        if own.shape[1] == 1:  # the thinnest section alone says nothing of a wider one's rim
            return own[:, 0], own[:, 0]
        rim = 1 / (np.pi * self.outside_m[bundle] * film_w_m2k[:, None])
        return own.min(axis=1), (own + rim).min(axis=1)
