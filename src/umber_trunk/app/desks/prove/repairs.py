"""What is said of a unit beside its readings: its electronics are off, it is taken as it is, it was mended. All of it
by name, and in the log."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox

from umber_trunk.app.desks.prove.at_proof import AtProof
from umber_trunk.app.widgets.asked import name_and_what, one_of, text_asked
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.prove.priors import KIND_NAMES
from umber_trunk.store.found_faults import count_found
from umber_trunk.store.keeping import log_said


class Repairs(AtProof):
    """Only a unit of a build has a log."""

    safe: QCheckBox

    def cut_off(self, on: bool) -> None:
        """Somebody says that the electronics are disconnected, or that they aren’t."""
        if self.proof is None:
            return
        self.proof.disconnected = on
        if self.kept is not None and on:
            if not self.hand.text().strip():
                self.safe.setChecked(False)
                self.tell(tr("Say who tests first: who says that the electronics are off stands in the log."), True)
                self.hand.setFocus()
                return
            try:
                self.kept.hand = self.hand.text().strip()
                self.kept.safe()
            except UmberError as why:
                self.tell(str(why), True)
                return
        self.show_card()

    def as_is(self) -> None:
        """A unit whose steps aren't in the log is taken as it is, by name."""
        if self.kept is None:
            self.tell(tr("A trial has no record: choose a unit of a build."), True)
            return
        said = name_and_what(
            self, tr("As it is"), tr("Who takes it as it is, and why (name: why)? Both stand first on its papers.")
        )
        if said is not None:
            try:
                self.kept.take_as_is(*said)
            except UmberError as why:
                self.tell(str(why), True)
                return
            self.document.look()
            self.tell(tr("taken as it is by {who}").format(who=said[0]), False)

    def mended(self) -> None:
        """A repair is noted; the proof begins anew."""
        if self.kept is None:
            self.tell(tr("A trial has no record: choose a unit of a build."), True)
            return
        if not self.hand.text().strip():
            self.tell(tr("Say who mended it first: the name stands in the log."), True)
            self.hand.setFocus()
            return
        was = self._was()
        what, ok = text_asked(self, tr("Mended"), tr("What was done?")) if was is not None else ("", False)
        if not ok or not what.strip():
            return
        try:
            log_said(
                self.document.project,
                f"{self.kept.build}/{self.kept.unit}",
                "mended",
                {"says": what, "who": self.hand.text()} | ({"was": was} if was else {}),
            )
        except UmberError as why:
            self.tell(str(why), True)
            return
        try:
            count_found(was or "")
            self.open_unit()
        except UmberError as why:  # the repair stands, whatever becomes of the count
            self.open_unit(str(why))

    def _was(self) -> str | None:
        """The kind of fault that was found, so that the shop learns how often each is met: "" for none of those known,
        None where it was given up."""
        named = (
            {str(cause.words): cause.fault.what for cause in self.verdict.causes[:6]}
            if self.verdict is not None
            else {}
        )
        kinds = {tr("another fault: {name}", name=name): what for what, name in KIND_NAMES.items()}
        offered = named | kinds | {tr("none of these, or not known"): ""}
        chosen, ok = one_of(
            self, tr("Mended"), tr("What was it? The judge learns from it how often each is met here."), list(offered)
        )
        return offered[chosen] if ok else None
