"""How many conductors lie together in a channel and can carry current at the same time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lucernis.core.layout.routes import Route
from lucernis.plan.model import Battery, Busbar, ChassisPoint, FuseBlock, Load, Part, Plan, Run, Shunt, State

# Through these current goes on to what hangs behind.
_PASSING = ("fuse_block", "switch", "joint", "relay", "diode", "keyed_feed")


def conductors(run: Run) -> int:
    """Conductors of a run side by side."""
    return run.parallel * (2 if run.legs == "both" else 1)


def is_bond(run: Run, parts: Mapping[str, Part]) -> bool:
    """Whether a negative alone joins the system to the body: in service it carries nothing."""
    if run.legs != "negative":
        return False
    ends = [parts[run.start.part], parts[run.finish.part]]
    return any(one.kind == "chassis_point" for one in ends) and all(
        isinstance(one, Battery | Busbar | Shunt | FuseBlock | ChassisPoint) for one in ends
    )


class Carrying:
    """Which runs can carry current in a state: all but bonds, wires of coils, those whose fuse is out or that are off
    at their start, and those that feed only loads that are off.

    Parameters
    ----------
    plan : Plan
        Its runs, parts and states.
    """

    def __init__(self, plan: Plan) -> None:
        self._parts = {part.id: part for part in plan.parts}
        self._onward: dict[str, list[Run]] = {}
        for run in plan.runs:
            if run.legs in ("both", "positive"):
                self._onward.setdefault(run.start.part, []).append(run)
        self._loads = {run.id: self._behind(run) for run in plan.runs}

    def _behind(self, run: Run) -> frozenset[str] | None:
        """Loads a run feeds, none where it only tells relays what to do; None where something else hangs there too, or
        nothing does."""
        if run.legs not in ("both", "positive"):
            return None
        found, coils, seen, waiting = set[str](), False, set[str](), [run]
        while waiting:
            end = waiting.pop().finish
            if end.terminal == "coil":
                coils = True
                continue
            if end.part in seen:
                continue
            seen.add(end.part)
            part = self._parts[end.part]
            if isinstance(part, Load):
                found.add(end.part)
            elif part.kind not in _PASSING:
                return None
            waiting += [one for one in self._onward.get(end.part, ()) if one is not run]
        return frozenset(found) if found or coils else None

    def in_state(self, run: Run, state: State) -> bool:
        """Whether a run can carry current in a state."""
        if run.id in state.open or run.start.part in state.open or is_bond(run, self._parts):
            return False
        loads = self._loads[run.id]
        # What moves a coil warms nothing: no load, no neighbour.
        return loads is None or not loads <= set(state.off)


def in_channels(plan: Plan, routes: Mapping[str, Route]) -> dict[str, tuple[Run, ...]]:
    """Runs that lie in each channel, in the order of the plan."""
    found: dict[str, list[Run]] = {channel.id: [] for channel in plan.channels}
    for run in plan.runs:
        for channel in dict.fromkeys(routes[run.id].channels) if run.id in routes else ():
            found[channel].append(run)
    return {channel: tuple(runs) for channel, runs in found.items()}


def counts(plan: Plan, lying: Mapping[str, Sequence[Run]]) -> dict[str, int]:
    """Conductors that can carry current together in each channel, in the state in which they are most.

    Parameters
    ----------
    plan : Plan
        Its states.
    lying : mapping
        Runs in each channel.

    Returns
    -------
    dict
        By channel; bonds never count.
    """
    carrying = Carrying(plan)
    found = dict.fromkeys(lying, 0)
    for state in plan.states:
        live = {run.id: conductors(run) for run in plan.runs if carrying.in_state(run, state)}
        for channel, runs in lying.items():
            found[channel] = max(found[channel], sum(live.get(run.id, 0) for run in runs))
    return found
