"""What a painting of the trunk picture rests on, taken in one go on the window's thread, so that it can be painted on
any."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

from umber_trunk.app import theme
from umber_trunk.app.trunk.hits import Hits
from umber_trunk.app.trunk.painter import TrunkPainter, room_in
from umber_trunk.app.trunk.story import Story, tell
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.picture.layout import Layout, Picture
from umber_trunk.core.picture.notice import interest

if TYPE_CHECKING:
    from umber_trunk.core.harness.model import Design
    from umber_trunk.core.make.bench_state import Progress
    from umber_trunk.core.prove.redline import Redline
    from umber_trunk.core.results import Results


@dataclass(frozen=True, eq=False)
class Shown:
    """A painting: the tree it is of, its layout and story, what lies where, and the image where it was painted beside
    the window."""

    picture: Picture
    layout: Layout
    story: Story | None = None
    painter: TrunkPainter | None = None
    hits: Hits = field(default_factory=Hits)
    image: QImage | None = None


@dataclass(frozen=True, eq=False)
class Wish:
    """A picture wanted. `results` are those of the design where they are worked out, `looked` those whose figures are
    painted; `before` is what is shown, whose tree and places stay as long as nothing calls for others."""

    design: Design
    results: Results | None
    looked: Results | None
    paints: str
    progress: Progress | None
    redline: Redline | None
    selected: frozenset[tuple[str, str]]
    chosen: frozenset[str]
    near: str
    kept: dict[str, bool]
    size: tuple[int, int]
    ratio: float
    zoom: float
    pan: float
    before: Shown | None

    def picture(self) -> Picture:
        """The tree: the one shown, where neither it nor any wire's way is new."""
        if self.before is not None:
            was, now = self.before.picture.index, index_of(self.design)
            if was.parents is now.parents and was.contents is now.contents:
                return self.before.picture
        return Picture(self.design)

    def layout(self, picture: Picture) -> Layout:
        """The places, for this width, zoom and these interests; nothing jumps while figures are worked out."""
        if self.results is None and self.before is not None and self.before.picture is picture:
            return self.before.layout
        near = picture.knots[self.near].points if self.near in picture.knots else ()
        worth = interest(index_of(self.design), self.results, self.chosen, near)
        return picture.lay_out(
            room_in(self.size[0], self.zoom), worth, self.kept | ({self.near: True} if self.near else {})
        )

    def laid(self) -> Shown:
        """The places alone."""
        picture = self.picture()
        return Shown(picture, self.layout(picture))

    def painted(self, painter: QPainter, laid: Shown, told: Story | None = None) -> Shown:
        """Paints it; `told` is the story where that is known."""
        story = told or tell(self.paints, self.design, self.looked, self.progress, self.redline)
        brush = TrunkPainter(self.design, laid.layout, story, set(self.selected), self.results, self.zoom, self.pan)
        hits = brush.paint(painter, QRectF(0, 0, *self.size))
        return Shown(laid.picture, laid.layout, story, brush, hits)

    def image(self) -> Shown:
        """Painted on an image, on any thread; without one where there is nothing to paint."""
        laid = self.laid()
        if not laid.layout.tags and not laid.layout.strays:
            return laid
        image = QImage(
            round(self.size[0] * self.ratio),
            round(self.size[1] * self.ratio),
            QImage.Format.Format_ARGB32_Premultiplied,
        )
        image.setDevicePixelRatio(self.ratio)
        image.fill(theme.PAPER)
        painter = QPainter(image)
        try:
            shown = self.painted(painter, laid)
        finally:
            painter.end()
        return replace(shown, image=image)
