"""A line to an instrument: a question goes out, one whole line comes back within one limit of time, or a sentence says
why not.

Addresses: "tcp:HOST:PORT", "/dev/…" for a serial line, "visa:RESOURCE"; behind them "?wait=8" for a device that takes
longer than 3 s, and for serial lines "?baud=9600". The only way anything is read from a device.
"""

from __future__ import annotations

import contextlib
import os
import re
import socket
import stat
import termios
import time
from dataclasses import dataclass
from typing import Any, Protocol
from urllib.parse import parse_qsl

from umber_trunk.core.errors import InputError, clipped
from umber_trunk.core.sentences import say
from umber_trunk.store.files import StoreError

WAIT_S = 3.0
MOST_WAIT_S = 60.0
MOST_ANSWER = 4096
BAUDS = (300, 1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200)


@dataclass(frozen=True)
class Address:
    """Where an instrument is, how long a whole reading of it may take, how fast its serial line is."""

    place: str
    wait_s: float = WAIT_S
    baud: int = 9600


def parse_address(text: str, what: str = "gauge", wait_s: float = WAIT_S) -> Address:
    """InputError for what is none."""
    place, _, asked = text.strip().partition("?")
    good = re.fullmatch(r"tcp:[A-Za-z0-9.\-]+:(\d{1,5})", place)
    known = (
        (good is not None and 0 < int(good[1]) < 65536)
        or re.fullmatch(r"/dev/[\w./-]+", place)
        or place.startswith("visa:")
    )
    if not known:
        raise InputError.of("store.not-an-address", text=clipped(text), what=what)
    baud = 9600
    for name, value in parse_qsl(asked, keep_blank_values=True):
        if name == "baud" and place.startswith("/dev/") and value.isdecimal() and int(value[:9]) in BAUDS:
            baud = int(value)
        elif name == "wait" and re.fullmatch(r"\d{1,2}(\.\d+)?", value) and 0 < float(value) <= MOST_WAIT_S:
            wait_s = float(value)
        else:
            raise InputError.of(
                "store.nothing-can-be-set",
                name=clipped(name),
                value=clipped(value),
                place=clipped(place),
                most=MOST_WAIT_S,
                bauds=", ".join(map(str, BAUDS)),
            )
    return Address(place, wait_s, baud)


class UnpluggedError(StoreError):
    """The line to an instrument broke; it may be plugged in again."""


class _Wire(Protocol):
    """Bytes out and in; TimeoutError or OSError for what fails."""

    def send(self, data: bytes, until: float) -> None: ...

    def more(self, until: float) -> bytes: ...

    def close(self) -> None: ...


class Device:
    """An open instrument; `what` is what it is called in what is said. After a line that failed it is closed: a late
    answer would be taken for the next one's. StoreError for every fault of device or line."""

    def __init__(self, address: str, what: str = "gauge", wait_s: float = WAIT_S) -> None:
        self.address, self.what = address, what
        self._at = parse_address(address, what, wait_s)
        self._held = b""
        self._wire: _Wire | None = None
        try:
            self._wire = _opened(self._at)
        except Exception as why:
            raise UnpluggedError.of("store.device-silent", what=what, address=clipped(address), why=told(why)) from why

    def ask(self, line: str) -> str:
        """One question and its answer, within the limit whatever drips in."""
        until = time.monotonic() + self._at.wait_s
        self._tell(line, until)
        assert self._wire is not None
        try:
            while b"\n" not in self._held:
                if time.monotonic() >= until:
                    raise TimeoutError
                if len(self._held) > MOST_ANSWER:
                    raise ValueError(say("device.endless"))
                part = self._wire.more(until)
                if not part:
                    raise ConnectionError(say("device.off"))
                self._held += part
        except TimeoutError as why:
            raise self._lost(TimeoutError(say("device.in-time", seconds=self._at.wait_s))) from why
        except Exception as why:
            raise self._lost(why) from why
        answer, _, late = self._held.partition(b"\n")
        self._held = b""
        if late.strip():
            raise StoreError.of(
                "store.device-answered-too-much",
                what=self.what,
                address=self.address,
                late=repr(clipped(late.decode("utf-8", "replace"))),
            )
        return answer.decode("utf-8", "replace").strip()

    def tell(self, line: str) -> None:
        """Says a line that has no answer."""
        self._tell(line, time.monotonic() + self._at.wait_s)

    def _tell(self, line: str, until: float) -> None:
        if self._wire is None:
            raise UnpluggedError.of("store.device-gone", what=self.what, address=self.address)
        try:
            self._wire.send(line.encode() + b"\n", until)
        except Exception as why:
            raise self._lost(why) from why

    def _lost(self, why: Exception) -> StoreError:
        self.close()
        unplugged = isinstance(why, OSError) and not isinstance(why, TimeoutError)
        Error = UnpluggedError if unplugged else StoreError  # noqa: N806 a class
        return Error.of("store.device-lost", what=self.what, address=self.address, why=told(why))

    @property
    def closed(self) -> bool:
        """Whether the line was given up or lost."""
        return self._wire is None

    def close(self) -> None:
        """Gives the line up; closing twice does no harm."""
        if self._wire is not None:
            with contextlib.suppress(Exception):
                self._wire.close()
        self._wire = None

    def __enter__(self) -> Device:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()


def told(why: Exception) -> str:
    """What went wrong, in the system's words."""
    said = getattr(why, "strerror", None) or str(why) or type(why).__name__
    return said[:1].lower() + said[1:]


def _opened(at: Address) -> _Wire:
    if at.place.startswith("tcp:"):
        _, host, port = at.place.split(":")
        return _Socket(socket.create_connection((host, int(port)), at.wait_s))
    return _Visa(at) if at.place.startswith("visa:") else _Serial(at)


class _Socket:
    def __init__(self, line: socket.socket) -> None:
        self.line = line

    def send(self, data: bytes, until: float) -> None:
        self.line.settimeout(_left(until))
        self.line.sendall(data)

    def more(self, until: float) -> bytes:
        self.line.settimeout(_left(until))
        return self.line.recv(4096)

    def close(self) -> None:
        self.line.close()


class _Serial:
    def __init__(self, at: Address) -> None:
        import serial  # here: few benches have one

        if not stat.S_ISCHR(os.stat(at.place).st_mode):
            raise OSError(say("device.file"))
        try:
            self.line = serial.Serial(at.place, at.baud, timeout=0, write_timeout=at.wait_s, exclusive=True)
        except termios.error as why:
            raise OSError(say("device.no-serial")) from why
        self.line.reset_input_buffer()  # what it said before it was asked answers nothing

    def send(self, data: bytes, until: float) -> None:
        self.line.write_timeout = _left(until)
        self.line.write(data)

    def more(self, until: float) -> bytes:
        self.line.timeout = _left(until)
        first = self.line.read(1)
        if not first:
            raise TimeoutError
        return bytes(first + self.line.read(min(self.line.in_waiting, MOST_ANSWER)))

    def close(self) -> None:
        self.line.close()


class _Visa:
    """SCPI through PyVISA and its pure Python back end."""

    def __init__(self, at: Address) -> None:
        import pyvisa  # here: nothing else needs it

        self.manager: Any = pyvisa.ResourceManager("@py")
        try:
            self.line: Any = self.manager.open_resource(
                at.place[5:], read_termination="\n", write_termination="\n", timeout=int(at.wait_s * 1000)
            )
        except BaseException:
            self.manager.close()
            raise

    def send(self, data: bytes, until: float) -> None:
        self.line.timeout = int(_left(until) * 1000)
        self.line.write(data.decode().rstrip("\n"))

    def more(self, until: float) -> bytes:
        self.line.timeout = int(_left(until) * 1000)
        return str(self.line.read()).encode() + b"\n"

    def close(self) -> None:
        self.line.close()
        self.manager.close()


def _left(until: float) -> float:
    return max(until - time.monotonic(), 0.001)
