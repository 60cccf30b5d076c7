"""A simulated instrument on a port of this machine: lines in, lines out, one client's line at a time."""

from __future__ import annotations

import contextlib
import socketserver
import threading
from collections.abc import Callable

from umber_trunk.store.files import StoreError

MOST_LINE = 200_000


class LineServer:
    """Answers each line by `answer` until closed; None is no answer, a ConnectionError or ValueError of it hangs up. Port 0: any free one."""

    def __init__(self, answer: Callable[[str], str | None], port: int, what: str) -> None:
        lock = threading.Lock()

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                for raw in self.rfile:
                    try:
                        with lock:
                            said = answer(raw[:MOST_LINE].decode("utf-8", "replace"))
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
            raise StoreError(f"The simulated {what} can’t listen on port {port}: {told}.") from why
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
