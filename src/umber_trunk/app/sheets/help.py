"""Help inside the program: the user guide, the key list, and what the program is made of."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from importlib import metadata, resources

from PySide6.QtCore import qVersion
from PySide6.QtWidgets import QDialog, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from umber_trunk import __version__
from umber_trunk.app import theme
from umber_trunk.app.widgets.desk import heading, row
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.words import tr

PARTS = (
    ("PySide6-Essentials", "LGPL 3"), ("numpy", "BSD"), ("scipy", "BSD"), ("pydantic", "MIT"), ("openpyxl", "MIT"), ("defusedxml", "PSF"),
    ("platformdirs", "MIT"), ("python-calamine", "MIT"), ("charset-normalizer", "MIT"),
)  # fmt: skip


class _Sheet(QDialog):
    """A text to read, over the window."""

    def __init__(self, title: str, size: tuple[int, int], parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr(title))
        self.resize(*size)
        self.text = QTextBrowser()
        self.text.setOpenLinks(False)
        self.text.setAccessibleName(tr(title))
        self.close_button = QPushButton(tr("Close  Esc"))
        self.close_button.clicked.connect(self.reject)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 12, 16, 12)
        self.column.addWidget(heading(title))
        self.column.addWidget(self.text, 1)
        self.column.addLayout(row(None, self.close_button))


class GuideSheet(_Sheet):
    """The user guide, with a line to search it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("User guide", (860, 640), parent)
        self.text.setMarkdown(resources.files("umber_trunk").joinpath("data/help/user-guide.md").read_text("utf-8"))
        self.search = Line()
        self.search.setPlaceholderText(tr("search the guide, Enter for the next place"))
        self.search.returnPressed.connect(self.find_next)
        self.column.insertWidget(1, self.search)
        self.search.setFocus()

    def find_next(self) -> bool:
        """The next place that holds what is searched, from the top again after the last."""
        words = self.search.text()
        if self.text.find(words):
            return True
        self.text.moveCursor(self.text.textCursor().MoveOperation.Start)
        return bool(words) and self.text.find(words)


class KeysSheet(_Sheet):
    """Keys in groups, as (key, what it does)."""

    def __init__(self, groups: Sequence[tuple[str, Sequence[tuple[str, str]]]], parent: QWidget | None = None) -> None:
        super().__init__("Keys", (620, 620), parent)
        soft, parts = theme.INK_SOFT.name(), []
        for name, keys in groups:
            rows = "".join(
                f"<tr><td style='padding-right:24px'><b>{escape(key)}</b></td><td>{escape(tr(told).rstrip('…'))}</td></tr>"
                for key, told in keys
            )
            parts.append(f"<p style='color:{soft}'>{escape(tr(name))}</p><table cellpadding=3>{rows}</table>")
        self.text.setHtml("".join(parts))


class AboutSheet(_Sheet):
    """Version, licence, and the libraries and faces it ships with."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("About Umber Trunk", (640, 560), parent)
        rows = "".join(
            f"<tr><td><b>{name}</b>&nbsp;</td><td>{_version(name)}&nbsp;&nbsp;</td><td>{licence}</td></tr>"
            for name, licence in PARTS
        )
        folder = resources.files("umber_trunk").joinpath("data/fonts")
        licences = "".join(
            f"<p><b>{escape(name)}</b></p><pre style='white-space:pre-wrap'>{escape(folder.joinpath(name).read_text('utf-8')[:4000])}</pre>"
            for name in ("LICENCE.txt", "LICENCE-fallback.txt")
        )
        self.text.setHtml(
            f"<p><b>Umber Trunk {__version__}</b>, Qt {qVersion()}. MIT licence.</p>"
            "<p>Thinks a wiring harness through with its builder. Results are engineering estimates: the applicable local code, class or "
            f"vehicle rule and a licensed person decide.</p><table cellpadding=2>{rows}</table>{licences}"
        )


def _version(name: str) -> str:
    try:
        return metadata.version(name)
    except metadata.PackageNotFoundError:
        return ""
