"""Which nodes of a network are joined to one another."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]
# Up to so many nodes making a sparse matrix takes longer than walking through them.
_FEW = 400


def islands(node_count: int, a: Ints, b: Ints) -> tuple[int, Ints]:
    """Islands of nodes.

    Parameters
    ----------
    node_count : int
        Nodes are 0..node_count-1.
    a, b : ndarray of int, shape (n_joints,)
        Nodes that are joined.

    Returns
    -------
    tuple of int and ndarray of int, shape (node_count,)
        How many islands there are, and the number of each node's, counted by their first nodes.
    """
    if node_count > _FEW:
        # Late, because most plans are small and never need it.
        from scipy.sparse import coo_matrix
        from scipy.sparse.csgraph import connected_components

        graph = coo_matrix((np.ones(len(a)), (a, b)), shape=(node_count, node_count))
        count, found = connected_components(graph, directed=False)
        return int(count), found.astype(np.int64)
    above = list(range(node_count))

    def head(node: int) -> int:
        while above[node] != node:
            above[node] = above[above[node]]
            node = above[node]
        return node

    for pair in zip(a.tolist(), b.tolist(), strict=True):
        low, high = sorted(map(head, pair))
        # The lower number leads, so that every node's way leads down and the first of an island is its head.
        above[high] = low
    number: dict[int, int] = {}
    labels = [0] * node_count
    for node, up in enumerate(above):
        labels[node] = number.setdefault(node, len(number)) if up == node else labels[up]
    return len(number), np.array(labels, dtype=np.int64)
