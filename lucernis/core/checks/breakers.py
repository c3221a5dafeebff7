"""Checks of what a fuse or breaker lives through: starting currents, cycles, and resets nobody sees."""

from __future__ import annotations

from lucernis.core.checks import demands
from lucernis.core.checks.fixes import change_fuse, fed_end, let_go_of_fuse, pin_rating
from lucernis.core.checks.raising import Raised
from lucernis.core.protection.fuses import family
from lucernis.core.sizing.endurance import Stress, stress_of
from lucernis.core.sizing.fusing import RunFuse
from lucernis.core.sizing.options import Case
from lucernis.plan.model import Joint, Load, Run


def check_breakers(raised: Raised, run: Run, case: Case, own: RunFuse) -> None:
    """Raise what the loads behind a run do to its fuse."""
    if own.fuse is None:
        return
    parts, sized, end = raised.sized.topology.parts, raised.sized, fed_end(raised, run)
    far = parts.get(sized.topology.finish_of.get(run.id, ""))
    behind = [part for one in sized.topology.loads_behind.get(run.id, ()) if isinstance(part := parts[one], Load)]
    brakes = isinstance(far, Joint) and far.form == "towing_plug"
    watched = len(behind) > 1 or any(load.device in ("heater", "inverter") for load in behind)
    asked = demands.fuse_pin(run)
    if own.fuse.family == "breaker_auto" and watched and not brakes:
        raised.on_run(
            "breaker-auto-reset",
            run,
            what=f"{own.fuse.label} before " + (behind[0].name if len(behind) == 1 else f"{len(behind)} loads"),
            mend="Take a fuse or a breaker a person must reset, so that the cause is looked for.",
            fixes=[change_fuse(run, "Take a manual-reset breaker", end, family="breaker_manual")],
            asked=asked,
        )
    stress = stress_of(behind, sized.demand.loads, case.carry_a)
    _starts(raised, run, own, stress, asked)
    _cycles(raised, run, own, stress, asked)


def _starts(raised: Raised, run: Run, own: RunFuse, stress: Stress, asked: str) -> None:
    if own.fuse is None:
        return
    opened = stress.opened_by(own.fuse.family, own.fuse.rating_a)
    if opened is None:
        return
    start, fast_s = opened
    bigger = [one for one in family(own.fuse.family).ratings_a if one > own.fuse.rating_a]
    better = next((one for one in bigger if stress.opened_by(own.fuse.family, one) is None), None)
    reason = f"{start.load.name} draws {start.peak_a:.0f} A for {start.lasts_s:g} s at its start"
    raised.on_run(
        "inrush-opens",
        run,
        what=f"{reason}; {own.fuse.rating_a:g} A {own.fuse.label} may open after {fast_s:.2g} s",
        mend="A slower family, or the next rating with a wire that stands it.",
        fixes=[pin_rating(run, fed_end(raised, run), better, own.fuse.family, reason)] if better is not None else [],
        asked=asked or f"a start of {start.peak_a:.0f} A",
        peak_a=start.peak_a,
        fast_s=fast_s,
    )


def _cycles(raised: Raised, run: Run, own: RunFuse, stress: Stress, asked: str) -> None:
    if own.fuse is None:
        return
    early = stress.trips(own.fuse.family, own.fuse.rating_a, slow=False)
    if early is None:
        return
    late = stress.trips(own.fuse.family, own.fuse.rating_a, slow=True)
    rest = f", {stress.steady_a:.1f} A stay on between" if stress.steady_a > 0.05 else ""
    raised.on_run(
        "cycle-trips",
        run,
        what=f"{' and '.join(stress.names)} cycle{'s' if len(stress.names) == 1 else ''}{rest}: a quick breaker trips "
        f"{early.time_s:.0f} s in, in cycle {early.cycle}, "
        + (f"a slow one {late.time_s:.0f} s in, in cycle {late.cycle}" if late is not None else "a slow one holds"),
        mend="The next rating with a wire that stands it, or a fuse.",
        fixes=let_go_of_fuse(run),
        asked=asked or "a breaker before loads that cycle",
        cycle=float(early.cycle),
        time_s=early.time_s,
    )
