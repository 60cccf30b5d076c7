"""What the floor of least copper says of every choice of sizes, against choices that hold when they are solved, and
against sections."""

import itertools

import numpy as np
import pytest
from scipy.spatial import ConvexHull

from long_runs import LONG
from umber_trunk.core.catalog.conductors import conductor, series
from umber_trunk.core.demo import demo
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import Design
from umber_trunk.core.physics.bundle import Sections, Strands
from umber_trunk.core.physics.packing import laid
from umber_trunk.core.sample import generated
from umber_trunk.core.sizes import floor
from umber_trunk.core.sizes.certain import BANDS
from umber_trunk.core.sizes.floor import Best, Floor
from umber_trunk.core.sizes.groups import groups_of
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.sizes.program import LIGHTEST, Program
from umber_trunk.core.sizes.propose import all_met, propose
from umber_trunk.core.sizes.tried import LESS, LESS_DRAWN
from umber_trunk.core.solve.margins import figures
from umber_trunk.core.solve.plant import build_plant
from umber_trunk.core.solve.solution import Solution, solve

WORLDS = [("computer", 20.0), (14, 30.0), (22, 60.0)] + (
    [
        ("barge", 30.0),
        ("tractor", 30.0),
        ("shore", 20.0),
        *((n, t) for n in (8, 18, 30, 40) for t in (20.0, 45.0, 60.0) if (n, t) != (8, 60.0)),
    ]
    if LONG
    else []
)


@pytest.mark.parametrize(("made", "ambient"), WORLDS)
@pytest.mark.share(3)
def test_what_is_said_of_every_choice_is_true_of_those_that_hold(made: str | int, ambient: float) -> None:
    """Choices round the climb's are solved whole, by another way than the floor's: what holds meets every row of it."""
    design = demo(made) if isinstance(made, str) else edits.set_project(generated(made, seed=made), ambient_c=ambient)
    plant = build_plant(design)
    groups = groups_of(plant, frozenset(wire.id for wire in plant.wires if wire.locked and wire.size))
    free = edits.set_size(design, [plant.wires[row].id for group in groups for row in group.rows], None)
    start = propose(free).sizes
    groups = [group for group in groups if plant.wires[group.rows[0]].id in start]
    levels = [[s.size.label for s in group.steps].index(start[plant.wires[group.rows[0]].id]) for group in groups]

    def solved(steps: list[int]) -> Solution:
        return solve(
            free,
            {
                plant.wires[row].id: g.steps[step].size.label
                for g, step in zip(groups, steps, strict=True)
                for row in g.rows
            },
        )

    program, draw, held = Program(groups, LIGHTEST), np.random.default_rng(len(groups)), 0
    most = [min(level + int(draw.integers(1, 5)), len(g.steps) - 1) for level, g in zip(levels, groups, strict=True)]
    found = figures(solved(levels))
    under = Floor(groups, program, solved, 300)
    bound = under.close_in(Best(found, most, program.objective(most), all_met(found)))
    for turn in range(40 if LONG else 8):
        raised = draw.random(len(levels)) < draw.random()
        lowered = draw.random(len(levels)) < 0.3 * (turn % 2)
        steps = [
            high if up else max(level - int(down), 0)
            for level, high, up, down in zip(levels, most, raised, lowered, strict=True)
        ]
        value = program.objective(steps)
        if value > program.objective(most) or not all_met(figures(solved(steps))):
            continue
        held += 1
        assert value >= bound * (1 - 1e-9)
        assert all(step >= least for step, least in zip(steps, under.least, strict=True))
        for volts, left in zip(under.rows.volts, under.rows.left, strict=True):
            asked = [float(np.broadcast_to(each, len(groups[n].steps))[steps[n]]) for n, each in volts.items()]
            assert sum(asked) <= left + 1e-6 * (sum(map(abs, asked)) + abs(left)) + 1e-9
    assert held > 1


SPECS = [
    ("tinned", "marine", "pvc"),
    ("copper", "thinwall", "xlpe"),
    ("tinned", "marine", "rubber"),
    ("copper", "hookup", "pvc"),
]


def sections(spec: int, steps: np.ndarray) -> tuple[Sections, np.ndarray]:
    """(laid, outer diameters) of bundles (s, n) made of these steps of the metric series."""
    made = [conductor(size.label, *SPECS[spec]) for size in series("metric")]
    steps = np.sort(steps, axis=1)[:, ::-1]
    outer = np.array([one.outer_mm / 1e3 for one in made])[steps]
    core = np.array([one.conductor_mm / 1e3 for one in made])[steps]
    centres, width = laid(np.ascontiguousarray(outer))
    return Sections.of(centres, Strands(outer, core, np.full(outer.shape, made[0].jacket.k_w_mk)), width), outer


def of_count(table: tuple[tuple[int, float], ...], n: int) -> float:
    return [value for least, value in table if n >= least][-1]


@pytest.mark.parametrize("n", [3, 4, 6, 5, 7, 9, 12, 14, 16, 20, 32, 25])
@pytest.mark.share(2)
def test_no_section_found_is_better_than_is_allowed_for(n: int) -> None:
    """Bundles whose wires may be up to seven steps thicker than in the thinnest: the rise over the rim per watt of
    every wire against what is said of the best place, from that section alone and from sections drawn; the band by the
    convex hull of points on all rims."""
    draw = np.random.default_rng(n)
    for _ in range(60 if LONG else 24 if n < 7 else 8 if n < 10 else 4):
        spec = int(draw.integers(len(SPECS)))
        low = np.full(n, draw.integers(0, 5)) + draw.integers(0, 2, n)
        high = np.minimum(low + draw.integers(1, 8), len(series("metric")) - 1)
        shares = draw.random((30, 1))
        steps = np.where(
            draw.random((30, n)) < shares, low + np.floor(draw.random((30, n)) * (high - low + 1)).astype(int), low
        )
        tried = np.where(draw.random((30, n)) < draw.random((30, 1)), high, low)
        (found, outer), (thin, thin_m), (drawn, drawn_m) = (
            sections(spec, steps),
            sections(spec, low[None]),
            sections(spec, np.vstack([low, steps[:15], tried])),
        )
        for known, wide, table in ((thin, thin_m, LESS), (drawn, drawn_m, LESS_DRAWN)):
            stuff = 2 * np.pi * known.filling_w_mk
            best = (known.own_km_w() * stuff[:, None] + np.log(wide / 2)).min()
            claimed = np.maximum(best - np.log(outer / 2), 0.0) / stuff.max()
            clear = best - np.log(outer / 2) > 0.25
            assert np.all(found.own_km_w()[clear] >= of_count(table, n) * claimed[clear])
        turns = np.linspace(0, 2 * np.pi, 90, endpoint=False)
        rim = np.stack([np.cos(turns), np.sin(turns)], axis=-1)
        for at in range(0, 30, 10):
            points = found.centres_m[at][:, None, :] + outer[at][:, None, None] / 2 * rim
            allowed = [band for many, ratio, band in BANDS if n >= many and outer[at].max() <= ratio * outer[at].min()][
                -1
            ]
            assert ConvexHull(points.reshape(-1, 2)).area <= np.pi * allowed * np.sqrt(np.square(outer[at]).sum())


@pytest.mark.parametrize(
    "design",
    [
        generated(50),
        demo("computer"),
        *([generated(50, seed=3), demo("shore"), demo("loops"), demo("barge"), demo("tractor")] if LONG else []),
    ],
)
@pytest.mark.long
def test_what_is_left_open_is_small(design: Design) -> None:
    found = optimise(design)
    assert found.met
    assert 0 <= found.gap <= 0.03


@pytest.mark.long
def test_the_bound_is_told_as_it_rises(monkeypatch: pytest.MonkeyPatch) -> None:
    """Each time one hears of it nothing has got worse, and what is returned is the last."""
    monkeypatch.setattr(floor, "BRANCHES", 2)
    monkeypatch.setattr(floor, "PATIENT_BRANCHES", 2)
    heard: list[tuple[float, float]] = []
    found = optimise(demo("tractor"), better=lambda one: heard.append((one.objective, one.bound)))
    assert len(heard) > 2
    assert all(b[0] <= a[0] and b[1] >= a[1] * (1 - 1e-9) for a, b in itertools.pairwise(heard) if b[0] == a[0])
    assert heard[-1][0] == found.objective
    assert found.gap <= 0.03
    assert found.rounds > 0
