"""From plan to circuit: every point a node, every run its legs, every contact and shunt a resistance of its own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit import STIFF_SOURCE_OHM, Circuit, LoadKind
from lucernis.core.contacts import chassis_point_ohm, contact_ohm
from lucernis.core.demand import Demand
from lucernis.core.options import Option
from lucernis.core.switching import Contact, Switched, SwitchingPlan
from lucernis.core.terminals import (
    CHASSIS,
    has_negative,
    has_positive,
    negative_point,
    part_id_of,
    point,
    positive_point,
)
from lucernis.core.topology import Topology
from lucernis.plan.model import Plan


@dataclass(frozen=True, slots=True)
class Wiring:
    """A plan as a circuit. Run k of the plan is conductors 2k (positive leg) and 2k + 1 (negative leg).

    `pos` and `neg` map points to nodes; `contact_at` the conductor of each contact; consumer j of `consumers` is load
    j of the circuit. `whole` tells which conductors are there at all: a run with one leg leaves the other out.
    """

    circuit: Circuit
    pos: dict[str, int]
    neg: dict[str, int]
    contact_at: dict[Contact, tuple[int, ...]]
    consumers: tuple[str, ...]
    whole: NDArray[np.bool_]

    def neg_at(self, point_name: str) -> int:
        """The negative node that belongs to a positive point: that of its part where it has one."""
        return self.neg.get(point_name, self.neg[part_id_of(point_name)])

    def resistances(self, legs_ohm: NDArray[np.float64]) -> NDArray[np.float64]:
        """Resistance of every conductor, shape (n_conductors,), with other legs than the circuit's own. [Ω]

        Parameters
        ----------
        legs_ohm : ndarray, shape (2 n_runs,)
            From `leg_ohms`. [Ω]

        Returns
        -------
        ndarray
            Contacts, shunts and the body keep theirs. [Ω]
        """
        out = np.array(self.circuit.conductor_ohm, dtype=float)
        out[: len(legs_ohm)] = legs_ohm
        return out

    def closed(self, switched: Switched, run_index: Mapping[str, int]) -> NDArray[np.bool_]:
        """Which conductors carry in a state, shape (n_conductors,)."""
        closed = self.whole.copy()
        for contact, at in self.contact_at.items():
            if contact not in switched.closed:
                closed[list(at)] = False
        for run_id in switched.open_runs:
            closed[2 * run_index[run_id]] = False
        return closed


def _nodes(plan: Plan, switching: SwitchingPlan) -> tuple[dict[str, int], dict[str, int], int]:
    """Numbers for every positive and negative point; batteries first, so that node 0 is a battery's negative."""
    batteries = [part for part in plan.parts if part.kind == "battery"]
    rest = [part for part in plan.parts if part.kind != "battery"]
    pos: dict[str, int] = {}
    neg: dict[str, int] = {}
    count = 0
    for part in (*batteries, *rest):
        neg[part.id], pos[part.id], count = count, count + 1, count + 2
    parts = {part.id: part for part in plan.parts}
    more = [point(part.id, "out") for part in plan.parts if part.kind == "shunt"]
    more += [point(part.id, "out") for part in plan.parts if part.kind == "switch" and part.form == "reversing"]
    more += [point(part.id, "coil") for part in plan.parts if part.kind == "relay"]
    if any(part.kind == "chassis_point" for part in plan.parts):
        more.append(CHASSIS)
    for name in more:
        neg[name], count = count, count + 1
    points = [one for pair in switching.contacts.values() for one in pair]
    for run in plan.runs:
        points.append(positive_point(parts[run.start.part], run.start, "start"))
        points.append(positive_point(parts[run.finish.part], run.finish, "finish"))
    for name in points:
        if name not in pos:
            pos[name], count = count, count + 1
    return pos, neg, max(1, count)


def leg_ohms(plan: Plan, options: Mapping[str, Option]) -> NDArray[np.float64]:
    """Resistance of every leg, positive and negative in turn, shape (2 n_runs,). [Ω]"""
    out = np.empty(2 * len(plan.runs))
    chosen = [options[run.id] for run in plan.runs]
    legs = np.array([1.0 if run.legs != "both" else 2.0 for run in plan.runs])
    each = np.array([one.wire_loop_ohm + one.joints_ohm for one in chosen]) / legs if chosen else np.empty(0)
    out[::2] = each + np.array([one.fuse_ohm for one in chosen])
    out[1::2] = each
    return out


def wire_plan(
    plan: Plan,
    topology: Topology,
    switching: SwitchingPlan,
    options: Mapping[str, Option],
    figures: Demand,
    source_v: float,
) -> Wiring:
    """The circuit of a plan with everything in it; a state then opens and switches off.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Names the consumers.
    switching : SwitchingPlan
        Its contacts.
    options : Mapping
        Run id to the option in use.
    figures : Demand
        Figures of the consumers.
    source_v : float
        Volts held at each battery of nominal volts. [V]

    Returns
    -------
    Wiring
        Circuit and what its nodes and conductors stand for.
    """
    pos, neg, count = _nodes(plan, switching)
    parts = {part.id: part for part in plan.parts}
    circuit = Circuit(node_count=count)
    for part in plan.parts:
        if part.kind == "battery":
            volts = source_v * (part.rated_v or plan.nominal_v) / plan.nominal_v
            circuit.source(pos[part.id], neg[part.id], volts, STIFF_SOURCE_OHM)
    for run, ohm, back_ohm in zip(plan.runs, *leg_ohms(plan, options).reshape(-1, 2).T.tolist(), strict=True):
        start, finish = parts[run.start.part], parts[run.finish.part]
        circuit.conductor(
            pos[positive_point(start, run.start, "start")], pos[positive_point(finish, run.finish, "finish")], ohm
        )
        circuit.conductor(
            neg[negative_point(start, run.start, "start")],
            neg[negative_point(finish, run.finish, "finish")],
            back_ohm,
        )
    contact_at: dict[Contact, tuple[int, ...]] = {}
    for contact, (one, other) in switching.contacts.items():
        part = parts[contact[0]]
        ohm = contact_ohm(part)
        if part.kind == "switch" and part.form == "reversing":
            back = (neg[one], neg[other])
            ways = (
                ((pos[one], pos[other]), back) if contact[1] == "main" else ((pos[one], back[1]), (back[0], pos[other]))
            )
            contact_at[contact] = tuple(circuit.conductor(a, b, ohm) for a, b in ways)
        else:
            contact_at[contact] = (circuit.conductor(pos[one], pos[other], ohm),)
    for part in plan.parts:
        if part.kind == "shunt":
            circuit.conductor(neg[part.id], neg[point(part.id, "out")], contact_ohm(part))
        elif part.kind == "chassis_point":
            circuit.conductor(neg[part.id], neg[CHASSIS], chassis_point_ohm(plan))
    consumers = []
    for name in topology.consumers:
        load = figures.loads[name]
        if load.power_w is None:
            continue
        part = parts[part_id_of(name)]
        kind: LoadKind = part.behaviour if part.kind == "load" else "resistive"
        value = {
            "constant_power": load.power_w,
            "constant_current": load.power_w / load.rated_v,
            "resistive": load.rated_v**2 / load.power_w,
        }[kind]
        circuit.load(pos[name], neg[name], kind, value)
        consumers.append(name)
    whole = np.ones(len(circuit.conductor_ohm), dtype=bool)
    for index, run in enumerate(plan.runs):
        whole[2 * index], whole[2 * index + 1] = has_positive(run), has_negative(run)
    return Wiring(circuit, pos, neg, contact_at, tuple(consumers), whole)
