"""The course of a day, where the plan names none."""

from __future__ import annotations

from lucernis.core.proposals.spine import Outcome
from lucernis.core.proposals.wishes import Wishes
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import next_id
from lucernis.plan.model import Charger, Panel, Plan


def lay_out_day(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A course of the day with its driving, and a place under the sun, where the plan names none."""
    energy = plan.energy
    charges = any(isinstance(part, Charger) or part.kind == "isolator" for part in plan.parts)
    if not charges or (energy.day and energy.stops):
        return None
    doc, said = plan_document(plan), []
    if not energy.day and wishes.drive_hours > 0:
        driving = next((state["id"] for state in doc["states"] if state["engine_on"]), None)
        if driving is None and len(doc["states"]) < 20:
            driving = next_id([state["id"] for state in doc["states"]], "driving")
            doc["states"].append({"id": driving, "name": "Driving", "engine_on": True})
        if driving is not None and driving != doc["states"][0]["id"]:
            rest = doc["states"][0]["id"]
            hours = min(wishes.drive_hours, 12.0)
            doc["energy"]["day"] = [
                {"state": rest, "hours": 9.0},
                {"state": driving, "hours": hours},
                {"state": rest, "hours": 15.0 - hours},
            ]
            said.append(f"{hours:g} h of driving from nine o'clock, the rest of the day in {doc['states'][0]['name']}")
    if not energy.stops and any(isinstance(part, Panel) for part in plan.parts):
        doc["energy"]["stops"] = [{"name": "45° north, to be named", "latitude_deg": 45.0, "longitude_deg": 0.0}]
        said.append("no place is named, so the sun of 45° north is taken until one is")
    if not said:
        return None
    return parse_plan(doc), "So that the days can be looked at: " + "; ".join(said) + "."
