"""Where a place takes its feed from and gives its return to: rails, fuse ways, bars, switches, converters."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import branch, ensure_cavity, free_fuse_way, measured
from umber_trunk.core.harness.end import End, EndKind, LinkKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Pin, Supply
from umber_trunk.core.harness.way import Method
from umber_trunk.core.needs.line_records import SitedLine
from umber_trunk.core.physics.fuses import fitting_rating

KIND_WORDS = {
    EndKind.BOX: ("fuse box", "box", "distribution box"), EndKind.BAR: ("bar", "bus bar"), EndKind.SWITCH: ("switch",),
    EndKind.RELAY: ("relay",), EndKind.CONVERTER: ("converter",), EndKind.STUD: ("stud",), EndKind.SPLICE: ("splice",),
}  # fmt: skip


def find_end(design: Design, name: str) -> End | None:
    """An end by id or name, upper and lower case alike; "fuse box" and its like where there is just one."""
    wanted = " ".join(name.lower().split())
    for end in design.ends:
        if wanted in (end.id.lower(), end.name.lower()):
            return end
    for supply in design.supplies:
        if wanted == supply.name.lower():
            return index_of(design).ends.get(supply.plus.end)
    for kind, words in KIND_WORDS.items():
        alike = [end for end in design.ends if end.kind is kind]
        named = [end for end in alike if any(wanted == f"{end.name.lower()} {word}" for word in words)]
        if len(named) == 1 or (wanted in words and len(alike) == 1):
            return (named or alike)[0]
    return None


def rails_of(design: Design, end: End) -> list[Supply]:
    """The supplies whose plus is at an end."""
    return [supply for supply in design.supplies if supply.plus.end == end.id]


def volts_at(design: Design, end: End, asked: float | None = None) -> float | None:
    """Nominal volts a place gives, followed up its feed; None while nothing feeds it."""
    index, seen = index_of(design), set[str]()
    here: End | None = end
    while here is not None and here.id not in seen:
        seen.add(here.id)
        given = [s.volts for s in rails_of(design, here)] + [
            c.volts for c in design.converters if c.out_plus.end == here.id
        ]
        if given:
            return asked if asked in given else max(given)
        above = next((w.start.end for w in design.wires if w.finish.end == here.id and w.start.end not in seen), None)
        here = index.ends.get(above or "")
    return design.supplies[0].volts if design.supplies else None


def feed_pin(
    design: Design,
    end: End,
    amps: float,
    volts: float | None,
    fused_a: float | None = None,
    starts: Sequence[tuple[float, float]] = (),
) -> tuple[Design, Pin]:
    """The pin a new feed starts at; a fuse box gives a way of its own, fused for the amps and starts (A, s). EditError
    where rails leave a choice, or where every way of a box is taken."""
    rails = rails_of(design, end)
    if rails:
        return _rail_pin(design, end, rails, volts)
    converter = next((c for c in design.converters if c.out_plus.end == end.id), None)
    if converter is not None:
        return design, converter.out_plus
    if end.kind is EndKind.BOX:
        zone = index_of(design).zones.get(end.zone or "")
        air = zone.ambient_c if zone else design.project.ambient_c
        fits = fused_a or (fitting_rating(amps, air, list(starts)) if amps > 0 else None)
        design, way = free_fuse_way(design, end, fits)
        return design, Pin(end=end.id, cavity=way)
    fixed = {EndKind.SWITCH: "out", EndKind.RELAY: "87", EndKind.BAR: "1", EndKind.STUD: "1", EndKind.SPLICE: "1"}
    cavity = fixed.get(end.kind, "+")
    return ensure_cavity(design, end.id, cavity), Pin(end=end.id, cavity=cavity)


def _rail_pin(design: Design, end: End, rails: list[Supply], volts: float | None) -> tuple[Design, Pin]:
    fitting = [rail for rail in rails if volts is None or abs(rail.volts - volts) < 1e-6]
    if not fitting:
        given = ", ".join(f"{rail.volts:g} V" for rail in rails)
        raise EditError.of("needs.end-gives-other-volts", end=end.name, given=given, volts=volts)
    if len({rail.volts for rail in fitting}) > 1:
        given = " or ".join(f"{rail.volts:g} V" for rail in fitting)
        raise EditError.of("needs.several-rails-say", end=end.name, given=given)
    main = next(
        (
            link.b
            for link in end.links
            if link.kind is LinkKind.FUSE and link.a == fitting[0].plus.cavity and link.style
        ),
        None,
    )
    return design, Pin(end=end.id, cavity=main) if main else fitting[0].plus


def return_pin(design: Design, end: End, volts: float | None = None) -> tuple[Design, Pin]:
    """Where a return goes whose feed comes from an end: its own minus or negative bar, else that further up."""
    index, seen, here = index_of(design), set[str](), end
    while here.id not in seen:
        seen.add(here.id)
        rails = rails_of(design, here)
        if rails:
            rail = next((rail for rail in rails if volts is None or abs(rail.volts - volts) < 1e-6), rails[0])
            return design, rail.minus
        converter = next((c for c in design.converters if c.out_plus.end == here.id), None)
        if converter is not None:
            return design, converter.out_minus
        if here.kind is EndKind.BOX and any(cavity.id == "-" for cavity in here.cavities):
            return design, Pin(end=here.id, cavity="-")
        above = next((w.start.end for w in design.wires if w.finish.end == here.id and w.start.end not in seen), None)
        if above is None or above not in index.ends:
            break
        here = index.ends[above]
    return project_return(design)


def project_return(design: Design) -> tuple[Design, Pin]:
    """The pin that all negatives of the project come to, made where there is none yet."""
    end = index_of(design).ends.get(design.project.return_end or "")
    for supply in design.supplies:
        if end is not None and supply.minus.end == end.id:
            return design, supply.minus
    if end is not None:
        cavity = "-" if not end.cavities else end.cavities[0].id
        return ensure_cavity(design, end.id, cavity), Pin(end=end.id, cavity=cavity)
    if not design.supplies:
        raise EditError.of("needs.no-supply-yet")
    return design, design.supplies[0].minus


def find_point(design: Design, name: str) -> str | None:
    """A point by its id or name, or that of an end sitting on it."""
    wanted = name.strip().lower()
    for point in design.points:
        if wanted in (point.id.lower(), point.name.lower()):
            return point.id
    end = find_end(design, name)
    return end.point if end else None


def limb(design: Design, need: SitedLine, source: End, name: str, zone: str | None) -> tuple[Design, str]:
    """A new limb of the stated run, off the source or the place named after "off"."""
    start = find_point(design, need.off) if need.off else source.point
    if start is None:
        raise EditError.of("any.not-on-trunk", where=need.off or source.name)
    assert need.run_m is not None
    return branch(design, start, measured(need.run_m, Method.TAPE), name, zone)
