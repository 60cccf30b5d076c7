"""What an entry of a log has to hold, by its kind: what a file from elsewhere is checked by before anything is made of it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Words = Annotated[str, Field(max_length=2000)]
Figure = Annotated[float, Field(ge=-1e12, le=1e12, allow_inf_nan=False, strict=True)]
Key = Annotated[str, Field(max_length=500)]


class _Entry(BaseModel):
    model_config = ConfigDict(extra="allow", frozen=True, defer_build=True)


class _Begin(_Entry):
    units: Annotated[list[Annotated[int, Field(ge=1, le=10_000)]], Field(min_length=1, max_length=10_000)]
    school: Literal["operation", "wire"]
    hands: Annotated[int, Field(ge=1, le=20)]
    revision: Annotated[int, Field(ge=1)]


class _Done(_Entry):
    op: Words = ""
    tool: Words = ""
    setting: Words = ""
    wire: Words = ""
    coil: Words = ""
    coil_m: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = 0.0
    seconds: Figure | None = None


class _Undo(_Entry):
    of: Key


class _Read(_Entry):
    what: Words
    value: Figure
    unit: Words = ""
    low: Figure | None = None
    high: Figure | None = None
    source: Words = ""
    verdict: Words = ""
    tool: Words = ""
    setting: Words = ""
    part: Words = ""
    area_mm2: Figure | None = None


class _Remake(_Entry):
    wire: Key
    side: Literal["start", "finish"]
    voids: Annotated[list[Key], Field(max_length=10_000)]
    eaten_mm: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]


class _Scrap(_Entry):
    wire: Key
    voids: Annotated[list[Key], Field(max_length=10_000)]


class _Reset(_Entry):
    tool: Words
    setting: Words = ""
    voids: Annotated[list[Key], Field(max_length=10_000)] = []


class _Test(_Entry):
    n: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    kind: Words
    a: Annotated[str, Field(max_length=12_000)] = ""
    b: Annotated[str, Field(max_length=12_000)] = ""
    value: Figure | None = None
    unit: Words = ""
    low: Figure | None = None
    high: Figure | None = None
    ok: bool
    by: Words = ""
    source: Words = ""


class _Serial(_Entry):
    serial: Annotated[str, Field(min_length=1, max_length=80)]


class _Proven(_Entry):
    ok: bool
    who: Words
    told: Words = ""


class _Upgrade(_Entry):
    revision: Annotated[int, Field(ge=1)]
    voids: Annotated[list[Key], Field(max_length=20_000)]
    who: Words = ""


class _Said(_Entry):
    says: Words = ""
    note: Words = ""
    photo: Words = ""
    who: Words = ""
    why: Words = ""


BY_KIND: dict[str, type[_Entry]] = {
    "begin": _Begin, "done": _Done, "undo": _Undo, "read": _Read, "defect": _Said, "remake": _Remake, "scrap": _Scrap, "release": _Said, "reset": _Reset,
    "pause": _Said, "note": _Said, "test": _Test, "found": _Said, "serial": _Serial, "proven": _Proven, "upgrade": _Upgrade, "deviation": _Said, "mended": _Said,
}  # fmt: skip
KINDS = tuple(BY_KIND)
"""Kinds of entries."""


def checked(kind: str, data: Any) -> Mapping[str, Any]:
    """The data of an entry as they are. ValueError where something of them is no such thing."""
    if kind not in BY_KIND or not isinstance(data, dict):
        raise ValueError("no entry of a log")
    BY_KIND[kind].model_validate(data)  # a pydantic ValidationError is a ValueError
    return data
