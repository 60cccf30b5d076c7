"""How readable the sources are, in figures: ./umber style [REVISION]. Beside a revision of git, both are printed.

Lines over 120 letters, statements the formatter leaves alone, modules over 400 lines, functions of many lines and of
many branches (McCabe's count), public functions without a docstring, uses of another's private names.
"""

from __future__ import annotations

import ast
import io
import subprocess
import sys
import tarfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
WIDE, LONG_MODULE, LONG_FUNCTION, BRANCHY = 120, 400, 60, 12
BRANCHES = (ast.If, ast.For, ast.While, ast.IfExp, ast.ExceptHandler, ast.comprehension, ast.BoolOp, ast.match_case)


def sources(revision: str | None) -> Iterator[tuple[str, str]]:
    """(path, text) of every module: as it lies here, or as it was."""
    names = ["src", "tests", "tools"]
    if revision is None:
        listed = subprocess.run(["git", "ls-files", *names], cwd=ROOT, check=True, capture_output=True, text=True)
        for name in listed.stdout.split():
            if name.endswith(".py") and (ROOT / name).exists():
                yield name, (ROOT / name).read_text("utf-8")
        return
    packed = subprocess.run(["git", "archive", revision, *names], cwd=ROOT, check=True, capture_output=True)
    with tarfile.open(fileobj=io.BytesIO(packed.stdout)) as archive:
        for member in archive:
            file = archive.extractfile(member) if member.name.endswith(".py") else None
            if file is not None:
                yield member.name, file.read().decode("utf-8")


def branches(node: ast.AST) -> int:
    """McCabe's count of one function, those inside it not counted."""
    inner = [
        one
        for child in ast.iter_child_nodes(node)
        if not isinstance(child, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef)
        for one in (child, *_below(child))
    ]
    return 1 + sum(len(one.values) - 1 if isinstance(one, ast.BoolOp) else isinstance(one, BRANCHES) for one in inner)


def _below(node: ast.AST) -> Iterator[ast.AST]:
    for child in ast.iter_child_nodes(node):
        if not isinstance(child, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
            yield child
            yield from _below(child)


def private_uses(tree: ast.Module) -> int:
    """Names with an underscore in front that are taken from another module or read off another object."""
    taken = sum(
        alias.name.startswith("_") and not alias.name.startswith("__")
        for node in ast.walk(tree)
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("umber_trunk")
        for alias in node.names
    )
    return taken + sum(
        node.attr.startswith("_")
        and not node.attr.startswith("__")
        and not (isinstance(node.value, ast.Name) and node.value.id in ("self", "cls", "other", "new"))
        and not isinstance(node.value, ast.Call)
        for node in ast.walk(tree)
        if isinstance(node, ast.Attribute)
    )


def counted(revision: str | None) -> dict[str, float]:
    """Every figure by its name."""
    found: dict[str, float] = {}

    def add(name: str, much: float) -> None:
        found[name] = found.get(name, 0) + much

    lengths: list[int] = []
    for path, text in sources(revision):
        where = "tests" if path.startswith("tests") else "source"
        lines, tree = text.splitlines(), ast.parse(text)
        add(f"{where}: lines", len(lines))
        add(f"{where}: lines over {WIDE}", sum(len(line) > WIDE for line in lines))
        add(f"{where}: fmt: skip", sum(line.endswith("# fmt: skip") for line in lines))
        add(f"{where}: private names of another", private_uses(tree))
        if where == "tests":
            continue
        add(f"source: modules over {LONG_MODULE} lines", len(lines) > LONG_MODULE)
        for node in ast.walk(tree):
            if not isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                continue
            lengths.append((node.end_lineno or node.lineno) - node.lineno + 1)
            add(f"source: functions over {LONG_FUNCTION} lines", lengths[-1] > LONG_FUNCTION)
            add(f"source: functions of over {BRANCHY} branches", branches(node) > BRANCHY)
        public = [
            node
            for node in tree.body
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_")
        ]
        add("source: public without docstring", sum(not ast.get_docstring(node) for node in public))
    found["source: lines of a function, median"] = sorted(lengths)[len(lengths) // 2]
    return found


def main() -> int:
    """Prints the figures, those of a revision first where one is named."""
    here = counted(None)
    before = counted(sys.argv[1]) if len(sys.argv) > 1 else {}
    for name in sorted({*here, *before}):
        was = f"{before.get(name, 0):8g} → " if before else ""
        print(f"{name:44} {was}{here.get(name, 0):8g}")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
