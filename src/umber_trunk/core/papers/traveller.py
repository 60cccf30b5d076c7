"""The traveller: the order by handfuls, a box for each piece, so that a unit's work fits on few pages and nothing is
left out."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.kit.substitute import decided
from umber_trunk.core.kit.tables import decision_rows
from umber_trunk.core.make.book import Bag, one_unit
from umber_trunk.core.make.handfuls import READ, Handful, handfuls
from umber_trunk.core.make.operation import caution_told
from umber_trunk.core.make.timed import Order, Timed
from umber_trunk.core.make.told import handful_told, piece_name
from umber_trunk.core.papers.open_faults import standing
from umber_trunk.core.printed import TICK, PaperTable, Part, Printed, table_of
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import heads, say

BLANK = "\u00a0______"


def traveller(results: Results, order: Order | None = None) -> Printed:
    """Every handful with a box for each piece, cautions first. Wires made of something else than planned are marked,
    and listed with who decided."""
    order = order or results.once(one_unit)
    rows = tuple(
        _row(results, many, len(order.units)) for many in _rows(handfuls(order, results.design.project.practice.looks))
    )
    steps = PaperTable(
        heads("", "do", "tool-and-setting", "where", "each-piece", "by"),
        (0.05, 0.31, 0.15, 0.11, 0.35, 0.03),
        (0,),
        rows,
        say("paper.traveller"),
    )
    used = dict.fromkeys(c for step in order.steps for c in step.operation.cautions)
    parts: list[Part] = []
    if (decisions := table_of(decision_rows(results.design), (0.1, 0.2, 0.2, 0.2, 0.3))) is not None:
        parts.append(decisions)
    if used:
        parts.append(PaperTable((say("paper.cautions-of-build"),), (1.0,), (), tuple((caution_told(c),) for c in used)))
    parts.append(steps)
    state = say(
        "paper.traveller-state",
        steps=len(order.steps),
        units=len(order.units),
        handfuls=len(rows),
        changes=order.tool_changes,
        low=order.low_s / 3600,
        high=order.high_s / 3600,
    )
    return Printed(
        say("paper.traveller-of", name=results.design.project.name),
        *standing(results, state),
        tuple(parts),
        code=results.design.project.name,
    )


def _rows(found: Sequence[Handful]) -> list[list[Handful]]:
    """Handfuls that stand in one row: cuts of several lengths, and single pieces of one kind, one after another with
    nothing set up between."""
    rows: list[list[Handful]] = []
    for one in found:
        first, before = one.first, rows[-1][0].first if rows else None
        if (
            before is not None
            and before.sample == first.sample
            and (before.op, before.state, before.place) == (first.op, first.state, first.place)
            and (first.op == "cut" or (first.op in READ and not first.sample and first.text == before.text))
        ):
            rows[-1].append(one)
        else:
            rows.append([one])
    return rows


def _row(results: Results, many: Sequence[Handful], units: int) -> tuple[str, ...]:
    one, first = many[0], many[0].first
    names = {end.id: end.name for end in results.design.ends}
    part = results.shelf.name(first.part) if first.part and results.shelf.named(first.part) is not None else ""
    pieces = [piece for handful in many for piece in handful.pieces]
    single = len(pieces) == 1 and bool(one.singly)
    if first.op == "cut" and len(many) > 1:
        what = (
            say("paper.cut-test-pieces", count=len(pieces))
            if first.sample
            else say("paper.cut-pieces", count=len(pieces))
        )
    else:
        what = handful_told(one, names, part).text if first.sample or not one.singly else first.text
    ticks = "  ".join(f"{TICK}\u00a0{_piece(names, piece, units, results, len(many) > 1)}" for piece in pieces)
    if single:
        ticks = f"{TICK}{BLANK if first.op in READ or first.sample else ''}"
    tool = ", ".join(filter(None, (first.tool, "" if first.setting in what else first.setting)))
    numbers = str(one.n + 1) if len(many) == 1 else f"{one.n + 1}–{many[-1].n + 1}"
    return numbers, f"{what[:1].upper()}{what[1:]}".rstrip("."), tool, first.place, ticks, ""


def _piece(names: dict[str, str], piece: Sequence[Timed], units: int, results: Results, lengths: bool) -> str:
    """A piece by its name, the cavity it goes to, and whether it is made of something else than planned; a blank for
    what is read."""
    one = piece[-1].operation
    name = piece_name(piece, names, units)
    if one.op in ("insert", "tug") and one.cavity:
        name += f"→{one.cavity}"
    if one.op != "cut" and one.wire and decided(results.design, one.wire):
        name += "*"
    if lengths and one.op == "cut" and one.length_m is not None and not one.sample:
        name += f" {1e3 * one.length_m:.0f}"
    return (name + (BLANK if one.op in READ and one.length_m is None else "")).replace(" ", "\u00a0")


def kit_sheets(results: Results, made: Sequence[Bag]) -> list[Printed]:
    """One page for each bag of the kit that others are to build from."""
    sheets = []
    for bag in made:
        parts = PaperTable(
            (*heads("in-the-bag"), "n"), (0.85, 0.15), (1,), tuple((name, str(count)) for name, count in bag.parts)
        )
        steps = PaperTable(
            heads("", "do", "done"),
            (0.06, 0.86, 0.08),
            (0,),
            tuple((str(n), text, TICK) for n, text in enumerate(bag.steps, 1)),
        )
        state = say("paper.bag-state", what=bag.what.replace("mm2", "mm²"), mm=1e3 * bag.cut_m)
        sheets.append(
            Printed(
                say("paper.lead-of", name=results.design.project.name, lead=bag.lead),
                *standing(results, state),
                (parts, steps) if bag.parts else (steps,),
            )
        )
    return sheets
