"""Commands of the bench: the order of work, the steps one by one, the log of what was done and measured."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.kit import units
from umber_trunk.cli.reading import analysed, is_plain, opened, shelf
from umber_trunk.cli.terminal import SOUND, out, said_out, stoppable
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.kept_words import name_kept
from umber_trunk.core.units import counted

if TYPE_CHECKING:
    from umber_trunk.core.make.events import Event
    from umber_trunk.core.make.timed import Order, Timed
    from umber_trunk.store.build import Build

COMMANDS = {
    "order": "every operation of a build in an order with few tool changes",
    "make": "the bench in the terminal: one step at a time, logged as it is done",
}


def add_order(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--units", type=units, default=1, metavar="N", help="how many harnesses to build")
    parser.add_argument("--hands", type=_hands, default=1, metavar="N", help="pairs of hands")
    parser.add_argument(
        "--school",
        choices=("operation", "wire"),
        help="batch by operation or finish each wire; the project's otherwise",
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_order)


def _hands(text: str) -> int:
    count = counted(text, 20)
    if count is None:
        raise argparse.ArgumentTypeError(f"{quoted(text)} is no number of pairs of hands from 1 to 20")
    return count


def clock(seconds: float) -> str:
    """Hours and minutes."""
    minutes = round(seconds / 60)
    return f"{minutes // 60} h {minutes % 60:02d} min" if minutes >= 60 else f"{minutes} min"


def logged(path: Path, build: str = "") -> list[Event]:
    """The log of a harness file; a design in JSON has none."""

    if is_plain(path):
        return []
    with opened(path, for_writing=False) as project:
        return project.floor.events(build)


def _order(args: argparse.Namespace) -> int:
    from umber_trunk.core.make.sequence import plan_order
    from umber_trunk.core.make.timed import SCHOOLS
    from umber_trunk.core.make.times import learn
    from umber_trunk.store.floor import times_of

    results = analysed(args.file, upto="sizes")
    times = learn(times_of(logged(args.file)))
    made = stoppable(lambda wanted: plan_order(results, args.units, args.school or "", args.hands, times, wanted))
    other = next(school for school in SCHOOLS if school != made.school)
    beside = plan_order(results, args.units, other, args.hands, times)
    if args.json:
        out(_order_plain(made, beside))
    else:
        _order_said(made, beside)
    return SOUND


def _order_plain(made: Order, beside: Order) -> dict[str, Any]:
    return {
        "steps": [
            {
                "n": s.n,
                "op": s.operation.op,
                "wire": s.operation.wire,
                "end": s.operation.end,
                "unit": s.unit,
                "tool": s.operation.tool,
                "setting": s.operation.setting,
                "part": s.operation.part,
                "housing": s.operation.housing,
                "cavity": s.operation.cavity,
                "place": s.operation.place,
                "after": list(s.after),
                "seconds": round(s.seconds, 2),
                "hand": s.hand,
                "start_s": round(s.start_s, 2),
                "cautions": list(s.operation.cautions),
                "key": s.key,
                "text": s.operation.text,
                "said": said_out(s.operation.says),
            }
            for s in made.steps
        ],
        "tool_changes": made.tool_changes,
        "bound": made.bound,
        "walks": made.walks,
        "school": made.school,
        "hands": made.hands,
        "span_s": round(made.span_s, 1),
        "span_bound_s": round(made.span_bound_s, 1),
        "low_s": round(made.low_s, 1),
        "high_s": round(made.high_s, 1),
        "other_school": {
            "school": beside.school,
            "tool_changes": beside.tool_changes,
            "span_s": round(beside.span_s, 1),
        },
    }


def _order_said(made: Order, beside: Order) -> None:
    for s in made.steps:
        one = s.operation
        tool = f"  [{one.tool}{', ' + one.setting if one.setting else ''}]" if one.tool else ""
        unit = f"unit {s.unit}: " if s.unit and len(made.units) > 1 else ""
        print(f"{s.n:5} {one.op:8} {unit}{one.text}{tool}")
    print(
        f"{made.tool_changes} tool changes (no order does with fewer than {made.bound}), {made.walks} walks, "
        f"{clock(made.low_s)} to {clock(made.high_s)}."
    )
    told = "wire by wire" if beside.school == "wire" else "batch by operation"
    print(f"{told}: {beside.tool_changes} tool changes, {clock(beside.low_s)} to {clock(beside.high_s)}.")


def add_make(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "--units", type=units, metavar="N", help="begin a build of so many; without it the newest goes on"
    )
    parser.add_argument(
        "--unit",
        type=units,
        action="append",
        metavar="NUMBER",
        help="begin a build of the unit of this number; may be said again",
    )
    parser.add_argument("--build", default="", metavar="NAME", help="its name")
    parser.add_argument("--school", choices=("operation", "wire"), default="")
    parser.add_argument("--hands", type=_hands, default=1, metavar="N")
    parser.add_argument("--station", default="", metavar="NAME", help="log beside the file, to be merged later")
    parser.add_argument("--hand", default="", metavar="NAME", help="who works")
    parser.add_argument(
        "--shelf", type=Path, metavar="SHELF", help="the shop's shelf file; the coils inside the harness file otherwise"
    )
    parser.set_defaults(run=_make)


HELP = """Enter: done, next step    all: the whole handful is done    b: take back the last
q: leave (it goes on here next time)
height 1.52 | width 2.1 | pull 180 | torque 0.5 | mass 12: a reading     release NAME [WHY]
remake [WIRE start|finish UNIT] [WHY]    scrap [WIRE UNIT] WHY    defect CODE [NOTE]
die [WHY]: this tool was set anew    sample: another one
photo PATH [whole]    note TEXT    hand NAME: who works from here on"""


def _make(args: argparse.Namespace) -> int:
    import sys
    from datetime import date

    from umber_trunk.core.errors import InputError, UmberError
    from umber_trunk.store.builds import begin, resume

    with opened(args.file, for_writing=not args.station) as project:
        if project.read_only and not args.station:
            raise InputError.of("shell.cant-be-logged-into", file=args.file.name, why_read_only=project.why_read_only)
        how = {"station": args.station, "hand": args.hand, "shelf": args.shelf}
        if args.units or args.unit:
            numbers = args.unit or list(range(1, args.units + 1))
            taken = {one.build for one in project.floor.builds()}
            name = args.build or next(
                n for n in (f"{date.today()}{f'-{k}' if k > 1 else ''}" for k in range(1, 1000)) if n not in taken
            )
            build = begin(project, name, numbers, args.school, args.hands, **how, parts=shelf(args.file))
        else:
            build = resume(project, args.build, **how, parts=shelf(args.file))
        with build:
            print(f"Build {build.name}: units {', '.join(map(str, build.order_units))}. ? for help.")
            if build.earlier:
                print("It was begun by an earlier format: its order was planned once more, and is frozen from now on.")
            _strange(build)
            if faults := build.begun.faults:
                print(f"✕ {faults} faults were open when it began: umber check says which; mend them before cutting.")
            _show(build)
            for line in sys.stdin:
                words = line.strip()
                if words.lower() in ("q", "quit"):
                    build.pause()
                    break
                try:
                    _act(build, words)
                except UmberError as why:
                    print(f"✕ {why}", flush=True)
                    continue
                if build.bench.now is None:
                    print("All is done.", flush=True)
                else:
                    _show(build)
    return SOUND


def _strange(build: Build) -> None:
    """Entries that say something of a step or a kind this order or program doesn't know: said, never dropped."""
    for one in build.bench.strange[:20]:
        print(f"△ entry {one.n or '?'} of the log is about what isn’t known here: {one.kind} {one.step}".rstrip())


def _show(build: Build) -> None:
    """The step now, and what it needs."""
    from dataclasses import replace

    from umber_trunk.core.make.measuring import KINDS, kind_told, limits_of, wanted_readings
    from umber_trunk.core.make.operation import caution_told
    from umber_trunk.core.make.told import handful_told

    step = build.bench.now
    if step is None:
        print("All is done.", flush=True)
        return
    one = step.operation
    done, whole = build.bench.count
    unit = f" unit {step.unit}" if step.unit else ""
    print(f"[{done + 1} of {whole}]{unit} {one.text}")
    here = build.bench.handful
    if here is not None and len(here.pieces) > 1:
        name = build.frozen.shelf.name(here.first.part) if here.first.part else ""
        filled = sum(all(s.key in build.bench.done for s in piece) for piece in here.pieces)
        how = f"one by one, {here.singly}" if here.singly else "“all” when every one of them is"
        print(f"    handful: {handful_told(here, build.frozen.making.names, name)}, {filled} done; {how}")
    if one.tool:
        print(f"    tool: {one.tool}{', ' + one.setting if one.setting else ''}")
    if coil := build.coil_for(step):
        print(f"    from coil {coil}")
    if one.told:
        print(f"    {one.told}")
    for caution in one.cautions:
        print(f"    ! {caution_told(caution)}")
    parts = build.frozen.shelf
    judged = replace(one, op="measure") if one.sample and one.op == "crimp" else one  # what its first-off has to keep
    for kind in wanted_readings(parts, judged):
        name, measured_in = kind_told(kind), KINDS[kind][1]
        print(f"    {name}: {limits_of(parts, judged, kind).text} {measured_in}")
    if build.bench.needs_reading(step):
        print("    First-off: give a reading (height, pull) or release it.")
    if fault := build.bench.holds(step):
        print(f"    ✕ held: {fault.says or 'a fault'}")
    print(end="", flush=True)  # seen now, also through a pipe


def _act(build: Build, words: str) -> None:
    """One line of the bench in the terminal. UmberError where it isn't understood or can't be."""
    from umber_trunk.core.make.measuring import KINDS

    word, _, rest = words.partition(" ")
    rest = rest.strip()
    step = build.bench.now
    if word.lower() in ("", "n", "done"):
        build.advance()
    elif word.lower() == "all":
        steps = build.bench.together()
        done = build.attest(steps) if steps else [build.advance()]
        print(f"    {len(done)} {'step' if len(done) == 1 else 'steps'} done")
    elif word == "sample":
        build.another_sample()
    elif word == "?":
        print(HELP)
    elif word.lower() == "b":
        build.back()
    elif word in KINDS:
        told = build.read(word, rest)
        print(f"    {told.value:g} {told.unit}: {told.verdict}")
    elif word == "hand":
        build.hand = name_kept(rest)
        print(f"    {build.hand or 'nobody'} works now")
    elif word == "release":
        who, _, why = rest.partition(" ")
        build.release(who, why)
    elif word == "defect":
        code, _, note = rest.partition(" ")
        seen = build.defect(code, note)
        print(f"    {seen.says}: {seen.comes_to}")
    elif word == "note":
        build.note(rest)
    elif word == "photo":
        from umber_trunk.app.paper.photographs import photograph  # here: drawing it wants Qt

        path = Path(rest.removesuffix(" whole")).expanduser()
        build.photograph(path.name, photograph(path, rest.endswith(" whole")), step)
        print(f"    kept {path.name}")
    elif word == "die":
        build.reset(step.operation.tool if step else "", step.operation.setting if step else "", rest)
    elif word in ("remake", "scrap"):
        _again(build, word, rest.split(), step)
    else:
        raise InputError.of("shell.word-not-understood", word=word[:40])


def _again(build: Build, word: str, parts: list[str], step: Timed | None) -> None:
    """A remake or scrap, of the wire named or the one in hand."""
    if word == "remake":
        if len(parts) >= 3 and (number := counted(parts[2], 10_000)) is not None:
            wire, side, unit, why = parts[0], parts[1], number, " ".join(parts[3:])
        elif step is not None and step.operation.side:
            wire, side, unit, why = step.operation.wire, step.operation.side, step.unit, " ".join(parts)
        else:
            raise InputError.of("shell.say-which-remake-wire-start-finish")
        build.remake(wire, side, unit, why)
        left = build.bench.left(wire, side, unit)
        print(f"    {left.left_mm:.0f} mm left at its {side}: {left.times} more remakes")
        return
    if len(parts) >= 2 and (number := counted(parts[1], 10_000)) is not None:
        wire, unit, why = parts[0], number, " ".join(parts[2:])
    elif step is not None and step.operation.wire:
        wire, unit, why = step.operation.wire, step.unit, " ".join(parts)
    else:
        raise InputError.of("shell.say-which-scrap-wire-unit")
    if not why:
        raise InputError.of("shell.say-why-it-is-scrapped")
    build.scrap(wire, unit, why)
