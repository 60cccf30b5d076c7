"""Puts a parsed line into the design: ends, run, fuse way, the pair of wires, and the load itself."""

from __future__ import annotations

from pydantic import ValidationError

from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import (
    change,
    ensure_cavity,
    new_id,
    put,
    put_all,
    refused,
    set_project,
    slug,
    verified,
    with_fuse,
)
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import (
    Cable,
    CableKind,
    Design,
    Load,
    LoadKind,
    Loop,
    Pin,
    Point,
    Supply,
    Wire,
    Zone,
)
from umber_trunk.core.harness.screens import TAPED
from umber_trunk.core.needs.attach import join, pins_of, poles, wired_pins
from umber_trunk.core.needs.cases import set_case
from umber_trunk.core.needs.line_records import (
    CaseLine,
    FrameLine,
    FuseLine,
    JoinLine,
    LoadLine,
    Need,
    PlaceLine,
    SitedLine,
    SupplyLine,
)
from umber_trunk.core.needs.outlets import feed_pin, find_end, limb, rails_of, return_pin, volts_at
from umber_trunk.core.needs.places import enter_place, main_fuse

__all__ = ["enter", "find_end"]


def enter(design: Design, need: Need) -> Design:
    """The design with what the line says in it; EditError says what stands in the way."""
    if not need.ok:
        faults = "; ".join(fault.rstrip(".") for fault in need.faults)
        raise EditError.of("language.line-not-understood", why=f"{faults}.")
    try:
        return verified(design, _entered(design, need))
    except ValidationError as why:
        raise refused(why) from None


def _entered(design: Design, need: Need) -> Design:
    match need:
        case CaseLine():
            return set_case(design, need.name, need.loads, need.air_c)
        case JoinLine():
            end = find_end(design, need.end)
            if end is None:
                raise EditError.of("needs.no-end-called", end=need.end)
            return join(design, end.id, need.pins)
        case SitedLine():
            design = zone_known(design, need)
    match need:
        case SupplyLine():
            return _enter_supply(design, need)
        case LoadLine():
            return _enter_load(design, need)
        case FrameLine():
            return _frame_resistance(design, need.source_ohm)
        case FuseLine():
            return main_fuse(design, need)
        case PlaceLine():
            return enter_place(design, need, zone_id(design, need.zone) if need.zone else None)
    raise AssertionError(f"a line of no kind: {need.what}")


def zone_id(design: Design, name: str) -> str | None:
    """A zone by id or name."""
    wanted = name.lower()
    return next((z.id for z in design.zones if wanted in (z.id.lower(), z.name.lower())), None)


def zone_known(design: Design, need: SitedLine) -> Design:
    """The design with the line's zone, made or brought up to what the line says of it."""
    if not need.zone:
        return design
    known = zone_id(design, need.zone)
    flags: dict[str, bool] = dict.fromkeys(need.zone_flags, True)
    sun = {"sun_w_m2": 1000.0} if "uv" in need.zone_flags else {}
    if known is not None:
        zone = index_of(design).zones[known]
        warm = need.zone_c if need.zone_c is not None else zone.ambient_c
        return put(design, "zones", zone.model_copy(update={**flags, **sun, "ambient_c": warm}))
    new = slug(need.zone, [z.id for z in design.zones], "zone")
    warm = design.project.ambient_c if need.zone_c is None else need.zone_c
    zone = Zone.model_validate({"id": new, "name": need.zone, "ambient_c": warm, **flags, **sun})
    return put(design, "zones", zone)


def _new_end(design: Design, name: str, kind: EndKind, point: str | None, zone: str | None) -> tuple[Design, End]:
    end = End(id=slug(name, [e.id for e in design.ends]), name=name, kind=kind, point=point, zone=zone)
    return put(design, "ends", end), end


def _enter_supply(design: Design, need: SupplyLine) -> Design:
    name = need.where or need.name
    end = find_end(design, name)
    if end is None:
        point = Point(id=new_id(design, "points", "P"), name=name)
        design = put(design, "points", point)
        design, end = _new_end(
            design, name, EndKind.DEVICE, point.id, zone_id(design, need.zone) if need.zone else None
        )
    pair = _supply_pins(design, end, need)
    for pole in pair:
        design = ensure_cavity(design, end.id, pole)
    plus, minus = pins_of(end, pair)
    supply = Supply(
        id=new_id(design, "supplies", "PS"),
        name=need.name or name,
        volts=need.volts or 12.0,
        source_ohm=need.source_ohm,
        plus=plus,
        minus=minus,
        ac=need.ac,
    )
    design = put(design, "supplies", supply)
    if design.project.source_end is None:
        design = set_project(design, source_end=end.id, return_end=end.id)
    return design


def _supply_pins(design: Design, end: End, need: SupplyLine) -> tuple[str, str]:
    """A further rail at an end has a plus of its own and shares the minus, unless its pins are named."""
    rails = rails_of(design, end)
    if need.pins and not wired_pins(design, end):
        return need.pins[0], need.pins[1]
    if rails and not need.pins:
        taken, name, number = {rail.plus.cavity for rail in rails}, f"+{need.volts:g}V", 2
        while name in taken:
            name, number = f"+{need.volts:g}V{number}", number + 1
        return name, rails[0].minus.cavity
    return poles(design, end, need.pins) or ("+", "-")


def _frame_resistance(design: Design, ohm: float) -> Design:
    """Every frame place but the source's own gets that resistance, and so do those to come."""
    index = index_of(design)
    homes = {index.ends[s.minus.end].point for s in design.supplies if s.minus.end in index.ends}
    ends = [change(end, frame_ohm=ohm) for end in design.ends if end.frame and end.point not in homes]
    return set_project(put_all(design, "ends", ends), frame_ohm=ohm)


def source_of(design: Design, need: SitedLine) -> End:
    """The end a line is fed from; EditError where there is none."""
    if need.source:
        end = find_end(design, need.source)
        if end is None:
            raise EditError.of("needs.no-end-called-to-feed", source=need.source)
        return end
    index = index_of(design)
    end = index.ends.get(design.project.source_end or "")
    if end is None and design.supplies:
        end = index.ends.get(design.supplies[0].plus.end)
    if end is None:
        raise EditError.of("needs.no-supply-yet")
    return end


def _load_end(design: Design, need: LoadLine, source: End) -> tuple[Design, End]:
    """The end the load sits at; a new one hangs on a limb of the stated run."""
    name = need.where or need.name
    end = find_end(design, name)
    zone = zone_id(design, need.zone) if need.zone else None
    agrees = end is not None and need.run_m is not None and _as_far(design, source, end, need.run_m)
    if end is not None and end.point is not None and need.run_m is not None and not agrees:
        raise EditError.of("needs.on-trunk-already", end=end.name)
    point = end.point if end else None
    if point is None and need.run_m is not None:
        design, point = limb(design, need, source, name, zone)
    if end is None:
        return _new_end(design, name, EndKind.DEVICE, point, zone)
    end = end.model_copy(update={"point": point, "zone": zone or end.zone})
    return put(design, "ends", end), end


def _as_far(design: Design, source: End, end: End, run_m: float) -> bool:
    """Whether an end lies as far along the trunk from its source as a line says once more: to a centimetre and a
    hundredth."""
    if source.point is None or end.point is None:
        return False
    index = index_of(design)
    limb = index.parents.get(end.point, ("", "", 0))[1]
    ways = (index.path(source.point, end.point), (limb,) if limb else None)
    said = [sum(index.segments[one].measure.length_m for one in way) for way in ways if way is not None]
    return any(abs(one - run_m) <= max(0.01, 0.01 * run_m) for one in said)


def _free_cavities(design: Design, end: End) -> tuple[str, str]:
    """Cavity names for plus and minus that no load uses yet at this end."""
    used = {pin.cavity for load in design.loads for pin in (load.plus, load.minus) if pin.end == end.id}
    number = 1
    while True:
        tail = "" if number == 1 else str(number)
        if f"+{tail}" not in used and f"-{tail}" not in used:
            return f"+{tail}", f"-{tail}"
        number += 1


def _frame_pin(design: Design, end: End, ohm: float = 0.0) -> tuple[Design, Pin]:
    name = f"frame at {end.name}"
    frame = find_end(design, name)
    if frame is None:
        design, frame = _new_end(design, name, EndKind.STUD, end.point, end.zone)
        frame = frame.model_copy(update={"frame": True, "frame_ohm": ohm, "cavities": (Cavity(id="1"),)})
        design = put(design, "ends", frame)
    return design, Pin(end=frame.id, cavity="1")


def on_frame(design: Design, end: End) -> tuple[Design, End]:
    """The stud by which the frame is reached at an end, which may be it already; the supply's minus is bonded to the
    frame as well."""
    design = _bond_supply(design)
    if end.kind is EndKind.STUD:
        made: End = change(
            end, frame=True, frame_ohm=design.project.frame_ohm, cavities=end.cavities or (Cavity(id="1"),)
        )
        return put(design, "ends", made), made
    design, pin = _frame_pin(design, end, design.project.frame_ohm)
    return design, index_of(design).ends[pin.end]


def _bond_supply(design: Design) -> Design:
    """A frame return needs the supply's minus on the frame as well: one bonding wire, once."""
    index = index_of(design)
    bonded = {p for w in design.wires for p in (w.start.end, w.finish.end) if index.ends[p].frame}
    supply = design.supplies[0]
    home = index.ends[supply.minus.end]
    if bonded or home.frame:
        return design
    design, pin = _frame_pin(design, home)
    wire = Wire(
        id=new_id(design, "wires", "W"),
        start=supply.minus,
        finish=pin,
        name="frame bond",
        circuit="frame",
        colour="black",
        stated_m=0.3,
    )
    return put(design, "wires", wire)


def _joined_to_wires(design: Design, need: LoadLine) -> tuple[Pin, Pin] | None:
    """The pins of an end that is wired already: such a load needs no new wires. None when it isn't."""
    end = find_end(design, need.where or need.name)
    if end is None or need.run_m is not None or need.source or need.frame:
        return None
    pair = poles(design, end, need.pins)
    return pins_of(end, pair) if pair else None


def _load(design: Design, need: LoadLine, plus: Pin, minus: Pin) -> Load:
    return Load(
        id=slug(need.name, [row.id for row in design.loads], "load"),
        name=need.name,
        plus=plus,
        minus=minus,
        kind=need.kind,
        value=need.value or 1.0,
        surge_a=need.surge_a,
        surge_s=need.surge_s,
        on_s=need.on_s,
        period_s=need.period_s,
        min_volts=need.min_volts,
        max_drop_percent=need.max_drop_percent,
        max_drop_v=need.max_drop_v,
        power_factor=need.power_factor,
    )


def _enter_load(design: Design, need: LoadLine) -> Design:
    before = {load.id for load in design.loads}
    made = _with_load(design, need)
    if need.loop is None:
        return made
    load = next(load for load in made.loads if load.id not in before)
    loop = Loop(
        id=slug(need.name, [one.id for one in made.loops], "loop"),
        name=need.name,
        load=load.id,
        need_v=need.min_volts or Loop.model_fields["need_v"].default,
        barrier_ohm=need.loop.barrier_ohm,
        receiver_ohm=need.loop.receiver_ohm,
    )
    return put(made, "loops", loop)


def _starts(need: LoadLine) -> list[tuple[float, float]]:
    """What a fuse has to let by when the load starts (A, s)."""
    return [(need.surge_a, need.surge_s or 1.0)] if need.surge_a is not None else []


def _with_load(design: Design, need: LoadLine) -> Design:
    wired = _joined_to_wires(design, need)
    if wired is not None:
        return put(design, "loads", _load(design, need, *wired))
    source = source_of(design, need)
    nominal = need.volts or volts_at(design, source) or 12.0
    if need.min_volts is not None and need.min_volts >= nominal:
        raise EditError.of("needs.least-volts-over-supply", min_volts=need.min_volts, nominal=nominal)
    value = need.value or 1.0
    amps = {LoadKind.CURRENT: value, LoadKind.POWER: value / nominal / need.power_factor}.get(
        need.kind, nominal / value
    )
    design, end = _load_end(design, need, source)
    design, plus_id, minus_id = _load_cavities(design, end, need)
    plus = Pin(end=end.id, cavity=plus_id)
    design, feed = feed_pin(design, index_of(design).ends[source.id], amps, need.volts, need.fused_a, _starts(need))
    if need.fused_a is not None and source.kind is not EndKind.BOX:
        design, feed = _own_fuse(design, feed, need.fused_a)
    wires = [("red", "feed", feed, plus)]
    if need.frame:
        design = _bond_supply(design)
        design, minus = _frame_pin(design, end, design.project.frame_ohm)
    else:
        design = ensure_cavity(design, end.id, minus_id)
        minus = Pin(end=end.id, cavity=minus_id)
        design, back = return_pin(design, source, need.volts)
        wires.append(("black", "return", minus, back))
    design, cable = _cable(design, need)
    made: list[Wire] = []
    for colour, role, start, finish in wires:
        made.append(
            Wire(
                id=new_id(put_all(design, "wires", made), "wires", "W"),
                start=start,
                finish=finish,
                name=f"{need.name} {role}",
                circuit=need.name,
                colour=colour,
                cable=cable,
            )
        )
    if need.cable is CableKind.SCREENED:
        design = ensure_cavity(design, end.id, "screen")
        if need.loop:  # an instrument's screen is grounded at one end alone
            design = taped(design, Pin(end=end.id, cavity="screen"))
        made.append(
            Wire(
                id=new_id(put_all(design, "wires", made), "wires", "W"),
                start=wires[-1][3],
                finish=Pin(end=end.id, cavity="screen"),
                name=f"{need.name} screen",
                circuit=need.name,
                cable=cable,
                signal=True,
            )
        )
    return put(put_all(design, "wires", made), "loads", _load(design, need, plus, minus))


def taped(design: Design, pin: Pin) -> Design:
    """A screen cut back and taped where it arrives."""
    end = index_of(design).ends[pin.end]
    cavities = tuple(change(one, contact=TAPED) if one.id == pin.cavity else one for one in end.cavities)
    return put(design, "ends", change(end, cavities=cavities))


def _load_cavities(design: Design, end: End, need: LoadLine) -> tuple[Design, str, str]:
    """Cavities of a new load, as named or the first free ones; plus is made, minus only where a wire needs it."""
    plus, minus = (need.pins[0], need.pins[1]) if len(need.pins) == 2 else _free_cavities(design, end)
    return ensure_cavity(design, end.id, plus), plus, minus


def _own_fuse(design: Design, feed: Pin, rating_a: float) -> tuple[Design, Pin]:
    """A fuse between a pin and the feed that starts there."""
    end, way = with_fuse(index_of(design).ends[feed.end], feed.cavity, rating_a)
    return put(design, "ends", end), Pin(end=end.id, cavity=way)


def _cable(design: Design, need: LoadLine) -> tuple[Design, str | None]:
    if need.cable is None:
        return design, None
    cable = Cable(id=new_id(design, "cables", "C"), name=f"{need.name} {need.cable}", kind=need.cable)
    return put(design, "cables", cable), cable.id
