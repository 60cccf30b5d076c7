"""Guards against bindings that drop references to None on Python without immortal objects."""

import sys

from PySide6.QtWidgets import QLabel


def test_void_calls_keep_none_alive(qtbot) -> None:
    label = QLabel()
    qtbot.addWidget(label)
    before = sys.getrefcount(None)
    for _ in range(500):
        label.setText("x")
    assert abs(sys.getrefcount(None) - before) < 100
