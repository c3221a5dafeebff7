"""Which fuse each run gets, and which fuse protects it. What the wire must be for that stands in `options.py`."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

from lucernis.core.circuit.batteries import strings_of
from lucernis.core.circuit.topology import Topology
from lucernis.core.protection.fuse_curves import breaking_capacity
from lucernis.core.protection.fuses import LONG_FACTOR, NEXT_FACTOR, ChosenFuse, choose_fuse, family
from lucernis.core.sizing.demand import Demand
from lucernis.core.sizing.ends import holder_takes
from lucernis.core.sizing.endurance import Stress, stress_of
from lucernis.core.sizing.places import zone_of_places
from lucernis.core.wire.copper import WireSize
from lucernis.plan.layout import usual_zone
from lucernis.plan.model import Battery, Busbar, End, Fuse, FuseBlock, Joint, Load, Part, Plan, Run, Switch
from lucernis.practice.rules import FuseFamily, Rules, RuleValues


@dataclass(frozen=True, slots=True)
class RunFuse:
    """The fuse at one end of a run.

    `fuse` is None where no family makes a rating that high. `computed` is what it would be without a pin.
    `maker_cap_a` is the lowest fuse a maker allows behind it. `carry_a` is the most that flows through it lastingly,
    all together, `break_a` in the strongest short behind or before it. `count` of them stand side by side where each of
    several conductors in parallel has its own; `rating_a` and `least_a` are then those of one. `asked_a` is
    what the school asks, `least_a` what it was chosen for.
    """

    distance_m: float
    sheathed: bool
    sealed_holder: bool
    count: int
    least_a: float
    asked_a: float
    carry_a: float
    break_a: float
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


# What is tried where the families of the practice set do not do: at a battery, and elsewhere. In order of price.
_MORE_MAIN: tuple[FuseFamily, ...] = ("bolt_m8", "post_block", "anl", "class_t")
_MORE_BRANCH: tuple[FuseFamily, ...] = ("blade_regular", "blade_maxi", "bolt_m5", "bolt_m8", "anl", "class_t")
# What is made small and breaks much: for an alarm or a meter lead straight on a battery, in a dry place.
_SMALL_AT_A_POST: FuseFamily = "breaker_magnetic"
# A fuse so many times what is asked is taken only where nothing nearer does, and one beyond the second not at all: the
# wire would have to stand it.
_FAR_ABOVE = 2.0
_TOO_FAR = 5.0
_SMALL_A = 40.0
# The smallest blade on a shelf is close to any load, the largest is where main fuses begin.
_LEAST_BLADE_A = 5.0
_MOST_BLADE_A = 30.0


def _stands_at(topology: Topology, run: Run, *, at_far_end: bool) -> tuple[End, Part, Part]:
    """Where a fuse stands: the end of its run, the part there, the part at the other end."""
    at_start = fed_by_start(topology, run) != at_far_end
    here, there = (run.start, run.finish) if at_start else (run.finish, run.start)
    return here, topology.parts[here.part], topology.parts[there.part]


def growth_frac(topology: Topology, run: Run, values: RuleValues) -> float:
    """Room to grow of a run: that of the rule where it feeds a block, none elsewhere. [1]"""
    feeds_block = run.id in topology.finish_of and isinstance(topology.line_end_part(run), FuseBlock)
    return values.growth_frac if feeds_block and run.planned_a is None else 0.0


def _families(
    topology: Topology, run: Run, fuse: Fuse, rules: Rules, carry_a: float, *, at_far_end: bool, dry: bool
) -> tuple[tuple[FuseFamily, ...], tuple[FuseFamily, ...]]:
    """Families in order of choice, and those to fall back on."""
    if fuse.family is not None:
        return (fuse.family,), ()
    here, part, far = _stands_at(topology, run, at_far_end=at_far_end)
    if isinstance(far, Joint) and not at_far_end:
        far = topology.line_end_part(run)
    if isinstance(part, FuseBlock) and here.way is not None:
        return (part.family,), ()
    # A single device or a small thing on the battery hangs on an in-line branch fuse: main families begin far above it.
    small = LONG_FACTOR * carry_a <= _MOST_BLADE_A and not isinstance(far, FuseBlock | Busbar | Battery | Switch)
    main = isinstance(part, Battery) and not isinstance(far, Load) and not small
    wanted, more = (rules.values.main_families, _MORE_MAIN) if main else (rules.values.branch_families, _MORE_BRANCH)
    if small and isinstance(part, Battery) and dry:
        more = (*more, _SMALL_AT_A_POST)
    found = [name for name in wanted if name != "post_block" or isinstance(part, Battery)]
    more = tuple(name for name in more if name not in found and (name != "post_block" or isinstance(part, Battery)))
    return tuple(found) or more, more if found else ()


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


@dataclass(slots=True)
class Needs:
    """What the sizes chosen so far have shown, kept from round to round and never taken back.

    `carry_a` is what was solved to flow in a run, `break_a` the strongest short through a fuse, `least_mm2` the copper
    a run must have to stand its fuse or to let it open, or so that strings share evenly (those in `evened`), `holds`
    the wire a fuse's holder has to take. Fuses in `modest` stand only just above their load, because no wire there is
    stands the one the school asks for. `stepped_for` has, for consumers whose drop limit asks for more than a plug
    takes, the runs one steps down from; none where that did not help either.
    """

    carry_a: dict[str, float] = field(default_factory=dict)
    break_a: dict[str, float] = field(default_factory=dict)
    least_mm2: dict[str, float] = field(default_factory=dict)
    holds: dict[str, WireSize] = field(default_factory=dict)
    modest: set[str] = field(default_factory=set)
    evened: set[str] = field(default_factory=set)
    stepped_for: dict[str, frozenset[str]] = field(default_factory=dict)

    @property
    def stepped(self) -> frozenset[str]:
        """Runs that may be thicker than any usual terminal at their end."""
        return frozenset().union(*self.stepped_for.values())


@dataclass(frozen=True, slots=True)
class _Conditions:
    """What a fuse has to be for its place."""

    volts: float
    nominal_v: float
    break_a: float
    backed_a: float
    protected: bool
    holds: WireSize | None
    stress: Stress
    next_a: float

    def passes(self, name: FuseFamily, *, backed: bool) -> bool:
        """Whether a family does: by its own strength, or with a stronger fuse before it."""
        made = family(name)
        if made.max_v < self.nominal_v or (self.protected and not made.ignition_protected):
            return False
        if self.holds is not None and not holder_takes(name, self.holds):
            return False
        breaks = breaking_capacity(name, self.volts).breaking_a
        if breaks is None:
            return False
        return breaks >= self.break_a or (backed and self.backed_a >= self.break_a)


def _made(name: FuseFamily, least_a: float, rules: Rules, conditions: _Conditions) -> ChosenFuse | None:
    """The smallest rating of a family on the shelf that holds the load, its starts and its cycles."""
    stock = rules.values.stock_a
    chosen = choose_fuse((name,), least_a, system_v=conditions.nominal_v, stock_a=stock)
    while chosen is not None and not conditions.stress.survives(name, chosen.rating_a):
        above = chosen.rating_a * 1.001
        chosen = choose_fuse((name,), above, system_v=conditions.nominal_v, stock_a=stock)
    return chosen


def _pick(
    wanted: tuple[FuseFamily, ...],
    more: tuple[FuseFamily, ...],
    least_a: float,
    rules: Rules,
    conditions: _Conditions,
) -> ChosenFuse | None:
    """The first family that does all that is asked, at its smallest rating on the shelf.

    The families of the practice set come first, by their own strength, then with a stronger fuse before them, as is
    usual behind a main fuse; then others. One far above the load is taken only where nothing nearer does.
    """
    families = (*wanted, *more)
    made = {name: chosen for name in families if (chosen := _made(name, least_a, rules, conditions))}
    if not any(conditions.passes(name, backed=True) for name in made):
        # At the end of a family its last rating does, if it holds the load at all; the checks say that it runs warm.
        warm_a = min(least_a, conditions.next_a)
        rest = [name for name in families if name not in made]
        made |= {name: last for name in rest if (last := _made(name, warm_a, rules, conditions))}
    if not made:
        # No family there is rides through the starts: the checks say so.
        calm = replace(conditions, stress=Stress((), 0.0, (), ()))
        made = {name: chosen for name in families if (chosen := _made(name, least_a, rules, calm))}
    close_a = max(_FAR_ABOVE * least_a, _LEAST_BLADE_A)
    near_a, far_a = max(close_a, _SMALL_A), max(_TOO_FAR * least_a, 2 * _SMALL_A)
    if least_a * _TOO_FAR < _SMALL_A:
        # A small thing never gets a fuse its wire would have to be made thick for.
        near_a = far_a = max(close_a, _TOO_FAR * least_a)
    stages = [
        [made[name] for name in families if name in made and conditions.passes(name, backed=backed)]
        for backed, families in ((False, wanted), (True, wanted), (False, more), (True, more))
    ]
    for most_a, tried in ((close_a, stages[:2]), (near_a, stages)):
        for stage in tried:
            near = [one for one in stage if one.rating_a <= most_a]
            if near:
                return near[0]
    for stage in stages:
        far = [one for one in stage if one.rating_a <= far_a]
        if far:
            return min(far, key=lambda one: one.rating_a)
    # Nothing does it all: the strongest that is made near the load, so that what is missing is least.
    fitting = [one for one in made.values() if one.rating_a <= far_a] or list(made.values())
    return max(
        fitting,
        key=lambda one: (breaking_capacity(one.family, conditions.volts).breaking_a or 0.0, -one.rating_a),
        default=None,
    )


def _pinned(fuse: Fuse, families: tuple[FuseFamily, ...], conditions: _Conditions) -> ChosenFuse | None:
    if fuse.pin is None:
        return None
    making = [name for name in families if fuse.pin.rating_a in family(name).ratings_a]
    doing = [name for name in making if conditions.passes(name, backed=True)]
    name: FuseFamily = fuse.pin.family or [*doing, *making, *families][0]
    return ChosenFuse(name, family(name).label, fuse.pin.rating_a, pinned=True)


def choose_fuses(
    plan: Plan, topology: Topology, demand: Demand, rules: Rules, needs: Needs | None = None
) -> dict[str, RunFuse]:
    """The fuse at each end of a run that has one.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    demand : Demand
        What the runs carry.
    rules : Rules
        Families and schools.
    needs : Needs, optional
        What earlier rounds found out.

    Returns
    -------
    dict
        Fuse key to `RunFuse`: the run's id for the fed end, `far_key` for the other.

    Notes
    -----
    Next rating on the shelf at or above ``m · I``. Where one load alone hangs on the run and its maker names a fuse,
    that fuse is taken if it is made and not below the load: the maker's sheet wins. With several loads the lowest
    named fuse is an upper limit. Only loads without another fuse before them count. The family is the first that
    breaks what flows where it stands, or has a stronger fuse before it, and suits its place and its wire.
    """
    needs = needs or Needs()
    guarded = _guarded_loads(topology)
    zones = zone_of_places(plan)
    chosen: dict[str, RunFuse] = {}
    before: dict[str, float] = {}
    each_fused = strings_are_fused(plan)
    batteries = {part.id for part in plan.parts if isinstance(part, Battery)}
    for run_id in (*topology.order, *topology.closing):
        run = topology.runs[run_id]
        backed_a = before.get(topology.start_of[run_id], 0.0)
        if each_fused and not batteries & {run.start.part, run.finish.part}:
            # Each string's own fuse breaks that string's share, whatever they give together.
            backed_a = math.inf
        for key, fuse, at_far_end in (
            (run_id, fed_fuse(topology, run), False),
            (far_key(run_id), far_fuse(topology, run), True),
        ):
            if fuse is None:
                continue
            end, part, _ = _stands_at(topology, run, at_far_end=at_far_end)
            zone = zones.get(f"place {part.place}") or zones.get(run.zone) or usual_zone(plan.zones)
            in_way = isinstance(part, FuseBlock) and end.way is not None
            conditions = _Conditions(
                volts=charging_table_v(plan),
                nominal_v=float(plan.nominal_v),
                break_a=needs.break_a.get(key, 0.0),
                backed_a=backed_a,
                protected=zone.vapour,
                holds=None if in_way else needs.holds.get(key),
                next_a=NEXT_FACTOR
                * max(demand.carry_a[run_id], needs.carry_a.get(run_id, 0.0))
                / (run.parallel if fuse.each else 1),
                stress=stress_of(_loads_behind(topology, run), demand.loads, demand.carry_a[run_id]),
            )
            dry = not (zone.engine_space or zone.wet)
            flows_a = max(demand.carry_a[run_id], needs.carry_a.get(run_id, 0.0))
            families = _families(topology, run, fuse, rules, flows_a, at_far_end=at_far_end, dry=dry)
            made = _choose(
                topology,
                run,
                fuse,
                families,
                demand,
                needs,
                guarded.get(key, []),
                rules,
                conditions,
                modest=key in needs.modest,
            )
            # In an engine space a holder is a sealed one unless a person says otherwise.
            sealed = fuse.holder == "sealed" or (fuse.holder is None and zone.engine_space and not in_way)
            chosen[key] = replace(made, sealed_holder=sealed)
            if made.fuse is not None:
                breaks = breaking_capacity(made.fuse.family, conditions.volts).breaking_a or 0.0
                backed_a = max(backed_a, breaks)
        before[topology.finish_of[run_id]] = backed_a
    return chosen


def _loads_behind(topology: Topology, run: Run) -> list[Load]:
    return [part for one in topology.loads_behind.get(run.id, ()) if isinstance(part := topology.parts.get(one), Load)]


def strings_are_fused(plan: Plan) -> bool:
    """Whether the bank has several strings and each positive that leaves a battery to elsewhere is fused there."""
    strings = strings_of(plan)
    if len(strings) < 2:
        return False
    house = {one.id for string in strings for one in string}
    for run in plan.runs:
        ends = ((run.start.part, run.fuse_at_start), (run.finish.part, run.fuse_at_finish))
        own = [fuse for part, fuse in ends if part in house]
        if run.legs in ("both", "positive") and own and None in own:
            return False
    return True


def charging_table_v(plan: Plan) -> float:
    """Voltage the table of breaking capacity is entered with: 14 V for each 12 V nominal. [V]"""
    return 14.0 * plan.nominal_v / 12


def _choose(
    topology: Topology,
    run: Run,
    fuse: Fuse,
    families: tuple[tuple[FuseFamily, ...], tuple[FuseFamily, ...]],
    demand: Demand,
    needs: Needs,
    behind: list[Load],
    rules: Rules,
    conditions: _Conditions,
    *,
    modest: bool,
) -> RunFuse:
    wanted, more = families
    count = run.parallel if fuse.each else 1
    design_a = demand.design_current_a[run.id]
    carry_a = max(demand.carry_a[run.id], needs.carry_a.get(run.id, 0.0))
    factor = demand.fuse_least_a[run.id] / demand.carry_a[run.id] if demand.carry_a[run.id] > 0 else NEXT_FACTOR
    asked_a = carry_a * factor / count
    # Room to grow and the school's margin don't stack: whichever asks more.
    grown_a = max(asked_a, carry_a * (1 + growth_frac(topology, run, rules.values)) / count)
    least_a = carry_a * min(factor, NEXT_FACTOR) / count if modest else grown_a
    makers = [load for load in behind if load.maker.fuse_a is not None]
    cap_a = min((load.maker.fuse_a for load in makers if load.maker.fuse_a is not None), default=None)
    note = ""
    computed = _pick(wanted, more, least_a, rules, conditions)
    if cap_a is not None and len(behind) == 1 and cap_a >= design_a:
        made = [
            (name, rating)
            for name in (*wanted, *more)
            for rating in family(name).ratings_a
            if design_a <= rating <= cap_a and family(name).max_v >= conditions.nominal_v
        ]
        doing = [one for one in made if conditions.passes(one[0], backed=True)] or made
        if doing:
            best_a = max(rating for _, rating in doing)
            name = next(name for name, rating in doing if rating == best_a)
            computed = ChosenFuse(name, family(name).label, best_a, pinned=False)
            note = f"the maker of {behind[0].name} names {cap_a:g} A"
    return RunFuse(
        distance_m=fuse.distance_m,
        sheathed=fuse.sheathed,
        sealed_holder=False,
        count=count,
        least_a=least_a,
        asked_a=asked_a,
        carry_a=carry_a,
        break_a=conditions.break_a,
        families=wanted,
        maker_cap_a=cap_a,
        maker_loads=tuple(load.id for load in makers),
        fuse=_pinned(fuse, (*wanted, *more), conditions) or computed,
        computed=computed,
        pin_reason=fuse.pin.reason if fuse.pin else "",
        school_note=note,
    )
