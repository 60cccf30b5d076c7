"""Every call that saves anything fails once, at every place, beside the kills: nothing that was announced is lost,
nothing is half there, and what failed is a sentence."""

from __future__ import annotations

import errno
import fcntl
import json
import os
import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtGui import QImage

from attack.faulty import Shim, library
from umber_trunk.cli.main import main
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.edits import rename
from umber_trunk.core.harness.model import Design
from umber_trunk.store import catalogues, copies
from umber_trunk.store.builds import begin, resume
from umber_trunk.store.keeping import strike
from umber_trunk.store.lines_log import read_lines, station_path
from umber_trunk.store.listing.memory import memory_path
from umber_trunk.store.merging import merge
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.state import read_state, write_state

MOST = int(os.environ.get("UMBER_CALLS", "14"))
"""How many places of each act fail in the normal run; all of them with UMBER_CALLS=1000."""
CODES = (errno.ENOSPC, errno.EIO, errno.EDQUOT)


@contextmanager
def failing(monkeypatch: pytest.MonkeyPatch, shim: Shim) -> Iterator[None]:
    """The calls to the system that save, counted with SQLite's own: open for writing, write, fsync, rename, link,
    truncation, lock."""

    def wrapped(real: Callable[..., Any], saves: Callable[..., bool]) -> Callable[..., Any]:
        def call(*args: Any, **more: Any) -> Any:
            if saves(*args) and shim.goes_wrong():
                code = CODES[shim.calls % len(CODES)]
                raise OSError(code, os.strerror(code))
            return real(*args, **more)

        return call

    def opens(_: object, flags: int = 0, *__: object) -> bool:
        return bool(flags & (os.O_WRONLY | os.O_RDWR | os.O_CREAT))

    class Slow:
        """A file whose writes may fail."""

        def __init__(self, file: Any) -> None:
            self.file = file
            self.write = wrapped(file.write, lambda *_: "w" in file.mode)

        def __enter__(self) -> Slow:
            return self

        def __exit__(self, *_: object) -> None:
            self.file.close()

        def __getattr__(self, name: str) -> Any:
            return getattr(self.file, name)

    real_open, real_fdopen = os.open, os.fdopen
    with monkeypatch.context() as patch, shim.under():
        patch.setattr(os, "open", wrapped(real_open, opens))
        patch.setattr(os, "fdopen", lambda *args, **more: Slow(real_fdopen(*args, **more)))
        for name in ("write", "fsync", "replace", "rename", "link", "ftruncate"):
            patch.setattr(os, name, wrapped(getattr(os, name), lambda *_: True))
        patch.setattr(fcntl, "flock", wrapped(fcntl.flock, lambda *_: True))
        yield


def ready(folder: Path) -> None:
    """A harness with a build, a station's log of it, a list, a picture."""
    with ProjectFile.create(folder / "a.umber", demo("shore"), copied=False) as project:
        begin(project, "one", [1]).close()
        with (
            ProjectFile.open(folder / "a.umber", for_writing=False) as reader,
            resume(reader, "one", station="back") as there,
        ):
            there.advance()
        with resume(project, "one") as here:
            here.advance()
        project.commit(rename(project.design, "loads", project.design.loads[1].id, "other"), "edit")
    (folder / "list.csv").write_text("wire,from,to,size,colour\nZ1,new 1,other 2,1.5 mm2,red\n")
    (folder / "stock.csv").write_text("coil,size,metal,colour,length_m\nC9,1.5 mm2,copper,red,20\n")
    QImage(9, 9, QImage.Format.Format_RGB32).save(str(folder / "p.png"))


def design(path: Path, name: str = "a.umber") -> Design:
    with ProjectFile.open(path / name, for_writing=False) as project:
        assert not project.lost
        return project.design


def log(path: Path) -> int:
    with ProjectFile.open(path / "a.umber", for_writing=False) as project:
        assert not project.floor.trust().wrong
        return len(project.floor.events())


def shell(*words: str) -> Callable[[Path], None]:
    def run(path: Path) -> None:
        status = main([word.replace("@", str(path)) for word in words])
        assert status != 70, words
        if status not in (0, 1):
            raise UmberError("refused")

    return run


def with_file(act: Callable[[ProjectFile], object]) -> Callable[[Path], None]:
    def run(path: Path) -> None:
        with ProjectFile.open(path / "a.umber") as project:
            if project.read_only:
                raise UmberError("not allowed")
            act(project)

    return run


def edit(project: ProjectFile) -> None:
    project.commit(rename(project.design, "loads", project.design.loads[0].id, "renamed"), "edit")


def undone(project: ProjectFile) -> None:
    edit(project)
    project.undo()
    project.redo()


def advanced(project: ProjectFile) -> None:
    with resume(project, "one") as build:
        build.advance()


def at_station(path: Path) -> None:
    with (
        ProjectFile.open(path / "a.umber", for_writing=False) as reader,
        resume(reader, "one", station="back") as there,
    ):
        there.advance()


def photograph(project: ProjectFile) -> None:
    from umber_trunk.app.paper.photographs import photograph as pictured

    with resume(project, "one") as build:
        build.photograph("p.png", pictured(project.path.with_name("p.png")), build.bench.now)


def remembered(path: Path) -> None:
    if not write_state(path / "s.json", {"scale": 2}):
        raise UmberError("not remembered")


def kept(path: Path) -> bool:
    return (path / "new.umber").exists() and design(path, "new.umber") is not None


def lines(path: Path) -> int:
    found = read_lines(station_path(path / "a.umber", "back"), design_id(path))
    assert not found.faults
    return len(found.events)


def design_id(path: Path) -> str:
    with ProjectFile.open(path / "a.umber", for_writing=False) as project:
        return project.id


ACTS: dict[str, tuple[Callable[[Path], None], Callable[[Path], Any]]] = {
    "edit": (with_file(edit), design),
    "undo and redo": (with_file(undone), design),
    "say": (shell("say", "@/a.umber", "lamp 5 W at mast"), design),
    "freeze": (shell("freeze", "@/a.umber", "rev A"), design),
    "import": (shell("import", "@/list.csv", "--into", "@/a.umber", "--accept-doubts"), design),
    "step": (with_file(advanced), log),
    "station’s step": (at_station, lines),
    "merge": (with_file(lambda p: merge(p, station_path(p.path, "back"))), log),
    "strike": (with_file(lambda p: strike(p, "3", "Jo", "why")), log),
    "photograph": (with_file(photograph), log),
    "shelf": (shell("shelf", "@/a.umber", "--read", "@/stock.csv", "--replace"), lambda p: json.dumps(coils(p))),
    "export": (
        shell("export", "@/a.umber", "--format", "json", "-o", "@/o.json"),
        lambda p: (p / "o.json").read_text() if (p / "o.json").exists() else "",
    ),
    "new": (shell("new", "@/new.umber"), kept),
    "restore": (shell("restore", "@/a.umber", "--revision", "1", "-o", "@/new.umber"), kept),
    "salvage": (shell("salvage", "@/a.umber", "-o", "@/new.umber"), kept),
    "settings": (remembered, lambda p: read_state(p / "s.json")),
}


def coils(path: Path) -> list[str]:
    with ProjectFile.open(path / "a.umber", for_writing=False) as project:
        return [held.coil.id for held in project.floor.coils()]


@pytest.mark.skipif(library() is None, reason="this interpreter has SQLite built in")
@pytest.mark.parametrize("name", ACTS)
@pytest.mark.share(3)
def test_each_call_of_each_saving_act_fails_once(
    name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]
) -> None:
    act, probe = ACTS[name]
    origin = tmp_path / "origin"
    origin.mkdir()
    ready(origin)
    shim = Shim()

    def tried(at: int) -> tuple[bool, Any, Path]:
        path = tmp_path / f"n{at}"
        shutil.copytree(origin, path)
        with failing(monkeypatch, shim):
            shim.calls, shim.fail_at = 0, at
            try:
                act(path)
                said = True
            except UmberError:
                said = False
            counted, shim.fail_at = shim.calls, 0
        shim.calls = counted
        return said, probe(path), path

    fine, after, path = tried(0)
    assert fine, capfd.readouterr().err
    count, before = shim.calls, probe(origin)
    assert count >= 3
    places = (
        range(1, count + 1) if count <= MOST else sorted({1 + round(n * (count - 1) / (MOST - 1)) for n in range(MOST)})
    )
    refused = 0
    for at in places:
        said, found, path = tried(at)
        if name in (
            "step",
            "station’s step",
            "merge",
            "strike",
            "photograph",
        ):  # each entry is one of its own, and its signature another
            assert before <= found <= after, (at, before, found, after)
            assert not said or found > before, at
        else:
            assert found in (before, after), at
            assert not said or found == after, at
        refused += not said
        parts = [one.name for one in path.iterdir() if one.name.endswith(".part")]
        assert not parts, at
        shutil.rmtree(path)
    assert refused
    print(f"{name}: {len(places)} of {count} calls, {refused} refused")


def test_what_copies_remember_and_shop_parts_bear_a_failing_disk(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Doors that say nothing to the user when they fail: what was there before stands."""
    if library() is None:
        pytest.skip("this interpreter has SQLite built in")
    shim = Shim()
    ready(tmp_path)
    data = (tmp_path / "a.umber").read_bytes()
    assert copies.keep(tmp_path / "a.umber", "id", data)
    part = next(iter(catalogues.generic().parts.values())).model_copy(update={"id": "mine-1"})
    assert catalogues.add_to_shop([part]) == 1
    for at in range(1, 12):
        with failing(monkeypatch, shim):
            shim.calls, shim.fail_at = 0, at
            copies.keep(tmp_path / "a.umber", "id", data)
            with suppress(UmberError):
                catalogues.add_to_shop([part.model_copy(update={"id": f"mine-{at + 1}"})])
            write_state(memory_path(), {"x": at})
            shim.fail_at = 0
        assert len(copies.all_copies()) >= 1
        assert all(copies.revisions_held(one.path.read_bytes()) for one in copies.all_copies())
        assert any(one.id == "mine-1" for one in catalogues.shop_parts())
        assert read_state(memory_path())[1] == ""
