"""The house bank: what its batteries are, and how they share a current by the resistances of links and take-off."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit.batteries import house_batteries, string_limit, strings_of
from lucernis.core.circuit.solver import Solver
from lucernis.core.circuit.sources import SourceFigures, source_figures
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.plan.model import Battery, Plan, State
from lucernis.practice.tables import load_table


@dataclass(frozen=True, slots=True)
class BatteryShare:
    """One battery of a bank in the state that asks most of it: its current [A], and that over an even share."""

    battery: str
    current_a: float
    of_even: float


@dataclass(frozen=True, slots=True)
class BankFigures:
    """The house bank as a whole.

    `strings` are batteries in series, top first; limits are sums over strings, each by its maker or the usual rate of
    its chemistry. `circling_a` flows between batteries of unlike rest voltage with nothing connected.
    """

    strings: tuple[tuple[Battery, ...], ...]
    nominal_v: float
    capacity_ah: float
    usable_ah: float
    mass_kg: float
    discharge_a: float
    discharge_short_a: float
    charge_a: float
    worst_a: float
    worst_state: str
    shares: tuple[BatteryShare, ...]
    circling_a: float


def battery_mass_kg(battery: Battery, nominal_v: float) -> float:
    """Mass by its maker, else by chemistry and energy of battery_planning.csv. [kg]

    Parameters
    ----------
    battery : Battery
        The battery.
    nominal_v : float
        Nominal voltage of the plan, taken where the battery states none. [V]

    Returns
    -------
    float
        Mass. [kg]
    """
    if battery.mass_kg is not None:
        return battery.mass_kg
    row = load_table("battery_planning").find(battery.chemistry)
    return battery.capacity_ah * (battery.rated_v or nominal_v) / float(row["wh_per_kg"])


def usable_share(chemistry: str, own: float | None) -> float:
    """Share of a bank that is planned for: the plan's own, else that of its chemistry."""
    if own is not None:
        return own
    return float(load_table("battery_chemistry").find(chemistry)["usable"])


def source_arrays(
    plan: Plan, sized: Sized, figures: dict[str, SourceFigures]
) -> tuple[np.ndarray[tuple[int], np.dtype[np.float64]], np.ndarray[tuple[int], np.dtype[np.float64]]]:
    """Open-circuit volts and running resistance of every source of a plan's circuit.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Names its sources.
    figures : dict
        Battery to its figures, taken at half charge.

    Returns
    -------
    tuple of ndarray
        Both of shape (n_sources,); panels keep their volts. [V], [Ω]
    """
    circuit = sized.wiring.circuit
    volts, ohm = np.array(circuit.source_v), np.array(circuit.source_ohm)
    for at, name in enumerate(sized.wiring.sources):
        if name in figures:
            volts[at], ohm[at] = figures[name].half_v, figures[name].running_ohm
    return volts, ohm


def solve_with_batteries(plan: Plan, sized: Sized, state: State, *, loads: bool = True) -> dict[str, float]:
    """Current out of every source with real batteries at half charge in place of stiff ones.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes.
    state : State
        One of its states.
    loads : bool
        Whether its loads are on; without them what flows is what batteries exchange.

    Returns
    -------
    dict
        Source to its current. [A]
    """
    wiring = sized.wiring
    index = {run.id: at for at, run in enumerate(plan.runs)}
    closed = wiring.closed(sized.demand.switched[state.id], index)
    swapped = sized.switching.swapped(state, sized.topology)
    solver = Solver(wiring.circuit, closed, np.array([one in swapped for one in wiring.consumers], dtype=bool))
    figures = {part.id: source_figures(part, plan.nominal_v) for part in plan.parts if isinstance(part, Battery)}
    volts, ohm = source_arrays(plan, sized, figures)
    on = sized.demand.on[state.id] if loads else frozenset()
    solution = solver.solve(
        wiring.resistances(leg_ohms(plan, sized.chosen)),
        np.array([one in on for one in wiring.consumers], dtype=bool),
        source_v=volts,
        source_ohm=ohm,
        load_value=wiring.rated_value,
        hold=False,
    )
    return dict(zip(wiring.sources, solution.source_a.tolist(), strict=True))


def bank_figures(plan: Plan, sized: Sized) -> BankFigures | None:
    """The house bank.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes, solved.

    Returns
    -------
    BankFigures or None
        None without a house battery. Capacity of a string is that of its smallest battery.

    Notes
    -----
    Sharing is that of the solved state that draws most from the bank, inverters at their rating: batteries of one kind
    share by their resistances. Unlike ones are solved each with its voltage at half charge behind its resistance.
    """
    strings = strings_of(plan)
    if not strings:
        return None
    house = house_batteries(plan)
    state = max(plan.states, key=lambda one: sized.rated[one.id].source_a)
    shares: tuple[BatteryShare, ...]
    circling_a = 0.0
    if len(house) > 1:
        alike = len({one.chemistry for one in house}) == 1
        given = sized.rated[state.id].battery_a if alike else solve_with_batteries(plan, sized, state)
        even = sum(given[string[-1].id] for string in strings) / len(strings)
        shares = tuple(
            BatteryShare(one.id, given[one.id], given[one.id] / even if abs(even) > 1e-9 else 1.0) for one in house
        )
        if len(strings) > 1:
            idle = solve_with_batteries(plan, sized, state, loads=False)
            circling_a = max(abs(idle[one.id]) for one in house)
    else:
        shares = (BatteryShare(house[0].id, sized.rated[state.id].source_a, 1.0),)
    ah = [min(one.capacity_ah for one in string) for string in strings]
    usable = sum(
        size * usable_share(string[0].chemistry, plan.energy.usable_frac)
        for size, string in zip(ah, strings, strict=True)
    )
    nominal = float(plan.nominal_v)
    return BankFigures(
        strings=strings,
        nominal_v=sum(float(one.rated_v or nominal) for one in strings[0]),
        capacity_ah=sum(ah),
        usable_ah=usable,
        mass_kg=sum(battery_mass_kg(one, nominal) for one in house),
        discharge_a=sum(string_limit(string, "discharge_a").amps for string in strings),
        discharge_short_a=sum(string_limit(string, "discharge_short_a").amps for string in strings),
        charge_a=sum(string_limit(string, "charge_a").amps for string in strings),
        worst_a=sized.rated[state.id].source_a,
        worst_state=state.id,
        shares=shares,
        circling_a=circling_a,
    )
