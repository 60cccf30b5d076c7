"""Rows of a damaged SQLite file, page by page and without SQLite: nothing of the file is run, and one bad page costs
its own rows only.

Source: the file format as its makers publish it (“Database File Format”): leaf pages of tables (type 13), records,
chains of overflow pages.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from umber_trunk.store.files import SQLITE_HEAD

Value = int | float | str | bytes | None
LEAF, INTERIOR = 13, 5
_INTS = {1: 1, 2: 2, 3: 3, 4: 4, 5: 6, 6: 8}
MOST_COLUMNS = 20


class _BadError(Exception):
    """A page or a cell that isn't what its file format says."""


@dataclass(frozen=True)
class Row:
    """A row of some table: the number it stands under, its values, its page."""

    rowid: int
    values: tuple[Value, ...]
    page: int


class Pages:
    """A file's pages; `data` may be anything at all."""

    def __init__(self, data: bytes) -> None:
        self.data = data
        told = data.startswith(SQLITE_HEAD) and len(data) > 20  # otherwise the first page is gone
        said = int.from_bytes(data[16:18], "big") if told else 0
        self.size = {1: 65536}.get(said, said)
        if self.size not in (512, 1024, 2048, 4096, 8192, 16384, 32768, 65536):
            self.size = 4096
        self.usable = self.size - (data[20] if told and data[20] <= 32 else 0)
        self.count = -(-len(data) // self.size)
        self.bad: set[int] = set()
        """Pages on which something could not be read."""

    def page(self, number: int) -> bytes:
        """A page by its number, from 1."""
        if not 1 <= number <= self.count:
            raise _BadError
        found = self.data[(number - 1) * self.size : number * self.size]
        if len(found) < self.size:
            raise _BadError
        return found

    @cached_property
    def free(self) -> frozenset[int]:
        """Pages that hold nothing any more, as far as their list can be followed."""
        found: set[int] = set()
        try:
            trunk, _ = struct.unpack(">II", self.data[32:40])
            while trunk and trunk not in found:
                page = self.page(trunk)
                found.add(trunk)
                trunk, many = struct.unpack(">II", page[:8])
                found.update(struct.unpack(f">{many}I", page[8 : 8 + 4 * many]))
        except (_BadError, struct.error):
            pass
        return frozenset(found)

    def rows(self) -> Iterator[Row]:
        """Every row of every leaf page that is in use, in the order of pages."""
        for number in range(1, self.count + 1):
            if number not in self.free:
                yield from self._of(number)

    def _of(self, number: int) -> Iterator[Row]:
        start = 100 if number == 1 else 0
        try:
            page = self.page(number)
        except _BadError:
            self.bad.add(number)
            return
        if page[start] != LEAF:
            return
        many = int.from_bytes(page[start + 3 : start + 5], "big")
        for place in range(start + 8, min(start + 8 + 2 * many, self.size - 1), 2):
            try:
                yield self._cell(number, page, int.from_bytes(page[place : place + 2], "big"))
            except (_BadError, struct.error, UnicodeDecodeError, IndexError):
                self.bad.add(number)

    def _cell(self, number: int, page: bytes, at: int) -> Row:
        length, at = _varint(page, at)
        rowid, at = _varint(page, at)
        if not 0 < length <= len(self.data):
            raise _BadError
        most = self.usable - 35
        here = length
        if length > most:
            least = (self.usable - 12) * 32 // 255 - 23
            here = least + (length - least) % (self.usable - 4)
            here = here if here <= most else least
        if at + here > self.usable:
            raise _BadError
        payload = page[at : at + here]
        if here < length:
            payload += self._overflow(int.from_bytes(page[at + here : at + here + 4], "big"), length - here)
        return Row(rowid, _record(payload), number)

    def _overflow(self, number: int, length: int) -> bytes:
        parts, left, seen = [], length, set[int]()
        while left > 0:
            if number in seen:
                raise _BadError
            seen.add(number)
            page = self.page(number)
            parts.append(page[4 : 4 + min(left, self.usable - 4)])
            left -= len(parts[-1])
            number = int.from_bytes(page[:4], "big")
        return b"".join(parts)

    def whole(self, root: int) -> bool:
        """Whether every page of the table that begins at a page can be reached and is one."""
        todo, seen = [root], set[int]()
        while todo:
            number = todo.pop()
            try:
                page = self.page(number)
            except _BadError:
                return False
            start = 100 if number == 1 else 0
            if number in seen or number in self.bad or page[start] not in (LEAF, INTERIOR):
                return False
            seen.add(number)
            if page[start] == INTERIOR:
                many = int.from_bytes(page[start + 3 : start + 5], "big")
                if start + 12 + 2 * many > self.size:
                    return False
                places = struct.unpack(f">{many}H", page[start + 12 : start + 12 + 2 * many])
                todo += [int.from_bytes(page[place : place + 4], "big") for place in places]
                todo.append(int.from_bytes(page[start + 8 : start + 12], "big"))
        return True


def _varint(page: bytes, at: int) -> tuple[int, int]:
    found = 0
    for place in range(9):
        byte = page[at + place]
        if place == 8:
            return _signed(found << 8 | byte), at + 9
        found = found << 7 | byte & 0x7F
        if not byte & 0x80:
            return found, at + place + 1
    raise _BadError


def _signed(number: int) -> int:
    return number - (1 << 64) if number >= 1 << 63 else number


def _record(payload: bytes) -> tuple[Value, ...]:
    length, at = _varint(payload, 0)
    if length > len(payload):
        raise _BadError
    kinds = []
    while at < length:
        kind, at = _varint(payload, at)
        kinds.append(kind)
        if len(kinds) > MOST_COLUMNS:
            raise _BadError
    values: list[Value] = []
    at = length
    for kind in kinds:
        value, at = _value(kind, payload, at)
        values.append(value)
    if at != len(payload):
        raise _BadError
    return tuple(values)


def _value(kind: int, payload: bytes, at: int) -> tuple[Value, int]:
    if kind in (0, 8, 9):
        return {0: None, 8: 0, 9: 1}[kind], at
    if kind == 7:
        return struct.unpack(">d", payload[at : at + 8])[0], at + 8
    size = _INTS.get(kind, (kind - 12) // 2 if kind >= 12 else -1)
    part = payload[at : at + size]
    if size < 0 or len(part) < size:
        raise _BadError
    if kind in _INTS:
        return int.from_bytes(part, "big", signed=True), at + size
    return (part.decode("utf-8") if kind % 2 else part), at + size
