"""Which wire sizes a run may have at all, before the drop is looked at, and what stops the others."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lucernis.core.ampacity import Ampacity, Surroundings, ampacity, conductor_temp_c
from lucernis.core.copper import WireSize, resistance_ohm_per_m, wire_size
from lucernis.core.demand import Demand
from lucernis.core.fuses import family, fuse_resistance_ohm, wire_stands_fuse
from lucernis.core.fusing import RunFuse, far_fuse, protecting_run
from lucernis.core.topology import Topology
from lucernis.plan.model import End, Load, Plan, Run, SizeRef
from lucernis.practice.rules import Rules
from lucernis.practice.tables import TableRow, load_table


@dataclass(slots=True)
class Option:
    """One wire size for one run, with the resistances that follow from it. Loop: positive and negative together."""

    size: WireSize
    amp: Ampacity
    temp_c: float
    wire_loop_ohm: float
    joints_ohm: float
    fuse_ohm: float
    copper_mm2_m: float

    @property
    def total_ohm(self) -> float:
        """Everything from the start of the run to its finish, both legs. [Ω]"""
        return self.wire_loop_ohm + self.joints_ohm + self.fuse_ohm


@dataclass(frozen=True)
class Case:
    """What is known of a run before its size is chosen.

    `options` are the sizes that may be used, thinnest first; where none may, `forced` is True and `options` holds
    the one size shown all the same. `refusals` says, size by size, what stops the others.
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

    @cached_property
    def ohm(self) -> NDArray[np.float64]:
        """Total resistance of each option, shape (n_options,). [Ω]"""
        return np.array([option.total_ohm for option in self.options])

    @cached_property
    def copper(self) -> NDArray[np.float64]:
        """Copper of each option, shape (n_options,). [mm²·m]"""
        return np.array([option.copper_mm2_m for option in self.options])

    @cached_property
    def in_order(self) -> bool:
        """Whether each option costs more copper than the one before and loses less, as sizes of one kind do."""
        return bool(np.all(np.diff(self.ohm) < 0) and np.all(np.diff(self.copper) > 0))


def surroundings(plan: Plan, topology: Topology, run: Run) -> Surroundings:
    """The hottest zone a run touches: its own and those of the places at both ends.

    Parameters
    ----------
    plan : Plan
        Zones and places.
    topology : Topology
        Finds the parts at its ends.
    run : Run
        The run.

    Returns
    -------
    Surroundings
        Ambient [°C], whether any of them is an engine space, conductors in the bundle.
    """
    touched = {run.zone} if run.zone is not None else set()
    for end in (run.start, run.finish):
        place = topology.parts[end.part].place
        touched |= {one.zone for one in plan.places if one.id == place}
    zones = [zone for zone in plan.zones if zone.id in touched] or [plan.zones[0]]
    return Surroundings(
        ambient_c=max(zone.ambient_c for zone in zones),
        engine_space=any(zone.engine_space for zone in zones),
        bundle_count=run.bundle_count,
    )


def _joints(topology: Topology, run: Run) -> tuple[tuple[int, TableRow], ...]:
    """Joints of both legs by kind: a lug on a stud at batteries and block feeds, a push-on at ways and devices."""

    def joint(end: End) -> str:
        kind = topology.parts[end.part].kind
        return "crimp_lug" if kind == "battery" or (kind == "fuse_block" and not end.way) else "crimp_blade"

    table = load_table("joint_resistance")
    counts: dict[str, int] = {}
    for end in (run.start, run.finish):
        counts[joint(end)] = counts.get(joint(end), 0) + 2
    return tuple((count, table.cite(table.find(kind), "resistance_mohm")) for kind, count in counts.items())


def maker_size(named: SizeRef | None) -> WireSize | None:
    """The wire size a maker names, if any."""
    return None if named is None else wire_size(named.system, named.size)


def make_option(
    size: WireSize,
    *,
    rules: Rules,
    run: Run,
    insulation_c: int,
    around: Surroundings,
    design_current_a: float,
    joints_ohm: float,
    fuse_ohm: float,
) -> Option:
    """Resistances of a run at one wire size.

    Parameters
    ----------
    size : WireSize
        The size.
    rules : Rules
        Decides the ampacity table.
    run : Run
        Gives the one-way length.
    insulation_c : int
        Insulation temperature rating. [°C]
    around : Surroundings
        Where it lies.
    design_current_a : float
        Sets the conductor temperature. [A]
    joints_ohm : float
        All joints of both legs. [Ω]
    fuse_ohm : float
        All fuses in the run. [Ω]

    Returns
    -------
    Option
        With the loop resistance at load temperature.

    Notes
    -----
    ``R = 2 · L · R20 · (1 + α (T - 20))`` with T from `conductor_temp_c` at the design current, capped at the
    insulation rating: a wire beyond it is refused, not computed further.
    """
    amp = ampacity(rules.values.ampacity_table, size, insulation_c, around)
    temp_c = conductor_temp_c(
        design_current_a, amp.ampacity_a, ambient_c=around.ambient_c, insulation_c=float(insulation_c)
    )
    warm = resistance_ohm_per_m(size.resistance_20_ohm_per_m, temp_c)
    return Option(
        size=size,
        amp=amp,
        temp_c=temp_c,
        wire_loop_ohm=2 * run.length_m * warm,
        joints_ohm=joints_ohm,
        fuse_ohm=fuse_ohm,
        copper_mm2_m=2 * run.length_m * size.area_mm2,
    )


def _refusal(
    option: Option, *, rules: Rules, case_a: float, protector: RunFuse | None, load: Load | None
) -> str | None:
    """What stops a size, in words, or None."""
    values, size, carried_a = rules.values, option.size, option.amp.ampacity_a
    if carried_a is None:
        return "the ampacity table gives no figure for it"
    if carried_a < case_a * (1 + values.margin_frac) - 1e-9:
        return f"carries {carried_a:.1f} A, {case_a * (1 + values.margin_frac):.1f} A asked"
    if protector is not None and protector.fuse is not None:
        rating = protector.fuse.rating_a
        made_a = family(protector.fuse.family).ratings_a
        if not wire_stands_fuse(
            carried_a, rating, least_a=protector.least_a, made_a=made_a, school=values.fuse_under_wire
        ):
            return f"carries {carried_a:.1f} A, its fuse is {rating:g} A"
    if size.area_mm2 < values.least_area_mm2 - 1e-9:
        return f"thinner than the least size, {values.least_area_mm2:g} mm²"
    if load is not None:
        low, high = maker_size(load.maker.least), maker_size(load.maker.greatest)
        if low is not None and size.area_mm2 < low.area_mm2 * 0.999:
            return f"thinner than the maker of {load.name} asks, {low.label}"
        if high is not None and size.area_mm2 > high.area_mm2 * 1.001:
            return f"thicker than the terminal of {load.name} takes, {high.label}"
    return None


def make_cases(
    plan: Plan,
    topology: Topology,
    demand: Demand,
    fuses: dict[str, RunFuse],
    rules: Rules,
    *,
    ignore_pins: bool = False,
) -> dict[str, Case]:
    """For every run the sizes it may have.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    demand : Demand
        Design currents.
    fuses : dict
        From `choose_fuses`.
    rules : Rules
        Shelf, ampacity table, schools.
    ignore_pins : bool
        Compute what a pinned wire would have been.

    Returns
    -------
    dict
        Run id to `Case`, for every run of the plan.
    """
    loads = {part.id: part for part in plan.parts if isinstance(part, Load)}
    values = rules.values
    shelf = [wire_size(values.size_system, name, tinned=values.tinned) for name in values.shelf]
    shelf.sort(key=lambda size: size.area_mm2)
    cases: dict[str, Case] = {}
    for run in plan.runs:
        dead = run.id in topology.dead
        fed_from = run.start.part if dead else topology.start_of[run.id]
        own = fuses.get(run.id)
        protector = None if dead else protecting_run(topology, fuses, run.id)
        guard = fuses[protector] if protector is not None else None
        insulation_c = run.insulation_c or values.insulation_c
        around = surroundings(plan, topology, run)
        joints = _joints(topology, run)
        fuse_ohm = 0.0
        if own is not None and own.fuse is not None:
            fuse_ohm += fuse_resistance_ohm(own.fuse.family, own.fuse.rating_a)
        # A second fuse at the far end is taken to be the same as the first.
        if far_fuse(run, fed_from) is not None:
            fuse_ohm *= 2
        sizes = shelf
        pinned = run.wire is not None and not ignore_pins
        if pinned and run.wire is not None:
            sizes = [wire_size(run.wire.system, run.wire.size, tinned=values.tinned)]
        finish_load = loads.get(run.finish.part)
        every = [
            make_option(
                size,
                rules=rules,
                run=run,
                insulation_c=insulation_c,
                around=around,
                design_current_a=demand.design_current_a[run.id],
                joints_ohm=sum(count * float(cell.value) for count, cell in joints) / 1000,
                fuse_ohm=fuse_ohm,
            )
            for size in sizes
        ]
        verdicts = [
            _refusal(option, rules=rules, case_a=demand.design_current_a[run.id], protector=guard, load=finish_load)
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
        )
    return cases


def _least_bad(verdicts: list[str | None]) -> int:
    """Where every size is refused: the thinnest of those stopped only by the terminal, else the thickest."""
    for index, verdict in enumerate(verdicts):
        if verdict is not None and verdict.startswith("thicker"):
            return index
    return len(verdicts) - 1
