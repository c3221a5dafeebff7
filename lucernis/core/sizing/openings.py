"""When fuses open at the currents of a short, and what a wire reaches by then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit.answers import Floats
from lucernis.core.protection.fuse_curves import band, opening
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


class FuseSet:
    """Fuses made ready to be asked for their opening times again and again: sorted by family once."""

    def __init__(self, fuses: Sequence[FuseAt]) -> None:
        n = len(fuses)
        self.count = np.array([one.fuse.count for one in fuses], dtype=float)
        self.rating_a = np.array([one.rating_a for one in fuses], dtype=float) / self.count if n else np.empty(0)
        self.families: list[FuseFamily] = []
        self._family = np.full(n, -1)
        # Below this nothing is published of a fuse but that it holds.
        self._silent_a = np.full(n, np.inf)
        number: dict[FuseFamily, int] = {}
        for k, one in enumerate(fuses):
            if one.fuse.fuse is not None:
                self._family[k] = number.setdefault(one.fuse.fuse.family, len(number))
        self.families = list(number)
        for at, name in enumerate(self.families):
            rows = self._family == at
            self._silent_a[rows] = band(name).first_multiple * (1 - 1e-6) * self.rating_a[rows]
        self._least = np.where(self._family >= 0, np.inf, np.nan)

    def at(self, current_a: Floats) -> Times:
        """Opening times of each fuse at its own current.

        Parameters
        ----------
        current_a : ndarray, shape (n_fuses,)
            What flows through each, all its pieces together. [A]

        Returns
        -------
        Times
            All of shape (n_fuses,); infinite where nothing must open.
        """
        n = len(self.count)
        fast, slow, heat, least = np.full(n, np.nan), np.full(n, np.inf), np.full(n, np.inf), self._least.copy()
        each = current_a / self.count
        warm = np.flatnonzero(each >= self._silent_a)
        family = self._family[warm]
        for number in set(family.tolist()):
            at = warm[family == number]
            one = opening(self.families[number], self.rating_a[at], each[at])
            fast[at], slow[at] = one.fast_s, one.slow_s
            heat[at], least[at] = one.heat_a2s * self.count[at] ** 2, one.least_a2s * self.count[at] ** 2
        return Times(fast, slow, heat, least)


def opening_of(fuses: Sequence[FuseAt], current_a: Floats) -> Times:
    """Opening times of fuses at currents, once; see `FuseSet.at`.

    Parameters
    ----------
    fuses : sequence of FuseAt
        The fuses.
    current_a : ndarray, shape (n_fuses,)
        What flows through each. [A]

    Returns
    -------
    Times
        All of shape (n_fuses,).
    """
    return FuseSet(fuses).at(current_a)


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
