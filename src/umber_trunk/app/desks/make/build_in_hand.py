"""Which build is in hand: one that is begun now, or one gone on with at the very step it was left."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtWidgets import QComboBox

from umber_trunk.app.background import Background
from umber_trunk.app.desks.make.at_bench import AtBench
from umber_trunk.app.widgets.asked import text_asked
from umber_trunk.app.widgets.line import Count
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.store.build import Build
from umber_trunk.store.builds import begin, resume


class BuildInHand(AtBench):
    """Builds begun, gone on with and laid down."""

    units: Count
    hands: Count
    school: QComboBox
    coiler: Background
    drawer: Background
    _behind: bool

    def open_build(self, name: str) -> None:
        """Goes on with a build, at the very step it was left."""
        if not name or (self.build is not None and self.build.name == name):
            return
        self.act(
            lambda: self._swap(resume(self.document.project, name, hand=self.hand.text(), parts=self.document.shelf))
        )

    def begin_build(self) -> None:
        """Begins a build of the design shown."""
        taken = {one.build for one in self.document.project.floor.builds()}
        station = ""
        if self.document.project.read_only:
            station, ok = text_asked(
                self,
                tr("Second station"),
                tr(
                    "This file is open elsewhere. A name for this station: its log is kept beside the file, to be "
                    "merged."
                ),
            )
            if not ok or not station.strip():
                return
        day = datetime.now().strftime("%Y-%m-%d")
        name = next(n for n in (f"{day}{f'-{k}' if k > 1 else ''}" for k in range(1, 10_000)) if n not in taken)
        if self.act(
            lambda: self._swap(
                begin(
                    self.document.project,
                    name,
                    range(1, self.units.value() + 1),
                    self.school.currentData(),
                    self.hands.value(),
                    station=station,
                    hand=self.hand.text(),
                    known=self.document.now,
                    parts=self.document.shelf,
                )
            )
        ):
            self._behind = True
            self.catch_up()
            if self.build is not None and self.build.begun.faults:
                self.say_wrong(
                    tr(
                        "{faults} faults are open: mend them before cutting, or know why not.",
                        faults=self.build.begun.faults,
                    )
                )
            self.bench.setFocus()

    def _swap(self, build: Build) -> None:
        self.coiler.drop()
        self.drawer.drop()
        if self.build is not None:
            self._closed(self.build)
        self.build = build
        if build.earlier:
            self.said.emit(tr("Begun by an earlier format: planned once more, and frozen from now on."))
        if build.bench.strange:
            self.said.emit(
                tr(
                    "△ {count} entries of the log are about what isn’t known here: see the log.",
                    count=len(build.bench.strange),
                )
            )
        if build.drawing is None:
            self.drawer.ask(lambda wanted: (build, build.figures()))
        self.document.measured()

    def _closed(self, build: Build) -> None:
        """A sitting ends: it is signed."""
        try:
            build.close()
        except UmberError as why:
            self.document.refused.emit(str(why))
