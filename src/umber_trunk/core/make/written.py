"""What every act in a log may have, and how much of it there may be."""

from __future__ import annotations

from typing import Annotated, ClassVar

from pydantic import BaseModel, ConfigDict, Field

Words = Annotated[str, Field(max_length=2000)]
Figure = Annotated[float, Field(ge=-1e12, le=1e12, allow_inf_nan=False, strict=True)]
Key = Annotated[str, Field(max_length=500)]
Voids = Annotated[tuple[Key, ...], Field(max_length=20_000)]
Digest = Annotated[str, Field(pattern="^([0-9a-f]{64})?$")]
Hex = Annotated[str, Field(pattern="^[0-9a-f]*$", max_length=256)]
Name = Annotated[str, Field(min_length=1, max_length=80)]


class Written(BaseModel):
    """What every act may have: whose hand, at which station. Fields a newer program adds are kept."""

    model_config = ConfigDict(extra="allow", frozen=True, defer_build=True, populate_by_name=True)
    kind: ClassVar[str] = ""
    hand: Words = ""
    station: Words = ""
