"""The project file under attack: kills, failing disks, two processes, tampering, and writers that aim at it."""

import fcntl
import os
import random
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest

from attack.faulty import Shim, library
from umber_trunk.cli.main import main
from umber_trunk.core.demo import demo
from umber_trunk.core.harness.edits import change
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Project
from umber_trunk.store import database
from umber_trunk.store.files import DamagedError, StoreError, target_of, write_whole
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.state import read_state, write_state

ROOT = Path(__file__).parents[2]
ROUNDS = int(os.environ.get("UMBER_KILL_ROUNDS", "12"))

WRITER = """
import sys
from pathlib import Path
from umber_trunk.core.harness.edits import change
from umber_trunk.store.project import ProjectFile
with ProjectFile.open(Path(sys.argv[1])) as file:
    while True:
        number = int(file.design.project.name) + 1
        project = change(file.design.project, name=str(number), shelf=("1.5",) * (number * 7 % 40))
        file.commit(file.design.model_copy(update={"project": project}), f"edit {number}")
        print(number, file.head, flush=True)
        if number % 7 == 0:
            file.undo()
            file.redo()
"""


def named(name: str) -> Design:
    return Design(project=Project(name=name))


@pytest.fixture
def path(tmp_path: Path) -> Path:
    ProjectFile.create(tmp_path / "a.umber", named("0")).close()
    return tmp_path / "a.umber"


def child(code: str, *words: str) -> subprocess.Popen[str]:
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    return subprocess.Popen([sys.executable, "-c", code, *words], stdout=subprocess.PIPE, text=True, env=env)


def test_kill_9_at_any_moment_loses_nothing_shown(path: Path) -> None:
    rng, shown, heads = random.Random(5), 0, set[int]()
    for _ in range(ROUNDS):
        writer = child(WRITER, str(path))
        first = writer.stdout.readline()
        time.sleep(rng.random() * 0.05)
        writer.send_signal(signal.SIGKILL)
        # a line the kill cut in two was never shown whole
        lines = [line for line in (first, *writer.stdout.read().splitlines(keepends=True)) if line.endswith("\n")]
        writer.stdout.close()
        writer.wait()
        for line in lines:
            number, head = map(int, line.split())
            assert head not in heads, "a revision's number was used twice"
            heads.add(head)
            shown = max(shown, number)
        with ProjectFile.open(path, for_writing=False) as file:
            undone = (
                shown % 7 == 0 and int(file.design.project.name) == shown - 1 and file.can_redo() == f"edit {shown}"
            )
            assert undone or int(file.design.project.name) in (shown, shown + 1)
            shown = int(file.design.project.name)
            heads |= {row.seq for row in file.revisions()}
    with ProjectFile.open(path) as file:
        assert not file.read_only
        assert len(file.revisions()) == len(heads)
    assert not list(path.parent.glob(".umber-*"))


HALFWAY = """
import os, sqlite3, sys
db = sqlite3.connect(sys.argv[1], isolation_level=None)
db.execute("PRAGMA cache_size = 1")
db.execute("BEGIN IMMEDIATE")
for number in range(300):
    db.execute("INSERT INTO revision VALUES (?, 1, 1, 0, 'x', ?, x'00')", (100 + number, os.urandom(3000)))
db.execute("UPDATE state SET value = '100'")
os.kill(os.getpid(), 9)
"""


@pytest.mark.parametrize("writable", [True, False])
def test_a_file_killed_halfway_is_sound_to_a_reader(
    path: Path, writable: bool, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    writer = child(HALFWAY, str(path))
    writer.communicate()
    journal = Path(f"{path}-journal")
    assert journal.stat().st_size > 0
    if not writable:
        monkeypatch.setattr(database, "_rolled_back", lambda _: False)
    with ProjectFile.open(path, for_writing=False) as file:
        assert file.design.project.name == "0"
    assert main(["check", str(path)]) in (0, 1)
    assert "damaged" not in capsys.readouterr().err
    assert journal.exists() is not writable
    with ProjectFile.open(path) as file:
        assert file.head == 1


@pytest.mark.skipif(library() is None, reason="this interpreter has SQLite built in")
@pytest.mark.parametrize("how", ["fails", "is short", "fails from there on"])
def test_a_disk_that_fails_at_any_call_loses_nothing(path: Path, how: str) -> None:
    shim = Shim()
    shim.short, shim.lasting = how == "is short", how == "fails from there on"
    refused = 0
    with shim.under():
        for at in range(1, 60):
            with ProjectFile.open(path) as file:
                before, shim.calls, shim.fail_at = file.design.project.name, 0, at
                new = str(int(before) + 1)
                try:
                    file.commit(named(new), "edit")
                    kept = True
                except StoreError as why:
                    assert "could not be written" in str(why)
                    kept, refused = False, refused + 1
                done, shim.fail_at = shim.calls < at, 0
                assert file.design.project.name == (new if kept else before)
            with ProjectFile.open(path, for_writing=False) as file:
                assert file.design.project.name == (new if kept else before)
                assert len({row.seq for row in file.revisions()}) == len(file.revisions())
            if done:
                break
    assert done
    assert refused > 5


@pytest.mark.parametrize(
    ("name", "says"),
    [
        ("x" * 300 + ".umber", "name is too long"), ("no/such/a.umber", "no such file or folder"), ("file/a.umber", "no folder"),
        ("loop/a.umber", "round in a circle"), ("nowhere.umber", "exists already"),
    ],
)  # fmt: skip
def test_names_that_cannot_be_made_are_said(
    tmp_path: Path, name: str, says: str, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "file").write_text("x")
    (tmp_path / "loop").symlink_to("loop")
    (tmp_path / "nowhere.umber").symlink_to("gone.umber")
    before = sorted(os.listdir(tmp_path))
    assert main(["new", str(tmp_path / name)]) == 2
    assert says in capsys.readouterr().err
    assert sorted(os.listdir(tmp_path)) == before


@pytest.mark.parametrize("command", ["check", "solve", "export", "history", "import"])
def test_what_is_no_file_is_said_at_once(tmp_path: Path, command: str, capsys: pytest.CaptureFixture[str]) -> None:
    os.mkfifo(tmp_path / "pipe.umber")
    os.mkfifo(tmp_path / "pipe.json")
    for name in (
        tmp_path / "pipe.umber",
        tmp_path / "pipe.json",
        "/dev/zero",
        tmp_path,
        tmp_path / ("x" * 300),
        tmp_path / "none",
    ):
        rest = {"export": ["-o", str(tmp_path / "o.csv")], "import": ["-o", str(tmp_path / "o.umber")]}.get(command, [])
        assert main([command, str(name), *rest]) == 2
        told = capsys.readouterr().err
        assert told.startswith("umber: ")
        assert told.count("\n") == 1


def test_no_writer_lands_on_a_harness_a_device_or_a_dangling_link(
    path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    before = path.read_bytes()
    shutil.copy(path, tmp_path / "list.csv")
    (tmp_path / "link.csv").symlink_to(path.name)
    (tmp_path / "gone.csv").symlink_to("nothing.csv")
    os.link(path, tmp_path / "hard.json")
    for name, says in (
        ("a.umber", "harness file"),
        ("new.umber", "harness file"),
        ("list.csv", "harness file"),
        ("link.csv", "harness file"),
        ("hard.json", "harness file"),
        ("gone.csv", "leads nowhere"),
        ("a.umber-journal", "belongs to a harness"),
    ):
        for form in ("json", "csv", "xlsx", "pdf"):
            assert main(["export", str(path), "-o", str(tmp_path / name), "--format", form, "--force"]) == 2, name
            assert says in capsys.readouterr().err
    os.mkfifo(tmp_path / "pipe.json")
    assert main(["export", str(path), "-o", str(tmp_path / "pipe.json"), "--force"]) == 2
    assert "is a pipe" in capsys.readouterr().err
    for device in ("/dev/null", "/dev/full", "/dev/zero"):
        # asked, never tried: a test that fails as root would cost the machine its device
        with pytest.raises(StoreError, match="is a device; nothing is written onto it"):
            target_of(Path(device))
    assert path.read_bytes() == before
    assert (tmp_path / "list.csv").read_bytes() == before
    assert not (tmp_path / "nothing.csv").exists()
    assert not list(tmp_path.glob(".umber-*"))


def test_a_links_target_is_replaced_not_the_link(path: Path, tmp_path: Path) -> None:
    (tmp_path / "deep").mkdir()
    (tmp_path / "deep" / "real.csv").write_text("old")
    (tmp_path / "deep" / "real.csv").chmod(0o640)
    (tmp_path / "link.csv").symlink_to("deep/real.csv")
    assert main(["export", str(path), "-o", str(tmp_path / "link.csv"), "--force"]) == 0
    assert (tmp_path / "link.csv").is_symlink()
    assert (tmp_path / "deep" / "real.csv").read_text("utf-8-sig").startswith("wire,")
    assert (tmp_path / "deep" / "real.csv").stat().st_mode & 0o777 == 0o640


@pytest.mark.parametrize("name", ["-", "/dev/stdout"])
def test_standard_output_is_streamed_to(path: Path, name: str) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "umber_trunk", "export", str(path), "-o", name, "--format", "json"],
        capture_output=True, env={**os.environ, "PYTHONPATH": str(ROOT / "src")}, check=False,
    )  # fmt: skip
    assert done.returncode == 0
    assert done.stdout.startswith(b"{")
    assert b"written" in done.stderr


@pytest.mark.parametrize(
    ("sql", "says"),
    [
        ("UPDATE state SET value = '99999999999999999999999' WHERE name = 'head'", "number 99999999999999999999999"),
        ("UPDATE state SET value = '-1' WHERE name = 'head'", "number -1"), ("UPDATE state SET value = '7' WHERE name = 'head'", "revision 7 is missing"),
        ("UPDATE state SET value = 'x'", "can't be found"), ("PRAGMA user_version = 0", "version 0, which there never was"),
        ("PRAGMA user_version = -3", "version -3"), ("PRAGMA user_version = 2", "holds “revision”, which is no part"),
        ("CREATE VIEW v AS SELECT * FROM state", "“v”, which is no part"), ("CREATE INDEX i ON revision (label)", "“i”, which is no part"),
        ("CREATE TRIGGER t AFTER UPDATE ON state BEGIN DELETE FROM revision; END", "“t”, which is no part"),
        ("UPDATE revision SET base = seq", "not what was written"), ("DROP TABLE frozen", "table frozen is missing"),
    ],
)  # fmt: skip
def test_tampering_is_a_sentence_and_nothing_is_run(path: Path, sql: str, says: str) -> None:
    with sqlite3.connect(path) as db:
        db.execute(sql)
    db.close()
    before = path.read_bytes()
    with pytest.raises(StoreError, match=says) as caught:
        ProjectFile.open(path)
    assert str(caught.value).endswith(".")
    if isinstance(caught.value, DamagedError):  # what is whole is read, and what is lost is said
        with ProjectFile.open(path, for_writing=False) as project:
            assert project.lost
            assert project.read_only
    else:
        with pytest.raises(StoreError, match=says):
            ProjectFile.open(path, for_writing=False)
    assert path.read_bytes() == before


def test_a_view_in_place_of_a_table_is_not_asked(path: Path) -> None:
    with sqlite3.connect(path) as db:
        db.execute("ALTER TABLE state RENAME TO old")
        db.execute(
            "CREATE VIEW state AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT 'head' AS "
            "name, max(i) AS value FROM n"
        )
    db.close()
    with pytest.raises(StoreError, match="no part of a harness file"):  # the view would count for ever
        ProjectFile.open(path)


def test_the_authorizer_lets_nothing_else_through(path: Path) -> None:
    with ProjectFile.open(path) as file:
        for sql in (
            "ATTACH ':memory:' AS x",
            "CREATE TABLE t (a)",
            "DROP TABLE state",
            "SELECT load_extension('x')",
            "SELECT writefile('x', 'y')",
            "CREATE TEMP TRIGGER t AFTER UPDATE ON state BEGIN SELECT 1; END",
            "UPDATE sqlite_master SET sql = ''",
        ):
            with pytest.raises(sqlite3.DatabaseError):
                file._db.execute(sql)
        assert file._db.execute("PRAGMA trusted_schema").fetchone() == (0,)


def test_two_processes_never_both_write(path: Path) -> None:
    holder = child(
        "import sys, time; from pathlib import Path; from umber_trunk.store.project import ProjectFile\n"
        "f = ProjectFile.open(Path(sys.argv[1])); print(f.read_only, flush=True); time.sleep(30)",
        str(path),
    )
    assert holder.stdout.readline().strip() == "False"
    with ProjectFile.open(path) as second:
        assert second.read_only
        assert second.design.project.name == "0"
        with pytest.raises(StoreError, match="another window"):
            second.commit(named("2"), "x")
    holder.kill()
    holder.wait()
    holder.stdout.close()
    with ProjectFile.open(path) as third:
        third.commit(change_name(third.design, "3"), "x")


def change_name(design: Design, name: str) -> Design:
    return design.model_copy(update={"project": change(design.project, name=name)})


def test_writing_whole_keeps_what_was_there_until_the_new_is_whole(tmp_path: Path) -> None:
    write_whole(tmp_path / "a.csv", b"one")
    write_whole(tmp_path / "a.csv", b"two")
    assert (tmp_path / "a.csv").read_bytes() == b"two"
    with pytest.raises(StoreError, match="exists already"):
        write_whole(tmp_path / "a.csv", b"three", fresh=True)
    assert os.listdir(tmp_path) == ["a.csv"]


def _hung(*_: object) -> None:
    raise AssertionError("waited for what never comes")


def test_no_door_waits_for_what_is_no_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]
) -> None:
    """Pipes, sockets, devices, folders, links and the harness itself at every door of the shell that takes a file: a
    sentence, and nothing changed."""
    monkeypatch.chdir(tmp_path)
    ProjectFile.create(Path("b.umber"), demo("shore"), copied=False).close()
    os.mkfifo("pipe")
    Path("folder").mkdir()
    Path("nowhere").symlink_to("not there")
    Path("round").symlink_to("round")
    with socket.socket(socket.AF_UNIX) as bell:
        bell.bind("socket")
    Path("zero").symlink_to("/dev/zero")
    before = Path("b.umber").read_bytes()
    signal.signal(signal.SIGALRM, _hung)
    try:
        for odd in ("pipe", "folder", "nowhere", "round", "socket", "zero"):
            for kind in ("umber", "csv", "json", "umbershelf", "jsonl", "xlsx"):
                Path(f"{odd}.{kind}").symlink_to(odd)
            for words in (
                "status {}.umber",
                "history {}.umber",
                "check {}.json",
                "restore {}.umber -o q.umber",
                "salvage {}.umber -o q.umber",
                "import {}.csv -o q.umber",
                "import {}.xlsx -o q.umber",
                "infer {}.csv",
                "shelf b.umber --use {}.umbershelf",
                "shelf b.umber --read {}.csv",
                "shelf b.umber --parts {}.csv",
                "coils b.umber --units 1 --stock {}.csv",
                "lengths b.umber --learn {}.csv",
                "log b.umber --merge {}.jsonl",
                "catalogue check {}.json",
                "verify b.umber --certificate {}.json",
                "export b.umber -o {}.json --force",
                "labels b.umber -o {}.csv",
                "shelf b.umber --write {}.csv",
                "diff b.umber {}.umber",
            ):
                signal.setitimer(signal.ITIMER_REAL, 5)
                status = main(words.format(odd).split())
                signal.setitimer(signal.ITIMER_REAL, 0)
                said = capfd.readouterr().err
                if odd == "nowhere" and "--use" in words:
                    continue  # made anew, as a file that isn't there is
                assert status == 2, (odd, words, said)
                assert said.startswith("umber"), (odd, words, said)
                assert "Traceback" not in said
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
    assert Path("b.umber").read_bytes() == before
    assert not Path("q.umber").exists()


def test_what_a_kill_left_half_written_is_cleared_and_what_is_being_written_is_not(tmp_path: Path) -> None:
    """In the folders of harness, settings and copies; nothing else that is like it is touched."""
    path, old = tmp_path / "b.umber", time.time() - 60
    ProjectFile.create(path, Design(), copied=False).close()
    left, held, young = (tmp_path / f".umber-{n:016x}.part" for n in range(3))
    others = [tmp_path / ".umber-1.part", tmp_path / "x.part", tmp_path / ".umber-0123456789abcdef.part.txt"]
    for one in (left, held, young, *others):
        one.write_bytes(b"half")
        os.utime(one, (old, old))
    os.utime(young)
    (tmp_path / f".umber-{9:016x}.part").symlink_to(path)
    with held.open("rb") as handle:
        fcntl.flock(handle, fcntl.LOCK_EX)
        ProjectFile.open(path).close()
    assert not left.exists()
    assert all(one.exists() for one in (held, young, *others))
    assert path.exists()
    settings = tmp_path / "state" / "settings.json"
    assert write_state(settings, {"recent": ["/home/mara/boat.umber"]})
    settings.chmod(0o644)  # an earlier version's
    assert write_state(settings, {})
    assert settings.stat().st_mode & 0o777 == 0o600
    assert settings.parent.stat().st_mode & 0o077 == 0
    stale = settings.with_name(left.name)
    stale.write_bytes(b"half")
    os.utime(stale, (old, old))
    assert read_state(settings) == ({}, "")
    assert not stale.exists()


def test_looking_at_the_file_gives_up_no_lock_of_the_one_that_writes_it(path: Path) -> None:
    """POSIX locks of a file go when any handle to it in the process is closed: another program could write into the
    middle of a change."""
    probe = (
        f"import sqlite3; sqlite3.connect({str(path)!r}, timeout=0, isolation_level=None).execute('BEGIN IMMEDIATE')"
    )
    with ProjectFile.open(path) as project:
        with database.Transaction(project._db, path):
            ProjectFile.open(path, for_writing=False).close()
            with pytest.raises(StoreError):
                ProjectFile.open(path.with_name("none.umber"))
            assert b"locked" in subprocess.run([sys.executable, "-c", probe], capture_output=True, check=False).stderr
        assert subprocess.run([sys.executable, "-c", probe], capture_output=True, check=False).stderr == b""
