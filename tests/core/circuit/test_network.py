"""Transfer resistances: the short way without the ends of single conductors gives what the long way gives."""

from __future__ import annotations

import numpy as np
import pytest

from lucernis.core.circuit.network import Network, factor_network
from lucernis.core.circuit.solver import Circuit
from tests.outside.networks import two_leg_network


def factored(circuit: Circuit, *, whole: bool, closed: list[bool] | None = None) -> Network:
    carries = np.array(closed if closed is not None else [True] * len(circuit.conductor_ohm))
    ohm, volts, inner = (np.array(one) for one in (circuit.conductor_ohm, circuit.source_v, circuit.source_ohm))
    return factor_network(circuit, carries, ohm, volts, inner, whole=whole)


def every_short_a(network: Network, circuit: Circuit) -> list[float]:
    nodes = np.array([[2 * k + 1, 2 * k] for k in range(circuit.node_count // 2)])
    found = network.currents_a(nodes, np.tile([1.0, -1.0], (len(nodes), 1)), np.zeros(len(nodes)))
    return [float(one) for one in found]


@pytest.mark.parametrize("seed", range(12))
def test_short_and_long_way_agree(seed: int) -> None:
    circuit = two_leg_network(seed)
    short, long = factored(circuit, whole=False), factored(circuit, whole=True)
    assert every_short_a(short, circuit) == pytest.approx(every_short_a(long, circuit), rel=1e-9)
    assert short.open_v == pytest.approx(long.open_v, abs=1e-9)


@pytest.mark.parametrize("seed", range(6))
def test_transfer_resistances_are_the_same_both_ways_round(seed: int) -> None:
    network = factored(two_leg_network(seed), whole=True)
    assert network.transfer_ohm == pytest.approx(network.transfer_ohm.T, abs=1e-12)


def chain() -> Circuit:
    """A battery of 12 V and 10 mΩ, two stretches of 5 mΩ a leg."""
    circuit = Circuit(node_count=6)
    circuit.source(1, 0, 12.0, 0.010)
    for near, far in ((1, 3), (0, 2), (3, 5), (2, 4)):
        circuit.conductor(near, far, 0.005)
    return circuit


@pytest.mark.parametrize("whole", [True, False])
def test_chain_by_hand(whole: bool) -> None:
    """12 V over 10, 20 and 30 mΩ."""
    found = every_short_a(factored(chain(), whole=whole), chain())
    assert found == pytest.approx([1200.0, 600.0, 400.0])


@pytest.mark.parametrize("whole", [True, False])
def test_point_within_a_stretch_by_hand(whole: bool) -> None:
    """In the middle of the second stretch: 25 mΩ, 480 A."""
    network = factored(chain(), whole=whole)
    nodes, weights = np.array([[3, 5, 2, 4]]), np.array([[0.5, 0.5, -0.5, -0.5]])
    own_ohm = np.array([2 * 0.25 * 0.005])
    assert network.currents_a(nodes, weights, own_ohm) == pytest.approx([480.0])


@pytest.mark.parametrize("whole", [True, False])
def test_opened_conductor_leaves_what_is_behind_it_dead(whole: bool) -> None:
    network = factored(chain(), whole=whole, closed=[True, True, False, True])
    assert network.live.tolist() == [True, True, True, True, True, False]
    assert every_short_a(network, chain()) == pytest.approx([1200.0, 600.0, 0.0])


def test_two_batteries_add_at_the_point_they_share() -> None:
    """Each 12 V behind 10 mΩ and two legs of 5 mΩ: 600 A from each side."""
    circuit = Circuit(node_count=6)
    circuit.source(1, 0, 12.0, 0.010)
    circuit.source(3, 2, 12.0, 0.010)
    for near, far in ((1, 5), (0, 4), (3, 5), (2, 4)):
        circuit.conductor(near, far, 0.005)
    assert every_short_a(factored(circuit, whole=True), circuit)[2] == pytest.approx(1200.0)


def test_network_without_a_source_is_dead() -> None:
    circuit = Circuit(node_count=4)
    circuit.conductor(1, 3, 0.01)
    network = factored(circuit, whole=True)
    assert not network.live.any()
    assert every_short_a(network, circuit) == [0.0, 0.0]
