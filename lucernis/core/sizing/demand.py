"""Design current of every run: what hangs behind it and can be on together, state by state."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lucernis.core.circuit.loads import LoadFigures, coil_figures, load_figures
from lucernis.core.circuit.returns import Returns
from lucernis.core.circuit.supplies import CHARGING, Supply, supplies, supply_figures, supply_on
from lucernis.core.circuit.switching import Switched, SwitchingPlan
from lucernis.core.circuit.topology import Topology
from lucernis.plan.model import Battery, Load, Plan, Relay, State
from lucernis.practice.rules import Rules


@dataclass(frozen=True, slots=True)
class Demand:
    """Figures of the consumers, what each state closes and has on, and the design current of each run with the state
    that asks for it. `connected_a` is everything behind a run at once: the difference is its diversity."""

    loads: dict[str, LoadFigures]
    switched: dict[str, Switched]
    on: dict[str, frozenset[str]]
    design_current_a: dict[str, float]
    design_state: dict[str, str]
    connected_a: dict[str, float]
    supplies: dict[str, Supply]


def consumers_on(
    plan: Plan,
    topology: Topology,
    state: State,
    switched: Switched,
    always: Switched,
    supplied: Mapping[str, Supply],
) -> frozenset[str]:
    """Consumers that are on in a state: not switched off, keyed ones only with the key on, none behind an open
    contact, chargers with what feeds them. What hangs on no battery at all counts as on: it is reported unserved."""
    on = set()
    for name in topology.consumers:
        if name in always.live and name not in switched.live:
            continue
        part = topology.parts.get(name)
        if name in supplied:
            if supply_on(supplied[name], state):
                on.add(name)
            continue
        if isinstance(part, Load) and (name in state.off or (part.keyed and not state.key_on)):
            continue
        on.add(name)
    return frozenset(on)


def demand(plan: Plan, topology: Topology, returns: Returns, switching: SwitchingPlan, rules: Rules) -> Demand:
    """Design current of every run.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    returns : Returns
        The way back of each consumer.
    switching : SwitchingPlan
        Its contacts.
    rules : Rules
        Decides the volts for the design current.

    Returns
    -------
    Demand
        Currents in A. A run carries the sum of what is on behind it in its worst state, and at least its largest
        single load even if that is off in every state, and at least the current it is planned for. A run that closes
        a ring carries the most either end needs.
    """
    figures = {
        part.id: load_figures(
            part,
            nominal_v=plan.nominal_v,
            school=rules.values.design_volts,
            inverter_school=rules.values.inverter_current,
        )
        for part in plan.parts
        if isinstance(part, Load)
    }
    for part in plan.parts:
        if isinstance(part, Relay) and f"{part.id}:coil" in topology.consumers:
            figures[f"{part.id}:coil"] = coil_figures(part.coil_a, nominal_v=float(plan.nominal_v))
    supplied = supplies(plan, topology)
    figures |= {name: supply_figures(supply, float(plan.nominal_v)) for name, supply in supplied.items()}
    gives = {name for name, supply in supplied.items() if supply.gives}
    switched = {state.id: switching.in_state(state) for state in plan.states}
    on = {
        state.id: consumers_on(plan, topology, state, switched[state.id], switching.all_closed, supplied)
        for state in plan.states
    }
    if supplied:
        switched[CHARGING.id], on[CHARGING.id] = switching.in_state(CHARGING), frozenset(supplied)
    first = plan.states[0].id
    design: dict[str, float] = {}
    worst_state: dict[str, str] = {}
    connected: dict[str, float] = {}
    for run_id, everything in (*topology.behind.items(), *returns.through.items()):
        # What a charger gives flows against what loads draw: the larger of the two, never their sum.
        behind = [one for one in everything if one not in gives] if gives else everything
        given = sum((figures[one].design_current_a for one in everything if one in gives), 0.0)
        best, where = -1.0, first
        for state in plan.states:
            together = sum((figures[one].design_current_a for one in behind if one in on[state.id]), 0.0)
            if together > best + 1e-12:
                best, where = together, state.id
        single = max((figures[one].design_current_a for one in behind), default=0.0)
        design[run_id], worst_state[run_id] = max(best, single, given), where
        connected[run_id] = max(sum((figures[one].design_current_a for one in behind), 0.0), given)
    for run_id in topology.closing:
        # If the other feed of either end opens, this run has to carry all that end needs.
        ends = (topology.start_of[run_id], topology.finish_of[run_id])
        feeders = [topology.feeder_of[part] for part in ends if part in topology.feeder_of]
        largest = max(feeders, key=lambda feeder: design[feeder], default=None)
        if largest is not None:
            design[run_id], worst_state[run_id] = design[largest], worst_state[largest]
    _bank(plan, topology, design)
    for run in plan.runs:
        design.setdefault(run.id, 0.0)
        worst_state.setdefault(run.id, first)
        connected.setdefault(run.id, design[run.id])
        if run.planned_a is not None:
            design[run.id] = max(design[run.id], run.planned_a)
    return Demand(
        loads=figures,
        switched=switched,
        on=on,
        design_current_a=design,
        design_state=worst_state,
        connected_a=connected,
        supplies=supplied,
    )


def _bank(plan: Plan, topology: Topology, design: dict[str, float]) -> None:
    """Runs within a bank of several batteries: any string may have to carry all of it, up to its own limit."""
    house = {part.id: part for part in plan.parts if isinstance(part, Battery) and part.use == "house"}
    if len(house) < 2:
        return
    ends = {run.id: (run.start.part, run.finish.part) for run in plan.runs}
    pairs = [pair for pair in ends.values() if set(pair) <= house.keys()]
    linked = {one for pair in pairs for one in pair}
    feeding = [one for one in topology.order if house.keys() & set(ends[one]) and ends[one] not in pairs]
    total = max((design[one] for one in feeding), default=0.0)
    for run in plan.runs:
        own = [house[one] for one in ends[run.id] if one in house]
        if not own:
            continue
        other = topology.parts[run.finish.part if run.start.part == own[0].id else run.start.part]
        back = run.legs == "negative" and other.kind != "chassis_point"
        carries_all = run.id in feeding and design[run.id] >= total
        if len(own) == 1 and not (run.id in topology.closing or back or carries_all):
            continue
        limit_a = own[0].discharge_short_a or own[0].discharge_a
        if limit_a is not None:
            # What chargers push into it passes the same cable.
            limit_a = max(limit_a, own[0].charge_a or limit_a)
        # Only a string's own cable is capped by its battery; a link passes on what the others give.
        capped = len(own) == 1 and own[0].id not in linked and limit_a is not None
        design[run.id] = min(total, limit_a) if capped and limit_a is not None else total
