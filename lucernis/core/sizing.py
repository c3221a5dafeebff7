"""Sizes and currents together: choose the cheapest copper, solve the circuit with it, check every device, repeat."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np

from lucernis.core.circuit import STIFF_SOURCE_OHM, Circuit, Ints, LoadKind, Solution, Solver
from lucernis.core.demand import Demand, demand
from lucernis.core.fusing import RunFuse, choose_fuses
from lucernis.core.loads import RUNNING_V_PER_12V
from lucernis.core.options import Case, Option, make_cases
from lucernis.core.selection import cheapest_options
from lucernis.core.topology import Topology, trace
from lucernis.plan.model import Battery, Load, Plan, State
from lucernis.practice.rules import Rules

_ROUNDS_UP = 5
_ROUNDS_BETWEEN = 1
_ROUNDS_TIGHTER = 6
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
    plan: Plan, options: Mapping[str, Option], figures: Demand, on: frozenset[str], source_v: float
) -> tuple[Circuit, dict[str, tuple[int, int]], list[str]]:
    """The circuit of a plan in one state.

    Parameters
    ----------
    plan : Plan
        The plan.
    options : Mapping
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
        option = options[run.id]
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


@dataclass(slots=True)
class StateSolver:
    """Solves the operating states of a plan with one choice of sizes after another.

    Between choices only resistances change, between states only what is on, so the circuit is made ready once.
    """

    plan: Plan
    figures: Demand
    source_v: float
    _ready: tuple[Solver, list[str], Ints, Ints] | None = None

    def _circuit(self, options: Mapping[str, Option]) -> tuple[Solver, list[str], Ints, Ints]:
        if self._ready is None:
            every = frozenset(self.figures.loads)
            circuit, nodes, added = build_circuit(self.plan, options, self.figures, every, self.source_v)
            pos, neg = (np.array([nodes[part.id][k] for part in self.plan.parts], dtype=np.int64) for k in (0, 1))
            self._ready = (Solver(circuit), added, pos, neg)
        return self._ready

    def solve(self, options: Mapping[str, Option], states: Iterable[State]) -> dict[str, StateResult]:
        """Solve operating states with one choice of sizes.

        Parameters
        ----------
        options : Mapping
            Run id to the option in use.
        states : iterable of State
            Which states.

        Returns
        -------
        dict
            State id to its result.
        """
        plan, results = self.plan, {}
        solver, added, pos, neg = self._circuit(options)
        runs = [options[run.id] for run in plan.runs]
        ohm = np.repeat([(one.wire_loop_ohm + one.joints_ohm) / 2 for one in runs], 2)
        ohm[::2] += [one.fuse_ohm for one in runs]
        solved: dict[frozenset[str], Solution] = {}
        for state in states:
            on = self.figures.on[state.id]
            if on not in solved:
                solved[on] = solver.solve(ohm, np.array([load in on for load in added], dtype=bool))
            solution = solved[on]
            volts = (solution.node_v[pos] - solution.node_v[neg]).tolist() if plan.parts else []
            part_v = dict(zip((part.id for part in plan.parts), volts, strict=True))
            amps, draws = solution.conductor_a.tolist(), solution.load_a.tolist()
            served = solution.served.tolist()
            results[state.id] = StateResult(
                state_id=state.id,
                run_a={run.id: amps[2 * index] for index, run in enumerate(plan.runs)},
                run_drop_v={run.id: abs(part_v[run.start.part] - part_v[run.finish.part]) for run in plan.runs},
                part_v=part_v,
                load_a={load: draw for load, draw in zip(added, draws, strict=True) if load in on},
                unserved=frozenset(load for load, ok in zip(added, served, strict=True) if load in on and not ok),
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


def _hardest(figures: Demand, plan: Plan) -> list[State]:
    """States no other state outdoes: with more loads on, every drop is larger."""
    kept: list[State] = []
    for state in plan.states:
        on = figures.on[state.id]
        if any(on < figures.on[other.id] for other in plan.states):
            continue
        if all(on != figures.on[other.id] for other in kept):
            kept.append(state)
    return kept


@dataclass(frozen=True, slots=True)
class _Trial:
    """One choice of sizes with its solution."""

    options: dict[str, Option]
    copper_mm2_m: float
    current_a: dict[str, float]
    drop_v: dict[str, float]
    short: frozenset[str]


@dataclass(slots=True)
class _Search:
    """Finds the cheapest sizes whose solved circuit keeps every limit that can be kept."""

    plan: Plan
    topology: Topology
    figures: Demand
    cases: dict[str, Case]
    limit_v: dict[str, float]
    source_v: float
    solver: StateSolver
    tried: dict[tuple[int, ...], _Trial] = field(default_factory=dict)

    def attempt(self, options: dict[str, Option]) -> _Trial:
        states = self.solver.solve(options, _hardest(self.figures, self.plan))
        current_a = {}
        for run_id in self.topology.order:
            solved_a = max(abs(result.run_a[run_id]) for result in states.values())
            # A branch that is off in every state still has to serve its own load.
            current_a[run_id] = solved_a if solved_a > 1e-9 else self.figures.design_current_a[run_id]
        return _Trial(
            options,
            sum(option.copper_mm2_m for option in options.values()),
            current_a,
            {
                load: max(self.source_v - one.part_v[load] for one in states.values() if load in one.load_a)
                for load in {load for one in states.values() for load in one.load_a}
            },
            frozenset(_short_of(states, self.limit_v, self.source_v)),
        )

    def cheapest(self, current_a: dict[str, float], kept_v: dict[str, float]) -> _Trial:
        roots = tuple(part.id for part in self.plan.parts if isinstance(part, Battery))
        picks = cheapest_options(self.topology, self.cases, current_a, kept_v, roots)
        key = tuple(picks[run_id] for run_id in self.topology.order)
        if key in self.tried:
            return self.tried[key]
        # A run off the tree takes what fuse and ampacity ask; the drop search has no say in it.
        options = {run_id: case.options[picks.get(run_id, 0)] for run_id, case in self.cases.items()}
        self.tried[key] = self.attempt(options)
        return self.tried[key]

    def run(self) -> tuple[dict[str, Option], frozenset[str]]:
        """The sizes, and the loads out of reach of even the thickest."""
        thickest = self.attempt({run_id: case.options[-1] for run_id, case in self.cases.items()})
        out_of_reach = thickest.short
        kept_v = {load: volts for load, volts in self.limit_v.items() if load not in out_of_reach}
        best, low_a, high_a = self._raise_currents(thickest, kept_v, out_of_reach)
        if best is None:
            best = self._tighten_limits(thickest, kept_v, out_of_reach)
        else:
            best = self._narrow(best, low_a, high_a, kept_v, out_of_reach)
        return best.options, out_of_reach

    def _raise_currents(
        self, thickest: _Trial, kept_v: dict[str, float], out_of_reach: frozenset[str]
    ) -> tuple[_Trial | None, dict[str, float], dict[str, float]]:
        """From the lowest currents there can be upward, until the cheapest sizes for them pass when solved."""
        low_a = high_a = thickest.current_a
        for _ in range(_ROUNDS_UP):
            trial = self.cheapest(high_a, kept_v)
            if not trial.short - out_of_reach:
                return trial, low_a, high_a
            low_a = high_a
            high_a = {run: max(trial.current_a[run], 1.003 * high_a[run]) for run in high_a}
        return None, low_a, high_a

    def _narrow(
        self,
        best: _Trial,
        low_a: dict[str, float],
        high_a: dict[str, float],
        kept_v: dict[str, float],
        out_of_reach: frozenset[str],
    ) -> _Trial:
        """Between currents that failed and currents that passed there may be cheaper sizes that pass."""
        if low_a is high_a:
            return best
        for _ in range(_ROUNDS_BETWEEN):
            middle_a = {run: (low_a[run] + high_a[run]) / 2 for run in high_a}
            trial = self.cheapest(middle_a, kept_v)
            if trial.short - out_of_reach:
                low_a = middle_a
                continue
            high_a = middle_a
            if trial.copper_mm2_m < best.copper_mm2_m - 1e-9:
                best = trial
        return best

    def _tighten_limits(self, thickest: _Trial, kept_v: dict[str, float], out_of_reach: frozenset[str]) -> _Trial:
        """Where thin wires elsewhere raise a shared current too far, hold every device nearer to its best."""
        best, passed, failed = thickest, 0.0, 1.0
        for _ in range(_ROUNDS_TIGHTER):
            share = (passed + failed) / 2
            held_v = {
                load: thickest.drop_v[load] + share * max(0.0, volts - thickest.drop_v[load])
                for load, volts in kept_v.items()
                if load in thickest.drop_v
            }
            trial = self.cheapest({run: 1.003 * value for run, value in best.current_a.items()}, held_v)
            if trial.short - out_of_reach:
                failed = share
                continue
            passed = share
            if trial.copper_mm2_m < best.copper_mm2_m - 1e-9:
                best = trial
        return best


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
    Sizes and currents depend on one another because constant-power loads draw more as their voltage falls. The
    search starts from the currents of the thickest sizes, the lowest there can be, takes the cheapest sizes for them,
    solves the circuit, and raises the currents until the solved circuit keeps every limit; then it narrows down
    between the last currents that failed and the first that passed. Where that finds nothing, all limits are drawn in
    towards what the thickest sizes give. What is kept has been solved, not estimated. With
    several states each run is taken at its own worst state, which is careful. Loads that even the thickest permitted
    sizes cannot reach are left out of the search and reported; their wires then follow fuse and ampacity alone.
    """
    topology = trace(plan)
    figures = demand(plan, topology, rules)
    fuses = choose_fuses(plan, topology, figures, rules)
    source_v = source_volts(plan, rules)
    limit_v = {part.id: drop_limit_frac(part, rules) * plan.nominal_v for part in plan.parts if isinstance(part, Load)}
    cases = make_cases(plan, topology, figures, fuses, rules)
    solver = StateSolver(plan, figures, source_v)
    chosen, out_of_reach = _Search(plan, topology, figures, cases, limit_v, source_v, solver).run()
    states = solver.solve(chosen, plan.states)
    unpinned = chosen
    if any(case.pinned for case in cases.values()):
        free = make_cases(plan, topology, figures, fuses, rules, ignore_pins=True)
        unpinned, _ = _Search(plan, topology, figures, free, limit_v, source_v, solver).run()
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
