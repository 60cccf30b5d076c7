"""What a build owns: the resolved design and its order, frozen when it is begun. Resuming reads them and plans nothing.

Resolved: every size, fitting, seal, ferrule, blank, covering and shrink that was proposed is chosen, and every part
that is named is copied in with all its fields. The order is kept as steps, with all that the bench asks of the harness
while it goes through them.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, field, fields
from functools import cached_property
from typing import Any

from pydantic import TypeAdapter, ValidationError

from umber_trunk.core.catalog.parts import Contact, Part, Shrink
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.strip import strip_of
from umber_trunk.core.ends.wire_ends import SIDES, places_of
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.end import End, EndKind
from umber_trunk.core.harness.made import design_of
from umber_trunk.core.harness.model import Design, Segment, Wire
from umber_trunk.core.joins.join_plans import JoinPlan, joins
from umber_trunk.core.kit.coils import Piece
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.samples import sample_pieces
from umber_trunk.core.make.timed import Order, Timed
from umber_trunk.core.plain import loaded
from umber_trunk.core.results import Results
from umber_trunk.core.text import digest_of

FORMAT = 1
"""Of an order that is frozen with a build; earlier ones are read."""


class FrozenError(UmberError):
    """What was frozen of a build can't be read; the text says of what."""


@dataclass(frozen=True)
class EndMade:
    """An end of a wire as the bench knows it: what a start over eats and how many are allowed, the contact on it, what
    takes that out."""

    wire: str
    side: str
    end: str
    label: str
    name: str
    eaten_mm: float
    remakes: int
    part: str = ""
    takes_out: str = ""
    parts: tuple[str, ...] = ()


@dataclass(frozen=True)
class Making:
    """An order with all that its bench needs. `pieces` are the lengths of one unit, `samples` those of the set-ups;
    `older` maps names of steps in logs of earlier formats to those of this order."""

    version: str
    order: Order
    ends: tuple[EndMade, ...]
    pieces: tuple[Piece, ...]
    samples: tuple[Piece, ...]
    wires: tuple[str, ...]
    names: Mapping[str, str]
    older: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def by_end(self) -> dict[tuple[str, str], EndMade]:
        """By wire and side."""
        return {(one.wire, one.side): one for one in self.ends}

    @cached_property
    def _keys(self) -> dict[int, frozenset[str]]:
        found: dict[int, set[str]] = {}
        for step in self.order.steps:
            if not step.operation.sample:
                found.setdefault(step.unit, set()).add(step.key)
        return {unit: frozenset(keys) for unit, keys in found.items()}

    def steps_of(self, unit: int) -> frozenset[str]:
        """Keys of the steps that make a unit, those done once for all units among them, samples left out."""
        return self._keys.get(unit, frozenset()) | self._keys.get(0, frozenset())

    @cached_property
    def texts(self) -> dict[str, str]:
        """Key of an operation → what it says."""
        return {one.key: one.text for one in self.operations}

    @cached_property
    def operations(self) -> tuple[Operation, ...]:
        """Every operation of one unit, in the order's own order."""
        return tuple({step.operation.key: step.operation for step in self.order.steps}.values())


@dataclass(frozen=True)
class Frozen:
    """A build's inputs, with the texts they are kept as and their digests."""

    design: Design
    making: Making
    design_text: str
    order_text: str

    @cached_property
    def shelf(self) -> Shelf:
        """The parts it carries, and no others."""
        return Shelf(self.design.parts)

    @property
    def digests(self) -> tuple[str, str]:
        """Of design and order."""
        return digest_of(self.design_text), digest_of(self.order_text)


def freeze(results: Results, order: Order, version: str, older: Mapping[str, str] | None = None) -> Frozen:
    """The inputs of a build of this order."""
    design = resolved(results)
    known, project = results.once(fitted), results.design.project
    ends = []
    for one in places_of(results.design, results.shelf).ends:
        fitting, made = known.of(one), strip_of(results, one)
        contact = results.shelf.get(fitting.part, Contact)
        takes_out = contact.extraction if contact is not None and contact.extraction else "extraction tool"
        allowed = fitting.remakes if fitting.remakes is not None else project.remakes
        worn = (fitting.part, fitting.seal, fitting.ferrule, fitting.shrink, fitting.boot)
        ends.append(
            EndMade(
                one.wire.id,
                one.side,
                one.end.id,
                one.label,
                one.name,
                made.eaten_mm if made is not None else 1e3 * project.remake_m,
                allowed,
                fitting.part or "",
                results.shelf.name(takes_out),
                tuple(results.shelf.name(part) for part in worn if part and results.shelf.named(part) is not None),
            )
        )
    making = Making(
        version,
        order,
        tuple(ends),
        tuple(pieces(results, 1)),
        tuple(sample_pieces(results)),
        tuple(wire.id for wire in design.wires),
        {end.id: end.name for end in design.ends},
        dict(older or {}),
    )
    # what is begun is what is read again: there is one way in
    return thawed(_text(design.model_dump(mode="json")), _text(_plain(making)))


def resolved(results: Results) -> Design:
    """The design with everything that is proposed chosen, and a copy of every part it names."""
    design, joint = results.design, {plan.end: plan for plan in results.once(joins)}
    whole = design.model_copy(
        update={
            "wires": _wires_chosen(results, joint),
            "ends": _blanks_chosen(results),
            "segments": _coverings_chosen(results),
        }
    )
    wanted = _named(whole.model_dump(exclude={"parts"}), results.shelf) | {part.id for part in design.parts}
    wanted |= {plan.barrel for plan in joint.values()} | {plan.shrink for plan in joint.values()}
    return whole.model_copy(update={"parts": _copies(wanted, results.shelf)})


def _wires_chosen(results: Results, joint: Mapping[str, JoinPlan]) -> tuple[Wire, ...]:
    """Wires with their size, stuff and fittings; of the wires at a splice the first has its shrink."""
    design, known, plant = results.design, results.once(fitted), results.plant
    splices = {end.id for end in design.ends if end.kind is EndKind.SPLICE}
    shrunk: set[str] = set()
    wires: list[Wire] = []
    for wire in design.wires:
        row = plant.row.get(wire.id)
        new: dict[str, Any] = {}
        if row is not None:
            made = plant.conductors[row]
            new |= {"metal": made.metal.id, "make": made.make.id, "jacket": made.jacket.id}
            if size := wire.size or results.sizes.get(wire.id):
                new["size"] = size
        for side, name, pin in zip(SIDES, ("at_start", "at_finish"), (wire.start, wire.finish), strict=True):
            fitting = known.fittings.get((wire.id, side))
            if fitting is None:
                continue
            put: dict[str, Any] = {} if fitting.remakes is not None else {"remakes": design.project.remakes}
            plan = joint.get(pin.end)
            if pin.end in splices and plan is not None and plan.shrink and pin.end not in shrunk:
                shrunk.add(pin.end)
                if results.shelf.get(plan.shrink, Shrink) is not None and fitting.shrink is None:
                    put["shrink"] = plan.shrink
            new[name] = fitting.model_copy(update=put)
        wires.append(wire.model_copy(update=new))
    return tuple(wires)


def _blanks_chosen(results: Results) -> tuple[End, ...]:
    blanks, ends = results.once(fitted).blanks, list[End]()
    for end in results.design.ends:
        bodies = tuple(
            body.model_copy(update={"blanks": blanks[end.id, body.id]})
            if body.blanks is None and (end.id, body.id) in blanks
            else body
            for body in end.housings
        )
        ends.append(end.model_copy(update={"housings": bodies}))
    return tuple(ends)


def _coverings_chosen(results: Results) -> tuple[Segment, ...]:
    chosen = {(limb.segment, cover.id): cover.part for limb in results.once(dressed).values() for cover in limb.covers}
    segments = []
    for segment in results.design.segments:
        covers = tuple(
            cover.model_copy(update={"part": chosen.get((segment.id, cover.id)) or cover.part})
            for cover in segment.covers
        )
        segments.append(segment.model_copy(update={"covers": covers}))
    return tuple(segments)


def _copies(wanted: Iterable[str], shelf: Shelf) -> tuple[Part, ...]:
    """These parts, and those they name themselves: clamps, plugs, tools, mates."""
    found: dict[str, Part] = {}
    queue = sorted(wanted)
    for name in queue:
        part = shelf.parts.get(name)
        if part is not None and name not in found:
            found[name] = part
            queue += sorted(_named(part.model_dump(), shelf) - found.keys())
    return tuple(found[name] for name in sorted(found))


def _named(value: Any, shelf: Shelf) -> set[str]:
    """The ids of parts among the texts of plain data."""
    if isinstance(value, str):
        return {value} if value in shelf.parts else set()
    rows = value.values() if isinstance(value, dict) else value if isinstance(value, list | tuple) else ()
    return {name for row in rows for name in _named(row, shelf)}


# as text

_OPERATION, _END, _PIECE = TypeAdapter(Operation), TypeAdapter(EndMade), TypeAdapter(Piece)
_ORDER = [one.name for one in fields(Order) if one.name != "steps"]
_LINE = TypeAdapter(tuple[int, int, float, int, float, tuple[int, ...]])


def _text(data: Any) -> str:
    return json.dumps(data, ensure_ascii=False, sort_keys=True, separators=(",", ":"), allow_nan=False)


def _plain(making: Making) -> dict[str, Any]:
    """An order as plain data: each operation once, and a line of (operation, unit, seconds, hand, start, what it waits
    for)."""
    order = making.order
    at = {one.key: number for number, one in enumerate(making.operations)}
    line = [[at[s.operation.key], s.unit, s.seconds, s.hand, s.start_s, list(s.after)] for s in order.steps]
    return {
        "format": FORMAT,
        "version": making.version,
        "order": {name: getattr(order, name) for name in _ORDER},
        "operations": [
            asdict(one) | {"says": {"code": one.says.code, "values": dict(one.says.values), "as_was": one.text}}
            for one in making.operations
        ],
        "line": line,
        "ends": [asdict(one) for one in making.ends],
        "pieces": [asdict(one) for one in making.pieces],
        "samples": [asdict(one) for one in making.samples],
        "wires": list(making.wires),
        "names": dict(making.names),
        "older": dict(making.older),
    }


def thawed(design_text: str, order_text: str, making: Making | None = None) -> Frozen:
    """The inputs of a build from the texts they were kept as, `making` that of the order where it is known. FrozenError
    for what they can't be."""
    try:
        design = design_of(loaded(design_text))
    except (ValueError, TypeError, AttributeError, RecursionError) as why:  # a pydantic ValidationError is a ValueError
        raise FrozenError.of("make.frozen-design-unreadable", kind=type(why).__name__) from why
    return Frozen(design, making or thawed_order(order_text), design_text, order_text)


def thawed_order(order_text: str) -> Making:
    """The order of a build from the text it was kept as. FrozenError for what it can't be."""
    try:
        data = loaded(order_text)
        if data["format"] != FORMAT:
            raise FrozenError.of("make.frozen-by-newer-program")
        operations = [_OPERATION.validate_python(one) for one in data["operations"]]
        steps = tuple(
            Timed(n, operations[at], unit, tuple(after), seconds, hand, start)
            for n, (at, unit, seconds, hand, start, after) in enumerate(map(_LINE.validate_python, data["line"]), 1)
        )
        said = data["order"]
        order = Order(**{**{name: said[name] for name in _ORDER}, "units": tuple(said["units"])}, steps=steps)
        return Making(
            str(data["version"]),
            order,
            tuple(_END.validate_python(one) for one in data["ends"]),
            tuple(_PIECE.validate_python(one) for one in data["pieces"]),
            tuple(_PIECE.validate_python(one) for one in data["samples"]),
            tuple(map(str, data["wires"])),
            {str(a): str(b) for a, b in data["names"].items()},
            {str(a): str(b) for a, b in data["older"].items()},
        )
    except (ValidationError, ValueError, KeyError, TypeError, IndexError, AttributeError, RecursionError) as why:
        raise FrozenError.of("make.frozen-order-unreadable", kind=type(why).__name__) from why
