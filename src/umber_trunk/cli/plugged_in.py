"""umber prove --powered: a load that doesn’t work, found by volts with the source on; typed in, or a simulated
harness’s."""

from __future__ import annotations

import argparse
import random
import sys
from typing import TYPE_CHECKING

from umber_trunk.cli.reading import analysed
from umber_trunk.cli.terminal import FAULTS, out, said_out
from umber_trunk.core.errors import InputError, UmberError, quoted

if TYPE_CHECKING:
    from umber_trunk.core.prove.powered import Powered


def find_plugged_in(args: argparse.Namespace) -> int:
    """Asks for volts until the fault is named; its exit status."""
    from umber_trunk.core.prove.powered import Powered, cautions

    if args.json and not args.sim:
        raise InputError.of("shell.search-json-goes-with-sim")
    if args.unit is not None or args.meter:
        raise InputError.of("shell.search-plugged-in-is-typed")
    search = Powered(analysed(args.file), args.powered)
    truth = _put_in(search, args.fault)
    if not args.json:
        print(*cautions(), sep="\n")
    if args.sim:
        _simulate(search, truth, random.Random(args.seed), quiet=args.json)
    else:
        _talk(search)
    if args.json:
        _as_json(search, args.powered)
    else:
        _in_words(search)
    return FAULTS


def _put_in(search: Powered, faults: list[str]) -> int | None:
    """The last of the faults said, as a row of what is suspected; None for a sound harness."""
    truth = None
    for word in faults:
        kind, _, where = word.partition(":")
        truth = next((n for n, one in enumerate(search.suspects) if (one.kind, one.where) == (kind, where)), None)
        if truth is None:
            known = dict.fromkeys(f"{one.kind}:{one.where}" for one in search.suspects)
            raise InputError.of(
                "shell.doesnt-starve-there", word=quoted(word), load=search.load.name, known=", ".join(known)
            )
    return truth


METER_SD_V = 0.03
"""How much readings of the simulated harness scatter."""


def _simulate(search: Powered, truth: int | None, draw: random.Random, quiet: bool) -> None:
    at = search.sound if truth is None else search.at(truth)
    while (ask := search.next()) is not None:
        volts = round(float(at[search.pins[ask.a]] - at[search.pins[ask.b]]) + draw.gauss(0, METER_SD_V), 2) + 0.0
        search.read(ask.a, ask.b, volts)
        if not quiet:
            print(f"{_asked(search, ask.a, ask.b, ask.expect)}; read {volts:.2f} V")


def _talk(search: Powered) -> None:
    """Volts line by line, until “q” or the end of what is typed."""
    from umber_trunk.core.measures import VOLTAGE
    from umber_trunk.core.quantity import read

    lines = iter(sys.stdin)
    while (ask := search.next()) is not None:
        said = _asked(search, ask.a, ask.b, ask.expect)
        print(f"{said}. Volts (or: 11.2 twin 11.6, with what a sound one of the same make has there):", flush=True)
        words = next(lines, "q").strip()
        if words.lower() in ("q", "quit"):
            break
        try:
            mine, _, twin = words.partition("twin")
            like = read(twin, VOLTAGE, "V").value if twin.strip() else None
            search.read(ask.a, ask.b, read(mine, VOLTAGE, "V").value, like)
        except UmberError as why:
            print(f"✕ {why}", flush=True)


def _asked(search: Powered, a: tuple[str, str], b: tuple[str, str], expect: float) -> str:
    return f"+ at {_place(search, a)}, − at {_place(search, b)}: sound {expect:.2f} V"


def _as_json(search: Powered, load: str) -> None:
    named, (_, unknown) = search.named(), search.weights()
    out(
        {
            "load": load,
            "read": [
                {"from": ":".join(a), "to": ":".join(b), "volts": volts, "expect": round(search.expected(a, b), 3)}
                for a, b, volts in search.readings
            ],
            "faults": [
                {
                    "what": one.kind,
                    "where": one.where,
                    "probability": round(one.probability, 4),
                    "words": str(one.words),
                    "said": said_out(one.words),
                    "mend": str(one.mend),
                    "mended": said_out(one.mend),
                }
                for one in named
                if one.probability > 0.003
            ],
            "unknown": {"probability": round(unknown, 4), "nets": []},
        }
    )


def _in_words(search: Powered) -> None:
    named, (_, unknown) = search.named(), search.weights()
    for one in named[:4]:
        if one.probability > 0.02:
            print(f"✕ {one.words}: {100 * one.probability:.0f} %. {one.mend:begins}.")
    if unknown > 0.05:
        print(f"✕ none of these: {100 * unknown:.0f} %: unplug it and prove it cold (umber prove).")


def _place(search: Powered, place: tuple[str, str]) -> str:
    from umber_trunk.core.harness.index import index_of

    end = index_of(search.results.design).ends[place[0]]
    label = next((cavity.label for cavity in end.cavities if cavity.id == place[1]), "") or place[1]
    return f"{end.name} {label}"
