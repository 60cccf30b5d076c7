"""What the window keeps of what is over: windows closed, edits made, acts at the bench; in MB and open handles per
thousand of them."""

from __future__ import annotations

import gc
import os
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QApplication

from umber_trunk.app import theme
from umber_trunk.app.session import Session
from umber_trunk.app.settings import Settings
from umber_trunk.app.sharing import Sharing, give_back
from umber_trunk.app.shots import settle, wait_for
from umber_trunk.app.window import Window
from umber_trunk.core.demo import barge
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.make.events import event
from umber_trunk.core.stages import STAGES
from umber_trunk.store.builds import begin
from umber_trunk.store.project import ProjectFile

MOST_MB = 5.0
"""Per thousand acts, after a warm-up."""


REST = 10
"""Acts between two rests, at which rubbish is looked for as the window does once nobody has touched it for a while."""


def resident_mb() -> float:
    """Memory of this process."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def handles() -> int:
    """Files and sockets it has open."""
    return len(os.listdir("/proc/self/fd"))


def kept(name: str, times: int, act: Callable[[int], object], warm: int) -> bool:
    """Does it `warm` times, then `times` times; prints what is kept. Whether that is little enough."""

    def still() -> tuple[float, int]:
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        QApplication.processEvents()
        gc.collect()
        give_back()
        return resident_mb(), handles()

    for number in range(warm):
        act(number)
        if number % REST == 0:
            still()
    mb, files = still()
    for number in range(warm, warm + times):
        act(number)
        if number % REST == 0:
            still()
    after, open_now = still()
    share = 1000 / times * (after - mb)
    print(f"{name}: {times}, {share:+.1f} MB and {open_now - files:+d} handles per thousand; {after:.0f} MB in all")
    return share <= MOST_MB and open_now <= files


MADE = """
import sys
from pathlib import Path
from umber_trunk.benches.ratios import sized
from umber_trunk.store.project import ProjectFile
ProjectFile.create(Path(sys.argv[1]), sized(int(sys.argv[2])), copied=False).close()
"""
"""In a process of its own: choosing the sizes takes memory that the window doesn't."""
MOST_WIRES, MOST_ALL_MB = 3000, 400.0
"""A window with so many wires, every desk seen, takes at most so much memory."""


def large(session: Session, folder: Path) -> bool:
    """Opens a large harness and looks at every desk; prints what that takes, desk by desk."""
    path = folder / "large.umber"
    subprocess.run([sys.executable, "-c", MADE, str(path), str(MOST_WIRES)], check=True)
    before = resident_mb()
    window = session.show_file(path)
    told = []
    for stage in STAGES:
        window.show_stage(stage.id)
        settle(window)
        told.append(f"{stage.id} {resident_mb():.0f}")
    gc.collect()
    give_back()
    after = resident_mb()
    print(
        f"a window with {MOST_WIRES} wires, all desks seen: {after:.0f} MB, {before:.0f} before it ({', '.join(told)})"
    )
    window.close()
    return after <= MOST_ALL_MB


def run(windows: int, edits: int, units: int) -> int:
    """Prints the four figures; 1 where more is kept than may be."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    Sharing(app)  # rubbish is looked for as the window has it, not as the shell does
    theme.load_fonts()
    theme.apply_theme(app)
    with tempfile.TemporaryDirectory() as scratch:
        path = Path(scratch) / "bench.umber"
        ProjectFile.create(path, barge(), copied=False).close()
        session = Session(Settings(Path(scratch) / "settings.json"))
        fine = large(session, Path(scratch))

        def opened(number: int) -> Window:
            window = session.show_file(path)
            settle(window)
            window.show_stage(STAGES[number % len(STAGES)].id)
            settle(window)
            return window

        fine &= kept(
            "windows opened and closed", windows, lambda number: opened(number).close(), max(16, windows // 10)
        )
        alive = sum(isinstance(one, Window) for one in gc.get_objects())
        print(f"{alive} of them still there")
        window = opened(2)
        wire = window.document.design.wires[3].id

        def edited(number: int) -> None:
            size = ("16 mm2", "25 mm2", "35 mm2")[number % 3]
            window.document.apply(lambda now: set_size(now, [wire], size), "bench")
            wait_for(lambda: window.document.fresh)
            if number % 20 == 0:
                settle(window)

        fine &= kept("edits", edits, edited, max(100, edits // 10))
        begin(window.document.project, "lot", range(1, 3)).close()
        window.show_stage("make")
        settle(window)
        batch = max(units // 10, 1)

        def logged(number: int) -> None:
            floor = window.document.project.floor
            floor.append(
                event(f"m{number}-{n}", "lot", 1_800_000_000_000 + n, "note", 1, "", {"says": f"{number} {n}"})
                for n in range(batch)
            )
            window.document.measured()
            window.show_stage(("make", "keep")[number % 2])
            settle(window)

        fine &= kept(f"looks at a log that grows by {batch} entries each", 10, logged, 2)
        session.close_all()
    return 0 if fine and not alive else 1
