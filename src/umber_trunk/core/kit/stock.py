"""The lengths there are to cut for so many units, and sizes of coils as they are said. Lengths in m."""

from __future__ import annotations

from dataclasses import replace

from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.kit.coils import Piece
from umber_trunk.core.kit.cutlist import colour_text, cuts
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.results import Results


def pieces(results: Results, units: int) -> list[Piece]:
    """All lengths to cut for so many units, unit by unit in the order of the cut list. Cores of a cable the catalogue
    knows are one piece of that cable. InputError while a wire's size is open or its length isn't known."""
    if not 1 <= units <= 10_000:
        raise InputError.of("kit.units-cant-be-planned", units=units)
    design, lengths, plant = results.design, results.once(wire_lengths), results.plant
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
            raise InputError.of("kit.size-of-is-open", wire=wire.id)
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
