"""Property tests of the circuit, without any other software."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.core.circuit.solver import Circuit, solve_circuit
from lucernis.errors import OutOfRange
from tests.outside.networks import two_leg_network


def one_load(power_w: float, ohm: float, emf_v: float = 12.0) -> Circuit:
    circuit = Circuit(node_count=3)
    circuit.source(1, 0, emf_v)
    circuit.conductor(1, 2, ohm)
    circuit.load(2, 0, "constant_power", power_w)
    return circuit


@given(power_w=st.floats(1, 300), ohm=st.floats(0.001, 0.1))
def test_solve_circuit_constant_power_meets_quadratic(power_w: float, ohm: float) -> None:
    # V² - E V + P R = 0 has the upper root (E + sqrt(E² - 4 P R)) / 2 while 4 P R <= E².
    room = 144 - 4 * power_w * ohm
    found = solve_circuit(one_load(power_w, ohm))
    if room > 0.5:
        assert found.served.all()
        assert found.load_v[0] == pytest.approx((12 + room**0.5) / 2, abs=1e-6)
        assert found.load_v[0] * found.load_a[0] == pytest.approx(power_w, rel=1e-6)
    elif room < -0.5:
        assert not found.served.any()


def test_solve_circuit_collapse_is_a_result_and_spares_the_others() -> None:
    circuit = one_load(2000.0, 0.1)
    circuit.node_count = 4
    circuit.conductor(1, 3, 0.01)
    circuit.load(3, 0, "constant_power", 24.0)
    found = solve_circuit(circuit)
    assert found.converged
    assert found.served.tolist() == [False, True]
    assert found.load_v[1] > 11.9


def test_solve_circuit_near_collapse_converges() -> None:
    found = solve_circuit(one_load(359.9, 0.1))
    assert found.converged
    assert found.served.all()
    assert found.load_v[0] == pytest.approx(6.0, abs=0.2)


def test_solve_circuit_island_without_source_is_dead() -> None:
    circuit = one_load(24.0, 0.01)
    circuit.node_count = 6
    circuit.conductor(3, 5, 0.01)
    circuit.load(5, 4, "constant_power", 10.0)
    circuit.load(5, 3, "constant_current", 1.0)
    found = solve_circuit(circuit)
    assert found.converged
    assert found.served.tolist() == [True, False, False]
    assert found.load_v[1] == 0.0


def test_solve_circuit_empty_is_no_error() -> None:
    found = solve_circuit(Circuit(node_count=1))
    assert found.converged
    assert found.node_v.tolist() == [0.0]


@settings(max_examples=40, deadline=None)
@given(seed=st.integers(100, 10_000))
def test_solve_circuit_currents_balance_at_every_node(seed: int) -> None:
    circuit = two_leg_network(seed)
    found = solve_circuit(circuit)
    net = np.zeros(circuit.node_count)
    np.add.at(net, circuit.conductor_from, -found.conductor_a)
    np.add.at(net, circuit.conductor_to, found.conductor_a)
    np.add.at(net, circuit.source_pos, found.source_a)
    np.add.at(net, circuit.source_neg, -found.source_a)
    np.add.at(net, circuit.load_pos, -found.load_a)
    np.add.at(net, circuit.load_neg, found.load_a)
    assert np.abs(net).max() < 1e-5


@settings(max_examples=30, deadline=None)
@given(seed=st.integers(100, 10_000))
def test_solve_circuit_power_balances(seed: int) -> None:
    circuit = two_leg_network(seed)
    found = solve_circuit(circuit)
    given_w = float(np.sum(np.array(circuit.source_v) * found.source_a))
    heat_w = float(
        np.sum(found.conductor_a**2 * circuit.conductor_ohm) + np.sum(found.source_a**2 * circuit.source_ohm)
    )
    used_w = float(np.sum(found.load_v * found.load_a))
    assert given_w == pytest.approx(heat_w + used_w, rel=1e-6)


@pytest.mark.parametrize("bad", [float("nan"), float("inf"), -1.0])
def test_circuit_bad_resistance_is_refused(bad: float) -> None:
    with pytest.raises(OutOfRange, match="resistance_ohm must be a finite number >= 0"):
        Circuit(node_count=2).conductor(0, 1, bad)
