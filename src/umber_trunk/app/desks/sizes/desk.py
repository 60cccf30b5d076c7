"""Sizes: which conductor. Wires ranked by what is worst, a bar for each limit, and the ladder of steps."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QTimer
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QWidget

from umber_trunk.app.background import Background
from umber_trunk.app.desks.sizes.columns import step_columns, wire_columns
from umber_trunk.app.desks.sizes.sure_tab import SurePanel
from umber_trunk.app.desks.sizes.tabs import FusePictureView, SectionPicture, VoltsPicture
from umber_trunk.app.desks.sizes.worth_tab import WorthPanel
from umber_trunk.app.document import AFTER_PAINT_MS, Document
from umber_trunk.app.widgets.desk import Desk, button, column, heading, hint, tabbed
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.telling import Telling
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.explain.closeup import Closeup, closeup, section_at
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import joined
from umber_trunk.core.sizes.candidates import Ladder, ladder
from umber_trunk.core.sizes.twins import Twin, twin_of
from umber_trunk.core.solve.margins import figures_of_case
from umber_trunk.core.solve.used import Figures
from umber_trunk.core.units import significant


class SizesDesk(Desk):
    """The margin table on the left; on the right the chosen wire: steps, section, volts, fuse."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.ladder: Ladder | None = None
        self._ladder_of: Results | None = None
        self._wished = "", 0
        self._closeup: Closeup | None = None
        self._of_case: tuple[Results, int, Figures] | None = None
        self._steps = Background(self)
        self._soon = QTimer(self, singleShot=True, interval=AFTER_PAINT_MS)
        self._soon.timeout.connect(self._work_ladder)
        self._steps.answered.connect(self._show_ladder)
        self._steps.crashed.connect(document.crashed)
        self.wires = self.table(
            "Wires, worst first", "wires", wire_columns(document, self.figures), lambda r: r.wire.id
        )
        self.steps = self.table("Steps of the chosen wire", "steps", step_columns(), lambda r: r.size)
        self.wires.current.connect(lambda _: self._wire_chosen())
        self.steps.doubleClicked.connect(lambda _: self.take())
        self.paint_by = QComboBox()
        self.paint_by.addItem(tr("Trunk painted by margin"), "")
        self.paint_by.addItem(tr("Trunk painted by temperature"), "app.trunk.story:heat_story")
        self.paint_by.currentIndexChanged.connect(lambda _: self.painted.emit(self.paint_by.currentData()))
        self.summary = Label()
        accept = button(
            "Accept all proposed",
            self.accept_proposed,
            tip="Makes every proposed size the chosen one",
        )
        self.take_button = button("Take it  ⏎", self.take, primary=True, tip="Gives the wire the chosen step")
        self.up = button("Up +", lambda: self.step(1), tip="One size up")
        self.down = button("Down −", lambda: self.step(-1), tip="One size down")
        self.free = button("Propose", self.unchoose, tip="Forgets the chosen size and lets the program propose one")
        self.about = hint("")
        lock = button("Lock ■", self.lock, tip="Keeps this wire's size whatever the optimiser finds; again to free it")
        self.case = QComboBox()
        self.case.currentIndexChanged.connect(lambda _: self._case_chosen())
        least = button(
            "Least copper…", self.find_least, tip="Chooses all sizes together, with a proof of how close to the least"
        )
        self.pictures = (
            SectionPicture(tr("Heated cross-section")),
            VoltsPicture(tr("Where the volts go")),
            FusePictureView(tr("Fuse and wire")),
        )
        left = column(
            Flow(heading("Wires, worst first"), None, self.case, self.paint_by),
            self.wires,
            Flow(self.summary, None, accept, least),
        )
        steps = column(self.about, self.steps, Flow(self.down, self.up, self.free, lock, None, self.take_button))
        for box in (self.case, self.paint_by):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(21)
        right = self._of_the_wire(steps)
        self.telling = Telling(
            document,
            tr("What the wires are"),
            tr(
                "Say what they are:  size 4 mm2 tinned on pump   ·   jacket rubber on all   ·   earth for pump   ·   "
                "cable pump cord for pump   ·   take sizes"
            ),
        )
        self.telling.told.connect(self.said)
        self.side_by_side(left, right, (790, 450), self.telling)
        self.catch_up()

    def _of_the_wire(self, steps: QWidget) -> QWidget:
        """Tabs about the chosen wire: its steps, its pictures, what copper is worth there, how sure that is."""
        self.segment = QComboBox()
        self.segment.setAccessibleName(tr("Cross-section of"))
        self.segment.currentIndexChanged.connect(lambda _: self._draw())
        self.worth, self.sure = WorthPanel(self), SurePanel(self)
        self.sure.chosen.connect(lambda kind, key: self.reveal(f"{kind}s", key))
        pages = (
            ("Steps", steps),
            ("Section", column(self.segment, self.pictures[0])),
            ("Volts", self.pictures[1]),
            ("Fuse", self.pictures[2]),
            ("Worth", self.worth),
            ("Sure", self.sure),
        )
        self._tabs, line, stack = tabbed(self, pages)
        return column(line, stack)

    def refresh(self) -> None:
        analysis = self.document.now
        if analysis is None:
            self.summary.setText(tr("working it out …"))
            return
        self._fill_cases(analysis)
        self.worth.show_analysis(analysis)
        self.sure.show_analysis(analysis)
        wires = sorted(self.figures(analysis).wires.values(), key=lambda w: w.rank)
        self.wires.show_rows(wires)
        culprits = sum(wire.rank[0] < -1 for wire in wires)
        known = [wire for wire in wires if wire.size_known]
        copper = sum(analysis.plant.conductors[w.row].kg_per_m * w.length_m * w.wire.parallel for w in known)
        open_ = len(wires) - len(known)
        unserved = sum(not load.ok for load in analysis.figures.loads.values())
        if culprits:
            state = tr("{culprits} to mend", culprits=culprits)
        elif open_ or not wires:
            state = tr("{count} without a size", count=open_) if wires else tr("nothing to size yet")
        else:
            state = tr("{count} loads not served", count=unserved) if unserved else tr("all limits hold")
        self.summary.setText(
            tr(
                "{count} wires, {state}, {copper} kg of conductor",
                count=len(wires),
                state=state,
                copper=significant(copper),
            )
        )
        if wires and not self.wires.chosen_id():
            self.wires.choose(wires[0].wire.id, quiet=True)
        self._ask_ladder()

    def begin(self) -> None:
        """The picture says again what the two boxes say."""
        self.painted.emit(self.paint_by.currentData())
        if self.document.results is not None:
            self.looked_at.emit(self.figures(self.document.results))
        super().begin()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._ask_ladder()

    def reveal(self, part: str, part_id: str) -> bool:
        """A load is shown by the wire most to blame for what it gets, a segment by its cross-section."""
        if part == "segments":
            self.show_segment(part_id)
        if part != "loads":
            return super().reveal(part, part_id)
        self.catch_up()
        serving = [w for w in self.wires.rows_model.rows if any(use.subject == part_id for use in w.uses)]
        return bool(serving) and self.wires.choose(min(serving, key=lambda w: w.rank).wire.id)

    @property
    def busy(self) -> bool:
        """Whether a ladder is being worked out."""
        return self._steps.busy or self._soon.isActive() or self.taking.busy

    def close_background(self) -> None:
        """Forgets the ladder under way."""
        super().close_background()
        self._soon.stop()
        self._steps.drop()
        self.worth.close_background()
        self.sure.close_background()

    def _wire_chosen(self) -> None:
        """The steps of another wire go at once: a key pressed now is meant for this one."""
        if self.ladder is not None and self.wires.chosen_id() not in self.ladder.members:
            self.ladder = None
            self.steps.show_rows([])
            self.about.setText(tr("Working out its steps…"))
        self._ask_ladder()

    def _ask_ladder(self) -> None:
        """The steps of the chosen wire, once the table is painted."""
        if self.isVisible():
            self._soon.start()

    def _work_ladder(self) -> None:
        analysis, chosen = self.document.results, self.wires.chosen_id()
        if analysis is None or not self.document.fresh or not chosen or not self.isVisible():
            return
        figures = self.figures(analysis)
        self._steps.ask(
            lambda wanted: (
                analysis,
                closeup(analysis.design, figures, chosen),
                ladder(analysis.design, analysis.sizes, chosen, analysis.shelf, wanted),
                twin_of(analysis, chosen),
            )
        )

    def _fill_cases(self, analysis: Results) -> None:
        """The cases to look at, worst of all first."""
        names = [tr("Worst of all cases"), *(case.case.name for case in analysis.figures.solution.cases)]
        if [self.case.itemText(i) for i in range(self.case.count())] != names:
            self.case.blockSignals(True)
            self.case.clear()
            self.case.addItems(names)
            self.case.blockSignals(False)
            self.case.setVisible(len(names) > 2)

    def figures(self, analysis: Results) -> Figures:
        """The figures of the case looked at, or the worst of all."""
        chosen = self.case.currentIndex() - 1
        if chosen < 0:
            return analysis.figures
        if self._of_case is None or self._of_case[0] is not analysis or self._of_case[1] != chosen:
            self._of_case = (analysis, chosen, figures_of_case(analysis.figures, chosen))
        return self._of_case[2]

    def _case_chosen(self) -> None:
        self.refresh()
        analysis = self.document.results
        if analysis is not None:
            self.looked_at.emit(self.figures(analysis))

    def tab(self, number: int) -> None:
        """Brings up steps, section, volts, fuse, worth or how sure all is (0 to 5)."""
        self._tabs[number].click()

    def find_least(self) -> None:
        """Opens the sheet that chooses all sizes together."""
        from umber_trunk.app.sheets.least import LeastCopper  # the solver behind it takes time to load

        LeastCopper(self.document, self).open()

    def _show_ladder(self, answer: tuple[Results, Closeup, Ladder, Twin | None]) -> None:
        self._ladder_of, self._closeup, found, twin = answer
        self._fill_segments()
        self._draw()
        self.ladder = found
        self.steps.show_rows(list(found.candidates))
        here = next((c.size for c in found.candidates if c.step == 0), "")
        self.steps.choose(here, quiet=True)
        analysis = self.document.results
        names = (
            [analysis.figures.wires[m].wire.name or m for m in found.members if m in analysis.figures.wires]
            if analysis
            else []
        )
        together = tr(" A step gives both one size (house rule).") if len(names) > 1 else ""
        shared = (
            ""
            if twin is None
            else tr(
                " {wrong?✕ }Side by side: {told}, of {limit_c:.0f} °C.",
                wrong=bool(not twin.ok),
                told=twin.told,
                limit_c=twin.limit_c,
            )
        )
        self.about.setText(f"{joined('any.and', names) if names else ''}.{together}{shared}")
        if self._wished[1]:
            self.step(0)

    def _fill_segments(self) -> None:
        """Where the chosen wire runs hottest, then every segment, the warmest first."""
        analysis = self.document.results
        if analysis is None:
            return
        index, kept = index_of(analysis.design), self.segment.currentData()
        self.segment.blockSignals(True)
        self.segment.clear()
        self.segment.addItem(tr("Where the chosen wire runs hottest"), "")
        for segment, celsius in self.figures(analysis).solution.hottest_c.items():
            self.segment.addItem(f"{celsius:.0f} °C   {index.segment_name(segment)}", segment)
        self.segment.setCurrentIndex(max(self.segment.findData(kept), 0))
        self.segment.blockSignals(False)

    def _draw(self) -> None:
        """The pictures of the chosen wire, or the section of the chosen segment."""
        analysis, found, segment = self.document.results, self._closeup, self.segment.currentData()
        if analysis is None or found is None:
            return
        if segment:
            found = replace(found, section=section_at(self.figures(analysis), segment))
        for picture in self.pictures:
            picture.show_closeup(found)

    def show_segment(self, segment: str) -> bool:
        """Brings up a segment's cross-section; False where nothing runs in it."""
        at = self.segment.findData(segment)
        if at >= 0:
            self.segment.setCurrentIndex(at)
            self.tab(1)
        return at >= 0

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {"+": 1, "-": -1, "−": -1}.get(event.text())
        if step:
            self.step(step)
        else:
            super().keyPressEvent(event)

    def take(self) -> None:
        """Gives the chosen wire (and its pair) the step chosen in the ladder."""
        if self.ladder is None:
            self.said.emit(tr("Its steps are being worked out."))
        elif size := self.steps.chosen_id():
            self._give(self.ladder, size)

    def _give(self, ladder: Ladder, size: str) -> None:
        self.document.apply(
            lambda design: set_size(design, ladder.members, size), f"{ladder.wire_id} to {show_size(size)}"
        )

    def step(self, by: int) -> None:
        """So many sizes up or down for the chosen wire and its pair; once its steps are known, where they are still
        being worked out."""
        chosen, (wire, before) = self.wires.chosen_id(), self._wished
        by += before if wire == chosen else 0
        self._wished = chosen, by
        if self.ladder is None or self._ladder_of is not self.document.now or chosen not in self.ladder.members:
            return
        self._wished = "", 0
        if not by:
            return
        found = next((c for c in self.ladder.candidates if c.step == by), None)
        if found is None:
            self.said.emit(tr("The series has no further step that way."))
            return
        self._give(self.ladder, found.size)

    def unchoose(self) -> None:
        """Lets the program propose the size of the chosen wire and its pair again."""
        if self.ladder is None:
            self.said.emit(tr("Its steps are being worked out."))
        else:
            members = self.ladder.members
            self.document.apply(lambda design: set_size(design, members, None), f"propose {self.ladder.wire_id}")

    def accept_proposed(self) -> None:
        """Chooses all proposed sizes as they are."""
        self.taking.take(
            "sizes", "accept proposed sizes", tr("The proposed sizes are chosen."), tr("Every wire has its size.")
        )

    def lock(self) -> None:
        """Locks the chosen wire's size against the optimiser, or frees it."""
        chosen, analysis = self.wires.chosen_id(), self.document.results
        if not chosen or analysis is None or not self.document.fresh:
            return
        wire, size = index_of(self.document.design).wires[chosen], analysis.figures.wires[chosen].size
        label = f"{'free' if wire.locked else 'lock'} {chosen}"
        self.document.apply(lambda d: set_size(d, [chosen], size, not wire.locked), label)
