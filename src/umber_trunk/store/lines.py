"""A simulated instrument on a port of this machine or on a pseudo-terminal: lines in, lines out, one client's line at a
time."""

from __future__ import annotations

import contextlib
import os
import select
import socketserver
import threading
import tty
from collections.abc import Callable
from typing import Self

from umber_trunk.store.files import StoreError

MOST_LINE = 200_000


class LineServer:
    """Answers each line by `answer` until closed; None is no answer, a ConnectionError or ValueError of it hangs up.
    Port 0: any free one."""

    def __init__(self, answer: Callable[[str], str | None], port: int, what: str) -> None:
        lock = threading.Lock()

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                while (raw := self.rfile.readline(MOST_LINE)).endswith(b"\n"):  # a line without an end is hung up on
                    try:
                        with lock:
                            said = answer(raw.decode("utf-8", "replace"))
                    except (ConnectionError, ValueError):
                        return
                    if said is not None:
                        with contextlib.suppress(OSError):
                            self.wfile.write(said.encode() + b"\n")

        socketserver.ThreadingTCPServer.allow_reuse_address = True
        try:
            self._server = socketserver.ThreadingTCPServer(("127.0.0.1", port), Handler)
        except (OSError, OverflowError) as why:
            told = getattr(why, "strerror", "") or "no such port"
            raise StoreError.of("store.simulated-cant-listen-on-port", what=what, port=port, told=told) from why
        self._server.daemon_threads = True
        self.port = int(self._server.server_address[1])
        self._thread = threading.Thread(target=self._server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True)
        self._thread.start()

    @property
    def address(self) -> str:
        """How it is reached."""
        return f"tcp:127.0.0.1:{self.port}"

    def close(self) -> None:
        """Stops listening."""
        self._server.shutdown()
        self._server.server_close()
        self._thread.join(2)

    def __enter__(self) -> LineServer:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()


class LineTerminal:
    """The same on a pseudo-terminal, as on a serial line; `address` is its path."""

    def __init__(self, answer: Callable[[str], str | None]) -> None:
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        self.address = os.ttyname(self._slave)
        self._answer, self._open = answer, True
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    def _serve(self) -> None:
        held = b""
        while self._open:
            ready, _, _ = select.select([self._master], [], [], 0.05)
            if not ready:
                continue
            with contextlib.suppress(OSError):
                held += os.read(self._master, 4096)
            while b"\n" in held:
                line, _, held = held.partition(b"\n")
                try:
                    said = self._answer(line.decode("utf-8", "replace"))
                except (ConnectionError, ValueError):
                    self._open = False  # unplugged
                    return
                if said is not None:
                    with contextlib.suppress(OSError):
                        os.write(self._master, said.encode() + b"\n")
            held = held if len(held) < MOST_LINE else b""

    def close(self) -> None:
        """Takes the terminal away."""
        self._open = False
        self._thread.join(2)
        os.close(self._master)
        os.close(self._slave)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
