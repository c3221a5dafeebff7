"""Reference tests: circuits at and beyond the most power a wire can deliver, against theory and against ngspice."""

from __future__ import annotations

from pathlib import Path

import pytest

from lucernis.core.circuit.solver import Circuit, solve_circuit
from tests.outside.spice import node_volts


def one_wire(power_w: float) -> Circuit:
    """12 V behind 0.1 Ω: by the theorem of maximum power transfer it delivers 12² / (4 · 0.1) = 360 W at most."""
    circuit = Circuit(node_count=4)
    circuit.source(1, 0, 12.0)
    circuit.conductor(1, 2, 0.1)
    circuit.conductor(1, 3, 0.05)
    circuit.load(2, 0, "constant_power", power_w)
    circuit.load(3, 0, "constant_power", 60.0)
    return circuit


@pytest.mark.parametrize(
    ("power_w", "served"), [(200.0, True), (340.0, True), (359.0, True), (361.0, False), (1000.0, False)]
)
def test_power_up_to_the_maximum_is_served(power_w: float, served: bool) -> None:
    """Maximum power transfer theorem, any textbook of circuit theory."""
    found = solve_circuit(one_wire(power_w))
    assert found.converged
    assert found.served.tolist() == [served, True]
    if served:
        assert found.load_v[0] * found.load_a[0] == pytest.approx(power_w, rel=1e-6)
        assert found.load_v[0] >= 6.0 - 1e-6


@pytest.mark.parametrize("power_w", [200.0, 340.0, 1000.0])
def test_both_sides_of_collapse_agree_with_ngspice(power_w: float, tmp_path: Path) -> None:
    """ngspice 39: below the maximum the working point, beyond it the resistance the load is taken as."""
    circuit = one_wire(power_w)
    ours, theirs = solve_circuit(circuit), node_volts([circuit], tmp_path)[0]
    for node, volts in theirs.items():
        assert ours.node_v[node] == pytest.approx(volts, abs=1e-3)
