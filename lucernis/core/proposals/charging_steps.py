"""What charges: from the engine, from shore. The sun has a file of its own."""

from __future__ import annotations

import math

from lucernis.core.circuit.batteries import acceptance_a, house_batteries
from lucernis.core.circuit.sources import alternator_of
from lucernis.core.power.charging import alternator_spare_a
from lucernis.core.proposals.bank import daily_ah
from lucernis.core.proposals.spine import Outcome, main_bars
from lucernis.core.proposals.wishes import Wishes, last_unit, next_unit
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import AddCharger
from lucernis.plan.model import Charger, Plan

_SHORE_C = 0.15
# How much of an alternator's spare current is taken. Common practice, no source.
_OF_SPARE = 0.75


def give_fields(unit_fields: dict[str, object], plan: Plan, form: str) -> dict[str, object]:
    """Fields of a charger of a usual size, set for the chemistry of the bank."""
    chemistry = house_batteries(plan)[0].chemistry
    return {"kind": "charger", "form": form, "chemistry": chemistry, **unit_fields}


def _without_unlike_links(plan: Plan) -> tuple[Plan, bool]:
    """The plan without contacts that join lithium to lead; whether there were any."""
    batteries = [part for part in plan.parts if part.kind == "battery"]
    gone = {part.id for part in plan.parts if part.kind == "isolator"}
    if not gone or len({part.chemistry == "lfp" for part in batteries}) < 2:
        return plan, False
    doc = plan_document(plan)
    doc["parts"] = [one for one in doc["parts"] if one["id"] not in gone]
    doc["runs"] = [one for one in doc["runs"] if not gone & {one["start"]["part"], one["finish"]["part"]}]
    return parse_plan(doc), True


def link_engine(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Charging while driving: DC-DC for lithium and where the alternator sags, else a voltage-sensing link."""
    plan, parted = _without_unlike_links(plan)
    target = main_bars(plan)
    linked = any(part.kind == "isolator" or (isinstance(part, Charger) and part.form == "dcdc") for part in plan.parts)
    if target is None or linked or wishes.drive_hours <= 0:
        return None
    doc = plan_document(plan)
    starter = next(
        (part["id"] for part in doc["parts"] if part["kind"] == "battery" and part["use"] == "starter"), None
    )
    if starter is None:
        starter = "b0"
        doc["parts"].append(
            {"kind": "battery", "id": starter, "name": "Starter battery", "tag": "B00", "use": "starter",
             "chemistry": "agm", "capacity_ah": 80.0, "rated_v": 12 if plan.nominal_v != 12 else None}
        )  # fmt: skip
    if alternator_of(plan) is None:
        doc["parts"].append({"kind": "alternator", "id": "a1", "name": "Alternator", "tag": "A01", "rated_a": 150.0})
    plan = parse_plan(doc)
    alternator = alternator_of(plan)
    spare_a = alternator_spare_a(plan) or 0.0
    lead = all(one.chemistry != "lfp" for one in house_batteries(plan))
    modest = (acceptance_a(plan) or math.inf) <= spare_a
    steady = alternator is not None and alternator.regulation == "steady"
    if lead and modest and wishes.leaning == "lean" and plan.nominal_v == 12 and steady:
        run = {"length_m": wishes.starter_length_m, "planned_a": min(60.0, spare_a)}
        doc = plan_document(plan)
        doc["parts"].append(
            {"kind": "isolator", "id": "i1", "name": "Voltage-sensing link", "tag": "I01", "rated_a": 140.0}
        )
        taken = [one["tag"] for one in doc["runs"]]
        tags = [f"C{at}" for at in range(1, 1000) if f"C{at:02d}" not in taken and f"C{at}" not in taken]
        ids = [f"link{at}" for at in range(1, 3)]
        doc["runs"] += [
            {"id": ids[0], "tag": tags[90], "start": {"part": starter}, "finish": {"part": "i1"},
             "fuse_at_start": {"distance_m": 0.1}, **run},
            {"id": ids[1], "tag": tags[91], "start": {"part": "i1"}, "finish": {"part": target}, "length_m": 0.6,
             "planned_a": run["planned_a"], "fuse_at_finish": {"distance_m": 0.1}},
        ]  # fmt: skip
        return parse_plan(
            doc
        ), "Lead on both sides and a steady alternator: a voltage-sensing link is enough, and cheap."
    wanted_a = daily_ah(plan) / max(wishes.drive_hours, 0.25) * (plan.nominal_v / 12)
    limit_a = sum(one.charge_a or math.inf for one in house_batteries(plan))
    most_a = min(_OF_SPARE * spare_a, limit_a) if spare_a > 0 else 30.0
    unit = last_unit("charger:dcdc", min(next_unit("charger:dcdc", wanted_a).size, most_a))
    fields = give_fields(unit.fields, plan, "dcdc") | {"name": "DC-DC charger", "sense": "wired"}
    if plan.nominal_v != 12:
        fields |= {"in_nominal_v": 12, "out_a": unit.size * 12 / plan.nominal_v}
    edit = AddCharger(
        op="add_charger",
        part=fields,
        gives_to=target,
        give_length="0.8 m",
        fed_from=starter,
        feed_length=f"{wishes.starter_length_m:g} m",
    )
    return apply_edits(plan, [edit]), (
        ("A plain contact between lithium and lead goes out. " if parted else "")
        + f"{wishes.drive_hours:g} h of driving against {daily_ah(plan):.0f} Ah a day ask {wanted_a:.0f} A; the "
        f"alternator has {spare_a:.0f} A left hot and at idle, of which three quarters are taken: {unit.size:g} A. A "
        "DC-DC charger makes the right voltage and lets no stiff bank pull on the alternator."
    )


def put_shore(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A shore charger within the bank's charge limit."""
    target = main_bars(plan)
    if target is None or not wishes.shore or any(isinstance(p, Charger) and p.form == "shore" for p in plan.parts):
        return None
    capacity = sum(one.capacity_ah for one in house_batteries(plan)) / max(1, plan.nominal_v // 12)
    limit_a = sum(one.charge_a or math.inf for one in house_batteries(plan)) / max(1, plan.nominal_v // 12)
    others_a = sum(part.out_a for part in plan.parts if isinstance(part, Charger))
    unit = last_unit("charger:shore", min(_SHORE_C * capacity, max(10.0, limit_a - others_a)))
    fields = give_fields(unit.fields, plan, "shore") | {"name": "Mains charger"}
    edit = AddCharger(op="add_charger", part=fields, gives_to=target, give_length="0.8 m")
    return apply_edits(plan, [edit]), (
        f"{unit.size:g} A fill {capacity:.0f} Ah in a night and stay within what the bank takes. Its mains side is "
        "for a licensed person."
    )
