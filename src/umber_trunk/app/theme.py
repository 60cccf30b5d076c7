"""Warm umber, chalk and verdigris; the shipped face; one place for every colour and size."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

UMBER = QColor("#4a3022")
UMBER_DEEP = QColor("#2f1d14")
UMBER_SOFT = QColor("#7a5c48")
CHALK = QColor("#f6f1e7")
CHALK_BRIGHT = QColor("#fdfaf4")
CHALK_DIM = QColor("#e6dccb")
VERDIGRIS = QColor("#2f7f73")
VERDIGRIS_PALE = QColor("#cfe3dc")
OCHRE = QColor("#c58a17")
OCHRE_PALE = QColor("#f3e2b8")
OXIDE = QColor("#b03a24")
OXIDE_PALE = QColor("#f2d3c8")
SLATE = QColor("#5d6a70")

WIRE_COLOURS = {
    "black": "#2a2624", "brown": "#7b4a21", "red": "#c3281c", "orange": "#e1761a", "yellow": "#e6c619",
    "green": "#2f8a3c", "blue": "#2a5fb0", "violet": "#7d4a9e", "grey": "#8b8b88", "white": "#fbfbf8",
    "pink": "#e39ab4", "turquoise": "#36b3ae", "tan": "#c9a77a", "beige": "#ddcaa5",
}  # fmt: skip

BASE_POINT = 9.5
FAMILY = "B612"
FALLBACKS = ("DejaVu Sans", "Droid Sans Fallback")  # shipped too, so that no name vanishes


def load_fonts() -> None:
    """Registers the shipped faces with Qt."""
    folder = resources.files("umber_trunk").joinpath("data/fonts")
    for entry in folder.iterdir():
        if entry.name.endswith((".otf", ".ttf")):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


def font(points: float = BASE_POINT, bold: bool = False) -> QFont:
    """The shipped face at a size, scaled with the application."""
    made = QFont()
    made.setFamilies([FAMILY, *FALLBACKS])
    made.setPointSizeF(points * _scale())
    made.setBold(bold)
    return made


def _scale() -> float:
    app = QApplication.instance()
    value = app.property("umberScale") if app is not None else None
    return float(value) if value else 1.0


def wire_colour(name: str) -> QColor:
    """The paint for a colour word; unknown words show grey and rely on their text."""
    return QColor(WIRE_COLOURS.get(name.lower(), "#a9a29a"))


def use_color(used: float) -> QColor:
    """Verdigris with room, ochre when tight, oxide when broken."""
    if used > 1 + 1e-6:
        return OXIDE
    return OCHRE if used > 0.9 else VERDIGRIS


def apply_theme(app: QApplication, scale: float = 1.0) -> None:
    """Fonts, palette and style sheet of the whole program at a text scale."""
    app.setProperty("umberScale", scale)
    app.setStyle("Fusion")
    app.setFont(font())
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: CHALK, QPalette.ColorRole.WindowText: UMBER_DEEP,
        QPalette.ColorRole.Base: CHALK_BRIGHT, QPalette.ColorRole.AlternateBase: CHALK,
        QPalette.ColorRole.Text: UMBER_DEEP, QPalette.ColorRole.Button: CHALK_DIM,
        QPalette.ColorRole.ButtonText: UMBER_DEEP, QPalette.ColorRole.Highlight: VERDIGRIS,
        QPalette.ColorRole.HighlightedText: CHALK_BRIGHT, QPalette.ColorRole.PlaceholderText: UMBER_SOFT,
        QPalette.ColorRole.ToolTipBase: UMBER_DEEP, QPalette.ColorRole.ToolTipText: CHALK,
    }  # fmt: skip
    for role, colour in roles.items():
        palette.setColor(role, colour)
    app.setPalette(palette)
    app.setStyleSheet(_sheet(scale))


def _sheet(scale: float) -> str:
    pad = round(5 * scale)
    arrow = Path(str(resources.files("umber_trunk").joinpath("data/icons/down.svg"))).as_posix()
    return f"""
    QWidget {{ color: {UMBER_DEEP.name()}; }}
    QMainWindow, QDialog {{ background: {CHALK.name()}; }}
    QToolTip {{ background: {UMBER_DEEP.name()}; color: {CHALK.name()}; border: none; padding: {pad}px; }}
    QLineEdit, QComboBox, QDoubleSpinBox, QSpinBox, QPlainTextEdit {{
        background: {CHALK_BRIGHT.name()}; border: 1px solid {UMBER_SOFT.name()}; border-radius: 3px;
        padding: {pad}px; selection-background-color: {VERDIGRIS.name()}; }}
    QLineEdit:focus, QComboBox:focus {{ border: 2px solid {VERDIGRIS.name()}; }}
    QTableView:focus {{ border: 1px solid {VERDIGRIS.name()}; }}
    QDoubleSpinBox::up-button, QDoubleSpinBox::down-button, QSpinBox::up-button, QSpinBox::down-button {{
        border: none; background: {CHALK_DIM.name()}; width: {pad * 3}px; }}
    QProgressBar {{ border: 1px solid {UMBER_SOFT.name()}; border-radius: 3px; text-align: center; background: {CHALK_BRIGHT.name()}; }}
    QProgressBar::chunk {{ background: {VERDIGRIS_PALE.name()}; }}
    QComboBox::drop-down {{ border: none; width: {pad * 4}px; }}
    QComboBox::down-arrow {{ image: url({arrow}); width: 11px; height: 8px; }}
    QPushButton::menu-indicator {{ subcontrol-position: right center; right: {pad}px; }}
    QPushButton[text="Harness"] {{ padding-right: {pad * 4}px; }}
    QPushButton {{ background: {CHALK_DIM.name()}; border: 1px solid {UMBER_SOFT.name()}; border-radius: 3px;
        padding: {pad}px {pad * 2}px; }}
    QPushButton:hover {{ background: {VERDIGRIS_PALE.name()}; }}
    QPushButton:focus {{ border: 2px solid {VERDIGRIS.name()}; }}
    QPushButton:disabled {{ color: {UMBER_SOFT.name()}; background: {CHALK.name()}; }}
    QPushButton[primary="true"] {{ background: {VERDIGRIS.name()}; color: white; border-color: {VERDIGRIS.name()}; }}
    QPushButton[primary="true"]:disabled {{ background: {VERDIGRIS_PALE.name()}; color: {UMBER_SOFT.name()}; }}
    QTableView {{ background: {CHALK_BRIGHT.name()}; gridline-color: {CHALK_DIM.name()};
        border: 1px solid {CHALK_DIM.name()}; alternate-background-color: {CHALK.name()}; }}
    QTableView::item {{ padding: 0 {pad}px; }}
    QTableView::item:selected {{ background: {VERDIGRIS_PALE.name()}; color: {UMBER_DEEP.name()}; }}
    QHeaderView::section {{ background: {CHALK_DIM.name()}; border: none; padding: {pad}px; font-weight: bold; }}
    QHeaderView {{ background: {CHALK_DIM.name()}; }}
    QTableCornerButton::section {{ background: {CHALK_DIM.name()}; border: none; }}
    QSplitter::handle {{ background: {CHALK_DIM.name()}; }}
    QMenu {{ background: {CHALK_BRIGHT.name()}; border: 1px solid {UMBER_SOFT.name()}; }}
    QMenu::item {{ padding: {pad}px {pad * 4}px; }}
    QMenu::item:selected {{ background: {VERDIGRIS.name()}; color: white; }}
    QMenu::item:disabled {{ color: {UMBER_SOFT.name()}; }}
    QScrollBar:vertical {{ width: 12px; background: {CHALK.name()}; }}
    QScrollBar:horizontal {{ height: 12px; background: {CHALK.name()}; }}
    QScrollBar::handle {{ background: #bfae99; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QLabel[role="heading"] {{ font-weight: bold; font-size: {12 * scale:.1f}pt; color: {UMBER.name()}; }}
    QLabel[role="hint"] {{ color: {UMBER_SOFT.name()}; }}
    QLabel[role="fault"] {{ color: {OXIDE.name()}; font-weight: bold; }}
    """
