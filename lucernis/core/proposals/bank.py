"""The bank a proposal takes: for the days asked, and for what the inverter takes."""

from __future__ import annotations

import math

from lucernis.core.circuit.batteries import house_batteries
from lucernis.core.energy.bank_size import needed_ah
from lucernis.core.energy.usage import usage_of
from lucernis.core.proposals.spine import Outcome, document_part
from lucernis.core.proposals.wishes import Wishes, units
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import MakeBank
from lucernis.plan.model import Plan
from lucernis.practice.tables import load_table

# Leaning: how much is added to what the sums ask.
ROOM = {"lean": 1.0, "middle": 1.15, "generous": 1.35}
_MOST_STRINGS = 4


def daily_ah(plan: Plan) -> float:
    """Charge a day at the bank. [Ah]"""
    return usage_of(plan, sized_plan(plan)).ah


def _count(count: int) -> str:
    return "One of" if count == 1 else f"{count} side by side of"


def make_bank(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A bank for the days asked that also gives what the inverter takes."""
    ah = daily_ah(plan)
    house = house_batteries(plan)
    if ah <= 0:
        return None
    if len(house) > 1:
        return plan, "Several house batteries stand already: take all but one out first, or mend what the checks say."
    row = load_table("battery_chemistry").find(wishes.chemistry)
    needed = ROOM[wishes.leaning] * needed_ah(
        ah, wishes.days, share_frac=float(row["usable"]), peukert=float(row["peukert"])
    )
    sized = sized_plan(plan)
    worst_a = max((result.source_a for result in sized.rated.values()), default=0.0)
    best = None
    for unit in units(f"battery:{wishes.chemistry}"):
        limit_a = float(unit.fields["discharge_a"])  # type: ignore[arg-type]
        count = max(math.ceil(needed / unit.size - 1e-9), math.ceil(worst_a / limit_a - 1e-9), 1)
        if best is None or count < best[1] or (count == best[1] and unit.size < best[0].size):
            best = (unit, count)
    if best is None:
        return None
    unit, count = best[0], min(best[1], _MOST_STRINGS)
    doc = plan_document(plan)
    if house:
        battery = document_part(doc, house[0].id)
    else:
        battery = {"kind": "battery", "id": "b1", "name": "House battery", "tag": "B01", "place": None}
        doc["parts"].insert(0, battery)
    series = plan.nominal_v // 12
    battery.update(short_circuit_a=None, internal_ohm=None, mass_kg=None, rated_v=None)
    battery.update(unit.fields, chemistry=wishes.chemistry, use="house")
    doc["energy"]["days"] = wishes.days
    changed = parse_plan(doc)
    if count > 1 or series > 1:
        edit = MakeBank(op="make_bank", battery=battery["id"], series=series, parallel=count, take_off="busbar")
        changed = apply_edits(changed, [edit])
    days = "one day" if wishes.days == 1 else f"{wishes.days:g} days"
    gives = "it gives" if count * series == 1 else "they give"
    text = (
        f"{ah:.0f} Ah a day for {days}, {100 * float(row['usable']):.0f} % used: {needed:.0f} Ah with "
        f"room for a {wishes.leaning} leaning. {_count(count)} {unit.size:g} Ah"
        + (f", {series} in series" if series > 1 else "")
        + f"; {gives} {count * float(unit.fields['discharge_a']):g} A continuous, {worst_a:.0f} A are asked."  # type: ignore[arg-type]
    )
    if best[1] > _MOST_STRINGS:
        text += (
            f" {best[1]} would be needed: more than {_MOST_STRINGS} strings share badly, so think of larger ones or of "
            "24 V."
        )
    return changed, text
