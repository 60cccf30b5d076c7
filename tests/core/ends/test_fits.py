"""Every limit of every fit, just inside and just outside. The values the limits are put round come from the wire's own
figures: area by its size, outside by the catalogue's walls, temperature and current from the solved network."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from ends_kit import contact, housing, judged, lead, part, results_of, the
from umber_trunk.core.catalog.conductors import conductor
from umber_trunk.core.catalog.parts import Lug, Shrink
from umber_trunk.core.demo import demo
from umber_trunk.core.ends.lug_rules import shrink_on
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.end import Cavity, End
from umber_trunk.core.harness.end import Housing as Body
from umber_trunk.core.harness.model import Design

OUTER = conductor("2.5 mm2", "copper", "general", "xlpe").outer_mm
AREA = 2.5
NUDGE = 1e-4

Build = Callable[[dict[str, float]], Design]


def clamped(
    band: dict[str, float] | None = None,
    ferrule: dict[str, Any] | None = None,
    wears: dict[str, Any] | None = None,
    together: bool = False,
    **more: Any,
) -> Design:
    clamp = part(
        kind="clamp",
        id="k",
        name="k",
        area_mm2=band or {"low": 0.1, "high": 50},
        strip_mm=7,
        rated_a=more.pop("rated_a", 100),
    )
    parts = [clamp, housing(contacts="clamp", clamp="k", form="genderless", **more)]
    plain: dict[str, Any] = {
        "start": {"end": "src", "cavity": "+"},
        "finish": {"end": "dev", "cavity": "1"},
        "size": "2.5 mm2",
        "jacket": "xlpe",
    }
    wires = [
        {"id": "W1", **plain},
        {"id": "W2", **plain, "start": {"end": "dev", "cavity": "2"}, "finish": {"end": "src", "cavity": "-"}},
    ]
    if ferrule is not None:
        parts.append(
            part(
                **(
                    {"kind": "ferrule", "id": "f", "name": "f", "strip_mm": 8, "collar_mm": 20, "area_mm2": ferrule}
                    | (wears or {})
                )
            )
        )
        wires[0]["at_finish"] = {"ferrule": "f"}
    if together:
        wires.append(wires[0] | {"id": "W3"})
    return lead(parts, wires=wires)


def lugged(
    stud: float = 8.0, shrink: dict[str, float] | None = None, amps: float = 5.0, wires: int = 1, **more: Any
) -> Design:
    plain = {"kind": "lug", "id": "c", "name": "c", "area_mm2": {"low": 0.1, "high": 50}, "strip_mm": 8, "stud_mm": 8.0, "width_mm": 15, "pad_mm": 15, "barrel_mm": 9, "barrel_od_mm": 5.0, "limit_c": 900}  # fmt: skip
    parts = [part(**(plain | more))]
    fitting: dict[str, Any] = {"part": "c"}
    if shrink is not None:
        parts.append(part(kind="shrink", id="s", name="s", **shrink))
        fitting["shrink"] = "s"
    feed = [
        {
            "id": f"W{n}",
            "start": {"end": "src", "cavity": "+"},
            "finish": {"end": "dev", "cavity": "1"},
            "size": "2.5 mm2",
            "jacket": "xlpe",
            "at_finish": fitting,
        }
        for n in range(1, wires + 1)
    ]
    back = {
        "id": "R",
        "start": {"end": "dev", "cavity": "2"},
        "finish": {"end": "src", "cavity": "-"},
        "size": "2.5 mm2",
        "jacket": "xlpe",
        "at_start": fitting,
    }
    return lead(parts, {"housings": [], "stud_mm": stud}, [*feed, back], amps)


def shared(band: dict[str, float]) -> Design:
    """Two wires in cavity 1."""
    feed = [
        {
            "id": f"W{n}",
            "start": {"end": "src", "cavity": "+"},
            "finish": {"end": "dev", "cavity": "1"},
            "size": "2.5 mm2",
            "jacket": "xlpe",
            "at_finish": {"part": "c"},
        }
        for n in (1, 3)
    ]
    back = {
        "id": "W2",
        "start": {"end": "dev", "cavity": "2"},
        "finish": {"end": "src", "cavity": "-"},
        "size": "2.5 mm2",
        "jacket": "xlpe",
        "at_start": {"part": "c"},
    }
    return lead([contact(area_mm2=band), housing()], wires=[*feed, back])


def spliced(band: dict[str, float]) -> Design:
    """Three conductors in one barrel."""
    fitting = {"at_finish": {"part": "c"}}
    wires = [
        {
            "id": f"W{n}",
            "start": {"end": "src", "cavity": "+"},
            "finish": {"end": "dev", "cavity": "1"},
            "size": "2.5 mm2",
            "jacket": "xlpe",
            **fitting,
        }
        for n in (1, 2, 3)
    ]
    return lead(
        [part(kind="splice", id="c", name="c", form="parallel", area_mm2=band, strip_mm=8)],
        {"housings": [], "kind": "splice"},
        wires,
    )


def sealed(band: dict[str, float]) -> Design:
    parts = [contact(), housing(seal="wire seals", plug="b"), part(kind="seal", id="s", name="s", family="t", size="X", wire_mm=band), part(kind="blanking plug", id="b", name="b", size="X")]  # fmt: skip
    design = lead(parts)
    wires = tuple(
        wire.model_copy(update={"at_finish": wire.at_finish.model_copy(update={"seal": "s"})})
        if wire.at_finish
        else wire
        for wire in design.wires
    )
    return design.model_copy(update={"wires": wires})


def glanded(band: dict[str, float], cable: bool = False) -> Design:
    end: dict[str, Any] = {"cavities": [{"id": "1"}]}
    wire = {
        "id": "W1",
        "start": {"end": "src", "cavity": "+"},
        "finish": {"end": "dev", "cavity": "1"},
        "size": "2.5 mm2",
        "jacket": "xlpe",
        "at_finish": {"part": "c"},
    }
    parts = [contact(), housing(seal="gland", wire_mm=band)]
    more: dict[str, Any] = {}
    if cable:
        parts.append(
            part(
                kind="cable",
                id="k",
                name="k",
                jacket_mm=9.0,
                cores=[{"mark": "1", "area_mm2": 2.5, "outer_mm": 3.0}],
                rated_a=100,
            )
        )
        more["cables"] = [{"id": "cable", "part": "k"}]
        wire |= {"cable": "cable", "core": "1"}
    return lead(parts, end, [wire], **more)


def booted(band: dict[str, float]) -> Design:
    design = lead([contact(), housing(), part(kind="boot", id="b", name="b", wire_mm=band)])
    wires = tuple(
        wire.model_copy(update={"at_finish": wire.at_finish.model_copy(update={"boot": "b"})})
        if wire.at_finish
        else wire
        for wire in design.wires
    )
    return design.model_copy(update={"wires": wires})


BANDS: dict[str, tuple[str, str, float, Build]] = {
    "contact area": ("barrel.area", "W1", AREA, lambda band: lead([contact(area_mm2=band), housing()])),
    "two in a contact": ("barrel.area", "W1", 2 * AREA, shared),
    "three in a splice": ("barrel.area", "W1", 3 * AREA, spliced),
    "lug area": ("barrel.area", "W1", AREA, lambda band: lugged(area_mm2=band)),
    "wings": ("wings.insulation", "W1", OUTER, lambda band: lead([contact(insulation_mm=band), housing()])),
    "lug wings": ("wings.insulation", "W1", OUTER, lambda band: lugged(insulation_mm=band)),
    "seal": ("seal.insulation", "W1", OUTER, sealed),
    "grommet": (
        "grommet.insulation",
        "W1",
        OUTER,
        lambda band: lead([contact(), housing(seal="grommet", wire_mm=band)]),
    ),
    "clamp area": ("clamp.area", "W1", AREA, clamped),
    "ferrule area": ("ferrule.area", "W1", AREA, lambda band: clamped(ferrule=band)),
    "boot": ("boot.wire", "W1", OUTER, booted),
    "gland on a wire": ("gland.jacket", "", OUTER, glanded),
    "gland on a cable": ("gland.jacket", "", 9.0, lambda band: glanded(band, cable=True)),
}


@pytest.mark.parametrize("name", BANDS)
@pytest.mark.parametrize(("low", "high", "ok"), [
    (1 - NUDGE, 2.0, True), (1 + NUDGE, 2.0, False), (0.5, 1 + NUDGE, True), (0.5, 1 - NUDGE, False), (1.0, 1.0, True),
])  # fmt: skip
def test_bands(name: str, low: float, high: float, ok: bool) -> None:
    rule, wire, value, build = BANDS[name]
    fit = the(build({"low": low * value, "high": high * value}), rule, wire)
    assert fit.ok is ok
    assert fit.value == pytest.approx(value, rel=1e-9)
    assert fit.low == pytest.approx(low * value)
    assert fit.high == pytest.approx(high * value)
    assert bool(fit.cure) is not ok
    if not ok:
        assert fit.off == pytest.approx(NUDGE * value, rel=1e-3)


def test_a_stud_in_its_hole() -> None:
    for stud, ok in ((8.0, True), (8.01, False), (6.41, True), (6.39, False)):
        assert the(lugged(stud), "stud.hole").ok is ok


def test_current_of_a_contact() -> None:
    """The contact's own current, which is the load's 5 A."""
    for rated, ok in ((5.0 * (1 + NUDGE), True), (5.0 * (1 - NUDGE), False)):
        fit = the(lead([contact(rated_a=rated), housing()]), "contact.current")
        assert fit.ok is ok
        assert fit.value == pytest.approx(5.0, rel=1e-6)
        assert the(clamped(rated_a=rated), "contact.current").ok is ok
        assert the(lugged(rated_a=rated), "contact.current").ok is ok


def test_current_is_derated_by_the_cavities_loaded() -> None:
    """Two of four cavities loaded: the sheet's row for a half holds, the next one up for anything more."""
    for ways, factor in ((4, 0.8), (2, 0.5), (8, 1.0)):
        table = [[0.25, 1.0], [0.5, 0.8], [1.0, 0.5]]
        for rated, ok in ((5.0 / factor * (1 + NUDGE), True), (5.0 / factor * (1 - NUDGE), False)):
            fit = the(lead([contact(rated_a=rated), housing(ways, derating=table)]), "contact.current")
            assert fit.ok is ok
            assert fit.high == pytest.approx(factor * rated)


def test_heat_of_a_contact() -> None:
    """Its wire's solved temperature and 30 K at the rated current, with its square: at 5 of 10 A a quarter of that."""
    hot = results_of(lead([contact(rated_a=10.0), housing()])).figures.wires["W1"].conductor_c + 30.0 / 4
    for limit, ok in ((hot + 0.01, True), (hot - 0.01, False)):
        assert the(lead([contact(rated_a=10.0, limit_c=limit), housing()]), "contact.heat").ok is ok
        assert the(lead([contact(rated_a=10.0), housing(limit_c=limit)]), "contact.heat").ok is ok
    plain = results_of(lugged()).figures.wires["W1"].conductor_c
    for limit, ok in ((plain + 0.01, True), (plain - 0.01, False)):
        assert the(lugged(limit_c=limit), "contact.heat").ok is ok


def test_a_contact_that_heats_its_wire() -> None:
    """The contact's own ohms are in the network: the volt it costs is I·R, and its wire gets warmer."""
    cold, warm = (results_of(lead([contact(resistance_mohm=mohm), housing()], amps=20.0)) for mohm in (0.001, 20.0))
    lost = cold.figures.loads["l"].volts - warm.figures.loads["l"].volts
    assert lost == pytest.approx(2 * 20.0 * 0.02, rel=0.02)
    assert warm.figures.wires["W1"].conductor_c > cold.figures.wires["W1"].conductor_c


def test_shrink_passes_grips_and_stays_off_the_flat() -> None:
    for supplied, ok in ((5.0 + NUDGE, True), (5.0 - NUDGE, False)):  # barrel 5 mm is wider than the wire
        assert the(lugged(shrink={"supplied_mm": supplied, "recovered_mm": 1.0}), "shrink.passes").ok is ok
    for recovered, ok in ((OUTER - NUDGE, True), (OUTER + NUDGE, False)):
        assert the(lugged(shrink={"supplied_mm": 20.0, "recovered_mm": recovered}), "shrink.grips").ok is ok
    assert the(lugged(shrink={"supplied_mm": 20.0, "recovered_mm": 1.0}), "shrink.clear").ok


def test_room_to_bend() -> None:
    for room, own, ok in (
        (4 * OUTER + 0.01, 0.0, True),
        (4 * OUTER - 0.01, 0.0, False),
        (30.01, 30.0, True),
        (29.99, 30.0, False),
    ):
        assert the(lead([contact(), housing(bend_mm=own)], {"room_mm": room}), "bend.room", "").ok is ok


def test_how_many_on_a_stud_and_in_which_order() -> None:
    for wires, ok in ((4, True), (5, False)):
        fit = the(lugged(wires=wires), "stud.stack", "")
        assert fit.ok is ok
        assert fit.value == wires
    design = lugged(wires=4)
    thick = tuple(
        w.model_copy(update={"size": "6 mm2"}) if w.id == "W3" else w for w in design.wires
    )  # carries the most
    assert "from below: W3, W1, W2, W4" in the(design.model_copy(update={"wires": thick}), "stud.stack", "").message


def test_a_lead_is_its_weakest_part() -> None:
    for rated, ok in ((5.0 * (1 + NUDGE), True), (5.0 * (1 - NUDGE), False)):
        fits_ = [
            f for f in judged(lead([contact(rated_a=rated), housing()])) if f.rule == "lead.weakest" and f.wire == "W1"
        ]
        assert [f.ok for f in fits_] == [ok]


def test_a_crimp_for_the_area() -> None:
    """Within 15 % of an area the sheet has a height for, or between two of them."""
    for area, ok in ((2.5 / 1.14, True), (2.5 / 1.16, True), (2.5 * 1.18, False), (2.5 * 1.14, True)):
        rows = (
            [{"area_mm2": area, "height_mm": 1.5}]
            if area > 2.5
            else [{"area_mm2": area, "height_mm": 1.5}, {"area_mm2": 4.0, "height_mm": 2.0}]
        )
        assert the(lead([contact(crimps=rows), housing()]), "tool.die").ok is ok


@pytest.mark.parametrize(("rule", "parts", "ok"), [
    ("cavity.size", [contact(), housing()], True),
    ("cavity.size", [contact(size="Y"), housing()], False),
    ("cavity.size", [contact(family="u"), housing()], False),
    ("contact.gender", [contact(), housing()], True),
    ("contact.gender", [contact(gender="pin"), housing()], False),
])  # fmt: skip
def test_what_clips_in(rule: str, parts: list[Any], ok: bool) -> None:
    assert the(lead(parts), rule).ok is ok


def test_halves_that_are_to_mate() -> None:
    def rules(**other: Any) -> dict[str, bool]:
        half = housing(**({"id": "o", "form": "receptacle", "contacts": "pin", "key": "a"} | other))
        design = lead([contact(), housing(key="a"), half], {"housings": [{"id": "A", "part": "h", "other": "o"}]})
        return {f.rule: f.ok for f in judged(design) if f.rule.startswith("mate.")}

    assert rules() == {"mate.form": True, "mate.gender": True, "mate.key": True, "mate.cavities": True}
    assert not rules(contacts="socket")["mate.gender"]
    assert not rules(form="plug")["mate.form"]
    assert not rules(key="b")["mate.key"]
    assert not rules(ways=3)["mate.cavities"]
    assert not rules(family="u")["mate.key"]


def test_empty_sealed_cavities() -> None:
    parts = [
        contact(),
        housing(3, seal="grommet", wire_mm={"low": 1, "high": 9}, plug="b"),
        part(kind="blanking plug", id="b", name="b", size="X"),
    ]
    for blanks, ok in ((None, True), (["3"], True), ([], False), (["2", "3"], False)):
        design = lead(parts, {"housings": [{"id": "A", "part": "h", "blanks": blanks}]})
        assert all(f.ok for f in judged(design) if f.rule == "cavity.plugged") is ok
    wrong = [parts[0], parts[1], part(kind="blanking plug", id="b", name="b", size="Y")]
    assert not all(f.ok for f in judged(lead(wrong)) if f.rule == "cavity.plugged")


@pytest.mark.parametrize(("more", "amps", "way"), [
    ({"area_mm2": {"low": 0.5, "high": 1.0}}, 5.0, "Go down to 1 mm², if its figures hold"),
    ({"area_mm2": {"low": 4.0, "high": 6.0}}, 5.0, "Go up to 4 mm²"),
    ({"insulation_mm": {"low": 0.5, "high": 1.0}}, 5.0, "Take a wire with an outside that fits"),
    ({"rated_a": 4.0}, 5.0, "Split the current over two cavities"),
    ({"area_mm2": {"low": 0.5, "high": 1.0}, "rated_a": 4.0}, 5.0, "Split the current over two cavities"),  # never down a size
])  # fmt: skip
def test_nothing_fits_names_both_ways_out(more: dict[str, Any], amps: float, way: str) -> None:
    design = lead([contact(id="only", **more), housing()], amps=amps)
    bare = [wire.model_copy(update={"at_start": None, "at_finish": None}) for wire in design.wires]
    fit = the(design.model_copy(update={"wires": tuple(bare)}), "part.fits")
    assert not fit.ok
    assert fit.cure.startswith(way)
    assert "housing" in fit.cure


def test_parts_nobody_knows_are_named() -> None:
    assert not the(lead([housing()]), "part.known").ok
    assert next(f.rule for f in judged(lead([contact()])) if not f.ok) == "part.known"
    assert not the(
        lead([contact(), housing()], {"cavities": [{"id": "1", "label": "9"}, {"id": "2"}]}), "cavity.known"
    ).ok


def test_house_practice_decides() -> None:
    def at(design: Design, **practice: str) -> list[str]:
        project = design.project.model_copy(update={"practice": design.project.practice.model_copy(update=practice)})
        return [f.rule for f in judged(design.model_copy(update={"project": project})) if not f.ok]

    assert "contact.shared" in at(shared({"low": 1, "high": 9}), sharing="never")
    assert "contact.shared" not in at(shared({"low": 1, "high": 9}))
    assert "clamp.ferrule" not in at(clamped(), ferrules="never")
    thick = lead([contact(insulation_mm={"low": 0.5, "high": 2.0}), housing()])
    severe = {kept: the(practised(thick, wings=kept), "wings.insulation").severity for kept in ("contact", "remove")}
    assert severe == {"contact": Severity.FAULT, "remove": Severity.WARNING}
    thin = lead([contact(area_mm2={"low": 4.0, "high": 6.0}), housing()])
    assert the(practised(thin, thin="fold"), "barrel.area").severity is Severity.WARNING
    folded = [
        wire.model_copy(update={"at_finish": wire.at_finish.model_copy(update={"folded": True})})
        if wire.at_finish
        else wire
        for wire in thin.wires
    ]
    twice = the(practised(thin.model_copy(update={"wires": tuple(folded)}), thin="fold"), "barrel.area")
    assert twice.ok
    assert twice.value == pytest.approx(2 * AREA)


def practised(design: Design, **practice: str) -> Design:
    project = design.project.model_copy(update={"practice": design.project.practice.model_copy(update=practice)})
    return design.model_copy(update={"project": project})


def test_solder_in_place_of_a_crimp() -> None:
    tail = lead([contact(barrel="solder"), housing()])
    assert not the(tail, "contact.soldered").ok
    assert the(practised(tail, instead="sleeved"), "contact.soldered").ok  # 5 A of 5
    more = lead([contact(barrel="solder"), housing()], amps=5.0 * (1 + NUDGE))
    assert not the(practised(more, instead="sleeved"), "contact.soldered").ok


def test_the_demos_have_their_misfits_and_no_more() -> None:
    shore = {(f.rule, f.wire) for f in judged(demo("shore")) if not f.ok}
    assert shore == {("stud.hole", "B1"), ("cavity.role", "D3"), ("cavity.role", "D4")}
    barge = {(f.rule, f.wire) for f in judged(demo("barge")) if not f.ok}
    assert barge == {("part.fits", "W08"), ("contact.heat", "W09")}  # the pump's wires, too thin and too hot
    mended = set_size(demo("barge"), ["W08", "W09"], "6 mm2")
    assert all(f.ok for f in judged(mended))


def test_conductors_side_by_side_share_a_contact() -> None:
    """Two of 2.5 mm² are 5 mm² in one barrel, two through one seal, and all their current through one contact; lugs
    they have one each."""

    def twice(design: Design) -> Design:
        return design.model_copy(update={"wires": tuple(w.model_copy(update={"parallel": 2}) for w in design.wires)})

    for high, ok in ((2 * AREA, True), (2 * AREA * (1 - NUDGE), False)):
        fit = the(twice(lead([contact(area_mm2={"low": 0.1, "high": high}), housing()])), "barrel.area")
        assert fit.ok is ok
    for rated, ok in ((5.0 * (1 + NUDGE), True), (5.0 * (1 - NUDGE), False)):
        assert the(twice(lead([contact(rated_a=rated), housing()])), "contact.current").ok is ok
    assert not the(twice(sealed({"low": 0.1, "high": 9.0})), "seal.insulation").ok
    assert the(twice(lugged(area_mm2={"low": 0.1, "high": AREA})), "barrel.area").ok
    for rated, ok in ((2.5 * (1 + NUDGE), True), (2.5 * (1 - NUDGE), False)):
        assert the(twice(lugged(rated_a=rated)), "contact.current").ok is ok
    for wires, ok in ((2, True), (3, False)):
        stack = [f for f in judged(twice(lugged(wires=wires))) if f.rule == "stud.stack" and f.cavity == "1"]
        assert [f.ok for f in stack] == [ok]


def test_who_shares_a_contact_has_one_part() -> None:
    design = shared({"low": 0.1, "high": 9.0})
    other = contact(id="d", area_mm2={"low": 0.1, "high": 9.0})
    wires = {w.id: w for w in design.wires}
    alone = wires["W3"].model_copy(update={"at_finish": None})
    both = design.model_copy(update={"parts": (*design.parts, other), "wires": (wires["W1"], wires["W2"], alone)})
    assert not [f for f in judged(both) if f.rule == "contact.same"]
    assert {f.part for f in judged(both) if f.rule == "barrel.area" and f.wire in ("W1", "W3")} == {"c"}
    unlike = alone.model_copy(update={"at_finish": wires["W1"].at_finish.model_copy(update={"part": "d"})})
    found = judged(both.model_copy(update={"wires": (wires["W1"], wires["W2"], unlike)}))
    assert [f.ok for f in found if f.rule == "contact.same"] == [False]


@pytest.mark.parametrize(("form", "sizes", "fullest"), [
    ("parallel", (2.5, 2.5), 5.0), ("parallel", (1.0, 1.5, 2.5), 5.0), ("butt", (2.5, 2.5), 2.5), ("butt", (1.5, 2.5), 2.5),
    ("butt", (1.0, 1.5, 2.5), 2.5), ("butt", (1.5, 1.5, 1.5), 3.0),
])  # fmt: skip
def test_a_splice_is_one_barrel(form: str, sizes: tuple[float, ...], fullest: float) -> None:
    """All wires of a splice, whatever its cavities are called: together in a parallel barrel; in a butt one the
    thickest from one side, all others from the other."""
    wires = [
        {
            "id": f"W{n}",
            "start": {"end": "src", "cavity": "+"},
            "finish": {"end": "dev", "cavity": str(n)},
            "size": f"{size:g} mm2",
            "jacket": "xlpe",
            "at_finish": {"part": "c"},
        }
        for n, size in enumerate(sizes, 1)
    ]
    end = {"housings": [], "kind": "splice", "cavities": [{"id": str(n)} for n in range(1, len(sizes) + 1)]}
    for high, ok in ((fullest, True), (fullest * (1 - NUDGE), False)):
        barrel = part(kind="splice", id="c", name="c", form=form, area_mm2={"low": 0.1, "high": high}, strip_mm=8)
        fit = the(lead([barrel], end, wires), "barrel.area")
        assert fit.ok is ok
        assert fit.value == pytest.approx(fullest)
    unlike = [wires[0] | {"at_finish": {"part": "anchor-butt-6"}}, *wires[1:]]
    assert "contact.same" in {f.rule for f in judged(lead([barrel], end, unlike)) if not f.ok}
    free = [wire | {"at_finish": None} for wire in wires]
    proposed = {f.part for f in judged(lead([barrel], end, free)) if f.rule == "barrel.area"}
    assert len(proposed) == 1


def test_the_thickest_wire_needs_the_room() -> None:
    design = lead([contact(), housing()], {"room_mm": 4 * OUTER + 0.01})
    thin = tuple(w.model_copy(update={"size": "1 mm2"}) if w.id == "W2" else w for w in design.wires)
    fit = the(design.model_copy(update={"wires": thin}), "bend.room", "")
    assert fit.ok
    assert fit.low == pytest.approx(4 * OUTER)


def test_a_seal_for_another_cavity() -> None:
    for more, ok in (({}, True), ({"size": "Y"}, False), ({"family": "u"}, False)):
        seal = part(
            **(
                {"kind": "seal", "id": "s", "name": "s", "family": "t", "size": "X", "wire_mm": {"low": 1, "high": 9}}
                | more
            )
        )
        design = sealed({"low": 1, "high": 9})
        parts = tuple(seal if one.id == "s" else one for one in design.parts)
        wrong = [f.rule for f in judged(design.model_copy(update={"parts": parts})) if not f.ok and f.wire == "W1"]
        assert ("seal.size" not in wrong) is ok


def test_shrink_is_cut_for_what_it_covers() -> None:
    """The whole barrel, one and a half times the wire's outside but 12 mm at least, over what is left once it has
    shrunk."""
    lug = lugged(shrink={"supplied_mm": 40.0, "recovered_mm": 1.0, "shortens": 0.1})
    barrel, sleeve = lug.parts
    assert isinstance(barrel, Lug)
    assert isinstance(sleeve, Shrink)
    assert shrink_on(barrel, sleeve, 5.0) == (9, 12.0, pytest.approx(21 / 0.9))
    assert shrink_on(barrel, sleeve, 20.0) == (9, 30.0, pytest.approx(39 / 0.9))


def mated(far: tuple[str, str] = ("1", "2"), plating: str = "tin") -> Design:
    """The device's plug and the receptacle it plugs into, both in the harness; `far` are the cavities of feed and
    return."""
    half = housing(id="o", form="receptacle", contacts="pin")
    pin = contact(id="p", gender="pin", plating=plating)
    plug = lead([contact(), housing(), half, pin], {"mates": "far"})
    other = {
        "id": "far",
        "name": "far",
        "kind": "connector",
        "point": "B",
        "cavities": [{"id": "1"}, {"id": "2"}],
        "housings": [{"id": "A", "part": "o"}],
    }
    wires = [
        wire.model_copy(update={"circuit": circuit}) for wire, circuit in zip(plug.wires, ("feed", "back"), strict=True)
    ]
    more = [
        {
            "id": f"F{n}",
            "start": {"end": "src", "cavity": "+-"[n - 1]},
            "finish": {"end": "far", "cavity": label},
            "circuit": circuit,
            "size": "2.5 mm2",
            "jacket": "xlpe",
            "at_finish": {"part": "p"},
        }
        for n, (label, circuit) in enumerate(zip(far, ("feed", "back"), strict=True), 1)
    ]
    plain = plug.model_dump(mode="json")
    plain["wires"] = [wire.model_dump(mode="json") for wire in wires] + more
    plain["ends"].append(other)
    return Design.model_validate(plain)


def test_two_ends_that_plug_into_one_another() -> None:
    rules = {f.rule: f.ok for f in judged(mated()) if f.rule.startswith(("mate.", "plating"))}
    assert rules == {
        "mate.form": True,
        "mate.gender": True,
        "mate.key": True,
        "mate.cavities": True,
        "mate.cavity": True,
        "plating.mate": True,
    }
    crossed = [f for f in judged(mated(("2", "1"))) if f.rule == "mate.cavity"]
    assert [(f.cavity, f.ok) for f in crossed] == [("1", False), ("2", False)]
    assert {f.ok for f in judged(mated(plating="gold")) if f.rule == "plating.mate"} == {False}
    wrong = mated().model_copy(
        update={"parts": tuple(contact(id="p") if one.id == "p" else one for one in mated().parts)}
    )
    assert not all(f.ok for f in judged(wrong) if f.rule == "contact.gender")


def test_a_collar_holds_the_insulation_of_one_wire_or_of_two_where_made_so() -> None:
    """2.5 mm² of thin XLPE is about 3 mm outside: a collar of 2 mm doesn't go over it, one for a single wire not over
    two."""
    band = {"low": 0.1, "high": 20}

    def collar(**said: Any) -> set[bool]:
        return {f.ok for f in judged(clamped(ferrule=band, **said)) if f.rule == "ferrule.collar" and f.cavity == "1"}

    assert collar() == {True}
    assert collar(wears={"collar_mm": 2.0}) == {False}
    assert collar(together=True) == {False}
    assert collar(together=True, wears={"twin": True}) == {True}


def test_nothing_to_compare_is_not_agreement() -> None:
    design = mated(("1", "2"))
    bare = design.model_copy(update={"wires": ()})
    assert not [f for f in judged(bare) if f.rule == "mate.cavity"]


@pytest.mark.parametrize("known", ["mine", "theirs", "neither"])
def test_an_end_may_plug_into_one_whose_housing_nobody_knows(known: str) -> None:
    """The cavities are compared all the same; what isn't known of the halves isn't judged."""
    design = lead(
        [contact(), housing()], {"mates": "far", "housings": [{"id": "A", "part": "h" if known == "mine" else None}]}
    )
    far = End(
        id="far",
        name="far",
        cavities=(Cavity(id="1"), Cavity(id="2")),
        housings=(Body(id="A", part="h" if known == "theirs" else None),),
    )
    rules = {fit.rule for fit in judged(design.model_copy(update={"ends": (*design.ends, far)}))}
    assert "mate.cavity" in rules
    assert not any(rule.startswith("mate.") and rule != "mate.cavity" for rule in rules)
