"""Rules of the house: which way imports point, no Qt in the core, docs and screenshots that hold."""

import ast
import importlib
import json
import re
from collections import defaultdict
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

from umber_trunk.cli.main import known_commands

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "umber_trunk"
MODULES = sorted(SOURCE.rglob("*.py"))
INWARD = {"core": {"core"}, "store": {"core", "store"}, "app": {"core", "store", "app"}}
"""Package → the packages of ours it may import."""


@pytest.fixture(scope="module", autouse=True)
def _trees_go_with_the_room() -> Iterator[None]:
    """They are 200 MB, which the tests after these have no use for."""
    yield
    parsed.cache_clear()


@cache
def parsed(path: Path) -> ast.Module:
    return ast.parse(path.read_text("utf-8"))


@cache
def imports(path: Path) -> set[str]:
    names: set[str] = set()
    for node in ast.walk(parsed(path)):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
    return names


@pytest.mark.parametrize("package", INWARD)
def test_imports_point_inward(package: str) -> None:
    for path in (SOURCE / package).rglob("*.py"):
        for name in imports(path):
            if name.startswith("umber_trunk."):
                assert name.split(".")[1] in INWARD[package], f"{path.name} imports {name}"
            if package != "app":
                assert name.split(".")[0] not in ("PySide6", "shiboken6"), f"{path.name} imports {name}"


def room_of(module: str) -> str:
    """The package a module of ours is in, two names deep: core.solve, app.desks; a module that is in none is its own
    room."""
    parts = module.split(".")[1:]
    return ".".join(parts[:2])


def test_no_room_depends_on_one_that_depends_on_it() -> None:
    """Rooms and their imports, also those inside of functions, make no ring; a desk imports no other desk."""
    arrows: dict[str, set[str]] = {}
    for path in MODULES:
        mine = ".".join(("umber_trunk", *path.relative_to(SOURCE).with_suffix("").parts))
        for name in imports(path):
            if name.startswith("umber_trunk.") and room_of(name) != room_of(mine):
                arrows.setdefault(room_of(mine), set()).add(room_of(name))
            if "app.desks." in mine and "app.desks." in name:
                assert mine.split(".")[3] == name.split(".")[3], f"{mine} imports {name}"
    allowed = {("app.commands", "app.window")}  # a type alone: the window makes its commands
    for one, others in arrows.items():
        seen, queue = set(), [other for other in others if (one, other) not in allowed]
        while queue:
            here = queue.pop()
            if here not in seen:
                seen.add(here)
                queue += [other for other in arrows.get(here, ()) if (here, other) not in allowed]
        assert one not in seen, f"{one} depends on itself"


def test_what_is_fetched_by_its_name_is_there() -> None:
    """A desk, a paper, a check is named as “module:name” and loaded when it is wanted: nothing else would notice that
    it has moved."""
    named = re.compile(r'"((?:app|cli|core|store)\.[\w.]+):(\w+)"')
    found = {match.groups() for path in MODULES for match in named.finditer(path.read_text("utf-8"))}
    assert len(found) > 50
    assert not [one for one in found if not hasattr(importlib.import_module(f"umber_trunk.{one[0]}"), one[1])]


def test_only_tables_have_wide_lines() -> None:
    """Nothing over 120 letters but rows of data; those alone the formatter leaves as they lie."""
    for path in [*MODULES, *(ROOT / "tests").rglob("*.py"), *(ROOT / "tools").rglob("*.py")]:
        lines, tables = path.read_text("utf-8").splitlines(), set[int]()
        wide = any(len(line) > 120 or line.endswith("# fmt: skip") for line in lines)
        for node in ast.walk(parsed(path)) if wide else ():
            if isinstance(node, ast.Assign | ast.AnnAssign) and any(
                isinstance(one, ast.Dict | ast.List | ast.Tuple | ast.Set)
                for one in [node.value, *(node.value.args if isinstance(node.value, ast.Call) else [])]
            ):
                tables |= {*range(node.lineno, (node.end_lineno or 0) + 1)}
            for one in getattr(node, "decorator_list", []):
                tables |= {*range(one.lineno, one.end_lineno + 1)}
        for number, line in enumerate(lines, 1):
            assert number in tables or (len(line) <= 120 and not line.endswith("# fmt: skip")), f"{path}:{number}"


def test_every_finding_is_named_in_a_test() -> None:
    code = re.compile(
        r'"((?:supply|load|wire|wires|segment|cover|join|comb|set|tree|case|fuse|link|contact|converter|caution|fit)'
        r'\.[a-z_]+)"'
    )
    said = {found for path in (SOURCE / "core").rglob("checks.py") for found in code.findall(path.read_text("utf-8"))}
    assert len(said) > 40
    tests = "".join(path.read_text("utf-8") for path in (ROOT / "tests").rglob("test_*.py"))
    assert not {one for one in said if f'"{one}"' not in tests}


def test_the_core_has_no_clock_and_no_files() -> None:
    for path in (SOURCE / "core").rglob("*.py"):
        said = {"datetime"} if path.name == "moments.py" else set()  # says a moment it is given, asks none
        assert not imports(path) & {"time", "datetime", "os", "pathlib", "sqlite3"} - said, path


def test_public_functions_of_the_core_say_what_they_do() -> None:
    for path in (*(SOURCE / "core").rglob("*.py"), *(SOURCE / "store").rglob("*.py")):
        for node in parsed(path).body:
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                assert ast.get_docstring(node), f"{path.name}: {node.name}"


def test_no_bare_except() -> None:
    for path in MODULES:
        handlers = (n for n in ast.walk(parsed(path)) if isinstance(n, ast.ExceptHandler))
        assert all(handler.type is not None for handler in handlers), path


def test_readme_links_exist() -> None:
    text = (ROOT / "README.md").read_text("utf-8")
    for link in re.findall(r"\]\(([^)#]+)\)", text):
        assert (ROOT / link).exists(), link


def test_every_command_is_described() -> None:
    text = (ROOT / "docs" / "cli.md").read_text("utf-8")
    known = [name for name in known_commands() if name != "open"]
    for name in (*known, "fuzz", "monkey"):
        assert f"umber {name}" in text, name


def test_words_of_a_file_are_shown_by_plain_widgets_alone() -> None:
    for path in (SOURCE / "app").rglob("*.py"):
        text = path.read_text("utf-8")
        if path.name != "plain.py":
            assert not re.search(
                r"\bQLabel\(|QMessageBox\.(?:warning|critical|question|information)\(|\bQMessageBox\(", text
            ), path
            for tip in re.findall(r"setToolTip\(([^)\n]*)", text):
                assert tip.startswith(('"', 'tr("', "plain_of(")), f"{path.name}: {tip}"
        if ("RichText" in text or "setHtml" in text) and "import as_html" not in text:
            assert "import escape" in text, path


def test_files_are_written_through_one_door() -> None:
    doors = {"files.py", "report.py"}
    for path in MODULES:
        text = path.read_text("utf-8")
        if path.name not in doors:
            assert not re.search(
                r"\.write_(?:text|bytes)\(|\bopen\([^)]*[\"'][wax]b?\+?[\"']|NamedTemporaryFile|os\.replace\(", text
            ), path


def test_commands_come_to_files_and_results_by_one_door() -> None:
    """`cli/reading` puts the shop's own parts on the shelf first: what one buys is what one crimps."""
    for path in (SOURCE / "cli").glob("*.py"):
        text = path.read_text("utf-8")
        if path.name != "reading.py":
            assert "ProjectFile.open(" not in text, path.name
            assert text.count("analyse(") <= ("analyse(barge())" in text), path.name


RICH = {
    "setToolTip": 0,
    "setWhatsThis": 0,
    "setStatusTip": 0,
    "setHtml": 0,
    "insertHtml": 0,
    "setMarkdown": 0,
    "appendHtml": 0,
    "showText": 1,
    "getText": 2,
    "getItem": 2,
    "getInt": 2,
    "getDouble": 2,
    "getMultiLineText": 2,
}
"""Calls whose text Qt may take for markup, and which argument it is; a QLabel, a QMessageBox take it too and are made
in plain.py alone."""
SAFE = {"plain_of", "escape", "tr", "as_html"}
WRITES_HTML = {
    "setHtml": {"why.py", "one_lead.py", "help.py"},
    "setMarkdown": {"help.py"},
    "setTextFormat": {"plain.py", "desk.py"},
}
"""The only places that show markup on purpose: they escape what they put into it, or show what ships."""


def _is_plain(node: ast.expr) -> bool:
    match node:
        case ast.Constant():
            return True
        case ast.Call(func=ast.Name(id=name)):
            return name in SAFE
        case ast.JoinedStr(values=parts):
            return all(
                isinstance(one, ast.Constant) or (isinstance(one, ast.FormattedValue) and _is_plain(one.value))
                for one in parts
            )
        case ast.IfExp(body=one, orelse=other) | ast.BinOp(left=one, right=other):
            return _is_plain(one) and _is_plain(other)
    return False


def _marked_up(text: str, name: str) -> list[str]:
    """Calls in a source that may show a file's text as markup."""
    found = []
    for node in ast.walk(ast.parse(text)):
        called = node.func if isinstance(node, ast.Call) else None
        called_name = (
            called.attr if isinstance(called, ast.Attribute) else called.id if isinstance(called, ast.Name) else ""
        )
        owner = called.value.id if isinstance(called, ast.Attribute) and isinstance(called.value, ast.Name) else ""
        if not isinstance(node, ast.Call) or name in WRITES_HTML.get(called_name, ()):
            continue
        if called_name in (
            "QLabel",
            "QMessageBox",
            "QErrorMessage",
            "QGroupBox",
            "QWhatsThis",
            "setTextFormat",
        ) or owner in ("QMessageBox", "QWhatsThis"):
            found += [] if name == "plain.py" else [ast.unparse(node)]
        elif called_name in RICH:
            asked = [
                *node.args[RICH[called_name] : RICH[called_name] + 1],
                *(one.value for one in node.keywords if one.arg in ("label", "text", "html")),
            ]
            found += [ast.unparse(node)] if not all(map(_is_plain, asked[:1])) else []
    return found


def test_text_of_a_file_is_plain_wherever_it_is_shown() -> None:
    """Read in the sources, for every label, box, tip and question; a table's tip goes through `plain_of` too. Buttons,
    headers, titles and placeholders are plain in Qt."""
    known = {"told": "line.py"}  # a sentence of ours
    for path in (SOURCE / "app").rglob("*.py"):
        bad = [
            one
            for one in _marked_up(path.read_text("utf-8"), path.name)
            if not any(f", {word}," in one and path.name == where for word, where in known.items())
        ]
        assert not bad, (path.name, bad)
    table = (SOURCE / "app" / "widgets" / "rows_model.py").read_text("utf-8")
    assert re.search(r"role == TOOLTIP:.*?return plain_of", table, re.S)
    for broken in (
        "w.setToolTip(load.name)",
        "QLabel(text)",
        "QInputDialog.getText(self, tr('a'), f'{cable.id}:')",
        "QMessageBox.question(self, 'a', b)",
        "QToolTip.showText(p, name, self)",
        "w.setHtml(a + b)",
        "w.setTextFormat(x)",
    ):
        assert _marked_up(broken, "other.py"), broken


SAYS = {"say": "say", "of Message": "say", "tr": "tr", "refusal_of": "refused"}
"""Who says a sentence by its code, or a text that is translated."""


def helpers() -> dict[str, list[tuple[Path, str, int]]]:
    """Functions and classes that put a prefix before the code they are given: name → (where it is, prefix, which of
    the values given is the code)."""
    found: dict[str, list[tuple[Path, str, int]]] = defaultdict(list)
    for path in MODULES:
        makers = [(one.name, one) for one in ast.walk(parsed(path)) if isinstance(one, ast.FunctionDef)]
        makers += [
            (one.name, first)
            for one in ast.walk(parsed(path))
            if isinstance(one, ast.ClassDef)
            for first in one.body
            if isinstance(first, ast.FunctionDef) and first.name == "__init__"
        ]
        for name, node in makers:
            named = [one.arg for one in (*node.args.posonlyargs, *node.args.args) if one.arg != "self"]
            if not node.args.kwarg:
                continue
            for call in (one for one in ast.walk(node) if isinstance(one, ast.Call)):
                code = ast.unparse(call.args[0]) if call.args else ""
                wraps = ast.unparse(call.func) in ("Message.of", "say") and any(
                    one.arg is None for one in call.keywords
                )
                for at, one in enumerate(named) if wraps else ():
                    if code.endswith(f".{{{one}}}'"):
                        found[name].append((path, code[2 : -len(f"{{{one}}}'")], at))
    return found


def prefixed() -> Iterator[tuple[str, str, set[str]]]:
    """(file and line, code, names given) of what is said through those, from the room they are of or imported."""
    known = helpers()
    for path in MODULES:
        imported = {
            (one.asname or one.name): node.module.replace(".", "/")
            for node in ast.walk(parsed(path))
            if isinstance(node, ast.ImportFrom) and node.module
            for one in node.names
        }
        for node in (one for one in ast.walk(parsed(path)) if isinstance(one, ast.Call)):
            name = getattr(node.func, "id", "") or getattr(node.func, "attr", "")
            method = isinstance(node.func, ast.Attribute)
            given = {one.arg or "**" for one in node.keywords}
            for where, prefix, at in known.get(name, ()):
                code = node.args[at] if len(node.args) > at else None
                near = where.parent == path.parent if method else where == path or name in imported
                home = method or where == path or str(where).endswith(f"{imported.get(name)}.py")
                if isinstance(code, ast.Constant) and isinstance(code.value, str) and near and home:
                    yield f"{path.relative_to(SOURCE)}:{node.lineno}", f"{prefix}{code.value}", given


def sayings() -> Iterator[tuple[str, str, str, set[str]]]:
    """(file and line, who says it, code or template, names given) of each sentence said by a fixed code or text."""
    for path in MODULES:
        for node in ast.walk(parsed(path)):
            if isinstance(node, ast.Call) and node.args and isinstance(node.args[0], ast.Constant):
                owner = getattr(getattr(node.func, "value", None), "id", "")
                name = getattr(node.func, "id", "") or f"{getattr(node.func, 'attr', '')} {owner}"
                says = SAYS.get(name, "refused" if name.startswith("of ") and name.endswith("Error") else "")
                if says:
                    given = {one.arg or "**" for one in node.keywords}
                    yield f"{path.relative_to(SOURCE)}:{node.lineno}", says, str(node.args[0].value), given


def test_every_question_of_a_list_has_its_words() -> None:
    """What is asked, what speaks for an answer, each answer: by the question's id or what it is about."""
    en = json.loads((SOURCE / "data/sentences/en.json").read_text("utf-8"))
    asked = 0
    for path in MODULES:
        for node in ast.walk(parsed(path)):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "doubt":
                asked += 1
                words = {one.arg: one.value for one in node.keywords}
                about = ast.literal_eval(words["about"]) if "about" in words else ""
                about = about or re.split(r"[:{]", ast.unparse(node.args[0]).strip("f'\""))[0]
                keys = re.findall(r"'([a-z]+)'", ast.unparse(node.args[1]))
                said = [en[f"list.{what}.{about}"] for what in ("ask", "because")]
                said += [en[f"list.answer.{about}.{key}"] for key in keys if f"list.answer.{about}.{key}" in en]
                given = set(words) - {"about", "rows"}
                assert {name for text in said for name in re.findall(r"{(\w+)", text)} == given, (path, about)
    assert asked == len([code for code in en if code.startswith("list.ask.")]) == 27


def test_every_sentence_has_the_values_it_names_and_every_refusal_somebody_who_says_it() -> None:
    """A code without a sentence would be a bug report where a sentence was meant; none is raised with bare words but
    what repeats another's."""
    folder = SOURCE / "data/sentences"
    en, refused = (json.loads((folder / name).read_text("utf-8")) for name in ("en.json", "refused.json"))
    assert [list(en), list(refused)] == [sorted(en), sorted(refused)]
    through = list(prefixed())
    assert len(through) > 200
    said = [*sayings(), *((at, "say", code, given) for at, code, given in through)]
    assert len(said) > 1700
    wrong = []
    for at, says, code, given in said:
        text = code if says == "tr" else refused.get(f"refused.{code}") if says == "refused" else en.get(code)
        if text is None or (
            "**" not in given and given != set(re.findall(r"{(\w+)", text)) and (given or says != "tr")
        ):
            wrong.append(f"{at}: {code} {sorted(given)}")
    assert not wrong
    assert {code.removeprefix("refused.") for code in refused} == {
        code for _, says, code, _ in said if says == "refused"
    }
    nodes = [(path, node) for path in MODULES for node in ast.walk(parsed(path))]
    classes = [
        (node.name, {ast.unparse(one) for one in node.bases}) for _, node in nodes if isinstance(node, ast.ClassDef)
    ]
    expected, fresh = {"UmberError"}, {""}
    while fresh:  # all that are told to the user, by whom they are made of
        fresh = {name for name, bases in classes if bases & expected} - expected
        expected |= fresh
    bare = {
        f"{path.relative_to(SOURCE)}: {ast.unparse(node)}"
        for path, node in nodes
        if isinstance(node, ast.Call)
        and getattr(node.func, "id", "") in expected
        and isinstance(node.args[0], ast.Constant | ast.JoinedStr | ast.BinOp)
    }
    assert len(bare) == 3, bare
    assert all("{why}" in one or "told['wrong']" in one for one in bare)


def test_what_a_cell_shows_can_be_typed_back_in_any_language() -> None:
    """A cell that is edited shows the words it is typed in: none of it goes through a catalogue."""
    wrong = []
    for path in (SOURCE / "app").rglob("*.py"):
        functions = {one.name: one for one in ast.walk(parsed(path)) if isinstance(one, ast.FunctionDef)}
        for node in ast.walk(parsed(path)):
            named = getattr(node.func, "id", "") if isinstance(node, ast.Call) else ""
            shown = {"Column": 1, "Rule": 3}.get(named)
            if shown is not None and len(node.args) >= shown + 2:
                shows = [one.id for one in ast.walk(node.args[shown]) if isinstance(one, ast.Name)]
                called = [ast.walk(functions[name]) for name in shows if name in functions]
                if "tr" in shows or any(
                    isinstance(one, ast.Name) and one.id == "tr" for walk in called for one in walk
                ):
                    wrong.append(f"{path.relative_to(SOURCE)}:{node.lineno}")
    assert not wrong


def test_what_the_window_shows_goes_through_the_catalogues() -> None:
    """No fixed text is shown past them, but for what is the same in any language."""
    shows = {"setText", "setToolTip", "setAccessibleName", "setPlaceholderText", "setWindowTitle", "setPrefix"}
    shows |= {"drawText", "invite", "QPushButton", "Label", "QLabel", "setHorizontalHeaderLabels"}
    bare = set()
    for path in set((SOURCE / "app").rglob("*.py")) - {SOURCE / "app/shots.py"}:
        for node in ast.walk(parsed(path)):
            if isinstance(node, ast.Call) and (getattr(node.func, "attr", "") or getattr(node.func, "id", "")) in shows:
                given = [one for arg in node.args for one in (arg.elts if isinstance(arg, ast.List) else [arg])]
                bare |= {one.value for one in given if isinstance(one, ast.Constant) and isinstance(one.value, str)}
    bare = {text for text in bare if re.search(r"[A-Za-z]{3}", text) and not text.startswith(("tcp:", "umber "))}
    assert bare == {"Umber Trunk"}
