"""Everything the program writes for others to read, by format name; PDF needs Qt and lives in the app."""

from __future__ import annotations

from pathlib import Path

from umber_trunk.core.results import Analysis
from umber_trunk.store.files import StoreError, write_whole
from umber_trunk.store.jsonfile import to_json
from umber_trunk.store.sheets import Page, csv_text, xlsx_bytes
from umber_trunk.store.tables import case_rows, caution_rows, cut_rows, fuse_rows, total_rows, wire_rows

FORMATS = {
    "wires-csv": "-wires.csv", "cuts-csv": "-cuts.csv", "xlsx": ".xlsx", "json": ".json", "pdf": ".pdf",
    "csv": ".csv",
}  # fmt: skip
"""Format name → ending of the file it makes; "csv" is the wire list."""


def export_bytes(analysis: Analysis, format_name: str) -> bytes:
    """The contents of an export; StoreError for a format unknown here."""
    design, found = analysis.design, analysis.figures
    if format_name in ("wires-csv", "csv"):
        return b"\xef\xbb\xbf" + csv_text(wire_rows(design, found, as_text=True)).encode()
    if format_name == "cuts-csv":
        return b"\xef\xbb\xbf" + csv_text(cut_rows(design, found)).encode()
    if format_name == "xlsx":
        pages = [
            ("wires", wire_rows(design, found)), ("cuts", cut_rows(design, found)), ("totals", total_rows(design, found)),
            ("fuses", fuse_rows(found)), ("cases", case_rows(design)), ("cautions", caution_rows(analysis.findings)),
        ]  # fmt: skip
        return xlsx_bytes(pages, Page(design.project.paper, design.project.landscape))
    if format_name == "json":
        return to_json(design).encode()
    raise StoreError(f"There is no export format “{format_name}”.")


def write_export(analysis: Analysis, format_name: str, path: Path) -> None:
    """Writes an export whole or not at all, never onto a harness file."""
    write_whole(path, export_bytes(analysis, format_name))
