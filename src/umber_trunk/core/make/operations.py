"""Everything there is to do for one unit of a harness, each operation with what has to be done before it.

Precedence comes from the parts: threaded on before the strip, closed sleeves before the ends on one of their sides,
straight wires before splits, splits before the sleeve over them, second ends of a comb after it, a test while things
can still be mended, then locks, wraps and last of all the shrink.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from umber_trunk.core.catalog.conductors import area_of, show_size
from umber_trunk.core.catalog.parts import Crimped, Splice, Tube
from umber_trunk.core.covers.dress import CoverPlan, dressed
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.order import HOT_AIR, IRON, Step, steps_at
from umber_trunk.core.ends.reach import barrel_mm2, is_folded
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import EndKind
from umber_trunk.core.harness.way import CoverKind
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.kit.cutlist import colour_text, cuts
from umber_trunk.core.kit.substitute import decided
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message
from umber_trunk.core.text import digest_of

OPS = (
    "measure", "cut", "label", "lay", "thread", "strip", "fold", "crimp", "solder", "insert", "plug", "lock", "sleeve", "shrink", "twist", "split", "tape",
    "clamp", "torque", "tie", "look", "tug", "extract", "test",
)  # fmt: skip
"""Every kind of operation."""
CUTTER, TWISTER, METER = "cutter", "twisting hook", "meter"
SAMPLE_M = 0.15
"""Length of a sample piece that is crimped, measured and pulled apart when a tool is set up."""
PLACES = {"cut": "cutting bench", "measure": "cutting bench", "label": "label printer", "strip": "press bench", "crimp": "press bench", "solder": "soldering place", "twist": "press bench"}  # fmt: skip


@dataclass(frozen=True)
class Operation:
    """One thing to do for one unit. `after` are keys of operations it waits for; `cautions` what stands on it;
    `length_m` where it is about a length; `area_mm2` is the conductor's, `barrel_mm2` that of all in the barrel it goes
    into where that is more or folded double; `sample`: on a sample piece, once for all units; `shared`: once for all
    units too, such as setting the stop."""

    key: str
    op: str
    says: Message
    wire: str = ""
    end: str = ""
    side: str = ""
    cavity: str = ""
    housing: str = ""
    part: str = ""
    tool: str = ""
    setting: str = ""
    place: str = ""
    after: tuple[str, ...] = ()
    told: str = ""
    cautions: tuple[str, ...] = ()
    length_m: float | None = None
    area_mm2: float = 0.0
    barrel_mm2: float = 0.0
    sample: bool = False
    shared: bool = False

    @property
    def text(self) -> str:
        """What to do, in a sentence."""
        return self.says.text

    @property
    def state(self) -> tuple[str, str]:
        """Tool and setting; changing either is a tool change."""
        return self.tool, self.setting


def operations(results: Results) -> list[Operation]:
    """All operations of one unit, those a wire begins with first; for `Results.once`."""
    return _Unit(results).all()


class _Unit:
    def __init__(self, results: Results) -> None:
        self.results, self.design = results, results.design
        self.index, self.places = index_of(results.design), places_of(results.design, results.shelf)
        self.shelf = results.shelf
        self.lengths = results.once(wire_lengths)
        self.found: dict[str, Operation] = {}
        self.rows = {row.wire.id: row for row in results.once(cuts)}
        self.reels = {cable.id: cable.part or "" for cable in self.design.cables if cable.part}
        self.last_combs = {wire: comb for comb in self.design.combs if comb.cut_last for wire in comb.wires}
        self.splices = {
            end.id: None for end in self.design.ends if end.kind is EndKind.SPLICE
        }  # in the order of the design: the same in every run
        self.base: dict[str, str] = {}
        """Wire → the last operation before its ends are made."""
        self.laid: dict[str, str] = {}
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
        one = self.found[key]
        self.found[key] = replace(
            one, after=tuple(dict.fromkeys([*one.after, *(o for o in others if o in self.found and o != key)]))
        )

    def all(self) -> list[Operation]:
        for wire in self.rows:
            self._cut(wire)
        self._twisted()
        for wire in self.rows:
            self._lay(wire)
        for end in self.design.ends:
            if end.id not in self.splices:
                self._end(end.id)
        self._splits()
        self._second_ends()
        self._covers()
        self._ties()
        self._close()
        self._samples()
        return list(self.found.values())

    def _cut(self, wire_id: str) -> None:
        """Measured off, cut and labelled; cores of a jacketed cable together, once."""
        row = self.rows[wire_id]
        wire = row.wire
        name, what = wire_id, f"{show_size(row.size)} {colour_text(wire)}".strip()
        length = row.cut_m
        if wire.cable in self.reels:
            name, what = wire.cable or "", self.shelf.name(self.reels[wire.cable or ""])
            length = max(self.lengths[w].cut_m for w in self.rows if self.rows[w].wire.cable == wire.cable)
        last = f"{name} label"
        if last not in self.found:
            many = row.count if wire.cable not in self.reels else 1
            comb = self.last_combs.get(wire_id)
            over = f", with {1e3 * comb.allowance_m:.0f} mm to cut off at the comb" if comb is not None else ""
            mark = decided(self.design, wire_id)
            said = Message("step.measure.3", {"name": name, "value": 1000.0 * length, "over": over})
            self.add(f"{name} measure", "measure", said, wire=name, length_m=length, shared=True)
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
            self.add(
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
            self.add(last, "label", Message("step.label", {"name": name}), [f"{name} cut"], wire=name, part="label")
        self.base[wire_id] = last

    def _twisted(self) -> None:
        """Pairs that are twisted by hand, before their ends are made."""
        for cable in self.design.cables:
            wires = [w for w in self.rows if self.rows[w].wire.cable == cable.id]
            if cable.part is None and cable.lay_mm and len(wires) > 1:
                text = Message("step.twist", {"wires": ", ".join(wires), "lay_mm": cable.lay_mm})
                key = self.add(
                    f"{cable.id} twist",
                    "twist",
                    text,
                    [self.base[w] for w in wires],
                    wire=wires[0],
                    tool=TWISTER,
                    setting=f"{cable.lay_mm:g} mm",
                )
                self.base.update(dict.fromkeys(wires, key))

    def _lay(self, wire_id: str) -> None:
        row = self.rows[wire_id]
        name = row.wire.cable if row.wire.cable in self.reels else wire_id
        key = f"{name} lay"
        if key not in self.found:
            self.add(
                key,
                "lay",
                Message("step.lay", {"name": name, "start": row.start, "finish": row.finish}),
                [self.base[wire_id]],
                wire=name or "",
            )
        self.laid[wire_id] = key

    def _end(self, end_id: str) -> None:
        """The steps the parts ask for at an end, put after the cut; contacts go in once the wire is laid."""
        names = {}
        here = [one for one in self.places.of_end(end_id) if one.wire.id in self.base]
        for step in steps_at(self.results, end_id):
            if step.wire and step.wire not in self.base:
                continue
            names[step.id] = key = f"{end_id} {step.id}"
            after = [names[one] for one in step.after if one in names]
            wires = [step.wire] if step.wire else [one.wire.id for one in here if self._concerns(step, one.wire.cable)]
            if step.op in ("thread", "strip", "fold", "sleeve") or not after:
                after += [self.base[wire] for wire in wires]
            if step.op == "insert":
                after.append(self.laid[step.wire])
            self._step(key, end_id, step, after)
            for wire in wires:
                self.at_end.setdefault((wire, end_id), []).append(key)

    def _concerns(self, step: Step, cable: str | None) -> bool:
        """Whether a step without a wire is about the wires of a cable: it names the cable or the whole housing."""
        word, _, name = step.id.partition(" ")
        return word not in ("jacket", "screen", "filler", "drain") or name == cable

    def _step(self, key: str, end_id: str, step: Step, after: Sequence[str]) -> None:
        op = "clamp" if step.op == "assemble" else step.op
        press = op in ("strip", "fold", "crimp", "solder", "look") and step.wire
        row = self.rows.get(step.wire)
        made = self.add(
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
            place=PLACES.get(op, "press bench" if press else f"board, {self.index.ends[end_id].name}"),
            area_mm2=area_of(row.size) if row else 0.0,
            barrel_mm2=self._barrel_mm2(step, row.size if row else ""),
            cautions=_cautions(op),
        )
        if op in ("lock", "shrink") or (op in ("clamp", "torque") and not step.wire):
            self.closing.append(made)
            return
        self.made.append(made)
        if op == "insert" and step.wire:
            tug = self.add(
                f"{key} tug",
                "tug",
                Message("step.tug.2", {"wire": step.wire, "cavity": step.cavity}),
                [made],
                wire=step.wire,
                end=end_id,
                side=step.side,
                cavity=step.cavity,
                housing=step.body,
                place=f"board, {self.index.ends[end_id].name}",
            )
            self.made.append(tug)

    def _barrel_mm2(self, step: Step, size: str) -> float:
        """What a crimp holds, 0 where it is just the conductor."""
        holds = step.op in ("crimp", "look") and step.wire
        one = self.places.by_key.get((step.wire, step.side)) if holds else None  # type: ignore[arg-type]
        known = self.results.once(fitted)
        stuff, part = (known.stuff.get(one.key), self.shelf.named(known.of(one).part)) if one else (None, None)
        if one is None or stuff is None or not isinstance(part, Crimped):
            return 0.0
        found = barrel_mm2(part, stuff) * (2 if is_folded(one, self.design.project.practice, stuff) else 1)
        return 0.0 if abs(found / max(area_of(size), 1e-9) - 1) < 0.01 else found

    def _splits(self) -> None:
        """Joins: every wire of one bared, then one barrel over all, looked at, tugged, and shrunk before a sleeve hides
        it."""
        plans = {plan.end: plan for plan in self.results.once(joins)} if self.splices else {}
        known = self.results.once(fitted)
        straight = [
            self.laid[w]
            for w, row in self.rows.items()
            if not {row.wire.start.end, row.wire.finish.end} & self.splices.keys()
        ]
        for end_id in self.splices:
            here = [one for one in self.places.of_end(end_id) if one.wire.id in self.base]
            if not here:
                continue
            name, plan = self.index.ends[end_id].name, plans.get(end_id)
            for one in here:
                self.wait(self.laid[one.wire.id], straight)
            bared: list[str] = []
            threads: list[str] = []
            crimp: Step | None = None
            for step in steps_at(self.results, end_id):
                if step.wire not in self.base:
                    continue
                key = f"{end_id} {step.id}"
                if step.op in ("strip", "thread"):
                    after = [self.base[step.wire], *threads]
                    self._step(key, end_id, step, after)
                    (bared if step.op == "strip" else threads).append(key)
                    self.at_end.setdefault((step.wire, end_id), []).append(key)
                elif step.op in ("crimp", "solder") and crimp is None:
                    crimp = step
            barrel = next((part for one in here if (part := self.shelf.get(known.of(one).part, Splice))), None)
            wires = ", ".join(one.wire.id for one in here)
            place = f"board, {name}"
            waits = [*bared, *(self.laid[one.wire.id] for one in here)]
            if plan is not None and plan.shrink and not any(self.found[key].part == plan.shrink for key in threads):
                text = Message(
                    "step.thread",
                    {"name": name, "shrink_cut_mm": plan.shrink_cut_mm, "name2": self.shelf.name(plan.shrink)},
                )
                waits.append(
                    self.add(
                        f"{end_id} thread",
                        "thread",
                        text,
                        [*(self.base[one.wire.id] for one in here)],
                        end=end_id,
                        part=plan.shrink,
                        place=place,
                        told="It can’t go on after the join.",
                    )
                )
            where = f", {1e3 * plan.at_m:.0f} mm along {plan.segment}" if plan is not None else ""
            text = Message(
                "step.split",
                {"name": name, "wires": wires, "value": barrel.name if barrel else "the barrel", "where": where},
            )
            tool, setting = (
                (crimp.tool, crimp.setting) if crimp is not None else ("crimp tool", barrel.die if barrel else "")
            )
            split = self.add(
                f"{end_id} split",
                "split",
                text,
                waits,
                end=end_id,
                part=barrel.id if barrel else "",
                tool=tool,
                setting=setting,
                place=place,
                area_mm2=sum(area_of(self.rows[one.wire.id].size) for one in here),
                barrel_mm2=barrel_mm2(barrel, known.stuff[here[0].key])
                if barrel and here[0].key in known.stuff
                else 0.0,
                cautions=("pinch",),
            )
            last = self.add(
                f"{end_id} look", "look", Message("step.look.2", {"name": name}), [split], end=end_id, place=place
            )
            last = self.add(
                f"{end_id} tug", "tug", Message("step.tug", {"name": name}), [last], end=end_id, place=place
            )
            if self.design.project.practice.split == "solder":
                text = Message("step.solder", {"name": name})
                last = self.add(
                    f"{end_id} solder",
                    "solder",
                    text,
                    [last],
                    end=end_id,
                    tool=IRON,
                    place=place,
                    cautions=_cautions("solder"),
                )
            if plan is not None and plan.shrink:
                text = Message("step.shrink.3", {"name": name, "grip_mm": plan.grip_mm})
                last = self.add(
                    f"{end_id} shrink",
                    "shrink",
                    text,
                    [last],
                    end=end_id,
                    part=plan.shrink,
                    tool=HOT_AIR,
                    place=place,
                    cautions=_cautions("shrink"),
                )
            self.made.append(last)

    def _second_ends(self) -> None:
        """Wires of a comb that is cut last: measured and cut at the comb once laid in it, before their second end is
        made."""
        for wire_id, comb in self.last_combs.items():
            if wire_id not in self.base:
                continue
            wire = self.rows[wire_id].wire
            first, second = (
                self.at_end.get((wire_id, wire.start.end), []),
                self.at_end.get((wire_id, wire.finish.end), []),
            )
            others = [self.laid[w] for w in comb.wires if w in self.laid]
            mine = [key for key in first if self.found[key].wire == wire_id]
            text = Message("step.measure.2", {"wire_id": wire_id, "id": comb.id})
            mark = self.add(
                f"{wire_id} mark",
                "measure",
                text,
                [*others, *mine],
                wire=wire_id,
                end=wire.finish.end,
                side="finish",
                place="board",
            )
            cut = self.add(
                f"{wire_id} trim",
                "cut",
                Message("step.cut.2", {"wire_id": wire_id}),
                [mark],
                wire=wire_id,
                end=wire.finish.end,
                side="finish",
                tool=CUTTER,
                place="board",
                cautions=("eyes",),
            )
            for key in second:
                if self.found[key].wire == wire_id and self.found[key].op in ("thread", "strip"):
                    self.wait(key, [cut])

    def _covers(self) -> None:
        """Closed ones before the ends on the side with fewer of them; what wraps, and what comes after, once all is
        tested."""
        plans = self.results.once(joins) if self.splices else []
        shrinks_over: dict[str, list[str]] = {plan.segment: [] for plan in plans}
        for plan in plans:
            last = f"{plan.end} shrink" if f"{plan.end} shrink" in self.found else f"{plan.end} tug"
            shrinks_over[plan.segment].append(last)
        for limb in self.results.once(dressed).values():
            for cover in limb.covers:
                self._cover(limb.segment, cover, shrinks_over.get(limb.segment, []))

    def _cover(self, segment: str, cover: CoverPlan, splits: Sequence[str]) -> None:
        wires = [w for w in self.index.contents[segment] if w in self.laid]
        if not wires:
            return
        laid = [self.laid[w] for w in wires]
        where = f"{segment} from {1e3 * cover.from_m:.0f} mm" + (
            f" to {1e3 * cover.to_m:.0f} mm" if cover.to_m > cover.from_m else ""
        )
        name, key, part = cover.part_name, f"{segment} {cover.id}", cover.part
        length = f"cut {1e3 * cover.cut_m:.0f} mm, " if cover.cut_m > 0 else ""
        if cover.kind is CoverKind.TAPE:
            self.closing.append(
                self.add(key, "tape", Message("step.tape", {"where": where, "name": name}), [*laid, *splits], part=part)
            )
            return
        if cover.kind is CoverKind.CLAMP:
            self.closing.append(
                self.add(
                    key, "clamp", Message("step.clamp", {"where": where, "name": name}), [*laid, *splits], part=part
                )
            )
            return
        made = self.shelf.named(part)
        wraps = isinstance(made, Tube) and made.slit
        last = f"{key} over ends"
        if cover.after or wraps:
            self.closing.append(
                self.add(
                    last,
                    "sleeve",
                    Message(
                        "step.sleeve",
                        {
                            "where": where,
                            "length": length,
                            "name": name,
                            "value": "side" if wraps else "end, over what is made",
                        },
                    ),
                    [*laid, *splits],
                    part=part,
                )
            )
        else:
            op = "sleeve" if cover.kind in (CoverKind.SLEEVE, CoverKind.TUBE) else "thread"
            last = self.add(
                key,
                op,
                Message("step.step", {"where": where, "length": length, "name": name}),
                [*laid, *splits],
                part=part,
                told="It can’t go on after the ends.",
            )
            for end_key in self._ends_on_one_side(segment, wires):
                self.wait(end_key, [last])
            self.made.append(last)
        if cover.kind is CoverKind.SHRINK:
            self.closing.append(
                self.add(
                    f"{key} shrink",
                    "shrink",
                    Message("step.shrink.2", {"where": where, "name": name}),
                    [last],
                    part=part,
                    tool=HOT_AIR,
                    cautions=_cautions("shrink"),
                )
            )
        if cover.collars:
            self.closing.append(
                self.add(
                    f"{key} collars",
                    "shrink",
                    Message("step.shrink", {"where": where, "collars": cover.collars, "name": name}),
                    [last],
                    tool=HOT_AIR,
                    cautions=_cautions("shrink"),
                )
            )

    def _ends_on_one_side(self, segment: str, wires: Sequence[str]) -> list[str]:
        """What makes the ends of these wires on the side of a segment where fewer of them are made. Wires that leave by
        a splice lying in the segment have their far ends on a side too; a side closed by another splice is the last
        choice."""
        here = self.index.segments[segment]
        joined = {end for end in self.splices if self._joined_in(end, segment)}
        through = dict.fromkeys(
            [*wires, *(one.wire.id for one in self.places.ends if one.end.id in joined and one.wire.id in self.laid)]
        )
        found = []
        for points in [self._beyond(segment, point) for point in (here.a, here.b)]:
            keys, ends, closed = [], 0, False
            for wire_id in through:
                wire = self.rows[wire_id].wire
                for end in (wire.start.end, wire.finish.end):
                    if end in joined or self.index.ends[end].point not in points:
                        continue  # the splice is made first: this goes over it
                    ends, closed = ends + 1, closed or end in self.splices
                    keys += self.at_end.get((wire_id, end), [])
                    keys += [f"{end} split"] if end in self.splices else []
            found.append((not ends, closed, len(keys), list(dict.fromkeys(keys))))
        return min(found, key=lambda row: row[:3])[3]

    def _joined_in(self, end: str, segment: str) -> bool:
        join = self.index.ends[end].join
        return join is not None and join.segment == segment

    def _beyond(self, segment: str, point: str) -> set[str]:
        seen, queue = {point}, [point]
        for here in queue:
            for name, other in self.index.neighbours.get(here, ()):
                if name != segment and other not in seen:
                    seen.add(other)
                    queue.append(other)
        return seen

    def _ties(self) -> None:
        """A tie at every breakout, once its limbs are laid."""
        sleeves_on: dict[str, list[str]] = {}
        for key, one in self.found.items():
            if one.op == "sleeve" and one.wire == "":
                sleeves_on.setdefault(key.split(" ")[0], []).append(key)
        for point, limbs in self.index.neighbours.items():
            wires = [w for name, _ in limbs for w in self.index.contents[name] if w in self.laid]
            if len(limbs) >= 3 and wires:
                name = next((p.name or p.id for p in self.design.points if p.id == point), point)
                sleeves = [key for limb, _ in limbs for key in sleeves_on.get(limb, ())]
                early = [key for key in sleeves if key not in self.closing]
                self.made.append(
                    self.add(
                        f"{point} tie",
                        "tie",
                        Message("step.tie", {"name": name}),
                        [*(self.laid[w] for w in wires), *early],
                    )
                )

    def _close(self) -> None:
        """The test while everything can still be mended, then what closes, shrink after all else, and a last look."""
        if not self.found:
            return
        ends = [key for key in self.made if key in self.found]
        text = Message("step.test")
        test = self.add("test", "test", text, [*ends, *self.laid.values()], tool=METER, cautions=("disconnect",))
        others = [key for key in self.closing if self.found[key].op != "shrink"]
        for key in others:
            self.wait(key, [test])
        for key in self.closing:
            if self.found[key].op == "shrink":
                self.wait(key, [test, *(o for o in others if self._same_end(key, o))])
        self.add("last look", "look", Message("step.look"), [test, *self.closing])

    def _same_end(self, one: str, other: str) -> bool:
        a, b = self.found[one], self.found[other]
        return bool(a.end) and a.end == b.end

    def _samples(self) -> None:
        """For every tool, setting, part and conductor that is crimped: a sample piece cut, bared, crimped and measured
        first."""
        set_ups: dict[tuple[str, str, str, float, float], list[str]] = {}
        for key, one in self.found.items():
            if one.op in ("crimp", "split") and one.part:
                set_ups.setdefault(
                    (one.tool, one.setting, one.part, round(one.area_mm2, 3), round(one.barrel_mm2, 3)), []
                ).append(key)
        for (tool, setting, part, area, barrel), keys in set_ups.items():
            first = self.found[keys[0]]
            wire = first.wire or next((self.found[k].wire for k in first.after if self.found[k].wire), "")
            strip = next((self.found[k] for k in first.after if self.found[k].op == "strip"), None)
            # of what it is, not of what it is called
            name = f"sample {digest_of(repr((tool, setting, part, area, barrel)))[:8]}"
            reel = (
                (self.rows[wire].wire.cable or "")
                if wire in self.rows and self.rows[wire].wire.cable in self.reels
                else ""
            )
            text = Message("step.cut", {"value": reel or wire, "value2": 1000.0 * SAMPLE_M})
            last = self.add(
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
                last = self.add(
                    f"{name} strip",
                    "strip",
                    Message("step.strip", {"wire": wire, "setting": strip.setting}),
                    [last],
                    wire=wire,
                    tool=strip.tool,
                    setting=strip.setting,
                    sample=True,
                )
            last = self.add(
                f"{name} crimp",
                "crimp",
                Message(
                    "step.crimp",
                    {"name": self.shelf.name(part), "value": f", {barrel:g} mm² in its barrel" if barrel else ""},
                ),
                [last],
                wire=wire,
                part=part,
                tool=tool,
                setting=setting,
                area_mm2=area,
                barrel_mm2=barrel,
                sample=True,
                cautions=_cautions("crimp"),
            )
            text = Message("step.measure", {"name": self.shelf.name(part)})
            last = self.add(
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
                self.wait(key, [last])


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


def _cautions(op: str) -> tuple[str, ...]:
    return {
        "strip": ("eyes",),
        "crimp": ("pinch", "eyes"),
        "solder": ("fumes", "heat"),
        "shrink": ("heat",),
        "torque": (),
    }.get(op, ())


CAUTIONS = {
    "eyes": "Eyes: strands and cut ends fly.", "pinch": "Pinch: fingers out of the jaws; hydraulic tools don’t stop.",
    "fumes": "Fumes: air away from the face.", "heat": "Heat: nothing that burns near, no fuel, no battery giving gas.",
    "disconnect": "Disconnected from every source, electronics unplugged.",
}  # fmt: skip
"""The short cautions that stand on steps."""
