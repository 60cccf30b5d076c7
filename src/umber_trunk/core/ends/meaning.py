"""What a cavity is: which pole of which supply, output or load it leads to, or which signal or shield, by tracing its
wires, links and splices. Two halves are on different nets until they meet, so names of circuits can't say it: feed and
return carry the same one.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.wire_ends import Places, body_of, places_of
from umber_trunk.core.harness.end import Cavity, End, EndKind, LinkKind
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, Wire
from umber_trunk.core.harness.screens import is_screen

Kind = Literal["power", "earth", "signal", "shield", "spare", "unknown"]
Node = tuple[str, str]
FRAME: Node = ("", "frame")
JOINING = (EndKind.SPLICE, EndKind.STUD, EndKind.BAR)
POLES = {
    "+": "+", "plus": "+", "positive": "+", "feed": "+", "live": "+", "line": "+", "l": "+", "−": "−", "-": "−", "minus": "−", "negative": "−", "return": "−", "ground": "−",
    "gnd": "−", "0v": "−", "neutral": "−", "n": "−",
}  # fmt: skip
"""Words for poles in roles of the catalogue and in pin lists; of an AC lead, line and neutral stand for the two."""
EARTHS, SHIELDS = ("earth", "pe", "protective"), ("drain", "screen", "shield")
NO_VOLTS = 0.5
"""Volts to the common pole under which a measured cavity is that pole itself."""


@dataclass(frozen=True)
class Source:
    """One supply, or the output of a converter."""

    key: str
    name: str
    volts: float
    ac: bool = False


@dataclass(frozen=True)
class Meaning:
    """One cavity. `sources` and `loads` are (what, pole) of what it leads to; `wires` those in it; `branch` all wires
    of its net up to the next fuse or switch; `circuits` and `names` are words, lower case: they can tell two like leads
    apart, never what a lead is.
    `known`: what it is was traced or measured, not read off a colour. `own` says that a load's pin sits in this very
    cavity."""

    label: str
    kind: Kind = "unknown"
    sources: frozenset[tuple[Source, str]] = frozenset()
    loads: frozenset[tuple[str, str]] = frozenset()
    wires: tuple[str, ...] = ()
    branch: frozenset[str] = frozenset()
    circuits: frozenset[str] = frozenset()
    names: frozenset[str] = frozenset()
    known: bool = False
    role: str = ""
    least_v: float = 0.0
    says: str = ""

    @property
    def poles(self) -> frozenset[str]:
        """Every pole it leads to; a sound one leads to one."""
        return frozenset(pole for _, pole in self.sources) | frozenset(pole for _, pole in self.loads)

    @property
    def pole(self) -> str:
        """Its pole, "" where it leads to none or to both."""
        return next(iter(self.poles)) if len(self.poles) == 1 else ""


@dataclass(frozen=True)
class BodyHalf:
    """One housing of a half: its part where one is chosen, and what each loaded cavity is, by label."""

    id: str
    part: Housing | None
    other: str
    cavities: Mapping[str, Meaning]


@dataclass(frozen=True)
class Half:
    """One end as the half of a coupling. `world` is the same for halves whose wires and loads can be compared by id."""

    id: str
    name: str
    world: int
    bodies: tuple[BodyHalf, ...]


def half_of(design: Design, end_id: str, shelf: Shelf | None = None) -> Half:
    """An end of a design as a half; KeyError where there is none of that id."""
    end, places = index_of(design).ends[end_id], places_of(design, shelf)
    tracer = _Tracer(places, end)
    bodies = []
    for body in end.housings or (None,):
        housing = places.shelf.get(body.part, Housing) if body is not None else None
        inside = [cavity for cavity in end.cavities if body_of(end, cavity) is body]
        found = {cavity.label or cavity.id: meaning for cavity in inside if (meaning := tracer.meaning(cavity))}
        bodies.append(BodyHalf(body.id if body else "", housing, (body.other if body else "") or "", found))
    return Half(end.id, end.name, id(design), tuple(bodies))


def half_of_pins(name: str, pins: Iterable[tuple[str, str, float | None]]) -> Half:
    """A pin list as a half: (label, what it is for in words, volts measured to the common pole)."""
    rows = list(pins)
    top = max((volts for _, _, volts in rows if volts is not None), default=0.0)
    found = {label: _pin(label, words, volts, top) for label, words, volts in rows if words or volts is not None}
    return Half(name, name, 0, (BodyHalf("", None, "", found),))


def role_of(text: str) -> tuple[Kind, str]:
    """(kind, pole) that words for a role stand for; ("unknown", "") where they name none."""
    words = text.lower().replace("0 v", "0v").split()
    for word in reversed(words):
        if word in SHIELDS:
            return "shield", ""
        if word in EARTHS:
            return "earth", ""
        if word in POLES:
            return "power", POLES[word]
    return "unknown", ""


def _pin(label: str, words: str, volts: float | None, top: float) -> Meaning:
    kind, pole = role_of(words)
    says = words or f"{volts:g} V"
    names = frozenset({words.lower().strip()} - {""})
    if volts is not None and (abs(volts) > NO_VOLTS or kind == "power" or not words):
        above = volts > NO_VOLTS or (top <= NO_VOLTS and abs(volts) <= NO_VOLTS)
        source = Source("measured", "what was measured", abs(volts) if abs(volts) > NO_VOLTS else top)
        says = f"{words} ({volts:g} V)" if words else says
        return Meaning(
            label,
            "power",
            frozenset({(source, "+" if above else "−")}),
            names=names,
            circuits=names,
            known=True,
            role=words,
            says=says,
        )
    loads = frozenset({("said", pole)}) if pole else frozenset()
    return Meaning(
        label, kind, loads=loads, names=names, circuits=names, known=kind != "unknown", role=words, says=says
    )


class _Tracer:
    """Follows wires from the cavities of one end. What that end joins inside itself is on the other side of its
    plug."""

    def __init__(self, places: Places, end: End) -> None:
        self.design, self.end, self.places = places.design, end, places
        self.index: Index = index_of(self.design)
        self.opens = _opens(places.shelf, end)

    def _node(self, end_id: str, cavity: str) -> Node:
        end = self.index.ends.get(end_id)
        if end is None or (end is self.end and self.opens):
            return end_id, cavity
        if end.frame:
            return FRAME
        return end_id, f"net {self.index.nets.get((end_id, cavity), cavity)}"

    @cached_property
    def by_wire(self) -> dict[Node, list[tuple[Wire, Node]]]:
        found: dict[Node, list[tuple[Wire, Node]]] = {}
        for wire in self.design.wires:
            a, b = self._node(wire.start.end, wire.start.cavity), self._node(wire.finish.end, wire.finish.cavity)
            found.setdefault(a, []).append((wire, b))
            found.setdefault(b, []).append((wire, a))
        return found

    @cached_property
    def by_link(self) -> dict[Node, list[tuple[LinkKind, Node]]]:
        found: dict[Node, list[tuple[LinkKind, Node]]] = {}
        for end in self.design.ends:
            for link in end.links if not (end is self.end and self.opens) else ():
                a, b = self._node(end.id, link.a), self._node(end.id, link.b)
                found.setdefault(a, []).append((link.kind, b))
                found.setdefault(b, []).append((link.kind, a))
        return found

    @cached_property
    def sources(self) -> dict[Node, list[tuple[Source, str]]]:
        found: dict[Node, list[tuple[Source, str]]] = {}
        for supply in self.design.supplies:
            one = Source(f"supply {supply.id}", supply.name, supply.volts, supply.ac)
            found.setdefault(self._node(supply.plus.end, supply.plus.cavity), []).append((one, "+"))
            found.setdefault(self._node(supply.minus.end, supply.minus.cavity), []).append((one, "−"))
        for made in self.design.converters:
            one = Source(f"output {made.id}", f"{made.name} output", made.volts)
            found.setdefault(self._node(made.out_plus.end, made.out_plus.cavity), []).append((one, "+"))
            found.setdefault(self._node(made.out_minus.end, made.out_minus.cavity), []).append((one, "−"))
        return found

    @cached_property
    def loads(self) -> dict[Node, list[tuple[str, str, str, float]]]:
        """Node → (id, name, pole, least volts) of what draws current there."""
        found: dict[Node, list[tuple[str, str, str, float]]] = {}
        for load in self.design.loads:
            for pin, pole in ((load.plus, "+"), (load.minus, "−")):
                found.setdefault(self._node(pin.end, pin.cavity), []).append(
                    (load.id, load.name, pole, load.min_volts or 0.0)
                )
        for made in self.design.converters:
            for pin, pole in ((made.plus, "+"), (made.minus, "−")):
                found.setdefault(self._node(pin.end, pin.cavity), []).append((made.id, f"{made.name} input", pole, 0.0))
        return found

    def _reach(self, start: Node, through: bool) -> tuple[set[Node], frozenset[str]]:
        """(nodes, wires) reached by wires and couplers, and by fuses and switches where `through`."""
        seen, wires, todo = {start}, set[str](), [start]
        while todo:
            here = todo.pop()
            by_wire = self.by_wire.get(here, ())
            wires.update(wire.id for wire, _ in by_wire)
            steps = [node for _, node in by_wire]
            steps += [
                n for kind, n in self.by_link.get(here, ()) if through or kind in (LinkKind.COUPLER, LinkKind.FRAME)
            ]
            for node in steps:
                if node not in seen:
                    seen.add(node)
                    todo.append(node)
        return seen, frozenset(wires)

    def meaning(self, cavity: Cavity) -> Meaning | None:
        """What a cavity of the end is; None where no wire arrives."""
        arrived = self.places.at.get((self.end.id, cavity.id), [])
        if not arrived:
            return None
        label, start = cavity.label or cavity.id, self._node(self.end.id, cavity.id)
        branch = self._reach(start, False)[1]
        far = self._reach(start, True)[0]
        sources = frozenset(one for node in far for one in self.sources.get(node, ()))
        here = self.loads.get(start, [])
        fed = here if sources else [one for node in sorted(far) for one in self.loads.get(node, ())]
        wires = [one.wire for one in arrived]
        circuits = {word.lower().strip() for wire in wires if (word := wire.circuit)} | {
            name.lower() for _, name, _, _ in fed
        }
        core = next((core.role for wire in wires if (core := self.places.core(wire)) and core.role), "")
        found = Meaning(
            label,
            self._kind(wires, bool(sources or fed), core),
            sources,
            frozenset((one, pole) for one, _, pole, _ in fed),
            tuple(w.id for w in wires),
            branch,
            frozenset(circuits),
            frozenset(wire.name.lower() for wire in wires if wire.name),
            bool(sources or fed),
            core,
            max((least for _, _, pole, least in fed if pole == "+"), default=0.0),
        )
        if found.kind in ("signal", "shield", "earth", "spare"):
            found = replace(found, known=True)
        elif found.kind == "unknown" and (of_core := role_of(core))[1]:
            found = replace(found, kind="power", loads=frozenset({("said", of_core[1])}))
        return replace(found, says=self._said(found, wires, fed))

    def _kind(self, wires: list[Wire], powered: bool, core: str) -> Kind:
        kinds = {cable.id: cable.kind for cable in self.design.cables}
        if all(wire.spare or wire.bad for wire in wires):
            return "spare"
        if any(wire.cable in kinds and is_screen(wire, kinds[wire.cable]) for wire in wires):
            return "shield"
        told = role_of(core)[0]
        if told in ("earth", "shield"):
            return told
        if powered and not all(wire.signal for wire in wires):
            return "power"
        return "signal" if any(wire.signal for wire in wires) else "power" if powered else "unknown"

    def _said(self, found: Meaning, wires: list[Wire], fed: list[tuple[str, str, str, float]]) -> str:
        word = next((w.circuit for w in wires if w.circuit), "") or found.role or next(w.name or w.id for w in wires)
        if found.kind in ("signal", "shield", "earth", "spare"):
            return f"{found.kind} {next((w.name or w.id for w in wires if w.name), word)}"
        if fed:
            return ", ".join(dict.fromkeys(f"{name} {pole}" for _, name, pole, _ in fed[:3]))
        if found.sources:
            source, pole = min(found.sources, key=lambda one: one[0].key)
            pole = {"+": "line", "−": "neutral"}[pole] if source.ac else pole
            return f"{word}: {source.name} {pole}" if word else f"{source.name} {pole}"
        return word


def _opens(shelf: Shelf, end: End) -> bool:
    """Whether what an end joins inside itself is on the other side of a plug."""
    if end.kind in JOINING or end.frame:
        return False
    parts = [housing for body in end.housings if (housing := shelf.get(body.part, Housing)) is not None]
    return not parts or any(housing.contacts != "clamp" or housing.form != "genderless" for housing in parts)
