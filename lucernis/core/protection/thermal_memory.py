"""A breaker that remembers: one store of heat that fills with the current squared and empties by itself."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from lucernis.core.protection.fuse_curves import band
from lucernis.practice.rules import FuseFamily

# The point of the band the time constant is read from.
_READ_AT = 2.0
# A cold breaker at a few per cent above its rating may open at last; below, it need not.
_FAST_HOLDS = 1.05


@dataclass(frozen=True, slots=True)
class ThermalImage:
    """Time constant [s] and the level, as a multiple of rated current squared, at which it trips."""

    time_constant_s: float
    trip_level: float


def thermal_image(name: FuseFamily, *, slow: bool) -> ThermalImage:
    """One-time-constant model of a thermal breaker from its published band.

    Parameters
    ----------
    name : str
        Family.
    slow : bool
        Its slow edge; the fast one otherwise.

    Returns
    -------
    ThermalImage
        Such that from cold it opens at the band's time at twice the rating.

    Notes
    -----
    ``dθ/dt = ((I/In)² - θ) / τ``, trips at θt; so ``t = τ · ln(m² / (m² - θt))``. θt is the square of the multiple
    where the edge begins: 1.35 on the slow side, 1.05 on the fast one (common practice, no source).
    """
    edges = band(name)
    edge = edges.slow if slow else edges.fast
    level = float(edge.multiple[0]) ** 2 if slow else _FAST_HOLDS**2
    time_s = float(edge.time_s[list(edge.multiple).index(_READ_AT)])
    return ThermalImage(time_s / math.log(_READ_AT**2 / (_READ_AT**2 - level)), level)


@dataclass(frozen=True, slots=True)
class Cycling:
    """A load that turns itself on and off: its current [A], on and off times, and when its first cycle begins [s]."""

    current_a: float
    on_s: float
    off_s: float
    start_s: float = 0.0

    def on_at(self, time_s: float) -> bool:
        """Whether it is on at a time; before its first cycle it is off."""
        since_s = time_s - self.start_s
        return since_s >= 0 and since_s % (self.on_s + self.off_s) < self.on_s - 1e-9

    def edges_s(self, end_s: float) -> list[float]:
        """Times at which it turns on or off, up to an end. [s]"""
        found, at_s = [], self.start_s
        while at_s < end_s:
            found += [at_s, at_s + self.on_s]
            at_s += self.on_s + self.off_s
        return [one for one in found if one < end_s]


def current_profile(steady_a: float, loads: Sequence[Cycling], end_s: float) -> list[tuple[float, float]]:
    """Current over time of loads that cycle beside one that stays on.

    Parameters
    ----------
    steady_a : float
        What stays on in the off phases too, >= 0. [A]
    loads : sequence of Cycling
        Loads that cycle, each with its phase.
    end_s : float
        How long to follow them. [s]

    Returns
    -------
    list of (float, float)
        Stretches of one current each: current [A] and how long it lasts [s].
    """
    times = sorted({0.0, end_s, *(edge for one in loads for edge in one.edges_s(end_s))})
    found = []
    for here, there in pairwise(times):
        middle = (here + there) / 2
        found.append((steady_a + sum(one.current_a for one in loads if one.on_at(middle)), there - here))
    return found


def trip_in_profile(image: ThermalImage, profile: Sequence[tuple[float, float]]) -> float | None:
    """When a breaker, cold at first, trips under a current that changes.

    Parameters
    ----------
    image : ThermalImage
        The breaker.
    profile : sequence of (float, float)
        Stretches: current as a multiple of the rating [1] and how long [s].

    Returns
    -------
    float or None
        Time from the start [s]; None if it holds throughout.

    Notes
    -----
    ``θ(t) = m² + (θ0 - m²) · exp(-t/τ)`` in each stretch.
    """
    level = clock_s = 0.0
    for multiple, lasts_s in profile:
        heat = multiple**2
        if heat > image.trip_level and level < image.trip_level:
            time_s = image.time_constant_s * math.log((heat - level) / (heat - image.trip_level))
            if time_s <= lasts_s:
                return clock_s + time_s
        level = heat + (level - heat) * math.exp(-lasts_s / image.time_constant_s)
        clock_s += lasts_s
    return None


def trip_in_cycles(
    image: ThermalImage, multiple: float, *, on_s: float, off_s: float, cycles: int
) -> tuple[int, float] | None:
    """When a breaker trips under a load that cycles.

    Parameters
    ----------
    image : ThermalImage
        The breaker, cold at first.
    multiple : float
        Current while on, as a multiple of the rating. [1]
    on_s : float
        On time of one cycle. [s]
    off_s : float
        Off time between two. [s]
    cycles : int
        How many to follow.

    Returns
    -------
    tuple of int and float or None
        Cycle, counted from 1, and time into it [s]; None if it holds throughout.

    Examples
    --------
    >>> image = ThermalImage(time_constant_s=60.0, trip_level=1.8)
    >>> cycle, time_s = trip_in_cycles(image, 1.5, on_s=80.0, off_s=20.0, cycles=2)
    >>> cycle, round(time_s, 1)
    (2, 51.6)
    """
    time_s = trip_in_profile(image, [(multiple, on_s), (0.0, off_s)] * cycles)
    if time_s is None:
        return None
    return int(time_s // (on_s + off_s)) + 1, time_s % (on_s + off_s)
