"""What the runs of a bank carry, and those that charging pushes a current through."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lucernis.core.circuit.batteries import acceptance_a, battery_limit, strings_of
from lucernis.core.circuit.sources import alternator_of
from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.circuit.topology import Topology
from lucernis.plan.model import Battery, Part, Plan, Run

# What an alternator is taken to give through a plain link where the plan names none. Common practice, no source.
USUAL_ALTERNATOR_A = 120.0


@dataclass(slots=True)
class Sums:
    """What runs carry: by design volts, at the most, and for a fuse."""

    design: dict[str, float]
    state: dict[str, str]
    carry: dict[str, float]
    least: dict[str, float]
    connected: dict[str, float]

    def raise_to(self, run_id: str, amps: float, factor: float) -> None:
        """Let a run carry at least a current, lastingly."""
        self.design[run_id] = max(self.design.get(run_id, 0.0), amps)
        self.carry[run_id] = max(self.carry.get(run_id, 0.0), amps)
        self.least[run_id] = max(self.least.get(run_id, 0.0), amps * factor)

    def like(self, run_id: str, other: str) -> None:
        """Let a run carry what another does."""
        self.design[run_id], self.state[run_id] = self.design[other], self.state[other]
        self.carry[run_id], self.least[run_id] = self.carry[other], self.least[other]


def make_alike(sums: Sums, cables: Mapping[str, float]) -> None:
    """The cables of strings side by side carry alike, as far as each battery may, so that their fuses are alike too."""
    carry_a = max((sums.carry[one] for one in cables), default=0.0)
    design_a = max((sums.design[one] for one in cables), default=0.0)
    factor = max((sums.least[one] / sums.carry[one] for one in cables if sums.carry[one] > 0), default=1.0)
    for run_id, limit_a in cables.items():
        sums.design[run_id], sums.carry[run_id] = min(design_a, limit_a), min(carry_a, limit_a)
        sums.least[run_id] = sums.carry[run_id] * factor


def bank_runs(plan: Plan, topology: Topology, sums: Sums) -> tuple[frozenset[str], dict[str, float]]:
    """Runs within a bank of several batteries; gives back its links, and the cables of single strings with the most
    their battery lastingly gives or takes [A].

    Where strings stand side by side, a string's own cable carries at most what its battery lastingly gives or takes,
    a link what the other strings give: all but one of equal shares. What really flows is solved later.
    """
    strings = strings_of(plan)
    house = {one.id: one for string in strings for one in string}
    if len(house) < 2:
        return frozenset(), {}
    ends = {run.id: (run.start.part, run.finish.part) for run in plan.runs}
    links = {run.id for run in plan.runs if set(ends[run.id]) <= house.keys()}
    posts: dict[bool, set[str]] = {True: set(), False: set()}
    for run_id in links:
        run = topology.runs[run_id]
        for positive in posts:
            if run.legs in ("both", "positive" if positive else "negative"):
                posts[positive] |= set(ends[run_id])
    touching = [one for one in ends if one not in links and len(house.keys() & set(ends[one])) == 1]
    trunk = max((one for one in touching if one in sums.design), key=lambda one: sums.design[one], default=None)
    if trunk is None:
        return frozenset(links), {}
    # Where cables of several batteries meet, each is a cable of the bank, whichever feeds what hangs there in the tree.
    met: dict[str, set[str]] = {}
    for run_id in touching:
        own_id = next(iter(house.keys() & set(ends[run_id])))
        met.setdefault(next(iter(set(ends[run_id]) - house.keys())), set()).add(own_id)
    cables: dict[str, float] = {}
    design, carry, least, state = sums.design[trunk], sums.carry[trunk], sums.least[trunk], sums.state[trunk]

    def hold(run_id: str, share: float, most_a: float | None = None) -> None:
        scale = share if most_a is None or carry <= 0 else min(share, most_a / carry)
        sums.design[run_id], sums.carry[run_id], sums.least[run_id] = design * scale, carry * scale, least * scale
        sums.state[run_id] = state

    for run_id in links:
        hold(run_id, 1.0 if topology.runs[run_id].legs == "series" else (len(strings) - 1) / len(strings))
    for run_id in touching:
        run = topology.runs[run_id]
        own = house[next(iter(house.keys() & set(ends[run_id])))]
        other = topology.parts[next(iter(set(ends[run_id]) - house.keys()))]
        meets = len(met[other.id]) > 1 and other.kind not in ("load", "charger", "panel")
        of_its_own = 0 < sums.design.get(run_id, 0.0) < design and run_id not in topology.closing and not meets
        if of_its_own or other.kind == "chassis_point" or (run.legs != "negative" and other.kind == "charger"):
            continue
        linked = own.id in posts[True] if run.legs == "positive" else own.id in posts[False]
        linked = linked or (run.legs == "both" and own.id in posts[True])
        # Where a post is linked to others, its cable taps all of the bank.
        limits = max(battery_limit(own, "discharge_a").amps, battery_limit(own, "charge_a").amps)
        own_only = not linked and len(strings) > 1
        for piece in [run_id, *_passed_on(plan, topology, run, other)] if own_only else [run_id]:
            hold(piece, 1.0, limits if own_only else None)
            if own_only:
                cables[piece] = limits
    return frozenset(links), cables


def _passed_on(plan: Plan, topology: Topology, run: Run, part: Part) -> list[str]:
    """Runs that take all of a string's cable further, through a stud, a switch or a measuring shunt each."""
    found: list[str] = []
    while part.kind in ("joint", "switch", "shunt"):
        there = [
            one
            for one in plan.runs
            if part.id in (one.start.part, one.finish.part) and (one.legs == "negative") == (run.legs == "negative")
        ]
        if len(there) != 2 or run not in there:
            break
        run = next(one for one in there if one is not run)
        if run.id in found:
            break
        found.append(run.id)
        part = topology.parts[run.finish.part if run.start.part == part.id else run.start.part]
    return found


def pushed_runs(
    plan: Plan,
    topology: Topology,
    switching: SwitchingPlan,
    sums: Sums,
    lasting: float,
    cables: Mapping[str, float],
) -> frozenset[str]:
    """What charging pushes through a contact between starter and house side; gives back the runs it passes.

    Lead takes its usual greatest rate, lithium all that is given; an alternator gives no more than its rating.
    """
    house = {one.id for string in strings_of(plan) for one in string}
    starters = [part.id for part in plan.parts if isinstance(part, Battery) and part.use == "starter"]
    joins = [
        part.id
        for part in plan.parts
        if part.kind == "isolator" or (part.kind == "relay" and (part.id, "main") in switching.contacts)
    ]
    if not house or not starters or not joins:
        return frozenset()
    found: set[str] = set()
    alternator = alternator_of(plan)
    most_a = alternator.rated_a if alternator is not None else USUAL_ALTERNATOR_A
    takes_a = acceptance_a(plan)
    link_a = most_a if takes_a is None else min(most_a, takes_a)
    for join in joins:
        way = switching.way_between(starters, house, through=join)
        for run_id in way:
            sums.raise_to(run_id, min(link_a, cables.get(run_id, link_a)), lasting)
        found |= set(way)
    return frozenset(found)
