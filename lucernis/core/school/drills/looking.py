"""Drills of looking at a system: where fuses go, and what is live when."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from lucernis.core.circuit.live_from import listed
from lucernis.core.school.breaking.van import good_van, van_names
from lucernis.core.school.dice import Dice
from lucernis.core.school.drills.drill import Drill, Wrong, makes
from lucernis.core.school.drills.numbers import number_drill
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan, State
from lucernis.practice.rules import PracticeSet

_M_PER_IN = 0.0254
_BETWEEN = "Look what is between each and the battery: a keyed relay, a switch."


@cache
def _cases() -> dict[str, dict[str, Any]]:
    return tomllib.loads((files("lucernis.core.school.drills") / "where_fuse.toml").read_text(encoding="utf-8"))


@makes("where_fuse")
def where_fuse(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """Near every source, at every step to thinner wire, at both ends of what two sources feed."""
    fitting = [name for name, one in _cases().items() if one["level"] <= level]
    name = dice.one_of(fitting + ["distance"] * (level > 1))
    if name == "distance":
        return _distance(practice)
    case = _cases()[name]
    return Drill(
        "where_fuse",
        case["question"],
        "several" if len(case["right"]) > 1 else "one",
        tuple(case["right"]),
        list(case["working"]),
        choices=dice.some_of(list(case["choices"].items()), len(case["choices"])),
        mistakes=[Wrong(answer, text) for answer, text in case["wrong"].items()],
    )


def _distance(practice: PracticeSet) -> Drill:
    metres = practice.values.fuse_distance_m
    inches, millimetres = float(round(metres / _M_PER_IN)), 1000 * metres
    right, other, unit = (
        (inches, millimetres, "in") if practice.values.size_system in ("awg", "sae") else (millimetres, inches, "mm")
    )
    return number_drill(
        "where_fuse",
        f"The first fuse after a battery: how far from its post at most, by {practice.label}? In {unit}.",
        right,
        unit,
        [
            f"{practice.label}: {right:.3g} {unit}",
            "As short as possible beats any rule: what lies before the fuse is protected by nothing.",
        ],
        [(other, "That is the other unit.")],
        close=0.03,
    )


@cache
def _plan(name: str) -> Plan:
    return parse_plan(good_van(name).doc)


def _fed_by(plan: Plan, part: str) -> str:
    topology = sized_plan(plan).topology
    names: list[str] = []
    here = part
    for _ in range(8):
        run = topology.feeder_of.get(here)
        if run is None:
            break
        one = topology.runs[run]
        here = one.start.part if one.finish.part == here else one.finish.part
        names.append(topology.parts[here].name)
    return " ← ".join(names)


def _state_text(state: State) -> str:
    return ", ".join([
        state.name,
        "key on" if state.key_on else "key off",
        "engine running" if state.engine_on else "engine off",
        *(["on shore power"] if state.shore_on else []),
        *(["sun on the panels"] if state.sun else []),
    ])  # fmt: skip


@makes("live")
def live(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """Which devices have volts in a state."""
    del practice
    name = dice.one_of(van_names())
    plan = _plan(name)
    sized = sized_plan(plan)
    state = dice.one_of(plan.states)
    isolators = [one for one in plan.parts if one.kind == "switch" and one.use == "isolator"]
    off = level > 1 and bool(isolators) and dice.chance(0.5)
    if off:
        state = state.model_copy(update={"open": (*state.open, *(one.id for one in isolators))})
    # Whatever reaches a device keeps it live: a charger behind an open switch as much as a battery before it.
    switched = sized.switching.in_state(state)
    points, sources = switched.alive, sized.switching.live_from(switched)
    names = {part.id: part.name for part in plan.parts}
    loads = [one for one in plan.parts if one.kind == "load"]
    keyed = [one for one in loads if one.keyed]
    shown = dice.some_of(keyed, 2) + dice.some_of([one for one in loads if not one.keyed], 3)
    right = tuple(one.id for one in shown if one.id in points)
    what = f"{plan.job.name}, {_state_text(state)}" + (f", {isolators[0].name.lower()} off" if off else "")
    working = []
    for one in shown:
        by = listed([names[source] for source in sources.get(one.id, ())])
        working.append(f"{one.name}: {f'live from {by}' if by else 'dead'}, fed by {_fed_by(plan, one.id)}")
    everything = ",".join(sorted(one.id for one in shown))
    return Drill(
        "live", f"{what}. Which of these have volts at their terminals?", "several", right, working,
        choices=[(one.id, one.name) for one in shown],
        mistakes=[Wrong(everything, _BETWEEN)] * (set(right) != {one.id for one in shown}),
        columns=["Device", "Fed by"], rows=[[one.name, _fed_by(plan, one.id)] for one in shown],
    )  # fmt: skip
