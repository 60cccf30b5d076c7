"""What the page of a unit says: how it stands, how its wires are, its tests, the way to another revision."""

from __future__ import annotations

from typing import Any

from PySide6.QtGui import QColor

from umber_trunk.app import theme
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.keep.compare import Upgrade, compare
from umber_trunk.core.keep.record import made_wires
from umber_trunk.core.keep.unit_record import UnitRecord, said_of
from umber_trunk.core.make.events import Remake
from umber_trunk.core.make.frozen import Frozen
from umber_trunk.core.moments import moment
from umber_trunk.core.prove.testsheet import show
from umber_trunk.core.results import Results
from umber_trunk.store.certificates import rows_again
from umber_trunk.store.keeping import plan_upgrade
from umber_trunk.store.project import ProjectFile


def states_of(record: UnitRecord, frozen: Frozen) -> dict[str, str]:
    """How each wire of a unit stands: in, failed, or tested once it is proven, by readings of the unit itself."""
    making = frozen.making
    if record.certain:
        return dict.fromkeys(making.wires, "tested")
    states = dict.fromkeys(made_wires(record, making), "in")
    for _, act in record.found:
        states |= dict.fromkeys(act.where.split(","), "failed")
    for _, seen in record.open_defects:
        states |= {
            wire.id: "failed" for wire in frozen.design.wires if seen.wire and seen.wire in (wire.id, wire.cable)
        }
    return states


def ahead(
    project: ProjectFile, record: UnitRecord, revision: int | None, parts: Shelf, known: Results | None
) -> tuple[str, tuple[int, Upgrade] | None]:
    """What brings a unit to another revision, in words, and the way there."""
    if revision is None:
        return tr("There is no other revision."), None
    found = plan_upgrade(project, f"{record.build}/{record.unit}", int(revision), parts, known)
    differs = compare(project.design_at(record.revision), project.design_at(int(revision))).wires
    rows = [
        found.told,
        "",
        tr("wires added: {wires}", wires=", ".join(differs.added) or tr("none")),
        tr("wires gone: {wires}", wires=", ".join(differs.gone) or tr("none")),
        *(f"{one.id}: " + "; ".join(f"{what} {a} → {b}" for what, a, b in one.what) for one in differs.changed),
        "",
        tr("To do:"),
        *(f"  {key}" for key in found.todo[:400]),
    ]
    return "\n".join(rows), (int(revision), found)


def unit_columns() -> list[Column]:
    """The list of units."""

    def ink(one: UnitRecord) -> QColor:
        if one.was is not None and one.proven is None and not one.moved_to:
            return theme.BROKEN
        return {"proven": theme.GOOD, "faulty": theme.BROKEN, "proven in simulation": theme.TIGHT_TEXT}.get(
            one.state, theme.INK_SOFT
        )

    def state(one: UnitRecord) -> str:
        if one.was is not None and one.proven is None and not one.moved_to and not one.faulty:
            return tr("△ proof ended")
        short = {"proven": tr("✓ proven"), "faulty": tr("✕ faulty"), "proven in simulation": tr("simulated")}
        return short.get(one.state, one.state_told)

    return [
        Column("Unit", lambda r: r.name, width=100),
        Column("Rev", lambda r: str(r.revision), right=True, key=lambda r: r.revision, width=40),
        Column("", state, colour=ink, width=-1),
        Column("Steps", lambda r: str(len(r.done)), right=True, key=lambda r: len(r.done), width=50),
        Column("Tests", lambda r: str(len(r.tests)), right=True, key=lambda r: len(r.tests), width=50),
        Column("Remakes", lambda r: str(len(r.remakes)), right=True, key=lambda r: len(r.remakes), width=64),
        Column("Coils", lambda r: str(len(r.coils)), right=True, key=lambda r: len(r.coils), width=44),
    ]


def _line(name: str, said: str) -> str:
    """One thing that stands of a unit: what, in a column of its own, and how."""
    return f"{tr(name):<10} {said}"


def open_of(record: UnitRecord) -> list[str]:
    """What stands first of a unit: who took it as it is, what is left, what was struck."""
    rows = []
    if record.as_is is not None:
        event, act = record.as_is
        rows.append(
            _line("as it is", tr("taken by {who}, {when}: {why}", who=act.who, when=moment(event.at_ms), why=act.why))
        )
    if record.left:
        rows.append(_line("to make", tr("{left} of {steps} steps", left=record.left, steps=record.steps)))
    rows += [
        _line("struck", tr("entry {n}, {kind}, by {who}: {why}", n=one.n, kind=one.kind, who=act.who, why=act.why))
        for one, _, act in record.struck
    ]
    if record.earlier:
        rows.append(_line("planned", tr("by an earlier format; planned once more and frozen since")))
    return rows


def proven_told(record: UnitRecord) -> str:
    """What stands before the reason: nothing where a unit is proven."""
    if record.proven is not None:
        return ""
    if record.was is not None:
        return tr("not now: ")
    return tr("not yet: ") if record.why else tr("not yet")


def record_told(record: UnitRecord) -> str:
    """Everything that stands of a unit: when, who, of which coils, with which tools, what went wrong."""
    rows = [
        _line("begun", moment(record.begun_ms)),
        _line("last entry", moment(record.last_ms)),
        _line("hands", ", ".join(sorted(record.hands)) or tr("not said")),
        _line("proven", f"{proven_told(record)}{record.why}"),
        *open_of(record),
        "",
        tr("Coils"),
        *(f"  {coil}: {', '.join(sorted(wires))}" for coil, wires in sorted(record.coils.items())),
        "",
        tr("Tools and settings"),
        *(f"  {tool}{', ' + setting if setting else ''}" for tool, setting in sorted(record.tools)),
    ]
    if record.found:
        rows += ["", tr("Likeliest faults"), *(f"  ✕ {act.says}" for _, act in record.found)]
    if record.said:
        rows += [
            "",
            tr("Deviations, releases, repairs"),
            *(f"  {said_of(act)}, {act.who}, {moment(event.at_ms)}" for event, act in record.said),
        ]
    if record.remakes or record.scrapped:
        rows += [
            "",
            tr("Started over"),
            *(f"  {act.wire} {act.side if isinstance(act, Remake) else ''} {act.why}" for _, act in rows_again(record)),
        ]
    if record.readings:
        rows += [
            "",
            tr("Measured at the bench"),
            *(
                f"  {act.what} {act.value:g} {act.unit}: {act.verdict}  {event.step.partition('|')[2]}"
                for event, act in record.readings
            ),
        ]
    return "\n".join(rows)


def tests_told(record: UnitRecord) -> str:
    """Its tests, those with a figure first."""
    rows = [f"{record.state_told}: {record.why}", ""] if record.why else []
    for act in sorted((act for _, act in record.tests), key=lambda one: not one.unit):
        read = "nothing" if act.over else "" if act.value is None else show(act.value, act.unit)
        a, b = act.a[:34], act.b[:34]
        rows.append(f"{'✓' if act.ok else '✕'} {act.n or '+':>3} {act.test:<10} {read:>9}  {a}{' – ' + b if b else ''}")
    if record.before:
        rows += [
            "",
            tr(
                "{count} tests before are records: what was tested then isn’t what there is now.",
                count=len(record.before),
            ),
        ]
    return "\n".join(rows) or tr("Not tested yet: prove it on the Prove desk.")


def repair_told(found: Any) -> str:
    """What is left at each end, what it would take to make all anew, what happened to it."""
    rows = [tr("Remakes left at each end, and what a start takes:"), ""]
    for end in found.ends:
        left = f"{tr('{times} left', times=end.times)}, {end.left_mm:.0f} mm"
        rows.append(f"  {'✕' if not end.times else ' '} {end.wire:<8} {end.place:<28} {left}   {', '.join(end.parts)}")
    rows += ["", tr("Parts, if every end were made anew:"), *(f"  {count} × {part}" for part, count in found.buy)]
    if found.story:
        rows += ["", tr("What happened to it:"), *(f"  {row}" for row in found.story)]
    return "\n".join(rows)
