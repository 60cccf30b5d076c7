"""Entries of the log and steps of an order as sentences: codes with their values, rendered at the edge."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, assert_never

from umber_trunk.core.make.events import (
    Act,
    Begin,
    Defect,
    Done,
    Event,
    KeyAct,
    Merged,
    Note,
    Pause,
    Planned,
    Read,
    Release,
    Remake,
    Reset,
    Sample,
    Scrap,
    Signed,
    Strike,
    Undo,
    Unknown,
)
from umber_trunk.core.make.frozen import Making
from umber_trunk.core.make.handfuls import Handful
from umber_trunk.core.make.measuring import kind_told, verdict_told
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.make.unit_acts import AsIs, Deviation, Found, Mended, Proof, Proven, Safe, Serial, Test, Upgrade
from umber_trunk.core.sentences import Message, say

MOST_PLACES = 60
"""Letters of places that an entry of the log shows."""
DIE_TELLS = ("crimp", "split", "measure")
"""Operations whose die or setting says what a part's name says after its comma."""


def step_told(key: str, making: Making | None) -> str:
    """A step of an order by its key, in words; "" for none."""
    if not key:
        return ""
    unit, _, own = key.partition("|")
    known = making.texts.get(making.older.get(key, key).partition("|")[2]) if making is not None else None
    text = known.rstrip(".") if known else say("step.unknown", step=own)
    return say("step.unit", unit=unit, text=text) if unit not in ("", "0") else text


def handful_told(one: Handful, names: Mapping[str, str], part: str) -> Message:
    """What a handful is, short enough to be read from afar: what, how many, which setting. `names` of ends, and the
    `part`'s."""
    first = one.first
    if first.op in DIE_TELLS:
        part = part.partition(",")[0]
    if first.sample and part and first.op in ("crimp", "measure"):
        return Message(f"handful.sample.{first.op}", {"part": part, "setting": first.setting})
    if first.sample:
        return Message("handful.sample", {"text": first.text.rstrip(".")})
    cut = first.op == "cut" and first.length_m is not None
    places = {names.get(step.operation.end, step.operation.end) for step in one.steps}
    values = {
        "many": len(one.pieces), "setting": first.setting, "part": part or "places", "wire": first.wire if cut else "",
        "mm": f"{1e3 * (first.length_m or 0.0):.0f}" if cut else "", "place": places.pop() if len(places) == 1 else "",
    }  # fmt: skip
    return Message(f"handful.{first.op}", values)


def piece_name(piece: Sequence[Timed], names: Mapping[str, str], units: int) -> str:
    """A piece in a row: its wire, else the end or what it is; its unit where there are several."""
    step = piece[-1]
    one = step.operation
    name = one.wire or names.get(one.end, one.end) or one.key.partition(" ")[0]
    return f"{name}·{step.unit}" if units > 1 and step.unit else name


def entry_told(one: Event, making: Making | None = None) -> Message:
    """What an entry says, with the order of its build where that is kept."""
    code = "unknown" if isinstance(one.act, Unknown) else one.act.kind
    return Message(f"log.{code}", _values(one.act, one, step_told(one.step, making)))


def _values(act: Act, one: Event, step: str) -> dict[str, Any]:
    match act:
        case Begin():
            return {"revision": act.revision, "many": len(act.units), "version": act.version}
        case Planned():
            return {"version": act.version}
        case Done():
            return {"step": step, "coil": act.coil}
        case Undo():
            return {"what": step or act.of[:8]}
        case Read():
            return {
                "what": kind_told(act.what),
                "value": act.value,
                "unit": act.unit,
                "verdict": verdict_told(act.verdict),
                "step": step,
            }
        case Defect():
            return {"says": act.says or act.code, "note": act.note, "step": step}
        case Remake():
            return {"wire": act.wire, "side": act.side, "many": len(act.voids), "why": act.why}
        case Scrap():
            return {"wire": act.wire, "many": len(act.voids), "why": act.why}
        case Reset():
            return {"tool": act.tool, "setting": act.setting, "many": len(act.voids), "why": act.why}
        case Sample():
            return {"tool": act.tool, "setting": act.setting, "many": len(act.voids)}
        case Release():
            return {"who": act.who, "why": act.why, "step": step}
        case Proof():
            return {
                "leads": "four wires" if act.four_wire else "two wires",
                "box": "a switch box" if act.box else "by hand",
            }
        case Safe():
            return {"ok": act.ok, "who": act.who}
        case Test():
            read = "nothing" if act.over else "looked at" if act.value is None else f"{act.value:.4g} {act.unit}"
            return {
                "n": act.n or "+",
                "kind": act.test,
                "a": act.a[:MOST_PLACES],
                "b": act.b[:MOST_PLACES],
                "read": read,
                "ok": act.ok,
                "simulated": act.source == "simulated",
            }
        case Proven():
            return {"ok": act.ok, "who": act.who}
        case Found():
            return {"says": act.says or act.what}
        case AsIs() | Strike():
            return {"who": act.who, "why": act.why}
        case Serial():
            return {"serial": act.serial}
        case Upgrade():
            return {"to": act.to, "revision": act.revision, "who": act.who}
        case Deviation() | Mended():
            return {"says": act.says or act.why, "who": act.who}
        case Note():
            return {"says": act.says, "photo": act.photo, "who": act.who}
        case Merged():
            return {
                "many": act.entries,
                "file": act.file,
                "name": act.name,
                "unsigned": act.unsigned,
                "otherwise": len(act.otherwise),
            }
        case Signed():
            return {"name": act.name, "what": act.what}
        case KeyAct():
            return {"name": act.name or act.key[:16], "act": act.act, "who": act.who, "why": act.why}
        case Unknown():
            return {"kind": act.kind}
        case Pause():
            return {}
        case _:
            assert_never(act)
