"""One run as it is asked, one size tried on it, and the answer."""

from __future__ import annotations

from dataclasses import dataclass, field

from umber_trunk.core.catalog.conductors import Conductor, Size
from umber_trunk.core.errors import InputError
from umber_trunk.core.physics.protection import Protected
from umber_trunk.core.physics.surroundings import OPEN_AIR, Surroundings
from umber_trunk.core.sentences import Message


@dataclass(frozen=True)
class Run:
    """What is asked: exactly one of amps, watts or ohms; lengths one way; drop in V."""

    volts: float
    run_m: float
    amps: float | None = None
    watts: float | None = None
    ohms: float | None = None
    ground_return: bool = False
    max_drop_v: float = 0.0
    ambient_c: float = 30.0
    limit_c: float = 105.0
    metal: str = "copper"
    make: str = "general"
    jacket: str = "pvc"
    series: str = "metric"
    size: str | None = None
    parallel: int = 1
    joint_ohm: float = 0.0
    bundle: int = 1
    apart: bool = False
    air_m_s: float = 0.0
    duty: tuple[float, float] | None = None
    surge: tuple[float, float] | None = None
    fuse: str | float | None = None
    joints: int = 2
    power_factor: float = 1.0
    fuse_rule: str = "curve"
    surroundings: Surroundings = OPEN_AIR
    notes: tuple[str, ...] = ()

    @property
    def own(self) -> int:
        """How many loaded conductors the run itself has: its parallels, there and back."""
        return self.parallel * (1 if self.ground_return else 2)

    @property
    def together(self) -> int:
        """How many equal loaded conductors lie side by side: a run's own do unless they are said to lie apart, in free
        air."""
        return max(self.bundle, 1 if self.apart else self.own)

    @property
    def lie(self) -> Message:
        """How its conductors lie, in words."""
        if self.together == 1:
            return Message.of("run.lie.one" if self.own == 1 else "run.lie.alone", own=self.own)
        how = "apart" if self.apart else "among"
        return Message.of(f"run.lie.{how}", own=self.own, together=self.together, back=not self.ground_return)


@dataclass(frozen=True)
class Judged:
    """One size tried on a run. conductor_c is the hottest instant, joints counted; ampacity_a what all in parallel
    carry in the duty given, continuous_a what they carry all the time."""

    size: Size
    wire: Conductor
    amps: float
    drop_v: float
    drop_percent: float
    resistance_ohm: float
    conductor_c: float
    ampacity_a: float
    continuous_a: float
    surge_c: float | None
    fuse_a: float | None
    protection: Protected | None
    broken: tuple[str, ...] = field(default=())

    @property
    def ok(self) -> bool:
        """Every limit met."""
        return not self.broken


@dataclass(frozen=True)
class RunAnswer:
    """The chosen (or judged) size, what governs it, and every candidate tried."""

    run: Run
    chosen: Judged | None
    governs: str
    candidates: tuple[Judged, ...]


def refuse_nonsense(run: Run) -> None:
    """InputError for a run that has no meaning, with what to do."""
    given = [run.amps, run.watts, run.ohms]
    if sum(value is not None for value in given) != 1:
        raise InputError.of("onerun.give-load-once")
    if run.limit_c <= run.ambient_c:
        raise InputError.of("onerun.jacket-limit-under-ambient", limit_c=run.limit_c, ambient_c=run.ambient_c)
    if not 1 <= run.parallel <= 12:
        raise InputError.of("onerun.parallel-out-of-range")
    if not 1 <= run.bundle <= 200:
        raise InputError.of("onerun.bundle-has-to-wires")
    if not 0 < run.power_factor <= 1:
        raise InputError.of("onerun.power-factor-out-of-range")
    if run.run_m <= 0:
        raise InputError.of("onerun.run-must-be-longer-than-nothing")
