"""The small ways in which a module can be changed: comparisons and sums turned round, statements left out, constants
and conditions made others."""

from __future__ import annotations

import ast
from typing import Any

LEFT_ALONE, NOTHING = "without its right side", "nothing changed"
TINY = 1e-3
"""Smaller constants are tolerances, which twice as large do the same by design: they are made one larger, of no use at
all."""
SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.GtE,
    ast.LtE: ast.Gt,
    ast.Gt: ast.LtE,
    ast.GtE: ast.Lt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
    ast.And: ast.Or,
    ast.Or: ast.And,
}
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
    calls = [node for node in ast.walk(tree) if isinstance(node, ast.Call)]
    faster = {id(kept.value) for node in calls for kept in node.keywords if kept.arg == "maxsize"}
    for number, node in enumerate(ast.walk(tree)):
        if id(node) in faster:  # how much a cache holds changes no answer
            continue
        line = getattr(node, "lineno", 0)
        if isinstance(node, ast.Compare) and type(node.ops[0]) in SWAPS:
            found.append((number, line, f"{type(node.ops[0]).__name__} → {SWAPS[type(node.ops[0])].__name__}"))
        elif isinstance(node, ast.BinOp | ast.BoolOp) and type(node.op) in SWAPS:
            found.append((number, line, f"{type(node.op).__name__} → {SWAPS[type(node.op)].__name__}"))
            if isinstance(node, ast.BinOp) and not isinstance(node.right, ast.Constant):
                found.append((number, line, f"{type(node.op).__name__} {LEFT_ALONE}"))
        elif isinstance(node, ast.AugAssign) or (isinstance(node, ast.Expr) and isinstance(node.value, ast.Call)):
            found.append((number, line, "statement left out"))
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


def changed(text: str, number: int, what: str) -> str:
    """The module with one node changed."""
    tree = ast.parse(text)
    node = list(ast.walk(tree))[number]
    if what == NOTHING:
        return ast.unparse(tree)
    if what.endswith(LEFT_ALONE) or (isinstance(node, ast.stmt) and not isinstance(node, ast.If)):
        tree = _Without(node).visit(tree)
    elif isinstance(node, ast.Compare):
        node.ops[0] = SWAPS[type(node.ops[0])]()  # type: ignore[call-overload]
    elif isinstance(node, ast.BinOp | ast.BoolOp):
        node.op = SWAPS[type(node.op)]()  # type: ignore[assignment]
    elif isinstance(node, ast.UnaryOp):
        node.op = ast.UAdd() if isinstance(node.op, ast.USub) else ast.Not()
        if isinstance(node.op, ast.Not):
            node.operand = ast.UnaryOp(ast.Not(), node.operand)
    elif isinstance(node, ast.Constant):
        node.value = other(node.value)  # type: ignore[arg-type]
    elif isinstance(node, ast.If | ast.IfExp):
        node.test = ast.UnaryOp(ast.Not(), node.test)
    elif isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
        node.func.attr = CALLS[node.func.attr]
    elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
        node.func.id = CALLS[node.func.id]
    return ast.unparse(ast.fix_missing_locations(tree))


def other(value: int | float) -> int | float:
    """The number that stands for another."""
    return value + 1 if isinstance(value, int) or abs(value) < TINY else value * 2


class _Without(ast.NodeTransformer):
    """Takes a statement out, or of two sides the right one."""

    def __init__(self, away: ast.AST) -> None:
        self.away = away

    def visit(self, node: ast.AST) -> Any:
        if node is not self.away:
            return self.generic_visit(node)
        return self.generic_visit(node.left) if isinstance(node, ast.BinOp) else ast.Pass()
