"""What gives volts in a state: batteries always, alternator, chargers and panels when their own source is there."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.circuit.terminals import point
from lucernis.plan.model import Charger, Part, Plan, State
from lucernis.plan.terminals import terminals

_PLAIN = ("battery", "alternator", "panel")


@dataclass(frozen=True, slots=True)
class Giver:
    """A source with the positive points at which it gives, and the points of which one has to be live for it; none
    where it needs no other."""

    part: str
    points: tuple[str, ...]
    needs: tuple[str, ...] = ()


def source_points(part: Part) -> tuple[str, ...]:
    """Positive points at which a part gives: a charger at its outputs, an inverter that charges at its own; none for
    what only draws or passes on."""
    if part.kind == "load":
        return (part.id,) if part.inverter is not None and part.inverter.charge_a is not None else ()
    if part.kind == "charger":
        return tuple(point(part.id, one) for one in terminals(part) if one in ("out", "out_b"))
    return (part.id,) if part.kind in _PLAIN else ()


def _works(part: Part, state: State) -> bool:
    """Whether what drives a source is there in a state, apart from volts at its input."""
    if part.kind == "alternator":
        return state.engine_on
    if part.kind == "panel":
        return state.sun
    if part.kind == "load":
        return state.shore_on
    return not isinstance(part, Charger) or charger_gives(part, state)


def charger_gives(charger: Charger, state: State) -> bool:
    """Whether what drives a charger's output is there: mains, the sun, or the engine; a DC-DC charger with panels of
    its own works in the sun too."""
    if charger.form == "shore":
        return state.shore_on
    if charger.form == "sun":
        return state.sun
    return state.engine_on or (charger.pv_high_v is not None and state.sun)


def givers(plan: Plan, state: State) -> list[Giver]:
    """Sources that may give in a state, in the order of the plan.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    state : State
        Says whether the engine runs, mains is plugged in and the sun shines.

    Returns
    -------
    list of Giver
        A solar controller and a DC-DC charger need volts at an input besides. That a battery must be there for a
        controller to start is not relied on: some hold their output without. Common practice, no source.
    """
    found = []
    for part in plan.parts:
        points = source_points(part)
        if not points or not _works(part, state):
            continue
        needs: tuple[str, ...] = ()
        if isinstance(part, Charger) and part.form != "shore":
            needs = tuple(point(part.id, one) for one in terminals(part) if one in ("in", "pv"))
        found.append(Giver(part.id, points, needs))
    return found


def becomes_dead(plan: Plan) -> str:
    """What is done so that nothing but batteries gives: words for a state that is meant to be dead.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    str
        As ``shore lead out, panels covered or their breaker off, key out``; empty where only batteries give. Common
        practice, no source.
    """
    mains = any(
        (isinstance(part, Charger) and part.form == "shore") or (part.kind == "load" and source_points(part))
        for part in plan.parts
    )
    words = [
        "shore lead out" if mains else "",
        "panels covered or their breaker off" if any(part.kind == "panel" for part in plan.parts) else "",
        "key out" if any(part.kind in ("alternator", "keyed_feed") for part in plan.parts) else "",
    ]
    return ", ".join(word for word in words if word)
