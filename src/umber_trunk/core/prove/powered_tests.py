"""The powered tests, last of all and only if all before was sound: polarity, the loads themselves, signal loops."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from functools import partial

from umber_trunk.core.ends.mate import ends_agree
from umber_trunk.core.harness.model import Load, Pin
from umber_trunk.core.prove.checklist import Test, six_digits
from umber_trunk.core.prove.loops import Budget, budgets
from umber_trunk.core.prove.netlist import Netlist, point_of
from umber_trunk.core.sentences import NOTHING, Message, joined
from umber_trunk.core.solve.used import LoadFigures

POLARITY_SHARE, LOAD_SHARE = 0.03, 0.03
"""How far from the stated or predicted volts a reading may be, as a share."""
METER_V = 0.05
"""More than that share at low volts: what a pocket meter may be out."""


def powered_tests(net: Netlist) -> Iterator[Test]:
    """Polarity at every load and source, what arrives at each load, what stays for each loop; without numbers yet."""
    plant = net.results.plant
    nominal = {load.id: float(volts) for load, volts in zip(plant.loads, plant.nominal_v, strict=True)}
    for load in net.design.loads:
        volts = nominal.get(load.id)
        if volts is not None and math.isfinite(volts):
            said = partial(Message.of, "test.unplugged-source-on", load=load.name, volts=volts)
            told = _with(Message.of("test.only-after-everything-before-was-sound"), _halves(net, load.plus.end))
            yield from _polarity(net, load.plus, load.minus, volts, said, told)
    for supply in net.design.supplies:
        said = partial(Message.of, "test.at-its-own-terminals", supply=supply.name, volts=supply.volts)
        told = _with(Message.of("test.before-its-fuse-goes"), _halves(net, supply.plus.end))
        yield from _polarity(net, supply.plus, supply.minus, supply.volts, said, told)
    loads = net.results.figures.loads
    for load in net.design.loads:
        known = loads.get(load.id)
        if known is not None and math.isfinite(known.volts):
            yield _running(net, load, known)
    for one in budgets(net.design, net.results):
        yield _loop(one)


def _polarity(
    net: Netlist, plus: Pin, minus: Pin, volts: float, said: Callable[..., Message], told: Message
) -> Iterator[Test]:
    """Which way round it is, where a meter reaches both sides; `said` is told where + is, `plus`."""
    a, b = point_of(plus), point_of(minus)
    if a in net.node_of and b in net.node_of:
        low, high = (six_digits(volts * share) for share in (1 - POLARITY_SHARE, 1 + POLARITY_SHARE))
        expect = six_digits(volts)
        yield Test(
            0,
            "polarity",
            net.said(a),
            net.said(b),
            expect,
            low,
            high,
            "V",
            said(plus=net.name(a)),
            told=told,
            points=(a, b),
        )


def _running(net: Netlist, load: Load, known: LoadFigures) -> Test:
    """What arrives at a load with all that runs with it."""
    a, b = point_of(load.plus), point_of(load.minus)
    volts, needs = float(known.volts), load.min_volts or 0.0
    told = Message.of("test.at-sources-stated-volts")
    if needs > volts - 1e-9 and needs > 0:  # the design's own fault: a sound unit gives what the design gives
        told = _with(told, _left_under(needs))
        needs = 0.0
    text = Message.of("test.running-with-all-that-runs", load=load.name, volts=volts)
    spread = LOAD_SHARE * abs(volts)
    expect, low, high = (six_digits(one) for one in (volts, max(volts - spread, needs), volts + spread + METER_V))
    return Test(0, "load", net.said(a), net.said(b), expect, low, high, "V", text, told=told, points=(a, b))


def _loop(one: Budget) -> Test:
    """What stays at an instrument while it draws the most a loop is meant for."""
    told, least, left = Message.of("test.ma-read-right-at-receiver"), one.need_v, round(one.left_v, 2)
    if not one.ok:
        told = _with(told, _left_under(one.need_v))
        least = max(one.left_v * (1 - LOAD_SHARE), 0.0)
    text = Message.of("test.drive-it-to-ma", one=one.name, least=least)
    return Test(0, "loop", one.plus, one.minus, left, six_digits(min(least, left)), None, "V", text, told=told)


def _with(told: Message, more: Message) -> Message:
    return joined("any.then", [told, more]) if more else told


def _left_under(needs: float) -> Message:
    return Message.of("test.design-itself-leaves-it-under", needs=needs)


def _halves(net: Netlist, end_id: str) -> Message:
    """What stands against plugging an end into the one it mates with."""
    other = net.index.ends.get((end.mates if (end := net.index.ends.get(end_id)) else None) or "")
    if other is None:
        return NOTHING
    found = ends_agree(net.design, end_id, other.id, net.shelf)
    if found.agrees:
        return NOTHING
    why = found.wrong[0].what if found.wrong else "; ".join(found.missing)
    return (
        Message.of("test.dont-plug", other=other.name, why=why)
        if found.agrees is False
        else Message.of("test.whether-is-wired-alike-cant", other=other.name, why=why)
    )
