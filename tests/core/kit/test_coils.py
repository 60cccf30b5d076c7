"""Cutting coils: never more than a coil holds, nothing lost, as good as trying every way."""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import Bounds, LinearConstraint, milp

from demos import worked_out
from long_runs import LONG
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import EditError, InputError, Stopped
from umber_trunk.core.kit.coilcut import MOST_COILS, CutPlan, enough_coils, plan_cuts, tenths_up
from umber_trunk.core.kit.coils import Coil, Piece, same_size, suits
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.kit.substitute import decided, substitute, take_back
from umber_trunk.core.kit.tables import cut_rows
from umber_trunk.core.lengths.wire_lengths import wire_lengths


def made(lengths: list[float], size: str = "1 mm2", colour: str = "red") -> list[Piece]:
    return [Piece(f"W{at}", 1, size, "copper", colour, length) for at, length in enumerate(lengths)]


def checked(plan: CutPlan, coils: list[Coil], wanted: list[Piece]) -> None:
    """Walks a plan without the program's own sums."""
    by_id = {coil.id: coil for coil in coils}
    assert sorted(c.piece.wire for c in plan.cuts) + sorted(p.wire for p in plan.short) != []
    assert sorted([c.piece.wire for c in plan.cuts] + [p.wire for p in plan.short]) == sorted(p.wire for p in wanted)
    waste = 0.0
    for coil in coils:
        here = sorted((c for c in plan.cuts if c.coil == coil.id), key=lambda c: c.at_m)
        at = 0.0
        for cut in here:
            assert suits(by_id[cut.coil], cut.piece)
            assert cut.at_m == pytest.approx(at, abs=1e-6)
            at += cut.piece.length_m
        assert at <= coil.length_m + 1e-6
        assert plan.left_m[coil.id] == pytest.approx(coil.length_m - at, abs=2e-4)
        if here and coil.length_m - at < plan.usable_m - 1e-6:
            waste += coil.length_m - at
    assert plan.waste_m == pytest.approx(waste, abs=1e-3)
    assert plan.bound_m <= plan.waste_m + 1e-9


def brute(coils: list[Coil], wanted: list[Piece], usable: float) -> tuple[int, float]:
    """The fewest short and then the least waste, by trying every way."""
    best = (len(wanted), 0.0)
    for way in itertools.product(range(-1, len(coils)), repeat=len(wanted)):
        rest = [round(coil.length_m * 1000) for coil in coils]
        for piece, coil in zip(wanted, way, strict=True):
            if coil >= 0:
                rest[coil] -= round(piece.length_m * 1000) if suits(coils[coil], piece) else 10**9
        if min(rest) < 0:
            continue
        waste = sum(r / 1000 for at, r in enumerate(rest) if at in way and r < usable * 1000)
        best = min(best, (way.count(-1), round(waste, 6)))
    return best


@pytest.mark.parametrize("seed", range(24))
def test_small_shelves_are_cut_as_well_as_trying_every_way(seed: int) -> None:
    draw = random.Random(seed)
    coils = [Coil(f"C{n}", "1 mm2", draw.randint(8, 40) / 10, "", draw.choice(["", "red", "blue"])) for n in range(3)]
    wanted = [
        Piece(f"W{n}", 1, "1 mm2", "copper", draw.choice(["red", "blue"]), draw.randint(3, 19) / 10)
        for n in range(draw.randint(2, 6))
    ]
    plan = plan_cuts(coils, wanted, 0.5)
    checked(plan, coils, wanted)
    assert (len(plan.short), round(plan.waste_m, 4)) == pytest.approx(brute(coils, wanted, 0.5), abs=1e-3)


def piece_by_piece(
    coils: list[Coil], wanted: list[Piece], usable: float, short: int | None, waste: float | None
) -> float:
    """Another model of the same question, a variable for each piece on each coil, solved to the end: the fewest short;
    or, with that many, the least waste; or, with that much, the fewest coils."""
    n, m = len(wanted), len(coils)
    pairs = [
        (p, c)
        for p in range(n)
        for c in range(m)
        if suits(coils[c], wanted[p]) and coils[c].length_m >= wanted[p].length_m - 1e-9
    ]
    size = len(pairs) + 3 * m
    rows, low, high = [], [], []

    def add(entries: dict[int, float], least: float, most: float) -> None:
        row = np.zeros(size)
        for at, value in entries.items():
            row[at] = value
        rows.append(row)
        low.append(least)
        high.append(most)

    for p in range(n):
        add({at: 1.0 for at, pair in enumerate(pairs) if pair[0] == p}, 0, 1)
    for c in range(m):
        used, open_, kept, lost = (
            {at: wanted[p].length_m for at, (p, on) in enumerate(pairs) if on == c},
            *(len(pairs) + k * m + c for k in range(3)),
        )
        room = coils[c].length_m
        add({**used, open_: -room}, -np.inf, 1e-9)
        add({**{at: -v for at, v in used.items()}, open_: room, kept: -usable}, -1e-9, np.inf)
        add({**{at: -v for at, v in used.items()}, open_: room, kept: -room, lost: -1}, -np.inf, 1e-9)
        add({open_: 1, kept: -1}, 0, np.inf)
    cost = np.zeros(size)
    if short is None:
        cost[: len(pairs)] = -1
    else:
        add(dict.fromkeys(range(len(pairs)), 1.0), n - short, n)
        cost[len(pairs) + 2 * m if waste is None else len(pairs) :][:m] = 1
    if waste is not None:
        add(dict.fromkeys(range(len(pairs) + 2 * m, size), 1.0), 0, waste + 1e-6)
    whole = np.concatenate([np.ones(len(pairs) + 2 * m), np.zeros(m)])
    top = np.concatenate([np.ones(len(pairs) + 2 * m), np.full(m, usable)])
    found = milp(
        cost,
        integrality=whole,
        bounds=Bounds(0, top),
        constraints=LinearConstraint(np.array(rows), low, high),
        options={"time_limit": 120},
    )
    assert found.status in (0, 1)
    return n + found.mip_dual_bound if short is None else float(found.fun) if found.x is not None else np.inf


@pytest.mark.timeout(7200 if LONG else 120)
def test_no_bound_is_false_and_shortages_are_proven() -> None:
    """Shelves of 0.6 to 1.2 of the need against a model with a variable a piece: what is claimed to be the least is
    never undercut; in 95 of 100 the shortage is proven, the rest are within one piece."""
    proven = of = 0
    for number in range(200 if LONG else 10):
        draw = random.Random(number)
        colours = ["red", "blue", "black"][: draw.randint(1, 3)]
        count = draw.randint(6, 60 if LONG else 14)
        wanted = [
            Piece(
                f"W{n}", 1, "1 mm2", "copper", draw.choice(colours), round(draw.uniform(0.2, 6), draw.choice((1, 2, 3)))
            )
            for n in range(count)
        ]
        shares = [draw.uniform(0.2, 2) for _ in range(draw.randint(2, 12 if LONG else 5))]
        whole = draw.choice((0.6, 0.75, 0.9, 1.0, 1.05, 1.2)) * sum(p.length_m for p in wanted)
        coils = [
            Coil(f"C{n}", "1 mm2", max(0.3, round(whole * x / sum(shares), 2)), "", draw.choice([*colours, ""]))
            for n, x in enumerate(shares)
        ]
        plan = plan_cuts(coils, wanted)
        checked(plan, coils, wanted)
        short = len(plan.short)
        of += 1
        proven += short == plan.short_bound
        assert plan.short_bound <= short <= plan.short_bound + 1
        assert ("by any plan" in plan.told_short) == (0 < short == plan.short_bound)
        if count <= 14:  # where the other model comes to its end
            assert short == round(piece_by_piece(coils, wanted, 0.5, None, None))
            least = piece_by_piece(coils, wanted, 0.5, short, None)
            assert plan.bound_m <= least + 1e-3
            if plan.waste_m <= least + 1e-3:
                assert plan.opened_bound <= piece_by_piece(coils, wanted, 0.5, short, plan.waste_m) + 1e-6
        again = plan_cuts(draw.sample(coils, len(coils)), draw.sample(wanted, len(wanted)))
        assert {(cut.coil, cut.at_m, cut.piece.wire) for cut in again.cuts} == {
            (cut.coil, cut.at_m, cut.piece.wire) for cut in plan.cuts
        }
    assert proven >= 0.95 * of, (proven, of)


@pytest.mark.parametrize("seed", range(10))
@pytest.mark.share(5)
def test_generated_shelves_hold_their_bound(seed: int) -> None:
    """A shelf with a fifth to spare: nothing runs short and the waste is that of the bound."""
    draw = random.Random(seed)
    wanted = made([round(draw.uniform(0.1, 6), 3) for _ in range(draw.randint(20, 300))])
    shares = [draw.uniform(0.3, 3) for _ in range(draw.randint(3, 40))]
    total = 1.2 * sum(p.length_m for p in wanted)
    coils = [Coil(f"C{n}", "1 mm2", max(round(total * x / sum(shares), 3), 7.0)) for n, x in enumerate(shares)]
    plan = plan_cuts(coils, wanted)
    checked(plan, coils, wanted)
    assert not plan.short
    assert plan.proven
    assert plan.opened_bound <= len(plan.opened) <= 1.25 * plan.opened_bound + 1


@given(
    st.lists(st.integers(1, 400), min_size=1, max_size=30), st.lists(st.integers(1, 900), min_size=1, max_size=8),
    st.sampled_from([0.0, 0.3, 0.5, 2.0]),
)  # fmt: skip
def test_nothing_is_lost_or_cut_twice(lengths: list[int], rooms: list[int], usable: float) -> None:
    coils = [Coil(f"C{n}", "1 mm2", room / 100) for n, room in enumerate(rooms)]
    wanted = made([length / 100 for length in lengths])
    checked(plan_cuts(coils, wanted, usable, nodes=100), coils, wanted)


def test_a_shelf_of_very_many_coils_loses_none_that_is_needed() -> None:
    """Twenty thousand coils of thirty kinds: every kind that is wanted is found, the one offcut that fits to nothing
    too."""
    draw = random.Random(3)
    sizes = [f"{n} mm2" for n in (0.5, 0.75, 1, 1.5, 2.5, 4)]
    coils = [
        Coil(f"C{n}", draw.choice(sizes), draw.uniform(0.6, 90), "", draw.choice(["red", "blue", "grey", "black", ""]))
        for n in range(19_999)
    ]
    coils.append(Coil("rare", "6 mm2", 2.0, "", "pink"))
    wanted = [
        Piece("P", 1, "6 mm2", "copper", "pink", 2.0),
        *(Piece(f"W{n}", 1, size, "copper", "red", 5.0) for n, size in enumerate(sizes * 20)),
    ]
    plan = plan_cuts(coils, wanted)
    assert not plan.short
    assert plan.waste_m == 0
    assert {cut.coil for cut in plan.cuts if cut.piece.wire == "P"} == {"rare"}


def test_a_wire_is_never_joined_from_two_coils() -> None:
    plan = plan_cuts([Coil("a", "1 mm2", 3.0), Coil("b", "1 mm2", 3.0)], made([4.0]))
    assert [piece.wire for piece in plan.short] == ["W0"]
    assert "longest coil has 3.000 m" in plan.reasons["W0"]
    assert plan.opened == ()
    assert plan.short_bound == 1


def test_offcuts_go_first_and_their_rest_is_kept_or_gone() -> None:
    coils = [Coil("drum", "1 mm2", 100.0), Coil("offcut", "1 mm2", 2.0)]
    assert plan_cuts(coils, made([2.0])).opened == ("offcut",)  # nothing is left of it
    assert plan_cuts(coils, made([1.7])).opened == ("drum",)  # 0.3 m would be waste
    assert plan_cuts(coils, made([1.7]), 0.2).opened == ("offcut",)


def test_metal_and_colour_left_blank_fit_any_and_others_only_themselves() -> None:
    piece = made([1.0], colour="Red / White")[0]
    assert suits(Coil("c", "1 mm2", 1, "copper", "red/white"), piece)
    assert suits(Coil("c", "1.0 mm2", 1), piece)
    assert not suits(Coil("c", "1 mm2", 1, "tinned"), piece)
    assert not suits(Coil("c", "1 mm2", 1, "", "red"), piece)
    assert not same_size("AWG 20", "0.5 mm2")
    assert not same_size("tray", "wood")


def test_work_that_nobody_waits_for_stops() -> None:
    with pytest.raises(Stopped):
        plan_cuts([Coil("a", "1 mm2", 3.0)], made([1.0]), wanted=lambda: False)


def test_pieces_are_the_wires_of_every_unit_and_cables_whole() -> None:
    """Cores of a jacketed cable come off the reel together, as long as the longest of them."""
    results = worked_out("shore")
    todo = pieces(results, 3)
    wires = {wire.id: wire for wire in results.design.wires}
    cables = {cable.id: cable.part for cable in results.design.cables if cable.part}
    single = [row for row in results.once(cuts) if row.wire.cable not in cables]
    assert len(todo) == 3 * (sum(row.count for row in single) + len(cables))
    lengths = results.once(wire_lengths)
    for name, part in cables.items():
        mine = [piece for piece in todo if piece.wire == name]
        assert {piece.unit for piece in mine} == {1, 2, 3}
        assert {piece.size for piece in mine} == {part}
        assert mine[0].length_m == max(lengths[w].cut_m for w in wires if wires[w].cable == name)
    with pytest.raises(InputError, match="0 units"):
        pieces(results, 0)


def test_another_size_is_a_decision_with_a_name_and_on_the_papers() -> None:
    design = demo("barge")
    row = analyse(design).once(cuts)[-1]
    for wrong, told in (
        ({"who": ""}, "who decides"),
        ({"who": "mate", "size": "0.35 mm2"}, "thinner"),
        ({"who": "mate"}, "already"),
    ):
        with pytest.raises(EditError, match=told):
            substitute(design, row.wire.id, row.size, **wrong)  # type: ignore[arg-type]
    made_of = substitute(design, row.wire.id, row.size, "4 mm2", "grey/white", "Mara", "out of stock")
    mark = str(decided(made_of, row.wire.id))
    assert mark.startswith(f"in place of {row.size.replace('mm2', 'mm²')}")
    assert "Mara: out of stock" in mark
    found = next(r for r in analyse(made_of).once(cuts) if r.wire.id == row.wire.id)
    assert (found.size, found.colour) == ("4 mm2", "grey/white")
    assert any(mark in str(cell) for line in cut_rows(analyse(made_of)) for cell in line)
    twice = substitute(made_of, row.wire.id, "4 mm2", "6 mm2", "", "Mara")
    assert twice.decisions[0].was == made_of.decisions[0].was
    assert len(twice.decisions) == 1
    assert take_back(twice, row.wire.id).decisions == ()


def test_of_very_many_coils_the_longest_and_the_shortest_that_help_are_looked_at() -> None:
    coils = [Coil(f"C{n}", "1 mm2", n / 100 + 0.5) for n in range(5 * MOST_COILS)]
    room = [round(coil.length_m * 10_000) for coil in coils]
    mine = list(range(len(coils)))
    kept = enough_coils(mine, coils, room, room[100])
    assert kept == [*range(100, 100 + MOST_COILS), *range(4 * MOST_COILS, 5 * MOST_COILS)]
    assert enough_coils(mine[:50], coils, room, room[100]) == [
        0
    ]  # where none helps one is looked at, and it is said to be too short


@pytest.mark.parametrize("metres", [0.1, 0.12345, 1.99995, 2.0, 3.00001, 7.3, 0.00004])
def test_tenths_of_a_millimetre_never_fall_short(metres: float) -> None:
    assert tenths_up(metres) / 10_000 >= metres - 1e-9
    assert tenths_up(metres) / 10_000 < metres + 1e-4
