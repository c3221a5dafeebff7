"""A simulated vehicle: a plan as it was really built, every length and joint drawn, with what is wrong in it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from lucernis.core.prove.cause import Change, source_moved
from lucernis.core.prove.effect import effect
from lucernis.core.prove.expect import foresee, meter_sd
from lucernis.core.prove.frame import Frame, Reading, frame, spread
from lucernis.core.prove.living import Living, live
from lucernis.core.prove.planted import Planted, planted
from lucernis.core.prove.situations import find_situation
from lucernis.plan.model import Plan

# Leads of a usual hand meter, both together. Common practice, no source. [Ω]
LEADS_OHM = 0.3
# Beyond this a hand meter shows nothing. Practice.
OPEN_FROM_OHM = 5e6


class Vehicle:
    """What probes find in a vehicle with faults.

    Parameters
    ----------
    plan : Plan
        What it was built by.
    faults : tuple of str or Planted
        In words, as `planted` reads them, or read already.
    seed : int
        Which of all vehicles that are built so.
    noise : bool
        Whether the meter has the error of a usual one.
    """

    def __init__(
        self, plan: Plan, faults: tuple[str | Planted, ...] = (), *, seed: int = 1, noise: bool = True
    ) -> None:
        self.frame: Frame = frame(plan)
        self.faults = tuple(planted(self.frame, one) if isinstance(one, str) else one for one in faults)
        self._noise = noise
        rng = self._rng = np.random.default_rng(seed)
        made = self.frame
        self._ohm = made.ohm * np.exp(made.spread_ln * rng.standard_normal(len(made.ohm)))
        count, loads = len(made.rest_v), len(made.sized.wiring.consumers)
        self._volts = made.rest_spread_v * np.clip(rng.standard_normal(count), -1.7, 1.7)
        self._volts += made.bank * made.bank_spread_v * float(np.clip(rng.standard_normal(), -1.7, 1.7))
        self._inside = np.exp(spread("inside") * rng.standard_normal(count))
        self._draw = np.exp(spread("draw") * rng.standard_normal(loads))
        for name, supply in made.sized.demand.supplies.items():
            if supply.gives and name in made.sized.wiring.consumers:
                self._draw[made.sized.wiring.consumers.index(name)] = 1.0
        self._bridges: list[Change] = []
        self._running: list[Change] = []
        for one in self.faults:
            self._break(one.change)
        self._livings: dict[str, Living] = {}

    def _break(self, change: Change) -> None:
        if change.element >= 0:
            here = self._ohm[change.element]
            self._ohm[change.element] = 1e8 if change.open else here * change.times + change.series_ohm
        if change.also >= 0:
            self._ohm[change.also] *= change.times
        if change.source >= 0 and change.when == "engine":
            self._running.append(change)
        elif change.source >= 0:
            self._volts[change.source] += change.source_v
            self._inside[change.source] *= change.inside
        if change.load >= 0 and change.drain_a == 0:
            self._draw[change.load] *= max(change.draw, 1e-6)
        shows = change.bridge[0] >= 0 or change.exchanged[0] >= 0 or change.closes >= 0
        if shows or change.drain_a > 0 or change.crossed:
            self._bridges.append(replace(change, element=-1, open=False))

    def living(self, situation: str) -> Living:
        """The vehicle in a state, solved once; bridges left out."""
        if situation not in self._livings:
            made = find_situation(list(self.frame.situations.values()), situation)
            volts, inside = self._volts.copy(), self._inside.copy()
            for one in self._running:
                moved_v, times = source_moved(self.frame, made, one)
                volts[one.source] += moved_v
                inside[one.source] *= times
            self._livings[situation] = live(
                self.frame, made, element_ohm=self._ohm, source_v=volts, inside_factor=inside, draw_factor=self._draw
            )
        return self._livings[situation]

    def truth(self, reading: Reading, situation: str) -> tuple[float, bool]:
        """What is really there, and whether nothing holds the spot. [V], [A] or [Ω]"""
        living = self.living(situation)
        if self._bridges:
            found = effect(living, [reading], self._bridges[:1])
            return float(found.value[0, 0]), bool(found.floating[0, 0])
        foreseen = foresee(living, [reading])
        return float(foreseen.value[0]), bool(foreseen.floating[0])

    def read(self, reading: str, situation: str) -> float:
        """What a meter shows.

        Parameters
        ----------
        reading : str
            Its id.
        situation : str
            The state that is made.

        Returns
        -------
        float
            With noise; ohms with the leads' own, infinite where nothing conducts. [V], [A] or [Ω]

        Raises
        ------
        UnknownRow
            If the plan has no such spot or state.
        """
        one = self.frame.reading(reading)
        value, floating = self.truth(one, situation)
        if one.quantity == "ohms":
            value += LEADS_OHM
            if value > OPEN_FROM_OHM:
                return float("inf")
        if not self._noise:
            return value
        if floating:
            value *= float(self._rng.uniform(0.3, 1.0))
        return value + float(meter_sd(one.quantity, np.array(value))) * float(self._rng.standard_normal())

    def again(self, number: int) -> None:
        """Let the meter's error be that of a reading by number, whatever was read before."""
        self._rng = np.random.default_rng(number)

    def leads(self) -> float:
        """Ohms with the probes held together. [Ω]"""
        return LEADS_OHM + (0.02 * float(self._rng.standard_normal()) if self._noise else 0.0)
