"""A table with a row for each pin, told as wires: pins of one wire number or of one net are joined."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from itertools import pairwise

from umber_trunk.core.sentences import Message
from umber_trunk.store.listing.doubts import Questions, doubt, wrong
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
            lines.passed.append((line.at + 1, Message.of("list.passed.pin")))
    if sum(len(group) == 1 for group in nets.values()) > len(nets) / 2:
        return [_said_alone(group[0], wrong("pin-list")) for group in nets.values()]
    star = [group for group in nets.values() if len(group) > 2]
    how = _asked_how(star, key, asked) if star else "splice"
    found: list[Line] = []
    for group in nets.values():
        if len(group) == 1:
            found.append(_said_alone(group[0], wrong("one-pin", net=group[0].says(key))))
        elif len(group) == 2 or how == "chain":
            found += [_joined(a, b, by_wire and len(group) == 2) for a, b in pairwise(group)]
        elif how == "star":
            found += [_joined(group[0], other, False) for other in group[1:]]
        else:
            found += [_to_splice(line, line.says(key)) for line in group]
    asked.note("pin-rows", numbered=by_wire)
    return sorted(found, key=lambda line: line.at)


def _asked_how(star: Sequence[Sequence[Line]], key: str, asked: Questions) -> str:
    """How nets of more than two pins are wired."""
    first = star[0]
    return asked.ask(
        doubt(
            "net",
            ("splice", "chain", "star"),
            "splice",
            "--answer net={}",
            rows=[line.at + 1 for group in star for line in group],
            count=len(first),
            net=first[0].says(key),
            many=len(star),
        )
    )


def _said_alone(line: Line, said: Message) -> Line:
    return Line(
        line.at, line.cells, line.where, wrong=[*line.wrong, ("name" if "name" in line.where else "wire", said)]
    )


def _joined(a: Line, b: Line, numbered: bool) -> Line:
    cells = {
        **{name: text for name, text in b.cells.items() if text},
        **{name: text for name, text in a.cells.items() if text},
    }
    cells["to"], cells["to-pin"] = b.says("from"), b.says("from-pin")
    faults = [*a.wrong, *b.wrong]
    for name in ("size", "colour", "stripe", "length"):
        if a.says(name) and b.says(name) and a.says(name) != b.says(name):
            differs = {"row": a.at + 1, "text": a.says(name), "other": b.at + 1, "also": b.says(name)}
            faults.append((name, wrong("rows-differ", **differs)))
    if not numbered:
        cells.pop("wire", None)
    return Line(
        a.at, cells, {**a.where, "to": a.where.get("from", -1), "to-pin": a.where.get("from-pin", -1)}, wrong=faults
    )


def _to_splice(line: Line, net: str) -> Line:
    cells = {**line.cells, "to": f"splice {net}", "to-pin": ""}
    cells.pop("wire", None)
    return Line(line.at, cells, {**line.where, "to": line.where.get("name", -1)}, wrong=list(line.wrong))
