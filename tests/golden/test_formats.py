"""What is published: of the formats other programs read every field, its limits and what it is where it is left out;
every figure that is taken for granted."""

import csv
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


def test_what_is_taken_for_granted_is_as_it_is_published(capsys: pytest.CaptureFixture[str]) -> None:
    path = FOLDER.parent / "assumed.csv"
    assert main(["assumed", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)["figures"]
    if os.environ.get("UMBER_GOLDEN") == "write":
        with path.open("w", newline="", encoding="utf-8") as file:
            table = csv.DictWriter(file, rows[0], lineterminator="\n")
            table.writeheader()
            table.writerows(rows)
    with path.open(newline="", encoding="utf-8") as file:
        kept = {f"{row['module']}:{row['name']}": row for row in csv.DictReader(file)}
    now = {f"{row['module']}:{row['name']}": row for row in rows}
    assert not differing(kept, now, "assumed", 0)
    silent = [at for at, row in now.items() if not row["says"] and row["name"].isupper() and row["name"][0] != "_"]
    assert not silent, "say under each what it means"
