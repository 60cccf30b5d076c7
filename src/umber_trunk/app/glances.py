"""What the first screen shows of each harness, read beside it: nothing is locked, and a file that can't be read says
why."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

from umber_trunk.app.settings import Settings
from umber_trunk.app.trunk.small import small_trunk
from umber_trunk.app.widgets.glance import Glance
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import DEMOS, demo
from umber_trunk.core.errors import UmberError
from umber_trunk.core.status import stage_states
from umber_trunk.store.catalogues import stocked_shelf
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.project import ProjectFile

SMALL = (200, 66)
"""The small trunk in pixels."""


def of_file(path: Path, settings: Settings, ratio: float) -> Glance:
    """A harness file: its trunk as it is now; its stages as they were left when its window was closed, if design and
    log are still the same."""
    try:
        with ProjectFile.open(path, for_writing=False) as project:
            design, now = project.design, standing(project)
    except (UmberError, OSError) as why:
        return Glance(path.stem, str(why))
    seen, badges = settings.states(path)
    told = tr("{count} wires, {parent}", count=len(design.wires), parent=path.parent.name)
    if badges:
        told, badges = (
            (tr("{told}; as it was left", told=told), badges)
            if seen == now
            else (tr("{told}; worked on since", told=told), ())
        )
    return Glance(design.project.name or path.stem, told, small_trunk(design, *SMALL, ratio), badges)


def standing(project: ProjectFile) -> str:
    """What stands in a file: its revision and the seal of its log."""
    entries, seal = project.floor.seal()
    return f"{project.head} {entries} {seal}"


def of_demo(name: str, ratio: float) -> Glance:
    """A demo harness as it is opened, with what was built of it: its stages worked out on a copy."""
    design = demo(name)
    shelf, _ = stocked_shelf()
    results = analyse(design, shelf)
    with TemporaryDirectory(prefix="umber-glance-") as folder, put_demo(Path(folder) / "demo.umber", name) as project:
        from umber_trunk.store.facts import facts_of  # here: the first window waits for no glance

        states = stage_states(results, facts_of(project, results))
    badges = [(one.stage, one.badge) for one in states]
    return Glance(
        design.project.name,
        DEMOS[name][1].partition(":")[2].strip() or DEMOS[name][1],
        small_trunk(design, *SMALL, ratio),
        tuple(badges),
    )
