"""Warm umber, chalk and verdigris; the shipped face; one place for every colour and size."""

from __future__ import annotations

import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from functools import cache, partial
from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QBrush, QColor, QFont, QFontDatabase, QIcon, QImage, QPalette
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

from umber_trunk.core.catalog.hues import hue_of
from umber_trunk.core.usual import MET

LIGHT = {
    "PAPER": "#f6f1e7", "PAPER_BRIGHT": "#fdfaf4", "PAPER_DIM": "#e6dccb", "INK": "#2f1d14", "INK_SOFT": "#6d503d",
    "HEADING": "#4a3022", "GOOD": "#22665c", "GOOD_PALE": "#cfe3dc", "TIGHT": "#c58a17", "TIGHT_PALE": "#f3e2b8",
    "TIGHT_TEXT": "#765000", "BROKEN": "#a83520", "BROKEN_PALE": "#f2d3c8", "SLATE": "#5d6a70", "GRIP": "#bfae99",
    "RETURN": "#4a3022",
}  # fmt: skip
DARK = {
    "PAPER": "#211813", "PAPER_BRIGHT": "#2b2019", "PAPER_DIM": "#3b2d23", "INK": "#f4ebdc", "INK_SOFT": "#cfb9a2",
    "HEADING": "#ecd3ae", "GOOD": "#62bdac", "GOOD_PALE": "#1e463f", "TIGHT": "#dca63c", "TIGHT_PALE": "#4d3a0e",
    "TIGHT_TEXT": "#edc06a", "BROKEN": "#ff9479", "BROKEN_PALE": "#5a2417", "SLATE": "#9fb0b8", "GRIP": "#6d5847",
    "RETURN": "#c79a6b",
}  # fmt: skip
"""Every colour by its part, in light and dark."""

BAR = QColor("#3d271b")
BAR_SOFT = QColor("#7a5c48")
BAR_INK = QColor("#f6f1e7")
_BY_WINDOW = {name: QColor(value) for name, value in LIGHT.items()}
"""Filled in place from one of the schemes: who keeps a colour follows the window."""
_ON_PAPER = {name: QColor(value) for name, value in LIGHT.items()}

if TYPE_CHECKING:
    PAPER: QColor
    PAPER_BRIGHT: QColor
    PAPER_DIM: QColor
    INK: QColor
    INK_SOFT: QColor
    HEADING: QColor
    GOOD: QColor
    GOOD_PALE: QColor
    TIGHT: QColor
    TIGHT_PALE: QColor
    TIGHT_TEXT: QColor
    BROKEN: QColor
    BROKEN_PALE: QColor
    SLATE: QColor
    GRIP: QColor
    RETURN: QColor

BASE_POINT = 9.5
MIDDLE = Qt.TextElideMode.ElideMiddle
FAMILY = "B612"
MONO = "B612 Mono"
FALLBACKS = ("DejaVu Sans", "Droid Sans Fallback")  # shipped too, so that no name vanishes


class _Here(threading.local):
    """Whether this thread draws for paper."""

    on_paper = False


_here = _Here()


def _shown() -> dict[str, QColor]:
    """Colours by their parts: the window's, or those of paper in a thread that draws for it."""
    return _ON_PAPER if _here.on_paper else _BY_WINDOW


if not TYPE_CHECKING:

    def __getattr__(name: str) -> QColor:
        """A colour by its part."""
        if (colour := _shown().get(name)) is None:
            raise AttributeError(name)
        return colour


def paint_in(colours: dict[str, str]) -> None:
    """Fills the window's colours from a scheme."""
    for name, value in colours.items():
        _BY_WINDOW[name].setRgba(QColor(value).rgba())


def is_dark() -> bool:
    """Whether the dark scheme is on here."""
    return _shown()["PAPER"].lightness() < 128


def on_paper() -> bool:
    """Whether this thread draws for paper, where nothing can be clicked and hues may be lost."""
    return _here.on_paper


@contextmanager
def as_on_paper() -> Iterator[None]:
    """Light colours for what this thread draws meanwhile; the window's stay as they are."""
    before, _here.on_paper = _here.on_paper, True
    try:
        yield
    finally:
        _here.on_paper = before


def ink_on(paper: QColor) -> QColor:
    """Black or white ink, whichever reads better on a colour."""
    return (
        QColor("#fffdf8")
        if contrast(QColor("#fffdf8"), paper) > contrast(QColor("#1c120c"), paper)
        else QColor("#1c120c")
    )


def contrast(one: QColor, other: QColor) -> float:
    """Contrast ratio of two colours, 1 to 21 (WCAG 2.1)."""

    def luminance(colour: QColor) -> float:
        parts = (colour.redF(), colour.greenF(), colour.blueF())
        red, green, blue = (c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
        return float(0.2126 * red + 0.7152 * green + 0.0722 * blue)

    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def load_fonts() -> None:
    """Registers the shipped faces with Qt, once: each time Qt would keep them anew. As files it maps them; given their
    bytes it would hold 5 MB of them."""
    if QFontDatabase.applicationFontFamilies(0):
        return
    for entry in resources.files("umber_trunk").joinpath("data/fonts").iterdir():
        if entry.name.endswith((".otf", ".ttf")):
            QFontDatabase.addApplicationFont(str(entry))


def font(points: float = BASE_POINT, bold: bool = False) -> QFont:
    """The shipped face at a size, scaled with the application; on paper as it is."""
    return _made_font(points * text_scale(), bold)


@cache
def _made_font(points: float, bold: bool) -> QFont:
    made = QFont()
    made.setFamilies([FAMILY, *FALLBACKS])
    made.setPointSizeF(points)
    made.setBold(bold)
    return made


def text_scale() -> float:
    """How much larger than usual text is here."""
    return 1.0 if _here.on_paper else _scale[0]


_scale = [1.0]


def wire_colour(name: str) -> QColor:
    """The paint for a colour word; unknown words show grey and rely on their text."""
    return QColor(hue_of(name))


WIRE_HATCHES = {
    "green": "falling", "brown": "level", "turquoise": "level", "beige": "level", "orange": "rising", "violet": "rising", "tan": "rising", "pink": "dotted",
}  # fmt: skip
"""How a colour's paint is hatched, the others not at all: no two that an eye without red, green or blue cones takes for
one another have the same."""
TILE = 8


@cache
def wire_brush(name: str) -> QBrush:
    """The paint for a colour word with its hatching: for all that is painted as a wire. A brush is shared: it is never
    changed."""
    colour, hatch = wire_colour(name), WIRE_HATCHES.get(name.lower(), "")
    if not hatch:
        return QBrush(colour)
    tile = QImage(TILE, TILE, QImage.Format.Format_RGB32)
    tile.fill(colour)
    ink = ink_on(colour)
    for n in range(TILE):
        marks = {
            "falling": [(n, n)],
            "rising": [(n, TILE - 1 - n)],
            "level": [(n, 1), (n, 5)],
            "dotted": [(1, 1), (2, 1), (5, 5), (6, 5)],
        }[hatch]
        for x, y in marks:
            tile.setPixelColor(x, y, _between(colour, ink, HATCH_SHARE))
    return QBrush(tile)


HATCH_SHARE = 0.55
"""How much of the ink a hatch has, the rest is the colour's own."""


def _between(one: QColor, other: QColor, share: float) -> QColor:
    def mixed(a: int, b: int) -> int:
        return round(a + (b - a) * share)

    return QColor(mixed(one.red(), other.red()), mixed(one.green(), other.green()), mixed(one.blue(), other.blue()))


def use_color(used: float) -> QColor:
    """Good with room, tight over 90 %, broken over the limit."""
    if used > MET:
        return _shown()["BROKEN"]
    return _shown()["TIGHT" if used > 0.9 else "GOOD"]


def apply_theme(app: QApplication, scale: float = 1.0, dark: bool | None = None) -> None:
    """Fonts, palette and style sheet of the whole program at a text scale; light or dark as the desktop has it unless
    said."""
    if dark is None:
        dark = app.styleHints().colorScheme() == Qt.ColorScheme.Dark
    paint_in(DARK if dark else LIGHT)
    _scale[0] = scale
    if app.style().objectName() != "fusion":
        app.setStyle("Fusion")
    if app.font() != font():
        app.setFont(font())
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: "PAPER", QPalette.ColorRole.WindowText: "INK",
        QPalette.ColorRole.Base: "PAPER_BRIGHT", QPalette.ColorRole.AlternateBase: "PAPER",
        QPalette.ColorRole.Text: "INK", QPalette.ColorRole.Button: "PAPER_DIM",
        QPalette.ColorRole.ButtonText: "INK", QPalette.ColorRole.Highlight: "GOOD_PALE",
        QPalette.ColorRole.HighlightedText: "INK", QPalette.ColorRole.PlaceholderText: "INK_SOFT",
        QPalette.ColorRole.ToolTipBase: "INK", QPalette.ColorRole.ToolTipText: "PAPER",
        QPalette.ColorRole.Light: "PAPER_BRIGHT", QPalette.ColorRole.Mid: "GRIP", QPalette.ColorRole.Dark: "INK_SOFT",
    }  # fmt: skip
    for role, colour in roles.items():
        palette.setColor(role, _BY_WINDOW[colour])
    if app.palette() != palette:  # each of these goes over every widget there is
        app.setPalette(palette)
    before, _worn[0] = _worn[0], _sheet(scale)
    if _worn[0] != before:
        tops = [top for top in app.topLevelWidgets() if top.property(DRESSED)]
        _dress_in_turn(sorted(tops, key=lambda top: not top.isActiveWindow()), _worn[0])


def _dress_in_turn(tops: Sequence[QWidget], sheet: str) -> None:
    """One window after another, since each takes a while: what is typed meanwhile is heard in between. Another sheet
    begins anew."""
    if sheet != _worn[0] or not tops:
        return
    if isValid(tops[0]):
        dress(tops[0])
    QTimer.singleShot(NEXT_MS, partial(_dress_in_turn, tops[1:], sheet))


DRESSED = "dressed"
NEXT_MS = 40
_worn = [""]


def dress(top: QWidget) -> None:
    """Puts the style sheet on a window, once it holds what it is made of. It isn't the program's: Qt would go over all
    of a desk's widgets again each time a few of them are put into another, which takes three times as long as making
    them."""
    top.setProperty(DRESSED, True)
    top.setStyleSheet(_worn[0])


def icon() -> QIcon:
    """The program's icon."""
    return QIcon(str(resources.files("umber_trunk").joinpath("data/desktop/umber-trunk.svg")))


def restyle(widget: QWidget) -> None:
    """Takes over a changed property that the style sheet asks for."""
    widget.style().unpolish(widget)
    widget.style().polish(widget)


def _sheet(scale: float) -> str:
    pad = round(5 * scale)
    arrow = Path(
        str(resources.files("umber_trunk").joinpath("data/icons", "down-light.svg" if is_dark() else "down.svg"))
    ).as_posix()
    c = {name: colour.name() for name, colour in _BY_WINDOW.items()}
    return f"""
    QWidget {{ color: {c["INK"]}; }}
    QMainWindow, QDialog {{ background: {c["PAPER"]}; }}
    QToolTip {{ background: {c["INK"]}; color: {c["PAPER"]}; border: none; padding: {pad}px; }}
    QLineEdit, QComboBox, QDoubleSpinBox, QSpinBox, QPlainTextEdit {{
        background: {c["PAPER_BRIGHT"]}; border: 1px solid {c["INK_SOFT"]}; border-radius: 3px;
        padding: {pad}px; selection-background-color: {c["GOOD"]}; }}
    QLineEdit:focus, QComboBox:focus {{ border: 2px solid {c["GOOD"]}; }}
    QTableView:focus {{ border: 1px solid {c["GOOD"]}; }}
    QDoubleSpinBox::up-button, QDoubleSpinBox::down-button, QSpinBox::up-button, QSpinBox::down-button {{
        border: none; background: {c["PAPER_DIM"]}; width: {pad * 3}px; }}
    QProgressBar {{ border: 1px solid {c["INK_SOFT"]}; border-radius: 3px; text-align: center;
        background: {c["PAPER_BRIGHT"]}; }}
    QProgressBar::chunk {{ background: {c["GOOD_PALE"]}; }}
    QComboBox::drop-down {{ border: none; width: {pad * 4}px; }}
    QComboBox::down-arrow {{ image: url({arrow}); width: 11px; height: 8px; }}
    QPushButton::menu-indicator {{ subcontrol-position: right center; right: {pad}px; }}
    QPushButton[role="menu"] {{ padding-right: {pad * 4}px; }}
    QPushButton[role="entry"] {{ text-align: left; }}
    #welcome, #welcome QScrollArea, #welcome QScrollArea > QWidget > QWidget {{ background: {c["PAPER"]}; }}
    QPushButton {{ background: {c["PAPER_DIM"]}; border: 1px solid {c["INK_SOFT"]}; border-radius: 3px;
        padding: {pad}px {pad * 2}px; }}
    QPushButton:hover {{ background: {c["GOOD_PALE"]}; }}
    QPushButton:focus {{ border: 2px solid {c["GOOD"]}; }}
    QPushButton:disabled {{ color: {c["INK_SOFT"]}; background: {c["PAPER"]}; }}
    QPushButton[primary="true"] {{ background: {c["GOOD"]}; border-color: {c["GOOD"]};
        color: {ink_on(QColor(c["GOOD"])).name()}; }}
    QPushButton[primary="true"]:disabled {{ background: {c["GOOD_PALE"]}; color: {c["INK_SOFT"]}; }}
    QScrollArea[role="clear"], QScrollArea[role="clear"] > QWidget > QWidget {{ background: {c["PAPER"]}; }}
    QTableView {{ background: {c["PAPER_BRIGHT"]}; gridline-color: {c["PAPER_DIM"]};
        border: 1px solid {c["PAPER_DIM"]}; alternate-background-color: {c["PAPER"]}; }}
    QTableView::item {{ padding: 0 {pad}px; }}
    QTableView::item:selected {{ background: {c["GOOD_PALE"]}; color: {c["INK"]}; }}
    QHeaderView::section {{ background: {c["PAPER_DIM"]}; border: none; padding: {pad}px; font-weight: bold; }}
    QHeaderView {{ background: {c["PAPER_DIM"]}; }}
    QTableCornerButton::section {{ background: {c["PAPER_DIM"]}; border: none; }}
    QSplitter::handle {{ background: {c["PAPER_DIM"]}; }}
    QMenu {{ background: {c["PAPER_BRIGHT"]}; border: 1px solid {c["INK_SOFT"]}; }}
    QMenu::item {{ padding: {pad}px {pad * 4}px; }}
    QMenu::item:selected {{ background: {c["GOOD"]}; color: {ink_on(QColor(c["GOOD"])).name()}; }}
    QMenu::item:disabled {{ color: {c["INK_SOFT"]}; }}
    QScrollBar:vertical {{ width: 12px; background: {c["PAPER"]}; }}
    QScrollBar:horizontal {{ height: 12px; background: {c["PAPER"]}; }}
    QScrollBar::handle {{ background: {c["GRIP"]}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QPushButton[role="tab"]:checked {{ background: {c["HEADING"]}; color: {c["PAPER_BRIGHT"]}; }}
    #bar {{ background: {BAR.name()}; }}
    #bar QLabel {{ color: {BAR_INK.name()}; font-weight: bold; }}
    #status {{ background: {c["PAPER_DIM"]}; }}
    #status[fault="true"] {{ background: {c["BROKEN_PALE"]}; }}
    #worst[severity="fault"] {{ background: {c["BROKEN_PALE"]}; }}
    #worst[severity="warning"] {{ background: {c["TIGHT_PALE"]}; }}
    #worst[severity="note"] {{ background: {c["PAPER_DIM"]}; }}
    #worst[severity="none"] {{ background: {c["GOOD_PALE"]}; }}
    #why {{ background: {c["PAPER_BRIGHT"]}; border-left: 4px solid {c["GOOD"]}; }}
    QLabel[role="heading"] {{ font-weight: bold; font-size: {12 * scale:.1f}pt; color: {c["HEADING"]}; }}
    QFrame[role="card"] {{ background: {c["PAPER_BRIGHT"]}; border: 1px solid {c["INK_SOFT"]}; border-radius: 4px; }}
    QLabel[role="hint"] {{ color: {c["INK_SOFT"]}; }}
    QLabel[role="fault"] {{ color: {c["BROKEN"]}; font-weight: bold; }}
    """


def amps_shades() -> tuple[QColor, ...]:
    """Four shades from little current to much, away from the paper."""
    names = ("#7d6753", "#a58a6e", "#cdb08d", "#f3dcb8") if is_dark() else ("#b9a48f", "#937256", "#6d4a30", "#3d2416")
    return tuple(QColor(name) for name in names)


def heat_shades() -> tuple[QColor, ...]:
    """Four shades from cool to too hot."""
    good, tight, broken = (QColor(_shown()[name]) for name in ("GOOD", "TIGHT", "BROKEN"))
    return (good, QColor("#8aa05a"), tight, broken)
