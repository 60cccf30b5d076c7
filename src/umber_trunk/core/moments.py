"""Moments of the log as they are said; one that no clock shows is said to be none, since a log may hold anything. Days
of the calendar, as a shop promises them."""

from __future__ import annotations

from datetime import date, datetime, timedelta

FIRST_MS, LAST_MS = 0, 4_102_444_800_000
"""From 1970, where the clock of a station without a battery begins, to 2100: no entry of a log is from before or
after."""
NONE = "no such time"
Day = date
"""A day of the calendar."""


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
