"""The table of loads: what each draws, what it may lose, what arrives, and the weakest part of its circuit."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QColor

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.typed import load_amount, load_duty, load_surge, parsed, set_field
from umber_trunk.core.explain.about_wires import why_load, why_rating
from umber_trunk.core.fuses.chain import chains
from umber_trunk.core.harness.edits import Edit, rename
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Load, LoadKind
from umber_trunk.core.quantity import Habit, exact
from umber_trunk.core.solve.used import LoadFigures
from umber_trunk.core.units import parse_drop, parse_volts
from umber_trunk.core.why import Derivation


class LoadTable:
    """The columns of the loads of a document, and what stands in them."""

    def __init__(self, document: Document) -> None:
        self.document = document

    def columns(self) -> list[Column]:
        """From what is asked to what arrives."""
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

    @property
    def _volts(self) -> float:
        """Voltage of the first supply, for reading drops."""
        supplies = self.document.design.supplies
        return supplies[0].volts if supplies else 12.0

    def _entry(self, load: Load) -> LoadFigures | None:
        analysis = self.document.results if self.document.fresh else None
        return analysis.figures.loads.get(load.id) if analysis else None

    def _volts_text(self, load: Load) -> str:
        entry = self._entry(load)
        if entry is None:
            return "…" if not self.document.fresh else "–"
        return f"{entry.volts:.2f} V" if np.isfinite(entry.volts) else "unfed"

    def _margin_colour(self, load: Load) -> QColor | None:
        entry = self._entry(load)
        return theme.BROKEN if entry is not None and not entry.ok else None

    def _why(self, load: Load) -> Derivation:
        analysis = self.document.results
        assert analysis is not None
        return why_load(analysis.design, analysis.figures, analysis.figures.loads[load.id])

    def _weakest(self, load: Load) -> str:
        """The part of its circuit that is most used."""
        entry, analysis = self._entry(load), self.document.results
        if entry is None or analysis is None or not np.isfinite(entry.volts):
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

    def _margin_text(self, load: Load) -> str:
        entry = self._entry(load)
        if entry is None or not np.isfinite(entry.volts):
            return ""
        verdict = "✓" if entry.ok else "✕"
        return f"{verdict} {100 * (1 - entry.used):+.0f} %"

    def _edit_drop(self, load: Load, text: str) -> Edit:
        values: dict[str, float | None] = {"max_drop_percent": None, "max_drop_v": None}
        if text.strip():
            volts = parse_drop(text, self._volts, Habit(self.document.design.project.decimal))
            percent = text.strip().endswith("%")
            values["max_drop_percent" if percent else "max_drop_v"] = volts / self._volts * 100 if percent else volts
        return set_field("loads", **values)(load)


def _amount_text(load: Load) -> str:
    unit = {LoadKind.CURRENT: "A", LoadKind.POWER: "W", LoadKind.RESISTANCE: "Ω"}[load.kind]
    return f"{exact(load.value, 6)} {unit}"


def _drop_text(load: Load) -> str:
    if load.max_drop_percent is not None:
        return f"{exact(load.max_drop_percent)} %"
    return f"{exact(load.max_drop_v)} V" if load.max_drop_v is not None else ""
