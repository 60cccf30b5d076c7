"""Whole jobs: a script of lines and commands played all or nothing, the eight that ship, and proposals taken."""

from __future__ import annotations

import argparse
import io
import re
import shlex
import sys
import tempfile
from collections.abc import Sequence
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass, field
from importlib import resources
from pathlib import Path
from typing import Any

from umber_trunk.cli.reading import opened, shelf
from umber_trunk.cli.terminal import BAD_INPUT, SOUND, out, refusal_out, stoppable
from umber_trunk.core.errors import InputError, UmberError
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Project
from umber_trunk.core.language.hear import Listener
from umber_trunk.core.language.taken import Taken, taken
from umber_trunk.core.make.measuring import KINDS, kind_told
from umber_trunk.core.sentences import say
from umber_trunk.store.files import put_whole, read_text, read_whole
from umber_trunk.store.project import ProjectFile

COMMANDS = {
    "take": "make proposals chosen: sizes, parts of ends, coverings, fuses",
    "play": "a script of lines and commands, all of it or nothing, as one step to undo",
    "jobs": "whole jobs that ship as scripts: list them, or play one",
}
MOST_LINES = 5_000
AGAIN = 20_000
"""Answers at most that a practised hand gives."""
BY_HAND = "by a practised hand"
"""What a command reads where a script says this: the stand-in for somebody at the bench."""
_NOT_PLAYED = frozenset(("play", "jobs", "open", "demo", "shots", "bench", "install", "meter", "practise"))


def add_take(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("what", choices=("sizes", "ends", "coverings", "fuses", "all"))
    parser.add_argument("--dry-run", action="store_true", help="say what would change, change nothing")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_take)


def _take(args: argparse.Namespace) -> int:
    with opened(args.file, for_writing=not args.dry_run) as project:
        parts, at, best = shelf(args.file), ["the first figures"], list[Taken]()

        def keep() -> None:
            """What is whole by now is kept: each proposal taken so far brings nothing new by itself."""
            if best and best[-1].changed and not args.dry_run:
                done = ("fuses", "sizes", "ends", "coverings")[: len(best)]
                project.commit(best[-1].design, f"take {', '.join(done)}")
                print(f"umber: kept what was whole: {', '.join(done)} ({best[-1].changed} parts).", file=sys.stderr)

        found = stoppable(
            lambda wanted: taken(project.design, args.what, parts, at.append, wanted, best.append),
            keep,
            lambda: at[-1],
        )
        if found.changed and not args.dry_run:
            project.commit(found.design, f"take {args.what}")
    if args.json:
        out(
            {
                "what": args.what,
                "changed": found.changed,
                "taken": bool(found.changed) and not args.dry_run,
                "raised": list(found.raised),
                "left": [{"part": part, "why": why} for part, why in found.left],
            }
        )
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
    """The steps of a script; # begins a remark, “harness NAME” names its file, indented lines are what a command
    reads."""
    name, steps = "", list[_Step]()
    for row, raw in enumerate(read_text(path).splitlines(), 1):
        line = raw.strip()
        if not line or line.startswith("#"):
            continue
        if raw[0] in " \t":
            if not steps or not steps[-1].command:
                raise InputError.of("shell.indented-line-without-command", path=path.name, row=row)
            steps[-1].reads.append("" if line == "⏎" else line)
        elif line.lower().startswith("harness ") and not steps:
            name = line.split(None, 1)[1]
        else:
            steps.append(_Step(row, line))
    if not steps:
        raise InputError.of("shell.says-nothing", path=path.name)
    if len(steps) > MOST_LINES:
        raise InputError.of("shell.over-lines", path=path.name, most=MOST_LINES)
    if name and (Path(name).name != name or not name.endswith(".umber")):
        raise InputError.of("shell.harness-wants-files-name-that-ends", path=path.name, name=name)
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
        raise InputError.of("shell.say-new-file-or-into")
    script = _script(args.script)
    target = args.into or args.output or Path(script.name)
    if args.into is None and target.exists():
        raise InputError.of("shell.design-there-already", target=target.name)
    with tempfile.TemporaryDirectory(prefix="umber-play-") as folder:
        copy = Path(folder) / target.name
        if args.into is not None:
            put_whole(copy, read_whole(args.into), fresh=True)
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
                if again["wrong"]:  # it went on a copy just now, so somebody changed the file meanwhile
                    told = {**again, "kept": f"What stands before that row is in {target.name}; the rest isn’t."}
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
            return {"wrong": f"{where}{why}", "refused": refusal_out(why), "done": done, "said": said}
    return {"wrong": "", "done": done, "said": said}


def _lines(block: Sequence[_Step], path: Path, name: str) -> None:
    """These lines as one revision, all or none; UmberError names the row."""
    with opened(path) as project:
        design, listener = project.design, Listener(shelf(path))
        for step in block:
            try:
                design = listener.done(design, listener.hear(design, step.text))
            except UmberError as why:
                raise InputError.of("shell.script-row", name=name, row=step.row, step=step.text, why=why) from why
        if design != project.design:
            project.commit(design, f"play {name}"[:200])


class _Typed(io.TextIOBase):
    """What a command of a script reads: its lines; and where they say so a practised hand, who looks at what the bench
    asks and gives readings from the middle of their bands."""

    def __init__(self, lines: Sequence[str], told: io.StringIO) -> None:
        self._lines, self._told = list(lines), told
        self._answers: list[str] = []
        self._given = 0

    def readline(self, size: int | None = -1) -> str:  # type: ignore[override]
        """The next line, "" at the end."""
        if self._answers:
            return self._answers.pop(0) + "\n"
        if self._lines and self._lines[0] == BY_HAND:
            if self._given >= AGAIN:
                raise InputError.of("shell.practised-hand-came-to-no-end")
            self._given += 1
            said = self._told.getvalue()[-3000:]
            if "All is done." in said.splitlines()[-1:]:
                self._lines.pop(0)
                return self.readline()
            self._answers = [*_readings(said), ""]
            return self.readline()
        return self._lines.pop(0) + "\n" if self._lines else ""

    def __next__(self) -> str:  # type: ignore[override]
        line = self.readline()
        if not line:
            raise StopIteration
        return line


def _readings(said: str) -> list[str]:
    """What the step last shown asks to be measured, each in the middle of its band, or a tenth over its least."""
    step = said[said.rfind("\n[") + 1 :]
    if "First-off" not in step:
        return []
    found = []
    figure = r"([\d.]+)"
    between = re.escape(say("limits.between", low=1, high=2)).replace("1", figure).replace("2", figure)
    least = re.escape(say("limits.at-least", low=1)).replace("1", figure)
    for kind, (_, unit, _) in KINDS.items():
        band = re.search(rf"{re.escape(kind_told(kind))}: (?:{between}|{least}) {re.escape(unit)}", step)
        if band is not None:
            value = (float(band[1]) + float(band[2])) / 2 if band[1] else 1.1 * float(band[3])
            found.append(f"{kind} {value:.3f}")
    return found or ["release Script nothing to measure it by"]


def _command(step: _Step, path: Path) -> tuple[int, str]:
    """Runs a command of a script in this process; FILE is the harness."""
    from umber_trunk.cli.main import WRITTEN, build_parser, main

    words = shlex.split(step.text)[1:]
    if not words or words[0] in _NOT_PLAYED:
        raise InputError.of("shell.cant-be-played-in-script", step=step.text)
    words = [str(path) if word == "FILE" else word for word in words]
    told, before = io.StringIO(), sys.stdin
    sys.stdin = _Typed(step.reads, told)
    try:
        with redirect_stdout(told), redirect_stderr(told):
            asked = vars(build_parser(words[0]).parse_args(words))
            if any(asked.get(name) is not None for name in WRITTEN):  # a rehearsal would write it, too
                raise InputError.of("shell.writes-another-file", step=step.text)
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
                "refused": told.get("refused"),
                "commands": told["said"],
            }
        )
        return BAD_INPUT if told["wrong"] else SOUND
    if told["wrong"]:
        raise UmberError(f"{told['wrong']} {told.get('kept', 'Nothing was changed.')}")
    for text in told["said"]:
        lines = text.splitlines()
        print("\n".join([lines[0], *(f"    {line}" for line in lines[1:][-6:])]))
    print(f"{told['done']} lines {'would be' if args.dry_run else ''} played into {target.name}.".replace("  ", " "))
    return SOUND


def jobs_folder() -> Path:
    """Where the jobs that ship lie."""
    return Path(str(resources.files("umber_trunk").joinpath("data/jobs")))


def add_jobs(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("name", nargs="?", default="", metavar="NAME", help="play this one")
    _where(parser)
    parser.set_defaults(run=_jobs)


def _jobs(args: argparse.Namespace) -> int:
    found = {path.stem: path for path in sorted(jobs_folder().glob("*.job"))}
    if args.name:
        if args.name not in found:
            raise InputError.of("shell.no-job-of-these", name=args.name, known=", ".join(found))
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
