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
from umber_trunk.core.errors import InputError, clipped
from umber_trunk.core.field_fault import field_fault
from umber_trunk.core.row_fault import RowFault, row_fault
from umber_trunk.core.sentences import Message
from umber_trunk.store.files import StoreError, put_whole, read_text
from umber_trunk.store.shop_place import SHOP_NAME, shop_beside

MOST_PARTS = 100_000
MOST_BYTES = 50_000_000
_RANGE = re.compile(r"\s*(-?[\d.]+(?:e-?\d+)?)\s*(?:-|–|\.\.|to)\s*(-?[\d.]+(?:e-?\d+)?)\s*", re.I)
_NUMBER = re.compile(r"-?(?:\d+\.?\d*|\.\d+)(?:e-?\d{1,3})?", re.I)


@dataclass(frozen=True)
class Reading:
    """What a file holds: its parts, all of them or, where there are faults, none to be taken over."""

    parts: tuple[Part, ...]
    faults: tuple[RowFault, ...]


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
        return Reading((), (row_fault(1, "file", "too-deep"),))
    except ValueError as why:
        line = getattr(why, "lineno", 1)
        at = getattr(why, "colno", 1)
        return Reading((), (row_fault(line, f"character {at}", "not-json", why=str(why)),))
    rows = data.get("parts") if isinstance(data, dict) else data
    if not isinstance(rows, list):
        return Reading((), (row_fault(1, "file", "catalogue-is-list"),))
    return _checked([(at, row) for at, row in enumerate(rows, 1)])


def from_csv(text: str) -> Reading:
    """Parts of a CSV text: a heading row of field names, then one part a row. Ranges are written "0.5-1.0", lists of
    crimps "0.5:1.15; 0.75:1.3 ± 0.03", cavities "1@-3.5,0; 2@3.5,0"; a field inside another is "area_mm2.low"."""
    first = text[:4000].split("\n", 1)[0]
    delimiter = "\t" if "\t" in first else ";" if first.count(";") > first.count(",") else ","
    try:
        table = list(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True))
    except csv.Error as why:
        return Reading((), (row_fault(1, "file", "not-csv", why=str(why)),))
    if not table:
        return Reading((), (row_fault(1, "file", "empty"),))
    heads = [cell.strip() for cell in table[0]]
    if wrong := _wrong_heads(heads):
        return Reading((), wrong)
    faults: list[RowFault] = []
    rows: list[tuple[int, Any]] = []
    for number, cells in enumerate(table[1:], 2):
        if not any(cell.strip() for cell in cells):
            continue
        extra = [cell for cell in cells[len(heads) :] if cell.strip()]
        if extra:
            faults.append(row_fault(number, f"column {len(heads) + 1}", "under-no-heading", text=clipped(extra[0])))
        row, unread = _row(heads, cells, number)
        faults += unread
        rows.append((number, row))
    checked, told = _checked(rows), {(fault.row, fault.column.split(".")[0]) for fault in faults}
    # a cell that can't be read is missing to the model too: that is said once
    faults += [fault for fault in checked.faults if (fault.row, fault.column.split(".")[0]) not in told]
    return Reading(() if faults else checked.parts, tuple(sorted(faults, key=lambda fault: fault.row)))


def _wrong_heads(heads: list[str]) -> tuple[RowFault, ...]:
    """Headings that no part has a field for or that are there twice, and those that are missing."""
    faults = []
    known = {"kind"} | {name for model in KINDS.values() for name in model.model_fields}
    for at, head in enumerate(heads):
        if head and head.split(".")[0] not in known:
            faults.append(row_fault(1, head, "no-such-field"))
        if head and heads.index(head) != at:
            faults.append(row_fault(1, head, "column-twice"))
    missing = [name for name in ("id", "kind", "name") if name not in heads]
    return (*faults, *(row_fault(1, name, "column-missing") for name in missing))


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


def _row(heads: list[str], cells: list[str], number: int) -> tuple[dict[str, Any], list[RowFault]]:
    """One row as plain data; figures stay text where they can't be read whole, and are told by the model."""
    row: dict[str, Any] = {}
    faults = list[RowFault]()
    model = KINDS.get(next((cell.strip() for head, cell in zip(heads, cells, strict=False) if head == "kind"), ""))
    for head, cell in zip(heads, cells, strict=False):
        said = cell.strip()
        if not head or not said:
            continue
        outer, _, inner = head.partition(".")
        try:
            value = _value(outer, inner, said, model)
        except InputError as why:
            faults.append(RowFault(number, head, why.message))
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
        except (ValueError, RecursionError):
            raise InputError.of("row.no-json-list", text=clipped(said)) from None
    if field == "mates":
        return [one.strip() for one in said.split(";") if one.strip()]
    if "Between" in annotation and not inner:
        found = _RANGE.fullmatch(said)
        if not found:
            raise InputError.of("row.no-range", text=clipped(said))
        return {"low": _figure(found[1]), "high": _figure(found[2])}
    if "bool" in annotation:
        if said.lower() not in ("yes", "no", "true", "false"):
            raise InputError.of("row.neither-yes-nor-no", text=clipped(said))
        return said.lower() in ("yes", "true")
    if "float" in annotation or "int" in annotation or inner in ("low", "high"):
        return _figure(said)
    return said


def _figure(said: str) -> float:
    if "," in said:
        raise InputError.of("row.comma", text=clipped(said))
    if not _NUMBER.fullmatch(said.strip()):
        raise InputError.of("row.no-plain-number", text=clipped(said))
    return float(said)


def _crimp(said: str) -> dict[str, float]:
    area, _, rest = said.partition(":")
    height, _, off = rest.partition("±")
    if not rest:
        raise InputError.of("row.no-crimps", text=clipped(said))
    found = {"area_mm2": _figure(area.strip()), "height_mm": _figure(height.strip())}
    return found | ({"plus_minus_mm": _figure(off.strip())} if off else {})


def _cavity(said: str) -> dict[str, Any]:
    label, _, place = said.strip().rpartition("@")
    x, _, y = place.partition(",")
    if not label or not y:
        raise InputError.of("row.no-cavities", text=clipped(said))
    where, _, size = y.partition("/")
    return {"label": label, "x_mm": _figure(x.strip()), "y_mm": _figure(where.strip()), "size": size.strip()}


def _checked(rows: Iterable[tuple[int, Any]]) -> Reading:
    """Every row through its model; ids that occur twice are faults too."""
    parts: list[Part] = []
    faults: list[RowFault] = []
    first: dict[str, int] = {}
    for count, (number, row) in enumerate(rows):
        if count >= MOST_PARTS:
            faults.append(row_fault(number, "file", "over-parts", most=MOST_PARTS))
            break
        if not isinstance(row, dict):
            faults.append(row_fault(number, "part", "part-is-object"))
            continue
        if not isinstance(row.get("kind"), str) or row["kind"] not in KINDS:
            said = clipped(str(row["kind"])) if "kind" in row else ""
            faults.append(row_fault(number, "kind", "kind", text=said, known=", ".join(KINDS)))
            continue
        try:
            part = PART.validate_python(row)
        except ValidationError as why:
            for error in why.errors(include_url=False):
                field = ".".join(str(step) for step in error["loc"][1:]) or "part"
                faults.append(RowFault(number, field, field_fault(error)))
            continue
        except RecursionError:
            faults.append(row_fault(number, "part", "too-deep"))
            continue
        if part.id in first:
            faults.append(row_fault(number, "id", "there-already", text=part.id, row=first[part.id]))
        first.setdefault(part.id, number)
        if isinstance(part, Crimped):
            faults += [RowFault(number, "crimps", what) for what in _odd_crimps(part)]
        parts.append(part)
    return Reading(tuple(parts) if not faults else (), tuple(faults))


def _odd_crimps(part: Crimped) -> list[Message]:
    """What can't be right in a sheet of crimps: an area twice, or more conductor pressed flatter."""
    found = []
    for a, b in itertools.pairwise(part.crimps):
        if b.area_mm2 <= a.area_mm2 * 1.001:
            found.append(Message.of("row.area-twice", area=b.area_mm2))
        elif b.height_mm < a.height_mm:
            found.append(
                Message.of(
                    "row.pressed-flatter", area=b.area_mm2, height=b.height_mm, less=a.area_mm2, higher=a.height_mm
                )
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
