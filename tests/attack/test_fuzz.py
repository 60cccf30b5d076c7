"""Some cases of every fuzzer in each run; ./umber fuzz runs a hundred thousand."""

import pytest

from attack.fuzz import FUZZERS, run


@pytest.mark.parametrize("name", FUZZERS)
@pytest.mark.share(3)
def test_nothing_breaks(name: str, qtlog) -> None:
    with qtlog.disabled():  # Qt’s own remarks on pictures that are none
        assert run(150 if FUZZERS[name][1] > 5 else 40, 7, (name,)) == []
