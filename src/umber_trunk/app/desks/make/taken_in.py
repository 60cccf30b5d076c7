"""What comes in at the bench: typed, scanned, or asked of a gauge."""

from __future__ import annotations

from umber_trunk.app.background import Background
from umber_trunk.app.desks.make.at_bench import AtBench
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.make.measuring import kind_said, kind_told, wanted_readings
from umber_trunk.core.make.timed import Timed
from umber_trunk.store.build import Build
from umber_trunk.store.found_units import kept_unit
from umber_trunk.store.gauges import ask_gauge


class TakenIn(AtBench):
    """Coils, labels, serials and readings."""

    gauge: Line
    reader: Background

    def enter(self, text: str) -> None:
        """What was typed or scanned: a coil, the label of the wire, a reading."""
        build = self.build
        step = build.bench.now if build is not None else None
        if build is None or step is None:
            return
        wires = {wire.lower() for wire in build.frozen.making.wires}
        coils = {held.coil.id.lower(): held.coil.id for held in build.coils_held()}
        here = self.here() or step
        if text.lower() in coils and step.operation.op in ("cut", "measure") and here.operation.length_m is not None:
            steps, coil = self.in_hand(build) or (here,), coils[text.lower()]
            if any(one.operation.op == "cut" for one in steps):
                self.act(lambda: build.attest(steps, coil), tr("from {coil}", coil=coil))
            else:
                self.say_wrong(tr("Set the stop first: then scan the coil."))
        elif text.lower() in wires:
            self._scanned(build, step, text)
        elif wanted_readings(build.frozen.shelf, here.operation) or not self._is_unit(text):
            self.act(lambda: self._read(build, here, text))

    def _scanned(self, build: Build, step: Timed, text: str) -> None:
        """The label of a wire: its open piece in this handful is done."""
        handful = build.bench.handful
        pieces = handful.pieces if handful is not None else ()
        mine = [n for n, piece in enumerate(pieces) if piece[-1].operation.wire.lower() == text.lower()]
        left = next((n for n in mine if any(one.key not in build.bench.done for one in pieces[n])), None)
        if left is None:
            many = (
                tr("no piece here is left to do of it")
                if mine
                else tr("this step wants {wire}", wire=step.operation.wire or tr("no single wire"))
            )
            self.say_wrong(tr("That is {text}; {many}.", text=text, many=many))
            return
        self.chosen = left
        steps = self.in_hand(build)
        self.chosen = -1
        self.act(lambda: build.attest(steps))

    def _is_unit(self, text: str) -> bool:
        """Whether a text is a unit's serial: its page is opened."""
        try:
            found = kept_unit(self.document.project, text)
        except UmberError:
            return False
        self.wants_part.emit("units", f"{found.build}/{found.unit}")
        return True

    def _read(self, build: Build, step: Timed, text: str, gauge: str = "") -> None:
        """A reading, its kind said in front ("pull 180") or the first one wanted here."""
        asked = wanted_readings(build.frozen.shelf, step.operation)
        kind, figure = kind_said(text, asked, {read.what for read in build.bench.fresh(step.key)})
        read = build.read(
            kind, figure, gauge, step.key if step.key in build.bench.steps else "", decimal="point" if gauge else ""
        )
        if read.verdict in ("rework", "scrap"):
            left = (
                build.bench.left(step.operation.wire, step.operation.side, step.unit) if step.operation.side else None
            )
            do = (
                tr("check the die, measure again")
                if step.operation.sample
                else tr("start this end over, {times} remakes left", times=left.times if left else 0)
                if left and left.times
                else tr("scrap this wire")
            )
            raise UmberError.of(
                "window.out-of-its-limits", kind=kind_told(kind), read=read.value, unit=read.unit, do=do
            )

    def read_gauge(self) -> None:
        """Asks the gauge for the first reading wanted here, off the window's thread."""
        step = self.here()
        address = self.gauge.text().strip()
        if step is None or self.build is None or not address:
            self.say_wrong(tr("Say the gauge’s address first, and be at a step that is measured."))
            return
        asked = wanted_readings(self.build.frozen.shelf, step.operation)
        known = {read.what for read in self.build.bench.fresh(step.key)}
        kind = next((one for one in asked if one not in known), asked[0] if asked else "mass")

        def work(_: Wanted) -> tuple[str, str, str]:
            try:
                return step.key, kind, ask_gauge(address, kind)
            except UmberError as why:
                return step.key, "", str(why)

        self.reader.ask(work)

    def _heard(self, answer: tuple[str, str, str]) -> None:
        key, kind, text = answer
        build = self.build
        step = self.here()
        if not kind:
            self.say_wrong(text)
        elif build is not None and step is not None and step.key == key:
            self.act(lambda: self._read(build, step, f"{kind} {text}", "gauge"), tr("the gauge says {text}", text=text))
