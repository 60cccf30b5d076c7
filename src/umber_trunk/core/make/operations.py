"""Everything there is to do for one unit of a harness, each operation with what has to be done before it.

    measure → cut → label ─┬─ thread → strip → crimp ─┬─ insert → tug ─┬─ test ─ lock, wrap, clamp ─ shrink ─ last look
                           └─ lay ────────────────────┘                │
         straight wires laid ─ split → look → tug → sleeve over it ────┘

Precedence comes from the parts: threaded on before the strip, closed sleeves before the ends on one of their sides,
straight wires before splits, splits before the sleeve over them, second ends of a comb after it, a test while things
can still be mended, then locks, wraps and last of all the shrink.
"""

from __future__ import annotations

from umber_trunk.core.catalog.conductors import area_of, show_size
from umber_trunk.core.ends.order import Step, steps_at
from umber_trunk.core.kit.cutlist import colour_text
from umber_trunk.core.kit.substitute import decided
from umber_trunk.core.make.cover_steps import put_covers_on, tie_breakouts
from umber_trunk.core.make.draft import Draft, step_at
from umber_trunk.core.make.operation import CUTTER, METER, TWISTER, Operation
from umber_trunk.core.make.sample_steps import try_on_samples
from umber_trunk.core.make.split_steps import make_splits
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message


def operations(results: Results) -> list[Operation]:
    """All operations of one unit, those a wire begins with first; for `Results.once`."""
    draft = Draft(results)
    for wire in draft.rows:
        cut_wire(draft, wire)
    twist_pairs(draft)
    for wire in draft.rows:
        lay_wire(draft, wire)
    for end in draft.design.ends:
        if end.id not in draft.splices:
            make_end(draft, end.id)
    make_splits(draft)
    make_second_ends(draft)
    put_covers_on(draft)
    tie_breakouts(draft)
    close_up(draft)
    try_on_samples(draft)
    return list(draft.found.values())


def cut_wire(draft: Draft, wire_id: str) -> None:
    """Measured off, cut and labelled; cores of a jacketed cable together, once."""
    row = draft.rows[wire_id]
    wire = row.wire
    name, what = wire_id, f"{show_size(row.size)} {colour_text(wire)}".strip()
    length = row.cut_m
    if wire.cable in draft.reels:
        name, what = wire.cable or "", draft.shelf.name(draft.reels[wire.cable or ""])
        length = max(draft.lengths[w].cut_m for w in draft.rows if draft.rows[w].wire.cable == wire.cable)
    last = f"{name} label"
    if last not in draft.found:
        many = row.count if wire.cable not in draft.reels else 1
        comb = draft.last_combs.get(wire_id)
        over = f", with {1e3 * comb.allowance_m:.0f} mm to cut off at the comb" if comb is not None else ""
        mark = str(decided(draft.design, wire_id))
        said = Message("step.measure.3", {"name": name, "value": 1000.0 * length, "over": over})
        draft.add(f"{name} measure", "measure", said, wire=name, length_m=length, shared=True)
        text = Message(
            "step.cut.3",
            {
                "name": name,
                "value": f"{many} × " if many > 1 else "",
                "value2": 1000.0 * length,
                "what": what,
                "value3": f" ({mark})." if mark else ".",
            },
        )
        draft.add(
            f"{name} cut",
            "cut",
            text,
            [f"{name} measure"],
            wire=name,
            tool=CUTTER,
            length_m=length,
            area_mm2=area_of(row.size),
            cautions=("eyes",),
        )
        draft.add(last, "label", Message("step.label", {"name": name}), [f"{name} cut"], wire=name, part="label")
    draft.base[wire_id] = last


def twist_pairs(draft: Draft) -> None:
    """Pairs that are twisted by hand, before their ends are made."""
    for cable in draft.design.cables:
        wires = [w for w in draft.rows if draft.rows[w].wire.cable == cable.id]
        if cable.part is None and cable.lay_mm and len(wires) > 1:
            text = Message("step.twist", {"wires": ", ".join(wires), "lay_mm": cable.lay_mm})
            key = draft.add(
                f"{cable.id} twist",
                "twist",
                text,
                [draft.base[w] for w in wires],
                wire=wires[0],
                tool=TWISTER,
                setting=f"{cable.lay_mm:g} mm",
            )
            draft.base.update(dict.fromkeys(wires, key))


def lay_wire(draft: Draft, wire_id: str) -> None:
    """Laid on the board from end to end; cores of a jacketed cable together, once."""
    row = draft.rows[wire_id]
    name = row.wire.cable if row.wire.cable in draft.reels else wire_id
    key = f"{name} lay"
    if key not in draft.found:
        text = Message("step.lay", {"name": name, "start": row.start, "finish": row.finish})
        draft.add(key, "lay", text, [draft.base[wire_id]], wire=name or "")
    draft.laid[wire_id] = key


def make_end(draft: Draft, end_id: str) -> None:
    """The steps the parts ask for at an end, put after the cut; contacts go in once the wire is laid."""
    names = {}
    here = [one for one in draft.places.of_end(end_id) if one.wire.id in draft.base]
    for step in steps_at(draft.results, end_id):
        if step.wire and step.wire not in draft.base:
            continue
        names[step.id] = key = f"{end_id} {step.id}"
        after = [names[one] for one in step.after if one in names]
        wires = [step.wire] if step.wire else [one.wire.id for one in here if _concerns(step, one.wire.cable)]
        if step.op in ("thread", "strip", "fold", "sleeve") or not after:
            after += [draft.base[wire] for wire in wires]
        if step.op == "insert":
            after.append(draft.laid[step.wire])
        step_at(draft, key, end_id, step, after)
        for wire in wires:
            draft.at_end.setdefault((wire, end_id), []).append(key)


def _concerns(step: Step, cable: str | None) -> bool:
    """Whether a step without a wire is about the wires of a cable: it names the cable or the whole housing."""
    word, _, name = step.id.partition(" ")
    return word not in ("jacket", "screen", "filler", "drain") or name == cable


def make_second_ends(draft: Draft) -> None:
    """Wires of a comb that is cut last: measured and cut at the comb once laid in it, before their second end is
    made."""
    for wire_id, comb in draft.last_combs.items():
        if wire_id not in draft.base:
            continue
        wire = draft.rows[wire_id].wire
        others = [draft.laid[other] for other in comb.wires if other in draft.laid]
        first = [key for key in draft.at_end.get((wire_id, wire.start.end), []) if draft.found[key].wire == wire_id]
        there = {"wire": wire_id, "end": wire.finish.end, "side": "finish", "place": "board"}
        text = Message("step.measure.2", {"wire_id": wire_id, "id": comb.id})
        mark = draft.add(f"{wire_id} mark", "measure", text, [*others, *first], **there)
        text = Message("step.cut.2", {"wire_id": wire_id})
        cut = draft.add(f"{wire_id} trim", "cut", text, [mark], tool=CUTTER, cautions=("eyes",), **there)
        for key in draft.at_end.get((wire_id, wire.finish.end), []):
            if draft.found[key].wire == wire_id and draft.found[key].op in ("thread", "strip"):
                draft.wait(key, [cut])


def close_up(draft: Draft) -> None:
    """The test while everything can still be mended, then what closes, shrink after all else, and a last look."""
    if not draft.found:
        return
    ends = [key for key in draft.made if key in draft.found]
    text = Message("step.test")
    test = draft.add("test", "test", text, [*ends, *draft.laid.values()], tool=METER, cautions=("disconnect",))
    others = [key for key in draft.closing if draft.found[key].op != "shrink"]
    for key in others:
        draft.wait(key, [test])
    for key in draft.closing:
        if draft.found[key].op == "shrink":
            draft.wait(key, [test, *(o for o in others if _same_end(draft, key, o))])
    draft.add("last look", "look", Message("step.look"), [test, *draft.closing])


def _same_end(draft: Draft, one: str, other: str) -> bool:
    a, b = draft.found[one], draft.found[other]
    return bool(a.end) and a.end == b.end


def older_names(results: Results) -> dict[str, str]:
    """Keys of steps as earlier formats named them, by the names of parts → as they are; for `Results.once`."""
    found: dict[str, str] = {}
    for one in results.once(operations):
        if one.sample and one.op == "crimp":
            as_much = f" as {one.barrel_mm2:g}" if one.barrel_mm2 else ""
            old = f"sample {results.shelf.name(one.part)} {one.tool} {one.setting} {one.area_mm2:g}{as_much}"
            new = one.key.removesuffix(" crimp")
            found |= {f"0|{old} {op}": f"0|{new} {op}" for op in ("cut", "strip", "crimp", "measure")}
    return found
