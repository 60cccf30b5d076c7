"""What stands behind the answers, kept as files too: layouts, ladders, closeups, duties, laying, tables of the physics."""

from __future__ import annotations

from dataclasses import asdict, is_dataclass
from fractions import Fraction
from typing import Any

import numpy as np
import pytest

from conftest import design_of
from golden.test_answers import designs, held
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import conductor, series
from umber_trunk.core.demo import barge
from umber_trunk.core.errors import InputError
from umber_trunk.core.explain.about_fuses import why_link
from umber_trunk.core.explain.about_run import why_run
from umber_trunk.core.explain.about_wires import why_rating
from umber_trunk.core.explain.closeup import closeup, hottest_c, section_at
from umber_trunk.core.fuses.chain import chains
from umber_trunk.core.fuses.fit import fit_fuses, link_duties
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness.edits import change, put, set_project, set_size
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.paper_units import inches_text
from umber_trunk.core.kit.printed import cut_sheet
from umber_trunk.core.kit.tables import cut_rows
from umber_trunk.core.lengths.laying import lay, provisional, suggest
from umber_trunk.core.onerun.run import size_run
from umber_trunk.core.onerun.said import USUAL, run_said
from umber_trunk.core.physics.bundle import smeared_radii_m, smeared_rise_k
from umber_trunk.core.physics.damage import allowed_c
from umber_trunk.core.physics.film import film_w_m2k, surface_rise_k
from umber_trunk.core.physics.fuses import fitting_rating, opening_s
from umber_trunk.core.physics.heat import WireBodies, ampacity_a, conductor_c, fin_rise_k
from umber_trunk.core.physics.packing import pack
from umber_trunk.core.physics.response import driven, lone_response, rise_k
from umber_trunk.core.physics.shield import Shielded
from umber_trunk.core.physics.surroundings import Outside, Surroundings, rim_rise_k
from umber_trunk.core.picture.layout import Picture
from umber_trunk.core.picture.notice import interest, notices, uses
from umber_trunk.core.sample import generated
from umber_trunk.core.sizes.candidates import ladder
from umber_trunk.core.sizes.metre import metre_of
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.sizes.program import Weights
from umber_trunk.core.sizes.worth import kept, moves
from umber_trunk.store.listing.merge import add_wires
from umber_trunk_helpers import list_of


def plain(value: Any) -> Any:
    """Values as JSON has them, figures to seven digits."""
    if isinstance(value, Shielded):
        return plain(value._asdict())
    if is_dataclass(value) and not isinstance(value, type):
        return plain(asdict(value))
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
        "supply 24 V 6 mohm at battery", "fuse box at bulkhead, 6 ways, from battery run 2 m", "frame return 5 mohm",
        "converter 24 to 12 V 90% at house from bulkhead run 3 m", "radio 12 V 5 A at shelf from house run 2 m",
        "disk 12 V 1.5 A surge 4A/1s at bay from house run 1 m", "pump 9 A surge 30A/0.4s at well in well 55C wet run 4 m from bulkhead",
        "crane 1.5 kW duty 20s/90s at mast in mast 35C sunny run 11 m min 20 V", "horn 6 A at bow run 7 m off mast frame return",
        "case at night: radio, disk, pump", "case hauling: all but radio",
    )  # fmt: skip
    design = put(design, "zones", change(design.zones[0], altitude_m=1800.0, enclosed=True))
    design = put(design, "segments", change(design.segments[-1], sleeve_mm=1.2, coiled_layers=2))
    return put(design, "wires", change(design.wires[0], parallel=2))


def shore() -> Design:
    return design_of("supply 230 V AC at post", "heater 2 kW at cabin run 14 m", "motor 900 W pf 0.75 at slip run 22 m")


@pytest.fixture(scope="module")
def answers() -> dict[str, Any]:
    return {
        "barge": analyse(barge()),
        "yard": analyse(yard()),
        "shore": analyse(shore()),
        "shed": analyse(designs()["shed"]),
    }


@pytest.mark.parametrize("name", ["yard", "shore"])
def test_solutions(answers, name: str) -> None:  # type: ignore[no-untyped-def]
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
def test_fuses_and_chains(answers, name: str) -> None:  # type: ignore[no-untyped-def]
    results = answers[name]
    found, known = results.figures, results.once(chains)
    placing = place_fuses(results.design, found)
    held(f"{name}.fuses.json", plain({
        "duties": {" ".join(key): [one.amps, one.ambient_c, [list(vars(s).values()) for s in one.starts], one.fitting()] for key, one in results.once(link_duties).items()},
        "guards": [None if g is None else list(vars(g).values()) for g in found.guards], "bare": found.bare,
        "shielded": {row: list(one) for row, one in found.shielded.items()},
        "parts": {load: [[p.name, p.rating_a, p.amps] for p in known.parts(load)] for load, e in found.loads.items() if np.isfinite(e.volts)},
        "faults": {load: known.fault_a(load) for load, e in found.loads.items() if np.isfinite(e.volts)},
        "placed": list(placing.changes), "fitted": [[link.id, link.rating_a] for end in fit_fuses(placing.design, found.solution).ends for link in end.links],
    }))  # fmt: skip


def test_closeups(answers) -> None:  # type: ignore[no-untyped-def]
    results = answers["barge"]
    found = results.figures
    held("barge.closeup.json", plain({
        "looks": {wire: closeup(results.design, found, wire) for wire in ("W01", "W08", "W17", "W30")},
        "hottest": hottest_c(found), "section": section_at(found, "S5"),
    }))  # fmt: skip


def test_ladders_and_worth(answers) -> None:  # type: ignore[no-untyped-def]
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


def test_notices(answers) -> None:  # type: ignore[no-untyped-def]
    results = answers["barge"]
    rows = {point: [one.code for one in found] for point, found in results.once(notices).items()}
    held(
        "barge.notices.json",
        plain({"notices": rows, "uses": results.once(uses), "worth": interest(index_of(results.design), results)}),
    )


def test_laying() -> None:
    design = add_wires(Design(), list_of("wire,from,to,size,colour,length (m)\n" + "\n".join(
        f"W{n},{a}:1,{b}:{n},1.5 mm2,red,{metres}" for n, (a, b, metres) in enumerate(
            [("box", "lamp", 4.2), ("box", "horn", 4.4), ("box", "pump", 1.5), ("pump", "float", 0.8), ("box", "mast", 9.75), ("stud", "bar", 2.0)], 1)
    ) + "\n"))  # fmt: skip
    plan = suggest(design, [wire.id for wire in provisional(design)])
    laid = lay(design, plan)
    held("laying.json", plain({
        "plan": plan, "points": [[p.id, p.name] for p in laid.points], "segments": [[s.id, s.a, s.b, s.measure.length_m, s.measure.plus_minus_m] for s in laid.segments],
        "lengths": index_of(laid).lengths,
    }))  # fmt: skip


def test_more_single_runs() -> None:
    asked = {
        "ac": {"load": "1.4kW", "supply": "230V", "length": "35m", "power_factor": "0.8", "series": "metric"},
        "reel": {"load": "10A", "supply": "24V", "length": "20m", "coiled": 2, "fuse": "auto"},
        "sun": {
            "load": "14A",
            "supply": "12V",
            "length": "6m",
            "sun": True,
            "altitude": "2500m",
            "air": "2",
            "fuse": "15A",
        },
        "duty": {
            "load": "80A",
            "supply": "12V",
            "length": "3m",
            "duty": "10s/120s",
            "surge": "300A/1.5s",
            "parallel": 2,
            "fuse": "auto",
        },
        "duct": {
            "load": "22A",
            "supply": "48V",
            "length": "18m",
            "enclosed": True,
            "bundle": 9,
            "ambient": "50C",
            "jacket": "silicone",
            "fuse_rule": "iec",
            "fuse": "auto",
        },
        "ohms": {
            "load": "3ohm",
            "supply": "24V",
            "length": "9m",
            "metal": "cca15",
            "joints": "4x0.5mohm",
            "fuse": "20A",
            "fuse_rule": "share150",
        },
    }
    told = {}
    for name, words in asked.items():
        answer = size_run(run_said(USUAL | words))
        told[name] = [answer.governs, [
            [c.size.label, c.amps, c.drop_v, c.conductor_c, c.ampacity_a, c.continuous_a, c.fuse_a, c.surge_c, c.ok, list(c.broken), c.shield and list(c.shield)]
            for c in answer.candidates
        ]]  # fmt: skip
    held("runs.json", plain(told))


def test_tables_of_the_physics() -> None:
    wires = [conductor(size.label, "copper", "general", "pvc") for size in series("metric")[2:14:2]]
    bodies, n = WireBodies.of(wires), len(wires)
    diameter, rise, air = (
        np.array([1.5, 4.0, 12.0, 40.0]) / 1e3,
        np.array([0.5, 8.0, 45.0, 200.0]),
        np.array([-20.0, 25.0, 60.0, 25.0]),
    )
    around = [
        Surroundings(),
        Surroundings(enclosed=True),
        Surroundings(coiled_layers=3),
        Surroundings(sun_w_m2=900.0, altitude_m=3000.0),
    ]
    outside = Outside.of(around)
    outer = np.array([4.0, 9.0, 15.0, 30.0]) / 1e3
    radii = smeared_radii_m(np.full(9, 2.4e-3))
    bands = [
        opening_s(rating, rating * np.array([1.05, 1.2, 1.5, 2.0, 3.5, 6.0, 12.0]))
        for rating in (3.0, 20.0, 60.0, 150.0, 300.0)
    ]
    response = lone_response("4 mm2", "copper", "general", "pvc")
    held("physics.json", plain({
        "film": [film_w_m2k(diameter, rise, air), film_w_m2k(diameter, rise, air, 3.0), film_w_m2k(diameter, rise, air, 0.0, 0.7)],
        "surface": [surface_rise_k(np.array([0.2, 3.0, 25.0, 90.0]), diameter, air), surface_rise_k(np.array([0.2, 3.0, 25.0, 90.0]), diameter, air, 1.5)],
        "rim": rim_rise_k(np.array([4.0, 9.0, 20.0, 33.0]), outer, np.full(4, 30.0), 0.8, 0.0, outside),
        "smeared": smeared_rise_k(np.full(9, 1.7), radii, 14.0, 0.09),
        "warm": conductor_c(np.linspace(2, 90, n), bodies, np.full(n, 30.0)), "ampacity": ampacity_a(np.full(n, 105.0), bodies, np.full(n, 40.0)),
        "fin": fin_rise_k(np.full(n, 0.8), wires, np.full(n, 2.2)), "damage": [allowed_c(wire, np.array([0.1, 1.0, 5.0, 60.0, 3600.0])) for wire in wires[:2]],
        "bands": bands, "fitting": [fitting_rating(amps, 45.0, [(2.2 * amps, 0.6)]) for amps in (2.0, 9.0, 27.0, 90.0, 400.0)],
        "response": response.at(np.array([[0.01, 0.3, 2.0, 20.0, 300.0]])), "rise": rise_k(np.array([900.0]), np.array([900.0]), np.array([5e-3]), np.array([4e-3]), np.array([2.0]), np.array([0.8])),
        "driven": driven(np.array([0.1, 0.7, 2.0]), np.array([0.5, 0.8, 1.0])), "packed": [pack([2.0] * k).diameter for k in (3, 7, 12)],
    }))  # fmt: skip


def test_more_reasons(answers) -> None:  # type: ignore[no-untyped-def]
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
