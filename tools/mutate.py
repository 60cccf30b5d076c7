"""Changes a room in small ways, one at a time, and sees whether a test notices: ./umber mutate [--count 300] [--seed
1].

Only lines that tests reach are changed, each mutant is given the tests that reach its line, and what survives is
listed. A long run, not part of CI. Mutants live in child processes; the checkout is left alone.
"""

from __future__ import annotations

import argparse
import ast
import difflib
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from contextlib import redirect_stdout
from importlib import import_module
from itertools import accumulate
from pathlib import Path
from types import CodeType, FunctionType
from typing import Any

import pytest
from mutants import NOTHING, changed, sites

ROOT = Path(__file__).parents[1]
PACKAGE = Path("src/umber_trunk")
TESTS = {
    "core": [["tests/core", "tests/golden"], ["tests/store", "tests/cli", "tests/app", "tests/attack"]],
    "store": [["tests/store"], ["tests/cli", "tests/app", "tests/attack", "tests/golden"]],
}
"""Room → what is asked whether it notices, the nearest first; found out side by side which lines each half reaches."""
LEFT_OUT = {"demo.py", "sample.py", "bulk.py", "demo_lots.py", "demo_file.py"}
"""Made-up data, and what only makes things faster."""
FILES = {path.name: {str(path)} for path in Path("tests").rglob("test_*.py")}
BUDGET_S, SLOWEST_S = 45.0, 240
"""Tests are asked as long as they take so much together, unchanged; what then takes SLOWEST_S hangs, and that is
noticed."""
QUIET = ("-p", "no:cacheprovider", "-p", "no:xdist", "--no-header")
Mutant = tuple[str, int, int, str, set[str]]
BROAD = {"test_demos_with_other_figures"}
"""Asked right after the five tests that know a line best."""
PUBLISHED = {"test_a_format_is_as_it_is_published", "test_what_is_taken_for_granted_is_as_it_is_published"}
"""Asked first of every constant: limits and defaults of fields reach no line, and how far a search looks may show in no
answer. --unlisted leaves them out: what is left is what the program does."""


def difference(mutant: Mutant) -> list[str]:
    """The lines that are changed, before (-) and after (+)."""
    text = (ROOT / mutant[0]).read_text("utf-8")
    sides = ast.unparse(ast.parse(text)).splitlines(), changed(text, mutant[1], mutant[3]).splitlines()
    return [
        line for line in difflib.unified_diff(*sides, lineterm="", n=0) if not line.startswith(("---", "+++", "@@"))
    ]


def reached(
    python: str, folder: Path, room: Path, halves: list[list[str]]
) -> tuple[dict[str, dict[int, set[str]]], dict[str, float]]:
    """(module → line → tests that reach it, seconds of each test), by one run of all tests under coverage, both halves
    at once."""
    settings = folder / "coverage.ini"
    settings.write_text(f"[run]\nsource = {room}\ndata_file = {folder}/data\nparallel = true\n")
    path = os.pathsep.join([str(Path(__file__).parent), os.environ.get("PYTHONPATH", "")])
    tracing = os.environ | {"QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": path}
    runs = []
    for number, half in enumerate(halves):
        with (folder / f"times{number}.txt").open("w") as out:
            words = [python, "-m", "coverage", "run", f"--rcfile={settings}", "-m", "pytest", "-p", "contexts", "-q", "--durations=0", "--durations-min=0.0", *half]  # fmt: skip
            runs.append(subprocess.Popen(words, cwd=ROOT, stdout=out, stderr=subprocess.STDOUT, env=tracing))
    for run in runs:
        run.wait()
    for words in (
        ["combine", f"--rcfile={settings}"],
        ["json", f"--rcfile={settings}", "--show-contexts", "-o", str(folder / "lines.json")],
    ):
        subprocess.run([python, "-m", "coverage", *words], cwd=ROOT, stdout=subprocess.DEVNULL, check=True)
    files = json.loads((folder / "lines.json").read_text())["files"]
    lines = {
        name: {int(line): {one for one in tests if one} for line, tests in data["contexts"].items()}
        for name, data in files.items()
    }
    seconds: Counter[str] = Counter()
    for row in "\n".join(report.read_text() for report in folder.glob("times*.txt")).splitlines():
        parts = row.split()
        if len(parts) == 3 and parts[1] in ("call", "setup") and parts[0].endswith("s"):
            seconds[parts[2].split("::")[-1].split("[")[0]] += float(parts[0][:-1])
    return lines, dict(seconds)


def module_of(name: str) -> str:
    """What a file below the checkout is imported as."""
    return ".".join(Path(name).with_suffix("").parts[1:])


def chosen(
    count: int, seed: int, lines: dict[str, dict[int, set[str]]], outside: bool, halves: list[list[str]], listed: bool
) -> list[Mutant]:
    """Seeded mutants: (module, node, line, what, tests that reach it). `outside`: of what stands outside of functions,
    constants and tables, with all tests that reach anything in that module, and those that name it."""
    pool = []
    for name, known in sorted(lines.items()):
        if Path(name).name in LEFT_OUT:
            continue
        tree = ast.parse((ROOT / name).read_text("utf-8"))
        anything = set[str]().union(*known.values())
        for number, line, what in sites(tree):
            inside = bool(function_of(tree, number))
            if not outside and inside and known.get(line):
                pool.append((name, number, line, what, known[line]))
            elif outside and not inside and line and anything:
                pool.append((name, number, line, what, anything))
    drawn = random.Random(seed).sample(pool, min(count, len(pool)))
    if not outside:
        return drawn
    published = {f"test_formats.{test}" for test in PUBLISHED}
    return [
        (*one[:4], (one[4] | readers_of(module_of(one[0]), halves) | published) - (set() if listed else published))
        for one in drawn
    ]


def readers_of(module: str, halves: list[list[str]]) -> set[str]:
    """Tests in files that name a module, as file.test: one that only reads a constant reaches no line of it."""
    files = [path for half in halves for folder in half for path in (ROOT / folder).rglob("test_*.py")]
    texts = {path.stem: path.read_text("utf-8") for path in files}
    return {
        f"{name}.{node.name}"
        for name, text in texts.items()
        if f"from {module} import " in text or f"import {module}" in text
        for node in ast.walk(ast.parse(text))
        if isinstance(node, ast.FunctionDef) and node.name.startswith("test_")
    }


def function_of(tree: ast.Module, number: int) -> tuple[str, ...]:
    """Names of the classes round a node and of the outermost function it is in; () outside of functions."""
    target = list(ast.walk(tree))[number]

    def search(body: list[ast.stmt], names: tuple[str, ...]) -> tuple[str, ...]:
        for one in body:
            if isinstance(one, ast.FunctionDef) and any(
                node is target for statement in one.body for node in ast.walk(statement)
            ):
                return (*names, one.name)
            if isinstance(one, ast.ClassDef) and (found := search(one.body, (*names, one.name))):
                return found
        return ()

    return search(tree.body, ())


def live(module: str, names: tuple[str, ...]) -> FunctionType | None:
    """The function object that runs under these names, out of its property, cache or wrapper."""
    found: Any = import_module(module)
    for name in names:
        found = vars(found).get(name)
    for inner in ("fget", "func", "__func__", "__wrapped__"):
        if not isinstance(found, FunctionType) or hasattr(found, "__wrapped__"):
            found = getattr(found, inner, found)
    return found if isinstance(found, FunctionType) else None


def code_of(code: CodeType, names: tuple[str, ...]) -> CodeType | None:
    """The code object of the function with these names in a compiled module."""
    for name in names:
        found = [one for one in code.co_consts if isinstance(one, CodeType) and one.co_name == name]
        if not found:
            return None
        code = found[-1]
    return code


def order_of(lines: dict[str, dict[int, set[str]]], seconds: dict[str, float]) -> dict[str, float]:
    """Test → when its turn comes: those that reach few lines know them best; slow ones come late."""
    reach: Counter[str] = Counter(
        test.split(".")[-1] for rows in lines.values() for tests in rows.values() for test in tests
    )
    return {test: count * (1.0 + seconds.get(test, 1.0)) for test, count in reach.items()}


def killed(mutant: Mutant, order: dict[str, float], seconds: dict[str, float]) -> bool | None:
    """Whether a test of those that reach the line fails with it changed: in a child process, by the changed code in
    place. None where that code can't be put in its place."""
    name, number, _, what, tests = mutant
    text = (ROOT / name).read_text("utf-8")
    names = function_of(ast.parse(text), number)
    if names:
        function, fresh = (
            live(module_of(name), names),
            code_of(compile(changed(text, number, what), name, "exec"), names),
        )
        if function is None or fresh is None or function.__code__.co_freevars != fresh.co_freevars:
            return None
    homes: dict[str, set[str]] = {}
    for one in tests:
        module = next(part for part in one.split(".") if part.startswith("test_"))  # before the class it may be in
        homes.setdefault(one.split(".")[-1], set()).add(f"{module}.py")
    wanted = sorted(homes, key=lambda one: (one not in PUBLISHED, one in BROAD, order.get(one, 1e9)))
    spent = list(accumulate(seconds.get(one, 1.0) for one in wanted))
    wanted = wanted[: max(sum(so_far <= BUDGET_S for so_far in spent), 1)]
    first = [one for one in wanted if one in PUBLISHED]
    wanted = [one for one in wanted if one not in PUBLISHED]
    best, broad, rest = (
        wanted[:5],
        [one for one in homes if one in BROAD],
        [one for one in wanted[5:] if one not in BROAD],
    )
    asked = [
        [
            "-x",
            "-q",
            *QUIET,
            "-k",
            " or ".join(batch),
            *sorted(set().union(*(FILES.get(home, ()) for one in batch for home in homes[one]))),
        ]
        for batch in (first, best, broad, rest[:20], rest[20:])
        if batch
    ]
    if not names:
        return any(_noticed_anew(mutant, words) for words in asked)
    child = os.fork()
    if child:
        return _ended(child) != 0
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 1)
    os.dup2(quiet, 2)
    try:
        function.__code__ = fresh
        if any(pytest.main(words) not in (0, 5) for words in asked):
            os._exit(1)
    except BaseException:  # noqa: BLE001 whatever it is, it was noticed
        os._exit(1)
    os._exit(0)


def _ended(child: int) -> int:
    """How a child ended; one that takes too long is ended. Tests have alarms of their own, so its own one is no use."""
    until = time.monotonic() + SLOWEST_S
    while time.monotonic() < until:
        ended, status = os.waitpid(child, os.WNOHANG)
        if ended:
            return status
        time.sleep(0.05)
    os.kill(child, signal.SIGKILL)
    return os.waitpid(child, 0)[1]


def _noticed_anew(mutant: Mutant, words: list[str]) -> bool:
    """Whether tests fail in a process of their own that imports the changed module."""
    path = os.pathsep.join([str(ROOT / "tools"), str(ROOT / "src"), str(ROOT / "tests")])
    changed_as = os.environ | {"PYTHONPATH": path, "UMBER_CHANGED": f"{mutant[0]}|{mutant[1]}|{mutant[3]}"}
    command = [sys.executable, "-m", "pytest", "-p", "changed_module", *words]
    try:
        return subprocess.run(
            command, cwd=ROOT, env=changed_as, capture_output=True, timeout=SLOWEST_S
        ).returncode not in (0, 5)
    except subprocess.TimeoutExpired:
        return True


def main() -> int:
    """Runs them all and prints what survived; status 1 under nine in ten."""
    parser = argparse.ArgumentParser(prog="umber mutate", description=__doc__)
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--only", default="", help="only modules with this in their name")
    parser.add_argument("--outside", action="store_true", help="what stands outside of functions: constants and tables")
    parser.add_argument(
        "--control", action="store_true", help="change nothing: what is killed now is killed for another reason"
    )
    parser.add_argument("--first", type=int, default=0, help="leave out so many of those drawn, to go on after a break")
    parser.add_argument("--reach", type=Path, help="keep here, and take from here, which tests reach which lines")
    parser.add_argument(
        "--nearest", "--core", action="store_true", help="ask the nearest tests alone: quicker, and stricter"
    )
    parser.add_argument("--unlisted", action="store_true", help="don’t ask whether what is published has changed")
    parser.add_argument("--room", choices=TESTS, default="core", help="the room that is changed")
    args = parser.parse_args()
    halves = TESTS[args.room][: 1 if args.nearest else 2]
    os.chdir(ROOT)
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    known = args.reach if args.reach and args.reach.exists() else None
    if known:
        stored = json.loads(known.read_text())
        lines = {
            name: {int(line): set(tests) for line, tests in rows.items()} for name, rows in stored["lines"].items()
        }
        seconds = stored["seconds"]
    else:
        print("finding which tests reach which lines: a few minutes", flush=True)
        with tempfile.TemporaryDirectory(prefix="umber-mutate-") as scratch:
            lines, seconds = reached(sys.executable, Path(scratch), PACKAGE / args.room, halves)
        if args.reach:
            plain = {name: {line: sorted(tests) for line, tests in rows.items()} for name, rows in lines.items()}
            args.reach.write_text(json.dumps({"lines": plain, "seconds": seconds}))
    lines = {name: rows for name, rows in lines.items() if args.only in name}
    order = order_of(lines, seconds)
    mutants = chosen(args.count, args.seed, lines, args.outside, halves, not args.unlisted)[args.first :]
    for one in mutants:
        for test in one[4]:
            order.setdefault(test.split(".")[-1], 0.0)  # it reaches no line anywhere: it only reads
    if args.control:
        mutants = [(name, number, line, NOTHING, tests) for name, number, line, _, tests in mutants]
    sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests")]
    with Path(os.devnull).open("w") as nowhere, redirect_stdout(nowhere):
        pytest.main(["--collect-only", "-q", *QUIET, *(one for half in halves for one in half)])
    start, done, alive = time.time(), 0, list[Mutant]()
    with ThreadPoolExecutor(args.workers) as pool:
        for mutant, dead in zip(mutants, pool.map(lambda one: killed(one, order, seconds), mutants), strict=True):
            if dead is None:
                continue
            done += 1
            if not dead:
                alive.append(mutant)
                print(f"survived  {mutant[0].removeprefix(str(PACKAGE) + '/')}:{mutant[2]}  {mutant[3]}", flush=True)
                print("\n".join(f"    {line}" for line in difference(mutant)), flush=True)
            if done % 20 == 0:
                print(f"{done} of {len(mutants)}, {len(alive)} alive, {time.time() - start:.0f} s", flush=True)
    share = 100 * (done - len(alive)) / max(done, 1)
    print(f"{done - len(alive)} of {done} killed: {share:.1f} %")
    return int(share < 90)


if __name__ == "__main__":
    sys.exit(main())
