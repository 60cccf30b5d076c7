"""The window's parts on their own: stories, painter, background, fields, tables, sheets."""

import itertools
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QFontDatabase
from PySide6.QtWidgets import QLineEdit

from umber_trunk.app import theme
from umber_trunk.app.desks.needs.rules import RULES, rule_text, set_rule
from umber_trunk.app.paper.pdf import paper_pdf
from umber_trunk.app.sheets.why import as_html
from umber_trunk.app.trunk.story import tell
from umber_trunk.app.widgets.rail import StageRail
from umber_trunk.app.widgets.typed import parse_measure
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.hues import HUES, code_of
from umber_trunk.core.errors import InputError, UmberError
from umber_trunk.core.explain.about_wires import why_load
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.way import Measure, Method
from umber_trunk.core.papers.papers import paper_of
from umber_trunk.core.sample import generated
from umber_trunk.core.stages import STAGES, fetched, stage_of
from umber_trunk.core.why import Derivation, Input
from umber_trunk.store.output import write_export
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
def test_every_house_rule_reads_what_it_shows(rule) -> None:
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


@pytest.mark.parametrize("paints", [*(stage.paints for stage in STAGES), "app.trunk.story:heat_story"])
def test_each_stage_tells_of_every_part(demo: Design, paints: str) -> None:
    results = analyse(demo)
    story = tell(paints, demo, results)
    assert set(story.limbs) == {segment.id for segment in demo.segments}
    assert set(story.leaves) == {end.id for end in demo.ends}
    assert story.legend
    early = tell(paints, demo, None)
    assert set(early.limbs) == set(story.limbs)
    if "measure" not in paints and "prove" not in paints:  # lengths and proofs are told of the harness itself
        assert {(one.text, one.colour.name(), one.alarm) for one in early.limbs.values()} == {
            ("", theme.INK_SOFT.name(), False)
        }
    if paints.endswith("margin_story"):  # no load says how thick a wire must be: there is no room to spare
        bare = demo.model_copy(update={"loads": (), "cases": ()})
        unsized = set_size(bare, [wire.id for wire in bare.wires], None)
        found = analyse(unsized)
        for segment, limb in tell(paints, unsized, found).limbs.items():
            mine = [found.figures.wires[wire] for wire in index_of(unsized).contents[segment]]
            assert (limb.colour == theme.INK_SOFT) is not any(wire.size_known for wire in mine), segment


def test_the_story_of_sizes_marks_culprits_by_more_than_colour(demo: Design) -> None:
    story = tell(stage_of("sizes").paints, demo, analyse(demo))
    assert story.limbs["S6"].alarm
    assert not story.limbs["S10"].alarm
    assert story.leaves["mast"].text.endswith("✕")


def test_why_sheet_escapes_what_users_typed() -> None:
    one = Derivation("a <b> & c", "verdict", "x < y", (Input("<i>", "m", "1"),), "r", "l", "s", ("step <1>",))
    html = as_html(one)
    assert "<b> &" not in html
    assert "&lt;i&gt;" in html
    assert "step &lt;1&gt;" in html
    assert "step <1>" in one.as_text()


def test_pdf_turns_pages(qapp, tmp_path) -> None:
    theme.load_fonts()
    theme.load_fonts()
    assert len(QFontDatabase.applicationFontFamilies(5)) == 1
    assert not QFontDatabase.applicationFontFamilies(6)  # six faces, and each once
    data = paper_pdf(analyse(generated(120)), "cut")
    assert data.count(b"/Type /Page\n") >= 4
    with pytest.raises(UmberError, match="can't be written"):
        write_export(analyse(Design()), "pdf", tmp_path / "no" / "x.pdf")


EIGHT = tuple(
    replace(STAGES[0], id=name.lower(), name=name)
    for name in ("Needs", "Runs", "Sizes", "Ends", "Kit", "Make", "Prove", "Keep")
)


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("width", [620, 1024])
def test_the_rail_holds_eight_stages(qapp, width: int, scale: float) -> None:
    theme.load_fonts()
    theme.apply_theme(qapp, scale)
    try:
        rail = StageRail(EIGHT)
        rail.resize(width, rail.sizeHint().height())
        rail.open = {stage.id: (12, 3) for stage in EIGHT}
        for (tag, text, count), cell in zip(rail.tags(), rail.cells(), strict=True):
            assert cell.contains(tag)
            assert tag.contains(count)
            assert tag.contains(text.adjusted(0, 0, -2, 0))
            assert not text.intersects(count)
        rail.grab()
    finally:
        theme.apply_theme(qapp, 1.0)


def test_every_stage_names_what_there_is() -> None:
    """What a stage declares can be fetched, and no two stages own a table or a command."""
    for stage in STAGES:
        for place in (
            *stage.checks,
            stage.desk,
            stage.paints,
            *stage.shows,
            *(export.make for export in stage.exports if not export.paper),
        ):
            assert callable(fetched(place)), place
        assert all(paper_of(export.paper).kind == export.paper for export in stage.exports if export.paper)
    tables = [table for stage in STAGES for table in stage.tables]
    assert len(tables) == len(set(tables))
    with pytest.raises(KeyError):
        stage_of("elsewhere")
    with pytest.raises(KeyError):
        Finding.of("x", Severity.NOTE, "elsewhere", "", "")


def test_table_flags_tips_and_titles(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    table = window.desks["needs"].loads  # type: ignore[attr-defined]
    model = table.rows_model
    editable, fixed = (model.index(0, column_of(table, title)) for title in ("Draws", "Gets"))
    assert model.flags(editable) & Qt.ItemFlag.ItemIsEditable
    assert not model.flags(fixed) & Qt.ItemFlag.ItemIsEditable
    assert "F2" in model.data(editable, Qt.ItemDataRole.ToolTipRole)
    assert "F1" in model.data(fixed, Qt.ItemDataRole.ToolTipRole)
    assert model.headerData(0, Qt.Orientation.Horizontal) == "Load"
    assert not model.setData(editable, model.data(editable))
    assert model.row_of("nothing") == -1
    assert not table.choose("nothing")


def test_keyboard_edits_a_cell(qtbot, open_window, demo: Design) -> None:
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


def test_fuse_table_shows_what_fuses_carry_and_takes_ratings(qtbot, open_window, demo: Design) -> None:
    window = open_window(demo)
    desk = window.desks["needs"]
    table = desk.fuses  # type: ignore[attr-defined]
    assert desk.reveal("fuses", "box F1")
    row = table.rows_model.row_of("box F1")
    at = table.rows_model.index(row, column_of(table, "Carries"))
    assert at.data() == "19.0 A"
    rating = table.rows_model.index(row, column_of(table, "Rating"))
    assert table.rows_model.setData(rating, "40 A")
    link = next(link for link in index_of(window.document.design).ends["box"].links if link.id == "F1")
    assert link.rating_a == 40
    assert not table.rows_model.setData(rating, "lots")


def typed(qtbot, window, lines: list[str]) -> int:
    """Types lines at the Needs desk key by key, Tab for what is suggested where a line ends in it; how many keys that
    took."""
    line, keys = window.desks["needs"].line, 0
    line.setFocus()
    for text in lines:
        for mark in text.rstrip("\t"):
            qtbot.keyClick(line, mark)
            keys += 1
        if text.endswith("\t"):
            qtbot.keyClick(line, Qt.Key.Key_Tab)
            keys += 1
        qtbot.keyClick(line, Qt.Key.Key_Return)
        keys += 1
        assert line.text() == "", (text, line.text())
    return keys


def test_jobs_are_said_in_few_keys(qtbot, open_window, tmp_path: Path) -> None:
    """From an empty harness, with sizes, fuses and parts taken: an inverter in 60 keys, a machine of
    25 loads with their connectors in 900."""
    window = open_window(Design())
    assert typed(qtbot, window, ["supply 12V at battery", "inverter 2kW run 1.5m", "take a\t"]) <= 60
    assert all(wire.size for wire in window.document.design.wires)
    window = open_window(Design(), tmp_path / "machine.umber")
    motors = [f"motor {n} {1 + n % 4}A run {1 + n % 5}m" for n in range(1, 26)]
    lines = [
        "supply 24V at psu",
        "fuse box at p, 25 ways, run 1m",
        *(f"{motor} from p" for motor in motors),
        "housing cockle-m2-plug on motors",
        "blanks free on motors",
        "take a\t",
    ]
    assert typed(qtbot, window, lines) <= 900
    design = window.document.design
    assert sum(bool(end.housings) for end in design.ends) == 25
    assert not [f for f in analyse(design).findings if f.severity is Severity.FAULT]


WITHOUT_CONES = {
    "red": [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]],
    "green": [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]],
    "blue": [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]],
}
"""G. Machado, M. Oliveira, L. Fernandes, IEEE TVCG 15 (2009), table 1 at severity 1.0, on linear RGB."""
XYZ = [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
"""IEC 61966-2-1."""
APART = 25.0
"""ΔE (CIE 1976) from which two patches side by side are told apart at a glance; 2.3 is just seen."""


def lab(colour: str, cones: str) -> np.ndarray:
    """A colour as an eye without these cones sees it, in CIE L*a*b*."""
    rgb = np.array([int(colour[n : n + 2], 16) / 255 for n in (1, 3, 5)])
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    seen = np.clip(np.array(WITHOUT_CONES[cones]) @ linear, 0, 1) if cones else linear
    x = np.array(XYZ) @ seen / np.array([0.9505, 1.0, 1.089])
    f = np.where(x > 216 / 24389, np.cbrt(x), (24389 / 27 * x + 16) / 116)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


def test_no_two_wire_colours_are_one_to_any_eye(qapp) -> None:
    """Those that an eye lacking a kind of cone can’t part differ by hatching, which is painted, and by their letters
    where IEC 60757 has them."""
    mixed = 0
    for one, other in itertools.combinations(HUES, 2):
        if min(np.linalg.norm(lab(HUES[one], c) - lab(HUES[other], c)) for c in ("", *WITHOUT_CONES)) < APART:
            mixed += 1
            assert theme.WIRE_HATCHES.get(one) != theme.WIRE_HATCHES.get(other), (one, other)
            painted = [theme.wire_brush(name).textureImage() for name in (one, other)]
            assert any(not image.isNull() for image in painted)
    assert mixed > 20
    codes = [code for name in HUES if (code := code_of(name))]
    assert len(set(codes)) == len(codes) == 12
    assert code_of("red", "white") == "RD/WH"
    assert code_of("red", "plaid") == ""
