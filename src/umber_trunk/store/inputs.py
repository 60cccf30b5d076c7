"""What builds and proofs were frozen with, read from the file by their digests; each is read once for as long as the
file is open. What reads them is loaded when there is something to read."""

from __future__ import annotations

from typing import TYPE_CHECKING

from umber_trunk.core.errors import UmberError, Wanted, always
from umber_trunk.core.keep.unit_record import Inputs, UnitRecord
from umber_trunk.core.make.events import Begin, Planned
from umber_trunk.core.plain import loaded
from umber_trunk.core.text import digest_of
from umber_trunk.store.files import StoreError

if TYPE_CHECKING:
    from umber_trunk.core.make.frozen import Frozen, Making
    from umber_trunk.core.prove.checklist import Plan
    from umber_trunk.core.results import Results
    from umber_trunk.store.floor import Floor, Kept


def frozen_of(floor: Floor, design: str, order: str) -> Frozen:
    """The inputs of a build. StoreError where they aren't in the file, or can't be read."""
    if not design or not order:
        raise StoreError.of("store.inputs-of-build-not-kept")
    from umber_trunk.core.make.frozen import thawed

    made = floor.kept.made

    def work() -> Frozen:
        return thawed(
            floor.input(design), floor.input(order), made.once(("order", order), lambda: _order(floor, order))
        )

    return made.once(("build", design, order), work)


def _order(floor: Floor, digest: str) -> Making | None:
    from umber_trunk.core.make.frozen import thawed_order

    try:
        return thawed_order(floor.input(digest))
    except UmberError:
        return None


def figures_of(kept: Kept, text: str, wanted: Wanted = always) -> Results:
    """The figures of a design a build was frozen with, from its text, by the parts it carries and no others; worked out
    once while the file is open, on any thread."""

    from umber_trunk.core.analysis import analyse
    from umber_trunk.core.catalog.shelf import Shelf
    from umber_trunk.core.harness.made import design_of

    def work() -> Results:
        held = design_of(loaded(text))
        return analyse(held, Shelf(held.parts), wanted=wanted)

    return kept.made.once(("figures", digest_of(text)), work)


def making_of(floor: Floor, record: UnitRecord) -> Making | None:
    """The order a unit is made by, None where it isn't kept."""
    return inputs_of(floor).making(record.order) if record.order else None


def inputs_of(floor: Floor) -> Inputs:
    """What a fold of the log asks of the file. Nothing is proven by a log that isn't what was written."""
    made = floor.kept.made

    def listed(digest: str) -> Plan | None:
        from umber_trunk.core.prove.listed import plan_from

        try:
            return plan_from(loaded(floor.input(digest)))
        except (UmberError, ValueError, RecursionError):
            return None

    trust = floor.trust()
    return Inputs(
        lambda digest: made.once(("order", digest), lambda: _order(floor, digest)),
        lambda digest: made.once(("tests", digest), lambda: listed(digest)),
        None if trust.wrong else trust.signed_to,
    )


def orders_of(floor: Floor) -> dict[str, Making]:
    """The order of each build whose order is kept."""
    found, inputs = {}, inputs_of(floor)
    for one in floor.events():
        if isinstance(act := one.act, Begin | Planned) and act.order and one.build not in found:
            making = inputs.making(act.order)
            if making is not None:
                found[one.build] = making
    return found
