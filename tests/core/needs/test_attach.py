"""After an import: loads and supplies join wires that are there; a stranger's list becomes a sized cut list."""

import numpy as np
import pytest

from conftest import design_of
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import shop_list
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.end import LinkKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.lengths.laying import lay, suggest
from umber_trunk.store.listing.merge import add_wires
from umber_trunk_helpers import list_of


def imported(text: str) -> Design:
    return add_wires(Design(), list_of(text, accept=True), skip_bad=True)


def laid(text: str) -> Design:
    design = imported(text)
    return lay(design, suggest(design, [wire.id for wire in design.wires]))


LINES = (
    "supply 12 V 4 mohm at Battery",
    "light bar 180 W at work light bar",
    "join winch switch: 1 2",
    "contactor coil 0.9 A at winch contactor",
    "cluster 1.5 A at gauge cluster min 10.5 V",
    "trailer tail 4 A at trailer socket pins 4 3",
    "trailer brake 4 A at trailer socket pins 5 3",
)


def test_from_a_shop_list_to_a_sized_cuts() -> None:
    listed = laid(shop_list())
    design = design_of(*LINES, start=listed)
    assert len(design.wires) == len(listed.wires)
    found = analyse(edits.set_size(design, [wire.id for wire in design.wires], None))
    assert all(np.isfinite(entry.volts) and entry.ok for entry in found.figures.loads.values())
    assert not [f for f in found.findings if f.severity == 0]
    rows = found.once(cuts)
    assert len(rows) == 12
    assert all(row.cut_m > 0 and not row.provisional for row in rows)
    feed = found.figures.wires["T11"]
    assert feed.amps > 20


@pytest.mark.parametrize(
    ("line", "plus", "minus"),
    [
        ("light bar 9 A at work light bar", "+", "-"),
        ("coil 1 A at winch contactor", "86", "85"),
        ("cluster 1 A at gauge cluster", "+", "-"),
        ("tail 4 A at trailer socket pins 4 3", "4", "3"),
        ("tail 4 A at trailer socket pins 4/3", "4", "3"),
    ],
)
def test_poles_are_told_apart(line: str, plus: str, minus: str) -> None:
    design = design_of("supply 12 V at battery", line, start=laid(shop_list()))
    assert (design.loads[0].plus.cavity, design.loads[0].minus.cavity) == (plus, minus)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("fan 2 A at box", "say which are plus and minus"),
        ("fan 2 A at box pins a z", "has no pin “z”"),
        ("join box: a z", "has no “z”"),
        ("join nowhere: a b", "no end called"),
        ("join box: a", "two or more"),
    ],
)
def test_what_cannot_be_told_is_asked(line: str, says: str) -> None:
    design = design_of(
        "supply 12 V at battery", start=imported("wire,from,to,length\n1,x:1,box:a,1 m\n2,y:1,box:b,1 m\n")
    )
    with pytest.raises(EditError, match=says):
        design_of(line, start=design)


def test_a_listed_fuse_box_gets_fuses_with_open_ratings() -> None:
    design = imported(shop_list())
    box = index_of(design).ends["fuse-box"]
    assert {link.b for link in box.links} == {"F1", "F2", "F3", "F4", "F5"}
    assert all(link.kind is LinkKind.FUSE and link.a == "in" and link.rating_a is None for link in box.links)
    fed = design_of(*LINES, start=laid(shop_list()))
    findings = analyse(fed).findings
    assert sum(f.code == "fuse.no_rating" for f in findings) == 5
    assert {f.subject for f in findings if f.code == "wire.unprotected"} == {"T11"}
    rated = edits.set_fuse(fed, "fuse-box", "F1", 25)
    assert sum(f.code == "fuse.no_rating" for f in analyse(rated).findings) == 4


def test_a_supply_joins_the_battery_of_the_list() -> None:
    design = design_of("supply 12 V at Battery", start=imported(shop_list()))
    assert str(design.supplies[0].plus) == "battery:+"
    assert str(design.supplies[0].minus) == "battery:-"
    assert len(index_of(design).ends["battery"].cavities) == 2
