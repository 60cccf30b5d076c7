"""The window's parts on their own: stories, painter, background, fields, tables, sheets."""

import threading

import pytest
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QLineEdit

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.needs.rules import RULES, rule_text, set_rule
from umber_trunk.app.desks.sizes.tabs import heat_colour
from umber_trunk.app.paper.cut_sheet import write_pdf
from umber_trunk.app.sheets.why import as_html
from umber_trunk.app.trunk.painter import TrunkPainter
from umber_trunk.app.trunk.story import tell
from umber_trunk.app.widgets.rail import STAGE_NAMES
from umber_trunk.app.widgets.typed import parse_measure
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import InputError, UmberError
from umber_trunk.core.explain.wires import why_load
from umber_trunk.core.findings import STAGES
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Measure, Method
from umber_trunk.core.picture.layout import lay_out
from umber_trunk.core.sample import generated
from umber_trunk.core.why import Derivation, Input
from umber_trunk_helpers import column_of


@pytest.mark.parametrize(
    ("text", "length", "method", "spread"),
    [
        ("2.4 m", 2.4, Method.TAPE, 0.012),
        ("2,4 m ± 2 cm", 2.4, Method.TAPE, 0.02),
        ("240 cm +/- 3 cm string", 2.4, Method.STRING, 0.03),
        ("8 ft", 2.4384, Method.TAPE, 0.012192),
        ("± 50 mm", 1.0, Method.TAPE, 0.05),
        ("guess", 1.0, Method.GUESS, 0.15),
        ("3 m drawn", 3.0, Method.DRAWN, 0.06),
    ],
)
def test_measures_as_typed(text: str, length: float, method: Method, spread: float) -> None:
    found = parse_measure(text, Measure(length_m=1.0, method=Method.STATED, plus_minus_m=0.1))
    assert found.length_m == pytest.approx(length)
    assert found.method is method
    assert found.plus_minus_m == pytest.approx(spread)


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: rule.id)
def test_every_house_rule_reads_what_it_shows(rule) -> None:  # type: ignore[no-untyped-def]
    design = Design()
    shown = rule_text(design, rule)
    assert shown
    assert rule.meaning
    again = set_rule(rule, shown)(design)
    assert getattr(again.project, rule.id) == pytest.approx(getattr(design.project, rule.id))


@pytest.mark.parametrize(
    ("rule", "text"),
    [
        ("metal", "gold"),
        ("remakes", "some"),
        ("match_pairs", "perhaps"),
        ("twist_factor", "0.5"),
        ("chance_short", "80 %"),
        ("smallest_mm2", "thin"),
        ("ambient_c", "hot"),
        ("strip_m", "-4 mm"),
    ],
)
def test_house_rules_refuse_nonsense(rule: str, text: str) -> None:
    one = next(row for row in RULES if row.id == rule)
    with pytest.raises(UmberError):
        set_rule(one, text)(Design())


@pytest.mark.parametrize("stage", STAGES)
@pytest.mark.parametrize("paint", ["margin", "heat"])
def test_each_stage_tells_of_every_part(demo: Design, stage: str, paint: str) -> None:
    analysis = analyse(demo)
    story = tell(stage, demo, analysis, paint)
    assert set(story.limbs) == {segment.id for segment in demo.segments}
    assert set(story.leaves) == {end.id for end in demo.ends}
    assert story.legend
    early = tell(stage, demo, None, paint)
    assert set(early.limbs) == set(story.limbs)


def test_the_story_of_sizes_marks_culprits_by_more_than_colour(demo: Design) -> None:
    story = tell("sizes", demo, analyse(demo))
    assert story.limbs["S6"].alarm
    assert not story.limbs["S10"].alarm
    assert story.leaves["mast"].text.endswith("✕")


@pytest.mark.parametrize("wires", [4, 60, 160])
@pytest.mark.parametrize("height", [180, 320])
def test_the_picture_keeps_its_labels_apart(qapp, wires: int, height: int) -> None:  # type: ignore[no-untyped-def]
    design = generated(wires)
    painter = TrunkPainter(design, lay_out(design), tell("needs", design, None), set())
    wide = painter.content_width(1280)
    image = QImage(int(wide), height, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    brush = QPainter(image)
    hits = painter.paint(brush, QRectF(0, 0, wide, height))
    brush.end()
    boxes = [box for box, tag in hits.tags if tag.side]
    assert len(hits.tags) == len(lay_out(design).tags)
    for i, box in enumerate(boxes):
        assert box.left() >= -12
        assert box.right() <= wide + 12
        assert not any(box.adjusted(1, 1, -1, -1).intersects(other) for other in boxes[i + 1 :])


def test_every_colour_word_has_its_paint() -> None:
    for name in theme.WIRE_COLOURS:
        assert theme.wire_colour(name).isValid()
    assert theme.wire_colour("light puce").isValid()
    assert theme.use_color(0.5) == theme.VERDIGRIS
    assert theme.use_color(0.95) == theme.OCHRE
    assert theme.use_color(1.1) == theme.OXIDE
    assert heat_colour(30, 30, 90) != heat_colour(90, 30, 90)
    assert heat_colour(200, 30, 90) == heat_colour(90, 30, 90)


def test_text_is_readable_on_its_paper() -> None:
    """Contrast of WCAG 2.1, at least 4.5 to 1 for text."""

    def luminance(colour) -> float:  # type: ignore[no-untyped-def]
        parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in colour.getRgbF()[:3]]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    pairs = [
        (theme.UMBER_DEEP, theme.CHALK),
        (theme.UMBER_DEEP, theme.CHALK_DIM),
        (theme.UMBER_SOFT, theme.CHALK_BRIGHT),
        (theme.UMBER_SOFT, theme.CHALK),
        (theme.CHALK, theme.UMBER),
        (theme.OXIDE, theme.CHALK_BRIGHT),
        (theme.UMBER_DEEP, theme.OXIDE_PALE),
        (theme.UMBER_DEEP, theme.OCHRE_PALE),
        (theme.UMBER_DEEP, theme.VERDIGRIS_PALE),
        (theme.CHALK_BRIGHT, theme.OXIDE),
    ]
    for ink, paper in pairs:
        light, dark = sorted((luminance(ink), luminance(paper)), reverse=True)
        assert (light + 0.05) / (dark + 0.05) >= 4.5, (ink.name(), paper.name())


def test_the_latest_question_wins(qtbot) -> None:  # type: ignore[no-untyped-def]
    background = Background()
    gate, answers = threading.Event(), []
    background.answered.connect(answers.append)
    background.ask(lambda _: gate.wait(5) and "old")
    background.ask(lambda _: "dropped")
    background.ask(lambda _: "new")
    gate.set()
    qtbot.waitUntil(lambda: not background.busy)
    qtbot.wait(50)
    assert answers == ["new"]
    background.drop()


def test_a_bug_in_the_background_is_told(qtbot) -> None:  # type: ignore[no-untyped-def]
    background = Background()
    with qtbot.waitSignal(background.crashed) as told:
        background.ask(lambda _: 1 / 0)
    assert isinstance(told.args[0], ZeroDivisionError)
    background.drop()


def test_why_sheet_escapes_what_users_typed() -> None:
    one = Derivation("a <b> & c", "verdict", "x < y", (Input("<i>", "m", "1"),), "r", "l", "s", ("step <1>",))
    html = as_html(one)
    assert "<b> &" not in html
    assert "&lt;i&gt;" in html
    assert "step &lt;1&gt;" in html
    assert "step <1>" in one.as_text()


def test_pdf_turns_pages(qapp, tmp_path) -> None:  # type: ignore[no-untyped-def]
    theme.load_fonts()
    write_pdf(analyse(generated(120)), tmp_path / "many.pdf")
    data = (tmp_path / "many.pdf").read_bytes()
    assert data.count(b"/Type /Page\n") >= 4
    with pytest.raises(UmberError, match="can't be written"):
        write_pdf(analyse(Design()), tmp_path / "no" / "x.pdf")


def test_stages_of_rail_and_findings_agree() -> None:
    assert tuple(stage for stage, _ in STAGE_NAMES) == STAGES


def test_table_flags_tips_and_titles(qtbot, open_window, demo: Design) -> None:  # type: ignore[no-untyped-def]
    window = open_window(demo)
    table = window.desks["needs"].loads  # type: ignore[attr-defined]
    model = table.rows_model
    editable, fixed = (model.index(0, column_of(table, title)) for title in ("Draws", "Gets"))
    assert model.flags(editable) & Qt.ItemFlag.ItemIsEditable
    assert not model.flags(fixed) & Qt.ItemFlag.ItemIsEditable
    assert "F2" in model.data(editable, Qt.ItemDataRole.ToolTipRole)
    assert "?" in model.data(fixed, Qt.ItemDataRole.ToolTipRole)
    assert model.headerData(0, Qt.Orientation.Horizontal) == "Load"
    assert not model.setData(editable, model.data(editable))
    assert model.row_of("nothing") == -1
    assert not table.choose("nothing")


def test_keyboard_edits_a_cell(qtbot, open_window, demo: Design) -> None:  # type: ignore[no-untyped-def]
    window = open_window(demo)
    table = window.desks["needs"].loads  # type: ignore[attr-defined]
    at = table.rows_model.index(table.rows_model.row_of("horn"), column_of(table, "Draws"))
    table.setCurrentIndex(at)
    table.setFocus()
    qtbot.keyClick(table, Qt.Key.Key_Return)
    editor = table.viewport().findChild(QLineEdit)
    editor.selectAll()
    qtbot.keyClicks(editor, "6.5 A")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: index_of(window.document.design).loads["horn"].value == 6.5)


def test_reading_a_load_kind_wrong_is_refused(demo: Design) -> None:
    with pytest.raises(InputError):
        parse_measure("2 kg", demo.segments[0].measure)


def test_reasons_render(demo: Design) -> None:
    analysis = analyse(demo)
    for entry in analysis.figures.loads.values():
        assert entry.load.name in as_html(why_load(demo, analysis.figures, entry))


def test_fuse_table_shows_what_fuses_carry_and_takes_ratings(qtbot, open_window, demo: Design) -> None:  # type: ignore[no-untyped-def]
    window = open_window(demo)
    desk = window.desks["needs"]
    table = desk.fuses  # type: ignore[attr-defined]
    row = table.rows_model.row_of("box F1")
    at = table.rows_model.index(row, column_of(table, "Carries"))
    assert at.data() == "19.0 A"
    rating = table.rows_model.index(row, column_of(table, "Rating"))
    assert table.rows_model.setData(rating, "40 A")
    link = next(link for link in index_of(window.document.design).ends["box"].links if link.id == "F1")
    assert link.rating_a == 40
    assert not table.rows_model.setData(rating, "lots")
