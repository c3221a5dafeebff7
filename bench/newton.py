"""The plain way, for comparison: a full sparse Newton step with a new matrix each time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import spsolve

from lucernis.core.circuit.solver import Circuit


def plain_newton(circuit: Circuit) -> NDArray[np.float64]:
    """Node voltages of a circuit of conductors, sources and constant-power loads."""
    n = circuit.node_count
    volts = np.zeros(n)
    volts[1::2] = circuit.source_v[0]
    pos, neg, power = np.array(circuit.load_pos), np.array(circuit.load_neg), np.array(circuit.load_value)
    a, b = np.array(circuit.conductor_from), np.array(circuit.conductor_to)
    g = 1 / np.array(circuit.conductor_ohm)
    s_pos, s_neg = np.array(circuit.source_pos), np.array(circuit.source_neg)
    s_v, s_g = np.array(circuit.source_v), 1 / np.array(circuit.source_ohm)
    for _ in range(60):
        at_load = volts[pos] - volts[neg]
        slope = -power / at_load**2
        first, second = np.concatenate([a, s_pos, pos]), np.concatenate([b, s_neg, neg])
        value = np.concatenate([g, s_g, slope])
        rows = np.concatenate([first, second, first, second])
        cols = np.concatenate([first, second, second, first])
        matrix = coo_matrix((np.concatenate([value, value, -value, -value]), (rows, cols)), shape=(n, n)).tocsc()
        right = np.zeros(n)
        np.add.at(right, s_pos, s_v * s_g)
        np.add.at(right, s_neg, -s_v * s_g)
        drawn = power / at_load - slope * at_load
        np.add.at(right, pos, -drawn)
        np.add.at(right, neg, drawn)
        moved = np.zeros(n)
        moved[1:] = spsolve(matrix[1:, 1:], right[1:])
        change = np.abs(moved - volts).max()
        volts = moved
        if change < 1e-9:
            break
    return volts
