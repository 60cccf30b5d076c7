"""The order of work, walked by a reader of its own: every "before" kept, tools changed as seldom as can be."""

from __future__ import annotations

import itertools
import random
import re
from collections import defaultdict

import networkx
import pytest

from demos import worked_out
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.parts import Clamp
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import change, set_project
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.make.bench_state import OUT
from umber_trunk.core.make.graph import Graph
from umber_trunk.core.make.measuring import TORQUE_SHARE, judge_reading, limits_of, wanted_readings
from umber_trunk.core.make.operation import OPS
from umber_trunk.core.make.operations import operations
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import Order
from umber_trunk.core.make.times import USUAL_S, Times, learn
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message

DEMOS = ("barge", "shore", "computer", "tractor", "loops")


@pytest.fixture(scope="module", params=DEMOS)
def built(request: pytest.FixtureRequest) -> Results:
    return worked_out(request.param)


def walked(order: Order, design: Design) -> None:
    """What a builder would complain about, read off the steps alone."""
    at: dict[tuple[int, str, str], dict[str, list[int]]] = defaultdict(lambda: defaultdict(list))
    whole: dict[tuple[int, str], dict[str, list[int]]] = defaultdict(lambda: defaultdict(list))
    per_end: dict[tuple[int, str], dict[str, list[int]]] = defaultdict(lambda: defaultdict(list))
    unit_of: dict[int, dict[str, list[int]]] = defaultdict(lambda: defaultdict(list))
    seen: set[int] = set()
    released: dict[tuple[str, str], int] = {}
    for step in order.steps:
        assert set(step.after) <= seen
        assert step.operation.op in OPS
        seen.add(step.n)
        one = step.operation
        if one.sample:
            if one.op == "measure":
                released[one.part, one.setting] = step.n
            continue
        if one.op in ("crimp", "split") and one.part:
            assert (one.part, one.setting) in released  # first-off, measured before the batch
        at[step.unit, one.wire, one.end][one.op].append(step.n)
        whole[step.unit, one.wire][one.op].append(step.n)
        per_end[step.unit, one.end][one.op].append(step.n)
        unit_of[step.unit][one.op].append(step.n)
    splices = {end.id for end in design.ends if end.kind is EndKind.SPLICE}
    for (unit, wire, end), ops in at.items():
        if not wire or not end or not unit:
            continue
        cut = whole[unit, wire]["cut"]
        if cut and ops["strip"]:
            assert min(cut) < min(ops["strip"])
        for early, late in (
            ("thread", "strip"),
            ("strip", "crimp"),
            ("crimp", "insert"),
            ("crimp", "shrink"),
            ("insert", "torque"),
        ):
            if ops[early] and ops[late] and end not in splices:
                assert max(ops[early]) < min(ops[late]), (wire, end, early, late)
    for (unit, end), ops in per_end.items():
        if not end or not unit or end in splices:
            continue
        if ops["lock"] and ops["insert"]:
            assert max(ops["insert"]) < min(ops["lock"])
        if ops["shrink"] and ops["insert"]:
            assert max(ops["insert"]) < min(ops["shrink"])
    for unit, ops in unit_of.items():
        if unit:
            assert len(ops["test"]) == 1
            assert max(ops["insert"], default=0) < ops["test"][0] < min([*ops["lock"], *ops["tape"], 10**9])
            assert max(n for rows in ops.values() for n in rows) == max(ops["look"])  # the last look is last


def taken_once(order: Order) -> None:
    """Hands, tools, places at the board and the length stop, each used by one step at a time: read off hands, starts
    and texts alone."""
    used: dict[str, list[tuple[float, float]]] = defaultdict(list)
    stop: list[tuple[float, str, float]] = []
    for step in order.steps:
        one, over = step.operation, (step.start_s, step.start_s + step.seconds)
        for name in (f"hand {step.hand}", one.tool, one.place if one.place.startswith("board") else ""):
            used[name].append(over)
        if found := re.search(r"set the stop to (\d+) mm", one.text):
            stop.append((over[0], found[1], over[1]))
    used.pop("", None)
    for name, rows in used.items():
        rows.sort()
        assert all(a[1] <= b[0] + 1e-6 for a, b in itertools.pairwise(rows)), name
    stop.sort()
    for step in order.steps:
        if found := re.search(r": cut (?:\d+ × )?(\d+) mm of", step.operation.text):
            before = [row for row in stop if row[0] < step.start_s + step.seconds - 1e-6]
            assert before, step.operation.text
            assert (before[-1][1], before[-1][2] <= step.start_s + 1e-6) == (found[1], True), step.operation.text


BARES = ("strip", "crimp", "fold", "insert", "split", "solder", "clamp", "torque", "lock")


def slid_on(order: Order, design: Design) -> int:
    """Coverings that can't go on once ends are made: when each is slid on, on one side of its limb no end of its wires
    is made yet. Which side is which comes from the limbs alone. Returns how many were seen."""
    index = index_of(design)
    tree = networkx.Graph([(s.a, s.b, {"id": s.id}) for s in design.segments])
    many = 0
    for step in order.steps:
        if "can’t go on after the ends" not in step.operation.told:
            continue
        many += 1
        limb = index.segments[step.operation.key.split(" ")[0]]
        rest = networkx.restricted_view(tree, [], [(limb.a, limb.b)])
        sides = [networkx.node_connected_component(rest, point) for point in (limb.a, limb.b)]
        inside = {w.id: w for w in design.wires if limb.id in index.routes[w.id].segments}
        lying = {end.id for end in design.ends if end.join is not None and end.join.segment == limb.id}
        inside |= {w.id: w for w in design.wires if {w.start.end, w.finish.end} & lying}
        if not inside:
            continue
        made = {
            (one.operation.wire, one.operation.end)
            for one in order.steps
            if one.n < step.n and one.unit == step.unit and one.operation.op in BARES
        }
        split = {
            one.operation.end
            for one in order.steps
            if one.n < step.n and one.unit == step.unit and one.operation.op == "split"
        }
        open_sides = []
        for side in sides:
            ends = {
                (w.id, pin.end)
                for w in inside.values()
                for pin in (w.start, w.finish)
                if index.ends[pin.end].point in side
            }
            ends = {(w, e) for w, e in ends if e not in lying}
            open_sides.append(bool(ends) and not (ends & made) and not ({e for _, e in ends} & split))
        assert any(open_sides), (step.n, len(order.steps), step.operation.text)
    return many


def counted(order: Order) -> int:
    """Tool changes as the contract has them, over the steps as listed."""
    changes, state = 0, None
    for step in order.steps:
        mine = (step.operation.tool, step.operation.setting)
        if mine[0]:
            changes += state not in (None, mine)
            state = mine
    return changes


def test_tools_are_changed_as_seldom_as_can_be(built: Results) -> None:
    order = plan_order(built, 3)
    walked(order, built.design)
    assert counted(order) == order.tool_changes
    states = {s.operation.state for s in order.steps if s.operation.tool}
    assert len(states) - 1 <= order.bound <= order.tool_changes <= 1.15 * order.bound
    other = plan_order(built, 3, "wire")
    walked(other, built.design)
    assert other.tool_changes > 2 * order.tool_changes
    assert other.span_s > order.span_s
    assert {s.key for s in order.steps if s.operation.op != "measure"} == {
        s.key for s in other.steps if s.operation.op != "measure"
    }
    for one in (order, other):
        taken_once(one)
        slid_on(one, built.design)


def varied(seed: int) -> Design:
    """A demo with wires left out, other schools, other covers: as many different precedences as 200 seeds give."""
    draw = random.Random(seed)
    design = demo(draw.choice(DEMOS))
    wires = [wire for wire in design.wires if draw.random() > 0.3] or list(design.wires[:1])
    practice = change(
        design.project.practice,
        solder=draw.choice(["crimp", "flow"]),
        drain=draw.choice(["reach", "first", "last"]),
        lug_tool=draw.choice(["hex", "indent"]),
        split=draw.choice(["barrel", "solder"]),
        ferrules=draw.choice(["fine", "always", "never"]),
        batch=draw.choice(["operation", "wire"]),
    )
    kept = {wire.id for wire in wires}
    combs = tuple(
        comb.model_copy(update={"wires": mine, "cut_last": draw.random() < 0.5})
        for comb in design.combs
        if (mine := tuple(w for w in comb.wires if w in kept))
    )
    segments = tuple(
        segment.model_copy(
            update={"covers": tuple(change(cover, after=draw.random() < 0.4) for cover in segment.covers)}
        )
        for segment in design.segments
    )
    return set_project(
        design.model_copy(update={"wires": tuple(wires), "combs": combs, "segments": segments}), practice=practice
    )


@pytest.mark.parametrize("lot", range(20))
@pytest.mark.share(10)
def test_every_before_is_kept_in_two_hundred_harnesses(lot: int) -> None:
    for seed in range(10 * lot, 10 * lot + 10):
        results = analyse(varied(seed))
        for hands in sorted({1, 1 + seed % 3}):
            order = plan_order(results, 1 + seed % 2, hands=hands)
            walked(order, results.design)
            taken_once(order)
            slid_on(order, results.design)
            ends = {step.n: step.start_s + step.seconds for step in order.steps}
            assert all(ends[a] <= step.start_s + 1e-6 for step in order.steps for a in step.after)
            if hands == 1 and order.school == "operation":
                assert order.bound <= counted(order) <= 1.15 * order.bound + 1
            assert order.span_bound_s <= order.span_s + 1e-6
            by_hand = defaultdict(list)
            for step in order.steps:
                by_hand[step.hand].append((step.start_s, step.start_s + step.seconds))
            for rows in by_hand.values():  # nobody does two things at once
                rows.sort()
                assert all(a[1] <= b[0] + 1e-6 for a, b in itertools.pairwise(rows))


def test_the_bound_counts_forced_returns_and_rings() -> None:
    """Small graphs worked by hand: a chain that leaves a tool and comes back; two tools that each wait for the
    other."""
    from umber_trunk.core.make.operation import Operation

    def graph(*rows: tuple[str, str, tuple[str, ...]]) -> Graph:
        return Graph([Operation(key, "crimp", Message(key), tool=tool, after=after) for key, tool, after in rows])

    plain = graph(("a", "X", ()), ("b", "Y", ("a",)), ("c", "Y", ()))
    assert (plain.bound, plain.by_tool(0)[1]) == (1, 1)
    back = graph(("a", "X", ()), ("b", "Y", ("a",)), ("c", "X", ("b",)))
    assert (back.bound, back.by_tool(0)[1]) == (2, 2)
    ring = graph(("a", "X", ()), ("b", "Y", ("a",)), ("c", "Y", ()), ("d", "X", ("c",)))
    assert (ring.bound, ring.by_tool(0)[1]) == (2, 2)
    three = graph(
        ("a", "X", ()), ("b", "Y", ("a",)), ("c", "Y", ()), ("d", "Z", ("c",)), ("e", "Z", ()), ("f", "X", ("e",))
    )
    assert (three.bound, min(three.by_tool(n)[1] for n in range(3))) == (3, 3)
    with pytest.raises(InputError, match="waits for itself"):
        graph(("a", "X", ("b",)), ("b", "X", ("a",)))


@pytest.mark.parametrize("name", ["computer", "tractor"])
def test_sleeves_go_on_in_time_and_splits_before_them(name: str) -> None:
    """Read off the design: a closed sleeve before the ends on one of its sides, after the splices it hides; ties after
    it; combs cut last after their wires are laid; what is wrapped or slid on afterwards after the test."""
    results = worked_out(name)
    design, order = results.design, plan_order(results)
    at = {step.operation.key: step.n for step in order.steps}
    spot = defaultdict(list)
    for step in order.steps:
        spot[step.operation.op, step.operation.wire, step.operation.end].append(step.n)
    index, splices = index_of(design), {end.id: end for end in design.ends if end.kind is EndKind.SPLICE}
    checked = 0
    for segment in design.segments:
        wires = index.contents[segment.id]
        for cover in segment.covers:
            key = f"{segment.id} {cover.id}"
            if key not in at or cover.after or cover.kind.value in ("tape", "clamp"):
                assert key not in at or at[key] > at["test"], key
                assert f"{key} over ends" not in at or at[f"{key} over ends"] > at["test"], key
                continue
            sleeve = at[key]
            step = order.steps[sleeve - 1]
            assert "can’t go on after" in step.operation.told
            assert cover.kind.value not in ("sleeve", "tube") or " mm" in step.operation.text
            assert all(n < sleeve for wire in wires for n in spot["lay", wire, ""])
            sides = []
            for start in (segment.a, segment.b):
                beyond, queue = {start}, [start]
                while queue:
                    for name_of, other in index.neighbours.get(queue.pop(), ()):
                        if name_of != segment.id and other not in beyond:
                            beyond.add(other)
                            queue.append(other)
                ends = {
                    end.id
                    for end in design.ends
                    if end.point in beyond and not (end.join and end.join.segment == segment.id)
                }
                sides.append([n for wire in wires for end in ends for n in spot["strip", wire, end]])
            assert any(all(n > sleeve for n in side) for side in sides), key
            for end in splices.values():
                if end.join is not None and end.join.segment == segment.id:
                    assert at[f"{end.id} split"] < sleeve
            for point, limbs in index.neighbours.items():
                if f"{point} tie" in at and segment.id in {limb for limb, _ in limbs}:
                    assert at[f"{point} tie"] > sleeve
            checked += 1
    for comb in design.combs:
        for wire in comb.wires if comb.cut_last else ():
            laid = max(n for other in comb.wires for n in spot["lay", other, ""])
            finish = index.wires[wire].finish.end
            assert laid < at[f"{wire} mark"] < at[f"{wire} trim"] < min(spot["strip", wire, finish])
            checked += 1
    straight = [w.id for w in design.wires if not {w.start.end, w.finish.end} & set(splices)]
    for end in splices.values():
        assert all(at[f"{end.id} split"] > n for wire in straight for n in spot["lay", wire, ""])
        assert at[f"{end.id} thread"] < at[f"{end.id} split"] < at[f"{end.id} look"] < at[f"{end.id} shrink"]
        checked += 1
    assert checked > 3


def test_a_cable_is_cut_once_as_long_as_its_longest_core() -> None:
    results = worked_out("shore")
    lengths, ops = results.once(wire_lengths), {one.key: one for one in results.once(operations)}
    jacketed = [cable for cable in results.design.cables if cable.part]
    assert jacketed
    for cable in jacketed:
        cores = [wire.id for wire in results.design.wires if wire.cable == cable.id]
        assert ops[f"{cable.id} cut"].length_m == max(lengths[wire].cut_m for wire in cores)
        assert not any(f"{wire} cut" in ops for wire in cores)
    for wire in results.design.wires:
        if wire.cable not in {cable.id for cable in jacketed}:
            assert ops[f"{wire.id} cut"].length_m == lengths[wire.id].cut_m
    barge = {one.key: one.text for one in worked_out("barge").once(operations)}
    named = {point.id: point.name or point.id for point in demo("barge").points}
    ties = {key.split()[0]: text for key, text in barge.items() if key.endswith(" tie")}
    assert ties
    assert all(named[point] in text for point, text in ties.items())


def test_centre_cavities_go_in_before_those_round_them() -> None:
    results = worked_out("barge")
    order = plan_order(results)
    from umber_trunk.core.ends.wire_ends import places_of

    places = places_of(results.design)
    spot = {(s.operation.wire, s.operation.side): s.n for s in order.steps if s.operation.op == "insert"}
    rounds = 0
    for end, body, housing in places.housings():
        rows = [
            (one.place.x_mm**2 + one.place.y_mm**2, spot[one.key])
            for ends in places.loaded(end, body).values()
            for one in ends
            if one.place and one.key in spot
        ]
        for far, n in rows:
            for other, m in rows:
                if far**0.5 < other**0.5 - 1.0:
                    rounds += 1
                    assert n < m, (end.id, housing.id)
    assert rounds > 10


def test_more_hands_are_quicker_and_never_share_a_tool() -> None:
    results = worked_out("barge")
    one, two = (plan_order(results, 2, hands=hands) for hands in (1, 2))
    assert two.span_bound_s <= two.span_s < 0.7 * one.span_s
    busy = defaultdict(list)
    for step in two.steps:
        if step.operation.tool:
            busy[step.operation.tool].append((step.start_s, step.start_s + step.seconds))
    for rows in busy.values():
        rows.sort()
        assert all(a[1] <= b[0] + 1e-6 for a, b in itertools.pairwise(rows))


def test_times_come_from_the_log_and_a_coffee_break_spoils_none() -> None:
    assert learn([("crimp", "press", 9.0)] * 4).known == {}
    times = learn(
        [("crimp", "press", 9.0)] * 6
        + [("crimp", "press", 1500.0), ("crimp", "press", 12.0), ("crimp", "other", 90.0), ("cut", "x", -1)]
    )
    assert times.known["crimp", "press"][0] == 9.0
    results = worked_out("shore")
    guessed, known = plan_order(results), plan_order(results, times=times)
    assert guessed.learned == 0
    assert known.learned > 0
    assert guessed.low_s < guessed.span_s < guessed.high_s
    assert known.high_s - known.low_s < guessed.high_s - guessed.low_s
    assert Times().seconds(results.once(operations)[0]) == USUAL_S[results.once(operations)[0].op]


@pytest.mark.parametrize("wrong", [{"units": 0}, {"units": 10_001}, {"hands": 0}, {"school": "lot"}])
def test_what_cannot_be_planned_is_said(wrong: dict[str, object]) -> None:
    with pytest.raises(InputError):
        plan_order(worked_out("shore"), **wrong)  # type: ignore[arg-type]


def test_a_clamp_is_torqued_within_a_share_of_its_sheet() -> None:
    results = worked_out("loops")
    shelf = results.shelf
    turned = [
        one for one in results.once(operations) if one.op == "torque" and isinstance(shelf.named(one.part), Clamp)
    ]
    assert turned
    for one in turned:
        clamp = shelf.named(one.part)
        assert isinstance(clamp, Clamp)
        assert wanted_readings(shelf, one) == ["torque"]
        limits = limits_of(shelf, one, "torque")
        if clamp.torque_nm:
            assert (limits.low, limits.high) == (
                pytest.approx(clamp.torque_nm * (1 - TORQUE_SHARE)),
                pytest.approx(clamp.torque_nm * (1 + TORQUE_SHARE)),
            )
            assert judge_reading(limits, clamp.torque_nm) == "accept"
            assert judge_reading(limits, 1.01 * clamp.torque_nm * (1 + TORQUE_SHARE)) in OUT
            assert judge_reading(limits, 0.99 * clamp.torque_nm * (1 - TORQUE_SHARE)) in OUT
