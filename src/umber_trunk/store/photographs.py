"""Photographs that travel inside a harness file, by their digest, and out of it again."""

from __future__ import annotations

import base64
import re
from pathlib import Path

from umber_trunk.core.make.events import Event, Note
from umber_trunk.store.files import StoreError, damaged, write_whole
from umber_trunk.store.floor import Floor

HEAD = "data:image/jpeg;base64,"


def has_photograph(entry: Event) -> bool:
    """Whether an entry of the log is a photograph that was kept with it."""
    return isinstance(entry.act, Note) and bool(entry.act.picture)


def photograph_of(floor: Floor, entry: Event) -> bytes:
    """The JPEG kept with an entry that has one. StoreError where it isn't what was kept."""
    assert isinstance(entry.act, Note)
    text = floor.input(entry.act.picture)
    if not text.startswith(HEAD):
        raise damaged(floor.path.name, "photograph", entry=entry.n)
    return base64.b64decode(text[len(HEAD) :])


def photographs(floor: Floor) -> list[tuple[str, bytes]]:
    """(file name, JPEG) of every photograph in the log, named by its entry. StoreError where one isn't what was
    kept."""
    found = []
    for one in filter(has_photograph, floor.events()):
        assert isinstance(one.act, Note)
        stem = re.sub(r"[^\w-]", "_", Path(one.act.photo).stem)[:40] or "photograph"
        found.append((f"{one.n:05}-unit{one.unit}-{stem}.jpg", photograph_of(floor, one)))
    return found


def write_photographs(floor: Floor, folder: Path) -> int:
    """Writes each into a folder; how many. StoreError where there are none or the folder isn't there; nothing there is
    replaced."""
    found = photographs(floor)
    if not found:
        raise StoreError.of("store.no-photograph-in-log", path=floor.path.name)
    if not folder.is_dir():
        raise StoreError.of("store.no-folder", folder=folder)
    for name, data in found:
        write_whole(folder / name, data, fresh=True)
    return len(found)
