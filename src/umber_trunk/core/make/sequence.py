"""The order of work: batch by operation with few tool changes, or wire by wire; its bound; and who does what when.

A tool change is a change of tool or setting between two steps that have a tool. No order can do with fewer than the
bound: every tool and setting has to be taken up once, again where a chain of "before" leaves it and comes back, and
once more in every ring of tools that each wait for another.
"""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.make.dealing import timed
from umber_trunk.core.make.graph import MOST_STEPS, Graph, once
from umber_trunk.core.make.operations import operations
from umber_trunk.core.make.timed import SCHOOLS, Order
from umber_trunk.core.make.times import Times
from umber_trunk.core.results import Results


def plan_order(
    results: Results,
    units: int | Sequence[int] = 1,
    school: str = "",
    hands: int = 1,
    times: Times | None = None,
    wanted: Wanted = always,
) -> Order:
    """The order for so many units, or for units of these numbers. `school` "" is the project's. InputError for what
    can't be planned."""
    numbers = tuple(range(1, units + 1)) if isinstance(units, int) else tuple(dict.fromkeys(units))
    if not numbers or min(numbers) < 1 or max(numbers) > 10_000:
        raise InputError.of("make.units-out-of-range")
    if not 1 <= hands <= 20:
        raise InputError.of("make.hands-out-of-range")
    school = school or results.design.project.practice.batch
    if school not in SCHOOLS:
        raise InputError.of("make.no-way-to-batch", school=school, known=" or ".join(SCHOOLS))
    ops = results.once(operations)
    if len(ops) * len(numbers) > MOST_STEPS:
        raise InputError.of("make.steps-are-too-many-to-plan", count=len(ops) * len(numbers))
    times = times or Times()
    graph = results.once(_graph)
    bound = graph.bound
    if school == "operation":
        line = []
        for block in graph.blocks(graph.sequence(bound, wanted)):
            line += [(at, numbers[0]) for at in block if once(ops[at], school)]
            line += [(at, unit) for unit in numbers for at in block if not once(ops[at], school)]
    else:
        line = graph.by_wire(numbers)
    go_on_if(wanted)
    return timed(results, graph, line, numbers, school, hands, times, bound)


def _graph(results: Results) -> Graph:
    return Graph(results.once(operations))
