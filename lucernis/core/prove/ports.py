"""Where a change works in a solved situation: up to four places, each a conductance or a current between two nodes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from lucernis.core.circuit.answers import Floats, Ints
from lucernis.core.itself import Itself
from lucernis.core.prove.cause import Change, source_moved
from lucernis.core.prove.frame import Frame
from lucernis.core.prove.living import OFF_OHM, OPEN_OHM, Living
from lucernis.plan.model import Battery

# The change itself, what it takes along (a bridge, a contact that lets go, the other leg), the electronics it starves,
# and the output of a charger that is starved.
PLACES = 4
_ITSELF, _ALONG, _STARVED, _OUTPUT = range(PLACES)


@dataclass(frozen=True, slots=True)
class Ports:
    """The places each change works at, shapes (n_changes, 4): nodes, the column of `Living.port_ohm` (-1: none), added
    conductance [S], added current [A]; and the conductors and pieces it changes, -1 where none, with the pieces' added
    resistance [Ω], shape (n_changes, 2)."""

    pos: Ints
    neg: Ints
    column: Ints
    dg: Floats
    dj: Floats
    conductor: Ints
    piece: Ints
    piece_ohm: Floats


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


class _Places:
    """The ports of many changes being put together."""

    def __init__(self, living: Living, count: int) -> None:
        self.living, self.circuit = living, living.frame.sized.wiring.circuit
        self.pos, self.neg = np.zeros((count, PLACES), dtype=np.int64), np.zeros((count, PLACES), dtype=np.int64)
        self.dg, self.dj = np.zeros((count, PLACES)), np.zeros((count, PLACES))
        self.column = np.full((count, PLACES), -1, dtype=np.int64)
        self.conductor, self.piece = (np.full((count, 2), -1, dtype=np.int64) for _ in range(2))
        self.piece_ohm = np.zeros((count, 2))
        self.ohm, self.closed = living.conductor_ohm.tolist(), living.closed.tolist()
        self.element_ohm, self.of = living.element_ohm.tolist(), living.frame.of.tolist()

    def in_row(self, k: int, place: int, element: int, one: Change) -> int:
        """More in a piece; returns its conductor, -1 where that is open anyway."""
        c = self.of[element]
        if self.closed[c] <= 0:
            return -1
        ohm = self.ohm[c]
        more = OPEN_OHM if one.open else one.series_ohm + (one.times - 1) * self.element_ohm[element]
        self.pos[k, place], self.neg[k, place] = self.circuit.conductor_from[c], self.circuit.conductor_to[c]
        self.dg[k, place], self.column[k, place] = 1 / (ohm + more) - 1 / ohm, c
        self.conductor[k, place], self.piece[k, place], self.piece_ohm[k, place] = c, element, more
        return int(c)

    def lets_go(self, k: int, place: int, c: int) -> None:
        """A contact opens."""
        if self.closed[c] > 0:
            self.pos[k, place], self.neg[k, place] = self.circuit.conductor_from[c], self.circuit.conductor_to[c]
            self.dg[k, place], self.column[k, place] = 1 / OPEN_OHM - 1 / self.ohm[c], c

    def closes(self, k: int, c: int, ohm: float) -> None:
        """What is open carries."""
        if self.closed[c] <= 0:
            self.pos[k, 0], self.neg[k, 0] = self.circuit.conductor_from[c], self.circuit.conductor_to[c]
            self.dg[k, 0], self.column[k, 0] = 1 / max(ohm, 1e-5) - 1 / self.ohm[c], c

    def source(self, k: int, one: Change) -> None:
        """A battery or an alternator that is not what it should be."""
        living, frame, s = self.living, self.living.frame, one.source
        running, dead = living.situation.state.engine_on, living.situation.dead
        part = frame.sized.topology.parts[frame.sized.wiring.sources[s]]
        held_up = running and isinstance(part, Battery) and part.use == "starter"
        if dead or (not running if one.when == "engine" else held_up):
            return
        ohm, volts = float(living.sources.ohm[s]), float(living.sources.volts[s])
        moved_v, times = source_moved(frame, living.situation, one)
        own_v, own_ohm = volts + moved_v, ohm * times
        self.pos[k, 0], self.neg[k, 0] = self.circuit.source_pos[s], self.circuit.source_neg[s]
        self.dg[k, 0], self.dj[k, 0] = 1 / own_ohm - 1 / ohm, own_v / own_ohm - volts / ohm

    def consumer(self, k: int, place: int, one: Change, draws_for: dict[int, list[int]]) -> None:
        """A device or charger that draws or gives something else."""
        living, at = self.living, one.load
        name = living.frame.sized.wiring.consumers[at]
        self.pos[k, place], self.neg[k, place] = self.circuit.load_pos[at], self.circuit.load_neg[at]
        self.column[k, place] = living.frame.conductors + at
        if one.drain_a > 0:
            if name not in living.situation.on:
                self.dg[k, place] = one.drain_a / living.frame.plan.nominal_v
        elif living.given_a[at] > 0:
            self.dj[k, place] = (one.draw - 1) * float(living.given_a[at])
            for draw in draws_for.get(at, [])[:1]:
                self.pos[k, 1], self.neg[k, 1] = self.circuit.load_pos[draw], self.circuit.load_neg[draw]
                self.dg[k, 1] = (one.draw - 1) * float(living.load_g[draw])
                self.column[k, 1] = living.frame.conductors + draw
        elif name in living.situation.on:
            g = float(living.load_g[at])
            self.dg[k, place] = max((one.draw - 1) * g, 1 / OFF_OHM - g)


def ports_of(living: Living, changes: Sequence[Change]) -> Ports:
    """Where and how changes work in a situation; what they starve is left to `with_power`."""
    made = _Places(living, len(changes))
    dead, draws_for, follows = living.situation.dead, _inputs(living.frame), coil_contacts(living.frame)
    for k, one in enumerate(changes):
        if one.element >= 0:
            c = made.in_row(k, _ITSELF, one.element, one)
            if one.also >= 0:
                made.in_row(k, _ALONG, one.also, one)
            if c >= 0 and one.open:
                # What holds a coil is gone, and its contact lets go.
                for at in follows.get(c, ())[:1]:
                    if at != c:
                        made.lets_go(k, _ALONG, at)
            if one.load >= 0 and not dead:
                made.consumer(k, _ALONG, one, {})
        elif one.closes >= 0:
            made.closes(k, one.closes, one.series_ohm)
        elif one.source >= 0:
            made.source(k, one)
        elif one.load >= 0 and not dead:
            made.consumer(k, _ITSELF, one, draws_for)
        if one.bridge[0] >= 0 and (one.when == "always" or (one.when == "dead") == dead):
            place = _ALONG if one.element >= 0 else _ITSELF
            made.pos[k, place], made.neg[k, place] = one.bridge
            made.dg[k, place] = 1 / one.bridge_ohm
    return Ports(made.pos, made.neg, made.column, made.dg, made.dj, made.conductor, made.piece, made.piece_ohm)


def between(living: Living, column: Ints, p: Ints, n: Ints, a: Ints, b: Ints) -> Floats:
    """Volts from nodes a to b for an ampere put in from node n to p: by the port's own column where it has one. [Ω]"""
    z, ports = living.inverse_ohm, living.port_ohm
    known = np.maximum(column, 0)
    found: Floats = np.where(column >= 0, ports[a, known] - ports[b, known], z[a, p] - z[a, n] - z[b, p] + z[b, n])
    return found


def with_power(living: Living, ports: Ports) -> Ports:
    """Further places for the electronics a change starves: what draws constant power takes more at less volts.

    Of those that are on the one that loses most is taken: ``V = (U + √(U² − 4 P R)) / 2`` with U and R as seen from it
    under the change, and what the solver takes where there is no such V. A charger does not let its input fall below
    the least it works at: it gives less instead.
    """
    frame, circuit = living.frame, living.frame.sized.wiring.circuit
    steady = np.flatnonzero(
        np.array([kind == "constant_power" for kind in circuit.load_kind], dtype=bool) & (living.load_g > 2 / OFF_OHM)
    )
    free = ((ports.dg[:, :2] != 0) | (ports.dj[:, :2] != 0)).any(axis=1)
    if not len(steady) or not free.any():
        return ports
    z, volts = living.inverse_ohm, living.node_v
    pos, neg = np.array(circuit.load_pos, dtype=np.int64)[steady], np.array(circuit.load_neg, dtype=np.int64)[steady]
    p, n, column = ports.pos[:, :2], ports.neg[:, :2], ports.column[:, :2]
    at_loads = z[:, pos] - z[:, neg]
    felt = at_loads[p] - at_loads[n]
    which = np.argmax(np.abs(felt).sum(axis=1) * living.load_a[steady], axis=1)
    l_pos, l_neg, g = pos[which], neg[which], living.load_g[steady][which]
    far = felt[np.arange(len(which)), :, which]
    m = np.empty((len(which), 2, 2))
    for i in range(2):
        for j in range(2):
            m[:, i, j] = between(living, column[:, j], p[:, j], n[:, j], p[:, i], n[:, i])
    l_column = frame.conductors + steady[which]
    m11 = between(living, l_column, l_pos, l_neg, l_pos, l_neg)
    d, pushed = ports.dg[:, :2], ports.dj[:, :2]
    # With the change alone, then with the load taken away as well.
    y = np.linalg.solve(np.eye(2) + d[:, :, None] * m, d[:, :, None] * np.eye(2))
    at0 = volts[p] - volts[n] + np.einsum("kij,kj->ki", m, pushed)
    here = volts[l_pos] - volts[l_neg] + np.einsum("ki,ki->k", far, pushed - np.einsum("kij,kj->ki", y, at0))
    own = m11 - np.einsum("ki,kij,kj->k", far, y, far)
    off = np.maximum(1 - g * own, 1e-12)
    bare_v, ohm = here / off, own / off
    watts = g * (volts[l_pos] - volts[l_neg]) ** 2
    root = bare_v**2 - 4 * watts * ohm
    at_v = np.where(root > 0, (bare_v + np.sqrt(np.maximum(root, 0.0))) / 2, bare_v / 2)
    own_load = ((l_pos[:, None] == p) & (l_neg[:, None] == n) & (d != 0)).any(axis=1)
    # A device that itself draws so many times its power sags by as much more.
    alone = np.maximum(1 - g * m11, 1e-12)
    own_v, own_ohm = (volts[l_pos] - volts[l_neg]) / alone, m11 / alone
    own_w = np.maximum(1 + d[:, 0] / g, 0.0) * watts
    own_root = own_v**2 - 4 * own_w * own_ohm
    own_at = np.where(own_root > 0, (own_v + np.sqrt(np.maximum(own_root, 0.0))) / 2, own_v / 2)
    felt_at = free & ~own_load & (d[:, 0] < 1e6)
    takes = felt_at & (bare_v > 1e-3)
    now_g = watts / at_v.clip(1e-3) ** 2
    for at, (least_v, gives) in _starvable(living, steady[which]).items():
        mine = felt_at & (steady[which] == at) & ((at_v < least_v) | (root <= 0))
        amps = np.maximum((bare_v - least_v) / np.maximum(ohm, 1e-9), 0.0)
        now_g = np.where(mine, np.maximum(amps / least_v, 1 / OFF_OHM), now_g)
        share = np.clip(amps * least_v / np.maximum(watts, 1e-9), 0.0, 1.0)
        ports.pos[mine, _OUTPUT], ports.neg[mine, _OUTPUT] = circuit.load_pos[gives], circuit.load_neg[gives]
        ports.column[mine, _OUTPUT] = frame.conductors + gives
        ports.dj[mine, _OUTPUT] = ((share - 1) * living.given_a[gives])[mine]
    ports.dg[takes, _STARVED] = (now_g - g)[takes]
    more = free & own_load & (d[:, 0] > 0) & (l_pos == p[:, 0]) & (l_neg == n[:, 0])
    ports.dg[more, _ITSELF] = own_w[more] / np.maximum(own_at[more], 1e-3) ** 2 - g[more]
    ports.pos[takes, _STARVED], ports.neg[takes, _STARVED] = l_pos[takes], l_neg[takes]
    ports.column[takes, _STARVED] = l_column[takes]
    return ports


def _starvable(living: Living, which: Ints) -> dict[int, tuple[float, int]]:
    """Inputs of chargers among some loads: the least they work at, and where they give. [V]

    A controller of panels needs more than the battery it charges.
    """
    some, nominal_v = set(which.tolist()), float(living.frame.plan.nominal_v)
    return {
        one.draws: (one.in_low_v or nominal_v, one.gives)
        for one in living.frame.sized.wiring.circuit.converters
        if one.draws is not None and one.draws in some and living.given_a[one.gives] > 0
    }
