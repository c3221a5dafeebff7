"""Sizes and currents together: choose the cheapest copper, solve the circuit with it, check every device, repeat."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit import STIFF_SOURCE_OHM, Circuit, LoadKind, Solution, solve_circuit
from lucernis.core.demand import Demand, demand
from lucernis.core.fusing import RunFuse, choose_fuses
from lucernis.core.loads import RUNNING_V_PER_12V
from lucernis.core.options import Case, Option, make_cases
from lucernis.core.selection import cheapest_options
from lucernis.core.topology import Topology, trace
from lucernis.plan.model import Battery, Load, Plan
from lucernis.practice.rules import Rules

_ROUNDS = 8
_SLACK_V = 1e-7


@dataclass(frozen=True, slots=True)
class StateResult:
    """One operating state, solved. Per run the current [A] and the volts lost in both its legs [V]; per part the
    voltage between its terminals [V]; loads that are on but cannot be served."""

    state_id: str
    run_a: dict[str, float]
    run_drop_v: dict[str, float]
    part_v: dict[str, float]
    load_a: dict[str, float]
    unserved: frozenset[str]
    source_a: float
    converged: bool


@dataclass(frozen=True, slots=True)
class Sized:
    """A plan with a size for every run, solved in every state."""

    topology: Topology
    demand: Demand
    fuses: dict[str, RunFuse]
    cases: dict[str, Case]
    chosen: dict[str, Option]
    unpinned: dict[str, Option]
    states: dict[str, StateResult]
    limit_v: dict[str, float]
    out_of_reach: frozenset[str]
    source_v: float


def source_volts(plan: Plan, rules: Rules) -> float:
    """Voltage held at the battery's terminals while drop is computed.

    Parameters
    ----------
    plan : Plan
        Gives the nominal voltage.
    rules : Rules
        The school of design volts.

    Returns
    -------
    float
        13.5 V for each 12 V nominal with the engine running, else nominal. [V]
    """
    if rules.values.design_volts == "running":
        return RUNNING_V_PER_12V * plan.nominal_v / 12
    return float(plan.nominal_v)


def drop_limit_frac(load: Load, rules: Rules) -> float:
    """Greatest drop a load may see, as a share of nominal volts: its own, else that of its kind."""
    if load.drop_limit_frac is not None:
        return load.drop_limit_frac
    return rules.values.drop_sensitive_frac if load.sensitive else rules.values.drop_other_frac


def build_circuit(
    plan: Plan, sized_ohm: Mapping[str, Option], figures: Demand, on: frozenset[str], source_v: float
) -> tuple[Circuit, dict[str, tuple[int, int]], list[str]]:
    """The circuit of a plan in one state.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized_ohm : Mapping
        Run id to the option in use.
    figures : Demand
        Figures of the loads.
    on : frozenset of str
        Loads that are on.
    source_v : float
        Volts held at each battery. [V]

    Returns
    -------
    tuple
        The circuit; part id to its positive and negative node; ids of the loads in the order they were added. Run k
        of the plan is conductors 2k (positive leg) and 2k + 1 (negative leg).
    """
    batteries = [part for part in plan.parts if isinstance(part, Battery)]
    rest = [part for part in plan.parts if not isinstance(part, Battery)]
    nodes = {part.id: (2 * index + 1, 2 * index) for index, part in enumerate([*batteries, *rest])}
    circuit = Circuit(node_count=max(1, 2 * len(nodes)))
    for battery in batteries:
        circuit.source(*nodes[battery.id], source_v, STIFF_SOURCE_OHM)
    for run in plan.runs:
        option = sized_ohm[run.id]
        each_leg = (option.wire_loop_ohm + option.joints_ohm) / 2
        (start_pos, start_neg), (finish_pos, finish_neg) = nodes[run.start.part], nodes[run.finish.part]
        circuit.conductor(start_pos, finish_pos, each_leg + option.fuse_ohm)
        circuit.conductor(start_neg, finish_neg, each_leg)
    added: list[str] = []
    for part in plan.parts:
        if not isinstance(part, Load) or part.id not in on:
            continue
        load = figures.loads[part.id]
        if load.power_w is None:
            continue
        kind: LoadKind = part.behaviour
        value = {
            "constant_power": load.power_w,
            "constant_current": load.power_w / load.rated_v,
            "resistive": load.rated_v**2 / load.power_w,
        }[kind]
        circuit.load(*nodes[part.id], kind, value)
        added.append(part.id)
    return circuit, nodes, added


def solve_states(plan: Plan, options: Mapping[str, Option], figures: Demand, source_v: float) -> dict[str, StateResult]:
    """Solve every operating state with one choice of sizes.

    Parameters
    ----------
    plan : Plan
        The plan.
    options : Mapping
        Run id to the option in use.
    figures : Demand
        Figures of the loads.
    source_v : float
        Volts held at each battery. [V]

    Returns
    -------
    dict
        State id to its result.
    """
    results: dict[str, StateResult] = {}
    solved: dict[frozenset[str], tuple[Solution, dict[str, tuple[int, int]], list[str]]] = {}
    for state in plan.states:
        on = figures.on[state.id]
        if on not in solved:
            circuit, nodes, added = build_circuit(plan, options, figures, on, source_v)
            solved[on] = (solve_circuit(circuit), nodes, added)
        solution, nodes, added = solved[on]
        pos = np.array([nodes[part.id][0] for part in plan.parts], dtype=np.int64)
        neg = np.array([nodes[part.id][1] for part in plan.parts], dtype=np.int64)
        volts = (solution.node_v[pos] - solution.node_v[neg]).tolist() if len(pos) else []
        part_v = dict(zip((part.id for part in plan.parts), volts, strict=True))
        amps = solution.conductor_a.tolist()
        results[state.id] = StateResult(
            state_id=state.id,
            run_a={run.id: amps[2 * index] for index, run in enumerate(plan.runs)},
            run_drop_v={run.id: abs(part_v[run.start.part] - part_v[run.finish.part]) for run in plan.runs},
            part_v=part_v,
            load_a=dict(zip(added, solution.load_a.tolist(), strict=True)),
            unserved=frozenset(load for load, ok in zip(added, solution.served.tolist(), strict=True) if not ok),
            source_a=float(solution.source_a.sum()),
            converged=solution.converged,
        )
    return results


def _short_of(states: dict[str, StateResult], limit_v: dict[str, float], source_v: float) -> set[str]:
    """Loads that miss their limit in some state they are on in."""
    return {
        load
        for result in states.values()
        for load in result.load_a
        if load in limit_v and (load in result.unserved or source_v - result.part_v[load] > limit_v[load] + _SLACK_V)
    }


def _careful_currents(
    plan: Plan, topology: Topology, figures: Demand, volts_left: dict[str, float]
) -> dict[str, float]:
    """Currents no circuit that keeps the limits can exceed: constant power at the least voltage allowed."""
    draws: dict[str, float] = {}
    for part in plan.parts:
        if not isinstance(part, Load):
            continue
        load = figures.loads[part.id]
        power_w = load.power_w or 0.0
        if part.behaviour == "constant_power":
            draws[part.id] = power_w / max(volts_left[part.id], 0.1)
        else:
            draws[part.id] = max(power_w / load.rated_v, load.design_current_a)
    return {
        run_id: max(
            [sum(draws[load] for load in topology.loads_behind[run_id] if load in on) for on in figures.on.values()]
            + [draws[load] for load in topology.loads_behind[run_id]]
        )
        for run_id in topology.order
    }


def _search(
    plan: Plan, topology: Topology, figures: Demand, cases: dict[str, Case], limit_v: dict[str, float], source_v: float
) -> tuple[dict[str, Option], dict[str, StateResult], frozenset[str]]:
    """Cheapest sizes found that keep every limit that can be kept, their solution, and the loads out of reach."""
    thickest = {run_id: case.options[-1] for run_id, case in cases.items()}
    best, best_states = thickest, solve_states(plan, thickest, figures, source_v)
    out_of_reach = frozenset(_short_of(best_states, limit_v, source_v))
    kept_v = {load: volts for load, volts in limit_v.items() if load not in out_of_reach}
    volts_left = {
        load: (source_v - volts if load in kept_v else min(figures.loads[load].min_v, source_v))
        for load, volts in limit_v.items()
    }
    roots = tuple(part.id for part in plan.parts if isinstance(part, Battery))
    # A run off the tree carries what its own limits ask; the drop search has no say in it.
    off_tree = {run_id: case.options[0] for run_id, case in cases.items() if run_id not in set(topology.order)}
    current_a = _careful_currents(plan, topology, figures, volts_left)
    seen: set[tuple[int, ...]] = set()
    best_copper = float("inf")
    for _ in range(_ROUNDS):
        picks = cheapest_options(topology, cases, current_a, kept_v, roots)
        key = tuple(picks[run_id] for run_id in topology.order)
        if key in seen:
            if best_copper < float("inf"):
                break
            current_a = {run_id: 1.03 * value for run_id, value in current_a.items()}
            continue
        seen.add(key)
        trial = off_tree | {run_id: cases[run_id].options[at] for run_id, at in picks.items()}
        states = solve_states(plan, trial, figures, source_v)
        copper = sum(option.copper_mm2_m for option in trial.values())
        if copper < best_copper - 1e-9 and not _short_of(states, kept_v, source_v):
            best, best_states, best_copper = trial, states, copper
        for run_id in topology.order:
            solved_a = max(abs(result.run_a[run_id]) for result in states.values())
            # A branch that is off in every state still has to serve its own load.
            current_a[run_id] = solved_a if solved_a > 1e-9 else figures.design_current_a[run_id]
    return best, best_states, out_of_reach


def size_plan(plan: Plan, rules: Rules) -> Sized:
    """Choose fuse and wire of every run and solve every state.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    rules : Rules
        From `resolve_rules`.

    Returns
    -------
    Sized
        Always complete; what does not fit is for the checks to say.

    Notes
    -----
    First currents that no permissible circuit exceeds give sizes that are safe; then the currents solved with those
    sizes give cheaper ones, each verified by a solve in every state; the cheapest verified choice is kept. With
    several states each run is taken at its own worst state, which is careful. Loads that even the thickest permitted
    sizes cannot reach are left out of the search and reported; their wires then follow fuse and ampacity alone.
    """
    topology = trace(plan)
    figures = demand(plan, topology, rules)
    fuses = choose_fuses(plan, topology, figures, rules)
    source_v = source_volts(plan, rules)
    limit_v = {part.id: drop_limit_frac(part, rules) * plan.nominal_v for part in plan.parts if isinstance(part, Load)}
    cases = make_cases(plan, topology, figures, fuses, rules)
    chosen, states, out_of_reach = _search(plan, topology, figures, cases, limit_v, source_v)
    unpinned = chosen
    if any(case.pinned for case in cases.values()):
        free = make_cases(plan, topology, figures, fuses, rules, ignore_pins=True)
        unpinned, _, _ = _search(plan, topology, figures, free, limit_v, source_v)
    return Sized(
        topology=topology,
        demand=figures,
        fuses=fuses,
        cases=cases,
        chosen=chosen,
        unpinned=unpinned,
        states=states,
        limit_v=limit_v,
        out_of_reach=out_of_reach,
        source_v=source_v,
    )
