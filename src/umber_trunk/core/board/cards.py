"""What is told beside an end on the board: its face from the wire side at true scale, and a row for each wire that
comes there.

┌ deck plug · seen from the wire side ─────────┐
│   (1)(2)     1  R01  ▆ RD/WH  pin 2.5   6    │     cavity, wire, colour drawn and by its code, part, strip in mm
│   (3)(4)     2  R02  ▆ BK     pin 2.5   6    │
└──────────────────────────────────────────────┘
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from umber_trunk.core.catalog.hues import code_of, hue_of
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.faces import Face, faces_in
from umber_trunk.core.ends.strip import strip_of, tenths
from umber_trunk.core.ends.wire_ends import WireEnd, places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.end import End, EndKind
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say
from umber_trunk.core.strokes import Line, Ring, Shape, Words, frame, moved, wide_of

TALL_MM, HEAD_MM, ROW_MM, PAD_MM = 2.6, 3.2, 3.9, 2.0
"""Height of a card's letters, its heading and a row; the edge round them all."""
SWATCH_MM = 5.0
"""Width of a wire's colour on a card."""
MOST_ROWS = 40
"""Rows beside one another rather than under, beyond so many."""


@dataclass(frozen=True)
class Block:
    """Shapes in a box from zero on."""

    wide_mm: float
    tall_mm: float
    shapes: tuple[Shape, ...]


@dataclass(frozen=True)
class Row:
    """One wire at an end."""

    cavity: str
    wire: str
    colour: str
    stripe: str
    part: str
    strip: str
    more: str = ""

    @property
    def cells(self) -> tuple[str, ...]:
        """Texts in order; the colour's code has a swatch before it."""
        return (
            self.cavity,
            self.wire,
            code_of(self.colour, self.stripe) or self.colour,
            self.part,
            self.strip,
            self.more,
        )


def card_blocks(results: Results) -> dict[str, tuple[str, Block]]:
    """End → (its point, its card), for every end on the harness's way with wires at it; for `Results.once`."""
    by_end: dict[str, list[WireEnd]] = {}
    for one in places_of(results.design, results.shelf).ends:
        by_end.setdefault(one.end.id, []).append(one)
    return {
        end.id: (end.point, _card(results, end, by_end[end.id]))
        for end in results.design.ends
        if end.point is not None and end.id in by_end
    }


def rows_of(results: Results, here: Sequence[WireEnd]) -> list[Row]:
    """A row for each wire at an end, in the order of its cavities; for board and lead sheets alike."""
    known = results.once(fitted)
    found = []
    for one in here:
        strip, part = strip_of(results, one), known.of(one).part
        clock = known.of(one).clock_deg if one.made == "lug" else 0.0
        more = f"turned {clock:g}°" if clock else ""
        wire = one.wire
        found.append(
            Row(
                one.cavity.id,
                wire.id,
                wire.colour,
                wire.stripe,
                results.shelf.name(part) if part else "",
                f"{tenths(strip.strip_mm)}" if strip else "",
                more,
            )
        )
    return found


def _card(results: Results, end: End, here: Sequence[WireEnd]) -> Block:
    try:
        faces = faces_in(results, end.id, "wire")
    except InputError:
        faces = []
    rows = rows_of(results, here)
    title = end.name if end.name == end.id else f"{end.name}  {end.id}"
    if faces:
        title += say("board.wire-side")
    if end.kind is EndKind.SPLICE:
        plan = next((one for one in results.once(joins) if one.end == end.id), None)
        title = say("board.splice", end=end.id)
        if plan is not None:
            title += say("board.splice-at", out_mm=1e3 * plan.at_m, side=plan.dull)
    shapes: list[Shape] = []
    drawn = [face_block(face) for face in faces]
    wide_faces, tall_faces = (
        max((block.wide_mm for block in drawn), default=0.0),
        sum(block.tall_mm + PAD_MM for block in drawn),
    )
    table = table_block(
        [row.cells for row in rows], {number: (row.colour, row.stripe) for number, row in enumerate(rows)}
    )
    inner = max(tall_faces, table.tall_mm)
    tall = inner + HEAD_MM + 3 * PAD_MM
    wide = max(wide_faces + PAD_MM * (2 if drawn else 0) + table.wide_mm, wide_of(title, HEAD_MM)) + 2 * PAD_MM
    shapes.append(frame("tables", (0.0, 0.0, wide, tall), 0.2, end.id))
    shapes.append(Words("tables", (PAD_MM, tall - PAD_MM - HEAD_MM), title, HEAD_MM))
    top = tall - HEAD_MM - 2 * PAD_MM
    y = top
    for block in drawn:
        y -= block.tall_mm
        shapes += moved(block.shapes, PAD_MM, y)
        y -= PAD_MM
    shapes += moved(table.shapes, PAD_MM + (wide_faces + 2 * PAD_MM if drawn else 0.0), top - table.tall_mm)
    return Block(wide, tall, tuple(shapes))


def face_block(face: Face) -> Block:
    """A face at true scale, its cavities in the colours of what is in them; below it what part it is."""
    wide, tall = max(face.width_mm, wide_of(face.name, 2.0)), face.height_mm + 3.0
    x0, y0 = wide / 2, tall - face.height_mm / 2
    near = min(
        (math.hypot(a.x_mm - b.x_mm, a.y_mm - b.y_mm) for a in face.spots for b in face.spots if a is not b),
        default=8.0,
    )
    radius = min(max(0.42 * near, 0.8), 4.0)
    shapes: list[Shape] = []
    if face.shape == "round":
        shapes.append(Ring("faces", (x0, y0), face.width_mm / 2, face.housing))
    else:
        half_w, half_h = face.width_mm / 2, face.height_mm / 2
        shapes.append(frame("faces", (x0 - half_w, y0 - half_h, x0 + half_w, y0 + half_h), 0.35, face.housing))
    for spot in face.spots:
        at = (x0 + spot.x_mm, y0 + spot.y_mm)
        shapes.append(Ring("faces", at, radius, spot.label, fill=hue_of(spot.colour) if spot.wires else ""))
        if spot.stripe:
            shapes.append(
                Line(
                    "faces",
                    ((at[0] - radius, at[1]), (at[0] + radius, at[1])),
                    radius / 2,
                    "",
                    False,
                    hue_of(spot.stripe),
                )
            )
        if spot.plugged:
            shapes += [
                Line("faces", ((at[0] - radius, at[1] - s * radius), (at[0] + radius, at[1] + s * radius)), 0.25)
                for s in (1, -1)
            ]
        tall_label = min(1.8, radius * 1.2)
        light = not spot.wires or spot.colour in ("white", "yellow", "beige", "tan", "pink", "")
        shapes.append(
            Words(
                "faces",
                (at[0] - wide_of(spot.label, tall_label) / 2, at[1] - tall_label / 2),
                spot.label,
                tall_label,
                "#2b211b" if light else "#ffffff",
            )
        )
    shapes.append(Words("faces", (x0 - wide_of(face.name, 2.0) / 2, 0.0), face.name, 2.0))
    return Block(wide, tall, tuple(shapes))


def table_block(rows: Sequence[Sequence[str]], colours: dict[int, tuple[str, str]], head: Sequence[str] = ()) -> Block:
    """Rows of text in columns as wide as they need; a swatch before the third cell of the rows with colours."""
    if not rows:
        return Block(0.0, 0.0, ())
    folds = max(1, math.ceil(len(rows) / MOST_ROWS))
    each = math.ceil(len(rows) / folds)
    shapes: list[Shape] = []
    x, tall = 0.0, each * ROW_MM
    swatch = SWATCH_MM + 1.0 if colours else 0.0
    for fold in range(folds):
        part = list(enumerate(rows))[fold * each : (fold + 1) * each]
        widths = [
            max((wide_of(row[column], TALL_MM) for _, row in part if column < len(row)), default=0.0)
            for column in range(max(len(r) for r in rows))
        ]
        for place, (number, row) in enumerate(part):
            y, at = tall - (place + 1) * ROW_MM, x
            for column, text in enumerate(row):
                if column == 2 and number in colours:
                    colour, stripe = colours[number]
                    shapes.append(
                        frame(
                            "tables",
                            (at, y, at + SWATCH_MM, y + TALL_MM),
                            0.15,
                            "",
                            hue_of(colour) if colour else "",
                            "#2b211b",
                        )
                    )
                    if stripe:
                        middle = y + TALL_MM / 2
                        shapes.append(
                            Line("tables", ((at, middle), (at + SWATCH_MM, middle)), 0.8, "", False, hue_of(stripe))
                        )
                if text:
                    shapes.append(Words("tables", (at + (swatch if column == 2 else 0.0), y), text, TALL_MM))
                if widths[column]:
                    at += widths[column] + 2.2 + (swatch if column == 2 else 0.0)
        x += sum(w + 2.2 for w in widths if w) + swatch + 3.0
    return Block(max(x - 3.0, 0.0), tall, tuple(shapes))
