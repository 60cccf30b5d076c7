"""The shop's coils and offcuts as values, and what of them suits which wire. Lengths in m."""

from __future__ import annotations

from dataclasses import dataclass, replace

from umber_trunk.core.catalog.conductors import area_of, parse_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.kit.cutlist import colour_text, cuts
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.results import Results

USABLE_M = 0.5
"""From this length on an offcut goes back to the shelf instead of into the bin, where the shop says nothing."""
LIKE_SHARE = 0.005
"""Two names of one size agree in area to this: 0.5 mm² and AWG 20 don't, 1 mm² and 1.0 mm² do."""


@dataclass(frozen=True)
class Coil:
    """A coil or an offcut: `size` as sold ("2.5 mm2", or the id of a cable in the catalogue), metal by its id and colour,
    blank where it doesn't matter."""

    id: str
    size: str
    length_m: float
    metal: str = ""
    colour: str = ""


@dataclass(frozen=True)
class Piece:
    """One length to cut: a wire, or all cores of a jacketed cable at once. `parallel` numbers the conductors of one wire."""

    wire: str
    unit: int
    size: str
    metal: str
    colour: str
    length_m: float
    parallel: int = 1


def suits(coil: Coil, piece: Piece) -> bool:
    """Whether a piece may be cut from a coil, its length left aside."""
    return (
        same_size(coil.size, piece.size)
        and coil.metal.lower() in ("", piece.metal.lower())
        and plain_colour(coil.colour) in ("", plain_colour(piece.colour))
    )


def same_size(one: str, other: str) -> bool:
    """Whether two texts name one size or one cable."""
    if one == other:
        return True
    a, b = area_of(one), area_of(other)
    return a > 0 and b > 0 and abs(a / b - 1) <= LIKE_SHARE


def plain_colour(colour: str) -> str:
    """A colour as it is compared: "Red / white" is "red/white"."""
    return "/".join(part.strip().lower() for part in colour.replace("-", "/").split("/") if part.strip())


def pieces(results: Results, units: int) -> list[Piece]:
    """All lengths to cut for so many units, unit by unit in the order of the cut list. Cores of a cable the catalogue knows
    are one piece of that cable. InputError while a wire's size is open or its length isn't known."""
    if not 1 <= units <= 10_000:
        raise InputError(f"{units} units can't be planned: say 1 to 10 000.")
    design, lengths, plant = results.design, results.once(wire_lengths), results.figures.solution.plant
    known = {cable.id: cable.part for cable in design.cables if cable.part}
    wires = index_of(design).wires
    rows, seen = [], set()
    for row in results.once(cuts):
        wire = row.wire
        if wire.cable in known:
            if wire.cable not in seen:
                seen.add(wire.cable)
                cut = max(lengths[w].cut_m for w in lengths if wires[w].cable == wire.cable)
                rows.append(Piece(wire.cable or "", 0, known[wire.cable] or "", "", "", cut))
            continue
        if row.size == "?":
            raise InputError(f"The size of {wire.id} is open: no case loads it. Give it one on the Sizes desk.")
        metal = plant.conductors[plant.row[wire.id]].metal.id
        one = Piece(wire.id, 0, row.size, metal, colour_text(wire), row.cut_m)
        rows += [replace(one, parallel=number) for number in range(1, row.count + 1)]
    return [replace(row, unit=unit) for unit in range(1, units + 1) for row in rows]


def read_size(text: str) -> str:
    """A size of a stock list as the program writes it; one that is no size stands for a cable of the catalogue."""
    try:
        return parse_size(text, "metric").label
    except InputError:
        return text.strip()
