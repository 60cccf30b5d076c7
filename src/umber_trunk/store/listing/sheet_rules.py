"""What the columns of a sheet mean, found in the list or asked, before a row of it is read."""

from __future__ import annotations

import re
from dataclasses import replace

from umber_trunk.core.errors import clipped
from umber_trunk.core.sentences import joined
from umber_trunk.store.listing.cells import SizeRules, decimal_of, length_unit, size_rules
from umber_trunk.store.listing.colours import NOTHING, ColourRules, colour_cell, colour_rules
from umber_trunk.store.listing.doubts import Fault, Questions, doubt
from umber_trunk.store.listing.lines import TELLING, Line, Lines
from umber_trunk.store.listing.matrix import matrix_lines
from umber_trunk.store.listing.odd_lengths import odd_lengths
from umber_trunk.store.listing.pin_rows import by_net
from umber_trunk.store.listing.pins import (
    PinHabit,
    like_a_pin,
    pin_habit,
    several,
    several_ends,
    several_places,
    split_pin,
)
from umber_trunk.store.listing.slipped import slipped
from umber_trunk.store.listing.specs import has_letters, spec_of
from umber_trunk.store.listing.titles import Layout
from umber_trunk.store.sheets import Sheet


class SheetRules:
    """The lines of a sheet and how each field of them is read. Attributes: lines, passed rows, unit of bare lengths,
    faults."""

    def __init__(self, sheet: Sheet, layout: Layout, asked: Questions, delimiter: str, habit: str, named: bool) -> None:
        self.sheet, self.asked, self.named = sheet, asked, named
        self.faults: list[Fault] = []
        self._colour_of: dict[str, tuple[str, str]] = {}
        self._pin_of: dict[str, tuple[str, str]] = {}
        self.layout = self._without_contacts(layout)
        lines = Lines(sheet, self.layout, asked) if not layout.matrix else None
        self.passed = lines.passed if lines else []
        if lines is None:
            self.lines = matrix_lines(sheet, layout, asked)
        else:
            self.lines = by_net(lines, asked) if self.layout.by_pin else lines.lines
        size_texts = self._column("size")
        letters = has_letters([text for text, _ in size_texts])
        self._specs = {text: spec_of(text, letters) for text, _ in size_texts}
        sizes = [self._specs[text].size for text, _ in size_texts]
        lengths = self._column("length")
        self.decimal = decimal_of(
            {"length": [text for text, _ in lengths], "size": sizes},
            habit,
            delimiter,
            asked.answers.units.get("length") or layout.notes.get("length", ""),
            asked,
        )
        self.unit = length_unit(
            [text for text, _ in lengths],
            layout.notes.get("length", ""),
            self.decimal,
            asked,
            self._at("length"),
            self._gauges(sizes),
        )
        self._shift = odd_lengths(lengths, self.unit, self.decimal, asked, self._at("length"))
        self.pins, self.pinned = self._pins()
        self.sizes: SizeRules = size_rules(
            [self._specs[text] for text, _ in size_texts],
            size_texts,
            layout.notes.get("size", ""),
            [*(text for text, _ in lengths), layout.notes.get("length", "")],
            self.decimal,
            self.pinned,
            self._evident(),
            asked,
            self._at("size"),
        )
        colours = [
            found for name in ("colour", "stripe") if self._at(name) != self._at("size") for found in self._column(name)
        ]
        self.colours: ColourRules = colour_rules(
            [*colours, *((spec.colour, row) for text, row in size_texts if (spec := self._specs[text]).colour)],
            layout.headers,
            asked,
            self._at("colour"),
        )
        self.many_pins = self._several()
        self.counted = self._counted()
        self.places = self._places()
        self.each_colour = self._each_colour()
        self.slipped = slipped(self.lines, list(self.layout.columns), asked)
        self.numbered = False

    def _gauges(self, sizes: list[str]) -> bool:
        title = self._title(self._at("size")).lower() if self._at("size") >= 0 else ""
        return bool(re.search(r"awg|gau?ge|\bga\b", " ".join([title, *sizes[:400]]).lower()))

    def _at(self, name: str) -> int:
        return self.layout.columns.get(name, -1)

    def _column(self, name: str) -> list[tuple[str, int]]:
        """The cells of a field by which its rules are found, with their rows; what is far too long for one tells
        nothing."""
        found = [(text, line.at + 1) for line in self.lines if (text := line.says(name)) and len(text) <= TELLING]
        return found + [(part[name], line.at + 1) for line in self.lines for part in line.parts if name in part]

    def _without_contacts(self, layout: Layout) -> Layout:
        """The layout without columns titled as pins that hold something else, such as contacts and lugs; asked."""
        odd = {}
        for name in ("from-pin", "to-pin"):
            at = layout.columns.get(name, -1)
            cells = [
                row[at]
                for row in self.sheet.grid[layout.first_row :]
                if 0 <= at < len(row) and row[at] and row[at] not in NOTHING
            ]
            if cells and name not in self.asked.answers.columns and sum(map(like_a_pin, cells)) < 0.5 * len(cells):
                odd[name] = at, cells
        if not odd:
            return layout
        at, cells = next(iter(odd.values()))
        title = layout.headers[at] if at < len(layout.headers) else ""
        worded = [cell for cell in cells if " " in cell]  # no pin is called by several words
        shown = list(dict.fromkeys(worded or cells))[:2]
        said = self.asked.ask(
            doubt(
                "pin-column",
                ("other", "pin"),
                "other" if worded else "pin",
                "--answer pin-column={}",
                at,
                title=title,
                shown=joined("any.and", [f"“{one}”" for one in shown]),
                worded=bool(worded),
                count=len(shown),
            )
        )
        if said == "pin":
            return layout
        return replace(
            layout, columns={name: place for name, place in layout.columns.items() if name not in odd}, by_pin=False
        )

    def _pins(self) -> tuple[PinHabit, bool]:
        """How ends and pins are parted, and whether the list names pins at all."""
        columns = {"from-pin", "to-pin"} <= set(self.layout.columns)
        ends = (
            []
            if columns
            else [
                found
                for name in ("from", "to")
                if f"{name}-pin" not in self.layout.columns
                for found in self._column(name)
            ]
        )
        one = columns or bool({"from-pin", "to-pin"} & set(self.layout.columns))
        if not ends:
            return PinHabit(), one
        habit = pin_habit([text for text, _ in ends], [row for _, row in ends], self.asked)
        return habit, one or habit.any or any(split_pin(text)[1] or several_ends(text, habit) for text, _ in ends)

    def _evident(self) -> str:
        """What “3x1.5” stands for where the list itself shows it: "core", "each", or "" where it doesn't."""
        many = [
            line for line in self.lines if (text := line.says("size")) in self._specs and self._specs[text].count > 1
        ]
        if not many:
            return ""
        if all(line.says("core") for line in many):
            return "core"
        if all(
            {
                len(several(line.says(f"{name}-pin"))) or len(several_ends(line.says(name), self.pins))
                for name in ("from", "to")
            }
            == {self._specs[line.says("size")].count}
            or len(line.parts) == self._specs[line.says("size")].count
            for line in many
        ):
            return "each"
        stems = [line.says("wire").rpartition(mark)[0] for line in many for mark in ".:/-" if mark in line.says("wire")]
        return "core" if len(stems) >= len(many) > len(set(stems)) else ""

    def _several(self) -> str:
        """What cells with several pins mean, asked once: "each" pin has a wire, the text is one "name", or a
        "fault"."""
        found = [
            (text, line)
            for line in self.lines
            for name in ("from", "to")
            for text in ([line.says(f"{name}-pin")] if f"{name}-pin" in line.where else [line.says(name)])
            if len(text) <= TELLING
            and (several(text) if f"{name}-pin" in line.where else several_ends(text, self.pins))
        ]
        counted = [line for _, line in found if line.parts or self._specs.get(line.says("size"), spec_of("")).count > 1]
        if not found or len(counted) == len(found):
            return "each"
        text, _ = found[0]
        return self.asked.ask(
            doubt(
                "pins",
                ("each", "name", "fault"),
                "each",
                "--answer pins={}",
                rows=dict.fromkeys(line.at + 1 for _, line in found),
                cell=text,
                count=len(found),
            )
        )

    def _each_colour(self) -> bool:
        """Whether two colours of a row that stands for two wires are one each, asked once."""
        found = [
            line
            for line in self.lines
            if (pins := line.says("from-pin") or line.says("from"))
            and len(pins) <= TELLING
            and len(several(pins) or several_ends(pins, self.pins)) == 2
            and all(self._colour(line.says("colour")))
        ]
        if not found:
            return False
        return (
            self.asked.ask(
                doubt(
                    "colours",
                    ("each", "striped"),
                    "each",
                    "--answer colours={}",
                    self._at("colour"),
                    [line.at + 1 for line in found],
                    cell=found[0].says("colour"),
                    count=len(found),
                )
            )
            == "each"
        )

    def _places(self) -> bool:
        """Whether cells that list places mean a wire to each, asked once."""
        ends = [(text, row) for name in ("from", "to") for text, row in self._column(name)]
        found = [(text, row) for text, row in ends if several_places(text) and not several_ends(text, self.pins)]
        names = {text.lower() for text, _ in ends}
        if not found or len(found) > 0.5 * len(ends):
            return False
        text, _ = found[0]
        parts = several_places(text)
        alike = (
            len({part.split()[0].lower() for part in parts}) == 1
            or len(parts) > 2
            or any(part.lower() in names for part in parts)
        )
        return (
            self.asked.ask(
                doubt(
                    "places",
                    ("each", "name"),
                    "each" if alike else "name",
                    "--answer places={}",
                    rows=dict.fromkeys(row for _, row in found),
                    cell=clipped(text),
                    parts=len(parts),
                    count=len(found),
                )
            )
            == "each"
        )

    def _counted(self) -> str:
        """What a column of counts says, asked where any is over one: "each" row stands for so many wires, "parallel",
        or "one"."""
        found = [(text, row) for text, row in self._column("count") if text.isdigit() and 1 < int(text) <= 100]
        if not found:
            return "one"
        return self.asked.ask(
            doubt(
                "count",
                ("each", "parallel", "one"),
                "each",
                "--answer count={}",
                self._at("count"),
                [row for _, row in found],
                cell=found[0][0],
                row=found[0][1],
                count=len(found),
            )
        )

    def _count(self, line: Line) -> int:
        text = line.says("count")
        return int(text) if text.isdigit() and 1 < int(text) <= 100 else 1

    def _colour(self, text: str) -> tuple[str, str]:
        if text not in self._colour_of:
            # what is over the most characters stays as it is and is a fault
            self._colour_of[text] = colour_cell(text, self.colours) if len(text) <= TELLING else (text, "")
        return self._colour_of[text]

    def _title(self, at: int) -> str:
        return (self.layout.headers[at] if at < len(self.layout.headers) else "") or "no title"
