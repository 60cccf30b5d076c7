"""What judging a fit needs: the record it ends in, and what all rules share."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import inf
from typing import Any

from umber_trunk.core.catalog.parts import Between, Boot, Clamp, Crimped, Housing, Seal
from umber_trunk.core.ends.covering import Fitted, fitted
from umber_trunk.core.ends.wire_ends import Places, WireEnd, places_of
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import NOTHING, Message
from umber_trunk.core.units import significant

FAULT, WARNING, NOTE = Severity.FAULT, Severity.WARNING, Severity.NOTE
CONTACT_RISE_K = 30.0
"""Rise that a contact's rated current stands for; it goes with the square of the current (IEC 60512-5-2 as usually
read)."""
MOST_ON_A_STUD = 4
"""Terminals on one stud at most (ABYC E-11)."""
BEND_TIMES = 4.0
"""Least bend radius of a wire over its outside where a housing's sheet gives no room."""
TORQUE_NM = {4: 1.2, 5: 2.5, 6: 4.5, 8: 11.0, 10: 22.0, 12: 38.0}
"""Usual torque of a steel stud by its thread; the maker's sheet wins."""


Options = Callable[[], tuple[str, ...]]
"""The parts that would do, looked for only where a fit isn't met."""


@dataclass(frozen=True)
class Fit:
    """One rule at one place. `value` has to lie from `low` to `high`, either None where that side is open; with both
    None `ok` alone says it. `said` is what was found, `mend` what to do about it, nothing where it holds. `options` are
    the ids of parts that would do, the best first."""

    end: str
    cavity: str
    wire: str
    part: str
    rule: str
    ok: bool
    value: float | None
    low: float | None
    high: float | None
    unit: str
    said: Message
    mend: Message = NOTHING
    options: tuple[str, ...] = ()
    severity: Severity = FAULT
    proposed: bool = False
    source: str = ""

    @property
    def id(self) -> str:
        """Where it is and what was asked."""
        return f"{self.end} {self.cavity} {self.wire} {self.rule}"

    @property
    def message(self) -> str:
        """What was found, in a sentence."""
        return str(self.said)

    @property
    def cure(self) -> str:
        """What to do, in a sentence; "" where it holds."""
        return str(self.mend)

    @property
    def off(self) -> float:
        """By how much the value is outside, 0 inside."""
        if self.value is None:
            return 0.0
        return max(
            self.value - (inf if self.high is None else self.high),
            (-inf if self.low is None else self.low) - self.value,
            0.0,
        )


class Judging:
    """What all rules work with; `whole`: fits that are met are told too."""

    def __init__(self, results: Results, whole: bool = True) -> None:
        self.results, self.whole = results, whole
        self.places: Places = places_of(results.design, results.shelf)
        self.shelf = self.places.shelf
        self.fitted: Fitted = results.once(fitted)
        self.practice = results.design.project.practice
        self.plant = results.plant
        self.index = index_of(results.design)
        self.net_a = self._currents()
        self.other_housings: dict[tuple[str, float, tuple[float, ...], float], str] = {}
        """What `no_part` found in place of a housing, by it and what it has to take."""

    def _currents(self) -> dict[tuple[str, str], float]:
        """Cavity → the most that passes through its contact in any case: the sum, with signs, of the wires in it."""
        found: dict[tuple[str, str], float] = {}
        for case in self.results.figures.solution.cases:
            amps = case.wire_a.tolist()
            here: dict[tuple[str, str], float] = {}
            for wire, current in zip(self.plant.wires, amps, strict=True):
                for pin, sign in ((wire.start, -1.0), (wire.finish, 1.0)):
                    here[pin.end, pin.cavity] = here.get((pin.end, pin.cavity), 0.0) + sign * current
            for key, value in here.items():
                found[key] = max(found.get(key, 0.0), abs(value))
        return found

    def fit(
        self,
        one: WireEnd,
        part: str | None,
        rule: str,
        ok: bool,
        values: Mapping[str, Any],
        value: float | None = None,
        band: tuple[float | None, float | None] = (None, None),
        unit: str = "",
        options: Options = tuple,
        severity: Severity = FAULT,
        source: str = "",
        form: str = "",
        says: str = "",
    ) -> Fit | None:
        """A rule at a wire's end; None where it holds and only what doesn't is asked for. Its sentences are those of
        `form`, its rule where none is given, what was found by `says`, with these values."""
        form = f"fit.{form or rule}"
        if ok and not self.whole:
            return None
        there, chosen = (
            {fitting.part, fitting.seal, fitting.ferrule, fitting.shrink}
            for fitting in (self.fitted.of(one), one.fitting)
        )
        proposed = part is not None and part in there - chosen
        return Fit(
            one.end.id,
            one.label,
            one.wire.id,
            part or "",
            rule,
            ok,
            value,
            *band,
            unit,
            Message.of("fit.at.wire", name=one.name, wire=one.wire.id, said=Message(says or f"{form}.says", values)),
            NOTHING if ok else Message(f"{form}.cure", values),
            tuple(one for one in options() if one != part),
            severity,
            proposed,
            source,
        )

    def unknown(self, one: WireEnd, part: str, what: str) -> Fit | None:
        """A part of a name that nothing on the shelf has."""
        return self.fit(one, part, "part.known", False, {"what": what, "part": part})

    def within(
        self,
        one: WireEnd,
        part: Crimped | Seal | Clamp | Housing | Boot,
        rule: str,
        band: Between,
        value: float,
        unit: str,
        what: Message,
        options: Options,
        severity: Severity = FAULT,
        form: str = "",
        **values: Any,
    ) -> Fit | None:
        """A figure that has to lie in the band of a part's sheet; `values` are for what mends it."""
        ok = band.holds(value)
        off = 0.0 if ok else max(value - band.high, band.low - value)
        values |= {
            "what": what,
            "value": significant(value),
            "unit": unit,
            "off": significant(off, 2) if off else "",
            "thick": value > band.high,
            "part": part.name,
            "low": band.low,
            "high": band.high,
        }
        return self.fit(
            one,
            part.id,
            rule,
            ok,
            values,
            value,
            (band.low, band.high),
            unit,
            options,
            severity,
            part.source,
            form,
            "fit.within",
        )

    def of_housing(
        self,
        end: End,
        label: str,
        part: str,
        rule: str,
        ok: bool,
        values: Mapping[str, Any],
        said: Message = NOTHING,
        mend: Message = NOTHING,
        form: str = "",
        **more: Any,
    ) -> Fit | None:
        """A rule at an end or one of its cavities, whatever wire is there; `said` and `mend` where its sentences are
        another's."""
        if ok and not self.whole:
            return None
        form = f"fit.{form or rule}"
        said = said or Message(f"{form}.says", values)
        plain: dict[str, Any] = {"value": None, "low": None, "high": None, "unit": ""} | more
        return Fit(
            end.id,
            label,
            "",
            part,
            rule,
            ok,
            said=Message.of("fit.at.end", name=end.name, label=label, said=said),
            mend=NOTHING if ok else mend or Message(f"{form}.cure", values),
            **plain,
        )
