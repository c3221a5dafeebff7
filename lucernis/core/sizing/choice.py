"""Fuse, wire and family of every run chosen together, and every state solved: the door of the sizing room."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np

from lucernis.core.circuit.batteries import strings_of
from lucernis.core.circuit.in_order import in_order
from lucernis.core.circuit.loads import RUNNING_V_PER_12V
from lucernis.core.circuit.returns import Returns, trace_returns
from lucernis.core.circuit.solver import Circuit
from lucernis.core.circuit.supplies import CHARGING, supply_limit_frac
from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.circuit.systems import systems
from lucernis.core.circuit.terminals import negative_point, positive_point
from lucernis.core.circuit.topology import Topology, path_runs, trace
from lucernis.core.layout.laid import Layout, cut_out, laid_out, layout_of
from lucernis.core.sizing.bonds import bonds_like_trunk
from lucernis.core.sizing.both_ends import BothEnds
from lucernis.core.sizing.demand import Demand, demand, together
from lucernis.core.sizing.few_sizes import spools
from lucernis.core.sizing.fusing import Needs, RunFuse, choose_fuses, far_key, fuse_run
from lucernis.core.sizing.lines import in_lines, tapered
from lucernis.core.sizing.options import Case, KnownCases, make_cases
from lucernis.core.sizing.places import is_bond
from lucernis.core.sizing.search import MOST_EXCHANGED, Found, Limits, Search
from lucernis.core.sizing.shorts import short_needs
from lucernis.core.sizing.states import StateResult, StateSolver
from lucernis.core.sizing.stretch import Option
from lucernis.core.sizing.ways import Ways
from lucernis.core.sizing.wiring import LegShares, Wiring, leg_ohms, leg_shares, own_volts
from lucernis.core.wire.copper import WireSize, wire_size
from lucernis.plan.model import Battery, FuseBlock, Load, Plan, Run, State
from lucernis.plan.terminals import Side
from lucernis.practice.rules import Rules

# So often what the sizes have shown is taken into account; what is asked only ever rises, so it settles soon.
_ROUNDS = 10
# More than figured by so much, what was solved counts.
_MORE = 1.001
# Beyond so many times all that draws and gives at once no load is meant. Common practice, no source.
_ALL_TIMES = 1.5
# So much more than an even share a string may carry before the cables of its bank are made thicker, up to this copper.
_EVEN = 1.12
_BANK_MM2 = 130.0


@dataclass(frozen=True, slots=True)
class Sized:
    """A plan with a size for every run, solved in every state.

    `states` are as they are lived, `rated` the same with every inverter at its rating: wire, fuse, drop and least
    volts are judged by those. `limit_v` is the drop a consumer may see as the rules count it; `limits` is what the
    sizes were chosen by. `beside` has the sizes of systems that nothing joins to this one, because their wires lie in
    the same channels.
    """

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
    rated: dict[str, StateResult]
    limit_v: dict[str, float]
    out_of_reach: frozenset[str]
    source_v: float
    reference_v: dict[str, float]
    charging: StateResult | None
    ways: Ways
    both: BothEnds
    shares: LegShares
    needs: Needs
    limits: Limits
    counts_everything: bool
    beside: Mapping[str, Option]

    def home_v(self, point_name: str) -> float:
        """Volts held at the source a point hangs on. [V]"""
        return self.reference_v.get(self.topology.root_of.get(point_name, ""), self.source_v)

    def carry_a(self, run_id: str) -> float:
        """The most that lastingly flows in a run. [A]"""
        return self.cases[run_id].carry_a

    def lost_v(self, point_name: str, result: StateResult) -> float:
        """Volts lost from the source to a point and back in a state, everything counted. [V]"""
        root = self.topology.root_of.get(point_name, "")
        return result.home_v.get(root, self.home_v(point_name)) - result.part_v[point_name]

    def battery_ids(self) -> list[str]:
        """House batteries whose currents add up to that of the bank: of those in series one each."""
        house = [
            one
            for one in self.wiring.sources
            if isinstance(part := self.topology.parts[one], Battery) and part.use == "house"
        ]
        return [one for one in house if one not in self.wiring.above]

    def wiring_point(self, run: Run, side: Side) -> str:
        """The positive point a run's end stands on."""
        end = run.start if side == "start" else run.finish
        return positive_point(self.topology.parts[end.part], end, side)

    def home_lost_v(self, run: Run, result: StateResult) -> float:
        """Volts between the far end of a negative alone and the negative its way home ends at. [V]"""
        way = self.ways.back(f"{run.id}:home")
        volts = result.solution.node_v
        (first, out), (last, in_) = way[0], way[-1]
        far = self._negative_node(self.topology.runs[first], "start" if out > 0 else "finish")
        home = self._negative_node(self.topology.runs[last], "finish" if in_ > 0 else "start")
        return float(abs(volts[far] - volts[home]))

    def _negative_node(self, run: Run, side: Side) -> int:
        """Node of the negative a run has at an end."""
        end = run.start if side == "start" else run.finish
        return self.wiring.neg[negative_point(self.topology.parts[end.part], end, side)]

    def parts_lost_v(self, result: StateResult) -> dict[str, tuple[float, float, float]]:
        """Volts lost in conductors, joints and fuses from the source to every point and back in a state. [V]"""
        columns = [
            self.ways.along(result.leg_v * share).tolist()
            for share in (self.shares.wire, self.shares.joints, self.shares.fuses)
        ]
        return dict(zip(self.ways.points, zip(*columns, strict=True), strict=True))


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


def _homeward(plan: Plan, topology: Topology, returns: Returns) -> dict[str, tuple[tuple[str, int], ...]]:
    """For each negative alone the legs from its far end home."""
    found = {}
    for run in plan.runs:
        if run.legs == "negative":
            ends = [
                negative_point(topology.parts[run.start.part], run.start, "start"),
                negative_point(topology.parts[run.finish.part], run.finish, "finish"),
            ]
            ways = [way for way in (returns.way_home(topology, end) for end in ends) if run.id in dict(way)]
            if ways:
                found[f"{run.id}:home"] = ways[0]
    return found


@dataclass(slots=True)
class _Round:
    """One choice: fuses, what runs may have, and the sizes found."""

    fuses: dict[str, RunFuse]
    cases: dict[str, Case]
    found: Found
    rated: dict[str, StateResult] = field(default_factory=dict)
    charging: StateResult | None = None


@dataclass(slots=True)
class _Chooser:
    """Chooses again and again until nothing new is learned of what the choice itself brings about."""

    plan: Plan
    rules: Rules
    topology: Topology
    returns: Returns
    switching: SwitchingPlan
    figures: Demand
    limits: Limits
    ways: Ways
    both: BothEnds
    solver: StateSolver
    known: KnownCases = field(default_factory=dict)

    def choose(self, needs: Needs, *, ignore_pins: bool, free: Found | None) -> _Round:
        """Rounds of fuse and wire."""
        made, thorough = self._once(self._fuses(needs), needs, ignore_pins, free, thorough=False), False
        for _ in range(_ROUNDS):
            fuses = self._learn(made, needs)
            lines = sum(1 for case in made.cases.values() if case.run.id in self.topology.behind and not case.in_line)
            if fuses is None and (thorough or lines > MOST_EXCHANGED):
                return made
            # Once all is settled every exchange is tried, and looked at like any other choice.
            thorough = fuses is None
            made = self._once(fuses or made.fuses, needs, ignore_pins, free, thorough=thorough)
        self._learn(made, needs)
        return made

    def _fuses(self, needs: Needs) -> dict[str, RunFuse]:
        return choose_fuses(self.plan, self.topology, self.figures, self.rules, needs)

    def _once(
        self, fuses: dict[str, RunFuse], needs: Needs, ignore_pins: bool, free: Found | None, *, thorough: bool
    ) -> _Round:
        cases = make_cases(
            self.plan,
            self.topology,
            self.returns,
            self.figures,
            fuses,
            self.rules,
            needs,
            ignore_pins=ignore_pins,
            both=self.both,
            known=self.known,
        )
        values = self.rules.values
        if values.one_line:
            in_lines(self.topology, cases)
        tapered(self.topology, cases, values)
        shelf = [wire_size(values.size_system, name, tinned=values.tinned) for name in values.shelf]
        search = Search(
            self.plan,
            self.topology,
            self.figures,
            cases,
            self.limits,
            self.ways,
            self.solver,
            free_of_pins=free,
            thorough=thorough,
            taper=values.taper,
            jump_most=values.size_jump_most,
            spools=spools(shelf, cases, values.size_worth_m, cable_worth_m=values.cable_worth_m)
            if values.size_worth_m
            else None,
        )
        found = search.run()
        found.options.update(bonds_like_trunk(self.plan, self.topology, cases, found.options))
        return _Round(fuses, cases, found)

    def _learn(self, made: _Round, needs: Needs) -> dict[str, RunFuse] | None:
        """What the sizes show; the fuses that follow, or None where all is settled."""
        chosen, new = made.found.options, False
        made.rated = self.solver.solve(chosen, self.plan.states, rated=True)
        results = [*made.rated.values()]
        if self.figures.supplies:
            made.charging = self.solver.solve(chosen, [CHARGING])[CHARGING.id]
            results.append(made.charging)
        # More than everything together draws and gives is a short that the wires make, and no load.
        most_a = _ALL_TIMES * sum(one.peak_a for one in self.figures.loads.values())
        for run in self.plan.runs:
            solved_a = max(abs(result.run_a[run.id]) for result in results)
            if most_a > solved_a > made.cases[run.id].carry_a * _MORE and solved_a > 1e-3:
                for one in self._alike(run.id):
                    needs.carry_a[one], new = max(solved_a, needs.carry_a.get(one, 0.0)), True
        wiring = self.solver.ready(chosen)
        shorts = short_needs(
            self.plan, self.topology, self.switching.ordinary, wiring, made.cases, made.fuses, chosen, self.both
        )
        for key, amps in shorts.break_a.items():
            alike = self._alike(fuse_run(key))
            ends = alike if key in alike else {far_key(one) for one in alike}
            for one in ends & made.fuses.keys():
                needs.break_a[one] = max(needs.break_a.get(one, 0.0), amps)
        for run_id, area_mm2 in shorts.least_mm2.items():
            # What goes with another run asks it of that one too.
            for one in {made.cases[run_id].leader or run_id, *self._alike(run_id)}:
                if area_mm2 > needs.least_mm2.get(one, 0.0):
                    needs.least_mm2[one], new = area_mm2, True
        for case in made.cases.values():
            if case.forced and any(one.reason == "fuse" for one in case.refusals):
                # No wire there is stands the fuse the school asks: one just above the load may do.
                keys = {key for key in case.guards if made.fuses[key].fuse is not None} - needs.modest
                if keys:
                    needs.modest |= keys
                    new = True
        new |= self._step_down(made, needs)
        for run_id, area_mm2 in self._evener(made, results).items():
            needs.least_mm2[run_id], new = area_mm2, True
            needs.evened.add(run_id)
        for run_id, size in self._held(made).items():
            for key in {run_id, far_key(run_id)} & made.fuses.keys():
                if key not in needs.holds or needs.holds[key].area_mm2 < size.area_mm2 * 0.999:
                    needs.holds[key], new = size, True
        fuses = self._fuses(needs)
        if not new and all(_same(fuses[key], made.fuses[key]) for key in fuses):
            # What is shown of each fuse is what was learned last, wherever it is asked for.
            made.fuses = fuses
            for run_id, case in made.cases.items():
                protector = fuses.get(case.protector) if case.protector is not None else None
                made.cases[run_id] = replace(case, fuse=fuses.get(run_id), protector_fuse=protector)
            return None
        return fuses

    def _step_down(self, made: _Round, needs: Needs) -> bool:
        """A usual figure keeps no limit from being held: one steps down to a plug on a stud or by a short tail. Whether
        that was tried for a consumer for the first time, or given up because it did not do."""
        new = False
        for name in sorted(made.found.out_of_reach):
            known = needs.stepped_for.get(name)
            if known is None:
                runs = frozenset(
                    run_id
                    for run_id in path_runs(self.topology, name)
                    if not made.cases[run_id].pinned
                    and any(fitting.stepped == "last" for _, fitting in made.cases[run_id].fittings)
                    and any(one.reason == "terminal" for one in made.cases[run_id].refusals)
                )
                needs.stepped_for[name], new = runs, new or bool(runs)
            elif known:
                needs.stepped_for[name], new = frozenset(), True
        return new

    def _alike(self, run_id: str) -> frozenset[str]:
        """Runs that are to be the same: strings side by side have the same cable and the same fuse."""
        strings = self.figures.strings
        return strings if run_id in strings else frozenset({run_id})

    def _held(self, made: _Round) -> dict[str, WireSize]:
        """Runs whose holder keeps them from what they need, with the next wire it would have to take."""
        found = {}
        limits = made.found.limits
        let_go = {
            name
            for name, volts in zip(limits.names, limits.wanted_v, strict=True)
            if name in limits.ceilings and not np.isfinite(volts)
        }
        for run_id, case in made.cases.items():
            behind = self.topology.behind.get(run_id, ())
            held = bool(case.forced or made.found.out_of_reach.intersection(behind))
            held = held or self.topology.finish_of.get(run_id) in let_go or self._made_up_for(made, run_id)
            if case.pinned or not held:
                continue
            refused = next((one for one in case.refusals if one.reason == "holder"), None)
            if refused is not None:
                values = self.rules.values
                found[run_id] = next(
                    size
                    for name in values.shelf
                    if (size := wire_size(values.size_system, name, tinned=values.tinned)).label == refused.label
                )
        return found

    def _made_up_for(self, made: _Round, run_id: str) -> bool:
        """Whether a block's feeder is as thick as its holder lets it be, and the trunk makes up for the rest."""
        case = made.cases[run_id]
        if not isinstance(self.topology.line_end_part(case.run), FuseBlock):
            return False
        if made.found.options[run_id].size is not case.options[-1].size:
            return False
        before = path_runs(self.topology, self.topology.start_of.get(run_id, ""))
        return any(
            made.found.options[one].size.area_mm2 > made.cases[one].options[0].size.area_mm2 * 1.001 for one in before
        )

    def _evener(self, made: _Round, results: list[StateResult]) -> dict[str, float]:
        """Thicker cables within a bank whose strings share unevenly: copper for each, empty where they do."""
        tops = [string[-1].id for string in strings_of(self.plan)]
        if len(tops) < 2:
            return {}
        uneven = 1.0
        for result in results:
            given = [result.battery_a.get(one, 0.0) for one in tops]
            even = sum(given) / len(tops)
            if even > 1.0:
                uneven = max(uneven, max(given) / even)
        if uneven <= _EVEN:
            return {}
        found = {}
        house = {one.id for string in strings_of(self.plan) for one in string}
        for run in self.plan.runs:
            case = made.cases[run.id]
            inside = house & {run.start.part, run.finish.part}
            if not inside or case.pinned or is_bond(self.topology, run):
                continue
            size = made.found.options[run.id].size.area_mm2
            above = (one for one in case.options if one.size.area_mm2 > size * 1.001 and not one.steps)
            thicker = next((one.size.area_mm2 for one in above), None)
            if thicker is not None and thicker <= _BANK_MM2:
                found[run.id] = thicker
        return found


def _same(one: RunFuse, other: RunFuse) -> bool:
    first, second = one.fuse, other.fuse
    if first is None or second is None:
        return first is second
    return (first.family, first.rating_a) == (second.family, second.rating_a)


def _limits(plan: Plan, topology: Topology, figures: Demand, limit_v: dict[str, float], rules: Rules) -> Limits:
    """Limits of the consumers, with the reserve that should stay free, and a ceiling for the way to each block."""
    values = rules.values
    names = [name for name in limit_v if name in topology.feeder_of and figures.loads[name].power_w is not None]
    reserve = 1 - values.drop_reserve_frac
    ceilings = {}
    for part in plan.parts if values.feeder_share else ():
        if isinstance(part, FuseBlock) and part.id in topology.feeder_of:
            behind = [one for one in topology.behind[topology.feeder_of[part.id]] if one in names]
            if behind:
                ceilings[part.id] = values.feeder_share * min(limit_v[one] for one in behind)
    lost_v = np.array([limit_v[name] for name in names] + [np.inf] * len(ceilings))
    return Limits(
        (*names, *ceilings),
        lost_v,
        np.array([figures.loads[name].min_v for name in names] + [0.0] * len(ceilings)),
        np.array([reserve * limit_v[name] for name in names] + list(ceilings.values())),
        frozenset(ceilings),
    )


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
    Sizes and currents depend on one another because constant-power loads draw more as their voltage falls, and fuses
    on both: by the current that really flows, by the short they have to break where they stand, by what their wire
    stands. So fuses are chosen, then the cheapest sizes that stand them and keep the limits, the circuit is solved, and
    what it shows goes into the next round, until nothing changes. What is kept has been solved, not estimated.
    Limits that sensible sizes cannot keep are left out of the search and reported; they change only what hangs on them.
    """
    layout = layout_of(plan, rules)
    ordered = layout_of(laid_out(in_order(layout.typed), rules), rules)
    apart = systems_of(ordered)
    sized = whole(ordered.plan, [choose_sizes(one, rules) for one in apart])
    return sized if ordered.plan is layout.plan else as_listed(layout.plan, sized)


def systems_of(layout: Layout) -> tuple[Plan, ...]:
    """The systems of a laid out plan that nothing joins, each as a plan of its own; itself where it is one.

    Parameters
    ----------
    layout : Layout
        Of a plan in order.

    Returns
    -------
    tuple of Plan
        The one with most battery first.
    """
    found = systems(layout.plan)
    return (layout.plan,) if len(found) == 1 else tuple(cut_out(layout, one) for one in found)


def whole(plan: Plan, apart: Sequence[Sized]) -> Sized:
    """The sizes of all systems of a plan together.

    Parameters
    ----------
    plan : Plan
        The whole plan, in order.
    apart : sequence of Sized
        Of each of its systems.

    Returns
    -------
    Sized
        The only one as it is; of several the choices together, and the circuit of them all.
    """
    if len(apart) == 1:
        return apart[0]
    topology = trace(plan)
    returns, switching = trace_returns(plan, topology), SwitchingPlan(plan)
    limits = [one.limits for one in apart]
    found = replace(
        apart[0],
        topology=topology,
        returns=returns,
        switching=switching,
        demand=together([one.demand for one in apart]),
        fuses=_merged([one.fuses for one in apart]),
        cases=_merged([one.cases for one in apart]),
        chosen=_merged([one.chosen for one in apart]),
        unpinned=_merged([one.unpinned for one in apart]),
        limit_v=_merged([one.limit_v for one in apart]),
        reference_v=_merged([one.reference_v for one in apart]),
        out_of_reach=frozenset().union(*(one.out_of_reach for one in apart)),
        charging=next((one.charging for one in apart if one.charging is not None), None),
        both=BothEnds(plan, topology),
        limits=Limits(
            tuple(name for one in limits for name in one.names),
            np.concatenate([one.lost_v for one in limits]),
            np.concatenate([one.least_v for one in limits]),
            np.concatenate([one.wanted_v for one in limits]),
            frozenset().union(*(one.ceilings for one in limits)),
        ),
    )
    return as_listed(plan, found)


_Value = TypeVar("_Value")


def _merged(some: Sequence[Mapping[str, _Value]]) -> dict[str, _Value]:
    return {name: value for one in some for name, value in one.items()}


def choose_sizes(plan: Plan, rules: Rules) -> Sized:
    """The sizes of one system that is laid out and in order; `size_plan` is the door for any plan."""
    topology = trace(plan)
    returns = trace_returns(plan, topology)
    switching = SwitchingPlan(plan)
    figures = demand(plan, topology, returns, switching, rules)
    source_v = source_volts(plan, rules)
    reference = reference_volts(plan, topology, source_v)
    limit_v = {part.id: drop_limit_frac(part, rules) * plan.nominal_v for part in plan.parts if isinstance(part, Load)}
    limit_v |= {
        name: supply_limit_frac(supply, rules.values) * reference.get(topology.root_of.get(name, ""), source_v)
        for name, supply in figures.supplies.items()
        if not supply.gives
    }
    limits = _limits(plan, topology, figures, limit_v, rules)
    names = limits.names
    solver = StateSolver(plan, topology, switching, figures, source_v)
    ways, both = Ways(plan, topology, returns, names), BothEnds(plan, topology)
    chooser = _Chooser(plan, rules, topology, returns, switching, figures, limits, ways, both, solver)
    pinned = [run for run in plan.runs if run.wire is not None]
    in_the_search = any(run.id in topology.behind or run.id in returns.leader_of for run in pinned)
    free = chooser.choose(Needs(), ignore_pins=True, free=None) if in_the_search else None
    needs = Needs()
    made = chooser.choose(needs, ignore_pins=False, free=free.found if free is not None else None)
    chosen = made.found.options
    if free is not None:
        unpinned = free.found.options
    else:
        # Off the feeding tree a pin changes nobody else's size.
        only = [run.id for run in pinned]
        cases = make_cases(plan, topology, returns, figures, made.fuses, rules, needs, ignore_pins=True, only=only)
        unpinned = chosen | {run_id: case.options[0] for run_id, case in cases.items()}
        unpinned |= bonds_like_trunk(plan, topology, made.cases | cases, unpinned)
    return Sized(
        topology=topology,
        returns=returns,
        switching=switching,
        wiring=solver.ready(chosen),
        demand=figures,
        fuses=made.fuses,
        cases=made.cases,
        chosen=chosen,
        unpinned=unpinned,
        states=solver.solve(chosen, plan.states) if solver.has_rating else made.rated,
        rated=made.rated,
        limit_v=limit_v,
        out_of_reach=made.found.out_of_reach,
        source_v=source_v,
        reference_v=reference,
        charging=made.charging,
        ways=Ways(plan, topology, returns, tuple(topology.root_of), _homeward(plan, topology, returns)),
        both=both,
        shares=leg_shares(plan, chosen),
        needs=needs,
        limits=made.found.limits,
        counts_everything=rules.values.drop_counts == "everything",
        beside={},
    )


def as_listed(plan: Plan, sized: Sized) -> Sized:
    """The sizes of a plan for whoever counts runs and parts as another list of the same plan has them.

    Parameters
    ----------
    plan : Plan
        The plan, laid out, its lists in any order.
    sized : Sized
        Its sizes, from the plan in order.

    Returns
    -------
    Sized
        The same choice; circuit and solutions numbered as the plan lists them.
    """
    chosen = sized.chosen
    solver = StateSolver(plan, sized.topology, sized.switching, sized.demand, sized.source_v)
    wiring = solver.ready(chosen)
    rated = solver.solve(chosen, plan.states, rated=True)
    return replace(
        sized,
        wiring=wiring,
        states=solver.solve(chosen, plan.states) if solver.has_rating else rated,
        rated=rated,
        charging=solver.solve(chosen, [CHARGING])[CHARGING.id] if sized.charging is not None else None,
        ways=Ways(
            plan,
            sized.topology,
            sized.returns,
            tuple(sized.topology.root_of),
            _homeward(plan, sized.topology, sized.returns),
        ),
        shares=leg_shares(plan, chosen),
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
        emf_v = float(sized.states[state.id].solution.source_emf_v[at])
        out.source(whole.source_pos[at], whole.source_neg[at], emf_v, whole.source_ohm[at])
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
