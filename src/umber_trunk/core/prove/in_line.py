"""Faults that change one wire's resistance and nothing else: looked at along that one figure, all kinds at once.

    a ──u══════ wire: R → R + x ══════v── b      A bad crimp, a thin or long piece, lost strands, a break (x = ∞): each
         └──── the rest of its island ──┘        is some x. With the island's inverse at hand a reading a–b of the
                                                 changed island is a closed form (Sherman and Morrison, a rank-one
    change of a conductance), so that all readings are judged on a grid of x in one go: r(x) = r − c²·Δ/(1 + Δ·across),
    Δ = 1/(R + x) − 1/R, c how much of the reading's volts lies across the wire per ampere.

Each kind then takes its share of the likelihood, by how likely its figures are beforehand (`priors.py`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.prove.belief import NEGLIGIBLE, Belief, Evidence, Reading
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.faults import faulty_ohm
from umber_trunk.core.prove.gauss import log_each, log_normals
from umber_trunk.core.prove.meter import SLIP, log_stray
from umber_trunk.core.prove.priors import HIGH_USUAL, LONGER, STUD_SHARE
from umber_trunk.core.prove.probe import at_part, error_of
from umber_trunk.core.prove.state import WANDERS

Floats = NDArray[np.float64]
HIGH_STEP = 0.055
"""Between two ohms of a joint that are looked at, in their logarithm."""
BROADEN = 0.03
"""How much of what a figure adds lies between it and the next of the grid."""


@dataclass(frozen=True)
class _Along:
    """What is needed to look along one wire's resistance: the readings its island has, how much of each one's volts
    lies across it per ampere, and the resistance across it."""

    belief: Belief
    mine: list[int]
    carries: Floats
    across: float
    ohm: float
    placed: Floats = field(default_factory=lambda: np.zeros(0))
    """1 for readings of millivolts across the part in which the fault that is looked at lies, else 0."""

    def __post_init__(self) -> None:
        if not len(self.placed):
            object.__setattr__(self, "placed", np.zeros(len(self.mine)))

    def at(self, readings: Sequence[Reading], what: str, end: str) -> _Along:
        """The same for a fault of a kind at an end."""
        placed = [
            float(at_part(what, end, readings[at].probe.part)) if readings[at].probe.part else 0.0 for at in self.mine
        ]
        return replace(self, placed=np.array(placed))


class InLine(Evidence):
    """The search along single wires."""

    def _in_line(self, belief: Belief, wire: str, log_depth: float) -> list[Belief]:
        """All faults that change a wire's resistance: the likelihood along that one figure, then each kind's share of
        it."""
        state, row = belief.state, self.net.edge_of[wire]
        edge = state.edges[row]
        island = state.island[edge.a]
        rows, inverse = state.solved(island)
        u, v = rows[edge.a], rows[edge.b]
        across = float(inverse[u, u] + inverse[v, v] - 2 * inverse[u, v])
        mine = [
            at
            for at in range(len(self.readings))
            if self.readings[at].probe.single
            and self.readings[at].probe.kind != "insulation"
            and not self.readings[at].probe.lift
            and not self.readings[at].probe.part
            and not belief.seen[at].vague
            and not belief.seen[at].breaks
            and state.island[state.node(self.readings[at].probe.a[0])]
            == island
            == state.island[state.node(self.readings[at].probe.b[0])]
        ]
        if not mine:
            return []
        carries = np.array(
            [
                float(
                    (inverse[u] - inverse[v])[rows[state.node(self.readings[at].probe.a[0])]]
                    - (inverse[u] - inverse[v])[rows[state.node(self.readings[at].probe.b[0])]]
                )
                for at in mine
            ]
        )
        carries[np.abs(carries) < 1e-6 * edge.ohm] = 0.0
        if not carries.any():
            return []
        kinds, extras, weights, faults = self._grid(wire)
        parts = [at for at, one in enumerate(self.readings) if one.probe.wire == wire and one.probe.part]
        known = _Along(belief, [*mine, *parts], np.append(carries, np.zeros(len(parts))), across, edge.ohm)
        before = self._log(state, known.mine, belief.seen) - np.log(weights) + math.log(len(self.priors.wires))
        alike = None if parts else self._figures(known, extras, BROADEN) - before
        found = []
        for kind in dict.fromkeys(kinds.tolist()):
            chosen = np.flatnonzero(kinds == kind)
            for what, end, log_share in self._named(wire, kind):
                if alike is not None:
                    here = alike[chosen]
                else:
                    here = self._figures(known.at(self.readings, what, end), extras[chosen], BROADEN) - before[chosen]
                total = float(np.logaddexp.reduce(here))
                if total + log_share + log_depth < -NEGLIGIBLE:
                    continue
                best = int(np.argmax(here))
                fault = replace(faults[chosen[best]], what=what, end=end)
                fault = self._refined(known.at(self.readings, what, end), fault, float(extras[chosen[best]]))
                if what in ("high", "stud"):
                    low, high = _nine_of_ten(extras[chosen], here)
                    fault = replace(fault, ohm_low=min(low, fault.ohm), ohm_high=max(high, fault.ohm))
                found.append(self._resolved(belief, fault, belief.log + log_depth + total + log_share))
        return found

    def _figures(self, known: _Along, extras: Floats, broaden: float) -> Floats:
        """Log likelihood of the readings along a wire for each figure of its resistance."""
        belief, mine, carries = known.belief, known.mine, known.carries
        base = np.array([belief.seen[at].ohm for at in mine])
        read_ = np.array([self.readings[at].ohm for at in mine])
        after = np.maximum(known.ohm + extras, 1e-9)
        with np.errstate(divide="ignore", invalid="ignore"):
            less = np.where(np.isinf(after), -1 / known.ohm, 1 / after - 1 / known.ohm)
            whole = 1 + less * known.across
            change = np.where(np.abs(whole) < 1e-6, np.inf, -less / np.where(np.abs(whole) < 1e-6, 1.0, whole))
            predicted = base[:, None] + np.where(
                carries[:, None] == 0, 0.0, carries[:, None] ** 2 * np.where(np.isinf(change), 1.0, change)[None, :]
            )
        predicted = np.where(np.isinf(change)[None, :] & (carries[:, None] != 0), np.inf, predicted)
        parts = np.array([bool(self.readings[at].probe.part) for at in mine])
        gone_too, added = np.isinf(extras)[None, :], np.where(np.isinf(extras), 0.0, extras)[None, :]
        predicted[parts] = base[parts, None] + np.where(gone_too, np.inf, known.placed[parts, None] * added)
        over = np.array([self.meter.over(self.readings[at].probe.kind) for at in mine])[:, None]
        gone = np.isinf(read_)[:, None]
        mismatch = gone != (predicted > over)
        log: Floats = np.where(mismatch & gone, math.log(SLIP), 0.0).sum(axis=0)
        log = log + np.where(
            mismatch & ~gone, np.array([log_stray(one) if math.isfinite(one) else 0.0 for one in read_])[:, None], 0.0
        ).sum(axis=0)
        return log + self._sized(known, read_, predicted, mismatch, extras, broaden)

    def _refined(self, known: _Along, fault: Fault, extra: float) -> Fault:
        """A fault whose figure is any, brought from the grid's nearest to what the readings say."""
        if fault.what not in ("high", "stud", "longer", "strands"):
            return fault
        scale = 1 + np.linspace(-0.06, 0.06, 49)
        by = float(scale[int(np.argmax(self._figures(known, extra * scale, 0.0)))])
        length = self.net.facts[fault.where[0]].length_m
        return replace(
            fault,
            ohm=fault.ohm * by,
            metres=min(fault.metres * by, length) if fault.what == "strands" else fault.metres * by,
        )

    def _named(self, wire: str, kind: str) -> list[tuple[str, str, float]]:
        """(kind, end, log of its share) of what a kind can be at a wire: a high joint at either end alike, under a nut
        or screw that or the crimp."""
        if kind != "high":
            return [(kind, "", 0.0)]
        one = self.net.index.wires[wire]
        found = []
        for end in dict.fromkeys((one.start.end, one.finish.end)):
            share = 0.5 if one.start.end != one.finish.end else 1.0
            stud = STUD_SHARE if self.net.screwed(wire, end) else 0.0
            found.append(("high", end, math.log(share * (1 - stud))))
            if stud:
                found.append(("stud", end, math.log(share * stud)))
        return found

    def _grid(self, wire: str) -> tuple[NDArray[np.str_], Floats, Floats, list[Fault]]:
        """(kind, ohms added, prior, fault) of every in-line fault of a wire that is looked at."""
        return self.priors.along.once(wire, lambda: self._worked_out(wire))

    def _worked_out(self, wire: str) -> tuple[NDArray[np.str_], Floats, Floats, list[Fault]]:
        facts, shares = self.net.facts[wire], self.priors.shares
        rows: list[tuple[str, float, float, Fault]] = [("open", math.inf, shares["open"], Fault("open", (wire,)))]
        low, usual, most = self.priors.joint_ohms(wire)
        for span, share in (((low, usual), HIGH_USUAL), ((usual, most), 1 - HIGH_USUAL)):
            ohms = np.geomspace(*span, max(int(math.log(span[1] / span[0]) / HIGH_STEP), 8))
            rows += [
                ("high", float(ohm), shares["high"] * share / len(ohms), Fault("high", (wire,), ohm=float(ohm)))
                for ohm in ohms
            ]
        for label, share in self.priors.sizes(wire):
            fault = Fault("size", (wire,), size=label)
            rows.append(("size", faulty_ohm(self.net, fault) - facts.ohm, shares["size"] * share, fault))
        names = self.priors.metals(wire)
        for name in names:
            fault = Fault("metal", (wire,), metal=name)
            rows.append(("metal", faulty_ohm(self.net, fault) - facts.ohm, shares["metal"] / len(names), fault))
        for share in np.linspace(*LONGER, 60):
            rows.append(
                (
                    "longer",
                    facts.copper_ohm * float(share),
                    shares["longer"] / 60,
                    Fault("longer", (wire,), metres=facts.length_m * float(share)),
                )
            )
        lost, stretches, rises = self.priors.lost
        order = np.argsort(rises)
        for group in np.array_split(order, 60):  # those that come to the same ohms together
            middle = int(group[len(group) // 2])
            fault = Fault(
                "strands", (wire,), share=float(lost[middle]), metres=facts.length_m * float(stretches[middle])
            )
            rows.append(
                (
                    "strands",
                    facts.copper_ohm * float(rises[group].mean()),
                    shares["strands"] * len(group) / len(rises),
                    fault,
                )
            )
        return (
            np.array([row[0] for row in rows]),
            np.array([row[1] for row in rows]),
            np.array([row[2] for row in rows]),
            [row[3] for row in rows],
        )

    def _sized(
        self,
        known: _Along,
        read_: Floats,
        predicted: Floats,
        mismatch: NDArray[np.bool_],
        extras: Floats,
        broaden: float,
    ) -> Floats:
        """Log likelihood of the sizes of readings for each figure of the grid: the covariance of the state, widened by
        the grid's own steps."""
        log = np.zeros(len(extras))
        mine, seen = known.mine, known.belief.seen
        _, spread = self._spread(known.belief.state, mine, seen)
        relative = known.carries / max(known.ohm, 1e-12) + known.placed
        before = np.array(
            [
                float(error_of(self.meter, self.readings[at].probe, np.array(seen[at].ohm)))
                if math.isfinite(seen[at].ohm)
                else 0.0
                for at in mine
            ]
        )
        after = np.array(
            [
                error_of(self.meter, self.readings[at].probe, np.where(np.isfinite(row), row, 0.0))
                for at, row in zip(mine, predicted, strict=True)
            ]
        )
        added = np.where(np.isfinite(extras), extras, 0.0)
        joint = known.placed * [self.readings[at].probe.part != "along" for at in mine]
        after = np.hypot(after, WANDERS * joint[:, None] * added[None, :])
        step = broaden * np.abs(added)[:, None] * relative[None, :] ** 2
        own = np.diag(spread)[:, None] + after**2 - before[:, None] ** 2 + (step**2).T + 1e-18
        sized = np.isfinite(read_)[:, None] & ~mismatch
        stray = np.array([log_stray(one) if math.isfinite(one) else 0.0 for one in read_])[:, None]
        with np.errstate(invalid="ignore"):
            spoilt = sized & (stray > log_each(read_[:, None] - predicted, own))
        log += np.where(spoilt, stray, 0.0).sum(axis=0)
        sized &= ~spoilt
        for pattern in np.unique(sized, axis=1).T:
            rows = np.flatnonzero(pattern)
            columns = np.flatnonzero((sized == pattern[:, None]).all(axis=0))
            if not len(rows):
                continue
            whole = np.broadcast_to(spread[np.ix_(rows, rows)], (len(columns), len(rows), len(rows))).copy()
            mine_step = step[np.ix_(columns, rows)]
            whole += mine_step[:, :, None] * mine_step[:, None, :]
            diagonal = np.arange(len(rows))
            whole[:, diagonal, diagonal] += (after[np.ix_(rows, columns)] ** 2 - before[rows][:, None] ** 2).T + 1e-16
            values = predicted[np.ix_(rows, columns)]
            log[columns] += log_normals((read_[rows][:, None] - values).T, whole)
        return log


def _nine_of_ten(figures: Floats, logs: Floats) -> tuple[float, float]:
    """(low, high) between which nine of ten of a figure's weight lie; figures in rising order."""
    order = np.argsort(figures)
    weight = np.exp(logs[order] - logs.max())
    whole = np.cumsum(weight) / weight.sum()
    low, high = np.searchsorted(whole, (0.05, 0.95))
    return float(figures[order][low]), float(figures[order][min(high, len(figures) - 1)])
