"""The list of tests, derived from the design: what a look can end comes first, then what is dangerous, power last.

Look and tug; earths; shorts; continuity along each net's own wires, so that each reading is judged by its own
prediction; screens; insulation; what carries much, by four wires; bend and shake; then, powered and only if all before
was sound, polarity and the load itself. Within a net, each reading keeps one lead where it is as long as it can:
`moves` counts lead placements, `moves_bound` is the fewest any order could do with.
"""

from __future__ import annotations

from dataclasses import replace

from umber_trunk.core.harness.earths import is_earth
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.prove.checklist import OPEN_OHM, READS, SECONDS, Plan, Test, band_of, six_digits, test_volts
from umber_trunk.core.prove.clipping import clear_readings, hand_tests, least_tests
from umber_trunk.core.prove.meter import SHAKEN, Meter
from umber_trunk.core.prove.millivolts import millivolt_words, part_probe, test_amps
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point, netlist
from umber_trunk.core.prove.powered_tests import powered_tests
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.state import State
from umber_trunk.core.prove.tips import passing, walked
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import NOTHING, Message

HEAVY_A = 10.0
"""Current from which on a lead counts as heavy."""
HEAVY_MM2 = 10.0
"""Leads from this size on that carry `HEAVY_A` are read by millivolts too: their joints weigh as much as they do."""
EARTH_OHM = 0.1
"""What an earth may have beside the lead's own resistance."""
WALK_S = 15.0
"""From one end of the harness to another."""


def test_plan(results: Results) -> Plan:
    """The test list with a four-wire meter and a switch box; for `Results.once`."""
    return make_plan(results.once(netlist), Meter())


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
        self.rows += [replace(one, n=n) for n, one in enumerate(powered_tests(self.net), len(self.rows) + 1)]
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
        text: Message,
        expect: float | None = None,
        low: float | None = None,
        high: float | None = None,
        unit: str = "",
        probe: Probe | None = None,
        wires: tuple[str, ...] = (),
        told: Message = NOTHING,
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
                Message.of("test.look-at-every-crimp", end=end.name),
                told=Message.of("test.no-strand-outside"),
                points=points,
            )
        for end in ends:
            wires = self.net.arriving.get(end.id, ())
            if wires:
                self._add(
                    "tug",
                    end.id,
                    "",
                    Message.of("test.tug-at-each", end=end.name, count=len(wires)),
                    wires=wires,
                    told=Message.of("test.light-it-must-not-move"),
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
                Message.of("test.earth-through", wire=wire.id, a=self.net.name(a), b=self.net.name(b)),
                one.ohm,
                0.0,
                high,
                "Ω",
                Probe(self.meter.kind, (a,), (b,)),
                (wire.id,),
                Message.of("test.nobody-plugs-it-in-before-this"),
            )

    def _shorts(self, nets: list[int], kind: str) -> None:
        """Group tests by the bits of the nets' numbers, or by hand each net against those before; for insulation the
        same groups and all together against earth."""
        insulation = kind == "insulation"
        volts = test_volts(self.net)
        caution = Message.of("test.at-electronics-disconnected", volts=volts) if insulation else NOTHING
        first = [self.net.nets[number][0] for number in nets]
        earthed = [point for number, point in zip(nets, first, strict=True) if number == self.net.net_of[0]]
        probes: list[tuple[Probe, str, str, Message]] = []
        mark = "insulation" if insulation else "two"
        if insulation and [p for p in first if p not in earthed]:
            free = tuple(p for p in first if p not in earthed)
            probes.append(
                (
                    Probe(mark, free, (EARTH,)),
                    "all nets",
                    "earth",
                    Message.of("test.all-nets-clipped-together-against-earth"),
                )
            )
        for number, (ones, others) in enumerate(clear_readings(len(first), not self.box), 1):
            probe = Probe(mark, tuple(first[n] for n in ones), tuple(first[n] for n in others))
            if self.box:
                text = Message.of("test.switch-box", number=number, count=len(ones), count_2=len(others))
                probes.append((probe, f"group {number}a", f"group {number}b", text))
            else:
                text = Message.of("test.against-before-clipped-together", b=self.net.name(probe.b[0]), count=len(ones))
                probes.append((probe, f"{len(ones)} nets", self.net.said(probe.b[0]), text))
        for probe, a, b, text in probes:
            least = self.net.design.project.insulation_ohm if insulation else OPEN_OHM
            self._add(
                kind, a, b, Message.of("test.nothing-leads", text=text), None, least, None, "Ω", probe, told=caution
            )

    def _continuity(self) -> None:
        """Each net along its own wires, from the point of it that most of the others are near."""
        done = {wire for test in self.rows if test.kind == "earth" for wire in test.wires}
        for points in sorted(self.net.nets.values(), key=self._place):
            for a, b in walked(self.net, points):
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

    def _sized(
        self, kind: str, a: Point, b: Point, wires: tuple[str, ...], told: Message = NOTHING, doing: Message = NOTHING
    ) -> None:
        """A reading between two places, judged by its own prediction; `doing` says what is done there."""
        held = {"continuity": self.meter.kind, "shake": SHAKEN[self.meter.kind]}.get(kind, "four")
        probe = Probe(held, (a,), (b,))
        expect, low, high = band_of(self.state, self.meter, probe)
        assert expect is not None
        assert high is not None
        places = doing or Message.of("test.from-to", a=self.net.name(a), b=self.net.name(b))
        text = Message.of("test.of-wires", wires=", ".join(wires[:4]), more=len(wires) > 4, doing=places)
        self._add(
            kind,
            self.net.said(a),
            self.net.said(b),
            text,
            six_digits(expect),
            six_digits(low or 0.0),
            six_digits(high),
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
                lifted = names[0] if names else "its ground"
                text = Message.of("test.screen-lifted", cable=screen.cable, lifted=lifted, at=self.net.name(at))
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
                    Message.of("test.grounded-in-one-place-only"),
                )
            else:
                if self.net.reached(screen.wire):
                    self._sized(
                        "shield",
                        *self.net.places(screen.wire),
                        (screen.wire,),
                        Message.of("test.data-leads-screen-lands-at-both"),
                    )

    def _heavy(self) -> None:
        """Paths that carry much, by four wires where continuity was read by two."""
        if self.meter.four_wire:
            return
        figures = self.net.results.figures.wires
        for wire in self.net.design.wires:
            known = figures.get(wire.id)
            if known is not None and known.amps >= HEAVY_A and self.net.reached(wire.id):
                told = Message.of("test.current-through-outer-pair-of-clips")
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
        expect_mv, low_mv, high_mv = (six_digits(1e3 * amps * ohm) for ohm in (expect, low or 0.0, high))
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
        ways = passing(self.net, self.state, self.meter.kind, points, mine) if mine else {}
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
            doing = Message.of("test.hold-and-bend-and-shake", a=self.net.name(a), b=self.net.name(b), where=where)
            told = Message.of("test.write-down-highest-it-shows-while")
            self._sized("shake", a, b, tuple(sorted(passed)), told, doing)
            mine -= passed
            left -= passed
