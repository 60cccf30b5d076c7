"""Small leads with made-up parts, to put one limit at a time just inside or just outside."""

from __future__ import annotations

from typing import Any

from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.parts import PART, Part
from umber_trunk.core.ends.fits import fits
from umber_trunk.core.ends.judging import Fit
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results

WIRE = {"size": "2.5 mm2", "make": "general", "jacket": "xlpe"}


def part(**values: Any) -> Part:
    """A part from plain data."""
    return PART.validate_python(values)


def contact(**more: Any) -> Part:
    """A socket for the housing below, wide in every limit."""
    plain = {
        "kind": "contact", "id": "c", "name": "c", "family": "t", "gender": "socket", "size": "X", "area_mm2": {"low": 0.1, "high": 50},
        "insulation_mm": {"low": 0.5, "high": 20}, "strip_mm": 5, "rated_a": 100, "limit_c": 900, "plating": "tin",
    }  # fmt: skip
    return part(**(plain | more))


def housing(ways: int = 2, **more: Any) -> Part:
    """A plug for sockets."""
    places = [{"label": str(n + 1), "x_mm": 5.0 * n, "y_mm": 0.0, "size": "X"} for n in range(ways)]
    plain = {
        "kind": "housing", "id": "h", "name": "h", "family": "t", "form": "plug", "contacts": "socket", "width_mm": 20, "height_mm": 10, "cavities": places,
        "limit_c": 900,
    }  # fmt: skip
    return part(**(plain | more))


def lead(
    parts: list[Part],
    end: dict[str, Any] | None = None,
    wires: list[dict[str, Any]] | None = None,
    amps: float = 5.0,
    **more: Any,
) -> Design:
    """A 24 V source, a device 2 m away with the end under test, a feed into its 1 and a return from its 2."""
    at = {
        "id": "dev",
        "name": "device",
        "kind": "connector",
        "point": "B",
        "cavities": [{"id": "1"}, {"id": "2"}],
        "housings": [{"id": "A", "part": "h"}],
    } | (end or {})
    two = [
        {"id": "W1", "start": {"end": "src", "cavity": "+"}, "finish": {"end": "dev", "cavity": "1"}, "at_finish": {"part": "c"}, **WIRE},
        {"id": "W2", "start": {"end": "dev", "cavity": "2"}, "finish": {"end": "src", "cavity": "-"}, "at_start": {"part": "c"}, **WIRE},
    ]  # fmt: skip
    return Design.model_validate(
        {
            "points": [{"id": "A"}, {"id": "B"}],
            "segments": [{"id": "S1", "a": "A", "b": "B", "measure": {"length_m": 2.0}}],
            "ends": [{"id": "src", "name": "source", "point": "A", "cavities": [{"id": "+"}, {"id": "-"}]}, at],
            "supplies": [
                {
                    "id": "s",
                    "name": "s",
                    "volts": 24,
                    "source_ohm": 0.01,
                    "plus": {"end": "src", "cavity": "+"},
                    "minus": {"end": "src", "cavity": "-"},
                }
            ],
            "loads": [
                {
                    "id": "l",
                    "name": "l",
                    "plus": {"end": "dev", "cavity": "1"},
                    "minus": {"end": "dev", "cavity": "2"},
                    "value": amps,
                }
            ],
            "wires": wires or two,
            "parts": [PART.dump_python(one, mode="json") for one in parts],
            **more,
        }
    )


def judged(design: Design) -> list[Fit]:
    """All fits of a design."""
    return results_of(design).once(fits)


def results_of(design: Design) -> Results:
    """Its results."""
    return analyse(design)


def the(design: Design, rule: str, wire: str = "W1") -> Fit:
    """The one fit of a rule at a wire, or of the whole end where `wire` is empty."""
    found = [fit for fit in judged(design) if fit.rule == rule and fit.wire == wire and fit.end == "dev"]
    assert len(found) == 1, (rule, wire, [fit.rule for fit in judged(design)])
    return found[0]
