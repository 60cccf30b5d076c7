"""A unit’s operations while they are found, one after the other: what there is by now, and where each wire stands."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from umber_trunk.core.catalog.conductors import area_of
from umber_trunk.core.catalog.parts import Crimped
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.order import Step
from umber_trunk.core.ends.reach import barrel_mm2, is_folded
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.make.operation import PLACES, Operation, cautions_of
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message


class Draft:
    """What is known of a unit and what is to be done for it by now. Each part of the work adds its own; what has to
    come before something that is there already is said with `wait`."""

    def __init__(self, results: Results) -> None:
        self.results, self.design = results, results.design
        self.index, self.places = index_of(results.design), places_of(results.design, results.shelf)
        self.shelf = results.shelf
        self.lengths = results.once(wire_lengths)
        self.found: dict[str, Operation] = {}
        self.rows = {row.wire.id: row for row in results.once(cuts)}
        self.reels = {cable.id: cable.part or "" for cable in self.design.cables if cable.part}
        self.last_combs = {wire: comb for comb in self.design.combs if comb.cut_last for wire in comb.wires}
        # a dict in the order of the design, not a set: the same steps in every run
        self.splices = {end.id: None for end in self.design.ends if end.kind is EndKind.SPLICE}
        self.base: dict[str, str] = {}
        """Wire → the last operation before its ends are made."""
        self.laid: dict[str, str] = {}
        """Wire → the operation that lays it on the board."""
        self.at_end: dict[tuple[str, str], list[str]] = {}
        """(wire, end) → operations that make that end, so that what has to come before can be put before them."""
        self.made: list[str] = []
        """What has to be done before the test."""
        self.closing: list[str] = []
        """What waits for the test."""

    def add(self, key: str, op: str, says: Message, after: Iterable[str] = (), **more: object) -> str:
        """One operation more; what it waits for is there already or is no operation."""
        place = str(more.pop("place", PLACES.get(op, "board")))
        waits = tuple(dict.fromkeys(one for one in after if one in self.found and one != key))
        self.found[key] = Operation(key, op, says, after=waits, place=place, **more)  # type: ignore[arg-type]
        return key

    def wait(self, key: str, others: Iterable[str]) -> None:
        """An operation waits for others too."""
        one, more = self.found[key], [other for other in others if other in self.found and other != key]
        self.found[key] = replace(one, after=tuple(dict.fromkeys([*one.after, *more])))


def step_at(draft: Draft, key: str, end_id: str, step: Step, after: Sequence[str]) -> None:
    """A step the parts at an end ask for, under a key; a wire that went in is tugged."""
    op = "clamp" if step.op == "assemble" else step.op
    press = op in ("strip", "fold", "crimp", "solder", "look") and step.wire
    row = draft.rows.get(step.wire)
    made = draft.add(
        key,
        op,
        step.says,
        after,
        wire=step.wire,
        end=end_id,
        side=step.side,
        cavity=step.cavity,
        housing=step.body,
        part=step.part,
        tool=step.tool,
        setting=step.setting,
        told=step.told,
        place=PLACES.get(op, "press bench" if press else f"board, {draft.index.ends[end_id].name}"),
        area_mm2=area_of(row.size) if row else 0.0,
        barrel_mm2=_barrel_mm2(draft, step, row.size if row else ""),
        cautions=cautions_of(op),
    )
    if op in ("lock", "shrink") or (op in ("clamp", "torque") and not step.wire):
        draft.closing.append(made)
        return
    draft.made.append(made)
    if op == "insert" and step.wire:
        where = {"wire": step.wire, "end": end_id, "side": step.side, "cavity": step.cavity, "housing": step.body}
        text = Message("step.tug.2", {"wire": step.wire, "cavity": step.cavity})
        place = f"board, {draft.index.ends[end_id].name}"
        draft.made.append(draft.add(f"{key} tug", "tug", text, [made], place=place, **where))


def _barrel_mm2(draft: Draft, step: Step, size: str) -> float:
    """What a crimp holds, 0 where it is just the conductor."""
    holds = step.op in ("crimp", "look") and step.wire
    one = draft.places.by_key.get((step.wire, step.side)) if holds else None  # type: ignore[arg-type]
    known = draft.results.once(fitted)
    stuff, part = (known.stuff.get(one.key), draft.shelf.named(known.of(one).part)) if one else (None, None)
    if one is None or stuff is None or not isinstance(part, Crimped):
        return 0.0
    found = barrel_mm2(part, stuff) * (2 if is_folded(one, draft.design.project.practice, stuff) else 1)
    return 0.0 if abs(found / max(area_of(size), 1e-9) - 1) < 0.01 else found
