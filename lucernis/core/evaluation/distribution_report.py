"""Fills the parts of the report that show the circuit as it is wired: points, parts, guards, faults, heat."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lucernis.core.faults.study import Fault, FaultStudy
from lucernis.core.report import FaultReport, GuardReport, NodeReport
from lucernis.core.sizing.both_ends import EndGuard
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import fuse_run
from lucernis.core.sizing.states import StateResult
from lucernis.core.wire.heat import Covered, steady_c, wall_mm
from lucernis.plan.model import Part, Plan

_TERMINAL = {"out": "out", "out_b": "second way out", "coil": "coil", "bank_b": "second bank"}


def point_label(part: Part, point_name: str) -> str:
    """A point in words: its part, and the terminal where it has several."""
    terminal = point_name.partition(":")[2]
    if terminal:
        return f"{part.name}, {_TERMINAL.get(terminal, terminal)}"
    return f"{part.name}, in" if part.kind in ("switch", "keyed_feed", "relay") else part.name


def fault_report(sized: Sized, fault: Fault) -> FaultReport:
    """A fault as the report shows it: fuses by the tags of their runs."""

    def tags(keys: list[str]) -> list[str]:
        return [sized.topology.runs[fuse_run(key)].tag for key in keys]

    return FaultReport(
        where=fault.where,
        strongest_a=fault.strongest_a,
        weakest_a=fault.weakest_a,
        openers=tags(fault.openers),
        fast_s=fault.fast_s,
        slow_s=fault.slow_s,
        bounded=fault.beyond_points,
        heat_a2s=fault.heat_a2s,
        wire_c=fault.wire_c,
        limit_c=fault.limit_c,
        selective=fault.selective,
        also_opens=tags(fault.also_opens),
    )


def guard_report(sized: Sized, guard: EndGuard) -> GuardReport:
    """One end of a run as the report shows it."""
    tags = [sized.topology.runs[fuse_run(key)].tag for key in guard.fuses]
    return GuardReport(guard.fed, list(dict.fromkeys(tags)), guard.unprotected_m)


def node_reports(plan: Plan, sized: Sized, faults: FaultStudy) -> list[NodeReport]:
    """Every positive point with the voltage to expect in each state."""
    out = []
    results = [sized.states[state.id] for state in plan.states]
    switched = [sized.demand.switched[state.id] for state in plan.states]
    sources = [sized.switching.live_from(one) for one in switched]
    names = {part.id: part.name for part in plan.parts}
    for name in sized.wiring.pos:
        part = sized.topology.part_at(name)
        if part.kind in ("shunt", "chassis_point") or (part.kind == "busbar" and part.bars == "negative"):
            continue
        fault = faults.of_point.get(name)
        out.append(
            NodeReport(
                id=name,
                part=part.id,
                label=point_label(part, name),
                tag=part.tag,
                voltage_v=[
                    _expected_v(result.part_v[name], sized, name, at) if name in here.live else None
                    for at, (result, here) in enumerate(zip(results, switched, strict=True))
                ],
                live_from=[[names[one] for one in there.get(name, ())] for there in sources],
                fault=fault_report(sized, fault) if fault is not None else None,
            )
        )
    return out


def _expected_v(between_v: float, sized: Sized, name: str, at: int) -> float:
    """Volts between a point and its negative; to the battery's negative where the part has none of its own."""
    if between_v:
        return between_v
    result = list(sized.states.values())[at]
    return float(result.solution.node_v[sized.wiring.pos[name]])


@dataclass(frozen=True, slots=True)
class RunHeat:
    """Conductor and surface temperature, shapes (n_states, n_runs), as lived and with inverters at their rating [°C];
    `duty_sqrt` is what a load that runs a share of the time takes off its current. [1]
    """

    conductor_c: NDArray[np.float64]
    surface_c: NDArray[np.float64]
    rated_c: NDArray[np.float64]
    rated_surface_c: NDArray[np.float64]
    duty_sqrt: NDArray[np.float64]


def run_heat(plan: Plan, sized: Sized) -> RunHeat:
    """Steady temperature of every run in every state.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes and solved currents.

    Returns
    -------
    RunHeat
        By the heat balance in the air of its zone. Wires in a bundle warm one another: the current is taken larger by
        the bundling factor's inverse, which is what the factor stands for. A load that runs a share of the time heats
        by that share: heat goes with the mean square of the current, over cycles short against the wire's own.
    """
    runs = plan.runs
    if not runs:
        nothing = np.empty((len(plan.states), 0))
        return RunHeat(nothing, nothing, nothing, nothing, nothing)
    sizes = [sized.chosen[run.id].size for run in runs]
    wire = Covered(
        np.array([size.area_mm2 for size in sizes]),
        np.array([size.resistance_20_ohm_per_m for size in sizes]),
        np.array([wall_mm(size.area_mm2) for size in sizes]),
    )
    ambient = np.array([sized.cases[run.id].around.ambient_c for run in runs])
    crowd = np.array([run.parallel * sized.chosen[run.id].amp.bundle_factor for run in runs])

    def warm(results: Mapping[str, StateResult]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        amps = np.array([[abs(results[state.id].run_a[run.id]) for run in runs] for state in plan.states])
        return steady_c(wire, amps * np.sqrt(_duty(plan, sized, results)) / crowd, ambient)

    shown = warm(sized.states)
    rated = shown if sized.rated is sized.states else warm(sized.rated)
    return RunHeat(*shown, *rated, np.sqrt(_duty(plan, sized, sized.rated)))


def _duty(plan: Plan, sized: Sized, results: Mapping[str, StateResult]) -> NDArray[np.float64]:
    """Share of the time the current of each run flows, shape (n_states, n_runs): by the loads that draw it."""
    out = np.ones((len(plan.states), len(plan.runs)))
    behind = {**sized.topology.behind, **sized.returns.through}
    for row, state in enumerate(plan.states):
        shares = {one.load: one.share for one in state.duty}
        drawn = results[state.id].load_a
        if not shares:
            continue
        for column, run in enumerate(plan.runs):
            whole = sum(drawn.get(one, 0.0) for one in behind.get(run.id, ()))
            if whole > 0:
                out[row, column] = sum(drawn.get(one, 0.0) * shares.get(one, 1.0) for one in behind[run.id]) / whole
    return out
