"""What the normal run leaves to `./umber test --long`."""

import os
from collections import Counter

import pytest

LONG = "UMBER_KILL_ROUNDS" in os.environ or os.environ.get("UMBER_GOLDEN") == "write"


def shortened(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Leaves out tests marked `long`, and of those marked `share(n)` keeps each n-th of their cases; all are run where
    tests are named singly."""
    if LONG or any("::" in arg for arg in config.args):
        return
    kept, left, seen = list[pytest.Item](), list[pytest.Item](), Counter[str]()
    for item in items:
        share, name = item.get_closest_marker("share"), item.nodeid.partition("[")[0]
        many = share.args[0] if share else 1
        (left if item.get_closest_marker("long") or seen[name] % many else kept).append(item)
        seen[name] += 1
    config.hook.pytest_deselected(items=left)
    items[:] = kept
