"""Wire lists as files: which endings the import reads, and the question for one."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from umber_trunk.app.widgets.words import tr

LISTS = (".csv", ".tsv", ".txt", ".xlsx", ".xls", ".ods")


def list_asked(parent: QWidget) -> Path | None:
    """The wire list to import, as the user picks it."""
    endings = " ".join(f"*{ending}" for ending in LISTS)
    name, _ = QFileDialog.getOpenFileName(
        parent, tr("Import a wire list"), "", tr("Wire lists ({endings});;Any file (*)", endings=endings)
    )
    return Path(name) if name else None
