"""How sure a verdict is, against harnesses drawn at random: the stated chance is a count of them."""

from __future__ import annotations

import random

import numpy as np
import pytest

from conftest import design_of
from demos import worked_out
from long_runs import LONG
from umber_trunk.cli.main import main
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import demo
from umber_trunk.core.harness import edits
from umber_trunk.core.sizes.sure import GUESSED_JOINT, LOAD_SHARE, how_sure
from umber_trunk.core.solve.margins import figures
from umber_trunk.core.solve.solution import solve


@pytest.mark.long
def test_the_first_order_is_what_sampling_finds(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every length and load of the barge, and the guess of its joints, drawn anew: the spread of each use within a
    tenth (long) of what was propagated, and the chance to be within limits within the sampling's own reach."""
    results = worked_out("barge")
    told = how_sure(results)
    sizes = {key: one.size for key, one in results.figures.wires.items()}
    shelf, draw, many = results.figures.solution.plant.shelf, random.Random(4), 400 if LONG else 14
    seen: dict[tuple[str, str], list[float]] = {}
    for _ in range(many):
        design = results.design
        lengths = [
            edits.change(
                one,
                measure=edits.change(
                    one.measure, length_m=max(0.01, one.measure.length_m + draw.gauss(0, one.measure.plus_minus_m / 2))
                ),
            )
            for one in design.segments
        ]
        loads = [edits.change(one, value=one.value * (1 + draw.gauss(0, LOAD_SHARE))) for one in design.loads]
        drawn = edits.put_all(edits.put_all(design, "segments", lengths), "loads", loads)
        drawn = edits.set_project(
            drawn, joint_ohm=max(0.0, design.project.joint_ohm * (1 + draw.gauss(0, GUESSED_JOINT)))
        )
        found = figures(solve(drawn, sizes, shelf=shelf))
        for key, load in found.loads.items():
            seen.setdefault(("load", key), []).append(load.used)
        for key, wire in found.wires.items():
            seen.setdefault(("wire", key), []).append(wire.worst.used)
    checked = 0
    for one in told:
        sample = np.array(seen[one.kind, one.id])
        if one.sd > 1e-3:
            assert one.sd == pytest.approx(sample.std(), rel=0.12 if LONG else 0.6), one
            inside = (sample <= 1).mean()
            assert abs(inside - one.chance) <= 3.5 * np.sqrt(max(one.chance * (1 - one.chance), 0.004) / many) + 0.02, (
                one
            )
            checked += 1
    assert checked > 20
    assert [one.chance for one in told] == sorted(one.chance for one in told)
    assert all(one.because for one in told if one.sd > 1e-3)


def test_a_single_run_by_hand() -> None:
    """The drop goes with length and current: ± 10 % of a guessed length and 5 % of the load are √(5² + 5²) = 7.1 % of
    the use, a little more since warmer wire drops more."""
    design = design_of("supply 24 V at battery", "pump 18 A at bow run 10 m")
    design = edits.put_all(
        design,
        "segments",
        [
            edits.change(one, measure=edits.change(one.measure, length_m=10.0, plus_minus_m=1.0))
            for one in design.segments[:1]
        ],
    )
    results = analyse(edits.set_size(design, [wire.id for wire in design.wires], "6 mm2"))
    (load,) = (one for one in how_sure(results) if one.kind == "load")
    assert load.sd / load.used == pytest.approx(0.071, rel=0.15)


def test_the_shell_says_it(tmp_path: object, capsys: pytest.CaptureFixture[str]) -> None:
    from umber_trunk.store.jsonfile import to_json

    path = tmp_path / "shore.json"  # type: ignore[operator]
    path.write_text(to_json(demo("shore")), "utf-8")
    assert main(["solve", str(path), "--sure"]) == 0
    assert "more than 99 of 100" in capsys.readouterr().out


def test_joints_nobody_measured_are_one_doubt() -> None:
    """Four joints of 5 mΩ at 18 A take 0.36 V; half as much again of it is one σ of the use, whatever the wires
    take."""
    design = edits.set_project(design_of("supply 24 V at battery", "pump 18 A at bow run 1 m"), joint_ohm=0.005)
    design = edits.put_all(
        design,
        "segments",
        [edits.change(one, measure=edits.change(one.measure, plus_minus_m=0.0)) for one in design.segments],
    )
    results = analyse(edits.set_size(design, [wire.id for wire in design.wires], "16 mm2"))
    (load,) = (one for one in how_sure(results) if one.kind == "load")
    allowed = results.figures.loads[load.id].allowed_v
    assert load.because == "the joints nobody measured"
    assert load.sd == pytest.approx(np.hypot(0.5 * 0.36 / allowed, 0.05 * load.used), rel=0.05)


def test_a_load_that_a_little_more_would_collapse_is_not_called_sure() -> None:
    """12 V through 24 m of 2.5 mm² feeds 164 W at 58 % of what may be lost; 5 % more has no voltage at all."""
    design = design_of("supply 12 V 5 mohm at battery", "heater 164 W at bow run 12 m")
    design = edits.put(design, "loads", edits.change(design.loads[0], max_drop_percent=60.0))
    results = analyse(edits.set_size(design, [wire.id for wire in design.wires], "2.5 mm2"))
    (load,) = (one for one in how_sure(results) if one.kind == "load")
    assert load.used < 0.7
    assert load.chance < 0.7
    assert load.because == f"what {design.loads[0].name} draws"
