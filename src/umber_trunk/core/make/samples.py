"""Sample pieces for set-up crimps as lengths to cut: they come off the same coils, and count in what is bought."""

from __future__ import annotations

from umber_trunk.core.kit.coils import Piece
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.operations import operations
from umber_trunk.core.results import Results


def sample_pieces(results: Results, samples: int = 1) -> list[Piece]:
    """Sample pieces of a run, `samples` for each set-up, as pieces of unit 0. Cores of a jacketed cable are sampled
    from the cable."""
    like = {piece.wire: piece for piece in pieces(results, 1)}
    found = []
    for one in results.once(operations):
        if one.sample and one.op == "cut" and one.wire in like and one.length_m is not None:
            base = like[one.wire]
            found += [
                Piece(one.wire, 0, base.size, base.metal, base.colour, one.length_m, number)
                for number in range(1, samples + 1)
            ]
    return found
