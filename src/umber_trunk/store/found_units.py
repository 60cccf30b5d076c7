"""Units in a harness file, found by words or by name. What a unit was frozen with is loaded only where one is found."""

from __future__ import annotations

from typing import TYPE_CHECKING

from umber_trunk.core.errors import clipped
from umber_trunk.core.keep.record import records
from umber_trunk.core.units import counted
from umber_trunk.store.files import StoreError
from umber_trunk.store.inputs import inputs_of

if TYPE_CHECKING:
    from umber_trunk.core.keep.unit_record import UnitRecord
    from umber_trunk.store.project import ProjectFile


def records_of(project: ProjectFile, words: str = "", begins: bool = False) -> list[UnitRecord]:
    """Every unit, or those that all words lead to: “coil C12 hand Mara” are two questions, both must hold. `begins`:
    words that begin so do."""
    floor, questions = project.floor, _questions(words)
    wanted: set[tuple[str, int]] | None = None
    for part in questions:
        hits = set(floor.units(part, begins))
        wanted = hits if wanted is None else {one for one in wanted | hits if _in(one, wanted) and _in(one, hits)}
    if wanted is None:
        return records(floor.events(), inputs_of(floor))
    by_build: dict[str, set[int]] = {}
    for build, unit in wanted:
        by_build.setdefault(build, set()).add(unit)
    rows = {event.id: event for build in sorted(by_build) for event in floor.events_of(build, by_build[build])}
    events, inputs = sorted(rows.values(), key=lambda one: one.n), inputs_of(floor)
    found = [
        one for one in records(events, inputs, wanted) if (one.build, one.unit) in wanted or (one.build, 0) in wanted
    ]
    return [one for one in found if all(_holds(one, part, begins) for part in questions)]


def _holds(record: UnitRecord, question: str, begins: bool) -> bool:
    """Whether a question holds by what stands: what was undone, or a proof that a repair took back, doesn't count."""
    said = " ".join(question.lower().split())
    if "proven".startswith(said) if begins else said == "proven":
        return record.proven is not None
    return any(word.startswith(said) if begins else word == said for word in record.words)


def _in(one: tuple[str, int], those: set[tuple[str, int]]) -> bool:
    return one in those or (one[0], 0) in those


ASKED = ("coil", "tool", "hand", "serial", "fault", "remake", "scrap", "revision", "build", "proven", "refused", "deviation")  # fmt: skip


def _questions(words: str) -> list[str]:
    """Words split where a new question begins."""
    found: list[list[str]] = []
    for word in words.split():
        if word.lower() in ASKED or not found:
            found.append([])
        found[-1].append(word)
    return [" ".join(part) for part in found]


def kept_unit(project: ProjectFile, name: str) -> UnitRecord:
    """A unit by BUILD/UNIT or by its serial. StoreError where there is none."""
    build, mark, number = name.rpartition("/")
    unit = counted(number, 10**9) if mark else None
    if unit is not None:
        found = _units(project, build.strip(), unit)
    else:
        hits = project.floor.units(f"serial {name}")
        found = [
            one for build, unit in hits for one in _units(project, build, unit) if one.serial.lower() == name.lower()
        ]
    if not found:
        raise StoreError.of("store.no-unit-name-it-as-build", name=clipped(name))
    last = found[-1]
    while last.moved_to:  # where it goes on
        last = next(one for one in _units(project, last.moved_to, last.unit))
    return last


def _units(project: ProjectFile, build: str, unit: int) -> list[UnitRecord]:
    """The unit of a build, with what is about the whole build in it; none where the build has none of that number."""
    return records(project.floor.events_of(build, [unit]), inputs_of(project.floor), [(build, unit)])
