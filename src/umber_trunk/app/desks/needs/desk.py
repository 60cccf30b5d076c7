"""Needs: what has to be fed. One line as it is said, read while it is typed, and tables to correct it."""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout

from umber_trunk.app import theme
from umber_trunk.app.desks.needs.fuse_table import fuse_columns
from umber_trunk.app.desks.needs.load_table import LoadTable
from umber_trunk.app.desks.needs.rules import RULES
from umber_trunk.app.desks.needs.tables import (
    case_columns,
    converter_columns,
    end_columns,
    rule_columns,
    supply_columns,
    word_columns,
    zone_columns,
)
from umber_trunk.app.desks.needs.understood import chips, next_told
from umber_trunk.app.desks.needs.wires import wire_columns
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import Desk, button, hint, row, tabbed
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.saying import SayingLine
from umber_trunk.app.widgets.table import RowsView
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.catalog.words import wire_words
from umber_trunk.core.fuses.place import fuses_between
from umber_trunk.core.harness.model import Design
from umber_trunk.core.language.grammar import MOST_SAID, begins_like_one
from umber_trunk.core.language.hear import Listener
from umber_trunk.core.language.next_words import next_lines
from umber_trunk.core.sizes.metre import metre_of
from umber_trunk.core.units import show_mass

NAMES = {
    "loads": word("Loads"), "supplies": word("Supplies"), "zones": word("Zones"), "fuses": word("Fuses"), "cases": word("Cases"), "ends": word("Ends"), "wires": word("Wire list"),
    "converters": word("Converters"), "rules": word("House rules"), "words": word("Wire words"),
}  # fmt: skip
COUNTED = ("loads", "supplies", "zones", "fuses", "cases", "ends", "wires")
EXAMPLE = "winch 2 kW surge 140A/0.5s duty 20s/60s at foredeck in deck 35C wet run 7.5 m min 21 V"
FIRST = "supply 24 V 5 mohm at battery"


class NeedsDesk(Desk):
    """The line, what was understood of it, and the loads, supplies, zones and house rules."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.line = SayingLine()
        self.line.wants_next.connect(self._take_suggestion)
        self.suggested: list[str] = []
        self.line.setAccessibleName(tr("Enter a load in one line"))
        self.line.setFont(theme.font(11.5))
        self.line.textChanged.connect(self._read)
        self.line.returnPressed.connect(self.enter_line)
        self.enter_button = button("Enter ⏎", self.enter_line, primary=True)
        self.understood = Label()
        self.understood.setTextFormat(Qt.TextFormat.RichText)
        self.understood.setWordWrap(True)
        self.understood.setMinimumHeight(round(50 * theme.text_scale()))
        self.loads = self.table("Loads", "loads", LoadTable(document).columns())
        self.supplies = self.table("Supplies", "supplies", supply_columns())
        self.zones = self.table("Zones", "zones", zone_columns())
        self.fuses = self.table("Fuses and links", "fuses", fuse_columns(document), lambda r: f"{r[0].id} {r[1].id}")
        self.ends = self.table("Ends", "ends", end_columns(document))
        self.wires = self.table("Wire list", "wires", wire_columns(document))
        self.converters = self.table("Converters", "converters", converter_columns())
        self.cases = self.table("Cases", "cases", case_columns(document))
        self.rules = self.table("House rules", "rules", rule_columns(document))
        self.metre = hint("")
        self.loads.current.connect(lambda _: self._tell_metre())
        self.words = self.table("Wire words", "words", word_columns(), lambda r: r.word)
        self._lay_out()
        self.catch_up()
        self._read()

    def _lay_out(self) -> None:
        tabs = self._tabs()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.addLayout(row(self.line, self.enter_button))
        layout.addWidget(self.understood)
        layout.addLayout(tabs)
        layout.addWidget(self.pages, 1)
        layout.addWidget(self.metre)

    def _tabs(self) -> Flow:
        self._pages: dict[str, tuple[RowsView, Callable[[], list[Any]]]] = {
            "loads": (self.loads, lambda: list(self.document.design.loads)),
            "supplies": (self.supplies, lambda: list(self.document.design.supplies)),
            "zones": (self.zones, lambda: list(self.document.design.zones)),
            "fuses": (self.fuses, lambda: [(end, link) for end in self.document.design.ends for link in end.links]),
            "cases": (self.cases, lambda: list(self.document.design.cases)),
            "ends": (self.ends, lambda: list(self.document.design.ends)),
            "wires": (self.wires, lambda: list(self.document.design.wires)),
            "converters": (self.converters, lambda: list(self.document.design.converters)),
            "rules": (self.rules, lambda: list(RULES)),
            "words": (self.words, lambda: list(wire_words())),
        }
        self.remove = button(
            "Remove",
            self.remove_chosen,
            tip="The rows chosen, with what can’t be without them: a load takes its own wires along, an end all that "
            "is at it",
        )
        self.remove.setShortcut("Ctrl+Del")
        self.fit = button("Fit open fuses", self.fit_open_fuses, tip="Ratings for the fuses that have none")
        self.place = button(
            "Place fuses",
            self.place_missing_fuses,
            tip="One at the source for each bare feed, a smaller one where it is too large for its wire",
        )
        tabs, line, self.pages = tabbed(
            self,
            [(NAMES[page], view) for page, (view, _) in self._pages.items()],
            None,
            self.place,
            self.fit,
            self.remove,
        )
        self._tab_buttons = dict(zip(self._pages, tabs, strict=True))
        self.pages.currentChanged.connect(lambda _: self._fill_page())
        return line

    @property
    def _listener(self) -> Listener:
        return Listener(self.document.shelf)

    def _read(self) -> None:
        """Shows what the line says so far."""
        text = self.line.text()
        if not text.strip():
            example = EXAMPLE if self.document.design.supplies else FIRST
            self.understood.setText(
                f"<span style='color:{theme.INK_SOFT.name()}'>"
                + escape(
                    tr(
                        "Say it in one line, in any order: what, how much, surge, duty, at where, in which zone, run "
                        "how far, from where."
                    )
                )
                + f"<br>{escape(tr('For example:'))} &nbsp;<b>{escape(example)}</b></span>"
            )
            self.enter_button.setEnabled(False)
            return
        if len(text) > MOST_SAID:
            self.understood.setText(escape(tr("That is too long to be one load; a list is imported with Ctrl+I.")))
            self.suggested = []
            self.enter_button.setEnabled(False)
            return
        heard = self._listener.hear(self.document.design, text)
        need = heard.need
        self.suggested = next_lines(self.document.design, text, heard, self.document.shelf)
        if need is None or (heard.wrong and begins_like_one(text)):
            said = heard.wrong or f"{heard.what}: {heard.name}"
            self.understood.setText(escape(said) + next_told(text, self.suggested))
        else:
            self.understood.setText(chips(need) + next_told(text, self.suggested))
        self.enter_button.setEnabled(heard.ok)

    def enter_line(self) -> None:
        """Puts the line's load or supply into the harness."""
        if len(self.line.text()) > MOST_SAID:
            return
        listener = self._listener
        heard = listener.hear(self.document.design, self.line.text())
        label = f"enter {heard.name or 'line'}" if heard.need is not None else " ".join(heard.text.split())[:80]
        if self.document.apply(lambda design: listener.done(design, heard), label):
            self.line.remember()
            self.said.emit(
                tr("{heard} is in the harness and on disk.", heard=heard.name)
                if heard.need
                else tr("Done: {heard}", heard=heard.text)
            )

    def _take_suggestion(self) -> None:
        """Tab: the line goes on as first suggested."""
        if self.suggested:
            self.line.setText(self.suggested[0])

    def remove_chosen(self) -> None:
        """Removes what is chosen in the table in view, with what can't be without it."""
        page, view = next((name, view) for name, (view, _) in self._pages.items() if view is self.pages.currentWidget())
        if page in ("rules", "words"):
            self.said.emit(tr("Rules and words stay; what can be removed are loads, ends, wires and the other parts."))
            return
        self.remove_rows(page, view)

    def begin(self) -> None:
        self.line.setFocus()

    def reveal(self, part: str, part_id: str) -> bool:
        if part == "ends" and self.pages.currentWidget() is self.loads:
            load = next((row.id for row in self.document.design.loads if row.plus.end == part_id), None)
            part, part_id = ("loads", load) if load else (part, part_id)
        if part not in self._pages:
            return False
        self.catch_up()
        view, rows = self._pages[part]
        if part_id and part_id not in {view.rows_model.identity(row) for row in rows()}:
            return False
        self._tab_buttons[part].click()
        self._fill_page()
        return not part_id or view.choose(part_id)

    def refresh(self) -> None:
        for page, (_, rows) in self._pages.items():
            count = len(rows()) if page in COUNTED else 0
            self._tab_buttons[page].setText(f"{tr(NAMES[page])}  {count}" if page in COUNTED else tr(NAMES[page]))
        self._fill_page()
        if not self.line.text():
            self._read()
        self._tell_metre()

    def _fill_page(self) -> None:
        """Only the table in view is filled; the others are when they come up."""
        view, rows = next(page for page in self._pages.values() if page[0] is self.pages.currentWidget())
        view.show_rows(rows())

    def _tell_metre(self) -> None:
        """What a metre less to the chosen load is worth, in copper, money and volts."""
        analysis = self.document.results if self.document.fresh else None
        entry = analysis.figures.loads.get(self.loads.chosen_id()) if analysis else None
        if analysis is None or entry is None or not np.isfinite(entry.volts):
            self.metre.setText(tr("Choose a load to see what a metre less to it is worth."))
            return
        worth = metre_of(analysis.figures, entry.load.id)
        self.metre.setText(
            tr(
                "A metre less to {load} saves {copper_kg} of conductor, {cost:.2f} in metal and {volts:.2f} V, "
                "at the sizes of now.",
                load=entry.load.name,
                copper_kg=show_mass(worth.copper_kg),
                cost=worth.cost,
                volts=worth.volts,
            )
        )

    def fit_open_fuses(self) -> None:
        """Gives every fuse without a rating the one that fits what it carries."""
        self.taking.take(
            "fit fuses",
            "fit fuses",
            tr("Every fuse that can be rated has its rating."),
            tr("No fuse is without a rating that could be given."),
        )

    def place_missing_fuses(self) -> None:
        """Puts fuses where feeds leave the source bare, and smaller ones where a wire needs it."""
        before = self.document.design

        def told(after: Design) -> str:
            return "; ".join(fuses_between(before, after))[:200] + "."

        nothing = tr("Every feed has its fuse; what a smaller fuse can't mend, a thicker wire must.")
        self.taking.take("place fuses", "place fuses", told, nothing)
