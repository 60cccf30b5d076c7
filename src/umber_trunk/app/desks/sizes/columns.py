"""What the tables of sizes show: the share of each limit a wire uses, why, and what a size typed does."""

from __future__ import annotations

from collections.abc import Callable

from umber_trunk.app.document import Document
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.catalog.conductors import area_of, parse_spec, show_size
from umber_trunk.core.explain.about_fuses import why_fuse, why_start
from umber_trunk.core.explain.about_wires import why_heat, why_load, why_size, why_wire_drop
from umber_trunk.core.harness.edits import Edit, change, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sizes.candidates import Candidate
from umber_trunk.core.solve.used import Figures, Limit, WireFigures
from umber_trunk.core.units import significant
from umber_trunk.core.why import Derivation

Reason = Callable[..., Derivation]


def wire_columns(document: Document, shown: Callable[[Results], Figures]) -> list[Column]:
    """Wires with bars of what they use of each limit; `shown`: the figures of the case that is looked at."""

    def why(reason: Reason) -> Callable[[WireFigures], Derivation]:
        def ask(wire: WireFigures) -> Derivation:
            analysis = document.results
            assert analysis is not None
            return reason(analysis.design, shown(analysis), wire)

        return ask

    def used(*limits: Limit) -> Callable[[WireFigures], float | None]:
        def bar(wire: WireFigures) -> float | None:
            uses = [use.used for use in wire.uses if use.limit in limits]
            return max(uses) if uses else None

        return bar

    def name(wire: WireFigures) -> str:
        mark = "✕ " if wire.rank[0] < -1 else ""
        return f"{mark}{wire.wire.id}  {wire.wire.name or wire.wire.circuit}"

    def size(wire: WireFigures) -> str:
        many = f"{wire.wire.parallel} × " if wire.wire.parallel > 1 else ""
        proposed = " ?" if wire.wire.size is None and wire.size_known else ""
        return f"{many}{show_size(wire.shown_size)}{proposed}{' ■' if wire.wire.locked else ''}"

    def limit(title: str, why: Callable[[WireFigures], Derivation], *limits: Limit, width: int = 96) -> Column:
        share = used(*limits)
        return Column(title, _percent(share), bar=share, why=why, key=lambda wire: share(wire) or 0.0, width=width)

    return [
        Column("Wire", name, why=why(why_size), width=158),
        Column(
            "Size",
            size,
            _set_size,
            right=True,
            why=why(why_size),
            key=lambda r: area_of(r.size) if r.size_known else 0.0,
        ),
        Column("Amps", lambda r: significant(r.amps), right=True, why=why(why_wire_drop), key=lambda r: r.amps),
        limit(word("Drop"), lambda r: _why_drop(document, r), Limit.DROP),
        limit(word("Heat"), why(why_heat), Limit.HEAT),
        Column("°C", lambda r: f"{r.conductor_c:.0f}", right=True, why=why(why_heat), key=lambda r: r.conductor_c),
        limit(word("Start"), why(why_start), Limit.SURGE, Limit.DIP),
        limit(word("Fuse"), why(why_fuse), Limit.FUSE, width=-1),
    ]


def step_columns() -> list[Column]:
    """Steps round a wire's size, each solved."""
    return [
        Column("", lambda r: {0: "▶ now", 1: "one up", -1: "one down"}.get(r.step, f"{r.step:+d}")),
        Column("Size", lambda r: show_size(r.size), right=True),
        Column("°C", lambda r: f"{r.wire.conductor_c:.0f}", right=True),
        Column("Load gets", _load_text, right=True),
        Column("Worst limit", _worst_text, bar=lambda r: r.wire.worst.used, width=64),
        Column("Copper", lambda r: f"{1000 * r.copper_kg:+.0f} g" if r.step else "–", right=True, width=-1),
    ]


def _why_drop(document: Document, wire: WireFigures) -> Derivation:
    """The worst load's loop if it serves one, else the wire's own drop."""
    analysis = document.results
    assert analysis is not None
    subject = next(use.subject for use in wire.uses if use.limit is Limit.DROP)
    if subject in analysis.figures.loads:
        return why_load(analysis.design, analysis.figures, analysis.figures.loads[subject])
    return why_wire_drop(analysis.design, analysis.figures, wire)


def _set_size(wire: WireFigures, text: str) -> Edit:
    def act(design: Design) -> Design:
        values = parse_spec(text, design.project.series, design.project.decimal)
        return put(design, "wires", change(index_of(design).wires[wire.wire.id], **values))

    return act


def _percent(used: Callable[[WireFigures], float | None]) -> Callable[[WireFigures], str]:
    def text(wire: WireFigures) -> str:
        value = used(wire)
        return "" if value is None else tr("{value:.0f} % used", value=100 * value)

    return text


def _load_text(candidate: Candidate) -> str:
    return f"{candidate.load_volts:.2f} V" if candidate.load_name else "–"


def _worst_text(candidate: Candidate) -> str:
    return tr("{limit}: {used:.0f} % used", limit=candidate.wire.worst.limit, used=100 * candidate.wire.worst.used)
