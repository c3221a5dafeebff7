"""How many conductors lie together in a channel and can carry current at the same time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lucernis.core.circuit.in_order import in_order
from lucernis.core.circuit.topology import trace
from lucernis.core.layout.routes import Route
from lucernis.plan.model import Battery, Busbar, ChassisPoint, FuseBlock, Part, Plan, Run, Shunt, State


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
        self._topology = trace(in_order(plan))
        self._loads = {run.id: self._behind(run) for run in plan.runs}

    def _behind(self, run: Run) -> frozenset[str] | None:
        """Loads a run feeds, none where it only tells relays what to do; None where something else hangs there too,
        where it can be fed from both ends, or where nothing hangs there."""
        topology = self._topology
        if run.id not in topology.behind or run.id in topology.both_fed:
            return None
        found = topology.behind[run.id]
        loads = frozenset(topology.loads_behind[run.id])
        coils = {name for name in found if name.endswith(":coil")}
        return loads if found and loads | coils == set(found) else None

    def in_state(self, run: Run, state: State) -> bool:
        """Whether a run can carry current in a state."""
        topology = self._topology
        if run.id in state.open or topology.fed_part(run).id in state.open or is_bond(run, topology.parts):
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


def times(routes: Mapping[str, Route], run: Run, channel: str) -> int:
    """How often a run passes a channel: twice where it goes there and back."""
    return routes[run.id].channels.count(channel)


def counts(plan: Plan, lying: Mapping[str, Sequence[Run]], routes: Mapping[str, Route]) -> dict[str, int]:
    """Conductors that can carry current together in each channel, in the state in which they are most.

    Parameters
    ----------
    plan : Plan
        Its states.
    lying : mapping
        Runs in each channel.
    routes : mapping
        Their ways: a run that comes back through a channel lies in it twice.

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
            together = sum(live.get(run.id, 0) * times(routes, run, channel) for run in runs)
            found[channel] = max(found[channel], together)
    return found
