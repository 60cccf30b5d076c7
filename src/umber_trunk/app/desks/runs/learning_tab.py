"""What the shop's found lengths teach, beside what was planned."""

from __future__ import annotations

from umber_trunk.app.desks.runs.way_tabs import two
from umber_trunk.app.desks.runs.way_views import LearntView
from umber_trunk.app.widgets.desk import Desk, Panel, button, hint, row
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.lengths.accept import learn, unlearn
from umber_trunk.core.lengths.history import LEAST_PAIRS, Habit, habits


class LearningPanel(Panel):
    """What found lengths say of each way of measuring."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        note = tr(
            "Planned and found lengths of built harnesses correct how you measure. Say: string 2.40 m found 2.43 "
            "m. From {least_pairs} pairs on a way of measuring can be taken over.",
            least_pairs=LEAST_PAIRS,
        )
        self.rows = desk.table("Ways of measuring", "learning", self._columns(), lambda r: r.method.value)
        self.learnt = LearntView()
        self.rows.current.connect(lambda _: self._moved())
        self.column.addWidget(hint(note))
        self.column.addLayout(two(self.rows, self.learnt))
        keep = button(
            "Measure so from now on",
            self.take,
            primary=True,
            tip="Its bias counts in every cut, its ± goes onto every segment measured so",
        )
        back = button("As it stands again", self.back, tip="Forgets the bias; ± of segments stay")
        self.column.addLayout(row(None, back, keep))

    def show_now(self) -> None:
        self.rows.show_rows(habits(self.desk.document.design.project.history))
        self._moved()

    def _moved(self) -> None:
        """The pairs of the chosen way of measuring, the first where none is chosen."""
        rows, chosen = self.rows.rows_model.rows, self.rows.chosen_id()
        one = next((row for row in rows if row.method.value == chosen), rows[0] if rows else None)
        history = self.desk.document.design.project.history
        pairs = [(pair.planned_m, pair.found_m) for pair in history if one is not None and pair.method is one.method]
        self.learnt.setVisible(bool(pairs))
        self.learnt.show_pairs(
            pairs, one.bias if one else 0.0, one.share if one else 0.0, one is not None and one.enough
        )

    def _chosen(self) -> Habit | None:
        chosen = self.rows.chosen_id()
        found = next((one for one in self.rows.rows_model.rows if one.method.value == chosen), None)
        if found is None:
            self.desk.said.emit(tr("Choose a way of measuring first."))
        return found

    def take(self) -> None:
        """What the history says of the chosen way is taken over."""
        found = self._chosen()
        if found is not None:
            self.desk.document.apply(
                lambda design: learn(design, found.method), f"learn how {found.method.value} is off"
            )

    def back(self) -> None:
        """The chosen way counts as it stands."""
        found = self._chosen()
        if found is not None:
            self.desk.document.apply(lambda design: unlearn(design, found.method), f"{found.method.value} as it stands")

    def _columns(self) -> list[Column]:
        def kept(one: Habit) -> str:
            learned = {row.method for row in self.desk.document.design.project.learned}
            return tr("taken over") if one.method in learned else "" if one.enough else tr("too few pairs")

        return [
            Column("Measured by", lambda r: r.method.value, width=110),
            Column("Pairs", lambda r: str(r.pairs), right=True, width=60),
            Column("Found, of planned", lambda r: f"{100 * r.bias:+.2f} %", right=True, width=140),
            Column("± from now on", lambda r: f"{100 * r.share:.2f} %" if r.pairs > 1 else "–", right=True, width=120),
            Column("", lambda r: tr("off for sure") if r.biased else tr("not surely off"), width=120),
            Column("", kept, width=-1),
        ]
