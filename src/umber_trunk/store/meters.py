"""Meters over SCPI, on a socket or through PyVISA, and the simulated unit under test that ships: a small server with
the same protocol.

The simulated one has a switch box: `ROUT:CLOS:A` and `:B` name the places on each lead, END:CAVITY or `earth`,
separated by commas; `ROUT:LIFT` a wire that is off. `MEAS:RES?` (two wires), `MEAS:FRES?` (four) and `MEAS:INS?` answer
in ohms; 9.9E37 is beyond the range, as SCPI has it.
"""

from __future__ import annotations

import math
import re
import time
from typing import Any
from urllib.parse import quote, unquote

from umber_trunk.core.errors import clipped
from umber_trunk.core.prove.meter import MOST_AMPS
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.prove.state import SHAKES
from umber_trunk.store.device import WAIT_S, Device, UnpluggedError
from umber_trunk.store.files import StoreError
from umber_trunk.store.lines import LineServer, LineTerminal

OVER = 9.9e37
ASKS = {"two": "MEAS:RES?", "four": "MEAS:FRES?", "insulation": "MEAS:INS?", "millivolt": "MEAS:VOLT:DC?"}
BENT = {"shake": "four", "shake-two": "two"}
"""Kinds of readings that are the highest of many → the kind of each."""
_NUMBER = re.compile(r"\s*([+-]?\d+(?:\.\d*)?(?:[eE][+-]?\d+)?)\s*([A-Za-zΩ]*)\s*")
_OHMS = {
    "": 1.0,
    "ohm": 1.0,
    "ohms": 1.0,
    "Ω": 1.0,
    "kohm": 1e3,
    "mohm": None,
    "Mohm": 1e6,
    "MOHM": 1e6,
    "KOHM": 1e3,
    "OHM": 1.0,
    "OHMS": 1.0,
}


def parse_answer(text: str, address: str) -> float:
    """Ohms from what a meter answered, infinite beyond its range. StoreError where that is no resistance, or not a
    whole one."""
    plain = text.strip()
    match = _NUMBER.fullmatch(plain)
    if match is None:
        raise StoreError.of("store.meter-gave-no-reading", address=address, plain=clipped(plain))
    factor = _OHMS.get(match[2], 0.0)
    if factor is None:
        raise StoreError.of("store.meter-in-milliohms-or-megohms", address=address, match=match[2])
    if factor == 0.0:
        raise StoreError.of("store.meter-not-in-ohms", address=address, match=match[2])
    value = float(match[1]) * factor
    if value >= 0.99 * OVER:
        return math.inf
    if not -1.0 < value < 1e15:
        raise StoreError.of("store.meter-no-resistance", address=address, plain=clipped(plain))
    return max(value, 0.0)


def parse_volts(text: str, address: str) -> float:
    """Volts from what a meter answered. StoreError where that is no voltage a lead can have while some amperes flow."""
    match = _NUMBER.fullmatch(text.strip())
    scale = {"": 1.0, "V": 1.0, "VDC": 1.0, "mV": 1e-3}.get(match[2], 0.0) if match is not None else 0.0
    if match is None or not scale or not abs(value := float(match[1]) * scale) < 10:
        raise StoreError.of("store.meter-no-voltage", address=address, text=clipped(text))
    return abs(value)


class MeterLink:
    """An open meter at a device's address. `box`: it has a switch box that places the leads itself; without one the
    builder does, and only the reading is asked for. Every fault of the line is a StoreError; what was read before
    stays."""

    def __init__(self, address: str, wait_s: float = WAIT_S) -> None:
        self.address, self._wait_s = address, wait_s
        self._dial()

    def _dial(self) -> None:
        self._line = Device(self.address, "meter", self._wait_s)
        try:
            self.name = self.ask("*IDN?")
            self.box = self.name.startswith("Umber Trunk,simulated unit")
        except BaseException:
            self.close()
            raise

    def dial_again(self) -> None:
        """Opens the line anew after it was lost. StoreError where nothing answers, or another meter than before: what
        it reads may mean something else."""
        self.close()
        before = self.name
        self._dial()
        if self.name != before:
            now, self.name = self.name, before
            self.close()
            raise StoreError.of(
                "store.another-meter-answers", address=self.address, now=clipped(now), before=clipped(before)
            )

    def ask(self, line: str) -> str:
        """One question and its answer."""
        return self._line.ask(line)

    def tell(self, line: str) -> None:
        """Says a line that has no answer."""
        self._line.tell(line)

    def measure(self, probe: Probe) -> float:
        """A reading in ohms, infinite for nothing. A line that broke is opened anew, once, and the whole reading taken
        again. StoreError for every fault of meter or line."""
        if self._line.closed:
            self.dial_again()
        try:
            return self._measured(probe)
        except UnpluggedError:
            self.dial_again()
            return self._measured(probe)

    def _measured(self, probe: Probe) -> float:
        if self.box:
            self.tell(f"ROUT:CLOS:A {','.join(map(written, probe.a))}")
            self.tell(f"ROUT:CLOS:B {','.join(map(written, probe.b))}")
            self.tell(f"ROUT:LIFT {quote(probe.lift)}")
            if probe.part:
                self.tell(f"ROUT:PART {quote(probe.wire)} {quote(probe.part)}")
                self.tell(
                    f"SOUR:CURR {probe.amps:g}"
                )  # the simulated supply alone: a real one is switched by whoever stands at it
        if probe.part:
            ohm = parse_volts(self.ask(ASKS[probe.kind]), self.address) / probe.amps
        elif probe.kind in BENT:
            ohm = max(parse_answer(self.ask(ASKS[BENT[probe.kind]]), self.address) for _ in range(SHAKES))
        else:
            ohm = parse_answer(self.ask(ASKS[probe.kind]), self.address)
        if self.box and (fault := self.ask("SYST:ERR?")) and not fault.startswith("0"):
            raise StoreError.of("store.meter-says", address=self.address, fault=clipped(fault))
        return ohm

    def close(self) -> None:
        """Gives the line up; closing twice does no harm."""
        self._line.close()

    def __enter__(self) -> MeterLink:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()


def written(point: Point) -> str:
    """A place as it goes over the line; names may hold anything."""
    return "earth" if point == EARTH else f"{quote(point[0], safe='')}:{quote(point[1], safe='')}"


def read_place(text: str) -> Point:
    """A place from the line; ValueError for what is none."""
    if text == "earth":
        return EARTH
    end, mark, cavity = text.partition(":")
    if not mark:
        raise ValueError(text)
    return unquote(end), unquote(cavity)


class Bench:
    """The simulated instrument: a unit under test behind a meter and a switch box, answering SCPI lines. `trouble`
    makes it misbehave after so many readings: "silent", "garbled", "volts", "hang up"."""

    def __init__(self, unit: Unit, trouble: str = "", after: int = 0) -> None:
        self.unit, self.trouble, self.after = unit, trouble, after
        self.a: tuple[Point, ...] = ()
        self.b: tuple[Point, ...] = ()
        self.lift = ""
        self.wire = self.part = ""
        self.amps = 0.0
        self.range_ohm = math.inf
        self.errors: list[str] = []

    def answer(self, line: str) -> str | None:
        """What it answers, None for a line without an answer. ConnectionError when it is unplugged."""
        word, _, rest = line.strip().partition(" ")
        word = word.upper()
        if word == "*IDN?":
            return "Umber Trunk,simulated unit under test,0,1"
        if word in ("*RST", "*CLS"):
            self.errors, self.range_ohm = [], math.inf
            return None
        if word == "SYST:ERR?":
            return self.errors.pop(0) if self.errors else '0,"No error"'
        if word in ("ROUT:CLOS:A", "ROUT:CLOS:B"):
            self._route(word[-1], rest)
            return None
        if word == "ROUT:LIFT":
            self.lift = unquote(rest.strip())
            return None
        if word == "ROUT:PART":
            wire, _, part = rest.strip().partition(" ")
            self.wire, self.part = unquote(wire), unquote(part)
            return None
        if word == "SOUR:CURR":
            self.amps = float(rest) if re.fullmatch(r"\d{1,4}(\.\d{1,6})?", rest.strip()) else 0.0
            return None
        if word == "SENS:RES:RANG":
            self.range_ohm = float(rest) if rest.strip().upper() != "AUTO" else math.inf
            return None
        kind = next((kind for kind, ask in ASKS.items() if ask == word), None)
        if kind is None:
            self.errors.append('-113,"Undefined header"')
            return None if not word.endswith("?") else "9.91E37"
        return self._reading(kind)

    def _route(self, lead: str, text: str) -> None:
        try:
            places = tuple(read_place(one.strip()) for one in text.split(",") if one.strip())
            if any(place != EARTH and place not in self.unit.net.node_of for place in places):
                raise ValueError(text)
        except ValueError:
            self.errors.append(f'-224,"No such place: {clipped(text)}"')
            return
        setattr(self, lead.lower(), places)

    def _reading(self, kind: str) -> str:
        if self.trouble and self.unit.readings >= self.after:
            if self.trouble == "hang up":
                raise ConnectionError
            if self.trouble == "silent":
                time.sleep(30)
            return {"garbled": "1.2#4E-0", "volts": "1.234E-02 VDC"}.get(self.trouble, "ERR")
        if not self.a or not self.b or (self.lift and self.lift not in self.unit.net.edge_of):
            self.errors.append('-221,"No leads placed"')
            return "9.91E37"
        if kind == "millivolt":
            return self._volts()
        ohm = self.unit.measure(Probe(kind, self.a, self.b, self.lift))
        if math.isinf(ohm) or ohm > self.range_ohm:
            return f"{OVER:.1E}"
        return f"{ohm:.6E}"

    def _volts(self) -> str:
        net = self.unit.net
        if self.wire not in net.facts or self.part not in net.parts(self.wire) or not 0 < self.amps <= MOST_AMPS:
            self.errors.append('-221,"No part of a wire chosen, or no current"')
            return "9.91E37"
        ohm = self.unit.measure(Probe("millivolt", self.a, self.b, wire=self.wire, part=self.part, amps=self.amps))
        return "0.0" if math.isinf(ohm) else f"{ohm * self.amps:.6E}"


class MeterTerminal(LineTerminal):
    """The simulated instrument on a pseudo-terminal, as a meter on a serial line."""

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench.answer)


class MeterServer(LineServer):
    """The simulated instrument on a port of this machine (0: any free one) until closed."""

    def __init__(self, bench: Bench, port: int = 0) -> None:
        super().__init__(bench.answer, port, "meter")


def simulated(net: Netlist, faults: list[Any], seed: int = 1, noise: float = 1.0) -> Bench:
    """The simulated instrument with a unit that has these faults."""
    return Bench(Unit(net, faults, seed, noise=noise))
