"""Papers: all that a build needs, or those that are asked for, as PDF in one folder."""

from __future__ import annotations

import argparse
import re
from pathlib import Path
from typing import TYPE_CHECKING

from umber_trunk.cli.kit import kept_coils, units
from umber_trunk.cli.reading import analysed, opened, shelf
from umber_trunk.cli.terminal import SOUND, Progress, out
from umber_trunk.core.errors import InputError

if TYPE_CHECKING:
    from umber_trunk.core.make.timed import Order
    from umber_trunk.core.results import Results

COMMANDS = {
    "papers": "all papers a build needs, as PDF in one folder, or those that are named",
}


def add_papers(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "-o", "--output", type=Path, required=True, metavar="DIR", help="the folder they are written to"
    )
    parser.add_argument("--build", metavar="NAME", help="those of a build, by the design and order it was begun with")
    parser.add_argument(
        "--units", type=units, default=1, metavar="N", help="for so many units; a build's own otherwise"
    )
    parser.add_argument("--only", metavar="KINDS", help="some of them, such as cut,traveller; “all” for all there are")
    parser.add_argument("--paper", choices=("a4", "letter"), help="the project's otherwise")
    parser.add_argument("--landscape", action="store_true", help="lying")
    parser.add_argument(
        "--measure", choices=("metric", "inch", "both"), help="units of measure; the project's otherwise"
    )
    parser.add_argument("--two-sided", action="store_true", help="each sheet begins on a front")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_papers)


def _papers(args: argparse.Namespace) -> int:
    from umber_trunk.core.papers.papers import PAPERS, Asked, in_units, paper_of
    from umber_trunk.core.stages import fetched
    from umber_trunk.store.files import write_whole

    if args.output.exists() and not args.output.is_dir():
        raise InputError.of("shell.no-folder-say", output=args.output.name)
    asked_for = (
        [one for one in PAPERS if one.needed]
        if not args.only
        else list(PAPERS)
        if args.only == "all"
        else [paper_of(kind.strip()) for kind in args.only.split(",")]
    )
    results, order = _of_build(args.file, args.build) if args.build else (analysed(args.file), None)
    results = in_units(results, args.measure or "", args.paper or "", True if args.landscape else None)
    asked, progress = Asked(len(order.units) if order else args.units, tuple(kept_coils(args.file)), order), Progress()
    made: list[tuple[str, Path, bytes]] = []
    for number, paper in enumerate(asked_for):
        progress(f"{paper.title}, {number + 1} of {len(asked_for)}", "Ctrl-C stops it")
        data = fetched("app.paper.pdf:paper_pdf")(results, paper.kind, asked, args.two_sided)
        if data:
            made.append((paper.kind, args.output / f"{args.file.stem}-{paper.kind}.pdf", data))
    args.output.mkdir(parents=True, exist_ok=True)
    for _, path, data in made:
        write_whole(path, data)
    told = [
        {"kind": kind, "file": path.name, "pages": len(re.findall(rb"/Type /Page\b(?!s)", data))}
        for kind, path, data in made
    ]
    if args.json:
        out({"papers": told, "design": results.design.project.name, "build": args.build or "", "units": asked.units})
    else:
        for row in told:
            print(f"{row['file']}: {row['pages']} {'page' if row['pages'] == 1 else 'pages'}")
    return SOUND


def _of_build(path: Path, name: str) -> tuple[Results, Order]:
    """Figures and order of a build as it was begun."""
    from umber_trunk.store.builds import resume

    with opened(path, for_writing=False) as project:
        build = resume(project, name, parts=shelf(path))
        try:
            return build.figures(), build.bench.order
        finally:
            build.close()
