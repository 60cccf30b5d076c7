"""Small files of what the program remembers about its user. One that is broken in any way stops nothing."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from umber_trunk.core.sentences import say
from umber_trunk.store.files import StoreError, clear_parts, put_whole, read_text

MOST_BYTES = 5_000_000


def read_state(path: Path) -> tuple[dict[str, Any], str]:
    """What is remembered, and what was wrong with the file, "" for nothing. A file that can't be read is as good as
    none."""
    try:
        clear_parts(path.parent)
        if not path.exists():
            return {}, ""
        found = json.loads(read_text(path, MOST_BYTES))
    except StoreError as why:
        return {}, str(why)
    except (OSError, ValueError, RecursionError):
        return {}, say("state.unread", path=path.name)
    return (found, "") if isinstance(found, dict) else ({}, say("state.nothing", path=path.name))


def set_aside(path: Path) -> bool:
    """Renames a broken file to .bad, so that it can be looked at; False where that can't be."""
    try:
        path.replace(path.with_suffix(".bad"))
    except (OSError, ValueError):
        return False
    return True


def write_state(path: Path, values: dict[str, Any]) -> bool:
    """Remembers these; False where the folder can't be written, which stops nothing."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        put_whole(path, json.dumps(values, ensure_ascii=True, indent=1).encode(), private=True)
    except (OSError, StoreError, ValueError):
        return False
    return True
