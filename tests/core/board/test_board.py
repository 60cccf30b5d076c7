"""The board: every limb as long as it is, none across another, inside the board or told what board would do."""

import io
import math
import os
import random
import re
from itertools import combinations, pairwise
from xml.etree import ElementTree

import numpy as np
import pytest

from golden.worlds import as_kept
from runs_kit import lead, random_tree
from umber_trunk.core.analysis import analyse
from umber_trunk.core.board.crossing import crossings
from umber_trunk.core.board.drawing import Line, Words, draw_board, drawing, outlines, widths
from umber_trunk.core.board.fold import Folded, fold
from umber_trunk.core.board.grow import Branch
from umber_trunk.core.board.labels import Labels
from umber_trunk.core.board.rays import WAYS, World
from umber_trunk.core.board.spread import spread
from umber_trunk.core.board.svg_board import board_svg
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import Stopped
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import Design, End, Housing, Point, Segment
from umber_trunk.core.harness.way import Board, Measure
from umber_trunk.core.sample import generated
from umber_trunk.store.board_dxf import board_dxf

TREES = int(os.environ.get("UMBER_BOARD_TREES", "16"))
"""How many trees at random; the long run takes 200."""


def meets(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float], d: tuple[float, float]) -> bool:
    """Whether two pieces cross, by the turns of their corners: written anew, apart from what the program looks with."""

    def turn(p: tuple[float, float], q: tuple[float, float], r: tuple[float, float]) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return turn(a, b, c) * turn(a, b, d) < -1e-6 and turn(c, d, a) * turn(c, d, b) < -1e-6


def sound(design: Design, laid: Folded) -> None:
    """True to length within 0.1 mm, joined up, crossing nothing, on the board."""
    width, height = laid.size
    pieces = []
    for segment in design.segments:
        if segment.id in laid.left_out:
            continue
        line = laid.lines[segment.id]
        assert sum(math.dist(a, b) for a, b in pairwise(line)) == pytest.approx(1e3 * segment.measure.length_m, abs=0.1)
        assert math.dist(line[0], laid.spots[segment.a]) < 1e-6
        assert math.dist(line[-1], laid.spots[segment.b]) < 1e-6
        assert all(-1e-6 <= x <= width + 1e-6 and -1e-6 <= y <= height + 1e-6 for x, y in line)
        pieces += list(pairwise(line))
    assert not any(meets(*one, *other) for one, other in combinations(pieces, 2))


@pytest.mark.parametrize("seed", range(TREES))
def test_trees_at_random(seed: int) -> None:
    """10 to 80 ends of 80 to 400 mm on 2440 × 1220 mm."""
    design = random_tree(seed, random.Random(seed).randint(10, 80), 0.08, 0.4)
    laid = fold(design)
    sound(design, laid)
    assert laid.fits or laid.needed[0] > 2440 or laid.needed[1] > 1220
    assert laid.fits == (laid.size == (2440, 1220))
    if seed < 16:
        as_kept("prints-boards.json", seed, [laid.lines, laid.folds, laid.trunk, laid.gap_mm])


def test_crossings_are_found() -> None:
    assert crossings({"a": [(0, 0), (10, 10)], "b": [(0, 10), (10, 0)]}) == [("a", "b")]
    assert crossings({"a": [(0, 0), (10, 0)], "b": [(5, 0), (5, 9)]}) == [("a", "b")]
    assert crossings({"a": [(0, 0), (10, 0)], "b": [(0, 0), (20, 0)]}) == [("a", "b")]  # one on the other
    assert not crossings({"a": [(0, 0), (10, 0)], "b": [(10, 0), (10, 9)], "c": [(10, 0), (20, 1)]})
    assert not crossings({"a": [(0, 0), (10, 0)], "b": [(0, 1), (10, 1)]})
    assert crossings({"a": [(0, 0), (10, 0), (10, 5), (5, -5)]})


def test_the_demos() -> None:
    for name, fits in (("computer", True), ("barge", False), ("shore", True)):
        results = analyse(demo(name))
        laid = fold(results.design, wide_mm=widths(results))
        sound(results.design, laid)
        assert laid.fits is fits, name
        told = draw_board(results, laid).notes
        assert any("would do" in note for note in told) is not fits


def test_straight_where_it_can_be_folded_where_it_must() -> None:
    """2 m of lead: no fold on 2440 mm, one on 1220, more on 500; on 300 × 300 a board that would do is named."""
    folds = []
    for width, height in ((2440, 1220), (1220, 600), (500, 500)):
        laid = fold(lead(), Board(width_mm=width, height_mm=height))
        sound(lead(), laid)
        assert laid.fits
        folds.append(len(laid.folds))
    assert folds[0] == 0
    assert folds == sorted(folds)
    assert folds[1] >= 1
    tiny = fold(random_tree(5, 40, 0.3, 0.9), Board(width_mm=300, height_mm=300))
    assert not tiny.fits
    assert min(tiny.needed) > 300
    sound(random_tree(5, 40, 0.3, 0.9), tiny)


def test_angles_that_are_wanted_are_kept() -> None:
    """The processor's limb stands at 60° to the limb before it, whatever else moves; one that has no room is named."""
    for angle in (60.0, -45.0, 120.0):
        design = random_tree(3, 12, 0.2, 0.5)
        laid = fold(design)
        leaf = next(s for s in design.segments if s.id not in laid.trunk and not any(o.a == s.b for o in design.segments))
        turned = edits.put(design, "segments", edits.change(leaf, turn_deg=angle))
        now = fold(turned)
        sound(turned, now)
        if leaf.id in now.unkept:
            continue
        (x, y), (u, v) = now.lines[leaf.id][0], now.lines[leaf.id][1]
        way = now.ways[leaf.a]
        made = math.degrees(math.atan2(v - y, u - x) - math.atan2(way[1], way[0]))
        assert (made - angle + 180) % 360 - 180 == pytest.approx(0, abs=1e-6)
    blocked = random_tree(3, 12, 0.2, 0.5)
    for segment in blocked.segments:
        blocked = edits.put(blocked, "segments", edits.change(segment, turn_deg=0.0))
    laid = fold(blocked)
    sound(blocked, laid)
    assert laid.unkept


def test_nothing_islands_and_loops() -> None:
    assert fold(Design()).lines == {}
    lone = Design(points=(Point(id="P"),), ends=(End(id="e", name="e", point="P"),))
    assert fold(lone).spots["P"] == (1220, 610)
    ring = edits.put(lead(), "segments", Segment(id="S2", a="A", b="B", measure=Measure(length_m=1)))
    laid = fold(ring)
    assert laid.left_out == ("S2",)
    assert "S2" not in laid.lines
    none = edits.set_length(lead(), "S1", Measure(length_m=0))
    sound(none, fold(none))
    two = random_tree(1, 12, 0.1, 0.4)
    other = random_tree(2, 12, 0.1, 0.4)
    moved = (
        [edits.change(p, id=f"Q{p.id}") for p in other.points],
        [edits.change(s, id=f"T{s.id}", a=f"Q{s.a}", b=f"Q{s.b}") for s in other.segments],
    )
    both = two.model_copy(update={"points": (*two.points, *moved[0]), "segments": (*two.segments, *moved[1])})
    sound(both, fold(both))
    with pytest.raises(Stopped):
        fold(two, None, lambda: False)


@pytest.mark.parametrize("seed", range(12))
def test_what_no_board_takes_is_spread_out(seed: int) -> None:
    """Every limb straight, none across another, for any tree: also a chain, a star, one of 500 ends."""
    design = random_tree(seed, random.Random(seed).randint(4, 120), 0.05, 0.9)
    if seed == 0:
        design = random_tree(seed, 500, 0.05, 0.9)
    branches = [Branch(s.id, s.a, s.b, 1e3 * s.measure.length_m, 0.0) for s in design.segments]
    grown = spread(branches, (0.0, 0.0))
    assert not crossings(grown.lines)
    assert all(math.dist(*grown.lines[s.id]) == pytest.approx(1e3 * s.measure.length_m) for s in design.segments)
    star = spread([Branch(f"S{n}", "hub", f"tip {n}", 100.0, 0.0) for n in range(50)], (0.0, 0.0))
    assert not crossings(star.lines)
    assert spread([], (0.0, 0.0)).lines == {}


def test_a_harness_no_board_takes_names_one_that_would_do() -> None:
    design = generated(300)
    laid = fold(design)
    sound(design, laid)
    assert not laid.fits
    assert not laid.folds or laid.gap_mm


def test_limbs_as_thick_as_they_are_keep_apart() -> None:
    """Two limbs 30 mm thick: their middle lines nowhere nearer than that but at the point they share."""
    design = random_tree(7, 14, 0.3, 0.6)
    wide = {segment.id: 30.0 for segment in design.segments}
    laid = fold(design, wide_mm=wide)
    sound(design, laid)
    by_name = {name: list(pairwise(line)) for name, line in laid.lines.items()}
    for one, other in combinations(by_name, 2):
        ends = {design.segments[int(name[1:]) - 1].a for name in (one, other)} | {design.segments[int(name[1:]) - 1].b for name in (one, other)}
        if len(ends) < 4:
            continue
        near = min(_apart(a, b) for a in by_name[one] for b in by_name[other])
        assert near > 18.0


def _apart(one: tuple[tuple[float, float], tuple[float, float]], other: tuple[tuple[float, float], tuple[float, float]]) -> float:
    spots = [((a[0] + (b[0] - a[0]) * t / 40), (a[1] + (b[1] - a[1]) * t / 40)) for a, b in (one,) for t in range(41)]
    others = [((a[0] + (b[0] - a[0]) * t / 40), (a[1] + (b[1] - a[1]) * t / 40)) for a, b in (other,) for t in range(41)]
    return min(math.dist(p, q) for p in spots for q in others)


def test_dxf_and_svg_read_back_alike() -> None:
    """By ezdxf and an XML parser: each limb's length within 0.1 %, the same points in both, named layers."""
    from ezdxf.filemanagement import read

    results = analyse(demo("computer"))
    made = results.once(drawing)
    svg = ElementTree.fromstring(board_svg(made))
    limbs = {
        one.get("data-segment"): [tuple(map(float, pair.split(","))) for pair in (one.get("points") or "").split()]
        for one in svg.iter("{http://www.w3.org/2000/svg}polyline") if one.get("class") == "limb"
    }  # fmt: skip
    document = read(io.StringIO(board_dxf(made).decode()))
    assert document.units == 4  # millimetres
    drawn = {}
    for one in document.modelspace().query('LWPOLYLINE[layer=="LIMBS"]'):
        drawn[one.get_xdata("UMBER_TRUNK")[0].value] = [(x, y) for x, y, *_ in one.get_points()]
    assert {layer.dxf.name for layer in document.layers} >= {"BOARD", "LIMBS", "ENDS", "FIXTURES", "LABELS", "DIMENSIONS", "TABLES"}
    assert set(limbs) == set(drawn) == {segment.id for segment in results.design.segments}
    tall = float((svg.get("viewBox") or "").split()[3])
    for segment in results.design.segments:
        for line in (limbs[segment.id], drawn[segment.id]):
            assert sum(math.dist(a, b) for a, b in pairwise(line)) == pytest.approx(1e3 * segment.measure.length_m, rel=1e-3)
        flipped = [(x - 10, tall - 10 - y) for x, y in limbs[segment.id]]
        assert all(math.dist(a, b) < 0.01 for a, b in zip(flipped, drawn[segment.id], strict=True))
    assert re.search(r'width="[\d.]+mm"', board_svg(made))


def test_pegs_labels_and_tables() -> None:
    """A fork where limbs part, running dimensions from the trunk's first point, a row for each wire of each face."""
    results = analyse(demo("computer"))
    made = results.once(drawing)
    forks = {peg.name: peg.along_mm for peg in made.pegs if peg.what == "fork"}
    assert forks == {"tray": pytest.approx(520), "camera shelf": pytest.approx(880)}
    words = [shape for shape in made.shapes if not isinstance(shape, Line) and hasattr(shape, "text")]
    assert sum(word.layer == "tables" and " G" in word.text for word in words) == 37 + 24 + 8 + 3 + 3
    boxes = [(w.at[0], w.at[1], w.at[0] + 0.6 * w.tall_mm * len(w.text), w.at[1] + w.tall_mm) for w in words if w.layer in ("labels", "dimensions")]
    assert not any(a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3] for a, b in combinations(boxes, 2))
    bar = next(shape for shape in made.shapes if isinstance(shape, Line) and shape.name == "bar")
    assert math.dist(*bar.spots) == 100
    assert {peg.what for peg in made.pegs} >= {"fork", "clip", "end"}


ALONG = np.linspace(0.0, 1.0, 401)


def _off(spot: tuple[float, float], a: tuple[float, float], b: tuple[float, float]) -> float:
    """From a place to a piece, by trying places along it."""
    return float(np.hypot(a[0] + (b[0] - a[0]) * ALONG - spot[0], a[1] + (b[1] - a[1]) * ALONG - spot[1]).min())


@pytest.mark.parametrize("seed", range(12))
def test_rays_stop_where_something_comes_too_near(seed: int) -> None:
    """Against walking each ray in steps of 2 mm: it ends just before the first place nearer to a piece than the gap, both half
    widths, or as near as it starts, or at the board's margin."""
    draw = random.Random(seed)
    world = World(1000, 600, 15.0, 25.0, 1.6, 100)
    pieces = []
    for _ in range(8):
        a = (draw.uniform(50, 950), draw.uniform(50, 550))
        b = (a[0] + draw.uniform(-200, 200), a[1] + draw.uniform(-200, 200))
        half = draw.choice([0.0, 6.0])
        pieces.append((a, b, half))
        world.add(a, b, half)
    start, own = (draw.uniform(100, 900), draw.uniform(100, 500)), draw.choice([0.0, 4.0])
    clear = [min(25.0 + half + own, 0.6 * _off(start, a, b)) for a, b, half in pieces]
    free = world.free(start, own)
    for number in range(0, len(WAYS), 3):
        way, far = WAYS[number], 0.0
        while far < 1200:
            spot = (start[0] + way[0] * far, start[1] + way[1] * far)
            if not (15 + own <= spot[0] <= 985 - own and 15 + own <= spot[1] <= 585 - own):
                break
            if any(_off(spot, a, b) < least - 0.3 for (a, b, _), least in zip(pieces, clear, strict=True)):
                break
            far += 2.0
        assert free[number] == pytest.approx(far, abs=6.0)
        assert world.free(start, own, WAYS[number : number + 1], 80.0)[0] <= 80.0
    mark = world.mark()
    world.add((0, 0), (1, 1), 0.0, 7)
    assert world.nearest((0, 0)) == [7]
    world.take_away(7)
    assert world.mark() == mark
    assert not world.clear((5, 5), (6, 6), 3.0)
    assert world.clear((500, 300), (501, 300), 1.0) == (min(_off((500, 300), a, b) - half for a, b, half in pieces) > 1.0 + 25 / 3)


def test_limbs_at_one_point_keep_an_angle() -> None:
    world = World(1000, 600, 15.0, 25.0, 1.6, 100)
    world.add((500, 300), (700, 300))
    free = world.free((500, 300))
    near = [number for number in range(len(WAYS)) if WAYS[number] @ (1, 0) > math.cos(math.radians(11))]
    assert near
    assert all(free[number] == 0 for number in near)
    assert all(free[number] > 0 for number in range(len(WAYS)) if number not in near)


def test_the_middle_halves_the_leaves() -> None:
    """A chain with a star at its end: the star's hub, whatever end the tree is told from."""
    chain = [Branch(f"C{n}", f"c{n}", f"c{n + 1}", 100.0, 0.0) for n in range(6)]
    star = [Branch(f"S{n}", "c6", f"s{n}", 50.0, 0.0) for n in range(9)]
    for branches in ([*chain, *star], [*star, *chain]):
        grown = spread(branches, (0.0, 0.0))
        assert grown.spots["c6"] == (0.0, 0.0)
        angles = sorted(math.atan2(y, x) % math.tau for name, (x, y) in grown.spots.items() if name.startswith("s"))
        assert len(angles) == 9
        assert min(b - a for a, b in pairwise(angles)) == pytest.approx(math.tau / 10, abs=1e-6)


def test_the_trunk_in_rows_and_in_the_middle() -> None:
    """A lead alone lies level in the middle; what is longer than the board goes back and forth at one distance from row to row."""
    one = fold(lead(length_m=1.0), Board(width_mm=2440, height_mm=1220))
    (x, y), (u, v) = one.lines["S1"]
    assert y == v == 610
    assert (x + u) / 2 == pytest.approx(1220, abs=20)
    rows = fold(lead(length_m=5.0), Board(width_mm=1200, height_mm=800))
    heights = sorted({round(spot[1], 6) for spot in rows.lines["S1"]})
    assert len({round(b - a, 6) for a, b in pairwise(heights)}) == 1
    assert len(rows.folds) == len(heights) - 1
    assert rows.trunk == ("S1",)
    assert rows.gap_mm == rows.board.gap_mm


def test_clips_keep_off_the_ends_and_notes_say_what_is_open() -> None:
    """A lead of 1 m, a clip each 300 mm: at 300, 600 and 900; one each 980 mm comes within 40 mm of the end and is left out."""
    for clip, places in ((300.0, ["300", "600", "900"]), (980.0, [])):
        design = edits.set_project(lead(length_m=1.0), board=Board(clip_mm=clip))
        made = analyse(design).once(drawing)
        assert [peg.name.split()[-1] for peg in made.pegs if peg.what == "clip"] == places
        assert made.notes == ()
    blocked = random_tree(3, 12, 0.2, 0.5)
    for segment in blocked.segments:
        blocked = edits.put(blocked, "segments", edits.change(segment, turn_deg=0.0))
    assert any("No room at the angle wanted" in note for note in analyse(blocked).once(drawing).notes)
    ring = edits.put(lead(), "segments", Segment(id="S2", a="A", b="B", measure=Measure(length_m=1)))
    assert any("close a loop: S1" in note or "close a loop: S2" in note for note in analyse(ring).once(drawing).notes)


def test_outlines_lie_on_the_board_too() -> None:
    """Both ends of a trunk have their plug: a wide one at its beginning is kept clear of, and inside."""
    design = lead(length_m=2.3)
    ends = [edits.change(end, housings=(Housing(id="h", part="kelp-24-plug"),)) for end in design.ends]
    results = analyse(edits.put_all(design, "ends", ends))
    for width, height in ((2440.0, 1220.0), (900.0, 600.0)):
        made = draw_board(results, fold(results.design, Board(width_mm=width, height_mm=height)))
        boxes = outlines(made.shapes)
        assert len(boxes) == 2
        assert made.folded.fits
        assert all(low >= 0 and left >= 0 and right <= width and high <= height for left, low, right, high in boxes)


def test_labels_find_the_nearest_room_or_none() -> None:
    labels = Labels((0.0, 0.0, 100.0, 40.0))
    assert labels.put((50, 20), 20, 4, (5.0,)) == (55, 18)
    assert labels.put((50, 20), 20, 4, (5.0,)) != (55, 18)
    labels.take_line([(0, 20), (100, 20)], 18.0, 5.0)
    assert labels.put((50, 20), 20, 4, (5.0, 10.0)) is None
    assert Labels((0.0, 0.0, 10.0, 10.0)).put((5, 5), 20, 4, (1.0, 5.0)) is None


@pytest.mark.parametrize("name", ["computer", "shore"])
@pytest.mark.parametrize("size", [(2440, 1220), (1100, 1300)])
def test_tables_lie_above_the_board_and_none_on_another(name: str, size: tuple[float, float]) -> None:
    """Line above line, table beside table, a new row where there is no more room."""
    results = analyse(demo(name))
    laid = fold(results.design, Board(width_mm=size[0], height_mm=size[1]))
    words = [shape for shape in draw_board(results, laid).shapes if isinstance(shape, Words) and shape.layer == "tables"]
    boxes = [(one.at[0], one.at[1], one.at[0] + 0.5 * one.tall_mm * len(one.text), one.at[1] + one.tall_mm) for one in words]
    assert len(boxes) > 20
    for a, b in combinations(boxes, 2):
        assert a[2] <= b[0] + 1e-6 or b[2] <= a[0] + 1e-6 or a[3] <= b[1] + 1e-6 or b[3] <= a[1] + 1e-6
    assert min(box[1] for box in boxes) == pytest.approx(laid.size[1] + 12)
    assert all(box[2] <= laid.size[0] for box in boxes)
    heads = [one for one in words if one.tall_mm == 3.4]
    assert all(any(abs(under.at[0] - head.at[0]) < 1e-9 and abs(head.at[1] - 4.2 - under.at[1]) < 1e-9 for under in words) for head in heads)
