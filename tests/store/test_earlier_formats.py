"""Files as earlier versions of the program wrote them (`kept/`, made by those versions; beside each what that version
said was in it): every one opens, says the same, and goes on."""

from __future__ import annotations

import gzip
import json
from pathlib import Path

import pytest

from umber_trunk.cli.main import main
from umber_trunk.core.analysis import analyse
from umber_trunk.core.harness.edits import set_project
from umber_trunk.core.harness.formats import FORMAT_VERSION
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.schema import SCHEMA_VERSION

KEPT = sorted((Path(__file__).parent / "kept").glob("*.gz"))


def test_every_format_is_kept() -> None:
    names = [path.name.split("-") for path in KEPT]
    assert {int(name[1]) for name in names} >= set(range(1, FORMAT_VERSION))
    assert {int(name[3].split(".")[0]) for name in names} >= set(range(2, SCHEMA_VERSION))


@pytest.mark.parametrize("kept", KEPT, ids=lambda path: path.name.partition(".")[0])
def test_a_file_of_an_earlier_format(kept: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    said = json.loads(kept.with_name(kept.name.partition(".")[0] + ".json").read_text())
    file = tmp_path / "old.umber"
    file.write_bytes(gzip.decompress(kept.read_bytes()))

    assert main(["log", str(file), "--json"]) == 0
    entries = json.loads(capsys.readouterr().out)
    entries = entries if isinstance(entries, list) else entries["entries"]
    assert [entry["kind"] for entry in entries] == said["kinds"]

    with ProjectFile.open(file) as project:
        assert not project.lost
        design = project.design
        assert {wire.id: wire.size for wire in design.wires} == said["wires"]
        assert len(design.ends) == said["ends"]
        assert said["revisions"] in (None, len(project.revisions()))
        assert set(analyse(design).figures.wires) == set(said["wires"])
        project.commit(set_project(design, name="carried on"), "renamed")
        assert project.undo()
        assert project.design == design

    with ProjectFile.open(file) as project:
        assert not project.lost
        assert project.design == design
