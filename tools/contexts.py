"""A plugin for pytest: tells coverage which test is running. Its own way names the innermost function that is called
test…, which inside a property test is the property library's."""

from __future__ import annotations

from collections.abc import Iterator

import coverage
import pytest


@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Iterator[None]:
    """Everything from set-up to tear-down counts as this test's."""
    running = coverage.Coverage.current()
    if running is not None:
        running.switch_context(f"{item.path.stem}.{getattr(item, 'originalname', item.name)}")
    return (yield)
