"""A board drawing as SVG at true scale: one user unit is one millimetre, y down from the drawing's top."""

from __future__ import annotations

from xml.etree.ElementTree import Element, SubElement, tostring

from umber_trunk.core.board.drawing import LAYERS, WIDE, Drawing, Line, Ring, Words

INK = {
    "board": "#7a6a5c", "limbs": "#6b4a2e", "ends": "#2b211b", "fixtures": "#2f7d6b", "labels": "#2b211b", "dimensions": "#8a3b12", "tables": "#2b211b",
}  # fmt: skip
"""Layer → ink, the same on paper and on screen by day."""
MARGIN_MM = 10.0


def extent(drawing: Drawing) -> tuple[float, float]:
    """Width and height of all there is, the tables above the board too."""
    width, height = drawing.width_mm, drawing.height_mm
    for shape in drawing.shapes:
        if isinstance(shape, Words):
            width = max(width, shape.at[0] + WIDE * shape.tall_mm * len(shape.text))
            height = max(height, shape.at[1] + shape.tall_mm)
    return width, height


def board_svg(drawing: Drawing) -> str:
    """The whole drawing. Each layer is a <g id="layer-…">; each limb a <polyline class="limb" data-segment="…">."""
    width, height = extent(drawing)
    wide, tall = width + 2 * MARGIN_MM, height + 2 * MARGIN_MM
    svg = Element("svg", {
        "xmlns": "http://www.w3.org/2000/svg", "width": f"{wide:.3f}mm", "height": f"{tall:.3f}mm", "viewBox": f"0 0 {wide:.3f} {tall:.3f}",
        "font-family": "B612, sans-serif", "fill": "none",
    })  # fmt: skip
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
            SubElement(group, tag, made)
        elif isinstance(shape, Ring):
            x, y = at(*shape.at).split(",")
            SubElement(
                group,
                "circle",
                {"cx": x, "cy": y, "r": f"{shape.radius_mm:g}", "stroke-width": "0.4", "data-name": shape.name},
            )
        else:
            x, y = at(*shape.at).split(",")
            SubElement(group, "text", {"x": x, "y": y, "font-size": f"{shape.tall_mm:g}", "fill": INK[shape.layer], "stroke": "none"}).text = shape.text  # fmt: skip
    return tostring(svg, encoding="unicode", xml_declaration=True) + "\n"
