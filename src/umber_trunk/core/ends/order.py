"""What must be done at an end before what: threaded on before the strip, the lock after all contacts, shrink last.

A list of steps with what each waits for, derived from the parts; the Make stage sequences it.
"""

from __future__ import annotations

from dataclasses import dataclass
from graphlib import TopologicalSorter

from umber_trunk.core.catalog.parts import Boot, Contact, Ferrule, Lug, Seal, Shrink, Splice
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.strip import cable_strips, strip_of, tenths
from umber_trunk.core.ends.wire_ends import WireEnd, places_of
from umber_trunk.core.results import Results


@dataclass(frozen=True)
class Step:
    """One thing to do at an end: `after` are the ids of the steps it waits for; `told` is the caution if it was forgotten."""

    id: str
    op: str
    wire: str
    cavity: str
    text: str
    part: str = ""
    after: tuple[str, ...] = ()
    told: str = ""


def steps_at(results: Results, end_id: str) -> list[Step]:
    """Everything to do at an end, in an order that keeps every "before"."""
    places, known = places_of(results.design), results.once(fitted)
    shelf = places.shelf
    here = [one for one in places.ends if one.end.id == end_id and one.made is not None]
    steps: dict[str, Step] = {}

    def add(
        name: str,
        op: str,
        one: WireEnd | None,
        text: str,
        part: str = "",
        after: list[str] | None = None,
        told: str = "",
    ) -> str:
        steps[name] = Step(
            name,
            op,
            one.wire.id if one else "",
            one.label if one else "",
            text,
            part,
            tuple(a for a in after or [] if a in steps),
            told,
        )
        return name

    threaded_on_cable: list[str] = []
    bodies = [(body, housing) for end, body, housing in places.housings() if end.id == end_id]
    for body, housing in bodies:
        if housing.seal == "gland":
            nut = add(
                f"nut {body.id}",
                "thread",
                None,
                "Thread the gland nut on, its thread towards the cut.",
                housing.id,
                told="A nut forgotten means cutting the end off.",
            )
            threaded_on_cable.append(
                add(
                    f"gland {body.id}",
                    "thread",
                    None,
                    "Then the gland seal, its cone towards the nut.",
                    housing.id,
                    [nut],
                    "Forgotten, the end comes off again.",
                )
            )
        if housing.seal == "grommet":
            threaded_on_cable.append(
                add(
                    f"grommet {body.id}",
                    "thread",
                    None,
                    "Thread the wires through the rear cover and grommet.",
                    housing.id,
                    told="The grommet can’t go on after the contacts.",
                )
            )
    jackets: dict[str, list[str]] = {}
    for cable in dict.fromkeys(one.wire.cable for one in here if one.wire.cable):
        cut = next((one for one in cable_strips(results, cable) if one.end == end_id), None)
        if cut is None:
            continue
        peeled: list[str] = [
            add(
                f"jacket {cable}",
                "strip",
                None,
                f"Jacket off {tenths(cut.jacket_back_mm)} mm, no core nicked.",
                "",
                threaded_on_cable,
            )
        ]
        if cut.screen != "none":
            text = f"Fold the {cut.screen} back {tenths(cut.screen_mm)} mm over the jacket{', foil off' if cut.foil else ''}."
            peeled.append(add(f"screen {cable}", "fold", None, text, "", peeled))
        if cut.filler:
            peeled.append(add(f"filler {cable}", "strip", None, "Filler cut off at the jacket.", "", peeled))
        if cut.drain_mm:
            text = f"Sleeve over the bare drain, {tenths(max(cut.drain_mm - 3.0, 0.0))} mm."
            peeled.append(add(f"drain {cable}", "sleeve", None, text, "", peeled))
        jackets[cable] = peeled
    inserted: list[str] = []
    ordered = sorted(here, key=lambda one: (-_reach(one), one.wire.id))
    practice = results.design.project.practice
    if practice.drain != "reach":
        ordered = sorted(ordered, key=lambda one: (_is_drain(one) == (practice.drain == "last"),))
    for one in ordered:
        fitting, key = known.of(one), f"{one.wire.id} {one.side}"
        threaded = [*threaded_on_cable, *jackets.get(one.wire.cable or "", [])]
        for what, kind, text in (
            (fitting.boot, Boot, "Slide the boot on, its mouth towards the end."),
            (fitting.shrink, Shrink, "Slide the shrink on, well back from the heat."),
            (fitting.seal, Seal, "Thread the seal on, its neck towards the end."),
        ):
            part = shelf.get(what, kind)
            if part is not None:
                threaded.append(
                    add(
                        f"{key} thread {kind.__name__.lower()}",
                        "thread",
                        one,
                        f"{one.wire.id}: {text}",
                        part.id,
                        told="It can’t go on after the crimp.",
                    )
                )
        made = strip_of(results, one)
        if made is None:
            continue
        strip = add(
            f"{key} strip",
            "strip",
            one,
            f"{one.wire.id}: strip {tenths(made.strip_mm)} mm; no nick, no strand lost.",
            made.part,
            threaded,
        )
        part = shelf.named(fitting.part)
        last = strip
        if isinstance(part, Contact | Lug | Splice):
            solder = isinstance(part, Contact) and part.barrel == "solder"
            height = (
                f" to {made.crimp_height_mm:.2f} ± {made.crimp_plus_minus_mm:g} mm"
                if made.crimp_height_mm and isinstance(part, Contact)
                else ""
            )
            die = f", die {made.die}" if made.die else ""
            verb = "solder the tail" if solder else f"crimp {part.name}{height}"
            last = add(
                f"{key} crimp",
                "solder" if solder else "crimp",
                one,
                f"{one.wire.id}: {verb} ({made.tool}{die})." if made.tool else f"{one.wire.id}: {verb}.",
                part.id,
                [strip],
            )
            last = add(
                f"{key} look",
                "look",
                one,
                f"{one.wire.id}: wire fills the barrel, no insulation in it, no strand outside; a light tug.",
                part.id,
                [last],
            )
            if practice.solder == "flow" and not solder and isinstance(part, Lug | Splice):
                last = add(
                    f"{key} flow",
                    "solder",
                    one,
                    f"{one.wire.id}: flow solder into the crimp; support the wire past the wick.",
                    part.id,
                    [last],
                )
        elif shelf.get(fitting.ferrule, Ferrule) is not None:
            last = add(
                f"{key} ferrule",
                "crimp",
                one,
                f"{one.wire.id}: press the ferrule on ({made.tool}).",
                fitting.ferrule or "",
                [strip],
            )
        if one.made in ("contact", "clamp"):
            text = (
                "insert until it clicks, then a tug." if one.made == "contact" else "every strand in, tighten, a tug."
            )
            before = inserted[-1:] if _reach(one) > 0 else []
            inserted.append(
                add(
                    f"{key} insert",
                    "insert",
                    one,
                    f"{one.wire.id} into {one.label}: {text}",
                    made.part,
                    [last, *before],
                )
            )
            last = inserted[-1]
        elif isinstance(part, Lug):
            shrink = shelf.get(fitting.shrink, Shrink)
            if shrink is not None:
                last = add(
                    f"{key} shrink",
                    "shrink",
                    one,
                    f"{one.wire.id}: shrink over barrel and insulation, the flat bare.",
                    shrink.id,
                    [last],
                )
            inserted.append(last)
    for body, housing in bodies:
        closed = known.blanks.get((end_id, body.id), ())
        after = list(inserted)
        if closed:
            after.append(
                add(
                    f"plugs {body.id}",
                    "plug",
                    None,
                    f"Blanking plugs into {', '.join(closed[:12])}{' …' if len(closed) > 12 else ''}.",
                    housing.plug or "",
                    inserted,
                )
            )
        for number, text in enumerate(housing.assembly, 1):
            after.append(add(f"assemble {body.id} {number}", "assemble", None, text, housing.id, after))
        if housing.lock:
            after.append(
                add(
                    f"lock {body.id}",
                    "lock",
                    None,
                    "Secondary lock home, after all contacts.",
                    housing.id,
                    after,
                    "It doesn’t go in while a contact isn’t seated: never force it.",
                )
            )
        if housing.seal == "gland":
            add(f"close {body.id}", "torque", None, "Body together, gland nut tight on the jacket.", housing.id, after)
    sorter = TopologicalSorter({name: set(step.after) for name, step in steps.items()})
    place = {name: at for at, name in enumerate(steps)}
    done: list[Step] = []
    sorter.prepare()
    ready = sorted(sorter.get_ready(), key=place.__getitem__)
    while ready:
        name = ready.pop(0)
        done.append(steps[name])
        sorter.done(name)
        ready = sorted([*ready, *sorter.get_ready()], key=place.__getitem__)
    return done


def _reach(one: WireEnd) -> float:
    """How far inside the face a cavity is: middle ones first, while they can be got at; 0 on the rim or where unknown."""
    if one.housing is None or one.place is None:
        return 0.0
    far = max((cavity.x_mm**2 + cavity.y_mm**2) ** 0.5 for cavity in one.housing.cavities)
    return float(far - (one.place.x_mm**2 + one.place.y_mm**2) ** 0.5)


def _is_drain(one: WireEnd) -> bool:
    return (one.place is not None and one.place.role == "drain") or one.label.lower() == "drain"
