"""What is printed: fuses, cases and cautions on it, sizes and lengths in the project's units, nothing lost."""

import io
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import load_workbook

from conftest import design_of
from umber_trunk.core.analysis import analyse
from umber_trunk.core.harness.edits import rename, set_project
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.paper_units import gauge_near, inches_text, length_text, size_text
from umber_trunk.core.units import parse_length_m
from umber_trunk.store.output import export_bytes
from umber_trunk.store.sheets import Page, xlsx_bytes


@pytest.mark.parametrize(
    ("label", "units", "shown"),
    [
        ("2.5 mm2", "metric", "2.5 mm²"), ("2.5 mm2", "inch", "2.5 mm² (≈ AWG 13)"), ("AWG 14", "inch", "AWG 14"),
        ("AWG 14", "both", "AWG 14 (2.08 mm²)"), ("AWG 2/0", "metric", "67.4 mm² (AWG 2/0)"), ("?", "both", "?"),
    ],
)  # fmt: skip
def test_sizes_in_both_worlds(label: str, units: str, shown: str) -> None:
    """ASTM B258: AWG 14 is 2.08 mm², 13 is 2.62, 2/0 is 67.4."""
    assert size_text(label, units) == shown


def test_gauges_near() -> None:
    assert [gauge_near(area) for area in (0.52, 5.3, 33.6, 53.5)] == ["AWG 20", "AWG 10", "AWG 2", "AWG 1/0"]


@given(st.floats(min_value=0.001, max_value=200))
def test_inches_never_come_up_short_and_read_back(metres: float) -> None:
    shown = inches_text(metres)
    back = parse_length_m(shown, "m")
    assert metres - 1e-9 <= back <= metres + 0.0254 / 16 + 1e-9
    assert length_text(metres, "both").endswith(shown)
    assert Fraction(round(back / 0.0254 * 16), 16) == Fraction(back / 0.0254).limit_denominator(16)


def book_of(design: Design):
    return load_workbook(io.BytesIO(export_bytes(analyse(design), "xlsx")))


def test_the_workbook_has_fuses_cases_and_cautions(demo: Design) -> None:
    book = book_of(demo)
    assert book.sheetnames == ["wires", "cuts", "totals", "fuses", "cases", "cautions"]
    assert book["cuts"].max_row == len(demo.wires) + 1
    fuses = [[cell.value for cell in row] for row in book["fuses"].iter_rows(min_row=2)]
    assert any(row[3] == 125 and row[0] == "battery" for row in fuses)
    wash = next(row for row in fuses if row[1] == "F3")
    assert wash[5].startswith("wash feed, 1.5 mm2")
    assert float(wash[6].split()[0]) > 100
    assert [row[0].value for row in book["cases"].iter_rows(min_row=2)] == [case.name for case in demo.cases]
    cautions = " ".join(str(row[1].value) for row in book["cautions"].iter_rows(min_row=2))
    assert "welds and burns" in cautions
    assert "licensed person" in cautions
    assert sum(row[0].value == "fault" for row in book["cautions"].iter_rows()) == 8


def test_sheets_are_set_up_for_paper(demo: Design) -> None:
    plain = book_of(demo)["cuts"]
    assert (str(plain.page_setup.paperSize), plain.page_setup.orientation) == (plain.PAPERSIZE_A4, "landscape")
    assert plain.print_title_rows == "$1:$1"
    widths = [plain.column_dimensions[cell.column_letter].width for cell in plain[1]]
    longest = [max(len(str(cell.value or "")) for cell in column) for column in plain.columns]
    assert all(width >= min(long, 60) for width, long in zip(widths, longest, strict=True))
    assert plain.sheet_properties.pageSetUpPr.fitToPage
    letter = book_of(set_project(demo, paper="letter", landscape=False, units="both"))["cuts"]
    assert (str(letter.page_setup.paperSize), letter.page_setup.orientation) == (letter.PAPERSIZE_LETTER, "portrait")
    assert [cell.value for cell in letter[1]][-2:] == ["size, other series", "cut (ft, in)"]
    assert "AWG" in letter[2][11].value


def test_text_stays_text_without_apostrophes() -> None:
    rows = [["wire", "n"], ["0001", 1], ["=SUM(A1)", 2], ["'quoted", 3.5], ["a\x07b", None]]
    sheet = load_workbook(io.BytesIO(xlsx_bytes([("x", rows)], Page())))["x"]
    assert [row[0].value for row in sheet.iter_rows()] == ["wire", "0001", "=SUM(A1)", "'quoted", "a␇b"]
    assert all(row[0].data_type == "s" for row in sheet.iter_rows())
    assert sheet["B3"].value == 2


def test_a_wire_without_a_size_is_said_to_have_none() -> None:
    design = design_of(
        "supply 12 V 5 mohm at battery", "lamp 2 A at bow run 3 m", "fan 9 A at stern run 2 m", "case night: lamp"
    )
    design = rename(design, "wires", design.wires[2].id, "fan feed")
    cuts = book_of(design)["cuts"]
    row = next(row for row in cuts.iter_rows(min_row=2) if row[0].value == design.wires[2].id)
    assert row[2].value == "?"
    assert "size open" in row[10].value
