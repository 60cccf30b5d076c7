"""The demo data, all of it made up: the Selkie Reach Oyster Co-op's harnesses and tractor list.

The barge is sized but for two mistakes: a masthead light short of voltage, a wash pump wire too hot. The shore leads
have two at their ends: a lug for a larger stud on the winch, two data cores crossed at the probe. The grading computer
has two along its way: a sleeve that is to go on over a plug too wide for it, a camera's leg that hangs loose.
"""

from __future__ import annotations

from functools import cache
from importlib import resources

from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import Design


def _text(name: str) -> str:
    return resources.files("umber_trunk").joinpath("data/demo", name).read_text("utf-8")


DEMOS = {
    "barge": ("sorting-barge", "the sorting barge: 50 wires, a fuse box, a shared negative trunk, sealed connectors"),
    "shore": (
        "shore-leads",
        "the trailer and shore leads: seven-way plug, extension lead, battery leads, screened data lead",
    ),
    "computer": (
        "grading-computer",
        "the grading computer: a supply of three rails, ribbons that are seen, splits, sleeves, a small board",
    ),
    "loops": (
        "brine-loops",
        "the brine loops: 4–20 mA instruments, a screened cable of eight pairs, terminal blocks, a bad core and its "
        "spare; one unit built and proven",
    ),
    "tractor": (
        "landing-tractor",
        "the landing tractor: winch and battery leads, a work-light bar; six units half built, with a die that drifts",
    ),
}
"""Name in the shell → name of its file, what it is."""


@cache
def demo(name: str) -> Design:
    """The demo harness of that name; InputError for one there is none of."""
    if name not in DEMOS:
        raise InputError.of("demo.no-demo-there", name=name, known=", ".join(DEMOS))
    return Design.model_validate_json(_text(f"{DEMOS[name][0]}.json"))


def barge() -> Design:
    """The sorting barge."""
    return demo("barge")


def shop_list() -> str:
    """A wire list as a shop keeps one: merged header, units in the header, a blank line, two faults."""
    return _text("landing-tractor-list.csv")
