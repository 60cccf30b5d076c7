"""One call from a design to everything the desks and the shell show of it."""

from __future__ import annotations

from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sizes.propose import propose


def analyse(
    design: Design, shelf: Shelf | None = None, before: Results | None = None, wanted: Wanted = always
) -> Results:
    """Sizes what nobody sized, solves every case, checks everything, with the parts the design carries and those on the
    `shelf`; the ones that ship where none is given. `before`, results of a like design, is where the passes start: the
    same figures sooner. Stopped once the answer isn't `wanted`."""
    mine = shelf_for(design, shelf)
    proposal = propose(design, before.figures.solution if before else None, wanted, shelf=mine)
    go_on_if(wanted)
    results = Results(design, proposal.sizes, proposal.figures, mine)
    _ = results.findings
    return results
