"""What the program writes for others to read: each format turns results into the bytes of a file."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from umber_trunk.core.board.drawing import drawing
from umber_trunk.core.board.svg_board import board_svg
from umber_trunk.core.buy.lines import Buy
from umber_trunk.core.buy.shopping import shopping_rows
from umber_trunk.core.kit.tables import (
    case_rows,
    caution_rows,
    cut_rows,
    decision_rows,
    fuse_rows,
    total_rows,
    wire_rows,
)
from umber_trunk.core.lengths.sheet import length_rows
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.make.book import label_rows
from umber_trunk.core.prove.testsheet import test_rows
from umber_trunk.core.results import Results
from umber_trunk.core.stages import exports, fetched
from umber_trunk.store.board_dxf import board_dxf
from umber_trunk.store.files import StoreError, write_whole
from umber_trunk.store.jsonfile import to_json
from umber_trunk.store.sheets import Page, csv_bytes, xlsx_bytes


def wires_csv(results: Results) -> bytes:
    """The wire list; reading it back gives the same wires."""
    return csv_bytes(wire_rows(results, as_text=True))


def cuts_csv(results: Results) -> bytes:
    """The cut list."""
    return csv_bytes(cut_rows(results))


def lengths_csv(results: Results) -> bytes:
    """Every wire's length, part by part."""
    return csv_bytes(length_rows(results.once(wire_lengths).values()))


def labels_csv(results: Results) -> bytes:
    """Labels of both ends of every wire, for printers of tape and heat-shrink."""
    return csv_bytes(label_rows(results))


def tests_csv(results: Results) -> bytes:
    """The test list with what each reading should be."""
    return csv_bytes(test_rows(results))


def board_as_svg(results: Results) -> bytes:
    """The project's board at true scale."""
    return board_svg(results.once(drawing)).encode()


def board_as_dxf(results: Results) -> bytes:
    """The project's board on named layers."""
    return board_dxf(results.once(drawing))


def design_json(results: Results) -> bytes:
    """The design alone."""
    return to_json(results.design).encode()


def workbook(results: Results) -> bytes:
    """Every table as a sheet of one workbook."""
    design = results.design
    pages = [
        ("wires", wire_rows(results)), ("cuts", cut_rows(results)), ("totals", total_rows(results)),
        ("fuses", fuse_rows(results)), ("cases", case_rows(design)), ("cautions", caution_rows(results.findings)),
    ]  # fmt: skip
    if design.decisions:
        pages.append(("decisions", decision_rows(design)))
    return xlsx_bytes(pages, Page(design.project.paper, design.project.landscape))


def export_bytes(results: Results, kind: str) -> bytes:
    """The contents of an export; StoreError for a format there is none of."""
    export = exports().get(kind)
    if export is None:
        raise StoreError.of("store.no-export-format", kind=kind)
    return export.bytes_of(results)


def write_export(results: Results, kind: str, path: Path) -> None:
    """Writes an export whole or not at all, never onto a harness file."""
    write_whole(path, export_bytes(results, kind))


def shopping_file(results: Results, buys: Sequence[Buy], units: int, ending: str) -> bytes:
    """A shopping list as a file of that ending; StoreError for another than .csv, .xlsx and .pdf."""
    rows = shopping_rows(buys)
    if ending == ".xlsx":
        return xlsx_bytes([("shopping", rows)])
    if ending == ".csv":
        return csv_bytes(rows)
    if ending == ".pdf":
        drawn: bytes = fetched("app.paper.pdf:shopping_pdf")(results, buys, units)
        return drawn
    raise StoreError.of("store.shopping-list-endings")
