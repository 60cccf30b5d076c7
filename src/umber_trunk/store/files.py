"""Files in and out: read whole within bounds, or written whole or not at all.

Nothing is written onto a harness file, a device, a pipe or through a link that leads nowhere; a link's target is
replaced, not the link.
"""

from __future__ import annotations

import errno
import fcntl
import os
import re
import secrets
import stat
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from umber_trunk.core.errors import UmberError
from umber_trunk.core.sentences import say

APPLICATION_ID = 0x554D4254  # "UMBT", at byte 68 of every harness file
SHELF_ID = 0x55547368  # "UTsh", at byte 68 of every shelf and shop's file
SQLITE_HEAD = b"SQLite format 3\0"
HARNESS_ENDING = ".umber"
STREAMS = ("-", "/dev/stdout", "/dev/fd/1", "/proc/self/fd/1")
MOST_TEXT = 200_000_000
_PART = re.compile(r"\.umber-[0-9a-f]{16}\.part")
PART_S = 5.0
"""A part this young may just have been made, before it is held."""
_BESIDE = ("-journal", "-wal", "-shm")


class StoreError(UmberError):
    """The file can't be opened, read or written; the text says why and what to do."""


class DamagedError(StoreError):
    """What is in the file isn't what was written."""


def damaged(name: str, key: str, /, **values: Any) -> DamagedError:
    """What to say of a harness file that can't be followed, by the code under damage of what can't."""
    return DamagedError.of("store.damaged", name=name, why=say(f"damage.{key}", **values))


_REASONS = {
    errno.ENAMETOOLONG: "long-name",
    errno.EACCES: "not-allowed",
    errno.EPERM: "not-allowed",
    errno.EROFS: "write-protected",
    errno.ENOSPC: "full",
    errno.EDQUOT: "share-full",
    errno.EFBIG: "too-large",
    errno.ELOOP: "circle",
    errno.ENOENT: "nothing-there",
    errno.ENOTDIR: "no-folder",
    errno.EISDIR: "folder",
    errno.EIO: "fault",
}
"""What went wrong, as the system numbers it → its code under disk."""


def reason(why: OSError) -> str:
    """What the system says, in words that help."""
    key = _REASONS.get(why.errno) if why.errno is not None else None
    return say(f"disk.{key}") if key else (why.strerror or type(why).__name__).lower()


def read_whole(path: Path, most: int = MOST_TEXT) -> bytes:
    """All bytes of an ordinary file of at most `most` bytes. StoreError for folders, pipes, devices, larger files."""
    return _read(path, most + 1, most)


@contextmanager
def _reading(path: Path) -> Iterator[None]:
    """What the system says of a file, as a sentence."""
    try:
        yield
    except FileNotFoundError:
        raise StoreError.of("store.no-such-file", path=path, link=path.is_symlink()) from None
    except OSError as why:
        raise StoreError.of("store.cant-be-read", path=path, why=reason(why)) from why
    except ValueError:
        raise StoreError.of("store.files-name-cant-hold-nul") from None


def _ordinary(path: Path, mode: int) -> None:
    if not stat.S_ISREG(mode):
        raise StoreError.of("store.no-ordinary-file", path=path, kind=_kind(mode))


def ordinary(path: Path) -> int:
    """The bytes of an ordinary file, without opening it: closing a file gives up every lock that this process has on
    it, and SQLite may hold one. StoreError as of `read_whole`."""
    with _reading(path):
        kind = os.stat(path)
    _ordinary(path, kind.st_mode)
    if not os.access(path, os.R_OK):
        raise StoreError.of("store.not-allowed-to-read", path=path)
    return kind.st_size


def _read(path: Path, many: int, most: int | None) -> bytes:
    """Up to so many bytes of a file with at most `most`; a pipe, a socket or a device is never waited for."""
    with _reading(path):
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(handle, "rb") as file:
            kind = os.fstat(handle)
            _ordinary(path, kind.st_mode)
            data = file.read(many) if most is None or kind.st_size <= most else b""
    if most is not None and max(kind.st_size, len(data)) > most:
        raise StoreError.of("store.over-mb-most-that-is-read", path=path.name, most=most / 1000000.0)
    return data


def read_text(path: Path, most: int = MOST_TEXT) -> str:
    """The text of a UTF-8 file, with or without a byte order mark."""
    try:
        return read_whole(path, most).decode("utf-8-sig")
    except UnicodeDecodeError as why:
        raise StoreError.of("store.not-utf-8", path=path.name, byte=why.start + 1) from why


def _kind(mode: int) -> str:
    kinds = ((stat.S_ISDIR, "a folder"), (stat.S_ISFIFO, "a pipe"), (stat.S_ISSOCK, "a socket"))
    return next((word for test, word in kinds if test(mode)), "a device")


def is_harness(path: Path) -> bool:
    """Whether a file is a harness file by what is in it, whatever its name."""
    return _headed(path, APPLICATION_ID)


def is_shop(path: Path) -> bool:
    """Whether a file is a shop's file, or a shelf file, by what is in it."""
    return _headed(path, SHELF_ID)


def _headed(path: Path, mark: int) -> bool:
    try:
        head = _read(path, 100, None)
    except StoreError:
        return False
    return head.startswith(SQLITE_HEAD) and head[68:72] == mark.to_bytes(4, "big")


def target_of(path: Path) -> Path:
    """The file that writing to `path` makes or replaces, links followed. StoreError where nothing may be written."""
    try:
        mode = os.lstat(path).st_mode
        if stat.S_ISLNK(mode):
            target = Path(os.path.realpath(path, strict=True))
            mode = os.lstat(target).st_mode
        else:
            target = path
    except FileNotFoundError:
        if path.is_symlink():
            raise StoreError.of("store.link-that-leads-nowhere", path=path) from None
        target, mode = path, 0
    except OSError as why:
        raise StoreError.of("any.cant-be-written", path=path, why=reason(why)) from why
    except ValueError:
        raise StoreError.of("store.files-name-cant-hold-nul") from None
    if mode and not stat.S_ISREG(mode):
        raise StoreError.of("store.nothing-is-written-onto", path=path, kind=_kind(mode))
    for name in (path.name, target.name):
        if name.lower().endswith(HARNESS_ENDING):
            raise StoreError.of("store.name-of-harness-file", path=path.name)
        for ending in _BESIDE:
            if name.endswith(ending) and is_harness(target.with_name(name.removesuffix(ending) or name)):
                raise StoreError.of("store.belongs-to-harness-file", path=path.name)
    if mode and is_harness(target):
        raise StoreError.of("store.harness-file-not-written-onto", path=path)
    return target


def write_whole(path: Path, data: bytes, fresh: bool = False) -> None:
    """All of the data or nothing, on the disk when this returns; `fresh` refuses a name that is taken. A name of
    STREAMS goes to standard output. StoreError says why it can't be written and leaves what was there."""
    if str(path) in STREAMS:
        sys.stdout.flush()
        sys.stdout.buffer.write(data)
        sys.stdout.buffer.flush()
        return
    put_whole(target_of(path), data, fresh)


def put_whole(target: Path, data: bytes, fresh: bool = False, private: bool = False) -> None:
    """`write_whole` without looking at what is there: for files of our own. `private`: nobody else may read it,
    whatever stood there before."""
    part = target.with_name(f".umber-{secrets.token_hex(8)}.part")
    try:
        handle = os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, 0o600 if private else 0o666)
        with suppress(OSError):  # held while it is written, see clear_parts; a disk without locks has none to look at
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as why:
        raise StoreError.of("any.cant-be-written", path=target, why=_in_folder(why)) from why
    except ValueError:
        raise StoreError.of("store.files-name-cant-hold-nul") from None
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        if fresh:
            _linked(part, target)
        else:
            if not private:
                _keep_mode(part, target)
            os.replace(part, target)
        _synced(target.parent)
    except OSError as why:
        raise StoreError.of("any.cant-be-written", path=target, why=reason(why)) from why
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)


def put_aside(path: Path, name: str) -> None:
    """Gives a file another name in its folder, so that it can be looked at. OSError where that can't be."""
    os.replace(path, path.with_name(name))


def clear_parts(folder: Path) -> None:
    """Clears what a kill left half written in a folder: parts of ours that nobody holds."""
    with suppress(OSError):
        for path in folder.iterdir():
            if _PART.fullmatch(path.name) and path.is_file() and not path.is_symlink():
                with suppress(OSError):
                    _clear(path)


def _clear(part: Path) -> None:
    handle = os.open(part, os.O_RDONLY | os.O_NONBLOCK | os.O_NOFOLLOW | os.O_CLOEXEC)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)  # refused while another program writes it
        if time.time() - os.fstat(handle).st_mtime > PART_S:
            part.unlink()
    finally:
        os.close(handle)


def _in_folder(why: OSError) -> str:
    return say("disk.not-in-folder") if why.errno in (errno.EACCES, errno.EPERM) else reason(why)


def _linked(part: Path, target: Path) -> None:
    """Gives the whole file its name, unless the name is taken."""
    try:
        os.link(part, target)
    except FileExistsError:
        raise StoreError.of("store.exists-already-choose-another-name", target=target) from None
    except OSError as why:
        if why.errno not in (errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK):
            raise
        # a disk without hard links: hold the name, then put the file there
        try:
            os.close(os.open(target, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666))
        except FileExistsError:
            raise StoreError.of("store.exists-already-choose-another-name", target=target) from None
        os.replace(part, target)


def _keep_mode(part: Path, target: Path) -> None:
    with suppress(OSError):
        os.chmod(part, stat.S_IMODE(target.stat().st_mode))


def _synced(folder: Path) -> None:
    """The new name is on the disk too, where the disk can promise that."""
    try:
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    except OSError:
        return  # a folder that may be written but not read
    try:
        os.fsync(handle)
    except OSError as why:
        if why.errno not in (errno.EINVAL, errno.EOPNOTSUPP):
            raise
    finally:
        os.close(handle)
