"""A unit's certificate, test record and as-built book as values for paper, CSV and JSON."""

from __future__ import annotations

from typing import Any

from umber_trunk.core.keep.unit_record import UnitRecord, said_of
from umber_trunk.core.kit.tables import decision_tables
from umber_trunk.core.make.events import Event, Remake, Scrap
from umber_trunk.core.make.unit_acts import Test
from umber_trunk.core.moments import day, moment
from umber_trunk.core.printed import PaperTable, Printed
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import heads, say
from umber_trunk.core.units import show_ohms

MOST_NAMES = 60
OHMS = "Ω"


def title_of(record: UnitRecord) -> str:
    """What its paper is: a certificate of what is proven alone."""
    return "certificate" if record.certain else "test record"


def certificate(results: Results, record: UnitRecord, seal: tuple[int, str], whole: bool = False) -> Printed:
    """The certificate of one unit, or its test record where it isn't proven: what it is, every test with its band and
    reading, who; `whole`: with each step, reading and deviation too."""
    proven = record.proven if record.certain else None
    tables = [PaperTable(("", ""), (0.16, 0.84), (), tuple(_head(results, record, seal)))]
    if record.found and proven is None:
        faults = tuple((act.says, _share(act.probability)) for _, act in record.found)
        tables.append(PaperTable(heads("likeliest-fault", "probability"), (0.84, 0.16), (1,), faults))
    if record.tests:
        widths = (0.05, 0.12, 0.22, 0.22, 0.15, 0.18, 0.06)
        tests = tuple(_test_row(act) for _, act in record.tests)
        tables.append(PaperTable(heads("no", "test", "from", "to", "read", "band", ""), widths, (0, 4), tests))
    tables += _told_of(record)
    tables += decision_tables(results.design)
    if whole:
        tables += _book(record)
    many = proven.tests if proven is not None else 0
    state = say("unit.paper.state", proven=proven is not None, tests=many, state=record.state_told, left=record.left)
    key = "book" if whole else "certificate" if record.certain else "record"
    return Printed(
        say(f"unit.paper.{key}", project=results.design.project.name, unit=record.name),
        state,
        proven is not None,
        tuple(tables),
        say("unit.paper.certified" if proven is not None else "unit.paper.no-proof"),
    )


def _head(results: Results, record: UnitRecord, seal: tuple[int, str]) -> list[tuple[str, str]]:
    """What the unit is, what of it is made, by whom it is proven, and where the log stood."""
    proven = record.proven if record.certain else None
    made = say("unit.paper.made", left=record.left)
    if record.as_is is not None:
        made = say("unit.paper.as-it-came")
    if proven is not None:
        by = f"{proven.who}, {moment(proven.at_ms)}"
    else:
        by = say("unit.paper.not-proven", state=record.state_told, why=record.why)
    unsaid = say("unit.paper.not-said")
    rows = [
        ("harness", results.design.project.name),
        ("unit", record.name),
        ("build", f"{record.build} / {record.unit}"),
        ("revision", str(record.revision)),
        ("begun", moment(record.begun_ms)),
        ("hands", ", ".join(sorted(record.hands)) or unsaid),
        ("coils", ", ".join(sorted(record.coils)) or unsaid),
        ("made", made),
        ("proven-by", by),
        ("log", say("unit.paper.log", entries=seal[0], seal=seal[1])),
    ]
    if record.as_is is not None:
        event, act = record.as_is
        rows.insert(0, ("taken-as-it-is", f"{act.who}, {day(event.at_ms)}: {act.why}"))
    if record.earlier:
        rows.append(("planned", say("unit.paper.planned-anew")))
    return [(say(f"paper.head.{key}"), text) for key, text in rows]


def _told_of(record: UnitRecord) -> list[PaperTable]:
    """What the readings can't tell, what was done otherwise and by whom, and what was struck."""
    tables = []
    if record.untold:
        rows = tuple((one,) for one in record.untold)
        tables.append(PaperTable((say("unit.paper.cannot-tell", by=record.untold_by),), (1.0,), (), rows))
    if record.said:
        said = tuple((said_of(act), act.who, moment(event.at_ms)) for event, act in record.said)
        tables.append(PaperTable(heads("deviations", "who", "when"), (0.66, 0.16, 0.18), (), said))
    if record.struck:
        struck = tuple(
            (say("unit.paper.entry", n=one.n, kind=one.kind), f"{act.who}: {act.why}", moment(at.at_ms))
            for one, at, act in record.struck
        )
        tables.append(PaperTable(heads("struck", "who-and-why", "when"), (0.3, 0.52, 0.18), (), struck))
    return tables


def _book(record: UnitRecord) -> list[PaperTable]:
    found = []
    steps = tuple(
        (
            key.partition("|")[2],
            *(str(e.data.get(name) or "") for name in ("tool", "setting", "coil", "hand")),
            moment(e.at_ms),
        )
        for key, e in record.done.items()
    )
    if steps:
        found.append(
            PaperTable(
                heads("step", "tool", "setting", "coil", "hand", "when"), (0.34, 0.2, 0.14, 0.08, 0.1, 0.14), (), steps
            )
        )
    reads = tuple(
        (e.step.partition("|")[2], act.what, f"{act.value:g} {act.unit}", _band(act.low, act.high), act.verdict, act.by)
        for e, act in record.readings
    )
    if reads:
        found.append(
            PaperTable(
                heads("at", "measured", "read", "band", "verdict", "by"),
                (0.34, 0.12, 0.14, 0.18, 0.12, 0.1),
                (2,),
                reads,
            )
        )
    before = tuple(_test_row(act) for _, act in record.before)
    if before:
        found.append(
            PaperTable(
                heads("no", "test-before", "from", "to", "read", "band", ""),
                (0.05, 0.12, 0.22, 0.22, 0.15, 0.18, 0.06),
                (0, 4),
                before,
            )
        )
    faults = tuple((act.says, e.step.partition("|")[2], moment(e.at_ms)) for e, act in record.defects)
    if faults:
        found.append(PaperTable(heads("fault-seen", "at", "when"), (0.4, 0.42, 0.18), (), faults))
    again = tuple(
        (f"{act.wire} {act.side if isinstance(act, Remake) else ''}", act.kind, act.why, moment(e.at_ms))
        for e, act in rows_again(record)
    )
    if again:
        found.append(PaperTable(heads("started-over", "", "why", "when"), (0.22, 0.1, 0.5, 0.18), (), again))
    return found


def rows_again(record: UnitRecord) -> list[tuple[Event, Remake | Scrap]]:
    """Ends started over, then wires given up."""
    return [*record.remakes, *record.scrapped]


def _test_row(act: Test) -> tuple[str, ...]:
    read = say("unit.paper.nothing") if act.over else "" if act.value is None else _figure(act.value, act.unit)
    return (
        str(act.n or "+"),
        act.test,
        _short(act.a),
        _short(act.b),
        read,
        _band(act.low, act.high, act.unit if act.unit == OHMS else ""),
        "✓" if act.ok else "✕",
    )


def _short(text: str) -> str:
    return text if len(text) <= MOST_NAMES else text[: MOST_NAMES - 2] + " …"


def _band(low: float | None, high: float | None, unit: str = "") -> str:
    least, most = (None if one is None else _figure(one, unit) for one in (low, high))
    if least is not None and most is not None:
        return say("unit.paper.between", low=least, high=most)
    if least is not None:
        return say("unit.paper.at-least", low=least)
    return say("unit.paper.at-most", high=most) if most is not None else ""


def _figure(value: float, unit: str) -> str:
    """A reading with four figures: ohms with their prefix, since a leak's stand in millions."""
    if unit == OHMS:
        return show_ohms(value, lambda ohms: f"{ohms:.4g}")
    return f"{value:.4g} {unit}".rstrip()


def _share(value: float | None) -> str:
    return f"{100 * value:.0f} %" if value is not None else ""


def plain(record: UnitRecord, seal: tuple[int, str]) -> dict[str, Any]:
    """Everything of a unit as plain data, for JSON."""
    events = {
        name: [{"at_ms": e.at_ms, "step": e.step, **dict(e.data)} for e, _ in getattr(record, name)]
        for name in ("readings", "tests", "before", "defects", "remakes", "scrapped", "said", "found")
    }
    proven = record.proven
    return {
        "title": title_of(record),
        "build": record.build,
        "unit": record.unit,
        "serial": record.serial,
        "revision": record.revision,
        "state": record.state,
        "why": record.why,
        "begun_ms": record.begun_ms,
        "as_is": {"at_ms": record.as_is[0].at_ms, **dict(record.as_is[0].data)} if record.as_is is not None else None,
        "design": record.design,
        "order": record.order,
        "hands": sorted(record.hands),
        "tools": sorted([t, s] for t, s in record.tools),
        "coils": {coil: sorted(wires) for coil, wires in sorted(record.coils.items())},
        "steps": [{"step": key, "at_ms": e.at_ms, **dict(e.data)} for key, e in record.done.items()],
        "steps_left": record.left,
        **events,
        "struck": [
            {"entry": one.n, "kind": one.kind, "who": act.who, "why": act.why, "at_ms": at.at_ms}
            for one, at, act in record.struck
        ],
        "proven": {"at_ms": proven.at_ms, "ok": True, "who": proven.who, "tests": proven.tests}
        if proven is not None
        else None,
        "log_entries": seal[0],
        "seal": seal[1],
        "cannot_tell": list(record.untold),
    }


def rows(record: UnitRecord) -> list[list[str | int | float | None]]:
    """Tests and readings of a unit as a table, for CSV; each row says whether it is of a certificate."""
    of = (title_of(record), record.state)
    found: list[list[str | int | float | None]] = [
        ["unit", "what", "number or step", "from", "to", "value", "unit of it", "low", "high", "ok", "by", "when", "paper", "state"],
    ]  # fmt: skip
    for e, act in record.tests:
        value = None if act.over else act.value
        found.append(
            [
                record.name,
                act.test,
                act.n,
                act.a,
                act.b,
                value,
                act.unit,
                act.low,
                act.high,
                "yes" if act.ok else "no",
                act.by,
                moment(e.at_ms),
                *of,
            ]
        )
    for e, read in record.readings:
        found.append(
            [
                record.name,
                read.what,
                e.step,
                "",
                "",
                read.value,
                read.unit,
                read.low,
                read.high,
                read.verdict,
                read.by,
                moment(e.at_ms),
                *of,
            ]
        )
    return found
