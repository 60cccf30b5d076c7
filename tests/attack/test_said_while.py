"""Long work says that it goes on, and how it is stopped."""

from __future__ import annotations

import threading

import pytest

from umber_trunk.cli import terminal


def test_long_work_is_told_of_and_says_how_to_stop_it(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
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
