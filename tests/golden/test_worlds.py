"""Answers for harnesses, runs, coils, lists and trees made at random, kept as fingerprints: the demos are tidy, these
are not."""

# ruff: noqa: B023 what is told is asked at once

from __future__ import annotations

import io
import re
from collections.abc import Callable, Sequence
from contextlib import redirect_stderr, redirect_stdout, suppress
from random import Random
from typing import Any

import pytest

from golden.test_answers import held
from golden.worlds import Asks, fingerprint, leaves, varied
from long_runs import LONG
from runs_kit import random_tree, spliced
from umber_trunk.cli.solving import solve_json
from umber_trunk.core.analysis import analyse
from umber_trunk.core.board.drawing import drawing
from umber_trunk.core.buy.lines import Spares
from umber_trunk.core.buy.shopping import shopping
from umber_trunk.core.covers.section_svg import section_svg
from umber_trunk.core.demo import DEMOS, demo
from umber_trunk.core.ends.faces import faces_in
from umber_trunk.core.ends.order import steps_at
from umber_trunk.core.ends.strip import cable_strips, strip_of
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import UmberError
from umber_trunk.core.explain.about_wires import why_cut, why_heat, why_load, why_rating, why_size, why_wire_drop
from umber_trunk.core.explain.closeup import closeup
from umber_trunk.core.fuses.chain import chains
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.keep.compare import compare
from umber_trunk.core.kit.coilcut import plan_cuts
from umber_trunk.core.kit.coils import Coil, Piece
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.lengths.infer import Listed, infer
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.make.bench import Bench, BenchError
from umber_trunk.core.make.events import event
from umber_trunk.core.make.frozen import freeze
from umber_trunk.core.make.operations import operations
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.physics.packing import pack, quick
from umber_trunk.core.picture.layout import Picture
from umber_trunk.core.picture.notice import interest
from umber_trunk.core.prove.faults import word_of
from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.prove.plan import make_plan
from umber_trunk.core.prove.priors import SHARES, Priors
from umber_trunk.core.prove.session import Prover
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.results import Results
from umber_trunk.core.sample import generated
from umber_trunk.core.sizes.bars import Predicted
from umber_trunk.core.sizes.floor import Best, Floor
from umber_trunk.core.sizes.groups import groups_of
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.sizes.program import LIGHTEST, Program, Rows, Weights
from umber_trunk.core.sizes.propose import all_met
from umber_trunk.core.solve.solution import Solution, solve
from umber_trunk.core.stages import STAGES, fetched

WORLDS, FINE = 4, 5e-6


def told(work: Callable[[], Any]) -> Any:
    """The fingerprint of what a function answers, or the sentence it refuses with."""
    try:
        return fingerprint(work())
    except UmberError as why:
        return str(why)


SENTENCE = re.compile(r"(?:[a-z’]{2,}[ ,]+){3}[a-z’]{2,}")


def put_together(results: Results) -> set[str]:
    """What findings say within their sentences that has no code of its own: all but names and texts of the harness
    and its parts."""
    named = {one for one in leaves([results.design, list(results.shelf.parts.values())]) if isinstance(one, str)}
    said = {one for finding in results.findings for one in finding.values.values() if isinstance(one, str)}
    return {one for one in said - named if SENTENCE.search(one)}


def of_results(name: str, results: Results, seed: int) -> dict[str, Any]:
    """What all rooms answer about one harness."""
    assert put_together(results) == set()
    design, found = results.design, results.figures
    index = index_of(design)
    wires = [wire.id for wire in design.wires]
    few = Random(seed).sample(wires, min(6, len(wires)))
    answers: dict[str, Any] = {
        "findings": [
            len(results.findings),
            told(lambda: [(f.code, f.subject, f.message, f.cure) for f in results.findings]),
        ],
        "solve": told(lambda: solve_json(results)),
        "chains": told(
            lambda: [(p.name, p.rating_a, p.amps) for load in found.loads for p in results.once(chains).parts(load)]
        ),
        "faults": told(lambda: [results.once(chains).fault_a(load) for load in found.loads]),
        "placed": told(lambda: place_fuses(design, found).changes),
        "why": told(
            lambda: [
                why(design, found, found.wires[w]).as_text()
                for w in few
                if w in found.wires
                for why in (why_size, why_heat, why_wire_drop)
            ]
        ),
        "why loads": told(
            lambda: [
                why_load(design, found, entry).as_text() + why_rating(found, entry).as_text()
                for entry in found.loads.values()
            ]
        ),
        "why cut": told(lambda: [why_cut(results, row.wire.id).as_text() for row in results.once(cuts)[::5]]),
        "closeup": told(lambda: [closeup(design, found, wire) for wire in few[:2] if wire in found.wires]),
        "strips": told(lambda: [strip_of(results, one) for one in places_of(design).ends]),
        "cables": told(lambda: [cable_strips(results, one.id) for one in design.cables]),
        "steps": told(lambda: [steps_at(results, end.id) for end in design.ends]),
        "faces": told(
            lambda: [
                faces_in(results, end.id, side) for end in design.ends for side in ("wire", "mating") if end.housings
            ]
        ),
        "section": told(
            lambda: [
                section_svg(results, one)
                for one in [s for s, held in index.contents.items() if set(held) & set(found.wires)][seed % 2 :: 3]
            ]
        ),
        "bars": told(lambda: bars_of(results)) if seed < 3 else "",
        "board": told(lambda: results.once(drawing)) if name in ("shore", "computer", "tractor") and seed < 4 else "",
        "asks": told(lambda: asked_of(results)),
        "bench": told(lambda: bench_of(results, Random(seed))),
        "other": told(lambda: compare(demo(name), design)),
        "shopping": told(lambda: shopping(results, 1 + seed % 4, Spares(5.0, seed % 3, seed % 2))),
        "order": [
            told(lambda: [step.key for step in order.steps])
            if (order := plan_order(results, 1 + seed % 2, school, 1 + seed % 3))
            else None
            for school in ("operation", "wire")
        ],
        "picture": [
            told(lambda: Picture(design).lay_out(room, interest(index, results, wires[:1] and few[:1])))
            for room in (5.0, 11.0)
        ],
    }
    for place in dict.fromkeys(place for stage in STAGES for place in stage.shows):
        answers[place] = told(lambda: results.once(fetched(place)))
    return answers


def asked_of(results: Results) -> list[int]:
    """How often an analysis and a plan ask whether they are still wanted."""
    asks = Asks()
    analyse(results.design, wanted=asks)
    plan_order(results, 1, wanted=asks)
    return [asks.count]


def bars_of(results: Results) -> list[Any]:
    """Which sizes heat, drops, starts and fuses rule out: as predicted at these figures, and for good."""
    found, plant = results.figures, results.figures.solution.plant
    labels = {group: [step.size.label for step in group.steps] for group in groups_of(plant, frozenset())}
    sized = {
        group: found.wires[name].size for group in labels if (name := plant.wires[group.rows[0]].id) in found.wires
    }
    groups = [group for group, size in sized.items() if size in labels[group]]
    levels = [labels[group].index(sized[group]) for group in groups]
    if not groups:
        return []
    predicted, numbers, rows = Predicted(found, groups, levels), range(len(groups)), Rows()
    predicted.add_rows(rows)

    def at(steps: Sequence[int]) -> Solution:
        taken = zip(groups, steps, strict=True)
        return solve(
            results.design,
            results.sizes | {plant.wires[row].id: labels[g][step] for g, step in taken for row in g.rows},
        )

    program = Program(groups, LIGHTEST)
    under = Floor(groups, program, at, 300)
    bound = under.close_in(Best(found, levels, program.objective(levels), all_met(found)))
    ratios = [
        predicted.ohm_ratios(case, row)
        for case in range(len(found.solution.cases))
        for group in groups
        for row in group.rows
    ]
    return [
        rows.volts,
        rows.left,
        ratios,
        bound,
        under.least,
        under.rows.volts,
        under.rows.left,
        [predicted.least(n, 0) for n in numbers],
    ]


def bench_of(results: Results, draw: Random) -> list[Any]:
    """A bench through whatever may happen to a unit, and where it stands after every few acts."""
    order = plan_order(results, 2)
    frozen = freeze(results, order, "golden")
    one, told_of = Bench(frozen.making, frozen.shelf, "b"), list[Any]()
    for number in range(90):
        name, step = f"a{number}", one.now
        if step is None:
            break
        wire = step.operation.wire or draw.choice(order.steps).operation.wire
        act = draw.choice(("done",) * 12 + ("back", "back", "remake", "scrap", "read", "defect"))
        with suppress(BenchError):
            if act == "done" and one.needs_reading(step):
                one.add(event(name, "b", 0, "release", step.unit, step.key, {"who": "t"}))
            elif act in ("read", "defect"):
                one.add(
                    event(
                        name,
                        "b",
                        0,
                        act,
                        step.unit,
                        step.key,
                        {"what": "pull", "value": 90.0, "verdict": draw.choice(("ok", "low"))},
                    )
                )
            elif act == "remake":
                one.add(one.remake(name, 0, wire, draw.choice(("start", "finish")), 1))
            else:
                one.add(
                    one.advance(name, number, 2.0)
                    if act == "done"
                    else one.back(lambda: name, 0)[0]
                    if act == "back"
                    else one.scrap(name, 0, wire, 1)
                )
        told_of.append(
            [
                one.now and one.now.key,
                one.count,
                one.left_s(),
                one.lacks(step),
                one.out_of_limits(step),
                sorted(one.eaten.items()),
                [s.operation.text for s in one.extras],
            ]
        )
        if number % 20 == 0:
            rest = [*one.extras[1:], *(s for s in one.order.steps if s is not one.now and s.key not in one.done)]
            told_of.append([one.progress(), rest[:4]])
    return told_of


def proof_of(results: Results, seed: int) -> Any:
    """What proofs of units with one fault each, of kinds by turns, come to: readings, what is believed and how much,
    suspects."""
    net = Netlist(results)
    plan, priors = make_plan(net, Meter(), box=bool(seed % 2)), Priors(net)
    if not net.facts:
        return None
    told_of = []
    kinds = [kind for kind in SHARES if kind != "short"]  # takes long in harnesses as odd as these
    for kind in ("", kinds[seed % len(kinds)]):
        try:
            fault = priors.draw(Random(seed), kind)
        except UmberError as why:
            told_of.append(str(why))
            continue
        prover = Prover(net, plan=plan, priors=priors)
        verdict = prover.run(Unit(net, [fault], seed).measure)
        beliefs = prover.judge.beliefs()
        told_of.append(
            [
                word_of(fault),
                len(prover.taken),
                fingerprint([(t.probe, t.ohm, t.ok) for t in prover.taken]),
                fingerprint([round(beliefs[0].log - one.log, 2) for one in beliefs[:8]]),
                [[word_of(s.fault), float(f"{s.probability:.3g}")] for s in verdict.suspects[:4]],
            ]
        )
    return told_of


@pytest.mark.parametrize(
    "name", [name for name in sorted(DEMOS, reverse=True) if LONG or name not in ("barge", "tractor")]
)
@pytest.mark.share(3)
def test_demos_with_other_figures(name: str) -> None:
    told_of = {}
    with redirect_stdout(io.StringIO()), redirect_stderr(io.StringIO()):
        for seed in range(WORLDS):
            results = analyse(varied(name, seed))
            told_of[str(seed)] = of_results(name, results, seed) | {"proof": proof_of(results, seed)}
    held(f"worlds-{name}.json", told_of, FINE)


def test_trees_at_random_as_pictures_and_splices_on_trunks() -> None:
    told_of = {}
    for seed in range(24):
        draw = Random(seed)
        design = random_tree(seed, draw.randint(6, 70))
        for point in draw.sample(design.points, 3):
            design = edits.put(
                design, "points", edits.change(point, lean=round(draw.uniform(-2, 2), 1), side=draw.choice((-1, 0, 1)))
            )
        worth = {point.id: draw.choice((0.0, 1.0, 10.0, 1e4)) for point in design.points}
        picture = Picture(design)
        some = draw.sample(sorted(picture.knots), min(4, len(picture.knots)))
        kept = dict(zip(some, (True, False, False, True), strict=False))
        rooms = [(room, keep) for room in (3.0, 6.0, 9.0, 15.0, 26.0, float("inf")) for keep in ({}, kept)]
        places = [(round(draw.uniform(0, 0.5), 2), draw.random() < 0.4) for _ in range(draw.randint(1, 5))]
        told_of[str(seed)] = [
            told(lambda: [picture.lay_out(room, worth, keep) for room, keep in rooms]),
            told(lambda: [(k.key, k.points, k.side, k.slots, k.count) for k in picture.knots.values()]),
            told(lambda: joined(places)),
        ]
    held("worlds-trees.json", told_of, FINE)


def joined(places: list[tuple[float | None, bool]]) -> Any:
    """Splices on one segment: where they come to lie, the lengths of their wires, what there is to say."""
    results = analyse(spliced(places))
    return [
        results.once(joins),
        results.once(wire_lengths),
        [(f.code, f.subject, f.message) for f in results.findings],
        results.once(operations),
    ]


def test_bundles_at_random() -> None:
    told_of = {}
    for seed in range(9):
        draw = Random(seed)
        sizes = [round(draw.uniform(0.9, 4.5 if seed % 2 else 14), 2) for _ in range(draw.randint(1, 13))]
        told_of[str(seed)] = told(lambda: [pack(sizes), quick(tuple(sizes))])
    held("worlds-bundles.json", told_of, FINE)


def test_shelves_of_coils_at_random() -> None:
    """Small ones, which are cut as well as can be proven, so that no clock decides."""
    told_of, asks = {}, Asks()
    for seed in range(30):
        draw = Random(seed)
        size = [draw.choice(("1 mm2", "AWG 16", "2.5 mm2")) for _ in range(3)]
        coils = [
            Coil(
                f"C{n}",
                draw.choice(size),
                round(draw.uniform(0.4, 30), draw.choice((0, 1, 3))),
                "",
                draw.choice(("", "red", "blue")),
            )
            for n in range(draw.randint(1, 7))
        ]
        wanted = [
            Piece(
                f"W{n}",
                1,
                draw.choice(size),
                "copper",
                draw.choice(("red", "blue")),
                round(draw.uniform(0.1, 9), draw.choice((1, 4))),
            )
            for n in range(draw.randint(1, 14))
        ]
        told_of[str(seed)] = told(lambda: [plan_cuts(coils, wanted, draw.choice((0.0, 0.3, 2.0)), asks), asks.count])
    held("worlds-coils.json", told_of, FINE)


def decided(rows: list[Listed]) -> Any:
    """What a list decides of a trunk; what it leaves open may come out any way."""
    asks = Asks()
    found = infer(rows, asks)
    sure = [(one.a, one.b, one.length_m) for one in found.segments if one.sure]
    return [
        sure,
        len(found.segments),
        found.points,
        found.open_pairs,
        found.left_out,
        round(found.rms_m, 6),
        found.notes,
    ]


KINDS = (
    ("mass", "od", "resistance"),
    ("resistance", "bundle"),
    ("mass", "strands"),
    ("od",),
    ("mass",),
    ("resistance",),
    ("strands", "od"),
)


CHOICES: dict[str, tuple[Any, ...]] = {
    "load": ("4A", "16A", "90A", "60W", "1.4kW", "3ohm"), "supply": ("12V", "24V", "48V", "230V"), "length": ("0.4m", "3m", "12m", "60m"),
    "way_back": ("wire", "frame"), "max_drop": ("1%", "3%", "0.4V", "10%"), "ambient": ("-20C", "30C", "65C"), "metal": ("copper", "cca15", "aluminium"),
    "jacket": ("pvc", "silicone"), "series": ("metric", "awg"), "parallel": (1, 2, 3), "joints": (None, "4x0.5mohm"), "bundle": (1, 2, 5),
    "air": ("0", "2"), "duty": (None, "10s/120s", "300s/600s"), "surge": (None, "300A/1.5s", "40A/0.2s"), "fuse": (None, "auto", "20A", "100A"),
    "fuse_rule": ("curve", "iec", "share150"), "efficiency": (None, "80%"), "power_factor": (None, "0.8"), "enclosed": (False, True), "coiled": (0, 2),
    "sun": (False, True), "altitude": (None, "2500m"), "size": (None, "2.5mm2", "AWG 10"),
}  # fmt: skip


def test_least_copper_of_harnesses_at_random() -> None:
    told_of = {}
    for seed in range(4):
        draw = Random(seed)
        design = generated(draw.choice((8, 14, 20)), seed)
        loads = [
            edits.change(
                load, surge_a=draw.choice((None, 3 * load.value)), surge_s=0.4, min_volts=draw.choice((None, 20.5))
            )
            for load in design.loads
        ]
        one = optimise(
            edits.put_all(design, "loads", loads), Weights(*(draw.choice((0.0, 0.3, 1.0)) for _ in range(2)), 0.1)
        )
        told_of[str(seed)] = told(lambda: [one.sizes, one.objective, one.copper_kg, one.met, one.floor])
    held("worlds-least.json", told_of, FINE)
