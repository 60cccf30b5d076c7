"""The counted search for the way a tree is folded that takes the least room.

┌──────────────────────────┐     The trunk lies in rows, limbs to either side of it, all at true length and no
│ ══════════════════════╗  │     tighter than their bend radius. A way of folding (`Form`) says how long rows
│   └──┐   └────┐       ║  │     are, what lies on the other side; laying one is `ribbon.py`. Some shapes are
│ ╔══════════════════════╝ │     tried first, then the best is changed a little at a time (annealing); looks are
│ ╚═══════════             │     counted, so that the answer is the same on any machine.
└──────────────────────────┘
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from random import Random

from umber_trunk.core.board.asked import Asked
from umber_trunk.core.board.crossing import crossings
from umber_trunk.core.board.grown import Grown
from umber_trunk.core.board.limbs import Branch, Tip
from umber_trunk.core.board.lying import extent_of
from umber_trunk.core.board.pieces import turns
from umber_trunk.core.board.piles import NoWayError
from umber_trunk.core.board.ribbon import Form, Ribbon, ribbon
from umber_trunk.core.board.spread import spread
from umber_trunk.core.board.trunks import Tree
from umber_trunk.core.errors import go_on_if
from umber_trunk.core.harness.way import Board

MARGIN_MM, TURN_ROOM_MM = 10.0, 50.0
"""At the edge of a board, and what the turn at a row's end takes of its width."""
WORK = 14_000
"""What may be looked at for one board, limbs laid beside a trunk; more where nothing is found by then."""
MOST_WORK = 8.0
"""So many times that for the largest trees."""
ENOUGH = 1.55
"""Room beside what is needed at least, with which the search ends."""
POOR = 2.9
"""Room beside what is needed, with which the search goes on four times as long."""
FEW = 40
"""A tree of fewer segments is small."""
ROUGHLY = 1.15
"""What takes so many times the rows of the best isn't laid to its end."""
STALE = 25
"""So many ways in a row without a better one, and the search goes on from another beginning."""
COOLING = 0.04
"""A way that is worse by up to so much is gone on from, now and then."""
FOLD_MM2 = 5_000.0
"""What a fold more may cost in room: a turn of the trunk, or of a limb beyond its first."""
MOST_SEARCHES = 2
"""So many searches, drawn differently, for what could lie on the board and doesn't after one."""
TURNED = 0.3
"""In so many tries rows are made longer or shorter so that the board holds them, as long as it doesn't."""
COULD = 0.45
"""What needs less than that share of the board can lie on it, as a rule."""
BEYOND = (1.0, 2.0)
"""What it costs to go beyond the board at all, and for each board's worth of room more."""
SHAPES = (2.0, 1.4, 2.8, 1.0, 3.6, 0.7)
"""Widths over heights that are tried first, the likeliest first."""
MOST_FORMS = 40
"""So many ways of folding are tried at least, while none goes."""


@dataclass(frozen=True)
class Block:
    """One tree laid by itself, from zero on."""

    grown: Grown
    wide: float
    tall: float
    trunk: tuple[str, ...]


def block_of(tree: Tree, asked: Asked, work: int) -> Block:
    """A tree in as little room as is found: rows of several lengths and limbs on either side, changed a little at a
    time from the best; straight limbs where nothing goes."""
    if tree.lone:
        return spread_block(tree, asked)
    found: list[Search] = []
    while len(found) < MOST_SEARCHES and (not found or (found[-1].could and not found[-1].fits)):
        search = Search(tree, asked, work * min(max(1.0, len(tree.all) / 55) ** 2, MOST_WORK), len(found))
        while search.goes_on:
            go_on_if(asked.wanted)
            search.step()
        search.press()
        found.append(search)
    best = min(found, key=lambda one: (not one.fits, one.least))
    return best.best or spread_block(tree, asked)


def spread_block(tree: Tree, asked: Asked) -> Block:
    """A tree with every limb straight."""
    part = Grown({}, {tree.lone: (0.0, 0.0)}, {tree.lone: (1.0, 0.0)}) if tree.lone else spread(tree.all, (0.0, 0.0))
    return _blocked(part, asked.tips, tuple(one.segment for one in tree.trunks[0]))


class Search:
    """Ways to fold one tree: some shapes of each trunk first, then the best of them changed; one that is a little worse
    is gone on from now and then (simulated annealing, S. Kirkpatrick and others, 1983)."""

    def __init__(self, tree: Tree, asked: Asked, work: float, seed: int = 0) -> None:
        self.tree, self.asked, self.left, self.work = tree, asked, work, work
        self.need = sum(min(one.long_mm, asked.overlong_mm) for one in tree.all) * asked.board.gap_mm
        self.need += (
            sum(card.wide_mm * card.tall_mm for card in asked.cards.values() if card.point in tree.points) + 1e4
        )
        self.begun = len(SHAPES) + 2 * (len(tree.trunks) - 1)
        self.heads = [one.segment for one in tree.all]
        self.draw, self.forms, self.form, self.number = Random(seed), 0, Form(0.0), 0
        self.best: Block | None = None
        self.best_form, self.best_number = self.form, 0
        self.least = self.now = math.inf
        self.rough = math.inf
        """Rows' length times how far apart they are, of the best: what takes much more isn't laid to its end."""
        self.fits = False
        """Whether the best lies on the board."""
        self.stale, self.beginnings = 0, list[tuple[float, int, Form, int]]()

    @property
    def longer(self) -> int:
        """How much longer a small tree that takes much room is searched for, and one that could lie on the board but
        doesn't yet."""
        hopes = self.could and not self.fits
        return 4 if hopes or (self.least > POOR and len(self.tree.all) < FEW) else 1

    @property
    def could(self) -> bool:
        """Whether the board could hold it."""
        board = self.asked.board
        return self.need < COULD * board.width_mm * board.height_mm

    @property
    def goes_on(self) -> bool:
        """Whether anything is left to try."""
        if self.best is None:
            return self.forms < MOST_FORMS and self.left > -self.work
        return (
            self.least > ENOUGH and self.left > 0 and self.forms < (MOST_FORMS + 8 * len(self.tree.all)) * self.longer
        )

    def step(self) -> None:
        """One way more."""
        number, form = self._next()
        self.forms += 1
        try:
            made, block = self._laid(number, form, math.inf if self.best is None else ROUGHLY * self.rough)
        except NoWayError as why:
            self.left -= max(why.looks, 20 * len(self.tree.all)) / self.longer
            return
        self.left -= (made.looks + len(self.tree.all)) / self.longer
        score = self._score(block)
        if self.forms <= self.begun:
            self.beginnings.append((score, self.forms, replace(form, heights=made.heights), number))
        self.stale += 1
        if score < self.now * (
            1.0 + (COOLING * self.draw.random() if self.forms > self.begun else 0.0)
        ) and not crossings(block.grown.lines):
            self.stale = self.stale if score >= self.now else 0
            self.now, self.form, self.number = score, replace(form, heights=made.heights), number
            if score < self.least:
                self.best, self.least, self.best_form, self.best_number = block, score, self.form, number
                self.rough, self.fits = form.row_mm * sum(made.heights) + 1.0, self._holds(block)

    def press(self) -> None:
        """The best once more, its rows pressed together as far as they go."""
        if self.best is None:
            return
        form = self.best_form
        for slack in (0.3, 0.08):
            try:
                made, block = self._laid(self.best_number, replace(form, slack=slack))
            except NoWayError:
                return
            if (score := self._score(block)) < self.least and not crossings(block.grown.lines):
                self.best, self.least, form = block, score, replace(form, heights=made.heights)
                self.fits = self._holds(block)

    def _laid(self, number: int, form: Form, most_mm2: float = math.inf) -> tuple[Ribbon, Block]:
        """One of the trunks laid in a form. NoWayError where it can't be, or would take more than that."""
        tree, asked = self.tree, self.asked
        trunk, beside = tree.trunks[number], _unwished(tree.beside[number])
        made = ribbon(trunk, tree.firsts[number], beside, asked.board.gap_mm, asked.overlong_mm, form, most_mm2)
        return made, _blocked(_grown(made), asked.tips, tuple(one.segment for one in trunk))

    def _next(self) -> tuple[int, Form]:
        """(which trunk, how it is folded)."""
        if self.forms < len(SHAPES):
            return 0, _form(self.forms, self.need, self.tree.trunks[0], self.asked.board)
        if self.forms < self.begun or self.best is None:
            number = (self.forms - len(SHAPES)) // 2 % len(self.tree.trunks)
            return number, _form(self.forms, self.need, self.tree.trunks[number], self.asked.board)
        if self.stale > STALE and len(self.beginnings) > 1:
            # nothing better round here: on from the next best beginning, and never from it again
            self.beginnings.sort()
            self.beginnings.pop(0)
            self.now, _, self.form, self.number = self.beginnings[0]
            self.stale = 0
        if self.could and not self.fits and self.draw.random() < TURNED:
            # what is too tall for the board in longer rows, what is too wide in shorter ones
            most = _longest_row(self.asked.board)
            row = self.best_form.row_mm
            low, high = (0.6 * row, row) if self.best.wide + 2 * MARGIN_MM > self.asked.board.width_mm else (row, most)
            return self.best_number, replace(self.best_form, row_mm=self.draw.uniform(low, max(high, low)), heights=())
        return self.number, _changed(self.form, self.heads, self.asked.board, self.draw)

    def _holds(self, block: Block) -> bool:
        """Whether the board is large enough for it."""
        board = self.asked.board
        return block.wide + 2 * MARGIN_MM <= board.width_mm and block.tall + 2 * MARGIN_MM <= board.height_mm

    def _score(self, block: Block) -> float:
        """Less is better: room beside what is needed, a little for each fold, more the further it goes beyond the
        board."""
        wide, tall = block.wide + 2 * MARGIN_MM, block.tall + 2 * MARGIN_MM
        turns: dict[str, int] = dict.fromkeys(block.grown.lines, -1) | dict.fromkeys(block.trunk, 0)
        for name, _ in block.grown.folds:
            turns[name] += 1
        board = self.asked.board
        over = max(wide / board.width_mm, 1.0) * max(tall / board.height_mm, 1.0) - 1.0
        return (wide * tall + FOLD_MM2 * sum(max(many, 0) for many in turns.values())) / self.need + (
            0.0 if self._holds(block) else BEYOND[0] + BEYOND[1] * over
        )


def _longest_row(board: Board) -> float:
    """How long a row is at most, so that what turns at its end still lies on the board."""
    return board.width_mm - 2 * MARGIN_MM - TURN_ROOM_MM


def _form(number: int, need: float, trunk: Sequence[Branch], board: Board) -> Form:
    """The n-th way to fold a ribbon to begin with."""
    shape = SHAPES[number] if number < len(SHAPES) else (2.0, 1.2)[number % 2]
    most = _longest_row(board)
    width = min(math.sqrt(2.0 * need * shape), most) if number else most  # the straightest first
    long = sum(min(one.long_mm, board.width_mm) for one in trunk)
    return Form(width if long > width else long + 1.0)


def _changed(form: Form, heads: Sequence[str], board: Board, draw: Random) -> Form:
    """A way that differs a little: its rows' length, where it begins, how tall limbs stand, limbs on the other side."""
    kind = draw.random()
    if kind < 0.25:
        row = form.row_mm * draw.uniform(0.9, 1.1)
        return replace(form, row_mm=min(max(row, 60.0), max(board.width_mm - 2 * MARGIN_MM, form.row_mm)))
    if kind < 0.4:
        return replace(form, in_mm=draw.choice((0.0, draw.uniform(0.0, 0.7) * form.row_mm)))
    if kind < 0.45 or not heads:
        return replace(form, stand_mm=draw.choice((30.0, 60.0, 110.0, 160.0)), over=draw.choice((0.05, 0.1, 0.2, 0.35)))
    return replace(form, other=form.other ^ {draw.choice(heads) for _ in range(draw.choice((1, 1, 2, 3)))})


def _unwished(beside: Sequence[Branch]) -> list[Branch]:
    """Without what the builder wants at an angle, and what hangs on it."""
    wished: set[str] = set()
    found = []
    for one in beside:
        if one.turn_deg is not None or one.start in wished:
            wished.add(one.end)
        else:
            found.append(one)
    return found


def _grown(made: Ribbon) -> Grown:
    grown = Grown(spots=made.spots, ways=made.ways)
    for name, one in made.placed.items():
        grown.lines[name] = one.line
        grown.corners += [(name, spot) for spot in one.corners]
        grown.folds += [(name, spot) for spot in turns(one.corners)]
        if one.reel is not None:
            grown.reels[name] = one.reel
    return grown


def _blocked(grown: Grown, tips: Mapping[str, Tip], trunk: tuple[str, ...]) -> Block:
    """Moved so that all of it lies at zero and beyond."""
    low_x, low_y, high_x, high_y = extent_of(grown, tips, {})
    return Block(grown.moved(-low_x, -low_y), high_x - low_x, high_y - low_y, trunk)
