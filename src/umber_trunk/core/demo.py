"""The demo harness: the oyster sorting barge of the Selkie Reach Co-op. All of it is made up."""

from __future__ import annotations

from umber_trunk.core.harness.edits import measured, put, set_size
from umber_trunk.core.harness.model import (
    Case,
    Cavity,
    Design,
    End,
    EndKind,
    Housing,
    Link,
    LinkKind,
    Load,
    LoadKind,
    Method,
    Pin,
    Point,
    Project,
    Segment,
    Supply,
    Wire,
    Zone,
)
from umber_trunk.core.sizing.propose import propose

ZONES = (
    Zone(id="locker", name="battery locker", ambient_c=30),
    Zone(id="house", name="wheelhouse", ambient_c=30),
    Zone(id="well", name="engine well", ambient_c=55, oil=True, vibration=True),
    Zone(id="deck", name="deck", ambient_c=35, wet=True),
    Zone(id="hopper", name="hopper frame", ambient_c=35, wet=True, vibration=True),
    Zone(id="bilge", name="bilge", ambient_c=30, wet=True),
)

TREE = (
    # segment, from, to, name of the far point, metres, method, zone
    ("S1", "P1", "B1", "bulkhead", 2.10, "tape", "locker"),
    ("S2", "B1", "P2", "fuse box", 0.60, "tape", "house"),
    ("S3", "B1", "P3", "negative bar", 0.45, "tape", "house"),
    ("S4", "B1", "P4", "console", 1.35, "tape", "house"),
    ("S5", "B1", "B2", "well hatch", 2.80, "string", "well"),
    ("S6", "B2", "P5", "wash pump", 1.60, "string", "well"),
    ("S7", "B2", "P6", "bilge pump", 1.90, "string", "bilge"),
    ("S8", "B2", "B3", "gantry foot", 3.40, "string", "deck"),
    ("S9", "B3", "B4", "conveyor gantry", 1.70, "tape", "hopper"),
    ("S10", "B4", "P7", "conveyor motor", 0.90, "tape", "hopper"),
    ("S11", "B4", "P8", "belt sensor", 1.25, "tape", "hopper"),
    ("S12", "B4", "P9", "stop button", 0.70, "tape", "hopper"),
    ("S13", "B3", "B5", "drum frame", 2.60, "string", "hopper"),
    ("S14", "B5", "P10", "grading drum", 1.10, "tape", "hopper"),
    ("S15", "B5", "P11", "drum speed sensor", 0.85, "tape", "hopper"),
    ("S16", "B5", "B6", "valve post", 0.95, "tape", "hopper"),
    ("S17", "B6", "P12", "valve block", 0.40, "tape", "hopper"),
    ("S18", "B6", "P13", "hopper level sensor", 0.75, "tape", "hopper"),
    ("S19", "B3", "B7", "bow locker", 4.20, "string", "deck"),
    ("S20", "B7", "P14", "bow bar", 0.50, "tape", "deck"),
    ("S21", "B7", "P15", "deck light port", 1.80, "string", "deck"),
    ("S22", "B7", "P16", "deck light starboard", 2.05, "string", "deck"),
    ("S23", "B7", "B8", "mast foot", 1.20, "string", "deck"),
    ("S24", "B8", "P17", "masthead light", 3.60, "guess", "deck"),
    ("S25", "B8", "P18", "horn", 1.40, "tape", "deck"),
    ("S26", "P4", "P19", "console lever", 0.80, "tape", "house"),
)

FED: tuple[tuple[str, str, str, str, str, float, float, str, dict[str, float]], ...] = (
    # id, name, point, zone, kind, value, fuse A, return bar, circuit, extras
    ("conveyor", "conveyor motor", "P7", "hopper", "current", 19.0, 30, "bar", {"surge_a": 48, "surge_s": 0.3, "min_volts": 20.5}),
    ("drum", "grading drum", "P10", "hopper", "current", 13.5, 25, "bar", {"surge_a": 34, "surge_s": 0.3, "min_volts": 20.5}),
    ("wash", "wash pump", "P5", "well", "current", 21.0, 30, "bar", {"surge_a": 50, "surge_s": 0.3, "max_drop_percent": 20, "min_volts": 15.0}),
    ("bilge", "bilge pump", "P6", "bilge", "current", 6.5, 10, "bar", {"surge_a": 14, "surge_s": 0.3, "on_s": 120, "period_s": 900}),
    ("port", "deck light port", "P15", "deck", "power", 96.0, 7.5, "bow", {}),
    ("starboard", "deck light starboard", "P16", "deck", "power", 96.0, 7.5, "bow", {}),
    ("mast", "masthead light", "P17", "deck", "power", 60.0, 5, "bow", {"min_volts": 22.0}),
    ("horn", "horn", "P18", "deck", "current", 5.0, 10, "bow", {"on_s": 6, "period_s": 120, "min_volts": 20.0}),
    ("console", "wheelhouse lights", "P4", "house", "power", 30.0, 5, "bar", {}),
    ("sorter", "sorting controller", "P4", "house", "power", 40.0, 5, "bar", {"min_volts": 21.0}),
    ("radio", "reach radio", "P4", "house", "current", 4.0, 7.5, "bar", {"min_volts": 21.6}),
)  # fmt: skip

SENSORS = (
    ("belt", "belt sensor", "P8"),
    ("speed", "drum speed sensor", "P11"),
    ("level", "hopper level sensor", "P13"),
)
VALVES = 4
TOO_THIN = {"mast": "0.75 mm2"}
TOO_HOT = ("wash feed", "1.5 mm2")


def barge() -> Design:
    """The whole barge, sized but for two mistakes: a light short of voltage and a wire too hot."""
    design = _bare()
    sizes = propose(design).sizes
    for wire_id, size in sizes.items():
        design = set_size(design, [wire_id], size)
    for wire in design.wires:
        if wire.circuit in TOO_THIN:
            design = set_size(design, [wire.id], TOO_THIN[wire.circuit])
        elif wire.name == TOO_HOT[0]:
            design = set_size(design, [wire.id], TOO_HOT[1])
    return design


def _bare() -> Design:
    points = (Point(id="P1", name="battery"), *(Point(id=row[2], name=row[3]) for row in TREE))
    segments = tuple(
        Segment(id=s, a=a, b=b, measure=measured(m, Method(how)), zone=zone) for s, a, b, _, m, how, zone in TREE
    )
    design = Design(
        project=Project(
            name="Selkie Reach sorting barge", metal="tinned", make="marine", jacket="pvc", smallest_mm2=0.75,
            max_drop_percent=5, source_end="box", return_end="bar", remakes=2, joint_ohm=0.0002,
        ),
        zones=ZONES, points=points, segments=segments,
    )  # fmt: skip
    return _cased(_controlled(_fed(_powered(design))))


def _powered(design: Design) -> Design:
    ways = (*(row[0] for row in FED), "sensors")
    ratings = {row[0]: float(row[6]) for row in FED} | {"sensors": 2.0}
    fuses = tuple(
        Link(
            id=f"F{n}",
            kind=LinkKind.FUSE,
            a="in",
            b=f"F{n}",
            resistance_ohm=0.0015,
            rating_a=ratings[way],
        )
        for n, way in enumerate(ways, 1)
    )
    ends = (
        End(id="battery", name="battery", point="P1", zone="locker", cavities=(Cavity(id="+"), Cavity(id="-"), Cavity(id="fused")),
            links=(Link(id="main", kind=LinkKind.FUSE, a="+", b="fused", resistance_ohm=0.0003, rating_a=125),)),
        End(id="box", name="fuse box", kind=EndKind.BOX, point="P2", zone="house", links=fuses, bridged=(("in",),),
            cavities=(Cavity(id="in"), *(Cavity(id=f.b) for f in fuses))),
        End(id="bar", name="negative bar", kind=EndKind.STUD, point="P3", zone="house", cavities=(Cavity(id="1"),)),
        End(id="bow", name="bow bar", kind=EndKind.STUD, point="P14", zone="deck", cavities=(Cavity(id="1"),)),
    )  # fmt: skip
    supply = Supply(id="PS1", name="house battery", volts=24.0, source_ohm=0.003,
                    plus=Pin(end="battery", cavity="+"), minus=Pin(end="battery", cavity="-"))  # fmt: skip
    design = design.model_copy(update={"ends": ends, "supplies": (supply,)})
    design = _wire(design, "main feed", "main", ("battery", "fused"), ("box", "in"), "red")
    design = _wire(design, "main return", "main", ("bar", "1"), ("battery", "-"), "black")
    return _wire(design, "bow return", "bow", ("bow", "1"), ("bar", "1"), "black", "yellow")


def _wire(
    design: Design, name: str, circuit: str, start: tuple[str, str], finish: tuple[str, str], colour: str, stripe: str = ""
) -> Design:  # fmt: skip
    wire = Wire(
        id=f"W{len(design.wires) + 1:02d}", name=name, circuit=circuit, colour=colour, stripe=stripe,
        start=Pin(end=start[0], cavity=start[1]), finish=Pin(end=finish[0], cavity=finish[1]),
    )  # fmt: skip
    return put(design, "wires", wire)


def _fed(design: Design) -> Design:
    stripes = (
        "",
        "white",
        "blue",
        "yellow",
        "green",
        "grey",
        "violet",
        "orange",
        "brown",
        "pink",
        "black",
    )
    for number, (key, name, point, zone, kind, value, _, back, extras) in enumerate(FED, 1):
        housing = (Housing(id="A", name="2-way sealed", form="plug", contacts="socket", sealed=True),)
        cavities = (
            Cavity(id="+", housing="A", rating_a=25),
            Cavity(id="-", housing="A", rating_a=25),
        )
        end = End(id=key, name=name, point=point, zone=zone, cavities=cavities, housings=housing)
        design = put(design, "ends", end)
        design = _wire(
            design,
            f"{key} feed",
            key,
            ("box", f"F{number}"),
            (key, "+"),
            "red",
            stripes[number - 1],
        )
        design = _wire(design, f"{key} return", key, (key, "-"), (back, "1"), "black", stripes[number - 1])
        load = Load.model_validate(
            {"id": key, "name": name, "kind": LoadKind(kind), "value": value,
             "plus": Pin(end=key, cavity="+"), "minus": Pin(end=key, cavity="-"), **extras}
        )  # fmt: skip
        design = put(design, "loads", load)
    return design


def _controlled(design: Design) -> Design:
    """The sealed controller with its sensors, valves and the stop button."""
    pins = tuple(Cavity(id=f"{n}", housing="J1", rating_a=7.5) for n in range(1, 25))
    sealed = (Housing(id="J1", name="24-way sealed", form="receptacle", contacts="pin", sealed=True),)
    j1 = End(
        id="j1",
        name="controller J1",
        kind=EndKind.CONNECTOR,
        point="P4",
        zone="house",
        cavities=pins,
        housings=sealed,
    )
    design = put(design, "ends", j1)
    for number, (key, name, point) in enumerate(SENSORS):
        end = End(
            id=key,
            name=name,
            point=point,
            zone="hopper",
            cavities=tuple(Cavity(id=c) for c in ("1", "2", "3")),
        )
        design = put(design, "ends", end)
        design = _wire(design, f"{key} supply", key, ("box", "F12"), (key, "1"), "orange", "red")
        design = _wire(design, f"{key} ground", key, (key, "2"), ("bar", "1"), "black", "blue")
        design = _wire(design, f"{key} signal", key, (key, "3"), ("j1", f"{number + 1}"), "white", "green")
        load = Load(
            id=key,
            name=name,
            value=0.06,
            plus=Pin(end=key, cavity="1"),
            minus=Pin(end=key, cavity="2"),
            min_volts=18,
        )
        design = put(design, "loads", load)
    valves = End(id="valves", name="valve block", point="P12", zone="hopper",
                 cavities=tuple(Cavity(id=f"{v}{pole}") for v in range(1, VALVES + 1) for pole in "ab"))  # fmt: skip
    supply = Cavity(id="out")
    j1 = j1.model_copy(
        update={
            "cavities": (*pins, supply),
            "bridged": (("24", "out"), tuple(f"{10 + v}" for v in range(1, VALVES + 1))),
        }
    )
    design = put(put(design, "ends", valves), "ends", j1)
    design = _wire(design, "valve supply", "valves", ("box", "F12"), ("j1", "11"), "red", "violet")
    for v in range(1, VALVES + 1):
        design = _wire(
            design,
            f"valve {v} out",
            "valves",
            ("j1", f"{10 + v}"),
            ("valves", f"{v}a"),
            "violet",
            "white",
        )
        design = _wire(
            design,
            f"valve {v} return",
            "valves",
            ("valves", f"{v}b"),
            ("bar", "1"),
            "black",
            "violet",
        )
        load = Load(id=f"valve{v}", name=f"sorting valve {v}", value=0.25, plus=Pin(end="valves", cavity=f"{v}a"),
                    minus=Pin(end="valves", cavity=f"{v}b"), min_volts=20.4)  # fmt: skip
        design = put(design, "loads", load)
    stop = End(
        id="stop",
        name="stop button",
        point="P9",
        zone="hopper",
        cavities=tuple(Cavity(id=c) for c in ("1", "2", "3", "4")),
    )
    design = put(design, "ends", stop)
    for n in range(1, 5):
        design = _wire(
            design,
            f"stop loop {n}",
            "stop",
            ("j1", f"{19 + n}"),
            ("stop", f"{n}"),
            "yellow",
            "red" if n > 2 else "",
        )
    lever = End(
        id="lever",
        name="console lever",
        point="P19",
        zone="house",
        cavities=tuple(Cavity(id=c) for c in ("1", "2", "3")),
    )
    design = put(design, "ends", lever)
    for n in range(1, 4):
        design = _wire(
            design,
            f"lever {n}",
            "lever",
            ("j1", f"{15 + n}"),
            ("lever", f"{n}"),
            "grey",
            "white" if n > 1 else "",
        )
    return design


def _cased(design: Design) -> Design:
    """Two cases: sorting at the moorings, and under way with the belt and drum stopped."""
    still = tuple(load.id for load in design.loads if load.id not in ("conveyor", "drum", "wash"))
    sorting = tuple(load.id for load in design.loads if load.id not in ("mast", "horn"))
    cases = (
        Case(id="sorting", name="sorting", loads=sorting),
        Case(id="way", name="under way", loads=still),
        Case(id="all", name="everything at once", loads=None),
    )
    return design.model_copy(update={"cases": cases})


def shop_list() -> str:
    """A wire list as a shop keeps one, with a merged header, units in the header, a blank line and two faults."""
    return """Landing tractor loom;;;;;;;
;From;;To;;;;
Wire no.;Device;Pin;Device;Pin;Size;Colour;Length (mm)
T1;Fuse box;F1;Work light bar;+;2,5 mm²;RD;3850
T2;Work light bar;-;Frame stud;1;2,5 mm²;BK;900
T3;Fuse box;F2;Winch contactor;86;1 mm²;RD/WH;2100

T4;Winch contactor;85;Winch switch;1;1 mm²;GN;1750,5
T5;Winch switch;2;Frame stud;1;1 mm²;BK;1400
T6;Fuse box;F3;Gauge cluster;+;0,75 mm²;RD/BU;1150
T7;Gauge cluster;-;Frame stud;1;0,75 mm²;BK;800
T8;Fuse box;F4;Trailer socket;4;1,5 mm²;YE;4600
T9;Fuse box;F5;Trailer socket;5;1,5 mm²;GN;4600
T10;Trailer socket;3;Frame stud;1;2,5 mm²;WH;3900
T11;Battery;+;Fuse box;in;16 mm²;RD;1600
T12;Frame stud;1;Battery;-;16 mm²;BK;700
T13;Gauge cluster;S;;1;0,75 mm²;BU;2250
T14;Gauge cluster;T;Coolant sender;1;thin;BN;2400
"""
