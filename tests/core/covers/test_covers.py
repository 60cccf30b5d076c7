"""Coverings: what passes, what grips, braid that shortens, tape that overlaps; each rule just inside and just
outside."""

import math
from xml.etree import ElementTree

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from conftest import design_of
from demos import worked_out
from runs_kit import lead
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.parts import PART, Braid, Shrink
from umber_trunk.core.catalog.shelf import generic
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.covers.dressed_limb import CoverPlan, LimbPlan
from umber_trunk.core.covers.recipes import braid_angle_deg, braid_cut_m, shrink_cut_m, tape_layers, tape_m
from umber_trunk.core.covers.section_svg import section_svg
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.end import Cavity, End, EndKind, Housing
from umber_trunk.core.harness.model import Design, Pin, Point, Segment, Wire
from umber_trunk.core.harness.way import Bend, Cover, CoverKind, Method
from umber_trunk.core.lengths.accept import take_covers
from umber_trunk.core.solve.clothing import Clothing, clothed

BRAID = Braid(id="b", name="braid", bore_mm={"low": 5, "high": 12}, sold_bore_mm=6, sold_angle_deg=25)


@given(st.floats(5, 12))
def test_braid_keeps_its_strands_length(bore: float) -> None:
    """The strand is as long as before: one turn of it is the root of turn² + lay², at any bore. Held to 0.1 %."""
    sold_lay = math.pi * 6 / math.tan(math.radians(25))
    strand = math.hypot(math.pi * 6, sold_lay)
    assume(strand > math.pi * bore)
    lay = math.sqrt(strand**2 - (math.pi * bore) ** 2)
    assert braid_cut_m(BRAID, bore, 1.0) == pytest.approx(sold_lay / lay, rel=1e-3)


def test_braid_by_its_widest_bore_where_no_angle_is_given() -> None:
    plain = Braid(id="b", name="braid", bore_mm={"low": 5, "high": 12})  # type: ignore[arg-type]
    assert braid_angle_deg(plain, 12) == pytest.approx(75)
    assert braid_cut_m(plain, 5, 0.8) == pytest.approx(0.8)
    assert braid_cut_m(plain, 9, 0.8) > 0.8
    with pytest.raises(ValueError, match="wider"):
        braid_angle_deg(BRAID, 40)


def test_tape_by_its_helix() -> None:
    """19 mm at half lap over 10 mm: steps of 9.5 mm round π·10.2 mm, one turn over to end."""
    assert tape_m(0.95, 10, 19, 0.2, 0.5) == pytest.approx(101 * math.hypot(math.pi * 0.0102, 0.0095), rel=1e-9)
    assert tape_m(0.95, 10, 19, 0.2, 0.0) == pytest.approx(51 * math.hypot(math.pi * 0.0102, 0.019), rel=1e-9)
    assert tape_layers(0.5) == 2
    assert shrink_cut_m(0.095, 0.05) == pytest.approx(0.1)


def dress(design: Design, **cover: object) -> tuple[CoverPlan, LimbPlan]:
    one = Cover(**{"id": "c", "kind": CoverKind.SLEEVE, **cover})  # type: ignore[arg-type]
    covered = edits.put(design, "segments", edits.change(design.segments[0], covers=(one,)))
    limb = analyse(covered).once(dressed)["S1"]
    return limb.covers[0], limb


def with_parts(design: Design, *rows: dict[str, object]) -> Design:
    return design.model_copy(
        update={"parts": tuple(PART.validate_python({"name": str(row["id"]), **row}) for row in rows)}
    )


def bundle_mm(design: Design) -> float:
    return analyse(design).once(dressed)["S1"].bundle_mm


@pytest.mark.parametrize(
    ("kind", "part", "holds"),
    [
        ("sleeve", {"kind": "braid", "bore_mm": {"low": 0.5, "high": 1.13}}, True),
        ("sleeve", {"kind": "braid", "bore_mm": {"low": 0.5, "high": 1.10}}, False),
        ("sleeve", {"kind": "braid", "bore_mm": {"low": 0.99, "high": 3}}, False),
        ("tube", {"kind": "tube", "bore_mm": 1.13, "outer_mm": 1.5, "bend_mm": 30}, True),
        ("tube", {"kind": "tube", "bore_mm": 1.10, "outer_mm": 1.5, "bend_mm": 30}, False),
        ("shrink", {"kind": "shrink", "supplied_mm": 1.13, "recovered_mm": 0.9}, True),
        ("shrink", {"kind": "shrink", "supplied_mm": 1.10, "recovered_mm": 0.9}, False),
        ("shrink", {"kind": "shrink", "supplied_mm": 1.4, "recovered_mm": 0.98}, False),
        ("clamp", {"kind": "bundle clamp", "bundle_mm": {"low": 0.96, "high": 1.13}}, True),
        ("clamp", {"kind": "bundle clamp", "bundle_mm": {"low": 0.98, "high": 1.13}}, False),
        ("grommet", {"kind": "grommet", "bundle_mm": {"low": 0.9, "high": 1.10}, "hole_mm": 30}, False),
        ("grommet", {"kind": "grommet", "bundle_mm": {"low": 0.9, "high": 1.13}, "hole_mm": 30}, True),
    ],
)
def test_fits_just_inside_and_just_outside(kind: str, part: dict[str, object], holds: bool) -> None:
    """Figures are shares of the bundle: it is 0.97 to 1.08 · 1.03 = 1.1124 of what its packing says."""
    plain = lead(5)
    size = bundle_mm(plain)

    def scaled(value: object) -> object:
        if isinstance(value, dict):
            return {key: share * size for key, share in value.items()}
        return value * size if isinstance(value, float | int) and value < 5 else value

    row = {"id": "p", **{key: scaled(value) for key, value in part.items()}}
    plan, _ = dress(
        with_parts(plain, row), kind=CoverKind(kind), part="p", from_m=0.5 if kind in ("clamp", "grommet") else 0.0
    )
    assert plan.ok is holds, plan.problems
    assert not plan.proposed
    if not holds:
        told = [
            f
            for f in analyse(
                edits.put(
                    with_parts(plain, row),
                    "segments",
                    edits.change(
                        plain.segments[0], covers=(Cover(id="c", kind=CoverKind(kind), part="p", from_m=0.5),)
                    ),
                )
            ).findings
            if f.code == "cover.fit"
        ]
        assert told[0].severity == 0


def test_what_is_put_on_after_passes_over_the_largest_end() -> None:
    """A plug at one end, lugs nobody knows at the other: the way over the smaller counts, unless it wraps."""
    design = lead(2)
    for number, part in ((0, "kelp-24-plug"), (1, "kelp-4-plug")):
        end = edits.change(design.ends[number], housings=(Housing(id="h", part=part),))
        design = edits.put(design, "ends", end)
    design = edits.put_all(
        design,
        "ends",
        [edits.change(end, cavities=tuple(edits.change(c, housing="h") for c in end.cavities)) for end in design.ends],
    )
    plan, _ = dress(design, after=True)
    assert plan.passes_mm == pytest.approx(math.hypot(10.4, 10.4), abs=0.01)
    assert plan.passes_what == "b"
    before, _ = dress(design)
    assert before.passes_mm == before.inside_high_mm
    assert "on before the ends" in before.notes
    wrapped, _ = dress(design, after=True, kind=CoverKind.TAPE)
    assert wrapped.ok
    told = [f.message for f in worked_out("computer").findings if f.code == "cover.fit"]
    assert len(told) == 1
    assert "needs 14.7 mm" in told[0]


def test_nothing_slides_on_between_two_splices() -> None:
    computer = demo("computer")
    one = next(segment for segment in computer.segments if segment.id == "S3")
    covered = edits.put(
        computer, "segments", edits.change(one, covers=(Cover(id="s", kind=CoverKind.SLEEVE, after=True),))
    )
    plan = analyse(covered).once(dressed)["S3"].covers[0]
    assert plan.passes_mm > plan.inside_high_mm


def test_between_two_splices_only_what_wraps_goes_on_afterwards() -> None:
    """C – splice A – splice B – D: a closed tube has no open end to come from, tape and what is put on first have."""
    ends = [
        End(id=e, name=e, point=p, cavities=(Cavity(id="1"), Cavity(id="2")), kind=kind)
        for e, p, kind in (
            ("c", "C", EndKind.BOX),
            ("a", "A", EndKind.SPLICE),
            ("b", "B", EndKind.SPLICE),
            ("d", "D", EndKind.BOX),
        )
    ]
    wires = [
        Wire(id=f"W{n}", start=Pin(end=x, cavity="2"), finish=Pin(end=y, cavity="1"), size="16 mm2", signal=True)
        for n, (x, y) in enumerate(("ca", "ab", "bd"))
    ]
    segments = [
        Segment(id=f"S{n}", a=x, b=y, measure=edits.measured(0.6, Method.TAPE))
        for n, (x, y) in enumerate(("CA", "AB", "BD"))
    ]
    design = Design(
        points=tuple(Point(id=p) for p in "CABD"), segments=tuple(segments), ends=tuple(ends), wires=tuple(wires)
    )
    said = {}
    for kind, after in ((CoverKind.SLEEVE, True), (CoverKind.SLEEVE, False), (CoverKind.TAPE, True)):
        cover = Cover(id="x", kind=kind, after=after, from_m=0.1, to_m=0.4)
        dressed_so = edits.put(design, "segments", edits.change(segments[1], covers=(cover,)))
        plan = analyse(dressed_so).once(dressed)["S1"].covers[0]
        said[kind, after] = plan
        assert (plan.from_m, plan.to_m) == (0.1, 0.4)
    closed = said[CoverKind.SLEEVE, True]
    assert not closed.ok
    assert "splices close both sides" in str(closed.problems[0])
    assert (closed.cut_m, closed.passes_what) == (0.0, "a splice")
    assert said[CoverKind.SLEEVE, False].ok
    assert said[CoverKind.TAPE, True].ok


def test_lengths_overhang_and_the_schools() -> None:
    """2 m to two ends: 15 mm into each; melted ends take 8 mm more each and no collars."""
    plan, limb = dress(lead(5))
    assert plan.covered_m == pytest.approx(2.03)
    assert plan.collars == 2
    assert plan.proposed
    part = plan.part
    ring = next(note for note in plan.notes if "collars" in note).split(": ", 1)[1]
    shrink = next(one for one in generic().of(Shrink) if one.name == ring)
    assert shrink.recovered_mm < plan.outside_mm < shrink.supplied_mm
    wrapped = [
        note
        for limb in worked_out("computer").once(dressed).values()
        for one in limb.covers
        for note in one.notes
        if "wrap" in note
    ]
    assert len(wrapped) == 3
    assert all("60 mm" in note for note in wrapped)
    melted = edits.set_project(lead(5), practice={"sleeve_end": "melted"})
    other, _ = dress(melted)
    assert (other.covered_m, other.collars) == (pytest.approx(2.046), 0)
    some, _ = dress(lead(5), from_m=0.5, to_m=1.5)
    assert some.covered_m == pytest.approx(1.0)
    assert some.part == part
    assert limb.outside_mm > limb.bundle_mm
    tube, stiff = dress(lead(5), kind=CoverKind.TUBE)
    assert tube.cut_m == pytest.approx(2.03)
    assert stiff.least_bend_mm == tube.bend_mm
    wrong, _ = dress(lead(5), from_m=3.0)
    assert not wrong.ok
    nothing, _ = dress(lead(60, size="16 mm2"), kind=CoverKind.CLAMP, from_m=0.1)
    assert "on the shelf" in str(nothing.problems[0])
    unknown, _ = dress(lead(5), part="no-such")
    assert "no catalogue" in str(unknown.problems[0])
    other_kind, _ = dress(lead(5), part="rind-tape-cloth")
    assert not other_kind.ok


def test_figures_of_each_kind_of_covering() -> None:
    """Outsides by their walls: half lap is two layers of tape; a tube's own; shrink no smaller than it recovers; a
    bundle with splices may be thicker by them, a clamp isn't asked for more."""
    size = bundle_mm(lead(5))
    tape, _ = dress(lead(5), kind=CoverKind.TAPE, part="rind-tape-cloth", lap=0.5)
    assert tape.outside_mm == pytest.approx(size + 4 * 0.26)
    thin, _ = dress(lead(5), kind=CoverKind.TAPE, part="rind-tape-cloth", lap=0.0)
    assert thin.outside_mm == pytest.approx(size + 2 * 0.26)
    assert thin.cut_m < tape.cut_m
    tube, _ = dress(lead(5), kind=CoverKind.TUBE, part="rind-tube-13")
    assert (tube.outside_mm, tube.bend_mm) == (16.2, 40)
    shrink, limb = dress(lead(5), kind=CoverKind.SHRINK)
    part = next(one for one in generic().of(Shrink) if one.id == shrink.part)
    assert shrink.outside_mm == pytest.approx(max(size, part.recovered_mm) + 2 * part.wall_mm)
    assert shrink.cut_m == pytest.approx(shrink.covered_m / (1 - part.shortens))
    assert limb.outside_mm == pytest.approx(shrink.outside_mm)
    for low, high, ok, long in (
        (0.5, 3.0, False, 1.5),
        (1.5, 0.5, False, 0.0),
        (0.0, 2.0, True, 2.0),
        (2.5, None, False, 0.0),
    ):
        plan, _ = dress(lead(5), from_m=low, to_m=high)
        assert plan.ok is ok
        assert plan.covered_m - sum(plan.overhang_m) == pytest.approx(long, abs=1e-9)
    closed = {"kind": "tube", "id": "p", "bore_mm": 1.2 * size, "outer_mm": 2 * size, "bend_mm": 30, "slit": False}
    plug = edits.put_all(
        lead(5),
        "ends",
        [
            edits.change(
                end,
                housings=(Housing(id="h", part="kelp-24-plug"),),
                cavities=tuple(edits.change(c, housing="h") for c in end.cavities),
            )
            for end in lead(5).ends
        ],
    )
    assert not dress(with_parts(plug, closed), kind=CoverKind.TUBE, part="p", after=True)[0].ok
    assert dress(with_parts(plug, {**closed, "slit": True}), kind=CoverKind.TUBE, part="p", after=True)[0].ok
    computer = worked_out("computer").once(dressed)
    assert computer["S3"].covers[0].inside_high_mm > 1.5 * computer["S3"].bundle_mm
    assert computer["S3"].covers[1].inside_high_mm < 1.5 * computer["S3"].outside_mm
    assert computer["S5"].covers[0].inside_high_mm < 1.2 * computer["S5"].bundle_mm


def test_the_section_is_drawn_to_its_scale() -> None:
    """Five times as large: wires inside the bundle, none over another, the covering round them, a line for each
    fact."""
    results = worked_out("computer")
    limb = results.once(dressed)["S4"]
    svg = ElementTree.fromstring(section_svg(results, "S4"))
    rings = {one.get("class"): one for one in svg.iter() if one.get("class") in ("cover", "bundle")}
    assert float(rings["cover"].get("r") or 0) == pytest.approx(5 * limb.covers[0].outside_mm / 2, abs=1e-3)
    assert float(rings["bundle"].get("r") or 0) == pytest.approx(5 * limb.bundle_mm / 2, abs=1e-3)
    middle = (float(rings["bundle"].get("cx") or 0), float(rings["bundle"].get("cy") or 0))
    spots = [
        (float(c.get("cx") or 0), float(c.get("cy") or 0), float(c.get("r") or 0))
        for g in svg.iter()
        if g.get("class") == "wire"
        for c in g
        if c.get("r")
    ]
    assert len(spots) == 8
    assert all(math.dist(middle, (x, y)) + r <= 5 * limb.bundle_mm / 2 + 1e-2 for x, y, r in spots)
    assert all(math.dist(a[:2], b[:2]) >= a[2] + b[2] - 1e-2 for n, a in enumerate(spots) for b in spots[n + 1 :])
    lines = [one for one in svg if one.tag.endswith("text")]
    assert len(lines) == 4
    heights = [float(one.get("y") or 0) for one in lines]
    assert heights == sorted(heights)
    assert heights[-1] < float((svg.get("viewBox") or "").split()[3])
    assert min(heights) > middle[1] + float(rings["cover"].get("r") or 0)


def test_a_limb_too_stiff_for_its_way() -> None:
    for radius, stiff in ((49, False), (47, True)):  # to the middle: the inside of the 16.2 mm tube is 8.1 mm less
        design = lead(
            5,
            bends=(Bend(at_m=1, radius_mm=radius, angle_deg=90),),
            covers=(Cover(id="t", kind=CoverKind.TUBE, part="rind-tube-13"),),
        )
        told = [f for f in analyse(design).findings if f.code == "segment.tight_bend"]
        assert bool(told) is stiff
        if stiff:
            assert "40 mm or more" in told[0].message


def test_coverings_keep_the_heat_in() -> None:
    """Bare, then taped, then in a tube that shuts the air in: each hotter, whether its part is chosen or not; a clamp
    isn't. A wall of 1 mm as a covering is as warm as the same wall said as the segment's sleeve."""
    hot = []
    plain = design_of("supply 12 V 5 mohm at battery", "heater 20 A at stern run 3 m")
    for covers in (
        (),
        (Cover(id="a", kind=CoverKind.CLAMP, from_m=0.1),),
        (Cover(id="a", kind=CoverKind.TAPE),),
        (Cover(id="a", kind=CoverKind.TUBE),),
    ):
        segments = [edits.change(one, covers=covers) for one in plain.segments]
        sized = edits.set_size(edits.put_all(plain, "segments", segments), [w.id for w in plain.wires], "4 mm2")
        hot.append(max(row.conductor_c for row in analyse(sized).figures.wires.values()))
    assert hot[0] == hot[1]
    assert hot[2] >= hot[1]  # two wires under tape give off no more than bare
    assert hot[3] > max(hot[:3]) + 1.0
    shelf = generic().carrying(
        (
            PART.validate_python(
                {"kind": "braid", "id": "b", "name": "b", "bore_mm": {"low": 1, "high": 20}, "wall_mm": 1.0}
            ),
        )
    )
    one = edits.change(plain.segments[0], covers=(Cover(id="a", kind=CoverKind.SLEEVE, part="b"),))
    assert clothed(one, shelf) == Clothing(pytest.approx(1e-3))
    assert clothed(edits.change(one, sleeve_mm=3.0), shelf).wall_m == pytest.approx(3e-3)
    assert clothed(
        edits.change(one, covers=(Cover(id="a", kind=CoverKind.TAPE, part="rind-tape-plain", lap=0.75),)), shelf
    ).wall_m == pytest.approx(0.52e-3)
    assert clothed(
        edits.change(one, covers=(Cover(id="a", kind=CoverKind.TUBE, part="rind-tube-13"),)), shelf
    ) == Clothing(0.0, True, pytest.approx(0.013), pytest.approx(1.6e-3))


def test_a_covering_stands_what_its_wires_get() -> None:
    """25 A on 2.5 mm² gets well over 60 °C: tape for 60 °C is a fault and isn't proposed, tape for 105 °C is fine."""
    plain = design_of("supply 12 V 5 mohm at battery", "heater 25 A at stern run 3 m")
    sized = edits.set_size(plain, [w.id for w in plain.wires], "2.5 mm2")
    weak = PART.validate_python({"kind": "tape", "id": "a-weak", "name": "weak tape", "width_mm": 19, "limit_c": 60})
    for part, holds in (("a-weak", False), ("rind-tape-cloth", True), (None, True)):
        segments = [
            edits.change(one, covers=(Cover(id="t", kind=CoverKind.TAPE, part=part),)) for one in sized.segments
        ]
        design = edits.put_all(sized, "segments", segments).model_copy(update={"parts": (weak,)})
        results = analyse(design)
        plans = [plan for limb in results.once(dressed).values() for plan in limb.covers]
        hot = max(row.conductor_c for row in results.figures.wires.values())
        assert 60 < hot < 105
        assert all(plan.ok is holds for plan in plans)
        assert all(plan.part != "a-weak" for plan in plans if part is None)
        assert all("a-weak" not in plan.options for plan in plans)
        if not holds:
            assert f"gets {hot:.0f} °C" in " ".join(str(said) for plan in plans for said in plan.problems)


@pytest.mark.parametrize(
    ("kind", "field", "rows", "taken"),
    [
        ("tube", "bore_mm", [("b", 1.01, {}), ("a", 1.02, {})], "b"),
        ("tube", "bore_mm", [("a", 1.01, {"slit": False}), ("b", 1.01, {})], "b"),  # it goes on from the side
        ("tube", "bore_mm", [("b", 1.01, {"slit": False}), ("a", 1.02, {})], "b"),
        (
            "shrink",
            "supplied_mm",
            [("a", 1.06, {"adhesive": True}), ("b", 1.07, {})],
            "b",
        ),  # glue only where nothing else fits
        ("shrink", "supplied_mm", [("a", 1.07, {}), ("b", 1.06, {})], "b"),
    ],
)
def test_of_what_fits_the_smallest_is_proposed(
    kind: str, field: str, rows: list[tuple[str, float, dict[str, bool]]], taken: str
) -> None:
    design, cover = lead(4), CoverKind(kind)
    high = dress(design, kind=cover)[0].inside_high_mm
    sizes = {"tube": {"outer_mm": 2 * high, "bend_mm": 30}, "shrink": {"recovered_mm": 0.3 * high}}[kind]
    parts = [{"id": name, "kind": kind, field: high * times, **sizes, **more} for name, times, more in rows]
    plan, _ = dress(with_parts(design, *parts), kind=cover)
    assert (plan.part, plan.ok) == (taken, True), plan.problems


def test_conductors_side_by_side_each_take_their_room() -> None:
    """A wire of three conductors in parallel is as thick and heavy as three wires of one."""
    one = lead(1)
    three = edits.put(one, "wires", edits.change(one.wires[0], parallel=3))
    (plan, limb), (other, beside) = dress(three), dress(lead(3))
    assert limb.bundle_mm == pytest.approx(beside.bundle_mm)
    assert limb.mass_g == pytest.approx(beside.mass_g)
    assert (plan.part, plan.outside_mm) == (other.part, pytest.approx(other.outside_mm))


def test_mass_by_hand() -> None:
    """Copper 8.89 g/cm³ by the catalogue's own kg/m, insulation 1.4 g/cm³, the sleeve by its metre."""
    design = lead(3)
    cond = analyse(design).figures.solution.plant.conductors[0]
    ring = math.pi / 4 * (cond.outer_mm**2 - cond.conductor_mm**2) * 1.4
    wires = 3 * 2.0 * (1e3 * cond.kg_per_m + ring)
    plan, limb = dress(design)
    assert limb.mass_g == pytest.approx(wires + plan.mass_g)
    sleeve = next(part for part in generic().of(Braid) if part.id == plan.part)
    assert plan.mass_g == pytest.approx(plan.cut_m * sleeve.mass_g)
    assert sleeve.mass_g > 0


def test_proposals_are_taken_and_the_section_is_drawn() -> None:
    design = edits.put(
        lead(4), "segments", edits.change(lead(4).segments[0], covers=(Cover(id="c", kind=CoverKind.SLEEVE),))
    )
    results = analyse(design)
    taken = take_covers(design, results)
    assert taken.segments[0].covers[0].part == results.once(dressed)["S1"].covers[0].part
    svg = section_svg(results, "S1")
    assert svg.count('class="wire"') == 4
    assert svg.count('class="cover"') == 1
    for name, said in (("S9", "no segment"), ("S1", "no section")):
        empty = analyse(design.model_copy(update={"wires": ()})) if name == "S1" else results
        with pytest.raises(InputError, match=said):
            section_svg(empty, name)


def test_the_grading_computer_has_two_mistakes_and_no_more() -> None:
    told = [(f.code, f.subject) for f in worked_out("computer").findings if f.severity < 2]
    assert told == [("cover.fit", "S5 sleeve"), ("set.uneven", "cameras")]
