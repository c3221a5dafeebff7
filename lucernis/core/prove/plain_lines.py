"""Lines of the proving list that no solve gives: panels by the sky, joints by their warmth, what holds a bar with the
main switch off, what draws with everything off."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit.giving import becomes_dead
from lucernis.core.circuit.live_from import listed
from lucernis.core.circuit.supplies import held_v
from lucernis.core.prove import meanings
from lucernis.core.prove.expect import foresee
from lucernis.core.prove.frame import Frame
from lucernis.core.prove.living import Living, live
from lucernis.core.prove.panels import WEATHERS, panel_bands
from lucernis.core.prove.proving_line import Line
from lucernis.core.prove.words import span_text
from lucernis.plan.model import Battery, Isolator, Load, Panel, Plan, State, Switch

# A joint is well when it is no more than so much above its wire. Common practice, no source. [K]
JOINT_RISE_K = 15.0
_HOTTEST = 5
# A source without a battery stands anywhere from so much of the nominal volts on. Common practice, no source. [1]
_HELD_LEAST_FRAC = 0.75
# What monitors, memories and a converter's own draw leave on day and night. Common practice, no source. [A]
_STANDING_A = 0.15
# A starter battery that is well holds so much while it cranks, and hardly more. Common practice, no source.
# [V for each 12 V]
_CRANKED_V, _CRANKED_MOST_V = 9.6, 12.2
# A relay that senses volts is off by so much. Common practice, no source. [V for each 12 V]
_SENSES_V = 0.2
# Where it closes and opens when its maker says nothing. Common practice, no source. [V for each 12 V]
_CLOSES_V, _OPENS_V = 13.3, 12.8
# Devices that start with so many times what they run on are watched while they start. [1]
_STARTS = 1.5
_SOURCES = (
    ("shore", "On shore power", "shore power plugged in", {"shore_on": True}),
    ("sun", "In the sun", "panels in the light", {"sun": True}),
    ("engine", "Engine running", "engine running", {"engine_on": True, "key_on": True}),
)


@dataclass(frozen=True, slots=True)
class HeldState:
    """A state with the main switch off and one source there: what it holds, by point."""

    id: str
    name: str
    to_make: str
    caution: str
    points: dict[str, tuple[str, ...]]


def held_states(frame: Frame) -> list[HeldState]:
    """States with the main switches off in which something else than a battery keeps a bar, a block or a load live.

    Parameters
    ----------
    frame : Frame
        The plan, ready for the meter.

    Returns
    -------
    list of HeldState
        Shore power, sun, engine; those in which nothing is held are left out. Points with the sources that reach them.
    """
    plan, switching = frame.plan, frame.sized.switching
    mains = tuple(part.id for part in plan.parts if isinstance(part, Switch) and part.use == "isolator")
    if not mains:
        return []
    batteries = {part.id for part in plan.parts if isinstance(part, Battery)}
    found = []
    for name, told, to_make, there in _SOURCES:
        state = State(id=f"isolated_{name}", name=told, key_on=False, open=mains).model_copy(update=there)
        switched = switching.in_state(state)
        held = {
            point: sources
            for point, sources in switching.live_from(switched).items()
            if not batteries & set(sources)
            and frame.sized.topology.part_at(point).kind in ("busbar", "fuse_block", "load")
        }
        if held:
            found.append(
                HeldState(
                    state.id, f"Main switch off, {told[0].lower()}{told[1:]}", f"Main switch off, {to_make}, fuses in",
                    f"Not dead like this. It becomes dead by: {becomes_dead(plan)}.", held,
                )
            )  # fmt: skip
    return found


def held_lines(frame: Frame) -> Iterator[Line]:
    """Bars and blocks that a charger or panels keep live with the main switch off."""
    parts, plan = frame.sized.topology.parts, frame.plan
    for state in held_states(frame):
        kinds = {frame.sized.topology.part_at(point).kind for point in state.points}
        # What hangs behind a bar is as live as the bar is: one reading says it.
        told = next((kind for kind in ("busbar", "fuse_block") if kind in kinds), "")
        for point, sources in state.points.items():
            part = frame.sized.topology.part_at(point)
            if part.kind != told:
                continue
            names = listed([parts[one].name for one in sources])
            low, high = _HELD_LEAST_FRAC * plan.nominal_v, 1.02 * held_v(plan, [parts[one] for one in sources])
            label = f"{part.name}, + to −, live from {names}"
            yield Line(
                f"held:{point}@{state.id}", "isolated", state.id, "", label, meanings.HELD, "volts", "V",
                f"+ of {part.name}", f"− of {part.name}", part.id, "", (low + high) / 2, low, high,
                span_text(low, high, "V"), False, None, None, f"{label}: {low:.3g} to {high:.3g} V",
            )  # fmt: skip


def standing_lines(frame: Frame) -> Iterator[Line]:
    """What each house battery gives with every device off."""
    for part in frame.plan.parts:
        if isinstance(part, Battery) and part.use == "house":
            label = f"{part.name}, what it gives with everything off"
            yield Line(
                f"standing:{part.id}@rest", "fuses", "rest", "", label, meanings.STANDING, "amps", "A",
                f"clamp on the negative of {part.name}, or a meter in series", "", part.id, "", _STANDING_A / 3, 0.0,
                _STANDING_A, span_text(0.0, _STANDING_A, "A"), False, None, None,
                f"{label}: up to {_STANDING_A:g} A",
            )  # fmt: skip


def _plain(
    id_: str,
    section: str,
    situation: str,
    label: str,
    means: meanings.Meaning,
    part: Battery | Load,
    low: float,
    high: float,
) -> Line:
    """A line of volts that belongs to no solve."""
    return Line(
        id_, section, situation, "", label, means, "volts", "V", f"+ of {part.name}", f"− of {part.name}", part.id, "",
        (low + high) / 2, low, high, span_text(low, high, "V"), False, None, None,
        f"{label}: {low:.3g} to {high:.3g} V",
    )  # fmt: skip


def engine_lines(frame: Frame) -> Iterator[Line]:
    """What is watched while the engine is started and stopped: cranking, and a relay that senses volts."""
    plan = frame.plan
    starter = next((part for part in plan.parts if isinstance(part, Battery) and part.use == "starter"), None)
    if starter is None or "engine" not in frame.situations:
        return
    blocks = float(starter.rated_v or plan.nominal_v) / 12
    yield _plain(
        f"crank:{starter.id}", "engine", "engine", f"{starter.name}, lowest volts while it cranks", meanings.CRANKING,
        starter, _CRANKED_V * blocks, _CRANKED_MOST_V * blocks,
    )  # fmt: skip
    for part in plan.parts:
        if isinstance(part, Isolator) and part.form == "voltage_sensing":
            for id_, what, volts, means in (
                ("closes", "closes", part.close_v or _CLOSES_V * blocks, meanings.CLOSES_AT),
                ("opens", "opens again, engine off", part.open_v or _OPENS_V * blocks, meanings.OPENS_AT),
            ):
                label = f"{starter.name}, volts at which {part.name} {what}"
                off = _SENSES_V * blocks
                yield _plain(f"{id_}:{part.id}", "engine", "engine", label, means, starter, volts - off, volts + off)


def starting_lines(frame: Frame) -> Iterator[Line]:
    """The lowest volts of devices that start with more than they run on."""
    consumers = frame.sized.wiring.consumers
    for part in frame.plan.parts:
        if not isinstance(part, Load) or (part.inrush_factor or 1.0) < _STARTS or part.id not in consumers:
            continue
        situation = frame.situations.get(f"load:{part.id}")
        if situation is None or part.id not in situation.on:
            continue
        at = consumers.index(part.id)
        factor = np.ones(len(consumers))
        factor[at] = part.inrush_factor or 1.0
        reading = frame.volts(f"+{part.id}", f"-{part.id}", part=part.id)
        foreseen = foresee(live(frame, situation, draw_factor=factor), [reading])
        label = f"{part.name}, lowest volts as it starts"
        yield _plain(
            f"start:{part.id}", "loads", situation.id, label, meanings.STARTING, part, float(foreseen.low[0]),
            float(foreseen.high[0]),
        )  # fmt: skip


def panel_lines(plan: Plan, sky: str = "") -> Iterator[Line]:
    """Panels by themselves, for the weather there is; for each there may be where nobody said."""
    for part in plan.parts:
        if isinstance(part, Panel):
            for name, unit, what, bands in panel_bands(part):
                for weather, (low, high) in bands.items():
                    if sky and weather != sky:
                        continue
                    label = f"{part.name}, {what}, {WEATHERS[weather].lower()}"
                    yield Line(
                        f"panel:{name}:{part.id}:{weather}", "sun", "panel", "", label,
                        meanings.PANEL,
                        "volts" if unit == "V" else "amps", unit, f"+ of {part.name}", f"− of {part.name}", part.id, "",
                        (low + high) / 2, low, high, span_text(low, high, unit), False, None, None,
                        f"{label}: {low:.3g} to {high:.3g} {unit}",
                    )  # fmt: skip


def warm_lines(frame: Frame, living_of: Callable[[str], Living]) -> Iterator[Line]:
    """The joints that take most, against their wires."""
    names = [one for one in frame.situations if one.startswith("state:")]
    if not names:
        return
    most = max(names, key=lambda one: float(np.abs(living_of(one).source_a).sum()))
    living = living_of(most)
    watts = living.element_ohm * living.conductor_a[frame.of] ** 2
    joints = [k for k, one in enumerate(frame.elements) if one.sort in ("joint", "fuse", "contact")]
    joints.sort(key=lambda k: (-float(watts[k]), k))
    for k in joints[:_HOTTEST]:
        element = frame.elements[k]
        rise = 0.0
        if element.run:
            chosen, case = frame.sized.chosen[element.run], frame.sized.cases[element.run]
            if chosen.amp.ampacity_a:
                amps = abs(float(living.conductor_a[element.conductor])) / case.run.parallel
                rise = (case.insulation_c - case.around.ambient_c) * (amps / chosen.amp.ampacity_a) ** 2
        high = rise * 1.4 + JOINT_RISE_K
        label = f"{element.label}, above the air"
        yield Line(
            f"warm:{element.id}@{most}", "warm", most, "", label,
            meanings.WARM_JOINT,
            "warmth", "K", element.label, "", element.part, element.run, rise, 0.0, high,
            span_text(0.0, high, "K"), False,
            abs(float(living.conductor_a[element.conductor])), None, f"{label}: up to {high:.0f} K",
        )  # fmt: skip
