"""On and back along the steps, one key each: the handful or a piece of it, the last act taken back, who works now."""

from __future__ import annotations

from umber_trunk.app.desks.make.at_bench import AtBench
from umber_trunk.app.widgets.words import tr


class Stepping(AtBench):
    """What the keys of the bench do."""

    def forward(self) -> None:
        """The handful is done, or the piece that was chosen of it, or the step now: as the shop has it."""
        build = self.build
        if build is not None:
            steps = self.in_hand(build)
            self.chosen = -1
            self.act((lambda: build.attest(steps)) if steps else build.advance)

    def step_along(self, by: int) -> None:
        """Left and Right choose a piece of the handful, Escape none."""
        here = self.build.bench.handful if self.build is not None else None
        if here is None or len(here.pieces) < 2:
            return
        many = len(here.pieces)
        self.chosen = -1 if not by else (self.chosen + by) % many if self.chosen >= 0 else 0 if by > 0 else many - 1
        self.show_card()

    def change_habit(self) -> None:
        """One key attests a whole handful of this operation, or each piece, from now on."""
        here = self.build.bench.handful if self.build is not None else None
        if here is not None:
            self.habits.change(here.first.op)
            self.show_card()
        self.to_bench()

    def change_hands(self) -> None:
        """The next of those who worked on this build works now."""
        build = self.build
        if build is not None:
            names = list(
                dict.fromkeys(name for event in build.bench.history if (name := str(getattr(event.act, "hand", ""))))
            )
            mine = self.hand.text().strip()
            names += [mine] if mine and mine not in names else []
            others = names[names.index(mine) + 1 :] + names[: names.index(mine)] if mine in names else names
            if others:
                self.hand.setText(others[0])
                self.say_right(tr("{others} works now", others=others[0]))
            else:
                self.say_wrong(tr("Nobody else worked on this build yet: type a name below the builds once."))
        self.to_bench()

    def another_sample(self) -> None:
        """The tool's sample is made and measured once more."""
        if self.build is not None:
            self.act(self.build.another_sample, tr("a sample first, then the batch goes on"))
        self.to_bench()

    def backward(self) -> None:
        """The last act is taken back; what was done to the chosen piece alone, where one is chosen."""
        build = self.build
        here = build.bench.handful if build is not None else None
        if build is not None:
            piece = here.pieces[self.chosen] if here is not None and 0 <= self.chosen < len(here.pieces) else ()
            self.act(lambda: build.back(piece), tr("taken back"))
