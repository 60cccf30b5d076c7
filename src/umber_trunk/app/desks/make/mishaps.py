"""What goes wrong at the bench, and what is kept of it: ends started over, wires given up, faults seen, photographs,
releases in spite of a reading."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from umber_trunk.app.background import Background
from umber_trunk.app.desks.make.at_bench import AtBench
from umber_trunk.app.desks.make.defect_sheet import COMES_TO, DefectSheet
from umber_trunk.app.paper.photographs import MOST_PX, photograph, size_of
from umber_trunk.app.widgets.asked import one_of, text_asked
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.make.measuring import DEFECTS, defect_told
from umber_trunk.core.make.timed import Timed
from umber_trunk.store.build import Build

SCRAP_REASONS = [
    word("insulation or jacket cut"),
    word("too short"),
    word("strands lost"),
    word("spoiled at the crimp"),
    word("wrong wire"),
    word("otherwise…"),
]
"""Why a wire is given up, the usual ones."""


@dataclass(frozen=True)
class Developed:
    """A photograph for a step: its file, what it is kept as or why it can't be, and how large the file's is [px]."""

    build: Build
    step: Timed | None
    name: str
    text: str | UmberError = ""
    size: tuple[int, int] = (0, 0)


class Mishaps(AtBench):
    """Every way off the plan; each stays in the log with who and why."""

    developer: Background

    def remake(self) -> None:
        """This end is started over."""
        build, step = self.build, self.here()
        if build is not None and step is not None and step.operation.side:
            one = step.operation
            self.act(lambda: build.remake(one.wire, one.side, step.unit))
        self.to_bench()

    def scrap(self) -> None:
        """This wire is given up."""
        build, step = self.build, self.here()
        if build is not None and step is not None and step.operation.wire:
            why, ok = one_of(
                self,
                tr("Scrap wire"),
                f"{step.operation.wire}: {tr('why is it given up?')}",
                [tr(one) for one in SCRAP_REASONS],
            )
            if ok and why == tr(SCRAP_REASONS[-1]):
                why, ok = text_asked(self, tr("Scrap wire"), tr("Why is it given up?"))
            if ok and why.strip():
                self.act(lambda: build.scrap(step.operation.wire, step.unit, why.strip()))
            elif ok:
                self.say_wrong(tr("Say why it is scrapped: the reason stays in the log."))
        self.to_bench()

    def defect(self) -> None:
        """A fault is chosen from its drawing."""
        sheet = DefectSheet(self)
        sheet.accepted.connect(lambda: self.found(sheet.code))
        sheet.rejected.connect(self.to_bench)
        sheet.open()

    def found(self, code: str) -> None:
        """A fault seen goes into the log, and what it comes to is said."""
        build = self.build
        if code and build is not None:
            told, comes_to = defect_told(code), DEFECTS[code]
            here = self.here()
            self.act(lambda: build.defect(code, at=here), f"{told}: {tr(COMES_TO[comes_to])}")
        self.to_bench()

    def set_anew(self, tool: str, setting: str) -> None:
        """A die was set or changed: its charts begin anew."""
        build = self.build
        if build is not None:
            self.act(
                lambda: build.reset(tool, setting),
                tr("{tool} {setting} set anew: measure a sample before going on", tool=tool, setting=setting),
            )

    def let_go(self) -> None:
        """Somebody releases the step."""
        build = self.build
        if build is None:
            return
        who, ok = text_asked(
            self, tr("Release"), tr("Who lets this go on without a good reading?"), text=self.hand.text()
        )
        if ok:
            here = self.here()
            self.act(lambda: build.release(who, at=here), tr("released by {who}", who=who))
        self.to_bench()

    def link_photo(self) -> None:
        """A picture is kept with the step now, inside the harness file."""
        build = self.build
        name, _ = QFileDialog.getOpenFileName(self, tr("Photograph"), "", tr("Pictures (*.png *.jpg *.jpeg *.webp)"))
        if name and build is not None:
            self._develop(Developed(build, self.here(), name), whole=False)
        self.to_bench()

    def _develop(self, one: Developed, whole: bool) -> None:
        def work(_: Wanted) -> Developed:
            try:
                path = Path(one.name)
                return replace(one, text=photograph(path, whole), size=(0, 0) if whole else size_of(path))
            except UmberError as why:
                return replace(one, text=why)

        self.developer.ask(work)

    def _developed(self, one: Developed) -> None:
        """A photograph is drawn: it is kept with the step at which it was taken; a large one as large as is said."""
        build = one.build
        if isinstance(one.text, UmberError):
            self.say_wrong(str(one.text))
            return
        if build is not self.build:
            return
        if max(one.size) > MOST_PX:
            whole = tr("whole, {wide} × {tall} px: some MB in the file", wide=one.size[0], tall=one.size[1])
            sizes = [tr("{px} px: a strand outside its barrel is seen well", px=MOST_PX), whole]
            chosen, ok = one_of(self, tr("Photograph"), tr("How large is it kept?"), sizes)
            if not ok:
                return
            if chosen == whole:
                self._develop(one, whole=True)
                return
        text = one.text
        self.act(lambda: build.photograph(one.name, text, one.step), tr("kept {name}", name=Path(one.name).name))
        self.to_bench()
