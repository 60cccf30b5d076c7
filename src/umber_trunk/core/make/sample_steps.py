"""For every way of crimping, a sample first: cut, bared, crimped, measured and pulled apart before a wire is spent."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.make.draft import Draft
from umber_trunk.core.make.operation import CUTTER, Operation, cautions_of
from umber_trunk.core.sentences import Message
from umber_trunk.core.text import digest_of

SAMPLE_M = 0.15
"""Length of a sample piece that is crimped, measured and pulled apart when a tool is set up."""


@dataclass(frozen=True)
class SetUp:
    """One way of crimping: what a sample stands for. Steps of the same set-up share it."""

    tool: str
    setting: str
    part: str
    area_mm2: float
    barrel_mm2: float

    @property
    def name(self) -> str:
        """Made of what it is, not of what it is called: a part that is renamed keeps its samples."""
        made_of = self.tool, self.setting, self.part, self.area_mm2, self.barrel_mm2
        return f"sample {digest_of(repr(made_of))[:8]}"


def try_on_samples(draft: Draft) -> None:
    """For every set-up a sample piece cut, bared, crimped and measured first; all its crimps wait for that."""
    set_ups: dict[SetUp, list[str]] = {}
    for key, one in draft.found.items():
        if one.op in ("crimp", "split") and one.part:
            set_up = SetUp(one.tool, one.setting, one.part, round(one.area_mm2, 3), round(one.barrel_mm2, 3))
            set_ups.setdefault(set_up, []).append(key)
    for set_up, keys in set_ups.items():
        last = _sample(draft, set_up, draft.found[keys[0]])
        for key in keys:
            draft.wait(key, [last])


def _sample(draft: Draft, set_up: SetUp, first: Operation) -> str:
    """One piece, of the wire of the first crimp it stands for; the key of its measuring."""
    before = [draft.found[key] for key in first.after]
    wire = first.wire or next((one.wire for one in before if one.wire), "")
    strip = next((one for one in before if one.op == "strip"), None)
    cable = draft.rows[wire].wire.cable if wire in draft.rows else None
    reel = (cable or wire) if cable in draft.reels else wire  # cores are sampled from their cable
    name, part = set_up.name, draft.shelf.name(set_up.part)

    text = Message("step.cut", {"value": reel, "value2": 1000.0 * SAMPLE_M})
    cut = {"wire": reel, "tool": CUTTER, "length_m": SAMPLE_M, "cautions": ("eyes",), "sample": True}
    last = draft.add(f"{name} cut", "cut", text, (), **cut)
    if strip is not None:
        text = Message("step.strip", {"wire": wire, "setting": strip.setting})
        bared = {"wire": wire, "tool": strip.tool, "setting": strip.setting}
        last = draft.add(f"{name} strip", "strip", text, [last], sample=True, **bared)

    what = {"wire": wire, "part": set_up.part, "area_mm2": set_up.area_mm2, "barrel_mm2": set_up.barrel_mm2}
    what |= {"setting": set_up.setting, "sample": True}
    barrel = f", {set_up.barrel_mm2:g} mm² in its barrel" if set_up.barrel_mm2 else ""
    text, cautions = Message("step.crimp", {"name": part, "value": barrel}), cautions_of("crimp")
    last = draft.add(f"{name} crimp", "crimp", text, [last], tool=set_up.tool, cautions=cautions, **what)
    text = Message("step.measure", {"name": part})
    return draft.add(f"{name} measure", "measure", text, [last], place="press bench", cautions=("eyes",), **what)
