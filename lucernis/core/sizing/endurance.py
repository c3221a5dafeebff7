"""Whether a fuse or breaker lives through what its loads do: starting currents, and cycles it remembers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit.loads import LoadFigures
from lucernis.core.protection.fuse_curves import opening_times_s
from lucernis.core.protection.thermal_memory import Cycling, current_profile, thermal_image, trip_in_profile
from lucernis.plan.model import Load
from lucernis.practice.rules import FuseFamily

THERMAL: tuple[FuseFamily, ...] = ("breaker_auto", "breaker_manual")
# So many cycles of the slowest load are followed; by then the heat in a breaker has settled.
_CYCLES = 20
_LONGEST_S = 24 * 3600.0


@dataclass(frozen=True, slots=True)
class Start:
    """The starting current of one load with all else on: how much [A], how long [s], and whose it is."""

    peak_a: float
    lasts_s: float
    load: Load


@dataclass(frozen=True, slots=True)
class Trip:
    """A breaker trips: after how long [s], and in which cycle of the first load that cycles."""

    time_s: float
    cycle: int


@dataclass(frozen=True, slots=True)
class Stress:
    """What the loads behind a fuse do to it."""

    starts: tuple[Start, ...]
    steady_a: float
    cycling: tuple[Cycling, ...]
    names: tuple[str, ...]

    def opened_by(self, name: FuseFamily, rating_a: float) -> tuple[Start, float] | None:
        """The first starting current that may open a fuse, and after how long. [s]"""
        for start in self.starts:
            fast_s = float(opening_times_s(name, np.array([start.peak_a / rating_a]))[0][0])
            if fast_s < start.lasts_s:
                return start, fast_s
        return None

    def trips(self, name: FuseFamily, rating_a: float, *, slow: bool) -> Trip | None:
        """When a thermal breaker trips in the cycles, on its quick or its slow edge; None if it holds."""
        if name not in THERMAL or not self.cycling:
            return None
        period_s = max(one.on_s + one.off_s for one in self.cycling)
        end_s = min(_CYCLES * period_s, _LONGEST_S)
        profile = [(amps / rating_a, time_s) for amps, time_s in current_profile(self.steady_a, self.cycling, end_s)]
        time_s = trip_in_profile(thermal_image(name, slow=slow), profile)
        if time_s is None:
            return None
        first = self.cycling[0]
        since_s = max(0.0, time_s - first.start_s)
        return Trip(time_s, int(since_s // (first.on_s + first.off_s)) + 1)

    def survives(self, name: FuseFamily, rating_a: float) -> bool:
        """Whether nothing the loads do opens it."""
        return self.opened_by(name, rating_a) is None and self.trips(name, rating_a, slow=False) is None


def stress_of(loads: Sequence[Load], figures: dict[str, LoadFigures], carry_a: float) -> Stress:
    """What loads do to the fuse before them.

    Parameters
    ----------
    loads : sequence of Load
        The loads behind it.
    figures : dict
        Their figures.
    carry_a : float
        The most that lastingly flows through it. [A]

    Returns
    -------
    Stress
        A start comes on top of everything else that can be on.
    """
    starts, cycling, names = [], [], []
    of_cycles_a = 0.0
    for load in loads:
        own = figures[load.id]
        if load.inrush_factor is not None and load.inrush_s is not None and own.current_a is not None:
            peak_a = load.inrush_factor * own.current_a + max(0.0, carry_a - own.peak_a if len(loads) > 1 else 0.0)
            starts.append(Start(peak_a, load.inrush_s, load))
        if load.cycle_on_s is not None and load.cycle_off_s is not None:
            amps = own.design_current_a
            cycling.append(Cycling(amps, load.cycle_on_s, load.cycle_off_s, load.cycle_start_s))
            names.append(load.name)
            of_cycles_a += own.peak_a
    # What does not cycle stays on in the off phases too.
    steady_a = max(0.0, carry_a - of_cycles_a) if len(loads) > len(cycling) else 0.0
    return Stress(tuple(starts), steady_a, tuple(cycling), tuple(names))
