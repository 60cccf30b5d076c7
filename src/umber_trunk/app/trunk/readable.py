"""The picture for those who hear it: each tag and figure as a part with name and state, where it is drawn."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from umber_trunk.app.trunk.hits import Hits
from umber_trunk.app.trunk.story import Story
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design


class PartsForReaders:
    """Transparent children of the canvas, one for each end, fold and limb with a text; sight and mouse pass through."""

    def __init__(self, canvas: QWidget) -> None:
        self.canvas = canvas
        self.parts: list[QWidget] = []

    def show_parts(self, hits: Hits, design: Design, story: Story | None) -> None:
        """Names and places as the picture is now."""
        index = index_of(design)
        for number, one in enumerate(hits.texts):
            if number == len(self.parts):
                part = QWidget(self.canvas)
                part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
                part.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
                self.parts.append(part)
            part = self.parts[number]
            if one.table == "segments":
                name, state = f"segment {index.segment_name(one.part)}", one.text
                alarm = story is not None and story.limbs[one.part].alarm
            elif one.table == "folds":
                name, state, alarm = "folded branch", one.text, "✕" in one.text
            else:
                name, state = f"end {index.ends[one.part].name}", one.text
                alarm = story is not None and story.leaves[one.part].alarm
            part.setAccessibleName(name)
            part.setAccessibleDescription(f"{state}{', needs a look' if alarm else ''}")
            part.setGeometry(one.box.toAlignedRect())
            part.show()
        for part in self.parts[len(hits.texts) :]:
            part.hide()
