"""Repair: looked over, matched, compared, counted down; and leads that suit a device or don't."""

from __future__ import annotations

import pytest

from demos import worked_out
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import generic
from umber_trunk.core.demo import demo
from umber_trunk.core.ends.repair import (
    LOOKS,
    Lead,
    inspected,
    matches_of,
    matching,
    old_and_new,
    read_lead,
    record,
    set_found,
    set_state,
    suits,
    tries_left,
    verdict,
)
from umber_trunk.core.ends.strip import strips
from umber_trunk.core.errors import EditError, InputError


def test_looked_over() -> None:
    design = demo("shore")
    assert verdict(inspected(design, "tractor")).startswith("Still to look at: casing")
    for look in LOOKS:
        design = set_state(design, "tractor", look.field, "ok")
    assert verdict(inspected(design, "tractor")).startswith("Accept")
    design = set_state(design, "tractor", "pins", "replace")
    assert verdict(inspected(design, "tractor")) == f"Replace: Pins and sockets: {LOOKS[2].means}"
    assert "Still" in verdict(inspected(set_state(design, "tractor", "pins", ""), "tractor"))
    with pytest.raises(EditError):
        set_state(design, "tractor", "pins", "perhaps")


def test_what_matches() -> None:
    assert [one.id for one in matches_of(demo("shore"), "tractor")] == ["dulse-7-plug"]
    seen = record(demo("shore"), "tractor", form="receptacle")
    assert [one.id for one in matches_of(seen, "tractor")] == ["dulse-7-receptacle"]
    twos = {one.id for one in matching(generic(), 2, "plug", "socket", True)}
    assert twos == {"cockle-m2-plug", "cockle-l2-plug"}


def test_old_map_beside_the_new() -> None:
    design = set_found(set_found(demo("shore"), "tractor", "1", "left turn"), "tractor", "5", "left tail")
    rows = {row.label: row for row in old_and_new(design, "tractor")}
    assert not rows["1"].what
    assert "crossed" in str(rows["5"].what)
    assert "7 there" in str(rows["5"].what)
    assert not inspected(set_found(design, "tractor", "5", ""), "tractor").found[1:]


def test_tries_are_counted_by_the_hungriest_wire() -> None:
    results = worked_out("shore")
    eaten = max(one.eaten_mm for wire in ("B1", "B2") for one in strips(results, wire) if one.end == "winch")
    assert tries_left(results, "winch", 3 * eaten / 1e3) == 3
    assert tries_left(results, "winch", (3 * eaten - 0.01) / 1e3) == 2
    assert tries_left(analyse(demo("barge").model_copy(update={"ends": ()})), "winch", 1.0) is None


@pytest.mark.parametrize(("supply", "device", "ok", "word"), [
    ("12 V 2 A centre +", "12 V 1.5 A centre +", True, "Yes"),
    ("12 V 2 A centre +", "12 V 2 A centre +", True, "Yes"),
    ("12 V 2 A centre +", "12 V 2.001 A centre +", False, "hot"),
    ("12 V 2 A centre -", "12 V 1.5 A centre +", False, "polarity"),
    ("12 V 2 A stripe +", "12 V 1.5 A centre +", False, "measured"),
    ("12 V 2 A centre +", "12 V 1.5 A", False, "measured"),
    ("12.6 V 2 A centre +", "12 V 1.5 A centre +", True, "Yes"),
    ("12.61 V 2 A centre +", "12 V 1.5 A centre +", False, "too many volts"),
    ("11.4 V 2 A centre +", "12 V 1.5 A centre +", True, "Yes"),
    ("11.39 V 2 A centre +", "12 V 1.5 A centre +", False, "too few volts"),
    ("12 V ac 2 A", "12 V 500 mA centre +", False, "gives AC, the device wants DC"),
    ("12 V 2 A centre +", "12 V ac 500 mA", False, "gives DC, the device wants AC"),
    ("12 V ac 2 A", "12 V ac 500 mA", True, "Yes"),
])  # fmt: skip
def test_suits(supply: str, device: str, ok: bool, word: str) -> None:
    found, told = suits(read_lead(supply), read_lead(device))
    assert found is ok
    assert word in told


def test_leads_are_read_whole_or_refused() -> None:
    assert read_lead("19V 3.42A centre + stripe -") == Lead(19.0, 3.42, "+", "−")
    for text in (
        "1_2 V 2 A centre +",
        "1.2.3 V 2 A centre +",
        "12 V",
        "2 A",
        "12 V 2 A centre",
        "12 V 2 A centre up",
        "12 V two A",
        "12 W 2 A",
        "0 V 2 A",
        "12 V 2 A 7",
        "1e9 V 1 A",
        "",
    ):
        with pytest.raises(InputError):
            read_lead(text)
