"""One unit as it was built: revision, serial, coils, tools, hands, readings, deviations, and who decided; a fold of the log."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from umber_trunk.core.make.events import Event

if TYPE_CHECKING:
    from umber_trunk.core.make.operations import Operation

SAID = ("deviation", "release", "note", "mended")
"""Kinds of entries in which somebody decides or remarks something."""
ANEW = ("remake", "scrap", "mended")
"""Kinds of entries after which a unit isn't what was tested any more: its proof begins anew."""
SIMULATED = "simulated"
"""Source of a reading that a simulated unit gave: it certifies nothing of a real one."""


@dataclass
class UnitRecord:
    """What the log says of one unit. `tests` are the readings of its proof, `proven` the last entry that passed it, None while none did;
    `found` are faults that were named on it, `mended` what was done about them."""

    build: str
    unit: int
    revision: int
    begun_ms: int
    serial: str = ""
    hands: set[str] = field(default_factory=set)
    tools: set[tuple[str, str]] = field(default_factory=set)
    coils: dict[str, set[str]] = field(default_factory=dict)
    done: dict[str, Event] = field(default_factory=dict)
    readings: list[Event] = field(default_factory=list)
    tests: list[Event] = field(default_factory=list)
    defects: list[Event] = field(default_factory=list)
    remakes: list[Event] = field(default_factory=list)
    scrapped: list[Event] = field(default_factory=list)
    said: list[Event] = field(default_factory=list)
    found: list[Event] = field(default_factory=list)
    words: set[str] = field(default_factory=set)
    """The words that what stands in the log finds it by."""
    proven: Event | None = None
    last_ms: int = 0
    moved_to: str = ""
    """The build in which it goes on, once it was brought to another revision."""

    @property
    def name(self) -> str:
        """How it is called: its serial, else build and number."""
        return self.serial or f"{self.build} / {self.unit}"

    @property
    def state(self) -> str:
        """In a word: proven (in simulation: certifying nothing), faulty, in the making, or upgraded: it goes on in another build."""
        if self.moved_to:
            return "upgraded"
        if self.proven is not None:
            return "proven in simulation" if self.simulated else "proven"
        return "faulty" if self.found else "in the making"

    @property
    def simulated(self) -> bool:
        """Whether any reading of its proof came from a simulated unit."""
        return any(one.data.get("source") == SIMULATED for one in self.tests)


_LISTS: Mapping[str, str] = {
    "read": "readings",
    "test": "tests",
    "defect": "defects",
    "remake": "remakes",
    "scrap": "scrapped",
    "found": "found",
}


def records(events: Iterable[Event]) -> list[UnitRecord]:
    """Every unit of every build, in the order they were begun. What is about all units of a build stands in each of them."""
    rows = list(events)
    undone = {str(one.data.get("of")) for one in rows if one.kind == "undo"}
    found: dict[tuple[str, int], UnitRecord] = {}
    builds: dict[str, list[UnitRecord]] = {}
    for one in rows:
        if one.id in undone:
            continue
        if one.kind == "begin" and one.build not in builds:
            made = [UnitRecord(one.build, int(n), int(one.data["revision"]), one.at_ms) for n in one.data["units"]]
            builds[one.build] = made
            found |= {(one.build, record.unit): record for record in made}
        mine = (
            [found[one.build, one.unit]]
            if (one.build, one.unit) in found
            else builds.get(one.build, [])
            if one.unit == 0
            else []
        )
        for record in mine:
            _take(record, one)
    return list(found.values())


def _take(record: UnitRecord, one: Event) -> None:
    data: Mapping[str, Any] = one.data
    record.last_ms = max(record.last_ms, one.at_ms)
    if one.kind in ANEW:
        record.proven = None
        record.found.clear()
        record.tests.clear()
    for key in ("hand", "by", "who"):
        if data.get(key):
            record.hands.add(str(data[key]))
    if one.kind == "done":
        record.done[one.step] = one
        if data.get("tool"):
            record.tools.add((str(data["tool"]), str(data.get("setting", ""))))
        if data.get("coil"):
            record.coils.setdefault(str(data["coil"]), set()).add(str(data.get("wire", "")))
    elif one.kind in _LISTS:
        getattr(record, _LISTS[one.kind]).append(one)
    elif one.kind in SAID:
        record.said.append(one)
    elif one.kind == "serial":
        record.serial = str(data["serial"])
    elif one.kind == "upgrade":
        record.moved_to = str(data.get("to", ""))
    elif one.kind == "proven":
        record.proven = one if data.get("ok") else None
    if one.kind == "found":
        record.proven = None
    if one.kind in ("remake", "scrap"):
        for key in data.get("voids", ()):
            record.done.pop(str(key), None)
    record.words.update(marks(one))


def made_wires(record: UnitRecord, operations: Iterable[Operation]) -> set[str]:
    """Wires of a unit with every step about them done."""
    about, open_ = set[str](), set[str]()
    for one in operations:
        if one.wire and not one.sample:
            about.add(one.wire)
            if f"{record.unit}|{one.key}" not in record.done and f"0|{one.key}" not in record.done:
                open_.add(one.wire)
    return about - open_


def open_steps(record: UnitRecord, operations: Iterable[Operation]) -> int:
    """How many steps of a unit aren't done, samples left out."""
    keys = [one.key for one in operations if not one.sample]
    return sum(f"{record.unit}|{key}" not in record.done and f"0|{key}" not in record.done for key in keys)


def marks(event: Event) -> list[str]:
    """The words a unit is found by from an entry: coil, tool, hand, serial, wire that was remade, fault."""
    data = event.data
    found = [
        f"{name} {data[key]}"
        for name, key in (
            ("coil", "coil"),
            ("tool", "tool"),
            ("hand", "hand"),
            ("hand", "by"),
            ("hand", "who"),
            ("serial", "serial"),
        )
        if data.get(key)
    ]
    if event.kind == "defect" and data.get("code"):
        found.append(f"fault {data['code']}")
    if event.kind in ("remake", "scrap") and data.get("wire"):
        found.append(f"{event.kind} {data['wire']}")
    if event.kind == "found":
        found.append(f"fault {data.get('what', '')}")
    if event.kind == "proven":
        found.append("proven" if data.get("ok") else "refused")
    if event.kind == "begin":
        found.append(f"revision {data.get('revision')}")
        found.append(f"build {event.build}")
    if event.kind == "deviation":
        found.append("deviation")
    return [" ".join(str(one).lower().split())[:120] for one in found]
