"""Gauges on the bench: a line protocol over TCP or a serial line, SCPI over PyVISA, and the simulated press that ships.

An address is "tcp:HOST:PORT" or "/dev/…" for the line protocol, "visa:RESOURCE" for SCPI. A keyboard wedge needs no address: it types.
"""

from __future__ import annotations

import contextlib
import os
import re
import select
import socket
import threading
import tty
from typing import Any

from umber_trunk.core.errors import InputError
from umber_trunk.core.make.press import Press
from umber_trunk.store.files import StoreError
from umber_trunk.store.lines import LineServer

WAIT_S = 3.0
MOST_LINE = 400
WORDS = {"height": ("HEIGHT?", "MEAS:LENG?", "m"), "width": ("WIDTH?", "MEAS:LENG?", "m"), "pull": ("PULL?", "MEAS:FORC?", "N"), "torque": ("TORQUE?", "MEAS:TORQ?", "N·m"), "mass": ("MASS?", "MEAS:MASS?", "kg")}  # fmt: skip
"""Kind of reading → the line that asks for it, in plain words and in SCPI, and the base unit SCPI answers in."""


def ask_gauge(address: str, kind: str) -> str:
    """One reading as the gauge says it, with its unit. StoreError where the gauge can't be reached or says nothing in time; InputError for an
    address that is none."""
    if kind not in WORDS:
        raise InputError(f"“{kind}” is nothing a gauge is asked for: {', '.join(WORDS)}.")
    plain, scpi, unit = WORDS[kind]
    if address.startswith("visa:"):
        return f"{_visa(address[5:], scpi)} {unit}"
    return _line(address, plain)


def tell_gauge(address: str, line: str) -> str:
    """Says a line to a gauge, such as CRIMP to the simulated press, and gives what it answers."""
    return _line(address, line)


def _line(address: str, line: str) -> str:
    match = re.fullmatch(r"tcp:([A-Za-z0-9.\-:]+):(\d{1,5})", address)
    if match and int(match[2]) < 65536:
        try:
            with socket.create_connection((match[1], int(match[2])), WAIT_S) as gauge:
                gauge.settimeout(WAIT_S)
                gauge.sendall(line.encode() + b"\n")
                return _checked(_until_newline(lambda: gauge.recv(256)), address)
        except OSError as why:
            raise StoreError(f"The gauge at {address} doesn’t answer: {(why.strerror or str(why)).lower()}.") from why
    if address.startswith("/dev/"):
        return _serial(address, line)
    raise InputError(f"“{address[:60]}” is no gauge’s address: tcp:HOST:PORT, /dev/… or visa:RESOURCE.")


def _serial(path: str, line: str) -> str:
    try:
        handle = os.open(path, os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK | os.O_CLOEXEC)
    except OSError as why:
        raise StoreError(f"The gauge at {path} can’t be opened: {(why.strerror or 'a fault').lower()}.") from why
    try:
        with contextlib.suppress(OSError):
            tty.setraw(handle)
        os.write(handle, line.encode() + b"\n")

        def more() -> bytes:
            ready, _, _ = select.select([handle], [], [], WAIT_S)
            if not ready:
                raise TimeoutError("it says nothing")
            return os.read(handle, 256)

        return _checked(_until_newline(more), path)
    except OSError as why:
        raise StoreError(f"The gauge at {path} doesn’t answer: {(why.strerror or str(why)).lower()}.") from why
    finally:
        os.close(handle)


def _until_newline(more: Any) -> bytes:
    found = b""
    while not found.endswith(b"\n") and len(found) < MOST_LINE:
        part = more()
        if not part:
            break
        found += part
    return found


def _checked(data: bytes, address: str) -> str:
    text = data.decode("utf-8", "replace").strip()
    if not text or text.startswith("ERR"):
        raise StoreError(f"The gauge at {address} gave no reading.")
    return text


def _visa(resource: str, line: str) -> str:
    """One SCPI question through PyVISA and its pure Python back end."""
    import pyvisa  # here: nothing else needs it

    try:
        manager = pyvisa.ResourceManager("@py")
        try:
            gauge: Any = manager.open_resource(resource, read_termination="\n", write_termination="\n", timeout=int(WAIT_S * 1000))  # fmt: skip
            try:
                return str(gauge.query(line)).strip()
            finally:
                gauge.close()
        finally:
            manager.close()
    except (pyvisa.Error, OSError, ValueError) as why:
        raise StoreError(f"The gauge at visa:{resource} doesn’t answer: {str(why)[:120]}.") from why


class PressServer(LineServer):
    """The simulated press, listening on a port of this machine (0: any free one) until closed."""

    def __init__(self, press: Press, port: int = 0) -> None:
        super().__init__(press.answer, port, "press")


class PressTerminal:
    """The simulated press on a pseudo-terminal, as a serial gauge would be; `address` is its path."""

    def __init__(self, press: Press) -> None:
        self._master, slave = os.openpty()
        tty.setraw(slave)
        self.address = os.ttyname(slave)
        self._slave, self._press, self._open = slave, press, True
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    def _serve(self) -> None:
        held = b""
        while self._open:
            ready, _, _ = select.select([self._master], [], [], 0.05)
            if not ready:
                continue
            with contextlib.suppress(OSError):
                held += os.read(self._master, 256)
            while b"\n" in held:
                line, _, held = held.partition(b"\n")
                os.write(self._master, self._press.answer(line.decode("utf-8", "replace")).encode() + b"\n")

    def close(self) -> None:
        """Takes the terminal away."""
        self._open = False
        self._thread.join(2)
        os.close(self._master)
        os.close(self._slave)

    def __enter__(self) -> PressTerminal:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
