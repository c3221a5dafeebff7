"""Shorts as far as the choice of fuse and wire needs them: what a fuse has to break where it stands, and how much
copper a run must have to stand its fuse and to let it open. All shorts, and how they end, stand in the faults room.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit.answers import Floats
from lucernis.core.circuit.network import Network, factor_network
from lucernis.core.circuit.sources import SourceFigures, panel_figures, source_figures
from lucernis.core.circuit.switching import Switched
from lucernis.core.circuit.terminals import has_positive
from lucernis.core.circuit.topology import Topology
from lucernis.core.protection.fuses import fuse_resistance_ohm
from lucernis.core.sizing.both_ends import BothEnds
from lucernis.core.sizing.fusing import RunFuse, far_key, fed_by_start
from lucernis.core.sizing.openings import FuseAt, Struck, opening_of, reached_c
from lucernis.core.sizing.options import Case
from lucernis.core.sizing.stretch import Option
from lucernis.core.sizing.wiring import Wiring, leg_ohms
from lucernis.core.wire.heat import ADIABATIC_S, short_time_limit
from lucernis.core.wire.joints import joint_ohm
from lucernis.plan.model import Battery, Panel, Plan, Run

_MOST_NETWORKS = 3


def sources_of(plan: Plan, wiring: Wiring) -> dict[str, SourceFigures]:
    """Figures of everything that feeds a short: batteries, and panels as what they never exceed."""
    wired = set(wiring.sources)
    return {
        part.id: source_figures(part, plan.nominal_v) if isinstance(part, Battery) else panel_figures(part)
        for part in plan.parts
        if part.id in wired and isinstance(part, Battery | Panel)
    }


def fuses_at(plan: Plan, topology: Topology, fuses: Mapping[str, RunFuse]) -> list[FuseAt]:
    """Every fuse that is chosen, where it stands in the circuit."""
    found = []
    for at, run in enumerate(plan.runs):
        at_start = fed_by_start(topology, run)
        for key, here in ((run.id, at_start), (far_key(run.id), not at_start)):
            fuse = fuses.get(key)
            if fuse is not None and fuse.fuse is not None and fuse.lasting_a is not None:
                found.append(FuseAt(key, at, here, fuse, fuse.lasting_a))
    return found


def cold_legs(plan: Plan, chosen: Mapping[str, Option], warm_ohm: Floats) -> Floats:
    """Resistances of a circuit with its wires at 20 °C, where most flows in a short.

    Parameters
    ----------
    plan : Plan
        The plan.
    chosen : Mapping
        Run id to its size.
    warm_ohm : ndarray, shape (n_conductors,)
        The same at load. [Ω]

    Returns
    -------
    ndarray
        [Ω]
    """
    cold = warm_ohm.copy()
    for at, run in enumerate(plan.runs):
        option = chosen[run.id]
        legs = 2 if run.legs == "both" else 1
        colder = option.size.resistance_20_ohm_per_m * run.length_m / run.parallel - option.wire_loop_ohm / legs
        cold[2 * at : 2 * at + 2] += colder
    return cold


def network_of(
    wiring: Wiring,
    switched: Switched,
    plan: Plan,
    legs_ohm: Floats,
    figures: Mapping[str, SourceFigures],
    *,
    strongest: bool,
    whole: bool,
) -> Network:
    """The circuit without loads, factored: full batteries at their low resistance, or half full ones at the higher.

    Parameters
    ----------
    wiring : Wiring
        The circuit.
    switched : Switched
        Which contacts are closed.
    plan : Plan
        Names the runs.
    legs_ohm : ndarray, shape (n_conductors,)
        Resistances. [Ω]
    figures : Mapping
        From `sources_of`.
    strongest : bool
        Where most flows, else where least does.
    whole : bool
        As for `factor_network`.

    Returns
    -------
    Network
        Ready for shorts.
    """
    key = (strongest, whole, switched, legs_ohm.tobytes())
    if key in wiring.networks:
        return wiring.networks[key]
    closed = wiring.closed(switched, {run.id: at for at, run in enumerate(plan.runs)})
    volts = np.array([one.full_v if strongest else one.half_v for one in figures.values()])
    ohm = np.array([one.fault_ohm if strongest else one.running_ohm for one in figures.values()])
    made = factor_network(wiring.circuit, closed, legs_ohm, volts, ohm, whole=whole)
    # The last choice of sizes is studied once more by whoever tells of it.
    if len(wiring.networks) >= _MOST_NETWORKS:
        del wiring.networks[next(iter(wiring.networks))]
    wiring.networks[key] = made
    return made


class Back:
    """The negative a short at a positive goes back by."""

    def __init__(self, plan: Plan, topology: Topology, wiring: Wiring, switched: Switched) -> None:
        closed = wiring.closed(switched, {run.id: at for at, run in enumerate(plan.runs)})
        circuit = wiring.circuit
        self.wiring, self.topology = wiring, topology
        self.joined = {
            node for at in np.flatnonzero(closed) for node in (circuit.conductor_from[at], circuit.conductor_to[at])
        }
        batteries = [part for part in plan.parts if isinstance(part, Battery)]
        self.roots = {wiring.neg[one.id] for one in batteries}
        # Of batteries in series the negative of the lowest is the bank's.
        self.below = {run.start.part: run.finish.part for run in plan.runs if run.legs == "series"}
        lowest = [one for one in batteries if one.id not in self.below]
        self.posts = {
            use: tuple(wiring.neg[one.id] for one in lowest if one.use == use) for use in ("house", "starter")
        }

    def _battery(self, point: str) -> Battery | None:
        """The battery a point hangs on, the lowest of those in series."""
        root, seen = self.topology.root_of.get(feed_name(self.topology, point), ""), set[str]()
        while root in self.below and root not in seen:
            seen.add(root)
            root = self.below[root]
        part = self.topology.parts.get(root)
        return part if isinstance(part, Battery) else None

    def at(self, point: str) -> int:
        """The node: a part whose negative hangs on nothing is shorted to the negative of the battery it hangs on, by
        the body or another wire."""
        node = self.wiring.neg_at(point)
        if node in self.joined or node in self.roots:
            return node
        battery = self._battery(point)
        return self.wiring.neg[battery.id] if battery is not None else next(iter(self.roots), 0)

    def any_of(self, point: str) -> tuple[int, ...]:
        """All nodes it may be: of a bank the post of any of its batteries may be the nearest."""
        node = self.wiring.neg_at(point)
        battery = self._battery(point)
        if node in self.joined or node in self.roots or battery is None:
            return (self.at(point),)
        return self.posts[battery.use]


def feed_name(topology: Topology, point: str) -> str:
    """The feed point a positive point belongs to: both sides of a contact are fed by the same run."""
    if topology.part_at(point).kind == "charger":
        return point
    return point.removesuffix(":out_b").removesuffix(":out")


@dataclass(slots=True)
class ShortNeeds:
    """What shorts ask of a choice: the strongest through each fuse [A], and the copper a run needs [mm²]."""

    break_a: dict[str, float]
    least_mm2: dict[str, float]


def short_needs(
    plan: Plan,
    topology: Topology,
    switched: Switched,
    wiring: Wiring,
    cases: Mapping[str, Case],
    fuses: Mapping[str, RunFuse],
    chosen: Mapping[str, Option],
    both: BothEnds,
) -> ShortNeeds:
    """What shorts ask of fuses and wires with the sizes as they are.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    switched : Switched
        Contacts in their usual positions.
    wiring : Wiring
        The circuit.
    cases : Mapping
        Sizes each run may have.
    fuses : Mapping
        Fuses as they are chosen.
    chosen : Mapping
        Sizes as they are chosen.
    both : BothEnds
        What guards runs that both ends can feed.

    Returns
    -------
    ShortNeeds
        `least_mm2` only where the size chosen does not do and a thicker one does.
    """
    figures = sources_of(plan, wiring)
    if not figures:
        return ShortNeeds({}, {})
    warm = wiring.resistances(leg_ohms(plan, chosen))
    cold = cold_legs(plan, chosen, warm)
    strongest = network_of(wiring, switched, plan, cold, figures, strongest=True, whole=False)
    weakest = network_of(wiring, switched, plan, warm, figures, strongest=False, whole=False)
    back = Back(plan, topology, wiring, switched)
    names = {node: name for name, node in wiring.pos.items()}
    break_a = through_fuses_a(
        plan, wiring, strongest, cold, chosen, fuses_at(plan, topology, fuses), cases, back, names
    )
    least_mm2 = _least_copper(plan, topology, wiring, weakest, cases, chosen, fuses, warm, back, names, both)
    return ShortNeeds(break_a, least_mm2)


def through_fuses_a(
    plan: Plan,
    wiring: Wiring,
    network: Network,
    cold_ohm: Floats,
    chosen: Mapping[str, Option],
    fuses: list[FuseAt],
    cases: Mapping[str, Case],
    back: Back,
    names: Mapping[int, str],
) -> dict[str, float]:
    """The strongest short through each fuse, where it stands.

    Parameters
    ----------
    plan : Plan
        The plan.
    wiring : Wiring
        The circuit.
    network : Network
        From `network_of`, strongest.
    cold_ohm : ndarray, shape (n_conductors,)
        Resistances that go with it. [Ω]
    chosen : Mapping
        Run id to its size.
    fuses : list of FuseAt
        The fuses.
    cases : Mapping
        Run id to what its ends are joined to.
    back : Back
        Negatives.
    names : Mapping
        Node to its positive point.

    Returns
    -------
    dict
        Fuse key to the larger of what comes from the sources before it when the short is right behind it, and from
        those behind it when the short is right before it: never their sum. The joint and the wire up to it count,
        its own resistance does not. [A]
    """
    if not fuses:
        return {}
    circuit = wiring.circuit
    # A fuse by each negative the short behind it may go back by: where several may, the strongest counts.
    sites: list[tuple[FuseAt, int]] = []
    for one in fuses:
        a, b = circuit.conductor_from[2 * one.run], circuit.conductor_to[2 * one.run]
        pair = plan.runs[one.run].legs == "both"
        beside = (-1,) if pair else dict.fromkeys((*back.any_of(names[a]), *back.any_of(names[b])))
        sites += [(one, node) for node in beside]
    nodes = np.empty((len(sites), 4), dtype=np.int64)
    weights, own, r_pos = np.empty((len(sites), 4)), np.empty(len(sites)), np.empty(len(sites))
    leaf = np.zeros(len(sites), dtype=bool)
    for k, (one, home) in enumerate(sites):
        run = plan.runs[one.run]
        option, at = chosen[run.id], 2 * one.run
        a, b = circuit.conductor_from[at], circuit.conductor_to[at]
        if not one.at_start:
            a, b = b, a
        legs = 2 if run.legs == "both" else 1
        wire = option.size.resistance_20_ohm_per_m * run.length_m / run.parallel
        ends = cases[run.id].fittings[0 if one.at_start else 1 :: 2]
        joint = sum(joint_ohm(fitting.joint(option.size), option.size) for _, fitting in ends) / run.parallel / legs
        before = joint + wire * min(1.0, one.fuse.distance_m / run.length_m)
        pos = float(cold_ohm[at])
        share = min(1.0, before / pos)
        r_pos[k], own[k] = pos, share * (1 - share) * pos
        if run.legs == "both":
            c, d = circuit.conductor_from[at + 1], circuit.conductor_to[at + 1]
            if not one.at_start:
                c, d = d, c
            neg = float(cold_ohm[at + 1])
            back_share = min(1.0, before / neg)
            own[k] += back_share * (1 - back_share) * neg
        else:
            c = d = home
            back_share = 0.0
        nodes[k] = a, b, c, d
        weights[k] = 1 - share, share, -(1 - back_share), -back_share
        leaf[k] = network.row[b] == network.row[a] or network.beyond_ohm[b] > 0
    total = network.currents_a(nodes, weights, own)
    row = network.row[nodes]
    pulled = np.zeros((len(sites), 2))
    for j in range(4):
        pulled += weights[:, j, None] * network.transfer_ohm[row[:, :2], row[:, j, None]]
    volts = network.open_v[nodes[:, :2]] - pulled * total[:, None]
    from_here = total * weights[:, 0] + (volts[:, 0] - volts[:, 1]) / r_pos
    from_here = np.where(leaf, total, np.clip(from_here, 0.0, total))
    most = np.maximum(from_here, total - from_here)
    found = dict.fromkeys((one.key for one in fuses), 0.0)
    for (one, _), amps in zip(sites, most.tolist(), strict=True):
        found[one.key] = max(found[one.key], float(amps))
    return found


@dataclass(frozen=True, slots=True)
class _Watched:
    """A run whose fuse must open in time: its fuse, whether it feeds from its start, volts and resistance there.

    So many such fuses feed that end side by side: each sees only its part of what warms the wire. `both_ends` says
    that the other end feeds the short too.
    """

    run: Run
    at: int
    fuse: FuseAt
    volts: float
    ohm: float
    beside: int = 1
    both_ends: bool = False


def _watched(
    plan: Plan,
    topology: Topology,
    wiring: Wiring,
    network: Network,
    cases: Mapping[str, Case],
    fuses: Mapping[str, RunFuse],
    warm_ohm: Floats,
    back: Back,
    names: Mapping[int, str],
    both: BothEnds,
) -> list[_Watched]:
    """Every run with the fuse that guards it; one that is fed from both ends with those beyond either end."""
    circuit = wiring.circuit
    found: list[tuple[Run, int, FuseAt, int]] = []
    nodes: list[tuple[int, int]] = []
    for at, run in enumerate(plan.runs):
        if not has_positive(run):
            continue
        fed = fed_by_start(topology, run)
        guards = [(fed, cases[run.id].protector, 1)]
        if run.id in topology.both_fed:
            ends = both.of_run(run)
            for at_start, keys in ((True, ends.start.fuses), (False, ends.finish.fuses)):
                guards += [(at_start, key, len(keys)) for key in keys]
        a, b = circuit.conductor_from[2 * at], circuit.conductor_to[2 * at]
        for at_start, key, beside in dict.fromkeys(guards):
            guard = fuses.get(key) if key is not None else None
            if guard is None or guard.fuse is None or guard.lasting_a is None:
                continue
            if run.legs == "both":
                c, d = circuit.conductor_from[2 * at + 1], circuit.conductor_to[2 * at + 1]
                backs: tuple[int, ...] = (c if at_start else d,)
            else:
                backs = back.any_of(names[b if at_start else a])
            for far_back in backs:
                nodes.append((a if at_start else b, far_back))
                found.append((run, at, FuseAt("", at, at_start, guard, guard.lasting_a), beside))
    if not found:
        return []
    out = []
    for (run, at, fuse, beside), (near, far) in zip(found, nodes, strict=True):
        if not (network.live[near] and network.live[far]):
            continue
        volts, ohm = _seen_from(network, near, far)
        if run.id in topology.both_fed:
            # What comes in by the other end is not what warms the wire from this one.
            own = (circuit.conductor_from[2 * at], circuit.conductor_to[2 * at])
            volts, ohm = _without(network, near, far, own, float(warm_ohm[2 * at]), volts, ohm)
        if volts > 0:
            out.append(_Watched(run, at, fuse, volts, ohm, beside, run.id in topology.both_fed))
    return out


def _seen_from(network: Network, near: int, far: int) -> tuple[float, float]:
    """Open volts and resistance between two nodes. [V], [Ω]"""
    n, f, z = network.row[near], network.row[far], network.transfer_ohm
    ohm = float(z[n, n] + z[f, f] - 2 * z[n, f] + network.beyond_ohm[near] + network.beyond_ohm[far])
    return float(network.open_v[near] - network.open_v[far]), ohm


def _without(
    network: Network, near: int, far: int, ends: tuple[int, int], own_ohm: float, volts: float, ohm: float
) -> tuple[float, float]:
    """The same with one conductor taken out: a change of rank one (Sherman and Morrison)."""
    z, (a, b) = network.transfer_ohm, (network.row[ends[0]], network.row[ends[1]])
    n, f = network.row[near], network.row[far]
    across = float(z[n, a] - z[n, b] - z[f, a] + z[f, b])
    rest = own_ohm - float(z[a, a] + z[b, b] - 2 * z[a, b])
    if rest <= 1e-12:
        return volts, ohm
    along_v = float(network.open_v[ends[0]] - network.open_v[ends[1]])
    return volts + across * along_v / rest, ohm + across**2 / rest


def _stands(watched: list[_Watched], options: list[Option], cases: Mapping[str, Case]) -> list[bool]:
    """Whether a short in the middle or at the end of each run is over before its wire is harmed."""
    if not watched:
        return []
    out = np.ones(len(watched), dtype=bool)
    loop = np.array([one.total_ohm - one.fuse_ohm for one in options])
    fuse_ohm = np.array([one.fuse_ohm for one in options])
    volts, before = np.array([one.volts for one in watched]), np.array([one.ohm for one in watched])
    beside = np.array([one.beside for one in watched], dtype=float)
    both_ends = np.array([one.both_ends for one in watched])
    runs = [one.run for one in watched]
    struck = Struck(
        area_mm2=np.array([one.size.area_mm2 for one in options]),
        resistance_20_ohm_per_m=np.array([one.size.resistance_20_ohm_per_m for one in options]),
        parallel=np.array([run.parallel for run in runs], dtype=float),
        start_c=np.array([one.temp_c for one in options]),
        ambient_c=np.array([cases[run.id].around.ambient_c for run in runs]),
    )
    limit = np.array([short_time_limit(cases[run.id].insulation_c)[0] for run in runs])
    for share in (0.5, 1.0):
        amps = volts / np.maximum(before + fuse_ohm + share * loop, 1e-9)
        times = opening_of([one.fuse for one in watched], amps / beside)
        # One of several opens first, and the others carry on what it lets go: a quarter more, as the study sees.
        wire_heat = times.heat * np.where(beside > 1, 1.25 * beside**2, 1.0)
        heat = np.where(np.isfinite(wire_heat), wire_heat, np.nan)
        # While both ends feed the short its fuses use up a part of their time together, so it is over sooner than by
        # this fuse alone: no cooling is counted on.
        slow = np.where(both_ends, np.minimum(times.slow, ADIABATIC_S), times.slow)
        reached = reached_c(struck, heat, slow)
        # A hair below the limit, so that the whole study, which sees more, agrees.
        out &= np.isfinite(times.slow) & (reached <= limit - 1.0)
    return [bool(one) for one in out]


def _least_copper(
    plan: Plan,
    topology: Topology,
    wiring: Wiring,
    network: Network,
    cases: Mapping[str, Case],
    chosen: Mapping[str, Option],
    fuses: Mapping[str, RunFuse],
    warm_ohm: Floats,
    back: Back,
    names: Mapping[int, str],
    both: BothEnds,
) -> dict[str, float]:
    """Copper that runs need to stand their fuse, where the size they have does not."""
    watched = _watched(plan, topology, wiring, network, cases, fuses, warm_ohm, back, names, both)
    now = _stands(watched, [chosen[one.run.id] for one in watched], cases)
    weak = [one for one, ok in zip(watched, now, strict=True) if not ok and not cases[one.run.id].pinned]
    found: dict[str, float] = {}
    for one in weak:
        size = chosen[one.run.id].size.area_mm2
        thicker = [option for option in cases[one.run.id].options if option.size.area_mm2 > size * 1.001]
        # No step down to a usual terminal where a size that it takes would do or none does.
        thicker.sort(key=lambda option: bool(option.steps))
        stands = _stands([one] * len(thicker), thicker, cases)
        better = next((option for option, ok in zip(thicker, stands, strict=True) if ok), None)
        if better is not None:
            found[one.run.id] = max(better.size.area_mm2, found.get(one.run.id, 0.0))
    return found


def fuse_leg_ohms(plan: Plan, fuses: list[FuseAt]) -> Floats:
    """Resistance of the fuses at both ends of every run, shape (n_runs, 2). [Ω]"""
    out = np.zeros((len(plan.runs), 2))
    for one in fuses:
        if one.fuse.fuse is not None:
            ohm = fuse_resistance_ohm(one.fuse.fuse.family, one.fuse.fuse.rating_a) / one.fuse.count
            out[one.run, 0 if one.at_start else 1] = ohm
    return out
