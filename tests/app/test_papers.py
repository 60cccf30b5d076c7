"""Papers, read back by readers that know nothing of how they were drawn: pypdf for pages, letters and lines, zxing for
codes."""

import io
import math
import re
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import zxingcpp
from pypdf import PdfReader
from pypdf.generic import ContentStream
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QApplication

from demos import worked_out
from long_runs import LONG
from umber_trunk.app.paper.board import pdf_of as board_pdf_of
from umber_trunk.app.paper.labels import PER_MM, draw_form, forms_pdf
from umber_trunk.app.paper.pdf import paper_pdf
from umber_trunk.app.sheets.papers import PapersSheet
from umber_trunk.core.analysis import analyse
from umber_trunk.core.board.drawing import drawing
from umber_trunk.core.board.sheets import sheets_of
from umber_trunk.core.demo import demo
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.make.book import one_unit
from umber_trunk.core.papers.cut_paper import cut_paper
from umber_trunk.core.papers.label_forms import ROLLS_MM, label_forms
from umber_trunk.core.papers.leads import lead_sheets
from umber_trunk.core.papers.open_faults import standing
from umber_trunk.core.papers.papers import PAPERS, Asked, in_units, paper_of
from umber_trunk.core.papers.traveller import traveller
from umber_trunk.core.printed import TICK, Figure
from umber_trunk.core.results import Results

MM = 25.4 / 72


@pytest.fixture(scope="module")
def tractor() -> Results:
    return worked_out("tractor")


def read(data: bytes) -> PdfReader:
    return PdfReader(io.BytesIO(data))


def words_of(*pages: Any) -> str:
    """What is written on pages, with single spaces."""
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in pages))


def lines_mm(page: Any) -> list[float]:
    """Lengths of all straight strokes of a page, in mm of the paper, by the page's own matrices."""
    scale, stack, here, found = 1.0, list[float](), (0.0, 0.0), list[float]()
    for operands, operator in ContentStream(page.get_contents(), page.pdf).operations:
        numbers = (
            [float(one) for one in operands if isinstance(one, int | float)] if operator in (b"cm", b"m", b"l") else []
        )
        if operator == b"cm":
            scale *= math.hypot(numbers[0], numbers[1])
        elif operator == b"q":
            stack.append(scale)
        elif operator == b"Q":
            scale = stack.pop()
        elif operator == b"m":
            here = (numbers[0], numbers[1])
        elif operator == b"l":
            found.append(math.dist(here, numbers) * scale * MM)
            here = (numbers[0], numbers[1])
    return found


@pytest.mark.parametrize(
    ("sheet", "size"),
    [("a4", (297, 210)), ("a3", (420, 297)), ("letter", (279.4, 215.9)), ("roll", None), ("single", None)],
)
@pytest.mark.share(3)
def test_boards_print_to_scale(qapp: QApplication, sheet: str, size: tuple[float, float] | None) -> None:
    """Page boxes, as many as sheets and an index; the bar of 100 mm on each; the longest straight limb, within 0.1
    %."""
    made = worked_out("computer").once(drawing)
    reader = read(board_pdf_of(made, sheet, 10.0))
    found = sheets_of(made, sheet, 10.0)
    assert len(reader.pages) == len(found.tiles) + (len(found.tiles) > 1)
    box = reader.pages[0].mediabox
    page = size or (made.width_mm + 20, made.height_mm + 28)
    assert sorted((float(box.width) * MM, float(box.height) * MM)) == pytest.approx(sorted(page), abs=0.4)
    longest = max(math.dist(a, b) for line in made.folded.lines.values() for a, b in pairwise(line))
    for number, one in enumerate(reader.pages):
        strokes = lines_mm(one)
        if number or len(found.tiles) == 1:
            assert any(abs(long - 100.0) < 0.1 for long in strokes)
            assert f"sheet {number or 1} of {len(found.tiles)}" in words_of(one)
    if len(found.tiles) == 1:
        assert any(abs(long - longest) < 1e-3 * longest for long in strokes)


def test_all_papers_of_a_build(qapp: QApplication, tractor: Results) -> None:
    """Each: fonts embedded, a title, nobody's name in it, a page number on every page, every letter on its page; a
    traveller on four pages."""
    sizes = zip([*PAPERS], [True, False] * 6, ["a4", "letter", "letter", "a4"] * 3, strict=True)
    for paper, landscape, size in list(sizes)[:: 1 if LONG else 3]:
        results = in_units(tractor, "both" if landscape else "metric", size, landscape)
        data = paper_pdf(results, paper.kind)
        if paper.kind == "loops":
            assert data == b""  # no loop is declared
            continue
        reader = read(data)
        meta = reader.metadata
        assert meta is not None
        assert meta.title
        assert not meta.author
        assert not meta.creator
        assert b"/root" not in data
        assert b"/home" not in data
        for number, page in enumerate(reader.pages[:3], 1):
            for font in (page.get("/Resources") or {}).get("/Font", {}).values():
                inner = font.get_object()
                inner = inner["/DescendantFonts"][0].get_object() if "/DescendantFonts" in inner else inner
                assert {"/FontFile", "/FontFile2", "/FontFile3"} & set(inner["/FontDescriptor"].get_object())
            wide, tall = float(page.mediabox.width), float(page.mediabox.height)
            spots: list[tuple[float, float]] = []
            page.extract_text(
                visitor_text=lambda text, cm, tm, *_, spots=spots: (
                    spots.append((tm[4] * cm[0] + tm[5] * cm[2] + cm[4], tm[4] * cm[1] + tm[5] * cm[3] + cm[5]))
                    if text.strip()
                    else None
                )
            )
            if paper.kind != "board":  # there a text goes on on the next sheet
                assert all(-1 <= x <= wide + 1 and -1 <= y <= tall + 1 for x, y in spots), (paper.kind, number)
            if paper.kind not in ("board", "labels"):
                assert f"page {number}" in (told := words_of(page))
                assert number > 1 or "design " in told
    assert len(read(paper_pdf(tractor, "traveller")).pages) <= 4


def test_the_same_figures_on_all_papers(qapp: QApplication, tractor: Results) -> None:
    """Cut lengths on cut sheet, traveller and lead sheet are those of the cut list that the Kit desk shows; every step
    of the order has its box once."""
    texts = {kind: words_of(*read(paper_pdf(tractor, kind)).pages) for kind in ("cut", "traveller", "leads", "redline")}
    for row in tractor.once(cuts):
        length = f"{1e3 * row.cut_m:.0f}"
        assert re.search(rf"{row.wire.id}\s+{length}\b", texts["traveller"]), row.wire.id
        assert re.search(rf"{row.wire.id} · .*cut {length} mm", texts["leads"]), row.wire.id
        assert f"{length} mm" in texts["cut"]
    order = tractor.once(one_unit)
    table = next(part for part in traveller(tractor).tables if part.name)
    ticks = sum(row[4].count(TICK) for row in table.rows)
    pieces = len(
        {
            (step.unit, step.operation.wire, step.operation.side, step.operation.cavity)
            if step.operation.op in ("insert", "tug") and step.operation.wire
            else step.n
            for step in order.steps
            if not (
                step.operation.op == "measure" and not step.operation.sample and step.operation.length_m is not None
            )
        }
    )
    assert ticks == pieces
    figures = [part for part in lead_sheets(tractor).parts if isinstance(part, Figure)]
    assert len(figures) == len(tractor.once(cuts))
    assert all(drawn.svg for one in figures for drawn in one.drawings if drawn.svg or one.drawings)


def test_two_sides_and_units(qapp: QApplication, tractor: Results) -> None:
    """On both sides each sheet begins on a front; for six units the traveller has six times the pieces; inches stand
    beside millimetres."""
    one, both = (len(read(paper_pdf(tractor, "kit", Asked(), sides)).pages) for sides in (False, True))
    assert both == 2 * one - 1
    six = words_of(*read(paper_pdf(tractor, "traveller", Asked(6))).pages)
    assert "for 6 units" in six
    inches = words_of(*read(paper_pdf(in_units(tractor, "inch"), "cut")).pages)
    assert "AWG" in inches
    assert " in" in inches


def test_no_answer_that_is_kept_has_anything_of_how_it_is_told(tractor: Results) -> None:
    """What was worked out before somebody asked for inches is what they would get anew, and the other way round."""
    for paper in PAPERS:
        if paper.made is not None:
            paper.made(tractor, Asked())
    tractor.once(drawing)
    inches = in_units(worked_out("tractor"), "inch", "letter", landscape=True)
    known = {work: repr(answer) for work, answer in tractor.known().items()}
    same = [repr(inches.once(work)) == told for work, told in known.items() if " at 0x" not in told]
    assert all(same)
    assert len(same) > 15


def test_no_paper_for_making_is_green_while_a_fault_is_open() -> None:
    """Every paper that is worked from says what is open, and at which desks; none of it on a harness that has none."""
    results = worked_out("shore")
    faults = [one for one in results.findings if one.severity is Severity.FAULT]
    assert faults
    for kind in ("cut", "traveller", "leads", "pins", "book", "kit"):
        made = paper_of(kind).made
        assert made is not None
        for sheet in made(results, Asked()):
            assert (sheet.sound, sheet.state.split(" are")[0]) == (False, f"{len(faults)} faults"), kind
    sound = analyse(Design())
    assert standing(sound, "fine") == ("fine", True)


def test_cut_coil_by_coil(tractor: Results) -> None:
    """A table a coil, its pieces as they come off it: each begins where the one before ended; what no coil gives stands
    last with its reason."""
    rows = tractor.once(cuts)
    coils = [Coil("C1", rows[-1].size, 20.0), Coil("C2", rows[0].size, 3.0)]
    sheet = cut_paper(tractor, 1, coils)
    tables = [part for part in sheet.tables if part.titles[0].startswith(("C1:", "C2:"))]
    assert tables
    for table in tables:
        at = 0.0
        for row in table.rows:
            begins, long = (float(cell.split()[0]) for cell in row[3:5])
            assert begins == pytest.approx(at, abs=6.0 + 0.001 * at)
            at = begins + long
    short = next(part for part in sheet.tables if part.titles[0] == "No coil gives")
    assert all(row[5] for row in short.rows)
    cut = sum(row[1] != "sample" for table in tables for row in table.rows)
    assert cut + len(short.rows) >= len(rows)


@pytest.mark.parametrize("style", ["plain", "flag", "wrap"])
@pytest.mark.share(2)
def test_labels_are_read_back(qapp: QApplication, tractor: Results, style: str) -> None:
    """Both ends of every wire, at three widths of roll: the code on each is read by another's reader; pages are as long
    as the label."""
    for roll in ROLLS_MM:
        made = label_forms(tractor, style, roll)
        assert len(made) == 2 * len(tractor.once(cuts))
        for one in made[:: len(made) // 3]:
            factor = 12.0
            image = QImage(
                int(one.long_mm * PER_MM * factor) + 40,
                int(one.roll_mm * PER_MM * factor) + 40,
                QImage.Format.Format_RGB32,
            )
            image.fill(Qt.GlobalColor.white)
            painter = QPainter(image)
            painter.translate(20, 20)
            painter.scale(factor, factor)
            draw_form(painter, one)
            painter.end()
            image = image.convertToFormat(QImage.Format.Format_Grayscale8)
            grey = (
                np.frombuffer(image.constBits(), np.uint8)
                .reshape(image.height(), image.bytesPerLine())[:, : image.width()]
                .copy()
            )
            assert {found.text for found in zxingcpp.read_barcodes(grey)} == {one.label.wire}, (style, roll)
    page = read(forms_pdf(made[:1])).pages[0].mediabox
    assert float(page.width) * MM == pytest.approx(made[0].long_mm, abs=0.3)
    if style == "flag":  # both leaves, and once round the wire
        plant = tractor.figures.solution.plant
        outer = {wire.id: cond.outer_mm for wire, cond in zip(plant.wires, plant.conductors, strict=True)}
        assert made[0].long_mm == pytest.approx(61 + math.pi * outer[made[0].label.wire])


def test_the_papers_page(qtbot: Any, open_window: Any, tmp_path: Path) -> None:
    """Each paper with what it is for and how it will look; ticked ones written in one go, the bench's coils heeded;
    what can't be written is said."""
    window = open_window(demo("computer"))
    sheet = window.commands.show_papers("board")
    assert isinstance(sheet, PapersSheet)
    assert sheet.paper.kind == "board"
    qtbot.waitUntil(lambda: not sheet.busy, timeout=20_000)
    assert "sheets" in sheet.told.text()
    assert len(sheet.preview.pages) > 1
    sheet.board.setCurrentIndex(sheet.board.findData("a1"))
    for number, paper in enumerate(PAPERS):
        sheet.list.setCurrentRow(number)
        qtbot.waitUntil(lambda: not sheet.busy, timeout=20_000)
        assert paper.purpose in sheet.list.item(number).text()
        assert sheet.preview.pages or "nothing to say" in sheet.preview.said
        image = sheet.preview.viewport().grab().toImage()
        assert len({image.pixel(x, y) for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)}) > 2
        sheet.list.item(number).setCheckState(
            Qt.CheckState.Checked if paper.kind in ("cut", "redline") else Qt.CheckState.Unchecked
        )
    sheet.units.setValue(3)
    sheet.two_sided.setChecked(True)
    with qtbot.waitSignal(window.writer.wrote, timeout=20_000):
        sheet.write_into(tmp_path)
    assert "2 papers are written" in sheet.told.text()
    assert sorted(path.name for path in tmp_path.glob("*.pdf")) == ["test-cut.pdf", "test-redline.pdf"]
    assert all(path.read_bytes().startswith(b"%PDF") for path in tmp_path.glob("*.pdf"))
    with qtbot.waitSignal(window.writer.wrote, timeout=20_000) as told:
        sheet.write_into(tmp_path / "no" / "such")
    assert told.args[1]
    assert "2 papers" not in sheet.told.text()
    sheet.close()
