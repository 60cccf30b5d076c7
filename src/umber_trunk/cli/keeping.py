"""Commands on what is kept: history, freeze, copies, restore."""

from __future__ import annotations

import argparse
from datetime import datetime
from pathlib import Path

from umber_trunk.cli.reading import opened
from umber_trunk.cli.terminal import FAULTS, SOUND, out, worded
from umber_trunk.core.sentences import say
from umber_trunk.store.copies import all_copies, copies_folder
from umber_trunk.store.history import UNDO_STEPS, depth_told
from umber_trunk.store.project import ProjectFile

COMMANDS = {
    "history": "the revisions of a harness: where it is, what led there, what undo left",
    "freeze": "keep a revision for good, as one that units are built to",
    "copies": "the copies kept by day, of every harness",
    "salvage": "all that is whole in a damaged harness file, as a new one, and what was lost",
    "restore": "a copy, or an earlier revision of a harness, as a new harness file",
}


def add_history(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_history)


def add_freeze(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("name", help="what it is built as, such as “rev A”")
    parser.add_argument("--revision", type=int, metavar="N", help="otherwise the one shown")
    parser.set_defaults(run=_freeze)


def add_copies(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_copies)


def add_salvage(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("-o", "--output", type=Path, metavar="NEW", required=True, help="the new file")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_salvage)


def add_restore(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("copy", type=Path, metavar="COPY")
    parser.add_argument("-o", "--output", type=Path, metavar="FILE", required=True, help="the new file")
    parser.add_argument("--revision", type=int, metavar="N", help="begin from this revision of it, with no history")
    parser.set_defaults(run=_restore)


def _history(args: argparse.Namespace) -> int:
    with opened(args.file, for_writing=False) as project:
        head, rows, steps = project.head, project.revisions(), project.undo_steps
        lost = project.lost
    if args.json:
        out(
            {
                **worded(lost=lost),
                "head": head,
                "undo_steps": steps,
                "undo_kept": UNDO_STEPS,
                "revisions": [
                    {
                        "revision": row.seq,
                        "label": row.label,
                        "from": row.parent,
                        "made": datetime.fromtimestamp(row.made).isoformat() if row.made else None,
                        "frozen": row.frozen,
                        "on_line": row.on_line,
                    }
                    for row in rows
                ],
            }
        )
        return SOUND
    for row in rows:
        mark = "→" if row.seq == head else " " if row.on_line else "left"
        frozen = f"  frozen as “{row.frozen}”" if row.frozen else ""
        made = f"{datetime.fromtimestamp(row.made):%Y-%m-%d %H:%M}" if row.made else ""
        print(f"{mark:5}{row.seq:6}  {made:16}  {row.label}{frozen}")
    print(depth_told(steps))
    return SOUND


def _freeze(args: argparse.Namespace) -> int:
    with opened(args.file) as project:
        seq = project.head if args.revision is None else args.revision
        project.freeze(seq, args.name)
    print(f"Revision {seq} is frozen as “{args.name}”.")
    return SOUND


def _copies(args: argparse.Namespace) -> int:
    found = all_copies()
    total = sum(copy.size for copy in found)
    if args.json:
        rows = [{"name": c.name, "day": c.day.isoformat(), "bytes": c.size, "path": str(c.path)} for c in found]
        out({"folder": str(copies_folder()), "bytes": total, "copies": rows})
        return SOUND
    for copy in found:
        print(f"{copy.day}  {copy.size / 1e6:7.2f} MB  {copy.name:30}  {copy.path}")
    print(f"{len(found)} copies, {total / 1e6:.2f} MB, in {copies_folder()}")
    return SOUND


TAKEN = {"revisions": "revisions", "log": "entries of the log", "inputs": "frozen inputs", "coil": "coils and counts", "booking": "cuts booked"}  # fmt: skip


def _salvage(args: argparse.Namespace) -> int:
    from umber_trunk.store.salvage import salvage

    found = salvage(args.file, args.output)
    if args.json:
        out({"file": str(args.output), "taken": found.taken, **worded(lost=found.lost)})
    else:
        of_harness = {words: found.taken.get(key, 0) for key, words in TAKEN.items()}
        of_shop = {key: many for key, many in found.taken.items() if key not in TAKEN}
        said = "; ".join(f"{words} {many}" for words, many in (of_shop or of_harness).items())
        print(f"{args.output} made. {said[:1].upper()}{said[1:]}.")
        for one in found.lost:
            print(say("lost.line", what=one))
        print(say("lost.as-it-was" if found.lost else "lost.nothing"))
    return FAULTS if found.lost else SOUND


def _restore(args: argparse.Namespace) -> int:
    if args.revision is None:
        ProjectFile.restored(args.copy, args.output).close()
    else:
        with opened(args.copy, for_writing=False) as project:
            design = project.design_at(args.revision)
        ProjectFile.create(args.output, design, f"revision {args.revision} of {args.copy.name}"[:200]).close()
    print(f"{args.output} made.")
    return SOUND
