"""Checks of the fuses: there at all, near enough, between load and wire, made and fit for their place."""

from __future__ import annotations

from lucernis.core.checks import demands
from lucernis.core.checks.breakers import check_breakers
from lucernis.core.checks.fixes import change_fuse, fed_end, fed_end_fuse, let_go_of_fuse, let_go_of_wire, put_fuse
from lucernis.core.checks.raising import Raised
from lucernis.core.faults.guards import Guards
from lucernis.core.protection.fuses import NEXT_FACTOR, family
from lucernis.core.report import Fix
from lucernis.core.sizing.ends import holder_label, holder_takes
from lucernis.core.sizing.fusing import RunFuse, fuse_run
from lucernis.core.sizing.options import Case, guard_of
from lucernis.core.sizing.stretch import Option
from lucernis.plan.edits.operations import PutLoad
from lucernis.plan.layout import usual_zone
from lucernis.plan.model import Battery, FuseBlock, Load, Run
from lucernis.plan.units import told_length
from lucernis.practice.rules import FuseFamily
from lucernis.practice.tables import load_table


def check_protection(raised: Raised, guards: Guards) -> None:
    """Raise what is wrong with the protection of each run, and with runs fed from both ends."""
    topology = raised.sized.topology
    for run in raised.plan.runs:
        if run.id in topology.dead or run.id in topology.returns or run.id in topology.spares:
            continue
        case, option = raised.sized.cases[run.id], raised.sized.chosen[run.id]
        if not free_link(raised, run):
            _present(raised, run, case)
            if run.id in topology.both_fed:
                _both_ends(raised, guards, run, option)
        if not case.forced:
            _between(raised, run, case, option)
        _own(raised, run, case)


def free_link(raised: Raised, run: Run) -> bool:
    """A jumper between two batteries so short that it needs no fuse of its own."""
    parts = raised.sized.topology.parts
    batteries = isinstance(parts[run.start.part], Battery) and isinstance(parts[run.finish.part], Battery)
    return batteries and run.length_m <= raised.rules.values.link_free_m + 1e-9


def _both_ends(raised: Raised, guards: Guards, run: Run, option: Option) -> None:
    """A run current can enter by either end."""
    found = guards.of_run(run)
    ends = [("start", found.start), ("finish", found.finish)]
    for name, end in ends if fed_end(raised, run) == "start" else reversed(ends):
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
            guard = guard_of(run, key, raised.sized.fuses)
            carried_a = option.amp.ampacity_a
            if (
                raised.sized.cases[run.id].forced
                or guard is None
                or not carried_a
                or guard.stands(carried_a, raised.rules.values)
            ):
                continue
            raised.on_run(
                "fuse-above-wire",
                run,
                what=f"{guard.limit_a:g} A fuse in {raised.sized.topology.runs[fuse_run(key)].tag} feeds {run.tag} "
                f"from its {name}; {option.size.label} carries {carried_a:.1f} A",
                mend="A fuse of its own at that end.",
                fixes=[put_fuse(raised, run, end=name), *let_go_of_wire(run)],
                asked=demands.of_run(raised, run, key),
                rating_a=guard.limit_a,
                ampacity_a=carried_a,
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
    if raised.sized.topology.from_panel(run):
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
        most = told_length(limit_m, raised.plan.units, short=True)
        raised.on_run(
            "fuse-too-far",
            run,
            what=f"{told_length(case.fuse.distance_m, raised.plan.units, short=True)} of wire before the fuse; "
            f"{most} allowed{by}",
            mend=f"Move the fuse to within {most}; the shortest possible is best.",
            fixes=[change_fuse(run, "Move the fuse to within reach", fed_end(raised, run), distance_m=limit_m)],
            distance_m=case.fuse.distance_m,
            limit_m=limit_m,
        )


def _between(raised: Raised, run: Run, case: Case, option: Option) -> None:
    """Not above what the wire carries. Every run in a chain is held to the fuse before it."""
    key = case.protector
    guard = guard_of(run, key, raised.sized.fuses)
    if guard is None or key is None or not option.amp.ampacity_a:
        return
    carried_a = option.amp.ampacity_a
    if guard.stands(carried_a, raised.rules.values):
        return
    limit_a, figures = guard.limit_a, {"rating_a": guard.limit_a, "ampacity_a": carried_a}
    guard_run = raised.sized.topology.runs[fuse_run(key)]
    asked = demands.of_run(raised, run, key)
    end = fed_end(raised, run)
    if run.parallel > 1 and guard_run.id == run.id and not guard_limit_each(run):
        raised.on_run(
            "fuse-parallel",
            run,
            what=f"{limit_a:g} A before {run.parallel} conductors in parallel, each carries {carried_a:.1f} A",
            mend="A fuse for each conductor, or one that a single conductor stands.",
            fixes=[change_fuse(run, "Fuse each conductor", end, each=True), *let_go_of_fuse(run)],
            asked=asked,
            figures=figures,
        )
    elif guard_run.id == run.id or option.size.area_mm2 >= raised.sized.chosen[guard_run.id].size.area_mm2 * 0.999:
        there = "" if guard_run.id == run.id else f" in {guard_run.tag}"
        raised.on_run(
            "fuse-above-wire",
            run,
            what=f"{limit_a:g} A fuse{there} over {option.size.label}, which carries {carried_a:.1f} A",
            mend="Take the computed fuse and wire.",
            fixes=[*let_go_of_fuse(guard_run), *let_go_of_wire(run)],
            asked=asked,
            figures=figures,
        )
    else:
        raised.on_run(
            "step-unfused",
            run,
            what=f"{option.size.label}, which carries {carried_a:.1f} A, behind {limit_a:g} A in {guard_run.tag}",
            mend="Give this step a fuse of its own, or take wire that stands the fuse before it.",
            fixes=[put_fuse(raised, run), *let_go_of_wire(run)],
            asked=asked,
            figures=figures,
        )


def guard_limit_each(run: Run) -> bool:
    """Whether each of several conductors has its own fuse."""
    return any(fuse is not None and fuse.each for fuse in (run.fuse_at_start, run.fuse_at_finish))


def solved_a(raised: Raised, run: Run) -> float:
    """The most that flows in a run in any state, inverters at their rating, chargers at work. [A]"""
    results = [*raised.sized.rated.values(), *([raised.sized.charging] if raised.sized.charging is not None else [])]
    return max(abs(one.run_a[run.id]) for one in results)


def _own(raised: Raised, run: Run, case: Case) -> None:
    own = case.fuse
    if own is None:
        return
    asked = demands.fuse_pin(run)
    if own.fuse is None:
        names = ", ".join(family(name).label for name in own.families)
        raised.on_run(
            "fuse-none-fits",
            run,
            what=f"{own.least_a:.1f} A asked; none made in {names}",
            mend="Split the loads over several runs, raise the voltage, or choose a family that goes higher.",
            asked=asked or f"{case.carry_a:.0f} A on one fuse",
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
            asked=asked,
            rating_a=rating_a,
        )
    if made.max_v < raised.plan.nominal_v:
        raised.on_run(
            "fuse-low-voltage",
            run,
            what=f"{made.label} is made for {made.max_v:g} V, the system has {raised.plan.nominal_v} V",
            mend="Choose a family for higher volts.",
            asked=asked,
            max_v=made.max_v,
        )
    _holds(raised, run, case, own, rating_a, asked)
    if own.maker_cap_a is not None and rating_a > own.maker_cap_a * (1 + 1e-9):
        # Where the shelf has none that small a pin is not what is wrong.
        lower = own.computed is not None and own.computed.rating_a <= own.maker_cap_a * (1 + 1e-9)
        raised.on_run(
            "fuse-above-maker",
            run,
            what=f"{rating_a:g} A fuse; a maker behind it allows {own.maker_cap_a:g} A",
            mend="Give that device a run and a fuse of its own.",
            fixes=[*(let_go_of_fuse(run) if lower else []), *_way_of_its_own(raised, run, own)],
            asked=asked or f"{own.maker_cap_a:g} A by a maker behind {run.tag}, with other devices on it",
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
            asked=asked or f"{case.carry_a:.1f} A on a way for {block.way_limit_a:g} A",
            rating_a=rating_a,
            way_limit_a=block.way_limit_a,
        )
    size = raised.sized.chosen[run.id].size
    in_way = isinstance(block, FuseBlock) and run.start.way is not None
    if not in_way and not holder_takes(own.fuse.family, size):
        raised.on_run(
            "wire-above-terminal",
            run,
            what=f"{size.label}; the {holder_label(own.fuse.family)} takes less, as is usual",
            mend="A bolt-down fuse, or a thinner wire.",
            fixes=[*let_go_of_fuse(run), *let_go_of_wire(run)],
            asked=demands.pins(raised, run)
            or f"{case.carry_a:.1f} A over {told_length(run.length_m, raised.plan.units)}",
            severity="look",
            area_mm2=size.area_mm2,
        )
    _fit_for_its_place(raised, run, own.fuse.family, sealed_holder=own.sealed_holder)
    check_breakers(raised, run, case, own)


def _holds(raised: Raised, run: Run, case: Case, own: RunFuse, rating_a: float, asked: str) -> None:
    """A fuse above what flows, and not right at it."""
    flows_a, whole_a = solved_a(raised, run), rating_a * own.count
    if run.planned_a is not None or run.id in raised.sized.demand.pushed or flows_a < 1e-6:
        # No load decides it: what it is planned for does.
        flows_a = max(flows_a, case.design_current_a)
    supply = raised.sized.demand.supplies.get(raised.sized.topology.line_end(run))
    if supply is not None and supply.terminal == "in":
        # Its rated input at the lowest volts of its source, whatever reaches it as it is wired.
        flows_a = max(flows_a, case.design_current_a)
    count = f"{own.count} × " if own.count > 1 else ""
    if whole_a < flows_a * (1 - 1e-9):
        raised.on_run(
            "fuse-below-load",
            run,
            what=f"{count}{rating_a:g} A fuse, {flows_a:.1f} A flow",
            mend=_larger(own),
            fixes=let_go_of_fuse(run),
            asked=asked or maker_asks(raised, own),
            rating_a=rating_a,
            current_a=flows_a,
        )
    elif own.maker_cap_a is not None and rating_a == own.maker_cap_a and whole_a >= NEXT_FACTOR * flows_a * (1 - 1e-9):
        # The fuse its maker names is what it is made for.
        return
    elif whole_a < NEXT_FACTOR * flows_a * (1 - 1e-9) or rating_a < own.asked_a * (1 - 1e-6):
        raised.on_run(
            "fuse-at-load",
            run,
            what=f"{count}{rating_a:g} A fuse, {flows_a:.1f} A flow through it; {own.asked_a:.1f} A wanted",
            mend="It may age and open on a warm day: a larger one with a wire that stands it, or less on one fuse.",
            fixes=let_go_of_fuse(run),
            asked=asked or maker_asks(raised, own),
            rating_a=rating_a,
            current_a=flows_a,
        )


def _larger(own: RunFuse) -> str:
    """The next made rating above what is asked, as far as a maker allows it."""
    ratings = sorted({one for name in own.families for one in family(name).ratings_a})
    made = next((one for one in ratings if one * own.count >= own.least_a * (1 - 1e-9)), None)
    if made is None:
        return "Split the loads over several runs: no fuse of these families is made for them."
    if own.maker_cap_a is not None and made > own.maker_cap_a * (1 + 1e-9):
        return f"A maker behind it allows {own.maker_cap_a:g} A: give that device a run and a fuse of its own."
    return f"At least {made:g} A, with a wire that stands it."


def maker_asks(raised: Raised, own: RunFuse) -> str:
    """The fuse a maker behind names, in words."""
    if own.maker_cap_a is None:
        return ""
    names = ", ".join(raised.sized.topology.parts[one].name for one in own.maker_loads)
    return f"{own.maker_cap_a:g} A by the maker of {names}"


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
    zone = next((one for one in raised.plan.zones if one.id == zone_id), usual_zone(raised.plan.zones))
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
            asked="an open holder in the engine space",
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
            asked=demands.fuse_pin(run),
            fixes=[change_fuse(run, f"Take {family(one).label}", end, family=one) for one in ("anl", "breaker_manual")],
        )


def _neighbours(ratings_a: tuple[float, ...], wanted_a: float) -> list[float]:
    below = [one for one in ratings_a if one < wanted_a][-1:]
    return below + [one for one in ratings_a if one > wanted_a][:1]
