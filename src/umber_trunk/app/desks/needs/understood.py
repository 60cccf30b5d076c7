"""What the line says so far, as it is shown under it: the pieces understood, what is missing, what could come next."""

from __future__ import annotations

from html import escape

from umber_trunk.app import theme
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.needs.line_records import Need


def next_told(text: str, lines: list[str]) -> str:
    """What could come next, Tab taking the first."""
    base = text.rstrip()
    ends = [line[len(base) :].strip() if line.startswith(base) else line.rsplit(" ", 1)[-1] for line in lines]
    shown = " &nbsp;·&nbsp; ".join(
        f"<b>{escape(end)}</b>" if not at else escape(end) for at, end in enumerate(ends) if end
    )
    return (
        f"<br><span style='color:{theme.INK_SOFT.name()}'>{tr('next, Tab takes the first:')} &nbsp;{shown}</span>"
        if shown
        else ""
    )


def chips(need: Need) -> str:
    """The pieces understood, in the line's order, then what is missing."""
    parts = []
    for piece in need.pieces:
        paper = theme.GOOD_PALE if piece.ok else theme.BROKEN_PALE
        mark = "" if piece.ok else "✕ "
        parts.append(
            f"<span style='background:{paper.name()}'>&nbsp;{mark}<span style='color:{theme.INK_SOFT.name()}'>"
            f"{piece.kind}</span> <b>{escape(piece.meaning)}</b>&nbsp;</span>"
        )
    pale = theme.TIGHT_PALE.name()
    wanted = [escape(tr("say {what}", what=what)) for what in need.missing]
    missing = "".join(f" &nbsp;<span style='background:{pale}'>&nbsp;{what}&nbsp;</span>" for what in wanted)
    return " &nbsp;".join(parts) + missing
