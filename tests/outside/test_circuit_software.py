"""Reference tests: the circuit against ngspice and against pandapower's direct-current network."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from lucernis.core.circuit.solver import solve_circuit
from lucernis.core.sizing.choice import size_plan, state_circuit
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from tests.outside.networks import one_leg_network, two_leg_network
from tests.outside.spice import node_volts

WITHIN_V = 1e-3


SEEDS = range(36)


@pytest.fixture(scope="module")
def spiced(tmp_path_factory: pytest.TempPathFactory) -> list[dict[int, float]]:
    """Every random network as ngspice solves it."""
    return node_volts([two_leg_network(seed) for seed in SEEDS], tmp_path_factory.mktemp("spice"))


@pytest.mark.parametrize("seed", SEEDS)
def test_solve_circuit_random_network_matches_ngspice(seed: int, spiced: list[dict[int, float]]) -> None:
    """ngspice 39, operating point of the exported netlist: every node within 1 mV."""
    circuit = two_leg_network(seed)
    ours = solve_circuit(circuit)
    assert ours.converged
    assert ours.served.all()
    theirs = spiced[seed]
    assert len(theirs) == circuit.node_count
    for node, volts in theirs.items():
        assert ours.node_v[node] == pytest.approx(volts, abs=WITHIN_V)


@pytest.mark.parametrize("name", JOBS)
def test_solve_circuit_demo_job_matches_ngspice(name: str, tmp_path: Path) -> None:
    """ngspice 39: every node of every state of the demo jobs within 1 mV."""
    plan = demo_plan(name)
    sized = size_plan(plan, plan_rules(plan))
    every = node_volts([state_circuit(plan, sized, state) for state in plan.states], tmp_path)
    for state, theirs in zip(plan.states, every, strict=True):
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


def ring_plan() -> Plan:
    """A ring of three bars with two conductors in parallel on one side: paths that share current."""

    def wire(name: str, start: str, finish: str, length_m: float, **fields: Any) -> dict[str, Any]:
        ends = {"start": {"part": start}, "finish": {"part": finish}}
        return {"id": name, "tag": name.upper(), "length_m": length_m} | ends | fields

    bars = [{"kind": "busbar", "id": f"u{k}", "name": f"Bar {k}", "tag": f"U{k}"} for k in (1, 2, 3)]
    loads = [
        {"kind": "load", "id": f"l{k}", "name": f"Load {k}", "tag": f"L{k}", "power_w": 60.0 * k, "hours_per_day": 1}
        for k in (1, 2, 3)
    ]
    return parse_plan(
        {
            "format": "lucernis-plan",
            "version": 2,
            "job": {"name": "Ring"},
            "practice": {"set": "small_craft_us"},
            "zones": [{"id": "z", "name": "Inside"}],
            "parts": [{"kind": "battery", "id": "b1", "name": "Battery", "tag": "B1"}, *bars, *loads],
            "runs": [
                wire("r1", "b1", "u1", 1.0, fuse_at_start={"distance_m": 0.1}),
                wire("r2", "u1", "u2", 2.0, parallel=2),
                wire("r3", "u1", "u3", 3.0),
                wire("r4", "u2", "u3", 2.5),
                *(wire(f"r{4 + k}", f"u{k}", f"l{k}", 1.5, fuse_at_start={}) for k in (1, 2, 3)),
            ],
            "states": [{"id": "all", "name": "All"}, {"id": "some", "name": "Some", "off": ["l2"]}],
        }
    )


@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize("name", ["ring", "plover_mended"])
def test_whole_plans_match_ngspice_and_pandapower_in_every_state(name: str, tmp_path: Path) -> None:
    """ngspice 39 node by node; pandapower 3.5.6 on the one-pole equivalent, where both legs follow one another.

    pandapower has constant-power loads alone, so each load is put in with the power our solution gives it: what is
    compared is the network. Every voltage between positive and negative within 1 mV.
    """
    import pandapower as pp

    plan = ring_plan() if name == "ring" else demo_plan(name)
    sized = size_plan(plan, plan_rules(plan))
    wiring, index = sized.wiring, {run.id: at for at, run in enumerate(plan.runs)}
    ohm = wiring.resistances(leg_ohms(plan, sized.chosen))
    every = node_volts([state_circuit(plan, sized, state) for state in plan.states], tmp_path)
    for state, theirs in zip(plan.states, every, strict=True):
        result = sized.states[state.id]
        live = [point for point in wiring.pos if point in sized.demand.switched[state.id].live]
        for point in live:
            if result.part_v[point]:
                between_v = theirs[wiring.pos[point]] - theirs[wiring.neg_at(point)]
                assert result.part_v[point] == pytest.approx(between_v, abs=WITHIN_V)
        net = pp.create_empty_network(sn_mva=1)
        ac = [pp.create_bus(net, vn_kv=0.4) for _ in range(2)]
        pp.create_ext_grid(net, ac[0])
        pp.create_line_from_parameters(net, ac[0], ac[1], 1, 0.01, 0.01, 0, 10)
        buses = {point: pp.create_bus_dc(net, vn_kv=0.012) for point in live}
        for source, emf_v in zip(wiring.sources, result.solution.source_emf_v.tolist(), strict=True):
            if source in buses:
                pp.create_source_dc(net, buses[source], vm_pu=emf_v / 12)

        def join(a: str, b: str, value: float, net: Any = net, buses: Any = buses) -> None:
            pp.create_line_dc_from_parameters(net, buses[a], buses[b], length_km=1, r_ohm_per_km=value, max_i_ka=1)

        names = {node: point for point, node in wiring.pos.items()}
        circuit = wiring.circuit
        for run in plan.runs:
            ends = [names[circuit.conductor_from[2 * index[run.id]]], names[circuit.conductor_to[2 * index[run.id]]]]
            if all(end in buses for end in ends):
                join(*ends, float(ohm[2 * index[run.id]] + ohm[2 * index[run.id] + 1]))
        for contact, ats in wiring.contact_at.items():
            ends = list(sized.switching.contacts[contact])
            if contact in sized.demand.switched[state.id].closed and all(end in buses for end in ends):
                join(*ends, circuit.conductor_ohm[ats[0]])
        for load, amps in zip(wiring.consumers, result.solution.load_a.tolist(), strict=True):
            if load in buses:
                pp.create_load_dc(net, buses[load], p_dc_mw=amps * result.part_v[load] * 1e-6)
        pp.runpp(net, tolerance_mva=1e-12, max_iteration=50, numba=False)
        for point in live:
            if result.part_v[point]:
                found_v = 12 * float(net.res_bus_dc.vm_pu[buses[point]])
                assert result.part_v[point] == pytest.approx(found_v, abs=WITHIN_V), (state.id, point)
