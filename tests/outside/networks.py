"""Random direct-current networks: trees and loops, every kind of load, none near collapse."""

from __future__ import annotations

import random

from lucernis.core.circuit.solver import Circuit


def two_leg_network(seed: int) -> Circuit:
    """A network with a positive and a negative side, up to two sources; odd seeds have loops."""
    rng = random.Random(seed)
    points = rng.randint(3, 14)
    circuit = Circuit(node_count=2 * points)
    nominal_v = rng.choice([6.0, 12.0, 24.0])
    circuit.source(1, 0, nominal_v * rng.uniform(1.0, 1.12), rng.uniform(0.002, 0.02))
    if points > 6 and rng.random() < 0.4:
        far = points - 1
        circuit.source(2 * far + 1, 2 * far, nominal_v * rng.uniform(1.0, 1.1), rng.uniform(0.005, 0.03))

    def join(a: int, b: int) -> None:
        ohm = rng.uniform(0.001, 0.03)
        circuit.conductor(2 * a + 1, 2 * b + 1, ohm * rng.uniform(1, 1.5))
        circuit.conductor(2 * a, 2 * b, ohm)

    for point in range(1, points):
        join(rng.randrange(point), point)
    if seed % 2:
        for _ in range(rng.randint(1, 3)):
            a, b = rng.sample(range(points), 2)
            join(a, b)
    for point in range(1, points):
        kind = rng.choice(["constant_power", "constant_power", "constant_current", "resistive"])
        if kind == "constant_power":
            circuit.load(2 * point + 1, 2 * point, "constant_power", rng.uniform(1, 2.5) * nominal_v)
        elif kind == "constant_current":
            circuit.load(2 * point + 1, 2 * point, "constant_current", rng.uniform(0.1, 3))
        else:
            circuit.load(2 * point + 1, 2 * point, "resistive", rng.uniform(4, 60))
    return circuit


def one_leg_network(seed: int) -> Circuit:
    """A network against one common return, one stiff source, constant-power loads; odd seeds have loops."""
    rng = random.Random(1000 + seed)
    points = rng.randint(3, 12)
    circuit = Circuit(node_count=points + 1)
    circuit.source(1, 0, 12.0)
    for point in range(2, points + 1):
        circuit.conductor(rng.randrange(1, point), point, rng.uniform(0.002, 0.03))
    if seed % 2:
        for _ in range(rng.randint(1, 3)):
            a, b = rng.sample(range(1, points + 1), 2)
            circuit.conductor(a, b, rng.uniform(0.002, 0.03))
    for point in range(2, points + 1):
        circuit.load(point, 0, "constant_power", rng.uniform(5, 40))
    return circuit
