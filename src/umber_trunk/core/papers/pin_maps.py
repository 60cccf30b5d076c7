"""Pin maps: every face from the wire side at true scale, with a row for each wire in it."""

from __future__ import annotations

from umber_trunk.core.board.cards import card_blocks, face_block
from umber_trunk.core.ends.faces import faces_in
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.papers.open_faults import standing
from umber_trunk.core.printed import Drawn, Figure, Printed
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say


def pin_figure(results: Results) -> Figure:
    """A card for each end that has wires, the same that lies on the board."""
    cards = [Drawn(block.wide_mm, block.tall_mm, block.shapes) for _, block in results.once(card_blocks).values()]
    return Figure("Pin maps, seen from the wire side", tuple(cards), name="Pin maps")


def mating_figure(results: Results) -> Figure:
    """The same faces from in front, as the other half sees them."""
    drawn = []
    for end in dict.fromkeys(end.id for end, _, _ in places_of(results.design, results.shelf).housings()):
        for face in faces_in(results, end, "mating"):
            block = face_block(face)
            drawn.append(Drawn(block.wide_mm, block.tall_mm, block.shapes, caption=f"{end}: {face.words}"))
    return Figure("Seen from the mating side", tuple(drawn), name="Mating side")


def pin_maps(results: Results) -> Printed:
    """All of them on as few pages as hold them."""
    figure = pin_figure(results)
    state = say("paper.pin-maps-state", many=len(figure.drawings))
    parts = tuple(part for part in (figure, mating_figure(results)) if part.drawings)
    return Printed(
        say("paper.pin-maps", name=results.design.project.name),
        *standing(results, state),
        parts,
        code=results.design.project.name,
    )
