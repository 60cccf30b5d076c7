"""A build at the bench: what it was frozen with and its log; every act is on disk before the next step is shown.

The first station logs into the harness file. One that can't write there logs beside it, and its log is merged by
adding.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path
from typing import Any

from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import InputError, Wanted, always, clipped
from umber_trunk.core.kept_words import name_kept, said_kept
from umber_trunk.core.kit.coilcut import CutPlan, plan_cuts
from umber_trunk.core.kit.coils import USABLE_M, Piece, suits
from umber_trunk.core.make.bench import Bench, BenchError
from umber_trunk.core.make.events import Act, Begin, Defect, Event, Note, Pause, Read, Release, Scrap, Undo, Unknown
from umber_trunk.core.make.frozen import Frozen
from umber_trunk.core.make.measuring import DEFECTS, defect_told, read_figure, reading_data
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.make.to_cut import to_cut
from umber_trunk.core.results import Results
from umber_trunk.core.text import digest_of
from umber_trunk.store.clock import new_id, now_ms
from umber_trunk.store.lines_log import add_input, add_line, sign_lines, station_path
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.stock import Stock, keep_booked, shelf_file, taken_off

LONGEST_STEP_S = 1800.0
"""A step that took longer was a break, and says nothing of the work."""


class Build:
    """One build, open at a station, by what it was `frozen` with. `events` so far; `bench` is their fold. `drawing` are
    figures to draw its ends and faces from, None while nobody worked them out. Close it, which signs what was logged,
    or use it in a with statement."""

    def __init__(
        self,
        project: ProjectFile,
        begun: Event,
        events: Sequence[Event],
        frozen: Frozen,
        station: str = "",
        hand: str = "",
        shelf: Path | None = None,
        drawing: Results | None = None,
    ) -> None:
        assert isinstance(begun.act, Begin)
        self.project, self.begun, self.station, self.hand = project, begun.act, station, hand
        self.name = begun.build
        self.frozen, self.drawing = frozen, drawing
        self._logged = False
        """Whether anything stands in the log that isn't signed yet."""
        self._stack = ExitStack()
        self.bench = Bench(frozen.making, frozen.shelf, begun.build, events, frozen.design.project.practice.looks)
        self._shelf: Stock = self._stack.enter_context(shelf_file(shelf) if shelf else project.floor.shelf())
        self._parts = {
            step.key: step.operation.part
            for step in frozen.making.order.steps
            if step.operation.op == "crimp" and step.operation.part
        }
        if not self._shelf.why_read_only:
            keep_booked(self._shelf, events, self._parts)
        self._plan: CutPlan | None = None
        self._shown_at = time.monotonic()
        self._fresh = False
        """Whether the step now was shown by this station, so that its time means something."""

    @property
    def earlier(self) -> bool:
        """Whether it was begun by an earlier format, and planned once more since."""
        return not self.begun.order

    def figures(self) -> Results:
        """What its ends and faces are drawn from: the frozen design, with the parts it carries. Worked out once; it may
        take a while."""
        if self.drawing is None:
            self.drawing = analyse(self.frozen.design, self.frozen.shelf)
        return self.drawing

    @property
    def order_units(self) -> tuple[int, ...]:
        """Numbers of its units."""
        return self.bench.order.units

    def close(self) -> None:
        """Signs what this sitting logged, and gives the shelf up."""
        try:
            self.sign()
        finally:
            self._stack.close()

    def sign(self) -> None:
        """Signs what was logged since the last signature."""
        if self._logged:
            self._logged = False
            if self.station:
                sign_lines(station_path(self.project.path, self.station), self.project.id)
            else:
                self.project.floor.sign("sitting")

    def __enter__(self) -> Build:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    # the shelf

    def plan(self) -> CutPlan:
        """Which coil each piece that isn't cut yet comes from, by what is left on the shelf now; worked out here and
        now if nobody did."""
        if self._plan is None:
            self._plan = self.planning()(always)
        return self._plan

    def planning(self) -> Callable[[Wanted], CutPlan]:
        """The work of planning, to be done on another thread: what it needs is read already. Its answer goes to
        `take_plan`."""
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
        return to_cut(self.frozen.making, self.order_units, self.bench.done)

    def _lengths(self, wire: str) -> list[Piece]:
        """What one unit wants cut of a wire, or of a cable."""
        return [piece for piece in self.frozen.making.pieces if piece.wire == wire]

    def coil_for(self, step: Timed, wait: bool = True) -> str:
        """The coil to cut from at a step, "" where the shelf has none or it is no cut from a coil, or, unless one waits
        for it, while that isn't worked out yet."""
        one = step.operation
        if one.op != "cut" or one.length_m is None or (self._plan is None and not wait):
            return ""
        return next((c.coil for c in self.plan().cuts if c.piece.wire == one.wire and c.piece.unit == step.unit), "")

    # acts

    def advance(self, coil: str | None = None) -> Event:
        """The step now is done; a cut is booked off its coil."""
        step = self.bench.now
        if step is None:
            raise BenchError.of("make.everything-is-done")
        return self.attest((step,), coil)[0]

    def attest(self, steps: Sequence[Timed], coil: str | None = None) -> list[Event]:
        """These steps are done, in the order of doing: one act, an entry for each. Cuts are booked off their coils; of
        a `coil` said by hand as many as it still gives. What it took is shared among them as it was planned. BenchError
        where one of them can't be left, and then none is."""
        if coil is not None:
            steps = self._of_coil(steps, coil)
        long, at_ms = time.monotonic() - self._shown_at, now_ms()
        planned = sum(step.seconds for step in steps)
        told = self._fresh and long < max(LONGEST_STEP_S, 3.0 * planned)
        mark = {"handful": new_id()} if len(steps) > 1 else {}
        beside = {step.n for step in steps}
        events = []
        for step in steps:
            data: dict[str, Any] = {"hand": self.hand, "station": self.station, **mark}
            taken = self.coil_for(step) if coil is None else coil
            if taken and step.operation.op == "cut" and step.operation.length_m:
                data |= {"coil": taken, "coil_m": self._metres(step)}
            share = step.seconds / planned if planned > 0 else 1.0 / len(steps)
            events.append(self.bench.attested(new_id(), at_ms, step, long * share if told else None, beside, **data))
        self._log_all(events)
        return events

    def _metres(self, step: Timed) -> float:
        """What a cut takes off its coil."""
        one = step.operation
        return (one.length_m or 0.0) * (1 if one.sample else len(self._lengths(one.wire)) or 1)

    def _of_coil(self, steps: Sequence[Timed], coil: str) -> list[Timed]:
        """As many of these cuts as a coil chosen by hand still gives, one at least: BenchError where it doesn't, or is
        of another kind."""
        first = next((step for step in steps if step.operation.op == "cut"), steps[0])
        self._may_cut(first, coil, self._metres(first))
        left = next((held.left_m for held in self.coils_held() if held.coil.id == coil), 0.0) + 1e-6
        taken = []
        for step in steps:
            left -= self._metres(step) if step.operation.op == "cut" else 0.0
            if left < 0:
                break
            taken.append(step)
        return taken

    def _may_cut(self, step: Timed, name: str, metres: float) -> None:
        """BenchError for a coil chosen by hand that isn't of the wire's kind or hasn't its length; the plan is made
        anew without it."""
        held = next((one for one in self.coils_held() if one.coil.id == name), None)
        piece = next(iter(self._lengths(step.operation.wire)), None)
        if held is None or piece is None:
            raise BenchError.of("store.no-coil-on-shelf", name=name)
        if not suits(held.coil, piece):
            raise BenchError.of(
                "store.coil-is-other-wire",
                name=name,
                coil_size=held.coil.size,
                coil_metal=held.coil.metal,
                coil_colour=held.coil.colour,
                size=piece.size,
                metal=piece.metal,
                colour=piece.colour,
            )
        if held.left_m < metres - 1e-6:
            raise BenchError.of("store.too-little-left-on-coil", name=name, left_m=held.left_m, metres=metres)
        if name != self.coil_for(step):
            self._plan = None

    def back(self, piece: Sequence[Timed] = ()) -> list[Event]:
        """Takes the last act back, a whole handful where it was attested at once, or what was done to one piece; a cut
        goes back on its coil."""
        events = self.bench.back(new_id, now_ms(), piece)
        self._log_all(events)
        return events

    def another_sample(self) -> Event:
        """A sample is made and measured once more before the batch goes on."""
        step = self.bench.now
        if step is None:
            raise BenchError.of("make.everything-is-done")
        return self._log(self.bench.another_sample(new_id(), now_ms(), step))

    def read(self, kind: str, text: str, by: str = "", key: str = "", decimal: str = "") -> Read:
        """A reading at the step now, or at that of a key, judged by the part's limits. `decimal`: which mark parts
        decimals, where it isn't the project's: a gauge says a point."""
        step = self.bench.steps.get(key) if key else self.bench.now
        if step is None:
            raise BenchError.of("store.no-step-to-measure")
        value = read_figure(kind, text, decimal or self.frozen.design.project.decimal)
        act = Read.model_validate(reading_data(self.frozen.shelf, self.crimp_of(step), kind, value, by or self.hand))
        self._say(act, step)
        return act

    def crimp_of(self, step: Timed) -> Operation:
        """A measured sample is judged with the tool that crimped it."""
        one = step.operation
        if one.op == "measure" and one.sample and one.after:
            crimp = next((s.operation for s in self.bench.steps.values() if s.operation.key == one.after[-1]), None)
            if crimp is not None:
                return replace(one, tool=crimp.tool, setting=crimp.setting)
        return one

    def defect(self, code: str, note: str = "", at: Timed | None = None) -> Defect:
        """A fault seen at the step now, or at another piece of its handful."""
        step = at or self.bench.now
        if step is None or code not in DEFECTS:
            raise InputError.of("store.no-fault-known-here", code=code, known=", ".join(DEFECTS))
        told, comes_to = defect_told(code), DEFECTS[code]
        one = step.operation
        act = Defect(
            code=code,
            says=told,
            comes_to=comes_to,
            note=said_kept(note),
            wire=one.wire,
            side=one.side,
            tool=one.tool,
            setting=one.setting,
            part=one.part,
        )
        self._say(act, step)
        return act

    def release(self, who: str, why: str = "", at: Timed | None = None) -> Event:
        """Somebody lets a step go on without the reading it wants, or in spite of it."""
        step = at or self.bench.now
        if step is None:
            raise BenchError.of("store.no-step-to-release")
        if not who.strip():
            raise InputError.of("store.say-who-releases")
        return self._say(Release(who=name_kept(who), why=said_kept(why)), step)

    def remake(self, wire: str, side: str, unit: int, why: str = "") -> Event:
        """An end is started over."""
        if side not in ("start", "finish"):
            raise InputError.of("store.no-end-of-wire", side=clipped(side))
        return self._log(self.bench.remake(new_id(), now_ms(), wire, side, unit, said_kept(why)))

    def scrap(self, wire: str, unit: int, why: str = "") -> Event:
        """A wire is given up and made anew."""
        return self._log(self.bench.scrap(new_id(), now_ms(), wire, unit, said_kept(why)))

    def note(self, text: str) -> Event:
        """Words at the step now."""
        return self._say(Note(says=said_kept(text)), self.bench.now)

    def photograph(self, name: str, text: str, step: Timed | None) -> Event:
        """A photograph at a step: its file's name, and the text it is kept as, which goes into the file with it."""
        note = Note(says="photograph", photo=Path(name).name[:200], picture=digest_of(text))
        return self._say(note, step, (text,))

    def reset(self, tool: str, setting: str, why: str = "") -> Event:
        """A die or tool was set anew: what was measured before says nothing of it any more. Measure a sample before the
        batch goes on."""
        if not tool:
            raise InputError.of("store.say-which-tool-was-set-anew")
        return self._log(self.bench.set_anew(new_id(), now_ms(), tool, setting, said_kept(why)))

    def pause(self) -> Event:
        """The bench is left; its clock stops, and the sitting is signed."""
        said = self._say(Pause(), None)
        self.sign()
        return said

    def _say(self, act: Act, step: Timed | None, inputs: tuple[str, ...] = ()) -> Event:
        """An act at a step."""
        said = Event(new_id(), self.name, now_ms(), act, step.unit if step else 0, step.key if step else "")
        return self._log(said, inputs)

    def _log(self, event: Event, inputs: tuple[str, ...] = ()) -> Event:
        return self._log_all([event], inputs)[0]

    def _log_all(self, said: Sequence[Event], inputs: tuple[str, ...] = ()) -> list[Event]:
        """All of it on disk or nothing. Every act has the name that stands when it is done. `inputs`: texts they name
        by their digests."""
        events = []
        for one in said:
            assert not isinstance(one.act, Unknown)
            events.append(replace(one, act=one.act.model_copy(update={"hand": self.hand, "station": self.station})))
        self._logged = True
        if self.station:
            for text in inputs:
                add_input(station_path(self.project.path, self.station), text)
            add_line(station_path(self.project.path, self.station), *events)
        else:
            self.project.floor.append_with(events, inputs)
        for one in events:
            self.bench.add(one)
        if not self._shelf.why_read_only:
            if taken := taken_off(events, self._parts):
                self._shelf.book(taken)
            if back := [act.of for one in events if isinstance(act := one.act, Undo)]:
                self._shelf.unbook(back)
        if any(isinstance(one.act, Undo | Scrap) for one in events):
            self._plan = None
        self._fresh = not any(isinstance(one.act, Pause) for one in events)
        self._shown_at = time.monotonic()
        return events
