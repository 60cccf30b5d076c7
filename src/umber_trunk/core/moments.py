"""Moments of the log as they are said; one that no clock shows is said to be none, since a log may hold anything. Days
of the calendar, as a shop promises them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import date, datetime, timedelta, tzinfo
from datetime import time as clock
from zoneinfo import ZoneInfo

FIRST_MS, LAST_MS = 0, 4_102_444_800_000
"""From 1970, where the clock of a station without a battery begins, to 2100: no entry of a log is from before or
after."""
NONE = "no such time"
Day = date
"""A day of the calendar."""
Zone = tzinfo
"""Where clocks are changed when."""


def possible(ms: int) -> bool:
    """Whether an entry can be of this moment."""
    return FIRST_MS <= ms < LAST_MS


def _at(ms: int) -> datetime | None:
    try:
        return datetime.fromtimestamp(ms / 1000)
    except (OverflowError, ValueError, OSError):
        return None


def moment(ms: int, seconds: bool = False) -> str:
    """A moment as it is printed."""
    at = _at(ms)
    return at.strftime("%Y-%m-%d %H:%M:%S" if seconds else "%Y-%m-%d %H:%M") if at is not None else NONE


def iso(ms: int) -> str:
    """A moment for other programs, as ISO 8601 has it."""
    at = _at(ms)
    return at.isoformat(timespec="seconds") if at is not None else NONE


def day(ms: int) -> str:
    """A day as it is said: 12 May 2026."""
    at = _at(ms)
    return f"{at.day} {at:%b %Y}" if at is not None else NONE


def day_from(text: str) -> Day:
    """A day said as ISO 8601 has it; ValueError for none of the calendar."""
    return date.fromisoformat(text)


def days_on(start: Day, many: int) -> Day:
    """The day so many days on."""
    return start + timedelta(days=many)


def zone_of(name: str, moment_text: str) -> tzinfo:
    """A time zone by its name (IANA), or the offset that a moment was said with where none is named. ValueError for a
    name there is none of, and a moment that says no offset."""
    if name:
        try:
            return ZoneInfo(name)
        except (KeyError, OSError, ValueError) as why:
            raise ValueError(f"“{name[:60]}” is no time zone") from why
    said = datetime.fromisoformat(moment_text).tzinfo
    if said is None:
        raise ValueError("the moment says no zone: 2026-12-01T08:00+01:00")
    return said


def seconds_of(moment_text: str, zone: tzinfo) -> int:
    """A moment said as ISO 8601 in seconds since 1970; one without an offset is in the zone."""
    at = datetime.fromisoformat(moment_text)
    return int((at if at.tzinfo is not None else at.replace(tzinfo=zone)).timestamp())


def told_in(seconds: int, zone: tzinfo) -> str:
    """A moment as ISO 8601 with its offset."""
    return datetime.fromtimestamp(seconds, zone).isoformat(timespec="seconds")


def day_at(seconds: int, zone: tzinfo) -> Day:
    """The day of a moment."""
    return datetime.fromtimestamp(seconds, zone).date()


def end_of(day_: Day, zone: tzinfo) -> int:
    """When a day is over, in seconds since 1970."""
    return int(datetime.combine(day_ + timedelta(days=1), clock(0), zone).timestamp())


def working_spans(
    hours: Sequence[tuple[int, str, str]], off: Collection[str], zone: tzinfo, first: Day, days: int
) -> list[tuple[int, int]]:
    """(start, end) in seconds since 1970 of all hours of weekdays (0 is Monday; “08:00”, “24:00” is the day's end) on
    so many days from the first on, days off left out. By the wall's clock: a night in which it is changed is longer or
    shorter."""
    found = []
    for number in range(days):
        today = first + timedelta(days=number)
        if today.isoformat() in off:
            continue
        for weekday, start, end in hours:
            if weekday == today.weekday():
                a, b = _wall(today, start, zone), _wall(today, end, zone)
                if b > a:
                    found.append((a, b))
    return sorted(found)


def _wall(day_: Day, text: str, zone: tzinfo) -> int:
    hour, minute = map(int, text.split(":"))
    if hour == 24:
        return end_of(day_, zone)
    return int(datetime.combine(day_, clock(hour, minute), zone).timestamp())
