"""What the bench shows of the step now, put together from the build."""

from __future__ import annotations

from umber_trunk.app.desks.make.bench_view import Card
from umber_trunk.core.ends.faces import Face, faces_of
from umber_trunk.core.ends.strip import Strip, clock_mark, strip_of
from umber_trunk.core.ends.wire_ends import SIDES, Side, places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.make.events import Done, Read, Reset, Undo
from umber_trunk.core.make.measuring import KINDS, limits_of, wanted_readings
from umber_trunk.core.make.operations import CAUTIONS, Operation
from umber_trunk.core.make.runs import runs_of
from umber_trunk.core.make.sequence import Timed
from umber_trunk.core.results import Results
from umber_trunk.store.build import Build

VERBS = {
    "measure": "Measure", "cut": "Cut", "label": "Label", "lay": "Lay", "thread": "Thread on", "strip": "Strip", "fold": "Fold back", "crimp": "Crimp",
    "solder": "Solder", "insert": "Insert", "plug": "Plug", "lock": "Lock", "sleeve": "Sleeve", "shrink": "Shrink", "twist": "Twist", "split": "Join",
    "tape": "Wind", "clamp": "Close", "torque": "Tighten", "tie": "Tie", "look": "Look", "tug": "Tug", "extract": "Take out", "test": "Test",
}  # fmt: skip


def card_of(build: Build, said: str = "", wrong: bool = False) -> Card:
    """The card of a build's step now; a last one when all is done."""
    bench = build.bench
    done, whole = bench.count
    before = tuple(_short(bench.steps[e.step]) for e in reversed(bench.history[-60:]) if isinstance(e.act, Done) and e.id not in bench.undone and e.step in bench.steps)[:4]  # fmt: skip
    step = bench.now
    if step is None:
        return Card("All done", f"{len(build.order_units)} units are built. Every reading is in the log.", said=said, wrong=wrong, done=whole, whole=whole, before=before)  # fmt: skip
    one = step.operation
    unit = f" · unit {step.unit}" if step.unit and len(build.order_units) > 1 else ""
    facts = []
    if one.end and one.op not in ("split",):
        facts.append(
            f"At {build.frozen.making.names.get(one.end, one.end)}" + (f", cavity {one.cavity}" if one.cavity else "")
        )
    if one.tool:
        facts.append(f"Tool: {build.frozen.shelf.name(one.tool)}{', ' + one.setting if one.setting else ''}")
    if coil := build.coil_for(step, wait=False):
        facts.append(f"From coil {coil}")
    elif one.op == "cut" and one.length_m is not None and build.planned and build.coils_held():
        facts.append("No coil on the shelf gives this length: any coil")
    if one.op == "cut" and (mark := _clock(build, one.wire)):
        facts.append(mark)
    if one.told:
        facts.append(one.told)
    if one.side and one.wire:
        left = bench.left(one.wire, one.side, step.unit)
        if bench.remakes.get((step.unit, one.wire, one.side)) or one.op in ("strip", "crimp"):
            facts.append(f"Left at this end: {left.left_mm:.0f} mm, {left.times} remakes")
    cautions = [CAUTIONS[c] for c in one.cautions]
    if one.op in ("crimp", "split") and (told := _die(build, one)):
        cautions.insert(0, told)
    for read in bench.fresh(step.key):
        facts.append(
            f"{KINDS[read.what][0] if read.what in KINDS else read.what} {read.value:g} {read.unit}: {read.verdict}"
        )
    if fault := bench.holds(step):
        facts.append(f"Held: {fault.says or 'a fault'}")
    colour, stripe = _colours(build, step)
    return Card(
        VERBS.get(one.op, one.op) + unit, one.text, tuple(facts), tuple(cautions), _wanted(build, step), said, wrong, done, whole,
        f"{bench.left_s() / 3600:.1f} h of handling left" if bench.left_s() > 3600 else f"{bench.left_s() / 60:.0f} min of handling left",
        tuple(_short(s) for s in bench.coming(4)), before, None if one.op == "insert" else _strip(build, step), _face(build, step), one.cavity, one.length_m, colour, stripe,
    )  # fmt: skip


def _short(step: Timed) -> str:
    unit = f" ({step.unit})" if step.unit else ""
    return f"{VERBS.get(step.operation.op, step.operation.op)}{unit}: {step.operation.text}"


def _wanted(build: Build, step: Timed) -> str:
    """What to measure here, with its limits."""
    shelf = build.frozen.shelf
    known = {read.what for read in build.bench.fresh(step.key)}
    asked = wanted_readings(shelf, step.operation)
    if not asked:
        return ""
    said = "; ".join(f"{KINDS[kind][0]}, {limits_of(shelf, step.operation, kind).text} {KINDS[kind][2]}" for kind in asked)  # fmt: skip
    if not [kind for kind in asked if kind not in known]:
        return f"Measured: {said}"
    return f"First-off. Type {said}" if build.bench.needs_reading(step) else f"Can be measured: {said}"


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
        return clock_mark(drawn, wire)
    except InputError:
        return ""


def _die(build: Build, one: Operation) -> str:
    """What the chart of this tool, setting, part and conductor says, where it says to check the die."""
    mine = [event for event in build.bench.history if isinstance(event.act, Read | Undo | Reset)]
    for run in runs_of(mine):
        if (run.tool, run.setting, run.part) == (
            one.tool,
            one.setting,
            one.part,
        ) and run.chart.verdict == "check the die":
            return f"{run.chart.told[:1].upper()}{run.chart.told[1:]}."
    return ""
