"""Fixtures that replace the world: settings, files, a fresh demo. Nothing touches the user's own files."""

from __future__ import annotations

import gc
import logging
import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from long_runs import LONG, shortened
from umber_trunk.core.demo import barge
from umber_trunk.core.harness.model import Design
from umber_trunk.core.needs.enter import enter
from umber_trunk.core.needs.line import parse_need


def pytest_configure(config: pytest.Config) -> None:
    """Each worker that is to have real windows gets a screen of its own: two would fight over the focus. Cycles are
    looked for as seldom as the shell does."""
    gc.set_threshold(50_000, 20, 100)
    if os.environ.get("UMBER_TEST_SCREEN") != "xvfb" or "PYTEST_XDIST_WORKER" not in os.environ:
        return
    reader, writer = os.pipe()
    screen = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writer), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[writer], stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(writer)
    with open(reader) as number:
        display = number.readline().strip()
    assert display, "Xvfb did not start"
    os.environ.update(DISPLAY=f":{display}", QT_QPA_PLATFORM="xcb")
    config.add_cleanup(screen.wait)  # called after
    config.add_cleanup(screen.kill)


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """The normal run is to be short."""
    shortened(config, items)


def pytest_collection_finish() -> None:
    """What is imported by now stays: no search for cycles looks at it again."""
    gc.collect()
    gc.freeze()


settings.register_profile(
    "steady",
    deadline=None,
    max_examples=60 if LONG else 30,
    suppress_health_check=[HealthCheck.too_slow],
    derandomize=True,
)
settings.register_profile("hunt", settings.get_profile("steady"), derandomize=False)
settings.load_profile(os.environ.get("UMBER_TEST_PROFILE", "steady"))


@pytest.fixture(autouse=True)
def _own_config(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("config", "data", "state", "cache"):
        monkeypatch.setenv(f"XDG_{name.upper()}_HOME", str(tmp_path / name))


@pytest.fixture(autouse=True)
def _no_unexpected_logs(caplog: pytest.LogCaptureFixture) -> Iterator[None]:
    yield
    loud = [record for record in caplog.get_records("call") if record.levelno >= logging.WARNING]
    assert not loud, loud


@pytest.fixture(scope="session")
def demo() -> Design:
    """The barge; frozen, so all tests may share it."""
    return barge()


def design_of(*lines: str, start: Design | None = None) -> Design:
    """A design entered line by line, as a user would."""
    design = start or Design()
    for line in lines:
        volts = design.supplies[0].volts if design.supplies else 12.0
        design = enter(design, parse_need(line, volts))
    return design
