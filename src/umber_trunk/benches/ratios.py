"""Benchmarks on generated harnesses, printed as ratios so that they mean the same on any machine."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import combinations
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
from scipy.sparse.linalg import spsolve

from umber_trunk.core.analysis import analyse
from umber_trunk.core.board.fold import fold
from umber_trunk.core.catalog.conductors import area_of
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.demo import barge, demo
from umber_trunk.core.ends.covering import fitted, forget_proposals
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.end import EndKind, Housing
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.lengths.infer import Listed, infer
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.memo import Memo
from umber_trunk.core.physics.network import solve_flow
from umber_trunk.core.physics.packing import pack
from umber_trunk.core.physics.sections import forget_sections
from umber_trunk.core.physics.sparse import columns
from umber_trunk.core.sample import generated
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.sizes.propose import propose
from umber_trunk.core.solve.plant import build_plant
from umber_trunk.core.solve.solution import solve
from umber_trunk.store.project import ProjectFile


def best_of(times: int, act: Callable[[], Any]) -> float:
    """Shortest of several runs [s]."""
    spans = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        spans.append(time.perf_counter() - start)
    return min(spans)


def machine_ms() -> float:
    """What a million additions in plain Python take here [ms]: milliseconds mean nothing without it."""

    def act() -> None:
        total = 0
        for number in range(1_000_000):
            total += number

    return 1000 * best_of(5, act)


def sized(wires: int) -> Design:
    """A generated harness with every size chosen."""
    design = generated(wires)
    for wire_id, size in propose(design).sizes.items():
        design = set_size(design, [wire_id], size)
    return design


def with_parts(design: Design) -> Design:
    """The same with a sealed plug on every device and a stud on every bar."""
    ends = []
    for end in design.ends:
        if end.kind is EndKind.DEVICE and len(end.cavities) == 2 and end.id != "battery":
            cavities = tuple(cavity.model_copy(update={"label": str(n)}) for n, cavity in enumerate(end.cavities, 1))
            thick = max(
                (area_of(w.size or "") for w in design.wires if end.id in (w.start.end, w.finish.end)), default=0.0
            )
            part = "cockle-s6-plug" if thick < 0.75 else "cockle-m2-plug" if thick < 2.5 else "cockle-l2-plug"
            body = Housing(id="A", part=part, form="plug", contacts="socket", sealed=True)
            end = end.model_copy(update={"cavities": cavities, "housings": (body,)})
        elif end.kind in (EndKind.STUD, EndKind.BAR):
            end = end.model_copy(update={"stud_mm": 8.0, "kind": EndKind.BAR})
        ends.append(end)
    return design.model_copy(update={"ends": tuple(ends)})


def ends_figures() -> str:
    """What parts at the ends cost an analysis, and all proposals of a large harness."""
    bare = sized(150)
    fitted_out = with_parts(bare)
    turns = [
        (edit_to_figures(bare), edit_to_figures(fitted_out)) for _ in range(4)
    ]  # by turns: a machine's speed moves
    plain, dressed = (min(spans) for spans in zip(*turns, strict=True))
    results = analyse(with_parts(sized(300)))

    def propose_all() -> Any:
        forget_proposals()
        return fitted(results)

    span, found = best_of(3, propose_all), fitted(results)
    over = 100 * (found.cost - found.bound) / max(found.cost, 1e-9)
    boat = analyse(barge())

    def boats() -> Any:
        forget_proposals()
        return fitted(boat)

    return (
        f"ends: an edit at 150 wires with parts takes {dressed / plain:.2f} × without; all parts of 300 wires "
        f"proposed in {span:.2f} s, {over:.1f} % left open by the bound; of the barge in {best_of(3, boats):.2f} s"
    )


def way_figures() -> str:
    """What lengths and coverings cost beside the figures, and boards and trunks of twice the ends beside those of
    once."""
    results = analyse(sized(300))

    def fresh() -> None:
        lengthened = replace(results, _known=Memo())
        lengthened.once(wire_lengths)
        lengthened.once(dressed)

    spans: dict[int, tuple[int, float, float]] = {}
    for wires in (80, 160):
        tree = generated(wires).model_copy(update={"wires": (), "loads": ()})
        ends = len(tree.ends)
        places = {end.id: end.point for end in tree.ends}
        index = index_of(tree)
        listed = [
            Listed(f"{a} {b}", a, b, sum(index.segments[s].measure.length_m for s in index.way(p, q) or ()))
            for (a, p), (b, q) in combinations(places.items(), 2)
            if p is not None and q is not None and p != q
        ]
        spans[wires] = (ends, best_of(1, partial(fold, tree)), best_of(1, partial(infer, listed)))
    (few, board, tree_s), (many, more, trees_s) = spans[80], spans[160]
    return (
        f"way: lengths and coverings of 300 wires take {best_of(3, fresh) / edit_to_figures(results.design):.2f} × an "
        f"edit's figures; a board of {few} ends "
        f"{board:.2f} s, of {many} {more / board:.1f} × as long; a trunk inferred from all pairs of {few} ends "
        f"{tree_s:.2f} s, of {many} {trees_s / tree_s:.1f} × as long"
    )


def edit_to_figures(design: Design) -> float:
    """One size changed, to all figures and findings [s]."""
    sizes = iter(["16 mm2", "25 mm2"] * 50)
    wire, before = design.wires[len(design.wires) // 2].id, analyse(design)
    return best_of(4, lambda: analyse(set_size(design, [wire], next(sizes)), None, before))


def network_ratio(design: Design) -> tuple[float, float]:
    """(network solve with assembly ÷ bare SciPy solve of the same matrix, the latter in s)."""
    plant = build_plant(design)
    siemens = np.concatenate([1 / plant.wire_ohm(np.full(len(plant.wires), 40.0)), 1 / plant.link_ohm])
    amps = np.array([[load.value] for load in plant.loads])
    side = plant.network.right_hand(plant.source_volts[:, None], plant.load_plus, plant.load_minus, amps)
    matrix = columns(plant.network.entries(siemens, plant.source_ohm), (len(side), len(side)))
    ours = best_of(7, lambda: solve_flow(plant.network, siemens, plant.source_ohm, side))
    bare = best_of(7, lambda: spsolve(matrix, side[:, 0]))
    return ours / bare, bare


def optimiser_figures(wires: int) -> str:
    """Gap and time of the optimiser, against one solve of the same harness."""
    design = generated(wires)
    once = best_of(3, lambda: solve(design))
    start = time.perf_counter()
    found = optimise(design)
    span = time.perf_counter() - start
    return (
        f"least copper, {wires} wires: {100 * found.gap:.1f} % left open by the proven bound, "
        f"{100 * found.estimate_gap:.3f} % by the estimate, {span:.1f} s = {span / once:.0f} × one solve"
    )


def packing_figures() -> str:
    """Slowest packing of up to 37 equal circles, against one descent of the same kind."""
    spans = [best_of(1, partial(pack, [1.0 + 1e-9 * n] * n)) for n in range(2, 38)]
    return f"packing 2 to 37 equal circles: slowest {max(spans):.2f} s = {max(spans) / min(spans):.0f} × the quickest"


STARTED = """
import sys
import umber_trunk.app
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from umber_trunk.app import session
before = session.Session.show_file
def shown(self, path):
    window = before(self, path)
    QTimer.singleShot(0, lambda: (window.grab(), print("shown", flush=True), QApplication.exit(0)))
    return window
session.Session.show_file = shown
from umber_trunk.cli.main import main
sys.exit(main(["demo"]))
"""


def process_s(*words: str, until: str = "") -> float:
    """Shortest of six processes [s]: from the shell to the end of a command, or until it prints a word."""
    offscreen = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
    offscreen.pop("PYTHONDONTWRITEBYTECODE", None)  # a warm start has its bytecode
    command = [sys.executable, *words]

    def span() -> float:
        start = time.perf_counter()
        with subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=offscreen, text=True
        ) as one:
            assert one.stdout is not None
            for line in one.stdout:
                if until and until in line:
                    break
            else:
                one.wait()
            took = time.perf_counter() - start
            one.stdout.read()
        return took

    return min(span() for _ in range(6))


LABEL = """
from PySide6.QtWidgets import QApplication, QLabel
app = QApplication([])
label = QLabel("Umber Trunk")
label.show()
label.grab()
print("shown", flush=True)
"""
BARE = "import numpy, scipy.sparse, pydantic"
ASKED = {
    "barge": ("solve", "check", "fit", "lengths", "pinmap --end console --side wire", "strip --wire W08", "mate --end console", "units", "status"),
    "tractor": ("order", "board", "coils", "tests", "prove --sim"),
}  # fmt: skip
"""The commands that are timed, by the demo they are asked of."""


def command_figures() -> str:
    """What commands take, as multiples of a process that imports what all of them rest on."""
    bare, told = process_s("-c", BARE), []
    with TemporaryDirectory() as folder:
        for name, commands in ASKED.items():
            path = str(Path(folder) / f"{name}.umber")
            ProjectFile.create(Path(path), demo(name)).close()
            for command in commands:
                asked, *options = command.split()
                told.append(f"{asked} {process_s('-m', 'umber_trunk', asked, path, *options) / bare:.1f}")
    return (
        f"commands, × a process that imports NumPy, SciPy’s sparse part and pydantic ({bare:.2f} s): {', '.join(told)}"
    )


def start_figures() -> str:
    """What the program takes to start, against a bare interpreter."""
    bare = process_s("-c", "")
    size = ("-m", "umber_trunk", "size", "--load", "18A", "--supply", "24V", "--run", "7.5m")
    spans = {
        "a window with the demo, painted": process_s("-c", STARTED, until="shown"), "umber size": process_s(*size), "--help": process_s("-m", "umber_trunk", "--help"),
    }  # fmt: skip
    told = ", ".join(f"{name} {span:.2f} s = {span / bare:.0f} ×" for name, span in spans.items())
    label = spans["a window with the demo, painted"] / process_s("-c", LABEL, until="shown")
    return f"start: {told} a bare interpreter; that window {label:.1f} × one with a label"


def picture_figures() -> str:
    """Laying out and painting 500 ends, against the demo's 22."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QRectF
    from PySide6.QtGui import QImage, QPainter
    from PySide6.QtWidgets import QApplication

    from umber_trunk.app import theme
    from umber_trunk.app.trunk.painter import TrunkPainter, room_in
    from umber_trunk.app.trunk.story import tell
    from umber_trunk.core.harness.index import index_of
    from umber_trunk.core.picture.layout import Picture
    from umber_trunk.core.picture.notice import interest
    from umber_trunk.core.stages import stage_of

    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    theme.load_fonts()
    theme.apply_theme(app)

    def span(design: Design) -> float:
        results = analyse(design)
        worth, story = interest(index_of(design), results), tell(stage_of("sizes").paints, design, results)
        image = QImage(1280, 300, QImage.Format.Format_ARGB32)

        def act() -> None:
            layout = Picture(design).lay_out(room_in(1280), worth)
            painter = QPainter(image)
            TrunkPainter(design, layout, story, set(), results).paint(painter, QRectF(0, 0, 1280, 300))
            painter.end()

        return best_of(5, act)

    large, small = span(generated(1000)), span(barge())
    return f"picture: 501 ends laid out and painted in {1000 * large:.0f} ms = {large / small:.1f} × the demo's 22"


def desk_figures(wires: int) -> str:
    """From an edit to the Sizes desk repainted with its figures, against the figures alone."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    import tempfile
    from pathlib import Path

    from PySide6.QtCore import QEventLoop
    from PySide6.QtWidgets import QApplication

    from umber_trunk.app.session import Session
    from umber_trunk.app.settings import Settings
    from umber_trunk.store.project import ProjectFile

    design = sized(wires)
    with tempfile.TemporaryDirectory() as scratch:
        path = Path(scratch) / "bench.umber"
        ProjectFile.create(path, design, copied=False).close()
        session = Session(Settings(Path(scratch) / "settings.json"))
        window = session.show_file(path)
        window.show_stage("sizes")

        def settle() -> None:
            while (
                not window.document.fresh or window.document.ahead or any(desk.busy for desk in window.desks.values())
            ):
                QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)

        def act(sizes: Any = iter(["16 mm2", "25 mm2"] * 50)) -> None:  # noqa: B008 one row of sizes for all runs
            size, wire = next(sizes), design.wires[wires // 2].id
            window.document.apply(lambda now: set_size(now, [wire], size), "bench")
            while not window.document.fresh:
                QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
            window.repaint()

        settle()
        spans = []
        for _ in range(5):
            spans.append(best_of(1, act))
            settle()
        session.close_all()
    alone = edit_to_figures(design)
    return (
        f"desk: {wires} wires, an edit until the desk is repainted {1000 * min(spans):.0f} ms = "
        f"{min(spans) / alone:.1f} × its figures alone"
    )


def cold_solve(design: Design) -> float:
    """A whole solve with no section known from before [s]."""

    def act() -> None:
        forget_sections()
        solve(design)

    return best_of(3, act)


def run(sizes: list[int]) -> int:
    """Prints the table; ratios are to the smallest harness, growth also to the ratio of wire counts."""
    print(f"this machine: a million additions in {machine_ms():.0f} ms (about 40 on a desktop of these years)")
    print(
        f"{'wires':>6} {'edit → figures':>15} {'÷ smallest':>11} {'÷ wires ratio':>14} "
        f"{'whole solve':>12} {'÷ smallest':>11} {'first time':>11} {'network ÷ bare solve':>21}"
    )
    first: tuple[int, float, float] | None = None
    for wires in sizes:
        design = sized(wires)
        span, whole = edit_to_figures(design), best_of(3, partial(solve, design))
        ratio, _ = network_ratio(design)
        first = first or (wires, span, whole)
        growth = span / first[1]
        print(
            f"{wires:>6} {span * 1000:>12.0f} ms {growth:>11.2f} {growth / (wires / first[0]):>14.2f} "
            f"{whole * 1000:>9.0f} ms {whole / first[2]:>11.2f} {cold_solve(design) * 1000:>8.0f} ms {ratio:>21.2f}"
        )
    print(optimiser_figures(300))
    print(ends_figures())
    print(way_figures())
    print(picture_figures())
    print(desk_figures(300))
    print(start_figures())
    print(command_figures())
    print(packing_figures())
    return 0
