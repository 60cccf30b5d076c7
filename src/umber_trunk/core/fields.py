"""What the figures and texts of parts may be, shared by the harness and the catalogue: bounded, finite, printable."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, WithJsonSchema

from umber_trunk.core.sentences import say
from umber_trunk.core.text import pictured


def between(least: float, most: float) -> Any:
    """A finite figure from `least` to `most`."""
    return Field(ge=least, le=most, allow_inf_nan=False)


def none_or(least: float, most: float) -> tuple[Any, Any, Any]:
    """0 for none at all, or a figure between."""

    def checked(value: float) -> float:
        if value != 0 and value < least:
            raise ValueError(say("field.none-or", least=least))
        return value

    figures = {"anyOf": [{"const": 0}, {"type": "number", "minimum": least, "maximum": most}]}
    return between(0, most), AfterValidator(checked), WithJsonSchema(figures)


Id = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(pictured)]
Text = Annotated[str, Field(max_length=400), AfterValidator(pictured)]
Label = Annotated[str, Field(max_length=20), AfterValidator(pictured)]
Celsius = Annotated[float, between(-60, 1000)]
Metres = Annotated[float, between(0, 10_000)]
Allowance = Annotated[float, between(0, 100)]
Ohms = Annotated[float, *none_or(1e-9, 1e6)]
Millimetres = Annotated[float, *none_or(0.01, 10_000)]
Volts = Annotated[float, between(0.01, 1500)]
VoltsLost = Annotated[float, between(1e-4, 1500)]
Amps = Annotated[float, between(1e-6, 1e6)]
Seconds = Annotated[float, between(1e-6, 1e7)]
Percent = Annotated[float, Field(ge=1e-3, lt=100, allow_inf_nan=False)]
Share = Annotated[float, between(0.01, 1)]


class Frozen(BaseModel):
    """Base of all parts: immutable, no unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
