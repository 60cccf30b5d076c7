"""Units on disk: the sealed log, search, proofs that go on, upgrades, repairs, certificates; meters over a real
socket."""

from __future__ import annotations

import json
import math
import random
import socket
import sqlite3
import threading
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from demos import worked_out
from umber_trunk.app.paper.as_built import write_as_built
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import InputError, UmberError
from umber_trunk.core.keep.compare import compare, compare_units
from umber_trunk.core.keep.marks import marks
from umber_trunk.core.keep.record import records
from umber_trunk.core.keep.seals import FIRST, broken_at, sealed
from umber_trunk.core.make.events import Event, event
from umber_trunk.core.make.unit_acts import Found
from umber_trunk.core.prove.faults import parse_fault
from umber_trunk.core.prove.netlist import netlist
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.session import Prover
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.store import database, schema
from umber_trunk.store.builds import begin, resume
from umber_trunk.store.certificates import certificate
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.files import StoreError
from umber_trunk.store.found_units import kept_unit, records_of
from umber_trunk.store.keeping import log_said, plan_upgrade, repair_of, take_upgrade
from umber_trunk.store.meters import (
    Bench,
    MeterLink,
    MeterServer,
    parse_answer,
    parse_volts,
    read_place,
    simulated,
    written,
)
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.proofs import UnitProof
from umber_trunk_helpers import beside


@pytest.fixture(scope="module")
def loops_file(tmp_path_factory: pytest.TempPathFactory) -> bytes:
    path = tmp_path_factory.mktemp("loops") / "l.umber"
    put_demo(path, "loops").close()
    return path.read_bytes()


@pytest.fixture
def loops(loops_file: bytes, tmp_path: Path) -> Iterator[ProjectFile]:
    path = tmp_path / "l.umber"
    path.write_bytes(loops_file)
    with ProjectFile.open(path) as project:
        yield project


@pytest.fixture
def shore(tmp_path: Path) -> Iterator[ProjectFile]:
    """Two units of the shore leads, begun."""
    with ProjectFile.create(tmp_path / "s.umber", demo("shore"), copied=False) as project:
        begin(project, "lot 1", [1, 2], hand="Mara").close()
        yield project


def made(project: ProjectFile, *units: int) -> None:
    """Every step of these units done, as the bench would log it."""
    with resume(project, "lot 1") as build:
        told = [
            event(
                f"e{n}", "lot 1", n, "done", step.unit, step.key, {"op": step.operation.op, "wire": step.operation.wire}
            )
            for n, step in enumerate(build.bench.order.steps)
            if step.unit in (0, *units)
        ]
        many = len(project.floor.events())
        assert project.floor.append(told) == len(project.floor.events()) - many  # those known already are left out


def loaded(project: ProjectFile, unit: int, before: UnitProof | None = None) -> UnitProof:
    """A unit's proof, on the figures of another where there is one."""
    kept = UnitProof(project, "", unit, "Ines")
    kept.load()
    return kept


@pytest.fixture(scope="module")
def net() -> Any:
    return worked_out("shore").once(netlist)


class TestSeals:
    """Whatever is changed in the log shows."""

    @given(
        st.lists(
            st.tuples(st.text(max_size=9), st.text(max_size=9), st.integers(0, 2**40), st.text(max_size=30)),
            min_size=1,
            max_size=8,
            unique_by=lambda row: row[0],
        ),
        st.data(),
    )
    def test_any_change_of_any_entry_is_found(self, rows: list[tuple[str, str, int, str]], data: st.DataObject) -> None:
        chain, before = [], FIRST
        for row in rows:
            before = sealed(before, *row)
            chain.append((*row, before))
        assert broken_at(chain) is None
        at = data.draw(st.integers(0, len(chain) - 1))
        field = data.draw(st.integers(0, 3))
        other = list(chain[at])
        other[field] = other[field] + 1 if field == 2 else str(other[field]) + "x"
        assert broken_at([*chain[:at], tuple(other), *chain[at + 1 :]]) == at + 1  # type: ignore[list-item]
        if at + 1 < len(chain):
            assert broken_at([*chain[:at], *chain[at + 1 :]]) == at + 1  # one taken out

    def test_letters_that_move_across_fields_show(self) -> None:
        assert sealed(FIRST, "ab", "c", 1, "d") != sealed(FIRST, "a", "bc", 1, "d")

    def test_every_byte_of_a_log_in_a_file(self, loops: ProjectFile, tmp_path: Path) -> None:
        assert not loops.floor.broken()
        draw = random.Random(1)
        rows = beside(loops).execute("SELECT n, body FROM log").fetchall()
        for number, body in draw.sample(rows, 25):
            at = draw.randrange(len(body))
            changed = body[:at] + chr((ord(body[at]) + 1) % 127 or 1) + body[at + 1 :]
            beside(loops).execute("UPDATE log SET body = ? WHERE n = ?", (changed, number))
            assert f"entry {number} " in str(loops.floor.broken())
            beside(loops).execute("UPDATE log SET body = ? WHERE n = ?", (body, number))
        for column, value in (("made", 7), ("build", "other"), ("seal", "0" * 64), ("id", "zz")):
            before = beside(loops).execute(f"SELECT {column} FROM log WHERE n = 40").fetchone()[0]
            beside(loops).execute(f"UPDATE log SET {column} = ? WHERE n = 40", (value,))
            assert loops.floor.broken()
            beside(loops).execute(f"UPDATE log SET {column} = ? WHERE n = 40", (before,))
        beside(loops).execute("DELETE FROM log WHERE n = (SELECT max(n) FROM log)")
        assert "end" in str(loops.floor.broken())

    def test_a_log_of_the_version_before_is_sealed_as_it_stands(self, shore: ProjectFile) -> None:
        plain = [
            (*row[:4], json.loads(row[4])) for row in beside(shore).execute("SELECT n, id, build, made, body FROM log")
        ]
        for row in plain:  # nothing was frozen then
            row[4]["data"] = {
                name: value for name, value in row[4]["data"].items() if name not in ("design", "order", "version")
            }
        path, rows = shore.path, [(*row[:4], json.dumps(row[4])) for row in plain if row[4]["kind"] != "signed"]
        with database.schema_changes(beside(shore)):
            for table in ("log", "mark", "input"):
                beside(shore).execute(f"DROP TABLE {table}")
            beside(shore).execute(schema.FLOOR_4["log"])
        beside(shore).executemany("INSERT INTO log VALUES (?, ?, ?, ?, ?)", rows)
        beside(shore).execute("PRAGMA user_version = 4")
        shore.close()
        with ProjectFile.open(path) as project:
            assert [one.build for one in project.floor.builds()] == ["lot 1"]
            assert not project.floor.broken()
            assert project.floor.units("build lot 1") == [("lot 1", 0)]
            assert records_of(project)[0].order == ""
            with resume(project) as build:  # planned once more, frozen, and marked so
                assert build.earlier
            assert (records_of(project)[0].earlier, len(records_of(project)[0].order)) == (True, 64)


class TestUnits:
    """What the log says of each unit."""

    def test_found_by_coil_hand_serial_and_both(self, loops: ProjectFile) -> None:
        assert [one.name for one in records_of(loops)] == ["BL-001"]
        for words in (
            "coil C01",
            "hand Ines",
            "serial BL-001",
            "coil C01 hand Ines",
            "proven",
            "revision 1",
            "tool cutter",
        ):
            assert len(records_of(loops, words)) == 1, words
        for words in ("coil C99", "coil C01 hand Mara"):
            assert records_of(loops, words) == [], words
        for words in ("coil C", "prov"):
            assert (len(records_of(loops, words)), len(records_of(loops, words, begins=True))) == (0, 1)
        assert kept_unit(loops, "bl-001").state == "proven"
        assert kept_unit(loops, "brine hall/1").serial == "BL-001"
        with pytest.raises(StoreError, match="no unit"):
            kept_unit(loops, "brine hall/9")

    def test_what_is_said_of_a_unit_stands_and_serials_are_single(self, shore: ProjectFile) -> None:
        log_said(shore, "lot 1/1", "serial", {"serial": "S-1"})
        log_said(shore, "lot 1/1", "deviation", {"says": "longer boot", "who": "Mara"})
        with pytest.raises(InputError, match="already"):
            log_said(shore, "lot 1/2", "serial", {"serial": "S-1"})
        with pytest.raises(InputError, match="empty"):
            log_said(shore, "lot 1/2", "deviation", {"says": " ", "who": "Mara"})
        one, two = records_of(shore)
        assert [act.says for _, act in one.said] == ["longer boot"]
        differs = {what: (a, b) for what, a, b in compare_units(one, two)}
        assert differs["deviations"] == ("longer boot", "none")
        assert "coils" not in differs

    def test_ten_thousand_units_are_searched_by_a_word_each(self) -> None:
        # the index answers: no entry of a log is read
        db = sqlite3.connect(":memory:")
        db.execute(schema.FLOOR["mark"])
        db.executemany(
            "INSERT INTO mark VALUES (?, ?, ?)", [(f"coil c{n % 97}", f"lot {n // 50}", n % 50) for n in range(10_000)]
        )
        plan = db.execute("EXPLAIN QUERY PLAN SELECT DISTINCT build, unit FROM mark WHERE word = 'coil c12'").fetchall()
        assert "SEARCH mark USING PRIMARY KEY (word=?)" in str(plan)
        found = db.execute("SELECT DISTINCT build, unit FROM mark WHERE word = 'coil c12'").fetchall()
        assert len(found) == sum(n % 97 == 12 for n in range(10_000))

    def test_records_forget_what_was_undone(self) -> None:
        begun = event("0", "b", 1, "begin", 0, "", {"units": [1, 2], "school": "operation", "hands": 1, "revision": 3})
        done = event("1", "b", 2, "done", 1, "1|W1 cut", {"coil": "C1", "wire": "W1", "hand": "Jo", "tool": "cutter"})
        shared = event("2", "b", 3, "done", 0, "0|stop", {"tool": "stop"})
        undo = event("3", "b", 4, "undo", 1, "", {"of": "1"})
        assert [one.coils for one in records([begun, done])] == [{"C1": {"W1"}}, {}]
        assert [one.coils for one in records([begun, done, undo])] == [{}, {}]
        assert all(("stop", "") in one.tools for one in records([begun, shared]))
        assert marks(done) == ["hand jo", "coil c1", "tool cutter"]
        for kind, data, words in (
            ("test", {"kind": "look", "ok": True, "by": "Ada"}, ["hand ada"]),
            ("serial", {"serial": "S  7", "hand": "Bo"}, ["hand bo", "serial s 7"]),
            ("defect", {"code": "B2"}, ["fault b2"]),
            ("defect", {}, []),
            ("remake", {"wire": "W1", "side": "start", "voids": [], "eaten_mm": 1.0}, ["remake w1"]),
            ("scrap", {"wire": "W2", "voids": []}, ["scrap w2"]),
            ("done", {"wire": "W3", "code": "B2"}, []),
            ("found", {"what": "open:W1"}, ["fault open:w1"]),
            ("proven", {"ok": True, "who": ""}, ["proven"]),
            ("proven", {"ok": False, "who": ""}, ["refused"]),
            ("deviation", {"text": "x"}, ["deviation"]),
            ("begin", {"units": [1], "school": "wire", "hands": 1, "revision": 4}, ["revision 4", "build b"]),
            ("done", {"coil": "C" * 200}, [("coil " + "c" * 200)[:120]]),
        ):
            assert marks(event("9", "b", 5, kind, 1, "", data)) == words

    def test_readings_that_differ_by_more_than_a_tenth_are_compared(self) -> None:
        begun = event("0", "b", 1, "begin", 0, "", {"units": [1, 2], "school": "operation", "hands": 1, "revision": 1})

        def tested(unit: int, n: int, value: float | None, ok: bool) -> Event:
            return event(
                f"{unit}.{n}",
                "b",
                2,
                "test",
                unit,
                "",
                {"n": n, "kind": "continuity", "a": "box:1", "b": "lamp:1", "value": value, "unit": "Ω", "ok": ok},
            )

        mine = [
            tested(1, 1, 0.100, True),
            tested(1, 2, 0.100, True),
            tested(1, 3, 0.1, True),
            tested(1, 4, None, True),
            tested(1, 10, 5.0, True),
        ]
        theirs = [
            tested(2, 1, 0.109, True),
            tested(2, 2, 0.112, True),
            tested(2, 3, 0.1001, False),
            tested(2, 4, None, True),
            tested(2, 11, 5.0, True),
        ]
        one, two = records([begun, *mine, *theirs])
        rows = [row for row in compare_units(one, two) if row[0].startswith("test")]
        assert [row[0] for row in rows] == ["test 2, box:1 to lamp:1", "test 3, box:1 to lamp:1"]
        assert rows[0][1:] == ("0.1 Ω", "0.112 Ω")

    def test_a_remake_takes_the_proof_back(self) -> None:
        begun = event("0", "b", 1, "begin", 0, "", {"units": [1], "school": "operation", "hands": 1, "revision": 1})
        proven = event("1", "b", 2, "proven", 1, "", {"ok": True, "who": "Jo"})
        remake = event(
            "2",
            "b",
            3,
            "remake",
            1,
            "",
            {"wire": "W1", "side": "start", "voids": ["1|x"], "eaten_mm": 9.0, "why": "nicked"},
        )
        before, after = records([begun, proven])[0], records([begun, proven, remake])[0]
        assert (before.state, before.was.who, "prove it once more" in before.why) == ("in the making", "Jo", True)
        assert (after.state, [(act.wire, act.side) for _, act in after.remakes]) == ("in the making", [("W1", "start")])

    def test_certificate_and_book_in_three_formats(self, loops: ProjectFile, tmp_path: Path) -> None:
        record = kept_unit(loops, "BL-001")
        for whole in (False, True):
            write_as_built(loops, record, tmp_path / f"c{whole}.pdf", whole)
            assert (tmp_path / f"c{whole}.pdf").read_bytes().startswith(b"%PDF")
        assert (tmp_path / "cTrue.pdf").stat().st_size > (tmp_path / "cFalse.pdf").stat().st_size
        write_as_built(loops, record, tmp_path / "c.json", True)
        plain = json.loads((tmp_path / "c.json").read_text())
        assert plain["seal"] == loops.floor.seal()[1]
        assert (plain["serial"], len(plain["tests"]), plain["proven"]["who"]) == ("BL-001", len(record.tests), "Ines")
        write_as_built(loops, record, tmp_path / "c.csv", False)
        assert (tmp_path / "c.csv").read_text().count("\n") == 1 + len(record.tests) + len(record.readings)
        with pytest.raises(InputError, match="none of"):
            write_as_built(loops, record, tmp_path / "c.doc", False)


class TestRevisions:
    """What differs, and what that means for a unit half built."""

    def test_wires_added_gone_and_changed(self) -> None:
        old = demo("shore")
        kept = [wire for wire in old.wires if wire.id != "T5"]
        new = old.model_copy(
            update={
                "wires": (
                    *(w.model_copy(update={"colour": "violet"}) if w.id == "T6" else w for w in kept),
                    old.wires[0].model_copy(update={"id": "T9"}),
                )
            }
        )
        found = compare(old, new)
        assert (found.wires.added, found.wires.gone) == (("T9",), ("T5",))
        assert [(one.id, one.what) for one in found.wires.changed] == [("T6", (("colour", "red", "violet"),))]
        assert compare(old, old).none
        other = new.model_copy(update={"project": new.project.model_copy(update={"remakes": 3})})
        assert compare(new, other).project == (("remakes", "2", "3"),)

    def test_an_upgrade_does_just_the_steps_that_differ(self, shore: ProjectFile) -> None:
        made(shore, 1)
        design = shore.design
        wires = tuple(w.model_copy(update={"size": "50 mm2"}) if w.id == "B1" else w for w in design.wires)
        shore.commit(design.model_copy(update={"wires": wires}), "B1 thicker")
        found = plan_upgrade(shore, "lot 1/1", shore.head)
        about = {key.split()[0] for key in found.todo if key.split()[0] in {w.id for w in design.wires}}
        assert about == {"B1"}
        assert all(
            "B1" in key or key.startswith("sample") or key.endswith(("test", "last look")) for key in found.todo
        ), found.todo
        assert len(found.kept) > 0.8 * len(kept_unit(shore, "lot 1/1").done) - 60
        with pytest.raises(InputError, match="who decides"):
            take_upgrade(shore, "lot 1/1", shore.head, found, " ")
        log_said(shore, "lot 1/1", "serial", {"serial": "S-9"})
        build = take_upgrade(shore, "lot 1/1", shore.head, found, "Mara")
        record = kept_unit(shore, "lot 1/1")
        assert (record.build, record.revision, record.serial) == (build, shore.head, "S-9")
        assert {key.partition("|")[2] for key in record.done} == set(found.kept)
        with resume(shore, build) as going_on:  # the bench does just what differs
            todo = [step.operation.key for step in going_on.bench.order.steps if step.key not in going_on.bench.done]
        assert {key for key in todo if not key.startswith("sample")} == {
            key for key in found.todo if not key.startswith("sample")
        }
        assert [one.state for one in records_of(shore)][:2] == ["upgraded", "in the making"]
        assert next(row.frozen for row in shore.revisions() if row.seq == shore.head)
        with pytest.raises(InputError, match="already"):
            plan_upgrade(shore, "lot 1/1", shore.head)
        assert kept_unit(shore, "lot 1/2").revision == 1

    def test_a_wire_that_is_gone_comes_out(self, shore: ProjectFile) -> None:
        made(shore, 1)
        design = shore.design
        shore.commit(design.model_copy(update={"wires": tuple(w for w in design.wires if w.id != "B2")}), "no B2")
        found = plan_upgrade(shore, "lot 1/1", shore.head)
        assert found.wires_out == ("B2",)
        assert "B2 comes out" in found.told

    def test_nothing_done_means_all_to_do(self, shore: ProjectFile) -> None:
        design = shore.design
        shore.commit(design.model_copy(update={"project": design.project.model_copy(update={"name": "x"})}), "named")
        found = plan_upgrade(shore, "lot 1/2", shore.head)
        assert not found.kept
        assert not found.voids

    def test_a_repair_starts_from_what_is_left(self, shore: ProjectFile) -> None:
        record = kept_unit(shore, "lot 1/1")
        found = repair_of(shore, record, "winch")
        assert {end.wire for end in found.ends} == {"B1", "B2"}
        assert all(end.times == 2 and end.parts for end in found.ends)  # the project allows two remakes
        shore.floor.append(
            [
                event(
                    "r",
                    "lot 1",
                    9,
                    "remake",
                    1,
                    "",
                    {
                        "wire": "B1",
                        "side": "finish",
                        "voids": [],
                        "eaten_mm": found.ends[0].left_mm / 2,
                        "why": "burnt",
                    },
                )
            ]
        )
        again = repair_of(shore, kept_unit(shore, "lot 1/1"), "winch")
        assert {end.wire: end.times for end in again.ends} == {"B1": 1, "B2": 2}
        assert any("burnt" in row for row in again.story)
        with pytest.raises(InputError, match="no end"):
            repair_of(shore, record, "nowhere")


class TestProofs:
    """A proof in the log."""

    def _through(self, kept: UnitProof, unit: Unit, most: int = 10_000, who: str = "Ines") -> None:
        kept.safe()
        for _ in range(most):
            task = kept.proof.now
            if task is None:
                break
            kept.answer(
                task.value_of(unit.measure(task.probe)) if task.probe else task.expect if task.unit else None,
                None if task.unit else True,
            )
        kept.close_with(who)

    def test_half_done_it_goes_on_and_at_the_end_it_is_proven(self, shore: ProjectFile) -> None:
        made(shore, 1, 2)
        kept = loaded(shore, 1)
        unit = Unit(kept.proof.net, seed=2)
        self._through(kept, unit, 20)
        assert kept_unit(shore, "lot 1/1").state == "in the making"
        again = loaded(shore, 1, kept)
        assert len(again.proof.answers) == 20
        assert again.proof.now.text == kept.proof.now.text  # type: ignore[union-attr]
        self._through(again, unit)
        record = kept_unit(shore, "lot 1/1")
        assert record.state == "proven"
        assert len(record.tests) == len(again.proof.plan.tests)
        assert kept_unit(shore, "lot 1/2").tests == []

    def test_taken_back_and_mended(self, shore: ProjectFile) -> None:
        made(shore, 1, 2)
        kept = loaded(shore, 2)
        kept.answer(ok=True)
        kept.answer(ok=False)
        kept.take_back()
        kept.load()
        assert len(kept.proof.answers) == 1
        assert kept.proof.answers[0].ok
        assert len(kept_unit(shore, "lot 1/2").tests) == 2  # what was read wrong is kept, and has to be read again
        self._through(kept, Unit(kept.proof.net, [parse_fault(kept.proof.net, "open:T4")], 3))
        record = kept_unit(shore, "lot 1/2")
        assert record.state == "faulty"
        assert record.found[0][1].where == "T4"
        assert records_of(shore, "fault open")
        log_said(shore, "lot 1/2", "mended", {"says": "T4 crimped anew", "who": "Mara"})
        assert kept.moved_on()
        fresh = loaded(shore, 2, kept)
        assert fresh.proof.answers == []
        self._through(fresh, Unit(fresh.proof.net, seed=4))
        assert kept_unit(shore, "lot 1/2").state == "proven"
        with pytest.raises(InputError, match="empty"):
            log_said(shore, "lot 1/2", "mended", {"says": "x", "who": ""})
        log_said(shore, "lot 1/2", "mended", {"says": "T5 too", "who": "Mara"})  # it isn't what was proven any more
        assert (kept_unit(shore, "lot 1/2").state, records_of(shore, "proven")) == ("in the making", [])

    def test_a_simulated_reading_proves_no_real_unit(self, shore: ProjectFile) -> None:
        made(shore, 1)
        kept = loaded(shore, 1)
        unit = Unit(kept.proof.net, seed=2)
        self._through(kept, unit, 20)
        kept.safe()
        kept.answer(unit.measure(kept.proof.now.probe), simulated=True)  # type: ignore[union-attr, arg-type]
        again = loaded(shore, 1, kept)
        assert again.simulated
        self._through(again, unit)
        record = kept_unit(shore, "lot 1/1")
        assert (record.state, record.simulated) == ("proven in simulation", True)
        assert again.results is not None
        sheet = certificate(again.results, record, shore.floor.seal())
        assert (sheet.sound, "test record" in sheet.title) == (False, True)
        assert sheet.state == "not proven: proven in simulation"
        assert f"{shore.floor.seal()[0]} entries, seal {shore.floor.seal()[1]}" in str(sheet)
        log_said(shore, "lot 1/1", "mended", {"says": "anew", "who": "Mara"})
        assert not loaded(shore, 1, kept).simulated

    def test_a_certificate_names_who_proved_it_all_steps_and_what_it_cannot_tell(self, shore: ProjectFile) -> None:
        made(shore, 1)
        kept = loaded(shore, 1)
        self._through(kept, Unit(kept.proof.net, seed=2))
        assert kept.results is not None
        record, seal = kept_unit(shore, "lot 1/1"), shore.floor.seal()
        sheet, book = (certificate(kept.results, record, seal, whole) for whole in (False, True))
        assert (sheet.sound, "certificate" in sheet.title) == (True, True)
        assert kept.close_with("Mara") == ""  # closed already: nothing more is said, and nobody else proves it
        shore.floor.sign("again")
        entries = len(shore.floor.events())
        shore.floor.sign("and again")  # nothing new to sign
        assert len(shore.floor.events()) == entries
        assert kept_unit(shore, "lot 1/1").proven.who == "Ines"  # type: ignore[union-attr]
        assert dict(sheet.tables[0].rows)["Proven by"].startswith("Ines, ")  # type: ignore[arg-type]
        assert record.untold
        (untold,) = [table for table in sheet.tables if "can’t tell" in table.titles[0]]
        assert [row[0] for row in untold.rows] == list(record.untold)
        (steps,) = [table for table in book.tables if table.titles[0] == "Step"]
        assert len(steps.rows) == len(record.done) > 50
        log_said(shore, "lot 1/1", "mended", {"says": "a lug made anew", "who": "Mara"})
        after = certificate(kept.results, kept_unit(shore, "lot 1/1"), shore.floor.seal())
        assert (after.sound, "test record" in after.title) == (False, True)
        assert dict(after.tables[0].rows)["Proven by"].startswith("not proven: ")  # type: ignore[arg-type]
        # a reading out of its band is never printed as a sound one; a fault that was named is, until it is proven
        first, *rest = record.tests
        fault = Found(says="W7 is open", probability=0.8)
        bad = replace(
            record, tests=[(first[0], first[1].model_copy(update={"ok": False})), *rest], found=[(first[0], fault)]
        )
        tables = certificate(kept.results, bad, seal).tables
        (marked,) = [[row[-1] for row in table.rows] for table in tables if table.titles[:2] == ("No", "Test")]
        assert marked == ["✕", *["✓"] * len(rest)]
        assert "Likeliest fault" not in str(tables)
        open_ = replace(kept_unit(shore, "lot 1/1"), found=[(first[0], fault)])
        assert (("W7 is open", "80 %"),) in [table.rows for table in certificate(kept.results, open_, seal).tables]

    def test_taking_back_the_last_answer_takes_the_word_back(self, shore: ProjectFile) -> None:
        kept = loaded(shore, 1)
        kept.take_as_is("Mara", "made by the yard")
        self._through(kept, Unit(kept.proof.net, seed=2))
        assert kept_unit(shore, "lot 1/1").state == "proven"
        kept.take_back()
        assert kept_unit(shore, "lot 1/1").state == "in the making"
        assert kept.load().now is not None
        self._through(kept, Unit(kept.proof.net, seed=2), who="Mara")
        assert kept_unit(shore, "lot 1/1").proven.who == "Mara"  # type: ignore[union-attr]

    def test_nothing_is_closed_on_half_of_what_is_known(self, shore: ProjectFile) -> None:
        kept = loaded(shore, 1)
        self._through(kept, Unit(kept.proof.net, seed=2), 20)
        log_said(shore, "lot 1/1", "note", {"says": "by the window", "who": "Jo"})
        assert not kept.moved_on()
        log_said(shore, "lot 1/1", "mended", {"says": "T4 again", "who": "Jo"})
        with pytest.raises(StoreError, match="meanwhile"):
            self._through(kept, Unit(kept.proof.net, seed=2))
        assert kept_unit(shore, "lot 1/1").proven is None

    def test_what_was_undone_is_not_found(self, shore: ProjectFile) -> None:
        cut = event("c", "lot 1", 5, "done", 1, "1|T1 cut", {"coil": "C77", "wire": "T1", "hand": "Jo"})
        shore.floor.append([cut])
        assert [one.unit for one in records_of(shore, "coil C77")] == [1]
        shore.floor.append([event("u", "lot 1", 6, "undo", 1, "", {"of": "c"})])
        assert records_of(shore, "coil C77") == records_of(shore, "coil C", begins=True) == []

    def test_what_is_not_there_is_told(self, shore: ProjectFile, tmp_path: Path) -> None:
        with pytest.raises(StoreError, match="no build"):
            UnitProof(shore, "lot 7", 1)
        with pytest.raises(InputError, match="no unit 5"):
            UnitProof(shore, "lot 1", 5)
        with (
            ProjectFile.create(tmp_path / "n.umber", demo("shore"), copied=False) as project,
            pytest.raises(StoreError, match="begin a build"),
        ):
            UnitProof(project)
        with pytest.raises(StoreError, match="taken back"):
            UnitProof(shore, "lot 1", 1).take_back()


class TestMeters:
    """A meter over a real socket, well and unwell."""

    def test_a_whole_proof_over_tcp(self, net: Any) -> None:
        bench = simulated(net, [parse_fault(net, "swap:D3,D4@probe")], 5)
        with MeterServer(bench) as server, MeterLink(server.address) as link:
            assert link.box
            verdict = Prover(net).run(link.measure)
        assert verdict.suspects[0].fault.what == "swap"
        assert set(verdict.suspects[0].fault.where) == {"D3", "D4"}

    @pytest.mark.parametrize(
        ("trouble", "told"),
        [("garbled", "no reading"), ("volts", "not in ohms"), ("hang up", "lost"), ("silent", "in time|timed out")],
    )
    def test_what_goes_wrong_half_way_is_said_and_loses_nothing(self, net: Any, trouble: str, told: str) -> None:
        unit = Unit(net, seed=3)
        prover = Prover(net)
        with MeterServer(Bench(unit, trouble, after=8)) as server, MeterLink(server.address, wait_s=0.4) as link:
            with pytest.raises(StoreError, match=told):
                prover.run(link.measure)
            assert len(prover.taken) == 8
            assert all(taken.ok for taken in prover.taken)
            if trouble in ("hang up", "silent"):
                with pytest.raises(StoreError, match=told):  # opened anew, and lost again
                    link.measure(prover.taken[0].probe)

    def test_over_range_is_nothing_and_names_travel_whole(self, net: Any) -> None:
        bench = simulated(net, [])
        with MeterServer(bench) as server, MeterLink(server.address) as link:
            a, b = (
                Probe("four", (("tractor", "1"),), (("lamps", "1"),)),
                Probe("two", (("tractor", "1"),), (("lamps", "2"),)),
            )
            assert 0.05 < link.measure(a) < 0.2
            assert math.isinf(link.measure(b))
            link.tell("SENS:RES:RANG 0.01")
            assert math.isinf(link.measure(a))
            link.tell("*RST")
            assert math.isfinite(link.measure(a))
            with pytest.raises(StoreError, match="No such place"):
                link.measure(Probe("four", (("nobody", "1"),), (("lamps", "1"),)))
            assert math.isfinite(link.measure(a))  # and goes on
            assert "Undefined" in [link.tell("HELLO"), link.ask("SYST:ERR?")][1]
        for point in (("a,b:c", "1 %"), ("", "earth"), ("ü", "²")):
            assert read_place(written(point)) == point
        with pytest.raises(ValueError, match="nothing"):
            read_place("nothing")

    def test_a_plain_meter_is_only_asked(self) -> None:
        said: list[str] = []
        with socket.create_server(("127.0.0.1", 0)) as server:

            def serve() -> None:
                line, _ = server.accept()
                with line, line.makefile("rw") as file:
                    for text in file:
                        said.append(text.strip())
                        file.write("Acme,meter,0,1\n" if "IDN" in text else "4.7E-2 OHM\n")
                        file.flush()

            threading.Thread(target=serve, daemon=True).start()
            with MeterLink(f"tcp:127.0.0.1:{server.getsockname()[1]}") as link:
                assert not link.box
                assert link.measure(Probe("four", (("a", "1"),), (("b", "1"),))) == pytest.approx(0.047)
        assert said == ["*IDN?", "MEAS:FRES?"]

    @pytest.mark.parametrize(
        ("text", "ohm"),
        [
            ("1.25E-2", 0.0125),
            ("4.7 kohm", 4700),
            ("2 MOHM", 2e6),
            ("9.9E37", math.inf),
            (" 0 ", 0.0),
            ("-2E-5", 0.0),
            ("12 Ω", 12),
        ],
    )
    def test_answers_are_read_whole(self, text: str, ohm: float) -> None:
        assert parse_answer(text, "m") == ohm

    @pytest.mark.parametrize(
        ("text", "volts"),
        [("0.25", 0.25), ("0.25 V", 0.25), ("12.5 mV", 0.0125), ("-3 VDC", 3.0), ("9.9", 9.9), ("1e-3V", 0.001)],
    )
    def test_volts_across_a_joint(self, text: str, volts: float) -> None:
        assert parse_volts(text, "m") == pytest.approx(volts)

    @pytest.mark.parametrize("text", ["12 V", "10.5 V", "-10", "1 A", "1 ohm", "", "nan"])
    def test_what_is_no_voltage_across_a_joint_is_refused(self, text: str) -> None:
        with pytest.raises(StoreError, match="no voltage across a joint"):
            parse_volts(text, "m")

    @pytest.mark.parametrize(
        "text", ["", "1,2", "1.2.3", "0x1F", "3 mohm", "3 A", "nan", "-1.5", "-5", "1e15", "1e30", "1.2 1.3"]
    )
    def test_what_is_no_reading_is_refused(self, text: str) -> None:
        with pytest.raises(StoreError):
            parse_answer(text, "m")

    @pytest.mark.parametrize(
        ("address", "told"),
        [
            ("tcp:127.0.0.1:1", "No meter answers"),
            ("nonsense", "no meter’s address"),
            ("tcp:127.0.0.1:99999", "no meter’s address"),
            ("visa:TCPIP::127.0.0.1::1::SOCKET", "was lost"),
        ],
    )
    def test_addresses_that_lead_nowhere(self, address: str, told: str) -> None:
        with pytest.raises(UmberError, match=told):
            MeterLink(address, wait_s=0.5)

    def test_over_visa_too(self, net: Any) -> None:
        with (
            MeterServer(simulated(net, [])) as server,
            MeterLink(f"visa:TCPIP::127.0.0.1::{server.port}::SOCKET") as link,
        ):
            assert link.box
            assert 0.05 < link.measure(Probe("four", (("tractor", "1"),), (("lamps", "1"),))) < 0.2
