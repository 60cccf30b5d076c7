"""Moments of the log as they are said."""

from __future__ import annotations

from datetime import datetime


def moment(ms: int) -> str:
    """A moment as it is printed."""
    return datetime.fromtimestamp(ms / 1000).strftime("%Y-%m-%d %H:%M")


def day(ms: int) -> str:
    """A day as it is said: 12 May 2026."""
    at = datetime.fromtimestamp(ms / 1000)
    return f"{at.day} {at:%b %Y}"
