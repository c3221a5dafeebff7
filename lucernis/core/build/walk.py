"""In which order one walks through a vehicle."""

from __future__ import annotations

from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.routes import Roads
from lucernis.plan.model import Plan


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
