"""How much of each limit every wire and load uses, over all cases; the worst stands first.

    used = what happens ÷ what may:   drop    volts lost ÷ volts the load allows (its source's sag taken off)
                                      heat    rise over the air ÷ room from the air to the jacket's limit
                                      surge   the same at the end of a start, to what the jacket stands briefly
                                      fuse    current the fuse lets through ÷ current the wire stands as long
                                      hands   least area the house handles ÷ the wire's

At 1 a limit is just met. The case in which a wire uses most of any is the one its figures are told of.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.physics.network import LEAST_OHM
from umber_trunk.core.physics.protection import MOST_USED, Protected, protection
from umber_trunk.core.sentences import Message
from umber_trunk.core.solve.feeds import worst_served
from umber_trunk.core.solve.guards import Guard, fault_a, guards
from umber_trunk.core.solve.solution import CaseSolution, Solution
from umber_trunk.core.solve.standing import as_made_of, near_tightest, standing_at
from umber_trunk.core.solve.used import Figures, Limit, LoadFigures, Use, WireFigures
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]


_use = partial(tuple.__new__, Use)
_of_load = partial(tuple.__new__, LoadFigures)
_of_wire = partial(tuple.__new__, WireFigures)
"""Rows from their fields in order: there are tens of thousands, and the named form takes three times as long."""


def wiring_rule(solution: Solution, row: int, sag_v: float) -> tuple[float, Message]:
    """(volts, rule) left to the wiring of a load while its source loses sag_v inside: the strictest of its own percent
    and volts, or the project's, which judge the wiring alone, and of its lowest voltage, which judges what arrives."""
    load = solution.plant.loads[row]
    nominal, usual = float(solution.plant.nominal_v[row]), solution.plant.design.project.max_drop_percent
    return _strictest(load.max_drop_percent, load.max_drop_v, load.min_volts, usual, nominal, sag_v)


@lru_cache(maxsize=4096)  # of thousands of loads most are asked the same
def _strictest(
    percent: float | None, most_v: float | None, least_v: float | None, usual: float, nominal_v: float, sag_v: float
) -> tuple[float, Message]:
    rules = list[tuple[float, Message]]()
    if percent is not None:
        rules.append((percent / 100 * nominal_v, Message.of("load.rule.percent", percent=percent)))
    if most_v is not None:
        rules.append((most_v, Message.of("load.rule.volts", volts=most_v)))
    if not rules:
        rules.append((usual / 100 * nominal_v, Message.of("load.rule.project", percent=usual)))
    if least_v is not None:
        rules.append((nominal_v - least_v - sag_v, Message.of("load.rule.least", volts=least_v)))
    volts, rule = min(rules, key=lambda one: one[0])
    return max(volts, 1e-6), rule


def allowed_drop(case: CaseSolution, solution: Solution, row: int) -> float:
    """Volts a load may be down in a case, its source's sag counted with."""
    sag = float(np.nan_to_num(case.sag_v[row]))
    return sag + wiring_rule(solution, row, sag)[0]


def figures(solution: Solution) -> Figures:
    """Uses of all limits from a solution."""
    rules = {case.case.id: _rules(solution, case) for case in solution.cases}
    by_case = {case.case.id: _load_table(solution, case, rules[case.case.id]) for case in solution.cases}
    loads: dict[str, LoadFigures] = {}
    for table in by_case.values():
        for key, entry in table.items():
            if key not in loads or entry.used > loads[key].used * MET:
                loads[key] = entry
    found, bare = guards(solution)
    worst = _Worst([_case_columns(solution, case, rules[case.case.id]) for case in solution.cases])
    protected = judged_fuses(solution, found)
    wires = _wire_table(solution, worst, found, protected)
    return Figures(solution, wires, loads, found, bare, by_case, protected)


def judged_fuses(solution: Solution, found: list[Guard | None]) -> dict[int, Protected]:
    """Wire row → its fuse in the case and in the stretch that are worst for it."""
    plant, project = solution.plant, solution.plant.design.project
    rows = np.array([row for row, guard in enumerate(found) if guard is not None], dtype=np.intp)
    if not len(rows):
        return {}
    wires = [plant.conductors[row] for row in rows.tolist()]
    rating = np.array([guard.rating_a for guard in found if guard is not None])
    fault = np.array([guard.fault_a for guard in found if guard is not None])
    worst, at = np.empty((0, len(rows))), np.zeros(len(rows), dtype=np.intp)
    for number, case in enumerate(solution.cases):
        of, pairs = near_tightest(plant, solution.heat, case, rows)
        standing = standing_at(plant, solution.heat, case, pairs)
        one = protection(
            rating[of],
            standing,
            [wires[at] for at in of.tolist()],
            plant.parallel[rows[of]],
            fault[of],
            project.fuse_rule,
            project.fuse_allowance_k,
        )
        hardest = np.lexsort((-one.used, of))
        hardest = hardest[np.append(True, of[hardest][1:] != of[hardest][:-1])]  # each wire in its worst stretch
        every = np.array([one.used, one.worst_a, one.seconds, one.allowed_c, one.withstand_a, one.ampacity_a, pairs])
        table = every[:, hardest]
        if not number:
            worst = table
            continue
        harder = table[0] > worst[0] * MET
        worst, at = np.where(harder, table, worst), np.where(harder, number, at)
    names = [case.case.id for case in solution.cases]
    judged = zip(rows.tolist(), rating.tolist(), *worst.tolist(), at.tolist(), strict=True)
    return {row: Protected(a, b, c, d, e, f, g, names[n], int(pair)) for row, a, b, c, d, e, f, g, pair, n in judged}


def figures_of_case(found: Figures, number: int) -> Figures:
    """The figures of one case alone."""
    solution = found.solution
    return figures(Solution(solution.plant, solution.heat, [solution.cases[number]]))


def _rules(solution: Solution, case: CaseSolution) -> list[tuple[float, Message]]:
    """`wiring_rule` of every load in a case."""
    return [wiring_rule(solution, row, sag) for row, sag in enumerate(np.nan_to_num(case.sag_v).tolist())]


def _load_table(solution: Solution, case: CaseSolution, rules: list[tuple[float, Message]]) -> dict[str, LoadFigures]:
    """The figures of the loads that run in a case, by id."""
    plant, found = solution.plant, {}
    columns = zip(
        plant.loads,
        case.running.tolist(),
        case.load_v.tolist(),
        case.load_a.tolist(),
        plant.nominal_v.tolist(),
        rules,
        case.surge_v.tolist(),
        np.nan_to_num(case.sag_v).tolist(),
        case.collapsed.tolist(),
        strict=True,
    )
    for row, (load, runs, volts, amps, nominal, (allowed, rule), surge, sag, gone) in enumerate(columns):
        if runs:
            arrives, dip = float("nan") if gone else volts, None if surge != surge else surge
            found[load.id] = _of_load(
                (load, row, arrives, amps, nominal, allowed, rule, dip, case.case.id, sag, gone, case.settled)
            )
    return found


@dataclass(frozen=True)
class _Columns:
    """Per wire of one case: shares used and which load is worst."""

    case: CaseSolution
    drop: Floats
    drop_load: NDArray[np.intp]
    heat: Floats
    surge: Floats
    dip: Floats
    dip_load: NDArray[np.intp]
    share: Floats

    @property
    def warm_c(self) -> Floats:
        """Conductor temperature (wires,)."""
        return self.case.conductor_c

    @property
    def ohm(self) -> Floats:
        """Resistance of each wire, warm (wires,)."""
        return self.case.wire_ohm


def _case_columns(solution: Solution, case: CaseSolution, rules: list[tuple[float, Message]]) -> _Columns:
    plant = solution.plant
    sag = np.nan_to_num(case.sag_v)
    allowed_v = np.array([volts for volts, _ in rules])
    used = (plant.nominal_v - sag - case.load_v) / allowed_v
    drop, which = worst_served(plant, case, np.nan_to_num(used, nan=0.0))
    room = plant.limit_c - case.ambient_c
    heat = np.where(room > 0, (case.conductor_c - case.ambient_c) / np.where(room > 0, room, 1.0), np.inf)
    heat = np.where((room <= 0) & (np.abs(case.wire_a) < 1e-6), 0.0, heat)
    short = np.array([c.jacket.short_c for c in plant.conductors])
    warm = (case.surge_c - case.ambient_c) / np.maximum(short - case.ambient_c, 1.0)
    dip, dips = _dip(solution, case)
    surge = np.where(case.surge_a > 0, warm, 0.0)
    share = np.where(which >= 0, case.wire_drop_v / allowed_v[which] if len(allowed_v) else 0.0, 0.0)
    drop = np.where(np.isfinite(drop), drop, 0.0)
    return _Columns(case, drop, which, np.maximum(heat, 0.0), surge, dip, dips, share)


def _dip(solution: Solution, case: CaseSolution) -> tuple[Floats, NDArray[np.intp]]:
    """(share of the allowed dip used under surges, the load that dips) for the wires that serve it."""
    plant = solution.plant
    least = np.array([load.min_volts or np.nan for load in plant.loads])
    if not np.isfinite(least).any() or not np.isfinite(case.surge_v).any():
        return np.zeros(len(plant.wires)), np.full(len(plant.wires), -1, dtype=np.intp)
    used = np.nan_to_num((plant.nominal_v - case.surge_v) / (plant.nominal_v - least), nan=-np.inf)
    worst, which = worst_served(plant, case, used)
    return np.where(np.isfinite(worst), np.maximum(worst, 0.0), 0.0), which


def fuse_tables(
    found: Figures, rows: Sequence[int], steps: Sequence[Sequence[Conductor]], celsius: Sequence[Floats]
) -> list[Floats]:
    """For each of these guarded wire rows, how much of its fuse's limit it would use made of each step and running at
    each temperature: judged in the case that is worst now, all at once. A thinner wire lets less current into a
    short."""
    solution = found.solution
    plant, project = solution.plant, solution.plant.design.project
    tables: list[Floats] = [np.zeros(len(made)) for made in steps]
    for case in solution.cases:
        mine = [at for at, row in enumerate(rows) if len(steps[at]) and found.protected[row].case == case.case.id]
        if not mine:
            continue
        pairs = np.array([found.protected[rows[at]].pair for at in mine], dtype=np.intp)
        standing = standing_at(plant, solution.heat, case, pairs)
        many = np.repeat(np.arange(len(mine)), [len(steps[at]) for at in mine])
        made = [step for at in mine for step in steps[at]]
        wire_rows = np.array([rows[at] for at in mine], dtype=np.intp)[many]
        warm = np.minimum(
            np.concatenate([celsius[at] for at in mine]), np.array([step.jacket.short_c - 1.0 for step in made])
        )
        others = as_made_of(standing.rows(many), made, [plant.conductors[row] for row in wire_rows], warm)
        kept = [guard for row in wire_rows.tolist() if (guard := found.guards[row]) is not None]
        resistance = np.array([step.ohm_per_m_20 for step in made])
        fault = fault_a(plant, wire_rows, resistance, np.array([guard.source for guard in kept], dtype=np.intp))
        answer = protection(
            np.array([guard.rating_a for guard in kept]),
            others,
            made,
            plant.parallel[wire_rows],
            fault,
            project.fuse_rule,
            project.fuse_allowance_k,
        )
        for place, at in enumerate(mine):
            tables[at] = answer.used[many == place]
    return tables


class _Worst:
    """Over all cases: the number of the worst case for each limit, and its values, by wire row."""

    def __init__(self, columns: list[_Columns]) -> None:
        self.columns = columns
        self.drop_at, self.drop = self._most([c.drop for c in columns])
        self.heat_at, self.heat = self._most([c.heat for c in columns])
        self.surge_at, self.surge = self._most([c.surge for c in columns])
        self.dip_at, self.dip = self._most([c.dip for c in columns])

    @staticmethod
    def _most(values: list[Floats]) -> tuple[list[int], list[float]]:
        table = np.array(values)
        most = table.max(axis=0)
        alike = (table == most) | (
            table > most - (MET - 1) * np.abs(most)
        )  # but for rounding: the first is named, on any machine
        return alike.argmax(axis=0).tolist(), most.tolist()


def _wire_table(
    solution: Solution, worst: _Worst, found: list[Guard | None], protected: dict[int, Protected]
) -> dict[str, WireFigures]:
    """The figures of every wire by id, from columns as plain lists: there are thousands of wires."""
    plant, least = solution.plant, solution.plant.design.project.smallest_mm2
    names = [column.case.case.id for column in worst.columns]
    loads = [load.id for load in plant.loads]
    drop_load, dip_load, shares, warm, ohm = (
        [getattr(column, name).tolist() for column in worst.columns]
        for name in ("drop_load", "dip_load", "share", "warm_c", "ohm")
    )
    means = [column.case.mean_c.tolist() for column in worst.columns]
    limits, metres = plant.limit_c.tolist(), plant.length_m.tolist()
    handling, most_a = (least / plant.area_mm2).tolist(), solution.worst_amps

    def column(limit: Limit, at: list[int], used: list[float], subject: list[list[int]] | None = None) -> list[Use]:
        which = [
            "" if subject is None or (load := subject[case][row]) < 0 else loads[load] for row, case in enumerate(at)
        ]
        return [_use((limit, *rest)) for rest in zip(used, [names[case] for case in at], which, strict=True)]

    columns = zip(
        column(Limit.DROP, worst.drop_at, worst.drop, drop_load),
        column(Limit.HEAT, worst.heat_at, worst.heat),
        column(Limit.SURGE, worst.surge_at, worst.surge),
        column(Limit.DIP, worst.dip_at, worst.dip, dip_load),
        strict=True,
    )
    governs = np.argmax([worst.drop, worst.heat, worst.surge, worst.dip], axis=0).tolist()
    table = {}
    for row, (wire, cond, uses) in enumerate(zip(plant.wires, plant.conductors, columns, strict=True)):
        heat, amps, most = worst.heat_at[row], most_a[wire.id], uses[governs[row]]
        guard, judged = found[row], protected.get(row)
        rest: tuple[Use, ...] = (_use((Limit.HANDLING, handling[row], "", "")),)
        if guard is not None and judged is not None:
            rest = (_use((Limit.FUSE, min(judged.used, MOST_USED), judged.case, guard.link_id)), *rest)
        for use in rest:
            most = use if use.used > most.used else most
        lost, share = amps * max(ohm[heat][row], LEAST_OHM), shares[worst.drop_at[row]][row]
        table[wire.id] = _of_wire(
            (
                wire,
                row,
                cond.size.label,
                amps,
                warm[heat][row],
                limits[row],
                lost,
                metres[row],
                (*uses, *rest),
                names[heat],
                share,
                most,
                amps == 0,
                means[heat][row],
            )
        )
    return table
