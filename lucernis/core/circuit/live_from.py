"""What can keep a point live with some contacts open: batteries, alternators, chargers and panels alike."""

from __future__ import annotations

from collections.abc import Collection

from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.circuit.terminals import point
from lucernis.plan.model import Part, Plan
from lucernis.plan.terminals import terminals

_GIVING = ("battery", "alternator", "panel", "charger")


def source_points(part: Part) -> tuple[str, ...]:
    """Positive points at which a part gives: a charger at its outputs, an inverter that charges at its own; none for
    what only draws or passes on."""
    if part.kind == "load":
        return (part.id,) if part.inverter is not None and part.inverter.charge_a is not None else ()
    if part.kind == "charger":
        return tuple(point(part.id, one) for one in terminals(part) if one in ("out", "out_b"))
    return (part.id,) if part.kind in _GIVING else ()


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
    found: dict[str, list[str]] = {}
    for part in plan.parts:
        roots = source_points(part)
        if not roots:
            continue
        for name in switching.reach(closed, frozenset(), roots=roots):
            found.setdefault(name, []).append(part.id)
    return {name: tuple(some) for name, some in found.items()}
