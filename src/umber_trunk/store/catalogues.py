"""Catalogues of parts as files: JSON as the program keeps it, or CSV as one types it off a data sheet.

A reader gathers every fault with its row and column and takes nothing over while there is one. The shop's own
catalogue is one JSON file, to be shared as it is.
"""

from __future__ import annotations

import csv
import io
import itertools
import json
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from platformdirs import user_data_path
from pydantic import ValidationError

from umber_trunk.core.catalog.parts import KINDS, PART, Crimped, Part
from umber_trunk.core.catalog.shelf import Shelf, generic, shop_shelf
from umber_trunk.store.files import StoreError, put_whole, read_text
from umber_trunk.store.shop_place import SHOP_NAME, shop_beside

MOST_PARTS = 100_000
MOST_BYTES = 50_000_000
MOST_FAULTS = 200
_RANGE = re.compile(r"\s*(-?[\d.]+(?:e-?\d+)?)\s*(?:-|–|\.\.|to)\s*(-?[\d.]+(?:e-?\d+)?)\s*", re.I)
_NUMBER = re.compile(r"-?(?:\d+\.?\d*|\.\d+)(?:e-?\d{1,3})?", re.I)


@dataclass(frozen=True)
class Fault:
    """One thing wrong: the row (1 is the first part's in JSON, the heading's in CSV), the column or field, what and how
    to mend it."""

    row: int
    column: str
    message: str

    def __str__(self) -> str:
        return f"row {self.row}, {self.column}: {self.message}"


@dataclass(frozen=True)
class Reading:
    """What a file holds: its parts, all of them or, where there are faults, none to be taken over."""

    parts: tuple[Part, ...]
    faults: tuple[Fault, ...]


def catalogue_path() -> Path:
    """The shop's own catalogue."""
    return user_data_path("umber-trunk") / "catalogue.json"


def read_catalogue(path: Path) -> Reading:
    """The parts of a JSON or CSV file, and everything wrong with it; StoreError where it can't be read at all."""
    text = read_text(path, MOST_BYTES)
    if path.suffix.lower() == ".csv":
        return from_csv(text)
    return from_json(text)


def from_json(text: str) -> Reading:
    """Parts of a JSON text: a list, or an object with the list under "parts"."""
    try:
        data = json.loads(text)
    except RecursionError:
        return Reading((), (Fault(1, "file", "it is nested too deep."),))
    except ValueError as why:
        line = getattr(why, "lineno", 1)
        return Reading((), (Fault(line, f"character {getattr(why, 'colno', 1)}", f"this is not JSON: {why}."),))
    rows = data.get("parts") if isinstance(data, dict) else data
    if not isinstance(rows, list):
        return Reading((), (Fault(1, "file", "a catalogue is a list of parts."),))
    return _checked([(at, row) for at, row in enumerate(rows, 1)])


def from_csv(text: str) -> Reading:
    """Parts of a CSV text: a heading row of field names, then one part a row. Ranges are written "0.5-1.0", lists of
    crimps "0.5:1.15; 0.75:1.3 ± 0.03", cavities "1@-3.5,0; 2@3.5,0"; a field inside another is "area_mm2.low"."""
    first = text[:4000].split("\n", 1)[0]
    delimiter = "\t" if "\t" in first else ";" if first.count(";") > first.count(",") else ","
    try:
        table = list(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True))
    except csv.Error as why:
        return Reading((), (Fault(1, "file", f"this is not CSV: {why}."),))
    if not table:
        return Reading((), (Fault(1, "file", "it is empty."),))
    heads = [cell.strip() for cell in table[0]]
    if wrong := _wrong_heads(heads):
        return Reading((), wrong)
    faults: list[Fault] = []
    rows: list[tuple[int, Any]] = []
    for number, cells in enumerate(table[1:], 2):
        if not any(cell.strip() for cell in cells):
            continue
        extra = [cell for cell in cells[len(heads) :] if cell.strip()]
        if extra:
            faults.append(Fault(number, f"column {len(heads) + 1}", f"“{extra[0][:30]}” is under no heading."))
        row, unread = _row(heads, cells, number)
        faults += unread
        rows.append((number, row))
    checked, told = _checked(rows), {(fault.row, fault.column.split(".")[0]) for fault in faults}
    # a cell that can't be read is missing to the model too: that is said once
    faults += [fault for fault in checked.faults if (fault.row, fault.column.split(".")[0]) not in told]
    return Reading(() if faults else checked.parts, tuple(sorted(faults, key=lambda fault: fault.row))[:MOST_FAULTS])


def _wrong_heads(heads: list[str]) -> tuple[Fault, ...]:
    """Headings that no part has a field for or that are there twice, and those that are missing."""
    faults = []
    known = {"kind"} | {name for model in KINDS.values() for name in model.model_fields}
    for at, head in enumerate(heads):
        if head and head.split(".")[0] not in known:
            faults.append(Fault(1, head, "no part has a field of this name."))
        if head and heads.index(head) != at:
            faults.append(Fault(1, head, "this column is there twice."))
    missing = [name for name in ("id", "kind", "name") if name not in heads]
    return (*faults, *(Fault(1, name, "this column is missing.") for name in missing))


def as_row(part: dict[str, Any]) -> dict[str, str]:
    """A part's plain data as the cells of a CSV row, field by field: what `from_csv` reads back."""
    return {field: _cell(field, value) for field, value in part.items() if value is not None}


def _cell(field: str, value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, dict) and set(value) == {"low", "high"}:
        return f"{value['low']:g}-{value['high']:g}"
    if field == "crimps":
        return "; ".join(
            f"{row['area_mm2']:g}:{row['height_mm']:g}"
            + (f" ± {row['plus_minus_mm']:g}" if "plus_minus_mm" in row else "")
            for row in value
        )
    if field == "cavities" and all(set(row) <= {"label", "x_mm", "y_mm", "size"} for row in value):
        return "; ".join(
            f"{c['label']}@{c['x_mm']:g},{c['y_mm']:g}" + (f"/{c['size']}" if c.get("size") else "") for c in value
        )
    if field == "mates":
        return "; ".join(value)
    if isinstance(value, list | tuple | dict):
        return json.dumps(value, ensure_ascii=False)
    return f"{value:g}" if isinstance(value, float) else str(value)


def one_row(cells: dict[str, str]) -> Reading:
    """A part from the cells of its fields, as a form has them; faults name the field."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(list(cells))
    writer.writerow(list(cells.values()))
    return from_csv(out.getvalue())


def _row(heads: list[str], cells: list[str], number: int) -> tuple[dict[str, Any], list[Fault]]:
    """One row as plain data; figures stay text where they can't be read whole, and are told by the model."""
    row: dict[str, Any] = {}
    faults = []
    model = KINDS.get(next((cell.strip() for head, cell in zip(heads, cells, strict=False) if head == "kind"), ""))
    for head, cell in zip(heads, cells, strict=False):
        said = cell.strip()
        if not head or not said:
            continue
        outer, _, inner = head.partition(".")
        try:
            value = _value(outer, inner, said, model)
        except ValueError as why:
            faults.append(Fault(number, head, f"“{said[:40]}” {why}."))
            continue
        if inner:
            row.setdefault(outer, {})[inner] = value
        else:
            row[outer] = value
    return row, faults


def _value(field: str, inner: str, said: str, model: Any) -> Any:
    annotation = str(model.model_fields[field].annotation) if model is not None and field in model.model_fields else ""
    if field == "crimps" and not said.startswith("["):
        return [_crimp(one) for one in said.split(";") if one.strip()]
    if field == "cavities" and not said.startswith("["):
        return [_cavity(one) for one in said.split(";") if one.strip()]
    if field in ("cores", "derating", "assembly") or said.startswith("["):
        try:
            return json.loads(said)
        except ValueError:
            raise ValueError("is not a JSON list, in which this field is written") from None
    if field == "mates":
        return [one.strip() for one in said.split(";") if one.strip()]
    if "Between" in annotation and not inner:
        found = _RANGE.fullmatch(said)
        if not found:
            raise ValueError("is not a range such as 0.5-1.0")
        return {"low": _figure(found[1]), "high": _figure(found[2])}
    if "bool" in annotation:
        if said.lower() not in ("yes", "no", "true", "false"):
            raise ValueError("is neither yes nor no")
        return said.lower() in ("yes", "true")
    if "float" in annotation or "int" in annotation or inner in ("low", "high"):
        return _figure(said)
    return said


def _figure(said: str) -> float:
    if "," in said:
        raise ValueError("has a comma: write decimals with a point and thousands without a mark")
    if not _NUMBER.fullmatch(said.strip()):
        raise ValueError("is not a plain number; its unit stands in the field’s name")
    return float(said)


def _crimp(said: str) -> dict[str, float]:
    area, _, rest = said.partition(":")
    height, _, off = rest.partition("±")
    if not rest:
        raise ValueError("is not a list such as 0.5:1.15; 0.75:1.3 ± 0.03")
    found = {"area_mm2": _figure(area.strip()), "height_mm": _figure(height.strip())}
    return found | ({"plus_minus_mm": _figure(off.strip())} if off else {})


def _cavity(said: str) -> dict[str, Any]:
    label, _, place = said.strip().rpartition("@")
    x, _, y = place.partition(",")
    if not label or not y:
        raise ValueError("is not a list such as 1@-3.5,0; 2@3.5,0")
    where, _, size = y.partition("/")
    return {"label": label, "x_mm": _figure(x.strip()), "y_mm": _figure(where.strip()), "size": size.strip()}


def _checked(rows: Iterable[tuple[int, Any]]) -> Reading:
    """Every row through its model; ids that occur twice are faults too."""
    parts: list[Part] = []
    faults: list[Fault] = []
    first: dict[str, int] = {}
    for count, (number, row) in enumerate(rows):
        if count >= MOST_PARTS:
            faults.append(Fault(number, "file", f"it has over {MOST_PARTS} parts."))
            break
        if not isinstance(row, dict):
            faults.append(Fault(number, "part", "a part is an object with fields."))
            continue
        if not isinstance(row.get("kind"), str) or row["kind"] not in KINDS:
            said = "is missing" if "kind" not in row else f"“{str(row['kind'])[:30]}” is none of: {', '.join(KINDS)}"
            faults.append(Fault(number, "kind", f"{said}."))
            continue
        try:
            part = PART.validate_python(row)
        except ValidationError as why:
            for error in why.errors(include_url=False, include_context=False, include_input=False):
                field = ".".join(str(step) for step in error["loc"][1:]) or "part"
                faults.append(Fault(number, field, f"{error['msg'].removeprefix('Value error, ')}."))
            continue
        except RecursionError:
            faults.append(Fault(number, "part", "it is nested too deep."))
            continue
        if part.id in first:
            faults.append(Fault(number, "id", f"“{part.id}” is there already, in row {first[part.id]}."))
        first.setdefault(part.id, number)
        if isinstance(part, Crimped):
            faults += [Fault(number, "crimps", what) for what in _odd_crimps(part)]
        parts.append(part)
    return Reading(tuple(parts) if not faults else (), tuple(faults[:MOST_FAULTS]))


def _odd_crimps(part: Crimped) -> list[str]:
    """What can't be right in a sheet of crimps: an area twice, or more conductor pressed flatter."""
    found = []
    for a, b in itertools.pairwise(part.crimps):
        if b.area_mm2 <= a.area_mm2 * 1.001:
            found.append(f"{b.area_mm2:g} mm² stands twice.")
        elif b.height_mm < a.height_mm:
            found.append(
                f"{b.area_mm2:g} mm² at {b.height_mm:g} mm is pressed flatter than {a.area_mm2:g} mm² at "
                f"{a.height_mm:g} mm."
            )
    return found


def to_json(parts: Iterable[Part]) -> str:
    """Parts as a JSON text, one a line."""
    rows = [
        json.dumps(PART.dump_python(part, mode="json", exclude_defaults=True) | {"kind": part.kind}, ensure_ascii=False)
        for part in parts
    ]
    return "[\n" + ",\n".join(rows) + "\n]\n"


def shop_parts(path: Path | None = None) -> tuple[Part, ...]:
    """The shop's own parts; StoreError where its catalogue is broken, which it says with row and column."""
    path = path or catalogue_path()
    if not path.exists():
        return ()
    reading = read_catalogue(path)
    if reading.faults:
        raise StoreError.of("store.shops-catalogue-is-broken", path=path, faults=reading.faults[0])
    return reading.parts


def stocked_shelf(path: Path | None = None, beside: Path | None = None) -> tuple[Shelf, str]:
    """The parts that ship with the shop's own in front, those of the shop's file that is set or `beside` a harness
    before all others, and what was wrong with those, "" for nothing: then they are left out."""
    try:
        return shop_shelf([*parts_of_shop(beside), *shop_parts(path)]), ""
    except StoreError as why:
        return generic(), str(why)


def parts_of_shop(beside: Path | None) -> tuple[Part, ...]:
    """The catalogue in the shop's file that is set, or beside a harness; none where there is no such file."""
    shop = shop_beside(beside or Path(SHOP_NAME))
    if shop is None or beside == shop:
        return ()
    from umber_trunk.store.shop_file import shop_file  # here: few harnesses lie in a shop

    with shop_file(shop) as file:
        return tuple(row.part for row in file.rows_of("parts"))


def add_to_shop(parts: Iterable[Part], path: Path | None = None) -> int:
    """Adds parts to the shop's catalogue, replacing those of the same id; how many it holds then."""
    path = path or catalogue_path()
    kept = {part.id: part for part in shop_parts(path)} | {part.id: part for part in parts}
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as why:
        raise StoreError.of("any.cant-be-made", folder=path.parent, why=why.strerror) from why
    put_whole(path, to_json(kept.values()).encode())
    return len(kept)
