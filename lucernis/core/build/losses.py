"""What is lost on the way to the loads with everything on: what to look for in the ten minutes at load."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.sizing.choice import Sized
from lucernis.plan.model import Load, Plan


@dataclass(frozen=True, slots=True)
class Loss:
    """A load, what it draws [A], and the volts lost from its battery to it, there and back. [V]"""

    load: str
    name: str
    source: str
    amps: float
    volts: float


def losses(plan: Plan, sized: Sized) -> list[Loss]:
    """Losses to the loads in the state in which the bank gives most.

    Parameters
    ----------
    plan : Plan
        Laid out.
    sized : Sized
        Its sizes.

    Returns
    -------
    list of Loss
        Largest first; none where nothing is on.
    """
    names = {part.id: part.name for part in plan.parts}
    state = max(sized.states.values(), key=lambda one: one.source_a, default=None)
    if state is None:
        return []
    found = []
    for part in plan.parts:
        root = sized.topology.root_of.get(part.id, "")
        amps = state.load_a.get(part.id, 0.0)
        on = isinstance(part, Load) and amps > 0 and part.id not in state.unserved
        if on and root in state.home_v and part.id in state.part_v:
            volts = state.home_v[root] - state.part_v[part.id]
            found.append(Loss(part.id, part.name, names.get(root, root), amps, volts))
    return sorted(found, key=lambda one: (-one.volts, one.load))
