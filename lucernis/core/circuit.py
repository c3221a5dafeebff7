"""Direct-current circuit: nodes, conductors, sources with internal resistance, loads by kind; voltages and currents.

Networks may hold loops and several sources. A load that cannot be served is a result. Nothing here knows a plan.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix, csc_matrix
from scipy.sparse.csgraph import connected_components
from scipy.sparse.linalg import SuperLU, splu

from lucernis.errors import require_range

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
LoadKind = Literal["constant_power", "constant_current", "resistive"]

STIFF_SOURCE_OHM = 1e-8
LEAST_CONDUCTOR_OHM = 1e-9
TOLERANCE_V = 1e-9
# Below half the source voltage a constant-power load has no stable working point: maximum power transfer.
FOLD_FRAC = 0.5
_CHORD_STEPS = 12
_STEPS = 60


@dataclass(slots=True)
class Circuit:
    """A circuit being put together. Node 0 is the reference (a battery's negative)."""

    node_count: int
    conductor_from: list[int] = field(default_factory=list)
    conductor_to: list[int] = field(default_factory=list)
    conductor_ohm: list[float] = field(default_factory=list)
    source_pos: list[int] = field(default_factory=list)
    source_neg: list[int] = field(default_factory=list)
    source_v: list[float] = field(default_factory=list)
    source_ohm: list[float] = field(default_factory=list)
    load_pos: list[int] = field(default_factory=list)
    load_neg: list[int] = field(default_factory=list)
    load_kind: list[LoadKind] = field(default_factory=list)
    load_value: list[float] = field(default_factory=list)

    def conductor(self, a: int, b: int, resistance_ohm: float) -> int:
        """Join two nodes by a resistance, >= 0 [Ω]; returns its index."""
        require_range("resistance_ohm", resistance_ohm, least=0)
        self.conductor_from.append(a)
        self.conductor_to.append(b)
        self.conductor_ohm.append(max(resistance_ohm, LEAST_CONDUCTOR_OHM))
        return len(self.conductor_ohm) - 1

    def source(self, pos: int, neg: int, emf_v: float, internal_ohm: float = STIFF_SOURCE_OHM) -> int:
        """Add a source of an open-circuit voltage [V] behind a resistance [Ω]; returns its index."""
        require_range("emf_v", emf_v, least=0)
        self.source_pos.append(pos)
        self.source_neg.append(neg)
        self.source_v.append(emf_v)
        self.source_ohm.append(max(require_range("internal_ohm", internal_ohm, least=0), STIFF_SOURCE_OHM))
        return len(self.source_v) - 1

    def load(self, pos: int, neg: int, kind: LoadKind, value: float) -> int:
        """Add a load: its power [W], current [A] or resistance [Ω] by kind; returns its index."""
        require_range("value", value, above=0 if kind == "resistive" else None, least=0)
        self.load_pos.append(pos)
        self.load_neg.append(neg)
        self.load_kind.append(kind)
        self.load_value.append(value)
        return len(self.load_value) - 1


@dataclass(frozen=True, slots=True)
class Solution:
    """Voltages and currents of a circuit.

    Shapes: `node_v` (n_nodes,), `conductor_a` (n_conductors,) from -> to, `source_a` (n_sources,) out of the positive,
    `load_v`, `load_a`, `served` (n_loads,). A load not served has collapsed or hangs on no source.
    """

    node_v: Floats
    conductor_a: Floats
    source_a: Floats
    load_v: Floats
    load_a: Floats
    served: NDArray[np.bool_]
    converged: bool
    steps: int


def _pairs(a: Ints, b: Ints, g: Floats) -> tuple[Ints, Ints, Floats]:
    return (
        np.concatenate([a, b, a, b]),
        np.concatenate([a, b, b, a]),
        np.concatenate([g, g, -g, -g]),
    )


def _scatter(n: int, pos: Ints, neg: Ints, current: Floats) -> Floats:
    """Currents drawn at the positive and given back at the negative node, shape (n,)."""
    out = np.zeros(n)
    np.add.at(out, pos, current)
    np.add.at(out, neg, -current)
    return out


def _factor(at: Ints, size: int, rows: Ints, cols: Ints, values: Floats) -> SuperLU:
    """Factor the matrix of the nodes that are no reference; `at` maps a node to its row, -1 for a reference."""
    row, col = at[rows], at[cols]
    inside = (row >= 0) & (col >= 0)
    matrix = csc_matrix((values[inside], (row[inside], col[inside])), shape=(size, size))
    return splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})


def solve_circuit(circuit: Circuit) -> Solution:
    """Voltages and currents at a steady state.

    Parameters
    ----------
    circuit : Circuit
        Nodes are 0..node_count-1, node 0 is the reference.

    Returns
    -------
    Solution
        Always: a constant-power load without a working point is marked not served and taken as the resistance it
        would show at half the source voltage, so that the rest of the circuit still has an answer.

    Notes
    -----
    Nodal analysis. The conductance matrix is factored once; constant-power currents are iterated against that one
    factorization (a chord method), which falls monotonically from the no-load voltages to the upper, stable working
    point. Only a circuit near collapse needs Newton steps with a matrix of its own.

    References
    ----------
    .. [1] C.-W. Ho, A. Ruehli, P. Brennan, "The modified nodal approach to network analysis", 1975 (memory).
    """
    n = circuit.node_count
    c_from, c_to = np.array(circuit.conductor_from, dtype=np.int64), np.array(circuit.conductor_to, dtype=np.int64)
    c_g = 1 / np.array(circuit.conductor_ohm, dtype=float)
    s_pos, s_neg = np.array(circuit.source_pos, dtype=np.int64), np.array(circuit.source_neg, dtype=np.int64)
    s_v, s_g = np.array(circuit.source_v, dtype=float), 1 / np.array(circuit.source_ohm, dtype=float)
    l_pos, l_neg = np.array(circuit.load_pos, dtype=np.int64), np.array(circuit.load_neg, dtype=np.int64)
    value = np.array(circuit.load_value, dtype=float)
    kind = np.array(circuit.load_kind, dtype=object)
    power, current, resist = kind == "constant_power", kind == "constant_current", kind == "resistive"

    # An island without a source has no voltage; one without the reference gets a reference of its own.
    joined = np.concatenate([c_from, s_pos]), np.concatenate([c_to, s_neg])
    count, island = connected_components(coo_matrix((np.ones(len(joined[0])), joined), shape=(n, n)), directed=False)
    has_source = np.zeros(count, dtype=bool)
    has_source[island[s_pos]] = True
    fed = has_source[island[l_pos]] & (island[l_pos] == island[l_neg]) if len(value) else np.zeros(0, dtype=bool)
    _, references = np.unique(island, return_index=True)
    references[island[0]] = 0
    is_kept = np.ones(n, dtype=bool)
    is_kept[references] = False
    keep = np.flatnonzero(is_kept)
    row_of = np.full(n, -1, dtype=np.int64)
    row_of[keep] = np.arange(len(keep))

    load_g = np.zeros(len(value))
    load_g[resist & fed] = 1 / value[resist & fed]
    fold_v = FOLD_FRAC * (float(s_v.max()) if len(s_v) else 0.0)
    collapsed = np.zeros(len(value), dtype=bool)
    injected = _scatter(n, s_pos, s_neg, s_v * s_g)
    fixed = _pairs(c_from, c_to, c_g)
    sources = _pairs(s_pos, s_neg, s_g)

    def factor(of_loads: Floats) -> SuperLU:
        loads = _pairs(l_pos, l_neg, of_loads)
        rows, cols, values = (np.concatenate(part) for part in zip(fixed, sources, loads, strict=True))
        return _factor(row_of, len(keep), rows, cols, values)

    def solve(lu: SuperLU, drawn: Floats) -> Floats:
        out = np.zeros(n)
        if len(keep):
            out[keep] = lu.solve((injected - _scatter(n, l_pos, l_neg, drawn))[keep])
        return out

    def drawn_a(load_v: Floats) -> Floats:
        out = np.zeros(len(value))
        out[current & fed] = value[current & fed]
        live = power & fed & ~collapsed
        out[live] = value[live] / np.maximum(load_v[live], 1e-3)
        return out

    lu = factor(load_g)
    node_v = solve(lu, np.zeros(len(value)))
    converged, step, since_mark = False, 0, 0
    while step < _STEPS + 4 * int(power.sum()):
        step += 1
        since_mark += 1
        load_v = node_v[l_pos] - node_v[l_neg]
        live = power & fed & ~collapsed
        if since_mark > _CHORD_STEPS and live.any():
            # Newton: the slope -P/V² moves into the matrix, the rest stays a current.
            slope = np.where(live, -value / np.maximum(load_v, 1e-3) ** 2, 0.0)
            newton = factor(load_g + slope)
            moved = solve(newton, drawn_a(load_v) - slope * load_v)
        else:
            moved = solve(lu, drawn_a(load_v))
        new_v = moved[l_pos] - moved[l_neg]
        below = np.where(live & (new_v < fold_v) | (live & ~np.isfinite(new_v)))[0]
        if len(below) or (since_mark > _STEPS // 2 and live.any()):
            candidates = below if len(below) else np.where(live)[0]
            worst = candidates[np.argmin(np.nan_to_num(new_v[candidates], nan=-np.inf))]
            collapsed[worst] = True
            load_g[worst] = value[worst] / fold_v**2
            lu = factor(load_g)
            node_v = solve(lu, drawn_a(np.full(len(value), float(s_v.max()))))
            since_mark = 0
            continue
        change = float(np.max(np.abs(moved - node_v))) if n else 0.0
        node_v = moved
        if change < TOLERANCE_V:
            converged = True
            break
    load_v = node_v[l_pos] - node_v[l_neg]
    return Solution(
        node_v=node_v,
        conductor_a=(node_v[c_from] - node_v[c_to]) * c_g,
        source_a=(s_v - (node_v[s_pos] - node_v[s_neg])) * s_g,
        load_v=load_v,
        load_a=drawn_a(load_v) + load_g * load_v,
        served=fed & ~collapsed,
        converged=converged,
        steps=step,
    )
