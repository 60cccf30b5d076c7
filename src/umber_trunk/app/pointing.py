"""Parts of a harness pointed at: chosen on the picture and shown on the desk, or the other way round; the board in
place of the trunk."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QMainWindow, QSplitter, QStackedWidget

from umber_trunk.app.document import Document
from umber_trunk.app.made_ahead import Desks
from umber_trunk.app.trunk.view import TrunkCanvas
from umber_trunk.core.findings import Finding
from umber_trunk.core.stages import home_of, stage_of

if TYPE_CHECKING:
    from umber_trunk.app.trunk.board_view import BoardView

BOARD_SHARE = 0.66
"""Of the window’s height, for the board."""


class Pointing(QMainWindow):
    """Picture and desks show the same part."""

    document: Document
    trunk: TrunkCanvas
    split: QSplitter
    pictures: QStackedWidget
    desks: Desks
    _board: BoardView | None
    _before_board: list[int]

    @property
    def stage(self) -> str:
        """The stage on screen."""
        raise NotImplementedError

    def show_stage(self, stage: str) -> None:
        """Brings a stage's desk up."""
        raise NotImplementedError

    def say(self, text: str, fault: bool = False) -> None:
        """One line at the bottom."""
        raise NotImplementedError

    def show_board(self, shown: bool) -> None:
        """The board at true scale in place of the trunk picture, or back."""
        if not shown:
            if self._before_board:
                self.split.setSizes(self._before_board)
                self._before_board = []
            self.pictures.setCurrentWidget(self.trunk)
            return
        if self._board is None:
            from umber_trunk.app.trunk.board_view import BoardView

            self._board = BoardView(self.document)
            self._board.picked.connect(self.pick)
            self._board.said.connect(self.say)
            self.pictures.addWidget(self._board)
        if self.pictures.currentWidget() is not self._board:
            upper, lower = self.split.sizes()
            self._before_board = [upper, lower]
            self.split.setSizes([int(BOARD_SHARE * (upper + lower)), int((1 - BOARD_SHARE) * (upper + lower))])
        self.pictures.setCurrentWidget(self._board)
        self._board.light(self.trunk.selected)

    def light(self, subjects: set[tuple[str, str]]) -> None:
        """What a desk lights up, on the trunk and on the board."""
        self.trunk.select(subjects)
        if self._board is not None:
            self._board.light(self.trunk.selected)

    @property
    def board(self) -> BoardView | None:
        """The board, once it was shown."""
        return self._board

    def to_picture(self) -> None:
        """Puts the keyboard on the picture shown."""
        self.pictures.currentWidget().setFocus()

    def pick(self, table: str, part: str) -> None:
        """A part was chosen on the picture: halo, status line, and its row where this desk has one."""
        self.say(self.trunk.describe((table, part)))
        self.desks[self.stage].reveal(table, part)
        self.light({(table, part)})

    def go_to(self, table: str, part: str) -> bool:
        """Shows a part wherever it is at home; False where no desk has it and only the picture can show it."""
        home = home_of(table)
        here = self.desks[self.stage]
        shown = (here.in_view(table) or home in (None, stage_of(self.stage))) and here.reveal(table, part)
        if not shown and home is not None:
            self.show_stage(home.id)
            shown = self.desks[home.id].reveal(table, part)
        self._point(table, part)
        return shown

    def show_finding(self, finding: Finding) -> bool:
        """The desk that mends a finding, and its part there."""
        if self.stage != finding.stage:
            self.show_stage(finding.stage)
        shown = self.desks[finding.stage].reveal(finding.table, finding.subject)
        self._point(finding.table, finding.subject)
        return shown

    def _point(self, table: str, part: str) -> None:
        self.trunk.select({(table, part)})
        self.say(self.trunk.describe((table, part)))
