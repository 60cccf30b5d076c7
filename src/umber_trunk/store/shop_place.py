"""Where the shop's file of a harness is. Apart from the file itself, which takes long to load: every command asks this,
few find one."""

from __future__ import annotations

import os
from pathlib import Path

SHOP_NAME = "shop.umber"
ASKED = "UMBER_SHOP"
"""The environment may name the shop's file."""


def shop_beside(path: Path) -> Path | None:
    """The shop's file a harness is made in: the one that is set, or the one beside it; None where there is none."""
    said = os.environ.get(ASKED, "")
    if said:
        return Path(said)
    beside = path.absolute().parent / SHOP_NAME
    return beside if beside.is_file() else None
