"""Which wire sizes a run may have at all, before the drop is looked at, and what stops the others."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.contacts import chassis_point_ohm, contact_ohm
from lucernis.core.circuit.returns import Returns
from lucernis.core.circuit.supplies import supply_limit_frac
from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.circuit.topology import Topology
from lucernis.core.protection.fuses import family, fuse_resistance_ohm, wire_stands_fuse
from lucernis.core.sizing.demand import Demand
from lucernis.core.sizing.fusing import RunFuse, far_key, fuse_run, protecting_fuse
from lucernis.core.wire.ampacity import Ampacity, Surroundings, ampacity, conductor_temp_c
from lucernis.core.wire.copper import WireSize, resistance_ohm_per_m, wire_size
from lucernis.plan.model import Charger, End, Joint, Load, Part, Plan, Run, SizeRef, Zone
from lucernis.practice.rules import AmpacityTable, Rules
from lucernis.practice.tables import TableRow, load_table


@dataclass(slots=True)
class Option:
    """One wire size for one run, with the resistances that follow from it.

    Loop: all its legs together, conductors in parallel counted. `amp` is that of one conductor, `copper_mm2_m` that
    of all of them.
    """

    size: WireSize
    amp: Ampacity
    temp_c: float
    wire_loop_ohm: float
    joints_ohm: float
    fuse_ohm: float
    copper_mm2_m: float

    @property
    def total_ohm(self) -> float:
        """Everything from the start of the run to its finish, all its legs. [Ω]"""
        return self.wire_loop_ohm + self.joints_ohm + self.fuse_ohm


@dataclass(frozen=True)
class Case:
    """What is known of a run before its size is chosen.

    `options` are the sizes that may be used, thinnest first; where none may, `forced` is True and `options` holds
    the one size shown all the same. `refusals` says, size by size, what stops the others. `leader` is the run whose
    size this one takes: a negative alone that of its positive, a bank's further string that of the first. `with_it`
    are the negatives that take this run's size, and `beyond_ohm` the
    contacts and shunts its current passes besides: what a choice of size has to reckon with.
    """

    run: Run
    fed_from: str
    insulation_c: int
    around: Surroundings
    design_current_a: float
    fuse: RunFuse | None
    protector: str | None
    protector_fuse: RunFuse | None
    options: tuple[Option, ...]
    forced: bool
    refusals: tuple[tuple[str, str], ...]
    joint_cells: tuple[tuple[int, TableRow], ...]
    pinned: bool
    leader: str | None
    beyond_ohm: float
    with_it: list[Case] = field(default_factory=list)

    def at_least(self, size: WireSize) -> Option:
        """The thinnest option with no less copper than a size, else the thickest."""
        wanted = size.area_mm2 * 0.999
        return next((one for one in self.options if one.size.area_mm2 >= wanted), self.options[-1])

    @cached_property
    def ohm(self) -> NDArray[np.float64]:
        """Resistance of each option with all that goes with it, shape (n_options,). [Ω]"""
        own = np.array([option.total_ohm for option in self.options]) + self.beyond_ohm
        for other in self.with_it:
            own += [other.at_least(option.size).total_ohm + other.beyond_ohm for option in self.options]
        return own

    @cached_property
    def copper(self) -> NDArray[np.float64]:
        """Copper of each option with all that goes with it, shape (n_options,). [mm²·m]"""
        own = np.array([option.copper_mm2_m for option in self.options])
        for other in self.with_it:
            own += [other.at_least(option.size).copper_mm2_m for option in self.options]
        return own

    @cached_property
    def in_order(self) -> bool:
        """Whether each option costs more copper than the one before and loses less, as sizes of one kind do."""
        return bool(np.all(np.diff(self.ohm) < 0) and np.all(np.diff(self.copper) > 0))


def zone_of_places(plan: Plan) -> dict[str | None, Zone]:
    """The zone of every place, and of every zone by its own id."""
    zones: dict[str | None, Zone] = {zone.id: zone for zone in plan.zones}
    return {f"place {place.id}": zones[place.zone] for place in plan.places} | zones


def surroundings(plan: Plan, topology: Topology, run: Run, zones: dict[str | None, Zone]) -> Surroundings:
    """The hottest zone a run touches: its own and those of the places at both ends.

    Parameters
    ----------
    plan : Plan
        Zones and places.
    topology : Topology
        Finds the parts at its ends.
    run : Run
        The run.
    zones : dict
        From `zone_of_places`.

    Returns
    -------
    Surroundings
        Ambient [°C], whether any of them is an engine space, conductors in the bundle.
    """
    names = [run.zone, *(f"place {topology.parts[end.part].place}" for end in (run.start, run.finish))]
    touched = [zones[name] for name in names if name in zones] or [plan.zones[0]]
    return Surroundings(
        ambient_c=max(zone.ambient_c for zone in touched),
        engine_space=any(zone.engine_space for zone in touched),
        bundle_count=run.bundle_count,
    )


def _joint_kind(part: Part, end: End) -> str:
    """How a run ends at a part: a lug on a stud, a push-on at ways and devices, or the part's own kind of joint."""
    if isinstance(part, Joint):
        kinds = {"stud": "crimp_lug", "splice": "splice", "lever": "lever", "outlet": "crimp_blade"}
        return kinds.get(part.form, "plug")
    if part.kind == "load" or (part.kind == "fuse_block" and end.way) or part.kind == "keyed_feed":
        return "crimp_blade"
    if part.kind == "switch" and part.use == "circuit":
        return "crimp_blade"
    if part.kind == "relay" and (end.terminal == "coil" or (part.contact_a or 0) <= 40):
        return "crimp_blade"
    return "crimp_lug"


def leg_count(run: Run) -> int:
    """Conductors of a run that the current passes one after the other: two for a pair, one for a leg alone."""
    return 2 if run.legs == "both" else 1


def _joints(topology: Topology, run: Run) -> tuple[tuple[int, TableRow], ...]:
    """Joints of all legs by kind."""
    table = load_table("joint_resistance")
    counts: dict[str, int] = {}
    for end in (run.start, run.finish):
        kind = _joint_kind(topology.parts[end.part], end)
        counts[kind] = counts.get(kind, 0) + leg_count(run)
    return tuple((count, table.cite(table.find(kind), "resistance_mohm")) for kind, count in counts.items())


def maker_size(named: SizeRef | None) -> WireSize | None:
    """The wire size a maker names, if any."""
    return None if named is None else wire_size(named.system, named.size)


@dataclass(frozen=True, slots=True)
class Stretch:
    """What the resistances of a run depend on besides its size. Joints are of all legs, of one conductor each."""

    table: AmpacityTable
    length_m: float
    legs: int
    parallel: int
    insulation_c: int
    around: Surroundings
    design_current_a: float
    joints_ohm: float
    fuse_ohm: float


@lru_cache(maxsize=20000)
def make_options(sizes: tuple[WireSize, ...], stretch: Stretch) -> tuple[Option, ...]:
    """Resistances of a run at several wire sizes; an edit leaves most runs as they were, so they are remembered.

    Parameters
    ----------
    sizes : tuple of WireSize
        The sizes.
    stretch : Stretch
        The run.

    Returns
    -------
    tuple of Option
        With the loop resistance at load temperature, in the order of the sizes.

    Notes
    -----
    ``R = n · L · R20 · (1 + α (T - 20)) / p`` with n legs one after the other and p conductors side by side, T from
    `conductor_temp_c` at the design current of one conductor, capped at the insulation rating: a wire beyond it is
    refused, not computed further.
    """
    return tuple(_option(size, stretch) for size in sizes)


def _option(size: WireSize, stretch: Stretch) -> Option:
    amp = ampacity(stretch.table, size, stretch.insulation_c, stretch.around)
    temp_c = conductor_temp_c(
        stretch.design_current_a / stretch.parallel,
        amp.ampacity_a,
        ambient_c=stretch.around.ambient_c,
        insulation_c=float(stretch.insulation_c),
    )
    warm = resistance_ohm_per_m(size.resistance_20_ohm_per_m, temp_c)
    return Option(
        size=size,
        amp=amp,
        temp_c=temp_c,
        wire_loop_ohm=stretch.legs * stretch.length_m * warm / stretch.parallel,
        joints_ohm=stretch.joints_ohm / stretch.parallel,
        fuse_ohm=stretch.fuse_ohm,
        copper_mm2_m=stretch.legs * stretch.length_m * size.area_mm2 * stretch.parallel,
    )


def guard_limit_a(run: Run, guard_key: str | None, guard: RunFuse | None) -> float | None:
    """What the fuse before a run lets through for ever into one of its conductors. [A]

    A fuse of its own for each conductor is that rating; any other is taken whole, because the other conductors may be
    broken. None where no fuse is chosen.
    """
    if guard is None or guard.fuse is None:
        return None
    return guard.fuse.rating_a if guard_key is not None and fuse_run(guard_key) == run.id else guard.lasting_a


def _refusal(
    option: Option,
    *,
    rules: Rules,
    case_a: float,
    protector: RunFuse | None,
    guard_a: float | None,
    end: Load | Charger | None,
    give_v: float | None,
) -> str | None:
    """What stops a size, in words, or None. `case_a` and `guard_a` are for one conductor; `give_v` is what a charger's
    output may lose on this run."""
    values, size, carried_a = rules.values, option.size, option.amp.ampacity_a
    if carried_a is None:
        return "the ampacity table gives no figure for it"
    if carried_a < case_a * (1 + values.margin_frac) - 1e-9:
        return f"carries {carried_a:.1f} A, {case_a * (1 + values.margin_frac):.1f} A asked"
    if protector is not None and protector.fuse is not None and guard_a is not None:
        rating = guard_a
        made_a = family(protector.fuse.family).ratings_a
        if not wire_stands_fuse(
            carried_a, rating, least_a=protector.least_a, made_a=made_a, school=values.fuse_under_wire
        ):
            return f"carries {carried_a:.1f} A, its fuse is {rating:g} A"
    if size.area_mm2 < values.least_area_mm2 - 1e-9:
        return f"thinner than the least size, {values.least_area_mm2:g} mm²"
    if end is not None:
        low, high = end_sizes(end)
        if low is not None and size.area_mm2 < low.area_mm2 * 0.999:
            return f"thinner than the maker of {end.name} asks, {low.label}"
        if high is not None and size.area_mm2 > high.area_mm2 * 1.001:
            return f"thicker than the terminal of {end.name} takes, {high.label}"
    if give_v is not None and case_a * option.total_ohm > give_v:
        return f"loses {case_a * option.total_ohm:.2f} V of a charger's output, {give_v:.2f} V at most"
    return None


def end_sizes(end: Load | Charger) -> tuple[WireSize | None, WireSize | None]:
    """Thinnest and thickest wire a device's maker allows."""
    if isinstance(end, Charger):
        return None, maker_size(end.greatest)
    return maker_size(end.maker.least), maker_size(end.maker.greatest)


def end_device(topology: Topology, run: Run) -> Load | Charger | None:
    """The device at an end of a run whose terminals limit its wire."""
    for end in (run.finish, run.start):
        part = topology.parts[end.part]
        if isinstance(part, Load | Charger) and (isinstance(part, Charger) or end is run.finish):
            return part
    return None


def _give_v(topology: Topology, demand: Demand, rules: Rules, run: Run, nominal_v: float) -> float | None:
    supply = demand.supplies.get(topology.finish_of.get(run.id, ""))
    if supply is None or not supply.gives:
        return None
    return supply_limit_frac(supply, rules.values) * nominal_v


def make_cases(
    plan: Plan,
    topology: Topology,
    returns: Returns,
    demand: Demand,
    fuses: dict[str, RunFuse],
    rules: Rules,
    *,
    ignore_pins: bool = False,
    only: Collection[str] | None = None,
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
        Design currents.
    fuses : dict
        From `choose_fuses`.
    rules : Rules
        Shelf, ampacity table, schools.
    ignore_pins : bool
        Compute what a pinned wire would have been.
    only : collection of str, optional
        Ids of the runs wanted; all of them otherwise.

    Returns
    -------
    dict
        Run id to `Case`, for every run of the plan.
    """
    values = rules.values
    shelf = [wire_size(values.size_system, name, tinned=values.tinned) for name in values.shelf]
    shelf.sort(key=lambda size: size.area_mm2)
    cases: dict[str, Case] = {}
    twins = _twins(plan, topology)
    zones = zone_of_places(plan)
    for run in plan.runs:
        if only is not None and run.id not in only:
            continue
        leader = returns.leader_of.get(run.id)
        off_tree = run.id in topology.dead or run.id in topology.returns
        fed_from = topology.start_of.get(run.id, run.start.part)
        own = fuses.get(run.id)
        # A negative alone is held to the fuse of the positive it belongs to.
        watched = leader if leader is not None else None if off_tree else run.id
        protector = None if watched is None else protecting_fuse(topology, fuses, watched)
        guard = fuses[protector] if protector is not None else None
        guard_a = guard_limit_a(run, protector, guard)
        insulation_c = run.insulation_c or values.insulation_c
        around = surroundings(plan, topology, run, zones)
        joints = _joints(topology, run)
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
        end = end_device(topology, run)
        stretch = Stretch(
            table=values.ampacity_table,
            length_m=run.length_m,
            legs=leg_count(run),
            parallel=run.parallel,
            insulation_c=insulation_c,
            around=around,
            design_current_a=demand.design_current_a[run.id],
            joints_ohm=sum((count * float(cell.value) for count, cell in joints), 0.0) / 1000,
            fuse_ohm=fuse_ohm,
        )
        every = make_options(tuple(sizes), stretch)
        verdicts = [
            _refusal(
                option,
                rules=rules,
                case_a=demand.design_current_a[run.id] / run.parallel,
                protector=guard,
                guard_a=guard_a,
                end=end,
                give_v=None if off_tree else _give_v(topology, demand, rules, run, float(plan.nominal_v)),
            )
            for option in every
        ]
        allowed = tuple(option for option, verdict in zip(every, verdicts, strict=True) if verdict is None)
        forced = not allowed
        if forced:
            allowed = (every[_least_bad(verdicts)],)
        cases[run.id] = Case(
            run=run,
            fed_from=fed_from,
            insulation_c=insulation_c,
            around=around,
            design_current_a=demand.design_current_a[run.id],
            fuse=own,
            protector=protector,
            protector_fuse=guard,
            options=allowed,
            forced=forced and not pinned,
            refusals=tuple(
                (option.size.label, verdict)
                for option, verdict in zip(every, verdicts, strict=True)
                if verdict is not None
            ),
            joint_cells=joints,
            pinned=pinned,
            leader=leader or twins.get(run.id),
            beyond_ohm=_beyond_ohm(plan, topology, run),
        )
    for run_id, leader in returns.leader_of.items():
        if run_id in cases and leader in cases and not cases[run_id].pinned:
            cases[leader].with_it.append(cases[run_id])
    return cases


def _twins(plan: Plan, topology: Topology) -> dict[str, str]:
    """Cables of a bank's further strings to a bar, with the first string's: all take one size, so that they share."""
    house = {part.id for part in plan.parts if part.kind == "battery" and part.use == "house"}
    first: dict[str, str] = {}
    found = {}
    for run_id in (*topology.order, *topology.closing):
        run = topology.runs[run_id]
        ends = {run.start.part, run.finish.part}
        if len(ends & house) != 1:
            continue
        bar = next(iter(ends - house))
        if run_id in topology.closing and bar in first:
            found[run_id] = first[bar]
        else:
            first.setdefault(bar, run_id)
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


def _least_bad(verdicts: list[str | None]) -> int:
    """Where every size is refused: the thinnest of those stopped only by the terminal, else the thickest."""
    for index, verdict in enumerate(verdicts):
        if verdict is not None and verdict.startswith("thicker"):
            return index
    return len(verdicts) - 1
