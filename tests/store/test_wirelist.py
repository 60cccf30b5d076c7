"""Wire lists as shops keep them, in every dress; faults with row and column; nothing imported by half."""

import io
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook
from umber_trunk.store.wirelist import (
    Reading,
    add_wires,
    column_letter,
    guess_layout,
    read_wires,
    split_colour,
    split_pin,
)

from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import shop_list
from umber_trunk.core.errors import EditError, InputError, UmberError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, EndKind
from umber_trunk.store import sheets
from umber_trunk.store.output import export_bytes, write_export
from umber_trunk.store.project import StoreError


def grid(text: str) -> list[list[str]]:
    return sheets._csv_grid(text.encode(), "list.csv")


def read(text: str) -> Reading:
    cells = grid(text)
    return read_wires(cells, guess_layout(cells))


@pytest.mark.parametrize(
    ("header", "columns"),
    [
        ("Wire,From,To,Size,Color,Length", {"wire": 0, "from": 1, "to": 2, "size": 3, "colour": 4, "length": 5}),
        (
            "No.;Source;Source Pin;Destination;Destination Pin;AWG",
            {"wire": 0, "from": 1, "from_pin": 2, "to": 3, "to_pin": 4, "size": 5},
        ),
        (
            "wire_id\tfrom_device\tfrom_pin\tto_device\tto_pin\tgauge\tcolour\tlength_mm",
            {"wire": 0, "from": 1, "from_pin": 2, "to": 3, "to_pin": 4, "size": 5, "colour": 6},
        ),
        (
            "Signal|From Connector|From Cavity|To Connector|To Cavity|CSA (mm²)|Colour|Length [m]",
            {"name": 0, "from": 1, "from_pin": 2, "to": 3, "to_pin": 4, "size": 5, "colour": 6, "length": 7},
        ),
        (
            "Label,End A,Pin A,End B,Pin B,Cross section,Base colour,Stripe,Run length (ft)",
            {
                "wire": 0,
                "from": 1,
                "from_pin": 2,
                "to": 3,
                "to_pin": 4,
                "size": 5,
                "colour": 6,
                "stripe": 7,
                "length": 8,
            },
        ),
    ],
)
def test_headers_are_recognised(header: str, columns: dict[str, int]) -> None:
    mark = next(m for m in ("\t", "|", ";", ",") if m in header)
    row = mark.join("x" + str(n) for n in range(header.count(mark) + 1))
    found = guess_layout(grid(f"{header}\n{row}\n{row}\n")).columns
    assert {key: found.get(key) for key in columns} == columns


def test_merged_header_comma_decimals_and_blank_lines() -> None:
    cells = grid(shop_list())
    layout = guess_layout(cells)
    assert layout.length_unit == "mm"
    assert layout.headers[1:5] == ("From Device", "From Pin", "To Device", "To Pin")
    reading = read_wires(cells, layout)
    assert len(reading.wires) == 12
    assert [str(fault) for fault in reading.faults] == [
        "row 17, column D: “to” is empty.",
        "row 18, column F: “thin” is not a size such as AWG 8 or 10 mm2.",
    ]
    by_id = {wire.wire: wire for wire in reading.wires}
    assert by_id["T4"].length_m == pytest.approx(1.7505)
    assert by_id["T1"].size == "2.5 mm2"
    assert (by_id["T3"].colour, by_id["T3"].stripe) == ("red", "white")


def test_units_in_cells_win_over_the_header() -> None:
    reading = read('wire,from,to,length (mm)\n1,a,b,12 ft 3 in\n2,a,c,850\n3,a,d,"1,5 m"\n')
    assert [wire.length_m for wire in reading.wires] == pytest.approx([3.7338, 0.85, 1.5])


def test_large_bare_numbers_are_taken_for_millimetres_and_said_so() -> None:
    large = guess_layout(grid("wire,from,to,length\n1,a,b,1200\n2,a,c,850\n"))
    small = guess_layout(grid("wire,from,to,length\n1,a,b,1.2\n2,a,c,0.85\n"))
    assert (large.length_unit, small.length_unit) == ("mm", "m")
    assert "guess" in large.unit_from


def test_bare_sizes_are_awg_when_the_column_says_so() -> None:
    reading = read("wire,from,to,size\n1,a,b,14 AWG\n2,a,c,16\n3,a,d,2/0\n")
    assert [wire.size for wire in reading.wires] == ["AWG 14", "AWG 16", "AWG 2/0"]
    assert read("wire,from,to,gauge\n1,a,b,8\n").wires[0].size == "AWG 8"
    assert read("wire,from,to,size\n1,a,b,4\n").wires[0].size == "4 mm2"


@pytest.mark.parametrize(
    ("text", "pin"),
    [
        ("X1:3", ("X1", "3")),
        ("X1/3", ("X1", "3")),
        ("X1.3", ("X1", "3")),
        ("battery +", ("battery", "+")),
        ("X1 pin 4", ("X1", "4")),
        ("Fuse box", ("Fuse box", "")),
        ("pump −", ("pump", "-")),
        ("J2, cavity B7", ("J2", "B7")),
    ],
)
def test_pins_written_behind_the_end(text: str, pin: tuple[str, str]) -> None:
    assert split_pin(text) == pin


@pytest.mark.parametrize(
    ("text", "colours"),
    [
        ("RD/WH", ("red", "white")),
        ("red-white", ("red", "white")),
        ("BK", ("black", "")),
        ("GNYE", ("green", "yellow")),
        ("light puce", ("light puce", "")),
        ("", ("", "")),
        ("Blue with white stripe", ("blue", "white")),
        ("R/B", ("red", "black")),
    ],
)
def test_colours(text: str, colours: tuple[str, str]) -> None:
    assert split_colour(text) == colours


@pytest.mark.parametrize(
    ("rows", "fault"),
    [
        ("1,,b,2.5,1", "row 2, column B: “from” is empty."),
        ("1,a,b,zero,1", "row 2, column D"),
        ("1,a,b,2.5,-4", "row 2, column E"),
        ("1,a,b,2.5,1\n1,a,c,2.5,1", "row 3, column A: wire 1 is in row 2 already."),
        ("1,a:1,a:1,2.5,1", "row 2, column C: the wire ends where it starts."),
        ("", "no wire below the header"),
    ],
)
def test_faults_name_their_cell(rows: str, fault: str) -> None:
    assert fault in str(read(f"wire,from,to,size,length\n{rows}\n").faults[0])


def test_all_faults_are_collected() -> None:
    reading = read("wire,from,to,size,length\n1,,b,zero,-4\n2,a,,x,y\n3,a,b,1,1\n")
    assert len(reading.faults) == 6
    assert len(reading.wires) == 1


def test_faulty_lists_import_nothing_unless_good_rows_are_asked_for() -> None:
    reading = read("wire,from,to\n1,a,b\n2,a,\n")
    with pytest.raises(EditError, match="nothing was imported"):
        add_wires(Design(), reading)
    assert len(add_wires(Design(), reading, skip_bad=True).wires) == 1


def test_wires_taken_already_are_faults() -> None:
    cells = grid("wire,from,to\n1,a,b\n2,a,c\n")
    assert "has a wire 2 already" in str(read_wires(cells, guess_layout(cells), ["2"]).faults[0])


def test_ends_are_shared_and_pins_collected() -> None:
    design = add_wires(Design(), read("wire,from,to\n1,Fuse Box:F1,Pump:+\n2,fuse box:F2,Lamp\n3,GND,Lamp\n"))
    ends = index_of(design).ends
    assert [cavity.id for cavity in ends["fuse-box"].cavities] == ["F1", "F2"]
    assert ends["gnd"].kind is EndKind.STUD
    assert len(ends["lamp"].cavities) == 2
    assert not any(f.code == "wire.open" for f in analyse(design).findings)


def test_a_list_without_names_for_its_ends_is_refused() -> None:
    with pytest.raises(InputError, match="from and to"):
        guess_layout(grid("x,y,z\n1,2,3\n"))


def test_xlsx_with_merged_cells_and_hidden_sheet(tmp_path: Path) -> None:
    book = Workbook()
    hidden = book.create_sheet("notes")
    hidden.sheet_state = "hidden"
    sheet = book.active
    sheet.append(["Barge loom"])
    sheet.append(["", "From", None, "To", None, "", ""])
    sheet.merge_cells("B2:C2")
    sheet.merge_cells("D2:E2")
    sheet.append(["Wire", "Device", "Pin", "Device", "Pin", "mm²", "Length (m)"])
    sheet.append([1, "Fuse box", "F1", "Pump", 1, 2.5, 3.25])
    sheet.append([2, "Fuse box", "F2", "Lamp", 1, "4", "2,5"])
    book.save(tmp_path / "list.xlsx")
    cells = sheets.read_grid(tmp_path / "list.xlsx")
    reading = read_wires(cells, guess_layout(cells))
    assert [(w.wire, w.size, w.length_m) for w in reading.wires] == [("1", "2.5 mm2", 3.25), ("2", "4 mm2", 2.5)]


@pytest.mark.parametrize("coding", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
def test_text_codings(tmp_path: Path, coding: str) -> None:
    (tmp_path / "l.csv").write_bytes("wire;from;to;size\n1;Pumpe für;Kühler;2,5 mm²\n".encode(coding))
    cells = sheets.read_grid(tmp_path / "l.csv")
    assert read_wires(cells, guess_layout(cells)).wires[0].start[0] == "Pumpe für"


@pytest.mark.parametrize("data", [b"PK\x03\x04rubbish", b"\x00\x01\x02\x00", b"PK", bytes(range(256)) * 8])
def test_hostile_files_are_a_sentence(tmp_path: Path, data: bytes) -> None:
    (tmp_path / "bad.xlsx").write_bytes(data)
    with pytest.raises(UmberError) as caught:
        guess_layout(sheets.read_grid(tmp_path / "bad.xlsx"))
    assert str(caught.value).endswith(".")


@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(tmp_path_factory: pytest.TempPathFactory, data: bytes) -> None:
    path = tmp_path_factory.mktemp("f") / "f.csv"
    path.write_bytes(data)
    try:
        cells = sheets.read_grid(path)
        read_wires(cells, guess_layout(cells))
    except UmberError:
        return


CELL = st.text(alphabet=st.characters(exclude_categories=("Cs", "Cc")), max_size=12)


@given(st.lists(st.lists(CELL, min_size=6, max_size=6), min_size=1, max_size=8))
def test_any_cells_give_wires_or_faults(rows: list[list[str]]) -> None:
    cells = [["wire", "from", "to", "size", "colour", "length"], *rows]
    reading = read_wires(cells, guess_layout(cells))
    design = add_wires(Design(), reading, skip_bad=True)
    assert len(design.wires) == len(reading.wires)
    filled = sum(any(cell.strip() for cell in row) for row in rows)
    assert len(reading.wires) + len({fault.row for fault in reading.faults}) >= min(filled, 1)


def test_column_letters() -> None:
    assert [column_letter(n) for n in (0, 25, 26, 701, 702)] == ["A", "Z", "AA", "ZZ", "AAA"]


def test_formulas_are_neutralised() -> None:
    rows = [["=1+1", "+x", "-", "@now", "plain", -4.5, None]]
    assert sheets.csv_text(rows).strip() == "'=1+1,'+x,'-,'@now,plain,-4.5,"
    book = load_workbook(io.BytesIO(sheets.xlsx_bytes([("a", rows)])))
    assert [cell.value for cell in book["a"][1]][:4] == ["'=1+1", "'+x", "'-", "'@now"]


def test_exported_wire_list_reads_back_the_same(demo: Design, tmp_path: Path) -> None:
    analysis = analyse(demo)
    write_export(analysis, "wires-csv", tmp_path / "w.csv")
    cells = sheets.read_grid(tmp_path / "w.csv")
    back = read_wires(cells, guess_layout(cells))
    assert not back.faults
    design = add_wires(Design(), back)
    for wire in design.wires:
        was = index_of(demo).wires[wire.id]
        assert (wire.name, wire.circuit, wire.size, wire.colour, wire.stripe) == (
            was.name,
            was.circuit,
            was.size,
            was.colour,
            was.stripe,
        )
        assert (wire.start.cavity, wire.finish.cavity) == (was.start.cavity, was.finish.cavity)
        assert wire.stated_m == pytest.approx(index_of(demo).length_m(was), abs=1e-4)


def test_xlsx_export_has_three_sheets(demo: Design) -> None:
    book = load_workbook(io.BytesIO(export_bytes(analyse(demo), "xlsx")))
    assert book.sheetnames == ["wires", "cuts", "totals"]
    assert book["cuts"].max_row == len(demo.wires) + 1


def test_failed_export_leaves_the_old_file(demo: Design, tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="no export format"):
        export_bytes(analyse(demo), "docx")
    with pytest.raises(StoreError, match="can't be written"):
        write_export(analyse(demo), "json", tmp_path / "no" / "d.json")


@pytest.mark.parametrize(
    ("header", "unit", "metres"),
    [
        ("length_mm", "mm", 1.2),
        ("Length mm", "mm", 1.2),
        ("Wire Length (cm)", "cm", 12.0),
        ("Length [ft]", "ft", 365.76),
        ("Run length in mm", "mm", 1.2),
    ],
)
def test_units_in_headers(header: str, unit: str, metres: float) -> None:
    cells = grid(f"wire,from,to,{header}\n1,a,b,1200\n")
    layout = guess_layout(cells)
    assert layout.length_unit == unit
    assert read_wires(cells, layout).wires[0].length_m == pytest.approx(metres)


@pytest.mark.parametrize(
    ("header", "cell", "size"),
    [
        ("Wire size AWG", "18", "AWG 18"),
        ("Size", "18 AWG thin wall", "AWG 18"),
        ("Gauge", "AWG 2/0 fine", "AWG 2/0"),
        ("CSA mm2", "2,5", "2.5 mm2"),
        ("Section", "3 x 1,5 mm²", "1.5 mm2"),
    ],
)
def test_sizes_among_other_words(header: str, cell: str, size: str) -> None:
    reading = read(f"wire;from;to;{header}\n1;a;b;{cell}\n")
    assert not reading.faults
    assert reading.wires[0].size == size
