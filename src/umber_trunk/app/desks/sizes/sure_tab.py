"""How sure the verdicts are: what the ± of lengths, loads and joints does to them, first what may turn out either
way."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QScrollArea, QVBoxLayout

from umber_trunk.app.desks.sizes.while_shown import WhileShown
from umber_trunk.app.widgets.desk import Desk, hint
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.whiskers_view import WhiskersView
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.sizes.sure import Sure, how_sure

MOST_SHOWN = 60


class SurePanel(WhileShown):
    """Signals: chosen(kind, id)."""

    chosen = Signal(str, str)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.found: tuple[Sure, ...] | None = None
        self._work.answered.connect(self._show)
        self.view = WhiskersView()
        self.view.chosen.connect(self.chosen)
        self.told = Label()
        self.told.setWordWrap(True)
        room = QScrollArea()
        room.setWidgetResizable(True)
        room.setWidget(self.view)
        room.setFrameShape(QScrollArea.Shape.NoFrame)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(
            hint(
                "A dot is the use of the worst limit, the band two σ either side: by each length’s ±, 10 % of a load, "
                "and joints nobody measured."
            )
        )
        layout.addWidget(self.told)
        layout.addWidget(room)

    def forget(self) -> None:
        self.found = None
        self.view.show_rows([])

    def go_on(self) -> None:
        analysis = self.analysis
        if analysis is None or not self.idle or self.found is not None:
            return
        self.told.setText(tr("working it out: a harness solved for every length and load …"))
        self._work.ask(lambda wanted: how_sure(analysis, wanted))

    def _show(self, found: tuple[Sure, ...]) -> None:
        assert self.analysis is not None
        self.found, figures = found, self.analysis.figures
        names = {("load", key): one.load.name for key, one in figures.loads.items()}
        names |= {("wire", key): f"{key}  {one.wire.name or one.wire.circuit}" for key, one in figures.wires.items()}
        either_way = sorted(
            found, key=lambda one: abs(round(one.chance, 3) - 0.5)
        )  # what is as good as sure keeps its order
        self.view.show_rows([(one, names[one.kind, one.id]) for one in either_way[:MOST_SHOWN]])
        open_ = sum(0.05 < one.chance < 0.95 for one in found)
        broken = sum(one.chance <= 0.05 for one in found)
        said = (
            tr("Nothing is fed yet.")
            if not found
            else tr(
                "{count} verdicts: {broken} broken for sure, {open} hang on what was guessed, the others hold "
                "for sure (19 times of 20).",
                count=len(found),
                broken=broken,
                open=open_,
            )
        )
        more = (
            tr(" The {most_shown} least decided are drawn.", most_shown=MOST_SHOWN) if len(found) > MOST_SHOWN else ""
        )
        self.told.setText(said + more)
