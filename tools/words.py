"""Collects the program's own words into src/umber_trunk/data/i18n/umber_trunk.ts (`--check`: says whether it is up to
date).

Words are the literal texts given to `tr` and to the makers of labels, buttons, headings, columns, tabs and commands,
and those stages declare.
"""

from __future__ import annotations

import ast
import sys
from pathlib import Path
from xml.sax.saxutils import escape

SOURCE = Path(__file__).parents[1] / "src" / "umber_trunk"
TARGET = SOURCE / "data" / "i18n" / "umber_trunk.ts"
MAKERS = {
    "tr": (0,),
    "heading": (0,),
    "hint": (0,),
    "button": (0, "tip"),
    "Column": (0,),
    "Command": (0,),
    "table": (0,),
    "Stage": (1, 2),
    "Export": (1,),
}


def literal(node: ast.AST | None) -> list[str]:
    """The fixed text of an argument, both of a choice of two."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return [node.value] if node.value.strip() else []
    if isinstance(node, ast.IfExp):
        return literal(node.body) + literal(node.orelse)
    return []


def words() -> dict[str, str]:
    """Text → the first file it is in."""
    found: dict[str, str] = {}
    for path in sorted([*(SOURCE / "app").rglob("*.py"), SOURCE / "core" / "stages.py"]):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call):
                name = node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")
                for place in MAKERS.get(name, ()):
                    given = (
                        node.args[place]
                        if isinstance(place, int) and len(node.args) > place
                        else next((k.value for k in node.keywords if k.arg == place), None)
                    )
                    for text in literal(given):
                        found.setdefault(text, str(path.relative_to(SOURCE)))
    return found


def as_ts(found: dict[str, str]) -> str:
    """Qt's own format for translators, one context."""
    rows = "".join(
        f'    <message>\n        <location filename="{where}"/>\n        <source>{escape(text)}</source>\n'
        '        <translation type="unfinished"></translation>\n    </message>\n'
        for text, where in sorted(found.items())
    )
    return (
        '<?xml version="1.0" encoding="utf-8"?>\n<!DOCTYPE TS>\n<TS version="2.1" sourcelanguage="en">\n<context>\n   '
        " <name>umber</name>\n"
        f"{rows}</context>\n</TS>\n"
    )


if __name__ == "__main__":
    text = as_ts(words())
    if "--check" in sys.argv:
        sys.exit(TARGET.read_text("utf-8") != text)
    TARGET.write_text(text, "utf-8")
