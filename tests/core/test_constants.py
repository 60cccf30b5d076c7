"""Constants in the code against what they were taken from: standards by number, a law of physics, or that shares of one
whole come to it. A figure that is nobody's but ours isn't here: what it does is tested where it is used."""

from __future__ import annotations

import math

import pytest

from umber_trunk.core.board.sheets import SIZES
from umber_trunk.core.make.measuring import PULL_CONTACT_N, PULL_LUG_N
from umber_trunk.core.physics.damage import VEHICLE_CLASSES_C, VEHICLE_HOURS
from umber_trunk.core.physics.fuses import BLADE_A
from umber_trunk.core.physics.heat import METAL_W_MK
from umber_trunk.core.prove import belief, priors, starved


def test_sheets_are_those_of_the_standard() -> None:
    """ISO 216: A0 has a square metre, sides as 1 to √2, each next is half of it, whole mm below. ANSI Y14.1: 8.5 by 11
    inches."""
    wide, tall = 1000 * 2**0.25, 1000 / 2**0.25
    for name in ("a0", "a1", "a2", "a3", "a4"):
        assert SIZES[name] == (round(wide), round(tall)) or SIZES[name] == (math.floor(wide), math.floor(tall)), name
        wide, tall = tall, SIZES[name][0] / 2
    assert SIZES["letter"] == pytest.approx((11 * 25.4, 8.5 * 25.4))


def test_pull_forces_are_those_of_the_standard() -> None:
    """IEC 60352-2, table of the least pull-out forces of crimped connections, mm² → N."""
    table = {0.22: 28, 0.32: 40, 0.5: 60, 0.75: 85, 1: 108, 1.5: 150, 2.5: 230, 4: 310, 6: 360, 10: 380}
    assert table == PULL_CONTACT_N


def test_lugs_hold_what_the_standard_asks() -> None:
    """UL 486A-486B, pull-out of wire connectors, gauge → lbf; a gauge is π/4·(0.127 mm·92^((36 − n)/39))² (ASTM B258),
    a pound 4.4482 N."""
    table = {22: 8, 20: 13, 18: 20, 16: 30, 14: 50, 12: 70, 10: 80, 8: 90, 6: 100, 4: 140, 2: 180, 1: 200, 0: 250, -1: 300, -2: 350, -3: 450}  # fmt: skip
    areas = [math.pi / 4 * (0.127 * 92 ** ((36 - gauge) / 39)) ** 2 for gauge in table]
    assert list(PULL_LUG_N) == pytest.approx(areas, rel=1e-4)
    assert list(PULL_LUG_N.values()) == pytest.approx([4.4482 * lbf for lbf in table.values()], rel=1e-4)


def test_jackets_age_by_the_classes_of_the_standard() -> None:
    """ISO 6722-1 and ISO 19642: classes A to F; 3 000 h at the class, 240 h 25 K above, 6 h 50 K above."""
    assert VEHICLE_CLASSES_C == (85, 100, 125, 150, 175, 200)
    assert sorted(VEHICLE_HOURS) == [(6, 50), (240, 25), (3000, 0)]


def test_blade_fuses_have_the_ratings_of_the_standard() -> None:
    """ISO 8820-3, rated currents of blade fuses."""
    assert BLADE_A == (1, 2, 3, 4, 5, 7.5, 10, 15, 20, 25, 30, 35, 40)


@pytest.mark.parametrize(("metal", "ohm_m"), [("copper", 1.7241e-8), ("tinned", 1.7241e-8), ("aluminium", 2.8264e-8)])
def test_metals_lead_heat_as_they_lead_current(metal: str, ohm_m: float) -> None:
    """Wiedemann and Franz: λ = L·T/ρ with L = 2.44e-8 W·Ω/K²; real metals a little below (IEC 60028, IEC 60889)."""
    assert 0.88 < METAL_W_MK[metal] / (2.44e-8 * 293.15 / ohm_m) < 1.0


def test_shares_come_to_the_whole() -> None:
    for shares in (starved.MET.values(), belief.VAGUE, priors.STEPS.values()):
        assert sum(shares) == pytest.approx(1.0, abs=1e-9)
    assert sum(priors.MANY) == pytest.approx(1.0, abs=2e-4)  # five faults at once aren't looked for
    assert all(more == pytest.approx(10 * fewer) for more, fewer in zip(priors.MANY, priors.MANY[1:], strict=False))
