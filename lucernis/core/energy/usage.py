"""What the loads take in a day, state by state, at the battery: wire losses, inverter losses and standby included."""

from __future__ import annotations

from dataclasses import dataclass, field

from lucernis.core.circuit.in_order import in_order
from lucernis.core.circuit.loads import inverter_efficiency_frac
from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.sizing.choice import Sized
from lucernis.plan.model import Charger, Load, Plan, Slot

HOURS = 24.0


@dataclass(frozen=True, slots=True)
class LoadUse:
    """One consumer over a day.

    `duty` is the share of the hours it can be on at all; `loss_frac` what its wires lose on top; `hours_short` the
    hours its list entry asks for beyond those its states offer.
    """

    load: str
    name: str
    ah: float
    wh: float
    by_state_ah: dict[str, float]
    duty: float
    loss_frac: float
    hours_short: float


@dataclass(slots=True)
class StateDraw:
    """Mean draw from the bank in a state: constant power [W], constant current [A], conductance [S]."""

    power_w: float = 0.0
    current_a: float = 0.0
    siemens: float = 0.0

    def amps(self, volts: float) -> float:
        """Current at a voltage. [A]"""
        return self.power_w / volts + self.current_a + self.siemens * volts


@dataclass(slots=True)
class Usage:
    """A day of a plan: the course of its states, its consumers, and the mean draw in each state."""

    day: tuple[Slot, ...]
    loads: list[LoadUse]
    draws: dict[str, StateDraw] = field(default_factory=dict)

    @property
    def ah(self) -> float:
        """Charge a day at nominal volts. [Ah]"""
        return sum((one.ah for one in self.loads), 0.0)

    @property
    def wh(self) -> float:
        """Energy a day. [Wh]"""
        return sum((one.wh for one in self.loads), 0.0)


def day_of(plan: Plan) -> tuple[Slot, ...]:
    """The course of the day; all of it in one state where the plan says nothing: that in which most loads can be on,
    with the engine off and without shore power where there is one."""
    if plan.energy.day:
        return plan.energy.day
    usual = min(in_order(plan).states, key=lambda one: (len(one.off), not one.key_on, one.engine_on, one.shore_on))
    return (Slot(state=usual.id, hours=HOURS),)


def _loss_frac(sized: Sized, name: str) -> float:
    """Share its wires lose on top of what it gets, in its worst state."""
    volts = [result.part_v[name] for result in sized.states.values() if name in result.load_a]
    low_v = min((one for one in volts if one > 0), default=0.0)
    return sized.home_v(name) / low_v - 1 if low_v > 0 else 0.0


@dataclass(slots=True)
class _Consumer:
    name: str
    label: str
    power_w: float
    hours: float
    kind: str
    volts: float


def _consumers(plan: Plan, sized: Sized) -> list[_Consumer]:
    found: list[_Consumer] = []
    nominal_v = float(plan.nominal_v)
    for part in plan.parts:
        figures = sized.demand.loads.get(part.id)
        if isinstance(part, Load):
            if figures is None or figures.power_w is None or part.hours_per_day is None:
                continue
            if part.inverter is not None:
                ac_w = part.power_w if part.power_w is not None else part.inverter.continuous_w
                power_w = ac_w / inverter_efficiency_frac(part.inverter, ac_w)
                found.append(_Consumer(part.id, part.name, power_w, part.hours_per_day, "constant_power", nominal_v))
                on = part.inverter.standby_hours
                hours = part.hours_per_day if on is None else on
                label = f"{part.name}, switched on"
                found.append(_Consumer(part.id, label, part.inverter.standby_w, hours, "constant_power", nominal_v))
                continue
            found.append(
                _Consumer(part.id, part.name, figures.power_w, part.hours_per_day, part.behaviour, figures.rated_v)
            )
        elif isinstance(part, Charger) and part.standby_w > 0:
            found.append(
                _Consumer(part.id, f"{part.name}, standby", part.standby_w, HOURS, "constant_power", nominal_v)
            )
    for name in sized.topology.consumers:
        if name.endswith(":coil") and sized.demand.loads[name].power_w is not None:
            figures = sized.demand.loads[name]
            label = f"{sized.topology.parts[part_id_of(name)].name}, coil"
            found.append(_Consumer(name, label, figures.power_w or 0.0, HOURS, "resistive", figures.rated_v))
    return found


def usage_of(plan: Plan, sized: Sized) -> Usage:
    """What a day takes.

    Parameters
    ----------
    plan : Plan
        Loads with their hours, and the course of the day.
    sized : Sized
        Its sizes, solved: gives the loss of each load's wires.

    Returns
    -------
    Usage
        A load's hours are spread evenly over those in which its states let it be on; coils draw whenever they are
        live. What hangs on the starter side, or on nothing, is left out.

    Notes
    -----
    ``Q = Σ P · h · (1 + λ) / V`` with the loss λ of the worst state, which is careful: most hours draw less.
    """
    day = day_of(plan)
    hours_in: dict[str, float] = {}
    for slot in day:
        hours_in[slot.state] = hours_in.get(slot.state, 0.0) + slot.hours
    usage = Usage(day, [], {state: StateDraw() for state in hours_in})
    for one in _consumers(plan, sized):
        if not _on_house(plan, sized, one.name):
            continue
        charger = isinstance(sized.topology.parts.get(one.name), Charger)
        states = [state for state in hours_in if charger or one.name in sized.demand.on[state]]
        possible = sum(hours_in[state] for state in states)
        duty = min(1.0, one.hours / possible) if possible > 0 else 0.0
        if one.name.endswith(":coil"):
            duty = 1.0
        loss = 0.0 if charger else _loss_frac(sized, one.name)
        power_w = one.power_w * (1 + loss)
        for state in states:
            draw = usage.draws[state]
            if one.kind == "constant_current":
                draw.current_a += duty * one.power_w / one.volts
            elif one.kind == "resistive":
                draw.siemens += duty * one.power_w / one.volts**2 / (1 + loss)
            else:
                draw.power_w += duty * power_w
        by_state = {state: duty * hours_in[state] * power_w / plan.nominal_v for state in states}
        ah = sum(by_state.values(), 0.0)
        short_h = 0.0 if one.name.endswith(":coil") else max(0.0, one.hours - possible)
        usage.loads.append(LoadUse(one.name, one.label, ah, ah * plan.nominal_v, by_state, duty, loss, short_h))
    return usage


def _on_house(plan: Plan, sized: Sized, name: str) -> bool:
    """Whether a consumer hangs on the house side; a charger's own standby counts there."""
    part = sized.topology.parts.get(name)
    if isinstance(part, Charger):
        return True
    root = sized.topology.parts.get(sized.topology.root_of.get(name, ""))
    return root is not None and root.kind == "battery" and root.use == "house"
