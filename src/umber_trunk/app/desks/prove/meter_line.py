"""What readings come from: a meter on its line, dialled again where it was lost, or a simulated unit."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer

from umber_trunk.app.background import Background
from umber_trunk.app.desks.prove.at_proof import AtProof
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.prove.faults import parse_fault
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.store.device import UnpluggedError
from umber_trunk.store.meters import MeterLink

AGAIN_MS, TRIES = 2000, 30
"""How often a meter that was lost is tried again by itself, and how many times."""


class MeterLine(AtProof):
    """One line at a time, opened and read beside the window."""

    link: MeterLink | None
    meter: Line
    hidden: Line

    def lay_line(self, failed: Callable[[Exception], None]) -> None:
        """No meter yet; what fails on the line goes to `failed`."""
        self.link = None
        self.dialling = Background(self)
        self.dialling.answered.connect(self._connected)
        self.dialling.crashed.connect(failed)
        self._tries = 0
        self.again = QTimer(self, singleShot=True, interval=AGAIN_MS)
        self.again.timeout.connect(self._dial_again)

    @property
    def made_up(self) -> bool:
        """Whether the readings taken now are a simulated unit's."""
        return self.unit is not None or (self.link is not None and self.link.box)

    def hang_up(self) -> None:
        """Lets go of the meter, and of what is asked of it."""
        self.again.stop()
        self.dialling.drop()
        if self.link is not None:
            self.link.close()
            self.link = None

    def comes_back(self, why: Exception) -> bool:
        """A meter that was lost is tried again by itself: whether it is."""
        if not isinstance(why, UnpluggedError) or self.link is None or self._tries >= TRIES:
            return False
        self.again.start()
        return True

    def _dial_again(self) -> None:
        """Asks a meter that was lost whether it is back; what it reads is asked for by hand, since the unit may have
        been moved meanwhile."""
        link = self.link
        if link is None:
            return
        if self.busy:
            self.again.start()
            return
        self._tries += 1

        def work(_: Wanted) -> MeterLink:
            link.dial_again()
            return link

        self.dialling.ask(work)

    def connect_meter(self) -> None:
        """Opens the meter at the address."""
        if self.worker.busy:
            return
        self.hang_up()
        self._tries = 0
        address = self.meter.text().strip()
        self.dialling.ask(lambda _: MeterLink(address))

    def _connected(self, link: MeterLink) -> None:
        self.link, self.unit = link, None
        name = link.name.split(",")[1] if "," in link.name else link.name
        said = tr("{name} answers again: Space reads, F4 runs on.") if self._tries else tr("{name} answers.")
        self.tell(said.format(name=name), False)
        self._tries = 0

    def simulate(self) -> None:
        """A made-up unit with the faults named."""
        if self.proof is None:
            return
        try:
            faults = [parse_fault(self.proof.net, word) for word in self.hidden.text().split()]
        except UmberError as why:
            self.tell(str(why), True)
            return
        self.unit = Unit(self.proof.net, faults, 1)
        self.tell(tr("A simulated unit is under test: Space reads it, F4 runs on."), False)
        self.view.setFocus()
