"""What every run has to carry: what hangs behind it and can be on together, state by state, and what is charged."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.loads import LoadFigures, coil_figures, load_figures
from lucernis.core.circuit.returns import Returns
from lucernis.core.circuit.supplies import (
    CHARGING,
    PANEL_MARGIN,
    Supply,
    panel_short_a,
    supplies,
    supply_figures,
    supply_on,
)
from lucernis.core.circuit.switching import Switched, SwitchingPlan
from lucernis.core.circuit.terminals import point
from lucernis.core.circuit.topology import Topology, path_runs
from lucernis.core.protection.fuses import LONG_FACTOR, over_load_factor
from lucernis.core.sizing.bank_runs import Sums, bank_runs, make_alike, pushed_runs
from lucernis.plan.model import Battery, Load, Panel, Plan, Relay, State
from lucernis.practice.rules import FuseOverLoad, Rules


@dataclass(frozen=True, slots=True)
class Demand:
    """Figures of the consumers, what each state closes and has on, and what each run has to carry.

    `design_current_a` goes by the school of design volts, with the state that asks for it; `carry_a` is the most that
    can flow, constant-power loads at the lowest volts they work at; `fuse_least_a` what a fuse must at least be rated
    for, by the school of fuse over load. `connected_a` is everything behind a run at once: the difference is its
    diversity. `links` are runs within a bank, `strings` the cables of
    single strings of it, `pushed` those that charging pushes a current through.
    """

    loads: dict[str, LoadFigures]
    switched: dict[str, Switched]
    on: dict[str, frozenset[str]]
    design_current_a: dict[str, float]
    design_state: dict[str, str]
    carry_a: dict[str, float]
    fuse_least_a: dict[str, float]
    connected_a: dict[str, float]
    supplies: dict[str, Supply]
    links: frozenset[str]
    strings: frozenset[str]
    pushed: frozenset[str]


def fuse_factor(name: str, figures: LoadFigures, supplied: Mapping[str, Supply], school: FuseOverLoad) -> float:
    """How far a fuse stands above the current of one consumer. [1]

    Panels are taken with their margin already; what a controller gives is held to 125 % by every school, because the
    sun gives it for hours.
    """
    supply = supplied.get(name)
    if supply is None:
        return over_load_factor(school, long=figures.long)
    if supply.terminal == "pv":
        return 1.0
    return LONG_FACTOR if supply.charger.form == "sun" else over_load_factor(school, long=True)


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


def _figures(plan: Plan, topology: Topology, supplied: Mapping[str, Supply], rules: Rules) -> dict[str, LoadFigures]:
    values = rules.values
    figures = {
        part.id: load_figures(
            part, nominal_v=plan.nominal_v, school=values.design_volts, inverter_school=values.inverter_current
        )
        for part in plan.parts
        if isinstance(part, Load)
    }
    for part in plan.parts:
        if isinstance(part, Relay) and point(part.id, "coil") in topology.consumers:
            figures[point(part.id, "coil")] = coil_figures(part.coil_a, nominal_v=float(plan.nominal_v))
    return figures | {name: supply_figures(supply, float(plan.nominal_v)) for name, supply in supplied.items()}


def _sum_up(
    plan: Plan,
    behind: Sequence[tuple[str, Sequence[str]]],
    figures: Mapping[str, LoadFigures],
    factors: Mapping[str, float],
    gives: frozenset[str],
    on: Mapping[str, frozenset[str]],
) -> Sums:
    """Sums over everything behind each run, in the worst state, all runs at once."""
    names = list(figures)
    index = {name: at for at, name in enumerate(names)}
    design = np.array([figures[name].design_current_a for name in names])
    peak = np.array([figures[name].peak_a for name in names])
    each = np.stack([design, peak, peak * np.array([factors[name] for name in names])]) if names else np.empty((3, 0))
    given = np.array([name in gives for name in names], dtype=bool)
    works = np.array([[name in on[state.id] for name in names] for state in plan.states], dtype=bool)
    works = works.reshape(len(plan.states), len(names)) & ~given
    sums = Sums({}, {}, {}, {}, {})
    filled = [(run_id, some) for run_id, some in behind if some]
    for run_id, some in behind:
        if not some:
            sums.design[run_id] = sums.carry[run_id] = sums.least[run_id] = sums.connected[run_id] = 0.0
            sums.state[run_id] = plan.states[0].id
    if not filled:
        return sums
    flat = np.array([index[one] for _, some in filled for one in some], dtype=np.int64)
    starts = np.cumsum([0] + [len(some) for _, some in filled[:-1]])

    def total(values: NDArray[np.float64]) -> NDArray[np.float64]:
        found: NDArray[np.float64] = np.add.reduceat(values[..., flat], starts, axis=-1)
        return found

    def single(values: NDArray[np.float64]) -> NDArray[np.float64]:
        found: NDArray[np.float64] = np.maximum.reduceat(values[..., flat], starts, axis=-1)
        return found

    together = total(each[:, None, :] * works[None, :, :])
    # What a charger gives flows against what loads draw: the larger of the two, never their sum.
    against, alone = total(each * given), single(each * ~given)
    worst = together[0].argmax(axis=0)
    most = np.maximum(np.maximum(together.max(axis=1), alone), against)
    connected = np.maximum(total(design * ~given), against[0])
    for at, (run_id, _) in enumerate(filled):
        sums.design[run_id], sums.carry[run_id], sums.least[run_id] = most[:, at].tolist()
        sums.state[run_id] = plan.states[int(worst[at])].id
        sums.connected[run_id] = float(connected[at])
    return sums


def demand(plan: Plan, topology: Topology, returns: Returns, switching: SwitchingPlan, rules: Rules) -> Demand:
    """What every run has to carry.

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
        Decides the volts for the design current, and how far a fuse stands above it.

    Returns
    -------
    Demand
        Currents in A. A run carries the sum of what is on behind it in its worst state, and at least its largest
        single load even if that is off in every state, and at least the current it is planned for. A run that closes
        a ring carries the most either end needs.
    """
    school = rules.values.fuse_over_load
    supplied = supplies(plan, topology)
    figures = _figures(plan, topology, supplied, rules)
    factors = {name: fuse_factor(name, one, supplied, school) for name, one in figures.items()}
    gives = frozenset(name for name, supply in supplied.items() if supply.gives)
    switched = {state.id: switching.in_state(state) for state in plan.states}
    on = {
        state.id: consumers_on(plan, topology, state, switched[state.id], switching.all_closed, supplied)
        for state in plan.states
    }
    if supplied:
        switched[CHARGING.id], on[CHARGING.id] = switching.in_state(CHARGING), frozenset(supplied)
    sums = _sum_up(plan, [*topology.behind.items(), *returns.through.items()], figures, factors, gives, on)
    for run_id in topology.closing:
        # If the other feed of either end opens, this run has to carry all that end needs.
        ends = (topology.start_of[run_id], topology.finish_of[run_id])
        if not _one_side(topology, ends):
            # What joins starter and house side carries what charging pushes through it.
            continue
        feeders = [topology.feeder_of[part] for part in ends if part in topology.feeder_of]
        largest = max(feeders, key=lambda feeder: sums.design[feeder], default=None)
        if largest is not None:
            sums.like(run_id, largest)
    lasting = over_load_factor(school, long=True)
    _panels_on_batteries(plan, topology, sums)
    links, cables = bank_runs(plan, topology, sums)
    pushed = pushed_runs(plan, topology, switching, sums, lasting, cables)
    make_alike(sums, cables)
    for run in plan.runs:
        for values in (sums.design, sums.carry, sums.least):
            values.setdefault(run.id, 0.0)
        sums.state.setdefault(run.id, plan.states[0].id)
        sums.connected.setdefault(run.id, sums.design[run.id])
        if run.planned_a is not None:
            sums.raise_to(run.id, run.planned_a, lasting)
    return Demand(
        loads=figures,
        switched=switched,
        on=on,
        design_current_a=sums.design,
        design_state=sums.state,
        carry_a=sums.carry,
        fuse_least_a=sums.least,
        connected_a=sums.connected,
        supplies=supplied,
        links=links,
        strings=frozenset(cables),
        pushed=pushed,
    )


def together(some: Sequence[Demand]) -> Demand:
    """What the runs of several systems carry that nothing joins."""

    def merged(of: Callable[[Demand], Mapping[str, _Value]]) -> dict[str, _Value]:
        return {name: value for one in some for name, value in of(one).items()}

    states = list(dict.fromkeys(state for one in some for state in one.on))
    switched = {
        state: Switched(
            *(
                frozenset().union(*(getattr(one.switched[state], name) for one in some if state in one.switched))
                for name in ("closed", "open_runs", "live", "alive", "sources")
            )
        )
        for state in states
    }
    return Demand(
        loads=merged(lambda one: one.loads),
        switched=switched,
        on={state: frozenset().union(*(one.on.get(state, frozenset()) for one in some)) for state in states},
        design_current_a=merged(lambda one: one.design_current_a),
        design_state=merged(lambda one: one.design_state),
        carry_a=merged(lambda one: one.carry_a),
        fuse_least_a=merged(lambda one: one.fuse_least_a),
        connected_a=merged(lambda one: one.connected_a),
        supplies=merged(lambda one: one.supplies),
        links=frozenset().union(*(one.links for one in some)),
        strings=frozenset().union(*(one.strings for one in some)),
        pushed=frozenset().union(*(one.pushed for one in some)),
    )


_Value = TypeVar("_Value")


def _one_side(topology: Topology, ends: tuple[str, str]) -> bool:
    """Whether both ends hang on batteries of one use."""
    roots = [topology.parts.get(topology.root_of.get(end, "")) for end in ends]
    uses = {root.use for root in roots if isinstance(root, Battery)}
    return len(uses) < 2


def _panels_on_batteries(plan: Plan, topology: Topology, sums: Sums) -> None:
    """Panels straight on a battery give through its wires: 1.25 times their short-circuit current, in wire and fuse."""
    for panel in plan.parts:
        if isinstance(panel, Panel) and topology.root_of.get(panel.id, panel.id) != panel.id:
            for run_id in path_runs(topology, panel.id):
                sums.raise_to(run_id, PANEL_MARGIN * panel_short_a([panel]), 1.0)
