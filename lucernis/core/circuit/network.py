"""A circuit of conductors and sources alone, factored once: open-circuit volts and all transfer resistances.

For faults, which are so much stronger than the loads that these are left out. Nothing here knows a plan.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats, Ints, factor_nodes
from lucernis.core.circuit.islands import islands
from lucernis.core.circuit.solver import LEAST_CONDUCTOR_OHM, Circuit


@dataclass(frozen=True, slots=True)
class Network:
    """A factored network.

    `open_v` (n_nodes,) is the voltage of each node with nothing drawn [V]; `live` (n_nodes,): joined to a source.
    `transfer_ohm` tells how far one ampere drawn at a node pulls another down [Ω]; its rows and columns are those of
    `row` (n_nodes,), because a node at the end of a single conductor stands for its neighbour with `beyond_ohm`
    (n_nodes,) in between.
    """

    open_v: Floats
    transfer_ohm: Floats
    live: NDArray[np.bool_]
    row: Ints
    beyond_ohm: Floats

    def currents_a(self, nodes: Ints, weights: Floats, own_ohm: Floats) -> Floats:
        """Currents of bolted shorts.

        Parameters
        ----------
        nodes : ndarray of int, shape (n_sites, n)
            Nodes each short pulls at.
        weights : ndarray, shape (n_sites, n)
            How much of its current it pulls there, negative where it is given back. [1]
        own_ohm : ndarray, shape (n_sites,)
            Resistance between these nodes and the short itself. [Ω]

        Returns
        -------
        ndarray
            Shape (n_sites,), 0 where nothing is live. [A]
        """
        row = self.row[nodes]
        volts = (self.open_v[nodes] * weights).sum(axis=1)
        ohm = own_ohm + (weights**2 * self.beyond_ohm[nodes]).sum(axis=1)
        for i in range(nodes.shape[1]):
            for j in range(nodes.shape[1]):
                ohm += weights[:, i] * weights[:, j] * self.transfer_ohm[row[:, i], row[:, j]]
        dead = ~self.live[nodes].all(axis=1) | (ohm <= 0)
        found: Floats = np.where(dead, 0.0, np.maximum(volts, 0.0) / np.where(dead, 1.0, ohm))
        return found


def factor_network(
    circuit: Circuit,
    closed: NDArray[np.bool_],
    conductor_ohm: Floats,
    source_v: Floats,
    source_ohm: Floats,
    *,
    whole: bool,
) -> Network:
    """Factor conductors and sources once and solve for every node.

    Parameters
    ----------
    circuit : Circuit
        Who is joined to whom; its loads are left out.
    closed : ndarray of bool, shape (n_conductors,)
        Conductors that carry.
    conductor_ohm : ndarray, shape (n_conductors,)
        Their resistances. [Ω]
    source_v : ndarray, shape (n_sources,)
        Open-circuit volts. [V]
    source_ohm : ndarray, shape (n_sources,)
        Internal resistances, > 0. [Ω]
    whole : bool
        Give every node a row of its own. Otherwise the ends of single conductors, most nodes of a plan, go without.

    Returns
    -------
    Network
        Islands without a source are dead.

    Notes
    -----
    Nodal analysis ``G · V = I``; the columns of the inverse are the transfer resistances, from one factorization.
    """
    n = circuit.node_count
    c_from, c_to = (np.array(one, dtype=np.int64)[closed] for one in (circuit.conductor_from, circuit.conductor_to))
    c_ohm = np.maximum(conductor_ohm[closed], LEAST_CONDUCTOR_OHM)
    s_pos, s_neg = (np.array(one, dtype=np.int64) for one in (circuit.source_pos, circuit.source_neg))
    a, b = np.concatenate([c_from, s_pos]), np.concatenate([c_to, s_neg])
    _, island = islands(n, a, b)
    live = np.isin(island, island[s_pos])
    neighbour, beyond = np.arange(n), np.zeros(n)
    stays = np.ones(len(c_ohm), dtype=bool)
    if not whole:
        touched = np.bincount(np.concatenate([a, b]), minlength=n)
        for end, other in ((c_from, c_to), (c_to, c_from)):
            # Not both ends of one conductor: then it is an island of its own, and dead.
            single = (touched[end] == 1) & (touched[other] > 1)
            neighbour[end[single]], beyond[end[single]] = other[single], c_ohm[single]
            stays &= ~single
    keep = live & (neighbour == np.arange(n))
    first = np.flatnonzero(keep)
    if len(first):
        # The first node of each island is its reference and has no row; node 0 is the first of its own.
        _, at = np.unique(island[first], return_index=True)
        references = first[at]
        keep[references] = False
    kept: Ints = np.flatnonzero(keep)
    row_of = np.full(n, -1, dtype=np.int64)
    row_of[kept] = np.arange(len(kept))
    open_v = np.zeros(n)
    # One more row and column of zeros stands for the references, which nothing pulls down.
    transfer = np.zeros((len(kept) + 1, len(kept) + 1))
    if len(kept):
        a, b = np.concatenate([c_from[stays], s_pos]), np.concatenate([c_to[stays], s_neg])
        g = np.concatenate([1 / c_ohm[stays], 1 / source_ohm])
        rows, cols = np.concatenate([a, b, a, b]), np.concatenate([a, b, b, a])
        factored = factor_nodes(row_of, len(kept), rows, cols, np.concatenate([g, g, -g, -g]))
        inverse = factored.solve(np.eye(len(kept)))
        injected = np.bincount(s_pos, weights=source_v / source_ohm, minlength=n)
        injected -= np.bincount(s_neg, weights=source_v / source_ohm, minlength=n)
        open_v[kept] = inverse @ injected[kept]
        transfer[:-1, :-1] = inverse
    row = np.where(row_of[neighbour] >= 0, row_of[neighbour], len(kept))
    return Network(open_v[neighbour], transfer, live, row, beyond)
