"""Group tests, cores told apart, cables learned: against every case there is, and against what can be proven at
least."""

from __future__ import annotations

import contextlib
import itertools
import math
import random
from collections.abc import Callable, Sequence

import networkx as nx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from long_runs import LONG
from umber_trunk.core.errors import InputError
from umber_trunk.core.prove.clipping import find_joined, hand_tests, least_tests
from umber_trunk.core.prove.core_scheme import ContradictionError
from umber_trunk.core.prove.entering import Entering, pairs_in
from umber_trunk.core.prove.identify import Alone, called, from_calls, near_pairs, scheme
from umber_trunk.core.prove.learn import Place, compared, learn
from umber_trunk.core.prove.tags import base_of, drawer_of, from_joint, from_tags, tag_ohms


def _islands(nets: int, pairs: list[tuple[int, int]]) -> list[int]:
    mine = list(range(nets))
    for a, b in pairs:
        mine = [mine[a] if one == mine[b] else one for one in mine]
    return mine


def _groups(mine: list[int]) -> list[tuple[int, ...]]:
    found = [tuple(n for n, one in enumerate(mine) if one == first) for first in dict.fromkeys(mine)]
    return sorted(group for group in found if len(group) > 1)


@given(st.integers(2, 60), st.randoms(use_true_random=False), st.integers(0, 8), st.booleans())
def test_every_joint_is_found_whatever_their_number(nets: int, draw: random.Random, many: int, by_hand: bool) -> None:
    mine = _islands(nets, [(draw.randrange(nets), draw.randrange(nets)) for _ in range(many)])
    found = find_joined(nets, lambda a, b: bool({mine[n] for n in a} & {mine[n] for n in b}), by_hand)
    assert found.groups == _groups(mine)


def test_two_hundred_nets_take_eight_readings_and_a_few_more_for_each_short() -> None:
    draw = random.Random(5)
    assert least_tests(200) == 8
    assert hand_tests(200) == 199
    for many in range(6):
        for _ in range(20):
            mine = _islands(200, [tuple(draw.sample(range(200), 2)) for _ in range(many)])  # type: ignore[misc]
            count = 0

            def leads(a: tuple[int, ...], b: tuple[int, ...], mine: list[int] = mine) -> bool:
                nonlocal count
                count += 1
                return bool({mine[n] for n in a} & {mine[n] for n in b})

            found = find_joined(200, leads)
            merged = 200 - len(set(mine))
            assert found.groups == _groups(mine)
            assert found.readings == count
            assert found.clearing <= math.ceil(math.log2(200))
            assert found.following <= merged * (1 + 2 * 7)


@pytest.mark.parametrize(("nets", "tests"), [(0, 0), (1, 0), (2, 1), (3, 2), (4, 2), (5, 3), (256, 8), (257, 9)])
def test_the_fewest_tests_are_the_digits_of_the_number(nets: int, tests: int) -> None:
    assert least_tests(nets) == tests


class TestCores:
    """Which core is which."""

    @staticmethod
    def _alone(order: Sequence[int]) -> dict[int, int]:
        """The plan carried out on a cable whose near core n is far core order[n − 1]."""
        run = Alone(len(order))
        back = {far: near for near, far in enumerate(order, 1)}
        joins = run.far([(order[a - 1], order[b - 1]) for a, b in near_pairs(len(order))])
        return run.near([(back[a], back[b]) for a, b in joins])

    def test_alone_every_order_of_up_to_seven(self) -> None:
        for cores in range(3, 8):
            assert scheme(cores, "alone").walks == 2
            for order in itertools.permutations(range(1, cores + 1)):
                assert self._alone(order) == dict(enumerate(order, 1))

    def test_orders_up_to_two_hundred_each_way(self) -> None:
        draw = random.Random(3)
        for number in range(1000 if LONG else 300):
            cores = draw.randint(3, 200)
            order = draw.sample(range(1, cores + 1), cores)
            truth = dict(enumerate(order, 1))
            assert self._alone(order) == truth
            if number % 5:
                continue
            named = range(1, cores + 1)
            led = [
                {near for near, far in truth.items() if far in called(named, call)}
                for call in range(math.ceil(math.log2(cores)))
            ]
            assert from_calls(named, named, led) == truth

    def test_tags_without_a_return_from_sums_alone(self) -> None:
        """As sold (IEC 60063), each off by up to 1 %, read through up to 2.5 Ω of cable: told apart up to as many as
        the values allow."""
        draw = random.Random(4)
        for drawer, common, most in (("E24", True, 97), ("E96", True, 331), ("E24", False, 97), ("E96", False, 311)):
            values = tag_ohms(1000, drawer_of(drawer), common)
            assert len(values) == most
            assert scheme(len(values), "tags", common, drawer=drawer).tags_ohm == tuple(values)
            assert f"at most {len(values)}" in str(scheme(len(values) + 1, "tags", common, drawer=drawer).why)
            for cores in {3, 4, 9, 40, len(values)}:
                ohms = tag_ohms(cores, drawer_of(drawer), common)
                for _ in range(20 if LONG else 6):
                    order = draw.sample(range(1, cores + 1), cores)
                    own = [ohm * draw.uniform(0.99, 1.01) for ohm in ohms]
                    truth = dict(enumerate(order, 1))
                    if common:
                        assert (
                            from_tags(ohms, {near: own[far - 1] + draw.uniform(0, 2.5) for near, far in truth.items()})
                            == truth
                        )
                        continue

                    def over(a: int, b: int, own=own, truth=truth) -> float:
                        return own[truth[a] - 1] + own[truth[b] - 1] + draw.uniform(0, 2.5)

                    base = base_of({core: own[truth[1] - 1] + own[truth[core] - 1] for core in range(2, cores + 1)})
                    assert from_joint(ohms, base, {core: over(base, core) for core in truth if core != base}) == truth

    @pytest.mark.parametrize("cores", [2, 3, 4, 5, 6])
    def test_one_broken_and_two_touching_are_never_silently_wrong(self, cores: int) -> None:
        """Every order, every core broken at its near or far end, every two touching there: with the check it is refused
        or right; without, the plan says that it can't tell."""
        named = range(1, cores + 1)
        wrong = {True: 0, False: 0}
        for check in (True, False):
            plan = scheme(cores, "partner", check=check)
            assert plan.calls == math.ceil(math.log2(cores)) + check
            assert ("--check" in str(plan.told)) is not check
            for broken, (one, two), at in itertools.product(named, itertools.combinations(named, 2), ("near", "far")):
                led = [_led(cores, set(called(named, call)), broken, {one, two}, at) for call in range(plan.calls)]
                with contextlib.suppress(ContradictionError):
                    wrong[check] += from_calls(named, named, led) != {core: core for core in named}
        assert wrong[True] == 0

    def test_two_can_not_be_told_apart_alone_but_by_a_diode(self) -> None:
        assert "can’t be told apart" in str(scheme(2, "alone").why)
        assert "diode" in str(scheme(2, "tags", common=False).steps[0].do)
        assert scheme(2, "tags").walks == 1
        assert scheme(1, "alone").steps == ()
        assert scheme(2, "partner", common=False).why

    def test_walks_and_calls_are_counted(self) -> None:
        assert (scheme(100, "partner").walks, scheme(100, "partner").calls) == (0, 7)
        assert [scheme(n, "partner").calls for n in (1, 2, 4, 5, 64, 65)] == [0, 1, 2, 3, 6, 7]
        assert (scheme(100, "tags", drawer="E96").walks, len(scheme(100, "tags", drawer="E96").tags_ohm)) == (1, 100)
        with pytest.raises(InputError, match="no way"):
            scheme(4, "dowsing")
        with pytest.raises(InputError, match="1 to 1000"):
            scheme(0, "alone")

    @pytest.mark.parametrize(
        "found", [[(1, 2)], [(1, 2), (2, 3)], [(1, 2), (1, 2)], [(1, 9), (2, 3)], [(1, 1), (2, 3)]]
    )
    def test_what_can_not_be_is_refused_at_the_far_end(self, found: list[tuple[int, int]]) -> None:
        run = Alone(5)
        with pytest.raises(ContradictionError):
            run.far(found)
        assert run.far([(1, 2), (3, 4)])  # and asked again

    @pytest.mark.parametrize("found", [[], [(1, 2)], [(2, 3), (4, 5)], [(1, 2), (1, 3)], [(1, 2), (3, 4), (1, 5)]])
    def test_what_can_not_be_is_refused_at_the_near_end(self, found: list[tuple[int, int]]) -> None:
        run = Alone(5)
        run.far([(1, 2), (3, 4)])
        with pytest.raises(ContradictionError):
            run.near(found)

    def test_entered_step_by_step(self) -> None:
        run = Entering(scheme(5, "alone"))
        assert "far" in str(run.question)
        with pytest.raises(ContradictionError, match="no pair"):
            run.enter("1-2 3+4")
        assert "Join 5-1" in str(run.enter("1-2, 3-4"))
        run.enter("1-4 5-2")
        assert run.question is None
        assert sorted(run.names.values()) == [1, 2, 3, 4, 5]
        assert run.names[1] == 5  # the one left free at both ends' first look

    def test_calls_that_can_not_be_begin_anew(self) -> None:
        run = Entering(scheme(3, "partner"))
        with pytest.raises(ContradictionError, match="2 cores lead, 1 were made"):
            run.enter("1 2")
        run.enter("2")
        with pytest.raises(ContradictionError, match="too many calls"):
            run.enter("2")
        assert "Call 1" in str(run.question)
        run.enter("2")
        assert "--check" in str(run.enter("3"))
        assert run.names == {1: 1, 2: 2, 3: 3}

    def test_what_is_entered_keeps_to_the_plan_without_a_return(self) -> None:
        run = Entering(scheme(5, "partner", common=False, check=True))
        run.enter("3-1")
        with pytest.raises(ContradictionError, match="share one core"):
            run.enter("2-4")
        run.enter("3-1")
        assert "Near core 3 is 1" in str(run.enter("5-3"))
        for led in ("5", "2", "1 2 4 5"):  # far 2, 3, 4, 5 are near 1, 5, 2, 4 by their digits 0, 1, 2, 3
            if run.question and "Call 1" in str(run.question):
                assert "2, 3, 4" not in str(run.question)
                run.enter("5 4")
            elif run.question and "Call 2" in str(run.question):
                run.enter("2 4")
            else:
                run.enter(led)
        assert run.names == {3: 1, 1: 2, 5: 3, 2: 4, 4: 5}
        diode = Entering(scheme(2, "tags", common=False))
        assert "diode" in str(diode.question)
        diode.enter("2")
        assert diode.names == {2: 1, 1: 2}
        sums = Entering(scheme(3, "tags", common=False))
        ohms = sums.plan.tags_ohm
        assert "Core 2 reads least" in str(sums.enter(f"2={ohms[2] + ohms[0]:.1f} 3={ohms[2] + ohms[1]:.1f}"))
        sums.enter(f"1={ohms[0] + ohms[2]:.1f} 3={ohms[0] + ohms[1]:.1f}")
        assert sums.names == {1: 3, 2: 1, 3: 2}

    def test_tags_that_can_not_be(self) -> None:
        run = Entering(scheme(3, "tags"))
        for text, told in (
            ("1=100 2=100 3=110", "both read"),
            ("1=100", "read 2, 3 too"),
            ("1=777 2=100 3=110", "none of the resistors"),
            ("1-5", "no reading"),
        ):
            with pytest.raises(ContradictionError, match=told):
                run.enter(text)
        run.enter("1=121 2=100 3=110")
        assert run.names == {1: 3, 2: 1, 3: 2}
        assert pairs_in("") == []


class TestLearning:
    """Cables nobody knows."""

    @staticmethod
    def _cable(
        metal: list[set[Place]], one_way: list[tuple[Place, Place]], across: Sequence[tuple[Place, Place, float]] = ()
    ) -> Callable[..., float]:
        """What an ohmmeter reads: metal a tenth of an ohm, diodes 650 Ω from their plus side, lamps and coils theirs;
        side by side they add up, in a row networkx finds the least."""
        net = {place: n for n, places in enumerate(metal) for place in places}
        graph = nx.DiGraph()
        for a, b, ohm in [*((a, b, 650.0) for a, b in one_way), *across, *((b, a, ohm) for a, b, ohm in across)]:
            graph.add_edge(net.get(a, a), net.get(b, b), ohm=ohm)

        def ohms(plus: Sequence[Place], minus: Sequence[Place]) -> float:
            here, there = {net.get(p, p) for p in plus}, {net.get(p, p) for p in minus}
            if here & there:
                return 0.1
            beside = [data["ohm"] for a, b, data in graph.edges(data=True) if a in here and b in there]
            if beside:
                return 1 / sum(1 / ohm for ohm in beside)
            known = [
                nx.dijkstra_path_length(graph, a, b, "ohm")
                for a in here & set(graph)
                for b in there & set(graph)
                if nx.has_path(graph, a, b)
            ]
            return min(known, default=math.inf)

        return ohms

    def test_a_crossed_cable_with_a_split_a_short_and_a_diode(self) -> None:
        metal = [{("A", "1"), ("B", "3")}, {("A", "2"), ("B", "1"), ("B", "2")}, {("A", "3"), ("A", "4"), ("B", "5")}]
        found = learn((list("123456"), list("123456")), self._cable(metal, [(("A", "5"), ("B", "6"))]))
        assert {frozenset(net) for net in found.nets if len(net) > 1} == {frozenset(one) for one in metal}
        assert [(found.nets[a], found.nets[b]) for a, b in found.diodes] == [((("A", "5"),), (("B", "6"),))]
        assert found.alone == [("A", "6"), ("B", "4")]
        assert (("A", "1"), ("B", "3")) in found.nets

    @pytest.mark.parametrize("kind", ["plain", "splits", "shorts", "diodes", "lamps", "coils"])
    def test_sixty_cables_of_each_kind_are_found_near_the_fewest_readings(self, kind: str) -> None:
        """Of 12 to 40 cores, up to three odd things in each: every map right, readings in all at most 1.3 times what no
        plan can do without."""
        draw, readings, bound = random.Random(kind), 0, 0
        for _ in range(60):
            many = draw.randint(12, 40)
            order = draw.sample(range(many), many)
            metal: list[set[Place]] = [{("A", str(n)), ("B", str(order[n]))} for n in range(many)]
            some = draw.sample(range(many), 2 * draw.randint(1, 3))
            pairs = list(zip(some[::2], some[1::2], strict=True))
            one_way = [(("A", str(a)), ("A", str(b))) for a, b in pairs] if kind == "diodes" else []
            ohms = {"lamps": (4.0, 30.0), "coils": (60.0, 400.0)}.get(kind)
            across = [(("A", str(a)), ("A", str(b)), draw.uniform(*ohms)) for a, b in pairs] if ohms else []
            if kind in ("splits", "shorts"):
                for a, b in pairs:
                    metal[a] |= metal[b] if kind == "shorts" else metal[b] - {("A", str(b))}
                metal = [places for n, places in enumerate(metal) if n not in {b for _, b in pairs}]
            names = [str(n) for n in range(many)]
            found = learn((names, names), self._cable(metal, one_way, across))
            assert {frozenset(net) for net in found.nets} == {frozenset(one) for one in metal}
            at = {place: n for n, net in enumerate(found.nets) for place in net}
            assert {frozenset((part.a, part.b)) for part in found.parts} == {
                frozenset((at[a], at[b])) for a, b, *_ in [*one_way, *across]
            }
            assert set(found.diodes) == {(at[a], at[b]) for a, b in one_way}
            assert all(part.told for part in found.parts)
            readings, bound = readings + found.readings, bound + found.bound
        assert bound <= readings <= 1.3 * bound, (readings, bound)

    def test_what_differs_from_a_design_is_said(self) -> None:
        metal: list[set[Place]] = [{("A", "1"), ("B", "2")}, {("A", "2"), ("B", "1")}]
        found = learn((["1", "2"], ["1", "2"]), self._cable(metal, []))
        told = compared(found, [(("A", "1"), ("B", "1")), (("A", "2"), ("B", "2"))])
        assert len(told) == 4
        assert any("A 1, B 1 should be joined" in row for row in told)

    def test_nothing_at_all(self) -> None:
        found = learn(([], []), lambda a, b: math.inf)
        assert (found.nets, found.readings) == ([], 0)


def _led(cores: int, made: set[int], broken: int, touching: set[int], at: str) -> set[int]:
    """Near cores that lead while the far cores `made` are on the return: wires as a little graph, walked."""
    joins = [(("near", core), ("far", core)) for core in range(1, cores + 1) if core != broken]
    joins += [((at, one), (at, two)) for one, two in [sorted(touching)]]
    joins += [(("far", core), ("return", 0)) for core in made]
    reached, todo = set(), [("return", 0)]
    while todo:
        place = todo.pop()
        if place not in reached:
            reached.add(place)
            todo += [b if a == place else a for a, b in joins if place in (a, b)]
    return {core for mark, core in reached if mark == "near"}
