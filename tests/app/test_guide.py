"""The guide is done as it is told: every window step of the guide and of the eight first pages at a real window, every shell step by the shell."""

from __future__ import annotations

import re
import shlex
from pathlib import Path
from typing import Any

import pytest
from app.steps import Steps

from umber_trunk.cli.main import main

DOCS = Path(__file__).parents[2] / "docs"
PAGES = sorted((DOCS / "first-pages").glob("*.md"))
GUIDE = DOCS / "user-guide.md"


def blocks(text: str, kind: str) -> list[str]:
    """The marked blocks of a kind: "window", or "" for the shell's."""
    return [said for what, said in re.findall(r"^```(\w*)\n(.*?)^```$", text, re.MULTILINE | re.DOTALL) if what == kind]


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.stem)
def test_a_first_page_is_done_as_it_is_told(
    page: Path, qtbot: Any, open_window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    text = page.read_text("utf-8")
    window, shell = blocks(text, "window"), blocks(text, "")
    assert len(window) == len(shell) == 1
    Steps(qtbot, open_window, tmp_path, monkeypatch).play(window[0])
    monkeypatch.chdir(tmp_path)
    for line in shell[0].splitlines():
        assert main(shlex.split(line)[1:]) == 0, capsys.readouterr().err
    assert f"(first-pages/{page.name})" in GUIDE.read_text("utf-8")
