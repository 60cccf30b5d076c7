"""What has to be there before anything is drawn for paper: Qt, fonts, colours, also where the shell has no window."""

from __future__ import annotations

import os

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication

from umber_trunk.app import theme

_kept: list[QApplication] = []  # where the shell had none, for the life of the process


def able_to_draw() -> None:
    """Makes Qt ready to draw text where the shell had no window."""
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _kept.append(QApplication([]))
        theme.load_fonts()
        theme.apply_theme(_kept[0])
