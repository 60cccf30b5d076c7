"""What is said is what stands: builds own their inputs, proofs their readings, stages their ticks, logs their
signatures."""

from __future__ import annotations

import ast
import io
import json
import random
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

import umber_trunk.store.builds as building
from demos import worked_out
from umber_trunk.cli.main import main
from umber_trunk.core import voice
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.parts import PART, Lug
from umber_trunk.core.catalog.shelf import generic, shop_shelf
from umber_trunk.core.demo import DEMOS, demo
from umber_trunk.core.ends.covering import fitted, forget_proposals
from umber_trunk.core.ends.families import FAMILIES
from umber_trunk.core.ends.strip import DRAWS
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.ends.wire_rules import JUDGES, RUNS
from umber_trunk.core.errors import InputError, UmberError
from umber_trunk.core.harness.edits import put, set_size
from umber_trunk.core.harness.model import Design
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.keep.answers import judged
from umber_trunk.core.keep.record import NO_INPUTS, records
from umber_trunk.core.kit.coilcut import plan_cuts
from umber_trunk.core.kit.coils import Coil, Piece
from umber_trunk.core.make.events import BY_KIND, event
from umber_trunk.core.make.frozen import freeze, thawed
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.told import entry_told
from umber_trunk.core.make.unit_acts import Test as Answered
from umber_trunk.core.make.wordless import wordless
from umber_trunk.core.memo import Memo
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.faults import KINDS
from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.netlist import netlist
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.prove.state import CHANGES
from umber_trunk.core.sample import generated
from umber_trunk.core.sentences import catalogue, say
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.status import Facts, next_of, stage_states
from umber_trunk.store.builds import begin, resume
from umber_trunk.store.catalogues import add_to_shop
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.facts import facts_of
from umber_trunk.store.files import StoreError
from umber_trunk.store.found_units import kept_unit
from umber_trunk.store.keeping import log_said, strike
from umber_trunk.store.lines_log import add_line, plain_entry, read_lines, sign_lines, station_path
from umber_trunk.store.merging import merge
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.proofs import UnitProof
from umber_trunk.store.station import new_key, this_station
from umber_trunk_helpers import beside

SOURCE = Path(building.__file__).parents[1]


def lug_from(base: Lug, **values: Any) -> Any:
    """A lug of a shop's own, cheaper than any: like one that ships but for these."""
    return PART.validate_python(base.model_dump() | {"price": 0.0} | values)


# a build owns its inputs


@pytest.mark.parametrize("name", tuple(DEMOS))
@pytest.mark.share(3)
def test_a_begun_build_is_what_it_was_whatever_happens_to_the_world(
    name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """A third done; then parts are imported, house rules and the design edited, the version bumped: order, texts,
    settings and done steps are the same in the file and in the shell."""
    path = tmp_path / "h.umber"
    with ProjectFile.create(path, demo(name), copied=False) as project:
        with begin(project, "b", [1, 2], hand="Mara") as build:
            while build.bench.now is not None and build.bench.count[0] < build.bench.count[1] / 3:
                if build.bench.needs_reading(build.bench.now):
                    build.release("Mara")
                build.advance()
            before = (
                [(s.key, s.operation, s.seconds) for s in build.bench.order.steps],
                sorted(build.bench.done),
                build.bench.now,
            )
            shelf_before = dict(build.frozen.shelf.parts)
            left = {key: build.bench.left(*key, 1) for key in build.frozen.making.by_end}
        monkeypatch.setattr("sys.stdin", io.StringIO("q\n"))
        project.close()
        assert main(["make", str(path)]) == 0
        shell = capsys.readouterr().out.splitlines()[1:3]
        add_to_shop(
            [
                part.model_copy(update={"price": 0.0})
                for part in generic().parts.values()
                if part.kind in ("lug", "contact")
            ][:40]
        )
    with ProjectFile.open(path) as project:
        rules = project.design.project.model_copy(update={"remakes": 9, "decimal": "comma", "strip_m": 0.02})
        wires = [wire.model_copy(update={"size": "16 mm2"}) for wire in project.design.wires[:5]]
        project.commit(
            project.design.model_copy(update={"project": rules, "wires": (*wires, *project.design.wires[5:])}),
            "otherwise",
        )
        monkeypatch.setattr(building, "__version__", "99.0")
        monkeypatch.setattr(building, "plan_order", lambda *_, **__: pytest.fail("resuming plans"))
        monkeypatch.setattr(building, "analyse", lambda *_, **__: pytest.fail("resuming works out"))
        with resume(project, "b") as build:
            assert (
                [(s.key, s.operation, s.seconds) for s in build.bench.order.steps],
                sorted(build.bench.done),
                build.bench.now,
            ) == before
            assert build.frozen.shelf.parts == shelf_before
            assert {key: build.bench.left(*key, 1) for key in build.frozen.making.by_end} == left
            assert not build.bench.strange
    monkeypatch.setattr("sys.stdin", io.StringIO("q\n"))
    assert main(["make", str(path)]) == 0
    assert capsys.readouterr().out.splitlines()[1:3] == shell


def test_what_is_frozen_is_chosen_whole_and_gives_the_same_figures() -> None:
    """Nothing is left to propose: worked out again of the parts it carries alone, the frozen design has the sizes,
    fittings and lengths."""
    for name in tuple(DEMOS):
        results = worked_out(name)
        frozen = freeze(results, plan_order(results, 2), "1")
        again = thawed(frozen.design_text, frozen.order_text)
        assert (again.design, again.making, again.digests) == (frozen.design, frozen.making, frozen.digests)
        assert all(wire.size for wire in frozen.design.wires if results.figures.wires[wire.id].size_known)
        alone = analyse(frozen.design, frozen.shelf)
        assert {key: row.shown_size for key, row in alone.figures.wires.items()} == {
            key: row.shown_size for key, row in results.figures.wires.items()
        }
        mine, theirs = alone.once(fitted).fittings, results.once(fitted).fittings
        assert {key: (f.part, f.seal, f.ferrule) for key, f in mine.items()} == {
            key: (f.part, f.seal, f.ferrule) for key, f in theirs.items()
        }
        settings = [step.operation.setting for step in plan_order(alone, 2).steps]
        assert settings == [step.operation.setting for step in frozen.making.order.steps]
        for text in (
            frozen.order_text[:-2],
            frozen.order_text.replace('"format":1', '"format":7'),
            "[]",
            '{"format":1}',
        ):
            with pytest.raises(UmberError):
                thawed(frozen.design_text, text)


def test_one_lug_of_the_shop_is_known_at_every_door(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "t.umber"
    put_demo(path, "shore").close()
    results = worked_out("shore")
    (key, base), *_ = [
        (key, part)
        for key, f in results.once(fitted).fittings.items()
        if isinstance(part := results.shelf.named(f.part), Lug)
    ]
    design = set_size(demo("shore"), [], None)
    wire = next(one for one in design.wires if one.id == key[0])
    with ProjectFile.open(path) as project:
        project.commit(
            put(project.design, "wires", wire.model_copy(update={"at_start": None, "at_finish": None})),
            "nothing chosen",
        )
    own = lug_from(base, id="slip-lug", name="Slipway lug")
    add_to_shop([own])
    assert (
        analyse(project.design, shop_shelf([own])).once(fitted).fittings[key].part
        == "slip-lug"
        != analyse(project.design).once(fitted).fittings[key].part
    )
    for words in (("strip", "--wire", key[0]), ("fit",), ("order",), ("buy",)):
        main([words[0], str(path), *words[1:], "--json"])
        assert "slip-lug" in capsys.readouterr().out or "Slipway lug" in capsys.readouterr().out, words
    monkeypatch.setattr("sys.stdin", io.StringIO("q\n"))
    main(["make", str(path), "--units", "1", "--build", "one"])
    capsys.readouterr()
    with ProjectFile.open(path) as project, resume(project, "one") as build:
        assert any("Slipway lug" in step.operation.text for step in build.bench.order.steps)
        kept = UnitProof(project, "one", 1, "Ines")
        assert "slip-lug" in {part.id for part in kept.load() and kept.results.design.parts}  # type: ignore[union-attr]
    assert generic().named("slip-lug") is None


def test_a_door_that_forgets_the_shelf_is_told() -> None:
    """Every call in the program that asks what is on the shelf hands one in: only tests go by the parts that ship."""
    wanted = {"analyse", "propose", "solve", "build_plant", "places_of", "half_of", "ends_agree", "mate_of", "faces_of", "matches_of", "old_and_new", "tips_of", "obstacles", "takes",
              "carrying", "set_fitting", "set_housing", "set_cable", "assign", "swap", "fill_run", "accept", "through", "ladder", "optimise", "least_of", "resized", "worths", "fold"}  # fmt: skip
    for path in SOURCE.rglob("*.py"):
        if path.name in ("demo.py", "demo_lots.py", "drills.py") or path.parent.name == "benches":
            continue
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in wanted:
                said = ast.unparse(node)
                assert any(word in said for word in ("shelf", "parts", "barge()", "mine")), f"{path.name}: {said[:120]}"


def test_three_threads_make_one_work() -> None:
    memo, counts, gate = Memo(), [0], threading.Barrier(3)

    def work() -> int:
        counts[0] += 1
        time.sleep(0.05)
        return memo.once("inner", lambda: 41) + 1

    found: list[int] = []
    threads = [threading.Thread(target=lambda: (gate.wait(), found.append(memo.once("x", work)))) for _ in range(3)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert (found, counts) == ([42] * 3, [1])
    results = worked_out("shore")
    with pytest.raises(ZeroDivisionError):
        results.once(lambda _: 1 // 0)


def test_no_clock_chooses(monkeypatch: pytest.MonkeyPatch) -> None:
    """The answers of every search with the clock as it is and with one that runs ten times as fast; and no search is
    told a time."""
    draw = random.Random(4)
    coils = [Coil(f"C{n}", "2.5 mm2", draw.uniform(3, 40)) for n in range(12)]
    pieces = [Piece(f"W{n}", 1, "2.5 mm2", "copper", "", round(draw.uniform(0.4, 7), 3)) for n in range(40)]

    def answers() -> list[Any]:
        forget_proposals()
        results, found = analyse(demo("shore")), optimise(generated(5))
        plan = plan_cuts(coils, pieces)
        return [
            results.once(fitted).fittings,
            results.once(joins),
            found.sizes,
            found.bound,
            found.floor,
            plan.cuts,
            plan.bound_m,
        ]

    before = answers()
    for name in ("time", "monotonic", "perf_counter", "process_time"):
        real = getattr(time, name)
        monkeypatch.setattr(time, name, lambda real=real: 10 * real())
    assert answers() == before
    for path in (SOURCE / "core").rglob("*.py"):
        text = path.read_text("utf-8")
        assert "time_limit" not in text, path.name
        assert "import time\n" not in text, path.name


# proven by what stands


@pytest.fixture
def proved(tmp_path: Path) -> Iterator[ProjectFile]:
    """The brine loops: one unit, built, proven and signed."""
    with put_demo(tmp_path / "l.umber", "loops") as project:
        yield project


UNIT = "brine hall/1"
Rows = list[dict[str, Any]]


def told(project: ProjectFile) -> Rows:
    """The log as plain data."""
    return [plain_entry(one) for one in project.floor.events()]


def last(rows: Rows, kind: str, n: int = -1) -> dict[str, Any]:
    return [row for row in rows if row["kind"] == kind][n]


def more(rows: Rows, kind: str, data: dict[str, Any], unit: int = 1, step: str = "", build: str = "brine hall") -> None:
    rows.append(
        {
            "id": f"forged {len(rows)} {kind}",
            "build": build,
            "at_ms": 1,
            "kind": kind,
            "unit": unit,
            "step": step,
            "data": data,
        }
    )


def measured(rows: Rows) -> dict[str, Any]:
    return next(
        row
        for row in reversed(rows)
        if row["kind"] == "test" and row["data"].get("value") and row["data"].get("high") and row["data"]["n"]
    )


FORGED: dict[str, Callable[[Rows], object]] = {
    "a word and no tests": lambda rows: [rows.remove(row) for row in [*rows] if row["kind"] == "test"],
    "one test left out": lambda rows: rows.remove(measured(rows)),
    "a reading out of its band called right": lambda rows: measured(rows)["data"].update(value=1e9, ok=True),
    "and its band moved with it": lambda rows: measured(rows)["data"].update(value=1e9, low=0.0, high=1e12, ok=True),
    "a reading said to be nothing": lambda rows: measured(rows)["data"].update(value=None, over=True, ok=True),
    "a reading with no figure": lambda rows: measured(rows)["data"].update(value=None, ok=True),
    "a reading in another unit": lambda rows: measured(rows)["data"].update(unit="mΩ"),
    "a reading at another place": lambda rows: measured(rows)["data"].update(a="i1:A1"),
    "a reading of another kind": lambda rows: measured(rows)["data"].update(kind="look"),
    "a reading under another number": lambda rows: measured(rows)["data"].update(n=measured(rows)["data"]["n"] + 900),
    "a reading as one that followed up": lambda rows: measured(rows)["data"].update(n=0),
    "eyes that saw a figure": lambda rows: next(
        row for row in rows if row["kind"] == "test" and row["data"]["kind"] == "look"
    )["data"].update(value=3.0),
    "eyes that saw it bad": lambda rows: next(
        row for row in rows if row["kind"] == "test" and row["data"]["kind"] == "look"
    )["data"].update(ok=False),
    "a simulated reading": lambda rows: measured(rows)["data"].update(source="simulated"),
    "a reading of no unit": lambda rows: measured(rows).update(unit=0),
    "a reading of another unit": lambda rows: measured(rows).update(unit=2),
    "a reading of another build": lambda rows: measured(rows).update(build="other"),
    "nobody asked about the electronics": lambda rows: rows.remove(last(rows, "safe")),
    "somebody said that they are on": lambda rows: last(rows, "safe")["data"].update(ok=False),
    "no list": lambda rows: rows.remove(last(rows, "proof")),
    "a list that isn't here": lambda rows: last(rows, "proof")["data"].update(tests="0" * 64),
    "the order as the list": lambda rows: last(rows, "proof")["data"].update(tests=rows[0]["data"]["order"]),
    "an order that isn't here": lambda rows: rows[0]["data"].update(order="0" * 64),
    "no order": lambda rows: [rows[0]["data"].pop("order"), rows[0]["data"].pop("design")],
    "one step less": lambda rows: rows.remove(last(rows, "done")),
    "a step taken back": lambda rows: more(rows, "undo", {"of": last(rows, "done")["id"]}),
    "a test taken back": lambda rows: more(rows, "undo", {"of": measured(rows)["id"]}),
    "a step done after it": lambda rows: more(rows, "done", {"op": "crimp"}, step="1|again"),
    "a defect": lambda rows: more(
        rows, "defect", {"code": "jacket-cut", "says": "core cut", "comes_to": "scrap"}, step=last(rows, "done")["step"]
    ),
    "a defect released by nobody who may": lambda rows: [
        more(rows, "defect", {"says": "core cut"}, step="x"),
        more(rows, "release", {"who": "Jo"}, step="y"),
    ],
    "a crimp out of its limits": lambda rows: more(
        rows, "read", {"what": "height", "value": 9.0, "unit": "mm", "verdict": "rework"}, step="x"
    ),
    "an end started over": lambda rows: more(
        rows, "remake", {"wire": "c1", "side": "start", "voids": [], "eaten_mm": 9.0}
    ),
    "a wire given up": lambda rows: more(rows, "scrap", {"wire": "c1", "voids": []}),
    "mended": lambda rows: more(rows, "mended", {"says": "a core", "who": "Jo"}),
    "a fault named": lambda rows: more(rows, "found", {"what": "open", "where": "c1", "says": "c1 is open"}),
    "a proof begun anew": lambda rows: more(rows, "proof", dict(last(rows, "proof")["data"])),
    "gone on elsewhere": lambda rows: more(rows, "upgrade", {"revision": 1, "voids": [], "to": "other"}),
    "a word that it isn't": lambda rows: more(rows, "proven", {"ok": False, "who": "Jo"}),
    "a kind nobody knows": lambda rows: more(rows, "blessed", {"ok": True}),
}
"""Ways to write a log that says "proven" of a unit that isn't."""


def folded(project: ProjectFile, rows: Rows) -> Any:
    """The unit of a log as these rows, every one of them signed for."""
    from dataclasses import replace

    from umber_trunk.store.inputs import inputs_of

    events = [
        event(row["id"], row["build"], row["at_ms"], row["kind"], row["unit"], row["step"], row["data"], n)
        for n, row in enumerate(rows, 1)
    ]
    return records(events, replace(inputs_of(project.floor), signed_to=len(rows)))[0]


def test_forged_entries_prove_nothing(proved: ProjectFile) -> None:
    rows = told(proved)
    assert folded(proved, rows).certain
    assert len(FORGED) >= 30
    for name, forge in FORGED.items():
        mine = json.loads(json.dumps(rows))
        forge(mine)
        record = folded(proved, mine)
        assert not record.certain, name
        assert record.moved_to or record.why or record.state == "in the making", name
    record = folded(
        proved, [*rows, {**measured(rows), "id": "again", "data": {**measured(rows)["data"], "value": 1e9}}]
    )
    assert (record.state, record.why[:10], "out of its band" in record.why) == ("faulty", "was proven", True)
    record = folded(
        proved,
        [
            *rows,
            {**measured(rows), "id": "bad", "data": {**measured(rows)["data"], "value": 1e9}},
            {**measured(rows), "id": "right"},
        ],
    )
    assert record.certain  # a mistyped reading is corrected by a new one
    assert not records(
        [event(r["id"], r["build"], 1, r["kind"], r["unit"], r["step"], r["data"], n) for n, r in enumerate(rows, 1)],
        NO_INPUTS,
    )[0].certain


def merged_from(project: ProjectFile, rows: Rows, signed: bool) -> Any:
    path = station_path(project.path, "yard")
    for row in rows:
        add_line(path, event(row["id"], row["build"], row["at_ms"], row["kind"], row["unit"], row["step"], row["data"]))
    if signed:
        sign_lines(path, project.id)
    return merge(project, path)


def test_a_station_of_another_language_plans_the_same(tmp_path: Path) -> None:
    """What was frozen in German is held against what is planned in English, figure by figure, not word by word."""
    voice.speak("de")
    try:
        project = put_demo(tmp_path / "de.umber", "loops")
    finally:
        voice.speak("")
    with project:
        rows = told(project)
        begun = next(row for row in rows if row["kind"] == "begin")
        assert "Anschlag" in project.floor.input(begun["data"]["order"])
        fresh = [{**begun, "id": "yard b", "build": "yard"}]
        fresh += [
            {**row, "id": f"yard {row['id']}"} for row in rows if row["kind"] in ("proof", "safe", "test", "proven")
        ]
        taken = merged_from(project, fresh, True)
        assert (taken.added, taken.otherwise) == (len(fresh), 0)
        again = merge(project, station_path(project.path, "yard"))
        assert (again.added, again.unsigned, again.otherwise, again.held_back) == (0, 0, 0, "")
        assert kept_unit(project, UNIT).certain
        order = json.loads(project.floor.input(begun["data"]["order"]))
        order["operations"][0]["length_m"] = 9.0
        longer = json.dumps(order)
        assert wordless(longer) != wordless(project.floor.input(begun["data"]["order"]))
    for hostile in ("[" * 100_000, "[" * 900 + "]" * 900, "{"):
        with pytest.raises(ValueError, match=r"nested|Expecting"):
            wordless(hostile)


def test_another_stations_log_proves_only_what_it_signed_and_takes_no_fault_back(tmp_path: Path) -> None:
    for signed in (True, False):
        with put_demo(tmp_path / f"m{signed}.umber", "loops") as project:
            rows = told(project)
            log_said(project, UNIT, "mended", {"says": "core c1", "who": "Jo"})
            assert "mended" in kept_unit(project, UNIT).why
            fresh = [
                {**row, "id": f"yard {row['id']}"} for row in rows if row["kind"] in ("proof", "safe", "test", "proven")
            ]
            taken = merged_from(project, fresh, signed)
            assert (taken.added, taken.unsigned, bool(taken.key), taken.otherwise) == (
                len(fresh),
                0 if signed else len(fresh),
                signed,
                0,
            )
            assert kept_unit(project, UNIT).certain is signed
            project.floor.append(
                [
                    event(
                        "cut",
                        "brine hall",
                        1,
                        "defect",
                        1,
                        last(rows, "done")["step"],
                        {"says": "core cut", "comes_to": "scrap", "station": "the second station"},
                    )
                ]
            )
            assert not signed or kept_unit(project, UNIT).why.endswith(
                "since then: core cut, found at the second station"
            )
            station_path(project.path, "yard").unlink()
            merged_from(project, [{**rows[0], "id": "u", "kind": "undo", "unit": 1, "data": {"of": "cut"}}], True)
            assert not kept_unit(project, UNIT).certain  # who wasn't there can't take a fault back
            project.floor.append_with([event("u2", "brine hall", 1, "undo", 1, "", {"of": "cut"})], (), "sitting")
            assert kept_unit(project, UNIT).certain is signed


def test_what_a_merged_log_may_not_say_is_refused_whole(proved: ProjectFile) -> None:
    rows = told(proved)
    path = station_path(proved.path, "yard")
    for bad, why in (
        ({**rows[5], "data": {**rows[5]["data"], "wire": "other"}}, "other content"),
        ({**rows[5], "id": "s", "kind": "strike", "data": {"of": "x", "who": "a", "why": "b"}}, "no other station"),
        ({**rows[0], "id": "b2", "build": "x", "data": {**rows[0]["data"], "harness": "other"}}, "another harness"),
        ({**rows[5], "id": "m", "kind": "merged", "data": {}}, "no other station"),
    ):
        path.unlink(missing_ok=True)
        with pytest.raises(StoreError, match=why):
            merged_from(proved, [bad], True)
    assert len(told(proved)) == len(rows)
    path.unlink()
    merged_from(
        proved,
        [{**rows[0], "id": "b3", "build": "less", "data": {**rows[0]["data"], "order": rows[0]["data"]["design"]}}],
        True,
    )
    begun = {**rows[0], "id": "b4", "build": "swapped", "data": {**rows[0]["data"], "units": [7]}}
    path.unlink()
    assert merged_from(proved, [begun], True).otherwise == 1  # another unit's order
    path.write_text(path.read_text().replace('"unit": 0', '"unit": 1', 1))
    with pytest.raises(StoreError, match="signature that doesn’t hold"):
        merge(proved, path)
    assert read_lines(path).faults == []  # looked at only where the harness is said


def test_a_proof_keeps_its_meter_and_as_is_stands_first(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    with ProjectFile.create(tmp_path / "s.umber", demo("shore"), copied=False) as project:
        begin(project, "lot", [1]).close()
        kept = UnitProof(project, "lot", 1, "Ines", Meter(False, two_ohm=0.02, two_share=0.01), box=False)
        kept.load()
        kept.safe()
        again = UnitProof(project, "lot", 1, "Ines")
        again.load()
        assert (again.meter.four_wire, again.meter.two_ohm, again.box) == (False, 0.02, False)
        assert [(t.low, t.high) for t in again.proof.plan.tests] == [(t.low, t.high) for t in kept.proof.plan.tests]
        usual = UnitProof(project, "lot", 1, "Ines", anew=True).load().plan
        assert [(t.low, t.high) for t in usual.tests] != [(t.low, t.high) for t in kept.proof.plan.tests]
        with pytest.raises(InputError, match="--anew"):
            UnitProof(project, "lot", 1, "Ines", Meter())
        unit = Unit(again.proof.net, seed=3, meter=again.meter)
        again.safe()
        while (task := again.proof.now) is not None:
            again.answer(
                task.value_of(unit.measure(task.probe)) if task.probe else task.expect if task.unit else None,
                None if task.unit else True,
            )
        assert "steps aren’t done" in again.close_with("Ines")
        assert kept_unit(project, "lot/1").proven is None
    path = tmp_path / "s.umber"
    assert main(["units", str(path), "--certificate", "lot/1", str(tmp_path / "c.json")]) == 1
    assert json.loads((tmp_path / "c.json").read_text())["title"] == "test record"
    assert "no certificate" in capsys.readouterr().out
    with ProjectFile.open(path) as project:
        kept = UnitProof(project, "lot", 1, "Ines")
        with pytest.raises(InputError, match="why"):
            kept.take_as_is("Jo", " ")
        kept.take_as_is("Jo", "made by the yard, handed over untested")
        project.floor.sign("sitting")
        record = kept_unit(project, "lot/1")
        assert record.certain
        earths = {test.n for test in kept.load().plan.tests if test.kind == "earth"}
        assert earths  # an extension lead: as-is waives no earth
        from umber_trunk.store.inputs import inputs_of

        mine = [one for one in project.floor.events() if not (isinstance(one.act, Answered) and one.act.n in earths)]
        assert not records(mine, inputs_of(project.floor))[0].certain
    assert main(["units", str(path), "--certificate", "lot/1", str(tmp_path / "c.json")]) == 0
    assert next(iter(json.loads((tmp_path / "c.json").read_text())["as_is"].values()))


# seals


def rechained(project: ProjectFile, change: Callable[[int, dict[str, Any]], dict[str, Any] | None]) -> None:
    """What somebody with the file and no key can do: rewrite entries and chain all anew, words and columns with
    them."""
    from umber_trunk.store.entries import add_sealed

    rows = beside(project).execute("SELECT n, id, build, made, body FROM log ORDER BY n").fetchall()
    beside(project).execute("DELETE FROM log")
    beside(project).execute("DELETE FROM mark")
    kept = []
    for n, name, build, made, body in rows:
        plain = change(n, json.loads(body))
        if plain is not None:
            kept.append((name, build, made, json.dumps(plain, ensure_ascii=False)))
    add_sealed(beside(project), "x", kept)


def test_every_forgery_is_noticed_where_a_certificate_exists(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path, paper = tmp_path / "l.umber", tmp_path / "c.json"
    put_demo(path, "loops").close()
    assert main(["units", str(path), "--certificate", UNIT, str(paper)]) == 0
    assert main(["verify", str(path), "--certificate", str(paper)]) == 0
    whole = path.read_bytes()

    def bad(n: int, plain: dict[str, Any]) -> dict[str, Any]:
        if plain["kind"] == "test" and plain["data"].get("n") == 60:
            plain["data"]["value"] = 1.0
        return plain

    ways: dict[str, Callable[[ProjectFile], object]] = {
        "a value": lambda p: beside(p).execute(
            "UPDATE log SET body = ? WHERE n = 500",
            (json.dumps(dict(zip(("kind", "unit", "step", "data"), ("note", 1, "", {}), strict=True))),),
        ),
        "the unit it stands under": lambda p: beside(p).execute("UPDATE log SET unit = 2 WHERE n = 500"),
        "the words it is found by": lambda p: beside(p).execute("DELETE FROM mark WHERE word = 'coil c01'"),
        "a word more": lambda p: beside(p).execute("INSERT INTO mark VALUES ('coil c99', 'brine hall', 1)"),
        "what it was frozen with": lambda p: beside(p).execute("UPDATE input SET body = x'789c030000000001'"),
        "that left out": lambda p: beside(p).execute("DELETE FROM input"),
        "rewritten and chained anew": lambda p: rechained(p, bad),
        "one entry taken out and chained anew": lambda p: rechained(p, lambda n, plain: None if n == 300 else plain),
        "its end cut off and chained anew": lambda p: rechained(p, lambda n, plain: plain if n < 500 else None),
        "signatures taken out": lambda p: rechained(
            p, lambda _, plain: None if plain["kind"] == "signed" else bad(0, plain)
        ),
        "all of it": lambda p: rechained(p, lambda *_: None),
    }
    for name, forge in ways.items():
        path.write_bytes(whole)
        with ProjectFile.open(path) as project:
            forge(project)
        with ProjectFile.open(path) as project:
            assert not [one for one in records_now(project) if one.certain], name
        assert main(["verify", str(path), "--certificate", str(paper)]) == 1, name
    path.write_bytes(whole)
    data = json.loads(paper.read_text())
    assert main(["verify", str(path), "--seal", str(data["log_entries"]), data["seal"]]) == 0
    assert main(["verify", str(path), "--seal", str(data["log_entries"] + 9), data["seal"]]) == 1
    assert "was then" in capsys.readouterr().out


def records_now(project: ProjectFile) -> list[Any]:
    from umber_trunk.store.found_units import records_of

    return records_of(project)


def test_a_key_names_a_station_and_another_one_is_told(proved: ProjectFile, capsys: pytest.CaptureFixture[str]) -> None:
    path, old = proved.path, this_station().key
    proved.close()
    assert (this_station().key, new_key().key == old) == (old, False)
    main(["verify", str(path)])
    assert "new here" in capsys.readouterr().out
    assert main(["station", str(path), "--know", old, "the old bench"]) == 2
    assert main(["station", str(path), "--know", old, "the old bench", "--who", "Jo", "--why", "a new computer"]) == 0
    capsys.readouterr()
    assert main(["verify", str(path), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["whole"]
    assert {one["key"]: one["known_as"] for one in found["stations"]} == {
        old: "the old bench",
        this_station().key: this_station().name,
    }
    main(["verify", str(path)])
    text = capsys.readouterr().out
    assert "the old bench" in text
    assert text.count("known here") == 2


def test_an_entry_struck_is_kept_and_makes_nothing_more_proven(proved: ProjectFile) -> None:
    rows = told(proved)
    with pytest.raises(StoreError, match="no entry"):
        strike(proved, "90000", "Jo", "x")
    with pytest.raises(InputError, match="struck"):
        strike(proved, "1", "Jo", "x")
    at = next(n for n, row in enumerate(rows, 1) if row is measured(rows))
    build, unit = UNIT.split("/")
    assert strike(proved, str(at), "Jo", "read at the wrong plug") == f"Entry {at}, test of {build} / {unit}"
    record = kept_unit(proved, UNIT)
    assert (record.certain, record.struck[0][2].who, len(told(proved))) == (False, "Jo", len(rows) + 2)
    assert "struck by Jo" in record.why
    proved.floor.append_with([event("d", "brine hall", 9, "defect", 1, "1|x", {"says": "core cut"})], (), "sitting")
    strike(proved, "d", "Jo", "it was another unit’s")
    assert "core cut" in [act.says for _, act in kept_unit(proved, UNIT).open_defects]  # striking a fault mends nothing


def test_a_struck_undo_gives_the_fault_back_and_no_test(proved: ProjectFile) -> None:
    rows = told(proved)
    answer = measured(rows)["id"]
    proved.floor.append([event("d", "brine hall", 9, "defect", 1, "1|x", {"says": "core cut"})])
    for name, of in (("u1", "d"), ("u2", answer)):
        proved.floor.append([event(name, "brine hall", 10, "undo", 1, "", {"of": of})])
    assert kept_unit(proved, UNIT).open_defects == []
    before = kept_unit(proved, UNIT).answered
    for name in ("u1", "u2"):
        strike(proved, name, "Jo", "taken back by mistake")
    record = kept_unit(proved, UNIT)
    assert [act.says for _, act in record.open_defects] == ["core cut"]
    assert (record.answered, record.certain) == (before, False)


# a stage earns its tick


def states_of(design: Design, facts: Facts | None = None) -> dict[str, str]:
    results = analyse(design)
    return {one.stage: one.state for one in stage_states(results, facts or Facts())}


def test_a_tick_is_never_said_of_nothing_and_each_state_is_reached(tmp_path: Path, proved: ProjectFile) -> None:
    assert set(states_of(Design()).values()) == {"nothing"}
    with put_demo(tmp_path / "t.umber", "tractor") as project:
        results = analyse(project.design)
        states = {one.stage: one for one in stage_states(results, facts_of(project, results))}
        assert [states[name].state for name in ("needs", "sizes", "make", "prove", "keep")] == [
            "done",
            "done",
            "open",
            "nothing",
            "done",
        ]
        assert str(states["sizes"].why) == "29 wires, 3 cases, all within limits"
        assert str(states["make"].why).endswith("1090 of 2293 steps of lot 1")
    results = analyse(proved.design)

    def now() -> dict[str, Any]:
        return {one.stage: one for one in stage_states(results, facts_of(proved, results))}

    assert {name: one.why for name, one in now().items() if one.state != "done"} == {}
    assert str(now()["prove"].why).startswith("90 of 90 tests, 1 unit")
    log_said(proved, UNIT, "deviation", {"says": "x", "who": "Jo"})
    assert (now()["keep"].state, now()["prove"].state) == ("open", "done")  # not signed yet
    proved.floor.append_with(
        [event("d", "brine hall", 1_799_000_000_000, "defect", 1, "1|x", {"says": "core cut"})], (), "sitting"
    )
    after = now()
    assert (after["keep"].state, after["prove"].state, after["make"].state) == ("faults", "open", "done")
    assert "core cut" in str(after["keep"].why)
    assert next_of(list(after.values())).stage == "prove"
    with ProjectFile.create(tmp_path / "b.umber", demo("shore"), copied=False) as fresh:
        fresh.floor.put_coils([Coil("C1", "35 mm2", 0.1)], 0)
        found = analyse(fresh.design)
        kit = next(one for one in stage_states(found, facts_of(fresh, found)) if one.stage == "kit")
        assert (kit.state, "runs short" in str(kit.why)) == ("open", True)
    proved.floor.put_coils([], 0, replace=True)
    assert (now()["kit"].state, "No shelf" in str(now()["kit"].why)) == ("open", True)
    proved.floor.waive("Mara", "bought for it")
    assert (now()["kit"].state, "Mara: bought for it" in str(now()["kit"].why)) == ("done", True)


def test_findings_are_told_apart_and_stay_the_same_over_edits_that_dont_touch_them() -> None:
    designs = [demo(name) for name in tuple(DEMOS)] + [generated(60)]
    broken = demo("barge")
    wires = tuple(
        w.model_copy(
            update={
                "start": w.start.model_copy(update={"cavity": "none"}),
                "finish": w.finish.model_copy(update={"cavity": "none"}),
            }
        )
        for w in broken.wires[:3]
    )
    segments = tuple(s.model_copy(update={"a": "nowhere", "zone": None}) for s in broken.segments[:3])
    designs.append(
        broken.model_copy(
            update={
                "wires": (*wires, *broken.wires[3:]),
                "segments": (*segments, *broken.segments[3:]),
                "supplies": broken.supplies * 1,
            }
        )
    )
    for design in designs:
        ids = [one.id for one in analyse(design).findings]
        assert len(ids) == len(set(ids)), sorted(one for one in ids if ids.count(one) > 1)[:4]
    results = analyse(broken)
    renamed = broken.model_copy(update={"project": broken.project.model_copy(update={"name": "other"})})
    assert {one.id for one in analyse(renamed).findings} == {one.id for one in results.findings}
    for one in results.findings:
        assert one.message == say(f"{one.form}.says", **one.values)


def test_every_sentence_is_in_the_catalogue_and_every_kind_of_entry_has_one() -> None:
    assert all(f"log.{kind}" in catalogue() for kind in BY_KIND)
    assert str(entry_told(event("1", "b", 1, "blessed", 1, "", {"a": 1}))).endswith("know: blessed")
    assert say("next.prove.open", name="u", many=2).endswith("and the others.")
    codes = {key.rpartition(".")[0] for key in catalogue() if key.endswith(".says")}
    assert all(f"{code}.cure" in catalogue() for code in codes)
    rules = set()  # of fits: their sentences are found by their rule, or by the form that stands for it
    for path in (SOURCE / "core/ends").glob("*_rules.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "attr", "") in ("fit", "within", "of_housing"):
                forms = [one.value for one in node.keywords if one.arg == "form"]
                told = [one.value for one in forms or node.args if isinstance(one, ast.Constant)]
                rules |= {one for one in told if isinstance(one, str) and "." in one}
    assert len(rules) > 25
    assert {one for one in rules if f"fit.{one}.cure" not in catalogue()} == set()
    assert not judged(Listed(), Answered(test="look", ok=True, value=1.0))


def test_every_kind_has_somebody_to_answer_for_it() -> None:
    assert set(CHANGES) == set(KINDS)
    assert all(
        kind.ohm(net, Fault(what, ("T1",), "plug", 0.4, "6 mm2", "aluminium", 0.5, 0.5)) > 0
        for net in [worked_out("shore").once(netlist)]
        for what, kind in KINDS.items()
        if kind.in_line
    )
    assert set(JUDGES) == set(RUNS) == set(FAMILIES)
    assert set(DRAWS) == {name for name, one in FAMILIES.items() if one.kind is not None}
    ends = [WireEnd.__annotations__["made"]]
    assert all(repr(name) in str(ends[0]).replace('"', "'") for name in FAMILIES)


class Listed:
    """A test of a list that eyes judge."""

    unit = ""
    low = high = None
