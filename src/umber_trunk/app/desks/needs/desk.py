"""Needs: what has to be fed. One line as it is said, read while it is typed, and tables to correct it."""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QVBoxLayout,
)

from umber_trunk.app import theme
from umber_trunk.app.desks.needs.rules import RULES, rule_text, set_rule
from umber_trunk.app.desks.needs.wires import wire_columns
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import Desk, button, hint, row, tabbed
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.saying import SayingLine
from umber_trunk.app.widgets.table import Column, RowsView
from umber_trunk.app.widgets.typed import (
    end_frame,
    end_kind,
    end_zone,
    load_amount,
    load_duty,
    load_surge,
    parsed,
    set_field,
    zone_flags,
)
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.catalog.words import wire_words
from umber_trunk.core.explain.about_fuses import why_link
from umber_trunk.core.explain.about_wires import why_load, why_rating
from umber_trunk.core.fuses.chain import chains
from umber_trunk.core.fuses.fit import FuseDuty, link_duties
from umber_trunk.core.fuses.place import fuses_between
from umber_trunk.core.harness.edits import Edit, rename, set_fuse
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, End, Link, Load, LoadKind, Supply, Zone
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.language.grammar import MOST_SAID, begins_like_one
from umber_trunk.core.language.hear import Listener
from umber_trunk.core.language.next_words import next_lines
from umber_trunk.core.needs.cases import loads_text, set_case
from umber_trunk.core.needs.line_records import Need
from umber_trunk.core.quantity import Habit, exact
from umber_trunk.core.sizes.metre import metre_of
from umber_trunk.core.units import (
    parse_amps,
    parse_celsius,
    parse_drop,
    parse_length_m,
    parse_number,
    parse_ohms,
    parse_share,
    parse_volts,
    show_length,
    show_mass,
    show_ohms,
    significant,
)
from umber_trunk.core.why import Derivation

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
        self.line.setAccessibleName("Enter a load in one line")
        self.line.setFont(theme.font(11.5))
        self.line.textChanged.connect(self._read)
        self.line.returnPressed.connect(self.enter_line)
        self.enter_button = button("Enter ⏎", self.enter_line, primary=True)
        self.understood = Label()
        self.understood.setTextFormat(Qt.TextFormat.RichText)
        self.understood.setWordWrap(True)
        self.understood.setMinimumHeight(round(50 * theme.text_scale()))
        self.loads = self.table("Loads", "loads", self._load_columns())
        self.supplies = self.table("Supplies", "supplies", self._supply_columns())
        self.zones = self.table("Zones", "zones", self._zone_columns())
        self.fuses = self.table("Fuses and links", "fuses", self._fuse_columns(), lambda r: f"{r[0].id} {r[1].id}")
        self.ends = self.table("Ends", "ends", self._end_columns())
        self.wires = self.table("Wire list", "wires", wire_columns(document))
        self.converters = self.table("Converters", "converters", self._converter_columns())
        self.cases = self.table("Cases", "cases", self._case_columns())
        self.rules = self.table("House rules", "rules", self._rule_columns())
        self.metre = hint("")
        self.loads.current.connect(lambda _: self._tell_metre())
        self.words = self.table("Wire words", "words", _word_columns(), lambda r: r.word)
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

    @property
    def volts(self) -> float:
        """Voltage of the first supply, for reading drops."""
        supplies = self.document.design.supplies
        return supplies[0].volts if supplies else 12.0

    def _read(self) -> None:
        """Shows what the line says so far."""
        text = self.line.text()
        if not text.strip():
            example = EXAMPLE if self.document.design.supplies else FIRST
            self.understood.setText(
                f"<span style='color:{theme.INK_SOFT.name()}'>Say it in one line, in any order: what, how much, "
                "surge, duty, "
                "at where, in which zone, run how far, from where.<br>For example: "
                f"&nbsp;<b>{escape(example)}</b></span>"
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
            self.understood.setText(escape(said) + _next_told(text, self.suggested))
        else:
            self.understood.setText(_chips(need) + _next_told(text, self.suggested))
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
            self.said.emit(f"{heard.name} is in the harness and on disk." if heard.need else f"Done: {heard.text}")

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
            self.metre.setText("Choose a load to see what a metre less to it is worth.")
            return
        worth = metre_of(analysis.figures, entry.load.id)
        self.metre.setText(
            f"A metre less to {entry.load.name} saves {show_mass(worth.copper_kg)} of conductor, "
            f"{worth.cost:.2f} in metal and {worth.volts:.2f} V, at the sizes of now."
        )

    def _entry(self, load: Load) -> object:
        analysis = self.document.results if self.document.fresh else None
        return analysis.figures.loads.get(load.id) if analysis else None

    def _volts_text(self, load: Load) -> str:
        entry = self._entry(load)
        if entry is None:
            return "…" if not self.document.fresh else "–"
        return f"{entry.volts:.2f} V" if np.isfinite(entry.volts) else "unfed"  # type: ignore[attr-defined]

    def _margin_colour(self, load: Load) -> QColor | None:
        entry = self._entry(load)
        return theme.BROKEN if entry is not None and not entry.ok else None  # type: ignore[attr-defined]

    def _why(self, load: Load) -> Derivation:
        analysis = self.document.results
        assert analysis is not None
        return why_load(analysis.design, analysis.figures, analysis.figures.loads[load.id])

    def _weakest(self, load: Load) -> str:
        """The part of its circuit that is most used."""
        entry, analysis = self._entry(load), self.document.results
        if entry is None or analysis is None or not np.isfinite(entry.volts):  # type: ignore[attr-defined]
            return ""
        if not analysis.has(chains):
            return "…"
        parts = analysis.once(chains).parts(load.id)
        return f"{100 * parts[0].used:.0f} %  {parts[0].name}" if parts else ""

    def _why_rating(self, load: Load) -> Derivation:
        analysis = self.document.results
        assert analysis is not None
        return why_rating(analysis.figures, analysis.figures.loads[load.id])

    def _place(self, load: Load) -> str:
        end = index_of(self.document.design).ends.get(load.plus.end)
        return end.name if end else f"{load.plus.end}?"

    def _zone_of(self, load: Load) -> str:
        index = index_of(self.document.design)
        end = index.ends.get(load.plus.end)
        zone = index.zones.get(end.zone or "") if end else None
        return f"{zone.name} {zone.ambient_c:g} °C" if zone else "–"

    def _load_columns(self) -> list[Column]:
        return [
            Column("Load", lambda r: r.name, lambda r, t: lambda d: rename(d, "loads", r.id, t), width=142),
            Column("Draws", _amount_text, load_amount, right=True, key=lambda r: r.value),
            Column("Surge", lambda r: f"{exact(r.surge_a)} A / {exact(r.surge_s)} s" if r.surge_a else "", load_surge),
            Column("Duty", lambda r: f"{exact(r.on_s)} s / {exact(r.period_s)} s" if r.on_s else "", load_duty),
            Column("At", self._place, width=154),
            Column("In", self._zone_of, width=150),
            Column(
                "Least",
                lambda r: f"{exact(r.min_volts)} V" if r.min_volts else "",
                parsed("loads", "min_volts", parse_volts, True),
                right=True,
            ),
            Column("Most drop", _drop_text, self._edit_drop, right=True),
            Column("Gets", self._volts_text, right=True, colour=self._margin_colour, why=self._why),
            Column("Margin", self._margin_text, right=True, colour=self._margin_colour, why=self._why),
            Column("Weakest part", self._weakest, why=self._why_rating, width=-1),
        ]

    def _margin_text(self, load: Load) -> str:
        entry = self._entry(load)
        if entry is None or not np.isfinite(entry.volts):  # type: ignore[attr-defined]
            return ""
        verdict = "✓" if entry.ok else "✕"  # type: ignore[attr-defined]
        return f"{verdict} {100 * (1 - entry.used):+.0f} %"  # type: ignore[attr-defined]

    def _edit_drop(self, load: Load, text: str) -> Edit:
        values: dict[str, float | None] = {"max_drop_percent": None, "max_drop_v": None}
        if text.strip():
            volts = parse_drop(text, self.volts, Habit(self.document.design.project.decimal))
            percent = text.strip().endswith("%")
            values["max_drop_percent" if percent else "max_drop_v"] = volts / self.volts * 100 if percent else volts
        return set_field("loads", **values)(load)

    def _supply_columns(self) -> list[Column]:
        return [
            Column("Supply", lambda r: r.name, lambda r, t: lambda d: rename(d, "supplies", r.id, t), width=220),
            Column("Volts", lambda r: f"{exact(r.volts)} V", parsed("supplies", "volts", parse_volts), right=True),
            Column(
                "Inside", lambda r: show_ohms(r.source_ohm), parsed("supplies", "source_ohm", parse_ohms), right=True
            ),
            Column("Plus", lambda r: str(r.plus)),
            Column("Minus", lambda r: str(r.minus)),
            Column("A short draws up to", _short_text, width=-1),
        ]

    def _zone_columns(self) -> list[Column]:
        return [
            Column("Zone", lambda r: r.name, lambda r, t: lambda d: rename(d, "zones", r.id, t), width=220),
            Column(
                "Ambient", lambda r: f"{exact(r.ambient_c)} °C", parsed("zones", "ambient_c", parse_celsius), right=True
            ),
            Column("Air", lambda r: f"{exact(r.air_m_s)} m/s", parsed("zones", "air_m_s", _speed), right=True),
            Column(
                "Sun",
                lambda r: f"{exact(r.sun_w_m2)} W/m²" if r.sun_w_m2 else "",
                parsed("zones", "sun_w_m2", _sun),
                right=True,
            ),
            Column(
                "Altitude",
                lambda r: show_length(r.altitude_m) if r.altitude_m else "",
                parsed("zones", "altitude_m", _altitude),
                right=True,
            ),
            Column("Traits: wet, shaking, oily, sunny, flexing, hot, enclosed", _traits, zone_flags, width=-1),
        ]

    def _fuse_columns(self) -> list[Column]:
        Row = tuple[End, Link]  # noqa: N806 a type

        def duty(row: Row) -> FuseDuty | None:
            results = self.document.now
            return (
                results.once(link_duties).get((row[0].id, row[1].id)) if results and results.has(link_duties) else None
            )

        def carries(row: Row) -> float | None:
            known = duty(row)
            return known.amps if known else None

        def reason(row: Row) -> Derivation:
            analysis = self.document.results
            assert analysis is not None
            return why_link(analysis.figures, *row)

        def amps(row: Row) -> str:
            value = carries(row)
            return "–" if value is None else f"{significant(value)} A"

        def rated(row: Row, text: str) -> Edit:
            def make(habit: Habit) -> Edit:
                rating = parse_amps(text, habit) if text.strip() else None
                return lambda design: set_fuse(design, row[0].id, row[1].id, rating)

            return Typed(make)

        def used(row: Row) -> float | None:
            known, rating = duty(row), row[1].rating_a
            most = known.all_day_a(rating, row[1].kind) if known and rating else 0.0
            return known.amps / most if known and most > 0 else None

        return [
            Column("In", lambda r: r[0].name, width=200),
            Column("Part", lambda r: f"{r[1].kind} {r[1].id}", width=150),
            Column("From", lambda r: r[1].a),
            Column("To", lambda r: r[1].b),
            Column(
                "Rating",
                lambda r: f"{exact(r[1].rating_a)} A" if r[1].rating_a else "open",
                rated,
                right=True,
                width=90,
            ),
            Column("Carries", amps, right=True, width=90, why=reason),
            Column(
                "Of what it stands all day",
                lambda r: "" if used(r) is None else f"{100 * (used(r) or 0):.0f} % used",
                bar=used,
                width=220,
                why=reason,
            ),
        ]

    def _case_columns(self) -> list[Column]:
        return [
            Column("Case", lambda r: r.name, lambda r, t: lambda d: rename(d, "cases", r.id, t), width=200),
            Column(
                "Ambient",
                lambda r: "as zones" if r.ambient_c is None else f"{exact(r.ambient_c)} °C",
                parsed("cases", "ambient_c", parse_celsius, True),
                right=True,
                width=110,
            ),
            Column(
                "Runs (new one: enter  case at anchor: all but winch)",
                lambda r: loads_text(self.document.design, r),
                lambda r, t: lambda d: set_case(d, r.name, t),
                width=-1,
            ),
        ]

    def _end_columns(self) -> list[Column]:
        def zone_name(end: End) -> str:
            zone = index_of(self.document.design).zones.get(end.zone or "")
            return zone.name if zone else ""

        def pins(end: End) -> str:
            return ", ".join(cavity.id for cavity in end.cavities)

        return [
            Column("End", lambda r: r.name, lambda r, t: lambda d: rename(d, "ends", r.id, t), width=200),
            Column("Kind", lambda r: r.kind.value, end_kind, width=110),
            Column("Zone", zone_name, end_zone, width=150),
            Column("Frame", lambda r: show_ohms(r.frame_ohm) if r.frame else "", end_frame, right=True, width=100),
            Column("Pins", pins, width=-1),
        ]

    def _converter_columns(self) -> list[Column]:
        return [
            Column(
                "Converter (new one: enter  converter 24 to 12 V 90% at house from fuse box)",
                lambda r: r.name,
                lambda r, t: lambda d: rename(d, "converters", r.id, t),
                width=520,
            ),
            Column("Makes", lambda r: f"{exact(r.volts)} V", parsed("converters", "volts", parse_volts), right=True),
            Column(
                "Efficiency",
                lambda r: f"{exact(100 * r.efficiency)} %",
                parsed("converters", "efficiency", parse_share),
                right=True,
            ),
            Column("Inside", lambda r: show_ohms(r.out_ohm), parsed("converters", "out_ohm", parse_ohms), right=True),
            Column("Fed at", lambda r: str(r.plus), width=-1),
        ]

    def fit_open_fuses(self) -> None:
        """Gives every fuse without a rating the one that fits what it carries."""
        self.taking.take(
            "fit fuses",
            "fit fuses",
            "Every fuse that can be rated has its rating.",
            "No fuse is without a rating that could be given.",
        )

    def place_missing_fuses(self) -> None:
        """Puts fuses where feeds leave the source bare, and smaller ones where a wire needs it."""
        before = self.document.design

        def told(after: Design) -> str:
            return "; ".join(fuses_between(before, after))[:200] + "."

        nothing = "Every feed has its fuse; what a smaller fuse can't mend, a thicker wire must."
        self.taking.take("place fuses", "place fuses", told, nothing)

    def _rule_columns(self) -> list[Column]:
        return [
            Column("House rule", lambda r: r.name, width=330),
            Column(
                "Value",
                lambda r: rule_text(self.document.design, r),
                set_rule,
                right=True,
                width=150,
            ),
            Column("What it does", lambda r: r.meaning, width=-1),
        ]


def _next_told(text: str, lines: list[str]) -> str:
    """What could come next, Tab taking the first."""
    base = text.rstrip()
    ends = [line[len(base) :].strip() if line.startswith(base) else line.rsplit(" ", 1)[-1] for line in lines]
    shown = " &nbsp;·&nbsp; ".join(
        f"<b>{escape(end)}</b>" if not at else escape(end) for at, end in enumerate(ends) if end
    )
    return (
        f"<br><span style='color:{theme.INK_SOFT.name()}'>next, Tab takes the first: &nbsp;{shown}</span>"
        if shown
        else ""
    )


def _chips(need: Need) -> str:
    """The pieces understood, in the line's order, then what is missing."""
    parts = []
    for piece in need.pieces:
        paper = theme.GOOD_PALE if piece.ok else theme.BROKEN_PALE
        mark = "" if piece.ok else "✕ "
        parts.append(
            f"<span style='background:{paper.name()}'>&nbsp;{mark}<span style='color:{theme.INK_SOFT.name()}'>"
            f"{piece.kind}</span> <b>{escape(piece.meaning)}</b>&nbsp;</span>"
        )
    missing = "".join(
        f" &nbsp;<span style='background:{theme.TIGHT_PALE.name()}'>&nbsp;say {escape(what)}&nbsp;</span>"
        for what in need.missing
    )
    return " &nbsp;".join(parts) + missing


def _speed(text: str, habit: Habit) -> float:
    return parse_number(text.lower().replace("m/s", ""), habit)


def _sun(text: str, habit: Habit) -> float:
    return parse_number(text.replace("W/m²", "").replace("W/m2", ""), habit) if text.strip() else 0.0


def _altitude(text: str, habit: Habit) -> float:
    return parse_length_m(text, habit=habit) if text.strip() else 0.0


def _amount_text(load: Load) -> str:
    unit = {LoadKind.CURRENT: "A", LoadKind.POWER: "W", LoadKind.RESISTANCE: "Ω"}[load.kind]
    return f"{exact(load.value, 6)} {unit}"


def _drop_text(load: Load) -> str:
    if load.max_drop_percent is not None:
        return f"{exact(load.max_drop_percent)} %"
    return f"{exact(load.max_drop_v)} V" if load.max_drop_v is not None else ""


def _short_text(supply: Supply) -> str:
    return (
        f"{significant(supply.volts / supply.source_ohm, 2)} A"
        if supply.source_ohm
        else "unknown: no resistance inside"
    )


def _traits(zone: Zone) -> str:
    words = {
        "wet": "wet",
        "vibration": "shaking",
        "oil": "oily",
        "uv": "sunny",
        "flexing": "flexing",
        "hot_metal": "hot",
        "enclosed": "enclosed",
    }
    return ", ".join(word for name, word in words.items() if getattr(zone, name))


def _word_columns() -> list[Column]:
    return [
        Column("Word", lambda r: r.word, width=96),
        Column("Kind", lambda r: r.kind, width=70),
        Column("What it is", lambda r: r.name, width=224),
        Column("Stands", lambda r: r.stands, width=370),
        Column("Weak where", lambda r: r.weak, width=220),
        Column("Source", lambda r: r.source, width=-1),
    ]
