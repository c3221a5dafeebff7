"""Mistakes with batteries, chargers, panels and links."""

from __future__ import annotations

from typing import Any

from lucernis.core.school.breaking.registry import breaks
from lucernis.core.school.breaking.van import WATTS, Doc, Van, made_below
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import MakeBank


def _charger(van: Van, form: str) -> Doc:
    return van.any_part("charger", lambda one: one.get("form", "dcdc") == form)


def _bank(van: Van, **fields: Any) -> list[Doc]:
    """The house battery becomes several smaller ones that give as much together; the new ones."""
    battery, wire = van.battery(), dict(van.main()["wire"])
    count = int(fields.get("parallel", 1))
    for key in ("capacity_ah", "short_circuit_a", "discharge_a", "discharge_short_a", "charge_a", "mass_kg"):
        if key in battery:
            battery[key] = round(battery[key] / count, 1)
    before = {one["id"] for one in van.doc["parts"]}
    edit = MakeBank.model_validate({"op": "make_bank", "battery": battery["id"], **fields})
    van.doc = plan_document(apply_edits(parse_plan(van.doc), [edit]))
    for one in van.doc["runs"]:
        if one.get("wire") is None:
            one["wire"] = dict(wire)
    return [one for one in van.doc["parts"] if one["id"] not in before and one["kind"] == "battery"]


def _watts(panel: Doc) -> float:
    return float(panel["power_w"] * panel.get("series", 1) * panel.get("strings", 1))


def _inverter(van: Van) -> Doc:
    return van.any_load(lambda one: one.get("device") == "inverter")


@breaks("bank-discharge-over", 2)
def discharge_over(van: Van) -> tuple[str, ...]:
    """A battery that may not give what is taken."""
    battery = van.battery()
    taken = max(one.greatest_a for one in van.good.report.runs if van.run(one.id)["start"]["part"] == battery["id"])
    battery.update(discharge_a=made_below(van, taken), discharge_short_a=900.0)
    return (battery["id"],)


@breaks("bank-charge-over", 2)
def charge_over(van: Van) -> tuple[str, ...]:
    """Chargers that push more than the battery takes."""
    battery = van.battery()
    pushed = max((one.get("out_a", 30.0) for one in van.doc["parts"] if one["kind"] == "charger"), default=0.0)
    battery["charge_a"] = made_below(van, pushed)
    return (battery["id"],)


@breaks("inverter-over-bank", 2, along=("bank-discharge-over",))
def inverter_over(van: Van) -> tuple[str, ...]:
    """An inverter for more than the battery gives."""
    inverter = _inverter(van)
    battery = van.battery()
    battery.update(discharge_a=70.0, discharge_short_a=400.0)
    return (inverter["id"], battery["id"])


@breaks("inverter-surge-over-bank", 3)
def inverter_surge(van: Van) -> tuple[str, ...]:
    """A start for which the battery cuts off."""
    inverter = _inverter(van)
    van.battery().update(discharge_short_a=van.battery().get("discharge_a", 150.0) * 1.02)
    inverter["inverter"]["surge_w"] = 4000.0
    return (inverter["id"],)


@breaks("inverter-below-ac", 2)
def inverter_below(van: Van) -> tuple[str, ...]:
    """Too small for what runs behind it."""
    inverter = _inverter(van)
    watts = float(inverter["inverter"]["continuous_w"])
    inverter["ac"] = [{"name": "Kettle", "power_w": watts * 1.2, "hours_per_day": 0.2}]
    return (inverter["id"],)


@breaks("inverter-start-below-ac", 3)
def inverter_start(van: Van) -> tuple[str, ...]:
    """Runs it, and may not start it."""
    inverter = _inverter(van)
    surge = float(inverter["inverter"].get("surge_w") or inverter["inverter"]["continuous_w"])
    inverter["ac"] = [{"name": "Circular saw", "power_w": surge * 0.3, "hours_per_day": 0.2, "inrush_factor": 5.0}]
    return (inverter["id"],)


@breaks("bank-sharing", 3)
def sharing(van: Van) -> tuple[str, ...]:
    """Several side by side, both cables on the first, over thin links."""
    before = {one["id"] for one in van.doc["runs"]}
    first, main = van.battery()["id"], van.main()["id"]
    new = _bank(van, parallel=van.dice.between(2, 4), take_off="same_end")
    thin = van.thinner(main)[van.dice.between(0, 2)]
    for one in van.doc["runs"]:
        if one["id"] not in before:
            one["wire"]["size"] = thin
            one.update(length_m=round(0.1 * van.dice.between(3, 6), 1), length_as_typed=None)
    return (first, *(one["id"] for one in new))


@breaks("links-unequal", 2, whole=True)
def links_unequal(van: Van) -> tuple[str, ...]:
    """One link much longer than its twin."""
    before = {one["id"] for one in van.doc["runs"]}
    first = van.battery()["id"]
    _bank(van, parallel=2)
    links = [one for one in van.doc["runs"] if one["id"] not in before]
    links[-1].update(length_m=2.4, length_as_typed=None)
    return (*(one["id"] for one in links), first)


@breaks("bank-mixed-chemistry", 1)
def mixed_chemistry(van: Van) -> tuple[str, ...]:
    """Lead and lithium side by side."""
    first = van.battery()
    new = _bank(van, parallel=2)[0]
    van.part(new["id"])["chemistry"] = "agm" if first.get("chemistry", "lfp") == "lfp" else "lfp"
    return (new["id"], first["id"])


@breaks("bank-mixed-lead", 2, whole=True)
def mixed_lead(van: Van) -> tuple[str, ...]:
    """Gel beside what is there."""
    first = van.battery()
    if first.get("chemistry", "lfp") == "lfp":
        van.dice.one_of([])
    new = _bank(van, parallel=2)[0]
    van.part(new["id"])["chemistry"] = "gel"
    return (new["id"], first["id"])


@breaks("battery-limit-usual", 2)
def limit_usual(van: Van) -> tuple[str, ...]:
    """Nobody read the battery's sheet."""
    battery = van.battery()
    for key in ("charge_a", "discharge_a", "discharge_short_a"):
        battery.pop(key, None)
    return (battery["id"],)


@breaks("bank-mixed-age", 1)
def mixed_age(van: Van) -> tuple[str, ...]:
    """A new battery beside an old one."""
    first = van.battery()
    first["made_year"] = 2026
    new = _bank(van, parallel=2)[0]
    van.part(new["id"])["made_year"] = 2019
    return (new["id"], first["id"])


@breaks("bank-mixed-capacity", 1)
def mixed_capacity(van: Van) -> tuple[str, ...]:
    """A small battery beside a large one."""
    first = van.battery()
    new = _bank(van, parallel=2)[0]
    van.part(new["id"])["capacity_ah"] = round(first["capacity_ah"] * 0.6, 0)
    return (new["id"], first["id"])


@breaks("string-unfused", 2)
def string_unfused(van: Van) -> tuple[str, ...]:
    """Two lithium batteries side by side on one fuse."""
    if van.battery().get("chemistry", "lfp") != "lfp":
        van.dice.one_of([])
    first = van.battery()["id"]
    new = _bank(van, parallel=2, take_off="diagonal")
    return (first, *(one["id"] for one in new))


@breaks("series-unequal", 2)
def series_unequal(van: Van) -> tuple[str, ...]:
    """Two of 6 V in series, one smaller."""
    first = van.battery()
    if first.get("chemistry", "lfp") == "lfp":
        # Nobody sells lithium of 6 V.
        van.dice.one_of([])
    first["rated_v"] = 6
    new = _bank(van, series=2)[0]
    van.part(new["id"])["capacity_ah"] = round(first["capacity_ah"] * 0.6, 0)
    return (new["id"], first["id"])


@breaks("lead-unvented", 2, whole=True)
def unvented(van: Van) -> tuple[str, ...]:
    """A flooded battery in a closed box."""
    battery = van.battery()
    if battery.get("chemistry", "lfp") != "flooded":
        van.dice.one_of([])
    for one in van.doc["places"]:
        if one["id"] == battery.get("place"):
            one["vented"] = False
    return (battery["id"],)


@breaks("battery-cold", 3)
def cold(van: Van) -> tuple[str, ...]:
    """Charged in frost."""
    if van.battery().get("chemistry", "lfp") != "lfp":
        van.dice.one_of([])
    battery = van.battery()
    place = next(one for one in van.doc["places"] if one["id"] == battery["place"])
    zone = next(one for one in van.doc["zones"] if one["id"] == place["zone"])
    zone["coldest_c"] = -8.0
    battery.pop("heater_w", None)
    return (battery["id"],)


@breaks("battery-hot", 3, of_trade=False)
def hot(van: Van) -> tuple[str, ...]:
    """A battery where it gets too hot."""
    battery = van.battery()
    battery["hottest_c"] = 25.0
    return (battery["id"],)


@breaks("charger-loose", 2)
def loose(van: Van) -> tuple[str, ...]:
    """An output that leads nowhere."""
    charger = _charger(van, "shore")
    charger["outputs"] = 2
    return (charger["id"],)


@breaks("charger-unfused", 1)
def charger_unfused(van: Van) -> tuple[str, ...]:
    """A charger's positive without a fuse."""
    run = van.any_run(
        lambda one: van.kind_of(one["start"]["part"]) == "charger" and one.get("fuse_at_finish") is not None
    )
    run["fuse_at_finish"] = None
    return (run["id"],)


@breaks("charger-in-a-ring", 2)
def ring(van: Van) -> tuple[str, ...]:
    """A charger that charges what feeds it."""
    charger = _charger(van, "dcdc")
    feed = van.dice.one_of([one for one in van.doc["runs"] if one["finish"].get("part") == charger["id"]])
    feed["start"] = {"part": van.any_part("busbar")["id"]}
    return (charger["id"], feed["id"])


@breaks("charger-chemistry-unset", 1)
def chemistry_unset(van: Van) -> tuple[str, ...]:
    """Nobody told the charger what it charges."""
    charger = van.any_part("charger")
    charger["chemistry"] = None
    return (charger["id"],)


@breaks("charger-chemistry-wrong", 1)
def chemistry_wrong(van: Van) -> tuple[str, ...]:
    """Set for another battery."""
    charger = van.any_part("charger")
    charger["chemistry"] = "gel" if van.battery().get("chemistry", "lfp") == "lfp" else "lfp"
    return (charger["id"],)


@breaks("charger-sense-unset", 2)
def sense_unset(van: Van) -> tuple[str, ...]:
    """Nothing tells the charger that the engine runs."""
    charger = van.any_part("charger", lambda one: one.get("form", "dcdc") == "dcdc" and one.get("sense") == "wired")
    charger["sense"] = "not_set"
    return (charger["id"],)


@breaks("charger-place", 3, of_trade=False)
def charger_place(van: Van) -> tuple[str, ...]:
    """A charger where it gets hotter than it stands."""
    charger = van.any_part("charger")
    charger["hottest_c"] = 20.0
    return (charger["id"],)


@breaks("charger-starved", 3, along=("charger-wire-drop",))
def starved(van: Van) -> tuple[str, ...]:
    """So long and thin a wire that the charger never reaches its rating."""
    charger = _charger(van, "dcdc")
    feed = van.dice.one_of([one for one in van.doc["runs"] if one["finish"].get("part") == charger["id"]])
    feed.update(length_m=18.0, length_as_typed=None, way={"length_pinned": True})
    return (charger["id"], feed["id"])


@breaks("charger-wire-drop", 2)
def charger_drop(van: Van) -> tuple[str, ...]:
    """A charger's wire that eats what it is to carry."""
    charger = van.any_part("charger", lambda one: one.get("form", "dcdc") in ("sun", "dcdc"))
    feed = van.dice.one_of([one for one in van.doc["runs"] if one["finish"].get("part") == charger["id"]])
    feed.update(length_m=round(feed["length_m"] * 2.6, 1), length_as_typed=None, way={"length_pinned": True})
    return (charger["id"], feed["id"])


@breaks("alternator-share", 2)
def alternator(van: Van) -> tuple[str, ...]:
    """A small alternator for a large charger."""
    alternator = van.any_part("alternator")
    alternator["rated_a"] = 50.0
    return (alternator["id"],)


def _link(van: Van) -> Doc:
    starter, bar = van.starter()["id"], van.any_part("busbar")["id"]
    link = van.add_part("i", "isolator", "Link", rated_a=150.0)
    near = {"distance_m": 0.1, "bracket": True, "tied": True}
    van.add_run(starter, {"part": link["id"], "terminal": "in"}, 1.5, fuse_at_start=dict(near), planned_a=60.0)
    van.add_run({"part": link["id"], "terminal": "out"}, bar, 1.5, fuse_at_finish=dict(near), planned_a=60.0)
    return link


@breaks("isolator-unlike", 2)
def unlike(van: Van) -> tuple[str, ...]:
    """A plain contact between lead and lithium."""
    if van.battery().get("chemistry", "lfp") == "lfp":
        return (_link(van)["id"],)
    link = van.any_part("isolator")
    van.battery()["chemistry"] = "lfp"
    return (link["id"],)


@breaks("isolator-sagging", 3)
def sagging(van: Van) -> tuple[str, ...]:
    """A plain link behind an alternator whose volts sag."""
    link = van.any_part("isolator")
    van.any_part("alternator")["regulation"] = "sagging"
    return (link["id"],)


@breaks("panel-voltage-over", 2)
def panel_over(van: Van) -> tuple[str, ...]:
    """Too many panels in series for the cold."""
    panel = van.any_part("panel")
    panel["series"] = 5
    charger = _charger(van, "sun")
    return (charger["id"], panel["id"])


@breaks("panel-voltage-low", 2, along=("charger-wire-drop",))
def panel_low(van: Van) -> tuple[str, ...]:
    """A panel that never reaches the battery's volts."""
    panel = van.any_part("panel")
    panel.update(mp_v=13.0, series=1, open_v=16.0)
    panel["power_w"] = round(13.0 * panel["short_a"] * 0.92, 0)
    return (_charger(van, "sun")["id"], panel["id"])


@breaks("panel-power-over", 1)
def panel_power(van: Van) -> tuple[str, ...]:
    """More panel than the controller uses."""
    charger = _charger(van, "sun")
    panels = sum(_watts(one) for one in van.doc["parts"] if one["kind"] == "panel")
    charger["pv_w"] = made_below(van, panels, WATTS)
    return (charger["id"],)


@breaks("panel-current-over", 2)
def panel_current(van: Van) -> tuple[str, ...]:
    """More current than the controller stands."""
    charger = _charger(van, "sun")
    panels = sum(one["short_a"] * one.get("strings", 1) for one in van.doc["parts"] if one["kind"] == "panel")
    charger["pv_a"] = made_below(van, panels)
    return (charger["id"],)


@breaks("panels-unlike", 2, along=("panel-strings-unfused", "fuse-missing"))
def panels_unlike(van: Van) -> tuple[str, ...]:
    """Two strings of unlike volts on one input."""
    panel, charger = van.any_part("panel"), _charger(van, "sun")
    charger.update(pv_a=80.0, pv_w=2400.0)
    other = dict(panel)
    other["id"], other["tag"] = van.free("v")
    other.update(
        name="Old panel", series=max(1, panel.get("series", 1) - 1) if panel.get("series", 1) > 1 else 2, strings=1
    )
    van.doc["parts"].append(other)
    made = van.add_run(other["id"], {"part": charger["id"], "terminal": "pv"}, 4.0)
    return (charger["id"], other["id"], made["id"])


@breaks("panel-strings-unfused", 3)
def strings_unfused(van: Van) -> tuple[str, ...]:
    """Three strings side by side without fuses."""
    panel, charger = van.any_part("panel"), _charger(van, "sun")
    panel["strings"] = 3
    charger.update(pv_a=80.0, pv_w=2400.0)
    return (charger["id"], panel["id"])


@breaks("panel-loose", 1, along=("charger-loose",))
def panel_loose(van: Van) -> tuple[str, ...]:
    """A panel that leads nowhere."""
    panel = van.any_part("panel")
    van.doc["runs"] = [one for one in van.doc["runs"] if one["start"]["part"] != panel["id"]]
    return (panel["id"], _charger(van, "sun")["id"])


@breaks("panel-uncontrolled", 1, along=("charger-loose", "step-unfused"))
def uncontrolled(van: Van) -> tuple[str, ...]:
    """A panel straight on the bars."""
    panel = van.any_part("panel")
    run = next(one for one in van.doc["runs"] if one["start"]["part"] == panel["id"])
    run["finish"] = {"part": van.any_part("busbar")["id"]}
    return (panel["id"], run["id"], _charger(van, "sun")["id"])
