"""Harnesses nobody drew: the demos with a few of their figures, choices and parts changed at random, by a seed; and a
fingerprint of anything that is worked out of them, small enough to be kept for hundreds."""

from __future__ import annotations

import json
import math
import os
import re
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from contextlib import suppress
from copy import deepcopy
from dataclasses import fields, is_dataclass
from pathlib import Path
from random import Random
from typing import Any, Literal, get_args, get_origin

import numpy as np
from pydantic import BaseModel

from golden.test_answers import differing
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.way import Bend, Cover, CoverKind, Slack
from umber_trunk.core.sentences import Message
from umber_trunk.store.files import StoreError
from umber_trunk.store.jsonfile import design_from

FACTORS = (0.3, 0.6, 0.8, 1.3, 2.0, 4.0)
NUMBER = re.compile(r"\d+(?:\.\d+)?")
Way = tuple[str | int, ...]


def varied(name: str, seed: int, changes: int = 30) -> Design:
    """A demo with so many of its figures and choices changed; what a design may not be is left as it was."""
    draw, data = Random(f"{name} {seed}"), demo(name).model_dump(mode="json")
    places = list(choices(demo(name), ()))
    pools: dict[str | int, list[str]] = {}
    for way, kind in places:
        if kind == ("~",):
            pools.setdefault(way[-1], []).append(reached(data, way))
    for _ in range(changes // 2):
        tried = deepcopy(data)
        tables = draw.sample(
            sorted({str(way[0]) for way, _ in places}), 2
        )  # else the many cavities would be all there is
        for way, kind in (draw.choice([one for one in places if one[0][0] == table]) for table in tables):
            changed(tried, way, pools[way[-1]] if kind == ("~",) else kind, draw)
        try:
            design_from(tried, name)
        except StoreError:
            continue
        data = tried
    return dressed_anew(design_from(data, name), draw)


def dressed_anew(design: Design, draw: Random) -> Design:
    """Coverings, bends, loops and twists at random on some segments."""
    for segment in draw.sample(design.segments, len(design.segments) // 3):
        long = segment.measure.length_m
        covers = [
            Cover(
                id=f"{segment.id}c{n}",
                kind=draw.choice(list(CoverKind)),
                from_m=round(draw.choice((0.0, 0.3)) * long, 3),
                to_m=draw.choice((None, round(0.8 * long, 3))),
                lap=draw.choice((0.1, 0.5, 0.7)),
                after=draw.random() < 0.3,
            )
            for n in range(draw.randint(1, 2))
        ]
        bends = [
            Bend(
                at_m=round(0.4 * long, 3),
                radius_mm=draw.choice((30.0, 80.0)),
                angle_deg=draw.choice((0.0, 30.0, 90.0)),
                toward_deg=draw.choice((None, 0.0, 90.0)),
            )
            for _ in range(draw.choice((0, 0, 1, 2)))
        ]
        slack = [Slack(kind=draw.choice(("drip", "service")), length_m=0.12, at_m=round(0.2 * long, 3))] * draw.choice(
            (0, 0, 1)
        )
        more = {
            "lay_mm": draw.choice((0.0, 0.0, 60.0)),
            "corners": draw.random() < 0.5,
            "turn_deg": draw.choice((None, 60.0)),
        }
        with suppress(EditError):
            bent = edits.change(segment, covers=tuple(covers), bends=tuple(bends), slack=tuple(slack), **more)
            design = edits.put(design, "segments", bent)
    return design


def choices(part: BaseModel, way: Way) -> Iterator[tuple[Way, tuple[Any, ...]]]:
    """(way to a leaf of a design, what it may be: ("×",) of a figure, ("~",) of a word, both of a flag, all of a
    choice)."""
    for field, info in type(part).model_fields.items():
        value, here = getattr(part, field), (*way, field)
        if isinstance(value, BaseModel):
            yield from choices(value, here)
        elif isinstance(value, tuple):
            for at, one in enumerate(value):
                if isinstance(one, BaseModel):
                    yield from choices(one, (*here, at))
        elif isinstance(value, bool):
            yield here, (True, False)
        elif isinstance(value, int):
            yield here, (1, 2, 3)
        elif isinstance(value, float):
            yield here, ("×",)
        elif isinstance(value, str):
            yield here, _literals(info.annotation) or ("~",)


def _literals(kind: Any) -> tuple[Any, ...]:
    if get_origin(kind) is Literal:
        return get_args(kind)
    if isinstance(kind, type) and hasattr(kind, "__members__"):
        return tuple(str(one) for one in kind)  # type: ignore[attr-defined]
    return ()


def reached(data: Any, way: Way) -> Any:
    """What is at the end of a way through plain data."""
    for step in way:
        data = data[step]
    return data


def changed(data: Any, way: Way, kind: Sequence[Any], draw: Random) -> None:
    """One leaf of plain data set to another value: a word to one that is said somewhere in its place."""
    before = reached(data, way)
    now = round(before * draw.choice(FACTORS), 6) if kind == ("×",) else draw.choice(kind)
    reached(data, way[:-1])[way[-1]] = now


def fingerprint(value: Any) -> list[float | int]:
    """[how many figures, four sums of their magnitudes, one of those said in words, a checksum of the words] of
    whatever is in there. Orders of magnitude, so that a milliohm counts as a gigaohm does; every fourth figure, so that
    few changes can't hide among many. Figures in words are damped: what is just between two roundings may fall either
    way on another machine."""
    figures, said, words = list[float](), list[float](), 0
    for leaf in leaves(value):
        if isinstance(leaf, float):
            figures.append(leaf if math.isfinite(leaf) else -0.5)
        else:
            said += map(float, NUMBER.findall(leaf))
            words = zlib.crc32(NUMBER.sub("#", leaf).encode("utf-8", "replace"), words)
    size = magnitudes(figures)
    sums = [float(size[at::4].sum()) for at in range(4)]
    return [len(figures), *(float(f"{one:.8g}") for one in (*sums, 1000 + magnitudes(said).sum() / 50)), words]


def magnitudes(figures: Sequence[float]) -> Any:
    """Orders of magnitude with their signs, each weighed by its place."""
    row = np.array(figures)
    size = np.copysign(np.log10(1.0 + 1e6 * np.abs(row)), row)
    return size * (1.0 + np.modf(np.arange(len(row)) * 0.6180339887)[0])


def leaves(value: Any) -> Iterator[float | str]:
    """Every figure and word in plain values, tables, parts and dataclasses, in an order of their own."""
    if isinstance(value, bool | str | None):
        yield str(value)
    elif isinstance(value, int | float | np.number):
        yield float(value)
    elif isinstance(value, np.ndarray):
        yield from (one for entry in value.ravel().tolist() for one in leaves(entry))
    elif isinstance(value, Mapping):
        for key in sorted(value, key=str):
            yield str(key)
            yield from leaves(value[key])
    elif isinstance(value, Set):
        yield from sorted(str(one) for one in value)
    elif isinstance(value, BaseModel):
        yield from leaves(value.model_dump())
    elif isinstance(value, Message):
        yield str(value)
    elif is_dataclass(value) and not isinstance(value, type):
        for field in fields(value):
            if not field.name.startswith("_"):
                yield from leaves(getattr(value, field.name))
    elif isinstance(value, Iterable):
        for one in value:
            yield from leaves(one)
    else:
        yield type(value).__name__


def as_kept(name: str, key: object, value: Any, near: float = 5e-6) -> None:
    """Holds a fingerprint against the one kept under a key; for what another test works out anyway."""
    path, now = Path(__file__).with_name(name), fingerprint(value)
    known = json.loads(path.read_text("utf-8")) if path.exists() else {}
    if os.environ.get("UMBER_GOLDEN") == "write":
        path.write_text(json.dumps(known | {str(key): now}, indent=1) + "\n", encoding="utf-8")
        return
    differences = differing(known.get(str(key)), now, f"{name}/{key}", near)
    assert not differences, "; ".join(differences)


class Asks:
    """Says that an answer is still wanted, and counts how often it was asked."""

    def __init__(self) -> None:
        self.count = 0

    def __call__(self, *_: Any) -> bool:
        self.count += 1
        return True
