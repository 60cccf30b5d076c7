"""Rules of the house: which way imports point, no Qt in the core, docs and screenshots that hold."""

import ast
import re
from pathlib import Path

import pytest

from umber_trunk.cli.main import known_commands

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "umber_trunk"
MODULES = sorted(SOURCE.rglob("*.py"))
INWARD = {"core": {"core"}, "store": {"core", "store"}, "app": {"core", "store", "app"}}
"""Package → the packages of ours it may import."""


def imports(path: Path) -> set[str]:
    names: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
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


def test_the_core_has_no_clock_and_no_files() -> None:
    for path in (SOURCE / "core").rglob("*.py"):
        assert not imports(path) & {"time", "datetime", "os", "pathlib", "sqlite3"}, path


def test_public_functions_of_the_core_say_what_they_do() -> None:
    for path in (*(SOURCE / "core").rglob("*.py"), *(SOURCE / "store").rglob("*.py")):
        for node in ast.parse(path.read_text("utf-8")).body:
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                assert ast.get_docstring(node), f"{path.name}: {node.name}"


def test_no_bare_except() -> None:
    for path in MODULES:
        handlers = (n for n in ast.walk(ast.parse(path.read_text("utf-8"))) if isinstance(n, ast.ExceptHandler))
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
                assert tip.startswith(('"', "plain_of(")), f"{path.name}: {tip}"
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
