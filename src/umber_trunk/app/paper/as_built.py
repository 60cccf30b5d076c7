"""Certificate and as-built book of a unit on paper, and the same as CSV and JSON."""

from __future__ import annotations

import json
from pathlib import Path

from umber_trunk.app.paper.pdf import pdf_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.keep.unit_record import UnitRecord
from umber_trunk.core.results import Results
from umber_trunk.store.certificates import certificate, plain, rows
from umber_trunk.store.files import write_whole
from umber_trunk.store.keeping import unit_figures
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.sheets import csv_text


def as_built_pdf(results: Results, record: UnitRecord, seal: tuple[int, str], whole: bool) -> bytes:
    """The certificate, or the whole book."""
    sheet = certificate(results, record, seal, whole)
    return pdf_of(results, [sheet])


def write_as_built(project: ProjectFile, record: UnitRecord, path: Path, whole: bool) -> None:
    """Writes it by the file's ending: .pdf, .csv or .json. InputError for another. A certificate is signed for in the
    log first, so that it names a seal that is."""
    if not project.read_only:
        project.floor.sign("certificate")
    seal = project.floor.seal()
    kind = path.suffix.lower()
    if kind == ".json":
        data = (json.dumps(plain(record, seal), ensure_ascii=False, indent=1, allow_nan=False) + "\n").encode()
    elif kind == ".csv":
        data = csv_text(rows(record)).encode()
    elif kind == ".pdf":
        data = as_built_pdf(unit_figures(project, record), record, seal, whole)
    else:
        raise InputError.of("window.export-endings", kind=kind)
    write_whole(path, data)
