"""Variants of one plan side by side: what they cost, weigh, lose, and what differs."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from lucernis.core.circuit.batteries import house_batteries
from lucernis.core.energy.days import scene_of
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.laid import laid_out
from lucernis.core.power.bank import bank_figures, usable_share
from lucernis.core.power.costs import costs_of, mass_of
from lucernis.core.proposals.charging_steps import link_engine
from lucernis.core.proposals.spine import blocks_near_loads
from lucernis.core.proposals.steps import set_volts
from lucernis.core.proposals.wishes import Wishes, next_unit
from lucernis.core.sizing.sized import sized_plan
from lucernis.errors import LucernisError
from lucernis.plan.changes import describe_changes
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import FuseBlock, Load, Plan
from lucernis.plan.prices import Price

VariantName = Literal[
    "as_it_is", "volts_12", "volts_24", "lead", "lithium", "isolator", "dcdc", "one_cable", "two_cables",
    "blocks_at_battery", "blocks_near_loads",
]  # fmt: skip
LABELS: dict[VariantName, str] = {
    "as_it_is": "As it is",
    "volts_12": "12 V",
    "volts_24": "24 V",
    "lead": "AGM lead bank",
    "lithium": "Lithium bank",
    "isolator": "Voltage-sensing link",
    "dcdc": "DC-DC charger",
    "one_cable": "One thick cable",
    "two_cables": "Two thinner cables side by side",
    "blocks_at_battery": "Blocks at the battery",
    "blocks_near_loads": "Blocks near the loads",
}


@dataclass(slots=True)
class Variant:
    """One variant. `problem` says why it cannot be had; figures are then None or empty."""

    name: str
    label: str
    problem: str
    cost: float | None
    missing_prices: list[str]
    mass_kg: float
    copper_kg: float
    worst_drop_frac: float
    worst_drop_tag: str
    days: float | None
    stop: int
    fix: int
    look: int
    differs: list[str]


def _wishes(plan: Plan, **changes: Any) -> Wishes:
    chemistry = house_batteries(plan)[0].chemistry if house_batteries(plan) else "lfp"
    known = chemistry if chemistry in ("lfp", "agm", "flooded") else "agm"
    volts = plan.nominal_v if plan.nominal_v in (12, 24) else 12
    return Wishes.model_validate({"days": plan.energy.days, "nominal_v": volts, "chemistry": known} | changes)


def _volts(plan: Plan, volts: int) -> Plan:
    outcome = set_volts(plan, _wishes(plan, nominal_v=volts))
    if outcome is None:
        return plan
    doc = plan_document(outcome[0])
    for part in doc["parts"]:
        # The same energy: half the ampere-hours at twice the volts, and the same for what chargers give.
        scale = plan.nominal_v / volts
        if part["kind"] == "battery" and part["use"] == "house":
            for name in ("capacity_ah", "discharge_a", "discharge_short_a", "charge_a"):
                if part[name] is not None:
                    part[name] = part[name] * scale
        elif part["kind"] == "charger":
            part["out_a"] = part["out_a"] * scale
        elif part["kind"] == "panel" and part["series"] * part["mp_v"] < 1.5 * volts and part["series"] < 10:
            part["series"], part["strings"] = part["series"] * 2, max(1, part["strings"] // 2)
    return parse_plan(doc)


def _chemistry(plan: Plan, chemistry: str) -> Plan:
    """The same usable charge in another chemistry."""
    plan = laid_out(plan)
    doc, sized = plan_document(plan), sized_plan(plan)
    bank = bank_figures(plan, sized)
    if bank is None:
        raise ValueError("the plan has no house battery")
    if all(one.chemistry == chemistry for one in house_batteries(plan)):
        return plan
    house = {one.id for one in house_batteries(plan)}
    for part in doc["parts"]:
        if part["kind"] == "battery" and part["id"] in house:
            was, now = usable_share(part["chemistry"], None), usable_share(chemistry, None)
            ah = part["capacity_ah"] * was / now
            unit = next_unit(f"battery:{chemistry}", 0)
            part["capacity_ah"] = round(ah / 10) * 10.0 or 10.0
            for name in ("discharge_a", "discharge_short_a", "charge_a"):
                part[name] = float(unit.fields[name]) * part["capacity_ah"] / unit.size  # type: ignore[arg-type]
            part.update(chemistry=chemistry, short_circuit_a=None, internal_ohm=None, mass_kg=None, charge_least_c=None)
        elif part["kind"] == "charger":
            part["chemistry"] = chemistry
    return parse_plan(doc)


def _unlinked(plan: Plan) -> Plan:
    """Without what joins starter and house."""
    doc = plan_document(plan)
    gone = {
        part["id"]
        for part in doc["parts"]
        if part["kind"] == "isolator"
        or (part["kind"] == "charger" and part["form"] == "dcdc" and not part["pv_high_v"])
    }
    doc["parts"] = [part for part in doc["parts"] if part["id"] not in gone]
    cut = [run["id"] for run in doc["runs"] if gone & {run["start"]["part"], run["finish"]["part"]}]
    doc["runs"] = [run for run in doc["runs"] if run["id"] not in cut]
    doc["waivers"] = [one for one in doc["waivers"] if one["subject"] not in gone | set(cut)]
    for state in doc["states"]:
        state["open"] = [one for one in state["open"] if one not in gone | set(cut)]
    return parse_plan(doc)


def _feed_length(plan: Plan) -> float:
    starters = {part.id for part in plan.parts if part.kind == "battery" and part.use == "starter"}
    lengths = [run.length_m for run in plan.runs if run.start.part in starters or run.finish.part in starters]
    return max(lengths, default=5.0)


def _link(plan: Plan, form: str) -> Plan:
    length_m = min(30.0, _feed_length(plan))
    bare = _unlinked(plan)
    if form == "dcdc":
        outcome = link_engine(bare, _wishes(plan, starter_length_m=length_m))
    else:
        if plan.nominal_v != 12:
            raise ValueError("a plain link joins two sides of one voltage, and the starter side has 12 V")
        lead = _as_lead(bare)
        outcome = link_engine(lead, _wishes(plan, leaning="lean", starter_length_m=length_m, nominal_v=12))
        if outcome is not None:
            if not any(part.kind == "isolator" for part in outcome[0].parts):
                raise ValueError("alternator and bank ask for a charger between them, a plain link does not suit")
            # Chemistry and alternator stay what they are: that is what the checks have to say something about.
            doc = plan_document(outcome[0])
            before = {part.id: part for part in bare.parts}
            for part in doc["parts"]:
                if part["kind"] == "battery" and part["id"] in before:
                    part["chemistry"] = before[part["id"]].chemistry  # type: ignore[union-attr]
                elif part["kind"] == "alternator" and part["id"] in before:
                    part["regulation"] = before[part["id"]].regulation  # type: ignore[union-attr]
            return parse_plan(doc)
    if outcome is None:
        raise ValueError("the plan has nothing to join")
    return outcome[0]


def _as_lead(plan: Plan) -> Plan:
    doc = plan_document(plan)
    for part in doc["parts"]:
        if part["kind"] == "battery" and part["use"] == "house":
            part["chemistry"] = "agm"
        if part["kind"] == "alternator":
            part["regulation"] = "steady"
    return parse_plan(doc)


def _cables(plan: Plan, count: int) -> Plan:
    """The thickest cable of the plan as so many side by side, each fused."""
    plan = laid_out(plan)
    sized = sized_plan(plan)
    candidates = [run for run in plan.runs if run.id in sized.topology.behind and run.legs != "series"]
    if not candidates:
        raise ValueError("the plan has no cable")
    thickest = max(candidates, key=lambda run: sized.chosen[run.id].size.area_mm2 * run.parallel)
    if thickest.parallel == count and count > 1:
        return plan
    doc = plan_document(plan)
    for run in doc["runs"]:
        chosen = run["id"] == thickest.id if count > 1 else run["parallel"] > 1
        if chosen:
            run["parallel"], run["wire"] = count, None
            for end in ("fuse_at_start", "fuse_at_finish"):
                if run[end] is not None:
                    run[end]["each"] = count > 1
                    run[end]["pin"] = None
    return parse_plan(doc)


def _blocks_at_battery(plan: Plan) -> Plan:
    """Every block moves to where the bars are: short feeders, and long branches in their place."""
    doc = plan_document(plan)
    blocks = {part.id for part in plan.parts if isinstance(part, FuseBlock)}
    feeders = {run.finish.part: run for run in plan.runs if run.finish.part in blocks}
    loads = {part.id for part in plan.parts if isinstance(part, Load)}
    place = house_batteries(plan)[0].place if house_batteries(plan) else None
    moved = {block for block, run in feeders.items() if run.length_m > 1.0}
    if not moved:
        raise ValueError("the blocks stand at the battery already")
    for part in doc["parts"]:
        if part["id"] in moved:
            part["place"] = place
    for run in doc["runs"]:
        if run["finish"]["part"] in moved and run["id"] == feeders[run["finish"]["part"]].id:
            run["length_m"], run["length_as_typed"], run["wire"] = 0.5, None, None
        elif run["start"]["part"] in moved and run["finish"]["part"] in loads:
            further = feeders[run["start"]["part"]].length_m - 0.5
            run["length_m"], run["length_as_typed"], run["wire"] = round(run["length_m"] + further, 3), None, None
    return parse_plan(doc)


def _near(plan: Plan) -> Plan:
    outcome = blocks_near_loads(plan, _wishes(plan))
    if outcome is None:
        raise ValueError("no place with several loads is fed from afar")
    return outcome[0]


_MAKERS: dict[VariantName, Callable[[Plan], Plan]] = {
    "as_it_is": lambda plan: plan,
    "volts_12": lambda plan: _volts(plan, 12),
    "volts_24": lambda plan: _volts(plan, 24),
    "lead": lambda plan: _chemistry(plan, "agm"),
    "lithium": lambda plan: _chemistry(plan, "lfp"),
    "isolator": lambda plan: _link(plan, "isolator"),
    "dcdc": lambda plan: _link(plan, "dcdc"),
    "one_cable": lambda plan: _cables(plan, 1),
    "two_cables": lambda plan: _cables(plan, 2),
    "blocks_at_battery": _blocks_at_battery,
    "blocks_near_loads": _near,
}


def make_variant(plan: Plan, name: VariantName) -> Plan:
    """A variant of a plan.

    Parameters
    ----------
    plan : Plan
        The plan.
    name : str
        Which variant.

    Returns
    -------
    Plan
        A valid plan.

    Raises
    ------
    ValueError
        If it makes no sense for this plan.
    LucernisError
        If the outcome would not be a valid plan.
    """
    return _MAKERS[name](plan)


def compare_variants(plan: Plan, names: list[VariantName], prices: Mapping[str, Price]) -> list[Variant]:
    """Variants side by side.

    Parameters
    ----------
    plan : Plan
        The plan.
    names : list of str
        Which variants, in order.
    prices : Mapping
        Price list by key.

    Returns
    -------
    list of Variant
        One that cannot be had says why.
    """
    found = []
    own = plan_document(plan)
    for name in names:
        try:
            variant = make_variant(plan, name)
            if name != "as_it_is" and plan_document(variant) == own:
                raise ValueError("the plan is like that already")
        except (LucernisError, ValueError) as error:
            found.append(_none(name, str(error)))
            continue
        sized = sized_plan(variant)
        summary = evaluate(variant, with_working=False).summary
        laid = laid_out(variant)
        scene, costs, mass = scene_of(laid, sized), costs_of(laid, sized, prices), mass_of(laid, sized)
        found.append(
            Variant(
                name=name,
                label=LABELS[name],
                problem="",
                cost=costs.total if prices else None,
                missing_prices=costs.missing,
                mass_kg=mass.total_kg,
                copper_kg=mass.copper_kg,
                worst_drop_frac=summary.worst_drop_frac.value,
                worst_drop_tag=summary.worst_drop_frac.tag,
                days=scene.bank.usable_ah / scene.usage.ah if scene is not None and scene.usage.ah > 0 else None,
                stop=summary.open_stop,
                fix=summary.open_fix,
                look=summary.open_look,
                differs=describe_changes(own, plan_document(variant)),
            )
        )
    return found


def _none(name: VariantName, problem: str) -> Variant:
    return Variant(name, LABELS[name], problem, None, [], 0.0, 0.0, 0.0, "", None, 0, 0, 0, [])
