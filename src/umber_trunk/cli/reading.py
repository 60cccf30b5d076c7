"""How commands get at a harness: from its file, at a revision of it, or from JSON."""

from __future__ import annotations

import sys
from pathlib import Path

from umber_trunk.cli.terminal import stoppable
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.store.catalogues import stock_shelf
from umber_trunk.store.jsonfile import read_json
from umber_trunk.store.project import ProjectFile


def stocked() -> None:
    """Puts the shop's own parts on the shelf; a broken catalogue of its is told and left out."""
    if wrong := stock_shelf():
        print(f"umber: {wrong}", file=sys.stderr)


def opened(path: Path, for_writing: bool = True) -> ProjectFile:
    """A harness file, with the shop's parts on the shelf: the one door of every command to its results."""
    stocked()
    return ProjectFile.open(path, for_writing=for_writing)


def read_design(path: Path, revision: int | None = None) -> Design:
    """The design in a harness file, at a revision of it, or in JSON; the file may be open in a window. The shop's own parts
    are on the shelf from then on."""
    stocked()
    if path.suffix.lower() == ".json":
        if revision is not None:
            raise InputError(f"{path.name} is a design without revisions.")
        return read_json(path)
    with opened(path, for_writing=False) as project:
        return project.design if revision is None else project.design_at(revision)


def analysed(path: Path, revision: int | None = None) -> Results:
    """The figures of a file, worked out so that Ctrl-C is heard."""
    design = read_design(path, revision)
    return stoppable(lambda wanted: analyse(design, wanted=wanted))
