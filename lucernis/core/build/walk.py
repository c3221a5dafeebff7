"""In which order one walks through a vehicle, and how far from the batteries a part is wired."""

from __future__ import annotations

from collections import deque

from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.routes import Roads
from lucernis.plan.model import Plan

_SOURCES = ("battery", "alternator")


def place_order(plan: Plan) -> dict[str, int]:
    """Places in the order of their way from the first house battery.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    dict of str to int
        Id of a place to its number, nearest first; those no channel leads to behind the others, as they stand.
    """
    names = [place.id for place in plan.places]
    batteries = [part for part in plan.parts if part.kind == "battery" and part.place is not None]
    batteries.sort(key=lambda part: getattr(part, "use", "") != "house")
    if not names or not batteries:
        return {name: at for at, name in enumerate(names)}
    roads = Roads(names, measured_channels(plan))
    home = str(batteries[0].place)
    far_m: dict[str, float] = {}
    for name in names:
        way = roads.shortest(home, name)
        far_m[name] = roads.metres(way) if way is not None else float("inf")
    ranked = sorted(names, key=lambda name: (far_m[name], names.index(name)))
    return {name: at for at, name in enumerate(ranked)}


def depths(plan: Plan) -> dict[str, int]:
    """How many runs lie between a part and the nearest battery or alternator.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    dict of str to int
        Id of a part to that number; parts that hang on no battery, as a panel's, count from where they stand last.
    """
    beside: dict[str, list[str]] = {part.id: [] for part in plan.parts}
    for run in plan.runs:
        beside[run.start.part].append(run.finish.part)
        beside[run.finish.part].append(run.start.part)
    found: dict[str, int] = {part.id: 0 for part in plan.parts if part.kind in _SOURCES}
    queue = deque(found)
    while queue:
        here = queue.popleft()
        for there in beside[here]:
            if there not in found:
                found[there] = found[here] + 1
                queue.append(there)
    last = 1 + max(found.values(), default=0)
    return {part.id: found.get(part.id, last) for part in plan.parts}
