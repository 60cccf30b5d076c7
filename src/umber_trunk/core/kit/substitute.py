"""Another colour, or a size up, in place of what the shelf doesn't have: a decision with a name to it, in the
design."""

from __future__ import annotations

from umber_trunk.core.catalog.conductors import area_of, parse_size, show_size
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import change, drop, put
from umber_trunk.core.harness.model import Decision, Design, Wire
from umber_trunk.core.kept_words import MOST_TEXT, name_kept, said_kept
from umber_trunk.core.kit.cutlist import colour_text, colours_of
from umber_trunk.core.sentences import NOTHING, Message


def substitute(
    design: Design, wire_id: str, planned: str, size: str = "", colour: str = "", who: str = "", why: str = ""
) -> Design:
    """The wire made in another size or colour ("blue/white"), with the decision recorded. `planned` is the size it has
    in the figures. EditError where the size is smaller, nobody decides it, or nothing changes. Fits, drop and heat
    follow the wire."""
    wire = next((one for one in design.wires if one.id == wire_id), None)
    if wire is None:
        raise EditError.of("any.no-wire", wire=wire_id)
    if not who.strip():
        raise EditError.of("kit.say-who-decides")
    known = next((one for one in design.decisions if one.wire == wire_id), None)
    label = parse_size(size, design.project.series, design.project.decimal).label if size.strip() else planned
    if area_of(label) < area_of(planned) * (1 - 1e-6):
        raise EditError.of("kit.thinner-than-planned", label=show_size(label), planned=show_size(planned))
    base, stripe = colours_of(colour)
    values = {"size": label, "locked": True}
    if colour.strip():
        values |= {"colour": base, "stripe": stripe}
    made = change(wire, **values)
    now = _said(made, label)
    was = known.was if known is not None else _said(wire, planned)
    if now == _said(wire, planned):
        raise EditError.of("kit.wire-is-so-already", wire_id=wire_id, now=now)
    decision = Decision(id=wire_id, wire=wire_id, was=was, now=now, who=name_kept(who), why=said_kept(why, MOST_TEXT))
    return put(put(design, "wires", made), "decisions", decision)


def take_back(design: Design, wire_id: str) -> Design:
    """The decision struck out; the wire keeps what it has until its size is proposed again."""
    return drop(design, "decisions", [wire_id])


def decided(design: Design, wire_id: str) -> Message:
    """The mark for papers, nothing for a wire as planned."""
    known = next((one for one in design.decisions if one.wire == wire_id), None)
    if known is None:
        return NOTHING
    return Message.of("kit.decided", was=known.was, who=known.who, why=known.why)


def _said(wire: Wire, size: str) -> str:
    return f"{show_size(size)} {colour_text(wire)}".strip()
