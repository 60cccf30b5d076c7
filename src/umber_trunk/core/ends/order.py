"""What must be done at an end before what: threaded on before the strip, the lock after all contacts, shrink last.

A list of steps with what each waits for, derived from the parts; the Make stage sequences it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from graphlib import TopologicalSorter

from umber_trunk.core.catalog.parts import Boot, Clamp, Contact, Ferrule, Housing, Lug, Seal, Shrink, Splice
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.strip import SLEEVE_OVER_MM, Strip, cable_strips, strip_of, tenths
from umber_trunk.core.ends.wire_ends import WireEnd, places_of
from umber_trunk.core.harness.end import Housing as Body
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message, say

SAME_MM = 0.5
"""Cavities are as far in as each other to this."""


@dataclass(frozen=True)
class Step:
    """One thing to do at an end: `after` are the ids of the steps it waits for; `told` is the caution if it was
    forgotten. `side` is the wire's, `body` the housing it is done at; a `setting` is the die, the strip or the torque
    of the `tool`."""

    id: str
    op: str
    wire: str
    cavity: str
    says: Message
    part: str = ""
    after: tuple[str, ...] = ()
    told: str = ""
    tool: str = ""
    setting: str = ""
    side: str = ""
    body: str = ""

    @property
    def text(self) -> str:
        """What to do, in a sentence."""
        return self.says.text


STRIPPER, IRON, HOT_AIR, DRIVER = "stripper", "soldering iron", "hot air", "torque driver"
"""Tools every bench has, whatever the parts ask for."""


def steps_at(results: Results, end_id: str) -> list[Step]:
    """Everything to do at an end, in an order that keeps every "before"."""
    return _Making(results, end_id).in_order()


class _Making:
    """Collects the steps at one end, each with what it waits for."""

    def __init__(self, results: Results, end_id: str) -> None:
        self.results, self.end_id = results, end_id
        places = places_of(results.design, results.shelf)
        self.shelf, self.known = places.shelf, results.once(fitted)
        self.practice = results.design.project.practice
        self.steps: dict[str, Step] = {}
        self.inserted: list[str] = []
        self.seated: dict[tuple[str, float], list[str]] = {}
        self.drains: dict[str, list[str]] = {}
        self.bodies = [(body, housing) for _, body, housing in places.housings(end_id)]
        here = [one for one in places.of_end(end_id) if one.made is not None]
        self.threaded = self._over_the_cable()
        self.peeled = self._jackets(here)
        for one in self._sequence(here):
            self._wire(one)
        for body, housing in self.bodies:
            self._close(body, housing)

    def _add(
        self,
        name: str,
        op: str,
        says: Message,
        part: str = "",
        after: Sequence[str] = (),
        told: str = "",
        one: WireEnd | None = None,
        tool: str = "",
        setting: str = "",
        body: str = "",
    ) -> str:
        wire, cavity, side = (one.wire.id, one.label, one.side) if one is not None else ("", "", "")
        body = one.body.id if one is not None and one.body is not None else body
        waits = tuple(a for a in after if a in self.steps)
        self.steps[name] = Step(name, op, wire, cavity, says, part, waits, told, tool, setting, side, body)
        return name

    def _over_the_cable(self) -> list[str]:
        """What all wires or the jacket go through: nut, gland, grommet."""
        found = []
        for body, housing in self.bodies:
            if housing.seal == "gland":
                text, told = (
                    Message("step.thread.5"),
                    say("note.nut-forgotten-means-cutting-end-off"),
                )
                nut = self._add(f"nut {body.id}", "thread", text, housing.id, told=told, body=body.id)
                text, told = Message("step.thread.4"), say("note.forgotten-end-comes-off-again")
                found.append(self._add(f"gland {body.id}", "thread", text, housing.id, [nut], told, body=body.id))
            if housing.seal == "grommet":
                text = Message("step.thread.3")
                told = say("note.grommet-cant-go-on-after-contacts")
                found.append(self._add(f"grommet {body.id}", "thread", text, housing.id, told=told, body=body.id))
        return found

    def _jackets(self, here: list[WireEnd]) -> dict[str, list[str]]:
        """Cable → the steps that lay its cores bare, in their order."""
        found = {}
        for cable in dict.fromkeys(one.wire.cable for one in here if one.wire.cable):
            cut = next((one for one in cable_strips(self.results, cable) if one.end == self.end_id), None)
            if cut is None:
                continue
            text = Message("step.strip.4", {"tenths": tenths(cut.jacket_back_mm)})
            jacket = f"jacket {tenths(cut.jacket_back_mm)} mm"
            steps = [self._add(f"jacket {cable}", "strip", text, "", self.threaded, tool=STRIPPER, setting=jacket)]
            if cut.screen != "none":
                foil = ", foil off" if cut.foil else ""
                text = Message("step.fold", {"screen": cut.screen, "tenths": tenths(cut.screen_mm), "foil": foil})
                steps.append(self._add(f"screen {cable}", "fold", text, "", steps))
            if cut.filler:
                steps.append(self._add(f"filler {cable}", "strip", Message("step.strip.3"), "", steps))
            if cut.drain_mm:
                text = Message("step.sleeve.2", {"tenths": tenths(max(cut.drain_mm - SLEEVE_OVER_MM, 0.0))})
                steps.append(self._add(f"drain {cable}", "sleeve", text, "", steps))
            found[cable] = steps
        return found

    def _sequence(self, here: list[WireEnd]) -> list[WireEnd]:
        """Inner cavities first, while they can be got at; the drain as the house has it."""
        ordered = sorted(here, key=lambda one: (-_reach(one), one.wire.id))
        if self.practice.drain != "reach":
            ordered.sort(key=lambda one: _is_drain(one) == (self.practice.drain == "last"))
        return ordered

    def _wire(self, one: WireEnd) -> None:
        fitting, key, wire = self.known.of(one), f"{one.wire.id} {one.side}", one.wire.id
        before = [*self.threaded, *self.peeled.get(one.wire.cable or "", [])]
        for what, kind in ((fitting.boot, Boot), (fitting.shrink, Shrink), (fitting.seal, Seal)):
            worn = self.shelf.get(what, kind)
            if worn is not None:
                name = f"{key} thread {kind.__name__.lower()}"
                told = say("note.it-cant-go-on-after-crimp")
                before.append(
                    self._add(
                        name,
                        "thread",
                        Message(f"step.thread.{kind.__name__.lower()}", {"wire": wire}),
                        worn.id,
                        (),
                        told,
                        one,
                    )
                )
        made = strip_of(self.results, one)
        if made is None:
            return
        text = Message("step.strip.2", {"wire": wire, "tenths": tenths(made.strip_mm)})
        bare = f"{tenths(made.strip_mm)} mm of Ø {tenths(round(made.conductor_mm, 1))} mm"
        last = self._add(f"{key} strip", "strip", text, made.part, before, "", one, STRIPPER, bare)
        part = self.shelf.named(fitting.part)
        if isinstance(part, Contact | Lug | Splice):
            last = self._crimp(one, key, part, made, last)
        elif fitting.ferrule is not None and self.shelf.get(fitting.ferrule, Ferrule) is not None:
            text = Message("step.crimp.2", {"wire": wire, "tool": made.tool})
            last = self._add(f"{key} ferrule", "crimp", text, fitting.ferrule, [last], "", one, made.tool, made.die)
        if one.made in ("contact", "clamp"):
            how = say("note.until-it-clicks") if one.made == "contact" else say("note.every-strand")
            text = Message("step.insert", {"wire": wire, "label": one.label, "how": how})
            named = self._add(f"{key} insert", "insert", text, made.part, [last, *self._before(one)], "", one)
            self.inserted.append(named)
            self._seat(one, named)
            clamp = self.shelf.get(one.housing.clamp if one.housing else None, Clamp)
            if clamp is not None and clamp.torque_nm:
                text, turn = (
                    Message("step.torque.2", {"wire": wire, "label": one.label, "torque_nm": clamp.torque_nm}),
                    f"{clamp.torque_nm:g} N·m",
                )
                self.inserted.append(
                    self._add(f"{key} tighten", "torque", text, clamp.id, [named], "", one, DRIVER, turn)
                )
        elif isinstance(part, Lug):
            shrink = self.shelf.get(fitting.shrink, Shrink)
            if shrink is not None:
                text = Message("step.shrink.4", {"wire": wire})
                last = self._add(f"{key} shrink", "shrink", text, shrink.id, [last], "", one, HOT_AIR)
            self.inserted.append(last)

    def _before(self, one: WireEnd) -> list[str]:
        """What sits in the same housing already and has to: all that is further in; a drain by the house's school."""
        body = one.body.id if one.body is not None else ""
        drain, school = _is_drain(one), self.practice.drain
        if school != "reach" and drain:
            others = [name for (where, _), names in self.seated.items() if where == body for name in names]
            return others if school == "last" else []
        mine = _reach(one)
        inner = [
            name
            for (where, reach), names in self.seated.items()
            if where == body and reach > mine + SAME_MM
            for name in names
        ]
        return [*inner, *(self.drains.get(body, []) if school == "first" else [])]

    def _seat(self, one: WireEnd, name: str) -> None:
        body = one.body.id if one.body is not None else ""
        if self.practice.drain != "reach" and _is_drain(one):
            self.drains.setdefault(body, []).append(name)
        else:
            self.seated.setdefault((body, _reach(one)), []).append(name)

    def _crimp(self, one: WireEnd, key: str, part: Contact | Lug | Splice, made: Strip, strip: str) -> str:
        """Crimp and look, and solder where the house does; the last of them."""
        wire, solder = one.wire.id, isinstance(part, Contact) and part.barrel == "solder"
        height = ""
        if made.crimp_height_mm and isinstance(part, Contact):
            height = f" to {made.crimp_height_mm:.2f} ± {made.crimp_plus_minus_mm:g} mm"
        verb = "solder the tail" if solder else f"crimp {part.name}{height}"
        tool = f" ({made.tool}{', die ' + made.die if made.die else ''})" if made.tool else ""
        setting = " ".join(filter(None, (made.die or part.name, f"{made.crimp_height_mm:.2f} mm" if height else "")))
        last = self._add(
            f"{key} crimp",
            "solder" if solder else "crimp",
            Message("step.step.2", {"wire": wire, "verb": verb, "tool": tool}),
            part.id,
            [strip],
            "",
            one,
            IRON if solder else made.tool or "crimp tool",
            "" if solder else setting,
        )
        text = Message("step.look.3", {"wire": wire})
        last = self._add(f"{key} look", "look", text, part.id, [last], "", one)
        if self.practice.solder == "flow" and isinstance(part, Lug | Splice):
            text = Message("step.solder.2", {"wire": wire})
            last = self._add(f"{key} flow", "solder", text, part.id, [last], "", one, IRON)
        return last

    def _close(self, body: Body, housing: Housing) -> None:
        """Plugs, the connector's own parts, the lock, the gland."""
        closed, after = self.known.blanks.get((self.end_id, body.id), ()), list(self.inserted)
        if closed:
            text = Message("step.plug", {"names": ", ".join(closed[:12]), "value": " …" if len(closed) > 12 else ""})
            after.append(self._add(f"plugs {body.id}", "plug", text, housing.plug or "", self.inserted, body=body.id))
        for number, line in enumerate(housing.assembly, 1):
            text = Message("step.assemble", {"text": line})
            after.append(self._add(f"assemble {body.id} {number}", "assemble", text, housing.id, after, body=body.id))
        if housing.lock:
            told = say("note.it-doesnt-go-in-while-contact")
            text = Message("step.lock")
            after.append(self._add(f"lock {body.id}", "lock", text, housing.id, after, told, body=body.id))
        if housing.seal == "gland":
            self._add(
                f"close {body.id}",
                "torque",
                Message("step.torque"),
                housing.id,
                after,
                body=body.id,
            )

    def in_order(self) -> list[Step]:
        """Every step after all it waits for, else in the order they were thought of."""
        sorter = TopologicalSorter({name: set(step.after) for name, step in self.steps.items()})
        place = {name: at for at, name in enumerate(self.steps)}
        done: list[Step] = []
        sorter.prepare()
        ready = sorted(sorter.get_ready(), key=place.__getitem__)
        while ready:
            name = ready.pop(0)
            done.append(self.steps[name])
            sorter.done(name)
            ready = sorted([*ready, *sorter.get_ready()], key=place.__getitem__)
        return done


def _reach(one: WireEnd) -> float:
    """How far inside the face a cavity is: middle ones first, while they can be got at; 0 on the rim or where
    unknown."""
    if one.housing is None or one.place is None:
        return 0.0
    far = max((cavity.x_mm**2 + cavity.y_mm**2) ** 0.5 for cavity in one.housing.cavities)
    return float(far - (one.place.x_mm**2 + one.place.y_mm**2) ** 0.5)


def _is_drain(one: WireEnd) -> bool:
    return (one.place is not None and one.place.role == "drain") or one.label.lower() == "drain"
