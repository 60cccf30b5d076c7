"""Collects what the program says into gettext catalogues (`--check`: says whether they are up to date).

src/umber_trunk/data/i18n/umber_trunk.pot has every text: the sentences of data/sentences under their codes as context,
and the words of the window: the literal texts given to `tr` and to the makers of labels, buttons, headings, columns,
tabs and commands, and those stages declare. Each LANGUAGE/LC_MESSAGES/umber_trunk.po beside it is brought up to that
and compiled.
"""

from __future__ import annotations

import ast
import io
import json
import re
import sys
from datetime import UTC, datetime
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

SOURCE = Path(__file__).parents[1] / "src" / "umber_trunk"
FOLDER = SOURCE / "data" / "i18n"
SENTENCES = SOURCE / "data" / "sentences"
EPOCH = datetime(2026, 1, 1, tzinfo=UTC)
"""No clock in what is compared."""
MAKERS = {
    "tr": (0,),
    "word": (0,),
    "heading": (0,),
    "hint": (0,),
    "button": (0, "tip"),
    "Column": (0,),
    "Command": (0,),
    "table": (0,),
    "Stage": (1, 2),
    "Export": (1,),
    "Rule": (1, 2),
    "Fact": (1,),
    "Telling": (1,),
    "_line": (0,),
}
TABLES = {
    "ON_PICTURE": (0, 1),
    "ON_FACE": (0, 1),
    "ON_BOARD": (0, 1),
    "ELSEWHERE": (0, 1),
    "FIELDS": (1, 3),
    "MEASURES": (0,),
    "PAINTINGS": (0,),
    "SHORT": (),
    "READ_NAMES": (),
    "HEADS": (),
}
"""Tables whose rows hold words to translate, and at which places; of one without places, and of a mapping, each."""


def literal(node: ast.AST | None) -> list[str]:
    """The fixed text of an argument, both of a choice of two."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return [node.value] if node.value.strip() else []
    if isinstance(node, ast.IfExp):
        return literal(node.body) + literal(node.orelse)
    return []


def tab_of(node: ast.AST) -> list[str]:
    """The name in a pair of a tab's name and its page."""
    return literal(node.elts[0]) if isinstance(node, ast.Tuple) and len(node.elts) == 2 else []


def told_in(table: ast.AST, places: tuple[int, ...]) -> list[str]:
    """The words of a table: of its rows at these places, or all."""
    rows = table.values if isinstance(table, ast.Dict) else getattr(table, "elts", [])
    cells = [
        cell for row in rows for cell in ([row.elts[at] for at in places] if isinstance(row, ast.Tuple) else [row])
    ]
    return [text for cell in cells for text in literal(cell) if re.search(r"[A-Za-z]{2}", text)]


def words() -> dict[str, str]:
    """Text → the first file it is in."""
    found: dict[str, str] = {}
    for path in sorted([*(SOURCE / "app").rglob("*.py"), SOURCE / "core" / "stages.py"]):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Assign) and [ast.unparse(one) for one in node.targets] == ["pages"]:
                for text in (text for one in ast.walk(node.value) for text in tab_of(one)):  # tabs and their pages
                    found.setdefault(text, str(path.relative_to(SOURCE)))
            for target in node.targets if isinstance(node, ast.Assign) else ():
                for text in told_in(node.value, TABLES[ast.unparse(target)]) if ast.unparse(target) in TABLES else ():
                    found.setdefault(text, str(path.relative_to(SOURCE)))
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


def template() -> Catalog:
    """Every text there is to translate."""
    made = Catalog(project="Umber Trunk", charset="utf-8", creation_date=EPOCH, revision_date=EPOCH, fuzzy=False)
    for text, where in sorted(words().items()):
        made.add(text, locations=[(where, None)])
    for file in sorted(SENTENCES.glob("*.json")):
        for code, text in sorted(json.loads(file.read_text("utf-8")).items()):
            if re.sub(r"{\w+}", "", text).strip():  # nothing but values is nothing to translate
                made.add(text, context=code, locations=[(f"data/sentences/{file.name}", None)])
    return made


def as_po(catalogue: Catalog) -> bytes:
    """A catalogue as its file has it."""
    out = io.BytesIO()
    write_po(out, catalogue, width=110, include_lineno=False, omit_header=False, ignore_obsolete=True)
    return out.getvalue()


def files() -> dict[Path, bytes]:
    """Every catalogue's file as it should be."""
    whole = template()
    found = {FOLDER / "umber_trunk.pot": as_po(whole)}
    for path in sorted(FOLDER.glob("*/LC_MESSAGES/umber_trunk.po")):
        with path.open("rb") as file:
            mine = read_po(file, locale=path.parts[-3])
        mine.update(whole, no_fuzzy_matching=True)
        mine.creation_date = mine.revision_date = EPOCH
        found[path] = as_po(mine)
        out = io.BytesIO()
        write_mo(out, mine)
        found[path.with_suffix(".mo")] = out.getvalue()
    return found


def main() -> int:
    """Writes the catalogues, or says which aren't up to date."""
    made = files()
    if "--check" in sys.argv:
        return int(any(not path.exists() or path.read_bytes() != data for path, data in made.items()))
    for path, data in made.items():
        path.write_bytes(data)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
