"""A bug's report for a developer, where only its user can read it, under a name nobody can guess."""

from __future__ import annotations

import os
import platform
import tempfile
import traceback
from datetime import datetime
from pathlib import Path

from platformdirs import user_state_path

from umber_trunk import __version__
from umber_trunk.store.files import StoreError, reason

ENDING = ".umber-report.txt"


def write_report(error: BaseException, more: str = "") -> Path:
    """Writes the report and says where; StoreError if it can be written nowhere."""
    text = "\n".join([
        f"Umber Trunk {__version__}, Python {platform.python_version()}, {platform.platform()}{more}",
        datetime.now().isoformat(timespec="seconds"), "", "".join(traceback.format_exception(error)),
    ])  # fmt: skip
    why: OSError = OSError("no folder")
    for folder in (user_state_path("umber-trunk") / "reports", Path(tempfile.gettempdir())):
        try:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            handle, name = tempfile.mkstemp(ENDING, f"umber-{datetime.now():%Y%m%d-%H%M%S}-", folder)
            with os.fdopen(handle, "wb") as file:
                file.write(text.encode("utf-8", "backslashreplace"))
        except OSError as trouble:
            why = trouble
        else:
            return Path(name)
    raise StoreError.of("store.report-could-not-be-written", why=reason(why))
