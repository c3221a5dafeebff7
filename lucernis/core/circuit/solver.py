"""Direct-current circuit: nodes, conductors, sources with internal resistance, loads by kind; voltages and currents.

Networks may hold loops and several sources. A load that cannot be served is a result. Nothing here knows a plan.
"""

from __future__ import annotations

import copy
import math
from dataclasses import dataclass, field
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dgetrf, dgetrs
from scipy.sparse import coo_matrix, csc_matrix
from scipy.sparse.csgraph import connected_components
from scipy.sparse.linalg import splu

from lucernis.errors import require_range

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
LoadKind = Literal["constant_power", "constant_current", "resistive"]

STIFF_SOURCE_OHM = 1e-8
LEAST_CONDUCTOR_OHM = 1e-9
TOLERANCE_V = 1e-8
# Below half its no-load voltage a constant-power load has no stable working point: maximum power transfer.
FOLD_FRAC = 0.5
# Up to so many nodes a dense matrix is quicker than a sparse one.
DENSE_NODES = 150
# Below this a device has no voltage.
_LEAST_V = 1e-6
# Where whole rows of loads fall at once, one of so many is let go at a time; of fewer, one after the other.
_AT_ONCE = 8
_CHORD_STEPS = 12
_STEPS = 60


@dataclass(frozen=True, slots=True)
class Converter:
    """Power in, power out: what it draws at load `draws` it gives, less its losses, at load `gives`.

    `draws` is None where it is fed from outside the circuit. It asks for what its greatest output needs, at most
    `power_w` and `in_limit_a`, and switches off below `in_low_v`.
    """

    draws: int | None
    gives: int
    efficiency_frac: float
    out_limit_a: float
    in_limit_a: float = math.inf
    power_w: float = math.inf
    in_low_v: float = 0.0


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
    source_held: list[int] = field(default_factory=list)
    load_pos: list[int] = field(default_factory=list)
    load_neg: list[int] = field(default_factory=list)
    load_kind: list[LoadKind] = field(default_factory=list)
    load_value: list[float] = field(default_factory=list)
    converters: list[Converter] = field(default_factory=list)

    def conductor(self, a: int, b: int, resistance_ohm: float) -> int:
        """Join two nodes by a resistance, >= 0 [Ω]; returns its index."""
        require_range("resistance_ohm", resistance_ohm, least=0)
        self.conductor_from.append(a)
        self.conductor_to.append(b)
        self.conductor_ohm.append(max(resistance_ohm, LEAST_CONDUCTOR_OHM))
        return len(self.conductor_ohm) - 1

    def source(
        self, pos: int, neg: int, emf_v: float, internal_ohm: float = STIFF_SOURCE_OHM, *, held: int = -1
    ) -> int:
        """Add a source of an open-circuit voltage [V] behind a resistance [Ω]; returns its index.

        Sources of one `held` group stand for batteries side by side: their terminals are held at their volts on the
        mean, so that they share a load by their resistances while drop is still counted from those volts.
        """
        require_range("emf_v", emf_v, least=0)
        self.source_pos.append(pos)
        self.source_neg.append(neg)
        self.source_v.append(emf_v)
        self.source_ohm.append(max(require_range("internal_ohm", internal_ohm, least=0), STIFF_SOURCE_OHM))
        self.source_held.append(held)
        return len(self.source_v) - 1

    def load(self, pos: int, neg: int, kind: LoadKind, value: float) -> int:
        """Add a load: its power [W], current [A] or resistance [Ω] by kind; returns its index."""
        require_range("value", value, above=0 if kind == "resistive" else None, least=0)
        self.load_pos.append(pos)
        self.load_neg.append(neg)
        self.load_kind.append(kind)
        self.load_value.append(value)
        return len(self.load_value) - 1

    def converter(self, converter: Converter) -> int:
        """Let one load give what another draws; returns its index."""
        require_range("efficiency_frac", converter.efficiency_frac, above=0, most=1)
        self.converters.append(converter)
        return len(self.converters) - 1


@dataclass(frozen=True, slots=True)
class Solution:
    """Voltages and currents of a circuit.

    Shapes: `node_v` (n_nodes,), `conductor_a` (n_conductors,) from -> to and `conductor_v` along it where it carries,
    `source_a` (n_sources,) out of the positive, `source_emf_v` behind their resistances, `load_v`, `load_a`, `served`
    (n_loads,), `live` (n_nodes,): joined to a source. A load not served has collapsed or hangs on no source.
    """

    node_v: Floats
    conductor_a: Floats
    conductor_v: Floats
    source_a: Floats
    source_emf_v: Floats
    load_v: Floats
    load_a: Floats
    served: NDArray[np.bool_]
    live: NDArray[np.bool_]
    converged: bool
    steps: int


def _ints(values: list[int]) -> Ints:
    return np.array(values, dtype=np.int64)


def _scatter(n: int, pos: Ints, neg: Ints, current: Floats) -> Floats:
    """Currents drawn at the positive and given back at the negative node, shape (n,)."""
    drawn = np.zeros(n)
    drawn += np.bincount(pos, weights=current, minlength=n)
    drawn -= np.bincount(neg, weights=current, minlength=n)
    return drawn


class Factored(Protocol):
    def solve(self, right: Floats, /) -> Floats:
        """Voltages for a vector of currents."""


@dataclass(frozen=True, slots=True)
class _Dense:
    """A small matrix, factored. Sparse book-keeping costs more than it saves here."""

    factors: Floats
    pivots: NDArray[np.int32]

    def solve(self, right: Floats, /) -> Floats:
        """Voltages for a vector of currents."""
        # LAPACK itself: the friendlier wrappers take longer to check their input than it takes to solve.
        found: Floats = dgetrs(self.factors, self.pivots, right)[0]
        return found


class _Nothing:
    """No node but references: there is nothing to solve, and LAPACK takes no empty matrix."""

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
        factors, pivots, _ = dgetrf(flat.reshape(size, size))
        return _Dense(factors, pivots)
    matrix = csc_matrix((values[inside], (row[inside], col[inside])), shape=(size, size))
    return splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})


class Solver:
    """A circuit made ready to be solved, again and again with other conductor resistances.

    What does not depend on them (who is joined to whom, which island has a source) is worked out once.

    Parameters
    ----------
    circuit : Circuit
        The circuit.
    closed : ndarray of bool, shape (n_conductors,), optional
        Conductors that carry; an open switch or a missing leg does not. All of them otherwise.
    swapped : ndarray of bool, shape (n_loads,), optional
        Loads whose terminals a reversing switch has exchanged.
    """

    def __init__(
        self,
        circuit: Circuit,
        closed: NDArray[np.bool_] | None = None,
        swapped: NDArray[np.bool_] | None = None,
    ) -> None:
        n = self._n = circuit.node_count
        self._c_from, self._c_to = _ints(circuit.conductor_from), _ints(circuit.conductor_to)
        self._c_ohm = np.array(circuit.conductor_ohm, dtype=float)
        self._closed = np.ones(len(self._c_ohm), dtype=bool) if closed is None else closed
        s_pos, s_neg = self._s_pos, self._s_neg = _ints(circuit.source_pos), _ints(circuit.source_neg)
        self._s_v, self._s_g = np.array(circuit.source_v, dtype=float), 1 / np.array(circuit.source_ohm, dtype=float)
        held = _ints(circuit.source_held)
        self._held = tuple(np.flatnonzero(held == group) for group in sorted(set(held.tolist()) - {-1}))
        self._l_pos, self._l_neg = _ints(circuit.load_pos), _ints(circuit.load_neg)
        if swapped is not None and swapped.any():
            self._l_pos, self._l_neg = (
                np.where(swapped, self._l_neg, self._l_pos),
                np.where(swapped, self._l_pos, self._l_neg),
            )
        value = self._value = np.array(circuit.load_value, dtype=float)
        kind = np.array(circuit.load_kind, dtype=object)
        power, current, resist = kind == "constant_power", kind == "constant_current", kind == "resistive"

        # An island without a source has no voltage; one without the reference gets a reference of its own.
        here = self._closed
        joined = np.concatenate([self._c_from[here], s_pos]), np.concatenate([self._c_to[here], s_neg])
        graph = coo_matrix((np.ones(len(joined[0])), joined), shape=(n, n))
        count, island = connected_components(graph, directed=False)
        has_source = np.zeros(count, dtype=bool)
        has_source[island[s_pos]] = True
        fed = has_source[island[self._l_pos]] & (island[self._l_pos] == island[self._l_neg])
        self._sourced = has_source[island]
        _, references = np.unique(island, return_index=True)
        references[island[0]] = 0
        is_kept = np.ones(n, dtype=bool)
        is_kept[references] = False
        self._keep = np.flatnonzero(is_kept)
        self._row_of = np.full(n, -1, dtype=np.int64)
        self._row_of[self._keep] = np.arange(len(self._keep))
        self._fed, self._power, self._current = fed, power & fed, current & fed
        self._own_g = np.zeros(len(value))
        self._own_g[resist & fed] = 1 / value[resist & fed]
        self._converters = circuit.converters
        first = np.concatenate([self._c_from, s_pos, self._l_pos])
        second = np.concatenate([self._c_to, s_neg, self._l_neg])
        self._rows = np.concatenate([first, second, first, second])
        self._cols = np.concatenate([first, second, second, first])

    def _factor(self, c_g: Floats, load_g: Floats) -> Factored:
        g = np.concatenate([c_g, self._s_g, load_g])
        return factor_nodes(self._row_of, len(self._keep), self._rows, self._cols, np.concatenate([g, g, -g, -g]))

    def _injected(self, emf_v: Floats) -> Floats:
        return _scatter(self._n, self._s_pos, self._s_neg, emf_v * self._s_g)

    def _voltages(self, factored: Factored, drawn: Floats, injected: Floats) -> Floats:
        out = np.zeros(self._n)
        if len(self._keep):
            out[self._keep] = factored.solve(
                (injected - _scatter(self._n, self._l_pos, self._l_neg, drawn))[self._keep]
            )
        return out

    def _raised(self, emf_v: Floats, node_v: Floats) -> float:
        """Raise the batteries of held groups by what their terminals miss on the mean; the most one missed. [V]"""
        most = 0.0
        for group in self._held:
            missed = float((self._s_v[group] - (node_v[self._s_pos[group]] - node_v[self._s_neg[group]])).mean())
            emf_v[group] += missed
            most = max(most, abs(missed))
        return most

    def _drawn_a(
        self, load_v: Floats, live: NDArray[np.bool_], current: NDArray[np.bool_], turned: tuple[Converter, ...] = ()
    ) -> Floats:
        out = np.where(current, self._value, 0.0)
        out[live] = self._value[live] / np.maximum(load_v[live], 1e-3)
        for one in turned:
            out[one.gives] = 0.0
            if one.draws is not None:
                out[one.draws] = 0.0
        for one in turned:
            # Several inputs may share an output: each adds what the ones before it leave of its limit.
            gives_v, left_a = max(float(load_v[one.gives]), 1e-3), one.out_limit_a + float(out[one.gives])
            if one.draws is None:
                out[one.gives] -= min(left_a, one.power_w / gives_v)
            elif live[one.draws]:
                takes_v = max(float(load_v[one.draws]), 1e-3)
                takes_a = min(gives_v * left_a / one.efficiency_frac, one.power_w) / takes_v
                takes_a = min(takes_a, one.in_limit_a)
                out[one.draws] += takes_a
                out[one.gives] -= one.efficiency_frac * takes_v * takes_a / gives_v
        return out

    def _changed(
        self, source_v: Floats | None, source_ohm: Floats | None, load_value: Floats | None, *, hold: bool
    ) -> Solver:
        other = copy.copy(self)
        if source_v is not None:
            other._s_v = source_v
        if source_ohm is not None:
            other._s_g = 1 / np.maximum(source_ohm, STIFF_SOURCE_OHM)
        if load_value is not None:
            other._value = load_value
        if not hold:
            other._held = ()
        return other

    def _load_v(self, node_v: Floats) -> Floats:
        found: Floats = node_v[self._l_pos] - node_v[self._l_neg]
        return found

    def fold_v(self) -> Floats:
        """See `fold_volts`. [V]"""
        factored = self._factor(np.where(self._closed, 1 / self._c_ohm, 0.0), self._own_g)
        nothing = np.zeros(len(self._value))
        return FOLD_FRAC * np.maximum(self._load_v(self._voltages(factored, nothing, self._injected(self._s_v))), 0.0)

    def solve(
        self,
        conductor_ohm: Floats | None = None,
        on: NDArray[np.bool_] | None = None,
        *,
        give: bool = True,
        source_v: Floats | None = None,
        source_ohm: Floats | None = None,
        load_value: Floats | None = None,
        hold: bool = True,
    ) -> Solution:
        """Voltages and currents; see `solve_circuit`.

        Parameters
        ----------
        conductor_ohm : ndarray, shape (n_conductors,), optional
            Resistances in place of the circuit's own. [Ω]
        on : ndarray of bool, shape (n_loads,), optional
            Loads that are on; all of them otherwise.
        give : bool
            Converters that are on give what they take; otherwise both their sides count as plain loads.
        source_v, source_ohm : ndarray, shape (n_sources,), optional
            Sources in place of the circuit's own. [V], [Ω]
        load_value : ndarray, shape (n_loads,), optional
            Power, current or resistance of the loads in place of the circuit's own; resistances must stay. [W], [A]
        hold : bool
            Batteries of one group are held at their volts on the mean; otherwise each is what it is.

        Returns
        -------
        Solution
            Always.
        """
        ohm = self._c_ohm if conductor_ohm is None else np.maximum(conductor_ohm, LEAST_CONDUCTOR_OHM)
        works = np.ones(len(self._value), dtype=bool) if on is None else on
        c_g, load_g = np.where(self._closed, 1 / ohm, 0.0), np.where(works, self._own_g, 0.0)
        power, current = self._power & works, self._current & works
        collapsed = np.zeros(len(self._value), dtype=bool)
        if source_v is not None or source_ohm is not None or load_value is not None or not (hold or not self._held):
            other = self._changed(source_v, source_ohm, load_value, hold=hold)
            return other.solve(conductor_ohm, on, give=give)
        turned = tuple(
            one for one in self._converters if give and works[one.gives] and (one.draws is None or works[one.draws])
        )
        turning = np.zeros(len(self._value), dtype=bool)
        turning[[at for one in turned for at in (one.draws, one.gives) if at is not None]] = True
        low_v = np.zeros(len(self._value))
        for one in turned:
            if one.draws is not None:
                low_v[one.draws] = one.in_low_v
        current &= ~turning
        factored = self._factor(c_g, load_g)
        emf_v = self._s_v.copy()
        injected = self._injected(emf_v)
        node_v = self._voltages(factored, np.zeros(len(self._value)), injected)
        open_v = self._load_v(node_v)
        # A device with its terminals exchanged, or with no volts at all, draws nothing: it would have to give power.
        dead = (power | current) & (open_v <= _LEAST_V)
        collapsed |= dead
        # Below half of what arrives with nothing drawn a constant-power load has no stable working point.
        fold_v = FOLD_FRAC * np.maximum(open_v, 0.0)
        least_v = np.maximum(fold_v, low_v)
        converged, step, since_mark = False, 0, 0
        while step < _STEPS + 4 * int((power | current).sum()):
            step += 1
            since_mark += 1
            load_v = self._load_v(node_v)
            live = power & ~collapsed
            drawn = self._drawn_a(load_v, live, current & ~collapsed, turned)
            if since_mark > _CHORD_STEPS and live.any():
                # Newton: the slope -P/V² moves into the matrix, the rest stays a current.
                slope = np.where(live & ~turning, -self._value / np.maximum(load_v, 1e-3) ** 2, 0.0)
                moved = self._voltages(self._factor(c_g, load_g + slope), drawn - slope * load_v, injected)
            else:
                moved = self._voltages(factored, drawn, injected)
            new_v = self._load_v(moved)
            below = np.flatnonzero(live & ~(new_v >= least_v))
            if not len(below):
                # A plain current is taken off what falls below nothing, so that no device ever gives power.
                below = np.flatnonzero(current & ~collapsed & (new_v <= _LEAST_V))
            if len(below) or (since_mark > _STEPS // 2 and live.any()):
                candidates = below if len(below) else np.flatnonzero(live)
                order = np.argsort(np.nan_to_num(new_v[candidates], nan=-np.inf), kind="stable")
                worst = candidates[order[: max(1, len(candidates) // _AT_ONCE)]]
                collapsed[worst] = True
                shown = worst[self._power[worst] & ~turning[worst] & (fold_v[worst] > 0)]
                if len(shown):
                    load_g[shown] = self._value[shown] / fold_v[shown] ** 2
                    factored = self._factor(c_g, load_g)
                emf_v = self._s_v.copy()
                injected = self._injected(emf_v)
                drawn = self._drawn_a(open_v, power & ~collapsed, current & ~collapsed, turned)
                node_v = self._voltages(factored, drawn, injected)
                since_mark = 0
                continue
            change = float(np.abs(moved - node_v).max()) if self._n else 0.0
            node_v = moved
            if self._held:
                change = max(change, self._raised(emf_v, node_v))
                injected = self._injected(emf_v)
            if change < TOLERANCE_V:
                converged = True
                break
        load_v = self._load_v(node_v)
        along_v = np.where(self._closed, node_v[self._c_from] - node_v[self._c_to], 0.0)
        return Solution(
            node_v=node_v,
            conductor_a=along_v * c_g,
            conductor_v=along_v,
            source_a=(emf_v - (node_v[self._s_pos] - node_v[self._s_neg])) * self._s_g,
            source_emf_v=emf_v,
            load_v=load_v,
            load_a=self._drawn_a(load_v, power & ~collapsed, current & ~collapsed, turned) + load_g * load_v,
            served=self._fed & ~collapsed,
            live=self._sourced,
            converged=converged,
            steps=step,
        )


def fold_volts(circuit: Circuit) -> Floats:
    """Voltage under which each load counts as collapsed, shape (n_loads,): half of what arrives with nothing drawn but
    by resistances. [V]"""
    return Solver(circuit).fold_v()


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
        would show at half its no-load voltage, so that the rest of the circuit still has an answer.

    Notes
    -----
    Nodal analysis. The conductance matrix is factored once; constant-power currents are iterated against that one
    factorization (a chord method), which falls monotonically from the no-load voltages to the upper, stable working
    point. Only a circuit near collapse needs Newton steps with a matrix of its own.

    References
    ----------
    .. [1] C.-W. Ho, A. Ruehli, P. Brennan, "The modified nodal approach to network analysis", 1975 (memory).
    """
    return Solver(circuit).solve()
