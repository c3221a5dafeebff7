"""Systems of a plan that nothing joins: the house side and a boat's engine, two boats in one document.

Each is sized and judged by itself, so that neither hides nor changes anything of the other.
"""

from __future__ import annotations

from lucernis.plan.model import Battery, Plan


def systems(plan: Plan) -> tuple[frozenset[str], ...]:
    """Parts of a plan by what they are joined to.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    tuple of frozenset of str
        Ids of the parts of each system, the one with most battery first; one where the plan has no more. Runs of any
        leg join, so do the body and, for starter batteries, the engine. What no battery reaches counts with the first.
    """
    above = {part.id: part.id for part in plan.parts}

    def head(name: str) -> str:
        while above[name] != name:
            above[name] = above[above[name]]
            name = above[name]
        return name

    def join(some: list[str]) -> None:
        for one in some[1:]:
            above[head(one)] = head(some[0])

    for run in plan.runs:
        join([run.start.part, run.finish.part])
    join([part.id for part in plan.parts if part.kind == "chassis_point"])
    starters = [part.id for part in plan.parts if isinstance(part, Battery) and part.use == "starter"]
    join([*starters, *(part.id for part in plan.parts if part.kind == "alternator")])
    parts: dict[str, list[str]] = {}
    held: dict[str, tuple[float, float]] = {}
    for part in plan.parts:
        top = head(part.id)
        parts.setdefault(top, []).append(part.id)
        if isinstance(part, Battery):
            house_ah, ah = held.get(top, (0.0, 0.0))
            held[top] = (house_ah + (part.capacity_ah if part.use == "house" else 0.0), ah + part.capacity_ah)
    if len(held) < 2:
        return (frozenset(above),)
    order = sorted(held, key=lambda top: (-held[top][0], -held[top][1]))
    loose = [name for top, some in parts.items() if top not in held for name in some]
    return tuple(frozenset(parts[top] + (loose if top == order[0] else [])) for top in order)
