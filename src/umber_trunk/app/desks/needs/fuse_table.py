"""The table of fuses and other links of ends."""

from __future__ import annotations

from umber_trunk.app.document import Document
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.explain.about_fuses import why_link
from umber_trunk.core.fuses.fit import FuseDuty, link_duties
from umber_trunk.core.harness.edits import Edit, set_fuse
from umber_trunk.core.harness.end import End, Link
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.quantity import Habit, exact
from umber_trunk.core.units import parse_amps, significant
from umber_trunk.core.why import Derivation

Row = tuple[End, Link]


def fuse_columns(document: Document) -> list[Column]:
    """Every fuse and link, with what it carries of what it stands all day."""

    def duty(row: Row) -> FuseDuty | None:
        results = document.now
        return results.once(link_duties).get((row[0].id, row[1].id)) if results and results.has(link_duties) else None

    def carries(row: Row) -> float | None:
        known = duty(row)
        return known.amps if known else None

    def reason(row: Row) -> Derivation:
        analysis = document.results
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
            lambda r: "" if used(r) is None else tr("{r:.0f} % used", r=100 * (used(r) or 0)),
            bar=used,
            width=220,
            why=reason,
        ),
    ]
