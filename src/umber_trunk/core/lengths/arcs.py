"""Closed forms of length: arcs, corners, helices, combs, and the shortest stiff lead between two studs."""

from __future__ import annotations

import math


def arc_extra_m(angle_deg: float, offset_m: float) -> float:
    """How much longer a wire is that lies `offset_m` outside of a bend's middle line (inside: negative): θ·offset."""
    return math.radians(angle_deg) * offset_m


def corner_extra_m(angle_deg: float, radius_m: float) -> float:
    """What a rounded corner saves over two straight legs measured to its point, as a negative length:
    R·θ − 2·R·tan(θ/2). For angles under 180°; ValueError beyond."""
    if not 0 <= angle_deg < 180:
        raise ValueError("a corner turns by less than 180°")
    theta = math.radians(angle_deg)
    return radius_m * (theta - 2 * math.tan(theta / 2))


def helix_factor(diameter_m: float, pitch_m: float) -> float:
    """Length over run of a wire whose middle turns on a circle of a diameter once each pitch: √(1 + (π·D/p)²); 1 for
    none."""
    return math.hypot(1.0, math.pi * diameter_m / pitch_m) if pitch_m > 0 else 1.0


def comb_extras_m(count: int, pitch_m: float, turns_deg: tuple[float, ...]) -> list[float]:
    """How much longer than the ribbon's middle each wire of a comb is, in its order: neighbours differ by Σθ·pitch, the
    first is the shortest where the ribbon turns towards it (+)."""
    turned = math.radians(sum(turns_deg))
    return [turned * pitch_m * (place - (count - 1) / 2) for place in range(count)]


def least_lead_mm(apart_mm: float, toward_deg: float, leave_deg: float, arrive_deg: float, radius_mm: float) -> float:
    """The shortest lead in a plane that leaves the first stud at one clock angle and comes to the second, `apart_mm`
    away `toward_deg`, from another, and never bends tighter than `radius_mm`.

    Angles clockwise from up; `arrive_deg` is the side of the second stud the lead comes from. Of the six words of arcs
    and straights one is the shortest (L. E. Dubins, American Journal of Mathematics 79, 1957).
    """
    d = apart_mm / radius_mm
    toward, leave = math.radians(90 - toward_deg), math.radians(90 - leave_deg)
    arrive = math.radians(90 - arrive_deg) + math.pi  # travelling direction at the second stud
    alpha, beta = (leave - toward) % math.tau, (arrive - toward) % math.tau
    return radius_mm * min(sum(word) for word in words(d, alpha, beta))


def words(d: float, a: float, b: float) -> list[tuple[float, float, float]]:
    """Lengths of the three pieces of each word that exists, for a radius of 1."""
    sa, sb, ca, cb, cab = math.sin(a), math.sin(b), math.cos(a), math.cos(b), math.cos(a - b)
    found = []

    def turn(angle: float) -> float:
        turned = angle % math.tau
        return 0.0 if turned > math.tau - 1e-9 else turned  # what rounding made a whole turn of is none

    if (square := 2 + d * d - 2 * cab + 2 * d * (sa - sb)) >= -1e-12:
        way = math.atan2(cb - ca, d + sa - sb)
        found.append((turn(way - a), math.sqrt(max(square, 0)), turn(b - way)))
    if (square := 2 + d * d - 2 * cab + 2 * d * (sb - sa)) >= -1e-12:
        way = math.atan2(ca - cb, d - sa + sb)
        found.append((turn(a - way), math.sqrt(max(square, 0)), turn(way - b)))
    if (square := -2 + d * d + 2 * cab + 2 * d * (sa + sb)) >= -1e-12:
        straight = math.sqrt(max(square, 0))
        way = math.atan2(-ca - cb, d + sa + sb) - math.atan2(-2.0, straight)
        found.append((turn(way - a), straight, turn(way - b)))
    if (square := -2 + d * d + 2 * cab - 2 * d * (sa + sb)) >= -1e-12:
        straight = math.sqrt(max(square, 0))
        way = math.atan2(ca + cb, d - sa - sb) - math.atan2(2.0, straight)
        found.append((turn(a - way), straight, turn(b - way)))
    if abs(cosine := (6 - d * d + 2 * cab + 2 * d * (sa - sb)) / 8) <= 1:
        middle = math.tau - math.acos(cosine)
        first = turn(a - math.atan2(ca - cb, d - sa + sb) + middle / 2)
        found.append((first, middle, turn(a - b - first + middle)))
    if abs(cosine := (6 - d * d + 2 * cab + 2 * d * (sb - sa)) / 8) <= 1:
        middle = math.tau - math.acos(cosine)
        first = turn(-a - math.atan2(ca - cb, d + sa - sb) + middle / 2)
        found.append((first, middle, turn(b - a - first + middle)))
    return found
