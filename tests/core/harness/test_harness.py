"""The design as a value: edits, routes, laying, layout, cut lengths."""

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from conftest import design_of
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Pin, Point, Segment, Wire, Zone
from umber_trunk.core.harness.remove import remove
from umber_trunk.core.harness.way import Measure, Method
from umber_trunk.core.kit.cutlist import cuts, totals
from umber_trunk.core.lengths.laying import lay, provisional, suggest
from umber_trunk.core.picture.layout import lay_out
from umber_trunk.core.sample import generated


def test_nonsense_is_not_a_design() -> None:
    for wrong in (
        {"zones": [{"id": "z", "name": "z", "ambient_c": math.nan}]},
        {"zones": [{"id": "z", "name": "a"}, {"id": "z", "name": "b"}]},
        {"loads": [{"id": "x", "name": "x", "value": -1, "plus": {}, "minus": {}}]},
        {"colour": "red"},
    ):
        with pytest.raises(ValidationError):
            Design.model_validate(wrong)


def test_a_design_never_changes() -> None:
    design = design_of("supply 12 V at battery")
    with pytest.raises(ValidationError):
        design.project = None  # type: ignore[assignment, misc]


@given(st.lists(st.tuples(st.sampled_from("abc"), st.floats(-60, 200)), max_size=12))
def test_put_and_drop(steps: list[tuple[str, float]]) -> None:
    design, expected = Design(), {}
    for zone_id, celsius in steps:
        design = edits.put(design, "zones", Zone(id=zone_id, name=zone_id, ambient_c=celsius))
        expected[zone_id] = celsius
    assert {zone.id: zone.ambient_c for zone in design.zones} == expected
    assert [zone.id for zone in design.zones] == list(expected)
    for zone_id in expected:
        design = edits.drop(design, "zones", [zone_id])
    assert design == Design()


def test_bad_edits_say_what_and_change_nothing(demo: Design) -> None:
    for edit, says in (
        (lambda: remove(demo, "loads", "ghost"), "no “ghost”"),
        (lambda: remove(demo, "ends", "ghost"), "no “ghost”"),
        (lambda: edits.set_length(demo, "S99", Measure(length_m=1)), "no segment"),
        (lambda: edits.set_size(demo, ["W99"], "4 mm2"), "no wire"),
        (lambda: edits.split_segment(demo, "S1", 99.0), "inside"),
        (lambda: edits.set_fuse(demo, "box", "F99", 10), "no fuse"),
        (lambda: edits.rename(demo, "ends", "box", " "), "empty"),
        (lambda: edits.change(demo.loads[0], value=-4.0), "value"),
        (lambda: edits.set_project(demo, remakes=-1), "remakes"),
    ):
        with pytest.raises(EditError, match=says):
            edit()


def test_removing_a_load_takes_its_own_wires_only(demo: Design) -> None:
    less = remove(demo, "loads", "horn")
    assert {wire.id for wire in demo.wires} - {wire.id for wire in less.wires} == {"W18", "W19"}
    assert all("horn" not in (case.loads or ()) for case in less.cases)


def test_removing_an_end_takes_all_at_it(demo: Design) -> None:
    less = remove(demo, "ends", "valves")
    assert not any("valves" in (w.start.end, w.finish.end) for w in less.wires)
    assert not any(load.plus.end == "valves" for load in less.loads)


def test_a_breakout_keeps_the_length_and_its_spread(demo: Design) -> None:
    before = index_of(demo).segments["S8"].measure
    split, point = edits.split_segment(demo, "S8", 1.2, "hinge")
    parts = [s.measure for s in split.segments if point in (s.a, s.b)]
    assert sum(part.length_m for part in parts) == pytest.approx(before.length_m)
    assert math.hypot(*(part.plus_minus_m for part in parts)) == pytest.approx(before.plus_minus_m)
    for wire in demo.wires:
        assert index_of(split).length_m(wire) == pytest.approx(index_of(demo).length_m(wire))


def test_routes_follow_the_tree(demo: Design) -> None:
    index = index_of(demo)
    assert index.routes["W16"].segments == ("S2", "S5", "S8", "S19", "S23", "S24")
    assert index.length_m(index.wires["W16"]) == pytest.approx(0.6 + 2.8 + 3.4 + 4.2 + 1.2 + 3.6)
    assert index.path("P1", "P1") == ()
    assert len(index.contents["S1"]) == 2


@given(st.integers(2, 40), st.randoms(use_true_random=False))
def test_path_in_any_tree_is_the_only_one(n: int, draw) -> None:
    import networkx

    points = tuple(Point(id=f"P{i}") for i in range(n))
    parents = {i: draw.randrange(i) for i in range(1, n)}
    segments = tuple(Segment(id=f"S{i}", a=f"P{p}", b=f"P{i}", measure=Measure(length_m=1)) for i, p in parents.items())
    index = index_of(Design(points=points, segments=segments))
    graph = networkx.Graph([(f"P{p}", f"P{i}", {"s": f"S{i}"}) for i, p in parents.items()])
    a, b = f"P{draw.randrange(n)}", f"P{draw.randrange(n)}"
    nodes = networkx.shortest_path(graph, a, b)
    assert index.path(a, b) == tuple(graph[u][v]["s"] for u, v in itertools.pairwise(nodes))


def test_cut_list_and_totals_agree(demo: Design) -> None:
    results = analyse(demo)
    found, rows = results.figures, results.once(cuts)
    sums = totals(found, rows)
    assert len(rows) == len(demo.wires)
    assert sum(row.cut_m * row.count for row in rows) == pytest.approx(sum(one.metres for one in sums))
    assert all(row.cut_m > row.finished_m > row.run_m for row in rows)
    areas = [found.solution.plant.area_mm2[found.solution.plant.row[row.wire.id]] for row in rows]
    assert areas == sorted(areas, reverse=True)


def listed(*lengths: tuple[str, str, float]) -> Design:
    names = dict.fromkeys(name for a, b, _ in lengths for name in (a, b))
    ends = tuple(End(id=name, name=name, cavities=({"id": "1"},)) for name in names)  # type: ignore[arg-type]
    wires = tuple(
        Wire(id=f"W{i}", start=Pin(end=a, cavity="1"), finish=Pin(end=b, cavity="1"), stated_m=m)
        for i, (a, b, m) in enumerate(lengths)
    )
    return Design(ends=ends, wires=wires)


def test_laying_keeps_the_listed_lengths() -> None:
    design = listed(("box", "a", 2.0), ("box", "b", 2.1), ("box", "c", 5.0), ("c", "d", 0.8), ("box", "a", 2.0))
    plan = suggest(design, [wire.id for wire in design.wires])
    assert plan.start == "box"
    laid = lay(design, plan)
    index = index_of(laid)
    assert not provisional(laid)
    for wire in laid.wires:
        assert index.length_m(wire) == pytest.approx(wire.stated_m or 0, abs=0.011)
    breakouts = [row.at_m for row in plan.rows if row.via == "box"]
    assert len(set(breakouts)) == 2
    assert all(s.measure.method is Method.STATED for s in laid.segments)


def test_laying_joins_a_trunk_that_is_there() -> None:
    design = listed(("box", "a", 2.0), ("box", "b", 3.0))
    laid = lay(design, suggest(design, ["W0"]))
    assert len(provisional(laid)) == 1
    both = lay(laid, suggest(laid, ["W1"]))
    assert not provisional(both)
    with pytest.raises(EditError, match="None of these"):
        suggest(both, ["W1"])


def test_laying_from_another_start() -> None:
    design = listed(("box", "a", 2.0), ("box", "b", 3.0))
    plan = suggest(design, ["W0", "W1"], "a")
    assert plan.start == "a"
    laid = lay(design, plan)
    assert not provisional(laid)


@pytest.mark.parametrize("wires", [10, 90, 400])
def test_labels_never_share_a_slot(wires: int) -> None:
    layout = lay_out(generated(wires))
    for side in (-1, 1):
        xs = sorted(tag.x for tag in layout.tags if tag.side == side)
        assert all(b - a > 0.99 for a, b in itertools.pairwise(xs))
    assert all(0 <= x <= layout.width for x, _ in layout.at.values())


def test_the_builder_may_move_a_branch(demo: Design) -> None:
    layout = lay_out(demo)
    top = layout.branch_of["P14"]
    was = layout.at[top][1]
    point = index_of(demo).points[top]
    flipped = edits.put(demo, "points", point.model_copy(update={"side": -1 if was > 0 else 1}))
    assert lay_out(flipped).at[top][1] == pytest.approx(-was)
    leaned = edits.put(demo, "points", index_of(demo).points["P14"].model_copy(update={"lean": 0.4}))
    assert lay_out(leaned).at["P14"][0] == pytest.approx(layout.at["P14"][0] + 0.4)


def test_strays_are_the_wires_not_laid() -> None:
    layout = lay_out(listed(("x", "y", 2.0), ("y", "x", 2.5), ("x", "z", 1.0)))
    assert sorted((s.a, s.b, len(s.wires), s.length_m) for s in layout.strays) == [
        ("x", "y", 2, 2.5),
        ("x", "z", 1, 1.0),
    ]
