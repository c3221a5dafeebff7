"""How far from the batteries a part is wired."""

from __future__ import annotations

from collections import deque

from lucernis.plan.model import Plan

_SOURCES = ("battery", "alternator")


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
