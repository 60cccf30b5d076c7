"""The guide is done as it is told: every window step of the guide and of the eight first pages at a real window, every
shell step by the shell."""

from __future__ import annotations

import re
import shlex
from pathlib import Path
from typing import Any

import pytest

from app.steps import Steps
from long_runs import LONG
from umber_trunk.cli.main import main

DOCS = Path(__file__).parents[2] / "docs"
ALL_PAGES = sorted((DOCS / "first-pages").glob("*.md"))
PAGES = ALL_PAGES if LONG else ALL_PAGES[:1]
"""One of the eight in the normal run (their jobs are all played by tests/cli/test_jobs.py), all of them by `./umber
test --long`."""
GUIDE = DOCS / "user-guide.md"


def blocks(text: str, kind: str) -> list[str]:
    """The marked blocks of a kind: "window", or "" for the shell's."""
    return [said for what, said in re.findall(r"^```(\w*)\n(.*?)^```$", text, re.MULTILINE | re.DOTALL) if what == kind]


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.stem)
def test_a_first_page_is_done_as_it_is_told(
    page: Path,
    qtbot: Any,
    open_window: Any,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    text = page.read_text("utf-8")
    window, shell = blocks(text, "window"), blocks(text, "")
    assert len(window) == len(shell) == 1
    Steps(qtbot, open_window, tmp_path, monkeypatch).play(window[0])
    monkeypatch.chdir(tmp_path)
    for line in shell[0].splitlines():
        assert main(shlex.split(line)[1:]) == 0, capsys.readouterr().err
    assert f"(first-pages/{page.name})" in GUIDE.read_text("utf-8")


@pytest.mark.parametrize(
    "number", [n for n in range(len(blocks(GUIDE.read_text("utf-8"), "window"))) if LONG or n != 3]
)
@pytest.mark.share(9)
def test_the_guides_steps_are_done_as_they_are_told(
    number: int, qtbot: Any, open_window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    Steps(qtbot, open_window, tmp_path, monkeypatch).play(blocks(GUIDE.read_text("utf-8"), "window")[number])


SAID = frozenset(
    (
        "what",
        "how much",
        "surge",
        "duty",
        "at",
        "in",
        "run",
        "off",
        "from",
        "min",
        "drop",
        "efficiency",
        "frame return",
        "pick",
        "answer",
        "say",
        "go",
        "choose",
        "write",
        "see",
        "press",
        "click",
    )
)
"""Italics of the guide that are words of a line or of these blocks."""
NOT_RUN: frozenset[str] = frozenset()
"""What the guide names and no block does."""


def test_what_the_guide_names_is_done_in_a_block() -> None:
    """Buttons, tabs, columns, commands in italics; keys in prose."""
    text = GUIDE.read_text("utf-8")
    steps = "\n".join(blocks(text, "window"))
    prose = re.sub(r"`[^`]*`", "", re.sub(r"^```.*?^```$", "", text, flags=re.MULTILINE | re.DOTALL))
    named = set(re.findall(r"(?<!\*)\*([^*\n]+)\*(?!\*)", prose)) - SAID
    undone = {
        one
        for one in named
        if not re.search(rf"^(?:click|menu|choose|write|fill|see|pick) {re.escape(one)}", steps, re.MULTILINE)
    }
    keys = set(
        re.findall(r"(?<!\+)\b(?:(?:Ctrl|Alt|Shift)\+(?:[A-Z]\b|Del|F?\d+)|F\d{1,2}|Space|Backspace|Home|Tab)\b", prose)
    )
    undone |= {one for one in keys if f"press {one}" not in steps and not one.startswith(("Alt+", "Shift+Z"))}
    assert undone == NOT_RUN, sorted(undone)
