"""Instruments that drip, babble, hang up, lie or aren't there: one limit for a reading, a sentence, nothing half
logged."""

from __future__ import annotations

import contextlib
import itertools
import os
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from umber_trunk.cli.main import main
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import generic
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import InputError
from umber_trunk.core.make.press import Press
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.store.device import Device, parse_address
from umber_trunk.store.files import StoreError
from umber_trunk.store.gauges import PressServer, PressTerminal, ask_gauge
from umber_trunk.store.lines import MOST_LINE, LineTerminal
from umber_trunk.store.meters import Bench, MeterLink, MeterServer, MeterTerminal, simulated


@contextmanager
def speaking(say: Callable[[socket.socket], None]) -> Iterator[str]:
    """A server of no one's making: what it says goes out byte by byte as it likes."""
    with socket.create_server(("127.0.0.1", 0)) as server:

        def serve() -> None:
            with contextlib.suppress(OSError):  # closed
                while True:
                    line, _ = server.accept()
                    with line, contextlib.suppress(OSError):
                        line.recv(100)
                        say(line)

        threading.Thread(target=serve, daemon=True).start()
        yield f"tcp:127.0.0.1:{server.getsockname()[1]}"


def drip(line: socket.socket) -> None:
    for _ in range(200):
        line.sendall(b"1")
        time.sleep(0.05)


def babble(line: socket.socket) -> None:
    for _ in range(2000):
        line.sendall(b"9" * 4096)


BAD: dict[Callable[[socket.socket], None], str] = {
    drip: "nothing whole in time",
    babble: "more than an answer can be",
    lambda line: line.close(): "switched off or unplugged",
    lambda line: line.sendall(b"1.5 mm\n1.6 mm\n"): "out of step",
} | {
    (lambda line, said=said: line.sendall(said + b"\n")): "no reading of a height"
    for said in (
        b"nan mm",
        b"inf mm",
        b"-inf mm",
        b"-1.5 mm",
        b"0 mm",
        b"1e9 mm",
        b"1e308 mm",
        b"1.5 V",
        b"1,5,5 mm",
        b"",
        b"\xff\xfe\x00",
        b"ERR 7",
        b"1.5 mm 1.6 mm",
        b"<b>1.5 mm</b>",
        b"9" * 400,
    )
}


def test_one_limit_holds_for_a_whole_reading_and_what_is_none_is_refused(
    tmp_path: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    for say, told in BAD.items():
        with speaking(say) as address, pytest.raises(StoreError, match=told):  # not waiting till the last drop
            ask_gauge(f"{address}?wait=0.5", "height")
    with speaking(lambda line: line.sendall(b"nan mm\n")) as address:
        assert main(["gauge", address, "height"]) == 2
        assert "no reading" in capfd.readouterr().err


def test_what_is_no_device_is_said_without_waiting_for_it(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("1.5 mm\n")
    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "folder").mkdir()
    (tmp_path / "link").symlink_to("/dev/null")
    links = {name: f"/dev/shm/umber-{os.getpid()}-{name}" for name in ("file", "pipe", "folder", "link")}
    try:
        for name, link in links.items():
            os.symlink(tmp_path / name, link)
        for address in (*links.values(), "/dev/null", "/dev/zero", "/dev/full", "/dev/nothing-there", "/dev/shm"):
            with pytest.raises(StoreError, match=r"No (gauge|meter) answers|no device") as told:
                ask_gauge(address, "height")
            with pytest.raises(StoreError, match="No meter answers") as also:
                MeterLink(address)
            assert "in time" not in f"{told.value}{also.value}"
    finally:
        for link in links.values():
            os.unlink(link)
    for wrong in (
        "com1",
        "tcp:host",
        "tcp:h:0",
        "tcp:h:99999",
        "/dev/a b",
        "/dev/tty?baud=9601",
        "tcp:h:1?baud=9600",
        "/dev/tty?wait=0",
        "/dev/tty?wait=nan",
        "/dev/tty?wait=1e3",
        "/dev/tty?x=1",
        "/etc/passwd",
    ):
        with pytest.raises(InputError):
            parse_address(wrong)
    assert parse_address("/dev/ttyUSB0?baud=115200&wait=8").baud == 115200


def test_gauge_and_meter_read_alike_over_a_serial_line_and_tcp() -> None:
    """The simulated ones on a pseudo-terminal; unplugged in the middle, it is said and nothing is half read."""
    with PressTerminal(Press(seed=3)) as line, PressServer(Press(seed=3)) as port:
        assert ask_gauge(f"{line.address}?baud=9600", "height") == ask_gauge(port.address, "height")
    net = Netlist(analyse(demo("shore"), generic()))
    places = sorted(net.node_of)[:7]
    probes = [Probe("two", (a,), (b,)) for a, b in itertools.pairwise(places)]
    with (
        MeterTerminal(simulated(net, [], 4)) as line,
        MeterServer(simulated(net, [], 4)) as port,
        MeterLink(line.address) as a,
        MeterLink(port.address) as b,
    ):
        assert a.box
        assert [a.measure(probe) for probe in probes] == [b.measure(probe) for probe in probes]
    with (
        MeterTerminal(Bench(Unit(net, seed=3), "hang up", after=2)) as line,
        MeterLink(line.address, wait_s=0.5) as link,
    ):
        taken = []
        with pytest.raises(StoreError, match="was lost"):
            taken += [link.measure(probe) for probe in probes]
        assert taken == []
        with pytest.raises(StoreError, match=r"was lost|No meter answers"):
            link.measure(probes[0])


def test_a_line_that_broke_once_is_opened_anew_and_the_reading_taken_whole() -> None:
    """Unplugged for a moment in the middle of a reading: the same meter reads on, another one at its address is not
    taken for it."""
    net = Netlist(analyse(demo("shore"), generic()))
    places = sorted(net.node_of)[:5]
    probes = [Probe("two", (a,), (b,)) for a, b in itertools.pairwise(places)]

    class Loose(Bench):
        """Loses its line at every seventh thing said; has a name that can change."""

        name, said = "a", 0

        def answer(self, line: str) -> str | None:
            self.said += 1
            if self.said % 7 == 0:
                raise ConnectionError
            return f"Umber Trunk,simulated unit {self.name},0,1" if line.startswith("*IDN?") else super().answer(line)

    loose = Loose(Unit(net, seed=4, noise=0.0))
    with MeterServer(loose) as port, MeterLink(port.address) as link:
        sound = Unit(net, seed=4, noise=0.0)
        assert [link.measure(one) for one in probes] == pytest.approx([sound.measure(one) for one in probes], rel=1e-5)
        assert loose.said > 21
        loose.name = "b"
        with pytest.raises(StoreError, match="Another meter answers"):
            next(ohm for ohm in map(link.measure, probes * 3) if ohm < 0)


def test_simulated_servers_bound_what_they_read() -> None:
    with PressServer(Press(seed=1)) as served, socket.create_connection(("127.0.0.1", served.port), 5) as line:
        line.settimeout(5)
        sent = 0
        with contextlib.suppress(OSError):  # hung up on, long before all of it is sent
            while sent < 400 * 65536:
                line.sendall(b"x" * 65536)
                sent += 65536
                time.sleep(0.001)
        assert sent < 100 * MOST_LINE
        assert ask_gauge(served.address, "height").endswith("mm")
    with LineTerminal(lambda text: text.strip()[:20]) as line, Device(line.address) as device:
        assert device.ask("y" * 3000) == "y" * 20
