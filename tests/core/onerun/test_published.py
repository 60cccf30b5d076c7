"""What is reckoned here beside published tables; the tables are data, these are their sums by hand and what must not
slip."""

from __future__ import annotations

import math

import pytest

from umber_trunk.cli.main import main
from umber_trunk.core.onerun import published
from umber_trunk.core.onerun.published import beside
from umber_trunk.core.physics import constants, fuses
from umber_trunk.core.usual import USUAL_DROP_PERCENT


def test_every_figure_lies_as_near_its_table_as_it_says() -> None:
    rows = beside()
    assert len(rows) > 150
    assert not [(row.table, row.what, round(row.off, 3)) for row in rows if not row.agrees]
    assert {row.side for row in rows if not row.currents} == {""}


def test_the_tables_hold_what_their_standards_say() -> None:
    """Rows of each as they stand in print, typed a second time; AWG by its own formula (ASTM B258)."""
    told = {(row.table, row.what): row.published for row in beside()}
    for gauge in (24, 16, 10, 4):
        assert told["awg", f"AWG {gauge}"] == pytest.approx(
            math.pi / 4 * (0.127 * 92 ** ((36 - gauge) / 39)) ** 2, rel=2e-3
        )
    assert told["free-air-awg", "AWG 10, 60 °C"] == 40
    assert told["free-air-awg", "AWG 4/0, 90 °C"] == 405
    assert told["free-air-metric", "35 mm2, 90 °C"] == 226
    assert told["grouping", "7 wires"] == 0.54
    assert told["boat-bunch-7", "AWG 10, 105 °C"] == 0.5 * told["boat-single", "AWG 10, 105 °C"] == 30
    assert [told["pull-contact", f"{mm2} mm2"] for mm2 in ("0.22", "0.5", "1", "2.5", "10")] == [28, 60, 108, 230, 380]
    assert [told["pull-lug", f"AWG {gauge}"] for gauge in ("22", "10", "1/0", "4/0")] == [8, 80, 250, 450]
    assert [told["reel", what] for what in ("1 layer", "2 layers", "3 layers", "4 layers")] == [0.85, 0.65, 0.45, 0.35]


def test_defaults_are_the_usual_ones() -> None:
    """Conventions a builder reckons with: 3 % of drop, 80 % of a fuse less 0.16 % a kelvin over 25 °C (10 A at 85 °C:
    7.04 A), g and σ by CODATA 2018, standard air."""
    assert USUAL_DROP_PERCENT == 3
    assert fuses.continuous_a(10, 25) == pytest.approx(8)
    assert fuses.continuous_a(10, 85) == pytest.approx(10 * (0.8 - 0.0016 * 60))
    assert pytest.approx(5.670374419e-8) == constants.STEFAN_BOLTZMANN
    assert constants.PRESSURE_PA == 101_325


def test_the_shell_shows_them_and_says_which_side(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    assert main(["figures", "boat-bunch-7"]) == 0
    told = capsys.readouterr().out
    assert "7 to 24" in told
    assert "generous" in told
    assert main(["figures", "nothing"]) == 2
    monkeypatch.setitem(published.KINDS, "altitude", lambda _, row: 1 - row["m"] / 10_000)
    assert main(["figures", "altitude"]) == 1
    assert "further off" in capsys.readouterr().out
