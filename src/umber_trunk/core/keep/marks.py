"""The words a unit is found by, alone in their module: the store keeps them with each entry without loading how units
are folded."""

from __future__ import annotations

from typing import assert_never

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
from umber_trunk.core.make.unit_acts import AsIs, Deviation, Found, Mended, Proof, Proven, Safe, Serial, Test, Upgrade


def people_of(act: Act) -> list[str]:
    """Who stands in an entry: whose hand, who read, who decided."""
    return [str(name) for key in ("hand", "by", "who") if (name := getattr(act, key, ""))]


def marks(event: Event) -> list[str]:
    """The words a unit is found by from an entry: coil, tool, hand, serial, wire that was remade, fault."""
    act = event.act
    found = [f"hand {name}" for name in people_of(act)]
    match act:
        case Done():
            found += [f"coil {act.coil}"] if act.coil else []
            found += [f"tool {act.tool}"] if act.tool else []
        case Read() | Reset() | Sample():
            found += [f"tool {act.tool}"] if act.tool else []
        case Defect():
            found += [f"tool {act.tool}"] if act.tool else []
            found += [f"fault {act.code}"] if act.code else []
        case Remake() | Scrap():
            found.append(f"{event.kind} {act.wire}")
        case Found():
            found.append(f"fault {act.what}")
        case Proven():
            found.append("proven" if act.ok else "refused")
        case Begin():
            found += [f"revision {act.revision}", f"build {event.build}"]
        case Serial():
            found.append(f"serial {act.serial}")
        case Deviation():
            found.append("deviation")
        case AsIs():
            found.append("as-is")
        case Strike():
            found.append("struck")
        case (
            Planned()
            | Undo()
            | Release()
            | Pause()
            | Note()
            | Proof()
            | Safe()
            | Test()
            | Mended()
            | Merged()
            | Signed()
            | KeyAct()
            | Upgrade()
            | Unknown()
        ):
            pass
        case _:
            assert_never(act)
    return [" ".join(one.lower().split())[:120] for one in found]
