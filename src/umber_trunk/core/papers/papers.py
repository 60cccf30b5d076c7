"""Every paper there is: what it is for, what it says. The papers page, the shell and the exports read it from here."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from umber_trunk.core.buy.shopping import shopping
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.way import Board
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.make.book import bags
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import Order
from umber_trunk.core.papers.build_book import build_book
from umber_trunk.core.papers.cut_paper import cut_paper
from umber_trunk.core.papers.leads import lead_sheets
from umber_trunk.core.papers.orders_paper import order_sheets
from umber_trunk.core.papers.pin_maps import pin_maps
from umber_trunk.core.papers.redlines import redline_sheet
from umber_trunk.core.papers.traveller import kit_sheets, traveller
from umber_trunk.core.printed import Printed
from umber_trunk.core.prove.loops import loop_sheet
from umber_trunk.core.prove.testsheet import test_sheet
from umber_trunk.core.results import Results, stamp


@dataclass(frozen=True)
class Asked:
    """What papers are for: how many units, from which coils, the order of a build where they are a build's."""

    units: int = 1
    coils: tuple[Coil, ...] = ()
    order: Order | None = None

    def order_of(self, results: Results) -> Order:
        """The build's, else one for so many units by the project's school."""
        return self.order or plan_order(results, self.units)


@dataclass(frozen=True)
class Paper:
    """One paper: its name in files, its title, what it is for, whether a build needs it, and its sheets, none where it
    has nothing to say. `own` names what draws it on pages of its own size ("module:name" of a function of results and
    Asked)."""

    kind: str
    title: str
    purpose: str
    needed: bool
    made: Callable[[Results, Asked], Sequence[Printed]] | None = None
    own: str = ""


def _orders(results: Results, asked: Asked) -> Sequence[Printed]:
    return order_sheets(results, shopping(results, asked.units, None, asked.coils), asked.units)


def _loops(results: Results, _: Asked) -> Sequence[Printed]:
    return [loop_sheet(results)] if results.design.loops else []


PAPERS = (
    Paper(
        "cut",
        "Cut sheet",
        "At the cutting bench: what to cut in order, coil by coil where coils are known.",
        True,
        lambda r, a: [cut_paper(r, a.units, a.coils)],
    ),
    Paper(
        "traveller",
        "Traveller",
        "Goes along with the work: handfuls in order, a box for each piece.",
        True,
        lambda r, a: [traveller(r, a.order_of(r))],
    ),
    Paper(
        "leads",
        "Lead sheets",
        "At the press: both ends of each lead to scale, strip and crimp figures.",
        True,
        lambda r, _: [lead_sheets(r)],
    ),
    Paper(
        "pins",
        "Pin maps",
        "At the connector: every face from the wire side, who goes where.",
        True,
        lambda r, _: [pin_maps(r)],
    ),
    Paper("board", "Board", "On the wall or the plywood: the harness at 1:1.", True, own="app.paper.board:paper_of"),
    Paper(
        "labels",
        "Labels",
        "On both ends of every wire: text and a code to scan, one label a page.",
        True,
        own="app.paper.labels:paper_of",
    ),
    Paper(
        "tests",
        "Test sheet",
        "At the meter: every test with its band and room for the reading.",
        True,
        lambda r, _: [test_sheet(r)],
    ),
    Paper(
        "redline",
        "Redline sheet",
        "For what turns out otherwise: the drawing with room to correct it.",
        True,
        lambda r, _: [redline_sheet(r)],
    ),
    Paper(
        "book",
        "Build book",
        "To keep with the harness: everything to make and prove a unit.",
        False,
        lambda r, a: [build_book(r, a.order_of(r))],
    ),
    Paper(
        "kit",
        "Kit, a page a lead",
        "For who builds leads elsewhere: what is in the bag, what to do.",
        False,
        lambda r, _: kit_sheets(r, bags(r)),
    ),
    Paper("orders", "Order sheets", "To send off: a sheet for each supplier.", False, _orders),
    Paper("loops", "Loop sheets", "At the cabinet: each loop's cores, tags, spares.", False, _loops),
)


def paper_of(kind: str) -> Paper:
    """A paper by its name. InputError for one there is none of."""
    found = next((one for one in PAPERS if one.kind == kind), None)
    if found is None:
        raise InputError.of("papers.no-paper-there", kind=kind, known=", ".join(one.kind for one in PAPERS))
    return found


def in_units(
    results: Results, units: str, paper: str = "", landscape: bool | None = None, board: Board | None = None
) -> Results:
    """The same results with figures told in other units of measure, on another paper; figures themselves are the
    same."""
    project = results.design.project
    changed = project.model_copy(
        update={
            "units": units or project.units,
            "paper": paper or project.paper,
            "landscape": project.landscape if landscape is None else landscape,
            "board": board or project.board,
        }
    )
    if changed == project:
        return results
    results.once(stamp)  # of the design as it is, not as it is told here
    return results.told_of(results.design.model_copy(update={"project": changed}))
