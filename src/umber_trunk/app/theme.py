"""Warm umber, chalk and verdigris; the shipped face; one place for every colour and size."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache, partial
from importlib import resources
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QBrush, QColor, QFont, QFontDatabase, QIcon, QImage, QPalette
from PySide6.QtWidgets import QApplication, QWidget

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
"""Every colour by its part, in light and dark. The objects below are filled from one of them, in place."""

BAR = QColor("#3d271b")
BAR_SOFT = QColor("#7a5c48")
BAR_INK = QColor("#f6f1e7")
(
    PAPER, PAPER_BRIGHT, PAPER_DIM, INK, INK_SOFT, HEADING, GOOD, GOOD_PALE, TIGHT, TIGHT_PALE, TIGHT_TEXT, BROKEN, BROKEN_PALE,
    SLATE, GRIP, RETURN,
) = (QColor(value) for value in LIGHT.values())  # fmt: skip

BASE_POINT = 9.5
MIDDLE = Qt.TextElideMode.ElideMiddle
FAMILY = "B612"
MONO = "B612 Mono"
FALLBACKS = ("DejaVu Sans", "Droid Sans Fallback")  # shipped too, so that no name vanishes


_colours = threading.RLock()


def paint_in(colours: dict[str, str]) -> None:
    """Fills every colour of the program from a scheme, once nothing is being drawn for paper."""
    with _colours:
        for name, value in colours.items():
            globals()[name].setRgba(QColor(value).rgba())


def is_dark() -> bool:
    """Whether the dark scheme is on."""
    return PAPER.lightness() < 128


@contextmanager
def as_on_paper() -> Iterator[None]:
    """Light colours for as long as something is drawn that will be printed. Where the window is dark it is drawn on the window's thread: the
    window has the same colours."""
    with _colours:
        dark = is_dark()
        paint_in(LIGHT)
        try:
            yield
        finally:
            if dark:
                paint_in(DARK)


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
    """Registers the shipped faces with Qt."""
    folder = resources.files("umber_trunk").joinpath("data/fonts")
    for entry in folder.iterdir():
        if entry.name.endswith((".otf", ".ttf")):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


def font(points: float = BASE_POINT, bold: bool = False) -> QFont:
    """The shipped face at a size, scaled with the application."""
    return _made_font(points * _scale[0], bold)


@cache
def _made_font(points: float, bold: bool) -> QFont:
    made = QFont()
    made.setFamilies([FAMILY, *FALLBACKS])
    made.setPointSizeF(points)
    made.setBold(bold)
    return made


def text_scale() -> float:
    """How much larger than usual text is now."""
    return _scale[0]


_scale = [1.0]


def wire_colour(name: str) -> QColor:
    """The paint for a colour word; unknown words show grey and rely on their text."""
    return QColor(hue_of(name))


WIRE_HATCHES = {
    "green": "falling", "brown": "level", "turquoise": "level", "beige": "level", "orange": "rising", "violet": "rising", "tan": "rising", "pink": "dotted",
}  # fmt: skip
"""How a colour's paint is hatched, the others not at all: no two that an eye without red, green or blue cones takes for one another have the same."""
TILE = 8


@cache
def wire_brush(name: str) -> QBrush:
    """The paint for a colour word with its hatching: for all that is painted as a wire. A brush is shared: it is never changed."""
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
        return BROKEN
    return TIGHT if used > 0.9 else GOOD


def apply_theme(app: QApplication, scale: float = 1.0, dark: bool | None = None) -> None:
    """Fonts, palette and style sheet of the whole program at a text scale; light or dark as the desktop has it unless said."""
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
        QPalette.ColorRole.Window: PAPER, QPalette.ColorRole.WindowText: INK,
        QPalette.ColorRole.Base: PAPER_BRIGHT, QPalette.ColorRole.AlternateBase: PAPER,
        QPalette.ColorRole.Text: INK, QPalette.ColorRole.Button: PAPER_DIM,
        QPalette.ColorRole.ButtonText: INK, QPalette.ColorRole.Highlight: GOOD_PALE,
        QPalette.ColorRole.HighlightedText: INK, QPalette.ColorRole.PlaceholderText: INK_SOFT,
        QPalette.ColorRole.ToolTipBase: INK, QPalette.ColorRole.ToolTipText: PAPER,
        QPalette.ColorRole.Light: PAPER_BRIGHT, QPalette.ColorRole.Mid: GRIP, QPalette.ColorRole.Dark: INK_SOFT,
    }  # fmt: skip
    for role, colour in roles.items():
        palette.setColor(role, colour)
    if app.palette() != palette:  # each of these goes over every widget there is
        app.setPalette(palette)
    before, _worn[0] = _worn[0], _sheet(scale)
    tops = [top for top in app.topLevelWidgets() if top.property(DRESSED)] if _worn[0] != before else []
    for number, top in enumerate(sorted(tops, key=lambda top: not top.isActiveWindow())):
        if number == 0:
            dress(top)
        else:  # one window after another: each takes a while
            QTimer.singleShot(NEXT_MS * number, top, partial(dress, top))


DRESSED = "dressed"
NEXT_MS = 40
_worn = [""]


def dress(top: QWidget) -> None:
    """Puts the style sheet on a window, once it holds what it is made of. It isn't the program's: Qt would go over all of a desk's widgets again
    each time a few of them are put into another, which takes three times as long as making them."""
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
    return f"""
    QWidget {{ color: {INK.name()}; }}
    QMainWindow, QDialog {{ background: {PAPER.name()}; }}
    QToolTip {{ background: {INK.name()}; color: {PAPER.name()}; border: none; padding: {pad}px; }}
    QLineEdit, QComboBox, QDoubleSpinBox, QSpinBox, QPlainTextEdit {{
        background: {PAPER_BRIGHT.name()}; border: 1px solid {INK_SOFT.name()}; border-radius: 3px;
        padding: {pad}px; selection-background-color: {GOOD.name()}; }}
    QLineEdit:focus, QComboBox:focus {{ border: 2px solid {GOOD.name()}; }}
    QTableView:focus {{ border: 1px solid {GOOD.name()}; }}
    QDoubleSpinBox::up-button, QDoubleSpinBox::down-button, QSpinBox::up-button, QSpinBox::down-button {{
        border: none; background: {PAPER_DIM.name()}; width: {pad * 3}px; }}
    QProgressBar {{ border: 1px solid {INK_SOFT.name()}; border-radius: 3px; text-align: center; background: {PAPER_BRIGHT.name()}; }}
    QProgressBar::chunk {{ background: {GOOD_PALE.name()}; }}
    QComboBox::drop-down {{ border: none; width: {pad * 4}px; }}
    QComboBox::down-arrow {{ image: url({arrow}); width: 11px; height: 8px; }}
    QPushButton::menu-indicator {{ subcontrol-position: right center; right: {pad}px; }}
    QPushButton[role="menu"] {{ padding-right: {pad * 4}px; }}
    QPushButton[role="entry"] {{ text-align: left; }}
    #welcome, #welcome QScrollArea, #welcome QScrollArea > QWidget > QWidget {{ background: {PAPER.name()}; }}
    QPushButton {{ background: {PAPER_DIM.name()}; border: 1px solid {INK_SOFT.name()}; border-radius: 3px;
        padding: {pad}px {pad * 2}px; }}
    QPushButton:hover {{ background: {GOOD_PALE.name()}; }}
    QPushButton:focus {{ border: 2px solid {GOOD.name()}; }}
    QPushButton:disabled {{ color: {INK_SOFT.name()}; background: {PAPER.name()}; }}
    QPushButton[primary="true"] {{ background: {GOOD.name()}; color: {ink_on(GOOD).name()}; border-color: {GOOD.name()}; }}
    QPushButton[primary="true"]:disabled {{ background: {GOOD_PALE.name()}; color: {INK_SOFT.name()}; }}
    QScrollArea[role="clear"], QScrollArea[role="clear"] > QWidget > QWidget {{ background: {PAPER.name()}; }}
    QTableView {{ background: {PAPER_BRIGHT.name()}; gridline-color: {PAPER_DIM.name()};
        border: 1px solid {PAPER_DIM.name()}; alternate-background-color: {PAPER.name()}; }}
    QTableView::item {{ padding: 0 {pad}px; }}
    QTableView::item:selected {{ background: {GOOD_PALE.name()}; color: {INK.name()}; }}
    QHeaderView::section {{ background: {PAPER_DIM.name()}; border: none; padding: {pad}px; font-weight: bold; }}
    QHeaderView {{ background: {PAPER_DIM.name()}; }}
    QTableCornerButton::section {{ background: {PAPER_DIM.name()}; border: none; }}
    QSplitter::handle {{ background: {PAPER_DIM.name()}; }}
    QMenu {{ background: {PAPER_BRIGHT.name()}; border: 1px solid {INK_SOFT.name()}; }}
    QMenu::item {{ padding: {pad}px {pad * 4}px; }}
    QMenu::item:selected {{ background: {GOOD.name()}; color: {ink_on(GOOD).name()}; }}
    QMenu::item:disabled {{ color: {INK_SOFT.name()}; }}
    QScrollBar:vertical {{ width: 12px; background: {PAPER.name()}; }}
    QScrollBar:horizontal {{ height: 12px; background: {PAPER.name()}; }}
    QScrollBar::handle {{ background: {GRIP.name()}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QPushButton[role="tab"]:checked {{ background: {HEADING.name()}; color: {PAPER_BRIGHT.name()}; }}
    #bar {{ background: {BAR.name()}; }}
    #bar QLabel {{ color: {BAR_INK.name()}; font-weight: bold; }}
    #status {{ background: {PAPER_DIM.name()}; }}
    #status[fault="true"] {{ background: {BROKEN_PALE.name()}; }}
    #worst[severity="fault"] {{ background: {BROKEN_PALE.name()}; }}
    #worst[severity="warning"] {{ background: {TIGHT_PALE.name()}; }}
    #worst[severity="note"] {{ background: {PAPER_DIM.name()}; }}
    #worst[severity="none"] {{ background: {GOOD_PALE.name()}; }}
    #why {{ background: {PAPER_BRIGHT.name()}; border-left: 4px solid {GOOD.name()}; }}
    QLabel[role="heading"] {{ font-weight: bold; font-size: {12 * scale:.1f}pt; color: {HEADING.name()}; }}
    QFrame[role="card"] {{ background: {PAPER_BRIGHT.name()}; border: 1px solid {INK_SOFT.name()}; border-radius: 4px; }}
    QLabel[role="hint"] {{ color: {INK_SOFT.name()}; }}
    QLabel[role="fault"] {{ color: {BROKEN.name()}; font-weight: bold; }}
    """


def amps_shades() -> tuple[QColor, ...]:
    """Four shades from little current to much, away from the paper."""
    names = ("#7d6753", "#a58a6e", "#cdb08d", "#f3dcb8") if is_dark() else ("#b9a48f", "#937256", "#6d4a30", "#3d2416")
    return tuple(QColor(name) for name in names)


def heat_shades() -> tuple[QColor, ...]:
    """Four shades from cool to too hot."""
    return (QColor(GOOD), QColor("#8aa05a"), QColor(TIGHT), QColor(BROKEN))
