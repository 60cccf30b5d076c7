"""Heavy leads by millivolts: while a current flows through the lead, across each joint and along it.

    ─ stud ┤lug├ strand ══════ along the lead ══════ strand ┤lug├ stud ─
         a│←→│ crimp                                  crimp │←→│b

Ohms from end to end can’t part a bad lug from a thin lead; these do.
"""

from __future__ import annotations

import math

from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.sentences import Message

MOST_S = 60.0
"""How long a current for millivolts flows at most."""


def test_amps(net: Netlist, wire: str, meter: Meter) -> float:
    """The current for millivolts through a wire [A]: what the supply gives, and no more than the wire carries at work,
    less where that is over one of its limits; 0 where it carries nothing."""
    known = net.results.figures.wires.get(wire)
    if known is None or not math.isfinite(known.amps):
        return 0.0
    worst = max((use.used for use in known.uses if math.isfinite(use.used)), default=0.0)
    return float(f"{min(meter.amps, known.amps / max(worst, 1.0)):.2g}")


def part_probe(net: Netlist, wire: str, part: str, amps: float) -> Probe:
    """Millivolts across a part of a wire (see `Netlist.parts`)."""
    first, last = net.places(wire)
    end = part.partition("@")[2]
    a, b = (first, last) if part == "along" else (first, first) if first[0] == end else (last, last)
    return Probe("millivolt", (a,), (b,), wire=wire, part=part, amps=amps)


def millivolt_words(net: Netlist, probe: Probe) -> tuple[Message, Message]:
    """(what is read, how): where the two tips go."""
    what, _, end = probe.part.partition("@")
    name = net.index.ends[end].name if end else ""
    text, held = {
        "stud": (
            Message.of("test.at-stud-to-lug", wire=probe.wire, name=name, amps=probe.amps),
            Message.of("test.one-tip-on-studs-own-face"),
        ),
        "crimp": (
            Message.of("test.at-lug-to-strand", wire=probe.wire, name=name, amps=probe.amps),
            Message.of("test.one-tip-on-tongue"),
        ),
        "along": (
            Message.of("test.along-lead", wire=probe.wire, amps=probe.amps),
            Message.of("test.tips-on-strands-at-both-barrels"),
        ),
    }[what]
    return (
        Message.of("test.read-so", what=text),
        Message.of("test.current-for-a-short-time", held=held, amps=probe.amps, most_s=MOST_S),
    )
