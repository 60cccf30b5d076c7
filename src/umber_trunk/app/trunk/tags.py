"""What the tags on the picture say, and how large they are: names wrapped, folds summed up."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache

from PySide6.QtGui import QFontMetricsF

from umber_trunk.app import theme
from umber_trunk.app.trunk.story import Leaf, Story
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import Index
from umber_trunk.core.picture.layout import Layout, Tag

POINTS = 8.5
WIDEST = 190.0


@dataclass(frozen=True)
class Line:
    """One line of a tag; `end` is the end it names, where several share the tag."""

    text: str
    bold: bool = False
    alarm: bool = False
    end: str = ""


@cache
def metrics(points: float, bold: bool, scale: float) -> QFontMetricsF:
    """Sizes of the shipped face; `scale` is the text scale they belong to."""
    return QFontMetricsF(theme.font(points, bold=bold))


def measured(points: float = POINTS, bold: bool = False) -> QFontMetricsF:
    """Sizes of the face as it is now."""
    return metrics(points, bold, theme.text_scale())


def wrapped(text: str, face: QFontMetricsF, wide: float, most: int) -> list[str]:
    """The text in at most `most` lines: between words where it can be, inside a word that is wider than a line; what
    still doesn't fit is cut in its middle."""
    lines: list[str] = []
    words = text.split() or [""]
    while words and len(lines) < most:
        line = words.pop(0)
        while words and face.horizontalAdvance(f"{line} {words[0]}") <= wide:
            line = f"{line} {words.pop(0)}"
        if face.horizontalAdvance(line) > wide:
            fits = next((n for n in range(len(line) - 1, 0, -1) if face.horizontalAdvance(line[:n]) <= wide), 1)
            words.insert(0, line[fits:])
            line = line[:fits]
        lines.append(line)
    if words:
        rest = " ".join([lines[-1], *words])
        lines[-1] = face.elidedText(rest, theme.MIDDLE, wide)
    return lines


class TagWords:
    """The lines of every tag of one picture at one width and for so many lines."""

    def __init__(
        self,
        index: Index,
        layout: Layout,
        story: Story,
        open_at: Mapping[str, Sequence[Finding]],
        used_at: Mapping[str, float],
    ) -> None:
        self.index, self.layout, self.story = index, layout, story
        self.open_at, self.used_at = open_at, used_at

    def lines(self, tag: Tag, wide: float, most: int) -> list[Line]:
        """What a tag says."""
        if tag.fold:
            return self._folded(tag, wide, most)
        bold = measured(bold=True)
        if len(tag.ends) == 1:
            leaf = self.story.leaves.get(tag.ends[0], Leaf(""))
            names = max(most - bool(leaf.text), 1)
            name = self.index.ends[tag.ends[0]].name
            lines = wrapped(name, bold, wide, names)
            if not leaf.alarm and "…" in "".join(lines) and "…" not in name:
                lines = wrapped(name, bold, wide, most)  # a whole name before its figure
            found = [Line(text, True) for text in lines]
            if leaf.text and most > len(found):
                found.append(Line(measured().elidedText(leaf.text, theme.MIDDLE, wide), alarm=leaf.alarm))
            elif leaf.alarm:
                found[-1] = Line(found[-1].text, True, True)
            return found
        return self._several(tag, wide, most)

    def _several(self, tag: Tag, wide: float, most: int) -> list[Line]:
        """Ends at one point: as many names as there is room for, then how many more."""
        bold, found = measured(bold=True), list[Line]()
        for number, end in enumerate(tag.ends):
            left = len(tag.ends) - number
            room = most - len(found) - (left > 1)
            if room < 1:
                more = any(self.story.leaves[other].alarm for other in tag.ends[number:])
                told = tr("and {left} more", left=left) if found else tr("{left} ends", left=left)
                return [*found[: most - 1], Line(told, not found, more)]
            alarm, name = self.story.leaves[end].alarm, self.index.ends[end].name
            whole = wrapped(name, bold, wide, 9)
            if len(whole) > room and found:  # a name is shown whole, or counted
                more = any(self.story.leaves[other].alarm for other in tag.ends[number:])
                return [*found, Line(tr("and {left} more", left=left), alarm=more)]
            found += [
                Line(text, True, alarm, end)
                for text in (whole if len(whole) <= room else wrapped(name, bold, wide, room))
            ]
        return found

    def _folded(self, tag: Tag, wide: float, most: int) -> list[Line]:
        """Its name, how many ends, and its worst: faults are never left out."""
        bold, plain = measured(bold=True), measured()
        state = self.fold_state(tag)
        count = tr("{count} ends", count=len(tag.ends))
        found = [Line(bold.elidedText(count, theme.MIDDLE, wide), True, state.faults > 0 and most == 1)]
        if most > 1 and state.words:
            found += [
                Line(text, alarm=state.faults > 0) for text in wrapped(state.words, plain, wide, max(most - 1, 1))
            ]
        if most > len(found) + 1:
            name = self.index.point_name(tag.point)
            found = [Line(text, True) for text in wrapped(name, bold, wide, 1) if name != tag.point] + found
        return found

    def fold_state(self, tag: Tag) -> FoldState:
        """How many things are open in a fold, and its worst in words."""
        inside = self.layout.inside[tag.fold]
        findings = [one for point in inside for one in self.open_at.get(point, ())]
        faults = sum(one.severity is Severity.FAULT for one in findings)
        others = sum(one.severity is Severity.WARNING for one in findings)
        used = max((self.used_at.get(point, 0.0) for point in inside), default=0.0)
        worst = f"{100 * used:.0f} %" if 0 < used < 10 else "over 999 %" if used >= 10 else ""
        if faults:
            words = tr("✕ {faults}, worst {worst}", faults=faults, worst=worst) if worst else f"✕ {faults}"
        elif others:
            words = tr("△ {others}, worst {worst}", others=others, worst=worst) if worst else f"△ {others}"
        else:
            words = tr("worst {worst}", worst=worst) if worst else ""
        return FoldState(faults, others, words)


@dataclass(frozen=True)
class FoldState:
    """What a fold hides."""

    faults: int
    others: int
    words: str


def least_slot() -> float:
    """Width a tag needs to be read, at the present text size."""
    return 84.0 * theme.text_scale()
