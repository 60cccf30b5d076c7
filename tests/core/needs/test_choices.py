"""What the builder chooses in words: wire specifications, cases, fuses that fit."""

import pytest

from conftest import design_of
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import parse_spec
from umber_trunk.core.errors import InputError
from umber_trunk.core.fuses.fit import fit_fuses
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.needs.cases import loads_said, loads_text, set_case
from umber_trunk.core.physics.fuses import fitting_rating


@pytest.mark.parametrize(
    ("text", "spec"),
    [
        ("10 mm2", {"size": "10 mm2"}),
        ("2 x 16 mm²", {"size": "16 mm2", "parallel": 2}),
        ("2x AWG 2/0 tinned", {"size": "AWG 2/0", "parallel": 2, "metal": "tinned"}),
        ("16 mm2 Tinned marine rubber", {"size": "16 mm2", "metal": "tinned", "make": "marine", "jacket": "rubber"}),
        ("? xlpe", {"size": None, "jacket": "xlpe"}),
        ("", {"size": None}),
    ],
)
def test_wires_as_typed(text: str, spec: dict[str, object]) -> None:
    assert parse_spec(text) == spec


def test_a_strange_word_is_refused() -> None:
    with pytest.raises(InputError, match="not a size"):
        parse_spec("10 mm2 golden")


@pytest.mark.parametrize(
    ("text", "running"),
    [
        ("all", None),
        ("everything", None),
        ("conveyor motor, horn", ("conveyor", "horn")),
        ("Horn and reach radio", ("horn", "radio")),
        ("all but grading drum, wash pump", 16),
        ("all except wash", 17),
    ],
)
def test_cases_in_words(demo: Design, text: str, running: object) -> None:
    found = loads_said(demo, text)
    if isinstance(running, int):
        assert found is not None
        assert len(found) == running
    else:
        assert found == running


def test_every_case_of_the_demo_reads_back(demo: Design) -> None:
    for case in demo.cases:
        text = loads_text(demo, case)
        again = loads_said(demo, text)
        assert (again is None and case.loads is None) or set(again or ()) == set(case.loads or ())


def test_a_case_is_entered_in_one_line(demo: Design) -> None:
    design = design_of("case at anchor: masthead light, bilge pump", start=demo)
    assert design.cases[-1].loads == ("bilge", "mast")
    again = design_of("case at anchor: all", start=design)
    assert len(again.cases) == len(design.cases)
    assert again.cases[-1].loads is None
    with pytest.raises(InputError, match="no load called"):
        set_case(demo, "x", "ghost")
    anchored = analyse(design).figures.by_case["at-anchor"]
    assert set(anchored) == {"bilge", "mast"}


@pytest.mark.parametrize(
    ("amps", "ambient", "surges", "rating"),
    [
        (10.0, 25.0, [], 15),
        (12.0, 25.0, [], 15),
        (12.0, 55.0, [], 20),
        (4.0, 25.0, [(30.0, 0.5)], 25),
        (390.0, 25.0, [], 500),
        (450.0, 25.0, [], None),
    ],
)
def test_fitting_ratings(amps: float, ambient: float, surges: list[tuple[float, float]], rating: float | None) -> None:
    assert fitting_rating(amps, ambient, surges) == rating


def test_open_fuses_are_fitted_and_hold(demo: Design) -> None:
    opened = demo
    for link in index_of(demo).ends["box"].links:
        opened = edits.set_fuse(opened, "box", link.id, None)
    fitted = fit_fuses(opened, analyse(opened).figures.solution)
    ratings = {link.id: link.rating_a for link in index_of(fitted).ends["box"].links}
    assert ratings["F1"] == 30  # 25 A would carry 19 A, but not 48 A for 0.3 s
    assert all(rating is not None for rating in ratings.values())
    codes = {f.code for f in analyse(fitted).findings}
    assert not codes & {"fuse.no_rating", "link.overload", "fuse.surge"}
    assert fit_fuses(demo, analyse(demo).figures.solution) == demo


BARE = (
    "supply 24 V 5 mohm at battery",
    "winch 60 A surge 140A/0.5s at foredeck run 4 m",
    "lamp 2 A at mast run 3 m off foredeck",
)


def test_bare_feeds_get_a_fuse_at_the_source() -> None:
    design = design_of(*BARE)
    before = analyse(design)
    assert sum(f.code == "wire.unprotected" for f in before.findings) == 2
    placing = place_fuses(design, before.figures)
    # 60 A warm needs 80; 140 A for half a second is 1.75 × 80, which a bolt-down link stands for over 3 s
    assert {link.id: link.rating_a for link in index_of(placing.design).ends["battery"].links} == {"F1": 80, "F2": 3}
    after = analyse(placing.design)
    assert not {f.code for f in after.findings} & {
        "wire.unprotected",
        "wire.fuse",
        "fuse.surge",
        "link.overload",
        "fuse.no_rating",
    }
    assert not place_fuses(placing.design, after.figures).changes
    # about 0.1 V more on the winch's way, less 5 mV in the thicker wires' joints
    assert before.figures.loads["winch"].volts - after.figures.loads["winch"].volts == pytest.approx(
        60 * 0.1 / 80, abs=0.02
    )


def test_a_stud_becomes_a_box_that_still_joins_its_lugs() -> None:
    design = design_of(*BARE)
    stud = index_of(design).ends["battery"]
    lugs = tuple(edits.change(stud, kind="stud", cavities=(*stud.cavities[:1],)).cavities)
    plus = edits.change(
        stud, id="plus", name="plus stud", kind="stud", cavities=(*lugs, *(edits.change(lugs[0], id="b"),))
    )
    moved = edits.put(design, "ends", plus)
    for wire in ("W1", "W3"):
        moved = edits.put(
            moved, "wires", edits.change(index_of(moved).wires[wire], start={"end": "plus", "cavity": "+"})
        )
    moved = edits.put(moved, "supplies", edits.change(design.supplies[0], plus={"end": "plus", "cavity": "b"}))
    placed = place_fuses(moved, analyse(moved).figures).design
    assert index_of(placed).ends["plus"].bridged == (("+", "b"),)
    assert analyse(placed).figures.loads["winch"].volts > 22


def test_a_fuse_too_large_for_its_wire_gives_way_to_a_smaller_one() -> None:
    design = place_fuses(design_of(*BARE), analyse(design_of(*BARE)).figures).design
    coarse = edits.set_size(edits.set_fuse(design, "battery", "F2", 80), ["W3"], "0.75 mm2")
    found = analyse(coarse)
    assert "wire.fuse" in {f.code for f in found.findings}
    placing = place_fuses(coarse, found.figures)
    assert placing.changes == ("F2 from 80 to 3 A for lamp feed",)
    shared = edits.put(
        coarse, "wires", edits.change(index_of(coarse).wires["W1"], start={"end": "battery", "cavity": "F2"})
    )
    placing = place_fuses(shared, analyse(shared).figures)
    assert placing.changes == ("fuse of 3 A placed before lamp feed",)
    assert "wire.fuse" not in {f.code for f in analyse(placing.design).findings}
    # a circuit that asks for more than its wire bears is left to the wire's size
    hungry = edits.set_size(design, ["W1", "W2"], "4 mm2")
    assert not place_fuses(hungry, analyse(hungry).figures).changes
