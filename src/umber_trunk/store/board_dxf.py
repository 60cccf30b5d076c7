"""A board drawing as DXF: millimetres, one layer for each kind of thing, limbs as polylines."""

from __future__ import annotations

import io
from typing import Any

from umber_trunk.core.board.drawing import LAYERS, Drawing
from umber_trunk.core.strokes import Line, Ring

HUES = {
    "board": 8,
    "limbs": 30,
    "coverings": 9,
    "ends": 7,
    "faces": 7,
    "fixtures": 3,
    "labels": 7,
    "dimensions": 1,
    "tables": 7,
    "moved": 1,
}


def board_dxf(drawing: Drawing) -> bytes:
    """The whole drawing as a DXF of the 2010 release; a limb's segment is kept as extended data of its polyline."""
    from ezdxf import units  # here: nothing else needs it, and it takes a moment to load
    from ezdxf.filemanagement import new

    document = new("R2010", setup=False)
    document.units = units.MM
    document.appids.add("UMBER_TRUNK")
    for layer in LAYERS:
        document.layers.add(layer.upper(), color=HUES[layer])
    space = document.modelspace()
    for shape in drawing.shapes:
        kept: dict[str, Any] = {"layer": shape.layer.upper()}
        if shape.ink:
            kept["true_color"] = int(shape.ink[1:], 16)
        if isinstance(shape, Line | Ring) and shape.fill:
            hatch = space.add_hatch(dxfattribs={"layer": shape.layer.upper(), "true_color": int(shape.fill[1:], 16)})
            if isinstance(shape, Line):
                hatch.paths.add_polyline_path(list(shape.spots), is_closed=True)
            else:
                hatch.paths.add_edge_path().add_ellipse(shape.at, (shape.radius_mm, 0.0), 1.0, 0.0, 360.0)
        if isinstance(shape, Line):
            made = space.add_lwpolyline(list(shape.spots), close=shape.closed, dxfattribs=kept)
            if shape.name:
                made.set_xdata("UMBER_TRUNK", [(1000, shape.name[:240])])
        elif isinstance(shape, Ring):
            space.add_circle(shape.at, shape.radius_mm, dxfattribs=kept)
        else:
            space.add_text(shape.text, height=shape.tall_mm, dxfattribs=kept).set_placement(shape.at)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")
