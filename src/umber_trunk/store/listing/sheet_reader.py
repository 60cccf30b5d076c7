"""One sheet read row by row, by its layout and rules: all good wires, all faults, what was passed over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.errors import InputError, Wanted, clipped, go_on_if
from umber_trunk.core.sentences import Message
from umber_trunk.store.listing.cells import SizeCell, length_cell, size_cell
from umber_trunk.store.listing.colours import NO_PIN
from umber_trunk.store.listing.doubts import Fault, wrong
from umber_trunk.store.listing.lines import SCREEN_MARK, TELLING, Line
from umber_trunk.store.listing.listed import ListedWire
from umber_trunk.store.listing.pins import several, several_ends, several_places, split_pin
from umber_trunk.store.listing.sheet_rules import SheetRules
from umber_trunk.store.listing.specs import spec_of
from umber_trunk.store.listing.titles import column_letter, unit_of
from umber_trunk.store.listing.words import NO, YES, field_said, folded

ALIKE = 1.45
"""Neighbours of the two series that stand for one another differ by less than this."""

MOST_LETTERS = {"wire": 80, "colour": 20, "stripe": 20, "name": 400, "circuit": 400, "cable": 80, "core": 20, "pair": 80, "screen": 80}  # fmt: skip
"""What a design's fields hold."""


class SheetReader(SheetRules):
    """Reads one sheet by its layout and rules. Attributes: faults, passed rows, unit of bare lengths."""

    def _fault(self, line: Line, name: str, said: Message) -> None:
        at = line.where.get(name, self._at(name))
        self.faults.append(
            Fault(line.at + 1, column_letter(at) if at >= 0 else "", said, self.sheet.name if self.named else "")
        )

    def read(self, used: set[str], seen: dict[str, Message], wanted: Wanted) -> list[ListedWire]:
        """All good rows; `seen` maps the wire numbers met to where they stand."""
        found: list[ListedWire] = []
        count = 1
        said = {line.says("wire") for line in self.lines}
        alike: dict[str, str] = {}
        for at, line in enumerate(self.lines):
            if at % 256 == 0:
                go_on_if(wanted)
            before = len(self.faults)
            for name, what in line.wrong:
                self._fault(line, name, what)
            self._odd_cells(line)
            for name in (name for name in line.where if (line.at, name) in self.slipped):
                self._fault(line, name, wrong("slipped", text=line.says(name)))
            number = line.says("wire")
            if not number and not all("wire" in part for part in line.parts or [{}]):
                self.numbered = True
                while (number := f"W{count}") in used or number in seen or number in said:
                    count += 1
            wires = self._row(line, number)
            where = Message.of("list.where", row=line.at + 1, sheet=self.sheet.name if self.named else "")
            for wire in wires:
                if wire.wire in seen:
                    self._fault(line, "wire", wrong("twice", wire=wire.wire, where=seen[wire.wire]))
                elif (like := alike.get(wire.wire.lower())) is not None:
                    self._fault(line, "wire", wrong("capitals", wire=wire.wire, like=like))
                elif wire.wire in used:
                    self._fault(line, "wire", wrong("there", wire=wire.wire))
                seen.setdefault(wire.wire, where)
                alike.setdefault(wire.wire.lower(), wire.wire)
            seen.setdefault(number, where)
            if len(self.faults) == before:
                found += wires
        return found

    def _odd_cells(self, line: Line) -> None:
        if not self.sheet.odd:
            return
        for name, at in line.where.items():
            said = self.sheet.odd.get((line.at, at))
            if said:
                text = line.cells.get(name, "")
                self._fault(line, name, wrong("odd", text=text, said=said))

    def _row(self, line: Line, number: str) -> list[ListedWire]:
        self._taped(line)
        starts, finishes = self._ends(line, "from"), self._ends(line, "to")
        size, length = self._size(line), self._length(line)
        colour, stripe = self._colours(line)
        self._too_long(line, wire=number, colour=colour, stripe=stripe)
        parts = line.parts or [{}]
        count = self._count(line)
        if self.counted == "parallel" and count > 1:
            size = replace(size, parallel=min(count, 12))
        each = count if self.counted == "each" else 1
        counts = [len(starts), len(finishes), len(parts), size.wires, each]
        many = max(counts)
        if any(1 < count != many for count in counts):
            self._fault(
                line,
                "to",
                wrong(
                    "counts",
                    starts=len(starts),
                    finishes=len(finishes),
                    conductors=max(len(parts), size.wires),
                ),
            )
            return []
        core, screen = line.says("core"), folded(line.says("screen"))
        spec = self._specs.get(line.says("size"), spec_of(""))
        one = ListedWire(
            line.at + 1,
            number,
            line.says("name"),
            line.says("circuit"),
            starts[0],
            finishes[0],
            size.label,
            size.parallel,
            colour,
            stripe,
            length,
            self.sheet.name if self.named else "",
            line.says("cable"),
            core,
            line.says("pair"),
            spec.screened or (bool(screen) and screen not in NO),
            spec.twisted,
            bool(SCREEN_MARK.fullmatch(core or number)),
            line.says("screen") if screen not in YES | NO else "",
        )
        if many == 1 and not line.parts:
            wires = [one]
        else:
            wires = [
                replace(
                    self._part(line, one, at, parts, many, size.wires),
                    start=starts[at % len(starts)],
                    finish=finishes[at % len(finishes)],
                )
                for at in range(many)
            ]
        for wire in wires:
            if all(wire.start) and wire.start == wire.finish:
                self._fault(line, "to", wrong("loop"))
        return wires

    def _too_long(self, line: Line, **read: str) -> None:
        """Faults for texts longer than a design holds, as they were `read` or stand in the row."""
        for name, most in MOST_LETTERS.items():
            text = read.get(name, line.says(name))
            if len(text) > most:
                self._fault(line, name, wrong("too-long", text=clipped(text), most=most))

    def _taped(self, line: Line) -> None:
        """A screen that lands at one end is cut back and taped at the other, where its cores go."""
        if not SCREEN_MARK.fullmatch(line.says("core") or line.says("wire")) or not line.says("cable"):
            return
        for name, other in (("from", "to"), ("to", "from")):
            core = next(
                (
                    one
                    for one in self.lines
                    if one is not line and one.says("cable") == line.says("cable") and one.says(name)
                ),
                None,
            )
            if line.says(other) and not line.says(name) and core is not None:
                end = core.says(name) if f"{name}-pin" in self.layout.columns else self._split(core.says(name))[0]
                line.cells[name], line.cells[f"{name}-pin"] = end, "taped"
                self.asked.note("screen-taped", cable=line.says("cable"), end=line.says(other), other=end)

    def _part(
        self, line: Line, one: ListedWire, at: int, parts: list[dict[str, str]], many: int, cores: int
    ) -> ListedWire:
        """One of the wires that a row stands for, by its place among them; where it goes is the row's."""
        part = parts[at] if len(parts) > 1 else parts[0]
        mark = part.get("core", str(at + 1))
        earth = cores > 1 and at == cores - 1 and self._specs.get(line.says("size"), spec_of("")).mark == "g"
        if earth:  # “3G1.5”: the last core is the protective earth
            mark = "PE"
        colour, stripe = self._colours_of(one, part, at, earth, cored=cores > 1 or len(parts) > 1)
        cable = one.wire if (cores > 1 or len(parts) > 1) else one.cable
        return replace(
            one,
            wire=self._number_of(one, part, at, many, mark) or f"{one.wire}.{mark}",
            colour=colour,
            stripe=stripe,
            cable=cable or (f"{parts[0]['wire']} cable" if len(parts) > 1 and "wire" in parts[0] else ""),
            core=mark if cable else one.core,
        )

    def _number_of(self, one: ListedWire, part: dict[str, str], at: int, many: int, mark: str) -> str:
        said = part.get("wire", "")
        if said:
            return "" if said in self._specs and self._at("size") < 0 else said
        if many == 1:
            return one.wire
        own = several(one.wire)
        return own[at] if len(own) == many else f"{one.wire}.{mark}"

    def _colours_of(self, one: ListedWire, part: dict[str, str], at: int, earth: bool, cored: bool) -> tuple[str, str]:
        if "colour" in part:
            return self._colour(part["colour"])
        if earth:
            return "green", "yellow"
        if cored:
            return "", ""
        if self.each_colour and one.colour and one.stripe:
            return ((one.colour, one.stripe)[at] if at < 2 else one.colour), ""
        return one.colour, one.stripe

    def _colours(self, line: Line) -> tuple[str, str]:
        """A wire's colour and stripe: from its column, else from beside its size, else of its core."""
        spec = self._specs.get(line.says("size"), spec_of(""))
        text = line.says("colour") if self._at("colour") != self._at("size") else ""
        colour, stripe = self._colour(text)
        beside = self._colour(spec.colour) if spec.colour else ("", "")
        if text and spec.colour and beside != (colour, stripe):
            self._fault(line, "colour", wrong("colour", text=text, also=spec.colour))
        if not text:
            colour, stripe = beside
        core = line.says("core")
        if not colour and core.upper() in ("PE", "GNYE"):
            colour, stripe = "green", "yellow"
        elif not colour and core and not core.isdigit() and (found := self._colour(core))[0] != core.lower():
            colour, stripe = found
        second = self._colour(line.says("stripe"))[0]
        return colour, stripe or second

    def _split(self, name: str) -> tuple[str, str]:
        if name not in self._pin_of:
            self._pin_of[name] = split_pin(name, self.pins) if len(name) <= TELLING else (name, "")
        return self._pin_of[name]

    def _ends(self, line: Line, place: str) -> list[tuple[str, str]]:
        """Where a row's wires end on one side: one place, or each of several pins."""
        name, cavity = line.says(place), line.says(f"{place}-pin")
        if not name:
            if not line.wrong:
                self._fault(line, place, wrong("empty", field=field_said(place)))
            return [("", "")]
        many = (
            [(name, pin) for pin in several(cavity)]
            if cavity
            else list(several_ends(name, self.pins))
            if len(name) <= TELLING
            else []
        )
        if self.places and not many and not cavity and len(name) <= TELLING:
            listed = [self._split(part) for part in several_places(name)]
            if listed:
                return listed
        if many and self.many_pins == "fault":
            self._fault(line, f"{place}-pin" if cavity else place, wrong("several-pins", text=cavity or name))
        found = many if many and self.many_pins == "each" else [(name, cavity) if cavity else self._split(name)]
        if any(len(end) > 80 or len(pin) > 80 for end, pin in found):
            self._fault(line, place, wrong("end-too-long"))
        return [(end, "" if pin in NO_PIN else pin) for end, pin in found]

    def _short(self, line: Line, name: str) -> str:
        text = line.says(name)
        if len(text) > TELLING:
            raise InputError.of("listing.cell-too-long", text=clipped(text), most=TELLING, field=str(field_said(name)))
        return text

    def _size(self, line: Line) -> SizeCell:
        if any(name == "size" for name, _ in line.wrong):
            return SizeCell(None)  # it has been told
        try:
            text = self._short(line, "size")
            found = size_cell(self._specs.get(text) or spec_of(text), self.sizes)
            self._agree(line, found)
            return found
        except InputError as why:
            self._fault(line, "size", why.message)
            return SizeCell(None)

    def _agree(self, line: Line, found: SizeCell) -> None:
        """Two columns that give one size, gauge and mm², say the same, or the row is a fault."""
        other = line.says("size-also")
        if found.label is None or not other:
            return
        note = unit_of("size", self._title(self._at("size-also")))
        try:
            also = parse_size(other, "awg" if note.startswith(("awg", "ga")) else "metric", self.decimal, foreign=True)
        except InputError as why:
            self._fault(line, "size-also", why.message)
            return
        area = parse_size(found.label).area_mm2
        if not area / ALIKE < also.area_mm2 < area * ALIKE:
            self._fault(line, "size-also", wrong("other-size", text=other, size=found.label))

    def _length(self, line: Line) -> float | None:
        if any(name == "length" for name, _ in line.wrong):
            return None
        try:
            text = self._short(line, "length")
            found = length_cell(text, self.unit, self.decimal)
        except InputError as why:
            self._fault(line, "length", why.message)
            return None
        if found == 0:
            self._fault(line, "length", wrong("no-length", text=text))
            return None
        if found is not None and (line.at + 1, text) in self._shift:
            factor = self._shift[line.at + 1, text]
            if not factor:
                self._fault(line, "length", wrong("odd-length", text=text))
            return found * factor or None
        return found

    def tell(self) -> None:
        """Notes on what was passed over, left out or made up."""
        sheet = self.sheet.name if self.named else ""
        for kind in dict.fromkeys(kind for _, kind in self.passed):
            rows = [str(row) for row, what in self.passed if what == kind]
            shown = ", ".join(rows[:12]) + ("…" if len(rows) > 12 else "")
            self.asked.note("passed", sheet=sheet, many=len(rows), rows=shown, kind=kind)
        above = self.layout.above(self.sheet.grid)
        if above:
            shown = ", ".join(str(at + 1) for at in above[:12]) + ("…" if len(above) > 12 else "")
            self.asked.note(
                "above", sheet=sheet, many=len(above), rows=shown, cells=_beginning(self.sheet.grid[above[0]])
            )
        left = [f"{column_letter(at)} “{self._title(at)}”" for at in self.layout.unused(self.sheet.grid)]
        if left:
            self.asked.note("not-used", sheet=sheet, columns=", ".join(left))
        if self.numbered:
            self.asked.note("numbered", sheet=sheet)
        if not self.pinned and self.lines:
            self.asked.note("no-pins", sheet=sheet)


def _beginning(row: Sequence[str]) -> str:
    """The first cells of a row, by which it is found in the list."""
    return ", ".join([cell[:20] for cell in row if cell][:4])
