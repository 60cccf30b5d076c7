"""One line of plain words becomes a load, its wires, its run and its fuse."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import design_of
from umber_trunk.core.errors import EditError, UmberError
from umber_trunk.core.harness.edits import put, set_project
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, LoadKind, Point
from umber_trunk.core.needs.enter import enter
from umber_trunk.core.needs.line import parse_need
from umber_trunk.core.needs.outlets import project_return

LINE = "winch 2 kW surge 140A/0.5s duty 20s/60s at foredeck in deck 35C wet run 7.5 m min 21 V"


def test_everything_in_one_line() -> None:
    need = parse_need(LINE, 24)
    assert need.ok
    assert (need.name, need.kind, need.value) == ("winch", LoadKind.POWER, 2000)
    assert (need.surge_a, need.surge_s, need.on_s, need.period_s) == (140, 0.5, 20, 60)
    assert (need.where, need.zone, need.zone_c, need.zone_flags) == ("foredeck", "deck", 35, ("wet",))
    assert (need.run_m, need.min_volts) == (7.5, 21)


@pytest.mark.parametrize(
    ("text", "field", "value"),
    [
        ("pump 4A at bow", "value", 4),
        ("4,5 A pump at bow", "value", 4.5),
        ("deck lights 2 x 21 W at mast", "value", 42),
        ("lamp 5 A run 12 ft 3 in", "run_m", 3.7338),
        ("lamp 5 A run 850 mm at bow", "run_m", 0.85),
        ("horn 5 A start 12A for 2 s", "surge_s", 2),
        ("horn 5 A surge 12 A", "surge_s", 1),
        ("lamp 5 A drop 3%", "max_drop_percent", 3),
        ("lamp 5 A max drop 0.6 V", "max_drop_v", 0.6),
        ("fan 3 A duty 5 min in 30 min at bow", "on_s", 300),
        ("fan 3 A off mast foot run 2 m", "off", "mast foot"),
        ("fan 3 A from fuse box", "source", "fuse box"),
        ("fan 3 A frame return", "frame", True),
        ("heater 2 ohm at bow", "kind", LoadKind.RESISTANCE),
        ("fan 3 A in engine well 60C oily shaking", "zone_flags", ("oil", "vibration")),
    ],
)
def test_pieces(text: str, field: str, value: object) -> None:
    need = parse_need(text, 24)
    found = getattr(need, field)
    assert found == (pytest.approx(value) if isinstance(value, float) else value)
    assert need.ok


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("pump", "how much"),
        ("4 A", "what it is"),
        ("pump 4 A min 30 V", "can't come from"),
        ("pump 4 A duty 60s/20s", "not possible"),
        ("pump 4 A, gibberish", "not understood"),
        ("pump 4 A at bilge 4 m from box", "“4 m” in “bilge 4 m”"),
        ("pump 4 A at bow in deck 35C 95%", "“95%” in “deck 95%”"),
        ("lamp 4 A from psu 5V", "“5V” in “psu 5V”"),
        ("lamp 4 A run 3 m off mast 2 ft", "“2 ft” in “mast 2 ft”"),
        ("supply at battery", "how many volts"),
    ],
)
def test_what_is_missing_or_wrong_is_said(text: str, says: str) -> None:
    need = parse_need(text, 24)
    assert not need.ok
    assert says in " ".join([*need.missing, *(piece.meaning for piece in need.pieces if not piece.ok)])
    with pytest.raises(EditError, match=says):
        enter(design_of("supply 24 V at battery"), need)


@given(st.text(max_size=60))
def test_no_line_breaks_the_reader(text: str) -> None:
    need = parse_need(text, 24)
    for piece in need.pieces:
        assert 0 <= piece.start <= piece.end <= len(text)


@given(st.lists(st.sampled_from(LINE.split()), max_size=14))
def test_shuffled_words_are_read_or_refused(words: list[str]) -> None:
    base = design_of("supply 24 V at battery")
    try:
        design = enter(base, parse_need(" ".join(words), 24))
    except UmberError:
        return
    assert len(design.loads) + len(design.supplies) == 2


def test_entering_makes_end_run_wires_and_load() -> None:
    design = design_of("supply 24 V 5 mohm at battery", LINE)
    index = index_of(design)
    assert [wire.name for wire in design.wires] == ["winch feed", "winch return"]
    assert all(index.length_m(wire) == pytest.approx(7.5) for wire in design.wires)
    load = design.loads[0]
    assert design.wires[0].finish == load.plus
    assert design.wires[1].start == load.minus
    zone = index.zones[index.ends["foredeck"].zone or ""]
    assert (zone.ambient_c, zone.wet) == (35, True)
    assert design.segments[0].zone == zone.id
    assert design.supplies[0].source_ohm == pytest.approx(0.005)


def test_a_fuse_box_gives_each_load_its_own_way() -> None:
    design = design_of("supply 24 V at battery")
    box = End(id="box", name="fuse box", kind=EndKind.BOX, point="P2", cavities=(Cavity(id="in"),), bridged=(("in",),))
    design = put(put(design, "points", Point(id="P2")), "ends", box)
    design = design_of("pump 9 A at bow run 3 m from fuse box", "lamp 2 A at stern run 4 m from fuse box", start=design)
    links = index_of(design).ends["box"].links
    assert [(link.b, link.rating_a) for link in links] == [("F1", 15), ("F2", 3)]
    assert [str(wire.start) for wire in design.wires if "feed" in wire.name] == ["box:F1", "box:F2"]


def test_a_second_load_at_the_same_end_has_its_own_pins() -> None:
    design = design_of("supply 12 V at battery", "lamp 2 A at mast run 4 m", "fan 3 A at mast")
    assert {str(load.plus) for load in design.loads} == {"mast:+", "mast:+2"}
    assert len(design.segments) == 1


def test_branching_off_a_breakout_measures_from_there() -> None:
    design = design_of("supply 12 V at battery", "lamp 2 A at mast run 4 m", "fan 3 A at top run 1.5 m off mast")
    fan = next(wire for wire in design.wires if wire.name == "fan feed")
    assert index_of(design).length_m(fan) == pytest.approx(5.5)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("fan 3 A from nowhere", "no end called"),
        ("fan 3 A at x run 2 m off nowhere", "not on the trunk"),
        ("lamp 1 A at mast run 2 m", "on the trunk already"),
    ],
)
def test_lines_that_do_not_fit_the_harness(line: str, says: str) -> None:
    design = design_of("supply 12 V at battery", "lamp 2 A at mast run 4 m")
    with pytest.raises(EditError, match=says):
        enter(design, parse_need(line, 12))


def test_without_a_supply_the_line_says_so() -> None:
    with pytest.raises(EditError, match="no supply yet"):
        enter(Design(), parse_need("pump 4 A at bow run 3 m", 12))


def test_returns_go_where_the_project_says() -> None:
    """To a source's own minus, to the first place of a bar, to a place made for it; nowhere said: to the source."""
    start = design_of("supply 24 V 5 mohm at battery", "negative bar at bar run 1 m")
    start = put(start, "ends", End(id="stud", name="stud"))
    first = next(end for end in start.ends if end.id == "bar").cavities[0].id
    for said, pin in (
        ("battery", ("battery", "-")),
        ("bar", ("bar", first)),
        ("stud", ("stud", "-")),
        (None, ("battery", "-")),
    ):
        design, back = project_return(set_project(start, return_end=said))
        assert (back.end, back.cavity) == pin
        assert back.cavity in {cavity.id for end in design.ends if end.id == back.end for cavity in end.cavities}
    with pytest.raises(EditError, match="no supply"):
        project_return(set_project(start, return_end=None).model_copy(update={"supplies": ()}))
