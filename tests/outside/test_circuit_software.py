"""Reference tests: the circuit against ngspice and against pandapower's direct-current network."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import pytest

from lucernis.core.circuit import Circuit, solve_circuit
from lucernis.core.evaluate import plan_rules
from lucernis.core.sizing import size_plan, state_circuit
from lucernis.demo import JOBS, demo_plan
from lucernis.exports.netlist import netlist
from tests.outside.networks import one_leg_network, two_leg_network

WITHIN_V = 1e-3


def spice_node_v(circuit: Circuit, folder: Path) -> dict[int, float]:
    """Node voltages as ngspice finds them."""
    file = folder / "circuit.cir"
    file.write_text(netlist(circuit, "check"), encoding="utf-8")
    done = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=60, check=False)
    found = re.findall(r"^\s*n(\d+)\s+(-?[\d.]+(?:e[-+]?\d+)?)\s*$", done.stdout, re.MULTILINE)
    assert found, done.stdout + done.stderr
    return {int(node): float(volts) for node, volts in found}


@pytest.mark.parametrize("seed", range(36))
def test_solve_circuit_random_network_matches_ngspice(seed: int, tmp_path: Path) -> None:
    """ngspice 39, operating point of the exported netlist: every node within 1 mV."""
    circuit = two_leg_network(seed)
    ours = solve_circuit(circuit)
    assert ours.converged
    assert ours.served.all()
    theirs = spice_node_v(circuit, tmp_path)
    assert len(theirs) == circuit.node_count - 1
    for node, volts in theirs.items():
        assert ours.node_v[node] == pytest.approx(volts, abs=WITHIN_V)


@pytest.mark.parametrize("name", JOBS)
def test_solve_circuit_demo_job_matches_ngspice(name: str, tmp_path: Path) -> None:
    """ngspice 39: every node of every state of the demo jobs within 1 mV."""
    plan = demo_plan(name)
    sized = size_plan(plan, plan_rules(plan))
    for state in plan.states:
        theirs = spice_node_v(state_circuit(plan, sized, state), tmp_path) | {0: 0.0}
        ours = sized.states[state.id].solution
        live = [node for node in theirs if ours.live[node]]
        assert len(live) > 4
        for node in live:
            assert ours.node_v[node] == pytest.approx(theirs[node], abs=WITHIN_V), (state.id, node)


@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize("seed", range(30))
def test_solve_circuit_random_network_matches_pandapower(seed: int) -> None:
    """pandapower 3.5.6, DC buses, lines and constant-power loads: every node within 1 mV.

    pandapower solves DC only beside an AC part, so a feeding bus and one line stand there; its own conductors have
    one pole, so the networks return through a common node.
    """
    import pandapower as pp

    circuit = one_leg_network(seed)
    net = pp.create_empty_network(sn_mva=1)
    ac = [pp.create_bus(net, vn_kv=0.4) for _ in range(2)]
    pp.create_ext_grid(net, ac[0])
    pp.create_line_from_parameters(net, ac[0], ac[1], 1, 0.01, 0.01, 0, 10)
    buses = {node: pp.create_bus_dc(net, vn_kv=0.012) for node in range(1, circuit.node_count)}
    pp.create_source_dc(net, buses[1], vm_pu=1.0)
    for a, b, ohm in zip(circuit.conductor_from, circuit.conductor_to, circuit.conductor_ohm, strict=True):
        pp.create_line_dc_from_parameters(net, buses[a], buses[b], length_km=1, r_ohm_per_km=ohm, max_i_ka=1)
    for pos, power_w in zip(circuit.load_pos, circuit.load_value, strict=True):
        pp.create_load_dc(net, buses[pos], p_dc_mw=power_w * 1e-6)
    pp.runpp(net, tolerance_mva=1e-12, max_iteration=50, numba=False)
    ours = solve_circuit(circuit)
    assert ours.converged
    for node, bus in buses.items():
        assert ours.node_v[node] == pytest.approx(12 * net.res_bus_dc.vm_pu[bus], abs=WITHIN_V)
