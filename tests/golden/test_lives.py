"""Whole lives of a harness and of a shop, told to the shell line by line: what it answers to each and what
it writes (`cat`), word for word. Clock
and names of entries are set, so that every run says the same; keys and seals, which are drawn anew, are left out."""

from __future__ import annotations

import io
import itertools
import re
import shlex
import time
import uuid
from pathlib import Path

import pytest

from golden.test_answers import held
from umber_trunk.cli.main import main

LIVES = sorted((Path(__file__).parent / "lives").glob("*.txt"))
MOST_ROWS = 60
"""Of an answer: of longer ones the beginning and the end."""


def parts_of(text: str) -> tuple[dict[str, str], list[list[str]]]:
    """(files by name, lines to say: the command, then what is typed into it)."""
    head, *files = re.split(r"^== (.+)\n", text, flags=re.MULTILINE)
    lines: list[list[str]] = []
    for line in head.splitlines():
        if line.startswith("| "):
            lines[-1].append(line[2:])
        elif line and not line.startswith("#"):
            lines.append([line])
    return dict(zip(files[::2], files[1::2], strict=True)), lines


@pytest.mark.parametrize("path", LIVES, ids=lambda path: path.stem)
def test_a_life_is_told_as_it_was(
    path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    seconds, names = itertools.count(1_796_112_000), itertools.count(1)
    monkeypatch.setattr(time, "time_ns", lambda: next(seconds) * 1_000_000_000)
    monkeypatch.setattr(time, "time", lambda: 1_796_112_000.0)
    monkeypatch.setattr(uuid, "uuid4", lambda: uuid.UUID(int=next(names)))
    monkeypatch.setenv("TZ", "UTC")
    time.tzset()
    (folder := tmp_path / "loft").mkdir()
    monkeypatch.chdir(folder)
    files, lines = parts_of(path.read_text("utf-8"))
    for name, text in files.items():
        Path(name).write_text(text, "utf-8")
    told = {}
    for number, (line, *typed) in enumerate(lines, 1):
        if line.startswith("cat "):
            status, text = 0, Path(line[4:]).read_text("utf-8-sig")
        else:
            monkeypatch.setattr("sys.stdin", io.StringIO("\n".join(typed) + "\n"))
            status, said = main(shlex.split(line)), capsys.readouterr()
            text = f"{said.out}{said.err}"
        text = re.sub(r"(?<=station )[0-9a-f]{4}|\b[0-9a-f]{8,}\b|(?<=stock )[\d -]+", "#", text)
        text = text.replace(str(tmp_path), "").replace("\a", "")
        rows = text.splitlines()
        rows = rows if len(rows) <= MOST_ROWS else [*rows[:30], f"… of {len(rows)} rows", *rows[-10:]]
        told[f"{number}. {line}"] = [f"ends with {status}", *rows]
    held(f"lives-{path.stem}.json", told)
