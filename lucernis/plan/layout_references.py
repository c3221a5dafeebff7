"""What holds the layout together: channels between places that are there, ways along channels that are there, places
within the vehicle."""

from __future__ import annotations

from lucernis.errors import FieldProblem
from lucernis.plan.layout import Outline
from lucernis.plan.model import Plan

# Wiring may lie this far under the floor, and this far above the roof.
UNDER_FLOOR_M, OVER_ROOF_M = 1.0, 0.6
# Mirrors, bumpers, a rack at the rear: things stand a little outside the walls.
BESIDE_M = 0.3


def bounds_m(outline: Outline) -> dict[str, tuple[float, float]]:
    """Between what a place may stand.

    Parameters
    ----------
    outline : Outline
        The vehicle from above.

    Returns
    -------
    dict
        Least and greatest of ``x_m``, ``y_m`` and ``z_m``. [m]
    """
    return {
        "x_m": (-outline.nose_m - BESIDE_M, outline.length_m + BESIDE_M),
        "y_m": (-BESIDE_M, outline.width_m + BESIDE_M),
        "z_m": (-UNDER_FLOOR_M, outline.height_m + OVER_ROOF_M),
    }


def layout_problems(plan: Plan) -> list[FieldProblem]:
    """Names of the layout that lead nowhere, and places outside the vehicle."""
    places, channels = {one.id for one in plan.places}, {one.id for one in plan.channels}
    zones = {one.id for one in plan.zones}
    problems: list[FieldProblem] = []
    for index, channel in enumerate(plan.channels):
        where = f"#/channels/{index}"
        for side, place in (("start", channel.start), ("finish", channel.finish)):
            if place not in places:
                problems.append(FieldProblem(f"{where}/{side}", f"no place {place!r}"))
        if channel.zone is not None and channel.zone not in zones:
            problems.append(FieldProblem(f"{where}/zone", f"no zone {channel.zone!r}"))
    for index, run in enumerate(plan.runs):
        if run.way is None:
            continue
        for name, named in (("use", run.way.use), ("avoid", run.way.avoid)):
            for at, one in enumerate(named):
                if one not in channels:
                    problems.append(FieldProblem(f"#/runs/{index}/way/{name}/{at}", f"no channel {one!r}"))
        both = set(run.way.use) & set(run.way.avoid)
        if both:
            problems.append(FieldProblem(f"#/runs/{index}/way/avoid", f"{min(both)!r} is to be used and avoided"))
    return problems + _outside(plan)


def _outside(plan: Plan) -> list[FieldProblem]:
    outline = plan.job.vehicle.outline
    if outline is None:
        return []
    problems = []
    for index, place in enumerate(plan.places):
        for name, (least_m, most_m) in bounds_m(outline).items():
            value_m = getattr(place, name)
            if value_m is not None and not least_m - 1e-9 <= value_m <= most_m + 1e-9:
                text = f"{place.name} stands outside the vehicle: {least_m:g} m to {most_m:g} m"
                problems.append(FieldProblem(f"#/places/{index}/{name}", text))
    return problems
