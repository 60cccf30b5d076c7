"""Commands that need Qt: the window, the demo, the pictures, and the benchmarks beside them."""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path

from umber_trunk.core.errors import UmberError
from umber_trunk.store.files import reason

SHOP = "shop"
COMMANDS = {
    "open": "the window, on FILE if given",
    "demo": "the window, on a fresh copy of a demo harness; --list names them",
    "shots": "every main view of the demo as PNG into DIR",
    "bench": "benchmarks, as ratios",
}


def add_open(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", nargs="?", type=Path)
    parser.set_defaults(run=_open)


def add_demo(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("name", nargs="?", default="barge", metavar="NAME", help="which one: see --list")
    parser.add_argument("--save", type=Path, metavar="FILE", help="write it to a file, without a window")
    parser.add_argument("--list", action="store_true", help="the names there are")
    parser.set_defaults(run=_demo)


def add_shots(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("directory", type=Path, metavar="DIR")
    parser.set_defaults(run=_shots)


def add_bench(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("--wires", type=int, nargs="*", default=[])
    parser.add_argument(
        "--thread", action="store_true", help="how long each act holds the window’s thread, at 300 and 3 000 wires"
    )
    parser.add_argument(
        "--memory", action="store_true", help="what is kept of closed windows, edits and logs: 200, 2 000 and 1 000"
    )
    parser.add_argument("--where", action="store_true", help="with --thread: what the thread was busy with")
    parser.set_defaults(run=_bench)


def _screen_needed() -> None:
    if sys.platform.startswith("linux") and not any(
        os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    ):
        raise UmberError.of("shell.no-screen")


def _open(args: argparse.Namespace) -> int:
    _screen_needed()
    from umber_trunk.app.session import run

    return run(args.file)


def _demo(args: argparse.Namespace) -> int:
    from umber_trunk.core.demo import DEMOS, demo

    if args.list:
        for name, (_, told) in DEMOS.items():
            print(f"{name:10}{told}")
        print(f"{SHOP:10}the co-op’s workshop: twelve jobs over all five, three people, nine tools, sixty coils")
        return 0
    if args.name == SHOP:
        return _demo_shop(args.save)
    design = demo(args.name)
    if args.save is not None:
        from umber_trunk.store.demo_file import put_demo
        from umber_trunk.store.files import write_whole
        from umber_trunk.store.jsonfile import to_json

        if args.save.suffix.lower() == ".json":
            write_whole(args.save, to_json(design).encode())
        else:
            put_demo(args.save, args.name).close()
        print(f"{args.save} made.")
        return 0
    _screen_needed()
    from umber_trunk.app.session import run
    from umber_trunk.app.sheets.welcome import demo_copy

    return run(demo_copy(args.name))


def _demo_shop(folder: Path | None) -> int:
    """The workshop in a folder, or its window on a fresh copy."""
    from umber_trunk.store.demo_shop import put_shop

    if folder is not None:
        put_shop(folder)
        print(f"{folder} made.")
        return 0
    _screen_needed()
    import tempfile

    from umber_trunk.app.session import run

    return run(put_shop(Path(tempfile.mkdtemp(prefix="umber-shop-")) / "workshop"))


def _shots(args: argparse.Namespace) -> int:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from umber_trunk.app.shots import take_shots

    try:
        args.directory.mkdir(parents=True, exist_ok=True)
    except OSError as why:
        raise UmberError.of("any.cant-be-made", folder=args.directory, why=reason(why)) from why
    for path in take_shots(args.directory):
        print(path)
    return 0


def _bench(args: argparse.Namespace) -> int:
    if args.memory:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from umber_trunk.benches import memory

        return memory.run(200, 2000, 1000)
    if args.thread or args.where:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from umber_trunk.benches import heartbeat

        return heartbeat.run(args.wires or list(heartbeat.LIMITS), args.where)
    from umber_trunk.benches.ratios import run

    return run(args.wires or [50, 150, 300, 500, 3000])
