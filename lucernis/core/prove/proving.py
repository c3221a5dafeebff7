"""The proving list: what to read on a built system, in which order, with which state made, and what should be read."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from lucernis.core.itself import Itself
from lucernis.core.prove import proving_lines as ask
from lucernis.core.prove.day import Day
from lucernis.core.prove.frame import Frame, frame
from lucernis.core.prove.plain_lines import (
    engine_lines,
    held_lines,
    held_states,
    panel_lines,
    standing_lines,
    starting_lines,
    warm_lines,
)
from lucernis.core.prove.proving_line import Line
from lucernis.core.prove.proving_list import SECTIONS, ProvingList
from lucernis.core.prove.situations import Situation
from lucernis.plan.model import Plan


@dataclass(frozen=True, slots=True)
class Made:
    """A state to make for readings."""

    id: str
    name: str
    to_make: str
    caution: str


@dataclass(frozen=True, slots=True)
class Proving:
    """The whole list: sections in order with their names, the states to make, and the lines."""

    sections: tuple[tuple[str, str], ...]
    states: dict[str, Made]
    lines: tuple[Line, ...]
    method: str


ANY_DAY = Day()
METHOD = (
    "First order: every length, joint, fuse, contact, battery and load spreads by reading_spread.csv; the band holds "
    "95 readings of 100, the error of a usual hand meter in it."
)


def _places_order(made: Frame, lines: list[Line]) -> list[Line]:
    """As it is; a state is made once: lines of one section and state stand together."""
    order: dict[tuple[str, str], int] = {}
    for line in lines:
        order.setdefault((line.section, line.situation), len(order))
    sections = {name: k for k, (name, _) in enumerate(SECTIONS)}
    return sorted(lines, key=lambda one: (sections[one.section], order[(one.section, one.situation)]))


def _state(one: Situation) -> Made:
    return Made(one.id, one.name, one.to_make, one.caution)


@lru_cache(maxsize=6)
def _proving(this: Itself[Plan], day: Day) -> Proving:
    made = ProvingList(frame(this.thing, measured_v=dict(day.measured_v), sky=day.sky))
    ask.dead_lines(made)
    ask.at_rest_lines(made)
    ask.switched_lines(made)
    ask.loads_lines(made)
    ask.branch_lines(made)
    ask.most_lines(made)
    ask.sources_lines(made)
    ask.charging_lines(made)
    plain = [*held_lines(made.frame), *standing_lines(made.frame), *panel_lines(made.frame.plan, day.sky),
             *engine_lines(made.frame), *starting_lines(made.frame)]  # fmt: skip
    lines = [*made.settle(), *plain, *warm_lines(made.frame, made.living)]
    lines = _places_order(made.frame, lines)
    used = {line.section for line in lines}
    states = {name: _state(one) for name, one in made.frame.situations.items()}
    states |= {one.id: Made(one.id, one.name, one.to_make, one.caution) for one in held_states(made.frame)}
    states["panel"] = Made("panel", "Panels by themselves", "Panel plug off its controller, in the light",
                           "Panels are live as long as there is light; no plug is pulled under load.")  # fmt: skip
    return Proving(tuple(one for one in SECTIONS if one[0] in used), states, tuple(lines), METHOD)


def proving(plan: Plan, day: Day = ANY_DAY) -> Proving:
    """The proving list of a plan.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    day : Day
        What is known of the day it is read on.

    Returns
    -------
    Proving
        Nothing live; fuses in; main switch; keyed feeds; device by device and its branches; at the most that flows;
        engine, shore, sun; warm joints. What a plan has nothing for is left out. With a day known, bands are those of
        that day; readings still belong to what is expected on any day.
    """
    plain = _proving(Itself(plan), ANY_DAY)
    if not day.known:
        return plain
    today, as_read = _proving(Itself(plan), day), {line.id: line.as_read for line in plain.lines}
    lines = tuple(replace(line, as_read=as_read.get(line.id, line.as_read)) for line in today.lines)
    return replace(today, lines=lines)
