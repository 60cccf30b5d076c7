"""Puts a parsed line into the design: ends, run, fuse way, the pair of wires, and the load itself."""

from __future__ import annotations

from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import (
    branch,
    ensure_cavity,
    free_fuse_way,
    measured,
    new_id,
    put,
    set_project,
    slug,
)
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import (
    Cavity,
    Design,
    End,
    EndKind,
    Load,
    LoadKind,
    Method,
    Pin,
    Point,
    Supply,
    Wire,
    Zone,
)
from umber_trunk.core.needs.attach import join, pins_of, poles
from umber_trunk.core.needs.cases import set_case
from umber_trunk.core.needs.line import Need
from umber_trunk.core.physics.fuses import next_rating


def enter(design: Design, need: Need) -> Design:
    """The design with the line's supply or load in it; EditError says what stands in the way."""
    if not need.ok:
        wrong = [piece.meaning for piece in need.pieces if not piece.ok]
        raise EditError("; ".join([*wrong, *(f"say {what}" for what in need.missing)]) + ".")
    if need.case_loads is not None:
        return set_case(design, need.name, need.case_loads)
    if need.join_end:
        end = find_end(design, need.join_end)
        if end is None:
            raise EditError(f"There is no end called “{need.join_end}”.")
        return join(design, end.id, need.pins)
    design = _zone_known(design, need)
    return _enter_supply(design, need) if need.supply else _enter_load(design, need)


def find_end(design: Design, name: str) -> End | None:
    """An end by id or name, upper and lower case alike."""
    wanted = name.strip().lower()
    for end in design.ends:
        if wanted in (end.id.lower(), end.name.lower()):
            return end
    return None


def find_point(design: Design, name: str) -> str | None:
    """A point by its id or name, or that of an end sitting on it."""
    wanted = name.strip().lower()
    for point in design.points:
        if wanted in (point.id.lower(), point.name.lower()):
            return point.id
    end = find_end(design, name)
    return end.point if end else None


def _zone_id(design: Design, name: str) -> str | None:
    wanted = name.lower()
    return next((z.id for z in design.zones if wanted in (z.id.lower(), z.name.lower())), None)


def _zone_known(design: Design, need: Need) -> Design:
    if not need.zone:
        return design
    known = _zone_id(design, need.zone)
    flags: dict[str, bool] = dict.fromkeys(need.zone_flags, True)
    if known is not None:
        zone = index_of(design).zones[known]
        warm = need.zone_c if need.zone_c is not None else zone.ambient_c
        return put(design, "zones", zone.model_copy(update={**flags, "ambient_c": warm}))
    zone_id = slug(need.zone, [z.id for z in design.zones], "zone")
    warm = design.project.ambient_c if need.zone_c is None else need.zone_c
    zone = Zone.model_validate({"id": zone_id, "name": need.zone, "ambient_c": warm, **flags})
    return put(design, "zones", zone)


def _new_end(design: Design, name: str, kind: EndKind, point: str | None, zone: str | None) -> tuple[Design, End]:
    end = End(id=slug(name, [e.id for e in design.ends]), name=name, kind=kind, point=point, zone=zone)
    return put(design, "ends", end), end


def _enter_supply(design: Design, need: Need) -> Design:
    name = need.where or need.name
    end = find_end(design, name)
    if end is None:
        point = Point(id=new_id(design, "points", "P"), name=name)
        design = put(design, "points", point)
        design, end = _new_end(design, name, EndKind.STUD, point.id, _zone_id(design, need.zone))
        end = end.model_copy(update={"kind": EndKind.DEVICE})
        design = put(design, "ends", end)
    pair = poles(design, end, need.pins) or ("+", "-")
    for pole in pair:
        design = ensure_cavity(design, end.id, pole)
    plus, minus = pins_of(end, pair)
    supply = Supply(
        id=new_id(design, "supplies", "PS"), name=need.name or name, volts=need.volts or 12.0,
        source_ohm=need.source_ohm, plus=plus, minus=minus,
    )  # fmt: skip
    design = put(design, "supplies", supply)
    if design.project.source_end is None:
        design = set_project(design, source_end=end.id, return_end=end.id)
    return design


def _source(design: Design, need: Need) -> End:
    if need.source:
        end = find_end(design, need.source)
        if end is None:
            raise EditError(f"There is no end called “{need.source}” to feed from.")
        return end
    index = index_of(design)
    end = index.ends.get(design.project.source_end or "")
    if end is None and design.supplies:
        end = index.ends.get(design.supplies[0].plus.end)
    if end is None:
        raise EditError("There is no supply yet. Enter one first, such as: supply 24 V at battery.")
    return end


def _load_end(design: Design, need: Need, source: End) -> tuple[Design, End]:
    """The end the load sits at; a new one hangs on a limb of the stated run."""
    name = need.where or need.name
    end = find_end(design, name)
    zone = _zone_id(design, need.zone) if need.zone else None
    if end is not None and end.point is not None and need.run_m is not None:
        raise EditError(f"“{end.name}” is on the trunk already; change its run on the Runs desk, or leave the run out.")
    point = end.point if end else None
    if point is None and need.run_m is not None:
        start = find_point(design, need.off) if need.off else source.point
        if start is None:
            where = need.off or source.name
            raise EditError(f"“{where}” is not on the trunk, so nothing can branch off there.")
        design, point = branch(design, start, measured(need.run_m, Method.TAPE), name, zone)
    if end is None:
        return _new_end(design, name, EndKind.DEVICE, point, zone)
    end = end.model_copy(update={"point": point, "zone": zone or end.zone})
    return put(design, "ends", end), end


def _feed_pin(design: Design, source: End, amps: float) -> tuple[Design, Pin]:
    if source.kind is EndKind.BOX:
        design, way = free_fuse_way(design, source, next_rating(amps / 0.8))
        return design, Pin(end=source.id, cavity=way)
    for supply in design.supplies:
        if supply.plus.end == source.id:
            return design, supply.plus
    design = ensure_cavity(design, source.id, "+")
    return design, Pin(end=source.id, cavity="+")


def _return_pin(design: Design, source: End) -> tuple[Design, Pin]:
    index = index_of(design)
    for supply in design.supplies:
        if supply.minus.end == source.id:
            return design, supply.minus
    end = index.ends.get(design.project.return_end or "")
    if end is not None:
        for supply in design.supplies:
            if supply.minus.end == end.id:
                return design, supply.minus
        cavity = "-" if not end.cavities else end.cavities[0].id
        return ensure_cavity(design, end.id, cavity), Pin(end=end.id, cavity=cavity)
    return design, design.supplies[0].minus


def _free_cavities(design: Design, end: End, name: str) -> tuple[str, str]:
    """Cavity names for plus and minus that no load uses yet at this end."""
    used = {pin.cavity for load in design.loads for pin in (load.plus, load.minus) if pin.end == end.id}
    number = 1
    while True:
        tail = "" if number == 1 else str(number)
        if f"+{tail}" not in used and f"-{tail}" not in used:
            return f"+{tail}", f"-{tail}"
        number += 1


def _frame_pin(design: Design, end: End) -> tuple[Design, Pin]:
    name = f"frame at {end.name}"
    frame = find_end(design, name)
    if frame is None:
        design, frame = _new_end(design, name, EndKind.STUD, end.point, end.zone)
        frame = frame.model_copy(update={"frame": True, "cavities": (Cavity(id="1"),)})
        design = put(design, "ends", frame)
    return design, Pin(end=frame.id, cavity="1")


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
        id=new_id(design, "wires", "W"), start=supply.minus, finish=pin, name="frame bond",
        circuit="frame", colour="black", stated_m=0.3,
    )  # fmt: skip
    return put(design, "wires", wire)


def _joined_to_wires(design: Design, need: Need) -> tuple[Pin, Pin] | None:
    """The pins of an end that is wired already: such a load needs no new wires. None when it isn't."""
    end = find_end(design, need.where or need.name)
    if end is None or need.run_m is not None or need.source or need.frame:
        return None
    pair = poles(design, end, need.pins)
    return pins_of(end, pair) if pair else None


def _load(design: Design, need: Need, plus: Pin, minus: Pin) -> Load:
    return Load(
        id=slug(need.name, [row.id for row in design.loads], "load"), name=need.name, plus=plus, minus=minus,
        kind=need.kind, value=need.value or 1.0, surge_a=need.surge_a, surge_s=need.surge_s, on_s=need.on_s,
        period_s=need.period_s, min_volts=need.min_volts, max_drop_percent=need.max_drop_percent,
        max_drop_v=need.max_drop_v,
    )  # fmt: skip


def _enter_load(design: Design, need: Need) -> Design:
    wired = _joined_to_wires(design, need)
    if wired is not None:
        return put(design, "loads", _load(design, need, *wired))
    source = _source(design, need)
    nominal = design.supplies[0].volts if design.supplies else 12.0
    value = need.value or 1.0
    amps = {LoadKind.CURRENT: value, LoadKind.POWER: value / nominal}.get(need.kind, nominal / value)
    design, end = _load_end(design, need, source)
    source = index_of(design).ends[source.id]
    plus_id, minus_id = _free_cavities(design, end, need.name)
    design = ensure_cavity(design, end.id, plus_id)
    plus = Pin(end=end.id, cavity=plus_id)
    design, feed = _feed_pin(design, source, amps)
    circuit = need.name
    wires = [("red", "feed", feed, plus)]
    if need.frame:
        design = _bond_supply(design)
        design, minus = _frame_pin(design, end)
    else:
        design = ensure_cavity(design, end.id, minus_id)
        minus = Pin(end=end.id, cavity=minus_id)
        design, back = _return_pin(design, source)
        wires.append(("black", "return", minus, back))
    for colour, role, start, finish in wires:
        wire = Wire(
            id=new_id(design, "wires", "W"), start=start, finish=finish, name=f"{need.name} {role}",
            circuit=circuit, colour=colour,
        )  # fmt: skip
        design = put(design, "wires", wire)
    return put(design, "loads", _load(design, need, plus, minus))
