"""Shorts of any positive to the body: whether it brings them back, what opens and when, what the bond reaches."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit.terminals import CHASSIS
from lucernis.core.faults.study import Fault, FaultStudy, study_faults
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.openings import Struck, reached_c
from lucernis.core.sizing.places import is_bond
from lucernis.core.wire.heat import short_time_limit
from lucernis.plan.model import Plan, Run, State

CARRIES = ("steel", "aluminium")
_BODY = {"fibreglass_or_wood": "fibreglass or wood", "boat_hull": "a boat's hull", "frame": "a bare frame"}


@dataclass(frozen=True, slots=True)
class BondHeat:
    """What a bond reaches in the short that heats it most [°C], what it stands, and where that short is. None where
    nothing opens."""

    run_id: str
    reached_c: float | None
    limit_c: float
    by: str


@dataclass(frozen=True, slots=True)
class BodyStudy:
    """Shorts to the body, or why there are none to study."""

    reason: str
    study: FaultStudy | None
    bonds: list[BondHeat]


def _heat(sized: Sized, bond: Run, faults: list[Fault]) -> BondHeat:
    """One bond carries all of the short: where there are several each is looked at as if it were alone."""
    option = sized.chosen[bond.id]
    limit_c = short_time_limit(sized.cases[bond.id].insulation_c)[0]
    endless = next((one for one in faults if one.slow_s is None and one.weakest_a > 0), None)
    if endless is not None:
        return BondHeat(bond.id, None, limit_c, endless.subject)
    ended = [one for one in faults if one.slow_s is not None and one.heat_a2s is not None]
    if not ended:
        return BondHeat(bond.id, option.temp_c, limit_c, "")
    count = len(ended)
    struck = Struck(
        area_mm2=np.full(count, option.size.area_mm2),
        resistance_20_ohm_per_m=np.full(count, option.size.resistance_20_ohm_per_m),
        parallel=np.full(count, float(bond.parallel)),
        start_c=np.full(count, option.temp_c),
        ambient_c=np.full(count, sized.cases[bond.id].around.ambient_c),
    )
    heat = np.array([one.heat_a2s for one in ended], dtype=float)
    time_s = np.array([one.slow_s for one in ended], dtype=float)
    end_c = reached_c(struck, heat, time_s)
    worst = int(np.argmax(end_c))
    return BondHeat(bond.id, float(end_c[worst]), limit_c, ended[worst].subject)


def study_body(plan: Plan, sized: Sized, state: State | None = None) -> BodyStudy:
    """Bolted shorts of every positive to the body, which brings them back by the bond.

    Parameters
    ----------
    plan : Plan
        The plan as laid out.
    sized : Sized
        Its sizes.
    state : State, optional
        With the contacts of that state; with every contact closed otherwise.

    Returns
    -------
    BodyStudy
        With a reason and no study where the body carries nothing or nothing joins the negative to it.

    Notes
    -----
    The body between a chassis point and any other counts as measured (`chassis_ohm`), else as usual; where on it the
    short is makes no difference.
    """
    body = plan.job.vehicle.body
    if body not in CARRIES:
        return BodyStudy(f"The body is {_BODY[body]}: it carries no current, two wires everywhere.", None, [])
    if CHASSIS not in sized.wiring.neg:
        return BodyStudy("Nothing joins the negative to the body: a short to it finds no way back.", None, [])
    study = study_faults(plan, sized, state, back=sized.wiring.neg[CHASSIS])
    faults = [one for some in study.of_run.values() for one in some]
    if not any(one.weakest_a > 0 for one in faults):
        return BodyStudy("No chassis point is joined to a battery: a short to the body finds no way back.", None, [])
    bonds = [run for run in plan.runs if is_bond(sized.topology, run)]
    return BodyStudy("", study, [_heat(sized, bond, faults) for bond in bonds])
