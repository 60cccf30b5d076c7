"""A table with a row for each pin, told as wires: pins of one wire number or of one net are joined."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from itertools import pairwise

from umber_trunk.store.listing.doubts import Doubt, Option, Questions
from umber_trunk.store.listing.lines import Line, Lines


def by_net(lines: Lines, asked: Questions) -> list[Line]:
    """A table with a row for each pin as wires: pins of one wire number, or of one net, are joined."""
    numbers = Counter(line.says("wire") for line in lines.lines if line.says("wire"))
    by_wire = bool(numbers) and sum(many == 2 for many in numbers.values()) > 0.6 * len(numbers)
    key = "wire" if by_wire else "name"
    nets: dict[str, list[Line]] = defaultdict(list)
    for line in lines.lines:
        if line.says(key):
            nets[line.says(key).lower()].append(line)
        else:
            lines.passed.append((line.at + 1, "a pin without a net"))
    if sum(len(group) == 1 for group in nets.values()) > len(nets) / 2:
        return [
            _said_alone(
                group[0],
                "the list says what each pin is for and not where its wire goes; add a column “to”, or the other "
                "connectors.",
            )
            for group in nets.values()
        ]
    star = [group for group in nets.values() if len(group) > 2]
    how = _asked_how(star, key, asked) if star else "splice"
    found: list[Line] = []
    for group in nets.values():
        if len(group) == 1:
            found.append(_said_alone(group[0], f"“{group[0].says(key)}” is at one pin only."))
        elif len(group) == 2 or how == "chain":
            found += [_joined(a, b, by_wire and len(group) == 2) for a, b in pairwise(group)]
        elif how == "star":
            found += [_joined(group[0], other, False) for other in group[1:]]
        else:
            found += [_to_splice(line, line.says(key)) for line in group]
    asked.note(f"Each row is a pin: pins of one {'wire number' if by_wire else 'net'} are joined by a wire.")
    return sorted(found, key=lambda line: line.at)


def _asked_how(star: Sequence[Sequence[Line]], key: str, asked: Questions) -> str:
    """How nets of more than two pins are wired."""
    first = star[0]
    return asked.ask(
        Doubt(
            "net",
            f"How are the {len(first)} pins of “{first[0].says(key)}” joined?",
            f"Nets with more than two pins: {len(star)}.",
            (
                Option("splice", "at a splice of their own"),
                Option("chain", "from pin to pin, as they stand"),
                Option("star", "all from the first pin"),
            ),
            "splice",
            "--answer net={}",
            rows=tuple(line.at + 1 for group in star for line in group),
        )
    )


def _said_alone(line: Line, sentence: str) -> Line:
    return Line(
        line.at, line.cells, line.where, wrong=[*line.wrong, ("name" if "name" in line.where else "wire", sentence)]
    )


def _joined(a: Line, b: Line, numbered: bool) -> Line:
    cells = {
        **{name: text for name, text in b.cells.items() if text},
        **{name: text for name, text in a.cells.items() if text},
    }
    cells["to"], cells["to-pin"] = b.says("from"), b.says("from-pin")
    wrong = [*a.wrong, *b.wrong]
    for name in ("size", "colour", "stripe", "length"):
        if a.says(name) and b.says(name) and a.says(name) != b.says(name):
            wrong.append(
                (name, f"row {a.at + 1} says “{a.says(name)}” and row {b.at + 1} “{b.says(name)}” of one wire.")
            )
    if not numbered:
        cells.pop("wire", None)
    return Line(
        a.at, cells, {**a.where, "to": a.where.get("from", -1), "to-pin": a.where.get("from-pin", -1)}, wrong=wrong
    )


def _to_splice(line: Line, net: str) -> Line:
    cells = {**line.cells, "to": f"splice {net}", "to-pin": ""}
    cells.pop("wire", None)
    return Line(line.at, cells, {**line.where, "to": line.where.get("name", -1)}, wrong=list(line.wrong))
