"""The readings of a log as runs: one for each kind of reading, tool, setting, part and conductor, charted in its order."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.make.charts import Chart, chart
from umber_trunk.core.make.events import Event, Read, Reset, Strike, Undo
from umber_trunk.core.make.measuring import KINDS


@dataclass(frozen=True)
class Run:
    """Readings of one kind with one tool and setting on one part and conductor."""

    kind: str
    tool: str
    setting: str
    part: str
    area_mm2: float
    low: float | None
    high: float | None
    source: str
    chart: Chart

    @property
    def key(self) -> str:
        """What tells it from other runs."""
        return f"{self.kind}|{self.tool}|{self.setting}|{self.part}|{self.area_mm2:g}"

    @property
    def title(self) -> str:
        """In words."""
        return f"{KINDS[self.kind][0]}, {self.part or self.tool}, {self.tool} {self.setting}".strip()

    @property
    def said(self) -> dict[str, Any]:
        """As plain data."""
        return {"kind": self.kind, "tool": self.tool, "setting": self.setting, "part": self.part, "area_mm2": self.area_mm2, "unit": KINDS[self.kind][2], "part_low": self.low, "part_high": self.high, "source": self.source}  # fmt: skip


def runs_of(events: Iterable[Event]) -> list[Run]:
    """All runs, those that ask for a look at the die first, then those with most readings. Readings taken back are left out; a die
    set anew begins its runs anew."""
    rows = list(events)
    undone = {act.of for one in rows if isinstance(act := one.act, Undo | Strike)}
    by: dict[tuple[str, str, str, str, float], list[Read]] = defaultdict(list)
    for one in rows:
        act = one.act
        if one.id in undone:
            continue
        if isinstance(act, Reset):
            for key in [key for key in by if key[1:3] == (act.tool, act.setting)]:
                del by[key]
        elif isinstance(act, Read) and act.what in KINDS:
            by[act.what, act.tool, act.setting, act.part, act.area_mm2 or 0.0].append(act)
    found = []
    for (kind, tool, setting, part, area), mine in by.items():
        last = mine[-1]
        made = chart([one.value for one in mine], last.low, last.high)
        found.append(Run(kind, tool, setting, part, area, last.low, last.high, last.source, made))
    return sorted(found, key=lambda run: (run.chart.verdict != "check the die", -len(run.chart.values)))
