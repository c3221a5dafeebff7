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
from lucernis.core.sizing.sized import plan_rules
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.model import Battery, Plan
from tests.outside.networks import two_leg_network
from tests.outside.test_circuit_software import spice_node_v

SHORT_OHM = 1e-9


def shorted(circuit: Circuit, pos: int, neg: int) -> tuple[Circuit, int]:
    """The circuit without its loads and with a short; which conductor that is."""
    out = Circuit(node_count=circuit.node_count)
    for a, b, ohm in zip(circuit.conductor_from, circuit.conductor_to, circuit.conductor_ohm, strict=True):
        out.conductor(a, b, ohm)
    for a, b, volts, ohm in zip(
        circuit.source_pos, circuit.source_neg, circuit.source_v, circuit.source_ohm, strict=True
    ):
        out.source(a, b, volts, ohm)
    return out, out.conductor(pos, neg, SHORT_OHM)


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


def fault_circuit(plan: Plan, sized: Sized) -> Circuit:
    """The demo circuit with every ordinary contact closed and the batteries as they are for the weakest short."""
    figures = study_faults(plan, sized).sources
    wiring = sized.wiring
    index = {run.id: at for at, run in enumerate(plan.runs)}
    closed = wiring.closed(sized.switching.ordinary, index)
    ohm = wiring.resistances(leg_ohms(plan, sized.chosen))
    out = Circuit(node_count=wiring.circuit.node_count)
    for at in np.flatnonzero(closed).tolist():
        out.conductor(wiring.circuit.conductor_from[at], wiring.circuit.conductor_to[at], float(ohm[at]))
    for part in plan.parts:
        if isinstance(part, Battery):
            source = figures[part.id]
            out.source(wiring.pos[part.id], wiring.neg[part.id], source.half_v, source.running_ohm)
    return out


@pytest.mark.parametrize("name", JOBS)
def test_weakest_shorts_of_the_demo_jobs_match_ngspice(name: str, tmp_path: Path) -> None:
    """ngspice 39: a sample of points of each demo job, shorted in the netlist: current within 0.1 %."""
    plan = demo_plan(name)
    sized = size_plan(plan, plan_rules(plan))
    study, circuit = study_faults(plan, sized), fault_circuit(plan, sized)
    points = [
        point
        for point, fault in study.of_point.items()
        if fault.weakest_a > 0 and sized.wiring.neg_at(point) in {*circuit.conductor_to, *circuit.conductor_from}
    ]
    for point in random.Random(7).sample(points, 6):
        pos, neg = sized.wiring.pos[point], sized.wiring.neg_at(point)
        anew = Circuit(**{name: list(getattr(circuit, name)) if isinstance(getattr(circuit, name), list)
                          else getattr(circuit, name) for name in circuit.__dataclass_fields__})  # fmt: skip
        # A milliohm, so that its voltage can be read off with the digits ngspice prints.
        anew.conductor(pos, neg, 1e-3)
        volts = spice_node_v(anew, tmp_path) | {0: 0.0}
        between_v = volts[pos] - volts[neg]
        whole_ohm = _open_v(circuit, pos, neg) / study.of_point[point].weakest_a
        assert between_v / 1e-3 == pytest.approx(_open_v(circuit, pos, neg) / (whole_ohm + 1e-3), rel=1e-3)


def _open_v(circuit: Circuit, pos: int, neg: int) -> float:
    node_v = Solver(circuit).solve().node_v
    return float(node_v[pos] - node_v[neg])
