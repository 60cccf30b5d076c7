"""Every command of the shell that isn't a server, a bench or an attack, on designs nobody draws but somebody opens: an
answer or a sentence, in bounded work.

Small ones in this process in the normal run, a share of the commands each; large ones (600 wires, 500 ends at one
point) with bounds on CPU and memory when UMBER_CALLS is set (`./umber test --long`).
"""

from __future__ import annotations

import io
import os
import random
import resource
import shlex
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from long_runs import LONG
from umber_trunk.benches.ratios import machine_ms, with_parts
from umber_trunk.cli.main import main
from umber_trunk.core.harness.edits import change, measured
from umber_trunk.core.harness.model import Design, Segment, Supply
from umber_trunk.core.harness.way import Method
from umber_trunk.core.sample import generated
from umber_trunk.store.project import ProjectFile

MOST_M, MOST_BYTES = 400, 2_000_000_000
BEST_SO_FAR = ("optimise", "worth", "board", "export")
"""Commands that go on with progress and end at Ctrl-C with the best so far, or warn of what they draw."""


def lengths(metres: float) -> Callable[[Design], Design]:
    """The same with every segment as long."""
    return lambda design: design.model_copy(
        update={"segments": tuple(change(one, measure=measured(metres, Method.TAPE)) for one in design.segments)}
    )


def at_one_point(design: Design) -> Design:
    """The same with no trunk: all ends at one point."""
    ends = tuple(change(end, point="P0") for end in design.ends)
    return design.model_copy(
        update={"ends": ends, "segments": (), "points": tuple(p for p in design.points if p.id == "P0")}
    )


def ring(design: Design) -> Design:
    """The same with its trunk closed to a ring, and a second supply that faces the first and one that is its own
    load."""
    first = design.supplies[0]
    more = (
        Supply(id="facing", name="facing", volts=2 * first.volts, source_ohm=0.0, plus=first.plus, minus=first.minus),
        Supply(id="turned", name="turned", volts=first.volts, source_ohm=0.001, plus=first.minus, minus=first.plus),
    )
    last = design.segments[-1]
    closing = (
        Segment(id="ring", a=design.segments[0].a, b=last.b, measure=last.measure),
        Segment(id="again", a=last.a, b=last.b, measure=last.measure),
    )
    return design.model_copy(update={"supplies": (first, *more), "segments": (*design.segments, *closing)})


def plain(design: Design) -> Design:
    """As it is."""
    return design


DESIGNS: dict[str, tuple[int, Callable[[Design], Design]]] = {
    "many wires": (600 if LONG else 60, plain), "one point": (500 if LONG else 40, at_one_point), "no length": (300 if LONG else 40, lengths(0.0)),
    "10 km": (150 if LONG else 40, lengths(10_000.0)), "supplies in a ring": (150 if LONG else 40, ring),
}  # fmt: skip
COMMANDS = """check F|check F --json|solve F --json|take F all --dry-run|mend F run.open:X --dry-run|lengths F --json
lengths F --csv|cover F --json|board F --json|board F -o OUT.pdf|board F -o OUT.svg|board F -o OUT.dxf
infer LIST --accept-doubts|optimise F --json|worth F --json|coils F --stock STOCK --units 2|shelf F
shelf F --read STOCK|buy F --units 2 --json|labels F -o OUT.csv|labels F -o OUT.pdf|order F --units 2 --json|log F
charts F|tests F --json|prove F --sim --json|prove F --sim --fault open:W1 --json|loops F --json|units F|diff F F
verify F|disputes F|status F --json|history F --json|freeze F "rev A"|fit F --json|pinmap F --end battery --side wire
mate F --end battery|strip F --wire W1 --json|section F S0 --svg OUT.svg|export F -o OUT.xlsx|export F -o OUT.pdf
export F -o OUT-book.pdf|export F -o OUT-traveller.pdf|export F -o OUT-faces.pdf|export F -o OUT-wires.csv
export F -o OUT.json|import LIST -o OUT.umber --accept-doubts|import LIST --into F --dry-run --accept-doubts
learn F --from battery --to battery --sim|say F "bell 2 A, 3 m off the trunk" --dry-run
instead F W1 --who Jo --size "4 mm2"|practise fault --file F --seed 3|salvage F -o OUT.umber
restore F --revision 1 -o OUT.umber|repair F X/1|upgrade F X/1"""
STOCK = "coil,size,metal,colour,length_m\nC1,1.5 mm2,copper,red,100\nC2,2.5 mm2,copper,black,50\n"


def laid_out(folder: Path, name: str) -> dict[str, str]:
    """The harness, its list and a stock list in a folder: what a command's words stand for."""
    wires, make = DESIGNS[name]
    harness = folder / "h.umber"
    with ProjectFile.create(harness, make(with_parts(generated(wires))), copied=False):
        pass
    (folder / "stock.csv").write_text(STOCK)
    assert main(["export", str(harness), "-o", str(folder / "h-wires.csv")]) == 0
    return {"F": str(harness), "LIST": str(folder / "h-wires.csv"), "STOCK": str(folder / "stock.csv")}


def words_of(line: str, known: dict[str, str], out: Path) -> list[str]:
    """A line of `COMMANDS` as words."""
    return [str(out) + word[3:] if word.startswith("OUT") else known.get(word, word) for word in shlex.split(line)]


def all_lines() -> list[str]:
    """Every line of `COMMANDS`."""
    return [line.strip() for row in COMMANDS.split("\n") for line in row.split("|")]


@pytest.mark.timeout(7200)
@pytest.mark.parametrize("name", DESIGNS)
@pytest.mark.share(2)
def test_every_command_answers_or_says_why_not(
    name: str, tmp_path: Path, capfd: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    known, lines = laid_out(tmp_path, name), all_lines()
    fell: list[Any] = []
    for at, line in enumerate(lines if LONG else random.Random(name).sample(lines, 4)):
        words = words_of(line, known, tmp_path / f"out{at}")
        if LONG:
            fell += bounded(words, line)
            continue
        monkeypatch.setattr("sys.stdin", io.StringIO(""))
        status = main(words)
        said = capfd.readouterr()
        if status not in (0, 1, 2) or (status == 2 and not said.err.strip()) or "a bug of its own" in said.err:
            fell.append((line, status, said.err[-300:]))
    assert not fell


def bounded(words: list[str], line: str) -> list[tuple[str, str]]:
    """One command as a process of its own; what of it breaks the bounds."""
    limit_s = MOST_M * machine_ms() / 1000

    def bound() -> None:
        resource.setrlimit(resource.RLIMIT_CPU, (int(limit_s) + 1, int(limit_s) + 5))

    done = subprocess.Popen(
        [sys.executable, "-m", "umber_trunk", *words],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        preexec_fn=bound,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )
    assert done.stderr is not None
    said = done.stderr.read().decode("utf-8", "replace")
    _, status, used = os.wait4(done.pid, 0)
    code, memory, took = os.waitstatus_to_exitcode(status), used.ru_maxrss * 1024, used.ru_utime + used.ru_stime
    done.returncode = code
    told = f"status {code}, {took:.1f} s of {limit_s:.1f} s, {memory / 1e6:.0f} MB, {said[-160:]!r}"
    print(f"{line}: {told}", flush=True)
    over = took > limit_s or code == -signal.SIGXCPU  # stopped at the limit, which is counted in whole seconds
    late = over and line.split()[0] not in BEST_SO_FAR
    return (
        [(line, told)]
        if late or memory > MOST_BYTES or (code not in (0, 1, 2, 130) and not over) or "a bug of its own" in said
        else []
    )
