"""Commands that need no file: size one run, pack a bundle."""

from __future__ import annotations

import argparse
import re
from typing import Any

from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out, worded
from umber_trunk.core.catalog.conductors import jackets, makes, metals, show_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.onerun.asked_run import Judged, Run, RunAnswer
from umber_trunk.core.onerun.run import size_run
from umber_trunk.core.onerun.said import run_said
from umber_trunk.core.physics.fuses import CONVENTIONAL_MULTIPLE
from umber_trunk.core.physics.packing import pack
from umber_trunk.core.sentences import Message, say
from umber_trunk.core.units import (
    parse_number,
    show_volts,
)
from umber_trunk.core.usual import MET, USUAL_DROP_PERCENT
from umber_trunk.core.why import Derivation, Said

COMMANDS = {
    "size": "size one run: the sum done at the bench",
    "pack": "pack wires into the smallest circle",
    "figures": "published tables beside what is reckoned here, with how far they differ",
}


def add_size(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("--load", required=True, help="18A, 430W or 2.4ohm")
    parser.add_argument("--supply", required=True, help="24V")
    parser.add_argument("--run", dest="length", required=True, help="one way along the route: 7.5m, 12ft 3in")
    parser.add_argument("--return", dest="way_back", default="wire", choices=("wire", "ground"))
    parser.add_argument("--max-drop", default=f"{USUAL_DROP_PERCENT:g}%", help="3%% (the usual one) or 0.6V")
    parser.add_argument("--ambient", default="30C")
    parser.add_argument("--jacket-limit", help="temperature the jacket stands; otherwise its class")
    parser.add_argument("--metal", default="copper", choices=sorted(metals()))
    parser.add_argument("--make", default="general", choices=sorted(makes()))
    parser.add_argument("--jacket", default="pvc", choices=sorted(jackets()))
    parser.add_argument("--series", default=None, choices=("awg", "metric"))
    parser.add_argument("--size", help="judge this one: AWG 8, 10 mm2")
    parser.add_argument("--parallel", type=int, default=1)
    parser.add_argument("--joints", help="2x0.3mohm")
    parser.add_argument(
        "--bundle", type=int, default=1, help="equal loaded conductors lying together, the run's own counted"
    )
    parser.add_argument("--apart", action="store_true", help="the run's own conductors lie apart, each in free air")
    parser.add_argument("--air", default="0", help="air speed across the wire in m/s")
    parser.add_argument("--duty", help="20s/60s")
    parser.add_argument("--surge", help="60A/2s")
    parser.add_argument("--fuse", help="auto or 15A")
    parser.add_argument(
        "--fuse-rule", default="curve", choices=("curve", "iec", "share150"), help="when a fuse protects a wire"
    )
    parser.add_argument("--efficiency", help="of a motor given in horsepower: 65%%; otherwise 70 %% is assumed")
    parser.add_argument("--power-factor", help="of an AC load: 0.9")
    parser.add_argument("--enclosed", action="store_true", help="in conduit or a closed duct")
    parser.add_argument("--coiled", type=int, default=0, choices=range(5), help="left on a reel, so many layers deep")
    parser.add_argument("--sun", action="store_true", help="in full sun, 1000 W/m²")
    parser.add_argument("--altitude", help="above the sea: 2000m")
    parser.add_argument("--decimal", choices=("comma", "point"), help="which mark stands before decimals")
    parser.add_argument("--why", action="store_true", help="show how the figures come about")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_size)


def add_pack(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("diameters", nargs="+", metavar="MM", help="diameter in mm; 1.8x4 is four of them")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_pack)


def _size(args: argparse.Namespace) -> int:
    answer = size_run(run_said(vars(args)))
    if args.json:
        out(_answer_json(answer, args.why))
    elif answer.chosen is None:
        print(f"No size of the series does it; {answer.governs} stands in the way. Try --parallel, or a shorter run.")
    else:
        _print_answer(answer, answer.chosen)
        if args.why:
            from umber_trunk.core.explain.about_run import why_run

            print("\n".join(reason.as_text() for reason in why_run(answer, answer.chosen)))
    return 0 if answer.chosen is not None else 1


def _print_answer(answer: RunAnswer, chosen: Judged) -> None:
    many = f"{answer.run.parallel} × " if answer.run.parallel > 1 else ""
    for note in answer.run.notes:
        print(note)
    state = "" if chosen.ok else f"   NOT ENOUGH: {', '.join(chosen.broken)}"
    print(f"{many}{show_size(chosen.size.label)}  ({answer.governs} governs){state}")
    print(f"  {answer.run.lie}")
    fed = f"at {chosen.amps:.2f} A" if chosen.amps == chosen.amps else "the load can’t be fed at all through it"
    print(f"  drop {show_volts(chosen.drop_v)}, {chosen.drop_percent:.2f} %, {fed}")
    print(
        f"  conductor {chosen.conductor_c:.0f} °C, carries up to {chosen.ampacity_a:.0f} A "
        f"{_all_the_time(chosen, answer.run)}"
    )
    if chosen.fuse_a is not None:
        print(f"  fuse {chosen.fuse_a:g} A")
    if chosen.surge_c is not None:
        print(f"  {chosen.surge_c:.0f} °C after the surge")
    print(f"  {say('why.estimate')}")


def _all_the_time(chosen: Judged, run: Run) -> str:
    return f"in this duty, {chosen.continuous_a:.0f} A continuous" if run.duty else "continuous"


def _answer_json(answer: RunAnswer, why: bool) -> dict[str, Any]:
    chosen, run = answer.chosen, answer.run
    best = chosen or answer.candidates[-1]
    result: dict[str, Any] = {
        "size": chosen.size.label if chosen else None,
        "area_mm2": round(best.size.area_mm2, 4) if chosen else None,
        "parallel": run.parallel,
        "together": run.together,
        **worded(lie=run.lie),
        "governs": answer.governs,
        "ok": bool(chosen and chosen.ok),
        "amps": round(best.amps, 4),
        "drop_v": round(best.drop_v, 6),
        "drop_percent": round(best.drop_percent, 5),
        "resistance_ohm": round(best.resistance_ohm, 9),
        "conductor_c": round(best.conductor_c, 3),
        "ampacity_a": round(best.ampacity_a, 3),
        "continuous_a": round(best.continuous_a, 3),
        "fuse_a": best.fuse_a,
        "surge_c": None if best.surge_c is None else round(best.surge_c, 3),
        "fuse": _fuse_json(best),
        "broken": list(best.broken),
        "read": list(run.notes),
        "candidates": [_candidate_json(one) for one in answer.candidates],
    }
    if why and chosen:
        from umber_trunk.core.explain.about_run import why_run  # only here: it brings the whole harness along

        reasons = why_run(answer, chosen)
        result["why"] = [reason.as_text() for reason in reasons]
        result["why_said"] = [_reason_json(reason) for reason in reasons]
    return result


def _reason_json(one: Derivation) -> dict[str, Any]:
    """Why a figure is what it is, what is said of it as values; what is a figure or a standard as its words."""

    def told(said: Said) -> Any:
        return said_out(said) if isinstance(said, Message) else said

    return {
        "title": told(one.title),
        "verdict": told(one.verdict),
        "formula": told(one.formula),
        "inputs": [
            {"symbol": row.symbol, "value": told(row.value), "meaning": told(row.meaning)} for row in one.inputs
        ],
        "steps": [told(step) for step in one.steps],
        "result": told(one.result),
        "limit": told(one.limit),
        "source": told(one.source),
    }


def _fuse_json(one: Judged) -> dict[str, Any] | None:
    """How the fuse was judged; "for_ever_a" is I_z, "seconds" null where the overload may last for ever."""
    judged = one.protection
    if judged is None:
        return None
    return {
        "rating_a": judged.rating_a,
        "used": round(judged.used, 5),
        "ok": judged.used <= MET,
        "overload_a": round(judged.worst_a, 3),
        "seconds": None if judged.seconds > 1e8 else round(judged.seconds, 3),
        "allowed_c": round(judged.allowed_c, 2),
        "withstand_a": round(judged.withstand_a, 3),
        "for_ever_a": round(judged.ampacity_a, 3),
        "i2_over_iz": round(CONVENTIONAL_MULTIPLE * judged.rating_a / max(judged.ampacity_a, 1e-9), 4),
    }


def _candidate_json(one: Judged) -> dict[str, Any]:
    return {
        "size": one.size.label,
        "area_mm2": round(one.size.area_mm2, 4),
        "drop_percent": round(one.drop_percent, 5),
        "conductor_c": round(one.conductor_c, 3),
        "ampacity_a": round(one.ampacity_a, 3),
        "ok": one.ok,
    }


def _diameters(words: list[str]) -> list[float]:
    found: list[float] = []
    for word in words:
        match = re.fullmatch(r"([^x×*]+)(?:[x×*](\d+))?", word)
        if not match:
            raise InputError.of("shell.not-a-diameter", word=word)
        diameter, count = parse_number(match[1]), int(match[2] or 1)
        if not 0 < diameter <= 1000 or not 1 <= count <= 2000:
            raise InputError.of("shell.diameter-out-of-range", word=word)
        found += [diameter] * count
    if len(found) > 2000:
        raise InputError.of("shell.too-many-wires-to-pack")
    return found


def _pack(args: argparse.Namespace) -> int:
    packing = pack(_diameters(args.diameters))
    if args.json:
        circles = [
            {"x": round(float(x), 6), "y": round(float(y), 6), "d": float(d)}
            for (x, y), d in zip(packing.centres, packing.diameters, strict=True)
        ]
        out({"diameter": round(packing.diameter, 6), "circles": circles})
        return 0
    print(f"{packing.diameter:.2f} mm round {len(packing.diameters)} wires")
    return 0


def add_figures(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("table", nargs="?", default="", help="one table by its id; all otherwise")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_figures)


def _figures(args: argparse.Namespace) -> int:
    from umber_trunk.core.onerun.published import beside, published

    rows = beside(args.table)
    if not rows:
        raise InputError.of("shell.no-table", table=args.table, known=", ".join(one["id"] for one in published()))
    if args.json:
        out(
            {
                "figures": [
                    {
                        "table": row.table,
                        "source": row.source,
                        "rule": row.rule,
                        "what": row.what,
                        "published": row.published,
                        "ours": round(row.ours, 6),
                        "unit": row.unit,
                        "off_share": round(row.off, 6),
                        "side": row.side,
                        "agrees": row.agrees,
                    }
                    for row in rows
                ],
            }
        )
        return SOUND if all(row.agrees for row in rows) else FAULTS
    table = ""
    for row in rows:
        if row.table != table:
            mine = [one for one in rows if one.table == row.table]
            table = row.table
            low, high = min(one.off for one in mine), max(one.off for one in mine)
            print(
                f"{'' if row is rows[0] else chr(10)}{row.title} ({row.table}): ours {100 * low:+.1f} to "
                f"{100 * high:+.1f} %"
            )
            print(f"  {row.source}: {row.rule}")
        print(
            f"  {row.what:22} {row.published:9.4g} {row.ours:9.4g} {row.unit:3} {100 * row.off:+6.1f} % "
            f"{row.side}{'' if row.agrees else '  ✕ further off than it may be'}"
        )
    return SOUND if all(row.agrees for row in rows) else FAULTS
