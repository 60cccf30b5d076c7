"""Help inside the program: the user guide, the key list, and what the program is made of."""

from __future__ import annotations

import re
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
    ("platformdirs", "MIT"), ("python-calamine", "MIT"), ("charset-normalizer", "MIT"), ("ezdxf", "MIT"),
    ("networkx", "BSD"), ("segno", "BSD"), ("pyvisa", "MIT"), ("pyvisa-py", "MIT"), ("pyserial", "BSD"), ("cryptography", "Apache 2 or BSD"), ("lark", "MIT"), ("icalendar", "BSD"),
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
        self.foot = row(None, self.close_button)
        self.column.addLayout(self.foot)


GUIDE = "user-guide.md"
STEPS = re.compile(r"^```window\n.*?^```\n", re.MULTILINE | re.DOTALL)
"""What is tried of the guide at the window: a reader has it in words there, on a first page in steps."""


class GuideSheet(_Sheet):
    """The user guide, with a line to search it; its first pages open in its place."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("User guide", (860, 640), parent)
        self.back = QPushButton(tr("Back to the guide"))
        self.back.clicked.connect(lambda: self.show_page(GUIDE))
        self.foot.insertWidget(0, self.back)
        self.text.anchorClicked.connect(lambda link: self.show_page(link.toString()))
        self.show_page(GUIDE)
        self.search = Line()
        self.search.setPlaceholderText(tr("search the guide, Enter for the next place"))
        self.search.returnPressed.connect(self.find_next)
        self.column.insertWidget(1, self.search)
        self.search.setFocus()

    def show_page(self, name: str) -> None:
        """The guide or one of its first pages; nothing for any other name."""
        folder = resources.files("umber_trunk").joinpath("data/help")
        names = {GUIDE, *(f"first-pages/{page.name}" for page in folder.joinpath("first-pages").iterdir())}
        if name in names:
            text = folder.joinpath(name).read_text("utf-8")
            told = text.replace("```window\n", "**At the window**\n```\n").replace(
                "\n```\number", "\n**In a shell**\n```\number"
            )
            self.text.setMarkdown(STEPS.sub("", text) if name == GUIDE else told)
            self.back.setVisible(name != GUIDE)

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
                "<tr><td "
                f"style='padding-right:24px'><b>{escape(tr(key))}</b></td><td>{escape(tr(told).rstrip('…'))}</td></tr>"
                for key, told in keys
            )
            parts.append(f"<p style='color:{soft}'>{escape(name)}</p><table cellpadding=3>{rows}</table>")
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
            f"<p><b>{escape(name)}</b></p><pre "
            f"style='white-space:pre-wrap'>{escape(folder.joinpath(name).read_text('utf-8')[:4000])}</pre>"
            for name in ("LICENCE.txt", "LICENCE-fallback.txt")
        )
        self.text.setHtml(
            f"<p><b>Umber Trunk {__version__}</b>, Qt {qVersion()}. MIT licence.</p><p>Thinks a wiring harness "
            "through with its builder. Results are engineering estimates: the applicable local code, class or "
            f"vehicle rule and a licensed person decide.</p><table cellpadding=2>{rows}</table>{licences}"
        )


def _version(name: str) -> str:
    try:
        return metadata.version(name)
    except metadata.PackageNotFoundError:
        return ""
