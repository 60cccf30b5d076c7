"""Faces against maps worked by hand with a pencil, mating halves, pin maps compared."""

from __future__ import annotations

import xml.etree.ElementTree as ElementTree
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ends_kit import contact, housing, lead, part, results_of
from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import generic
from umber_trunk.core.demo import demo
from umber_trunk.core.ends.assign import assign, set_housing, swap
from umber_trunk.core.ends.faces import face_of_part, faces_in, faces_of, turning
from umber_trunk.core.ends.fits import fits
from umber_trunk.core.ends.mate import agreement, ends_agree, mate_of, through
from umber_trunk.core.ends.meaning import half_of, half_of_pins
from umber_trunk.core.ends.svg import faces_svg
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import Design

SHELF = generic()


def rows_of(part_id: str, side: str) -> list[str]:
    """Labels as one reads them, row by row from the top, each from the left."""
    found = SHELF.get(part_id, Housing)
    assert found is not None
    spots = face_of_part(found, side).spots  # type: ignore[arg-type]
    lines: dict[float, list[tuple[float, str]]] = {}
    for spot in spots:
        lines.setdefault(-round(spot.y_mm, 2), []).append((spot.x_mm, spot.label))
    return [" ".join(label for _, label in sorted(row)) for _, row in sorted(lines.items())]


@pytest.mark.parametrize(("part_id", "wire", "mating"), [
    ("cockle-m2-plug", ["1 2"], ["2 1"]),
    ("cockle-m2-receptacle", ["2 1"], ["1 2"]),
    ("cockle-m4-plug", ["1 2", "3 4"], ["2 1", "4 3"]),
    ("cockle-m8-receptacle", ["4 3 2 1", "8 7 6 5"], ["1 2 3 4", "5 6 7 8"]),
    ("kelp-24-plug", ["1 2 3 4 5 6 7 8 9 10 11 12", "13 14 15 16 17 18 19 20 21 22 23 24"], ["12 11 10 9 8 7 6 5 4 3 2 1", "24 23 22 21 20 19 18 17 16 15 14 13"]),
    ("barnacle-small", ["+ -"], ["- +"]),
    ("heron-3-plug", ["E", "L N"], ["E", "N L"]),
    ("heron-3-receptacle", ["E", "N L"], ["E", "L N"]),
    ("eel-2-plug", ["centre", "sleeve"], ["centre", "sleeve"]),
])  # fmt: skip
def test_faces_by_hand(part_id: str, wire: list[str], mating: list[str]) -> None:
    assert rows_of(part_id, "wire") == wire
    assert rows_of(part_id, "mating") == mating


@pytest.mark.parametrize(("part_id", "wire", "mating"), [
    ("winkle-6-plug", "clockwise", "anticlockwise"),
    ("winkle-6-receptacle", "anticlockwise", "clockwise"),
    ("limpet-12-plug", "clockwise", "anticlockwise"),
])  # fmt: skip
def test_round_faces_run_opposite_ways(part_id: str, wire: str, mating: str) -> None:
    """A ring without a key: on sockets seen from behind the order runs clockwise, on the pins that go into them the
    other way; each turns round when looked at from in front."""
    found = SHELF.get(part_id, Housing)
    for side, way in (("wire", wire), ("mating", mating)):
        face = face_of_part(found, side)  # type: ignore[arg-type]
        assert turning(face.spots[:6]) == way
        assert (way in face.words) is not found.keyed
        assert f"{side} side" in face.words


def test_pins_and_sockets_meet() -> None:
    """Laid face to face, every cavity of a bundled plug lies on the one of its receptacle with its label: seen from the
    mating side of one, the other's wire side."""
    for one in SHELF.of(Housing):
        other = SHELF.mate_of(one)
        if other is None:
            continue
        derived = mate_of(face_of_part(one, "wire"), Design())
        front = {spot.label: spot.x_mm + 1j * spot.y_mm for spot in derived.spots}
        behind = {spot.label: spot.x_mm + 1j * spot.y_mm for spot in face_of_part(other, "wire").spots}
        assert front == pytest.approx(behind), one.id
        if one.form == "genderless":
            assert [spot.turn_deg for spot in derived.spots] == [
                spot.turn_deg for spot in face_of_part(other, "wire").spots
            ]
        assert derived.turned_deg == (180.0 if one.form == "genderless" else 0.0)
        assert ("turned by 180°" in derived.words) is (one.form == "genderless")


@given(st.sampled_from([housing.id for housing in SHELF.of(Housing)]), st.sampled_from(["wire", "mating"]))
def test_the_mate_of_the_mate_is_the_first(part_id: str, side: str) -> None:
    found = SHELF.get(part_id, Housing)
    assert found is not None
    face = face_of_part(found, side)  # type: ignore[arg-type]
    once = mate_of(face, Design())
    again = mate_of(once, Design())
    assert again.spots == face.spots
    assert again.form == face.form
    assert again.contacts == face.contacts
    assert face.seen_from("mating").seen_from("wire").spots == face.seen_from("wire").spots
    if found.mates:
        assert again.part == face.part


MATED = [one for one in SHELF.of(Housing) if SHELF.mate_of(one) is not None]


def coupling(one: Housing, mine: list[int], theirs: list[int], name: str = "{}") -> Design:
    """Two ends that plug into one another: x is fed, y feeds. Lead n is circuit n // 2, its + and − by turns, every
    fourth two signals; `mine` and `theirs` say which lead is in which cavity; `name` is what circuits are called on the
    fed side."""
    other = SHELF.mate_of(one)
    assert other is not None
    labels = [cavity.label for cavity in one.cavities]
    ends: list[dict[str, Any]] = [
        {
            "id": side,
            "name": side,
            "kind": "connector",
            "cavities": [{"id": label} for label in labels],
            "housings": [{"id": "A", "part": of.id}],
        }
        for side, of in (("x", one), ("y", other))
    ]
    loads, wires = [], []
    for n in range(len(labels)):
        signal, circuit, pole = n // 2 % 4 == 3, f"c{n // 2}", "+-"[n % 2]
        far = "computer" if signal else f"box{pole}"
        ends.append({"id": f"load{n}", "name": f"far {n}", "cavities": [{"id": "1"}, {"id": "2"}]})
        shared = {"signal": signal, "colour": "red"}
        wires += [
            {
                "id": f"A{n}",
                "start": {"end": far, "cavity": str(n)},
                "finish": {"end": "x", "cavity": labels[mine[n]]},
                "circuit": name.format(f"s{n}" if signal else circuit),
                **shared,
            },
            {
                "id": f"B{n}",
                "start": {"end": "y", "cavity": labels[theirs[n]]},
                "finish": {"end": f"load{n - n % 2}", "cavity": str(n % 2 + 1)},
                "circuit": f"s{n}" if signal else circuit,
                **shared,
            },
        ]
        if n % 2 == 0 and not signal:
            pins = {"plus": {"end": f"load{n}", "cavity": "1"}, "minus": {"end": f"load{n}", "cavity": "2"}}
            loads.append({"id": f"L{n}", "name": f"load of {n}", "value": 1.0, **pins})
    many = [{"id": str(n)} for n in range(len(labels))]
    fuses = [{"id": f"F{n}", "kind": "fuse", "a": "in", "b": str(n)} for n in range(len(labels))]
    ends += [
        {"id": "battery", "name": "battery", "cavities": [{"id": "+"}, {"id": "-"}]},
        {"id": "computer", "name": "computer", "cavities": many},
        {"id": "box+", "name": "fuses", "kind": "box", "cavities": [*many, {"id": "in"}], "links": fuses},
        {"id": "box-", "name": "bar", "kind": "bar", "cavities": [*many, {"id": "in"}]},
    ]
    wires += [
        {"id": f"M{pole}", "start": {"end": "battery", "cavity": pole}, "finish": {"end": f"box{pole}", "cavity": "in"}}
        for pole in "+-"
    ]
    supply = {"id": "s", "name": "battery", "volts": 12, "plus": {"end": "battery", "cavity": "+"}, "minus": {"end": "battery", "cavity": "-"}}  # fmt: skip
    return Design.model_validate({"ends": ends, "wires": wires, "loads": loads, "supplies": [supply]})


@settings(max_examples=150)
@given(st.sampled_from(MATED), st.data())
def test_what_changed_in_meaning_is_told_and_what_was_renamed_is_not(one: Housing, data: st.DataObject) -> None:
    """In every housing of the catalogue: leads left, reversed, exchanged, crossed or moved round by one, on either
    half; and circuits called otherwise. What is right is known from where each lead was put, not from the program."""
    many = len(one.cavities)
    straight = list(range(many))
    act = data.draw(st.sampled_from(["none", "rename", "exchange", "rotate"]))
    moved = list(straight)
    if act == "rotate":
        moved = moved[1:] + moved[:1]
    elif act == "exchange" and many > 1:
        a, b = data.draw(st.lists(st.integers(0, many - 1), min_size=2, max_size=2, unique=True))
        moved[a], moved[b] = moved[b], moved[a]
    flip = data.draw(st.booleans())
    design = coupling(
        one, moved if flip else straight, straight if flip else moved, "other {}" if act == "rename" else "{}"
    )
    found = ends_agree(design, "x", "y")
    if moved == straight:
        assert found.agrees is not False, found.wrong
        assert found.agrees or (act == "rename" and many > 2)
    else:
        wrong = {row.label for row in found.rows if row.what}
        assert found.agrees is False
        assert wrong == {one.cavities[n].label for n in range(many) if moved[n] != n}
    nothing = design.model_copy(
        update={
            "loads": (),
            "supplies": (),
            "wires": tuple(w.model_copy(update={"signal": False}) for w in design.wires),
        }
    )
    assert ends_agree(nothing, "x", "y").agrees in (
        (None, False) if moved != straight else (None,)
    )  # names alone tell nothing for sure


def test_halves_that_dont_go_together() -> None:
    """Plug on plug, another family, another key, an end with itself, a housing not chosen, and one of two like housings
    crossed."""
    first = SHELF.get("kelp-4-plug", Housing)
    assert first is not None
    design = coupling(first, [0, 1, 2, 3], [0, 1, 2, 3])
    assert ends_agree(design, "x", "y").agrees is True
    assert "itself" in str(ends_agree(design, "x", "x").wrong[0].what)
    for part_id, told in (
        ("kelp-4-plug", "plug meets plug"),
        ("kelp-6-receptacle", "key e4"),
        ("cockle-m4-receptacle", "of cockle"),
    ):
        assert told in " ".join(
            str(row.what) for row in ends_agree(set_housing(design, "y", "A", part_id), "x", "y").wrong
        )
    bare = [end if end.id != "y" else end.model_copy(update={"housings": ()}) for end in design.ends]
    unsaid = ends_agree(design.model_copy(update={"ends": tuple(bare)}), "x", "y")
    assert (unsaid.agrees, "no housing is chosen for y" in unsaid.missing) == (None, True)
    two = [
        end
        if end.id not in "xy"
        else end.model_copy(
            update={
                "housings": (end.housings[0], end.housings[0].model_copy(update={"id": "B"})),
                "cavities": tuple(
                    c.model_copy(update={"housing": "AB"[n > 1], "label": "12"[n % 2]})
                    for n, c in enumerate(end.cavities)
                ),
            }
        )
        for end in coupling(first, [0, 1, 3, 2], [0, 1, 2, 3]).ends
    ]
    crossed = ends_agree(
        design.model_copy(update={"ends": tuple(two), "wires": coupling(first, [0, 1, 3, 2], [0, 1, 2, 3]).wires}),
        "x",
        "y",
    )
    assert {(row.housing, row.label) for row in crossed.rows if row.what} == {("B", "1"), ("B", "2")}
    lone = coupling(first, [0, 1, 2, 3], [0, 1, 2, 3]).model_copy(update={"wires": design.wires[:-3]})
    assert ends_agree(lone, "x", "y").agrees is False  # one conductor on one side alone


def test_volts_and_measured_pins() -> None:
    """Two sources that meet; too few volts; a list of what was measured, by volts and by words."""
    design = lead([contact(), housing()])
    mine = half_of(design, "dev")
    assert [one.says for one in mine.bodies[0].cavities.values()] == ["l +", "l −"]
    for pins, agrees in (
        ([("1", "", 24.2), ("2", "", 0.0)], True),
        ([("1", "", 0.0), ("2", "", 24.2)], False),
        ([("1", "", -24.2), ("2", "", 0.0)], False),
        ([("1", "", 12.0), ("2", "", 0.0)], False),
        ([("1", "lamp +", None), ("2", "GND", None)], True),
        ([("1", "red", None), ("2", "black", None)], None),
        ([("1", "+", None)], False),
        ([("1", "signal", None), ("2", "shield", None)], False),
    ):
        assert agreement(mine, half_of_pins("list", pins)).agrees is agrees, pins  # type: ignore[arg-type]


def test_a_lead_end_to_end() -> None:
    """The shore data lead: two cores crossed at the probe, the rest straight."""
    rows = {row.label: row.what for row in through(demo("shore"), "logger", "probe")}
    assert {label for label, what in rows.items() if what} == {"2", "4"}
    assert not any(row.what for row in through(demo("shore"), "plug", "coupler"))


def test_a_face_says_what_is_in_it() -> None:
    parts = [
        contact(),
        housing(3, seal="grommet", wire_mm={"low": 1, "high": 9}, plug="b"),
        part(kind="blanking plug", id="b", name="b", size="X"),
    ]
    face = faces_in(results_of(lead(parts)), "dev", "wire")[0]
    assert [spot.state for spot in face.spots] == ["loaded", "loaded", "plugged"]
    assert [spot.function for spot in face.spots[:2]] == ["l +", "l −"]
    with pytest.raises(InputError, match="no end"):
        faces_of(demo("barge"), "nowhere", "wire")
    with pytest.raises(InputError, match="No catalogue part"):
        faces_of(demo("barge"), "battery", "wire")


def test_svg_has_the_places() -> None:
    """Read back by an XML parser: millimetres for user units, every cavity where the pin map has it, mirrored in
    front."""
    for side in ("wire", "mating"):
        face = faces_in(results_of(demo("barge")), "j1", side)[0]  # type: ignore[arg-type]
        svg = ElementTree.fromstring(faces_svg([face]))
        space = "{http://www.w3.org/2000/svg}"
        assert svg.get("width", "").removesuffix("mm") == svg.get("viewBox", "").split()[2]
        outline = svg.find(f".//{space}g[@class='face']/{space}rect")
        middle = (
            float(outline.get("x", 0)) + float(outline.get("width", 0)) / 2,
            float(outline.get("y", 0)) + float(outline.get("height", 0)) / 2,
        )
        assert float(outline.get("width", 0)) == pytest.approx(face.width_mm)
        places = {}
        for group in svg.iter(f"{space}g"):
            if group.get("class") == "cavity":
                circle = group.find(f"{space}circle")
                places[group.get("data-label")] = (
                    float(circle.get("cx", 0)) - middle[0],
                    middle[1] - float(circle.get("cy", 0)),
                )
        assert places == {spot.label: pytest.approx((spot.x_mm, spot.y_mm), abs=2e-3) for spot in face.spots}


def test_a_cord_with_line_and_neutral_swapped() -> None:
    """At the coupler: each of both names the pole it wrongly comes to; the earth is right."""
    design = swap(demo("shore"), "coupler", "L", "N")
    rows = {row.label: str(row.what) for row in through(design, "plug", "coupler")}
    assert "wrong polarity" in rows["L"]
    assert "wrong polarity" in rows["N"]
    assert rows["E"] == ""
    fits_ = {f.wire for f in results_of(design).once(fits) if f.rule == "cavity.role" and not f.ok}
    assert {"C1", "C2"} <= fits_


def test_a_terminal_block_is_a_face_too() -> None:
    """Two rows of twelve: A1 at the top left, B12 at the bottom right; a wire is found by row and column."""
    assert rows_of("anchor-row-12", "wire") == [" ".join(f"{row}{n}" for n in range(1, 13)) for row in "AB"]
    design = set_housing(demo("shore"), "lamps", "A", "anchor-row-12")
    assert {one.label for one in places_of(design).ends if one.end.id == "lamps"} == {f"A{n}" for n in range(1, 8)}
    moved = assign(design, "T1", places_of(design).by_key["T1", "finish"].side, "B12")
    assert places_of(moved).by_key["T1", "finish"].label == "B12"
    assert {f.rule for f in results_of(moved).once(fits) if f.end == "lamps" and f.wire == "T1"} >= {
        "clamp.area",
        "contact.current",
    }


def test_a_pin_says_what_it_is_for_and_not_what_its_like_in_another_housing_is() -> None:
    """The computer's boards have several housings with a pin 2 each; a wire has one circuit or load at its pin."""
    results = results_of(demo("computer"))
    design = results.design
    loads = {(pin.end, pin.cavity): load.name for load in design.loads for pin in (load.plus, load.minus)}
    wires, twice = {wire.id: wire for wire in design.wires}, set()
    for end in {end.id: end for end, _, _ in places_of(design).housings()}.values():
        labels = [(face.housing, spot.label) for face in faces_in(results, end.id, "wire") for spot in face.spots]
        twice |= {label for _, label in labels if sum(label == other for _, other in labels) > 1}
        for face in faces_in(results, end.id, "wire"):
            for spot in face.spots:
                for wire in (wires[name] for name in spot.wires):
                    pin = wire.start if wire.start.end == end.id else wire.finish
                    told = loads.get((end.id, pin.cavity)) or wire.name or wire.circuit
                    assert spot.function.removesuffix(" +").removesuffix(" −") == told
    assert twice
