"""Which fuse each run gets, and which fuse protects it. What the wire must be for that stands in `options.py`."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.demand import Demand
from lucernis.core.fuses import ChosenFuse, choose_fuse, family, least_fuse_a
from lucernis.core.topology import Topology, path_runs
from lucernis.plan.model import Battery, Fuse, FuseBlock, Load, Plan, Run
from lucernis.practice.rules import FuseFamily, Rules


@dataclass(frozen=True, slots=True)
class RunFuse:
    """The fuse at the fed end of a run.

    `fuse` is None where no family makes a rating that high. `computed` is what it would be without a pin.
    `maker_cap_a` is the lowest fuse a maker allows behind it.
    """

    distance_m: float
    least_a: float
    families: tuple[FuseFamily, ...]
    maker_cap_a: float | None
    maker_loads: tuple[str, ...]
    fuse: ChosenFuse | None
    computed: ChosenFuse | None
    pin_reason: str
    school_note: str


def fed_fuse(run: Run, fed_from: str) -> Fuse | None:
    """The fuse at the end of a run that current comes in by."""
    return run.fuse_at_start if run.start.part == fed_from else run.fuse_at_finish


def far_fuse(run: Run, fed_from: str) -> Fuse | None:
    """The fuse at the other end."""
    return run.fuse_at_finish if run.start.part == fed_from else run.fuse_at_start


def _families(topology: Topology, run: Run, fed_from: str, rules: Rules) -> tuple[FuseFamily, ...]:
    part = topology.parts[fed_from]
    far = topology.parts[run.finish.part if run.start.part == fed_from else run.start.part]
    # A single device on the battery hangs on an in-line branch fuse: main families begin far above it.
    if isinstance(part, Battery) and not isinstance(far, Load):
        return rules.values.main_families
    if isinstance(part, FuseBlock) and run.start.part == fed_from:
        return (part.family,)
    return rules.values.branch_families


def _guarded_loads(topology: Topology) -> dict[str, list[str]]:
    """For each run with a fuse the loads whose nearest fuse it is."""
    nearest: dict[str, str | None] = {}
    guarded: dict[str, list[str]] = {run_id: [] for run_id in (*topology.order, *topology.closing)}
    for run_id in topology.order:
        start = topology.start_of[run_id]
        own = fed_fuse(topology.runs[run_id], start) is not None
        guard = run_id if own else nearest.get(start)
        finish = topology.finish_of[run_id]
        nearest[finish] = guard
        if guard is not None:
            guarded[guard].append(finish)
    return {run_id: [part for part in parts if part in topology.load_ids] for run_id, parts in guarded.items()}


def _pinned(fuse: Fuse, families: tuple[FuseFamily, ...]) -> ChosenFuse | None:
    if fuse.pin is None:
        return None
    making = [name for name in families if fuse.pin.rating_a in family(name).ratings_a]
    name = fuse.pin.family or (making[0] if making else families[0])
    return ChosenFuse(name, family(name).label, fuse.pin.rating_a, pinned=True)


def choose_fuses(plan: Plan, topology: Topology, demand: Demand, rules: Rules) -> dict[str, RunFuse]:
    """Fuse of every run that has one at its fed end.

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
        Run id to `RunFuse`.

    Notes
    -----
    Next made rating at or above ``m · Ib``. Where one load alone hangs on the run and its maker names a fuse, that
    fuse is taken if it is made and not below the load: the maker's sheet wins. With several loads the lowest named
    fuse is an upper limit. Only loads without another fuse before them count.
    """
    loads = {part.id: part for part in plan.parts if isinstance(part, Load)}
    guarded = _guarded_loads(topology)
    chosen: dict[str, RunFuse] = {}
    for run_id in (*topology.order, *topology.closing):
        run, fed_from = topology.runs[run_id], topology.start_of[run_id]
        fuse = fed_fuse(run, fed_from)
        if fuse is None:
            continue
        families = _families(topology, run, fed_from, rules)
        design_a = demand.design_current_a[run_id]
        least_a = least_fuse_a(design_a, rules.values.fuse_over_load)
        behind = [loads[load] for load in guarded[run_id]]
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
        pinned = _pinned(fuse, families)
        chosen[run_id] = RunFuse(
            distance_m=fuse.distance_m,
            least_a=least_a,
            families=families,
            maker_cap_a=cap_a,
            maker_loads=tuple(load.id for load in makers),
            fuse=pinned or computed,
            computed=computed,
            pin_reason=fuse.pin.reason if fuse.pin else "",
            school_note=note,
        )
    return chosen


def protecting_run(topology: Topology, fuses: dict[str, RunFuse], run_id: str) -> str | None:
    """The run whose fuse protects this one: its own, else the nearest towards the battery; None where there is none.

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
        Id of the run that carries the fuse.
    """
    if run_id in fuses:
        return run_id
    for upstream in reversed(path_runs(topology, topology.start_of[run_id])):
        if upstream in fuses:
            return upstream
    return None
