"""One call from a design to everything the desks and the shell show of it."""

from __future__ import annotations

from typing import Literal

from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sizes.propose import propose

Upto = Literal["sizes", "figures", "findings"]


def analyse(
    design: Design,
    shelf: Shelf | None = None,
    before: Results | None = None,
    wanted: Wanted = always,
    upto: Upto = "findings",
) -> Results:
    """Sizes what nobody sized, solves every case, checks everything, with the parts the design carries and those on the
    `shelf`; the ones that ship where none is given. `before`, results of a like design, is where the passes start: the
    same figures sooner. Stopped once the answer isn't `wanted`. Nothing is worked out beyond what is asked for, `upto`:
    what comes after it is when it is first wanted."""
    mine = shelf_for(design, shelf)
    if upto == "sizes" and all(wire.size is not None for wire in design.wires):
        return Results(design, {}, None, mine)
    proposal = propose(design, before.figures.solution if before else None, wanted, shelf=mine)
    go_on_if(wanted)
    results = Results(design, proposal.sizes, proposal.figures, mine)
    if upto == "findings":
        _ = results.findings
    return results
