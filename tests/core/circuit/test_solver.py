"""The solver made ready once gives what a fresh circuit gives: with other resistances, and with loads off."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.core.circuit.answers import DENSE_NODES
from lucernis.core.circuit.solver import Circuit, Solver, solve_circuit
from tests.outside.networks import two_leg_network


def copied(circuit: Circuit) -> Circuit:
    return Circuit(circuit.node_count, **{name: list(getattr(circuit, name)) for name in circuit.__slots__[1:]})


@settings(max_examples=30, deadline=None)
@given(seed=st.integers(0, 5000), factor=st.floats(0.3, 1.6))
def test_solver_with_other_resistances_equals_a_fresh_circuit(seed: int, factor: float) -> None:
    circuit = two_leg_network(seed)
    ohm = np.array(circuit.conductor_ohm) * factor
    fresh = copied(circuit)
    fresh.conductor_ohm = ohm.tolist()
    again, once = Solver(circuit).solve(ohm), solve_circuit(fresh)
    assert again.node_v == pytest.approx(once.node_v, abs=1e-7)
    assert again.conductor_a == pytest.approx(once.conductor_a, abs=1e-4)


@settings(max_examples=30, deadline=None)
@given(seed=st.integers(0, 5000), data=st.data())
def test_solver_with_loads_off_equals_a_circuit_without_them(seed: int, data: st.DataObject) -> None:
    circuit = two_leg_network(seed)
    on = np.array(
        data.draw(st.lists(st.booleans(), min_size=len(circuit.load_value), max_size=len(circuit.load_value)))
    )
    fresh = copied(circuit)
    for name in ("load_pos", "load_neg", "load_kind", "load_value"):
        setattr(fresh, name, [one for one, works in zip(getattr(circuit, name), on, strict=True) if works])
    masked, once = Solver(circuit).solve(on=on), solve_circuit(fresh)
    assert masked.node_v == pytest.approx(once.node_v, abs=1e-7)
    assert masked.load_a[~on] == pytest.approx(np.zeros(int((~on).sum())), abs=1e-12)


def test_solver_keeps_nothing_from_one_solve_to_the_next() -> None:
    circuit = two_leg_network(11)
    solver = Solver(circuit)
    first = solver.solve()
    solver.solve(np.array(circuit.conductor_ohm) * 50)
    assert solver.solve().node_v.tolist() == first.node_v.tolist()


def test_dense_and_sparse_agree(monkeypatch: pytest.MonkeyPatch) -> None:
    for seed in range(12):
        circuit = two_leg_network(seed)
        assert circuit.node_count <= DENSE_NODES
        dense = solve_circuit(circuit)
        with monkeypatch.context() as sparse_only:
            sparse_only.setattr("lucernis.core.circuit.answers.DENSE_NODES", 0)
            sparse = solve_circuit(circuit)
        assert dense.node_v == pytest.approx(sparse.node_v, abs=1e-7)


def test_two_sources_of_different_volts_push_against_each_other_and_are_solved() -> None:
    circuit = Circuit(node_count=3)
    circuit.source(1, 0, 13.0, 0.01)
    circuit.source(2, 0, 12.0, 0.01)
    circuit.conductor(1, 2, 0.08)
    found = solve_circuit(circuit)
    assert found.converged
    assert found.source_a.tolist() == pytest.approx([10.0, -10.0], abs=1e-6)


def test_rows_of_loads_that_fall_together_are_let_go_in_few_steps() -> None:
    """A hundred loads on one thin pair: those near the battery stay, the rest is told; not one solve for each."""
    circuit = Circuit(node_count=202)
    circuit.source(1, 0, 12.0, 0.001)
    for point in range(1, 101):
        circuit.conductor(2 * point - 1, 2 * point + 1, 0.02)
        circuit.conductor(2 * point - 2, 2 * point, 0.02)
        circuit.load(2 * point + 1, 2 * point, "constant_power", 6.0)
    solution = solve_circuit(circuit)
    gone = np.flatnonzero(~solution.served)
    assert solution.converged
    assert len(gone) > 50
    assert solution.steps < len(gone)
    # The nearest still have more than half of what comes with nothing drawn.
    assert not set(gone.tolist()) & {0, 1, 2}
    assert (solution.load_v[solution.served] >= 6.0).all()
