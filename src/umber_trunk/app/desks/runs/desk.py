"""Runs: how long and which way. Segments with their lengths, and the wires that wait to be laid."""

from __future__ import annotations

from PySide6.QtGui import QColor, QKeySequence, QShortcut
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.desks.runs.covers_tab import CoversPanel
from umber_trunk.app.desks.runs.learning_tab import LearningPanel
from umber_trunk.app.desks.runs.splices_tab import SidesPanel, SplicesPanel
from umber_trunk.app.desks.runs.way_tabs import LengthsPanel
from umber_trunk.app.document import Document
from umber_trunk.app.sheets.lay_sheet import LayDialog
from umber_trunk.app.sheets.tree_sheet import TreeDialog
from umber_trunk.app.widgets.asked import text_asked
from umber_trunk.app.widgets.desk import Desk, Panel, button, column, heading, hint, row, tabbed
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.telling import Telling
from umber_trunk.app.widgets.typed import parse_measure, zone_named
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import Edit, change, new_id, put, rename, set_length, split_segment
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Point, Segment, Wire
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.harness.way import Measure, Method
from umber_trunk.core.language.hear import way_line
from umber_trunk.core.lengths.laying import provisional, suggest
from umber_trunk.core.quantity import Habit, exact
from umber_trunk.core.units import parse_length_m, show_length

PAINTINGS = (("how it is measured", ""), ("coverings", "app.trunk.story:covers_story"))


WAY_PAGES = (
    dict.fromkeys(("comb", "set"), 4)
    | {"splice": 3}
    | dict.fromkeys(("pin", "unpin", "lead", "loop", "drip", "service", "bend"), 1)
    | dict.fromkeys(("sleeve", "tube", "tape", "shrink", "clamp", "grommet"), 2)
)
FOUND_PAGES = dict.fromkeys(("tape", "string", "drawn", "stated", "guess"), 5)
"""First word of a line → the tab where what it says is seen."""


class RunsDesk(Desk):
    """One line for what lies along the way; below it segments, lengths, coverings, splices, combs and sets, what the
    shop has learned. The board takes the trunk's place."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.segments = self.table("Segments", "segments", self._segment_columns())
        self.waiting = self.table("Wires not laid", "wires", self._waiting_columns())
        self.islands = self.table("Points not joined", "points", self._island_columns())
        self.telling = Telling(
            document,
            "What lies along the way",
            "Say what lies along the way:  sleeve on S4   ·   bend on S1 radius 60 mm by 90   ·   drip loop on S5 80 "
            "mm",
        )
        self.telling.told.connect(self._told)
        self.line, self.reading = self.telling.line, self.telling.reading
        self.split = button("Breakout here…", self.split_chosen, tip="Puts a breakout into the chosen segment")
        self.gone = button(
            "Remove",
            lambda: self.remove_rows("segments", self.segments),
            tip="The limbs chosen, with points nothing meets at then",
        )
        self.gone.setShortcut("Ctrl+Del")
        self.lay = button("Lay onto trunk…", self.lay_chosen, primary=True)
        self.infer = button(
            "Infer the tree…", self.infer_trunk, tip="The trunk that all listed lengths together speak of"
        )
        self.board = button(
            "Board 1:1  F7", self.toggle_board, tip="The whole harness at true scale in place of the trunk"
        )
        self.board.setCheckable(True)
        self.sheet = button(
            "Print the board…", lambda: self.wants_papers.emit("board"), tip="At true scale, in tiles or on a roll"
        )
        QShortcut(QKeySequence("F7"), self, self.board.click)
        self.painting = QComboBox()
        self.painting.setAccessibleName(tr("What the trunk shows"))
        for name, place in PAINTINGS:
            self.painting.addItem(tr(name), place)
        self.painting.currentIndexChanged.connect(lambda _: self.painted.emit(self.painting.currentData()))
        self._fill_in()
        self.catch_up()

    def _fill_in(self) -> None:
        """The tabs, and the line above them."""
        self.empty = hint("")
        self.total = Label()
        note = hint(
            "Wires of a list have no tree. Choose several (Shift + ↓), then lay them: breakouts and branches are "
            "proposed from their lengths."
        )
        self.to_lay = column(row(heading("Not on the trunk"), None, self.infer, self.lay), note, self.waiting)
        self.to_join = column(
            heading("Not joined"), hint("Type where each joins, and how far: bow locker 1.2 m"), self.islands
        )
        self.right = column(self.to_lay, self.to_join)
        whole = QWidget()
        beside = QHBoxLayout(whole)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(column(row(self.total, None, self.gone, self.split), self.empty, self.segments), 3)
        beside.addWidget(self.right, 2)
        self.lengths, self.covers, self.splices = LengthsPanel(self), CoversPanel(self), SplicesPanel(self)
        self.sides, self.learning = SidesPanel(self), LearningPanel(self)
        self.panels: tuple[Panel, ...] = (self.lengths, self.covers, self.splices, self.sides, self.learning)
        pages = (
            ("Segments", whole), ("Lengths", self.lengths), ("Coverings", self.covers), ("Splices", self.splices), ("Side by side", self.sides),
            ("Measuring", self.learning),
        )  # fmt: skip
        self._tabs, line, self._stack = tabbed(self, pages, None, self.painting, self.board, self.sheet)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.addWidget(self.telling)
        layout.addLayout(line)
        layout.addWidget(self._stack, 1)

    @property
    def on_board(self) -> bool:
        return self.board.isChecked()

    def begin(self) -> None:
        self.line.setFocus()

    def tab(self, number: int) -> None:
        """Brings a tab up."""
        self._tabs[number].click()

    def toggle_board(self) -> None:
        """The board in place of the trunk, or back."""
        self.boarded.emit(self.board.isChecked())

    def _told(self, text: str) -> None:
        """Shows where what was said went."""
        word = text.split()[0].lower()
        pages = FOUND_PAGES if " found " in text else WAY_PAGES
        if word in pages:
            self.tab(pages[word])

    def refresh(self) -> None:
        design = self.document.design
        self.segments.show_rows(list(design.segments))
        waiting = provisional(design)
        self.waiting.show_rows(waiting)
        islands = islands_of(design)
        self.islands.show_rows(islands)
        self.to_lay.setVisible(bool(waiting))
        self.to_join.setVisible(bool(islands))
        self.right.setVisible(bool(waiting or islands))
        self.infer.setVisible(len(waiting) > 3)
        self.lay.setText(f"{tr('Lay onto trunk…')}  {len(waiting)}")
        whole = sum(segment.measure.length_m for segment in design.segments)
        self.total.setText(
            tr("{count} segments, {whole:.1f} m of trunk and branches", count=len(design.segments), whole=whole)
        )
        self.segments.setVisible(bool(design.segments))
        self.empty.setVisible(not design.segments)
        self.empty.setText(
            tr("There is no trunk yet. Choose wires on the right and lay them.")
            if waiting
            else tr(
                "There is no trunk yet. On the Needs desk, enter a load with “run 4.2 m”, or import a wire list "
                "(Ctrl+I)."
            )
        )
        for panel in self.panels:
            panel.show_now()

    def infer_trunk(self) -> None:
        """Proposes the tree that all listed lengths speak of, to be accepted or not."""
        TreeDialog(self.document, self).open()

    def reveal(self, part: str, part_id: str) -> bool:
        """A point is shown by a segment that meets it, a laid wire by the first segment on its way."""
        page = {"covers": 2, "joins": 3, "combs": 4, "sets": 4, "lengths": 1}.get(part, 0)
        if part == "combs":
            part = "sets"
        if self._stack.currentIndex() != page and any(
            table == part and view.rows_model.row_of(part_id) >= 0 for table, view in self.views
        ):
            self.tab(page)
        if super().reveal(part, part_id):
            return True
        index, found = index_of(self.document.design), ""
        if part == "points":
            found = next((s.id for s in self.document.design.segments if part_id in (s.a, s.b)), "")
        elif part == "wires" and part_id in index.routes:
            found = next(iter(index.routes[part_id].segments), "")
        return bool(found) and super().reveal("segments", found)

    def lay_chosen(self) -> None:
        """Lays the chosen wires, or all that wait, after showing where the breakouts go."""
        chosen = self.waiting.chosen_ids()
        waiting = provisional(self.document.design)
        wires = chosen if len(chosen) > 1 else [wire.id for wire in waiting]
        if wires:
            LayDialog(self.document, suggest(self.document.design, wires), self).open()

    def split_chosen(self) -> None:
        """Asks where in the chosen segment the breakout goes."""
        chosen = self.segments.chosen_id()
        segment = index_of(self.document.design).segments.get(chosen)
        if segment is None:
            self.said.emit(tr("Choose a segment first."))
            return
        start = self._point(segment.a)
        text, ok = text_asked(
            self,
            tr("Breakout"),
            tr("How far from {start}, in {length_m}?", start=start, length_m=show_length(segment.measure.length_m)),
        )
        if ok:
            edit = Typed(lambda habit: lambda d: split_segment(d, chosen, parse_length_m(text, habit=habit))[0])
            self.document.apply(edit, f"breakout in {chosen}")

    def _point(self, point: str) -> str:
        part = index_of(self.document.design).points.get(point)
        return (part.name or part.id) if part else f"{point}?"

    def _zone_edit(self, segment: Segment, text: str) -> Edit:
        zone = zone_named(self.document.design, text)
        return lambda d: put(d, "segments", change(segment, zone=zone))

    def _bundle(self, segment: Segment) -> str:
        analysis = self.document.results
        if analysis is None or not self.document.fresh:
            return "…"
        bundles = analysis.figures.solution.heat.bundles
        at = bundles.segment.index(segment.id) if segment.id in bundles.segment else -1
        return f"{2e3 * float(bundles.radius_m[at]):.1f} mm" if at >= 0 else "–"

    def _length_edit(self, segment: Segment, text: str) -> Edit:
        return Typed(lambda habit: lambda d: set_length(d, segment.id, parse_measure(text, segment.measure, habit)))

    def _segment_columns(self) -> list[Column]:
        def sleeved(segment: Segment, text: str) -> Edit:
            def make(habit: Habit) -> Edit:
                wall = 1e3 * parse_length_m(text, "mm", habit) if text.strip() else 0.0
                return lambda design: put(design, "segments", change(segment, sleeve_mm=wall))

            return Typed(make)

        def zone_text(segment: Segment) -> str:
            zone = index_of(self.document.design).zones.get(segment.zone or "")
            return zone.name if zone else ""

        return [
            Column("Segment", lambda r: r.id),
            Column("From", lambda r: self._point(r.a), lambda r, t: lambda d: rename(d, "points", r.a, t), width=130),
            Column("To", lambda r: self._point(r.b), lambda r, t: lambda d: rename(d, "points", r.b, t), width=150),
            Column(
                "Length",
                lambda r: show_length(r.measure.length_m),
                self._length_edit,
                right=True,
                colour=_loose,
                key=lambda r: r.measure.length_m,
            ),
            Column(
                "±",
                lambda r: show_length(r.measure.plus_minus_m),
                lambda r, t: self._length_edit(r, f"± {t}"),
                right=True,
                key=lambda r: r.measure.plus_minus_m,
            ),
            Column("How", lambda r: r.measure.method.value, lambda r, t: self._length_edit(r, t)),
            Column("Sleeve", lambda r: f"{exact(r.sleeve_mm)} mm" if r.sleeve_mm else "", sleeved, right=True),
            Column(
                "On reel",
                lambda r: f"{r.coiled_layers} layers" if r.coiled_layers else "",
                _reel_edit,
                right=True,
            ),
            Column("Zone", zone_text, self._zone_edit, width=120),
            Column("Along it", along_text, along_edit, width=-1),
            Column(
                "Wires",
                lambda r: str(len(index_of(self.document.design).contents[r.id])),
                right=True,
                key=lambda r: len(index_of(self.document.design).contents[r.id]),
            ),
            Column("Bundle", self._bundle, right=True),
        ]

    def _island_columns(self) -> list[Column]:
        return [
            Column("Point", lambda r: self._point(r.id), width=130),
            Column("Joins (point and length)", lambda _: "", lambda r, text: join_edit(r, text), width=-1),
        ]

    def _waiting_columns(self) -> list[Column]:
        def end(pin_end: str) -> str:
            part = index_of(self.document.design).ends.get(pin_end)
            return part.name if part else pin_end

        def stated(wire: Wire, text: str) -> Edit:
            return Typed(
                lambda habit: lambda d: put(d, "wires", change(wire, stated_m=parse_length_m(text, habit=habit)))
            )

        return [
            Column("Wire", lambda r: r.id),
            Column("From", lambda r: end(r.start.end), width=140),
            Column("To", lambda r: end(r.finish.end), width=140),
            Column("Listed", lambda r: show_length(r.stated_m) if r.stated_m else "none", stated, right=True),
        ]


def along_text(segment: Segment) -> str:
    """Bends, loops and twist of a segment in a few words, those in which they are typed whatever language is spoken."""
    told = ["to corners"] if segment.corners else []
    told += [
        f"{exact(bend.angle_deg)}° at {show_length(bend.at_m)}, radius {exact(bend.radius_mm)} mm"
        for bend in segment.bends
    ]
    told += [f"{slack.kind} loop {show_length(slack.length_m)}" for slack in segment.slack]
    told += [f"twisted, {exact(segment.lay_mm)} mm a turn"] if segment.lay_mm else []
    told += [f"on the board at {exact(segment.turn_deg)}°"] if segment.turn_deg is not None else []
    return "; ".join(told)


def along_edit(segment: Segment, text: str) -> Edit:
    """Empty takes all of it away; else one more thing, as the line above takes it, without saying where."""
    said = " ".join(text.split())
    if not said:
        return lambda design: put(
            design, "segments", change(segment, bends=(), slack=(), lay_mm=0.0, corners=False, turn_deg=None)
        )
    if said == along_text(segment):
        return lambda design: design
    words, at = said.split(" "), 2 if said.lower().startswith(("drip loop", "service loop")) else 1
    return Typed(way_line(" ".join([*words[:at], "on", segment.id, *words[at:]])))


def islands_of(design: Design) -> list[Point]:
    """Points from which no segments lead to the trunk: the root of each tree but the first."""
    index = index_of(design)
    roots = [point for point, (_, segment, _) in index.parents.items() if not segment and point != index.root]
    return [index.points[root] for root in roots]


def join_edit(point: Point, text: str) -> Edit:
    """ "bow locker 1.2 m" into a segment from there to a point; InputError when no point of the trunk is named so."""

    def make(habit: Habit) -> Edit:
        def act(design: Design) -> Design:
            index, said = index_of(design), " ".join(text.split())
            named = {other: index.point_name(other) for other in index.parents if other != point.id}
            fitting = [other for other, name in named.items() if said.lower().startswith(f"{name.lower()} ")]
            if not fitting:
                raise InputError.of("window.begins-with-no-point-of-harness", said=said)
            start = max(fitting, key=lambda other: len(named[other]))
            usual = Measure(length_m=0.0, method=Method.TAPE, plus_minus_m=0.0)
            measure = parse_measure(said[len(named[start]) :], usual, habit)
            segment = Segment(id=new_id(design, "segments", "S"), a=start, b=point.id, measure=measure)
            return put(design, "segments", segment)

        return act

    return Typed(make)


def _reel_edit(segment: Segment, text: str) -> Edit:
    """Layers deep that a lead is left on its reel; empty for none."""
    said = text.lower().replace("layers", "").replace("layer", "").strip() or "0"
    if said not in ("0", "1", "2", "3", "4"):
        raise InputError.of("window.layers-out-of-range", text=text.strip())
    return lambda design: put(design, "segments", change(segment, coiled_layers=int(said)))


def _loose(segment: Segment) -> QColor | None:
    if segment.measure.length_m == 0:
        return theme.BROKEN
    return theme.TIGHT_TEXT if segment.measure.method in (Method.GUESS, Method.STATED) else None
