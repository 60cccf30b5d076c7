"""What is done with a job in the shop window: made, accepted, handed over, closed; one edit of the shop each."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog, QMainWindow

from umber_trunk.app.shop.shop_look import ShopLook
from umber_trunk.app.widgets.asked import text_asked
from umber_trunk.app.widgets.plain import tell
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import InputError, UmberError
from umber_trunk.core.kept_words import MOST_TEXT, said_kept
from umber_trunk.core.shop.jobs import accept, close, hand_over
from umber_trunk.core.shop.things import Delivery, Job
from umber_trunk.store.shop_file import ShopFile
from umber_trunk.store.shop_jobs import new_job


def typed_job(said: str) -> tuple[str, dict[str, Any]]:
    """(variant, units, customer and due) of a job as it is typed: “3; Gull pier; 2026-12-20”, a variant in front where
    one is meant. InputError for what is none."""
    parts = [part.strip() for part in said.split(";")]
    variant = parts.pop(0) if parts and not parts[0].isdecimal() else ""
    many, customer, due = (*parts, "", "", "")[:3]
    if not many.isdecimal() or not 0 < int(many) <= 10_000:
        raise InputError.of("window.says-no-number-of-units", said=said[:60])
    return variant, {"units": int(many), "customer": customer, "due": due}


class JobActs(QMainWindow):
    """The acts on the job that is chosen."""

    path: Path
    file: ShopFile
    shown: ShopLook | None

    @property
    def day(self) -> date:
        """Today, or the day it is looked at for."""
        raise NotImplementedError

    @property
    def job(self) -> Job | None:
        """The job that is chosen."""
        raise NotImplementedError

    def look_again(self) -> None:
        """Looks at all that stands in the shop."""
        raise NotImplementedError

    def new_job(self) -> None:
        """A job of a harness at its newest revision: how many, for whom, until when."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Of which harness?"), str(self.path.parent), "Harness (*.umber)")
        if not name:
            return
        question = tr(
            "How many, for whom, until when? As 3; Gull pier; 2026-12-20. A variant is named in front: bare; 3; …"
        )
        text, meant = text_asked(self, tr("New job"), question, "1; ; ")
        if meant:
            try:
                variant, said = typed_job(text)
                taken = {one.id for one in self.file.shop().jobs}
                job, _ = new_job(self.path, Path(name), variant, taken, **said)
                self.file.add("jobs", job, why="new")
            except UmberError as why:
                tell(self, str(why))
            self.look_again()

    def accept(self) -> None:
        """The customer has accepted."""
        self._edit("accepted", partial(accept, day=self.day))

    def hand_over(self) -> None:
        """Units that went out; those that aren't proven only with a word by whom and why."""
        shown, job = self.shown, self.job
        if shown is None or job is None:
            return
        seen = shown.seen.beside(job).seen
        proven, begun = seen.proven, {one.unit for one in seen.units}
        ready = ",".join(str(unit) for unit in sorted(proven - set(job.handed)))
        text, meant = text_asked(
            self, tr("Handed over"), tr("Which units went out? Those that are proven stand here."), ready
        )
        units = [part.strip() for part in text.split(",") if part.strip()]
        if not meant or not units:
            return
        if not all(one.isdecimal() and 0 < int(one) <= 10_000 for one in units):
            tell(self, tr("“{text}” are no units of {job}.", text=text[:60], job=job.id))
            return
        open_ = [one for one in units if int(one) not in proven]
        who = ""
        if open_:
            who, meant = text_asked(
                self, "Not proven", tr("Units {open} aren’t proven. Who lets them go, and why?", open=", ".join(open_))
            )
            if not meant or not who.strip():
                return
        gone, day = tuple(map(int, units)), self.day.isoformat()
        self._edit(
            "handed over",
            lambda job: hand_over(job, Delivery(day=day, units=gone, who=said_kept(who, MOST_TEXT)), begun),
        )

    def close_job(self) -> None:
        """Nothing more is to be done for the chosen job; why, where not all of it went out."""
        job = self.job
        if job is None:
            return
        why = ""
        if len(job.handed) < job.units:
            why, meant = text_asked(
                self,
                tr("Close it"),
                tr(
                    "{count} of {units} units went out. Why is {job} closed?",
                    count=len(job.handed),
                    units=job.units,
                    job=job.id,
                ),
            )
            if not meant or not why.strip():
                return
        self._edit("closed", partial(close, day=self.day, why=why))

    def _edit(self, what: str, made: Callable[[Any], Any]) -> None:
        job = self.job
        if job is None:
            return
        try:
            self.file.edit("jobs", job.id, made, why=what)
        except UmberError as why:
            tell(self, str(why))
        self.look_again()
