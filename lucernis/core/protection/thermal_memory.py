"""A breaker that remembers: one store of heat that fills with the current squared and empties by itself."""

from __future__ import annotations

import math
from dataclasses import dataclass

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
    level, heat = 0.0, multiple**2
    for cycle in range(1, cycles + 1):
        if heat > image.trip_level:
            time_s = image.time_constant_s * math.log((heat - level) / (heat - image.trip_level))
            if time_s <= on_s:
                return cycle, time_s
        level = heat + (level - heat) * math.exp(-on_s / image.time_constant_s)
        level *= math.exp(-off_s / image.time_constant_s)
    return None
