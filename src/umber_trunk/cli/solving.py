"""The command solve: volts, amperes and temperatures of a harness, over all cases and for each."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from umber_trunk.cli.reading import add_reading, analysed
from umber_trunk.cli.terminal import out, rounded, stoppable, worded
from umber_trunk.core.sizes.twins import BAD_LUG_OHM, twins
from umber_trunk.core.solve.margins import figures_of_case
from umber_trunk.core.solve.solution import joints_c
from umber_trunk.core.solve.used import LoadFigures, WireFigures

if TYPE_CHECKING:
    from umber_trunk.core.results import Results
    from umber_trunk.core.sizes.sure import Sure

COMMANDS = {
    "solve": "voltages, currents and temperatures",
}


def add_solve(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_reading(parser)
    parser.add_argument(
        "--sure", action="store_true", help="how sure each verdict is, by the ± of lengths, loads and joints"
    )
    parser.set_defaults(run=_solve)


def _load_json(entry: LoadFigures) -> dict[str, Any]:
    return {
        "id": entry.load.id,
        "volts": rounded(entry.volts),
        "drop_percent": rounded(entry.drop_percent),
        "ok": entry.ok,
        "margin": rounded(1 - entry.used),
        "surge_volts": None if entry.surge_v is None else rounded(entry.surge_v),
        "sag_volts": rounded(entry.sag_v),
        "wiring_drop_v": rounded(entry.wiring_v),
        **worded(limit=entry.rule),
        "collapsed": entry.collapsed,
    }


def _wire_json(figure: WireFigures) -> dict[str, Any]:
    return {
        "id": figure.wire.id,
        "amps": rounded(figure.amps),
        "size": figure.shown_size,
        "conductor_c": rounded(figure.conductor_c),
        "mean_c": rounded(figure.mean_c),
        "length_m": rounded(figure.length_m),
        "drop_v": rounded(figure.drop_v),
        "governs": str(figure.worst.limit),
        "margins": {str(use.limit): rounded(use.margin) for use in figure.uses},
        "ok": figure.ok,
    }


def solve_json(analysis: Results) -> dict[str, Any]:
    """Worst over all cases at the top, with the case that is worst for each limit; then each case on its own."""
    found = analysis.figures
    joints = {number: joints_c(found.solution.plant, case) for number, case in found.cases.items()}
    wires = [
        {
            **_wire_json(figure),
            "joints_c": [rounded(one) for one in joints[figure.case][figure.row].tolist()],
            "case": figure.case,
            "worst_cases": {str(use.limit): use.case for use in figure.uses if use.case},
        }
        for figure in found.wires.values()
    ]
    loads = [{**_load_json(entry), "case": entry.case} for entry in found.loads.values()]
    cases = []
    for number, case in enumerate(found.solution.cases):
        alone = figures_of_case(found, number)
        cases.append(
            {
                "id": case.case.id,
                "name": case.case.name,
                "settled": case.settled,
                "loads": [_load_json(entry) for entry in alone.loads.values()],
                "wires": [_wire_json(figure) for figure in alone.wires.values()],
            }
        )
    pairs = [
        {
            "wires": list(one.wires),
            "conductors": one.conductors,
            "worst": one.worst,
            "amps": rounded(one.amps),
            "conductor_c": rounded(one.conductor_c),
            "limit_c": rounded(one.limit_c),
            "one_opens": {"amps": rounded(one.open_amps), "conductor_c": rounded(one.open_c), "ok": one.ok},
            "bad_lug": {
                "ohm": BAD_LUG_OHM,
                "amps": rounded(one.bad_amps),
                "conductor_c": rounded(one.bad_c),
                "ok": one.bad_c <= one.limit_c,
            },
        }
        for one in analysis.once(twins)
    ]
    return {"loads": loads, "wires": wires, "cases": cases, "twins": pairs}


def _solve(args: argparse.Namespace) -> int:
    analysis = analysed(args.file, args.revision)
    doubts: Sequence[Sure] = ()
    if args.sure:
        from umber_trunk.core.sizes.sure import LOAD_SHARE, how_sure, of_hundred

        doubts = stoppable(lambda wanted: how_sure(analysis, wanted))
    if args.json:
        answer = solve_json(analysis)
        if args.sure:
            answer["sure"] = [
                {
                    "kind": one.kind,
                    "id": one.id,
                    "used": rounded(one.used),
                    "sd": rounded(one.sd),
                    "chance_ok": rounded(one.chance),
                    "because": one.because,
                }
                for one in doubts
            ]
        out(answer)
        return 0
    for load in analysis.figures.loads.values():
        volts = (
            "has no solution"
            if load.collapsed
            else "unfed"
            if not np.isfinite(load.volts)
            else f"{load.volts:.2f} V {load.drop_percent:.1f} % down"
        )
        print(f"{'ok  ' if load.ok else 'SHORT'} {load.load.id:24} {volts} ({load.case})")
    for wire in sorted(analysis.figures.wires.values(), key=lambda w: w.rank):
        print(
            f"{'ok  ' if wire.ok else 'LOOK'} {wire.wire.id:10} {wire.shown_size:10} {wire.amps:8.2f} A "
            f"{wire.conductor_c:6.0f} °C {wire.length_m:7.2f} m  {wire.worst.limit} {wire.worst.margin:+.0%}"
        )
    for one in analysis.once(twins):
        print(f"{'ok  ' if one.ok else 'NOTE'} {', '.join(one.wires)}: {one.told}")
    for doubt in doubts:
        if 0.005 < doubt.chance < 0.995:
            print(f"     {doubt.kind} {doubt.id}: {of_hundred(doubt.chance)}; most of the doubt is {doubt.because}")
    if doubts:
        print(
            f"     All others in more than 99 of 100 as said, by the ± of lengths, {200 * LOAD_SHARE:.0f} % of each "
            "load and the joints nobody measured."
        )
    return 0
