"""What a battery is as a source: open-circuit volts and internal resistance, for running and for faults."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.plan.model import Alternator, Battery, Panel, Plan
from lucernis.practice.tables import TableRow, load_table

TABLE_V = 12.0
TABLE_AH = 100.0
# What an alternator holds at the starter battery, and what is left where the engine's computer lets the voltage sag.
# Common practice, no source.
HELD_V_PER_12V = 14.4
SAGGED_V_PER_12V = 12.8
# Lithium cells without management have half the resistance of a pack: memory.
BARE_CELLS_FRAC = 0.5


@dataclass(frozen=True, slots=True)
class SourceFigures:
    """A battery as a source: full and half-charged open-circuit volts [V], resistance for faults and running [Ω]."""

    full_v: float
    half_v: float
    fault_ohm: float
    running_ohm: float
    cells: tuple[TableRow, ...]
    note: str


def panel_figures(panel: Panel) -> SourceFigures:
    """Voltage and resistance of panels as a source: open-circuit volts, and the resistance of a straight line from
    there to their short-circuit current, which they never exceed."""
    open_v = panel.open_v * panel.series
    ohm = open_v / (panel.short_a * panel.strings)
    return SourceFigures(open_v, panel.mp_v * panel.series, ohm, ohm, (), "by its short-circuit current")


def source_figures(battery: Battery, nominal_v: float) -> SourceFigures:
    """Voltage and resistance of a battery.

    Parameters
    ----------
    battery : Battery
        The part.
    nominal_v : float
        Nominal voltage of the plan, taken where the battery states none. [V]

    Returns
    -------
    SourceFigures
        Faults are figured with the low resistance and full charge where they are strongest, with the higher resistance
        and half charge where they are weakest.

    Notes
    -----
    ``R = R100 · (100 / C) · (V / 12)``: cells in series add, capacity divides. A maker's short-circuit current gives
    ``R = V_full / I_sc`` in place of the table.

    References
    ----------
    .. [1] battery_chemistry.csv, common practice.
    """
    table = load_table("battery_chemistry")
    row = table.find(battery.chemistry)
    blocks = (battery.rated_v or nominal_v) / TABLE_V
    full_v, half_v = float(row["ocv_100"]) * blocks, float(row["ocv_50"]) * blocks
    scale = TABLE_AH / battery.capacity_ah * blocks / 1000 * (BARE_CELLS_FRAC if battery.bare_cells else 1.0)
    running_ohm = battery.internal_ohm or float(row["r_mohm_100ah"]) * scale
    cells = [table.cite(row, "ocv_100")]
    if battery.short_circuit_a is not None:
        fault_ohm = full_v / battery.short_circuit_a
        note = f"maker's short-circuit current {battery.short_circuit_a:g} A"
        running_ohm = max(running_ohm, fault_ohm)
    else:
        fault_ohm = min(float(row["r_fault_mohm_100ah"]) * scale, running_ohm)
        cells.append(table.cite(row, "r_fault_mohm_100ah"))
        note = "by chemistry and capacity"
    return SourceFigures(full_v, half_v, fault_ohm, running_ohm, tuple(cells), note)


def alternator_of(plan: Plan) -> Alternator | None:
    """The first alternator of a plan."""
    return next((part for part in plan.parts if isinstance(part, Alternator)), None)


def alternator_v(plan: Plan, battery_v: float) -> float:
    """Volts at the starter battery while the engine runs.

    Parameters
    ----------
    plan : Plan
        Says how its alternator is regulated; a steady one where it has none.
    battery_v : float
        Nominal voltage of the starter battery. [V]

    Returns
    -------
    float
        What it holds, or what is left where it sags. [V]
    """
    alternator = alternator_of(plan)
    if alternator is not None and alternator.regulation == "sagging":
        return SAGGED_V_PER_12V * battery_v / 12
    if alternator is not None and alternator.held_v is not None:
        return alternator.held_v
    return HELD_V_PER_12V * battery_v / 12
