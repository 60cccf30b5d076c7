"""Long work says that it goes on, and how it is stopped."""

from __future__ import annotations

import _thread
import threading
from pathlib import Path

import pytest

from umber_trunk.cli import terminal
from umber_trunk.cli.main import main
from umber_trunk.cli.terminal import STOPPED
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import Stopped
from umber_trunk.core.harness.model import Design
from umber_trunk.core.language import taken
from umber_trunk.core.sample import generated
from umber_trunk.store.project import ProjectFile


def test_long_work_is_told_of_and_says_how_to_stop_it(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setattr(terminal, "PROGRESS_S", (0.02, 0.02))
    going = threading.Event()

    def work(_: object) -> int:
        going.wait(0.2)
        return 7

    assert terminal.stoppable(work, at_what=lambda: "sizes, round 2") == 7
    said = capsys.readouterr().err
    assert "still at it after" in said
    assert "(sizes, round 2); Ctrl-C stops it" in said
    terminal.stoppable(work, last_words=lambda: None)
    assert capsys.readouterr().err == "", "work that speaks for itself isn't spoken over"


def test_what_is_whole_is_kept_when_it_is_stopped(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """Ctrl-C while coverings are being taken: fuses, sizes and ends are, as one revision, and bring no finding that
    wasn't there."""
    path = tmp_path / "loom.umber"
    design = generated(12)
    ProjectFile.create(path, design, copied=False).close()

    def stopped(design: Design, *_: object) -> Design:
        _thread.interrupt_main()
        threading.Event().wait(0.3)
        raise Stopped

    monkeypatch.setattr(taken, "take_covers", stopped)
    assert main(["take", str(path), "all"]) == STOPPED
    assert "kept what was whole: fuses, sizes, ends" in capsys.readouterr().err
    with ProjectFile.open(path) as project:
        assert [kept.label for kept in project.history()][-1] == "take fuses, sizes, ends"
        assert all(wire.size for wire in project.design.wires)
        assert not taken.new_findings({one.id for one in analyse(design).findings}, analyse(project.design))
