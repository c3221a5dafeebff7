"""Reference tests: shorts against ngspice, each one built into the netlist, and against solving each anew."""

from __future__ import annotations

import random
from pathlib import Path

import numpy as np
import pytest

from lucernis.core.circuit.network import factor_network
from lucernis.core.circuit.solver import Circuit, Solver
from lucernis.core.faults.study import study_faults
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.core.sizing.shorts import fuse_leg_ohms, fuses_at
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.model import Battery, Plan
from lucernis.plan.rules import plan_rules
from tests.outside.networks import two_leg_network
from tests.outside.spice import node_volts

SHORT_OHM = 1e-9


def shorted(circuit: Circuit, pos: int, neg: int, ohm: float = SHORT_OHM) -> tuple[Circuit, int]:
    """The circuit without its loads and with a short; which conductor that is."""
    out = Circuit(node_count=circuit.node_count)
    for a, b, own_ohm in zip(circuit.conductor_from, circuit.conductor_to, circuit.conductor_ohm, strict=True):
        out.conductor(a, b, own_ohm)
    for a, b, volts, inner_ohm in zip(
        circuit.source_pos, circuit.source_neg, circuit.source_v, circuit.source_ohm, strict=True
    ):
        out.source(a, b, volts, inner_ohm)
    return out, out.conductor(pos, neg, ohm)


@pytest.mark.parametrize("seed", range(20))
def test_currents_from_one_factorization_are_those_of_solving_each_short(seed: int) -> None:
    """The same solver, the short built in, one solve for each point: within a millionth."""
    circuit = two_leg_network(seed)
    whole = np.ones(len(circuit.conductor_ohm), dtype=bool)
    ohm, volts, inner = (np.array(one) for one in (circuit.conductor_ohm, circuit.source_v, circuit.source_ohm))
    nodes = np.array([[2 * k + 1, 2 * k] for k in range(circuit.node_count // 2)])
    weights = np.tile([1.0, -1.0], (len(nodes), 1))
    for every_node in (True, False):
        network = factor_network(circuit, whole, ohm, volts, inner, whole=every_node)
        found = network.currents_a(nodes, weights, np.zeros(len(nodes)))
        for (pos, neg), amps in zip(nodes.tolist(), found.tolist(), strict=True):
            anew, at = shorted(circuit, pos, neg)
            assert amps == pytest.approx(abs(Solver(anew).solve().conductor_a[at]), rel=1e-6)


def fault_circuit(
    plan: Plan, sized: Sized, *, strongest: bool = False, split: tuple[int, float] | None = None
) -> tuple[Circuit, tuple[int, int]]:
    """The demo circuit with every ordinary contact closed and the batteries as they are for the strongest or weakest
    short; and the two nodes within a run, at a share of its way behind its fuse, where it is split there."""
    figures = study_faults(plan, sized).sources
    wiring = sized.wiring
    closed = wiring.closed(sized.switching.ordinary, {run.id: at for at, run in enumerate(plan.runs)})
    ohm = wiring.resistances(leg_ohms(plan, sized.chosen))
    for at, run in enumerate(plan.runs) if strongest else ():
        # Copper at 20 °C in place of copper at its load.
        option, legs = sized.chosen[run.id], 2 if run.legs == "both" else 1
        cold = option.size.resistance_20_ohm_per_m * run.length_m / run.parallel
        ohm[2 * at : 2 * at + 2] += cold - option.wire_loop_ohm / legs
    fuse_ohm = fuse_leg_ohms(plan, fuses_at(plan, sized.topology, sized.fuses))
    out = Circuit(node_count=wiring.circuit.node_count)
    nodes = [0, 0]
    for at in np.flatnonzero(closed).tolist():
        a, b, whole = wiring.circuit.conductor_from[at], wiring.circuit.conductor_to[at], float(ohm[at])
        if split is None or at // 2 != split[0]:
            out.conductor(a, b, whole)
            continue
        before, after = fuse_ohm[split[0]].tolist() if at % 2 == 0 else (0.0, 0.0)
        near = before + split[1] * (whole - before - after)
        nodes[at % 2] = out.node_count
        out.conductor(a, out.node_count, near)
        out.conductor(out.node_count, b, max(0.0, whole - near))
        out.node_count += 1
    for part in plan.parts:
        if isinstance(part, Battery):
            one = figures[part.id]
            volts, inner = (one.full_v, one.fault_ohm) if strongest else (one.half_v, one.running_ohm)
            out.source(wiring.pos[part.id], wiring.neg[part.id], volts, inner)
    return out, (nodes[0], nodes[1])


BRIDGE_OHM = 1e-3


def spice_shorts_a(cases: list[tuple[Circuit, tuple[int, int]]], folder: Path) -> list[float]:
    """Shorts as ngspice finds them: each circuit once as it is and once with its two nodes bridged, all in one netlist.

    Open volts and those over a bridge of a milliohm give the resistance behind, and that the short.
    """
    every = []
    for circuit, (pos, neg) in cases:
        bridged = shorted(circuit, pos, neg, BRIDGE_OHM)[0]
        every += [circuit, bridged]
    volts = node_volts(every, folder)
    ends = [pair for _, pair in cases for _ in range(2)]
    between = [one[pos] - one[neg] for one, (pos, neg) in zip(volts, ends, strict=True)]
    found = []
    for open_v, bridge_v in zip(between[::2], between[1::2], strict=True):
        amps = bridge_v / BRIDGE_OHM
        found.append(open_v * amps / (open_v - bridge_v))
    return found


@pytest.mark.parametrize("name", JOBS)
@pytest.mark.parametrize("strongest", [True, False])
def test_shorts_of_the_demo_jobs_match_ngspice(name: str, strongest: bool, tmp_path: Path) -> None:
    """ngspice 39: points, and starts, middles and finishes of runs, of each demo job, strongest and weakest: 0.1 %."""
    plan = demo_plan(name)
    sized = size_plan(plan, plan_rules(plan))
    study, chance = study_faults(plan, sized), random.Random(7)
    whole, _ = fault_circuit(plan, sized, strongest=strongest)
    wired = {*whole.conductor_to, *whole.conductor_from}
    cases, ours = [], []
    points = [one for one, fault in study.of_point.items() if fault.weakest_a > 0]
    points = [one for one in points if sized.wiring.neg_at(one) in wired]
    for name_of in chance.sample(points, 6):
        cases.append((whole, (sized.wiring.pos[name_of], sized.wiring.neg_at(name_of))))
        ours.append(study.of_point[name_of])
    pairs = [(at, run) for at, run in enumerate(plan.runs) if run.legs == "both" and run.id in study.of_run]
    pairs = [(at, run) for at, run in pairs if min(one.weakest_a for one in study.of_run[run.id]) > 0]
    for at, run in chance.sample(pairs, min(5, len(pairs))):
        for fault, share in zip(study.of_run[run.id], (0.0, 0.5, 1.0), strict=True):
            cases.append(fault_circuit(plan, sized, strongest=strongest, split=(at, share)))
            ours.append(fault)
    theirs = spice_shorts_a(cases, tmp_path)
    assert len(theirs) > 12
    for fault, amps in zip(ours, theirs, strict=True):
        found = fault.strongest_a if strongest else fault.weakest_a
        assert found == pytest.approx(amps, rel=1e-3), (fault.subject, fault.where)
