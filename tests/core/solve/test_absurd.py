"""Whatever a design says, figures come back, findings carry a cure, and nothing raises."""

from __future__ import annotations

import random
import warnings
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import design_of
from long_runs import LONG
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import barge
from umber_trunk.core.explain import about_fuses as fusereasons
from umber_trunk.core.explain import about_wires as reasons
from umber_trunk.core.explain.closeup import closeup
from umber_trunk.core.fuses.chain import Chains
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import Case, Design, LoadKind, Pin, Supply
from umber_trunk.core.harness.way import Measure
from umber_trunk.core.physics.sections import forget_sections
from umber_trunk.core.results import Results
from umber_trunk.core.sizes.metre import metre_of
from umber_trunk.core.sizes.worth import kept, moves

KNOBS: dict[str, dict[str, list[Any]]] = {
    "wires": {"size": [None, "0.35 mm2", "240 mm2", "AWG 40", "nonsense"], "parallel": [1, 12], "metal": ["aluminium", "unobtainium"], "jacket": [None, "fluoro", "cheese"]},
    "loads": {"value": [1e-9, 1e3, 1e7], "kind": list(LoadKind), "surge_a": [None, 1e-3, 1e6], "surge_s": [None, 1e-6, 1e5], "on_s": [None, 1e-6, 1e6], "period_s": [None, 1e-6, 1e6], "min_volts": [None, 1e-3, 500.0]},
    "segments": {"measure": [Measure(length_m=0), Measure(length_m=1e4)], "sleeve_mm": [0.0, 1000.0], "zone": [None, "ghost"]},
    "zones": {"ambient_c": [-60.0, 105.0, 900.0], "air_m_s": [1e-9, 50.0]},
    "supplies": {"volts": [0.1, 1500.0], "source_ohm": [0.0, 1e-9, 1e6]},
}  # fmt: skip


def broken(base: Design, seed: int) -> Design:
    """The demo with up to five things wrong in it."""
    draw, design = random.Random(seed), base
    pins = [Pin(end=end.id, cavity=cavity.id) for end in base.ends for cavity in end.cavities] + [
        Pin(end="ghost", cavity="x")
    ]
    for _ in range(draw.randint(1, 5)):
        table: Any = draw.choice([*KNOBS, "ends", "cut", "source", "case", "pin"])
        if table in KNOBS and getattr(design, table):
            row, field = draw.choice(getattr(design, table)), draw.choice(sorted(KNOBS[table]))
            design = edits.put(design, table, row.model_copy(update={field: draw.choice(KNOBS[table][field])}))
        elif table == "pin" and design.wires:
            wire = draw.choice(design.wires)
            design = edits.put(design, "wires", wire.model_copy(update={"start": draw.choice(pins)}))
        elif table in ("ends", "cut"):
            kind: Any = "ends" if table == "ends" else draw.choice(["wires", "segments", "points", "supplies"])
            rows = getattr(design, kind)
            design = edits.drop(design, kind, [draw.choice(rows).id]) if rows else design
        elif table == "source":
            volts, plus, minus = draw.choice([12.0, 48.0]), draw.choice(pins), draw.choice(pins)
            second = Supply(id="second", name="second", volts=volts, source_ohm=0, plus=plus, minus=minus)
            design = edits.put(design, "supplies", second)
        else:
            design = design.model_copy(update={"cases": (Case(id="c", name="c", loads=draw.choice([(), ("ghost",)])),)})
    return design


def asked_everything(analysis: Results) -> None:
    """Every picture, reason and proposal the desks ask for."""
    design, found = analysis.design, analysis.figures
    for wire_id, row in list(found.wires.items())[:8]:
        closeup(design, found, wire_id)
        assert reasons.why_cut(analysis, wire_id).title
        for reason in (
            reasons.why_heat,
            reasons.why_size,
            reasons.why_wire_drop,
            fusereasons.why_fuse,
            fusereasons.why_start,
        ):
            assert reason(design, found, row).title
    chains = Chains(found)
    for load_id, entry in list(found.loads.items())[:6]:
        metre_of(found, load_id)
        if np.isfinite(entry.volts):
            reasons.why_load(design, found, entry)
            chains.parts(load_id)
    place_fuses(design, found)
    for move in moves(design, found)[:1]:
        kept(design, found, analysis.sizes, move)


@pytest.mark.parametrize("seed", range(16))
@pytest.mark.share(4)
def test_nothing_a_design_says_raises(demo: Design, seed: int) -> None:
    design = broken(demo, seed)
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        analysis = analyse(design)
        asked_everything(analysis)
    for finding in analysis.findings:
        assert finding.message.endswith(".")
        assert finding.cure.endswith(".")
    for row in analysis.figures.wires.values():
        assert np.isfinite([row.amps, row.conductor_c, row.drop_v]).all()
        assert not any(np.isnan(use.used) for use in row.uses)


@settings(max_examples=12)
@given(st.sampled_from(["0.75 mm2", "4 mm2", "35 mm2"]), st.integers(0, 49), st.integers(0, 49))
@pytest.mark.long
def test_figures_are_the_same_wherever_the_passes_start(size: str, first: int, second: int) -> None:
    demo = barge()
    sized = edits.set_size(demo, [w.id for w in demo.wires if w.size is None], "2.5 mm2")
    before = analyse(edits.set_size(sized, [demo.wires[first].id], size))
    changed = edits.set_size(sized, [demo.wires[second].id], size)
    cold, warm = analyse(changed), analyse(changed, None, before)
    for wire_id, row in cold.figures.wires.items():
        assert warm.figures.wires[wire_id].conductor_c == pytest.approx(row.conductor_c, abs=0.1)
    for load_id, entry in cold.figures.loads.items():
        assert warm.figures.loads[load_id].volts == pytest.approx(entry.volts, abs=2e-3, nan_ok=True)


def test_the_order_of_the_list_changes_nothing(demo: Design) -> None:
    turned = demo.model_copy(
        update={"wires": demo.wires[::-1], "loads": demo.loads[::-1], "segments": demo.segments[::-1]}
    )
    one, other = analyse(demo).figures, analyse(turned).figures
    volts = {load_id: entry.volts for load_id, entry in one.loads.items()}
    assert {load_id: entry.volts for load_id, entry in other.loads.items()} == pytest.approx(volts, abs=1e-3)
    hottest = {wire_id: row.conductor_c for wire_id, row in one.wires.items()}
    assert {wire_id: row.conductor_c for wire_id, row in other.wires.items()} == pytest.approx(hottest, abs=0.1)


@pytest.mark.parametrize(("line", "codes"), [
    ("pump 9000 A at bow run 50 m", {"load.no_solution", "wire.hot"}), ("pump 3 A at bow run 0 m", {"wire.no_length"}),
])  # fmt: skip
def test_absurd_loads_are_named(line: str, codes: set[str]) -> None:
    found = {f.code for f in analyse(design_of("supply 24 V 2 ohm at battery", line)).findings if f.severity == 0}
    assert found >= codes
    assert "load.reversed" not in found  # it drags its feed below zero, but its poles are where they belong


def test_swapped_poles_are_told_from_an_overload() -> None:
    design = design_of("supply 24 V 5 mohm at battery", "pump 3 A at bow run 4 m")
    pump = design.loads[0]
    turned = edits.put(design, "loads", edits.change(pump, plus=pump.minus, minus=pump.plus))
    assert "load.reversed" in {f.code for f in analyse(turned).findings}


def test_supplies_joined_wrongly_are_named() -> None:
    design = design_of("supply 24 V at battery", "pump 3 A at bow run 4 m")
    second = edits.change(design.supplies[0], id="second", name="second battery", volts=12.0)
    codes = {f.code for f in analyse(edits.put(design, "supplies", second)).findings}
    assert "supply.unlike" in codes
    shorted = edits.change(design.supplies[0], minus=design.supplies[0].plus)
    analysis = analyse(edits.put(design, "supplies", shorted))
    assert "supply.shorted" in {f.code for f in analysis.findings}
    twin = edits.change(second, volts=24.0)
    assert "supply.unlike" not in {f.code for f in analyse(edits.put(design, "supplies", twin)).findings}


def test_many_threads_may_solve_at_once(demo: Design) -> None:
    """The window works out figures, steps and worth beside one another, on one store of known sections."""
    sizes = ["1 mm2", "6 mm2"]
    designs = [
        edits.set_size(demo, [w.id for w in demo.wires[n::3]], size) for n in range(3 if LONG else 2) for size in sizes
    ]
    alone = [analyse(design).figures.wires["W01"].conductor_c for design in designs]

    def solved(number: int) -> float:
        forget_sections()
        return analyse(designs[number % len(designs)]).figures.wires["W01"].conductor_c

    with ThreadPoolExecutor(4) as pool:
        together = list(pool.map(solved, range(2 * len(designs))))
    assert together == pytest.approx(alone * 2, abs=1e-6)


def test_a_converter_that_feeds_itself_gives_nothing_and_is_named() -> None:
    design = design_of(
        "supply 24 V at battery",
        "converter 24 to 12 V 90% at panel from battery run 2 m",
        "disk 12 V 2 A at desk from panel run 1 m",
    )
    one = design.converters[0]
    assert not [f for f in analyse(design).findings if f.code.startswith("converter.")]
    itself = edits.put(design, "converters", edits.change(one, plus=one.out_plus))
    found = analyse(itself)
    assert [f.subject for f in found.findings if f.code == "converter.loop"] == [one.id]
    assert not any(entry.ok for entry in found.figures.loads.values())
    other = edits.change(one, id="back", plus=one.out_plus, minus=one.out_minus, out_plus=one.plus, out_minus=one.minus)
    alone = edits.put(design, "converters", other).model_copy(update={"supplies": ()})
    assert len([f for f in analyse(alone).findings if f.code == "converter.loop"]) == 2
    held = edits.put(design, "converters", other)
    assert not [f for f in analyse(held).findings if f.code == "converter.loop"]
    beside = edits.put(design, "converters", edits.change(one, out_plus=one.plus, out_minus=one.minus))
    assert [f.subject for f in analyse(beside).findings if f.code == "converter.loop"] == [one.id]
    lost = edits.put(design, "converters", edits.change(one, plus=Pin(end="nowhere", cavity="1")))
    assert [f for f in analyse(lost).findings if f.code == "converter.open"]


def test_a_resistance_at_the_end_of_a_long_way_is_a_divider() -> None:
    """Ohm's law by hand: 12 V over source, two wires and heater in a row; the way has more ohms than the heater."""
    design = design_of("supply 12 V 10 mohm at battery", "heater 4 ohm at stern from battery run 300 m")
    for wire in design.wires:
        design = edits.set_size(design, [wire.id], "0.5", True)
    (case,) = analyse(design).figures.solution.cases
    way = float(case.wire_ohm.sum())
    assert way > 10
    assert case.settled
    assert case.load_v[0] == pytest.approx(12 * 4 / (4 + way + 0.01), rel=1e-4)


def test_a_start_that_leaves_no_volts_is_never_fine() -> None:
    design = design_of("supply 12 V at battery", "winch 1 A surge 900 A/1s at bow from battery run 20 m")
    for wire in design.wires:
        design = edits.set_size(design, [wire.id], "1", True)
    found = analyse(design)
    (entry,) = found.figures.loads.values()
    assert entry.surge_v is not None
    assert entry.surge_v <= 0
    assert not entry.ok
    assert any(f.code == "load.dip" and "nothing starts on that" in f.message for f in found.findings)


def test_a_load_below_zero_volts_is_never_fine() -> None:
    """Plus and minus of the supply are one bar: what its source loses inside explains all that is missing."""
    design = design_of("supply 12 V at battery", "pump 5 A at bow from battery run 1 m")
    battery = next(end for end in design.ends if end.id == design.supplies[0].plus.end)
    joined = edits.put(design, "ends", edits.change(battery, bridged=(tuple(c.id for c in battery.cavities),)))
    (entry,) = analyse(joined).figures.loads.values()
    assert entry.volts < 0
    assert not entry.ok


def test_nothing_is_fine_in_a_case_without_a_steady_answer() -> None:
    found = analyse(design_of("supply 24 V at battery", "pump 2 A at bow from battery run 1 m")).figures
    (entry,) = found.loads.values()
    assert entry.ok
    assert not entry._replace(settled=False).ok
