"""Operating states solved with one choice of sizes after another."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats
from lucernis.core.circuit.batteries import strings_of
from lucernis.core.circuit.solver import Solution, Solver
from lucernis.core.circuit.sources import alternator_v
from lucernis.core.circuit.supplies import CHARGING
from lucernis.core.circuit.switching import Switched, SwitchingPlan
from lucernis.core.circuit.topology import Topology
from lucernis.core.sizing.demand import Demand
from lucernis.core.sizing.stretch import Option
from lucernis.core.sizing.wiring import Wiring, leg_ohms, leg_shares, wire_plan
from lucernis.plan.model import Battery, Plan, State


@dataclass(frozen=True, slots=True)
class StateResult:
    """One operating state, solved.

    Per run the current [A], and the volts lost in its legs and in their conductors alone [V]; per feed point the
    voltage between positive and negative there [V], 0 where nothing is live; per source point the volts at its
    terminals, from which drops are counted [V]; consumers that are on but cannot be served; current out of each source
    [A], all of the house bank [A], less than 0 while it charges. `leg_v` is what each leg loses from its start to its
    finish, shape (2 n_runs,); the solution itself runs over the nodes of `Wiring`.
    """

    state_id: str
    run_a: dict[str, float]
    run_drop_v: dict[str, float]
    conductor_drop_v: dict[str, float]
    part_v: dict[str, float]
    home_v: dict[str, float]
    load_a: dict[str, float]
    unserved: frozenset[str]
    battery_a: dict[str, float]
    source_a: float
    converged: bool
    leg_v: Floats
    solution: Solution


@dataclass(frozen=True, slots=True)
class _Key:
    """What a solver is made ready for: closed contacts, exchanged consumers, diodes that block."""

    switched: Switched
    swapped: frozenset[str]
    blocked: frozenset[str]


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
    _solvers: dict[_Key, Solver] = field(default_factory=dict)
    _points: tuple[tuple[str, ...], NDArray[np.int64], NDArray[np.int64]] | None = None
    _run_index: dict[str, int] = field(default_factory=dict)
    _held: dict[str, Floats] = field(default_factory=dict)
    _blocked: dict[str, frozenset[str]] = field(default_factory=dict)
    _chains: dict[str, tuple[str, ...]] = field(default_factory=dict)

    @property
    def gives(self) -> frozenset[str]:
        """Outputs of chargers."""
        return frozenset(name for name, supply in self.figures.supplies.items() if supply.gives)

    @property
    def has_rating(self) -> bool:
        """Whether anything draws more at its rating than in use."""
        return any(
            one.rated_w is not None and one.power_w is not None and one.rated_w > one.power_w * (1 + 1e-9)
            for one in self.figures.loads.values()
        )

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
            below = {run.start.part: run.finish.part for run in self.plan.runs if run.legs == "series"}
            for root in {self.topology.root_of[one] for one in self.topology.root_of}:
                chain, here = [root], root
                while here in below and below[here] not in chain:
                    here = below[here]
                    chain.append(here)
                self._chains[root] = tuple(chain)
        return self.wiring

    def source_volts(self, state: State) -> Floats:
        """Volts held at every source in a state: a starter battery at the alternator's while the engine runs.

        Where a closed contact joins it to the house side it stays with that: what charging pushes through the contact
        is figured by itself.
        """
        if self.wiring is None:
            raise RuntimeError("ready() comes first")
        if state.id not in self._held:
            volts = np.array(self.wiring.circuit.source_v)
            if self.source_v > self.plan.nominal_v and not (state.engine_on or state.key_on):
                # The volts of a running engine are not there with the key off.
                held = np.array([self.topology.parts[name].kind == "battery" for name in self.wiring.sources])
                volts[held] *= self.plan.nominal_v / self.source_v
            if state.engine_on:
                switched = self.figures.switched[state.id]
                for at, name in enumerate(self.wiring.sources):
                    part = self.topology.parts[name]
                    if isinstance(part, Battery) and part.use == "starter":
                        reached = self.switching.reach(switched.closed, switched.open_runs, roots=[name])
                        house = {one.id for string in strings_of(self.plan) for one in string}
                        if not house & reached:
                            volts[at] = alternator_v(self.plan, float(part.rated_v or self.plan.nominal_v))
            self._held[state.id] = volts
        return self._held[state.id]

    def solver(self, options: Mapping[str, Option], state: State) -> Solver:
        """The circuit with the contacts of a state."""
        wiring = self.ready(options)
        key = _Key(
            self.figures.switched[state.id],
            self.switching.swapped(state, self.topology),
            self._blocked.get(state.id, frozenset()),
        )
        if key not in self._solvers:
            turned = np.array([name in key.swapped for name in wiring.consumers], dtype=bool)
            closed = wiring.closed(key.switched, self._run_index)
            for name in key.blocked:
                closed[list(wiring.contact_at[(name, "main")])] = False
            self._solvers[key] = Solver(wiring.circuit, closed, turned)
        return self._solvers[key]

    def solve(
        self, options: Mapping[str, Option], states: Iterable[State], *, give: bool = True, rated: bool = False
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
        rated : bool
            Inverters at their rating, else with what is plugged in.

        Returns
        -------
        dict
            State id to its result.
        """
        wiring, results = self.ready(options), {}
        ohm = wiring.resistances(leg_ohms(self.plan, options))
        wire = leg_shares(self.plan, options).wire
        solved: dict[tuple[int, frozenset[str], bytes], Solution] = {}
        for state in states:
            on = self.figures.on[state.id]
            # Without their help, so that a charger that fails takes no load below its limit.
            on = on if give or state.id == CHARGING.id else on - self.gives
            volts = self.source_volts(state)
            works = np.array([one in on for one in wiring.consumers], dtype=bool)
            value = wiring.rated_value if rated else None
            helps = give and state.id != CHARGING.id
            self._blocked.pop(state.id, None)
            while True:
                solver = self.solver(options, state)
                key = (id(solver), on, volts.tobytes())
                if key not in solved:
                    solved[key] = solver.solve(ohm, works, give=helps, source_v=volts, load_value=value)
                back = self._backwards(state, solved[key])
                if not back:
                    break
                self._blocked[state.id] = self._blocked.get(state.id, frozenset()) | back
            swapped = self.switching.swapped(state, self.topology)
            results[state.id] = self._result(wiring, state.id, on, swapped, solved[key], wire)
        return results

    def _backwards(self, state: State, solution: Solution) -> frozenset[str]:
        """Diodes that would have to let current back: they block."""
        if not self.switching.diodes or self.wiring is None:
            return frozenset()
        known = self._blocked.get(state.id, frozenset())
        return frozenset(
            name
            for name in self.switching.diodes - known
            if solution.conductor_a[self.wiring.contact_at[(name, "main")][0]] < -1e-6
        )

    def _result(
        self,
        wiring: Wiring,
        state_id: str,
        on: frozenset[str],
        swapped: frozenset[str],
        solution: Solution,
        wire: Floats,
    ) -> StateResult:
        names, pos, neg = self._points or ((), np.empty(0, dtype=np.int64), np.empty(0, dtype=np.int64))
        volts = solution.node_v[pos] - solution.node_v[neg]
        # Behind a reversing switch the device sees its own polarity.
        volts = np.where([name in swapped for name in names], -volts, volts) if swapped else volts
        volts[~solution.live[pos] | ~solution.live[neg]] = 0.0
        runs = self.plan.runs
        legs = solution.conductor_v[: 2 * len(runs)]
        wires = legs * wire
        lost = np.abs(legs[::2] - legs[1::2]).tolist() if len(runs) else []
        conductors = np.abs(wires[::2] - wires[1::2]).tolist() if len(runs) else []
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
            conductor_drop_v={run.id: conductors[index] for index, run in enumerate(runs)},
            part_v=dict(zip(names, volts.tolist(), strict=True)),
            home_v={
                root: float(sum(solution.node_v[wiring.pos[one]] - solution.node_v[wiring.neg[one]] for one in chain))
                for root, chain in self._chains.items()
            },
            load_a={name: abs(draw) for name, draw in zip(consumers, draws, strict=True) if name in on},
            unserved=frozenset(name for name, ok in zip(consumers, served, strict=True) if name in on and not ok),
            battery_a=given_a,
            source_a=sum((given_a[one] for one in house if one not in wiring.above), 0.0),
            converged=solution.converged,
            leg_v=legs,
            solution=solution,
        )
