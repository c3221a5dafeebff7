"""What readings become when one thing is wrong: every cause in every size at once, from one inverse."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats, Ints
from lucernis.core.prove.cause import Change
from lucernis.core.prove.expect import FLOATING_OHM, METER_OHM, Rows, rows_of
from lucernis.core.prove.frame import Frame, Reading
from lucernis.core.prove.living import OFF_OHM, Living
from lucernis.core.prove.ports import PLACES, Ports, between, ports_of, with_power


@dataclass(frozen=True, slots=True)
class Effect:
    """Readings under every change, shape (n_changes, n_readings), and where nothing holds the spot any more.

    `slope` (n_changes, n_readings, n_unknowns): for one standard deviation of each unknown in `unknowns`, counted over
    volts of the sources, their insides, what consumers draw, the bank together; empty where it was not asked for.
    """

    value: Floats
    floating: NDArray[np.bool_]
    slope: Floats
    unknowns: tuple[int, ...]


class _Moved:
    """The circuit under every change, by Woodbury's identity with up to four ports a change."""

    def __init__(self, living: Living, ports: Ports) -> None:
        self.living, self.ports = living, ports
        p, n = ports.pos, ports.neg
        active = (ports.dg != 0) | (ports.dj != 0)
        # Places nobody uses need no columns.
        self.used = [np.flatnonzero(active[:, j]) for j in range(PLACES)]
        self.m = np.zeros((len(p), PLACES, PLACES))
        for j in range(PLACES):
            at = self.used[j]
            for i in range(PLACES):
                self.m[at, i, j] = between(living, ports.column[at, j], p[at, j], n[at, j], p[at, i], n[at, i])
        self.m *= active[:, :, None]
        d = ports.dg[:, :, None]
        # (1 + D M), and its inverse times D.
        self.k = np.linalg.solve(np.eye(PLACES) + d * self.m, d * np.eye(PLACES))

    def into(self, volts: Floats, *, pushed: bool) -> Floats:
        """Amps put in at the ports so that the change is made, for node volts without it, shape (n_changes, 4)."""
        at = volts[self.ports.pos] - volts[self.ports.neg]
        j = self.ports.dj if pushed else np.zeros_like(self.ports.dj)
        at = at + np.einsum("kij,kj->ki", self.m, j)
        found: Floats = j - np.einsum("kij,kj->ki", self.k, at)
        return found

    def columns(self, nodes: Ints) -> Floats:
        """How far an ampere at each port lifts some nodes, shape (4, n_nodes, n_changes)."""
        ports = self.ports
        some, own = self.living.inverse_ohm[nodes], self.living.port_ohm[nodes]
        found = np.zeros((PLACES, len(nodes), len(ports.pos)))
        for j, at in enumerate(self.used):
            column, p, n = ports.column[at, j], ports.pos[at, j], ports.neg[at, j]
            found[j][:, at] = np.where(column >= 0, own[:, np.maximum(column, 0)], some[:, p] - some[:, n])
        return found

    def seen(self, behind: Floats, far: Floats, mine: Ints | slice = slice(None)) -> Floats:
        """Resistance seen somewhere under the changes, from what is seen without and how it reaches the ports, `far`
        (4, n_readings, n_changes)."""
        found: Floats = behind - np.einsum("irk,kij,jrk->rk", far, self.k[mine], far, optimize=True)
        return found


def effect(living: Living, readings: Sequence[Reading], changes: Sequence[Change], *, slopes: bool = False) -> Effect:
    """Readings of a situation under changes, each by itself.

    Parameters
    ----------
    living : Living
        The situation, solved sound.
    readings : sequence of Reading
        What is read.
    changes : sequence of Change
        What may be wrong.
    slopes : bool
        Whether it is asked how sources and consumers move the readings then.

    Returns
    -------
    Effect
        In V, A or Ω.

    Notes
    -----
    ``V' = V + Z A (ΔJ − y)`` with ``y = (1 + ΔG AᵀZA)⁻¹ ΔG Aᵀ(V + Z A ΔJ)``: up to four ports a change, consumers taken
    as the conductances they show. (Woodbury's identity.)
    """
    frame, circuit = living.frame, living.frame.sized.wiring.circuit
    ports, rows = with_power(living, ports_of(living, changes)), rows_of(frame, readings)
    moved = _Moved(living, ports)
    z, of, ohm = living.inverse_ohm, frame.of, living.element_ohm
    used = np.unique(np.concatenate([of[rows.piece.any(axis=0)], rows.amps[rows.amps >= 0]]))
    c_from, c_to = np.array(circuit.conductor_from, dtype=np.int64), np.array(circuit.conductor_to, dtype=np.int64)
    nodes = np.unique(np.concatenate([np.flatnonzero(rows.node.any(axis=0)), c_from[used], c_to[used]]))
    where = np.full(len(living.node_v), -1)
    where[nodes] = np.arange(len(nodes))
    column = moved.columns(nodes)
    # Per conductor that is read along: what of its volts each reading takes, under each change.
    takes: list[tuple[int, int, Floats]] = []
    for c in used.tolist():
        own_ohm = np.where(ports.conductor == c, ports.piece_ohm, 0.0)
        whole = living.conductor_ohm[c] + own_ohm.sum(axis=1)
        on_it = of == c
        taken = rows.piece[:, on_it] @ ohm[on_it]
        extra = np.einsum("kj,rkj->rk", own_ohm, rows.piece[:, np.maximum(ports.piece, 0)])
        clamp = (rows.amps == c).astype(float)
        takes.append((where[c_from[c]], where[c_to[c]], (taken[:, None] + extra + clamp[:, None]) / whole))

    def read(volts: Floats, *, pushed: bool) -> Floats:
        """What is read, shape (n_readings, n_changes), for node volts without the changes."""
        into = moved.into(volts, pushed=pushed)
        at = volts[nodes][:, None] + np.einsum("jnk,kj->nk", column, into)
        found: Floats = rows.node[:, nodes] @ at
        for one, other, share in takes:
            found += share * (at[one] - at[other])
        return found

    value = read(living.node_v, pushed=True)
    behind = np.einsum("ij,ij->i", rows.node @ z, rows.node)
    now = np.maximum(moved.seen(behind[:, None], rows.node[:, nodes] @ column), 0.0)
    for c in used.tolist():
        # Across a piece that is open one sees around it, through all the rest.
        mine_at = np.flatnonzero(ports.conductor[:, 0] == c)
        at_piece = rows.piece[:, ports.piece[mine_at, 0]] != 0
        if len(mine_at) and at_piece.any():
            a, b = where[c_from[c]], where[c_to[c]]
            near = (column[:, a] - column[:, b])[:, None, mine_at]
            alone = float(living.port_ohm[c_from[c], c] - living.port_ohm[c_to[c], c])
            seen = moved.seen(np.full((1, len(mine_at)), alone), near, mine_at)
            now[:, mine_at] = np.maximum(now[:, mine_at], np.where(at_piece, seen, 0.0))
    ohms = np.array([one.quantity == "ohms" for one in readings], dtype=bool)
    probes = np.array([one.quantity == "volts" for one in readings], dtype=bool)
    value[ohms] = now[ohms]
    value[probes] *= METER_OHM / (METER_OHM + now[probes])
    slope, unknowns = np.zeros((len(changes), len(readings), 0)), tuple[int, ...]()
    if slopes and not living.situation.dead:
        slope, unknowns = _slopes(living, changes, moved, read)
        slope[:, ohms] = 0.0
    # A clamp is put on either way round.
    turned = np.where((rows.amps >= 0)[:, None] & (value < 0), -1.0, 1.0)
    value *= turned
    if unknowns:
        slope *= turned.T[:, :, None]
    value = _exchanged(living, rows, changes, value)
    for k, one in enumerate(changes):
        if one.crossed:
            swapped = [j for j, reading in enumerate(readings) if reading.part == one.crossed and probes[j]]
            value[swapped, k] *= -1
    return Effect(value.T, (probes[:, None] & (now > FLOATING_OHM)).T, slope, unknowns)


def _slopes(
    living: Living, changes: Sequence[Change], moved: _Moved, read: Callable[..., Floats]
) -> tuple[Floats, tuple[int, ...]]:
    """How sources and consumers move the readings under every change, shape (n_changes, n_readings, n_unknowns), and
    which they are."""
    circuit, z = living.frame.sized.wiring.circuit, living.inverse_ohm
    into = moved.into(living.node_v, pushed=True)

    def port_v(pos: int, neg: int) -> Floats:
        column = moved.columns(np.array([pos, neg]))
        found: Floats = (
            living.node_v[pos] - living.node_v[neg] + np.einsum("jk,kj->k", column[:, 0] - column[:, 1], into)
        )
        return found

    count, loads = len(circuit.source_pos), len(circuit.load_pos)
    columns: list[Floats] = []
    inside: list[Floats] = []
    together: list[Floats] = []
    for s in range(count):
        pos, neg = circuit.source_pos[s], circuit.source_neg[s]
        lift = read(z[:, pos] - z[:, neg], pushed=False)
        ohm, volts = (np.full(len(changes), float(one[s])) for one in (living.sources.ohm, living.sources.volts))
        # A battery that is itself what is wrong spreads as what it has become.
        own = np.array([one.source == s for one in changes], dtype=bool)
        pushed_a = volts[own] / ohm[own] + moved.ports.dj[own, 0]
        ohm[own] = 1 / (1 / ohm[own] + moved.ports.dg[own, 0])
        volts[own] = pushed_a * ohm[own]
        amps = (volts - port_v(pos, neg)) / ohm
        columns.append(lift / ohm * living.sources.spread_v[s])
        inside.append(-lift * amps * living.sources.spread_ln[s])
        if living.frame.bank[s]:
            together.append(lift / ohm)
    columns += inside
    which = list(range(2 * count))
    for k in range(loads):
        if living.given_a[k] == 0 and living.load_g[k] <= 2 / OFF_OHM:
            continue
        # What a change leaves of it, or of the charger it starves, spreads; what is off does not.
        here = moved.ports.column == living.frame.conductors + k
        given = np.maximum(float(living.given_a[k]) + np.where(here, moved.ports.dj, 0.0).sum(axis=1), 0.0)
        g = np.maximum(float(living.load_g[k]) + np.where(here, moved.ports.dg, 0.0).sum(axis=1), 0.0)
        which.append(2 * count + k)
        pos, neg = circuit.load_pos[k], circuit.load_neg[k]
        pull = read(z[:, pos] - z[:, neg], pushed=False)
        if living.given_a[k] > 0:
            columns.append(pull * given * living.frame.give_spread[k])
        else:
            columns.append(-pull * g * port_v(pos, neg) * living.frame.draw_spread[k])
    if living.frame.bank_spread_v > 0:
        which.append(2 * count + loads)
        columns.append(np.sum(together, axis=0) * living.frame.bank_spread_v)
    found: Floats = np.moveaxis(np.stack(columns, axis=-1), 0, 1)
    return found, tuple(which)


def _at_the_block(frame: Frame, conductor: int) -> list[int]:
    """Pieces of a leg from its block to its wire, whichever way the run is drawn: the end there and its fuse."""
    leg = frame.on_leg[conductor]
    if frame.plan.runs[conductor // 2].start.way is None:
        leg = leg[::-1]
    return list(leg[: next((j for j, at in enumerate(leg) if frame.elements[at].sort == "wire"), len(leg))])


def _exchanged(living: Living, rows: Rows, changes: Sequence[Change], value: Floats) -> Floats:
    """Readings along the first pieces of two conductors that changed places: each shows the other's amps.

    What stays at the block when wires change places is the end there and its fuse, up to the wire itself.
    """
    frame, amps = living.frame, living.conductor_a
    passed = rows.piece != 0
    seen: dict[int, tuple[float, Floats, NDArray[np.bool_], Floats, NDArray[np.bool_]]] = {}

    def at_block(c: int) -> tuple[float, Floats, NDArray[np.bool_], Floats, NDArray[np.bool_]]:
        """Of a conductor: ohms of its first pieces; what readings among them alone take of those; and of readings
        across all of them and more the sign."""
        if c not in seen:
            first = _at_the_block(frame, c)
            ohm = living.element_ohm[first]
            inside, whole = passed[:, first].sum(axis=1), passed.sum(axis=1)
            there, across = (inside > 0) & (inside == whole), (inside == len(first)) & (whole > inside)
            seen[c] = float(ohm.sum()), rows.piece[:, first] @ ohm, there, rows.piece[:, first[0]], across
        return seen[c]

    for k, one in ((k, one) for k, one in enumerate(changes) if one.exchanged[0] >= 0):
        for mine, other in (one.exchanged, one.exchanged[::-1]):
            own_ohm, weight, there, sign, across = at_block(mine)
            if there.any():
                value[there, k] += weight[there] * (amps[other] - amps[mine])
            if across.any():
                # From end to end a wire carries its own device's amps, through the other's fuse.
                value[across, k] += sign[across] * (at_block(other)[0] - own_ohm) * amps[mine]
    return value
