"""The demos worked out once for all tests of a worker: results are values that many may ask."""

from __future__ import annotations

from functools import cache

from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import demo
from umber_trunk.core.results import Results


@cache
def worked_out(name: str) -> Results:
    """The results of a demo, with the parts that ship."""
    return analyse(demo(name))
