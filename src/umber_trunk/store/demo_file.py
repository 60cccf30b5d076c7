"""A demo as a harness file, with what was built of it."""

from __future__ import annotations

from pathlib import Path

from umber_trunk.core.demo import demo
from umber_trunk.core.harness.model import Design
from umber_trunk.store.project import ProjectFile


def put_demo(path: Path, name: str, design: Design | None = None) -> ProjectFile:
    """A fresh copy of a demo, open. StoreError if something is there already."""
    project = ProjectFile.create(path, design or demo(name), "demo harness", copied=False)
    if name not in ("tractor", "loops"):
        return project
    # what makes and proves isn't loaded for harnesses nobody built
    from umber_trunk.store.demo_lots import SHARE_DONE, UNITS, built, proven

    if name == "tractor":
        built(project, "lot 1", UNITS, "Mara", SHARE_DONE)
    else:
        built(project, "brine hall", 1, "Ines", 1.0)
        proven(project, "brine hall", "Ines")
    return project
