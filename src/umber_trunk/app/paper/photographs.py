"""Photographs as they are kept inside a harness file: drawn anew as a JPEG of bounded size, which leaves behind where
and with what they were taken."""

from __future__ import annotations

import base64
from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice, QSize, Qt
from PySide6.QtGui import QColor, QImage, QImageReader, QPainter

from umber_trunk.store.files import StoreError, read_whole
from umber_trunk.store.photographs import HEAD

MOST_BYTES = 60_000_000
MOST_PX = 1600
"""The longer side of what is kept unless more is asked for: a strand outside its barrel is seen well."""
WHOLE_PX = 8000
"""The longer side of what is kept whole: some 10 MB."""
MOST_SIDE = 30_000
QUALITY = 85


def _reader(path: Path) -> tuple[QImageReader, QBuffer, QSize]:
    data = QBuffer()
    data.setData(read_whole(path, MOST_BYTES))
    data.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(data)
    reader.setAutoTransform(True)
    size = reader.size()
    if not reader.canRead() or not size.isValid() or max(size.width(), size.height()) > MOST_SIDE:
        raise StoreError.of("window.no-picture-that-can-be-read", path=path.name)
    return reader, data, size


def size_of(path: Path) -> tuple[int, int]:
    """Width and height [px] of a picture's file. StoreError for what is none."""
    size = _reader(path)[2]
    return size.width(), size.height()


def photograph(path: Path, whole: bool = False) -> str:
    """A picture's file as the text that is kept, at most `MOST_PX` or, `whole`, `WHOLE_PX` long. StoreError for what is
    none, or too large to be one."""
    reader, _data, size = _reader(path)
    most = WHOLE_PX if whole else MOST_PX
    if max(size.width(), size.height()) > most:
        reader.setScaledSize(size.scaled(QSize(most, most), Qt.AspectRatioMode.KeepAspectRatio))
    seen = reader.read()
    if seen.isNull():
        raise StoreError.of("window.cant-be-read-as-picture", path=path.name, why=reader.errorString()[:80])
    plain = QImage(
        seen.size(), QImage.Format.Format_RGB32
    )  # a new one: nothing that was said beside the picture comes along
    plain.fill(QColor("white"))
    painter = QPainter(plain)
    painter.drawImage(0, 0, seen)
    painter.end()
    out = QBuffer()
    out.open(QIODevice.OpenModeFlag.WriteOnly)
    plain.save(out, "JPEG", QUALITY)  # type: ignore[call-overload] # PySide's stubs know only file names
    return HEAD + base64.b64encode(bytes(out.data().data())).decode()
