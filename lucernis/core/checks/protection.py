"""Checks of the fuses: there at all, near enough, between load and wire, made and fit for their place."""

from __future__ import annotations

from lucernis.core.checks.raising import Raised
from lucernis.core.fuses import family, wire_stands_fuse
from lucernis.core.fusing import fuse_run
from lucernis.core.options import Case, Option
from lucernis.plan.model import FuseBlock, Run


def check_protection(raised: Raised) -> None:
    """Raise what is wrong with the protection of each run, and with runs fed from both ends."""
    for run in raised.plan.runs:
        if run.id in raised.sized.topology.dead or run.id in raised.sized.topology.returns:
            continue
        case, option = raised.sized.cases[run.id], raised.sized.chosen[run.id]
        _present(raised, run, case)
        _between(raised, run, case, option)
        _own(raised, run, case)
        if run.id in raised.sized.topology.closing:
            both = run.fuse_at_start is not None and run.fuse_at_finish is not None
            raised.raise_(
                "circuit-closes-loop",
                run.id,
                "run",
                run.tag,
                what="This run joins two parts that are both fed"
                + (", fused at both ends" if both else ", not fused at both ends"),
                mend="Open the ring, or fuse both ends and size each side to carry all of it.",
            )


def _present(raised: Raised, run: Run, case: Case) -> None:
    fed_part = raised.sized.topology.part_at(case.fed_from)
    if case.protector is None:
        raised.raise_(
            "fuse-missing",
            run.id,
            "run",
            run.tag,
            what=f"No fuse between the battery and {run.tag}",
            mend="Fit a fuse at its fed end.",
            length_m=run.length_m,
        )
    elif isinstance(fed_part, FuseBlock) and case.fuse is None:
        raised.raise_(
            "fuse-missing",
            run.id,
            "run",
            run.tag,
            what=f"{run.tag} leaves {fed_part.name} without a fuse of its own",
            mend="Fit a fuse in its way.",
            length_m=run.length_m,
        )
    limit_m = raised.rules.values.fuse_distance_m
    if case.fuse is not None and case.fuse.distance_m > limit_m + 1e-9:
        raised.raise_(
            "fuse-too-far",
            run.id,
            "run",
            run.tag,
            what=f"{1000 * case.fuse.distance_m:.0f} mm of wire before the fuse; {1000 * limit_m:.0f} mm allowed",
            mend=f"Move the fuse to within {1000 * limit_m:.0f} mm; the shortest possible is best.",
            distance_m=case.fuse.distance_m,
            limit_m=limit_m,
        )


def _between(raised: Raised, run: Run, case: Case, option: Option) -> None:
    """Not above what the wire carries. Every run in a chain is held to the fuse before it."""
    guard = case.protector_fuse
    if guard is None or guard.fuse is None or not option.amp.ampacity_a:
        return
    carried_a, rating_a = option.amp.ampacity_a, guard.fuse.rating_a
    school, made_a = raised.rules.values.fuse_under_wire, family(guard.fuse.family).ratings_a
    if not wire_stands_fuse(carried_a, rating_a, least_a=guard.least_a, made_a=made_a, school=school):
        where = (
            "" if case.protector == run.id else f" in {raised.sized.topology.runs[fuse_run(str(case.protector))].tag}"
        )
        raised.raise_(
            "fuse-above-wire",
            run.id,
            "run",
            run.tag,
            what=f"{rating_a:g} A fuse{where} over {option.size.label}, which carries {carried_a:.1f} A",
            mend="Take the computed fuse and wire, or give this step a fuse of its own.",
            rating_a=rating_a,
            ampacity_a=carried_a,
        )


def _own(raised: Raised, run: Run, case: Case) -> None:
    own = case.fuse
    if own is None:
        return
    if own.fuse is None:
        names = ", ".join(family(name).label for name in own.families)
        raised.raise_(
            "fuse-none-fits",
            run.id,
            "run",
            run.tag,
            what=f"{own.least_a:.1f} A asked; none made in {names}",
            mend="Split the loads over several runs, raise the voltage, or choose a family that goes higher.",
            least_a=own.least_a,
        )
        return
    rating_a, made = own.fuse.rating_a, family(own.fuse.family)
    if rating_a not in made.ratings_a:
        raised.raise_(
            "fuse-not-made",
            run.id,
            "run",
            run.tag,
            what=f"{made.label} is not made in {rating_a:g} A",
            mend="Take " + " or ".join(f"{one:g} A" for one in _neighbours(made.ratings_a, rating_a)) + ".",
            rating_a=rating_a,
        )
    if made.max_v < raised.plan.nominal_v:
        raised.raise_(
            "fuse-low-voltage",
            run.id,
            "run",
            run.tag,
            what=f"{made.label} is made for {made.max_v:g} V, the system has {raised.plan.nominal_v} V",
            mend="Choose a family for higher volts.",
            max_v=made.max_v,
        )
    if rating_a < case.design_current_a * (1 - 1e-9):
        raised.raise_(
            "fuse-below-load",
            run.id,
            "run",
            run.tag,
            what=f"{rating_a:g} A fuse, {case.design_current_a:.1f} A load",
            mend=f"At least {own.least_a:.1f} A, with a wire that stands it.",
            rating_a=rating_a,
            current_a=case.design_current_a,
        )
    if own.maker_cap_a is not None and rating_a > own.maker_cap_a * (1 + 1e-9):
        raised.raise_(
            "fuse-above-maker",
            run.id,
            "run",
            run.tag,
            what=f"{rating_a:g} A fuse; a maker behind it allows {own.maker_cap_a:g} A",
            mend="Give that device a run and a fuse of its own.",
            rating_a=rating_a,
            maker_a=own.maker_cap_a,
        )
    block = raised.sized.topology.part_at(case.fed_from)
    if isinstance(block, FuseBlock) and block.way_limit_a is not None and rating_a > block.way_limit_a:
        raised.raise_(
            "block-over-way",
            run.id,
            "run",
            run.tag,
            what=f"{rating_a:g} A in a way made for {block.way_limit_a:g} A",
            mend="Feed it from a larger block or with a fuse of its own.",
            rating_a=rating_a,
            way_limit_a=block.way_limit_a,
        )
    if case.around.engine_space and made.sealed == "no":
        raised.raise_(
            "fuse-unsealed-hot",
            run.id,
            "run",
            run.tag,
            what=f"{made.label} on a run that passes the engine space",
            mend="Place it outside the engine space or take a sealed holder or breaker.",
            rating_a=rating_a,
        )


def _neighbours(ratings_a: tuple[float, ...], wanted_a: float) -> list[float]:
    below = [one for one in ratings_a if one < wanted_a][-1:]
    return below + [one for one in ratings_a if one > wanted_a][:1]
