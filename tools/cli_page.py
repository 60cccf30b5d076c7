"""Writes the part of docs/cli.md that lists every command's options and the keys of its answer, from the parsers and
from `schema answers` (`--check`: says whether it is up to date). What stands above that part is written by hand.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from umber_trunk.cli.main import build_parser, known_commands

ROOT = Path(__file__).parents[1]
PAGE = ROOT / "docs" / "cli.md"
ANSWERS = ROOT / "docs" / "schema" / "answers.schema.json"
BEGIN = "<!-- From here on written by tools/cli_page.py. -->\n"


def told(action: argparse.Action) -> str:
    """What an option does, with what it may be and is unless said."""
    text = (action.help or "").replace("%%", "%").replace("|", "\\|")
    if action.choices:
        text = f"{text}{': ' if text else ''}{', '.join(f'`{one}`' for one in action.choices)}"
    if action.default not in (None, False, "", [], ()) and action.default is not argparse.SUPPRESS:
        text += f" ({'' if 'default' in text else 'default '}{action.default})"
    return text


def options(parser: argparse.ArgumentParser) -> Iterator[str]:
    """A row for each word and option of a command."""
    for action in parser._actions:
        if isinstance(action, argparse._HelpAction) or action.help == argparse.SUPPRESS:
            continue
        name = action.metavar or (action.dest.upper() if action.option_strings or not action.choices else action.dest)
        value = " ".join(name) if isinstance(name, tuple) else name
        if action.option_strings:
            value = " ".join([", ".join(action.option_strings), *([value] if action.nargs != 0 else [])])
        yield f"| `{value}` | {told(action)} |"


def keys(shape: dict[str, Any], deep: int = 0) -> str:
    """The keys of an answer, those of its lists in brackets."""
    if "array" in shape.get("type", []):
        return keys(shape.get("items", {}), deep)
    found = []
    for name, inner in shape.get("properties", {}).items():
        below = keys(inner, deep + 1) if deep < 2 else ""
        found.append(f"`{name}` ({below})" if below else f"`{name}`")
    return ", ".join(found)


def page() -> str:
    """The part that is worked out."""
    answers = json.loads(ANSWERS.read_text("utf-8"))["properties"]
    rows = [BEGIN, "\n## Every command, its options and its answer’s keys\n"]
    for name, (_, what) in sorted(known_commands().items()):
        whole = build_parser(name)
        commands = next(a for a in whole._actions if isinstance(a, argparse._SubParsersAction))
        rows.append(f"\n### umber {name}\n\n{what[:1].upper()}{what[1:]}.\n")
        if found := list(options(commands.choices[name])):
            rows.append("\n| word or option | what it is |\n|---|---|\n" + "\n".join(found) + "\n")
        if name in answers and (said := keys(answers[name])):
            rows.append(f"\n`--json`{', a list of' if 'array' in answers[name]['type'] else ''}: {said}.\n")
    return "".join(rows)


def main() -> int:
    """Writes the page, or says that it is not up to date."""
    by_hand = PAGE.read_text("utf-8").partition(BEGIN)[0].rstrip() + "\n\n"
    made = by_hand + page()
    if "--check" in sys.argv:
        if PAGE.read_text("utf-8") == made:
            return 0
        sys.exit("docs/cli.md isn't what the parsers say: run tools/cli_page.py")
    PAGE.write_text(made, "utf-8")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
