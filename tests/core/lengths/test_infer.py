"""Trunks from end-to-end lengths: the same tree back where the list decides it, said to be open where it doesn't."""

import random

import networkx
import pytest

from umber_trunk.core.errors import EditError, InputError, Stopped
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Cavity, Design, End, Pin, Wire
from umber_trunk.core.harness.way import Method
from umber_trunk.core.lengths.adopt import adopt, inferred_trunk
from umber_trunk.core.lengths.infer import Inferred, Listed, infer


def tree_of(seed: int, ends: int) -> tuple[list[int], dict[int, dict[int, float]]]:
    """Ends of a tree made at random and the distances between all its points."""
    draw = random.Random(seed)
    graph, trunk, count = networkx.Graph(), [0], 1
    for _ in range(max(2, ends // 4)):
        graph.add_edge(trunk[-1], count, weight=round(draw.uniform(0.2, 2), 3))
        trunk.append(count)
        count += 1
    tips, hosts = [trunk[0], trunk[-1]], list(trunk)
    while len(tips) < ends:
        graph.add_edge(draw.choice(hosts), count, weight=round(draw.uniform(0.1, 1.5), 3))
        (hosts if draw.random() < 0.25 else tips).append(count)
        count += 1
    return tips, dict(networkx.all_pairs_dijkstra_path_length(graph))


def listed(tips: list[int], far: dict[int, dict[int, float]], seed: int, share: float = 1.0, noise: float = 0.0) -> list[Listed]:
    draw = random.Random(seed)
    pairs = [(a, b) for n, a in enumerate(tips) for b in tips[n + 1 :] if share == 1 or a in tips[:3] or draw.random() < share]
    return [Listed(f"W{n}", f"E{a}", f"E{b}", far[a][b] * (1 + draw.uniform(-noise, noise))) for n, (a, b) in enumerate(pairs)]


def off_by(found: Inferred, tips: list[int], far: dict[int, dict[int, float]]) -> tuple[float, float]:
    """(worst in m, worst as a share) of all ways that aren't said to be open."""
    graph = networkx.Graph()
    graph.add_nodes_from(found.points)
    graph.add_weighted_edges_from((one.a, one.b, one.length_m) for one in found.segments)
    assert networkx.is_forest(graph)
    at = {end: point for point, ends in found.points.items() for end in ends}
    made = dict(networkx.all_pairs_dijkstra_path_length(graph))
    left = set(map(frozenset, found.open_pairs))
    offs = [
        (abs(made[at[f"E{a}"]][at[f"E{b}"]] - far[a][b]), far[a][b]) for n, a in enumerate(tips) for b in tips[n + 1 :]
        if frozenset((f"E{a}", f"E{b}")) not in left
    ]  # fmt: skip
    return max(off for off, _ in offs), max(off / long for off, long in offs)


@pytest.mark.parametrize("seed", range(100))
def test_exact_lists_give_the_same_tree(seed: int) -> None:
    """10 to 60 ends, every pair listed: all ways within 1 mm, so the tree is the same (a tree is its distances)."""
    tips, far = tree_of(seed, random.Random(seed).randint(10, 60))
    found = infer(listed(tips, far, seed))
    assert off_by(found, tips, far)[0] < 1e-3
    assert not found.open_pairs
    assert all(one.sure for one in found.segments)
    assert max(map(abs, found.misfits.values())) < 1e-3


@pytest.mark.parametrize(("seed", "share"), [(seed, share) for seed in range(8) for share in (0.0, 0.3)])
def test_what_a_list_leaves_open_is_said(seed: int, share: float) -> None:
    tips, far = tree_of(seed, random.Random(seed).randint(10, 60))
    found = infer(listed(tips, far, seed, share))
    assert off_by(found, tips, far)[0] < 1e-3
    assert found.open_pairs
    assert any("not determined" in note for note in found.notes) == any(not one.sure for one in found.segments)


@pytest.mark.parametrize("seed", range(6))
def test_noise_of_one_percent_stays_within_two(seed: int) -> None:
    tips, far = tree_of(seed, random.Random(seed).randint(10, 40))
    assert off_by(infer(listed(tips, far, seed, noise=0.01)), tips, far)[1] < 0.02


def test_four_ends_by_hand() -> None:
    """a and b meet 1 and 2 from a point, c and d 3 and 4 from another, 5 apart."""
    rows = [("a", "b", 3), ("a", "c", 9), ("a", "d", 10), ("b", "c", 10), ("b", "d", 11), ("c", "d", 7)]
    found = infer([Listed(f"W{n}", *row) for n, row in enumerate(rows)])
    assert sorted(one.length_m for one in found.segments) == pytest.approx([1, 2, 3, 4, 5])
    short = infer([Listed(f"W{n}", *row) for n, row in enumerate(rows) if n != 1])  # a–c follows from the others
    assert not short.open_pairs
    assert sorted(one.length_m for one in short.segments) == pytest.approx([1, 2, 3, 4, 5])
    less = infer([Listed(f"W{n}", *row) for n, row in enumerate(rows[:5])])  # of c–d it says no more than that it is at most 10
    assert less.open_pairs == (("c", "d"),)
    wrong = infer([Listed(f"W{n}", *row) for n, row in enumerate([*rows, ("a", "b", 5)])])
    assert wrong.misfits["W6"] == pytest.approx(-wrong.misfits["W0"], rel=0.2)


def test_a_star_is_all_open_and_a_pair_is_not() -> None:
    star = infer([Listed(f"W{n}", "box", f"load {n}", 2.0 + n) for n in range(5)])
    assert len(star.open_pairs) == 10
    assert not all(one.sure for one in star.segments)
    assert max(map(abs, star.misfits.values())) < 1e-3
    pair = infer([Listed("W1", "a", "b", 2.5)])
    assert [(one.length_m, one.sure) for one in pair.segments] == [(pytest.approx(2.5), True)]


def test_ends_on_the_way_are_points_of_it() -> None:
    """b lies between a and c: no branch of no length."""
    found = infer([Listed("1", "a", "b", 1.0), Listed("2", "b", "c", 2.0), Listed("3", "a", "c", 3.0)])
    assert sorted(one.length_m for one in found.segments) == pytest.approx([1, 2])
    assert set(found.points.values()) == {("a",), ("b",), ("c",)}


def test_bad_rows_are_left_out_with_why_and_parts_stay_apart() -> None:
    rows = [Listed("1", "a", "b", 1.0), Listed("2", "c", "d", 2.0), Listed("3", "a", "a", 1.0), Listed("4", "a", "c", 0.0), Listed("5", "a", "d", -1.0), Listed("6", "a", "c", 1e308)]  # fmt: skip
    found = infer(rows)
    assert set(found.left_out) == {"3", "4", "5", "6"}
    assert len(found.segments) == 2
    assert "2 parts" in found.notes[0]
    with pytest.raises(InputError, match="nothing can be inferred"):
        infer(rows[2:5])
    with pytest.raises(InputError, match="split the list"):
        infer([Listed(str(n), "hub", f"e{n}", 1.0) for n in range(500)])
    with pytest.raises(Stopped):
        infer(rows, lambda: False)


def as_design(rows: list[Listed]) -> Design:
    names = list(dict.fromkeys(end for row in rows for end in (row.a, row.b)))
    ends = tuple(End(id=name, name=name, cavities=(Cavity(id="1"),)) for name in names)
    wires = tuple(Wire(id=row.wire, start=Pin(end=row.a, cavity="1"), finish=Pin(end=row.b, cavity="1"), stated_m=row.length_m) for row in rows)
    return Design(ends=ends, wires=wires)


def test_a_proposal_is_corrected_and_taken() -> None:
    tips, far = tree_of(4, 12)
    rows = listed(tips, far, 4)
    design = as_design(rows)
    found = inferred_trunk(design)
    made = adopt(design, found)
    index = index_of(made)
    assert all(index.length_m(wire) == pytest.approx(wire.stated_m, abs=2e-3) for wire in made.wires)
    assert {one.measure.method for one in made.segments} == {Method.STATED}
    with pytest.raises(EditError, match="already"):
        adopt(made, found)
    with pytest.raises(EditError, match="any more"):
        adopt(design.model_copy(update={"ends": design.ends[1:]}), found)
    longer = found.with_length(0, found.segments[0].length_m + 0.1)
    off = {wire: longer.misfits[wire] - found.misfits[wire] for wire in found.misfits}
    assert {round(value, 6) for value in off.values()} == {0.0, 0.1}
    assert longer.segments[0].sure
    guess = adopt(as_design([Listed(f"W{n}", "box", f"x{n}", 2.0 + n) for n in range(4)]), infer([Listed(f"W{n}", "box", f"x{n}", 2.0 + n) for n in range(4)]))  # fmt: skip
    assert Method.GUESS in {one.measure.method for one in guess.segments}
