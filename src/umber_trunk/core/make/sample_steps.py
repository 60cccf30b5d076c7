"""For every way of crimping, a sample first: cut, bared, crimped, measured and pulled apart before a wire is spent."""

from __future__ import annotations

from umber_trunk.core.make.draft import Draft
from umber_trunk.core.make.operation import CUTTER, cautions_of
from umber_trunk.core.sentences import Message
from umber_trunk.core.text import digest_of

SAMPLE_M = 0.15
"""Length of a sample piece that is crimped, measured and pulled apart when a tool is set up."""


def try_on_samples(draft: Draft) -> None:
    """For every tool, setting, part and conductor that is crimped: a sample piece cut, bared, crimped and measured
    first."""
    set_ups: dict[tuple[str, str, str, float, float], list[str]] = {}
    for key, one in draft.found.items():
        if one.op in ("crimp", "split") and one.part:
            set_ups.setdefault(
                (one.tool, one.setting, one.part, round(one.area_mm2, 3), round(one.barrel_mm2, 3)), []
            ).append(key)
    for (tool, setting, part, area, barrel), keys in set_ups.items():
        first = draft.found[keys[0]]
        wire = first.wire or next((draft.found[k].wire for k in first.after if draft.found[k].wire), "")
        strip = next((draft.found[k] for k in first.after if draft.found[k].op == "strip"), None)
        # of what it is, not of what it is called
        name = f"sample {digest_of(repr((tool, setting, part, area, barrel)))[:8]}"
        reel = (
            (draft.rows[wire].wire.cable or "")
            if wire in draft.rows and draft.rows[wire].wire.cable in draft.reels
            else ""
        )
        text = Message("step.cut", {"value": reel or wire, "value2": 1000.0 * SAMPLE_M})
        last = draft.add(
            f"{name} cut",
            "cut",
            text,
            wire=reel or wire,
            tool=CUTTER,
            length_m=SAMPLE_M,
            sample=True,
            cautions=("eyes",),
        )
        if strip is not None:
            last = draft.add(
                f"{name} strip",
                "strip",
                Message("step.strip", {"wire": wire, "setting": strip.setting}),
                [last],
                wire=wire,
                tool=strip.tool,
                setting=strip.setting,
                sample=True,
            )
        last = draft.add(
            f"{name} crimp",
            "crimp",
            Message(
                "step.crimp",
                {"name": draft.shelf.name(part), "value": f", {barrel:g} mm² in its barrel" if barrel else ""},
            ),
            [last],
            wire=wire,
            part=part,
            tool=tool,
            setting=setting,
            area_mm2=area,
            barrel_mm2=barrel,
            sample=True,
            cautions=cautions_of("crimp"),
        )
        text = Message("step.measure", {"name": draft.shelf.name(part)})
        last = draft.add(
            f"{name} measure",
            "measure",
            text,
            [last],
            wire=wire,
            part=part,
            tool="",
            setting=setting,
            area_mm2=area,
            barrel_mm2=barrel,
            sample=True,
            place="press bench",
            cautions=("eyes",),
        )
        for key in keys:
            draft.wait(key, [last])
