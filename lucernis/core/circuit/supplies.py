"""What chargers draw and give, and what panels are, as figures for the circuit. How they are wired: `wiring.py`."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass

from lucernis.core.circuit.giving import charger_gives
from lucernis.core.circuit.loads import LoadFigures
from lucernis.core.circuit.sources import alternator_v, panel_figures
from lucernis.core.circuit.terminals import point, terminal_of
from lucernis.core.circuit.topology import Topology
from lucernis.plan.model import Charger, Panel, Part, Plan, State
from lucernis.plan.terminals import terminals
from lucernis.practice.rules import RuleValues
from lucernis.practice.tables import load_table

# Irradiance may exceed the standard 1000 W/m² for hours; wires and fuses of panels are chosen for this share more.
PANEL_MARGIN = 1.25
# Inputs of chargers and roof runs: common practice, no source.
INPUT_DROP_FRAC = 0.05
# An electronic input that sags below this share of nominal volts counts as too low where its maker says nothing.
USUAL_IN_LOW_FRAC = 11.0 / 12.0


def input_nominal_v(charger: Charger, plan_v: float) -> float:
    """Nominal volts of what a charger is fed by: its own, else the plan's.

    Parameters
    ----------
    charger : Charger
        The charger.
    plan_v : float
        Nominal voltage of the plan. [V]

    Returns
    -------
    float
        Volts. [V]
    """
    return float(charger.in_nominal_v or plan_v)


def in_low_v(charger: Charger, plan_v: float) -> float:
    """Lowest input a charger works at.

    Parameters
    ----------
    charger : Charger
        The charger.
    plan_v : float
        Nominal voltage of the plan. [V]

    Returns
    -------
    float
        By its maker, else 11.0 V for each 12 V. [V]
    """
    return charger.in_low_v or USUAL_IN_LOW_FRAC * input_nominal_v(charger, plan_v)


def charging_v(charger: Charger, plan_v: float) -> float:
    """Volts at the end of a charger's bulk charge, by the chemistry it is set to.

    Parameters
    ----------
    charger : Charger
        The charger.
    plan_v : float
        Nominal voltage of the plan. [V]

    Returns
    -------
    float
        That of AGM while it is not set. [V]
    """
    row = load_table("battery_chemistry").find(charger.chemistry or "agm")
    return float(row["absorb_v"]) * plan_v / 12


def held_v(plan: Plan, sources: Sequence[Part]) -> float:
    """The most that sources hold where no battery steadies them.

    Parameters
    ----------
    plan : Plan
        Says the nominal volts.
    sources : sequence of Part
        Chargers, alternators, panels, inverters that charge.

    Returns
    -------
    float
        Charging volts of chargers, open volts of panels, what an alternator holds. [V]
    """
    found = [0.0]
    for part in sources:
        if isinstance(part, Charger):
            found.append(charging_v(part, float(plan.nominal_v)))
        elif isinstance(part, Panel):
            found.append(panel_figures(part).full_v)
        else:
            found.append(alternator_v(plan, float(plan.nominal_v)))
    return max(found)


def each_out_a(charger: Charger) -> float:
    """Greatest current of one output. [A]"""
    return charger.out_a / charger.outputs


def input_power_w(charger: Charger, plan_v: float) -> float:
    """Power a charger from another battery asks for at full output.

    Parameters
    ----------
    charger : Charger
        The charger.
    plan_v : float
        Nominal voltage of the plan. [V]

    Returns
    -------
    float
        ``P_in = V_out · I_out / η``. [W]
    """
    return charging_v(charger, plan_v) * charger.out_a / charger.efficiency_frac


def panels_on(plan: Plan, topology: Topology, start: str) -> list[Panel]:
    """Panels joined to a point by wires alone.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Names the ends of its runs.
    start : str
        A point, as the panel input of a charger.

    Returns
    -------
    list of Panel
        In the order of the plan.
    """
    touching: dict[str, list[str]] = {}
    for run in plan.runs:
        if run.legs in ("both", "positive"):
            one, other = topology.ends(run)
            touching.setdefault(one, []).append(other)
            touching.setdefault(other, []).append(one)
    seen, queue = {start}, deque([start])
    while queue:
        for there in touching.get(queue.popleft(), ()):
            if there not in seen:
                seen.add(there)
                queue.append(there)
    return [part for part in plan.parts if isinstance(part, Panel) and part.id in seen]


def panel_power_w(panels: list[Panel]) -> float:
    """Power of panels at standard test conditions. [W]"""
    return sum((one.power_w * one.series * one.strings for one in panels), 0.0)


def panel_short_a(panels: list[Panel]) -> float:
    """Short-circuit current of panels side by side. [A]"""
    return sum((one.short_a * one.strings for one in panels), 0.0)


# A state of its own in which every charger works and every load is off: it decides the wires of chargers.
CHARGING = State(id="charging-alone", name="Charging alone", key_on=True, engine_on=True, shore_on=True, sun=True)


@dataclass(frozen=True, slots=True)
class Supply:
    """A terminal of a charger: what it is, and the panels on it where it is a panel input."""

    charger: Charger
    terminal: str
    panels: tuple[Panel, ...]

    @property
    def gives(self) -> bool:
        """Whether it is an output."""
        return self.terminal in ("out", "out_b")


def supplies(plan: Plan, topology: Topology) -> dict[str, Supply]:
    """The terminals of chargers that something is joined to, by point.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.

    Returns
    -------
    dict
        Point to `Supply`, in the order of the consumers.
    """
    found = {}
    for name in topology.consumers:
        part = topology.part_at(name)
        if isinstance(part, Charger):
            terminal = terminal_of(name) or terminals(part)[0]
            panels = panels_on(plan, topology, name) if terminal == "pv" else []
            found[name] = Supply(part, terminal, tuple(panels))
    return found


def supply_figures(supply: Supply, plan_v: float) -> LoadFigures:
    """A charger's terminal as a consumer: an input draws power, an output is taken as the same current drawn.

    Parameters
    ----------
    supply : Supply
        The terminal.
    plan_v : float
        Nominal voltage of the plan. [V]

    Returns
    -------
    LoadFigures
        Design currents: input ``P_in / V_low``, at most its greatest input; panels 1.25 times their short-circuit
        current; an output its rating. Along a wire an output loses what a load of the same current would.
    """
    charger = supply.charger
    if supply.terminal == "in":
        power_w, low_v = input_power_w(charger, plan_v), in_low_v(charger, plan_v)
        nominal_v = input_nominal_v(charger, plan_v)
        design_a = power_w / low_v
        if charger.in_a is not None:
            design_a = min(design_a, charger.in_a)
            power_w = min(power_w, charger.in_a * nominal_v)
        return LoadFigures(
            nominal_v, power_w, power_w / nominal_v, low_v, design_a, None, low_v, design_a, power_w, long=True
        )
    if supply.terminal == "pv":
        panels = list(supply.panels)
        if not panels:
            return LoadFigures(plan_v, None, None, plan_v, 0.0, None, 0.0, 0.0, None, long=True)
        power_w, short_a = panel_power_w(panels), panel_short_a(panels)
        string_v = panels[0].mp_v * panels[0].series
        design_a = PANEL_MARGIN * short_a
        return LoadFigures(
            string_v, power_w, power_w / string_v, string_v, design_a, None, 0.0, design_a, power_w, long=True
        )
    out_a = each_out_a(charger)
    return LoadFigures(plan_v, out_a * plan_v, out_a, plan_v, out_a, None, 0.0, out_a, out_a * plan_v, long=True)


def supply_limit_frac(supply: Supply, values: RuleValues) -> float:
    """Greatest drop on a charger's wires, as a share of the volts they carry.

    An output is held to that of sensitive loads over its own run: a charger that sees more than the battery has stops
    too early. Inputs and roof runs are held to `INPUT_DROP_FRAC` where other loads may lose more.
    """
    return values.drop_sensitive_frac if supply.gives else min(values.drop_other_frac, INPUT_DROP_FRAC)


def supply_on(supply: Supply, state: State) -> bool:
    """Whether a terminal works in a state: an output with what drives its charger, a roof input in the sun, the input
    of a DC-DC charger with the engine."""
    if supply.gives:
        return charger_gives(supply.charger, state)
    return state.sun if supply.terminal == "pv" else state.engine_on


def charger_points(charger: Charger) -> tuple[str, ...]:
    """All points of a charger."""
    return tuple(point(charger.id, terminal) for terminal in terminals(charger))
