"""What is refused is refused in a sentence that says what was typed, and only so much of it; the sentences are kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from core.prove.prove_kit import subject
from golden.test_answers import held
from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.demo import demo
from umber_trunk.core.ends.assign import assign
from umber_trunk.core.errors import MOST_QUOTED, UmberError, quoted
from umber_trunk.core.language.hear import way_line
from umber_trunk.core.make.measuring import read_figure
from umber_trunk.core.onerun.said import USUAL, run_said
from umber_trunk.core.prove.drilling import Drilling
from umber_trunk.core.prove.entering import Entering, pairs_in
from umber_trunk.core.prove.faults import parse_fault
from umber_trunk.core.prove.identify import scheme
from umber_trunk.core.prove.proof import read_reading
from umber_trunk.core.prove.spare_pair import take_spare
from umber_trunk.core.quantity import Habit
from umber_trunk.core.units import (
    parse_amps,
    parse_celsius,
    parse_drop,
    parse_duty,
    parse_length_m,
    parse_load,
    parse_ohms,
    parse_share,
    parse_surge,
    parse_volts,
)
from umber_trunk.core.wirecheck.told_readings import read_evidence

LONG = "x" * 100
WRONG: dict[str, tuple[Callable[[str], Any], tuple[str, ...]]] = {
    "fault": (
        lambda text: parse_fault(subject("loops").net, text),
        (
            "melted:W1",
            LONG,
            "open",
            "open:NO",
            f"open:{LONG}",
            "high:M1a@NOWHERE:1",
            "high:M1a:-4",
            "metal:M1a:cheese",
            f"metal:M1a:{LONG}",
            "shield:NO",
            f"shield:{LONG}",
            "swap:M1a",
            "leak:M1a:x",
            "longer:M1a:-1",
            "strands:M1a:2",
        ),
    ),
    "reading": (lambda text: read_reading(text, "Ω"), ("", "x", "-1", "1,200,3", LONG, "1e99", "3 V")),
    "figure": (lambda text: read_figure("height", text), ("", "0", "-1 mm", "x", LONG, "3 kg", "-" + "1" * 60)),
    "cores": (lambda text: scheme(int(text.split()[0]), text.split()[1]), ("6 magic", f"6 {LONG}", "4000 alone")),
    "pairs": (pairs_in, ("1-", "²-3", "1-2-3", LONG, "a-b")),
    "spare": (lambda text: take_spare(demo("loops"), text, "M8a", "Mara"), ("NO", LONG)),
    "size": (parse_size, ("", "-1 mm2", "AWG 99", LONG, "1,2,3 mm2", "mm2")),
    "amps": (parse_amps, ("", "x", "-1 A", "1 V")),
    "volts": (parse_volts, ("", "0", "-12 V", "1 A")),
    "ohms": (parse_ohms, ("x", "-1", "1 A")),
    "length": (parse_length_m, ("", "-1 m", "1,2,3 m", "5 kg", "6'13\"")),
    "celsius": (parse_celsius, ("", "-300", "9999 C")),
    "share": (parse_share, ("", "-1%", "0", "101%")),
    "load": (parse_load, ("", "x", "-1 A", "0 A", "0 ohm", "2e9 ohm", "5 m")),
    "duty": (parse_duty, ("", "1s", "60s/20s", "-1s/2s")),
    "surge": (parse_surge, ("", "5A", "5A/-1s", "x/1s")),
    "drop": (lambda text: parse_drop(text, 12.0), ("", "-1%", "20 V", "x")),
    "claim": (
        lambda text: read_evidence(dict(part.split("=") for part in text.split("; "))),
        (
            f"claim={LONG}",
            "claim=x",
            "mass=5g",
            "length=2m; mass=-5g",
            "length=2m; mass=5g ± 1g ± 2g",
            "length=2m; mass=5g ± 6g",
            "length=2m; mass=5g ± -1%",
            "length=2m; mass=5g ± 1_0%",
            f"length=2m; mass=5g ± {LONG}%",
            "strands=20",
            f"strands={LONG}",
            "strands=20x0mm",
            "od=900m",
            "length=2m; mass=5g ± 300%",
        ),
    ),
    "run": (
        lambda text: run_said(
            USUAL | {"load": "4A", "supply": "12V", "length": "2m"} | dict(part.split("=") for part in text.split("; "))
        ),
        (
            "joints=x",
            "power_factor=0",
            "power_factor=2",
            "altitude=99999m",
            "jacket_limit=-400C",
            "size=x",
            "max_drop=x",
        ),
    ),
    "spoken": (
        lambda text: way_line(text)(Habit())(demo("tractor")),
        (
            "",
            LONG,
            "segment NOPE 2 m",
            "bend on S1 400 deg",
            "twist W99 20 mm",
            "clamp on NOPE at 3 m",
            "lead R01 apart 0 mm toward 90",
            "remove wire NOPE",
            "splice NOPE on S1 at 5 mm",
        ),
    ),
    "call": (lambda text: Entering(scheme(6, "partner")).enter(text), ("²", "9", "1 2 x")),
    "tags": (lambda text: Entering(scheme(6, "tags")).enter(text), ("²=3", "7=3", "1=3 1=4", "1")),
    "drill": (lambda text: Drilling(subject("shore").results, "thread", 3).enter(text), ("", "²", "1 1", "99")),
    "cavity": (lambda text: assign(demo("tractor"), "R05", "start", text), ("NOPE", LONG, "")),
}


def test_what_was_typed_is_quoted_and_cut_where_it_is_long() -> None:
    assert quoted("  6 A ") == "“6 A”"
    assert quoted("y" * MOST_QUOTED) == "“" + "y" * MOST_QUOTED + "”"
    assert quoted("y" * (MOST_QUOTED + 1)) == "“" + "y" * (MOST_QUOTED - 1) + "…”"


def test_refusals() -> None:
    told: dict[str, dict[str, str]] = {}
    for name, (read, texts) in WRONG.items():
        for text in texts:
            with pytest.raises(UmberError) as refused:
                read(text)
            sentence = str(refused.value)
            assert sentence.endswith((".", "?")), (name, text, sentence)
            assert LONG not in sentence, (name, sentence)
            told.setdefault(name, {})[text] = sentence
    held("refusals.json", told)
