"""Lines about cables: wires put into one jacket, and the protective earth that goes along with a load's wires."""

from __future__ import annotations

from umber_trunk.core.catalog.conductors import area_of
from umber_trunk.core.catalog.parts import CablePart, Core
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.earths import is_earth
from umber_trunk.core.harness.edits import change, ensure_cavity, new_id, put, put_all
from umber_trunk.core.harness.model import Cable, CableKind, Design, Load, Pin, Wire
from umber_trunk.core.language.records import Earth, Jacketed
from umber_trunk.core.language.whose import loads_of, part_of, wires_of

EARTH_CAVITY = EARTH_CORE = "PE"
KIND_WORDS = {
    "": CableKind.MULTICORE, "multicore": CableKind.MULTICORE, "pair": CableKind.PAIR, "twisted pair": CableKind.PAIR,
    "screened": CableKind.SCREENED, "screened pair": CableKind.SCREENED, "shielded pair": CableKind.SCREENED,
}  # fmt: skip
ROLE_WORDS = {"earth": ("pe", "e", "earth"), "neutral": ("n", "neutral", "return"), "line": ("l", "line", "feed")}


def earth(design: Design, line: Earth, _: Shelf | None) -> Design:
    """A protective earth beside the wires of each load, from its own place to where the load is fed from, as thick as
    the thickest of them. EditError where a load's wires have no size yet, or it has an earth."""
    for load in loads_of(design, line.where):
        wires = _own_wires(design, load)
        feed = next(wire for wire in wires if load.plus in (wire.start, wire.finish))
        source = feed.finish if feed.start == load.plus else feed.start
        if any(is_earth(wire.name, wire.core) for wire in wires):
            raise EditError.of("language.earth-already", load=load.name)
        if any(wire.size is None for wire in wires):
            raise EditError.of("language.wires-have-no-size-yet", load=load.name)
        thick = max(wires, key=lambda wire: area_of(wire.size or ""))
        ends = (load.plus.end, source.end)
        for end in ends:
            design = ensure_cavity(design, end, EARTH_CAVITY)
        made = change(
            thick,
            id=new_id(design, "wires", "W"),
            name=f"{load.name} earth",
            start=Pin(end=ends[1], cavity=EARTH_CAVITY),
            finish=Pin(end=ends[0], cavity=EARTH_CAVITY),
            colour="green",
            stripe="yellow",
            core=EARTH_CORE,
            signal=True,
            locked=True,
            via=(),
            at_start=None,
            at_finish=None,
        )
        design = put(design, "wires", made)
    return design


def _own_wires(design: Design, load: Load) -> list[Wire]:
    """The wires at a load's two pins and the others of its circuit beside them, its feed among them."""
    pins = (load.plus, load.minus)
    own = [wire for wire in design.wires if wire.start in pins or wire.finish in pins]
    if not any(load.plus in (wire.start, wire.finish) for wire in own):
        raise EditError.of("language.no-wire-feeds", load=load.name)
    circuits = {wire.circuit for wire in own if wire.circuit}
    ends = {frozenset((wire.start.end, wire.finish.end)) for wire in own}
    beside = [
        w
        for w in design.wires
        if w not in own and w.circuit in circuits and frozenset((w.start.end, w.finish.end)) in ends
    ]
    return [*own, *beside]


def jacketed(design: Design, line: Jacketed, shelf: Shelf | None) -> Design:
    """Wires in one cable, of a kind or as a part of the catalogue has it: then each wire takes a core. EditError where
    they go different ways, are in another cable, or the part has other cores."""
    name, _, what = (part.strip() for part in line.name.partition(","))
    wires = wires_of(design, line.where)
    ways = [frozenset((wire.start.end, wire.finish.end)) for wire in wires]
    if len(wires) < 2:
        raise EditError.of("language.cable-has-two-cores-or-more")
    if len(set(ways)) > 1:
        other_way = next(wire.id for wire, way in zip(wires, ways, strict=True) if way != ways[0])
        raise EditError.of("language.they-go-different-ways", id=wires[0].id, other_way=other_way)
    other = next((wire for wire in wires if wire.cable is not None), None)
    if other is not None:
        raise EditError.of("language.cable-already", other=other.id, cable=other.cable)
    if any(name.lower() in (cable.id.lower(), cable.name.lower()) for cable in design.cables):
        raise EditError.of("language.cable-called-already", name=name)
    cable = Cable(id=new_id(design, "cables", "C"), name=name, kind=KIND_WORDS.get(what.lower(), CableKind.MULTICORE))
    if what.lower() not in KIND_WORDS:
        part = part_of(shelf_for(design, shelf), what, CablePart, "cable")
        assert isinstance(part, CablePart)
        wires = _on_cores(wires, part)
        screened = part.screen != "none" or part.foil
        cable = change(cable, part=part.id, kind=CableKind.SCREENED if screened else CableKind.MULTICORE)
    design = put(design, "cables", cable)
    return put_all(design, "wires", [change(wire, cable=cable.id) for wire in wires])


def _on_cores(wires: list[Wire], part: CablePart) -> list[Wire]:
    """Each wire on the core whose role it has, the rest in order; their size, colour and mark are the core's."""
    if len(part.cores) != len(wires):
        raise EditError.of(
            "language.cores-not-as-many-as-wires", part=part.name, cores=len(part.cores), wires=len(wires)
        )
    left = list(part.cores)
    cores: dict[str, Core] = {}
    for wire in sorted(wires, key=lambda one: not _role(one)):
        core = next((one for one in left if one.role and one.role == _role(wire)), None) or next(
            (one for one in left if not one.role), left[0]
        )
        left.remove(core)
        cores[wire.id] = core
    thin = next((wire for wire in wires if wire.size and area_of(wire.size) > cores[wire.id].area_mm2 * 1.001), None)
    if thin is not None:
        raise EditError.of(
            "language.core-is-of-other-size",
            thin=thin.id,
            size=thin.size,
            part=part.name,
            area_mm2=cores[thin.id].area_mm2,
        )
    return [
        change(
            wire,
            core=one.mark,
            size=f"{one.area_mm2:g} mm2",
            colour=one.colour or wire.colour,
            stripe=one.stripe if one.colour else wire.stripe,
        )
        for wire in wires
        for one in (cores[wire.id],)
    ]


def _role(wire: Wire) -> str:
    """What a wire is in a mains cord, "" where nothing says so."""
    said = {wire.core.lower(), wire.name.lower().rsplit(" ", 1)[-1]}
    return next((role for role, words in ROLE_WORDS.items() if said & set(words)), "")
