"""Commands of devices: known once, compared pin by pin, checked before they are plugged in."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.quotes import day_of
from umber_trunk.cli.reading import analysed, opened
from umber_trunk.cli.shop import add_where, read_list, where_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out
from umber_trunk.core.errors import InputError, quoted

if TYPE_CHECKING:
    from umber_trunk.core.shop.things import Shop
    from umber_trunk.store.shop_file import ShopFile

COMMANDS = {
    "devices": "what harnesses are plugged into: known once, compared pin by pin, checked before it is plugged in",
}


def add_devices(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "act",
        choices=("list", "show", "check", "import", "compare", "take", "learn"),
        help="list; show DEVICE; check FILE END DEVICE: before it is plugged in; import LIST; compare DEVICE DEVICE; "
        "take FILE END DEVICE: known from a harness from now on; learn MAP DEVICE: of umber learn --json",
    )
    parser.add_argument("words", nargs="*", metavar="WORD", help="what it is about, as above")
    add_where(parser)
    parser.add_argument(
        "--connector", default="", metavar="NAME", help="with check: that connector of the device alone"
    )
    parser.add_argument("--keep", action="store_true", help="with check: copy the device into the harness, at that end")
    parser.add_argument("--who", default="", metavar="WHO", help="who measured it, or takes it in")
    parser.add_argument("--now", default="", metavar="DATE", help="the day it was measured; today")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_devices)


def _devices(args: argparse.Namespace) -> int:
    from umber_trunk.store.shop_file import shop_file

    needs = {"list": 0, "show": 1, "check": 3, "import": 1, "compare": 2, "take": 3, "learn": 2}[args.act]
    if len(args.words) != needs:
        raise InputError.of("shell.device-act-takes-words", act=args.act, needs=needs)
    with shop_file(where_of(args)) as file:
        act = {"list": _devices_list, "show": _devices_list, "check": _device_check, "compare": _devices_compared}
        if args.act in act:
            return act[args.act](args, file.shop())
        if args.act == "import":
            return read_list(file, "devices", args.words[0], False, args.who)
        return _device_in(args, file)


def _device(shop: Shop, name: str) -> Any:
    found = shop.named("devices", name)
    if found is None:
        there = ", ".join(one.id for one in shop.devices) or "none so far"
        raise InputError.of("shell.no-device", name=quoted(name), there=there)
    return found


def _devices_list(args: argparse.Namespace, shop: Shop) -> int:
    chosen = [_device(shop, args.words[0])] if args.words else list(shop.devices)
    if args.json:
        out({"devices": [{**one.model_dump(mode="json"), "unmeasured": list(one.unmeasured)} for one in chosen]})
        return SOUND
    for one in chosen:
        pins = sum(len(connector.pins) for connector in one.connectors)
        by = f"by {one.who}" if one.who else "by nobody named"
        open_ = f", {len(one.unmeasured)} not measured" if one.unmeasured else ""
        print(f"{one.id:20} {one.name}: {pins} pins{open_}; {by} {one.when} {one.source}".rstrip())
        if args.words:
            for connector in one.connectors:
                for pin in connector.pins:
                    volts = "" if pin.volts is None else f"{pin.volts:g} V"
                    most = "" if pin.most_a is None else f"{pin.most_a:g} A"
                    how = pin.measured or "not measured"
                    print(f"  {connector.id}:{pin.label:6} {pin.pole:7} {volts:8} {most:8} {pin.function} ({how})")
    return SOUND


def _devices_compared(args: argparse.Namespace, shop: Shop) -> int:
    from umber_trunk.core.shop.devices import compared

    one, other = _device(shop, args.words[0]), _device(shop, args.words[1])
    found = compared(one, other)
    if args.json:
        rows = [
            {
                "connector": r.connector,
                "pin": r.label,
                "first": r.mine,
                "second": r.theirs,
                "what": str(r.what),
                "said": said_out(r.what),
                "open": r.open,
            }
            for r in found.rows
        ]
        out(
            {
                "first": one.id,
                "second": other.id,
                "alike": found.alike,
                "pins": found.pins,
                "told": str(found.words),
                "said": said_out(found.words),
                "rows": rows,
            }
        )
    else:
        for row in found.rows:
            mark = "?" if row.open else "✕"
            print(f"{mark} {row.connector}:{row.label:6} {row.mine} | {row.theirs}: {row.what}")
        print(f"{found.words:begins}.")
    return SOUND if found.alike else FAULTS


def _device_check(args: argparse.Namespace, shop: Shop) -> int:
    from umber_trunk.core.shop.devices import copied_in, plugged

    path, end, name = Path(args.words[0]), args.words[1], args.words[2]
    device, results = _device(shop, name), analysed(path)
    found = plugged(results, end, device, args.connector)
    if args.keep:
        with opened(path) as project:
            project.commit(copied_in(project.design, end, device), f"{device.name} is plugged in at {end}")
    if args.json:
        out(
            {
                "end": end,
                "device": device.id,
                "fits": found.fits,
                "told": str(found.words),
                "said": said_out(found.words),
                "differences": [
                    {"label": r.label, "mine": r.mine, "theirs": r.theirs, "what": r.what, "said": said_out(r.what)}
                    for r in found.agreement.wrong
                ],
                "over": [{"pin": pin, "amps": round(a, 3), "most_a": most} for pin, a, most in found.over],
                "unmeasured": list(found.unmeasured),
            }
        )
    else:
        for row in found.agreement.wrong:
            print(f"✕ {row.label}: {row.what} (the harness: {row.mine or '–'}; the device: {row.theirs or '–'})")
        for pin, amps, most in found.over:
            print(f"✕ {pin}: {amps:.2f} A, it bears {most:g} A")
        print(f"{found.words:begins}.")
    return SOUND if found.fits else FAULTS


def _device_in(args: argparse.Namespace, file: ShopFile) -> int:
    """A device from an end of a harness, or from what umber learn found."""
    from umber_trunk.core.shop.devices import device_of_end, device_of_map
    from umber_trunk.store.files import read_text

    day = day_of(args.now).isoformat()
    if args.act == "take":
        path, end, name = args.words
        made = device_of_end(analysed(Path(path)), end, name, args.who, day)
    else:
        path, name = args.words
        try:
            learnt = json.loads(read_text(Path(path)))
        except ValueError as why:
            raise InputError.of("shell.no-answer-of-umber-learn-json", path=path, why=why) from why
        made = device_of_map(learnt, name, args.who, day)
    file.add("devices", made, args.who, "taken in")
    open_ = f"; {len(made.unmeasured)} of its pins nobody measured" if made.unmeasured else ""
    print(f"{made.name} is known as {made.id}{open_}.")
    return SOUND
