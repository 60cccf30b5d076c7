"""The project file: durable, guarded, migrated; kill −9 loses nothing that was shown."""

import json
import os
import signal
import sqlite3
import subprocess
import sys
from datetime import date, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import design_of
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import FORMAT_VERSION, Design, Zone
from umber_trunk.core.harness.project import Project
from umber_trunk.core.sample import generated
from umber_trunk.store import copies, database, history, schema
from umber_trunk.store.difference import applied, difference
from umber_trunk.store.files import StoreError
from umber_trunk.store.jsonfile import MOST_PLACES, from_json, read_json, to_json
from umber_trunk.store.project import ProjectFile

ROOT = Path(__file__).parents[2]


def named(name: str) -> Design:
    return Design(project=Project(name=name))


@pytest.fixture
def path(tmp_path: Path) -> Path:
    ProjectFile.create(tmp_path / "a.umber", named("zero")).close()
    return tmp_path / "a.umber"


def test_edits_survive_closing(path: Path, demo: Design) -> None:
    with ProjectFile.open(path) as file:
        file.commit(demo, "the barge")
    with ProjectFile.open(path) as file:
        assert file.design == demo
        assert file.can_undo() == "the barge"


def test_undo_and_redo_are_durable(path: Path) -> None:
    with ProjectFile.open(path) as file:
        for name in ("one", "two"):
            file.commit(named(name), name)
        assert file.undo()
    with ProjectFile.open(path) as file:
        assert file.design.project.name == "one"
        assert file.can_redo() == "two"
        assert file.redo()
        assert not file.redo()
        assert file.undo()
        file.commit(named("three"), "three")
        assert not file.can_redo()
        assert [r.label for r in file.history()] == ["new harness", "one", "three"]


def test_old_revisions_are_let_go(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for name, value in (("KEEP_REVISIONS", 5), ("UNDO_STEPS", 3), ("SLACK", 0)):
        monkeypatch.setattr(history, name, value)
    with ProjectFile.open(path) as file:
        for number in range(12):
            file.commit(named(str(number)), str(number))
        assert len(file.history()) == 5
        while file.undo():
            pass
        assert file.design.project.name == "7"


@given(st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=25))
def test_history_behaves_like_a_list(tmp_path_factory: pytest.TempPathFactory, steps: list[str]) -> None:
    path = tmp_path_factory.mktemp("h") / "h.umber"
    model, at = ["zero"], 0
    with ProjectFile.create(path, named("zero")) as file:
        for number, step in enumerate(steps):
            if step == "edit":
                file.commit(named(str(number)), "e")
                model, at = [*model[: at + 1], str(number)], at + 1
            elif step == "undo":
                assert file.undo() == (at > 0)
                at = max(0, at - 1)
            else:
                assert file.redo() == (at < len(model) - 1)
                at = min(len(model) - 1, at + 1)
            assert file.design.project.name == model[at]


def test_a_second_writer_may_only_read(path: Path) -> None:
    with ProjectFile.open(path) as first, ProjectFile.open(path) as second:
        assert not first.read_only
        assert second.why_read_only == "another window has it open"
        with pytest.raises(StoreError, match="another window"):
            second.commit(named("x"), "x")
        first.commit(named("mine"), "mine")
    with ProjectFile.open(path) as third:
        assert not third.read_only
        assert third.design.project.name == "mine"


def test_a_write_protected_file_opens_read_only(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    real = os.open

    def guarded(name: object, flags: int, *rest: object) -> int:
        if str(name) == str(path) and flags & os.O_RDWR:
            raise PermissionError(13, "Permission denied")
        return real(name, flags, *rest)  # type: ignore[arg-type]

    monkeypatch.setattr(database.os, "open", guarded)
    with ProjectFile.open(path) as file:
        assert file.why_read_only == "the file is write-protected"
        with pytest.raises(StoreError, match="write-protected"):
            file.undo() or file.commit(named("x"), "x")


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda p: p.write_bytes(b"hello"), "not an Umber Trunk"),
        (lambda p: p.write_bytes(b""), "not an Umber Trunk"),
        (lambda p: p.write_bytes(p.read_bytes()[:5000]), "damaged"),
        (lambda p: p.write_bytes(p.read_bytes()[:4096] + os.urandom(len(p.read_bytes()) - 4096)), "damaged"),
        (lambda p: run_sql(p, "PRAGMA user_version = 99"), "newer Umber Trunk"),
        (lambda p: run_sql(p, "PRAGMA application_id = 7"), "another program"),
        (lambda p: run_sql(p, "UPDATE revision SET body = '{}x'"), "damaged"),
        (lambda p: run_sql(p, "UPDATE revision SET body = zeroblob(8)"), "not what was written"),
        (lambda p: run_sql(p, "DELETE FROM revision"), "missing"),
        (lambda p: run_sql(p, "DROP TABLE revision"), "damaged"),
        (lambda p: p.unlink(), "does not exist"),
        (lambda p: (p.unlink(), p.mkdir()), "is a folder"),
    ],
)
def test_bad_files_say_so_and_are_not_harmed(path: Path, spoil, says: str) -> None:
    spoil(path)
    before = path.read_bytes() if path.is_file() else None
    with pytest.raises(StoreError, match=says) as caught:
        ProjectFile.open(path)
    assert str(caught.value).endswith(".")
    if before is not None:
        assert path.read_bytes() == before


def run_sql(path: Path, sql: str) -> None:
    with sqlite3.connect(path) as db:
        db.execute(sql)
    db.close()


def make_old(path: Path, version: int, design: str = '{"format": 1, "project": {"name": "zero"}}') -> None:
    """The file as the program wrote it in schema 1 or 2."""
    for table in schema.TABLES[schema.SCHEMA_VERSION]:
        run_sql(path, f"DROP TABLE {table}")
    for statement in schema.TABLES[version].values():
        run_sql(path, statement)
    with sqlite3.connect(path) as db:
        db.executemany("INSERT INTO revision VALUES (?, ?, ?)", [(4, "four", design), (5, "five", design)])
        if version == 2:
            db.execute("INSERT INTO state VALUES ('head', '4')")
    db.close()
    run_sql(path, f"PRAGMA user_version = {version}")


def test_version_one_is_migrated(path: Path) -> None:
    make_old(path, 1)
    with ProjectFile.open(path, for_writing=False) as file:
        assert file.design.project.name == "zero"
    with ProjectFile.open(path) as file:
        file.commit(named("after"), "after")
    with ProjectFile.open(path) as file:
        assert file.design.project.name == "after"


def test_creating_over_something_is_refused(path: Path, tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="exists already"):
        ProjectFile.create(path, Design())
    with pytest.raises(StoreError, match="no such file or folder"):
        ProjectFile.create(tmp_path / "no" / "such" / "folder.umber", Design())


def test_a_full_disk_is_a_sentence(path: Path) -> None:
    with ProjectFile.open(path) as file:
        file._db.execute("PRAGMA max_page_count = 1")
        with pytest.raises(StoreError, match="could not be written"):
            file.commit(generated_zones(4000), "too much")
        assert file.design.project.name == "zero"
    with ProjectFile.open(path) as file:
        assert file.design.project.name == "zero"


def generated_zones(count: int) -> Design:
    return Design(zones=tuple(Zone(id=f"z{n}", name="a zone" * 10) for n in range(count)))


WRITER = """
import sys
from datetime import date, timedelta
from pathlib import Path
from umber_trunk.core.harness.model import Zone
from umber_trunk.core.harness.edits import put
from umber_trunk.store.project import ProjectFile
file = ProjectFile.open(Path(sys.argv[1]))
for number in range(50):
    file.commit(put(file.design, "zones", Zone(id=f"z{number}", name="x" * 200)), f"zone {number}")
    print(number, flush=True)
"""


@pytest.mark.parametrize("kill_after", [1, 7, 18, 33, 49])
def test_kill_9_loses_nothing_acknowledged(path: Path, kill_after: int) -> None:
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    writer = subprocess.Popen([sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True, env=env)
    assert writer.stdout is not None
    shown = -1
    for line in writer.stdout:
        shown = int(line)
        if shown == kill_after:
            writer.send_signal(signal.SIGKILL)
            break
    rest = writer.stdout.read().split()
    writer.wait()
    writer.stdout.close()
    shown = int(rest[-1]) if rest else shown
    with ProjectFile.open(path) as file:
        assert len(file.design.zones) >= shown + 1
        assert not file.read_only


def test_json_round_trip(demo: Design, tmp_path: Path) -> None:
    text = to_json(demo)
    assert from_json(text) == demo
    assert to_json(from_json(text)) == text
    (tmp_path / "d.json").write_text(text)
    assert read_json(tmp_path / "d.json") == demo


@given(st.floats(0.001, 1e5), st.text(min_size=1, max_size=30), st.floats(-60, 900))
def test_json_keeps_every_bit(amps: float, name: str, celsius: float) -> None:
    design = design_of("supply 12 V at battery", "x 5 A at bow run 3 m")
    design = edits.put(design, "loads", edits.change(design.loads[0], value=amps, name=name))
    design = edits.put(design, "zones", Zone(id="z", name=name, ambient_c=celsius))
    assert from_json(to_json(design)) == design


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "not JSON"),
        ("[]", "not a harness"),
        ('{"format": 99}', "newer"),
        ('{"wires": [{"id": "w"}]}', "wires.0.start"),
    ],
)
def test_bad_json_names_the_place(text: str, says: str) -> None:
    with pytest.raises(StoreError, match=says) as told:
        from_json(text, "x.json")
    assert "more" not in str(told.value)
    with pytest.raises(StoreError, match=rf"wires\.11\.start.*; and {30 - MOST_PLACES} more\.$"):
        from_json(json.dumps({"wires": [{"id": f"w{n}", "finish": {"end": "a", "cavity": "1"}} for n in range(30)]}))


def test_a_design_of_the_format_before_is_brought_up() -> None:
    old = Design.model_validate_json('{"format": 1, "project": {"name": "old", "max_drop_percent": 5}}')
    assert old.format == FORMAT_VERSION
    assert old.project.max_drop_percent == 5
    assert old.converters == ()


def test_an_edit_cannot_slip_a_figure_past_its_bounds(path: Path, demo: Design) -> None:
    with ProjectFile.open(path) as file:
        file.commit(demo, "the barge")
        for part, update in (
            ("loads", {"value": 1e308}),
            ("wires", {"stated_m": -1.0}),
            ("zones", {"ambient_c": float("nan")}),
        ):
            rows = getattr(demo, part)
            bad = demo.model_copy(update={part: (rows[0].model_copy(update=update), *rows[1:])})
            with pytest.raises(EditError, match=next(iter(update)).replace("_", " ")):
                file.commit(bad, "bad")
        with pytest.raises(EditError, match="an id occurs twice"):
            file.commit(demo.model_copy(update={"wires": (*demo.wires, demo.wires[0])}), "twice")
        assert file.head == 2
        file.commit(
            demo.model_copy(update={"loads": (demo.loads[0].model_copy(update={"name": "a\x1bb"}), *demo.loads[1:])}),
            "named",
        )
        assert file.design.loads[0].name == "a␛b"
    with ProjectFile.open(path) as file:
        assert file.design.loads[0].name == "a␛b"


@given(st.lists(st.tuples(st.sampled_from(["add", "drop", "change", "move", "name"]), st.integers(0, 30)), max_size=20))
def test_a_difference_brings_the_older_design_to_the_newer(steps: list[tuple[str, int]]) -> None:
    old = new = generated_zones(6)
    for step, number in steps:
        zones = list(new.zones)
        if step == "add":
            zones.insert(number % (len(zones) + 1), Zone(id=f"n{number}-{len(zones)}", name="new"))
        elif zones and step == "drop":
            zones.pop(number % len(zones))
        elif zones and step == "change":
            at = number % len(zones)
            zones[at] = edits.change(zones[at], ambient_c=number)
        elif zones and step == "move":
            zones.append(zones.pop(number % len(zones)))
        if len({zone.id for zone in zones}) == len(zones):
            new = new.model_copy(update={"zones": tuple(zones)})
        if step == "name":
            new = edits.set_project(new, name=f"n{number}")
    assert Design.model_validate(applied(old.model_dump(mode="json"), difference(old, new))) == new


def test_numbers_are_never_used_twice_and_what_undo_left_stays(path: Path) -> None:
    with ProjectFile.open(path) as file:
        file.commit(named("one"), "one")
        assert file.undo()
        file.commit(named("two"), "two")
        assert file.head == 3
        assert [row.seq for row in file.revisions()] == [1, 2, 3]
        assert [row.seq for row in file.history()] == [1, 3]
        assert file.design_at(2).project.name == "one"
        file.freeze(2, "rev A")
        with pytest.raises(StoreError, match="frozen already, as “rev A”"):
            file.freeze(2, "rev B")
        with pytest.raises(StoreError, match="no revision 9"):
            file.freeze(9, "x")
        with pytest.raises(StoreError, match="needs a name"):
            file.freeze(1, " ")
        assert file.go_to(2)
        assert not file.can_redo()
        assert file.can_undo() == "one"
        file.commit(named("three"), "three")
        assert [row.parent for row in file.revisions()] == [None, 1, 1, 2]


def test_frozen_revisions_outlive_pruning_and_differences_stay_readable(
    path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name, value in (("KEEP_REVISIONS", 30), ("UNDO_STEPS", 10), ("SLACK", 5), ("CHAIN", 7)):
        monkeypatch.setattr(history, name, value)
    with ProjectFile.open(path) as file:
        for number in range(2, 90):
            if number == 20:
                file.freeze(file.head, "rev A")
            if number == 50:
                for _ in range(5):
                    file.undo()
            file.commit(named(str(number)), f"edit {number}")
        kept = [row.seq for row in file.revisions()]
        assert 19 in kept
        assert len(kept) <= 37
        assert len(kept) == len(set(kept))
        for seq in kept:
            assert file.design_at(seq).project.name == str(seq)
    with ProjectFile.open(path) as file:
        steps = 0
        while file.undo():
            steps += 1
        assert steps >= 10
        while file.redo():
            steps -= 1
        assert steps == 0


def test_ten_thousand_edits_stay_small_and_open_soon(path: Path) -> None:
    """A share of the ten thousand, since each takes a real write: bytes an edit, and no slower to open than the design
    is large."""
    design = generated(150)
    with ProjectFile.open(path) as file:
        file.commit(design, "the harness")
        for number in range(400):
            wire = file.design.wires[number % 150]
            file.commit(edits.put(file.design, "wires", edits.change(wire, name=f"name {number}")), f"rename {wire.id}")
    assert path.stat().st_size < 400 * 20_000_000 / 10_000
    with ProjectFile.open(path) as file:
        assert file.design.wires[399 % 150].name == "name 399"


def test_copies_are_kept_by_day_for_a_month(path: Path) -> None:
    first = date(2026, 11, 1)
    for day in range(40):
        assert copies.keep(path, "id", path.read_bytes(), first + timedelta(days=day))
        assert copies.keep(path, "id", path.read_bytes(), first + timedelta(days=day))
    kept = copies.all_copies()
    assert len(kept) == copies.KEEP_DAYS
    assert kept[0].day == first + timedelta(days=39)
    assert {copy.name for copy in kept} == {"a"}
    assert all(copy.size == path.stat().st_size for copy in kept)


def test_a_closed_file_has_its_copy_and_a_copy_makes_a_file(path: Path, tmp_path: Path) -> None:
    with ProjectFile.open(path) as file:
        file.commit(named("kept"), "a change")
    (copy,) = copies.all_copies()
    path.write_bytes(b"overwritten by mistake")
    with ProjectFile.restored(copy.path, tmp_path / "again.umber") as file:
        assert file.design.project.name == "kept"
        assert file.can_undo() == "a change"
    with pytest.raises(StoreError, match="exists already"):
        ProjectFile.restored(copy.path, path)
    copy.path.write_bytes(copy.path.read_bytes()[:5000])
    with pytest.raises(StoreError, match="damaged"):
        ProjectFile.restored(copy.path, tmp_path / "third.umber")
    assert not (tmp_path / "third.umber").exists()


def test_copies_that_cannot_be_kept_stop_nothing(path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "data").write_text("in the way")
    with ProjectFile.open(path) as file:
        file.commit(named("x"), "x")
    assert copies.all_copies() == []


@pytest.mark.parametrize("version", [1, 2])
@pytest.mark.parametrize("design", ["{}", "[]", '{"project": {}}', '{"format": 99}', "x"])
def test_old_revisions_that_were_tampered_with_are_a_sentence(path: Path, version: int, design: str) -> None:
    make_old(path, version, design)
    before = path.read_bytes()
    with pytest.raises(StoreError) as caught:
        ProjectFile.open(path, for_writing=False)
    assert str(caught.value).endswith(".")
    assert path.read_bytes() == before


def test_what_undo_left_behind_never_shortens_undo(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for name, value in (("KEEP_REVISIONS", 10), ("UNDO_STEPS", 8), ("SLACK", 0)):
        monkeypatch.setattr(history, name, value)
    with ProjectFile.open(path) as file:
        for number in range(2, 11):
            file.commit(named(str(number)), "line")
        for number in range(40):
            file.commit(named(f"left {number}"), "left")
            assert file.undo()
        file.commit(named("last"), "last")
        steps = 0
        while file.undo():
            steps += 1
        assert steps >= 8
