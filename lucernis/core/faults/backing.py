"""Fuses that rely on a stronger one before them: which breaks what they cannot."""

from __future__ import annotations

from lucernis.core.circuit.batteries import house_batteries
from lucernis.core.circuit.terminals import has_positive
from lucernis.core.circuit.topology import path_runs
from lucernis.core.protection.fuse_curves import breaking_capacity
from lucernis.core.protection.fuses import family
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import far_key, strings_are_fused
from lucernis.plan.model import Plan, Run


def backing_run(plan: Plan, sized: Sized, run: Run, fault_a: float, volts: float) -> tuple[Run, bool] | None:
    """The run nearer to the battery whose fuse breaks a short that is too strong for the fuse of another.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes.
    run : Run
        Whose fuse is too weak.
    fault_a : float
        The short. [A]
    volts : float
        Volts the table of breaking capacity is entered with. [V]

    Returns
    -------
    tuple of Run and bool, or None
        The run and whether its fuse limits the current, so that the weaker one never sees the whole: such a one first,
        else the nearest. None where nothing before it breaks the short.
    """
    topology = sized.topology
    found: list[tuple[Run, bool]] = []
    for upstream in reversed(path_runs(topology, topology.start_of.get(run.id, ""))):
        for key in (far_key(upstream), upstream):
            fuse = sized.fuses.get(key)
            if fuse is not None and fuse.fuse is not None:
                breaks = breaking_capacity(fuse.fuse.family, volts).breaking_a
                if breaks is not None and breaks >= fault_a:
                    found.append((topology.runs[upstream], family(fuse.fuse.family).limiting))
    if found:
        return next((one for one in found if one[1]), found[0])
    if not strings_are_fused(plan):
        return None
    # Each string's fuse breaks that string's share, whatever they give together.
    house = {one.id for one in house_batteries(plan)}
    own = [one for one in plan.runs if house & {one.start.part, one.finish.part} and has_positive(one)]
    if run in own or not own:
        return None
    fuses = [sized.fuses[key] for one in own for key in (one.id, far_key(one.id)) if key in sized.fuses]
    made = [fuse.fuse.family for fuse in fuses if fuse.fuse is not None]
    return own[0], bool(made) and all(family(one).limiting for one in made)
