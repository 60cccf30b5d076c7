"""What may starve a load on a living harness: each suspect, how it changes the ohms on the load's way, and how often it
is met. A bad joint is tried with several shares of the load's own ohms; an open one with none that lead."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.harness.end import LinkKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Load
from umber_trunk.core.sentences import Message
from umber_trunk.core.solve.plant import Plant

Floats = NDArray[np.float64]

MET = {"fuse": 0.30, "ground": 0.22, "wire": 0.20, "load": 0.17, "switch": 0.05, "source": 0.03, "sound": 0.03}
"""How often a load is dead by each, the program's own first guess. A ground is whatever leads back to the source's
minus."""
TIMES = (0.3, 1.0, 3.0, 10.0, 30.0)
"""A bad joint that starves a load has so many times the load's own ohms; half of them are open."""
FLAT = 0.75
"""What a flat source still gives, as a share."""


@dataclass(frozen=True)
class Suspected:
    """What may starve the load: its kind, the fuse, wire, end or load it is at, and by how much the way is changed:
    branch → its ohms."""

    kind: str
    where: str
    words: Message
    mend: Message
    ohms: tuple[tuple[int, float], ...] = ()
    load_open: bool = False
    source: float = 1.0


def suspected(plant: Plant, way: list[tuple[int, bool]], load: Load, load_ohm: float) -> Iterator[Suspected]:
    """All that may starve a load of so many ohms: fuses, wires, grounds and switches on its `way`, (branch, whether
    back); the load itself, nothing at all, the source."""
    index = index_of(plant.design)
    for branch, back in way:
        if branch < len(plant.wires):
            wire = plant.wires[branch]
            ends = " or ".join(index.ends[pin.end].name for pin in (wire.start, wire.finish))
            kind, where = ("ground", wire.id) if back else ("wire", wire.id)
            words = Message.of("starved.doesnt-lead-well", wire=wire.id, back=bool(back), ends=ends)
            mend = Message.of("starved.source-off-look", wire=wire.id, ends=ends)
        else:
            end, link = plant.links[branch - len(plant.wires)]
            name = f"{link.id} at {index.ends[end].name}"
            if link.kind is LinkKind.FUSE:
                yield Suspected(
                    "fuse",
                    link.id,
                    Message.of("starved.fuse-is-blown", name=name),
                    Message.of("starved.source-off-pull"),
                    ((branch, math.inf),),
                )
                continue
            frame = link.kind is LinkKind.FRAME
            kind, where = ("ground" if frame else "switch"), link.id
            words = (
                Message.of("starved.place-doesnt-lead-well", name=name)
                if frame
                else Message.of("starved.doesnt-close-or-its-plug-isnt", name=name)
            )
            mend = (
                Message.of("starved.source-off-clean-and-tighten", name=index.ends[end].name)
                if frame
                else Message.of("starved.source-off-push-its-plug-home", name=name)
            )
        for times in (math.inf, *TIMES):
            yield Suspected(kind, where, words, mend, ((branch, times * load_ohm),))
    yield Suspected(
        "load",
        load.id,
        Message.of("starved.itself-it-has-its-volts", load=load.name),
        Message.of("starved.try-another-in-place", load=load.name),
        load_open=True,
    )
    yield Suspected(
        "sound",
        load.id,
        Message.of("starved.everything-is-as-in-sound-harness", load=load.name),
        Message.of("starved.bend-and-shake-its-plugs"),
    )
    yield Suspected(
        "source",
        plant.supplies[0].id if plant.supplies else "",
        Message.of("starved.source-is-low"),
        Message.of("starved.charge-it-and-read-it-again"),
        source=FLAT,
    )


def priors(suspects: list[Suspected]) -> Floats:
    """Each kind's share, spread over what it can be at; of a bad joint half is open."""
    places: dict[str, set[str]] = {}
    for one in suspects:
        places.setdefault(one.kind, set()).add(one.where)
    whole = sum(MET[kind] for kind in places)
    weights = []
    for one in suspects:
        share = MET[one.kind] / whole / len(places[one.kind])
        several = one.kind in ("wire", "ground", "switch")
        weights.append(share * ((0.5 if math.isinf(one.ohms[0][1]) else 0.5 / len(TIMES)) if several else 1.0))
    return np.array(weights)
