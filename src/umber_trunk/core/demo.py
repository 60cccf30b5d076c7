"""The demo data, all of it made up: the Selkie Reach Oyster Co-op's sorting barge and tractor list.

The barge is sized but for two mistakes: a masthead light short of voltage, a wash pump wire too hot.
"""

from __future__ import annotations

from functools import cache
from importlib import resources

from umber_trunk.core.harness.model import Design


def _text(name: str) -> str:
    return resources.files("umber_trunk").joinpath("data/demo", name).read_text("utf-8")


@cache
def barge() -> Design:
    """The sorting barge: 50 wires, a fuse box, a shared negative trunk, three levels of branches."""
    return Design.model_validate_json(_text("sorting-barge.json"))


def shop_list() -> str:
    """A wire list as a shop keeps one: merged header, units in the header, a blank line, two faults."""
    return _text("landing-tractor-list.csv")
