"""How far the work is: what is done, what is undone by a change of the plan, what was done too early."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from lucernis.core.build.order import Order
from lucernis.core.build.steps import Step

Standing = Literal["done", "changed", "ready", "waiting"]


@dataclass(frozen=True, slots=True)
class Tick:
    """That somebody did a step: which, what it was then, who, and when."""

    number: int
    step: str
    was: str
    text: str
    who: str
    made_at: str


@dataclass(frozen=True, slots=True)
class StepState:
    """A step and how it stands. `waits_for` are the texts of what is not done yet and comes before it."""

    step: Step
    standing: Standing
    number: int | None
    who: str
    made_at: str
    was: str
    waits_for: list[str]


@dataclass(frozen=True, slots=True)
class Undone:
    """Something done to the vehicle that the plan no longer says."""

    number: int
    step: str
    was: str
    who: str
    made_at: str


@dataclass(frozen=True, slots=True)
class Amiss:
    """What is wrong with how the work went, with a stable code."""

    code: Literal["step-early", "wall-closed-early", "done-otherwise"]
    step: str
    what: str
    mend: str


@dataclass(frozen=True, slots=True)
class Progress:
    """The work and how far it is."""

    steps: list[StepState]
    power_up: list[StepState]
    gone: list[Undone]
    amiss: list[Amiss]
    done: int
    total: int


def _state(step: Step, ticks: dict[str, Tick], named: dict[str, Step], fits: set[str]) -> StepState:
    tick = ticks.get(step.id)
    waits = [named[one].text for one in step.needs if one not in fits and one in named]
    if tick is None:
        return StepState(step, "waiting" if waits else "ready", None, "", "", "", waits)
    standing: Standing = "done" if tick.was == step.done_as else "changed"
    return StepState(step, standing, tick.number, tick.who, tick.made_at, tick.was, waits)


def progress(order: Order, ticks: Iterable[Tick]) -> Progress:
    """How far the work is.

    Parameters
    ----------
    order : Order
        The work as the plan asks for it now.
    ticks : iterable of Tick
        What is done, the newest of each step last; those taken back left out.

    Returns
    -------
    Progress
        A step done while the plan said otherwise is `changed`: what it was then is told. What was done and is no
        longer in the plan is `gone`.
    """
    newest = {tick.step: tick for tick in ticks}
    every: Sequence[Step] = [*order.steps, *order.power_up]
    pieces = {mark.id for step in every for mark in step.made_of}
    for step in every:
        parts = [newest.get(mark.id) for mark in step.made_of]
        last = parts[-1] if parts else None
        if step.id not in newest and last is not None and None not in parts:
            was = "; ".join(one.was for one in parts if one is not None)
            newest[step.id] = Tick(last.number, step.id, was, "", last.who, last.made_at)
    named = {step.id: step for step in every}
    fits = {one for one, tick in newest.items() if one in named and named[one].done_as == tick.was}
    amiss = []
    for step in every:
        tick = newest.get(step.id)
        if tick is None:
            continue
        if tick.was != step.done_as:
            amiss.append(
                Amiss("done-otherwise", step.id, f"{step.text}: done as {tick.was or 'noted'}, now {step.done_as}",
                      "Do it again, or note it as a deviation and pin what is there.")
            )  # fmt: skip
        early = [named[one] for one in step.needs if one not in newest and one in named]
        if early and step.phase in ("close", "shut"):
            amiss.append(
                Amiss("wall-closed-early", step.id, f"{step.text}: closed over {_some(early)}, not ticked",
                      "Open it, or do and tick what is behind it.")
            )  # fmt: skip
        elif early:
            amiss.append(
                Amiss("step-early", step.id, f"{step.text}: done before {_some(early)}",
                      "Look whether it is well done all the same, and tick what was forgotten.")
            )  # fmt: skip
    return Progress(
        steps=[_state(step, newest, named, fits) for step in order.steps],
        power_up=[_state(step, newest, named, fits) for step in order.power_up],
        gone=[
            Undone(tick.number, tick.step, tick.was, tick.who, tick.made_at)
            for tick in newest.values()
            if tick.step not in named and tick.step not in pieces
        ],
        amiss=amiss,
        done=len(fits),
        total=len(every),
    )


def _some(steps: Sequence[Step]) -> str:
    told = "; ".join(step.text for step in steps[:3])
    return f"{told} and {len(steps) - 3} more" if len(steps) > 3 else told
