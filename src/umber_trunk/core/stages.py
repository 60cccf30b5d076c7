"""Each stage of the work, declared once: window, rail, finder, menus, findings, exports and shell read it from here.

What a stage brings along is named by where it is ("module:name", below `umber_trunk`) and fetched when it is first
wanted, so that the core knows no window and a shell command loads nothing it doesn't use.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from importlib import import_module
from typing import Any

from umber_trunk.core.errors import InputError


def fetched(place: str) -> Any:
    """What a "module:name" names."""
    module, _, name = place.partition(":")
    return getattr(import_module(f"umber_trunk.{module}"), name)


@dataclass(frozen=True)
class Export:
    """A file the program writes for others: `make` turns results into its bytes, or it is a `paper` as PDF;
    `also` are further names the shell takes for it."""

    kind: str
    title: str
    ending: str
    make: str = ""
    filter: str = ""
    also: tuple[str, ...] = ()
    paper: str = ""

    def bytes_of(self, results: Any) -> bytes:
        """The whole file. InputError where the harness has nothing to say on it."""
        made: bytes = (
            fetched("app.paper.pdf:paper_pdf")(results, self.paper) if self.paper else fetched(self.make)(results)
        )
        if not made:
            raise InputError.of("stages.this-harness-has-nothing-to-say", title=self.title.lower())
        return made


@dataclass(frozen=True)
class Stage:
    """One stage: what it asks of the builder, the tables whose parts are mended on its desk, and where its checks, desk
    and painting of the trunk are. `commands` are modules of the shell. `shows` names the results its desk draws
    from."""

    id: str
    name: str
    asks: str
    tables: tuple[str, ...]
    checks: tuple[str, ...]
    desk: str
    paints: str
    shows: tuple[str, ...] = ()
    exports: tuple[Export, ...] = ()
    commands: tuple[str, ...] = ()


STAGES = (
    Stage(
        "needs", "Needs", "What has to be fed, from where, in what air?",
        tables=("loads", "supplies", "zones", "fuses", "cases", "ends", "converters", "rules"),
        checks=("core.needs.checks:check_needs",), desk="app.desks.needs.desk:NeedsDesk", paints="app.trunk.story:amps_story",
        shows=("core.fuses.fit:link_duties", "core.fuses.chain:chains"), commands=("needs", "lists", "play"),
        exports=(
            Export("wires-csv", "Wire list", "-wires.csv", "store.output:wires_csv", "CSV (*.csv)", also=("csv",)),
            Export("json", "Design", ".json", "store.output:design_json", "JSON (*.json)"),
        ),
    ),
    Stage(
        "runs", "Runs", "Which way, how long, under what cover?",
        tables=("segments", "points", "combs", "sets", "joins", "covers"),
        checks=("core.lengths.checks:check_runs", "core.joins.checks:check_joins", "core.covers.checks:check_covers"),
        desk="app.desks.runs.desk:RunsDesk", paints="app.trunk.story:measure_story",
        shows=("core.lengths.wire_lengths:wire_lengths", "core.joins.join_plans:joins", "core.covers.dress:dressed"), commands=("runs",),
        exports=(
            Export("lengths-csv", "Lengths", "-lengths.csv", "store.output:lengths_csv", "CSV (*.csv)"),
            Export("board-pdf", "Board at 1:1", "-board.pdf", filter="PDF (*.pdf)", paper="board"),
            Export("board-svg", "Board as SVG", "-board.svg", "store.output:board_as_svg", "SVG (*.svg)"),
            Export("board-dxf", "Board as DXF", "-board.dxf", "store.output:board_as_dxf", "DXF (*.dxf)"),
        ),
    ),
    Stage(
        "sizes", "Sizes", "Which conductor, so that every limit holds?",
        tables=("wires",),
        checks=("core.sizes.checks:check_sizes", "core.fuses.checks:check_fuses"), desk="app.desks.sizes.desk:SizesDesk",
        paints="app.trunk.story:margin_story", commands=("sizes", "improve"),
    ),
    Stage(
        "ends", "Ends", "Which part on which wire, and does it fit?",
        tables=("fits",),
        checks=("core.ends.checks:check_ends",), desk="app.desks.ends.desk:EndsDesk", paints="app.trunk.story:ends_story",
        shows=("core.ends.covering:fitted", "core.ends.fits:fits", "core.ends.fits:worst_first"), commands=("ends",),
        exports=(Export("faces", "Pin maps", "-faces.pdf", filter="PDF (*.pdf)", paper="pins"),),
    ),
    Stage(
        "kit", "Kit", "What to cut and buy?",
        tables=("decisions", "coils"), checks=(), desk="app.desks.kit.desk:KitDesk", paints="app.trunk.story:kit_story", shows=("core.kit.cutlist:cuts", "core.kit.cutlist:buys", "core.make.operations:operations"), commands=("kit", "shelf", "coil_check", "papers"),
        exports=(
            Export("pdf", "Cut sheet", ".pdf", filter="PDF (*.pdf)", paper="cut"),
            Export("xlsx", "Workbook", ".xlsx", "store.output:workbook", "Workbook (*.xlsx)"),
            Export("cuts-csv", "Cut list", "-cuts.csv", "store.output:cuts_csv", "CSV (*.csv)"),
        ),
    ),
    Stage(
        "make", "Make", "What to do next, and how did it measure?",
        tables=("readings",), checks=(), desk="app.desks.make.desk:MakeDesk", paints="app.trunk.story:make_story", shows=("core.make.operations:operations",), commands=("make", "readings"),
        exports=(
            Export("traveller", "Traveller", "-traveller.pdf", filter="PDF (*.pdf)", paper="traveller"),
            Export("book", "Build book", "-book.pdf", filter="PDF (*.pdf)", paper="book"),
            Export("leads", "Lead sheets", "-leads.pdf", filter="PDF (*.pdf)", paper="leads"),
            Export("redline", "Redline sheet", "-redline.pdf", filter="PDF (*.pdf)", paper="redline"),
            Export("kit-pdf", "Kit, a page a lead", "-kit.pdf", filter="PDF (*.pdf)", paper="kit"),
            Export("labels-csv", "Labels as CSV", "-labels.csv", "store.output:labels_csv", "CSV (*.csv)"),
            Export("labels-pdf", "Labels at size", "-labels.pdf", filter="PDF (*.pdf)", paper="labels"),
        ),
    ),
    Stage(
        "prove", "Prove", "Is it what was drawn, and if not, what is wrong?",
        tables=("loops", "tests"), checks=("core.prove.checks:check_prove",), desk="app.desks.prove.desk:ProveDesk", paints="app.trunk.story:prove_story",
        shows=("core.prove.netlist:netlist", "core.prove.plan:test_plan"), commands=("proof_list", "prove", "practice", "cores"),
        exports=(
            Export("tests-csv", "Test list", "-tests.csv", "store.output:tests_csv", "CSV (*.csv)"),
            Export("tests-pdf", "Test sheet", "-tests.pdf", filter="PDF (*.pdf)", paper="tests"),
            Export("loops-pdf", "Loop sheets", "-loops.pdf", filter="PDF (*.pdf)", paper="loops"),
        ),
    ),
    Stage(
        "keep", "Keep", "What was built, of what, by whom, and what is left of it?",
        tables=("units",), checks=(), desk="app.desks.keep.desk:KeepDesk", paints="app.trunk.story:keep_story", commands=("units", "trust"),
    ),
)  # fmt: skip
"""In the order of the work."""

OTHER_COMMANDS = (
    "files",
    "variants",
    "shop",
    "devices",
    "shop_jobs",
    "quotes",
    "plans",
    "checking",
    "solving",
    "keeping",
    "windows",
    "install",
)
"""Modules of the shell whose commands are about the whole harness."""


@cache
def stage_of(stage_id: str) -> Stage:
    """The stage with this id; KeyError for one there is none of."""
    return {stage.id: stage for stage in STAGES}[stage_id]


@cache
def home_of(table: str) -> Stage | None:
    """The stage whose desk mends the parts of a table."""
    return next((stage for stage in STAGES if table in stage.tables), None)


def owner_of(table: str) -> Stage:
    """The stage whose desk mends the parts of a table; KeyError for one nobody owns."""
    home = home_of(table)
    if home is None:
        raise KeyError(table)
    return home


@cache
def exports() -> dict[str, Export]:
    """Every export by its kind, in the order of the stages, then by its other names."""
    all_of_them = [export for stage in STAGES for export in stage.exports]
    return {e.kind: e for e in all_of_them} | {name: e for e in all_of_them for name in e.also}
