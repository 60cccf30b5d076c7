"""Which loads run together, as people say it: "case under way: all but conveyor motor, drum"."""

from __future__ import annotations

import re

from umber_trunk.core.errors import EditError, InputError
from umber_trunk.core.harness.edits import change, put, slug
from umber_trunk.core.harness.model import Case, Design


def loads_said(design: Design, text: str) -> tuple[str, ...] | None:
    """Load ids of "all", "all but a, b" or "a, b" (names or ids); None means all."""
    stripped = text.strip()
    if re.fullmatch(r"all|everything|", stripped, re.I):
        return None
    but = re.match(r"(?:all|everything)\s+(?:but|except)\s+(.*)", stripped, re.I)
    names = [part.strip() for part in re.split(r",|;|\band\b", but[1] if but else stripped) if part.strip()]
    known = {load.id.lower(): load.id for load in design.loads} | {load.name.lower(): load.id for load in design.loads}
    lost = [name for name in names if name.lower() not in known]
    if lost:
        raise InputError.of("needs.no-load-called", lost=lost[0], loads=", ".join(load.name for load in design.loads))
    said = {known[name.lower()] for name in names}
    return tuple(load.id for load in design.loads if (load.id in said) != bool(but))


def loads_text(design: Design, case: Case) -> str:
    """What `loads_said` would read, the shorter way round."""
    if case.loads is None:
        return "all"
    names = {load.id: load.name for load in design.loads}
    resting = [name for key, name in names.items() if key not in case.loads]
    running = [names[key] for key in case.loads if key in names]
    if not resting:
        return "all"
    return f"all but {', '.join(resting)}" if len(resting) < len(running) else ", ".join(running)


def set_case(design: Design, name: str, text: str, ambient_c: float | None = None) -> Design:
    """Adds a case, or says anew which loads an existing one runs."""
    if not name.strip():
        raise EditError.of("needs.case-needs-name")
    loads = loads_said(design, text)
    known = next((case for case in design.cases if name.strip().lower() in (case.id, case.name.lower())), None)
    if known is not None:
        air = known.ambient_c if ambient_c is None else ambient_c
        return put(design, "cases", change(known, loads=loads, ambient_c=air))
    case_id = slug(name, [case.id for case in design.cases], "case")
    return put(design, "cases", Case(id=case_id, name=name.strip(), loads=loads, ambient_c=ambient_c))
