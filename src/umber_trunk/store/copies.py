"""Dated copies of harness files, kept by the program itself: the last of each day for a month.

They lie in a folder of the program, one folder a harness, so that a file that is overwritten, lost or stolen is not
the end. A copy is a whole harness file with its history; restoring makes a new file and touches no other.
"""

from __future__ import annotations

import hashlib
import re
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from platformdirs import user_data_path

from umber_trunk.store.files import HARNESS_ENDING, StoreError, put_whole

KEEP_DAYS = 31
_DAY = re.compile(r"\d{4}-\d\d-\d\d")


@dataclass(frozen=True)
class Copy:
    """One copy: where it lies, the name of its harness file, the day, its size in bytes."""

    path: Path
    name: str
    day: date
    size: int


def copies_folder() -> Path:
    """Where copies are kept."""
    return user_data_path("umber-trunk") / "copies"


def folder_of(path: Path, project: str) -> Path:
    """The folder of one harness: files of one name in two places have one each."""
    mark = hashlib.blake2b(f"{project} {path.absolute()}".encode("utf-8", "surrogateescape"), digest_size=5).hexdigest()
    stem = re.sub(r"[^\w .-]", "_", path.stem)[:60].strip(". ") or "harness"
    return copies_folder() / f"{stem} {mark}"


def keep(path: Path, project: str, data: bytes, today: date | None = None) -> bool:
    """Keeps a harness file's bytes as the copy of today and lets those of more than a month before go. False where the
    folder can't be written: the harness file itself is what counts."""
    day, folder = today or date.today(), folder_of(path, project)
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        put_whole(folder / f"{day.isoformat()}{HARNESS_ENDING}", data)
    except (OSError, StoreError):
        return False
    for copy in copies_in(folder):
        if (day - copy.day).days >= KEEP_DAYS:
            with suppress(OSError):
                copy.path.unlink()
    return True


def copies_in(folder: Path) -> list[Copy]:
    """The copies of one harness, newest first."""
    found = []
    with suppress(OSError):
        for path in folder.iterdir():
            if path.suffix == HARNESS_ENDING and _DAY.fullmatch(path.stem):
                with suppress(OSError, ValueError):
                    found.append(
                        Copy(path, folder.name.rpartition(" ")[0], date.fromisoformat(path.stem), path.stat().st_size)
                    )
    return sorted(found, key=lambda copy: copy.day, reverse=True)


def all_copies() -> list[Copy]:
    """Every copy there is, harness by harness, newest first."""
    folders: list[Path] = []
    with suppress(OSError):
        folders = sorted(path for path in copies_folder().iterdir() if path.is_dir())
    return [copy for folder in folders for copy in copies_in(folder)]
