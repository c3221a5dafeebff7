"""Which fuse each run gets, and which fuse protects it. What the wire must be for that stands in `options.py`."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.circuit.topology import Topology, path_runs
from lucernis.core.protection.fuses import ChosenFuse, choose_fuse, family, least_fuse_a
from lucernis.core.sizing.demand import Demand
from lucernis.plan.model import Battery, Fuse, FuseBlock, Load, Plan, Run
from lucernis.practice.rules import FuseFamily, Rules


@dataclass(frozen=True, slots=True)
class RunFuse:
    """The fuse at one end of a run.

    `fuse` is None where no family makes a rating that high. `computed` is what it would be without a pin.
    `maker_cap_a` is the lowest fuse a maker allows behind it. `count` of them stand side by side where each of
    several conductors in parallel has its own; `rating_a` and `least_a` are then those of one.
    """

    distance_m: float
    sheathed: bool
    sealed_holder: bool
    count: int
    least_a: float
    families: tuple[FuseFamily, ...]
    maker_cap_a: float | None
    maker_loads: tuple[str, ...]
    fuse: ChosenFuse | None
    computed: ChosenFuse | None
    pin_reason: str
    school_note: str

    @property
    def lasting_a(self) -> float | None:
        """What it lets through for ever, all conductors together. [A]"""
        return self.count * self.fuse.rating_a if self.fuse is not None else None


def fed_by_start(topology: Topology, run: Run) -> bool:
    """Whether current comes in by the run's own start; so it is taken where no battery feeds it."""
    return topology.start_of.get(run.id, topology.ends(run)[0]) == topology.ends(run)[0]


def fed_fuse(topology: Topology, run: Run) -> Fuse | None:
    """The fuse at the end of a run that current comes in by."""
    return run.fuse_at_start if fed_by_start(topology, run) else run.fuse_at_finish


def far_fuse(topology: Topology, run: Run) -> Fuse | None:
    """The fuse at the other end."""
    return run.fuse_at_finish if fed_by_start(topology, run) else run.fuse_at_start


def _families(topology: Topology, run: Run, fuse: Fuse, rules: Rules, *, at_far_end: bool) -> tuple[FuseFamily, ...]:
    if fuse.family is not None:
        return (fuse.family,)
    at_start = fed_by_start(topology, run) != at_far_end
    here, there = (run.start, run.finish) if at_start else (run.finish, run.start)
    part, far = topology.parts[here.part], topology.parts[there.part]
    # A single device on the battery hangs on an in-line branch fuse: main families begin far above it.
    if isinstance(part, Battery) and not isinstance(far, Load):
        return rules.values.main_families
    if isinstance(part, FuseBlock) and here.way is not None:
        return (part.family,)
    return rules.values.branch_families


def far_key(run_id: str) -> str:
    """Name of the fuse at the far end of a run; that at its fed end goes by the run's id alone."""
    return f"{run_id}:far"


def fuse_run(key: str) -> str:
    """The run a fuse stands in."""
    return key.partition(":")[0]


def nearest_fuses(topology: Topology) -> dict[str, str | None]:
    """For every feed point the fuse that guards it on the way from the battery, None where there is none."""
    nearest: dict[str, str | None] = {}
    for run_id in topology.order:
        run, start, finish = topology.runs[run_id], topology.start_of[run_id], topology.finish_of[run_id]
        guard = nearest.get(start)
        if fed_fuse(topology, run) is not None:
            guard = run_id
        if far_fuse(topology, run) is not None:
            guard = far_key(run_id)
        nearest[finish] = guard
    return nearest


def _guarded_loads(topology: Topology) -> dict[str, list[Load]]:
    """For each fuse the loads whose nearest fuse it is."""
    guarded: dict[str, list[Load]] = {}
    for finish, guard in nearest_fuses(topology).items():
        part = topology.parts.get(finish)
        if guard is not None and isinstance(part, Load):
            guarded.setdefault(guard, []).append(part)
    return guarded


def _pinned(fuse: Fuse, families: tuple[FuseFamily, ...]) -> ChosenFuse | None:
    if fuse.pin is None:
        return None
    making = [name for name in families if fuse.pin.rating_a in family(name).ratings_a]
    name = fuse.pin.family or (making[0] if making else families[0])
    return ChosenFuse(name, family(name).label, fuse.pin.rating_a, pinned=True)


def choose_fuses(plan: Plan, topology: Topology, demand: Demand, rules: Rules) -> dict[str, RunFuse]:
    """The fuse at each end of a run that has one.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    demand : Demand
        Design currents.
    rules : Rules
        Families and schools.

    Returns
    -------
    dict
        Fuse key to `RunFuse`: the run's id for the fed end, `far_key` for the other.

    Notes
    -----
    Next made rating at or above ``m · Ib``. Where one load alone hangs on the run and its maker names a fuse, that
    fuse is taken if it is made and not below the load: the maker's sheet wins. With several loads the lowest named
    fuse is an upper limit. Only loads without another fuse before them count.
    """
    guarded = _guarded_loads(topology)
    chosen: dict[str, RunFuse] = {}
    for run_id in (*topology.order, *topology.closing):
        run = topology.runs[run_id]
        design_a = demand.design_current_a[run_id]
        for key, fuse, at_far_end in (
            (run_id, fed_fuse(topology, run), False),
            (far_key(run_id), far_fuse(topology, run), True),
        ):
            if fuse is not None:
                families = _families(topology, run, fuse, rules, at_far_end=at_far_end)
                chosen[key] = _choose(plan, run, fuse, families, design_a, guarded.get(key, []), rules)
    return chosen


def _choose(
    plan: Plan,
    run: Run,
    fuse: Fuse,
    families: tuple[FuseFamily, ...],
    design_a: float,
    behind: list[Load],
    rules: Rules,
) -> RunFuse:
    count = run.parallel if fuse.each else 1
    least_a = least_fuse_a(design_a / count, rules.values.fuse_over_load)
    makers = [load for load in behind if load.maker.fuse_a is not None]
    cap_a = min((load.maker.fuse_a for load in makers if load.maker.fuse_a is not None), default=None)
    note = ""
    computed = choose_fuse(families, least_a, system_v=plan.nominal_v)
    if cap_a is not None and len(behind) == 1 and cap_a >= design_a:
        made = [
            (name, rating)
            for name in families
            for rating in family(name).ratings_a
            if design_a <= rating <= cap_a and family(name).max_v >= plan.nominal_v
        ]
        if made:
            best_a = max(rating for _, rating in made)
            name = next(name for name, rating in made if rating == best_a)
            computed = ChosenFuse(name, family(name).label, best_a, pinned=False)
            note = f"the maker of {behind[0].name} names {cap_a:g} A"
    return RunFuse(
        distance_m=fuse.distance_m,
        sheathed=fuse.sheathed,
        sealed_holder=fuse.holder == "sealed",
        count=count,
        least_a=least_a,
        families=families,
        maker_cap_a=cap_a,
        maker_loads=tuple(load.id for load in makers),
        fuse=_pinned(fuse, families) or computed,
        computed=computed,
        pin_reason=fuse.pin.reason if fuse.pin else "",
        school_note=note,
    )


def protecting_fuse(topology: Topology, fuses: dict[str, RunFuse], run_id: str) -> str | None:
    """The fuse that protects a run: its own, else the nearest towards the battery; None where there is none.

    Parameters
    ----------
    topology : Topology
        The feeding tree.
    fuses : dict
        From `choose_fuses`.
    run_id : str
        The run to protect.

    Returns
    -------
    str or None
        Key of the fuse: the id of the run it stands in, or its `far_key`.
    """
    if run_id in fuses:
        return run_id
    for upstream in reversed(path_runs(topology, topology.start_of[run_id])):
        for key in (far_key(upstream), upstream):
            if key in fuses:
                return key
    return None
