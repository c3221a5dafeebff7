"""Checks of how a battery is taken from: at one end of several, at a tap in series, day by day at the starter."""

from __future__ import annotations

from lucernis.core.checks.fixes import take_negatives_from
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.batteries import strings_of
from lucernis.plan.model import Battery, Load, Run

# From so many batteries side by side taking off at one end ages the first of them. Common practice, no source.
SEVERAL = 3
# What stays on may take so much of a starter battery in a day; beyond it, it will not start after a few. Common
# practice, no source.
STARTER_FRAC = 0.1


def check_taps(raised: Raised) -> None:
    """Raise what wears a battery by the way it is taken from."""
    _one_end(raised)
    _series(raised)
    for part in raised.plan.parts:
        if isinstance(part, Battery) and part.use == "starter":
            _drained(raised, part)


def _named(loads: list[Load]) -> str:
    names = [one.name for one in loads]
    return ", ".join(names) if len(names) < 5 else f"{', '.join(names[:3])} and {len(names) - 3} more"


def _chain(raised: Raised) -> list[str]:
    """Batteries of a bank whose positives are joined post to post in a row; empty where they are not."""
    tops = [string[0] for string in strings_of(raised.plan) if len(string) == 1]
    house = {one.id for one in tops}
    beside: dict[str, set[str]] = {one: set() for one in house}
    for run in raised.plan.runs:
        if run.legs in ("both", "positive") and {run.start.part, run.finish.part} <= house:
            beside[run.start.part].add(run.finish.part)
            beside[run.finish.part].add(run.start.part)
    ends = {one for one in house if len(beside[one]) == 1}
    if len(house) < SEVERAL or len(ends) != 2 or any(len(some) > 2 for some in beside.values()):
        return []
    chain = [next(one.id for one in tops if one.id in ends)]
    while rest := beside[chain[-1]] - set(chain):
        chain.append(next(iter(rest)))
    return chain if len(chain) == len(house) else []


def _leaving(raised: Raised, chain: list[str], legs: tuple[str, ...]) -> list[tuple[Run, str]]:
    """Runs of some legs that leave a chain for elsewhere, with the battery each leaves from."""
    found = []
    for run in raised.plan.runs:
        own = [one for one in (run.start.part, run.finish.part) if one in chain]
        other = [one for one in (run.start.part, run.finish.part) if one not in chain]
        if (
            len(own) == 1
            and other
            and run.legs in legs
            and raised.sized.topology.parts[other[0]].kind != "chassis_point"
        ):
            found.append((run, own[0]))
    return found


def _one_end(raised: Raised) -> None:
    """Both cables of three or more batteries side by side at the same one."""
    chain = _chain(raised)
    if not chain or raised.has(chain[0], {"bank-sharing"}) or raised.has(chain[-1], {"bank-sharing"}):
        return
    out, back = (_leaving(raised, chain, (one, "both")) for one in ("positive", "negative"))
    at = {one for _, one in (*out, *back)}
    if not out or not back or len(at) != 1 or not at <= {chain[0], chain[-1]}:
        return
    near, parts = at.pop(), raised.sized.topology.parts
    far = parts[chain[-1] if near == chain[0] else chain[0]]
    fixes = []
    if isinstance(far, Battery) and all(run.legs == "negative" for run, _ in back):
        fixes = [take_negatives_from([run for run, _ in back], near, far)]
    raised.on_part(
        "take-off-end",
        parts[near],
        what=f"Positive and negative of {len(chain)} batteries side by side both leave {parts[near].name}",
        mend=f"Take the negative from {far.name}: then each battery has as much wire before it.",
        fixes=fixes,
        batteries=float(len(chain)),
    )


def _series(raised: Raised) -> None:
    """Loads that hang on some batteries of a series bank and not on all."""
    topology = raised.sized.topology
    for string in strings_of(raised.plan):
        for lower in string[1:]:
            on = [
                part
                for part in raised.plan.parts
                if isinstance(part, Load)
                and topology.root_of.get(part.id) == lower.id
                and part.id in topology.feeder_of
            ]
            if on:
                raised.on_part(
                    "series-tap",
                    lower,
                    what=f"{_named(on)} {'hang' if len(on) > 1 else 'hangs'} on {lower.name} alone, "
                    f"of {len(string)} in series",
                    mend="A converter from the whole bank: a tap runs one battery flat while the other is overcharged.",
                    asked=f"a tap at {lower.name}",
                )


def _drained(raised: Raised, battery: Battery) -> None:
    """What stays on at a starter battery with the engine off, day by day."""
    sized = raised.sized
    off = [state for state in raised.plan.states if not state.engine_on and not state.key_on]
    states = off or [state for state in raised.plan.states if not state.engine_on]
    house = {one.id for string in strings_of(raised.plan) for one in string}
    loads, asked_ah = [], 0.0
    for part in raised.plan.parts:
        figures = sized.demand.loads.get(part.id)
        if not isinstance(part, Load) or figures is None or figures.ah_per_day is None:
            continue
        by_it = any(
            part.id in sized.switching.reach(here.closed, here.open_runs, roots=[battery.id])
            and part.id not in sized.switching.reach(here.closed, here.open_runs, roots=sorted(house))
            for here in (sized.demand.switched[state.id] for state in states if part.id in sized.demand.on[state.id])
        )
        if by_it and figures.ah_per_day > 0:
            loads.append(part)
            asked_ah += figures.ah_per_day
    if asked_ah <= STARTER_FRAC * battery.capacity_ah * (1 + 1e-9):
        return
    raised.on_part(
        "starter-drained",
        battery,
        what=f"{_named(loads)} {'take' if len(loads) > 1 else 'takes'} {asked_ah:.1f} Ah a day from {battery.name} "
        f"with the engine off, {100 * asked_ah / battery.capacity_ah:.0f} % of it",
        mend="Feed it from the house side, or let the key switch it.",
        ah_per_day=asked_ah,
        limit_ah=STARTER_FRAC * battery.capacity_ah,
    )
