"""What comes into a harness and goes out of it: lists that are imported, formats that are written."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from umber_trunk.app.pointing import Pointing
from umber_trunk.app.widgets.words import tr
from umber_trunk.app.writing import Writer
from umber_trunk.core.errors import UmberError
from umber_trunk.core.stages import exports, owner_of

if TYPE_CHECKING:
    from umber_trunk.app.sheets.import_sheet import ImportDialog


class Carrying(Pointing):
    """Files in and out of a window that shows what came in."""

    writer: Writer

    def import_from(self, path: Path) -> ImportDialog | None:
        """Opens the import sheet on a file, or says why it can't be read."""
        from umber_trunk.app.sheets.import_sheet import ImportDialog

        try:
            dialog = ImportDialog(self.document, path, self)
        except UmberError as why:
            self.say(str(why), fault=True)
            return None
        dialog.accepted.connect(lambda: self.show_stage(owner_of("segments").id))
        dialog.unread.connect(lambda text: self.say(text, fault=True))
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()
        return dialog

    def export(self, kind: str) -> None:
        """Asks for a name and writes one format."""
        export = exports()[kind]
        name = self.document.path.with_name(self.document.path.stem + export.ending)
        chosen, _ = QFileDialog.getSaveFileName(self, tr(export.title), str(name), export.filter)
        if chosen:
            self.export_to(kind, Path(chosen))

    def export_to(self, kind: str, path: Path) -> None:
        """Writes one format; says where, or why it could not."""
        results = self.document.now
        if results is None:
            self.say(tr("The figures are still being worked out; try again in a moment."))
            return
        from umber_trunk.store.output import write_export  # what every stage exports: not before it is asked for

        def work() -> str:
            write_export(results, kind, path)
            return tr("{path} is written.", path=path)

        self.say(tr("Working it out; the file is written as soon as that is done."))
        self.writer.write(work)
