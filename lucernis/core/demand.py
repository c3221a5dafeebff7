"""Design current of every run: what the loads behind it can draw together, state by state."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.loads import LoadFigures, load_figures
from lucernis.core.topology import Topology
from lucernis.plan.model import Load, Plan, State
from lucernis.practice.rules import Rules


@dataclass(frozen=True, slots=True)
class Demand:
    """Figures of the loads, and the design current of each run with the state that asks for it."""

    loads: dict[str, LoadFigures]
    on: dict[str, frozenset[str]]
    design_current_a: dict[str, float]
    design_state: dict[str, str]


def loads_on(plan: Plan, state: State) -> frozenset[str]:
    """Ids of the loads that are on in a state: keyed ones only with the key on, none that the state switches off."""
    return frozenset(
        part.id
        for part in plan.parts
        if isinstance(part, Load) and part.id not in state.off and (state.key_on or not part.keyed)
    )


def demand(plan: Plan, topology: Topology, rules: Rules) -> Demand:
    """Design current of every run.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    rules : Rules
        Decides the volts for the design current.

    Returns
    -------
    Demand
        Currents in A. A run carries the sum of what is on behind it in its worst state, and at least its largest
        single load even if that is off in every state. A run that closes a ring carries the most either end needs.
    """
    figures = {
        part.id: load_figures(part, nominal_v=plan.nominal_v, school=rules.values.design_volts)
        for part in plan.parts
        if isinstance(part, Load)
    }
    on = {state.id: loads_on(plan, state) for state in plan.states}
    design: dict[str, float] = {}
    worst_state: dict[str, str] = {}
    for run_id, behind in topology.loads_behind.items():
        best, where = -1.0, plan.states[0].id
        for state in plan.states:
            together = sum((figures[load].design_current_a for load in behind if load in on[state.id]), 0.0)
            if together > best + 1e-12:
                best, where = together, state.id
        single = max((figures[load].design_current_a for load in behind), default=0.0)
        design[run_id], worst_state[run_id] = max(best, single), where
    for run_id in topology.closing:
        # If the other feed of either end opens, this run has to carry all that end needs.
        ends = (topology.start_of[run_id], topology.finish_of[run_id])
        feeders = [topology.feeder_of[part] for part in ends if part in topology.feeder_of]
        largest = max(feeders, key=lambda feeder: design[feeder], default=None)
        if largest is not None:
            design[run_id], worst_state[run_id] = design[largest], worst_state[largest]
    for run_id in topology.dead:
        design[run_id], worst_state[run_id] = 0.0, plan.states[0].id
    return Demand(loads=figures, on=on, design_current_a=design, design_state=worst_state)
