"""The list of tests, derived from the design: what a look can end comes first, then what is dangerous, power last.

Look and tug; earths; shorts; continuity along each net's own wires, so that each reading is judged by its own
prediction; screens; insulation; what carries much, by four wires; bend and shake; then, powered and only if all before
was sound, polarity and the load itself. Within a net, each reading keeps one lead where it is as long as it can:
`moves` counts lead placements, `moves_bound` is the fewest any order could do with.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from umber_trunk.core.ends.mate import ends_agree
from umber_trunk.core.harness.earths import is_earth
from umber_trunk.core.harness.model import EndKind
from umber_trunk.core.prove.clipping import clear_readings, hand_tests, least_tests
from umber_trunk.core.prove.loops import budgets
from umber_trunk.core.prove.meter import SHAKEN, Meter
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point, netlist, point_of
from umber_trunk.core.prove.state import Probe, State, error_of
from umber_trunk.core.results import Results

KINDS = (
    "look",
    "tug",
    "earth",
    "shorts",
    "continuity",
    "shield",
    "insulation",
    "resistance",
    "millivolt",
    "shake",
    "polarity",
    "load",
    "loop",
)
"""Kinds of tests in the order they are done."""
BAND_SD = 4.0
"""A reading is out of its band beyond so many standard deviations: once in sixteen thousand readings of sound wire."""
HEAVY_A = 10.0
HEAVY_MM2 = 10.0
"""Leads from this size on that carry `HEAVY_A` are read by millivolts too: their joints weigh as much as they do."""
MOST_S = 60.0
"""How long a current for millivolts flows at most."""
READS = ("continuity", "resistance", "earth")
"""Kinds of tests that read a wire's ohms."""
EARTH_OHM = 0.1
"""What an earth may have beside the lead's own resistance."""
OPEN_OHM = 1e6
"""What an ohmmeter has to show at least where nothing should lead."""
POLARITY_SHARE, LOAD_SHARE = 0.03, 0.03
SECONDS = {"look": 15.0, "tug": 12.0, "earth": 20.0, "shorts": 12.0, "continuity": 8.0, "shield": 25.0, "insulation": 20.0, "resistance": 15.0, "millivolt": 25.0, "shake": 20.0, "polarity": 15.0, "load": 40.0, "loop": 60.0}  # fmt: skip
"""First guesses of the time a test takes, without the walk."""
WALK_S = 15.0


@dataclass(frozen=True)
class Test:
    """One test. `expect`, `low` and `high` are in `unit`, None where there is no such figure; `probe` is None for what
    no meter reads; `wires` are those it says something of, `told` what to mind."""

    n: int
    kind: str
    a: str
    b: str
    expect: float | None
    low: float | None
    high: float | None
    unit: str
    text: str
    probe: Probe | None = None
    wires: tuple[str, ...] = ()
    told: str = ""
    points: tuple[Point, ...] = ()

    def judged(self, value: float) -> bool:
        """Whether a reading is within the band."""
        return (self.low is None or value >= self.low) and (self.high is None or value <= self.high)

    def value_of(self, ohm: float) -> float:
        """A reading in ohms as the list has it: millivolts where it is read while a current flows."""
        return 1e3 * ohm * self.probe.amps if self.unit == "mV" and self.probe is not None else ohm


@dataclass(frozen=True)
class Plan:
    """All tests. Counts of shorts tests are with a switch box and by hand; insulation is read on the same groups."""

    tests: tuple[Test, ...]
    nets: int
    shorts_box: int
    shorts_hand: int
    pairs: int
    moves: int
    moves_bound: int
    seconds: float
    box: bool = True
    unreached: tuple[str, ...] = field(default=())
    untold: tuple[str, ...] = field(default=())
    """What its readings can't tell, in sentences; frozen with the list a proof is held to."""

    @property
    def measures(self) -> bool:
        """Whether a meter reads anything at all: without it nothing can be proven."""
        return any(test.probe is not None for test in self.tests)

    def of(self, kind: str) -> list[Test]:
        """Tests of one kind."""
        return [test for test in self.tests if test.kind == kind]


def test_plan(results: Results) -> Plan:
    """The test list with a four-wire meter and a switch box; for `Results.once`."""
    return make_plan(results.once(netlist), Meter())


NOTHING = "There is nothing to prove: no wire of this harness leads from place to place where a meter can reach it."


def band_of(state: State, meter: Meter, probe: Probe) -> tuple[float | None, float | None, float | None]:
    """(expected, least, most) ohms of a reading of a sound unit: its own prediction, the wires' and the meter's error;
    all None where nothing leads."""
    seen = state.see(probe)
    if math.isinf(seen.ohm):
        return None, None, None
    sd = math.hypot(
        float(error_of(meter, probe, np.array(seen.ohm))),
        seen.sd_ohm,
        *(share * state.edges[edge].sd_ohm for edge, share in seen.shares),
    )
    return seen.ohm, max(seen.ohm - BAND_SD * sd, 0.0), seen.ohm + BAND_SD * sd


def make_plan(net: Netlist, meter: Meter, box: bool = True) -> Plan:
    """The test list for a meter; `box`: with a switch box for the group tests."""
    return _Maker(net, meter, box).plan()


class _Maker:
    def __init__(self, net: Netlist, meter: Meter, box: bool) -> None:
        self.net, self.meter, self.box = net, meter, box
        self.state = State(net)
        self.rows: list[Test] = []
        self.moves = self.bound = 0
        self.held: set[Point] = set()
        self.walked = 0
        self._order = {end.id: n for n, end in enumerate(net.design.ends)}
        self._at_end: dict[str, list[Point]] = {}
        for point in net.points:
            self._at_end.setdefault(point[0], []).append(point)

    def plan(self) -> Plan:
        self._by_eye()
        self._earths()
        nets = list(self.net.nets)
        self._shorts(nets, "shorts")
        self._continuity()
        self._shields()
        self._shorts(nets, "insulation")
        self._heavy()
        self._millivolts()
        self._shakes()
        self._powered()
        seconds = sum(SECONDS[test.kind] for test in self.rows) + WALK_S * self.walked
        count = len(nets)
        covered = {wire for test in self.rows if test.kind in READS for wire in test.wires}
        unreached = tuple(edge.wire for edge in self.net.edges if edge.wire and edge.wire not in covered)
        return Plan(
            tuple(self.rows),
            count,
            least_tests(count),
            hand_tests(count),
            count * (count - 1) // 2,
            self.moves,
            self.bound,
            seconds,
            self.box,
            unreached,
        )

    def _add(
        self,
        kind: str,
        a: str,
        b: str,
        text: str,
        expect: float | None = None,
        low: float | None = None,
        high: float | None = None,
        unit: str = "",
        probe: Probe | None = None,
        wires: tuple[str, ...] = (),
        told: str = "",
        points: tuple[Point, ...] = (),
    ) -> None:
        shown = points or ((*probe.a[:1], *probe.b[:1]) if probe is not None else ())
        self.rows.append(Test(len(self.rows) + 1, kind, a, b, expect, low, high, unit, text, probe, wires, told, shown))

    def _by_eye(self) -> None:
        reached = self._at_end
        ends = [end for end in self.net.design.ends if end.id in reached or end.kind is EndKind.SPLICE]
        for end in ends:
            points = tuple(self._at_end.get(end.id, ()))
            self._add(
                "look",
                end.id,
                "",
                f"{end.name}: look at every crimp, seal, lock and cavity, colours against the list.",
                told="No strand outside, no insulation in the barrel, locks shut, blanks in.",
                points=points,
            )
        for end in ends:
            wires = self.net.arriving.get(end.id, ())
            if wires:
                self._add(
                    "tug",
                    end.id,
                    "",
                    f"{end.name}: a tug at each of {len(wires)} {'wire' if len(wires) == 1 else 'wires'}.",
                    wires=wires,
                    told="Light: it must not move.",
                )

    def _earths(self) -> None:
        """Earths of cords and frames, before anything else is read."""
        for wire in self.net.design.wires:
            one = self.net.facts.get(wire.id)
            if one is None or not is_earth(wire.name, wire.core, wire.circuit) or not self.net.reached(wire.id):
                continue
            a, b = self.net.places(wire.id)
            self._placed((a, b))
            high = round(one.copper_ohm * 1.15 + EARTH_OHM, 6)
            self._add(
                "earth",
                self.net.said(a),
                self.net.said(b),
                f"{wire.id}: earth through, {self.net.name(a)} to {self.net.name(b)}.",
                one.ohm,
                0.0,
                high,
                "Ω",
                Probe(self.meter.kind, (a,), (b,)),
                (wire.id,),
                "Nobody plugs it in before this is right.",
            )

    def _shorts(self, nets: list[int], kind: str) -> None:
        """Group tests by the bits of the nets' numbers, or by hand each net against those before; for insulation the
        same groups and all together against earth."""
        insulation = kind == "insulation"
        volts = test_volts(self.net)
        caution = (
            f"At {volts:g} V: electronics disconnected, nobody touches the harness; discharge before you do."
            if insulation
            else ""
        )
        first = [self.net.nets[number][0] for number in nets]
        earthed = [point for number, point in zip(nets, first, strict=True) if number == self.net.net_of[0]]
        probes: list[tuple[Probe, str, str, str]] = []
        mark = "insulation" if insulation else "two"
        if insulation and [p for p in first if p not in earthed]:
            free = tuple(p for p in first if p not in earthed)
            probes.append((Probe(mark, free, (EARTH,)), "all nets", "earth", "All nets clipped together against earth"))
        for number, (ones, others) in enumerate(clear_readings(len(first), not self.box), 1):
            probe = Probe(mark, tuple(first[n] for n in ones), tuple(first[n] for n in others))
            if self.box:
                text = f"Switch box at {number}: {len(ones)} nets against {len(others)}"
                probes.append((probe, f"group {number}a", f"group {number}b", text))
            else:
                text = f"{self.net.name(probe.b[0])} against the {len(ones)} before, clipped together"
                probes.append((probe, f"{len(ones)} nets", self.net.said(probe.b[0]), text))
        for probe, a, b, text in probes:
            least = self.net.design.project.insulation_ohm if insulation else OPEN_OHM
            self._add(kind, a, b, f"{text}: nothing leads.", None, least, None, "Ω", probe, told=caution)

    def _continuity(self) -> None:
        """Each net along its own wires, from the point of it that most of the others are near."""
        done = {wire for test in self.rows if test.kind == "earth" for wire in test.wires}
        for points in sorted(self.net.nets.values(), key=self._place):
            for a, b in self._walk(points):
                seen = self.state.see(Probe(self.meter.kind, (a,), (b,)))
                wires = tuple(
                    self.net.edges[edge].wire
                    for edge, share in seen.shares
                    if self.net.edges[edge].wire and share > 1e-3
                )
                if wires and set(wires) <= done and len(wires) == 1:
                    continue
                self._placed((a, b))
                self._sized("continuity", a, b, wires)

    def _sized(self, kind: str, a: Point, b: Point, wires: tuple[str, ...], told: str = "", doing: str = "") -> None:
        """A reading between two places, judged by its own prediction; `doing` says what is done there."""
        held = {"continuity": self.meter.kind, "shake": SHAKEN[self.meter.kind]}.get(kind, "four")
        probe = Probe(held, (a,), (b,))
        expect, low, high = band_of(self.state, self.meter, probe)
        assert expect is not None
        assert high is not None
        places = doing or f"{self.net.name(a)} to {self.net.name(b)}"
        text = f"{', '.join(wires[:4])}{' …' if len(wires) > 4 else ''}: {places}."
        self._add(
            kind,
            self.net.said(a),
            self.net.said(b),
            text,
            _six(expect),
            _six(low or 0.0),
            _six(high),
            "Ω",
            probe,
            wires,
            told,
        )

    def _place(self, points: list[Point]) -> tuple[int, int]:
        """Where a net begins in the order of the ends, so that one stays at an end as long as there is work."""
        order = self._order
        busy = max(points, key=lambda p: (len(self._neighbours(p)), -order[p[0]]))
        return order[busy[0]], min(order[p[0]] for p in points)

    def _neighbours(self, point: Point) -> list[int]:
        return self.net.at_node.get(self.net.node(point), [])

    def _walk(self, points: list[Point]) -> list[tuple[Point, Point]]:
        """Readings that reach every wire of a net and join all its points: a tree along its wires, leaves first, so
        that one lead stays while the other goes round."""
        by_node: dict[int, Point] = {}
        for point in points:
            by_node.setdefault(self.net.node(point), point)
        if len(by_node) < 2:
            return []
        hub = max(by_node, key=lambda node: len(self.net.at_node.get(node, [])))
        tree: dict[int, list[int]] = {}
        seen, todo = {hub}, [(hub, hub)]
        while todo:
            node, holder = todo.pop(0)
            for at in self.net.at_node.get(node, ()):
                edge = self.net.edges[at]
                other = edge.b if edge.a == node else edge.a
                if other in seen:
                    continue
                seen.add(other)
                if other in by_node:
                    tree.setdefault(holder, []).append(other)
                    todo.append((other, other))
                else:
                    todo.append(
                        (other, holder)
                    )  # a splice under its shrink: its wires are read from the point before it
        found: list[tuple[Point, Point]] = []

        def visit(node: int) -> None:
            for child in sorted(tree.get(node, []), key=lambda one: len(tree.get(one, []))):
                found.append((by_node[node], by_node[child]))  # a bridge in between is proven too
                visit(child)

        visit(hub)
        return found

    def _placed(self, points: tuple[Point, Point]) -> None:
        """Counts what the leads have to do: placements, and ends walked to."""
        fresh = {point for point in points if point not in self.held}
        self.moves += len(fresh)
        self.bound += 1 if self.held and self.net.net_at(points[0]) in {self.net.net_at(p) for p in self.held} else 2
        self.walked += len({p[0] for p in fresh} - {p[0] for p in self.held})
        self.held = set(points)

    def _shields(self) -> None:
        """Screens: where they should land, by their drain's reading; where they are taped, nothing to earth with the
        other end lifted."""
        for screen in self.net.screens.values():
            names = [self.net.index.ends[end].name for end in screen.landed]
            if screen.taped:
                at = next(place for place in self.net.places(screen.wire) if place[0] == screen.taped[0])
                text = (
                    f"{screen.cable}: screen lifted at {names[0] if names else 'its ground'}; {self.net.name(at)} "
                    "to earth: nothing leads."
                )
                self._add(
                    "shield",
                    self.net.said(at),
                    "earth",
                    text,
                    None,
                    OPEN_OHM,
                    None,
                    "Ω",
                    Probe("two", (at,), (EARTH,), screen.wire),
                    (screen.wire,),
                    "Grounded in one place only; land it again after.",
                )
            else:
                if self.net.reached(screen.wire):
                    self._sized(
                        "shield",
                        *self.net.places(screen.wire),
                        (screen.wire,),
                        "A data lead’s screen lands at both ends.",
                    )

    def _heavy(self) -> None:
        """Paths that carry much, by four wires where continuity was read by two."""
        if self.meter.four_wire:
            return
        figures = self.net.results.figures.wires
        for wire in self.net.design.wires:
            known = figures.get(wire.id)
            if known is not None and known.amps >= HEAVY_A and self.net.reached(wire.id):
                told = "Current through the outer pair of clips, volts at the inner."
                self._sized("resistance", *self.net.places(wire.id), (wire.id,), told)

    def _millivolts(self) -> None:
        """Heavy leads: while a current flows through the lead, millivolts across each joint and along it. Ohms from end
        to end can't part a bad lug from a thin lead; these do."""
        for wire in self.net.design.wires:
            amps = test_amps(self.net, wire.id, self.meter)
            for part in self.net.parts(wire.id) if amps and self._is_heavy(wire.id) else ():
                self._millivolt(wire.id, part, amps)

    def _is_heavy(self, wire: str) -> bool:
        known, plant = self.net.results.figures.wires.get(wire), self.net.results.plant
        return (
            known is not None and known.amps >= HEAVY_A and plant.conductors[plant.row[wire]].size.area_mm2 >= HEAVY_MM2
        )

    def _millivolt(self, wire: str, part: str, amps: float) -> None:
        probe = part_probe(self.net, wire, part, amps)
        expect, low, high = band_of(self.state, self.meter, probe)
        assert expect is not None
        assert high is not None
        text, told = millivolt_words(self.net, probe)
        expect_mv, low_mv, high_mv = (_six(1e3 * amps * ohm) for ohm in (expect, low or 0.0, high))
        self._add("millivolt", wire, part, text, expect_mv, low_mv, high_mv, "mV", probe, (wire,), told)

    def _shakes(self) -> None:
        """Bend and shake: readings that go through every wire at a movable end, as few as lie along one another."""
        movable = {
            end.id
            for end in self.net.design.ends
            if (zone := self.net.index.zones.get(end.zone or "")) is not None and (zone.vibration or zone.flexing)
        }
        left = {wire for end in movable for wire in self.net.arriving.get(end, ()) if self.net.reached(wire)}
        for points in sorted(self.net.nets.values(), key=self._place):
            self._shaken(points, movable, left)

    def _shaken(self, points: list[Point], movable: set[str], left: set[str]) -> None:
        """Readings of one net that pass each of its wires at movable ends: the pair of points first that passes most of
        what is left."""
        mine = {
            edge.wire
            for point in points
            for at in self.net.at_node.get(self.net.node(point), ())
            if (edge := self.net.edges[at]).wire in left
        }
        ways = self._ways(points, mine) if mine else {}
        while mine and ways:
            (a, b), passed = max(ways.items(), key=lambda way: len(way[1] & mine))
            if not passed & mine:
                break
            bent = dict.fromkeys(
                end
                for wire in sorted(passed & mine)
                for end in (self.net.places(wire)[0][0], self.net.places(wire)[1][0])
                if end in movable
            )
            self._placed((a, b))
            where = ", ".join(self.net.index.ends[end].name for end in bent)
            doing = f"hold {self.net.name(a)} and {self.net.name(b)}; bend and shake {where}"
            told = "Write down the highest it shows while you bend; OL where it breaks."
            self._sized("shake", a, b, tuple(sorted(passed)), told, doing)
            mine -= passed
            left -= passed

    def _ways(self, points: list[Point], mine: set[str]) -> dict[tuple[Point, Point], set[str]]:
        """(point, point) → the wires all of its current goes through, of pairs that pass one of these; of many points
        the ends of those wires alone."""
        few = (
            [point for point in points if any(point in self.net.places(wire) for wire in mine)]
            if len(points) > MOST_POINTS
            else points
        )
        ways = {}
        for n, a in enumerate(few[:MOST_POINTS]):
            for b in few[n + 1 : MOST_POINTS]:
                if self.net.node(a) == self.net.node(b):
                    continue
                seen = self.state.see(Probe(self.meter.kind, (a,), (b,)))
                passed = {
                    self.net.edges[edge].wire
                    for edge, share in seen.shares
                    if share > 0.99 and self.net.edges[edge].wire
                }
                if passed & mine:
                    ways[a, b] = passed
        return ways

    def _powered(self) -> None:
        loads = self.net.results.figures.loads
        plant = self.net.results.plant
        nominal = {load.id: float(volts) for load, volts in zip(plant.loads, plant.nominal_v, strict=True)}
        for load in self.net.design.loads:
            a, b = point_of(load.plus), point_of(load.minus)
            volts = nominal.get(load.id)
            if volts is None or not math.isfinite(volts) or a not in self.net.node_of or b not in self.net.node_of:
                continue
            text = f"{load.name}: unplugged, source on: {volts:g} V, + at {self.net.name(a)}."
            self._add(
                "polarity",
                self.net.said(a),
                self.net.said(b),
                text,
                _six(volts),
                _six(volts * (1 - POLARITY_SHARE)),
                _six(volts * (1 + POLARITY_SHARE)),
                "V",
                told="Only after everything before was sound." + self._halves(load.plus.end),
                points=(a, b),
            )
        for supply in self.net.design.supplies:
            a, b = point_of(supply.plus), point_of(supply.minus)
            if a in self.net.node_of and b in self.net.node_of:
                text = (
                    f"{supply.name}: at its own terminals, nothing else on: {supply.volts:g} V, + at "
                    f"{self.net.name(a)}."
                )
                low, high = _six(supply.volts * (1 - POLARITY_SHARE)), _six(supply.volts * (1 + POLARITY_SHARE))
                told = "Before its fuse goes in; battery negative last." + self._halves(supply.plus.end)
                self._add(
                    "polarity",
                    self.net.said(a),
                    self.net.said(b),
                    text,
                    _six(supply.volts),
                    low,
                    high,
                    "V",
                    told=told,
                    points=(a, b),
                )
        for load in self.net.design.loads:
            known = loads.get(load.id)
            if known is None or not math.isfinite(known.volts):
                continue
            a, b = point_of(load.plus), point_of(load.minus)
            volts = float(known.volts)
            needs = load.min_volts or 0.0
            told = "At the source’s stated volts; feel for warm joints."
            if needs > volts - 1e-9 and needs > 0:  # the design's own fault: a sound unit gives what the design gives
                told += (
                    f" The design itself leaves it under its {needs:g} V: mend the design; the unit is judged by "
                    "what the design gives."
                )
                needs = 0.0
            text = f"{load.name}: running, with all that runs with it: {volts:.2f} V at its pins."
            spread = LOAD_SHARE * abs(volts)
            low, high = max(volts - spread, needs), volts + spread + 0.05
            self._add(
                "load",
                self.net.said(a),
                self.net.said(b),
                text,
                _six(volts),
                _six(low),
                _six(high),
                "V",
                told=told,
                points=(a, b),
            )
        for one in budgets(self.net.design, self.net.results):
            told, least = "4, 12 and 20 mA read right at the receiver, too.", one.need_v
            if not one.ok:
                told += (
                    f" The design itself leaves it under its {one.need_v:g} V: mend the design; the unit is "
                    "judged by what the design gives."
                )
                least = max(one.left_v * (1 - LOAD_SHARE), 0.0)
            text = f"{one.name}: drive it to 22 mA: at least {least:.4g} V stay at the instrument."
            self._add(
                "loop",
                one.plus,
                one.minus,
                text,
                round(one.left_v, 2),
                _six(min(least, round(one.left_v, 2))),
                None,
                "V",
                told=told,
            )

    def _halves(self, end_id: str) -> str:
        """What stands against plugging an end into the one it mates with."""
        other = self.net.index.ends.get((end.mates if (end := self.net.index.ends.get(end_id)) else None) or "")
        if other is None:
            return ""
        found = ends_agree(self.net.design, end_id, other.id, self.net.shelf)
        if found.agrees:
            return ""
        why = found.wrong[0].what if found.wrong else "; ".join(found.missing)
        return (
            f" Don’t plug it into {other.name}: {why}"
            if found.agrees is False
            else f" Whether {other.name} is wired alike can’t be told: {why}."
        )


MOST_POINTS = 24
"""Points of a net between which a way for bending is looked for."""


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


def millivolt_words(net: Netlist, probe: Probe) -> tuple[str, str]:
    """(what is read, how): where the two tips go."""
    what, _, end = probe.part.partition("@")
    name = net.index.ends[end].name if end else ""
    text, held = {
        "stud": (
            f"{probe.wire} at {name}, stud to lug, {probe.amps:g} A on",
            "One tip on the stud’s own face, the other on the lug’s tongue, both inside the current’s clamps",
        ),
        "crimp": (
            f"{probe.wire} at {name}, lug to strand, {probe.amps:g} A on",
            (
                "One tip on the tongue, the other on the strands at the barrel’s inspection hole or behind it; never "
                "through the insulation"
            ),
        ),
        "along": (
            f"{probe.wire} along the lead, {probe.amps:g} A on",
            "Tips on the strands at both barrels’ holes, joints left out",
        ),
    }[what]
    return (
        f"{text}.",
        (
            f"{held}. At most {probe.amps:g} A and {MOST_S:.0f} s, by a current-limited supply across the lead alone, "
            "switched by you: a battery isn’t one."
        ),
    )


def test_volts(net: Netlist) -> float:
    """Test voltage of the insulation: 500 V DC for mains and above 60 V, 250 V for lower, unless the project says
    otherwise."""
    chosen = net.design.project.insulation_v
    if chosen:
        return chosen
    most = max([supply.volts for supply in net.design.supplies], default=0.0)
    return 500.0 if most > 60 else 250.0


def _six(value: float) -> float:
    return float(f"{value:.6g}")
