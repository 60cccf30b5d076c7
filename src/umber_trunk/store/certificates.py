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

NOTE = (
    "What was read is what it is certified by. Engineering estimates stand beside it; the applicable code and a "
    "licensed person decide on its use."
)
NO_PROOF = (
    "This is a record of what was read, no certificate: the unit is not proven. The applicable code and a "
    "licensed person decide on its use."
)
MOST_NAMES = 60


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
        tables.append(PaperTable(("Likeliest fault", "Probability"), (0.84, 0.16), (1,), faults))
    if record.tests:
        widths = (0.05, 0.12, 0.22, 0.22, 0.15, 0.18, 0.06)
        tests = tuple(_test_row(act) for _, act in record.tests)
        tables.append(PaperTable(("No", "Test", "From", "To", "Read", "Band", ""), widths, (0, 4), tests))
    tables += _told_of(record)
    tables += decision_tables(results.design)
    if whole:
        tables += _book(record)
    state = f"proven, {proven.tests} tests" if proven is not None else f"not proven: {record.state}"
    if record.left:
        state += f"; not finished, {record.left} steps are open"
    title = "as-built book" if whole else title_of(record)
    return Printed(
        f"{results.design.project.name}: {title}, {record.name}",
        state,
        proven is not None,
        tuple(tables),
        NOTE if proven is not None else NO_PROOF,
    )


def _head(results: Results, record: UnitRecord, seal: tuple[int, str]) -> list[tuple[str, str]]:
    """What the unit is, what of it is made, by whom it is proven, and where the log stood."""
    proven = record.proven if record.certain else None
    if record.as_is is not None:
        made = "as it came: its steps aren’t in the log"
    else:
        made = f"{record.left} steps are not done" if record.left else "every step is done"
    if proven is not None:
        by = f"{proven.who}, {moment(proven.at_ms)}"
    else:
        by = f"not proven: {record.state}" + (f"; {record.why}" if record.why else "")
    rows = [
        ("Harness", results.design.project.name),
        ("Unit", record.name),
        ("Build", f"{record.build} / {record.unit}"),
        ("Revision", str(record.revision)),
        ("Begun", moment(record.begun_ms)),
        ("Hands", ", ".join(sorted(record.hands)) or "not said"),
        ("Coils", ", ".join(sorted(record.coils)) or "not said"),
        ("Made", made),
        ("Proven by", by),
        ("Log", f"{seal[0]} entries, seal {seal[1]}"),
    ]
    if record.as_is is not None:
        event, act = record.as_is
        rows.insert(0, ("Taken as it is", f"{act.who}, {day(event.at_ms)}: {act.why}"))
    if record.earlier:
        rows.append(("Planned", "by an earlier format; its order was planned once more and frozen since"))
    return rows


def _told_of(record: UnitRecord) -> list[PaperTable]:
    """What the readings can't tell, what was done otherwise and by whom, and what was struck."""
    tables = []
    if record.untold:
        by = f"; taken so by {record.untold_by}" if record.untold_by else ""
        rows = tuple((one,) for one in record.untold)
        tables.append(PaperTable((f"What these readings can’t tell{by}",), (1.0,), (), rows))
    if record.said:
        said = tuple((said_of(act), act.who, moment(event.at_ms)) for event, act in record.said)
        tables.append(PaperTable(("Deviations, releases, repairs", "Who", "When"), (0.66, 0.16, 0.18), (), said))
    if record.struck:
        struck = tuple(
            (f"entry {one.n}, {one.kind}", f"{act.who}: {act.why}", moment(at.at_ms)) for one, at, act in record.struck
        )
        tables.append(PaperTable(("Struck", "Who and why", "When"), (0.3, 0.52, 0.18), (), struck))
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
                ("Step", "Tool", "Setting", "Coil", "Hand", "When"), (0.34, 0.2, 0.14, 0.08, 0.1, 0.14), (), steps
            )
        )
    reads = tuple(
        (e.step.partition("|")[2], act.what, f"{act.value:g} {act.unit}", _band(act.low, act.high), act.verdict, act.by)
        for e, act in record.readings
    )
    if reads:
        found.append(
            PaperTable(
                ("At", "Measured", "Read", "Band", "Verdict", "By"), (0.34, 0.12, 0.14, 0.18, 0.12, 0.1), (2,), reads
            )
        )
    before = tuple(_test_row(act) for _, act in record.before)
    if before:
        found.append(
            PaperTable(
                ("No", "Test before", "From", "To", "Read", "Band", ""),
                (0.05, 0.12, 0.22, 0.22, 0.15, 0.18, 0.06),
                (0, 4),
                before,
            )
        )
    faults = tuple((act.says, e.step.partition("|")[2], moment(e.at_ms)) for e, act in record.defects)
    if faults:
        found.append(PaperTable(("Fault seen", "At", "When"), (0.4, 0.42, 0.18), (), faults))
    again = tuple(
        (f"{act.wire} {act.side if isinstance(act, Remake) else ''}", act.kind, act.why, moment(e.at_ms))
        for e, act in rows_again(record)
    )
    if again:
        found.append(PaperTable(("Started over", "", "Why", "When"), (0.22, 0.1, 0.5, 0.18), (), again))
    return found


def rows_again(record: UnitRecord) -> list[tuple[Event, Remake | Scrap]]:
    """Ends started over, then wires given up."""
    return [*record.remakes, *record.scrapped]


def _test_row(act: Test) -> tuple[str, ...]:
    read = "nothing" if act.over else "" if act.value is None else f"{act.value:.4g} {act.unit}"
    return (
        str(act.n or "+"),
        act.test,
        _short(act.a),
        _short(act.b),
        read,
        _band(act.low, act.high),
        "✓" if act.ok else "✕",
    )


def _short(text: str) -> str:
    return text if len(text) <= MOST_NAMES else text[: MOST_NAMES - 2] + " …"


def _band(low: float | None, high: float | None) -> str:
    if low is not None and high is not None:
        return f"{low:.4g} to {high:.4g}"
    return f"at least {low:.4g}" if low is not None else f"at most {high:.4g}" if high is not None else ""


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
