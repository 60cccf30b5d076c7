"""A board drawing as SVG at true scale: one user unit is one millimetre, y down from the drawing's top."""

from __future__ import annotations

from xml.etree.ElementTree import Element, SubElement, tostring

from umber_trunk.core.board.drawing import LAYERS, Drawing
from umber_trunk.core.strokes import Line, Ring

INK = {
    "board": "#7a6a5c", "limbs": "#6b4a2e", "coverings": "#54616b", "ends": "#2b211b", "faces": "#2b211b", "fixtures": "#2f7d6b", "labels": "#2b211b",
    "dimensions": "#8a3b12", "tables": "#2b211b", "moved": "#b3261e",
}  # fmt: skip
"""Layer → ink, the same on paper and on screen by day."""
MARGIN_MM = 10.0
"""White round the picture."""


def board_svg(drawing: Drawing) -> str:
    """The whole drawing. Each layer is a <g id="layer-…">; each limb a <polyline class="limb" data-segment="…">."""
    width, height = drawing.width_mm, drawing.height_mm
    wide, tall = width + 2 * MARGIN_MM, height + 2 * MARGIN_MM
    svg = Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "width": f"{wide:.3f}mm",
            "height": f"{tall:.3f}mm",
            "viewBox": f"0 0 {wide:.3f} {tall:.3f}",
            "font-family": "B612, sans-serif",
            "fill": "none",
        },
    )
    groups = {layer: SubElement(svg, "g", {"id": f"layer-{layer}", "stroke": INK[layer]}) for layer in LAYERS}

    def at(x: float, y: float) -> str:
        return f"{x + MARGIN_MM:.4f},{height + MARGIN_MM - y:.4f}"

    for shape in drawing.shapes:
        group = groups[shape.layer]
        if isinstance(shape, Line):
            tag = "polygon" if shape.closed else "polyline"
            made = {"points": " ".join(at(*spot) for spot in shape.spots), "stroke-width": f"{shape.wide_mm:.2f}"}
            if shape.layer == "limbs":
                made |= {
                    "class": "limb",
                    "data-segment": shape.name,
                    "stroke-linejoin": "round",
                    "stroke-linecap": "round",
                    "stroke-opacity": "0.75",
                }
            elif shape.name:
                made["data-name"] = shape.name
            made |= inked(shape.ink, shape.fill)
            SubElement(group, tag, made)
        elif isinstance(shape, Ring):
            x, y = at(*shape.at).split(",")
            SubElement(
                group,
                "circle",
                {"cx": x, "cy": y, "r": f"{shape.radius_mm:g}", "stroke-width": "0.4", "data-name": shape.name}
                | inked(shape.ink, shape.fill),
            )
        else:
            x, y = at(*shape.at).split(",")
            SubElement(
                group,
                "text",
                {
                    "x": x,
                    "y": y,
                    "font-size": f"{shape.tall_mm:g}",
                    "fill": shape.ink or INK[shape.layer],
                    "stroke": "none",
                },
            ).text = shape.text
    return tostring(svg, encoding="unicode", xml_declaration=True) + "\n"


def inked(ink: str, fill: str) -> dict[str, str]:
    """What a shape says of its own ink and fill."""
    return ({"stroke": ink} if ink else {}) | ({"fill": fill} if fill else {})
