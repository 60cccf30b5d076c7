"""What a shop's logs teach: times and their spread, what was in vain, faults by kind and tool, dies by their charts,
lengths found against planned, prices over time.

Over people it says nothing, unless it is asked for and they agreed to be named.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.harness.way import FoundLength
from umber_trunk.core.lengths.history import habits
from umber_trunk.core.make.charts import verdict_said
from umber_trunk.core.make.events import Defect, Done, Event, Remake, Scrap
from umber_trunk.core.make.runs import runs_of
from umber_trunk.core.make.times import USUAL_S, Times
from umber_trunk.core.make.unit_acts import Found
from umber_trunk.core.moments import Day
from umber_trunk.core.printed import Drawn, Figure, PaperTable, Printed
from umber_trunk.core.sentences import NOTHING, Message, say
from umber_trunk.core.shop.jobs import due_tools
from umber_trunk.core.shop.things import Shop
from umber_trunk.core.strokes import Shape, Words, frame

Cell = str | int | float | None
SHOWN = 12
"""Rows of a bar chart."""
WIDE_MM, ROW_MM, NAME_MM = 240.0, 7.5, 70.0
"""A bar chart's width, a row, the room for names."""
INK = "#2f1d14"


@dataclass(frozen=True)
class Lesson:
    """One thing learnt: its topic, of what, from how many cases, the figure in its unit, beside what is usual or was
    before, and in words."""

    topic: str
    what: str
    cases: int
    figure: float | None
    unit: str
    beside: float | None = None
    told: Message = NOTHING


@dataclass(frozen=True)
class Lessons:
    """All of them, by topic."""

    day: Day
    rows: tuple[Lesson, ...]

    def of(self, topic: str) -> list[Lesson]:
        """Those of a topic."""
        return [row for row in self.rows if row.topic == topic]

    def plain(self) -> dict[str, Any]:
        """As JSON has them, what is told as it is said."""
        keys = ("topic", "what", "cases", "figure", "unit", "beside")
        rows = [{key: getattr(row, key) for key in keys} | {"told": str(row.told)} for row in self.rows]
        return {"day": self.day.isoformat(), "lessons": rows}


def lessons(
    shop: Shop,
    events: Sequence[Event],
    day: Day,
    times: Times,
    history: Iterable[FoundLength] = (),
    by_name: bool = False,
) -> Lessons:
    """Everything the logs teach on a day. `times` are those of the same log."""
    rows = [*_times(times), *_in_vain(events), *_faults(events), *_dies(events), *_calibration(shop, day)]
    rows += [*_lengths(history), *_prices(shop)]
    if by_name:
        rows += _people(shop, events)
    return Lessons(day, tuple(rows))


def _times(times: Times) -> list[Lesson]:
    found = []
    for (op, tool), (median, spread, cases) in sorted(times.known.items()):
        if tool == "*":
            usual = USUAL_S.get(op)
            told = Message.of("lesson.spread", seconds=spread) if spread > 0 else NOTHING
            found.append(Lesson("times", op, cases, round(median, 2), "s", usual, told))
    return found


def _op_of(step: str) -> str:
    """The operation a step is of, by its key: “3|W4 start crimp”."""
    return step.rpartition(" ")[2].partition("|")[2] or step.rpartition(" ")[2]


def _in_vain(events: Iterable[Event]) -> list[Lesson]:
    done: Counter[str] = Counter()
    vain: Counter[str] = Counter()
    op_of: dict[tuple[str, str], str] = {}
    for one in events:
        if isinstance(act := one.act, Done):
            done[act.op or _op_of(one.step)] += 1
            op_of[one.build, one.step] = act.op or _op_of(one.step)
        elif isinstance(act, Remake | Scrap):
            vain.update(op_of.get((one.build, step), _op_of(step)) for step in act.voids)
    return [
        Lesson(
            "scrap",
            op,
            many,
            round(100 * vain[op] / many, 2),
            "%",
            None,
            Message.of("lesson.in-vain", vain=vain[op], many=many),
        )
        for op, many in sorted(done.items())
        if vain[op]
    ]


def _faults(events: Iterable[Event]) -> list[Lesson]:
    seen: Counter[tuple[str, str]] = Counter()
    for one in events:
        if isinstance(act := one.act, Defect):
            where = " ".join(part for part in (act.tool, act.setting, act.part) if part)
            seen[act.says or act.code or say("lesson.fault-seen"), where] += 1
        elif isinstance(act, Found):
            seen[act.what or say("lesson.fault-named"), ""] += 1
    return [
        Lesson(
            "faults",
            what,
            many,
            float(many),
            "times",
            None,
            Message.of("any.named", words=where) if where else NOTHING,
        )
        for (what, where), many in sorted(seen.items(), key=lambda row: (-row[1], row[0]))
    ]


def _dies(events: Iterable[Event]) -> list[Lesson]:
    found = []
    for run in runs_of(events):
        chart = run.chart
        found.append(
            Lesson(
                "dies",
                run.title,
                len(chart.values),
                round(chart.mean, 4),
                run.said["unit"],
                None,
                verdict_said(chart.verdict),
            )
        )
    return found


def _calibration(shop: Shop, day: Day) -> list[Lesson]:
    return [Lesson("calibration", told.values["tool"], 1, None, "", None, told) for told in due_tools(shop, day)]


def _lengths(history: Iterable[FoundLength]) -> list[Lesson]:
    return [
        Lesson(
            "lengths",
            str(one.method),
            one.pairs,
            round(100 * one.bias, 2),
            "%",
            None,
            Message.of("lesson.next", percent=100 * one.share) if one.enough else Message.of("lesson.few"),
        )
        for one in habits(history)
    ]


def _prices(shop: Shop) -> list[Lesson]:
    """Parts whose price was told more than once by one supplier: what it is now beside what it was first."""
    by: dict[tuple[str, str], list[tuple[str, float]]] = defaultdict(list)
    for price in shop.prices:
        if price.least == 0:
            by[price.part, price.supplier].append((price.since, float(price.each)))
    found = []
    for (part, supplier), told in sorted(by.items()):
        if len(told) > 1:
            told.sort()
            first, last = told[0], told[-1]
            change = NOTHING
            if first[1] > 0:
                change = Message.of("lesson.since", percent=100 * (last[1] / first[1] - 1), day=first[0])
            words = Message.of("lesson.price", supplier=supplier, change=change)
            found.append(Lesson("prices", part, len(told), last[1], shop.rates.currency, first[1], words))
    return found


def _people(shop: Shop, events: Iterable[Event]) -> list[Lesson]:
    """By those who agreed to be named, for their own eyes: steps done and how many of them were made again."""
    agreed = {person.id for person in shop.people if person.by_name}
    done: Counter[str] = Counter()
    whose: dict[tuple[str, str], str] = {}
    vain: Counter[str] = Counter()
    for one in events:
        if isinstance(act := one.act, Done):
            done[act.hand] += 1
            whose[one.build, one.step] = act.hand
        elif isinstance(act, Remake | Scrap):
            vain.update(whose.get((one.build, step), "") for step in act.voids)
    return [
        Lesson(
            "people",
            who,
            done[who],
            round(100 * vain[who] / done[who], 2),
            "%",
            None,
            Message.of("lesson.made-again", again=vain[who]),
        )
        for who in sorted(agreed)
        if done[who]
    ]


def lesson_rows(found: Lessons) -> list[list[Cell]]:
    """As a table."""
    rows: list[list[Cell]] = [["topic", "what", "cases", "figure", "unit", "beside", "told"]]
    return rows + [
        [row.topic, row.what, row.cases, row.figure, row.unit, row.beside, str(row.told)] for row in found.rows
    ]


TITLES = {
    "times": "How long a step takes (bar), beside what is usual (line)",
    "scrap": "Of a hundred steps, done in vain",
    "faults": "Faults, how often",
    "prices": "Prices now (bar), beside what they were first (line)",
    "lengths": "Lengths found over planned, in per cent",
}


def lessons_sheet(found: Lessons) -> Printed:
    """The page of pictures: a bar for each figure, with its cases; dies and calibration as they stand."""
    parts: list[PaperTable | Figure] = []
    for topic, title in TITLES.items():
        rows = [row for row in found.of(topic) if row.figure is not None][:SHOWN]
        if rows:
            parts.append(Figure(title, (_bars(rows),)))
    for topic, title in (("dies", "Dies"), ("calibration", "Calibration"), ("people", "By name")):
        mine = tuple((row.what, str(row.cases), str(row.told)) for row in found.of(topic))
        if mine:
            parts.append(PaperTable((title, "Cases", ""), (0.5, 0.1, 0.4), (1,), mine))
    state = say("paper.lessons", day=found.day.isoformat() if found.rows else "")
    return Printed(
        say("paper.learnt"),
        state,
        bool(found.rows),
        tuple(parts),
        "Medians of what was logged.",
        of_harness=False,
    )


def _bars(rows: Sequence[Lesson]) -> Drawn:
    """Bars from one line, each with its name in front and its figure behind; what is usual is a line across it."""
    most = max(max(abs(row.figure or 0.0), abs(row.beside or 0.0)) for row in rows) or 1.0
    scale = (WIDE_MM - NAME_MM - 40) / most
    shapes: list[Shape] = []
    for number, row in enumerate(rows):
        low = (len(rows) - 1 - number) * ROW_MM + 1.5
        figure = row.figure or 0.0
        shapes.append(Words("labels", (0.0, low + 0.6), row.what[:34], 3.2, INK))
        end = NAME_MM + max(abs(figure) * scale, 0.3)
        shapes.append(frame("bar", (NAME_MM, low, end, low + ROW_MM - 3), 0.2, fill="#7a4b2a", ink="#4d2f1a"))
        if row.beside is not None:
            at = NAME_MM + abs(row.beside) * scale
            shapes.append(
                frame("beside", (at - 0.3, low - 0.8, at + 0.3, low + ROW_MM - 2.2), 0.2, fill="#2f6f63", ink="#2f6f63")
            )
        reach = max(end, NAME_MM + abs(row.beside or 0.0) * scale)
        shapes.append(Words("text", (reach + 1.5, low + 0.6), f"{figure:.4g} {row.unit} of {row.cases}", 3.2, INK))
    return Drawn(WIDE_MM, len(rows) * ROW_MM, tuple(shapes))
