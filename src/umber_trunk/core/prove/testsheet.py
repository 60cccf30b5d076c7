"""The test list as values for paper and CSV."""

from __future__ import annotations

from umber_trunk.core.kit.tables import decision_tables
from umber_trunk.core.printed import TICK, PaperTable, Printed
from umber_trunk.core.prove.checklist import Test, test_volts
from umber_trunk.core.prove.netlist import netlist
from umber_trunk.core.prove.plan import test_plan
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import heads, say
from umber_trunk.core.units import show_ohms


def test_rows(results: Results) -> list[list[str | int | float | None]]:
    """The list as a table."""
    rows: list[list[str | int | float | None]] = [["n", "kind", "from", "to", "expect", "low", "high", "unit", "what"]]
    return rows + [
        [t.n, t.kind, t.a, t.b, t.expect, t.low, t.high, t.unit, str(t.text)] for t in results.once(test_plan).tests
    ]


def band_text(test: Test) -> str:
    """The band a reading has to be in, as it is printed."""
    if not test.unit:
        return ""
    if test.low is not None and test.high is not None:
        return say("band.between", low=show(test.low, test.unit), high=show(test.high, test.unit))
    return (
        say("band.at-least", low=show(test.low, test.unit))
        if test.low is not None
        else say("band.at-most", high=show(test.high or 0.0, test.unit))
    )


def show(value: float, unit: str) -> str:
    """A reading with the prefix a meter would show it with."""
    return show_ohms(value) if unit == "Ω" else f"{value:.4g} {unit}"


def test_sheet(results: Results) -> Printed:
    """The list with a place for each reading; cautions first."""
    plan = results.once(test_plan)
    rows = tuple((str(t.n), t.kind, str(t.text), band_text(t), "" if t.unit else TICK, "") for t in plan.tests)
    volts = test_volts(results.once(netlist))
    cautions = (
        say("caution.test.insulation", volts=volts),
        say("caution.test.probes"),
        say("caution.test.power"),
    )
    tables = [PaperTable((say("paper.cautions-of-test"),), (1.0,), (), tuple((one,) for one in cautions))]
    tables += decision_tables(results.design)
    tables.append(
        PaperTable(heads("no", "test", "what", "band", "read", "by"), (0.05, 0.1, 0.5, 0.19, 0.1, 0.06), (0,), rows)
    )
    state = say(
        "paper.test-state",
        tests=len(plan.tests),
        nets=plan.nets,
        box=plan.shorts_box,
        hand=plan.shorts_hand,
        minutes=plan.seconds / 60,
    )
    return Printed(say("paper.test-sheet-of", name=results.design.project.name), state, True, tuple(tables))
