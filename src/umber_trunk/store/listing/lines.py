"""Rows of a sheet as lines that stand for wires: what is repeated, inherited from a head or a cable, or shared by
several conductors is written out; rows that are no wires are named."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from umber_trunk.core.errors import clipped
from umber_trunk.core.sentences import Message, joined
from umber_trunk.store.listing.both_ends import parted
from umber_trunk.store.listing.colours import NO_PIN, NOTHING, is_colour
from umber_trunk.store.listing.doubts import Questions, doubt, wrong
from umber_trunk.store.listing.specs import is_spec
from umber_trunk.store.listing.titles import Layout
from umber_trunk.store.listing.words import DITTO, LENGTH_WORDS, REMARKS, TOTALS, field_said, folded
from umber_trunk.store.sheets import Sheet, unquoted

TELLING = 200  # characters of a cell that may tell something
_NUMBER = re.compile(r"[A-Za-z]*-?\d{2,}")
SPARE = re.compile(
    folded(
        r"spare|reserve[dr]?|n\.?/?c\.?|not used|unused|not connected|free|frei|unbelegt|nicht belegt|leer|"
        r"libre|vide|réservé|reserva|libero|riserva|vrij|wolny|rezerwa|ledig|reserv|volný|rezerva"
    )
)
"""What shops call a pin nothing goes to."""
WIRED = frozenset(("wire", "to-pin", "both", "size", "colour", "length"))
"""What only a row of a wire says."""
_RULE = re.compile(r"[-–—=_:+*~|. ]{3,}")
"""A line drawn between rows."""
_TOTAL = re.compile(rf"{TOTALS}\b", re.I)
_REMARK = re.compile(REMARKS, re.I)
_FIGURES = re.compile(r"[-+\d.,\s]*(?:mm|m|ft|kg)?")
_HEAD = re.compile(
    r"(?:connector|conn\.?|plug|socket|housing|receptacle|device|unit|stecker|buchse|gerät|connecteur|fiche|"
    r"prise|conector|connettore|stekker|złącze|kontakt|konektor)\s*[:#]?\s+(?=\S)",
    re.I,
)
_CORE = re.compile(r"\d{1,2}|PE|N|L[123]?|[+-]|screen|shield|drain|schirm|scr|sh|shd", re.I)
_CABLE_NAME = re.compile(r"[A-Za-z]{1,4}[-_ ]?\d+\w*|\d{3,}")
SCREEN_MARK = re.compile(
    r"(?:screen|shield|drain|schirm|blindage|tresse|pantalla|malla|schermo|calza|ekran|skärm|stínění|scr|sh|"
    r"shd|shld)\.?",
    re.I,
)


@dataclass
class Line:
    """One row as a wire: what each field says, and the column it stands in; `parts` are the conductors of a row that
    has several, each with what is its own. `wrong` are faults met so far: field and what is said."""

    at: int
    cells: dict[str, str]
    where: Mapping[str, int]
    parts: list[dict[str, str]] = field(default_factory=list)
    wrong: list[tuple[str, Message]] = field(default_factory=list)

    def says(self, name: str) -> str:
        """What a field says, "" for nothing."""
        text = self.cells.get(name, "")
        return "" if text in (NO_PIN if name.endswith("-pin") else NOTHING) else text


BLANK = Message("")
"""What a blank row is: nothing to tell of."""


class Lines:
    """The lines of a sheet by its layout. Attributes: lines, passed (row from 1 → what it is)."""

    def __init__(self, sheet: Sheet, layout: Layout, asked: Questions) -> None:
        self.sheet, self.layout, self.asked = sheet, layout, asked
        self.passed: list[tuple[int, Message]] = []
        self.heads: dict[int, str] = {}
        self._labelled = sum(bool(label) for label in layout.headers)
        self._titles = self._title("from"), self._title("to")
        self.lines = [line for at in range(layout.first_row, len(sheet.grid)) if (line := self._line(at))]
        for columns in layout.blocks:
            own = replace(layout, columns=columns, blocks=())
            self.lines += [line for at in range(layout.first_row, len(sheet.grid)) if (line := self._line(at, own))]
        self._dittos()
        self._units()
        self._starts()
        if "both" in layout.columns:
            self._both()
        self._cables()
        self._blanks()
        self._cores()
        self._conductors()

    def _title(self, name: str) -> str:
        at = self.layout.columns.get(name, -1)
        return self.layout.headers[at] if 0 <= at < len(self.layout.headers) else ""

    def _line(self, at: int, layout: Layout | None = None) -> Line | None:
        row = self.sheet.grid[at]
        cells = {
            name: unquoted(row[column])
            for name, column in (layout or self.layout).columns.items()
            if 0 <= column < len(row) and row[column]
        }
        if layout:  # a list beside the first one: its own blank rows say nothing
            return Line(at, cells, layout.columns) if cells and self._kind(at, cells) is None else None
        kind = self._kind(at, cells)
        if kind is None:
            return Line(at, cells, self.layout.columns)
        if kind:
            self.passed.append((at + 1, kind))
        return None

    def _kind(self, at: int, said: dict[str, str]) -> Message | None:
        """None for a wire's row, nothing for a blank one, else what it is."""
        cells = [cell for cell in self.sheet.grid[at] if cell]
        if not cells:
            return BLANK
        if all(_RULE.fullmatch(cell[:TELLING]) for cell in cells):
            return _kind_of("rule")
        if at == self.layout.units_row:
            return _kind_of("units")
        start, finish = said.get("from", ""), said.get("to", "")
        if start and start == self._titles[0] and finish == self._titles[1] and len(cells) > 1:
            return _kind_of("header")
        first, wired = folded(cells[0][:TELLING]), bool(start and finish)
        if not wired and any(_TOTAL.match(folded(cell[:TELLING])) for cell in cells[:4]):
            return _kind_of("total")
        if _TOTAL.match(first) and len(cells) > 1 and all(_FIGURES.fullmatch(cell[:TELLING]) for cell in cells[1:]):
            return _kind_of("total")  # its sum stands where a wire goes to
        nowhere = not start and not finish
        if nowhere and "both" not in said and len(cells) < 3 and all(_FIGURES.fullmatch(c[:TELLING]) for c in cells):
            return _kind_of("figures")
        if self._one_text(cells, said, wired):
            if _REMARK.match(first) or len(cells[0].split()) > 5:
                return _kind_of("remark")
            self.heads[at] = _HEAD.sub("", cells[0][:TELLING]).strip(" :–-") if len(cells[0]) <= 80 else ""
            return _kind_of("title", text=clipped(cells[0]))
        if (
            not finish
            and "from-pin" in said
            and not WIRED & said.keys()
            and SPARE.fullmatch(folded(said.get("name", "")))
        ):
            return _kind_of("spare")
        return _kind_of("remark") if nowhere and len(cells) < 3 and _REMARK.match(first) else None

    def _one_text(self, cells: list[str], said: dict[str, str], wired: bool) -> bool:
        """Whether a row says one text over all its cells, which is no wire whose two ends are called alike."""
        return (
            len(set(cells)) == 1
            and self._labelled > 2
            and not (wired and len(cells) == 2)
            and not (said.get("both") and len(self.layout.columns) < 3)
        )

    def _dittos(self) -> None:
        last: dict[str, str] = {}
        rows: list[int] = []
        before = -1
        for line in self.lines:
            last, before = ({} if line.at < before else last), line.at
            for name in self.layout.columns:
                text = line.cells.get(name, "")
                if len(text) <= 20 and folded(text) in DITTO and not (name.endswith("pin") and text in ("|", "~", "^")):
                    if name in last:
                        line.cells[name] = last[name]
                        rows.append(line.at + 1)
                    else:
                        line.wrong.append((name, wrong("ditto", text=text)))
                elif text:
                    last[name] = text
        if rows:
            many = sorted(set(rows))
            self.asked.note("dittos", many=len(many), rows=_listed(many))

    def _units(self) -> None:
        """Lengths whose unit stands in a column of its own."""
        for line in self.lines if "unit" in self.layout.columns else ():
            unit = line.says("unit").lower()
            if line.says("length") and re.fullmatch(LENGTH_WORDS, unit) and line.says("length")[-1:].isdigit():
                line.cells["length"] += f" {unit}"

    def _starts(self) -> None:
        """Where no column says where wires start: the head above does, in the list, over it, or the sheet's name."""
        if "from" in self.layout.columns or "both" in self.layout.columns:
            return
        above = next(
            (
                cells[0]
                for row in reversed(self.sheet.grid[: self.layout.first_row - 1])
                if len(cells := [c for c in dict.fromkeys(row) if c]) == 1
            ),
            "",
        )
        head = _HEAD.sub("", above).strip(" :–-") or self.sheet.name
        heads = sorted(self.heads.items())
        used = set()
        for line in self.lines:
            while heads and heads[0][0] < line.at:
                head = heads.pop(0)[1]
            line.cells["from"] = head
            used.add(head)
            if not head:
                line.wrong.append(("from", wrong("no-start")))
        named = ", ".join(f"“{name}”" for name in sorted(used) if name)
        if named:
            self.asked.note("heads", names=named)

    def _both(self) -> None:
        cells = [(line, text) for line in self.lines if (text := line.says("both")) and len(text) <= TELLING]
        parts, name = parted([text for _, text in cells])
        for (line, text), found in zip(cells, parts, strict=True):
            if len(found) == 2:
                line.cells["from"], line.cells["to"] = found
                line.where = {**line.where, "from": line.where["both"], "to": line.where["both"]}
            elif len(found) > 2:
                line.wrong.append(("both", wrong("many-places", text=clipped(text), count=len(found))))
            else:
                line.wrong.append(("both", wrong("one-place", text=clipped(text))))
        for line in self.lines:
            if not line.says("both") and "from" not in line.cells:
                line.wrong.append(("both", wrong("no-way")))
        if name:
            self.asked.note("both", mark=Message.of(f"list.parted.{name}"))

    def _blanks(self) -> None:
        """Blank cells that may mean “as above”: what they do is asked where there are enough of them."""
        grouped = False
        for name in ("from", "to", "size", "colour", "circuit"):
            end = name in ("from", "to")
            if name not in self.layout.columns or (end and "both" in self.layout.columns):
                continue
            blank = self._blank(name, end)
            pins = [line for line in blank if end and line.says(f"{name}-pin")]
            if end:
                telling = len(blank) > 1 or (bool(pins) and len(self.lines) <= 6)
            else:
                telling = (grouped or name == "size") and len(blank) > max(1, 0.4 * len(self.lines))
            if not telling:
                continue
            said = self._asked_of_blanks(name, blank, bool(pins), grouped)
            grouped = grouped or end
            if said in ("same", "head"):
                self._fill(name, {line.at for line in blank}, said == "head")

    def _blank(self, name: str, end: bool) -> list[Line]:
        """The lines that say nothing of a field below one that does; of an end, below a head too."""
        blank, last = [], ""
        for line in self.lines:
            text = line.says(name)
            if not text and (last or (end and self._headed(line))) and not line.cells.get(name):
                blank.append(line)
            last = text or last
        return blank

    def _headed(self, line: Line) -> bool:
        """Whether a line stands below a head."""
        return any(at < line.at for at in self.heads)

    def _asked_of_blanks(self, name: str, blank: Sequence[Line], pins: bool, grouped: bool) -> str:
        """What blank cells of a field mean: "same", "head", "fault" or "open"."""
        end = name in ("from", "to")
        under = end and any(map(self._headed, blank))
        options = ["same", *(["head"] if under else []), "fault" if end else "open"]
        likeliest = "same" if end or grouped else "open"
        if under and all(map(self._headed, blank)):
            likeliest = "head"
        return self.asked.ask(
            doubt(
                f"blank:{name}",
                options,
                likeliest,
                f"--answer blank:{name}={{}}",
                self.layout.columns[name],
                [line.at + 1 for line in blank],
                field=field_said(name),
                count=len(blank),
                first=blank[0].at + 1,
                pins=pins,
            )
        )

    def _fill(self, name: str, blank: set[int], by_head: bool) -> None:
        last = ""
        heads = sorted(self.heads.items())
        for line in self.lines:
            while by_head and heads and heads[0][0] < line.at:
                last = heads.pop(0)[1]
            if line.at in blank:
                line.cells[name] = last
            last = last if by_head else line.says(name) or last

    def _cables(self) -> None:
        """Rows of a cable with its cores below it: the cores inherit what they leave open."""
        if "cable" in self.layout.columns or "wire" not in self.layout.columns:
            return
        kept: list[Line] = []
        at = 0
        while at < len(self.lines):
            parent = self.lines[at]
            kept.append(parent)
            at += 1
            name = parent.says("wire")
            if not _CABLE_NAME.fullmatch(name) or _CORE.fullmatch(name):
                continue
            cores: list[Line] = []
            while at + len(cores) < len(self.lines):
                line = self.lines[at + len(cores)]
                mark = line.says("wire")
                if not (_CORE.fullmatch(mark) or is_colour(mark)):
                    break
                cores.append(line)
            open_ = [line for line in cores if not (line.says("from") and line.says("to"))]
            if (
                not cores
                or not (open_ or not (parent.says("from") and parent.says("to")))
                or len({line.says("wire") for line in cores}) < len(cores)
            ):
                continue
            kept.pop()
            self.passed.append((parent.at + 1, _kind_of("cable", name=name)))
            for core in cores:
                for field_ in ("from", "to", "size", "length", "circuit", "name"):
                    if not core.says(field_) and parent.says(field_):
                        core.cells[field_] = parent.cells[field_]
                core.cells["core"], core.cells["cable"] = core.says("wire"), name
                core.cells["wire"] = f"{name}.{core.says('wire')}"
            kept += cores
            at += len(cores)
        self.lines = kept

    def _cores(self) -> None:
        """Cores of cables that columns name: a blank cable is the one above."""
        if "core" not in self.layout.columns:
            return
        marks = [line.says("core") for line in self.lines if line.says("core")]
        if (
            "wire" not in self.layout.columns
            and len(set(marks)) == len(marks) > 2
            and not all(_CORE.fullmatch(one) or is_colour(one) for one in marks)
            and (
                len({line.says("cable") for line in self.lines if line.says("cable")}) > 1
                or all(_NUMBER.fullmatch(one) for one in marks)
            )
        ):
            for line in self.lines:  # numbers of wires of their own, beside the cable they lie in
                line.cells["wire"] = line.cells.pop("core", "")
        cable, blank = "", []
        for line in self.lines:
            said = line.says("cable")
            if not said and cable and line.says("core"):
                line.cells["cable"] = cable
                blank.append(line.at + 1)
            if line.says("core") and not line.says("cable") and not line.says("wire"):
                line.wrong.append(("core", wrong("which-cable", core=line.says("core"))))
            cable = said or cable
            if line.says("cable") and line.says("core") and not line.says("wire"):
                line.cells["wire"] = f"{line.cells['cable']}.{line.cells['core']}"
        if blank:
            self.asked.note("cable-above", many=len(blank), rows=_listed(blank))

    def _conductors(self) -> None:
        """Rows with several conductors: one part for each that says anything."""
        if not self.layout.conductors:
            return
        held = {at for _, columns in self.layout.conductors for at in columns.values()}
        cells = {
            at: [
                row[at]
                for row in self.sheet.grid[self.layout.first_row :]
                if at < len(row) and row[at] and row[at] not in NOTHING
            ]
            for at in held
        }
        kinds = {
            at: "colour" if all(map(is_colour, own)) else "size" if all(map(is_spec, own)) else ""
            for at, own in cells.items()
            if own
        }
        conductors = [
            (mark, {kinds.get(at) or name: at for name, at in columns.items()})
            for mark, columns in self.layout.conductors
        ]
        for line in self.lines:
            row = self.sheet.grid[line.at]
            for mark, columns in conductors:
                part = {
                    name: unquoted(row[at])
                    for name, at in columns.items()
                    if at < len(row) and row[at] and row[at] not in NOTHING
                }
                if part:
                    line.parts.append({"core": mark, **part})
        marks = joined("any.and", [mark for mark, _ in self.layout.conductors])
        self.asked.note("conductors", marks=marks)


def _kind_of(key: str, **values: Any) -> Message:
    """What a row is that is no wire."""
    return Message.of(f"list.passed.{key}", **values)


def _listed(rows: Sequence[int]) -> str:
    return ", ".join(map(str, rows[:12])) + ("…" if len(rows) > 12 else "")
