"""Faces and strip drawings as SVG at true scale: one user unit is one millimetre."""

from __future__ import annotations

import math
from collections.abc import Sequence
from xml.etree.ElementTree import Element, SubElement, tostring

from umber_trunk.core.catalog.hues import hue_of
from umber_trunk.core.ends.faces import Face, Spot
from umber_trunk.core.ends.strip import Strip, tenths

MARGIN_MM = 6.0
"""White round the faces."""
WIDE = 0.6
"""Width of a letter over its height, about."""
INK, SOFT, PAPER = "#2b211b", "#7a6a5c", "#fbf7f0"


def _document(width: float, height: float) -> Element:
    return Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "width": f"{width:.3f}mm",
            "height": f"{height:.3f}mm",
            "viewBox": f"0 0 {width:.3f} {height:.3f}",
            "font-family": "B612, sans-serif",
            "fill": "none",
            "stroke": INK,
            "stroke-width": "0.25",
        },
    )


def _text(
    parent: Element, x: float, y: float, said: str, size: float = 2.4, anchor: str = "middle", colour: str = INK
) -> None:
    SubElement(
        parent,
        "text",
        {
            "x": f"{x:.3f}",
            "y": f"{y:.3f}",
            "font-size": f"{size}",
            "text-anchor": anchor,
            "fill": colour,
            "stroke": "none",
        },
    ).text = said


def faces_svg(faces: Sequence[Face]) -> str:
    """Faces one under another. Each cavity is a <g class="cavity"> with its label, its place in mm from the face's
    middle (data-x, data-y, y up) and its state."""
    width = max([face.width_mm for face in faces] + [60.0]) + 2 * MARGIN_MM + 60
    height = sum(max(face.height_mm, 4.0 * len(face.spots)) + 2 * MARGIN_MM + 8 for face in faces)
    svg = _document(width, height)
    top = MARGIN_MM
    for face in faces:
        tall = max(face.height_mm, 4.0 * len(face.spots))
        group = SubElement(svg, "g", {"class": "face", "id": f"face-{face.housing}", "data-side": face.side})
        _text(group, MARGIN_MM, top + 3, f"{face.end}, {face.name}, {face.words}", 3.0, "start")
        cx, cy = MARGIN_MM + face.width_mm / 2, top + 8 + face.height_mm / 2
        if face.shape == "round":
            SubElement(group, "circle", {"cx": f"{cx:.3f}", "cy": f"{cy:.3f}", "r": f"{face.width_mm / 2:.3f}"})
        else:
            SubElement(
                group,
                "rect",
                {
                    "x": f"{cx - face.width_mm / 2:.3f}",
                    "y": f"{cy - face.height_mm / 2:.3f}",
                    "width": f"{face.width_mm:.3f}",
                    "height": f"{face.height_mm:.3f}",
                    "rx": "1.5",
                },
            )
        if face.keyed:
            SubElement(
                group,
                "path",
                {"class": "key", "d": f"M {cx - 2:.3f} {cy - face.height_mm / 2:.3f} l 2 1.6 l 2 -1.6", "fill": SOFT},
            )
        least = _pitch(face.spots)
        for spot in face.spots:
            _spot(group, spot, cx, cy, min(2.6, 0.42 * least))
        for row, spot in enumerate(face.spots):
            state = (
                f"{' '.join(spot.wires)} {spot.colour}{'/' + spot.stripe if spot.stripe else ''}"
                if spot.wires
                else spot.state
            )
            _text(
                group,
                MARGIN_MM * 2 + face.width_mm,
                top + 10 + 4.0 * row,
                f"{spot.label}  {state}  {spot.function}",
                2.6,
                "start",
            )
        top += tall + 2 * MARGIN_MM + 8
    return tostring(svg, encoding="unicode", xml_declaration=True) + "\n"


def _pitch(spots: Sequence[Spot]) -> float:
    """Least distance between two cavities."""
    apart = [math.dist((a.x_mm, a.y_mm), (b.x_mm, b.y_mm)) for n, a in enumerate(spots) for b in spots[n + 1 :]]
    return max(min(apart, default=8.0), 0.5)


def _spot(parent: Element, spot: Spot, cx: float, cy: float, radius: float) -> None:
    x, y = cx + spot.x_mm, cy - spot.y_mm
    group = SubElement(
        parent,
        "g",
        {
            "class": "cavity",
            "data-label": spot.label,
            "data-x": f"{spot.x_mm:.4f}",
            "data-y": f"{spot.y_mm:.4f}",
            "data-state": spot.state,
        },
    )
    place = {"cx": f"{x:.4f}", "cy": f"{y:.4f}", "r": f"{radius:.3f}"}
    paper = hue_of(spot.colour) if spot.wires else SOFT if spot.plugged else PAPER
    dashes = {} if spot.wires or spot.plugged else {"stroke-dasharray": "0.6 0.5"}
    SubElement(group, "circle", {**place, "fill": paper, **dashes})
    if spot.wires and spot.stripe:
        low = 0.45 * radius  # a segment at the foot: the label stays on the wire's own colour
        half = math.sqrt(radius**2 - low**2)
        foot = f"M {x - half:.3f} {y + low:.3f} A {radius:.3f} {radius:.3f} 0 0 0 {x + half:.3f} {y + low:.3f} z"
        SubElement(group, "path", {"d": foot, "fill": hue_of(spot.stripe), "stroke": "none"})
    if spot.plugged:
        edge = radius / math.sqrt(2)
        SubElement(
            group, "path", {"d": f"M {x - edge:.3f} {y - edge:.3f} L {x + edge:.3f} {y + edge:.3f}", "stroke": PAPER}
        )
    size = min(2.0, 1.0 * radius)
    if WIDE * size * len(spot.label) < 2 * radius:
        _text(group, x, y + 0.36 * size, spot.label, size, colour=ink_on(paper))
    else:
        _text(group, x, y + radius + 1.9, spot.label, 1.8)


def ink_on(paper: str) -> str:
    """Dark or light ink, whichever reads on a colour."""
    red, green, blue = (int(paper[at : at + 2], 16) for at in (1, 3, 5))
    return INK if 0.3 * red + 0.59 * green + 0.11 * blue > 120 else PAPER


def strips_svg(strips: Sequence[Strip]) -> str:
    """Both ends, tips to the left, each to scale with its dimensions. A piece is a <rect class="piece"> with data-from
    and data-to in mm from the tip."""
    reach = max(max([piece.to_mm for piece in one.pieces] + [one.strip_mm]) for one in strips) + 25
    front = max([-min([piece.from_mm for piece in one.pieces] + [0.0]) for one in strips])
    heads = [f"{one.wire} at {one.end} {one.cavity}: {one.part_name}" for one in strips]
    told = [
        [
            f"{number}  {piece.name} {tenths(piece.from_mm)} to {tenths(piece.to_mm)} mm  {piece.note}"
            for number, piece in enumerate(one.pieces, 1)
        ]
        for one in strips
    ]
    longest = max(
        [WIDE * 3.0 * len(text) for text in heads] + [WIDE * 2.2 * len(text) for rows in told for text in rows]
    )
    tops, top = [], MARGIN_MM
    for one, rows in zip(strips, told, strict=True):
        tops.append(top)
        top += 18 + _tall(one) + 3.2 * (len(rows) + 1) + 6
    svg = _document(max(front + reach, longest) + 2 * MARGIN_MM, top)
    for one, head, rows, start in zip(strips, heads, told, tops, strict=True):
        tip, middle = MARGIN_MM + front, start + 14 + _tall(one) / 2
        group = SubElement(svg, "g", {"class": "end", "id": f"end-{one.side}"})
        _text(group, MARGIN_MM, start + 3, head, 3.0, "start")
        _drawn_end(group, one, tip, middle, reach)
        _dimension(group, tip, tip + one.strip_mm, start + 10, f"strip {tenths(one.strip_mm)}")
        for line, text in enumerate(rows):
            _text(group, MARGIN_MM, middle + _tall(one) / 2 + 6 + 3.2 * line, text, 2.2, "start", SOFT)
    return tostring(svg, encoding="unicode", xml_declaration=True) + "\n"


def _drawn_end(group: Element, one: Strip, tip: float, middle: float, reach: float) -> None:
    """The wire with its tip there, what is on it piece by piece, and where it is pressed."""
    bare, covered = tip + one.strip_mm, reach - one.strip_mm
    _bar(group, "insulation", bare, middle, covered, one.outer_mm, hue_of(one.colour))
    if one.stripe:
        _bar(group, "stripe", bare, middle, covered, 0.3 * one.outer_mm, hue_of(one.stripe))
    _bar(group, "conductor", tip, middle, one.strip_mm, one.conductor_mm, "#c98b5a")
    for number, piece in enumerate(one.pieces, 1):
        made = _bar(group, "piece", tip + piece.from_mm, middle, piece.to_mm - piece.from_mm, piece.width_mm, "none")
        made.attrib |= {
            "data-what": piece.what,
            "data-from": f"{piece.from_mm:.3f}",
            "data-to": f"{piece.to_mm:.3f}",
        }
        _text(group, tip + (piece.from_mm + piece.to_mm) / 2, middle + piece.width_mm / 2 + 2.2, str(number), 2.0)
    for press in one.crimps_at_mm:
        mark = f"M {tip + press:.3f} {middle - _tall(one) / 2 - 0.6:.3f} l -1 -2 l 2 0 z"
        SubElement(group, "path", {"class": "crimp", "d": mark, "fill": INK})


def _tall(one: Strip) -> float:
    """Height of the widest thing on an end."""
    return max([piece.width_mm for piece in one.pieces] + [one.outer_mm])


def _bar(parent: Element, kind: str, x: float, middle: float, long: float, wide: float, fill: str) -> Element:
    """A rectangle along the wire, its middle line at `middle`."""
    return SubElement(
        parent,
        "rect",
        {
            "class": kind,
            "x": f"{x:.3f}",
            "y": f"{middle - wide / 2:.3f}",
            "width": f"{long:.3f}",
            "height": f"{wide:.3f}",
            "fill": fill,
        },
    )


def _dimension(parent: Element, left: float, right: float, y: float, said: str) -> None:
    SubElement(
        parent,
        "path",
        {
            "class": "dimension",
            "d": f"M {left:.3f} {y - 1:.3f} v 2 M {left:.3f} {y:.3f} H {right:.3f} M {right:.3f} {y - 1:.3f} v 2",
        },
    )
    _text(parent, (left + right) / 2, y - 1.2, said, 2.4)


def svg_size(svg: str) -> tuple[float, float]:
    """Width and height of a drawing of ours, in mm."""
    box = svg.partition('viewBox="')[2].partition('"')[0].split()
    return float(box[2]), float(box[3])
