"""Direct-current circuit: nodes, conductors, sources with internal resistance, loads by kind; voltages and currents.

Networks may hold loops and several sources. A load that cannot be served is a result. Nothing here knows a plan.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Answer, Floats, Ints, Ports, factor_nodes
from lucernis.core.circuit.islands import islands
from lucernis.errors import require_range

LoadKind = Literal["constant_power", "constant_current", "resistive"]

STIFF_SOURCE_OHM = 1e-8
LEAST_CONDUCTOR_OHM = 1e-9
TOLERANCE_V = 1e-8
# Below half its no-load voltage a constant-power load has no stable working point: maximum power transfer.
FOLD_FRAC = 0.5
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
        count, island = islands(
            n, np.concatenate([self._c_from[here], s_pos]), np.concatenate([self._c_to[here], s_neg])
        )
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
        self._ports = Ports(
            self._row_of,
            len(self._keep),
            np.concatenate([self._l_pos, s_pos]),
            np.concatenate([self._l_neg, s_neg]),
        )
        self._rows = np.concatenate([first, second, first, second])
        self._cols = np.concatenate([first, second, second, first])

    def _answer(self, c_g: Floats, s_g: Floats, load_g: Floats) -> Answer:
        """Volts at loads and sources, in this order, for currents pushed in there."""
        g = np.concatenate([c_g, s_g, load_g])
        factored = factor_nodes(self._row_of, len(self._keep), self._rows, self._cols, np.concatenate([g, g, -g, -g]))
        return self._ports.answer(factored)

    def fold_v(self) -> Floats:
        """See `fold_volts`. [V]"""
        answer = self._answer(np.where(self._closed, 1 / self._c_ohm, 0.0), self._s_g, self._own_g)
        loads = len(self._value)
        pushed = np.concatenate([np.zeros(loads), self._s_v * self._s_g])
        return FOLD_FRAC * np.maximum(answer.at_ports(pushed)[:loads], 0.0)

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
        s_g = self._s_g if source_ohm is None else 1 / np.maximum(source_ohm, STIFF_SOURCE_OHM)
        held_v = self._s_v if source_v is None else source_v
        value, held = self._value if load_value is None else load_value, self._held if hold else ()
        c_g, load_g = np.where(self._closed, 1 / ohm, 0.0), np.where(works, self._own_g, 0.0)
        turned = tuple(
            one for one in self._converters if give and works[one.gives] and (one.draws is None or works[one.draws])
        )
        draws = _Draws(value, self._power & works, self._current & works, turned)
        answer = self._answer(c_g, s_g, load_g)
        emf_v, loads = held_v.copy(), len(value)
        pushed = np.concatenate([np.zeros(loads), emf_v * s_g])
        port_v = answer.at_ports(pushed)
        open_v = port_v[:loads]
        # A device with its terminals exchanged, or with no volts at all, draws nothing: it would have to give power.
        draws.let_go((draws.power | draws.current) & (open_v <= _LEAST_V))
        # Below half of what arrives with nothing drawn a constant-power load has no stable working point.
        fold_v = FOLD_FRAC * np.maximum(open_v, 0.0)
        least_v = np.maximum(fold_v, draws.low_v)
        # What was asked last, of which circuit: the volts at its nodes are only looked up in the end.
        asked, asked_of = pushed, answer
        converged, step, since_mark = False, 0, 0
        most = _STEPS + 4 * int((draws.power | draws.current).sum())
        while step < most:
            step += 1
            since_mark += 1
            load_v = port_v[:loads]
            drawn = draws.at(load_v)
            if since_mark > _CHORD_STEPS and len(draws.live):
                # Newton: the slope -P/V² moves into the matrix, the rest stays a current.
                slope = np.zeros(loads)
                steep = draws.live[~draws.turning[draws.live]]
                slope[steep] = -value[steep] / np.maximum(load_v[steep], 1e-3) ** 2
                drawn = drawn - slope * load_v
                asked_of = self._answer(c_g, s_g, load_g + slope)
            else:
                asked_of = answer
            asked = np.concatenate([-drawn, emf_v * s_g])
            moved_v = asked_of.at_ports(asked)
            fallen = draws.fallen(moved_v, least_v)
            if len(fallen) or (since_mark > _STEPS // 2 and len(draws.live)):
                candidates = fallen if len(fallen) else draws.live
                order = np.argsort(np.nan_to_num(moved_v[candidates], nan=-np.inf), kind="stable")
                worst = candidates[order[: max(1, len(candidates) // _AT_ONCE)]]
                shown = worst[self._power[worst] & ~draws.turning[worst] & (fold_v[worst] > 0)]
                draws.let_go(worst)
                if len(shown):
                    load_g[shown] = value[shown] / fold_v[shown] ** 2
                    answer = self._answer(c_g, s_g, load_g)
                emf_v = held_v.copy()
                asked, asked_of = np.concatenate([-draws.at(open_v), emf_v * s_g]), answer
                port_v = answer.at_ports(asked)
                since_mark = 0
                continue
            change = float(np.abs(moved_v - port_v).max()) if len(port_v) else 0.0
            port_v = moved_v
            if held:
                change = max(change, _raise(emf_v, held_v - port_v[loads:], held))
            if change < TOLERANCE_V:
                converged = True
                break
        node_v = np.zeros(self._n)
        node_v[self._keep] = asked_of.at_nodes(asked)
        load_v, source_v = node_v[self._l_pos] - node_v[self._l_neg], node_v[self._s_pos] - node_v[self._s_neg]
        along_v = np.where(self._closed, node_v[self._c_from] - node_v[self._c_to], 0.0)
        return Solution(
            node_v=node_v,
            conductor_a=along_v * c_g,
            conductor_v=along_v,
            source_a=(emf_v - source_v) * s_g,
            source_emf_v=emf_v,
            load_v=load_v,
            load_a=draws.at(load_v) + load_g * load_v,
            served=self._fed & ~draws.gone,
            live=self._sourced,
            converged=converged,
            steps=step,
        )


def _raise(emf_v: Floats, missed_v: Floats, held: tuple[Ints, ...]) -> float:
    """Raise the batteries of held groups by what their terminals miss on the mean; the most one missed. [V]"""
    most = 0.0
    for group in held:
        missed = float(missed_v[group].sum()) / len(group)
        emf_v[group] += missed
        most = max(most, abs(missed))
    return most


class _Draws:
    """What loads draw at their volts while fewer and fewer of them are left, one solve long."""

    def __init__(
        self, value: Floats, power: NDArray[np.bool_], current: NDArray[np.bool_], turned: tuple[Converter, ...]
    ) -> None:
        self.value, self.turned, self.power = value, turned, power
        self.gone = np.zeros(len(value), dtype=bool)
        self.turning = np.zeros(len(value), dtype=bool)
        self.low_v = np.zeros(len(value))
        for one in turned:
            self.turning[one.gives] = True
            if one.draws is not None:
                self.turning[one.draws] = True
                self.low_v[one.draws] = one.in_low_v
        self.current = current & ~self.turning
        self._settle()

    def _settle(self) -> None:
        self.live = np.flatnonzero(self.power & ~self.gone)
        self._steady = np.flatnonzero(self.current & ~self.gone)
        self._base = np.zeros(len(self.value))
        self._base[self._steady] = self.value[self._steady]
        self._power_w = self.value[self.live]

    def let_go(self, which: NDArray[np.bool_] | Ints) -> None:
        """These have collapsed."""
        self.gone[which] = True
        self._settle()

    def fallen(self, load_v: Floats, least_v: Floats) -> Ints:
        """Loads below what they need; where none is, plain currents below nothing, so that no device gives power."""
        live = self.live
        # Asked so that what is no number has fallen too.
        stands = load_v[live] >= least_v[live]
        if not stands.all():
            return live[~stands]
        steady = self._steady
        return steady[load_v[steady] <= _LEAST_V] if len(steady) else steady

    def at(self, load_v: Floats) -> Floats:
        """Currents at these volts, less than 0 where something gives, shape (n_loads,). [A]"""
        out = self._base.copy()
        out[self.live] = self._power_w / np.maximum(load_v[self.live], 1e-3)
        for one in self.turned:
            out[one.gives] = 0.0
            if one.draws is not None:
                out[one.draws] = 0.0
        for one in self.turned:
            # Several inputs may share an output: each adds what the ones before it leave of its limit.
            gives_v, left_a = max(float(load_v[one.gives]), 1e-3), one.out_limit_a + float(out[one.gives])
            if one.draws is None:
                out[one.gives] -= min(left_a, one.power_w / gives_v)
            elif not self.gone[one.draws] and self.power[one.draws]:
                takes_v = max(float(load_v[one.draws]), 1e-3)
                takes_a = min(gives_v * left_a / one.efficiency_frac, one.power_w) / takes_v
                takes_a = min(takes_a, one.in_limit_a)
                out[one.draws] += takes_a
                out[one.gives] -= one.efficiency_frac * takes_v * takes_a / gives_v
        return out


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
