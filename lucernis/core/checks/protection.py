"""Checks of the fuses: there at all, near enough, between load and wire, made and fit for their place."""

from __future__ import annotations

import numpy as np

from lucernis.core.checks.fixes import (
    change_fuse,
    fed_end,
    fed_end_fuse,
    let_go_of_fuse,
    let_go_of_wire,
    pin_rating,
    put_fuse,
)
from lucernis.core.checks.raising import Raised
from lucernis.core.faults.guards import Guards
from lucernis.core.protection.fuse_curves import opening_times_s
from lucernis.core.protection.fuses import family, wire_stands_fuse
from lucernis.core.protection.thermal_memory import thermal_image, trip_in_cycles
from lucernis.core.report import Fix
from lucernis.core.sizing.fusing import RunFuse, fuse_run
from lucernis.core.sizing.options import Case, Option, guard_limit_a
from lucernis.plan.edits.operations import PutLoad
from lucernis.plan.model import Battery, FuseBlock, Joint, Load, Run
from lucernis.practice.rules import FuseFamily
from lucernis.practice.tables import load_table

_THERMAL: tuple[FuseFamily, ...] = ("breaker_auto", "breaker_manual")


def check_protection(raised: Raised, guards: Guards) -> None:
    """Raise what is wrong with the protection of each run, and with runs fed from both ends."""
    for run in raised.plan.runs:
        if run.id in raised.sized.topology.dead or run.id in raised.sized.topology.returns:
            continue
        case, option = raised.sized.cases[run.id], raised.sized.chosen[run.id]
        _present(raised, run, case)
        _between(raised, run, case, option)
        _own(raised, run, case)
        if run.id in raised.sized.topology.both_fed:
            _both_ends(raised, guards, run, option)


def _both_ends(raised: Raised, guards: Guards, run: Run, option: Option) -> None:
    """A run current can enter by either end."""
    found = guards.of_run(run)
    for name, end in (("start", found.start), ("finish", found.finish)):
        if end.fed and end.bare:
            part = raised.sized.topology.parts[run.start.part if name == "start" else run.finish.part]
            raised.on_run(
                "fuse-one-end",
                run,
                what=f"{run.tag} is fed from {part.name} too, without a fuse there",
                mend="A fuse at this end as well: a short is fed from both.",
                fixes=[put_fuse(raised, run, end=name)],
                length_m=end.unprotected_m,
            )
            continue
        for key in end.fuses:
            fuse = raised.sized.fuses.get(key)
            limit_a = guard_limit_a(run, key, fuse)
            carried_a = option.amp.ampacity_a
            if fuse is None or fuse.fuse is None or limit_a is None or not carried_a:
                continue
            made_a, school = family(fuse.fuse.family).ratings_a, raised.rules.values.fuse_under_wire
            if not wire_stands_fuse(carried_a, limit_a, least_a=fuse.least_a, made_a=made_a, school=school):
                raised.on_run(
                    "fuse-above-wire",
                    run,
                    what=f"{limit_a:g} A fuse in {raised.sized.topology.runs[fuse_run(key)].tag} feeds {run.tag} "
                    f"from its {name}; {option.size.label} carries {carried_a:.1f} A",
                    mend="A fuse of its own at that end.",
                    fixes=[put_fuse(raised, run, end=name), *let_go_of_wire(run)],
                    rating_a=limit_a,
                    ampacity_a=carried_a,
                )
    if run.id in raised.sized.topology.closing:
        both = run.fuse_at_start is not None and run.fuse_at_finish is not None
        batteries = sum(isinstance(part, Battery) for part in raised.plan.parts)
        if batteries < 2:
            raised.on_run(
                "circuit-closes-loop",
                run,
                what="This run joins two parts that are both fed"
                + (", fused at both ends" if both else ", not fused at both ends"),
                mend="Open the ring, or fuse both ends and size each side to carry all of it.",
            )


def distance_limit_m(raised: Raised, run: Run) -> tuple[float, str]:
    """Longest wire from where a run is fed to its fuse, and the rule it comes from. [m]"""
    values = raised.rules.values
    fuse, end = fed_end_fuse(raised, run), run.start if fed_end(raised, run) == "start" else run.finish
    if fuse is None or not fuse.sheathed or not values.sheathed_longer:
        return values.fuse_distance_m, ""
    at = "battery" if isinstance(raised.sized.topology.parts[end.part], Battery) else "any"
    row = next(one for one in load_table("fuse_distance").rows if one["sheathed"] == "yes" and one["at"] == at)
    return max(values.fuse_distance_m, float(row["distance_m"])), f", {row['label']}"


def _present(raised: Raised, run: Run, case: Case) -> None:
    fed_part = raised.sized.topology.part_at(case.fed_from)
    if fed_part.kind == "panel":
        # Panels limit their own current; strings side by side are looked at with their charger.
        return
    if case.protector is None:
        raised.on_run(
            "fuse-missing",
            run,
            what=f"No fuse between the battery and {run.tag}",
            mend="Fit a fuse at its fed end.",
            fixes=[put_fuse(raised, run)],
            length_m=run.length_m,
        )
    elif isinstance(fed_part, FuseBlock) and case.fuse is None:
        raised.on_run(
            "fuse-missing",
            run,
            what=f"{run.tag} leaves {fed_part.name} without a fuse of its own",
            mend="Fit a fuse in its way.",
            fixes=[put_fuse(raised, run)],
            length_m=run.length_m,
        )
    limit_m, by = distance_limit_m(raised, run)
    if case.fuse is not None and case.fuse.distance_m > limit_m + 1e-9:
        raised.on_run(
            "fuse-too-far",
            run,
            what=f"{1000 * case.fuse.distance_m:.0f} mm of wire before the fuse; {1000 * limit_m:.0f} mm allowed{by}",
            mend=f"Move the fuse to within {1000 * limit_m:.0f} mm; the shortest possible is best.",
            fixes=[change_fuse(run, "Move the fuse to within reach", fed_end(raised, run), distance_m=limit_m)],
            distance_m=case.fuse.distance_m,
            limit_m=limit_m,
        )


def _between(raised: Raised, run: Run, case: Case, option: Option) -> None:
    """Not above what the wire carries. Every run in a chain is held to the fuse before it."""
    guard, key = case.protector_fuse, case.protector
    limit_a = guard_limit_a(run, key, guard)
    if guard is None or guard.fuse is None or key is None or limit_a is None or not option.amp.ampacity_a:
        return
    carried_a = option.amp.ampacity_a
    school, made_a = raised.rules.values.fuse_under_wire, family(guard.fuse.family).ratings_a
    if wire_stands_fuse(carried_a, limit_a, least_a=guard.least_a, made_a=made_a, school=school):
        return
    figures = {"rating_a": limit_a, "ampacity_a": carried_a}
    guard_run = raised.sized.topology.runs[fuse_run(key)]
    if run.parallel > 1 and guard_run.id == run.id and not guard_limit_each(run):
        raised.on_run(
            "fuse-parallel",
            run,
            what=f"{limit_a:g} A before {run.parallel} conductors in parallel, each carries {carried_a:.1f} A",
            mend="A fuse for each conductor, or one that a single conductor stands.",
            fixes=[change_fuse(run, "Fuse each conductor", fed_end(raised, run), each=True), *let_go_of_fuse(run)],
            **figures,
        )
    elif guard_run.id == run.id:
        raised.on_run(
            "fuse-above-wire",
            run,
            what=f"{limit_a:g} A fuse over {option.size.label}, which carries {carried_a:.1f} A",
            mend="Take the computed fuse and wire.",
            fixes=[*let_go_of_fuse(run), *let_go_of_wire(run)],
            **figures,
        )
    else:
        raised.on_run(
            "step-unfused",
            run,
            what=f"{option.size.label}, which carries {carried_a:.1f} A, behind {limit_a:g} A in {guard_run.tag}",
            mend="Give this step a fuse of its own, or take wire that stands the fuse before it.",
            fixes=[put_fuse(raised, run), *let_go_of_wire(run)],
            **figures,
        )


def guard_limit_each(run: Run) -> bool:
    """Whether each of several conductors has its own fuse."""
    return any(fuse is not None and fuse.each for fuse in (run.fuse_at_start, run.fuse_at_finish))


def _own(raised: Raised, run: Run, case: Case) -> None:
    own = case.fuse
    if own is None:
        return
    if own.fuse is None:
        names = ", ".join(family(name).label for name in own.families)
        raised.on_run(
            "fuse-none-fits",
            run,
            what=f"{own.least_a:.1f} A asked; none made in {names}",
            mend="Split the loads over several runs, raise the voltage, or choose a family that goes higher.",
            least_a=own.least_a,
        )
        return
    rating_a, made = own.fuse.rating_a, family(own.fuse.family)
    if rating_a not in made.ratings_a:
        raised.on_run(
            "fuse-not-made",
            run,
            what=f"{made.label} is not made in {rating_a:g} A",
            mend="Take " + " or ".join(f"{one:g} A" for one in _neighbours(made.ratings_a, rating_a)) + ".",
            fixes=let_go_of_fuse(run),
            rating_a=rating_a,
        )
    if made.max_v < raised.plan.nominal_v:
        raised.on_run(
            "fuse-low-voltage",
            run,
            what=f"{made.label} is made for {made.max_v:g} V, the system has {raised.plan.nominal_v} V",
            mend="Choose a family for higher volts.",
            max_v=made.max_v,
        )
    if rating_a * own.count < case.design_current_a * (1 - 1e-9):
        raised.on_run(
            "fuse-below-load",
            run,
            what=f"{own.count if own.count > 1 else ''}{' × ' if own.count > 1 else ''}{rating_a:g} A fuse, "
            f"{case.design_current_a:.1f} A load",
            mend=f"At least {own.least_a:.1f} A, with a wire that stands it.",
            fixes=let_go_of_fuse(run),
            rating_a=rating_a,
            current_a=case.design_current_a,
        )
    if own.maker_cap_a is not None and rating_a > own.maker_cap_a * (1 + 1e-9):
        raised.on_run(
            "fuse-above-maker",
            run,
            what=f"{rating_a:g} A fuse; a maker behind it allows {own.maker_cap_a:g} A",
            mend="Give that device a run and a fuse of its own.",
            fixes=[*let_go_of_fuse(run), *_way_of_its_own(raised, run, own)],
            rating_a=rating_a,
            maker_a=own.maker_cap_a,
        )
    block = raised.sized.topology.part_at(case.fed_from)
    if isinstance(block, FuseBlock) and block.way_limit_a is not None and rating_a > block.way_limit_a:
        raised.on_run(
            "block-over-way",
            run,
            what=f"{rating_a:g} A in a way made for {block.way_limit_a:g} A",
            mend="Feed it from a larger block or with a fuse of its own.",
            rating_a=rating_a,
            way_limit_a=block.way_limit_a,
        )
    _fit_for_its_place(raised, run, own.fuse.family, sealed_holder=own.sealed_holder)
    _kind_of_breaker(raised, run, case, own)


def _way_of_its_own(raised: Raised, run: Run, own: RunFuse) -> list[Fix]:
    """A way of the block for each device whose maker asks for less than the fuse of the chain it hangs on."""
    parts = raised.sized.topology.parts
    if not isinstance(parts[run.start.part], FuseBlock):
        return []
    lowest = [
        part
        for one in own.maker_loads
        if isinstance(part := parts[one], Load) and part.maker.fuse_a == own.maker_cap_a and one != run.finish.part
    ]
    return [
        Fix(f"Put {part.name} on a way of its own", [PutLoad(op="put_load", part=part.id, on=run.start.part)])
        for part in lowest
    ]


def _fuse_zones(raised: Raised, run: Run) -> tuple[bool, bool]:
    """Whether the fuse at the fed end stands in an engine space, and whether vapour can gather there."""
    end = run.start if fed_end(raised, run) == "start" else run.finish
    place = raised.sized.topology.parts[end.part].place
    zone_id = next((one.zone for one in raised.plan.places if one.id == place), run.zone)
    zone = next((one for one in raised.plan.zones if one.id == zone_id), raised.plan.zones[0])
    return zone.engine_space, zone.vapour


def _fit_for_its_place(raised: Raised, run: Run, name: FuseFamily, *, sealed_holder: bool) -> None:
    made, end = family(name), fed_end(raised, run)
    hot, vapour = _fuse_zones(raised, run)
    if hot and made.sealed != "yes" and not sealed_holder:
        raised.on_run(
            "fuse-unsealed-hot",
            run,
            what=f"{made.label} in the engine space, in an open holder",
            mend="Place it outside the engine space or take a sealed holder or breaker.",
            fixes=[
                change_fuse(run, "Take a sealed holder", end, holder="sealed"),
                change_fuse(run, "Take a sealed breaker", end, family="breaker_manual"),
            ],
        )
    if vapour and not made.ignition_protected:
        raised.on_run(
            "fuse-ignition",
            run,
            what=f"{made.label} where vapour can gather, not ignition-protected",
            mend="Take an ignition-protected family or place it elsewhere.",
            fixes=[change_fuse(run, f"Take {family(one).label}", end, family=one) for one in ("anl", "breaker_manual")],
        )


def _kind_of_breaker(raised: Raised, run: Run, case: Case, own: RunFuse) -> None:
    if own.fuse is None:
        return
    parts, sized, end = raised.sized.topology.parts, raised.sized, fed_end(raised, run)
    far = parts[sized.topology.finish_of[run.id]] if sized.topology.finish_of.get(run.id) in parts else None
    behind = [part for one in sized.topology.loads_behind.get(run.id, ()) if isinstance(part := parts[one], Load)]
    brakes = isinstance(far, Joint) and far.form == "towing_plug"
    watched = len(behind) > 1 or any(load.device in ("heater", "inverter") for load in behind)
    if own.fuse.family == "breaker_auto" and watched and not brakes:
        raised.on_run(
            "breaker-auto-reset",
            run,
            what=f"{own.fuse.label} before " + (behind[0].name if len(behind) == 1 else f"{len(behind)} loads"),
            mend="Take a fuse or a breaker a person must reset, so that the cause is looked for.",
            fixes=[change_fuse(run, "Take a manual-reset breaker", end, family="breaker_manual")],
        )
    for load in behind:
        figures = sized.demand.loads[load.id]
        others_a = case.design_current_a - figures.design_current_a
        if load.inrush_factor is not None and load.inrush_s is not None and figures.current_a is not None:
            peak_a = load.inrush_factor * figures.current_a + max(0.0, others_a if len(behind) > 1 else 0.0)
            fast, _ = opening_times_s(own.fuse.family, np.array([peak_a / own.fuse.rating_a]))
            if fast[0] < load.inrush_s:
                bigger = next(
                    (
                        one
                        for one in family(own.fuse.family).ratings_a
                        if one > own.fuse.rating_a
                        and not opening_times_s(own.fuse.family, np.array([peak_a / one]))[0][0] < load.inrush_s
                    ),
                    None,
                )
                reason = f"{load.name} draws {peak_a:.0f} A for {load.inrush_s:g} s at its start"
                raised.on_run(
                    "inrush-opens",
                    run,
                    what=f"{reason}; {own.fuse.rating_a:g} A {own.fuse.label} may open after {fast[0]:.2g} s",
                    mend="A slower family, or the next rating with a wire that stands it.",
                    fixes=[pin_rating(run, bigger, own.fuse.family, reason)] if bigger is not None else [],
                    peak_a=peak_a,
                    fast_s=float(fast[0]),
                )
        if load.cycle_on_s is not None and load.cycle_off_s is not None and own.fuse.family in _THERMAL:
            image = thermal_image(own.fuse.family, slow=False)
            multiple = case.design_current_a / own.fuse.rating_a
            trip = trip_in_cycles(image, multiple, on_s=load.cycle_on_s, off_s=load.cycle_off_s, cycles=20)
            if trip is not None:
                raised.on_run(
                    "cycle-trips",
                    run,
                    what=f"{load.name} cycles {load.cycle_on_s:g} s on, {load.cycle_off_s:g} s off: "
                    f"the breaker may trip {trip[1]:.0f} s into cycle {trip[0]}",
                    mend="The next rating with a wire that stands it, or a fuse.",
                    fixes=let_go_of_fuse(run),
                    cycle=float(trip[0]),
                    time_s=trip[1],
                )


def _neighbours(ratings_a: tuple[float, ...], wanted_a: float) -> list[float]:
    below = [one for one in ratings_a if one < wanted_a][-1:]
    return below + [one for one in ratings_a if one > wanted_a][:1]
