"""How many faults of each kind the shop itself found: with the program's first guess it says how often each is met, and
so who is suspected first.

A small file of this user's, private, that can be read, edited and deleted; a proof that has begun keeps the figures it
began with.
"""

from __future__ import annotations

from pathlib import Path

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.prove.priors import SHARES, Priors, shares_of
from umber_trunk.store.files import StoreError
from umber_trunk.store.state import read_state, write_state
from umber_trunk.store.station import folder

MOST = 1_000_000


def found_faults() -> dict[str, int]:
    """Kind → how many were found; nothing where the file is broken."""
    held, _ = read_state(_path())
    return {kind: many for kind, many in held.items() if kind in SHARES and isinstance(many, int) and 0 < many <= MOST}


def set_found(kind: str, many: int) -> None:
    """Says how many faults of a kind the shop found in all. InputError for a kind there is none of or a count that
    can't be, StoreError where it can't be kept."""
    if kind not in SHARES:
        raise InputError.of("store.no-kind-of-fault", kind=quoted(kind), known=", ".join(SHARES))
    if not 0 <= many <= MOST:
        raise InputError.of("store.faults-found-is-no-count", many=many, most=MOST)
    if not write_state(_path(), found_faults() | {kind: many}):
        raise StoreError.of("store.what-shop-found-cant-be-kept")


def count_found(kind: str) -> None:
    """One fault more of a kind; a nut is a joint, and what isn't counted, such as the meter's own leads, changes
    nothing."""
    kind = "high" if kind == "stud" else kind
    if kind in SHARES:
        set_found(kind, found_faults().get(kind, 0) + 1)


def priors_here(net: Netlist) -> Priors:
    """Where faults can be in a harness, and how often each is met in this shop."""
    return Priors(net, shares_of(found_faults()))


def _path() -> Path:
    return folder() / "found-faults.json"
