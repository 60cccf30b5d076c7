"""Lots of the demos as they stand on the bench: the landing tractor half built, six units, a die that drifts, coils
partly cut; the brine loops built and proven, so that a unit can be looked up."""

from __future__ import annotations

import random
import zlib
from dataclasses import replace
from typing import Any

from umber_trunk import __version__
from umber_trunk.core.analysis import analyse
from umber_trunk.core.kit.coilcut import plan_cuts
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.bench import Bench
from umber_trunk.core.make.events import event
from umber_trunk.core.make.frozen import freeze
from umber_trunk.core.make.measuring import limits_of, reading_data
from umber_trunk.core.make.press import Press
from umber_trunk.core.make.samples import sample_pieces
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.prove.listed import plan_text
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.results import Results
from umber_trunk.core.text import digest_of
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.proofs import UnitProof
from umber_trunk.store.stock import keep_booked

UNITS = 6
BEGAN_MS = 1_795_420_800_000
"""A morning in November."""
WORN = "cockle-m-socket-1.5"
WEAR_MM, SCATTER_MM = 0.00042, 0.007
SHARE_DONE = 0.475
SEED = 1


def built(project: ProjectFile, name: str, units: int, hand: str, share: float) -> None:
    """A lot as it stands on the bench, that share of its steps done: the same every time."""
    results = analyse(project.design)
    order = plan_order(results, units)
    draw = random.Random(29)
    coils = _coils(results, units)
    project.floor.put_coils(coils, BEGAN_MS)
    from_coil = {
        (c.piece.wire, c.piece.unit): c.coil
        for c in plan_cuts(coils, [*pieces(results, units), *sample_pieces(results)]).cuts
    }
    frozen = freeze(results, order, __version__)
    design, digest = frozen.digests
    data = {"units": list(order.units), "school": order.school, "hands": 1, "revision": project.head, "harness": project.id, "hand": hand, "version": __version__, "design": design, "order": digest}  # fmt: skip
    events = [event("demo-0", name, BEGAN_MS, "begin", 0, "", data)]
    bench = Bench(frozen.making, frozen.shelf, name, events)
    presses: dict[tuple[str, str, float], Press] = {}
    clock = BEGAN_MS

    def log(kind: str, step: Timed, more: dict[str, object]) -> None:
        one = event(f"demo-{len(events)}", name, clock, kind, step.unit, step.key, more)
        events.append(one)
        bench.add(one)

    shelf = results.shelf
    while bench.now is not None and bench.count[0] < share * bench.count[1]:
        step = bench.now
        one = step.operation
        key = one.part, one.setting, one.area_mm2
        if one.op == "crimp" and key not in presses:
            height = limits_of(shelf, one, "height")
            middle = (height.low + height.high) / 2 if height.low is not None and height.high is not None else 1.5
            worn = one.part == WORN and one.area_mm2 < 1.2
            presses[key] = Press(
                middle,
                WEAR_MM if worn else 0.0,
                SCATTER_MM,
                2.1 * (limits_of(shelf, one, "pull").low or 100),
                seed=zlib.crc32(f"{SEED} {key}".encode()),
            )
        if one.op == "crimp":
            presses[key].crimp()
            if not one.sample and limits_of(shelf, one, "height").low is not None and draw.random() < 0.7:
                log("read", step, reading_data(shelf, one, "height", presses[key].height(), hand))
        if bench.needs_reading(step):
            crimp = next(s.operation for s in order.steps if s.operation.key == one.after[-1])
            press = presses[crimp.part, crimp.setting, crimp.area_mm2]
            if limits_of(shelf, one, "height").low is not None:
                log("read", step, reading_data(shelf, replace(one, tool=crimp.tool), "height", press.height(), hand))
            log("read", step, reading_data(shelf, replace(one, tool=crimp.tool), "pull", press.pull(), hand))
        seconds = step.seconds * draw.lognormvariate(0.0, 0.25)
        clock += int(1000 * seconds)
        told: dict[str, object] = {"op": one.op, "tool": one.tool, "setting": one.setting, "wire": one.wire, "hand": hand, "station": "", "seconds": round(seconds, 2)}  # fmt: skip
        coil = from_coil.get((one.wire, step.unit)) if one.op == "cut" else None
        if coil is not None and one.length_m is not None:
            told |= {"coil": coil, "coil_m": one.length_m}
        log("done", step, told)
    project.floor.append_with(events, (frozen.design_text, frozen.order_text), "sitting")
    project.freeze(project.head, f"build {name}")
    keep_booked(project.floor, events)


def proven(project: ProjectFile, name: str, hand: str) -> None:
    """The lot's first unit proven, with its serial and a deviation: a sound unit, measured by the simulated meter."""
    kept = UnitProof(project, name, 1, hand)
    proof = kept.load()
    text = plan_text(proof.plan)
    unit = Unit(proof.net, seed=SEED)
    clock = BEGAN_MS + 6 * 3_600_000
    told: list[tuple[str, dict[str, Any]]] = [("serial", {"serial": "BL-001"})]
    told.append(("deviation", {"says": "screen at FT-106 taped with two layers, the first was nicked", "who": hand}))
    meter = proof.meter
    begun = {"tests": digest_of(text), "floor_ohm": meter.floor_ohm, "share": meter.four_share, "who": hand, "version": __version__}  # fmt: skip
    told += [("proof", begun), ("safe", {"who": hand, "ok": True})]
    proof.disconnected = True
    while proof.now is not None:
        task = proof.now
        value = unit.measure(task.probe) if task.probe is not None else task.expect if task.unit else None
        one = proof.answer(value, None if task.unit else True)
        told.append(("test", dict(proof.entry(one).model_dump(exclude_unset=True, by_alias=True), by=hand)))
    told.append(("proven", {"ok": True, "who": hand, "told": f"{len(proof.answers)} answers, all in their bands"}))
    events = [event(f"demo-p{n}", name, clock + 9000 * n, kind, 1, "", data) for n, (kind, data) in enumerate(told)]
    project.floor.append_with(events, [text], "proof")


def _coils(results: Results, units: int) -> list[Coil]:
    """The co-op's shelf: a drum of most, half a coil and an offcut of some, too little of one."""
    draw = random.Random(11)
    need: dict[tuple[str, str, str], float] = {}
    for piece in pieces(results, units):
        key = (piece.size, piece.metal, piece.colour)
        need[key] = need.get(key, 0.0) + piece.length_m
    found = []
    for number, ((size, metal, colour), metres) in enumerate(sorted(need.items()), 1):
        found.append(Coil(f"C{number:02}", size, round(1.15 * metres + draw.uniform(2, 12), 1), metal, colour))
        if number % 3 == 0:
            found.append(Coil(f"C{number:02}b", size, round(draw.uniform(1.2, 6.0), 2), metal, colour))
    return found
