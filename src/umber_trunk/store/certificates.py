"""A unit's certificate and as-built book as values for paper, CSV and JSON."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from umber_trunk.core.keep.record import UnitRecord, open_steps
from umber_trunk.core.kit.printed import PaperTable, Printed
from umber_trunk.core.kit.tables import decision_rows
from umber_trunk.core.make.operations import operations
from umber_trunk.core.results import Results

NOTE = "What was read is what it is certified by. Engineering estimates stand beside it; the applicable code and a licensed person decide on its use."
MOST_NAMES = 60


def moment(ms: int) -> str:
    """A moment as it is printed."""
    return datetime.fromtimestamp(ms / 1000).strftime("%Y-%m-%d %H:%M")


def certificate(results: Results, record: UnitRecord, seal: tuple[int, str], whole: bool = False) -> Printed:
    """The certificate of one unit: what it is, every test with its band and reading, who; `whole`: with each step, reading and deviation too."""
    proven = record.proven if not record.simulated else None
    left = open_steps(record, results.once(operations))
    head = (
        ("Harness", results.design.project.name), ("Unit", record.name), ("Build", f"{record.build} / {record.unit}"), ("Revision", str(record.revision)), ("Begun", moment(record.begun_ms)),
        ("Hands", ", ".join(sorted(record.hands)) or "not said"), ("Coils", ", ".join(sorted(record.coils)) or "not said"),
        ("Made", "every step is done" if not left else f"{left} steps are not done"),
        ("Proven by", f"{proven.data.get('who')}, {moment(proven.at_ms)}" if proven is not None else f"not proven: {record.state}"),
        ("Log", f"{seal[0]} entries, seal {seal[1]}"),
    )  # fmt: skip
    tables = [PaperTable(("", ""), (0.16, 0.84), (), head)]
    if record.found and proven is None:
        tables.append(
            PaperTable(
                ("Likeliest fault", "Probability"),
                (0.84, 0.16),
                (1,),
                tuple((str(e.data.get("says")), _share(e.data.get("probability"))) for e in record.found),
            )
        )
    tests = tuple(_test_row(event.data) for event in record.tests)
    if tests:
        tables.append(
            PaperTable(
                ("No", "Test", "From", "To", "Read", "Band", ""),
                (0.05, 0.12, 0.22, 0.22, 0.15, 0.18, 0.06),
                (0, 4),
                tests,
            )
        )
    said = tuple(
        (str(e.data.get("says") or e.data.get("why") or ""), str(e.data.get("who") or ""), moment(e.at_ms))
        for e in record.said
    )
    if said:
        tables.append(PaperTable(("Deviations, releases, repairs", "Who", "When"), (0.66, 0.16, 0.18), (), said))
    decided = decision_rows(results.design)
    if len(decided) > 1:
        tables.append(
            PaperTable(
                tuple(str(cell).capitalize() for cell in decided[0]),
                (0.1, 0.2, 0.2, 0.2, 0.3),
                (),
                tuple(tuple(map(str, row)) for row in decided[1:]),
            )
        )
    if whole:
        tables += _book(record)
    state = f"proven, {len(record.tests)} tests" if proven is not None else f"not proven: {record.state}"
    if left:
        state += f"; not finished, {left} steps are open"
    return Printed(
        f"{results.design.project.name}: {'as-built book' if whole else 'certificate'}, {record.name}",
        state,
        proven is not None and not left,
        tuple(tables),
        NOTE,
    )


def _book(record: UnitRecord) -> list[PaperTable]:
    found = []
    steps = tuple(
        (
            key.partition("|")[2],
            str(e.data.get("tool") or ""),
            str(e.data.get("setting") or ""),
            str(e.data.get("coil") or ""),
            str(e.data.get("hand") or ""),
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
        (
            e.step.partition("|")[2],
            str(e.data.get("what")),
            f"{e.data.get('value'):g} {e.data.get('unit')}",
            _band(e.data),
            str(e.data.get("verdict")),
            str(e.data.get("by") or ""),
        )
        for e in record.readings
    )
    if reads:
        found.append(
            PaperTable(
                ("At", "Measured", "Read", "Band", "Verdict", "By"), (0.34, 0.12, 0.14, 0.18, 0.12, 0.1), (2,), reads
            )
        )
    faults = tuple((str(e.data.get("says")), e.step.partition("|")[2], moment(e.at_ms)) for e in record.defects)
    if faults:
        found.append(PaperTable(("Fault seen", "At", "When"), (0.4, 0.42, 0.18), (), faults))
    again = tuple(
        (f"{e.data.get('wire')} {e.data.get('side', '')}", e.kind, str(e.data.get("why") or ""), moment(e.at_ms))
        for e in (*record.remakes, *record.scrapped)
    )
    if again:
        found.append(PaperTable(("Started over", "", "Why", "When"), (0.22, 0.1, 0.5, 0.18), (), again))
    return found


def _test_row(data: Any) -> tuple[str, ...]:
    value = data.get("value")
    read = "nothing" if data.get("over") else "" if value is None else f"{value:.4g} {data.get('unit', '')}"
    return (
        str(data.get("n") or "+"),
        str(data.get("kind")),
        _short(str(data.get("a", ""))),
        _short(str(data.get("b", ""))),
        read,
        _band(data),
        "✓" if data.get("ok") else "✕",
    )


def _short(text: str) -> str:
    return text if len(text) <= MOST_NAMES else text[: MOST_NAMES - 2] + " …"


def _band(data: Any) -> str:
    low, high = data.get("low"), data.get("high")
    if low is not None and high is not None:
        return f"{low:.4g} to {high:.4g}"
    return f"at least {low:.4g}" if low is not None else f"at most {high:.4g}" if high is not None else ""


def _share(value: Any) -> str:
    return f"{100 * float(value):.0f} %" if isinstance(value, int | float) else ""


def plain(record: UnitRecord, seal: tuple[int, str]) -> dict[str, Any]:
    """Everything of a unit as plain data, for JSON."""
    events = {
        name: [{"at_ms": e.at_ms, "step": e.step, **dict(e.data)} for e in getattr(record, name)]
        for name in ("readings", "tests", "defects", "remakes", "scrapped", "said", "found")
    }
    return {
        "build": record.build, "unit": record.unit, "serial": record.serial, "revision": record.revision, "state": record.state, "begun_ms": record.begun_ms, "hands": sorted(record.hands),
        "tools": sorted([t, s] for t, s in record.tools), "coils": {coil: sorted(wires) for coil, wires in sorted(record.coils.items())},
        "steps": [{"step": key, "at_ms": e.at_ms, **dict(e.data)} for key, e in record.done.items()], **events,
        "proven": {"at_ms": record.proven.at_ms, **dict(record.proven.data)} if record.proven is not None else None, "log_entries": seal[0], "seal": seal[1],
    }  # fmt: skip


def rows(record: UnitRecord) -> list[list[str | int | float | None]]:
    """Tests and readings of a unit as a table, for CSV."""
    found: list[list[str | int | float | None]] = [
        ["unit", "what", "number or step", "from", "to", "value", "unit of it", "low", "high", "ok", "by", "when"]
    ]
    for e in record.tests:
        d = e.data
        found.append(
            [
                record.name,
                str(d.get("kind")),
                d.get("n"),
                d.get("a"),
                d.get("b"),
                None if d.get("over") else d.get("value"),
                d.get("unit"),
                d.get("low"),
                d.get("high"),
                "yes" if d.get("ok") else "no",
                d.get("by"),
                moment(e.at_ms),
            ]
        )
    for e in record.readings:
        d = e.data
        found.append(
            [
                record.name,
                str(d.get("what")),
                e.step,
                "",
                "",
                d.get("value"),
                d.get("unit"),
                d.get("low"),
                d.get("high"),
                d.get("verdict"),
                d.get("by"),
                moment(e.at_ms),
            ]
        )
    return found
