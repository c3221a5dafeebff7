"""Bolted shorts at every point and along every run: how much flows, what opens, when, and what the wire reaches.

Each study is one factorization; opening a fuse is a change of that solution, not a new one.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats, Ints
from lucernis.core.circuit.islands import islands
from lucernis.core.circuit.network import Network
from lucernis.core.circuit.sources import SourceFigures
from lucernis.core.circuit.switching import Switched
from lucernis.core.circuit.terminals import has_positive
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import far_key, fed_by_start
from lucernis.core.sizing.openings import FuseAt, FuseSet, Struck, opening_of, reached_c
from lucernis.core.sizing.shorts import Back, cold_legs, feed_name, fuse_leg_ohms, fuses_at, network_of, sources_of
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.core.wire.heat import short_time_limit
from lucernis.plan.model import Plan, State

Where = Literal["point", "start", "middle", "finish"]
Selective = Literal["yes", "no", "unknown", "alone"]
# A fault is over when less flows than this share of what flowed at first.
_OVER_FRAC = 1e-3
INFINITE = float("inf")
# An opened conductor keeps this share of its conductance, so that nothing becomes singular.
_OPENED_FRAC = 1e-9
# More strings than this are on no van.
_MOST_STEPS = 16
_TIE = 1e-9


@dataclass(frozen=True, slots=True)
class Site:
    """Where a fault is. A point has `run` -1; `share` is how far along the wire a fault in a run lies."""

    subject: str
    where: Where
    run: int
    share: float
    pos: tuple[int, int]
    neg: tuple[int, int]


@dataclass(slots=True)
class Fault:
    """One bolted short.

    `strongest_a` with cold copper, a full battery and its low resistance; `weakest_a` with warm copper, half charge
    and the higher one. The opening is that at the weakest current: `openers` in the order they open, `fast_s` of the
    first (None: not published), `slow_s` until all is over (None: nothing that must open). `wire_c` is what the
    faulted wire reaches by then, `heat_a2s` what got through.
    """

    subject: str
    where: Where
    strongest_a: float
    weakest_a: float
    openers: list[str]
    fast_s: float | None
    slow_s: float | None
    heat_a2s: float | None
    wire_c: float | None
    limit_c: float | None
    selective: Selective
    also_opens: list[str]
    beyond_points: bool


@dataclass(slots=True)
class FaultStudy:
    """All faults of a plan: per run those at its start, middle and finish; per point one."""

    of_run: dict[str, list[Fault]]
    of_point: dict[str, Fault]
    sources: dict[str, SourceFigures]
    meshed: bool


@dataclass(slots=True)
class _Study:
    plan: Plan
    sized: Sized
    switched: Switched
    figures: dict[str, SourceFigures]
    back: int | None = None
    fuses: list[FuseAt] = field(default_factory=list)
    sites: list[Site] = field(default_factory=list)
    cold: Floats = field(default_factory=lambda: np.empty(0))
    warm: Floats = field(default_factory=lambda: np.empty(0))
    fuse_ohm: Floats = field(default_factory=lambda: np.empty((0, 2)))

    def __post_init__(self) -> None:
        plan, sized = self.plan, self.sized
        self.fuses = fuses_at(plan, sized.topology, sized.fuses)
        self.fuse_ohm = fuse_leg_ohms(plan, self.fuses)
        self.warm = sized.wiring.resistances(leg_ohms(plan, sized.chosen))
        self.cold = cold_legs(plan, sized.chosen, self.warm)
        self._find_sites()

    def _find_sites(self) -> None:
        plan, wiring = self.plan, self.sized.wiring
        circuit, own_back, body = wiring.circuit, Back(plan, self.sized.topology, wiring, self.switched).at, self.back

        def back(point: str) -> int:
            return own_back(point) if body is None else body

        for name, node in wiring.pos.items():
            if name in self.switched.live:
                self.sites.append(Site(name, "point", -1, 0.0, (node, node), (back(name), back(name))))
        names = {node: name for name, node in wiring.pos.items()}
        for at, run in enumerate(plan.runs):
            spare = run.id in self.sized.topology.spares
            if not has_positive(run) or spare or run.id in self.switched.open_runs:
                continue
            pos = (circuit.conductor_from[2 * at], circuit.conductor_to[2 * at])
            if names[pos[0]] not in self.switched.live and names[pos[1]] not in self.switched.live:
                continue
            if run.legs == "both" and body is None:
                neg = (circuit.conductor_from[2 * at + 1], circuit.conductor_to[2 * at + 1])
            else:
                by_start = fed_by_start(self.sized.topology, run)
                near, far = (back(names[node]) for node in (pos if by_start else reversed(pos)))
                neg = (far, far)
                if near != far:
                    # A leg by itself may meet the negative at its fed end as well, as the post beside a battery's.
                    where, share = ("start", 0.0) if by_start else ("finish", 1.0)
                    self.sites.append(Site(run.id, where, at, share, pos, (near, near)))  # type: ignore[arg-type]
            for where, share in (("start", 0.0), ("middle", 0.5), ("finish", 1.0)):
                self.sites.append(Site(run.id, where, at, share, pos, neg))  # type: ignore[arg-type]

    def keep_strongest(self, currents_a: Floats) -> Floats:
        """Of several negatives a short may go back by keep the one that lets most flow; gives back those currents."""
        best: dict[tuple[str, str], int] = {}
        for k, site in enumerate(self.sites):
            key = (site.subject, site.where)
            if key not in best or currents_a[k] > currents_a[best[key]]:
                best[key] = k
        order = {"point": 0, "start": 1, "middle": 2, "finish": 3}
        kept = sorted(best.values(), key=lambda k: (self.sites[k].run, order[self.sites[k].where], k))
        self.sites = [self.sites[k] for k in kept]
        return currents_a[kept]

    def fed_several_ways(self) -> NDArray[np.bool_]:
        """Which sites more than one way can feed, shape (n_sites,): several batteries on their positive, or a ring."""
        wiring, topology = self.sized.wiring, self.sized.topology
        index = {run.id: at for at, run in enumerate(self.plan.runs)}
        closed = wiring.closed(self.switched, index)
        carries = np.flatnonzero(closed)
        a = np.array(wiring.circuit.conductor_from, dtype=np.int64)[carries]
        b = np.array(wiring.circuit.conductor_to, dtype=np.int64)[carries]
        positive = np.zeros(wiring.circuit.node_count, dtype=bool)
        positive[list(wiring.pos.values())] = True
        inside = positive[a] & positive[b]
        count, island = islands(len(positive), a[inside], b[inside])
        batteries = np.zeros(count, dtype=int)
        for name in wiring.sources:
            batteries[island[wiring.pos[name]]] += 1
        ring = np.zeros(count, dtype=bool)
        for run_id in topology.closing:
            if closed[2 * index[run_id]]:
                ring[island[wiring.circuit.conductor_from[2 * index[run_id]]]] = True
        several = (batteries > 1) | ring
        found: NDArray[np.bool_] = np.array([several[island[site.pos[0]]] for site in self.sites], dtype=bool)
        return found

    def network(self, *, strongest: bool, whole: bool) -> Network:
        legs = self.cold if strongest else self.warm
        return network_of(
            self.sized.wiring, self.switched, self.plan, legs, self.figures, strongest=strongest, whole=whole
        )

    def ports(self, legs_ohm: Floats) -> tuple[Ints, Floats, Floats]:
        """Per site the four nodes it pulls at, their weights, and the resistance of its own way between."""
        nodes = np.array([[*site.pos, *site.neg] for site in self.sites], dtype=np.int64).reshape(-1, 4)
        runs = np.array([site.run for site in self.sites], dtype=np.int64)
        share = np.array([site.share for site in self.sites])
        in_run = runs >= 0
        legs_ohm = legs_ohm if len(self.plan.runs) else np.ones(2)
        fuses_ohm = self.fuse_ohm if len(self.plan.runs) else np.zeros((1, 2))
        pos_ohm = np.where(in_run, legs_ohm[2 * np.maximum(runs, 0)], 1.0)
        neg_ohm = np.where(in_run, legs_ohm[2 * np.maximum(runs, 0) + 1], 1.0)
        fuse = fuses_ohm[np.maximum(runs, 0)] * in_run[:, None]
        lam_pos = np.where(in_run, (fuse[:, 0] + share * (pos_ohm - fuse.sum(axis=1))) / pos_ohm, 0.0)
        pair = nodes[:, 2] != nodes[:, 3]
        lam_neg = np.where(in_run & pair, share, 0.0)
        own = np.where(in_run, lam_pos * (1 - lam_pos) * pos_ohm, 0.0)
        own += np.where(in_run & pair, lam_neg * (1 - lam_neg) * neg_ohm, 0.0)
        weights = np.stack([1 - lam_pos, lam_pos, -(1 - lam_neg), -lam_neg], axis=1)
        return nodes, weights, own


@dataclass(slots=True)
class _Opening:
    """How one fault ends: fuses in order, times, and the squared current through the faulted wire over time."""

    openers: list[str]
    fast_s: float | None
    slow_s: float | None
    heat_a2s: float | None
    also: list[str]
    selective: Selective
    beyond: bool


def _nothing_opens() -> _Opening:
    return _Opening([], None, None, None, [], "alone", beyond=False)


def _one_way(keys: list[str], fast: list[float], slow: list[float], heat: list[float], least: list[float]) -> _Opening:
    """A fault fed by one way: the same current passes every fuse on it, battery first."""
    # The same current passes them all, so the one that lets the least heat through is over first.
    best = min(range(len(keys)), key=lambda k: (heat[k], -k), default=-1)
    if best < 0 or slow[best] == INFINITE:
        return _nothing_opens()
    beyond = fast[best] != fast[best]
    also, unknown = [], False
    for k, key in enumerate(keys):
        if k == best or least[k] > heat[best]:
            # What it takes to open it is more than the other ever lets through.
            continue
        known = fast[k] == fast[k] and not beyond
        if known and fast[k] >= slow[best]:
            continue
        # Beyond the last point of either only heat decides; where the bounds overlap nothing is known.
        if known or heat[k] < least[best]:
            also.append(key)
        else:
            unknown = True
    selective: Selective = "alone" if len(keys) == 1 else "no" if also else "unknown" if unknown else "yes"
    return _Opening([keys[best]], None if beyond else fast[best], slow[best], heat[best], also, selective, beyond)


@dataclass(frozen=True, slots=True)
class _Gone:
    """An opened conductor: its ends, and the change of the transfer resistances, `scale` times `along` by `along`. Kept
    as a vector: as a matrix it would cost more than all the rest."""

    a: int
    b: int
    along: Floats
    scale: float


class _Meshed:
    """Faults that several ways feed: fuses open one after the other until nothing flows."""

    def __init__(self, study: _Study, network: Network, legs_ohm: Floats) -> None:
        self.study, self.legs = study, legs_ohm
        # By node rather than by row, so that a node can be looked up as it is.
        self.v, self.z = network.open_v, network.transfer_ohm[np.ix_(network.row, network.row)]
        self.set = FuseSet(study.fuses)
        self.in_run: dict[int, list[int]] = {}
        for k, one in enumerate(study.fuses):
            self.in_run.setdefault(one.run, []).append(k)
        circuit = study.sized.wiring.circuit
        self.a = np.array([circuit.conductor_from[2 * one.run] for one in study.fuses], dtype=np.int64)
        self.b = np.array([circuit.conductor_to[2 * one.run] for one in study.fuses], dtype=np.int64)
        self.r = np.array([legs_ohm[2 * one.run] for one in study.fuses])

    def run(self, site: Site, nodes: Ints, weights: Floats, own_ohm: float) -> _Opening:
        """Follow one fault to its end."""
        fuses, v = self.study.fuses, self.v
        gone: list[_Gone] = []
        nodes, weights = nodes.copy(), weights.copy()
        used = np.zeros(len(fuses))
        opened: list[int] = []
        gone_runs: set[int] = set()
        own = own_ohm
        shown_s, first_a = 0.0, 0.0
        # What comes from either end warms another stretch of the faulted wire: each is counted by itself.
        heat = np.zeros(2)
        first = _nothing_opens()

        def unfinished() -> _Opening:
            keys = [fuses[k].key for k in opened]
            return _Opening(keys, first.fast_s, None, None, first.also, "alone", first.beyond)

        for _ in range(_MOST_STEPS):
            pull = self._pull(nodes, weights, gone)
            ohm = own + float(weights @ pull[nodes])
            current = max(0.0, float(weights @ v[nodes])) / ohm if ohm > 0 else 0.0
            if not opened:
                first_a = current
            if current <= _OVER_FRAC * first_a or current < 1e-6:
                break
            node_v = v - pull * current
            through = (node_v[self.a] - node_v[self.b]) / self.r if len(fuses) else np.empty(0)
            for run in gone_runs:
                for k in self.in_run[run]:
                    through[k] = current if run == site.run and k not in opened else 0.0
            for k in self.in_run.get(site.run, []) if site.run not in gone_runs else []:
                through[k] += weights[0] * current if fuses[k].at_start else -weights[1] * current
            flowing = np.abs(through)
            times = self.set.at(flowing)
            slow, fast = times.slow.copy(), times.fast
            slow[opened] = np.inf
            # By the heat let through: beyond the last point of a fuse its time is only a bound.
            ends = np.where(np.isfinite(slow) & (flowing > 0), times.heat / np.maximum(flowing, 1e-9) ** 2, np.inf)
            left = np.where(np.isfinite(ends), (1 - used) * np.where(np.isfinite(ends), ends, 0.0), np.inf)
            # Equal fuses side by side would be told apart by the last digit of their currents: the first of them opens.
            best = int(np.argmax(left <= max(0.0, left.min()) * (1 + _TIE) + _TIE)) if len(left) else -1
            if best < 0 or not np.isfinite(left[best]):
                return unfinished()
            span = float(left[best])
            if not opened:
                # What carries less than the opener stands beside it, in another feed, and is not meant.
                way = np.flatnonzero(flowing >= flowing[best] * 0.999).tolist()
                first = _one_way(
                    [fuses[k].key for k in way],
                    fast[way].tolist(),
                    slow[way].tolist(),
                    times.heat[way].tolist(),
                    times.least[way].tolist(),
                )
            used_before = used.copy()
            used += np.where(np.isfinite(ends) & (ends > 0), span / np.where(ends > 0, ends, 1.0), 0.0)
            # Told is the published time; what it is ordered by may be a bound below it.
            shown_s += (1 - float(used_before[best])) * float(slow[best])
            wire_a = self._in_wire(site, gone_runs, node_v, weights, current)
            heat += np.minimum(wire_a**2 * span, times.heat[best] * (wire_a / max(flowing[best], 1e-9)) ** 2)
            opened.append(best)
            here = fuses[best]
            if here.run not in gone_runs:
                taken = self._without(here.run, gone)
                v = v + taken.along * taken.scale * (v[taken.a] - v[taken.b])
                gone.append(taken)
                gone_runs.add(here.run)
                if here.run == site.run:
                    # From now on only the other end feeds the fault.
                    r, lam = float(self.legs[2 * site.run]), float(weights[1])
                    own -= lam * (1 - lam) * r
                    own += (1 - lam) * r if here.at_start else lam * r
                    weights[0], weights[1] = (0.0, 1.0) if here.at_start else (1.0, 0.0)
            elif here.run == site.run:
                break
        else:
            return unfinished()
        keys = [fuses[k].key for k in opened]
        return _Opening(keys, first.fast_s, shown_s, float(heat.max()), first.also, first.selective, first.beyond)

    def _in_wire(self, site: Site, gone: set[int], node_v: Floats, weights: Floats, current: float) -> Floats:
        """What comes to the fault along its wire from its start and from its finish. [A]"""
        if site.run < 0:
            return np.full(2, current)
        if site.run in gone:
            return current * np.abs(weights[:2])
        circuit, at = self.study.sized.wiring.circuit, 2 * site.run
        along = float(node_v[circuit.conductor_from[at]] - node_v[circuit.conductor_to[at]]) / float(self.legs[at])
        from_start = abs(float(weights[0]) * current + along) if weights[1] > 1e-6 else 0.0
        from_finish = abs(float(weights[1]) * current - along) if weights[0] > 1e-6 else 0.0
        return np.array([from_start, from_finish])

    def _pull(self, nodes: Ints, weights: Floats, gone: list[_Gone]) -> Floats:
        """How far one ampere drawn at some nodes pulls each node down, with what has opened. [Ω]"""
        pull: Floats = weights @ self.z[nodes]
        for one in gone:
            pull = pull + one.along * (one.scale * float(one.along[nodes] @ weights))
        return pull

    def _without(self, run: int, gone: list[_Gone]) -> _Gone:
        """Take the positive leg of a run out: a change of rank one (Sherman and Morrison)."""
        circuit = self.study.sized.wiring.circuit
        a, b = circuit.conductor_from[2 * run], circuit.conductor_to[2 * run]
        g = (1 - _OPENED_FRAC) / float(self.legs[2 * run])
        along = self._pull(np.array([a, b]), np.array([1.0, -1.0]), gone)
        return _Gone(a, b, along, g / (1 - g * float(along[a] - along[b])))


def study_faults(plan: Plan, sized: Sized, state: State | None = None, *, back: int | None = None) -> FaultStudy:
    """Bolted shorts at every point and at start, middle and finish of every run.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes.
    state : State, optional
        With the contacts of that state; with every contact closed otherwise, which is where most can flow.
    back : int, optional
        The node every short goes back by, as the body; its own negative otherwise.

    Returns
    -------
    FaultStudy
        Always; a fault nothing opens has no `slow_s`.

    Notes
    -----
    ``I = V / (R_source + R_path)`` from the transfer resistances of the network without loads. The faulted wire's
    temperature follows the adiabatic equation up to 5 s and the heat balance beyond. Where several ways feed a fault,
    fuses open one after the other; each keeps the share of its opening time it has used up.
    """
    figures = sources_of(plan, sized.wiring)
    switched = sized.switching.ordinary if state is None else sized.demand.switched[state.id]
    study = _Study(plan, sized, switched, figures, back)
    if not figures or not study.sites:
        return FaultStudy({}, {}, figures, meshed=False)
    strongest = study.keep_strongest(study.network(strongest=True, whole=False).currents_a(*study.ports(study.cold)))
    several = study.fed_several_ways()
    meshed = bool(several.any())
    weak = study.network(strongest=False, whole=meshed)
    nodes, weights, own = study.ports(study.warm)
    weakest = weak.currents_a(nodes, weights, own)
    openings = _openings_on_a_tree(study, np.where(several, 0.0, weakest))
    if meshed:
        runner = _Meshed(study, weak, study.warm)
        for k in np.flatnonzero(several & (weakest > 0)).tolist():
            openings[k] = runner.run(study.sites[k], nodes[k], weights[k], float(own[k]))
    reached, limits = _wire_temperatures(study, openings)
    of_run: dict[str, list[Fault]] = {}
    of_point: dict[str, Fault] = {}
    for k, site in enumerate(study.sites):
        end = openings[k]
        fault = Fault(
            subject=site.subject,
            where=site.where,
            strongest_a=float(strongest[k]),
            weakest_a=float(weakest[k]),
            openers=end.openers,
            fast_s=end.fast_s,
            slow_s=end.slow_s,
            heat_a2s=end.heat_a2s,
            wire_c=reached[k],
            limit_c=limits[k],
            selective=end.selective,
            also_opens=end.also,
            beyond_points=end.beyond,
        )
        if site.where == "point":
            of_point[site.subject] = fault
        else:
            of_run.setdefault(site.subject, []).append(fault)
    return FaultStudy(of_run, of_point, figures, meshed)


def _openings_on_a_tree(study: _Study, weakest: Floats) -> list[_Opening]:
    topology = study.sized.topology
    by_key = {one.key: at for at, one in enumerate(study.fuses)}
    on_the_way: dict[str, list[int]] = {}
    for run_id in topology.order:
        own = [by_key[key] for key in (run_id, far_key(run_id)) if key in by_key]
        on_the_way[topology.finish_of[run_id]] = on_the_way.get(topology.start_of[run_id], []) + own
    ways: list[list[int]] = []
    for site, current in zip(study.sites, weakest.tolist(), strict=True):
        if current <= 0:
            ways.append([])
        elif site.run < 0:
            ways.append(on_the_way.get(feed_name(topology, site.subject), []))
        else:
            # A fault in a run lies behind the fuse at its fed end and before the one at its far end.
            own_fuse = by_key.get(site.subject)
            before = on_the_way.get(topology.start_of.get(site.subject, ""), [])
            ways.append(before + ([] if own_fuse is None else [own_fuse]))
    flat = [fuse for way in ways for fuse in way]
    amps = np.repeat(weakest, [len(way) for way in ways])
    times = opening_of([study.fuses[fuse] for fuse in flat], amps)
    fast, slow, heat, least = (one.tolist() for one in (times.fast, times.slow, times.heat, times.least))
    out, at = [], 0
    for way in ways:
        to = at + len(way)
        keys = [study.fuses[fuse].key for fuse in way]
        out.append(_one_way(keys, fast[at:to], slow[at:to], heat[at:to], least[at:to]))
        at = to
    return out


def _wire_temperatures(study: _Study, openings: list[_Opening]) -> tuple[list[float | None], list[float | None]]:
    """What the faulted wire reaches, and what its insulation stands, per site."""
    plan, sized = study.plan, study.sized
    reached: list[float | None] = [None] * len(study.sites)
    limits: list[float | None] = [None] * len(study.sites)
    rows = [k for k, site in enumerate(study.sites) if site.run >= 0]
    if not rows:
        return reached, limits
    runs = [plan.runs[study.sites[k].run] for k in rows]
    options = [sized.chosen[run.id] for run in runs]
    heat = np.array([h if (h := openings[k].heat_a2s) is not None else np.nan for k in rows])
    time_s = np.array([t if (t := openings[k].slow_s) is not None else np.nan for k in rows])
    start_c = np.array([one.temp_c for one in options])
    struck = Struck(
        area_mm2=np.array([one.size.area_mm2 for one in options]),
        resistance_20_ohm_per_m=np.array([one.size.resistance_20_ohm_per_m for one in options]),
        parallel=np.array([run.parallel for run in runs], dtype=float),
        start_c=start_c,
        ambient_c=np.array([sized.cases[run.id].around.ambient_c for run in runs]),
    )
    end_c = reached_c(struck, heat, time_s)
    for index, k in enumerate(rows):
        limits[k] = short_time_limit(sized.cases[runs[index].id].insulation_c)[0]
        near = "start" if fed_by_start(sized.topology, runs[index]) else "finish"
        if study.sites[k].where == near and not _feeds_both(study, k):
            reached[k] = float(start_c[index])
        elif openings[k].slow_s is not None:
            reached[k] = float(end_c[index])
    return reached, limits


def _feeds_both(study: _Study, site: int) -> bool:
    return study.sites[site].subject in study.sized.topology.both_fed
