"""What the Prove desk shows of a proof, put together."""

from __future__ import annotations

from dataclasses import replace

from umber_trunk.app.desks.prove.probe_view import Place, ProbeCard, shown_value
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.ends.faces import Face, faces_of
from umber_trunk.core.errors import InputError, refusal_of
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.keep.unit_record import UnitRecord
from umber_trunk.core.prove.blind import passes_thinner, tells_of_one
from umber_trunk.core.prove.fault_words import briefly
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point
from umber_trunk.core.prove.proof import Proof, Task
from umber_trunk.core.prove.verdict import Verdict

VERBS = {
    "look": word("Look"), "tug": word("Tug"), "earth": word("Earth"), "shorts": word("Nothing may lead"), "continuity": word("Through"), "shield": word("Screen"), "insulation": word("Insulation"), "resistance": word("Four wires"), "millivolt": word("Millivolts, current on"),
    "shake": word("Bend and shake"), "polarity": word("Polarity, source on"), "load": word("Under load"), "loop": word("Loop at 22 mA"), "follow": word("What tells most"),
}  # fmt: skip
MATING = word("probe on a mating contact or a test lead: never a tip into a socket or through a seal")
MOST_SUSPECTS = 4


def card_of(
    proof: Proof,
    verdict: Verdict | None,
    said: str = "",
    wrong: bool = False,
    simulated: bool = False,
    record: UnitRecord | None = None,
) -> ProbeCard:
    """The card of a proof's task now; a last one when nothing is asked any more: what the unit then is by its `record`,
    None for a trial that proves none. `simulated`: its readings certify nothing."""
    if not proof.plan.measures:
        return ProbeCard(
            tr("Nothing to prove"), refusal_of("prove.nothing-to-prove").text, said=said, wrong=True, over=True
        )
    task, last = proof.now, proof.answers[-1] if proof.answers else None
    beside = ProbeCard(
        verb="",
        text="",
        last=(shown_value(last.value, last.task.unit), last.ok) if last is not None and last.task.unit else None,
        done=len({one.task.test.n for one in proof.answers if one.task.test is not None}),
        whole=len(proof.plan.tests),
        suspects=suspects_of(verdict, task is None) if verdict is not None else (),
        said=said,
        wrong=wrong,
        over=task is None,
    )
    if task is not None:
        return replace(
            beside,
            verb=tr(VERBS.get(task.kind, task.kind)),
            text=task.text,
            told=_told(proof.net, task),
            caution=_caution(proof, task),
            unit=task.unit,
            expect=task.expect,
            low=task.low,
            high=task.high,
            places=_places(proof.net, task),
            left=tr("about {many} min left").format(many=f"{proof.left_s() / 60:.0f}") if proof.left_s() > 60 else "",
        )
    if proof.complete:
        title, text = _standing(record, simulated)
        return replace(beside, verb=title, text=text, suspects=())
    text = tr("Something was out of its band: read it again, or mend it and prove anew.")
    if beside.suspects:
        text = tr("Mend what stands below, note it, and prove the unit anew.")
    return replace(beside, verb=tr("Not proven"), text=text, caution=tr("Power stays off."), wrong=True)


def _caution(proof: Proof, task: Task) -> str:
    """What is dangerous about a task, and what locks it out."""
    if task.kind in ("polarity", "load", "loop"):
        return tr("Source on: battery negative last, a small fuse first. Mains only by or under a qualified person.")
    if not task.high_voltage:
        return ""
    danger = task.told or tr(
        "High voltage: electronics disconnected, nobody touches the harness; discharge before you do."
    )
    if proof.disconnected:
        return danger
    return tr("Locked out: tick “electronics are disconnected” first.") + " " + danger


def _places(net: Netlist, task: Task) -> tuple[Place, ...]:
    """Where both leads go; of millivolts where on the joint each tip does."""
    probe = task.probe
    if probe is None or not probe.part:
        return tuple(place_of(net, point) for point in task.points[:2])
    part = probe.part.partition("@")[0]
    tips = {
        "stud": (("stud", tr("on the stud’s own face")), ("tongue", tr("on the lug’s tongue"))),
        "crimp": (
            ("tongue", tr("on the lug’s tongue")),
            ("strand", tr("on the strands, at the barrel’s hole or behind it; never through the jacket")),
        ),
        "along": (
            ("strand", tr("on the strands behind the barrel")),
            ("strand", tr("on the strands behind the other barrel")),
        ),
    }[part]
    points = (probe.a[0], probe.b[0])
    return tuple(
        replace(
            place_of(net, point), face=None, found="", how=tr("{how}, inside the current’s clamps", how=how), spot=spot
        )
        for point, (spot, how) in zip(points, tips, strict=True)
    )


def _told(net: Netlist, task: Task) -> str:
    """What to mind at a task, and what its reading can't tell."""
    test = task.test
    thinner = passes_thinner(net, test.wires[0], [test]) if test is not None and tells_of_one(test) else ""
    blind = (
        tr(" This reading can’t tell {thinner} from what is planned: count and measure its strands.", thinner=thinner)
        if thinner
        else ""
    )
    return ("" if task.high_voltage else task.told) + blind


def _standing(record: UnitRecord | None, simulated: bool) -> tuple[str, str]:
    """(title, text) once every test is in its band: a unit is called proven by what stands in the log alone."""
    if record is None and simulated:
        return tr("All in their bands"), tr(
            "Everything on the list was right, by a simulated unit. A trial: nothing of it is kept, and no unit is "
            "proven by it."
        )
    if record is None:
        return tr("All in their bands"), tr(
            "Everything on the list was right. A trial: nothing of it is kept, and no unit is proven by it."
        )
    if record.certain:
        return tr("Proven"), tr("{why}. The certificate is on the Keep desk.").format(why=record.why)
    if record.proven is not None:
        return tr("Proven in simulation"), tr(
            "Everything on the list was right, by a simulated unit: it certifies nothing of a real one."
        )
    why = record.why or record.state_told
    return tr("Not proven"), tr("Every test is in its band, but {why}.").format(why=why)


def suspects_of(verdict: Verdict, over: bool = False) -> tuple[tuple[str, float, str], ...]:
    """The likeliest of each group of faults with its own probability, and what can't be told from it with theirs; once
    it is `over` what mends it."""
    rows: list[tuple[str, float, str]] = []
    for first, *mates in verdict.alike[:MOST_SUSPECTS]:
        others = "; ".join(f"{briefly(mate.words)} ({100 * mate.probability:.0f} %)" for mate in mates[:3])
        alike = tr("reads alike: {others}{more? …}", others=others, more=len(mates) > 3) if mates else ""
        more = "; ".join(part for part in (str(first.mend) if over else "", alike) if part)
        rows.append((str(first.words), first.probability, more))
    if verdict.unexplained:
        rows.append(
            (
                tr("None of the faults known here"),
                verdict.unknown,
                tr("look where the readings lie: {where}").format(where="; ".join(verdict.isolated)),
            )
        )
    return tuple(sorted(rows, key=lambda row: -row[1])[:MOST_SUSPECTS])


def place_of(net: Netlist, point: Point) -> Place:
    """Where a lead goes, with its face from the side a probe comes from."""
    if point == EARTH:
        return Place("earth", "", None, tr("the frame, or the earth bar"), kind="earth")
    end = net.index.ends[point[0]]
    cavity = next(one for one in end.cavities if one.id == point[1])
    label = cavity.label or cavity.id
    found = []
    if end.cabinet:
        found.append(end.cabinet)
    if end.block:
        found.append(tr("block {block}", block=end.block))
    if cavity.row:
        found.append(tr("row {row}", row=cavity.row))
    if cavity.column:
        found.append(tr("column {column}", column=cavity.column))
    face = face_at(net, point, "" if not end.housings else cavity.housing)
    plugs = face is not None and face.contacts in ("pin", "socket")
    studs = bool(end.stud_mm) or end.kind in (EndKind.STUD, EndKind.BAR)
    how = (
        tr(MATING)
        if plugs
        else tr("on the clamp’s screw")
        if face is not None
        else tr("on the stud, after its nut")
        if studs
        else ""
    )
    kind = "bar" if end.kind is EndKind.BAR else "stud" if studs else "bare"
    beside = tuple(one.label or one.id for one in end.cavities)
    return Place(
        end.name, label, face, ", ".join(found) or ("" if face is not None else end.kind.value), how, kind, beside
    )


def face_at(net: Netlist, point: Point, housing: str) -> Face | None:
    """The face with the cavity on it: a plug's from the mating side, where the probe comes from; a block's from the
    wire side."""
    try:
        faces = faces_of(net.design, point[0], "wire", None, net.shelf)
    except InputError:
        return None
    cavity = next(one for one in net.index.ends[point[0]].cavities if one.id == point[1])
    label = cavity.label or cavity.id
    mine = [face for face in faces if any(spot.label == label for spot in face.spots) and housing in ("", face.housing)]
    if not mine:
        return None
    return mine[0].seen_from("mating") if mine[0].contacts in ("pin", "socket") else mine[0]
