"""Writes down how heat, shorts and shared currents came about. It repeats no calculation."""

from __future__ import annotations

import numpy as np

from lucernis.core.evaluation.distribution_report import RunHeat
from lucernis.core.evaluation.working import WorkingBook
from lucernis.core.faults.guards import Guards
from lucernis.core.faults.study import Fault, FaultStudy
from lucernis.core.protection.fuse_curves import band, breaking_capacity
from lucernis.core.report import Input
from lucernis.core.sizing.fusing import charging_table_v, fuse_run
from lucernis.core.sizing.stretch import Option
from lucernis.core.wire.heat import (
    Covered,
    adiabatic_end_c,
    heat_property,
    insulation_km_per_w,
    property_cells,
    short_time_limit,
    wall_mm,
)
from lucernis.plan.model import Part, Plan, Run
from lucernis.practice.tables import TableRow


def write_heat(book: WorkingBook, run: Run, at: int, heat: RunHeat) -> None:
    """Working of the heat balance of a run in its hottest state."""
    case, option = book.sized.cases[run.id], book.sized.chosen[run.id]
    states = list(book.sized.rated.values())
    worst = int(heat.rated_c[:, at].argmax())
    conductor_c, surface_c = float(heat.rated_c[worst, at]), float(heat.rated_surface_c[worst, at])
    current_a = abs(states[worst].run_a[run.id]) / run.parallel / option.amp.bundle_factor * heat.duty_sqrt[worst, at]
    wall = wall_mm(option.size.area_mm2)
    wire = Covered(np.array([option.size.area_mm2]), np.array([option.size.resistance_20_ohm_per_m]), np.array([wall]))
    made_w = float((conductor_c - surface_c) / insulation_km_per_w(wire)[0])
    book.add(
        run.id,
        "heat",
        f"{run.tag}: heat balance",
        "T = Ts + q · ln(D / d) / (2 · π · k)",
        [
            Input("I", "current of one conductor, enlarged by the bundle's inverse factor", float(current_a), "A"),
            Input("Ta", "air", case.around.ambient_c, "°C"),
            Input("wall", "usual insulation of that size", wall, "mm"),
            Input(
                "Ts", "surface of the insulation, where convection and radiation give the heat away", surface_c, "°C"
            ),
            Input("q", "I² · R(T), heat of one metre", made_w, "W/m"),
            Input("D", "over the insulation", float(wire.outer_m[0]) * 1000, "mm"),
            Input("d", "of the strand", float(wire.strand_m[0]) * 1000, "mm"),
            Input("k", "insulation", heat_property("insulation_w_per_mk"), "W/(m·K)"),
        ],
        conductor_c,
        "°C",
        rows=property_cells()[:2],
        note=f"State: {book.state_name(states[worst].state_id)}. Free convection by Churchill and Chu.",
    )


def write_shorts(book: WorkingBook, plan: Plan, run: Run, faults: FaultStudy) -> None:
    """Workings of the strongest and the weakest short of a run, of what opens, and of what its fuse must break."""
    found = faults.of_run.get(run.id)
    if not found:
        return
    strongest = max(found, key=lambda one: one.strongest_a)
    weakest = min(found, key=lambda one: one.weakest_a)
    sources = list(faults.sources.values())
    first = sources[0]
    several = "" if len(sources) == 1 else f" The first of {len(sources)} batteries is shown; all feed the short."
    for figure, title, volts, ohm, amps, note in (
        ("short_strongest", "strongest short", first.full_v, first.fault_ohm, strongest.strongest_a,
         f"At its {strongest.where}; cold copper, full battery, its low resistance ({first.note})."),
        ("short_weakest", "weakest short", first.half_v, first.running_ohm, weakest.weakest_a,
         f"At its {weakest.where}; copper at load, half charge, the battery's higher resistance."),
    ):  # fmt: skip
        book.add(
            run.id,
            figure,
            f"{run.tag}: {title}",
            "I = V / (R_battery + R_way)",
            [
                Input("V", "open-circuit volts", volts, "V"),
                Input("R_battery", "internal resistance", ohm * 1000, "mΩ"),
                Input("R_way", "what the figure leaves for wire, joints, fuses and contacts",
                      (volts / amps - ohm) * 1000 if amps > 0 else "open", "mΩ" if amps > 0 else ""),
            ],
            amps,
            "A",
            rows=first.cells,
            note=note + several + " All transfer resistances come from one factorization of the circuit without loads.",
        )  # fmt: skip
    _write_opening(book, run, faults)
    _write_breaking(book, plan, run, faults)


def _write_opening(book: WorkingBook, run: Run, faults: FaultStudy) -> None:
    worst = max(faults.of_run[run.id], key=lambda one: (one.slow_s is None, one.wire_c or 0.0))
    option, case = book.sized.chosen[run.id], book.sized.cases[run.id]
    limit_c, limit_cell = short_time_limit(case.insulation_c)
    rows: list[TableRow] = [limit_cell]
    inputs = [Input("I", f"weakest short at its {worst.where}", worst.weakest_a, "A")]
    if worst.openers:
        fuse = book.sized.fuses[worst.openers[0]]
        if fuse.fuse is not None:
            inputs.append(
                Input("I/In", "multiple of the rating", worst.weakest_a / fuse.count / fuse.fuse.rating_a, "")
            )
            rows = [*band(fuse.fuse.family).cells, limit_cell]
    inputs += [
        Input("H", "heat I²t let through at most", worst.heat_a2s if worst.heat_a2s is not None else "no end", "A²s"),
        Input("p", "conductors side by side", float(run.parallel), ""),
        Input(
            "θ_b",
            "by the heat balance where it takes longer than 5 s, copper melting else",
            worst.wire_c if worst.wire_c is not None and _balanced(worst, option, run) else 1085.0,
            "°C",
        ),
        Input("S", "copper of one conductor", option.size.area_mm2, "mm²"),
        Input("θi", "conductor before", option.temp_c, "°C"),
        Input("limit", "insulation for a short time", limit_c, "°C"),
        Input("t", "slow edge", worst.slow_s if worst.slow_s is not None else "need not open", "s"),
    ]
    book.add(
        run.id,
        "opening",
        f"{run.tag}: what the wire reaches in a short",
        "θf = min(θ_b; (234.5 + θi) · exp(H / (226 · S · p)²) − 234.5)",
        inputs,
        worst.wire_c,
        "°C",
        rows=rows,
        note="Opened by "
        + (", ".join(book.sized.topology.runs[fuse_run(one)].tag for one in worst.openers) or "nothing")
        + ". Opening times log-log between published points, each edge by itself. Beyond the last point no time is "
        "stated; the heat is then at most that of the last point, because an element that melts without losing heat "
        "needs the same I²t whatever the current.",
    )


def _balanced(fault: Fault, option: Option, run: Run) -> bool:
    """Whether what a wire reaches is less than the adiabatic equation says."""
    if fault.heat_a2s is None or fault.wire_c is None:
        return True
    heat = np.array([fault.heat_a2s / run.parallel**2])
    adiabatic = adiabatic_end_c(np.array([option.temp_c]), heat, np.array([option.size.area_mm2]))
    return bool(fault.wire_c < float(adiabatic[0]) - 1e-9)


def _write_breaking(book: WorkingBook, plan: Plan, run: Run, faults: FaultStudy) -> None:
    fuse = book.sized.fuses.get(run.id)
    if fuse is None or fuse.fuse is None:
        return
    volts = charging_table_v(plan)
    breaks = breaking_capacity(fuse.fuse.family, volts)
    book.add(
        run.id,
        "breaking",
        f"{run.tag}: breaking capacity",
        "I_b = table",
        [
            Input(
                "table", "what its family breaks", breaks.breaking_a if breaks.breaking_a is not None else "none", "A"
            ),
            Input("I", "strongest short through it where it stands", fuse.break_a, "A"),
            Input("V", "voltage the table is entered with", volts, "V"),
        ],
        breaks.breaking_a if breaks.breaking_a is not None else "not known",
        "A" if breaks.breaking_a is not None else "",
        rows=[breaks.cell] if breaks.cell is not None else [],
        note="What comes from the sources before it with the short right behind it, or from those behind it with the "
        "short right before it, whichever is more; never their sum.",
    )


def write_part(book: WorkingBook, part: Part, guards: Guards) -> None:
    """Working of what passes a part."""
    feeder = book.sized.topology.feeder_of.get(part.id)
    if feeder is None:
        return
    lasting_a = guards.lasting_a(part.id)
    bounded = [] if lasting_a is None else [Input("In", "fuse before it", lasting_a, "A")]
    book.add(
        part.id,
        "through_a",
        f"{part.name}: what passes it",
        "I = min(I_on; In)" if bounded else "I = I_on",
        [
            Input("I_on", "on together in the worst state", book.sized.carry_a(feeder), "A"),
            Input("connected", "everything behind it at once", book.sized.demand.connected_a[feeder], "A"),
            *bounded,
        ],
        guards.through_a(part.id),
        "A",
        note=f"Worst state: {book.state_name(book.sized.demand.design_state[feeder])}. Its fuse bounds what lasts.",
    )
