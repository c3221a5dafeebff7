"""What readings become when one thing is wrong: every cause in every size at once, from one inverse."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats, Ints
from lucernis.core.itself import Itself
from lucernis.core.prove.causes import Change
from lucernis.core.prove.expect import FLOATING_OHM, METER_OHM, rows_of
from lucernis.core.prove.frame import Frame, Reading, spread
from lucernis.core.prove.living import OFF_OHM, OPEN_OHM, Living
from lucernis.plan.model import Battery


@dataclass(frozen=True, slots=True)
class Ports:
    """Two places each change works at, shapes (n_changes, 2): nodes, the column of `Living.port_ohm` (-1: none), added
    conductance [S], added current [A]; and the conductor and piece it changes, -1 where none, with the piece's added
    resistance [Ω], shape (n_changes,)."""

    pos: Ints
    neg: Ints
    column: Ints
    dg: Floats
    dj: Floats
    conductor: Ints
    piece: Ints
    piece_ohm: Floats


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


def _inputs(frame: Frame) -> dict[int, list[int]]:
    """What a charger draws at, by the consumer it gives at."""
    found: dict[int, list[int]] = {}
    for one in frame.sized.wiring.circuit.converters:
        if one.draws is not None:
            found.setdefault(one.gives, []).append(one.draws)
    return found


@lru_cache(maxsize=4)
def _contacts(this: Itself[Frame]) -> dict[int, list[int]]:
    frame = this.thing
    topology, contact_at = frame.sized.topology, frame.sized.wiring.contact_at
    found: dict[int, list[int]] = {}
    for index, run in enumerate(frame.plan.runs):
        held = [name.partition(":")[0] for name in topology.behind.get(run.id, ()) if name.endswith(":coil")]
        opens = [at for part in held for at in contact_at.get((part, "main"), ())]
        for conductor in (2 * index, 2 * index + 1):
            # What hangs behind the contact itself is no way to its coil.
            if opens and conductor in frame.on_leg:
                found[conductor] = opens
    return found


def coil_contacts(frame: Frame) -> dict[int, list[int]]:
    """Contacts that let go when a conductor parts, as conductors by that conductor: it is the way to their coil."""
    return _contacts(Itself(frame))


def ports_of(living: Living, changes: Sequence[Change]) -> Ports:
    """Where and how changes work in a situation."""
    frame, circuit = living.frame, living.frame.sized.wiring.circuit
    count = len(changes)
    pos, neg = np.zeros((count, 2), dtype=np.int64), np.zeros((count, 2), dtype=np.int64)
    dg, dj = np.zeros((count, 2)), np.zeros((count, 2))
    column = np.full((count, 2), -1, dtype=np.int64)
    conductor, piece = np.full(count, -1, dtype=np.int64), np.full(count, -1, dtype=np.int64)
    piece_ohm = np.zeros(count)
    dead, on = living.situation.dead, living.situation.on
    consumers, sources = frame.sized.wiring.consumers, frame.sized.wiring.sources
    parts, draws_for = frame.sized.topology.parts, _inputs(frame)
    c_from, c_to = circuit.conductor_from, circuit.conductor_to
    conductor_ohm, closed = living.conductor_ohm.tolist(), living.closed.tolist()
    element_ohm, of = living.element_ohm.tolist(), frame.of.tolist()
    running = living.situation.state.engine_on
    follows = coil_contacts(frame)

    for k, one in enumerate(changes):
        if one.element >= 0:
            c = of[one.element]
            if closed[c] > 0:
                ohm = conductor_ohm[c]
                more = OPEN_OHM if one.open else one.series_ohm + (one.times - 1) * element_ohm[one.element]
                pos[k, 0], neg[k, 0], dg[k, 0] = c_from[c], c_to[c], 1 / (ohm + more) - 1 / ohm
                conductor[k], piece[k], piece_ohm[k], column[k, 0] = c, one.element, more, c
                for at in follows.get(c, ())[:1] if one.open else ():
                    # What holds a coil is gone, and its contact lets go.
                    if closed[at] > 0 and at != c:
                        pos[k, 1], neg[k, 1], column[k, 1] = c_from[at], c_to[at], at
                        dg[k, 1] = 1 / OPEN_OHM - 1 / conductor_ohm[at]
        elif one.closes >= 0:
            c = one.closes
            if closed[c] <= 0:
                pos[k, 0], neg[k, 0] = c_from[c], c_to[c]
                dg[k, 0], column[k, 0] = 1 / max(one.series_ohm, 1e-5) - 1 / conductor_ohm[c], c
        elif one.source >= 0 and one.when == "engine":
            if running and not dead:
                s = one.source
                ohm, volts = float(living.sources.ohm[s]), float(living.sources.volts[s])
                # Held low it is as stiff as it was; without its alternator the battery is itself.
                own_v, own_ohm = (one.source_v, ohm) if one.source_v else (frame.rest_v[s], frame.inside_ohm[s])
                pos[k, 0], neg[k, 0] = circuit.source_pos[s], circuit.source_neg[s]
                dg[k, 0], dj[k, 0] = 1 / own_ohm - 1 / ohm, own_v / own_ohm - volts / ohm
        elif one.source >= 0 and not dead:
            s, part = one.source, parts[sources[one.source]]
            if not (running and isinstance(part, Battery) and part.use == "starter"):
                ohm, volts = float(living.sources.ohm[s]), float(living.sources.volts[s])
                g = 1 / (ohm * one.inside)
                pos[k, 0], neg[k, 0] = circuit.source_pos[s], circuit.source_neg[s]
                dg[k, 0], dj[k, 0] = g - 1 / ohm, (volts + one.source_v) * g - volts / ohm
        elif one.load >= 0 and not dead:
            at = one.load
            pos[k, 0], neg[k, 0] = circuit.load_pos[at], circuit.load_neg[at]
            column[k, 0] = frame.conductors + at
            if one.drain_a > 0:
                if consumers[at] not in on:
                    dg[k, 0] = one.drain_a / frame.plan.nominal_v
            elif living.given_a[at] > 0:
                dj[k, 0] = (one.draw - 1) * float(living.given_a[at])
                for draw in draws_for.get(at, [])[:1]:
                    pos[k, 1], neg[k, 1] = circuit.load_pos[draw], circuit.load_neg[draw]
                    dg[k, 1] = (one.draw - 1) * float(living.load_g[draw])
            elif consumers[at] in on:
                dg[k, 0] = max((one.draw - 1) * float(living.load_g[at]), 1 / OFF_OHM - float(living.load_g[at]))
        if one.bridge[0] >= 0 and (one.when == "always" or (one.when == "dead") == dead):
            place = 1 if one.element >= 0 else 0
            pos[k, place], neg[k, place], dg[k, place] = one.bridge[0], one.bridge[1], 1 / one.bridge_ohm
    return Ports(pos, neg, column, dg, dj, conductor, piece, piece_ohm)


def _between(living: Living, column: Ints, p: Ints, n: Ints, a: Ints, b: Ints) -> Floats:
    """Volts from nodes a to b for an ampere put in from node n to p: by the port's own column where it has one. [Ω]"""
    z, ports = living.inverse_ohm, living.port_ohm
    known = np.maximum(column, 0)
    found: Floats = np.where(column >= 0, ports[a, known] - ports[b, known], z[a, p] - z[a, n] - z[b, p] + z[b, n])
    return found


def _with_power(living: Living, ports: Ports) -> Ports:
    """Second ports for the electronics a change starves: what draws constant power takes more at less volts.

    Of those that are on the one that loses most is taken: ``V = (U + √(U² − 4 P R)) / 2`` with U and R as seen from it
    under the change, and what the solver takes where there is no such V.
    """
    circuit = living.frame.sized.wiring.circuit
    steady = np.flatnonzero(
        np.array([kind == "constant_power" for kind in circuit.load_kind], dtype=bool) & (living.load_g > 2 / OFF_OHM)
    )
    free = (ports.dg[:, 1] == 0) & (ports.dj[:, 1] == 0) & ((ports.dg[:, 0] != 0) | (ports.dj[:, 0] != 0))
    if not len(steady) or not free.any():
        return ports
    z, volts = living.inverse_ohm, living.node_v
    pos, neg = np.array(circuit.load_pos, dtype=np.int64)[steady], np.array(circuit.load_neg, dtype=np.int64)[steady]
    p, n = ports.pos[:, 0], ports.neg[:, 0]
    mutual = z[p][:, pos] - z[p][:, neg] - z[n][:, pos] + z[n][:, neg]
    which = np.argmax(np.abs(mutual) * living.load_a[steady], axis=1)
    l_pos, l_neg, g = pos[which], neg[which], living.load_g[steady][which]
    m01 = mutual[np.arange(len(which)), which]
    m00 = _between(living, ports.column[:, 0], p, n, p, n)
    l_column = living.frame.conductors + steady[which]
    m11 = _between(living, l_column, l_pos, l_neg, l_pos, l_neg)
    d0, j0 = ports.dg[:, 0], ports.dj[:, 0]
    # With the change alone, then with the load taken away as well.
    y = d0 / (1 + d0 * m00)
    at0 = volts[p] - volts[n] + m00 * j0
    here = volts[l_pos] - volts[l_neg] + m01 * j0 - m01 * y * at0
    own = m11 - m01**2 * y
    off = np.maximum(1 - g * own, 1e-12)
    bare_v, ohm = here / off, own / off
    watts = g * (volts[l_pos] - volts[l_neg]) ** 2
    root = bare_v**2 - 4 * watts * ohm
    at_v = np.where(root > 0, (bare_v + np.sqrt(np.maximum(root, 0.0))) / 2, bare_v / 2)
    own_load = (l_pos == p) & (l_neg == n)
    # A device that itself draws so many times its power sags by as much more.
    alone = np.maximum(1 - g * m11, 1e-12)
    own_v, own_ohm = (volts[l_pos] - volts[l_neg]) / alone, m11 / alone
    own_w = np.maximum(1 + d0 / g, 0.0) * watts
    own_root = own_v**2 - 4 * own_w * own_ohm
    own_at = np.where(own_root > 0, (own_v + np.sqrt(np.maximum(own_root, 0.0))) / 2, own_v / 2)
    takes = free & ~own_load & (bare_v > 1e-3) & (d0 < 1e6)
    dg, at_pos, at_neg, column = ports.dg.copy(), ports.pos.copy(), ports.neg.copy(), ports.column.copy()
    dg[takes, 1] = watts[takes] / at_v[takes] ** 2 - g[takes]
    more = free & own_load & (d0 > 0)
    dg[more, 0] = own_w[more] / np.maximum(own_at[more], 1e-3) ** 2 - g[more]
    at_pos[takes, 1], at_neg[takes, 1], column[takes, 1] = l_pos[takes], l_neg[takes], l_column[takes]
    return replace(ports, pos=at_pos, neg=at_neg, column=column, dg=dg)


class _Moved:
    """The circuit under every change, by Woodbury's identity with two ports a change."""

    def __init__(self, living: Living, ports: Ports) -> None:
        self.living, self.ports = living, ports
        p, n = ports.pos, ports.neg

        def reach(i: int, j: int) -> Floats:
            return _between(living, ports.column[:, j], p[:, j], n[:, j], p[:, i], n[:, i])

        self.m = (reach(0, 0), reach(0, 1), reach(1, 1))
        d0, d1 = ports.dg[:, 0], ports.dg[:, 1]
        # (1 + D M), two by two, and its inverse times D.
        a00, a01, a10, a11 = 1 + d0 * self.m[0], d0 * self.m[1], d1 * self.m[1], 1 + d1 * self.m[2]
        det = a00 * a11 - a01 * a10
        self.k = (a11 * d0 / det, -a01 * d1 / det, -a10 * d0 / det, a00 * d1 / det)

    def into(self, volts: Floats, *, pushed: bool) -> tuple[Floats, Floats]:
        """Amps put in at both ports so that the change is made, for node volts without it."""
        p, n, dj = self.ports.pos, self.ports.neg, self.ports.dj
        at0, at1 = volts[p[:, 0]] - volts[n[:, 0]], volts[p[:, 1]] - volts[n[:, 1]]
        j0, j1 = (dj[:, 0], dj[:, 1]) if pushed else (np.zeros(len(p)), np.zeros(len(p)))
        at0, at1 = at0 + self.m[0] * j0 + self.m[1] * j1, at1 + self.m[1] * j0 + self.m[2] * j1
        k00, k01, k10, k11 = self.k
        return j0 - (k00 * at0 + k01 * at1), j1 - (k10 * at0 + k11 * at1)

    def columns(self, nodes: Ints) -> tuple[Floats, Floats]:
        """How far an ampere at each port lifts some nodes, shape (n_nodes, n_changes)."""
        p, n, column = self.ports.pos, self.ports.neg, self.ports.column
        some, own = self.living.inverse_ohm[nodes], self.living.port_ohm[nodes]
        first, second = (
            np.where(column[:, k] >= 0, own[:, np.maximum(column[:, k], 0)], some[:, p[:, k]] - some[:, n[:, k]])
            for k in (0, 1)
        )
        return first, second

    def seen(self, behind: Floats, far0: Floats, far1: Floats, mine: Ints | slice = slice(None)) -> Floats:
        """Resistance seen somewhere under the changes, from what is seen without and how it reaches the ports."""
        k00, k01, k10, k11 = (one[mine] for one in self.k)
        found: Floats = behind - far0 * (k00 * far0 + k01 * far1) - far1 * (k10 * far0 + k11 * far1)
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
    ``V' = V + Z A (ΔJ − y)`` with ``y = (1 + ΔG AᵀZA)⁻¹ ΔG Aᵀ(V + Z A ΔJ)``: two ports a change, consumers taken as the
    conductances they show. (Woodbury's identity.)
    """
    frame, circuit = living.frame, living.frame.sized.wiring.circuit
    ports, rows = _with_power(living, ports_of(living, changes)), rows_of(frame, readings)
    moved = _Moved(living, ports)
    z, of, ohm = living.inverse_ohm, frame.of, living.element_ohm
    used = np.unique(np.concatenate([of[rows.piece.any(axis=0)], rows.amps[rows.amps >= 0]]))
    c_from, c_to = np.array(circuit.conductor_from, dtype=np.int64), np.array(circuit.conductor_to, dtype=np.int64)
    nodes = np.unique(np.concatenate([np.flatnonzero(rows.node.any(axis=0)), c_from[used], c_to[used]]))
    where = np.full(len(living.node_v), -1)
    where[nodes] = np.arange(len(nodes))
    col0, col1 = moved.columns(nodes)
    # Per conductor that is read along: what of its volts each reading takes, under each change.
    takes: list[tuple[int, int, Floats]] = []
    for c in used.tolist():
        mine = ports.conductor == c
        whole = np.where(mine, living.conductor_ohm[c] + ports.piece_ohm, living.conductor_ohm[c])
        on_it = of == c
        taken = rows.piece[:, on_it] @ ohm[on_it]
        extra = np.where(mine, ports.piece_ohm, 0.0) * rows.piece[:, np.maximum(ports.piece, 0)]
        clamp = (rows.amps == c).astype(float)
        takes.append((where[c_from[c]], where[c_to[c]], (taken[:, None] + extra + clamp[:, None]) / whole))

    def read(volts: Floats, *, pushed: bool) -> Floats:
        """What is read, shape (n_readings, n_changes), for node volts without the changes."""
        into0, into1 = moved.into(volts, pushed=pushed)
        at = volts[nodes][:, None] + col0 * into0 + col1 * into1
        found: Floats = rows.node[:, nodes] @ at
        for one, other, share in takes:
            found += share * (at[one] - at[other])
        return found

    value = read(living.node_v, pushed=True)
    behind = np.einsum("ij,ij->i", rows.node @ z, rows.node)
    far0, far1 = rows.node[:, nodes] @ col0, rows.node[:, nodes] @ col1
    now = np.maximum(moved.seen(behind[:, None], far0, far1), 0.0)
    for c in used.tolist():
        # Across a piece that is open one sees around it, through all the rest.
        mine_at = np.flatnonzero(ports.conductor == c)
        at_piece = rows.piece[:, ports.piece[mine_at]] != 0
        if len(mine_at) and at_piece.any():
            a, b = where[c_from[c]], where[c_to[c]]
            near0, near1 = (col0[a] - col0[b])[mine_at], (col1[a] - col1[b])[mine_at]
            alone = float(living.port_ohm[c_from[c], c] - living.port_ohm[c_to[c], c])
            seen = moved.seen(np.full(len(mine_at), alone), near0, near1, mine_at)
            now[:, mine_at] = np.maximum(now[:, mine_at], np.where(at_piece, seen, 0.0))
    ohms = np.array([one.quantity == "ohms" for one in readings], dtype=bool)
    probes = np.array([one.quantity == "volts" for one in readings], dtype=bool)
    value[ohms] = now[ohms]
    value[probes] *= METER_OHM / (METER_OHM + now[probes])
    slope, unknowns = np.zeros((len(changes), len(readings), 0)), tuple[int, ...]()
    if slopes and not living.situation.dead:
        slope, unknowns = _slopes(living, moved, read)
        slope[:, ohms] = 0.0
    # A clamp is put on either way round.
    turned = np.where((rows.amps >= 0)[:, None] & (value < 0), -1.0, 1.0)
    value *= turned
    if unknowns:
        slope *= turned.T[:, :, None]
    for k, one in enumerate(changes):
        if one.crossed:
            swapped = [j for j, reading in enumerate(readings) if reading.part == one.crossed and probes[j]]
            value[swapped, k] *= -1
    return Effect(value.T, (probes[:, None] & (now > FLOATING_OHM)).T, slope, unknowns)


def _slopes(living: Living, moved: _Moved, read: Callable[..., Floats]) -> tuple[Floats, tuple[int, ...]]:
    """How sources and consumers move the readings under every change, shape (n_changes, n_readings, n_unknowns), and
    which they are."""
    circuit, z = living.frame.sized.wiring.circuit, living.inverse_ohm
    into0, into1 = moved.into(living.node_v, pushed=True)

    def port_v(pos: int, neg: int) -> Floats:
        col0, col1 = moved.columns(np.array([pos, neg]))
        found: Floats = (
            living.node_v[pos] - living.node_v[neg] + (col0[0] - col0[1]) * into0 + (col1[0] - col1[1]) * into1
        )
        return found

    count, loads = len(circuit.source_pos), len(circuit.load_pos)
    columns: list[Floats] = []
    inside: list[Floats] = []
    for s in range(count):
        pos, neg = circuit.source_pos[s], circuit.source_neg[s]
        lift = read(z[:, pos] - z[:, neg], pushed=False)
        ohm = float(living.sources.ohm[s])
        amps = (float(living.sources.volts[s]) - port_v(pos, neg)) / ohm
        columns.append(lift / ohm * living.sources.spread_v[s])
        inside.append(-lift * amps * living.sources.spread_ln[s])
    columns += inside
    which = list(range(2 * count))
    for k in range(loads):
        given, g = float(living.given_a[k]), float(living.load_g[k])
        if given == 0 and g <= 2 / OFF_OHM:
            continue
        which.append(2 * count + k)
        pos, neg = circuit.load_pos[k], circuit.load_neg[k]
        pull = read(z[:, pos] - z[:, neg], pushed=False)
        if given > 0:
            columns.append(pull * given * spread("give"))
        else:
            columns.append(-pull * g * port_v(pos, neg) * spread("draw"))
    if living.frame.bank_spread_v > 0:
        which.append(2 * count + loads)
        lifts = [
            read(z[:, circuit.source_pos[s]] - z[:, circuit.source_neg[s]], pushed=False) / float(living.sources.ohm[s])
            for s in np.flatnonzero(living.frame.bank).tolist()
        ]
        columns.append(np.sum(lifts, axis=0) * living.frame.bank_spread_v)
    found: Floats = np.moveaxis(np.stack(columns, axis=-1), 0, 1)
    return found, tuple(which)
