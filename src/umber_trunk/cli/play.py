"""Whole jobs: a script of lines and commands played all or nothing, the eight that ship, and proposals taken."""

from __future__ import annotations

import argparse
import io
import shlex
import shutil
import sys
import tempfile
from collections.abc import Sequence
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from umber_trunk.cli.reading import opened, shelf
from umber_trunk.cli.terminal import BAD_INPUT, SOUND, out
from umber_trunk.core.errors import InputError, UmberError
from umber_trunk.core.harness.model import Design, Project
from umber_trunk.core.language.hear import Listener
from umber_trunk.core.language.taken import taken
from umber_trunk.store.files import put_whole, read_text, read_whole
from umber_trunk.store.project import ProjectFile

COMMANDS = {
    "take": "make proposals chosen: sizes, parts of ends, coverings, fuses",
    "play": "a script of lines and commands, all of it or nothing, as one step to undo",
    "jobs": "whole jobs that ship as scripts: list them, or play one",
}
MOST_LINES = 5_000
AGAIN = 4_000
"""Empty lines that “…” stands for in what a command reads: enough to go through any bench of a script."""
_NOT_PLAYED = frozenset(("play", "jobs", "open", "demo", "shots", "bench", "install", "meter", "practise"))


def add_take(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("what", choices=("sizes", "ends", "coverings", "fuses"))
    parser.add_argument("--dry-run", action="store_true", help="say what would change, change nothing")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_take)


def _take(args: argparse.Namespace) -> int:
    with opened(args.file, for_writing=not args.dry_run) as project:
        found = taken(project.design, args.what, shelf())
        if found.changed and not args.dry_run:
            project.commit(found.design, f"take {args.what}")
    if args.json:
        out({
            "what": args.what, "changed": found.changed, "taken": bool(found.changed) and not args.dry_run, "raised": list(found.raised),
            "left": [{"part": part, "why": why} for part, why in found.left],
        })  # fmt: skip
        return SOUND
    print(f"{'Would change' if args.dry_run else 'Changed'}: {found.changed} parts by the proposed {args.what}.")
    if found.raised:
        print(f"Sizes that had to rise with them: {', '.join(found.raised)}.")
    for part, why in found.left:
        print(f"Left as it was: {part}, since then: {why}")
    return SOUND


@dataclass
class _Step:
    """One line of a script, or a command with what it reads."""

    row: int
    text: str
    reads: list[str] = field(default_factory=list)

    @property
    def command(self) -> bool:
        return self.text.startswith("umber ")


@dataclass(frozen=True)
class _Script:
    name: str
    steps: tuple[_Step, ...]


def _script(path: Path) -> _Script:
    """The steps of a script; # begins a remark, “harness NAME” names its file, indented lines are what a command reads."""
    name, steps = "", list[_Step]()
    for row, raw in enumerate(read_text(path).splitlines(), 1):
        line = raw.strip()
        if not line or line.startswith("#"):
            continue
        if raw[0] in " \t":
            if not steps or not steps[-1].command:
                raise InputError(
                    f"{path.name}, row {row}: an indented line is what the command above reads, and there is none."
                )
            steps[-1].reads += [""] * AGAIN if line in ("…", "...") else ["" if line == "⏎" else line]
        elif line.lower().startswith("harness ") and not steps:
            name = line.split(None, 1)[1]
        else:
            steps.append(_Step(row, line))
    if not steps:
        raise InputError(f"{path.name} says nothing.")
    if len(steps) > MOST_LINES:
        raise InputError(f"{path.name} has over {MOST_LINES} lines.")
    if name and (Path(name).name != name or not name.endswith(".umber")):
        raise InputError(f"{path.name}: “harness {name}” wants a file's name that ends in .umber, without a folder.")
    return _Script(name or path.stem + ".umber", tuple(steps))


def add_play(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("script", type=Path, metavar="SCRIPT")
    _where(parser)


def _where(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "-o", "--output", type=Path, metavar="FILE", help="a new harness file; the one the script names otherwise"
    )
    parser.add_argument("--into", type=Path, metavar="FILE", help="go on in this harness")
    parser.add_argument("--dry-run", action="store_true", help="play it on a copy that is thrown away")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_play)


def _play(args: argparse.Namespace) -> int:
    if args.output is not None and args.into is not None:
        raise InputError("Say one: -o for a new file, --into for one that is there.")
    script = _script(args.script)
    target = args.into or args.output or Path(script.name)
    if args.into is None and target.exists():
        raise InputError(
            f"{target.name} is there already: say --into {target.name} to go on in it, or -o for another name."
        )
    with tempfile.TemporaryDirectory(prefix="umber-play-") as folder:
        copy = Path(folder) / target.name
        if args.into is not None:
            read_whole(args.into)
            shutil.copyfile(args.into, copy)
        else:
            ProjectFile.create(
                copy, Design(project=Project(name=target.stem[:400])), "new harness", copied=False
            ).close()
        told = _played(script, copy, args.script.name)
        if told["wrong"]:
            return _said(args, told, target)
        if not args.dry_run:
            if args.into is None:
                put_whole(target, read_whole(copy), fresh=True)
            else:
                again = _played(script, args.into, args.script.name)
                told["wrong"] = again["wrong"]
    return _said(args, told, target)


def _played(script: _Script, path: Path, name: str) -> dict[str, Any]:
    """Plays a script on a file: lines up to a command are one revision. Says how far it came and what went wrong."""
    done, said = 0, list[str]()
    at = 0
    while at < len(script.steps):
        step = script.steps[at]
        try:
            if step.command:
                status, text = _command(step, path)
                said.append(f"{step.text}\n{text}".rstrip())
                if status != SOUND:
                    return {
                        "wrong": f"{name}, row {step.row}: “{step.text}” ended with {status}: {text.strip()[-400:]}",
                        "done": done,
                        "said": said,
                    }
                at += 1
            else:
                block = []
                while at < len(script.steps) and not script.steps[at].command:
                    block.append(script.steps[at])
                    at += 1
                _lines(block, path, name)
                done += len(block) - 1
            done += 1
        except UmberError as why:
            where = f"{name}, row {step.row}: " if name not in str(why) else ""
            return {"wrong": f"{where}{why}", "done": done, "said": said}
    return {"wrong": "", "done": done, "said": said}


def _lines(block: Sequence[_Step], path: Path, name: str) -> None:
    """These lines as one revision, all or none; UmberError names the row."""
    with opened(path) as project:
        design, listener = project.design, Listener(shelf())
        for step in block:
            try:
                design = listener.done(design, listener.hear(design, step.text))
            except UmberError as why:
                raise InputError(f"{name}, row {step.row}: “{step.text}”: {why}") from why
        if design != project.design:
            project.commit(design, f"play {name}"[:200])


def _command(step: _Step, path: Path) -> tuple[int, str]:
    """Runs a command of a script in this process; FILE is the harness."""
    from umber_trunk.cli.main import main

    words = ["FILE" if word == "FILE" else word for word in shlex.split(step.text)[1:]]
    if not words or words[0] in _NOT_PLAYED:
        raise InputError(f"“{step.text}” can’t be played in a script.")
    words = [str(path) if word == "FILE" else word for word in words]
    told, before = io.StringIO(), sys.stdin
    sys.stdin = io.StringIO("".join(f"{line}\n" for line in step.reads))
    try:
        with redirect_stdout(told), redirect_stderr(told):
            status = main(words)
    except SystemExit as why:
        status = int(why.code or 0) if isinstance(why.code, int | None) else BAD_INPUT
    finally:
        sys.stdin = before
    return status, told.getvalue()


def _said(args: argparse.Namespace, told: dict[str, Any], target: Path) -> int:
    played = not told["wrong"] and not args.dry_run
    if args.json:
        out(
            {
                "played": played,
                "file": target.name,
                "lines": told["done"],
                "wrong": told["wrong"],
                "commands": told["said"],
            }
        )
        return BAD_INPUT if told["wrong"] else SOUND
    if told["wrong"]:
        raise UmberError(f"{told['wrong']} Nothing was changed.")
    for text in told["said"]:
        lines = text.splitlines()
        print("\n".join([lines[0], *(f"    {line}" for line in lines[1:][-6:])]))
    print(f"{told['done']} lines {'would be' if args.dry_run else ''} played into {target.name}.".replace("  ", " "))
    return SOUND


def jobs_folder() -> Path:
    """Where the jobs that ship lie."""
    return Path(__file__).resolve().parents[3] / "docs" / "jobs"


def add_jobs(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("name", nargs="?", default="", metavar="NAME", help="play this one")
    _where(parser)
    parser.set_defaults(run=_jobs)


def _jobs(args: argparse.Namespace) -> int:
    found = {path.stem: path for path in sorted(jobs_folder().glob("*.job"))}
    if args.name:
        if args.name not in found:
            raise InputError(f"There is no job “{args.name}”; there are: {', '.join(found)}.")
        args.script = found[args.name]
        return _play(args)
    listed = [
        {"name": name, "what": read_text(path).splitlines()[0].lstrip("# ").strip()} for name, path in found.items()
    ]
    if args.json:
        out({"jobs": listed})
    else:
        for one in listed:
            print(f"{one['name']:18}{one['what']}")
    return SOUND
