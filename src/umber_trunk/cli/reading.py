"""How commands get at a harness: from its file, at a revision of it, or from JSON. What a command doesn't ask for isn't
loaded: each import here stands where it is wanted."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from umber_trunk.cli.terminal import stoppable
from umber_trunk.core.errors import InputError
from umber_trunk.core.sentences import say

if TYPE_CHECKING:
    from umber_trunk.core.analysis import Upto
    from umber_trunk.core.catalog.shelf import Shelf
    from umber_trunk.core.harness.model import Design
    from umber_trunk.core.results import Results
    from umber_trunk.store.project import ProjectFile


def add_reading(parser: argparse.ArgumentParser) -> None:
    """Options of what reads one harness and answers."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--revision", type=int, metavar="N", help="as it was at this revision")
    parser.add_argument("--json", action="store_true")


def shelf(beside: Path | None) -> Shelf:
    """The parts that ship with the shop's own in front, read anew, those of the shop's file `beside` a harness too; a
    broken catalogue of its is told and left out."""
    from umber_trunk.store.catalogues import stocked_shelf

    found, wrong = stocked_shelf(None, beside)
    if wrong:
        print(f"umber: {wrong}", file=sys.stderr)
    return found


def file_and_variant(path: Path) -> tuple[Path, str]:
    """FILE:VARIANT as the two; a file whose own name has a colon is itself."""
    name, colon, variant = path.name.rpartition(":")
    if not colon or not name or path.exists():
        return path, ""
    return path.with_name(name), variant


def is_plain(path: Path) -> bool:
    """Whether a name stands for a design as JSON, which has no log and no shelf."""
    return file_and_variant(path)[0].suffix.lower() == ".json"


def opened(path: Path, for_writing: bool = True) -> ProjectFile:
    """A harness file, or a variant of it as FILE:VARIANT; what of a damaged one can't be read is told."""
    from umber_trunk.store.project import ProjectFile

    path, variant = file_and_variant(path)
    project = ProjectFile.open(path, for_writing=for_writing)
    if variant:
        try:
            project.shows_variant(variant)
        except BaseException:
            project.close()
            raise
    for lost in project.lost:
        print(f"umber: {say('lost.file', name=path.name, what=lost)}", file=sys.stderr)
    return project


def read_design(path: Path, revision: int | None = None) -> Design:
    """The design in a harness file, at a revision of it, or in JSON; the file may be open in a window."""
    return _read(path, revision)[0]


def _read(path: Path, number: int | None) -> tuple[Design, str]:
    """(the design, which revision of its file it is); of a variant where one is named."""
    plain, variant = file_and_variant(path)
    if is_plain(path):
        if number is not None:
            raise InputError.of("shell.design-without-revisions", plain=plain.name)
        from umber_trunk.store.jsonfile import read_json

        design = read_json(plain)
        if variant:
            from umber_trunk.core.harness.variants import variant_of

            design = variant_of(design, variant)
        return design, ""
    with opened(path, for_writing=False) as project:
        design = project.design if number is None else project.design_at(number)
        return design, f"revision {project.head if number is None else number}"


def results_of(design: Design, upto: Upto = "figures", beside: Path | None = None) -> Results:
    """The figures of a design with the shop's parts, worked out so that Ctrl-C is heard, as far as is asked for."""
    from umber_trunk.core.analysis import analyse

    parts = shelf(beside)
    return stoppable(lambda wanted: analyse(design, parts, wanted=wanted, upto=upto))


def analysed(path: Path, revision: int | None = None, upto: Upto = "figures") -> Results:
    """The figures of a file with the shop's parts, as `results_of` gives them."""
    from umber_trunk.core.results import revision_told

    design, told = _read(path, revision)
    results = results_of(design, upto, path)
    results.know(revision_told, told)
    return results
