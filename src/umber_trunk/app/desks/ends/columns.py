"""What the tables of an end show and what is typed in them: pin map, fits, house practice, order of work."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QColor

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.catalog.parts import Clamp
from umber_trunk.core.ends.assign import assign, set_fitting
from umber_trunk.core.ends.covering import Fitted, fitted
from umber_trunk.core.ends.judging import Fit
from umber_trunk.core.ends.order import Step
from umber_trunk.core.ends.practice import WEIGHTS, Matter
from umber_trunk.core.ends.reasons import why_fit
from umber_trunk.core.ends.wire_ends import WireEnd, places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import Edit, change, set_project
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.units import parse_number, significant


def known_fittings(document: Document) -> Fitted | None:
    """What every wire end wears, proposed or chosen; None while it is being worked out."""
    results = document.now
    return results.once(fitted) if results is not None and results.has(fitted) else None


def part_told(document: Document, one: WireEnd, field: str) -> str:
    """The name of what a wire end wears in one of its fields, with a ? where it is proposed; "" for nothing."""
    known, shelf = known_fittings(document), document.shelf
    fitting = known.of(one) if known is not None else one.fitting
    named = getattr(fitting, field)
    if field == "part" and named is None and one.made == "clamp" and one.housing is not None:
        clamp = shelf.get(one.housing.clamp, Clamp)
        return clamp.name if clamp else ""
    if named is None:
        return ""
    return shelf.name(named) + ("" if getattr(one.fitting, field) else "  ?")


def cavity_told(document: Document, one: WireEnd | None) -> str:
    """The chosen cavity in one line."""
    if one is None:
        return tr("Arrow keys or a label typed choose a cavity; Space looks from the other side.")
    worn = [part_told(document, one, field) for field in ("part", "seal", "ferrule", "shrink")]
    colour = f"{one.wire.colour}/{one.wire.stripe}" if one.wire.stripe else one.wire.colour
    size = show_size(one.wire.size) if one.wire.size else ""
    core = places_of(document.design, document.shelf).core(one.wire)
    told = tr("core {mark}, by its {told_by}", mark=core.mark, told_by=core.told_by) if core is not None else ""
    first = f"{one.label}: {one.wire.id} {one.wire.name}"
    return "  ·  ".join(text for text in (first, colour, told, size, *worn) if text)


def _part_edit(document: Document, field: str) -> Callable[[WireEnd, str], Edit]:
    def make(one: WireEnd, text: str) -> Edit:
        said = text.strip().removesuffix("?").strip()
        shelf = document.shelf
        named = next(
            (part.id for part in shelf.parts.values() if said.lower() in (part.id.lower(), part.name.lower())), None
        )
        if said and named is None:
            raise InputError.of("any.no-catalogue", text=said)
        return lambda design: set_fitting(design, one.wire.id, one.side, shelf, **{field: named})

    return make


def pin_columns(document: Document) -> list[Column]:
    """Pin map: a cavity, a part or a seal typed is an edit."""

    def cavity(one: WireEnd, text: str) -> Edit:
        return lambda design: assign(design, one.wire.id, one.side, text, document.shelf)

    return [
        Column("Cavity", lambda r: r.label, cavity, key=lambda r: (len(r.label), r.label)),
        Column("Wire", lambda r: r.wire.id),
        Column("Colour", lambda r: r.wire.colour, swatch=lambda r: (r.wire.colour, r.wire.stripe), width=130),
        Column("For", lambda r: r.wire.name or r.wire.circuit, width=100),
        Column("Part", lambda r: part_told(document, r, "part"), _part_edit(document, "part"), width=230),
        Column("■", lambda r: "■" if r.fitting.locked else ""),
        Column(
            "Seal or ferrule",
            lambda r: (
                part_told(document, r, "seal") or part_told(document, r, "ferrule") or part_told(document, r, "shrink")
            ),
            _part_edit(document, "seal"),
            width=-1,
        ),
    ]


def fit_columns(document: Document) -> list[Column]:
    """Every fit with its figure beside its band."""

    def band(fit: Fit) -> str:
        low, high = (None if side is None else significant(side) for side in (fit.low, fit.high))
        if low and high:
            return tr("{low} to {high} {unit}", low=low, high=high, unit=fit.unit)
        return f"≤ {high} {fit.unit}" if high else f"≥ {low} {fit.unit}" if low else ""

    def name(fit: Fit) -> str:
        end = index_of(document.design).ends.get(fit.end)
        return f"{end.name if end else fit.end} {fit.cavity}".strip() + (f", {fit.wire}" if fit.wire else "")

    def colour(fit: Fit) -> QColor | None:
        return None if fit.ok else theme.BROKEN

    return [
        Column("", lambda r: "✓" if r.ok else "✕", colour=colour, key=lambda r: r.ok),
        Column("Where", name, colour=colour, width=210),
        Column("Rule", lambda r: r.rule.replace(".", " "), colour=colour, why=why_fit, width=130),
        Column(
            "Is",
            lambda r: "" if r.value is None else f"{significant(r.value)} {r.unit}",
            right=True,
            why=why_fit,
            colour=colour,
        ),
        Column("Has to be", band, right=True, why=why_fit),
        Column("Part", lambda r: r.part + (" ?" if r.proposed else ""), why=why_fit, width=-1),
    ]


def school_columns(document: Document) -> list[Column]:
    """House practice: the school kept, and the others by number."""

    def value(matter: Matter) -> str:
        return str(getattr(document.design.project.practice, matter.field))

    def kept(matter: Matter) -> str:
        if matter in WEIGHTS:
            return f"{float(value(matter)):g}"
        number, school = next((n, s) for n, s in enumerate(matter.schools, 1) if s.value == value(matter))
        return f"{number}  {school.says}"

    def others(matter: Matter) -> str:
        if matter in WEIGHTS:
            return matter.schools[0].says
        rest = [(n, s) for n, s in enumerate(matter.schools, 1) if s.value != value(matter)]
        return ",  ".join(f"{n}  {school.says}" for n, school in rest)

    def edit(matter: Matter, text: str) -> Edit:
        said = text.strip()
        if matter in WEIGHTS:
            figure = parse_number(said)
            return lambda design: set_project(
                design, practice=change(design.project.practice, **{matter.field: figure})
            )
        school = next(
            (s for n, s in enumerate(matter.schools, 1) if said.split(" ")[0] == str(n) or said.lower() == s.says),
            None,
        )
        if school is None:
            known = "; ".join(f"{n} {s.says}" for n, s in enumerate(matter.schools, 1))
            raise InputError.of("window.none-of-these", said=said, known=known)
        return lambda design: set_project(
            design, practice=change(design.project.practice, **{matter.field: school.value})
        )

    return [
        Column("Matter", lambda r: r.name, width=190),
        Column("Kept here", kept, edit, width=190),
        Column("Or", others, width=-1),
    ]


def step_columns() -> list[Column]:
    """What must be done before what."""

    def text(step: Step) -> str:
        return step.text + (f"  {step.told}" if step.told else "")

    return [
        Column("", lambda r: r.op, width=62),
        Column("Wire", lambda r: r.wire),
        Column("Step", text, width=-1),
    ]
