"""A few steps of the monkey in each run; ./umber monkey plays for minutes."""

from pathlib import Path

import pytest

from attack.monkey import play

STEPS = 24


@pytest.mark.parametrize("seed", [11, 12])
def test_the_window_bears_a_monkey(qapp, tmp_path: Path, seed: int, qtlog) -> None:
    folder = tmp_path / "files"
    folder.mkdir()
    with qtlog.disabled():  # the desktop's own remarks on odd keys
        monkey, bugs = play(lambda one: one.steps >= STEPS, seed, folder, slow_s=100)
    assert not bugs, (bugs, list(monkey.done))
    assert not monkey.broken, (monkey.broken, list(monkey.done))
    assert monkey.steps == STEPS
