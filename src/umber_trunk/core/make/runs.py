"""The readings of a log as runs: one for each kind of reading, tool, setting, part and conductor, charted in its
order."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from statistics import fmean
from typing import Any

from umber_trunk.core.make.charts import Chart, chart
from umber_trunk.core.make.events import Event, Read, Remake, Reset, Strike, Undo
from umber_trunk.core.make.measuring import KINDS, kind_told


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
        return f"{kind_told(self.kind)}, {self.part or self.tool}, {self.tool} {self.setting}".strip()

    @property
    def said(self) -> dict[str, Any]:
        """As plain data."""
        return {
            "kind": self.kind,
            "tool": self.tool,
            "setting": self.setting,
            "part": self.part,
            "area_mm2": self.area_mm2,
            "unit": KINDS[self.kind][1],
            "part_low": self.low,
            "part_high": self.high,
            "source": self.source,
        }


def runs_of(events: Iterable[Event]) -> list[Run]:
    """All runs, those that ask for a look at the die first, then those with most readings. Readings taken back are left
    out; a piece read more than once counts with its mean, and its readings tell the gauge's own scatter; a die set anew
    begins its runs anew."""
    rows = list(events)
    undone = {act.of for one in rows if isinstance(act := one.act, Undo | Strike)}
    by: dict[tuple[str, str, str, str, float], dict[tuple[object, ...], list[Read]]] = defaultdict(dict)
    latest: dict[tuple[str, str, str, str, float], Read] = {}
    made_anew: Counter[tuple[str, int, str]] = Counter()
    for one in rows:
        act = one.act
        if one.id in undone:
            continue
        piece = one.build, one.unit, one.step
        if isinstance(act, Reset):
            for key in [key for key in by if key[1:3] == (act.tool, act.setting)]:
                del by[key]
        elif isinstance(act, Remake):
            made_anew.update((one.build, one.unit, step) for step in act.voids)
        elif isinstance(act, Read) and act.what in KINDS:
            alone = (one.id,) if act.sample or not one.step else ()  # each sample is a piece of its own
            key = act.what, act.tool, act.setting, act.part, act.area_mm2 or 0.0
            latest[key] = act
            by[key].setdefault((*piece, made_anew[piece], *alone), []).append(act)
    found = []
    for (kind, tool, setting, part, area), pieces in by.items():
        last = latest[kind, tool, setting, part, area]
        repeated = {at: [one.value for one in some] for at, some in enumerate(pieces.values()) if len(some) > 1}
        made = chart([fmean(one.value for one in some) for some in pieces.values()], last.low, last.high, repeated)
        found.append(Run(kind, tool, setting, part, area, last.low, last.high, last.source, made))
    return sorted(found, key=lambda run: (run.chart.verdict != "check the die", -len(run.chart.values)))
