"""What was drawn where on the picture, for mouse, keys, screen readers and tests."""

from __future__ import annotations

from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath, QPainterPathStroker

from umber_trunk.core.picture.layout import Tag


@dataclass(frozen=True)
class Drawn:
    """One text on the picture: where, what, of which part."""

    box: QRectF
    text: str
    table: str
    part: str


@dataclass
class Hits:
    """What was drawn where: ways of segments, boxes of tags and strays, `named` lines of tags that several ends share,
    and every text."""

    segments: dict[str, tuple[QPainterPath, float]] = field(default_factory=dict)
    tags: list[tuple[QRectF, Tag]] = field(default_factory=list)
    named: list[tuple[QRectF, str]] = field(default_factory=list)
    strays: list[tuple[QRectF, tuple[str, ...]]] = field(default_factory=list)
    texts: list[Drawn] = field(default_factory=list)
    overview: QRectF | None = None

    def end_at(self, at: QPointF, tag: Tag) -> str:
        """The end a tag names at a place, else its first."""
        return next((end for box, end in self.named if box.contains(at)), tag.ends[0])

    def segment_at(self, at: QPointF) -> str | None:
        """The segment drawn under a place."""
        for segment, (path, thick) in reversed(self.segments.items()):  # what was drawn last lies on top
            if path.boundingRect().adjusted(-14, -14, 14, 14).contains(at):
                stroker = QPainterPathStroker()
                stroker.setWidth(max(thick, 14))
                if stroker.createStroke(path).contains(at):
                    return segment
        return None
