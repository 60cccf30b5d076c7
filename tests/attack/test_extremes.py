"""No accepted design breaks an analysis or puts an endless figure anywhere; what isn't accepted is refused in words."""

import json
import math
import warnings

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from attack.extremes import BEYOND, TEXTS, Field, fields, put, whole, with_value
from umber_trunk.cli.solving import solve_json
from umber_trunk.core.analysis import analyse
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.cutlist import cuts, totals
from umber_trunk.store.files import StoreError
from umber_trunk.store.jsonfile import design_from, to_json
from umber_trunk.store.output import export_bytes

FIELDS = fields()
NUMBERS = [field for field in FIELDS if field.numbers]
WORDS = [field for field in FIELDS if field.text]


def accepted(field: Field, value: object) -> Design | None:
    """The design with that value, None where it is refused: with a sentence that names the place."""
    try:
        return design_from(with_value(field.way, value), "x")
    except StoreError as why:
        refused = str(why)
    assert refused.endswith(".")
    return None


def stands(design: Design) -> None:
    """Everything that is worked out of a design is there, and finite or said to be missing."""
    with warnings.catch_warnings(), np.errstate(all="ignore"):
        warnings.simplefilter("ignore")
        analysis = analyse(design)
        json.dumps(solve_json(analysis), allow_nan=False)
        for row in analysis.once(cuts):
            assert math.isfinite(row.cut_m)
            assert 0 <= row.cut_m < 1e7
        for total in totals(analysis.figures, analysis.once(cuts)):
            assert math.isfinite(total.copper_kg)
            assert math.isfinite(total.cost)
        for finding in analysis.findings:
            assert "inf" not in finding.message.lower().split()
            assert "nan" not in finding.message.lower().split()
    export_bytes(analysis, "xlsx")
    export_bytes(analysis, "csv")


def test_the_schema_is_covered() -> None:
    assert len(NUMBERS) > 45
    assert len(WORDS) > 40


@pytest.mark.parametrize("field", NUMBERS, ids=str)
@pytest.mark.share(8)
def test_figures_at_their_bounds(field: Field) -> None:
    bounded = [
        kind for kind in field.numbers if any("inimum" in key for key in kind) and any("aximum" in key for key in kind)
    ]
    assert bounded or field.way == ("format",), "a figure without bounds"
    for value in field.edges():
        design = accepted(field, value)
        if design is not None:
            stands(design)


@pytest.mark.parametrize("field", NUMBERS, ids=str)
@pytest.mark.share(8)
def test_figures_beyond_all_use_are_refused_or_borne(field: Field) -> None:
    for value in BEYOND:
        design = accepted(field, value)
        if design is not None and value not in (True, None):
            stands(design)


@pytest.mark.parametrize("field", WORDS, ids=str)
@pytest.mark.share(8)
def test_words_of_any_kind(field: Field) -> None:
    taken = [design for value in TEXTS if (design := accepted(field, value)) is not None]
    for design in taken:
        text = to_json(design)
        assert "\x1b" not in text
        assert "\\u001b" not in text
    for design in taken[:: max(1, len(taken) - 1)]:
        stands(design)


@settings(max_examples=25)
@given(st.lists(st.sampled_from([(f.way, edge) for f in NUMBERS for edge in f.edges()]), min_size=2, max_size=9))
@pytest.mark.long
def test_figures_at_their_bounds_together(changes: list[tuple[tuple[str | int, ...], float]]) -> None:
    data = whole()
    for way, value in changes:
        put(data, way, value)
    try:
        design = design_from(data, "x")
    except StoreError:
        return
    stands(design)
