"""What lies in a channel, hangs on a stud and is cut off a spool, counted by hand.

Written from the rules and not from the program: two conductors a run of two legs, each side-by-side conductor alone; a
neighbour counts where it can carry current at the same time; a lug an end (common practice, no source). What hangs
behind a run is found by taking the run out and looking what no source reaches any more. It knows the plan's parts and
runs, and of the program only which channels a run takes.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lucernis.plan.model import Plan, Run, State

Ways = Mapping[str, Sequence[str]]
_JOINS_THE_BODY = {"battery", "busbar", "shunt", "fuse_block", "chassis_point"}
_GIVES = {"battery", "alternator", "panel", "charger"}
# They hand on what they get and use nothing.
_HANDS_ON = {"busbar", "switch", "relay", "fuse_block", "shunt", "keyed_feed", "junction", "isolator", "diode"}


def legs_of(run: Run) -> int:
    """Conductors of a run, those side by side each by itself."""
    return (2 if run.legs == "both" else 1) * run.parallel


def lugs_on(plan: Plan, part: str) -> int:
    """Lugs of one polarity on a part, for runs that have one there."""
    return sum(run.parallel for run in plan.runs for end in (run.start, run.finish) if end.part == part)


def copper_m(plan: Plan) -> dict[tuple[str, str], float]:
    """Metres of wire by run and leg, "+", "−" or "±" of a series link, every side-by-side conductor alone."""
    found: dict[tuple[str, str], float] = {}
    for run in plan.runs:
        for leg in {"both": "+−", "positive": "+", "negative": "−", "series": "±"}[run.legs]:
            found[run.id, leg] = run.parallel * run.length_m
    return found


def wires_in(plan: Plan, ways: Ways) -> dict[str, int]:
    """Wires in each channel, whatever they carry."""
    return {
        channel.id: sum(legs_of(run) * list(ways.get(run.id, ())).count(channel.id) for run in plan.runs)
        for channel in plan.channels
    }


def carrying_in(plan: Plan, ways: Ways) -> dict[str, int]:
    """Conductors in each channel that can carry current together, in the state in which they are most."""
    found = {channel.id: 0 for channel in plan.channels}
    for state in plan.states:
        live = [run for run in plan.runs if _carries(plan, run, state)]
        for channel in found:
            count = sum(legs_of(run) * list(ways.get(run.id, ())).count(channel) for run in live)
            found[channel] = max(found[channel], count)
    return found


def _carries(plan: Plan, run: Run, state: State) -> bool:
    kinds = {part.id: part.kind for part in plan.parts}
    ends = {run.start.part, run.finish.part}
    bond = run.legs == "negative" and any(kinds[one] == "chassis_point" for one in ends)
    if bond and all(kinds[one] in _JOINS_THE_BODY for one in ends):
        return False
    if run.id in state.open or run.start.part in state.open:
        return False
    behind = _cut_off(plan, run)
    ending = {one for one in behind if kinds[one] not in _HANDS_ON}
    return not ending or any(kinds[one] != "load" or one not in state.off for one in ending)


def _cut_off(plan: Plan, without: Run) -> set[str]:
    """Parts that no source reaches with one run taken out, negatives left aside."""

    def reached(runs: Sequence[Run]) -> set[str]:
        seen = {part.id for part in plan.parts if part.kind in _GIVES}
        grown = True
        while grown:
            grown = False
            for run in runs:
                ends = {run.start.part, run.finish.part}
                if ends & seen and not ends <= seen:
                    seen |= ends
                    grown = True
        return seen

    runs = [run for run in plan.runs if run.legs != "negative"]
    return reached(runs) - reached([run for run in runs if run.id != without.id])
