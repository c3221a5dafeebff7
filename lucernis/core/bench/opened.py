"""A set-up taken from a run of a plan, with the figures the report has for it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from lucernis.core.bench.setup import BenchEnd, BenchFuse, BenchLoad, BenchSource, BenchWire, Setup
from lucernis.core.circuit.sources import source_figures
from lucernis.core.circuit.terminals import has_positive
from lucernis.core.faults.study import study_faults
from lucernis.core.layout.laid import laid_out
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.sized import sized_plan
from lucernis.errors import UnknownRow
from lucernis.plan.model import Battery, Load, Plan, Run
from lucernis.plan.units import Preference

Happens = Literal["load", "short"]
_JOINTS = get_args(BenchEnd.model_fields["joint"].annotation)
# A cycle too long to watch would never be seen to cycle.
_LONGEST_CYCLE_S = 36000.0


@dataclass(slots=True)
class Opened:
    """A set-up from a plan, and what was taken how."""

    run_id: str
    tag: str
    setup: Setup
    taken: list[str]
    units: Preference


def setup_of_run(plan: Plan, run_id: str, happens: Happens) -> Opened:
    """Put a run of a plan on the bench.

    Parameters
    ----------
    plan : Plan
        The plan.
    run_id : str
        The run.
    happens : str
        ``load``: what it carries in service; ``short``: a bolted short at its far end.

    Returns
    -------
    Opened
        The source as the circuit stands where the run begins: in a short its strongest.

    Raises
    ------
    UnknownRow
        If there is no such run, or nothing of it has a figure.
    """
    plan = laid_out(plan)
    run = next((one for one in plan.runs if one.id == run_id), None)
    if run is None:
        raise UnknownRow(f"no run {run_id!r}", field="run_id", value=run_id, allowed="the id of a run")
    if happens == "short" and not has_positive(run):
        raise UnknownRow(
            f"{run.tag} is a negative alone: a short passes through its positive",
            field="happens", value=happens, allowed="load, or a run with a positive",
        )  # fmt: skip
    sized = sized_plan(plan)
    case, option = sized.cases[run.id], sized.chosen[run.id]
    taken: list[str] = []
    legs = 2 if run.legs == "both" else 1
    cold_ohm = option.size.resistance_20_ohm_per_m * run.length_m * legs / run.parallel + option.joints_ohm
    source = _source(plan, sized, run, happens, cold_ohm + option.fuse_ohm, taken)
    wire = BenchWire(
        system=option.size.system,
        size=option.size.name,
        length_m=min(max(run.length_m, 0.05), 100.0),
        returns="wire" if legs == 2 else "body",
        insulation_c=case.insulation_c,
        ambient_c=case.around.ambient_c,
        neighbours=min(case.around.bundle_count - 1, 60) if case.around.bundle_count > 2 else 0,
        neighbours_carry=happens == "load" and case.around.bundle_count > 2,
    )
    if wire.neighbours:
        carry = "taken to carry as much as this one" if wire.neighbours_carry else "carrying nothing"
        taken.append(f"{wire.neighbours} other wires of its bundle, {carry}")
    guard, fuse = case.protector_fuse, None
    share = run.parallel
    if guard is not None and guard.fuse is not None:
        fuse = BenchFuse(family=guard.fuse.family, rating_a=guard.fuse.rating_a * guard.count / share)
    else:
        taken.append("no fuse of its own and none before it")
    if share > 1:
        taken.append(f"one of {share} conductors with its share of current and fuse")
    kinds = [kind for kind, _ in option.joints if kind in _JOINTS]
    end = BenchEnd(joint=kinds[-1]) if kinds else BenchEnd()
    load = BenchLoad(kind="short", amount=None) if happens == "short" else _load(sized, run, share, taken)
    return Opened(
        run.id, run.tag, Setup(name=run.tag, source=source, wire=wire, end=end, load=load, fuse=fuse), taken, plan.units
    )


def _source(plan: Plan, sized: Sized, run: Run, happens: Happens, own_ohm: float, taken: list[str]) -> BenchSource:
    batteries = [part for part in plan.parts if isinstance(part, Battery)]
    house = next((one for one in batteries if one.use == "house"), batteries[0] if batteries else None)
    if house is None:
        taken.append("no battery in the plan: one of 100 Ah is taken")
        return BenchSource(nominal_v=24 if plan.nominal_v == 24 else 12)
    figures = source_figures(house, plan.nominal_v)
    volts: Literal[6, 12, 24] = house.rated_v or (24 if plan.nominal_v == 24 else 12)
    usual = BenchSource(chemistry=house.chemistry, capacity_ah=min(house.capacity_ah, 5000.0), nominal_v=volts)
    if happens == "load":
        taken.append(f"{house.name} half charged; what lies between it and the run is left out")
        return usual
    shorts = [one for one in study_faults(plan, sized, None).of_run.get(run.id, []) if one.where == "finish"]
    if not shorts or shorts[0].strongest_a <= 0:
        taken.append("no short of this run is fed by anything: a short right across the battery is shown")
        return usual
    strongest = shorts[0].strongest_a
    inside = max(figures.full_v / strongest - own_ohm, 1e-4)
    taken.append(f"{strongest:.0f} A into a short at its end, all that feeds it together")
    return usual.model_copy(update={"open_v": figures.full_v, "inside_ohm": round(inside, 6)})


def _load(sized: Sized, run: Run, share: int, taken: list[str]) -> BenchLoad:
    behind = [sized.topology.parts[one] for one in sized.topology.loads_behind.get(run.id, ())]
    current = max(sized.demand.design_current_a.get(run.id, 0.0), 0.0) / share
    only = behind[0] if len(behind) == 1 and isinstance(behind[0], Load) and behind[0].count == 1 else None
    if only is not None:
        if only.device == "inverter" and only.inverter is not None:
            taken.append(f"{only.name} at its full power")
            return BenchLoad(kind="inverter", amount=only.inverter.continuous_w / share)
        if only.device == "motor" and current > 0:
            return BenchLoad(
                kind="motor",
                amount=round(current, 3),
                inrush_factor=only.inrush_factor or 1.0,
                inrush_s=only.inrush_s or 0.0,
            )
        if only.cycle_on_s and only.cycle_off_s and only.power_w:
            return BenchLoad(
                kind="heater", amount=only.power_w / share, on_s=min(only.cycle_on_s, _LONGEST_CYCLE_S),
                off_s=min(only.cycle_off_s, _LONGEST_CYCLE_S),
            )  # fmt: skip
    if current <= 0:
        current = sized.chosen[run.id].amp.ampacity_a or 1.0
        taken.append("nothing draws through it: what the wire may carry is taken")
    elif len(behind) > 1:
        taken.append(f"{len(behind)} loads behind it, as many of them at once as the plan's states have on")
    return BenchLoad(kind="current", amount=round(current, 3))
