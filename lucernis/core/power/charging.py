"""What chargers really give through the wires as they are: from the engine, from shore, from full sun."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from lucernis.core.circuit.batteries import acceptance_a
from lucernis.core.circuit.solver import STIFF_SOURCE_OHM, Solver
from lucernis.core.circuit.sources import alternator_of, alternator_v, source_figures
from lucernis.core.circuit.supplies import each_out_a, panel_power_w, panel_short_a, panels_on
from lucernis.core.circuit.terminals import point
from lucernis.core.itself import Itself
from lucernis.core.power.bank import source_arrays
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.plan.model import Battery, Charger, Panel, Plan, State
from lucernis.practice.tables import load_table

Source = Literal["engine", "shore", "sun"]
# Checks, workings, power and days of one plan ask for the same few.
_MOST = 32
_STATES: dict[Source, State] = {
    "engine": State(id="from-engine", name="Engine alone", engine_on=True),
    "shore": State(id="from-shore", name="Shore alone", key_on=False, shore_on=True),
    "sun": State(id="from-sun", name="Sun alone", key_on=False, sun=True),
}


@dataclass(frozen=True, slots=True)
class ChargeStudy:
    """Charging by one source with every load off: into the house bank [A], out of each charger [A], volts at each
    charger's input and output [V], out of the starter side [A]."""

    into_bank_a: float
    given_a: dict[str, float]
    input_v: dict[str, float]
    input_a: dict[str, float]
    output_v: dict[str, float]
    from_starter_a: float


def alternator_spare_a(plan: Plan) -> float | None:
    """What an alternator has left hot and at idle once the vehicle has its own; None without one. [A]"""
    alternator = alternator_of(plan)
    if alternator is None:
        return None
    return max(0.0, alternator.rated_a * alternator.idle_frac - alternator.vehicle_a)


def study_charge(plan: Plan, sized: Sized, source: Source, *, open_v: float | None = None) -> ChargeStudy:
    """Charging by one source alone.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes.
    source : str
        ``engine``, ``shore`` or ``sun``.
    open_v : float, optional
        Open-circuit voltage of each house battery's 12 V; that at half charge otherwise. [V]

    Returns
    -------
    ChargeStudy
        With the engine the starter battery is held at the alternator's volts; house batteries are real ones.
    """
    return _study(Itself(plan), Itself(sized), source, open_v)


@lru_cache(maxsize=_MOST)
def _study(of: Itself[Plan], by: Itself[Sized], source: Source, open_v: float | None) -> ChargeStudy:
    plan, sized = of.thing, by.thing
    wiring, state = sized.wiring, _STATES[source]
    index = {run.id: at for at, run in enumerate(plan.runs)}
    solver = Solver(wiring.circuit, wiring.closed(sized.switching.in_state(state), index))
    figures = {part.id: source_figures(part, plan.nominal_v) for part in plan.parts if isinstance(part, Battery)}
    volts, ohm = source_arrays(plan, sized, figures)
    house_at, starter_at = [], []
    for at, name in enumerate(wiring.sources):
        part = sized.topology.parts[name]
        if isinstance(part, Battery) and part.use == "starter":
            starter_at.append(at)
            if source == "engine":
                volts[at], ohm[at] = alternator_v(plan, float(part.rated_v or plan.nominal_v)), STIFF_SOURCE_OHM
        elif isinstance(part, Battery):
            if name not in wiring.above:
                house_at.append(at)
            if open_v is not None:
                volts[at] = open_v * (part.rated_v or plan.nominal_v) / 12
    works = {name for name, supply in sized.demand.supplies.items() if _runs(supply.charger, supply.terminal, source)}
    on = np.array([name in works for name in wiring.consumers], dtype=bool)
    solution = solver.solve(
        wiring.resistances(leg_ohms(plan, sized.chosen)), on, source_v=volts, source_ohm=ohm, hold=False
    )
    given: dict[str, float] = {}
    input_v: dict[str, float] = {}
    input_a: dict[str, float] = {}
    output_v: dict[str, float] = {}
    for at, name in enumerate(wiring.consumers):
        supply = sized.demand.supplies.get(name)
        if supply is None or name not in works:
            continue
        if supply.gives:
            given[supply.charger.id] = given.get(supply.charger.id, 0.0) - float(solution.load_a[at])
            output_v[supply.charger.id] = float(solution.load_v[at])
        else:
            input_v[supply.charger.id] = float(solution.load_v[at])
            input_a[supply.charger.id] = float(solution.load_a[at])
    source_a = solution.source_a.tolist()
    return ChargeStudy(
        into_bank_a=-sum(source_a[at] for at in house_at),
        given_a=given,
        input_v=input_v,
        input_a=input_a,
        output_v=output_v,
        from_starter_a=sum(source_a[at] for at in starter_at),
    )


def _runs(charger: Charger, terminal: str, source: Source) -> bool:
    if source == "sun":
        return terminal == "pv" or (terminal in ("out", "out_b") and charger.pv_high_v is not None)
    if terminal == "pv":
        return False
    return charger.form == ("dcdc" if source == "engine" else "shore")


@dataclass(frozen=True, slots=True)
class PanelFit:
    """Panels against the limits of their charger. Cold open-circuit volts [V], power [W], short-circuit current [A]."""

    cold_open_v: float
    working_v: float
    power_w: float
    short_a: float
    typical: bool
    strings: int


def cold_open_v(panel: Panel, coldest_c: float) -> float:
    """Open-circuit voltage of a string of panels on a cold morning.

    Parameters
    ----------
    panel : Panel
        The panels; the typical coefficient where theirs is not stated.
    coldest_c : float
        Coldest temperature with sun on them. [°C]

    Returns
    -------
    float
        ``n · Voc · (1 + β (T - 25))``. [V]
    """
    row = load_table("panel_typical").find("crystalline")
    per_k = panel.open_frac_per_k if panel.open_frac_per_k is not None else float(row["open_frac_per_k"])
    return panel.series * panel.open_v * (1 + per_k * (coldest_c - 25.0))


def panel_fit(plan: Plan, sized: Sized, charger: Charger) -> PanelFit | None:
    """Panels of a charger; None where it has none."""
    panels = panels_on(plan, sized.topology, point(charger.id, "pv"))
    if not panels:
        return None
    return PanelFit(
        cold_open_v=max(cold_open_v(one, plan.energy.coldest_c) for one in panels),
        working_v=min(one.mp_v * one.series for one in panels),
        power_w=panel_power_w(panels),
        short_a=panel_short_a(panels),
        typical=any(one.open_frac_per_k is None for one in panels),
        strings=sum(one.strings for one in panels),
    )


def engine_draw_a(plan: Plan, study: ChargeStudy) -> float:
    """What charging takes from the alternator. [A]

    Inputs of chargers, and through a plain link what the bank takes of what the wires would pass.
    """
    inputs_a = sum(study.input_a.values())
    link_a = max(0.0, study.from_starter_a - inputs_a)
    most_a = acceptance_a(plan)
    return inputs_a + (link_a if most_a is None else min(link_a, most_a))


def rated_out_a(charger: Charger) -> float:
    """Greatest output of a charger, all its outputs. [A]"""
    return each_out_a(charger) * charger.outputs
