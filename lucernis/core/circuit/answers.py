"""The conductance matrix factored, and its answers: volts at all nodes, or only where something draws or gives.

Small circuits are asked many times at few places, so those answers are one product of a small matrix; of large ones
only the factors are kept.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
# Up to so many nodes a dense matrix is quicker than a sparse one.
DENSE_NODES = 150


class Factored(Protocol):
    def solve(self, right: Floats, /) -> Floats:
        """Voltages for a vector of currents."""


@dataclass(frozen=True, slots=True)
class _Dense:
    """A small matrix. Sparse book-keeping costs more than it saves here, and so does keeping the factors."""

    matrix: Floats

    def solve(self, right: Floats, /) -> Floats:
        """Voltages for a vector of currents, or for each column of several."""
        return np.linalg.solve(self.matrix, right).astype(np.float64, copy=False)


class _Nothing:
    """No node but references: there is nothing to solve."""

    def solve(self, right: Floats, /) -> Floats:
        """Nothing."""
        return right


def factor_nodes(at: Ints, size: int, rows: Ints, cols: Ints, values: Floats) -> Factored:
    """Factor the matrix of the nodes that are no reference; `at` maps a node to its row, -1 for a reference."""
    row, col = at[rows], at[cols]
    inside = (row >= 0) & (col >= 0)
    if size == 0:
        return _Nothing()
    if size <= DENSE_NODES:
        flat = np.bincount(row[inside] * size + col[inside], weights=values[inside], minlength=size * size)
        return _Dense(flat.astype(np.float64, copy=False).reshape(size, size))
    # Late, because most plans are small and never need it.
    from scipy.sparse import csc_matrix
    from scipy.sparse.linalg import splu

    matrix = csc_matrix((values[inside], (row[inside], col[inside])), shape=(size, size))
    return splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})


class Answer(Protocol):
    """Volts for currents pushed in at ports, from their negative to their positive node, shape (n_ports,). [A]"""

    def at_ports(self, pushed: Floats, /) -> Floats:
        """Between the nodes of each port, shape (n_ports,). [V]"""

    def at_nodes(self, pushed: Floats, /) -> Floats:
        """At every node that is no reference. [V]"""


@dataclass(frozen=True, slots=True)
class _AtFew:
    """Small: `ports` (n_ports, n_ports) are volts for one ampere. [Ω]"""

    factored: Factored
    into: Floats
    ports: Floats

    def at_ports(self, pushed: Floats, /) -> Floats:
        found: Floats = self.ports @ pushed
        return found

    def at_nodes(self, pushed: Floats, /) -> Floats:
        # Stiff sources push in so much that a product of inverses would lose digits: solved anew, once.
        return self.factored.solve(self.into @ pushed)


@dataclass(frozen=True, slots=True)
class _AtAll:
    """Large: solved each time it is asked."""

    factored: Factored
    into: csr_matrix
    across: csr_matrix

    def at_ports(self, pushed: Floats, /) -> Floats:
        found: Floats = self.across @ self.factored.solve(self.into @ pushed)
        return found

    def at_nodes(self, pushed: Floats, /) -> Floats:
        return self.factored.solve(self.into @ pushed)


class Ports:
    """Pairs of nodes where something is drawn or given; `at` maps a node to its row, -1 for a reference.

    Parameters
    ----------
    at : ndarray of int, shape (n_nodes,)
        Rows of the nodes.
    size : int
        How many rows there are.
    pos, neg : ndarray of int, shape (n_ports,)
        Positive and negative node of each port.
    """

    def __init__(self, at: Ints, size: int, pos: Ints, neg: Ints) -> None:
        rows, number = np.concatenate([at[pos], at[neg]]), np.arange(len(pos))
        signs, columns = np.repeat([1.0, -1.0], len(pos)), np.concatenate([number, number])
        inside = rows >= 0
        rows, columns, signs = rows[inside], columns[inside], signs[inside]
        self._few: Floats | None = None
        self._many: tuple[csr_matrix, csr_matrix] | None = None
        if size <= DENSE_NODES:
            self._few = np.zeros((size, len(pos)))
            np.add.at(self._few, (rows, columns), signs)
        else:
            from scipy.sparse import csr_matrix

            into = csr_matrix((signs, (rows, columns)), shape=(size, len(pos)))
            self._many = (into, csr_matrix(into.T))

    def answer(self, factored: Factored) -> Answer:
        """What a factored matrix answers at these ports."""
        if self._many is not None:
            return _AtAll(factored, *self._many)
        few = self._few if self._few is not None else np.zeros((0, 0))
        return _AtFew(factored, few, few.T @ factored.solve(few))
