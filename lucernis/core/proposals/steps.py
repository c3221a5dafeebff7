"""The steps of a proposal. Each looks at the plan as it stands, changes one thing, and says why; or has nothing to do.

Bars come before the bank, because a bank in series parts the pair that leaves its posts. Mends come last.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from lucernis.core.circuit.batteries import acceptance_a, house_batteries
from lucernis.core.circuit.sources import alternator_of
from lucernis.core.energy.bank_size import needed_ah
from lucernis.core.energy.climate import clear_climate, module_power_w
from lucernis.core.energy.usage import usage_of
from lucernis.core.evaluation.evaluate import evaluate, plan_rules
from lucernis.core.power.charging import alternator_spare_a
from lucernis.core.proposals.wishes import Wishes, last_unit, next_unit, units
from lucernis.core.report import Finding
from lucernis.core.sizing.choice import size_plan
from lucernis.errors import LucernisError
from lucernis.plan.document import check_plan, parse_plan, plan_document
from lucernis.plan.edits import apply_edits, next_id
from lucernis.plan.edits.operations import AddCharger, DeletePart, FeedPart, InsertPart, MakeBank, ShareFeeder
from lucernis.plan.model import Charger, FuseBlock, Load, Panel, Plan, Stop
from lucernis.practice.tables import load_table

Outcome = tuple[Plan, str]
Maker = Callable[[Plan, Wishes], Outcome | None]
# Leaning: how much is added to what the sums ask.
_ROOM = {"lean": 1.0, "middle": 1.15, "generous": 1.35}
_MOST_STRINGS = 4
# How far the main switch and the bars stand from the battery, and the bond from the bars. Common practice, no source.
_SWITCH_M, _BAR_M, _BOND_M = "0.4 m", "0.3 m", "0.6 m"
# What an inverter may give above what is plugged in, so that it does not run at its end.
_INVERTER_ROOM = 1.25
_SHORE_C = 0.15
# What arrives of panel power after controller and wires; the least share of a day that is left to the sun; how much of
# an alternator's spare current is taken. Common practice, no source.
_ROOF_TO_BANK = 0.9
_LEAST_SUN = 0.25
_OF_SPARE = 0.75


def daily_ah(plan: Plan) -> float:
    """Charge a day at the bank. [Ah]"""
    return usage_of(plan, size_plan(plan, plan_rules(plan))).ah


def _document(plan: Plan) -> dict[str, Any]:
    return plan_document(plan)


def _part(doc: dict[str, Any], part_id: str) -> dict[str, Any]:
    found: dict[str, Any] = next(one for one in doc["parts"] if one["id"] == part_id)
    return found


def set_volts(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Nominal voltage."""
    if plan.nominal_v == wishes.nominal_v:
        return None
    doc = _document(plan)
    doc["nominal_v"] = wishes.nominal_v
    for part in doc["parts"]:
        if part["kind"] == "battery" and part["use"] == "starter":
            part["rated_v"] = 12
        elif part["kind"] == "battery":
            part["rated_v"] = None
        if part["kind"] == "charger" and part["form"] == "dcdc":
            part["in_nominal_v"] = 12
        if part["kind"] == "load" and part["rated_v"] is None and part["current_a"] is not None:
            # Amps typed at the old volts stay the same watts.
            part["power_w"], part["current_a"] = part["current_a"] * plan.nominal_v, None
        if part["kind"] == "load":
            scale = wishes.nominal_v / plan.nominal_v
            for name in ("min_v", "rated_v"):
                if part[name] is not None:
                    part[name] = part[name] * scale
    return parse_plan(doc), (
        f"{wishes.nominal_v} V in place of {plan.nominal_v} V: half the current for the same watts at 24 V, so thinner "
        "wire; every device must be made for it."
    )


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
    needed = _ROOM[wishes.leaning] * needed_ah(
        ah, wishes.days, share_frac=float(row["usable"]), peukert=float(row["peukert"])
    )
    sized = size_plan(plan, plan_rules(plan))
    worst_a = max((result.source_a for result in sized.states.values()), default=0.0)
    best = None
    for unit in units(f"battery:{wishes.chemistry}"):
        limit_a = float(unit.fields["discharge_a"])  # type: ignore[arg-type]
        count = max(math.ceil(needed / unit.size - 1e-9), math.ceil(worst_a / limit_a - 1e-9), 1)
        if best is None or count < best[1] or (count == best[1] and unit.size < best[0].size):
            best = (unit, count)
    if best is None:
        return None
    unit, count = best[0], min(best[1], _MOST_STRINGS)
    doc = _document(plan)
    if house:
        battery = _part(doc, house[0].id)
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
    text = (
        f"{ah:.0f} Ah a day for {wishes.days:g} days, {100 * float(row['usable']):.0f} % used: {needed:.0f} Ah with "
        f"room for a {wishes.leaning} leaning. {_count(count)} {unit.size:g} Ah"
        + (f", {series} in series" if series > 1 else "")
        + f"; they give {count * float(unit.fields['discharge_a']):g} A lasting, {worst_a:.0f} A are asked."  # type: ignore[arg-type]
    )
    if best[1] > _MOST_STRINGS:
        text += (
            f" {best[1]} would be needed: more than {_MOST_STRINGS} strings share badly, so think of larger ones or of "
            "24 V."
        )
    return changed, text


def rate_inverter(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Ratings for inverters that have none."""
    doc, said = _document(plan), []
    for load in plan.parts:
        if not isinstance(load, Load) or load.device != "inverter" or load.inverter is not None or not load.power_w:
            continue
        unit = next_unit("inverter", load.power_w * _INVERTER_ROOM)
        part = _part(doc, load.id)
        part["inverter"] = dict(unit.fields)
        part["behaviour"], part["count"], part["rated_v"] = "constant_power", 1, None
        said.append(f"{load.name}: {unit.size:g} W for {load.power_w:g} W in use, so that it does not run at its end")
    return (parse_plan(doc), ". ".join(said) + ".") if said else None


def put_bars(plan: Plan, wishes: Wishes) -> Outcome | None:
    """An isolating switch behind the main fuse, and bars to branch from."""
    house = {one.id for one in house_batteries(plan)}
    mains = [
        run for run in plan.runs if run.start.part in house and run.legs == "both" and run.finish.part not in house
    ]
    has_switch = any(part.kind == "switch" and part.use == "isolator" for part in plan.parts)
    bars = {part.id for part in plan.parts if part.kind == "busbar"}
    if has_switch or (not mains and not bars):
        return None
    leaving = [run for run in plan.runs if run.start.part in bars and run.legs == "both"] or mains
    main = max(leaving, key=lambda run: run.length_m)
    switch = InsertPart(
        op="insert_part",
        run=main.id,
        part={"kind": "switch", "use": "isolator", "name": "Isolating switch", "rated_a": 300.0},
        near="start",
        length=_SWITCH_M if main.length_m > 1.2 else f"{main.length_m / 3:.2f} m",
    )
    after = apply_edits(plan, [switch])
    main = next(run for run in after.runs if run.id == main.id)
    after = apply_edits(
        after,
        [
            InsertPart(
                op="insert_part",
                run=main.id,
                part={"kind": "busbar", "name": "Main bars", "rated_a": 300.0, "studs": 8},
                near="start",
                length=_BAR_M if main.length_m > 0.8 else f"{main.length_m / 2:.2f} m",
            )
        ],
    )
    bar = after.parts[-1].id
    return _fused_at(_inverters_on(after, bar), bar), (
        "One switch that takes everything off the bank, and bars to branch from: one cable on each battery post. What "
        "charges and the large devices hang on the bars, blocks are fed from there."
    )


def _fused_at(plan: Plan, bar: str) -> Plan:
    """A fuse where each feeder leaves the bars: the main fuse is far too large for it."""
    doc = _document(plan)
    blocks = {part.id for part in plan.parts if isinstance(part, FuseBlock)}
    for run in doc["runs"]:
        if run["start"]["part"] == bar and run["finish"]["part"] in blocks and run["fuse_at_start"] is None:
            run["fuse_at_start"] = {"distance_m": min(0.1, run["length_m"])}
    return parse_plan(doc)


def _inverters_on(plan: Plan, bar: str) -> Plan:
    """Inverters hang on the bars by a run of their own, not on a way of a block."""
    doc = _document(plan)
    inverters = {part.id for part in plan.parts if isinstance(part, Load) and part.device == "inverter"}
    blocks = {part.id for part in plan.parts if isinstance(part, FuseBlock)}
    for run in doc["runs"]:
        if run["finish"]["part"] in inverters and run["start"]["part"] in blocks:
            run["start"] = {"part": bar, "way": None, "terminal": None}
            run["fuse_at_start"] = {"distance_m": min(0.1, run["length_m"])}
            if run["length_as_typed"] is None and not run["length_confirmed"]:
                run["length_m"] = min(run["length_m"], 1.5)
    return parse_plan(doc)


def _tidy_block(plan: Plan, block_id: str) -> Plan:
    """Ways without gaps, and no more of them than a block of usual size for what is left has; none left, no block."""
    doc = _document(plan)
    own = [run for run in doc["runs"] if run["start"]["part"] == block_id]
    if not own:
        return apply_edits(plan, [DeletePart(op="delete_part", part=block_id)])
    for way, run in enumerate(sorted(own, key=lambda one: one["start"]["way"]), start=1):
        run["start"]["way"] = way
    _part(doc, block_id)["ways"] = max(4, 2 * math.ceil((len(own) + 1) / 2))
    return parse_plan(doc)


def blocks_near_loads(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A block in every place with several loads that one far block feeds."""
    parts = {part.id: part for part in plan.parts}
    groups: dict[tuple[str, str], list[str]] = {}
    lengths: dict[str, float] = {}
    for run in plan.runs:
        block, end = parts[run.start.part], parts[run.finish.part]
        if isinstance(block, FuseBlock) and isinstance(end, Load) and end.place not in (None, block.place):
            groups.setdefault((block.id, end.place or ""), []).append(end.id)
            lengths[end.id] = run.length_m
    names = {place.id: place.name for place in plan.places}
    said, changed = [], plan
    sources: set[str] = set()
    for (source, place), loads in groups.items():
        if len(loads) < 2:
            continue
        nearest = min(lengths[one] for one in loads)
        branch = max(0.6, sum(lengths[one] - nearest for one in loads) / len(loads) + 0.6)
        edit = ShareFeeder(
            op="share_feeder",
            parts=loads,
            name=f"{names[place]} block",
            length=f"{max(0.5, nearest - 0.5):.2f} m",
            branch_length=f"{branch:.2f} m",
            place=place,
        )
        changed = apply_edits(changed, [edit])
        said.append(f"{names[place]} ({len(loads)} loads)")
        sources.add(source)
        bar = _bar(changed)
        if bar is not None and parts.get(bar) is not None and parts[bar].kind == "busbar":
            doc = _document(changed)
            feeder = next(run for run in doc["runs"] if run["finish"]["part"] == changed.parts[-1].id)
            feeder["start"] = {"part": bar, "way": None, "terminal": None}
            feeder["fuse_at_start"] = {"distance_m": min(0.1, feeder["length_m"])}
            changed = parse_plan(doc)
    if not said:
        return None
    for source in sources:
        changed = _tidy_block(changed, source)
    return changed, (
        "The long run is the fat one and the thin ones are short: a block of its own for " + ", ".join(said) + "."
    )


def _bar(plan: Plan) -> str | None:
    """Where chargers give to: bars, else the first house battery."""
    joined = {run.start.part for run in plan.runs if run.legs == "both"}
    mains = [part.id for part in plan.parts if part.kind == "busbar" and part.bars == "both"]
    fed_last = [one for one in mains if one in joined]
    house = house_batteries(plan)
    return fed_last[-1] if fed_last else (house[0].id if house else None)


def _give_fields(unit_fields: dict[str, object], plan: Plan, form: str) -> dict[str, object]:
    chemistry = house_batteries(plan)[0].chemistry
    return {"kind": "charger", "form": form, "chemistry": chemistry, **unit_fields}


def _without_unlike_links(plan: Plan) -> tuple[Plan, bool]:
    """The plan without contacts that join lithium to lead; whether there were any."""
    batteries = [part for part in plan.parts if part.kind == "battery"]
    gone = {part.id for part in plan.parts if part.kind == "isolator"}
    if not gone or len({part.chemistry == "lfp" for part in batteries}) < 2:
        return plan, False
    doc = _document(plan)
    doc["parts"] = [one for one in doc["parts"] if one["id"] not in gone]
    doc["runs"] = [one for one in doc["runs"] if not gone & {one["start"]["part"], one["finish"]["part"]}]
    return parse_plan(doc), True


def link_engine(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Charging while driving: DC-DC for lithium and where the alternator sags, else a voltage-sensing link."""
    plan, parted = _without_unlike_links(plan)
    target = _bar(plan)
    linked = any(part.kind == "isolator" or (isinstance(part, Charger) and part.form == "dcdc") for part in plan.parts)
    if target is None or linked or wishes.drive_hours <= 0:
        return None
    doc = _document(plan)
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
        doc = _document(plan)
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
    fields = _give_fields(unit.fields, plan, "dcdc") | {"name": "DC-DC charger", "sense": "wired"}
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


def put_sun(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Panels for what driving does not bring, within one controller."""
    target = _bar(plan)
    if target is None or not wishes.sun or any(isinstance(part, Panel) for part in plan.parts):
        return None
    energy = plan.energy
    assumed = not energy.stops
    if assumed:
        energy = energy.model_copy(
            update={"stops": (Stop(name="45° north", latitude_deg=45.0, longitude_deg=0.0, days=7),)}
        )
    one_watt = Panel(id="x", name="x", tag="X", power_w=100.0, mp_v=18.0, open_v=22.0, short_a=6.0)
    climate = clear_climate(energy, 7, 1.0)
    wh_per_w = float(module_power_w([one_watt], climate).sum()) / 7 / 100.0 * energy.fair_frac * _ROOF_TO_BANK
    driven_a = sum(part.out_a for part in plan.parts if isinstance(part, Charger) and part.form == "dcdc")
    if any(part.kind == "isolator" for part in plan.parts):
        driven_a += min(acceptance_a(plan) or 0.0, alternator_spare_a(plan) or 0.0)
    driven_wh = driven_a * plan.nominal_v * wishes.drive_hours
    missing_wh = max(_LEAST_SUN * daily_ah(plan) * plan.nominal_v, daily_ah(plan) * plan.nominal_v - driven_wh)
    if wh_per_w <= 0.05:
        return None
    wanted_w = _ROOM[wishes.leaning] * missing_wh / wh_per_w
    panel = next_unit("panel", min(wanted_w / 2, 180.0))
    series = max(1, math.ceil(1.5 * plan.nominal_v / float(panel.fields["mp_v"])))  # type: ignore[arg-type]
    strings = min(2, max(1, math.ceil(wanted_w / (panel.size * series) - 1e-9)))
    power_w = panel.size * series * strings
    charger = next_unit("charger:sun", power_w / (1.1 * plan.nominal_v))
    charger_fields = _give_fields(charger.fields, plan, "sun") | {"name": "Sun charger", "pv_w": max(power_w, 100.0)}
    edit = AddCharger(
        op="add_charger",
        part=charger_fields,
        gives_to=target,
        give_length="0.8 m",
        panel={"kind": "panel", "name": "Roof panels", **panel.fields, "series": series, "strings": strings},
        panel_length=f"{wishes.roof_length_m:g} m",
    )
    where = "no stop is named, so 45° north is taken" if assumed else f"at {energy.stops[0].name}"
    return apply_edits(plan, [edit]), (
        f"{missing_wh:.0f} Wh a day are left to the sun; a flat watt brings {wh_per_w:.1f} Wh in a fair week of month "
        f"{energy.month} ({where}): {wanted_w:.0f} W wanted, {series} × {panel.size:g} W in series"
        + (f", {strings} such strings" if strings > 1 else "")
        + (". The roof may hold more: what is missing comes from driving and shore." if power_w < wanted_w else ".")
    )


def put_shore(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A shore charger within the bank's charge limit."""
    target = _bar(plan)
    if target is None or not wishes.shore or any(isinstance(p, Charger) and p.form == "shore" for p in plan.parts):
        return None
    capacity = sum(one.capacity_ah for one in house_batteries(plan)) / max(1, plan.nominal_v // 12)
    limit_a = sum(one.charge_a or math.inf for one in house_batteries(plan)) / max(1, plan.nominal_v // 12)
    others_a = sum(part.out_a for part in plan.parts if isinstance(part, Charger))
    unit = last_unit("charger:shore", min(_SHORE_C * capacity, max(10.0, limit_a - others_a)))
    fields = _give_fields(unit.fields, plan, "shore") | {"name": "Shore charger"}
    edit = AddCharger(op="add_charger", part=fields, gives_to=target, give_length="0.8 m")
    return apply_edits(plan, [edit]), (
        f"{unit.size:g} A fill {capacity:.0f} Ah in a night and stay within what the bank takes. Its mains side is "
        "for a licensed person."
    )


def put_ground(plan: Plan, wishes: Wishes) -> Outcome | None:
    """One bond to the body, where there is metal to bond to."""
    target = _bar(plan)
    bonded = any(part.kind == "chassis_point" for part in plan.parts)
    if target is None or bonded or plan.job.vehicle.body not in ("steel", "aluminium"):
        return None
    edit = FeedPart(
        op="feed_part",
        part={"kind": "chassis_point", "name": "Body bond"},
        fed_from=target,
        length=_BOND_M,
        legs="negative",
    )
    return apply_edits(plan, [edit]), (
        "One bond from the negative bar to clean bare metal, as thick as the largest positive: a wire that touches the "
        "body then blows its fuse."
    )


def _open(plan: Plan) -> list[Finding]:
    return [one for one in evaluate(plan, with_working=False).findings if one.waived is None and one.severity != "look"]


def mend(plan: Plan, wishes: Wishes) -> Outcome | None:
    """What the checks still stop or want fixed and an edit mends."""
    said: list[str] = []
    left = _open(plan)
    # Each round tries one kind of mend for every finding it would help; a round that helps nobody tries the next one.
    for choice in (0, 0, 1, 0, 2):
        mended = plan
        labels = []
        for one in left:
            if len(one.fixes) > choice:
                try:
                    mended = apply_edits(mended, one.fixes[choice].edits)
                    labels.append(one.fixes[choice].label)
                except LucernisError:
                    # An earlier mend of this round has taken away what this one would change.
                    continue
        if not labels:
            continue
        after = _open(mended)
        if len(after) < len(left):
            plan, left = mended, after
            said += labels
        if not left:
            break
    if not said:
        return None
    return check_plan(plan), "What the checks found in all this, mended: " + "; ".join(dict.fromkeys(said)) + "."


def lay_out_day(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A course of the day with its driving, and a place under the sun, where the plan names none."""
    energy = plan.energy
    charges = any(isinstance(part, Charger) or part.kind == "isolator" for part in plan.parts)
    if not charges or (energy.day and energy.stops):
        return None
    doc, said = _document(plan), []
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


STEPS: dict[str, tuple[str, Maker]] = {
    "volts": ("Nominal voltage", set_volts),
    "inverter": ("Inverter", rate_inverter),
    "bars": ("Main switch and bars", put_bars),
    "bank": ("Bank", make_bank),
    "blocks": ("Blocks near the loads", blocks_near_loads),
    "link": ("Charging while driving", link_engine),
    "sun": ("Sun", put_sun),
    "shore": ("Shore", put_shore),
    "ground": ("Ground", put_ground),
    "day": ("Course of the day", lay_out_day),
    "mends": ("Wire, fuses and mends", mend),
}
