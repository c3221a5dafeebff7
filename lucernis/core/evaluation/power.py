"""All of the Power view as plain values: bank, chargers, fit, usage, bank sizes, costs; only put together here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lucernis.core.circuit.batteries import acceptance_a, strings_of
from lucernis.core.circuit.sources import alternator_of, alternator_v, source_figures
from lucernis.core.energy.bank_size import BankSize, bank_sizes
from lucernis.core.energy.usage import LoadUse, usage_of
from lucernis.core.layout.laid import laid_out
from lucernis.core.power.bank import bank_figures, battery_mass_kg
from lucernis.core.power.charging import (
    PanelFit,
    alternator_spare_a,
    engine_draw_a,
    panel_fit,
    rated_out_a,
    study_charge,
)
from lucernis.core.power.costs import Costs, Mass, costs_of, mass_of
from lucernis.core.power.fit import FitRow, fit_rows
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.model import Battery, Charger, Plan
from lucernis.plan.prices import Price
from lucernis.plan.rules import plan_rules

AC_CAUTION = (
    "The AC side of inverters and mains chargers, 120 or 230 V, is for a licensed person: protection, earthing and "
    "transfer are not planned here."
)


@dataclass(slots=True)
class BatteryLine:
    """One battery: its figures, and its share in the worst state."""

    id: str
    tag: str
    name: str
    use: str
    chemistry: str
    rated_v: float
    capacity_ah: float
    string: int
    discharge_a: float | None
    discharge_short_a: float | None
    charge_a: float | None
    resistance_ohm: float
    short_circuit_a: float
    mass_kg: float
    current_a: float | None
    of_even: float | None


@dataclass(slots=True)
class BankLine:
    """The house bank as a whole."""

    nominal_v: float
    series: int
    strings: int
    capacity_ah: float
    usable_ah: float
    energy_wh: float
    mass_kg: float
    discharge_a: float | None
    discharge_short_a: float | None
    charge_a: float | None
    worst_a: float
    worst_state: str
    circling_a: float


@dataclass(slots=True)
class ChargerLine:
    """One charger: what it is rated for, what it gives through its wires, and its panels against its limits."""

    id: str
    tag: str
    name: str
    form: str
    rated_a: float
    given_a: float | None
    input_v: float | None
    input_a: float | None
    power_in_w: float | None
    power_out_w: float | None
    panels: PanelFit | None
    pv_high_v: float | None
    pv_w: float | None
    pv_a: float | None


@dataclass(slots=True)
class EngineSide:
    """The alternator: what it has to spare, and what charging takes of it. `link_a` passes a plain link."""

    name: str
    rated_a: float
    regulation: str
    held_v: float
    spare_a: float
    taken_a: float
    link_a: float


@dataclass(slots=True)
class PowerReport:
    """Everything the Power view shows but the days."""

    bank: BankLine | None
    batteries: list[BatteryLine]
    chargers: list[ChargerLine]
    engine: EngineSide | None
    fit: list[FitRow]
    uses: list[LoadUse]
    ah_per_day: float
    wh_per_day: float
    by_state_ah: dict[str, float]
    days: float
    sizes: list[BankSize]
    costs: Costs
    mass: Mass
    caution: str


def _batteries(plan: Plan, shares: Mapping[str, tuple[float, float]]) -> list[BatteryLine]:
    string_of = {one.id: k for k, string in enumerate(strings_of(plan), start=1) for one in string}
    lines = []
    for part in plan.parts:
        if not isinstance(part, Battery):
            continue
        figures = source_figures(part, plan.nominal_v)
        share = shares.get(part.id)
        lines.append(
            BatteryLine(
                id=part.id,
                tag=part.tag,
                name=part.name,
                use=part.use,
                chemistry=part.chemistry,
                rated_v=float(part.rated_v or plan.nominal_v),
                capacity_ah=part.capacity_ah,
                string=string_of.get(part.id, 0),
                discharge_a=part.discharge_a,
                discharge_short_a=part.discharge_short_a,
                charge_a=part.charge_a,
                resistance_ohm=figures.running_ohm,
                short_circuit_a=figures.full_v / figures.fault_ohm,
                mass_kg=battery_mass_kg(part, float(plan.nominal_v)),
                current_a=share[0] if share else None,
                of_even=share[1] if share else None,
            )
        )
    return lines


def power_report(plan: Plan, prices: Mapping[str, Price]) -> PowerReport:
    """Bank, chargers, fit, usage, bank sizes and costs of a plan.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    prices : Mapping
        Price list by key; may be empty.

    Returns
    -------
    PowerReport
        Chargers are solved each with its own source alone, loads off, real batteries at half charge.
    """
    rules = plan_rules(plan)
    plan = laid_out(plan)
    sized = sized_plan(plan)
    bank = bank_figures(plan, sized)
    shares = {one.battery: (one.current_a, one.of_even) for one in bank.shares} if bank is not None else {}
    studies = {source: study_charge(plan, sized, source) for source in ("engine", "shore", "sun")}
    lines = []
    for part in plan.parts:
        if not isinstance(part, Charger):
            continue
        study = studies[{"dcdc": "engine", "shore": "shore", "sun": "sun"}[part.form]]
        given_a = study.given_a.get(part.id)
        input_v, input_a = study.input_v.get(part.id), study.input_a.get(part.id)
        power_in_w = input_v * input_a if input_v is not None and input_a is not None else None
        lines.append(
            ChargerLine(
                id=part.id,
                tag=part.tag,
                name=part.name,
                form=part.form,
                rated_a=rated_out_a(part),
                given_a=given_a,
                input_v=input_v,
                input_a=input_a,
                power_in_w=power_in_w,
                power_out_w=power_in_w * part.efficiency_frac if power_in_w is not None else None,
                panels=panel_fit(plan, sized, part),
                pv_high_v=part.pv_high_v,
                pv_w=part.pv_w,
                pv_a=part.pv_a,
            )
        )
    usage = usage_of(plan, sized)
    by_state: dict[str, float] = {}
    for use in usage.loads:
        for state, ah in use.by_state_ah.items():
            by_state[state] = by_state.get(state, 0.0) + ah
    alternator, engine = alternator_of(plan), studies["engine"]
    most_a = acceptance_a(plan)
    link_a = max(0.0, engine.into_bank_a - sum(engine.given_a.values()))
    return PowerReport(
        bank=BankLine(
            nominal_v=bank.nominal_v,
            series=len(bank.strings[0]),
            strings=len(bank.strings),
            capacity_ah=bank.capacity_ah,
            usable_ah=bank.usable_ah,
            energy_wh=bank.capacity_ah * bank.nominal_v,
            mass_kg=bank.mass_kg,
            discharge_a=bank.discharge_a,
            discharge_short_a=bank.discharge_short_a,
            charge_a=bank.charge_a,
            worst_a=bank.worst_a,
            worst_state=bank.worst_state,
            circling_a=bank.circling_a,
        )
        if bank is not None
        else None,
        batteries=_batteries(plan, shares),
        chargers=lines,
        engine=EngineSide(
            name=alternator.name,
            rated_a=alternator.rated_a,
            regulation=alternator.regulation,
            held_v=alternator_v(plan, float(plan.nominal_v)),
            spare_a=alternator_spare_a(plan) or 0.0,
            taken_a=engine_draw_a(plan, engine),
            link_a=link_a if most_a is None else min(link_a, most_a),
        )
        if alternator is not None
        else None,
        fit=fit_rows(plan, sized, bank, rules.values.inverter_current),
        uses=usage.loads,
        ah_per_day=usage.ah,
        wh_per_day=usage.wh,
        by_state_ah=by_state,
        days=plan.energy.days,
        sizes=bank_sizes(usage.ah, plan.energy.days, float(plan.nominal_v), plan.energy.usable_frac, prices),
        costs=costs_of(plan, sized, prices),
        mass=mass_of(plan, sized),
        caution=AC_CAUTION,
    )
