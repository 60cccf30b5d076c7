"""The cross-section of a segment as SVG, enlarged by a stated factor: its wires in their colours, and what lies over
them."""

from __future__ import annotations

from xml.etree.ElementTree import Element, SubElement, tostring

from umber_trunk.core.catalog.hues import hue_of
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.covers.dressed_limb import LimbPlan
from umber_trunk.core.ends.svg import INK, PAPER, SOFT, ink_on
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Wire
from umber_trunk.core.harness.way import CoverKind
from umber_trunk.core.physics.packing import quick
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say

TIMES = 5.0
"""How much larger than life a section is drawn."""
MARGIN, LINE = 8.0, 5.0
"""White round the picture and a line of words [mm on paper]."""


def section_svg(results: Results, segment_id: str) -> str:
    """The packed section of a segment, `data-diameter` its bundle in mm. InputError where there is none of that name or
    no wire in it."""
    index, plant = index_of(results.design), results.plant
    if segment_id not in index.segments:
        raise InputError.of("any.no-segment", segment=segment_id)
    rows = [
        index.wires[wire]
        for wire in index.contents[segment_id]
        if wire in plant.row
        for _ in range(index.wires[wire].parallel)
    ]
    if not rows:
        raise InputError.of("covers.no-wire-lies", segment_id=segment_id)
    limb = results.once(dressed)[segment_id]
    packed = quick(tuple([plant.conductors[plant.row[wire.id]].outer_mm for wire in rows]))
    across = max(limb.outside_mm + limb.outside_plus_mm, packed.diameter) * TIMES
    told = _told(limb, index.segment_name(segment_id), len(rows))
    wide = max(across + 2 * MARGIN, max(1.9 * len(line) for line in told) + 2 * MARGIN)
    tall = across + 2 * MARGIN + LINE * (len(told) + 1)
    svg = Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "width": f"{wide:.2f}mm",
            "height": f"{tall:.2f}mm",
            "viewBox": f"0 0 {wide:.2f} {tall:.2f}",
            "font-family": "B612, sans-serif",
            "fill": "none",
            "data-diameter": f"{limb.bundle_mm:.3f}",
        },
    )
    middle = (wide / 2, MARGIN + across / 2)
    _rings(svg, limb, packed.diameter, middle)
    for wire, (x, y), diameter in zip(rows, packed.centres.tolist(), packed.diameters.tolist(), strict=True):
        _wire(svg, wire, middle[0] + TIMES * x, middle[1] - TIMES * y, TIMES * diameter / 2)
    for number, line in enumerate(told):
        place = {"x": f"{MARGIN}", "y": f"{across + 2 * MARGIN + LINE * (number + 0.8):.2f}"}
        SubElement(svg, "text", {**place, "font-size": "3.2", "fill": INK}).text = line
    return tostring(svg, encoding="unicode", xml_declaration=True) + "\n"


def _told(limb: LimbPlan, name: str, count: int) -> list[str]:
    """What stands below the section."""
    most = limb.outside_mm + limb.outside_plus_mm
    covers = [
        say("section.cover", kind=str(plan.kind), name=plan.part_name, mm=plan.outside_mm)
        + ("" if plan.ok else f"  ✕ {plan.problems[0]}")
        for plan in limb.covers
    ]
    return [
        say("section.limb", name=name, count=count, bundle_mm=limb.bundle_mm, outside_mm=limb.outside_mm, most_mm=most),
        say("section.drawn", times=TIMES, bend_mm=limb.least_bend_mm, by=limb.bend_by),
        *covers,
    ]


def _rings(svg: Element, limb: LimbPlan, bundle_mm: float, middle: tuple[float, float]) -> None:
    """Coverings from the outside in, then the bundle."""
    place = {"cx": f"{middle[0]:.3f}", "cy": f"{middle[1]:.3f}"}
    for plan in reversed(limb.covers):
        if plan.kind not in (CoverKind.CLAMP, CoverKind.GROMMET):
            ring = {"r": f"{TIMES * plan.outside_mm / 2:.3f}", "stroke": INK, "stroke-width": "0.5", "fill": "#e7dccb"}
            SubElement(svg, "circle", {"class": "cover", **place, **ring})
    dashes = {"stroke": SOFT, "stroke-width": "0.2", "stroke-dasharray": "1 1", "fill": PAPER}
    SubElement(svg, "circle", {"class": "bundle", **place, "r": f"{TIMES * bundle_mm / 2:.3f}", **dashes})


def _wire(svg: Element, wire: Wire, x: float, y: float, radius: float) -> None:
    colour = hue_of(wire.colour)
    group = SubElement(svg, "g", {"class": "wire", "data-wire": wire.id})
    place = {"cx": f"{x:.3f}", "cy": f"{y:.3f}", "r": f"{radius:.3f}"}
    SubElement(group, "circle", {**place, "fill": colour, "stroke": INK, "stroke-width": "0.3"})
    if wire.stripe:
        box = {
            "x": f"{x - radius * 0.6:.3f}",
            "y": f"{y + radius * 0.35:.3f}",
            "width": f"{1.2 * radius:.3f}",
            "height": f"{0.3 * radius:.3f}",
        }
        SubElement(group, "rect", {**box, "fill": hue_of(wire.stripe)})
    size = min(3.2, 2.4 * radius / max(len(wire.id), 2))
    place = {"x": f"{x:.3f}", "y": f"{y + 0.3 * size:.3f}", "font-size": f"{size:.2f}", "text-anchor": "middle"}
    SubElement(group, "text", {**place, "fill": ink_on(colour)}).text = wire.id
