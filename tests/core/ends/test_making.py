"""Strip drawings, the order at an end, proposals, edits: from parts alone, kept under any change."""

from __future__ import annotations

import itertools
import json
import math
import xml.etree.ElementTree as ElementTree
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from demos import worked_out
from ends_kit import contact, housing, lead, part, results_of, the
from long_runs import LONG
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import area_of
from umber_trunk.core.catalog.parts import Contact
from umber_trunk.core.catalog.shelf import generic
from umber_trunk.core.demo import demo
from umber_trunk.core.ends.assign import accept, assign, fill_run, set_cable, set_fitting, set_housing, swap
from umber_trunk.core.ends.covering import Costs, by_program, cheapest, every_way, fitted, fitted_at
from umber_trunk.core.ends.fits import fits
from umber_trunk.core.ends.order import steps_at
from umber_trunk.core.ends.practice import MATTERS
from umber_trunk.core.ends.reasons import RULES, why_fit
from umber_trunk.core.ends.strip import cable_strips, clock_mark, strips
from umber_trunk.core.ends.svg import strips_svg
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import EditError, InputError
from umber_trunk.core.harness.edits import change, put_all, set_project
from umber_trunk.core.harness.model import Design, Fitting
from umber_trunk.core.harness.project import Practice
from umber_trunk.core.make.measuring import least_pull_n, limits_of
from umber_trunk.core.make.operations import operations
from umber_trunk.core.results import Results, currents
from umber_trunk.store.catalogues import read_catalogue


@pytest.fixture(scope="module")
def barge() -> Results:
    return worked_out("barge")


@pytest.fixture(scope="module")
def shore() -> Results:
    return worked_out("shore")


def test_a_contact_is_stripped_by_its_sheet() -> None:
    sheet = contact(
        strip_mm=4.2,
        depth_mm=16.0,
        crimps=[{"area_mm2": 2.5, "height_mm": 1.63, "plus_minus_mm": 0.05}],
        tool="cockle-press",
        die="M-2",
    )
    one = next(s for s in strips(results_of(lead([sheet, housing()])), "W1") if s.end == "dev")
    assert (one.strip_mm, one.entry_mm, one.eaten_mm) == (4.2, 16.0, pytest.approx(4.2 + 0.6 + 0.6 * 4.2 + 2.0))
    assert (one.crimp_height_mm, one.crimp_plus_minus_mm, one.die) == (1.63, 0.05, "M-2")
    wings = next(piece for piece in one.pieces if piece.what == "insulation wings")
    assert wings.from_mm > one.strip_mm  # on the insulation, never on the strands


def test_a_heavy_lug_has_several_presses_and_bare_flat(shore: Results) -> None:
    one = strips(shore, "B2")[0]
    assert len(one.crimps_at_mm) == 2
    barrel = next(piece for piece in one.pieces if piece.what == "barrel")
    assert all(barrel.from_mm < press < barrel.to_mm for press in one.crimps_at_mm)
    shrink = next(piece for piece in one.pieces if piece.what == "shrink")
    tongue = next(piece for piece in one.pieces if piece.what == "tongue")
    assert shrink.from_mm >= tongue.to_mm
    assert shrink.to_mm > barrel.to_mm
    assert "3 o’clock" in str(clock_mark(shore, "B1"))
    assert "9 o’clock" in str(clock_mark(shore, "B2"))


def test_each_core_reaches_its_own_cavity(shore: Results) -> None:
    """Half the housing's depth and the way from the middle to the cavity, by Pythagoras; the earth 10 mm more."""
    cut = next(one for one in cable_strips(shore, "cord") if one.end == "plug")
    free = {core.mark: core.free_mm for core in cut.cores}
    assert free["L"] == pytest.approx(math.hypot(30.0, math.hypot(9.5, 4.0)), abs=0.06)
    assert free["E"] == pytest.approx(math.hypot(30.0, 7.5) + 10.0, abs=0.06)
    assert cut.jacket_back_mm == pytest.approx(max(core.free_mm + core.strip_mm for core in cut.cores), abs=0.06)
    data = cable_strips(shore, "data")[0]
    assert data.screen == "braid"
    assert data.foil
    assert data.drain_mm > 0
    seven = {core.mark: core.free_mm for core in cable_strips(shore, "seven")[0].cores}
    assert seven["7"] == min(seven.values())  # the centre one is shorter


def test_strip_svg_is_to_scale(barge: Results) -> None:
    found = strips(barge, "W04")
    svg = ElementTree.fromstring(strips_svg(found))
    assert svg.get("width", "").removesuffix("mm") == svg.get("viewBox", "").split()[2]
    for one, group in zip(found, [g for g in svg if g.get("class") == "end"], strict=True):
        rects = {rect.get("class"): rect for rect in group if rect.tag.endswith("rect")}
        assert float(rects["conductor"].get("width", 0)) == pytest.approx(one.strip_mm, abs=1e-3)
        drawn = {rect.get("data-what"): float(rect.get("width", 0)) for rect in group if rect.get("class") == "piece"}
        assert drawn == {piece.what: pytest.approx(piece.to_mm - piece.from_mm, abs=2e-3) for piece in one.pieces}
    with pytest.raises(InputError):
        strips(barge, "W99")


def test_the_order_keeps_every_before(barge: Results, shore: Results) -> None:
    for results in (barge, shore):
        for end in results.design.ends:
            steps = steps_at(results, end.id)
            place = {step.id: at for at, step in enumerate(steps)}
            assert len(place) == len(steps)
            for step in steps:
                assert all(place[before] < place[step.id] for before in step.after)
            for one in steps:
                mine = [other for other in steps if other.wire == one.wire and one.wire]
                if one.op == "thread":
                    assert all(place[one.id] < place[other.id] for other in mine if other.op in ("strip", "crimp"))
                if one.op == "lock":
                    assert all(place[other.id] < place[one.id] for other in steps if other.op in ("insert", "plug"))
    centre_first = [step.cavity for step in steps_at(shore, "tractor") if step.op == "insert"]
    assert centre_first[0] == "7"  # the middle one while it can be got at


def test_forgetting_is_told_before(barge: Results) -> None:
    assert all(step.told for step in steps_at(barge, "wash") if step.op == "thread")


def test_the_house_flows_solder_or_not() -> None:
    def ops(**practice: str) -> list[str]:
        design = demo("shore")
        project = design.project.model_copy(update={"practice": Practice(**practice)})  # type: ignore[arg-type]
        return [step.op for step in steps_at(analyse(design.model_copy(update={"project": project})), "battery")]

    assert "solder" not in ops()
    assert "solder" in ops(solder="flow")


def test_large_lugs_by_hex_or_indent() -> None:
    design = demo("shore")
    project = design.project.model_copy(update={"practice": Practice(lug_tool="indent")})
    hexed, dented = (strips(analyse(one), "B2")[0] for one in (design, design.model_copy(update={"project": project})))
    assert hexed.crimp_height_mm
    assert "hex" in hexed.tool
    assert dented.crimp_height_mm is None
    assert "indent" in dented.tool


def test_every_matter_is_a_setting_with_both_reasons() -> None:
    for matter in MATTERS:
        values = {school.value for school in matter.schools}
        assert len(values) >= 2
        assert all(school.why for school in matter.schools)
        assert getattr(Practice(), matter.field) == matter.schools[0].value
        for value in values:
            Practice(**{matter.field: value})


def test_proposals_are_the_fewest() -> None:
    """Against all choices tried: groups of ends, the parts each may take, parts that share tools."""
    puzzles = [
        ((("a", "b"), 2), (("b", "c"), 1), (("c", "d"), 4)),
        ((("a",), 1), (("a", "b"), 1), (("b", "c"), 1), (("c", "d"), 1)),
        ((("a", "c"), 1), (("b", "c"), 1), (("d", "e"), 1), (("a", "e"), 1)),
    ]
    tool = {"a": "t1", "b": "t1", "c": "t2", "d": "t3", "e": ""}
    for groups in puzzles:
        ids = tuple(sorted({one for options, _ in groups for one in options}))
        picks, cost, bound = cheapest(groups, ids, tuple(tool[one] for one in ids), (0.0,) * len(ids), 1.0, 3.0)
        best = min(
            len(set(choice)) + 3 * len({tool[one] for one in choice if tool[one]})
            for choice in itertools.product(*[options for options, _ in groups])
        )
        assert cost == pytest.approx(best)
        assert bound == pytest.approx(best)
        assert all(pick in options for options, pick in picks)
        costs = Costs(tool, dict.fromkeys(tool, 0.0), 1.0, 3.0)
        assert by_program(groups, costs)[1:] == pytest.approx(every_way(groups, costs)[1:])


def test_proposals_fit_and_are_taken(barge: Results) -> None:
    known = barge.once(fitted)
    assert known.bound <= known.cost * (1 + 1e-6)
    taken = accept(barge.design, known)
    after = analyse(taken)
    pump = {"W08", "W09"}  # too hot already; their contacts' own ohms count once they are chosen
    assert {f.wire for f in after.once(fits) if not f.ok} == pump == {f.wire for f in barge.once(fits) if not f.ok}
    assert not any(f.proposed for f in after.once(fits) if f.part and f.rule != "cavity.plugged")
    carried = {part.id for part in taken.parts}
    for wire in taken.wires:
        for fitting in (wire.at_start, wire.at_finish):
            assert fitting is None or {fitting.part, fitting.seal, fitting.shrink, fitting.ferrule} - {None} <= carried


@pytest.mark.parametrize("name", ["barge", "shore", "loops"])
@pytest.mark.parametrize("chosen", [False, True])
def test_one_end_asked_by_itself_is_as_among_all(name: str, chosen: bool) -> None:
    """With all parts chosen nothing is solved for it; what is to be proposed is as it is proposed for all."""
    whole = worked_out(name)
    design = accept(whole.design, whole.once(fitted)) if chosen else whole.design
    whole = analyse(design)
    for one in places_of(design, whole.shelf).ends[:: 1 if LONG else 4]:
        alone = Results(design, {}, None, whole.shelf)
        found, known = fitted_at(alone, one), whole.once(fitted)
        if (stuff := known.stuff.get(one.key)) is None:
            assert found is None
        else:
            assert found is not None
            assert found[0] == known.of(one)
            assert replace(found[1], amps=0.0) == replace(stuff, amps=0.0)
    end = next(one for one in places_of(design, whole.shelf).ends if one.made == "lug" or one.fitting.part)
    asked = Results(design, {}, None, whole.shelf)
    fitted_at(asked, end)
    assert not (chosen and asked.has(currents))


def test_a_locked_choice_stays() -> None:
    design = set_fitting(demo("barge"), "W10", "finish", part="cockle-m-socket-1.5", locked=True)
    known = analyse(design).once(fitted)
    assert known.fittings["W10", "finish"].part == "cockle-m-socket-1.5"
    with pytest.raises(EditError, match="No catalogue"):
        set_fitting(design, "W10", "finish", part="nothing such")


def test_sizes_obey_their_ends() -> None:
    """A contact to 4 mm² at 60 A: the proposal stays at what the end takes, and without parts goes beyond."""
    small = contact(id="only", area_mm2={"low": 1.0, "high": 4.0}, rated_a=500)
    design = lead([small, housing()], amps=60.0)
    free = put_all(design, "wires", [change(wire, size=None, at_start=None, at_finish=None) for wire in design.wires])
    assert set(analyse(free).sizes.values()) == {"4 mm2"}
    bare = free.model_copy(update={"ends": tuple(change(end, housings=()) for end in free.ends)})
    assert analyse(bare).sizes["W1"] not in ("1 mm2", "1.5 mm2", "2.5 mm2", "4 mm2")


labels = st.sampled_from(["1", "2", "3", "4", "5", "6", "7", "8"])


@settings(deadline=None, max_examples=40)
@given(st.lists(st.tuples(st.sampled_from(["W37", "W39", "W36", "W38"]), labels), max_size=6))
def test_assigning_never_loses_a_wire(moves: list[tuple[str, str]]) -> None:
    """Any moves among the valve block's cavities: every wire keeps a cavity of its own there."""
    design = demo("barge")
    before = {one.key for one in places_of(design).ends if one.end.id == "valves"}
    for wire, label in moves:
        side = next(one.side for one in places_of(design).ends if one.end.id == "valves" and one.wire.id == wire)
        design = assign(design, wire, side, label)
        assert places_of(design).by_key[wire, side].label == label
    here = [one for one in places_of(design).ends if one.end.id == "valves"]
    assert {one.key for one in here} == before
    assert len({one.label for one in here}) == len(here)


def test_swap_fill_and_what_is_refused() -> None:
    design = demo("barge")

    def at(label: str, of: Design) -> str:
        return next(one.wire.id for one in places_of(of).ends if one.end.id == "valves" and one.label == label)

    turned = swap(design, "valves", "1", "2")
    assert (at("1", turned), at("2", turned)) == (at("2", design), at("1", design))
    assert swap(turned, "valves", "1", "2") == design
    row = [at(str(n), design) for n in (4, 3, 2, 1)]
    filled = fill_run(design, "valves", row, "1")
    assert [at(str(n), filled) for n in (1, 2, 3, 4)] == row
    for act in (
        lambda: assign(design, "W37", "start", "99"),
        lambda: fill_run(design, "valves", row, "7"),
        lambda: fill_run(design, "valves", ["W01"], "1"),
        lambda: set_housing(design, "valves", "A", "cockle-m2-plug"),
        lambda: set_housing(design, "valves", "A", "nothing"),
        lambda: set_cable(design, "no", None),
    ):
        with pytest.raises(EditError):
            act()


def test_a_housing_comes_with_its_labels() -> None:
    design = set_housing(demo("barge"), "belt", "A", "whelk-8-plug")
    assert "whelk-8-plug" in {part.id for part in design.parts}
    assert {one.label for one in places_of(design).ends if one.end.id == "belt"} == {"1", "2", "3"}
    forgotten = set_housing(design, "belt", "A", None)
    assert all(one.made is None for one in places_of(forgotten).ends if one.end.id == "belt")


def test_a_cable_names_its_cores() -> None:
    design = set_cable(demo("shore"), "cord", "heron-cord-a-2.5")
    assert {wire.core for wire in design.wires if wire.cable == "cord"} == {"L", "N", "E"}


def test_every_fit_can_be_asked_why(barge: Results, shore: Results) -> None:
    for results in (barge, shore):
        for fit in results.once(fits):
            said = why_fit(fit).as_text()
            assert fit.message in said
    assert {f.rule for r in (barge, shore) for f in r.once(fits) if f.value is not None} <= set(RULES)


def test_bundled_contacts_are_sound() -> None:
    """Every bundled contact has a tool that is bundled, crimps inside its range, a pull force of IEC 60352-2's
    table."""

    shelf = generic()
    for one in shelf.of(Contact):
        assert one.tool is None or shelf.named(one.tool) is not None
        assert all(one.area_mm2.holds(row.area_mm2) for row in one.crimps)
    assert {part.kind for part in shelf.parts.values()} >= {
        "contact",
        "housing",
        "seal",
        "blanking plug",
        "lug",
        "splice",
        "ferrule",
        "clamp",
        "terminal block",
        "gland",
        "boot",
        "shrink",
        "braid",
        "cable",
        "tool",
    }


def test_cautions_where_they_apply(shore: Results) -> None:
    codes = {finding.code for finding in shore.findings}
    assert "caution.cord" in codes
    assert not codes & {"caution.adhesive", "caution.jump_lead"}
    lined = set_fitting(demo("barge"), "W08", "start", part=None)
    lined = lined.model_copy(
        update={
            "wires": tuple(
                change(w, at_finish={"part": "anchor-sealed-2.5-m8"}) if w.id == "W09" else w for w in lined.wires
            )
        }
    )
    assert "caution.adhesive" in {finding.code for finding in analyse(lined).findings}
    two = demo("shore")
    tractor = two.supplies[0]
    both = put_all(
        two, "supplies", [change(tractor, plus={"end": "winch", "cavity": "+"}, minus={"end": "winch", "cavity": "-"})]
    )
    assert "caution.jump_lead" in {finding.code for finding in analyse(both).findings}


def test_edits_at_the_edges() -> None:
    design = demo("barge")
    # an empty cavity first, or second: the one wire moves
    for pair in (("10", "1"), ("1", "10")):
        moved = swap(design, "j1", *pair)
        assert {one.label for one in places_of(moved).ends if one.wire.id == "W28" and one.end.id == "j1"} == {"10"}
    with pytest.raises(EditError, match="Neither"):
        swap(design, "j1", "9", "10")
    # the fuse box has a row and a stud: another part for the row leaves the stud as it is
    box = set_housing(design, "box", "row", "anchor-fuse-12")
    assert {body.id: body.part for body in places_of(box).by_key["W04", "start"].end.housings} == {
        "row": "anchor-fuse-12",
        "feed": None,
    }
    sealed = set_housing(design, "lever", "A", "whelk-8-plug")
    assert next(end for end in sealed.ends if end.id == "lever").housings[0].sealed
    open_ = set_housing(design, "lever", "A", "winkle-6-plug")
    assert not next(end for end in open_.ends if end.id == "lever").housings[0].sealed
    # without a housing the end's own cavities are the labels
    bare = set_housing(design, "valves", "A", None)
    side = next(one.side for one in places_of(bare).ends if one.wire.id == "W37" and one.end.id == "valves")
    with pytest.raises(EditError, match="no cavity"):
        assign(bare, "W37", side, "99")
    assert assign(design, "W37", side, places_of(design).by_key["W37", side].label) is design


def test_some_proposals_alone_are_taken(barge: Results) -> None:
    known = barge.once(fitted)
    taken = accept(barge.design, known, [("W10", "finish")])
    assert [wire.id for wire in taken.wires if wire.at_start or wire.at_finish] == ["W10"]
    assert all(body.blanks is None for end in taken.ends for body in end.housings)
    assert any(body.blanks for end in accept(barge.design, known).ends for body in end.housings)


def test_sizes_obey_their_lugs_and_seals() -> None:
    """A stud whose lugs end at 6 mm², a seal tight on no more than a 2.5 mm² wire: proposals stay at what they take."""
    from ends_kit import part

    lug = part(
        kind="lug",
        id="c",
        name="c",
        area_mm2={"low": 1, "high": 6},
        strip_mm=8,
        stud_mm=33,
        width_mm=40,
        pad_mm=40,
        barrel_mm=9,
        barrel_od_mm=5,
    )
    stud = lead([lug], {"housings": [], "stud_mm": 33.0}, amps=60.0)
    free = put_all(stud, "wires", [change(wire, size=None, at_start=None, at_finish=None) for wire in stud.wires])
    assert set(analyse(free).sizes.values()) == {"6 mm2"}
    tight = part(kind="seal", id="s", name="s", family="t", size="X", wire_mm={"low": 1.0, "high": 3.0})
    wet = lead([contact(), housing(seal="wire seals"), tight], amps=60.0)
    free = put_all(
        wet, "wires", [change(wire, size=None, make="general", at_start=None, at_finish=None) for wire in wet.wires]
    )
    assert set(analyse(free).sizes.values()) == {"2.5 mm2"}


@pytest.mark.parametrize(("size", "folded", "height"), [
    ("0.75 mm2", False, None), ("0.75 mm2", True, 1.5), ("1.5 mm2", False, 1.5), ("2.5 mm2", False, 1.9), ("AWG 14", False, 1.9), ("1.5 mm2", True, None), ("2.5 mm2", True, None),
    ("6 mm2", False, None), ("6 mm2", True, None),
])  # fmt: skip
def test_which_crimp_has_one_answer(size: str, folded: bool, height: float | None) -> None:
    """Fit, strip drawing, bench and its sample say the same row of a sheet of 1.5 and 2.5 mm² (given upside down), a
    folded wire counted double, and none beyond it. The wire's pull stays that of its own conductor."""
    rows = [{"area_mm2": 2.5, "height_mm": 1.9}, {"area_mm2": 1.5, "height_mm": 1.5}]
    design = lead(
        [
            contact(crimps=rows, area_mm2={"low": 0.1, "high": 50}, tool="t"),
            housing(),
            part(kind="tool", id="t", name="press", does="crimp"),
        ]
    )
    wires = tuple(
        w.model_copy(
            update={"size": size, "at_finish" if w.id == "W1" else "at_start": Fitting(part="c", folded=folded)}
        )
        for w in design.wires
    )
    design = set_project(
        design.model_copy(update={"wires": wires}), practice=change(design.project.practice, thin="fold")
    )
    results = results_of(design)
    fit = the(design, "tool.die")
    assert (fit.ok, f"crimped to {height:g}" in fit.message if height else "no crimp" in fit.message) == (
        height is not None,
        True,
    )
    drawn = next(one for one in strips(results, "W1") if one.end == "dev")
    assert drawn.crimp_height_mm == height
    crimps = [one for one in results.once(operations) if one.op == "crimp" and one.part == "c"]
    assert len(crimps) == 3
    for one in crimps:
        found = limits_of(generic().carrying(design.parts), one, "height")
        assert (found.low, found.text == "no limit known") == (height and pytest.approx(height - 0.05), height is None)
        assert limits_of(generic().carrying(design.parts), one, "pull").low == (
            round(x, 1) if (x := least_pull_n(area_of(size), False)[0]) else None
        )


def test_a_sheet_of_crimps_is_checked_when_it_is_read(tmp_path: Path) -> None:
    rows = [{"area_mm2": a, "height_mm": h} for a, h in ((2.5, 1.4), (1.5, 1.5), (1.5, 1.5))]
    (tmp_path / "c.json").write_text(
        json.dumps(
            [
                {
                    "kind": "contact",
                    "id": "c",
                    "name": "c",
                    "gender": "pin",
                    "size": "X",
                    "area_mm2": {"low": 1, "high": 3},
                    "strip_mm": 5,
                    "crimps": rows,
                }
            ]
        )
    )
    told = " ".join(map(str, read_catalogue(tmp_path / "c.json").faults))
    assert "1.5 mm² stands twice" in told
    assert "pressed flatter than 1.5 mm²" in told
