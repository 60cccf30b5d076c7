"""Splices: none stacked wherever there is a place, a finding where there is none; barrel and shrink that hold."""

import itertools
import random

import pytest

from demos import worked_out
from runs_kit import spliced
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import generic
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import Cable, CableKind, Design, Fitting, Pin, Zone
from umber_trunk.core.harness.way import Bend, Cover, CoverKind, Join, Slack
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.joins.stagger import APART_M, Piece, Stretch, free_stretches, stagger
from umber_trunk.core.lengths.accept import take_places
from umber_trunk.core.lengths.wire_lengths import wire_lengths


def can_be_placed(free: list[Stretch], halves: list[float]) -> bool:
    """Whether joins fit into free stretches, by trying every way of dealing them out."""
    for deal in itertools.product(range(len(free)), repeat=len(halves)):
        for number, (low, high) in enumerate(free):
            inside = [half for half, place in zip(halves, deal, strict=True) if place == number]
            if inside and 2 * sum(inside) + APART_M * (len(inside) - 1) > high - low + 1e-9:
                break
        else:
            return True
    return not halves


@pytest.mark.parametrize("seed", range(100))
def test_staggered_wherever_there_is_a_place(seed: int) -> None:
    draw = random.Random(seed)
    length = draw.uniform(0.15, 0.6)
    taken = [(at, at + draw.uniform(0.01, 0.06)) for at in (draw.uniform(0, length) for _ in range(draw.randint(0, 4)))]
    pieces = [Piece(f"s{n}", draw.uniform(0.012, 0.03), draw.uniform(0, length)) for n in range(draw.randint(1, 5))]
    placed = stagger(length, pieces, taken)
    assert (not placed.crowded) == can_be_placed(free_stretches(length, taken), [one.half_m for one in pieces])
    laid = sorted(
        (placed.at_m[one.key] - one.half_m, placed.at_m[one.key] + one.half_m)
        for one in pieces
        if one.key not in placed.crowded
    )
    assert all(a[1] + APART_M <= b[0] + 1e-6 for a, b in itertools.pairwise(laid))
    for low, high in laid:
        assert low >= -1e-6
        assert high <= length + 1e-6
        assert all(high <= a + 1e-6 or low >= b - 1e-6 for a, b in taken)


def test_a_lone_join_lies_where_it_is_wanted() -> None:
    assert stagger(0.5, [Piece("a", 0.02, 0.2)]).at_m["a"] == pytest.approx(0.2)
    assert stagger(0.5, [Piece("a", 0.02, 0.2)], [(0.19, 0.25)]).at_m["a"] == pytest.approx(0.17)
    both = stagger(0.5, [Piece("a", 0.02, 0.2, held=True), Piece("b", 0.02, 0.2)]).at_m
    assert both["a"] == 0.2
    assert abs(both["b"] - 0.2) == pytest.approx(0.05)


def test_three_at_one_breakout_are_moved_apart() -> None:
    design = spliced([(0.05, False), (0.05, False), (0.05, False)])
    results = analyse(design)
    plans = results.once(joins)
    spans = sorted((one.from_a_m - one.half_mm / 1e3, one.from_a_m + one.half_mm / 1e3) for one in plans)
    assert all(a[1] < b[0] for a, b in itertools.pairwise(spans))
    assert {f.code for f in results.findings} >= {"join.moved"}
    assert all(one.at_m == pytest.approx(0.5 - one.from_a_m) for one in plans)
    settled = take_places(design, results)
    assert "join.moved" not in {f.code for f in analyse(settled).findings}
    held = take_places(spliced([(0.05, True), (0.05, False)]), analyse(spliced([(0.05, True), (0.05, False)])))
    assert next(end for end in held.ends if end.id == "s0").join.at_m == 0.05  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("places", "more", "code"),
    [
        ([(0.05, True), (0.06, True)], {}, "join.stacked"),
        ([(0.25, True)], {"bends": (Bend(at_m=0.25, radius_mm=40, angle_deg=90),)}, "join.blocked"),
        ([(0.25, True)], {"covers": (Cover(id="c", kind=CoverKind.CLAMP, from_m=0.25),)}, "join.blocked"),
        ([(0.001, True)], {}, "join.blocked"),
        ([(None, False)] * 14, {}, "join.crowded"),
        ([(0.2, True)], {"covers": (Cover(id="t", kind=CoverKind.TUBE, part="rind-tube-4.5"),)}, "join.thick"),
    ],
)
def test_what_stands_in_the_way_is_a_fault(
    places: list[tuple[float | None, bool]], more: dict[str, object], code: str
) -> None:
    told = [f for f in analyse(spliced(places, **more)).findings if f.code == code]
    assert told
    assert told[0].severity == 0
    assert told[0].cure


def test_wet_low_points_are_kept_clear_and_dry_ones_are_not() -> None:
    slack = (Slack(kind="drip", length_m=0.05, at_m=0.25),)
    for wet in (True, False):
        design = spliced([(0.25, False)], slack=slack, zone="z").model_copy(
            update={"zones": (Zone(id="z", name="z", wet=wet),)}
        )
        plan = analyse(design).once(joins)[0]
        assert plan.moved is wet
        shrink = generic().parts[plan.shrink]
        assert getattr(shrink, "adhesive") or not wet  # noqa: B009 a part of another kind has none


def test_shrink_passes_over_and_grips_each_side() -> None:
    """Its cut covers the barrel and its own grip to each side once it has shrunk."""
    for plan in worked_out("computer").once(joins):
        shelf = generic().parts
        shrink, barrel = shelf[plan.shrink].model_dump(), shelf[plan.barrel].model_dump()
        assert plan.shrink_cut_mm * (1 - shrink["shortens"]) == pytest.approx(
            barrel["barrel_mm"] + 2 * shrink["grip_mm"]
        )
        assert plan.half_mm == pytest.approx(barrel["barrel_mm"] / 2 + shrink["grip_mm"])
        assert plan.joint_mm < shrink["supplied_mm"] + 2 * shrink["wall_mm"]
        assert plan.dull == "psu"
        assert len(plan.legs) == 2


def nowhere(design: Design) -> Design:
    end = design.ends[3]
    return edits.put(design, "ends", edits.change(end, join=Join(segment="S9")))


def test_a_join_in_no_segment_and_legs_that_face_apart() -> None:
    assert "join.nowhere" in {f.code for f in analyse(nowhere(spliced([(0.1, False)]))).findings}
    design = spliced([(0.1, False)])
    design = edits.put(design, "ends", edits.change(design.ends[3], join=Join(segment="S1", dull="box", equal=True)))
    for wire, angle in (("W0a", 0.0), ("W0b", 90.0)):
        part = next(one for one in design.wires if one.id == wire)
        design = edits.put(design, "wires", edits.change(part, at_finish=Fitting(clock_deg=angle)))
    assert "join.facing" in {f.code for f in analyse(design).findings}
    part = next(one for one in design.wires if one.id == "W0b")
    same = edits.put(design, "wires", edits.change(part, at_finish=Fitting(clock_deg=360.0)))
    assert "join.facing" not in {f.code for f in analyse(same).findings}


def test_other_splices_need_no_place() -> None:
    design = spliced([(None, False)])
    bare = edits.put(design, "ends", edits.change(design.ends[3], join=None))
    assert not [f for f in analyse(bare).findings if f.code.startswith("join.")]
    assert analyse(bare).once(joins) == []


def test_where_a_splice_is_wanted_and_how_thick_it_gets() -> None:
    """40 mm and half of what it takes from its breakout; in a short segment the middle. 1.6 diameters of all copper, or
    its wires side by side, whichever is more, and the shrink's walls."""
    results = analyse(spliced([(None, False)]))
    plan = results.once(joins)[0]
    assert plan.at_m == pytest.approx(0.04 + plan.half_mm / 1e3)
    short = analyse(spliced([(None, False)], length_m=0.08)).once(joins)[0]
    assert short.at_m == pytest.approx(0.04)
    plant = results.figures.solution.plant
    copper = sum(plant.conductors[plant.row[w]].conductor_mm ** 2 for w in ("W0i", "W0a", "W0b")) ** 0.5
    legs = 2 * plant.conductors[plant.row["W0a"]].outer_mm
    walls = 2 * generic().parts[plan.shrink].wall_mm  # type: ignore[union-attr]
    assert plan.joint_mm == pytest.approx(max(1.6 * copper, legs) + walls, rel=1e-3)
    assert plan.open_mm == 0
    assert (plan.dull, plan.legs) == ("box", ("W0a", "W0b"))
    said = edits.put(results.design, "ends", edits.change(results.design.ends[3], join=Join(segment="S1", dull="left")))
    other = analyse(said).once(joins)[0]
    assert (other.dull, other.legs) == ("left", ("W0i", "W0b"))
    nobody = edits.put(results.design, "ends", edits.change(results.design.ends[3], join=Join(segment="S1")))
    assert analyse(nobody).once(joins)[0].dull == "box"


def test_jackets_are_opened_for_the_barrel_and_more() -> None:
    """A core in a cable: as much jacket off as barrel and shrink take, 10 mm more to each side; more where it is
    said."""
    design = spliced([(0.1, True)])
    cabled = design.model_copy(update={"cables": (Cable(id="C", kind=CableKind.MULTICORE),)})
    cabled = edits.put(cabled, "wires", edits.change(cabled.wires[0], cable="C"))
    plan = analyse(cabled).once(joins)[0]
    assert plan.open_mm == pytest.approx(2 * plan.half_mm + 20)
    more = edits.put(cabled, "ends", edits.change(cabled.ends[3], join=Join(segment="S1", at_m=0.1, open_mm=200)))
    assert analyse(more).once(joins)[0].open_mm == 200


def test_moved_by_less_than_half_a_millimetre_is_not_moved() -> None:
    plan = analyse(spliced([(0.0184, False)])).once(joins)[0]
    assert plan.moved == (abs(plan.at_m - 0.0184) > 5e-4)
    assert not analyse(spliced([(plan.half_mm / 1e3 + 0.001, False)])).once(joins)[0].moved
    assert analyse(spliced([(plan.half_mm / 1e3 - 0.002, False)])).once(joins)[0].moved


def test_what_takes_no_splice_is_named() -> None:
    covers = (Cover(id="t", kind=CoverKind.TUBE, part="rind-tube-4.5"),)
    told = next(f for f in analyse(spliced([(0.2, True)], covers=covers)).findings if f.code == "join.thick")
    assert "Rind slit tube, bore 4.5 mm takes 4.5 mm" in told.message
    wide = (Cover(id="t", kind=CoverKind.TUBE, part="rind-tube-29"),)
    assert "join.thick" not in {f.code for f in analyse(spliced([(0.2, True)], covers=wide)).findings}
    away = (Cover(id="t", kind=CoverKind.TUBE, part="rind-tube-4.5", from_m=0.0, to_m=0.2),)
    assert "join.thick" not in {f.code for f in analyse(spliced([(0.1, True)], covers=away)).findings}


def test_a_wire_to_nowhere_stops_neither_splices_nor_lengths() -> None:
    """A pin that isn't there is a finding; what else is at its splice, or in its cable, is worked out all the same."""
    design = spliced([(0.1, True)]).model_copy(update={"cables": (Cable(id="C", kind=CableKind.PAIR, lay_mm=30),)})
    design = edits.put_all(design, "wires", [edits.change(wire, cable="C") for wire in design.wires])
    lost = edits.change(design.wires[1], finish=Pin(end="gone", cavity="1"))
    results = analyse(edits.put(design, "wires", lost))
    plan = results.once(joins)[0]
    assert plan.legs == ("W0b",)
    assert set(results.once(wire_lengths)) == {"W0i", "W0b"}
