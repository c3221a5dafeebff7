"""What can keep a point live with some contacts open: batteries, alternators, chargers and panels alike."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from lucernis.core.circuit.giving import source_points
from lucernis.core.circuit.switching import Switched, SwitchingPlan
from lucernis.plan.model import Plan


def live_from(plan: Plan, opened: Collection[str] = ()) -> dict[str, tuple[str, ...]]:
    """Which sources can reach each positive point with some parts open, all other contacts closed.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    opened : collection of str
        Ids of switches, relays and the like whose contacts are open.

    Returns
    -------
    dict
        Point to ids of sources in the order of the plan; points that nothing reaches are left out. A charger is a
        source at its output, whatever feeds it: its input may be live at any time.
    """
    switching = SwitchingPlan(plan)
    closed = [contact for contact in switching.contacts if contact[0] not in opened]
    sources = frozenset((part.id, points) for part in plan.parts if (points := source_points(part)))
    return switching.live_from(Switched(frozenset(closed), frozenset(), frozenset(), sources=sources))


def listed(names: Sequence[str]) -> str:
    """Names of sources in words: ``A, B and C``."""
    return f"{', '.join(names[:-1])} and {names[-1]}" if len(names) > 1 else "".join(names)
