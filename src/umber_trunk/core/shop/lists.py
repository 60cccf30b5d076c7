"""The shop's lists as tables: a heading and rows of texts, in and out. A reader gathers every fault with its row and
column; while there is one, nothing is taken over.

Several things in a cell stand with a semicolon between: “mon 08:00–12:00; mon 13:00–17:00”. A device takes a row for
each pin.
"""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from pydantic import ValidationError

from umber_trunk.core.errors import InputError, clipped
from umber_trunk.core.field_fault import field_fault
from umber_trunk.core.harness.device import Device
from umber_trunk.core.row_fault import RowFault, row_fault
from umber_trunk.core.shop.things import KINDS

MOST_ROWS = 20_000
"""Of a table that is read."""
Cell = str | int | float | None
_SEVERAL = ("dies", "serves", "may", "hours", "off", "builds", "own", "questions", "units")
_HOURS = re.compile(r"\s*([a-z]{3})[a-z]*\s+(\d\d?:\d\d)\s*(?:-|–|to)\s*(\d\d?:\d\d)\s*", re.I)
_LEFT_OUT = {"jobs": ("deliveries", "repair", "quote"), "templates": ()}
PIN_COLUMNS = ("connector", "part", "form", "contacts", "pin", "function", "pole", "volts", "most_a", "measured")
DEVICE_COLUMNS = ("device", "name", "who", "when", "source", "note")


@dataclass(frozen=True)
class ListRead:
    """What a table says: its rows as values and the fields it has columns for, or what is wrong with it, row by row."""

    rows: tuple[Any, ...]
    faults: tuple[RowFault, ...]
    fields: tuple[str, ...] = ()


def columns(kind: str) -> tuple[str, ...]:
    """The heads of a list's table."""
    if kind == "devices":
        return (*DEVICE_COLUMNS, *PIN_COLUMNS)
    return tuple(name for name in KINDS[kind].model.model_fields if name not in _LEFT_OUT.get(kind, ()))


def table(kind: str, rows: Sequence[Any]) -> list[list[Cell]]:
    """Rows of a list as a table, its heads first."""
    heads = columns(kind)
    if kind == "devices":
        return [list(heads), *(cells for device in rows for cells in _device_cells(device))]
    return [list(heads), *([_cell(getattr(row, name)) for name in heads] for row in rows)]


def _cell(value: Any) -> Cell:
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else ""
        case int() | float() | str():
            return value
        case Decimal():
            return format(value, "f")
        case tuple():
            return "; ".join(_hours(one) if hasattr(one, "start") else str(one) for one in value)
    return json.dumps(value.model_dump(mode="json"), ensure_ascii=False)


def _hours(one: Any) -> str:
    return f"{one.day} {one.start}–{one.end}"


def _device_cells(device: Device) -> list[list[Cell]]:
    own: list[Cell] = [device.id, device.name, device.who, device.when, device.source, device.note]
    rows: list[list[Cell]] = []
    for connector in device.connectors:
        whose: list[Cell] = [connector.id, connector.part or "", connector.form, connector.contacts]
        for pin in connector.pins or (None,):
            mine: list[Cell] = ["", "", "", None, None, ""]
            if pin is not None:
                mine = [pin.label, pin.function, pin.pole, pin.volts, pin.most_a, pin.measured]
            rows.append([*own, *whose, *mine])
    return rows or [[*own, *[""] * len(PIN_COLUMNS)]]


def read_table(kind: str, grid: Sequence[Sequence[str]]) -> ListRead:
    """The rows of a table of texts; its first row are heads in any order, those that aren't there are left as usual
    in new rows, and as they stand in rows that are there (`ShopFile.put_told`)."""
    heads = [cell.strip().lower().replace(" ", "_") for cell in grid[0]] if grid else []
    known = columns(kind)
    key = "device" if kind == "devices" else "id"
    faults = [row_fault(1, clipped(head), "column-unknown") for head in heads if head and head not in known]
    faults += [
        row_fault(1, clipped(head), "column-twice") for head in dict.fromkeys(heads) if head and heads.count(head) > 1
    ]
    if key not in heads and kind != "rates":
        faults.append(row_fault(1, key, "column-missing"))
    if len(grid) - 1 > MOST_ROWS:
        faults.append(row_fault(MOST_ROWS + 2, "", "over-rows", most=MOST_ROWS))
    if faults:
        return ListRead((), tuple(faults))
    lines = [
        (number, {head: cell.strip() for head, cell in zip(heads, row, strict=False) if head})
        for number, row in enumerate(grid[1:], 2)
        if any(cell.strip() for cell in row)
    ]
    rows, faults = _devices(lines) if kind == "devices" else _plain(kind, lines)
    if faults:
        return ListRead((), tuple(faults))
    fields = ("connectors", *DEVICE_COLUMNS) if kind == "devices" else known
    return ListRead(tuple(rows), (), tuple(name for name in fields if name in (*heads, "connectors")))


def _plain(kind: str, lines: Sequence[tuple[int, Mapping[str, str]]]) -> tuple[list[Any], list[RowFault]]:
    rows: list[Any] = []
    faults: list[RowFault] = []
    first: dict[str, int] = {}
    model = KINDS[kind].model
    for number, cells in lines:
        values: dict[str, Any] = {}
        for head, text in cells.items():
            if text == "":
                continue
            try:
                values[head] = _value(head, text, model)
            except InputError as why:
                faults.append(RowFault(number, head, why.message))
        key = values.get("id", kind)
        if key in first:
            faults.append(row_fault(number, "id", "there-already", text=clipped(key), row=first[key]))
        first.setdefault(key, number)
        made = _made(model, values, number, faults)
        if made is not None:
            rows.append(made)
    return rows, faults


def _value(head: str, text: str, model: type[Any]) -> Any:
    if head in _SEVERAL and _is_tuple(model, head):
        parts = [part.strip() for part in text.split(";") if part.strip()]
        return [_read_hours(part) for part in parts] if head == "hours" else parts
    field = model.model_fields[head]
    if field.annotation is bool:
        return text.lower() in ("yes", "y", "1", "true", "x")
    if text[:1] == "{":
        try:
            return json.loads(text)
        except (ValueError, RecursionError):
            raise InputError.of("row.no-json-list", text=clipped(text)) from None
    return text


def _is_tuple(model: type[Any], head: str) -> bool:
    return str(model.model_fields[head].annotation).startswith("tuple")


def _read_hours(text: str) -> dict[str, str]:
    found = _HOURS.fullmatch(text)
    if found is None:
        raise InputError.of("row.no-hours", text=clipped(text))
    return {"day": found[1].lower(), "start": found[2].zfill(5), "end": found[3].zfill(5)}


def _made(model: type[Any], values: dict[str, Any], number: int, faults: list[RowFault]) -> Any:
    """A row's value, None where its model won't have it: each fault with its column."""
    before = len(faults)
    try:
        made = model.model_validate(values)
    except ValidationError as why:
        for one in why.errors():
            column = str(one["loc"][0]) if one["loc"] else ""
            faults.append(RowFault(number, column, field_fault(one)))
        return None
    return made if len(faults) == before else None


def _devices(lines: Sequence[tuple[int, Mapping[str, str]]]) -> tuple[list[Any], list[RowFault]]:
    """A row a pin: rows of one device belong together, what is blank is as in the row above."""
    plain: dict[str, dict[str, Any]] = {}
    where: dict[str, int] = {}
    faults: list[RowFault] = []
    name = connector = ""
    for number, cells in lines:
        if cells.get("device"):
            name, connector = cells["device"], ""
        if not name:
            faults.append(row_fault(number, "device", "no-device"))
            continue
        device = plain.setdefault(name, {"id": name, "name": name, "connectors": {}})
        where.setdefault(name, number)
        device.update({head: cells[head] for head in DEVICE_COLUMNS[1:] if cells.get(head)})
        connector = cells.get("connector") or connector or "1"
        mine = device["connectors"].setdefault(connector, {"id": connector, "pins": []})
        mine.update({head: cells[head] for head in ("part", "form", "contacts") if cells.get(head)})
        if cells.get("pin"):
            pin = {head: cells[head] for head in PIN_COLUMNS[5:] if cells.get(head)}
            mine["pins"].append({"label": cells["pin"], **pin})
        elif any(cells.get(head) for head in PIN_COLUMNS[5:]):
            faults.append(row_fault(number, "pin", "no-pin"))
    found = []
    for key, device in plain.items():
        made = _made(Device, {**device, "connectors": list(device["connectors"].values())}, where[key], faults)
        found.append(made)
    return [one for one in found if one is not None], faults
