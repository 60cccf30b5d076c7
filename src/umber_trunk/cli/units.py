"""Commands of the stage Keep: units as they were built, what differs, upgrades and repairs, and whether the log is
whole."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import opened, shelf
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.units import counted

if TYPE_CHECKING:
    from umber_trunk.core.keep.compare import Difference, Table
    from umber_trunk.core.keep.unit_record import UnitRecord

COMMANDS = {
    "units": "units as they were built; “coil C12” finds those made of it",
    "diff": "what differs between two revisions (FILE@N) or two units (FILE#BUILD/UNIT)",
    "upgrade": "bring a unit that is being made to another revision: just the steps that differ",
    "repair": "a unit as it is: remakes left at each end, parts to buy; notes what was mended",
}


def add_units(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("words", nargs="*", help="coil C12, hand Mara, serial …, tool …, revision 3, fault …, proven")
    parser.add_argument("--serial", nargs=2, metavar=("BUILD/UNIT", "SERIAL"), help="give a unit its serial")
    parser.add_argument(
        "--deviation", nargs=3, metavar=("BUILD/UNIT", "WHAT", "WHO"), help="record a deviation and who decided it"
    )
    parser.add_argument("--certificate", nargs=2, metavar=("BUILD/UNIT", "OUT"), help="as .pdf, .csv or .json")
    parser.add_argument("--book", action="store_true", help="with it the whole as-built book")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_units)


def _units(args: argparse.Namespace) -> int:
    from umber_trunk.store.found_units import kept_unit, records_of

    if args.serial or args.deviation:
        from umber_trunk.store.keeping import log_said

        with opened(args.file) as project:
            if args.serial:
                log_said(project, args.serial[0], "serial", {"serial": args.serial[1]})
                print(f"{args.serial[0]} is {args.serial[1].strip()}.")
            if args.deviation:
                log_said(
                    project,
                    args.deviation[0],
                    "deviation",
                    {"says": args.deviation[1], "who": args.deviation[2]},
                )
                print("The deviation stands in the record.")
        return SOUND
    if args.certificate:
        from umber_trunk.app.paper.as_built import write_as_built

        name, path = args.certificate
        with opened(args.file) as project:
            record = kept_unit(project, name)
            write_as_built(project, record, Path(path), args.book)
        if record.certain or args.book:
            print(f"{path} written.")
            return SOUND
        why = record.why or record.state_told
        print(f"{path} written: a test record, no certificate. {record.name} is not proven: {why}.")
        return FAULTS
    with opened(args.file, for_writing=False) as project:
        found = records_of(project, " ".join(args.words))
        seal = project.floor.seal()
    if args.json:
        out({"units": [_row(one) for one in found], "log_entries": seal[0], "seal": seal[1]})
        return SOUND
    for one in found:
        print(
            f"{one.name:24} revision {one.revision:<4} {one.state_told:14} {len(one.done):5} steps {len(one.tests):4} "
            f"tests  coils {', '.join(sorted(one.coils)) or '–'}  by {', '.join(sorted(one.hands)) or '–'}"
        )
        if one.why:
            print(f"    {one.why}")
    print(f"{len(found)} units. The log has {seal[0]} entries, sealed {seal[1][:16]}.")
    return SOUND


def _row(one: UnitRecord) -> dict[str, Any]:
    from umber_trunk.core.keep.unit_record import said_of
    from umber_trunk.core.moments import iso

    return {
        "build": one.build,
        "unit": one.unit,
        "serial": one.serial,
        "revision": one.revision,
        "state": one.state,
        "begun": iso(one.begun_ms),
        "coils": sorted(one.coils),
        "tools": sorted(f"{t} {s}".strip() for t, s in one.tools),
        "hands": sorted(one.hands),
        "steps": len(one.done),
        "readings": len(one.readings),
        "tests": len(one.tests),
        "remakes": len(one.remakes),
        "scrapped": len(one.scrapped),
        "deviations": [said_of(act) for _, act in one.said],
        "faults": [act.where for _, act in one.found],
        "proven_by": one.proven.who if one.proven else None,
        "why": one.why,
        "said": said_out(one.reason) if one.reason else None,
        "steps_left": one.left,
        "tests_answered": one.answered,
        "tests_of": one.of,
        "struck": len(one.struck),
        "as_is": one.as_is[1].who if one.as_is is not None else None,
        "planned_later": one.earlier,
    }


def add_diff(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("a", metavar="A", help="FILE, FILE@REVISION, DESIGN.json or FILE#BUILD/UNIT")
    parser.add_argument("b", metavar="B")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_diff)


def _diff(args: argparse.Namespace) -> int:
    from umber_trunk.core.keep.compare import compare, compare_units

    one, two = _meant(args.a), _meant(args.b)
    if (one[0] == "unit") != (two[0] == "unit"):
        raise InputError.of("shell.compare-unit-with-unit")
    if one[0] == "unit":
        rows = compare_units(one[1], two[1])
        if args.json:
            out({"differs": [{"what": what, "a": a, "b": b} for what, a, b in rows]})
        else:
            print("\n".join(f"{what}: {a} → {b}" for what, a, b in rows) or "Nothing differs.")
        return FAULTS if rows else SOUND
    found = compare(one[1], two[1])
    if args.json:
        out(
            {
                "wires": _table_plain(found.wires),
                "tables": {name: _table_plain(table) for name, table in found.tables.items()},
                "project": [list(row) for row in found.project],
            }
        )
    else:
        _difference_said(found)
    return SOUND if found.none else FAULTS


def _table_plain(table: Table) -> dict[str, Any]:
    return {
        "added": list(table.added),
        "gone": list(table.gone),
        "changed": [{"id": row.id, "what": [list(what) for what in row.what]} for row in table.changed],
    }


def _difference_said(found: Difference) -> None:
    for name, table in found.tables.items():
        for mark, ids in (("+", table.added), ("−", table.gone)):
            for part in ids:
                print(f"{mark} {name} {part}")
        for row in table.changed:
            print(f"~ {name} {row.id}: " + "; ".join(f"{what} {a} → {b}" for what, a, b in row.what))
    for what, a, b in found.project:
        print(f"~ project {what}: {a} → {b}")
    if found.none:
        print("Nothing differs.")


def _meant(text: str) -> tuple[str, Any]:
    """("design", it) or ("unit", its record) of FILE, FILE@N, FILE#BUILD/UNIT."""
    from umber_trunk.cli.reading import read_design
    from umber_trunk.store.found_units import kept_unit

    if not Path(text).exists():
        path, mark, unit = text.rpartition("#")
        if mark and Path(path).exists():
            with opened(Path(path), for_writing=False) as project:
                return "unit", kept_unit(project, unit)
        path, mark, revision = text.rpartition("@")
        if mark and Path(path).exists():
            number = counted(revision, 10**9)
            if number is None:
                raise InputError.of("shell.no-number-of-revision", revision=quoted(revision))
            return "design", read_design(Path(path), number)
    return "design", read_design(Path(text))


def add_upgrade(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("unit", metavar="BUILD/UNIT")
    parser.add_argument("--to", type=int, metavar="N", help="revision, otherwise the one shown")
    parser.add_argument("--who", default="", help="who decides it; without, it is only shown")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_upgrade)


def _upgrade(args: argparse.Namespace) -> int:
    from umber_trunk.store.keeping import plan_upgrade, take_upgrade

    parts = shelf(args.file)
    with opened(args.file, for_writing=bool(args.who)) as project:
        revision = args.to if args.to is not None else project.head
        found = plan_upgrade(project, args.unit, revision, parts)
        build = take_upgrade(project, args.unit, revision, found, args.who, parts) if args.who else ""
    if args.json:
        out(
            {
                "kept": list(found.kept),
                "voids": list(found.voids),
                "todo": list(found.todo),
                "wires_out": list(found.wires_out),
                "build": build,
            }
        )
    else:
        print(found.told + (f' It goes on as build “{build}”: umber make FILE --build "{build}".' if build else ""))
        for key in found.todo:
            print(f"  {key}")
    return SOUND


def add_repair(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("unit", metavar="BUILD/UNIT")
    parser.add_argument("--end", default="", metavar="END", help="only what is at this end")
    parser.add_argument("--mended", default="", metavar="WHAT", help="notes what was done")
    parser.add_argument("--who", default="")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_repair)


def _repair(args: argparse.Namespace) -> int:
    from umber_trunk.store.found_units import kept_unit
    from umber_trunk.store.keeping import log_said, repair_of

    with opened(args.file, for_writing=bool(args.mended)) as project:
        record = kept_unit(project, args.unit)
        if args.mended:
            log_said(project, args.unit, "mended", {"says": args.mended, "who": args.who})
            print("Noted; the unit is to be proven anew.")
            return SOUND
        found = repair_of(project, record, args.end)
    if args.json:
        out(
            {
                "unit": record.name,
                "revision": record.revision,
                "ends": [
                    {
                        "wire": e.wire,
                        "side": e.side,
                        "place": e.place,
                        "left_mm": round(e.left_mm, 1),
                        "remakes_left": e.times,
                        "parts": list(e.parts),
                    }
                    for e in found.ends
                ],
                "buy": [{"part": p, "count": n} for p, n in found.buy],
                "story": list(found.story),
            }
        )
        return SOUND
    print(f"{record.name}, revision {record.revision}, {record.state_told}.")
    for e in found.ends:
        print(f"  {e.wire} {e.side}, {e.place}: {e.times} remakes left ({e.left_mm:.0f} mm)  {', '.join(e.parts)}")
    for row in found.story:
        print(f"  {row}")
    return SOUND
