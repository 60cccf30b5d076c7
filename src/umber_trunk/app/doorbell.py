"""A second start on a file that is open brings its window up: a bell in a folder of the user's own, no socket."""

from __future__ import annotations

import os
import secrets
import stat
import time
from contextlib import suppress
from pathlib import Path

from platformdirs import user_cache_path
from PySide6.QtCore import QFileSystemWatcher, QObject, Signal

PATIENCE_S = 1.2


def _folder() -> Path | None:
    """The folder of bells, none where others could write in it."""
    folder = user_cache_path("umber-trunk") / "bells"
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        mode = os.lstat(folder)
    except OSError:
        return None
    ours = stat.S_ISDIR(mode.st_mode) and mode.st_uid == os.getuid() and not mode.st_mode & 0o077
    return folder if ours else None


def _key(path: Path) -> str:
    found = os.stat(path)
    return f"{found.st_dev:x}-{found.st_ino:x}."


class Doorbell(QObject):
    """Listens for a file's bell. Signals: rang()."""

    rang = Signal()

    def __init__(self, path: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._folder = _folder()
        try:
            self._mine = _key(path)
        except OSError:
            self._folder = None
        if self._folder is not None:
            self._watcher = QFileSystemWatcher([str(self._folder)], self)
            self._watcher.directoryChanged.connect(self._look)

    def _look(self) -> None:
        assert self._folder is not None
        for bell in self._folder.glob(f"{self._mine}*"):
            with suppress(OSError):
                bell.unlink()
                self.rang.emit()


def ring(path: Path, patience_s: float = PATIENCE_S) -> bool:
    """Rings a file's bell; whether its window answered."""
    folder = _folder()
    if folder is None:
        return False
    bell = folder / "none"
    try:
        bell = folder / f"{_key(path)}{secrets.token_hex(6)}"
        os.close(os.open(bell, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
        until = time.monotonic() + patience_s
        while time.monotonic() < until:
            if not bell.exists():
                return True
            time.sleep(0.02)
    except OSError:
        return False
    finally:
        with suppress(OSError):
            bell.unlink(missing_ok=True)
    return False
