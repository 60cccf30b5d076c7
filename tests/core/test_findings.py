"""Findings that other tests don't come across: what stands unsaid, what doesn't settle, lists that differ, starts too
hard."""

from dataclasses import replace

import pytest

from conftest import design_of
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import InputError
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.stages import fetched, stage_of


def found(design: Design, code: str) -> list[Finding]:
    return [one for one in analyse(design).findings if one.code == code]


def test_wires_without_a_load_say_that_nothing_is_fed(demo: Design) -> None:
    (one,) = found(demo.model_copy(update={"loads": (), "cases": ()}), "load.none")
    assert one.severity is Severity.FAULT
    assert one.stage == "needs"
    assert not found(demo, "load.none")


@pytest.mark.parametrize(("share", "told"), [(2.0, True), (1.04, False), (0.5, True), (0.97, False)])
def test_a_listed_length_that_differs_from_the_way_is_noted(demo: Design, share: float, told: bool) -> None:
    """By more than 5 % and 50 mm."""
    wire = demo.wires[0]
    design = edits.put(demo, "wires", edits.change(wire, stated_m=share * index_of(demo).length_m(wire)))
    ones = [one for one in found(design, "wire.differs") if one.subject == wire.id]
    assert bool(ones) is told
    assert all(one.stage == "runs" for one in ones)
    assert all(one.severity == (1 if share > 1 else 2) for one in ones)  # what would be cut too short is a warning


def test_a_start_too_hard_for_its_wire_is_a_fault() -> None:
    """400 A for 2 s heat 2.5 mm² of copper by 400²·2·(7 mΩ/m)/(8.6 J/mK) ≈ 260 K adiabatically, over the jacket's short
    rating."""
    lines = "supply 24 V 1 mohm at battery", "winch 12 A surge 400A/2s at bow run 3 m"
    design = design_of(*lines)
    thin = edits.set_size(design, [wire.id for wire in design.wires], "2.5 mm2")
    ones = found(thin, "wire.surge")
    assert {one.subject for one in ones} == {wire.id for wire in design.wires}
    thick = edits.set_size(design, [wire.id for wire in design.wires], "16 mm2")
    assert not found(thick, "wire.surge")
    idle = edits.set_size(
        design_of(lines[0], "winch 12 A at bow run 3 m"), [wire.id for wire in design.wires], "2.5 mm2"
    )
    assert not found(idle, "wire.surge")


def test_a_case_without_a_steady_answer_is_a_fault_of_needs(demo: Design) -> None:
    results = analyse(demo)
    solution = results.figures.solution
    unsettled = [replace(solution.cases[0], settled=False), *solution.cases[1:]]
    figures = replace(results.figures, solution=replace(solution, cases=unsettled))
    check = fetched(stage_of("sizes").checks[0])
    ones = [one for one in check(Results(demo, results.sizes, figures, results.shelf)) if one.code == "case.unsettled"]
    assert [one.subject for one in ones] == [solution.cases[0].case.id]
    assert ones[0].stage == "needs"
    assert not [one for one in check(results) if one.code == "case.unsettled"]


def test_results_are_worked_out_once(demo: Design) -> None:
    results, asked = analyse(demo), []

    def work(given: Results) -> int:
        asked.append(given)
        return len(asked)

    assert not results.has(work)
    assert [results.once(work), results.once(work)] == [1, 1]
    assert results.has(work)
    assert asked == [results]


def test_findings_come_worst_first_and_all_stages_check(demo: Design) -> None:
    rows = analyse(demo).findings
    assert [one.severity for one in rows] == sorted(one.severity for one in rows)
    assert {one.stage for one in rows} >= {"needs", "runs", "sizes"}


def test_small_lines_that_once_nobody_noticed() -> None:
    """Found by changing the core line by line."""
    from umber_trunk.core.quantity import Habit
    from umber_trunk.core.text import pictured
    from umber_trunk.core.units import parse_drop

    assert parse_drop("0.5 %", 24.0, Habit("point")) == pytest.approx(0.12)
    for text in ("0 %", "100 %", "-1 %"):
        with pytest.raises(InputError, match="between 0 and 100"):
            parse_drop(text, 24.0, Habit("point"))
    assert pictured("deck \ud800 light") == pictured("deck ? light")
    assert pictured("deck light") == "deck light"
    assert pictured("".join(map(chr, range(32)))) == "".join(map(chr, range(0x2400, 0x2420)))  # each its own picture


def test_lines_say_what_is_missing() -> None:
    from umber_trunk.core.needs.line import parse_need

    for line, says in (
        ("converter at house", "what it makes"),
        ("pump at bow", "how much it draws"),
        ("converter 24 to 12 V 90% at house", ""),
        ("class T fuse 250 A at battery", ""),
        ("pump 3 A at bow", ""),
    ):
        missing = " ".join(parse_need(line, 24.0).missing)
        assert says in missing if says else not missing, (line, missing)


def test_what_is_open_stands_at_its_point(demo: Design) -> None:
    from umber_trunk.core.harness.model import Point
    from umber_trunk.core.picture.notice import notices, points_of

    design = edits.put(demo, "points", Point(id="LOST", name="lost clip"))
    open_at = analyse(design).once(notices)
    assert [one.code for one in open_at["LOST"]] == ["tree.island"]
    index = index_of(design)
    assert points_of(index, "points", "nowhere") == []
    wire = design.wires[7]
    far, near = points_of(index, "wires", wire.id)
    assert index.parents[far][2] >= index.parents[near][2]
    assert points_of(index, "fuses", "box F3") == [index.ends["box"].point]
    assert points_of(index, "supplies", design.supplies[0].id) == [index.root]
    assert points_of(index, "zones", design.zones[0].id) == []
