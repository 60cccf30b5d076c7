"""Answers given before, by the headers of the list they were given for."""

from __future__ import annotations

import hashlib
from pathlib import Path

from platformdirs import user_config_path

from umber_trunk.core.errors import Wanted, always
from umber_trunk.core.sentences import Message
from umber_trunk.store.listing.doubts import Answers
from umber_trunk.store.listing.reading import ListReading, read_list
from umber_trunk.store.sheets import Book
from umber_trunk.store.state import read_state, write_state

MOST_KEPT = 200


def memory_path() -> Path:
    """Where answers are kept."""
    return user_config_path("umber-trunk") / "list-answers.json"


def _all(path: Path) -> dict[str, object]:
    return read_state(path)[0]


def _key(reading: ListReading) -> str:
    return hashlib.sha256(reading.headers.encode()).hexdigest()[:24]


def recall(reading: ListReading, path: Path | None = None) -> Answers | None:
    """Answers kept for lists with these headers; None if there are none."""
    found = _all(path or memory_path()).get(_key(reading))
    return Answers.from_json(found) if found else None


def remember(reading: ListReading, answers: Answers, path: Path | None = None) -> None:
    """Keeps what was said of a list, accepted answers too; a folder that can't be written is no matter."""
    path = path or memory_path()
    said = {doubt.id: doubt.likeliest for doubt in reading.asked} | dict(answers.said)
    said.pop("sheet", None)
    kept = {**_all(path), _key(reading): Answers(columns=answers.columns, units=answers.units, said=said).to_json()}
    newest = dict(list(kept.items())[-MOST_KEPT:])
    write_state(path, newest)


def read_with_memory(
    book: Book,
    answers: Answers,
    taken: tuple[str, ...] = (),
    decimal: str = "",
    path: Path | None = None,
    wanted: Wanted = always,
) -> tuple[ListReading, Answers]:
    """A reading that also uses the answers kept for lists like this one, said in a note; and the answers used.
    What is said now wins."""
    reading = read_list(book, answers, taken, decimal, wanted)
    before = recall(reading, path) if reading.asked else None
    if before is None:
        return reading, answers
    open_now = {doubt.id for doubt in reading.asked} - set(answers.said)
    used = {
        key: value
        for key, value in before.said.items()
        if key in open_now and not (key == "unit:length" and "length" in answers.units)
    }
    units = {
        name: unit for name, unit in before.units.items() if name not in answers.units and f"unit:{name}" in open_now
    }
    if not used and not units:
        return reading, answers
    merged = Answers(
        answers.sheets,
        answers.header_row,
        answers.columns,
        {**units, **answers.units},
        {**used, **answers.said},
        answers.accept,
    )
    again = read_list(book, merged, taken, decimal, wanted)
    said = ", ".join(f"{key} {value}" for key, value in {**used, **units}.items())
    note = Message.of("list.note.as-before", answers=said)
    return ListReading(again.wires, again.faults, again.doubts, (note, *again.notes), again.sheets, again.asked), merged
