"""The rating chain: a circuit is as good as its weakest part, from the source to the load and back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.harness.end import LinkKind
from umber_trunk.core.harness.model import Pin
from umber_trunk.core.physics.fuses import continuous_a
from umber_trunk.core.results import Results
from umber_trunk.core.solve.feeds import Leg, Ways
from umber_trunk.core.solve.solution import CaseSolution
from umber_trunk.core.solve.used import Figures


@dataclass(frozen=True)
class Part:
    """One part of a chain: what it may carry all day, what it does carry."""

    name: str
    kind: str
    rating_a: float
    amps: float

    @property
    def used(self) -> float:
        """Share of its rating in use."""
        return self.amps / self.rating_a if self.rating_a > 0 else float("inf")


class Chains:
    """The chains of all loads of one set of figures; each case's ways are worked out once."""

    def __init__(self, found: Figures) -> None:
        self.found = found
        self.plant = found.solution.plant
        self._cases = found.cases
        self._ways: dict[str, Ways] = {}
        self._known: dict[str, list[Leg]] = {}
        self._rated = {
            (end.id, cavity.id): cavity.rating_a
            for end in self.plant.design.ends
            for cavity in end.cavities
            if cavity.rating_a is not None
        }
        self._inside: dict[tuple[int, int], float] = {}
        self._terminals: list[list[int]] = [side.tolist() for side in self.plant.terminals]
        self._at_pin = self.plant.index.once_wired("wires at pins", self._wires_at_pins)

    def _wires_at_pins(self) -> dict[tuple[str, str], int]:
        pins = ((row, pin) for row, wire in enumerate(self.plant.wires) for pin in (wire.start, wire.finish))
        return {(pin.end, pin.cavity): row for row, pin in pins}

    def feed_row(self, pin: Pin) -> int | None:
        """Row of a wire at a pin."""
        return self._at_pin.get((pin.end, pin.cavity))

    def _ways_in(self, case_id: str) -> Ways:
        if case_id not in self._ways:
            self._ways[case_id] = Ways(self.plant, self._cases[case_id])
        return self._ways[case_id]

    def _legs(self, load_id: str) -> tuple[CaseSolution, list[Leg]]:
        entry = self.found.loads[load_id]
        if load_id not in self._known:
            self._known[load_id] = self._ways_in(entry.case).of(entry.row)
        return self._cases[entry.case], self._known[load_id]

    def parts(self, load_id: str) -> list[Part]:
        """Every part with a known rating on a load's way, the most used first. Wires count with the
        current that would bring them to their jacket's limit where they lie (rise goes with its square)."""
        case, legs = self._legs(load_id)
        parts: list[Part] = []
        for leg in legs:
            parts += self._wire(case, leg) if leg.branch < len(self.plant.wires) else self._link(leg)
        return sorted(parts, key=lambda part: -round(part.used, 9))  # parts used alike stay in the order current flows

    def fault_a(self, load_id: str) -> float:
        """Current into a short across the load's terminals: EMF over the whole loop, warm, and the inner resistance of
        the source it hangs on; sources side by side share."""
        entry = self.found.loads[load_id]
        plant = self.plant
        plus, minus = self._terminals[0][entry.row], self._terminals[1][entry.row]
        if (plus, minus) not in self._inside:
            beside = np.flatnonzero((plant.network.plus == plus) & (plant.network.minus == minus))
            rows = beside if len(beside) else np.flatnonzero(plant.network.plus == plus)
            together = 1 / float((1 / plant.source_ohm[rows]).sum()) if len(rows) else 0.0
            self._inside[plus, minus] = together if len(rows) else float(plant.source_ohm.max(initial=0.0))
        loop = self._ways_in(entry.case).loop_ohm(entry.row) + self._inside[plus, minus]
        return entry.nominal_v / max(loop, 1e-4)

    def _wire(self, case: CaseSolution, leg: Leg) -> list[Part]:
        wire = self.plant.wires[leg.branch]
        size = show_size(self.plant.conductors[leg.branch].size.label)
        rise = float(case.conductor_c[leg.branch] - case.ambient_c[leg.branch])
        room = float(self.plant.limit_c[leg.branch] - case.ambient_c[leg.branch])
        parts = []
        if rise > 0.05 and room > 0:
            rating = leg.amps * float(np.sqrt(room / rise))
            parts.append(Part(f"{wire.name or wire.id}, {size}", "wire", rating, leg.amps))
        return parts + self._contacts(leg)

    def contacts(self, load_id: str) -> list[Part]:
        """The contacts with a known rating on a load's way."""
        if not self._rated:
            return []
        _, legs = self._legs(load_id)
        return [part for leg in legs if leg.branch < len(self.plant.wires) for part in self._contacts(leg)]

    def _contacts(self, leg: Leg) -> list[Part]:
        wire = self.plant.wires[leg.branch]
        return [part for pin in (wire.start, wire.finish) for part in self._contact(pin, leg.amps)]

    def _contact(self, pin: Pin, amps: float) -> list[Part]:
        rating = self._rated.get((pin.end, pin.cavity))
        if rating is None:
            return []
        return [Part(f"contact {self.plant.index.ends[pin.end].name} {pin.cavity}", "contact", rating, amps)]

    def _link(self, leg: Leg) -> list[Part]:
        end_id, link = self.plant.links[leg.branch - len(self.plant.wires)]
        end = self.plant.index.ends[end_id]
        if link.rating_a is None:
            return []
        zone = self.plant.index.zones.get(end.zone or "")
        ambient = zone.ambient_c if zone else self.plant.design.project.ambient_c
        most = continuous_a(link.rating_a, ambient) if link.kind is LinkKind.FUSE else link.rating_a
        return [Part(f"{link.kind} {link.id} {link.rating_a:g} A in {end.name}", str(link.kind), most, leg.amps)]


def chains(results: Results) -> Chains:
    """The chains of these results, for `Results.once`."""
    return Chains(results.figures)
