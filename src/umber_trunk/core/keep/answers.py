"""An answer of a proof: whether it is in the band of its list, and how it is told."""

from __future__ import annotations

from typing import TYPE_CHECKING

from umber_trunk.core.make.events import Event
from umber_trunk.core.make.unit_acts import Test
from umber_trunk.core.sentences import Message

if TYPE_CHECKING:
    from umber_trunk.core.prove.checklist import Test as Listed


def judged(listed: Listed, answer: Test) -> bool:
    """Whether an answer is in the band of the list, whatever it says of itself."""
    if not listed.unit:
        return answer.ok and answer.value is None and not answer.over
    if answer.unit != listed.unit:
        return False
    if answer.over:
        return answer.value is None and listed.high is None and listed.low is not None
    if answer.value is None:
        return False
    return (listed.low is None or answer.value >= listed.low) and (listed.high is None or answer.value <= listed.high)


def what_of(event: Event) -> Message:
    """A reading in words, as the beginning of what is said of it."""
    act = event.act
    if not isinstance(act, Test):
        return Message.of("unproven.a-reading")
    value = "" if act.over or act.value is None else f"{act.value:.4g} {act.unit}"
    return Message.of("unproven.test", n=act.n or "+", over=act.over, value=value, plain=not act.over and not value)


def station_of(event: Event) -> str:
    """At which station it was found, where somebody says so."""
    return getattr(event.act, "station", "")
