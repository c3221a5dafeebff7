"""Writes down how heat, shorts and shared currents came about. It repeats no calculation."""

from __future__ import annotations

from lucernis.core.circuit.terminals import positive_point
from lucernis.core.evaluation.distribution_report import RunHeat
from lucernis.core.evaluation.working import WorkingBook
from lucernis.core.faults.guards import Guards
from lucernis.core.faults.study import FaultStudy
from lucernis.core.protection.fuse_curves import band, breaking_capacity
from lucernis.core.report import Input
from lucernis.core.sizing.fusing import fuse_run
from lucernis.core.wire.heat import property_cells, short_time_limit, wall_mm
from lucernis.plan.model import Part, Plan, Run
from lucernis.practice.tables import TableRow


def write_heat(book: WorkingBook, run: Run, at: int, heat: RunHeat) -> None:
    """Working of the heat balance of a run in its hottest state."""
    case, option = book.sized.cases[run.id], book.sized.chosen[run.id]
    states = list(book.sized.states.values())
    worst = int(heat.conductor_c[:, at].argmax())
    current_a = abs(states[worst].run_a[run.id])
    book.add(
        run.id,
        "heat",
        f"{run.tag}: heat balance",
        "I² · R(T) = convection + radiation of the surface; T − Ts = heat · ln(D/d) / (2π · k)",
        [
            Input("I", "current of one conductor", current_a / run.parallel, "A"),
            Input("k_bundle", "bundling factor; its inverse enlarges the current", option.amp.bundle_factor, ""),
            Input("Ta", "air", case.around.ambient_c, "°C"),
            Input("wall", "usual insulation of that size", wall_mm(option.size.area_mm2), "mm"),
            Input("Ts", "surface of the insulation", float(heat.surface_c[worst, at]), "°C"),
        ],
        float(heat.conductor_c[worst, at]),
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
        Input("I²t", "heat let through at most", worst.heat_a2s if worst.heat_a2s is not None else "no end", "A²s"),
        Input("S", "copper of one conductor", option.size.area_mm2, "mm²"),
        Input("θi", "conductor before", option.temp_c, "°C"),
        Input("limit", "insulation for a short time", limit_c, "°C"),
        Input("t", "slow edge", worst.slow_s if worst.slow_s is not None else "need not open", "s"),
    ]
    book.add(
        run.id,
        "opening",
        f"{run.tag}: what the wire reaches in a short",
        "θf = (234.5 + θi) · exp(I²t / (226 · S)²) − 234.5 up to 5 s, the heat balance beyond",
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


def _write_breaking(book: WorkingBook, plan: Plan, run: Run, faults: FaultStudy) -> None:
    fuse = book.sized.fuses.get(run.id)
    if fuse is None or fuse.fuse is None:
        return
    volts = 14.0 * plan.nominal_v / 12
    breaks = breaking_capacity(fuse.fuse.family, volts)
    point = positive_point(book.sized.topology.parts[run.start.part], run.start, "start")
    here = faults.of_point.get(point)
    book.add(
        run.id,
        "breaking",
        f"{run.tag}: breaking capacity",
        "at least the strongest short where the fuse stands",
        [
            Input("I", "strongest short at its fed end", here.strongest_a if here is not None else 0.0, "A"),
            Input("V", "voltage the table is entered with", volts, "V"),
        ],
        breaks.breaking_a if breaks.breaking_a is not None else "not known",
        "A" if breaks.breaking_a is not None else "",
        rows=[breaks.cell] if breaks.cell is not None else [],
    )


def write_part(book: WorkingBook, part: Part, guards: Guards) -> None:
    """Working of what passes a part."""
    feeder = book.sized.topology.feeder_of.get(part.id)
    if feeder is None:
        return
    lasting_a = guards.lasting_a(part.id)
    book.add(
        part.id,
        "through_a",
        f"{part.name}: what passes it",
        "smaller of what can be on together behind it and what its fuse lets through for ever",
        [
            Input("ΣIb", "on together in the worst state", book.sized.demand.design_current_a[feeder], "A"),
            Input("connected", "everything behind it at once", book.sized.demand.connected_a[feeder], "A"),
            Input("In", "fuse before it", lasting_a if lasting_a is not None else "none", "A" if lasting_a else ""),
        ],
        guards.through_a(part.id),
        "A",
        note=f"Worst state: {book.state_name(book.sized.demand.design_state[feeder])}.",
    )
