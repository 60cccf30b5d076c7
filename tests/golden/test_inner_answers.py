"""What stands behind the answers, kept as files too: layouts, ladders, closeups, duties, laying, tables of the
physics."""

from __future__ import annotations

from dataclasses import is_dataclass
from fractions import Fraction
from typing import Any

import numpy as np
import pytest

from conftest import design_of
from demos import worked_out
from golden.test_answers import designs, held
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import barge
from umber_trunk.core.errors import InputError
from umber_trunk.core.explain.about_fuses import why_link
from umber_trunk.core.explain.about_run import why_run
from umber_trunk.core.explain.about_wires import why_rating
from umber_trunk.core.explain.closeup import closeup, section_at
from umber_trunk.core.fuses.chain import chains
from umber_trunk.core.fuses.fit import fit_fuses, link_duties
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness.edits import change, put, set_project, set_size
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.paper_units import inches_text
from umber_trunk.core.kit.tables import cut_rows
from umber_trunk.core.onerun.run import size_run
from umber_trunk.core.onerun.said import USUAL, run_said
from umber_trunk.core.papers.cut_paper import cut_sheet
from umber_trunk.core.physics.protection import Protected
from umber_trunk.core.picture.layout import Picture
from umber_trunk.core.picture.notice import interest, notices, uses
from umber_trunk.core.sample import generated
from umber_trunk.core.sentences import Message
from umber_trunk.core.sizes.candidates import ladder
from umber_trunk.core.sizes.metre import metre_of
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.sizes.program import Weights
from umber_trunk.core.sizes.worth import kept, moves


def plain(value: Any) -> Any:
    """Values as JSON has them, figures to seven digits."""
    if isinstance(value, Protected):
        return plain(value._asdict())
    if isinstance(value, Message):
        return str(value)
    if is_dataclass(value) and not isinstance(value, type):
        return {name: plain(getattr(value, name)) for name in value.__dataclass_fields__}
    if isinstance(value, np.ndarray):
        return plain(value.tolist())
    if isinstance(value, dict):
        return {str(key): plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [plain(one) for one in value]
    if isinstance(value, float | np.floating):
        return float(f"{value:.7g}") if np.isfinite(value) else str(float(value))
    return value if isinstance(value, int | str | bool | None) else str(value)


def yard() -> Design:
    """AC with a power factor, a converter with loads behind it, the frame as return, cases, zones of every kind."""
    design = design_of(
        "supply 24 V 6 mohm at battery",
        "fuse box at bulkhead, 6 ways, from battery run 2 m",
        "frame return 5 mohm",
        "converter 24 to 12 V 90% at house from bulkhead run 3 m",
        "radio 12 V 5 A at shelf from house run 2 m",
        "disk 12 V 1.5 A surge 4A/1s at bay from house run 1 m",
        "pump 9 A surge 30A/0.4s at well in well 55C wet run 4 m from bulkhead",
        "crane 1.5 kW duty 20s/90s at mast in mast 35C sunny run 11 m min 20 V",
        "horn 6 A at bow run 7 m off mast frame return",
        "case at night: radio, disk, pump",
        "case hauling: all but radio",
    )
    design = put(design, "zones", change(design.zones[0], altitude_m=1800.0, enclosed=True))
    design = put(design, "segments", change(design.segments[-1], sleeve_mm=1.2, coiled_layers=2))
    return put(design, "wires", change(design.wires[0], parallel=2))


def shore() -> Design:
    return design_of("supply 230 V AC at post", "heater 2 kW at cabin run 14 m", "motor 900 W pf 0.75 at slip run 22 m")


@pytest.fixture(scope="module")
def answers() -> dict[str, Any]:
    return {
        "barge": worked_out("barge"),
        "yard": analyse(yard()),
        "shore": analyse(shore()),
        "shed": analyse(designs()["shed"]),
    }


@pytest.mark.parametrize("name", ["yard", "shore"])
def test_solutions(answers, name: str) -> None:
    found = answers[name].figures
    wires = [
        [
            w.wire.id,
            w.size,
            w.amps,
            w.conductor_c,
            w.drop_v,
            w.length_m,
            [[str(u.limit), u.used, u.case, u.subject] for u in w.uses],
        ]
        for w in found.wires.values()
    ]
    loads = {
        case: [[e.load.id, e.volts, e.amps, e.allowed_v, e.rule, e.surge_v, e.sag_v, e.ok] for e in table.values()]
        for case, table in found.by_case.items()
    }
    cases = [
        [c.case.id, c.settled, c.surge_a, c.surge_c, c.link_a, c.heat_a, c.ambient_c] for c in found.solution.cases
    ]
    findings = [[f.code, f.subject, f.message] for f in answers[name].findings]
    held(f"{name}.solution.json", plain({"wires": wires, "loads": loads, "cases": cases, "findings": findings}))


@pytest.mark.parametrize("name", ["barge", "yard", "shore"])
def test_fuses_and_chains(answers, name: str) -> None:
    results = answers[name]
    found, known = results.figures, results.once(chains)
    placing = place_fuses(results.design, found)
    held(
        f"{name}.fuses.json",
        plain(
            {
                "duties": {
                    " ".join(key): [
                        one.amps,
                        one.ambient_c,
                        [list(vars(s).values()) for s in one.starts],
                        one.fitting(),
                    ]
                    for key, one in results.once(link_duties).items()
                },
                "guards": [None if g is None else list(g) for g in found.guards],
                "bare": found.bare,
                "shielded": {row: list(one) for row, one in found.protected.items()},
                "parts": {
                    load: [[p.name, p.rating_a, p.amps] for p in known.parts(load)]
                    for load, e in found.loads.items()
                    if np.isfinite(e.volts)
                },
                "faults": {load: known.fault_a(load) for load, e in found.loads.items() if np.isfinite(e.volts)},
                "placed": list(placing.changes),
                "fitted": [
                    [link.id, link.rating_a]
                    for end in fit_fuses(placing.design, found.solution).ends
                    for link in end.links
                ],
            }
        ),
    )


def test_closeups(answers) -> None:
    results = answers["barge"]
    found = results.figures
    held(
        "barge.closeup.json",
        plain(
            {
                "looks": {wire: closeup(results.design, found, wire) for wire in ("W01", "W08", "W17", "W30")},
                "hottest": found.solution.hottest_c,
                "section": section_at(found, "S5"),
            }
        ),
    )


def test_ladders_and_worth(answers) -> None:
    told: dict[str, Any] = {}
    for name, wires in (("barge", ("W01", "W08", "W16")), ("shed", ("W1", "W5")), ("yard", ("W1", "W2"))):
        results = answers[name]
        for wire in wires:
            found = ladder(results.design, results.sizes, wire)
            told[f"{name} {wire}"] = [
                found.members,
                [[c.size, c.step, c.load_name, c.load_volts, c.load_used, c.copper_kg, c.ok] for c in found.candidates],
            ]
        told[f"{name} metres"] = {
            load: list(vars(metre_of(results.figures, load)).values())
            for load, e in results.figures.loads.items()
            if np.isfinite(e.volts)
        }
        told[f"{name} kept"] = [
            list(vars(kept(results.design, results.figures, results.sizes, move)).values())
            for move in moves(results.design, results.figures)[:6]
        ]
    held("ladders.json", plain(told))


@pytest.mark.long
def test_least_copper_by_other_weights() -> None:
    design = designs()["shed"]
    rows = {}
    for name, weights in (("cost", Weights(0.0, 1.0, 0.0)), ("few", Weights(1.0, 0.0, 0.2))):
        one = optimise(design, weights)
        rows[name] = [one.sizes, one.objective, one.copper_kg, one.met, one.floor]
    starts = design_of(
        "supply 12 V 8 mohm at battery",
        "winch 40 A surge 160A/0.5s at bow run 5 m min 9.8 V",
        "lamp 3 A at mast run 9 m off bow",
    )
    one = optimise(starts)
    rows["starts"] = [one.sizes, one.objective, one.met, [e.surge_v for e in one.figures.loads.values()]]
    one = optimise(yard())
    rows["yard"] = [one.sizes, one.objective, one.met, one.floor]
    held("shed.weights.json", plain(rows))


@pytest.mark.parametrize("room", [7.0, 14.0, 40.0, None])
def test_layouts(room: float | None) -> None:
    told = {}
    for name, design in (("barge", barge()), ("generated", generated(120))):
        results = analyse(set_size(design, [w.id for w in design.wires], "16 mm2"))
        worth = interest(index_of(results.design), results, [design.ends[-1].point or ""])
        layout = Picture(results.design).lay_out(room or float("inf"), worth if room != 40.0 else {})
        told[name] = [
            layout.width,
            {k: list(v) for k, v in layout.at.items()},
            [list(vars(tag).values()) for tag in layout.tags],
            layout.inside,
            layout.branch_of,
        ]
    held(f"layout-{room or 'all'}.json", plain(told))


def test_notices(answers) -> None:
    results = answers["barge"]
    rows = {point: [one.code for one in found] for point, found in results.once(notices).items()}
    held(
        "barge.notices.json",
        plain({"notices": rows, "uses": results.once(uses), "worth": interest(index_of(results.design), results)}),
    )


def test_more_reasons(answers) -> None:
    told = {}
    for name in ("barge", "yard"):
        results = answers[name]
        found, index = results.figures, index_of(results.design)
        for end, link in found.solution.plant.links:
            told[f"{name} {end} {link.id}"] = why_link(found, index.ends[end], link).as_text().splitlines()
        for load, entry in found.loads.items():
            told[f"{name} rating {load}"] = why_rating(found, entry).as_text().splitlines()
    for words in (
        {"load": "18A", "supply": "24V", "length": "7.5m", "fuse": "auto", "surge": "60A/2s", "duty": "20s/60s"},
    ):
        answer = size_run(run_said(USUAL | words))
        told["run"] = [reason.as_text().splitlines() for reason in why_run(answer, answer.chosen)]
    held("reasons.json", told)


@pytest.mark.parametrize("units", ["inch", "both"])
def test_papers_in_other_units(units: str) -> None:
    design = set_project(barge(), units=units)
    results = analyse(set_size(design, [wire.id for wire in design.wires[:6]], "AWG 8"))
    held(f"barge-{units}.paper.json", plain({"sheet": cut_sheet(results), "cuts": cut_rows(results)[:20]}))


def test_lengths_in_inches_round_up() -> None:
    """Never shorter than asked: sixteenths up; 4' 1 3/16" is 1.24936 m."""
    for metres in (0.0001, 0.0254, 0.3048, 1.24936, 1.2494, 2.0, 11.5951):
        said = inches_text(metres)
        feet, _, rest = said.partition("' ") if "' " in said else ("0", "", said)
        inches = sum(float(Fraction(part)) for part in rest.rstrip('"').split())
        assert metres <= 0.0254 * (12 * float(feet) + inches) + 1e-9 < metres + 0.0254 / 16 + 1e-9


@pytest.mark.parametrize("factor", ["0", "1.1", "-0.5"])
def test_power_factors_that_can_not_be_are_refused(factor: str) -> None:
    with pytest.raises(InputError):
        size_run(run_said(USUAL | {"load": "18A", "supply": "230V", "length": "7.5m", "power_factor": factor}))
