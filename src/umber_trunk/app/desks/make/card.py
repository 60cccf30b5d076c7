"""What the bench shows of the step now, put together from the build."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import islice

from umber_trunk.app.desks.make.bench_card import Card, Chip, SetUp
from umber_trunk.app.widgets.face_view import FILLED
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.ends.faces import Face, faces_of
from umber_trunk.core.ends.strip import Strip, clock_mark, strip_of
from umber_trunk.core.ends.wire_ends import SIDES, Side, places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.make.events import Done, Read, Reset, Undo
from umber_trunk.core.make.handfuls import Handful
from umber_trunk.core.make.measuring import KINDS, kind_told, limits_of, verdict_told, wanted_readings
from umber_trunk.core.make.operation import Operation, caution_told
from umber_trunk.core.make.runs import Run, runs_of
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.make.told import handful_told, piece_name
from umber_trunk.core.results import Results
from umber_trunk.store.build import Build

VERBS = {
    "measure": word("Measure"), "cut": word("Cut"), "label": word("Label"), "lay": word("Lay"), "thread": word("Thread on"), "strip": word("Strip"), "fold": word("Fold back"), "crimp": word("Crimp"),
    "solder": word("Solder"), "insert": word("Insert"), "plug": word("Plug"), "lock": word("Lock"), "sleeve": word("Sleeve"), "shrink": word("Shrink"), "twist": word("Twist"), "split": word("Join"),
    "tape": word("Wind"), "clamp": word("Close"), "torque": word("Tighten"), "tie": word("Tie"), "look": word("Look"), "tug": word("Tug"), "extract": word("Take out"), "test": word("Test"),
}  # fmt: skip


def card_of(build: Build, said: str = "", wrong: bool = False, chosen: int = -1, whole_handful: bool = True) -> Card:
    """The card of a build's step now; a last one when all is done. `chosen`: a piece of the handful, -1 for none;
    `whole_handful`: whether one key attests all of it."""
    bench = build.bench
    done, whole = bench.count
    step, here, before = bench.now, bench.handful, _done_before(build)
    if step is None or here is None:
        text = tr("{many} units are built. Every reading is in the log.").format(many=len(build.order_units))
        return Card(tr("All done"), text, said=said, wrong=wrong, done=whole, whole=whole, before=before)
    if 0 <= chosen < len(here.pieces):
        step = open_step(build, here.pieces[chosen])
    one = step.operation
    runs = (
        runs_of([event for event in bench.history if isinstance(event.act, Read | Undo | Reset)])
        if one.op in ("crimp", "split", "measure")
        else []
    )
    cautions = [caution_told(caution) for caution in one.cautions]
    if one.op in ("crimp", "split") and (told := _die(runs, one)):
        cautions.insert(0, told)
    left_s = bench.left_s()
    left = (
        tr("{hours:.1f} h of handling left").format(hours=left_s / 3600)
        if left_s > 3600
        else tr("{minutes:.0f} min of handling left").format(minutes=left_s / 60)
    )
    colour, stripe = _colours(build, step)
    return Card(
        tr(VERBS.get(one.op, one.op)) + _whereabouts(build, step),
        one.text,
        _facts(build, step),
        tuple(cautions),
        _wanted(build, step),
        said,
        wrong,
        done,
        whole,
        left,
        _coming(build, here),
        before,
        None if one.op == "insert" else _strip(build, step),
        _face(build, step),
        one.cavity,
        one.length_m,
        colour,
        stripe,
        _headline(build, here),
        _chips(build, here),
        chosen,
        _attests(build, here, chosen, whole_handful),
        _lay_out(build),
        _lit(build, here, step),
        _set_up(build, here, step, runs),
    )


def _done_before(build: Build) -> tuple[str, ...]:
    """The last few steps that were done and stand, the newest first."""
    bench = build.bench
    stand = (
        bench.steps[event.step]
        for event in reversed(bench.history[-60:])
        if isinstance(event.act, Done) and event.id not in bench.undone and event.step in bench.steps
    )
    return tuple(_short(step) for step in islice(stand, 4))


def _whereabouts(build: Build, step: Timed) -> str:
    """Which unit, whose hands, which wire, which end: what follows the verb."""
    one, parts = step.operation, []
    if step.unit and len(build.order_units) > 1:
        parts.append(tr("unit {unit}", unit=step.unit))
    if build.bench.order.hands > 1:
        parts.append(tr("hands {hand}", hand=step.hand))
    if one.wire:
        parts.append(one.wire)
    if one.end:
        cavity = tr(", cavity {cavity}", cavity=one.cavity) if one.cavity else ""
        parts.append(build.frozen.making.names.get(one.end, one.end) + cavity)
    return "".join(f" · {part}" for part in parts)


def _facts(build: Build, step: Timed) -> tuple[str, ...]:
    """What to take in hand for it, what is left at this end, what was read of it, what holds it."""
    one, bench, facts = step.operation, build.bench, []
    if one.tool:
        facts.append(
            tr(
                "Tool: {tool}{setting}",
                tool=build.frozen.shelf.name(one.tool),
                setting=", " + one.setting if one.setting else "",
            )
        )
    if coil := build.coil_for(step, wait=False):
        facts.append(tr("From coil {coil}", coil=coil))
    elif one.op == "cut" and one.length_m is not None and build.planned and build.coils_held():
        facts.append(tr("No coil on the shelf gives this length: any coil"))
    if one.op == "cut" and (mark := _clock(build, one.wire)):
        facts.append(mark)
    if one.told:
        facts.append(one.told)
    if one.side and one.wire:
        left = bench.left(one.wire, one.side, step.unit)
        if bench.remakes.get((step.unit, one.wire, one.side)) or one.op in ("strip", "crimp"):
            facts.append(
                tr("Left at this end: {left_mm:.0f} mm, {times} remakes", left_mm=left.left_mm, times=left.times)
            )
    for read in bench.fresh(step.key):
        what = kind_told(read.what)
        facts.append(f"{what} {read.value:g} {read.unit}: {verdict_told(read.verdict)}")
    if fault := bench.holds(step):
        facts.append(tr("Held: {why}").format(why=fault.says or tr("a fault")))
    return tuple(facts)


def open_step(build: Build, piece: Sequence[Timed]) -> Timed:
    """What is next to do to a piece, its last step where all is done."""
    return next((step for step in piece if step.key not in build.bench.done), piece[-1])


def _headline(build: Build, one: Handful) -> str:
    part = build.frozen.shelf.name(one.first.part) if one.first.part else ""
    return str(handful_told(one, build.frozen.making.names, part)) if one.n >= 0 else ""


def _coming(build: Build, here: Handful) -> tuple[str, ...]:
    rest = build.bench.handfuls[here.n + 1 : here.n + 40] if here.n >= 0 else build.bench.handfuls[:40]
    return tuple(_headline(build, one) for one in rest if any(s.key not in build.bench.done for s in one.steps))[:4]


def _chips(build: Build, here: Handful) -> tuple[Chip, ...]:
    bench, names = build.bench, build.frozen.making.names
    found = []
    for piece in here.pieces:
        done = sum(step.key in bench.done for step in piece)
        held = any(bench.holds(step) is not None or bench.out_of_limits(step) for step in piece)
        state = "held" if held else "done" if done == len(piece) else "begun" if done else "open"
        colour, stripe = _colours(build, piece[-1])
        found.append(Chip(piece_name(piece, names, len(build.order_units)), colour, stripe, state))
    return tuple(found)


def _attests(build: Build, here: Handful, chosen: int, whole: bool) -> str:
    """What the one key says."""
    if chosen >= 0:
        return tr("Space: this piece alone")
    many = sum(any(step.key not in build.bench.done for step in piece) for piece in here.pieces)
    if len(here.pieces) == 1:
        return ""
    if here.singly:
        return tr("Space: one by one, {why}").format(why=here.singly)
    return (
        tr("Space: all {many}  ·  F3: piece by piece  ·  ← → one of them").format(many=many)
        if whole
        else tr("Space: piece by piece  ·  F3: all at once  ·  ← → one of them")
    )


def _lay_out(build: Build) -> str:
    """The tool to lay out next."""
    coming = build.bench.next_set_up()
    if coming is None:
        return ""
    tool = f"{build.frozen.shelf.name(coming.tool)}{', ' + coming.setting if coming.setting else ''}"
    return tr("Lay out next: {tool}").format(tool=tool)


def _lit(build: Build, here: Handful, step: Timed) -> dict[str, str]:
    """The cavities that this handful fills in the unit in hand, numbered in the order of doing."""
    mine = [piece for piece in here.pieces if piece[0].unit == step.unit and piece[0].operation.cavity]
    done = build.bench.done
    return {p[0].operation.cavity: FILLED if all(s.key in done for s in p) else str(n) for n, p in enumerate(mine, 1)}


def _set_up(build: Build, here: Handful, step: Timed, runs: Sequence[Run]) -> SetUp | None:
    """What to set before a tool's first piece, None once it is set up: tool, setting, limits of its first-off, what its
    chart says."""
    bench, shelf, by = build.bench, build.frozen.shelf, build.crimp_of(step)
    begun = not by.sample and any(other.key in bench.done for other in here.steps)
    if not by.tool or begun or (not by.sample and any(s.operation.state == by.state for s in bench.done_steps())):
        return None
    like = (
        next(
            (
                s.operation
                for s in bench.order.steps
                if s.operation.sample
                and s.operation.op == "measure"
                and s.operation.part == by.part
                and s.operation.setting == by.setting
            ),
            None,
        )
        if by.part
        else None
    )
    limits = (
        tuple(
            f"{kind_told(kind)} {limits_of(shelf, like, kind).text} {KINDS[kind][1]}"
            for kind in wanted_readings(shelf, like)
        )
        if like is not None
        else ()
    )
    mine = next((run for run in runs if (run.tool, run.setting, run.part) == (by.tool, by.setting, by.part)), None)
    return SetUp(
        shelf.name(by.tool),
        by.setting,
        limits,
        mine.chart.told if mine is not None else "",
        tuple(mine.chart.values[-24:]) if mine is not None else (),
        mine.low if mine is not None else None,
        mine.high if mine is not None else None,
    )


def _short(step: Timed) -> str:
    unit = f" ({step.unit})" if step.unit else ""
    return f"{tr(VERBS.get(step.operation.op, step.operation.op))}{unit}: {step.operation.text}"


def _wanted(build: Build, step: Timed) -> str:
    """What to measure here, with its limits."""
    shelf = build.frozen.shelf
    known = {read.what for read in build.bench.fresh(step.key)}
    asked = wanted_readings(shelf, step.operation)
    if not asked:
        return ""
    said = "; ".join(
        f"{kind_told(kind)}, {limits_of(shelf, step.operation, kind).text} {KINDS[kind][1]}" for kind in asked
    )
    if not [kind for kind in asked if kind not in known]:
        return tr("Measured: {said}", said=said)
    return (
        tr("First-off. Type {said}", said=said)
        if build.bench.needs_reading(step)
        else tr("Can be measured: {said}", said=said)
    )


def _colours(build: Build, step: Timed) -> tuple[str, str]:
    wire = index_of(build.frozen.design).wires.get(step.operation.wire)
    return (wire.colour, wire.stripe) if wire is not None else ("", "")


def _strip(build: Build, step: Timed) -> Strip | None:
    one, drawn = step.operation, build.drawing
    if one.op not in ("strip", "crimp", "thread", "look", "shrink", "solder") or not one.wire or drawn is None:
        return None
    side = one.side or next((s for s in SIDES if one.sample and _makes(drawn, one.wire, s, one.part)), "")
    place = places_of(drawn.design, drawn.shelf).by_key.get((one.wire, side))  # type: ignore[arg-type]
    return strip_of(drawn, place) if place is not None else None


def _makes(drawn: Results, wire: str, side: Side, part: str) -> bool:
    place = places_of(drawn.design, drawn.shelf).by_key.get((wire, side))
    made = strip_of(drawn, place) if place is not None else None
    return made is not None and (not part or made.part == part)


def _face(build: Build, step: Timed) -> Face | None:
    one, drawn = step.operation, build.drawing
    if one.op not in ("insert", "tug", "plug", "extract", "torque", "lock") or not one.end or drawn is None:
        return None
    try:
        faces = faces_of(drawn.design, one.end, "wire", None, drawn.shelf)
    except InputError:
        return None
    return next(
        (face for face in faces if face.housing == one.housing), faces[0] if faces and not one.housing else None
    )


def _clock(build: Build, wire: str) -> str:
    """What to draw on a stiff lead before it is cut, "" for others."""
    drawn = build.drawing
    if drawn is None or wire not in index_of(drawn.design).wires:
        return ""
    try:
        return str(clock_mark(drawn, wire))
    except InputError:
        return ""


def _die(runs: Sequence[Run], one: Operation) -> str:
    """What the chart of this tool, setting, part and conductor says, where it says to check the die."""
    for run in runs:
        if (run.tool, run.setting, run.part) == (
            one.tool,
            one.setting,
            one.part,
        ) and run.chart.verdict == "check the die":
            return f"{run.chart.told[:1].upper()}{run.chart.told[1:]}."
    return ""
