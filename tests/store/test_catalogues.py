"""Catalogues from outside: every fault named with row and column, nothing half taken over."""

from __future__ import annotations

import json
import random
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from umber_trunk.cli.main import main
from umber_trunk.core.catalog.parts import PART, Part
from umber_trunk.core.catalog.shelf import bundled
from umber_trunk.core.shop.lists import read_table
from umber_trunk.store.catalogues import (
    add_to_shop,
    as_row,
    from_csv,
    from_json,
    one_row,
    read_catalogue,
    shop_parts,
    stocked_shelf,
    to_json,
)
from umber_trunk.store.files import StoreError

ROWS: list[dict[str, Any]] = [
    PART.dump_python(part, mode="json", exclude_defaults=True) | {"kind": part.kind} for part in bundled().values()
]
HEAD = "kind,id,name,family,gender,size,area_mm2,insulation_mm,strip_mm,rated_a,crimps,inspection_hole\n"
GOOD = "contact,my-pin,My pin,mine,pin,Z,0.5-1.0,1.4 to 2.2,4.5,10,0.5:1.15; 0.75:1.3 ± 0.03,yes\n"


def test_bundled_parts_round_trip() -> None:
    assert from_json(to_json(bundled().values())).parts == tuple(bundled().values())


def test_a_row_off_a_data_sheet() -> None:
    found = from_csv(HEAD + GOOD)
    assert not found.faults
    part = found.parts[0].model_dump()
    assert part["area_mm2"] == {"low": 0.5, "high": 1.0}
    assert part["crimps"][1] == {"area_mm2": 0.75, "height_mm": 1.3, "plus_minus_mm": 0.03}
    for mark in ",;\t":
        heads = mark.join(("kind", "id", "name", "form", "contacts", "width_mm", "height_mm", "cavities"))
        row = mark.join(("housing", "h", "H", "plug", "pin", "20", "10", '"1@-3.5,0/M; 2@3.5,0.5/M"'))
        body = from_csv(f"{heads}\n{row}\n").parts[0].model_dump()
        assert [(c["label"], c["x_mm"], c["y_mm"], c["size"]) for c in body["cavities"]] == [
            ("1", -3.5, 0.0, "M"),
            ("2", 3.5, 0.5, "M"),
        ]


@pytest.mark.parametrize(("row", "column"), [
    (GOOD.replace("0.5-1.0", "1,0"), "insulation_mm"), (GOOD.replace("0.5-1.0", "about 1"), "area_mm2"), (GOOD.replace("0.5-1.0", "1.0-0.5"), "contact.area_mm2"),
    (GOOD.replace("4.5", "4.5 mm"), "strip_mm"), (GOOD.replace("4.5", "-4"), "contact.strip_mm"), (GOOD.replace("4.5", "1e400"), "contact.strip_mm"),
    (GOOD.replace("contact", "contract"), "kind"), (GOOD.replace("yes", "maybe"), "inspection_hole"), (GOOD.replace("0.5:1.15", "0.5"), "crimps"),
    (GOOD.replace(",pin,", ",both,"), "contact.gender"), (GOOD + GOOD, "id"), (GOOD.rstrip() + ",more\n", "column 13"),
])  # fmt: skip
def test_each_fault_has_its_place(row: str, column: str) -> None:
    found = from_csv(HEAD + GOOD.replace("my-pin", "sound") + row)
    assert not found.parts
    assert found.faults
    assert column.split(".")[-1] in {fault.column.split(".")[-1] for fault in found.faults}
    assert all(fault.row >= 3 for fault in found.faults)
    if column == "kind":
        assert "“contract” is none of: " in str(found.faults[0])
        kindless = from_csv(HEAD + GOOD.replace("contact", "", 1))
        assert "is missing" in str(kindless.faults[0])


def test_a_cell_nested_without_end_is_a_fault_and_no_bug() -> None:
    deep = "[" * 100_000
    faults = one_row({"kind": "contact", "id": "x", "name": "x", "derating": deep}).faults
    assert [fault for fault in faults if fault.column == "derating" and "no JSON list" not in fault.message]
    for cavities in ("1@3.5", "@1,2", "1", "1@3.5,0; 2@1"):
        faults = one_row({"kind": "housing", "id": "x", "name": "x", "cavities": cavities}).faults
        assert any(fault.column == "cavities" and "is not a list such as" in fault.message for fault in faults), (
            cavities
        )
    found = read_table("jobs", [["id", "file", "repair"], ["J1", "a.umber", "{" * 100_000]])
    assert not found.rows
    assert found.faults


def broken(seed: int) -> str:
    """A catalogue with one to four things wrong."""
    chance = random.Random(seed)
    rows = [dict(row) for row in chance.sample(ROWS, 6)]
    for row in chance.sample(rows, chance.randint(1, 4)):
        key = chance.choice([name for name in row if name not in ("kind",)])
        row[key] = chance.choice([None, [], {}, "x" * 500, float(10**12), -1, {"low": 2, "high": 1}, [[1]], True])
        if chance.random() < 0.3:
            row["unheard_of"] = 1
        if chance.random() < 0.2:
            row["kind"] = "widget"
        if _sound(row):
            row["id"] = ""  # what it got may stand there
    return json.dumps(rows)


@pytest.mark.parametrize("block", range(8))
def test_two_hundred_broken_catalogues(block: int, tmp_path: Path) -> None:
    shop = tmp_path / "shop.json"
    for seed in range(25 * block, 25 * block + 25):
        text = broken(seed)
        found = from_json(text)
        assert not found.parts, seed
        assert found.faults, seed
        assert all(1 <= fault.row <= 6 and fault.column and fault.message for fault in found.faults), seed
        wrong = {at for at, row in enumerate(json.loads(text), 1) if not _sound(row)}
        assert wrong <= {fault.row for fault in found.faults}, seed
        cut = from_json(text[: random.Random(seed).randint(1, len(text) - 1)])
        assert not cut.parts
        assert cut.faults
    assert not shop.exists()


def _sound(row: Any) -> bool:
    try:
        PART.validate_python(row)
    except ValueError:
        return False
    return True


@given(st.text(max_size=300))
def test_no_text_breaks_a_reader(text: str) -> None:
    for found in (from_json(text), from_csv(text), from_csv(HEAD + text)):
        assert not (found.parts and found.faults)


def test_the_shop_has_its_own(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "own" / "catalogue.json"
    assert add_to_shop(from_csv(HEAD + GOOD).parts, path) == 1
    assert add_to_shop(from_csv(HEAD + GOOD.replace("10,", "12,")).parts, path) == 1
    assert shop_parts(path)[0].rated_a == 12  # type: ignore[union-attr]
    assert stocked_shelf(path)[1] == ""
    assert stocked_shelf(path)[0].named("my-pin") is not None
    path.write_text("[{]")
    assert "broken" in stocked_shelf(path)[1]
    with pytest.raises(StoreError):
        add_to_shop((), path)
    assert path.read_text() == "[{]"
    own = tmp_path / "own.csv"
    own.write_text(HEAD + GOOD.replace("pin,Z", "pn,Z"))
    assert main(["catalogue", "check", str(own), "--json"]) == 2
    said = json.loads(capsys.readouterr().out)
    assert said["faults"][0]["row"] == 2
    assert "gender" in said["faults"][0]["column"]
    assert main(["catalogue", "list", "--kind", "lug", "--json"]) == 0
    assert {row["kind"] for row in json.loads(capsys.readouterr().out)} == {"lug"}


def test_five_thousand_parts_are_read_once(tmp_path: Path) -> None:
    """Each row is validated once: the count, not the clock."""
    many = [{**ROWS[n % len(ROWS)], "id": f"p{n}"} for n in range(5000)]
    path = tmp_path / "many.json"
    path.write_text(json.dumps(many))
    assert len(read_catalogue(path).parts) == 5000


@pytest.mark.parametrize("part", list(bundled().values()), ids=lambda part: part.id)
def test_every_part_goes_through_the_form(part: Part) -> None:
    """As cells of a form and back: the same part."""
    plain = PART.dump_python(part, mode="json", exclude_defaults=True) | {"kind": part.kind}
    found = one_row(as_row(plain))
    assert not found.faults
    assert found.parts == (part,)
