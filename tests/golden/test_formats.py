"""What is published of the formats other programs read: every field, its limits and what it is where it is left out."""

import json
import os
from pathlib import Path

import pytest

from golden.worlds import differing
from umber_trunk.cli.main import main

FOLDER = Path(__file__).parents[2] / "docs/schema"
PUBLISHED = {"design": "harness", "catalogue": "catalogue", "log": "log", "shop": "shop"}


@pytest.mark.parametrize("of", PUBLISHED)
def test_a_format_is_as_it_is_published(of: str, capsys: pytest.CaptureFixture[str]) -> None:
    path = FOLDER / f"{PUBLISHED[of]}.schema.json"
    assert main(["schema", of]) == 0
    now = capsys.readouterr().out
    if os.environ.get("UMBER_GOLDEN") == "write":
        path.write_text(now, encoding="utf-8")
    assert not differing(json.loads(path.read_text("utf-8")), json.loads(now), of, 0)
