"""From plan to circuit: every point a node, every run its legs, every contact and shunt a resistance of its own."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.batteries import sharing_batteries
from lucernis.core.circuit.contacts import chassis_point_ohm, contact_ohm
from lucernis.core.circuit.network import Network
from lucernis.core.circuit.solver import STIFF_SOURCE_OHM, Circuit, Converter, LoadKind
from lucernis.core.circuit.sources import source_figures
from lucernis.core.circuit.supplies import charger_points, each_out_a, in_low_v
from lucernis.core.circuit.switching import Contact, Switched, SwitchingPlan
from lucernis.core.circuit.terminals import (
    CHASSIS,
    back_point,
    has_negative,
    has_positive,
    negative_point,
    part_id_of,
    parts_negative,
    point,
    positive_point,
    terminal_of,
)
from lucernis.core.circuit.topology import Topology
from lucernis.core.sizing.demand import Demand
from lucernis.core.sizing.stretch import Option
from lucernis.plan.model import Battery, Charger, Panel, Part, Plan
from lucernis.plan.terminals import terminals


@dataclass(frozen=True, slots=True)
class Wiring:
    """A plan as a circuit. Run k of the plan is conductors 2k (positive leg) and 2k + 1 (negative leg).

    `pos` and `neg` map points to nodes; `contact_at` the conductor of each contact; consumer j of `consumers` is load
    j of the circuit. `whole` tells which conductors are there at all: a run with one leg leaves the other out.
    `sources` are batteries and panels in the order of the circuit's sources; those in `above` stand on another battery
    in series, so that their current is counted with that one. `rated_value` is what the consumers draw with every
    inverter at its rating, `spares` are the indices of capped runs. `networks` are those factored last, by what went
    into them.
    """

    circuit: Circuit
    pos: dict[str, int]
    neg: dict[str, int]
    contact_at: dict[Contact, tuple[int, ...]]
    consumers: tuple[str, ...]
    whole: NDArray[np.bool_]
    sources: tuple[str, ...]
    above: frozenset[str]
    rated_value: NDArray[np.float64]
    spares: tuple[int, ...]
    networks: dict[tuple[bool, bool, Switched, bytes], Network] = field(default_factory=dict, compare=False, repr=False)

    def neg_at(self, point_name: str) -> int:
        """The negative node that belongs to a positive point: that of its part where it has one."""
        found = self.neg.get(point_name)
        if found is None and point_name.endswith(":out_b"):
            found = self.neg.get(point_name.removesuffix("_b"))
        return self.neg[part_id_of(point_name)] if found is None else found

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
    more = [point(part.id, "out") for part in plan.parts if parts_negative(part)]
    more += [
        point(part.id, "out_b")
        for part in plan.parts
        if part.kind == "switch" and part.form == "three_position" and parts_negative(part)
    ]
    more += [point(part.id, "coil") for part in plan.parts if part.kind == "relay"]
    more += [
        point(part.id, "out") for part in plan.parts if part.kind == "charger" and back_point(part, "out") != part.id
    ]
    if any(part.kind == "chassis_point" for part in plan.parts):
        more.append(CHASSIS)
    for name in more:
        neg[name], count = count, count + 1
    points = [one for pair in switching.contacts.values() for one in pair]
    for run in plan.runs:
        if run.legs == "series":
            continue
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


@dataclass(frozen=True, slots=True)
class LegShares:
    """What of the drop along each leg is lost in the conductor, in joints and in fuses, shape (2 n_runs,). [1]"""

    wire: NDArray[np.float64]
    joints: NDArray[np.float64]
    fuses: NDArray[np.float64]


def leg_shares(plan: Plan, options: Mapping[str, Option]) -> LegShares:
    """What the drop along each leg is made of.

    Parameters
    ----------
    plan : Plan
        The plan.
    options : Mapping
        Run id to the option in use.

    Returns
    -------
    LegShares
        Positive and negative leg in turn; a fuse stands in the positive.
    """
    chosen = [options[run.id] for run in plan.runs]
    legs = np.array([1.0 if run.legs != "both" else 2.0 for run in plan.runs])
    wire = np.repeat(np.array([one.wire_loop_ohm for one in chosen]) / legs, 2) if chosen else np.empty(0)
    joints = np.repeat(np.array([one.joints_ohm for one in chosen]) / legs, 2) if chosen else np.empty(0)
    fuses = np.zeros(2 * len(chosen))
    fuses[::2] = [one.fuse_ohm for one in chosen]
    whole = np.maximum(wire + joints + fuses, 1e-12)
    return LegShares(wire / whole, joints / whole, fuses / whole)


def own_volts(part: Part, plan: Plan, source_v: float) -> float:
    """Volts held at a source while drop is computed: a battery's share of the plan's, a panel's at greatest power.

    Parameters
    ----------
    part : Part
        Battery or panel.
    plan : Plan
        Gives nominal volts.
    source_v : float
        Volts held at a battery of nominal volts. [V]

    Returns
    -------
    float
        Volts. [V]
    """
    if isinstance(part, Panel):
        return part.mp_v * part.series
    rated_v = part.rated_v if isinstance(part, Battery) else None
    return source_v * (rated_v or plan.nominal_v) / plan.nominal_v


def _converters(plan: Plan, figures: Demand, index: dict[str, int], circuit: Circuit) -> None:
    """Join what chargers draw to what they give. Sun comes first; the other input fills up to the output's limit."""
    for charger in (part for part in plan.parts if isinstance(part, Charger)):
        outs = [index[one] for one in charger_points(charger) if one in index and figures.supplies[one].gives]
        pv = index.get(f"{charger.id}:pv")
        draws = index.get(charger.id) if charger.form == "dcdc" else None
        for out in outs:
            share_a = each_out_a(charger)
            if pv is not None:
                most_w = min(circuit.load_value[pv], charger.pv_w or math.inf) / len(outs)
                circuit.converter(Converter(pv, out, charger.efficiency_frac, share_a, power_w=most_w))
            if charger.form == "shore":
                circuit.converter(Converter(None, out, charger.efficiency_frac, share_a))
            if draws is not None:
                in_a = charger.in_a if charger.in_a is not None else math.inf
                low_v = in_low_v(charger, plan.nominal_v)
                circuit.converter(
                    Converter(draws, out, charger.efficiency_frac, share_a, in_a / len(outs), in_low_v=low_v)
                )


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
    sources: list[Battery | Panel] = [
        part
        for part in plan.parts
        if part.kind == "battery" or (part.kind == "panel" and topology.root_of.get(part.id) == part.id)
    ]
    sharing = sharing_batteries(plan)
    for one in sources:
        shared = one.id in sharing
        # Batteries side by side share by their resistances; a bank of one string is held as it is.
        ohm = (
            source_figures(one, plan.nominal_v).running_ohm if shared and isinstance(one, Battery) else STIFF_SOURCE_OHM
        )
        held = 0 if shared else -1
        circuit.source(pos[one.id], neg[one.id], own_volts(one, plan, source_v), ohm, held=held)
    for run, ohm, back_ohm in zip(plan.runs, *leg_ohms(plan, options).reshape(-1, 2).T.tolist(), strict=True):
        start, finish = parts[run.start.part], parts[run.finish.part]
        if run.legs == "series":
            circuit.conductor(neg[start.id], pos[finish.id], ohm)
            circuit.conductor(neg[start.id], neg[finish.id], back_ohm)
            continue
        circuit.conductor(
            pos[positive_point(start, run.start, "start")], pos[positive_point(finish, run.finish, "finish")], ohm
        )
        circuit.conductor(
            neg[negative_point(start, run.start, "start")],
            neg[negative_point(finish, run.finish, "finish")],
            back_ohm,
        )
    contact_at: dict[Contact, tuple[int, ...]] = {}
    for contact, (first, second) in switching.contacts.items():
        part = parts[contact[0]]
        ohm = contact_ohm(part)
        if part.kind == "switch" and part.form == "reversing":
            back = (neg[first], neg[second])
            ways = (
                ((pos[first], pos[second]), back)
                if contact[1] == "main"
                else ((pos[first], back[1]), (back[0], pos[second]))
            )
            contact_at[contact] = tuple(circuit.conductor(a, b, ohm) for a, b in ways)
        elif parts_negative(part):
            ways = ((pos[first], pos[second]), (neg[first], neg[second]))
            contact_at[contact] = tuple(circuit.conductor(a, b, ohm) for a, b in ways)
        else:
            contact_at[contact] = (circuit.conductor(pos[first], pos[second], ohm),)
    for part in plan.parts:
        if part.kind == "shunt":
            circuit.conductor(neg[part.id], neg[point(part.id, "out")], contact_ohm(part))
        elif part.kind == "chassis_point":
            circuit.conductor(neg[part.id], neg[CHASSIS], chassis_point_ohm(plan))
    consumers: list[str] = []
    rated: list[float] = []
    index: dict[str, int] = {}
    for name in topology.consumers:
        load = figures.loads[name]
        if load.power_w is None:
            continue
        part = parts[part_id_of(name)]
        kind: LoadKind = part.behaviour if part.kind == "load" else "resistive"
        if isinstance(part, Charger):
            kind = "constant_current" if figures.supplies[name].gives else "constant_power"
            index[name] = len(consumers)
            ends = (pos[name], neg[back_point(part, terminal_of(name) or terminals(part)[0])])
            circuit.load(*ends, kind, load.power_w if kind == "constant_power" else load.design_current_a)
            rated.append(circuit.load_value[-1])
            consumers.append(name)
            continue
        value = {
            "constant_power": load.power_w,
            "constant_current": load.power_w / load.rated_v,
            "resistive": load.rated_v**2 / load.power_w,
        }[kind]
        circuit.load(pos[name], neg[name], kind, value)
        rated.append(load.rated_w if kind == "constant_power" and load.rated_w is not None else value)
        consumers.append(name)
    _converters(plan, figures, index, circuit)
    whole = np.ones(len(circuit.conductor_ohm), dtype=bool)
    spares = tuple(at for at, run in enumerate(plan.runs) if run.id in topology.spares)
    for at, run in enumerate(plan.runs):
        whole[2 * at] = (has_positive(run) or run.legs == "series") and at not in spares
        whole[2 * at + 1] = has_negative(run)
    above = frozenset(run.start.part for run in plan.runs if run.legs == "series")
    return Wiring(
        circuit,
        pos,
        neg,
        contact_at,
        tuple(consumers),
        whole,
        tuple(one.id for one in sources),
        above,
        np.array(rated, dtype=float),
        spares,
    )
