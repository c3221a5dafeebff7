"""Islands of joined nodes: the walk for few nodes against scipy's search, which serves many."""

from __future__ import annotations

import random

import numpy as np
import pytest
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from lucernis.core.circuit.islands import islands


@pytest.mark.parametrize("nodes", [1, 2, 7, 60, 399, 400, 401, 900])
@pytest.mark.parametrize("share", [0.0, 0.4, 1.2])
def test_as_scipy_finds_them(nodes: int, share: float) -> None:
    rng = random.Random(f"{nodes} {share}")
    count = int(share * nodes)
    a = np.array([rng.randrange(nodes) for _ in range(count)], dtype=np.int64)
    b = np.array([rng.randrange(nodes) for _ in range(count)], dtype=np.int64)
    found, labels = islands(nodes, a, b)
    graph = coo_matrix((np.ones(count), (a, b)), shape=(nodes, nodes))
    wanted, known = connected_components(graph, directed=False)
    assert found == wanted
    assert labels.tolist() == known.tolist()
