"""Boxes, bars, studs, splices, connectors, switches, relays, converters and fuses from a line."""

from __future__ import annotations

from dataclasses import replace

from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import new_id, put, slug, usual_fuse_ohm, with_fuse
from umber_trunk.core.harness.end import Cavity, End, EndKind, Housing, Link, LinkKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Converter, Design, Load, Pin, Wire
from umber_trunk.core.needs.line_records import ConverterLine, FuseLine, PlaceLine, RelayLine
from umber_trunk.core.needs.outlets import feed_pin, find_end, limb, rails_of, return_pin

USUAL_WAYS = 6
"""Ways of a fuse block that doesn't say."""
USUAL_EFFICIENCY = 0.9
"""Of a converter that doesn't say."""
KINDS = {
    "box": EndKind.BOX, "bar": EndKind.BAR, "stud": EndKind.STUD, "splice": EndKind.SPLICE, "connector": EndKind.CONNECTOR,
    "switch": EndKind.SWITCH, "relay": EndKind.RELAY, "converter": EndKind.CONVERTER,
}  # fmt: skip


def enter_place(design: Design, need: PlaceLine, zone: str | None) -> Design:
    """The design with the place, what is inside it, and the wires that feed it."""
    source = _source(design, need)
    design, end = _placed(design, need, source, zone)
    end = _inside(end, need)
    design = put(design, "ends", end)
    if isinstance(need, ConverterLine):
        design = _converter(design, end, need, source)
    if source is None:
        return design
    for role, cavity in _wires_of(need):
        design = _wired(design, need, source, end, role, cavity)
    return _coil(design, need, source, end) if isinstance(need, RelayLine) else design


def _source(design: Design, need: PlaceLine) -> End | None:
    """What feeds the place; connectors and places that name nothing stand alone, a converter and a box don't."""
    if need.source:
        found = find_end(design, need.source)
        if found is None:
            raise EditError.of("needs.no-end-called-to-feed", source=need.source)
        return found
    if need.what in ("box", "converter", "switch", "relay") and design.supplies:
        return index_of(design).ends.get(design.supplies[0].plus.end)
    if need.what in ("converter", "switch", "relay"):
        raise EditError.of("needs.no-supply-yet")
    return None


def _placed(design: Design, need: PlaceLine, source: End | None, zone: str | None) -> tuple[Design, End]:
    """A new end at its run, or at the point of the end that has its name already."""
    kind = KINDS[need.what]
    there = find_end(design, need.name)
    if there is not None and there.kind is kind and there.cavities:
        raise EditError.of("needs.name-taken", kind=kind, there=there.name)
    name = f"{need.name} {'fuse box' if need.what == 'box' else need.what}" if there is not None else need.name
    point = there.point if there is not None else None
    if need.run_m is not None:
        if point is not None:
            raise EditError.of("needs.on-trunk-already-no-run", need=need.name)
        design, point = limb(design, need, _start(design, need, source), name, zone)
    end = End(id=slug(name, [e.id for e in design.ends]), name=name, kind=kind, point=point, zone=zone)
    return design, end


def _start(design: Design, need: PlaceLine, source: End | None) -> End:
    """What a place without a source of its own branches off: the first supply's end."""
    home = index_of(design).ends.get(design.supplies[0].plus.end) if design.supplies else None
    found = source or home
    if found is None:
        raise EditError.of("any.not-on-trunk", where=need.off or need.name)
    return found


def _inside(end: End, need: PlaceLine) -> End:
    """Cavities, bridges and links of a new place."""
    if need.what == "box":
        ways = [f"F{n}" for n in range(1, (need.ways or USUAL_WAYS) + 1)]
        links = tuple(
            Link(id=way, kind=LinkKind.FUSE, a="in", b=way, resistance_ohm=usual_fuse_ohm(None)) for way in ways
        )
        bar = () if need.frame else ("-",)
        cavities = tuple(Cavity(id=name) for name in ("in", *bar, *ways))
        said = {"cavities": cavities, "links": links, "bridged": (("in",),), "ways": need.ways or None}
        return end.model_copy(update=said)
    if need.what in ("switch", "relay"):
        a, b = ("in", "out") if need.what == "switch" else ("30", "87")
        link = Link(id="contact", kind=LinkKind.SWITCH, a=a, b=b, resistance_ohm=0.002)
        names = (a, b) if need.what == "switch" else (a, b, "86", "85")
        return end.model_copy(update={"cavities": tuple(Cavity(id=n) for n in names), "links": (link,)})
    if need.what == "converter":
        names = ("in+", "in-", "out+", "out-")
        return end.model_copy(update={"cavities": tuple(Cavity(id=n) for n in names), "bridged": (("in-", "out-"),)})
    if need.what == "connector":
        pins = need.pins or tuple(str(n) for n in range(1, need.ways + 1))
        if len(set(pins)) != len(pins):
            raise EditError.of("needs.pin-is-named-twice")
        return end.model_copy(
            update={
                "cavities": tuple(Cavity(id=p, housing="H1") for p in pins),
                "housings": (Housing(id="H1", name=end.name),),
            }
        )
    return end.model_copy(update={"cavities": (Cavity(id="1"),)})


def _wires_of(need: PlaceLine) -> list[tuple[str, str]]:
    """(role, cavity) of the wires that feed a place."""
    if need.what == "box":
        return [("feed", "in")] if need.frame else [("feed", "in"), ("return", "-")]
    if need.what == "converter":
        return [("feed", "in+"), ("return", "in-")]
    if need.what == "switch":
        return [("feed", "in")]
    if need.what == "relay":
        return [("feed", "30")]
    if need.what in ("bar", "stud", "splice"):
        return [("return" if need.negative else "feed", "1")]
    return []


def _wired(design: Design, need: PlaceLine, source: End, end: End, role: str, cavity: str) -> Design:
    here = Pin(end=end.id, cavity=cavity)
    if role == "feed":
        design, there = feed_pin(design, index_of(design).ends[source.id], 0.0, need.volts, None)
    else:
        design, there = return_pin(design, source, need.volts)
    start, finish = (there, here) if role == "feed" else (here, there)
    wire = Wire(
        id=new_id(design, "wires", "W"),
        start=start,
        finish=finish,
        name=f"{end.name} {role}",
        circuit=end.name,
        colour="red" if role == "feed" else "black",
    )
    return put(design, "wires", _given_length(design, wire))


def _given_length(design: Design, wire: Wire) -> Wire:
    """Wires between two places at one point get a short stated length, since no limb gives them one."""
    ends = index_of(design).ends
    a, b = ends[wire.start.end], ends[wire.finish.end]
    return wire.model_copy(update={"stated_m": 0.3}) if a.point is not None and a.point == b.point else wire


def _converter(design: Design, end: End, need: ConverterLine, source: End | None) -> Design:
    assert need.out_volts is not None
    if (
        source is not None
        and need.volts
        and rails_of(design, source)
        and all(r.volts != need.volts for r in rails_of(design, source))
    ):
        raise EditError.of(
            "needs.source-gives-other-volts",
            source=source.name,
            rail_v=rails_of(design, source)[0].volts,
            need_v=need.volts,
        )
    part = Converter(
        id=slug(end.name, [c.id for c in design.converters], "converter"),
        name=end.name,
        volts=need.out_volts,
        efficiency=need.efficiency or USUAL_EFFICIENCY,
        plus=Pin(end=end.id, cavity="in+"),
        minus=Pin(end=end.id, cavity="in-"),
        out_plus=Pin(end=end.id, cavity="out+"),
        out_minus=Pin(end=end.id, cavity="out-"),
    )
    return put(design, "converters", part)


def _coil(design: Design, need: RelayLine, source: End, end: End) -> Design:
    """A relay whose coil current is given: the coil as a load, fed through `by` where that is named."""
    if need.value is None:
        return design
    feeder = find_end(design, need.by) if need.by else source
    if feeder is None:
        raise EditError.of("needs.no-end-called-to-switch-coil", by=need.by)
    coil = replace(need, name=f"{end.name} coil")
    for role, cavity in (("feed", "86"), ("return", "85")):
        design = _wired(design, coil, feeder, index_of(design).ends[end.id], role, cavity)
    load = Load(
        id=slug(coil.name, [row.id for row in design.loads], "load"),
        name=coil.name,
        value=need.value,
        kind=need.kind,
        plus=Pin(end=end.id, cavity="86"),
        minus=Pin(end=end.id, cavity="85"),
    )
    return put(design, "loads", load)


def main_fuse(design: Design, need: FuseLine) -> Design:
    """A fuse at a supply: every feed entered from there afterwards, and those there already, start behind it."""
    end = find_end(design, need.where or need.name)
    if end is None:
        raise EditError.of("needs.no-end-called-to-fuse", where=need.where or need.name)
    rails = rails_of(design, end)
    plus = rails[0].plus.cavity if rails else "1"
    if not rails and not any(cavity.id == plus for cavity in end.cavities):
        raise EditError.of("needs.neither-supply-nor-stud", end=end.name, rating_a=need.rating_a)
    end, way = with_fuse(end, plus, need.rating_a, need.style or "main")
    here = Pin(end=end.id, cavity=plus)
    design = put(design, "ends", end)
    for wire in design.wires:
        if wire.start == here:
            design = put(design, "wires", wire.model_copy(update={"start": Pin(end=end.id, cavity=way)}))
    return design
