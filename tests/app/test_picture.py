"""The picture at any size: nothing overlaps, nothing is cut, what matters is open, and folds say what they hide."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QFontMetricsF, QImage, QPainter
from PySide6.QtWidgets import QApplication

from umber_trunk.app import theme
from umber_trunk.app.trunk.hits import Hits
from umber_trunk.app.trunk.painter import TrunkPainter, room_in
from umber_trunk.app.trunk.story import tell
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import barge
from umber_trunk.core.harness.edits import change, put
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Point, Segment
from umber_trunk.core.harness.way import Measure
from umber_trunk.core.picture.layout import Picture
from umber_trunk.core.picture.notice import interest
from umber_trunk.core.results import Results
from umber_trunk.core.sample import generated
from umber_trunk.core.stages import STAGES, stage_of

SIZES = ((1024, 220), (1280, 290), (1920, 430))


def many_roots() -> Design:
    """Six islands that no segment joins."""
    points = [Point(id=f"{side}{n}") for n in range(6) for side in "ab"]
    length = Measure(length_m=1.0, method="tape", plus_minus_m=0.01)
    segments = [Segment(id=f"S{n}", a=f"a{n}", b=f"b{n}", measure=length) for n in range(6)]
    ends = [End(id=f"e{point.id}", name=f"place {point.id}", point=point.id) for point in points]
    return Design(points=tuple(points), segments=tuple(segments), ends=tuple(ends))


DESIGNS: dict[str, Callable[[], Design]] = {
    "10": lambda: generated(16),
    "26": barge,
    "75": lambda: generated(150),
    "200": lambda: generated(400),
    "500": lambda: generated(1000),
}
_known: dict[str, Results] = {}


def results_of(name: str) -> Results:
    if name not in _known:
        _known[name] = analyse(DESIGNS[name]())
    return _known[name]


def painted(
    results: Results, size: tuple[int, int], stage: str = "sizes", zoom: float = 1.0, pan: float = 0.0, **layout: object
) -> Hits:
    """The picture of a design on an image, as the canvas lays it out."""
    image = QImage(*size, QImage.Format.Format_ARGB32)
    painter = QPainter(image)
    story = tell(stage_of(stage).paints, results.design, results)
    laid = Picture(results.design).lay_out(
        room_in(size[0], zoom), layout.get("worth") or interest(index_of(results.design), results), layout.get("kept")
    )
    hits = TrunkPainter(results.design, laid, story, set(), results, zoom, pan).paint(painter, QRectF(0, 0, *size))
    painter.end()
    return hits


def overlaps(hits: Hits) -> list[str]:
    texts = hits.texts
    return [
        f"{a.text} | {b.text}"
        for at, a in enumerate(texts)
        for b in texts[at + 1 :]
        if a.box.adjusted(0.5, 0.5, -0.5, -0.5).intersects(b.box.adjusted(0.5, 0.5, -0.5, -0.5))
    ]


@pytest.mark.parametrize("scale", [1.0, 1.4, 2.0])
@pytest.mark.parametrize("size", SIZES, ids=str)
@pytest.mark.parametrize("name", DESIGNS)
@pytest.mark.share(9)
def test_no_two_texts_overlap_and_none_is_cut(
    qapp: QApplication, name: str, size: tuple[int, int], scale: float
) -> None:
    theme.load_fonts()
    theme.apply_theme(qapp, scale)
    try:
        for stage in STAGES:
            # the picture's least height grows with the text, as its widget asks for
            high = max(size[1], round(10.6 * QFontMetricsF(theme.font(8.5)).height()))
            hits = painted(results_of(name), (size[0], high), stage.id)
            whole = QRectF(0, 0, size[0], high)
            assert overlaps(hits) == []
            assert [one.text for one in hits.texts if not whole.contains(one.box)] == []
            assert len({tag.fold for _, tag in hits.tags if tag.fold}) == sum(bool(tag.fold) for _, tag in hits.tags)
    finally:
        theme.apply_theme(qapp, 1.0)


def test_every_end_is_on_the_picture_or_in_one_fold(qapp: QApplication) -> None:
    results = results_of("200")
    laid = Picture(results.design).lay_out(14.0, interest(index_of(results.design), results))
    told = [end for tag in laid.tags for end in tag.ends]
    assert sorted(told) == sorted(end.id for end in results.design.ends)
    assert laid.width <= 14.0


def test_faults_are_open_or_counted(qapp: QApplication) -> None:
    results = results_of("26")
    hits = painted(results, (760, 240))
    folds = [one for one in hits.texts if one.table == "folds"]
    assert folds
    shown = " ".join(one.text for one in hits.texts)
    assert "masthead light" in shown  # the worst is never folded while there is room for it
    narrow = painted(results, (300, 240))
    assert any("✕" in one.text for one in narrow.texts)


def test_what_is_chosen_opens_and_what_the_builder_folds_stays(qapp: QApplication) -> None:
    results = results_of("500")
    index = index_of(results.design)
    picture = Picture(results.design)
    last = results.design.ends[-1]
    assert last.point is not None
    hidden = picture.lay_out(14.0, {})
    assert last.point in hidden.fold_of
    chosen = picture.lay_out(14.0, interest(index, results, [last.point]))
    assert last.point not in chosen.fold_of
    assert hidden.width <= 14.0 < picture.lay_out().width
    assert picture.lay_out(float("inf")).fold_of == {}
    key = hidden.fold_of[last.point]
    assert key not in picture.lay_out(14.0, {}, {key: True}).inside
    closed = next(
        knot.key for knot in picture.knots.values() if knot.foldable and last.point in knot.points and knot.count < 40
    )
    assert closed in picture.lay_out(200.0, interest(index, results, [last.point]), {closed: False}).inside


def test_leaning_branches_do_not_pile_up(qapp: QApplication) -> None:
    design = barge()
    for point, lean in (("P14", 1.6), ("P5", -0.7), ("P12", 0.9)):
        design = put(design, "points", change(index_of(design).points[point], lean=lean))
    assert overlaps(painted(analyse(design), (1280, 290))) == []


def test_a_loop_is_drawn_as_one(qapp: QApplication) -> None:
    design = barge()
    a, b = design.ends[3].point, design.ends[12].point
    assert a is not None
    assert b is not None
    design = put(
        design,
        "segments",
        Segment(id="LOOP", a=a, b=b, measure=Measure(length_m=1.0, method="tape", plus_minus_m=0.01)),
    )
    hits = painted(analyse(design), (1280, 290))
    (closing,) = Picture(design).loops  # one segment of the ring: the one that closes it, whichever that is
    path, _ = hits.segments[closing]
    assert path.length() > 1.005 * QLineF(path.pointAtPercent(0.0), path.pointAtPercent(1.0)).length()
    assert hits.segment_at(path.pointAtPercent(0.5)) == closing
    assert Picture(barge()).loops == ()
    dangling = put(barge(), "segments", Segment(id="OPEN", a=a, b="nowhere", measure=design.segments[-1].measure))
    assert Picture(dangling).loops == ()


def test_several_roots_lie_side_by_side(qapp: QApplication) -> None:
    results = analyse(many_roots())
    hits = painted(results, (1280, 290), "needs")
    assert overlaps(hits) == []
    laid = Picture(results.design).lay_out()
    assert len({round(tag.x, 3) for tag in laid.tags if tag.y == 0}) >= 6


def test_zooming_shows_more_and_the_overview_where_one_is(qapp: QApplication) -> None:
    near, far = painted(results_of("200"), (1280, 290), zoom=4.0, pan=900.0), painted(results_of("200"), (1280, 290))
    assert near.overview is not None
    assert far.overview is None
    assert overlaps(near) == []
    wide = Picture(results_of("200").design)
    assert len(wide.lay_out(room_in(1280, 4.0)).tags) > 2 * len(wide.lay_out(room_in(1280)).tags)


def test_a_branch_of_thousands_one_after_another_is_laid(qapp: QApplication) -> None:
    """No recursion: a chain of 3000 points beside the spine."""
    points = [Point(id=f"P{n}") for n in range(6001)]
    meter = Measure(length_m=1.0, method="tape", plus_minus_m=0.01)
    segments = [
        Segment(id=f"S{n}", a="P0" if n in (1, 3001) else f"P{n - 1}", b=f"P{n}", measure=meter) for n in range(1, 6001)
    ]
    laid = Picture(Design(points=tuple(points), segments=tuple(segments))).lay_out(14.0)
    assert len(laid.at) == 6001


@pytest.mark.parametrize("dark", [False, True])
def test_inks_can_be_read_on_their_papers(dark: bool) -> None:
    """Contrast of every ink on every paper it is used on, at least 4.5 : 1 (WCAG 2.1, level AA)."""
    theme.paint_in(theme.DARK if dark else theme.LIGHT)
    try:
        for paper in (
            theme.PAPER,
            theme.PAPER_BRIGHT,
            theme.PAPER_DIM,
            theme.GOOD_PALE,
            theme.TIGHT_PALE,
            theme.BROKEN_PALE,
        ):
            for ink in (theme.INK, theme.INK_SOFT, theme.HEADING, theme.BROKEN, theme.TIGHT_TEXT):
                assert theme.contrast(ink, paper) >= 4.5, (ink.name(), paper.name())
        for paper in (theme.GOOD, theme.TIGHT, theme.BROKEN, theme.BAR):
            assert theme.contrast(theme.ink_on(paper), paper) >= 4.5
        assert theme.contrast(theme.GOOD, theme.PAPER) >= 4.5
        assert theme.contrast(theme.BAR_INK, theme.BAR) >= 4.5
    finally:
        theme.paint_in(theme.LIGHT)


def test_contrast_is_that_of_the_standard() -> None:
    """Black on white is 21, and #777777 on white 4.48 (WCAG 2.1's own examples)."""
    from PySide6.QtGui import QColor

    assert theme.contrast(QColor("black"), QColor("white")) == pytest.approx(21.0)
    assert theme.contrast(QColor("#777777"), QColor("white")) == pytest.approx(4.48, abs=0.01)


def test_hits_find_what_is_drawn(qapp: QApplication) -> None:
    hits = painted(results_of("26"), (1280, 290))
    box, tag = next((box, tag) for box, tag in hits.tags if "wash" in tag.ends)
    assert tag.side
    assert hits.segment_at(QPointF(-50, -50)) is None
    assert box.width() > 60
    both = painted(results_of("26"), (1920, 900))
    named = {end for _, end in both.named}
    assert any(len(named & set(tag.ends)) > 1 for _, tag in both.tags)
    for room, end in both.named:
        assert both.end_at(room.center(), next(tag for _, tag in both.tags if end in tag.ends)) == end
