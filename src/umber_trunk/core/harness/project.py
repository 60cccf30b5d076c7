"""Defaults and house rules of a harness, and which school the shop keeps where good builders disagree."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from umber_trunk.core.fields import (
    Allowance,
    Celsius,
    Frozen,
    Id,
    Label,
    Ohms,
    Percent,
    Share,
    Text,
    between,
)
from umber_trunk.core.harness.way import (
    Board,
    FoundLength,
    Learned,
    Prices,
)
from umber_trunk.core.usual import USUAL_DROP_PERCENT


class Practice(Frozen):
    """Where good builders disagree: which school this shop keeps; core/ends/practice.py has both sides' reasons."""

    solder: str = Field(default="crimp", pattern="^(crimp|flow)$")
    instead: str = Field(default="never", pattern="^(never|sleeved)$")
    lug_tool: str = Field(default="hex", pattern="^(hex|indent)$")
    twist: str = Field(default="clamps", pattern="^(clamps|always|never)$")
    wings: str = Field(default="contact", pattern="^(contact|remove)$")
    thin: str = Field(default="contact", pattern="^(contact|fold)$")
    batch: str = Field(default="operation", pattern="^(operation|wire)$")
    looks: str = Field(default="lamp", pattern="^(lamp|each)$")
    drain: str = Field(default="reach", pattern="^(reach|first|last)$")
    split: str = Field(default="barrel", pattern="^(barrel|solder)$")
    sharing: str = Field(default="fits", pattern="^(fits|never)$")
    tinned: str = Field(default="sealed", pattern="^(sealed|always)$")
    ferrules: str = Field(default="fine", pattern="^(fine|always|never)$")
    sleeve_end: str = Field(default="shrink", pattern="^(shrink|melted)$")
    least_tools: Annotated[float, between(0, 100)] = 3.0
    least_parts: Annotated[float, between(0, 100)] = 1.0
    solder_most_a: Annotated[float, between(0, 1000)] = 5.0


class Project(Frozen):
    """Defaults and house rules; every figure here can be changed by the shop."""

    name: Text = "Untitled harness"
    series: str = Field(default="metric", pattern="^(metric|awg)$")
    metal: Id = "copper"
    make: Id = "general"
    jacket: Id = "pvc"
    smallest_mm2: Annotated[float, between(0, 1000)] = 0.5
    max_drop_percent: Percent = USUAL_DROP_PERCENT
    ambient_c: Celsius = 30.0
    source_end: Id | None = None
    return_end: Id | None = None
    strip_m: Allowance = 0.008
    entry_m: Allowance = 0.05
    remake_m: Allowance = 0.015
    remakes: Annotated[int, Field(ge=0, le=20)] = 1
    twist_factor: Annotated[float, Field(ge=1, le=2)] = 1.0
    chance_short: Annotated[float, Field(ge=1e-6, lt=0.5, allow_inf_nan=False)] = 0.02
    joint_ohm: Ohms = 0.0
    match_pairs: bool = True
    frame_ohm: Ohms = 0.0
    shelf: tuple[Label, ...] = ()
    decimal: str = Field(default="", pattern="^(|comma|point)$")
    fuse_rule: str = Field(default="curve", pattern="^(curve|iec|share150)$")
    fuse_allowance_k: Annotated[float, Field(ge=0, le=30, allow_inf_nan=False)] = 0.0
    motor_efficiency: Share = 0.7
    paper: str = Field(default="a4", pattern="^(a4|letter)$")
    landscape: bool = True
    units: str = Field(default="metric", pattern="^(metric|inch|both)$")
    practice: Practice = Practice()
    cut_step_m: Annotated[float, between(0.0005, 1)] = 0.005
    cutting_m: Allowance = 0.002
    prices: Prices | None = None
    learned: tuple[Learned, ...] = ()
    history: Annotated[tuple[FoundLength, ...], Field(max_length=20_000)] = ()
    board: Board = Board()
    bend_times: Annotated[float, between(1, 50)] = 4.0
    insulation_v: Annotated[float, between(0, 1000)] = 0.0
    insulation_ohm: Annotated[float, between(1e3, 1e12)] = 1e6
