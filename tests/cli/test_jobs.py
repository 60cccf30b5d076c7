"""Whole jobs scripted through say, from nothing to a cut list without dummies; refusals with their status."""

import io
import json
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from umber_trunk.cli.main import main
from umber_trunk.cli.reading import read_design
from umber_trunk.core.analysis import analyse
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import CableKind
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.results import Results

Job = Callable[..., Results]


@pytest.fixture
def job(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> Job:
    """Says lines into a new harness file; every one has to be taken."""

    def said(*lines: str, sound: bool = True) -> Results:
        path = tmp_path / "job.umber"
        assert main(["new", str(path), "--name", "job"]) == 0
        assert main(["say", str(path), *lines]) == 0, capsys.readouterr().err
        analysis = analyse(read_design(path))
        faults = [f.message for f in analysis.findings if f.severity is Severity.FAULT]
        assert not faults or not sound, faults
        rows = analysis.once(cuts)
        assert len(rows) == len(analysis.design.wires)
        assert not sound or all(row.size != "?" and row.cut_m > 0 for row in rows)
        assert all(np.isfinite(entry.volts) and entry.ok for entry in analysis.figures.loads.values())
        return analysis

    return said


def test_an_inverter_on_a_battery_with_a_class_fuse(job: Job) -> None:
    found = job(
        "supply 12 V 3 mohm at battery",
        "class T fuse 250 A at battery",
        "inverter 2 kW at cabin from battery run 1.5 m min 10.5 V",
    )
    link = index_of(found.design).ends["battery"].links[0]
    assert (link.rating_a, link.style) == (250, "class T")
    feed = next(w for w in found.design.wires if w.name == "inverter feed")
    assert str(feed.start) == "battery:F1"
    assert found.figures.guards[found.figures.wires[feed.id].row] is not None
    assert not found.figures.bare
    load = found.figures.loads["inverter"]
    assert load.amps == pytest.approx(2000 / load.volts, rel=1e-6)
    assert load.sag_v == pytest.approx(0.003 * load.amps, rel=1e-3)


def test_a_trailer_returning_through_its_frame(job: Job) -> None:
    found = job(
        "supply 12 V 5 mohm at tow socket",
        "frame return 5 mohm",
        "fuse box at nose, 4 ways, from tow socket run 1 m frame return",
        "tail lamps 2 A at rear from nose run 5 m frame return",
        "brake lamps 4 A at rear axle from nose run 5 m frame return",
        "case night: tail lamps",
        "case braking: all",
        "fit fuses",
    )
    # hand: brake lamps' own way, 4 A through 5 mΩ of frame besides its wires
    design, figures = found.design, found.figures
    assert sum(end.frame_ohm > 0 for end in design.ends) == 2
    plant = figures.solution.plant
    frame = [at for at, (_, link) in enumerate(plant.links) if link.kind == "frame"]
    assert len(frame) == 2
    amps = sorted(abs(float(figures.cases["braking"].link_a[at])) for at in frame)
    assert amps == pytest.approx([2, 4], rel=1e-3)
    assert figures.loads["brake-lamps"].case == "braking"


def test_a_machine_with_twenty_five_loads_on_one_box_and_two_cases(job: Job) -> None:
    loads = [f"motor {n} {1 + n % 4} A at {'station ' + str(n)} from panel run {1 + n % 5} m" for n in range(25)]
    found = job(
        "supply 24 V 8 mohm at psu",
        "fuse box at panel, 25 ways, from psu run 0.5 m",
        *loads,
        "case setting up: motor 0, motor 1, motor 2",
        "case running: all",
        "fit fuses",
    )
    box = index_of(found.design).ends["panel"]
    assert len([link for link in box.links if link.rating_a]) == 25
    assert {entry.case for entry in found.figures.loads.values()} == {"running"}
    returns = [w for w in found.design.wires if w.name.endswith("return") and w.name != "panel return"]
    assert all(str(w.finish) == "panel:-" for w in returns)


def test_a_computer_supply_with_two_rails(job: Job) -> None:
    found = job(
        "supply 12 V 5 mohm at psu",
        "supply 5 V 5 mohm at psu",
        "disk 5 V 0.7 A at bay from psu fused 2 A run 0.6 m",
        "fan 12 V 0.3 A at lid from psu fused 1 A run 0.4 m",
    )
    assert len({s.plus for s in found.design.supplies}) == 2
    assert len({s.minus for s in found.design.supplies}) == 1
    assert {key: entry.nominal_v for key, entry in found.figures.loads.items()} == pytest.approx({"disk": 5, "fan": 12})


def test_a_loop_supply_with_a_screened_pair(job: Job) -> None:
    found = job(
        "supply 24 V 1 ohm at rack",
        "fuse box at marshalling, 4 ways, from rack run 2 m",
        "transmitter 4-20 mA at brine tank from marshalling run 40 m by screened pair min 12 V",
        "fit fuses",
    )
    assert found.design.cables[0].kind is CableKind.SCREENED
    cores = [w for w in found.design.wires if w.cable]
    assert [w.signal for w in cores] == [False, False, True]
    row = found.figures.wires[cores[0].id]
    assert row.length_m == pytest.approx(40 * (1 + (np.pi / 24) ** 2) ** 0.5)
    assert found.figures.loads["transmitter"].amps == pytest.approx(0.022)


def test_a_converter_takes_in_what_it_gives_out_over_its_efficiency(job: Job) -> None:
    found = job(
        "supply 24 V 5 mohm at battery",
        "fuse box at panel, 2 ways, from battery run 1 m",
        "converter 24 to 12 V 90% at house from panel run 2 m",
        "radio 12 V 5 A at desk from house fused 10 A run 1 m",
        "fit fuses",
    )
    plant, case = found.figures.solution.plant, found.figures.solution.cases[0]
    row = next(at for at, wire in enumerate(plant.wires) if wire.name == "house feed")
    volts = float(case.node_v[plant.input_plus[0]] - case.node_v[plant.input_minus[0]])
    assert abs(float(case.wire_a[row])) == pytest.approx(12 * 5 / 0.9 / volts, rel=1e-3)
    assert found.figures.loads["radio"].nominal_v == pytest.approx(12)


def test_ac_leads_count_reactance_and_power_factor(job: Job) -> None:
    """ΔU ≈ I·(R·cos φ + X·sin φ), X 0.08 mΩ/m a conductor (IEC 60364-5-52 annex G), within the usual approximation."""
    found = job("supply 230 V AC 10 mohm at shore post", "pump 8 A pf 0.7 at quay from shore post fused 16 A run 60 m")
    case, plant = found.figures.solution.cases[0], found.figures.solution.plant
    assert plant.ac
    entry = found.figures.loads["pump"]
    loop = float(case.wire_ohm.sum()) + float(plant.link_ohm.sum()) + 0.01
    reactance = 2 * 60 * 0.08e-3
    assert entry.drop_v == pytest.approx(8 * (loop * 0.7 + reactance * (1 - 0.49) ** 0.5), rel=0.01)
    assert np.abs(case.wire_a) == pytest.approx([8, 8], rel=1e-6)
    assert any(f.code == "caution.mains" for f in found.findings)


def test_an_ac_load_in_watts_draws_by_its_power_factor(job: Job) -> None:
    found = job(
        "supply 230 V AC 10 mohm at shore post", "kettle 1.5 kW pf 0.8 at galley from shore post fused 16 A run 10 m"
    )
    entry = found.figures.loads["kettle"]
    assert entry.amps == pytest.approx(1500 / 0.8 / entry.volts, rel=1e-4)


def test_switches_relays_bars_and_connectors(job: Job) -> None:
    found = job(
        "supply 12 V 5 mohm at battery",
        "bus bar at helm from battery run 2 m",
        "negative bar at aft from battery run 3 m",
        "switch at dash from helm run 0.5 m",
        "relay 150 mA at bay from battery run 1 m by dash",
        "horn 4 A at bow from bay run 2 m",
        "connector at bulkhead, pins 1 2 3A, run 1 m from battery",
        "24-pin connector at board",
        sound=False,
    )
    kinds = {end.name: end.kind for end in found.design.ends}
    assert kinds["helm"] is EndKind.BAR
    assert kinds["dash"] is EndKind.SWITCH
    assert kinds["bay"] is EndKind.RELAY
    assert len(index_of(found.design).ends["board"].cavities) == 24
    assert [c.id for c in index_of(found.design).ends["bulkhead"].cavities] == ["1", "2", "3A"]
    assert found.figures.loads["bay-coil"].volts > 11
    assert found.figures.loads["horn"].volts > 11


@pytest.mark.parametrize(
    ("line", "status", "says"),
    [
        ("heater 1,200 W at bow", 3, "1200 or 1.2"),
        ("pump 2 100 W at bow", 3, "something called “pump 2”"),
        ("heater 20-30 A at bow", 2, "not understood"),
        ("pump 4 A at bow run 3-4 m", 2, "range"),
        ("pump 4 A at bow, gibberish", 2, "gibberish"),
        ("pump 4 A at bow from nowhere", 2, "no end called"),
        ("lamp 5 V 1 A at bow from battery", 2, "gives 12 V, not 5 V"),
        ("converter 48 to 12 V at hut from battery run 1 m", 2, "gives 12 V, not 48 V"),
        ("fuse 10 A at nowhere", 2, "no end called"),
        ("remove wire W99", 2, "no “W99”"),
        ("remove end nowhere", 2, "no “nowhere”"),
    ],
)  # fmt: skip
def test_what_cannot_be_said_changes_nothing(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], line: str, status: int, says: str
) -> None:
    path = tmp_path / "j.umber"
    main(["new", str(path)])
    main(["say", str(path), "supply 12 V 5 mohm at battery"])
    before = read_design(path)
    capsys.readouterr()
    assert main(["say", str(path), line]) == status
    assert says in capsys.readouterr().err
    assert read_design(path) == before


def test_what_was_said_is_taken_out_again(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "j.umber"
    main(["new", str(path)])
    main(["say", str(path), "supply 12 V 5 mohm at battery", "pump 4 A at bilge run 3 m", "lamp 2 A at mast run 4 m"])
    capsys.readouterr()
    assert main(["say", str(path), "remove load pump", "Remove  END mast"]) == 0
    assert "remove" in capsys.readouterr().out
    left = read_design(path)
    assert (left.loads, left.wires, [end.id for end in left.ends]) == ((), (), ["battery", "bilge"])


def test_say_reads_standard_input_and_speaks_json(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "j.umber"
    main(["new", str(path)])
    monkeypatch.setattr("sys.stdin", io.StringIO("# a job\nsupply 12 V at battery\n\nwinch 1/2 hp at bow run 3 m\n"))
    capsys.readouterr()
    assert main(["say", str(path), "-", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [one["ok"] for one in told["said"]] == [True, True]
    assert any("70 % efficiency (assumed)" in piece["meaning"] for piece in told["said"][1]["understood"])
    assert read_design(path).loads[0].value == pytest.approx(745.7 / 2 / 0.7, rel=1e-3)
    assert main(["say", str(path), "--decimal", "point", "heater 1,200 W at stern run 2 m"]) == 0
    assert "1200, since the point" in capsys.readouterr().out
    assert main(["say", str(path), "--dry-run", "lamp 2 A at tip run 1 m"]) == 0
    assert len(read_design(path).loads) == 2


SHOP = "wire,from,to,size,length\n1,a:1,b:1,14,1200\n2,a:2,b:2,12,900\n"


def test_import_leaves_doubts_open_until_they_are_answered(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    source, out = tmp_path / "shop.csv", tmp_path / "o.umber"
    source.write_text(SHOP)
    assert main(["import", str(source), "-o", str(out)]) == 3
    assert not out.exists()
    err = capsys.readouterr().err
    assert "--unit length=mm" in err
    assert "--bare-size awg" in err
    assert main(["import", str(source), "-o", str(out), "--json"]) == 3
    doubts = json.loads(capsys.readouterr().out)["doubts"]
    assert {d["id"] for d in doubts} == {"unit:length", "bare-size"}
    assert main(["import", str(source), "-o", str(out), "--unit", "length=mm", "--bare-size", "awg"]) == 0
    assert [w.size for w in read_design(out).wires] == ["AWG 14", "AWG 12"]
    # the same titles again: what was said before is used, and said
    again = tmp_path / "again.umber"
    capsys.readouterr()
    assert main(["import", str(source), "-o", str(again)]) == 0
    assert "same headers before" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("options", "says"),
    [
        (["--column", "girth=D"], "no field “girth”"), (["--column", "size=7"], "name a column by its letter"),
        (["--unit", "length=awg"], "no unit of length"), (["--unit", "length"], "NAME=VALUE"), (["--sheet", "x"], "no sheet “x”"),
        (["--header-row", "-1"], "counts from 1"),
    ],
)  # fmt: skip
def test_options_that_mean_nothing_are_refused(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], options: list[str], says: str
) -> None:
    (tmp_path / "shop.csv").write_text(SHOP)
    assert main(["import", str(tmp_path / "shop.csv"), "-o", str(tmp_path / "o.umber"), *options]) == 2
    assert says in capsys.readouterr().err
    assert not (tmp_path / "o.umber").exists()


def test_a_later_list_comes_into_a_harness(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    source, out = tmp_path / "shop.csv", tmp_path / "o.umber"
    source.write_text("wire,from,to,size,length (mm)\n1,a:1,b:1,2.5 mm2,1200\n2,a:2,b:2,1 mm2,900\n")
    assert main(["import", str(source), "-o", str(out)]) == 0
    source.write_text("wire,from,to,size,length (mm)\n1,a:1,b:1,4 mm2,1200\n3,a:3,b:3,1 mm2,900\n")
    capsys.readouterr()
    assert main(["import", str(source), "--into", str(out), "--dry-run"]) == 0
    assert "1 added, 1 changed, 1 gone" in capsys.readouterr().out
    assert [w.id for w in read_design(out).wires] == ["1", "2"]
    assert main(["import", str(source), "--into", str(out)]) == 0
    assert {w.id: w.size for w in read_design(out).wires} == {"1": "4 mm2", "3": "1 mm2"}


def test_size_says_its_doubts_and_its_assumptions(capsys: pytest.CaptureFixture[str]) -> None:
    base = ["size", "--supply", "24V", "--run", "5m"]
    assert main([*base, "--load", "1,200 W"]) == 2
    assert "1200 or 1.2" in capsys.readouterr().err
    assert main([*base, "--load", "1,200 W", "--decimal", "point", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert "point" in told["read"][0]
    assert main([*base, "--load", "1/2 hp", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert "assumed" in told["read"][0]
    assert told["amps"] == pytest.approx(745.7 / 2 / 0.7 / (24 - told["drop_v"]), rel=1e-3)


@pytest.mark.parametrize(
    ("option", "hotter"),
    [(["--enclosed"], 1.07), (["--coiled", "3"], 2.0), (["--sun"], 1.05), (["--altitude", "3000m"], 1.03), (["--jacket", "pvc70"], 0.99)],
)  # fmt: skip
def test_surroundings_take_their_share(capsys: pytest.CaptureFixture[str], option: list[str], hotter: float) -> None:
    base = [
        "size",
        "--supply",
        "24V",
        "--run",
        "2m",
        "--load",
        "20A",
        "--size",
        "2.5 mm2",
        "--max-drop",
        "20%",
        "--json",
    ]
    main(base)
    plain = json.loads(capsys.readouterr().out)
    main([*base, *option])
    other = json.loads(capsys.readouterr().out)
    assert other["conductor_c"] - 30 >= hotter * (plain["conductor_c"] - 30) - 1e-6
    assert other["ampacity_a"] < plain["ampacity_a"]
