"""Variants are what a harness made for them alone would be; devices are alike only where both were measured."""

from __future__ import annotations

import json
import random
from typing import Any

import pytest

from demos import worked_out
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.device import Device, DeviceConnector, DevicePin
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.option import Changed, Only, Option, Variant
from umber_trunk.core.harness.variants import put_option, put_variant, variant_of, with_options, without_option
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.results import Results
from umber_trunk.core.sample import generated
from umber_trunk.core.shop.devices import compared, copied_in, device_of_end, device_of_map, plugged


def alone(design: Design, gone: set[str]) -> Design:
    """The harness without some ends, written by another hand: plain data, whatever touches them left out."""
    plain: dict[str, Any] = design.model_dump(mode="json")
    plain["ends"] = [end for end in plain["ends"] if end["id"] not in gone]
    plain["loads"] = [load for load in plain["loads"] if not {load["plus"]["end"], load["minus"]["end"]} & gone]
    plain["wires"] = [wire for wire in plain["wires"] if not {wire["start"]["end"], wire["finish"]["end"]} & gone]
    loads = {load["id"] for load in plain["loads"]}
    for case in plain["cases"]:
        case["loads"] = None if case["loads"] is None else [one for one in case["loads"] if one in loads]
    plain["options"] = plain["variants"] = []
    return Design.model_validate(plain)


def said(results: Results) -> list[object]:
    """Sizes, figures, what to cut and what is wrong, of everything."""
    figures = [(key, row.size, row.amps, row.conductor_c, row.worst.used) for key, row in results.figures.wires.items()]
    rows = [(row.wire.id, row.size, row.cut_m, row.count) for row in results.once(cuts)]
    return [figures, rows, [(row.code, row.message) for row in results.findings]]


@pytest.mark.parametrize("seed", range(100))
@pytest.mark.share(10)
def test_a_variant_says_what_a_harness_made_for_it_alone_says(seed: int) -> None:
    """100 made-up harnesses, three options each: an end, two ends, and other air for a limb."""
    draw = random.Random(seed)
    design = generated(draw.randint(8, 24), seed=seed)
    # ends of loads: their boxes stay
    ends = draw.sample([load.plus.end for load in design.loads if load.plus.end == load.minus.end], 3)
    segment = draw.choice(design.segments)
    for option, mine in (("one", ends[:1]), ("two", ends[1:])):
        design = put_option(design, Option(id=option, only=tuple(Only(table="ends", id=end) for end in mine)))
    longer = segment.measure.model_copy(update={"length_m": segment.measure.length_m + 0.7})
    changed = Changed(table="segments", id=segment.id, field="measure", to=longer.model_dump_json())
    design = put_option(design, Option(id="long", changes=(changed,)))
    chosen = draw.sample(["one", "two", "long"], draw.randint(0, 3))
    design = put_variant(design, Variant(id="v", options=tuple(chosen)))
    made = variant_of(design, "v")
    by_hand = alone(
        design, {end for name, mine in (("one", ends[:1]), ("two", ends[1:])) if name not in chosen for end in mine}
    )
    if "long" in chosen:
        other = tuple(
            one.model_copy(update={"measure": longer}) if one.id == segment.id else one for one in by_hand.segments
        )
        by_hand = by_hand.model_copy(update={"segments": other})
    assert made == by_hand
    assert said(analyse(made)) == said(analyse(by_hand))


def test_options_that_can_not_be_are_refused_and_change_nothing() -> None:
    design = worked_out("barge").design
    for option, told in (
        (Option(id="x", only=(Only(table="ends", id="nowhere"),)), "doesn’t have"),
        (Option(id="x", changes=(Changed(table="wires", id="W08", field="id", to='"y"'),)), "could be another"),
        (Option(id="x", changes=(Changed(table="wires", id="W08", field="parallel", to="99"),)), "parallel"),
        (Option(id="x", changes=(Changed(table="wires", id="W08", field="parallel", to="{"),)), "parallel"),
    ):
        with pytest.raises(InputError, match=told):
            put_option(design, option)
    made = put_option(design, Option(id="wash", only=(Only(table="ends", id="wash"),)))
    assert with_options(made, ["wash"]) == design
    with pytest.raises(InputError, match="no variant or option “nothing”"):
        variant_of(made, "nothing")
    kept = put_variant(made, Variant(id="full", options=("wash",)))
    with pytest.raises(InputError, match="full has the option"):
        without_option(kept, "wash")
    assert without_option(without_option(kept, "full"), "wash") == design


def device(name: str, **pins: dict[str, Any]) -> Device:
    made = tuple(DevicePin(label=label.strip("p"), **values) for label, values in pins.items())
    return Device(id=name, name=name, connectors=(DeviceConnector(id="1", pins=made),))


KNOWN = {"pole": "+", "volts": 12.0, "measured": "voltmeter"}
MINUS = {"pole": "-", "measured": "voltmeter"}


@pytest.mark.parametrize(
    ("theirs", "alike", "what"),
    [
        ({"p1": KNOWN, "p2": MINUS}, True, ""),
        ({"p1": MINUS, "p2": KNOWN}, False, "plus on minus"),
        ({"p1": KNOWN | {"volts": 12.4}, "p2": MINUS}, True, ""),
        ({"p1": KNOWN | {"volts": 24.0}, "p2": MINUS}, False, "12 V on 24 V"),
        ({"p1": KNOWN | {"measured": ""}, "p2": MINUS}, None, "nobody measured it on the second"),
        ({"p1": KNOWN}, False, "only the first has this pin"),
        ({"p1": KNOWN, "p2": MINUS, "p3": {"pole": "none"}}, None, "nothing is there on the second"),
        ({"p1": KNOWN | {"most_a": 5.0}, "p2": MINUS}, True, ""),
    ],
)
def test_two_devices_pin_by_pin(theirs: dict[str, Any], alike: bool | None, what: str) -> None:
    """Who is hurt by a false “alike” plugs 24 V into 12: it is said of nothing that nobody measured."""
    found = compared(device("a", p1=KNOWN, p2=MINUS), device("b", **theirs))
    assert found.alike is alike
    told = {"": [], "plus on minus": [what, what]}.get(what, [what])
    assert [str(row.what)[: len(what)] for row in found.rows] == told
    assert len(found.same) == found.pins - len(told)
    renamed = device("b", **theirs).model_dump()
    renamed["connectors"][0]["id"] = "another"  # no name is shared: connectors are taken in turn
    again = compared(device("a", p1=KNOWN, p2=MINUS), Device.model_validate(renamed))
    assert (again.rows, again.same) == (found.rows, found.same)
    assert all("–" not in (row.mine, row.theirs) for row in again.same)
    assert ("alike" in str(found.words)) == (alike is True)
    assert compared(Device(id="e", name="e"), Device(id="f", name="f")).alike is None


def test_a_harness_is_held_against_a_device_before_it_is_plugged_in() -> None:
    results = worked_out("barge")
    own = device_of_end(results, "sorter", "own", "JO", "2026-12-01")
    assert own.unmeasured
    assert plugged(results, "sorter", own).fits is None  # nobody measured it: not yes
    plain = own.model_dump()
    for pin in plain["connectors"][0]["pins"]:
        pin["measured"] = "voltmeter"
    sure = Device.model_validate(plain)
    assert plugged(results, "sorter", sure).fits is not False
    turned = json.loads(json.dumps(plain))
    rows = turned["connectors"][0]["pins"]
    plus, minus = (next(pin for pin in rows if pin["pole"] == pole) for pole in "+-")
    plus.update(pole="-", volts=None, function="")
    minus.update(pole="+", volts=24.0, function="")
    wrong = plugged(results, "sorter", Device.model_validate(turned))
    assert wrong.fits is False
    assert {plus["label"], minus["label"]} <= {row.label for row in wrong.agreement.wrong}
    weak = json.loads(json.dumps(plain))
    weak["connectors"][0]["pins"][0]["most_a"] = 0.001
    assert plugged(results, "sorter", Device.model_validate(weak)).fits is False
    kept = copied_in(results.design, "sorter", sure)
    assert (kept.devices, next(end.device for end in kept.ends if end.id == "sorter")) == ((sure,), "own")
    with pytest.raises(InputError, match="no end"):
        plugged(results, "nowhere", sure)


def test_a_device_from_a_learnt_map() -> None:
    made = device_of_map({"nets": [["A:1", "B:2"], ["A:2"]], "alone": ["B:9"]}, "cable", "IN", "2026-12-01")
    assert [(one.id, [pin.label for pin in one.pins]) for one in made.connectors] == [
        ("A", ["1", "2"]),
        ("B", ["2", "9"]),
    ]
    assert made.unmeasured == ()
    for wrong in ({}, [], {"nets": [["x"]]}, {"nets": []}, None):
        with pytest.raises(InputError):
            device_of_map(wrong, "x")
