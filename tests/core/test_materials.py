"""Where a metal, make or jacket is a bad idea, the program says so and why."""

import pytest

from conftest import design_of
from umber_trunk.core.analysis import analyse
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import Design


def in_zone(traits: str, **wire: object) -> Design:
    design = design_of("supply 24 V at battery", f"pump 18 A at bow in place {traits} run 3 m")
    first = design.wires[0]
    return edits.put(design, "wires", edits.change(first, **{"size": "6 mm2", **wire}))


@pytest.mark.parametrize(
    ("traits", "wire", "says"),
    [
        ("shaking", {"make": "hookup"}, "fatigue"),
        ("flexing", {"make": "hookup"}, "fatigue"),
        ("shaking", {"metal": "aluminium", "size": "16 mm2"}, "fatigue"),
        ("hot", {"jacket": "pvc"}, "melts"),
        ("sunny", {"jacket": "pvc70"}, "sun"),
        ("oily", {"jacket": "rubber"}, "oil"),
        ("30C", {"metal": "cca15", "size": "4 mm2"}, "creeps"),
    ],
)
def test_bad_ideas(traits: str, wire: dict[str, object], says: str) -> None:
    messages = [
        f.message for f in analyse(in_zone(traits, **wire)).findings if f.code == "wire.material" and f.subject == "W1"
    ]
    assert any(says in message for message in messages)


@pytest.mark.parametrize(
    ("traits", "wire"),
    [
        ("shaking", {"make": "class5"}),
        ("hot", {"jacket": "silicone"}),
        ("sunny", {"jacket": "xlpe"}),
        ("oily", {"jacket": "fluoro"}),
        ("30C", {"metal": "cca15", "size": "16 mm2"}),
    ],
)
def test_good_ideas_are_left_alone(traits: str, wire: dict[str, object]) -> None:
    assert not [f for f in analyse(in_zone(traits, **wire)).findings if f.code == "wire.material" and f.subject == "W1"]


def test_hot_zones_take_headroom_and_metals_differ() -> None:
    cool, hot = (analyse(in_zone(t)).figures.wires["W1"] for t in ("30C", "80C"))
    assert hot.conductor_c - cool.conductor_c > 40  # a hotter wire gives off heat more easily
    copper, clad = (analyse(in_zone("30C", metal=m)).figures.wires["W1"] for m in ("copper", "cca10"))
    assert clad.drop_v / copper.drop_v == pytest.approx(2.743 / 1.7241, rel=0.03)
