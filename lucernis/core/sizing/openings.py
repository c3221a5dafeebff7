"""When fuses open at the currents of a short, and what a wire reaches by then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit.solver import Floats
from lucernis.core.protection.fuse_curves import least_heat_a2s, let_through_a2s, opening_times_s
from lucernis.core.sizing.fusing import RunFuse
from lucernis.core.wire.heat import ADIABATIC_S, Covered, adiabatic_end_c, heat_up, wall_mm
from lucernis.practice.rules import FuseFamily


@dataclass(frozen=True, slots=True)
class FuseAt:
    """A fuse in the circuit: its key, the run it stands in, which end, and its figures; `rating_a` of all together."""

    key: str
    run: int
    at_start: bool
    fuse: RunFuse
    rating_a: float


@dataclass(frozen=True, slots=True)
class Times:
    """Opening of some fuses at some currents: fast and slow edge [s], heat let through at most, and the least heat
    that opens it [A²s]."""

    fast: Floats
    slow: Floats
    heat: Floats
    least: Floats


def opening_of(fuses: Sequence[FuseAt], current_a: Floats) -> Times:
    """Opening times of each fuse at its own current, family by family.

    Parameters
    ----------
    fuses : sequence of FuseAt
        The fuses.
    current_a : ndarray, shape (n_fuses,)
        What flows through each, all its pieces together. [A]

    Returns
    -------
    Times
        All of shape (n_fuses,); infinite where nothing must open.
    """
    n = len(fuses)
    fast, slow, heat = np.full(n, np.nan), np.full(n, np.inf), np.full(n, np.inf)
    least = np.full(n, np.nan)
    count = np.array([one.fuse.count for one in fuses], dtype=float)
    rating = np.array([one.rating_a for one in fuses]) / count if n else np.empty(0)
    by_family: dict[FuseFamily, list[int]] = {}
    for k, one in enumerate(fuses):
        if one.fuse.fuse is not None:
            by_family.setdefault(one.fuse.fuse.family, []).append(k)
    each = current_a / count
    for name, rows in by_family.items():
        at = np.array(rows)
        fast[at], slow[at] = opening_times_s(name, each[at] / rating[at])
        heat[at] = let_through_a2s(name, rating[at], each[at]) * count[at] ** 2
        least[at] = least_heat_a2s(name, rating[at], each[at]) * count[at] ** 2
    return Times(fast, slow, heat, least)


@dataclass(frozen=True, slots=True)
class Struck:
    """Conductors in a short, shapes (n,): copper [mm²] and resistance at 20 °C [Ω/m] of one of them, how many lie side
    by side, their temperature before and the air around them [°C]."""

    area_mm2: Floats
    resistance_20_ohm_per_m: Floats
    parallel: Floats
    start_c: Floats
    ambient_c: Floats


def reached_c(struck: Struck, heat_a2s: Floats, slow_s: Floats) -> Floats:
    """Temperature of conductors when a short in them is over.

    Parameters
    ----------
    struck : Struck
        The conductors.
    heat_a2s : ndarray, shape (n,)
        Heat let through into all of them together. [A²s]
    slow_s : ndarray, shape (n,)
        When it is over at the latest, NaN or infinite where it lasts. [s]

    Returns
    -------
    ndarray
        By the adiabatic equation up to 5 s, by the heat balance of the same heat spread over its time beyond. [°C]
    """
    end_c = adiabatic_end_c(struck.start_c, np.nan_to_num(heat_a2s) / struck.parallel**2, struck.area_mm2)
    slow = np.flatnonzero((slow_s > ADIABATIC_S) & np.isfinite(slow_s))
    if len(slow):
        wire = Covered(
            struck.area_mm2[slow],
            struck.resistance_20_ohm_per_m[slow],
            np.array([wall_mm(float(area)) for area in struck.area_mm2[slow]]),
        )
        amps = np.sqrt(np.nan_to_num(heat_a2s[slow]) / slow_s[slow]) / struck.parallel[slow]
        longest_s = float(slow_s[slow].max())
        warming = heat_up(wire, amps, struck.ambient_c[slow], struck.start_c[slow], longest_s, steps=80)
        at = np.searchsorted(warming.time_s, slow_s[slow]).clip(0, len(warming.time_s) - 1)
        end_c[slow] = np.minimum(end_c[slow], warming.conductor_c[at, np.arange(len(slow))])
    return end_c
