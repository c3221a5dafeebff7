"""The days: state of charge step by step, what charges it, what is wasted, what could not be served."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.batteries import acceptance_a
from lucernis.core.circuit.supplies import panels_on
from lucernis.core.circuit.terminals import point
from lucernis.core.energy.battery import BankModel, bank_model
from lucernis.core.energy.climate import Climate, module_power_w
from lucernis.core.energy.usage import StateDraw, Usage, usage_of
from lucernis.core.power.bank import BankFigures, bank_figures
from lucernis.core.power.charging import alternator_spare_a, study_charge
from lucernis.core.sizing.choice import Sized
from lucernis.plan.model import Charger, Plan

Floats = NDArray[np.float64]
LONGEST_DAYS = 366
_FULL = 1.0 - 1e-9
# Two rest voltages at which a plain link is solved, for a 12 V lead or lithium battery; between them it is a line.
_LINK_V = (12.0, 12.8)
# Volts at the bars of a 12 V system in the middle of a bulk charge, to turn what a charger gives into power.
_BULK_V = 13.0


@dataclass(frozen=True, slots=True)
class Chargers:
    """What can be given to the bank: power from the engine by DC-DC [W], a plain link as a line of current over rest
    voltage [A], [A/V] capped at `link_most_a`, current from shore [A], and the share of panel power that arrives."""

    engine_w: float
    engine_most_a: float
    link_a: float
    link_a_per_v: float
    link_most_a: float
    shore_a: float
    sun_frac: float
    sun_most_a: float
    sun_most_w: float


def chargers_of(plan: Plan, sized: Sized, bank: BankFigures) -> Chargers:
    """What chargers give through the wires as they are.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes.
    bank : BankFigures
        The house bank.

    Returns
    -------
    Chargers
        From three solves of the circuit with real batteries, and two for a plain link.
    """
    units = [part for part in plan.parts if isinstance(part, Charger)]
    spare_a = alternator_spare_a(plan)
    engine = study_charge(plan, sized, "engine")
    given_a = sum(engine.given_a.values())
    drawn_a = sum(engine.input_a.values())
    share = 1.0
    if spare_a is not None and drawn_a > spare_a:
        share = spare_a / drawn_a
    low_v = bank.nominal_v / 12 * _LINK_V[0]
    currents = [
        max(0.0, study.into_bank_a - sum(study.given_a.values()))
        for study in (study_charge(plan, sized, "engine", open_v=volts) for volts in _LINK_V)
    ]
    slope = (currents[1] - currents[0]) / ((_LINK_V[1] - _LINK_V[0]) * bank.nominal_v / 12)
    most = [
        one for one in (acceptance_a(plan), None if spare_a is None else max(0.0, spare_a - drawn_a)) if one is not None
    ]
    bus_v = bank.nominal_v / 12 * _BULK_V
    shore_a = sum(study_charge(plan, sized, "shore").given_a.values())
    with_sun = [unit for unit in units if panels_on(plan, sized.topology, point(unit.id, "pv"))]
    efficiency = min((unit.efficiency_frac for unit in with_sun), default=1.0)
    sun = study_charge(plan, sized, "sun")
    lost = 0.0
    for unit in with_sun:
        asked_v = sized.home_v(point(unit.id, "pv"))
        if asked_v > 0 and sun.input_v.get(unit.id, 0.0) > 0:
            lost = max(lost, 1 - sun.input_v[unit.id] / asked_v)
    return Chargers(
        engine_w=given_a * share * bus_v,
        engine_most_a=sum(unit.out_a for unit in units if unit.form == "dcdc"),
        link_a=currents[0] - slope * low_v,
        link_a_per_v=slope,
        link_most_a=min(most, default=math.inf) if currents[0] > 0 else 0.0,
        shore_a=shore_a,
        sun_frac=efficiency * (1 - lost),
        sun_most_a=sum(unit.out_a for unit in with_sun),
        sun_most_w=sum((unit.pv_w or math.inf) for unit in with_sun) if with_sun else 0.0,
    )


@dataclass(slots=True)
class Books:
    """Energy over a run [Wh]: what came in from each source, what loads took, what was stored, what was lost, and what
    the sources could have given besides."""

    engine_wh: float = 0.0
    shore_wh: float = 0.0
    sun_wh: float = 0.0
    loads_wh: float = 0.0
    heater_wh: float = 0.0
    stored_wh: float = 0.0
    resistance_wh: float = 0.0
    charge_wh: float = 0.0
    drain_wh: float = 0.0
    unused_sun_wh: float = 0.0
    unserved_wh: float = 0.0

    @property
    def in_wh(self) -> float:
        """What came in. [Wh]"""
        return self.engine_wh + self.shore_wh + self.sun_wh

    @property
    def lost_wh(self) -> float:
        """What was lost in the bank. [Wh]"""
        return self.resistance_wh + self.charge_wh + self.drain_wh

    @property
    def gap_wh(self) -> float:
        """In less out, stored and lost: nothing but rounding. [Wh]"""
        return self.in_wh - self.loads_wh - self.heater_wh - self.stored_wh - self.lost_wh


@dataclass(slots=True)
class DayRun:
    """One course of days. Arrays of shape (n_steps,): state of charge at the end of each step, and powers [W]."""

    name: str
    step_h: float
    soc: Floats
    loads_w: Floats
    engine_w: Floats
    shore_w: Floats
    sun_w: Floats
    books: Books
    lowest_soc: float
    lowest_at_h: float
    empty_at_h: float | None
    full_at_h: float | None


@dataclass(frozen=True, slots=True)
class Step:
    """What is the same every time one state comes round."""

    draw: StateDraw
    engine: bool
    shore: bool


@dataclass(slots=True)
class Scene:
    """All a simulation needs of a plan, made ready once."""

    usage: Usage
    bank: BankFigures
    model: BankModel
    chargers: Chargers
    steps: dict[str, Step] = field(default_factory=dict)


def scene_of(plan: Plan, sized: Sized) -> Scene | None:
    """A plan made ready to be simulated.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes, solved.

    Returns
    -------
    Scene or None
        None without a house battery.
    """
    bank = bank_figures(plan, sized)
    if bank is None:
        return None
    usage = usage_of(plan, sized)
    states = {state.id: state for state in plan.states}
    steps = {name: Step(draw, states[name].engine_on, states[name].shore_on) for name, draw in usage.draws.items()}
    return Scene(usage, bank, bank_model(plan, bank), chargers_of(plan, sized, bank), steps)


def _course(usage: Usage, step_h: float) -> list[str]:
    """State of every step of a day: that which holds at its middle."""
    ends, clock = [], 0.0
    for slot in usage.day:
        clock += slot.hours
        ends.append((clock, slot.state))
    course = []
    for k in range(round(24 / step_h)):
        at = (k + 0.5) * step_h
        course.append(next((state for end, state in ends if at < end), ends[-1][1]))
    return course


def run_days(
    scene: Scene,
    climate: Climate,
    sun_w: Floats,
    name: str,
    *,
    start_soc: float = 1.0,
    tick: Callable[[float], None] | None = None,
) -> DayRun:
    """Simulate a bank through a climate.

    Parameters
    ----------
    scene : Scene
        From `scene_of`.
    climate : Climate
        Gives the steps.
    sun_w : ndarray, shape (n_steps,)
        Power of the panels at their own terminals. [W]
    name : str
        What this course is called.
    start_soc : float
        State of charge to begin with, 0..1.
    tick : callable, optional
        Told the share done once a simulated day; raises to stop.

    Returns
    -------
    DayRun
        The course, its energy books and its extremes.

    Notes
    -----
    In each step ``V = OCV(soc) + R · I`` with the current that sources give less what loads take at that voltage; the
    bank takes at most what its charge limit and taper let it, sun first, then engine, then shore. Charge counts with
    its efficiency, discharge with Peukert. At the least state of charge the loads are off until something charges.
    """
    model, chargers = scene.model, scene.chargers
    step_h, count = climate.step_h, len(climate.ghi_w_per_m2)
    course = [scene.steps[state] for state in _course(scene.usage, step_h)]
    per_day = len(course)
    soc_out, loads, engine = np.empty(count), np.zeros(count), np.zeros(count)
    shore, sun = np.zeros(count), np.zeros(count)
    books = Books()
    soc, stored_before = start_soc, model.stored_wh(start_soc)
    lowest, lowest_at, empty_at, full_at = soc, 0.0, None, None
    resistance, capacity = model.resistance_ohm, model.capacity_ah
    arriving = np.minimum(sun_w * chargers.sun_frac, chargers.sun_most_w).tolist()
    for k in range(count):
        if tick is not None and k % per_day == 0:
            tick(k / count)
        step, sun_here = course[k % per_day], arriving[k]
        open_v = model.open_v(soc)
        served = soc > model.least_soc
        volts = open_v
        load_a = sun_a = engine_a = shore_a = heat_a = flow_a = 0.0
        for _ in range(2):
            load_a = step.draw.amps(volts) if served else 0.0
            sun_a = min(sun_here / volts, chargers.sun_most_a)
            engine_a = shore_a = 0.0
            if step.engine:
                engine_a = min(chargers.engine_w / volts, chargers.engine_most_a)
                if chargers.link_most_a > 0:
                    link_a = chargers.link_a + chargers.link_a_per_v * open_v
                    engine_a += min(max(link_a, 0.0), chargers.link_most_a)
            if step.shore:
                shore_a = chargers.shore_a
            offered = sun_a + engine_a + shore_a
            if not served and offered > 0:
                # Something charges: the management closes again, and the loads with it as far as the offer goes.
                load_a = min(step.draw.amps(volts), offered)
            heat_a = min(model.heater_w / volts, max(0.0, offered - load_a)) if model.heater_w else 0.0
            takes = load_a + heat_a + model.accepts_a(soc)
            room = (1.0 - soc) * capacity / (step_h * model.charge_frac)
            takes = min(takes, load_a + heat_a + room)
            used_sun = min(sun_a, takes)
            used_engine = min(engine_a, takes - used_sun)
            used_shore = min(shore_a, takes - used_sun - used_engine)
            flow_a = used_sun + used_engine + used_shore - load_a - heat_a
            volts = open_v + resistance * flow_a
        if flow_a >= 0:
            change = flow_a * step_h * model.charge_frac / capacity
        else:
            drain = model.drain(-flow_a)
            change = flow_a * step_h * drain / capacity
            left = soc - model.least_soc if served else 0.0
            if -change > left and change < 0:
                # Cut off within the step: only that share of it is served.
                part = left / -change
                load_a, heat_a = load_a * part, heat_a * part
                used_sun, used_engine, used_shore = used_sun * part, used_engine * part, used_shore * part
                flow_a, change = flow_a * part, -left
        change = min(1.0, max(0.0, soc + change)) - soc
        middle_v = model.mean_v(soc, change)
        volts = middle_v + resistance * flow_a
        soc = min(1.0, max(0.0, soc + change))
        power = volts * step_h
        books.sun_wh += used_sun * power
        books.engine_wh += used_engine * power
        books.shore_wh += used_shore * power
        books.loads_wh += load_a * power
        books.heater_wh += heat_a * power
        books.resistance_wh += resistance * flow_a * flow_a * step_h
        if flow_a > 0:
            books.charge_wh += middle_v * flow_a * step_h * (1 - model.charge_frac)
        elif flow_a < 0:
            # More leaves the store than reaches the terminals: that is lost.
            books.drain_wh += middle_v * (flow_a * step_h - change * capacity)
        books.unused_sun_wh += max(0.0, sun_a - used_sun) * power
        wanted = step.draw.amps(max(volts, 1.0))
        books.unserved_wh += max(0.0, wanted - load_a) * power if load_a < wanted * 0.999 else 0.0
        soc_out[k] = soc
        loads[k], engine[k] = (load_a + heat_a) * volts, used_engine * volts
        shore[k], sun[k] = used_shore * volts, used_sun * volts
        if soc < lowest:
            lowest, lowest_at = soc, (k + 1) * step_h
        if empty_at is None and soc <= model.least_soc + 1e-9:
            empty_at = (k + 1) * step_h
        if full_at is None and soc >= _FULL and k > 0:
            full_at = (k + 1) * step_h
    books.stored_wh = model.stored_wh(soc) - stored_before
    return DayRun(name, step_h, soc_out, loads, engine, shore, sun, books, lowest, lowest_at, empty_at, full_at)


@dataclass(frozen=True, slots=True)
class Refill:
    """Hours from half to full by one source alone, with nothing drawn; None where it never gets there."""

    source: str
    hours: float | None


def refills(scene: Scene, *, step_h: float = 0.05, longest_h: float = 200.0) -> list[Refill]:
    """Hours from half to full.

    Parameters
    ----------
    scene : Scene
        The plan made ready.
    step_h : float
        Step. [h]
    longest_h : float
        After so long it counts as never. [h]

    Returns
    -------
    list of Refill
        By the engine, by shore, by full sun, and by all together; without loads, tapering as the bank fills up to
        99 %.
    """
    model, chargers = scene.model, scene.chargers

    def offered(source: str, volts: float, open_v: float) -> float:
        total = 0.0
        if source in ("engine", "together"):
            total += min(chargers.engine_w / volts, chargers.engine_most_a)
            if chargers.link_most_a > 0:
                total += min(max(chargers.link_a + chargers.link_a_per_v * open_v, 0.0), chargers.link_most_a)
        if source in ("shore", "together"):
            total += chargers.shore_a
        if source in ("sun", "together"):
            total += min(chargers.sun_most_a, sun_full_w * chargers.sun_frac / volts)
        return total

    sun_full_w = scene_sun_w(scene)
    found = []
    for source in ("engine", "shore", "sun", "together"):
        soc, hours = 0.5, 0.0
        while soc < 0.99 and hours < longest_h:
            open_v = model.open_v(soc)
            amps = min(offered(source, open_v, open_v), model.accepts_a(soc))
            if amps <= 1e-6:
                hours = longest_h
                break
            soc += amps * step_h * model.charge_frac / model.capacity_ah
            hours += step_h
        found.append(Refill(source, hours if hours < longest_h else None))
    return found


def scene_sun_w(scene: Scene) -> float:
    """Panel power a full sun gives, as far as the chargers use it. [W]"""
    most = scene.chargers.sun_most_w
    volts = scene.model.open_v(0.5)
    by_current = scene.chargers.sun_most_a * volts / max(scene.chargers.sun_frac, 1e-9)
    return min(most, by_current) if math.isfinite(most) else by_current


def days_without_charge(scene: Scene) -> float | None:
    """Days from full to empty with nothing that charges; None where nothing draws."""
    usable = scene.model.capacity_ah * (1 - scene.model.least_soc)
    volts = scene.model.open_v(0.5)
    hours = {slot.state: 0.0 for slot in scene.usage.day}
    for slot in scene.usage.day:
        hours[slot.state] += slot.hours
    daily = sum(
        amps * hours[state] * scene.model.drain(amps)
        for state, draw in scene.usage.draws.items()
        if (amps := draw.amps(volts)) > 0
    )
    return usable / daily if daily > 0 else None


def panels_power_w(plan: Plan, sized: Sized, climate: Climate) -> Floats:
    """Power of all panels that have a charger, shape (n_steps,). [W]"""
    panels = {
        panel.id: panel
        for unit in plan.parts
        if isinstance(unit, Charger)
        for panel in panels_on(plan, sized.topology, point(unit.id, "pv"))
    }
    return module_power_w(list(panels.values()), climate)


def thin_out(run: DayRun, most: int) -> Iterator[tuple[float, float, float, float, float, float]]:
    """A course for drawing: hour, lowest state of charge and mean powers of equal stretches, at most so many."""
    count = len(run.soc)
    size = max(1, math.ceil(count / most))
    starts = np.arange(0, count, size)
    lengths = np.diff(np.append(starts, count))
    lowest = np.minimum.reduceat(run.soc, starts)
    means = [np.add.reduceat(one, starts) / lengths for one in (run.loads_w, run.engine_w, run.shore_w, run.sun_w)]
    ends = (starts + lengths) * run.step_h
    yield from zip(*(one.tolist() for one in (ends, lowest, *means)), strict=True)
