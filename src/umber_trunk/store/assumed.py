"""What is taken for granted: every figure that is written into the core, with what is said beside it.

    EARTH_OHM = 0.1                                  ← its name and value, as it stands when it is asked for
    \"\"\"Most between an earth contact and …\"\"\"     ← what it means, else what stands on its line after “#”

Answers rest on them: limits that are usual and no standard's, spreads nobody measured, how far a search looks. They are
listed so that who doubts an answer can see them, and so that no figure changes without its being seen.
"""

from __future__ import annotations

import ast
import inspect
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields, is_dataclass
from enum import Enum
from importlib import import_module
from importlib.resources import files
from numbers import Real
from pathlib import Path
from typing import Any

import numpy as np

PACKAGE = "umber_trunk.core"
LEFT_OUT = {"demo", "sample", "bulk"}
"""Made-up harnesses."""
_NAME = re.compile(r"_?[A-Z][A-Z0-9_]*")
_REMARK = re.compile(r"[^#\"']+#\s*(?!fmt:)(.+)")


@dataclass(frozen=True)
class Assumed:
    """A figure: where it stands below the core, its name, its value as it is written, what is said of it. A name in
    brackets or behind a dot is what a function or a record takes where nothing is said."""

    module: str
    name: str
    value: str
    says: str


def assumed() -> list[Assumed]:
    """All of them, by module and as they stand there."""
    root = Path(str(files(PACKAGE)))
    found = []
    for path in sorted(root.rglob("*.py")):
        name = ".".join(path.relative_to(root).with_suffix("").parts)
        if name in LEFT_OUT or path.name == "__init__.py":
            continue
        text, module = path.read_text("utf-8"), import_module(f"{PACKAGE}.{name}")
        body = ast.parse(text).body
        lines = text.splitlines()
        for at, node in enumerate(body):
            says = _docstring(body[at + 1]) if at + 1 < len(body) else ""
            for constant in _names(node):
                value = vars(module).get(constant)
                if _plain(value):
                    said = says or _remark(lines[node.lineno - 1])
                    found.append(Assumed(name, constant, written(value), said))
            found += [Assumed(name, *row) for row in _defaults(node, module)]
    return found


def _names(node: ast.stmt) -> Iterator[str]:
    """The constants a statement gives a value."""
    targets = node.targets if isinstance(node, ast.Assign) else [node.target] if isinstance(node, ast.AnnAssign) else []
    for target in targets:
        for one in ast.walk(target):
            if isinstance(one, ast.Name) and _NAME.fullmatch(one.id):
                yield one.id


def _docstring(node: ast.stmt) -> str:
    says = node.value.value if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) else ""
    return " ".join(says.split()) if isinstance(says, str) else ""


def _remark(line: str) -> str:
    match = _REMARK.fullmatch(line)
    return match[1].strip() if match else ""


def _plain(value: Any) -> bool:
    """Whether a value is numbers: one, or some, however they are bundled up with words."""
    if isinstance(value, Mapping):
        return all(isinstance(key, str | Real | Enum | tuple) for key in value) and any(
            _plain(one) for one in (*value.keys(), *value.values())
        )
    if isinstance(value, tuple | list | set | frozenset):
        return any(_plain(one) for one in value)
    if isinstance(value, np.ndarray):
        return value.dtype.kind in "if"
    if is_dataclass(value) and not isinstance(value, type):
        return any(_plain(getattr(value, one.name)) for one in fields(value))
    return isinstance(value, Real) and not isinstance(value, bool | Enum)


def written(value: Any) -> str:
    """A value as one would write it: the same on every machine."""
    if isinstance(value, np.ndarray):
        ends = f"{written(value.flat[0])} … {written(value.flat[-1])}" if value.size else ""
        return f"{' × '.join(map(str, value.shape))} from {ends}, {written(float(value.sum()))} together"
    if isinstance(value, Enum):
        return str(value.value)
    if is_dataclass(value) and not isinstance(value, type):
        told = [(one.name, getattr(value, one.name)) for one in fields(value)]
        return f"{type(value).__name__}({', '.join(f'{name} {written(one)}' for name, one in told if _plain(one))})"
    if isinstance(value, Mapping):
        return "{" + ", ".join(f"{written(key)}: {_inside(one)}" for key, one in value.items()) + "}"
    if isinstance(value, set | frozenset):
        return "{" + ", ".join(sorted(map(written, value))) + "}"
    if isinstance(value, tuple | list):
        return "(" + ", ".join(map(_inside, value)) + ")"
    if isinstance(value, Real) and not isinstance(value, bool):
        return f"{float(value):.10g}"
    return str(value) if isinstance(value, str | bool | None) else getattr(value, "__name__", type(value).__name__)


def _inside(value: Any) -> str:
    """The same for what is in a table: a record that has a name is told by that alone."""
    return str(value.name) if is_dataclass(value) and hasattr(value, "name") else written(value)


def _defaults(node: ast.stmt, module: Any) -> Iterator[tuple[str, str, str]]:
    """(name, value, "") of what public functions and records take where nothing is said."""
    if not isinstance(node, ast.FunctionDef | ast.ClassDef) or node.name.startswith("_"):
        return
    one = vars(module)[node.name]
    if isinstance(node, ast.FunctionDef):
        yield from _taken(node.name + "({})", one)
        return
    if "__dataclass_fields__" in vars(one):
        yield from _taken(node.name + ".{}", one)
    for inner in node.body:
        method = vars(one).get(inner.name) if isinstance(inner, ast.FunctionDef) else None
        if inspect.isfunction(method) and (method.__name__ == "__init__" or not method.__name__.startswith("_")):
            yield from _taken(f"{node.name}.{method.__name__}({{}})", method)


def _taken(name: str, one: Any) -> Iterator[tuple[str, str, str]]:
    for parameter in inspect.signature(one).parameters.values():
        if _plain(parameter.default):
            yield name.format(parameter.name), written(parameter.default), ""
