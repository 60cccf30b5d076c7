"""What the first screen shows of each harness, read beside it: nothing is locked, and a file that can't be read says why."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from umber_trunk.app.settings import Settings
from umber_trunk.app.trunk.small import small_trunk
from umber_trunk.app.widgets.glance import Glance
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import DEMOS, demo
from umber_trunk.core.errors import UmberError
from umber_trunk.core.status import Facts, stage_states
from umber_trunk.store.catalogues import stocked_shelf
from umber_trunk.store.project import ProjectFile

SMALL = (200, 66)
"""The small trunk in pixels."""


def of_file(path: Path, settings: Settings, ratio: float) -> Glance:
    """A harness file: its trunk as it is now; its stages as they were when its window was closed, if it is still of that revision."""
    try:
        with ProjectFile.open(path, for_writing=False) as project:
            design, head = project.design, project.head
    except (UmberError, OSError) as why:
        return Glance(path.stem, str(why))
    seen, badges = settings.states(path)
    told = f"{len(design.wires)} wires, {path.parent.name}"
    if badges and seen != head:
        told, badges = f"{told}; worked on since", ()
    return Glance(design.project.name or path.stem, told, small_trunk(design, *SMALL, ratio), badges)


def of_demo(name: str, ratio: float) -> Glance:
    """A demo harness as it begins: its stages worked out."""
    design = demo(name)
    shelf, _ = stocked_shelf()
    results = analyse(design, shelf)
    badges: Sequence[tuple[str, str]] = [(one.stage, one.badge) for one in stage_states(results, Facts())]
    return Glance(design.project.name, DEMOS[name][1].partition(":")[2].strip() or DEMOS[name][1], small_trunk(design, *SMALL, ratio), tuple(badges))  # fmt: skip
