"""What a plan costs by a price list, and what it weighs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lucernis.core.power.bank import battery_mass_kg
from lucernis.core.sizing.choice import Sized
from lucernis.core.wire.copper import COPPER_KG_PER_M3
from lucernis.plan.model import Battery, Charger, FuseBlock, Load, Panel, Part, Plan
from lucernis.plan.prices import KEYS, Price
from lucernis.practice.tables import load_table

MAIN_FAMILIES = ("bolt_m5", "bolt_m8", "anl", "post_block", "class_t", "breaker_manual", "breaker_magnetic")
_BY_PIECE = ("isolator", "busbar", "switch", "relay", "shunt", "joint")


@dataclass(slots=True)
class CostLine:
    """One line: how much of what, at what price. `total` is None where the list has no price for it."""

    key: str
    label: str
    quantity: float
    unit: str
    price: float | None
    total: float | None


@dataclass(slots=True)
class Costs:
    """What a plan costs: all that has a price, and the keys that have none."""

    total: float
    lines: list[CostLine]
    missing: list[str]


@dataclass(slots=True)
class Mass:
    """What a plan weighs. [kg]"""

    copper_kg: float
    batteries_kg: float
    panels_kg: float

    @property
    def total_kg(self) -> float:
        """All of it. [kg]"""
        return self.copper_kg + self.batteries_kg + self.panels_kg


def part_amount(part: Part, plan: Plan) -> tuple[str, float, str] | None:
    """How much of what a part is paid by.

    Parameters
    ----------
    part : Part
        A part.
    plan : Plan
        Its plan, for the system's volts.

    Returns
    -------
    tuple or None
        Key in the price list, amount and its unit; None for what is the vehicle's or the customer's own.
    """
    if isinstance(part, Battery):
        if part.use != "house":
            return None
        return f"battery:{part.chemistry}", part.capacity_ah * (part.rated_v or plan.nominal_v), "Wh"
    if isinstance(part, Charger):
        return f"charger:{part.form}", part.out_a * plan.nominal_v, "W"
    if isinstance(part, Panel):
        return "panel", part.power_w * part.series * part.strings, "W"
    if isinstance(part, Load):
        return ("inverter", part.inverter.continuous_w, "W") if part.inverter is not None else None
    if isinstance(part, FuseBlock):
        return "fuse_block", float(part.ways), "way"
    return (part.kind, 1.0, "piece") if part.kind in _BY_PIECE else None


def _amounts(plan: Plan, sized: Sized, prices: Mapping[str, Price]) -> dict[str, tuple[float, str]]:
    found: dict[str, tuple[float, str]] = {}

    def note(key: str, amount: float, unit: str) -> None:
        found[key] = (found.get(key, (0.0, unit))[0] + amount, unit)

    for run_id, option in sized.chosen.items():
        run = sized.topology.runs[run_id]
        own = f"wire:{option.size.label}"
        metres = run.length_m * (2 if run.legs == "both" else 1) * run.parallel
        if own in prices:
            note(own, metres, "m")
        else:
            note("wire", option.copper_mm2_m, "mm²·m")
    for fuse in sized.fuses.values():
        if fuse.fuse is not None:
            note("fuse:main" if fuse.fuse.family in MAIN_FAMILIES else "fuse:branch", fuse.count, "piece")
    for part in plan.parts:
        amount = part_amount(part, plan)
        if amount is not None:
            note(*amount)
    return found


def costs_of(plan: Plan, sized: Sized, prices: Mapping[str, Price]) -> Costs:
    """What a plan costs.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes.
    prices : Mapping
        Key to its price; a finer key as ``wire:16 mm²`` wins over ``wire``.

    Returns
    -------
    Costs
        Loads other than inverters, and what belongs to the vehicle, are not counted. What has no price is named.
    """
    lines = []
    for key, (amount, unit) in _amounts(plan, sized, prices).items():
        known = prices.get(key)
        label = known.label if known is not None else KEYS.get(key, (key, unit))[0]
        total = amount * known.price if known is not None else None
        lines.append(CostLine(key, label, amount, unit, known.price if known is not None else None, total))
    lines.sort(key=lambda one: -(one.total or 0.0))
    return Costs(
        total=sum((one.total for one in lines if one.total is not None), 0.0),
        lines=lines,
        missing=[one.key for one in lines if one.total is None],
    )


def mass_of(plan: Plan, sized: Sized) -> Mass:
    """What wire, house batteries and panels weigh; by typical figures where a maker's is not stated."""
    per_w = float(load_table("panel_typical").find("crystalline")["kg_per_w"])
    panels = 0.0
    for part in plan.parts:
        if isinstance(part, Panel):
            each = part.mass_kg if part.mass_kg is not None else per_w * part.power_w
            panels += each * part.series * part.strings
    return Mass(
        copper_kg=sum(option.copper_mm2_m for option in sized.chosen.values()) * 1e-6 * COPPER_KG_PER_M3,
        batteries_kg=sum(
            battery_mass_kg(part, float(plan.nominal_v))
            for part in plan.parts
            if isinstance(part, Battery) and part.use == "house"
        ),
        panels_kg=panels,
    )
