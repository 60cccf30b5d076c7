"""What a line says of a load: how much it draws, how often, how it starts, what it must get, whether it is a loop."""

from __future__ import annotations

import re
from dataclasses import replace

from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import LoadKind
from umber_trunk.core.measures import CURRENT, POWER, RESISTANCE, SHAFT, VOLTAGE
from umber_trunk.core.needs.line_reader import Reader, take_amount
from umber_trunk.core.needs.line_records import DrawingLine, LoadLine, LoopSaid
from umber_trunk.core.quantity import DoubtfulError, Habit, exact, scan
from umber_trunk.core.sentences import say
from umber_trunk.core.units import (
    parse_amps,
    parse_drop,
    parse_duty,
    parse_load,
    parse_ohms,
    parse_share,
    parse_surge,
    parse_volts,
    show_ohms,
    significant,
)

LOOP_WORST_A = 0.022
"""What a 4–20 mA transmitter draws when it reports its own failure upwards (NAMUR NE 43)."""
_AMOUNTS = (CURRENT, POWER, SHAFT, RESISTANCE)


def read_limits(reader: Reader, need: LoadLine, supply_volts: float) -> None:
    """Duty, start, least volts, most drop, power factor, efficiency."""
    habit = reader.habit

    def duty(match: re.Match[str]) -> str:
        need.on_s, need.period_s = parse_duty(match[1], habit)
        return say("read.duty", on_s=need.on_s, period_s=need.period_s)

    def surge(match: re.Match[str]) -> str:
        if match[2]:
            need.surge_a, need.surge_s = parse_surge(f"{match[1]}/{match[2]}", habit)
        else:
            need.surge_a, need.surge_s = parse_amps(match[1], habit), 1.0
        return say("read.surge", amps=need.surge_a, seconds=need.surge_s)

    def least(text: str) -> str:
        need.min_volts = parse_volts(text, habit)
        rail = re.search(r"\bfrom\b", reader.text, re.I) or re.search(r"\d\s*V\b", reader.text.replace(text, " "), re.I)
        if need.min_volts >= supply_volts and not rail:
            raise InputError.of("needs.least-volts-over-supply", min_volts=need.min_volts, nominal=supply_volts)
        return say("read.works-down-to", volts=need.min_volts)

    def most(match: re.Match[str]) -> str:
        volts = parse_drop(match[1], supply_volts, habit)
        if match[1].strip().endswith("%"):
            need.max_drop_percent = round(volts / supply_volts * 100, 6)
            return say("read.drop-percent", percent=need.max_drop_percent)
        need.max_drop_v = volts
        return say("read.drop-volts", volts=volts)

    def factor(match: re.Match[str]) -> str:
        need.power_factor = parse_share(match[1], habit)
        return say("read.power-factor", factor=need.power_factor)

    def share(match: re.Match[str]) -> str:
        need.efficiency = parse_share(match[1], habit)
        return say("read.efficiency", percent=100 * need.efficiency)

    number = r"[\d.,'’\u2009\u202f/½¼¾]*\d(?:\s\d{3}(?!\d))*"
    time = rf"{number}\s*(?:ms|secs?|s|mins?|min|h|hours?|seconds?|minutes?)\b"
    reader.take("duty", rf"\bduty\s+({time}\s*(?:/|in|of|per|every)\s*{time})", duty)
    reader.take(
        "surge", rf"\b(?:surge|start(?:s|ing)?|peak|inrush)\s+({number}\s*k?A)\b\s*(?:/|for|,)?\s*({time})?", surge
    )
    reader.take_quantity("least", r"\bmin(?:imum)?\s+(?=[\d.,])", (VOLTAGE,), least)
    reader.take("drop", rf"\b(?:max\s+)?drop\s+({number}\s*(?:%|m?V\b))", most)
    reader.take("factor", r"\b(?:pf|power\s+factor|cos\s*φ)\s*([\d.,]+)", factor)
    if not reader.take("efficiency", r"\b(?:efficiency|eff)\s+([\d.,]+\s*%?)", share):
        reader.take("efficiency", r"([\d.,]+\s*%)\s+efficien\w+", share)


def read_amount(reader: Reader, need: DrawingLine, usual: float | None) -> None:
    """What the load draws; several of it count together, and its rail's volts may stand before."""
    if isinstance(need, LoadLine) and reader.take(
        "amount", r"(?<![\w.,])4\s*(?:-|–|…|to)\s*20\s*mA\b(?:\s+loop)?", lambda _: _loop(need)
    ):
        for part in ("barrier", "receiver"):
            reader.take(
                "inside", rf"\b({part})\s+({_FIGURE}\s*(?:k?ohm|k?Ω))", lambda m: _in_loop(need, m, reader.habit)
            )
        return

    def volts(text: str) -> str:
        need.volts = parse_volts(text, reader.habit)
        return say("read.from-volts", volts=need.volts)

    def amount(text: str) -> str:
        spaced = re.fullmatch(r"(\d{1,3}) (\d{3}\b.*)", text)
        before = reader.text[: reader.text.find(text)].strip()
        if spaced and before and before[-1].isalpha():
            raise DoubtfulError(
                text,
                (
                    f"{spaced[1]}{spaced[2]}",
                    f"{spaced[2]} of something called “{before.split(',')[-1].strip()} {spaced[1]}”",
                ),
            )
        many = re.match(r"(\d{1,3})\s*[x×*]\s*", text)
        read = parse_load(text[many.end() :] if many else text, reader.habit, need.efficiency, usual)
        count = int(many[1]) if many else 1
        need.kind = {"A": LoadKind.CURRENT, "W": LoadKind.POWER, "ohm": LoadKind.RESISTANCE}[read.kind]
        need.value = read.value / count if read.kind == "ohm" else read.value * count
        shown = f"{significant(need.value)} {'Ω' if read.kind == 'ohm' else read.kind}"
        return f"{shown} ({read.note})" if read.note else shown

    multiple = re.search(r"(?<![\w.,])\d{1,3}\s*[x×*]\s*(?=[\d.,])", reader.rest)
    if multiple:
        try:
            found = scan(reader.rest, multiple.end(), _AMOUNTS, "", Habit(reader.habit.decimal or "point"))
        except InputError:
            found = None
        if found is not None and found.unit:
            reader.keep(
                "amount", multiple.start(), found.end, lambda: amount(reader.rest_at(multiple.start(), found.end))
            )
    if not any(piece.kind == "amount" for piece in reader.pieces):
        take_amount(reader, "amount", _AMOUNTS, amount)
    take_amount(reader, "volts", (VOLTAGE,), volts)


_FIGURE = r"\d[\d.,]*"


def _in_loop(need: LoadLine, match: re.Match[str], habit: Habit) -> str:
    """What is in a loop beside its wires."""
    ohms, part = parse_ohms(match[2], habit), match[1].lower()
    known = need.loop or LoopSaid()
    need.loop = replace(known, barrier_ohm=ohms) if part == "barrier" else replace(known, receiver_ohm=ohms)
    return f"{part} of {show_ohms(ohms)}"


def _loop(need: LoadLine) -> str:
    need.kind, need.value, need.loop = LoadKind.CURRENT, LOOP_WORST_A, LoopSaid()
    return say("read.loop", ma=exact(1000 * LOOP_WORST_A))
