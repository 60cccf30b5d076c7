"""Handfuls and lanes are two views of one order: none loses a step, none turns a “before” round."""

from __future__ import annotations

import itertools
import random
import statistics

import pytest

from demos import worked_out
from umber_trunk.core.make.dealing import timed
from umber_trunk.core.make.graph import Graph
from umber_trunk.core.make.handfuls import MOST, Handful, handfuls
from umber_trunk.core.make.lanes import lanes
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import Order
from umber_trunk.core.make.times import CHANGE_S, Times
from umber_trunk.core.sentences import Message

ORDERS = [("tractor", 6, 1, "operation"), ("barge", 3, 2, "operation"), ("loops", 2, 3, "operation"), ("shore", 2, 1, "wire"), ("computer", 30, 1, "operation")]  # fmt: skip


@pytest.mark.parametrize(("name", "units", "hands", "school"), ORDERS)
def test_every_step_is_in_one_handful_and_waits_for_none_later(name: str, units: int, hands: int, school: str) -> None:
    order = plan_order(worked_out(name), units, school, hands)
    rows = handfuls(order)
    at = {step.n: row.n for row in rows for step in row.steps}
    assert sorted(at) == [step.n for step in order.steps]
    assert sum(len(row.steps) for row in rows) == len(order.steps)
    for row in rows:
        assert [step.n for step in row.steps] == sorted(step.n for step in row.steps)
        assert all(at[n] <= row.n for step in row.steps for n in step.after)
        assert 1 <= len(row.pieces) <= MOST
        assert sorted(step.n for piece in row.pieces for step in piece) == [step.n for step in row.steps]
        assert len({step.hand for step in row.steps}) == 1
        alike(row)
    assert all(row.singly for row in handfuls(order, "each") if row.first.op == "look")


def alike(row: Handful) -> None:
    """What a builder would say: one thing is done to all of them, with one tool, one setting, one part."""
    ops = [step.operation for step in row.steps]
    kinds = {one.op for one in ops}
    assert len(kinds) == 1 or kinds in ({"measure", "cut"}, {"insert", "tug"})
    assert len({one.state for one in ops if one.tool}) <= 1
    if kinds & {"cut"}:
        assert len({one.length_m for one in ops}) == 1
    if kinds & {"crimp", "split", "sleeve"}:
        assert len({one.part for one in ops}) == 1
    if kinds & {"insert", "torque"}:
        assert len({(one.end, one.housing) for one in ops if one.wire}) <= 1
    if any(one.sample or one.op in ("torque", "test") or one.key == "last look" for one in ops):
        assert row.singly


@pytest.mark.parametrize(("name", "units", "hands", "school"), ORDERS)
def test_lanes_hold_every_step_once_and_the_chain_fills_the_time(
    name: str, units: int, hands: int, school: str
) -> None:
    order = plan_order(worked_out(name), min(units, 6), school, hands)
    found = lanes(order)
    by_hand = [n for bar in found.bars if bar.lane.startswith("hands ") and not bar.set_up for n in bar.steps]
    assert sorted(by_hand) == [step.n for step in order.steps]
    for lane in found.names:
        assert all(a.end_s <= b.start_s + 1e-6 for a, b in itertools.pairwise(found.of(lane)))
    set_ups = sum(bar.set_up for bar in found.bars if bar.lane.startswith("hands "))
    assert set_ups == order.tool_changes
    chain = sorted((order.steps[n - 1] for n in found.chain), key=lambda step: step.start_s)
    if hands > 1:  # from the first moment to the last, with nothing but set-ups between
        assert chain[0].start_s <= CHANGE_S
        assert chain[-1].start_s + chain[-1].seconds == pytest.approx(order.span_s)
        for a, b in itertools.pairwise(chain):
            gap = b.start_s - (a.start_s + a.seconds)
            assert -2e-3 < gap < 2e-3 or -2e-3 < gap - CHANGE_S < 2e-3
    else:
        assert all(a.n in b.after for a, b in itertools.pairwise(chain))


def test_how_near_the_order_for_two_hands_is_to_the_best_of_all() -> None:
    """Against every order and every dealing of five steps to two hands, tools one at a time: never under the best,
    seldom far over it."""
    over = []
    for seed in range(40):
        draw = random.Random(seed)
        ops = [
            Operation(
                f"k{n}",
                ("label", "twist", "fold", "strip", "crimp")[n],
                Message("step.assemble", {"text": "x"}),
                wire=f"W{n}",
                tool=draw.choice(("a", "b", "")),
                place=f"p{n}",
                after=tuple(f"k{m}" for m in range(n) if draw.random() < 0.3),
            )
            for n in range(5)
        ]
        seconds = [draw.choice((30.0, 60.0, 150.0)) for _ in ops]
        graph = Graph(ops)
        known = Times({(one.op, one.tool): (long, 0.0, 9) for one, long in zip(ops, seconds, strict=True)})
        made: Order = timed(None, graph, [(n, 1) for n in graph.topological], (1,), "operation", 2, known, 0)
        best = min(
            span(ops, seconds, line, deal)
            for line in itertools.permutations(range(5))
            for deal in itertools.product((0, 1), repeat=5)
        )
        assert made.span_bound_s - 1e-6 <= best <= made.span_s + 1e-6
        over.append(made.span_s / best - 1)
    assert statistics.median(over) < 0.02
    assert max(over) < 0.6


def span(ops: list[Operation], seconds: list[float], line: tuple[int, ...], deal: tuple[int, ...]) -> float:
    """How long a dealing takes, each step as soon as its hand, its tool and what it waits for are free; infinite where
    it turns a “before” round."""
    ends: dict[str, float] = {}
    free, held = [0.0, 0.0], [""] * 2
    tools: dict[str, tuple[float, int]] = {}
    for n in line:
        one, hand = ops[n], deal[n]
        if any(key not in ends for key in one.after):
            return float("inf")
        start = max([free[hand], *(ends[key] for key in one.after)])
        if one.tool:
            busy, who = tools.get(one.tool, (0.0, hand))
            start = max(start, busy) + (CHANGE_S if held[hand] not in ("", one.tool) or who != hand else 0.0)
            held[hand], tools[one.tool] = one.tool, (start + seconds[n], hand)
        ends[one.key] = free[hand] = start + seconds[n]
    return max(ends.values())
