"""What one line of needs says: a record for each kind of line, filled by the reader piece by piece."""

from __future__ import annotations

from dataclasses import dataclass, field

from umber_trunk.core.harness.model import CableKind, LoadKind, Loop

LOOP_RECEIVER_OHM: float = Loop.model_fields["receiver_ohm"].default
"""What a 4–20 mA receiver has inside unless the line says otherwise."""


@dataclass(frozen=True)
class Piece:
    """A part of the line that was read: what it is, where it stands, what was understood."""

    kind: str
    start: int
    end: int
    meaning: str
    ok: bool = True
    doubt: bool = False


@dataclass
class Need:
    """What every line has: what it is about, whom, the pieces understood, and what is missing."""

    what: str = "load"
    name: str = ""
    pieces: list[Piece] = field(default_factory=list)
    missing: list[str] = field(default_factory=list)

    @property
    def ok(self) -> bool:
        """Whether the line can be entered."""
        return not self.missing and all(piece.ok for piece in self.pieces)

    @property
    def faults(self) -> list[str]:
        """What stands in the way, in words."""
        return [piece.meaning for piece in self.pieces if not piece.ok] + [f"say {what}" for what in self.missing]


@dataclass
class CaseLine(Need):
    """“case under way at 30 C: pump, lamps”: which loads run together, and in what air."""

    what: str = "case"
    loads: str = ""
    air_c: float | None = None


@dataclass
class JoinLine(Need):
    """“join box: F1 F2”: pins joined inside an end."""

    what: str = "join"
    end: str = ""
    pins: tuple[str, ...] = ()


@dataclass
class SitedLine(Need):
    """What has a place on the trunk: where, in what air, how far along which way, on which pins, on which rail [V]."""

    where: str = ""
    zone: str = ""
    zone_c: float | None = None
    zone_flags: tuple[str, ...] = ()
    run_m: float | None = None
    off: str = ""
    source: str = ""
    pins: tuple[str, ...] = ()
    frame: bool = False
    volts: float | None = None


@dataclass
class SupplyLine(SitedLine):
    """A supply at rest, and what it has inside."""

    what: str = "supply"
    ac: bool = False
    source_ohm: float = 0.0


@dataclass
class FrameLine(SitedLine):
    """What the frame has from a load's place to the source."""

    what: str = "frame"
    name: str = "frame"
    source_ohm: float = 0.0


@dataclass
class FuseLine(SitedLine):
    """A fuse where a supply or a stud feeds from."""

    what: str = "fuse"
    rating_a: float | None = None
    style: str = ""


@dataclass
class PlaceLine(SitedLine):
    """A box, connector, bar, stud, splice or switch."""

    ways: int = 0
    negative: bool = False


@dataclass
class ConverterLine(PlaceLine):
    """Volts made of others."""

    what: str = "converter"
    out_volts: float | None = None
    efficiency: float | None = None


@dataclass
class DrawingLine(SitedLine):
    """What draws: an amount of its kind (A, W or Ω)."""

    kind: LoadKind = LoadKind.CURRENT
    value: float | None = None
    efficiency: float | None = None


@dataclass
class RelayLine(DrawingLine, PlaceLine):
    """A relay, its coil and whence that is fed."""

    what: str = "relay"
    by: str = ""


@dataclass(frozen=True)
class LoopSaid:
    """What a 4–20 mA loop has beside its wires [Ω]."""

    barrier_ohm: float = 0.0
    receiver_ohm: float = LOOP_RECEIVER_OHM


@dataclass
class LoadLine(DrawingLine):
    """A load: what it draws at start and how long, when it runs, what it still works with, how it is wired."""

    what: str = "load"
    surge_a: float | None = None
    surge_s: float | None = None
    on_s: float | None = None
    period_s: float | None = None
    power_factor: float = 1.0
    min_volts: float | None = None
    max_drop_percent: float | None = None
    max_drop_v: float | None = None
    fused_a: float | None = None
    cable: CableKind | None = None
    loop: LoopSaid | None = None
