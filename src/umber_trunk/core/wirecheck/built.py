"""What a harness would do built with a coil as it really is: its wires of the claimed size, solved again."""

from __future__ import annotations

import math
from dataclasses import dataclass

from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import area_of, metric
from umber_trunk.core.errors import InputError, Wanted, always
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.edits import change, put_all
from umber_trunk.core.kit.coils import LIKE_SHARE
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message
from umber_trunk.core.wirecheck.evidence import Evidence
from umber_trunk.core.wirecheck.judge import Judged

LIKELY_SHARE = 0.05
"""A metal this likely has to be reckoned with."""
TWO_SIGMA = 1.96
"""Nineteen of twenty lie within."""


@dataclass(frozen=True)
class Built:
    """Wires that would be of this coil, and the faults that come of it: what wasn't at fault before. `open_before` were
    there anyway; `metal` and `cautious_mm2` are what it was reckoned with."""

    wires: tuple[str, ...]
    faults: tuple[Message, ...]
    open_before: int
    metal: str
    cautious_mm2: float
    results: Results


def built_with(results: Results, evidence: Evidence, judged: Judged, wanted: Wanted = always) -> Built:
    """The harness with every wire of the claimed size made of the worst the coil can well be: of all metals that are
    likely enough the one that has the most ohms at the least area it can then have. InputError without a claim, or
    where no wire is of that size."""
    claim = evidence.claim
    if claim is None:
        raise InputError.of("wirecheck.say-what-coil-is-sold")
    if not judged.consistent:
        raise InputError.of("wirecheck.readings-contradict-each-other")
    sizes = {row.wire.id: row.shown_size for row in results.figures.wires.values()}
    mine = [
        wire for wire in results.design.wires if abs(area_of(sizes.get(wire.id, "")) / claim.area_mm2 - 1) <= LIKE_SHARE
    ]
    if not mine:
        raise InputError.of("wirecheck.no-wire-of-this-harness", claim=claim.label)
    metal, least = _worst(judged)
    area = min(max(least, 0.05), 1000.0)
    label = metric(float(f"{area:.3g}")).label
    fixed = [
        change(wire, size=sizes[wire.id], locked=True)
        for wire in results.design.wires
        if sizes.get(wire.id, "?") != "?"
    ]
    as_planned = put_all(results.design, "wires", fixed)
    made = put_all(as_planned, "wires", [change(wire, size=label, locked=True, metal=metal) for wire in mine])
    after = analyse(made, results.shelf, results, wanted)
    known = {(one.code, one.subject) for one in results.findings if one.severity is Severity.FAULT}
    fresh = [one for one in after.findings if one.severity is Severity.FAULT and (one.code, one.subject) not in known]
    return Built(tuple(wire.id for wire in mine), tuple(one.says for one in fresh), len(known), metal, area, after)


def _worst(judged: Judged) -> tuple[str, float]:
    """(metal, area) with the most ohms a metre among what the coil can well be."""
    found = [
        (fit.guess.metal.rho20_ohm_m / area, fit.guess.metal.id, area)
        for fit in judged.fits
        if judged.metals[fit.guess.metal.id] >= LIKELY_SHARE
        and fit.probability > 0.1 * judged.metals[fit.guess.metal.id]
        for area in (fit.area_mm2 * math.exp(-TWO_SIGMA * min(fit.sd_share, 5.0)),)
    ]
    _, metal, area = max(found)
    return metal, area
