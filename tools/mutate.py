"""Changes the core in small ways, one at a time, and sees whether a test notices: ./umber mutate [--count 300] [--seed 1].

Only lines that tests reach are changed, each mutant is given the tests that reach its line, and what survives is listed.
A long run, not part of CI. Works on copies; the checkout is left alone.
"""

from __future__ import annotations

import argparse
import ast
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).parents[1]
CORE = Path("src/umber_trunk/core")
TESTS = ["tests/core", "tests/golden", "tests/store"]
LEFT_OUT = {"demo.py", "sample.py", "bulk.py"}
"""Made-up data, and what only makes things faster."""
SLOWEST_S = 90.0
SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.GtE, ast.LtE: ast.Gt, ast.Gt: ast.LtE, ast.GtE: ast.Lt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.In: ast.NotIn,
    ast.NotIn: ast.In, ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
CALLS = {
    "min": "max",
    "max": "min",
    "minimum": "maximum",
    "maximum": "minimum",
    "any": "all",
    "all": "any",
    "argmax": "argmin",
}


def sites(tree: ast.Module) -> list[tuple[int, int, str]]:
    """(number of the node in walking order, line, what would be done) of everything that can be changed."""
    found = []
    for number, node in enumerate(ast.walk(tree)):
        line = getattr(node, "lineno", 0)
        if isinstance(node, ast.Compare) and type(node.ops[0]) in SWAPS:
            found.append((number, line, f"{type(node.ops[0]).__name__} → {SWAPS[type(node.ops[0])].__name__}"))
        elif isinstance(node, ast.BinOp | ast.BoolOp) and type(node.op) in SWAPS:
            found.append((number, line, f"{type(node.op).__name__} → {SWAPS[type(node.op)].__name__}"))
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub):
            found.append((number, line, f"{type(node.op).__name__} dropped"))
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float) and node.value not in (-1,):
            found.append((number, line, f"{node.value!r} changed"))
        elif isinstance(node, ast.If | ast.IfExp):
            found.append((number, line, "condition turned round"))
        elif isinstance(node, ast.Call) and called(node) in CALLS:
            found.append((number, line, f"{called(node)} → {CALLS[called(node)]}"))
    return found


def called(node: ast.Call) -> str:
    """The last name of what is called."""
    return node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")


def changed(text: str, number: int) -> str:
    """The module with one node changed."""
    tree = ast.parse(text)
    node = list(ast.walk(tree))[number]
    if isinstance(node, ast.Compare):
        node.ops[0] = SWAPS[type(node.ops[0])]()  # type: ignore[call-overload]
    elif isinstance(node, ast.BinOp | ast.BoolOp):
        node.op = SWAPS[type(node.op)]()  # type: ignore[assignment]
    elif isinstance(node, ast.UnaryOp):
        node.op = ast.UAdd() if isinstance(node.op, ast.USub) else ast.Not()
        if isinstance(node.op, ast.Not):
            node.operand = ast.UnaryOp(ast.Not(), node.operand)
    elif isinstance(node, ast.Constant):
        node.value = node.value + 1 if isinstance(node.value, int) else node.value * 2 if node.value else 1.0  # type: ignore[operator]
    elif isinstance(node, ast.If | ast.IfExp):
        node.test = ast.UnaryOp(ast.Not(), node.test)
    elif isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
        node.func.attr = CALLS[node.func.attr]
    elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
        node.func.id = CALLS[node.func.id]
    return ast.unparse(ast.fix_missing_locations(tree))


def reached(python: str, folder: Path) -> tuple[dict[str, dict[int, set[str]]], dict[str, float]]:
    """(module → line → tests that reach it, seconds of each test), by one run of all tests of the core under coverage."""
    settings = folder / "coverage.ini"
    settings.write_text(f"[run]\ndynamic_context = test_function\nsource = {CORE}\ndata_file = {folder}/data\n")
    report = folder / "times.txt"
    with report.open("w") as out:
        subprocess.run(
            [python, "-m", "coverage", "run", f"--rcfile={settings}", "-m", "pytest", "-q", "--durations=0", "--durations-min=0.0", *TESTS],
            cwd=ROOT, stdout=out, stderr=subprocess.STDOUT, check=False, env=os.environ | {"QT_QPA_PLATFORM": "offscreen", "UMBER_MUTATING": "1"},
        )  # fmt: skip
    subprocess.run(
        [python, "-m", "coverage", "json", f"--rcfile={settings}", "--show-contexts", "-o", str(folder / "lines.json")],
        cwd=ROOT, stdout=subprocess.DEVNULL, check=True,
    )  # fmt: skip
    files = json.loads((folder / "lines.json").read_text())["files"]
    lines = {
        name: {int(line): {one for one in tests if one} for line, tests in data["contexts"].items()}
        for name, data in files.items()
    }
    seconds: Counter[str] = Counter()
    for row in report.read_text().splitlines():
        parts = row.split()
        if len(parts) == 3 and parts[1] in ("call", "setup") and parts[0].endswith("s"):
            seconds[parts[2].split("::")[-1].split("[")[0]] += float(parts[0][:-1])
    return lines, dict(seconds)


def chosen(count: int, seed: int, lines: dict[str, dict[int, set[str]]]) -> list[tuple[str, int, int, str, set[str]]]:
    """Seeded mutants: (module, node, line, what, tests that reach it)."""
    pool = []
    for name, known in sorted(lines.items()):
        if Path(name).name in LEFT_OUT:
            continue
        for number, line, what in sites(ast.parse((ROOT / name).read_text("utf-8"))):
            if known.get(line):
                pool.append((name, number, line, what, known[line]))
    return random.Random(seed).sample(pool, min(count, len(pool)))


def killed(
    python: str, place: Path, mutant: tuple[str, int, int, str, set[str]], seconds: dict[str, float], stamp: float
) -> bool:
    """Whether a test of those that reach the line fails with it changed."""
    name, number, _, _, tests = mutant
    path, text = place / name, (ROOT / name).read_text("utf-8")
    names = sorted({one.split(".")[-1] for one in tests}, key=lambda one: seconds.get(one, 1.0))
    files = sorted({one.split(".")[-2] if "." in one else "" for one in tests})
    path.write_text(changed(text, number), "utf-8")
    os.utime(path, (stamp, stamp))
    paths = [
        str(found.relative_to(place)) for stem in files for found in place.joinpath("tests").rglob(f"{stem}.py")
    ] or TESTS
    try:
        for batch in (names[:6], names[6:30], names[30:]):
            if not batch:
                continue
            command = [
                python,
                "-m",
                "pytest",
                "-x",
                "-q",
                "-p",
                "no:randomly",
                "--timeout=60",
                "-k",
                " or ".join(batch),
                *paths,
            ]
            done = subprocess.run(
                command, cwd=place, capture_output=True, timeout=SLOWEST_S, check=False,
                env=os.environ | {"QT_QPA_PLATFORM": "offscreen"},
            )  # fmt: skip
            if done.returncode not in (0, 5):
                return True
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(text, "utf-8")
        os.utime(path, (stamp + 1, stamp + 1))
    return False


def main() -> int:
    """Runs them all and prints what survived; status 1 under nine in ten."""
    parser = argparse.ArgumentParser(prog="umber mutate", description=__doc__)
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--only", default="", help="only modules with this in their name")
    args = parser.parse_args()
    python = sys.executable
    with tempfile.TemporaryDirectory(prefix="umber-mutate-") as scratch:
        print("finding which tests reach which lines: a few minutes", flush=True)
        lines, seconds = reached(python, Path(scratch))
        lines = {name: known for name, known in lines.items() if args.only in name}
        mutants = chosen(args.count, args.seed, lines)
        places: Queue[Path] = Queue()
        for number in range(args.workers):
            place = Path(scratch) / f"worker{number}"
            shutil.copytree(ROOT, place, ignore=shutil.ignore_patterns(".git", ".venv", "screenshots", "__pycache__"))
            places.put(place)
        start, done, alive = time.time(), 0, []

        def work(
            job: tuple[int, tuple[str, int, int, str, set[str]]],
        ) -> tuple[bool, tuple[str, int, int, str, set[str]]]:
            place = places.get()
            try:
                return killed(python, place, job[1], seconds, start + 10 * job[0]), job[1]
            finally:
                places.put(place)

        with ThreadPoolExecutor(args.workers) as pool:
            for dead, mutant in pool.map(work, enumerate(mutants)):
                done += 1
                if not dead:
                    alive.append(mutant)
                    print(f"survived  {mutant[0].removeprefix(str(CORE) + '/')}:{mutant[2]}  {mutant[3]}", flush=True)
                if done % 20 == 0:
                    print(f"{done} of {len(mutants)}, {len(alive)} alive, {time.time() - start:.0f} s", flush=True)
        share = 100 * (done - len(alive)) / max(done, 1)
        print(f"{done - len(alive)} of {done} killed: {share:.1f} %")
        return int(share < 90)


if __name__ == "__main__":
    sys.exit(main())
