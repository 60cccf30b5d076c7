"""A build at the bench: its frozen revision, its order, its log; every act is on disk before the next step is shown.

The first station logs into the harness file. One that can't write there logs beside it, and its log is merged by adding.
"""

from __future__ import annotations

import time
import uuid
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path
from typing import Any

from umber_trunk.core.analysis import analyse
from umber_trunk.core.buy.samples import sample_pieces
from umber_trunk.core.errors import InputError, Wanted, always
from umber_trunk.core.findings import Severity
from umber_trunk.core.kit.coilcut import CutPlan, plan_cuts
from umber_trunk.core.kit.coils import USABLE_M, Piece, suits
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.bench import Bench, BenchError
from umber_trunk.core.make.events import Event
from umber_trunk.core.make.measuring import DEFECTS, read_figure, reading_data
from umber_trunk.core.make.sequence import Timed, plan_order
from umber_trunk.core.results import Results
from umber_trunk.store.files import StoreError
from umber_trunk.store.floor import Floor, add_line, keep_booked, read_lines, shelf_file, station_path
from umber_trunk.store.project import ProjectFile

LONGEST_STEP_S = 1800.0
"""A step that took longer was a break, and says nothing of the work."""


class Build:
    """One build, open at a station. `events` so far; `bench` is their fold. Close it, or use it in a with statement."""

    def __init__(
        self, project: ProjectFile, begun: Event, events: Sequence[Event], results: Results, station: str = "", hand: str = "", shelf: Path | None = None,
        wanted: Wanted = always,
    ) -> None:  # fmt: skip
        self.project, self.begun, self.station, self.hand = project, begun, station, hand
        self.results = results
        self._stack = ExitStack()
        data = begun.data
        order = plan_order(
            results, [int(n) for n in data["units"]], str(data["school"]), int(data["hands"]), wanted=wanted
        )
        self.bench = Bench(results, order, begun.build, events)
        self._shelf: Floor = self._stack.enter_context(shelf_file(shelf) if shelf else project.floor.shelf())
        if not self._shelf.why_read_only:
            keep_booked(self._shelf, events)
        self._plan: CutPlan | None = None
        self._shown_at = time.monotonic()
        self._fresh = False
        """Whether the step now was shown by this station, so that its time means something."""

    @property
    def name(self) -> str:
        """The build's name."""
        return self.begun.build

    @property
    def order_units(self) -> tuple[int, ...]:
        """Numbers of its units."""
        return self.bench.order.units

    def close(self) -> None:
        """Gives the shelf up; the log needs no closing."""
        self._stack.close()

    def __enter__(self) -> Build:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    # the shelf

    def plan(self) -> CutPlan:
        """Which coil each piece that isn't cut yet comes from, by what is left on the shelf now; worked out here and now if nobody did."""
        if self._plan is None:
            self._plan = self.planning()(always)
        return self._plan

    def planning(self) -> Callable[[Wanted], CutPlan]:
        """The work of planning, to be done on another thread: what it needs is read already. Its answer goes to `take_plan`."""
        coils, todo = [held.now for held in self.coils_held()], self._todo()
        return lambda wanted: plan_cuts(coils, todo, USABLE_M, wanted)

    def take_plan(self, plan: CutPlan) -> None:
        """A plan that was worked out elsewhere."""
        self._plan = plan

    @property
    def planned(self) -> bool:
        """Whether it is known which coil each piece comes from."""
        return self._plan is not None

    def coils_held(self) -> list[Any]:
        """The coils on the shelf with what is left of them."""
        return self._shelf.coils()

    def _todo(self) -> list[Piece]:
        done = {(one.data.get("wire"), one.unit) for key, one in self.bench.done.items() if one.data.get("op") == "cut" and key.endswith(" cut")}  # fmt: skip
        units = max(self.order_units)
        tried = [str(one.data.get("wire")) for key, one in self.bench.done.items() if key.startswith("0|sample") and key.endswith(" cut")]  # fmt: skip
        samples = []
        for piece in sample_pieces(self.results):
            if piece.wire in tried:
                tried.remove(piece.wire)
            else:
                samples.append(piece)
        return samples + [piece for piece in pieces(self.results, units) if piece.unit in self.order_units and (piece.wire, piece.unit) not in done]  # fmt: skip

    def coil_for(self, step: Timed, wait: bool = True) -> str:
        """The coil to cut from at a step, "" where the shelf has none or it is no cut from a coil, or, unless one waits for it, while that
        isn't worked out yet."""
        one = step.operation
        if one.op != "cut" or one.length_m is None or (self._plan is None and not wait):
            return ""
        return next((c.coil for c in self.plan().cuts if c.piece.wire == one.wire and c.piece.unit == step.unit), "")

    # acts

    def advance(self, coil: str | None = None) -> Event:
        """The step now is done; a cut is booked off its coil."""
        step = self.bench.now
        if step is None:
            raise BenchError("Everything is done: nothing is left to step through.")
        data: dict[str, Any] = {"hand": self.hand, "station": self.station}
        taken = self.coil_for(step) if coil is None else coil
        if taken and step.operation.op == "cut" and step.operation.length_m:
            many = 1
            if not step.operation.sample:
                many = sum(1 for p in pieces(self.results, step.unit) if p.wire == step.operation.wire and p.unit == step.unit) or 1  # fmt: skip
            metres = step.operation.length_m * many
            if coil is not None:
                self._may_cut(step, coil, metres)
            data |= {"coil": taken, "coil_m": metres}
        long = time.monotonic() - self._shown_at
        return self._log(self.bench.advance(_id(), _now_ms(), long if self._fresh and long < LONGEST_STEP_S else None, **data))  # fmt: skip

    def _may_cut(self, step: Timed, name: str, metres: float) -> None:
        """BenchError for a coil chosen by hand that isn't of the wire's kind or hasn't its length; the plan is made anew without it."""
        held = next((one for one in self.coils_held() if one.coil.id == name), None)
        piece = next((p for p in pieces(self.results, 1) if p.wire == step.operation.wire), None)
        if held is None or piece is None:
            raise BenchError(f"There is no coil “{name}” on the shelf.")
        if not suits(held.coil, piece):
            raise BenchError(f"{name} is {held.coil.size} {held.coil.metal} {held.coil.colour}: this wire is {piece.size} {piece.metal} {piece.colour}.")  # fmt: skip
        if held.left_m < metres - 1e-6:
            raise BenchError(f"{name} has {held.left_m:.3f} m left, {metres:.3f} m are wanted in one.")
        if name != self.coil_for(step):
            self._plan = None

    def back(self) -> Event:
        """Takes the last act back; a cut goes back on its coil."""
        return self._log(self.bench.back(_id(), _now_ms()))

    def read(self, kind: str, text: str, by: str = "", key: str = "", decimal: str = "") -> Event:
        """A reading at the step now, or at that of a key, judged by the part's limits. `decimal`: which mark parts decimals, where it
        isn't the project's: a gauge says a point."""
        step = self.bench.steps.get(key) if key else self.bench.now
        if step is None:
            raise BenchError("There is no step to measure at.")
        value = read_figure(kind, text, decimal or self.results.design.project.decimal)
        data = reading_data(self.results.shelf, self._crimp_of(step), kind, value, by or self.hand)
        return self._log(Event(_id(), self.name, _now_ms(), "read", step.unit, step.key, data))

    def _crimp_of(self, step: Timed) -> Any:
        """A measured sample is judged with the tool that crimped it."""
        one = step.operation
        if one.op == "measure" and one.sample and one.after:
            crimp = next((s.operation for s in self.bench.steps.values() if s.operation.key == one.after[-1]), None)
            if crimp is not None:
                return replace(one, tool=crimp.tool, setting=crimp.setting)
        return one

    def defect(self, code: str, note: str = "", photo: str = "") -> Event:
        """A fault seen at the step now, with a photograph's path where there is one."""
        step = self.bench.now
        if step is None or code not in DEFECTS:
            raise InputError(f"“{code}” is no fault known here: {', '.join(DEFECTS)}.")
        told, comes_to = DEFECTS[code]
        return self._log(Event(_id(), self.name, _now_ms(), "defect", step.unit, step.key, {"code": code, "says": told, "comes_to": comes_to, "note": note[:400], "photo": photo[:400], "wire": step.operation.wire, "side": step.operation.side, "tool": step.operation.tool, "setting": step.operation.setting, "part": step.operation.part}))  # fmt: skip

    def release(self, who: str, why: str = "") -> Event:
        """Somebody lets a step go on without the reading it wants, or in spite of it."""
        step = self.bench.now
        if step is None:
            raise BenchError("There is no step to release.")
        if not who.strip():
            raise InputError("Say who releases it: the name stays in the log.")
        return self._log(Event(_id(), self.name, _now_ms(), "release", step.unit, step.key, {"who": who.strip()[:80], "why": why[:200]}))  # fmt: skip

    def remake(self, wire: str, side: str, unit: int, why: str = "") -> Event:
        """An end is started over."""
        if side not in ("start", "finish"):
            raise InputError(f"“{side[:40]}” is no end of a wire: start or finish.")
        return self._log(self.bench.remake(_id(), _now_ms(), wire, side, unit, why[:200]))

    def scrap(self, wire: str, unit: int, why: str = "") -> Event:
        """A wire is given up and made anew."""
        return self._log(self.bench.scrap(_id(), _now_ms(), wire, unit, why[:200]))

    def note(self, text: str, photo: str = "") -> Event:
        """Words at the step now, or a photograph linked to it by its path."""
        step = self.bench.now
        return self._log(Event(_id(), self.name, _now_ms(), "note", step.unit if step else 0, step.key if step else "", {"says": text[:1000], "photo": photo[:400], "hand": self.hand}))  # fmt: skip

    def reset(self, tool: str, setting: str, why: str = "") -> Event:
        """A die or tool was set anew: what was measured before says nothing of it any more. Measure a sample before the batch goes on."""
        if not tool:
            raise InputError("Say which tool was set anew.")
        return self._log(self.bench.set_anew(_id(), _now_ms(), tool, setting, why[:200]))

    def pause(self) -> Event:
        """The bench is left; its clock stops."""
        return self._log(Event(_id(), self.name, _now_ms(), "pause", 0, "", {"hand": self.hand}))

    def _log(self, event: Event) -> Event:
        """Every act has the name that stands when it is done."""
        event = replace(event, data={"hand": self.hand, "station": self.station, **event.data})
        if self.station:
            add_line(station_path(self.project.path, self.station), event)
        else:
            self.project.floor.append([event])
        self.bench.add(event)
        if not self._shelf.why_read_only:
            if event.kind == "done" and event.data.get("coil"):
                self._shelf.book([(event.id, str(event.data["coil"]), float(event.data["coil_m"]), event.at_ms, f"{event.data.get('wire', '')} unit {event.unit}")])  # fmt: skip
            elif event.kind == "undo":
                self._shelf.unbook([str(event.data["of"])])
        if event.kind in ("undo", "scrap"):
            self._plan = None
        self._fresh = event.kind != "pause"
        self._shown_at = time.monotonic()
        return event


def _id() -> str:
    return uuid.uuid4().hex


def _now_ms() -> int:
    return time.time_ns() // 1_000_000


def begin(
    project: ProjectFile, name: str, units: Sequence[int], school: str = "", hands: int = 1, station: str = "", hand: str = "", shelf: Path | None = None,
    wanted: Wanted = always, known: Results | None = None,
) -> Build:  # fmt: skip
    """A new build of the revision shown, which is frozen for it. StoreError for a name that is taken, InputError while a wire's size is
    open. Faults that are open stand in `faults` of its first event: what is built with them is the builder's decision."""
    if not name.strip() or len(name) > 80:
        raise StoreError("A build needs a name of at most 80 letters.")
    if any(one.build == name for one in _all_events(project, station)):
        raise StoreError(f"There is a build “{name}” already; go on with it, or take another name.")
    results = known if known is not None and known.design == project.design else analyse(project.design, wanted=wanted)
    faults = sum(one.severity is Severity.FAULT for one in results.findings)
    if not pieces(results, 1):
        raise InputError("There is nothing to make yet: no wire goes from one end to another.")
    order = plan_order(results, units, school, hands, wanted=wanted)
    data = {"units": list(order.units), "school": order.school, "hands": hands, "revision": project.head, "harness": project.id, "hand": hand, "faults": faults}  # fmt: skip
    event = Event(_id(), name, _now_ms(), "begin", 0, "", data)
    if station:
        add_line(station_path(project.path, station), event)
    else:
        project.floor.append([event])
        if not next((row.frozen for row in project.revisions() if row.seq == project.head), ""):
            project.freeze(project.head, f"build {name}")
    return Build(project, event, [event], results, station, hand, shelf, wanted)


def resume(
    project: ProjectFile, name: str = "", station: str = "", hand: str = "", shelf: Path | None = None, wanted: Wanted = always, known: Results | None = None,
) -> Build:  # fmt: skip
    """Goes on with a build, the newest where none is named, at the very step. `known` are results that will do if they are of its
    revision. StoreError where there is none."""
    events = _all_events(project, station)
    begun = [one for one in events if one.kind == "begin" and name in ("", one.build)]
    if not begun:
        raise StoreError(f"There is no build “{name}”." if name else "Nothing is being built yet.")
    last = begun[-1]
    design = project.design_at(int(last.data["revision"]))
    results = known if known is not None and known.design == design else analyse(design, wanted=wanted)
    mine = [one for one in events if one.build == last.build]
    return Build(project, last, mine, results, station, hand, shelf, wanted)


def _all_events(project: ProjectFile, station: str) -> list[Event]:
    events = project.floor.events()
    path = station_path(project.path, station) if station else None
    if path is not None and path.exists():
        known = {one.id for one in events}
        events += [one for one in read_lines(path)[0] if one.id not in known]
    return events


def merge(project: ProjectFile, path: Path) -> int:
    """Adds another station's log to the harness file's; nothing is overwritten. How many entries were new. StoreError with every
    fault, and nothing is added, where a line of it is no entry."""
    events, faults = read_lines(path)
    if faults:
        raise StoreError(f"{path.name}: {'; '.join(faults[:20])}. Nothing was merged.")
    foreign = [one for one in events if one.kind == "begin" and one.data.get("harness") != project.id]
    if foreign:
        raise StoreError(f"{path.name} is the log of another harness: nothing was merged.")
    added = project.floor.append(events)
    with project.floor.shelf() as shelf:
        keep_booked(shelf, project.floor.events())
    return added
