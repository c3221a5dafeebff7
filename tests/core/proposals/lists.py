"""Ten very different load lists and what is wished with each. Invented; what is asked of the outcome is practice."""

from __future__ import annotations

from typing import Any

from lucernis.core.proposals.wishes import Wishes
from lucernis.plan.blank import blank_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import AddLoads
from lucernis.plan.model import Plan

Row = tuple[str, float, float, str, dict[str, Any]]
INVERTER: dict[str, Any] = {"device": "inverter"}
LAMP: dict[str, Any] = {"device": "lamp", "behaviour": "constant_current"}
MOTOR: dict[str, Any] = {"device": "motor", "inrush_factor": 2.5, "inrush_s": 0.1}
FRIDGE: dict[str, Any] = MOTOR | {"sensitive": True}
KEEN: dict[str, Any] = {"device": "electronics", "sensitive": True}
HOME: list[Row] = [
    ("Ceiling lamps", 18, 4, "Galley", LAMP), ("Reading lamps", 6, 2, "Rear", LAMP),
    ("Water pump", 84, 0.3, "Galley", MOTOR), ("Compressor fridge", 50, 9, "Galley", FRIDGE),
    ("Roof fan", 36, 6, "Rear", MOTOR), ("USB rear", 30, 2, "Rear", {}),
    ("USB galley", 30, 2, "Galley", {}), ("Air heater", 30, 8, "Rear", {"device": "heater"}),
]  # fmt: skip
LISTS: dict[str, tuple[str, list[Row], dict[str, Any]]] = {
    "weekender": ("steel", HOME[:5], {"days": 1.0, "leaning": "lean", "shore": False, "roof_m2": 2.0}),
    "full_timer": ("steel", [*HOME, ("Router", 15, 20, "Desk", KEEN), ("Laptop", 60, 5, "Desk", KEEN),
                             ("Mains inverter", 600, 0.7, "Locker", INVERTER)], {"roof_m2": 6.0}),
    "electric_cooking": ("aluminium", [*HOME, ("Mains inverter", 1800, 1.0, "Locker", INVERTER)],
                         {"leaning": "generous", "roof_m2": 8.0, "drive_hours": 2.0}),
    "cooling": ("steel", [*HOME, ("Second fridge", 45, 10, "Rear", FRIDGE), ("Air conditioner", 420, 3, "Rear", MOTOR)],
                {"roof_m2": 7.0, "drive_hours": 3.0}),
    "workshop_truck": ("steel", [("Work lamps", 90, 4, "Rear", LAMP), ("Air compressor", 300, 0.5, "Rear", MOTOR),
                                 ("Bench charger", 60, 4, "Desk", {}), ("Radio", 40, 6, "Desk", {}),
                                 ("Mains inverter", 1200, 1.0, "Locker", INVERTER)],
                       {"sun": False, "drive_hours": 4.0, "days": 1.0}),
    "small_boat": ("boat_hull", [("Bilge pump", 48, 0.5, "Locker", MOTOR | {"stays_live": True}),
                                 ("Navigation lamps", 20, 6, "Desk", LAMP), ("Depth finder", 18, 8, "Desk", KEEN),
                                 ("VHF radio", 60, 1, "Desk", KEEN), ("Cabin lamps", 12, 3, "Rear", LAMP)],
                   {"chemistry": "agm", "roof_m2": 1.0, "shore": True}),
    "motorcycle_trailer": ("fibreglass_or_wood", [("Cabin lamps", 8, 3, "Rear", LAMP),
                                                  ("USB sockets", 24, 2, "Rear", {}),
                                                  ("Cool box", 36, 8, "Rear", FRIDGE)],
                           {"leaning": "lean", "roof_m2": 1.0, "shore": False, "days": 1.0}),
    "truck_24": ("steel", [*HOME, ("Laptop", 60, 5, "Desk", KEEN), ("Mains inverter", 1000, 1.0, "Locker", INVERTER)],
                 {"nominal_v": 24, "roof_m2": 6.0}),
    "lead_only": ("steel", HOME, {"chemistry": "agm", "days": 1.0, "roof_m2": 4.0}),
    "no_sun": ("fibreglass_or_wood", HOME, {"sun": False, "drive_hours": 2.5, "shore": True}),
}  # fmt: skip
PLACES = ("Desk", "Galley", "Rear", "Locker")


def load_list(name: str, practice: str) -> tuple[Plan, Wishes]:
    """A blank plan with one of the lists, everything in its place, and what is wished."""
    body, rows, wishes = LISTS[name]
    doc = plan_document(blank_plan(name, practice_set=practice, body=body))  # type: ignore[arg-type]
    zone = doc["zones"][0]["id"]
    doc["places"] = [{"id": f"p{k}", "name": one, "zone": zone, "vented": True} for k, one in enumerate(PLACES)]
    for one in doc["parts"]:
        one["place"] = "p3"
    cells = [{"name": n, "power_w": str(w), "hours_per_day": str(h), "place": p} for n, w, h, p, _ in rows]
    doc = plan_document(apply_edits(parse_plan(doc), [AddLoads.model_validate({"op": "add_loads", "rows": cells})]))
    fields = {n: f for n, _, _, _, f in rows}
    for one in doc["parts"]:
        one.update(fields.get(one["name"], {}))
    return parse_plan(doc), Wishes.model_validate(wishes)
