"""A bank in time: open-circuit volts by state of charge, resistance, what it takes, what it loses."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

from lucernis.core.circuit.batteries import charging_cold_c, rest_curve
from lucernis.core.circuit.sources import source_figures
from lucernis.core.power.bank import BankFigures
from lucernis.plan.model import Plan
from lucernis.practice.tables import load_table

REFERENCE_C = 25.0
# Rated capacity is that of a discharge in twenty hours.
RATED_HOURS = 20.0


@dataclass(frozen=True, slots=True)
class BankModel:
    """A bank as one battery.

    `soc_points` and `volt_points` give open-circuit volts at the terminals by state of charge, straight between;
    `charge_a` is its greatest charge, taken down from `taper_from` to `taper_to_frac` of it when full.
    """

    capacity_ah: float
    soc_points: tuple[float, ...]
    volt_points: tuple[float, ...]
    resistance_ohm: float
    charge_a: float
    taper_from: float
    taper_to_frac: float
    charge_frac: float
    peukert: float
    least_soc: float
    takes_charge: bool
    heater_w: float

    def open_v(self, soc: float) -> float:
        """Open-circuit volts at a state of charge, 0..1. [V]"""
        points, volts = self.soc_points, self.volt_points
        k = min(max(bisect_right(points, soc), 1), len(points) - 1)
        share = (soc - points[k - 1]) / (points[k] - points[k - 1])
        return volts[k - 1] + share * (volts[k] - volts[k - 1])

    def stored_wh(self, soc: float) -> float:
        """Energy between empty and a state of charge, at open-circuit volts. [Wh]"""
        total, points, volts = 0.0, self.soc_points, self.volt_points
        for k in range(1, len(points)):
            if soc <= points[k - 1]:
                break
            top = min(soc, points[k])
            total += (top - points[k - 1]) * (volts[k - 1] + self.open_v(top)) / 2
        return total * self.capacity_ah

    def mean_v(self, soc: float, change: float) -> float:
        """Mean open-circuit volts while the state of charge moves by `change` and stays between 0 and 1. [V]

        Straight between two points it is that in the middle; across a point it is what is stored over what moved, so
        that energy books close whatever the bend there.
        """
        then = soc + change
        points = self.soc_points
        if bisect_right(points, soc) == bisect_right(points, then) or abs(change) < 1e-9:
            return self.open_v(min(1.0, max(0.0, soc + change / 2)))
        return (self.stored_wh(then) - self.stored_wh(soc)) / (change * self.capacity_ah)

    def accepts_a(self, soc: float) -> float:
        """Greatest charge it takes at a state of charge. [A]"""
        if soc >= 1.0 or not self.takes_charge:
            return 0.0
        if soc <= self.taper_from:
            return self.charge_a
        share = (soc - self.taper_from) / (1 - self.taper_from)
        return self.charge_a * (1 - share * (1 - self.taper_to_frac))

    def drain(self, current_a: float) -> float:
        """How much more than its current a discharge takes out, >= 1: Peukert beyond the twenty-hour rate."""
        rated_a = self.capacity_ah / RATED_HOURS
        return (current_a / rated_a) ** (self.peukert - 1) if current_a > rated_a else 1.0


def bank_model(plan: Plan, bank: BankFigures) -> BankModel:
    """A bank as one battery.

    Parameters
    ----------
    plan : Plan
        Gives the temperature of the bank, by the zone of its first battery.
    bank : BankFigures
        The bank; all of it counts as the chemistry of its first battery.

    Returns
    -------
    BankModel
        Strings side by side, batteries of a string one after the other.

    References
    ----------
    .. [1] battery_chemistry.csv, battery_planning.csv, common practice.
    """
    first = bank.strings[0][0]
    chemistry = load_table("battery_chemistry").find(first.chemistry)
    planning = load_table("battery_planning").find(first.chemistry)
    blocks = bank.nominal_v / 12
    siemens = 0.0
    for string in bank.strings:
        siemens += 1 / sum(source_figures(one, plan.nominal_v).running_ohm for one in string)
    bank_c = charging_cold_c(plan, first)
    cold_k = max(0.0, REFERENCE_C - bank_c)
    capacity_ah = bank.capacity_ah * max(0.1, 1 - float(planning["cold_frac_per_k"]) * cold_k)
    least_c = first.charge_least_c if first.charge_least_c is not None else float(chemistry["min_charge_c"])
    cold = bank_c < least_c
    heater_w = sum((one.heater_w or 0.0) for string in bank.strings for one in string) if cold else 0.0
    soc_points, volts = rest_curve(first.chemistry)
    return BankModel(
        capacity_ah=capacity_ah,
        soc_points=soc_points,
        volt_points=tuple(one * blocks for one in volts),
        resistance_ohm=1 / siemens,
        charge_a=bank.charge_a,
        taper_from=float(planning["taper_from"]),
        taper_to_frac=float(planning["taper_to_frac"]),
        charge_frac=float(chemistry["charge_efficiency"]),
        peukert=float(chemistry["peukert"]),
        least_soc=float(planning["least_soc"]),
        takes_charge=not cold or heater_w > 0,
        heater_w=heater_w,
    )
