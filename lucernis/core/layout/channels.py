"""How long each channel is: by the tape, else as drawn."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.plan.layout import Channel, Place
from lucernis.plan.model import Plan


@dataclass(frozen=True, slots=True)
class Measured:
    """A channel with its length [m], None where it has neither a measure nor two drawn places."""

    channel: Channel
    length_m: float | None
    guessed: bool


def drawn_m(start: Place, finish: Place) -> float | None:
    """How far two places lie apart along walls and floor: along, across, up and down.

    Parameters
    ----------
    start, finish : Place
        Two places; a height that is not known counts as the floor.

    Returns
    -------
    float or None
        Sum of the differences [m]; None where one of them is not drawn.
    """
    if start.x_m is None or start.y_m is None or finish.x_m is None or finish.y_m is None:
        return None
    up_m = abs((start.z_m or 0.0) - (finish.z_m or 0.0))
    return abs(start.x_m - finish.x_m) + abs(start.y_m - finish.y_m) + up_m


def measured_channels(plan: Plan) -> dict[str, Measured]:
    """Every channel with its length.

    Parameters
    ----------
    plan : Plan
        Its places and channels.

    Returns
    -------
    dict
        By the channel's id, in the order of the plan.
    """
    places = {place.id: place for place in plan.places}
    found = {}
    for channel in plan.channels:
        if channel.length_m is not None:
            found[channel.id] = Measured(channel, channel.length_m, guessed=False)
        else:
            length_m = drawn_m(places[channel.start], places[channel.finish])
            found[channel.id] = Measured(channel, length_m, guessed=True)
    return found
