"""A shim under SQLite that fails on demand: every write, sync, truncation and deletion is counted, and one of them goes
wrong the way a full disk, a short write or a dying disk does. Through ctypes, on the library the program itself
uses."""

from __future__ import annotations

import _sqlite3
import ctypes as c
from collections.abc import Iterator
from contextlib import contextmanager
from ctypes.util import find_library

FULL, IO_WRITE, IO_FSYNC, IO_TRUNCATE, IO_DELETE = 13, 778, 1034, 1546, 2570
_P = c.c_void_p
_WRITE = c.CFUNCTYPE(c.c_int, _P, _P, c.c_int, c.c_int64)
_TRUNCATE = c.CFUNCTYPE(c.c_int, _P, c.c_int64)
_SYNC = c.CFUNCTYPE(c.c_int, _P, c.c_int)
_OPEN = c.CFUNCTYPE(c.c_int, _P, _P, _P, c.c_int, _P)  # the name is kept by pointer, so it must be the very one
_DELETE = c.CFUNCTYPE(c.c_int, _P, c.c_char_p, c.c_int)


class _Methods(c.Structure):
    _fields_ = [
        ("version", c.c_int),
        ("close", _P),
        ("read", _P),
        ("write", _P),
        ("truncate", _P),
        ("sync", _P),
        ("rest", _P * 16),
    ]


class _File(c.Structure):
    _fields_ = [("methods", c.POINTER(_Methods))]


class _Vfs(c.Structure):
    _fields_ = [
        ("version", c.c_int), ("size", c.c_int), ("longest", c.c_int), ("next", _P), ("name", c.c_char_p), ("data", _P), ("open", _P),
        ("delete", _P), ("rest", _P * 16),
    ]  # fmt: skip


def library() -> c.CDLL | None:
    """The SQLite the interpreter has loaded, None where it is built into it."""
    for name in (getattr(_sqlite3, "__file__", None), find_library("sqlite3"), "libsqlite3.so.0"):
        if name:
            found = c.CDLL(name)
            if hasattr(found, "sqlite3_vfs_find"):
                return found
    return None


class Shim:
    """`fail_at` is the number of the call that fails, 0 for none; `how` the way it fails. `calls` counts them."""

    def __init__(self) -> None:
        self.calls, self.fail_at, self.short = 0, 0, False
        self.lasting = False
        self._kept: list[object] = []
        self._tables: dict[int, _Methods] = {}
        lib = library()
        lib.sqlite3_vfs_find.restype = c.POINTER(_Vfs)
        lib.sqlite3_vfs_register.argtypes = [_P, c.c_int]
        lib.sqlite3_vfs_unregister.argtypes = [_P]
        self._lib, self._usual = lib, lib.sqlite3_vfs_find(None)
        self._ours = _Vfs()
        c.memmove(c.byref(self._ours), self._usual, c.sizeof(_Vfs))
        self._ours.name = b"faulty"
        self._ours.next = None
        self._open, self._delete = _OPEN(self._on_open), _DELETE(self._on_delete)
        self._real_open, self._real_delete = _OPEN(self._usual.contents.open), _DELETE(self._usual.contents.delete)
        self._ours.open, self._ours.delete = c.cast(self._open, _P), c.cast(self._delete, _P)

    def goes_wrong(self) -> bool:
        self.calls += 1
        return bool(self.fail_at) and (self.calls == self.fail_at or (self.lasting and self.calls > self.fail_at))

    def _on_delete(self, vfs: int, name: bytes, sync: int) -> int:
        return IO_DELETE if self.goes_wrong() else int(self._real_delete(c.addressof(self._usual.contents), name, sync))

    def _on_open(self, vfs: int, name: int, file: int, flags: int, out: int) -> int:
        status = int(self._real_open(c.addressof(self._usual.contents), name, file, flags, out))
        opened = _File.from_address(file)
        if opened.methods:
            opened.methods = c.pointer(self._table(opened.methods))
        return status

    def _table(self, real: c.POINTER(_Methods)) -> _Methods:  # type: ignore[valid-type]
        key = c.addressof(real.contents)  # type: ignore[attr-defined]
        if key not in self._tables:
            old, new = real.contents, _Methods()  # type: ignore[attr-defined]
            # the unix files have at most 19 entries; what is beyond is copied and never called
            c.memmove(c.byref(new), c.byref(old), 8 + 18 * c.sizeof(_P))
            write, truncate, sync = _WRITE(old.write), _TRUNCATE(old.truncate), _SYNC(old.sync)

            def on_write(file: int, data: int, size: int, at: int) -> int:
                if self.goes_wrong():
                    if self.short:
                        write(file, data, size // 2, at)
                    return FULL
                return int(write(file, data, size, at))

            def on_truncate(file: int, size: int) -> int:
                return IO_TRUNCATE if self.goes_wrong() else int(truncate(file, size))

            def on_sync(file: int, flags: int) -> int:
                return IO_FSYNC if self.goes_wrong() else int(sync(file, flags))

            made = _WRITE(on_write), _TRUNCATE(on_truncate), _SYNC(on_sync)
            self._kept += [*made, write, truncate, sync]
            new.write, new.truncate, new.sync = (c.cast(one, _P) for one in made)
            self._tables[key] = new
        return self._tables[key]

    @contextmanager
    def under(self) -> Iterator[Shim]:
        """All files that are opened meanwhile go through the shim."""
        assert self._lib.sqlite3_vfs_register(c.byref(self._ours), 1) == 0
        try:
            yield self
        finally:
            self.fail_at = 0
            self._lib.sqlite3_vfs_register(self._usual, 1)
            self._lib.sqlite3_vfs_unregister(c.byref(self._ours))
