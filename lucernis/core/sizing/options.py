"""Which wire sizes a run may have at all, before the drop is looked at, and what stops the others."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.contacts import chassis_point_ohm, contact_ohm
from lucernis.core.circuit.returns import Returns
from lucernis.core.circuit.supplies import supply_limit_frac
from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.circuit.topology import Topology
from lucernis.core.protection.fuses import family, fuse_resistance_ohm, wire_stands_fuse
from lucernis.core.sizing.both_ends import BothEnds
from lucernis.core.sizing.demand import Demand
from lucernis.core.sizing.ends import Fitting, holder_label, holder_takes, maker_size, run_fittings
from lucernis.core.sizing.fusing import Needs, RunFuse, far_key, fed_fuse, fuse_run, growth_frac, nearest_fuses
from lucernis.core.sizing.places import is_bond, surroundings, zone_of_places
from lucernis.core.sizing.stretch import Option, Stretch, leg_count, make_options
from lucernis.core.wire.ampacity import Surroundings
from lucernis.core.wire.copper import WireSize, wire_size
from lucernis.plan.model import FuseBlock, Load, Part, Plan, Run
from lucernis.practice.rules import DropCounts, FuseFamily, Rules, RuleValues

# Whatever drop asks, up to this a branch may go before `drop_least_a_per_mm2` holds it: 10 AWG. Common practice.
SMALL_MM2 = 6.0
# However warm the place, a conductor may be so much warmer. Common practice, no source. [K]
_ALWAYS_K = 15.0
Reason = Literal[
    "no_figure",
    "load",
    "warm",
    "fuse",
    "least",
    "roof",
    "inverter",
    "maker_least",
    "terminal",
    "holder",
    "output",
    "short",
    "copper",
    "line",
    "taper",
    "shelf",
]


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why a size is not taken: the size, the kind of reason, and the reason in words."""

    label: str
    reason: Reason
    text: str


@dataclass(frozen=True)
class Case:
    """What is known of a run before its size is chosen.

    `options` are the sizes that may be used, thinnest first; where none may, `forced` is True and `options` holds
    the one size shown all the same. `refusals` says what stops the others. `leader` is the run whose size this one
    takes: a negative alone that of its positive, a link of a bank that of its trunk, a run `in_line` that of the first
    of its line. `with_it` are the negatives and the runs of its line that take this run's size, and `beyond_ohm` the
    contacts and shunts its current passes besides: what a choice of size has to reckon with. `counts` tells what a
    drop limit looks at, `guards` are the keys of the fuses it must stand.
    """

    run: Run
    fed_from: str
    insulation_c: int
    around: Surroundings
    design_current_a: float
    carry_a: float
    fuse: RunFuse | None
    protector: str | None
    protector_fuse: RunFuse | None
    options: tuple[Option, ...]
    forced: bool
    refusals: tuple[Refusal, ...]
    fittings: tuple[tuple[Part, Fitting], ...]
    pinned: bool
    leader: str | None
    beyond_ohm: float
    counts: DropCounts
    guards: tuple[str, ...]
    with_it: list[Case] = field(default_factory=list)
    in_line: bool = False

    def followed_by(self, other: Case) -> None:
        """Let another run take this one's size: what a choice costs is then another."""
        self.with_it.append(other)
        for name in ("counted_ohm", "copper", "in_order"):
            self.__dict__.pop(name, None)

    def at_least(self, size: WireSize) -> Option:
        """The thinnest option with no less copper than a size, else the thickest."""
        wanted = size.area_mm2 * 0.999
        return next((one for one in self.options if one.size.area_mm2 >= wanted), self.options[-1])

    @cached_property
    def counted_ohm(self) -> NDArray[np.float64]:
        """What a drop limit counts of each option with all that goes with it, shape (n_options,). [Ω]"""
        if self.counts == "everything":
            own = np.array([option.total_ohm for option in self.options]) + self.beyond_ohm
            for other in self.with_it:
                own += [other.at_least(option.size).total_ohm + other.beyond_ohm for option in self.options]
            return own
        own = np.array([option.wire_loop_ohm for option in self.options])
        for other in self.with_it:
            own += [other.at_least(option.size).wire_loop_ohm for option in self.options]
        return own

    @cached_property
    def copper(self) -> NDArray[np.float64]:
        """Copper of each option, its ends and all that goes with it, shape (n_options,). [mm²·m]"""
        own = np.array([option.cost_mm2_m for option in self.options])
        for other in self.with_it:
            own += [other.at_least(option.size).cost_mm2_m for option in self.options]
        return own

    @cached_property
    def in_order(self) -> bool:
        """Whether each option costs more copper than the one before and loses less, as sizes of one kind do."""
        return bool(np.all(np.diff(self.counted_ohm) < 0) and np.all(np.diff(self.copper) > 0))


@dataclass(frozen=True, slots=True)
class _Guard:
    """A fuse that guards a run: what it lets through into one conductor, its figures, its family's ratings."""

    limit_a: float
    fuse: RunFuse
    family: FuseFamily
    conductors: int

    def stands(self, ampacity_a: float, values: RuleValues) -> bool:
        """Whether a conductor is protected by it."""
        whole = self.fuse.least_a * (1 if self.conductors == 1 else self.fuse.count)
        return wire_stands_fuse(
            ampacity_a,
            self.limit_a,
            load_a=self.fuse.carry_a / (self.fuse.count if self.conductors == 1 else 1),
            least_a=whole,
            made_a=family(self.family).ratings_a,
            school=values.fuse_under_wire,
            conductors=self.conductors,
        )


def guard_limit_a(run: Run, guard_key: str | None, guard: RunFuse | None) -> float | None:
    """What the fuse before a run lets through for ever into one of its conductors. [A]

    A fuse of its own for each conductor is that rating; any other is taken whole, because the other conductors may be
    broken. None where no fuse is chosen.
    """
    if guard is None or guard.fuse is None:
        return None
    return guard.fuse.rating_a if guard_key is not None and fuse_run(guard_key) == run.id else guard.lasting_a


def guard_of(run: Run, key: str | None, fuses: dict[str, RunFuse]) -> _Guard | None:
    """A fuse as the guard of a run's conductors; None where no fuse is chosen."""
    fuse = fuses.get(key) if key is not None else None
    limit_a = guard_limit_a(run, key, fuse)
    if fuse is None or fuse.fuse is None or limit_a is None:
        return None
    each = key is not None and fuse_run(key) == run.id and fuse.count > 1
    return _Guard(limit_a, fuse, fuse.fuse.family, 1 if each else run.parallel)


@dataclass(frozen=True, slots=True)
class _Limits:
    """Everything that may stop a size of one run. Currents are for one conductor."""

    carry_a: float
    guards: tuple[_Guard, ...]
    fittings: tuple[tuple[Part, Fitting], ...]
    makers_least: tuple[Load, WireSize] | None
    holders: tuple[FuseFamily, ...]
    give_v: float | None
    give_a: float
    least_mm2: float
    growth_frac: float
    from_panel: bool
    to_inverter: bool
    from_charger: bool
    ambient_c: float
    stepped: bool
    evens: bool


# What a good installer wants besides gives way in this order, one thing more at a time, where nothing else is left.
Eased = Literal["growth", "density", "reserve", "warm"]
_IN_TURN: tuple[Eased, ...] = ("growth", "density", "reserve", "warm")
EASING = tuple(frozenset(_IN_TURN[:count]) for count in range(len(_IN_TURN) + 1))


def _refusal(
    option: Option, values: RuleValues, limits: _Limits, counts: DropCounts, eased: frozenset[Eased]
) -> tuple[Reason, str] | None:
    """What stops a size, in words, or None, with what is eased left out."""
    size, carried_a = option.size, option.amp.ampacity_a
    if carried_a is None:
        return "no_figure", "the ampacity table gives no figure for it"
    growth_frac = 0.0 if "growth" in eased else limits.growth_frac
    asked_a = limits.carry_a * (1 + max(values.margin_frac, growth_frac))
    if carried_a < asked_a - 1e-9:
        return "load", f"carries {carried_a:.1f} A, {asked_a:.1f} A asked"
    if values.warmest_c and "warm" not in eased:
        warm_c = limits.ambient_c + (option.temp_c - limits.ambient_c) * (1 + growth_frac) ** 2
        most_c = max(values.warmest_c, limits.ambient_c + _ALWAYS_K)
        if warm_c > most_c + 1e-6:
            grown = f" with {100 * growth_frac:g} % more" if growth_frac else ""
            return "warm", f"would run at {warm_c:.1f} °C{grown}, {most_c:g} °C at most"
    for guard in limits.guards:
        if not guard.stands(carried_a, values):
            return "fuse", f"carries {carried_a:.1f} A, its fuse is {guard.limit_a:g} A"
    if size.area_mm2 < values.least_area_mm2 - 1e-9:
        return "least", f"thinner than the least size, {values.least_area_mm2:g} mm²"
    if limits.from_panel and size.area_mm2 < values.roof_least_mm2 * 0.999:
        return "roof", f"thinner than solar cable, {values.roof_least_mm2:g} mm²"
    for wanted, most, of in (
        (limits.to_inverter, values.inverter_a_per_mm2, "an inverter's leads"),
        (limits.from_charger, values.charger_a_per_mm2, "a charger's output"),
    ):
        each_a = limits.carry_a / size.area_mm2
        if wanted and most and "density" not in eased and each_a > most * 1.001:
            return "inverter", f"{each_a:.1f} A for each mm² in {of}, {most:g} at most"
    if size.area_mm2 < limits.least_mm2 * 0.999:
        if limits.evens:
            return "line", "the strings of the bank would share less evenly"
        return "short", "would not stand a short until its fuse opens, or not let it open"
    if limits.makers_least is not None and size.area_mm2 < limits.makers_least[1].area_mm2 * 0.999:
        load, low = limits.makers_least
        return "maker_least", f"thinner than the maker of {load.name} asks, {low.label}"
    if limits.give_v is not None:
        ohm = option.total_ohm if counts == "everything" else option.wire_loop_ohm
        reserve_frac = 0.0 if "reserve" in eased else values.drop_reserve_frac
        if limits.give_a * ohm > limits.give_v * (1 - reserve_frac):
            return "output", f"loses {limits.give_a * ohm:.2f} V of a charger's output, {limits.give_v:.2f} V at most"
    for part, fitting in limits.fittings:
        if not fitting.takes(size) and fitting.stepped != "yes" and not (limits.stepped and fitting.stepped == "last"):
            usual = ", typical" if fitting.typical else ""
            return "terminal", f"thicker than {part.name} takes ({fitting.label}: {fitting.greatest_label}{usual})"
    for holder in limits.holders:
        if not holder_takes(holder, size):
            return "holder", f"thicker than its {holder_label(holder)} takes"
    return None


def maker_end(topology: Topology, run: Run) -> Load | None:
    """The device at the far end of a run whose maker may ask for a least size; of a negative alone that at either."""
    ends = [topology.parts[end.part] for end in (run.finish, run.start)] if run.id in topology.returns else []
    return next((part for part in (*ends, topology.line_end_part(run)) if isinstance(part, Load)), None)


def _give_v(topology: Topology, demand: Demand, rules: Rules, run: Run, nominal_v: float) -> float | None:
    supply = demand.supplies.get(topology.line_end(run))
    if supply is None or not supply.gives:
        return None
    # What all of its line may lose, each run of it by its length.
    whole_m = sum(topology.runs[one].length_m for one in topology.line(run))
    return supply_limit_frac(supply, rules.values) * nominal_v * run.length_m / whole_m


def _own_holders(run: Run, topology: Topology, fuses: dict[str, RunFuse]) -> tuple[FuseFamily, ...]:
    """Families of a run's in-line fuses: their holders limit the wire."""
    found = []
    for fuse, end in ((run.fuse_at_start, run.start), (run.fuse_at_finish, run.finish)):
        in_way = isinstance(topology.parts[end.part], FuseBlock) and end.way is not None
        key = run.id if fuse is fed_fuse(topology, run) else far_key(run.id)
        chosen = fuses.get(key)
        if fuse is not None and not in_way and chosen is not None and chosen.fuse is not None:
            found.append(chosen.fuse.family)
    return tuple(found)


KnownCases = dict[str, tuple[tuple[object, ...], Case]]


def make_cases(
    plan: Plan,
    topology: Topology,
    returns: Returns,
    demand: Demand,
    fuses: dict[str, RunFuse],
    rules: Rules,
    needs: Needs | None = None,
    *,
    ignore_pins: bool = False,
    only: Collection[str] | None = None,
    both: BothEnds | None = None,
    known: KnownCases | None = None,
) -> dict[str, Case]:
    """For every run the sizes it may have.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    returns : Returns
        Which negatives go with which positives.
    demand : Demand
        What the runs carry.
    fuses : dict
        From `choose_fuses`.
    rules : Rules
        Shelf, ampacity table, schools.
    needs : Needs, optional
        What earlier rounds found out.
    ignore_pins : bool
        Compute what a pinned wire would have been.
    only : collection of str, optional
        Ids of the runs wanted; all of them otherwise.
    both : BothEnds, optional
        What guards runs that both ends can feed, where it is known already.
    known : dict, optional
        Cases of earlier rounds by run, with what they were made from: most stay as they are.

    Returns
    -------
    dict
        Run id to `Case`, for every run of the plan.
    """
    values, needs = rules.values, needs or Needs()
    shelf = [wire_size(values.size_system, name, tinned=values.tinned) for name in values.shelf]
    shelf.sort(key=lambda size: size.area_mm2)
    cases: dict[str, Case] = {}
    leaders = _bank_leaders(plan, topology, demand) | returns.leader_of
    zones = zone_of_places(plan)
    both, nearest = both or BothEnds(plan, topology), nearest_fuses(topology)
    for run in plan.runs:
        if only is not None and run.id not in only:
            continue
        fed = run.id not in topology.dead and run.id not in topology.returns and run.id not in topology.spares
        # A negative alone is held to the fuse its current has passed.
        watched = run.id if fed else returns.leader_of.get(run.id) or returns.guard_of.get(run.id)
        protector = None
        if watched is not None:
            protector = watched if watched in fuses else nearest.get(topology.start_of[watched])
        keys: Sequence[str | None] = (protector,)
        if run.id in topology.both_fed and not _free_link(plan, run, rules):
            found = both.of_run(run)
            keys = dict.fromkeys((protector, *found.start.fuses, *found.finish.fuses))  # type: ignore[assignment]
        carry_a = max(demand.carry_a[run.id], demand.design_current_a[run.id], needs.carry_a.get(run.id, 0.0))
        guard = fuses.get(protector) if protector is not None else None
        if guard is not None and guard.fuse is not None and guard.fuse.pinned and not ignore_pins:
            # What a person's fuse does not let through no wire behind it has to carry: the fuse is what is wrong.
            carry_a = min(carry_a, guard.lasting_a or carry_a)
        made_from = (
            ignore_pins, carry_a, needs.least_mm2.get(run.id, 0.0), leaders.get(run.id),
            run.id in needs.stepped, run.id in needs.evened,
            *((key, fuses.get(key)) for key in (run.id, far_key(run.id), *keys) if key is not None),
        )  # fmt: skip
        before = known.get(run.id) if known is not None else None
        if before is not None and before[0] == made_from:
            case = before[1]
            # What took its size then need not now.
            cases[run.id] = replace(case, with_it=[]) if case.with_it else case
            continue
        case = _case(
            plan,
            topology,
            run,
            rules,
            around=surroundings(plan, topology, run, zones, rules),
            design_a=demand.design_current_a[run.id],
            carry_a=carry_a,
            fuses=fuses,
            protector=protector,
            guards={key: one for key in keys if key is not None and (one := guard_of(run, key, fuses)) is not None},
            give_v=_give_v(topology, demand, rules, run, float(plan.nominal_v)) if fed else None,
            least_mm2=needs.least_mm2.get(run.id, 0.0),
            leader=leaders.get(run.id),
            shelf=shelf,
            ignore_pins=ignore_pins,
            stepped=run.id in needs.stepped,
            evens=run.id in needs.evened,
        )
        cases[run.id] = case
        if known is not None:
            known[run.id] = (made_from, case)
    for run_id, leader in leaders.items():
        back = run_id in returns.leader_of or topology.runs[run_id].legs == "negative"
        if back and run_id in cases and leader in cases and not cases[run_id].pinned:
            cases[leader].followed_by(cases[run_id])
    return cases


def _free_link(plan: Plan, run: Run, rules: Rules) -> bool:
    """A jumper between two batteries so short that it needs no fuse of its own."""
    kinds = {part.id: part.kind for part in plan.parts}
    batteries = kinds[run.start.part] == kinds[run.finish.part] == "battery"
    return batteries and run.length_m <= rules.values.link_free_m + 1e-9


def _case(
    plan: Plan,
    topology: Topology,
    run: Run,
    rules: Rules,
    *,
    around: Surroundings,
    design_a: float,
    carry_a: float,
    fuses: dict[str, RunFuse],
    protector: str | None,
    guards: dict[str, _Guard],
    give_v: float | None,
    least_mm2: float,
    leader: str | None,
    shelf: list[WireSize],
    ignore_pins: bool,
    stepped: bool,
    evens: bool,
) -> Case:
    values = rules.values
    own = fuses.get(run.id)
    fuse_ohm = sum(
        (
            fuse_resistance_ohm(one.fuse.family, one.fuse.rating_a) / one.count
            for one in (own, fuses.get(far_key(run.id)))
            if one is not None and one.fuse is not None
        ),
        0.0,
    )
    sizes = shelf
    pinned = run.wire is not None and not ignore_pins
    if pinned and run.wire is not None:
        sizes = [wire_size(run.wire.system, run.wire.size, tinned=values.tinned)]
    fittings = run_fittings(run, topology.parts, carry_a)
    insulation_c = run.insulation_c or values.insulation_c
    stretch = Stretch(
        table=values.ampacity_table,
        length_m=run.length_m,
        legs=leg_count(run),
        parallel=run.parallel,
        insulation_c=insulation_c,
        around=around,
        current_a=carry_a,
        fittings=tuple(fitting for _, fitting in fittings),
        fuse_ohm=fuse_ohm,
        end_worth_m=values.end_worth_m,
        step_worth_m=values.step_worth_m,
    )
    device = maker_end(topology, run)
    low = maker_size(device.maker.least) if device is not None else None
    limits = _Limits(
        carry_a=carry_a / run.parallel,
        guards=tuple(guards.values()),
        fittings=fittings,
        makers_least=(device, low) if device is not None and low is not None else None,
        holders=_own_holders(run, topology, fuses),
        give_v=give_v,
        give_a=design_a,
        least_mm2=least_mm2,
        growth_frac=growth_frac(topology, run, values),
        from_panel=topology.from_panel(run),
        to_inverter=device is not None and device.device == "inverter",
        from_charger=give_v is not None,
        ambient_c=around.ambient_c,
        stepped=stepped,
        evens=evens,
    )
    every = make_options(tuple(sizes), stretch)
    for eased in EASING:
        verdicts = [_refusal(option, values, limits, values.drop_counts, eased) for option in every]
        allowed = [option for option, verdict in zip(every, verdicts, strict=True) if verdict is None]
        if allowed:
            # Where what is wanted is out of reach, as near to it as there is.
            allowed = allowed[-1:] if eased else allowed
            break
    refusals = [
        Refusal(option.size.label, *verdict)
        for option, verdict in zip(every, verdicts, strict=True)
        if verdict is not None
    ]
    forced = not allowed
    if forced:
        allowed = [every[_least_bad(every, verdicts, limits.carry_a)]]
    elif values.drop_least_a_per_mm2 and leader is None and not is_bond(topology, run):
        most_mm2 = max(SMALL_MM2, carry_a / run.parallel / values.drop_least_a_per_mm2) * 1.001
        text = f"less than {values.drop_least_a_per_mm2:g} A for each mm²: beyond what its drop is worth"
        beyond = [option for option in allowed[1:] if option.size.area_mm2 > most_mm2]
        refusals += [Refusal(option.size.label, "copper", text) for option in beyond]
        allowed = [option for option in allowed if option not in beyond]
    return Case(
        run=run,
        fed_from=topology.start_of.get(run.id, run.start.part),
        insulation_c=insulation_c,
        around=around,
        design_current_a=design_a,
        carry_a=carry_a,
        fuse=own,
        protector=protector,
        protector_fuse=fuses[protector] if protector is not None else None,
        options=tuple(allowed),
        forced=forced and not pinned,
        refusals=tuple(refusals),
        fittings=fittings,
        pinned=pinned,
        leader=leader,
        beyond_ohm=_beyond_ohm(plan, topology, run),
        counts=values.drop_counts,
        guards=tuple(guards),
    )


def _bank_leaders(plan: Plan, topology: Topology, demand: Demand) -> dict[str, str]:
    """Cables of a bank's further strings to a bar go with the first string's, so all share; links with the trunk."""
    house = {part.id for part in plan.parts if part.kind == "battery" and part.use == "house"}
    if len(house) < 2:
        return {}
    first: dict[str, str] = {}
    found = {}
    cables: list[str] = []
    for run_id in (*topology.order, *topology.closing):
        run = topology.runs[run_id]
        ends = {run.start.part, run.finish.part}
        if len(ends & house) != 1:
            continue
        cables.append(run_id)
        bar = next(iter(ends - house))
        if run_id in topology.closing and bar in first:
            found[run_id] = first[bar]
        else:
            first.setdefault(bar, run_id)
    trunk = max(cables, key=lambda one: demand.carry_a[one], default=None)
    if trunk is None:
        return found
    found |= dict.fromkeys(demand.links, trunk)
    for run in plan.runs:
        own = {run.start.part, run.finish.part} & house
        if run.legs == "negative" and len(own) == 1 and not is_bond(topology, run):
            # What goes out of a battery comes back by as much copper.
            out = next(
                (one for one in cables if own & {topology.runs[one].start.part, topology.runs[one].finish.part}), trunk
            )
            found[run.id] = found.get(out, out)
    return found


def _beyond_ohm(plan: Plan, topology: Topology, run: Run) -> float:
    """Contacts the run's current passes at its finish if it feeds through them; shunts and body of a negative. [Ω]"""
    if run.legs == "negative":
        ends = [topology.parts[end.part] for end in (run.start, run.finish)]
        # A shunt stands between two negatives: half of it for each.
        shunts = sum(contact_ohm(part) / 2 for part in ends if part.kind == "shunt")
        return shunts + sum(chassis_point_ohm(plan) for part in ends if part.kind == "chassis_point")
    finish = topology.finish_of.get(run.id)
    return 0.0 if finish is None or ":" in finish else contact_ohm(topology.parts[part_id_of(finish)])


def _least_bad(every: Sequence[Option], verdicts: Sequence[tuple[Reason, str] | None], carry_a: float) -> int:
    """Where every size is refused: the thinnest of those stopped only by a terminal, else the thickest that is not.
    Where the place is as hot as the insulation stands no copper helps: what the table gives for the load elsewhere."""
    for index, verdict in enumerate(verdicts):
        if verdict is not None and verdict[0] in ("terminal", "holder"):
            return index
    if all(option.amp.ampacity_a == 0 for option in every):
        found = (k for k, option in enumerate(every) if (option.amp.base_a or 0.0) >= carry_a)
        return next(found, len(every) - 1)
    return len(verdicts) - 1
