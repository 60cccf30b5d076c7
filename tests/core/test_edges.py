"""Edges of small rules that larger tests pass by: what stands just at a bound, what an odd value is called."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import shelf_for
from umber_trunk.core.demo import barge
from umber_trunk.core.ends.wire_ends import Places
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import change, set_project
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Fitting
from umber_trunk.core.harness.project import Project
from umber_trunk.core.kit.paper_units import inches_text
from umber_trunk.core.memo import Memo
from umber_trunk.core.needs.line import parse_need
from umber_trunk.core.onerun.asked_run import Run
from umber_trunk.core.onerun.run import size_run
from umber_trunk.core.physics.film import film_w_m2k
from umber_trunk.core.physics.response import Response, lone_response
from umber_trunk.core.physics.surroundings import Outside, Surroundings
from umber_trunk.core.picture.notice import interest, notices, points_of, uses
from umber_trunk.core.sample import generated
from umber_trunk.core.sizes.groups import allowed_sizes
from umber_trunk.core.solve.plant import build_plant
from umber_trunk.core.units import show_seconds, significant


@pytest.mark.parametrize(("value", "told"), [
    (0.0, "0"), (math.inf, "∞"), (-math.inf, "−∞"), (math.nan, "?"), (999_999.0, "999999"), (1e6, "1e+06"), (1e-4, "0.000100"), (-2.5, "−2.50"),
])  # fmt: skip
def test_odd_values_have_names(value: float, told: str) -> None:
    assert significant(value) == told


@pytest.mark.parametrize(("seconds", "told"), [
    (0.0123, "12 ms"), (0.999, "999 ms"), (1.0, "1.0 s"), (1.26, "1.3 s"), (119.0, "119 s"), (120.0, "2.0 min"), (7199.0, "120 min"), (7200.0, "2.0 h"),
    (9e7, "25000 h"), (1e8, "never"),
])  # fmt: skip
def test_times_in_words(seconds: float, told: str) -> None:
    assert show_seconds(seconds).replace(",", "") == told


@pytest.mark.parametrize(("sixteenths", "told"), [(1, '0 1/16"'), (2, '0 1/8"'), (16, '1"'), (16 * 12, "1' 0\"")])
def test_whole_sixteenths_stay(sixteenths: int, told: str) -> None:
    """Rounded up, but not past what is there already: an inch is 25.4 mm exactly."""
    assert inches_text(sixteenths * 0.0254 / 16) == told
    assert inches_text((sixteenths - 0.5) * 0.0254 / 16) == told


@pytest.mark.parametrize(("field", "low", "high", "outside"), [
    ("parallel", 1, 12, (0, 13)), ("bundle", 1, 200, (0, 201)),
])  # fmt: skip
@pytest.mark.share(2)
def test_bounds_of_one_run(field: str, low: int, high: int, outside: tuple[int, int]) -> None:
    for value in (low, high):
        assert size_run(Run(volts=24.0, run_m=7.5, amps=18.0, **{field: value})).candidates  # type: ignore[arg-type]
    for value in outside:
        with pytest.raises(InputError):
            size_run(Run(volts=24.0, run_m=7.5, amps=18.0, **{field: value}))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "odd", [{"altitude_m": 2000.0}, {"enclosed": True}, {"coiled_layers": 2}, {"sun_w_m2": 1000.0}]
)
def test_one_odd_stretch_among_plain_ones_counts(odd: dict[str, float]) -> None:
    plain = Surroundings()
    assert Outside.of([plain, plain]).plain
    assert not Outside.of([plain, Surroundings(**odd)]).plain  # type: ignore[arg-type]


def test_the_latest_six_indexes_are_kept() -> None:
    designs = [Design(project=Project(name=str(n))) for n in range(7)]
    kept = [index_of(one) for one in designs]
    assert [index_of(one) is mine for one, mine in zip(designs[1:], kept[1:], strict=True)] == [True] * 6
    assert index_of(designs[0]) is not kept[0]


def test_a_smallest_size_beyond_the_series_leaves_its_largest() -> None:
    plant = build_plant(set_project(generated(20), smallest_mm2=1000.0))
    assert len(allowed_sizes(plant)) == 1
    whole = allowed_sizes(build_plant(set_project(generated(20), smallest_mm2=0.0)))
    assert allowed_sizes(plant) == whole[-1:]
    at = build_plant(set_project(generated(20), smallest_mm2=whole[3].area_mm2))
    assert allowed_sizes(at) == whole[3:]


def test_interest_is_capped_and_faults_come_first() -> None:
    design = generated(40)
    results = analyse(design)
    index = index_of(design)
    quiet = [point for point in index.points if point not in results.once(notices)][2:4]
    results = replace(results, _known=Memo())
    results.know(uses, {quiet[0]: 0.5, quiet[1]: 60.0})
    worth = interest(index, results)
    assert worth[quiet[0]] == pytest.approx(50.0)
    assert worth[quiet[1]] == pytest.approx(5000.0)
    assert points_of(index, "points", "nowhere") == []
    assert points_of(index, "points", next(iter(index.points))) == [next(iter(index.points))]


def test_a_figure_left_in_a_name_is_told() -> None:
    odd = next(piece for piece in parse_need("pump 3kg 5 A at bow in deck", 12).pieces if piece.kind == "what")
    assert "not understood" in odd.meaning
    assert not odd.ok
    fine = next(piece for piece in parse_need("pump 2nd 5 A at bow in deck", 12).pieces if piece.kind == "what")
    assert fine.ok


def test_a_bundled_wire_sees_its_neighbours_and_a_lone_one_none() -> None:
    heat = analyse(generated(60)).figures.solution.heat
    own = heat.own_km_w
    assert np.all(own[heat.lone] == 0.0)
    bundled = np.setdiff1d(np.arange(len(own)), heat.lone)
    assert np.all(own[bundled] >= 0.0)
    assert own[bundled].max() > 0.0


def test_a_draught_on_one_wire_is_felt_there_alone() -> None:
    """Two wires side by side in one call, one of them in 3 m/s: each as if it were alone."""
    two, ten = np.full(2, 0.004), np.full(2, 10.0)
    both = film_w_m2k(two, ten, np.full(2, 30.0), np.array([0.0, 3.0]))
    still, blown = (float(film_w_m2k(two[:1], ten[:1], np.full(1, 30.0), speed)[0]) for speed in (0.0, 3.0))
    assert both[0] == pytest.approx(
        still, rel=0.01
    )  # the cubes of free and forced add; forced in still air is next to nothing
    assert both[1] == pytest.approx(blown, rel=1e-9)
    assert blown > 2 * still


def test_wires_that_are_alike_are_worked_out_once_and_right() -> None:
    """Of many wires with few kinds of response each rises as it would alone, whatever times are asked for; so do
    duties."""
    sizes = ("0.5 mm2", "2.5 mm2", "16 mm2")
    ones = [lone_response(size, "copper", "general", "pvc") for size in sizes]
    draw = np.random.default_rng(7)
    kinds = draw.integers(0, 3, 40)
    many = Response.stacked(ones).rows(kinds).with_steady(draw.uniform(2.0, 9.0, 40))
    for times in (np.array([0.1, 4.0, 900.0]), draw.choice([0.5, 20.0], (40, 3)), draw.uniform(0.1, 999.0, (40, 4))):
        grown, power = many.at(times)
        for row, kind in enumerate(kinds.tolist()):
            own = ones[kind].with_steady(many.steady[[row]]).at(times if times.ndim == 1 else times[[row]])
            assert (grown[row], power[row]) == (pytest.approx(own[0][0]), pytest.approx(own[1][0]))
    alone = [
        ones[kind].with_steady(many.steady[[row]]).periodic(10.0, 60.0)[0] for row, kind in enumerate(kinds.tolist())
    ]
    assert many.periodic(10.0, 60.0) == pytest.approx(alone)


@settings(max_examples=30)
@given(st.lists(st.tuples(st.integers(0, 400), st.sampled_from(["size", "fitting", "pin", "gone", "new"])), max_size=6))
def test_places_taken_over_from_the_edit_before_are_those_worked_out_anew(steps: list[tuple[int, str]]) -> None:
    design, before = barge(), None
    for number, what in steps:
        before = Places(design, shelf_for(design, None), before)
        wires = list(design.wires)
        at = number % len(wires)
        if what == "size":
            wires[at] = change(wires[at], size="10 mm2")
        elif what == "fitting":
            wires[at] = change(wires[at], at_start=Fitting(part="cockle-m-socket-1.5", remakes=1))
        elif what == "pin":
            wires[at] = change(wires[at], start=wires[number * 7 % len(wires)].finish)
        elif what == "gone":
            del wires[at]
        else:
            wires.insert(at, change(wires[at], id=f"N{number}"))
        design = design.model_copy(update={"wires": tuple(wires)})
    taken, anew = Places(design, shelf_for(design, None), before), Places(design, shelf_for(design, None))
    assert taken.ends == anew.ends
    assert (taken.at, taken.by_key) == (anew.at, anew.by_key)
    assert [one.wire for one in taken.ends] == [one.wire for one in anew.ends]
