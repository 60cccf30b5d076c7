"""Faces and strip drawings as SVG at true scale: one user unit is one millimetre."""

from __future__ import annotations

import math
from collections.abc import Sequence
from xml.etree.ElementTree import Element, SubElement, tostring

from umber_trunk.core.ends.faces import Face, Spot
from umber_trunk.core.ends.strip import Strip

MARGIN_MM = 6.0
INK, SOFT, PAPER = "#2b211b", "#7a6a5c", "#fbf7f0"
COLOURS = {
    "black": "#1f1d1b", "red": "#b3261e", "blue": "#2456a6", "green": "#2f7d4f", "yellow": "#e2b81f", "white": "#f7f5f0", "grey": "#8d8a86", "gray": "#8d8a86",
    "brown": "#6f4a2f", "orange": "#d9731a", "violet": "#7a4b9c", "purple": "#7a4b9c", "pink": "#dc8fa5", "turquoise": "#2fa3a3", "green-yellow": "#2f7d4f",
}  # fmt: skip


def hue(colour: str) -> str:
    """A wire colour on paper; grey for a word that names none."""
    return COLOURS.get(colour.lower(), "#b9b0a6")


def _document(width: float, height: float) -> Element:
    return Element("svg", {
        "xmlns": "http://www.w3.org/2000/svg", "width": f"{width:.3f}mm", "height": f"{height:.3f}mm", "viewBox": f"0 0 {width:.3f} {height:.3f}",
        "font-family": "B612, sans-serif", "fill": "none", "stroke": INK, "stroke-width": "0.25",
    })  # fmt: skip


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
    """Faces one under another. Each cavity is a <g class="cavity"> with its label, its place in mm from the face's middle
    (data-x, data-y, y up) and its state."""
    width = max([face.width_mm for face in faces] + [60.0]) + 2 * MARGIN_MM + 60
    height = sum(max(face.height_mm, 4.0 * len(face.spots)) + 2 * MARGIN_MM + 8 for face in faces)
    svg = _document(width, height)
    top = MARGIN_MM
    for face in faces:
        tall = max(face.height_mm, 4.0 * len(face.spots))
        group = SubElement(svg, "g", {"class": "face", "id": f"face-{face.housing}", "data-side": face.side})
        _text(group, MARGIN_MM, top + 3, f"{face.name}: {face.form}, {face.contacts}s, {face.words}", 3.0, "start")
        cx, cy = MARGIN_MM + face.width_mm / 2, top + 8 + face.height_mm / 2
        if face.shape == "round":
            SubElement(group, "circle", {"cx": f"{cx:.3f}", "cy": f"{cy:.3f}", "r": f"{face.width_mm / 2:.3f}"})
        else:
            SubElement(group, "rect", {
                "x": f"{cx - face.width_mm / 2:.3f}", "y": f"{cy - face.height_mm / 2:.3f}", "width": f"{face.width_mm:.3f}", "height": f"{face.height_mm:.3f}", "rx": "1.5",
            })  # fmt: skip
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
    place = {"cx": f"{x:.4f}", "cy": f"{y:.4f}"}
    if spot.wires:
        SubElement(group, "circle", {**place, "r": f"{radius:.3f}", "fill": hue(spot.colour)})
        if spot.stripe:
            SubElement(
                group,
                "path",
                {
                    "d": f"M {x - radius:.3f} {y:.3f} a {radius:.3f} {radius:.3f} 0 0 1 {2 * radius:.3f} 0 z",
                    "fill": hue(spot.stripe),
                    "stroke": "none",
                },
            )
    else:
        SubElement(
            group,
            "circle",
            {
                **place,
                "r": f"{radius:.3f}",
                "fill": SOFT if spot.plugged else PAPER,
                **({} if spot.plugged else {"stroke-dasharray": "0.6 0.5"}),
            },
        )
    _text(group, x, y + radius + 2.2, spot.label, 2.0)


def strips_svg(strips: Sequence[Strip]) -> str:
    """Both ends, tips to the left, each to scale with its dimensions. A piece is a <rect class="piece"> with data-from and
    data-to in mm from the tip."""
    reach = max(max([piece.to_mm for piece in one.pieces] + [one.strip_mm]) for one in strips) + 25
    front = max([-min([piece.from_mm for piece in one.pieces] + [0.0]) for one in strips])
    svg = _document(front + reach + 2 * MARGIN_MM, 46.0 * len(strips) + MARGIN_MM)
    for row, one in enumerate(strips):
        tip, middle = MARGIN_MM + front, MARGIN_MM + 20 + 46.0 * row
        group = SubElement(svg, "g", {"class": "end", "id": f"end-{one.side}"})
        _text(group, MARGIN_MM, middle - 15, f"{one.wire} at {one.end} {one.cavity}: {one.part_name}", 3.0, "start")
        SubElement(
            group,
            "rect",
            {
                "class": "insulation",
                "x": f"{tip + one.strip_mm:.3f}",
                "y": f"{middle - one.outer_mm / 2:.3f}",
                "width": f"{reach - one.strip_mm:.3f}",
                "height": f"{one.outer_mm:.3f}",
                "fill": hue(one.colour),
            },
        )
        SubElement(
            group,
            "rect",
            {
                "class": "conductor",
                "x": f"{tip:.3f}",
                "y": f"{middle - one.conductor_mm / 2:.3f}",
                "width": f"{one.strip_mm:.3f}",
                "height": f"{one.conductor_mm:.3f}",
                "fill": "#c98b5a",
            },
        )
        for at, piece in enumerate(one.pieces):
            SubElement(group, "rect", {
                "class": "piece", "data-what": piece.what, "data-from": f"{piece.from_mm:.3f}", "data-to": f"{piece.to_mm:.3f}", "x": f"{tip + piece.from_mm:.3f}",
                "y": f"{middle - piece.width_mm / 2:.3f}", "width": f"{piece.to_mm - piece.from_mm:.3f}", "height": f"{piece.width_mm:.3f}",
            })  # fmt: skip
            _text(
                group,
                tip + piece.from_mm,
                middle + 12 + 3.0 * at,
                f"{piece.what} {piece.from_mm:g} to {piece.to_mm:g} mm  {piece.note}",
                2.2,
                "start",
                SOFT,
            )
        for press in one.crimps_at_mm:
            SubElement(
                group,
                "path",
                {"class": "crimp", "d": f"M {tip + press:.3f} {middle - 6:.3f} l -1 -2 l 2 0 z", "fill": INK},
            )
        _dimension(group, tip, tip + one.strip_mm, middle - 9, f"strip {one.strip_mm:g}")
    return tostring(svg, encoding="unicode", xml_declaration=True) + "\n"


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
