"""Another program changes a harness file while it is open: nothing is written into it, nothing sound is replaced,
nothing of it is lost."""

from __future__ import annotations

import os
import shutil
import sqlite3
import subprocess
import sys
import threading
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

import pytest

from attack.test_files import HALFWAY
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Project
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.make.events import event
from umber_trunk.store import copies
from umber_trunk.store.floor import Floor
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.watch import MovedError


def named(name: str) -> Design:
    return Design(project=Project(name=name))


def over(old: Path, path: Path) -> None:
    shutil.copyfile(old, path)


def other_harness(_: Path, path: Path) -> None:
    other = path.with_name("other.umber")
    ProjectFile.create(other, named("other")).close()
    shutil.copyfile(other, path)


def cut(_: Path, path: Path) -> None:
    os.truncate(path, 0)


def half(_: Path, path: Path) -> None:
    path.write_bytes(path.read_bytes()[:6000])


def linked(old: Path, path: Path) -> None:
    path.unlink()
    path.symlink_to(old)


def same_bytes_put_anew(_: Path, path: Path) -> None:
    copy = path.with_name("copy")
    shutil.copy2(path, copy)
    os.replace(copy, path)


def gone_with_its_folder(_: Path, path: Path) -> None:
    os.rename(path.parent, path.parent.with_name(f"{path.parent.name} elsewhere"))


MOVES: dict[Callable[[Path, Path], None], bool] = {
    over: False,
    other_harness: False,
    cut: False,
    half: False,
    lambda old, path: os.replace(old, path): True,
    linked: True,
    same_bytes_put_anew: True,
    lambda _, path: path.unlink(): True,
    gone_with_its_folder: True,
}
"""What another program does → whether what was opened is whole still, without its name."""

ACTS: list[Callable[[ProjectFile], Any]] = [
    lambda p: p.commit(named("next"), "an edit"),
    lambda p: p.undo(),
    lambda p: p.freeze(2, "as sold"),
    lambda p: p.floor.append([event("e1", "B", 1, "note", data={"says": "x"})]),
    lambda p: p.floor.put_coils([Coil("C1", "1 mm²", 9.0)], 1),
    lambda p: p.floor.waive("Mara", "none here"),
    lambda p: p.floor.use_shelf(Path("shop.umbershelf")),
]


def state(path: Path) -> bytes | None:
    return path.read_bytes() if path.exists() else None


@pytest.mark.parametrize("whole", [False, True])
def test_what_another_program_did_to_the_file_stands_and_what_was_open_is_offered(tmp_path: Path, whole: bool) -> None:
    for number, move in enumerate(one for one, keeps in MOVES.items() if keeps is whole):
        for turn, act in enumerate(ACTS):
            folder = tmp_path / f"{number} {turn}"
            folder.mkdir()
            path, old = folder / "loom.umber", tmp_path / f"old {number} {turn}.umber"
            project = ProjectFile.create(path, named("first"))
            project.commit(named("second"), "second")
            shutil.copyfile(path, old)
            for revision in range(4):
                project.commit(named(f"third {revision}"), "third")
            for keeping in [one for one in threading.enumerate() if one.name == "copy"]:
                keeping.join()  # a copy is made beside
            before = {copy.path: copy.path.read_bytes() for copy in copies.all_copies() if "kept" not in copy.name}
            move(old, path)
            left = state(path)
            assert path.name in project.moved()
            with pytest.raises(MovedError):
                act(project)
            with pytest.raises(MovedError, match="Nothing was written"):
                project.commit(named("more"), "more")
            assert project.design == named("third 3")
            project.kept_as(tmp_path / f"kept {number} {turn}.umber", named("more"))
            project.close()
            assert state(path) == left
            assert {
                copy.path: copy.path.read_bytes() for copy in copies.all_copies() if "kept" not in copy.name
            } == before
            with ProjectFile.open(tmp_path / f"kept {number} {turn}.umber") as kept:
                assert kept.design == named("more")
                assert len(kept.history()) == (7 if whole else 1)


def test_what_moves_in_the_middle_of_a_change_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The file is exchanged after the change was begun, before and after it is committed; a mere touch is nothing."""
    path, old = tmp_path / "loom.umber", tmp_path / "old.umber"
    with ProjectFile.create(path, named("first")) as project:
        os.utime(path, (1, 1))
        project.commit(named("second"), "second")
        shutil.copyfile(path, old)
        add = project._history.add
        monkeypatch.setattr(
            project._history,
            "add",
            lambda *args: (add(*args), shutil.copy2(old, tmp_path / "x"), os.replace(tmp_path / "x", path)),
        )
        with pytest.raises(MovedError, match="Another file was put in the place"):
            project.commit(named("third"), "third")
        assert path.read_bytes() == old.read_bytes()
    with ProjectFile.open(path) as project:

        def after(self: Floor) -> None:
            shutil.copyfile(old, path)

        monkeypatch.setattr(project._history, "added", lambda: pytest.fail("announced"))
        assert project._watch is not None
        check = project._watch.after
        monkeypatch.setattr(project._watch, "after", lambda: (shutil.copyfile(old, path), check()))
        with pytest.raises(MovedError, match=r"was overwritten by another program.*the last change isn’t in it"):
            project.commit(named("third"), "third")
    with ProjectFile.open(path) as project:
        assert project.design == named("second")


def test_a_copy_by_day_never_gives_its_place_to_less(tmp_path: Path) -> None:
    path, today = tmp_path / "loom.umber", date(2031, 5, 12)
    with ProjectFile.create(path, named("first")) as project:
        early = path.read_bytes()
        for name in ("second", "third"):
            project.commit(named(name), name)
        late, key = path.read_bytes(), project.id
        folder = copies.folder_of(path, key)
        assert copies.keep(path, key, early, today)
        assert copies.keep(path, key, late, today)
        assert [one.path.name for one in copies.copies_in(folder)] == ["2031-05-12.umber"]
        at = late.find(b"x\x9c")  # the body of the newest revision
        assert at > 0
        for bad in (
            late[:-4096],
            late[: at + 6] + b"\0\0\0\0" + late[at + 10 :],
            b"",
            os.urandom(9000),
            b"\0" * len(late),
            late[:3000] + b"\xff" * 900 + late[3900:],
        ):
            assert not copies.keep(path, key, bad, today)
            assert [one.path.read_bytes() for one in copies.copies_in(folder)] == [late]
        assert copies.keep(path, key, early, today)  # the user put an old one there: both are kept
        assert [one.path.read_bytes() for one in copies.copies_in(folder)] == [early, late]
        assert copies.keep(path, key, late, today)
        assert {one.number: one.path.read_bytes() for one in copies.copies_in(folder)} == {1: late, 2: late}
        sqlite3.connect(folder / "2031-05-12-2.umber").close()


def test_a_journal_left_by_a_kill_is_never_rolled_back_into_another_file(tmp_path: Path) -> None:
    """`cp old.umber loom.umber` while a journal is hot: the journal is of the file that was there before."""
    path, other = tmp_path / "loom.umber", tmp_path / "old.umber"
    for name, target, edits in (("loom", path, 3), ("old", other, 40)):
        with ProjectFile.create(target, Design(project=Project(name=name)), copied=False) as project:
            for number in range(edits):
                project.commit(Design(project=Project(name=f"{name} {number}")), "edit")
    child = subprocess.run([sys.executable, "-c", HALFWAY, str(path)], check=False)
    assert child.returncode == -9
    assert Path(f"{path}-journal").stat().st_size > 0
    wanted = other.read_bytes()
    shutil.copyfile(other, path)
    for writing in (False, True):
        with ProjectFile.open(path, for_writing=writing) as project:
            assert project.design.project.name == "old 39"
            assert not project.lost
    assert path.read_bytes() == wanted
    assert Path(f"{path}-journal.foreign").exists()
