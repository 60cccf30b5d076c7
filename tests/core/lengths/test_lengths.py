"""Lengths against closed forms and chance: arcs, helices, combs, stiff leads, what is short how often, what history
says."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from demos import worked_out
from runs_kit import lead, spliced
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.parts import Splice
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import EditError, InputError
from umber_trunk.core.explain.about_wires import why_cut
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.end import Cavity
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Cable, CableKind, Design, Fitting, Pin, Point, Segment
from umber_trunk.core.harness.way import Alike, Bend, Comb, FoundLength, Join, Lead, Measure, Method, Prices, Slack
from umber_trunk.core.language.grammar import read_line
from umber_trunk.core.language.hear import way_line
from umber_trunk.core.language.records import EXAMPLES, OnTheWay
from umber_trunk.core.lengths import reserve
from umber_trunk.core.lengths.accept import learn, unlearn
from umber_trunk.core.lengths.arcs import arc_extra_m, comb_extras_m, corner_extra_m, helix_factor, least_lead_mm, words
from umber_trunk.core.lengths.history import habits
from umber_trunk.core.lengths.sheet import KEYS, length_dict
from umber_trunk.core.lengths.wire_length import WireLength
from umber_trunk.core.lengths.wire_lengths import STATED_SHARE, wire_lengths
from umber_trunk.core.quantity import Habit as Separators


def of(design: Design) -> dict[str, WireLength]:
    return analyse(design).once(wire_lengths)


def said(design: Design, *lines: str) -> Design:
    for line in lines:
        design = way_line(line)(Separators(""))(design)
    return design


def test_closed_forms() -> None:
    """An arc's rim, a rounded corner's chord by a polygon of 20 000 sides, a helix measured along its points."""
    assert arc_extra_m(90, 0.010) == pytest.approx(math.pi / 2 * 0.010)
    for angle, radius in ((90, 0.05), (45, 0.2), (150, 0.03)):
        half = math.radians(angle) / 2
        turns = np.linspace(0, 2 * half, 20_001)
        arc = np.hypot(np.diff(np.cos(turns)), np.diff(np.sin(turns))).sum() * radius
        assert corner_extra_m(angle, radius) == pytest.approx(arc - 2 * radius * math.tan(half), rel=1e-3)
        assert corner_extra_m(angle, radius) < 0
    with pytest.raises(ValueError, match="180"):
        corner_extra_m(180, 0.1)
    t = np.linspace(0, 10, 200_001)
    helix = np.column_stack([np.cos(2 * math.pi * t) * 0.002, np.sin(2 * math.pi * t) * 0.002, t * 0.025])
    long = np.sqrt((np.diff(helix, axis=0) ** 2).sum(1)).sum()
    assert helix_factor(0.004, 0.025) == pytest.approx(long / 0.25, rel=1e-3)
    assert helix_factor(0.004, 0.0) == 1


@given(st.integers(1, 30), st.floats(0.5, 20), st.lists(st.floats(-180, 180), max_size=4))
def test_neighbours_in_a_comb_differ_by_turn_times_pitch(count: int, pitch: float, turns: list[float]) -> None:
    extras = comb_extras_m(count, pitch / 1e3, tuple(turns))
    step = math.radians(sum(turns)) * pitch / 1e3
    assert all(b - a == pytest.approx(step, abs=1e-9) for a, b in itertools.pairwise(extras))
    assert sum(extras) == pytest.approx(0, abs=1e-9)


def tangents(apart: float, leave: float, arrive: float, radius: float) -> float:
    """The shortest arc, straight, arc from geometry alone: every common tangent of a turning circle at each stud.
    Travelling directions in radians against +x, the second stud at (apart, 0)."""
    best = math.inf
    for one, other in itertools.product((1, -1), repeat=2):  # 1 turns left
        a = np.array([-math.sin(leave), math.cos(leave)]) * radius * one
        b = np.array([apart, 0.0]) + np.array([-math.sin(arrive), math.cos(arrive)]) * radius * other
        far = math.hypot(*(b - a))
        if one != other and far < 2 * radius:
            continue
        base = math.atan2(*(b - a)[::-1])
        lean = 0.0 if one == other else one * math.asin(2 * radius / far)
        way = base + lean
        straight = far if one == other else math.sqrt(far**2 - 4 * radius**2)
        turns = [(way - leave) * one % math.tau, (arrive - way) * other % math.tau]
        turns = [0.0 if turn > math.tau - 1e-7 else turn for turn in turns]
        best = min(best, straight + radius * sum(turns))
    return best


@given(st.floats(0, 359), st.floats(0, 359), st.floats(4.2, 40))
def test_stiff_leads_against_common_tangents(leave: float, arrive: float, apart: float) -> None:
    """Beyond four radii the shortest way is always arc, straight, arc (Dubins)."""
    travel = (90 - leave, 90 - arrive + 180)
    wanted = tangents(apart, *(math.radians(angle) for angle in travel), 1.0)
    assert least_lead_mm(apart, 90, leave, arrive, 1.0) == pytest.approx(wanted, rel=1e-6)


def turned_about(apart: float, leave: float, arrive: float, radius: float) -> float:
    """The shortest of three arcs from geometry alone: two turning circles of one sense, a third of the other that
    touches both, on either side."""
    best = math.inf
    for sense in (1, -1):
        a = np.array([-math.sin(leave), math.cos(leave)]) * radius * sense
        b = np.array([apart, 0.0]) + np.array([-math.sin(arrive), math.cos(arrive)]) * radius * sense
        far = math.hypot(*(b - a))
        if not 0 < far <= 4 * radius:
            continue
        base = math.atan2(*(b - a)[::-1])
        for side in (1, -1):
            lean = base + side * math.acos(far / (4 * radius))
            m = a + 2 * radius * np.array([math.cos(lean), math.sin(lean)])
            one, other = (a + m) / 2, (m + b) / 2  # where the circles touch

            def swept(centre: np.ndarray, start: np.ndarray, stop: np.ndarray, way: int) -> float:
                angles = [math.atan2(*(spot - centre)[::-1]) for spot in (start, stop)]
                turn = (angles[1] - angles[0]) * way % math.tau
                return 0.0 if turn > math.tau - 1e-7 else turn

            total = (
                swept(a, np.zeros(2), one, sense)
                + swept(m, one, other, -sense)
                + swept(b, other, np.array([apart, 0.0]), sense)
            )
            best = min(best, radius * total)
    return best


@given(st.floats(0, 359), st.floats(0, 359), st.floats(0.05, 60))
def test_stiff_leads_of_any_length_against_geometry(leave: float, arrive: float, apart: float) -> None:
    """Arc, straight, arc or three arcs, whichever is shorter, both found from circles and tangents."""
    first, second = (math.radians(angle) for angle in (90 - leave, 90 - arrive + 180))
    wanted = min(tangents(apart, first, second, 1.0), turned_about(apart, first, second, 1.0))
    assert least_lead_mm(apart, 90, leave, arrive, 1.0) == pytest.approx(wanted, rel=1e-5)


def test_stiff_leads_known_by_hand() -> None:
    """Straight across; out and back over the top: two quarter turns and the distance between; three arcs where the
    studs are
    close: they can't be shorter than a half turn."""
    assert least_lead_mm(100, 90, 90, 270, 20) == pytest.approx(100)
    assert least_lead_mm(100, 90, 0, 0, 20) == pytest.approx(math.pi * 20 + 60)
    assert least_lead_mm(100, 0, 0, 180, 20) == pytest.approx(100)
    close = least_lead_mm(10, 90, 0, 0, 20)
    assert close > math.pi * 20
    assert least_lead_mm(10, 90, 0, 0, 5) == pytest.approx(math.pi * 5)


def test_a_lead_too_short_for_its_bends_is_a_fault() -> None:
    design = said(lead(length_m=0.16, size="50 mm2"), "lead W1 apart 120 mm toward 90 leaves 0 arrives 0")
    told = [f for f in analyse(design).findings if f.code == "wire.stiff_lead"]
    assert told[0].severity == 0
    outer = analyse(design).figures.solution.plant.conductors[0].outer_mm
    radius = 4 * outer
    assert f"{1e3 * (math.pi * radius + max(120 - 2 * radius, 0)) / 1e3:.0f} mm" in told[0].message
    longer = edits.set_length(design, "S1", Measure(length_m=0.6, method=Method.TAPE, plus_minus_m=0.01))
    assert not [f for f in analyse(longer).findings if f.code == "wire.stiff_lead"]
    wide = edits.put(design, "wires", edits.change(design.wires[0], lead=Lead(apart_mm=120, radius_mm=5)))
    assert not [f for f in analyse(wide).findings if f.code == "wire.stiff_lead"]


def test_a_length_part_by_part() -> None:
    """2 m ± 10 mm; 50 mm into each end, 8 mm bared, one remake of 15 mm each; z(2 %) = 2.0537 times 5 mm, up to 5
    mm."""
    one = of(lead())["W1"]
    assert (one.path_m, one.entry_m, one.strip_m, one.remakes_m) == (2.0, 0.1, 0.016, 0.03)
    assert one.sd_m == pytest.approx(0.005)
    assert one.extra_m - one.rounding_m == pytest.approx(2.053749 * 0.005, rel=1e-5)
    assert one.cut_m == pytest.approx(2.160)
    assert sum(share.metres for share in one.shares) == pytest.approx(one.cut_m)
    assert sum(length_dict(one)[key] for key in KEYS[:8]) == pytest.approx(one.cut_m)
    assert one.finished_m == pytest.approx(2.116)
    finer = edits.set_project(lead(), cut_step_m=0.001, cutting_m=0.006, remakes=0)
    two = of(finer)["W1"]
    assert two.sd_m == pytest.approx(math.hypot(0.005, 0.003))
    assert two.cut_m == pytest.approx(math.ceil(1e3 * (2.116 + 2.053749 * two.sd_m)) / 1e3)
    often = edits.put(
        lead(), "wires", edits.change(lead().wires[0], at_start=Fitting(remakes=3), at_finish=Fitting(remakes=0))
    )
    assert of(often)["W1"].remakes_m == pytest.approx(0.045)


def test_the_parts_themselves_say_how_far_and_how_much() -> None:
    """The barge's main feed: both lugs by their sheet, nothing of the project's usual figures."""
    one = of(demo("barge"))["W01"]
    shelf = {part["id"]: part for part in _anchor()}
    lugs = [shelf["anchor-50-m10"], shelf["anchor-50-m8"]]
    assert one.strip_m == pytest.approx(sum(lug["strip_mm"] for lug in lugs) / 1e3)
    assert one.entry_m == pytest.approx(sum(max(lug["barrel_mm"] - lug["strip_mm"], 0) for lug in lugs) / 1e3)
    assert one.remakes_m == pytest.approx(2 * sum(lug["strip_mm"] + 2 for lug in lugs) / 1e3)


def _anchor() -> list[dict[str, float]]:
    import json
    from importlib import resources

    return json.loads(resources.files("umber_trunk").joinpath("data/catalog/parts/anchor.json").read_text("utf-8"))


def test_bends_by_place_and_by_doubt() -> None:
    """Two wires side by side, D apart, in a bend of 90° whose inside is known: one is π/2·D longer than the other;
    while nobody says the inside, both are as long and less sure."""
    known = lead(2, bends=(Bend(at_m=1, radius_mm=80, angle_deg=90, toward_deg=0),))
    found = of(known)
    outer = analyse(known).figures.solution.plant.conductors[0].outer_mm / 1e3
    assert abs(found["W1"].bends_m - found["W2"].bends_m) == pytest.approx(math.pi / 2 * outer, rel=1e-6)
    assert found["W1"].bends_m + found["W2"].bends_m == pytest.approx(0, abs=1e-9)
    unknown = of(lead(2, bends=(Bend(at_m=1, radius_mm=80, angle_deg=90),)))
    assert unknown["W1"].bends_m == 0
    assert unknown["W1"].sd_m == pytest.approx(math.hypot(0.005, math.pi / 2 * outer / 2 / math.sqrt(2)))
    inside = of(lead(2, bends=(Bend(at_m=1, radius_mm=80, angle_deg=90, toward_deg=180),)))
    assert inside["W1"].bends_m == pytest.approx(-found["W1"].bends_m)
    corner = of(lead(corners=True, bends=(Bend(at_m=1, radius_mm=80, angle_deg=90),)))
    assert corner["W1"].bends_m == pytest.approx(0.080 * (math.pi / 2 - 2))


def test_twists_loops_and_the_projects_factor() -> None:
    """A pair turns on a circle of one outside; a bundle of two likewise; loops lengthen what is twisted too."""
    pair = lead(2).model_copy(update={"cables": (Cable(id="P", kind=CableKind.PAIR, lay_mm=25),)})
    pair = edits.put_all(pair, "wires", [edits.change(w, cable="P") for w in pair.wires])
    outer = analyse(pair).figures.solution.plant.conductors[0].outer_mm
    turned = math.hypot(1, math.pi * outer / 25)
    assert of(pair)["W1"].twist_m == pytest.approx(2.0 * (turned - 1), rel=1e-3)
    looped = edits.put(pair, "segments", edits.change(pair.segments[0], slack=(Slack(kind="drip", length_m=0.2),)))
    assert of(looped)["W1"].twist_m == pytest.approx(2.2 * (turned - 1), rel=1e-3)
    assert of(looped)["W1"].loops_m == pytest.approx(0.2)
    bundle = of(lead(2, lay_mm=40))["W1"]
    assert bundle.twist_m == pytest.approx(2.0 * (math.hypot(1, math.pi * outer / 40) - 1), rel=1e-3)
    assert of(edits.set_project(lead(), twist_factor=1.05))["W1"].twist_m == pytest.approx(0.1)
    service = edits.put(lead(), "ends", edits.change(lead().ends[0], slack_m=0.12))
    assert of(service)["W1"].loops_m == pytest.approx(0.12)
    cored = pair.model_copy(update={"cables": (Cable(id="P", kind=CableKind.MULTICORE),)})
    cored = edits.put(cored, "wires", edits.change(cored.wires[0], at_start=Fitting(remakes=4)))
    cuts = of(cored)
    assert cuts["W1"].cut_m == cuts["W2"].cut_m > of(lead(2))["W2"].cut_m  # cores come off the reel together
    assert cuts["W1"].needed_m > cuts["W2"].needed_m


def test_a_turn_shorter_than_its_wire_is_thick() -> None:
    """A wire as thick as its turn is long touches itself: no helix is tighter; the finding names what would be."""
    pair = lead(2).model_copy(update={"cables": (Cable(id="P", kind=CableKind.PAIR, lay_mm=0.01),)})
    pair = edits.put_all(pair, "wires", [edits.change(w, cable="P") for w in pair.wires])
    for design, twisted in ((lead(2, lay_mm=0.01), "S1"), (pair, "P")):
        analysis = analyse(design)
        (found,) = [one for one in analysis.findings if one.code == "lay.short"]
        assert (found.subject, found.severity) == (twisted, Severity.FAULT)
        # two wires of one thickness on a circle of one thickness, one thickness a turn
        assert analysis.once(wire_lengths)["W1"].twist_m == pytest.approx(2.0 * (math.hypot(1, math.pi) - 1), rel=1e-3)
    assert not [one for one in analyse(lead(2, lay_mm=40)).findings if one.code == "lay.short"]


def test_combs_sets_and_second_ends() -> None:
    comb = Comb(id="c", wires=("W1", "W2", "W3"), pitch_mm=4.0, turns_deg=(90.0, 45.0), cut_last=True, allowance_m=0.04)
    found = of(lead(3).model_copy(update={"combs": (comb,)}))
    step = math.radians(135) * 0.004
    assert [found[w].bends_m for w in comb.wires] == pytest.approx([-step, 0, step])
    assert all(found[w].extra_m - found[w].rounding_m == pytest.approx(0.04) for w in comb.wires)
    planned = edits.change(comb, cut_last=False)
    assert of(lead(3).model_copy(update={"combs": (planned,)}))["W1"].extra_m < 0.02
    uneven = edits.put(lead(3), "ends", lead(3).ends[0])
    uneven = uneven.model_copy(
        update={"combs": (planned,), "sets": (Alike(id="s", wires=("W1", "W3"), tolerance_mm=1),)}
    )
    alike = of(uneven)
    assert alike["W1"].cut_m == alike["W3"].cut_m
    assert alike["W1"].finished_m == pytest.approx(alike["W3"].finished_m)
    assert alike["W1"].loops_m == pytest.approx(2 * step)
    assert alike["W1"].alike == "s"
    codes = {
        f.code
        for f in analyse(lead(3).model_copy(update={"combs": (edits.change(comb, wires=("W1", "W1")),)})).findings
    }
    assert "comb.wires" in codes
    gone = lead(3).model_copy(update={"sets": (Alike(id="s", wires=("W1", "W9")),)})
    assert "set.wires" in {f.code for f in analyse(gone).findings}


def test_a_set_that_hangs_uneven_is_told() -> None:
    told = [f for f in worked_out("computer").findings if f.code == "set.uneven"]
    assert told[0].subject == "cameras"
    assert "8 mm" in told[0].message
    even = edits.set_length(demo("computer"), "S6", demo("computer").segments[4].measure)
    assert "set.uneven" not in {f.code for f in analyse(even).findings}


@pytest.mark.parametrize("chance", [0.2, 0.05, 0.02])
def test_chance_against_monte_carlo(chance: float) -> None:
    """Three segments drawn a million times with their own ±: as many come up short as the chance says, within 0.005."""
    design = edits.set_project(demo("barge"), chance_short=chance, cut_step_m=0.0005)
    one = of(design)["W12"]
    index = index_of(design)
    draw = np.random.default_rng(3)
    errors = sum(
        draw.normal(0, index.segments[s].measure.plus_minus_m / 2, 1_000_000) for s in index.routes["W12"].segments
    ) + draw.normal(0, design.project.cutting_m / 2, 1_000_000)
    assert one.sd_m == pytest.approx(float(np.std(errors)), rel=0.005)
    assert float(np.mean(errors > one.extra_m)) == pytest.approx(one.chance_short, abs=0.005)
    assert one.chance_short <= chance
    assert reserve.chance_short(one.extra_m - one.rounding_m, one.sd_m) == pytest.approx(chance, rel=1e-6)


def test_the_cheapest_extra_against_a_search() -> None:
    from scipy.optimize import minimize_scalar
    from scipy.stats import norm

    prices = Prices(scrapped=12.0, spare_per_m=0.8)
    lost = 12.0 + 0.8 * 3.0
    found = minimize_scalar(
        lambda x: 0.8 * x + lost * norm.sf(x / 0.02), bounds=(0, 0.2), method="bounded", options={"xatol": 1e-9}
    )
    assert reserve.cheapest_extra_m(0.02, 3.0, prices) == pytest.approx(found.x, abs=1e-5)
    assert reserve.cheapest_extra_m(0.02, 3.0, Prices(scrapped=0.01, spare_per_m=1e4)) >= 0
    assert reserve.cheapest_extra_m(5.0, 0.001, Prices(scrapped=0.01, spare_per_m=1e4)) == 0
    assert reserve.cheapest_extra_m(0.0, 3.0, prices) == 0
    priced = of(edits.set_project(lead(), prices=Prices(scrapped=500.0, spare_per_m=0.5), cut_step_m=0.001))["W1"]
    assert priced.extra_m > of(edits.set_project(lead(), cut_step_m=0.001))["W1"].extra_m
    dear = edits.set_project(lead(), prices=Prices(scrapped=0.01, spare_per_m=900.0), cut_step_m=0.001)
    assert of(dear)["W1"].chance_short <= 0.02  # the project's risk is kept whatever copper costs
    assert reserve.chance_short(0.0, 0.0) == 0
    assert reserve.chance_short(-1e-3, 0.0) == 1


def test_ways_round_a_loop_and_pins() -> None:
    """The shorter of two ways unless pinned; a pin where no way leads is a fault; a closed ring is told, not hidden."""
    design = lead(2)
    design = edits.put(design, "points", Point(id="M"))
    for name, a, b, long in (("S2", "A", "M", 0.7), ("S3", "M", "B", 0.8)):
        design = edits.put(design, "segments", Segment(id=name, a=a, b=b, measure=Measure(length_m=long)))
    index = index_of(design)
    assert len(index.loops) == 1
    assert index.routes["W1"].segments == ("S2", "S3")
    assert index.ways.alternatives("A", "B") == [("S2", "S3"), ("S1",)]
    pinned = said(design, "pin W2 to S1")
    assert of(pinned)["W2"].path_m == pytest.approx(2.0)
    assert of(pinned)["W1"].path_m == pytest.approx(1.5)
    assert index_of(said(pinned, "unpin W2")).routes["W2"].segments == ("S2", "S3")
    codes = {f.code: f for f in analyse(pinned).findings}
    assert "wire.via" not in codes
    assert codes["tree.loop"].severity == 1
    dead = edits.put(
        edits.put(pinned, "points", Point(id="X")),
        "segments",
        Segment(id="S9", a="B", b="X", measure=Measure(length_m=1)),
    )
    assert "wire.via" in {f.code for f in analyse(said(dead, "pin W1 to S9")).findings}
    itself = edits.put(lead(), "segments", Segment(id="S8", a="A", b="A", measure=Measure(length_m=1)))
    assert [f.severity for f in analyse(itself).findings if f.code == "tree.loop"] == [0]


def test_splices_lie_where_they_are_put() -> None:
    """60 mm from its breakout: the wire in is shorter by that, both legs longer; the circuit's ohms follow."""
    design = spliced([(0.06, True)])
    found = of(design)
    assert found["W0i"].path_m == pytest.approx(0.44)
    assert found["W0a"].path_m == found["W0b"].path_m == pytest.approx(0.46)
    assert index_of(design).lengths["W0i"] == pytest.approx(0.44)
    assert index_of(design).lengths["W0a"] == pytest.approx(0.46)
    equal = edits.set_length(spliced([(0.06, True)]), "S3", Measure(length_m=0.45))
    equal = edits.put(
        equal,
        "ends",
        edits.change(equal.ends[3], join=Join(segment="S1", at_m=0.06, held=True, dull="box", equal=True)),
    )
    cuts = of(equal)
    assert cuts["W0a"].cut_m == cuts["W0b"].cut_m
    assert cuts["W0i"].cut_m != cuts["W0a"].cut_m
    assert isinstance(analyse(design).figures.wires, dict)
    assert Splice.model_fields["barrel_mm"].default == 12.0


def test_a_wire_from_splice_to_splice() -> None:
    """Both at one breakout, 60 and 150 mm along: 90 mm between them; to an end at the breakout itself 60 mm."""
    design = spliced([(0.06, True), (0.15, True)])
    one, other = (next(end for end in design.ends if end.id == name) for name in ("s0", "s1"))
    here = edits.change(design.ends[1], id="here", name="here", point="B")
    for end in (one, other, here):
        design = edits.put(design, "ends", edits.change(end, cavities=(*end.cavities, Cavity(id="j"))))
    jump = edits.change(design.wires[0], id="J", start=Pin(end="s0", cavity="j"), finish=Pin(end="s1", cavity="j"))
    beside = edits.change(jump, id="K", finish=Pin(end="here", cavity="j"))
    design = edits.put(edits.put(design, "wires", jump), "wires", beside)
    found = of(design)
    assert found["J"].path_m == pytest.approx(0.09)
    assert found["K"].path_m == pytest.approx(0.06)
    assert index_of(design).lengths["J"] == pytest.approx(0.09)
    assert index_of(design).lengths["K"] == pytest.approx(0.06)


@pytest.mark.parametrize(
    ("line", "code"),
    [
        ("bend on S1 at 1.9 m radius 15 mm by 90", "segment.tight_bend"),
        ("bend on S1 at 1 m radius 900 mm by 360", "segment.bend"),
    ],
)
def test_findings_along_the_way(line: str, code: str) -> None:
    design = said(lead(9, size="10 mm2"), line)
    found = [f for f in analyse(design).findings if f.code == code]
    assert found
    assert found[0].cure


def test_what_lies_beyond_a_segment_is_told() -> None:
    far = lead(bends=(Bend(at_m=3, radius_mm=80, angle_deg=90),), slack=(Slack(kind="drip", length_m=0.1, at_m=5),))
    found = {f.code: f.severity for f in analyse(far).findings}
    assert found["segment.bend"] == 0
    assert found["segment.slack"] == 0
    corner = lead(corners=True, bends=(Bend(at_m=1, radius_mm=80, angle_deg=180),))
    assert {f.code: f.severity for f in analyse(corner).findings}["segment.corner"] == 0
    assert of(corner)["W1"].bends_m == 0


def test_zero_and_ten_kilometres() -> None:
    none = edits.set_length(lead(), "S1", Measure(length_m=0))
    assert "wire.no_length" in {f.code for f in analyse(none).findings}
    long = edits.set_length(lead(), "S1", Measure(length_m=10_000))
    assert "wire.odd_length" in {f.code for f in analyse(long).findings}
    assert of(long)["W1"].cut_m > 10_000


def test_history_corrects_a_way_of_measuring() -> None:
    """Eight pairs by hand: mean +1.5 %, s = 0.5345 %, t(0.97725; 7) = 2.43 (SciPy's own inverse by bisection)."""
    from scipy.optimize import brentq
    from scipy.stats import t

    offs = [0.01, 0.015, 0.02, 0.01, 0.02, 0.015, 0.02, 0.01]
    pairs = [FoundLength(method="string", planned_m=2, found_m=2 * (1 + off)) for off in offs]
    habit = habits(pairs)[0]
    spread = float(np.std(offs, ddof=1))
    wide = brentq(lambda x: t.cdf(x, 7) - 0.97725, 0, 20)
    assert (habit.pairs, habit.enough, habit.biased) == (8, True, True)
    assert habit.bias == pytest.approx(0.015)
    assert habit.share == pytest.approx(wide * spread * math.sqrt(1 + 1 / 8))
    assert not habits(pairs[:4])[0].enough
    even = [FoundLength(method="tape", planned_m=2, found_m=2 + off) for off in (0.01, -0.01, 0.012, -0.011, 0.001)]
    assert not habits(even)[0].biased
    assert habits(even)[0].learned.bias == 0
    design = said(lead(), "tape 2 m found 2.02 m")
    with pytest.raises(EditError, match="too few"):
        learn(design, Method.TAPE)
    design = edits.set_project(
        design, history=tuple(FoundLength(method="tape", planned_m=2, found_m=2 * (1 + off)) for off in offs)
    )
    taught = learn(design, Method.TAPE)
    assert of(taught)["W1"].path_m == pytest.approx(2.03)
    assert taught.segments[0].measure.plus_minus_m == pytest.approx(2 * habit.share)
    assert of(unlearn(taught, Method.TAPE))["W1"].path_m == pytest.approx(2.0)


def test_every_form_is_read_whole_or_refused() -> None:
    """Each example of a form is read; one more word, a figure without its unit, a place beyond the segment are not."""
    forms = [example for example in EXAMPLES.values() if isinstance(read_line(example), OnTheWay)]
    assert len(forms) >= 20
    for form in forms:
        assert callable(way_line(form))
        with pytest.raises(InputError):
            said(lead(), form + " and more")
        with pytest.raises(InputError):
            way_line(form.split(" ")[0])
    for line in (
        "sleeve on S9",
        "bend on S1 at 3 m radius 5 mm by 90",
        "comb W1 W9 pitch 3 mm",
        "splice a on S1",
        "pin W9 to S1",
        "loop at nowhere 5 mm",
        "set W1 W9 within 2 mm",
        "sleeve on S1 from 500 mm to 100 mm",
        "bend on S1 radius 80 mm by 1e9",
    ):
        with pytest.raises((InputError, EditError)):
            said(lead(), line)
    with pytest.raises(InputError, match="1,200"):
        said(lead(), "drip loop on S1 1,200 mm")
    made = said(
        lead(3),
        "sleeve on S1 from 100 mm to 900 mm after",
        "tape on S1 lap 60 %",
        "clamp on S1 at 500 mm",
        "twist on S1 40 mm",
        "corners on S1",
        "service loop on S1 80 mm",
        "loop at a 50 mm",
        "board S1 at -45",
        "set W1 W2 within 3 mm",
        "comb W1, W2, W3 pitch 3 mm turns 90 -45",
    )
    one = made.segments[0]
    assert [(c.id, c.from_m, c.to_m, c.after, c.lap) for c in one.covers] == [
        ("sleeve1", 0.1, 0.9, True, 0.5),
        ("tape1", 0.0, None, False, pytest.approx(0.6)),
        ("clamp1", 0.5, None, False, 0.5),
    ]
    assert (one.lay_mm, one.corners, one.turn_deg) == (40, True, -45)
    assert made.combs[0].turns_deg == (90, -45)
    assert made.sets[0].tolerance_mm == pytest.approx(3)
    assert made.ends[0].slack_m == pytest.approx(0.05)
    assert said(made, "board S1 free").segments[0].turn_deg is None
    bent = (
        said(lead(), "bend on S1 at 300 mm radius 80 mm by 90 toward 45", "bend on S1 radius 2 in by 30")
        .segments[0]
        .bends
    )
    assert [(b.at_m, b.radius_mm, b.angle_deg, b.toward_deg) for b in bent] == [
        (pytest.approx(0.3), pytest.approx(80), 90, 45),
        (pytest.approx(1.0), pytest.approx(50.8), 30, None),
    ]
    stiff = said(lead(), "lead W1 apart 120 mm toward 90 leaves 10 arrives 20 radius 35 mm").wires[0].lead
    assert (stiff.apart_mm, stiff.toward_deg, stiff.leave_deg, stiff.arrive_deg, stiff.radius_mm) == (
        pytest.approx(120),
        90,
        10,
        20,
        pytest.approx(35),
    )
    drip = said(lead(), "drip loop on S1 120 mm at 400 mm").segments[0].slack[0]
    assert (drip.kind, drip.length_m, drip.at_m) == ("drip", pytest.approx(0.12), pytest.approx(0.4))
    join = said(spliced([(None, False)]), "splice s0 on S1 at 60 mm back to box equal held").ends[3].join
    assert (join.at_m, join.dull, join.equal, join.held) == (pytest.approx(0.06), "box", True, True)


def arrives(pieces: tuple[float, float, float], turns: str, apart: float, leave: float, arrive: float) -> bool:
    """Whether three pieces of radius 1, driven one after another, end at the second stud in the direction asked for."""
    x, y, way = 0.0, 0.0, leave
    for length, turn in zip(pieces, turns, strict=True):
        side = {"L": 1, "R": -1, "S": 0}[turn]
        if side:
            x, y = (
                x + side * (math.sin(way + side * length) - math.sin(way)),
                y - side * (math.cos(way + side * length) - math.cos(way)),
            )
            way += side * length
        else:
            x, y = x + length * math.cos(way), y + length * math.sin(way)
    return math.hypot(x - apart, y) < 1e-6 and abs(math.remainder(way - arrive, math.tau)) < 1e-6


ANGLES = st.floats(0.01, 6.27)


@given(st.floats(0.1, 9.0), ANGLES, ANGLES)
def test_every_way_of_arcs_and_straights_ends_at_the_other_stud(apart: float, leave: float, arrive: float) -> None:
    """Driven step by step; as many as there are words that exist (the six of Dubins), and the same seen in a mirror or
    from the other stud."""
    found = words(apart, leave, arrive)
    kinds = [
        next(
            (
                turns
                for turns in ("LSL", "RSR", "LSR", "RSL", "RLR", "LRL")
                if arrives(word, turns, apart, leave, arrive)
            ),
            "none",
        )
        for word in found
    ]
    assert "none" not in kinds
    assert len(found) >= 2
    degrees = math.degrees(leave), math.degrees(arrive)
    one = least_lead_mm(apart, 90, 90 - degrees[0], 270 - degrees[1], 1.0)
    assert one == pytest.approx(
        least_lead_mm(apart, 90, 90 + degrees[0], 270 + degrees[1], 1.0), rel=1e-6
    )  # in a mirror
    assert one == pytest.approx(
        least_lead_mm(apart, 270, 270 - degrees[1], 90 - degrees[0], 1.0), rel=1e-6
    )  # the other way


def test_a_length_that_is_only_listed_is_as_sure_as_lists_are() -> None:
    """A wire that lies nowhere has its listed length, give or take a share of it: two standard deviations."""
    bare = lead().model_copy(update={"points": (), "segments": ()})
    bare = edits.put_all(bare, "ends", [edits.change(end, point=None) for end in bare.ends])
    for metres in (0.5, 3.0):
        one = of(edits.put(bare, "wires", edits.change(bare.wires[0], stated_m=metres)))["W1"]
        assert (one.path_m, one.sd_m) == (pytest.approx(metres), pytest.approx(STATED_SHARE * metres / 2))


def test_a_line_that_is_no_form_is_answered_with_those_that_begin_so() -> None:
    with pytest.raises(InputError) as refused:
        way_line("tape on S1 sideways")
    assert "tape on" in str(refused.value)
    assert "comb" not in str(refused.value)
    with pytest.raises(InputError):
        way_line("")


def test_why_a_cut_is_so_long() -> None:
    told = why_cut(worked_out("computer"), "G05").as_text()
    assert "comb" in told
    assert "S1 220 mm" in told
    assert str(why_cut(analyse(lead()), "W1").result) == "2.160 m"
    assert Pin(end="a", cavity="1") in {analyse(lead()).design.wires[0].start}


WORDS = st.sampled_from(
    ["sleeve", "tape", "clamp", "bend", "loop", "drip", "comb", "set", "splice", "pin", "lead", "board", "string", "on", "S1", "W1", "at", "from", "to", "radius", "by",
     "turns", "pitch", "within", "found", "after", "held", "1 m", "5 mm", "1e308 mm", "-3 mm", "0 mm", "1,200 mm", "90", "nan", "“", "free", "apart", "toward"]
)  # fmt: skip


@given(st.one_of(st.text(max_size=60), st.lists(WORDS, max_size=9).map(" ".join)))
def test_no_line_does_anything_but_what_it_says_or_is_refused(line: str) -> None:
    """Read whole, or refused in a sentence; what is taken stands up to the model and to an analysis."""
    design = lead(2)
    try:
        made = edits.verified(design, said(design, line))
    except (InputError, EditError):
        return
    assert all(math.isfinite(one.cut_m) for one in of(made).values())
