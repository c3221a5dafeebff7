"""The circuit as a meter finds it: batteries at their own volts, chargers at theirs, what is open nearly insulating.

Apart from the solve that sizes are chosen by: there volts are held and wires are hot, here they are what they are.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Factored, Floats, Ints, factor_nodes
from lucernis.core.circuit.solver import Circuit, Solution, Solver
from lucernis.core.circuit.sources import alternator_of, alternator_v
from lucernis.core.circuit.terminals import point
from lucernis.core.itself import Itself
from lucernis.core.prove.chargers import held_up, turned_down
from lucernis.core.prove.frame import Frame, spread
from lucernis.core.prove.situations import Situation, find_situation
from lucernis.plan.model import Battery, Panel

# What is open still leaks: a switch, a device that is off, a point against the battery's negative. Practice.
OPEN_OHM = 1e8
OFF_OHM = 1e7
LEAK_OHM = 1e9
# What is on but gets no volts, between its terminals. Practice.
STARVED_OHM = 100.0
# How stiff an alternator holds its volts within its rating, and a panel out of the sun. Practice.
ALTERNATOR_OHM = 0.005
_DARK_OHM = 1e4
# A relay pulls in from so much of its nominal volts on. Common practice, no source. [1]
PULL_IN_FRAC = 0.6
# So often directions of current and volts of chargers are settled.
_ROUNDS = 8
# Beyond this a wire has failed and is reckoned no further.
_MOST_RISE_K = 80.0


@dataclass(frozen=True, slots=True)
class Sources:
    """Volts [V], resistances [Ω], and how far they may be off in a situation, shape (n_sources,)."""

    volts: Floats
    ohm: Floats
    spread_v: Floats
    spread_ln: Floats


class Conductances:
    """The conductances of a situation, factored once and asked for what is needed: node 0 is at 0 V."""

    def __init__(self, circuit: Circuit, factored: Factored) -> None:
        self._circuit, self._factored = circuit, factored

    def solve(self, into: Floats) -> Floats:
        """Volts of the nodes for amps put in, shape (n_nodes, n). [V]"""
        out = np.zeros_like(into)
        if len(into) > 1:
            out[1:] = self._factored.solve(into[1:])
        return out

    @cached_property
    def inverse_ohm(self) -> Floats:
        """How far an ampere put in at one node lifts another, shape (n_nodes, n_nodes). [Ω]"""
        return self.solve(np.eye(self._circuit.node_count))

    @cached_property
    def port_ohm(self) -> Floats:
        """The same for an ampere taken through a conductor or a consumer, shape (n_nodes, n_conductors + n_loads).

        Solved by itself: of what floats only differences are known well. [Ω]
        """
        circuit = self._circuit
        taken = np.zeros((circuit.node_count, len(circuit.conductor_ohm) + len(circuit.load_pos)))
        column = np.arange(taken.shape[1])
        np.add.at(taken, (np.array(circuit.conductor_from + circuit.load_pos, dtype=np.int64), column), 1.0)
        np.add.at(taken, (np.array(circuit.conductor_to + circuit.load_neg, dtype=np.int64), column), -1.0)
        return self.solve(taken)


@dataclass(frozen=True, slots=True)
class Living:
    """A situation solved.

    Shapes: `node_v` (n_nodes,) against node 0 [V]; `conductor_ohm`, `conductor_a`, `closed` (n_conductors,);
    `load_g`, `load_a`, `given_a` (n_loads,): what a consumer draws as a conductance [S] and in amps, and what a charger
    gives [A]. `whole` answers with every consumer the conductance it shows, `small` for small changes, when electronics
    draw less at more volts.
    """

    frame: Frame
    situation: Situation
    node_v: Floats
    conductor_ohm: Floats
    conductor_a: Floats
    element_ohm: Floats
    closed: Floats
    sources: Sources
    source_a: Floats
    load_g: Floats
    load_a: Floats
    given_a: Floats
    whole: Conductances
    small: Conductances

    @property
    def inverse_ohm(self) -> Floats:
        """See `Conductances`. [Ω]"""
        return self.whole.inverse_ohm

    @property
    def port_ohm(self) -> Floats:
        """See `Conductances`. [Ω]"""
        return self.whole.port_ohm


def _sources(frame: Frame, situation: Situation, taking: Floats) -> Sources:
    """What batteries and panels are in a situation; `taking` tells which batteries are being charged."""
    plan, parts = frame.plan, frame.sized.topology.parts
    volts, ohm = frame.rest_v.copy(), np.where(taking > 0, frame.charge_ohm, frame.inside_ohm)
    off_v = frame.rest_spread_v.copy()
    off_ln = np.where(taking > 0, spread("charge"), spread("inside"))
    for k, name in enumerate(frame.sized.wiring.sources):
        part = parts[name]
        if isinstance(part, Battery) and part.use == "starter" and situation.state.engine_on:
            volts[k], ohm[k] = alternator_v(plan, float(part.rated_v or plan.nominal_v)), ALTERNATOR_OHM
            alternator = alternator_of(plan)
            sags = alternator is not None and alternator.regulation == "sagging"
            off_v[k] = spread("alternator_sagging" if sags else "alternator") * plan.nominal_v / 12
        elif isinstance(part, Panel) and not situation.state.sun:
            # Not in the sun is not in the dark: in daylight volts are there all the same, and hardly a current.
            volts[k], ohm[k] = frame.rest_v[k] / 2, _DARK_OHM
            off_v[k] = frame.rest_v[k] / np.sqrt(12.0)
    return Sources(volts, ohm, off_v, off_ln)


def closed_conductors(frame: Frame, situation: Situation) -> Floats:
    """Which conductors carry in a situation, 1 or 0, shape (n_conductors,)."""
    wiring = frame.sized.wiring
    index = {run.id: k for k, run in enumerate(frame.plan.runs)}
    closed = wiring.closed(situation.switched, index)
    if situation.dead:
        for element in frame.elements:
            if element.sort == "fuse":
                closed[element.conductor] = False
    return closed.astype(float)


def _matrix(frame: Frame, conductor_ohm: Floats, source_ohm: Floats | None, load_g: Floats) -> Conductances:
    """The conductances of a situation, factored."""
    circuit = frame.sized.wiring.circuit
    n = circuit.node_count
    at: Ints = np.arange(n, dtype=np.int64) - 1
    a = [np.array(circuit.conductor_from, dtype=np.int64), np.array(circuit.load_pos, dtype=np.int64)]
    b = [np.array(circuit.conductor_to, dtype=np.int64), np.array(circuit.load_neg, dtype=np.int64)]
    g = [1 / conductor_ohm, load_g]
    if source_ohm is not None:
        a.append(np.array(circuit.source_pos, dtype=np.int64))
        b.append(np.array(circuit.source_neg, dtype=np.int64))
        g.append(1 / source_ohm)
    first, second, each = np.concatenate(a), np.concatenate(b), np.concatenate(g)
    every = np.arange(n, dtype=np.int64)
    rows = np.concatenate([first, second, first, second, every])
    cols = np.concatenate([first, second, second, first, every])
    values = np.concatenate([each, each, -each, -each, np.full(n, 1 / LEAK_OHM)])
    return Conductances(circuit, factor_nodes(at, n - 1, rows, cols, values))


def _wires_warm(frame: Frame, conductor_a: Floats) -> Floats:
    """Resistances of the pieces once the wires have the warmth of their current, shape (n_elements,). [Ω]"""
    rise_k = np.minimum(frame.rise_k_per_a2 * conductor_a[frame.of] ** 2, _MOST_RISE_K)
    found: Floats = frame.ohm * (1 + frame.ohm_per_k * rise_k)
    return found


def _leg_sums(frame: Frame, element_ohm: Floats, closed: Floats) -> Floats:
    """Resistance of each conductor, what is open nearly insulating, shape (n_conductors,). [Ω]"""
    sums = np.bincount(frame.of, weights=element_ohm, minlength=frame.conductors)
    there = np.bincount(frame.of, minlength=frame.conductors) > 0
    return np.where((closed > 0) & there, np.maximum(sums, 1e-7), OPEN_OHM)


def _coils(frame: Frame) -> dict[int, list[int]]:
    """Contacts of relays, as conductors, by the consumer that is their coil."""
    wiring = frame.sized.wiring
    at = {name: k for k, name in enumerate(wiring.consumers)}
    found: dict[int, list[int]] = {}
    for (part, _), some in wiring.contact_at.items():
        coil = at.get(point(part, "coil"))
        if coil is not None:
            found.setdefault(coil, []).extend(some)
    return found


def _solved(
    circuit: Circuit, *, sums: Floats, turned: NDArray[np.bool_], on: NDArray[np.bool_], volts: Floats, inside: Floats
) -> Solution:
    solver = Solver(circuit, sums < OPEN_OHM, turned)
    return solver.solve(sums, on, source_v=volts, source_ohm=inside)


def live(
    frame: Frame,
    situation: Situation,
    *,
    element_ohm: Floats | None = None,
    source_v: Floats | None = None,
    inside_factor: Floats | None = None,
    draw_factor: Floats | None = None,
) -> Living:
    """Solve a situation for reading.

    Parameters
    ----------
    frame : Frame
        The plan.
    situation : Situation
        What is on.
    element_ohm : ndarray, shape (n_elements,), optional
        Resistances of the pieces in place of the sound ones: faults, draws. [Ω]
    source_v : ndarray, shape (n_sources,), optional
        Difference of each source's volts from what is expected. [V]
    inside_factor, draw_factor : ndarray, shape (n_sources,), (n_loads,), optional
        How many times its figure a source has inside, a consumer draws or gives. [1]

    Returns
    -------
    Living
        Always; what cannot be served draws what is left to it.

    Notes
    -----
    Batteries are their volts at rest behind what is inside them, while they take behind what makes them rise; chargers
    give up to their rating and no more than their charging volts; what is open is 100 MΩ, what is off 10 MΩ.
    """
    wiring, base = frame.sized.wiring, frame.sized.wiring.circuit
    closed = closed_conductors(frame, situation)
    ohm = frame.ohm if element_ohm is None else element_ohm
    warmth = ohm / frame.ohm
    count = len(base.source_v)
    taking = np.zeros(count)
    on = np.array([name in situation.on for name in wiring.consumers], dtype=bool)
    turned = np.array([name in situation.swapped for name in wiring.consumers], dtype=bool)
    factor = np.ones(len(base.load_value)) if draw_factor is None else draw_factor
    resist = np.array([kind == "resistive" for kind in base.load_kind], dtype=bool)
    value = frame.light * np.array(base.load_value) * np.where(resist, 1 / np.maximum(factor, 1e-6), factor)
    gives = np.zeros(len(value), dtype=bool)
    for one in base.converters:
        gives[one.gives] = True
    converters = [
        replace(
            one, out_limit_a=one.out_limit_a * float(factor[one.gives]),
            power_w=one.power_w * (1.0 if one.draws is None else float(frame.light[one.draws])),
        )
        for one in base.converters
    ]  # fmt: skip
    circuit = replace(
        base, source_held=[-1] * count, converters=converters, load_value=np.maximum(value, 1e-9).tolist()
    )
    diodes = [
        at for (part, _), at_all in wiring.contact_at.items() if part in frame.sized.switching.diodes for at in at_all
    ]
    coils, least_v = _coils(frame), PULL_IN_FRAC * frame.plan.nominal_v
    sums = _leg_sums(frame, ohm, closed)
    solution = None
    if not situation.dead:
        for _ in range(_ROUNDS):
            sources = _sources(frame, situation, taking)
            volts = np.maximum(sources.volts + (0 if source_v is None else source_v), 0.0)
            inside = sources.ohm * (1 if inside_factor is None else inside_factor)
            solve = partial(_solved, sums=sums, turned=turned, on=on, volts=volts, inside=inside)
            circuit, solution = held_up(circuit, solve, solve(circuit))
            now = (solution.source_a < -1e-6).astype(float)
            blocked = [at for at in diodes if closed[at] and solution.conductor_a[at] < -1e-6]
            held = solution.served & (np.abs(solution.load_v) >= least_v)
            blocked += [at for load, some in coils.items() if not held[load] for at in some if closed[at]]
            warmer = _leg_sums(frame, _wires_warm(frame, solution.conductor_a) * warmth, closed)
            lower = turned_down(frame, circuit, solution.load_v)
            settled = (now == taking).all() and not blocked and lower is None
            if settled and np.allclose(warmer, sums, rtol=2e-3):
                break
            closed[blocked] = 0.0
            taking, circuit = now, lower if lower is not None else circuit
            sums = np.where(closed > 0, warmer, OPEN_OHM)
    sources = _sources(frame, situation, taking)
    volts = np.maximum(sources.volts + (0 if source_v is None else source_v), 0.0)
    inside = sources.ohm * (1 if inside_factor is None else inside_factor)
    sources = replace(sources, volts=volts, ohm=inside)
    load_g = np.full(len(value), 1 / OFF_OHM)
    given_a, load_a = np.zeros(len(value)), np.zeros(len(value))
    if solution is not None:
        drawn = np.abs(solution.load_a)
        real = on & ~gives & (np.abs(solution.load_v) > 1e-3)
        shown = drawn / np.maximum(np.abs(solution.load_v), 1e-3)
        # What is on and starved still joins its two terminals: a winding, a filament, an input.
        load_g = np.where(real, np.maximum(shown, 1 / OFF_OHM), load_g)
        load_g = np.where(on & ~gives & ~solution.served, np.maximum(shown, 1 / STARVED_OHM), load_g)
        given_a = np.where(on & gives, -solution.load_a, 0.0)
    whole = _matrix(frame, sums, None if situation.dead else inside, load_g)
    bend = np.array([{"constant_power": -1.0, "constant_current": 0.0}.get(kind, 1.0) for kind in base.load_kind])
    small_g = np.where(load_g > 2 / OFF_OHM, load_g * bend, load_g) if len(value) else load_g
    small = whole if (small_g == load_g).all() else _matrix(frame, sums, inside, small_g)
    injected = np.zeros(base.node_count)
    if not situation.dead:
        np.add.at(injected, np.array(base.source_pos, dtype=np.int64), volts / inside)
        np.add.at(injected, np.array(base.source_neg, dtype=np.int64), -volts / inside)
        np.add.at(injected, np.array(base.load_pos, dtype=np.int64), given_a)
        np.add.at(injected, np.array(base.load_neg, dtype=np.int64), -given_a)
    node_v = whole.solve(injected[:, None])[:, 0]
    amps = (
        node_v[np.array(base.conductor_from, dtype=np.int64)] - node_v[np.array(base.conductor_to, dtype=np.int64)]
    ) / sums
    across = node_v[np.array(base.load_pos, dtype=np.int64)] - node_v[np.array(base.load_neg, dtype=np.int64)]
    if len(value):
        load_a = load_g * across
    source_a = (
        volts - node_v[np.array(base.source_pos, dtype=np.int64)] + node_v[np.array(base.source_neg, dtype=np.int64)]
    ) / inside
    if situation.dead:
        source_a[:] = 0.0
    leg_warm = sums / np.maximum(_leg_sums(frame, ohm, closed), 1e-12)
    return Living(
        frame,
        situation,
        node_v,
        sums,
        amps,
        ohm * leg_warm[frame.of],
        closed,
        sources,
        source_a,
        load_g,
        load_a,
        given_a,
        whole,
        small,
    )


# Whoever looks for a fault comes back to the same few; each holds what its matrix was asked for.
_MOST_KNOWN = 16


@lru_cache(maxsize=_MOST_KNOWN)
def _known(this: Itself[Frame], name: str) -> Living:
    return live(this.thing, find_situation(list(this.thing.situations.values()), name))


def sound_living(frame: Frame, name: str) -> Living:
    """A situation with nothing wrong, solved once as long as it is among those asked for last.

    Parameters
    ----------
    frame : Frame
        The plan.
    name : str
        Id of the situation.

    Returns
    -------
    Living
        As `live` gives it.

    Raises
    ------
    UnknownRow
        If there is none of that id.
    """
    return _known(Itself(frame), name)
