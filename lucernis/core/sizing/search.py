"""Sizes and currents together: choose the cheapest copper, solve the circuit with it, check every device, repeat."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.loads import RUNNING_V_PER_12V
from lucernis.core.circuit.returns import Returns, trace_returns
from lucernis.core.circuit.solver import Circuit, Solution, Solver
from lucernis.core.circuit.supplies import CHARGING, supply_limit_frac
from lucernis.core.circuit.switching import Switched, SwitchingPlan
from lucernis.core.circuit.topology import Topology, trace
from lucernis.core.sizing.demand import Demand, demand
from lucernis.core.sizing.fusing import RunFuse, choose_fuses
from lucernis.core.sizing.options import Case, Option, make_cases
from lucernis.core.sizing.selection import cheapest_options
from lucernis.core.sizing.wiring import Wiring, leg_ohms, own_volts, wire_plan
from lucernis.plan.model import Battery, Load, Plan, State
from lucernis.practice.rules import Rules

_ROUNDS_UP = 5
_ROUNDS_BETWEEN = 1
_ROUNDS_TIGHTER = 6
_SLACK_V = 1e-7


@dataclass(frozen=True, slots=True)
class StateResult:
    """One operating state, solved.

    Per run the current [A] and the volts lost in its legs [V]; per feed point the voltage between positive and
    negative there [V], 0 where nothing is live; consumers that are on but cannot be served; current out of each
    source [A], all of the house bank [A], less than 0 while it charges; the solution itself, over the nodes of
    `Wiring`.
    """

    state_id: str
    run_a: dict[str, float]
    run_drop_v: dict[str, float]
    part_v: dict[str, float]
    load_a: dict[str, float]
    unserved: frozenset[str]
    battery_a: dict[str, float]
    source_a: float
    converged: bool
    solution: Solution


@dataclass(frozen=True, slots=True)
class Sized:
    """A plan with a size for every run, solved in every state."""

    topology: Topology
    returns: Returns
    switching: SwitchingPlan
    wiring: Wiring
    demand: Demand
    fuses: dict[str, RunFuse]
    cases: dict[str, Case]
    chosen: dict[str, Option]
    unpinned: dict[str, Option]
    states: dict[str, StateResult]
    limit_v: dict[str, float]
    out_of_reach: frozenset[str]
    source_v: float
    reference_v: dict[str, float]
    charging: StateResult | None

    def home_v(self, point_name: str) -> float:
        """Volts held at the source a point hangs on: drops are counted from there. [V]"""
        return self.reference_v.get(self.topology.root_of.get(point_name, ""), self.source_v)


def reference_volts(plan: Plan, topology: Topology, source_v: float) -> dict[str, float]:
    """Volts held at every battery and panel that feeds something, batteries in series added up.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    source_v : float
        Volts held at a battery of nominal volts. [V]

    Returns
    -------
    dict
        Root to volts. [V]
    """
    below = {run.start.part: run.finish.part for run in plan.runs if run.legs == "series"}
    own = {part.id: own_volts(part, plan, source_v) for part in plan.parts if part.kind in ("battery", "panel")}
    found = {}
    for root in {topology.root_of[one] for one in topology.root_of}:
        volts, here, seen = own[root], root, {root}
        while here in below and below[here] not in seen:
            here = below[here]
            seen.add(here)
            volts += own[here]
        found[root] = volts
    return found


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


@dataclass(slots=True)
class StateSolver:
    """Solves the operating states of a plan with one choice of sizes after another.

    Between choices only resistances change, so the circuit is made ready once for each set of closed contacts.
    """

    plan: Plan
    topology: Topology
    switching: SwitchingPlan
    figures: Demand
    source_v: float
    wiring: Wiring | None = None
    _solvers: dict[tuple[Switched, frozenset[str]], Solver] = field(default_factory=dict)
    _points: tuple[tuple[str, ...], NDArray[np.int64], NDArray[np.int64]] | None = None
    _run_index: dict[str, int] = field(default_factory=dict)

    @property
    def gives(self) -> frozenset[str]:
        """Outputs of chargers."""
        return frozenset(name for name, supply in self.figures.supplies.items() if supply.gives)

    def ready(self, options: Mapping[str, Option]) -> Wiring:
        """The circuit, made once."""
        if self.wiring is None:
            wiring = wire_plan(self.plan, self.topology, self.switching, options, self.figures, self.source_v)
            self.wiring = wiring
            names = tuple(wiring.pos)
            self._points = (
                names,
                np.array([wiring.pos[name] for name in names], dtype=np.int64),
                np.array([wiring.neg_at(name) for name in names], dtype=np.int64),
            )
            self._run_index = {run.id: index for index, run in enumerate(self.plan.runs)}
        return self.wiring

    def solver(self, options: Mapping[str, Option], state: State) -> Solver:
        """The circuit with the contacts of a state."""
        wiring = self.ready(options)
        switched = self.figures.switched[state.id]
        swapped = self.switching.swapped(state, self.topology)
        key = (switched, swapped)
        if key not in self._solvers:
            turned = np.array([name in swapped for name in wiring.consumers], dtype=bool)
            self._solvers[key] = Solver(wiring.circuit, wiring.closed(switched, self._run_index), turned)
        return self._solvers[key]

    def solve(
        self, options: Mapping[str, Option], states: Iterable[State], *, give: bool = True
    ) -> dict[str, StateResult]:
        """Solve operating states with one choice of sizes.

        Parameters
        ----------
        options : Mapping
            Run id to the option in use.
        states : iterable of State
            Which states.
        give : bool
            Chargers give what they take; otherwise their outputs are left out.

        Returns
        -------
        dict
            State id to its result.
        """
        wiring, results = self.ready(options), {}
        ohm = wiring.resistances(leg_ohms(self.plan, options))
        solved: dict[tuple[int, frozenset[str]], Solution] = {}
        for state in states:
            on = self.figures.on[state.id]
            # Without their help, so that a charger that fails takes no load below its limit.
            on = on if give or state.id == CHARGING.id else on - self.gives
            solver = self.solver(options, state)
            key = (id(solver), on)
            if key not in solved:
                works = np.array([one in on for one in wiring.consumers], dtype=bool)
                solved[key] = solver.solve(ohm, works, give=give and state.id != CHARGING.id)
            swapped = self.switching.swapped(state, self.topology)
            results[state.id] = self._result(wiring, state.id, on, swapped, solved[key])
        return results

    def _result(
        self, wiring: Wiring, state_id: str, on: frozenset[str], swapped: frozenset[str], solution: Solution
    ) -> StateResult:
        names, pos, neg = self._points or ((), np.empty(0, dtype=np.int64), np.empty(0, dtype=np.int64))
        volts = solution.node_v[pos] - solution.node_v[neg]
        # Behind a reversing switch the device sees its own polarity.
        volts = np.where([name in swapped for name in names], -volts, volts) if swapped else volts
        volts[~solution.live[pos] | ~solution.live[neg]] = 0.0
        runs = self.plan.runs
        legs = solution.conductor_v[: 2 * len(runs)]
        lost = np.abs(legs[::2] - legs[1::2]).tolist() if len(runs) else []
        amps = solution.conductor_a[: 2 * len(runs)]
        carried = np.where(np.abs(amps[::2]) >= np.abs(amps[1::2]), amps[::2], amps[1::2]).tolist()
        draws, served = solution.load_a.tolist(), solution.served.tolist()
        consumers = wiring.consumers
        sources = [part for part in self.plan.parts if part.id in wiring.sources]
        given_a = dict(zip((part.id for part in sources), solution.source_a.tolist(), strict=True))
        house = [part.id for part in sources if isinstance(part, Battery) and part.use == "house"]
        return StateResult(
            state_id=state_id,
            run_a={run.id: carried[index] for index, run in enumerate(runs)},
            run_drop_v={run.id: lost[index] for index, run in enumerate(runs)},
            part_v=dict(zip(names, volts.tolist(), strict=True)),
            load_a={name: abs(draw) for name, draw in zip(consumers, draws, strict=True) if name in on},
            unserved=frozenset(name for name, ok in zip(consumers, served, strict=True) if name in on and not ok),
            battery_a=given_a,
            source_a=sum((given_a[one] for one in house if one not in wiring.above), 0.0),
            converged=solution.converged,
            solution=solution,
        )


def _short_of(states: dict[str, StateResult], limit_v: dict[str, float], home_v: Callable[[str], float]) -> set[str]:
    """Loads that miss their limit in some state they are on in."""
    return {
        load
        for result in states.values()
        for load in result.load_a
        if load in limit_v
        and (load in result.unserved or home_v(load) - result.part_v[load] > limit_v[load] + _SLACK_V)
    }


def _hardest(figures: Demand, plan: Plan, topology: Topology) -> list[State]:
    """States no other state outdoes: with the same contacts and more loads on, every drop is larger.

    What chargers give is left out of the search, and what they draw from elsewhere than the house side is looked at
    in a state of its own.
    """
    house = {part.id for part in plan.parts if isinstance(part, Battery) and part.use == "house"}
    apart = {name for name, one in figures.supplies.items() if one.gives or topology.root_of.get(name, "") not in house}
    on_in = {state.id: figures.on[state.id] - apart for state in plan.states}
    kept: list[State] = []
    for state in plan.states:
        on, modes = on_in[state.id], state.modes
        rivals = [other for other in plan.states if other.modes == modes or not (modes or other.modes)]
        if not on or any(on < on_in[other.id] for other in rivals):
            continue
        if all(on != on_in[other.id] or other.modes != modes for other in kept):
            kept.append(state)
    kept = kept or [plan.states[0]]
    return [*kept, CHARGING] if figures.supplies else kept


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
    home_v: Callable[[str], float]
    solver: StateSolver
    tried: dict[tuple[int, ...], _Trial] = field(default_factory=dict)

    def attempt(self, options: dict[str, Option]) -> _Trial:
        states = self.solver.solve(options, _hardest(self.figures, self.plan, self.topology), give=False)
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
                load: max(self.home_v(load) - one.part_v[load] for one in states.values() if load in one.load_a)
                for load in {load for one in states.values() for load in one.load_a}
            },
            frozenset(_short_of(states, self.limit_v, self.home_v)),
        )

    def cheapest(self, current_a: dict[str, float], kept_v: dict[str, float]) -> _Trial:
        roots = tuple(name for name, root in self.topology.root_of.items() if name == root)
        picks = cheapest_options(self.topology, self.cases, current_a, kept_v, roots)
        key = tuple(picks[run_id] for run_id in self.topology.order)
        if key in self.tried:
            return self.tried[key]
        # A run off the tree takes what fuse and ampacity ask; the drop search has no say in it.
        options = {run_id: case.options[picks.get(run_id, 0)] for run_id, case in self.cases.items()}
        for run_id, case in self.cases.items():
            if case.leader is not None and not case.pinned:
                options[run_id] = case.at_least(options[case.leader].size)
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
    returns = trace_returns(plan, topology)
    switching = SwitchingPlan(plan)
    figures = demand(plan, topology, returns, switching, rules)
    fuses = choose_fuses(plan, topology, figures, rules)
    source_v = source_volts(plan, rules)
    reference = reference_volts(plan, topology, source_v)

    def home_v(name: str) -> float:
        return reference.get(topology.root_of.get(name, ""), source_v)

    limit_v = {part.id: drop_limit_frac(part, rules) * plan.nominal_v for part in plan.parts if isinstance(part, Load)}
    limit_v |= {
        name: supply_limit_frac(supply, rules.values) * reference.get(topology.root_of.get(name, ""), source_v)
        for name, supply in figures.supplies.items()
        if not supply.gives
    }
    cases = make_cases(plan, topology, returns, figures, fuses, rules)
    solver = StateSolver(plan, topology, switching, figures, source_v)
    chosen, out_of_reach = _Search(plan, topology, figures, cases, limit_v, home_v, solver).run()
    states = solver.solve(chosen, plan.states)
    unpinned = chosen
    pinned = [run_id for run_id, case in cases.items() if case.pinned]
    if pinned:
        in_the_search = any(run_id in topology.behind or cases[run_id].leader is not None for run_id in pinned)
        only = None if in_the_search else pinned
        free = make_cases(plan, topology, returns, figures, fuses, rules, ignore_pins=True, only=only)
        if in_the_search:
            unpinned, _ = _Search(plan, topology, figures, free, limit_v, home_v, solver).run()
        else:
            # Off the feeding tree a pin changes nobody else's size.
            unpinned = chosen | {run_id: free[run_id].options[0] for run_id in pinned}
    return Sized(
        topology=topology,
        returns=returns,
        switching=switching,
        wiring=solver.ready(chosen),
        demand=figures,
        fuses=fuses,
        cases=cases,
        chosen=chosen,
        unpinned=unpinned,
        states=states,
        limit_v=limit_v,
        out_of_reach=out_of_reach,
        source_v=source_v,
        reference_v=reference,
        charging=solver.solve(chosen, [CHARGING])[CHARGING.id] if figures.supplies else None,
    )


def state_circuit(plan: Plan, sized: Sized, state: State) -> Circuit:
    """The circuit of a sized plan in one state, with only what carries and what is on.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes.
    state : State
        One of its states.

    Returns
    -------
    Circuit
        The nodes are those of `Sized.wiring`, so that another program's answer can be compared with ours.
    """
    wiring = sized.wiring
    index = {run.id: at for at, run in enumerate(plan.runs)}
    carries = wiring.closed(sized.demand.switched[state.id], index)
    ohm = wiring.resistances(leg_ohms(plan, sized.chosen))
    whole, swapped = wiring.circuit, sized.switching.swapped(state, sized.topology)
    out = Circuit(node_count=whole.node_count)
    for at in np.flatnonzero(carries).tolist():
        out.conductor(whole.conductor_from[at], whole.conductor_to[at], float(ohm[at]))
    for at in range(len(whole.source_v)):
        out.source(whole.source_pos[at], whole.source_neg[at], whole.source_v[at], whole.source_ohm[at])
    for at, name in enumerate(wiring.consumers):
        if name in sized.demand.on[state.id]:
            ends = (whole.load_pos[at], whole.load_neg[at])
            pos, neg = reversed(ends) if name in swapped else ends
            if name in sized.demand.supplies:
                # What a charger takes or gives stands in the solution; as a current any program can follow it.
                current_a = float(sized.states[state.id].solution.load_a[at])
                pos, neg = (pos, neg) if current_a >= 0 else (neg, pos)
                out.load(pos, neg, "constant_current", abs(current_a))
                continue
            out.load(pos, neg, whole.load_kind[at], whole.load_value[at])
    return out
