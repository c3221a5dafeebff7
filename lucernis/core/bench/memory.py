"""A fuse that warms: how far it is on its way to open, under a current that changes."""

from __future__ import annotations

import math

import numpy as np

from lucernis.core.bench.setup import BenchFuse
from lucernis.core.protection.fuse_curves import band, least_heat_a2s, let_through_a2s
from lucernis.core.protection.thermal_memory import thermal_image

_REMEMBERING = ("breaker_auto", "breaker_manual")


class FuseMemory:
    """One edge of a fuse's band, from cold (0) to open (1).

    Notes
    -----
    A thermal breaker is the store of heat that `thermal_image` reads from its band. A melting fuse is its band at every
    instant: in a current that would open it in a time t, it comes the share ``dt/t`` nearer. Below the current that
    opens it at all it forgets with the time constant of its band at twice the rating (common practice, no source: no
    standard says how a fuse cools).
    """

    def __init__(self, fuse: BenchFuse, *, slow: bool) -> None:
        self.way_frac = 0.0
        self.opened = False
        self._fuse = fuse
        self._slow = slow
        self._image = None if fuse.family == "breaker_magnetic" else thermal_image(fuse.family, slow=slow)
        self._remembers = fuse.family in _REMEMBERING
        edge = band(fuse.family).slow if slow else band(fuse.family).fast
        self._last_s = float(edge.time_s[-1])
        self._last_multiple = float(edge.multiple[-1])

    def opens_in_s(self, current_a: float) -> float:
        """How long it takes from cold at a steady current, infinite where it need not open. [s]"""
        if current_a <= 0:
            return math.inf
        multiple = current_a / self._fuse.rating_a
        if multiple > self._last_multiple and self._image is None:
            return self._last_s
        if self._remembers and self._image is not None and multiple <= self._last_multiple:
            heat, level = multiple**2, self._image.trip_level
            return self._image.time_constant_s * math.log(heat / (heat - level)) if heat > level else math.inf
        amps = np.array([current_a])
        heats = (let_through_a2s if self._slow else least_heat_a2s)(self._fuse.family, self._fuse.rating_a, amps)
        return float(heats[0]) / current_a**2 if np.isfinite(heats[0]) else math.inf

    def next_s(self, current_a: float) -> float:
        """How long until it opens, if the current stays so. [s]"""
        if self._image is not None and self._remembers and current_a <= self._last_multiple * self._fuse.rating_a:
            heat, level = (current_a / self._fuse.rating_a) ** 2, self._image.trip_level
            if heat <= level:
                return math.inf
            now = self.way_frac * level
            return self._image.time_constant_s * math.log((heat - now) / (heat - level)) if now < level else 0.0
        return (1 - self.way_frac) * self.opens_in_s(current_a)

    def step(self, current_a: float, step_s: float) -> None:
        """Move on by a time at a current."""
        if self.opened:
            return
        done = self.next_s(current_a) <= step_s * (1 + 1e-9)
        if self._remembers and self._image is not None and current_a <= self._last_multiple * self._fuse.rating_a:
            heat, level = (current_a / self._fuse.rating_a) ** 2, self._image.trip_level
            now = heat + (self.way_frac * level - heat) * math.exp(-step_s / self._image.time_constant_s)
            self.way_frac = min(now / level, 1.0)
        else:
            time_s = self.opens_in_s(current_a)
            if math.isfinite(time_s):
                self.way_frac = min(self.way_frac + step_s / time_s, 1.0)
            elif self._image is not None:
                self.way_frac *= math.exp(-step_s / self._image.time_constant_s)
        if done:
            self.opened, self.way_frac = True, 1.0
